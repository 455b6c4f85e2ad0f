#include "app/stages/sounds/other_parts.h"

#include <QVBoxLayout>
#include <algorithm>

#include "app/stages/sounds/layer_slip.h"

namespace heft::app {
namespace {

constexpr int kBetweenRows = 3;

}  // namespace

OtherParts::OtherParts(LayerChoice& choice, Selection& selection) : choice_(choice), selection_(selection) {
  setObjectName("Other parts");
  setFrameShape(QFrame::NoFrame);
  setWidgetResizable(true);
  setFocusPolicy(Qt::NoFocus);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  layout_ = new QVBoxLayout(inside);
  layout_->setContentsMargins(0, 0, 0, 0);
  layout_->setSpacing(kBetweenRows);
  setWidget(inside);
  connect(&choice.document(), &Document::changed, this, &OtherParts::refresh);
  connect(&choice.document(), &Document::replaced, this, &OtherParts::refresh);
  connect(&choice, &LayerChoice::changed, this, &OtherParts::refresh);
  refresh();
}

void OtherParts::setMostRows(int rows) {
  if (rows == mostRows_) return;
  mostRows_ = rows;
  fit();
}

void OtherParts::fit() {
  const int rows = std::min(mostRows_, static_cast<int>(rows_.size()));
  setFixedHeight(std::max(0, rows * (Slip::kSlipHeight + kBetweenRows) - kBetweenRows));
}

// Rows are made anew for other parts, and for a renamed one. The selected row is scrolled into view.
void OtherParts::refresh() {
  const Session& s = choice_.document().session();
  std::vector<Place> all;
  QString signature;
  for (const Part& part : s.parts) {
    if (s.isOfPair(part.id)) continue;
    all.push_back(Place{part.id});
    signature += QString::number(part.id) + " " + placeName(s, Place{part.id}) + "\n";
  }
  if (signature != shown_) {
    shown_ = signature;
    for (SlipRow* row : rows_) {
      layout_->removeWidget(row);
      row->hide(), row->deleteLater();
    }
    rows_.clear();
    for (const Place place : all) {
      rows_.push_back(new SlipRow(place, choice_, selection_));
      layout_->addWidget(rows_.back());
      rows_.back()->show();
    }
    fit();
  }
  setVisible(!all.empty());
  for (SlipRow* row : rows_)
    if (row->place() == choice_.place()) ensureWidgetVisible(row, 0, 0);
}

}  // namespace heft::app
