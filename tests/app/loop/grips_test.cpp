// Dragging in the stages' pictures: one undo step each, and its effect on the sound.

#include <gtest/gtest.h>

#include <QApplication>
#include <QCheckBox>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSignalSpy>
#include <QTest>
#include <QTimer>

#include "app/loop/loop_strip.h"
#include "app/shell/ledger_panel.h"
#include "app/stages/align/align_picture.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/duck/dip_picture.h"
#include "app/stages/export/export_page.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/stages/tune/pitch_field.h"
#include "app/stages/tune/target_marks.h"
#include "app/widgets/value_field.h"
#include "core/sound/audio_file.h"
#include "scenario/make_demo.h"
#include "tests/app/hands.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft::app {
namespace {

class GripsTest : public WindowTest {};

TEST_F(GripsTest, NumberKeysHearTargetsAndReturnKeeps) {
  openDemo();
  window.showStage(Stage::Tune);
  QApplication::processEvents();
  auto* field = window.findChild<PitchField*>();
  ASSERT_TRUE(field);
  // Number keys play targets in the loop from anywhere on the page, wrong notes too; Esc drops, Return keeps.
  auto* marks = find<TargetMarks>("Targets");
  const auto& targets = marks->targets();
  const auto octave =
      std::find_if(targets.begin(), targets.end(), [](const TuneTarget& t) { return t.midi == 45; });
  ASSERT_NE(octave, targets.end());
  const auto number = static_cast<int>(octave - targets.begin()) + 1;
  const Session was = session();
  find<ValueField>("Tuning method")->setFocus();
  QTest::keyClick(find<ValueField>("Tuning method"), static_cast<Qt::Key>(Qt::Key_0 + number));
  EXPECT_EQ(marks->heardNumber(), number);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(session(), was) << "heard and not taken";
  EXPECT_EQ(*document().before().applied(session()).kick().layers[0].recorded()->targetMidi, 45.0);
  QTest::keyClick(field, Qt::Key_0);
  EXPECT_FALSE(document().before().applied(session()).kick().layers[0].recorded()->targetMidi) << "as recorded";
  QTest::keyClick(field, Qt::Key_Escape);
  EXPECT_FALSE(marks->heardNumber());
  EXPECT_FALSE(window.transport().isBefore());
  // An edit drops the audition, since the numbers may then mean other notes; undo brings nothing back.
  QTest::keyClick(field, static_cast<Qt::Key>(Qt::Key_0 + number));
  document().edit(Edit{"louder", [](Session& s) { s.kick().levelDb += 1.0; }});
  EXPECT_FALSE(marks->heardNumber());
  EXPECT_FALSE(window.transport().isBefore());
  document().undo();
  settle();
  QTest::mouseClick(marks, Qt::LeftButton, {}, marks->cell(number).center().toPoint());
  EXPECT_EQ(marks->heardNumber(), number);
  field->setFocus();
  QTest::keyClick(field, Qt::Key_Return);
  EXPECT_EQ(*session().kick().layers[0].recorded()->targetMidi, 45.0);
  EXPECT_FALSE(window.transport().isBefore());
  for (size_t i = 1; i < targets.size(); ++i)
    EXPECT_FALSE(marks->cell(static_cast<int>(i)).intersects(marks->cell(static_cast<int>(i) + 1))) << i;
}

TEST_F(GripsTest, DraggingTheLandingMarkerRetunesInOneStep) {
  openDemo();
  window.showStage(Stage::Tune);
  QApplication::processEvents();
  auto* field = window.findChild<PitchField*>();
  ASSERT_TRUE(field);
  drag(field, field->markerAt(), QPointF(field->markerAt().x(), field->yOfMidi(33.2)));
  ASSERT_TRUE(session().kick().layers[0].recorded()->targetMidi);
  EXPECT_EQ(*session().kick().layers[0].recorded()->targetMidi, 33.0) << "it locks to notes";
  EXPECT_EQ(finding("kick-key")->verdict, Verdict::Holds);
  EXPECT_EQ(document().undoName(), "move landing to A1");
  drag(field, field->markerAt(), QPointF(field->markerAt().x(), field->yOfMidi(34.5)), Qt::AltModifier);
  EXPECT_NEAR(*session().kick().layers[0].recorded()->targetMidi, 34.5, 0.2) << "Alt drags between them";
  document().undo();
  document().undo();
  settle();
  EXPECT_FALSE(session().kick().layers[0].recorded()->targetMidi);
  field->setFocus();
  QTest::keyClick(field, Qt::Key_Up);
  EXPECT_EQ(*session().kick().layers[0].recorded()->targetMidi, 33.0);
  document().edit(Edit{"on A1", [](Session& s) { s.kick().layers[0].recorded()->targetMidi = 33; }});
  for (int method = 0; method < 4; ++method) {
    choose("Tuning method", method);
    EXPECT_EQ(static_cast<int>(session().kick().layers[0].recorded()->method), method);
    EXPECT_NEAR(1200 * std::log2(*document().study()->pair.kick.sound->landing.hz / 55.0), 0.0, 2.0) << method;
    EXPECT_TRUE(find<ValueField>("Shift")->shownText().endsWith("light")) << method;
  }
  typeInto("Landing target", "A1 +10 ct");
  EXPECT_NEAR(*session().kick().layers[0].recorded()->targetMidi, 33.1, 1e-9);
  typeInto("Landing target", "nonsense");
  EXPECT_NEAR(*session().kick().layers[0].recorded()->targetMidi, 33.1, 1e-9);
}

TEST_F(GripsTest, ThePitchPathItsStrikeAndItsBandAreDragged) {
  openDemo();
  // A tail that sinks by two thirds of a semitone.
  std::vector<double> x(28000);
  double phase = 0.0;
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / 48000;
    x[i] = 0.8 * std::min(1.0, t / 0.001) * std::exp(-9.0 * t) * std::sin(2 * M_PI * phase);
    phase += 55.0 * std::exp2((20.0 * std::exp(-t / 0.012) - 0.67 * t / 0.5) / 12) / 48000;
  }
  document().sounds().load(Place{1}, QString::fromStdString(reference::writeSound(
                                         folder, "loose skin.wav", reference::bufferOf(x, 48000))));
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return session().kick().layers[0].recorded()->asset.name == "loose skin.wav"; }, 10000));
  settle();
  window.showStage(Stage::Tune);
  settle();
  auto* field = window.findChild<PitchField*>();
  using Grip = PitchField::Grip;
  ASSERT_TRUE(field->handle(Grip::Flatten)) << "it drifts";
  const QPointF tail = *field->handle(Grip::Flatten);
  drag(field, tail, QPointF(tail.x(), field->markerAt().y()));
  EXPECT_EQ(session().kick().layers[0].recorded()->flatten, 1.0);
  const auto& path = document().study()->pair.kick.sound->landing.path;
  for (const PitchPoint& p : path)
    if (p.seconds > 0.15 && p.seconds < 0.35)
      EXPECT_NEAR(1200 * std::log2(p.hz / *document().study()->pair.kick.sound->landing.hz), 0.0, 6.0)
          << p.seconds;
  const QPointF strike = *field->handle(Grip::Raise);
  const double semitone = (field->yOfMidi(40) - field->yOfMidi(41));
  drag(field, strike, strike - QPointF(0, 5 * semitone));
  EXPECT_EQ(session().kick().layers[0].recorded()->strikeSemitones, 5.0);
  document().undo();
  settle();
  EXPECT_EQ(session().kick().layers[0].recorded()->strikeSemitones, 0.0) << "a drag is one step";
  choose("Tuning method", 2);
  EXPECT_EQ(session().kick().layers[0].recorded()->method, TuneMethod::Bend);
  const QPointF length = *field->handle(Grip::Length);
  drag(field, length, length + QPointF(30, 0));
  EXPECT_GT(session().kick().layers[0].recorded()->strikeMs, 12.0);
  drag(field, field->spectrumAt(200), field->spectrumAt(40));
  EXPECT_NEAR(session().kick().layers[0].recorded()->band.lowHz, 40, 2);
  EXPECT_NEAR(session().kick().layers[0].recorded()->band.highHz, 200, 8);
  typeInto("Landing band", "30 to 300 Hz");
  EXPECT_EQ(session().kick().layers[0].recorded()->band.highHz, 300);
}

