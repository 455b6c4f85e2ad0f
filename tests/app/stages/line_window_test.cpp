// The bass line's loudness in the real window: steps dragged, trimmed by keys, evened and cleared.

#include "app/stages/sounds/line_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "core/session/edits/pair.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class LineWindowTest : public SoundsTest {};

TEST_F(LineWindowTest, NotesAreTrimmedOntoTheLine) {
  openDemo();
  page()->choice().choose(bassOf(session()), session().bass().layers[0].id);
  ASSERT_TRUE(page()->showSection("Loudness"));
  auto* picture = window.findChild<LinePicture*>();
  ASSERT_TRUE(picture->isVisible());
  auto heard = [&] { return document().study()->line; };
  ASSERT_FALSE(heard().notes.empty());
  const NoteHeard first = heard().notes.front();
  const QPointF step = picture->stepOf(first.note).center();
  drag(picture, step, step - QPointF(0, 30));
  EXPECT_GT(session().bass().notes[first.note].trim.db, 0.5);
  EXPECT_EQ(document().undoName(), "trim a note");
  document().undo();
  settle();
  EXPECT_EQ(session().bass().notes[first.note].trim.db, 0.0) << "a drag is one step";
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Right);
  QTest::keyClick(picture, Qt::Key_Down);
  const size_t second = heard().notes[1].note;
  EXPECT_EQ(session().bass().notes[second].trim.db, -0.5);
  settle();
  QTest::keyClick(picture, Qt::Key_Return);
  settle();
  for (const NoteHeard& n : heard().notes)
    if (n.note == second) EXPECT_NEAR(n.toLineDb, 0.0, 0.4) << "onto the line";
  choose("Evenness", 0);
  for (const NoteHeard& n : heard().notes) EXPECT_NEAR(n.toLineDb, 0.0, 0.5);
  EXPECT_EQ(document().undoName(), "even the line");
  typeInto("Listening level", "70");
  EXPECT_EQ(session().track.listening.fullScaleDb, 70.0);
  choose("Evenness", 1);
  EXPECT_EQ(session().bass().notes[second].trim, NoteTrim());
  QTest::mouseClick(picture, Qt::LeftButton, {}, picture->stepOf(first.note).center().toPoint());
  QTest::keyClick(picture, Qt::Key_Up);
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_EQ(session().bass().notes[first.note].trim, NoteTrim());
}

}  // namespace
}  // namespace heft::app
