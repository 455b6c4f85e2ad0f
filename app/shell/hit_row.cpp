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
  fit();
  setAccessibleName(hits_.empty() ? QString() : "Hits out of range: " + badOnes().join(", "));
}

std::vector<HitRow::Cell> HitRow::cellsOfHits() const {
  std::vector<Cell> out;
  const auto bad = std::count_if(hits_.begin(), hits_.end(), isBad);
  const auto room = static_cast<size_t>(std::max(2.0, width() / kCell));
  const bool all = hits_.size() <= std::min(room, kFewHits) || bad == 0;
  for (const HitLine& h : hits_)
    if (all || isBad(h)) out.push_back({QString::number(h.hit + 1), {h.hit}, h.verdict});
  return out;
}

// In the song's order; the worst hit of each comes first.
std::vector<HitRow::Cell> HitRow::cellsOfSections() const {
  std::vector<Cell> out;
  for (const HitLine& h : hits_) {
    if (!isBad(h)) continue;
    const QString name = h.section.empty() ? "elsewhere" : QString::fromStdString(h.section);
    auto at = std::find_if(out.begin(), out.end(), [&](const Cell& c) { return c.text == name; });
    if (at == out.end()) at = out.insert(out.end(), {name, {}, Verdict::Holds});
    at->hits.insert(h.verdict > at->verdict ? at->hits.begin() : at->hits.end(), h.hit);
    at->verdict = std::max(at->verdict, h.verdict);
  }
  for (Cell& cell : out) cell.text += QString(": %1").arg(cell.hits.size());
  return out;
}

bool HitRow::bySection() const {
  return std::any_of(hits_.begin(), hits_.end(), [](const HitLine& h) { return !h.section.empty(); });
}

void HitRow::fit() {
  shown_ = bySection() ? cellsOfSections() : cellsOfHits();
  lay();
  update();
}

QStringList HitRow::badOnes() const {
  QStringList out;
  for (const Cell& cell : bySection() ? cellsOfSections() : cellsOfHits())
    if (cell.verdict != Verdict::Holds) out << cell.text;
  return out;
}

// Those that do not fit give way to their count.
void HitRow::lay() {
  constexpr double kAround = 8.0, kMore = 2.0 * kCell;
  const QFontMetricsF metrics(axisFont(true));
  double x = 0.0;
  for (Cell& cell : shown_) {
    const double width = std::max(kCell, metrics.horizontalAdvance(cell.text) + kAround);
    cell.box = {x, 1.0, width - 2.0, kRowHeight - 2.0};
    x += width;
  }
  more_ = 0;
  if (x <= width()) return;
  while (shown_.size() > 1 && shown_.back().box.right() > width() - kMore) shown_.pop_back(), ++more_;
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
  for (const Cell& cell : shown_)
    if (cell.has(hit)) return cell.box;
  return {};
}

void HitRow::paint(QPainter& p, const Cell& cell) const {
  const bool inverted = chosen_ && cell.has(*chosen_), bad = cell.verdict != Verdict::Holds;
  if (inverted) p.fillRect(cell.box, theme().ink);
  p.setFont(axisFont(bad));
  p.setPen(inverted ? theme().panel : bad ? theme().ink : theme().muted);
  p.drawText(cell.box, Qt::AlignCenter, cell.text);
  if (!bad || inverted) return;
  p.setPen(QPen(verdictColour(cell.verdict), 1.5));
  p.drawLine(QPointF(cell.box.left() + 2, cell.box.bottom()), QPointF(cell.box.right() - 2, cell.box.bottom()));
}

void HitRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  for (const Cell& cell : shown_) paint(p, cell);
  if (more_ == 0) return;
  p.setFont(axisFont());
  p.setPen(theme().muted);
  p.drawText(QRectF(shown_.back().box.right() + 4.0, 0, kCell * 2, kRowHeight), Qt::AlignVCenter,
             QString("+%1").arg(more_));
}

void HitRow::mousePressEvent(QMouseEvent* event) {
  for (const Cell& cell : shown_)
    if (cell.box.contains(event->position())) {
      chosen_ = cell.hits.front();
      update();
      Q_EMIT chosen(*chosen_);
      return;
    }
  event->ignore();
}

}  // namespace heft::app
