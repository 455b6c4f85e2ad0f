#include "core/solve/peak_makers.h"

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_steps.h"
#include "core/session/edits/levels.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/values.h"
#include "core/session/pattern.h"
#include "core/shape/true_peak.h"
#include "core/solve/free_turn.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kPeaksApartSeconds = 0.05, kAboutPeakSeconds = 0.003;

// True peaks of a lane, block by block with what is about each.
std::vector<float> peaksOfLane(const Signal& lane, double rate, StepCache& cache) {
  constexpr auto kPad = static_cast<int64_t>(kTruePeakReach);
  std::vector<float> out;
  for (size_t b = 0; b < lane.blockCount(); ++b) {
    const int64_t from = static_cast<int64_t>(b * kBlockFrames) - kPad;
    const size_t count = lane.blockSize(b) + 2 * kTruePeakReach;
    KeyMaker maker("true peaks of a block 1");
    maker.add(rate);
    addSpan(maker, lane, from, static_cast<int64_t>(count));
    const auto peaks = cache.get<std::vector<float>>(
        maker.key(),
        [&] {
          AudioBuffer wider(rate, 0, 0);
          for (size_t c = 0; c < lane.channels(); ++c) wider.channels.push_back(lane.read(c, from, count));
          const auto all = truePeaks(wider, 0.0f);
          return std::vector<float>(all.begin() + kPad, all.end() - kPad);
        },
        [](const std::vector<float>& x) { return 4 * x.size() + 64; });
    out.insert(out.end(), peaks->begin(), peaks->end());
  }
  return out;
}

class Peaks {
 public:
  Peaks(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache)
      : session_(s),
        assets_(assets),
        stems_(stems),
        cache_(cache),
        loop_(peaksOfLane(stems.sum, stems.sampleRate, cache)) {}

  std::vector<size_t> worst(double leastAmplitude) const {
    const auto apart = static_cast<size_t>(kPeaksApartSeconds * stems_.sampleRate);
    std::vector<float> left = loop_;
    std::vector<size_t> out;
    while (out.size() < kMostPeaks && !left.empty()) {
      const auto at = static_cast<size_t>(std::max_element(left.begin(), left.end()) - left.begin());
      if (!(static_cast<double>(left[at]) > leastAmplitude)) break;
      out.push_back(at);
      for (size_t i = 0; i <= 2 * apart; ++i)
        left[(at + left.size() * (1 + apart / left.size()) - apart + i) % left.size()] = 0.0f;
    }
    return out;
  }
  double dbAt(size_t frame) const { return dbAbout(stems_.sum, frame); }

  // Lower by so much, where a lane is left out of the finished sum.
  double dropWithoutLane(const Signal* out, size_t frame) {
    std::vector<const Signal*> lanes;
    for (const Lane& lane : stems_.lanes)
      if (&lane.heard != out) lanes.push_back(&lane.heard);
    if (&stems_.backing != out) lanes.push_back(&stems_.backing);
    if (lanes.empty()) return 200.0;
    const Signal sum =
        chainedLane(sumOf(lanes, cache_), stems_.sumChain, stems_.hitFrames(), stems_.sampleRate, cache_);
    return dbAt(frame) - dbAbout(sum, frame);
  }

  // The sum of another session; nothing where it cannot be rendered.
  std::optional<Signal> sumIn(const Session& other, const std::stop_token& stop) const {
    const auto stems = render(other, assets_, cache_, stop);
    if (!stems || stems->frames != loop_.size()) return std::nullopt;
    return stems->sum;
  }
  // True peaks are read about that moment alone.
  double dbAbout(const Signal& sum, size_t frame) const {
    const auto about = static_cast<size_t>(kAboutPeakSeconds * stems_.sampleRate), pad = about + kTruePeakReach;
    AudioBuffer piece(stems_.sampleRate, 0, 0);
    for (size_t c = 0; c < sum.channels(); ++c)
      piece.channels.push_back(
          sum.read(c, static_cast<int64_t>(frame) - static_cast<int64_t>(pad), 2 * pad + 1));
    const auto peaks = truePeaks(piece, 0.0f);
    const auto from = peaks.begin() + static_cast<ptrdiff_t>(kTruePeakReach);
    return dbFromAmplitude(*std::max_element(from, from + static_cast<ptrdiff_t>(2 * about + 1)));
  }

 private:
  const Session& session_;
  const Assets& assets_;
  const Stems& stems_;
  StepCache& cache_;
  std::vector<float> loop_;
};

