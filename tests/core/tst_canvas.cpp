// SPDX-License-Identifier: GPL-3.0-or-later
// Canvases of every format: what is composed is held against a composition in floating point, and colours of high
// dynamic range against the formulas of their standards.
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "picture/Composer.h"
#include "render/PictureFile.h"
#include "support/TestMedia.h"

#include <QImage>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <array>
#include <cmath>

using namespace tromb;
using test::Yuv;

namespace {

using Three = std::array<double, 3>;

constexpr Three k709{0.2126, 0.7152, 0.0722};
constexpr Three k2020{0.2627, 0.6780, 0.0593};

double weighted(const Three& a, const Three& b) {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/// Y′C′bC′r codes of limited range for a signal of R′G′B′ (BT.709 item 3, BT.2100 table 6 and 9).
Three coded(const Three& rgb, const Three& weights, int depth) {
  const double step = 1 << (depth - 8);
  const double y = weighted(weights, rgb);
  return {(16 + 219 * y) * step, (128 + 224 * (rgb[2] - y) / (2 - 2 * weights[2])) * step,
          (128 + 224 * (rgb[0] - y) / (2 - 2 * weights[0])) * step};
}

Three signalOf(const Three& codes, const Three& weights, int depth) {
  const double step = 1 << (depth - 8);
  const double y = (codes[0] / step - 16) / 219;
  const double blue = y + (codes[1] / step - 128) / 224 * (2 - 2 * weights[2]);
  const double red = y + (codes[2] / step - 128) / 224 * (2 - 2 * weights[0]);
  return {red, (y - weights[0] * red - weights[2] * blue) / weights[1], blue};
}

Three codesAt(const Frame& picture, int x, int y) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(picture->format));
  Three codes{};
  for (int p = 0; p < 3; ++p) {
    const int px = p > 0 ? x >> d.log2_chroma_w : x;
    const int py = p > 0 ? y >> d.log2_chroma_h : y;
    const uint8_t* row = picture->data[p] + ptrdiff_t(py) * picture->linesize[p];
    codes[size_t(p)] = d.comp[0].depth > 8 ? reinterpret_cast<const uint16_t*>(row)[px] : row[px];
  }
  return codes;
}

/// A flat picture of one format in some codes.
Frame flat(const CanvasFormat& format, const Three& codes) {
  FramePool once;
  const auto picture = newCanvas({64, 64}, format, once);
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(picture->format));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < (p > 0 ? 64 >> d.log2_chroma_h : 64); ++y)
      for (int x = 0; x < (p > 0 ? 64 >> d.log2_chroma_w : 64); ++x) {
        uint8_t* row = picture->data[p] + ptrdiff_t(y) * picture->linesize[p];
        if (d.comp[0].depth > 8)
          reinterpret_cast<uint16_t*>(row)[x] = uint16_t(std::lround(codes[size_t(p)]));
        else
          row[x] = uint8_t(std::lround(codes[size_t(p)]));
      }
  return picture;
}

// ---- the standards' formulas, written down anew

