#pragma once
/// Every value of voices, processors and finishes with its name in files, its range and its unit, in one list
/// each. File reading and writing, the keys of render steps, the window's fields and the tests all use these
/// lists and those of fields.h; defaults are the types' own.
///
/// A visitor F has flag(name, bool), number(name, double, Range), whole(name, int, Range), time(name,
/// TimeValue, Range in ms for hands; a file may hold any), choice(name, enum, nameOf, parse), level(name,
/// optional double, Range), object(name, struct) and list(name, vector, most); for documents also those of
/// fields.h. Each may get Saved::WhenSet. T may be const.

#include <concepts>
#include <type_traits>

#include "core/session/part.h"

namespace heft {

/// A number's unit: how it is written, read and stepped.
enum class Unit { Number, Share, Db, Ms, Hz, Semitones, Midi, Degrees, Quarters, Seconds, Bpm };

struct Range {
  double low, high;
  Unit unit = Unit::Number;
};

/// Whether the file holds it always, or only where it differs from the type's default.
enum class Saved { Always, WhenSet };

inline constexpr int kHighestId = 1'000'000;

/// T is V, or V const.
template <class T, class V>
concept Is = std::same_as<std::remove_const_t<T>, V>;

template <Is<Cut> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("hz", v.hz, {10, 20000, Unit::Hz});
  f.whole("slope_db", v.slopeDbPerOctave, {12, 48, Unit::Db});
  f.number("resonance_db", v.resonanceDb, {0, 18, Unit::Db});
}

template <Is<EqBand> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.choice("kind", v.kind, eqKindName, parseEqKind);
  f.number("hz", v.hz, {10, 20000, Unit::Hz});
  f.number("gain_db", v.gainDb, {-30, 30, Unit::Db});
  f.number("q", v.q, {0.1, 30, Unit::Number});
}

template <Is<Eq> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.object("low_cut", v.lowCut);
  f.object("high_cut", v.highCut);
  f.object("band_1", v.bands[0]);
  f.object("band_2", v.bands[1]);
  f.object("band_3", v.bands[2]);
  f.object("band_4", v.bands[3]);
  f.number("amount", v.amount, {0, 1.5, Unit::Share});
  f.flag("linear_phase", v.linearPhase, Saved::WhenSet);
}

template <Is<Drive> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.choice("kind", v.kind, driveName, parseDrive);
  f.number("input_db", v.inputDb, {-24, 24, Unit::Db});
  f.number("drive_db", v.driveDb, {0, 30, Unit::Db});
  f.number("mix", v.mix, {0, 1, Unit::Share});
  f.number("from_hz", v.fromHz, {20, 10000, Unit::Hz});
  f.number("to_hz", v.toHz, {20, 20000, Unit::Hz});
  f.number("tone_db", v.toneDb, {-24, 24, Unit::Db});
}

template <Is<Strike> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.choice("kind", v.kind, strikeName, parseStrike);
  f.number("pitch_midi", v.pitchMidi, {36, 127, Unit::Midi});
  f.number("level_db", v.levelDb, {-60, 12, Unit::Db});
  f.number("length_ms", v.lengthMs, {0.5, 100, Unit::Ms});
  f.flag("through_drive", v.throughDrive);
}

template <Is<NoiseBurst> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("level_db", v.levelDb, {-80, 0, Unit::Db});
  f.number("attack_ms", v.attackMs, {0, 100, Unit::Ms});
  f.number("length_ms", v.lengthMs, {1, 1000, Unit::Ms});
  f.number("low_cut_hz", v.lowCutHz, {20, 18000, Unit::Hz});
  f.number("high_cut_hz", v.highCutHz, {50, 20000, Unit::Hz});
}

template <Is<FallPoint> T, class F>
void eachOf(T& v, F& f) {
  f.number("at", v.at, {0, 1, Unit::Share});
  f.number("semitones", v.semitones, {-24, 60, Unit::Semitones});
  f.number("bend", v.bend, {-1, 1, Unit::Number});
}

