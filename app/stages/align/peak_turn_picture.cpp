#include "app/stages/align/peak_turn_picture.h"

#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/pictures/axis.h"
#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

QString placesWords(const std::vector<AllPass>& stages) {
  QStringList out;
  for (const AllPass& s : stages) out << QString::fromStdString(formatNumber(s.hz, 1));
  return out.join(" and ") + " Hz";
}

QString turnWords(const std::vector<AllPass>& stages) {
  QStringList out;
  for (const AllPass& s : stages)
    out << QString::fromStdString(formatNumber(s.hz, 1)) + " Hz (" +
               QString::fromStdString(formatNumber(s.q, 2)) + ")";
  return out.isEmpty() ? QString("off") : out.join(" and ");
}

PeakTurnPicture::PeakTurnPicture(Document& document, Selection& selection)
    : HeardWays(document, selection, "Lower the peak", "Lower the peak") {
  explain("All-passes that lower a peak. Click one or press its number to hear it; Return keeps it",
          "One all-pass on kick and bass lowers the peak; levels and their alignment stay. 1, 2: audition, "
          "level matched. 0: unchanged. Return: apply. I: bypass. Esc: close.");
}

void PeakTurnPicture::solveAside(const std::shared_ptr<std::atomic<int>>& percent) {
  auto work = [session = document().session(), assets = document().assets(), cache = document().cache(),
               percent](const std::stop_token& stop) {
    return freeTurns(session, assets, *cache, stop,
                     [&](double share) { *percent = static_cast<int>(std::lround(100 * share)); });
  };
  document().jobs().start("Lowering the peak", Jobs::Kind::CanBeCancelled, work, [this](auto found) {
    if (!found) return fail(QString::fromStdString(found.error().sentence()));
    found_ = std::move(*found);
    std::vector<Offer> offers;
    for (const FreeTurn& t : found_) {
      const std::string whose = t.of == PeakOf::Kick ? "the kick" : "the sum";
      offers.push_back({whose + ", " + formatNumber(t.gainDb(), 1) + " dB louder at the same ceiling", t.edit,
                        static_cast<int>(t.of)});
    }
    offer(std::move(offers));
  });
}

QRectF PeakTurnPicture::cell(int number) const {
  constexpr double kTop = 44, kGap = 8, kBelow = 8;
  const double each = std::min(220.0, (height() - kTop - kBelow) / 2.0 - kGap);
  return {0, kTop + (number - 1) * (each + kGap), static_cast<double>(width()), each};
}

// Before pale, after full; both peaks as lines, their difference as a dimension line.
void PeakTurnPicture::drawWaves(QPainter& p, const FreeTurn& turn, const QRectF& box) const {
  const Theme& t = theme();
  const Session& s = document().session();
  const QColor ink = turn.of == PeakOf::Kick ? colourOf(s.kick()) : t.ink;
  const double perPixel = static_cast<double>(turn.before.size()) / box.width();
  float most = 1e-6f, lower = 1e-6f;
  for (const float v : turn.before) most = std::max(most, std::abs(v));
  for (const float v : turn.after) lower = std::max(lower, std::abs(v));
  const double half = 0.48 * box.height(), scale = 0.96 / std::max(most, lower);
  auto read = [&](const std::vector<float>& x) {
    return [&x, scale](int64_t i) {
      const auto at = static_cast<size_t>(std::clamp<int64_t>(i, 0, static_cast<int64_t>(x.size()) - 1));
      return static_cast<float>(scale) * x[at];
    };
  };
  drawWave(p, box.left(), box.right(), box.center().y(), box.height(), 0.0, perPixel, read(turn.before),
           withAlpha(ink, 0.25));
  drawWave(p, box.left(), box.right(), box.center().y(), box.height(), 0.0, perPixel, read(turn.after), ink);
  p.setFont(axisFont());
  // The loop's peak after the all-pass may be outside this stretch.
  const double after = amplitudeFromDb(-turn.gainDb()) * 0.96 * most / std::max(most, lower),
               before = 0.96 * most / std::max(most, lower);
  for (const double way : {-1.0, 1.0}) {
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(box.left(), box.center().y() + way * half * before),
               QPointF(box.right(), box.center().y() + way * half * before));
    p.setPen(QPen(t.holds, 1.0, Qt::DashLine));
    p.drawLine(QPointF(box.left(), box.center().y() + way * half * after),
               QPointF(box.right(), box.center().y() + way * half * after));
  }
  drawLabel(p, QPointF(box.right() - 4, box.center().y() - half * before + 2), Qt::AlignRight | Qt::AlignTop,
            dbText(turn.beforeDbtp) + "TP, turned " + dbText(turn.afterDbtp) + "TP", t.ink, t.panel);
}

void PeakTurnPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!drawHead(p, count() ? QString("Kick and bass through one all-pass: no level changes, the peak is lower.")
                           : QString("No all-pass lowers the peak of kick or sum by 0.3 dB.")))
    return;
  for (int n = 1; n <= static_cast<int>(count()); ++n) {
    drawFrame(p, n);
    if (isBlind()) continue;
    const QRectF box = cell(n);
    drawWaves(p, turn(n),
              QRectF(QPointF(box.left() + 12, box.top() + 30), QPointF(box.right() - 12, box.bottom() - 24)));
    p.setFont(axisFont());
    p.setPen(t.muted);
    p.drawText(QRectF(box.left() + 12, box.bottom() - 20, box.width() - 24, 16),
               Qt::AlignLeft | Qt::AlignVCenter,
               "all-pass at " + turnWords(turn(n).stages) + ", width in brackets; the bass's main note " +
                   msText(std::abs(turn(n).keptBackMs)) + (turn(n).keptBackMs >= 0 ? " later" : " earlier") +
                   ", the kick with it");
  }
}

}  // namespace heft::app
