#include "core/solve/align_ways.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "core/judge/ledger.h"
#include "core/render/cache/until_stopped.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/values.h"
#include "core/session/pattern.h"
#include "core/sound/interpolate.h"
#include "core/study/pair_lanes.h"
#include "core/study/study_hits.h"
#include "core/theory/text.h"

namespace heft {
namespace {

// Level of the pair at its hits before any move.
struct Gathered {
  AlignMatter heard, plain;
  std::vector<std::shared_ptr<const MeetingFigures>> figures;  // of each hit as it sounds
  const AlignCurve& curve(size_t hit) const { return figures[hit]->curve; }
  std::vector<MeetingSpan> spans;
  PairLanes lanes;
};

struct AskedWays {
  Session session;  // without Align's moves
  const Assets& assets;
  StepCache& cache;
  const std::stop_token& stop;
};

Result<Gathered> gather(const AskedWays& a, const std::function<void(double)>& progress) {
  const auto stems = render(a.session, a.assets, a.cache, a.stop);
  if (!stems) return Fail(stems.error());
  Gathered out;
  out.lanes = pairLanes(a.session, *stems, a.cache), out.spans = meetingSpans(*stems);
  const AlignQuestion& q = a.session.bass().align.question;
  std::vector<AlignCurve> heard, plain;
  std::vector<CrossSpectrum> heardCross, plainCross;
  for (size_t i = 0; i < out.spans.size(); ++i) {
    if (a.stop.stop_requested()) return cancelled();
    out.figures.push_back(figuresAt(out.lanes, q, out.spans[i], PairHeard::AsDucked, a.cache));
    // Where nothing is ducked both are one.
    const auto undipped = out.lanes.left.empty()
                              ? out.figures.back()
                              : figuresAt(out.lanes, q, out.spans[i], PairHeard::Plain, a.cache);
    heard.push_back(out.figures.back()->curve), plain.push_back(undipped->curve);
    if (!heard.back().overlap) continue;
    heardCross.push_back(out.figures.back()->cross), plainCross.push_back(undipped->cross);
    if (progress) progress(0.5 * static_cast<double>(i + 1) / static_cast<double>(out.spans.size()));
  }
  out.heard = {combined(heard), sumOf(heardCross), stems->sampleRate};
  out.plain = {combined(plain), sumOf(plainCross), stems->sampleRate};
  return out;
}

std::string turnedAt(const Rotation& rotation) {
  std::string out;
  for (const AllPass& s : rotation.stages)
    if (s.on) out += (out.empty() ? "all-pass at " : " and ") + formatNumber(s.hz, 0) + " Hz";
  return out;
}

std::string moveWords(const std::string& part, const AlignAnswer& a) {
  std::string out = turnedAt(a.rotation);
  auto add = [&](const std::string& words) { out += (out.empty() ? "" : ", ") + words; };
  if (a.delayMs != 0.0)
    add(part + " " + formatNumber(std::abs(a.delayMs), 1) + " ms " + (a.delayMs > 0.0 ? "later" : "earlier"));
  if (a.invert) add("polarity inverted");
  return out.empty() ? "nothing moved" : out;
}

AlignWay wayOf(AlignWayKind kind, const AlignAnswer& answer, const AskedWays& a, const Gathered& pair) {
  const Part& bass = a.session.bass();
  AlignWay out{kind, moveWords(partWord(bass), answer),
               allOf("", {clearNoteMoves(bass), moveAs(bass, answer)})};
  out.edit.name = "align " + partWord(bass) + ": " + out.name;
  out.levelDb = levelOf(pair.heard, answer.delayMs, answer.invert, answer.rotation);
  out.unduckedDb = levelOf(pair.plain, answer.delayMs, answer.invert, answer.rotation);
  out.answer = answer;
  out.delayMs = std::abs(answer.delayMs);
  out.smearMs = groupDelayMs(answer.rotation, pair.heard.sampleRate,
                             hzFromMidi(mainNote(bass, a.session.track), a.session.track.notes.a4Hz));
  return out;
}

// Its result on rendered lanes; empty when cancelled.
std::optional<AlignWay> measured(const AskedWays& a, AlignWay way) {
  const Session after = way.edit.applied(a.session);
  const auto stems = render(after, a.assets, a.cache, a.stop);
  if (!stems) return std::nullopt;
  const PairLanes lanes = pairLanes(after, *stems, a.cache);
  const AlignMove& move = after.bass().align;
  AlignCurve all, plain;
  for (const MeetingSpan& span : meetingSpans(*stems)) {
    if (a.stop.stop_requested()) return std::nullopt;
    addTo(all, *curveAt(lanes, move.question, span, PairHeard::AsDucked, a.cache));
    if (!lanes.left.empty()) addTo(plain, *curveAt(lanes, move.question, span, PairHeard::Plain, a.cache));
  }
  if (!all.overlap) return std::nullopt;
  way.levelDb = way.unduckedDb = all.levelAt(move.delayMs, move.invert);
  if (plain.size() > 0) way.unduckedDb = plain.levelAt(move.delayMs, move.invert);
  return way;
}

// The start phase of a fully built bass that aligns the sum over all hits.
std::optional<AlignWay> startPhaseWay(const AskedWays& a, const Gathered& pair) {
  const Part& bass = a.session.bass();
  std::vector<std::pair<int, double>> phases;
  for (const Layer* l : heardLayers(bass.layers)) {
    if (!l->bassVoice() || l->bassVoice()->freePhase) return std::nullopt;
    phases.push_back({l->id, l->bassVoice()->startPhaseDegrees});
  }
  const auto& bins = pair.heard.cross.bins;
  const std::complex<double> all = std::accumulate(bins.begin(), bins.end(), std::complex<double>());
  if (phases.empty() || std::abs(all) <= 0.0) return std::nullopt;
  const double degrees = std::round(std::arg(all) * 180.0 / 3.14159265358979);
  for (auto& [id, phase] : phases) phase += degrees - 360.0 * std::floor((phase + degrees) / 360.0);
  AlignWay out{AlignWayKind::StartPhase, {}, {}};
  out.startPhaseDegrees = phases.front().second;
  out.name = "start phase " + formatNumber(*out.startPhaseDegrees, 0) + " degrees";
  out.edit = allOf("align " + partWord(bass) + ": " + out.name,
                   {clearNoteMoves(bass), moveAs(bass, {}), setStartPhases(bass, phases)});
  // Partials rotate with the fundamental, each by its multiple of the angle.
  return measured(a, std::move(out));
}

// The last note that sounds within a sixteenth after each hit; nothing where none does.
std::vector<std::optional<size_t>> notesAtHits(const AskedWays& a, const Gathered& pair) {
  constexpr double kSoonAfter = 0.25, kStillOn = 0.02;
  std::vector<std::optional<size_t>> out;
  const auto& notes = a.session.bass().notes;
  for (const MeetingSpan& span : pair.spans) {
    const double at = span.atSeconds * a.session.track.tempoBpm / 60.0;
    out.emplace_back();
    for (size_t i = 0; i < notes.size(); ++i)
      if (notes[i].startQuarters < at + kSoonAfter && notes[i].endQuarters() > at + kStillOn) out.back() = i;
  }
  return out;
}

// Level of the pair at the hits of each note.
struct NoteMatter {
  AlignCurve curve;
  std::complex<double> cross;
};

std::map<size_t, NoteMatter> byNote(const AskedWays& a, const Gathered& pair) {
  const auto at = notesAtHits(a, pair);
  std::map<size_t, std::vector<AlignCurve>> curves;
  std::map<size_t, NoteMatter> out;
  for (size_t i = 0; i < at.size(); ++i) {
    if (!at[i] || !pair.curve(i).overlap) continue;
    curves[*at[i]].push_back(pair.curve(i));
    for (const auto& bin : pair.figures[i]->cross.bins) out[*at[i]].cross += bin;
  }
  for (auto& [note, matter] : out) matter.curve = combined(curves[note]);
  return out;
}

// Moves one note by its start or its phase; nothing where that would gain little.
NoteMove moveOf(const NoteMatter& matter, bool byPhase) {
  constexpr double kMostMs = 50.0;
  NoteMove out;
  const AlignAnswer own = bestAlignment(matter.curve, {true, false, 0});
  if (!byPhase) {
    if (own.afterDb > own.beforeDb + kCloseEnoughDb) out.offsetMs = std::clamp(own.delayMs, -kMostMs, kMostMs);
    return out;
  }
  const size_t rest = matter.curve.indexOf(0.0);
  const double turned = matter.curve.energies[rest] + 2.0 * std::abs(matter.cross);
  if (dbFromPower(turned / std::max(1e-30, matter.curve.inPhase[rest]), -120.0) <=
      own.beforeDb + kCloseEnoughDb)
    return out;
  const double degrees = std::round(std::arg(matter.cross) * 180.0 / 3.14159265358979);
  out.phaseDegrees = degrees < 0.0 ? degrees + 360.0 : degrees;
  return out;
}

// Each note by its own start, or by its own phase.
std::optional<AlignWay> perNoteWay(const AskedWays& a, const Gathered& pair, AlignWayKind kind) {
  const Part& bass = a.session.bass();
  const bool byPhase = kind == AlignWayKind::PhasePerNote;
  for (const Layer* l : heardLayers(bass.layers))
    if (byPhase && l->bassVoice() && l->bassVoice()->freePhase) return std::nullopt;
  std::vector<NoteMove> moves(bass.notes.size());
  AlignWay out{kind, {}, {}};
  for (const auto& [note, matter] : byNote(a, pair)) {
    moves[note] = moveOf(matter, byPhase);
    out.delayMs = std::max(out.delayMs, std::abs(moves[note].offsetMs));
    out.notes += moves[note] != NoteMove();
  }
  if (out.notes == 0) return std::nullopt;
  out.name = std::to_string(out.notes) + (out.notes == 1 ? " note" : " notes") +
             (byPhase ? ", each by its own phase" : ", each by its own start");
  out.edit = allOf("align " + partWord(bass) + ": " + out.name, {moveAs(bass, {}), moveEachNote(bass, moves)});
  out.noteMoves = std::move(moves);
  return measured(a, std::move(out));
}

// How long the note under a hit has sounded by then, in quarters; nothing without a note.
std::optional<double> soundedQuarters(const Session& s, double hitQuarters) {
  std::optional<double> out;
  for (const Note& n : s.bass().notes)
    if (n.startQuarters <= hitQuarters && n.endQuarters() > hitQuarters) out = hitQuarters - n.startQuarters;
  return out;
}

// At another tempo a note has sounded for more or less time when a hit comes, so each hit has its own curve.
double levelAtTempo(const AskedWays& a, const Gathered& pair, const AlignAnswer& answer, double bpm) {
  double sum = 0.0, perfect = 0.0;
  const double now = a.session.track.tempoBpm;
  for (size_t i = 0; i < pair.figures.size(); ++i) {
    const AlignCurve& c = pair.curve(i);
    if (!c.overlap) continue;
    const auto sounded = soundedQuarters(a.session, pair.spans[i].atSeconds * now / 60.0);
    const double ms = answer.delayMs - sounded.value_or(0.0) * 60000.0 * (1.0 / bpm - 1.0 / now);
    if (std::abs(ms) > -c.firstMs) return -120.0;
    const size_t at = c.indexOf(ms);
    sum += c.inPhase[at] * std::pow(10.0, c.levelDb(at, answer.invert) / 10.0), perfect += c.inPhase[at];
  }
  return perfect > 0.0 ? dbFromPower(sum / perfect, -120.0) : -120.0;
}

// The bass after a hit, detuned by so many cents from its note's start.
std::vector<double> tunedBass(const AskedWays& a, const Gathered& pair, const MeetingSpan& span, double cents) {
  const SlowLane& lane = *pair.lanes.turned;
  const double ratio = std::exp2(cents / 1200.0), quarter = 60.0 / a.session.track.tempoBpm;
  const double sounded = soundedQuarters(a.session, span.atSeconds / quarter).value_or(0.0) * quarter;
  // With room for the interpolator on both sides.
  constexpr double kRoomSeconds = 0.05;
  const double shift = (ratio - 1.0) * sounded, from = span.atSeconds + shift - kRoomSeconds;
  const auto part = lane.from(lane.samples, from, ratio * span.seconds + 2.0 * kRoomSeconds);
  const double first =
      static_cast<double>(lane.at(span.atSeconds)) + shift * lane.rate - static_cast<double>(lane.at(from));
  const std::vector<float> narrow(part.begin(), part.end());
  const auto read = readAt(narrow, first, ratio, static_cast<size_t>(span.seconds * lane.rate));
  return {read.begin(), read.end()};
}

double levelAtTuning(const AskedWays& a, const Gathered& pair, const AlignAnswer& answer,
                     const std::vector<size_t>& hits, double cents) {
  const AlignQuestion& q = a.session.bass().align.question;
  std::vector<AlignCurve> curves;
  AlignQuestion narrow = q;
  narrow.maxDelayMs = std::abs(answer.delayMs);
  for (const size_t i : hits) {
    const Meeting meeting = pair.lanes.meeting(pair.spans[i], PairHeard::AsDucked);
    const auto bass = tunedBass(a, pair, pair.spans[i], cents);
    curves.push_back(
        alignCurve({meeting.kick, bass, meeting.left, meeting.bass}, pair.lanes.kick->rate, narrow));
  }
  return combined(curves).levelAt(answer.delayMs, answer.invert);
}

// The widest unbroken range: growing steps outwards, because beyond a whole period the pair is in phase
// again, then bisection.
double reachOf(double most, double least, const std::function<double(double)>& levelAt) {
  constexpr double kGrowing = 1.8;
  double low = 0.0, high = most / 100.0;
  while (levelAt(high) >= least) {
    if (high >= most) return most;
    low = high, high = std::min(most, kGrowing * high);
  }
  for (int i = 0; i < 3; ++i) {
    const double middle = 0.5 * (low + high);
    (levelAt(middle) >= least ? low : high) = middle;
  }
  return low;
}

// The pair with the way's phase but not yet its delay. Errors: Cancelled.
Result<AlignStands> standsOf(const AskedWays& asked, const AlignWay& way) {
  constexpr size_t kMostHits = 5;
  AskedWays a{way.edit.applied(asked.session), asked.assets, asked.cache, asked.stop};
  a.session.bass().align.delayMs = 0.0, a.session.bass().align.invert = false;
  const auto turned = gather(a, {});
  if (!turned) return Fail(turned.error());
  const Gathered& pair = *turned;
  AlignAnswer move;
  move.delayMs = way.answer.delayMs, move.invert = way.answer.invert;
  AlignStands out;
  const double within = Limits().pairHolds, tempo = a.session.track.tempoBpm;
  out.delay = holdOf(pair.heard.curve, move.delayMs, move.invert, within);
  std::vector<size_t> hits;
  for (size_t i = 0; i < pair.figures.size(); ++i)
    if (pair.curve(i).overlap) hits.push_back(i);
  auto weight = [&](size_t i) { return pair.curve(i).inPhase[pair.curve(i).indexOf(0.0)]; };
  std::stable_sort(hits.begin(), hits.end(), [&](size_t x, size_t y) { return weight(x) > weight(y); });
  hits.resize(std::min(hits.size(), kMostHits));
  auto atBpm = [&](double bpm) { return levelAtTempo(a, pair, move, bpm); };
  auto atCents = [&](double cents) { return levelAtTuning(a, pair, move, hits, cents); };
  const double tuned = atCents(0.0) - within, timed = atBpm(tempo) - within;
  out.lowerCents = reachOf(AlignStands::kMostCents, tuned, [&](double c) { return atCents(-c); });
  out.higherCents = reachOf(AlignStands::kMostCents, tuned, atCents);
  out.slowestBpm = tempo - reachOf(tempo / 3.0, timed, [&](double by) { return atBpm(tempo - by); });
  out.fastestBpm = tempo + reachOf(tempo / 3.0, timed, [&](double by) { return atBpm(tempo + by); });
  return out;
}

std::string elsewhereOf(const AskedWays& a, double bestDb) {
  constexpr double kPoorDb = -1.5, kApartSemitones = 0.8;
  if (bestDb > kPoorDb) return {};
  const Session& s = a.session;
  const auto kick = SoundSteps(a.assets, a.cache, s.track.sampleRate).kickFacts(s.kick(), s.track);
  if (!kick) return {};
  if (kick->landing.slides())
    return "The kick glides under the bass, so no alignment holds. Shorten the kick, change the note or duck";
  const auto note = kick->landing.noteHz();
  if (!note) return "The kick has no clear pitch to align to: shorten it or duck";
  const double apart = midiFromHz(*note, s.track.notes.a4Hz) - mainNote(s.bass(), s.track);
  if (std::abs(apart) > kApartSemitones)
    return "Kick and bass are " + formatNumber(std::abs(apart), 1) +
           " st apart and drift in and out of phase: tune, shorten the kick or duck";
  return "Each note needs a different alignment: align per note, or duck";
}

}  // namespace

Result<AlignWays> alignWays(const Session& session, const Assets& assets, StepCache& cache,
                            std::stop_token stop, const std::function<void(double)>& progress) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return alignWays(session, assets, mine, stop, progress); });
  const AskedWays a{withoutMoves(session, MovesOf::Align), assets, cache, stop};
  const auto pair = gather(a, progress);
  if (!pair) return Fail(pair.error());
  if (!pair->heard.curve.overlap) return badUsage("kick and bass never sound together in this loop");
  AlignWays out;
  const AlignMove& now = session.bass().align;
  out.nowDb = levelOf(pair->heard, now.delayMs, now.invert, aligningTurn(now.rotation));
  const auto& notes = session.bass().notes;
  if (std::any_of(notes.begin(), notes.end(), [](const Note& n) { return n.move != NoteMove(); }))
    if (const auto asItIs = measured(a, {AlignWayKind::PerNote, {}, {"", [&](Session& s) { s = session; }}}))
      out.nowDb = asItIs->levelDb;
  out.unmovedDb = levelOf(pair->heard, 0.0, false, {});
  const std::vector<std::pair<AlignWayKind, AlignFreedom>> kinds = {
      {AlignWayKind::Polarity, {false, true, 0}},        {AlignWayKind::Delay, {true, false, 0}},
      {AlignWayKind::DelayAndPolarity, {true, true, 0}}, {AlignWayKind::Turn, {false, false, 1}},
      {AlignWayKind::TurnTwice, {false, false, 2}},      {AlignWayKind::Together, {true, true, 2}}};
  double done = 0.0;
  for (const auto& [kind, freedom] : kinds) {
    if (stop.stop_requested()) return cancelled();
    const AlignAnswer answer =
        solveAlignment(pair->heard, freedom, [&](double) { return !stop.stop_requested(); });
    const bool known =
        std::any_of(out.ways.begin(), out.ways.end(), [&](const AlignWay& w) { return w.answer == answer; });
    const bool moves = answer.delayMs != 0.0 || answer.invert || answer.rotation.works();
    if (moves && !known) out.ways.push_back(wayOf(kind, answer, a, *pair));
    if (progress) progress(0.5 + 0.5 * (++done / static_cast<double>(kinds.size() + 1)));
  }
  if (auto phase = startPhaseWay(a, *pair)) out.ways.push_back(std::move(*phase));
  for (const AlignWayKind kind : {AlignWayKind::PerNote, AlignWayKind::PhasePerNote})
    if (auto way = perNoteWay(a, *pair, kind)) out.ways.push_back(std::move(*way));
  // Single moved notes have to be remembered, so they count as ten milliseconds of delay.
  constexpr double kOfNotesMs = 10.0;
  auto size = [](const AlignWay& w) {
    return w.delayMs + w.smearMs + (w.startPhaseDegrees ? 0.1 : 0.0) + (w.notes ? kOfNotesMs : 0.0);
  };
  std::stable_sort(out.ways.begin(), out.ways.end(),
                   [](const AlignWay& x, const AlignWay& y) { return x.levelDb > y.levelDb; });
  for (size_t i = 1; i < out.ways.size(); ++i)
    for (size_t k = i; k > 0 && out.ways[k - 1].levelDb - out.ways[k].levelDb <= kCloseEnoughDb &&
                       size(out.ways[k]) < size(out.ways[k - 1]);
         --k)
      std::swap(out.ways[k - 1], out.ways[k]);
  if (stop.stop_requested()) return cancelled();
  if (!out.ways.empty()) {
    const auto stands = standsOf(a, out.ways.front());
    if (!stands) return Fail(stands.error());
    out.stands = *stands;
  }
  out.elsewhere =
      elsewhereOf(a, out.ways.empty() ? out.unmovedDb : std::max(out.unmovedDb, out.ways[0].levelDb));
  if (progress) progress(1.0);
  return out;
}

}  // namespace heft
