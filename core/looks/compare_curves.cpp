#include "core/looks/compare_curves.h"

#include <algorithm>
#include <cmath>

#include "core/compare/curves.h"
#include "core/sound/buffer.h"

namespace heft {
namespace {

// Curves are re total power; shifted to be re loudness, like the references.
double loudnessShiftDb(const ProgrammeFacts& f) {
  return f.low.totalPower > 0 && f.integratedLufs ? dbFromPower(f.low.totalPower) - *f.integratedLufs : 0.0;
}

std::vector<double> middleOf(const std::vector<CompareCurve>& curves) {
  std::vector<double> out(profileHz().size(), 0.0);
  for (size_t i = 0; i < out.size(); ++i) {
    std::vector<double> column;
    for (const CompareCurve& c : curves) column.push_back(c.db[i]);
    out[i] = median(column);
  }
  return out;
}

bool leadsInABand(const LowEnd& low, const Study& s) {
  for (size_t b = 0; b < kBands.size(); ++b)
    if (low.bandPower[b] > std::max(s.pair.kick.low.bandPower[b], s.pair.bass.low.bandPower[b])) return true;
  return false;
}

}  // namespace

namespace {

struct Grounded {
  std::vector<CompareCurve> curves;
  std::vector<double> ground;  // what was taken off, one a profileHz()
};

Grounded groundedCurves(const Study& s, bool againstMedian) {
  using Of = CompareCurve::Of;
  Grounded result;
  std::vector<CompareCurve>& out = result.curves;
  auto add = [&](Of of, const LowEnd& low, double shiftDb, std::optional<int> part = {}) {
    out.push_back({.of = of, .part = part, .db = low.curveDb});
    for (double& db : out.back().db) db += shiftDb;
  };
  auto addLane = [&](Of of, const LowEnd& low, std::optional<int> part = {}) {
    if (low.totalPower > 0.0 && s.sum.integratedLufs)
      add(of, low, dbFromPower(low.totalPower) - *s.sum.integratedLufs, part);
  };
  std::vector<CompareCurve> counted;
  for (const MeasuredSection& r : s.references) {
    if (!r.isLoud()) continue;
    add(Of::Reference, r.profile->facts.low, loudnessShiftDb(r.profile->facts));
    out.back().reference = r.of.reference, out.back().section = r.of.section;
    if (r.of.counts) counted.push_back(out.back());
  }
  const bool floor = againstMedian && !counted.empty();
  for (const PartFacts& of : s.others)
    if (leadsInABand(of.low, s)) addLane(Of::Part, of.low, of.part);
  addLane(Of::Kick, s.pair.kick.low);
  addLane(Of::Bass, s.pair.bass.low);
  add(Of::Sum, s.sum.low, loudnessShiftDb(s.sum));
  double top = -300.0;
  for (const CompareCurve& c : out) top = std::max(top, *std::max_element(c.db.begin(), c.db.end()));
  result.ground = floor ? smoothedCurve(middleOf(counted)) : std::vector<double>(profileHz().size(), top);
  for (CompareCurve& c : out) {
    c.db = smoothedCurve(c.db);
    for (size_t i = 0; i < c.db.size(); ++i) c.db[i] -= result.ground[i];
  }
  return result;
}

}  // namespace

std::vector<CompareCurve> compareCurves(const Study& study, bool againstMedian) {
  return groundedCurves(study, againstMedian).curves;
}

OverTimeBand overTimeBand(const Study& study, bool againstMedian) {
  OverTimeBand out;
  const auto ground = groundedCurves(study, againstMedian).ground;
  for (size_t i = 0; i < ground.size(); ++i) {
    std::vector<double> low, high;
    for (const MeasuredSection& r : study.references)
      if (r.of.counts && r.profile && !r.profile->overTime.empty())
        low.push_back(r.profile->overTime.low[i]), high.push_back(r.profile->overTime.high[i]);
    if (low.empty()) return {};
    out.low.push_back(median(std::move(low)) - ground[i]),
        out.high.push_back(median(std::move(high)) - ground[i]);
  }
  return out;
}

OverTimeBand overTimeOf(const SectionProfile& sum, const Study& study, bool againstMedian) {
  OverTimeBand out;
  const auto ground = groundedCurves(study, againstMedian).ground;
  if (sum.overTime.empty() || sum.overTime.low.size() != ground.size()) return out;
  for (size_t i = 0; i < ground.size(); ++i)
    out.low.push_back(sum.overTime.low[i] - ground[i]), out.high.push_back(sum.overTime.high[i] - ground[i]);
  return out;
}

}  // namespace heft
