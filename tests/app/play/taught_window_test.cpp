// A value assigned to a controller or a wheel in the real window: controlled, listed, removed; a keyboard
// that vanishes.

#include <QDialog>
#include <QPushButton>
#include <QTreeWidget>

#include "app/play/teacher.h"
#include "core/session/edits/values.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

using Kind = KeyEvent::Kind;

class TaughtTest : public DriveTest {
 protected:
  const Drive& drive() { return *session().kick().layers[0].chain.first<Drive>(); }
  void knob(double place, int number = 21) {
    window.playIn().hear({Kind::Controller, number, place});
    QTest::qWait(150);
  }
  void wheel(QWidget* at, int steps, Qt::KeyboardModifiers keys = {}) {
    QWheelEvent event(QPointF(2, 2), at->mapToGlobal(QPointF(2, 2)), {}, {0, 120 * steps}, Qt::NoButton, keys,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(at, &event);
    settle();
  }
  void teachByKey(const char* field) {
    find<ValueField>(field)->setFocus();
    QTest::keyClick(&window, Qt::Key_F6);
  }
  bool barShown() { return find<PlayInBar>("Play-in bar")->isVisible(); }
};

TEST_F(TaughtTest, OnePressAndAMoveAndTheKnobTurnsTheDrive) {
  const Session before = session();
  teachByKey("Amount");
  ASSERT_TRUE(window.teacher().isTeaching());
  EXPECT_TRUE(barShown());
  knob(0.0);
  EXPECT_FALSE(window.teacher().isTeaching());
  EXPECT_FALSE(barShown());
  ASSERT_EQ(session().taught.size(), 1u);
  EXPECT_EQ(find<ValueField>("Amount")->spec().turnedBy(), "controller 21 channel 1");
  // It takes over once it passes the value, here in one step past it, and a whole move is one undo step.
  const Session taught = session();
  knob(1.0);
  const double most = drive().driveDb;
  EXPECT_EQ(find<ValueField>("Amount")->shownText(), QString("+%1 dB").arg(most, 0, 'f', 1));
  knob(0.5), knob(0.25);
  EXPECT_NEAR(drive().driveDb, 0.25 * most, 1e-6);
  document().undo();
  EXPECT_EQ(session(), taught);
  // Moved by hand meanwhile: the controller waits, and says so, until it passes the value again.
  knob(0.9);
  EXPECT_EQ(session(), taught);
  document().undo();
  EXPECT_EQ(session(), before);
  knob(0.3);
  EXPECT_EQ(session(), before) << "nothing is taught";
}

TEST_F(TaughtTest, TheMousesWheelTurnsFromAnywhereAndEscapeLeaves) {
  teachByKey("Amount");
  QTest::keyClick(&window, Qt::Key_Escape);
  EXPECT_FALSE(window.teacher().isTeaching());
  EXPECT_TRUE(session().taught.empty());
  const double from = drive().driveDb;
  teachByKey("Amount");
  wheel(window.loopStrip(), 1);
  ASSERT_EQ(session().taught.size(), 1u);
  EXPECT_EQ(drive().driveDb, from) << "the turn that taught it only teaches";
  wheel(window.loopStrip(), 1, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_NEAR(drive().driveDb, from + 0.5, 1e-9);
  wheel(&window, -1, Qt::ControlModifier | Qt::ShiftModifier | Qt::AltModifier);
  EXPECT_NEAR(drive().driveDb, from + 0.4, 1e-9);
}

TEST_F(TaughtTest, ThePitchWheelBringsTheValueBackAndBendsNothing) {
  document().edit(putValue(
      "x",
      {session().kick().id, session().kick().layers[0].id, {}, session().kick().layers[0].chain.list[0].id},
      "drive.drive_db", 10.0));
  teachByKey("Amount");
  window.playIn().hear({Kind::Wheel, 0, 0.01});
  EXPECT_TRUE(window.teacher().isTeaching()) << "a wheel trembles at rest";
  window.playIn().hear({Kind::Wheel, 0, 0.2});
  QTest::qWait(150);
  EXPECT_GT(drive().driveDb, 10.0);
  window.playIn().hear({Kind::Wheel, 0, 0.0});
  QTest::qWait(150);
  EXPECT_NEAR(drive().driveDb, 10.0, 1e-9);
  EXPECT_TRUE(session().bass().wheel.empty());
}

TEST_F(TaughtTest, WhatIsTaughtIsListedAndForgotten) {
  teachByKey("Amount"), knob(0.4);
  teachByKey("Mix"), knob(0.4, 22);
  for (QAction* action : window.findChildren<QAction*>())
    if (action->text() == "Controller assignments...") action->trigger();
  auto* sheet = window.findChild<QDialog*>("Controller assignments");
  ASSERT_TRUE(sheet && sheet->isVisible());
  auto* list = sheet->findChild<QTreeWidget*>();
  ASSERT_EQ(list->topLevelItemCount(), 2);
  EXPECT_EQ(list->topLevelItem(0)->text(0), "controller 21 channel 1");
  EXPECT_TRUE(list->topLevelItem(0)->text(1).endsWith("Drive: Amount"))
      << list->topLevelItem(0)->text(1).toStdString();
  // A deleted processor leaves its row, which says so; undo brings it back.
  list->setCurrentItem(list->topLevelItem(1));
  QTest::keyClick(list, Qt::Key_Delete);
  ASSERT_EQ(session().taught.size(), 1u);
  EXPECT_EQ(session().taught[0].by.number, 21);
  const Owner layer{.part = session().kick().id, .layer = session().kick().layers[0].id};
  document().edit(removeProcessor(layer, session().kick().layers[0].chain.list[0].id));
  EXPECT_EQ(list->topLevelItem(0)->text(2), "not present");
  knob(0.0), knob(1.0);
  document().undo();
  EXPECT_NE(list->topLevelItem(0)->text(2), "not present");
  for (auto* button : sheet->findChildren<QPushButton*>())
    if (button->text() == "Remove all") QTest::mouseClick(button, Qt::LeftButton);
  EXPECT_TRUE(session().taught.empty());
}

TEST_F(TaughtTest, AKeyboardThatVanishesIsToldAndLeavesNothingHanging) {
  QFile file(QDir::tempPath() + "/vanishes.keys");
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write("0 controller 21 0\n0.05 controller 21 1\n0.1 gone\n");
  file.close();
  window.playIn().chooseFile(file.fileName());
  QSignalSpy failed(&document(), &Document::failed);
  teachByKey("Amount");
  ASSERT_TRUE(QTest::qWaitFor([&] { return failed.count() > 0; }, 5000));
  EXPECT_TRUE(failed[0][0].toString().startsWith("vanishes.keys was disconnected; its assignments stay"))
      << failed[0][0].toString().toStdString();
  EXPECT_EQ(session().taught.size(), 1u);
  EXPECT_TRUE(window.playIn().port().isEmpty());
  EXPECT_FALSE(window.playIn().isFile());
  file.remove();
}

}  // namespace
}  // namespace heft::app
