// The real window, driven as a person drives it: click, drag, type; then what it shows and what it wrote.

#include "app/shell/window.h"

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
#include "app/widgets/value_field.h"
#include "core/session/folder.h"
#include "core/sound/audio_file.h"
#include "scenario/make_demo.h"
#include "tests/app/hands.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft::app {
namespace {

using reference::TemporaryFolder;

TEST_F(WindowTest, AnEmptySessionTeachesInEveryStage) {
  for (int i = 0; i < 6; ++i) {
    QTest::keyClick(&window, static_cast<Qt::Key>(Qt::Key_1 + i), Qt::ControlModifier);
    EXPECT_EQ(static_cast<int>(window.currentStage()), i);
    EXPECT_FALSE(window.grab().isNull());
  }
  EXPECT_TRUE(document().findings().empty());
}

// From files to an export: drop, place, tune, align, duck, compare, write; each remedy pressed in the Ledger.
TEST_F(WindowTest, TheWholeJobFromFilesToExport) {
  reference::KickRecipe recipe;
  recipe.landingHz = 50.4;
  recipe.tailMs = 260;
  recipe.clickDb = -20;
  const auto kick =
      reference::writeSound(folder, "my kick.wav", reference::bufferOf(reference::makeKick(recipe), 48000));
  auto low = reference::sine(49, 0.7, 1.2, 48000, 2.0);
  for (size_t i = 0; i < low.size(); ++i)
    low[i] *= std::exp(-1.5 * static_cast<double>(i) / 48000) * std::min(1.0, static_cast<double>(i) / 150);
  const auto bass =
      reference::writeSound(folder, "my bass.flac", reference::bufferOf(low, 48000), SampleFormat::Flac24);
  drop(find("Kick card"), kick);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kickLayer() != nullptr; }, 10000));
  drop(find("Bass card"), bass);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().bassLayer() != nullptr; }, 10000));
  settle();
  typeInto("Key", "G minor");
  typeInto("Tempo", "120");
  EXPECT_EQ(session().track.key.name(), "G minor");
  // Kicks were placed on every beat; deletes one and places one off the beat.
  ASSERT_EQ(session().kick().hits.size(), 8u);
  for (int i = 0; i < 2; ++i)
    QTest::mouseClick(window.loopStrip(), Qt::LeftButton, {}, window.loopStrip()->kickAt(3.0).toPoint());
  QTest::mouseClick(window.loopStrip(), Qt::LeftButton, {}, window.loopStrip()->kickAt(2.5).toPoint());
  EXPECT_EQ(session().kick().hits.size(), 8u);
  drag(window.loopStrip(), window.loopStrip()->bassAt(0.05), window.loopStrip()->bassAt(1.9));
  drag(window.loopStrip(), window.loopStrip()->bassAt(4.05), window.loopStrip()->bassAt(5.9));
  ASSERT_EQ(session().bass().notes.size(), 2u);
  EXPECT_NEAR(session().bass().notes[0].lengthQuarters, 2.0, 0.3);
  EXPECT_EQ(session().bass().notes[0].midi, 31) << "the low tonic";
  const Finding* key = finding("kick-key");
  ASSERT_TRUE(key);
  EXPECT_NE(key->sentence.find("49 cents above G1"), std::string::npos) << key->sentence;
  settleRemedies();
  fixAll();
  settleRemedies();
  for (const Finding& f : document().findings()) EXPECT_NE(f.verdict, Verdict::Off) << f.sentence;
  EXPECT_EQ(session().kick().layers[0].recorded()->targetMidi, 31.0);
  window.showStage(Stage::Export);
  static_cast<ExportPage*>(window.page(Stage::Export))->setFolder(QString::fromStdString(folder / "out"));
  click(find<QPushButton>("Write files"));
  auto* log = find<QPlainTextEdit>("Export log");
  ASSERT_TRUE(QTest::qWaitFor([&] { return log->toPlainText().contains("Written to"); }, 20000))
      << log->toPlainText().toStdString();
  const auto sum = loadSound(folder / "out/Untitled - sum.wav");
  ASSERT_TRUE(sum) << sum.error().sentence();
  EXPECT_EQ(sum->sound->frames(), session().track.loopFrames());
  const auto tuned = loadSound(folder / "out/Untitled - kick G1.wav");
  ASSERT_TRUE(tuned);
}

