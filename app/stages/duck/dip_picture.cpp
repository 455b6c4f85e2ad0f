#include "app/stages/duck/dip_picture.h"

#include <algorithm>
#include <cmath>

#include "app/desk/passing.h"
#include "app/pictures/wave.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kCurvePerMs = 8.0;  // values of the curve a millisecond
constexpr double kDipLeft = 64.0;

// Least peak to scale by, for a silent source.
const Signal* sourceStem(const Document& doc, const Duck& d, const ResolvedDuck* r) {
  if (d.source.kind == TriggerKind::Part) {
    const Lane* lane = doc.stems()->lane(d.source.part);
    return lane ? &lane->placed : nullptr;
  }
  return r && r->heard.frames() > 0 ? &r->heard : nullptr;
}

struct TargetStems {
  const Signal *heard = nullptr, *whole = nullptr;
};
TargetStems targetStems(const Document& doc, const Duck& d) {
  if (d.target.kind == DuckTargetKind::Backing) return {&doc.stems()->backing, &doc.stems()->backing};
  const Lane* lane = doc.stems()->lane(d.target.part);
  return lane ? TargetStems{&lane->heard, &lane->placed} : TargetStems{};
}

}  // namespace

DipPicture::DipPicture(Document& document, Selection& selection) : Picture(document, selection, "The dip") {
  explain("Gain reduction after a hit. Drag a dimension line or a point on the edge. Shift+F1: more",
          "Gain reduction after a hit, hatched. Drag depth, attack, hold, release. Double-click the edge: add "
          "a point (snaps to note lengths). Page Up/Down: select. Arrows: move. Ctrl+Up/Down: bend. Insert, "
          "Delete: add, remove. No point selected: Up, Down set depth, Left, Right step hits.");
}

void DipPicture::setPlayhead(std::optional<double> quarters) {
  if (quarters == playhead_) return;
  const auto shown = hitFrame();
  const auto was = std::exchange(playhead_, quarters);
  if (hitFrame() != shown) return update();
  // The words between the waves, and the columns where it was and is.
  const Areas a = areas();
  QRegion stale(0, static_cast<int>(a.source.bottom()), width(),
                static_cast<int>(a.target.top() - a.source.bottom()) + 2);
  const auto frame = hitFrame();
  for (const auto& at : {was, quarters})
    if (at && frame) stale += QRect(static_cast<int>(a.time.pixel(msOf(*at, *frame))) - 2, 0, 5, height());
  update(stale);
}

double DipPicture::msOf(double quarters, double frame) const {
  return (quarters * track().framesPerQuarter() - frame) / track().sampleRate * 1000.0;
}

std::optional<double> DipPicture::hitFrame() const {
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  if (!r) return std::nullopt;
  if (const auto index = shownTrigger(*r)) return r->triggers[*index].frame;
  // A ducking that is off triggers nothing yet: what would.
  std::vector<double> would;
  for (const LaneHit& hit : r->hits)
    if (hit.fires()) would.push_back(hit.frame);
  if (would.empty()) return std::nullopt;
  const auto heard = leads() ? passing(would, *playhead_ * track().framesPerQuarter()) : std::nullopt;
  return would[heard.value_or(std::min(would.size() - 1, static_cast<size_t>(std::max(0, selection().hit()))))];
}

bool DipPicture::leads() const {
  return playhead_ && track().song && held_.handle == Handle::None;
}

std::optional<size_t> DipPicture::shownTrigger(const ResolvedDuck& duck) const {
  const auto chosen = chosenTrigger(duck, selection());
  const auto heard =
      leads() ? passing(duck.triggers, *playhead_ * track().framesPerQuarter(), &Trigger::frame) : std::nullopt;
  return heard ? heard : chosen;
}

double DipPicture::gapMs() const {
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const double perMs = track().sampleRate / 1000.0;
  const auto index = r ? chosenTrigger(*r, selection()) : std::nullopt;
  if (!index) return 60000.0 / track().tempoBpm;
  const auto& t = r->triggers;
  const double next = *index + 1 < t.size() ? t[*index + 1].frame
                                            : t[0].frame + static_cast<double>(document().stems()->frames);
  return (next - t[*index].frame) / perMs;
}

