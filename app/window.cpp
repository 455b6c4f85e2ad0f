#include "app/window.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
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
#include <QScreen>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
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
#include "app/loop/loop_strip.h"
#include "app/part_menu.h"
#include "app/pattern_files.h"
#include "app/sheets.h"
#include "app/stage_list.h"
#include "app/stages/align_page.h"
#include "app/stages/compare_page.h"
#include "app/stages/duck_page.h"
#include "app/stages/export_page.h"
#include "app/stages/layer_slip.h"
#include "app/stages/sounds_page.h"
#include "app/stages/tune_page.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/versions.h"

namespace heft::app {
namespace {

// Names of files as they are: an ampersand is no shortcut.
QString menuText(const QString& text) {
  return QString(text).replace("&", "&&");
}

// Ticked while it holds, asked when its menu opens.
void ticked(QMenu* menu, QAction* action, std::function<bool()> holds) {
  action->setCheckable(true);
  action->setChecked(holds());
  QObject::connect(menu, &QMenu::aboutToShow, action, [action, holds] { action->setChecked(holds()); });
}

constexpr size_t kMostAnswers = 3;
constexpr int kNewsMs = 4000, kFaultMs = 8000, kMsPerLetter = 40;

}  // namespace

NoticeBar::NoticeBar(QWidget* parent) : QWidget(parent) {
  setObjectName("Notice");
  setProperty(kAccessibleRole, QAccessible::Notification);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 6, 12, 6);
  words_ = new QLabel;
  words_->setObjectName("Notice words");
  words_->setTextFormat(Qt::PlainText);  // it may hold names of files
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
  connect(no_, &QPushButton::clicked, this, [this] { news_ ? showOffer() : answer(std::nullopt); });
  gone_.setSingleShot(true);
  connect(&gone_, &QTimer::timeout, this, [this] {
    if (underMouse() || isAncestorOf(QApplication::focusWidget())) return gone_.start();
    showOffer();
  });
  hide();
}

void NoticeBar::say(const QString& sentence, bool fault) {
  // An offer that waits comes back after it.
  news_ = true;
  fault_ = fault;
  words_->setText(sentence);
  setAccessibleName(sentence);
  for (QPushButton* button : answers_) button->hide();
  no_->setText("Close");
  show();
  update();
  gone_.start((fault ? kFaultMs : kNewsMs) + kMsPerLetter * static_cast<int>(sentence.size()));
}

void NoticeBar::forget() {
  offers_.clear();
  showOffer();
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
  news_ = false;
  gone_.stop();
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
  p.setPen(theme().ink);
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

OverPage::OverPage(QWidget* page, std::vector<QWidget*> notes) : QWidget(page->window()), page_(page) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  for (QWidget* note : notes) {
    column->addWidget(note);
    note->installEventFilter(this);
  }
  page->installEventFilter(this);
  hide();
}

bool OverPage::eventFilter(QObject* object, QEvent* event) {
  const auto type = event->type();
  if (type == QEvent::Resize || type == QEvent::Move || type == QEvent::ShowToParent ||
      type == QEvent::HideToParent || type == QEvent::LayoutRequest)
    QMetaObject::invokeMethod(this, &OverPage::place, Qt::QueuedConnection);
  return QWidget::eventFilter(object, event);
}

void OverPage::place() {
  bool any = false;
  for (int i = 0; i < layout()->count(); ++i) any = any || !layout()->itemAt(i)->widget()->isHidden();
  if (any && parentWidget()) {
    const int width = page_->width();
    const int height = layout()->hasHeightForWidth() ? layout()->totalHeightForWidth(width) : layout()->sizeHint().height();
    setGeometry(QRect(page_->mapTo(parentWidget(), QPoint(0, 0)), QSize(width, height)));
    raise();
  }
  setVisible(any);
}

