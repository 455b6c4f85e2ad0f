#include "app/stages/compare/facts_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollArea>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kRowHigh = 22.0, kHeadHigh = 24.0, kNamesWide = 132.0, kSideEdge = 16.0;
constexpr size_t kMostSectionsShown = 6;
constexpr double kUnsureBelow = 0.6;

}  // namespace

FactsPicture::FactsPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Facts") {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  refreshRows();
  connect(&document, &Document::changed, this, &FactsPicture::refreshRows);
  connect(&figures, &CompareFigures::changed, this, [this] { update(); });
}

// A band that is added or removed is a row.
void FactsPicture::refreshRows() {
  rows_ = factRows(document().session().targets);
  chosen_ = std::min(chosen_, rows_.size() - 1);
  setMinimumHeight(static_cast<int>(kHeadHigh + kRowHigh * static_cast<double>(rows_.size()) + 4.0));
  update();
}

size_t FactsPicture::shownSections() const {
  return detail() ? std::min(detail()->sections.size(), kMostSectionsShown) : 0;
}

QRectF FactsPicture::headBox(Column column, size_t section) const {
  QRectF out = box(column, 0, section);
  out.moveTop(0.0);
  return out;
}

// The span needs more room than a figure.
QRectF FactsPicture::box(Column column, size_t row, size_t section) const {
  constexpr double kSpanWide = 1.7, kMostWide = 130.0;
  const double y = kHeadHigh + kRowHigh * static_cast<double>(row);
  if (column == Column::Name) return {kSideEdge, y, kNamesWide - kSideEdge, kRowHigh};
  const auto shown = static_cast<double>(shownSections());
  const double wide = std::min(kMostWide, (width() - kNamesWide - kSideEdge) / (2.0 + shown + kSpanWide));
  const double place = column == Column::Mine        ? 0.0
                       : column == Column::Target    ? 1.0
                       : column == Column::Reference ? 2.0 + static_cast<double>(section)
                                                     : 2.0 + shown;
  return {kNamesWide + place * wide, y, (column == Column::Median ? kSpanWide : 1.0) * wide - 8.0, kRowHigh};
}

std::optional<FactsPicture::Cell> FactsPicture::at(const QPointF& where) const {
  for (size_t r = 0; r < rows_.size(); ++r) {
    const double y = kHeadHigh + kRowHigh * static_cast<double>(r);
    if (where.y() < y || where.y() >= y + kRowHigh) continue;
    for (size_t i = 0; i < shownSections(); ++i)
      if (box(Column::Reference, r, i).contains(where)) return Cell{Column::Reference, r, i};
    for (const Column c : {Column::Mine, Column::Target, Column::Median})
      if (box(c, r).contains(where)) return Cell{c, r, 0};
    return Cell{Column::Name, r, 0};
  }
  return std::nullopt;
}

std::optional<TrackFacts> FactsPicture::mine() const {
  const CompareDetail* d = detail();
  if (!d || !d->mine) return std::nullopt;
  return TrackFacts{d->mineFacts, *d->mine, d->mineSwing, document().session().kick().hits.size()};
}

QString FactsPicture::textOf(const FactRow& row, const TrackFacts& of) const {
  const QString words = row.words ? row.words(of, track().notes) : row.text(row.of(of), track().notes);
  return words.isEmpty() ? row.text({}, track().notes) : words;
}

QString FactsPicture::mineText(const FactRow& row) const {
  const auto own = mine();
  return own ? textOf(row, *own) : row.text({}, track().notes);
}

TrackFacts FactsPicture::section(size_t index) const {
  const ComparedSection& s = detail()->sections[index];
  return {*s.facts, *s.profile, s.swing, s.facts->kick ? s.facts->kick->hits.size() : 0};
}

std::optional<CompareDetail::Span> FactsPicture::spanOf(const FactRow& row) const {
  if (!detail()) return std::nullopt;
  return detail()->spanOf([&](const ComparedSection& s) {
    const auto told = row.of({*s.facts, *s.profile, s.swing, 0});
    return told ? std::optional(told->value) : std::nullopt;
  });
}

std::optional<double> FactsPicture::median() const {
  const auto span = spanOf(row());
  return span ? std::optional(span->median) : std::nullopt;
}

std::optional<double> FactsPicture::figureAt(const Cell& cell) const {
  const FactRow& row = rows_[cell.row];
  if (!row.setTarget || !detail()) return std::nullopt;
  if (cell.column == Column::Reference) {
    const auto told = row.of(section(cell.section));
    return told ? std::optional(told->value) : std::nullopt;
  }
  const auto span = spanOf(row);
  if (cell.column != Column::Median && cell.column != Column::Target) return std::nullopt;
  return span ? std::optional(span->median) : std::nullopt;
}

std::optional<double> FactsPicture::targetNow() const {
  return row().target ? row().target(document().session().targets) : std::nullopt;
}

void FactsPicture::setTarget(std::optional<double> value, const std::string& mergeKey) {
  if (!row().setTarget) return;
  // As it is shown: nobody aims at a hundredth of a millisecond.
  const double step = std::pow(10.0, row().digits);
  if (value) *value = std::round(*value * step) / step;
  document().edit(row().setTarget(value, mergeKey));
}

void FactsPicture::choose(size_t row) {
  chosen_ = std::min(row, rows_.size() - 1);
  // Above it all stands a scroll area, where the rows do not fit.
  for (QWidget* w = parentWidget(); w; w = w->parentWidget())
    if (auto* area = qobject_cast<QScrollArea*>(w)) {
      const QRect line = box(Column::Name, chosen_).toAlignedRect();
      area->ensureVisible(line.center().x(), line.center().y(), 0, static_cast<int>(kRowHigh));
    }
  update();
  Q_EMIT chosenChanged();
}

