#include "app/stages/compare/note_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace heft::app {
namespace {

constexpr double kFromMidi = 21.0, kToMidi = 64.0, kRangeDb = 36.0;

// Smoothed over a semitone, re its own.
std::vector<double> overSemitone(const ByNote& notes) {
  std::vector<double> out;
  for (double midi = kFromMidi; midi <= kToMidi; midi += 0.25) out.push_back(notes.semitoneDb(midi));
  return out;
}

}  // namespace

NotePicture::NotePicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear)
    : ComparePicture(document, selection, figures, ear, "By note") {
  setToolTip("Level of each semitone, every track moved so that its tonic is yours");
}

// Semitones that bring its tonic onto the session's, at most a tritone.
double NotePicture::shiftOf(const SectionRef& of) const {
  const auto& key = document().session().references[of.reference].key;
  if (!key) return 0.0;
  const int apart = ((track().key.tonic - key->tonic) % 12 + 12) % 12;
  return apart > 6 ? apart - 12 : apart;
}

ComparePicture::Lines NotePicture::lines() const {
  Lines out;
  const double tuning = 12.0 * std::log2(track().notes.a4Hz / 440.0);
  auto lineOf = [&](const ByNote& notes, double shift) {
    Line line;
    if (notes.db.empty()) return line;
    ByNote moved = notes;
    const auto by = static_cast<ptrdiff_t>(std::lround((shift - tuning) * ByNote::kPerSemitone));
    for (ptrdiff_t i = 0; i < std::ssize(moved.db); ++i) {
      const ptrdiff_t from = i - by;
      moved.db[static_cast<size_t>(i)] =
          from >= 0 && from < std::ssize(notes.db) ? notes.db[static_cast<size_t>(from)] : -120.0;
    }
    line.level = overSemitone(moved);
    for (size_t i = 0; i < line.level.size(); ++i) line.at.push_back(kFromMidi + 0.25 * static_cast<double>(i));
    return line;
  };
  if (detail()->mine) out.mine = lineOf(detail()->mine->byNote, 0.0);
  for (const ComparedSection& s : detail()->sections)
    out.sections.push_back({s.of, lineOf(s.profile->byNote, shiftOf(s.of))});
  span(out);
  double top = -300.0;
  auto highest = [&](const Line& l) {
    if (!l.level.empty()) top = std::max(top, *std::max_element(l.level.begin(), l.level.end()));
  };
  highest(out.mine);
  for (const auto& s : out.sections) highest(s.line);
  auto lower = [&](Line& l) {
    for (double& db : l.level) db -= top;
  };
  lower(out.mine), lower(out.least), lower(out.most);
  for (auto& s : out.sections) lower(s.line);
  return out;
}

void NotePicture::drawNotes(QPainter& p, const Axis& x, const QRectF& plot) const {
  const Theme& t = theme();
  const Key& key = track().key;
  for (int midi = static_cast<int>(kFromMidi); midi <= static_cast<int>(kToMidi); ++midi) {
    if (!key.contains(midi)) continue;
    const bool tonic = key.isTonic(midi), fifth = key.isFifth(midi);
    const double at = std::round(x.pixel(midi)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.6) : t.rule, 1.0));
    p.drawLine(QPointF(at, plot.top()), QPointF(at, plot.bottom()));
    if (!tonic && !fifth) continue;
    p.setFont(axisFont(tonic));
    drawLabel(p, QPointF(at, plot.bottom() + 4), Qt::AlignHCenter | Qt::AlignTop,
              QString::fromStdString(noteName(midi, track().notes)), tonic ? t.ink : t.muted,
              QColor(0, 0, 0, 0));
  }
}

// Which notes each bass sits on: a mark as wide as its share of the time, and where each kick is.
void NotePicture::drawUsed(QPainter& p, const Axis& x, const QRectF& plot) const {
  const Theme& t = theme();
  double y = plot.bottom() + 26.0;
  constexpr double kRow = 11.0, kWidest = 15.0;
  auto row = [&](const SectionFacts& facts, double shift, const QString& name, const QColor& ink,
                 const QColor& words) {
    p.setFont(axisFont());
    const QString said = p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(plot.left()) - 12);
    drawLabel(p, QPointF(plot.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter, said, words,
              QColor(0, 0, 0, 0));
    p.setPen(Qt::NoPen);
    for (const NoteInMix& n : facts.bassNotes) {
      if (n.midi + shift < kFromMidi || n.midi + shift > kToMidi) continue;
      const double half = 2.0 + kWidest * 0.5 * n.share;
      p.fillRect(QRectF(x.pixel(n.midi + shift) - half, y - 3, 2 * half, 6), ink);
    }
    if (facts.kickHz) {
      const double midi = midiFromHz(facts.kickHz->value, track().notes.a4Hz) + shift;
      if (midi >= kFromMidi && midi <= kToMidi) {
        p.setPen(QPen(t.kick, 2.0));
        p.drawLine(QPointF(x.pixel(midi), y - 5), QPointF(x.pixel(midi), y + 5));
      }
    }
    y += kRow;
  };
  if (detail()->mine) row(detail()->mineFacts, 0.0, "yours", t.bass, t.ink);
  const QStringList names = referenceNames(document().session());
  for (const ComparedSection& s : detail()->sections) {
    if (y > height() - 4) break;
    const QString name = ear().isHidden() ? "hidden" : names.value(static_cast<int>(s.of.reference));
    row(*s.facts, shiftOf(s.of), name, t.reference, t.referenceWords);
  }
}

void NotePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!hasSomething(p)) return;
  const double rows = 26.0 + 11.0 * static_cast<double>(1 + std::min<size_t>(5, detail()->sections.size()));
  const QRectF plot = plotArea(rows, 92.0);
  const Axis x{kFromMidi, kToMidi, plot.left(), plot.right()}, y{-kRangeDb, 3.0, plot.bottom(), plot.top()};
  drawLevels(p, y, plot, 6.0);
  drawNotes(p, x, plot);
  drawLines(p, lines(), x, y, plot);
  drawKey(p, plot, detail()->sections.size() > 1);
  drawUsed(p, x, plot);
}

}  // namespace heft::app
