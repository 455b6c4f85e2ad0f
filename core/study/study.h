#pragma once
/// All measurements of a session and its rendered lanes: the Ledger judges them, the pictures draw them.

#include <algorithm>
#include <optional>
#include <stop_token>

#include "core/align/align.h"
#include "core/compare/ceiling.h"
#include "core/compare/difference.h"
#include "core/render/lanes/render.h"
#include "core/study/contour_facts.h"
#include "core/study/layer_facts.h"
#include "core/study/line_heard.h"
#include "core/study/pair_figures.h"
#include "core/study/reference_sections.h"

namespace heft {

/// From the kick's tail to the bass note that starts in it: the level between 20 and 150 Hz as heard.
struct HandOverFacts {
  double afterMs = 0.0;  ///< from the hit to the note
  double overMs = 0.0;   ///< gain reduction of the hand-over, or what it would be if it were on
  double holeDb =
      0.0;  ///< how far the sum falls below both the kick before it and the bass after it; 0 or below
  double pileDb = 0.0;  ///< how far it peaks above both; 0 or more
  double alike = 0.0;   ///< correlation of kick and bass about it, -1 to 1
  /// Levels in dB re the loudest of the three, each kStepMs from kLeadMs before the note.
  std::vector<float> kickDb, bassDb, sumDb;
  static constexpr double kStepMs = 2.0, kLeadMs = 40.0, kFloorDb = -60.0;
  double ripple() const { return std::max(-holeDb, pileDb); }
};

/// A stretch of sound, and what its sum with another reaches in perfect phase.
struct BandWave {
  std::vector<float> samples, envelope;
};

/// A kick hit and the bass it meets. Copies share curves and waves with the step cache: a hundred kilobytes a
/// hit.
struct HitFacts {
  double frame = 0.0;
  std::optional<int> noteMidi;  ///< bass note sounding within the sixteenth after the hit
  /// The kick of this hit and the bass under it, where they are not the study's own (hit_sounds.h).
  std::shared_ptr<const SoundFacts> kickSound = {}, bassSound = {};
  /// Kick and bass about the hit in Align's band, the bass phase-shifted but not yet delayed, for the
  /// picture: from waveLeadSeconds before it.
  std::shared_ptr<const BandWave> kickWave, bassWave;
  double waveRate = 1.0, waveLeadSeconds = 0.0;
  /// Kick and bass from this hit to the next, the bass phase-shifted but not yet delayed: with the ducking,
  /// and without.
  std::shared_ptr<const SmallCurve> curve, plain;
  /// Whether they ever sound together.
  bool meets() const { return curve && curve->overlap; }
  double heardDb = 0.0;  ///< as heard at the present delay and polarity, re perfect phase; 0 without overlap
  double levelDb = 0.0;  ///< the same without the ducking
  double bestDb = 0.0;   ///< at the delay and polarity that suit all hits best
  AlignAnswer own;       ///< the move that suits this hit alone
  /// Level of the ducked bass re the kick below 150 Hz, over the kick's body; nothing where one is silent
  /// there.
  std::optional<double> bassReKickDb = {};
  std::optional<double> nextNoteGapMs;  ///< until the next bass note starts that did not sound at the hit
  /// Nothing where no note starts before the next hit, or the kick is 12 dB under the bass by then.
  std::optional<HandOverFacts> handOver = {};
  /// When the kick falls below the bass, and below the backing, for good, at most its tail to -40 dB, below
  /// 150 Hz as heard; empty where the other is silent throughout or the kick is never louder.
  std::optional<double> overBassMs = {}, overBackingMs = {};
  /// Level of a bass note that ended before the hit, 20 to 40 ms into it, re its loudest moment, as heard
  /// below 150 Hz; empty where a note is held or starts there, or none ended within a second.
  std::optional<double> releaseDb = {};
  std::optional<double> tailAtNextNoteDb = {};  ///< the kick's envelope there, re its peak; nothing for silence
};

/// Measures no more hits than these, the first: two on every sixteenth of 64 bars, or four in each of a song's
/// 512 bars.
inline constexpr size_t kMostJudgedHits = 2048;

/// A part as it sounds, whatever it plays. Notes are heard at one pitch, hits at full velocity.
struct PartFacts {
  int part = 0;
  bool muted = false;  ///< there are layers but none is audible
  /// Of its full hit, or of its layers at `noteMidi`; nothing without a sound.
  std::shared_ptr<const SoundFacts> sound;
  /// Of the pair: its first layer before any move; a built bass has none.
  std::shared_ptr<const SoundFacts> source = {};
  std::shared_ptr<const ReadyKick> hit = {};  ///< of the pair's kick: its full hit
  /// For lines: the note played most; of the pair's bass the one under most hits.
  std::optional<int> noteMidi = {};
  std::optional<double> rootMidi = {};       ///< of the pair's bass: root of its recording
  std::optional<int> noteLayer = {};         ///< of several layers that play hits, the one whose note is heard
  std::vector<LayerFacts> layers = {};       ///< audible ones; of a part beside the pair where it has several
  LowEnd low = {};                           ///< of its lane over what is compared: the loop, song or section
  LowEnd spectrum = {};                      ///< of the pair: of one hit, or of one note at `noteMidi`
  std::optional<double> phon = {};           ///< of the pair's bass: loudness on a small speaker
  std::optional<ContourFacts> contour = {};  ///< where its contour does something
};

/// What two parts do to each other: one plays hits, called the kick, the other notes under them, the bass.
struct PairFacts {
  PartFacts kick{.part = 1}, bass{.part = 2};
  std::vector<HitFacts> hits;  ///< the first, at most kMostJudgedHits
  size_t hitsInLoop = 0;
  AlignCurve all;           ///< as it sounds
  AlignAnswer best;         ///< before: without any move
  double alignedDb = 0.0;   ///< all hits as they sound at the present delay and polarity
  double unduckedDb = 0.0;  ///< the same without the ducking
  DipFacts dip;             ///< of all gains of the bass's lane together, after each kick hit
  PairFigures figures;      ///< only where a target needs them
};

/// Figures of a ducking.
struct DuckFacts {
  int id = 0;
  DipFacts dip;                  ///< of its own gain, after each of its triggers
  int doubtful = 0, nearly = 0;  ///< hits that trigger but may be another drum; near misses
  bool busy = false;             ///< its sidechain has more than hits in its band (HitSearch::isBusy)
  bool sourceGone = false;       ///< its part, its sound or its notes are missing
  bool targetGone = false;
  std::optional<double> bellHz;                ///< frequency of a bell; empty where its note is unknown
  double soundSeconds = 0.0, soundRate = 0.0;  ///< of an audio file
  double beyondSeconds = 0.0;                  ///< seconds of the trigger's file after the loop
  double silentSeconds = 0.0;                  ///< seconds of the loop after the file's end
  double closestMs = 0.0;                      ///< between two triggers; 0: fewer than two
  double loudestDb = -120.0;                   ///< a follower's peak sidechain level, dBFS
  double downShare = 0.0;                      ///< of the loop in which its gain is below -0.5 dB
  /// For a follower that never ducks or always does: the threshold that gives 6 dB at the loudest moment.
  std::optional<double> thresholdForSix;
  std::optional<DrawnDip> drawn;  ///< for a follower and a mirror: the same as a curve

