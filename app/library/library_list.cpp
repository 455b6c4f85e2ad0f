#include "app/library/library_list.h"

#include <QApplication>
#include <QDrag>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/unit_words.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kRowHeight = 24, kHeads = 22;
// Right edges of the columns, from the list's right.
constexpr double kFitRight = 8, kTailRight = 80, kNoteRight = 140, kMark = 20;

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
      row.noteHz ? QString::fromStdString(pitchText(midiFromHz(*row.noteHz, a4), document_.track().notes))
                 : QString("no note"),
      t.muted);
  put(kTailRight, QString::fromStdString(formatNumber(row.tailMs, 0)), t.ink);
  if (showsLoss_) {
    const SoundFit* fit = library_.fitOf(row.file.path);
    const auto loss = fit ? fit->leftDb() : std::nullopt;
    put(kFitRight, loss ? dbText(*loss) : QString(fit ? "no overlap" : "..."), loss ? t.ink : t.muted);
  } else if (const auto fit = semitonesToKey(row, document_.track().key, a4)) {
    put(kFitRight,
        QString("%1%2 st").arg(*fit <= -0.05 ? "" : "+").arg(std::abs(*fit) < 0.05 ? 0.0 : *fit, 0, 'f', 1),
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
             !library_.rows().empty() ? "No file matches: remove a word or a limit."
             : library_.isScanning()  ? "Scanning..."
                                      : "Nothing here yet. Add a folder of kicks or basses below.");
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

}  // namespace heft::app
