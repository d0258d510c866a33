// SPDX-License-Identifier: GPL-3.0-or-later
// Files that are hard to read rightly: ours against FFmpeg's own tools, for every one of them.
#include "media/read/AudioReader.h"
#include "media/read/FileIndex.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "support/AwkwardFiles.h"
#include "support/TestMedia.h"

#include <QTemporaryDir>
#include <QTest>

using namespace tromb;
using test::AwkwardFile;

namespace {

/// The samples at which clicks begin, read from the beginning to the end.
std::vector<int64_t> clicks(AudioReader& reader, int64_t from) {
  std::vector<int64_t> found;
  std::vector<float> samples(size_t(kSoundRate) * 2);
  int64_t quiet = kSoundRate;
  for (int64_t at = from;; at += kSoundRate) {
    const auto got = reader.read(samples.data(), kSoundRate);
    if (!got) throw std::runtime_error(sentence(got.error()));
    for (int64_t i = 0; i < *got; ++i) {
      const bool loud = std::abs(samples[size_t(2 * i)]) > 0.1F;
      // One at the very beginning may have begun before it.
      if (loud && quiet > kSoundRate / 10 && at + i > kSoundRate / 50) found.push_back(at + i);
      quiet = loud ? 0 : quiet + 1;
    }
    if (*got < kSoundRate) return found;
  }
}

} // namespace

class TestAwkward : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  test::AwkwardMaker m_maker{m_folder.path()};

  void rows() {
    QTest::addColumn<const AwkwardFile*>("file");
    for (const AwkwardFile& file : test::awkwardFiles()) QTest::newRow(file.name) << &file;
  }

private slots:
  void pictures_data() { rows(); }
  /// Every picture is there once, under its own number and its own time, however it is reached.
  void pictures() {
    QFETCH(const AwkwardFile*, file);
    const QString path = m_maker.make(*file);
    const test::ToolsReading tools = test::readByTools(path);
    const auto count = int64_t(tools.numbers.size());
    QVERIFY(count > 0);
    const bool untold = file->untold || *file->then != 0; // of joined files the tools do not tell time in one piece
    const auto media = probe(path.toStdString());
    QVERIFY2(media.has_value(), media ? "" : sentence(media.error()).c_str());
    const FrameClock& clock = media->video->clock;
    QCOMPARE(clock.frameCount(), count);
    QCOMPARE(clock.variable(), file->rate == AwkwardFile::Rate::Variable);
    if (!clock.variable()) QCOMPARE(clock.rate(), FrameRate(Rational(25)));
    for (size_t i = 0; i < (untold ? 0 : tools.times.size()); ++i)
      QVERIFY2(std::abs(clock.timeOf(int64_t(i)).toDouble() - tools.times[i]) < 0.00101,
               qPrintable(QStringLiteral("%1: %2").arg(i).arg(tools.times[i])));
    auto reader = VideoReader::open(*media);
    QVERIFY2(reader.has_value(), reader ? "" : sentence(reader.error()).c_str());
    for (int64_t n = 0; n < count; ++n) { // one after the other
      const auto got = reader->read();
      QVERIFY2(got, qPrintable(QString::number(n)));
      QVERIFY2(got->frame, qPrintable(QString::number(n)));
      QCOMPARE(got->number, n);
      QCOMPARE(test::readNumber(got->frame), tools.numbers[size_t(n)]);
      QVERIFY(!got->damaged);
    }
    QVERIFY(!reader->read()->frame);
    for (const int64_t n : {count / 2, count / 2 - 1, int64_t(0), count - 1, count - 2, int64_t(17), int64_t(41),
                            count / 3, count + 100, int64_t(1)}) { // and from anywhere
      const int64_t at = std::clamp<int64_t>(n, 0, count - 1);
      const auto got = reader->shown(n);
      QVERIFY2(got.has_value(), got ? "" : sentence(got.error()).c_str());
      QCOMPARE(got->number, at);
      QCOMPARE(test::readNumber(got->frame), tools.numbers[size_t(at)]);
    }
    for (const int64_t n : {count / 2 + 3, int64_t(5), count - 3}) { // to go on from there
      if (n < 0 || n >= count) continue;
      auto fresh = VideoReader::open(*media);
      QVERIFY(fresh->goTo(n).has_value());
      for (int64_t i = n; i < std::min(count, n + 30); ++i) {
        const auto got = fresh->read();
        QVERIFY(got);
        QVERIFY(got->frame);
        QCOMPARE(got->number, i);
        QCOMPARE(test::readNumber(got->frame), tools.numbers[size_t(i)]);
      }
    }
  }

  void sound_data() { rows(); }
  /// Clicks are where they are for FFmpeg's tool, wherever reading begins.
  void sound() {
    QFETCH(const AwkwardFile*, file);
    if (file->sound == AwkwardFile::Sound::None) return;
    const QString path = m_maker.make(*file);
    test::ToolsReading tools;
    if (*file->then == 0) {
      tools = test::readByTools(path);
    } else { // the second file's sound goes on where its pictures do
      AwkwardFile first = *file;
      first.then = "";
      const std::string name = std::string("first of ") + file->name;
      first.name = name.c_str();
      tools = test::readByTools(m_maker.make(first));
      for (const double click : test::readByTools(m_maker.make(QString::fromLatin1(file->then))).clicks)
        tools.clicks.push_back(click + 4);
    }
    QVERIFY(tools.clicks.size() >= 2);
    const auto media = probe(path.toStdString());
    QVERIFY(media.has_value());
    for (const int64_t from : {int64_t(0), int64_t(24'000), int64_t(120'000), int64_t(168'000)}) {
      auto reader = AudioReader::open(readAsStated(*media));
      QVERIFY2(reader.has_value(), reader ? "" : sentence(reader.error()).c_str());
      QVERIFY(reader->goTo(from).has_value());
      std::vector<double> wanted;
      for (const double each : tools.clicks)
        if (each * kSoundRate >= double(from)) wanted.push_back(each * kSoundRate);
      const auto found = clicks(*reader, from);
      QCOMPARE(found.size(), wanted.size());
      for (size_t i = 0; i < found.size(); ++i) // a millisecond and a half: stamps of some files are whole ones
        QVERIFY2(std::abs(double(found[i]) - wanted[i]) < 72,
                 qPrintable(QStringLiteral("%1: %2").arg(from).arg(double(found[i]) - wanted[i])));
      QCOMPARE(reader->damage().packets, 0);
    }
  }
};

QTEST_GUILESS_MAIN(TestAwkward)
#include "tst_awkward.moc"
