#include "app/stages/ways_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

#include "app/fields/duck_words.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kColumns = 4, kRows = 2;
constexpr double kHeadHeight = 44, kGap = 10;

const char* kindWord(WayKind kind) {
  constexpr const char* kWords[] = {"another octave", "a shorter kick", "lining up", "a bell",
                                    "the lows",       "all of it",      "a mirror",  "two together"};
  return kWords[static_cast<size_t>(kind)];
}

}  // namespace

WaysPicture::WaysPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Ways to make room") {
  setMinimumHeight(260);
  explain("Ways to make room. A click, or its number, hears one; Enter takes it",
          "Ways to make room, those that reach the goal by what they cost. A click or the numbers 1 to 8 hear "
          "one in the "
          "running loop, loudness matched; 0 hears the session as it is; N hides the names, and shows them "
          "again; Enter "
          "takes the one that is heard; Esc leaves.");
  connect(&watch_, &QTimer::timeout, this, qOverload<>(&QWidget::update));
  // Called off: it is asked for again.
  connect(&document.jobs(), &Jobs::changed, this, [this] {
    if (!solving_ || this->document().jobs().isBusy()) return;
    watch_.stop();
    solving_ = false, fault_ = "Called off. Press Ways to make room again.";
    update();
  });
}

void WaysPicture::solve() {
  if (solving_) return;
  solving_ = true, ways_.reset(), fault_.clear(), heard_ = 0, blind_ = false;
  solvedFor_ = document().session();
  *solved_ = 0;
  watch_.start(100);
  auto work = [session = document().session(), assets = document().assets(), cache = document().cache(),
               solved = solved_](const std::stop_token& stop) {
    auto tell = [&](double share) { *solved = static_cast<int>(std::lround(8 * share)); };
    return waysToMakeRoom(session, assets, *cache, stop, tell);
  };
  document().jobs().start("Making room", Jobs::Kind::CanBeCancelled, work, [this](Result<RoomWays> found) {
    solving_ = false;
    watch_.stop();
    if (!found)
      fault_ = QString::fromStdString(found.error().sentence());
    else
      ways_ = std::move(*found);
    order_.resize(count());
    std::iota(order_.begin(), order_.end(), size_t{0});
    update();
  });
  update();
}

const RoomWay& WaysPicture::way(int number) const {
  return ways_->ways[order_[static_cast<size_t>(number - 1)]];
}

int WaysPicture::tally(WayKind kind) const {
  const auto at = tally_.find(kind);
  return at == tally_.end() ? 0 : at->second;
}

QRectF WaysPicture::cell(int number) const {
  const double w = (width() - (kColumns - 1) * kGap) / kColumns, h = (height() - kHeadHeight - kGap) / kRows;
  const int column = (number - 1) % kColumns, row = (number - 1) / kColumns;
  return {column * (w + kGap), kHeadHeight + row * (h + kGap), w, h};
}

void WaysPicture::drawLevels(QPainter& p, const RoomWay& way, const QRectF& box) const {
  const Theme& t = theme();
  float most = 1e-6f;
  for (const auto* levels : {&ways_->kickBefore, &ways_->bassBefore})
    for (const float v : *levels) most = std::max(most, v);
  auto line = [&](const std::vector<float>& levels) {
    QPolygonF out;
    for (size_t i = 0; i < levels.size(); ++i)
      out << QPointF(box.left() + box.width() * static_cast<double>(i) / static_cast<double>(levels.size() - 1),
                     box.bottom() - box.height() * std::min(1.2, static_cast<double>(levels[i] / most)));
    return out;
  };
  const QPolygonF before = line(ways_->bassBefore), after = line(way.bassLevel), kick = line(way.kickLevel);
  p.setRenderHint(QPainter::Antialiasing);
  // What is taken from the bass, hatched; what is left, filled.
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
  return out.isEmpty() ? QString("costs nothing") : out.join(", ");
}

void WaysPicture::drawCell(QPainter& p, int number) const {
  const Theme& t = theme();
  const RoomWay& w = way(number);
  const QRectF box = cell(number).adjusted(0.5, 0.5, -0.5, -0.5);
  const bool now = heard_ == number;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(now ? t.ink : t.rule, now ? 2.0 : 1.0));
  p.setBrush(t.panel);
  p.drawRect(box);
  p.setBrush(Qt::NoBrush);
  p.setFont(bodyFont(true));
  p.setPen(t.ink);
  p.drawText(QRectF(box.left() + 8, box.top() + 5, 16, 18), Qt::AlignLeft | Qt::AlignVCenter,
             QString::number(number));
  p.setFont(axisFont(true));
  const QString name = blind_ ? QString("hidden") : QString::fromStdString(w.name);
  const QRectF words(box.left() + 26, box.top() + 6, box.width() - 34, 28);
  p.drawText(words, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, name);
  if (blind_) return;
  drawLevels(p, w,
             QRectF(box.left() + 10, box.top() + 42, box.width() - 20, std::max(10.0, box.height() - 42 - 54)));
  p.setFont(axisFont());
  const QFontMetrics metrics(axisFont());
  const QString reach = (w.reaches ? "bass to kick " : "does not reach: ") + dbText(w.worstDb);
  p.setPen(w.reaches ? t.ink : t.watch);
  p.drawText(QRectF(box.left() + 10, box.bottom() - 50, box.width() - 16, 15), Qt::AlignLeft | Qt::AlignVCenter,
             metrics.elidedText(reach, Qt::ElideRight, static_cast<int>(box.width()) - 16));
  p.setPen(t.muted);
  p.drawText(QRectF(box.left() + 10, box.bottom() - 34, box.width() - 16, 28),
             Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, costText(w));
}

void WaysPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!ways_)
    return drawEmpty(p, solving_ ? QString("Solving each way to the same goal: %1 of 8...").arg(solved_->load())
                        : fault_.isEmpty() ? "Press Ways to make room."
                                           : fault_);
  p.setFont(bodyFont());
  p.setPen(t.ink);
  const QString goal =
      QString("Each to the same goal: the bass %1 under the kick at every hit, %2 without ducking.")
          .arg(dbText(-ways_->goalDb, 1, false), dbText(ways_->beforeDb));
  p.drawText(QRectF(0, 0, width(), 20), Qt::AlignLeft | Qt::AlignVCenter, goal);
  p.setFont(axisFont());
  p.setPen(t.muted);
  QStringList counted;
  for (const auto& [kind, times] : tally_) counted << QString("%1 %2").arg(kindWord(kind)).arg(times);
  const QString keys =
      isStale() ? QString("The session changed meanwhile: press Ways to make room again.")
                : QString("1 to %1 hear one, 0 as it is, N %2, Enter takes what is heard, Esc leaves")
                      .arg(count())
                      .arg(blind_ ? "shows the names" : "hides the names");
  p.drawText(QRectF(0, 20, width(), 18), Qt::AlignLeft | Qt::AlignVCenter, keys);
  if (!counted.isEmpty())
    p.drawText(QRectF(0, 20, width(), 18), Qt::AlignRight | Qt::AlignVCenter,
               "taken blind: " + counted.join(", "));
  for (int n = 1; n <= static_cast<int>(count()); ++n) drawCell(p, n);
}

void WaysPicture::hear(int number) {
  if (!ways_ || number < 0 || number > static_cast<int>(count())) return;
  if (isStale()) return document().tell("The session changed meanwhile: press Ways to make room again.");
  heard_ = number;
  if (number == 0) {
    Q_EMIT heard(std::nullopt);
  } else {
    Edit edit = way(number).edit;
    edit.name = "Way " + std::to_string(number);
    Q_EMIT heard(edit);
  }
  update();
}

void WaysPicture::take() {
  if (!ways_ || heard_ == 0) return;
  if (isStale())
    return document().tell(
        "The session changed meanwhile, so nothing was taken: press Ways to make room again.");
  const RoomWay taken = way(heard_);
  if (blind_) ++tally_[taken.kind];
  Q_EMIT heard(std::nullopt);
  document().edit(taken.edit);
  document().tell("Made room: " + QString::fromStdString(taken.name) + ".");
  ways_.reset(), blind_ = false, heard_ = 0;
  Q_EMIT left();
}

// Hidden, they stand in another order each time.
void WaysPicture::setBlind(bool blind) {
  if (!ways_) return;
  blind_ = blind, heard_ = 0;
  std::iota(order_.begin(), order_.end(), size_t{0});
  if (blind) std::shuffle(order_.begin(), order_.end(), std::mt19937(std::random_device{}()));
  Q_EMIT heard(std::nullopt);
  update();
}

void WaysPicture::mousePressEvent(QMouseEvent* event) {
  setFocus();
  for (int n = 1; n <= static_cast<int>(count()); ++n)
    if (cell(n).contains(event->position())) return hear(n);
}

void WaysPicture::mouseDoubleClickEvent(QMouseEvent* event) {
  for (int n = 1; n <= static_cast<int>(count()); ++n)
    if (cell(n).contains(event->position())) heard_ = n, take();
}

void WaysPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (key >= Qt::Key_0 && key <= Qt::Key_8) return hear(key - Qt::Key_0);
  if (key == Qt::Key_N) return setBlind(!blind_);
  if (key == Qt::Key_Return || key == Qt::Key_Enter) return take();
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    return hear(std::clamp(heard_ + (key == Qt::Key_Right ? 1 : -1), 0, static_cast<int>(count())));
  if (key == Qt::Key_Escape) {
    Q_EMIT heard(std::nullopt);
    heard_ = 0;
    return left();
  }
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
