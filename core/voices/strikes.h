#pragma once
/// Strikes: generated clicks of a few milliseconds at the start of a built kick.

#include <array>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/theory/names.h"

namespace heft {

enum class StrikeKind { Tick, Knock, Beater, Snap, Burst, Ring, Scrape, Drop, Board, Spark };
inline constexpr std::array kAllStrikes = {
    StrikeKind::Tick, StrikeKind::Knock,  StrikeKind::Beater, StrikeKind::Snap,  StrikeKind::Burst,
    StrikeKind::Ring, StrikeKind::Scrape, StrikeKind::Drop,   StrikeKind::Board, StrikeKind::Spark};
template <>
inline constexpr std::array kWordsOf<StrikeKind> = {"tick", "knock",  "beater", "snap",  "noise burst",
                                                    "ring", "scrape", "drop",   "board", "spark"};
/// One line on its character: "one short wave, bare".
const char* strikeWords(StrikeKind kind);

struct Strike {
  bool on = false;
  StrikeKind kind = StrikeKind::Tick;
  double pitchMidi = 86.0;    ///< 36 to 127: its main tone, or the middle of its noise
  double levelDb = -9.0;      ///< -60 to 12, its peak re the body's
  double lengthMs = 6.0;      ///< 0.5 to 100, to -40 dB
  bool throughDrive = false;  ///< false: bypasses the drive, so that drive never chops it
  bool operator==(const Strike&) const = default;
};

/// The strike alone, peak 1 (0 dB), mono. Starts at once and at zero; ends in silence. The same on every run.
std::vector<float> strikeWave(const Strike& strike, double a4Hz, double sampleRate);

}  // namespace heft
