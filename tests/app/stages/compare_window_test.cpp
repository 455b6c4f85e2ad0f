// Compare in the window: a reference is dropped, its section moved, flipped to by key while the loop plays.

#include <gtest/gtest.h>

#include <QDir>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QTreeWidget>
#include <cmath>

#include "app/stages/compare/ceiling_picture.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/compare/facts_picture.h"
#include "app/stages/compare/floor_picture.h"
#include "app/stages/compare/reference_row.h"
#include "app/stages/compare/reference_table.h"
#include "app/stages/compare/sections_picture.h"
#include "app/stages/compare/shelf_sheet.h"
#include "app/stages/tune/key_sheet.h"
#include "app/widgets/tab_row.h"
#include "core/library/shelf.h"
#include "core/measure/levels/loudness.h"
#include "core/session/edits/sections.h"
#include "engine/player/heard_match.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/signals.h"

namespace heft::app {
namespace {

class CompareWindowTest : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    openDemo();
    window.showStage(Stage::Compare);
    settle();
  }
  ComparePage* page() { return window.findChild<ComparePage*>(); }
  ReferenceEar& ear() { return window.ear(); }
  const Session& now() { return window.document().session(); }
};

TEST_F(CompareWindowTest, ReferencesAreHeardByKeyLevelMatched) {
  window.transport().chooseDevice("simulated");
  window.transport().play();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ear().matchOf(0) && ear().matchOf(2); }, 20000));
  page()->setFocus();
  QTest::keyClick(page(), Qt::Key_2);
  EXPECT_EQ(ear().heard(), std::optional<size_t>(1));
  auto* heard = window.findChild<QPushButton*>("Heard instead");
  EXPECT_EQ(heard->text(), "2 Night Pump");
  EXPECT_TRUE(heard->isChecked());
  EXPECT_FALSE(window.findChild<QPushButton*>("Now")->isChecked());
  QTest::keyClick(page(), Qt::Key_R);
  EXPECT_FALSE(ear().heard());
  QTest::keyClick(page(), Qt::Key_R);
  EXPECT_EQ(ear().heard(), std::optional<size_t>(1)) << "back to the one that was heard last";
  // B is the loop's.
  QTest::keyClick(page(), Qt::Key_B);
  EXPECT_FALSE(ear().heard());
  EXPECT_TRUE(window.transport().isBefore());
  // A reference that is removed while it plays.
  QTest::keyClick(page(), Qt::Key_3);
  window.document().edit(Edit{"clear", [](Session& s) { s.references.clear(); }});
  EXPECT_FALSE(ear().heard());
  window.transport().stop();
}

TEST_F(CompareWindowTest, HiddenNamesAreCountedAndSessionStaysTheSame) {
  page()->setFocus();
  const Session before = now();
  QTest::keyClick(page(), Qt::Key_N);
  EXPECT_TRUE(ear().isHidden());
  QTest::keyClick(page(), Qt::Key_1);
  EXPECT_EQ(ear().numberHeard(), 1);
  QTest::keyClick(page(), Qt::Key_Return);
  int votes = 0;
  for (int i = 0; i <= 3; ++i) votes += ear().tallyOf(i);
  EXPECT_EQ(votes, 1);
  QTest::keyClick(page(), Qt::Key_Escape);
  EXPECT_FALSE(ear().isHidden() || ear().heard());
  EXPECT_EQ(now(), before);
}

