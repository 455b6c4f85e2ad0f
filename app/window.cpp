#include "app/window.h"

#include <QAction>
#include <QCloseEvent>
#include <QDialog>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QLockFile>
#include <QMenuBar>
#include <QMessageBox>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/activity_bar.h"
#include "app/file_choice.h"
#include "app/header_bar.h"
#include "app/key_files.h"
#include "app/kit_sheet.h"
#include "app/ledger_panel.h"
#include "app/library.h"
#include "app/library_panel.h"
#include "app/loop_strip.h"
#include "app/pattern_files.h"
#include "app/stage_list.h"
#include "app/stages/align_page.h"
#include "app/stages/compare_page.h"
#include "app/stages/duck_page.h"
#include "app/stages/export_page.h"
#include "app/stages/sounds_page.h"
#include "app/stages/tune_page.h"
#include "app/theme/theme.h"
#include "core/session/versions.h"

namespace heft::app {
namespace {

constexpr size_t kMostAnswers = 3;

}  // namespace

NoticeBar::NoticeBar(QWidget* parent) : QWidget(parent) {
  setObjectName("Notice");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 6, 12, 6);
  words_ = new QLabel;
  words_->setObjectName("Notice words");
  words_->setWordWrap(true);
  row->addWidget(words_, 1);
  for (size_t i = 0; i < kMostAnswers; ++i) {
    auto* button = new QPushButton;
    button->setObjectName(i == 0 ? QString("Notice yes") : QString("Notice answer %1").arg(i + 1));
    connect(button, &QPushButton::clicked, this, [this, i] { answer(i); });
    row->addWidget(button);
    answers_.push_back(button);
  }
  no_ = new QPushButton;
  no_->setObjectName("Notice no");
  row->addWidget(no_);
  connect(no_, &QPushButton::clicked, this, [this] { answer(std::nullopt); });
  hide();
}

void NoticeBar::say(const QString& sentence, bool fault) {
  // An offer that waits for an answer is not covered.
  if (!offers_.empty()) return;
  fault_ = fault;
  words_->setText(sentence);
  for (QPushButton* button : answers_) button->hide();
  no_->setText("Close");
  show();
  update();
}

void NoticeBar::offer(const QString& about, const QString& sentence, std::vector<Answer> answers,
                      Answer decline) {
  const auto same =
      std::find_if(offers_.begin(), offers_.end(), [&](const Offer& o) { return o.about == about; });
  answers.resize(std::min(answers.size(), kMostAnswers));
  Offer fresh{about, sentence, std::move(answers), std::move(decline)};
  if (same != offers_.end())
    *same = std::move(fresh);
  else
    offers_.push_back(std::move(fresh));
  showOffer();
}

void NoticeBar::showOffer() {
  if (offers_.empty()) return hide();
  fault_ = false;
  const Offer& first = offers_.front();
  words_->setText(first.sentence);
  for (size_t i = 0; i < answers_.size(); ++i) {
    answers_[i]->setVisible(i < first.answers.size());
    if (i < first.answers.size()) answers_[i]->setText(first.answers[i].words);
  }
  no_->setText(first.decline.words);
  show();
  update();
}

void NoticeBar::answer(std::optional<size_t> chosen) {
  if (offers_.empty()) return hide();
  const Offer answered = std::move(offers_.front());
  offers_.erase(offers_.begin());
  showOffer();
  const Answer& said =
      chosen && *chosen < answered.answers.size() ? answered.answers[*chosen] : answered.decline;
  if (said.doIt) said.doIt();
}

void NoticeBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().panel);
  p.fillRect(QRectF(0, 0, 4, height()), fault_ ? theme().off : theme().holds);
  p.setPen(theme().rule);
  p.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
}