double fromPq(double e) { // ST 2084: cd/m²
  const double p = std::pow(std::max(e, 0.0), 32.0 / 2523);
  return 10000 * std::pow(std::max(p - 0.8359375, 0.0) / (18.8515625 - 18.6875 * p), 16384.0 / 2610);
}
double toPq(double light) {
  const double y = std::pow(std::max(light, 0.0) / 10000, 2610.0 / 16384);
  return std::pow((0.8359375 + 18.8515625 * y) / (1 + 18.6875 * y), 2523.0 / 32);
}
double fromHlg(double e) { // BT.2100 table 5: scene light
  return e <= 0.5 ? e * e / 3 : (std::exp((e - 0.55991073) / 0.17883277) + 0.28466892) / 12;
}
double toHlg(double light) {
  return light <= 1.0 / 12 ? std::sqrt(3 * light) : 0.17883277 * std::log(12 * light - 0.28466892) + 0.55991073;
}
Three mapped(const Three& v, double (*function)(double)) {
  return {function(v[0]), function(v[1]), function(v[2])};
}
Three lightOfHlg(const Three& signal) {
  const Three scene = mapped(signal, fromHlg);
  const double gain = 1000 * std::pow(weighted(k2020, scene), 0.2);
  return {scene[0] * gain, scene[1] * gain, scene[2] * gain};
}
Three hlgOfLight(const Three& light) {
  if (weighted(k2020, light) <= 0) return {};
  const double gain = std::pow(weighted(k2020, light) / 1000, 1 / 1.2 - 1) / 1000;
  return {toHlg(light[0] * gain), toHlg(light[1] * gain), toHlg(light[2] * gain)};
}
/// Report BT.2390, 5.4.1: Hermite spline above the knee, in PQ relative to the source's peak.
double rolledOff(double light, double from, double to) {
  const double scale = toPq(from);
  const double e = toPq(light) / scale;
  const double top = toPq(to) / scale;
  const double ks = 1.5 * top - 0.5;
  if (e <= ks) return light;
  const double t = (e - ks) / (1 - ks);
  const double p =
      (2 * t * t * t - 3 * t * t + 1) * ks + (t * t * t - 2 * t * t + t) * (1 - ks) + (3 * t * t - 2 * t * t * t) * top;
  return fromPq(p * scale);
}
Three toneMapped(Three light, double from, double to) {
  const double most = std::max({light[0], light[1], light[2]});
  if (most > 0)
    for (double& v : light) v *= (from > to ? rolledOff(std::min(most, from), from, to) : std::min(most, to)) / most;
  return light;
}
/// BT.2087: BT.2020 to BT.709 primaries; what is outside is mixed with grey of its luminance.
Three in709(const Three& light, double most) {
  const double m[3][3] = {{1.6605, -0.5876, -0.0728}, {-0.1246, 1.1329, -0.0083}, {-0.0182, -0.1006, 1.1187}};
  Three out{};
  for (size_t r = 0; r < 3; ++r)
    for (size_t c = 0; c < 3; ++c) out[r] += m[r][c] * light[c];
  const double y = weighted(k2020, light);
  double keep = 1;
  for (const double v : out) {
    if (v < 0) keep = std::min(keep, y / (y - v));
    if (v > most) keep = std::min(keep, (most - y) / (v - y));
  }
  for (double& v : out) v = y + (v - y) * keep;
  return out;
}
Three in2020(const Three& light) {
  const double m[3][3] = {{0.6274, 0.3293, 0.0433}, {0.0691, 0.9195, 0.0114}, {0.0164, 0.0880, 0.8956}};
  Three out{};
  for (size_t r = 0; r < 3; ++r)
    for (size_t c = 0; c < 3; ++c) out[r] += m[r][c] * light[c];
  return out;
}
double sdrOfLight(double light) { // BT.1886, white at 203 cd/m² (BT.2408)
  return std::pow(std::clamp(light / 203, 0.0, 1.0), 1 / 2.4);
}
double lightOfSdr(double e) {
  return 203 * std::pow(std::max(e, 0.0), 2.4);
}

/// A signal of one system in another.
Three expected(const Three& signal, const ColourTags& from, const ColourTags& to) {
  if (from == to) return signal;
  Three light = from == kPq    ? mapped(signal, fromPq)
                : from == kHlg ? lightOfHlg(signal)
                               : in2020(mapped(signal, lightOfSdr));
  const double source = from == kPq    ? 1000
                        : from == kHlg ? 1000
                                       : 203; // what unlabelled PQ is taken to be mastered for
  if (to == kRec709) return mapped(in709(toneMapped(light, source, 203), 203), sdrOfLight);
  light = toneMapped(light, source, to == kPq ? 10000 : 1000);
  return to == kPq ? mapped(light, toPq) : hlgOfLight(light);
}

const Three& weightsOf(const ColourTags& tags) {
  return tags == kRec709 ? k709 : k2020;
}

} // namespace

class TestCanvas : public QObject {
  Q_OBJECT