  bool isNever() const { return dip.depthDb > -0.5 && downShare == 0.0; }
  bool isAlways() const { return downShare > 0.98; }
};
/// Default depth at the loudest hit when a ducking is solved, dB.
inline constexpr double kUsualTakenDb = 6.0;

struct Study {
  PairFacts pair;
  std::vector<PartFacts> others;            ///< parts that are neither the kick nor the bass of the pair
  LineHeard line;                           ///< perceived loudness of each bass note; empty without a bass
  std::vector<DuckFacts> ducks;             ///< of the session's active duckings
  std::optional<CeilingLoss> ceiling = {};  ///< at the references' median loudness; nothing where that is lower
  /// Over the loop or song, or its compared section; the true peak is always that of all.
  ProgrammeFacts sum;
  std::optional<double> wholeLufs;  ///< of all, whatever is compared
  bool hasBacking = false;
  std::vector<MeasuredSection> references;  ///< their sections, in the session's order
  std::vector<SectionRef> notMeasured;      ///< those that exist but are not in the cache yet
  bool empty = true;                        ///< nothing sounds

  /// Nothing where it was not measured.
  PartFacts* part(int id);
  const PartFacts* part(int id) const { return const_cast<Study*>(this)->part(id); }
  /// Of a part as heard; nothing where it was not measured, or has no sound.
  std::shared_ptr<const SoundFacts> soundOf(int part) const;
  const ContourFacts* contourOf(int part) const;  ///< nothing where its contour does nothing

  std::vector<BandDifference> differences;  ///< of comparedBands(): sum minus the references' median, or target

  /// Power of the kick against the bass's, 20 to 120 Hz; nothing where one is silent there.
  std::optional<double> kickToBassDb() const;
  /// Of the sections that count.
  std::vector<ProgrammeFacts> presentReferences() const;
  /// Whether a section counts that has a loudness.
  bool anyReference() const;
};

/// What to do with a reference that is not in the cache yet.
enum class References { Measure, TakeWhatIsKnown };

/// What alignment alone needs: the kick's figures and all hits of the session's pair; the rest stays empty.
/// Errors: Cancelled.
Result<PairFacts> studyPair(const Session& session, const Assets& assets, const Stems& stems, StepCache& cache,
                            std::stop_token stop = {});

/// Errors: Cancelled.
Result<Study> study(const Session& session, const Assets& assets, const Stems& stems, StepCache& cache,
                    std::stop_token stop = {}, References references = References::Measure);

}  // namespace heft