void FactsPicture::drawHead(QPainter& p) const {
  const Theme& t = theme();
  const QStringList names = referenceNames(document().session());
  const auto say = [&](const QRectF& at, const QString& words, const QColor& ink) {
    p.setFont(axisFont(true));
    p.setPen(ink);
    p.drawText(at, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(at.width())));
  };
  say(headBox(Column::Mine), "yours", t.ink);
  say(headBox(Column::Target), "target", t.ink);
  for (size_t i = 0; i < shownSections(); ++i)
    say(headBox(Column::Reference, i),
        ear().isHidden() ? QString("hidden")
                         : names.value(static_cast<int>(detail()->sections[i].of.reference)),
        t.referenceWords);
  if (shownSections() > 0) say(headBox(Column::Median), "median, span", t.muted);
}

QString FactsPicture::spanText(const FactRow& row) const {
  const auto span = spanOf(row);
  if (!span) return {};
  QString words = row.text(Told{span->median, 1.0}, track().notes);
  if (span->count > 1 && !row.isPitch)
    words += QString(", %1 to %2")
                 .arg(QString::fromStdString(fixedNumber(span->least, row.digits)),
                      QString::fromStdString(fixedNumber(span->most, row.digits)));
  return words;
}

void FactsPicture::drawRow(QPainter& p, size_t r) const {
  const Theme& t = theme();
  const FactRow& row = rows_[r];
  const double y = kHeadHigh + kRowHigh * static_cast<double>(r);
  if (r == chosen_)
    p.fillRect(QRectF(kSideEdge, y, width() - 2 * kSideEdge, kRowHigh),
               withAlpha(t.rule, hasFocus() ? 0.6 : 0.3));
  p.setPen(t.rule);
  p.drawLine(QPointF(kSideEdge, y - 0.5), QPointF(width() - kSideEdge, y - 0.5));
  const auto say = [&](const QRectF& at, const QString& words, const QColor& ink, const QFont& font) {
    // Smaller where it would not fit.
    p.setFont(QFontMetrics(font).horizontalAdvance(words) > at.width() ? axisFont() : font);
    p.setPen(ink);
    p.drawText(at, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(at.width())));
  };
  say(box(Column::Name, r).adjusted(4, 0, 0, 0), row.name, t.ink, bodyFont());
  say(box(Column::Mine, r), mineText(row), t.ink, bodyFont(true));
  const auto target = row.target ? row.target(document().session().targets) : std::nullopt;
  const bool isUnder = under_ && under_->row == r && figureAt(*under_);
  if (target)
    say(box(Column::Target, r), row.number(*target), t.holds, bodyFont(true));
  else if (row.setTarget && spanOf(row))
    say(box(Column::Target, r), isUnder ? "take " + row.number(*figureAt(*under_)) : QString("take"), t.muted,
        axisFont());
  for (size_t i = 0; i < shownSections(); ++i) {
    const TrackFacts of = section(i);
    const auto told = row.of(of);
    const bool unsure = !row.words && (!told || told->confidence < kUnsureBelow);
    const bool pressed = isUnder && under_->column == Column::Reference && under_->section == i;
    say(box(Column::Reference, r, i), textOf(row, of),
        pressed  ? t.referenceWords
        : unsure ? t.muted
                 : t.ink,
        bodyFont(pressed));
  }
  say(box(Column::Median, r), spanText(row), t.muted, axisFont());
}

void FactsPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!hasSomething(p)) return;
  drawHead(p);
  for (size_t r = 0; r < rows_.size(); ++r) drawRow(p, r);
}

void FactsPicture::mouseMoveEvent(QMouseEvent* event) {
  under_ = at(event->position());
  if (under_ && figureAt(*under_))
    explain("Press to take this figure as the target", rows_[under_->row].tip);
  else if (under_)
    explain(rows_[under_->row].tip, rows_[under_->row].tip);
  setCursor(under_ && figureAt(*under_) ? Qt::PointingHandCursor : Qt::ArrowCursor);
  update();
}

// A target that is pressed again is cleared.
void FactsPicture::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  const auto cell = at(event->position());
  if (!cell) return;
  choose(cell->row);
  if (cell->column == Column::Target && targetNow()) return setTarget(std::nullopt);
  if (const auto figure = figureAt(*cell)) setTarget(figure);
}

void FactsPicture::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Up:
      return choose(chosen_ > 0 ? chosen_ - 1 : 0);
    case Qt::Key_Down:
      return choose(chosen_ + 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (const auto middle = median()) setTarget(middle);
      return;
    case Qt::Key_Delete:
      return setTarget(std::nullopt);
    default:
      Picture::keyPressEvent(event);
  }
}

std::vector<AccessibleItem> FactsPicture::accessibleItems() const {
  std::vector<AccessibleItem> out;
  if (!detail()) return out;
  for (size_t r = 0; r < rows_.size(); ++r) {
    const FactRow& row = rows_[r];
    const auto target = row.target ? row.target(document().session().targets) : std::nullopt;
    QString words = row.name + ": " + mineText(row);
    if (target) words += ", target " + row.number(*target);
    if (const QString span = spanText(row); !span.isEmpty()) words += ", references " + span;
    QRectF line = box(Column::Name, r);
    line.setRight(width() - kSideEdge);
    out.push_back({words, line.toAlignedRect()});
  }
  return out;
}

}  // namespace heft::app
