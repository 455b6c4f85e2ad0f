// Names from outside are plain text wherever the window shows them, never markup.
#include <QAction>
#include <QDir>
#include <QLabel>
#include <QTableWidget>

#include "core/export/export_files.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/random_session.h"

namespace heft::app {
namespace {

class HostileNames : public WindowTest {
 protected:
  static constexpr const char* kName = "<img src=/dev/zero><qt>%1\x1b[31m\n";
  // Every name that a session has.
  Session named(Assets& assets) {
    reference::KickRecipe recipe;
    const auto path =
        reference::writeSound(folder, "a.wav", reference::bufferOf(reference::makeKick(recipe), 48000));
    AssetRef ref = assets.add(*loadSound(path), path);
    ref.name = kName;
    Session s;
    s.track.name = kName, s.track.loopBeats = 2;
    addPart(3, kName, Plays::Hits).change(s);
    for (Part& part : s.parts) {
      part.name = kName;
      part.layers = {recordedLayer(ref), recordedLayer(ref)};
      for (size_t i = 0; i < 2; ++i) part.layers[i].id = static_cast<int>(i) + 1, part.layers[i].name = kName;
      part.versions.all.resize(2), part.versions.all[0].name = part.versions.all[1].name = kName;
      if (!part.playsNotes()) part.hits = {{0.0, 1.0}};
    }
    s.bass().notes = {{0.0, 1.0, 33, 0.8}};
    s.duck().name = kName, s.duck().on = true, s.duck().source.midiName = kName;
    s.references = {{ref}};
    s.backing.asset = ref;
    return s;
  }
  // Labels that may show outside text are plain; rich ones hold only ours.
  void labelsArePlain(const std::string& where) {
    for (auto* label : window.findChildren<QLabel*>()) {
      if (label->textFormat() == Qt::PlainText) continue;
      EXPECT_FALSE(label->text().contains("<img"))
          << where << ": " << label->objectName().toStdString() << ": " << label->text().toStdString();
      EXPECT_EQ(label->textFormat(), Qt::RichText)
          << where << ": a label that guesses: " << label->text().left(40).toStdString();
    }
    for (auto* widget : window.findChildren<QWidget*>())
      if (widget->toolTip().startsWith("<qt>")) {
        EXPECT_FALSE(widget->toolTip().contains("<img")) << where << ": " << widget->objectName().toStdString();
      }
    for (auto* table : window.findChildren<QTableWidget*>())
      for (int row = 0; row < table->rowCount(); ++row)
        for (int column = 0; column < table->columnCount(); ++column)
          if (const auto* item = table->item(row, column)) {
            EXPECT_FALSE(item->toolTip().contains("<img"));
          }
  }
};

TEST_F(HostileNames, AreShownAsTheyAre) {
  Assets assets;
  ASSERT_TRUE(saveSession(folder / "named.heft", named(assets), assets));
  ASSERT_TRUE(window.openFolder(QString::fromStdString(folder / "named.heft")));
  settle();
  for (int stage = 0; stage < 6; ++stage) {
    window.showStage(static_cast<Stage>(stage));
    settle();
    labelsArePlain(stageName(static_cast<Stage>(stage)));
    window.grab();
  }
  window.showLibrary(true);
  document().fail(kName);
  labelsArePlain("library and notices");
  EXPECT_FALSE(window.windowTitle().contains('\x1b'));
}

TEST_F(HostileNames, TipsThatHoldThemAreShownPlain) {
  QLabel owner(&window);
  owner.setToolTip(kName);
  owner.show();
  QHelpEvent help(QEvent::ToolTip, QPoint(1, 1), owner.mapToGlobal(QPoint(1, 1)));
  QApplication::sendEvent(&owner, &help);
  QWidget* tip = nullptr;
  for (QWidget* each : QApplication::topLevelWidgets())
    if (each->inherits("QTipLabel")) tip = each;
  ASSERT_TRUE(tip);
  EXPECT_TRUE(qobject_cast<QLabel*>(tip)->text().contains("&lt;img"));
}

// Track, part and ducking together were longer than a file's name may be, and the export failed whole.
TEST_F(HostileNames, FilesHaveShortNamesOfTheirOwn) {
  Assets assets;
  Session s = named(assets);
  const std::string longest(kLongestName, 'x');
  s.track.name = longest;
  for (Part& part : s.parts) part.name = longest;
  s.ducks.push_back(s.duck()), s.ducks[1].id = 2;
  for (Duck& duck : s.ducks) duck.name = longest;
  s.exports.triggers = s.exports.gainSignal = true;
  StepCache cache;
  const auto stems = render(s, assets, cache);
  ASSERT_TRUE(stems);
  const auto files = exportFiles(s, assets, *stems, cache);
  ASSERT_TRUE(files);
  std::set<std::string> names;
  for (const ExportFile& file : *files) EXPECT_TRUE(names.insert(file.name).second) << file.name;
  const auto wrote = writeExport(folder / "out", *files);
  EXPECT_TRUE(wrote) << wrote.error().sentence();
  for (size_t i = 0; i < 9; ++i) {
    s.track.name = s.kick().name = reference::hostileName(i);
    const auto odd = exportFiles(s, assets, *stems, cache);
    ASSERT_TRUE(odd) << i;
    const std::string to = folder / ("odd " + std::to_string(i));
    ASSERT_TRUE(writeExport(to, *odd)) << i;
    size_t there = 0;
    for ([[maybe_unused]] const auto& each : std::filesystem::directory_iterator(to)) ++there;
    EXPECT_EQ(there, odd->size()) << i << ": all within the folder";
  }
}

}  // namespace
}  // namespace heft::app