TEST_F(GripsTest, DraggingTheBassDelaysIt) {
  openDemo();
  window.showStage(Stage::Align);
  QApplication::processEvents();
  auto* picture = window.findChild<AlignPicture*>();
  ASSERT_TRUE(picture);
  const QRectF hills = picture->hillsArea();
  const double perMs = hills.width() / 250.0;
  drag(picture, hills.center(), hills.center() + QPointF(4.0 * perMs, 0));
  EXPECT_NEAR(session().bass().align.delayMs, 4.0, 0.5);
  EXPECT_EQ(document().undoName(), "delay bass");
  picture->openMaps(true);
  const QRectF map = picture->mapArea(false);
  drag(picture, QPointF(picture->xOfDelay(session().bass().align.delayMs, false), map.top() + 4),
       QPointF(picture->xOfDelay(-3.0, false), map.top() + 4));
  EXPECT_NEAR(session().bass().align.delayMs, -3.0, 0.2);
  QTest::mouseClick(picture, Qt::LeftButton, {},
                    QPoint(20, static_cast<int>(map.top() + map.height() * 2.5 / 8)));
  EXPECT_EQ(window.selection().hit(), 2);
  // The other polarity's curve: a click goes there, as one step.
  const Session before = session();
  QTest::mouseClick(picture, Qt::LeftButton, {},
                    QPointF(picture->xOfDelay(2.0, true), picture->curveArea(true).center().y()).toPoint());
  settle();
  EXPECT_TRUE(session().bass().align.invert);
  EXPECT_NEAR(session().bass().align.delayMs, 2.0, 0.2);
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_EQ(session(), before);
  press("Use the best alignment");
  EXPECT_EQ(session().bass().align.delayMs, document().study()->pair.best.delayMs);
  EXPECT_EQ(finding("pair-level")->verdict, Verdict::Holds);
}

