// The window's menus.

#include <QApplication>
#include <QFileInfo>
#include <QMenuBar>
#include <QSettings>
#include <cmath>

#include "app/desk/part_menu.h"
#include "app/files/file_choice.h"
#include "app/files/key_files.h"
#include "app/files/pattern_files.h"
#include "app/kit/kit_sheet.h"
#include "app/library/library_panel.h"
#include "app/loop/loop_strip.h"
#include "app/loop/song_overview.h"
#include "app/shell/header_bar.h"
#include "app/shell/ledger_panel.h"
#include "app/shell/notices.h"
#include "app/shell/sheets.h"
#include "app/shell/window.h"
#include "app/stages/export/export_page.h"
#include "app/stages/sounds/chain_strip.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/stages/tune/key_sheet.h"
#include "app/theme/theme.h"
#include "core/session/edits/track.h"

namespace heft::app {
namespace {

// File names verbatim: an ampersand is no mnemonic.
QString menuText(const QString& text) {
  return QString(text).replace("&", "&&");
}

// Ticked while it is on, checked when its menu opens.
void ticked(QMenu* menu, QAction* action, std::function<bool()> holds) {
  action->setCheckable(true);
  action->setChecked(holds());
  QObject::connect(menu, &QMenu::aboutToShow, action, [action, holds] { action->setChecked(holds()); });
}

}  // namespace

QAction* Window::add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> then) {
  QAction* action = menu->addAction(text);
  action->setShortcut(key);
  connect(action, &QAction::triggered, this, std::move(then));
  return action;
}

void Window::buildMenus() {
  buildFileMenu();
  buildEditMenu();
  buildPlayMenu();
  buildViewMenu();
  QMenu* help = menuBar()->addMenu("&Help");
  add(help, "Shortcuts", QKeySequence("F1"), [this] { showShortcuts(this); });
  add(help, "About Heft", {}, [this] { showAbout(this); });
}

void Window::buildFileMenu() {
  QMenu* file = menuBar()->addMenu("&File");
  add(file, "New", QKeySequence::New, [this] {
    if (!mayDiscard()) return;
    document_.newSession();
    showStage(Stage::Sounds);
  });
  add(file, "Open...", QKeySequence("Ctrl+O"), [this] { openDialog(); });
  add(file, "Add sounds...", QKeySequence("Ctrl+I"), [this] { addSounds(); });
  QMenu* recent = file->addMenu("Open recent");
  recent->setObjectName("Open recent menu");
  connect(recent, &QMenu::aboutToShow, this, [this, recent] {
    recent->clear();
    for (const QString& folder : SessionFiles::recentFolders())
      connect(
          recent->addAction(menuText(QFileInfo(folder).completeBaseName() + "   " + QFileInfo(folder).path())),
          &QAction::triggered, this, [this, folder] {
            if (mayDiscard()) document_.files().openAside(folder);
          });
    if (recent->isEmpty()) recent->addAction("none yet")->setEnabled(false);
  });
  add(file, "Save", QKeySequence("Ctrl+S"), [this] { save(false); });
  add(file, "Save as...", QKeySequence("Ctrl+Shift+S"), [this] { save(true); });
  file->addSeparator();
  addPatternsMenu(file);
  add(file, "Tune a kit...", {}, [this] {
    // It may stay open beside the window.
    auto* sheet = new KitSheet(document_, transport_, this);
    sheet->setAttribute(Qt::WA_DeleteOnClose);
    sheet->show();
  });
  addKeyMenu(file);
  file->addSeparator();
  add(file, "Export", QKeySequence("Ctrl+E"), [this] {
    showStage(Stage::Export);
    static_cast<ExportPage*>(page(Stage::Export))->write();
  });
  file->addSeparator();
  add(file, "Close", QKeySequence("Ctrl+W"), [this] { close(); });
  add(file, "Quit", QKeySequence("Ctrl+Q"), [this] { close(); });
}

