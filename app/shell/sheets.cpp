#include "app/shell/sheets.h"

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <utility>
#include <vector>

#include "app/theme/theme.h"

namespace heft::app {
namespace {

using Rows = std::vector<std::pair<const char*, const char*>>;

const Rows kEverywhere = {{"Space", "play or stop; after Tab it presses what is in focus"},
                          {"Return", "presses the button in focus, types the value in focus"},
                          {"Tab, Shift+Tab", "header, stages, page, Ledger, loop"},
                          {"B, Shift+B", "before or after this stage's moves, or all"},
                          {"I, Shift+I", "bypass the focused value or section; every one of its kind"},
                          {"X", "play the part's other version"},
                          {"L, Shift+L", "solo, mute the chosen card or lane"},
                          {"K, J", "solo the kick, the bass"},
                          {"R", "flip between the loop and the reference"},
                          {"O", "switch to the previous output, such as headphones"},
                          {"Ctrl+1 to Ctrl+6", "the stages"},
                          {"Ctrl+J", "a song, or a loop"},
                          {"Ctrl+G", "go to a bar"},
                          {"Ctrl+Page Down, Up", "next section, previous section"},
                          {"Ctrl+K, Ctrl+R", "section from here, repeat section"},
                          {". and ,", "next hit, previous hit; Shift: out of range"},
                          {"Ctrl+F, Esc", "search the library, leave it"},
                          {"F3, F5, F10, F4", "go to header, Ledger, loop, processors"},
                          {"Ctrl+L, F9", "fold the Ledger, the loop strip"},
                          {"Ctrl+Shift+L, F11", "Dark, full screen"},
                          {"F7, F8, Shift+F8", "play notes on the keys, record, record automation"},
                          {"Ctrl+B, Ctrl+Shift+B", "keep this state, compare with it"},
                          {"Ctrl+Z, Ctrl+Shift+Z", "undo, redo"},
                          {"Ctrl+N, Ctrl+O", "new session, open"},
                          {"Ctrl+I", "add a kick, a bass and the rest of the track"},
                          {"Ctrl+S, Ctrl+Shift+S", "save, save as"},
                          {"Ctrl+M", "list the fixes; Return applies them"},
                          {"Left, Right; Menu in the Ledger", "step through hits; other fixes of the line"},
                          {"Ctrl+E", "export"},
                          {"Ctrl+W, Ctrl+Q", "close, quit"},
                          {"F1", "this sheet"}};
const Rows kFields = {{"Up, Down", "step; Shift: fine"},
                      {"Return, F2", "type a value; Return: apply, Tab: next field, Esc: cancel"},
                      {"Space", "open a list (reached with Tab)"},
                      {"Delete", "reset"},
                      {"F6, Shift+F6", "learn a controller or the wheel; automate"},
                      {"Ctrl+Shift+wheel", "set the value assigned to the wheel; Alt: fine"}};
const Rows kPictures = {
    {"Shift+F1", "show what the focused picture can do"},
    {"Arrows", "nudge the selection; Shift: fine"},
    {"Alt or Ctrl+Shift while dragging", "no snap"},
    {"Up, Down in Tune", "the landing; Left, Right the moment at which it lands"},
    {"Left, Right in Align", "the bass's delay; P its polarity, A all hits, +, - zoom"},
    {"Return, S in Two sounds", "apply the best move, align the strikes"},
    {"Up, Down in Duck", "the depth; Left, Right from hit to hit"},
    {"Page Up, Down; Insert, Delete", "select, add, remove a point, hit or edge"},
    {"Ctrl+Up, Down", "bend the curve after it"},
    {"+, Insert in Sounds", "add a processor: a letter a kind, its first value next"},
    {"Alt+Shift and that letter", "add it at once: E envelope, Q EQ, D drive"},
    {"Ctrl+wheel, Ctrl+Plus, Minus, 0", "zoom a wave in Sounds, all of it"},
    {"F in Sounds, Tune, the kit", "the spectrum beside it; cuts in Sounds, Tune"},
    {"Space on processors", "bypass; Delete: remove"},
    {"Alt+Left, Right on them", "reorder; Up, Down: audition presets; Return: apply"},
    {"1 to 9, 0, N in Ways", "audition, as it is, hide names; Return applies"},
    {"1 to 9, 0 in Compare", "hear a reference, the loop; N hides names, Return prefers"},
    {"M, Left, Right in Compare", "in or out of the median; the next picture"},
    {"Up, Down; Return in Facts, Ceiling", "a row; take the median as target, apply the peak's move"},
    {"Left, Right; Up, Down in Median", "a band, its tolerance"},
    {"1 to 9, 0 in Tune", "hear a target, as recorded; Return keeps it, Esc drops it"},
    {"1 to 3, 0 in Align", "hear a way, as it is; Return keeps it; M: the map of every hit"},
    {"Alt+Shift+Left, Right on a card", "move the layer"},
    {"M, S on a card", "mute, solo the layer"}};
const Rows kLoop = {{"Left, Right", "along the grid"},
                    {"Ctrl+Up, Down", "the lane above, the lane below"},
                    {"Return, Delete", "place a hit or note, remove it"},
                    {"Up, Down", "the note's pitch; Shift by octaves"},
                    {"Shift+Left, Right", "shorten or lengthen the note"},
                    {"T, W", "glide into the next note, draw the pitch wheel"},
                    {"V, Shift+V", "louder, softer"},
                    {"4, 8, 1", "kick on every beat, bass off the beat, only under the first beat"},
                    {"+, -, 0", "zoom in, out, fit"},
                    {"Ctrl+Shift+Left, Right", "select a range"},
                    {"Ctrl+A, Esc", "select all, none"},
                    {"Ctrl+C, X, V", "copy, cut, paste the selection"},
                    {"Ctrl+D", "duplicate the selection after it"},
                    {"Arrows", "move the selection; Alt: no grid"}};
const Rows kAutomation = {{"Left, Right", "choose a point; Ctrl: move it"},
                          {"Up, Down", "its value, Shift: fine; Ctrl: bend the line after it"},
                          {"Digit, F2", "type its value and bend: -3 dB, bend 40 %"},
                          {"Insert, Delete", "add a point at the cursor, delete the chosen one"},
                          {"Shift and drag", "set the region, section or bar"},
                          {"I, Esc", "play without it; leave"}};

const Rows kSong = {{"Left, Right", "the playhead by a bar; Ctrl: by a section"},
                    {"Home", "to the start"},
                    {"Return, Esc", "repeat the section; no region"},
                    {"F2, Delete", "rename the section, remove it"},
                    {"+, -", "zoom the strip beneath"}};

// A heading over its keys, each with its action.
void addRows(QTreeWidget& list, const QString& title, const Rows& rows) {
  auto* heading = new QTreeWidgetItem(&list, {title});
  heading->setFont(0, bodyFont(true));
  heading->setFlags(Qt::ItemIsEnabled);
  heading->setFirstColumnSpanned(true);
  for (const auto& [key, what] : rows) {
    auto* row = new QTreeWidgetItem(heading, {key, what});
    row->setFont(0, bodyFont(true));
  }
  heading->setExpanded(true);
}

// Rows that hold all of the words; a heading while one of its rows does.
void filterRows(QTreeWidget& list, const QString& words) {
  const QStringList all = words.split(' ', Qt::SkipEmptyParts);
  for (int h = 0; h < list.topLevelItemCount(); ++h) {
    QTreeWidgetItem* heading = list.topLevelItem(h);
    bool any = false;
    for (int i = 0; i < heading->childCount(); ++i) {
      QTreeWidgetItem* row = heading->child(i);
      const QString text = heading->text(0) + " " + row->text(0) + " " + row->text(1);
      const bool shown = std::all_of(all.begin(), all.end(), [&](const QString& word) {
        return text.contains(word, Qt::CaseInsensitive);
      });
      row->setHidden(!shown);
      any = any || shown;
    }
    heading->setHidden(!any);
  }
}

void show(QWidget* parent, const QString& title, const QString& name, const QString& words) {
  QDialog sheet(parent);
  sheet.setWindowTitle(title);
  sheet.setObjectName(name);
  auto* column = new QVBoxLayout(&sheet);
  column->setContentsMargins(24, 16, 24, 16);
  auto* label = new QLabel(words);
  label->setObjectName(name + " words");
  label->setTextFormat(Qt::RichText);  // all of it is ours
  column->addWidget(label);
  auto* close = new QPushButton("Close");
  QObject::connect(close, &QPushButton::clicked, &sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  close->setFocus();
  sheet.exec();
}

}  // namespace

void showShortcuts(QWidget* parent) {
  QDialog sheet(parent);
  sheet.setWindowTitle("Shortcuts");
  sheet.setObjectName("Shortcuts");
  auto* column = new QVBoxLayout(&sheet);
  column->setContentsMargins(24, 16, 24, 16);
  auto* search = new QLineEdit;
  search->setObjectName("Search shortcuts");
  search->setAccessibleName("Search shortcuts");
  search->setPlaceholderText("Search: solo, zoom, Return");
  auto* list = new QTreeWidget;
  list->setObjectName("Shortcut list");
  list->setAccessibleName("Shortcut list");
  list->setColumnCount(2), list->setHeaderHidden(true), list->setRootIsDecorated(false);
  list->setIndentation(0), list->setUniformRowHeights(true), list->setSelectionMode(QTreeWidget::NoSelection);
  addRows(*list, "Everywhere; comparisons are level matched", kEverywhere);
  addRows(*list, "Values", kFields);
  addRows(*list, "Pictures and cards", kPictures);
  addRows(*list, "In the loop strip", kLoop);
  addRows(*list, "While automation is drawn", kAutomation);
  addRows(*list, "In the song overview", kSong);
  list->resizeColumnToContents(0);
  QObject::connect(search, &QLineEdit::textChanged, list,
                   [list](const QString& words) { filterRows(*list, words); });
  auto* close = new QPushButton("Close");
  close->setAutoDefault(false);
  QObject::connect(close, &QPushButton::clicked, &sheet, &QDialog::accept);
  column->addWidget(search), column->addWidget(list, 1), column->addWidget(close, 0, Qt::AlignRight);
  sheet.resize(QSize(720, 560).boundedTo(parent->size() - QSize(40, 60)));
  search->setFocus();
  sheet.exec();
}

void showAbout(QWidget* parent) {
  show(parent, "About Heft", "About",
       "<p style='font-size:17px; font-weight:600'>Heft " HEFT_VERSION
       "</p>"
       "<p>A workbench for the bottom two octaves of a track: kicks, 808s and sub basses<br>"
       "are tuned, aligned, ducked and compared.</p>"
       "<p>Free software under the GNU General Public License, version 3 or later.<br>"
       "It comes without any warranty, as far as the law allows; see the file LICENSE<br>"
       "that came with it. Libraries and the typeface: THIRD-PARTY.md.</p>");
}

}  // namespace heft::app