TEST_F(CompareWindowTest, ASectionIsDraggedToABarDuplicatedAndRemoved) {
  page()->show(ComparePage::View::Sections);
  auto* picture = window.findChild<SectionsPicture*>();
  const double bar = 240.0 / *now().references[0].tempoBpm;
  const QPointF end = picture->gripOf(SectionsPicture::Grip::To),
                start = picture->gripOf(SectionsPicture::Grip::From);
  const double perBar = (end.x() - start.x()) / 8.0;
  QTest::mousePress(picture, Qt::LeftButton, {}, end.toPoint());
  QMouseEvent move(QEvent::MouseMove, end - QPointF(4.3 * perBar, 0), end - QPointF(4.3 * perBar, 0),
                   Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(picture, &move);
  QTest::mouseRelease(picture, Qt::LeftButton);
  const Section moved = *now().references[0].section();
  EXPECT_NEAR(moved.seconds(), 4.0 * bar, 1e-6) << "to the bar";
  EXPECT_EQ(window.document().undoName(), "move section");
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Right);
  EXPECT_NEAR(now().references[0].section()->fromSeconds, moved.fromSeconds + bar, 1e-6);
  QTest::keyClick(picture, Qt::Key_D, Qt::ControlModifier);
  ASSERT_EQ(now().references[0].sections.size(), 2u);
  settle();
  EXPECT_EQ(window.document().study()->references.size(), 4u) << "each section is measured";
  QTest::keyClick(picture, Qt::Key_Delete);
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_EQ(now().references[0].sections.size(), 1u) << "one is kept";
}

// A hostile name, a choice by keys, undo, and the section that goes.
TEST_F(CompareWindowTest, OneSectionOfTheSongIsComparedByChoice) {
  auto* choice = window.findChild<QPushButton*>("Compared section");
  EXPECT_FALSE(choice->isVisible()) << "nothing to choose among";
  window.document().edit(addSection("Drop <b>&", 4.0, 8.0));
  settle();
  ASSERT_TRUE(choice->isVisible());
  EXPECT_EQ(choice->text(), "Compare whole loop...");
  const double whole = *window.document().study()->sum.integratedLufs;
  choice->setFocus();
  QTest::keyClick(choice, Qt::Key_Return);
  auto* menu = choice->findChild<QMenu*>();
  ASSERT_TRUE(menu);
  ASSERT_EQ(menu->actions().size(), 2);
  EXPECT_TRUE(menu->actions()[0]->isChecked());
  QTest::keyClick(menu, Qt::Key_Down), QTest::keyClick(menu, Qt::Key_Down);
  QTest::keyClick(menu, Qt::Key_Return);
  settle();
  ASSERT_TRUE(now().comparedSection());
  EXPECT_EQ(choice->text(), "Compare Drop <b>&&...");
  EXPECT_NE(*window.document().study()->sum.integratedLufs, whole);
  EXPECT_NEAR(*window.document().study()->wholeLufs, whole, 0.05) << "the header still shows all of it";
  const int id = now().comparedSection()->id;
  window.document().edit(removeSection(id));
  settle();
  EXPECT_FALSE(choice->isVisible());
  EXPECT_NEAR(*window.document().study()->sum.integratedLufs, whole, 1e-9);
  window.document().undo(), window.document().undo();
  EXPECT_EQ(now().comparedSection(), nullptr);
}

TEST_F(CompareWindowTest, WhatIsOutOfTheMedianDoesNotMoveIt) {
  settle();
  const auto with = window.document().study()->differences;
  auto* table = window.findChild<ReferenceTable*>();
  table->choose(1);
  page()->setFocus();
  QTest::keyClick(page(), Qt::Key_M);
  EXPECT_TRUE(now().references[1].leftOut);
  settle();
  EXPECT_EQ(window.document().study()->presentReferences().size(), 2u);
  bool differs = false;
  for (size_t b = 0; b < with.size(); ++b)
    differs = differs || std::abs(*with[b].levelReLufsDb -
                                  *window.document().study()->differences[b].levelReLufsDb) > 1e-6;
  EXPECT_TRUE(differs);
  for (int view = 0; view < 9; ++view) {
    page()->show(static_cast<ComparePage::View>(view));
    EXPECT_FALSE(window.grab().isNull());
  }
}

