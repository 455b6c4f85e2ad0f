// Playing, recording, and pattern files: with no device chosen, as on a machine without a sound card, the
// simulated one takes over and the header says so.

#include <gtest/gtest.h>

#include <QDir>
#include <QLabel>
#include <QMenuBar>
#include <QSignalSpy>
#include <filesystem>

#include "app/files/pattern_files.h"
#include "app/library/library.h"
#include "app/loop/lane_meters.h"
#include "app/shell/window.h"
#include "app/stages/export/export_page.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "core/measure/levels/loudness.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/parts.h"
#include "core/session/midi_pattern.h"
#include "core/session/pattern.h"
#include "core/sound/midi_reader.h"
#include "tests/app/loop/patterns_fixture.h"

namespace heft::app {
namespace {

TEST(Play, WithoutASoundCardTheSimulatedDeviceTakesOver) {
  Window window;
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  Transport& transport = window.transport();
  transport.play();
  EXPECT_TRUE(transport.isPlaying());
  ASSERT_TRUE(QTest::qWaitFor([&] { return transport.positionQuarters() > 0.0; }, 20000));
  auto* device = window.findChild<ValueField*>("Output device");
  ASSERT_TRUE(device);
  if (transport.isSimulated()) {
    EXPECT_TRUE(device->shownText().startsWith("Simulated"));
  }
  transport.stop();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !transport.isPlaying(); }, 5000));
  // Started and stopped at once: a device that is still opening stops once open.
  transport.play();
  transport.stop();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !transport.isPlaying(); }, 20000));
}

TEST(Play, TwoOutputsAreAKeyApart) {
  Window window;
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  auto* device = window.findChild<ValueField*>("Output device");
  const QString first = device->shownText();
  window.transport().chooseDevice("simulated");
  const QString second = device->shownText();
  EXPECT_NE(first, second);
  QTest::keyClick(&window, Qt::Key_O);
  EXPECT_EQ(device->shownText(), first);
  QTest::keyClick(&window, Qt::Key_O);
  EXPECT_EQ(device->shownText(), second);
}

TEST(Play, AWindowClosedWhileADeviceOpensEndsCleanly) {
  for (int i = 0; i < 3; ++i) {
    Window window;
    window.transport().play();
  }
}

class PlayInTest : public PatternsTest {};

TEST_F(PlayInTest, ASessionOpenedAgainKnowsItsFiles) {
  const std::string path = folder / "bounce.wav";
  auto bounce = [&](double hz) {
    reference::writeSound(folder, "bounce.wav",
                          reference::bufferOf(reference::sine(hz, 0.5, 0.4, 48000), 48000));
  };
  bounce(50);
  document().sounds().load(Place{1}, QString::fromStdString(path));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.name == "bounce.wav"; },
                              10000));
  settle();
  ASSERT_TRUE(document().files().save(QString::fromStdString(folder / "again.heft")));
  document().newSession();
  bounce(60);  // while it is closed
  ASSERT_TRUE(window.openFolder(QString::fromStdString(folder / "again.heft")));
  auto* notice = find("Notice");
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text() == "bounce.wav changed on disk."; }, 10000));
  EXPECT_TRUE(QTest::qWaitFor([&] { return notice->isVisible(); }, 3000));
  EXPECT_TRUE(document().isSaved()) << "only told";
  press("Notice yes");
  ASSERT_TRUE(QTest::qWaitFor([&] { return !document().isSaved(); }, 10000));
  settle();
  EXPECT_NEAR(*document().study()->pair.kick.sound->landing.hz, 60.0, 0.5);
  EXPECT_FALSE(notice->isVisible());
  bounce(70);  // and while it is open
  EXPECT_TRUE(QTest::qWaitFor([&] { return notice->isVisible(); }, 10000));
  press("Notice no");
}

