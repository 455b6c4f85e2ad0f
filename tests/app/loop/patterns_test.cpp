// The loop strip in the real window: velocities, ties, dives, the wheel, grid and swing, moves over patterns,
// MIDI.

#include <QDir>
#include <QLabel>
#include <QMenuBar>
#include <QRegularExpression>
#include <QSignalSpy>
#include <filesystem>

#include "app/files/pattern_files.h"
#include "app/library/library.h"
#include "app/loop/loop_strip.h"
#include "app/stages/export/export_page.h"
#include "app/theme/theme.h"
#include "core/session/midi_pattern.h"
#include "core/session/pattern.h"
#include "core/sound/midi_reader.h"
#include "tests/app/loop/patterns_fixture.h"

namespace heft::app {
namespace {

// While the loop plays, a folder is scanned, files are written and a reference is read, hits and notes are
// edited in turn: nothing gets lost, the written files are the session of that moment, and undo goes back
// through all.
TEST_F(PatternsTest, EditsDuringPlaybackScanAndExportNeverLoseEachOther) {
  std::filesystem::create_directories(folder / "shots");
  for (int i = 0; i < 12; ++i)
    reference::writeSound(folder, "shots/k" + std::to_string(i) + ".wav",
                          reference::bufferOf(reference::noise(0.3, 40000, static_cast<uint64_t>(i)), 48000));
  const auto reference = reference::writeSound(
      folder, "long.wav", reference::bufferOf(reference::noise(0.2, 48000 * 20, 7), 48000, 2));
  document().edit(Edit{"empty", [](Session& s) { s.kick().hits.clear(), s.bass().notes.clear(); }});
  settle();
  window.transport().chooseDevice("simulated");
  window.transport().play();
  window.library().addFolder(QString::fromStdString(folder / "shots"));
  auto* page = static_cast<ExportPage*>(window.page(Stage::Export));
  const QString out = QString::fromStdString(folder / "out");
  page->setFolder(out);
  constexpr int kRounds = 8;
  for (int i = 0; i < kRounds; ++i) {
    const double at = 0.5 * i;
    QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->kickAt(at).toPoint());
    // The next edit comes at once, without waiting.
    QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->bassAt(at + 0.3).toPoint());
    if (i == 2) document().sounds().load(kReferences, QString::fromStdString(reference));
    if (i == 4) window.showStage(Stage::Export), click(find<QPushButton>("Write files"));
    QApplication::processEvents();
  }
  EXPECT_TRUE(window.transport().isPlaying());
  EXPECT_EQ(session().kick().hits.size(), size_t{kRounds});
  EXPECT_EQ(notes().size(), size_t{kRounds});
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        return !window.library().isScanning() && window.library().rows().size() == 12 &&
               session().references.size() == 4 && QDir(out).entryList({"*.mid"}).size() == 1;
      },
      60000));
  settle();
  EXPECT_EQ(session().kick().hits.size(), size_t{kRounds}) << "a file that came in later took no edit along";
  EXPECT_EQ(notes().size(), size_t{kRounds});
  for (int i = 0; i < kRounds; ++i) {
    EXPECT_NEAR(session().kick().hits[static_cast<size_t>(i)].startQuarters, 0.5 * i, 1e-9);
    EXPECT_NEAR(notes()[static_cast<size_t>(i)].startQuarters, 0.5 * i + 0.25, 1e-9);
  }
  EXPECT_EQ(document().stems()->hitFrames().size(), size_t{kRounds}) << "and it is what sounds";
  // The written patterns are those of the press: five hits and five notes.
  const auto written = readMidi((folder / "out") + "/" + QDir(out).entryList({"*.mid"}).front().toStdString());
  ASSERT_TRUE(written);
  size_t events = 0;
  for (const MidiTrack& track : written->tracks) events += track.notes.size();
  EXPECT_EQ(events, 10u);
  for (int i = 0; i < 2 * kRounds + 1; ++i) document().undo();
  EXPECT_TRUE(session().kick().hits.empty());
  EXPECT_TRUE(notes().empty());
  settle();
}