TEST_F(WindowTest, RemediesMendTheDemoOneAfterAnother) {
  openDemo();
  ASSERT_TRUE(finding("kick-key"));
  int pressed = 0;
  for (; pressed < 12; ++pressed) {
    settleRemedies();
    const auto& all = document().findings();
    const auto next =
        std::find_if(all.begin(), all.end(), [](const Finding& f) { return f.remedy.has_value(); });
    if (next == all.end()) break;
    const std::vector<Finding> before = all;
    press("Remedy " + QString::fromStdString(next->id));
    EXPECT_TRUE(isBetter(document().findings(), before)) << pressed;
  }
  EXPECT_GE(pressed, 4);
  for (const Finding& f : document().findings()) EXPECT_NE(f.verdict, Verdict::Off) << f.sentence;
  // Each was one step; undo takes all of them back.
  for (int i = 0; i < pressed; ++i) QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_TRUE(document().isSaved());
  EXPECT_EQ(finding("kick-key")->verdict, Verdict::Off);
}

TEST_F(WindowTest, KeyAndTempoAreFoundAndOffered) {
  openDemo();
  document().edit(Edit{"elsewhere", [](Session& s) { s.track.key = {1, Mode::Major}, s.track.tempoBpm = 90; }});
  settle();
  auto* menu = window.findChild<QMenu*>("Key and tempo menu");
  auto* words = find<QLabel>("Notice words");
  auto listenTo = [&](const QString& what) {
    Q_EMIT menu->aboutToShow();
    for (QAction* a : menu->actions())
      if (a->text().startsWith(what)) return a->trigger();
    ADD_FAILURE() << what.toStdString();
  };
  listenTo("From the backing");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("sounds like"); }, 30000));
  EXPECT_EQ(find<QPushButton>("Notice yes")->text(), "A minor") << words->text().toStdString();
  const QString next = find<QPushButton>("Notice answer 2")->text();
  press("Notice answer 2");
  EXPECT_EQ(QString::fromStdString(session().track.key.name()), next) << "a runner-up is one press away";
  EXPECT_EQ(session().track.tempoBpm, 90) << "the tempo is another question";
  ASSERT_TRUE(words->text().contains("BPM")) << words->text().toStdString();
  press("Notice no");
  listenTo("From Brine");
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return words->text().startsWith(QString::fromStdString(session().references.front().asset.name)); },
      30000));
  press("Notice no");
  press("Notice no");
  document().undo();
  EXPECT_EQ(session().track.key.tonic, 1);
  listenTo("From the backing");
  ASSERT_TRUE(QTest::qWaitFor([&] { return find("Notice yes")->isVisible(); }, 30000));
  press("Notice yes");
  EXPECT_EQ(session().track.key.tonic, 9) << words->text().toStdString();
  press("Notice yes");
  EXPECT_NEAR(session().track.tempoBpm / std::exp2(std::round(std::log2(session().track.tempoBpm / 122))), 122,
              0.5);
  document().undo();
  EXPECT_EQ(session().track.tempoBpm, 90);
  settle();
}

