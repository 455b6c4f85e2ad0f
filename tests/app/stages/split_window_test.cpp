// Strike and body in the real window: split, cut elsewhere by dragging, the body driven, bypassed, joined.

#include "app/stages/sounds/sounds_page.h"
#include "app/stages/sounds/wave_picture.h"
#include "core/session/edits/values.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class SplitWindowTest : public SoundsTest {
 protected:
  QString shown(const QString& field) { return find<ValueField>(field)->shownText(); }
};

TEST_F(SplitWindowTest, AKickIsSplitWorkedOnAndJoined) {
  openDemo();
  const Session before = session();
  ASSERT_TRUE(page()->showSection("Split"));
  EXPECT_EQ(shown("Split"), "whole");
  EXPECT_FALSE(window.findChild<ValueField*>("Cut at")) << "what does not act is not shown";
  choose("Split", 1);
  ASSERT_EQ(session().kick().layers.size(), before.kick().layers.size() + 1);
  EXPECT_EQ(document().undoName(), "split kick");
  EXPECT_EQ(shown("Split"), "body layer");
  EXPECT_EQ(QApplication::focusWidget(), find<ValueField>("Split"))
      << "the hand stays though fields were made anew";
  EXPECT_TRUE(shown("Join").startsWith("level holds within 0.0 dB, no click")) << shown("Join").toStdString();
  // Dragging the line moves both sides, in one step.
  auto* wave = window.findChild<WavePicture*>();
  const QPointF cut = wave->handle(WavePicture::Grip::Cut);
  drag(wave, cut, cut + QPointF(60, 0));
  const double at = session().kick().layers[0].recorded()->split.atMs;
  EXPECT_GT(at, 15.0);
  EXPECT_EQ(session().kick().layers[1].recorded()->split.atMs, at);
  document().undo();
  EXPECT_LT(session().kick().layers[0].recorded()->split.atMs, at);
  document().redo();
  settle();
  typeInto("Crossfade", "10");
  EXPECT_EQ(session().kick().layers[1].recorded()->split.joinMs, 10.0);
  typeInto("Cut at", "18");
  EXPECT_EQ(session().kick().layers[1].recorded()->split.atMs, 18.0);
  // An inverted body shows; the strike has the same cut and fields of its own.
  document().edit(putValue(
      "turn over", Owner{.part = session().kick().id, .layer = session().kick().layers[0].id}, "invert", true));
  settle();
  EXPECT_TRUE(shown("Join").startsWith("notch of")) << shown("Join").toStdString();
  document().undo();
  page()->choice().choose(page()->choice().place(), session().kick().layers[1].id);
  settle();
  EXPECT_EQ(shown("Split"), "strike layer");
  EXPECT_EQ(shown("Cut at"), "18 ms");
  // I plays it whole; joined it is as before.
  QTest::keyClick(&window, Qt::Key_I);
  settle();
  EXPECT_EQ(document().before().applied(session()).kick().layers.size(), before.kick().layers.size());
  QTest::keyClick(&window, Qt::Key_I);
  settle();
  choose("Split", 0);
  EXPECT_EQ(session().kick().layers.size(), before.kick().layers.size());
  EXPECT_EQ(shown("Split"), "whole");
  EXPECT_EQ(document().undoName(), "join kick");
  ASSERT_TRUE(page()->choice().layer());
  EXPECT_EQ(page()->choice().layer()->id, before.kick().layers[0].id);
}

}  // namespace
}  // namespace heft::app
