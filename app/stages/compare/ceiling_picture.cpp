#include "app/stages/compare/ceiling_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/session/pattern.h"
#include "core/solve/excerpt.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kUsualLufs = -9.0, kPlotLeft = 64.0, kPlotRight = 16.0, kRowHeight = 24.0, kTopDb = 6.0,
                 kFloorDb = -18.0, kMostLoss = 6.0;

QString dB(double db, int digits = 1) {
  return QString::fromStdString(fixedNumber(db, digits)) + " dB";
}

}  // namespace

CeilingPicture::CeilingPicture(Document& document, Selection& selection, CompareFigures& figures,
                               ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Ceiling") {
  explain("Above: what a limiter takes at each hit (hatched). Below: who makes the worst peaks",
          "The sum raised to a loudness and limited: the gain reduction is hatched, the bars under it are the "
          "low end "
          "that is lost at each hit. Below are the worst peaks, each with what makes it and the move that "
          "lowers it. "
          "Up, Down: choose a peak. Return: apply its move");
  setFocusPolicy(Qt::StrongFocus);
  connect(&figures, &CompareFigures::changed, this, &CeilingPicture::measure);
}

double CeilingPicture::lufs() const {
  if (typedLufs_) return *typedLufs_;
  if (!detail()) return kUsualLufs;
  const auto span = detail()->spanOf([](const ComparedSection& s) { return s.facts->lufs; });
  return span ? std::clamp(span->median, -30.0, -3.0) : kUsualLufs;
}

void CeilingPicture::setLufs(std::optional<double> lufs) {
  typedLufs_ = lufs;
  if (typedLufs_) *typedLufs_ = std::clamp(*typedLufs_, -30.0, -3.0);
  measure();
}

void CeilingPicture::setCeilingDb(double db) {
  ask_.ceilingDb = std::clamp(db, -24.0, 0.0);
  measure();
}

void CeilingPicture::setReleaseMs(double ms) {
  ask_.releaseMs = std::clamp(ms, 1.0, 2000.0);
  measure();
}

void CeilingPicture::setCodec(const LossyAsk& codec) {
  codec_ = codec;
  measure();
}

QString CeilingPicture::codedText() const {
  const QString name = QString("%1 %2").arg(lossyName(codec_.codec)).arg(codec_.kbps);
  if (!coded_) return name;
  if (!*coded_) return name + ": " + QString::fromStdString(coded_->error().reason);
  return QString("%1: lows %2, peak %3 dBTP")
      .arg(name, dbText((*coded_)->lowsDb), QString::fromStdString(fixedNumber((*coded_)->truePeakDbtp, 1)));
}

void CeilingPicture::showEvent(QShowEvent* event) {
  Picture::showEvent(event);
  measure();
}

// Only while it is in sight: a session is rendered some twenty times for the blame.
void CeilingPicture::measure() {
  if (!isVisible() || !document().study() || !document().stems() || document().study()->empty) return;
  auto makeWork = [this] {
    CeilingAsk ask = ask_;
    ask.lufs = lufs();
    const auto body = detail() && detail()->mineFacts.kickMs ? detail()->mineFacts.kickMs->value : 100.0;
    return [session = document().session(), assets = document().assets(), stems = *document().stems(),
            cache = document().cache(), ask, codec = codec_, body = std::max(40.0, body)]() mutable {
      const Session whole = session;
      // Of a long track the eight bars from its loudest moment on, or from the compared section's.
      if (needsExcerpt(session.track)) {
        const FrameRange within =
            comparedRange(session, stems.span).value_or(FrameRange{0, stems.sum.frames()});
        const size_t loudest = loudestStretch(stems.sum, within, 10.0, stems.sampleRate, *cache);
        session = excerptFrom(session, static_cast<double>(loudest) / session.track.framesPerQuarter()).session;
        if (auto cut = heft::render(session, assets, *cache)) stems = std::move(*cut);
      }
      std::vector<double> hits;
      for (const double frame : stems.hitFrames()) hits.push_back(frame / stems.sampleRate);
      Measured out;
      out.facts = underCeiling(stems.sum.toBuffer(stems.sampleRate), true, ask, hits, body);
      if (out.facts)
        if (auto peaks = peakMakers(session, assets, stems, out.facts->gainDb, ask.ceilingDb, *cache))
          out.peaks = std::move(*peaks);
      if (out.facts) out.coded = codedFacts(out.facts->limited, codec);
      return std::pair{std::move(out), whole};
    };
  };
  measuring_.ask(
      this, makeWork,
      [this](std::pair<Measured, Session> made) {
        facts_ = std::move(made.first.facts), peaks_ = std::move(made.first.peaks);
        coded_ = std::move(made.first.coded), of_ = std::move(made.second);
        chosen_ = std::min(chosen_, peaks_.empty() ? 0 : peaks_.size() - 1);
        update();
        Q_EMIT measured();
      },
      document().failing());
}