template <Is<KickVoice> T, class F>
void eachOf(T& v, F& f) {
  f.number("landing_midi", v.landingMidi, {12, 80, Unit::Midi});
  f.time("length", v.length, {kShortestKickMs, kLongestKickMs, Unit::Ms});
  f.list("fall", v.fall, 32);
  f.number("landing_at", v.landingAt, {0.02, 1, Unit::Share});
  f.choice("wave", v.wave, waveName, parseWave);
  f.number("wave_amount", v.waveAmount, {0, 1, Unit::Share});
  f.number("attack_ms", v.attackMs, {0, 50, Unit::Ms});
  f.number("hold", v.hold, {0, 0.9, Unit::Share});
  f.number("decay_bend", v.decayBend, {-1, 1, Unit::Share});
  f.number("start_phase", v.startPhaseDegrees, {0, 360, Unit::Degrees});
  f.object("strike", v.strike);
  f.object("noise", v.noise);
  f.object("drive", v.drive);
  f.number("velocity_to_level", v.velocityToLevel, {0, 1, Unit::Share});
  f.number("velocity_to_length", v.velocityToLength, {0, 1, Unit::Share});
  f.kept(v.unknown);
}

template <Is<ContourPoint> T, class F>
void eachOf(T& v, F& f) {
  f.time("at", v.at, {0, kLatestContourMs, Unit::Ms});
  f.number("db", v.db, {kLeastContourDb, kMostContourDb, Unit::Db});
  f.number("bend", v.bend, {-1, 1, Unit::Number});
}

template <Is<Contour> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("amount", v.amount, {0, 1, Unit::Share});
  f.list("points", v.points, kMostContourPoints);
  f.time("release", v.release, {kShortestReleaseMs, 5000, Unit::Ms});
}

template <Is<MidBand> T, class F>
void eachOf(T& v, F& f) {
  f.level("level_db", v.levelDb, {kLeastPartialDb, 12, Unit::Db});
  f.choice("wave", v.wave, waveName, parseWave);
  f.level("noise_db", v.noiseDb, {kLeastPartialDb, 0, Unit::Db});
  f.number("noise_from_hz", v.noiseFromHz, {20, 20000, Unit::Hz});
  f.number("noise_to_hz", v.noiseToHz, {20, 20000, Unit::Hz});
  f.object("drive", v.drive);
  f.number("low_cut_hz", v.lowCutHz, {20, 5000, Unit::Hz});
}

template <Is<HighBand> T, class F>
void eachOf(T& v, F& f) {
  f.level("level_db", v.levelDb, {kLeastPartialDb, 12, Unit::Db});
  f.choice("kind", v.kind, highKindName, parseHighKind);
  f.number("ratio", v.ratio, {1, 40, Unit::Number});
  f.number("index", v.index, {0, 20, Unit::Number});
  f.number("low_cut_hz", v.lowCutHz, {100, 12000, Unit::Hz});
  f.number("decay_ms", v.decayMs, {5, 5000, Unit::Ms});
}

template <Is<BassVoice> T, class F>
void eachOf(T& v, F& f) {
  constexpr const char* kPartials[] = {"partial_1_db", "partial_2_db", "partial_3_db", "partial_4_db",
                                       "partial_5_db", "partial_6_db", "partial_7_db", "partial_8_db"};
  for (size_t k = 0; k < 8; ++k) f.level(kPartials[k], v.partialDb[k], {kLeastPartialDb, 12, Unit::Db});
  f.level("octave_below_db", v.octaveBelowDb, {kLeastPartialDb, 12, Unit::Db});
  f.number("start_phase", v.startPhaseDegrees, {0, 360, Unit::Degrees});
  f.flag("free_phase", v.freePhase);
  f.number("attack_ms", v.attackMs, {0, 500, Unit::Ms});
  f.number("decay_ms", v.decayMs, {1, 5000, Unit::Ms});
  f.number("sustain_db", v.sustainDb, {-60, 0, Unit::Db});
  f.number("release_ms", v.releaseMs, {1, 5000, Unit::Ms});
  f.number("glide_ms", v.glideMs, {0, 2000, Unit::Ms});
  f.object("mid", v.mid);
  f.object("high", v.high);
  f.number("width", v.width, {0, 1, Unit::Share});
  f.number("width_from_hz", v.widthFromHz, {100, 5000, Unit::Hz});
  f.number("velocity_to_level", v.velocityToLevel, {0, 1, Unit::Share});
  f.kept(v.unknown);
}

