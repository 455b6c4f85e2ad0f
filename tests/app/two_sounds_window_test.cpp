// Any two sounds in the real window: chosen, dragged, brought together by keys and fields.

#include "app/stages/align_page.h"
#include "app/stages/two_sounds_picture.h"
#include "tests/app/sounds_fixture.h"

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
  // The same twice has nothing to say, in a sentence.
  choose("Still sound", 2);
  settle();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !picture()->problem().isEmpty(); }, 20000));
}

}  // namespace
}  // namespace heft::app