double CeilingPicture::tableTop() const {
  return height() - 20.0 -
         kRowHeight * static_cast<double>(std::max<size_t>(
                          1, std::min(peaks_.size(), height() < 320 ? size_t{3} : kMostPeaks)));
}

QRectF CeilingPicture::lossPlot() const {
  const double bottom = tableTop() - 10.0, tall = std::clamp(0.16 * height(), 30.0, 70.0);
  return {QPointF(kPlotLeft, bottom - tall), QPointF(width() - kPlotRight, bottom)};
}

QRectF CeilingPicture::peaksPlot() const {
  return {QPointF(kPlotLeft, 20.0), QPointF(width() - kPlotRight, lossPlot().top() - 34.0)};
}

Axis CeilingPicture::time() const {
  const double seconds =
      facts_ ? 0.001 * CeilingFacts::kStepMs * static_cast<double>(facts_->peakDb.size()) : 1.0;
  return {0.0, std::max(0.01, seconds), peaksPlot().left(), peaksPlot().right()};
}

QString CeilingPicture::place(double seconds) const {
  return QString::fromStdString(positionName(track(), seconds * track().tempoBpm / 60.0));
}

void CeilingPicture::drawPeaks(QPainter& p) const {
  const Theme& t = theme();
  const QRectF plot = peaksPlot();
  const Axis x = time(), y{kFloorDb, kTopDb, plot.bottom(), plot.top()};
  p.setFont(axisFont(true));
  p.setPen(t.ink);
  p.drawText(QRectF(0, 0, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, "Peaks of the sum over the loop");
  p.setFont(axisFont());
  p.setPen(t.off);
  p.drawText(QRectF(0, 0, width() - kPlotRight, 16), Qt::AlignRight | Qt::AlignVCenter,
             "hatched: gain reduction");
  drawLevels(p, y, plot, 6.0);
  QPolygonF line;
  for (size_t i = 0; i < facts_->peakDb.size(); ++i)
    line << QPointF(x.pixel(0.001 * CeilingFacts::kStepMs * static_cast<double>(i)),
                    y.pixel(std::clamp<double>(facts_->peakDb[i], kFloorDb, kTopDb)));
  QPolygonF area = line;
  area << plot.bottomRight() << plot.bottomLeft();
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(t.ink, 0.1));
  p.drawPolygon(area);
  p.setBrush(Qt::NoBrush);
  // Over the ceiling.
  Line over, ceiling;
  for (const QPointF& at : line) {
    over.at.push_back(x.value(at.x())), ceiling.at.push_back(x.value(at.x()));
    over.level.push_back(std::max(ask_.ceilingDb, y.value(at.y()))), ceiling.level.push_back(ask_.ceilingDb);
  }
  hatch(p, ceiling, over, x, y, plot, t.off);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.ink, 1.2));
  drawLineThrough(p, line);
  p.setRenderHint(QPainter::Antialiasing, false);
  const double at = std::round(y.pixel(ask_.ceilingDb)) + 0.5;
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(QPointF(plot.left(), at), QPointF(plot.right(), at));
  p.setFont(axisFont());
  for (const CeilingHit* h : told([](const CeilingHit& each) { return each.takenDb; }, x, p))
    drawLabel(p, QPointF(x.pixel(h->seconds) + 4, plot.top() + 2), Qt::AlignLeft | Qt::AlignTop,
              dB(-h->takenDb), t.off, withAlpha(t.panel, 0.85));
}