Window::Window(const QString& libraryIndex) {
  setWindowTitle("Heft");
  setMinimumSize(1100, 700);
  resize(1280, 800);
  auto* body = new QWidget;
  auto* column = new QVBoxLayout(body);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* header = new HeaderBar(document_, transport_);
  column->addWidget(header);
  connect(header, &HeaderBar::beforeAsked, this, [this](bool before) {
    heard_ = Heard::Stage;
    if (before) document_.setBefore(beforeStage());
    transport_.setBefore(before);
  });
  notices_ = new NoticeBar;
  column->addWidget(notices_);
  column->addWidget(new ActivityBar(document_.jobs()));
  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  stages_ = new StageList(document_);
  stack_ = new QStackedWidget;
  ledger_ = new LedgerPanel(document_);
  const QString own = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/library.db";
  library_ = new Library(document_, transport_, libraryIndex.isEmpty() ? own : libraryIndex, this);
  libraryPanel_ = new LibraryPanel(document_, *library_);
  libraryPanel_->hide();
  middle->addWidget(stages_);
  middle->addWidget(libraryPanel_);
  middle->addWidget(stack_, 1);
  middle->addWidget(ledger_);
  column->addLayout(middle, 1);
  strip_ = new LoopStrip(document_, transport_, selection_);
  auto* playInBar = new PlayInBar(playIn_);
  connect(&transport_, &Transport::moved, playInBar, qOverload<>(&QWidget::update));
  column->addWidget(playInBar);
  column->addWidget(strip_);
  setCentralWidget(body);
  pages_ = {new SoundsPage(document_, selection_),  new TunePage(document_, selection_),
            new AlignPage(document_, selection_),   new DuckPage(document_, selection_),
            new ComparePage(document_, selection_), new ExportPage(document_, selection_)};
  strip_->setChosenLayer([sounds = static_cast<SoundsPage*>(pages_[0])](bool bass) {
    const bool same =
        (sounds->choice().role() == Role::Bass) == bass && sounds->choice().role() != Role::Backing;
    return same && sounds->choice().layer() ? sounds->choice().layer()->id : 0;
  });
  for (StagePage* page : pages_) stack_->addWidget(page);
  buildMenus();
  connect(stages_, &StageList::chosen, this, &Window::showStage);
  connect(ledger_, &LedgerPanel::opened, this, [this](const Finding& f) {
    showStage(f.stage);
    page(f.stage)->mark(f);
  });
  connect(&document_, &Document::failed, this, [this](const QString& s) { notices_->say(s, true); });
  connect(&document_, &Document::sourceChanged, this, [this](const QString& path) {
    if (!writtenAgain_.contains(path)) writtenAgain_ << path;
    const auto more = writtenAgain_.size() - 1;
    notices_->offer(
        "sources",
        QFileInfo(writtenAgain_.front()).fileName() +
            (more > 0 ? QString(" and %1 more were written again.").arg(more) : " was written again."),
        {{"Reload",
          [this] {
            for (const QString& each : std::exchange(writtenAgain_, {})) document_.reloadSource(each);
          }}},
        {"Leave as it is", [this] { writtenAgain_.clear(); }});
  });
  connect(&document_, &Document::replaced, this, [this] { writtenAgain_.clear(); });
  connect(&document_, &Document::told, this, [this](const QString& s) { notices_->say(s, false); });
  connect(&transport_, &Transport::told, this, [this](const QString& s) { notices_->say(s, true); });
  connect(&document_, &Document::changed, this, &Window::refreshTitle);
  qApp->installEventFilter(this);
  document_.newSession();
  showStage(Stage::Sounds);
  stages_->setFocus();
}

Window::~Window() {
  // They hear through the transport, which would go first.
  delete libraryPanel_;
  delete library_;
  qApp->removeEventFilter(this);
}

