// The job on foreign material: HEFT_MATERIAL names a folder with shots/ and loops/ of one-shots and loops by
// name; skipped without it. Counts and prints presses.

#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <cstdio>
#include <cstdlib>

#include "app/desk/layer_choice.h"
#include "app/stages/compare/ceiling_picture.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/compare/facts_picture.h"
#include "app/stages/export/export_page.h"
#include "core/library/row.h"
#include "core/session/edits/files.h"
#include "core/tune/kit.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

namespace fs = std::filesystem;

class OnForeignMaterial : public WindowTest {
 protected:
  void SetUp() override {
    const char* from = std::getenv("HEFT_MATERIAL");
    if (!from) GTEST_SKIP() << "HEFT_MATERIAL names no folder";
    WindowTest::SetUp();
    for (const auto& file : fs::recursive_directory_iterator(from))
      if (file.path().extension() == ".wav") files_.push_back(file.path().string());
    std::sort(files_.begin(), files_.end());
    if (const char* odd = std::getenv("HEFT_ODD")) odd_ = std::string(odd) + "/";
  }
  // The first whose path holds all of these words.
  std::string file(const std::vector<std::string>& words) {
    for (const std::string& f : files_)
      if (std::all_of(words.begin(), words.end(),
                      [&](const auto& w) { return f.find(w) != std::string::npos; }))
        return f;
    ADD_FAILURE() << words.front();
    return {};
  }
  std::vector<std::string> threeFiles() {
    return {file({"shots", "analogue kick.wav"}), file({"shots", "bass finger"}),
            file({"loops", "drums acoustic"})};
  }
  void put(const QString& card, const std::string& path) {
    drop(find(card), path);
    ++presses_;
    QTest::qWait(400);
    settle();
  }
  // Unusual files: HEFT_ODD names a folder with slide.wav (a gliding kick), k96.wav (another rate), right.wav
  // (a bass on one side), long.wav (over five minutes); and as references hour.flac (62 minutes), ref96.wav,
  // left.wav and silent.wav.
  void putOddSounds() {
    put("Kick card", odd_ + "slide.wav");
    put("Add kick layer", odd_ + "k96.wav");
    put("Bass card", odd_ + "right.wav");
  }
  void fixAllByKeys() {
    QTest::keyClick(&window, Qt::Key_M, Qt::ControlModifier);
    auto* apply = find<QPushButton>("Apply fixes");
    ++presses_;
    if (!find("Fix list")->isVisible()) return;
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return apply->isEnabled() || find<QLabel>("Fix outcome")->text().startsWith("After"); }, 60000));
    QTest::keyClick(find("Fix list"), apply->isEnabled() ? Qt::Key_Return : Qt::Key_Escape);
    ++presses_;
    settleRemedies();
  }
  void fixAllOnceThere() {
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return !session().backing.asset.empty() && session().kickLayer() && session().bassLayer(); },
        20000));
    QTest::qWait(400);
    settle();
    settleRemedies();
    fixAllByKeys();
  }
  void tell(const char* what) {
    int fix = 0, out = 0, yours = 0;
    for (const Finding& f : document().findings()) {
      if (f.verdict == Verdict::Holds) continue;
      (f.remedy ? fix : yours) += 1;
      out += f.verdict == Verdict::Off;
      std::printf(
          "  %s: %s%s\n", verdictWord(f.verdict), f.sentence.c_str(),
          f.remedy ? (" [" + f.remedy->label + (f.remedy->asks.empty() ? "" : ", asks") + "]").c_str() : "");
    }
    std::printf("%s: %d presses, %d out, %d with a fix, %d your call\n", what, presses_, out, fix, yours);
  }
  std::vector<std::string> files_;
  std::string odd_;
  int presses_ = 0;
};

