// Not a test but the maker of docs/screenshots: drives the real window on the demo and saves what it shows.
// HEFT_PICTURES=DIR heft-app-tests --gtest_filter='Pictures*', under Xvfb (scripts/pictures.sh).

#include <QAction>
#include <QDialog>
#include <QFile>
#include <QLabel>
#include <QPixmap>
#include <cstdlib>
#include <set>

#include "app/kit/kit_picture.h"
#include "app/kit/kit_sheet.h"
#include "app/kit/kit_spectrum.h"
#include "app/library/library.h"
#include "app/library/library_panel.h"
#include "app/loop/loop_strip.h"
#include "app/pictures/numbered_offers.h"
#include "app/stages/align/align_page.h"
#include "app/stages/compare/ceiling_picture.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/duck/duck_page.h"
#include "app/stages/duck/ways_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/theme/theme.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class Pictures : public WindowTest {
 protected:
  void SetUp() override {
    const char* to = std::getenv("HEFT_PICTURES");
    if (!to) GTEST_SKIP() << "makes pictures only where HEFT_PICTURES says";
    folder_ = to;
    const QString size = qEnvironmentVariable("HEFT_PICTURE_SIZE", "1280x800");
    window.resize(size.section('x', 0, 0).toInt(), size.section('x', 1).toInt());
    WindowTest::SetUp();
    openDemo();
    settleRemedies();
  }
  void save(const QString& name) {
    settle();
    QTest::qWait(250);
    ASSERT_TRUE(window.grab().save(folder_ + "/" + name + ".png"));
  }
  QString folder_;
};

TEST_F(Pictures, Compare) {
  window.showStage(Stage::Compare);
  auto* page = window.findChild<ComparePage*>();
  using View = ComparePage::View;
  const std::pair<View, const char*> views[] = {
      {View::Note, "compare-note"},         {View::Bar, "compare-bar"},         {View::Width, "compare-width"},
      {View::Speakers, "compare-speakers"}, {View::Ceiling, "compare-ceiling"}, {View::Facts, "compare-facts"},
      {View::Sections, "compare-sections"}};
  for (const auto& [view, name] : views) {
    if (view != View::Ceiling && !qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) continue;
    page->show(view);
    QTest::qWait(1500);
    if (view == View::Ceiling) {
      auto* ceiling = window.findChild<CeilingPicture*>();
      ASSERT_TRUE(
          QTest::qWaitFor([&] { return !ceiling->peaks().empty() && !ceiling->codedText().isEmpty(); }, 60000));
      QTest::qWait(300);
    }
    save(name);
    if (!qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) continue;
    applyTheme(Light::Dark);
    save(QString(name) + "-dark");
    applyTheme(Light::Paper);
  }
  if (!qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) return;
  for (const char* sheet : {"Open the shelf", "Open keys"}) {
    window.showStage(QString(sheet).endsWith("keys") ? Stage::Tune : Stage::Compare);
    press(sheet);
    QTest::qWait(1500);
    auto* dialog =
        window.findChild<QDialog*>(QString(sheet).endsWith("keys") ? "Compare keys" : "Reference shelf");
    ASSERT_TRUE(dialog);
    ASSERT_TRUE(dialog->grab().save(folder_ + (QString(sheet).endsWith("keys") ? "/keys.png" : "/shelf.png")));
    dialog->close();
  }
}

TEST_F(Pictures, Stages) {
  const std::pair<Stage, const char*> stages[] = {{Stage::Sounds, "sounds"},   {Stage::Tune, "tune"},
                                                  {Stage::Align, "align"},     {Stage::Duck, "duck"},
                                                  {Stage::Compare, "compare"}, {Stage::Export, "export"}};
  for (const auto& [stage, name] : stages) {
    window.showStage(stage);
    save(name);
    if (stage != Stage::Tune || !qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) continue;
    QTest::keyClick(window.page(stage), Qt::Key_F);
    save("tune-spectrum");
    QTest::keyClick(window.page(stage), Qt::Key_F);
  }
}

TEST_F(Pictures, Spectrum) {
  window.showStage(Stage::Sounds);
  auto* page = static_cast<SoundsPage*>(window.page(Stage::Sounds));
  const int layer = session().kick().layers[0].id;
  document().edit(setLayerCut(session().kick().id, layer, CutSide::High, 6000.0));
  page->choice().choose(kickOf(session()), layer);
  page->showSpectrum(true);
  if (qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) save("spectrum");
}

