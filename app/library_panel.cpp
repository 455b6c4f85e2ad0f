#include "app/library_panel.h"

#include <QApplication>
#include <QDrag>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QScrollBar>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/stages/layer_slip.h"
#include "app/stages/stage_page.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"

namespace heft::app {
namespace {

constexpr int kWidth = 392, kRowHeight = 24, kHeads = 22;
constexpr size_t kMostRanked = 200;
constexpr int kDetailLines = 3;
// Right edges of the columns, from the list's right.
constexpr double kFitRight = 8, kTailRight = 80, kNoteRight = 140, kMark = 20;

// What the list has no column for.
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
  if (row.landingHz) {
    words << number(*row.landingHz, 1) + " Hz, " +
                 confidenceWord(row.confidence);
    if (row.startHz > 1.03 * *row.landingHz)
      words << "falls from " +
                   QString::fromStdString(noteName(
                       static_cast<int>(std::lround(midiFromHz(row.startHz, track.notes.a4Hz))), track.notes));
  }
  words << number(row.seconds, 2) + " s long"
        << "peak " + dbText(row.peakDbfs) + "FS" << number(100.0 * row.weight, 0) + QString(QChar::Nbsp) + "% below 120 Hz"
        << "centre " + number(row.brightnessHz, 0) + " Hz";
  return path + "\n" + words.join(", ");
}

}  // namespace

LibraryList::LibraryList(Document& document, Library& library, QWidget* parent)
    : QAbstractScrollArea(parent), document_(document), library_(library) {
  setObjectName("Library list");
  setAccessibleName("Library list");
  setToolTip(
      "Up and down choose and play; Return or a double click places it; drag it to a card. F or a click on the "
      "star "
      "marks a favourite.");
  setFrameShape(QFrame::NoFrame);
  setFocusPolicy(Qt::StrongFocus);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  viewport()->setAutoFillBackground(false);
}

void LibraryList::show(std::vector<size_t> order) {
  order_ = std::move(order);
  chosen_ = -1;
  for (size_t i = 0; i < order_.size(); ++i)
    if (library_.rows()[order_[i]].file.path == chosenPath_) chosen_ = static_cast<int>(i);
  layScrollBar();
  viewport()->update();
  Q_EMIT chosenChanged();
}

void LibraryList::layScrollBar() {
  const int all = static_cast<int>(order_.size()) * kRowHeight, seen = viewport()->height() - kHeads;
  verticalScrollBar()->setRange(0, std::max(0, all - seen));
  verticalScrollBar()->setPageStep(seen);
  verticalScrollBar()->setSingleStep(kRowHeight);
}

const LibraryRow* LibraryList::chosenRow() const {
  return chosen_ >= 0 && chosen_ < static_cast<int>(order_.size())
             ? &library_.rows()[order_[static_cast<size_t>(chosen_)]]
             : nullptr;
}

QPointF LibraryList::rowAt(int row) const {
  return {120.0, kHeads + (row + 0.5) * kRowHeight - verticalScrollBar()->value()};
}

void LibraryList::choose(int row) {
  if (order_.empty()) return;
  chosen_ = std::clamp(row, 0, static_cast<int>(order_.size()) - 1);
  chosenPath_ = chosenRow()->file.path;
  const int top = chosen_ * kRowHeight, seen = viewport()->height() - kHeads;
  QScrollBar* bar = verticalScrollBar();
  bar->setValue(std::clamp(bar->value(), top + kRowHeight - seen, top));
  setAccessibleDescription(QString::fromStdString(chosenRow()->name()));
  viewport()->update();
  Q_EMIT chosenChanged();
  if (chosenRow()->fault.empty() && chosenRow()->present) Q_EMIT heard(chosenPath_);
}

