// Automation in the real window: drawn by mouse and by keys, recorded from a controller, chosen by section;
// states of the session kept, heard against now, gone back to.

#include <QContextMenuEvent>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>

#include "app/loop/song_overview.h"
#include "app/play/teacher.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/states.h"
#include "core/session/edits/track.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class AutomationWindowTest : public DriveTest {
 protected:
  LoopStrip& strip() { return *window.loopStrip(); }
  const Automation& first() { return session().automation.at(0); }
  void automateAmount() {
    find<ValueField>("Amount")->setFocus();
    QTest::keyClick(&window, Qt::Key_F6, Qt::ShiftModifier);
    settle();
    ASSERT_TRUE(strip().pen().isDrawing());
  }
  // A point of the pen's box: quarters, and a share of its height from below.
  QPointF spot(double quarters, double share) {
    const QRectF box = *strip().penBox();
    return {strip().rulerAt(quarters).x(), box.bottom() - share * box.height()};
  }
  void key(int key, Qt::KeyboardModifiers held = {}) {
    QTest::keyClick(&strip(), static_cast<Qt::Key>(key), held);
    settle();
  }
  // Chooses an entry of a menu's submenu, as they stand when the menu opens.
  void triggerIn(QMenu* menu, const QString& submenu, const QString& words) {
    Q_EMIT menu->aboutToShow();
    for (QMenu* one : menu->findChildren<QMenu*>())
      if (one->title() == submenu)
        for (QAction* action : one->actions())
          if (action->text() == words) return action->trigger(), settle();
    FAIL() << submenu.toStdString() << " > " << words.toStdString();
  }
};

TEST_F(AutomationWindowTest, IsDrawnByMouseMovedBentTakenAwayAndUndone) {
  const Session before = session();
  automateAmount();
  ASSERT_EQ(session().automation.size(), 1u);
  EXPECT_EQ(first().points.size(), 1u) << "at the present value";
  QTest::mouseClick(&strip(), Qt::LeftButton, {}, spot(4.0, 0.9).toPoint());
  settle();
  ASSERT_EQ(first().points.size(), 2u);
  EXPECT_EQ(first().points[1].quarters, 4.0) << "on the grid";
  EXPECT_GT(first().points[1].value, first().points[0].value);
  EXPECT_EQ(find<ValueField>("Amount")->spec().turnedBy(), "automation");
  const double was = first().points[1].value;
  drag(&strip(), strip().penPoint(1), strip().penPoint(1) + QPointF(0, 12));
  EXPECT_LT(first().points[1].value, was);
  // The grip in the middle bends.
  const double middle = 0.5 * (strip().penPoint(0).x() + strip().penPoint(1).x());
  const QPointF grip(middle, 0.5 * (strip().penPoint(0).y() + strip().penPoint(1).y()));
  drag(&strip(), grip, QPointF(middle, strip().penPoint(1).y() + 3));
  EXPECT_GT(first().points[0].bend, 0.2);
  // A click takes a point away; the last one stays.
  QTest::mouseClick(&strip(), Qt::LeftButton, {}, strip().penPoint(1).toPoint());
  QTest::mouseClick(&strip(), Qt::LeftButton, {}, strip().penPoint(0).toPoint());
  settle();
  EXPECT_EQ(first().points.size(), 1u);
  while (!session().automation.empty()) document().undo();
  settle();
  EXPECT_EQ(session(), before);
  EXPECT_FALSE(strip().pen().isDrawing()) << "nothing is left to draw";
}