TEST_F(OnForeignMaterial, ThreeRawFilesInSixPresses) {
  put("Kick card", file({"shots", "analogue kick.wav"}));
  put("Bass card", file({"shots", "bass finger"}));
  put("Backing card", file({"loops", "drums acoustic"}));
  settleRemedies();
  fixAllByKeys();
  tell("three files");
  EXPECT_LE(presses_, 6);
}

TEST_F(OnForeignMaterial, ALoopSessionInEightPresses) {
  put("Kick card", file({"shots", "electronic kick.wav"}));
  put("Bass card", file({"loops", "bass finger"}));
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("is a loop"); }, 10000));
  click(find("Notice yes"));
  ++presses_;
  settle();
  put("Backing card", file({"loops", "drums acoustic"}));
  settleRemedies();
  fixAllByKeys();
  tell("a loop session");
  EXPECT_EQ(session().bass().notes.size(), 1u);
  EXPECT_LE(presses_, 8);
}

// Number keys play targets and ways, letters add processors, all without the mouse.
TEST_F(OnForeignMaterial, ByKeysAlone) {
  put("Kick card", file({"shots", "room kick.wav"}));
  put("Bass card", file({"shots", "bass synth one"}));
  settleRemedies();
  presses_ = 0;
  auto key = [&](int k, Qt::KeyboardModifiers m = {}) {
    QWidget* focus = QApplication::focusWidget();
    QTest::keyClick(focus ? focus : &window, static_cast<Qt::Key>(k), m);
    ++presses_;
    settle();
  };
  key(Qt::Key_2, Qt::ControlModifier);
  key(Qt::Key_1);
  key(Qt::Key_Return);
  key(Qt::Key_3, Qt::ControlModifier);
  QTest::qWait(1500);
  key(Qt::Key_1);
  key(Qt::Key_Return);
  settleRemedies();
  fixAllByKeys();
  tell("by keys after two files");
}

// References that nobody here mixed: flipped to, every figure taken as a target, fixes applied, a peak's move
// pressed, all of it undone.
TEST_F(OnForeignMaterial, ComparesAndTakesEveryTarget) {
  put("Kick card", file({"shots", "analogue kick.wav"}));
  put("Bass card", file({"shots", "bass finger"}));
  put("Backing card", file({"loops", "drums acoustic"}));
  settleRemedies();
  fixAllByKeys();
  window.showStage(Stage::Compare);
  for (const char* number : {"references/1", "references/2", "references/3"})
    drop(window.findChild<ComparePage*>(), file({number, "mix.wav"}));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().references.size() == 3; }, 60000));
  settleRemedies();
  tell("with references");
  auto* page = window.findChild<ComparePage*>();
  page->show(ComparePage::View::Facts);
  auto* facts = window.findChild<FactsPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return facts->median().has_value(); }, 60000));
  for (const AccessibleItem& item : facts->accessibleItems()) std::printf("  %s\n", item.name.toUtf8().data());
  facts->setFocus();
  const Session before = session();
  int taken = 0;
  QString row;
  for (int n = 0; n < 40; ++n) QTest::keyClick(facts, Qt::Key_Up);
  do {
    row = facts->row().name;
    if (facts->row().setTarget && facts->median()) QTest::keyClick(facts, Qt::Key_Return), ++taken;
    QTest::keyClick(facts, Qt::Key_Down);
  } while (facts->row().name != row);
  settleRemedies();
  std::printf("%d targets\n", taken);
  tell("with every target");
  fixAllByKeys();
  tell("after fixes");
  page->show(ComparePage::View::Ceiling);
  auto* ceiling = window.findChild<CeilingPicture*>();
  QTest::qWait(3000);
  for (const MadePeak& peak : ceiling->peaks())
    std::printf("  peak +%.1f dB: %s %.1f dB; %s wins %.1f dB\n", peak.overDb, peak.most()->words.c_str(),
                peak.most()->dropDb, peak.move ? peak.move->label.c_str() : "nothing", peak.winsDb);
  ceiling->setFocus();
  QTest::keyClick(ceiling, Qt::Key_Return);
  settle();
  for (int n = 0; n < 200 && session() != before; ++n) document().undo();
  EXPECT_EQ(session(), before);
  settle();
}

