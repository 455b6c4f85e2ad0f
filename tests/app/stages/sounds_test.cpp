// Sounds in the real window: a kick built by its ribbon, an 808 by its bars, layers, versions, sections.

#include "core/render/sounds/sounds.h"

#include <set>

#include "app/loop/loop_strip.h"
#include "app/stages/sounds/bass_voice_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/theme/theme.h"
#include "core/measure/events/sound_facts.h"
#include "core/session/edits/parts.h"
#include "core/session/folder.h"
#include "core/session/versions.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

using Grip = KickRibbon::Grip;

TEST_F(SoundsTest, AKickIsBuiltByDraggingItsRibbon) {
  pressAndChoose(find("Kick card"), 0);
  ASSERT_EQ(session().kick().layers.size(), 1u);
  ASSERT_TRUE(session().kick().layers[0].kickVoice());
  EXPECT_EQ(session().kick().hits.size(), 8u) << "one on every beat, to hear it";
  auto* ribbon = find<KickRibbon>("Kick ribbon");
  ASSERT_TRUE(ribbon->isVisible());
  // The shelf to G1: it locks to notes, and what is built measures that.
  drag(ribbon, ribbon->place({Grip::Landing, 0}), ribbon->shelfAt(31.2));
  EXPECT_EQ(voice().landingMidi, 31.0);
  EXPECT_NEAR(measuredLanding(), 31.0, 0.02);
  // The start of the fall up and the end to 400 ms, which is near no note length at 120 BPM but 1/4 at 500.
  const QPointF start = ribbon->place({Grip::Point, 0});
  drag(ribbon, start, QPointF(start.x(), ribbon->shelfAt(31 + 19).y()));
  EXPECT_NEAR(voice().fall[0].semitones, 19.0, 1.01);
  const QPointF end = ribbon->place({Grip::End, 0});
  drag(ribbon, QPointF(end.x(), end.y() - 60), QPointF(end.x() + 40, end.y() - 60), Qt::AltModifier);
  EXPECT_GT(voice().length.toMs(120), 255.0);
  EXPECT_NEAR(document().study()->pair.kick.sound->tailMs, voice().length.toMs(120), 25.0)
      << "the end is the measured tail";
  // Another point by a double click, moved, taken away by Delete; a bend; the level's edge.
  QTest::mouseDClick(ribbon, Qt::LeftButton, {},
                     ((ribbon->place({Grip::Point, 0}) + 3 * ribbon->place({Grip::Bend, 0})) / 4).toPoint());
  settle();
  ASSERT_EQ(voice().fall.size(), 2u);
  QTest::keyClick(ribbon, Qt::Key_Delete);
  settle();
  EXPECT_EQ(voice().fall.size(), 1u);
  const QPointF bend = ribbon->place({Grip::Bend, 0});
  drag(ribbon, bend, bend - QPointF(0, 30));
  EXPECT_LT(voice().fall[0].bend, 0.5) << "higher in the middle falls later";
  const QPointF edge = ribbon->place({Grip::Decay, 0});
  drag(ribbon, edge, edge + QPointF(0, 4));
  EXPECT_GT(voice().decayBend, 0.05) << "thicker in the middle decays later";
  EXPECT_NEAR(measuredLanding(), 31.0, 0.02) << "and the landing is kept";
  // A click adds the strike before it, and its values appear.
  QTest::mouseClick(ribbon, Qt::LeftButton, {}, QPoint(50, 80));
  settle();
  EXPECT_TRUE(voice().strike.on);
  choose("Strike", 3);
  EXPECT_EQ(voice().strike.kind, kAllStrikes[2]);
  typeInto("Strike note", "A5");
  EXPECT_EQ(voice().strike.pitchMidi, 81.0);
  // A drag is one undo step.
  const int landing = static_cast<int>(voice().landingMidi);
  drag(ribbon, ribbon->place({Grip::Landing, 0}), ribbon->shelfAt(36));
  document().undo();
  settle();
  EXPECT_EQ(voice().landingMidi, landing);
  // The axes stay during a drag, but an edit from elsewhere never leaves the picture.
  document().edit(Edit{"far up", [](Session& s) { s.kick().layers[0].kickVoice()->landingMidi = 72; }});
  settle();
  EXPECT_TRUE(ribbon->rect().contains(ribbon->place({Grip::Landing, 0}).toPoint()));
}