  static void near(const Frame& canvas, int x, int y, const Three& wanted, double most, const char* what) {
    const Three seen = codesAt(canvas, x, y);
    for (size_t p = 0; p < 3; ++p)
      QVERIFY2(std::abs(seen[p] - wanted[p]) <= most,
               qPrintable(QStringLiteral("%1, plane %2: %3, not %4").arg(what).arg(p).arg(seen[p]).arg(wanted[p])));
  }

private slots:
  // At most one code value of the format's own depth from a composition in floating point.
  void everyFormatIsComposedExactly_data() {
    QTest::addColumn<int>("depth");
    QTest::addColumn<int>("chroma");
    QTest::addColumn<QString>("colour");
    for (const int depth : {8, 10})
      for (const Chroma chroma : {Chroma::C420, Chroma::C422, Chroma::C444})
        for (const char* colour : {"rec709", "hlg", "pq"})
          if (depth == 10 || QLatin1String(colour) == QLatin1String("rec709"))
            QTest::addRow("%d bit %s %s", depth, chromaWord(chroma), colour) << depth << int(chroma) << colour;
  }
  void everyFormatIsComposedExactly() {
    QFETCH(int, depth);
    QFETCH(int, chroma);
    QFETCH(QString, colour);
    CanvasFormat format{depth, Chroma(chroma), kRec709};
    QVERIFY(colourByWord(colour.toStdString(), format.colour));
    const bool wide = isHdr(format.colour);
    const double step = 1 << (depth - 8);
    const Three& weights = weightsOf(format.colour);
    const PictureShape shape({64, 64}, Rational(1), 0);
    const PixelRect all{0, 0, 64, 128};
    const PixelRect middle{0, 32, 64, 64};
    const RectF whole{0, 0, 64, 64};
    const auto inFormat = [&](const Three& codes8) { // of a BT.709 picture of 8 bits
      return coded(expected(signalOf(codes8, k709, 8), kRec709, format.colour), weights, depth);
    };
    const Three own{120, 90, 160};
    const Frame source = flat({}, own);
    const double near1 = wide ? 2 : 1; // SDR is brought into HDR by zimg's tables
    using Kind = Placement::Kind;
    const auto laid = [](const RectF& window, const PixelRect& at, Kind kind = Kind::Picture, const Colour& c = {}) {
      return Placement{window, at, kind, c, true};
    };
    const auto composed = [&](const Frame& picture, std::vector<Placement> placements, const PictureShape& as) {
      Composer composer(as, {64, 128}, format);
      auto made = composer.compose(picture, placements);
      if (!made) qFatal("%s", sentence(made.error()).c_str());
      return *made;
    };
    // A colour above and below, the picture between.
    const Colour red{200, 40, 90};
    const Frame onColour = composed(source, {laid({}, all, Kind::Colour, red), laid(whole, middle)}, shape);
    near(onColour, 20, 10,
         coded(expected({200 / 255.0, 40 / 255.0, 90 / 255.0}, kRec709, format.colour), weights, depth), 1,
         "ground of one colour");
    near(onColour, 20, 60, inFormat(own), near1, "picture");
    // Nothing: black.
    near(composed(source, {laid(whole, middle)}, shape), 20, 4, coded({0, 0, 0}, weights, depth), 0.5, "uncovered");
    // A copy, dimmed: light halved, colour by a quarter less.
    const Three flatCodes = inFormat(own);
    const Three dimmed{16 * step + (flatCodes[0] - 16 * step) * 0.5, 128 * step + (flatCodes[1] - 128 * step) * 0.75,
                       128 * step + (flatCodes[2] - 128 * step) * 0.75};
    near(composed(source, {laid(whole, all, Kind::Copy), laid(whole, middle)}, shape), 20, 10, dimmed, near1, "copy");
    // A gradient from the upper edge's colour to the lower one's.
    const Frame halves = test::painted({64, 64}, 0, [](int, int, int y) {
      return y < 32 ? Yuv{60, 110, 140} : Yuv{180, 140, 120};
    });
    const Three from = inFormat({60, 110, 140});
    const Three to = inFormat({180, 140, 120});
    const Frame gradient = composed(halves, {laid(whole, all, Kind::Gradient), laid(whole, middle)}, shape);
    for (const int y : {0, 10, 30, 100, 126}) {
      Three wanted{};
      for (size_t p = 0; p < 3; ++p) {
        const int shift = p > 0 && format.chroma == Chroma::C420 ? 1 : 0;
        wanted[p] = from[p] + (to[p] - from[p]) * ((y >> shift) + 0.5) / (128 >> shift);
      }
      near(gradient, 20, y, wanted, near1, "gradient");
    }
    // A still of another picture.
    Composer withStill(shape, {64, 128}, format);
    const Three other{70, 150, 110};
    QVERIFY(withStill.setStill(flat({}, other), shape).has_value());
    near(*withStill.compose(source, {laid({}, all, Kind::Still), laid(whole, middle)}), 20, 10, inFormat(other), near1,
         "still");
    // A picture that stands on its side passes through 4:4:4.
    const PictureShape turned({64, 64}, Rational(1), 90);
    near(composed(source, {laid(whole, middle)}, turned), 20, 60, inFormat(own), near1, "turned");
    if (wide) return;
    // Half transparent over a colour, from 8 bits: colour times opacity, and what is left of the ground.
    const auto rgba = newFrame({64, 64}, AV_PIX_FMT_RGBA);
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) {
        const uint8_t pixel[] = {10, 200, 30, 100};
        std::copy_n(pixel, 4, rgba->data[0] + ptrdiff_t(y) * rgba->linesize[0] + 4 * x);
      }
    const PictureShape clear({64, 64}, Rational(1), 0, {}, {}, false, true);
    const double alpha = 100 / 255.0;
    const Three above = coded({10 / 255.0 * alpha, 200 / 255.0 * alpha, 30 / 255.0 * alpha}, k709, depth);
    const Three below = coded({200 / 255.0, 40 / 255.0, 90 / 255.0}, k709, depth);
    const Three blend{above[0] + (below[0] - 16 * step) * (1 - alpha), above[1] + (below[1] - 128 * step) * (1 - alpha),
                      above[2] + (below[2] - 128 * step) * (1 - alpha)};
    near(composed(rgba, {laid({}, all, Kind::Colour, red), laid(whole, middle)}, clear), 20, 60, blend, 1, "blend");
    // A ramp, enlarged from a fractional window: a straight line stays one.
    const Frame ramp = test::painted({64, 64}, 0, [](int, int x, int) { return Yuv{40 + 2 * x, 128, 128}; });
    const Frame enlarged = composed(ramp, {laid({10.3, 4, 32, 32}, {0, 0, 64, 64})}, shape);
    for (const int x : {12, 31, 48}) {
      const double place = 10.3 + (x + 0.5) / 2 - 0.5;
      near(enlarged, x, 30, {(40 + 2 * place) * step, 128 * step, 128 * step}, 1, "ramp");
    }
  }

  // Reference points of BT.2100 and BT.2408, and colours between, from each system into each; within two code values of
  // 8 bits in SDR and of 10 bits in high dynamic range.
  void coloursThroughEverySystem_data() {
    QTest::addColumn<QString>("from");
    QTest::addColumn<QString>("to");
    for (const auto& [from, to] : std::initializer_list<std::pair<const char*, const char*>>{{"rec709", "rec709"},
                                                                                             {"hlg", "rec709"},
                                                                                             {"pq", "rec709"},
                                                                                             {"hlg", "hlg"},
                                                                                             {"pq", "pq"},
                                                                                             {"hlg", "pq"},
                                                                                             {"pq", "hlg"},
                                                                                             {"rec709", "hlg"},
                                                                                             {"rec709", "pq"}})
      QTest::addRow("%s to %s", from, to) << from << to;
  }
  void coloursThroughEverySystem() {
    QFETCH(QString, from);
    QFETCH(QString, to);
    ColourTags source;
    CanvasFormat format;
    QVERIFY(colourByWord(from.toStdString(), source));
    QVERIFY(colourByWord(to.toStdString(), format.colour));
    format.depth = isHdr(format.colour) ? 10 : 8;
    const double white = source == kPq ? 0.5807 : source == kHlg ? 0.75 : 1; // BT.2408, table 1
    const Three patches[] = {{0, 0, 0},          {0.38, 0.38, 0.38}, {white, white, white}, {0.6, 0.5, 0.44},
                             {0.42, 0.55, 0.36}, {0.2, 0.3, 0.6},    {0.5, 0.1, 0.1},       {0.1, 0.5, 0.1},
                             {0.7, 0.7, 0.7},    {0.9, 0.8, 0.6},    {0.75, 0.75, 0.72}};
    for (const Three& patch : patches) {
      const CanvasFormat stored{10, Chroma::C444, source};
      const Frame picture = flat(stored, coded(patch, weightsOf(source), 10));
      const Three signal = signalOf(codesAt(picture, 8, 8), weightsOf(source), 10);
      Composer composer(PictureShape({64, 64}, Rational(1), 0), {64, 64}, format);
      const auto canvas =
          composer.compose(picture, {{{0, 0, 64, 64}, {0, 0, 64, 64}, Placement::Kind::Picture, {}, true}});
      QVERIFY2(canvas.has_value(), canvas ? "" : sentence(canvas.error()).c_str());
      const Three wanted = coded(expected(signal, source, format.colour), weightsOf(format.colour), format.depth);
      // Brighter than what it is mastered for, a picture is cut off: in the table that does it, at its next entry.
      const bool beyond = source == kPq && *std::max_element(patch.begin(), patch.end()) > 0.76;
      near(*canvas, 30, 30, wanted, beyond ? 10 : 2,
           qPrintable(QStringLiteral("%1 %2 %3").arg(patch[0]).arg(patch[1]).arg(patch[2])));
    }
  }
  // BT.2408: white of SDR is 58 % of PQ and 75 % of HLG; on its way back it leaves room for what is brighter.
  void referenceWhite_data() {
    QTest::addColumn<QString>("from");
    QTest::addColumn<QString>("to");
    QTest::addColumn<double>("luma");
    QTest::newRow("SDR in PQ") << "rec709"
                               << "pq" << 64 + 876 * 0.58;
    QTest::newRow("SDR in HLG") << "rec709"
                                << "hlg" << 64 + 876 * 0.75;
    QTest::newRow("HLG in PQ") << "hlg"
                               << "pq" << 64 + 876 * 0.58;
  }
  void referenceWhite() {
    QFETCH(QString, from);
    QFETCH(QString, to);
    QFETCH(double, luma);
    ColourTags source;
    CanvasFormat format{10, Chroma::C420, {}};
    QVERIFY(colourByWord(from.toStdString(), source));
    QVERIFY(colourByWord(to.toStdString(), format.colour));
    const double white = source == kHlg ? 0.75 : 1;
    const Frame picture = flat({10, Chroma::C444, source}, coded({white, white, white}, weightsOf(source), 10));
    Composer composer(PictureShape({64, 64}, Rational(1), 0), {64, 64}, format);
    const auto canvas =
        composer.compose(picture, {{{0, 0, 64, 64}, {0, 0, 64, 64}, Placement::Kind::Picture, {}, true}});
    QVERIFY(canvas.has_value());
    near(*canvas, 30, 30, {luma, 512, 512}, 3, "white");
  }

  // A canvas of 10 bits is written with 16, so that nothing of it is lost: read back by Qt.
  void deepCanvasesAreDeepPictures() {
    const QTemporaryDir folder;
    const Three codes{501, 512, 512};
    const std::string file = folder.filePath("deep.png").toStdString();
    QVERIFY(writePicture(flat({10, Chroma::C420, kRec709}, codes), file, PictureKind::Png, false).has_value());
    const QImage image(QString::fromStdString(file));
    QCOMPARE(image.format(), QImage::Format_RGBX64);
    const double wanted = (501 - 64) / 876.0 * 65535;
    QVERIFY(std::abs(int(image.pixelColor(20, 20).rgba64().red()) - wanted) < 16);
  }
};

QTEST_GUILESS_MAIN(TestCanvas)
#include "tst_canvas.moc"