TEST_F(WindowTest, NotesAreMovedLengthenedAndRemovedByMouseAndKeyboard) {
  openDemo();
  auto* strip = window.loopStrip();
  const auto count = session().bass().notes.size();
  drag(strip, strip->bassAt(2.3), strip->bassAt(2.55));
  EXPECT_NEAR(session().bass().notes[2].startQuarters, 2.25, 1e-9);
  strip->setFocus();
  QTest::mouseClick(strip, Qt::LeftButton, {}, strip->bassAt(4.1).toPoint());
  QTest::keyClick(strip, Qt::Key_Up);
  EXPECT_EQ(session().bass().notes[4].midi, 34);
  QTest::keyClick(strip, Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_NEAR(session().bass().notes[4].lengthQuarters, 1.5, 1e-9);
  QTest::keyClick(strip, Qt::Key_Delete);
  EXPECT_EQ(session().bass().notes.size(), count - 1);
  QTest::keyClick(strip, Qt::Key_Return);
  EXPECT_EQ(session().bass().notes.size(), count);
  settle();
  EXPECT_NE(document().undoName(), "");
}

TEST_F(WindowTest, HitsAreDraggedAsOneStepAndRemovedWhereTheyStand) {
  openDemo();
  auto* strip = window.loopStrip();
  const Session before = session();
  const Hit second = before.kick().hits[1];
  drag(strip, strip->kickAt(second.startQuarters), strip->kickAt(second.startQuarters + 0.25));
  ASSERT_EQ(session().kick().hits.size(), before.kick().hits.size());
  EXPECT_NEAR(session().kick().hits[1].startQuarters, second.startQuarters + 0.25, 1e-9);
  EXPECT_EQ(session().kick().hits[1].velocity, second.velocity);
  EXPECT_EQ(document().undoName(), "move kick hit");
  document().undo();
  EXPECT_EQ(session(), before) << "a drag is one step";
  // It does not move onto another hit.
  drag(strip, strip->kickAt(second.startQuarters), strip->kickAt(before.kick().hits[2].startQuarters));
  EXPECT_EQ(session().kick().hits.size(), before.kick().hits.size());
  for (size_t i = 1; i < session().kick().hits.size(); ++i)
    EXPECT_LT(session().kick().hits[i - 1].startQuarters, session().kick().hits[i].startQuarters);
  const size_t count = session().kick().hits.size();
  QTest::mouseClick(strip, Qt::LeftButton, {}, strip->kickAt(0.0).toPoint());
  EXPECT_EQ(session().kick().hits.size(), count) << "a click looks at it";
  EXPECT_EQ(strip->events().hit(), &session().kick().hits.front());
  QTest::mouseClick(strip, Qt::LeftButton, {}, strip->kickAt(0.0).toPoint());
  EXPECT_EQ(session().kick().hits.size(), count - 1) << "a second one takes it away";
}

TEST_F(WindowTest, TheLoopStripZoomsToABeatAndEditsThere) {
  openDemo();
  auto* strip = window.loopStrip();
  strip->setFocus();
  EXPECT_EQ(strip->view().to() - strip->view().from(), 8.0);
  QWheelEvent in(strip->kickAt(4.0), strip->mapToGlobal(strip->kickAt(4.0)), {}, {0, 120 * 20}, Qt::NoButton,
                 Qt::ControlModifier, Qt::NoScrollPhase, false);
  QApplication::sendEvent(strip, &in);
  EXPECT_NEAR(strip->view().to() - strip->view().from(), 1.0, 1e-9) << "one beat is the least";
  EXPECT_LE(strip->view().from(), 4.0);
  EXPECT_GE(strip->view().to(), 4.0);
  const auto hits = session().kick().hits.size();
  const double free = std::floor(strip->view().from() * 4 + 2) / 4 + 0.25;
  const bool there = std::any_of(session().kick().hits.begin(), session().kick().hits.end(),
                                 [&](const Hit& h) { return std::abs(h.startQuarters - free) < 0.2; });
  ASSERT_FALSE(there);
  QTest::mouseClick(strip, Qt::LeftButton, {}, strip->kickAt(free + 0.05).toPoint());
  ASSERT_EQ(session().kick().hits.size(), hits + 1);
  EXPECT_TRUE(std::any_of(session().kick().hits.begin(), session().kick().hits.end(),
                          [&](const Hit& h) { return std::abs(h.startQuarters - free) < 1e-9; }));
  QTest::keyClick(strip, Qt::Key_Minus);
  EXPECT_NEAR(strip->view().to() - strip->view().from(), 2.0, 1e-9);
  for (int i = 0; i < 40; ++i) QTest::keyClick(strip, Qt::Key_Right);
  EXPECT_NEAR(strip->view().to(), 8.0, 1e-9) << "the view follows the cursor";
  QTest::keyClick(strip, Qt::Key_0);
  EXPECT_EQ(strip->view().to() - strip->view().from(), 8.0);
  QTest::keyClick(strip, Qt::Key_Plus);
  document().newSession();
  EXPECT_EQ(strip->view().to() - strip->view().from(), document().track().loopQuarters())
      << "another session, all of it";
}

TEST_F(WindowTest, KickHitsAreSetAndTakenByKeyboardAlone) {
  openDemo();
  auto* strip = window.loopStrip();
  strip->setFocus();
  QTest::keyClick(strip, Qt::Key_PageUp);
  const Session before = session();
  const bool there = before.kick().hits.front().startQuarters == 0.0;
  ASSERT_TRUE(there);
  QTest::keyClick(strip, Qt::Key_Delete);
  EXPECT_EQ(session().kick().hits.size(), before.kick().hits.size() - 1);
  QTest::keyClick(strip, Qt::Key_Return);
  EXPECT_EQ(session().kick().hits.front().startQuarters, 0.0);
  QTest::keyClick(strip, Qt::Key_Return);
  EXPECT_EQ(session().kick().hits.front().startQuarters, 0.0) << "Return looks at what is there";
  QTest::keyClick(strip, Qt::Key_Delete);
  EXPECT_GT(session().kick().hits.front().startQuarters, 0.0);
  for (int i = 0; i < 3; ++i) document().undo();
  EXPECT_EQ(session(), before);
}

TEST_F(WindowTest, MeantSoRestsALineAndIsSaved) {
  openDemo();
  press("Intended kick-tail");
  EXPECT_TRUE(finding("kick-tail")->meantSo);
  ASSERT_TRUE(document().files().save(QString::fromStdString(folder / "kept.heft")));
  EXPECT_TRUE(openSession(folder / "kept.heft")->session.meantSo.contains("kick-tail"));
  press("Intended kick-tail");
  EXPECT_FALSE(finding("kick-tail")->meantSo);
}

TEST_F(WindowTest, ALedgerLineOpensItsStageAtTheSpot) {
  openDemo();
  window.showStage(Stage::Sounds);
  const Finding* overlap = finding("overlap");
  ASSERT_TRUE(overlap);
  click(find("Ledger overlap"));
  EXPECT_EQ(window.currentStage(), Stage::Duck);
  EXPECT_EQ(window.selection().hit(), overlap->hit);
}

TEST_F(WindowTest, PlaysOnTheSimulatedDeviceAndListens) {
  openDemo();
  window.transport().chooseDevice("simulated");
  QTest::keyClick(&window, Qt::Key_Space);
  ASSERT_TRUE(window.transport().isPlaying());
  EXPECT_TRUE(window.transport().isSimulated());
  EXPECT_TRUE(QTest::qWaitFor([&] { return window.transport().positionQuarters() > 0.3; }, 5000));
  QTest::keyClick(&window, Qt::Key_B);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(document().before().applied(session()), withoutMoves(session(), MovesOf::Sounds))
      << "this stage's moves";
  window.showStage(Stage::Duck);
  EXPECT_EQ(document().before().applied(session()), withoutMoves(session(), MovesOf::Duck));
  QTest::keyClick(&window, Qt::Key_B, Qt::ShiftModifier);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(document().before().applied(session()), withoutMoves(session())) << "over to all of them";
  QTest::keyClick(&window, Qt::Key_B, Qt::ShiftModifier);
  EXPECT_FALSE(window.transport().isBefore());
  QTest::keyClick(&window, Qt::Key_K);
  EXPECT_TRUE(window.transport().lanes().isSolo(1));
  QTest::keyClick(&window, Qt::Key_Space);
  EXPECT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000));
  EXPECT_TRUE(document().isSaved()) << "what is heard is not in the session";
}