void Window::buildMenus() {
  auto add = [this](QMenu* menu, const QString& text, const QKeySequence& key, auto slot) {
    QAction* action = menu->addAction(text);
    action->setShortcut(key);
    connect(action, &QAction::triggered, this, slot);
    return action;
  };
  QMenu* file = menuBar()->addMenu("&File");
  add(file, "New", QKeySequence::New, [this] {
    if (mayDiscard()) document_.newSession();
  });
  add(file, "Open...", QKeySequence("Ctrl+O"), [this] { openDialog(); });
  add(file, "Save", QKeySequence("Ctrl+S"), [this] { save(false); });
  add(file, "Save as...", QKeySequence("Ctrl+Shift+S"), [this] { save(true); });
  file->addSeparator();
  QMenu* patterns = file->addMenu("Patterns");
  patterns->setObjectName("Patterns menu");
  const QString midiFiles = "MIDI files (*.mid *.midi);;All files (*)";
  for (Role role : {Role::Kick, Role::Bass})
    add(patterns,
        QString("Read the %1 from a MIDI file...").arg(role == Role::Kick ? "kick's hits" : "bass line"), {},
        [this, role, midiFiles] {
          const QString path = QFileDialog::getOpenFileName(this, "Choose a MIDI file", {}, midiFiles);
          if (!path.isEmpty()) readPattern(document_, role, path, this);
        });
  add(patterns, "Find the kick's hits in an audio loop...", {}, [this] {
    const QString path = askForSound(this, "Choose a loop of the session's tempo");
    if (!path.isEmpty()) findPattern(document_, path);
  });
  add(patterns, "Write both to a MIDI file...", {}, [this, midiFiles] {
    const QString path = QFileDialog::getSaveFileName(this, "Write patterns", "patterns.mid", midiFiles);
    if (!path.isEmpty()) writePatterns(document_, path);
  });
  add(file, "Tune a kit...", {}, [this] {
    // It may stay open beside the window.
    auto* sheet = new KitSheet(document_, transport_, this);
    sheet->setAttribute(Qt::WA_DeleteOnClose);
    sheet->show();
  });
  QMenu* keyMenu = file->addMenu("Key and tempo");
  keyMenu->setObjectName("Key and tempo menu");
  auto offerKey = [this](const KeyOffer& found) {
    if (found.keys.empty() && !found.tempoBpm) return document_.tell(found.sentence);
    std::vector<NoticeBar::Answer> answers;
    for (const Key& key : found.keys)
      answers.push_back({QString::fromStdString(key.name()),
                         [this, found, key] { takeKeyAndTempo(document_, key, found.tempoBpm); }});
    if (answers.empty())
      answers.push_back({"Set tempo", [this, found] { takeKeyAndTempo(document_, {}, found.tempoBpm); }});
    notices_->offer("key", found.sentence, std::move(answers), {"Leave as it is", {}});
  };
  add(keyMenu, "From a loop or a track...", {}, [this, offerKey] {
    const QString path = askForSound(this, "Choose a loop or a track");
    if (!path.isEmpty()) findKeyAndTempo(document_, path, offerKey);
  });
  add(keyMenu, "From the backing", {}, [this, offerKey] {
    const AssetRef& backing = document_.session().backing.asset;
    if (backing.empty())
      return document_.tell("There is no backing yet: drop the rest of the track in Sounds.");
    findKeyAndTempo(document_, backing, offerKey);
  });
  // References come and go.
  connect(keyMenu, &QMenu::aboutToShow, keyMenu, [this, keyMenu, offerKey, own = keyMenu->actions().size()] {
    const auto actions = keyMenu->actions();
    for (auto i = own; i < actions.size(); ++i) delete actions.at(i);
    for (const AssetRef& reference : document_.session().references)
      connect(keyMenu->addAction("From " + QString::fromStdString(reference.name)), &QAction::triggered, this,
              [this, reference, offerKey] { findKeyAndTempo(document_, reference, offerKey); });
  });
  file->addSeparator();
  add(file, "Export", QKeySequence("Ctrl+E"), [this] {
    showStage(Stage::Export);
    static_cast<ExportPage*>(page(Stage::Export))->write();
  });
  file->addSeparator();
  add(file, "Quit", QKeySequence("Ctrl+Q"), [this] { close(); });
  QMenu* edit = menuBar()->addMenu("&Edit");
  undo_ = add(edit, "Undo", QKeySequence("Ctrl+Z"), [this] { document_.undo(); });
  redo_ = add(edit, "Redo", QKeySequence("Ctrl+Shift+Z"), [this] { document_.redo(); });
  QMenu* play = menuBar()->addMenu("&Play");
  QAction* keys =
      add(play, "Play notes on the keys", QKeySequence("Ctrl+K"), [this] { playIn_.setOn(!playIn_.isOn()); });
  QAction* take = add(play, "Take what is played", QKeySequence("Ctrl+R"),
                      [this] { playIn_.isTaking() ? playIn_.endTake() : playIn_.startTake(); });
  QMenu* quantise = play->addMenu("To the grid on the way in");
  quantise->setObjectName("Quantise on the way in menu");
  for (int percent : {0, 25, 50, 75, 100}) {
    QAction* a = add(quantise, percent == 0 ? QString("as it is played") : QString("%1 %").arg(percent), {},
                     [this, percent] { playIn_.setStrength(percent / 100.0); });
    a->setCheckable(true);
    connect(quantise, &QMenu::aboutToShow, a,
            [this, a, percent] { a->setChecked(std::lround(100.0 * playIn_.strength()) == percent); });
  }
  for (QAction* a : {keys, take}) a->setCheckable(true);
  connect(&playIn_, &PlayIn::changed, this,
          [=, this] { keys->setChecked(playIn_.isOn()), take->setChecked(playIn_.isTaking()); });
  QMenu* keyboards = play->addMenu("MIDI keyboard");
  keyboards->setObjectName("MIDI keyboard menu");
  // Asked for when it is opened: keyboards come and go.
  connect(keyboards, &QMenu::aboutToShow, this, [this, keyboards] {
    keyboards->clear();
    QStringList ports{QString()};
    for (const std::string& port : midiPorts()) ports << QString::fromStdString(port);
    for (const QString& port : ports) {
      QAction* a = keyboards->addAction(port.isEmpty() ? "none" : port);
      a->setCheckable(true);
      a->setChecked(port == playIn_.port());
      connect(a, &QAction::triggered, this, [this, port] { playIn_.choosePort(port); });
    }
    QAction* events = keyboards->addAction("Events from a file...");
    events->setCheckable(true);
    events->setChecked(playIn_.isFile());
    connect(events, &QAction::triggered, this, [this] {
      const QString path = QFileDialog::getOpenFileName(this, "Choose a file of key events", {},
                                                        "Key events (*.keys *.txt);;All files (*)");
      if (!path.isEmpty()) playIn_.chooseFile(path);
    });
  });
  QMenu* view = menuBar()->addMenu("&View");
  for (int i = 0; i < 6; ++i)
    add(view, stageName(static_cast<Stage>(i)), QKeySequence(QString("Ctrl+%1").arg(i + 1)),
        [this, i] { showStage(static_cast<Stage>(i)); });
  view->addSeparator();
  add(view, "Ledger", QKeySequence("Ctrl+L"), [this] { ledger_->setVisible(!ledger_->isVisible()); });
  add(view, "Library", QKeySequence("Ctrl+F"), [this] { showLibrary(!libraryPanel_->isVisible()); });
  add(view, "Loop strip", QKeySequence("Ctrl+P"), [this] { strip_->setVisible(!strip_->isVisible()); });
  QAction* lamp = add(view, "Lamp", QKeySequence("Ctrl+Shift+L"), [] {
    applyTheme(light() == Light::Lamp ? Light::Paper : Light::Lamp);
    QSettings().setValue("light", light() == Light::Lamp ? "lamp" : "paper");
  });
  lamp->setCheckable(true);
  lamp->setChecked(light() == Light::Lamp);
  lamp->setToolTip("Dark page for a dark room");
  QMenu* octave = view->addMenu("Middle C is written");
  for (int n : {3, 4, 5})
    connect(octave->addAction(QString("C%1").arg(n)), &QAction::triggered, this, [this, n] {
      document_.edit("name octaves", [n](Session& s) { s.track.notes.octaves = static_cast<OctaveNaming>(n); });
    });
  QMenu* help = menuBar()->addMenu("&Help");
  add(help, "Shortcuts", QKeySequence("F1"), [this] { showShortcuts(); });
}