TEST_F(AutomationWindowTest, IsDrawnByKeysAlone) {
  automateAmount();
  const double was = first().points[0].value;
  key(Qt::Key_Up), key(Qt::Key_Up, Qt::ShiftModifier);
  EXPECT_GT(first().points[0].value, was);
  key(Qt::Key_Right, Qt::ControlModifier), key(Qt::Key_Right, Qt::ControlModifier);
  EXPECT_GT(first().points[0].quarters, 0.0);
  key(Qt::Key_Insert);
  ASSERT_EQ(first().points.size(), 2u);
  EXPECT_EQ(first().points[0].quarters, 0.0) << "at the cursor";
  key(Qt::Key_Up, Qt::ControlModifier);
  EXPECT_GT(first().points[0].bend, 0.0);
  key(Qt::Key_Delete);
  EXPECT_EQ(first().points.size(), 1u);
  // I plays without it, like any other value.
  key(Qt::Key_I);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_TRUE(first().on);
  key(Qt::Key_I);
  key(Qt::Key_Escape);
  EXPECT_FALSE(strip().pen().isDrawing());
}

TEST_F(AutomationWindowTest, APointIsTypedWithItsBend) {
  automateAmount();
  auto type = [&](Qt::Key first, const QString& words) {
    QTimer::singleShot(0, [&] {
      auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
      ASSERT_TRUE(dialog);
      auto* line = dialog->findChild<QLineEdit*>();
      if (first == Qt::Key_F2) line->selectAll();
      QTest::qWait(20);
      QTest::keyClicks(line, words);
      QTest::keyClick(line, Qt::Key_Return);
    });
    key(first);
  };
  key(Qt::Key_Insert);
  type(Qt::Key_4, ".5 dB, bend -30 %");
  EXPECT_NEAR(first().points[0].value, 4.5, 1e-9);
  EXPECT_NEAR(first().points[0].bend, -0.3, 1e-9);
  document().undo();
  EXPECT_EQ(first().points[0].bend, 0.0) << "one step";
  const Session before = session();
  type(Qt::Key_F2, "loud");
  EXPECT_EQ(session(), before);
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("loud"));
}

TEST_F(AutomationWindowTest, AChoiceIsAutomatedFromItsField) {
  auto* character = find<ValueField>("Character");
  ASSERT_TRUE(character->spec().turned && character->spec().turned());
  character->setFocus();
  QTest::keyClick(&window, Qt::Key_F6, Qt::ShiftModifier);
  settle();
  ASSERT_TRUE(strip().pen().isDrawing());
  EXPECT_TRUE(first().holds);
  const auto kind = session().kick().layers[0].chain.first<Drive>()->kind;
  EXPECT_EQ(first().points[0].value, static_cast<double>(kind));
  EXPECT_EQ(strip().pen().typedPoint()->toStdString(), nameOf(kind));
  const double was = first().points[0].value;
  key(was > 0.0 ? Qt::Key_Down : Qt::Key_Up);
  EXPECT_EQ(std::abs(first().points[0].value - was), 1.0) << "one place at a press";
  EXPECT_EQ(session().kick().layers[0].chain.first<Drive>()->kind, kind);
}

TEST_F(AutomationWindowTest, ShiftAndADragSetARegionsValue) {
  automateAmount();
  const double was = first().points[0].value;
  window.transport().setRegion(std::pair(2.0, 4.0));
  drag(&strip(), spot(3.0, 0.5), spot(3.1, 0.95), Qt::ShiftModifier);
  EXPECT_EQ(first().at(1.9), was);
  EXPECT_GT(first().at(2.0), was);
  EXPECT_EQ(first().at(2.0), first().at(3.9));
  EXPECT_EQ(first().at(4.0), was);
  document().undo();
  settle();
  EXPECT_EQ(first().at(3.0), was) << "one drag is one step";
}