// Not kept: HEFT_MORE_PICTURES.
TEST_F(Pictures, HeardTarget) {
  if (!qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) GTEST_SKIP();
  window.showStage(Stage::Tune);
  QWidget* focus = window.page(Stage::Tune)->findChild<NumberedOffers*>();
  QTest::keyClick(focus, Qt::Key_1);
  QTest::qWait(600);
  save("heard");
}

TEST_F(Pictures, FixList) {
  press("Fix all");
  ASSERT_TRUE(QTest::qWaitFor([&] { return find<QPushButton>("Apply fixes")->isEnabled(); }, 60000));
  save("fix-all");
}

TEST_F(Pictures, Align) {
  window.showStage(Stage::Align);
  auto* page = static_cast<AlignPage*>(window.page(Stage::Align));
  page->show(AlignPage::View::HandOver);
  document().edit(putValue("hand-over", {}, "hand_over.on", true));
  window.selection().setHit(5);
  save("hand-over");
  applyTheme(Light::Dark);
  page->show(AlignPage::View::Two);
  save("two-sounds");
  applyTheme(Light::Paper);
}

TEST_F(Pictures, Duck) {
  document().edit(duckBy(session(), 8.5));
  settleRemedies();
  window.showStage(Stage::Duck);
  save("duck");
  auto* page = static_cast<DuckPage*>(window.page(Stage::Duck));
  page->showWays(true);
  auto* ways = window.findChild<WaysPicture*>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return ways->isSolved(); }, 60000));
  save("duck-ways");
  page->showWays(false);
  const std::string loop = folder / "drum loop.wav";
  ASSERT_TRUE(
      saveSound(document().stems()->sum.toBuffer(document().stems()->sampleRate), loop, SampleFormat::Wav24));
  document().sounds().loadTrigger(session().duck().id, QString::fromStdString(loop));
  settleRemedies();
  save("duck-trigger");
}

TEST_F(Pictures, Voices) {
  auto* sounds = static_cast<SoundsPage*>(window.page(Stage::Sounds));
  document().edit(Edit{"built", [](Session& s) {
                         s.kick().layers[0].what.emplace<KickVoice>();
                         s.kick().layers[0].name = "Built kick";
                         s.bass().layers[0].what.emplace<BassVoice>();
                         s.bass().layers[0].name = "Built bass";
                       }});
  settleRemedies();
  save("kick");
  sounds->showPart(bassOf(session()));
  save("bass");
}

TEST_F(Pictures, Processors) {
  auto* sounds = static_cast<SoundsPage*>(window.page(Stage::Sounds));
  const Owner layer{.part = session().kick().id, .layer = session().kick().layers[0].id};
  Processor eq = freshProcessor(1), drive = freshProcessor(3);
  eq.as<Eq>()->bands[0] = {true, EqBand::Kind::Bell, 220.0, -5.0, 1.4};
  eq.as<Eq>()->lowCut = {true, 32.0, 24};
  document().edit(addProcessor(layer, eq));
  document().edit(addProcessor(layer, drive));
  settleRemedies();
  sounds->showProcessor("EQ");
  save("eq");
  sounds->showProcessor("Drive");
  if (qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) {
    save("drive");
    auto* strip = find("Processors");
    strip->setFocus(Qt::TabFocusReason);
    QTest::keyClick(strip, Qt::Key_Space);
    save("drive-off");
    QTest::keyClick(strip, Qt::Key_Left);
    save("drive-off-beside");
    QTest::keyClick(strip, Qt::Key_Right);
    QTest::keyClick(strip, Qt::Key_Space);
  }
  sounds->showSection("Split");
  if (qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) save("split");
  sounds->showPart(bassOf(session()));
  document().edit(Edit{"contour", [](Session& s) { s.bass().contour.on = true; }});
  settleRemedies();
  sounds->showSection("Contour");
  if (qEnvironmentVariableIsSet("HEFT_MORE_PICTURES")) save("contour");
}

