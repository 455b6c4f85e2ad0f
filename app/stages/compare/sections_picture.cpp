#include "app/stages/compare/sections_picture.h"

#include <QInputDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/references.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kReach = 6.0, kHeadRow = 22.0, kLowFloorDb = -60.0;

}  // namespace

SectionsPicture::SectionsPicture(Document& document, Selection& selection, ReferenceTable& table,
                                 ReferenceEar& ear)
    : Picture(document, selection, "Sections"), table_(table), ear_(ear) {
  explain(
      "Drag a section or its edges; they catch bars",
      "Drag a section or its edges. They catch bars where the beat is known; Alt or Ctrl+Shift drags freely. "
      "Left, Right: move by a bar; Shift: change the end. Page Up, Page Down: the other sections. Ctrl+D: "
      "duplicate. Delete: remove. F2: name. Return: play it");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  connect(&table, &ReferenceTable::chosenChanged, this, [this] {
    this->document().references().retry();
    update();
  });
  connect(&document.references(), &ReferenceTracks::profiled, this, qOverload<>(&QWidget::update));
}

const Reference* SectionsPicture::reference() const {
  const auto& all = document().session().references;
  return table_.chosen() < all.size() ? &all[table_.chosen()] : nullptr;
}

double SectionsPicture::seconds() const {
  const Sound sound = reference() ? document().assets().sound(reference()->asset) : nullptr;
  return sound ? sound->seconds() : 0.0;
}

QRectF SectionsPicture::plot() const {
  return {QPointF(16, kHeadRow + 18), QPointF(width() - 16.0, height() - 24.0)};
}

Axis SectionsPicture::time() const {
  return {0.0, std::max(1.0, seconds()), plot().left(), plot().right()};
}

// To a bar within reach.
double SectionsPicture::caught(double at, bool free) const {
  const Reference* r = reference();
  if (free || !r || !r->tempoBpm) return at;
  const double bar = 240.0 / *r->tempoBpm, first = r->firstBeatSeconds.value_or(0.0);
  const double near = first + std::round((at - first) / bar) * bar;
  const double reach = std::max(kReach / (time().pixel(bar) - time().pixel(0.0)) * bar, 0.5 * bar);
  return std::abs(near - at) <= reach ? near : at;
}

QPointF SectionsPicture::gripOf(Grip grip) const {
  const Section* s = reference() ? reference()->section() : nullptr;
  if (!s) return {};
  const double y = plot().top() - 9.0;
  if (grip == Grip::From) return {time().pixel(s->fromSeconds), y};
  if (grip == Grip::To) return {time().pixel(s->toSeconds), y};
  return {0.5 * (time().pixel(s->fromSeconds) + time().pixel(s->toSeconds)), y};
}

void SectionsPicture::move(double from, double to, const char* key) {
  const Reference* r = reference();
  if (!r || r->sections.empty()) return;
  document().edit(moveSection(table_.chosen(), static_cast<size_t>(r->section() - r->sections.data()), from, to,
                              seconds(), key));
}

void SectionsPicture::drawWave(QPainter& p, const TrackProfile& track) const {
  const Theme& t = theme();
  const QRectF box = plot();
  const Axis x = time();
  const double middle = box.center().y(), half = 0.5 * box.height();
  const double step = TrackProfile::kStepSeconds;
  p.setPen(QPen(withAlpha(t.ink, 0.28), 1.0));
  for (double px = box.left(); px < box.right(); px += 1.0) {
    const auto first = static_cast<size_t>(std::max(0.0, x.value(px) / step)),
               last = std::min(track.peak.size(), static_cast<size_t>(x.value(px + 1.0) / step) + 1);
    float most = 0.0f;
    for (size_t i = first; i < last; ++i) most = std::max(most, track.peak[i]);
    const double h = half * std::min(1.0f, most);
    p.drawLine(QPointF(px, middle - h), QPointF(px, middle + h));
  }
  // The low band's level over it.
  float top = -120.0f;
  for (const float db : track.lowDb) top = std::max(top, db);
  QPolygonF line;
  const auto stepsAPixel = std::max<size_t>(1, static_cast<size_t>(track.lowDb.size() / box.width()));
  for (size_t i = 0; i < track.lowDb.size(); i += stepsAPixel) {
    float most = -120.0f;
    for (size_t k = i; k < std::min(track.lowDb.size(), i + stepsAPixel); ++k)
      most = std::max(most, track.lowDb[k]);
    const double share = std::clamp(1.0 - static_cast<double>(most - top) / kLowFloorDb, 0.0, 1.0);
    line << QPointF(x.pixel(step * (static_cast<double>(i) + 0.5)), box.bottom() - share * box.height());
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.reference, 1.5));
  drawLineThrough(p, line);
  p.setRenderHint(QPainter::Antialiasing, false);
}

