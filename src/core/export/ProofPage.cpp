// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/ProofPage.h"

#include "Printed.h"
#include "io/AtomicFile.h"
#include "io/TemporaryFolder.h"
#include "media/read/Probe.h"
#include "picture/PictureSource.h"
#include "picture/Scaler.h"
#include "render/PictureFile.h"
#include "render/Pictures.h"
#include "time/Timecode.h"

extern "C" {
#include <libavutil/base64.h>
#include <libavutil/frame.h>
}

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>

namespace tromb {
namespace {

constexpr int kLongSide = 480; ///< of a picture
constexpr int kWide = 960;     ///< of what is drawn along the time
constexpr int kBits = 120;
constexpr int kLoud = 80;
constexpr int kLike = 80;
constexpr size_t kUnlikeShown = 3;

constexpr const char* kStyle =
    ":root{color-scheme:light dark}body{font:16px/1.5 sans-serif;max-width:60em;margin:2em auto;padding:0 1em}"
    "h1{font-size:1.5em;margin:0}h2{font-size:1.15em;margin:2em 0 .5em}h3{font-size:1em;margin:1em 0 "
    ".5em}.pair{display:inline-block;margin-right:2em}"
    ".verdict{font-size:1.2em;margin:.3em 0 1em}"
    ".short{color:#b3261e}@media(prefers-color-scheme:dark){.short{color:#ff8a80}}"
    "table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.3em .8em .3em 0;"
    "border-bottom:1px solid #8884;vertical-align:top}figure{display:inline-block;margin:0 1em 1em 0}"
    "figcaption{font-size:.85em}img{display:block;max-width:100%}svg{width:100%;height:auto;display:block}";

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text)
    out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '"' ? "&quot;" : std::string(1, c);
  return out;
}

class Page {
public:
  Page(const ProofPageSubject& subject, const Message::Translate& translate, std::stop_token stop)
      : m_subject(subject), m_translate(translate), m_stop(std::move(stop)) {}

  Result<std::string> made() {
    const ProofReport& report = *m_subject.report;
    const std::string name = escaped(std::filesystem::path(m_subject.path).filename().string());
    m_out = "<!doctype html><html><head><meta charset=\"utf-8\"><title>" + name + "</title><style>" + kStyle +
            "</style></head><body><h1>" + name + "</h1>";
    const auto wrong = std::count_if(report.checks.begin(), report.checks.end(), [](const auto& c) { return !c.pass; });
    m_out += std::string("<p class=\"verdict") + (wrong > 0 ? " short" : "") + "\">" +
             said(wrong > 0 ? sayCounted("%n things are not as asked", "one thing is not as asked", int64_t(wrong))
                            : say("Everything is as asked")) +
             "</p>";
    if (wrong > 0) {
      m_out += "<ul>";
      for (const ProofCheck& check : report.checks)
        if (!check.pass) m_out += "<li>" + said(check.title()) + ": " + said(check.found) + "</li>";
      m_out += "</ul>";
    }
    curves();
    if (const Status shown = found(); !shown) return tl::unexpected(shown.error());
    checks();
    return m_out + "</body></html>\n";
  }

private:
  [[nodiscard]] std::string said(const Message& message) const { return escaped(message.text(m_translate)); }
  void heading(const Message& words) { m_out += "<h2>" + said(words) + "</h2>"; }

  [[nodiscard]] double x(double seconds) const {
    return kWide * std::clamp(seconds / std::max(1e-3, m_subject.report->curves.seconds), 0.0, 1.0);
  }

  /// Opens a drawing, with a line at every mark.
  void beginBand(int height, const Message& words) {
    m_out += "<p>" + said(words) + printed("</p><svg viewBox=\"0 0 %d %d\" role=\"img\">", kWide, height);
    m_out += printed("<rect width=\"%d\" height=\"%d\" fill=\"#8882\"/>", kWide, height);
  }
  void endBand(int height) {
    for (const ProofCurves::Mark& mark : m_subject.report->curves.marks)
      m_out += printed("<path d=\"M%.1f 0V%d\" stroke=\"#b3261e\" stroke-width=\"1.5\"/>", x(mark.at), height);
    m_out += "</svg>";
  }

