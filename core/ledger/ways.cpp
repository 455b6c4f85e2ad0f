#include "core/ledger/ways.h"

#include <algorithm>
#include <cmath>

#include "core/ledger/study_hits.h"
#include "core/render/figure_steps.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kStepDb = 0.5, kCrossoverHz = 120.0, kBellOctaves = 1.0;

Edit leaveOutPairDucking() {
  return {"", [](Session& s) {
            for (Duck& d : s.ducks)
              if (s.isOfPair(d)) d.on = false;
          }};
}

Session withoutPairDucking(const Session& session) {
  return leaveOutPairDucking().applied(session);
}

// The session, its kick's sound and what a copy of it comes to.
class RoomSolver {
 public:
  RoomSolver(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop)
      : had_(session),
        session_(withoutPairDucking(session)),
        assets_(assets),
        cache_(cache),
        stop_(std::move(stop)) {}

  struct Tried {
    Stems stems;
    RoomFacts room;
  };
  Result<Tried> tried(const Session& s) const {
    auto stems = render(s, assets_, cache_, stop_);
    if (!stems) return Fail(stems.error());
    auto room = measureRoom(s, assets_, *stems, cache_, atHit_);
    if (!room) return badUsage("there is no kick with a hit to make room for");
    return Tried{std::move(*stems), std::move(*room)};
  }
  std::optional<double> worst(const Session& s) const {
    const auto t = tried(s);
    return t ? std::optional(t->room.worstDb()) : std::nullopt;
  }

  Result<void> begin() {
    auto now = tried(session_);
    if (!now) return Fail(now.error());
    if (now->room.worstDb() <= RoomFacts::kNothing)
      return badUsage("there is no bass under any kick: nothing is in its way");
    if (now->room.worstDb() <= goalDb())
      return badUsage("the bass leaves room at every kick without being ducked by its hits: " +
                      formatNumber(now->room.worstDb(), 1) + " dB to the kick where it is worst, " +
                      formatNumber(goalDb(), 0) + " dB are wanted");
    before_ = now->room;
    const auto& each = before_.bassToKickDb;
    atHit_ = static_cast<size_t>(std::max_element(each.begin(), each.end()) - each.begin());
    now_ = std::move(now->stems);
    return {};
  }

  // With what it costs; nothing where it was called off.
  std::optional<RoomWay> judged(WayKind kind, const std::string& name, Edit edit, WayCost cost = {}) const {
    const auto t = tried(edit.applied(session_));
    if (!t) return std::nullopt;
    // What was ducked until now is no part of it.
    const bool ducked = had_ != session_;
    RoomWay out{kind, name, ducked ? allOf("", {leaveOutPairDucking(), std::move(edit)}) : std::move(edit)};
    out.edit.name = "make room: " + name;
    out.worstDb = t->room.worstDb(), out.reaches = out.worstDb <= goalDb();
    out.kickLevel = t->room.kickLevel, out.bassLevel = t->room.bassLevel;
    out.cost = costBetween(now_, t->stems, cache_);
    out.cost.shiftSemitones = cost.shiftSemitones, out.cost.shorterMs = cost.shorterMs;
    return out;
  }

  double goalDb() const { return Limits().overlapHolds; }
  const RoomFacts& before() const { return before_; }
  const Session& session() const { return session_; }
  bool stopped() const { return stop_.stop_requested(); }
  std::shared_ptr<const SoundFacts> kick(const Session& s) const {
    return SoundSteps(assets_, cache_, s.track.sampleRate).kickFacts(s.kick(), s.track);
  }

  // The least of `low` to `high` that reaches the goal, where more reaches further; nothing where none does.
  std::optional<double> least(double low, double high, const std::function<Edit(double)>& by) const {
    const auto most = worst(by(high).applied(session_));
    if (!most || *most > goalDb()) return std::nullopt;
    while (high - low > kStepDb && !stopped()) {
      const double middle = 0.5 * (low + high);
      const auto at = worst(by(middle).applied(session_));
      if (!at) return std::nullopt;
      (*at <= goalDb() ? high : low) = middle;
    }
    return std::ceil(high / kStepDb - 1e-9) * kStepDb;
  }

 private:
  const Session& had_;
  const Session session_;  ///< without the pair's ducking: each way stands for itself
  const Assets& assets_;
  StepCache& cache_;
  std::stop_token stop_;
  RoomFacts before_;
  std::optional<size_t> atHit_;
  Stems now_;
};

std::optional<double> lufsOf(const Stem& lane, double rate, StepCache& cache) {
  const auto facts = laneProgramme(lane, rate, cache);
  return facts ? facts->integratedLufs : std::nullopt;
}

using Found = std::optional<RoomWay>;

bool isRecorded(const Part& part) {
  return std::any_of(part.layers.begin(), part.layers.end(),
                     [](const Layer& l) { return l.recorded() && !l.mute; });
}

Edit shiftBass(const Session& s, int semitones) {
  return onPart("", s.bass().id, [semitones](Part& p) {
    for (Note& n : p.notes) n.midi = std::clamp(n.midi + semitones, 0, 127);
  });
}

