// SPDX-License-Identifier: GPL-3.0-or-later
// Files of captions: those of the standards, broken ones and long ones; burned into pictures, or written beside them.
#include "element/CaptionFile.h"
#include "project/ProjectFile.h"
#include "render/Plan.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"

#include <QElapsedTimer>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>

using namespace tromb;

namespace {

using Captions = std::vector<Caption>;

Caption caption(int64_t in, int64_t out, const std::string& text) {
  return {Rational(in, 1000), Rational(out, 1000), text};
}

} // namespace

Q_DECLARE_METATYPE(std::vector<tromb::Caption>)

class TestCaptions : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const char* name) const { return m_folder.filePath(name); }

private slots:
  void filesAreRead_data() {
    QTest::addColumn<QByteArray>("file");
    QTest::addColumn<Captions>("captions");
    QTest::addColumn<int>("dropped");
    const auto row = [](const char* name, const QByteArray& file, const Captions& captions, int dropped = 0) {
      QTest::newRow(name) << file << captions << dropped;
    };
    const Captions two{caption(1000, 4000, "First"), caption(5500, 7250, "Second\nin two lines")};
    row("SubRip", "1\n00:00:01,000 --> 00:00:04,000\nFirst\n\n2\n00:00:05,500 --> 00:00:07,250\nSecond\nin two lines\n",
        two);
    row("ends of lines of another system, a mark of order, no end",
        "\xEF\xBB\xBF"
        "1\r\n00:00:01,000 --> 00:00:04,000\r\nFirst\r\n\r\n2\r\n00:00:05,500 --> 00:00:07,250\r\nSecond\r\nin two "
        "lines",
        two);
    row("points for commas, no numbers, blanks",
        " 00:00:01.000 --> 00:00:04.0 \nFirst\n \n0:00:05.5-->0:00:07.25\nSecond\nin two lines\n", two);
    row("not in order",
        "2\n00:00:05,500 --> 00:00:07,250\nSecond\nin two lines\n\n1\n00:00:01,000 --> 00:00:04,000\nFirst\n", two);
    row("no blank line between them",
        "1\n00:00:01,000 --> 00:00:04,000\nFirst\n2\n00:00:05,500 --> 00:00:07,250\nSecond\nin two lines\n", two);
    row("marks", "1\n00:00:01,000 --> 00:00:02,000\n{\\an8}<i>One</i> <font color=\"#f00\">two</font> 3 < 4\n",
        {caption(1000, 2000, "One two 3 < 4")});
    row("broken ones are left out and counted",
        "1\n00:00:04,000 --> 00:00:01,000\nback\n\n2\n00:00:xx,000 --> 00:00:05,000\nno time\n\n3\n00:00:06,000 --> "
        "00:00:07,000\ngood\n\n4\n00:61:00,000 --> 00:62:00,000\nno minutes\n",
        {caption(6000, 7000, "good")}, 3);
    row("Windows-1252", "1\n00:00:01,000 --> 00:00:02,000\nSch\xF6n \x96 caf\xE9\n",
        {caption(1000, 2000, "Schön – café")});
    row("bytes that Windows-1252 lacks", "1\n00:00:01,000 --> 00:00:02,000\nA\x81\xF6\n",
        {caption(1000, 2000, "A\u0081ö")});
    row("marked as UTF-16, and is not",
        QByteArray("\xFF\xFE"
                   "1\n00:00:01,000 --> 00:00:02,000\nA\xD8",
                   36),
        {caption(1000, 2000, "A\uFFFD")});
    QByteArray wide("\xFF\xFE", 2);
    for (const char16_t c : std::u16string(u"1\n00:00:01,000 --> 00:00:02,000\nשלום\n")) {
      wide.append(char(c & 0xFF));
      wide.append(char(c >> 8));
    }
    row("UTF-16", wide, {caption(1000, 2000, "שלום")});
    // The examples of "WebVTT: The Web Video Text Tracks Format" (W3C), 1.1 to 1.4, from memory; names are made up.
    row("WebVTT",
        "WEBVTT\n\n00:11.000 --> 00:13.000\n<v Ada>We are in the vale\n\n00:13.000 --> 00:16.000\n<v Ada>It is "
        "six &amp; cold\n",
        {caption(11000, 13000, "We are in the vale"), caption(13000, 16000, "It is six & cold")});
    row("WebVTT with notes, styles, regions, names and settings",
        "WEBVTT - a title\nKind: captions\n\nNOTE\nfor nobody --\n\nSTYLE\n::cue { color: red "
        "}\n\nREGION\nid:fred\nwidth:40%\n\n"
        "first\n00:00:01.000 --> 00:00:02.000 align:start position:20%\n<c.loud>One</c> <00:00:01.500>two\n\n"
        "100:00:00.000 --> 100:00:01.000\nlate\n",
        {caption(1000, 2000, "One two"), caption(360'000'000, 360'001'000, "late")});
  }
  void filesAreRead() {
    QFETCH(const QByteArray, file);
    QFETCH(const Captions, captions);
    QFETCH(const int, dropped);
    const auto read = parseCaptions(std::string_view(file.data(), size_t(file.size())));
    QVERIFY(read);
    QCOMPARE(read->captions, captions);
    QCOMPARE(int(read->dropped), dropped);
  }

  void noCaptionsAreRefused_data() {
    QTest::addColumn<QByteArray>("file");
    QTest::newRow("empty") << QByteArray();
    QTest::newRow("other text") << QByteArray("Dear all,\n\nthis is no film.\n");
    QTest::newRow("only a head") << QByteArray("WEBVTT\n\n");
    QTest::newRow("binary") << QByteArray(4000, '\xFF');
    QTest::newRow("arrows alone") << QByteArray("-->\n-->\n --> \n");
  }
  void noCaptionsAreRefused() {
    QFETCH(const QByteArray, file);
    const auto read = parseCaptions(std::string_view(file.data(), size_t(file.size())));
    QVERIFY(!read);
    QCOMPARE(read.error().code, ErrorCode::NotMedia);
  }

  // What is written is read again by ourselves and by FFmpeg, which makes the other kind of it.
  void whatIsWrittenIsReadByOthers_data() {
    QTest::addColumn<int>("format");
    QTest::newRow("SubRip") << int(CaptionFormat::SubRip);
    QTest::newRow("WebVTT") << int(CaptionFormat::WebVtt);
  }
  void whatIsWrittenIsReadByOthers() {
    QFETCH(const int, format);
    const Captions captions{caption(0, 999, "One & <two>"), caption(61'001, 3'600'000, "Zwei\nZeilen – שלום"),
                            caption(3'600'000, 3'661'500, "Three\n\nwithout a gap")};
    const std::string text = captionFile(captions, CaptionFormat(format));
    Captions wanted = captions;
    wanted[2].text = "Three\nwithout a gap";
    const auto again = parseCaptions(text);
    QVERIFY(again);
    if (CaptionFormat(format) == CaptionFormat::SubRip) wanted[0].text = "One & "; // which has no way to write "<two>"
    for (Caption& each : wanted)
      if (each.text == "One & ") each.text = "One &";
    QCOMPARE(again->captions, wanted);
    const bool vtt = CaptionFormat(format) == CaptionFormat::WebVtt;
    const QString mine = at(vtt ? "mine.vtt" : "mine.srt");
    QFile file(mine);
    QVERIFY(file.open(QIODevice::WriteOnly) && file.write(text.data(), qint64(text.size())) == qint64(text.size()));
    file.close();
    const QString theirs = at(vtt ? "theirs.srt" : "theirs.vtt");
    test::ffmpeg(QStringLiteral("-i %1 %2").arg(mine, theirs));
    const auto read = readCaptions(theirs.toStdString());
    QVERIFY(read);
    QCOMPARE(read->captions.size(), size_t(3));
    for (size_t i = 0; i < 3; ++i) {
      QCOMPARE(read->captions[i].in, captions[i].in);
      QCOMPARE(read->captions[i].out, captions[i].out);
    }
    QCOMPARE(read->captions[1].text, captions[1].text);
  }

  // Ten thousand go through file, project and plan as they are; those that lie in a shot go along with it.
  void tenThousandAreKept() {
    test::writeClip(at("a.mp4").toStdString(), {64, 36}, FrameRate(), 50, test::texture);
    Project project = test::project({at("a.mp4").toStdString(), at("a.mp4").toStdString()}, {{"Wide", {64, 36}}});
    Captions many;
    for (int64_t i = 0; i < 10'000; ++i)
      many.push_back(caption(i * 400 + 150, i * 400 + 450, "Caption " + std::to_string(i)));
    const auto read = parseCaptions(captionFile(many, CaptionFormat::SubRip));
    QVERIFY(read);
    QCOMPARE(read->captions, many);
    project.elements = captionElements(project, read->captions);
    QCOMPARE(project.elements.size(), many.size());
    QCOMPARE(captionsOf(project), many);
    const auto with = std::ranges::count_if(project.elements, [](const Element& e) { return !e.shot.empty(); });
    QCOMPARE(int(with), 8); // of ten in 4 s: one goes on over the cut at 2 s, one beyond the end
    const auto stored = fromText(toText(project, {}), {}, "p.tromb");
    QVERIFY(stored);
    QCOMPARE(stored->elements, project.elements);
  }

  // Beside the picture in the times of the deliverable and of its region, or in the picture, or nowhere.
  void captionsGoWhereTheyShould_data() {
    QTest::addColumn<int>("place");
    QTest::addColumn<QString>("ending");
    QTest::newRow("srt") << int(CaptionPlace::SubRip) << "srt";
    QTest::newRow("vtt") << int(CaptionPlace::WebVtt) << "vtt";
    QTest::newRow("burned") << int(CaptionPlace::Burned) << "";
    QTest::newRow("none") << int(CaptionPlace::None) << "";
  }
  void captionsGoWhereTheyShould() {
    QFETCH(const int, place);
    QFETCH(const QString, ending);
    test::writeClip(at("b.mp4").toStdString(), {320, 180}, FrameRate(), 50, test::texture);
    Project project = test::project({at("b.mp4").toStdString()}, {{"Wide", {320, 180}}});
    project.name = "p";
    project.deliverables[0].encoding.captions = CaptionPlace(place);
    project.elements = captionElements(project, {caption(500, 1000, "One"), caption(1500, 9000, "beyond the end")});
    const std::string folder = at("out").toStdString() + std::to_string(place);
    const auto made = test::exported(project, folder);
    QCOMPARE(test::faultsOf(made), QString());
    QCOMPARE(made->front().captionPath.empty(), ending.isEmpty());
    const Footage footage = probeFootage(project);
    const auto plan = Plan::build(project, footage, project.deliverables[0].id);
    QVERIFY(plan);
    QCOMPARE(plan->elements().size(), size_t(CaptionPlace(place) == CaptionPlace::Burned ? 2 : 0));
    if (ending.isEmpty()) return;
    QCOMPARE(QString::fromStdString(made->front().captionPath),
             QString::fromStdString(made->front().path).replace(".mp4", "." + ending));
    // A file of that name is told before anything is encoded.
    QVERIFY(QFile::remove(QString::fromStdString(made->front().path)));
    ExportRequest again;
    again.plans.push_back(*plan);
    again.projectName = project.name;
    again.folder = folder;
    bool began = false;
    again.onProgress = [&](const ExportProgress&) { began = true; };
    const auto refused = exportPlans(again, {});
    QVERIFY(!refused && !began);
    QCOMPARE(refused.error().code, ErrorCode::Exists);
    const auto read = readCaptions(made->front().captionPath);
    QVERIFY(read);
    QCOMPARE(read->captions, (Captions{caption(500, 1000, "One"), caption(1500, 2000, "beyond the end")}));
    const auto part =
        Plan::build(project, footage, project.deliverables[0].id, {"r", "R", Rational(4, 5), Rational(8, 5), {}});
    QVERIFY(part);
    QCOMPARE(part->captions(), (Captions{caption(0, 200, "One"), caption(700, 800, "beyond the end")}));
  }
};

QTEST_GUILESS_MAIN(TestCaptions)
#include "tst_captions.moc"