Window::Window(const QString& libraryIndex) {
  setWindowTitle("Heft");
  setMinimumSize(1100, 700);
  auto* body = new QWidget;
  auto* column = new QVBoxLayout(body);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* header = new HeaderBar(document_, transport_);
  header_ = header;
  column->addWidget(header);
  connect(header, &HeaderBar::beforeAsked, this, [this](bool before) {
    heard_ = Heard::Stage;
    if (before) document_.setBefore(beforeStage());
    transport_.setBefore(before);
  });
  notices_ = new NoticeBar;
  stages_ = new StageList(document_);
  stack_ = new QStackedWidget;
  ledger_ = new LedgerPanel(document_);
  const QString own = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/library.db";
  library_ = new Library(document_, transport_, libraryIndex.isEmpty() ? own : libraryIndex, this);
  libraryPanel_ = new LibraryPanel(document_, *library_);
  libraryPanel_->hide();
  connect(libraryPanel_, &LibraryPanel::leaving, this, [this] {
    showLibrary(false);
    stages_->setFocus();
  });
  strip_ = new LoopStrip(document_, transport_, selection_);
  auto* left = new QWidget;
  auto* leftRow = new QHBoxLayout(left);
  leftRow->setContentsMargins(0, 0, 0, 0);
  leftRow->setSpacing(0);
  for (QWidget* w : std::initializer_list<QWidget*>{stages_, libraryPanel_, stack_}) leftRow->addWidget(w);
  leftRow->setStretch(2, 1);
  sides_ = new QSplitter(Qt::Horizontal);
  sides_->setObjectName("Sides");
  sides_->addWidget(left);
  sides_->addWidget(ledger_);
  sides_->setStretchFactor(0, 1);
  auto* playInBar = new PlayInBar(playIn_);
  connect(&transport_, &Transport::moved, playInBar, qOverload<>(&QWidget::update));
  auto* upper = new QWidget;
  auto* upperColumn = new QVBoxLayout(upper);
  upperColumn->setContentsMargins(0, 0, 0, 0);
  upperColumn->setSpacing(0);
  upperColumn->addWidget(sides_, 1);
  upperColumn->addWidget(playInBar);
  floors_ = new QSplitter(Qt::Vertical);
  floors_->setObjectName("Floors");
  floors_->addWidget(upper);
  floors_->addWidget(strip_);
  floors_->setStretchFactor(0, 1);
  for (QSplitter* splitter : {sides_, floors_}) {
    splitter->setHandleWidth(3);
    splitter->setChildrenCollapsible(false);
  }
  column->addWidget(floors_, 1);
  setCentralWidget(body);
  pages_ = {new SoundsPage(document_, selection_),  new TunePage(document_, selection_),
            new AlignPage(document_, selection_),   new DuckPage(document_, selection_),
            new ComparePage(document_, selection_), new ExportPage(document_, selection_)};
  auto* sounds = static_cast<SoundsPage*>(pages_[0]);
  strip_->setChosenLayer([sounds](int part) {
    const LayerChoice& choice = sounds->choice();
    return choice.place().id == part && choice.layer() ? choice.layer()->id : 0;
  });
  connect(strip_, &LoopStrip::partChosen, this, [this, sounds](int lane) {
    showStage(Stage::Sounds);
    sounds->showPart(Place{lane});
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
            (more > 0 ? QString(" and %1 more changed on disk.").arg(more) : " changed on disk."),
        {{"Reload",
          [this] {
            for (const QString& each : std::exchange(writtenAgain_, {})) document_.reloadSource(each);
          }}},
        {"Leave as it is", [this] { writtenAgain_.clear(); }});
  });
  connect(&document_, &Document::replaced, this, [this] {
    writtenAgain_.clear();
    notices_->forget();
  });
  connect(&document_, &Document::backingBeatFound, this, [this](double seconds) {
    notices_->offer("backing beat",
                    QString("The backing's first beat stands at %1 s.").arg(QString::number(seconds, 'f', 3)),
                    {{"Start the loop there",
                      [this, seconds] {
                        document_.edit("move backing", [&](Session& s) { s.backing.offsetSeconds = seconds; });
                      }}},
                    {"Leave as it is", {}});
  });
  connect(&document_, &Document::told, this, [this](const QString& s) { notices_->say(s, false); });
  connect(&transport_, &Transport::told, this, [this](const QString& s) { notices_->say(s, true); });
  connect(&document_, &Document::changed, this, &Window::refreshTitle);
  new OverPage(stack_, {notices_, new ActivityBar(document_.jobs())});
  qApp->installEventFilter(this);
  document_.newSession();
  showStage(Stage::Sounds);
  stages_->setFocus();
  restorePlace();
}

