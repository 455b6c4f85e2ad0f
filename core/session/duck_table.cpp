// Values of duckings (table.h), each with its key, its range and its unit.

#include "core/session/fields.h"
#include "core/session/rows.h"

namespace heft {

using namespace rows;

template <>
const Table& tableOf<TriggerHit>() {
  static constexpr Row kRows[] = {number<&TriggerHit::startQuarters>("start", {0, 1e5, Unit::Quarters}),
                                  number<&TriggerHit::lengthQuarters>("length", {0.01, 1e5, Unit::Quarters}),
                                  number<&TriggerHit::velocity>("velocity", {0, 1, Unit::Share}),
                                  whole<&TriggerHit::midi>("midi", {0, 127, Unit::Midi})};
  static constexpr Table kTable = made<TriggerHit>(kRows);
  return kTable;
}

template <>
const Table& tableOf<HitMark>() {
  static constexpr Row kRows[] = {number<&HitMark::seconds>("at_s", {0, 7200, Unit::Seconds}),
                                  flag<&HitMark::fires>("fires")};
  static constexpr Table kTable = made<HitMark>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DuckSource>() {
  static constexpr Row kRows[] = {choice<&DuckSource::kind>("kind"),
                                  whole<&DuckSource::part>("part", {1, kHighestId}),
                                  number<&DuckSource::lowCutHz>("low_cut_hz", {20, 10000, Unit::Hz}),
                                  number<&DuckSource::highCutHz>("high_cut_hz", {20, 20000, Unit::Hz}),
                                  number<&DuckSource::thresholdDb>("threshold_db", {-80, 0, Unit::Db}),
                                  number<&DuckSource::shortestGapMs>("shortest_gap_ms", {5, 2000, Unit::Ms}),
                                  object<&DuckSource::asset>("asset", Saved::WhenSet),
                                  number<&DuckSource::offsetSeconds>("offset_s", {-600, 600, Unit::Seconds}),
                                  flag<&DuckSource::repeats>("repeats"),
                                  list<&DuckSource::marks>("marks", kMostMarks, Saved::WhenSet),
                                  text<&DuckSource::midiName>("midi_name", kLongestName, Saved::WhenSet),
                                  list<&DuckSource::notes>("notes", kMostHits, Saved::WhenSet),
                                  number<&DuckSource::midiQuarters>("midi_quarters", {0, 1e5, Unit::Quarters}),
                                  wholes<&DuckSource::pitches>("pitches", 128, {0, 127, Unit::Midi}),
                                  list<&DuckSource::hits>("hits", kMostHits, Saved::WhenSet)};
  static constexpr Table kTable = made<DuckSource>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DipPoint>() {
  static constexpr Row kRows[] = {number<&DipPoint::at>("at", {0, 1, Unit::Share}),
                                  number<&DipPoint::taken>("taken", {0, 1, Unit::Share}),
                                  number<&DipPoint::bend>("bend", {-1, 1, Unit::Number})};
  static constexpr Table kTable = made<DipPoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DuckCurve>() {
  static constexpr Row kRows[] = {
      number<&DuckCurve::depthDb>("depth_db", {0, kSilentDepthDb, Unit::Db}),
      time<&DuckCurve::attack>("attack", {0, 5000, Unit::Ms}),
      time<&DuckCurve::hold>("hold", {0, 5000, Unit::Ms}),
      time<&DuckCurve::release>("return", {0, 5000, Unit::Ms}),
      choice<&DuckCurve::lasts>("lasts"),
      time<&DuckCurve::length>("length", {1, 20000, Unit::Ms}),
      list<&DuckCurve::points>("points", kMostDipPoints, Saved::WhenSet),
      number<&DuckCurve::velocityToDepth>("velocity_to_depth", {0, 1, Unit::Share})};
  static constexpr Table kTable = made<DuckCurve>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Follower>() {
  static constexpr Row kRows[] = {number<&Follower::thresholdDb>("threshold_db", {-80, 0, Unit::Db}),
                                  number<&Follower::ratio>("ratio", {1, 100, Unit::Number}),
                                  number<&Follower::kneeDb>("knee_db", {0, 40, Unit::Db}),
                                  number<&Follower::attackMs>("attack_ms", {0, 500, Unit::Ms}),
                                  number<&Follower::holdMs>("hold_ms", {0, 2000, Unit::Ms}),
                                  number<&Follower::releaseMs>("release_ms", {1, 5000, Unit::Ms}),
                                  number<&Follower::lookaheadMs>("lookahead_ms", {0, 50, Unit::Ms}),
                                  choice<&Follower::level>("level"),
                                  number<&Follower::deepestDb>("deepest_db", {0, kSilentDepthDb, Unit::Db})};
  static constexpr Table kTable = made<Follower>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Mirror>() {
  static constexpr Row kRows[] = {number<&Mirror::withinDb>("within_db", {0, 6, Unit::Db}),
                                  number<&Mirror::belowHz>("below_hz", {40, 400, Unit::Hz}),
                                  number<&Mirror::deepestDb>("deepest_db", {0, kSilentDepthDb, Unit::Db})};
  static constexpr Table kTable = made<Mirror>(kRows);
  return kTable;
}

template <>
const Table& tableOf<BandStep>() {
  static constexpr Row kRows[] = {number<&BandStep::belowHz>("below_hz", {30, 4000, Unit::Hz}),
                                  number<&BandStep::share>("share", {0, 1, Unit::Share})};
  static constexpr Table kTable = made<BandStep>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DuckBand>() {
  static constexpr Row kRows[] = {choice<&DuckBand::kind>("kind"),
                                  number<&DuckBand::belowHz>("below_hz", {30, 1000, Unit::Hz}),
                                  choice<&DuckBand::at>("at"),
                                  number<&DuckBand::semitones>("semitones", {-24, 60, Unit::Semitones}),
                                  number<&DuckBand::octaves>("octaves", {0.1, 4, Unit::Number}),
                                  list<&DuckBand::steps>("steps", kMostBandSteps),
                                  number<&DuckBand::aboveShare>("above_share", {0, 1, Unit::Share})};
  static constexpr Table kTable = made<DuckBand>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DuckTarget>() {
  static constexpr Row kRows[] = {choice<&DuckTarget::kind>("kind"),
                                  whole<&DuckTarget::part>("part", {1, kHighestId}),
                                  whole<&DuckTarget::layer>("layer", {1, kHighestId})};
  static constexpr Table kTable = made<DuckTarget>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Duck>() {
  static constexpr Row kRows[] = {whole<&Duck::id>("id", {1, kHighestId}),
                                  text<&Duck::name>("name", kLongestName, Saved::WhenSet),
                                  flag<&Duck::on>("on"),
                                  object<&Duck::source>("source"),
                                  choice<&Duck::movement>("movement"),
                                  object<&Duck::curve>("curve"),
                                  object<&Duck::follower>("follower"),
                                  object<&Duck::mirror>("mirror"),
                                  object<&Duck::band>("band"),
                                  object<&Duck::target>("target"),
                                  number<&Duck::amount>("amount", {0, 1, Unit::Share}),
                                  kept<&Duck::unknown>()};
  static constexpr Table kTable = made<Duck>(kRows);
  return kTable;
}

template <>
const Table& tableOf<DuckingBus>() {
  static constexpr Row kRows[] = {number<&DuckingBus::amount>("amount", {0, 1, Unit::Share}),
                                  choice<&DuckingBus::meet>("together"), kept<&DuckingBus::unknown>()};
  static constexpr Table kTable = made<DuckingBus>(kRows);
  return kTable;
}

template <>
const Table& tableOf<HandOver>() {
  static constexpr Row kRows[] = {flag<&HandOver::on>("on"),
                                  number<&HandOver::ms>("ms", {kLeastHandOverMs, kMostHandOverMs, Unit::Ms}),
                                  number<&HandOver::alike>("alike", {kLeastAlike, 1, Unit::Number})};
  static constexpr Table kTable = made<HandOver>(kRows);
  return kTable;
}

}  // namespace heft