// The hits whose figure is written beside them: the largest first, where no other one is in its place.
std::vector<const CeilingHit*> CeilingPicture::told(const std::function<double(const CeilingHit&)>& size,
                                                    const Axis& x, const QPainter& p) const {
  constexpr double kWorthDb = 0.05;
  const double wide = p.fontMetrics().horizontalAdvance("-10.0 dB") + 10;
  std::vector<const CeilingHit*> all, out;
  for (const CeilingHit& h : facts_->hits) all.push_back(&h);
  std::stable_sort(all.begin(), all.end(), [&](auto* a, auto* b) { return size(*a) > size(*b); });
  for (const CeilingHit* h : all) {
    const bool free = std::none_of(out.begin(), out.end(), [&](const CeilingHit* o) {
      return std::abs(x.pixel(o->seconds) - x.pixel(h->seconds)) < wide;
    });
    if (free && size(*h) >= kWorthDb) out.push_back(h);
  }
  return out;
}

void CeilingPicture::drawLosses(QPainter& p) const {
  const Theme& t = theme();
  const QRectF plot = lossPlot();
  const Axis x = time(), y{-kMostLoss, 0.0, plot.bottom(), plot.top()};
  p.setFont(axisFont(true));
  p.setPen(t.ink);
  p.drawText(QRectF(0, plot.top() - 20, width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
             "Low end lost at each hit, below 120 Hz");
  p.setFont(axisFont());
  for (const double db : {0.0, -3.0, -6.0}) {
    p.setPen(QPen(t.rule, 1.0, Qt::DotLine));
    p.drawLine(QPointF(plot.left(), y.pixel(db)), QPointF(plot.right(), y.pixel(db)));
    drawLabel(p, QPointF(plot.left() - 8, y.pixel(db)), Qt::AlignRight | Qt::AlignVCenter,
              db == 0.0 ? "0 dB" : QString::number(db), t.muted, QColor(0, 0, 0, 0));
  }
  for (const CeilingHit& h : facts_->hits) {
    const QColor ink = h.lostDb < -1.0 ? t.off : t.ink;
    const double bottom = y.pixel(std::max(-kMostLoss, h.lostDb));
    p.fillRect(QRectF(QPointF(x.pixel(h.seconds), plot.top()),
                      QPointF(x.pixel(h.seconds) + 4, std::max(plot.top() + 1, bottom))),
               ink);
  }
  for (const CeilingHit* h : told([](const CeilingHit& each) { return -each.lostDb; }, x, p)) {
    const double bottom = y.pixel(std::max(-kMostLoss, h->lostDb));
    drawLabel(p, QPointF(x.pixel(h->seconds) + 8, std::min(bottom, plot.bottom() - 7)),
              Qt::AlignLeft | Qt::AlignVCenter, dB(h->lostDb), h->lostDb < -1.0 ? t.off : t.ink,
              withAlpha(t.panel, 0.85));
  }
}

QRectF CeilingPicture::button(size_t row) const {
  return {width() - kPlotRight - 150.0, tableTop() + 20.0 + kRowHeight * static_cast<double>(row) + 2.0, 150.0,
          kRowHeight - 4.0};
}

void CeilingPicture::drawRow(QPainter& p, size_t row) const {
  const Theme& t = theme();
  const MadePeak& peak = peaks_[row];
  const double y = tableTop() + 20.0 + kRowHeight * static_cast<double>(row);
  if (row == chosen_ && hasFocus())
    p.fillRect(QRectF(0, y, width() - kPlotRight, kRowHeight), withAlpha(t.rule, 0.45));
  p.setPen(t.rule);
  p.drawLine(QPointF(0, y - 0.5), QPointF(width() - kPlotRight, y - 0.5));
  p.setFont(bodyFont());
  p.setPen(t.ink);
  auto say = [&](double x, double wide, const QString& words) {
    p.drawText(QRectF(x, y, wide, kRowHeight), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(wide)));
  };
  say(4, 56, place(peak.seconds));
  say(kPlotLeft, 66, "+" + dB(peak.overDb));
  // Its parts.
  const QRectF bar(kPlotLeft + 74, y + 7, 84, 10);
  double left = bar.left();
  for (size_t i = 0; i < peak.shares.size(); ++i) {
    const Part* part = i < of_->parts.size() ? &of_->parts[i] : nullptr;
    const double wide = bar.width() * peak.shares[i];
    p.fillRect(QRectF(left, bar.top(), wide, bar.height()), part ? colourOf(*part) : withAlpha(t.muted, 0.5));
    left += wide;
  }
  p.setPen(t.ink);
  p.drawRect(bar);
  QStringList words;
  if (const PeakBlame* most = peak.most())
    words << QString::fromStdString(most->words) + " " + dB(-most->dropDb);
  const auto own = [&](const std::vector<PeakBlame>& all) {
    for (const PeakBlame& b : all)
      if (peak.most() && b.part == peak.most()->part && b.dropDb > 0.1) return QString::fromStdString(b.words);
    return QString();
  };
  for (const QString& more : {own(peak.layers), own(peak.events)})
    if (!more.isEmpty()) words << more;
  const double from = bar.right() + 12, to = button(row).left() - 84;
  say(from, to - from - 8, words.join(", "));
  if (!peak.move) {
    p.setPen(t.muted);
    return say(button(row).left(), button(row).width(), "no move found");
  }
  p.setPen(t.holds);
  say(to, 80, "-" + dB(peak.winsDb));
  p.setPen(t.ink);
  p.setBrush(t.panel);
  p.drawRect(button(row).adjusted(0.5, 0.5, -0.5, -0.5));
  p.setBrush(Qt::NoBrush);
  p.setFont(axisFont(true));
  p.drawText(button(row), Qt::AlignCenter, QString::fromStdString(peak.move->label));
}