TEST_F(PlayInTest, AFileThatIsWrittenAgainIsOfferedAndReloaded) {
  const std::string path = reference::writeSound(
      folder, "bounce.wav", reference::bufferOf(reference::sine(50, 0.5, 0.4, 48000), 48000));
  document().sounds().load(Place{1}, QString::fromStdString(path));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.name == "bounce.wav"; },
                              10000));
  settle();
  const std::string before = session().kick().layers[0].recorded()->asset.hash;
  QSignalSpy changed(&document().sounds(), &SoundIntake::sourceChanged);
  reference::writeSound(folder, "bounce.wav", reference::bufferOf(reference::sine(60, 0.5, 0.4, 48000), 48000));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !changed.isEmpty(); }, 10000));
  EXPECT_EQ(session().kick().layers[0].recorded()->asset.hash, before) << "only on request";
  document().sounds().reload(QString::fromStdString(path));
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.hash != before; }, 10000));
  settle();
  EXPECT_NEAR(*document().study()->pair.kick.sound->landing.hz, 60.0, 0.5);
  document().undo();
  settle();
  EXPECT_EQ(session().kick().layers[0].recorded()->asset.hash, before);
}

TEST_F(PlayInTest, MidiIsReadWrittenAndAFaultTold) {
  const QString path = QString::fromStdString(folder / "out.mid");
  writePatterns(document(), path);
  const auto hits = session().kick().hits;
  document().edit(Edit{"clear", [](Session& s) { s.kick().hits.clear(), s.bass().notes.clear(); }});
  readPattern(document(), Place{1}, path, nullptr);
  settle();
  ASSERT_EQ(session().kick().hits.size(), hits.size());
  for (size_t i = 0; i < hits.size(); ++i)
    EXPECT_NEAR(session().kick().hits[i].startQuarters, hits[i].startQuarters, 1e-3);
  reference::writeBytes(folder / "no.mid", "RIFF nonsense");
  const Session now = session();
  QSignalSpy told(&document(), &Document::failed);
  readPattern(document(), Place{2}, QString::fromStdString(folder / "no.mid"), nullptr);
  ASSERT_EQ(told.size(), 1);
  EXPECT_TRUE(told[0][0].toString().contains("no.mid"));
  EXPECT_EQ(session(), now);
  // The hits of an audio loop: the kick stem that was rendered is such a loop.
  const std::string loop = folder / "loop.wav";
  ASSERT_TRUE(saveSound(document().stems()->kick().toBuffer(48000), loop, SampleFormat::Wav24));
  document().edit(Edit{"clear", [](Session& s) { s.kick().hits.clear(); }});
  findPattern(document(), QString::fromStdString(loop));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !session().kick().hits.empty(); }, 20000));
  settle();
  ASSERT_EQ(session().kick().hits.size(), hits.size());
  for (size_t i = 0; i < hits.size(); ++i)
    EXPECT_EQ(session().kick().hits[i].startQuarters, hits[i].startQuarters);
}

TEST_F(PlayInTest, ALineIsPlayedInWithADiveByTheWheel) {
  document().edit(Edit{"clear", [](Session& s) {
                         s.bass().notes.clear(), s.track.tempoBpm = 240, s.track.beatsPerBar = 1,
                                                 s.track.loopBeats = 8;
                       }});
  settle();
  window.transport().chooseDevice("simulated");
  QTest::keyClick(&window, Qt::Key_F7);
  auto* bar = find("Play-in bar");
  ASSERT_TRUE(bar->isVisible()) << "the mode is plainly shown";
  EXPECT_TRUE(bar->accessibleDescription().contains("A minor"));
  EXPECT_EQ(window.playIn().noteOfKey(Qt::Key_A), 33);
  EXPECT_EQ(window.playIn().noteOfKey(Qt::Key_D), 36) << "the third of the scale";
  // The loop already plays, as it usually does: the take stops it, counts in and restarts it.
  QTest::keyClick(&window, Qt::Key_Space);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 0.2; }, 5000));
  QTest::keyClick(&window, Qt::Key_F8);
  ASSERT_TRUE(window.playIn().isTaking());
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() < 0.0; }, 5000))
      << "a bar is counted in";
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 0.4; }, 5000));
  QTest::keyPress(&window, Qt::Key_D);
  QTest::qWait(120);
  window.playIn().hear({KeyEvent::Kind::Wheel, 0, -0.5});
  QTest::qWait(30);
  window.playIn().hear({KeyEvent::Kind::Wheel, 0, -1.0});
  QTest::keyRelease(&window, Qt::Key_D);
  QTest::qWait(60);
  QTest::keyClick(&window, Qt::Key_F8);
  EXPECT_FALSE(window.playIn().isTaking());
  settle();
  ASSERT_EQ(notes().size(), 1u);
  EXPECT_EQ(notes()[0].midi, 36);
  const double sixteenths = notes()[0].startQuarters / 0.25;
  EXPECT_NEAR(sixteenths, std::round(sixteenths), 1e-6) << "to the grid on the way in";
  ASSERT_GE(session().bass().wheel.size(), 2u);
  EXPECT_EQ(session().bass().wheel.back().value, -1.0);
  QTest::keyClick(&window, Qt::Key_Escape);
  EXPECT_FALSE(bar->isVisible());
  document().undo(), document().undo();
  EXPECT_TRUE(notes().empty()) << "the whole take is one step back";
  window.transport().stop();
}

