#include "core/ledger/compare_detail.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/render/figure_steps.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

ProfilePtr profileOfSum(const Stems& stems, StepCache& cache) {
  return *cache.get<ProfilePtr>(
      KeyMaker("sum profile 1").add(stems.sum.key()).add(stems.sampleRate).key(),
      [&]() -> ProfilePtr {
        auto profile = profileSection(stems.sum.toBuffer(stems.sampleRate), true);
        return profile ? std::make_shared<const SectionProfile>(std::move(*profile)) : nullptr;
      },
      [](const ProfilePtr& made) {
        return made ? 16000 + 8 * (made->low.mid.size() + made->low.side.size()) : 64;
      });
}

std::shared_ptr<const SectionFacts> factsOfSection(const SectionRef& ref, const SectionProfile& profile,
                                                   double a4Hz, StepCache& cache) {
  return cache.get<SectionFacts>(
      KeyMaker("section facts 1").add(ref.key()).add(a4Hz).key(), [&] { return factsOf(profile, a4Hz); },
      [](const SectionFacts& f) { return 4000 + (f.kick ? 8 * f.kick->sound.size() : 0); });
}

std::vector<double> lowLane(const Stem& lane, double rate, double& slowRate, StepCache& cache) {
  auto slow = decimatedLane(lane, Fold::Mid, rate, kLowEndRate, 0, lane.frames(), cache);
  slowRate = slow.sampleRate;
  return bandLimited(slow.samples, slowRate, 20.0, 130.0);
}

// Until the kick's low band is less than what else sounds there, or 20 dB under its peak; over all hits.
std::optional<Told> lengthOfMine(const Stems& stems, StepCache& cache) {
  constexpr double kMostSeconds = 0.5, kPeakWithin = 0.1, kFloor = 0.01, kSmooth = 0.02;
  double rate = 1.0;
  const auto kick = lowLane(stems.kick(), stems.sampleRate, rate, cache);
  std::vector<double> rest = lowLane(stems.backing, stems.sampleRate, rate, cache);
  for (size_t i = 0; i < stems.lanes.size(); ++i) {
    if (i == stems.kickLane) continue;
    const auto lane = lowLane(stems.lanes[i].heard, stems.sampleRate, rate, cache);
    for (size_t k = 0; k < std::min(rest.size(), lane.size()); ++k) rest[k] += lane[k];
  }
  if (kick.empty() || rest.size() != kick.size() || stems.hitFrames().empty()) return std::nullopt;
  const auto count = static_cast<size_t>(kMostSeconds * rate), half = static_cast<size_t>(0.5 * kSmooth * rate);
  std::vector<double> ours(count, 0.0), others(count, 0.0);
  for (const double frame : stems.hitFrames())
    for (size_t i = 0; i < count; ++i)
      for (size_t k = 0; k <= 2 * half; ++k) {
        const auto at =
            (static_cast<size_t>(frame / stems.sampleRate * rate) + i + k + kick.size() - half) % kick.size();
        ours[i] += kick[at] * kick[at], others[i] += rest[at] * rest[at];
      }
  auto at = std::max_element(ours.begin(), ours.begin() + static_cast<ptrdiff_t>(std::min(
                                                              count, static_cast<size_t>(kPeakWithin * rate))));
  const double peak = *at;
  if (!(peak > 0.0)) return std::nullopt;
  while (at != ours.end() && *at > kFloor * peak && *at > others[static_cast<size_t>(at - ours.begin())]) ++at;
  return Told{1000.0 * static_cast<double>(at - ours.begin()) / rate, 1.0};
}

std::vector<NoteInMix> notesOfMine(const Session& s) {
  std::map<int, double> lengths;
  double all = 0.0;
  for (const Note& n : s.bass().notes) lengths[n.midi] += n.lengthQuarters, all += n.lengthQuarters;
  std::vector<NoteInMix> out;
  for (const auto& [midi, quarters] : lengths)
    if (all > 0.0) out.push_back({midi, quarters / all, 0.0});
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.share > b.share; });
  return out;
}

