// SPDX-License-Identifier: GPL-3.0-or-later
// Words and pictures over shots: where they lie in every shape, how large their letters are, how they are blended, when
// they are seen, and how they are kept.
#include "colour/Light.h"
#include "element/ElementDrawing.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "picture/Overlay.h"
#include "preflight/Preflight.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QTemporaryDir>
#include <QTest>
#include <array>
#include <cmath>
#include <fontconfig/fontconfig.h>
#include <pango/pangocairo.h>
#include <random>

using namespace tromb;

namespace {

Element text(const std::string& words, ElementPlace place = {}) {
  Element e;
  e.id = "e1";
  e.text = words;
  e.place = place;
  e.out = Rational(2);
  return e;
}

ElementCanvas canvasOf(Size shown) {
  ElementCanvas canvas;
  canvas.shown = shown;
  return canvas;
}

/// What Pango itself says of words on one line in pixels, asked in its own way.
QSizeF pangoSize(const std::string& words, const std::string& font, double size) {
  FcConfigAppFontAddDir(FcConfigGetCurrent(), reinterpret_cast<const FcChar8*>(TROMB_SOURCE_DIR "/data/fonts"));
  cairo_surface_t* surface = cairo_recording_surface_create(CAIRO_CONTENT_COLOR_ALPHA, nullptr);
  cairo_t* pen = cairo_create(surface);
  cairo_font_options_t* options = cairo_font_options_create();
  cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
  cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
  cairo_set_font_options(pen, options);
  PangoLayout* layout = pango_cairo_create_layout(pen);
  pango_context_set_round_glyph_positions(pango_layout_get_context(layout), FALSE);
  PangoFontDescription* description = pango_font_description_from_string(font.c_str());
  pango_font_description_set_absolute_size(description, size * PANGO_SCALE);
  pango_layout_set_font_description(layout, description);
  pango_layout_set_text(layout, words.c_str(), -1);
  int width = 0;
  int height = 0;
  pango_layout_get_size(layout, &width, &height);
  pango_font_description_free(description);
  g_object_unref(layout);
  cairo_font_options_destroy(options);
  cairo_destroy(pen);
  cairo_surface_destroy(surface);
  return {double(width) / PANGO_SCALE, double(height) / PANGO_SCALE};
}

double codeAt(const AVFrame& picture, int plane, int x, int y) {
  const uint8_t* row = picture.data[plane] + ptrdiff_t(y) * picture.linesize[plane];
  return av_pix_fmt_desc_get(AVPixelFormat(picture.format))->comp[0].depth > 8
             ? double(reinterpret_cast<const uint16_t*>(row)[x])
             : double(row[x]);
}

void setCode(AVFrame& picture, int plane, int x, int y, int code) {
  uint8_t* row = picture.data[plane] + ptrdiff_t(y) * picture.linesize[plane];
  if (av_pix_fmt_desc_get(AVPixelFormat(picture.format))->comp[0].depth > 8)
    reinterpret_cast<uint16_t*>(row)[x] = uint16_t(code);
  else
    row[x] = uint8_t(code);
}

/// The same samples in all planes.
bool alike(const Frame& a, const Frame& b) {
  if (a->width != b->width || a->height != b->height || a->format != b->format) return false;
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(a->format));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < (p > 0 ? a->height >> d.log2_chroma_h : a->height); ++y)
      for (int x = 0; x < (p > 0 ? a->width >> d.log2_chroma_w : a->width); ++x)
        if (codeAt(*a, p, x, y) != codeAt(*b, p, x, y)) return false;
  return true;
}

} // namespace

Q_DECLARE_METATYPE(tromb::CanvasFormat)
Q_DECLARE_METATYPE(tromb::Element)
Q_DECLARE_METATYPE(tromb::RectF)

class TestElement : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] std::string at(const char* name) const { return m_folder.filePath(name).toStdString(); }
  Project m_project;