void CeilingPicture::drawTable(QPainter& p) const {
  const Theme& t = theme();
  const double y = tableTop();
  p.setFont(axisFont(true));
  p.setPen(t.ink);
  p.drawText(QRectF(0, y, 200, 18), Qt::AlignLeft | Qt::AlignVCenter, "Who makes the peak");
  p.setFont(axisFont());
  p.setPen(t.muted);
  if (peaks_.empty()) {
    p.drawText(
        QRectF(0, y + 20, width(), kRowHeight), Qt::AlignLeft | Qt::AlignVCenter,
        measuring_.isRunning() ? "Trying everything out one at a time..." : "No peak is over the ceiling.");
    return;
  }
  p.drawText(QRectF(kPlotLeft + 74, y, 300, 18), Qt::AlignLeft | Qt::AlignVCenter, "made of");
  p.drawText(QRectF(kPlotLeft + 170, y, 300, 18), Qt::AlignLeft | Qt::AlignVCenter, "peak without it");
  p.drawText(QRectF(button(0).left() - 84, y, 80, 18), Qt::AlignLeft | Qt::AlignVCenter, "move wins");
  for (size_t i = 0; i < peaks_.size() && button(i).bottom() <= height(); ++i) drawRow(p, i);
}

void CeilingPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!facts_)
    return drawEmpty(p, document().study() && !document().study()->empty
                            ? "Measuring under the limiter..."
                            : "The sum appears here once there are sounds.");
  drawPeaks(p);
  drawLosses(p);
  drawTable(p);
}

void CeilingPicture::apply(size_t row) {
  if (row >= peaks_.size() || !peaks_[row].move) return;
  if (!of_ || *of_ != document().session())
    return document().tell("The session changed meanwhile: look again, then press.");
  document().edit(peaks_[row].move->edit());
}

void CeilingPicture::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  for (size_t i = 0; i < peaks_.size(); ++i) {
    if (button(i).contains(event->position())) return apply(i);
    if (event->position().y() >= button(i).top() && event->position().y() < button(i).bottom()) chosen_ = i;
  }
  update();
}

void CeilingPicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if ((key == Qt::Key_Up || key == Qt::Key_Down) && !peaks_.empty()) {
    chosen_ = std::clamp(static_cast<int>(chosen_) + (key == Qt::Key_Down ? 1 : -1), 0,
                         static_cast<int>(peaks_.size()) - 1);
    return update();
  }
  if (key == Qt::Key_Return || key == Qt::Key_Enter) return apply(chosen_);
  Picture::keyPressEvent(event);
}

}  // namespace heft::app
