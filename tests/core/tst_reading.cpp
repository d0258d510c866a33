// SPDX-License-Identifier: GPL-3.0-or-later
// What a source shows and lets hear, held against standards and other programs: orientation, transparency, fields,
// sizes that change, which sound is heard and how loud, and what is told of files that are damaged or cut short.
#include "analysis/Loudness.h"
#include "analysis/Measured.h"
#include "media/read/AudioReader.h"
#include "media/read/ChannelMix.h"
#include "media/read/FileIndex.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/ProjectFile.h"
#include "render/Pictures.h"
#include "support/TestMedia.h"
#include "support/TestProject.h"
#include "support/Thoroughness.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <QtEndian>
#include <cmath>
#include <cstring>
extern "C" {
#include <libavutil/channel_layout.h>
#include <libavutil/frame.h>
}

using namespace tromb;
using test::ffmpeg;

class TestReading : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
  [[nodiscard]] std::string path(const QString& name) const { return at(name).toStdString(); }
  [[nodiscard]] QByteArray bytesOf(const QString& name) const {
    QFile file(at(name));
    if (!file.open(QIODevice::ReadOnly)) qFatal("no %s", qPrintable(name));
    return file.readAll();
  }
  void write(const QString& name, const QByteArray& bytes) const {
    QFile file(at(name));
    if (!file.open(QIODevice::WriteOnly)) qFatal("no %s", qPrintable(name));
    file.write(bytes);
  }
  /// The colours of the corners, clockwise from the top left, each as r, g, b, w.
  static QString corners(const ScreenPicture& picture) {
    const auto letter = [&](int x, int y) {
      const uint8_t* p = picture.bytes.data() + size_t(y * picture.size.width + x) * 4;
      const bool b = p[0] > 127;
      const bool g = p[1] > 127;
      const bool r = p[2] > 127;
      return r && g && b ? 'w' : r ? 'r' : g ? 'g' : b ? 'b' : '-';
    };
    const int right = picture.size.width - 5;
    const int below = picture.size.height - 5;
    return QStringLiteral("%1%2%3%4")
        .arg(QChar(letter(4, 4)), QChar(letter(right, 4)), QChar(letter(right, below)), QChar(letter(4, below)));
  }
  /// Of a portable pixmap, as other programs write it.
  [[nodiscard]] QString cornersOfPixmap(const QString& name) const {
    const QByteArray bytes = bytesOf(name);
    QList<QByteArray> head; // P6, width, height, 255
    for (qsizetype i = 0; head.size() < 4; ++i) {
      const bool gap = bytes.at(i) == ' ' || bytes.at(i) == '\n';
      if (gap || head.isEmpty()) head.append(QByteArray());
      if (!gap) head.last() += bytes.at(i);
    }
    ScreenPicture picture;
    picture.size = {head.at(1).toInt(), head.at(2).toInt()};
    const qsizetype pixels = qsizetype(picture.size.width) * picture.size.height;
    for (qsizetype i = 0; i < pixels; ++i)
      for (const int channel : {2, 1, 0, -1})
        picture.bytes.push_back(channel < 0 ? 255 : uint8_t(bytes[bytes.size() - 3 * (pixels - i) + channel]));
    return corners(picture);
  }
  [[nodiscard]] Result<ScreenPicture> shown(const QString& name, int64_t frame = 0) const {
    const auto media = probe(path(name));
    if (!media) return tl::unexpected(media.error());
    return sourcePicture(readAsStated(*media), frame, {640, 640}, false);
  }
  /// Red, green, white, blue clockwise from the top left; `more` of FFmpeg's options behind it.
  void quarters(const QString& name, const QString& size, const QString& more) const {
    ffmpeg(
        QStringLiteral("-f lavfi -i color=red:s=%1:r=25:d=1 -vf "
                       "drawbox=x=iw/2:w=iw/2:h=ih/2:c=lime:t=fill,drawbox=x=iw/2:y=ih/2:w=iw/2:h=ih/2:c=white:t=fill,"
                       "drawbox=y=ih/2:w=iw/2:h=ih/2:c=blue:t=fill %2 %3")
            .arg(size, more, at(name)));
  }
  /// Both channels of all that is heard.
  static AudioReader::Damage damageOf(const Reading& source) {
    auto reader = AudioReader::open(source);
    std::vector<float> chunk(size_t(2 * kSoundRate));
    while (reader && reader->read(chunk.data(), kSoundRate).value_or(0) > 0) {
    }
    return reader ? reader->damage() : AudioReader::Damage{-1, -1};
  }
  static std::vector<float> heard(const Reading& source) {
    auto reader = AudioReader::open(source);
    if (!reader) qFatal("%s", sentence(reader.error()).c_str());
    std::vector<float> all;
    std::vector<float> part(9600);
    for (;;) {
      const auto got = reader->read(part.data(), 4800);
      if (!got) qFatal("%s", sentence(got.error()).c_str());
      all.insert(all.end(), part.begin(), part.begin() + ptrdiff_t(*got) * 2);
      if (*got < 4800) return all;
    }
  }
  static double rms(const std::vector<float>& stereo, int channel, size_t from = 0, size_t to = SIZE_MAX) {
    double sum = 0;
    size_t count = 0;
    for (size_t i = from; i < std::min(to, stereo.size() / 2); ++i, ++count)
      sum += double(stereo[i * 2 + size_t(channel)]) * stereo[i * 2 + size_t(channel)];
    return count ? std::sqrt(sum / double(count)) : 0;
  }
  static double peak(const std::vector<float>& stereo) {
    float most = 0;
    for (const float each : stereo) most = std::max(most, std::abs(each));
    return most;
  }