// Where the low end is, and where it is not.
void SectionsPicture::drawStretches(QPainter& p, const TrackProfile& track) const {
  const Theme& t = theme();
  const QRectF box = plot();
  p.setFont(axisFont());
  for (const Stretch& s : stretchesOf(track)) {
    const double from = time().pixel(s.fromSeconds), to = time().pixel(s.toSeconds);
    p.setPen(t.rule);
    p.drawLine(QPointF(from, box.top()), QPointF(from, box.bottom()));
    const QString name = QString::fromStdString(s.name);
    if (to - from < p.fontMetrics().horizontalAdvance(name) + 8) continue;
    drawLabel(p, QPointF(from + 4, box.top() + 3), Qt::AlignLeft | Qt::AlignTop, name, t.muted,
              withAlpha(t.panel, 0.8));
  }
}

void SectionsPicture::drawSections(QPainter& p) const {
  const Theme& t = theme();
  const QRectF box = plot();
  const Reference& r = *reference();
  for (size_t i = 0; i < r.sections.size(); ++i) {
    const Section& s = r.sections[i];
    const bool now = &s == r.section();
    const double from = time().pixel(s.fromSeconds), to = std::max(from + 3.0, time().pixel(s.toSeconds));
    p.fillRect(QRectF(from, box.top(), to - from, box.height()), withAlpha(t.reference, now ? 0.22 : 0.1));
    const QRectF head(from, box.top() - 18, to - from, 18);
    p.fillRect(head, now ? t.reference : withAlpha(t.reference, 0.35));
    p.setFont(axisFont(now));
    p.setPen(now ? t.panel : t.ink);
    const QString name = s.name.empty() ? QString("section %1").arg(i + 1) : QString::fromStdString(s.name);
    if (head.width() > 20)
      p.drawText(head.adjusted(5, 0, -3, 0), Qt::AlignLeft | Qt::AlignVCenter,
                 p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(head.width()) - 8));
    if (!now) continue;
    for (const double x : {from, to}) {
      p.setPen(QPen(t.ink, 1.0));
      p.drawLine(QPointF(x, box.top() - 18), QPointF(x, box.bottom()));
      drawGrip(p, QPointF(x, box.top() - 9), hasFocus());
    }
  }
}

void SectionsPicture::drawRuler(QPainter& p) const {
  const Theme& t = theme();
  const Reference& r = *reference();
  p.setFont(axisFont());
  p.setPen(t.muted);
  const QString name = QString::fromStdString(r.asset.name);
  QString facts = r.tempoBpm
                      ? QString("%1 BPM, first bar at %2 s")
                            .arg(QString::fromStdString(fixedNumber(*r.tempoBpm, 2)),
                                 QString::fromStdString(fixedNumber(r.firstBeatSeconds.value_or(0.0), 3)))
                      : QString("no steady beat found: type a tempo to get bars");
  p.drawText(QRectF(16, 0, width() - 32, 18), Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(name + ": " + facts, Qt::ElideMiddle, width() - 300));
  p.setPen(t.referenceWords);
  p.drawText(QRectF(16, 0, width() - 32, 18), Qt::AlignRight | Qt::AlignVCenter,
             "level below 120 Hz, 60 dB over the height");
  p.setPen(t.muted);
  drawTicksBelow(p, time(), plot().bottom(), roundTicks(0.0, std::max(1.0, seconds()), 12), [](double v) {
    return QString("%1:%2").arg(static_cast<int>(v) / 60).arg(static_cast<int>(v) % 60, 2, 10, QChar('0'));
  });
}

void SectionsPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!reference())
    return drawEmpty(p,
                     "Drop a finished track that is known to sound right: its eight bars with the most low end "
                     "become its first section.");
  const auto track = document().references().profile(*reference());
  drawRuler(p);
  if (track)
    drawWave(p, *track), drawStretches(p, *track);
  else
    drawEmpty(p, !document().assets().find(reference()->asset) ? "The file of this reference is missing."
                 : document().isBusy()                         ? "Measuring the track..."
                                                               : "Not measured yet: press its row.");
  drawSections(p);
}