// The shelf: a track once measured comes with its sections, wherever its file is.
// A figure is pressed, judged, typed, cleared and undone; the Ledger's move brings it in.
TEST_F(CompareWindowTest, AFigureIsTakenAsTargetAndMended) {
  page()->show(ComparePage::View::Facts);
  auto* facts = window.findChild<FactsPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return facts->median().has_value(); }, 30000));
  facts->setFocus();
  EXPECT_EQ(facts->row().name, "Kick length");
  const double median = *facts->median();
  QTest::keyClick(facts, Qt::Key_Return);
  ASSERT_TRUE(now().targets.kickMs);
  EXPECT_NEAR(*now().targets.kickMs, median, 0.5) << "as it is shown";
  settle();
  ASSERT_TRUE(finding("target-kick-length"));
  typeInto("Target", "70 ms");
  EXPECT_EQ(now().targets.kickMs, 70.0);
  QTest::keyClick(facts, Qt::Key_Delete);
  EXPECT_FALSE(now().targets.kickMs);
  document().undo();
  EXPECT_EQ(now().targets.kickMs, 70.0);
  document().undo(), document().undo();
  EXPECT_FALSE(now().targets.kickMs);
  // By the mouse, on a reference's own figure.
  for (const AccessibleItem& item : facts->accessibleItems())
    if (item.name.startsWith("Mono below"))
      QTest::mouseClick(facts, Qt::LeftButton, Qt::NoModifier, {facts->width() / 2, item.box.center().y()});
  settle();
  EXPECT_TRUE(now().targets.monoBelowHz) << "the middle of the table is a reference's column";
  // References alone are measured as well, in every picture.
  document().edit(Edit{"nothing plays", [](Session& s) {
                         for (Part& part : s.parts) part.layers.clear();
                         s.backing = {};
                       }});
  settle();
  for (int view = 0; view < 9; ++view) {
    page()->show(static_cast<ComparePage::View>(view));
    QTest::qWait(100);
    EXPECT_FALSE(page()->grab().isNull());
  }
  EXPECT_FALSE(facts->accessibleItems().empty());
  QTest::keyClick(facts, Qt::Key_Down);
  settle();
}

// A band's bracket is dragged, other edges are typed, and both can be taken back.
TEST_F(CompareWindowTest, ABandsToleranceIsDraggedAndItsEdgesTyped) {
  auto* floor = window.findChild<FloorPicture*>();
  floor->setFocus();
  QTest::keyClick(floor, Qt::Key_Right);
  QTest::keyClick(floor, Qt::Key_Right);
  EXPECT_EQ(floor->band().band(), kBands[1]);
  QTest::keyClick(floor, Qt::Key_Up);
  EXPECT_EQ(floor->band().toleranceDb, 2.0) << "half a dB more than the usual one";
  settle();
  typeInto("Band tolerance", "0.4");
  EXPECT_EQ(floor->band().toleranceDb, 0.4);
  settle();
  QTest::keyClick(floor, Qt::Key_Delete);
  EXPECT_FALSE(floor->band().toleranceDb);
  typeInto("Compared band", "45-70");
  EXPECT_EQ(comparedBands(now().targets).size(), kBands.size() + 1);
  EXPECT_EQ(floor->band().band(), (Band{45.0, 70.0}));
  settle();
  document().undo();
  EXPECT_EQ(comparedBands(now().targets).size(), kBands.size());
  // The upper bracket of the band is somewhere above its middle.
  settle();
  int y = 0;
  const int x = floor->width() / 3;
  for (int at = 20; at < floor->height() - 100 && y == 0; ++at) {
    QTest::mouseMove(floor, {x, at});
    if (floor->cursor().shape() == Qt::SizeVerCursor) y = at;
  }
  ASSERT_GT(y, 0);
  QTest::mousePress(floor, Qt::LeftButton, Qt::NoModifier, {x, y + 2});
  QTest::mouseMove(floor, {x, y - 18});
  QTest::mouseRelease(floor, Qt::LeftButton, Qt::NoModifier, {x, y - 18});
  EXPECT_GT(floor->band().toleranceDb.value_or(0.0), 1.6) << "dragged up: wider";
  document().undo();
  EXPECT_TRUE(now().targets.bands.empty()) << "one step back for one drag";
}

