#include "core/ledger/peak_makers.h"

#include <algorithm>
#include <cmath>

#include "core/render/lane_chain.h"
#include "core/render/lane_steps.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/levels.h"
#include "core/session/edits/values.h"
#include "core/shape/true_peak.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kApartSeconds = 0.05, kAboutSeconds = 0.003;

// True peaks of a loop, which wraps.
std::vector<float> peaksOfLoop(const AudioBuffer& loop) {
  const size_t pad = std::min(loop.frames(), kTruePeakReach);
  AudioBuffer wider(loop.sampleRate, 0, 0);
  for (const auto& channel : loop.channels) {
    auto& out = wider.channels.emplace_back(channel.end() - static_cast<ptrdiff_t>(pad), channel.end());
    out.insert(out.end(), channel.begin(), channel.end());
    out.insert(out.end(), channel.begin(), channel.begin() + static_cast<ptrdiff_t>(pad));
  }
  const auto peaks = truePeaks(wider, 0.0f);
  return {peaks.begin() + static_cast<ptrdiff_t>(pad), peaks.end() - static_cast<ptrdiff_t>(pad)};
}

class Peaks {
 public:
  Peaks(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache)
      : session_(s),
        assets_(assets),
        stems_(stems),
        cache_(cache),
        loop_(peaksOfLoop(stems.sum.toBuffer(stems.sampleRate))) {}

