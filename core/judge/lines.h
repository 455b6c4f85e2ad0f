#pragma once
/// The Ledger's lines, stage by stage. Used by ledger.cpp.

#include <array>
#include <functional>

#include "core/judge/ledger.h"

namespace heft {

struct LedgerView {
  const Session& session;
  const Study& study;
  const Limits& limits;
};

/// One of the pair, for lines that cover both. Its role gives the word and the prefix of their ids.
struct PairPart {
  const Part& part;
  const std::vector<LayerFacts>& layers;  ///< audible ones
  bool muted;
};
std::array<PairPart, 2> pairIn(const LedgerView& view);

/// Whether the part's first layer is a whole loop or track, so that its note and tail are not figures of one
/// sound.
/// sound.
bool isOfAPiece(const Part& part, const std::shared_ptr<const SoundFacts>& source);

void addMaterialLines(const LedgerView& view, std::vector<Finding>& out);
void addMutedLines(const LedgerView& view, std::vector<Finding>& out);
void addStrainLines(const LedgerView& view, std::vector<Finding>& out);
void addSpeakerLine(const LedgerView& view, std::vector<Finding>& out);
void addTuneLines(const LedgerView& view, std::vector<Finding>& out);
void addPartLines(const LedgerView& view, std::vector<Finding>& out);
void addTailLines(const LedgerView& view, std::vector<Finding>& out);
void addLayerLines(const LedgerView& view, std::vector<Finding>& out);
void addAlignLines(const LedgerView& view, std::vector<Finding>& out);
void addDuckLines(const LedgerView& view, std::vector<Finding>& out);
void addDuckingLines(const LedgerView& view, std::vector<Finding>& out);
void addBandLines(const LedgerView& view, std::vector<Finding>& out);
void addTargetLines(const LedgerView& view, std::vector<Finding>& out);
void addCompareLines(const LedgerView& view, std::vector<Finding>& out);

/// A move by an edit, under another name where one is given.
Remedy remedyOf(const std::string& label, Edit edit, const std::string& name = {});
/// Kick and bass through one all-pass: their relative phase and all levels stay, the waveform changes.
Remedy rotating(const Session& session, double hz);
/// Softly clips what peaks at `peakDb` that far under it, after all that its chain does; nothing where that is
/// full.
std::optional<Remedy> clipping(const std::string& label, const Owner& of, const Chain& chain, double peakDb,
                               double byDb);
/// The audible kick layer that carries the landing: the one with the strongest low tail. Nothing without one.
std::optional<int> landingLayerId(const LedgerView& view);

/// Judges `count` hits one by one. The line takes the worst verdict and marks that hit; nothing: the hit is
/// not judged.
void judgeHits(const LedgerView& view, Finding& line, size_t count,
               const std::function<std::optional<HitLine>(size_t)>& each);
/// A hit by its number, "hit 3"; in a song by its place, "57.3.1 in Drop".
std::string hitName(const LedgerView& view, int hit);
/// The hits that are not in range: "at hit 3", "at hits 1 and 4", "at 6 of 8 hits"; in a song "at 57.3.1 in
/// Drop", "at 14 of 312 hits, worst at 57.3.1 in Drop".
std::string atHits(const LedgerView& view, const Finding& line);

/// A finding's value where there is nothing to measure, dB.
inline constexpr double kNothingDb = -120.0;

/// "-3.2 dB" with its sign, and without.
std::string signedDb(double value);
std::string plainDb(double value);
std::string plainMs(double value);  ///< "135 ms"

/// Holds up to the first limit, watch up to the second, off beyond.
inline Verdict judged(double value, double holds, double watch) {
  return value <= holds ? Verdict::Holds : value <= watch ? Verdict::Watch : Verdict::Off;
}

}  // namespace heft
