// A driven body's peak, seen and cut in the real window.

#include "app/stages/drive_picture.h"
#include "app/stages/eq_picture.h"
#include "app/stages/sounds_page.h"
#include "core/session/edits/values.h"
#include "tests/app/sounds_fixture.h"

namespace heft::app {
namespace {

class EqWindowTest : public SoundsTest {
 protected:
  EqPicture* picture() { return window.findChild<EqPicture*>(); }
  void measured() {
    settle();
    ASSERT_TRUE(QTest::qWaitFor([&] { return !picture()->isMeasuringPeaks() && !picture()->isMeasuring(); }, 20000));
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
  document().loadSoundFile(kickOf(session()), QString::fromStdString(file));
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
  // Of linear phase it says what rings ahead of the strike.
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
  // Heard without by the section's own way out.
  EXPECT_FALSE(page()->withoutSection()->applied(session()).kick().layers[0].chain.first<Eq>()->works());
}

}  // namespace
}  // namespace heft::app