// The worst peaks stand in a table, and a press on their move is one edit.
TEST_F(CompareWindowTest, APeaksMoveIsPressed) {
  page()->show(ComparePage::View::Ceiling);
  auto* ceiling = window.findChild<CeilingPicture*>();
  typeInto("Ceiling loudness", "-8");
  ASSERT_TRUE(QTest::qWaitFor([&] { return !ceiling->peaks().empty(); }, 60000));
  const auto& worst = ceiling->peaks().front();
  ASSERT_TRUE(worst.move);
  typeInto("Ceiling codec", "opus 96");
  EXPECT_EQ(ceiling->codec(), (LossyAsk{LossyCodec::Opus, 96.0}));
  ASSERT_TRUE(QTest::qWaitFor([&] { return ceiling->codedText().startsWith("Opus 96: lows"); }, 60000))
      << ceiling->codedText().toStdString();
  const Session wanted = worst.move->applied(now());
  ceiling->setFocus();
  QTest::keyClick(ceiling, Qt::Key_Return);
  EXPECT_EQ(now(), wanted);
  document().undo();
  EXPECT_NE(now(), wanted);
}

// A track that was measured in one session is tagged, found by its tag, and added to another, though its file
// was renamed meanwhile.
TEST_F(CompareWindowTest, TheShelfHoldsTracksAcrossSessions) {
  document().references().setShelf(QString::fromStdString(folder / "shelf.db"));
  AudioBuffer track = reference::bufferOf(reference::noise(0.2, 48000 * 8, 3), 48000, 2);
  const std::string path = folder / "Old mix.wav", later = folder / "Renamed mix.wav";
  ASSERT_TRUE(saveSound(track, path, SampleFormat::Wav24));
  const size_t had = now().references.size();
  document().sounds().loadAll(kReferences, {QString::fromStdString(path)});
  ASSERT_TRUE(QTest::qWaitFor([&] { return now().references.size() == had + 1; }, 30000));
  settle();
  document().edit(Edit{"clear", [](Session& s) { s.references.clear(); }});
  press("Open the shelf");
  auto* sheet = window.findChild<ShelfSheet*>();
  ASSERT_TRUE(sheet);
  auto* table = sheet->findChild<QTreeWidget*>("Shelf");
  ASSERT_TRUE(QTest::qWaitFor([&] { return table->topLevelItemCount() == 1; }, 10000));
  EXPECT_EQ(table->topLevelItem(0)->text(0), "Old mix.wav");
  table->topLevelItem(0)->setText(6, "warm club");
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        auto shelf = Shelf::open(folder / "shelf.db");
        const auto rows = shelf->rows();
        return rows && rows->size() == 1 && rows->front().tags == "warm club";
      },
      10000));
  auto* search = sheet->findChild<QLineEdit*>("Search the shelf");
  search->setFocus();
  QTest::keyClicks(search, "club nm1");
  EXPECT_EQ(search->text(), "club nm1") << "letters that Compare listens for";
  EXPECT_FALSE(ear().isHidden());
  EXPECT_TRUE(table->topLevelItem(0)->isHidden());
  sheet->findChild<QLineEdit*>("Search the shelf")->setText("old CLUB");
  EXPECT_FALSE(table->topLevelItem(0)->isHidden());
  std::filesystem::rename(path, later);
  table->setCurrentItem(table->topLevelItem(0));
  click(sheet->findChild<QPushButton*>("Add to session"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return now().references.size() == 1; }, 30000)) << "found by its content";
  click(sheet->findChild<QPushButton*>("Remove from shelf"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return table->topLevelItemCount() == 0; }, 10000));
  sheet->close();
  settle();
}

// The notes of twelve keys beside each other; the chosen one is one undoable edit.
TEST_F(CompareWindowTest, KeysAreComparedAndOneIsUsed) {
  window.showStage(Stage::Tune);
  press("Open keys");
  auto* sheet = window.findChild<KeySheet*>();
  ASSERT_TRUE(sheet);
  auto* table = sheet->findChild<QTreeWidget*>("Keys");
  ASSERT_TRUE(QTest::qWaitFor([&] { return table->topLevelItemCount() == 12; }, 30000));
  EXPECT_EQ(table->topLevelItem(0)->text(0), "A minor");
  EXPECT_TRUE(table->topLevelItem(0)->text(1).startsWith("A1")) << "the heavy octave";
  EXPECT_TRUE(table->topLevelItem(0)->text(4).startsWith("E1"));
  table->setCurrentItem(table->topLevelItem(3));
  click(sheet->findChild<QPushButton*>("Use key"));
  EXPECT_EQ(now().track.key.name(), "C minor");
  document().undo();
  EXPECT_EQ(now().track.key.name(), "A minor");
  settle();
}

