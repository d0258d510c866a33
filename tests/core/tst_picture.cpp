// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Av.h"
#include "media/Frame.h"
#include "picture/Composer.h"
#include "picture/PlanarFrame.h"
#include "picture/Straightener.h"
#include "render/PictureFile.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"

#include <QPoint>
#include <QTemporaryDir>
#include <QTest>
#include <QtMath>
#include <random>

using namespace tromb;
using test::Yuv;

class TestPicture : public QObject {
  Q_OBJECT

  static Frame composed(const Frame& source, const PictureShape& shape, Size canvas, const Framing& framing) {
    auto made = Composer(shape, canvas, {}).compose(source, place(shape, canvas, framing));
    if (!made) qFatal("%s", sentence(made.error()).c_str());
    return *made;
  }
  static Framing named(const char* name) {
    Framing framing;
    (void)framingByName(name, framing);
    return framing;
  }

private slots:
  // A ramp read half a pixel further gives the half values: the window is fractional down to the scaler.
  void aRampShiftedByHalfAPixelGivesTheHalfValue() {
    const Frame ramp = test::painted({256, 64}, 0, [](int, int x, int) { return Yuv{16 + x / 2 * 2 % 220, 128, 128}; });
    const Frame steps = test::painted({256, 64}, 0, [](int, int x, int) {
      return Yuv{std::min(235, 20 + x * 2 % 512), 128, 128};
    });
    auto scaler = Scaler::build(steps, {10.5, 0, 64, 64}, {64, 64}, CanvasFormat());
    QVERIFY(scaler.has_value());
    const Frame shifted = *scaler->run(steps);
    for (int x = 4; x < 60; ++x) {
      const double wanted = (test::lumaAt(steps, x + 10, 30) + test::lumaAt(steps, x + 11, 30)) / 2.0;
      QVERIFY2(std::abs(test::lumaAt(shifted, x, 30) - wanted) <= 0.5 + 1e-9, qPrintable(QString::number(x)));
    }
    auto whole = Scaler::build(ramp, {16, 8, 64, 32}, {64, 32}, CanvasFormat());
    const Frame cut = *whole->run(ramp);
    for (int x = 0; x < 64; ++x) QCOMPARE(test::lumaAt(cut, x, 9), test::lumaAt(ramp, x + 16, 17));
  }

  // Rec. ITU-R BT.709 and BT.601 colour bars, 8 bit, limited range.
  void matrixAndRange_data() {
    QTest::addColumn<Yuv>("coded");
    QTest::addColumn<bool>("sd");
    QTest::addColumn<QList<int>>("shown");
    QTest::newRow("709 red") << Yuv{63, 102, 240} << false << QList<int>{255, 0, 0};
    QTest::newRow("709 75 % green") << Yuv{133, 63, 52} << false << QList<int>{0, 191, 0};
    QTest::newRow("709 blue") << Yuv{32, 240, 118} << false << QList<int>{0, 0, 255};
    QTest::newRow("709 75 % yellow") << Yuv{168, 44, 136} << false << QList<int>{191, 191, 0};
    QTest::newRow("grey") << Yuv{126, 128, 128} << false << QList<int>{128, 128, 128};
    QTest::newRow("unlabelled SD red is 601") << Yuv{81, 90, 240} << true << QList<int>{255, 0, 0};
    QTest::newRow("unlabelled SD cyan is 601") << Yuv{170, 166, 16} << true << QList<int>{0, 255, 255};
  }
  void matrixAndRange() {
    QFETCH(Yuv, coded);
    QFETCH(bool, sd);
    QFETCH(QList<int>, shown);
    const Size size = sd ? Size{720, 576} : Size{1280, 720};
    const auto frame = std::const_pointer_cast<AVFrame>(test::painted(size, 0, [&](int, int, int) { return coded; }));
    frame->colorspace = AVCOL_SPC_UNSPECIFIED;
    frame->color_primaries = AVCOL_PRI_UNSPECIFIED;
    frame->color_trc = AVCOL_TRC_UNSPECIFIED;
    const auto screen = toScreen(frame, {64, 64});
    QVERIFY(screen.has_value());
    const uint8_t* p = screen->bytes.data() + size_t(screen->size.width * (screen->size.height / 2) + 20) * 4;
    for (int channel = 0; channel < 3; ++channel) {
      const int wanted = shown[2 - channel]; // bytes are blue, green, red
      QVERIFY2(std::abs(p[channel] - wanted) <= 2,
               qPrintable(QStringLiteral("%1 %2 %3").arg(p[2]).arg(p[1]).arg(p[0])));
    }
  }

