// SPDX-License-Identifier: GPL-3.0-or-later
#include "element/ElementDrawing.h"

#include "io/DataFolder.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fontconfig/fontconfig.h>
#include <memory>
#include <mutex>
#include <numbers>
#include <opencv2/imgproc.hpp>
#include <optional>
#include <pango/pangocairo.h>

namespace tromb {
namespace {

constexpr double kShrinks = 0.94; ///< one step of a text that does not fit
constexpr double kShadowDown = 0.06;
constexpr double kShadowBlur = 0.09;
constexpr double kNarrower = 0.9; ///< one step of a measure that leads under a destination's buttons
constexpr double kNarrowest = 0.5;
constexpr double kTouch = 0.01; ///< pixels by which something may reach over an edge: rounding

template <auto Free> struct FreedBy {
  template <typename T> void operator()(T* what) const { Free(what); }
};
template <typename T, auto Free> using Owned = std::unique_ptr<T, FreedBy<Free>>;
using Surface = Owned<cairo_surface_t, cairo_surface_destroy>;
using Pen = Owned<cairo_t, cairo_destroy>;
using LaidText = Owned<PangoLayout, g_object_unref>;
using FontMap = Owned<PangoFontMap, g_object_unref>;
using Context = Owned<PangoContext, g_object_unref>;
using Description = Owned<PangoFontDescription, pango_font_description_free>;
using Attributes = Owned<PangoAttrList, pango_attr_list_unref>;
using FontOptions = Owned<cairo_font_options_t, cairo_font_options_destroy>;

/// The program's own fonts are known to all that lay out text, beside those of the system.
void useOwnFonts() {
  static std::once_flag once;
  std::call_once(once, [] {
    const std::string folder = dataFolder() + "/fonts";
    FcConfigAppFontAddDir(FcConfigGetCurrent(), reinterpret_cast<const FcChar8*>(folder.c_str()));
  });
}

/// What lays out text in one thread.
PangoContext* context() {
  useOwnFonts();
  thread_local const FontMap map(pango_cairo_font_map_new());
  thread_local const Context made = [] {
    Context context(pango_font_map_create_context(map.get()));
    const FontOptions options(cairo_font_options_create());
    cairo_font_options_set_hint_style(options.get(), CAIRO_HINT_STYLE_NONE);
    cairo_font_options_set_hint_metrics(options.get(), CAIRO_HINT_METRICS_OFF);
    cairo_font_options_set_antialias(options.get(), CAIRO_ANTIALIAS_GRAY);
    pango_cairo_context_set_font_options(context.get(), options.get());
    pango_context_set_round_glyph_positions(context.get(), 0);
    return context;
  }();
  return made.get();
}

double shorter(Size size) {
  return std::min(size.width, size.height);
}

RectF pixelsOf(const RectF& share, Size of) {
  return {share.x * of.width, share.y * of.height, share.width * of.width, share.height * of.height};
}

bool meet(const RectF& a, const RectF& b) {
  return a.x < b.right() - kTouch && b.x < a.right() - kTouch && a.y < b.bottom() - kTouch && b.y < a.bottom() - kTouch;
}

bool inside(const RectF& a, const RectF& b) {
  return a.x >= b.x - kTouch && a.y >= b.y - kTouch && a.right() <= b.right() + kTouch &&
         a.bottom() <= b.bottom() + kTouch;
}

bool isCovered(const RectF& at, const ElementCanvas& canvas) {
  return std::ranges::any_of(canvas.covered, [&](const RectF& part) { return meet(at, pixelsOf(part, canvas.shown)); });
}

/// A text laid out on a canvas.
struct Laid {
  LaidText layout;
  double size;       ///< of its letters, pixels
  RectF letters;     ///< of the layout's own origin
  double room = 0;   ///< round them, for the box
  bool words = true; ///< no word was broken
};

PangoAlignment alignmentOf(TextAlign align) {
  return align == TextAlign::Start    ? PANGO_ALIGN_LEFT
         : align == TextAlign::Middle ? PANGO_ALIGN_CENTER
                                      : PANGO_ALIGN_RIGHT; // Pango turns them round for right-to-left text
}

Laid laidAt(const TextLook& look, const std::string& text, double size, double measure) {
  Laid laid{LaidText(pango_layout_new(context())), size, {}, look.box > 0 ? look.padding * size : 0};
  PangoLayout* const layout = laid.layout.get();
  const Description font(pango_font_description_new());
  pango_font_description_set_family(font.get(), look.family.c_str());
  pango_font_description_set_weight(font.get(), PangoWeight(look.weight));
  if (look.italic) pango_font_description_set_style(font.get(), PANGO_STYLE_ITALIC);
  pango_font_description_set_absolute_size(font.get(), size * PANGO_SCALE);
  pango_layout_set_font_description(layout, font.get());
  pango_layout_set_text(layout, text.data(), int(text.size()));
  pango_layout_set_alignment(layout, alignmentOf(look.align));
  pango_layout_set_line_spacing(layout, float(look.lineSpacing));
  if (look.letterSpacing != 0) {
    const Attributes all(pango_attr_list_new());
    pango_attr_list_insert(all.get(), pango_attr_letter_spacing_new(int(look.letterSpacing * size * PANGO_SCALE)));
    pango_layout_set_attributes(layout, all.get());
  }
  const double width = std::max(1.0, measure - 2 * laid.room);
  pango_layout_set_wrap(layout, PANGO_WRAP_WORD);
  pango_layout_set_width(layout, int(width * PANGO_SCALE));
  PangoRectangle logical;
  pango_layout_get_extents(layout, nullptr, &logical);
  if (double(logical.width) / PANGO_SCALE > width + 1) {
    laid.words = false;
    pango_layout_set_wrap(layout, PANGO_WRAP_WORD_CHAR);
    pango_layout_get_extents(layout, nullptr, &logical);
  }
  // As wide as its lines are, so that it can be held by its own edges.
  pango_layout_set_width(layout, logical.width + 2);
  pango_layout_get_extents(layout, nullptr, &logical);
  laid.letters = {double(logical.x) / PANGO_SCALE, double(logical.y) / PANGO_SCALE, double(logical.width) / PANGO_SCALE,
                  double(logical.height) / PANGO_SCALE};
  return laid;
}

struct LaidPlaced {
  Laid laid;
  RectF lies;
};

LaidPlaced laidOn(const Element& element, const std::string& deliverable, const ElementCanvas& canvas) {
  const ElementPlace place = element.placeIn(deliverable);
  const std::string& text = element.textIn(deliverable);
  const TextLook& look = element.look;
  const RectF within = pixelsOf(canvas.within, canvas.shown);
  const double asked = place.size / 100 * shorter(canvas.shown);
  const double least = std::min(asked, look.leastSize / 100 * shorter(canvas.shown));
  const auto at = [&](double measure) {
    for (double size = asked;; size = std::max(least, size * kShrinks)) {
      Laid laid = laidAt(look, text, size, measure);
      const bool fits = laid.words && laid.letters.height + 2 * laid.room <= within.height;
      if (!fits && size > least) continue;
      const RectF lies = placed({laid.letters.width + 2 * laid.room, laid.letters.height + 2 * laid.room}, place,
                                canvas, element.overButtons);
      return LaidPlaced{std::move(laid), lies};
    }
  };
  const double measure = look.measure / 100 * within.width;
  LaidPlaced best = at(measure);
  if (element.overButtons || !isCovered(best.lies, canvas)) return best;
  for (double narrower = kNarrower; narrower >= kNarrowest; narrower *= kNarrower)
    if (LaidPlaced other = at(measure * narrower); !isCovered(other.lies, canvas)) return other;
  return best;
}

/// The family of the font that the first letters really have.
std::string familyOf(PangoLayout* layout) {
  const Owned<PangoLayoutIter, pango_layout_iter_free> runs(pango_layout_get_iter(layout));
  do {
    const PangoLayoutRun* run = pango_layout_iter_get_run_readonly(runs.get());
    if (!run) continue;
    const Description font(pango_font_describe(run->item->analysis.font));
    const char* family = pango_font_description_get_family(font.get());
    return family ? family : "";
  } while (pango_layout_iter_next_run(runs.get()));
  return {};
}

TextFacts factsOf(const LaidPlaced& at, const ElementCanvas& canvas) {
  const RectF whole{0, 0, double(canvas.shown.width), double(canvas.shown.height)};
  return {at.lies,
          at.laid.size,
          pango_layout_get_line_count(at.laid.layout.get()),
          familyOf(at.laid.layout.get()),
          at.laid.words && inside(at.lies, whole),
          isCovered(at.lies, canvas)};
}

void setColour(cairo_t* pen, const Colour& colour, double opaque) {
  cairo_set_source_rgba(pen, colour.red / 255.0, colour.green / 255.0, colour.blue / 255.0, opaque);
}

void boxPath(cairo_t* pen, const RectF& box, double corner) {
  const double r = std::min({corner, box.width / 2, box.height / 2});
  constexpr double kQuarter = std::numbers::pi / 2;
  cairo_new_sub_path(pen);
  cairo_arc(pen, box.right() - r, box.y + r, r, -kQuarter, 0);
  cairo_arc(pen, box.right() - r, box.bottom() - r, r, 0, kQuarter);
  cairo_arc(pen, box.x + r, box.bottom() - r, r, kQuarter, 2 * kQuarter);
  cairo_arc(pen, box.x + r, box.y + r, r, 2 * kQuarter, 3 * kQuarter);
  cairo_close_path(pen);
}

/// A raster for part of the canvas, with a pen that draws in pixels of the canvas as it is shown.
class Raster {
public:
  Raster(const PixelRect& at, Size drawn, Size shown)
      : m_at(at), m_surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, at.width, at.height)),
        m_pen(cairo_create(m_surface.get())) {
    cairo_translate(m_pen.get(), -at.x, -at.y);
    cairo_scale(m_pen.get(), double(drawn.width) / shown.width, double(drawn.height) / shown.height);
  }
  [[nodiscard]] cairo_t* pen() const { return m_pen.get(); }
  /// What is drawn, in place.
  [[nodiscard]] cv::Mat pixels() const {
    cairo_surface_flush(m_surface.get());
    return {m_at.height, m_at.width, CV_8UC4, cairo_image_surface_get_data(m_surface.get()),
            size_t(cairo_image_surface_get_stride(m_surface.get()))};
  }
  void lay(const Raster& other) {
    cairo_surface_mark_dirty(other.m_surface.get());
    cairo_save(pen());
    cairo_identity_matrix(pen());
    cairo_set_source_surface(pen(), other.m_surface.get(), 0, 0);
    cairo_paint(pen());
    cairo_restore(pen());
  }
  [[nodiscard]] bool good() const {
    return cairo_status(m_pen.get()) == CAIRO_STATUS_SUCCESS &&
           cairo_surface_status(m_surface.get()) == CAIRO_STATUS_SUCCESS;
  }

private:
  PixelRect m_at;
  Surface m_surface;
  Pen m_pen;
};