template <Is<Dive> T, class F>
void eachOf(T& v, F& f) {
  f.number("semitones", v.semitones, {0, 24, Unit::Semitones});
  f.number("start", v.startQuarters, {0, 64, Unit::Quarters});
  f.number("length", v.lengthQuarters, {0.01, 64, Unit::Quarters});
  f.number("bend", v.bend, {-1, 1, Unit::Number});
}

template <Is<SoundSide> T, class F>
void eachOf(T& v, F& f) {
  f.choice("side", v.side, sideName, parseSide);
  f.whole("other_layer", v.otherLayer, {0, kHighestId});
  f.number("at_ms", v.atMs, {kLeastCutMs, kMostCutMs, Unit::Ms});
  f.number("join_ms", v.joinMs, {kLeastJoinMs, kMostJoinMs, Unit::Ms});
}

template <Is<FadePoint> T, class F>
void eachOf(T& v, F& f) {
  f.number("at", v.at, {0, 1, Unit::Share});
  f.number("gain", v.gain, {0, 1, Unit::Share});
}

template <Is<TailFade> T, class F>
void eachOf(T& v, F& f) {
  f.choice("shape", v.shape, fadeShapeName, parseFadeShape);
  f.number("from", v.from, {0, 0.95, Unit::Share});
  f.number("bend", v.bend, {-1, 1, Unit::Number});
  f.list("points", v.points, kMostFadePoints);
}

template <Is<AmpEnvelope> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("attack_ms", v.attackMs, {0, 2000, Unit::Ms});
  f.number("hold_ms", v.holdMs, {0, 5000, Unit::Ms});
  f.number("decay_ms", v.decayMs, {1, 10000, Unit::Ms});
}

template <Is<StrikeSustain> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("strike_db", v.strikeDb, {-40, 24, Unit::Db});
  f.number("sustain_db", v.sustainDb, {-40, 24, Unit::Db});
  f.number("strike_ms", v.strikeMs, {1, 200, Unit::Ms});
}

template <Is<Room> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("wet", v.wet, {0, 1, Unit::Share});
  f.number("size_ms", v.sizeMs, {10, 400, Unit::Ms});
  f.number("damping_hz", v.dampingHz, {500, 20000, Unit::Hz});
}

template <Is<LayerShape> T, class F>
void eachOf(T& v, F& f) {
  f.number("start_ms", v.startMs, {0, 60000, Unit::Ms});
  f.number("fade_in_ms", v.fadeInMs, {0, 5000, Unit::Ms});
  f.number("fade_out_ms", v.fadeOutMs, {0, 5000, Unit::Ms});
}

template <Is<Compressor> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("threshold_db", v.thresholdDb, {-60, 0, Unit::Db});
  f.number("ratio", v.ratio, {1, 100, Unit::Number});
  f.number("knee_db", v.kneeDb, {0, 40, Unit::Db});
  f.number("attack_ms", v.attackMs, {0, 500, Unit::Ms});
  f.number("release_ms", v.releaseMs, {1, 5000, Unit::Ms});
  f.number("makeup_db", v.makeupDb, {-kMostMakeupDb, kMostMakeupDb, Unit::Db});
  f.number("mix", v.mix, {0, 1, Unit::Share});
  f.number("lift_below_db", v.liftBelowDb, {-60, 0, Unit::Db});
  f.number("lift_ratio", v.liftRatio, {1, 100, Unit::Number});
  f.number("most_lift_db", v.mostLiftDb, {0, 40, Unit::Db});
}

template <Is<SoftClip> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("knee_db", v.kneeDb, {0.1, 24, Unit::Db});
  f.number("ceiling_db", v.ceilingDb, {-24, 0, Unit::Db});
  f.flag("true_peak", v.truePeak);
}

template <Is<Limiter> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("ceiling_db", v.ceilingDb, {-24, 0, Unit::Db});
  f.number("release_ms", v.releaseMs, {1, 2000, Unit::Ms});
  f.flag("true_peak", v.truePeak);
}

template <Is<Width> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("width", v.width, {0, 2, Unit::Share});
  f.number("mono_below_hz", v.monoBelowHz, {20, 20000, Unit::Hz});
}

template <Is<Gain> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("db", v.db, {-60, 24, Unit::Db});
}

}  // namespace heft
