#include "app/stages/compare/bar_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

BarPicture::BarPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Over the bar") {
  setToolTip(
      "Level of the low band over one bar or beat, mean of all of a section's, re the section's own mean");
  connect(&figures, &CompareFigures::changed, this, &BarPicture::fold);
}

void BarPicture::setBelowHz(double hz) {
  ask_.belowHz = std::clamp(hz, kLeastFoldHz, kMostFoldHz);
  fold();
}

void BarPicture::setSmoothMs(double ms) {
  ask_.smoothMs = std::clamp(ms, kLeastFoldMs, kMostFoldMs);
  fold();
}

void BarPicture::setOneBeat(bool beat) {
  oneBeat_ = beat;
  fold();
}

double BarPicture::quarters() const {
  return oneBeat_ ? 1.0 : track().beatsPerBar * 4.0 / track().beatUnit;
}

ComparePicture::Line BarPicture::lineOf(const BarFold& fold) const {
  Line out;
  for (size_t i = 0; i < fold.size(); ++i) {
    out.at.push_back(quarters() * static_cast<double>(i) / static_cast<double>(fold.size()));
    out.level.push_back(fold[i]);
  }
  return out;
}

// A reference's first beat is known to a quarter: its bar starts where it is most like yours.
void BarPicture::fold() {
  lines_ = {}, without_.clear();
  ask_.quarters = quarters();
  if (detail()) {
    const BarFold mine = mineFold(*detail(), document().session(), ask_);
    lines_.mine = lineOf(mine);
    const QStringList names = referenceNames(document().session());
    for (const ComparedSection& s : detail()->sections) {
      const BarFold own = sectionFold(s, document().session(), ask_);
      if (own.empty()) {
        without_ << names.value(static_cast<int>(s.of.reference));
        continue;
      }
      lines_.sections.push_back(
          {s.of, lineOf(startedLater(own, quartersApart(own, mine, quarters()), quarters()))});
    }
    span(lines_);
  }
  update();
}

void BarPicture::drawBeats(QPainter& p, const Axis& x, const QRectF& plot) const {
  const Theme& t = theme();
  const double beat = 4.0 / track().beatUnit;
  p.setFont(axisFont());
  for (double q = 0.0; q < quarters() + 0.001; q += 0.25 * beat) {
    const bool whole = std::abs(std::remainder(q, beat)) < 1e-6;
    const double at = std::round(x.pixel(q)) + 0.5;
    p.setPen(QPen(whole ? withAlpha(t.muted, 0.6) : t.rule, 1.0));
    p.drawLine(QPointF(at, plot.top()), QPointF(at, plot.bottom()));
    if (whole && q < quarters() - 0.001)
      drawLabel(p, QPointF(at + 3, plot.bottom() + 4), Qt::AlignLeft | Qt::AlignTop,
                oneBeat_ ? QString("beat") : QString("beat %1").arg(std::lround(q / beat) + 1), t.muted,
                QColor(0, 0, 0, 0));
  }
  // Your kicks.
  p.setPen(Qt::NoPen);
  for (const Hit& hit : document().session().kick().hits) {
    const double q = std::fmod(hit.startQuarters, quarters());
    p.fillRect(QRectF(x.pixel(q) - 1, plot.bottom() - 7, 3, 7), t.kick);
  }
}

namespace {

QString rangeText(const std::optional<CompareDetail::Span>& s, const QString& unit, int digits) {
  const auto words = [digits](double v) { return QString::fromStdString(fixedNumber(v, digits)); };
  if (!s) return "references: cannot be told";
  if (s->count == 1) return QString("reference %1 %2").arg(words(s->median), unit);
  return QString("references %1 to %2 %3").arg(words(s->least), words(s->most), unit);
}

}  // namespace

