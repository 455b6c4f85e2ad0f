// The stages' own controls, details of the loop strip, and files that come and go, in the real window.

#include <gtest/gtest.h>

#include <QCheckBox>
#include <QDragEnterEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTest>
#include <QTimer>

#include "app/loop/loop_strip.h"
#include "app/shell/header_bar.h"
#include "app/shell/stage_list.h"
#include "app/shell/window.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/compare/floor_picture.h"
#include "app/stages/compare/reference_row.h"
#include "app/stages/export/export_page.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/chain.h"
#include "core/session/folder.h"
#include "scenario/make_demo.h"
#include "tests/app/hands.h"
#include "tests/reference/signals.h"

namespace heft::app {
namespace {

using reference::TemporaryFolder;

// The demo's files are written once for all tests here.
const std::string& demoSession() {
  static TemporaryFolder folder;
  static const std::string path = *demo::write(folder / "demo");
  return path;
}

class StagesTest : public ::testing::Test {
 protected:
  void SetUp() override {
    window.show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
    ASSERT_TRUE(window.openFolder(QString::fromStdString(demoSession())));
    settle();
  }
  void settle() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return !window.document().isBusy(); }, 60000));
    QApplication::processEvents();
  }
  const Session& session() { return window.document().session(); }
  QString shown(const QString& field) {
    auto* found = window.findChild<ValueField*>(field);
    EXPECT_TRUE(found) << field.toStdString();
    return found ? found->shownText() : QString();
  }
  void choose(const QString& field, int row) {
    QTimer::singleShot(50, &receiver, [row] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      menu->setActiveAction(menu->actions().at(row));
      QTest::keyClick(menu, Qt::Key_Return);
    });
    QTest::mouseClick(window.findChild<ValueField*>(field), Qt::LeftButton);
    settle();
  }
  void typeInto(const QString& field, const QString& text) {
    auto* value = window.findChild<ValueField*>(field);
    value->setFocus();
    QTest::keyClick(value, Qt::Key_Return);
    QApplication::processEvents();
    typeOver(value, text);
    settle();
  }
  QAction* action(const QString& text) {
    for (QAction* menu : window.menuBar()->actions())
      for (QAction* a : menu->menu()->actions())
        if (a->text() == text) return a;
    ADD_FAILURE() << text.toStdString();
    return nullptr;
  }
  QObject receiver;
  Window window;
};

TEST_F(StagesTest, CompareShowsWhatTheLoopMeasures) {
  window.showStage(Stage::Compare);
  auto* page = window.findChild<ComparePage*>();
  const auto rows = [&] { return window.findChildren<ReferenceRow*>().size(); };
  EXPECT_EQ(rows(), 4) << "the session and three references";
  EXPECT_FALSE(window.findChild<FloorPicture*>()->isPlain());
  page->show(ComparePage::View::Spectrum);
  EXPECT_TRUE(window.findChild<FloorPicture*>()->isPlain());
  EXPECT_FALSE(window.grab().isNull());
  window.document().edit(Edit{"remove", [](Session& s) { s.references.pop_back(); }});
  settle();
  QTRY_COMPARE(rows(), 3);
  window.document().edit(Edit{"mute", [](Session& s) { s.backing.mute = true; }});
  settle();
  EXPECT_FALSE(window.document().study()->hasBacking);
  EXPECT_FALSE(window.grab().isNull());
}

TEST_F(StagesTest, ReferencesAreDroppedOnComparesPageAndLoadedAside) {
  const auto path = QString::fromStdString(demoSession()).section('/', 0, -2) + "/sounds/Brine.flac";
  window.document().edit(Edit{"clear", [](Session& s) { s.references.clear(); }});
  window.showStage(Stage::Compare);
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(path), QUrl::fromLocalFile(path)});
  auto* page = window.findChild<ComparePage*>();
  QDragEnterEvent enter(QPoint(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(page, &enter);
  EXPECT_TRUE(enter.isAccepted());
  QDropEvent event(QPointF(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
  QApplication::sendEvent(page, &event);
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().references.size() == 2; }, 20000));
  settle();
  EXPECT_EQ(session().references[0].asset.name, "Brine.flac");
  EXPECT_TRUE(window.document().study()->references[0]);
}