  void curves() {
    const ProofCurves& c = m_subject.report->curves;
    if (!c.bitRate.empty()) {
      const double largest = double(*std::max_element(c.bitRate.begin(), c.bitRate.end()));
      const auto [most, limited] = c.bitRateHeight();
      heading(say("Along its time"));
      beginBand(kBits, say("Bits of the picture, second by second; at most %1 Mb/s", printed("%.2f", largest / 1e6)));
      m_out += printed("<path fill=\"#3a7bd588\" d=\"M0 %d", kBits);
      for (size_t i = 0; i < c.bitRate.size(); ++i)
        m_out += printed("V%.1fH%.1f", kBits * (1 - double(c.bitRate[i]) / most), x(double(i) + 1));
      m_out += printed("V%dZ\"/>", kBits);
      if (limited)
        m_out += printed("<path d=\"M0 %.1fH%d\" stroke=\"#888\" stroke-dasharray=\"6 4\"/>",
                         kBits * (1 - c.mostBitRate / most), kWide);
      endBand(kBits);
    }
    if (!c.likeness.empty()) {
      const double floor = c.likenessFloor();
      beginBand(kLike, say("Likeness to what was composed (SSIM), from %1 to 1; %2 on average", printed("%.2f", floor),
                           printed("%.3f", c.meanLikeness())));
      m_out += "<path fill=\"none\" stroke=\"#3a7bd5\" stroke-width=\"1.5\" d=\"";
      const std::vector<float> least = c.likenessIn(kWide / 2);
      for (size_t i = 0; i < least.size(); ++i)
        m_out += printed("%c%.1f %.1f", i == 0 ? 'M' : 'L', (double(i) + 0.5) * kWide / double(least.size()),
                         kLike * std::clamp((1 - double(least[i])) / (1 - floor), 0.0, 1.0));
      m_out += "\"/>";
      endBand(kLike);
    }
    if (!c.loudness.empty()) {
      const auto y = [](double lufs) { return kLoud * std::clamp(lufs / ProofCurves::kQuietest, 0.0, 1.0); };
      beginBand(kLoud, say("Short-term loudness, from %1 to 0 LUFS", "−" + printed("%.0f", -ProofCurves::kQuietest)));
      m_out += "<path fill=\"none\" stroke=\"#3a7bd5\" stroke-width=\"2\" d=\"";
      for (size_t i = 0; i < c.loudness.size(); ++i)
        m_out += printed("%c%.1f %.1f", i == 0 ? 'M' : 'L', x(double(i) + 1), y(double(c.loudness[i])));
      m_out += "\"/>";
      if (c.loudnessTarget < 0)
        m_out +=
            printed("<path d=\"M0 %.1fH%d\" stroke=\"#888\" stroke-dasharray=\"6 4\"/>", y(c.loudnessTarget), kWide);
      endBand(kLoud);
    }
  }

  /// A picture small enough for a page, as it stands in HTML.
  Result<std::string> image(const Frame& picture, const Message& words) {
    const double scale = std::min(1.0, double(kLongSide) / std::max(picture->width, picture->height));
    const Size size{std::max(2, int(std::lround(picture->width * scale)) / 2 * 2),
                    std::max(2, int(std::lround(picture->height * scale)) / 2 * 2)};
    auto scaler = Scaler::build(picture, {0, 0, double(picture->width), double(picture->height)}, size, CanvasFormat());
    if (!scaler) return tl::unexpected(scaler.error());
    const auto small = scaler->run(picture);
    if (!small) return tl::unexpected(small.error());
    const std::string path = m_folder->path() + "/picture";
    if (const Status done = writePicture(*small, path, PictureKind::Jpeg, true); !done)
      return tl::unexpected(done.error());
    const auto bytes = readWholeFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    std::string text(size_t(AV_BASE64_SIZE(bytes->size())), '\0');
    av_base64_encode(text.data(), int(text.size()), reinterpret_cast<const uint8_t*>(bytes->data()),
                     int(bytes->size()));
    text.resize(text.find('\0'));
    return "<figure><img src=\"data:image/jpeg;base64," + text + "\"><figcaption>" + said(words) +
           "</figcaption></figure>";
  }