void strokeLetters(cairo_t* pen, PangoLayout* layout, double width) {
  pango_cairo_layout_path(pen, layout);
  cairo_set_line_join(pen, CAIRO_LINE_JOIN_ROUND);
  cairo_set_line_width(pen, 2 * width);
  cairo_stroke(pen);
}

} // namespace

RectF placed(SizeF element, const ElementPlace& place, const ElementCanvas& canvas, bool overButtons) {
  const RectF within = pixelsOf(canvas.within, canvas.shown);
  const double side = shorter(canvas.shown) / 100;
  RectF at{within.x + acrossOf(place.anchor) * (within.width - element.width) + place.x * side,
           within.y + downOf(place.anchor) * (within.height - element.height) + place.y * side, element.width,
           element.height};
  if (overButtons || !isCovered(at, canvas)) return at;
  // The shortest way beside, above or below one of the covered parts that lies over none of the others.
  std::optional<RectF> best;
  double least = 0;
  const auto consider = [&](RectF other) {
    const double way = std::hypot(other.x - at.x, other.y - at.y);
    if (!inside(other, within) || isCovered(other, canvas) || (best && way >= least)) return;
    best = other;
    least = way;
  };
  std::vector<double> across{at.x};
  std::vector<double> down{at.y};
  for (const RectF& part : canvas.covered) {
    const RectF c = pixelsOf(part, canvas.shown);
    across.insert(across.end(), {c.x - at.width, c.right()});
    down.insert(down.end(), {c.y - at.height, c.bottom()});
  }
  for (const double x : across)
    for (const double y : down) consider({x, y, at.width, at.height});
  return best.value_or(at);
}