TEST_F(StagesTest, SoundsSetLevelsPolarityAndWhatIsIn) {
  auto slip = [&](const char* name) {
    QTest::mouseClick(window.findChild<QWidget*>(name), Qt::LeftButton, {}, QPoint(40, 10));
  };
  typeInto("Level", "-4.5 dB");
  EXPECT_EQ(session().kick().layers[0].levelDb, -4.5);
  slip("Bass card");
  choose("Sound polarity", 1);
  EXPECT_TRUE(session().bass().layers[0].invert);
  window.document().edit(addProcessor({.part = session().bass().id}, {0, Width{true}}));
  ASSERT_TRUE(window.findChild<SoundsPage*>()->showProcessor("Width"));
  typeInto("Width", "mono");
  EXPECT_EQ(session().bass().finish.first<Width>()->width, 0.0);
  slip("Backing card");
  choose("Backing mute", 1);
  EXPECT_TRUE(session().backing.mute);
  slip("Kick card");
  typeInto("Level", "+99");
  EXPECT_EQ(session().kick().layers[0].levelDb, -4.5) << "out of range is not taken";
}

TEST_F(StagesTest, ExportWritesOnlyWhatIsChosen) {
  TemporaryFolder folder;
  window.showStage(Stage::Export);
  for (const char* name : {"Stems", "Bass one-shot", "Patterns"})
    QTest::mouseClick(window.findChild<QCheckBox*>(name), Qt::LeftButton, {}, QPoint(6, 10));
  EXPECT_FALSE(session().exports.stems);
  EXPECT_FALSE(session().exports.bassOneShot);
  choose("Export format", 3);
  EXPECT_EQ(session().exports.format, SampleFormat::Flac24);
  auto* page = static_cast<ExportPage*>(window.page(Stage::Export));
  page->setFolder(QString::fromStdString(folder / "out"));
  QTest::keyClick(&window, Qt::Key_E, Qt::ControlModifier);
  auto* log = window.findChild<QPlainTextEdit*>("Export log");
  ASSERT_TRUE(QTest::qWaitFor([&] { return log->toPlainText().contains("Written"); }, 20000));
  size_t files = 0;
  for (const auto& entry : std::filesystem::directory_iterator(folder / "out")) {
    ++files;
    EXPECT_EQ(entry.path().extension(), ".flac");
  }
  EXPECT_EQ(files, 1u) << "the kick alone; nothing ducks, so there is no gain curve";
  auto* written = window.findChild<QListWidget*>("Written files");
  ASSERT_EQ(written->count(), 1);
  const std::unique_ptr<QMimeData> dragged(written->model()->mimeData({written->model()->index(0, 0)}));
  ASSERT_EQ(dragged->urls().size(), 1) << "a written file can be dragged out";
  EXPECT_TRUE(std::filesystem::exists(dragged->urls().front().toLocalFile().toStdString()));
  page->setFolder("/proc/nowhere");
  page->write();
  ASSERT_TRUE(QTest::qWaitFor([&] { return log->toPlainText().contains("Nothing was written"); }, 20000));
  EXPECT_TRUE(log->toPlainText().contains("/proc/nowhere"));
}

TEST_F(StagesTest, AltPlacesHitsWithoutTheGrid) {
  auto* strip = window.loopStrip();
  const auto hits = session().kick().hits.size();
  QTest::mouseClick(strip, Qt::LeftButton, Qt::AltModifier, strip->kickAt(3.11).toPoint());
  ASSERT_EQ(session().kick().hits.size(), hits + 1);
  const auto free = std::find_if(session().kick().hits.begin(), session().kick().hits.end(),
                                 [](const Hit& h) { return h.startQuarters > 3.05 && h.startQuarters < 3.2; });
  ASSERT_NE(free, session().kick().hits.end());
  EXPECT_GT(std::abs(std::remainder(free->startQuarters, 0.25)), 0.01);
  EXPECT_TRUE(std::is_sorted(session().kick().hits.begin(), session().kick().hits.end(),
                             [](const Hit& a, const Hit& b) { return a.startQuarters < b.startQuarters; }));
  settle();
  EXPECT_EQ(window.document().study()->pair.hits.size(), hits + 1);
}

TEST_F(StagesTest, LaneHeadsSoloAndMuteWithoutTouchingTheSession) {
  auto* strip = window.loopStrip();
  const double y = strip->kickAt(0).y();
  QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(156, static_cast<int>(y)));
  EXPECT_TRUE(window.transport().lanes().isSolo(1));
  QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(192, static_cast<int>(strip->bassAt(0).y())));
  EXPECT_TRUE(window.transport().lanes().isMuted(2));
  QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(156, static_cast<int>(y)));
  EXPECT_FALSE(window.transport().lanes().isSolo(1));
  EXPECT_TRUE(window.document().isSaved());
}