void Window::showLibrary(bool shown) {
  constexpr int kBoth = 1500;
  libraryPanel_->setVisible(shown);
  if (shown) libraryPanel_->focusSearch();
  if (shown && width() < kBoth && ledger_->isVisible()) ledger_->hide(), ledgerGaveWay_ = true;
  if (!shown && std::exchange(ledgerGaveWay_, false)) ledger_->show();
}

Stage Window::currentStage() const {
  return static_cast<Stage>(stack_->currentIndex());
}

void Window::showStage(Stage stage) {
  stack_->setCurrentIndex(static_cast<int>(stage));
  stages_->setCurrent(stage);
  if (transport_.isBefore() && heard_ == Heard::Stage) document_.setBefore(beforeStage());
}

// What Before leaves out in the stage that is looked at; where a stage has no moves of its own, all.
Before Window::beforeStage() const {
  constexpr MovesOf kMoves[] = {MovesOf::Sounds, MovesOf::Tune, MovesOf::Align,
                                MovesOf::Duck,   MovesOf::All,  MovesOf::All};
  const MovesOf of = kMoves[static_cast<size_t>(currentStage())];
  return {"Before", [of](Session s) { return withoutMoves(std::move(s), of); }};
}

// Pressed for another kind while one is heard, it goes over to that.
void Window::toggleBefore(Heard kind, const std::optional<Before>& before) {
  if (!before) return;
  const bool same = heard_ == kind && (kind != Heard::Other || document_.before().name == before->name);
  const bool on = !transport_.isBefore() || !same;
  heard_ = kind;
  if (on) document_.setBefore(*before);
  transport_.setBefore(on);
}

