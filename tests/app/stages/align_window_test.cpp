// Align in the real window: a hit aligned by hand, then all of them by an auditioned way.

#include "app/stages/align/align_picture.h"
#include "app/stages/align/align_ways_picture.h"
#include "core/session/edits/parts.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class AlignWindowTest : public WindowTest {
 protected:
  void openAlign() {
    openDemo();
    window.goToStage(Stage::Align);
    settle();
  }
  AlignPicture* picture() { return window.findChild<AlignPicture*>(); }
  void key(QWidget* at, Qt::Key key) {
    at->setFocus();
    QTest::keyClick(at, key);
    settle();
  }
};

TEST_F(AlignWindowTest, TheThirdHitIsMendedByHandAndAllByTheSolver) {
  openAlign();
  QTest::keyClick(picture(), Qt::Key_M);
  ASSERT_TRUE(picture()->mapsOpen());
  const QRectF map = picture()->mapArea(false);
  QTest::mouseClick(picture(), Qt::LeftButton, {},
                    QPoint(20, static_cast<int>(map.top() + map.height() * 2.5 / 8)));
  ASSERT_EQ(window.selection().hit(), 2);
  const double before = document().study()->pair.hits[2].heardDb;
  // By hand: drags the bass sideways until its crests meet the kick's.
  const auto own = document().study()->pair.hits[2].curve;
  double to = 0;
  for (double ms = 0; ms < 12; ms += 0.1)
    if (own->levelAt(ms, false) > own->levelAt(to, false)) to = ms;
  const QRectF hills = picture()->hillsArea();
  drag(picture(), hills.center(), hills.center() + QPointF(to * hills.width() / 250.0, 0));
  EXPECT_NEAR(session().bass().align.delayMs, to, 0.3);
  EXPECT_GT(document().study()->pair.hits[2].heardDb, before + 2);
  // By the solver: auditions its best way, then keeps it.
  QWidget* button = find<QPushButton>("All ways button");
  key(button, Qt::Key_Space);
  auto* ways = window.findChild<AlignWaysPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ways->isSolved(); }, 30000));
  ASSERT_GE(ways->count(), 2u);
  EXPECT_FALSE(picture()->isVisible());
  const Session was = session();
  key(ways, Qt::Key_1);
  EXPECT_EQ(document().before().applied(was), ways->way(1).edit.applied(was));
  const AlignWay first = ways->way(1);
  key(ways, Qt::Key_Return);
  EXPECT_EQ(session(), first.edit.applied(was));
  EXPECT_NEAR(document().study()->pair.alignedDb, first.levelDb, 0.05);
  EXPECT_TRUE(picture()->isVisible());
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(session(), was) << "one step";
}

TEST_F(AlignWindowTest, NotesByThemselvesAreTakenAndClearedByOnePress) {
  openAlign();
  auto* clear = find<QPushButton>("Clear note offsets");
  EXPECT_FALSE(clear->isVisible());
  press("All ways button");
  auto* ways = window.findChild<AlignWaysPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ways->isSolved(); }, 30000));
  int number = 0;
  for (int n = 1; n <= static_cast<int>(ways->count()); ++n)
    if (ways->way(n).notes > 0) number = n;
  ASSERT_GT(number, 0);
  const double promised = ways->way(number).levelDb;
  QTest::mouseDClick(ways, Qt::LeftButton, {}, ways->cell(number).center().toPoint());
  settle();
  EXPECT_NEAR(document().study()->pair.alignedDb, promised, 0.01);
  EXPECT_FALSE(window.loopStrip()->grab().isNull());
  ASSERT_TRUE(clear->isVisible());
  press("Clear note offsets");
  for (const Note& n : session().bass().notes) EXPECT_EQ(n.move, NoteMove());
  EXPECT_FALSE(clear->isVisible());
}

TEST_F(AlignWindowTest, ABuiltBassIsTurnedByDraggingItUp) {
  openAlign();
  const QRectF hills = picture()->hillsArea();
  // A recording has no start phase: dragging up leaves it.
  const Session recorded = session();
  drag(picture(), hills.center().toPoint(), hills.center().toPoint() - QPointF(0, 40));
  EXPECT_EQ(session(), recorded);
  document().edit(removeLayer(session().bass(), session().bass().layers[0].id));
  document().edit(addBuiltLayer(session().bass()));
  settle();
  const Session built = session();
  ASSERT_TRUE(session().bass().layers[0].bassVoice());
  const double before = document().study()->pair.alignedDb;
  drag(picture(), hills.center().toPoint(), hills.center().toPoint() - QPointF(0, 40));
  EXPECT_EQ(session().bass().layers[0].bassVoice()->startPhaseDegrees, 40.0);
  EXPECT_EQ(session().bass().align, built.bass().align);
  EXPECT_NE(document().study()->pair.alignedDb, before);
  drag(picture(), hills.center().toPoint(), hills.center().toPoint() + QPointF(0, 60));
  EXPECT_EQ(session().bass().layers[0].bassVoice()->startPhaseDegrees, 340.0) << "round the circle";
  for (int i = 0; i < 2; ++i) QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(session(), built) << "each drag one step";
}

TEST_F(AlignWindowTest, ThePhaseIsTurnedInItsFields) {
  openAlign();
  const double before = document().study()->pair.alignedDb;
  EXPECT_EQ(find<ValueField>("All-pass 1")->shownText(), "none");
  typeInto("All-pass 1", "57 Hz");
  EXPECT_TRUE(session().bass().align.rotation.works());
  EXPECT_NEAR(session().bass().align.rotation.stages[0].hz, 57.0, 1e-9);
  EXPECT_GT(std::abs(document().study()->pair.alignedDb - before), 0.5);
  EXPECT_FALSE(document().stems()->bass().sharesBlock(document().stems()->bassPlaced(), 0));
  find<ValueField>("All-pass 1")->setFocus();
  QTest::keyClick(find<ValueField>("All-pass 1"), Qt::Key_Delete);
  settle();
  EXPECT_FALSE(session().bass().align.rotation.works());
  EXPECT_EQ(document().study()->pair.alignedDb, before);
}

}  // namespace
}  // namespace heft::app