void LibraryList::drawHeads(QPainter& p) const {
  const Theme& t = theme();
  const QRectF box(0, 0, viewport()->width(), kHeads);
  p.fillRect(box, t.page);
  p.setFont(axisFont());
  auto head = [&](double right, const QString& words) {
    drawLabel(p, QPointF(box.right() - right, box.center().y()), Qt::AlignRight | Qt::AlignVCenter, words,
              t.muted, t.page);
  };
  drawLabel(p, QPointF(kMark, box.center().y()), Qt::AlignLeft | Qt::AlignVCenter, "name", t.muted, t.page);
  head(kNoteRight, "lands on");
  head(kTailRight, "tail, ms");
  head(kFitRight, showsLoss_ ? "phase loss" : "to key");
  p.setPen(QPen(t.rule, 1.0));
  p.drawLine(QPointF(0, kHeads - 0.5), QPointF(box.right(), kHeads - 0.5));
}

void LibraryList::drawRow(QPainter& p, const QRectF& box, const LibraryRow& row, bool chosen) const {
  const Theme& t = theme();
  const QColor ground = chosen ? t.panel : t.page;
  if (chosen) {
    p.fillRect(box, ground);
    p.setPen(QPen(hasFocus() ? t.bass : t.ink, 1.0));
    p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
  }
  drawFavourite(p, QPointF(10, box.center().y()), row.favourite);
  const double y = box.center().y(), middle = box.right() - kNoteRight - 66;
  p.setFont(axisFont(chosen));
  const bool there = row.present && row.fault.empty();
  auto put = [&](double right, const QString& words, const QColor& colour) {
    drawLabel(p, QPointF(box.right() - right, y), Qt::AlignRight | Qt::AlignVCenter, words, colour, ground);
  };
  const QString name = p.fontMetrics().elidedText(QString::fromStdString(row.name()), Qt::ElideMiddle,
                                                  static_cast<int>(middle - kMark));
  drawLabel(p, QPointF(kMark, y), Qt::AlignLeft | Qt::AlignVCenter, name, there ? t.ink : t.muted, ground);
  p.setFont(axisFont());
  if (!there) {
    const QString why = row.present ? QString::fromStdString(row.fault) : QString("not there any more");
    const int room = static_cast<int>(box.right() - middle) - 8;
    put(kFitRight, p.fontMetrics().elidedText(why, Qt::ElideRight, room), t.off);
    return;
  }
  const double a4 = document_.track().notes.a4Hz;
  put(kNoteRight,
      row.landingHz ? QString::fromStdString(pitchText(midiFromHz(*row.landingHz, a4), document_.track().notes))
                    : QString("no note"),
      t.muted);
  put(kTailRight, QString::fromStdString(formatNumber(row.tailMs, 0)), t.ink);
  if (showsLoss_) {
    const SoundFit* fit = library_.fitOf(row.file.path);
    const auto loss = fit ? fit->leftDb() : std::nullopt;
    put(kFitRight, loss ? dbText(*loss) : QString(fit ? "apart" : "..."), loss ? t.ink : t.muted);
  } else if (const auto fit = semitonesToKey(row, document_.track().key, a4)) {
    put(kFitRight, QString("%1%2 st").arg(*fit <= -0.05 ? "" : "+").arg(std::abs(*fit) < 0.05 ? 0.0 : *fit, 0, 'f', 1),
        std::abs(*fit) <= 2.0 ? t.ink : t.muted);
  }
}

void LibraryList::paintEvent(QPaintEvent*) {
  QPainter p(viewport());
  const int first = verticalScrollBar()->value() / kRowHeight,
            last = std::min(static_cast<int>(order_.size()) - 1, first + viewport()->height() / kRowHeight + 1);
  for (int i = first; i <= last; ++i) {
    const QRectF box(0, kHeads + i * kRowHeight - verticalScrollBar()->value(), viewport()->width(),
                     kRowHeight);
    drawRow(p, box, library_.rows()[order_[static_cast<size_t>(i)]], i == chosen_);
  }
  drawHeads(p);
  if (!order_.empty()) return;
  p.setPen(theme().muted);
  p.setFont(bodyFont());
  p.drawText(QRectF(16, kHeads + 24, viewport()->width() - 32.0, 80), Qt::AlignHCenter | Qt::TextWordWrap,
             library_.rows().empty() ? "Nothing here yet. Add a folder of kicks or basses below."
                                     : "No file matches: remove a word or a limit.");
}

