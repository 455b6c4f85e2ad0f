#include "core/study/line_heard.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/listening_places.h"
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

}  // namespace

LineHeard lineHeard(const Session& s, const Stems& stems, StepCache& cache) {
  LineHeard out;
  const Part& bass = s.bass();
  const Signal& lane = stems.bassPlaced();
  std::vector<std::shared_ptr<const HeardBands>> bands;
  std::vector<double> phons;
  const auto phrases = phrasesOf(bass, s.track);
  for (size_t k = 0; k < phrases.size(); ++k) {
    const PlacedPhrase& phrase = phrases[k];
    const auto note = noteAt(bass, s.track, phrase.startQuarters);
    if (!note || out.notes.size() >= kMostHeardPhrases) continue;
    const auto first = std::llround(phrase.startQuarters * s.track.framesPerQuarter());
    const size_t count = framesOf(phrases, k, s.track, stems);
    std::vector<double> mono(count, 0.0);
    for (size_t c = 0; c < lane.channels(); ++c) {
      const auto samples = lane.read(c, first, count);
      for (size_t i = 0; i < count; ++i) mono[i] += samples[i] / static_cast<double>(lane.channels());
    }
    KeyMaker maker("heard note 2");
    maker.add(stems.sampleRate)
        .add(std::string(reinterpret_cast<const char*>(mono.data()), mono.size() * sizeof(double)));
    const auto heard = cache.get<HeardBands>(
        maker.key(), [&] { return heardBands(mono, stems.sampleRate); },
        [](const HeardBands& b) { return b.bytes(); });
    const double phon = heard->phon(s.track.listening.fullScaleDb);
    if (phon <= 0.0) continue;
    out.notes.push_back({*note, phon});
    out.notes.back().phonePhon = heardThere(*heard, Place::Phone).phon(s.track.listening.fullScaleDb);
    bands.push_back(heard), phons.push_back(phon);
  }
  if (phons.empty()) return out;
  std::nth_element(phons.begin(), phons.begin() + static_cast<ptrdiff_t>(phons.size() / 2), phons.end());
  out.linePhon = phons[phons.size() / 2];
  for (size_t i = 0; i < out.notes.size(); ++i)
    out.notes[i].toLineDb =
        bands[i]->gainTo(out.linePhon, s.track.listening.fullScaleDb, kMostTrimDb).value_or(0.0);
  return out;
}

}  // namespace heft
