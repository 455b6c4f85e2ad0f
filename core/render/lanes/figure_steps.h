#pragma once
/// Figures of a lane from its blocks: unchanged blocks are not measured again. Each equals the same measure
/// of the whole lane as a loop (tests/render/figures_test.cpp).

#include <optional>

#include "core/measure/levels/low_end.h"
#include "core/render/lanes/signal.h"
#include "core/sound/filter.h"

namespace heft {

enum class Fold { Mid, Side };  ///< half the channels' sum, or half their difference (nothing for a mono lane)

/// `count` frames from `first` on, which may be outside the loop, decimated as by decimated().
Decimated decimatedLane(const Signal& lane, Fold fold, double rate, double targetRate, int64_t first,
                        size_t count, StepCache& cache);

/// The same, a block's length at a time: for who reads several lanes side by side.
class DecimatedPieces {
 public:
  DecimatedPieces(Signal lane, Fold fold, double rate, double targetRate, int64_t first, size_t count);
  size_t size() const { return (all_ + perPiece_ - 1) / perPiece_; }
  size_t factor() const { return factor_; }
  size_t count() const { return all_; }  ///< of the decimated samples
  /// Cached.
  std::shared_ptr<const std::vector<double>> at(size_t piece, StepCache& cache) const;
  /// Samples from one to before another, put together.
  std::vector<double> between(size_t from, size_t to, StepCache& cache) const;
  /// What those depend on.
  void addTo(KeyMaker& maker, size_t from, size_t to) const;

 private:
  Signal lane_;
  Fold fold_;
  double rate_, targetRate_;
  int64_t first_;
  size_t factor_, all_, perPiece_;
};

/// Measures what laneProgramme(), or laneLowEnd(), reads of a block. A lane that is too long to stay in memory
/// is measured block by block first, each figure of it while its sound is there.
void measureProgrammeBlock(const Signal& lane, size_t b, double rate, StepCache& cache);
void measureLowEndBlock(const Signal& lane, size_t b, double rate, StepCache& cache);

/// Frames of a lane, from one to before another.
struct FrameRange {
  size_t from = 0, to = 0;
  size_t count() const { return to - from; }
};

/// measureLowEnd() of the loop, or of a range of it as a piece by itself.
LowEnd laneLowEnd(const Signal& lane, double rate, StepCache& cache,
                  const std::optional<FrameRange>& range = {});

/// Integrated loudness of a loop, LUFS, or of a song, from its segments; nothing where its rate cannot be
/// measured or it is silent. Cached.
std::optional<double> laneLoudness(const Signal& lane, double rate, StepCache& cache);
/// K-weighted energy of each tenth of a second, both sides together, from sums of blocks that each stand in the
/// cache: a song's loudness is renewed only where an edit touched it (ITU-R BS.1770-4: blocks of four).
std::vector<double> loudnessSegments(const Signal& lane, double rate, StepCache& cache);
/// The first frame of the loudest stretch of that length within a range, by those segments; the range's first
/// where that is shorter.
size_t loudestStretch(const Signal& lane, const FrameRange& within, double seconds, double rate,
                      StepCache& cache);
/// Its true peak, dBTP.
double laneTruePeakDbtp(const Signal& lane, double rate, StepCache& cache);

/// Loudness, true peak and low end of a loop; nothing where its rate cannot be measured. The loop is repeated
/// for the loudness gate until it lasts three seconds. Of a range: its loudness and low end, within a tenth of
/// a second at its ends; the true peak is always that of all.
std::optional<ProgrammeFacts> laneProgramme(const Signal& lane, double rate, StepCache& cache,
                                            const std::optional<FrameRange>& range = {});

}  // namespace heft