TEST_F(PlayInTest, AFileOfEventsPlaysALineIn) {
  // At 40 BPM a quarter lasts 1.5 s: the press comes 1.05 quarters in. The count-in is a bar, one quarter.
  reference::writeBytes(folder / "line.keys",
                        "1.575 press 36 0.5\n1.8 wheel -0.5\n1.95 wheel -1\n2.1 release 36\n");
  document().edit(Edit{"clear", [](Session& s) {
                         s.bass().notes.clear();
                         s.track.tempoBpm = 40, s.track.loopBeats = 8, s.track.beatsPerBar = 1;
                       }});
  settle();
  window.transport().chooseDevice("simulated");
  window.playIn().chooseFile(QString::fromStdString(folder / "missing.keys"));
  EXPECT_FALSE(window.playIn().isFile());
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("missing.keys"));
  window.playIn().chooseFile(QString::fromStdString(folder / "line.keys"));
  ASSERT_TRUE(window.playIn().isFile());
  window.playIn().setStrength(0.5);
  QTest::keyClick(&window, Qt::Key_F8);
  EXPECT_TRUE(find("Play-in bar")->accessibleDescription().contains("50 % to the grid"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !notes().empty(); }, 20000));
  QTest::qWait(60);
  QTest::keyClick(&window, Qt::Key_F8);
  settle();
  ASSERT_EQ(notes().size(), 1u);
  EXPECT_EQ(notes()[0].midi, 36);
  EXPECT_NEAR(notes()[0].velocity, 0.5, 1e-9);
  // A machine that stands still for a second, as virtual ones do, shifts the device's clock against the file's.
  const double straight = std::round(notes()[0].startQuarters / 0.25) * 0.25;
  EXPECT_LT(notes()[0].startQuarters, 4.0);
  EXPECT_NE(notes()[0].startQuarters, straight) << "half of the way only";
  ASSERT_GE(session().bass().wheel.size(), 2u);
  EXPECT_EQ(session().bass().wheel.back().value, -1.0);
  window.transport().stop();
  // From the middle the file begins there, and what is pressed in the count-in is not taken.
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000));
  document().undo(), document().undo();
  settle();
  ASSERT_TRUE(notes().empty());
  window.transport().locate(5.0);
  QTest::keyClick(&window, Qt::Key_F8);
  EXPECT_TRUE(window.playIn().words().contains("Count-in"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().hasStarted(); }, 3000));
  window.playIn().hear({KeyEvent::Kind::Press, 40, 0.9}, 1.0);
  window.playIn().hear({KeyEvent::Kind::Release, 40, 0.0}, 1.0);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !notes().empty(); }, 20000));
  QTest::keyClick(&window, Qt::Key_F8);
  settle();
  ASSERT_EQ(notes().size(), 1u);
  EXPECT_EQ(notes()[0].midi, 36);
  EXPECT_GE(notes()[0].startQuarters, 5.0);
  window.transport().stop();
}

