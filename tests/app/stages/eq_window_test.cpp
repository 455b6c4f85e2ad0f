// A driven layer's peak, shown and cut in the real window.

#include <QLabel>

#include "app/stages/processors/drive_picture.h"
#include "app/stages/processors/eq_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/stages/spectrum_pane.h"
#include "core/session/edits/values.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class EqWindowTest : public SoundsTest {
 protected:
  EqPicture* picture() { return window.findChild<EqPicture*>(); }
  void measured() {
    settle();
    ASSERT_TRUE(
        QTest::qWaitFor([&] { return !picture()->isMeasuringPeaks() && !picture()->isMeasuring(); }, 20000));
  }
};

TEST_F(EqWindowTest, APeakThatSticksOutIsCutByAClick) {
  // A low note whose seventh harmonic rings.
  std::vector<double> x(36000, 0.0);
  for (int k = 1; k <= 40; ++k) {
    const auto tone = reference::sine(55.0 * k, (k == 7 ? 1.2 : 0.25) / k, 0.75, 48000, 0.7 * k * k);
    for (size_t i = 0; i < x.size(); ++i) x[i] += tone[i] * std::exp(-static_cast<double>(i) / 14000.0);
  }
  const auto file = reference::writeSound(folder, "ringing.wav", reference::bufferOf(x, 48000));
  document().sounds().load(kickOf(session()), QString::fromStdString(file));
  settle();
  const int layer = session().kick().layers[0].id;
  Drive drive;
  drive.on = true;
  document().edit(addProcessor({.part = session().kick().id, .layer = layer}, {0, drive}));
  look("EQ");
  ASSERT_TRUE(picture()->isVisible());
  measured();
  ASSERT_GE(picture()->peakCount(), 1u);
  const size_t before = picture()->peakCount();
  QTest::mouseClick(picture(), Qt::LeftButton, {}, picture()->markOf(0).toPoint());
  const EqBand band = session().kick().layers[0].chain.first<Eq>()->bands[0];
  EXPECT_TRUE(band.on);
  EXPECT_LT(band.gainDb, -3.0);
  measured();
  EXPECT_LT(picture()->peakCount(), before) << "it sticks out no more";
  document().undo();
  measured();
  // By keys alone.
  picture()->setFocus();
  QTest::keyClick(picture(), Qt::Key_Left);
  QTest::keyClick(picture(), Qt::Key_Return);
  EXPECT_EQ(session().kick().layers[0].chain.first<Eq>()->bands[0], band);
  // For linear phase it shows the pre-ringing.
  find<ValueField>("EQ phase")->spec().choose(1);
  measured();
  EXPECT_TRUE(session().kick().layers[0].chain.first<Eq>()->linearPhase);
  ASSERT_TRUE(picture()->look() && picture()->look()->ringing);
  // The drive's picture marks it as well.
  document().edit(putValue("x", {session().kick().id, layer, {}, session().kick().layers[0].chain.list[0].id},
                           "eq.band_1.on", false));
  look("Drive");
  auto* drives = window.findChild<DrivePicture*>();
  settle();
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return drives->isVisible() && drives->look() && !drives->isMeasuringPeaks(); }, 20000));
  ASSERT_GE(drives->peakCount(), 1u);
  QTest::mouseClick(drives, Qt::LeftButton, {}, drives->markOf(0).toPoint());
  EXPECT_TRUE(session().kick().layers[0].chain.first<Eq>()->bands[0].on);
  EXPECT_NEAR(session().kick().layers[0].chain.first<Eq>()->bands[0].hz, band.hz, 2.0);
  document().undo();
  drives->setFocus();
  settle();
  ASSERT_TRUE(QTest::qWaitFor([&] { return drives->look() && !drives->isMeasuringPeaks(); }, 20000));
  QTest::keyClick(drives, Qt::Key_Left);
  QTest::keyClick(drives, Qt::Key_Return);
  EXPECT_TRUE(session().kick().layers[0].chain.first<Eq>()->bands[0].on) << "by keys as well";
  look("EQ");
  // Auditioned without by the section's own bypass.
  EXPECT_FALSE(page()->withoutSection()->applied(session()).kick().layers[0].chain.first<Eq>()->works());
}

