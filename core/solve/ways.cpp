#include "core/solve/ways.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>

#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/figure_steps.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/replaced.h"
#include "core/study/drastic.h"
#include "core/study/study_hits.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kStepDb = 0.5;
constexpr double kUsualShare = 0.8;  // of a dip's gain reduction that is left over the kick's body
// A copy of the kick triggers where the kick does, within what a detector's reading of its strike varies; one
// or two stray hits still make a copy. A loop with other drums is not one.
constexpr double kSameHitMs = 15.0, kMostAreHits = 0.9;

// Everything that ducks the bass at the kick's hits: the kick itself, or a trigger that coincides with it.
std::set<int> duckingsAtKick(const Session& session, const Stems& stems) {
  const auto& hits = stems.hitFrames();
  const double near = kSameHitMs / 1000.0 * stems.sampleRate, loop = static_cast<double>(stems.frames);
  auto isAtAHit = [&](const Trigger& t) {
    return std::any_of(hits.begin(), hits.end(),
                       [&](double hit) { return std::abs(std::remainder(t.frame - hit, loop)) <= near; });
  };
  std::set<int> out;
  for (const Duck& d : session.ducks) {
    if (session.isOfPair(d)) out.insert(d.id);
    if (!session.actsOn(d, session.bass().id)) continue;
    for (const ResolvedDuck& r : stems.ducks) {
      if (r.id != d.id || r.triggers.empty()) continue;
      const auto at = std::count_if(r.triggers.begin(), r.triggers.end(), isAtAHit);
      if (static_cast<double>(at) >= kMostAreHits * static_cast<double>(r.triggers.size())) out.insert(d.id);
    }
  }
  return out;
}

Edit leaveOutDuckings(std::set<int> ids) {
  return {"", [ids = std::move(ids)](Session& s) {
            for (Duck& d : s.ducks)
              if (ids.contains(d.id)) d.on = false;
          }};
}