TEST_F(SoundsTest, AnEightOhEightIsBuiltByItsBarsAndCurve) {
  pressAndChoose(find("Bass card"), 0);
  ASSERT_TRUE(session().bass().layers[0].bassVoice());
  auto* picture = find<BassVoicePicture>("Bass voice");
  ASSERT_TRUE(picture->isVisible());
  auto bass = [&]() -> const BassVoice& { return *session().bass().layers[0].bassVoice(); };
  drag(picture, picture->barTop(2), picture->barAt(2, -10));
  EXPECT_NEAR(bass().partialDb[1].value_or(0), -10, 0.6);
  drag(picture, picture->barAt(0, -59), picture->barAt(0, -20));
  EXPECT_NEAR(bass().octaveBelowDb.value_or(0), -20, 0.6);
  drag(picture, picture->barTop(3), picture->barAt(3, -70));
  EXPECT_FALSE(bass().partialDb[2]) << "dragged to the floor it is out";
  const QPointF corner = picture->corner(1);
  drag(picture, corner, corner + QPointF(30, 20));
  EXPECT_GT(bass().decayMs, 190);
  EXPECT_LT(bass().sustainDb, -8);
  // A line in the loop, so that its notes play.
  auto* strip = window.loopStrip();
  drag(strip, strip->bassAt(0.02), strip->bassAt(1.4));
  ASSERT_EQ(session().bass().notes.size(), 1u);
  EXPECT_EQ(finding("bass-key")->verdict, Verdict::Holds);
  page()->showSection("Mid and high");
  typeInto("Mid level", "-12 dB");
  typeInto("Mid low cut", "A2");
  EXPECT_NEAR(bass().mid.lowCutHz, 110, 0.01) << "frequencies are typed as notes";
  typeInto("Mid level", "off");
  EXPECT_FALSE(bass().mid.levelDb);
}

// Eight layers fit side by side in the smallest window.
TEST_F(SoundsTest, EightLayersFitBesideEachOther) {
  openDemo();
  document().edit(Edit{"eight", [](Session& s) {
                         while (s.kick().layers.size() < kMostLayers) {
                           Layer more = s.kick().layers.front();
                           more.id = static_cast<int>(s.kick().layers.size()) + 100;
                           s.kick().layers.push_back(more);
                         }
                       }});
  window.resize(1100, 700);
  settle();
  QTest::qWait(50);
  int right = 0;
  for (size_t i = 1; i <= kMostLayers; ++i) {
    const QWidget* slip = find(i == 1 ? QString("Kick card") : QString("Kick card %1").arg(i));
    ASSERT_TRUE(slip->isVisible()) << i;
    EXPECT_GE(slip->x(), right) << i;
    EXPECT_GE(slip->width(), 40) << i;
    right = slip->x() + slip->width();
  }
  EXPECT_LE(right, find("Kick card")->parentWidget()->width());
}

