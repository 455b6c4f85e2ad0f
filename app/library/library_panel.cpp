#include "app/library/library_panel.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/files/file_choice.h"
#include "app/library/library_list.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/edit.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"

namespace heft::app {
namespace {

constexpr int kWidth = 392;
constexpr size_t kMostRanked = 200;
constexpr int kDetailLines = 3;

// Facts without a column of their own.
QString detailsOf(const LibraryRow& row, const Track& track, const QStringList& folders) {
  QString path = QString::fromStdString(row.file.path);
  for (const QString& folder : folders)
    if (path.startsWith(folder + "/")) path = QFileInfo(folder).fileName() + path.mid(folder.size());
  if (!row.present) return path + "\nIt is not there any more.";
  if (!row.fault.empty()) return path + "\n" + QString::fromStdString(row.fault);
  auto number = [](double value, int decimals) {
    return QString::fromStdString(formatNumber(value, decimals));
  };
  QStringList words;
  if (row.noteHz) {
    words << number(*row.noteHz, 1) + " Hz, " + confidenceWord(row.confidence) + (row.lands ? "" : ", glides");
    if (row.startHz > 1.03 * *row.noteHz)
      words << "falls from " +
                   QString::fromStdString(noteName(
                       static_cast<int>(std::lround(midiFromHz(row.startHz, track.notes.a4Hz))), track.notes));
  }
  words << number(row.seconds, 2) + " s long"
        << "peak " + dbText(row.peakDbfs) + "FS"
        << number(100.0 * row.weight, 0) + QString(QChar::Nbsp) + "% below 120 Hz"
        << "centre " + number(row.brightnessHz, 0) + " Hz";
  return path + "\n" + words.join(", ");
}

}  // namespace

LibraryPanel::LibraryPanel(Document& document, Library& library, QWidget* parent)
    : QWidget(parent), document_(document), library_(library) {
  setObjectName("Library");
  setAccessibleName("Library");
  setFixedWidth(kWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 12, 12, 8);
  column->setSpacing(8);
  auto* top = new QHBoxLayout;
  auto* title = plainLabel("Library");
  title->setFont(bodyFont(true));
  top->addWidget(title);
  top->addStretch(1);
  column->addLayout(top);
  words_ = new QLineEdit;
  words_->setObjectName("Library search");
  words_->setAccessibleName("Library search");
  words_->installEventFilter(this);
  words_->setPlaceholderText("Search names and folders");
  column->addWidget(words_);
  addKindFields();
  addLimitFields();
  auto* fieldRow = new QHBoxLayout;
  fieldRow->setSpacing(12);
  for (ValueField* field : fields_) (field->spec().caption.isEmpty() ? top : fieldRow)->addWidget(field);
  fieldRow->addStretch(1);
  column->addLayout(fieldRow);
  list_ = new LibraryList(document, library);
  column->addWidget(list_, 1);
  details_ = plainLabel();
  details_->setObjectName("Library details");
  details_->setProperty("role", "muted");
  details_->setWordWrap(true);
  details_->setAlignment(Qt::AlignLeft | Qt::AlignTop);
  details_->setFixedHeight(kDetailLines * details_->fontMetrics().lineSpacing() + 2);
  column->addWidget(details_);
  column->addLayout(buildBottom());
  listen();
  refresh();
}

QHBoxLayout* LibraryPanel::buildBottom() {
  auto* bottom = new QHBoxLayout;
  bottom->setSpacing(8);
  state_ = plainLabel();
  state_->setObjectName("Library state");
  state_->setProperty("role", "muted");
  state_->setWordWrap(true);
  bottom->addWidget(state_, 1);
  scan_ = new QPushButton("Scan");
  scan_->setObjectName("Scan library");
  scan_->setToolTip("Measure new and changed files");
  folders_ = new QPushButton("Folders");
  folders_->setObjectName("Library folders");
  folders_->setToolTip("Add a folder, or take one away");
  for (QPushButton* b : {scan_, folders_}) bottom->addWidget(b);
  return bottom;
}

void LibraryPanel::listen() {
  connect(words_, &QLineEdit::textChanged, this, [this](const QString& text) {
    query_.words = text.toStdString();
    search();
  });
  connect(scan_, &QPushButton::clicked, this,
          [this] { library_.isScanning() ? library_.cancelScan() : library_.scan(); });
  connect(folders_, &QPushButton::clicked, this, &LibraryPanel::foldersMenu);
  connect(list_, &LibraryList::heard, this,
          [this](const std::string& path) { library_.audition(path, place_); });
  connect(list_, &LibraryList::placed, this, [this](const std::string& path) { library_.place(path, place_); });
  connect(list_, &LibraryList::chosenChanged, this, &LibraryPanel::describeChosen);
  connect(list_, &LibraryList::headPressed, this, [this](int head) {
    constexpr Rank kHeadRanks[] = {Rank::Name, Rank::Landing, Rank::Tail, Rank::Fit};
    setOrder(kHeadRanks[head]);
    refresh();
  });
  connect(&library_, &Library::changed, this, &LibraryPanel::refresh);
  // Only the inputs of the search: every step of a drag is a change.
  connect(&document_, &Document::changed, this, [this] {
    const Track& t = document_.track();
    if (isVisible() && (t.key != key_ || t.tempoBpm != tempoBpm_ || t.notes.a4Hz != a4Hz_)) search();
  });
  connect(&document_, &Document::studied, this, [this] {
    if (isVisible() && rank_ == Rank::Loss && library_.isUnranked()) setOrder(rank_);
  });
}

void LibraryPanel::focusSearch() {
  words_->setFocus();
  words_->selectAll();
}

bool LibraryPanel::eventFilter(QObject* object, QEvent* event) {
  if (object != words_ || event->type() != QEvent::KeyPress) return QWidget::eventFilter(object, event);
  const int key = static_cast<QKeyEvent*>(event)->key();
  if (key == Qt::Key_Escape && !words_->text().isEmpty()) return words_->clear(), true;
  if (key != Qt::Key_Down && key != Qt::Key_Return) return QWidget::eventFilter(object, event);
  list_->setFocus();
  if (!list_->chosenRow()) list_->choose(0);
  return true;
}

// A choice that filters the search.
void LibraryPanel::addChoice(const QString& name, const QString& caption, const QString& tip,
                             const QStringList& words, const std::function<int()>& now,
                             const std::function<void(int)>& set) {
  fields_.push_back(new ValueField({.caption = caption,
                                    .name = name,
                                    .tip = tip,
                                    .text = [words, now] { return words.at(now()); },
                                    .choices = [words] { return words; },
                                    .choose =
                                        [this, set](int i) {
                                          set(i);
                                          for (ValueField* f : fields_) f->refresh();
                                          search();
                                        }}));
}

// Which sounds, and how they audition.
void LibraryPanel::addKindFields() {
  fields_.push_back(new ValueField(
      {.name = "Library part",
       .tip = "Part or layer that sounds preview and load into: the chosen card. Click for another part",
       .text = [this] { return "for " + servedWords(); },
       .choices =
           [this] {
             QStringList out;
             for (const Part& part : library_.session().parts)
               out << "for the " + QString::fromStdString(partWord(part));
             return out;
           },
       .choose =
           [this](int i) {
             const auto& parts = library_.session().parts;
             if (i >= 0 && static_cast<size_t>(i) < parts.size())
               serve(Place{parts[static_cast<size_t>(i)].id}, {});
           }}));
  constexpr SoundKind kAll[] = {SoundKind::Kick, SoundKind::Bass, SoundKind::Snare,     SoundKind::Clap,
                                SoundKind::Hat,  SoundKind::Tom,  SoundKind::Percussion};
  QStringList kinds;
  for (const SoundKind kind : kAll) kinds << soundKindWord(kind);
  const int any = static_cast<int>(kinds.size());
  kinds << "any sound";
  addChoice(
      "Library kind", {}, "Show only this kind, by file and folder names; kicks and basses also by measurement",
      kinds, [this, any] { return query_.kind ? static_cast<int>(*query_.kind) : any; },
      [this, any](int i) { query_.kind = i == any ? std::nullopt : std::optional(static_cast<SoundKind>(i)); });
  addChoice(
      "Preview", {}, "Fitted: in the loop, tuned, trimmed, aligned, ducked. Alone: as the file is",
      {"fitted", "alone"}, [this] { return library_.isFitted() ? 0 : 1; },
      [this](int i) { library_.setFitted(i == 0); });
}

QString LibraryPanel::servedWords() const {
  const Part* part = partAt(library_.session(), place_);
  if (!part) return "the kick";
  const QString word = "the " + QString::fromStdString(partWord(*part));
  const Layer* layer = layer_ ? part->layer(*layer_) : nullptr;
  return layer && part->firstLayer() != layer
             ? word + QString(", layer %1").arg(layer - part->layers.data() + 1)
             : word;
}

// Files audition in place of the chosen card's sound; the kind filter follows it unless it shows any sound.
void LibraryPanel::serve(Place place, std::optional<int> layer) {
  if (!place.isPart() || (place == place_ && layer == layer_)) return;
  const Part* part = partAt(library_.session(), place);
  if (!part) return;
  const bool other = place != place_;
  place_ = place, layer_ = layer;
  library_.serve(layer);
  const auto kind = part->is() == PartRole::Kick   ? std::optional(SoundKind::Kick)
                    : part->is() == PartRole::Bass ? std::optional(SoundKind::Bass)
                                                   : kindNamedBy(part->title());
  if (other && query_.kind) query_.kind = kind;
  for (ValueField* f : fields_) f->refresh();
  if (isVisible()) search();
}

void LibraryPanel::addLimitFields() {
  addChoice(
      "Lands near", "lands near", "Landing within this distance of tonic or fifth",
      {"anywhere", "1 st", "2 st"}, [this] { return !query_.semitones          ? 0
                                                    : *query_.semitones == 1.0 ? 1
                                                                               : 2; },
      [this](int i) { query_.semitones = i == 0 ? std::nullopt : std::optional<double>(i); });
  addChoice(
      "Tail range", "tail", "Tail length", {"any", "to 1/16", "1/16 to 1/8", "1/8 and more"},
      [this] { return tail_; }, [this](int i) { tail_ = i; });
  addChoice(
      "Least weight", "below 120 Hz", "Least share of energy below 120 Hz", {"any", "a third", "two thirds"},
      [this] { return query_.leastWeight == 0.0  ? 0
                      : query_.leastWeight < 0.5 ? 1
                                                 : 2; },
      [this](int i) { query_.leastWeight = i / 3.0; });
  addChoice(
      "Library order", "by", "Sort order. Phase loss: what the pair still loses once fitted",
      {"fit", "phase loss", "name", "landing", "tail", "below 120 Hz", "brightness"},
      [this] { return static_cast<int>(rank_); }, [this](int i) { setOrder(static_cast<Rank>(i)); });
  addChoice(
      "Shown files", "show", "Favourites only; files that are missing too; those that could not be read",
      {"all", "favourites", "missing too", "unreadable"},
      [this] {
        return query_.favourites ? 1 : query_.gone ? 2 : query_.faults ? 3 : 0;
      },
      [this](int i) { query_.favourites = i == 1, query_.gone = i == 2, query_.faults = i == 3; });
}

void LibraryPanel::setOrder(Rank rank) {
  rank_ = rank;
  list_->setShowsLoss(rank_ == Rank::Loss);
  if (rank_ != Rank::Loss) return;
  std::vector<std::string> paths;
  for (size_t k : list_->order())
    if (paths.size() < kMostRanked && library_.rows()[k].fault.empty() && library_.rows()[k].present)
      paths.push_back(library_.rows()[k].file.path);
  library_.rank(paths, place_);
}

void LibraryPanel::describeChosen() {
  const LibraryRow* row = list_->chosenRow();
  QString words = row ? detailsOf(*row, document_.track(), library_.folders()) : QString();
  if (const SoundFit* fit = row && library_.isFitted() ? library_.fitOf(row->file.path) : nullptr)
    words += "\nFitted: " + QString::fromStdString(fitWords(*fit, document_.track().notes));
  details_->setText(words);
}

void LibraryPanel::search() {
  key_ = document_.track().key, tempoBpm_ = document_.track().tempoBpm, a4Hz_ = document_.track().notes.a4Hz;
  const double sixteenth = 15000.0 / tempoBpm_;
  query_.leastTailMs = tail_ == 2 ? sixteenth : tail_ == 3 ? 2.0 * sixteenth : 0.0;
  query_.mostTailMs = tail_ == 1 ? 1.1 * sixteenth : tail_ == 2 ? 2.2 * sixteenth : 1e9;
  constexpr LibraryOrder kOrders[] = {LibraryOrder::Fit,       LibraryOrder::Fit,  LibraryOrder::Name,
                                      LibraryOrder::Landing,   LibraryOrder::Tail, LibraryOrder::Weight,
                                      LibraryOrder::Brightness};
  query_.folders.clear();
  for (const QString& folder : library_.folders()) query_.folders.push_back(folder.toStdString());
  auto order = searched(library_.rows(), query_, document_.track().key, kOrders[static_cast<size_t>(rank_)],
                        document_.track().notes.a4Hz);
  auto left = [&](size_t row) {
    const SoundFit* fit = library_.fitOf(library_.rows()[row].file.path);
    return fit ? fit->leftDb().value_or(0.0) : -1e10;
  };
  if (rank_ == Rank::Loss)
    std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) { return left(a) > left(b); });
  const auto sound = std::count_if(order.begin(), order.end(), [&](size_t i) {
    return library_.rows()[i].present && library_.rows()[i].fault.empty();
  });
  state_->setText(library_.words(static_cast<size_t>(sound)));
  list_->show(std::move(order));
}

