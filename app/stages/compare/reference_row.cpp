#include "app/stages/compare/reference_row.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/references.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

QString fixed(double value, int digits) {
  return QString::fromStdString(fixedNumber(value, digits));
}

}  // namespace

TableColumns::TableColumns(int width) {
  name = 30;
  median = width - 64, peak = median - 54, match = peak - 78, lufs = match - 54, tempo = lufs - 60,
  key = tempo - 80;
  section = std::max(150, key - 250);
}

ReferenceRow::ReferenceRow(Document& document, ReferenceEar& ear, CompareFigures& figures, int index,
                           QWidget* parent)
    : QWidget(parent), document_(document), ear_(ear), figures_(figures), index_(index) {
  setFixedHeight(kHeight);
  setObjectName(index < 0 ? QString("Row yours") : QString("Row %1").arg(index + 1));
  if (index >= 0) addFields();
}

const Reference* ReferenceRow::reference() const {
  const auto& all = document_.session().references;
  return index_ >= 0 && index_ < static_cast<int>(all.size()) ? &all[static_cast<size_t>(index_)] : nullptr;
}

const ComparedSection* ReferenceRow::section() const {
  if (!figures_.detail() || !reference()) return nullptr;
  for (const ComparedSection& s : figures_.detail()->sections)
    if (static_cast<int>(s.of.reference) == index_ &&
        (reference()->sections.empty() || static_cast<int>(s.of.section) == reference()->chosen))
      return &s;
  return nullptr;
}

// "drop, bars 17 to 24", or its seconds where the beat is not known.
QString ReferenceRow::sectionText() const {
  const Reference* r = reference();
  if (!r) return {};
  const Section* s = r->section();
  if (!s) return "whole file";
  const bool named = !s->name.empty() && TableColumns(width()).isWide();
  const QString name = named ? QString::fromStdString(s->name) + ", " : QString();
  if (!r->tempoBpm) return name + QString("%1 to %2 s").arg(fixed(s->fromSeconds, 0), fixed(s->toSeconds, 0));
  const double bar = 240.0 / *r->tempoBpm, first = r->firstBeatSeconds.value_or(0.0);
  const long from = std::lround((s->fromSeconds - first) / bar) + 1,
             to = std::lround((s->toSeconds - first) / bar);
  return name + QString("bars %1 to %2").arg(from).arg(std::max(from, to));
}

void ReferenceRow::addFields() {
  const QString n = QString::number(index_ + 1);
  const auto place = static_cast<size_t>(index_);
  section_ = new ValueField(
      {.name = "Section " + n,
       .tip = "The section that plays. All sections count in the median; edit them in Sections",
       .text = [this] { return sectionText(); },
       .choices =
           [this] {
             QStringList out;
             for (const Section& s : reference()->sections)
               out << QString("%1 (%2 to %3 s)")
                          .arg(s.name.empty() ? QString("section") : QString::fromStdString(s.name),
                               fixed(s.fromSeconds, 0), fixed(s.toSeconds, 0));
             return out;
           },
       .choose = [this, place](int i) { document_.edit(chooseSection(place, static_cast<size_t>(i))); }},
      this);
  key_ = new ValueField(
      {.name = "Reference key " + n,
       .tip = "Key of the reference, such as F minor: By note moves it onto yours",
       .text =
           [this] {
             const Reference* r = reference();
             return r && r->key ? QString::fromStdString(r->key->name()) : QString("none");
           },
       .commit = typedAs([](const QString& w) { return parseKey(w.toStdString()); },
                         [this, place](const Key& key) { document_.edit(setReferenceKey(place, key)); }),
       .reset = [this, place] { document_.edit(setReferenceKey(place, std::nullopt)); }},
      this);
  tempo_ = new ValueField(
      {.name = "Reference tempo " + n,
       .tip = "Tempo of the reference in BPM, 40 to 240: Over the bar folds it by that, and bars stay in step",
       .text =
           [this] {
             const Reference* r = reference();
             return r && r->tempoBpm ? fixed(*r->tempoBpm, 1) : QString("none");
           },
       .commit = typedAs([](const QString& w) { return parseTempo(w.toStdString()); },
                         [this, place](double bpm) { document_.edit(setReferenceTempo(place, bpm)); }),
       .step =
           [this, place](int steps, bool fine) {
             const Reference* r = reference();
             if (r && r->tempoBpm)
               document_.edit(
                   setReferenceTempo(place, *r->tempoBpm + steps * (fine ? 0.01 : 0.1), "reference tempo"));
           },
       .endDrag = [this] { document_.endDrag(); },
       .reset = [this, place] { document_.edit(setReferenceTempo(place, std::nullopt)); }},
      this);
}

void ReferenceRow::resizeEvent(QResizeEvent*) {
  if (!section_) return;
  const TableColumns at(width());
  section_->setGeometry(at.section + at.strip() + 8, 1, at.key - at.section - at.strip() - 14, kHeight - 3);
  key_->setGeometry(at.key, 1, at.tempo - at.key - 6, kHeight - 3);
  tempo_->setGeometry(at.tempo, 1, at.lufs - at.tempo - 6, kHeight - 3);
}

void ReferenceRow::refresh() {
  for (ValueField* f : {section_, key_, tempo_})
    if (f) f->refresh();
  update();
}

QRect ReferenceRow::tick() const {
  return {TableColumns(width()).median + 18, (kHeight - 16) / 2, 16, 16};
}

