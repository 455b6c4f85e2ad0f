#pragma once
/// The loop strip of the demo in the real window.

#include "app/loop/loop_strip.h"
#include "tests/app/window_fixture.h"

namespace heft::app {

class PatternsTest : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    openDemo();
  }
  // Opens the menu at a place of the strip and takes the entry with these words, in a submenu where `sub` names
  // one.
  void fromMenu(QPointF at, const QString& words, const QString& sub = {}) {
    QTimer::singleShot(50, receiver.get(), [words, sub] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      for (QAction* a : menu->actions())
        if (!sub.isEmpty() && a->text() == sub) menu = a->menu();
      for (QAction* a : menu->actions())
        if (a->text() == words) a->trigger();
      QApplication::activePopupWidget()->close();
    });
    QContextMenuEvent event(QContextMenuEvent::Mouse, at.toPoint(), strip()->mapToGlobal(at.toPoint()));
    QApplication::sendEvent(strip(), &event);
    settle();
  }
  LoopStrip* strip() { return window.loopStrip(); }
  const std::vector<Note>& notes() { return session().bass().notes; }
};

}  // namespace heft::app
