#include "app/loop/song_overview.h"

#include <QPainter>
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/sections.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

// "57 to 64", bars as they are counted, the last one included.
std::optional<std::pair<int, int>> parseBars(const QString& text) {
  static const QRegularExpression kBars(R"(^\s*(?:region|bars?)?\s*(\d{1,4})\s*(?:to|-|:|,)\s*(\d{1,4})\s*$)");
  const auto match = kBars.match(text);
  if (!match.hasMatch()) return std::nullopt;
  return std::pair(match.captured(1).toInt(), match.captured(2).toInt());
}

QString barsText(const Track& track, double from, double to) {
  const double bar = track.barQuarters();
  const auto first = static_cast<int>(std::floor(from / bar + 1e-6)) + 1,
             last = static_cast<int>(std::ceil(to / bar - 1e-6));
  return QString("region %1 to %2").arg(first).arg(std::max(first, last));
}

}  // namespace

SongOverview::SongOverview(Document& document, Transport& transport, LoopStrip& strip, QWidget* parent)
    : QWidget(parent), document_(document), transport_(transport), strip_(strip) {
  setObjectName("Song overview");
  setProperty(kAccessibleRole, QAccessible::List);
  setAccessibleName("Song overview");
  setToolTip(
      "Drag for the region that repeats, click to play from there; click a section to repeat it, right-click "
      "for "
      "more");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setFixedHeight(static_cast<int>(kHeight));
  region_ = new ValueField(
      {.caption = {},
       .name = "Region",
       .tip = "The bars that repeat, such as 57 to 64; Delete: none",
       .text =
           [this] {
             const auto& r = transport_.region();
             return r ? barsText(track(), r->first, r->second) : QString("no region");
           },
       .commit = [this](const QString& text) -> std::optional<QString> {
         const auto bars = parseBars(text);
         const int most = static_cast<int>(std::ceil(track().loopQuarters() / track().barQuarters() - 1e-6));
         if (!bars || bars->first < 1 || bars->second < bars->first || bars->second > most)
           return QString("Write bars from 1 to %1, such as 1 to %2").arg(most).arg(std::min(8, most));
         setRegion((bars->first - 1) * track().barQuarters(), bars->second * track().barQuarters());
         return std::nullopt;
       },
       .reset = [this] { transport_.setRegion({}); },
       .width = 110},
      this);
  region_->move(16, static_cast<int>(kGripY) - 14);
  for (auto signal : {&Document::changed, &Document::rendered, &Document::waved})
    connect(&document_, signal, this, &SongOverview::refresh);
  connect(&transport_, &Transport::regionChanged, this, &SongOverview::refresh);
  connect(&transport_, &Transport::moved, this, &SongOverview::followPlayhead);
  connect(&transport_, &Transport::stateChanged, this, qOverload<>(&QWidget::update));
  connect(&strip_.view(), &TimeView::changed, this, qOverload<>(&QWidget::update));
  refresh();
}

bool SongOverview::isWanted() const {
  return track().song || track().loopBeats > kShortBars * track().beatsPerBar;
}

void SongOverview::refresh() {
  setVisible(isWanted() && strip_.isVisibleTo(parentWidget()));
  region_->refresh();
  region_->adjustSize();
  update();
}

std::vector<AccessibleItem> SongOverview::accessibleItems() const {
  std::vector<AccessibleItem> out;
  for (const TrackSection& s : session().sections) {
    const double from = timeAxis().pixel(s.fromQuarters), to = timeAxis().pixel(s.toQuarters);
    out.push_back({QString("section %1, bars %2")
                       .arg(QString::fromStdString(s.name),
                            barsText(track(), s.fromQuarters, s.toQuarters).remove("region ")),
                   QRectF(from, 0, to - from, kSections).toRect()});
  }
  return out;
}

Axis SongOverview::timeAxis() const {
  return {0.0, track().loopQuarters(), kHead, width() - kRight};
}

double SongOverview::toBar(double quarters) const {
  const double bar = track().barQuarters();
  return std::clamp(std::round(quarters / bar) * bar, 0.0, track().loopQuarters());
}

