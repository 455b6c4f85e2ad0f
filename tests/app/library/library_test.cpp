// The library drawer in the real window: a folder is scanned, searched, heard in the loop, ranked and placed.

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QSignalSpy>
#include <QTableWidget>
#include <QWindow>
#include <filesystem>

#include "app/kit/kit_picture.h"
#include "app/kit/kit_sheet.h"
#include "app/kit/kit_spectrum.h"
#include "app/library/library_list.h"
#include "app/library/library_panel.h"
#include "app/stages/sounds/layer_slip.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class LibraryWindowTest : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    openDemo();
    std::filesystem::create_directories(folder / "sounds");
    const double hz[] = {55.0, 49.0, 43.0, 61.0, 83.0, 54.0};
    for (int i = 0; i < 6; ++i) {
      reference::KickRecipe recipe;
      recipe.landingHz = hz[i], recipe.tailMs = 100 + 60 * i;
      reference::writeSound(folder, "sounds/pan " + std::to_string(i) + ".wav",
                            reference::bufferOf(reference::makeKick(recipe), 48000));
    }
    reference::writeBytes(folder / "sounds/torn.wav", "RIFF");
    window.library().addFolder(QString::fromStdString(folder / "sounds"));
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return window.library().rows().size() == 7 && !window.library().isScanning(); }, 20000));
    window.showLibrary(true);
    settle();
    window.transport().chooseDevice("simulated");
  }
  LibraryList* list() { return window.libraryPanel()->list(); }
  std::string nameAt(size_t i) { return window.library().rows()[list()->order()[i]].name(); }
};

TEST_F(LibraryWindowTest, FindsByWordsByPitchAndByOrder) {
  EXPECT_FALSE(find("Ledger")->isVisible()) << "in a narrow window the Ledger gives way";
  EXPECT_TRUE(find<QLabel>("Library state")->text().contains("1 cannot be read"));
  ASSERT_EQ(list()->order().size(), 6u);
  EXPECT_EQ(nameAt(0), "pan 0.wav") << "55 Hz is the tonic";
  auto* words = find<QLineEdit>("Library search");
  QTest::keyClicks(words, "pan 5");
  ASSERT_EQ(list()->order().size(), 1u);
  words->clear();
  choose("Lands near", 2);
  for (size_t i : list()->order())
    EXPECT_LE(std::abs(*semitonesToKey(window.library().rows()[i], session().track.key)), 2.0);
  choose("Lands near", 0);
  // A press on a column's head sorts by it.
  QTest::mouseClick(list()->viewport(), Qt::LeftButton, {}, QPoint(30, 8));
  EXPECT_EQ(nameAt(5), "pan 5.wav");
  QTest::mouseClick(list()->viewport(), Qt::LeftButton, {}, QPoint(list()->viewport()->width() - 20, 8));
  EXPECT_EQ(nameAt(0), "pan 0.wav");
  choose("Shown files", 3);
  ASSERT_EQ(list()->order().size(), 1u);
  EXPECT_EQ(nameAt(0), "torn.wav");
  choose("Shown files", 0);
  // Another window marks one too; this one notices when it is activated.
  list()->choose(2);
  QTest::keyClick(list(), Qt::Key_F);
  EXPECT_TRUE(list()->chosenRow()->favourite);
  choose("Shown files", 1);
  ASSERT_EQ(list()->order().size(), 1u) << "the favourite";
  auto other = LibraryIndex::open(folder / "library.db");
  ASSERT_TRUE(other && other->setFavourite(folder / "sounds/pan 1.wav", true));
  QEvent turnedTo(QEvent::WindowActivate);
  QApplication::sendEvent(window.libraryPanel(), &turnedTo);
  EXPECT_TRUE(QTest::qWaitFor([&] { return list()->order().size() == 2; }, 5000));
  window.showLibrary(false);
  EXPECT_TRUE(find("Ledger")->isVisible());
}