// The spectrum beside the wave: one key opens it, both cuts off at its edges; a drag switches a cut on, a
// drag back to the edge off.
TEST_F(EqWindowTest, ACutIsOneDragInTheSpectrumBesideTheWave) {
  openDemo();
  page()->choice().choose(kickOf(session()), session().kick().layers[0].id);
  auto* pane = page()->findChild<SpectrumPane*>();
  ASSERT_FALSE(pane->isVisible());
  window.loopStrip()->clearFocus();
  page()->setFocus();
  QTest::keyClick(page(), Qt::Key_F);
  ASSERT_TRUE(pane->isVisible());
  ASSERT_TRUE(QTest::qWaitFor([&] { return !pane->isMeasuring(); }, 20000));
  const size_t before = session().kick().layers[0].chain.list.size();
  const auto drag = [&](CutSide side, double toX) {
    const QPoint from = pane->gripOf(side).toPoint();
    QTest::mousePress(pane, Qt::LeftButton, Qt::AltModifier, from);
    QTest::mouseMove(pane, QPoint(static_cast<int>(0.5 * (from.x() + toX)), from.y()));
    QTest::mouseMove(pane, QPoint(static_cast<int>(toX), from.y()));
    QTest::mouseRelease(pane, Qt::LeftButton, Qt::AltModifier, QPoint(static_cast<int>(toX), from.y()));
    settle();
  };
  drag(CutSide::Low, pane->xOf(38.0));
  const Layer& layer = session().kick().layers[0];
  ASSERT_TRUE(layerCutHz(layer, CutSide::Low));
  EXPECT_NEAR(*layerCutHz(layer, CutSide::Low), 38.0, 3.0);
  EXPECT_FALSE(layerCutHz(layer, CutSide::High));
  EXPECT_EQ(layer.chain.list.size(), before + 1);
  drag(CutSide::High, pane->xOf(3000.0));
  EXPECT_NEAR(*layerCutHz(session().kick().layers[0], CutSide::High), 3000.0, 200.0);
  EXPECT_EQ(session().kick().layers[0].chain.list.size(), before + 1) << "the same EQ";
  drag(CutSide::Low, pane->xOf(20.0) - 20.0);
  EXPECT_FALSE(layerCutHz(session().kick().layers[0], CutSide::Low));
  for (int step = 0; step < 3; ++step) document().undo();
  EXPECT_EQ(session().kick().layers[0].chain.list.size(), before) << "a drag is one step";
  // By keys; what was off in a bypassed EQ stays off.
  look("EQ");
  document().edit(putValues("x", page()->choice().chainPlace()->owner(),
                            {{"eq.band_1.on", true}, {"eq.band_1.gain_db", 12.0}, {"eq.on", false}}));
  page()->choice().lookAt(std::nullopt);
  pane->setFocus();
  QTest::keyClick(pane, Qt::Key_Right);
  const Eq eq = *session().kick().layers[0].chain.first<Eq>();
  EXPECT_TRUE(eq.on && eq.lowCut.on);
  EXPECT_FALSE(eq.bands[0].on);
  EXPECT_EQ(eq.bands[0].gainDb, 12.0) << "and is not lost";
  QTest::keyClick(pane, Qt::Key_Delete);
  EXPECT_FALSE(layerCutHz(session().kick().layers[0], CutSide::Low));
  // Where a cut would be inaudible it sets nothing and says why.
  const Owner of = *page()->choice().layerOwner();
  document().edit(switchChain(of, false));
  const Session bypassed = session();
  QTest::keyClick(pane, Qt::Key_Right);
  EXPECT_EQ(session(), bypassed);
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("bypassed"));
}

// One key solos what is chosen: a lane, a card, or a layer of several.
TEST_F(EqWindowTest, OneKeySolosWhatIsChosen) {
  openDemo();
  page()->choice().choose(bassOf(session()), session().bass().layers[0].id);
  page()->setFocus();
  QTest::keyClick(page(), Qt::Key_L);
  EXPECT_TRUE(window.transport().lanes().isSolo(session().bass().id));
  QTest::keyClick(page(), Qt::Key_L);
  EXPECT_FALSE(window.transport().lanes().isSolo(session().bass().id));
  QTest::keyClick(page(), Qt::Key_L, Qt::ShiftModifier);
  EXPECT_TRUE(window.transport().lanes().isMuted(session().bass().id));
  QTest::keyClick(page(), Qt::Key_L, Qt::ShiftModifier);
  build(kickOf(session()));
  page()->setFocus();
  const size_t last = session().kick().layers.size() - 1;
  QTest::keyClick(page(), Qt::Key_L);
  EXPECT_TRUE(session().kick().layers[last].solo);
  document().undo();
  EXPECT_FALSE(session().kick().layers[last].solo);
  page()->choice().choose(kSum, 0);
  page()->setFocus();
  const Session before = session();
  QTest::keyClick(page(), Qt::Key_L);
  EXPECT_EQ(session(), before) << "the sum has no solo";
  EXPECT_FALSE(window.transport().lanes().isSolo(session().kick().id));
  window.loopStrip()->setFocus();
  QTest::keyClick(window.loopStrip(), Qt::Key_L);
  EXPECT_TRUE(window.transport().lanes().isSolo(window.loopStrip()->hand().id));
}

}  // namespace
}  // namespace heft::app
