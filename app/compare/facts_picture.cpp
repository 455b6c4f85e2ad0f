#include "app/compare/facts_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

std::optional<Told> sure(const std::optional<double>& value) {
  return value ? std::optional(Told{*value, 1.0}) : std::nullopt;
}

}  // namespace

FactsPicture::FactsPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "Facts") {
  setToolTip("Measured in each section's mix. Muted: unsure. A dash: cannot be told");
}

std::vector<FactsPicture::Fact> FactsPicture::facts() {
  return {
      {"Kick note", "", 0, [](const SectionFacts& f) { return f.kickHz; }, true},
      {"Kick length", "ms", 0, [](const SectionFacts& f) { return f.kickMs; }},
      {"Bass dips by", "dB", 1,
       [](const SectionFacts& f) { return f.dip ? std::optional(f.dip->depthDb) : std::nullopt; }},
      {"Bass back after", "ms", 0, [](const SectionFacts& f) { return f.dip ? f.dip->backMs : std::nullopt; }},
      {"Kick to bass", "dB", 1, [](const SectionFacts& f) { return f.kickToBassDb; }},
      {"Below 120 Hz", "dB", 1, [](const SectionFacts& f) { return sure(f.shareBelow120Db); }},
      {"Low crest", "dB", 1, [](const SectionFacts& f) { return sure(f.lowCrestDb); }},
      {"Mono below", "Hz", 0, [](const SectionFacts& f) { return sure(f.monoBelowHz); }},
      {"Loudness", "LUFS", 1, [](const SectionFacts& f) { return sure(f.lufs); }},
      {"Peak to loudness", "dB", 1, [](const SectionFacts& f) { return sure(f.plr); }}};
}

QString FactsPicture::text(const Fact& fact, const std::optional<Told>& told) const {
  if (!told) return QString(QChar(0x2013));
  if (fact.isNote)
    return QString::fromStdString(pitchText(midiFromHz(told->value, track().notes.a4Hz), track().notes));
  return QString::fromStdString(fixedNumber(told->value, fact.digits)) + " " + fact.unit;
}

void FactsPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!hasSomething(p)) return;
  const Theme& t = theme();
  constexpr double kUnsure = 0.6;
  const auto rows = facts();
  const auto& sections = detail()->sections;
  const size_t shown = std::min<size_t>(sections.size(), 6);
  // The span needs more room than a figure.
  const double left = 150.0, columns = static_cast<double>(shown) + 2.6;
  const double column = std::min(150.0, (width() - 16.0 - left) / columns);
  const double row = std::clamp((height() - 34.0) / static_cast<double>(rows.size()), 20.0, 30.0);
  auto cell = [&](double c, double r, const QString& words, const QColor& ink, const QFont& font) {
    p.setFont(font);
    p.setPen(ink);
    const bool last = shown > 0 && c > static_cast<double>(shown);
    const QRectF box(left + c * column, 26.0 + r * row, (last ? 1.6 : 1.0) * column - 8, row);
    p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(box.width())));
  };
  const QStringList names = referenceNames(document().session());
  cell(0, -1, "yours", t.ink, axisFont(true));
  for (size_t i = 0; i < shown; ++i)
    cell(1.0 + static_cast<double>(i), -1,
         ear().isHidden() ? QString("hidden") : names.value(static_cast<int>(sections[i].of.reference)),
         t.referenceWords, axisFont(true));
  if (shown > 0) cell(1.0 + static_cast<double>(shown), -1, "median, span", t.muted, axisFont(true));
  for (size_t r = 0; r < rows.size(); ++r) {
    const Fact& fact = rows[r];
    const double y = 26.0 + static_cast<double>(r) * row;
    p.setPen(t.rule);
    p.drawLine(QPointF(16, y - 0.5), QPointF(width() - 16.0, y - 0.5));
    p.setFont(bodyFont());
    p.setPen(t.ink);
    p.drawText(QRectF(16, y, left - 24, row), Qt::AlignLeft | Qt::AlignVCenter, fact.name);
    const auto at = static_cast<double>(r);
    cell(0, at, text(fact, fact.of(detail()->mineFacts)), t.ink, bodyFont(true));
    for (size_t i = 0; i < shown; ++i) {
      const auto told = fact.of(*sections[i].facts);
      cell(1.0 + static_cast<double>(i), at, text(fact, told),
           told && told->confidence >= kUnsure ? t.ink : t.muted, bodyFont());
    }
    const auto span = detail()->spanOf([&](const ComparedSection& s) {
      const auto told = fact.of(*s.facts);
      return told ? std::optional(told->value) : std::nullopt;
    });
    if (!span) continue;
    QString words = text(fact, Told{span->median, 1.0});
    if (span->count > 1 && !fact.isNote)
      words += QString(", %1 to %2")
                   .arg(QString::fromStdString(fixedNumber(span->least, fact.digits)),
                        QString::fromStdString(fixedNumber(span->most, fact.digits)));
    cell(1.0 + static_cast<double>(shown), at, words, t.muted, axisFont());
  }
}

}  // namespace heft::app