TEST_F(SoundsTest, LayersAreDroppedChosenOrderedAndPlayOnChosenHits) {
  openDemo();
  const std::string sounds = folder / "demo" + "/sounds/";
  std::string file;
  for (const auto& entry : std::filesystem::directory_iterator(sounds))
    if (entry.path().extension() == ".wav") file = entry.path().string();
  ASSERT_FALSE(file.empty());
  drop(find("Add kick layer"), file);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kick().layers.size() == 2; }, 10000));
  settle();
  const int second = session().kick().layers[1].id;
  EXPECT_NE(second, session().kick().layers[0].id);
  QTest::mouseClick(find("Kick card 2"), Qt::LeftButton, {}, QPoint(40, 10));
  EXPECT_EQ(page()->choice().id(), second);
  page()->showSection("Hits");
  choose("Plays on", 1);
  int rests = 0;
  for (const Hit& h : session().kick().hits) rests += static_cast<int>(h.without.size());
  EXPECT_EQ(rests, 6) << "two bars: it plays on the first hit of each";
  // In the loop Ctrl and a click switch it on and off, hit by hit.
  auto* strip = window.loopStrip();
  const double at = session().kick().hits[1].startQuarters;
  QTest::mouseClick(strip, Qt::LeftButton, Qt::ControlModifier, strip->kickAt(at).toPoint());
  settle();
  EXPECT_TRUE(session().kick().hits[1].without.empty());
  look("EQ");
  typeInto("Low cut", "300 Hz");
  EXPECT_TRUE(session().kick().layers[1].chain.first<Eq>()->lowCut.on) << "a cut that is typed is in";
  choose("Low cut slope", 4);
  typeInto("Low cut", "400 Hz");
  typeInto("gain 2", "-6 dB");
  EXPECT_TRUE(session().kick().layers[1].chain.first<Eq>()->bands[1].on);
  const Cut& cut = session().kick().layers[1].chain.first<Eq>()->lowCut;
  EXPECT_TRUE(cut.on && cut.slopeDbPerOctave == 48);
  EXPECT_NEAR(cut.hz, 400.0, 1e-6);
  auto* slip = find<Slip>("Kick card 2");
  QTest::mouseClick(slip, Qt::LeftButton, {}, slip->muteBox().center().toPoint());
  EXPECT_TRUE(session().kick().layers[1].mute);
  find("Kick card 2")->setFocus();
  QTest::keyClick(find("Kick card 2"), Qt::Key_Left, Qt::AltModifier | Qt::ShiftModifier);
  EXPECT_EQ(QApplication::focusWidget(), find("Kick card")) << "the focus goes with the card";
  EXPECT_EQ(session().kick().layers[0].id, second);
  find("Kick card")->setFocus();
  QTest::keyClick(find("Kick card"), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(session().kick().layers.size(), 3u);
  find("Kick card 3")->setFocus();
  QTest::keyClick(find("Kick card 3"), Qt::Key_Delete);
  EXPECT_EQ(session().kick().layers.size(), 2u);
  window.findChild<QPushButton*>("Show layers together")->click();
  settle();
  EXPECT_TRUE(find("Layers together")->isVisible());
  EXPECT_FALSE(window.grab().isNull());
}

TEST_F(SoundsTest, TheRibbonIsReachedByKeys) {
  pressAndChoose(find("Kick card"), 0);
  auto* ribbon = find<KickRibbon>("Kick ribbon");
  ribbon->setFocus();
  auto to = [&](Grip grip) {
    for (int i = 0; i < 20 && ribbon->chosen().grip != grip; ++i) QTest::keyClick(ribbon, Qt::Key_Tab);
    ASSERT_EQ(ribbon->chosen().grip, grip);
  };
  to(Grip::Point);
  const double start = voice().fall[0].semitones;
  QTest::keyClick(ribbon, Qt::Key_Up);
  EXPECT_EQ(voice().fall[0].semitones, start + 1);
  to(Grip::Bend);
  const double bend = voice().fall[0].bend;
  QTest::keyClick(ribbon, Qt::Key_Down);
  EXPECT_GT(voice().fall[0].bend, bend);
  to(Grip::Landing);
  const double landing = voice().landingMidi;
  QTest::keyClick(ribbon, Qt::Key_Down);
  EXPECT_EQ(voice().landingMidi, landing - 1);
  QTest::keyClick(ribbon, Qt::Key_Up, Qt::ShiftModifier);
  EXPECT_NEAR(voice().landingMidi, landing - 0.99, 1e-9);
  to(Grip::Hold);
  QTest::keyClick(ribbon, Qt::Key_Right);
  EXPECT_NEAR(voice().hold, 0.09, 1e-9);
  to(Grip::Decay);
  QTest::keyClick(ribbon, Qt::Key_Right);
  EXPECT_NEAR(voice().decayBend, 0.05, 1e-9);
  to(Grip::End);
  const double length = voice().length.toMs(120);
  QTest::keyClick(ribbon, Qt::Key_Left);
  EXPECT_NEAR(voice().length.toMs(120), length - 5, 1e-9);
  settle();
}

