#include "app/stages/align/align_ways_picture.h"

#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/pictures/axis.h"
#include "app/stages/align/best_ways.h"
#include "app/theme/theme.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kWaysTop = 44, kRowGap = 6, kTallestRow = 58, kNameWidth = 270, kCostWidth = 190, kBelow = 66;
constexpr double kWorstDb = -9.0;

QString figure(double value, int decimals = 0) {
  return QString::fromStdString(formatNumber(value, decimals));
}

}  // namespace

AlignWaysPicture::AlignWaysPicture(Document& document, Selection& selection)
    : HeardWays(document, selection, "Ways to align", "Ways to align") {
  explain(
      "Ways to align kick and bass. Click or press a number to audition; Return applies",
      "Ways to align kick and bass, lowest phase loss first. Click or 1 to 8: audition, level matched. 0: as "
      "it is. N: hide names. Return: apply. Esc: close.");
}

void AlignWaysPicture::solveAside(const std::shared_ptr<std::atomic<int>>& percent) {
  auto work = [session = document().session(), assets = document().assets(), cache = document().cache(),
               percent](const std::stop_token& stop) {
    return alignWays(session, assets, *cache, stop,
                     [&](double share) { *percent = static_cast<int>(std::lround(100 * share)); });
  };
  document().jobs().start("Aligning", Jobs::Kind::CanBeCancelled, work, [this](Result<AlignWays> found) {
    if (!found) return fail(QString::fromStdString(found.error().sentence()));
    found_ = std::move(*found);
    std::vector<Offer> offers;
    for (const AlignWay& w : found_.ways) offers.push_back({w.name, w.edit, static_cast<int>(w.kind)});
    offer(std::move(offers));
  });
}

QString AlignWaysPicture::kindWord(int kind) const {
  constexpr const char* kWords[] = {"polarity",    "delay",           "delay and polarity",
                                    "start phase", "one all-pass",    "two all-passes",
                                    "combined",    "timing per note", "phase per note"};
  return kWords[kind];
}

QRectF AlignWaysPicture::cell(int number) const {
  const double rows = std::max(4.0, static_cast<double>(count()));
  const double each = std::min(kTallestRow, (height() - kWaysTop - kBelow) / rows - kRowGap);
  return {0, kWaysTop + (number - 1) * (each + kRowGap), static_cast<double>(width()), each};
}

// "holds within -3.7 and +4.2 ms, -6 and +8 cents, 118 to 131 BPM".
QString AlignWaysPicture::standsText() const {
  const AlignStands& s = found_.stands;
  auto cents = [](double v) { return v >= AlignStands::kMostCents ? figure(v) + " and more" : figure(v); };
  return QString("1 holds %1 ms earlier and %2 later, %3 cents lower and %4 higher, from %5 to %6 BPM")
      .arg(figure(s.delay.earlierMs, 1), figure(s.delay.laterMs, 1), cents(s.lowerCents), cents(s.higherCents),
           figure(s.slowestBpm), figure(s.fastestBpm));
}

// Phase loss, hatched; without the ducking as a stroke.
void AlignWaysPicture::drawLoss(QPainter& p, const AlignWay& way, const QRectF& box) const {
  const Theme& t = theme();
  const Axis level{kWorstDb, 0.0, box.left(), box.right()};
  const double at = level.pixel(std::clamp(way.levelDb, kWorstDb, 0.0));
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(t.bass, 0.3));
  p.drawRect(QRectF(box.topLeft(), QPointF(at, box.bottom())));
  p.setBrush(QBrush(withAlpha(t.bass, 0.5), Qt::BDiagPattern));
  p.drawRect(QRectF(QPointF(at, box.top()), box.bottomRight()));
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(at, box.top() - 2), QPointF(at, box.bottom() + 2));
  if (std::abs(way.unduckedDb - way.levelDb) > 0.05) {
    const double plain = std::round(level.pixel(std::clamp(way.unduckedDb, kWorstDb, 0.0))) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(plain, box.top()), QPointF(plain, box.bottom()));
  }
  p.setFont(axisFont(true));
  const bool inside = at > box.left() + 60;
  drawLabel(p, QPointF(at + (inside ? -6 : 6), box.center().y()),
            (inside ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter, dbText(way.levelDb), t.ink,
            QColor(0, 0, 0, 0));
}

void AlignWaysPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!drawHead(p, QString("What the pair loses against perfect phase as it sounds: now %1, with no move %2.")
                       .arg(dbText(found_.nowDb), dbText(found_.unmovedDb))))
    return;
  for (int n = 1; n <= static_cast<int>(count()); ++n) {
    drawFrame(p, n);
    if (isBlind()) continue;
    const QRectF box = cell(n);
    const double thick = std::min(18.0, box.height() - 12);
    drawLoss(p, way(n),
             QRectF(kNameWidth, box.center().y() - 0.5 * thick,
                    std::max(80.0, box.width() - kNameWidth - kCostWidth - 12), thick));
    p.setFont(axisFont());
    p.setPen(t.muted);
    p.drawText(QRectF(box.right() - kCostWidth, box.top(), kCostWidth - 8, box.height()),
               Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap,
               alignCostText(way(n), document().session()));
  }
  const double last = count() ? cell(static_cast<int>(count())).bottom() : kWaysTop;
  if (count() && !isBlind())
    drawTicksBelow(p, {kWorstDb, 0.0, kNameWidth, std::max(kNameWidth + 80.0, width() - kCostWidth - 12.0)},
                   last + 1, {-9, -6, -3, 0},
                   [](double v) { return v == 0 ? QString("0 dB") : QString::number(v); });
  p.setFont(axisFont());
  p.setPen(t.muted);
  const double below = last + (count() ? 24 : 0);
  QString words = isBlind() || count() == 0 ? QString() : standsText() + ".";
  if (!found_.elsewhere.empty())
    words += (words.isEmpty() ? "" : "\n") + QString::fromStdString(found_.elsewhere) + ".";
  if (count() == 0) words = "No way beats the current alignment.\n" + words;
  p.drawText(QRectF(0, below, width(), 34), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words);
}

}  // namespace heft::app