// Bass or kick an octave away: the one that reaches with the least, else the one that comes nearest.
Found octaveWay(const RoomSolver& solver) {
  const Session& s = solver.session();
  Found best;
  auto take = [&](Found way) {
    if (way && (!best || std::pair(!way->reaches, way->worstDb) < std::pair(!best->reaches, best->worstDb)))
      best = std::move(way);
  };
  for (const int by : {12, -12}) {
    WayCost cost;
    if (isRecorded(s.bass())) cost.shiftSemitones = 12.0;
    take(solver.judged(WayKind::Octave, std::string("bass an octave ") + (by > 0 ? "up" : "down"),
                       shiftBass(s, by), cost));
    const auto kick = solver.kick(s);
    if (!kick || !kick->landing.noteHz()) continue;
    const double from = midiFromHz(*kick->landing.noteHz(), s.track.notes.a4Hz);
    const int to = static_cast<int>(std::lround(from)) + by;
    if (to < 12 || to > 80) continue;
    WayCost kickCost;
    if (isRecorded(s.kick())) kickCost.shiftSemitones = 12.0;
    take(solver.judged(WayKind::Octave, std::string("kick an octave ") + (by > 0 ? "up" : "down"),
                       tunePart(s.kick(), from, to, s.track.notes), kickCost));
  }
  return best;
}

Found shorterWay(const RoomSolver& solver) {
  const Session& s = solver.session();
  const auto kick = solver.kick(s);
  if (!kick) return std::nullopt;
  Found best;
  for (const auto& length : {TimeValue::note(1, 8), TimeValue::note(3, 32), TimeValue::note(1, 16),
                             TimeValue::note(3, 64), TimeValue::note(1, 32)}) {
    const double ms = length.toMs(s.track.tempoBpm);
    if (ms >= kick->tailMs || ms < 40.0) continue;
    Found way = solver.judged(WayKind::Shorter, "kick trimmed to " + length.text(), trimPart(s.kick(), length),
                              {.shorterMs = kick->tailMs - ms});
    if (way && way->reaches) return way;
    if (way && (!best || way->worstDb < best->worstDb)) best = std::move(way);
  }
  return best;
}

Found alignWay(const RoomSolver& solver, const Assets& assets, StepCache& cache) {
  const Session& s = solver.session();
  const auto stems = render(s, assets, cache);
  const auto pair = stems ? studyPair(s, assets, *stems, cache) : Result<Study>(Fail(stems.error()));
  if (!pair || !pair->best.overlap) return std::nullopt;
  return solver.judged(
      WayKind::Align,
      "lined up: " + formatNumber(pair->best.delayMs, 1) + " ms" + (pair->best.invert ? ", inverted" : ""),
      alignBy(s.bass(), pair->best));
}

std::string duckWay(WayKind kind, double by, double bellMidi, const NoteStyle& style) {
  const std::string depth = formatNumber(by, 1) + " dB";
  switch (kind) {
    case WayKind::Bell:
      return "a bell at " + pitchText(bellMidi, style) + ", " + depth + " deep";
    case WayKind::LowBand:
      return "below " + formatNumber(kCrossoverHz, 0) + " Hz by " + depth;
    case WayKind::Mirror:
      return "a mirror within " + depth;
    default:
      return "all of the bass by " + depth;
  }
}

Found duckingWay(const RoomSolver& solver, WayKind kind) {
  const Session& s = solver.session();
  const auto kick = solver.kick(s);
  const auto note = kick ? kick->landing.noteHz() : std::nullopt;
  if (kind == WayKind::Bell && !note) return std::nullopt;
  const double midi = note ? midiFromHz(*note, s.track.notes.a4Hz) : lowTonic(s.track.key);
  // A mirror takes more the less both may add up to.
  constexpr double kWidest = 6.0;
  const bool mirror = kind == WayKind::Mirror;
  auto by = [&](double depth) { return makeRoomBy(s, kind, mirror ? kWidest - depth : depth, midi); };
  const double most = mirror ? kWidest : kDeepestWayDb;
  const double depth = solver.least(0.0, most, by).value_or(most);
  return solver.judged(kind, duckWay(kind, mirror ? kWidest - depth : depth, midi, s.track.notes), by(depth));
}