  // Where the samples of chroma lie is told by the file (ITU-T H.264 Figure E-1); ours are delivered beside the left
  // luma sample. A vertical edge in chroma at x = 160 then moves by nothing for types 0 and 2, and by half a luma
  // sample for those that lie between two; a horizontal one at y = 90 likewise.
  void chromaLiesWhereItIsLabelled_data() {
    QTest::addColumn<int>("location");
    QTest::addColumn<double>("right");
    QTest::addColumn<double>("down");
    QTest::newRow("left") << int(AVCHROMA_LOC_LEFT) << 0.0 << 0.0;
    QTest::newRow("unlabelled") << int(AVCHROMA_LOC_UNSPECIFIED) << 0.0 << 0.0;
    QTest::newRow("centre") << int(AVCHROMA_LOC_CENTER) << 0.5 << 0.0;
    QTest::newRow("top left") << int(AVCHROMA_LOC_TOPLEFT) << 0.0 << -0.5;
    QTest::newRow("top") << int(AVCHROMA_LOC_TOP) << 0.5 << -0.5;
    QTest::newRow("bottom left") << int(AVCHROMA_LOC_BOTTOMLEFT) << 0.0 << 0.5;
    QTest::newRow("bottom") << int(AVCHROMA_LOC_BOTTOM) << 0.5 << 0.5;
  }
  void chromaLiesWhereItIsLabelled() {
    QFETCH(int, location);
    QFETCH(double, right);
    QFETCH(double, down);
    // Ramps, so that a shift is a difference of level: U goes up by 1 every luma column, V by 2 every line.
    const auto frame = std::const_pointer_cast<AVFrame>(test::painted({128, 72}, 0, [](int, int x, int y) {
      return Yuv{120, 60 + x, 60 + 2 * y};
    }));
    frame->chroma_location = AVChromaLocation(location);
    const PictureShape shape({128, 72}, Rational(1), 0);
    const Frame out = composed(frame, shape, {640, 360}, Framing{}); // so that levels between two are met evenly
    double u = 0;
    double v = 0;
    int count = 0;
    for (int y = 100; y < 260; y += 2)
      for (int x = 200; x < 440; x += 2) {
        const Yuv seen = test::yuvAt(out, x, y);
        // A delivered sample lies on the middle of luma column x, and between lines y and y + 1.
        const double column = (x + 0.5) / 5 - 0.5;
        const double line = (y + 1.0) / 5 - 0.5;
        u += seen.u - (60 + column);
        v += seen.v - (60 + 2 * (line - 0.5)); // and those that were written left lie so, too
        ++count;
      }
    // A sample that really lies further right shows there what was written for its place on the left: less.
    QVERIFY2(std::abs(u / count + right) < 0.15, qPrintable(QString::number(u / count)));
    QVERIFY2(std::abs(v / count + 2 * down) < 0.15, qPrintable(QString::number(v / count)));
  }

