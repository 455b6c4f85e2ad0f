#include "app/stages/sounds/contour_picture.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "app/desk/duck_words.h"
#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kRoomDb = 1.5;  // over the highest point

}  // namespace

ContourPicture::ContourPicture(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Contour"), choice_(choice) {
  explain("Drag the points of the line: peak, sustain, release. Shift+F1: more",
          "Gain over each note from its start; hatched: gain reduction. Drag a point (snaps to note values), "
          "the mark between two to bend, the last for the release. Double-click, Insert: add. Page Up/Down: "
          "select. Arrows: move. Ctrl+Up/Down: bend. Delete: remove. Shift+Page Up/Down: another note.");
  const auto anew = [this] { line_.reset(), update(); };
  connect(&choice_, &LayerChoice::changed, this, anew);
  for (auto signal : {&Document::changed, &Document::replaced})
    connect(&choice_.document(), signal, this, anew);
}

std::optional<ContourPicture::Shown> ContourPicture::shown() const {
  if (!line_) line_.emplace(choice_.part(), track());
  const auto& notes = line_->notes();
  if (notes.empty()) return std::nullopt;
  const auto longest = std::max_element(notes.begin(), notes.end(), [](const auto& a, const auto& b) {
    return a.heldSeconds < b.heldSeconds - 1e-9;
  });
  const size_t at = note_ && *note_ < notes.size() ? *note_ : static_cast<size_t>(longest - notes.begin());
  return Shown{notes[at], at, notes.size()};
}

ContourGain ContourPicture::gain(const Shown& note) const {
  Contour in = contour();
  in.on = true;
  return {in, track().tempoBpm, note.span.heldSeconds};
}

Axis ContourPicture::time() const {
  if (heldTime_) return *heldTime_;
  const auto note = shown();
  if (!note) return {0.0, 500.0, plot().left(), plot().right()};
  const ContourGain g = gain(*note);
  const double last = std::max(g.endSeconds(), g.pointSeconds(contour().points.size() - 1));
  return {0.0, 1060.0 * std::max(0.05, last), plot().left(), plot().right()};
}

double ContourPicture::loudest() const {
  double most = 0.0;
  for (const ContourPoint& p : contour().points) most = std::max(most, contour().amount * p.db);
  return amplitudeFromDb(most + kRoomDb);
}

double ContourPicture::yOf(double gain) const {
  return plot().center().y() - 0.5 * plot().height() * gain / loudest();
}

double ContourPicture::dbAt(double y) const {
  const double gain = (plot().center().y() - y) / (0.5 * plot().height()) * loudest();
  return dbFromAmplitude(std::max(gain, 0.001)) / std::max(0.05, contour().amount);
}

QPointF ContourPicture::placeOf(double ms, double db) const {
  return {time().pixel(ms), yOf(amplitudeFromDb(contour().amount * db))};
}

QPointF ContourPicture::handleAt(Handle handle, size_t index) const {
  const auto note = shown();
  const auto& points = contour().points;
  if (!note) return {};
  const ContourGain g = gain(*note);
  switch (handle) {
    case Handle::Point:
      if (index < points.size()) return placeOf(1000.0 * g.pointSeconds(index), points[index].db);
      break;
    case Handle::Bend: {
      if (index + 1 >= points.size()) break;
      const double middle = 0.5 * (g.pointSeconds(index) + g.pointSeconds(index + 1));
      Shown held = *note;
      held.span.heldSeconds = 1e6;
      return {time().pixel(1000.0 * middle), yOf(gain(held).at(middle))};
    }
    case Handle::Release:
      return {time().pixel(1000.0 * g.endSeconds()), plot().center().y()};
    case Handle::None:
      break;
  }
  return {};
}

void ContourPicture::drawScale(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = plot();
  p.setFont(axisFont());
  for (const double db : {6.0, 0.0, -6.0, -12.0}) {
    const double y = yOf(amplitudeFromDb(db));
    if (y < area.top() - 1) continue;
    p.setPen(rulePen(db == 0.0 ? t.muted : t.rule));
    p.drawLine(QPointF(area.left(), std::round(y) + 0.5), QPointF(area.right(), std::round(y) + 0.5));
    drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 ? "+" : "") + QString::number(db) + " dB", t.muted, QColor(0, 0, 0, 0));
  }
  const Axis x = time();
  const double whole = 240000.0 / track().tempoBpm;
  std::vector<double> ticks;
  double step = whole / 64.0;
  while (x.pixel(step) - x.pixel(0.0) < 70.0) step *= 2.0;
  for (double at = 0.0; at <= x.to; at += step) ticks.push_back(at);
  drawTicksBelow(p, x, area.bottom(), ticks, [&](double ms) {
    const auto parts = std::lround(ms / whole * 64.0);
    const auto of = std::gcd(parts, 64L);
    return parts == 0 ? QString("0") : QString("%1/%2").arg(parts / of).arg(64 / of);
  });
}