TEST_F(PatternsTest, VelocityTiesAndDivesAreDrawnAndHeard) {
  const QPointF hit = strip()->kickAt(session().kick().hits[0].startQuarters);
  drag(strip(), hit, hit + QPointF(0, 14), Qt::ShiftModifier);
  EXPECT_LT(session().kick().hits[0].velocity, 0.9);
  EXPECT_GT(session().kick().hits[0].velocity, 0.2);
  const Note first = notes()[0];
  const QPointF inside = strip()->bassAt(first.startQuarters + 0.3 * first.lengthQuarters);
  fromMenu(inside, "12 semitones", "Dive");
  EXPECT_EQ(notes()[0].dive.semitones, 12);
  const QPointF handle = strip()->diveHandle(0);
  drag(strip(), handle, handle + QPointF(-12, 6));
  EXPECT_GT(notes()[0].dive.semitones, 12);
  EXPECT_LT(notes()[0].dive.startQuarters + notes()[0].dive.lengthQuarters, first.lengthQuarters);
  EXPECT_EQ(notes()[0].startQuarters, first.startQuarters) << "the note itself stays";
  using Grip = DiveGrip;
  const Dive before = notes()[0].dive;
  const QPointF start = strip()->diveHandle(0, Grip::Start);
  drag(strip(), start, start - QPointF(20, -5));
  EXPECT_LT(notes()[0].dive.startQuarters, before.startQuarters - 0.05);
  EXPECT_NEAR(notes()[0].dive.startQuarters + notes()[0].dive.lengthQuarters,
              before.startQuarters + before.lengthQuarters, 1e-9)
      << "its end stays";
  EXPECT_EQ(notes()[0].dive.semitones, before.semitones);
  const QPointF middle = strip()->diveHandle(0, Grip::Bend);
  drag(strip(), middle, middle + QPointF(0, 6));
  EXPECT_GT(notes()[0].dive.bend, 0.05) << "it falls earlier";
  fromMenu(inside, "Glide into the next note");
  EXPECT_TRUE(notes()[0].tie);
  QTest::keyClick(strip(), Qt::Key_T);
}

TEST_F(PatternsTest, KeysSetVelocityTiesAndTheWheel) {
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_PageUp);
  for (int i = 0; i < 40; ++i) QTest::keyClick(strip(), Qt::Key_Left);
  const double before = session().kick().hits[0].velocity;
  QTest::keyClick(strip(), Qt::Key_V, Qt::ShiftModifier);
  EXPECT_NEAR(session().kick().hits[0].velocity, before - 0.1, 1e-9);
  QTest::keyClick(strip(), Qt::Key_V);
  EXPECT_NEAR(session().kick().hits[0].velocity, before, 1e-9);
  QTest::keyClick(strip(), Qt::Key_PageDown);
  QTest::keyClick(strip(), Qt::Key_T);
  EXPECT_TRUE(notes()[0].tie);
  QTest::keyClick(strip(), Qt::Key_W);
  EXPECT_TRUE(strip()->showsWheel());
  QTest::keyClick(strip(), Qt::Key_W);
  EXPECT_FALSE(strip()->showsWheel());
  settle();
}

TEST_F(PatternsTest, TheWheelIsDrawnAndBendsTheBass) {
  const float before = document().stems()->bass().at(0, 9000);
  fromMenu(strip()->kickAt(0.9), "Draw the pitch wheel");
  ASSERT_TRUE(strip()->showsWheel());
  drag(strip(), strip()->wheelAt(0.1, 0.0), strip()->wheelAt(0.1, 0.0));
  drag(strip(), strip()->wheelAt(1.0, 0.0), strip()->wheelAt(1.0, -0.8));
  ASSERT_EQ(session().bass().wheel.size(), 2u);
  EXPECT_NEAR(session().bass().wheel[1].value, -0.8, 0.15);
  EXPECT_NE(document().stems()->bass().at(0, 9000), before);
  fromMenu(strip()->bassAt(1.0), "");
  EXPECT_FALSE(strip()->showsWheel());
}