// As large as it was left; never larger than the screen.
void Window::restorePlace() {
  const QSettings settings;
  const QRect free = screen() ? screen()->availableGeometry() : QRect(0, 0, 1280, 800);
  const QSize frame(2, 32);
  resize(QSize(1280, 800).boundedTo(free.size() - frame).expandedTo(minimumSize()));
  if (settings.contains("window place")) {
    restoreGeometry(settings.value("window place").toByteArray());
    if (!isMaximized() && !isFullScreen()) resize(size().boundedTo(free.size()).expandedTo(minimumSize()));
  }
  sides_->setSizes({1000, 272});
  floors_->setSizes({600, 164});
  sides_->restoreState(settings.value("sides").toByteArray());
  floors_->restoreState(settings.value("floors").toByteArray());
}

void Window::keepPlace() const {
  QSettings settings;
  settings.setValue("window place", saveGeometry());
  settings.setValue("sides", sides_->saveState());
  settings.setValue("floors", floors_->saveState());
}

// Tab goes through the window as it is read: header, stages, page, Ledger, loop.
bool Window::focusNextPrevChild(bool next) {
  std::vector<QWidget*> order;
  for (QWidget* part : std::initializer_list<QWidget*>{header_, stages_, libraryPanel_, stack_->currentWidget(),
                                                       ledger_, strip_, notices_}) {
    if (!part->isVisible()) continue;
    std::vector<QWidget*> inside;
    if (part->focusPolicy() & Qt::TabFocus) inside.push_back(part);
    for (QWidget* w : part->findChildren<QWidget*>())
      if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus) && !w->focusProxy()) inside.push_back(w);
    // Where it stands unscrolled: going through a list scrolls it, and must not change the order.
    auto place = [&](const QWidget* w) {
      if (w == part) return QPoint(-1, -1);
      QPoint at;
      for (; w && w != part; w = w->parentWidget()) {
        const QWidget* around = w->parentWidget() ? w->parentWidget()->parentWidget() : nullptr;
        const auto* scroll = qobject_cast<const QScrollArea*>(around);
        if (!scroll || scroll->widget() != w) at += w->pos();
      }
      return at;
    };
    // In rows: what stands beside each other is one.
    std::stable_sort(inside.begin(), inside.end(), [&](QWidget* a, QWidget* b) { return place(a).y() < place(b).y(); });
    for (size_t first = 0; first < inside.size();) {
      size_t last = first + 1;
      const int bottom = place(inside[first]).y() + std::min(24, inside[first]->height());
      while (last < inside.size() && place(inside[last]).y() < bottom) ++last;
      std::stable_sort(inside.begin() + static_cast<ptrdiff_t>(first), inside.begin() + static_cast<ptrdiff_t>(last),
                       [&](QWidget* a, QWidget* b) { return place(a).x() < place(b).x(); });
      first = last;
    }
    order.insert(order.end(), inside.begin(), inside.end());
  }
  if (order.empty()) return false;
  const auto at = std::find(order.begin(), order.end(), QApplication::focusWidget());
  const auto count = static_cast<ptrdiff_t>(order.size());
  const ptrdiff_t now = at == order.end() ? (next ? -1 : 0) : at - order.begin();
  order[static_cast<size_t>((now + (next ? 1 : -1) + count) % count)]->setFocus(next ? Qt::TabFocusReason
                                                                                    : Qt::BacktabFocusReason);
  return true;
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
    if (!mayDiscard()) return;
    document_.newSession();
    showStage(Stage::Sounds);
  });
  add(file, "Open...", QKeySequence("Ctrl+O"), [this] { openDialog(); });
  QMenu* recent = file->addMenu("Open recent");
  recent->setObjectName("Open recent menu");
  connect(recent, &QMenu::aboutToShow, this, [this, recent] {
    recent->clear();
    for (const QString& folder : Document::recentFolders())
      connect(recent->addAction(menuText(QFileInfo(folder).completeBaseName() + "   " + QFileInfo(folder).path())),
              &QAction::triggered, this, [this, folder] {
                if (mayDiscard()) document_.openAside(folder);
              });
    if (recent->isEmpty()) recent->addAction("none yet")->setEnabled(false);
  });
  add(file, "Save", QKeySequence("Ctrl+S"), [this] { save(false); });
  add(file, "Save as...", QKeySequence("Ctrl+Shift+S"), [this] { save(true); });
  file->addSeparator();
  QMenu* patterns = file->addMenu("Patterns");
  patterns->setObjectName("Patterns menu");
  const QString midiFiles = "MIDI files (*.mid *.midi);;All files (*)";
  auto readFor = [this, midiFiles](auto placeNow) {
    const QString path = QFileDialog::getOpenFileName(this, "Choose a MIDI file", {}, midiFiles);
    if (!path.isEmpty()) readPattern(document_, placeNow(), path, this);
  };
  add(patterns, "Read the kick's hits from a MIDI file...", {},
      [this, readFor] { readFor([this] { return kickOf(document_.session()); }); });
  add(patterns, "Read the bass line from a MIDI file...", {},
      [this, readFor] { readFor([this] { return bassOf(document_.session()); }); });
  add(patterns, "Read the chosen part's pattern from a MIDI file...", {}, [this, readFor] {
    readFor([this] { return Place{static_cast<SoundsPage*>(pages_[0])->choice().part().id}; });
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
      connect(keyMenu->addAction(menuText("From " + QString::fromStdString(reference.name))), &QAction::triggered, this,
              [this, reference, offerKey] { findKeyAndTempo(document_, reference, offerKey); });
  });
  file->addSeparator();
  add(file, "Export", QKeySequence("Ctrl+E"), [this] {
    showStage(Stage::Export);
    static_cast<ExportPage*>(page(Stage::Export))->write();
  });
  file->addSeparator();
  add(file, "Close", QKeySequence("Ctrl+W"), [this] { close(); });
  add(file, "Quit", QKeySequence("Ctrl+Q"), [this] { close(); });
  QMenu* edit = menuBar()->addMenu("&Edit");
  QMenu* part = new QMenu("Part", this);
  part->setObjectName("Part of the session menu");
  connect(part, &QMenu::aboutToShow, this, [this, part] {
    part->clear();
    fillPartMenu(*part, static_cast<SoundsPage*>(pages_[0])->choice(), this);
  });
  undo_ = add(edit, "Undo", QKeySequence("Ctrl+Z"), [this] { document_.undo(); });
  redo_ = add(edit, "Redo", QKeySequence("Ctrl+Shift+Z"), [this] { document_.redo(); });
  add(edit, "Mend all", QKeySequence("Ctrl+M"), [this] { ledger_->mendAll(); });
  edit->addSeparator();
  edit->addMenu(part);
  using Change = LoopStrip::EditKind;
  const std::pair<const char*, std::pair<Change, const char*>> changes[] = {
      {"Cut", {Change::Cut, "Ctrl+X"}},           {"Copy", {Change::Copy, "Ctrl+C"}},
      {"Paste", {Change::Paste, "Ctrl+V"}},       {"Duplicate", {Change::Duplicate, "Ctrl+D"}},
      {"Delete", {Change::Delete, ""}},           {"Select all", {Change::SelectAll, "Ctrl+A"}}};
  for (const auto& [words, change] : changes)
    add(edit, words, QKeySequence(change.second), [this, kind = change.first] {
      if (!editText(kind)) strip_->doEdit(kind);
    });
  QMenu* play = menuBar()->addMenu("&Play");
  QAction* loop = add(play, "Play", {}, [this] { transport_.toggle(); });
  loop->setText("Play\tSpace");
  connect(&transport_, &Transport::stateChanged, loop,
          [this, loop] { loop->setText(transport_.isPlaying() ? "Stop\tSpace" : "Play\tSpace"); });
  QAction* keys =
      add(play, "Play notes on the keys", QKeySequence("F7"), [this] { playIn_.setOn(!playIn_.isOn()); });
  QAction* take = add(play, "Record", QKeySequence("F8"),
                      [this] { playIn_.isTaking() ? playIn_.endTake() : playIn_.startTake(); });
  QMenu* quantise = play->addMenu("Quantise while recording");
  quantise->setObjectName("Quantise while recording menu");
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
      QAction* a = keyboards->addAction(port.isEmpty() ? "none" : menuText(port));
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
  for (int i = 0; i < 6; ++i) {
    QAction* a = add(view, stageName(static_cast<Stage>(i)), QKeySequence(QString("Ctrl+%1").arg(i + 1)),
                     [this, i] { showStage(static_cast<Stage>(i)); });
    ticked(view, a, [this, i] { return currentStage() == static_cast<Stage>(i); });
  }
  view->addSeparator();
  ticked(view, add(view, "Ledger", QKeySequence("Ctrl+L"), [this] { ledger_->setVisible(!ledger_->isVisible()); }),
         [this] { return ledger_->isVisible(); });
  ticked(view, add(view, "Library", {}, [this] { showLibrary(!libraryPanel_->isVisible()); }),
         [this] { return libraryPanel_->isVisible(); });
  add(view, "Search the library", QKeySequence("Ctrl+F"), [this] { showLibrary(true); });
  ticked(view, add(view, "Loop strip", QKeySequence("F9"), [this] { strip_->setVisible(!strip_->isVisible()); }),
         [this] { return strip_->isVisible(); });
  ticked(view, add(view, "Full screen", QKeySequence("F11"), [this] { isFullScreen() ? showNormal() : showFullScreen(); }),
         [this] { return isFullScreen(); });
  QAction* dark = add(view, "Dark", QKeySequence("Ctrl+Shift+L"), [] {
    applyTheme(light() == Light::Dark ? Light::Paper : Light::Dark);
    QSettings().setValue("light", light() == Light::Dark ? "dark" : "paper");
  });
  dark->setToolTip("Dark page for a dark room");
  ticked(view, dark, [] { return light() == Light::Dark; });
  QMenu* octave = view->addMenu("Middle C is written");
  for (int n : {3, 4, 5}) {
    QAction* a = octave->addAction(QString("C%1").arg(n));
    connect(a, &QAction::triggered, this, [this, n] {
      document_.edit("name octaves", [n](Session& s) { s.track.notes.octaves = static_cast<OctaveNaming>(n); });
    });
    ticked(octave, a, [this, n] { return static_cast<int>(document_.track().notes.octaves) == n; });
  }
  QMenu* help = menuBar()->addMenu("&Help");
  add(help, "Shortcuts", QKeySequence("F1"), [this] { showShortcuts(this); });
  add(help, "About Heft", {}, [this] { showAbout(this); });
}