void LibraryList::mousePressEvent(QMouseEvent* event) {
  const int row = (event->position().toPoint().y() - kHeads + verticalScrollBar()->value()) / kRowHeight;
  const double fromRight = viewport()->width() - event->position().x();
  if (event->position().y() < kHeads)
    return Q_EMIT headPressed(fromRight < kTailRight - 4    ? 3
                              : fromRight < kNoteRight - 4  ? 2
                              : fromRight < kNoteRight + 60 ? 1
                                                            : 0);
  if (row < 0 || row >= static_cast<int>(order_.size())) return;
  pressed_ = event->position().toPoint();
  if (event->position().x() < kMark) {
    const LibraryRow& r = library_.rows()[order_[static_cast<size_t>(row)]];
    return library_.setFavourite(r.file.path, !r.favourite);
  }
  choose(row);
}

void LibraryList::mouseMoveEvent(QMouseEvent* event) {
  const LibraryRow* row = chosenRow();
  if (!row || !(event->buttons() & Qt::LeftButton) ||
      (event->position().toPoint() - pressed_).manhattanLength() < QApplication::startDragDistance())
    return;
  auto* drag = new QDrag(this);
  auto* urls = new QMimeData;
  urls->setUrls({QUrl::fromLocalFile(QString::fromStdString(row->file.path))});
  drag->setMimeData(urls);
  drag->exec(Qt::CopyAction);
}

void LibraryList::mouseDoubleClickEvent(QMouseEvent*) {
  if (const LibraryRow* row = chosenRow(); row && row->fault.empty() && row->present)
    Q_EMIT placed(row->file.path);
}