void Window::addPatternsMenu(QMenu* file) {
  QMenu* patterns = file->addMenu("Patterns");
  patterns->setObjectName("Patterns menu");
  auto readFor = [this](auto placeNow) {
    const QString path = askForFile(this, "Choose a MIDI file", Asked::Midi);
    if (!path.isEmpty()) readPattern(document_, placeNow(), path, this);
  };
  add(patterns, "Read the kick's hits from a MIDI file...", {},
      [this, readFor] { readFor([this] { return kickOf(document_.session()); }); });
  add(patterns, "Read the bass line from a MIDI file...", {},
      [this, readFor] { readFor([this] { return bassOf(document_.session()); }); });
  add(patterns, "Read the chosen part's pattern from a MIDI file...", {}, [this, readFor] {
    readFor([this] { return Place{static_cast<SoundsPage*>(pages_[0])->choice().part().id}; });
  });
  add(patterns, "Detect kick hits in an audio loop...", {}, [this] {
    const QString path = askForSound(this, "Choose a loop of the session's tempo");
    if (!path.isEmpty()) findPattern(document_, path);
  });
  add(patterns, "Export kick and bass to MIDI...", {}, [this] {
    const QString path = askWhereToWrite(this, "Write patterns", Asked::Midi, "patterns.mid");
    if (!path.isEmpty()) writePatterns(document_, path);
  });
}

void Window::addKeyMenu(QMenu* file) {
  QMenu* keyMenu = file->addMenu("Key and tempo");
  keyMenu->setObjectName("Key and tempo menu");
  auto offer = [this](const KeyOffer& found) { offers_->key(found); };
  add(keyMenu, "From a loop or a track...", {}, [this, offer] {
    const QString path = askForSound(this, "Choose a loop or a track");
    if (!path.isEmpty()) findKeyAndTempo(document_, path, offer);
  });
  add(keyMenu, "From the backing", {}, [this, offer] {
    const AssetRef& backing = document_.session().backing.asset;
    if (backing.empty())
      return document_.tell("There is no backing yet: drop the rest of the track in Sounds.");
    findKeyAndTempo(document_, backing, offer);
  });
  add(keyMenu, "Compare keys...", {}, [this] { (new KeySheet(document_, this))->open(); });
  // References change.
  connect(keyMenu, &QMenu::aboutToShow, keyMenu, [this, keyMenu, offer, own = keyMenu->actions().size()] {
    const auto actions = keyMenu->actions();
    for (auto i = own; i < actions.size(); ++i) delete actions.at(i);
    const QStringList names = referenceNames(document_.session());
    for (qsizetype i = 0; i < names.size(); ++i)
      connect(keyMenu->addAction(menuText("From " + names[i])), &QAction::triggered, this,
              [this, reference = document_.session().references[static_cast<size_t>(i)].asset, offer] {
                findKeyAndTempo(document_, reference, offer);
              });
  });
}

void Window::buildEditMenu() {
  QMenu* edit = menuBar()->addMenu("&Edit");
  QMenu* part = new QMenu("Part", this);
  part->setObjectName("Part of the session menu");
  connect(part, &QMenu::aboutToShow, this, [this, part] {
    part->clear();
    fillPartMenu(*part, static_cast<SoundsPage*>(pages_[0])->choice(), this);
  });
  undo_ = add(edit, "Undo", QKeySequence("Ctrl+Z"), [this] { document_.undo(); });
  redo_ = add(edit, "Redo", QKeySequence("Ctrl+Shift+Z"), [this] { document_.redo(); });
  add(edit, "Fix all...", QKeySequence("Ctrl+M"), [this] { openFixes(); });
  states_.addTo(*edit);
  edit->addSeparator();
  edit->addMenu(part);
  using Change = LoopStrip::EditKind;
  const std::pair<const char*, std::pair<Change, const char*>> changes[] = {
      {"Cut", {Change::Cut, "Ctrl+X"}},     {"Copy", {Change::Copy, "Ctrl+C"}},
      {"Paste", {Change::Paste, "Ctrl+V"}}, {"Duplicate", {Change::Duplicate, "Ctrl+D"}},
      {"Delete", {Change::Delete, ""}},     {"Select all", {Change::SelectAll, "Ctrl+A"}}};
  for (const auto& [words, change] : changes)
    add(edit, words, QKeySequence(change.second), [this, kind = change.first] {
      if (!editText(kind)) strip_->doEdit(kind);
    });
}

void Window::addClickMenu(QMenu* menu) {
  menu->setObjectName("Click menu");
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    QAction* goesOn = menu->addAction("Keep clicking while recording");
    goesOn->setCheckable(true);
    goesOn->setChecked(transport_.monitor().clickGoesOn());
    connect(goesOn, &QAction::triggered, this,
            [this](bool on) { transport_.monitor().setClick(transport_.monitor().clickDb(), on); });
    menu->addSeparator();
    for (const int db : {0, -6, -10, -16, -24, -40}) {
      QAction* a = menu->addAction(QString("%1 dB").arg(db));
      a->setCheckable(true);
      a->setChecked(std::lround(transport_.monitor().clickDb()) == db);
      connect(a, &QAction::triggered, this,
              [this, db] { transport_.monitor().setClick(db, transport_.monitor().clickGoesOn()); });
    }
  });
}

