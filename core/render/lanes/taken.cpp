#include "core/render/lanes/taken.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/crossings.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/place.h"
#include "core/render/sounds/layer_sum.h"
#include "core/render/sounds/phrases.h"

namespace heft {
namespace {

constexpr size_t kStep = LoopLine::kStepFrames;

bool takes(const ReadyChain::One& one) {
  const Processor& p = one.processor;
  return p.as<Compressor>() || p.as<SoftClip>() || p.as<Limiter>();
}

bool takes(const ReadyChain& chain) {
  return std::any_of(chain.all.begin(), chain.all.end(), [](const auto& one) { return takes(one); });
}

std::vector<float> takenFrom(const AudioBuffer& sound, const Processor& p) {
  double reduction = 0.0;
  LimiterState state;
  if (const auto* c = p.as<Compressor>()) return takenDb(sound, *c, reduction);
  if (const auto* l = p.as<Limiter>()) return takenDb(sound, 0, sound.frames(), *l, state);
  return takenDb(sound, *p.as<SoftClip>());
}

// The maximum of each step, `later` frames on, added to the sum so far.
void addSteps(std::vector<float>& to, const std::vector<float>& db, size_t later) {
  if (db.empty()) return;
  to.resize(std::max(to.size(), (later + db.size() - 1) / kStep + 1), 0.0f);
  for (size_t i = 0; i < db.size();) {
    const size_t step = (later + i) / kStep, end = std::min(db.size(), (step + 1) * kStep - later);
    to[step] +=
        *std::max_element(db.begin() + static_cast<ptrdiff_t>(i), db.begin() + static_cast<ptrdiff_t>(end));
    i = end;
  }
}

// One event's line, and the frame at which it begins.
struct Event {
  std::shared_ptr<const std::vector<float>> steps;
  int64_t start = 0;
};

// For a chain on a single sound with its strike at `onsetSeconds`; the first frame behind the chain follows
// from the strike.
Event takenBySound(const Keyed& sound, const ReadyChain& chain, double onsetSeconds, int64_t strikesAt,
                   StepCache& cache) {
  KeyMaker key("taken by a sound 1");
  key.add(sound.key).add(onsetSeconds);
  addChain(key, chain);
  const size_t lead = leadFrames(chain);
  auto line = cache.get<std::vector<float>>(
      key.key(),
      [&] {
        std::vector<float> out;
        AudioBuffer x = *sound.sound;
        double onset = onsetSeconds;
        size_t ahead = 0;
        for (const auto& one : chain.all) {
          if (takes(one)) addSteps(out, takenFrom(x, one.processor), lead - ahead);
          const ReadyChain alone{{one}};
          onset = applyChain(x, alone, onset);
          ahead += leadFrames(alone);
        }
        return out;
      },
      [](const auto& v) { return 4 * v.size() + 64; });
  const auto onset = std::llround(onsetSeconds * sound.sound->sampleRate) + static_cast<int64_t>(lead);
  return {std::move(line), strikesAt - onset};
}

// Into the loop, up to the next event: the maximum of overlapping sounds.
void place(std::vector<float>& line, const Event& event, int64_t end, size_t frames) {
  for (size_t i = 0; i < event.steps->size(); ++i) {
    const int64_t at = event.start + static_cast<int64_t>(i * kStep);
    if (at >= end) return;
    const auto loop = static_cast<int64_t>(frames);
    const auto step = static_cast<size_t>(((at % loop) + loop) % loop) / kStep;
    line[step] = std::max(line[step], (*event.steps)[i]);
  }
}

struct Lines {
  const Session& s;
  const Part& part;
  const SoundSteps& steps;
  StepCache& cache;
  size_t frames = s.track.loopFrames();
  double rate = s.track.sampleRate;
  ReadyChain finish = part.finishOver == FinishOver::Hits ? steps.ready(part.finish) : ReadyChain();
  std::vector<float> ofLayers = std::vector<float>((frames + kStep - 1) / kStep, 0.0f), ofFinish = ofLayers;

  int64_t frameOf(double quarters) const { return std::llround(quarters * s.track.framesPerQuarter()); }
  static Layer bare(Layer layer) {
    layer.chain = {};
    return layer;
  }
  Part unfinished() const {
    Part out = part;
    out.finish = {}, out.contour.on = false;
    return out;
  }
  int64_t offsetOf(const Layer& layer) const { return std::llround(layer.offsetMs / 1000.0 * rate); }

  void addHit(const Hit& hit, int64_t at, int64_t next) {
    for (const Layer* layer : layersAt(part.layers, hit.without)) {
      const ReadyChain chain = steps.ready(layer->chain);
      if (!takes(chain)) continue;
      StepKey key;
      const auto ready = steps.kickLayer(bare(*layer), s.track, hit.velocity, &key);
      if (!ready || ready->sound.frames() == 0) continue;
      const Keyed sound{std::shared_ptr<const AudioBuffer>(ready, &ready->sound), key};
      place(ofLayers, takenBySound(sound, chain, ready->onsetSeconds, at + offsetOf(*layer), cache), next,
            frames);
    }
    if (!takes(finish)) return;
    const HitSound whole = steps.kickHit(unfinished(), s.track, {hit.velocity, hit.without});
    if (!whole.ready || whole.ready->sound.frames() == 0) return;
    const Keyed sound{std::shared_ptr<const AudioBuffer>(whole.ready, &whole.ready->sound), whole.key};
    place(ofFinish, takenBySound(sound, finish, whole.ready->onsetSeconds, at, cache), next, frames);
  }

