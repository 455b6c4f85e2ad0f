// Two sounds in the real window: chosen, dragged, aligned by keys and fields.

#include "app/stages/align/align_page.h"
#include "app/stages/align/align_picture.h"
#include "app/stages/align/peak_turn_picture.h"
#include "app/stages/align/two_sounds_picture.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/values.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class TwoSoundsWindowTest : public SoundsTest {
 protected:
  TwoSoundsPicture* picture() { return window.findChild<TwoSoundsPicture*>(); }
  void measured() {
    settle();
    ASSERT_TRUE(QTest::qWaitFor([&] { return picture()->found() && !picture()->isMeasuring(); }, 20000));
  }
};

TEST_F(TwoSoundsWindowTest, TwoLayersAndThePairAreBroughtTogether) {
  openDemo();
  document().edit(
      duplicateLayer(session().kick(), session().kick().layers[0].id, freshLayerId(session().kick())));
  const int copy = session().kick().layers[1].id;
  document().edit(putValue("offset", {.part = session().kick().id, .layer = copy}, "offset_ms", 1.37));
  window.showStage(Stage::Align);
  QTest::mouseClick(find<QPushButton>("Two sounds button"), Qt::LeftButton);
  measured();
  ASSERT_TRUE(picture()->isVisible());
  // The pair: dragged, then the proposed move by Return.
  const double before = picture()->found()->nowDb;
  const QPointF at = picture()->wavesArea().center();
  drag(picture(), at, at + QPointF(30, 0));
  measured();
  EXPECT_GT(session().bass().align.delayMs, 2.0);
  document().undo();
  measured();
  EXPECT_EQ(session().bass().align.delayMs, 0.0) << "a drag is one step";
  picture()->setFocus();
  QTest::keyClick(picture(), Qt::Key_Return);
  measured();
  EXPECT_GT(picture()->found()->nowDb, before + 1.0);
  QTest::keyClick(picture(), Qt::Key_Down);
  // Two layers of the kick.
  choose("Still sound", 1);
  choose("Moved sound", 2);
  measured();
  EXPECT_EQ(picture()->second().layer, copy);
  EXPECT_TRUE(find<ValueField>("Strikes")->shownText().contains("1.370 ms late"))
      << find<ValueField>("Strikes")->shownText().toStdString();
  choose("Strikes", 0);
  measured();
  EXPECT_NEAR(session().kick().layers[1].offsetMs, 0.0, 1e-6);
  EXPECT_TRUE(session().kick().layers[1].betweenSamples);
  EXPECT_EQ(find<ValueField>("Strikes")->shownText(), "together");
  picture()->setFocus();
  QTest::keyClick(picture(), Qt::Key_P);
  EXPECT_TRUE(session().kick().layers[1].invert);
  typeInto("Moved sound's delay", "0.25");
  EXPECT_EQ(session().kick().layers[1].offsetMs, 0.25);
  typeInto("Two sounds band", "30-90");
  EXPECT_EQ(session().kick().align.question.highHz, 90.0);
  EXPECT_EQ(session().bass().align.question, AlignQuestion{});
  // Two equal choices give a sentence.
  choose("Still sound", 2);
  settle();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !picture()->problem().isEmpty(); }, 20000));
}

// A peak all-pass: solved, played by its number, kept by Return, switched off and on by its key.
TEST_F(TwoSoundsWindowTest, ALowerPeakIsTakenAndSwitched) {
  openDemo();
  window.showStage(Stage::Align);
  auto* turns = window.findChild<PeakTurnPicture*>();
  QTest::mouseClick(find<QPushButton>("Lower peak button"), Qt::LeftButton);
  ASSERT_TRUE(QTest::qWaitFor([&] { return turns->isSolved(); }, 60000));
  ASSERT_GE(turns->count(), 1u);
  const auto stages = turns->turn(1).stages;
  turns->setFocus();
  QTest::keyClick(turns, Qt::Key_1);
  settle();
  QTest::keyClick(turns, Qt::Key_Return);
  EXPECT_EQ(freeTurnOf(session()), stages);
  auto* crests = window.findChild<AlignPicture*>();
  ASSERT_TRUE(crests->isVisible());
  crests->setFocus();
  QTest::keyClick(crests, Qt::Key_I);
  EXPECT_TRUE(heardName().contains("all-pass")) << "heard without";
  QTest::keyClick(crests, Qt::Key_I);
  choose("Peak all-pass", 0);
  EXPECT_EQ(find<ValueField>("Peak all-pass")->shownText(), "off");
  choose("Peak all-pass", 1);
  EXPECT_EQ(freeTurnOf(session()), stages);
  choose("Peak all-pass", 2);
  EXPECT_FALSE(hasFreeTurn(session()));
  // The picture around the hit: zoomed, all hits over each other, and the readout under the pointer.
  QTest::keyClick(crests, Qt::Key_Plus);
  EXPECT_LT(crests->shownMs(), 240.0);
  QTest::keyClick(crests, Qt::Key_Minus);
  EXPECT_NEAR(crests->shownMs(), 240.0, 1e-9);
  QTest::keyClick(crests, Qt::Key_A);
  EXPECT_TRUE(crests->isStacked());
  crests->openMaps(true);
  const double quarterPeriod = 250.0 / 55.0;
  const QPointF at(crests->xOfDelay(quarterPeriod, false), crests->mapArea(false).top() + 4);
  EXPECT_TRUE(crests->wordsAt(at).contains("90 degrees of A1")) << crests->wordsAt(at).toStdString();
  EXPECT_TRUE(crests->wordsAt({2, 2}).isEmpty());
}

}  // namespace
}  // namespace heft::app