// A clap tapped in over the click: hits at their velocities in its own lane; the bass stays as it is.
TEST_F(PlayInTest, AClapIsTappedInOverTheClick) {
  settle();
  document().edit(addPart(3, "Clap", Plays::Hits));
  document().edit(addBuiltLayer(*session().part(3)));
  const auto notes = session().bass().notes;
  settle();
  window.transport().chooseDevice("simulated");
  PlayIn& playIn = window.playIn();
  playIn.choosePart(3);
  playIn.setStrength(1.0);
  playIn.startTake();
  // The device reports its position once it has started.
  ASSERT_TRUE(QTest::qWaitFor([&] { return playIn.words().contains("Count-in"); }, 1500));
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 0.3; }, 20000));
  EXPECT_TRUE(playIn.words().contains("Clap")) << playIn.words().toStdString();
  auto tap = [&](double velocity) {
    playIn.hear({KeyEvent::Kind::Press, 60, velocity});
    QTest::qWait(60);
    playIn.hear({KeyEvent::Kind::Release, 60, 0.0});
  };
  tap(0.9);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 1.6; }, 20000));
  tap(0.35);
  playIn.endTake();
  window.transport().stop();
  const auto& hits = session().part(3)->hits;
  ASSERT_EQ(hits.size(), 2u);
  EXPECT_EQ(hits[0].velocity, 0.9);
  EXPECT_EQ(hits[1].velocity, 0.35);
  for (const Hit& h : hits)
    EXPECT_NEAR(h.startQuarters * 4, std::round(h.startQuarters * 4), 1e-6) << "on the grid";
  EXPECT_EQ(session().bass().notes, notes);
  document().undo();
  EXPECT_TRUE(session().part(3)->hits.empty()) << "a take is one step";
  settle();
}

// Levels during playback: each lane's own, peak hold, at rest when stopped; the output's level is the
// listener's.
TEST_F(PlayInTest, LevelsAreShownWhileItPlaysAndTheOutputHasOneOfItsOwn) {
  settle();
  window.transport().chooseDevice("simulated");
  const double bare = dbFromAmplitude(*truePeakOf(document().stems()->kick().toBuffer(48000)));
  document().edit(addProcessor({.part = session().kick().id}, {1, Limiter{true, -24.0, 200.0}}));
  settle();
  typeInto("Output level", "-20");
  EXPECT_EQ(window.transport().monitor().outputDb(), -20.0);
  const Session before = session();
  LaneMeters meters(document(), window.transport());
  window.transport().play();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 2.2; }, 20000));
  const double peak = dbFromAmplitude(*truePeakOf(document().stems()->kick().toBuffer(48000)));
  EXPECT_NEAR(meters.lane(session().kick().id).heldDb, peak, 0.5);
  EXPECT_GT(meters.lane(session().bass().id).db, -40.0);
  EXPECT_GT(meters.lane(session().kick().id).takenDb, 0.5) << "what the limiter takes";
  EXPECT_EQ(meters.lane(session().bass().id).takenDb, 0.0);
  // Before, which has no limiter, is matched by as much as matching goes.
  window.transport().setBefore(true);
  const auto kick = [&] { return meters.lane(session().kick().id); };
  EXPECT_TRUE(QTest::qWaitFor(
      [&] { return kick().takenDb == 0.0 && std::abs(kick().heldDb - (bare - 12.0)) < 0.5; }, 20000))
      << kick().takenDb << " taken, " << kick().heldDb << " of " << bare - 12.0;
  window.transport().setBefore(false);
  EXPECT_EQ(session(), before) << "nothing of it is in the session";
  window.transport().setMuted(session().kick().id, true);
  EXPECT_EQ(meters.lane(session().kick().id).db, -120.0);
  window.transport().setMuted(session().kick().id, false);
  window.transport().stop();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 5000));
  EXPECT_EQ(meters.lane(session().kick().id).db, -120.0);
  // The other output returns with its level.
  window.transport().chooseDevice("never heard");
  EXPECT_EQ(window.transport().monitor().outputDb(), MonitorLevels::kSafeDb);
  window.transport().chooseDevice("simulated");
  EXPECT_EQ(window.transport().monitor().outputDb(), -20.0);
  window.transport().monitor().setOutputDb(MonitorLevels::kSafeDb);
  // With the loop stopped nothing wakes up.
  settle();
  QTest::qWait(2500);
  for (const QTimer* timer : window.findChildren<QTimer*>())
    EXPECT_FALSE(timer->isActive() && !timer->isSingleShot()) << timer->objectName().toStdString();
}

}  // namespace
}  // namespace heft::app