  void addPhrase(PhraseAsk ask, int64_t at, int64_t next) {
    // Measured before a note is cut, for as long as a contour lets it ring.
    constexpr double kCutSeconds = 0.02;
    ask.ringsSeconds = std::max(kCutSeconds, contourRings(part, s.track, ask));
    for (const Layer* layer : layersAt(part.layers, ask.without)) {
      const ReadyChain chain = steps.ready(layer->chain);
      const Keyed sound = takes(chain) ? steps.bassLayer(bare(*layer), s.track, ask) : Keyed{};
      if (!sound.sound || sound.sound->frames() == 0) continue;
      place(ofLayers, takenBySound(sound, chain, 0.0, at + offsetOf(*layer), cache), next, frames);
    }
    const Keyed sound = takes(finish) ? steps.bassPhrase(unfinished(), s.track, ask) : Keyed{};
    if (!sound.sound || sound.sound->frames() == 0) return;
    place(ofFinish, takenBySound(sound, finish, sound.leadSeconds(), at, cache), next, frames);
  }

  // `starts`: of all events, quarters; each ends where the next begins, the last one with the first.
  template <class Add>
  void addAll(const std::vector<double>& starts, const std::stop_token& stop, Add add) {
    for (size_t i = 0; i < starts.size() && !stop.stop_requested(); ++i)
      add(i, frameOf(starts[i]),
          i + 1 < starts.size() ? frameOf(starts[i + 1]) : frameOf(starts[0]) + static_cast<int64_t>(frames));
  }
};

void movedLater(std::vector<float>& line, double frames) {
  const auto n = static_cast<int64_t>(line.size());
  const int64_t by = std::llround(frames / kStep);
  if (n > 0) std::rotate(line.begin(), line.begin() + (((-by) % n) + n) % n, line.end());
}

}  // namespace

float LoopLine::highest(int64_t first, size_t count) const {
  if (steps.empty() || frames == 0 || count == 0) return 0.0f;
  const auto loop = static_cast<int64_t>(frames);
  float out = 0.0f;
  const auto whole = static_cast<int64_t>(std::min(count, frames));
  for (int64_t at = first; at < first + whole + static_cast<int64_t>(kStep); at += kStep) {
    const int64_t frame = std::min(at, first + whole - 1);
    out = std::max(out, steps[static_cast<size_t>(((frame % loop) + loop) % loop) / kStep]);
  }
  return out;
}

LoopLine takenOver(const Signal& x, const ReadyChain& chain, const std::vector<double>& strikes, double rate,
                   StepCache& cache) {
  LoopLine out{x.frames(), {}};
  if (!takes(chain) || x.frames() == 0) return out;
  Signal now = x;
  for (const auto& one : chain.all) {
    if (const auto taken = takenFromLane(now, one.processor, rate, cache))
      for (size_t b = 0; b < taken->blockCount(); ++b)
        addSteps(out.steps, taken->channel(b, 0), b * kBlockFrames);
    now = chainedLane(now, {{one}}, strikes, rate, cache);
  }
  return out;
}

LoopLine takenOf(const Session& s, const Part& part, const SoundSteps& steps, StepCache& cache,
                 const std::stop_token& stop) {
  Lines lines{s, part, steps, cache};
  const bool overLane = part.finishOver == FinishOver::Lane && part.finish.works();
  const ReadyChain lane = overLane ? steps.ready(part.finish) : ReadyChain();
  const bool any = takes(lines.finish) || takes(lane) ||
                   std::any_of(part.layers.begin(), part.layers.end(),
                               [&](const Layer& l) { return takes(steps.ready(l.chain)); });
  LoopLine out{lines.frames, {}};
  if (!any || lines.frames == 0) return out;
  std::vector<double> starts;
  if (part.playsNotes()) {
    const auto phrases = phrasesOf(part, s.track);
    for (const auto& p : phrases) starts.push_back(p.startQuarters);
    lines.addAll(starts, stop,
                 [&](size_t i, int64_t at, int64_t next) { lines.addPhrase(phrases[i].ask, at, next); });
  } else {
    const auto hits = hitsInLoop(part, s.track);
    for (const Hit& h : hits) starts.push_back(h.startQuarters);
    lines.addAll(starts, stop, [&](size_t i, int64_t at, int64_t next) { lines.addHit(hits[i], at, next); });
  }
  if (takes(lane)) {
    const Signal placed = placedLane(s, part, steps, cache, stop, fadesOf(s, part));
    if (stop.stop_requested()) return out;
    lines.ofFinish = takenOver(placed, lane, eventFrames(part, s.track), lines.rate, cache).steps;
  }
  out.steps = std::move(lines.ofLayers);
  for (size_t i = 0; i < std::min(out.steps.size(), lines.ofFinish.size()); ++i)
    out.steps[i] += lines.ofFinish[i];
  movedLater(out.steps, part.align.delayMs / 1000.0 * lines.rate);
  return out;
}

}  // namespace heft
