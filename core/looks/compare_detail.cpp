#include "core/looks/compare_detail.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/study/pair_figures.h"

namespace heft {
namespace {

ProfilePtr profileOfSum(const Stems& stems, const std::optional<FrameRange>& range, StepCache& cache) {
  const JudgedStretch where = judgedStretch(stems.sum, stems.sampleRate, cache, range);
  return *cache.get<ProfilePtr>(
      KeyMaker("sum profile 2")
          .add(stems.sum.key())
          .add(stems.sampleRate)
          .add(where.first)
          .add(where.count)
          .key(),
      [&]() -> ProfilePtr {
        auto profile = profileSection(soundOf(stems.sum, where), where.wraps);
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

SectionFacts mineFactsOf(const Session& s, const Study& study, const Stems& stems, StepCache& cache,
                         const SectionProfile& mine) {
  SectionFacts out = plainFactsOf(mine);
  if (!out.lufs) return out;
  out.bassNotes = notesOfMine(s);
  if (study.pair.kick.sound)
    if (const auto hz = study.pair.kick.sound->landing.noteHz()) {
      out.kickHz = Told{*hz, 1.0}, out.kickLands = study.pair.kick.sound->landing.hz.has_value();
      if (study.pair.kick.sound->landing.startHz > 0.0)
        out.kickStartHz = Told{study.pair.kick.sound->landing.startHz, 1.0};
    }
  const PairFigures pair = pairFiguresOf(stems, comparedRange(s, stems.span), cache);
  out.kickMs = pair.kickMs, out.kickToBassDb = pair.kickToBassDb;
  if (!s.kick().hits.empty()) {
    DipInMix dip;
    dip.depthDb = {std::max(0.0, -study.pair.dip.depthDb), 1.0};
    if (study.pair.dip.fired > 0) dip.backMs = Told{study.pair.dip.returnMs, 1.0};
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
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return compareDetail(session, study, stems, mine, stop); });
  CompareDetail out;
  if (!study.empty) out.mine = profileOfSum(stems, comparedRange(session, stems.span), cache);
  if (out.mine) out.mineFacts = mineFactsOf(session, study, stems, cache, *out.mine);
  std::vector<double> hits;
  for (const double frame : stems.hitFrames()) hits.push_back(frame / stems.sampleRate);
  out.mineSwing = swingOf(hits, session.track.tempoBpm);
  for (const MeasuredSection& each : study.references) {
    if (stop.stop_requested()) return cancelled();
    if (!each.isLoud()) continue;
    const auto facts = factsOfSection(each.of, *each.profile, session.track.notes.a4Hz, cache);
    const auto tempo = each.of.reference < session.references.size()
                           ? session.references[each.of.reference].tempoBpm
                           : std::nullopt;
    out.sections.push_back({each.of, each.profile, facts,
                            facts->kick && tempo ? swingOf(facts->kick->hits, *tempo) : std::nullopt});
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