// The session, its kick's sound and the triggers of a copy of it.
class RoomSolver {
 public:
  RoomSolver(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop)
      : had_(session), session_(session), assets_(assets), cache_(cache), stop_(std::move(stop)) {}

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
    const auto stems = render(had_, assets_, cache_, stop_);
    if (!stems) return Fail(stems.error());
    leaveOut_ = leaveOutDuckings(duckingsAtKick(had_, *stems));
    session_ = leaveOut_.applied(had_);
    auto now = tried(session_);
    if (!now) return Fail(now.error());
    if (now->room.worstDb() <= RoomFacts::kNothing)
      return badUsage("no bass plays under any kick: nothing to clear");
    if (now->room.worstDb() <= goalDb())
      return badUsage("the bass leaves room at every kick without being ducked at its hits: " +
                      formatNumber(now->room.worstDb(), 1) + " dB to the kick where it is worst, " +
                      formatNumber(goalDb(), 0) + " dB are wanted");
    before_ = now->room;
    const LowEnd kick = laneLowEnd(now->stems.kick(), now->stems.sampleRate, cache_),
                 bass = laneLowEnd(now->stems.bass(), now->stems.sampleRate, cache_);
    double ofKick = 0.0, ofBass = 0.0;
    for (size_t b = 0; b < kBands.size() && kBands[b].highHz <= kWayCrossoverHz; ++b)
      ofKick += kick.bandPower[b], ofBass += bass.bandPower[b];
    unbalanced_ = ofKick > 0.0 && ofBass > 0.0 && dbFromPower(ofKick / ofBass) <= kUnbalancedDb;
    reach_ = reachOf(had_, *stems);
    const auto& each = before_.bassToKickDb;
    atHit_ = static_cast<size_t>(std::max_element(each.begin(), each.end()) - each.begin());
    now_ = std::move(now->stems);
    return {};
  }

  // With its cost; empty when cancelled.
  std::optional<RoomWay> judged(WayKind kind, const std::string& name, Edit edit, WayCost cost = {}) const {
    const auto t = tried(edit.applied(session_));
    if (!t) return std::nullopt;
    // The former ducking does not count.
    const bool ducked = had_ != session_;
    RoomWay out{kind, name, ducked ? allOf("", {leaveOut_, std::move(edit)}) : std::move(edit)};
    out.edit.name = "make room: " + name;
    out.worstDb = t->room.worstDb(), out.reaches = out.worstDb <= goalDb();
    out.kickLevel = t->room.kickLevel, out.bassLevel = t->room.bassLevel;
    out.cost = costBetween(now_, t->stems, cache_);
    out.cost.shiftSemitones = cost.shiftSemitones, out.cost.shorterMs = cost.shorterMs;
    out.ofBalance = kind == WayKind::Level && unbalanced_;
    const Session after = out.edit.applied(had_);
    out.replaces = replacedBy(had_, after), out.keeps = keepsWhatWasSet(had_, after);
    out.asks = asksBefore(had_, reach_, after, reachOf(after, t->stems));
    return out;
  }

  bool isUnbalanced() const { return unbalanced_; }
  double goalDb() const { return Limits().overlapHolds; }
  const RoomFacts& before() const { return before_; }
  const Session& session() const { return session_; }
  const Session& had() const { return had_; }
  bool stopped() const { return stop_.stop_requested(); }
  std::shared_ptr<const SoundFacts> kick(const Session& s) const {
    return SoundSteps(assets_, cache_, s.track.sampleRate).kickFacts(s.kick(), s.track);
  }

  // The smallest of 1 to `most` steps of kStepDb that reaches the goal, where more steps reach further and
  // none leaves `without` dB; empty where none does. Starts where a line through the known points crosses the
  // goal, then bisects. `perStep`: the first guess of what a step gains in dB, and the measured gain
  // afterwards, for a search like this one.
  std::optional<int> fewest(int most, double without, const std::function<Edit(int)>& by,
                            double& perStep) const {
    constexpr int kByTheLine = 4;
    int low = 0, high = most + 1;
    double atLow = without, slope = perStep;
    for (int turn = 0; high - low > 1 && !stopped(); ++turn) {
      const int crossing = low + static_cast<int>(std::ceil(std::min(200.0, (atLow - goalDb()) / slope)));
      const int at = std::clamp(turn < kByTheLine ? crossing : (low + high) / 2, low + 1, high - 1);
      const auto there = worst(by(at).applied(session_));
      if (!there) return std::nullopt;
      slope = std::max(1e-3, (atLow - *there) / (at - low));
      perStep = std::max(1e-3, (without - *there) / at);
      if (*there <= goalDb())
        high = at;
      else
        low = at, atLow = *there;
    }
    return high > most ? std::nullopt : std::optional(high);
  }

 private:
  Reach reachOf(const Session& s, const Stems& stems) const {
    Reach out;
    // Its depth only; the figures of each hit are not needed.
    out.dipDb = -measureDip(stems.gain().read(0, 0, stems.frames), {}, stems.sampleRate, true).depthDb;
    const SoundSteps steps(assets_, cache_, s.track.sampleRate);
    for (const LayerFacts& l : layerFacts(s.kick(), s.track, steps, cache_))
      if (std::abs(l.semitones) > std::abs(out.kickShift)) out.kickShift = l.semitones;
    if (const auto facts = kick(s)) {
      out.kickTailMs = facts->tailMs;
      if (const auto hz = facts->landing.noteHz()) out.kickMidi = midiFromHz(*hz, s.track.notes.a4Hz);
    }
    return out;
  }

  const Session& had_;
  Session session_;  ///< without the duckings at the kick's hits: each way is judged alone
  Edit leaveOut_;
  const Assets& assets_;
  StepCache& cache_;
  std::stop_token stop_;
  RoomFacts before_;
  Reach reach_;
  bool unbalanced_ = false;
  std::optional<size_t> atHit_;
  Stems now_;
};

using Found = std::optional<RoomWay>;

// The order of RoomWays::ways.
bool isCheaper(const RoomWay& a, const RoomWay& b) {
  if (a.reaches != b.reaches) return a.reaches;
  if (!a.reaches) return a.worstDb < b.worstDb;
  auto rank = [](const RoomWay& w) {
    return std::tuple(!w.asks.empty(), !w.ofBalance, !w.keeps, w.cost.sum());
  };
  return rank(a) < rank(b);
}

bool isRecorded(const Part& part) {
  return std::any_of(part.layers.begin(), part.layers.end(),
                     [](const Layer& l) { return l.recorded() && !l.mute; });
}

Edit shiftBass(const Session& s, int semitones) {
  return onPart("", s.bass().id, [semitones](Part& p) {
    for (Note& n : p.notes) n.midi = std::clamp(n.midi + semitones, 0, 127);
  });
}

struct RoomMove {
  std::string name;
  Edit edit;
  WayCost cost = {};
};

// The first that reaches the goal, else the nearest; measures only that one's cost.
Found firstThatReaches(const RoomSolver& solver, WayKind kind, const std::vector<RoomMove>& moves) {
  const RoomMove* chosen = nullptr;
  std::optional<double> least;
  for (const RoomMove& move : moves) {
    const auto at = solver.worst(move.edit.applied(solver.session()));
    if (!at || (least && *at >= *least)) continue;
    chosen = &move, least = at;
    if (*at <= solver.goalDb()) break;
  }
  if (!chosen) return std::nullopt;
  return solver.judged(kind, chosen->name, chosen->edit, chosen->cost);
}