private slots:
  void initTestCase() {
    test::writeClip(at("a.mp4"), {320, 180}, FrameRate(), 50, test::texture);
    test::writeClip(at("b.mp4"), {320, 180}, FrameRate(), 50, test::texture);
    m_project = test::project({at("a.mp4"), at("b.mp4")},
                              {{"Wide", {320, 180}}, {"Tall", {180, 320}, Rational(30)}, {"Square", {240, 240}}});
  }

  // Held within the graphics-safe area of EBU R 95 (5 % from each edge; its rectangles as in the list of check values),
  // by hand: an element of 200 by 100.
  void heldInEveryShape_data() {
    QTest::addColumn<QSize>("canvas");
    QTest::addColumn<int>("anchor");
    QTest::addColumn<QPointF>("offset"); // percent of the shorter side
    QTest::addColumn<QPointF>("lies");
    const auto row = [](QSize canvas, Anchor anchor, QPointF lies, QPointF offset = {}) {
      QTest::addRow("%dx%d %s %g %g", canvas.width(), canvas.height(), kAnchorWords[size_t(anchor)], offset.x(),
                    offset.y())
          << canvas << int(anchor) << offset << lies;
    };
    row({1920, 1080}, Anchor::TopLeft, {96, 54});
    row({1280, 720}, Anchor::Top, {540, 36});
    row({3840, 2160}, Anchor::TopRight, {3448, 108});
    row({1080, 1920}, Anchor::Left, {54, 910});
    row({1080, 1080}, Anchor::Centre, {440, 490});
    row({1080, 1350}, Anchor::Right, {826, 625});
    row({2560, 1080}, Anchor::BottomLeft, {128, 926});
    row({2560, 720}, Anchor::Bottom, {1180, 584});
    row({1440, 1080}, Anchor::BottomRight, {1168, 926});
    row({1000, 1500}, Anchor::Bottom, {400, 1325});
    row({1024, 576}, Anchor::Top, {412, 28.8});
    row({3440, 1440}, Anchor::BottomRight, {3068, 1268});
    row({1920, 1080}, Anchor::Bottom, {860 + 54, 926 - 108}, {5, -10});
    row({1080, 1920}, Anchor::Top, {440 - 108, 96 + 54}, {-10, 5});
  }
  void heldInEveryShape() {
    QFETCH(const QSize, canvas);
    QFETCH(const int, anchor);
    QFETCH(const QPointF, offset);
    QFETCH(const QPointF, lies);
    const RectF at = placed({200, 100}, {Anchor(anchor), offset.x(), offset.y(), 6, false},
                            canvasOf({canvas.width(), canvas.height()}), false);
    QVERIFY2(std::hypot(at.x - lies.x(), at.y - lies.y()) < 1e-6,
             qPrintable(QStringLiteral("%1, %2").arg(at.x).arg(at.y)));
    QCOMPARE(at.width, 200.0);
    QCOMPARE(at.height, 100.0);
  }

  // By the shortest way that lies over no other button; on a canvas of 1000 by 2000, 50 and 100 from the edges.
  void keepsClearOfButtons_data() {
    QTest::addColumn<int>("anchor");
    QTest::addColumn<bool>("overButtons");
    QTest::addColumn<QList<QRectF>>("buttons"); // pixels
    QTest::addColumn<QPointF>("lies");
    const QRectF foot(0, 1700, 1000, 300);
    const QRectF side(800, 900, 200, 900);
    QTest::newRow("above the foot") << int(Anchor::Bottom) << false << QList{foot} << QPointF(400, 1600);
    QTest::newRow("at the foot where that is asked for")
        << int(Anchor::Bottom) << true << QList{foot} << QPointF(400, 1800);
    QTest::newRow("nothing in its way") << int(Anchor::Top) << false << QList{foot, side} << QPointF(400, 100);
    QTest::newRow("beside the buttons") << int(Anchor::Right) << false << QList{side} << QPointF(750, 800);
    QTest::newRow("above both") << int(Anchor::BottomRight) << false << QList{foot, side} << QPointF(600, 1600);
    QTest::newRow("nowhere to go stays") << int(Anchor::Bottom) << false << QList{QRectF(0, 0, 1000, 2000)}
                                         << QPointF(400, 1800);
  }
  void keepsClearOfButtons() {
    QFETCH(const int, anchor);
    QFETCH(const bool, overButtons);
    QFETCH(const QList<QRectF>, buttons);
    QFETCH(const QPointF, lies);
    ElementCanvas canvas = canvasOf({1000, 2000});
    for (const QRectF& each : buttons)
      canvas.covered.push_back({each.x() / 1000, each.y() / 2000, each.width() / 1000, each.height() / 2000});
    const RectF at = placed({200, 100}, {Anchor(anchor), 0, 0, 6, false}, canvas, overButtons);
    QVERIFY2(std::hypot(at.x - lies.x(), at.y - lies.y()) < 1e-6,
             qPrintable(QStringLiteral("%1, %2").arg(at.x).arg(at.y)));
  }

  // Letters measure what Pango says of them, whatever their script.
  void lettersMeasureAsPangoSays_data() {
    QTest::addColumn<QString>("words");
    QTest::addColumn<int>("weight");
    QTest::addColumn<QString>("font"); // as Pango writes it
    QTest::newRow("semibold") << "Fennick Vale" << 600 << "Lato Semi-Bold";
    QTest::newRow("regular, ligatures") << "waffle, fine office" << 400 << "Lato";
    QTest::newRow("bold, kerned") << "AVATAR To" << 700 << "Lato Bold";
    QTest::newRow("right to left") << "שלום עולם" << 400 << "Lato";
    QTest::newRow("both ways") << "Vale שלום 12" << 400 << "Lato";
    QTest::newRow("combining") << "e\u0301 n\u0303" << 400 << "Lato";
  }
  void lettersMeasureAsPangoSays() {
    QFETCH(const QString, words);
    QFETCH(const int, weight);
    QFETCH(const QString, font);
    Element e = text(words.toStdString(), {Anchor::Centre, 0, 0, 10, false});
    e.look.weight = weight;
    e.look.measure = 100;
    e.look.lineSpacing = 1;
    const auto facts = layOutText(e, {}, canvasOf({4000, 1000}));
    QVERIFY(facts);
    QCOMPARE(facts->size, 100.0);
    QCOMPARE(facts->lines, 1);
    const QSizeF pango = pangoSize(words.toStdString(), font.toStdString(), 100);
    QVERIFY2(std::abs(facts->lies.width - pango.width()) < 0.6,
             qPrintable(QStringLiteral("%1, Pango %2").arg(facts->lies.width).arg(pango.width())));
    QVERIFY2(std::abs(facts->lies.height - pango.height()) < 0.6,
             qPrintable(QStringLiteral("%1, Pango %2").arg(facts->lies.height).arg(pango.height())));
    QVERIFY(facts->whole);
  }

  void findsRoom_data() {
    QTest::addColumn<Element>("element");
    QTest::addColumn<QSize>("canvas");
    QTest::addColumn<int>("leastLines");
    QTest::addColumn<double>("leastSize"); // pixels
    QTest::addColumn<double>("mostSize");
    QTest::addColumn<bool>("whole");
    const Element words = text("Over the ridge and far into the vale", {Anchor::Centre, 0, 0, 10, false});
    QTest::newRow("one line where it has room") << words << QSize(4000, 1000) << 1 << 100.0 << 100.0 << true;
    QTest::newRow("lines are broken at words") << words << QSize(1000, 1000) << 2 << 100.0 << 100.0 << true;
    Element long_ = text("Donaudampfschifffahrt", {Anchor::Centre, 0, 0, 20, false});
    QTest::newRow("a long word becomes smaller") << long_ << QSize(1000, 1000) << 1 << 40.0 << 120.0 << true;
    long_.look.leastSize = 20;
    QTest::newRow("… as far as it may, and is broken then")
        << long_ << QSize(1000, 1000) << 2 << 200.0 << 200.0 << false;
    Element own = words;
    own.own["d1"].place = {Anchor::Centre, 0, 0, 3, false};
    QTest::newRow("as large as this shape has it") << own << QSize(1000, 1000) << 1 << 30.0 << 30.0 << true;
    Element away = words;
    away.place.y = 60;
    QTest::newRow("beyond the edge is told") << away << QSize(1000, 1000) << 2 << 100.0 << 100.0 << false;
    QTest::newRow("nothing is nothing") << text("") << QSize(1000, 1000) << 1 << 1.0 << 100.0 << true;
  }
  void findsRoom() {
    QFETCH(const Element, element);
    QFETCH(const QSize, canvas);
    QFETCH(const int, leastLines);
    QFETCH(const double, leastSize);
    QFETCH(const double, mostSize);
    QFETCH(const bool, whole);
    const auto facts = layOutText(element, "d1", canvasOf({canvas.width(), canvas.height()}));
    QVERIFY(facts);
    QVERIFY2(leastLines == 1 ? facts->lines == 1 : facts->lines >= leastLines,
             qPrintable(QString::number(facts->lines)));
    QVERIFY2(facts->size >= leastSize && facts->size <= mostSize, qPrintable(QString::number(facts->size)));
    QCOMPARE(facts->whole, whole);
  }

  // A drawing at half the size is the same drawing: nothing of it depends on pixels.
  void drawnAlikeAtEverySize() {
    Element e = text("Fennick Vale\nBalloon Morning", {Anchor::Bottom, 0, 0, 12, false});
    e.look.outline = 0.05;
    e.look.box = 0.7;
    const ElementCanvas canvas = canvasOf({960, 540});
    const auto large = drawText(e, {}, canvas, {960, 540});
    const auto small = drawText(e, {}, canvas, {480, 270});
    QVERIFY(large && small);
    QCOMPARE(large->text, small->text);
    const auto mean = [](const DrawnElement& d, int channel) {
      double sum = 0;
      for (size_t i = size_t(channel); i < d.bytes.size(); i += 4) sum += d.bytes[i];
      return sum;
    };
    for (int c = 0; c < 4; ++c)
      QVERIFY2(std::abs(mean(*large, c) / mean(*small, c) / 4 - 1) < 0.01, qPrintable(QString::number(c)));
    // Nobody draws outside of the rectangle that it says, nor leaves a rim of it empty for no reason.
    QVERIFY(std::abs(large->at.x + large->at.width / 2.0 - 480) <= 1.5);
    QVERIFY(large->at.y + large->at.height <= 540);
  }

  // Held against a composition in floating point: signals blended by how opaque the words are, chroma where the canvas
  // has it (left of two pixels with a quarter of both neighbours, between two lines; in BT.2100 on the upper line).
  void blendsAsReckoned_data() {
    QTest::addColumn<CanvasFormat>("format");
    QTest::addColumn<double>("opacity");
    const ColourTags full{kRec709.primaries, kRec709.transfer, kRec709.matrix, true};
    QTest::newRow("8 bit 4:2:0") << CanvasFormat() << 1.0;
    QTest::newRow("8 bit 4:2:0, half") << CanvasFormat() << 0.5;
    QTest::newRow("8 bit 4:2:2") << CanvasFormat{8, Chroma::C422, kRec709} << 0.75;
    QTest::newRow("8 bit 4:4:4 full range") << CanvasFormat{8, Chroma::C444, full} << 0.9;
    QTest::newRow("10 bit 4:2:0") << CanvasFormat{10, Chroma::C420, kRec709} << 1.0;
    QTest::newRow("10 bit 4:2:2") << CanvasFormat{10, Chroma::C422, kRec709} << 0.3;
    QTest::newRow("PQ") << CanvasFormat{10, Chroma::C420, kPq} << 1.0;
    QTest::newRow("HLG") << CanvasFormat{10, Chroma::C420, kHlg} << 0.6;
  }
  void blendsAsReckoned() {
    QFETCH(const CanvasFormat, format);
    QFETCH(const double, opacity);
    constexpr Size kCanvas{48, 32};
    constexpr PixelRect kAt{5, 3, 30, 21};
    std::mt19937 dice(7);
    std::vector<uint8_t> bytes;
    for (int i = 0; i < kAt.width * kAt.height; ++i) {
      const auto opaque = uint8_t(dice() % 3 == 0 ? 0 : dice() % 256);
      for (int c = 0; c < 3; ++c) bytes.push_back(uint8_t(opaque > 0 ? dice() % (opaque + 1U) : 0));
      bytes.push_back(opaque);
    }
    FramePool pool;
    const auto canvas = newCanvas(kCanvas, format, pool);
    const auto before = newCanvas(kCanvas, format, pool);
    const int most = (1 << format.depth) - 1;
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < (p > 0 ? kCanvas.height >> format.shiftY() : kCanvas.height); ++y)
        for (int x = 0; x < (p > 0 ? kCanvas.width >> format.shiftX() : kCanvas.width); ++x) {
          const int code = most / 8 + int(dice() % unsigned(most * 3 / 4));
          setCode(*canvas, p, x, y, code);
          setCode(*before, p, x, y, code);
        }
    Overlay(bytes.data(), kAt, kCanvas, format).layOn(*canvas, opacity);

    const bool hdr = format.colour == kPq || format.colour == kHlg;
    // Of one pixel: how opaque it is, and its codes times that.
    const auto pixel = [&](int x, int y, int p) {
      x = std::clamp(x, 0, kCanvas.width - 1) - kAt.x;
      y = std::clamp(y, 0, kCanvas.height - 1) - kAt.y;
      if (x < 0 || y < 0 || x >= kAt.width || y >= kAt.height) return std::pair(0.0, 0.0);
      const uint8_t* at = bytes.data() + 4 * (y * kAt.width + x);
      if (at[3] == 0) return std::pair(0.0, 0.0);
      const double share = at[3] / 255.0;
      Rgb rgb{at[2] / 255.0 / share, at[1] / 255.0 / share, at[0] / 255.0 / share};
      if (hdr) rgb = convertedSignal(rgb, kRec709, format.colour, 203); // checked against the standards by tst_canvas
      const double red = hdr ? 0.2627 : 0.2126;
      const double blue = hdr ? 0.0593 : 0.0722;
      const double luma = red * rgb[0] + (1 - red - blue) * rgb[1] + blue * rgb[2];
      const double step = std::ldexp(1.0, format.depth - 8);
      const bool full = format.colour.fullRange;
      const double code = p == 0   ? (full ? 0 : 16 * step) + (full ? most : 219 * step) * luma
                          : p == 1 ? 128 * step + (full ? most : 224 * step) * (rgb[2] - luma) / (2 - 2 * blue)
                                   : 128 * step + (full ? most : 224 * step) * (rgb[0] - luma) / (2 - 2 * red);
      return std::pair(share, share * code);
    };
    double worst = 0;
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < (p > 0 ? kCanvas.height >> format.shiftY() : kCanvas.height); ++y)
        for (int x = 0; x < (p > 0 ? kCanvas.width >> format.shiftX() : kCanvas.width); ++x) {
          double share = 0;
          double sum = 0;
          const bool half = p > 0 && format.shiftX() == 1;
          const std::vector<std::pair<int, double>> across =
              half ? std::vector<std::pair<int, double>>{{2 * x - 1, 0.25}, {2 * x, 0.5}, {2 * x + 1, 0.25}}
                   : std::vector<std::pair<int, double>>{{x, 1.0}};
          std::vector<std::pair<int, double>> down{{y, 1.0}};
          if (p > 0 && format.shiftY() == 1)
            down = hdr ? std::vector<std::pair<int, double>>{{2 * y - 1, 0.25}, {2 * y, 0.5}, {2 * y + 1, 0.25}}
                       : std::vector<std::pair<int, double>>{{2 * y, 0.5}, {2 * y + 1, 0.5}};
          for (const auto& [column, w] : across)
            for (const auto& [line, v] : down) {
              const auto [a, c] = pixel(column, line, p);
              share += w * v * a;
              sum += w * v * c;
            }
          const double wanted = codeAt(*before, p, x, y) * (1 - opacity * share) + opacity * sum;
          worst = std::max(worst, std::abs(codeAt(*canvas, p, x, y) - std::clamp(wanted, 0.0, double(most))));
        }
    QVERIFY2(worst <= 0.51, qPrintable(QString::number(worst))); // once rounded
  }

  // White words have the luma of reference white (203 cd/m²): 573 in PQ, 721 in HLG, of 10 bit (BT.2100, BT.2408), and
  // 235 and 940 without high dynamic range.
  void whiteIsReferenceWhite_data() {
    QTest::addColumn<CanvasFormat>("format");
    QTest::addColumn<int>("luma");
    QTest::newRow("8 bit") << CanvasFormat() << 235;
    QTest::newRow("10 bit") << CanvasFormat{10, Chroma::C420, kRec709} << 940;
    QTest::newRow("PQ") << CanvasFormat{10, Chroma::C420, kPq} << 573;
    QTest::newRow("HLG") << CanvasFormat{10, Chroma::C420, kHlg} << 721;
  }
  void whiteIsReferenceWhite() {
    QFETCH(const CanvasFormat, format);
    QFETCH(const int, luma);
    const std::vector<uint8_t> white(16 * 16 * 4, 255);
    FramePool pool;
    const auto canvas = newCanvas({16, 16}, format, pool);
    for (int y = 0; y < 16; ++y)
      for (int x = 0; x < 16; ++x) setCode(*canvas, 0, x, y, 100);
    Overlay(white.data(), {0, 0, 16, 16}, {16, 16}, format).layOn(*canvas, 1);
    QCOMPARE(int(codeAt(*canvas, 0, 8, 8)), luma);
  }

  void fadesAreEven_data() {
    QTest::addColumn<double>("fadeIn");
    QTest::addColumn<double>("fadeOut");
    QTest::addColumn<double>("at"); // of 4 s
    QTest::addColumn<double>("opacity");
    QTest::newRow("at once") << 0.0 << 0.0 << 0.0 << 1.0;
    QTest::newRow("begins") << 1.0 << 1.0 << 0.0 << 0.0;
    QTest::newRow("comes") << 1.0 << 1.0 << 0.25 << 0.25;
    QTest::newRow("is there") << 1.0 << 1.0 << 2.0 << 1.0;
    QTest::newRow("goes as it came") << 1.0 << 1.0 << 3.75 << 0.25;
    QTest::newRow("fades longer than it is seen meet") << 6.0 << 2.0 << 3.0 << 1.0;
    QTest::newRow("… and are as long to each other") << 6.0 << 2.0 << 1.5 << 0.5;
  }
  void fadesAreEven() {
    QFETCH(const double, fadeIn);
    QFETCH(const double, fadeOut);
    QFETCH(const double, at);
    QFETCH(const double, opacity);
    Element e = text("x");
    e.fadeIn = Rational(int64_t(fadeIn * 100), 100);
    e.fadeOut = Rational(int64_t(fadeOut * 100), 100);
    QVERIFY(std::abs(opacityAt(e, Rational(int64_t(at * 100), 100), Rational(4)) - opacity) < 1e-9);
  }

  // Frames of a deliverable at 30, a region of it, and where its shot goes.
  void seenWhenItShould_data() {
    QTest::addColumn<std::function<void(Project&)>>("change");
    QTest::addColumn<QString>("region"); // "in-out"; empty for all
    QTest::addColumn<int>("first");
    QTest::addColumn<int>("count");
    using Change = std::function<void(Project&)>;
    const auto with = [](const Element& e) { return Change([e](Project& p) { p.elements = {e}; }); };
    Element e = text("Vale");
    e.in = Rational(1);
    e.out = Rational(3, 2);
    QTest::newRow("its own time") << with(e) << "" << 30 << 15;
    QTest::newRow("in a region that begins before it") << with(e) << "0.5-2" << 15 << 15;
    QTest::newRow("… within it") << with(e) << "1.2-2" << -6 << 15;
    e.shot = m_project.shots[1].id;
    QTest::newRow("with the second shot") << with(e) << "" << 90 << 15;
    QTest::newRow("with it, as it is put first") << Change([e](Project& p) {
      p.elements = {e};
      std::swap(p.shots[0], p.shots[1]);
    }) << "" << 30 << 15;
    const auto paced = [e](const std::function<void(Shot&)>& how) {
      return Change([e, how](Project& p) {
        p.elements = {e};
        how(p.shots[1]);
      });
    };
    QTest::newRow("on its picture where the shot begins later")
        << paced([](Shot& shot) { shot.in = Rational(1, 2); }) << "" << 75 << 15;
    QTest::newRow("… is twice as fast") << paced([](Shot& shot) { shot.pace.speed = Rational(2); }) << "" << 75 << 7;
    QTest::newRow("… or goes backwards") << paced([](Shot& shot) { shot.pace.reversed = true; }) << "" << 75 << 15;
    QTest::newRow("from the beginning of a held picture")
        << paced([](Shot& shot) { shot.pace.held = Rational(3); }) << "" << 90 << 15;
    e.out = Rational(9);
    QTest::newRow("no longer than its shot") << with(e) << "" << 90 << 30;
    e.in = Rational(8);
    QTest::newRow("beyond its shot it is not seen") << with(e) << "" << 0 << 0;
    e = text("Vale");
    e.own["d2"].place.hidden = true;
    QTest::newRow("hidden here") << with(e) << "" << 0 << 0;
  }
  void seenWhenItShould() {
    QFETCH(const std::function<void(Project&)>, change);
    QFETCH(const QString, region);
    QFETCH(const int, first);
    QFETCH(const int, count);
    Project project = m_project;
    change(project);
    const Footage footage = probeFootage(project);
    const QStringList ends = region.split('-');
    const auto seconds = [](const QString& t) { return Rational(std::llround(t.toDouble() * 1000), 1000); };
    const std::string& tall = project.deliverables[1].id;
    const auto plan = region.isEmpty()
                          ? Plan::build(project, footage, tall)
                          : Plan::build(project, footage, tall, {"r1", "R", seconds(ends[0]), seconds(ends[1]), {}});
    QVERIFY(plan);
    QCOMPARE(plan->elements().size(), size_t(count > 0 ? 1 : 0));
    if (count == 0) return;
    QCOMPARE(plan->elements()[0].firstFrame, int64_t(first));
    QCOMPARE(plan->elements()[0].frameCount, int64_t(count));
  }

  // What `frame` shows is what a lossless export holds, sample by sample, where words come, stand and go, over a cut;
  // what is not under them is as it is without them; and the proof agrees.
  void theSameInFrameAndExport_data() {
    QTest::addColumn<int>("depth");
    QTest::newRow("8 bit") << 8;
    QTest::newRow("10 bit") << 10;
  }
  void theSameInFrameAndExport() {
    QFETCH(const int, depth);
    Project project = m_project;
    project.deliverables.resize(2);
    for (Deliverable& d : project.deliverables) {
      d.encoding.codec = Codec::Ffv1;
      d.encoding.speed.clear();
      d.encoding.container = Container::Mkv;
      d.format.depth = depth;
    }
    Element e = text("Fennick Vale", {Anchor::Bottom, 0, 0, 12, false});
    e.in = Rational(3, 2);
    e.out = Rational(3);
    e.fadeIn = e.fadeOut = Rational(1, 2);
    e.look.colour = {255, 200, 40};
    project.elements = {e};
    const auto made = test::exported(project, m_folder.filePath(QString::number(depth)).toStdString());
    QCOMPARE(test::faultsOf(made), QString());
    const Footage footage = probeFootage(project);
    Project bare = project;
    bare.elements.clear();
    for (size_t i = 0; i < 2; ++i) {
      const auto plan = Plan::build(project, footage, project.deliverables[i].id);
      const auto without = Plan::build(bare, footage, project.deliverables[i].id);
      const auto media = probe((*made)[i].path);
      QVERIFY(plan && without && media);
      auto file = PictureSource::open(readAsStated(*media));
      QVERIFY(file);
      PlanPictures pictures(*plan);
      PlanPictures plain(*without);
      const FrameRate& rate = plan->rate();
      for (const double at : {1.0, 1.6, 1.9, 2.1, 2.5, 2.9, 3.2}) {
        const int64_t n = rate.frameAt(Rational(std::llround(at * 10), 10));
        const auto shown = pictures.at(n);
        const auto kept = file->frameAt(n);
        const auto under = plain.at(n);
        QVERIFY(shown && kept && under);
        QVERIFY2(alike(*shown, *kept), qPrintable(QString::number(at)));
        QCOMPARE(alike(*shown, *under), at < 1.5 || at >= 3);
        bool above = true; // the upper half has no words
        for (int y = 0; y < (*shown)->height / 2; ++y)
          for (int x = 0; x < (*shown)->width; ++x)
            above = above && codeAt(**shown, 0, x, y) == codeAt(**under, 0, x, y);
        QVERIFY(above);
      }
    }
  }

  // A transparent still over the shots, at its size and place.
  void pictureLiesInItsCorner() {
    test::ffmpeg(QStringLiteral("-f lavfi -i color=c=red@1.0:s=40x20,format=rgba -frames:v 1 %1")
                     .arg(QString::fromStdString(at("mark.png"))));
    Project project = m_project;
    const auto media = probe(at("mark.png"));
    QVERIFY(media);
    project.sources.push_back(newSource(project, *media));
    Element e;
    e.id = "e1";
    e.kind = ElementKind::Picture;
    e.source = project.sources.back().id;
    e.place = {Anchor::TopRight, 0, 0, 20, false}; // 36 of 180, and so 72 wide
    e.out = Rational(4);
    project.elements = {e};
    const auto plan = Plan::build(project, probeFootage(project), project.deliverables[0].id);
    QVERIFY(plan);
    const auto shown = renderFrame(*plan, 10);
    QVERIFY(shown);
    // 320 × 180: the safe area ends at 304 and begins at 9. Red of BT.709 is 63 102 240.
    const auto red = [&](int x, int y) {
      const test::Yuv yuv = test::yuvAt(*shown, x, y);
      return std::abs(yuv.y - 63) <= 1 && std::abs(yuv.u - 102) <= 1 && std::abs(yuv.v - 240) <= 1;
    };
    QVERIFY(red(234, 11));
    QVERIFY(red(300, 43));
    QVERIFY(!red(228, 20));
    QVERIFY(!red(306, 20));
    QVERIFY(!red(260, 6));
    QVERIFY(!red(260, 47));
  }

  void keptInTheProject() {
    Project project = m_project;
    Element e = text("Fennick\nVale – שלום", {Anchor::TopRight, -3.5, 2, 7.25, false});
    e.look.family = "Some Font";
    e.look.box = 0.4;
    e.look.align = TextAlign::End;
    e.look.outlineColour = {1, 2, 3};
    e.fadeIn = Rational(1, 4);
    e.shot = project.shots[1].id;
    e.overButtons = true;
    e.own[project.deliverables[1].id] = {{Anchor::Left, 1, 2, 3, true}, "Fennick"};
    Element mark;
    mark.id = "e2";
    mark.kind = ElementKind::Picture;
    mark.source = project.sources[0].id;
    project.elements = {e, mark};
    const auto read = fromText(toText(project, {}), {}, "p.tromb");
    QVERIFY(read);
    QCOMPARE(read->elements, project.elements);
  }

  void brokenOnesAreRefused_data() {
    QTest::addColumn<QString>("from");
    QTest::addColumn<QString>("to");
    QTest::addColumn<QString>("where");
    QTest::newRow("no such anchor") << "\"bottom\""
                                    << "\"below\""
                                    << "/elements/0/place/anchor";
    QTest::newRow("no such kind") << "\"kind\": \"text\""
                                  << "\"kind\": \"film\""
                                  << "/elements/0/kind";
    QTest::newRow("no such shot") << "\"shot\": \""
                                  << "\"shot\": \"no"
                                  << "/elements/0/shot";
    QTest::newRow("too large") << "\"size\": 6.0"
                               << "\"size\": 1e9"
                               << "/elements/0/place/size";
    QTest::newRow("ends before it begins") << "\"out\": \"2/1\""
                                           << "\"out\": \"0/1\""
                                           << "/elements/0/out";
    QTest::newRow("no colour") << "#010203"
                               << "#01020g"
                               << "/elements/0/look/colour";
    QTest::newRow("an id that is there") << "\"id\": \"e2\""
                                         << "\"id\": \"e1\""
                                         << "/elements/1/id";
    QTest::newRow("no words") << "\"text\": \"Vale\""
                              << "\"text\": 7"
                              << "/elements/0/text";
  }
  void brokenOnesAreRefused() {
    QFETCH(const QString, from);
    QFETCH(const QString, to);
    QFETCH(const QString, where);
    Project project = m_project;
    project.shots.resize(1); // whose out point is not that of the element
    project.shots[0].out = Rational(1);
    Element e = text("Vale");
    e.shot = project.shots[0].id;
    e.look.colour = {1, 2, 3};
    project.elements = {e, text("Other")};
    project.elements[1].id = "e2";
    QString file = QString::fromStdString(toText(project, {}));
    const auto place = file.indexOf(from, file.indexOf("\"elements\""));
    QVERIFY2(place > 0, qPrintable(file));
    file.replace(place, from.size(), to);
    const auto read = fromText(file.toStdString(), {}, "p.tromb");
    QVERIFY(!read);
    QVERIFY2(read.error().where.text().find(where.toStdString()) != std::string::npos,
             read.error().where.text().c_str());
  }

  void whatCannotBeReadIsFound_data() {
    QTest::addColumn<Element>("element");
    QTest::addColumn<QString>("code"); // empty: none of them
    QTest::addColumn<QStringList>("in");
    const ElementPlace centre{Anchor::Centre, 0, 0, 8, false};
    Element good = text("Fennick Vale", centre);
    QTest::newRow("nothing is amiss") << good << "" << QStringList{};
    Element away = good;
    away.place.x = 75;
    QTest::newRow("over the edge") << away << "words-cut" << QStringList{"Wide", "Tall", "Square"};
    Element here = good;
    here.own["d2"].place = {Anchor::Centre, 90, 0, 8, false};
    QTest::newRow("in one shape alone") << here << "words-cut" << QStringList{"Tall"};
    Element small = good;
    small.place.size = 3; // 5.4 pixels of 180: 4.6 are needed of 320 that are turned, 5.5 of 180, 7.4 of 240
    QTest::newRow("too small on a phone") << small << "words-small" << QStringList{"Tall", "Square"};
    Element brief = text("This is far more than anybody reads in so short a time", {Anchor::Centre, 0, 0, 6, false});
    QTest::newRow("54 letters in 2 s are more than 17 a second") << brief << "words-brief" << QStringList{""};
    brief.out = Rational(16, 5);
    QTest::newRow("… and in 3.2 s are not") << brief << "" << QStringList{};
    Element font = good;
    font.look.family = "No Such Font Anywhere";
    QTest::newRow("no such font") << font << "font-missing" << QStringList{""};
    Element hidden = away;
    for (const char* d : {"d1", "d2", "d3"}) hidden.own[d].place.hidden = true;
    QTest::newRow("what is hidden is not looked at") << hidden << "" << QStringList{};
  }
  void whatCannotBeReadIsFound() {
    QFETCH(const Element, element);
    QFETCH(const QString, code);
    QFETCH(const QStringList, in);
    Project project = m_project;
    project.elements = {element};
    QStringList found;
    for (const Finding& f : preflight(project, probeFootage(project), {})) {
      if (!f.code.starts_with("words-") && !f.code.starts_with("font-")) continue;
      QCOMPARE(QString::fromStdString(f.code), code);
      found.push_back(QString::fromStdString(f.deliverable));
    }
    QCOMPARE(found, in);
  }

  void destinationsButtonsAreKeptClear() {
    Project project = m_project;
    project.deliverables[1].destination = "vertical-story";
    project.elements = {text("Fennick Vale", {Anchor::Bottom, 0, 0, 8, false})};
    const auto codes = [&] {
      QStringList all;
      for (const Finding& f : preflight(project, probeFootage(project), {}))
        if (f.code == "words-covered") all.push_back(QString::fromStdString(f.deliverable));
      return all;
    };
    QCOMPARE(codes(), QStringList());
    // As tall as all of the canvas there is no place beside them.
    project.elements[0].text = "Fennick\nVale\nBalloon\nMorning\nis\nlong\nand\ntall\nenough";
    project.elements[0].look.leastSize = 14;
    project.elements[0].place.size = 14;
    QCOMPARE(codes(), QStringList{"Tall"});
  }
};

QTEST_GUILESS_MAIN(TestElement)
#include "tst_element.moc"
