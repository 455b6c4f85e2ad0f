// Sounds in the real window: a kick built by its ribbon, an 808 by its bars, layers, versions, sections.

#include "core/render/sounds.h"

#include "app/loop_strip.h"
#include "app/stages/bass_voice_picture.h"
#include "app/stages/sounds_page.h"
#include "core/measure/sound_facts.h"
#include "core/session/versions.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class SoundsTest : public WindowTest {
 protected:
  // Chooses a row of the menu that a press opens.
  void pressAndChoose(QWidget* widget, int row, QPoint at = {20, 20}) {
    QTimer::singleShot(50, receiver.get(), [row] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      menu->setActiveAction(menu->actions().at(row));
      QTest::keyClick(menu, Qt::Key_Return);
    });
    QTest::mouseClick(widget, Qt::LeftButton, {}, at);
    settle();
  }
  SoundsPage* page() { return window.findChild<SoundsPage*>(); }
  const KickVoice& voice(size_t layer = 0) { return *session().kick.layers[layer].kickVoice; }
  double measuredLanding() { return midiFromHz(document().study()->kick->landing.hz.value_or(1.0)); }
};

using Grip = KickRibbon::Grip;

TEST_F(SoundsTest, AKickIsBuiltByDraggingItsRibbon) {
  pressAndChoose(find("Kick slip"), 0);
  ASSERT_EQ(session().kick.layers.size(), 1u);
  ASSERT_TRUE(session().kick.layers[0].kickVoice);
  EXPECT_EQ(session().kick.hits.size(), 8u) << "one on every beat, to hear it";
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
  EXPECT_NEAR(document().study()->kick->tailMs, voice().length.toMs(120), 25.0)
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
  // The strike is put before it by a click, and its values come up.
  QTest::mouseClick(ribbon, Qt::LeftButton, {}, QPoint(50, 80));
  settle();
  EXPECT_TRUE(voice().strike.on);
  choose("Strike", 3);
  EXPECT_EQ(voice().strike.kind, kAllStrikes[2]);
  typeInto("Strike note", "A5");
  EXPECT_EQ(voice().strike.pitchMidi, 81.0);
  // A drag is one step back.
  const int landing = static_cast<int>(voice().landingMidi);
  drag(ribbon, ribbon->place({Grip::Landing, 0}), ribbon->shelfAt(36));
  document().undo();
  settle();
  EXPECT_EQ(voice().landingMidi, landing);
}

TEST_F(SoundsTest, AnEightOhEightIsBuiltByItsBarsAndCurve) {
  pressAndChoose(find("Bass slip"), 0);
  ASSERT_TRUE(session().bass.layers[0].bassVoice);
  auto* picture = find<BassVoicePicture>("Bass voice");
  ASSERT_TRUE(picture->isVisible());
  auto bass = [&]() -> const BassVoice& { return *session().bass.layers[0].bassVoice; };
  drag(picture, picture->barTop(2), picture->barAt(2, -10));
  EXPECT_NEAR(bass().partialDb[1], -10, 0.6);
  drag(picture, picture->barAt(0, -59), picture->barAt(0, -20));
  EXPECT_NEAR(bass().octaveBelowDb, -20, 0.6);
  drag(picture, picture->barTop(3), picture->barAt(3, -70));
  EXPECT_EQ(bass().partialDb[2], kOffDb) << "dragged to the floor it is out";
  const QPointF corner = picture->corner(1);
  drag(picture, corner, corner + QPointF(30, 20));
  EXPECT_GT(bass().decayMs, 190);
  EXPECT_LT(bass().sustainDb, -8);
  // A line in the loop, then what sounds is the notes.
  auto* strip = window.loopStrip();
  drag(strip, strip->bassAt(0.02), strip->bassAt(1.4));
  ASSERT_EQ(session().bass.notes.size(), 1u);
  EXPECT_EQ(finding("bass-key")->verdict, Verdict::Holds);
  page()->showSection("Mid and high");
  typeInto("Mid level", "-12 dB");
  typeInto("Mid low cut", "A2");
  EXPECT_NEAR(bass().mid.lowCutHz, 110, 0.01) << "frequencies are typed as notes";
  typeInto("Mid level", "out");
  EXPECT_EQ(bass().mid.levelDb, kOffDb);
}