void Window::addPreviewMenu(QMenu* menu) {
  menu->setObjectName("Preview menu");
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    for (const int db : {6, 3, 0, -3, -6, -12, -24}) {
      QAction* a =
          menu->addAction(db == 0 ? QString("matched to loop")
                                  : QString("%1 dB %2").arg(std::abs(db)).arg(db > 0 ? "louder" : "softer"));
      a->setCheckable(true);
      a->setChecked(std::lround(transport_.monitor().previewDb()) == db);
      connect(a, &QAction::triggered, this, [this, db] { transport_.monitor().setPreviewDb(db); });
    }
  });
}

// Where one is in the track: bars, sections, hits.
void Window::addPlacesMenu(QMenu* play) {
  QAction* song =
      add(play, "Song", QKeySequence("Ctrl+J"), [this] { document_.edit(setSong(!document_.track().song)); });
  song->setToolTip("A song starts at rest and ends with its tails; a loop repeats");
  ticked(play, song, [this] { return document_.track().song; });
  add(play, "Go to bar...", QKeySequence("Ctrl+G"), [this] { header_->typePosition(); });
  add(play, "Next section", QKeySequence("Ctrl+PgDown"), [this] { overview_->goToSection(1); });
  add(play, "Previous section", QKeySequence("Ctrl+PgUp"), [this] { overview_->goToSection(-1); });
  add(play, "Repeat section", QKeySequence("Ctrl+R"), [this] { overview_->repeatSection(); });
  add(play, "Section from here", QKeySequence("Ctrl+K"), [this] { overview_->addSectionHere(); });
  const std::pair<const char*, std::pair<int, bool>> steps[] = {
      {"Next hit\t.", {1, false}},
      {"Previous hit\t,", {-1, false}},
      {"Next hit out of range\tShift+.", {1, true}},
      {"Previous hit out of range\tShift+,", {-1, true}}};
  for (const auto& [words, to] : steps) add(play, words, {}, [this, to = to] { stepHit(to.first, to.second); });
  play->addSeparator();
}

void Window::buildPlayMenu() {
  QMenu* play = menuBar()->addMenu("&Play");
  QAction* loop = add(play, "Play", {}, [this] { transport_.toggle(); });
  loop->setText("Play\tSpace");
  connect(&transport_, &Transport::stateChanged, loop,
          [this, loop] { loop->setText(transport_.isPlaying() ? "Stop\tSpace" : "Play\tSpace"); });
  addPlacesMenu(play);
  QAction* keys =
      add(play, "Play notes on the keys", QKeySequence("F7"), [this] { playIn_.setOn(!playIn_.isOn()); });
  QAction* take = add(play, "Record", QKeySequence("F8"),
                      [this] { playIn_.isTaking() ? playIn_.endTake() : playIn_.startTake(); });
  QMenu* into = play->addMenu("Play into");
  into->setObjectName("Play into menu");
  connect(into, &QMenu::aboutToShow, this, [this, into] {
    into->clear();
    for (const Part& part : document_.session().parts) {
      QAction* a = into->addAction(QString::fromStdString(part.title()));
      a->setCheckable(true);
      a->setChecked(playIn_.part().id == part.id);
      connect(a, &QAction::triggered, this, [this, id = part.id] { playIn_.choosePart(id); });
    }
  });
  addClickMenu(play->addMenu("Click"));
  addPreviewMenu(play->addMenu("Library preview level"));
  QMenu* quantise = play->addMenu("Record quantise");
  quantise->setObjectName("Record quantise");
  for (int percent : {0, 25, 50, 75, 100}) {
    QAction* a = add(quantise, percent == 0 ? QString("off") : QString("%1 %").arg(percent), {},
                     [this, percent] { playIn_.setStrength(percent / 100.0); });
    a->setCheckable(true);
    connect(quantise, &QMenu::aboutToShow, a,
            [this, a, percent] { a->setChecked(std::lround(100.0 * playIn_.strength()) == percent); });
  }
  for (QAction* a : {keys, take}) a->setCheckable(true);
  connect(&playIn_, &PlayIn::changed, this,
          [=, this] { keys->setChecked(playIn_.isOn()), take->setChecked(playIn_.isTaking()); });
  addKeyboardsMenu(play);
  play->addSeparator();
  add(play, "MIDI learn", QKeySequence("F6"), [this] { teacher_->teachFocused(); });
  add(play, "Automate", QKeySequence("Shift+F6"), [this] { teacher_->automateFocused(); });
  QAction* record = add(play, "Record automation", QKeySequence("Shift+F8"),
                        [this] { recorder_->setOn(!recorder_->isOn()); });
  ticked(play, record, [this] { return recorder_->isOn(); });
  add(play, "Controller assignments...", {}, [this] { showTaught(document_, this); });
}