TEST_F(SoundsTest, BarsAreReachedByKeys) {
  pressAndChoose(find("Bass card"), 0);
  auto* picture = find<BassVoicePicture>("Bass voice");
  picture->setFocus();
  auto level = [&] { return session().bass().layers[0].bassVoice()->partialDb[1]; };
  const double before = level().value();
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_EQ(level(), before + 2);
  QTest::keyClick(picture, Qt::Key_Down, Qt::ShiftModifier);
  EXPECT_EQ(level(), before + 1.5);
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_FALSE(level());
  QTest::keyClick(picture, Qt::Key_Left);
  QTest::keyClick(picture, Qt::Key_Left);
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_EQ(session().bass().layers[0].bassVoice()->octaveBelowDb, -40) << "an octave below comes in";
  settle();
}

TEST_F(SoundsTest, ABuiltKickIsTunedAndTrimmedLikeAnyOther) {
  openDemo();
  document().edit(Edit{"built", [](Session& s) {
                         s.references.clear();
                         s.kick().layers.resize(1);
                         s.kick().layers[0].what.emplace<KickVoice>();
                         s.kick().layers[0].kickVoice()->landingMidi = 34.3;
                         s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(400);
                       }});
  settle();
  ASSERT_EQ(finding("kick-key")->verdict, Verdict::Off);
  ASSERT_NE(finding("kick-tail")->verdict, Verdict::Holds);
  settleRemedies();
  document().fixes().apply(*finding("kick-key"));
  settle();
  EXPECT_EQ(voice().landingMidi, 33.0) << "its landing is set; nothing is shifted";
  EXPECT_EQ(finding("kick-key")->verdict, Verdict::Holds);
  EXPECT_FALSE(finding("kick-strain"));
  settleRemedies();
  document().fixes().apply(*finding("kick-tail"));
  settle();
  EXPECT_LE(voice().length.toMs(session().track.tempoBpm), TimeValue::note(1, 16).toMs(122) + 1e-9);
  EXPECT_EQ(finding("kick-tail")->verdict, Verdict::Holds);
  window.showStage(Stage::Tune);
  typeInto("Landing target", "C2");
  EXPECT_EQ(voice().landingMidi, 36.0);
}

TEST_F(SoundsTest, AnotherSoundInALayersPlaceKeepsWhatIsNotItsOwn) {
  openDemo();
  const std::string path = reference::writeSound(
      folder, "other.wav", reference::bufferOf(reference::sine(60, 0.5, 0.4, 48000), 48000));
  document().edit(Edit{"shape", [](Session& s) {
                         s.kick().layers[0].chain.need<Drive>()->on = true;
                         s.kick().layers[0].levelDb = -9;
                         s.kick().layers[0].recorded()->targetMidi = 33;
                       }});
  const int id = session().kick().layers[0].id;
  drop(find("Kick card"), path);
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.name == "other.wav"; }, 10000));
  settle();
  const Layer& l = session().kick().layers[0];
  EXPECT_EQ(l.id, id);
  EXPECT_TRUE(l.chain.first<Drive>()->on) << "processors stay";
  EXPECT_EQ(l.levelDb, -9);
  EXPECT_FALSE(l.recorded()->targetMidi) << "a target meant the old sound";
  // The same file as a body.
  const Owner layer{.part = 1, .layer = id};
  document().edit(addProcessor(layer, {0, Body()}));
  const auto body = [&] { return session().kick().layers[0].chain.first<Body>(); };
  EXPECT_FALSE(body()->on);
  document().sounds().loadBody(layer, session().kick().layers[0].chain.list.back().id,
                               QString::fromStdString(path));
  ASSERT_TRUE(QTest::qWaitFor([&] { return body()->on; }, 10000));
  settle();
  EXPECT_EQ(body()->asset.name, "other.wav");
  EXPECT_EQ(session().kick().layers[0].recorded()->asset.name, "other.wav");
  // Everything a session refers to is saved with it, versions and bodies too.
  choose("Kick version", 1);
  drop(find("Kick card"),
       reference::writeSound(folder, "third.wav",
                             reference::bufferOf(reference::sine(70, 0.5, 0.4, 48000), 48000)));
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.name == "third.wav"; }, 10000));
  settle();
  ASSERT_TRUE(document().files().save(QString::fromStdString(folder / "kept.heft")));
  const auto back = openSession(folder / "kept.heft");
  ASSERT_TRUE(back);
  EXPECT_TRUE(back->warnings.empty());
  EXPECT_EQ(back->session, session());
  EXPECT_TRUE(back->assets.sound(back->session.kick().versions.all[0].layers[0].recorded()->asset));
}