TEST_F(Pictures, LibraryAndKit) {
  std::filesystem::create_directories(folder / "Sounds");
  for (int i = 0; i < 9; ++i) {
    reference::KickRecipe recipe;
    recipe.landingHz = 41.0 + 4.3 * i, recipe.tailMs = 120.0 + 60.0 * (i % 4),
    recipe.seed = static_cast<unsigned>(i);
    const char* names[] = {"Anvil kick", "Barrel kick",  "Drum tin kick", "Flint kick", "Hull kick",
                           "Oak kick",   "Pan lid kick", "Slate kick",    "Trough kick"};
    reference::writeSound(folder, std::string("Sounds/") + names[i] + ".wav",
                          reference::bufferOf(reference::makeKick(recipe), 48000));
  }
  window.library().addFolder(QString::fromStdString(folder / "Sounds"));
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return !window.library().isScanning() && window.library().rows().size() == 9; }, 30000));
  window.showLibrary(true);
  save("library");
  window.showLibrary(false);
  KitSheet sheet(document(), window.transport());
  QStringList drums;
  for (const auto& row : window.library().rows()) drums << QString::fromStdString(row.file.path);
  sheet.addFiles(drums);
  sheet.show();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !sheet.isBusy(); }, 20000));
  auto* picture = sheet.findChild<KitPicture*>();
  picture->choose(3);
  QTest::keyClick(picture, Qt::Key_F);
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return !sheet.findChild<KitSpectrum*>()->spectra().tunedDb.empty(); }, 20000));
  settle();
  QTest::qWait(250);
  ASSERT_TRUE(sheet.grab().save(folder_ + "/kit.png"));
}

// The demo's loop as an arrangement of 80 bars, with a region on the first bars of a drop.
TEST_F(Pictures, Song) {
  document().edit(Edit{"arrange", [](Session& s) {
                         s.track.song = true, s.track.loopBeats = 320, s.duck().on = true;
                         s.sections = {{1, "Intro", 0, 32},      {2, "Verse", 32, 96},
                                       {3, "Drop", 96, 160},     {4, "Break", 160, 192},
                                       {5, "Verse 2", 192, 224}, {6, "Drop 2", 224, 288},
                                       {7, "Outro", 288, 320}};
                         for (Part& part : s.parts) {
                           const Part two = part;
                           part.hits.clear(), part.notes.clear();
                           for (int i = 0; i < 40; ++i) {
                             const std::string& in = s.sectionAt(8.0 * i)->name;
                             for (Hit h : two.hits)
                               if (in != "Break" && (in != "Intro" || h.startQuarters < 4.0))
                                 h.startQuarters += 8.0 * i, part.hits.push_back(h);
                             for (Note n : two.notes)
                               if (in != "Intro" && in != "Outro")
                                 n.startQuarters += 8.0 * i, part.notes.push_back(n);
                           }
                         }
                         s.sections[5].ducks = {{s.duck().id, 0.5}};
                         s.automation = {{{.part = s.bass().id},
                                          "level_db",
                                          "Level",
                                          true,
                                          false,
                                          {{32, -6}, {96, -1.5, 0.3}, {96, 0}, {160, 0}, {160, -4}, {224, 0}}}};
                       }});
  settleRemedies();
  window.showStage(Stage::Duck);
  typeInto("Region", "25 to 32");
  typeInto("Position", "25");
  auto* strip = window.loopStrip();
  strip->drawAutomationOf({{.part = session().bass().id}, "level_db", "Level"});
  for (int i = 0; i < 4; ++i) strip->view().zoom(2.0, 96.0);
  save("song");
}

TEST_F(Pictures, Empty) {
  document().newSession();
  window.showStage(Stage::Sounds);
  save("empty");
}

// All words of the window, for a reading: HEFT_TEXTS says the file (scripts/texts.sh).
TEST_F(Pictures, Texts) {
  const char* to = std::getenv("HEFT_TEXTS");
  if (!to) GTEST_SKIP();
  std::set<QString> lines;
  auto note = [&](const QString& where, const QString& text) {
    if (!text.trimmed().isEmpty()) lines.insert(where + "\t" + QString(text).replace('\n', ' '));
  };
  for (const auto stage :
       {Stage::Sounds, Stage::Tune, Stage::Align, Stage::Duck, Stage::Compare, Stage::Export}) {
    window.showStage(stage);
    settle();
    for (const QWidget* w : window.findChildren<QWidget*>()) {
      note("tip", w->toolTip());
      note("name", w->accessibleName());
      note("whole", w->whatsThis());
      if (const auto* label = qobject_cast<const QLabel*>(w)) note("label", label->text());
      if (const auto* button = qobject_cast<const QAbstractButton*>(w)) note("button", button->text());
      if (const auto* field = qobject_cast<const ValueField*>(w)) note("field", field->spec().caption);
    }
    for (const QAction* a : window.findChildren<QAction*>()) note("menu", a->text());
  }
  for (const Finding& f : document().findings())
    note("ledger", QString::fromStdString(f.sentence + " | " + f.measured + " | " + f.target));
  QFile file(to);
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  for (const QString& line : lines) file.write((line + "\n").toUtf8());
}

}  // namespace
}  // namespace heft::app