TEST_F(PatternsTest, GridAndSwingMoveWhatIsDrawn) {
  typeInto("Grid", "1/8t");
  drag(strip(), strip()->kickAt(0.70), strip()->kickAt(0.70));
  const auto hits = session().kick().hits;
  EXPECT_TRUE(std::any_of(hits.begin(), hits.end(), [](const Hit& h) {
    return std::abs(h.startQuarters - 2.0 / 3.0) < 1e-6;
  })) << "it catches on the triplet";
  document().undo();
  typeInto("Grid", "1/16");
  const double odd = 0.25 * std::round(4 * session().kick().hits[1].startQuarters);
  typeInto("Swing", "60 %");
  EXPECT_NEAR(session().kick().hits[1].startQuarters, swung({TimeValue::note(1, 16), 0.6}, odd), 1e-9);
  typeInto("Swing", "0");
  EXPECT_NEAR(session().kick().hits[1].startQuarters, odd, 1e-9);
}

TEST_F(PatternsTest, WholePatternsAreMovedAndUndone) {
  const Session before = session();
  fromMenu(strip()->kickAt(0.9), "Kick on every beat\t4");
  EXPECT_EQ(session().kick().hits.size(), 8u);
  EXPECT_EQ(session().kick().hits[3].startQuarters, 3.0);
  fromMenu(strip()->kickAt(0.9), "Bass off the beat\t8");
  ASSERT_EQ(notes().size(), 8u);
  EXPECT_EQ(notes()[0].startQuarters, 0.5);
  document().undo(), document().undo();
  EXPECT_EQ(session(), before);
}

TEST_F(PatternsTest, KeysMakeTheCommonPatterns) {
  const Session before = session();
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_4);
  QTest::keyClick(strip(), Qt::Key_8);
  EXPECT_EQ(session().kick().hits.size(), 8u);
  EXPECT_EQ(notes()[1].startQuarters, 1.5);
  document().undo();
  QTest::keyClick(strip(), Qt::Key_1);
  EXPECT_LT(notes().size(), before.bass().notes.size());
  for (const Note& n : notes()) EXPECT_LT(std::fmod(n.startQuarters, 4.0), 1.0);
  for (int i = 0; i < 2; ++i) document().undo();
  EXPECT_EQ(session(), before);
  settle();
}

TEST_F(PatternsTest, ThePatternsMenuQuantisesAndSetsTheWheelsRange) {
  document().edit(Edit{"loose", [](Session& s) { s.kick().hits = {{0.05, 1}, {1.04, 1}}; }});
  fromMenu(strip()->kickAt(0.9), "50 %", "Quantise to the grid");
  EXPECT_NEAR(session().kick().hits[0].startQuarters, 0.025, 1e-9);
  fromMenu(strip()->kickAt(0.9), "100 %", "Quantise to the grid");
  EXPECT_NEAR(session().kick().hits[1].startQuarters, 1.0, 1e-9);
  fromMenu(strip()->kickAt(0.9), "7 semitones", "Pitch wheel's range");
  EXPECT_EQ(session().bass().wheelRange, 7);
}