// A field in focus that can be out, or the section of Sounds that is shown.
void Window::hearWithout() {
  const auto* sounds = static_cast<SoundsPage*>(pages_[0]);
  const auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
  if (field && field->spec().without) return toggleBefore(Heard::Other, field->spec().without());
  if (currentStage() != Stage::Sounds) return;
  const auto section = sounds->withoutSection();
  if (!section) document_.tell("Nothing here can be out. Choose a value that can, or a section such as EQ.");
  toggleBefore(Heard::Other, section);
}

void Window::hearVersion() {
  const LayerChoice& choice = static_cast<SoundsPage*>(pages_[0])->choice();
  const auto other = choice.against();
  const bool bass = choice.part() == Role::Bass;
  if (!other)
    return document_.tell(QString("The %1 has one version. A click on its name beside the row makes another.")
                              .arg(bass ? "bass" : "kick"));
  toggleBefore(Heard::Other, Before{choice.versions().all[*other].name, [bass, i = *other](Session s) {
                                      bass ? switchVersion(s.bass, i) : switchVersion(s.kick, i);
                                      return s;
                                    }});
}

void Window::refreshTitle() {
  const QString name = QString::fromStdString(document_.track().name);
  setWindowTitle(name + (document_.isSaved() ? "" : " *") + " - Heft");
  undo_->setEnabled(!document_.undoName().isEmpty());
  undo_->setText(document_.undoName().isEmpty() ? "Undo" : "Undo " + document_.undoName());
  redo_->setEnabled(!document_.redoName().isEmpty());
  redo_->setText(document_.redoName().isEmpty() ? "Redo" : "Redo " + document_.redoName());
}