// Without the contour hatched, with it filled: one wave, drawn twice.
void ContourPicture::drawWave(QPainter& p, const Shown& note) const {
  const Study* study = document().study();
  const Stems* stems = document().stems();
  const Lane* lane = stems ? stems->lane(choice_.part().id) : nullptr;
  const ContourFacts* facts = study ? study->contourOf(choice_.part().id) : nullptr;
  if (!lane) return;
  const Signal& plain = facts && facts->plain.frames() == stems->frames ? facts->plain : lane->placed;
  if (plain.frames() == 0) return;
  const Axis x = time();
  const double perPixel = (x.to - x.from) / 1000.0 * stems->sampleRate / plot().width();
  const auto n = static_cast<int64_t>(plain.frames());
  const auto first = static_cast<int64_t>(note.span.startSeconds * stems->sampleRate);
  const auto count = static_cast<size_t>(plot().width() * perPixel) + 2;
  float most = 0.001f;
  for (const float v : plain.loudest(first, count)) most = std::max(most, std::abs(v));
  const size_t channel = plain.drawnChannel(first, count);
  const float scale = 0.95f / (most * static_cast<float>(loudest()));
  auto reader = [=](const Signal& stem) {
    return [&stem, first, n, scale, channel](int64_t i) {
      return scale * stem.at(channel, static_cast<size_t>((((first + i) % n) + n) % n));
    };
  };
  const bool in = contour().works();
  const QColor ink = colourOf(choice_.part());
  const double mid = plot().center().y();
  app::drawWave(p, plot().left(), plot().right(), mid, plot().height(), 0.0, perPixel, reader(plain),
                withAlpha(ink, in ? 0.18 : 0.6));
  if (in)
    app::drawWave(p, plot().left(), plot().right(), mid, plot().height(), 0.0, perPixel, reader(lane->placed),
                  withAlpha(ink, 0.75));
}

void ContourPicture::drawLine(QPainter& p, const Shown& note) const {
  const Theme& t = theme();
  const Axis x = time();
  const ContourGain g = gain(note);
  QPolygonF line, taken;
  line << QPointF(x.pixel(0.0), yOf(0.0));
  for (double px = plot().left(); px <= std::min(plot().right(), x.pixel(1000.0 * g.endSeconds())); px += 1.0)
    line << QPointF(px, yOf(g.at(x.value(px) / 1000.0)));
  taken = line;
  taken << QPointF(line.back().x(), yOf(1.0)) << QPointF(line.front().x(), yOf(1.0));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(t.ink, contour().works() ? 0.35 : 0.15), Qt::BDiagPattern));
  p.drawPolygon(taken);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(contour().works() ? t.ink : t.muted, 1.5, contour().works() ? Qt::SolidLine : Qt::DashLine));
  p.drawPolyline(line);
  p.setRenderHint(QPainter::Antialiasing, false);
  const double off = std::round(x.pixel(1000.0 * note.span.heldSeconds)) + 0.5;
  p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
  p.drawLine(QPointF(off, plot().top()), QPointF(off, plot().bottom()));
  p.setFont(axisFont());
  drawLabel(p, QPointF(off - 4, plot().bottom() - 2), Qt::AlignRight | Qt::AlignBottom, "note ends", t.muted,
            t.panel);
  const auto& points = contour().points;
  p.setRenderHint(QPainter::Antialiasing);
  for (size_t i = 0; i + 1 < points.size(); ++i)
    if (points[i].db != points[i + 1].db &&
        handleAt(Handle::Point, i + 1).x() - handleAt(Handle::Point, i).x() > 24)
      drawBendGrip(p, handleAt(Handle::Bend, i), held_.handle == Handle::Bend && held_.index == i);
  for (size_t i = 0; i < points.size(); ++i)
    drawPointMark(p, handleAt(Handle::Point, i),
                  chosen_ == i || (held_.handle == Handle::Point && held_.index == i));
  drawPointMark(p, handleAt(Handle::Release), held_.handle == Handle::Release);
  p.setRenderHint(QPainter::Antialiasing, false);
}

void ContourPicture::drawWords(QPainter& p, const Shown& note) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  const auto& points = contour().points;
  const ContourGain g = gain(note);
  QString left =
      QString("note %1 of %2, %3").arg(note.place + 1).arg(note.of).arg(msText(1000.0 * note.span.heldSeconds));
  if (chosen_ && *chosen_ < points.size()) {
    const QString which = *chosen_ == 0 ? "peak" : *chosen_ + 1 == points.size() ? "sustain" : "point";
    left += QString("; %1 %2 at %3")
                .arg(which, dbText(points[*chosen_].db), msText(1000.0 * g.pointSeconds(*chosen_)));
  }
  drawLabel(p, QPointF(plot().left(), 4), Qt::AlignLeft | Qt::AlignTop, left, t.ink, t.panel);
  const Study* study = document().study();
  const ContourFacts* facts = study ? study->contourOf(choice_.part().id) : nullptr;
  const QString right = !contour().works() ? QString("off")
                        : !facts           ? QString("Measuring...")
                                           : QString("%1 %2 below 120 Hz, its peak there %3")
                                       .arg(facts->savedDb >= 0 ? "saves" : "adds",
                                            dbText(std::abs(facts->savedDb), 1, false), dbText(facts->peakDb));
  drawLabel(p, QPointF(plot().right(), 4), Qt::AlignRight | Qt::AlignTop, right, t.muted, t.panel);
}

void ContourPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto note = shown();
  if (!note) return drawEmpty(p, "Place notes in the loop below: the contour of each is drawn here.");
  drawScale(p);
  p.save();
  p.setClipRect(plot().adjusted(-8, -8, 8, 8));
  drawWave(p, *note);
  drawLine(p, *note);
  p.restore();
  drawWords(p, *note);
}

}  // namespace heft::app