RoomMove levelMove(const RoomSolver& solver, double db) {
  const Edit edit = moveLevels(balanceBy(solver.session(), db));
  return {edit.name, edit};
}

// Levels add to the hits' figures, so the move is known in advance; beyond the limit it tries the limit.
Found levelWay(const RoomSolver& solver) {
  const double wanted = std::ceil((solver.before().worstDb() - solver.goalDb()) / kStepDb) * kStepDb;
  std::vector<RoomMove> moves;
  for (const double more : {0.0, kStepDb, 2.0 * kStepDb})
    moves.push_back(levelMove(solver, std::min(kMostLevelWayDb, wanted + more)));
  return firstThatReaches(solver, WayKind::Level, moves);
}

// Bass or kick an octave away.
Found octaveWay(const RoomSolver& solver) {
  const Session& s = solver.session();
  const auto kick = solver.kick(s);
  const auto kickHz = kick ? kick->landing.noteHz() : std::nullopt;
  std::vector<RoomMove> moves;
  for (const int by : {12, -12}) {
    const std::string words = std::string(" an octave ") + (by > 0 ? "up" : "down");
    moves.push_back({"bass" + words, shiftBass(s, by), {.shiftSemitones = isRecorded(s.bass()) ? 12.0 : 0.0}});
    if (!kickHz) continue;
    const double from = midiFromHz(*kickHz, s.track.notes.a4Hz);
    const int to = static_cast<int>(std::lround(from)) + by;
    if (to >= 12 && to <= 80)
      moves.push_back({"kick" + words,
                       tunePart(s.kick(), from, to, s.track.notes),
                       {.shiftSemitones = isRecorded(s.kick()) ? 12.0 : 0.0}});
  }
  // Retuning a built voice costs nothing.
  std::stable_sort(moves.begin(), moves.end(), [](const RoomMove& a, const RoomMove& b) {
    return a.cost.shiftSemitones < b.cost.shiftSemitones;
  });
  return firstThatReaches(solver, WayKind::Octave, moves);
}

// The kick trimmed to note values, the longest first.
std::vector<RoomMove> trims(const RoomSolver& solver) {
  const Session& s = solver.session();
  const auto kick = solver.kick(s);
  std::vector<RoomMove> out;
  for (const auto& length : {TimeValue::note(1, 8), TimeValue::note(3, 32), TimeValue::note(1, 16),
                             TimeValue::note(3, 64), TimeValue::note(1, 32)}) {
    const double ms = length.toMs(s.track.tempoBpm);
    if (kick && ms < kick->tailMs && ms >= 40.0)
      out.push_back(
          {"kick trimmed to " + length.text(), trimPart(s.kick(), length), {.shorterMs = kick->tailMs - ms}});
  }
  return out;
}

Found alignWay(const RoomSolver& solver, const Assets& assets, StepCache& cache) {
  const Session& s = solver.session();
  const auto stems = render(s, assets, cache);
  const auto pair = stems ? studyPair(s, assets, *stems, cache) : Result<PairFacts>(Fail(stems.error()));
  if (!pair || !pair->best.overlap) return std::nullopt;
  return solver.judged(
      WayKind::Align,
      "align: " + formatNumber(pair->best.delayMs, 1) + " ms" + (pair->best.invert ? ", inverted" : ""),
      alignBy(s.bass(), pair->best));
}

