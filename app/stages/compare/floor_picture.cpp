#include "app/stages/compare/floor_picture.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "app/theme/theme.h"
#include "core/compare/curves.h"
#include "core/judge/ledger.h"
#include "core/looks/compare_curves.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLeastRange = 9.0, kMostRange = 24.0;

}  // namespace

FloorPicture::FloorPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "The floor") {
  explain("Sum against references, 20 to 500 Hz, level matched. Flat line: reference median",
          "Sum against references, 20 to 500 Hz, level matched. The flat line is the references' median; the "
          "brackets are what is in range in each band: drag them. Left, Right: choose a band. Up, Down: its "
          "tolerance. Delete: as usual");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
}

FloorPicture::Areas FloorPicture::areas(const Study& s, const std::vector<CompareCurve>& curves) const {
  Areas out;
  const double left = 64, right = width() - 16.0;
  // Missing references are named above the plot: no words over the curves.
  out.plot = QRectF(QPointF(left, missing(s).isEmpty() ? 24 : 46), QPointF(right, height() - 92.0));
  out.hz = {20.0, 500.0, left, right, true};
  out.level = levelAxis(s, curves);
  out.level.pixelFrom = out.plot.bottom(), out.level.pixelTo = out.plot.top();
  out.bandY = out.plot.bottom() + 42;
  return out;
}

// Single parts fade outside their own bands: only levels above the floor count.
Axis FloorPicture::levelAxis(const Study& s, const std::vector<CompareCurve>& curves) const {
  double most = -300.0, least = 300.0;
  for (const CompareCurve& c : curves) {
    const auto [low, high] = std::minmax_element(c.db.begin(), c.db.end());
    most = std::max(most, *high);
    if (c.of == CompareCurve::Of::Sum || c.of == CompareCurve::Of::Reference) least = std::min(least, *low);
  }
  if (!floorShown(s)) return {-48.0, 0.0, 0.0, 1.0};
  const double range = std::clamp(std::ceil(std::max(most, -least) / 3.0) * 3.0, kLeastRange, kMostRange);
  return {-range, range, 0.0, 1.0};
}

void FloorPicture::drawGrid(QPainter& p, const Areas& a) const {
  const Theme& t = theme();
  const Key& key = track().key;
  p.setFont(axisFont());
  for (int midi = 15; midi <= 72; ++midi) {
    const double hz = hzFromMidi(midi, track().notes.a4Hz);
    if (!key.contains(midi) || !a.hz.holds(hz)) continue;
    const bool tonic = key.isTonic(midi), fifth = key.isFifth(midi);
    const double x = std::round(a.hz.pixel(hz)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.6) : t.rule, 1.0));
    p.drawLine(QPointF(x, a.plot.top()), QPointF(x, a.plot.bottom()));
    if (!tonic && !fifth) continue;
    p.setFont(axisFont(tonic));
    drawLabel(p, QPointF(x, 4), Qt::AlignHCenter | Qt::AlignTop,
              QString::fromStdString(noteName(midi, track().notes)), tonic ? t.ink : t.muted,
              QColor(0, 0, 0, 0));
  }
  p.setFont(axisFont());
  const double step = a.level.to > 12.0 ? 6.0 : a.level.to > 1.0 ? 3.0 : 12.0;
  for (double db = std::ceil(a.level.from / step) * step; db <= a.level.to + 0.01; db += step) {
    const double y = std::round(a.level.pixel(db)) + 0.5;
    p.setPen(QPen(t.rule, 1.0, Qt::DotLine));
    p.drawLine(QPointF(a.plot.left(), y), QPointF(a.plot.right(), y));
    drawLabel(p, QPointF(a.plot.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 && a.level.to > 1 ? "+" : "") + QString::number(db) + (db == 0 ? " dB" : ""), t.muted,
              QColor(0, 0, 0, 0));
  }
  drawTicksBelow(p, a.hz, a.plot.bottom(), {20, 40, 60, 90, 120, 180, 250, 500},
                 [](double v) { return QString::number(v) + " Hz"; });
}