TEST_F(StagesTest, TheHeaderTakesLoopsKeysAndNames) {
  typeInto("Loop length", "3 beats");
  EXPECT_EQ(session().track.loopBeats, 3);
  EXPECT_EQ(window.document().stems()->frames, session().track.loopFrames());
  typeInto("Loop length", "8 bars");
  EXPECT_EQ(session().track.loopBeats, 32);
  typeInto("Loop length", "65 bars");
  EXPECT_EQ(session().track.loopBeats, 32);
  typeInto("Track name", "Salt light");
  EXPECT_TRUE(window.windowTitle().startsWith("Salt light *"));
  typeInto("Key", "Eb dorian");
  EXPECT_EQ(shown("Key"), "Eb dorian");
  choose("Listen", 1);
  EXPECT_EQ(window.transport().listen().kind, ListenKind::LowsOnly);
}

TEST_F(StagesTest, StagesAreWalkedByKeyboard) {
  auto* list = window.findChild<StageList*>();
  list->setFocus();
  window.showStage(Stage::Sounds);
  for (int i = 1; i < 6; ++i) {
    QTest::keyClick(list, Qt::Key_Down);
    EXPECT_EQ(static_cast<int>(window.currentStage()), i);
  }
  QTest::keyClick(list, Qt::Key_Up);
  EXPECT_EQ(window.currentStage(), Stage::Compare);
  auto* ledger = window.findChild<QWidget*>("Ledger");
  QTest::keyClick(&window, Qt::Key_L, Qt::ControlModifier);
  EXPECT_FALSE(ledger->isVisible());
  QTest::keyClick(&window, Qt::Key_L, Qt::ControlModifier);
  EXPECT_TRUE(ledger->isVisible());
}

// A session that cannot be rendered shows why and how to fix it; the window goes on, and undo restores the
// sound.
TEST_F(StagesTest, ASessionThatCannotBeRenderedIsTold) {
  Document& document = window.document();
  const Stems* before = document.stems();
  document.edit(Edit{"many", [](Session& s) {
                       const Layer one = s.bass().layers[0];
                       s.bass().notes.clear();
                       for (int i = 0; i < 24; ++i) s.bass().notes.push_back({0.25 * i, 0.2, 24 + i, 1.0});
                       for (int i = 1; i < 8; ++i)
                         s.bass().layers.push_back(one), s.bass().layers.back().id = i + 1;
                       for (Layer& l : s.bass().layers) l.recorded()->keepLength = true;
                     }});
  settle();
  EXPECT_TRUE(window.findChild<QLabel*>("Notice words")->text().contains("play by speed"));
  EXPECT_EQ(document.stems(), before) << "what was heard goes on";
  document.undo();
  settle();
  EXPECT_NE(document.stems(), before);
  EXPECT_TRUE(document.study());
}

TEST_F(StagesTest, SavingOpeningAndStartingAnew) {
  TemporaryFolder folder;
  window.document().edit(Edit{"set tempo", [](Session& s) { s.track.tempoBpm = 101; }});
  settle();
  EXPECT_FALSE(window.document().isSaved());
  ASSERT_TRUE(window.document().files().save(QString::fromStdString(folder / "mine.heft")));
  EXPECT_TRUE(window.document().isSaved());
  action("New")->trigger();
  settle();
  EXPECT_FALSE(session().kickLayer());
  EXPECT_TRUE(window.document().findings().empty());
  ASSERT_TRUE(window.openFolder(QString::fromStdString(folder / "mine.heft")));
  settle();
  EXPECT_EQ(session().track.tempoBpm, 101);
  EXPECT_FALSE(window.openFolder(QString::fromStdString(folder / "nothing.heft"))) << "told in the window";
  EXPECT_EQ(session().track.tempoBpm, 101) << "and nothing is lost";
  EXPECT_FALSE(window.document().files().save("/proc/heft.heft"));
}

TEST_F(StagesTest, OctavesAreNamedAsTheUserNamesThem) {
  EXPECT_EQ(shown("Bass root"), "A1, measured");
  window.document().edit(
      Edit{"name octaves", [](Session& s) { s.track.notes.octaves = OctaveNaming::MiddleC3; }});
  settle();
  EXPECT_EQ(shown("Bass root"), "A0, measured");
  EXPECT_TRUE(std::any_of(window.document().findings().begin(), window.document().findings().end(),
                          [](const Finding& f) { return f.sentence.find("below A0") != std::string::npos; }));
}

}  // namespace
}  // namespace heft::app
