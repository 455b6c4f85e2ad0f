// Duck in the real window: points drawn by mouse and by keys, a follower converted to a curve, a false hit
// removed.

#include "app/stages/duck/dip_picture.h"
#include "app/stages/duck/duck_cards.h"
#include "app/stages/duck/duck_page.h"
#include "app/stages/duck/listen_strip.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/stages/duck/ways_picture.h"
#include "core/session/edits/ducks.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class DuckWindowTest : public WindowTest {
 protected:
  void openDuck() {
    openDemo();
    window.showStage(Stage::Duck);
    choose("Ducking", 1);
    ASSERT_TRUE(session().duck().on);
  }
  DipPicture* dip() { return window.findChild<DipPicture*>(); }
  TriggerLane* lane() { return window.findChild<TriggerLane*>(); }
  void key(QWidget* at, Qt::Key key, Qt::KeyboardModifiers modifiers = {}) {
    at->setFocus();
    QTest::keyClick(at, key, modifiers);
    settle();
  }
};

TEST_F(DuckWindowTest, PointsAreDrawnMovedBentAndTakenAway) {
  openDuck();
  QTest::mouseDClick(dip(), Qt::LeftButton, {}, dip()->placeOf(80, 0.8).toPoint());
  settle();
  ASSERT_EQ(session().duck().curve.points.size(), 5u) << "four dimensions are four points";
  ASSERT_TRUE(dip()->chosenPoint());
  const size_t mine = *dip()->chosenPoint();
  const DipPoint placed = session().duck().curve.points[mine];
  EXPECT_NEAR(placed.at * session().duck().curve.length.toMs(122), 80, 4);
  const QPointF at = dip()->handleAt(DipPicture::Handle::Point, mine);
  drag(dip(), at, at + QPointF(0, 20));
  EXPECT_GT(session().duck().curve.points[mine].taken, placed.taken + 0.05);
  const QPointF bend = dip()->handleAt(DipPicture::Handle::Bend, mine);
  drag(dip(), bend, bend - QPointF(0, 12));
  EXPECT_GT(session().duck().curve.points[mine].bend, 0.05) << "higher in the middle: back early";
  const QPointF end = dip()->handleAt(DipPicture::Handle::Return);
  drag(dip(), end, end + QPointF(40, 0));
  EXPECT_GT(session().duck().curve.length.toMs(122), 125);
  EXPECT_NEAR(document().study()->ducks[0].dip.depthDb, -8.5, 0.1);
  // By keys alone.
  const auto count = session().duck().curve.points.size();
  key(dip(), Qt::Key_Insert);
  EXPECT_EQ(session().duck().curve.points.size(), count + 1);
  key(dip(), Qt::Key_Delete);
  EXPECT_EQ(session().duck().curve.points.size(), count);
  key(dip(), Qt::Key_Escape);
  key(dip(), Qt::Key_PageDown);
  key(dip(), Qt::Key_PageDown);
  ASSERT_TRUE(dip()->chosenPoint());
  const double before = session().duck().curve.points[*dip()->chosenPoint()].taken;
  key(dip(), Qt::Key_Up);
  EXPECT_NEAR(session().duck().curve.points[*dip()->chosenPoint()].taken, before - 0.02, 1e-9);
  choose("Curve drawn by", 0);
  EXPECT_TRUE(session().duck().curve.points.empty());
}

TEST_F(DuckWindowTest, AFollowerIsTunedAndTurnedIntoACurve) {
  openDuck();
  choose("Ducking", 2);
  EXPECT_EQ(session().duck().movement, Movement::Follower);
  typeInto("Follower release", "60 ms");
  typeInto("Follower ratio", "4");
  press("Set threshold");
  EXPECT_NEAR(document().study()->ducks[0].dip.depthDb, -6, 0.1);
  const auto grip = lane()->thresholdGrip();
  ASSERT_TRUE(grip);
  const double was = session().duck().follower.thresholdDb;
  drag(lane(), *grip, *grip + QPointF(0, 6));
  EXPECT_LT(session().duck().follower.thresholdDb, was);
  const double deepest = document().study()->ducks[0].dip.depthDb;
  EXPECT_LT(deepest, -6.5);
  press("Convert to curve");
  EXPECT_EQ(session().duck().movement, Movement::Curve);
  EXPECT_GE(session().duck().curve.points.size(), 4u);
  EXPECT_NEAR(document().study()->ducks[0].dip.depthDb, deepest, 1.0);
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(session().duck().movement, Movement::Follower) << "one step";
}