  std::vector<size_t> worst(double leastAmplitude) const {
    const auto apart = static_cast<size_t>(kApartSeconds * stems_.sampleRate);
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
  double dbAt(size_t frame) const { return dbAbout(loop_, frame); }

  // Lower by so much, where a lane is left out of the finished sum.
  double dropWithoutLane(const Stem* out, size_t frame) {
    std::vector<const Stem*> lanes;
    for (const Lane& lane : stems_.lanes)
      if (&lane.heard != out) lanes.push_back(&lane.heard);
    if (&stems_.backing != out) lanes.push_back(&stems_.backing);
    if (lanes.empty()) return 200.0;
    const Stem sum =
        chainedLane(sumOf(lanes, cache_), stems_.sumChain, stems_.hitFrames(), stems_.sampleRate, cache_);
    return dbAt(frame) - dbAbout(peaksOfLoop(sum.toBuffer(stems_.sampleRate)), frame);
  }

  // In another session; nothing where it cannot be rendered.
  std::optional<std::vector<float>> peaksIn(const Session& other, const std::stop_token& stop) const {
    const auto stems = render(other, assets_, cache_, stop);
    if (!stems || stems->frames != loop_.size()) return std::nullopt;
    return peaksOfLoop(stems->sum.toBuffer(stems->sampleRate));
  }
  double dbAbout(const std::vector<float>& peaks, size_t frame) const {
    const auto reach = static_cast<ptrdiff_t>(kAboutSeconds * stems_.sampleRate), n = std::ssize(peaks);
    float most = 0.0f;
    for (ptrdiff_t i = -reach; i <= reach; ++i)
      most = std::max(most, peaks[static_cast<size_t>(((static_cast<ptrdiff_t>(frame) + i) % n + n) % n)]);
    return dbFromAmplitude(most);
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

std::string positionWords(const Track& track, double quarters) {
  const double beats = quarters * track.beatUnit / 4.0;
  const int beat = static_cast<int>(beats + 1e-6),
            step = static_cast<int>((beats - beat) * 16.0 / track.beatUnit + 1e-6);
  return std::to_string(beat / track.beatsPerBar + 1) + "." + std::to_string(beat % track.beatsPerBar + 1) +
         "." + std::to_string(step + 1);
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

std::vector<Remedy> movesFor(const Session& s, const Assets& assets, const PeakBlame& part,
                             const std::vector<PeakBlame>& layers, StepCache& cache) {
  constexpr double kClipDb = 2.0, kLowerDb = -1.5, kLaterMs = 1.0;
  std::vector<Remedy> out;
  const Part* p = part.part ? s.part(*part.part) : nullptr;
  if (p && !p->playsNotes()) {
    const auto of =
        std::find_if(layers.begin(), layers.end(), [&](const PeakBlame& l) { return l.part == p->id; });
    const Layer* layer = of != layers.end() && of->layer ? p->layer(*of->layer) : p->firstLayer();
    const auto sound =
        layer ? SoundSteps(assets, cache, s.track.sampleRate).kickLayer(*layer, s.track) : nullptr;
    if (sound && layer->chain.list.size() < kMostProcessors) {
      Processor clip;
      const double ceiling = std::clamp(dbFromAmplitude(peakOf(sound->sound)) - kClipDb, -24.0, 0.0);
      clip.what = SoftClip{.on = true, .kneeDb = 3.0, .ceilingDb = ceiling};
      const auto last =
          layer->chain.list.empty() ? std::optional<int>() : std::optional(layer->chain.list.back().id);
      Remedy r;
      r.label = "Clip " + partWord(*p) + " 2 dB";
      r.moves = {addProcessor({.part = p->id, .layer = layer->id}, clip, last)};
      out.push_back(r);
      Remedy later;
      later.label = "Delay " + partWord(*p) + " 1 ms";
      later.moves = {putValue("delay " + layer->title() + " by 1 ms", {.part = p->id, .layer = layer->id},
                              "offset_ms", layer->offsetMs + kLaterMs)};
      if (p->layers.size() > 1) out.push_back(later);
    }
  }
  const LaneLevels lower = laneBy(s, part.part, kLowerDb);
  if (!lower.isNone())
    out.push_back({"Lower " + (p ? partWord(*p) : std::string("backing")) + " 1.5 dB", {}, lower});
  return out;
}

void sortByDrop(std::vector<PeakBlame>& all) {
  std::stable_sort(all.begin(), all.end(),
                   [](const PeakBlame& a, const PeakBlame& b) { return a.dropDb > b.dropDb; });
}

}  // namespace

Result<std::vector<MadePeak>> peakMakers(const Session& s, const Assets& assets, const Stems& stems,
                                         double gainDb, double ceilingDb, StepCache& cache,
                                         const std::stop_token& stop) {
  constexpr double kWorthDb = 0.2;
  Peaks peaks(s, assets, stems, cache);
  std::vector<MadePeak> out;
  const auto places = peaks.worst(amplitudeFromDb(ceilingDb - gainDb));
  // Layers rest everywhere: one render for all peaks.
  struct LayerOut {
    PeakBlame blame;
    std::vector<float> peaks;
  };
  std::vector<LayerOut> layersOut;
  for (const Part& part : s.parts)
    for (const Layer& layer : part.layers) {
      if (part.layers.size() < 2 || places.empty()) continue;
      Session other = s;
      other.part(part.id)->layer(layer.id)->mute = true;
      if (auto without = peaks.peaksIn(other, stop))
        layersOut.push_back({{part.id, layer.id, {}, layer.title(), 0.0}, std::move(*without)});
      if (stop.stop_requested()) return cancelled();
    }
  const double perQuarter = s.track.framesPerQuarter(), loop = s.track.loopQuarters();
  for (const size_t frame : places) {
    MadePeak made;
    made.seconds = static_cast<double>(frame) / stems.sampleRate;
    made.overDb = peaks.dbAt(frame) + gainDb - ceilingDb;
    made.shares = sharesAt(stems, frame);
    for (const Lane& lane : stems.lanes)
      made.parts.push_back({lane.part,
                            {},
                            {},
                            s.part(lane.part) ? s.part(lane.part)->title() : "",
                            peaks.dropWithoutLane(&lane.heard, frame)});
    made.parts.push_back({{}, {}, {}, "Backing", peaks.dropWithoutLane(&stems.backing, frame)});
    for (const LayerOut& layer : layersOut) {
      made.layers.push_back(layer.blame);
      made.layers.back().dropDb = peaks.dbAt(frame) - peaks.dbAbout(layer.peaks, frame);
    }
    const double quarters = static_cast<double>(frame) / perQuarter;
    for (const Part& part : s.parts) {
      const auto event =
          part.playsNotes() ? eventBefore(part.notes, quarters, loop) : eventBefore(part.hits, quarters, loop);
      if (!event) continue;
      const auto without = peaks.peaksIn(restingAt(s, part.id, *event), stop);
      if (stop.stop_requested()) return cancelled();
      if (!without) continue;
      const double start =
          part.playsNotes() ? part.notes[*event].startQuarters : part.hits[*event].startQuarters;
      const std::string what = part.playsNotes() ? noteName(part.notes[*event].midi, s.track.notes)
                                                 : "hit " + std::to_string(*event + 1);
      made.events.push_back({part.id,
                             {},
                             event,
                             what + " at " + positionWords(s.track, start),
                             peaks.dbAt(frame) - peaks.dbAbout(*without, frame)});
    }
    sortByDrop(made.parts), sortByDrop(made.layers), sortByDrop(made.events);
    for (const Remedy& move : movesFor(s, assets, made.parts.front(), made.layers, cache)) {
      const auto after = peaks.peaksIn(move.applied(s), stop);
      if (stop.stop_requested()) return cancelled();
      const double wins = after ? peaks.dbAt(frame) - peaks.dbAbout(*after, frame) : 0.0;
      if (wins > std::max(kWorthDb, made.winsDb)) made.winsDb = wins, made.move = move;
    }
    out.push_back(std::move(made));
  }
  return out;
}

}  // namespace heft
