#include "app/stages/duck/ways_picture.h"

#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kColumns = 4, kRows = 2;
constexpr double kHeadHeight = 44, kGap = 10;

}  // namespace

WaysPicture::WaysPicture(Document& document, Selection& selection)
    : HeardWays(document, selection, "Ways to make room", "Ways to make room") {
  explain("Ways to make room. Click or press a number to audition; Return applies",
          "Ways to make room, cheapest first. Click or 1 to 9: audition, level matched. 0: unchanged. N: hide "
          "names. Return: apply. Esc: close.");
}

void WaysPicture::solveAside(const std::shared_ptr<std::atomic<int>>& percent) {
  auto work = [session = document().session(), assets = document().assets(), cache = document().cache(),
               percent](const std::stop_token& stop) {
    return waysToMakeRoom(session, assets, *cache, stop,
                          [&](double share) { *percent = static_cast<int>(std::lround(100 * share)); });
  };
  document().jobs().start("Making room", Jobs::Kind::CanBeCancelled, work, [this](Result<RoomWays> found) {
    if (!found) return fail(QString::fromStdString(found.error().sentence()));
    found_ = std::move(*found);
    std::vector<Offer> offers;
    for (const RoomWay& w : found_.ways) offers.push_back({w.name, w.edit, static_cast<int>(w.kind)});
    offer(std::move(offers));
  });
}

QString WaysPicture::kindWord(int kind) const {
  constexpr const char* kWords[] = {"another octave", "a shorter kick", "alignment", "a bell",
                                    "lows only",      "full band",      "a mirror",  "two combined"};
  return kWords[kind];
}

QRectF WaysPicture::cell(int number) const {
  // A fifth column where there are more than eight.
  const int columns = std::max<int>(kColumns, (static_cast<int>(count()) + kRows - 1) / kRows);
  const double w = (width() - (columns - 1) * kGap) / columns, h = (height() - kHeadHeight - kGap) / kRows;
  const int column = (number - 1) % columns, row = (number - 1) / columns;
  return {column * (w + kGap), kHeadHeight + row * (h + kGap), w, h};
}

void WaysPicture::drawLevels(QPainter& p, const RoomWay& way, const QRectF& box) const {
  const Theme& t = theme();
  float most = 1e-6f;
  const auto raise = [&](const std::vector<float>& levels) {
    for (const float v : levels) most = std::max(most, v);
  };
  raise(found_.kickBefore), raise(found_.bassBefore);
  for (const RoomWay& other : found_.ways) raise(other.kickLevel), raise(other.bassLevel);
  auto line = [&](const std::vector<float>& levels) {
    QPolygonF out;
    for (size_t i = 0; i < levels.size(); ++i)
      out << QPointF(box.left() + box.width() * static_cast<double>(i) / static_cast<double>(levels.size() - 1),
                     box.bottom() - box.height() * static_cast<double>(levels[i] / most));
    return out;
  };
  const QPolygonF before = line(found_.bassBefore), after = line(way.bassLevel), kick = line(way.kickLevel);
  p.setRenderHint(QPainter::Antialiasing);
  // Gain reduction of the bass hatched, the rest filled.
  QPolygonF taken = before;
  for (auto at = after.rbegin(); at != after.rend(); ++at) taken << *at;
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(t.bass, 0.5), Qt::BDiagPattern));
  p.drawPolygon(taken);
  QPolygonF filled = after;
  filled.prepend(QPointF(after.first().x(), box.bottom()));
  filled << QPointF(after.last().x(), box.bottom());
  p.setBrush(withAlpha(t.bass, 0.3));
  p.drawPolygon(filled);
  p.setBrush(Qt::NoBrush);
  p.setPen(dataPen(t.kick));
  p.drawPolyline(kick);
  p.setPen(dataPen(t.bass));
  p.drawPolyline(after);
}

QString WaysPicture::costText(const RoomWay& way) const {
  QStringList out;
  const WayCost& c = way.cost;
  if (std::abs(c.loudnessLostDb) > 0.05) out << "bass " + dbText(-c.loudnessLostDb);
  if (c.under3DbMs > 0.5) out << msText(c.under3DbMs) + " down";
  if (c.shiftSemitones > 0.0) out << QString("%1 st").arg(c.shiftSemitones);
  if (c.shorterMs > 0.0) out << msText(c.shorterMs) + " shorter";
  if (std::abs(c.peakDb) > 0.05) out << "peak " + dbText(c.peakDb);
  return out.isEmpty() ? QString("no side effects") : out.join(", ");
}

void WaysPicture::drawCell(QPainter& p, int number) const {
  const Theme& t = theme();
  const RoomWay& w = way(number);
  const QRectF box = cell(number).adjusted(0.5, 0.5, -0.5, -0.5);
  drawFrame(p, number);
  if (isBlind()) return;
  drawLevels(p, w,
             QRectF(box.left() + 10, box.top() + 42, box.width() - 20, std::max(10.0, box.height() - 42 - 54)));
  p.setFont(axisFont());
  const QFontMetrics metrics(axisFont());
  const QString reach = (w.reaches ? "bass to kick " : "does not reach: ") + dbText(w.worstDb);
  p.setPen(w.reaches ? t.ink : t.watch);
  p.drawText(QRectF(box.left() + 10, box.bottom() - 50, box.width() - 16, 15), Qt::AlignLeft | Qt::AlignVCenter,
             metrics.elidedText(reach, Qt::ElideRight, static_cast<int>(box.width()) - 16));
  p.setPen(t.muted);
  drawWrapped(p, QRectF(box.left() + 10, box.bottom() - 34, box.width() - 16, 28), costText(w));
}

void WaysPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const QString goal = QString("Each to the same goal: the bass %1 under the kick at every hit, %2 %3.")
                           .arg(dbText(-found_.goalDb, 1, false), dbText(found_.beforeDb),
                                document().session().ducksBass() ? "without the present ducking" : "now");
  if (!drawHead(p, goal)) return;
  for (int n = 1; n <= static_cast<int>(count()); ++n) drawCell(p, n);
}

}  // namespace heft::app
