#include "app/shell/window.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QDir>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QRandomGenerator>
#include <QScreen>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/desk/part_menu.h"
#include "app/files/file_choice.h"
#include "app/files/key_files.h"
#include "app/files/pattern_files.h"
#include "app/kit/kit_sheet.h"
#include "app/library/library.h"
#include "app/library/library_panel.h"
#include "app/loop/loop_strip.h"
#include "app/loop/song_overview.h"
#include "app/shell/activity_bar.h"
#include "app/shell/fix_sheet.h"
#include "app/shell/header_bar.h"
#include "app/shell/ledger_panel.h"
#include "app/shell/notices.h"
#include "app/shell/sheets.h"
#include "app/shell/stage_list.h"
#include "app/stages/align/align_page.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/duck/duck_page.h"
#include "app/stages/export/export_page.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/stages/tune/tune_page.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/patterns.h"
#include "core/session/versions.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::app {
Window::Window(const QString& libraryIndex, std::shared_ptr<StepCache> cache) : document_(std::move(cache)) {
  setWindowTitle("Heft");
  setMinimumSize(1100, 700);
  setAcceptDrops(true);
  notices_ = new NoticeBar;
  stages_ = new StageList(document_);
  stack_ = new QStackedWidget;
  ledger_ = new LedgerPanel(document_);
  buildLibrary(libraryIndex);
  layOut();
  fixes_ = new FixSheet(document_, centralWidget());
  buildPages();
  buildMenus();
  listen();
  new OverPage(stack_, {notices_, new ActivityBar(document_.jobs())});
  qApp->installEventFilter(this);
  document_.newSession();
  showStage(Stage::Sounds);
  stages_->setFocus();
  restorePlace();
  playIn_.reopenPort();
}

void Window::buildHeader(QVBoxLayout* column) {
  auto* header = new HeaderBar(document_, transport_, ear_);
  header_ = header;
  column->addWidget(header);
  connect(header, &HeaderBar::located, this, [this](double quarters) { strip_->view().showAt(quarters); });
  connect(header, &HeaderBar::beforeAsked, this,
          [this](bool before) { before_.hearStage(before, beforeStage()); });
}

void Window::buildLibrary(const QString& libraryIndex) {
  const QString own = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/library.db";
  library_ = new Library(document_, transport_, libraryIndex.isEmpty() ? own : libraryIndex, this);
  document_.references().setShelf(libraryIndex.isEmpty() ? own : libraryIndex);
  libraryPanel_ = new LibraryPanel(document_, *library_);
  libraryPanel_->hide();
  connect(libraryPanel_, &LibraryPanel::leaving, this, [this] {
    showLibrary(false);
    stages_->setFocus();
  });
}

void Window::layOut() {
  auto* body = new QWidget;
  auto* column = new QVBoxLayout(body);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  buildHeader(column);
  strip_ = new LoopStrip(document_, transport_, selection_);
  auto* lower = new QWidget;
  auto* lowerColumn = new QVBoxLayout(lower);
  lowerColumn->setContentsMargins(0, 0, 0, 0);
  lowerColumn->setSpacing(0);
  lowerColumn->setSizeConstraint(QLayout::SetMinAndMaxSize);
  overview_ = new SongOverview(document_, transport_, *strip_, lower);
  lowerColumn->addWidget(overview_);
  lowerColumn->addWidget(strip_, 1);
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
  auto* playInBar = new PlayInBar(playIn_, *teacher_);
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
  floors_->addWidget(lower);
  floors_->setStretchFactor(0, 1);
  for (QSplitter* splitter : {sides_, floors_}) {
    splitter->setHandleWidth(3);
    splitter->setChildrenCollapsible(false);
  }
  column->addWidget(floors_, 1);
  setCentralWidget(body);
}

void Window::buildPages() {
  pages_ = {new SoundsPage(document_, selection_),        new TunePage(document_, selection_),
            new AlignPage(document_, selection_),         new DuckPage(document_, selection_),
            new ComparePage(document_, selection_, ear_), new ExportPage(document_, selection_)};
  auto* sounds = static_cast<SoundsPage*>(pages_[0]);
  connectWays();
  connectFirstSteps(sounds->firstSteps());
  connect(&sounds->choice(), &LayerChoice::changed, this, [this, sounds] {
    const LayerChoice& choice = sounds->choice();
    libraryPanel_->serve(choice.place(), choice.layer() ? std::optional(choice.layer()->id) : std::nullopt);
  });
  strip_->setChosenLayer([sounds](int part) -> std::optional<int> {
    const LayerChoice& choice = sounds->choice();
    if (choice.place().id != part || !choice.layer()) return std::nullopt;
    return choice.layer()->id;
  });
  connect(strip_, &LoopStrip::partChosen, this, [this, sounds](int lane) {
    showStage(Stage::Sounds);
    sounds->showPart(Place{lane});
  });
  // Where many lanes leave a page too little room, it scrolls.
  for (StagePage* page : pages_) {
    auto* area = new QScrollArea;
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setFocusPolicy(Qt::NoFocus);
    area->setProperty("role", "stage");
    area->setWidget(page);
    stack_->addWidget(area);
  }
}