void Window::addKeyboardsMenu(QMenu* play) {
  QMenu* keyboards = play->addMenu("MIDI keyboard");
  keyboards->setObjectName("MIDI keyboard menu");
  // Listed when it opens: keyboards come and go.
  connect(keyboards, &QMenu::aboutToShow, this, [this, keyboards] {
    keyboards->clear();
    QStringList ports{QString()};
    for (const std::string& port : midiPorts()) ports << QString::fromStdString(port);
    for (const QString& port : ports) {
      QAction* a = keyboards->addAction(port.isEmpty() ? "none" : menuText(port));
      a->setCheckable(true);
      a->setChecked(port == playIn_.port());
      connect(a, &QAction::triggered, this, [this, port] { playIn_.choosePort(port); });
    }
    QAction* events = keyboards->addAction("Events from a file...");
    events->setCheckable(true);
    events->setChecked(playIn_.isFile());
    connect(events, &QAction::triggered, this, [this] {
      const QString path = askForFile(this, "Choose a file of key events", Asked::KeyEvents);
      if (!path.isEmpty()) playIn_.chooseFile(path);
    });
  });
}

void Window::buildViewMenu() {
  QMenu* view = menuBar()->addMenu("&View");
  for (int i = 0; i < 6; ++i) {
    QAction* a = add(view, stageName(static_cast<Stage>(i)), QKeySequence(QString("Ctrl+%1").arg(i + 1)),
                     [this, i] { goToStage(static_cast<Stage>(i)); });
    ticked(view, a, [this, i] { return currentStage() == static_cast<Stage>(i); });
  }
  view->addSeparator();
  ticked(view,
         add(view, "Ledger", QKeySequence("Ctrl+L"), [this] { ledger_->setVisible(!ledger_->isVisible()); }),
         [this] { return ledger_->isVisible(); });
  ticked(view, add(view, "Library", {}, [this] { showLibrary(!libraryPanel_->isVisible()); }),
         [this] { return libraryPanel_->isVisible(); });
  add(view, "Search the library", QKeySequence("Ctrl+F"), [this] { showLibrary(true); });
  add(view, "Go to header", QKeySequence("F3"), [this] { focusFirstIn(header_); });
  add(view, "Go to Ledger", QKeySequence("F5"), [this] {
    ledger_->show();
    focusFirstIn(ledger_);
  });
  add(view, "Go to loop", QKeySequence("F10"), [this] {
    strip_->show();
    strip_->setFocus(Qt::ShortcutFocusReason);
  });
  add(view, "Go to processors", QKeySequence("F4"), [this] {
    goToStage(Stage::Sounds);
    if (auto* chain = findChild<ChainStrip*>()) chain->setFocus(Qt::OtherFocusReason);
  });
  ticked(view,
         add(view, "Loop strip", QKeySequence("F9"), [this] { strip_->setVisible(!strip_->isVisible()); }),
         [this] { return strip_->isVisible(); });
  ticked(view,
         add(view, "Full screen", QKeySequence("F11"),
             [this] { isFullScreen() ? showNormal() : showFullScreen(); }),
         [this] { return isFullScreen(); });
  QAction* dark = add(view, "Dark", QKeySequence("Ctrl+Shift+L"), [] {
    applyTheme(light() == Light::Dark ? Light::Paper : Light::Dark);
    QSettings().setValue("light", light() == Light::Dark ? "dark" : "paper");
  });
  dark->setToolTip("Dark theme");
  ticked(view, dark, [] { return light() == Light::Dark; });
  QMenu* octave = view->addMenu("Middle C is written");
  for (int n : {3, 4, 5}) {
    QAction* a = octave->addAction(QString("C%1").arg(n));
    connect(a, &QAction::triggered, this,
            [this, n] { document_.edit(nameOctaves(static_cast<OctaveNaming>(n))); });
    ticked(octave, a, [this, n] { return static_cast<int>(document_.track().notes.octaves) == n; });
  }
}

}  // namespace heft::app