  // HLG's system gamma goes by luminance, so that colours keep their hue (Rec. ITU-R BT.2100-2, Tables 5 and 4: OETF,
  // OOTF with gamma 1.2 at 1000 cd/m2; BT.2087: to BT.709 primaries; BT.1886: a display's gamma; 203 cd/m2 is white,
  // BT.2408).
  void hlgColoursKeepTheirHue_data() {
    QTest::addColumn<QList<double>>("signal"); // R', G', B'
    QTest::newRow("grey") << QList<double>{0.5, 0.5, 0.5};
    QTest::newRow("skin") << QList<double>{0.6, 0.5, 0.44};
    QTest::newRow("leaf") << QList<double>{0.42, 0.55, 0.36};
    QTest::newRow("sky") << QList<double>{0.45, 0.55, 0.66};
  }
  void hlgColoursKeepTheirHue() {
    QFETCH(const QList<double>, signal);
    const auto frame = newFrame({64, 64}, AV_PIX_FMT_YUV420P10LE);
    frame->colorspace = AVCOL_SPC_BT2020_NCL;
    frame->color_primaries = AVCOL_PRI_BT2020;
    frame->color_trc = AVCOL_TRC_ARIB_STD_B67;
    frame->color_range = AVCOL_RANGE_MPEG;
    const double luma = 0.2627 * signal[0] + 0.6780 * signal[1] + 0.0593 * signal[2];
    const double coded[] = {64 + 876 * luma, 512 + 896 * (signal[2] - luma) / 1.8814,
                            512 + 896 * (signal[0] - luma) / 1.4746};
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < (p ? 32 : 64); ++y)
        for (int x = 0; x < (p ? 32 : 64); ++x)
          reinterpret_cast<uint16_t*>(frame->data[p] + ptrdiff_t(y) * frame->linesize[p])[x] =
              uint16_t(std::lround(coded[p]));
    const auto screen = toScreen(frame, {32, 32});
    QVERIFY(screen.has_value());
    double scene[3];
    for (int c = 0; c < 3; ++c)
      scene[c] = signal[c] <= 0.5 ? signal[c] * signal[c] / 3
                                  : (std::exp((signal[c] - 0.55991073) / 0.17883277) + 0.28466892) / 12;
    const double gain = 1000 / 203.0 * std::pow(0.2627 * scene[0] + 0.6780 * scene[1] + 0.0593 * scene[2], 0.2);
    const double to709[3][3] = {{1.6605, -0.5876, -0.0728}, {-0.1246, 1.1329, -0.0083}, {-0.0182, -0.1006, 1.1187}};
    const uint8_t* seen = screen->bytes.data() + size_t(screen->size.width) * 4 * 16 + 64;
    for (int c = 0; c < 3; ++c) {
      double light = 0;
      for (int from = 0; from < 3; ++from) light += to709[c][from] * scene[from] * gain;
      const double wanted = 255 * std::pow(std::clamp(light, 0.0, 1.0), 1 / 2.4);
      QVERIFY2(std::abs(seen[2 - c] - wanted) < 4,
               qPrintable(QStringLiteral("%1: %2, not %3").arg(c).arg(seen[2 - c]).arg(wanted)));
    }
  }

  // Pictures of odd sizes: what is cut off is a line at most.
  void oddSizesAreRead() {
    for (const Size size : {Size{321, 181}, Size{319, 180}, Size{17, 33}}) {
      const Frame odd = test::painted(size, 0, [](int, int x, int) { return Yuv{60 + x % 100, 100, 140}; });
      const PictureShape shape(size, Rational(1), 0);
      const Frame out = composed(odd, shape, {64, 36}, Framing{});
      QVERIFY(std::abs(test::yuvAt(out, 32, 18).u - 100) <= 1);
      QVERIFY(test::lumaAt(out, 60, 18) > 55);
    }
  }

  // A marker in the stored top-left corner ends where the turn puts it (ISO/IEC 14496-12, display matrix).
  void turnedPicturesStandUpright_data() {
    QTest::addColumn<int>("rotation");
    QTest::addColumn<int>("turn");
    QTest::addColumn<bool>("mirrored");
    QTest::addColumn<QPoint>("corner");
    QTest::newRow("0") << 0 << 0 << false << QPoint(0, 0);
    QTest::newRow("90") << 90 << 0 << false << QPoint(1, 0);
    QTest::newRow("180") << 180 << 0 << false << QPoint(1, 1);
    QTest::newRow("270") << 270 << 0 << false << QPoint(0, 1);
    QTest::newRow("turned by hand") << 0 << 90 << false << QPoint(1, 0);
    QTest::newRow("turned by hand, too") << 180 << 270 << false << QPoint(1, 0);
    QTest::newRow("mirrored") << 0 << 0 << true << QPoint(1, 0);
    QTest::newRow("turned and mirrored") << 90 << 180 << true << QPoint(1, 1);
  }
  void turnedPicturesStandUpright() {
    QFETCH(int, rotation);
    QFETCH(int, turn);
    QFETCH(bool, mirrored);
    QFETCH(QPoint, corner);
    const Frame source = test::painted({320, 180}, 0, [](int, int x, int y) {
      return x < 60 && y < 60 ? Yuv{200, 60, 200} : Yuv{60, 128, 128};
    });
    const PictureShape shape({320, 180}, Rational(1), rotation, {}, {turn, mirrored, 0});
    const Size canvas = (rotation + turn) % 180 == 0 ? Size{320, 180} : Size{180, 320};
    const Frame upright = composed(source, shape, canvas, Framing{});
    for (int cx = 0; cx < 2; ++cx)
      for (int cy = 0; cy < 2; ++cy) {
        const Yuv seen = test::yuvAt(upright, cx ? canvas.width - 21 : 20, cy ? canvas.height - 21 : 20);
        const bool marked = QPoint(cx, cy) == corner;
        QVERIFY(std::abs(seen.y - (marked ? 200 : 60)) <= 2);
        QVERIFY(std::abs(seen.u - (marked ? 60 : 128)) <= 2);
      }
  }

  // A property over chance: a picture that was stored turned or mirrored, in any layout and window, is drawn as the one
  // that was stored upright. Where its pixels lie is written out by hand.
  void storedEitherWayItLooksTheSame() {
    std::mt19937 dice(43);
    const auto upTo = [&](int n) { return int(dice() % unsigned(n)); };
    const auto picture = [](int x, int y) {
      return Yuv{int(120 + 50 * std::sin(x * 0.06) * std::cos(y * 0.05) + 20 * std::sin(x * 0.02 + y * 0.03)),
                 int(128 + 20 * std::sin(x * 0.03)), int(128 + 20 * std::cos(y * 0.025))};
    };
    const char* const kNames[] = {"fill", "fit", "stack2", "side3", "backdrop"};
    for (int round = 0; round < 24; ++round) {
      const int rotation = 90 * upTo(4);
      const Orientation orientation{90 * upTo(4), upTo(2) == 1, 0};
      const int turn = (rotation + orientation.turn) % 360;
      const Size upright{2 * (120 + upTo(100)), 2 * (90 + upTo(100))};
      const Size stored = turn % 180 == 0 ? upright : Size{upright.height, upright.width};
      const auto place = [&](int sx, int sy) {
        int x = turn == 0 ? sx : turn == 90 ? stored.height - 1 - sy : turn == 180 ? stored.width - 1 - sx : sy;
        const int y = turn == 0 ? sy : turn == 90 ? sx : turn == 180 ? stored.height - 1 - sy : stored.width - 1 - sx;
        if (orientation.mirrored) x = upright.width - 1 - x;
        return QPoint(x, y);
      };
      const Frame lying = test::painted(stored, 0, [&](int, int x, int y) {
        const QPoint at = place(x, y);
        return picture(at.x(), at.y());
      });
      const Frame standing = test::painted(upright, 0, [&](int, int x, int y) { return picture(x, y); });
      Framing framing = named(kNames[upTo(5)]);
      framing.ground = Ground(upTo(3));
      framing.gap = 0.02 * upTo(3);
      framing.colour = {90, 30, 160};
      for (Window& window : framing.windows) {
        window.follows = false;
        window.x = upTo(100) / 100.0;
        window.y = upTo(100) / 100.0;
        window.zoom = framing.layout == Layout::Backdrop ? 1 : 1 + upTo(30) / 20.0;
      }
      const Size canvas{2 * (60 + upTo(80)), 2 * (60 + upTo(80))};
      const Frame a = composed(lying, PictureShape(stored, Rational(1), rotation, {}, orientation), canvas, framing);
      const Frame b = composed(standing, PictureShape(upright, Rational(1), 0), canvas, framing);
      double luma = 0;
      int worst = 0;
      for (int y = 0; y < canvas.height; ++y)
        for (int x = 0; x < canvas.width; ++x) {
          const int off = std::abs(test::lumaAt(a, x, y) - test::lumaAt(b, x, y));
          luma += off;
          worst = std::max(worst, off);
        }
      QVERIFY2(luma / (canvas.width * canvas.height) < 0.6,
               qPrintable(QStringLiteral("round %1, turned %2%3, %4: mean %5, worst %6")
                              .arg(round)
                              .arg(turn)
                              .arg(orientation.mirrored ? QStringLiteral(" mirrored") : QString())
                              .arg(int(framing.layout))
                              .arg(luma / (canvas.width * canvas.height))
                              .arg(worst)));
      QVERIFY2(worst <= 4, qPrintable(QStringLiteral("round %1, turned %2%3, %4: mean %5, worst %6")
                                          .arg(round)
                                          .arg(turn)
                                          .arg(orientation.mirrored ? QStringLiteral(" mirrored") : QString())
                                          .arg(int(framing.layout))
                                          .arg(luma / (canvas.width * canvas.height))
                                          .arg(worst)));
    }
  }

  // Straightened pictures against ImageMagick's distort by the same angle and scale, and no corner that shows what lies
  // outside: bars here, that would darken it.
  void straightenedPicturesHaveNoEmptyCorner_data() {
    QTest::addColumn<double>("degrees");
    QTest::addColumn<bool>("mirrored");
    QTest::newRow("a little") << 0.4 << false;
    QTest::newRow("clockwise") << 7.5 << false;
    QTest::newRow("anticlockwise") << -15.0 << false;
    QTest::newRow("mirrored") << 4.0 << true;
  }
  void straightenedPicturesHaveNoEmptyCorner() {
    QFETCH(double, degrees);
    QFETCH(bool, mirrored);
    constexpr Size kSize{1280, 720};
    // The corners of the picture, turned back and made smaller, lie within it, and one lies on its edge.
    const double zoom = straightenZoom({1280, 720}, degrees);
    const double angle = qDegreesToRadians(degrees);
    double farthest = 0;
    for (const auto& [x, y] : {std::pair(640.0, 360.0), {640.0, -360.0}})
      farthest = std::max({farthest, std::abs(x * std::cos(angle) + y * std::sin(angle)) / zoom / 640,
                           std::abs(y * std::cos(angle) - x * std::sin(angle)) / zoom / 360});
    QVERIFY(std::abs(farthest - 1) < 1e-9);

    QTemporaryDir folder;
    const auto at = [&](const char* name) { return folder.filePath(QLatin1String(name)); };
    const Frame source = test::painted(kSize, 0, [](int, int x, int y) { return test::texture(0, x, y); });
    QVERIFY(writePicture(source, at("source.png").toStdString(), PictureKind::Png, true).has_value());
    const PictureShape shape(kSize, Rational(1), 0, {}, {0, mirrored, degrees});
    const Frame level = *Straightener(shape).run(source);
    QVERIFY(writePicture(composed(level, shape, kSize, Framing{}), at("ours.png").toStdString(), PictureKind::Png, true)
                .has_value());
    QStringList theirs{at("source.png"), "-virtual-pixel", "edge", "-filter", "Lanczos"};
    if (mirrored) theirs << "-flop";
    theirs << "-distort"
           << "SRT" << QStringLiteral("640,360 %1 %2").arg(zoom, 0, 'f', 8).arg(degrees) << at("theirs.png");
    (void)test::run(QStringLiteral("/usr/bin/convert-im6.q16"), theirs);
    const QString words = test::run(
        QStringLiteral("ffmpeg"), {"-i", at("ours.png"), "-i", at("theirs.png"), "-lavfi", "ssim", "-f", "null", "-"});
    const double ssim = words.mid(words.lastIndexOf(QLatin1String("All:")) + 4).section(' ', 0, 0).toDouble();
    QVERIFY2(ssim >= 0.98, qPrintable(words.right(200)));

    const Bars bars{60, 90, 20, 50};
    const Frame barred = test::painted(kSize, 0, [&](int, int x, int y) {
      return x < bars.left || y < bars.top || x >= kSize.width - bars.right || y >= kSize.height - bars.bottom
                 ? Yuv{16, 128, 128}
                 : Yuv{180, 110, 150};
    });
    const PictureShape between(kSize, Rational(1), 0, bars, {0, mirrored, degrees});
    const Frame filled = composed(*Straightener(between).run(barred), between, {1080, 1080}, named("fill"));
    for (int y = 0; y < 1080; ++y)
      for (int x = 0; x < 1080; ++x)
        if (std::abs(test::lumaAt(filled, x, y) - 180) > 2)
          QFAIL(qPrintable(QStringLiteral("%1,%2: %3").arg(x).arg(y).arg(test::lumaAt(filled, x, y))));
  }

  void layoutsPutPixelsWhereThePlanSays() {
    const Frame source = test::painted({1920, 1080}, 0, [](int, int x, int) {
      return Yuv{x < 960 ? 80 : 180, 128, 128};
    });
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    const Size canvas{540, 960};
    const Frame fit = composed(source, shape, canvas, named("fit"));
    QCOMPARE(test::lumaAt(fit, 270, 100), 16); // bars are black
    QCOMPARE(test::lumaAt(fit, 100, 480), 80);
    QCOMPARE(test::lumaAt(fit, 440, 480), 180);
    const PixelRect at = place(shape, canvas, named("fit")).front().canvas;
    QVERIFY(test::lumaAt(fit, 100, at.y) == 80);
    QVERIFY(test::lumaAt(fit, 100, at.y - 1) == 16);
    const Frame stacked = composed(source, shape, canvas, named("stack2"));
    QVERIFY(test::lumaAt(stacked, 40, 200) == 80);
    QVERIFY(test::lumaAt(stacked, 500, 800) == 180);
    const Frame backdrop = composed(source, shape, canvas, named("backdrop"));
    QCOMPARE(test::lumaAt(backdrop, 100, 480), 80);
    const int dimmed = test::lumaAt(backdrop, 20, 100);
    QVERIFY2(dimmed > 30, qPrintable(QString::number(dimmed)));
    QVERIFY2(dimmed < 70, qPrintable(QString::number(dimmed)));
  }

  // The same fractional window resampled by an independent program: SSIM as FFmpeg's filter counts it.
  void agreesWithAnIndependentScaler() {
    QTemporaryDir folder;
    const auto at = [&](const char* name) { return folder.filePath(QLatin1String(name)); };
    const Frame source = test::painted({1920, 1080}, 0, [](int, int x, int y) { return test::texture(0, x, y); });
    QVERIFY(writePicture(source, at("source.png").toStdString(), PictureKind::Png, true).has_value());
    Framing framing;
    framing.windows.front().x = 0.413;
    const PictureShape shape({1920, 1080}, Rational(1), 0);
    const auto placements = place(shape, {1080, 1920}, framing);
    QVERIFY(writePicture(composed(source, shape, {1080, 1920}, framing), at("ours.png").toStdString(), PictureKind::Png,
                         true)
                .has_value());
    // ImageMagick's distort takes the window's fractional corner and scale.
    const RectF& w = placements.front().window;
    (void)test::run(QStringLiteral("/usr/bin/convert-im6.q16"),
                    {at("source.png"), "-virtual-pixel", "mirror", "-filter", "Lanczos", "-define",
                     "distort:viewport=1080x1920+0+0", "-distort", "SRT",
                     QStringLiteral("%1,0 %2 0 0,0").arg(w.x, 0, 'f', 6).arg(1080 / w.width, 0, 'f', 8), "+repage",
                     at("theirs.png")});
    const QString words = test::run(
        QStringLiteral("ffmpeg"), {"-i", at("ours.png"), "-i", at("theirs.png"), "-lavfi", "ssim", "-f", "null", "-"});
    const double ssim = words.mid(words.lastIndexOf(QLatin1String("All:")) + 4).section(' ', 0, 0).toDouble();
    QVERIFY2(ssim >= 0.98, qPrintable(words.right(200)));
  }

  void unusualPixelFormatsAreRead_data() {
    QTest::addColumn<int>("format");
    for (const AVPixelFormat format : {AV_PIX_FMT_NV12, AV_PIX_FMT_YUYV422, AV_PIX_FMT_YUV422P10LE, AV_PIX_FMT_P010LE,
                                       AV_PIX_FMT_RGB24, AV_PIX_FMT_GBRP, AV_PIX_FMT_RGBA, AV_PIX_FMT_GRAY8,
                                       AV_PIX_FMT_YUVA420P, AV_PIX_FMT_YUV410P, AV_PIX_FMT_BGR48BE})
      QTest::newRow(av_get_pix_fmt_name(format)) << int(format);
  }
  void unusualPixelFormatsAreRead() {
    QFETCH(int, format);
    const auto frame = newFrame({320, 192}, format);
    // Mid grey in whatever the format is, by FFmpeg's own conversion from grey.
    const Frame grey = test::painted({320, 192}, 0, [](int, int, int) { return Yuv{126, 128, 128}; });
    const av::Handle<SwsContext> sws(sws_getContext(320, 192, AV_PIX_FMT_YUV420P, 320, 192, AVPixelFormat(format),
                                                    SWS_POINT, nullptr, nullptr, nullptr));
    sws_scale(sws.get(), grey->data, grey->linesize, 0, 192, frame->data, frame->linesize);
    const PictureShape shape({320, 192}, Rational(1), 0);
    const Frame out = composed(frame, shape, {108, 192}, Framing{});
    QVERIFY2(std::abs(test::lumaAt(out, 50, 90) - 126) <= 3, qPrintable(QString::number(test::lumaAt(out, 50, 90))));
  }
  void windowsOutsideThePictureAreRefused() {
    const Frame source = test::painted({64, 64}, 0, [](int, int, int) { return Yuv{}; });
    for (const RectF& region : {RectF{-1, 0, 32, 32}, RectF{40, 0, 32, 32}, RectF{0, 0, 0, 32}, RectF{0, 0, 64, 65}})
      QVERIFY(!Scaler::build(source, region, {32, 32}, CanvasFormat()));
  }
};

QTEST_GUILESS_MAIN(TestPicture)
#include "tst_picture.moc"