private slots:
  // The orientation tag (CIPA DC-008, tag 274), and another reader of it.
  void stillsStandUpright_data() {
    QTest::addColumn<int>("tag");
    QTest::addColumn<QString>("row0"); // where the stored first row and column are seen
    QTest::addColumn<QString>("column0");
    const char* const places[][2] = {{"top", "left"}, {"top", "right"}, {"bottom", "right"}, {"bottom", "left"},
                                     {"left", "top"}, {"right", "top"}, {"right", "bottom"}, {"left", "bottom"}};
    for (int tag = 1; tag <= 8; ++tag)
      QTest::addRow("%d", tag) << tag << QString(places[tag - 1][0]) << QString(places[tag - 1][1]);
  }
  void stillsStandUpright() {
    QFETCH(const int, tag);
    QFETCH(const QString, row0);
    QFETCH(const QString, column0);
    if (!QFile::exists(at("plain.jpg"))) quarters("plain.jpg", "128x64", "-frames:v 1 -q:v 2");
    QByteArray jpeg = bytesOf("plain.jpg");
    QByteArray exif = QByteArray::fromHex("ffe1002245786966000049492a0008000000010012010300010000000000000000000000");
    exif[28] = char(tag);
    jpeg.insert(2, exif);
    write("turned.jpg", jpeg);
    const auto picture = shown("turned.jpg");
    QVERIFY2(picture.has_value(), picture ? "" : sentence(picture.error()).c_str());
    QCOMPARE(picture->size, row0 == "top" || row0 == "bottom" ? (Size{128, 64}) : (Size{64, 128}));
    // Each stored corner is seen where its row and its column are.
    const auto opposite = [](const QString& side) {
      return side == "top" ? "bottom" : side == "bottom" ? "top" : side == "left" ? "right" : "left";
    };
    const QStringList clockwise{"top left", "top right", "bottom right", "bottom left"};
    QString wanted(4, '-');
    const char stored[2][2] = {{'r', 'g'}, {'b', 'w'}};
    for (int row = 0; row < 2; ++row)
      for (int column = 0; column < 2; ++column) {
        QString a = row == 0 ? row0 : opposite(row0);
        QString b = column == 0 ? column0 : opposite(column0);
        if (a == "left" || a == "right") std::swap(a, b);
        wanted[clockwise.indexOf(a + ' ' + b)] = stored[row][column];
      }
    QCOMPARE(corners(*picture), wanted);
    (void)test::run("convert", {at("turned.jpg"), "-auto-orient", "-strip", "-depth", "8", at("upright.ppm")});
    QCOMPARE(cornersOfPixmap("upright.ppm"), wanted);
  }

  // Display matrices of ISO/IEC 14496-12, 8.3.2.2, turned and mirrored; FFmpeg's tool turns by them, too.
  void filmsStandUpright_data() {
    QTest::addColumn<QList<int>>("matrix"); // a b c d
    QTest::newRow("as it is") << QList<int>{1, 0, 0, 1};
    QTest::newRow("a quarter") << QList<int>{0, 1, -1, 0};
    QTest::newRow("half") << QList<int>{-1, 0, 0, -1};
    QTest::newRow("three quarters") << QList<int>{0, -1, 1, 0};
    QTest::newRow("left for right") << QList<int>{-1, 0, 0, 1};
    QTest::newRow("upside down") << QList<int>{1, 0, 0, -1};
    QTest::newRow("over the falling diagonal") << QList<int>{0, 1, 1, 0};
    QTest::newRow("over the rising diagonal") << QList<int>{0, -1, -1, 0};
  }
  void filmsStandUpright() {
    QFETCH(const QList<int>, matrix);
    if (!QFile::exists(at("plain.mp4"))) quarters("plain.mp4", "128x64", "-c:v libx264 -pix_fmt yuv420p");
    QByteArray mp4 = bytesOf("plain.mp4");
    const auto fixed = [](int value) {
      return QByteArray::fromHex(value == 0 ? "00000000" : value > 0 ? "00010000" : "ffff0000");
    };
    const QByteArray unity = fixed(1) + fixed(0) + fixed(0) + fixed(0) + fixed(1) + fixed(0) + fixed(0) + fixed(0) +
                             QByteArray::fromHex("40000000");
    QByteArray wanted = fixed(matrix[0]) + fixed(matrix[1]) + fixed(0) + fixed(matrix[2]) + fixed(matrix[3]) +
                        fixed(0) + fixed(0) + fixed(0) + QByteArray::fromHex("40000000");
    const auto track = mp4.indexOf(unity, mp4.indexOf("tkhd"));
    QVERIFY(track > 0);
    mp4.replace(track, unity.size(), wanted);
    write("matrix.mp4", mp4);
    const auto picture = shown("matrix.mp4");
    QVERIFY2(picture.has_value(), picture ? "" : sentence(picture.error()).c_str());
    // A point x, y of the picture is shown at a·x + c·y, b·x + d·y, moved so that all is right of and below zero.
    QString turned(4, '-');
    const QPoint places[] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
    const char stored[] = {'r', 'g', 'w', 'b'};
    for (int i = 0; i < 4; ++i) {
      const auto coordinate = [&](int along, int across) {
        const int raw = along * places[i].x() + across * places[i].y();
        return raw - std::min({0, along, across, along + across});
      };
      const QPoint there(coordinate(matrix[0], matrix[2]), coordinate(matrix[1], matrix[3]));
      turned[int(std::find(places, places + 4, there) - places)] = stored[i];
    }
    QCOMPARE(corners(*picture), turned);
    ffmpeg(QStringLiteral("-i %1 -frames:v 1 %2").arg(at("matrix.mp4"), at("matrix.ppm")));
    QCOMPARE(cornersOfPixmap("matrix.ppm"), turned);
  }

  // The whole picture is shown after a file changes its size, as large as before.
  void sizesThatChange_data() {
    QTest::addColumn<QString>("first");
    QTest::addColumn<QString>("then");
    QTest::newRow("larger") << "320x180"
                            << "640x360";
    QTest::newRow("smaller") << "640x360"
                             << "320x180";
  }
  void sizesThatChange() {
    QFETCH(const QString, first);
    QFETCH(const QString, then);
    QByteArray both;
    for (const QString& size : {first, then}) {
      quarters("part.ts", size, "-c:v libx264 -pix_fmt yuv420p -bf 0");
      both += bytesOf("part.ts");
    }
    write("sizes.ts", both);
    const auto media = probe(path("sizes.ts"));
    QVERIFY2(media.has_value(), media ? "" : sentence(media.error()).c_str());
    QCOMPARE(media->video->clock.frameCount(), 50);
    for (const int64_t frame : {10, 40}) {
      const auto picture = sourcePicture(readAsStated(*media), frame, {640, 640}, false);
      QVERIFY2(picture.has_value(), picture ? "" : sentence(picture.error()).c_str());
      QCOMPARE(corners(*picture), QStringLiteral("rgwb"));
      QCOMPARE(picture->size, media->video->stored);
    }
  }

  // What is transparent shows the ground that was chosen.
  void transparencyLiesOverTheGround_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("how");
    QTest::newRow("PNG") << "see.png"
                         << "-frames:v 1";
    QTest::newRow("WebP with losses") << "see.webp"
                                      << "-frames:v 1 -c:v libwebp -pix_fmt yuva420p -lossless 0";
    QTest::newRow("WebP without") << "see2.webp"
                                  << "-frames:v 1 -c:v libwebp -pix_fmt bgra -lossless 1";
    QTest::newRow("VP9") << "see.webm"
                         << "-c:v libvpx-vp9 -pix_fmt yuva420p -auto-alt-ref 0";
    QTest::newRow("VP8") << "see8.webm"
                         << "-c:v libvpx -pix_fmt yuva420p -auto-alt-ref 0";
    QTest::newRow("animation codec") << "see.mov"
                                     << "-c:v qtrle -pix_fmt argb";
    QTest::newRow("FFV1") << "see.mkv"
                          << "-c:v ffv1 -pix_fmt yuva420p";
    QTest::newRow("4444") << "see4.mov"
                          << "-c:v prores_ks -pix_fmt yuva444p10le";
  }
  void transparencyLiesOverTheGround() {
    QFETCH(const QString, file);
    QFETCH(const QString, how);
    // Left half opaque red, right half clear.
    ffmpeg(
        QStringLiteral("-f lavfi -i color=red:s=128x64:r=25:d=0.4,format=rgba,geq=r='255':g='0':b='0':a='255*lt(X,64)' "
                       "%1 %2")
            .arg(how, at(file)));
    Project project = test::project({path(file)}, {{"a", {128, 64}}});
    project.deliverables[0].framings[project.shots[0].id].colour = {0, 0, 255};
    const auto plan = Plan::build(project, probeFootage(project), project.deliverables[0].id);
    QVERIFY2(plan.has_value(), plan ? "" : sentence(plan.error()).c_str());
    const auto canvas = renderFrame(*plan, 0);
    QVERIFY2(canvas.has_value(), canvas ? "" : sentence(canvas.error()).c_str());
    const auto screen = toScreen(*canvas, {128, 64});
    QVERIFY(screen.has_value());
    QCOMPARE(corners(*screen), QStringLiteral("rbbr"));
  }

  // A picture of an odd number of columns is not stretched over those of its chroma: an edge is seen where it is.
  void oddColumnsAreNotStretched_data() {
    QTest::addColumn<QString>("paint");
    QTest::addColumn<double>("edge"); // in luma columns from the left
    QTest::newRow("luma") << "lum='if(lt(X,800),16,235)':cb=128:cr=128" << 800.0;
    // Chroma sample i lies on the middle of luma column 2i (ITU-T H.264, Figure E-1, type 0).
    QTest::newRow("chroma") << "lum=126:cb='if(lt(X,400),90,160)':cr=128" << 799.5;
  }
  void oddColumnsAreNotStretched() {
    QFETCH(const QString, paint);
    QFETCH(const double, edge);
    ffmpeg(QStringLiteral("-f lavfi -i color=s=853x479:r=25:d=0.2,format=yuv420p,geq=%1 -c:v ffv1 %2")
               .arg(paint, at("odd.mkv")));
    const auto picture = shown("odd.mkv");
    QVERIFY(picture.has_value());
    QCOMPARE(picture->size.width, 640);
    const uint8_t* row = picture->bytes.data() + size_t(picture->size.width) * 4 * 100; // its blue
    const double low = row[4 * 300];
    const double high = row[4 * 630];
    double left = 0; // columns that are still of the left side
    for (int x = 0; x < 640; ++x) left += (high - row[4 * x]) / (high - low);
    // The odd column at the right is not shown.
    QVERIFY2(std::abs(left * 852 / 640 - edge) < 0.2, qPrintable(QString::number(left * 852 / 640)));
  }

  // A picture whose edge is dark: it becomes lighter little by little, or is not even; a bar is flat and ends at once.
  void darkEdgesAreNotBars_data() {
    QTest::addColumn<int>("columns"); // until it is a level lighter
    QTest::addColumn<int>("grain");
    QTest::newRow("lighter every 3 columns") << 3 << 0;
    QTest::newRow("lighter every 10 columns") << 10 << 0;
    QTest::newRow("grainy") << 1000 << 9;
  }
  void darkEdgesAreNotBars() {
    QFETCH(const int, columns);
    QFETCH(const int, grain);
    test::writeClip(path("edge.mp4"), {320, 180}, FrameRate(), 30, [&](int n, int x, int y) {
      const int noise = grain ? int((uint32_t(x * 7919 + y * 104729 + n * 31) * 2654435761U) >> 16) % grain : 0;
      return x < 40 ? test::Yuv{18 + x / columns + noise, 128, 128} : test::texture(n, x, y);
    });
    QCOMPARE(measurePictures(*probe(path("edge.mp4")))->bars, Bars{});
  }

  // Gray of 10 bits that says it is of limited range: 64 is black and 940 white (Rec. ITU-R BT.709, 4.6).
  void greyKeepsItsRange_data() {
    QTest::addColumn<int>("code");
    QTest::addColumn<int>("wanted");
    QTest::newRow("black") << 64 << 0;
    QTest::newRow("middle") << 502 << 128;
    QTest::newRow("white") << 940 << 255;
  }
  void greyKeepsItsRange() {
    QFETCH(const int, code);
    QFETCH(const int, wanted);
    ffmpeg(
        QStringLiteral("-f lavfi -i color=s=64x64:r=25:d=0.2,format=gray10le,geq=lum=%1 -color_range tv -c:v ffv1 %2")
            .arg(code)
            .arg(at("grey.mkv")));
    const auto picture = shown("grey.mkv");
    QVERIFY2(picture.has_value(), picture ? "" : sentence(picture.error()).c_str());
    const int seen = picture->bytes[size_t(picture->size.width) * 4 * 20 + 80];
    QVERIFY2(std::abs(seen - wanted) <= 2, qPrintable(QString::number(seen)));
  }

  // Credits that roll by whole pixels look like fields to a careless eye; nothing is filtered on doubt.
  void rollingCreditsStayAsTheyAre_data() {
    QTest::addColumn<int>("step");
    for (const int step : {1, 2, 4}) QTest::addRow("%d pixels a frame", step) << step;
  }
  void rollingCreditsStayAsTheyAre() {
    QFETCH(const int, step);
    const auto lettering = [step](int n, int x, int y) {
      const int line = y + step * n;
      const unsigned letter = unsigned((x / 10) * 31 + (line / 22) * 17);
      const bool ink =
          x % 10 < 8 && line % 22 < 14 && (((letter * 2654435761U) >> (x % 10 / 2 + line % 22 / 3 * 4)) & 1);
      return test::Yuv{ink ? 225 : 18, 128, 128};
    };
    test::writeClip(path("roll.mp4"), {640, 360}, FrameRate(), 60, lettering);
    auto media = *probe(path("roll.mp4"));
    const auto measured = measurePictures(media);
    QVERIFY(measured.has_value());
    QVERIFY2(measured->scan.value_or(Scan::Progressive) == Scan::Progressive, "measured as interlaced");
    // Even where its file says that it is interlaced.
    auto plain = VideoReader::open(media);
    media.video->scan = Scan::TopFieldFirst;
    auto doubted = VideoReader::open(media);
    for (int n = 0; n < 60; n += 7) {
      const Frame a = *plain->frameAt(n);
      const Frame b = *doubted->frameAt(n);
      for (int y = 0; y < 360; y += 5)
        QVERIFY2(std::memcmp(a->data[0] + ptrdiff_t(y) * a->linesize[0], b->data[0] + ptrdiff_t(y) * b->linesize[0],
                             640) == 0,
                 qPrintable(QStringLiteral("frame %1, line %2").arg(n).arg(y)));
    }
  }

  /// How much lines differ from both neighbours, which agree.
  static double combing(const Frame& f) {
    double sum = 0;
    for (int y = 101; y < 470; ++y)
      for (int x = 40; x < 680; ++x) {
        const auto luma = [&](int line) { return int(f->data[0][ptrdiff_t(line) * f->linesize[0] + x]); };
        const int up = luma(y) - luma(y - 1);
        const int down = luma(y) - luma(y + 1);
        if (up * down > 0) sum += std::min(std::abs(up), std::abs(down));
      }
    return sum;
  }

  // What was woven of 50 pictures a second comes back as 50 pictures with as few combs as they had, and as 25.
  void wovenPicturesComeApart_data() {
    QTest::addColumn<bool>("top");
    QTest::addColumn<bool>("certain"); // somebody says so, instead of each picture
    QTest::addColumn<bool>("byFields");
    for (const bool top : {true, false})
      for (const bool certain : {true, false})
        for (const bool byFields : {true, false})
          QTest::newRow(qPrintable(QStringLiteral("%1 first, %2, %3")
                                       .arg(top ? "top" : "bottom", certain ? "said" : "seen", byFields ? "50" : "25")))
              << top << certain << byFields;
  }
  void wovenPicturesComeApart() {
    if (test::leftOut()) return;
    QFETCH(bool, top);
    QFETCH(bool, certain);
    QFETCH(bool, byFields);
    const QString moves = "-f lavfi -i testsrc2=s=720x576:r=50:d=1,scroll=h=0.013,gblur=sigma=1.2,format=yuv420p ";
    if (!QFile::exists(at("moves.mkv"))) ffmpeg(moves + "-c:v ffv1 " + at("moves.mkv"));
    const QString name = top ? "comes-top.mkv" : "comes-bottom.mkv";
    if (!QFile::exists(at(name)))
      ffmpeg(
          moves +
          QStringLiteral("-vf tinterlace=%1 -c:v ffv1 %2").arg(top ? "interleave_top" : "interleave_bottom", at(name)));
    const auto media = probe(path(name.toUtf8()));
    Reading reading = readAsStated(*media);
    reading.scan = top ? Scan::TopFieldFirst : Scan::BottomFieldFirst;
    reading.scanCertain = certain;
    reading.byFields = byFields;
    auto read = PictureReader::open(reading);
    auto moving = VideoReader::open(*probe(path("moves.mkv")));
    QVERIFY(read && moving);
    double before = 0;
    double after = 0;
    for (int n = 4; n < (byFields ? 46 : 23); ++n) {
      const auto got = read->shown(n);
      QVERIFY(got);
      QCOMPARE(got->number, n);
      const Frame was = *moving->frameAt(byFields ? n : 2 * n);
      before += combing(was);
      after += combing(got->frame);
    }
    QVERIFY2(std::abs(after / before - 1) < 0.05, qPrintable(QString::number(after / before)));
  }

  // Half of it progressive, half interlaced: each picture is looked at.
  void halfInterlacedIsFilteredByHalf() {
    for (const auto& [name, filter] :
         {std::pair("whole.mkv", "select='not(mod(n,2))'"), std::pair("woven.mkv", "tinterlace=4")})
      ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=720x576:r=50:d=2,scroll=h=0.013 -vf %1,setpts=N/25/TB -r 25 "
                            "-c:v mpeg2video -flags +ildct+ilme -top 1 -q:v 2 -bf 0 -f mpegts %2")
                 .arg(filter, at(name)));
    write("half.ts", bytesOf("whole.mkv") + bytesOf("woven.mkv"));
    auto media = *probe(path("half.ts"));
    const int64_t count = media.video->clock.frameCount();
    QVERIFY(count > 90);
    media.video->scan = Scan::Progressive;
    auto raw = VideoReader::open(media);
    media.video->scan = Scan::TopFieldFirst;
    auto read = VideoReader::open(media);
    for (const int64_t n : {int64_t(10), int64_t(30), count - 30, count - 10}) {
      const double before = combing(*raw->frameAt(n));
      const double after = combing(*read->frameAt(n));
      const QByteArray said = QStringLiteral("frame %1: %2, was %3").arg(n).arg(after).arg(before).toUtf8();
      if (n < count / 2)
        QVERIFY2(after == before, said);
      else
        QVERIFY2(after < before / 2, said);
    }
  }

  // A time stamp that goes back is counted, and one that only comes out of turn in decoding is not.
  void backwardStampsAreCounted() {
    ffmpeg("-f lavfi -i testsrc2=s=64x36:r=25:d=1 -c:v ffv1 " + at("onward.mkv"));
    const auto onward = buildIndex(path("onward.mkv"), 0);
    QVERIFY(onward);
    QCOMPARE(onward->backward, int64_t(0));
    QByteArray bytes = bytesOf("onward.mkv");
    // The twelfth block: track 1, 440 ms; it becomes 360.
    const qsizetype block = bytes.indexOf(QByteArray("\x81\x01\xB8", 3));
    QVERIFY(block > 0);
    bytes.replace(block + 1, 2, QByteArray("\x01\x68", 2));
    write("back.mkv", bytes);
    const auto back = buildIndex(path("back.mkv"), 0);
    QVERIFY(back);
    QCOMPARE(back->backward, int64_t(1));
    ffmpeg("-f lavfi -i testsrc2=s=64x36:r=25:d=1 -c:v libx264 -bf 3 " + at("turns.mkv"));
    const auto turns = buildIndex(path("turns.mkv"), 0);
    QVERIFY(turns);
    QCOMPARE(turns->backward, int64_t(0));
  }

  // The label of the first picture, wherever the file has it; no label where there is none.
  void firstLabelsAreRead_data() {
    QTest::addColumn<QString>("options");
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("label");
    QTest::newRow("MOV") << "-r 25 -timecode 10:00:00:00"
                         << "label.mov"
                         << "10:00:00:00";
    QTest::newRow("MP4, drop-frame") << "-r 30000/1001 -timecode 01:02:03;04"
                                     << "label.mp4"
                                     << "01:02:03;04";
    QTest::newRow("MXF") << "-r 25 -c:v mpeg2video -timecode 09:59:30:12"
                         << "label.mxf"
                         << "09:59:30:12";
    QTest::newRow("MKV") << "-r 25 -timecode 10:00:00:00"
                         << "label.mkv"
                         << "10:00:00:00";
    QTest::newRow("none") << "-r 25"
                          << "bare.mov"
                          << "";
  }
  void firstLabelsAreRead() {
    QFETCH(QString, options);
    QFETCH(QString, file);
    ffmpeg("-f lavfi -i testsrc2=s=64x36:d=1 " + options + " " + at(file));
    const auto media = probe(path(file));
    QVERIFY(media);
    const auto& timecode = media->video->timecode;
    const QString found =
        timecode ? QString::fromStdString(timecode->labelOf(0, media->video->clock.rate())) : QString();
    QTEST(found, "label");
  }

  // Which of several streams is heard.
  void theRightSoundIsHeard_data() {
    QTest::addColumn<QString>("streams");
    QTest::addColumn<double>("left"); // amplitudes
    QTest::addColumn<double>("right");
    const QString loud =
        "-filter_complex aevalsrc='0.5*sin(880*PI*t)':s=48000:d=2[a];aevalsrc='0.25*sin(2000*PI*t)':s=48000:"
        "d=2[b];%1 -map 0:v %2";
    QTest::newRow("two mono streams are left and right")
        << loud.arg("[a]anull[x];[b]anull[y]", "-map [x] -map [y]") << 0.5 << 0.25;
    QTest::newRow("one mono stream is in the middle") << loud.arg("[b]anullsink;[a]anull[x]", "-map [x]") << 0.5 << 0.5;
    QTest::newRow("the first of two, where none is preferred")
        << loud.arg("[a]pan=stereo|c0=c0|c1=c0[x];[b]pan=stereo|c0=c0|c1=c0[y]",
                    "-map [x] -map [y] -disposition:a:0 0 -disposition:a:1 0")
        << 0.5 << 0.5;
    QTest::newRow("the one that the file prefers")
        << loud.arg("[a]pan=stereo|c0=c0|c1=c0[x];[b]pan=stereo|c0=c0|c1=c0[y]",
                    "-map [x] -map [y] -disposition:a:0 0 -disposition:a:1 default")
        << 0.25 << 0.25;
    QTest::newRow("the one that is not silent")
        << loud.arg("[a]volume=0,pan=stereo|c0=c0|c1=c0[x];[b]pan=stereo|c0=c0|c1=c0[y]", "-map [x] -map [y]") << 0.25
        << 0.25;
  }
  void theRightSoundIsHeard() {
    QFETCH(const QString, streams);
    QFETCH(const double, left);
    QFETCH(const double, right);
    ffmpeg(QStringLiteral("-f lavfi -i color=s=64x64:r=25:d=2 %1 -c:v ffv1 -c:a pcm_s16le %2")
               .arg(streams, at("sound.mkv")));
    const auto media = *probe(path("sound.mkv"));
    const auto measured = measure(media);
    QVERIFY(measured.has_value());
    Reading source = readAsStated(media);
    if (!measured->heard.empty()) source.heard = measured->heard;
    const auto all = heard(source);
    QVERIFY2(std::abs(rms(all, 0) * std::sqrt(2) - left) < 0.01, qPrintable(QString::number(rms(all, 0))));
    QVERIFY2(std::abs(rms(all, 1) * std::sqrt(2) - right) < 0.01, qPrintable(QString::number(rms(all, 1))));
  }

  // All channels of 5.1 with the same sound at full level: nothing is clipped when they are mixed down, and it is said.
  void channelsInPhaseDoNotClip_data() {
    QTest::addColumn<QString>("layout");
    QTest::addColumn<int>("channels");
    QTest::newRow("5.1") << "5.1" << 6;
    QTest::newRow("quad") << "quad" << 4;
    QTest::newRow("7.1") << "7.1" << 8;
  }
  void channelsInPhaseDoNotClip() {
    QFETCH(const QString, layout);
    QFETCH(const int, channels);
    QStringList each;
    for (int i = 0; i < channels; ++i) each << "0.98*sin(880*PI*t)";
    ffmpeg(QStringLiteral("-f lavfi -i aevalsrc='%1':c=%2:s=48000:d=2 -c:a pcm_s24le %3")
               .arg(each.join('|'), layout, at("wide.wav")));
    const auto media = *probe(path("wide.wav"));
    const double most = peak(heard(readAsStated(media)));
    QVERIFY2(most <= 1, qPrintable(QString::number(most)));
    QVERIFY2(most > 0.8, qPrintable(QString::number(most)));
    QVERIFY(media.audio[0].downMixDb > 1);
  }

  // What probing found out is taken over only where the file's headers still say the same: one that was replaced by
  // another of the same length is read as what it is now.
  void aReplacedFileIsReadAsItIs() {
    ffmpeg(QStringLiteral(
               "-f lavfi -i testsrc2=s=96x54:r=25:d=1 -f lavfi -i sine=f=300:r=24000:d=1 -c:v libx264 -c:a pcm_s16le "
               "-ac 1 %1")
               .arg(at("first.mov")));
    ffmpeg(QStringLiteral(
               "-f lavfi -i testsrc2=s=64x64:r=25:d=1 -f lavfi -i sine=f=700:r=48000:d=1 -c:v libx264 -c:a pcm_s16le "
               "-ac 2 %1")
               .arg(at("second.mov")));
    QByteArray one = bytesOf("first.mov");
    QByteArray two = bytesOf("second.mov");
    const auto length = std::max(one.size(), two.size()) + 8;
    for (QByteArray* each : {&one, &two}) { // a box that is skipped (ISO/IEC 14496-12, 8.1.2) makes them equally long
      QByteArray box(length - each->size(), '\0');
      qToBigEndian(quint32(box.size()), box.data());
      each->append(box.replace(4, 4, "free"));
    }
    write("replaced.mov", one);
    const auto before = probe(path("replaced.mov"));
    QVERIFY(before.has_value());
    QVERIFY(before->parameters);
    write("replaced.mov", two);
    MediaInfo anew = *before;
    anew.parameters.reset(); // readers find out by themselves
    const auto picture = [](const MediaInfo& info) {
      auto reader = VideoReader::open(info);
      const auto frame = reader ? reader->frameAt(3) : Result<Frame>(tl::unexpected(reader.error()));
      QByteArray luma;
      for (int y = 0; frame && y < (*frame)->height; ++y)
        luma.append(reinterpret_cast<const char*>((*frame)->data[0] + ptrdiff_t(y) * (*frame)->linesize[0]),
                    (*frame)->width);
      return luma;
    };
    QVERIFY(!picture(anew).isEmpty());
    QVERIFY(picture(*before) == picture(anew));
    const auto sound = [](const MediaInfo& info) {
      std::vector<float> samples(4800);
      auto reader = AudioReader::open(readAsStated(info));
      return reader && reader->read(samples.data(), 2400) ? samples : std::vector<float>();
    };
    QVERIFY(!sound(anew).empty());
    QVERIFY(sound(*before) == sound(anew));
  }

  // The weights are those of Rec. ITU-R BS.775-3, Annex 4 (centre and surrounds 0.7071), in the channels' order,
  // lowered by what one side holds in all. What lies beside them in memory stays as it was: numbers that any reckoning
  // changes.
  void mixesTouchNothingElse_data() {
    QTest::addColumn<QByteArray>("layout");
    QTest::addColumn<std::vector<double>>("left");
    const double c = std::sqrt(0.5), all = 1 + 2 * c;
    QTest::newRow("quad") << QByteArray("quad") << std::vector{1 / (1 + c), 0.0, c / (1 + c), 0.0};
    QTest::newRow("5.1") << QByteArray("5.1") << std::vector{1 / all, 0.0, c / all, 0.0, c / all, 0.0};
    QTest::newRow("40 without places") << QByteArray("40 channels") << std::vector{1.0, 0.0};
  }
  void mixesTouchNothingElse() {
    QFETCH(const QByteArray, layout);
    QFETCH(const std::vector<double>, left);
    AVChannelLayout from{};
    if (layout.startsWith("40"))
      from = {.order = AV_CHANNEL_ORDER_UNSPEC, .nb_channels = 40, .u = {.mask = 0}, .opaque = nullptr};
    else
      QCOMPARE(av_channel_layout_from_string(&from, layout.constData()), 0);
    constexpr quint64 kSignals = 0x7ff0000000000001; // a NaN that becomes another one in any sum or product
    std::vector<std::vector<quint64>> beside(400, std::vector<quint64>(2 * size_t(from.nb_channels), kSignals));
    std::vector<quint64>().swap(beside[200]); // its place is taken next
    const ChannelMix mix(from, kStereo);
    const auto changed = std::count_if(beside.begin(), beside.end(), [&](const auto& block) {
      return std::any_of(block.begin(), block.end(), [&](quint64 each) { return each != kSignals; });
    });
    QCOMPARE(changed, 0);
    for (size_t i = 0; i < left.size(); ++i)
      QVERIFY2(std::abs(mix.weights()[i] - left[i]) < 1e-9, std::to_string(i).c_str());
  }

  // FFmpeg's meter (EBU R 128) is the outside measure.
  void truePeaksAgree_data() {
    QTest::addColumn<QString>("source");
    QTest::newRow("mono") << "aevalsrc='min(1,min(t,3-t))*0.5*sin(2*PI*12000*t+PI/4)':s=48000:d=3";
    QTest::newRow("stereo") << "aevalsrc='min(1,min(t,3-t))*0.5*sin(2*PI*12000*t+PI/4)|0.1*sin(880*PI*t)':s=48000:d=3";
  }
  void truePeaksAgree() {
    QFETCH(const QString, source);
    ffmpeg(QStringLiteral("-f lavfi -i %1 -c:a pcm_s24le %2").arg(source, at("peak.wav")));
    const QString said =
        test::run("ffmpeg", {"-nostats", "-i", at("peak.wav"), "-af", "ebur128=peak=true", "-f", "null", "-"});
    const double theirs = said.mid(said.lastIndexOf("Peak:") + 5).trimmed().section(' ', 0, 0).toDouble();
    const auto ours = measureSound(readAsStated(*probe(path("peak.wav"))));
    QVERIFY(ours.has_value());
    QVERIFY2(std::abs(ours->loudness.truePeakDbtp - theirs) < 0.3,
             qPrintable(QStringLiteral("%1, theirs %2").arg(ours->loudness.truePeakDbtp).arg(theirs)));
  }

  // Packets of sound that are missing are silence of their own length; what comes after them stays where it is.
  void missingSoundIsSilence_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("codec");
    // Samples in a packet: ISO/IEC 11172-3, 2.4.2.1; FFmpeg's PCM; ATSC A/52, 2.1.
    QTest::addColumn<double>("packet");
    QTest::newRow("MP2 in TS") << "gap.ts"
                               << "mp2" << 1152.0;
    QTest::newRow("PCM in Matroska") << "gap.mkv"
                                     << "pcm_s16le" << 1024.0;
    QTest::newRow("AC-3 in Matroska") << "gap3.mkv"
                                      << "ac3" << 1536.0;
  }
  void missingSoundIsSilence() {
    QFETCH(const QString, file);
    QFETCH(const QString, codec);
    QFETCH(const double, packet);
    // A steady tone, one second of it missing, and from the fifth second on twice as loud.
    ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=64x64:r=25:d=8 -f lavfi -i "
                          "aevalsrc='if(lt(t,5),0.2,0.4)*sin(880*PI*t)':s=48000:d=8 -c:v mpeg2video -c:a %1 %2")
               .arg(codec, at("sound of " + file).replace(' ', '_')));
    ffmpeg(QStringLiteral("-i %1 -map 0 -c copy -bsf:a noise=drop='between(pts*tb,2,3)' %2")
               .arg(at("sound of " + file).replace(' ', '_'), at(file)));
    const Reading reading = readAsStated(*probe(path(file)));
    const auto all = heard(reading);
    const auto level = [&](double from, double to) {
      return rms(all, 0, size_t(from * kSoundRate), size_t(to * kSoundRate)) * std::sqrt(2);
    };
    QVERIFY2(level(1, 1.9) > 0.15, qPrintable(QString::number(level(1, 1.9))));
    QVERIFY2(level(2.2, 2.8) < 0.001, qPrintable(QString::number(level(2.2, 2.8))));
    QVERIFY2(level(4, 4.9) < 0.25, qPrintable(QString::number(level(4, 4.9))));
    QVERIFY2(level(4, 4.9) > 0.15, qPrintable(QString::number(level(4, 4.9))));
    QVERIFY2(level(5.1, 6) > 0.35, qPrintable(QString::number(level(5.1, 6))));
    const AudioReader::Damage damage = damageOf(reading);
    QVERIFY2(std::abs(double(damage.packets) - kSoundRate / packet) <= 2, "packets that are missing are counted");
    QVERIFY2(std::abs(double(damage.first) - 2 * kSoundRate) < 2 * packet, "and placed");
  }

  // A stamp that leaves out twenty hours is damage, told as one: not as each of the millions of packets that would lie
  // between, which a small file could fill a machine's memory with.
  void longGapsCountOnce() {
    ffmpeg(QStringLiteral("-f lavfi -i sine=d=4:r=48000 -c:a pcm_s16le -bsf:a setts=ts='PTS+gte(N\\,100)*72000/TB' %1")
               .arg(at("hours.mkv")));
    const auto info = probe(path("hours.mkv"));
    QVERIFY(info.has_value());
    QVERIFY2(info->duration > Rational(72'000), info->duration.toString().c_str());
    auto reader = AudioReader::open(readAsStated(*info));
    QVERIFY(reader.has_value());
    std::vector<float> chunk(size_t(2 * 3 * kSoundRate));
    QCOMPARE(reader->read(chunk.data(), 3 * kSoundRate).value_or(0), 3 * kSoundRate);
    QCOMPARE(reader->damage().packets, 1);
    QVERIFY2(std::abs(double(reader->damage().first) - 102'400) < 2048, "behind a hundred packets of 1024");
  }

  // Silence that an encoder leaves out on purpose, all but one packet of 20 ms in 0.4 s, is no loss (discontinuous
  // transmission: RFC 6716, 2.1.9).
  void silenceLeftOutIsNoLoss_data() {
    QTest::addColumn<QString>("gone");
    QTest::addColumn<double>("packets");
    QTest::newRow("left out") << "between(pts*tb,2.1,3.9)*gt(mod(n,20),0)" << 0.0;
    QTest::newRow("lost") << "between(pts*tb,2.1,3.1)" << 50.0;
  }
  void silenceLeftOutIsNoLoss() {
    QFETCH(const QString, gone);
    QFETCH(const double, packets);
    ffmpeg(QStringLiteral("-f lavfi -i aevalsrc='if(between(t,2,4),0,0.2)*sin(880*PI*t)':s=48000:d=6 -c:a libopus %1")
               .arg(at("steady.mka")));
    ffmpeg(QStringLiteral("-i %1 -c copy -bsf:a noise=drop='%2' %3").arg(at("steady.mka"), gone, at("quiet.mka")));
    const AudioReader::Damage damage = damageOf(readAsStated(*probe(path("quiet.mka"))));
    QVERIFY2(std::abs(double(damage.packets) - packets) <= packets / 20, std::to_string(damage.packets).c_str());
  }

  // Damaged sound counts where it is heard: not where only the decoder's run-up or the piece read ahead meets it.
  void damageCountsWhereItIsHeard_data() {
    QTest::addColumn<double>("in");
    QTest::addColumn<double>("out");
    QTest::addColumn<double>("least"); // seconds of damage within
    QTest::addColumn<QString>("place");
    QTest::addColumn<QString>("damage");
    for (const char* damage : {"amount", "drop"}) {
      const auto row = [&](const char* where) -> QTestData& { return QTest::addRow("%s, %s", damage, where); };
      row("all around") << 0.9 << 4.0 << 0.5 << "0:01" << damage;
      row("just before") << 2.6 << 4.0 << 0.0 << "" << damage;
      row("just after") << 1.0 << 1.97 << 0.0 << "" << damage;
      row("in the middle of it") << 2.3 << 4.0 << 0.2 << "0:00" << damage;
    }
  }
  void damageCountsWhereItIsHeard() {
    QFETCH(const double, in);
    QFETCH(const double, out);
    QFETCH(const double, least);
    QFETCH(const QString, place);
    QFETCH(const QString, damage);
    const QString broken = damage + ".mkv";
    if (!QFile::exists(
            at(broken))) { // between two and two and a half seconds every byte is another, or nothing is there
      ffmpeg(QStringLiteral("-f lavfi -i testsrc2=s=64x64:r=25:d=5 -f lavfi -i sine=d=5:r=48000 -c:v mpeg2video -c:a "
                            "aac %1")
                 .arg(at("broken_first.mkv")));
      ffmpeg(QStringLiteral("-i %1 -map 0 -c copy -bsf:a noise=%2='between(pts*tb,2,2.5)' %3")
                 .arg(at("broken_first.mkv"), damage, at(broken)));
    }
    Project project = test::project({path(broken)}, {{"a", {64, 64}}});
    project.shots.front().in = Rational(std::lround(in * 100), 100);
    project.shots.front().out = Rational(std::lround(out * 100), 100);
    ExportRequest request;
    request.folder = path("heard");
    request.overwrite = true;
    request.plans.push_back(*Plan::build(project, probeFootage(project), "d1"));
    const auto files = exportPlans(request, {});
    QVERIFY2(files.has_value(), files ? "" : sentence(files.error()).c_str());
    const std::vector<SourceLoss>& losses = files->front().losses;
    QCOMPARE(losses.empty(), least == 0);
    if (losses.empty()) return;
    const double packets = least * 48'000 / 1024; // of AAC: ISO/IEC 14496-3, 4.5
    QVERIFY2(std::abs(double(losses.front().count) - packets) <= 2, lossText(losses.front()).text().c_str());
    QVERIFY2(QString::fromStdString(lossText(losses.front()).text()).contains("from " + place + " on"),
             lossText(losses.front()).text().c_str());
  }

  // What a file loses on its way is told by the export, with the file's name: never silently frozen.
  void damageIsTold_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<QString>("how");
    for (const auto& [file, codec] :
         {std::pair("d.mp4", "-c:v libx264 -g 25 -c:a aac"), std::pair("d.ts", "-c:v mpeg2video -g 12 -c:a mp2"),
          std::pair("d.mkv", "-c:v libx264 -g 25 -c:a ac3"), std::pair("d.mov", "-c:v prores_ks -c:a pcm_s16le")})
      for (const char* const damage : {"half of the bytes", "cut short", "a hole"})
        QTest::addRow("%s, %s", file, damage) << QString(file) << QString("%1|%2").arg(codec, damage);
  }
  void damageIsTold() {
    QFETCH(const QString, file);
    QFETCH(const QString, how);
    const QString codec = how.section('|', 0, 0);
    const QString damage = how.section('|', 1);
    if (!QFile::exists(at("whole " + file)))
      (void)test::run("ffmpeg", QStringList{"-v", "error", "-y", "-f", "lavfi", "-i", "testsrc2=s=320x180:r=25:d=6",
                                            "-f", "lavfi", "-i", "sine=d=6", "-pix_fmt",
                                            file.endsWith("mov") ? "yuv422p10le" : "yuv420p"} +
                                    codec.split(' ') + QStringList{at("whole " + file)});
    QVERIFY(QFile::copy(at("whole " + file), at(file)));
    Project project = test::project({path(file)}, {{"a", {180, 320}}});
    const Footage footage = probeFootage(project);
    ExportRequest request;
    request.folder = path("told");
    request.overwrite = true;
    request.plans.push_back(*Plan::build(project, footage, "d1"));
    QByteArray bytes = bytesOf("whole " + file);
    const qsizetype from = bytes.size() / 3;
    if (damage == "cut short") {
      bytes.truncate(bytes.size() / 2);
    } else if (damage == "a hole") {
      for (qsizetype i = from; i < from + bytes.size() / 10; ++i) bytes[i] = 0;
    } else {
      uint32_t chance = 1;
      for (qsizetype i = from; i < bytes.size() * 9 / 10; ++i) {
        chance = chance * 1664525 + 1013904223;
        if (chance >> 31) bytes[i] = char(chance >> 16);
      }
    }
    write(file, bytes);
    const auto files = exportPlans(request, {});
    QVERIFY(QFile::remove(at(file)));
    if (!files) {
      QVERIFY2(sentence(files.error()).find(file.toStdString()) != std::string::npos, sentence(files.error()).c_str());
      return;
    }
    const ExportedFile& made = files->at(0);
    QVERIFY2(!made.good(), "it passes for whole");
    QVERIFY2(made.error || !made.losses.empty(), "and what was lost is told");
    for (const SourceLoss& loss : made.losses)
      QVERIFY2(lossText(loss).text().find(file.toStdString()) != std::string::npos, lossText(loss).text().c_str());
    QVERIFY2(!QFile::exists(at("told/a.mp4")), "nothing lies under the final name");
  }
};

QTEST_GUILESS_MAIN(TestReading)
#include "tst_reading.moc"
