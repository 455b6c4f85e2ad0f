#pragma once
/// Facts of a section, measured from its mix: what its kick and bass do to each other. Each with a confidence,
/// and nothing where it cannot be told.

#include "core/compare/dip_in_mix.h"
#include "core/compare/kick_in_mix.h"
#include "core/compare/section_profile.h"

namespace heft {

/// A note of the bass, where no kick sounds.
struct NoteInMix {
  int midi = 0;
  double share = 0.0;  ///< of the time in which a bass note can be told, 0 to 1
  double cents = 0.0;  ///< its mean distance from that note
};

struct SectionFacts {
  std::optional<KickInMix> kick;  ///< nothing without a kick
  std::optional<Told> regular;    ///< part of the hits on the most regular grid of sixteenths, 0 to 1
  std::optional<Told> kickHz;     ///< where it lands, else where it is heard
  bool kickLands = true;          ///< false: it is heard there and never settles
  std::optional<Told> kickStartHz;
  std::optional<Told> kickMs;
  std::optional<DipInMix> dip;
  std::vector<NoteInMix> bassNotes;  ///< most used first, each at least a twentieth
  std::optional<Told> kickToBassDb;  ///< energy below 120 Hz in the kick's body re as long a stretch after it
  std::optional<Told> betweenDb;     ///< level below 120 Hz between the hits re the section's own
  std::optional<double> lufs, plr, shareBelow120Db, monoBelowHz, lowCrestDb;
};

/// `a4Hz`: tuning of the notes. Silence gives only its figures. Cost: about 25 ms a second of the section.
SectionFacts factsOf(const SectionProfile& section, double a4Hz = 440.0, const std::stop_token& stop = {});

/// Those that need no hits: loudness, peak, low end, width.
SectionFacts plainFactsOf(const SectionProfile& section);

/// How late the hits on every second sixteenth are: 0 even, 1 triplets. Of at least three such hits among at
/// least six, alike within a tenth of a sixteenth; nothing else can be told. `hits`: seconds, ascending.
std::optional<Told> swingOf(const std::vector<double>& hits, double bpm);

/// Energy below 120 Hz in the kick's body after each hit (seconds) re as long a stretch after it, the median
/// over hits with room for both, at least four; round the end of a loop.
std::optional<Told> kickToBass(const LowEndParts& low, const std::vector<double>& hits, double bodyMs);

/// The bass notes of a section beside its hits.
std::vector<NoteInMix> bassNotesOf(const LowEndParts& low, const std::optional<KickInMix>& kick,
                                   double a4Hz = 440.0);

}  // namespace heft