// Energy below 120 Hz in the kick's body re as long a stretch after it, as of the references.
std::optional<Told> kickToBassOfMine(const SectionProfile& mine, const Stems& stems, double lengthMs) {
  const auto x = bandLimited(mine.low.mid, mine.low.rate, 20.0, 120.0);
  const auto n = static_cast<double>(x.size());
  std::vector<double> all;
  auto energy = [&](double from, double count) {
    double sum = 0.0;
    for (double i = 0.0; i < count; i += 1.0)
      sum += std::pow(x[static_cast<size_t>(std::fmod(from + i, n))], 2);
    return sum;
  };
  const double body = 0.001 * lengthMs * mine.low.rate;
  if (!(n > 0.0) || !(body >= 1.0) || 2.0 * body > n) return std::nullopt;
  for (const double frame : stems.hitFrames()) {
    const double at = frame / stems.sampleRate * mine.low.rate;
    const double ours = energy(at, body), after = energy(at + body, body);
    if (ours > 0.0 && after > 1e-6 * ours) all.push_back(dbFromPower(ours / after));
  }
  return all.empty() ? std::nullopt : std::optional(Told{median(std::move(all)), 1.0});
}

SectionFacts mineFactsOf(const Session& s, const Study& study, const Stems& stems, StepCache& cache,
                         const SectionProfile& mine) {
  SectionFacts out;
  const ProgrammeFacts& f = mine.facts;
  out.lufs = f.integratedLufs;
  if (!f.integratedLufs) return out;
  out.plr = f.truePeakDbtp - *f.integratedLufs;
  out.lowCrestDb = f.low.crestLowDb;
  double low = 0.0;
  for (size_t b = 0; b < 4; ++b) low += f.low.bandPower[b];
  if (f.low.totalPower > 0.0 && low > 0.0) out.shareBelow120Db = dbFromPower(low / f.low.totalPower);
  out.monoBelowHz = mine.width.monoBelowHz();
  out.bassNotes = notesOfMine(s);
  if (study.kick)
    if (const auto hz = study.kick->landing.noteHz()) {
      out.kickHz = Told{*hz, 1.0}, out.kickLands = study.kick->landing.hz.has_value();
      if (study.kick->landing.startHz > 0.0) out.kickStartHz = Told{study.kick->landing.startHz, 1.0};
    }
  out.kickMs = lengthOfMine(stems, cache);
  if (out.kickMs) out.kickToBassDb = kickToBassOfMine(mine, stems, out.kickMs->value);
  if (!s.kick().hits.empty()) {
    DipInMix dip;
    dip.depthDb = {std::max(0.0, -study.dip.depthDb), 1.0};
    if (study.dip.fired > 0) dip.backMs = Told{study.dip.returnMs, 1.0};
    out.dip = dip;
  }
  return out;
}

}  // namespace

std::optional<CompareDetail::Span> CompareDetail::spanOf(
    const std::function<std::optional<double>(const ComparedSection&)>& figure) const {
  std::vector<double> all;
  for (const ComparedSection& each : sections)
    if (each.of.counts)
      if (const auto value = figure(each)) all.push_back(*value);
  if (all.empty()) return std::nullopt;
  const auto [least, most] = std::minmax_element(all.begin(), all.end());
  return Span{median(all), *least, *most, all.size()};
}

Result<CompareDetail> compareDetail(const Session& session, const Study& study, const Stems& stems,
                                    StepCache& cache, const std::stop_token& stop) {
  CompareDetail out;
  if (!study.empty) out.mine = profileOfSum(stems, cache);
  if (out.mine) out.mineFacts = mineFactsOf(session, study, stems, cache, *out.mine);
  for (const MeasuredSection& each : study.references) {
    if (stop.stop_requested()) return cancelled();
    if (!each.isLoud()) continue;
    out.sections.push_back(
        {each.of, each.profile, factsOfSection(each.of, *each.profile, session.track.notes.a4Hz, cache)});
  }
  return out;
}

BarFold sectionFold(const ComparedSection& section, const Session& session, FoldAsk ask) {
  if (section.of.reference >= session.references.size()) return {};
  const Reference& reference = session.references[section.of.reference];
  if (!reference.tempoBpm || !section.profile) return {};
  ask.secondsPerQuarter = 60.0 / *reference.tempoBpm;
  const double from = section.of.stretch ? section.of.stretch->fromSeconds : 0.0;
  ask.firstBeatSeconds = reference.firstBeatSeconds.value_or(from) - from;
  return foldOver(section.profile->low, ask);
}

BarFold mineFold(const CompareDetail& detail, const Session& session, FoldAsk ask) {
  if (!detail.mine) return {};
  ask.secondsPerQuarter = 60.0 / session.track.tempoBpm;
  ask.firstBeatSeconds = 0.0;
  return foldOver(detail.mine->low, ask);
}

}  // namespace heft