  /// Pictures at what was found.
  Status found() {
    std::map<std::string, std::vector<double>> kinds;
    for (const ProofCurves::Mark& mark : m_subject.report->curves.marks) kinds[mark.code].push_back(mark.at);
    const auto unlike =
        m_subject.plan ? m_subject.report->curves.leastLike(kUnlikeShown) : std::vector<ProofCurves::Unlike>();
    if (kinds.empty() && unlike.empty()) return {};
    auto folder = TemporaryFolder::create();
    if (!folder) return tl::unexpected(folder.error());
    m_folder.emplace(std::move(*folder));
    const auto media = probe(m_subject.path, {.stop = m_stop, .indexFolder = {}});
    if (!media) return tl::unexpected(media.error());
    if (media->kind != MediaKind::Video) return {};
    auto source = PictureSource::open(readAsStated(*media), {.stop = m_stop});
    if (!source) return tl::unexpected(source.error());
    m_source.emplace(std::move(*source));
    if (m_subject.plan) m_planned.emplace(*m_subject.plan, m_stop);
    if (!kinds.empty()) heading(say("What was found"));
    const FrameClock& clock = media->video->clock;
    for (const auto& [code, times] : kinds) {
      m_out += "<h3>" + said(ProofCheck{code, {}, {}}.title()) + "</h3>";
      std::vector<int64_t> frames;
      for (const double at : {times.front(), times[times.size() / 2], times.back()})
        frames.push_back(clock.nearest(Rational(std::llround(at * 1000), 1000)));
      frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
      for (const int64_t frame : frames)
        if (const Status shown = pair(clock, frame, {}); !shown) return shown;
    }
    if (unlike.empty()) return {};
    heading(say("Where it is least like what was composed"));
    for (const ProofCurves::Unlike& each : unlike)
      if (const Status shown = pair(clock, each.frame, say("SSIM %1", printed("%.3f", each.ssim))); !shown)
        return shown;
    return {};
  }

  /// A picture of the file beside the one that was composed.
  Status pair(const FrameClock& clock, int64_t frame, const Message& how) {
    const auto picture = m_source->frameAt(frame);
    if (!picture) return tl::unexpected(picture.error());
    const std::string time = clockText(clock.timeOf(frame));
    auto shown = image(*picture, how.empty() ? say("%1, frame %2, in the file", time, frame)
                                             : say("%1, frame %2, in the file: %3", time, frame, how));
    if (!shown) return tl::unexpected(shown.error());
    m_out += "<div class=\"pair\">" + *shown;
    if (m_planned && frame < m_subject.plan->frameCount()) {
      const auto composed = m_planned->at(frame);
      if (!composed) return tl::unexpected(composed.error());
      shown = image(*composed, say("as it was composed"));
      if (!shown) return tl::unexpected(shown.error());
      m_out += *shown;
    }
    m_out += "</div>";
    return {};
  }

  void checks() {
    heading(say("Every check"));
    m_out +=
        "<table><tr><th></th><th></th><th>" + said(say("found")) + "</th><th>" + said(say("expected")) + "</th></tr>";
    for (const ProofCheck& check : m_subject.report->checks)
      m_out += std::string(check.pass ? "<tr><td>" : "<tr class=\"short\"><td>") +
               (!check.made  ? "–"
                : check.pass ? "✓"
                             : "✗") +
               "</td><td>" + said(check.title()) + "</td><td>" + said(check.found) + "</td><td>" +
               said(check.expected) + "</td></tr>";
    m_out += "</table>";
  }

  const ProofPageSubject& m_subject;
  const Message::Translate& m_translate;
  std::stop_token m_stop;
  std::optional<TemporaryFolder> m_folder;
  std::optional<PictureSource> m_source;
  std::optional<PlanPictures> m_planned;
  std::string m_out;
};

} // namespace

Result<std::string> proofPage(const ProofPageSubject& subject, const Message::Translate& translate,
                              std::stop_token stop) {
  return Page(subject, translate, std::move(stop)).made();
}

} // namespace tromb