// Two layers, one of them sliding, a one-sided bass; references an hour long, at 96 kHz, one-sided and silent:
// every picture of Compare, and a fix.
TEST_F(OnForeignMaterial, ComparesOddSoundsWithOddReferences) {
  if (odd_.empty()) GTEST_SKIP() << "HEFT_ODD names no folder";
  putOddSounds();
  put("Backing card", file({"loops", "drums acoustic"}));
  settleRemedies();
  window.showStage(Stage::Compare);
  auto* page = window.findChild<ComparePage*>();
  // Drawn by hand: an eighth note on each beat.
  document().edit(Edit{"notes", [](Session& s) {
                         for (int i = 0; i < 8; ++i) s.bass().notes.push_back({1.0 * i, 0.75, 38, 1.0});
                       }});
  settle();
  drop(page, odd_ + "hour.flac");
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("is 62 min long"); }, 60000));
  QTest::qWait(300);
  if (const char* pictures = std::getenv("HEFT_PICTURES"))
    window.grab().save(QString("%1/odd-asks.png").arg(pictures));
  click(find("Notice yes"));
  for (const char* name : {"ref96.wav", "left.wav", "silent.wav"}) drop(page, odd_ + name);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().references.size() == 4; }, 60000));
  settleRemedies();
  tell("odd sounds beside odd references");
  const char* pictures = std::getenv("HEFT_PICTURES");
  for (int view = 0; view < 9; ++view) {
    page->show(static_cast<ComparePage::View>(view));
    QTest::qWait(2500);
    const QPixmap shot = window.grab();
    EXPECT_FALSE(shot.isNull());
    if (pictures) shot.save(QString("%1/odd-%2.png").arg(pictures).arg(view));
  }
  fixAllByKeys();
  tell("after fixes");
}

// A whole sitting from an empty window, no mouse: files, fixes, listening, saving, export.
TEST_F(OnForeignMaterial, AWholeSittingByKeysFromAnEmptyWindow) {
  const auto front = [] {
    QWidget* popup = QApplication::activePopupWidget();
    QWidget* modal = QApplication::activeModalWidget();
    return popup ? popup : modal;
  };
  auto key = [&](int k, Qt::KeyboardModifiers m = {}) {
    QWidget* focus = QApplication::focusWidget();
    QWidget* to = front() && !(focus && front()->isAncestorOf(focus)) ? front() : focus ? focus : &window;
    QTest::keyClick(to, static_cast<Qt::Key>(k), m);
    ++presses_;
  };
  // Input to a file dialog: paths, typed, and Return.
  auto answer = [&](const QString& words) {
    QTimer::singleShot(400, this->receiver.get(), [&, words] {
      auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
      ASSERT_TRUE(dialog);
      auto* name = dialog->findChild<QLineEdit*>("fileNameEdit");
      ASSERT_TRUE(name);
      name->setText(words);
      QTest::keyClick(name, Qt::Key_Return);
      ++presses_;
    });
  };
  QStringList three;
  for (const auto& path : threeFiles()) three << "\"" + QString::fromStdString(path) + "\"";
  answer(three.join(' '));
  key(Qt::Key_I, Qt::ControlModifier);
  QApplication::setActiveWindow(&window);  // the offscreen platform does not always give it back after a dialog
  fixAllOnceThere();
  key(Qt::Key_Space);
  EXPECT_TRUE(window.transport().isPlaying());
  key(Qt::Key_Space);
  answer(QString::fromStdString(folder / "by keys"));
  key(Qt::Key_S, Qt::ControlModifier);
  ASSERT_TRUE(QTest::qWaitFor([&] { return std::filesystem::exists(folder / "by keys.heft"); }, 10000));
  QApplication::setActiveWindow(&window);
  key(Qt::Key_6, Qt::ControlModifier);
  settle();
  static_cast<ExportPage*>(window.page(Stage::Export))->setFolder(QString::fromStdString(folder / "out"));
  ASSERT_EQ(QApplication::focusWidget()->objectName(), "Write files");
  key(Qt::Key_Return);
  const auto written = [&] {
    return std::distance(fs::directory_iterator(folder / "out"), fs::directory_iterator()) >= 3;
  };
  EXPECT_TRUE(QTest::qWaitFor([&] { return fs::exists(folder / "out") && written(); }, 20000));
  settle();
  tell("a whole sitting by keys");
}