TEST_F(LibraryWindowTest, HearsAndPlacesAKick) {
  // Selected, it plays in the loop as the session's kick is set: on its target and trimmed alike.
  document().edit(Edit{"fit", [](Session& s) {
                         s.kick().layers[0].recorded()->targetMidi = 33,
                         s.kick().layers[0].recorded()->length = TimeValue::note(1, 16);
                       }});
  settle();
  const Session before = session();
  const auto undo = document().undoName();
  QTest::mouseClick(list()->viewport(), Qt::LeftButton, {}, list()->rowAt(2).toPoint());
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().isBefore(); }, 5000));
  settle();
  EXPECT_TRUE(window.transport().isPlaying());
  EXPECT_EQ(session(), before) << "nothing is edited by hearing";
  EXPECT_TRUE(
      find<QLabel>("Library details")->text().startsWith(QString::fromStdString("sounds/" + nameAt(2))));
  EXPECT_TRUE(find<QLabel>("Library details")->text().contains("falls from"));
  const Session heard = document().before().applied(session());
  EXPECT_EQ(heard.kick().layers[0].recorded()->asset.name, nameAt(2));
  EXPECT_EQ(heard.kick().layers[0].recorded()->targetMidi, 33);
  EXPECT_EQ(heard.kick().layers[0].recorded()->length, TimeValue::note(1, 16));
  QTest::keyClick(list(), Qt::Key_Down);
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        return document().before().applied(session()).kick().layers[0].recorded()->asset.name == nameAt(3);
      },
      5000));
  const std::string chosen = list()->chosenRow()->name();
  QTest::keyClick(list(), Qt::Key_Return);
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return session().kick().layers[0].recorded()->asset.name == chosen; }, 10000));
  settle();
  EXPECT_EQ(session().kick().layers[0].recorded()->targetMidi, 33);
  EXPECT_NEAR(*document().study()->pair.kick.sound->landing.hz, 55.0, 0.3) << "placed it is on the note";
  EXPECT_FALSE(window.transport().isBefore());
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("tuned to A1")) << "it says what became of it";
  document().undo();
  EXPECT_EQ(document().undoName(), undo) << "one step";
  document().edit(Edit{"no hits", [](Session& s) { s.kick().hits.clear(); }});
  QSignalSpy auditioned(&window.library(), &Library::auditioned);
  QTest::mouseClick(list()->viewport(), Qt::LeftButton, {}, list()->rowAt(0).toPoint());
  ASSERT_TRUE(QTest::qWaitFor([&] { return !auditioned.empty(); }, 5000));
  EXPECT_FALSE(window.transport().isBefore()) << "without hits it is heard by itself";
  window.transport().stop();
  settle();
}

class OnAScreen : public LibraryWindowTest {};

// A real drag, as the mouse makes it: the list and the slip know nothing of each other.
TEST_F(OnAScreen, AFileIsDraggedOntoASlip) {
  auto* slip = find<Slip>("Bass card");
  ASSERT_TRUE(slip && slip->isVisible());
  const QPoint from = list()->rowAt(3).toPoint();
  QTest::mouseClick(list()->viewport(), Qt::LeftButton, {}, from);
  const std::string name = list()->chosenRow()->name();
  auto* handle = window.windowHandle();
  auto inWindow = [&](QWidget* widget, const QPoint& at) { return widget->mapTo(&window, at); };
  const QPoint to = inWindow(slip, slip->rect().center());
  QTimer::singleShot(100, receiver.get(), [&] { QTest::mouseMove(handle, to - QPoint(5, 5)); });
  QTimer::singleShot(200, receiver.get(), [&] { QTest::mouseMove(handle, to); });
  QTimer::singleShot(300, receiver.get(), [&] { QTest::mouseRelease(handle, Qt::LeftButton, {}, to); });
  QTest::mousePress(handle, Qt::LeftButton, {}, inWindow(list()->viewport(), from));
  QTest::mouseMove(handle, inWindow(list()->viewport(), from + QPoint(40, 10)));
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        const Layer* bass = session().bassLayer();
        return bass && bass->asset().name == name;
      },
      5000));
}