TEST_F(WindowTest, UndoAndRedoNameWhatTheyDo) {
  openDemo();
  typeInto("Tempo", "90");
  EXPECT_EQ(document().undoName(), "set tempo");
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(session().track.tempoBpm, 122);
  EXPECT_EQ(document().redoName(), "set tempo");
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(session().track.tempoBpm, 90);
  typeInto("Tempo", "500");
  EXPECT_EQ(session().track.tempoBpm, 90);
  settle();
}

TEST_F(WindowTest, AFileThatIsNotASoundIsToldInTheWindow) {
  reference::writeBytes(folder / "letter.wav", "dear sir");
  drop(find("Kick card"), folder / "letter.wav");
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->isVisible(); }, 5000));
  EXPECT_TRUE(words->text().contains("letter.wav"));
  EXPECT_FALSE(session().kickLayer());
  click(find<QPushButton>("Notice no"));
  EXPECT_FALSE(words->isVisible());
}

TEST_F(WindowTest, WhatACrashLeftIsOffered) {
  // An earlier run's leftover: its autosave, whose lock nobody holds.
  const auto demo = demo::make();
  Session edited = demo->session;
  edited.track.name = "Left behind";
  ASSERT_TRUE(saveSession(folder / "autosave/run-999999", edited, demo->assets));
  window.startAutosave(QString::fromStdString(folder / "autosave"));
  auto* yes = find<QPushButton>("Notice yes");
  ASSERT_TRUE(QTest::qWaitFor([&] { return yes->isVisible(); }, 3000));
  click(yes);
  settle();
  EXPECT_EQ(session().track.name, "Left behind");
  EXPECT_FALSE(document().isSaved()) << "it still wants a place of its own";
  EXPECT_TRUE(std::filesystem::exists(folder / "autosave/run-999999"))
      << "until this run has a copy of its own";
  // This run now keeps one of its own.
  document().edit(Edit{"name the track", [](Session& s) { s.track.name = "Kept"; }});
  const QDir root(QString::fromStdString(folder / "autosave"));
  const QStringList mine =
      root.entryList({QString("run-%1-*").arg(QCoreApplication::applicationPid())}, QDir::Dirs);
  ASSERT_EQ(mine.size(), 1);
  const std::string own = root.filePath(mine[0]).toStdString();
  ASSERT_TRUE(QTest::qWaitFor([&] { return std::filesystem::exists(own + "/saved-in"); }, 10000));
  EXPECT_EQ(openSession(own)->session.track.name, "Kept");
  EXPECT_FALSE(std::filesystem::exists(folder / "autosave/run-999999"));
  document().files().autosave().drop();
  EXPECT_FALSE(std::filesystem::exists(own));
}