TEST_F(SoundsTest, AFullPartTakesNoMore) {
  pressAndChoose(find("Kick card"), 0);
  for (int i = 0; i < 10; ++i)
    document().edit(duplicateLayer(session().kick(), 1, freshLayerId(session().kick())));
  settle();
  EXPECT_EQ(session().kick().layers.size(), kMostLayers);
  EXPECT_FALSE(window.findChild<QWidget*>("Add kick layer"));
  std::set<int> ids;
  for (const Layer& l : session().kick().layers) ids.insert(l.id);
  EXPECT_EQ(ids.size(), kMostLayers) << "each with an id of its own";
  window.resize(1100, 700);
  QApplication::processEvents();
  EXPECT_EQ(window.width(), 1100) << "eight layers still fit the narrow window";
}

TEST_F(SoundsTest, StartAndFadesAreDraggedOnTheWave) {
  openDemo();
  auto* wave = window.findChild<WavePicture*>();
  using WaveGrip = WavePicture::Grip;
  const QPointF out = wave->handle(WaveGrip::FadeOut);
  drag(wave, out, out - QPointF(80, 0));
  EXPECT_GT(session().kick().layers[0].shape.fadeOutMs, 20.0);
  const QPointF in = wave->handle(WaveGrip::FadeIn);
  drag(wave, in, in + QPointF(20, 0));
  EXPECT_GT(session().kick().layers[0].shape.fadeInMs, 3.0);
  const QPointF start = wave->handle(WaveGrip::Start);
  drag(wave, start, start + QPointF(12, 0));
  EXPECT_GT(session().kick().layers[0].shape.startMs, 1.0);
  document().undo();
  settle();
  EXPECT_EQ(session().kick().layers[0].shape.startMs, 0.0);
}

TEST_F(SoundsTest, AFadeIsDrawnByItsPoints) {
  openDemo();
  auto* wave = window.findChild<WavePicture*>();
  auto fade = [&]() -> const TailFade& { return session().kick().layers[0].recorded()->fade; };
  const QPointF end = wave->lengthHandle();
  drag(wave, end, end - QPointF(120, 0));
  ASSERT_TRUE(session().kick().layers[0].recorded()->length);
  const TailFade before = fade();
  const double middle = before.gainAt(before.from + 0.5 * (1.0 - before.from));
  QTest::mouseDClick(wave, Qt::LeftButton, {}, wave->fadePlace(0.5, middle).toPoint());
  settle();
  ASSERT_EQ(fade().points.size(), 1u) << "a press on the line draws it from then on";
  EXPECT_EQ(fade().shape, FadeShape::Drawn);
  drag(wave, wave->fadePoint(0), wave->fadePlace(0.7, 0.9));
  EXPECT_NEAR(fade().points[0].at, 0.7, 0.03);
  EXPECT_NEAR(fade().points[0].gain, 0.9, 0.04);
  wave->setFocus();
  QTest::keyClick(wave, Qt::Key_PageDown);
  QTest::keyClick(wave, Qt::Key_Down);
  QTest::keyClick(wave, Qt::Key_Left);
  EXPECT_LT(fade().points[0].gain, 0.9);
  QTest::keyClick(wave, Qt::Key_Delete);
  EXPECT_TRUE(fade().points.empty());
  EXPECT_TRUE(session().kick().layers[0].recorded()->length) << "the trim stays";
}

}  // namespace
}  // namespace heft::app
