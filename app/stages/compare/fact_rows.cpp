#include "app/stages/compare/fact_rows.h"

#include "core/session/edits/targets.h"
#include "core/session/edits/values.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

std::optional<Told> sure(const std::optional<double>& value) {
  return value ? std::optional(Told{*value, 1.0}) : std::nullopt;
}

// A fact whose target is one value of the session.
FactRow aimed(FactRow row, const char* key, std::optional<double> Targets::*at) {
  row.target = [at](const Targets& t) { return t.*at; };
  row.setTarget = [name = row.name.toLower().toStdString(), key = std::string("targets.") + key](
                      std::optional<double> value, const std::string& mergeKey) {
    return putValue((value ? "set target " : "clear target ") + name, {}, key,
                    value ? Value(*value) : Value(std::monostate()), mergeKey);
  };
  return row;
}

QString hitsText(const TrackFacts& t, const NoteStyle&) {
  if (t.hits == 0) return {};
  const QString count = QString::number(t.hits);
  return t.facts.regular ? count + QString(", %1 %").arg(qRound(100.0 * t.facts.regular->value)) : count;
}

QString notesText(const TrackFacts& t, const NoteStyle& style) {
  constexpr size_t kMost = 4;
  QStringList out;
  for (const NoteInMix& note : t.facts.bassNotes)
    if (static_cast<size_t>(out.size()) < kMost) out << QString::fromStdString(noteName(note.midi, style));
  return out.join(" ");
}

std::vector<FactRow> kickRows() {
  std::vector<FactRow> out;
  out.push_back({.name = "Kick hits",
                 .tip = "Hits that were found, and how many of them lie on one even grid",
                 .of = [](const TrackFacts&) { return std::optional<Told>(); },
                 .words = hitsText});
  out.push_back(
      {.name = "Swing",
       .unit = "%",
       .tip = "How late every second sixteenth is: 0 even, 100 triplets",
       .of = [](const TrackFacts& t) {
         return t.swing ? std::optional(Told{100.0 * t.swing->value, t.swing->confidence}) : std::nullopt;
       }});
  out.push_back({.name = "Kick note",
                 .tip = "Where the kick lands, or is heard",
                 .of = [](const TrackFacts& t) { return t.facts.kickHz; },
                 .isPitch = true});
  out.push_back(
      {.name = "Kick falls from", .unit = "Hz", .tip = "Start of its fall", .of = [](const TrackFacts& t) {
         return t.facts.kickStartHz;
       }});
  out.push_back(aimed({.name = "Kick length",
                       .unit = "ms",
                       .tip = "Until the lows are the bass's again, or the kick is 20 dB down",
                       .of = [](const TrackFacts& t) { return t.facts.kickMs; }},
                      "kick_length_ms", &Targets::kickMs));
  return out;
}

void addPairRows(std::vector<FactRow>& out) {
  out.push_back({.name = "Bass notes",
                 .tip = "Most used first",
                 .of = [](const TrackFacts&) { return std::optional<Told>(); },
                 .words = notesText});
  out.push_back(aimed({.name = "Bass dips by",
                       .unit = "dB",
                       .tip = "Depth of the bass's dip after a hit",
                       .digits = 1,
                       .of =
                           [](const TrackFacts& t) {
                             return t.facts.dip ? std::optional(t.facts.dip->depthDb) : std::nullopt;
                           }},
                      "dip_db", &Targets::dipDb));
  out.push_back(
      aimed({.name = "Bass back after",
             .unit = "ms",
             .tip = "From the hit until the bass is back",
             .of = [](const TrackFacts& t) { return t.facts.dip ? t.facts.dip->backMs : std::nullopt; }},
            "dip_back_ms", &Targets::backMs));
  out.push_back(aimed({.name = "Kick to bass",
                       .unit = "dB",
                       .tip = "Energy below 120 Hz while the kick stands, relative to as long after it",
                       .digits = 1,
                       .of = [](const TrackFacts& t) { return t.facts.kickToBassDb; }},
                      "kick_to_bass_db", &Targets::kickToBassDb));
  out.push_back({.name = "Between hits",
                 .unit = "dB",
                 .tip = "Level below 120 Hz between the hits, relative to the section's own",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return t.facts.betweenDb; }});
}

void addPlainRows(std::vector<FactRow>& out) {
  out.push_back({.name = "Below 120 Hz",
                 .unit = "dB",
                 .tip = "Share of the whole power",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return sure(t.facts.shareBelow120Db); }});
  out.push_back({.name = "Low crest",
                 .unit = "dB",
                 .tip = "Crest factor below 120 Hz",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return sure(t.facts.lowCrestDb); }});
  out.push_back(aimed({.name = "Mono below",
                       .unit = "Hz",
                       .tip = "Up to where the side is 20 dB under the mid",
                       .of = [](const TrackFacts& t) { return sure(t.facts.monoBelowHz); }},
                      "mono_below_hz", &Targets::monoBelowHz));
  out.push_back({.name = "Loudness",
                 .unit = "LUFS",
                 .tip = "Integrated, ITU-R BS.1770",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return sure(t.facts.lufs); }});
  out.push_back({.name = "Peak to loudness",
                 .unit = "dB",
                 .tip = "True peak over integrated loudness",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return sure(t.facts.plr); }});
  out.push_back({.name = "Loudness range",
                 .unit = "LU",
                 .tip = "EBU Tech 3342, of sections from 10 s on",
                 .digits = 1,
                 .of = [](const TrackFacts& t) { return sure(t.profile.rangeLu); }});
}

// Levels of the bands re loudness.
void addBandRows(const Targets& targets, std::vector<FactRow>& out) {
  for (const BandAim& aim : comparedBands(targets)) {
    const Band band = aim.band();
    out.push_back({.name = QString("%1 to %2 Hz").arg(band.lowHz).arg(band.highHz),
                   .unit = "dB",
                   .tip = "Power of the band relative to the loudness",
                   .digits = 1,
                   .of = [band](const TrackFacts& t) { return sure(t.profile.facts.bandReLufs(band)); },
                   .target = [band](const Targets& t) -> std::optional<double> {
                     for (const BandAim& b : t.bands)
                       if (b.band() == band) return b.targetDb;
                     return std::nullopt;
                   },
                   .setTarget =
                       [aim](std::optional<double> value, const std::string& mergeKey) {
                         BandAim with = aim;
                         with.targetDb = value;
                         return setBandAim(with, mergeKey);
                       }});
  }
}

}  // namespace

QString FactRow::number(double value) const {
  return QString::fromStdString(fixedNumber(value, digits)) + " " + unit;
}

QString FactRow::text(const std::optional<Told>& told, const NoteStyle& style) const {
  if (!told) return QString(QChar(0x2013));
  if (isPitch) return QString::fromStdString(pitchText(midiFromHz(told->value, style.a4Hz), style));
  return number(told->value);
}

std::vector<FactRow> factRows(const Targets& targets) {
  std::vector<FactRow> out = kickRows();
  addPairRows(out);
  addPlainRows(out);
  addBandRows(targets, out);
  return out;
}

}  // namespace heft::app