TEST(Shelf, ATrackIsKnownAgainByItsContent) {
  const reference::TemporaryFolder folder;
  const std::string path = folder / "library.db";
  AudioBuffer sound = reference::bufferOf(reference::noise(0.1, 48000 * 20, 4), 48000, 2);
  AssetRef asset{std::string(32, 'a'), "one.wav", "/gone/one.wav"};
  const auto first = arrivedTrack(asset, sound, path);
  ASSERT_TRUE(first);
  ASSERT_EQ(first->reference.sections.size(), 1u);
  Reference changed = first->reference;
  changed.sections.front() = {"verse", 1.0, 9.0};
  auto shelf = Shelf::open(path);
  ASSERT_TRUE(shelf);
  ASSERT_TRUE(shelf->setReference(changed) && shelf->setTags(asset.hash, "dark, fast"));
  asset.from = "/elsewhere/one.wav";
  const auto again = arrivedTrack(asset, AudioBuffer(48000, 2, 0), path);
  ASSERT_TRUE(again) << "its sound is not measured a second time";
  EXPECT_EQ(again->reference.sections.front().name, "verse");
  EXPECT_EQ(again->profile.peak, first->profile.peak);
  const auto rows = shelf->rows();
  ASSERT_TRUE(rows && rows->size() == 1);
  EXPECT_EQ(rows->front().tags, "dark, fast");
  EXPECT_EQ(rows->front().reference.asset.from, "/elsewhere/one.wav");
  ASSERT_TRUE(shelf->remove(asset.hash));
  EXPECT_TRUE(shelf->rows()->empty());
}

// Of a file that lasts longer than a reference may, the first ten minutes are used by choice.
TEST_F(CompareWindowTest, OfAVeryLongFileTheFirstTenMinutesAreUsedByChoice) {
  auto beats = reference::noise(0.1, 8000 * 660, 3);
  for (size_t i = 0; i < beats.size(); ++i) beats[i] *= std::exp(-static_cast<double>(i % 4000) / 800.0);
  ASSERT_TRUE(saveSound(reference::bufferOf(beats, 8000), folder / "long.wav", SampleFormat::Wav16));
  const auto answer = [&](const QString& words) {
    QPushButton* button = nullptr;
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
          for (auto* each : window.findChildren<QPushButton*>())
            if (each->isVisible() && each->text() == words) button = each;
          return button != nullptr;
        },
        60000));
    click(button);
    settle();
  };
  const size_t before = now().references.size();
  document().sounds().load(kReferences, QString::fromStdString(folder / "long.wav"));
  answer("Leave it out");
  EXPECT_EQ(now().references.size(), before);
  EXPECT_TRUE(document().undoName().isEmpty());
  document().sounds().load(kReferences, QString::fromStdString(folder / "long.wav"));
  answer("Use the first 10 min");
  ASSERT_EQ(now().references.size(), before + 1);
  EXPECT_NEAR(document().assets().sound(now().references.back().asset)->seconds(), 600.0, 0.01);
  document().undo();
  EXPECT_EQ(now().references.size(), before);
}

TEST(HeardMatch, ASectionIsCutAtItsBordersAndKnowsItsBeat) {
  const auto track = reference::bufferOf(reference::noise(0.3, 48000 * 6, 8), 48000, 2);
  const auto section = preparedReference(track, 1.0, 5.0, 120.0, 48000);
  ASSERT_TRUE(section);
  EXPECT_EQ(section->sound->frames(), 4u * 48000u);
  EXPECT_EQ(section->framesPerQuarter, 24000.0);
}

}  // namespace
}  // namespace heft::app