void FloorPicture::drawLeaving(QPainter& p, const Areas& a, const CompareCurve& curve) const {
  const auto& hz = profileHz();
  auto side = [&](double db) { return db > a.level.to ? 1 : db < a.level.from ? -1 : 0; };
  for (size_t i = 0; i < hz.size();) {
    size_t end = i + 1;
    while (end < hz.size() && side(curve.db[end]) == side(curve.db[i])) ++end;
    if (const int out = side(curve.db[i])) {
      const double y = out > 0 ? a.plot.top() + 1.0 : a.plot.bottom() - 1.0;
      p.drawLine(QPointF(a.hz.pixel(hz[i]), y), QPointF(a.hz.pixel(hz[end - 1]), y));
    }
    i = end;
  }
}

void FloorPicture::drawCurves(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves,
                              bool floor) const {
  const Theme& t = theme();
  const auto& hz = profileHz();
  auto line = [&](const CompareCurve& curve) {
    QPolygonF out;
    for (size_t i = 0; i < hz.size(); ++i)
      out << QPointF(a.hz.pixel(hz[i]),
                     a.level.pixel(std::clamp(curve.db[i], a.level.from - 30, a.level.to + 30)));
    return out;
  };
  auto penOf = [&](CompareCurve::Of of) {
    return of == CompareCurve::Of::Reference ? QPen(t.reference, 1.0)
           : of == CompareCurve::Of::Sum     ? QPen(t.ink, 2.0)
           : of == CompareCurve::Of::Part    ? dataPen(t.muted)
                                             : dataPen(of == CompareCurve::Of::Kick ? t.kick : t.bass);
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.plot.adjusted(0, 0, 1, 1));
  for (const CompareCurve& c : curves) {
    const QPolygonF points = line(c);
    if (floor && c.of == CompareCurve::Of::Sum) {
      QPolygonF area = points;
      area.prepend(QPointF(points.first().x(), a.level.pixel(0)));
      area << QPointF(points.last().x(), a.level.pixel(0));
      p.setPen(Qt::NoPen);
      p.setBrush(withAlpha(t.ink, 0.12));
      p.drawPolygon(area);
      p.setBrush(Qt::NoBrush);
    }
    QPen pen = penOf(c.of);
    p.setPen(pen);
    drawLineThrough(p, points);
    pen.setStyle(Qt::DotLine);
    pen.setWidthF(2.0);
    p.setPen(pen);
    drawLeaving(p, a, c);
  }
  p.restore();
  if (floor) {
    const double y = std::round(a.level.pixel(0)) + 0.5;
    p.setPen(QPen(t.muted, 1.5));
    p.drawLine(QPointF(a.plot.left(), y), QPointF(a.plot.right(), y));
  }
}

// Over time, and not from track to track: what a section's quiet and loud moments are.
void FloorPicture::drawOverTime(QPainter& p, const Areas& a) const {
  const Study* s = document().study();
  const OverTimeBand band = overTimeBand(*s, !plain_);
  if (band.low.empty()) return;
  p.save();
  p.setClipRect(a.plot);
  hatch(p, {profileHz(), band.low}, {profileHz(), band.high}, a.hz, a.level, a.plot, theme().reference);
  if (ownSpan_ && detail() && detail()->mine) {
    const OverTimeBand own = overTimeOf(*detail()->mine, *s, !plain_);
    if (!own.low.empty())
      hatch(p, {profileHz(), own.low}, {profileHz(), own.high}, a.hz, a.level, a.plot, theme().ink);
  }
  p.restore();
}

void FloorPicture::drawBands(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  for (const BandDifference& d : s.differences) {
    const double x1 = a.hz.pixel(d.band.lowHz) + 2, x2 = a.hz.pixel(d.band.highHz) - 2;
    if (marked_ == d.band)
      p.fillRect(QRectF(QPointF(x1, a.plot.top()), QPointF(x2, a.plot.bottom())), withAlpha(t.off, 0.06));
    QString words;
    const auto verdict = bandVerdict(d);
    if (d.levelReLufsDb) {
      words = (*d.levelReLufsDb > 0.04 ? "+" : "") + QString::fromStdString(fixedNumber(*d.levelReLufsDb, 1));
    } else {
      words = QString::fromStdString(fixedNumber(s.sum.low.bandDb(d.band), 1));
    }
    drawDimension(p, QPointF(x1, a.bandY), QPointF(x2, a.bandY), words,
                  verdict ? verdictColour(*verdict) : t.ink, t.panel);
    if (!verdict || !s.hasBacking) continue;
    p.setFont(axisFont());
    const QString said = *verdict == Verdict::Holds ? "in range" : d.beyondDb > 0 ? "over" : "under";
    drawLabel(p, QPointF((x1 + x2) / 2, a.bandY + 12), Qt::AlignHCenter | Qt::AlignTop, said,
              verdictColour(*verdict), QColor(0, 0, 0, 0));
  }
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.plot.left() - 8, a.bandY), Qt::AlignRight | Qt::AlignVCenter, "bands", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.plot.right(), a.bandY), Qt::AlignRight | Qt::AlignVCenter,
            s.anyReference() ? "dB against the median" : "dB below the total", t.muted, QColor(0, 0, 0, 0));
}

