// A contour drawn on an 808 in the real window: by mouse, by keys, by its fields.

#include "app/stages/sounds/contour_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class ContourWindowTest : public SoundsTest {};

TEST_F(ContourWindowTest, AContourIsDrawnOnARecordedBass) {
  openDemo();
  page()->choice().choose(bassOf(session()), session().bass().layers[0].id);
  ASSERT_TRUE(session().bass().layers[0].recorded());
  ASSERT_TRUE(page()->showSection("Contour"));
  auto* picture = window.findChild<ContourPicture*>();
  ASSERT_TRUE(picture->isVisible());
  using Handle = ContourPicture::Handle;
  const auto& contour = [&]() -> const Contour& { return session().bass().contour; };
  EXPECT_FALSE(contour().on);
  // Dragging the sustain down switches the contour on.
  drag(picture, picture->handleAt(Handle::Point, 1), picture->placeOf(200, -10));
  settle();
  EXPECT_TRUE(contour().on);
  EXPECT_NEAR(contour().points[1].db, -10.0, 0.3);
  EXPECT_NEAR(contour().points[1].at.toMs(session().track.tempoBpm), 200.0, 6.0);
  const ContourFacts* facts = document().study()->contourOf(session().bass().id);
  ASSERT_TRUE(facts);
  EXPECT_GT(facts->savedDb, 1.0);
  EXPECT_NEAR(facts->peakDb, 0.0, 1.0);
  EXPECT_TRUE(find<ValueField>("Saved")->shownText().contains("peak"));
  // Dragged to within a few pixels of a sixteenth it snaps, and follows the tempo.
  const double sixteenth = 15000.0 / session().track.tempoBpm;
  drag(picture, picture->handleAt(Handle::Point, 1), picture->placeOf(sixteenth, -10) + QPointF(2, 0));
  EXPECT_EQ(contour().points[1].at, TimeValue::note(1, 16));
  document().undo();
  document().undo();
  EXPECT_FALSE(contour().on) << "a drag is one step";
  document().redo();
  settle();
  // A point between them: bent, moved by keys, deleted.
  QTest::mouseDClick(picture, Qt::LeftButton, {}, picture->placeOf(60, -3).toPoint());
  settle();
  ASSERT_EQ(contour().points.size(), 3u);
  EXPECT_NEAR(contour().points[1].db, -3.0, 0.5);
  drag(picture, picture->handleAt(Handle::Bend, 1), picture->handleAt(Handle::Bend, 1) + QPointF(0, 12));
  EXPECT_GT(contour().points[1].bend, 0.05);
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_PageDown);
  QTest::keyClick(picture, Qt::Key_PageDown);
  const double was = contour().points[1].db;
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_NEAR(contour().points[1].db, was + 0.5, 0.051);
  QTest::keyClick(picture, Qt::Key_Down, Qt::ControlModifier);
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_EQ(contour().points.size(), 2u);
  QTest::keyClick(picture, Qt::Key_Insert);
  EXPECT_EQ(contour().points.size(), 3u);
  QTest::keyClick(picture, Qt::Key_PageDown, Qt::ShiftModifier);
  drag(picture, picture->handleAt(Handle::Release), picture->handleAt(Handle::Release) + QPointF(40, 0));
  EXPECT_GT(contour().release.toMs(120), 32.0);
}

TEST_F(ContourWindowTest, ItsFieldsTakeNoteValuesAndItIsHeardWithout) {
  openDemo();
  page()->choice().choose(bassOf(session()), session().bass().layers[0].id);
  ASSERT_TRUE(page()->showSection("Contour"));
  const auto contour = [&]() -> const Contour& { return session().bass().contour; };
  choose("Contour", 1);
  typeInto("Contour fall", "1/8");
  EXPECT_EQ(contour().points.back().at, TimeValue::note(1, 8));
  typeInto("Contour sustain", "-7");
  EXPECT_EQ(contour().points.back().db, -7.0);
  typeInto("Contour attack", "4 ms");
  EXPECT_EQ(contour().points.front().at, TimeValue::milliseconds(4));
  const auto without = page()->withoutSection();
  ASSERT_TRUE(without);
  EXPECT_FALSE(without->applied(session()).bass().contour.works());
  choose("Contour", 0);
  EXPECT_FALSE(contour().on);
}

}  // namespace
}  // namespace heft::app