DrawnDip DipPicture::dip() const {
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const bool asSource = duck().curve.lasts == CurveLasts::AsSource;
  DrawnDip out =
      resolvedDip(duck(), track().tempoBpm,
                  asSource && r && r->dip.wholeMs() > 0.0 ? std::optional(r->dip.wholeMs()) : std::nullopt);
  if (duck().movement == Movement::Static) out.attackMs = 0.5, out.holdMs = 1e6, out.points.clear();
  if (!out.toNext) return out;
  const double gap = gapMs(), rest = out.holdMs + out.returnMs;
  if (rest > 0.0 && gap > out.attackMs + 1.0) {
    const double scale = (gap - out.attackMs) / rest;
    out.holdMs *= scale, out.returnMs *= scale;
  }
  out.lengthMs = gap, out.toNext = false;
  return out;
}

DipPicture::Areas DipPicture::areas() const {
  Areas out;
  const double right = width() - 16.0, bottom = height() - (isDrawn() ? 84.0 : 62.0);
  out.source = QRectF(QPointF(kDipLeft, 6), QPointF(right, 6 + 0.2 * (bottom - 6)));
  out.target = QRectF(QPointF(kDipLeft, out.source.bottom() + 24), QPointF(right, bottom));
  const double eighth = 30000.0 / track().tempoBpm;
  double most = isDrawn() ? 1.15 * dip().wholeMs() : std::min(gapMs(), 2.0 * eighth);
  // The scale stays while an end is dragged.
  out.time = {-0.1 * eighth, std::max(eighth, most), kDipLeft, right};
  return out;
}

double DipPicture::gainAt(double ms) const {
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const double amount = duck().amount * document().session().ducking.amount;
  if (isDrawn()) {
    const Trigger zero;
    const DipPlan plan(dip(), std::span<const Trigger>(&zero, 1), 1000.0 * kCurvePerMs, Span{0, false});
    std::vector<float> one(1);
    plan.fill(static_cast<size_t>(std::max(0.0, ms * kCurvePerMs)), one);
    return ms < 0.0 ? 1.0 : atShare(one[0], amount);
  }
  const auto frame = hitFrame();
  if (!r || !frame || r->gain.frames() == 0) return 1.0;
  const auto n = static_cast<double>(r->gain.frames());
  double at = *frame + ms * track().sampleRate / 1000.0;
  at -= std::floor(at / n) * n;
  return r->gain.at(0, std::min(r->gain.frames() - 1, static_cast<size_t>(at)));
}

void DipPicture::drawWaves(QPainter& p, const Areas& a, double frame) const {
  const Stems& stems = *document().stems();
  const double perPixel = (a.time.to - a.time.from) / 1000.0 * stems.sampleRate / a.target.width();
  const double first = frame + a.time.from / 1000.0 * stems.sampleRate;
  const auto n = static_cast<int64_t>(stems.frames);
  const auto from = static_cast<int64_t>(first);
  const auto count = static_cast<size_t>(a.target.width() * perPixel) + 2;
  auto reader = [&, n](const Signal& stem, float scale) {
    const size_t channel = stem.drawnChannel(from, count);
    return [&stem, n, scale, channel](int64_t i) {
      return scale * stem.at(channel, static_cast<size_t>(((i % n) + n) % n));
    };
  };
  // Each lane fills its height, scaled to the drawn stretch before and after its move, unless it is almost
  // silent.
  auto peakOf = [&](const Signal& stem) {
    const StepKey key = KeyMaker("drawn peak 1").add(stem.key()).add(from).add(count).key();
    return *document().cache()->get<float>(
        key,
        [&] {
          float most = 0.001f;
          for (const float x : stem.loudest(from, count)) most = std::max(most, std::abs(x));
          return most;
        },
        [](float) { return size_t{64}; });
  };
  const Session& s = document().session();
  if (const Signal* source = sourceStem(document(), duck(), resolvedDuck(document(), duck()));
      source && source->frames())
    drawWave(p, a.source.left(), a.source.right(), a.source.center().y(), a.source.height(), first, perPixel,
             reader(*source, 1.0f / peakOf(*source)), triggerColour(s, duck().source));
  const TargetStems target = targetStems(document(), duck());
  if (target.heard && target.heard->frames())
    drawWave(p, a.target.left(), a.target.right(), a.target.center().y(), a.target.height(), first, perPixel,
             reader(*target.heard, 1.0f / std::max(peakOf(*target.heard), peakOf(*target.whole))),
             targetColour(s, duck().target));
}