// A sheet with the six drums and a file that cannot be read.
class KitTest : public LibraryWindowTest {
 protected:
  void SetUp() override {
    LibraryWindowTest::SetUp();
    for (QAction* menu : window.menuBar()->actions())
      for (QAction* a : menu->menu()->actions())
        if (a->text() == "Tune a kit...") a->trigger();
    sheet = window.findChild<KitSheet*>();
    ASSERT_TRUE(sheet && sheet->isVisible());
    EXPECT_FALSE(sheet->findChild<QPushButton*>("Kit write")->isEnabled()) << "nothing to write yet";
    QStringList files;
    for (int i = 0; i < 6; ++i)
      files << QString::fromStdString(folder / ("sounds/pan " + std::to_string(i) + ".wav"));
    sheet->addFiles(files << QString::fromStdString(folder / "sounds/torn.wav"));
    heard();
    table = sheet->findChild<QTableWidget*>("Kit table");
    ASSERT_EQ(table->rowCount(), 7);
  }
  int rowOf(const QString& name) const {
    for (int i = 0; i < table->rowCount(); ++i)
      if (table->item(i, 0)->text() == name) return i;
    return -1;
  }
  void heard() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return !sheet->isBusy(); }, 20000));
  }
  KitSheet* sheet = nullptr;
  QTableWidget* table = nullptr;
};

TEST_F(KitTest, RowsTakeWhatIsTypedAndAreHeard) {
  EXPECT_EQ(table->item(rowOf("pan 1.wav"), 3)->text(), "A1") << "49 Hz is two semitones under the tonic";
  EXPECT_FALSE(table->item(rowOf("torn.wav"), 7)->text().isEmpty());
  table->item(rowOf("pan 4.wav"), 3)->setText("nonsense");
  EXPECT_EQ(table->item(rowOf("pan 4.wav"), 3)->text(), "E2") << "the fifth";
  table->item(rowOf("pan 4.wav"), 3)->setText("D2");
  auto* method = qobject_cast<QComboBox*>(table->cellWidget(rowOf("pan 4.wav"), 5));
  ASSERT_TRUE(method);
  method->setCurrentIndex(3);
  EXPECT_TRUE(table->item(rowOf("pan 4.wav"), 7)->text().contains("strike untouched"));
  // Its length: a note value; empty restores it; invalid input leaves it.
  table->item(2, 6)->setText("1/64");
  EXPECT_EQ(sheet->drums()[2].length, TimeValue::note(1, 64));
  table->item(2, 6)->setText("soon");
  EXPECT_EQ(sheet->drums()[2].length, TimeValue::note(1, 64));
  EXPECT_TRUE(table->item(2, 6)->text().startsWith("1/64, "));
  table->item(1, 6)->setText("40 ms");
  table->item(1, 6)->setText("");
  EXPECT_FALSE(sheet->drums()[1].length);
  // Heard together: each becomes a part, tuned and as long as here, as one step.
  const size_t parts = session().parts.size();
  sheet->findChild<QPushButton*>("Kit loop")->click();
  settle();
  ASSERT_EQ(session().parts.size(), parts + 6);
  const Recorded& third = *session().parts[parts + 2].layers[0].recorded();
  EXPECT_EQ(third.length, TimeValue::note(1, 64));
  EXPECT_EQ(third.targetMidi, sheet->drums()[2].targetMidi);
  EXPECT_FALSE(session().parts[parts].hits.empty());
  document().undo();
  EXPECT_EQ(session().parts.size(), parts);
  EXPECT_EQ(rowOf("pan 3.wav"), 3) << "rows stand as the files were named";
  table->item(rowOf("pan 0.wav"), 2)->setText("100 to 400");
  heard();
  EXPECT_EQ(table->item(rowOf("pan 0.wav"), 1)->text(), "no note") << "looked for elsewhere";
  table->item(rowOf("pan 0.wav"), 2)->setText("20 to 400");
  heard();
  // Selected, it plays on its target and as recorded.
  QSignalSpy heardDrums(sheet, &KitSheet::heard);
  table->setCurrentCell(2, 0);
  QTest::keyClick(table, Qt::Key_Space);
  ASSERT_TRUE(QTest::qWaitFor([&] { return heardDrums.size() == 1; }, 10000));
  sheet->findChild<QPushButton*>("Kit before")->click();
  ASSERT_TRUE(QTest::qWaitFor([&] { return heardDrums.size() == 2; }, 10000));
  EXPECT_EQ(heardDrums[1][1].toBool(), false);
  table->setCurrentCell(6, 0);
  EXPECT_FALSE(sheet->findChild<QPushButton*>("Kit before")->isEnabled()) << "it could not be read";
}