void Window::listen() {
  connect(stages_, &StageList::chosen, this, &Window::showStage);
  connect(ledger_, &LedgerPanel::opened, this, [this](const Finding& f) {
    showStage(f.stage);
    page(f.stage)->mark(f);
  });
  connect(fixes_, &FixSheet::left, this, [this] { focusFirstIn(ledger_); });
  connect(ledger_, &LedgerPanel::fixAllAsked, this, &Window::openFixes);
  connect(&document_, &Document::failed, this, [this](const QString& s) { notices_->say(s, true); });
  offers_ = new Offers(document_, *notices_);
  offers_->setParent(this);
  connect(&document_, &Document::told, this, [this](const QString& s) { notices_->say(s, false); });
  connect(&transport_, &Transport::located, this, &Window::chooseHitAtPlayhead);
  connect(teacher_, &Teacher::automationWanted, this, [this](const AutomationOf& of) {
    strip_->setVisible(true);
    strip_->drawAutomationOf(of);
  });
  connect(&transport_, &Transport::told, this, [this](const QString& s) { notices_->say(s, true); });
  connect(&document_, &Document::changed, this, [this] {
    notices_->passNews();
    refreshTitle();
  });
}

// Opens the list of fixes under the Ledger's head, or closes it.
void Window::openFixes() {
  if (fixes_->isVisible()) return fixes_->close();
  const auto* button = findChild<QPushButton*>("Fix all");
  if (!button->isEnabled()) return;
  const QPoint below = button->mapTo(centralWidget(), QPoint(button->width(), button->height() + 6));
  fixes_->open(button->isVisible() ? below.x() : centralWidget()->width() - 12,
               button->isVisible() ? below.y() : stack_->mapTo(centralWidget(), QPoint()).y());
}

// As large as last time; never larger than the screen.
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

Window::~Window() {
  // They play through the transport, which would go first.
  delete libraryPanel_;
  delete library_;
  qApp->removeEventFilter(this);
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
  // Qt moves the focus into the new page as Tab would; Space still plays.
  reachedByTab_ = false;
  stages_->setCurrent(stage);
  before_.follow(beforeStage());
}

// What Before bypasses in the shown stage; if that has no moves of its own, all.
Edit Window::beforeStage() const {
  constexpr MovesOf kMoves[] = {MovesOf::Sounds, MovesOf::Tune, MovesOf::Align,
                                MovesOf::Duck,   MovesOf::All,  MovesOf::All};
  return leaveOut(kMoves[static_cast<size_t>(currentStage())]);
}

// The automation being drawn, or that of a focused field.
std::optional<Edit> Window::withoutAutomation(const ValueField* field) const {
  const auto value = field && field->spec().turned ? field->spec().turned() : std::nullopt;
  AutomationOf of;
  if (strip_->hasFocus() && strip_->pen().isDrawing())
    of = strip_->pen().of();
  else if (value && heardAutomation(document_.session(), value->owner, value->key))
    of = {value->owner, value->key, value->name};
  else
    return std::nullopt;
  Edit without = switchAutomation(of, false);
  without.name = "without automation";
  return without;
}

// A focused field that can be off, or the shown section of Sounds.
void Window::hearWithout() {
  const auto* sounds = static_cast<SoundsPage*>(pages_[0]);
  const auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
  if (const auto* card = qobject_cast<Slip*>(QApplication::focusWidget()))
    if (const auto without = card->without()) return before_.toggle(without);
  if (const auto without = withoutAutomation(field)) return before_.toggle(without);
  if (field && field->spec().without) return before_.toggle(field->spec().without());
  if (currentStage() == Stage::Align)
    if (const auto without = findChild<AlignPage*>()->without()) return before_.toggle(without);
  if (currentStage() == Stage::Duck) return before_.toggle(duckPage()->withoutChosen());
  if (currentStage() != Stage::Sounds) return;
  const auto section = sounds->withoutSection();
  if (!section) document_.tell("Nothing to bypass here. Select a value or a section such as EQ.");
  before_.toggle(section);
}

// Every value of the selected kind: all processors of a kind, all lengths, or all of a stage's moves.
void Window::hearWithoutKind() {
  const auto* sounds = static_cast<SoundsPage*>(pages_[0]);
  if (currentStage() != Stage::Sounds) return before_.toggle(beforeStage());
  if (const Processor* p = sounds->choice().processor()) return before_.toggle(withoutKind(p->what.index()));
  if (sounds->section() != "Length")
    return document_.tell("Choose a processor or Length: Shift+I bypasses every one of its kind.");
  before_.toggle(withoutLengths());
}

void Window::hearVersion() {
  const LayerChoice& choice = static_cast<SoundsPage*>(pages_[0])->choice();
  const auto other = choice.against();
  if (!other)
    return document_.tell(
        QString("The %1 has one version. A click on its version's name beside the row makes another.")
            .arg(QString::fromStdString(partWord(choice.part()))));
  Edit playing = playVersion(choice.part(), *other);
  playing.name = choice.versions().all[*other].name;
  before_.toggle(playing);
}

void Window::refreshTitle() {
  const QString name = QString::fromStdString(printable(document_.track().name));
  setWindowTitle(name + (document_.isSaved() ? "" : " *") + " - Heft");
  undo_->setEnabled(!document_.undoName().isEmpty());
  undo_->setText(document_.undoName().isEmpty() ? "Undo" : "Undo " + document_.undoName());
  redo_->setEnabled(!document_.redoName().isEmpty());
  redo_->setText(document_.redoName().isEmpty() ? "Redo" : "Redo " + document_.redoName());
}

void Window::closeEvent(QCloseEvent* event) {
  if (!mayDiscard()) return event->ignore();
  transport_.stop();
  document_.files().autosave().drop();
  keepPlace();
  event->accept();
}

}  // namespace heft::app