std::string duckWay(WayKind kind, double by, double bellMidi, const NoteStyle& style) {
  const std::string depth = formatNumber(by, 1) + " dB";
  switch (kind) {
    case WayKind::Bell:
      return "a bell at " + pitchText(bellMidi, style) + ", " + depth + " deep";
    case WayKind::LowBand:
      return "below " + formatNumber(kWayCrossoverHz, 0) + " Hz by " + depth;
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
  // A mirror ducks more the less the two may add up to.
  constexpr double kWidest = 6.0;
  const bool mirror = kind == WayKind::Mirror;
  auto valueOf = [&](int steps) { return mirror ? kWidest - steps * kStepDb : steps * kStepDb; };
  const int most = static_cast<int>(std::lround((mirror ? kWidest : kDeepestWayDb) / kStepDb));
  auto shaped = [&](DuckShape shape) -> Found {
    auto by = [&](int steps) { return makeRoomBy(solver.had(), kind, valueOf(steps), shape); };
    double perStep = kUsualShare * kStepDb;
    const auto steps = solver.fewest(most, solver.before().worstDb(), by, perStep);
    if (!steps && shape == DuckShape::Kept) return std::nullopt;
    const double value = valueOf(steps.value_or(most));
    return solver.judged(kind, duckWay(kind, value, midi, s.track.notes), by(steps.value_or(most)));
  };
  if (isDuckedBy(solver.had(), kind))
    if (auto kept = shaped(DuckShape::Kept)) return kept;
  return shaped(DuckShape::Plain);
}

// A move without ducking in full, plus a ducking as deep as is then needed.
Found bothWays(const RoomSolver& solver, const RoomMove& still, WayKind duck, double& perStep) {
  const Session base = still.edit.applied(solver.session());
  const auto kick = solver.kick(base);
  const auto note = kick ? kick->landing.noteHz() : std::nullopt;
  const auto without = solver.worst(base);
  if (!without || (duck == WayKind::Bell && !note)) return std::nullopt;
  const double midi = note ? midiFromHz(*note, base.track.notes.a4Hz) : lowTonic(base.track.key);
  const DuckShape shape = isDuckedBy(solver.had(), duck) ? DuckShape::Kept : DuckShape::Plain;
  auto both = [&](int steps) {
    return allOf("", {still.edit, makeRoomBy(solver.had(), duck, steps * kStepDb, shape)});
  };
  constexpr int kMost = static_cast<int>(kDeepestWayDb / kStepDb);
  const int steps = solver.fewest(kMost, *without, both, perStep).value_or(kMost);
  return solver.judged(WayKind::Together,
                       still.name + " and " + duckWay(duck, steps * kStepDb, midi, base.track.notes),
                       both(steps), still.cost);
}

// The cheapest that reaches the goal, out of the best ducking with each other move, milder trims included;
// else the nearest.
Found togetherWay(const RoomSolver& solver, const std::vector<RoomWay>& ways) {
  const RoomWay* duck = nullptr;
  std::vector<RoomMove> stills = trims(solver);
  if (stills.size() > 2) stills = {stills.front(), stills[stills.size() / 2]};
  for (const double db : {1.5, 3.0}) stills.push_back(levelMove(solver, db));
  for (const RoomWay& way : ways) {
    const bool ducks = way.kind == WayKind::Bell || way.kind == WayKind::LowBand || way.kind == WayKind::Full;
    if (ducks && (!duck || isCheaper(way, *duck))) duck = &way;
    const auto known = [&](const RoomMove& m) { return m.name == way.name; };
    if (!ducks && way.kind != WayKind::Mirror && std::none_of(stills.begin(), stills.end(), known))
      stills.push_back({way.name, way.edit, way.cost});
  }
  Found best;
  double perStep = kUsualShare * kStepDb;
  for (const RoomMove& still : stills) {
    Found way = duck ? bothWays(solver, still, duck->kind, perStep) : std::nullopt;
    if (way && (!best || isCheaper(*way, *best))) best = std::move(way);
  }
  return best;
}

}  // namespace

Result<RoomWays> waysToMakeRoom(const Session& session, const Assets& assets, StepCache& cache,
                                std::stop_token stop, const std::function<void(double)>& progress) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return waysToMakeRoom(session, assets, mine, stop, progress); });
  RoomSolver solver(session, assets, cache, stop);
  if (auto begun = solver.begin(); !begun) return Fail(begun.error());
  RoomWays out;
  out.goalDb = solver.goalDb(), out.beforeDb = solver.before().worstDb();
  out.kickBefore = solver.before().kickLevel, out.bassBefore = solver.before().bassLevel;
  std::vector<std::function<Found()>> kinds = {
      [&] { return levelWay(solver); }, [&] { return octaveWay(solver); },
      [&] { return firstThatReaches(solver, WayKind::Shorter, trims(solver)); },
      [&] { return alignWay(solver, assets, cache); }};
  for (const WayKind kind : {WayKind::Bell, WayKind::LowBand, WayKind::Full, WayKind::Mirror})
    kinds.push_back([&, kind] { return duckingWay(solver, kind); });
  kinds.push_back([&] { return togetherWay(solver, out.ways); });
  for (size_t i = 0; i < kinds.size(); ++i) {
    if (auto way = kinds[i]()) out.ways.push_back(std::move(*way));
    if (stop.stop_requested()) return cancelled();
    if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(kinds.size()));
  }
  std::stable_sort(out.ways.begin(), out.ways.end(), isCheaper);
  return out;
}

}  // namespace heft