TEST_F(KitTest, TargetsAndLengthsAreDraggedInThePicture) {
  auto* picture = sheet->findChild<KitPicture*>();
  const int row = rowOf("pan 1.wav");
  const auto dragTo = [&](QPointF from, QPointF to, Qt::KeyboardModifiers held = {}) {
    drag(picture, from, to, held);
  };
  dragTo(*picture->targetAt(row), {picture->targetAt(row)->x(), picture->yOfMidi(40.2)});
  EXPECT_EQ(sheet->drums()[1].targetMidi, 40.0) << "caught by a note of the key";
  EXPECT_EQ(table->item(row, 3)->text(), "E2");
  EXPECT_EQ(table->currentRow(), row) << "picture and table have one choice";
  dragTo(*picture->targetAt(row), {picture->targetAt(row)->x(), picture->yOfMidi(39.6)}, Qt::AltModifier);
  EXPECT_NEAR(*sheet->drums()[1].targetMidi, 39.6, 0.2);
  EXPECT_NE(*sheet->drums()[1].targetMidi, std::round(*sheet->drums()[1].targetMidi)) << "free";
  const double tail = sheet->drums()[1].facts.tailMs;
  dragTo(*picture->lengthAt(row), {picture->xOfMs(row, 0.5 * tail), picture->lengthAt(row)->y()},
         Qt::AltModifier);
  ASSERT_TRUE(sheet->drums()[1].length);
  EXPECT_NEAR(sheet->drums()[1].length->fixedMs, 0.5 * tail, 0.05 * tail);
  dragTo(*picture->lengthAt(row), {picture->xOfMs(row, 1.2 * tail), picture->lengthAt(row)->y()});
  EXPECT_FALSE(sheet->drums()[1].length) << "as recorded";
  // By keys: the next drum, its next note of the key, its spectrum, excluded.
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Right);
  EXPECT_EQ(table->currentRow(), row + 1);
  const double was = *sheet->drums()[2].targetMidi;
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_GT(*sheet->drums()[2].targetMidi, was);
  EXPECT_TRUE(session().track.key.contains(static_cast<int>(*sheet->drums()[2].targetMidi)));
  auto* spectrum = sheet->findChild<KitSpectrum*>();
  EXPECT_FALSE(spectrum->isVisible());
  QTest::keyClick(picture, Qt::Key_F);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !spectrum->spectra().tunedDb.empty(); }, 20000));
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_FALSE(sheet->drums()[2].targetMidi);
  ASSERT_TRUE(QTest::qWaitFor([&] { return spectrum->spectra().tunedDb.empty(); }, 20000));
  // In a target's cell letters are notes.
  table->setFocus();
  table->setCurrentCell(row, 3);
  QTest::keyClick(table, Qt::Key_F);
  EXPECT_TRUE(spectrum->isVisible());
  sheet->close();
}

TEST_F(KitTest, RowsGoWithTheKeyAndAreWritten) {
  table->item(rowOf("pan 4.wav"), 3)->setText("D2");
  // It follows the session's key, except for typed targets; one method applies to all selected rows.
  table->item(1, 3)->setText("G1");
  document().edit(Edit{"key", [](Session& s) { s.track.key = *parseKey("C minor"); }});
  EXPECT_TRUE(sheet->findChild<QLabel*>("Kit words")->text().contains("C minor"));
  EXPECT_EQ(table->item(1, 3)->text(), "G1");
  for (int row : {0, 2, 3, 4, 5}) {
    const auto& target = sheet->drums()[static_cast<size_t>(row)].targetMidi;
    EXPECT_TRUE(target && parseKey("C minor")->contains(static_cast<int>(*target))) << row;
  }
  document().undo();
  table->setRangeSelected({2, 0, 3, 7}, true);
  qobject_cast<QComboBox*>(table->cellWidget(2, 5))->setCurrentIndex(2);
  EXPECT_EQ(sheet->drums()[3].how.method, TuneMethod::Bend);
  table->clearSelection();
  table->setCurrentCell(5, 0);
  QTest::keyClick(table, Qt::Key_Delete);
  EXPECT_FALSE(sheet->drums()[5].targetMidi);
  EXPECT_TRUE(table->item(5, 7)->text().startsWith("excluded"));
  table->item(5, 3)->setText("A1");
  std::filesystem::create_directories(folder / "kit");
  sheet->writeTo(QString::fromStdString(folder / "kit"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !sheet->isBusy(); }, 30000));
  EXPECT_TRUE(sheet->findChild<QLabel*>("Kit state")->text().contains("6 drums written"));
  EXPECT_FALSE(sheet->findChild<QLabel*>("Kit state")->text().contains("listen to"))
      << "all were found on target";
  const auto landed = measureSound(*loadSound(folder / "kit/pan 4 D2.wav")->sound);
  EXPECT_NEAR(1200 * std::log2(*landed.landing.hz / hzFromMidi(38, 440)), 0.0, 2.0);
  sheet->close();
}