void LibraryList::keyPressEvent(QKeyEvent* event) {
  const int page = std::max(1, (viewport()->height() - kHeads) / kRowHeight - 1);
  switch (event->key()) {
    case Qt::Key_Up:
      return choose(chosen_ - 1);
    case Qt::Key_Down:
      return choose(chosen_ + 1);
    case Qt::Key_PageUp:
      return choose(chosen_ - page);
    case Qt::Key_PageDown:
      return choose(chosen_ + page);
    case Qt::Key_Home:
      return choose(0);
    case Qt::Key_End:
      return choose(static_cast<int>(order_.size()) - 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return mouseDoubleClickEvent(nullptr);
    case Qt::Key_F:
      if (const LibraryRow* row = chosenRow()) library_.setFavourite(row->file.path, !row->favourite);
      return;
    default:
      QAbstractScrollArea::keyPressEvent(event);
  }
}

LibraryPanel::LibraryPanel(Document& document, Library& library, QWidget* parent)
    : QWidget(parent), document_(document), library_(library) {
  setObjectName("Library");
  setAccessibleName("Library");
  setFixedWidth(kWidth);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 12, 12, 8);
  column->setSpacing(8);
  auto* top = new QHBoxLayout;
  auto* title = new QLabel("Library");
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
  buildFields();
  auto* fieldRow = new QHBoxLayout;
  fieldRow->setSpacing(12);
  for (ValueField* field : fields_) (field->spec().caption.isEmpty() ? top : fieldRow)->addWidget(field);
  fieldRow->addStretch(1);
  column->addLayout(fieldRow);
  list_ = new LibraryList(document, library);
  column->addWidget(list_, 1);
  details_ = new QLabel;
  details_->setObjectName("Library details");
  details_->setProperty("role", "muted");
  details_->setWordWrap(true);
  details_->setAlignment(Qt::AlignLeft | Qt::AlignTop);
  details_->setFixedHeight(kDetailLines * details_->fontMetrics().lineSpacing() + 2);
  column->addWidget(details_);
  auto* bottom = new QHBoxLayout;
  bottom->setSpacing(8);
  state_ = new QLabel;
  state_->setObjectName("Library state");
  state_->setProperty("role", "muted");
  state_->setWordWrap(true);
  bottom->addWidget(state_, 1);
  scan_ = new QPushButton("Scan");
  scan_->setObjectName("Scan library");
  scan_->setToolTip("Listens to files that are new or were written since");
  folders_ = new QPushButton("Folders");
  folders_->setObjectName("Library folders");
  folders_->setToolTip("Add a folder, or take one away");
  for (QPushButton* b : {scan_, folders_}) bottom->addWidget(b);
  column->addLayout(bottom);
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
  // Only what the search goes by: every step of a drag is a change.
  connect(&document_, &Document::changed, this, [this] {
    const Track& t = document_.track();
    if (isVisible() && (t.key != key_ || t.tempoBpm != tempoBpm_ || t.notes.a4Hz != a4Hz_)) search();
  });
  connect(&document_, &Document::studied, this, [this] {
    if (isVisible() && rank_ == Rank::Loss && library_.isUnranked()) setOrder(rank_);
  });
  refresh();
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

void LibraryPanel::buildFields() {
  auto choice = [&](const QString& name, const QString& caption, const QString& tip, const QStringList& words,
                    auto now, auto set) {
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
  };
  choice(
      "Library part", {}, "Whose first layer the chosen file is heard and placed as",
      {"for the kick", "for the bass"}, [this] { return place_ == bassOf(library_.session()) ? 1 : 0; },
      [this](int i) {
        place_ = i ? bassOf(library_.session()) : kickOf(library_.session());
        if (query_.kind) query_.kind = i ? SoundKind::Bass : SoundKind::Kick;
      });
  choice(
      "Library kind", {},
      "Sounds of that kind alone: by their file's and folder's words, else as they were measured",
      {"kicks", "basses", "any sound"},
      [this] { return !query_.kind                     ? 2
                      : query_.kind == SoundKind::Bass ? 1
                                                       : 0; },
      [this](int i) {
        query_.kind = i == 2 ? std::nullopt : std::optional(i == 1 ? SoundKind::Bass : SoundKind::Kick);
      });
  choice(
      "Heard", {}, "Fitted: in the loop, tuned, trimmed, aligned and ducked. Alone: by itself.",
      {"fitted", "alone"}, [this] { return library_.isFitted() ? 0 : 1; },
      [this](int i) { library_.setFitted(i == 0); });
  choice(
      "Lands near", "lands near", "Only files that land within so many semitones of the tonic or the fifth",
      {"anywhere", "1 st", "2 st"}, [this] { return !query_.semitones          ? 0
                                                    : *query_.semitones == 1.0 ? 1
                                                                               : 2; },
      [this](int i) { query_.semitones = i == 0 ? std::nullopt : std::optional<double>(i); });
  choice(
      "Tail range", "tail", "Only files whose tail lasts as long as this",
      {"any", "to 1/16", "1/16 to 1/8", "1/8 and more"}, [this] { return tail_; },
      [this](int i) { tail_ = i; });
  choice(
      "Least weight", "below 120 Hz", "Only files with at least so much of their energy below 120 Hz",
      {"any", "a third", "two thirds"},
      [this] { return query_.leastWeight == 0.0  ? 0
                      : query_.leastWeight < 0.5 ? 1
                                                 : 2; },
      [this](int i) { query_.leastWeight = i / 3.0; });
  choice(
      "Library order", "by",
      "The order. Phase loss: what the pair still loses with each file once it is fitted.",
      {"fit", "phase loss", "name", "landing", "tail", "below 120 Hz", "brightness"},
      [this] { return static_cast<int>(rank_); }, [this](int i) { setOrder(static_cast<Rank>(i)); });
  choice(
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
  details_->setText(row ? detailsOf(*row, document_.track(), library_.folders()) : QString());
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
    return fit ? fit->leftDb().value_or(-1e9) : -1e10;
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
    const QString folder = QFileDialog::getExistingDirectory(this, "Choose a folder of sounds");
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
