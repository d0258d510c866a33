// SPDX-License-Identifier: GPL-3.0-or-later
// A whole job by keys alone: in a real window, under a window manager, with key presses that come through the X server.
// The pictures that come out are read by FFmpeg's decoders and held against places reckoned by hand.
#include "app/bench/BenchView.h"
#include "app/dispatch/DispatchView.h"
#include "app/shell/MainWindow.h"
#include "app/spec/SpecView.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/ProjectFile.h"
#include "support/Patience.h"
#include "support/TestMedia.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QProcess>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>
#include <thread>

using namespace tromb;

namespace {

constexpr Size kSource{1280, 720};
constexpr int kFrames = 50; ///< of each clip, at 25 a second
constexpr int kMostPresses = 90;
constexpr int kStepPatience = 600'000; ///< milliseconds; only a test that fails waits so long

/// A clip that says in every place what it is: luma where across, U which clip, V which frame.
test::Yuv telling(int clip, int frame, int x) {
  return {40 + x * 160 / kSource.width, 96 + clip * 32, 100 + frame};
}

/// What is seen at a place of a canvas, the mean of a block.
struct Seen {
  double x = 0;     ///< of the source
  double clip = 0;  ///< 0 to 2
  double frame = 0; ///< of the source
};
Seen seenAt(const Frame& picture, int x, int y) {
  double luma = 0;
  double u = 0;
  double v = 0;
  constexpr int kSide = 8;
  for (int i = 0; i < kSide * kSide; ++i) {
    const test::Yuv at = test::yuvAt(picture, x - kSide / 2 + i % kSide, y - kSide / 2 + i / kSide);
    luma += at.y;
    u += at.u;
    v += at.v;
  }
  constexpr double kCount = kSide * kSide;
  return {(luma / kCount + 0.5 - 40) * kSource.width / 160, (u / kCount - 96) / 32, v / kCount - 100};
}

} // namespace

class TestKeyboard : public QObject {
  Q_OBJECT

  QTemporaryDir m_folder;
  std::unique_ptr<MainWindow> m_window;
  int m_presses = 0;
  QStringList m_wrong; ///< steps that did not do what they are to do

  [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }

  // What follows runs in a thread of its own, as a person does, while the window has its own.

