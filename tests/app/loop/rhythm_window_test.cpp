// Whole patterns by the loop's menu, and levels of the click and of auditions, in the real window.

#include <QMenuBar>

#include "core/session/edits/rhythm.h"
#include "tests/app/loop/patterns_fixture.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class RhythmWindowTest : public SoundsTest {
 protected:
  // Presses an entry of the loop's menu over a lane's empty end, or of a menu in it.
  bool fromMenu(const QPointF& at, const QString& words, const QString& within = {}) {
    bool found = false;
    QTimer::singleShot(100, receiver.get(), [&] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      for (QAction* action : menu->actions()) {
        if (within.isEmpty() && action->text().startsWith(words)) found = true, action->trigger();
        if (!within.isEmpty() && action->menu() && action->text().startsWith(within))
          for (QAction* inner : action->menu()->actions())
            if (inner->text().startsWith(words)) found = true, inner->trigger();
      }
      menu->close();
    });
    auto* strip = window.loopStrip();
    QContextMenuEvent event(QContextMenuEvent::Mouse, at.toPoint(), strip->mapToGlobal(at.toPoint()));
    QApplication::sendEvent(strip, &event);
    settle();
    return found;
  }
  // Of the menu bar, opened as a click opens it.
  QAction* entry(const char* menuName, const QString& words) {
    auto* menu = window.findChild<QMenu*>(menuName);
    EXPECT_TRUE(menu) << menuName;
    Q_EMIT menu->aboutToShow();
    for (QAction* action : menu->actions())
      if (action->text() == words) return action;
    return nullptr;
  }
};

TEST_F(RhythmWindowTest, NotesAreJoinedShortenedAndVaried) {
  openDemo();
  auto* strip = window.loopStrip();
  const Session before = session();
  // Between two notes of the bass's lane.
  const Note first = session().bass().notes[0], second = session().bass().notes[1];
  ASSERT_GT(second.startQuarters, first.endQuarters() + 0.1);
  const double gap = 0.5 * (first.endQuarters() + second.startQuarters);
  const QPointF bass(strip->kickAt(gap).x(), strip->height() * 0.5);
  ASSERT_TRUE(fromMenu(bass, "Play bass legato"));
  for (size_t i = 0; i + 1 < session().bass().notes.size(); ++i)
    EXPECT_NEAR(session().bass().notes[i].endQuarters(), session().bass().notes[i + 1].startQuarters, 1e-9);
  EXPECT_EQ(session().kick(), before.kick());
  document().undo();
  EXPECT_EQ(session(), before) << "one step";
  ASSERT_TRUE(fromMenu(bass, "by 1/64", "Shorten all bass"));
  EXPECT_NEAR(session().bass().notes[0].lengthQuarters, first.lengthQuarters - 1.0 / 16, 1e-9);
  document().undo();
  ASSERT_TRUE(fromMenu(bass, "up to 10 %, 5 ms", "Vary"));
  EXPECT_NE(session().bass().notes, before.bass().notes);
  EXPECT_EQ(session().kick().hits, before.kick().hits) << "of the lane in the hand alone";
  const auto varied = session().bass().notes;
  document().undo();
  document().redo();
  EXPECT_EQ(session().bass().notes, varied);
  document().undo();
  // The rhythm of the kick on the line's own pitches.
  ASSERT_TRUE(fromMenu(bass, "Kick", "Rhythm of bass"));
  ASSERT_EQ(session().bass().notes.size(), before.kick().hits.size());
  EXPECT_EQ(session().bass().notes[1].startQuarters, before.kick().hits[1].startQuarters);
}

TEST_F(RhythmWindowTest, ClickAndPreviewHaveLevelsOfTheirOwn) {
  openDemo();
  const Session before = session();
  Transport& transport = window.transport();
  const double click = transport.monitor().clickDb(), preview = transport.monitor().previewDb();
  const bool goesOn = transport.monitor().clickGoesOn();
  QAction* softer = entry("Click menu", "-24 dB");
  ASSERT_TRUE(softer);
  softer->trigger();
  EXPECT_EQ(transport.monitor().clickDb(), -24.0);
  entry("Click menu", "Keep clicking while recording")->trigger();
  EXPECT_NE(transport.monitor().clickGoesOn(), goesOn);
  entry("Preview menu", "6 dB softer")->trigger();
  EXPECT_EQ(transport.monitor().previewDb(), -6.0);
  EXPECT_TRUE(entry("Preview menu", "6 dB softer")->isChecked());
  ASSERT_TRUE(entry("Play into menu", "Kick"));
  entry("Play into menu", "Kick")->trigger();
  EXPECT_EQ(window.playIn().part().id, session().kick().id);
  EXPECT_EQ(session(), before) << "nothing of it is in the session";
  // Another window gets them: they are saved.
  {
    Window another;
    EXPECT_EQ(another.transport().monitor().clickDb(), -24.0);
    EXPECT_EQ(another.transport().monitor().previewDb(), -6.0);
  }
  transport.monitor().setClick(click, goesOn);
  transport.monitor().setPreviewDb(preview);
}

}  // namespace
}  // namespace heft::app
