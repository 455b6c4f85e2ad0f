// The whole window under random input: keys, clicks, drags, wheels and files in any order. It survives, and
// the remaining session opens again and undoes to its start. HEFT_USE_MINUTES=60 [HEFT_USE_SEED=n]
// [HEFT_MATERIAL=DIR] runs that long and prints the memory each minute.

#include <QAbstractButton>
#include <QDir>
#include <QDirIterator>
#include <QElapsedTimer>
#include <QFile>
#include <QFileDialog>
#include <QWheelEvent>
#include <cstdio>
#include <random>

#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class RandomUse : public WindowTest {
 protected:
  int below(int n) { return static_cast<int>(dice() % static_cast<unsigned>(n)); }
  Qt::KeyboardModifiers someModifiers() {
    constexpr Qt::KeyboardModifier kOf[] = {Qt::NoModifier, Qt::NoModifier,    Qt::NoModifier,
                                            Qt::NoModifier, Qt::ShiftModifier, Qt::ControlModifier,
                                            Qt::AltModifier};
    Qt::KeyboardModifiers out = kOf[below(7)];
    return below(8) ? out : out | Qt::ShiftModifier;
  }
  // Where keys and clicks go now.
  QWidget* inFront() {
    if (auto* popup = QApplication::activePopupWidget()) return popup;
    if (auto* modal = QApplication::activeModalWidget()) return modal;
    return &window;
  }
  void key() {
    static const std::vector<int> kKeys = [] {
      std::vector<int> out;
      for (int k = Qt::Key_A; k <= Qt::Key_Z; ++k) out.push_back(k);
      for (int k = Qt::Key_0; k <= Qt::Key_9; ++k) out.push_back(k);
      for (int k = Qt::Key_F1; k <= Qt::Key_F10; ++k) out.push_back(k);
      for (int often = 0; often < 4; ++often)
        for (int k : {Qt::Key_Up, Qt::Key_Down, Qt::Key_Left, Qt::Key_Right, Qt::Key_Tab, Qt::Key_Return})
          out.push_back(k);
      for (int k : {Qt::Key_Space, Qt::Key_Space, Qt::Key_Escape, Qt::Key_Delete, Qt::Key_Insert,
                    Qt::Key_PageUp, Qt::Key_PageDown, Qt::Key_Home, Qt::Key_End, Qt::Key_Plus, Qt::Key_Minus,
                    Qt::Key_Backspace, Qt::Key_Comma, Qt::Key_Period, Qt::Key_Slash})
        out.push_back(k);
      return out;
    }();
    const int which = kKeys[static_cast<size_t>(below(static_cast<int>(kKeys.size())))];
    const auto modifiers = someModifiers();
    // All but closing the window.
    if ((which == Qt::Key_Q || which == Qt::Key_W) && modifiers.testFlag(Qt::ControlModifier)) return;
    if (which == Qt::Key_F4 && modifiers.testFlag(Qt::AltModifier)) return;
    QWidget* front = inFront();
    auto* focus = QApplication::focusWidget();
    QTest::keyClick(focus && front->isAncestorOf(focus) ? focus : front, static_cast<Qt::Key>(which),
                    modifiers);
  }
  QWidget* someChild(QWidget* of) {
    QList<QWidget*> out;
    for (auto* w : of->findChildren<QWidget*>())
      if (w->isVisible() && !w->visibleRegion().isEmpty() && w->window() == of->window()) out << w;
    return out.isEmpty() ? of : out[below(static_cast<int>(out.size()))];
  }
  QPoint somewhere(QWidget* in) { return {below(std::max(1, in->width())), below(std::max(1, in->height()))}; }
  void mouse() {
    QPointer<QWidget> target = someChild(inFront());
    const QPoint from = somewhere(target);
    switch (below(8)) {
      case 0:
        return QTest::mouseClick(target, Qt::RightButton, {}, from);
      case 1:
        return QTest::mouseDClick(target, Qt::LeftButton, someModifiers(), from);
      case 2:
      case 3: {
        const auto modifiers = someModifiers();
        QTest::mousePress(target, Qt::LeftButton, modifiers, from);
        QPoint to = from;
        for (int i = 0; i < 5 && target; ++i) {
          to += QPoint(below(81) - 40, below(61) - 30);
          QMouseEvent move(QEvent::MouseMove, to, target->mapToGlobal(QPointF(to)), Qt::NoButton,
                           Qt::LeftButton, modifiers);
          QApplication::sendEvent(target, &move);
        }
        if (target) QTest::mouseRelease(target, Qt::LeftButton, modifiers, to);
        return;
      }
      case 4: {
        QWheelEvent turn(from, target->mapToGlobal(QPointF(from)), {}, {0, below(2) ? 120 : -120}, Qt::NoButton,
                         someModifiers(), Qt::NoScrollPhase, false);
        QApplication::sendEvent(target, &turn);
        return;
      }
      default:
        return QTest::mouseClick(target, Qt::LeftButton, someModifiers(), from);
    }
  }
  void dropFiles() {
    QMimeData data;
    QList<QUrl> urls;
    for (int i = below(6) ? 1 : 3; i > 0; --i)
      urls << QUrl::fromLocalFile(files[below(static_cast<int>(files.size()))]);
    data.setUrls(urls);
    QWidget* target = someChild(&window);
    while (target && !target->acceptDrops()) target = target->parentWidget();
    if (!target) return;
    QDragEnterEvent enter(QPoint(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(target, &enter);
    if (!enter.isAccepted()) return;
    QDropEvent event(QPointF(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(target, &event);
  }
  void one() {
    // Closes dialogs that ask for a place on disk: nothing outside the test's own folder is touched.
    if (auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget())) return dialog->reject();
    const int what = below(40);
    if (what == 0 && inFront() == &window) return dropFiles();
    if (what == 1) return window.showStage(static_cast<Stage>(below(6)));
    if (what == 2) return document().undo();
    what % 2 ? key() : mouse();
  }
  static bool isWithin() { return QApplication::activePopupWidget() || QApplication::activeModalWidget(); }
  static void leave() {
    if (auto* popup = QApplication::activePopupWidget()) return void(popup->close());
    if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) dialog->reject();
  }
  // Each starts the next before it begins, so that they continue within menus and dialogs, where a running
  // timer would not fire again.
  void use(const std::function<bool(int)>& goOn) {
    QEventLoop loop;
    int made = 0;
    std::function<void()> next = [&] {
      const bool more = goOn(made);
      if (!more && !isWithin()) return loop.quit();
      QTimer::singleShot(4, &loop, next);
      if (!more) return leave();
      ++made;
      one();
    };
    QTimer::singleShot(0, &loop, next);
    loop.exec();
  }
  void agrees() {
    const auto again = sessionFromJson(sessionToJson(session()), "again.json");
    ASSERT_TRUE(again) << again.error().sentence();
    EXPECT_TRUE(*again == session());
  }

  std::mt19937 dice;
  QStringList files;
};

double residentMegabytes() {
  QFile file("/proc/self/statm");
  if (!file.open(QIODevice::ReadOnly)) return 0.0;
  return file.readAll().split(' ')[1].toDouble() * 4096.0 / 1e6;
}

TEST_F(RandomUse, LeavesAWindowThatStandsAndASessionThatOpens) {
  openDemo();
  dice.seed(qEnvironmentVariable("HEFT_USE_SEED", "20261201").toUInt());
  const QString from = qEnvironmentVariable("HEFT_MATERIAL", QString::fromStdString(folder / "demo"));
  for (QDirIterator it(from, {"*.wav"}, QDir::Files, QDirIterator::Subdirectories); it.hasNext();)
    files << it.next();
  ASSERT_FALSE(files.isEmpty());
  std::sort(files.begin(), files.end());
  const QString home = QDir::currentPath();
  QDir::setCurrent(QString::fromStdString(folder / ""));
  const int minutes = qEnvironmentVariableIntValue("HEFT_USE_MINUTES");
  QElapsedTimer time;
  time.start();
  qint64 told = 0;
  // A sitting has several songs.
  const QString demo = document().files().folder();
  use([&](int made) {
    constexpr int kEventsOfASong = 6000;
    if (made % kEventsOfASong == kEventsOfASong - 1) document().files().openAside(demo);
    if (minutes > 0 && time.elapsed() / 60000 > told) {
      told = time.elapsed() / 60000;
      std::printf("%lld min, %d events, %.0f MB\n", told, made, residentMegabytes());
      std::fflush(stdout);
    }
    return minutes > 0 ? time.elapsed() < minutes * 60000LL : made < 400;
  });
  settle();
  agrees();
  while (!document().undoName().isEmpty()) document().undo();
  agrees();
  settle();
  QDir::setCurrent(home);
}

}  // namespace
}  // namespace heft::app