TEST_F(PatternsTest, APartIsMarkedCopiedMovedAndChanged) {
  const Session before = session();
  auto startsIn = [&](double from, double to) {
    std::vector<double> out;
    for (const Hit& h : session().kick().hits)
      if (h.startQuarters >= from - 1e-6 && h.startQuarters < to - 1e-6) out.push_back(h.startQuarters - from);
    return out;
  };
  drag(strip(), strip()->rulerAt(0.1), strip()->rulerAt(1.9));
  ASSERT_TRUE(strip()->marked());
  EXPECT_EQ(*strip()->marked(), (PatternRange{0.0, 2.0}));
  const auto first = startsIn(0, 2);
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(startsIn(2, 4), first) << "again right after it";
  EXPECT_EQ(strip()->marked()->from, 2.0);
  QTest::keyClick(strip(), Qt::Key_C, Qt::ControlModifier);
  QTest::keyClick(strip(), Qt::Key_Escape);
  EXPECT_FALSE(strip()->marked());
  EXPECT_EQ(session().kick().hits.size(), first.size() * 2 + 4);
  // Only the bass, by Ctrl in its lane: transposed, velocity raised, nudged over a neighbour and back.
  document().undo();
  ASSERT_EQ(session(), before);
  drag(strip(), strip()->bassAt(4.1), strip()->bassAt(5.6), Qt::ControlModifier);
  ASSERT_TRUE(strip()->marked() && strip()->marked()->has(2) && !strip()->marked()->has(1));
  QTest::keyClick(strip(), Qt::Key_Up, Qt::ShiftModifier);
  const auto note = [&] {
    return *std::find_if(notes().begin(), notes().end(), [](const Note& n) { return n.startQuarters == 4.0; });
  };
  EXPECT_EQ(note().midi, 45);
  document().undo();
  for (int i = 0; i < 6; ++i) QTest::keyClick(strip(), Qt::Key_Right);
  EXPECT_EQ(session().kick(), before.kick());
  EXPECT_NE(session().bass().notes, before.bass().notes);
  for (int i = 0; i < 6; ++i) QTest::keyClick(strip(), Qt::Key_Left);
  EXPECT_EQ(session().bass().notes, before.bass().notes) << "what it passed over is still there";
  QTest::keyClick(strip(), Qt::Key_Delete);
  EXPECT_EQ(notes().size(), before.bass().notes.size() - 1);
  document().undo();
  // Dragged by the ruler, and copied by the menu.
  drag(strip(), strip()->rulerAt(0.1), strip()->rulerAt(0.9));
  drag(strip(), strip()->rulerAt(0.5), strip()->rulerAt(1.0));
  EXPECT_EQ(strip()->marked()->from, 0.5);
  EXPECT_EQ(session().kick().hits[0].startQuarters, 0.5);
  document().undo();
  EXPECT_EQ(session(), before) << "a drag is one step";
  fromMenu(strip()->kickAt(0.6), "Cut\tCtrl+X");
  fromMenu(strip()->kickAt(6.6), "Paste\tCtrl+V");
  EXPECT_EQ(strip()->marked()->from, 6.5);
  QTest::keyClick(strip(), Qt::Key_A, Qt::ControlModifier);
  QTest::keyClick(strip(), Qt::Key_Delete);
  EXPECT_TRUE(session().kick().hits.empty() && notes().empty());
  for (int i = 0; i < 3; ++i) document().undo();
  EXPECT_EQ(session(), before);
  settle();
}

TEST_F(PatternsTest, PointsOfTheWheelAreTakenAwayByAClick) {
  document().edit(Edit{"bend", [](Session& s) { s.bass().wheel = {{1.0, 0.0}, {2.0, -1.0}, {3.0, 0.0}}; }});
  strip()->showWheel(true);
  const QPointF point = strip()->wheelAt(2.0, -1.0);
  QTest::mouseClick(strip(), Qt::LeftButton, {}, point.toPoint());
  EXPECT_EQ(session().bass().wheel, (std::vector<WheelPoint>{{1.0, 0.0}, {3.0, 0.0}}));
  document().undo();
  drag(strip(), point, point - QPointF(0, 12));
  EXPECT_EQ(session().bass().wheel.size(), 3u) << "dragged it stays";
  EXPECT_GT(session().bass().wheel[1].value, -0.9);
}

TEST_F(PatternsTest, DarkIsThereAtOnce) {
  settleRemedies();
  QTest::keyClick(&window, Qt::Key_M, Qt::ControlModifier);
  ASSERT_TRUE(QTest::qWaitFor([&] { return find<QPushButton>("Apply fixes")->isEnabled(); }, 60000));
  const QColor paper = window.grab().toImage().pixelColor(40, 500);
  for (QAction* menu : window.menuBar()->actions())
    for (QAction* a : menu->menu()->actions())
      if (a->text() == "Dark") a->trigger();
  const QColor lamp = window.grab().toImage().pixelColor(40, 500);
  // No words keep the other theme's ink, those of the open list of fixes neither.
  settle();
  int inked = 0;
  const QRegularExpression ink("(?<![-a-z])color: (#[0-9a-f]{6})");
  for (const auto* words : window.findChildren<QWidget*>())
    if (const auto found = ink.match(words->styleSheet()); found.hasMatch()) {
      ++inked;
      const Theme& before = themeOf(Light::Paper);
      for (const QColor& old : {before.ink, before.muted, before.kick, before.bass, before.watch})
        EXPECT_NE(QColor(found.captured(1)), old)
            << words->metaObject()->className() << " in " << words->parent()->objectName().toStdString();
    }
  EXPECT_GE(inked, 3);
  applyTheme(Light::Paper);
  EXPECT_GT(paper.lightness(), 200);
  EXPECT_LT(lamp.lightness(), 70);
  EXPECT_GT(window.grab().toImage().pixelColor(40, 500).lightness(), 200);
}

}  // namespace
}  // namespace heft::app