void SongOverview::drawHead(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(bodyFont(true));
  p.setPen(t.ink);
  p.drawText(QPointF(16, 15), track().song ? "Song" : "Loop");
  p.setFont(axisFont());
  p.setPen(t.muted);
  const double bars = track().loopQuarters() / track().barQuarters();
  const auto seconds = static_cast<int>(std::lround(track().seconds()));
  const QString facts = QString("%1 bars, %2:%3")
                            .arg(QString::fromStdString(formatNumber(bars, 2)))
                            .arg(seconds / 60)
                            .arg(seconds % 60, 2, 10, QChar('0'));
  p.drawText(QPointF(60, 15), facts);
  p.drawText(QPointF(16, 36), "sum");
  p.drawText(QPointF(16, 52), "bass, kick");
  p.drawText(QRectF(kHead - 70, kGripY - 8, 60, 16), Qt::AlignRight | Qt::AlignVCenter,
             transport_.region() || !track().song ? "repeats" : "plays once");
}

// Dimension lines with their names; the one under the playhead is bold.
void SongOverview::drawSections(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = timeAxis();
  const double y = 0.5 * kSections;
  const TrackSection* now = session().sectionAt(transport_.positionQuarters());
  for (const TrackSection& s : session().sections) {
    if (s.fromQuarters >= track().loopQuarters()) continue;
    const double from = std::round(x.pixel(s.fromQuarters)) + 0.5,
                 to = std::round(x.pixel(std::min(s.toQuarters, track().loopQuarters()))) - 0.5;
    p.setFont(axisFont(&s == now));
    const QString choices = QString::fromStdString(choicesOf(session(), s));
    const QString whole = QString::fromStdString(s.name) + (choices.isEmpty() ? "" : ": " + choices);
    const QString name = p.fontMetrics().elidedText(whole, Qt::ElideRight, static_cast<int>(to - from) - 20);
    const double half = name.isEmpty() ? 0.0 : 0.5 * p.fontMetrics().horizontalAdvance(name) + 5.0;
    const double middle = 0.5 * (from + to);
    p.setPen(QPen(t.ink, 1.0));
    p.drawLine(QPointF(from, y - 5), QPointF(from, y + 5));
    p.drawLine(QPointF(to, y - 5), QPointF(to, y + 5));
    p.drawLine(QPointF(from, y), QPointF(middle - half, y));
    p.drawLine(QPointF(middle + half, y), QPointF(to, y));
    if (!name.isEmpty()) p.drawText(QRectF(from, 0, to - from, kSections), Qt::AlignCenter, name);
  }
  if (!session().sections.empty()) return;
  p.setFont(axisFont());
  p.setPen(t.muted);
  p.drawText(QRectF(kHead, 0, width() - kHead - kRight, kSections), Qt::AlignLeft | Qt::AlignVCenter,
             "no sections yet: drag a region below, then Ctrl+K names it");
}

// The sum in grey with the bass before it; of a loop from its samples, of a song from its steps.
void SongOverview::drawWaves(QPainter& p) const {
  const Theme& t = theme();
  const Stems* stems = document_.stems();
  const LaneWaves* waves = document_.waves();
  if (!stems || (!waves && !stems->span.wraps)) return;
  const double middle = 0.5 * (kWaveTop + kWaveBottom), height = kWaveBottom - kWaveTop;
  const double perPixel =
      track().loopQuarters() * track().framesPerQuarter() / std::max(1.0, width() - kHead - kRight);
  const LanePeaks& peaks = document_.lanePeaks();
  const float scale = 1.0f / std::max(0.05f, peaks.sum.peak);
  auto draw = [&](const Signal& lane, const LaneWave* wave, size_t channel, const QColor& colour) {
    if (lane.frames() == 0 || (!wave && !lane.span().wraps)) return;
    drawWave(p, kHead, width() - kRight, middle, height, 0.0, perPixel,
             wave ? WaveReader(*wave, scale) : WaveReader(lane, channel, scale), colour);
  };
  draw(stems->sum, waves ? &waves->sum : nullptr, peaks.sum.channel, withAlpha(t.muted, 0.55));
  const int bass = session().bass().id;
  const Lane* lane = stems->lane(bass);
  const LaneWave* wave = nullptr;
  if (waves)
    if (const auto at = waves->lanes.find(bass); at != waves->lanes.end()) wave = &at->second;
  const auto peak = peaks.lanes.find(bass);
  if (lane && (wave || !waves))
    draw(lane->heard, wave, peak == peaks.lanes.end() ? 0 : peak->second.channel, withAlpha(t.bass, 0.75));
}