TEST_F(DuckWindowTest, AFalseHitOfASoundIsTakenOutAndStaysOut) {
  openDuck();
  // The kick's stem as a silent copy: louder hits twice, and one false one.
  auto drums = session().kick().layers[0];
  const Sound kick = document().assets().sound(drums.recorded()->asset);
  ASSERT_TRUE(kick);
  std::vector<double> x(static_cast<size_t>(3.9 * kick->sampleRate), 0.0);
  for (const double at : {0.0, 1.0, 2.0, 3.0})
    for (size_t i = 0; i < kick->frames() && static_cast<size_t>(at * kick->sampleRate) + i < x.size(); ++i)
      x[static_cast<size_t>(at * kick->sampleRate) + i] += 0.7 * kick->channels[0][i];
  const std::string file = folder / "copy.wav";
  ASSERT_TRUE(saveSound(reference::bufferOf(x, kick->sampleRate), file, SampleFormat::Wav24));
  drop(lane(), file);
  settle();
  ASSERT_EQ(session().duck().source.kind, TriggerKind::Audio);
  const auto& stems = *document().stems();
  ASSERT_EQ(stems.ducks[0].triggers.size(), 4u);
  const double second = stems.ducks[0].triggers[1].frame / document().track().framesPerQuarter();
  QTest::mouseDClick(lane(), Qt::LeftButton, {}, lane()->placeOf(second).toPoint());
  settle();
  EXPECT_EQ(document().stems()->ducks[0].triggers.size(), 3u);
  typeInto("Detector threshold", "-45 dB");
  EXPECT_EQ(document().stems()->ducks[0].triggers.size(), 3u) << "it stays out";
  // By keys: steps to a near miss, restores it, and removes the next one.
  window.selection().setHit(0);
  key(lane(), Qt::Key_Right);
  key(lane(), Qt::Key_Insert);
  EXPECT_EQ(document().stems()->ducks[0].triggers.size(), 4u);
  window.selection().setHit(1);
  key(lane(), Qt::Key_Right);
  EXPECT_EQ(window.selection().hit(), 2);
  key(lane(), Qt::Key_Delete);
  EXPECT_EQ(document().stems()->ducks[0].triggers.size(), 3u);
}

