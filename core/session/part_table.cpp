// Values of parts, layers and events (table.h), each with its key, its range and its unit.

#include "core/session/fields.h"
#include "core/session/rows.h"

namespace heft {

using namespace rows;

template <>
const Table& tableOf<Recorded>() {
  static constexpr Row kRows[] = {
      object<&Recorded::asset>("asset"),
      number<&Recorded::targetMidi>("target_midi", {0, 127, Unit::Midi}),
      choice<&Recorded::method>("method"),
      number<&Recorded::strikeMs>("strike_ms", {1, 200, Unit::Ms}),
      number<&Recorded::strikeSemitones>("strike_semitones", {-24, 24, Unit::Semitones}),
      number<&Recorded::flatten>("flatten", {0, 1, Unit::Share}),
      number<&Recorded::band, &LandingOptions::lowHz>("band_low_hz", {10, 0.9 * kHighestBandHz, Unit::Hz}),
      number<&Recorded::band, &LandingOptions::highHz>("band_high_hz", {11, kHighestBandHz, Unit::Hz}),
      number<&Recorded::band, &LandingOptions::atMs>("landing_ms", {0, 60000, Unit::Ms}),
      number<&Recorded::band, &LandingOptions::atHz>("landing_hz", {8, kHighestBandHz, Unit::Hz}),
      number<&Recorded::onsetMs>("onset_ms", {0, 60000, Unit::Ms}),
      number<&Recorded::rootMidi>("root_midi", {0, 127, Unit::Midi}),
      time<&Recorded::length>("length", {kShortestTailMs, kLongestTailMs, Unit::Ms}),
      flag<&Recorded::followNotes>("follow_notes"),
      number<&Recorded::glideMs>("glide_ms", {0, 2000, Unit::Ms}),
      flag<&Recorded::keepLength>("keep_length"),
      number<&Recorded::velocityToLevel>("velocity_to_level", {0, 1, Unit::Share}),
      object<&Recorded::split>("split", Saved::WhenSet),
      object<&Recorded::fade>("fade", Saved::WhenSet),
      kept<&Recorded::unknown>()};
  static constexpr Table kTable = made<Recorded>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Layer>() {
  static constexpr Row kRows[] = {
      whole<&Layer::id>("id", {1, kHighestId}),
      text<&Layer::name>("name", kLongestName),
      number<&Layer::levelDb>("level_db", {kLeastLevelDb, kMostLevelDb, Unit::Db}),
      flag<&Layer::invert>("invert"),
      flag<&Layer::mute>("mute"),
      flag<&Layer::solo>("solo"),
      number<&Layer::offsetMs>("offset_ms", {-kMostOffsetMs, kMostOffsetMs, Unit::Ms}),
      flag<&Layer::betweenSamples>("between_samples", Saved::WhenSet),
      number<&Layer::semitones>("semitones", {-48, 48, Unit::Semitones}),
      which<&Layer::what>(kLayerKeys),
      object<&Layer::shape>("shape", Saved::WhenSet),
      object<&Layer::chain>("chain", Saved::WhenSet),
      kept<&Layer::unknown>()};
  static constexpr Table kTable = made<Layer>(kRows);
  return kTable;
}

template <>
const Table& tableOf<PartVersion>() {
  static constexpr Row kRows[] = {
      text<&PartVersion::name>("name", kLongestName), list<&PartVersion::layers>("layers", 64),
      object<&PartVersion::finish>("finish", Saved::WhenSet), kept<&PartVersion::unknown>()};
  static constexpr Table kTable = made<PartVersion>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Versions>() {
  static constexpr Row kRows[] = {whole<&Versions::now>("now", {0, static_cast<double>(kMostVersions) - 1}),
                                  list<&Versions::all>("all", kMostVersions)};
  static constexpr Table kTable = made<Versions>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Hit>() {
  static constexpr Row kRows[] = {number<&Hit::startQuarters>("start", {0, 1e5, Unit::Quarters}),
                                  number<&Hit::velocity>("velocity", {0, 1, Unit::Share}),
                                  wholes<&Hit::without>("without", 64, {1, kHighestId}), kept<&Hit::unknown>()};
  static constexpr Table kTable = made<Hit>(kRows);
  return kTable;
}

template <>
const Table& tableOf<NoteMove>() {
  static constexpr Row kRows[] = {number<&NoteMove::offsetMs>("offset_ms", {-50, 50, Unit::Ms}),
                                  number<&NoteMove::phaseDegrees>("phase", {0, 360, Unit::Degrees})};
  static constexpr Table kTable = made<NoteMove>(kRows);
  return kTable;
}

template <>
const Table& tableOf<NoteTrim>() {
  static constexpr Row kRows[] = {number<&NoteTrim::db>("db", {-kMostTrimDb, kMostTrimDb, Unit::Db})};
  static constexpr Table kTable = made<NoteTrim>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Note>() {
  static constexpr Row kRows[] = {number<&Note::startQuarters>("start", {0, 1e5, Unit::Quarters}),
                                  number<&Note::lengthQuarters>("length", {0.01, 1e5, Unit::Quarters}),
                                  whole<&Note::midi>("midi", {0, 127, Unit::Midi}),
                                  number<&Note::velocity>("velocity", {0, 1, Unit::Share}),
                                  wholes<&Note::without>("without", 64, {1, kHighestId}),
                                  flag<&Note::tie>("tie", Saved::WhenSet),
                                  object<&Note::dive>("dive", Saved::WhenSet),
                                  object<&Note::move>("move", Saved::WhenSet),
                                  object<&Note::trim>("trim", Saved::WhenSet),
                                  kept<&Note::unknown>()};
  static constexpr Table kTable = made<Note>(kRows);
  return kTable;
}

template <>
const Table& tableOf<WheelPoint>() {
  static constexpr Row kRows[] = {number<&WheelPoint::quarters>("at", {0, 1e5, Unit::Quarters}),
                                  number<&WheelPoint::value>("value", {-1, 1, Unit::Number}),
                                  kept<&WheelPoint::unknown>()};
  static constexpr Table kTable = made<WheelPoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<AllPass>() {
  static constexpr Row kRows[] = {flag<&AllPass::on>("on"), number<&AllPass::hz>("hz", {10, 1000, Unit::Hz}),
                                  number<&AllPass::q>("q", {0.1, 10, Unit::Number})};
  static constexpr Table kTable = made<AllPass>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Rotation>() {
  static constexpr Row kRows[] = {flag<&Rotation::on>("on"), object<&Rotation::stages, 0>("stage_1"),
                                  object<&Rotation::stages, 1>("stage_2"),
                                  object<&Rotation::stages, 2>("stage_3"),
                                  object<&Rotation::stages, 3>("stage_4")};
  static constexpr Table kTable = made<Rotation>(kRows);
  return kTable;
}

template <>
const Table& tableOf<AlignMove>() {
  static constexpr Row kRows[] = {
      number<&AlignMove::delayMs>("delay_ms", {-200, 200, Unit::Ms}),
      flag<&AlignMove::invert>("invert"),
      object<&AlignMove::rotation>("rotation", Saved::WhenSet),
      number<&AlignMove::question, &AlignQuestion::lowHz>("low_hz", {10, 999, Unit::Hz}),
      number<&AlignMove::question, &AlignQuestion::highHz>("high_hz", {11, 1000, Unit::Hz}),
      number<&AlignMove::question, &AlignQuestion::maxDelayMs>("max_delay_ms", {0, 200, Unit::Ms}),
      kept<&AlignMove::unknown>()};
  static constexpr Table kTable = made<AlignMove>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Part>() {
  static constexpr Row kRows[] = {
      whole<&Part::id>("id", {1, kHighestId}),
      text<&Part::role>("role", kLongestName),
      text<&Part::name>("name", kLongestName),
      choice<&Part::plays>("plays"),
      list<&Part::layers>("layers", 64),
      list<&Part::hits>("hits", kMostHits, Saved::WhenSet),
      list<&Part::notes>("notes", kMostHits, Saved::WhenSet),
      list<&Part::wheel>("wheel", kMostWheelPoints, Saved::WhenSet),
      number<&Part::wheelRange>("wheel_range", {1, 48, Unit::Semitones}),
      time<&Part::tailTarget>("tail_target", {kShortestTailMs, kLongestTailMs, Unit::Ms}),
      object<&Part::contour>("contour", Saved::WhenSet),
      object<&Part::align>("align"),
      object<&Part::finish>("finish", Saved::WhenSet),
      choice<&Part::finishOver>("finish_over"),
      number<&Part::levelDb>("level_db", {kLeastLevelDb, kMostLevelDb, Unit::Db}),
      object<&Part::versions>("versions", Saved::WhenSet),
      kept<&Part::unknown>()};
  static constexpr Table kTable = made<Part>(kRows);
  return kTable;
}

}  // namespace heft
