#include "app/stages/processors/eq_picture.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/theme/theme.h"
#include "core/measure/levels/spectrum.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kDeepestDb = -60.0, kOverDb = 15.0;

}  // namespace

EqPicture::EqPicture(LayerChoice& choice, Selection& selection)
    : PeakPicture(choice, selection, "Layer spectrum") {
  explain("Drag the end of a line; double-click to add a bell. Shift+F1: more",
          "Thin: before the EQ. Thick: after. Hatched: cut. Drag a line end (snaps to notes; Alt: no snap). "
          "Wheel: Q. Double-click, Insert: add bell. Delete: remove. Page Up/Down: select. Left, Right: 1 st. "
          "Up, Down: 0.5 dB. Squares are resonances: click or Return flattens one.");
}

Axis EqPicture::hz() const {
  return {kSpectrumLowHz, kSpectrumHighHz, plot().left(), plot().right(), true};
}

Axis EqPicture::level() const {
  if (heldAxes_) return heldAxes_->first;
  const auto& db = look() ? look()->beforeDb : std::vector<double>{0.0};
  const double most = *std::max_element(db.begin(), db.end());
  return {most + kDeepestDb, most + kOverDb, plot().bottom(), plot().top()};
}

double EqPicture::beforeAt(double hertz) const {
  if (!look() || look()->beforeDb.empty()) return level().from;
  const auto& db = look()->beforeDb;
  const double at = std::clamp(kSpectrumPerOctave * std::log2(hertz / spectrumHz(0)), 0.0,
                               static_cast<double>(db.size()) - 1.0);
  const auto i = std::min(static_cast<size_t>(at), db.size() - 1), next = std::min(i + 1, db.size() - 1);
  const double between = at - static_cast<double>(i);
  return std::max(level().from + 6.0, db[i] + between * (db[next] - db[i]));
}

std::vector<double> EqPicture::afterDb() const {
  std::vector<double> out = look()->beforeDb;
  if (eq() && eq()->works())
    for (size_t i = 0; i < out.size(); ++i) out[i] += eqResponseDb(*eq(), look()->rate, spectrumHz(i));
  return out;
}

std::optional<QPointF> EqPicture::handleOf(size_t place) const {
  if (!eq() || !look() || !isPlaceOn(*eq(), place)) return std::nullopt;
  const double at = placeHz(*eq(), place);
  const double by = place == 0          ? eq()->lowCut.resonanceDb - 3.0
                    : place == kHighCut ? eq()->highCut.resonanceDb - 3.0
                    : eq()->bands[place - 1].kind == EqBand::Kind::Notch
                        ? -20.0
                        : eq()->amount * eq()->bands[place - 1].gainDb;
  const double from = held_ == place && heldAxes_ ? heldAxes_->second : beforeAt(at);
  return QPointF(hz().pixel(at), std::clamp(level().pixel(from + by), plot().top() + 4, plot().bottom() - 4));
}

QPointF EqPicture::markOf(size_t peak) const {
  if (peak >= cuts().size() || !look()) return {-1, -1};
  const double at = cuts()[peak].peak.hz;
  const double after = beforeAt(at) + (eq() && eq()->works() ? eqResponseDb(*eq(), look()->rate, at) : 0.0);
  return {hz().pixel(at), std::max(plot().top() + 6, level().pixel(std::max(after, level().from)) - 14.0)};
}

void EqPicture::drawScale(QPainter& p) const {
  const QRectF area = plot();
  drawLevelRules(p, level(), level().to - kOverDb, {0.0, -20.0, -40.0, -60.0}, area);
  drawKeyNotes(p, track(), hz(), area);
  drawTicksBelow(p, hz(), area.bottom(), {20, 50, 100, 200, 500, 1000, 2000, 5000, 10000}, hzTick);
}

void EqPicture::drawSpectrum(QPainter& p) const {
  const Axis x = hz(), y = level();
  const std::vector<double>& before = look()->beforeDb;
  const std::vector<double> after = afterDb();
  std::vector<double> lower(before.size());
  for (size_t i = 0; i < before.size(); ++i) lower[i] = std::min(before[i], after[i]);
  const QPolygonF was = spectrumLine(before, x, y);
  auto between = [&](const std::vector<double>& edge) {
    QPolygonF out = was, back = spectrumLine(edge, x, y);
    std::reverse(back.begin(), back.end());
    return out + back;
  };
  p.save();
  p.setClipRect(plot().adjusted(0, 0, 0, -1));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(theme().ink, 0.4), Qt::BDiagPattern));
  p.drawPolygon(between(lower));
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(withAlpha(ink(), 0.55), 1.0));
  drawLineThrough(p, was);
  if (eq() && eq()->works()) {
    p.setPen(QPen(ink(), 2.0));
    drawLineThrough(p, spectrumLine(after, x, y));
  }
  p.restore();
}

QString EqPicture::placeWords(size_t place) const {
  const bool low = place == 0, high = place == kHighCut;
  const double at = placeHz(*eq(), place);
  QString words;
  if (low || high) {
    const Cut& cut = low ? eq()->lowCut : eq()->highCut;
    words = QString(low ? "low cut, %1 dB/oct" : "high cut, %1 dB/oct").arg(cut.slopeDbPerOctave);
    if (cut.resonanceDb > 0.0) words += ", resonance " + dbText(cut.resonanceDb, 1, false);
  } else {
    const EqBand& b = eq()->bands[place - 1];
    words = QString(nameOf(b.kind));
    if (b.kind != EqBand::Kind::Notch) words += " " + dbText(eq()->amount * b.gainDb);
  }
  words += " at " + QString::fromStdString(formatNumber(at, 1)) + " Hz, " +
           noteText(midiFromHz(at, track().notes.a4Hz));
  if (!look()->noteHz) return words;
  const double turn = eqTurnDegrees(onlyPlace(*eq(), place), look()->rate, *look()->noteHz);
  return words + QString(": shifts %1 by %2 degrees")
                     .arg(noteText(std::round(midiFromHz(*look()->noteHz, track().notes.a4Hz))))
                     .arg(std::lround(turn));
}