bool Window::openFolder(const QString& folder) {
  return document_.open(folder);
}

void Window::openDialog() {
  if (!mayDiscard()) return;
  const QString folder =
      QFileDialog::getExistingDirectory(this, "Open a session (a folder named .heft)", document_.folder());
  if (!folder.isEmpty()) document_.openAside(folder);
}

bool Window::save(bool as, bool wait) {
  QString folder = document_.folder();
  if (as || folder.isEmpty()) {
    const QString suggested = QDir(folder.isEmpty() ? QDir::homePath() : QFileInfo(folder).path())
                                  .filePath(QString::fromStdString(document_.track().name) + ".heft");
    folder = QFileDialog::getSaveFileName(this, "Save the session as", suggested, "Heft sessions (*.heft)");
    if (folder.isEmpty()) return false;
    if (!folder.endsWith(".heft")) folder += ".heft";
  }
  // Whoever asks in order to discard waits for it.
  if (wait) return document_.save(folder);
  document_.saveAside(folder);
  return true;
}

bool Window::mayDiscard() {
  if (document_.isSaved()) return true;
  QMessageBox box(
      QMessageBox::NoIcon, "Heft",
      QString("%1 has changes that are not saved.").arg(QString::fromStdString(document_.track().name)),
      QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  const int answer = box.exec();
  return answer == QMessageBox::Discard || (answer == QMessageBox::Save && save(false, true));
}

void Window::startAutosave(const QString& root) {
  QDir().mkpath(root);
  for (const QFileInfo& left : QDir(root).entryInfoList({"run-*"}, QDir::Dirs)) {
    QLockFile lock(left.filePath() + "/lock");
    lock.setStaleLockTime(0);
    if (!lock.tryLock(0)) continue;  // another Heft that runs
    lock.unlock();
    if (!QFileInfo::exists(left.filePath() + "/session.json")) {
      QDir(left.filePath()).removeRecursively();
      continue;
    }
    const QString folder = left.filePath();
    const QString when = QFileInfo(folder + "/session.json").lastModified().toString("d MMMM, HH:mm");
    notices_->offer(
        "restore", QString("Heft ended without closing. What was open then, of %1, can be restored.").arg(when),
        {{"Restore", [this, folder] { document_.recover(folder); }}},
        {"Discard", [folder] { QDir(folder).removeRecursively(); }});
    break;
  }
  const QString mine = root + QString("/run-%1").arg(QCoreApplication::applicationPid());
  document_.enableAutosave(mine);
}

void Window::closeEvent(QCloseEvent* event) {
  if (!mayDiscard()) return event->ignore();
  transport_.stop();
  document_.dropAutosave();
  event->accept();
}

// Letters and Space work from anywhere but a text field.
bool Window::eventFilter(QObject* object, QEvent* event) {
  if (event->type() != QEvent::KeyPress || !isActiveWindow()) return QMainWindow::eventFilter(object, event);
  auto* key = static_cast<QKeyEvent*>(event);
  QWidget* focus = QApplication::focusWidget();
  const bool typing = qobject_cast<QLineEdit*>(focus) || qobject_cast<QPlainTextEdit*>(focus) ||
                      QApplication::activePopupWidget() || QApplication::activeModalWidget();
  if (typing || (object != focus && object != this) || (key->modifiers() & ~Qt::ShiftModifier))
    return QMainWindow::eventFilter(object, event);
  switch (key->key()) {
    case Qt::Key_Space:
      transport_.toggle();
      return true;
    case Qt::Key_B:
      if (key->modifiers() & Qt::ShiftModifier)
        toggleBefore(Heard::All, Before{"Before all", [](Session s) { return withoutMoves(std::move(s)); }});
      else
        toggleBefore(Heard::Stage, beforeStage());
      return true;
    case Qt::Key_I:
      hearWithout();
      return true;
    case Qt::Key_X:
      hearVersion();
      return true;
    case Qt::Key_K:
      transport_.setSolo(Lane::Kick, !transport_.isSolo(Lane::Kick));
      return true;
    case Qt::Key_O:
      transport_.swapDevices();
      return true;
    case Qt::Key_J:
      transport_.setSolo(Lane::Bass, !transport_.isSolo(Lane::Bass));
      return true;
    default:
      return QMainWindow::eventFilter(object, event);
  }
}

void Window::showShortcuts() {
  using Rows = std::vector<std::pair<const char*, const char*>>;
  const Rows everywhere = {{"Space", "play or stop"},
                           {"B, Shift+B", "before or after this stage's moves, or all"},
                           {"I", "without the value in focus, or the section shown"},
                           {"X", "with the part's other version"},
                           {"K, J", "kick alone, bass alone"},
                           {"O", "the output before this one, such as headphones"},
                           {"Ctrl+1 to Ctrl+6", "the stages"},
                           {"Ctrl+F", "the library"},
                           {"Ctrl+L, Ctrl+P", "fold the Ledger, the loop strip"},
                           {"Ctrl+Shift+L", "light the Lamp"},
                           {"Arrows", "nudge what has the focus; Shift for fine"},
                           {"Enter, Delete", "type a value, reset it"},
                           {"Alt while dragging", "without the grid, between the notes"},
                           {"Ctrl+K, Ctrl+R", "play notes on the keys, take what is played"},
                           {"Ctrl+Z, Ctrl+Shift+Z", "undo, redo"},
                           {"Ctrl+S, Ctrl+O, Ctrl+E", "save, open, export"}};
  const Rows loop = {{"Left, Right", "along the grid"},
                     {"Ctrl+Up, Down", "kick lane, bass lane"},
                     {"Enter, Delete", "place a hit or note, remove it"},
                     {"Up, Down", "the note's pitch; Shift by octaves"},
                     {"Shift+Left, Right", "shorten or lengthen the note"},
                     {"T, W", "tie the note, draw the pitch wheel"},
                     {"V, Shift+V", "louder, softer"},
                     {"4, 8, 1", "kick on every beat, bass off the beat, bass only under the first beat"},
                     {"+, -, 0", "closer, further, all of it"},
                     {"Ctrl+Shift+Left, Right", "mark a part"},
                     {"Ctrl+A, Esc", "mark all, nothing"},
                     {"Ctrl+C, X, V", "copy, cut, put what is marked"},
                     {"Ctrl+D", "what is marked again after it"},
                     {"Left, Right, Up, Down", "move what is marked; Alt in small steps"}};
  auto table = [](const QString& title, const Rows& rows) {
    QString out = "<p style='font-weight:600'>" + title + "</p><table cellpadding='2'>";
    for (const auto& [key, what] : rows)
      out += QString(
                 "<tr><td style='padding-right:20px; white-space:nowrap'><b>%1</b></td>"
                 "<td style='white-space:nowrap'>%2</td></tr>")
                 .arg(key, what);
    return out + "</table>";
  };
  QDialog sheet(this);
  sheet.setWindowTitle("Shortcuts");
  sheet.setObjectName("Shortcuts");
  auto* column = new QVBoxLayout(&sheet);
  column->setContentsMargins(24, 16, 24, 16);
  auto* words = new QLabel("<table><tr><td style='padding-right:40px'>" +
                           table("Everywhere; comparisons are level matched", everywhere) + "</td><td>" +
                           table("In the loop strip", loop) + "</td></tr></table>");
  words->setTextFormat(Qt::RichText);
  column->addWidget(words);
  auto* close = new QPushButton("Close");
  connect(close, &QPushButton::clicked, &sheet, &QDialog::accept);
  column->addWidget(close, 0, Qt::AlignRight);
  sheet.exec();
}

}  // namespace heft::app