std::vector<double> sharesAt(const Stems& stems, size_t frame) {
  // On the louder side of the sum.
  const size_t c = std::abs(stems.sum.at(1, frame)) > std::abs(stems.sum.at(0, frame)) ? 1 : 0;
  const float sign = stems.sum.at(c, frame) < 0.0f ? -1.0f : 1.0f;
  std::vector<double> out;
  for (const Lane& lane : stems.lanes) out.push_back(std::max(0.0f, sign * lane.heard.at(c, frame)));
  out.push_back(std::max(0.0f, sign * stems.backing.at(c, frame)));
  double all = 0.0;
  for (const double v : out) all += v;
  for (double& v : out) v = all > 0.0 ? v / all : 0.0;
  return out;
}

// The last event of a part that starts before a moment, round the loop.
template <class Event>
std::optional<size_t> eventBefore(const std::vector<Event>& events, double quarters, double loop) {
  std::optional<size_t> out;
  double nearest = 1e18;
  for (size_t i = 0; i < events.size(); ++i) {
    const double since = std::fmod(quarters - events[i].startQuarters + 0.02 + loop, loop);
    if (since < nearest) nearest = since, out = i;
  }
  return out;
}

// All of its layers rest at that event alone; it triggers all the same.
Session restingAt(Session s, int part, size_t event) {
  Part& p = *s.part(part);
  std::vector<int> all;
  for (const Layer& l : p.layers) all.push_back(l.id);
  if (p.playsNotes())
    p.notes[event].without = all;
  else
    p.hits[event].without = all;
  return s;
}

// Softly clips the layer by a little, or starts it later: what a producer does to a kick that peaks.
std::vector<Remedy> layerMoves(const Part& p, const Layer& layer, const Session& s, const Assets& assets,
                               StepCache& cache) {
  constexpr double kClipDb = 2.0, kLaterMs = 1.0;
  std::vector<Remedy> out;
  const auto sound = SoundSteps(assets, cache, s.track.sampleRate).kickLayer(layer, s.track);
  const Owner of{.part = p.id, .layer = layer.id};
  if (sound)
    if (auto clip = clipping("Clip " + layer.title() + " 2 dB", of, layer.chain,
                             dbFromAmplitude(peakOf(sound->sound)), kClipDb))
      out.push_back(std::move(*clip));
  if (p.layers.size() > 1)
    out.push_back(
        {"Delay " + layer.title() + " 1 ms",
         {putValue("delay " + layer.title() + " by 1 ms", of, "offset_ms", layer.offsetMs + kLaterMs)}});
  return out;
}

void sortByDrop(std::vector<PeakBlame>& all) {
  std::stable_sort(all.begin(), all.end(),
                   [](const PeakBlame& a, const PeakBlame& b) { return a.dropDb > b.dropDb; });
}

// Everything out, one at a time. Kept beside a blame or a move: the peaks without it, over the whole loop.
class Blame {
 public:
  Blame(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache, std::stop_token stop)
      : s_(s),
        assets_(assets),
        stems_(stems),
        cache_(cache),
        stop_(std::move(stop)),
        peaks_(s, assets, stems, cache) {}

  Result<std::vector<MadePeak>> over(double leastAmplitude, double gainDb, double ceilingDb) {
    const auto places = peaks_.worst(leastAmplitude);
    if (places.empty()) return std::vector<MadePeak>();
    // One render for all peaks each.
    renderWithoutLayers();
    renderTurns();
    std::vector<MadePeak> out;
    for (const size_t frame : places) {
      MadePeak made;
      made.seconds = static_cast<double>(frame) / stems_.sampleRate;
      made.overDb = peaks_.dbAt(frame) + gainDb - ceilingDb;
      made.shares = sharesAt(stems_, frame);
      blameParts(made, frame), blameLayers(made, frame), blameEvents(made, frame);
      findMove(made, frame);
      if (stop_.stop_requested()) return cancelled();
      out.push_back(std::move(made));
    }
    return out;
  }

 private:
  struct Without {
    PeakBlame blame;
    Signal sum;
  };
  struct Moved {
    Remedy move;
    Signal sum;
  };

  void renderWithoutLayers() {
    for (const Part& part : s_.parts)
      for (const Layer& layer : part.layers) {
        if (part.layers.size() < 2) continue;
        Session other = s_;
        other.part(part.id)->layer(layer.id)->mute = true;
        if (auto without = peaks_.sumIn(other, stop_))
          layers_.push_back({{part.id, layer.id, {}, layer.title(), 0.0}, std::move(*without)});
      }
  }
  // Kick and bass through one all-pass: their relative phase stays.
  void renderTurns() {
    if (hasFreeTurn(s_)) return;
    const auto turn = freeTurn(PeakOf::Sum, s_, assets_, cache_, stop_);
    if (!turn || !*turn) return;
    const Remedy move = remedyOf("Rotate phase", (*turn)->edit);
    if (auto sum = peaks_.sumIn(move.applied(s_), stop_)) turns_.push_back({move, std::move(*sum)});
  }