void EqPicture::drawPlace(QPainter& p, size_t place) const {
  const auto end = handleOf(place);
  if (!end) return;
  const Theme& t = theme();
  const double at = placeHz(*eq(), place);
  const double from = held_ == place && heldAxes_ ? heldAxes_->second : beforeAt(at);
  const QPointF stood(end->x(), std::clamp(level().pixel(from), plot().top(), plot().bottom()));
  const bool chosen = place_ == place;
  const QColor line = chosen ? t.ink : t.muted;
  const bool cutPlace = place == 0 || place == kHighCut;
  const QString words = cutPlace || eq()->bands[place - 1].kind == EqBand::Kind::Notch
                            ? QString()
                            : dbText(eq()->amount * eq()->bands[place - 1].gainDb);
  // A short line would overlap its words; those of the selection are above.
  constexpr double kRoomForWords = 16.0;
  const bool room = std::abs(end->y() - stood.y()) >= kRoomForWords;
  drawDimension(p, stood, *end, room ? words : QString(), line, t.panel);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(line, chosen ? 2.0 : 1.0));
  if (cutPlace) {
    // A cut removes everything beyond it: a bracket open to that side.
    const double way = place == 0 ? -1.0 : 1.0;
    p.drawLine(*end, *end + QPointF(way * 26, 0));
    p.drawLine(*end + QPointF(way * 26, -4), *end + QPointF(way * 26, 4));
  } else {
    const EqBand& b = eq()->bands[place - 1];
    const double octaves = 2.0 / std::numbers::ln2 * std::asinh(1.0 / (2.0 * b.q));
    const bool lowShelf = b.kind == EqBand::Kind::LowShelf, highShelf = b.kind == EqBand::Kind::HighShelf;
    const double left =
                     highShelf ? end->x() : std::max(plot().left(), hz().pixel(at * std::exp2(-octaves / 2))),
                 right =
                     lowShelf ? end->x() : std::min(plot().right(), hz().pixel(at * std::exp2(octaves / 2)));
    p.drawLine(QPointF(left, end->y()), QPointF(right, end->y()));
    for (const double x : {left, right}) p.drawLine(QPointF(x, end->y() - 4), QPointF(x, end->y() + 4));
  }
  drawGrip(p, *end, chosen, 4.0);
  p.setRenderHint(QPainter::Antialiasing, false);
}

// Its overall phase shift, or for linear phase its pre-ringing.
QString EqPicture::turnWords() const {
  QStringList out;
  if (const auto& ringing = look()->ringing)
    out << (ringing->highestDb ? QString("rings %1 ms before the strike, %2 below its peak")
                                     .arg(ringing->ms, 0, 'f', ringing->ms < 10.0 ? 1 : 0)
                                     .arg(dbText(-*ringing->highestDb, 0, false))
                               : "no pre-ringing above -40 dB");
  if (const auto& pair = look()->pair) {
    auto change = [&](double db) {
      const double lost = pair->withoutDb - db;
      return std::abs(lost) < 0.05 ? QString("loses nothing")
             : lost > 0.0          ? "loses " + dbText(lost, 1, false)
                                   : "gains " + dbText(-lost, 1, false);
    };
    if (!eq()->linearPhase)
      out << QString("shifts %1 by %2 degrees")
                 .arg(noteText(std::round(midiFromHz(*look()->noteHz, track().notes.a4Hz))))
                 .arg(std::lround(eqTurnDegrees(*eq(), look()->rate, *look()->noteHz)));
    out << QString("the pair %1, re-aligned it %2").arg(change(pair->withDb), change(pair->alignedDb));
  }
  return out.join(": ");
}

void EqPicture::drawWords(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  QString left = eq()->works() ? "thin: before, thick: after"
                 : eq()->on    ? "the sound; this EQ changes nothing yet"
                               : "the sound; this is off";
  if (place_ && isPlaceOn(*eq(), *place_)) left = placeWords(*place_);
  drawLabel(p, QPointF(plot().left(), 2), Qt::AlignLeft | Qt::AlignTop, withKept(left), t.ink, t.panel);
  QString right = turnWords();
  if (right.isEmpty()) right = evenWords();
  const QFontMetricsF metrics(axisFont());
  if (metrics.horizontalAdvance(withKept(left)) + metrics.horizontalAdvance(right) + 24 < plot().width())
    drawLabel(p, QPointF(plot().right(), 2), Qt::AlignRight | Qt::AlignTop, right, t.muted, t.panel);
  else if (!place_)
    drawLabel(p, QPointF(plot().left(), 2), Qt::AlignLeft | Qt::AlignTop, right, t.muted, t.panel);
}

void EqPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!eq() || !look() || look()->beforeDb.empty()) return drawNothing(p);
  drawScale(p);
  drawSpectrum(p);
  for (size_t place = 0; place < kEqPlaces; ++place)
    if (place_ != place) drawPlace(p, place);
  drawMarks(p, plot());
  if (place_) drawPlace(p, *place_);
  drawWords(p);
}

}  // namespace heft::app