TEST_F(GripsTest, DimensionLinesMoveTheDip) {
  openDemo();
  window.showStage(Stage::Duck);
  choose("Ducking", 1);
  ASSERT_TRUE(session().duck().on);
  auto* dip = window.findChild<DipPicture*>();
  const QPointF depth = dip->handleAt(DipPicture::Handle::Depth);
  drag(dip, depth, depth + QPointF(0, 25));
  EXPECT_GT(session().duck().curve.depthDb, 9.5);
  const double before = session().duck().curve.release.toMs(122);
  const QPointF end = dip->handleAt(DipPicture::Handle::Return);
  drag(dip, end, end + QPointF(40, 0));
  EXPECT_GT(session().duck().curve.release.toMs(122), before + 3);
  typeInto("Ducking hold", "1/64");
  EXPECT_EQ(session().duck().curve.hold, TimeValue::note(1, 64));
  typeInto("Depth", "-12 dB");
  EXPECT_EQ(session().duck().curve.depthDb, 12.0);
  EXPECT_NEAR(document().study()->pair.dip.depthDb, -12.0, 0.05);
  choose("Ducking band", 1);
  typeInto("Crossover", "B2");
  EXPECT_NEAR(session().duck().band.belowHz, 123.47, 0.01);
}

TEST_F(GripsTest, TheLengthHandleTrimsTheKick) {
  openDemo();
  auto* wave = window.findChild<WavePicture*>();
  const double sixteenth = 15000.0 / 122;
  const QPointF from = wave->lengthHandle();
  drag(wave, from, QPointF(from.x() - 150, from.y()));
  ASSERT_TRUE(session().kick().layers[0].recorded()->length);
  EXPECT_LT(session().kick().layers[0].recorded()->length->toMs(122), 300);
  window.findChild<SoundsPage*>()->showSection("Length");
  typeInto("Kick length", "1/16");
  EXPECT_NEAR(session().kick().layers[0].recorded()->length->toMs(122), sixteenth, 1e-9);
  EXPECT_EQ(finding("kick-tail")->verdict, Verdict::Holds);
}

}  // namespace
}  // namespace heft::app