void ReferenceRow::drawStrip(QPainter& p, const TableColumns& at, const QColor& ink) const {
  const Reference* r = reference();
  const Sound sound = r ? document_.assets().sound(r->asset) : nullptr;
  const double seconds = sound ? sound->seconds() : 0.0;
  const double y = kHeight / 2.0, left = at.section, width = at.strip();
  p.setPen(QPen(ink, 1.0));
  p.drawLine(QPointF(left, y), QPointF(left + width, y));
  if (!(seconds > 0.0)) return;
  for (size_t i = 0; i < r->sections.size(); ++i) {
    const Section& s = r->sections[i];
    const double a = left + width * std::min(1.0, s.fromSeconds / seconds),
                 b = left + width * std::min(1.0, s.toSeconds / seconds);
    const bool now = static_cast<int>(i) == r->chosen || r->sections.size() == 1;
    p.fillRect(QRectF(a, y - (now ? 4 : 2), std::max(3.0, b - a), now ? 8 : 4), theme().reference);
  }
}

void ReferenceRow::drawFigures(QPainter& p, const TableColumns& at, const QColor& ink) const {
  p.setFont(axisFont());
  p.setPen(ink);
  auto say = [&](int x, int next, const QString& words) {
    p.drawText(QRect(x, 0, next - x - 6, kHeight), Qt::AlignLeft | Qt::AlignVCenter, words);
  };
  const Study* study = document_.study();
  if (index_ < 0) {
    if (const TrackSection* compared = document_.session().comparedSection())
      say(at.section, at.key,
          p.fontMetrics().elidedText(QString::fromStdString(compared->name), Qt::ElideRight,
                                     at.key - at.section - 12));
    say(at.key, at.tempo, QString::fromStdString(document_.track().key.name()));
    say(at.tempo, at.lufs, fixed(document_.track().tempoBpm, 1));
    if (study && study->sum.integratedLufs) say(at.lufs, at.match, fixed(*study->sum.integratedLufs, 1));
    if (study && !study->empty) say(at.peak, at.median, fixed(study->sum.truePeakDbtp, 1));
    return;
  }
  if (const ComparedSection* s = section()) {
    say(at.lufs, at.match, fixed(*s->profile->facts.integratedLufs, 1));
    say(at.peak, at.median, fixed(s->profile->facts.truePeakDbtp, 1));
  } else if (study &&
             std::any_of(study->references.begin(), study->references.end(), [&](const MeasuredSection& r) {
               return static_cast<int>(r.of.reference) == index_ && r.profile && !r.isLoud();
             })) {
    say(at.lufs, at.match, "silent");
  }
  if (const auto db = ear_.matchOf(static_cast<size_t>(index_))) say(at.match, at.peak, dbText(*db));
}

void ReferenceRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const TableColumns at(width());
  const bool heard =
      !ear_.isHidden() && (index_ < 0 ? !ear_.heard() : ear_.heard() == static_cast<size_t>(index_));
  if (chosen_ && index_ >= 0) p.fillRect(rect(), withAlpha(t.rule, 0.45));
  p.setPen(t.rule);
  p.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
  // The key that plays it; inverted while it is heard.
  const QRectF box(4.5, 3.5, 17, 16);
  p.setPen(t.ink);
  p.setBrush(heard ? QBrush(t.ink) : Qt::NoBrush);
  p.drawRect(box);
  p.setFont(axisFont(true));
  p.setPen(heard ? t.page : t.ink);
  p.drawText(box, Qt::AlignCenter, ear_.isHidden() ? QString("?") : QString::number(index_ + 1));
  p.setBrush(Qt::NoBrush);
  p.setFont(bodyFont(heard));
  const QString name = index_ < 0 ? QString::fromStdString(document_.track().name)
                                  : referenceNames(document_.session()).value(index_);
  p.setPen(index_ < 0 ? t.ink : t.referenceWords);
  p.drawText(QRect(at.name, 0, at.section - at.name - 8, height()), Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(name, Qt::ElideRight, at.section - at.name - 8));
  drawFigures(p, at, t.ink);
  if (index_ < 0) return;
  drawStrip(p, at, t.muted);
  const QRectF tickBox = QRectF(tick()).adjusted(1.5, 1.5, -1.5, -1.5);
  p.setPen(t.ink);
  p.drawRect(tickBox);
  if (reference() && !reference()->leftOut) drawTick(p, tickBox.center(), t.ink);
}

void ReferenceRow::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const auto place = static_cast<size_t>(std::max(0, index_));
  if (index_ >= 0 && reference() && tick().adjusted(-6, -4, 6, 4).contains(event->position().toPoint()))
    return document_.edit(leaveOutReference(place, !reference()->leftOut));
  Q_EMIT pressed(index_);
  if (!ear_.isHidden()) ear_.hear(index_ < 0 ? std::nullopt : std::optional(place));
}

void ReferenceRow::contextMenuEvent(QContextMenuEvent* event) {
  if (index_ < 0 || !reference()) return;
  QMenu menu(this);
  menu.setObjectName("Reference menu");
  const bool out = reference()->leftOut;
  QAction* count = menu.addAction(out ? "Take into the median" : "Leave out of the median");
  QAction* remove = menu.addAction("Remove reference");
  const QAction* done = menu.exec(event->globalPos());
  if (done == count) document_.edit(leaveOutReference(static_cast<size_t>(index_), !out));
  if (done == remove) Q_EMIT removeAsked(index_);
}

}  // namespace heft::app