// What helps most without a ducking and the best ducking: the one whole, the other as far as it then takes.
Found togetherWay(const RoomSolver& solver, const std::vector<RoomWay>& ways) {
  const RoomWay *still = nullptr, *duck = nullptr;
  auto isBetterDuck = [&](const RoomWay& way) {
    return !duck || std::pair(!way.reaches, way.cost.sum()) < std::pair(!duck->reaches, duck->cost.sum());
  };
  for (const RoomWay& way : ways) {
    const bool ducks = way.kind == WayKind::Bell || way.kind == WayKind::LowBand || way.kind == WayKind::Full;
    if (ducks && isBetterDuck(way)) duck = &way;
    if (!ducks && way.kind != WayKind::Mirror && (!still || way.worstDb < still->worstDb)) still = &way;
  }
  if (!still || !duck) return std::nullopt;
  const Session base = still->edit.applied(solver.session());
  const auto kick = solver.kick(base);
  const auto note = kick ? kick->landing.noteHz() : std::nullopt;
  if (duck->kind == WayKind::Bell && !note) return std::nullopt;
  const double midi = note ? midiFromHz(*note, base.track.notes.a4Hz) : lowTonic(base.track.key);
  auto both = [&](double depth) {
    return allOf("", {still->edit, makeRoomBy(solver.session(), duck->kind, depth, midi)});
  };
  const double depth = solver.least(0.0, kDeepestWayDb, both).value_or(kDeepestWayDb);
  return solver.judged(WayKind::Together,
                       still->name + " and " + duckWay(duck->kind, depth, midi, base.track.notes), both(depth),
                       {.shiftSemitones = still->cost.shiftSemitones, .shorterMs = still->cost.shorterMs});
}

}  // namespace

WayCost costBetween(const Stems& before, const Stems& after, StepCache& cache) {
  WayCost out;
  const double rate = after.sampleRate;
  const auto had = lufsOf(before.bass(), rate, cache), has = lufsOf(after.bass(), rate, cache);
  if (had && has) out.loudnessLostDb = *had - *has;
  std::vector<Trigger> hits;
  for (const double f : after.hitFrames()) hits.push_back({f});
  const auto dip = measureDip(after.gain().wrapped(0, 0, after.frames), hits, rate, true);
  for (const TriggerFacts& f : dip.each) out.under3DbMs += f.under3DbMs / static_cast<double>(dip.each.size());
  const auto was = laneProgramme(before.sum, rate, cache), sum = laneProgramme(after.sum, rate, cache);
  if (sum && was) out.peakDb = sum->truePeakDbtp - was->truePeakDbtp;
  return out;
}

double WayCost::sum() const {
  return std::max(0.0, loudnessLostDb) + under3DbMs / 100.0 + 0.5 * shiftSemitones + shorterMs / 100.0 +
         std::max(0.0, peakDb);
}

Edit makeRoomBy(const Session& session, WayKind kind, double by, double bellMidi) {
  return {"make room", [fresh = freshDuckId(session), kind, by, bellMidi](Session& s) {
            if (!s.isOfPair(s.duck())) {
              if (s.ducks.size() >= kMostDucks) return;
              Duck added;
              added.id = fresh, added.source.part = s.kick().id, added.target.part = s.bass().id;
              s.ducks.insert(s.ducks.begin(), added);
            }
            Duck& d = s.duck();
            const Duck plain;
            d.on = true, d.amount = 1.0, d.curve = plain.curve, d.band = plain.band;
            d.movement = kind == WayKind::Mirror ? Movement::Mirror : Movement::Curve;
            d.curve.depthDb = by, d.curve.lasts = CurveLasts::AsSource;
            if (kind == WayKind::Mirror) d.mirror = plain.mirror, d.mirror.withinDb = by;
            if (kind == WayKind::LowBand) d.band.kind = DuckBandKind::Below, d.band.belowHz = kCrossoverHz;
            if (kind == WayKind::Bell)
              d.band.kind = DuckBandKind::Bell, d.band.at = BellAt::Source, d.band.octaves = kBellOctaves;
          }};
}

Result<RoomWays> waysToMakeRoom(const Session& session, const Assets& assets, StepCache& cache,
                                std::stop_token stop, const std::function<void(double)>& progress) {
  RoomSolver solver(session, assets, cache, stop);
  if (auto begun = solver.begin(); !begun) return Fail(begun.error());
  RoomWays out;
  out.goalDb = solver.goalDb(), out.beforeDb = solver.before().worstDb();
  out.kickBefore = solver.before().kickLevel, out.bassBefore = solver.before().bassLevel;
  const std::vector<std::function<Found()>> kinds = {[&] { return octaveWay(solver); },
                                                     [&] { return shorterWay(solver); },
                                                     [&] { return alignWay(solver, assets, cache); },
                                                     [&] { return duckingWay(solver, WayKind::Bell); },
                                                     [&] { return duckingWay(solver, WayKind::LowBand); },
                                                     [&] { return duckingWay(solver, WayKind::Full); },
                                                     [&] { return duckingWay(solver, WayKind::Mirror); },
                                                     [&] { return togetherWay(solver, out.ways); }};
  for (size_t i = 0; i < kinds.size(); ++i) {
    if (auto way = kinds[i]()) out.ways.push_back(std::move(*way));
    if (stop.stop_requested()) return cancelled();
    if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(kinds.size()));
  }
  std::stable_sort(out.ways.begin(), out.ways.end(), [](const RoomWay& a, const RoomWay& b) {
    if (a.reaches != b.reaches) return a.reaches;
    return a.reaches ? a.cost.sum() < b.cost.sum() : a.worstDb < b.worstDb;
  });
  return out;
}

}  // namespace heft
