#include "app/stages/align/best_ways.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/theme/theme.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr size_t kMostShown = 3;
constexpr double kHeadHeight = 20.0, kKeyBox = 16.0;
constexpr int kStripHeight = 80;

}  // namespace

QString alignCostText(const AlignWay& way, const Session& session) {
  QStringList out;
  const int main = mainNote(session.bass(), session.track);
  if (way.delayMs > 0.0) out << (way.notes > 0 ? "at most " : "") + msText(way.delayMs) + " moved";
  if (std::abs(way.smearMs) > 0.05)
    out << QString("%1 back at %2")
               .arg(msText(way.smearMs), QString::fromStdString(noteName(main, session.track.notes)));
  if (way.notes > 0) out.prepend(QString("%1 of %2 notes").arg(way.notes).arg(session.bass().notes.size()));
  return out.isEmpty() ? QString("no side effects") : out.join(", ");
}

BestWays::BestWays(Document& document, Selection& selection)
    : NumberedOffers(document, selection, "Best ways") {
  setMinimumSize(420, kStripHeight);
  setMaximumHeight(kStripHeight);
  explain(
      "Press 1 to 3 to hear a way in the loop, Return to keep it, Esc to drop it.",
      "The three alignments with the lowest phase loss over all hits. 1 to 3 or a click plays one in the "
      "running "
      "loop, level matched; 0: unchanged. Return or a double-click keeps what you hear, Esc drops it. All ways "
      "shows the others.");
  connect(&document, &Document::studied, this, &BestWays::solve);
  connect(&document, &Document::replaced, this, [this] { ways_.clear(), solvedFor_.reset(); });
}

bool BestWays::isSolved() const {
  return solvedFor_ && *solvedFor_ == document().session() && !solving_.isRunning();
}

void BestWays::showEvent(QShowEvent* event) {
  NumberedOffers::showEvent(event);
  solve();
}

// For the present session, and only while visible.
void BestWays::solve() {
  const Study* s = document().study();
  if (!isVisible() || !document().isStudied() || !s || (solvedFor_ && *solvedFor_ == document().session()))
    return;
  if (!s->pair.all.overlap) return ways_.clear(), update();
  solvedFor_ = document().session();
  auto make = [this] {
    return [session = document().session(), assets = document().assets(), cache = document().cache()] {
      return alignWays(session, assets, *cache);
    };
  };
  auto done = [this](Result<AlignWays> found) {
    ways_.clear();
    if (found)
      ways_.assign(found->ways.begin(),
                   found->ways.begin() + static_cast<ptrdiff_t>(std::min(kMostShown, found->ways.size())));
    if (heardNumber().value_or(0) > count()) drop();
    update();
  };
  solving_.ask(this, make, done, document().failing());
  update();
}

QRectF BestWays::cell(int number) const {
  const double gap = 10.0, each = (width() - 2.0 * gap) / kMostShown;
  return {(number - 1) * (each + gap), kHeadHeight + 2.0, each, height() - kHeadHeight - 4.0};
}

std::optional<Edit> BestWays::editOf(int number) const {
  if (number < 1 || number > count() || !isSolved()) return std::nullopt;
  return ways_[static_cast<size_t>(number) - 1].edit;
}

void BestWays::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (way != 0)
    step(way);
  else if (!takeKey(event->key()))
    QWidget::keyPressEvent(event);
}

void BestWays::drawWay(QPainter& p, int number) const {
  const AlignWay& way = ways_[static_cast<size_t>(number) - 1];
  const QRectF box = cell(number);
  const bool inverted = heardNumber() == number;
  const QColor ink = inverted ? theme().panel : isSolved() ? theme().ink : theme().muted;
  const QColor quiet = inverted ? theme().panel : theme().muted;
  if (inverted) p.fillRect(box, theme().ink);
  const QRectF key(box.left() + 6, box.top() + 5, kKeyBox, kKeyBox);
  p.setPen(QPen(ink, 1.0));
  if (!inverted) p.drawRect(key.adjusted(0.5, 0.5, -0.5, -0.5));
  p.setFont(axisFont(true));
  p.drawText(key, Qt::AlignCenter, QString::number(number));
  const QRectF words(key.right() + 8, box.top() + 3, box.right() - key.right() - 14, 20);
  p.setFont(bodyFont(true));
  p.drawText(
      words, Qt::AlignVCenter,
      QFontMetrics(bodyFont(true))
          .elidedText(QString::fromStdString(way.name), Qt::ElideRight, static_cast<int>(words.width())));
  p.setFont(bodyFont(true));
  p.drawText(words.translated(0, 21), Qt::AlignVCenter, dbText(way.levelDb));
  p.setFont(axisFont());
  p.setPen(quiet);
  p.drawText(words.adjusted(58, 21, 0, 21), Qt::AlignVCenter, "all hits");
  p.drawText(words.translated(0, 39), Qt::AlignVCenter,
             QFontMetrics(axisFont())
                 .elidedText(alignCostText(way, document().session()), Qt::ElideRight,
                             static_cast<int>(words.width())));
}

void BestWays::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || !s->pair.all.overlap) return;
  p.setPen(rulePen(theme().rule));
  p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
  p.setFont(axisFont(true));
  p.setPen(theme().ink);
  p.drawText(QRectF(0, 2, width(), kHeadHeight), Qt::AlignLeft | Qt::AlignVCenter, "Best ways");
  p.setFont(axisFont());
  p.setPen(theme().muted);
  const QString state = solving_.isRunning() ? QString("solving...")
                        : ways_.empty()      ? QString("No way beats the current alignment.")
                                             : QString("1 to 3 play a way, Return keeps it, Esc drops it");
  p.drawText(QRectF(0, 2, width(), kHeadHeight), Qt::AlignRight | Qt::AlignVCenter, state);
  for (int n = 1; n <= count(); ++n) drawWay(p, n);
  if (!hasFocus()) return;
  p.setPen(QPen(theme().bass, 1.0));
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

}  // namespace heft::app