// Where text or a card has the focus the Edit menu is theirs.
bool Window::editText(LoopStrip::EditKind kind) {
  using Kind = LoopStrip::EditKind;
  if (auto* card = qobject_cast<Slip*>(QApplication::focusWidget())) {
    if (kind == Kind::Duplicate) card->duplicate();
    if (kind == Kind::Delete) card->remove();
    return kind == Kind::Duplicate || kind == Kind::Delete;
  }
  auto* line = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  if (!line) return false;
  if (kind == Kind::Cut) line->cut();
  if (kind == Kind::Copy) line->copy();
  if (kind == Kind::Paste) line->paste();
  if (kind == Kind::Delete) line->del();
  if (kind == Kind::SelectAll) line->selectAll();
  return true;
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
  if (const auto* card = qobject_cast<Slip*>(QApplication::focusWidget()))
    if (const auto without = card->without()) return toggleBefore(Heard::Other, without);
  if (field && field->spec().without) return toggleBefore(Heard::Other, field->spec().without());
  if (currentStage() != Stage::Sounds) return;
  const auto section = sounds->withoutSection();
  if (!section) document_.tell("Nothing here can be out. Choose a value that can, or a section such as EQ.");
  toggleBefore(Heard::Other, section);
}

void Window::hearVersion() {
  const LayerChoice& choice = static_cast<SoundsPage*>(pages_[0])->choice();
  const auto other = choice.against();
  if (!other)
    return document_.tell(
        QString("The %1 has one version. A click on its version's name beside the row makes another.")
            .arg(QString::fromStdString(partWord(choice.part()))));
  toggleBefore(Heard::Other,
               Before{choice.versions().all[*other].name, [id = choice.part().id, i = *other](Session s) {
                        if (Part* part = s.part(id)) switchVersion(*part, i);
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

// Beside the session that is open, or the last one; never inside one.
QString Window::placeOfSessions() const {
  if (!document_.folder().isEmpty()) return QFileInfo(document_.folder()).absolutePath();
  const QStringList recent = Document::recentFolders();
  return recent.isEmpty() ? QDir::homePath() : QFileInfo(recent.front()).absolutePath();
}

void Window::openDialog() {
  if (!mayDiscard()) return;
  const QString folder =
      QFileDialog::getExistingDirectory(this, "Open a session (a folder named .heft)", placeOfSessions());
  if (!folder.isEmpty()) document_.openAside(folder);
}

bool Window::save(bool as, bool wait) {
  QString folder = document_.folder();
  if (as || folder.isEmpty()) {
    const QString suggested = QDir(placeOfSessions()).filePath(QString::fromStdString(document_.track().name) + ".heft");
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
  box.setTextFormat(Qt::PlainText);
  for (QAbstractButton* button : box.buttons()) button->setIcon({});
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
    QFile place(folder + "/saved-in");
    const QString saved = place.open(QIODevice::ReadOnly) ? QString::fromUtf8(place.readAll()) : QString();
    const QString what = saved.isEmpty() ? "A session that was never saved" : QFileInfo(saved).completeBaseName();
    notices_->offer(
        "restore", QString("Heft ended without closing. %1, as it was on %2, can be restored.").arg(what, when),
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
  keepPlace();
  event->accept();
}

// Space presses what has the focus and can be pressed, else it plays. Return presses buttons as well.
bool Window::pressFocused(QWidget* focus, int key) {
  if (auto* button = qobject_cast<QAbstractButton*>(focus)) {
    button->click();
    return true;
  }
  const auto* field = qobject_cast<ValueField*>(focus);
  const bool box = qobject_cast<QComboBox*>(focus) || qobject_cast<QAbstractItemView*>(focus) ||
                   (field && field->spec().choose && key == Qt::Key_Space) ||
                   (key == Qt::Key_Space && focus && focus->property(kTakesSpace).toBool());
  if (box || key != Qt::Key_Space) return false;
  transport_.toggle();
  return true;
}

// Letters work from anywhere but a text field.
bool Window::eventFilter(QObject* object, QEvent* event) {
  if (event->type() != QEvent::KeyPress || !isActiveWindow()) return QMainWindow::eventFilter(object, event);
  auto* key = static_cast<QKeyEvent*>(event);
  QWidget* focus = QApplication::focusWidget();
  const bool typing = qobject_cast<QLineEdit*>(focus) || qobject_cast<QPlainTextEdit*>(focus) ||
                      QApplication::activePopupWidget() || QApplication::activeModalWidget();
  if (typing || (object != focus && object != this) || (key->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)))
    return QMainWindow::eventFilter(object, event);
  switch (key->key()) {
    case Qt::Key_Space:
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return pressFocused(focus, key->key()) || QMainWindow::eventFilter(object, event);
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
      transport_.setSolo(document_.session().kick().id, !transport_.isSolo(document_.session().kick().id));
      return true;
    case Qt::Key_O:
      transport_.swapDevices();
      return true;
    case Qt::Key_J:
      transport_.setSolo(document_.session().bass().id, !transport_.isSolo(document_.session().bass().id));
      return true;
    default:
      return QMainWindow::eventFilter(object, event);
  }
}

}  // namespace heft::app