void SectionsPicture::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  held_.reset();
  const Reference* r = reference();
  if (!r || event->button() != Qt::LeftButton) return;
  const double x = event->position().x();
  if (const Section* s = r->section()) {
    if (std::abs(x - time().pixel(s->toSeconds)) <= kReach) held_ = Grip::To;
    if (std::abs(x - time().pixel(s->fromSeconds)) <= kReach) held_ = Grip::From;
    if (held_) return;
  }
  for (size_t i = r->sections.size(); i-- > 0;) {
    const Section& s = r->sections[i];
    const double at = time().value(x);
    if (at < s.fromSeconds || at > s.toSeconds) continue;
    document().edit(chooseSection(table_.chosen(), i));
    held_ = Grip::Whole, offset_ = at - s.fromSeconds;
    return;
  }
}

void SectionsPicture::mouseMoveEvent(QMouseEvent* event) {
  const Reference* r = reference();
  const Section* s = r ? r->section() : nullptr;
  if (!s) return;
  const double x = event->position().x();
  if (!held_) {
    const bool edge = std::abs(x - time().pixel(s->fromSeconds)) <= kReach ||
                      std::abs(x - time().pixel(s->toSeconds)) <= kReach;
    return setCursor(edge ? Qt::SizeHorCursor : Qt::ArrowCursor);
  }
  const bool free = isFree(event->modifiers());
  const double at = time().value(x), length = s->seconds();
  if (*held_ == Grip::Whole) {
    const double from = std::clamp(caught(at - offset_, free), 0.0, std::max(0.0, seconds() - length));
    return move(from, from + length, "section");
  }
  const double edge = std::clamp(caught(at, free), 0.0, seconds());
  if (*held_ == Grip::From)
    move(std::min(edge, s->toSeconds - kShortestSectionSeconds), s->toSeconds, "section start");
  if (*held_ == Grip::To)
    move(s->fromSeconds, std::max(edge, s->fromSeconds + kShortestSectionSeconds), "section end");
}

void SectionsPicture::mouseReleaseEvent(QMouseEvent*) {
  held_.reset();
  document().endDrag();
}

void SectionsPicture::duplicate() {
  const Section* s = reference() ? reference()->section() : nullptr;
  if (!s) return;
  Section copy = *s;
  const double length = s->seconds();
  const double by = s->toSeconds + length <= seconds() ? length : -std::min(length, s->fromSeconds);
  copy.fromSeconds += by, copy.toSeconds += by;
  document().edit(addSection(table_.chosen(), copy));
}

void SectionsPicture::remove() {
  const Reference* r = reference();
  if (!r || !r->section()) return;
  if (r->sections.size() < 2)
    return document().tell("A reference keeps one section. Remove the reference in its row's menu.");
  document().edit(removeSection(table_.chosen(), static_cast<size_t>(r->section() - r->sections.data())));
}

void SectionsPicture::keyPressEvent(QKeyEvent* event) {
  const Reference* r = reference();
  const Section* s = r ? r->section() : nullptr;
  if (!s) return Picture::keyPressEvent(event);
  const int key = event->key();
  const double bar = r->tempoBpm ? 240.0 / *r->tempoBpm : 1.0;
  const auto place = static_cast<size_t>(s - r->sections.data());
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    const double by = key == Qt::Key_Right ? bar : -bar;
    const bool end = event->modifiers() & Qt::ShiftModifier;
    move(end ? s->fromSeconds : s->fromSeconds + by,
         std::max(s->fromSeconds + kShortestSectionSeconds, s->toSeconds + by),
         end ? "section end" : "section");
  } else if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
    const size_t count = r->sections.size();
    document().edit(
        chooseSection(table_.chosen(), (place + (key == Qt::Key_PageDown ? 1 : count - 1)) % count));
  } else if (key == Qt::Key_D && event->modifiers() & Qt::ControlModifier) {
    duplicate();
  } else if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    remove();
  } else if (key == Qt::Key_F2) {
    bool given = false;
    const QString name = QInputDialog::getText(this, "Name section", "Name", QLineEdit::Normal,
                                               QString::fromStdString(s->name), &given);
    if (given) document().edit(nameSection(table_.chosen(), place, name.trimmed().toStdString()));
  } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
    ear_.hear(table_.chosen());
  } else {
    Picture::keyPressEvent(event);
  }
}

void SectionsPicture::contextMenuEvent(QContextMenuEvent* event) {
  if (!reference() || !reference()->section()) return;
  QMenu menu(this);
  menu.setObjectName("Section menu");
  connect(menu.addAction("Duplicate section"), &QAction::triggered, this, &SectionsPicture::duplicate);
  connect(menu.addAction("Remove section"), &QAction::triggered, this, &SectionsPicture::remove);
  menu.exec(event->globalPos());
}

}  // namespace heft::app