TEST_F(LibraryWindowTest, RanksByWhatThePairLoses) {
  choose("Library kind", 7);
  EXPECT_EQ(list()->order().size(), 6u);
  choose("Library order", 1);
  auto fitAt = [&](size_t i) { return window.library().fitOf(window.library().rows()[i].file.path); };
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        return std::all_of(list()->order().begin(), list()->order().end(), [&](size_t i) { return fitAt(i); });
      },
      60000));
  settle();
  double last = 100.0;
  for (size_t i : list()->order()) {
    ASSERT_TRUE(fitAt(i)->leftDb());
    EXPECT_LE(*fitAt(i)->leftDb(), last + 1e-9) << "the least lost first";
    last = *fitAt(i)->leftDb();
  }
  // A loaded sound loses the list's offer: it is tuned and aligned.
  const SoundFit first = *fitAt(list()->order().front());
  list()->choose(0);
  QTest::keyClick(list(), Qt::Key_Return);
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return session().kick().layers[0].recorded()->asset.name == list()->chosenRow()->name(); }, 10000));
  settle();
  EXPECT_NEAR(document().study()->pair.alignedDb, *first.leftDb(), 0.05);
  EXPECT_EQ(session().bass().align.delayMs, first.align->delayMs);
  ASSERT_TRUE(session().kick().layers[0].recorded()->targetMidi)
      << "and one without a target gets one of the key";
  EXPECT_TRUE(
      session().track.key.contains(static_cast<int>(*session().kick().layers[0].recorded()->targetMidi)));
}

TEST_F(LibraryWindowTest, PlaysAloneAndTellsWhatHasGone) {
  choose("Library kind", 7);
  list()->choose(1);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.transport().isBefore(); }, 10000)) << "heard in the loop";
  window.transport().stop();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000));
  choose("Preview", 1);
  EXPECT_FALSE(window.transport().isPlaying());
  list()->choose(0);
  QTest::qWait(200);
  EXPECT_FALSE(window.transport().isPlaying()) << "alone the loop stays still";
  EXPECT_FALSE(window.transport().isBefore());
  // A missing file is reported in the list, and a cancelled scan does no harm.
  std::filesystem::remove(folder / "sounds/pan 1.wav");
  press("Scan library");
  window.library().cancelScan();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window.library().isScanning(); }, 20000));
  settle();
  press("Scan library");
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return !window.library().isScanning() && list()->order().size() == 5; }, 20000));
  settle();
  choose("Shown files", 2);
  EXPECT_EQ(list()->order().size(), 6u) << "with what has gone";
  EXPECT_TRUE(find<QLabel>("Library state")->text().contains("5 files"))
      << find<QLabel>("Library state")->text().toStdString();
  choose("Library kind", 0);
  choose("Library part", 1);
  EXPECT_EQ(find<ValueField>("Library kind")->shownText(), "basses");
  EXPECT_EQ(list()->order().size(), 0u) << "none of the drums is a bass";
  EXPECT_TRUE(find<QLabel>("Library state")->text().contains("0 of 5 files"));
  auto* words = find<QLineEdit>("Library search");
  words->setFocus();
  QTest::keyClicks(words, "x");
  QTest::keyClick(words, Qt::Key_Escape);
  EXPECT_TRUE(words->text().isEmpty());
  EXPECT_TRUE(window.libraryPanel()->isVisible());
  QTest::keyClick(words, Qt::Key_Escape);
  EXPECT_FALSE(window.libraryPanel()->isVisible()) << "Escape closes it";
}

}  // namespace
}  // namespace heft::app
