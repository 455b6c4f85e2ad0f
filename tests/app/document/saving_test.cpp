// What a save may meet: another session, another save, another window, another program.
#include <QDir>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>

#include "app/stages/export/export_page.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/states.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/four_parts.h"

namespace heft::app {
namespace {

class SavingTest : public WindowTest {
 protected:
  QString at(const std::string& name) const { return QString::fromStdString(folder / name); }
  std::string nameIn(const std::string& name) const { return openSession(folder / name)->session.track.name; }
  void call(const std::string& name) { document().edit(nameTrack(name)); }
  QString notice() { return find<QLabel>("Notice words")->text(); }
  void answer(const QString& words) {
    QTest::qWait(20);  // notices are placed from the event loop
    for (auto* button : window.findChildren<QPushButton*>())
      if (button->isVisible() && button->text() == words) return click(button);
    FAIL() << words.toStdString() << " is not offered";
  }
};

// The next Ctrl+S overwrote the old song: the save had given the new document its folder.
TEST_F(SavingTest, ASaveThatEndsAfterNewLeavesTheNewSessionUnnamed) {
  call("Old song");
  document().files().saveAside(at("old.heft"));
  document().newSession();
  settle();
  EXPECT_EQ(document().files().folder(), "");
  EXPECT_EQ(nameIn("old.heft"), "Old song");
  EXPECT_EQ(session().track.name, Track().name);
}

TEST_F(SavingTest, OfTwoSavesAndTwoOpeningsTheLaterOneStays) {
  call("First");
  document().files().saveAside(at("song.heft"));
  call("Second");
  document().files().saveAside(at("song.heft"));
  settle();
  EXPECT_EQ(nameIn("song.heft"), "Second");
  EXPECT_TRUE(document().isSaved());
  call("Third");
  document().files().saveAside(at("other.heft"));
  document().files().saveAside(at("last.heft"));
  settle();
  EXPECT_EQ(document().files().folder(), at("last.heft"));
  document().files().openAside(at("song.heft"));
  document().files().openAside(at("other.heft"));
  settle();
  EXPECT_EQ(document().files().folder(), at("other.heft"));
}

TEST_F(SavingTest, AnotherWindowsSessionIsReadOnlyUntilItBecomesACopy) {
  call("Shared");
  ASSERT_TRUE(document().files().save(at("shared.heft")));
  Window other(at("other library.db"), sharedCache());
  other.show();
  ASSERT_TRUE(other.openFolder(at("shared.heft")));
  EXPECT_TRUE(other.document().files().isReadOnly());
  auto* words = other.findChild<QLabel*>("Notice words");
  EXPECT_EQ(words->text(), "shared is open in another Heft window. Here it is read only.");
  other.document().edit(nameTrack("Taken over"));
  EXPECT_FALSE(other.document().files().save(at("shared.heft")));
  EXPECT_EQ(nameIn("shared.heft"), "Shared");
  other.document().files().becomeCopy();
  EXPECT_FALSE(other.document().files().isReadOnly());
  EXPECT_EQ(other.document().files().folder(), "");
  call("By another name");
  EXPECT_TRUE(document().files().save(at("./shared.heft"))) << "its own lock does not keep it out";
  EXPECT_EQ(nameIn("shared.heft"), "By another name");
  // A window that closes the session releases it.
  document().newSession();
  ASSERT_TRUE(other.openFolder(at("shared.heft")));
  EXPECT_FALSE(other.document().files().isReadOnly());
}

TEST_F(SavingTest, WhatAnotherProgramWroteIsNotReplacedUnasked) {
  call("Mine");
  ASSERT_TRUE(document().files().save(at("song.heft")));
  Session theirs = session();
  theirs.track.name = "Theirs";
  auto write = [&] { ASSERT_TRUE(saveSession(folder / "song.heft", theirs, {})); };
  write();
  call("Mine again");
  document().files().saveAside(at("song.heft"));
  settle();
  EXPECT_EQ(nameIn("song.heft"), "Theirs");
  EXPECT_FALSE(document().isSaved());
  answer("Save mine as a copy");
  settle();
  EXPECT_EQ(nameIn("song copy.heft"), "Mine again");
  EXPECT_EQ(nameIn("song.heft"), "Theirs");
  EXPECT_EQ(document().files().folder(), at("song copy.heft"));

  ASSERT_TRUE(window.openFolder(at("song.heft")));
  theirs.track.name = "Theirs, later";
  write();
  call("Mine, later");
  EXPECT_FALSE(document().files().save(at("song.heft"))) << "nor by the save before a window closes";
  answer("Replace on disk");
  settle();
  EXPECT_EQ(nameIn("song.heft"), "Mine, later");
  EXPECT_TRUE(document().isSaved());

  write();
  call("Given up");
  document().files().saveAside(at("song.heft"));
  settle();
  answer("Reload from disk");
  settle();
  EXPECT_EQ(session().track.name, "Theirs, later");
  EXPECT_TRUE(document().isSaved());
}

// A sound that now does not need, but a kept state does: it is saved, its loss is said, and the state comes back
// without it.
TEST_F(SavingTest, ALostSoundThatOnlyAStateNeedsIsSaidAndLosesNothingElse) {
  openDemo();
  const AssetRef kick = session().kickLayer()->recorded()->asset;
  document().edit(keepState("with it"));
  document().edit(removeLayer(session().kick(), session().kickLayer()->id));
  settle();
  ASSERT_TRUE(document().files().save(at("kept.heft")));
  size_t removed = 0;
  for (const auto& file : std::filesystem::recursive_directory_iterator(folder / "kept.heft"))
    if (const auto sound = loadSound(file.path().string()); sound && sound->hash == kick.hash)
      removed += std::filesystem::remove(file.path());
  ASSERT_EQ(removed, 1u) << "it was saved for the state";
  ASSERT_TRUE(window.openFolder(at("kept.heft")));
  settle();
  EXPECT_TRUE(notice().contains(QString::fromStdString(kick.name))) << notice().toStdString();
  EXPECT_FALSE(session().kickLayer());
  const auto back = goToState(session(), 0);
  ASSERT_TRUE(back);
  document().edit(*back);
  settle();
  ASSERT_TRUE(session().kickLayer());
  EXPECT_EQ(session().kickLayer()->recorded()->asset.hash, kick.hash) << "found again it would sound";
  const Stems& now = *document().stems();
  EXPECT_EQ(reference::samplesOf(now.kick()), std::vector<float>(now.kick().frames(), 0.0f));
  const auto bass = reference::samplesOf(now.bass());
  EXPECT_TRUE(std::any_of(bass.begin(), bass.end(), [](float x) { return x != 0.0f; }));
  ASSERT_TRUE(document().files().save(at("kept.heft")));
  EXPECT_EQ(openSession(folder / "kept.heft")->session.states.size(), 1u);
}

// The page kept the former session's files, log and open question.
TEST_F(SavingTest, ANewSessionStartsWithAnEmptyExportPage) {
  openDemo();
  auto* page = static_cast<ExportPage*>(window.page(Stage::Export));
  page->setFolder(at("out"));
  window.showStage(Stage::Export);
  page->write();
  settle();
  EXPECT_FALSE(find<QPlainTextEdit>("Export log")->toPlainText().isEmpty());
  page->write();  // asks: the files are there
  document().newSession();
  settle();
  EXPECT_EQ(find<QPlainTextEdit>("Export log")->toPlainText(), "");
  for (auto* button : window.findChildren<QPushButton*>())
    EXPECT_FALSE(button->isVisible() && button->text() == "Keep both");
}

// A save that ended after the window's close looked like a crash at the next start.
TEST_F(SavingTest, NothingIsLeftOfAnAutosaveThatIsUnderWayAtTheClose) {
  document().files().autosave().enable(at("autosave/run-1"));
  openDemo();
  call("Edited");
  QTest::qWait(2010);  // the autosave has just begun
  document().files().autosave().drop();
  QTest::qWait(200);
  EXPECT_FALSE(QFileInfo::exists(at("autosave/run-1")));
}

TEST_F(SavingTest, WhatIsSavedOrGivenUpIsNotOfferedAfterACrash) {
  const QString kept = at("autosave/run-1/session.json");
  document().files().autosave().enable(at("autosave/run-1"));
  call("Edited");
  ASSERT_TRUE(QTest::qWaitFor([&] { return QFileInfo::exists(kept); }, 10000));
  document().files().saveAside(at("song.heft"));
  settle();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !QFileInfo::exists(kept); }, 3000));
  call("Edited again");
  ASSERT_TRUE(QTest::qWaitFor([&] { return QFileInfo::exists(kept); }, 10000));
  document().newSession();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !QFileInfo::exists(kept); }, 3000));
}

TEST_F(SavingTest, OfSeveralThatCrashesLeftTheNewestIsOfferedFirst) {
  for (int i = 0; i < 3; ++i) {
    Session s;
    s.track.name = "Left " + std::to_string(i);
    const std::string left = folder / ("autosave/run-" + std::to_string(9000 - i));
    ASSERT_TRUE(saveSession(left, s, {}));
    // Named so that neither first nor last by name is the newest.
    const auto age = std::chrono::hours(i == 1 ? 1 : 5 + i);
    std::filesystem::last_write_time(left + "/session.json",
                                     std::filesystem::file_time_type::clock::now() - age);
  }
  window.startAutosave(at("autosave"));
  answer("Restore");
  settle();
  EXPECT_EQ(session().track.name, "Left 1");
  document().files().autosave().drop();
}

}  // namespace
}  // namespace heft::app