void LibraryPanel::refresh() {
  scan_->setText(library_.isScanning() ? "Cancel" : "Scan");
  scan_->setEnabled(library_.isScanning() || !library_.folders().isEmpty());
  for (ValueField* field : fields_) field->refresh();
  search();
}

void LibraryPanel::foldersMenu() {
  QMenu menu(this);
  menu.setObjectName("Library folders menu");
  connect(menu.addAction("Add a folder..."), &QAction::triggered, this, [this] {
    const QString folder = askForFolder(this, "Choose a folder of sounds", Asked::LibraryFolder);
    if (!folder.isEmpty()) library_.addFolder(folder);
  });
  if (!library_.folders().isEmpty()) menu.addSeparator();
  for (const QString& folder : library_.folders())
    connect(menu.addAction("Leave out " + folder), &QAction::triggered, this,
            [this, folder] { library_.removeFolder(folder); });
  menu.exec(folders_->mapToGlobal(QPoint(0, folders_->height())));
}

// Another window may have scanned or marked meanwhile.
bool LibraryPanel::event(QEvent* event) {
  if (event->type() == QEvent::WindowActivate && asked_ && isVisible() && !library_.isScanning())
    library_.load();
  return QWidget::event(event);
}

void LibraryPanel::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return Q_EMIT leaving();
  QWidget::keyPressEvent(event);
}

void LibraryPanel::showEvent(QShowEvent*) {
  if (!std::exchange(asked_, true)) library_.load();
  search();
}

void LibraryPanel::hideEvent(QHideEvent*) {
  library_.endAudition();
}

void LibraryPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().page);
  p.setPen(QPen(theme().rule, 1.0));
  p.drawLine(QPointF(width() - 0.5, 0), QPointF(width() - 0.5, height()));
}

}  // namespace heft::app