// How deep the bass dips after the kick, when it is back, how long the kick stands: yours, and the references'.
std::vector<BarPicture::Dimension> BarPicture::dimensions() const {
  const SectionFacts& mine = detail()->mineFacts;
  const auto dip = [](const SectionFacts& f) {
    return f.dip ? std::optional(f.dip->depthDb.value) : std::nullopt;
  };
  const auto back = [](const SectionFacts& f) {
    return f.dip && f.dip->backMs ? std::optional(f.dip->backMs->value) : std::nullopt;
  };
  const auto length = [](const SectionFacts& f) {
    return f.kickMs ? std::optional(f.kickMs->value) : std::nullopt;
  };
  const auto theirs = [&](auto figure, const char* unit, int digits) {
    return rangeText(detail()->spanOf([&](const ComparedSection& s) { return figure(*s.facts); }), unit,
                     digits);
  };
  std::vector<Dimension> out;
  if (const auto ms = length(mine))
    out.push_back({QString("kick %1 ms").arg(std::lround(*ms)), theirs(length, "ms", 0), *ms});
  if (const auto db = dip(mine))
    out.push_back({QString("bass dips %1 dB").arg(*db, 0, 'f', 1), theirs(dip, "dB", 1), {}});
  if (const auto ms = back(mine))
    out.push_back({QString("back after %1 ms").arg(std::lround(*ms)), theirs(back, "ms", 0), *ms});
  return out;
}

// The hit with the most room after it, in the first half of the fold.
std::optional<double> BarPicture::roomiestHit() const {
  const auto& hits = document().session().kick().hits;
  std::optional<double> out;
  double room = 0.0;
  for (size_t i = 0; i < hits.size(); ++i) {
    const double next = i + 1 < hits.size() ? hits[i + 1].startQuarters : track().loopQuarters();
    const double q = std::fmod(hits[i].startQuarters, quarters());
    if (next - hits[i].startQuarters > room + 1e-9 && q < 0.5 * quarters())
      room = next - hits[i].startQuarters, out = q;
  }
  return out;
}

void BarPicture::drawDimensions(QPainter& p, const Axis& x, const QRectF& plot) const {
  const Theme& t = theme();
  const auto from = roomiestHit();
  if (!from) return;
  double line = plot.top() + 16.0;
  for (const Dimension& row : dimensions()) {
    const double left = x.pixel(*from);
    double right = left;
    if (row.ms) {
      right = std::min(plot.right() - 160.0, x.pixel(*from + *row.ms * track().tempoBpm / 60000.0));
      p.setPen(QPen(t.ink, 1.0));
      p.drawLine(QPointF(left, line), QPointF(right, line));
      for (const double end : {left, right}) p.drawLine(QPointF(end, line - 4), QPointF(end, line + 4));
    }
    p.setFont(axisFont(true));
    drawLabel(p, QPointF(right + 8, line - 7), Qt::AlignLeft | Qt::AlignVCenter, row.mine, t.ink,
              withAlpha(t.panel, 0.9));
    p.setFont(axisFont());
    drawLabel(p, QPointF(right + 8, line + 7), Qt::AlignLeft | Qt::AlignVCenter, row.theirs, t.referenceWords,
              withAlpha(t.panel, 0.9));
    line += 36.0;
  }
}

void BarPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!hasSomething(p)) return;
  const QRectF plot = plotArea(without_.isEmpty() ? 24.0 : 40.0);
  const Axis x{0.0, quarters(), plot.left(), plot.right()};
  double low = -12.0;
  auto deepest = [&](const Line& l) {
    for (const double db : l.level) low = std::min(low, db);
  };
  deepest(lines_.mine);
  for (const auto& s : lines_.sections) deepest(s.line);
  const Axis y{std::max(-24.0, std::floor(low / 6.0) * 6.0), 12.0, plot.bottom(), plot.top()};
  drawLevels(p, y, plot, 6.0);
  drawBeats(p, x, plot);
  drawLines(p, lines_, x, y, plot);
  drawKey(p, plot, lines_.sections.size() > 1);
  drawDimensions(p, x, plot);
  if (without_.isEmpty()) return;
  p.setFont(axisFont());
  drawLabel(p, QPointF(plot.left(), height() - 2.0), Qt::AlignLeft | Qt::AlignBottom,
            "Without a steady tempo: " + without_.join(", ") + ". Type one in its row.", theme().watch,
            QColor(0, 0, 0, 0));
}

}  // namespace heft::app
