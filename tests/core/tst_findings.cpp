// SPDX-License-Identifier: GPL-3.0-or-later
// What preflight finds, how it is weighed, and what is accepted of it.
#include "analysis/Loudness.h"
#include "destination/Destination.h"
#include "media/read/FileIndex.h"
#include "preflight/Preflight.h"
#include "project/Choices.h"
#include "project/ProjectFile.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>
#include <functional>
#include <grp.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace tromb;

struct Scene {
  Project project;
  Footage footage;
  PreflightGrounds grounds;
  [[nodiscard]] std::vector<Finding> findings() const { return preflight(project, footage, grounds); }
};
using Change = std::function<void(Scene&)>;
Q_DECLARE_METATYPE(Change)

class TestFindings : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;

  /// A shot of 320×180 at 25 frames a second, five of them, that fills a canvas of 180×180.
  static Scene ground() {
    Scene g;
    const MediaInfo media = test::video("/a.mp4", {320, 180}, Rational(25), Rational(1, 5));
    Project& p = g.project;
    p.sources = {newSource(p, media)};
    p.shots = {newShot(p, p.sources[0], media)};
    Deliverable d;
    d.id = "d1";
    d.name = "d";
    d.canvas = {180, 180};
    p.deliverables = {d};
    p.deliverables[0].framings["h1"] = d.framingOf("h1");
    g.footage.emplace("s1", media);
    return g;
  }
  static QString codesOf(const std::vector<Finding>& findings) {
    QStringList all;
    for (const Finding& each : findings)
      all << QStringLiteral("%1 %2").arg(QString::fromStdString(each.code), severityWord(each.severity));
    return all.join(QLatin1String("; "));
  }
  /// A change of project and footage alone.
  static Change with(const std::function<void(Project&, Footage&)>& change) {
    return [change](Scene& g) { change(g.project, g.footage); };
  }
  /// Sound whose peaks stand at so many dB, the first of them clipped for so many tenths of a second; 10 s of it.
  static void hear(Scene& g, double peakDb, int clipped = 0) {
    MediaInfo& media = *g.footage.at("s1");
    media = test::video("/a.mp4", {320, 180}, Rational(25), Rational(10));
    media.audio.push_back({});
    media.audio[0].channels = 2;
    g.project.shots[0].out = Rational(10);
    Measured& measured = g.grounds.measured["s1"];
    measured.tenths.assign(100, {int16_t(std::lround(peakDb * 10)), false});
    for (int i = 0; i < clipped; ++i) measured.tenths[size_t(i)].clipped = true;
  }