Result<TextFacts> layOutText(const Element& element, const std::string& deliverable, const ElementCanvas& canvas) {
  if (canvas.shown.width < 1 || canvas.shown.height < 1)
    return fail(ErrorCode::InvalidArgument, say("the canvas has no size"));
  return factsOf(laidOn(element, deliverable, canvas), canvas);
}

Result<DrawnElement> drawText(const Element& element, const std::string& deliverable, const ElementCanvas& canvas,
                              Size drawn) {
  if (canvas.shown.width < 1 || canvas.shown.height < 1 || drawn.width < 1 || drawn.height < 1)
    return fail(ErrorCode::InvalidArgument, say("the canvas has no size"));
  const LaidPlaced at = laidOn(element, deliverable, canvas);
  const TextLook& look = element.look;
  PangoLayout* const layout = at.laid.layout.get();
  DrawnElement made;
  made.text = factsOf(at, canvas);

  // Everything that is inked: letters may reach beyond their own extents, the shadow beyond the letters.
  PangoRectangle ink;
  pango_layout_get_extents(layout, &ink, nullptr);
  const double originX = at.lies.x + at.laid.room - at.laid.letters.x;
  const double originY = at.lies.y + at.laid.room - at.laid.letters.y;
  const double round =
      look.outline * at.laid.size + (look.shadow > 0 ? (3 * kShadowBlur + kShadowDown) * at.laid.size : 0) + 2;
  RectF all{originX + double(ink.x) / PANGO_SCALE - round, originY + double(ink.y) / PANGO_SCALE - round,
            double(ink.width) / PANGO_SCALE + 2 * round, double(ink.height) / PANGO_SCALE + 2 * round};
  if (look.box > 0) {
    const double right = std::max(all.right(), at.lies.right() + 1);
    const double bottom = std::max(all.bottom(), at.lies.bottom() + 1);
    all.x = std::min(all.x, at.lies.x - 1);
    all.y = std::min(all.y, at.lies.y - 1);
    all.width = right - all.x;
    all.height = bottom - all.y;
  }
  const double scaleX = double(drawn.width) / canvas.shown.width;
  const double scaleY = double(drawn.height) / canvas.shown.height;
  // Only what is on the canvas.
  const int left = std::clamp(int(std::floor(all.x * scaleX)), 0, drawn.width);
  const int top = std::clamp(int(std::floor(all.y * scaleY)), 0, drawn.height);
  const int right = std::clamp(int(std::ceil(all.right() * scaleX)), left, drawn.width);
  const int bottom = std::clamp(int(std::ceil(all.bottom() * scaleY)), top, drawn.height);
  if (right == left || bottom == top) return made;
  made.at = {left, top, right - left, bottom - top};

  Raster raster(made.at, drawn, canvas.shown);
  cairo_t* const pen = raster.pen();
  if (look.box > 0) {
    boxPath(pen, at.lies, look.corner * at.laid.size);
    setColour(pen, look.boxColour, look.box);
    cairo_fill(pen);
  }
  if (look.shadow > 0) {
    Raster shade(made.at, drawn, canvas.shown);
    setColour(shade.pen(), {}, look.shadow);
    cairo_move_to(shade.pen(), originX, originY + kShadowDown * at.laid.size);
    if (look.outline > 0) strokeLetters(shade.pen(), layout, look.outline * at.laid.size);
    cairo_move_to(shade.pen(), originX, originY + kShadowDown * at.laid.size);
    pango_cairo_show_layout(shade.pen(), layout);
    if (!shade.good()) return fail(ErrorCode::Encoder, say("memory has run out"), {}, say("Close other programs"));
    cv::Mat pixels = shade.pixels();
    // Of pictures among the letters only the outline throws a shadow.
    std::array<cv::Mat, 4> parts;
    cv::split(pixels, parts.data());
    cv::GaussianBlur(parts[3], parts[3], {}, std::max(0.3, kShadowBlur * at.laid.size * scaleX / 2));
    for (int i = 0; i < 3; ++i) parts[size_t(i)] = cv::Scalar(0);
    cv::merge(parts.data(), parts.size(), pixels);
    raster.lay(shade);
  }
  if (look.outline > 0) {
    setColour(pen, look.outlineColour, 1);
    cairo_move_to(pen, originX, originY);
    strokeLetters(pen, layout, look.outline * at.laid.size);
  }
  setColour(pen, look.colour, 1);
  cairo_move_to(pen, originX, originY);
  pango_cairo_show_layout(pen, layout);
  if (!raster.good()) return fail(ErrorCode::Encoder, say("memory has run out"), {}, say("Close other programs"));
  const cv::Mat pixels = raster.pixels();
  made.bytes.resize(size_t(made.at.width) * size_t(made.at.height) * 4);
  pixels.copyTo(cv::Mat(made.at.height, made.at.width, CV_8UC4, made.bytes.data()));
  return made;
}

RectF placedPicture(SizeF picture, const Element& element, const std::string& deliverable,
                    const ElementCanvas& canvas) {
  const ElementPlace place = element.placeIn(deliverable);
  const double scale =
      place.size / 100 * shorter(canvas.shown) / std::max(1.0, std::min(picture.width, picture.height));
  return placed({picture.width * scale, picture.height * scale}, place, canvas, element.overButtons);
}

std::vector<std::string> fontFamilies() {
  useOwnFonts();
  PangoFontFamily** families = nullptr;
  int count = 0;
  pango_font_map_list_families(pango_context_get_font_map(context()), &families, &count);
  std::vector<std::string> names;
  for (int i = 0; i < count; ++i) names.emplace_back(pango_font_family_get_name(families[i]));
  g_free(families);
  std::sort(names.begin(), names.end());
  names.erase(std::unique(names.begin(), names.end()), names.end());
  return names;
}

} // namespace tromb