// Two kicks, the second soft, and between them strokes at 500 Hz that only a wider band hears.
TEST_F(DuckWindowTest, TheBandIsDraggedAndWhatNearlyFiredIsLetFire) {
  openDuck();
  constexpr double kRate = 48000;
  std::vector<double> x(static_cast<size_t>(3.9 * kRate), 0.0);
  auto stroke = [&](double at, double hz, double gain) {
    for (size_t i = 0; i < 9600; ++i)
      x[static_cast<size_t>(at * kRate) + i] +=
          gain * std::exp(-(i / 3000.0)) * std::sin(reference::kTwoPi * hz * i / kRate);
  };
  stroke(0.2, 60, 0.8), stroke(2.2, 60, 0.025), stroke(1.2, 500, 0.8), stroke(3.2, 500, 0.8);
  drop(lane(), reference::writeSound(folder, "two drums.wav", reference::bufferOf(x, kRate)));
  settle();
  auto fire = [&] { return document().stems()->ducks[0].triggers.size(); };
  ASSERT_EQ(fire(), 1u);
  // The soft one is a near miss: Right reaches it past the other drum, Insert makes it trigger.
  for (int i = 0; i < 2; ++i) key(lane(), Qt::Key_Right);
  key(lane(), Qt::Key_Insert);
  EXPECT_EQ(fire(), 2u);
  ASSERT_EQ(session().duck().source.marks.size(), 1u);
  EXPECT_NEAR(session().duck().source.marks[0].seconds, 2.2, 0.02);
  auto* strip = window.findChild<ListenStrip*>();
  ASSERT_TRUE(strip->isVisible());
  const QPointF high = strip->gripOf(ListenStrip::Edge::High);
  drag(strip, high, QPointF(strip->pixelOf(1000), high.y()));
  EXPECT_NEAR(*session().duck().source.highCutHz, 987.77, 0.01) << "B5 in equal temperament, ISO 16";
  EXPECT_EQ(fire(), 4u);
  drag(strip, strip->gripOf(ListenStrip::Edge::Low), QPointF(strip->pixelOf(250), high.y()),
       Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_NEAR(session().duck().source.lowCutHz.value_or(0), 250, 6) << "off the notes";
  EXPECT_EQ(fire(), 3u) << "the loud kick is left out, the one put in by hand stays";
  key(strip, Qt::Key_PageUp);
  key(strip, Qt::Key_Left);
  EXPECT_NEAR(*session().duck().source.highCutHz, 932.33, 0.01) << "a semitone lower";
  key(strip, Qt::Key_Delete);
  EXPECT_FALSE(session().duck().source.lowCutHz || session().duck().source.highCutHz);
  const auto gap = lane()->gapGrip();
  ASSERT_TRUE(gap);
  drag(lane(), *gap, *gap + QPointF(30, 0));
  EXPECT_GT(session().duck().source.shortestGapMs, 120);
}

TEST_F(DuckWindowTest, DuckingsAreAddedChosenTakenOutAndRemoved) {
  openDuck();
  press("Add ducking");
  ASSERT_EQ(session().ducks.size(), 2u);
  const int id = session().ducks[1].id;
  auto* card = window.findChild<DuckCard*>(QString("Ducking card %1").arg(id));
  ASSERT_TRUE(card);
  choose("Ducks", static_cast<int>(find<ValueField>("Ducks")->spec().choices().size()) - 1);
  EXPECT_EQ(session().ducks[1].target.kind, DuckTargetKind::Backing);
  EXPECT_LT(*std::min_element(document().stems()->backingGain.block(0).channels[0].begin(),
                              document().stems()->backingGain.block(0).channels[0].end()),
            0.5f);
  key(card, Qt::Key_Space);
  EXPECT_FALSE(session().ducks[1].on);
  key(card, Qt::Key_Delete);
  EXPECT_EQ(session().ducks.size(), 1u);
  typeInto("Ducking amount", "50 %");
  EXPECT_EQ(session().duck().amount, 0.5);
}

TEST_F(DuckWindowTest, AWayIsHeardByItsNumberAndTakenBlind) {
  openDemo();
  // By keys alone: the page's buttons are reachable. Space plays until Tab has moved the focus.
  QTest::keyClick(&window, Qt::Key_4, Qt::ControlModifier);
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "Ways to make room button");
  key(QApplication::focusWidget(), Qt::Key_Space);
  EXPECT_TRUE(window.transport().isPlaying());
  key(QApplication::focusWidget(), Qt::Key_Space);
  key(QApplication::focusWidget(), Qt::Key_Tab);
  key(QApplication::focusWidget(), Qt::Key_Backtab);
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "Ways to make room button");
  key(QApplication::focusWidget(), Qt::Key_Space);
  auto* ways = window.findChild<WaysPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ways->isSolved(); }, 60000));
  ASSERT_GE(ways->count(), 7u);
  EXPECT_TRUE(ways->way(1).reaches);
  key(ways, Qt::Key_1);
  EXPECT_EQ(document().before().name, "Way 1") << "heard as Before is, aside";
  EXPECT_EQ(document().before().applied(session()), ways->way(1).edit.applied(session()));
  key(ways, Qt::Key_N);
  ASSERT_TRUE(ways->isBlind());
  const Session was = session();
  key(ways, Qt::Key_2);
  EXPECT_EQ(document().before().name, "Way 2") << "nothing says which it is";
  const RoomWay meant = ways->way(2);
  EXPECT_EQ(session(), was);
  key(ways, Qt::Key_Return);
  EXPECT_EQ(session(), meant.edit.applied(was));
  EXPECT_EQ(ways->tally(meant.kind), 1);
  EXPECT_FALSE(ways->isVisible());
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(session(), was) << "one step";
}

}  // namespace
}  // namespace heft::app