  double drop(const Signal& sum, size_t frame) const { return peaks_.dbAt(frame) - peaks_.dbAbout(sum, frame); }

  void blameParts(MadePeak& made, size_t frame) {
    auto without = [&](std::optional<int> part, const std::string& words, const Signal& lane) {
      made.parts.push_back({part, {}, {}, words, peaks_.dropWithoutLane(&lane, frame)});
    };
    for (const Lane& lane : stems_.lanes)
      without(lane.part, s_.part(lane.part) ? s_.part(lane.part)->title() : "", lane.heard);
    without({}, "Backing", stems_.backing);
    sortByDrop(made.parts);
  }

  void blameLayers(MadePeak& made, size_t frame) const {
    for (const Without& layer : layers_) {
      made.layers.push_back(layer.blame);
      made.layers.back().dropDb = drop(layer.sum, frame);
    }
    sortByDrop(made.layers);
  }

  void blameEvents(MadePeak& made, size_t frame) {
    const double quarters = static_cast<double>(frame) / s_.track.framesPerQuarter(),
                 loop = s_.track.loopQuarters();
    for (const Part& part : s_.parts) {
      const auto event = part.playsNotes() ? eventBefore(part.notes.items(), quarters, loop)
                                           : eventBefore(part.hits.items(), quarters, loop);
      if (!event) continue;
      const auto without = peaks_.sumIn(restingAt(s_, part.id, *event), stop_);
      if (!without) continue;
      const double start =
          part.playsNotes() ? part.notes[*event].startQuarters : part.hits[*event].startQuarters;
      const std::string what = part.playsNotes() ? noteName(part.notes[*event].midi, s_.track.notes)
                                                 : "hit " + std::to_string(*event + 1);
      made.events.push_back(
          {part.id, {}, event, what + " at " + positionName(s_.track, start), drop(*without, frame)});
    }
    sortByDrop(made.events);
  }

  // The layer of a hit part that is blamed the most, or its only one.
  std::vector<Remedy> movesFor(const MadePeak& made) const {
    constexpr double kLowerDb = -1.5;
    const PeakBlame& most = made.parts.front();
    const Part* p = most.part ? s_.part(*most.part) : nullptr;
    std::vector<Remedy> out;
    if (p && !p->playsNotes()) {
      const auto of = std::find_if(made.layers.begin(), made.layers.end(),
                                   [&](const PeakBlame& l) { return l.part == p->id; });
      const Layer* layer = of != made.layers.end() && of->layer ? p->layer(*of->layer) : p->firstLayer();
      if (layer) out = layerMoves(*p, *layer, s_, assets_, cache_);
    }
    const LaneLevels lower = laneBy(s_, most.part, kLowerDb);
    if (!lower.isNone())
      out.push_back(
          {"Lower " + (p ? partWord(*p) : std::string("backing")) + " " + plainDb(-kLowerDb), {}, lower});
    return out;
  }

  void findMove(MadePeak& made, size_t frame) {
    constexpr double kWorthDb = 0.2;
    auto take = [&](const Remedy& move, double wins) {
      if (wins > std::max(kWorthDb, made.winsDb)) made.winsDb = wins, made.move = move;
    };
    for (const Moved& turn : turns_) take(turn.move, drop(turn.sum, frame));
    for (const Remedy& move : movesFor(made))
      if (const auto after = peaks_.sumIn(move.applied(s_), stop_)) take(move, drop(*after, frame));
  }

  const Session& s_;
  const Assets& assets_;
  const Stems& stems_;
  StepCache& cache_;
  std::stop_token stop_;
  Peaks peaks_;
  std::vector<Without> layers_;
  std::vector<Moved> turns_;
};

}  // namespace

Result<std::vector<MadePeak>> peakMakers(const Session& s, const Assets& assets, const Stems& stems,
                                         double gainDb, double ceilingDb, StepCache& cache,
                                         const std::stop_token& stop) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop, [&](StepCache& mine) {
      return peakMakers(s, assets, stems, gainDb, ceilingDb, mine, stop);
    });
  return Blame(s, assets, stems, cache, stop).over(amplitudeFromDb(ceilingDb - gainDb), gainDb, ceilingDb);
}

}  // namespace heft