// Parts beside the pair share a colour: each has its name at its loudest point, or as near to that as no
// other name is.
void FloorPicture::drawPartNames(QPainter& p, const Areas& a, const std::vector<CompareCurve>& curves) const {
  p.setFont(axisFont());
  std::vector<QRectF> taken;
  for (const CompareCurve& c : curves) {
    const Part* part = c.part ? document().session().part(*c.part) : nullptr;
    if (!part) continue;
    const QString name = QString::fromStdString(part->title());
    const QSizeF size = p.fontMetrics().size(0, name) + QSize(8, 2);
    std::vector<size_t> louderFirst(c.db.size());
    std::iota(louderFirst.begin(), louderFirst.end(), size_t{0});
    std::stable_sort(louderFirst.begin(), louderFirst.end(),
                     [&](size_t i, size_t j) { return c.db[i] > c.db[j]; });
    for (const size_t i : louderFirst) {
      if (c.db[i] < a.level.from) break;
      const QPointF foot(a.hz.pixel(profileHz()[i]), a.level.pixel(std::min(c.db[i], a.level.to - 1.5)) - 3);
      const QRectF box(foot - QPointF(size.width() / 2, size.height()), size);
      if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
      taken.push_back(box);
      drawLabel(p, foot, Qt::AlignHCenter | Qt::AlignBottom, name, theme().muted,
                withAlpha(theme().panel, 0.8));
      break;
    }
  }
}

void FloorPicture::drawLegend(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  double y = a.plot.top() + 4;
  auto say = [&](const QString& text, const QColor& colour) {
    const QRectF box =
        drawLabel(p, QPointF(a.plot.right() - 8, y), Qt::AlignRight | Qt::AlignTop, text, colour, t.panel);
    y = box.bottom() + 3;
  };
  say(s.hasBacking ? "sum with backing (thick)" : "sum (thick)", t.ink);
  say("kick", t.kick);
  say("bass", t.bass);
  // What is silent or missing has no line.
  const QStringList all = referenceNames(document().session());
  QStringList names;
  for (const MeasuredSection& r : s.references)
    if (const QString name = all.value(static_cast<int>(r.of.reference)); r.isLoud() && !names.contains(name))
      names << name;
  if (!names.isEmpty())
    say((names.size() == 1 ? "reference: " : "references: ") + names.join(", "), t.referenceWords);
  if (s.anyReference()) say("hatched: their 10th to 90th percentile over time", t.referenceWords);
}

void FloorPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || s->empty)
    return drawEmpty(p, document().isBusy() ? "Measuring..."
                                            : "The sum of kick, bass and backing appears here beside your "
                                              "references. Drop sounds in Sounds first.");
  const auto drawn = compareCurves(*s, !plain_);
  const Areas a = areas(*s, drawn);
  drawGrid(p, a);
  drawOverTime(p, a);
  drawBands(p, a, *s);
  if (floorShown(*s)) drawTolerances(p, a, *s);
  drawCurves(p, a, drawn, floorShown(*s));
  drawPartNames(p, a, drawn);
  drawLegend(p, a, *s);
  p.setFont(bodyFont());
  drawLabel(p, QPointF(a.plot.left(), 22), Qt::AlignLeft | Qt::AlignTop, missing(*s), theme().watch,
            QColor(0, 0, 0, 0));
}

QString FloorPicture::missing(const Study& s) const {
  if (!s.hasBacking)
    return "Kick and bass alone are not a mix: load a backing to judge levels. Only the shape is shown.";
  if (s.anyReference()) return {};
  return s.notMeasured.empty() ? "No reference yet: add a finished track that is known to sound right."
                               : "The references are not measured yet.";
}

}  // namespace heft::app