TEST_F(SoundsTest, LayersAreDroppedChosenOrderedAndPlayOnChosenHits) {
  openDemo();
  const std::string sounds = folder / "demo" + "/sounds/";
  std::string file;
  for (const auto& entry : std::filesystem::directory_iterator(sounds))
    if (entry.path().extension() == ".wav") file = entry.path().string();
  ASSERT_FALSE(file.empty());
  drop(find("Add kick layer"), file);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kick.layers.size() == 2; }, 10000));
  settle();
  const int second = session().kick.layers[1].id;
  EXPECT_NE(second, session().kick.layers[0].id);
  QTest::mouseClick(find("Kick slip 2"), Qt::LeftButton, {}, QPoint(40, 10));
  EXPECT_EQ(page()->choice().id(), second);
  page()->showSection("Hits");
  choose("Plays on", 1);
  int rests = 0;
  for (const Hit& h : session().kick.hits) rests += static_cast<int>(h.without.size());
  EXPECT_EQ(rests, 6) << "two bars: it plays on the first hit of each";
  // In the loop Ctrl and a click take it in and out, hit by hit.
  auto* strip = window.loopStrip();
  const double at = session().kick.hits[1].startQuarters;
  QTest::mouseClick(strip, Qt::LeftButton, Qt::ControlModifier, strip->kickAt(at).toPoint());
  settle();
  EXPECT_TRUE(session().kick.hits[1].without.empty());
  page()->showSection("EQ");
  choose("Low cut slope", 4);
  typeInto("Low cut", "400 Hz");
  const Cut& cut = session().kick.layers[1].shape.eq.lowCut;
  EXPECT_TRUE(cut.on && cut.slopeDbPerOctave == 48);
  EXPECT_NEAR(cut.hz, 400.0, 1e-6);
  auto* slip = find<Slip>("Kick slip 2");
  QTest::mouseClick(slip, Qt::LeftButton, {}, slip->muteBox().center().toPoint());
  EXPECT_TRUE(session().kick.layers[1].mute);
  QTest::keyClick(find("Kick slip 2"), Qt::Key_Left);
  EXPECT_EQ(session().kick.layers[0].id, second);
  QTest::keyClick(find("Kick slip"), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(session().kick.layers.size(), 3u);
  QTest::keyClick(find("Kick slip 3"), Qt::Key_Delete);
  EXPECT_EQ(session().kick.layers.size(), 2u);
  window.findChild<QPushButton*>("Show layers together")->click();
  settle();
  EXPECT_TRUE(find("Layers together")->isVisible());
  EXPECT_FALSE(window.grab().isNull());
}

TEST_F(SoundsTest, VersionsAreMadeSwitchedAndUndone) {
  openDemo();
  const Session before = session();
  choose("Kick version", 1);
  EXPECT_EQ(versionCount(session().kick), 2u);
  typeInto("Level", "-20 dB");
  const auto frames = document().stems()->kick.at(0, 3000);
  choose("Kick version", 0);
  EXPECT_EQ(session().kick.layers, before.kick.layers);
  EXPECT_NE(document().stems()->kick.at(0, 3000), frames) << "the other version sounds";
  choose("Kick version", 1);
  EXPECT_EQ(session().kick.layers[0].levelDb, -20);
  for (int i = 0; i < 4; ++i) document().undo();
  settle();
  EXPECT_EQ(session(), before) << "each step undone";
}

TEST_F(SoundsTest, StartAndFadesAreDraggedOnTheWave) {
  openDemo();
  auto* wave = window.findChild<WavePicture*>();
  using WaveGrip = WavePicture::Grip;
  const QPointF out = wave->handle(WaveGrip::FadeOut);
  drag(wave, out, out - QPointF(80, 0));
  EXPECT_GT(session().kick.layers[0].shape.fadeOutMs, 20.0);
  const QPointF in = wave->handle(WaveGrip::FadeIn);
  drag(wave, in, in + QPointF(20, 0));
  EXPECT_GT(session().kick.layers[0].shape.fadeInMs, 3.0);
  const QPointF start = wave->handle(WaveGrip::Start);
  drag(wave, start, start + QPointF(12, 0));
  EXPECT_GT(session().kick.layers[0].shape.startMs, 1.0);
  document().undo();
  settle();
  EXPECT_EQ(session().kick.layers[0].shape.startMs, 0.0);
}

}  // namespace
}  // namespace heft::app
