#include "core/study/line_heard.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/listening_places.h"
#include "core/render/lanes/lane_steps.h"
#include "core/render/sounds/phrases.h"

namespace heft {
namespace {

constexpr double kLongestSeconds = 0.5, kTailSeconds = 0.3, kShortestSeconds = 0.06;

// The place in the pattern of the note that a phrase begins with.
std::optional<size_t> noteAt(const Part& bass, const Track& track, double startQuarters) {
  std::optional<size_t> out;
  double nearest = 0.26;  // its own move is at most 50 ms
  for (size_t i = 0; i < bass.notes.size(); ++i) {
    const Note& n = bass.notes[i];
    const double at = n.startQuarters + n.move.offsetMs * track.tempoBpm / 60000.0;
    if (std::abs(at - startQuarters) < nearest) nearest = std::abs(at - startQuarters), out = i;
  }
  return out;
}

// With its own tail, up to the next note.
size_t framesOf(const std::vector<PlacedPhrase>& phrases, size_t k, const Track& track, const Stems& stems) {
  const auto& last = phrases[k].ask.phrase.notes.back();
  const double start = phrases[k].startQuarters;
  const double end = track.song ? static_cast<double>(stems.frames) / track.framesPerQuarter()
                                : track.loopQuarters() + phrases[0].startQuarters;
  const double next = k + 1 < phrases.size() ? phrases[k + 1].startQuarters : end;
  const double room = (next - start) * track.framesPerQuarter() / stems.sampleRate;
  const double wanted = std::min(last.start + last.length, kLongestSeconds) + kTailSeconds;
  return static_cast<size_t>(std::max(kShortestSeconds, std::min(room, wanted)) * stems.sampleRate);
}

// A stretch of the line as it is heard. Notes whose samples are the same share it.
struct HeardStretch {
  HeardBands bands;
  double phon = 0.0, phonePhon = 0.0;
  StepKey key;
};
using HeardStretchPtr = std::shared_ptr<const HeardStretch>;

HeardStretchPtr heardOf(const Signal& lane, int64_t first, size_t count, double rate, double fullScaleDb,
                        StepCache& cache) {
  std::vector<double> mono(count, 0.0);
  for (size_t c = 0; c < lane.channels(); ++c) {
    const auto samples = lane.read(c, first, count);
    for (size_t i = 0; i < count; ++i) mono[i] += samples[i] / static_cast<double>(lane.channels());
  }
  const StepKey key =
      KeyMaker("heard note 3").add(rate).add(fullScaleDb).add(std::span<const double>(mono)).key();
  return cache.get<HeardStretch>(
      key,
      [&] {
        HeardStretch out{heardBands(mono, rate), 0.0, 0.0, key};
        out.phon = out.bands.phon(fullScaleDb);
        out.phonePhon = heardThere(out.bands, Place::Phone).phon(fullScaleDb);
        return out;
      },
      [](const HeardStretch& h) { return h.bands.bytes() + 64; });
}

// The same by the blocks that it reads, so that an unchanged stretch is not read again.
HeardStretchPtr heardAt(const Signal& lane, int64_t first, size_t count, double rate, double fullScaleDb,
                        StepCache& cache) {
  KeyMaker maker("heard stretch 1");
  maker.add(rate).add(fullScaleDb);
  addSpan(maker, lane, first, static_cast<int64_t>(count));
  return *cache.get<HeardStretchPtr>(
      maker.key(), [&] { return heardOf(lane, first, count, rate, fullScaleDb, cache); },
      [](const HeardStretchPtr& h) { return h->bands.bytes() + 128; });
}

// The search costs more than all else of an unchanged note.
double toLineDb(const HeardStretch& heard, double linePhon, double fullScaleDb, StepCache& cache) {
  return *cache.get<double>(
      KeyMaker("note to line 1").add(heard.key).add(linePhon).key(),
      [&] { return heard.bands.gainTo(linePhon, fullScaleDb, kMostTrimDb).value_or(0.0); },
      [](double) { return size_t{16}; });
}

}  // namespace

LineHeard lineHeard(const Session& s, const Stems& stems, StepCache& cache) {
  LineHeard out;
  const Part& bass = s.bass();
  const Signal& lane = stems.bassPlaced();
  const double fullScaleDb = s.track.listening.fullScaleDb;
  std::vector<HeardStretchPtr> all;
  std::vector<double> phons;
  const auto phrases = phrasesOf(bass, s.track);
  for (size_t k = 0; k < phrases.size(); ++k) {
    const PlacedPhrase& phrase = phrases[k];
    const auto note = noteAt(bass, s.track, phrase.startQuarters);
    if (!note || out.notes.size() >= kMostHeardPhrases) continue;
    const auto first = std::llround(phrase.startQuarters * s.track.framesPerQuarter());
    const auto heard =
        heardAt(lane, first, framesOf(phrases, k, s.track, stems), stems.sampleRate, fullScaleDb, cache);
    if (heard->phon <= 0.0) continue;
    out.notes.push_back({*note, heard->phon});
    out.notes.back().phonePhon = heard->phonePhon;
    all.push_back(heard), phons.push_back(heard->phon);
  }
  if (phons.empty()) return out;
  std::nth_element(phons.begin(), phons.begin() + static_cast<ptrdiff_t>(phons.size() / 2), phons.end());
  out.linePhon = phons[phons.size() / 2];
  for (size_t i = 0; i < out.notes.size(); ++i)
    out.notes[i].toLineDb = toLineDb(*all[i], out.linePhon, fullScaleDb, cache);
  return out;
}

}  // namespace heft