// All three dropped on the window at once.
TEST_F(OnForeignMaterial, ThreeFilesAtOnce) {
  QMimeData files;
  QList<QUrl> urls;
  for (const auto& path : threeFiles()) urls << QUrl::fromLocalFile(QString::fromStdString(path));
  files.setUrls(urls);
  QDragEnterEvent enter(QPoint(600, 400), Qt::CopyAction, &files, Qt::LeftButton, {});
  QApplication::sendEvent(&window, &enter);
  QDropEvent dropped(QPointF(600, 400), Qt::CopyAction, &files, Qt::LeftButton, {});
  QApplication::sendEvent(&window, &dropped);
  ++presses_;
  fixAllOnceThere();
  tell("three files dropped at once");
  EXPECT_LE(presses_, 6);
}

// Library, kit, and the figures that Tune, the cards and the Ledger go by, on every one-shot at the session's
// rate.
TEST_F(OnForeignMaterial, OneAnswerForOneSound) {
  int heard = 0;
  for (const std::string& path : files_) {
    if (path.find("/shots/") == std::string::npos) continue;
    const LibraryRow row = measureFile({path});
    const Drum drum = readDrum(path, session().track.key, {}, {}, 440.0);
    Session s = session();
    Assets assets;
    const auto sound = loadSound(path);
    ASSERT_TRUE(sound) << path;
    s = placePartSound(s.kick(), assets.add(*sound, path), {}, sound->sound->sampleRate).applied(s);
    StepCache cache;
    const auto stems = render(s, assets, cache);
    ASSERT_TRUE(stems) << path;
    const auto study = studyPair(s, assets, *stems, cache);
    ASSERT_TRUE(study && study->kick.source) << path;
    const auto note = study->kick.source->landing.noteHz();
    ASSERT_EQ(note.has_value(), row.noteHz.has_value()) << path;
    ASSERT_EQ(note.has_value(), drum.landingMidi(440.0).has_value()) << path;
    if (!note) continue;
    ++heard;
    EXPECT_NEAR(centsBetween(*note, *row.noteHz), 0.0, 1.0) << path;
    EXPECT_NEAR(midiFromHz(*note, 440.0), *drum.landingMidi(440.0), 0.01) << path;
    EXPECT_EQ(study->kick.source->landing.slides(), !row.lands) << path;
  }
  std::printf("%d one-shots with a note, one answer each\n", heard);
}

TEST_F(OnForeignMaterial, OddSoundsAndAFileThatIsTooLong) {
  if (odd_.empty()) GTEST_SKIP() << "HEFT_ODD names no folder";
  putOddSounds();
  ASSERT_EQ(session().kick().layers.size(), 2u);
  const Session before = session();
  drop(find("Kick card"), odd_ + "long.wav");
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("layer plays up to"); }, 30000));
  std::printf("%s\n", words->text().toStdString().c_str());
  EXPECT_EQ(session(), before);
  put("Backing card", odd_ + "long.wav");
  ASSERT_TRUE(QTest::qWaitFor([&] { return !session().backing.asset.empty(); }, 60000));
  settleRemedies();
  const Session raw = session();
  fixAllByKeys();
  tell("odd sounds");
  std::printf("%s\n", words->text().toStdString().c_str());
  document().undo();
  EXPECT_EQ(session(), raw);
}

}  // namespace
}  // namespace heft::app
