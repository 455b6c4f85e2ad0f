#include "app/shell/hit_row.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"

namespace heft::app {
namespace {

constexpr double kCell = 15.0;
constexpr int kRowHeight = 20;
constexpr size_t kFewHits = 8;

bool isBad(const HitLine& h) {
  return h.verdict != Verdict::Holds;
}

}  // namespace

HitRow::HitRow(QWidget* parent) : QWidget(parent) {
  setFixedHeight(kRowHeight);
  setFont(axisFont());
  setCursor(Qt::PointingHandCursor);
  setProperty(kAccessibleRole, QAccessible::Graphic);
  setToolTip("Shows the hit. Left and Right on the line step through those that are out of range");
}

QSize HitRow::sizeHint() const {
  return {static_cast<int>(kCell * 6), kRowHeight};
}

void HitRow::setHits(const std::vector<HitLine>& hits) {
  hits_ = hits;
  if (std::none_of(hits.begin(), hits.end(), isBad)) hits_.clear();
  if (chosen_ && std::none_of(hits_.begin(), hits_.end(), [&](const HitLine& h) { return h.hit == *chosen_; }))
    chosen_.reset();
  QStringList bad;
  for (const HitLine& h : hits_)
    if (isBad(h)) bad << QString::number(h.hit + 1);
  setAccessibleName(bad.isEmpty() ? QString() : "Hits out of range: " + bad.join(", "));
  fit();
}

void HitRow::fit() {
  shown_ = hits_;
  const auto room = static_cast<size_t>(std::max(2.0, width() / kCell));
  if (shown_.size() > std::min(room, kFewHits))
    std::erase_if(shown_, [](const HitLine& h) { return !isBad(h); });
  more_ = shown_.size() > room ? shown_.size() - (room - 1) : 0;
  if (more_ > 0) shown_.resize(room - 1);
  update();
}

std::optional<int> HitRow::step(int way) {
  std::vector<int> bad;
  for (const HitLine& h : hits_)
    if (isBad(h)) bad.push_back(h.hit);
  if (bad.empty()) return std::nullopt;
  const auto at = chosen_ ? std::find(bad.begin(), bad.end(), *chosen_) : bad.end();
  const auto count = static_cast<ptrdiff_t>(bad.size());
  const ptrdiff_t from = at == bad.end() ? (way > 0 ? -1 : 0) : at - bad.begin();
  chosen_ = bad[static_cast<size_t>((from + way + count) % count)];
  update();
  return chosen_;
}

QRectF HitRow::cell(int hit) const {
  for (size_t i = 0; i < shown_.size(); ++i)
    if (shown_[i].hit == hit) return {kCell * static_cast<double>(i), 1.0, kCell - 2.0, kRowHeight - 2.0};
  return {};
}

void HitRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  for (const HitLine& h : shown_) {
    const QRectF box = cell(h.hit);
    const bool inverted = chosen_ == h.hit;
    if (inverted) p.fillRect(box, theme().ink);
    p.setFont(axisFont(isBad(h)));
    p.setPen(inverted ? theme().panel : isBad(h) ? theme().ink : theme().muted);
    p.drawText(box, Qt::AlignCenter, QString::number(h.hit + 1));
    if (!isBad(h) || inverted) continue;
    p.setPen(QPen(verdictColour(h.verdict), 1.5));
    p.drawLine(QPointF(box.left() + 2, box.bottom()), QPointF(box.right() - 2, box.bottom()));
  }
  if (more_ == 0) return;
  p.setFont(axisFont());
  p.setPen(theme().muted);
  p.drawText(QRectF(kCell * static_cast<double>(shown_.size()), 0, kCell * 2, kRowHeight), Qt::AlignVCenter,
             QString("+%1").arg(more_));
}

void HitRow::mousePressEvent(QMouseEvent* event) {
  for (const HitLine& h : shown_)
    if (cell(h.hit).contains(event->position())) {
      chosen_ = h.hit;
      update();
      Q_EMIT chosen(h.hit);
      return;
    }
  event->ignore();
}

}  // namespace heft::app