TEST_F(WindowTest, EveryControlHasANameAndATooltip) {
  openDemo();
  for (auto* field : window.findChildren<ValueField*>()) {
    EXPECT_FALSE(field->accessibleName().isEmpty());
    EXPECT_FALSE(field->toolTip().isEmpty()) << field->accessibleName().toStdString();
    // A field made before there was a sound still shows its range.
    const QString tip = field->toolTip().trimmed();
    EXPECT_FALSE(tip.endsWith(',') || tip.contains(", .")) << tip.toStdString();
  }
  for (auto* button : window.findChildren<QPushButton*>())
    if (!button->text().isEmpty() && !button->objectName().startsWith("Notice"))
      EXPECT_FALSE(button->toolTip().isEmpty()) << button->text().toStdString();
}

TEST_F(WindowTest, DrawsAtEverySizeWithoutRunningOver) {
  openDemo();
  for (const QSize size : {QSize(1100, 700), QSize(1280, 800), QSize(1920, 1080)}) {
    window.resize(size);
    for (int i = 0; i < 6; ++i) {
      window.showStage(static_cast<Stage>(i));
      QApplication::processEvents();
      EXPECT_EQ(window.size(), size) << "the stage fits into the window";
      // The row of fields ends within its page.
      for (auto* field : window.page(static_cast<Stage>(i))->findChildren<ValueField*>())
        if (field->isVisible())
          EXPECT_LE(field->mapTo(window.page(static_cast<Stage>(i)), QPoint(field->width(), 0)).x(),
                    window.page(static_cast<Stage>(i))->width())
              << field->accessibleName().toStdString() << " at " << size.width();
    }
  }
}

}  // namespace
}  // namespace heft::app
