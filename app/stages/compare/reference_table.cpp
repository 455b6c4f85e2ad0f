#include "app/stages/compare/reference_table.h"

#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "app/stages/compare/reference_row.h"
#include "app/theme/theme.h"

namespace heft::app {
namespace {

constexpr int kTableHead = 20;

}  // namespace

ReferenceTable::ReferenceTable(Document& document, ReferenceEar& ear, CompareFigures& figures, QWidget* parent)
    : QWidget(parent), document_(document), ear_(ear), figures_(figures) {
  setObjectName("References");
  setAccessibleName("References");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, kTableHead, 0, 0);
  column->setSpacing(0);
  area_ = new QScrollArea;
  area_->setFrameShape(QFrame::NoFrame);
  area_->setWidgetResizable(true);
  area_->setFocusPolicy(Qt::NoFocus);
  area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  rows_ = new QVBoxLayout(inside);
  rows_->setContentsMargins(0, 0, 0, 0);
  rows_->setSpacing(0);
  area_->setWidget(inside);
  column->addWidget(area_);
  connect(&document, &Document::changed, this, &ReferenceTable::refresh);
  connect(&document, &Document::studied, this, &ReferenceTable::refresh);
  connect(&ear, &ReferenceEar::changed, this, &ReferenceTable::refresh);
  connect(&figures, &CompareFigures::changed, this, &ReferenceTable::refresh);
  refresh();
}

void ReferenceTable::choose(size_t reference) {
  if (reference >= document_.session().references.size()) return;
  chosen_ = reference;
  refresh();
  Q_EMIT chosenChanged();
}

void ReferenceTable::rebuild() {
  for (ReferenceRow* row : all_) row->hide(), row->deleteLater();
  all_.clear();
  const auto count = static_cast<int>(document_.session().references.size());
  while (rows_->count()) delete rows_->takeAt(0);
  for (int i = -1; i < count; ++i) {
    auto* row = new ReferenceRow(document_, ear_, figures_, i, this);
    connect(row, &ReferenceRow::pressed, this, [this](int index) {
      if (index >= 0) choose(static_cast<size_t>(index));
    });
    connect(row, &ReferenceRow::removeAsked, this,
            [this](int index) { Q_EMIT removeAsked(static_cast<size_t>(index)); });
    rows_->addWidget(row);
    all_.push_back(row);
  }
  rows_->addStretch(1);
  fitHeight();
}

void ReferenceTable::fitHeight() {
  const auto count = static_cast<int>(all_.size());
  setFixedHeight(kTableHead + ReferenceRow::kHeight * std::min(mostShown_, count) + 1);
}

void ReferenceTable::setMostShown(int rows) {
  if (rows == mostShown_) return;
  mostShown_ = rows;
  fitHeight();
}

void ReferenceTable::refresh() {
  const size_t count = document_.session().references.size();
  if (all_.size() != count + 1) rebuild();
  chosen_ = std::min(chosen_, count ? count - 1 : 0);
  for (ReferenceRow* row : all_) {
    row->setChosen(row->index() >= 0 && static_cast<size_t>(row->index()) == chosen_);
    row->refresh();
  }
  update();
}

void ReferenceTable::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const TableColumns at(all_.empty() ? width() : all_.front()->width());
  p.setPen(t.ink);
  p.drawLine(QPointF(0, kTableHead - 0.5), QPointF(width(), kTableHead - 0.5));
  p.setFont(axisFont(true));
  p.drawText(QRect(0, 0, at.section, kTableHead), Qt::AlignLeft | Qt::AlignVCenter, "References");
  p.setFont(axisFont());
  p.setPen(t.muted);
  auto say = [&](int x, const QString& words) {
    p.drawText(QRect(x, 0, 160, kTableHead), Qt::AlignLeft | Qt::AlignVCenter, words);
  };
  say(at.section, "section"), say(at.key, "key"), say(at.tempo, "tempo"), say(at.lufs, "LUFS"),
      say(at.match, "matched by"), say(at.peak, "dBTP"), say(at.median, "in median");
}

}  // namespace heft::app
