// Values of voices, processors and chains (table.h), each with its key, its range and its unit.

#include "core/session/fields.h"
#include "core/session/rows.h"

namespace heft {

using namespace rows;

template <>
const Table& tableOf<Cut>() {
  static constexpr Row kRows[] = {flag<&Cut::on>("on"), number<&Cut::hz>("hz", {10, 20000, Unit::Hz}),
                                  whole<&Cut::slopeDbPerOctave>("slope_db", {12, 48, Unit::Db}),
                                  number<&Cut::resonanceDb>("resonance_db", {0, 18, Unit::Db})};
  static constexpr Table kTable = made<Cut>(kRows);
  return kTable;
}

template <>
const Table& tableOf<EqBand>() {
  static constexpr Row kRows[] = {flag<&EqBand::on>("on"), choice<&EqBand::kind>("kind"),
                                  number<&EqBand::hz>("hz", {10, 20000, Unit::Hz}),
                                  number<&EqBand::gainDb>("gain_db", {-30, 30, Unit::Db}),
                                  number<&EqBand::q>("q", {0.1, 30, Unit::Number})};
  static constexpr Table kTable = made<EqBand>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Eq>() {
  static constexpr Row kRows[] = {flag<&Eq::on>("on"),
                                  object<&Eq::lowCut>("low_cut"),
                                  object<&Eq::highCut>("high_cut"),
                                  object<&Eq::bands, 0>("band_1"),
                                  object<&Eq::bands, 1>("band_2"),
                                  object<&Eq::bands, 2>("band_3"),
                                  object<&Eq::bands, 3>("band_4"),
                                  number<&Eq::amount>("amount", {0, 1.5, Unit::Share}),
                                  flag<&Eq::linearPhase>("linear_phase", Saved::WhenSet)};
  static constexpr Table kTable = made<Eq>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Drive>() {
  static constexpr Row kRows[] = {flag<&Drive::on>("on"),
                                  choice<&Drive::kind>("kind"),
                                  number<&Drive::inputDb>("input_db", {-24, 24, Unit::Db}),
                                  number<&Drive::driveDb>("drive_db", {0, 30, Unit::Db}),
                                  number<&Drive::mix>("mix", {0, 1, Unit::Share}),
                                  number<&Drive::fromHz>("from_hz", {20, 10000, Unit::Hz}),
                                  number<&Drive::toHz>("to_hz", {20, 20000, Unit::Hz}),
                                  number<&Drive::toneDb>("tone_db", {-24, 24, Unit::Db})};
  static constexpr Table kTable = made<Drive>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Strike>() {
  static constexpr Row kRows[] = {flag<&Strike::on>("on"),
                                  choice<&Strike::kind>("kind"),
                                  number<&Strike::pitchMidi>("pitch_midi", {36, 127, Unit::Midi}),
                                  number<&Strike::levelDb>("level_db", {-60, 12, Unit::Db}),
                                  number<&Strike::lengthMs>("length_ms", {0.5, 100, Unit::Ms}),
                                  flag<&Strike::throughDrive>("through_drive")};
  static constexpr Table kTable = made<Strike>(kRows);
  return kTable;
}

template <>
const Table& tableOf<NoiseBurst>() {
  static constexpr Row kRows[] = {flag<&NoiseBurst::on>("on"),
                                  number<&NoiseBurst::levelDb>("level_db", {-80, 0, Unit::Db}),
                                  number<&NoiseBurst::attackMs>("attack_ms", {0, 100, Unit::Ms}),
                                  number<&NoiseBurst::lengthMs>("length_ms", {1, 1000, Unit::Ms}),
                                  number<&NoiseBurst::lowCutHz>("low_cut_hz", {20, 18000, Unit::Hz}),
                                  number<&NoiseBurst::highCutHz>("high_cut_hz", {50, 20000, Unit::Hz})};
  static constexpr Table kTable = made<NoiseBurst>(kRows);
  return kTable;
}

template <>
const Table& tableOf<FallPoint>() {
  static constexpr Row kRows[] = {number<&FallPoint::at>("at", {0, 1, Unit::Share}),
                                  number<&FallPoint::semitones>("semitones", {-24, 60, Unit::Semitones}),
                                  number<&FallPoint::bend>("bend", {-1, 1, Unit::Number})};
  static constexpr Table kTable = made<FallPoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<KickVoice>() {
  static constexpr Row kRows[] = {
      number<&KickVoice::landingMidi>("landing_midi", {12, 80, Unit::Midi}),
      time<&KickVoice::length>("length", {kShortestKickMs, kLongestKickMs, Unit::Ms}),
      list<&KickVoice::fall>("fall", 32),
      number<&KickVoice::landingAt>("landing_at", {0.02, 1, Unit::Share}),
      choice<&KickVoice::wave>("wave"),
      number<&KickVoice::waveAmount>("wave_amount", {0, 1, Unit::Share}),
      number<&KickVoice::attackMs>("attack_ms", {0, 50, Unit::Ms}),
      number<&KickVoice::hold>("hold", {0, 0.9, Unit::Share}),
      number<&KickVoice::decayBend>("decay_bend", {-1, 1, Unit::Share}),
      number<&KickVoice::startPhaseDegrees>("start_phase", {0, 360, Unit::Degrees}),
      object<&KickVoice::strike>("strike"),
      object<&KickVoice::noise>("noise"),
      object<&KickVoice::drive>("drive"),
      number<&KickVoice::velocityToLevel>("velocity_to_level", {0, 1, Unit::Share}),
      number<&KickVoice::velocityToLength>("velocity_to_length", {0, 1, Unit::Share}),
      kept<&KickVoice::unknown>()};
  static constexpr Table kTable = made<KickVoice>(kRows);
  return kTable;
}

template <>
const Table& tableOf<ContourPoint>() {
  static constexpr Row kRows[] = {time<&ContourPoint::at>("at", {0, kLatestContourMs, Unit::Ms}),
                                  number<&ContourPoint::db>("db", {kLeastContourDb, kMostContourDb, Unit::Db}),
                                  number<&ContourPoint::bend>("bend", {-1, 1, Unit::Number})};
  static constexpr Table kTable = made<ContourPoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Contour>() {
  static constexpr Row kRows[] = {flag<&Contour::on>("on"),
                                  number<&Contour::amount>("amount", {0, 1, Unit::Share}),
                                  list<&Contour::points>("points", kMostContourPoints),
                                  time<&Contour::release>("release", {kShortestReleaseMs, 5000, Unit::Ms})};
  static constexpr Table kTable = made<Contour>(kRows);
  return kTable;
}

template <>
const Table& tableOf<MidBand>() {
  static constexpr Row kRows[] = {level<&MidBand::levelDb>("level_db", {kLeastPartialDb, 12, Unit::Db}),
                                  choice<&MidBand::wave>("wave"),
                                  level<&MidBand::noiseDb>("noise_db", {kLeastPartialDb, 0, Unit::Db}),
                                  number<&MidBand::noiseFromHz>("noise_from_hz", {20, 20000, Unit::Hz}),
                                  number<&MidBand::noiseToHz>("noise_to_hz", {20, 20000, Unit::Hz}),
                                  object<&MidBand::drive>("drive"),
                                  number<&MidBand::lowCutHz>("low_cut_hz", {20, 5000, Unit::Hz})};
  static constexpr Table kTable = made<MidBand>(kRows);
  return kTable;
}

template <>
const Table& tableOf<HighBand>() {
  static constexpr Row kRows[] = {level<&HighBand::levelDb>("level_db", {kLeastPartialDb, 12, Unit::Db}),
                                  choice<&HighBand::kind>("kind"),
                                  number<&HighBand::ratio>("ratio", {1, 40, Unit::Number}),
                                  number<&HighBand::index>("index", {0, 20, Unit::Number}),
                                  number<&HighBand::lowCutHz>("low_cut_hz", {100, 12000, Unit::Hz}),
                                  number<&HighBand::decayMs>("decay_ms", {5, 5000, Unit::Ms})};
  static constexpr Table kTable = made<HighBand>(kRows);
  return kTable;
}

template <>
const Table& tableOf<BassVoice>() {
  static constexpr Row kRows[] = {
      level<&BassVoice::partialDb, 0>("partial_1_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 1>("partial_2_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 2>("partial_3_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 3>("partial_4_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 4>("partial_5_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 5>("partial_6_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 6>("partial_7_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::partialDb, 7>("partial_8_db", {kLeastPartialDb, 12, Unit::Db}),
      level<&BassVoice::octaveBelowDb>("octave_below_db", {kLeastPartialDb, 12, Unit::Db}),
      number<&BassVoice::startPhaseDegrees>("start_phase", {0, 360, Unit::Degrees}),
      flag<&BassVoice::freePhase>("free_phase"),
      number<&BassVoice::attackMs>("attack_ms", {0, 500, Unit::Ms}),
      number<&BassVoice::decayMs>("decay_ms", {1, 5000, Unit::Ms}),
      number<&BassVoice::sustainDb>("sustain_db", {-60, 0, Unit::Db}),
      number<&BassVoice::releaseMs>("release_ms", {1, 5000, Unit::Ms}),
      number<&BassVoice::glideMs>("glide_ms", {0, 2000, Unit::Ms}),
      object<&BassVoice::mid>("mid"),
      object<&BassVoice::high>("high"),
      number<&BassVoice::width>("width", {0, 1, Unit::Share}),
      number<&BassVoice::widthFromHz>("width_from_hz", {100, 5000, Unit::Hz}),
      number<&BassVoice::velocityToLevel>("velocity_to_level", {0, 1, Unit::Share}),
      kept<&BassVoice::unknown>()};
  static constexpr Table kTable = made<BassVoice>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Dive>() {
  static constexpr Row kRows[] = {number<&Dive::semitones>("semitones", {0, 24, Unit::Semitones}),
                                  number<&Dive::startQuarters>("start", {0, 64, Unit::Quarters}),
                                  number<&Dive::lengthQuarters>("length", {0.01, 64, Unit::Quarters}),
                                  number<&Dive::bend>("bend", {-1, 1, Unit::Number})};
  static constexpr Table kTable = made<Dive>(kRows);
  return kTable;
}

template <>
const Table& tableOf<SoundSide>() {
  static constexpr Row kRows[] = {choice<&SoundSide::side>("side"),
                                  whole<&SoundSide::otherLayer>("other_layer", {0, kHighestId}),
                                  number<&SoundSide::atMs>("at_ms", {kLeastCutMs, kMostCutMs, Unit::Ms}),
                                  number<&SoundSide::joinMs>("join_ms", {kLeastJoinMs, kMostJoinMs, Unit::Ms})};
  static constexpr Table kTable = made<SoundSide>(kRows);
  return kTable;
}

template <>
const Table& tableOf<FadePoint>() {
  static constexpr Row kRows[] = {number<&FadePoint::at>("at", {0, 1, Unit::Share}),
                                  number<&FadePoint::gain>("gain", {0, 1, Unit::Share})};
  static constexpr Table kTable = made<FadePoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<TailFade>() {
  static constexpr Row kRows[] = {choice<&TailFade::shape>("shape"),
                                  number<&TailFade::from>("from", {0, 0.95, Unit::Share}),
                                  number<&TailFade::bend>("bend", {-1, 1, Unit::Number}),
                                  list<&TailFade::points>("points", kMostFadePoints)};
  static constexpr Table kTable = made<TailFade>(kRows);
  return kTable;
}

template <>
const Table& tableOf<AmpEnvelope>() {
  static constexpr Row kRows[] = {flag<&AmpEnvelope::on>("on"),
                                  number<&AmpEnvelope::attackMs>("attack_ms", {0, 2000, Unit::Ms}),
                                  number<&AmpEnvelope::holdMs>("hold_ms", {0, 5000, Unit::Ms}),
                                  number<&AmpEnvelope::decayMs>("decay_ms", {1, 10000, Unit::Ms})};
  static constexpr Table kTable = made<AmpEnvelope>(kRows);
  return kTable;
}

template <>
const Table& tableOf<StrikeSustain>() {
  static constexpr Row kRows[] = {flag<&StrikeSustain::on>("on"),
                                  number<&StrikeSustain::strikeDb>("strike_db", {-40, 24, Unit::Db}),
                                  number<&StrikeSustain::sustainDb>("sustain_db", {-40, 24, Unit::Db}),
                                  number<&StrikeSustain::strikeMs>("strike_ms", {1, 200, Unit::Ms})};
  static constexpr Table kTable = made<StrikeSustain>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Room>() {
  static constexpr Row kRows[] = {flag<&Room::on>("on"), number<&Room::wet>("wet", {0, 1, Unit::Share}),
                                  number<&Room::sizeMs>("size_ms", {10, 400, Unit::Ms}),
                                  number<&Room::dampingHz>("damping_hz", {500, 20000, Unit::Hz})};
  static constexpr Table kTable = made<Room>(kRows);
  return kTable;
}

template <>
const Table& tableOf<LayerShape>() {
  static constexpr Row kRows[] = {number<&LayerShape::startMs>("start_ms", {0, 60000, Unit::Ms}),
                                  number<&LayerShape::fadeInMs>("fade_in_ms", {0, 5000, Unit::Ms}),
                                  number<&LayerShape::fadeOutMs>("fade_out_ms", {0, 5000, Unit::Ms})};
  static constexpr Table kTable = made<LayerShape>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Compressor>() {
  static constexpr Row kRows[] = {
      flag<&Compressor::on>("on"),
      number<&Compressor::thresholdDb>("threshold_db", {-60, 0, Unit::Db}),
      number<&Compressor::ratio>("ratio", {1, 100, Unit::Number}),
      number<&Compressor::kneeDb>("knee_db", {0, 40, Unit::Db}),
      number<&Compressor::attackMs>("attack_ms", {0, 500, Unit::Ms}),
      number<&Compressor::releaseMs>("release_ms", {1, 5000, Unit::Ms}),
      number<&Compressor::makeupDb>("makeup_db", {-kMostMakeupDb, kMostMakeupDb, Unit::Db}),
      number<&Compressor::mix>("mix", {0, 1, Unit::Share}),
      number<&Compressor::liftBelowDb>("lift_below_db", {-60, 0, Unit::Db}),
      number<&Compressor::liftRatio>("lift_ratio", {1, 100, Unit::Number}),
      number<&Compressor::mostLiftDb>("most_lift_db", {0, 40, Unit::Db})};
  static constexpr Table kTable = made<Compressor>(kRows);
  return kTable;
}

template <>
const Table& tableOf<SoftClip>() {
  static constexpr Row kRows[] = {
      flag<&SoftClip::on>("on"), number<&SoftClip::kneeDb>("knee_db", {0.1, 24, Unit::Db}),
      number<&SoftClip::ceilingDb>("ceiling_db", {-24, 0, Unit::Db}), flag<&SoftClip::truePeak>("true_peak")};
  static constexpr Table kTable = made<SoftClip>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Limiter>() {
  static constexpr Row kRows[] = {
      flag<&Limiter::on>("on"), number<&Limiter::ceilingDb>("ceiling_db", {-24, 0, Unit::Db}),
      number<&Limiter::releaseMs>("release_ms", {1, 2000, Unit::Ms}), flag<&Limiter::truePeak>("true_peak")};
  static constexpr Table kTable = made<Limiter>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Width>() {
  static constexpr Row kRows[] = {flag<&Width::on>("on"), number<&Width::width>("width", {0, 2, Unit::Share}),
                                  number<&Width::monoBelowHz>("mono_below_hz", {20, 20000, Unit::Hz})};
  static constexpr Table kTable = made<Width>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Gain>() {
  static constexpr Row kRows[] = {flag<&Gain::on>("on"), number<&Gain::db>("db", {-60, 24, Unit::Db})};
  static constexpr Table kTable = made<Gain>(kRows);
  return kTable;
}

template <>
const Table& tableOf<AssetRef>() {
  static constexpr Row kRows[] = {
      text<&AssetRef::hash>("hash", 32),
      text<&AssetRef::name>("name", kLongestText),
      text<&AssetRef::from>("from", kLongestText, Saved::WhenSet),
      count<&AssetRef::stamp, &SourceStamp::bytes>("from_bytes", Saved::WhenSet),
      count<&AssetRef::stamp, &SourceStamp::changedNs>("from_changed_ns", Saved::WhenSet),
      kept<&AssetRef::unknown>()};
  static constexpr Table kTable = made<AssetRef>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Body>() {
  static constexpr Row kRows[] = {
      flag<&Body::on>("on"), object<&Body::asset>("asset", Saved::WhenSet),
      number<&Body::response, &BodySettings::wet>("wet", {0, 1, Unit::Share}),
      number<&Body::response, &BodySettings::decayMs>("decay_ms", {5, 2000, Unit::Ms}),
      number<&Body::response, &BodySettings::dampingHz>("damping_hz", {50, 20000, Unit::Hz})};
  static constexpr Table kTable = made<Body>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Processor>() {
  static constexpr Row kRows[] = {
      whole<&Processor::id>("id", {1, kHighestId}), which<&Processor::what>(kProcessorKeys, true),
      flag<&Processor::keepsLoudness>("keep_loudness", Saved::WhenSet), kept<&Processor::unknown>()};
  static constexpr Table kTable = made<Processor>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Chain>() {
  static constexpr Row kRows[] = {flag<&Chain::on>("on"), list<&Chain::list>("list", kMostProcessors)};
  static constexpr Table kTable = made<Chain>(kRows);
  return kTable;
}

}  // namespace heft