void DipPicture::drawTaken(QPainter& p, const Areas& a) const {
  const double amount = duck().amount * document().session().ducking.amount;
  std::vector<float> drawn;
  if (isDrawn()) {
    const Trigger zero;
    const DipPlan plan(dip(), std::span<const Trigger>(&zero, 1), 1000.0 * kCurvePerMs, Span{0, false});
    drawn.resize(static_cast<size_t>(std::max(1.0, a.time.to * kCurvePerMs)) + 1);
    plan.fill(0, drawn);
  }
  QPolygonF upper, lower;
  const double from = isDrawn() ? a.time.pixel(0.0) : a.time.pixelFrom;
  for (double x = from; x <= a.time.pixelTo; x += 1.0) {
    const double ms = a.time.value(x);
    const double gain =
        isDrawn()
            ? atShare(drawn[std::min(drawn.size() - 1, static_cast<size_t>(std::max(0.0, ms * kCurvePerMs)))],
                      amount)
            : gainAt(ms);
    upper << QPointF(x, yOfGain(a, gain));
    lower << QPointF(x, yOfGain(a, -gain));
  }
  const QColor ink = targetColour(document().session(), duck().target);
  auto hatch = [&](const QPolygonF& edge, double full) {
    QPolygonF area = edge;
    area.prepend(QPointF(edge.first().x(), full));
    area << QPointF(edge.last().x(), full);
    p.setPen(Qt::NoPen);
    p.setBrush(QBrush(withAlpha(ink, 0.55), Qt::BDiagPattern));
    p.drawPolygon(area);
    p.setBrush(Qt::NoBrush);
  };
  p.setRenderHint(QPainter::Antialiasing);
  hatch(upper, a.target.top());
  hatch(lower, a.target.bottom());
  p.setPen(QPen(ink, 1.0));
  drawLineThrough(p, upper);
  drawLineThrough(p, lower);
}

void DipPicture::drawGrid(QPainter& p, const Areas& a) const {
  const Theme& t = theme();
  // Sixteenths and their halves, from the hit.
  const double half = 7500.0 / track().tempoBpm;
  const double step = half * std::max(1.0, std::exp2(std::ceil(std::log2(a.time.to / half / 16.0))));
  std::vector<double> ticks;
  for (double at = 0.0; at <= a.time.to + 1e-6; at += step) {
    const double x = std::round(a.time.pixel(at)) + 0.5;
    p.setPen(QPen(at == 0.0 ? t.ink : t.rule, 1.0));
    p.drawLine(QPointF(x, a.source.top()), QPointF(x, a.target.bottom()));
    ticks.push_back(at);
  }
  p.setPen(rulePen(t.rule));
  p.drawLine(a.target.topLeft(), a.target.topRight());
  p.drawLine(a.target.bottomLeft(), a.target.bottomRight());
  drawTicksBelow(p, a.time, a.target.bottom() + (isDrawn() ? 56 : 34), ticks, [&](double v) {
    const int thirtyseconds = static_cast<int>(std::lround(v / half));
    if (thirtyseconds == 0) return QString("0");
    int over = 32, count = thirtyseconds;
    while (count % 2 == 0 && over > 1) count /= 2, over /= 2;
    return over == 1 ? QString::number(count) : QString("%1/%2").arg(count).arg(over);
  });
}

void DipPicture::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  paintRegion(p, event->region(), [&] { paintAll(p); });
}

void DipPicture::paintAll(QPainter& p) const {
  const Stems* stems = document().stems();
  const ResolvedDuck* r = resolvedDuck(document(), duck());
  const auto frame = stems ? hitFrame() : std::nullopt;
  if (!stems || !r || document().session().track.loopBeats == 0)
    return drawEmpty(p, document().isBusy() ? "Rendering..." : "Nothing is rendered yet.");
  if (!frame && duck().movement != Movement::Static)
    return drawEmpty(
        p, document().isBusy()
               ? "Rendering..."
               : "Each hit of a trigger lowers the target for a moment. Drop both sounds in Sounds and place "
                 "hits in the loop below, or choose another trigger.");
  const Areas a = areas();
  drawGrid(p, a);
  drawWaves(p, a, frame.value_or(0.0));
  drawNames(p, a);
  if (!duck().on) {
    p.setFont(bodyFont());
    drawLabel(p, QPointF(a.target.center().x(), a.target.bottom() + 30), Qt::AlignCenter,
              document().session().ducks.size() > 1
                  ? "This ducking is off. Set Ducking to a type."
                  : "No ducking yet. Set Ducking to a type, or compare Ways to make room.",
              theme().muted, theme().panel);
    return;
  }
  drawTaken(p, a);
  if (hasPoints())
    drawPoints(p, a);
  else if (isDrawn())
    drawFour(p, a);
  else if (duck().movement == Movement::Static)
    drawDepth(p, a);
  drawFigures(p, a);
}

}  // namespace heft::app