// A stroke a hit of the kick, as far as pixels go.
void SongOverview::drawHits(QPainter& p) const {
  const Axis x = timeAxis();
  p.setPen(QPen(theme().kick, 1.0));
  double last = -1.0;
  for (const Hit& hit : session().kick().hits) {
    if (session().mutedAt(session().kick().id, hit.startQuarters)) continue;
    if (hit.startQuarters >= track().loopQuarters()) break;
    const double px = std::floor(x.pixel(hit.startQuarters)) + 0.5;
    if (px < last + 2.0) continue;
    p.drawLine(QPointF(px, kTicks - 3), QPointF(px, kTicks));
    last = px;
  }
}

// The stretch that repeats, with a grip at each end.
void SongOverview::drawRegion(QPainter& p) const {
  const auto& region = transport_.region();
  if (!region) return;
  const Theme& t = theme();
  const Axis x = timeAxis();
  const double from = std::round(x.pixel(region->first)) + 0.5, to = std::round(x.pixel(region->second)) - 0.5;
  p.fillRect(QRectF(from, kWaveTop, std::max(2.0, to - from), kWaveBottom - kWaveTop), withAlpha(t.ink, 0.12));
  p.setPen(QPen(t.ink, 1.5));
  for (const double px : {from, to}) {
    p.drawLine(QPointF(px, kWaveTop), QPointF(px, kGripY - 4));
    drawGrip(p, QPointF(px, kGripY), grip_ == (px == from ? Grip::RegionFrom : Grip::RegionTo));
  }
}

// What the strip shows, led down to its width.
void SongOverview::drawView(QPainter& p) const {
  const Axis x = timeAxis();
  const double from = x.pixel(strip_.view().from()), to = x.pixel(strip_.view().to()), base = height() - 1.0;
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().muted, 1.0, Qt::DashLine));
  p.drawLine(QPointF(from, kGripY + 3), QPointF(kHead, base));
  p.drawLine(QPointF(to, kGripY + 3), QPointF(width() - kRight, base));
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(theme().ink, 1.0));
  p.drawLine(QPointF(from, kGripY + 3), QPointF(std::max(from + 2.0, to), kGripY + 3));
}

void SongOverview::paintEvent(QPaintEvent* event) {
  QPainter painter(this);
  paintRegion(painter, event->region(), [&] {
    const Theme& t = theme();
    painter.fillRect(rect(), t.page);
    painter.setPen(t.ink);
    painter.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
    drawHead(painter);
    drawSections(painter);
    drawWaves(painter);
    drawHits(painter);
    drawRegion(painter);
    drawView(painter);
    painter.setRenderHint(QPainter::Antialiasing, false);
    const double px = std::round(timeAxis().pixel(transport_.positionQuarters())) + 0.5;
    painter.setPen(QPen(t.ink, 1.5));
    painter.drawLine(QPointF(px, kWaveTop - 2), QPointF(px, kTicks));
    if (!hasFocus()) return;
    painter.setPen(QPen(t.ink, 1.0, Qt::DotLine));
    painter.drawRect(QRectF(kHead - 1, 1.5, width() - kHead - kRight + 2, height() - 4.0));
  });
}

// The columns where the playhead was and is; all of it where the section under it changes.
void SongOverview::followPlayhead() {
  constexpr int kWide = 2;
  const double now = timeAxis().pixel(transport_.positionQuarters());
  const auto was = std::exchange(playheadX_, now);
  if (!was || !transport_.isPlaying() ||
      session().sectionAt(timeAxis().value(*was)) != session().sectionAt(transport_.positionQuarters()))
    return update();
  QRegion stale;
  for (const double px : {*was, now}) stale += QRect(static_cast<int>(px) - kWide, 0, 2 * kWide + 1, height());
  update(stale);
}

}  // namespace heft::app