TEST_F(AutomationWindowTest, AControllersMovesAreRecordedWhileItPlays) {
  find<ValueField>("Amount")->setFocus();
  QTest::keyClick(&window, Qt::Key_F6);
  auto knob = [&](double place) {
    window.playIn().hear({KeyEvent::Kind::Controller, 21, place});
    QTest::qWait(60);
  };
  knob(0.0);
  settle();
  const double before = session().kick().layers[0].chain.first<Drive>()->driveDb;
  QTest::keyClick(&window, Qt::Key_F8, Qt::ShiftModifier);
  window.transport().play();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 0.2; }, 5000));
  for (const double place : {1.0, 0.8, 0.6, 0.4, 0.3}) knob(place);
  window.transport().stop();
  settle();
  ASSERT_EQ(session().automation.size(), 1u);
  EXPECT_GE(first().points.size(), 3u);
  EXPECT_GT(first().points.front().quarters, 0.1);
  EXPECT_NEAR(first().points.front().value, before, 1e-6) << "from the value as it was";
  EXPECT_EQ(session().kick().layers[0].chain.first<Drive>()->driveDb, before) << "and it stays so";
  EXPECT_EQ(document().undoName().left(6), "record");
  // A later take replaces what it plays over, and nothing else.
  const Automation once = first();
  window.transport().locate(4.0);
  window.transport().play();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 4.2; }, 5000));
  knob(0.0), knob(0.5), knob(0.9);
  window.transport().stop();
  settle();
  EXPECT_GT(first().points.size(), once.points.size());
  EXPECT_TRUE(std::equal(once.points.begin(), once.points.end(), first().points.begin()));
  EXPECT_EQ(session().kick().layers[0].chain.first<Drive>()->driveDb, before);
}

TEST_F(AutomationWindowTest, ASectionMutesAPartByItsMenu) {
  document().edit(setSong(true));
  document().edit(setLoopBeats(128));
  document().edit(addSection("Break & more", 0.0, 16.0));
  settle();
  auto& song = *window.findChild<SongOverview*>();
  ASSERT_TRUE(song.isVisible());
  const size_t hits = document().stems()->hitFrames().size();
  ASSERT_GT(hits, 0u);
  QTimer::singleShot(50, receiver.get(), [&] {
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    ASSERT_TRUE(menu);
    triggerIn(menu, "Kick", "Mute here");
    menu->close();
  });
  const QPoint at = song.nameAt(4.0).toPoint();
  QContextMenuEvent event(QContextMenuEvent::Mouse, at, song.mapToGlobal(at));
  QApplication::sendEvent(&song, &event);
  settle();
  EXPECT_TRUE(session().mutedAt(session().kick().id, 1.0));
  EXPECT_LT(document().stems()->hitFrames().size(), hits);
  EXPECT_EQ(document().study()->pair.hitsInLoop, document().stems()->hitFrames().size());
  document().undo();
  settle();
  EXPECT_EQ(document().stems()->hitFrames().size(), hits);
}

TEST_F(AutomationWindowTest, StatesAreKeptHeardAndGoneBackTo) {
  const Session before = session();
  QTest::keyClick(&window, Qt::Key_B, Qt::ControlModifier);
  settle();
  ASSERT_EQ(session().states.size(), 1u);
  EXPECT_TRUE(document().isStudied()) << "keeping one measures nothing anew";
  typeInto("Amount", "9");
  document().edit(removeLayer(session().kick(), session().kick().layers[1].id));
  const Session later = session();
  QTest::keyClick(&window, Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
  settle();
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(document().before().applied(session()).kick(), before.kick()) << "the state is what is heard";
  EXPECT_EQ(session(), later) << "and nothing has changed";
  QTest::keyClick(&window, Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_FALSE(window.transport().isBefore());
  triggerIn(find<QMenu>("States menu"), "State 1", "Go back to this");
  EXPECT_EQ(session().kick(), before.kick());
  EXPECT_EQ(session().states.size(), 1u) << "the list stays";
  EXPECT_TRUE(document().stems()->kick().frames() > 0);
  document().undo();
  settle();
  EXPECT_EQ(session(), later);
  // It comes back from the folder, with its sounds.
  const auto saved = QString::fromStdString(folder / "kept.heft");
  ASSERT_TRUE(document().files().save(saved));
  ASSERT_TRUE(document().files().open(saved));
  settle();
  triggerIn(find<QMenu>("States menu"), "State 1", "Go back to this");
  EXPECT_EQ(session().kick().layers[0].what, before.kick().layers[0].what);
  EXPECT_NE(document().layerSound(session().kick().id, session().kick().layers[0].id), nullptr);
}

}  // namespace
}  // namespace heft::app
