// The hand-over in the real window: shown, set by mouse and keys, switched off; room made in the pattern.

#include "app/stages/align/align_page.h"
#include "app/stages/align/hand_over_picture.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class HandOverWindowTest : public WindowTest {};

TEST_F(HandOverWindowTest, IsDraggedTypedAndTakenOut) {
  openDemo();
  window.showStage(Stage::Align);
  press("Hand-over button");
  auto* picture = window.findChild<HandOverPicture*>();
  ASSERT_TRUE(picture->isVisible());
  EXPECT_FALSE(window.findChild<ValueField*>("Bass delay")) << "what does not act here is not shown";
  const Study* study = document().study();
  int rings = -1;
  for (size_t i = 0; i < study->pair.hits.size(); ++i)
    if (study->pair.hits[i].handOver) rings = static_cast<int>(i);
  ASSERT_GE(rings, 0) << "a hit whose tail meets a note";
  QTest::mouseClick(picture, Qt::LeftButton, {}, picture->columnOf(rings).center().toPoint());
  EXPECT_EQ(window.selection().hit(), rings);
  EXPECT_EQ(find<ValueField>("Hand-over time")->shownText(), "off");
  const QPointF end = picture->endGrip();
  drag(picture, end, end + QPointF(90, 0));
  ASSERT_TRUE(session().handOver.on);
  EXPECT_GT(session().handOver.ms, 35.0);
  EXPECT_EQ(document().undoName(), QString("hand over within %1 ms").arg(session().handOver.ms));
  document().undo();
  settle();
  EXPECT_FALSE(session().handOver.on) << "a drag is one step";
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Right);
  EXPECT_EQ(session().handOver.ms, 35.0);
  settle();
  typeInto("Hand-over law", "1");
  EXPECT_EQ(session().handOver.alike, 1.0);
  typeInto("Hand-over time", "24");
  EXPECT_EQ(find<ValueField>("Hand-over time")->shownText(), "24 ms");
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_FALSE(session().handOver.on);
  settle();
  // Room about the hits, as edits of the line.
  const auto notes = session().bass().notes;
  typeInto("Delay notes", "15 ms");
  EXPECT_NE(session().bass().notes, notes);
  EXPECT_EQ(document().undoName(), "delay bass notes to 15 ms");
  document().undo();
  settle();
  typeInto("End notes", "900");
  EXPECT_EQ(session().bass().notes, notes) << "nonsense changes nothing";
  // The Ledger's line comes here.
  press("Hand-over button");
  EXPECT_TRUE(window.findChild<ValueField*>("Bass delay"));
  click(find("Ledger hand-over"));
  EXPECT_TRUE(picture->isVisible());
}

}  // namespace
}  // namespace heft::app