  static void xdotool(const QStringList& arguments) {
    QProcess tool;
    tool.start(QStringLiteral("xdotool"), arguments);
    tool.waitForFinished();
  }
  /// Keys, one after the other: "ctrl+b", "Return". Each counts.
  void press(const QStringList& keys) {
    for (const QString& key : keys) {
      settle();
      xdotool({QStringLiteral("key"), QStringLiteral("--clearmodifiers"), key});
      ++m_presses;
    }
    settle();
  }
  void press(const char* keys) { press(QString::fromLatin1(keys).split(QLatin1Char(' '))); }
  void type(const QString& text) {
    settle();
    xdotool({QStringLiteral("type"), QStringLiteral("--delay"), QStringLiteral("1"), text});
    settle();
  }
  template <typename Get> static auto inWindow(Get get) {
    decltype(get()) got{};
    QMetaObject::invokeMethod(
        qApp, [&] { got = get(); }, Qt::BlockingQueuedConnection);
    return got;
  }
  struct Stopped {};
  /// Waits until it is so; ends the job where it never is.
  void becomes(const char* what, const std::function<bool()>& so) {
    QElapsedTimer since;
    since.start();
    while (since.elapsed() < kStepPatience) {
      if (inWindow(so)) return;
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    m_wrong << inWindow([this, what] {
      const QWidget* now = QApplication::focusWidget();
      QStringList shots;
      for (const Shot& shot : project().shots)
        shots << QString::fromStdString(shot.name + ' ' + shot.in.toString() + ' ' + shot.out.toString());
      return QStringLiteral("%1 (the keyboard is at %2 %3; shots: %4)")
          .arg(QLatin1String(what), QLatin1String(now ? now->metaObject()->className() : "nothing"),
               now ? now->accessibleName() : QString(), shots.join(QLatin1String(", ")));
    });
    throw Stopped();
  }
  /// Key presses have come through the server, and what they began is done.
  void settle() {
    std::this_thread::sleep_for(std::chrono::milliseconds(60));
    (void)inWindow([this] { return m_window->settled(); });
  }
  /// Waits until a dialog has the keyboard, which the server gives it some time after it is shown.
  void atDialog(const char* what) {
    becomes(what, [] {
      const QWidget* dialog = QApplication::activeModalWidget();
      return dialog && dialog->isActiveWindow() && dialog->isAncestorOf(QApplication::focusWidget());
    });
  }
  /// Says which files in the system's dialog. Qt's list of completions takes the Return of somebody who types faster
  /// than it follows, and puts what it had found so far in the place of the text: then the same once more, as a person
  /// would.
  void choose(const QString& files) {
    constexpr int kTries = 4;
    constexpr int kLook = 20;
    constexpr int kLooks = 200;
    for (int tries = 0; tries < kTries; ++tries) {
      if (tries > 0) press("ctrl+a");
      type(files);
      press("Return");
      for (int look = 0; look < kLooks; ++look) {
        if (inWindow([] { return QApplication::activeModalWidget() == nullptr; })) return;
        std::this_thread::sleep_for(std::chrono::milliseconds(kLook));
      }
    }
  }
  /// What is open where the job has ended early would go on waiting for somebody.
  static void closeDialogs() {
    while (inWindow([] {
      QWidget* dialog = QApplication::activeModalWidget();
      return dialog && dialog->close();
    }))
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
  }
  [[nodiscard]] bool exporting() const { return m_window->queue().left() > 0; }
  [[nodiscard]] const Project& project() const { return m_window->document().project(); }

  void job() {
    const auto shots = [this](size_t count) { return [this, count] { return project().shots.size() == count; }; };
    becomes("the window has the keyboard", [] { return QApplication::focusWidget() != nullptr; });
    press("ctrl+b");
    atDialog("footage is asked for");
    choose(QStringLiteral("\"%1\" \"%2\" \"%3\"").arg(at("a.mp4"), at("b.mp4"), at("c.mp4")));
    becomes("three shots are there", shots(3));
    becomes("and looked at", [this] { return m_window->settled(); });
    press("Return"); // the offer has the keyboard
    becomes("the offered deliverables are taken", [this] { return project().deliverables.size() == 4; });
    press("ctrl+d");
    becomes("what can be added is offered", [] { return QApplication::activePopupWidget() != nullptr; });
    press("a");
    becomes("it is specified", [this] { return m_window->spec().isVisible() && project().deliverables.size() == 5; });
    press("alt+x");
    type(QStringLiteral("1024"));
    press("Tab");
    type(QStringLiteral("512"));
    becomes("a typed size", [this] {
      return project().deliverables.size() == 5 && project().deliverables[4].canvas == Size{1024, 512};
    });
    // Framing: the first shot is slid in the vertical, the second lies over a backdrop there.
    press("ctrl+2 ctrl+Home Right alt+shift+Right alt+shift+Right alt+shift+Right Down b");
    becomes("a backdrop", [this] { return m_window->document().cell({1, 1}).framing.layout == Layout::Backdrop; });
    // A subject that moves, in the third.
    press("Down Return");
    becomes("the bench", [this] { return m_window->bench().isVisible() && m_window->bench().bench().column() == 1; });
    press("s e Prior shift+Left shift+Left shift+Left shift+Left");
    becomes("a subject that moves",
            [this] { return !project().shots[2].subjects.empty() && project().shots[2].subjects[0].move.size() == 2; });
    // Split, trimmed, put in another order, and a part of it named.
    press("ctrl+6 shift+Right shift+Right ctrl+t");
    becomes("a split", shots(4));
    press("Return alt+Right alt+Right alt+Right alt+Right alt+Right ctrl+shift+Left");
    becomes("another order", [this] { return project().shots[2].in == Rational(1); });
    press("alt+r n");
    atDialog("a name is asked for");
    type(QStringLiteral("Close"));
    press("Return");
    becomes("a region", [this] { return project().regions.size() == 1; });
    press("ctrl+s");
    atDialog("a place to save is asked for");
    choose(at("job.tromb"));
    becomes("saved", [this] { return !m_window->isWindowModified() && QFile::exists(at("job.tromb")); });
    press("ctrl+n ctrl+o");
    atDialog("a project is asked for");
    choose(at("job.tromb"));
    becomes("open again", shots(4));
    becomes("and looked at again", [this] { return m_window->settled(); });
    // All of it, then the region alone.
    press("ctrl+e");
    becomes("the dispatch", [this] { return m_window->dispatch().isVisible(); });
    press("alt+d ctrl+a");
    type(at("out"));
    press("Return");
    becomes("exported", [this] { return QDir(at("out")).entryList({"*.mp4"}).size() == 5; });
    becomes("and done", [this] { return !exporting(); });
    press("ctrl+e"); // what is to be sent again
    press("alt+t Down ctrl+e");
    becomes("the part exported", [this] { return QDir(at("out")).entryList({"*Close*.mp4"}).size() == 5; });
    becomes("and done, too", [this] { return !exporting(); });
  }

  Frame pictureOf(const QString& file, int64_t frame) {
    const auto media = probe(at(file).toStdString());
    if (!media) return {};
    auto reader = VideoReader::open(*media);
    return reader ? reader->frameAt(frame).value_or(Frame()) : Frame();
  }

private slots:
  void initTestCase() {
    if (QGuiApplication::platformName() != QLatin1String("xcb")) QSKIP("needs an X server and a window manager");
    QStandardPaths::setTestModeEnabled(true);
    qputenv("XDG_DATA_HOME", at("data").toLocal8Bit());
    QCoreApplication::setApplicationName(QStringLiteral("tst_keyboard"));
    QGuiApplication::setQuitOnLastWindowClosed(false);
    QSettings(QStringLiteral("tromb"), QStringLiteral("tst_keyboard")).clear();
    Settings::setFramesNewShots(false); // tests of other things
    Theme::apply(*qApp, ThemeChoice::Day);
    int clip = 0;
    for (const char* name : {"a.mp4", "b.mp4", "c.mp4"}) {
      test::writeClip(at(name).toStdString(), kSource, FrameRate(), kFrames,
                      [clip](int frame, int x, int) { return telling(clip, frame, x); });
      ++clip;
    }
    m_window = std::make_unique<MainWindow>();
    m_window->show();
    QVERIFY(QTest::qWaitForWindowActive(m_window.get()));
    QEventLoop whole;
    std::thread person([this, &whole] {
      try {
        job();
      } catch (const Stopped&) { // is told
        closeDialogs();
      }
      QMetaObject::invokeMethod(&whole, &QEventLoop::quit, Qt::QueuedConnection);
    });
    whole.exec();
    person.join();
  }
  void cleanupTestCase() {
    if (m_window) m_window->document().undoStack().setClean();
    m_window.reset();
  }

  void everyStepDoesWhatItIsToDo() { QVERIFY2(m_wrong.isEmpty(), qPrintable(m_wrong.join(QLatin1String("; ")))); }

  void itTakesFewPresses() { QVERIFY2(m_presses <= kMostPresses, qPrintable(QString::number(m_presses))); }

  // Shown in a small window of its own: the frame of the window manager is on the screen, too.
  void theWindowFitsTheScreen() {
    QVERIFY2(
        m_window->screen()->availableGeometry().contains(m_window->frameGeometry()),
        qPrintable(
            QStringLiteral("%1×%2").arg(m_window->frameGeometry().width()).arg(m_window->frameGeometry().height())));
  }

  void thePicturesAreRight_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<int>("frame"); // of the file
    QTest::addColumn<QPoint>("at");
    QTest::addColumn<int>("clip");
    QTest::addColumn<int>("shown"); // frame of the source
    QTest::addColumn<int>("x");     // of the source
    // Vertical is 1080×1920 for 405×720 of the source: 8 pixels of the canvas are 3 of the source. Slid 30 to the
    // right, its middle shows what lies 11 to the left of the source's.
    QTest::newRow("slid") << "job Vertical.mp4" << 10 << QPoint(540, 960) << 0 << 10 << 640 - 11;
    QTest::newRow("slid, at its left") << "job Vertical.mp4" << 10 << QPoint(32, 960) << 0 << 10 << 640 - 11 - 190;
    QTest::newRow("not slid elsewhere") << "job Wide.mp4" << 10 << QPoint(640, 360) << 0 << 10 << 640;
    // The whole picture over itself: 1080 wide for 1280.
    QTest::newRow("over a backdrop, left")
        << "job Vertical.mp4" << 60 << QPoint(108, 960) << 1 << 10 << 108 * 1280 / 1080;
    QTest::newRow("over a backdrop, right")
        << "job Vertical.mp4" << 60 << QPoint(972, 960) << 1 << 10 << 972 * 1280 / 1080;
    // The third was split after 20 frames, its second part trimmed by 5 and put in front: 25 to 49, then 0 to 19.
    QTest::newRow("split, trimmed, put in front") << "job Wide.mp4" << 100 << QPoint(640, 360) << 2 << 25 << 640;
    QTest::newRow("its last") << "job Wide.mp4" << 124 << QPoint(640, 360) << 2 << 49 << 640;
    QTest::newRow("the first part behind it") << "job Wide.mp4" << 125 << QPoint(640, 360) << 2 << 0 << 640;
    QTest::newRow("the end") << "job Wide.mp4" << 144 << QPoint(640, 360) << 2 << 19 << 640;
    // The subject, followed by what has its width: 40 pixels of the canvas, 15 of the source, to the left at the
    // source's first frame, and back in the middle at its last.
    QTest::newRow("the subject, at its first") << "job Vertical.mp4" << 125 << QPoint(540, 960) << 2 << 0 << 640 - 15;
    QTest::newRow("the subject, at its last") << "job Vertical.mp4" << 124 << QPoint(540, 960) << 2 << 49 << 640;
    QTest::newRow("a typed size") << "job 1024×512.mp4" << 144 << QPoint(512, 256) << 2 << 19 << 640;
    QTest::newRow("the region") << "job Close Wide.mp4" << 0 << QPoint(640, 360) << 2 << 25 << 640;
    QTest::newRow("the region's last") << "job Close Wide.mp4" << 24 << QPoint(640, 360) << 2 << 49 << 640;
  }
  void thePicturesAreRight() {
    QFETCH(const QString, file);
    QFETCH(const int, frame);
    QFETCH(const QPoint, at);
    QFETCH(const int, clip);
    QFETCH(const int, shown);
    QFETCH(const int, x);
    const Frame picture = pictureOf("out/" + file, frame);
    QVERIFY2(picture, qPrintable(QDir(this->at("out")).entryList().join(QLatin1String("; "))));
    const Seen seen = seenAt(picture, at.x(), at.y());
    QCOMPARE(int(std::lround(seen.clip)), clip);
    QVERIFY2(std::abs(seen.frame - shown) < 1, qPrintable(QStringLiteral("frame %1").arg(seen.frame)));
    QVERIFY2(std::abs(seen.x - x) < 8, qPrintable(QStringLiteral("place %1").arg(seen.x))); // a step of luma
  }
  void theFilesAreAsLong_data() {
    QTest::addColumn<QString>("file");
    QTest::addColumn<int>("frames");
    QTest::newRow("all") << "job Wide.mp4" << 145;
    QTest::newRow("a typed size") << "job 1024×512.mp4" << 145;
    QTest::newRow("the region") << "job Close Vertical.mp4" << 25;
  }
  void theFilesAreAsLong() {
    QFETCH(const QString, file);
    QFETCH(const int, frames);
    const auto media = probe(at("out/" + file).toStdString());
    QVERIFY2(media.has_value(), qPrintable(QDir(at("out")).entryList().join(QLatin1String("; "))));
    QCOMPARE(media->video->clock.frameCount(), int64_t(frames));
  }
};

QTEST_MAIN(TestKeyboard)
#include "tst_keyboard.moc"