private slots:
  // One thing that falls short is found, with its weight, and nothing else is; what is just good enough is not found.
  void whatFallsShortIsFound_data() {
    QTest::addColumn<Change>("change");
    QTest::addColumn<QString>("found"); // code and severity of each
    const auto row = [](const char* name, const char* found, const auto& change) {
      if constexpr (std::is_invocable_v<decltype(change), Project&, Footage&>)
        QTest::newRow(name) << with(change) << found;
      else
        QTest::newRow(name) << Change(change) << found;
    };
    const auto canvas = [](Size size, const char* framing = "fill") {
      return with([=](Project& p, Footage&) {
        p.deliverables[0].canvas = size;
        (void)framingByName(framing, p.deliverables[0].framings["h1"]);
      });
    };
    const auto video = [](const std::function<void(VideoInfo&)>& change) {
      return with([=](Project&, Footage& footage) { change(*footage.at("s1")->video); });
    };
    // The shot is 320×180 at 25 frames a second, its canvas 180×180.
    row("nothing", "", [](Project&, Footage&) {});
    row("bars", "bars warning", canvas({180, 180}, "fit"));
    row("a backdrop in their place", "", canvas({180, 180}, "backdrop"));
    row("bars that the shape has not", "", canvas({320, 180}, "fit"));
    // A canvas of 9:16 as high as the picture shows 101.25 of its columns on 102: 0.993.
    row("a shape that is a little soft", "soft warning; enlarged-canvas warning", canvas({102, 182}));
    row("the largest that is sharp", "", canvas({100, 178}));
    row("soft, never to be", "never-enlarge error; enlarged-canvas warning", [](Project& p, Footage&) {
      p.deliverables[0].sharpOnly = true;
      p.deliverables[0].canvas = {102, 182};
    });
    row("a zoom", "soft warning",
        [](Project& p, Footage&) { p.deliverables[0].framings["h1"].windows[0].zoom = 1.01; });
    row("odd", "odd-size error", canvas({180, 179}));
    row("a level", "level-too-low error", [](Project& p, Footage&) {
      p.deliverables[0].canvas = {320, 180};
      p.deliverables[0].encoding.level = "1"; // 99 macroblocks: Rec. ITU-T H.264, table A-1
    });
    row("a level that carries it", "", [](Project& p, Footage&) {
      p.deliverables[0].canvas = {320, 180};
      p.deliverables[0].encoding.level = "1.2"; // 396 macroblocks
    });
    row("lossless, which the profile has not", "settings error; too-many-bits note", [](Project& p, Footage&) {
      p.deliverables[0].encoding.rateControl = RateControl::ConstantQuality;
      p.deliverables[0].encoding.crf = 0;
    });
    row("missing", "source-missing error",
        [](Project&, Footage& footage) { footage.at("s1") = fail(ErrorCode::Missing, say("the file is gone"), "/a"); });
    row("unreadable", "source-unreadable error",
        [](Project&, Footage& footage) { footage.at("s1") = fail(ErrorCode::Unreadable, say("it is broken"), "/a"); });
    row("interlaced", "interlaced note", video([](VideoInfo& v) { v.scan = Scan::TopFieldFirst; }));
    row("interlaced, but somebody knows better", "", [](Project& p, Footage& footage) {
      footage.at("s1")->video->scan = Scan::TopFieldFirst;
      p.sources[0].scan = Scan::Progressive;
    });
    const auto stamps = [](int backward, int jumps) {
      return std::function<void(Project&, Footage&)>([=](Project&, Footage& footage) {
        auto index = std::make_shared<FileIndex>();
        index->backward = backward;
        index->jumps.resize(size_t(jumps));
        footage.at("s1")->index = index;
      });
    };
    row("stamps in order", "", stamps(0, 0));
    row("stamps that go back", "backward-stamps note", stamps(2, 0));
    row("a clock that begins anew", "backward-stamps note", stamps(0, 1));
    row("PQ", "hdr note", video([](VideoInfo& v) { v.colour.transfer = 16; })); // Rec. ITU-T H.273, table 3
    row("HLG", "hdr note", video([](VideoInfo& v) { v.colour.transfer = 18; }));
    row("HLG by its label alone", "", [](Project& p, Footage& footage) {
      footage.at("s1")->video->colour.transfer = 18;
      p.sources[0].colour = kRec709;
    });
    row("BT.2020, 10 bit, no HDR", "", video([](VideoInfo& v) { v.colour.transfer = 14; }));
    row("transparent", "transparent note", video([](VideoInfo& v) { v.alpha = true; }));
    row("another rate", "rate-mismatch note",
        [](Project& p, Footage&) { p.deliverables[0].rate = FrameRate(Rational(30)); });
    row("twice the rate", "doubled-frames note",
        [](Project& p, Footage&) { p.deliverables[0].rate = FrameRate(Rational(50)); });
    row("another rate, for slow motion", "", [](Project& p, Footage&) {
      p.deliverables[0].rate = FrameRate(Rational(30));
      p.sources[0].slowMotion = true;
    });
    const auto heard = [](double down, const Rational& speed) {
      return std::function<void(Project&, Footage&)>([=](Project& p, Footage& footage) {
        AudioInfo sound;
        sound.channels = down > 0 ? 6 : 2;
        sound.downMixDb = down;
        footage.at("s1")->audio.push_back(sound);
        p.shots[0].pace.speed = speed;
      });
    };
    row("stereo", "", heard(0, Rational(1)));
    row("six channels", "down-mixed note", heard(7.7, Rational(1)));
    row("six channels in 5.1", "", [=](Project& p, Footage& footage) {
      heard(7.7, Rational(1))(p, footage);
      p.deliverables[0].encoding.sound.channels = 6;
    });
    row("sound alone, and none", "no-sound error",
        [](Project& p, Footage&) { p.deliverables[0].encoding.sound.place = SoundPlace::Alone; });
    row("sound alone, of a canvas that is too large", "", [=](Project& p, Footage& footage) {
      heard(0, Rational(1))(p, footage);
      p.deliverables[0].canvas = {7680, 4320};
      p.deliverables[0].encoding.sound.place = SoundPlace::Alone;
    });
    row("half speed, with sound", "doubled-frames note", heard(0, Rational(1, 2)));
    row("half speed, silent", "doubled-frames note",
        [](Project& p, Footage&) { p.shots[0].pace.speed = Rational(1, 2); });
    row("beyond the end", "beyond-source error",
        [](Project& p, Footage&) { p.shots[0].out = p.shots[0].out + Rational(1); });
    const auto move = [](double seconds) {
      return with([=](Project& p, Footage& footage) {
        // From edge to edge: 140 of the picture's pixels, 7/9 of the window's width.
        footage.at("s1")->duration = Rational(100);
        footage.at("s1")->video->clock = FrameClock(FrameRate(), 2500);
        p.shots[0].out = Rational(100);
        Window& window = p.deliverables[0].framings["h1"].windows[0];
        window.follows = false;
        window.move = {{Rational(0), 90 / 320.0, 0.5, 1, Ease::Linear, {}},
                       {Rational(std::lround(seconds * 10), 10), 230 / 320.0, 0.5, 1, Ease::Linear, {}}};
      });
    };
    row("a fast move", "fast-move note", move(5.4)); // common practice, no published source: seven seconds a width
    row("a move that is slow enough", "", move(5.5));
    row("a small still under it", "soft-still warning", [](Project& p, Footage& footage) {
      Source still = p.sources[0];
      still.id = "s2";
      p.sources.push_back(still);
      footage.emplace("s2", *footage.at("s1"));
      footage.at("s2")->kind = MediaKind::Still;
      footage.at("s2")->video->stored = {179, 179};
      Framing& framing = p.deliverables[0].framings["h1"];
      (void)framingByName("backdrop", framing);
      framing.ground = Ground::Still;
      framing.still = "s2";
    });
    row("another file than it was", "source-changed warning", [](Scene& g) { g.grounds.changed = {"s1"}; });
    // What is measured.
    const auto moving = [](double motion, const Rational& rate, bool slow = false) {
      return [=](Scene& g) {
        g.grounds.measured["s1"].motion = {{1, motion}};
        g.project.deliverables[0].rate = FrameRate(rate);
        g.project.sources[0].slowMotion = slow;
      };
    };
    row("fast motion, every frame shown", "", moving(60, Rational(25)));
    row("fast motion at half the rate", "dropped-frames warning", moving(60, Rational(25, 2)));
    row("little motion at half the rate", "", moving(4, Rational(25, 2)));
    row("nothing moves, unevenly dropped", "", moving(1.9, Rational(20)));
    row("hardly anything moves, unevenly dropped", "rate-mismatch note", moving(2.1, Rational(20)));
    row("nothing moves, doubled", "", moving(1.9, Rational(50)));
    row("every frame once", "", [=](Scene& g) {
      moving(60, Rational(20))(g);
      g.project.shots[0].treatment = Treatment::EveryFrame;
    });
    row("mixed", "mixed-frames note", [=](Scene& g) {
      moving(60, Rational(20))(g);
      g.project.deliverables[0].treatment = Treatment::Mixed;
    });
    row("interpolated", "interpolated-frames note", [=](Scene& g) {
      moving(60, Rational(20))(g);
      g.project.deliverables[0].treatment = Treatment::Interpolated;
    });
    row("interpolated, every frame shown", "", [=](Scene& g) {
      moving(60, Rational(25))(g);
      g.project.deliverables[0].treatment = Treatment::Interpolated;
    });
    row("fast motion, unevenly dropped", "dropped-frames warning; rate-mismatch note", moving(60, Rational(20)));
    row("fast motion, unevenly doubled", "rate-mismatch note", moving(60, Rational(30)));
    row("fast motion elsewhere in its source", "", [](Scene& g) {
      g.grounds.measured["s1"].motion = {{0.05, 4}, {0.15, 60}};
      g.project.shots[0].out = Rational(1, 10);
      g.project.deliverables[0].rate = FrameRate(Rational(25, 2));
    });
    row("fast motion, to be shown slowly", "", moving(60, Rational(20), true));
    row("pictures repeated in a cycle", "repeated-pictures note", [](Scene& g) {
      g.grounds.measured["s1"].repeats = Repeats{2, 1};
    });
    row("pictures repeated in no cycle", "repeated-pictures note",
        [](Scene& g) { g.grounds.measured["s1"].repeated = 0.3; });
    row("pictures hardly repeated", "", [](Scene& g) { g.grounds.measured["s1"].repeated = 0.1; });
    row("taken at the rate that they were made at", "doubled-frames note", [](Scene& g) { // 12.5 at 25
      g.grounds.measured["s1"].repeats = Repeats{2, 1};
      g.project.sources[0].repeats = Repeats{2, 1};
    });
    row("copied, and its rate is another", "rate-mismatch note; encoded-shot note", [](Scene& g) {
      g.project.deliverables[0].rate = FrameRate(Rational(30));
      chooseCopies(g.project.deliverables[0], true);
    });
    row("combs that somebody reads as progressive", "combed warning", [](Scene& g) {
      g.grounds.measured["s1"].scan = Scan::TopFieldFirst;
      g.project.sources[0].scan = Scan::Progressive;
    });
    row("combs that are taken apart", "interlaced note", [](Scene& g) {
      g.grounds.measured["s1"].scan = Scan::TopFieldFirst;
      g.project.sources[0].scan = Scan::TopFieldFirst;
    });
    // Sound. Silence: the gate of Rec. ITU-R BS.1770-4, −70, taken of peaks.
    const auto loud = [](double peakDb, double levelDb, int clipped = 0) {
      return [=](Scene& g) {
        hear(g, peakDb, clipped);
        g.project.shots[0].levelDb = levelDb;
      };
    };
    row("sound as it should be", "", loud(-6, 0));
    row("sound that is nearly silent", "", loud(-69, 0));
    row("silent sound", "silent warning", loud(-71, 0));
    row("silent sound that is muted", "", [](Scene& g) {
      hear(g, -71);
      g.project.shots[0].muted = true;
    });
    row("silent sound of a silent file", "", [](Scene& g) {
      hear(g, -71);
      g.project.deliverables[0].encoding.sound.place = SoundPlace::None;
    });
    row("silence that was measured of other sound than is heard", "", [](Scene& g) {
      hear(g, -71);
      g.footage.at("s1")->audio.push_back(g.footage.at("s1")->audio[0]);
      g.project.sources[0].sound = {1};
    });
    row("sound of which the silent part is shown", "silent warning", [](Scene& g) {
      hear(g, -6);
      for (int i = 20; i < 40; ++i) g.grounds.measured["s1"].tenths[size_t(i)].peak = -1200;
      g.project.shots[0].in = Rational(2);
      g.project.shots[0].out = Rational(4);
    });
    row("sound that touches full scale now and then", "", loud(0, 0, 3));
    row("clipped sound", "clipped warning", loud(0, 0, 4));
    row("clipped before the shot begins", "", [](Scene& g) {
      hear(g, 0, 20);
      g.project.shots[0].in = Rational(2);
    });
    row("a level up to full scale", "", loud(-6, 6));
    row("a level above full scale", "too-loud warning", loud(-6, 6.1));
    row("a level that a loudness turns down again", "", [](Scene& g) {
      hear(g, -6);
      g.project.shots[0].levelDb = 12;
      g.project.output.loudnessLufs = -23;
    });
    const auto together = [](double bedDb, Rational start, bool duck = false) {
      return [=](Scene& g) {
        hear(g, -6);
        SoundBed bed;
        bed.id = "b1";
        bed.source = "s1";
        bed.start = start;
        bed.out = Rational(2);
        bed.levelDb = bedDb;
        bed.duck = duck;
        g.project.beds = {bed};
      };
    };
    row("two sounds up to full scale together", "", together(-0.1, Rational(1)));
    row("two sounds above it", "too-loud warning", together(1, Rational(1)));
    row("two sounds above it, of which one gives way", "", together(1, Rational(1), true));
    row("two sounds above it, one after the other", "", together(1, Rational(1000)));
    // Colour, bits, files.
    row("no HDR where there is to be", "sdr-in-hdr note", [](Project& p, Footage&) {
      chooseCodec(p.deliverables[0], Codec::Hevc);
      chooseColour(p.deliverables[0], kHlg);
    });
    row("HDR where there is to be", "", [](Project& p, Footage& footage) {
      footage.at("s1")->video->colour = kHlg;
      chooseCodec(p.deliverables[0], Codec::Hevc);
      chooseColour(p.deliverables[0], kHlg);
    });
    const auto share = [](double ofUsual) { // of the usual bit rate
      return [=](Project& p, Footage&) {
        Deliverable& d = p.deliverables[0];
        chooseBitRate(d, int64_t(double(usualBitRate(d.canvas, d.rate)) * ofUsual));
      };
    };
    row("a third of the usual bits", "too-few-bits warning", share(0.33));
    row("half of the usual bits", "", share(0.5));
    row("thrice the usual bits", "too-many-bits note", share(3));
    const auto two = [](const char* first, const char* second, SoundPlace place) {
      return [=](Scene& g) {
        hear(g, -6);
        auto& all = g.project.deliverables;
        all.push_back(all[0]);
        all[1].id = "d2";
        all[0].name = first;
        all[1].name = second;
        all[0].encoding.sound.place = place;
        g.grounds.place = OutputPlace{QDir::tempPath().toStdString() + "/tromb-nothing-here", "P", {}, false};
      };
    };
    row("two names", "", two("A", "B", SoundPlace::Within));
    row("two names that are one in a file system", "name-clash error", two("A/B", "A:B", SoundPlace::Within));
    row("sound beside its own picture", "", two("A", "B", SoundPlace::Beside));
    const auto long_ = [](int64_t seconds) {
      return [=](Scene& g) {
        const Rational length(seconds);
        g.footage.at("s1")->duration = length;
        g.footage.at("s1")->video->clock = FrameClock(FrameRate(), seconds * 25);
        g.project.shots[0].out = length;
        chooseCodec(g.project.deliverables[0], Codec::Ffv1);
        g.grounds.place = OutputPlace{QDir::tempPath().toStdString(), "P", {}, false};
      };
    };
    row("what goes on a disk", "", long_(1));
    row("more than any disk holds", "disk-space error", long_(1'000'000'000)); // some 600 TB
  }
  void whatFallsShortIsFound() {
    QFETCH(const Change, change);
    QFETCH(const QString, found);
    Scene g = ground();
    change(g);
    const auto findings = g.findings();
    // Its hint follows: it ends without a full stop.
    for (const Finding& each : findings)
      QVERIFY2(!QString::fromStdString(each.message.text()).contains(QRegularExpression("[a-z]{4}\\.( |$)")),
               each.message.text().c_str());
    QCOMPARE(codesOf(findings), found);
  }

  // A source that is gone may be in hundreds of shots.
  void aFindingNamesAFewShots() {
    Scene g = ground();
    g.footage.at("s1") = fail(ErrorCode::Missing, say("the file is gone"), "/a.mp4");
    Project& p = g.project;
    for (int i = 2; i <= 8; ++i) {
      p.shots.push_back(p.shots.front());
      p.shots.back().id = p.shots.back().name = "h" + std::to_string(i);
    }
    p.shots.front().name = "h1";
    QCOMPARE(g.findings().at(0).shot, std::string("h1, h2, h3, h4, h5 and 3 more"));
    QCOMPARE(g.findings().at(0).shotId, std::string("h1"));
  }

  // A framing that travels faster than a picture's width in seven seconds is told, and one as slow as that is not; a
  // shot that is shown at another speed travels so much faster or slower.
  void fastMovesAreNoted_data() {
    QTest::addColumn<double>("pixels"); // across, in the shot's five seconds
    QTest::addColumn<Rational>("speed");
    QTest::addColumn<bool>("noted");
    // 1920×1080 to 1080×1920: the window is 607.5 wide; 5/7 of it in five seconds is the measure.
    QTest::newRow("rests") << 0.0 << Rational(1) << false;
    QTest::newRow("slow") << 420.0 << Rational(1) << false;
    QTest::newRow("fast") << 450.0 << Rational(1) << true;
    QTest::newRow("slow, shown twice as fast") << 420.0 << Rational(2) << true;
    QTest::newRow("fast, shown at half speed") << 450.0 << Rational(1, 2) << false;
  }
  void fastMovesAreNoted() {
    QFETCH(double, pixels);
    QFETCH(Rational, speed);
    QFETCH(bool, noted);
    MediaInfo media;
    media.path = "/a.mp4";
    media.duration = Rational(5);
    media.video.emplace();
    media.video->stored = {1920, 1080};
    media.video->clock = FrameClock(FrameRate(), 125);
    Project p;
    p.sources = {newSource(p, media)};
    p.shots = {newShot(p, p.sources[0], media)};
    p.shots[0].pace.speed = speed;
    Deliverable d;
    d.id = d.name = "d";
    d.canvas = {1080, 1920};
    Framing framing;
    framing.windows = {Window{}};
    const double half = pixels / 1920 / 2;
    framing.windows[0].move = {{Rational(0), 0.5 - half, 0.5, 1, Ease::Linear, {}},
                               {Rational(5), 0.5 + half, 0.5, 1, Ease::Linear, {}}};
    d.framings["h1"] = framing;
    p.deliverables = {d};
    const auto findings = preflight(p, {{"s1", media}});
    const auto found =
        std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.code == "fast-move"; });
    QCOMPARE(found != findings.end(), noted);
    if (noted)
      QVERIFY(found->severity == Severity::Note && found->message.text().find("width in") != std::string::npos);
  }

  // Where a subject lies on the canvas: cut away, outside the destination's safe area, under what it shows over it.
  void subjectsAreSeen_data() {
    QTest::addColumn<QByteArray>("destination");
    QTest::addColumn<double>("x"); // wanted in the canvas; the picture is 3840×2160 and the window 607.5 by 1080 of it
    QTest::addColumn<double>("y");
    QTest::addColumn<bool>("follows");
    QTest::addColumn<double>("goes"); // across the picture in the shot's ten seconds
    QTest::addColumn<QString>("found");
    const QByteArray story = "vertical-story";       // what it shows over the picture: its own file says it
    const QByteArray screen = "broadcast-review-50"; // EBU R 95: 5 % at each side
    QTest::newRow("in the middle") << story << 0.5 << 0.4 << true << 0.0 << "";
    QTest::newRow("in the middle, moving with it") << story << 0.5 << 0.4 << true << 0.3 << "";
    QTest::newRow("at the upper edge") << story << 0.5 << 0.01 << true << 0.0 << "subject-covered 10.0";
    QTest::newRow("at the right edge, high up") << story << 0.999 << 0.4 << true << 0.0 << "";
    QTest::newRow("at the right edge, under buttons") << story << 0.999 << 0.6 << true << 0.0 << "subject-covered 10.0";
    QTest::newRow("no destination") << QByteArray() << 0.5 << 0.01 << true << 0.0 << "";
    QTest::newRow("inside the safe area") << screen << 0.06 << 0.5 << true << 0.0 << "";
    QTest::newRow("outside the safe area") << screen << 0.04 << 0.5 << true << 0.0 << "subject-outside 10.0";
    // The window rests: out of the safe area after half of 90 % of its width, 2.37 s; out of the window after 2.64 s.
    QTest::newRow("walking out past the safe area")
        << screen << 0.5 << 0.5 << false << 0.3 << "subject-outside 7.6 7.4";
    QTest::newRow("above the safe area") << screen << 0.5 << 0.04 << true << 0.0 << "subject-outside 10.0";
    // The window rests in the middle, half of its width is 0.0791 of the picture: it has gone out of it after 2.64 s.
    QTest::newRow("walking out of the picture")
        << story << 0.5 << 0.4 << false << 0.3 << "subject-outside 7.4; subject-covered 0.8"; // by buttons, on its way
  }
  void subjectsAreSeen() {
    QFETCH(QByteArray, destination);
    QFETCH(double, x);
    QFETCH(double, y);
    QFETCH(bool, follows);
    QFETCH(double, goes);
    QFETCH(QString, found);
    Scene g = ground();
    const MediaInfo media = test::video("/a.mp4", {3840, 2160}, Rational(25), Rational(10));
    g.footage.at("s1") = media;
    Shot& shot = g.project.shots[0];
    shot.out = Rational(10);
    Subject subject;
    subject.move = {{Rational(0), 0.5, 0.5, 1, Ease::Linear, {}}};
    if (goes > 0) subject.move.push_back({Rational(10), 0.5 + goes, 0.5, 1, Ease::Linear, {}});
    subject.atX = x;
    subject.atY = y;
    shot.subjects = {subject};
    Deliverable& d = g.project.deliverables[0];
    d.canvas = {1080, 1920};
    d.destination = destination.toStdString();
    Window window = Framing::follower();
    window.follows = follows;
    window.zoom = 2; // so that it can follow up and down too
    d.framings["h1"] = Framing();
    d.framings["h1"].windows = {window};
    QStringList all;
    for (const Finding& f : g.findings()) {
      if (f.code.rfind("subject", 0) != 0) continue;
      QString said = QString::fromStdString(f.code);
      auto seconds =
          QRegularExpression(QStringLiteral("for ([0-9.]+) s")).globalMatch(QString::fromStdString(f.message.text()));
      while (seconds.hasNext()) said += QLatin1Char(' ') + seconds.next().captured(1);
      all << said;
    }
    QCOMPARE(all.join(QLatin1String("; ")), found);
  }

  // How much a finding weighs is the project's; what stops an export always weighs the same.
  void theProjectWeighs_data() {
    QTest::addColumn<QByteArray>("code");
    QTest::addColumn<int>("severity");
    QTest::addColumn<QString>("found");
    QTest::newRow("as usual") << QByteArray("bars") << int(Severity::Warning)
                              << "odd-size error; soft warning; enlarged-canvas warning";
    QTest::newRow("heavier") << QByteArray("soft") << int(Severity::Error)
                             << "odd-size error; soft error; enlarged-canvas warning";
    QTest::newRow("lighter") << QByteArray("soft") << int(Severity::Note)
                             << "odd-size error; enlarged-canvas warning; soft note";
    QTest::newRow("ignored") << QByteArray("soft") << int(Severity::Ignored)
                             << "odd-size error; enlarged-canvas warning";
    QTest::newRow("what stops, ignored") << QByteArray("odd-size") << int(Severity::Ignored)
                                         << "odd-size error; soft warning; enlarged-canvas warning";
  }
  void theProjectWeighs() {
    QFETCH(QByteArray, code);
    QFETCH(int, severity);
    QFETCH(QString, found);
    Scene g = ground();
    g.project.deliverables[0].canvas = {301, 300};
    g.project.checks.severities[code.toStdString()] = Severity(severity);
    QCOMPARE(codesOf(g.findings()), found);
  }

  // What was accepted weighs as a note, and comes back when it rests on something else.
  void whatIsAcceptedComesBack_data() {
    QTest::addColumn<Change>("change");
    QTest::addColumn<bool>("accepted");
    const auto row = [](const char* name, bool accepted, const Change& change) {
      QTest::newRow(name) << change << accepted;
    };
    row("nothing changed", true, [](Scene&) {});
    row("another name", true, [](Scene& g) { g.project.shots[0].name = "another"; });
    row("zoomed a little less", false,
        [](Scene& g) { g.project.deliverables[0].framings["h1"].windows[0].zoom = 1.3; });
    row("another file", false, [](Scene& g) { g.project.sources[0].fingerprint = "another"; });
    row("another shot of it", false, [](Scene& g) {
      g.project.shots[0].id = "h2";
      g.project.deliverables[0].framings["h2"] = g.project.deliverables[0].framings["h1"];
    });
  }
  void whatIsAcceptedComesBack() {
    QFETCH(const Change, change);
    QFETCH(bool, accepted);
    Scene g = ground();
    g.project.deliverables[0].framings["h1"].windows[0].zoom = 1.5;
    const auto before = g.findings();
    QCOMPARE(codesOf(before), QStringLiteral("soft warning"));
    g.project.checks.accepted = {acceptanceOf(before[0], "it is meant so")};
    change(g);
    const auto after = g.findings();
    QCOMPARE(codesOf(after), accepted ? QStringLiteral("soft note") : QStringLiteral("soft warning"));
    QCOMPARE(QString::fromStdString(after[0].word), accepted ? QStringLiteral("it is meant so") : QString());
  }

  // What it rests on may be longer than any name, and no text: what was accepted can be read again all the same.
  void acceptancesOfLongPathsAreKept() {
    Scene g = ground();
    g.project.sources[0].path = "/" + std::string(4000, 'p') + "\xff.mp4";
    g.grounds.changed = {"s1"};
    g.project.checks.accepted = {acceptanceOf(g.findings()[0], "known")};
    const auto read = fromText(toText(g.project, "/"), "/");
    QVERIFY2(read, read ? "" : sentence(read.error()).c_str());
    g.project = *read;
    QCOMPARE(codesOf(g.findings()), QStringLiteral("source-changed note"));
  }

  // Of a part of the running order only what lies in it counts.
  void aPartHasItsOwn_data() {
    QTest::addColumn<Rational>("in");
    QTest::addColumn<Rational>("out");
    QTest::addColumn<QString>("found");
    QTest::newRow("the sharp shot") << Rational(0) << Rational(1, 5) << "";
    QTest::newRow("a frame of the soft one too") << Rational(0) << Rational(6, 25) << "soft warning";
    QTest::newRow("the soft shot") << Rational(1, 5) << Rational(2, 5) << "soft warning";
  }
  void aPartHasItsOwn() {
    QFETCH(Rational, in);
    QFETCH(Rational, out);
    QFETCH(QString, found);
    Scene g = ground();
    g.project.shots.push_back(g.project.shots[0]);
    g.project.shots[1].id = "h2";
    Framing& soft = g.project.deliverables[0].framings["h2"] = g.project.deliverables[0].framings["h1"];
    soft.windows[0].zoom = 2;
    g.project = partOf(g.project, {"r1", "Part", in, out, {}});
    QCOMPARE(codesOf(g.findings()), found);
  }

  // What stops an export cannot be accepted.
  void whatStopsIsNotAccepted() {
    Scene g = ground();
    g.project.deliverables[0].canvas = {180, 179};
    g.project.checks.accepted = {acceptanceOf(g.findings()[0], "never mind")};
    QCOMPARE(codesOf(g.findings()), QStringLiteral("odd-size error"));
  }

  // Folders that cannot be written to, looked at by somebody who may not do everything.
  void foldersAreLookedAt_data() {
    QTest::addColumn<QString>("folder");
    QTest::addColumn<QString>("found");
    QTest::newRow("writable") << "open"
                              << "";
    QTest::newRow("in a writable one, to be made") << "open/new/newer"
                                                   << "";
    QTest::newRow("closed") << "closed"
                            << "folder-not-writable";
    QTest::newRow("in a closed one, to be made") << "closed/new"
                                                 << "folder-not-writable";
    QTest::newRow("a file") << "file"
                            << "folder-not-writable";
    QTest::newRow("a file of its name is there") << "full"
                                                 << "file-exists";
  }
  void foldersAreLookedAt() {
    QFETCH(QString, folder);
    QFETCH(QString, found);
    QVERIFY(QDir(m_folder.path()).mkpath("open"));
    QVERIFY(QDir(m_folder.path()).mkpath("closed"));
    QVERIFY(QDir(m_folder.path()).mkpath("full"));
    for (const char* name : {"file", "full/P d.mp4"}) {
      QFile file(m_folder.filePath(QLatin1String(name)));
      QVERIFY(file.open(QIODevice::WriteOnly));
    }
    const auto world = QFile::ReadOwner | QFile::ExeOwner | QFile::ReadOther | QFile::ExeOther;
    QFile::setPermissions(m_folder.path(), world | QFile::WriteOwner);
    QFile::setPermissions(m_folder.filePath("open"), world | QFile::WriteOwner | QFile::WriteOther);
    QFile::setPermissions(m_folder.filePath("full"), world | QFile::WriteOwner | QFile::WriteOther);
    QFile::setPermissions(m_folder.filePath("closed"), world);
    Scene g = ground();
    g.grounds.place = OutputPlace{m_folder.filePath(folder).toStdString(), "P", {}, false};
    const pid_t child = fork();
    if (child == 0) {
      constexpr uid_t kNobody = 65534;
      if (geteuid() == 0 && (setgroups(0, nullptr) != 0 || setgid(kNobody) != 0 || setuid(kNobody) != 0)) _exit(2);
      const auto findings = g.findings();
      _exit((findings.empty() ? found.isEmpty() : findings.size() == 1 && found.toStdString() == findings[0].code) ? 0
                                                                                                                   : 1);
    }
    int status = 0;
    QVERIFY(waitpid(child, &status, 0) == child);
    QVERIFY2(WIFEXITED(status) && WEXITSTATUS(status) == 0, qPrintable(found));
    QFile::setPermissions(m_folder.filePath("closed"), world | QFile::WriteOwner);
  }

  // Every finding that can be mended by a change of its shot, or of a bed, is gone afterwards.
  void shotsAreMended_data() {
    QTest::addColumn<Change>("spoil");
    QTest::addColumn<QString>("code");
    QTest::newRow("too loud") << Change([](Scene& g) {
      hear(g, -6.4);
      g.project.shots[0].levelDb = 11;
    }) << "too-loud";
    QTest::newRow("longer than its source")
        << Change([](Scene& g) { g.project.shots[0].out = Rational(3); }) << "beyond-source";
    QTest::newRow("a bed that is too loud beside its shot") << Change([](Scene& g) {
      hear(g, -6.4);
      g.project.beds = {SoundBed{}};
      g.project.beds[0].id = "b1";
      g.project.beds[0].source = g.project.shots[0].source;
      g.project.beds[0].levelDb = 3;
    }) << "too-loud";
    QTest::newRow("a bed that is too loud") << Change([](Scene& g) {
      hear(g, -6.4);
      g.project.shots[0].muted = true;
      g.project.beds = {SoundBed{}, SoundBed{}};
      for (SoundBed& bed : g.project.beds) bed.source = g.project.shots[0].source;
      g.project.beds[0].id = "b1";
      g.project.beds[1].id = "b2";
      g.project.beds[0].levelDb = kLeastLevelDb;
      g.project.beds[1].levelDb = 11;
    }) << "too-loud";
  }
  void shotsAreMended() {
    QFETCH(const Change, spoil);
    QFETCH(QString, code);
    Scene g = ground();
    spoil(g);
    const auto findings = g.findings();
    QVERIFY(findings.size() == 1 && findings[0].code == code.toStdString());
    const Fix& fix = findings[0].fixes.front();
    if (fix.changeShot) fix.changeShot(g.project.shots[0]);
    if (fix.changeBeds) fix.changeBeds(g.project.beds);
    QCOMPARE(codesOf(g.findings()), QString());
  }

  // Peaks and clipped stretches of made sound: a tone of −12 dBFS, silence, and a tone cut off at full scale.
  void peaksAreMeasured() {
    constexpr int kRate = 48'000;
    constexpr double kTone = 440;
    PeakMeter meter;
    std::vector<float> sound;
    const auto add = [&](double amplitude, double seconds) {
      for (int i = 0; i < int(seconds * kRate); ++i) {
        const double value = std::clamp(amplitude * std::sin(2 * M_PI * kTone * i / kRate), -1.0, 1.0);
        sound.insert(sound.end(), {float(value), float(value / 2)});
      }
    };
    add(std::pow(10, -12 / 20.0), 0.5);
    add(0, 0.5);
    add(2, 0.55);
    for (size_t at = 0; at < sound.size(); at += 2 * 1001) // in pieces that do not fit tenths
      meter.add(sound.data() + at, int64_t(std::min<size_t>(1001, (sound.size() - at) / 2)));
    const auto& tenths = meter.tenths();
    QCOMPARE(tenths.size(), size_t(16));
    for (size_t i = 0; i < tenths.size(); ++i) {
      const SoundTenth expected = i < 5    ? SoundTenth{-120, false}
                                  : i < 10 ? SoundTenth{-1200, false}
                                           : SoundTenth{0, true};
      QVERIFY2(tenths[i] == expected, qPrintable(QStringLiteral("%1: %2").arg(i).arg(tenths[i].peak)));
    }
  }
};

QTEST_GUILESS_MAIN(TestFindings)
#include "tst_findings.moc"
