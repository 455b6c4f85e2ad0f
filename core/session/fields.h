#pragma once
/// Every value of the document with its name in files, its range and its unit: continued in chain_fields.h
/// and, for layers, in sound_fields.h. A value that is in none of these lists is not part of the document.
///
/// Beyond sound_fields.h a visitor has text(name, string, most), count(name, whole number >= 0), numbers that
/// may be missing (number and time of an optional), wholes(name, vector of int, most, Range), texts(name, set
/// of strings), which(name..., variant) and kept(Unknown).

#include "core/session/chain_fields.h"
#include "core/session/reference_fields.h"
#include "core/session/session.h"
#include "core/session/target_fields.h"

namespace heft {

const char* sampleFormatName(SampleFormat format);  ///< "wav24"
Result<SampleFormat> parseSampleFormat(const std::string& text);
const char* playsName(Plays plays);  ///< "hits", "notes"
Result<Plays> parsePlays(const std::string& text);
const char* finishOverName(FinishOver over);  ///< "hits", "lane"
Result<FinishOver> parseFinishOver(const std::string& text);
const char* octaveNamingName(OctaveNaming naming);  ///< "C3"
Result<OctaveNaming> parseOctaveNaming(const std::string& text);
const char* triggerKindName(TriggerKind kind);  ///< "part", "audio", "midi", "drawn"
Result<TriggerKind> parseTriggerKind(const std::string& text);
const char* curveLastsName(CurveLasts lasts);  ///< "as_set", "as_source", "to_next"
Result<CurveLasts> parseCurveLasts(const std::string& text);
const char* movementName(Movement movement);  ///< "curve", "follower", "mirror", "static"
Result<Movement> parseMovement(const std::string& text);
const char* levelByName(LevelBy level);  ///< "peak", "rms"
Result<LevelBy> parseLevelBy(const std::string& text);
const char* duckBandName(DuckBandKind kind);  ///< "all", "below", "bell", "several"
Result<DuckBandKind> parseDuckBand(const std::string& text);
const char* bellAtName(BellAt at);  ///< "source", "kick", "key"
Result<BellAt> parseBellAt(const std::string& text);
const char* duckTargetName(DuckTargetKind kind);  ///< "part", "layer", "backing"
Result<DuckTargetKind> parseDuckTarget(const std::string& text);
const char* gainsMeetName(GainsMeet meet);  ///< "multiply", "deepest"
Result<GainsMeet> parseGainsMeet(const std::string& text);

template <Is<Recorded> T, class F>
void eachOf(T& v, F& f) {
  f.object("asset", v.asset);
  f.number("target_midi", v.targetMidi, {0, 127, Unit::Midi});
  f.choice("method", v.method, tuneMethodName, parseTuneMethod);
  f.number("strike_ms", v.strikeMs, {1, 200, Unit::Ms});
  f.number("strike_semitones", v.strikeSemitones, {-24, 24, Unit::Semitones});
  f.number("flatten", v.flatten, {0, 1, Unit::Share});
  f.number("band_low_hz", v.band.lowHz, {10, 0.9 * kHighestBandHz, Unit::Hz});
  f.number("band_high_hz", v.band.highHz, {11, kHighestBandHz, Unit::Hz});
  f.number("landing_ms", v.band.atMs, {0, 60000, Unit::Ms});
  f.number("landing_hz", v.band.atHz, {8, kHighestBandHz, Unit::Hz});
  f.number("onset_ms", v.onsetMs, {0, 60000, Unit::Ms});
  f.number("root_midi", v.rootMidi, {0, 127, Unit::Midi});
  f.time("length", v.length, {kShortestTailMs, kLongestTailMs, Unit::Ms});
  f.flag("follow_notes", v.followNotes);
  f.number("glide_ms", v.glideMs, {0, 2000, Unit::Ms});
  f.flag("keep_length", v.keepLength);
  f.number("velocity_to_level", v.velocityToLevel, {0, 1, Unit::Share});
  f.object("split", v.split, Saved::WhenSet);
  f.object("fade", v.fade, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<Layer> T, class F>
void eachOf(T& v, F& f) {
  f.whole("id", v.id, {1, kHighestId});
  f.text("name", v.name, kLongestName);
  f.number("level_db", v.levelDb, {kLeastLevelDb, kMostLevelDb, Unit::Db});
  f.flag("invert", v.invert);
  f.flag("mute", v.mute);
  f.flag("solo", v.solo);
  f.number("offset_ms", v.offsetMs, {-kMostOffsetMs, kMostOffsetMs, Unit::Ms});
  f.flag("between_samples", v.betweenSamples, Saved::WhenSet);
  f.number("semitones", v.semitones, {-48, 48, Unit::Semitones});
  f.template which<Recorded, KickVoice, BassVoice>({"recorded", "built_kick", "built_bass"}, v.what);
  f.object("shape", v.shape, Saved::WhenSet);
  f.object("chain", v.chain, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<PartVersion> T, class F>
void eachOf(T& v, F& f) {
  f.text("name", v.name, kLongestName);
  f.list("layers", v.layers, 64);
  f.object("finish", v.finish, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<Versions> T, class F>
void eachOf(T& v, F& f) {
  f.whole("now", v.now, {0, static_cast<double>(kMostVersions) - 1});
  f.list("all", v.all, kMostVersions);
}

template <Is<Hit> T, class F>
void eachOf(T& v, F& f) {
  f.number("start", v.startQuarters, {0, 1e5, Unit::Quarters});
  f.number("velocity", v.velocity, {0, 1, Unit::Share});
  f.wholes("without", v.without, 64, {1, kHighestId});
  f.kept(v.unknown);
}

template <Is<NoteMove> T, class F>
void eachOf(T& v, F& f) {
  f.number("offset_ms", v.offsetMs, {-50, 50, Unit::Ms});
  f.number("phase", v.phaseDegrees, {0, 360, Unit::Degrees});
}

template <Is<NoteTrim> T, class F>
void eachOf(T& v, F& f) {
  f.number("db", v.db, {-kMostTrimDb, kMostTrimDb, Unit::Db});
}

template <Is<Note> T, class F>
void eachOf(T& v, F& f) {
  f.number("start", v.startQuarters, {0, 1e5, Unit::Quarters});
  f.number("length", v.lengthQuarters, {0.01, 1e5, Unit::Quarters});
  f.whole("midi", v.midi, {0, 127, Unit::Midi});
  f.number("velocity", v.velocity, {0, 1, Unit::Share});
  f.wholes("without", v.without, 64, {1, kHighestId});
  f.flag("tie", v.tie, Saved::WhenSet);
  f.object("dive", v.dive, Saved::WhenSet);
  f.object("move", v.move, Saved::WhenSet);
  f.object("trim", v.trim, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<WheelPoint> T, class F>
void eachOf(T& v, F& f) {
  f.number("at", v.quarters, {0, 1e5, Unit::Quarters});
  f.number("value", v.value, {-1, 1, Unit::Number});
  f.kept(v.unknown);
}

template <Is<AllPass> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("hz", v.hz, {10, 1000, Unit::Hz});
  f.number("q", v.q, {0.1, 10, Unit::Number});
}

template <Is<Rotation> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.object("stage_1", v.stages[0]);
  f.object("stage_2", v.stages[1]);
  f.object("stage_3", v.stages[2]);
  f.object("stage_4", v.stages[3]);
}

template <Is<AlignMove> T, class F>
void eachOf(T& v, F& f) {
  f.number("delay_ms", v.delayMs, {-200, 200, Unit::Ms});
  f.flag("invert", v.invert);
  f.object("rotation", v.rotation, Saved::WhenSet);
  f.number("low_hz", v.question.lowHz, {10, 999, Unit::Hz});
  f.number("high_hz", v.question.highHz, {11, 1000, Unit::Hz});
  f.number("max_delay_ms", v.question.maxDelayMs, {0, 200, Unit::Ms});
  f.kept(v.unknown);
}

template <Is<Part> T, class F>
void eachOf(T& v, F& f) {
  f.whole("id", v.id, {1, kHighestId});
  f.text("role", v.role, kLongestName);
  f.text("name", v.name, kLongestName);
  f.choice("plays", v.plays, playsName, parsePlays);
  f.list("layers", v.layers, 64);
  f.list("hits", v.hits, kMostHits, Saved::WhenSet);
  f.list("notes", v.notes, kMostHits, Saved::WhenSet);
  f.list("wheel", v.wheel, kMostWheelPoints, Saved::WhenSet);
  f.number("wheel_range", v.wheelRange, {1, 48, Unit::Semitones});
  f.time("tail_target", v.tailTarget, {kShortestTailMs, kLongestTailMs, Unit::Ms});
  f.object("contour", v.contour, Saved::WhenSet);
  f.object("align", v.align);
  f.object("finish", v.finish, Saved::WhenSet);
  f.choice("finish_over", v.finishOver, finishOverName, parseFinishOver);
  f.number("level_db", v.levelDb, {kLeastLevelDb, kMostLevelDb, Unit::Db});
  f.object("versions", v.versions, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<Listening> T, class F>
void eachOf(T& v, F& f) {
  f.number("full_scale_db", v.fullScaleDb, {kLeastListeningDb, kMostListeningDb, Unit::Db});
}

template <Is<Track> T, class F>
void eachOf(T& v, F& f) {
  f.text("name", v.name, kLongestName);
  f.parsed(
      "key", v.key, [](const Key& k) { return k.name(); }, parseKey);
  f.number("tempo_bpm", v.tempoBpm, {kLeastTempo, kMostTempo, Unit::Bpm});
  f.whole("beats_per_bar", v.beatsPerBar, {1, 12});
  f.whole("beat_unit", v.beatUnit, {2, 16});
  f.whole("loop_beats", v.loopBeats, {1, 96});
  f.choice("middle_c", v.notes.octaves, octaveNamingName, parseOctaveNaming);
  f.number("a4_hz", v.notes.a4Hz, {380, 480, Unit::Hz});
  f.number("sample_rate", v.sampleRate, {8000, 384000, Unit::Hz});
  f.object("listening", v.listening, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<Grid> T, class F>
void eachOf(T& v, F& f) {
  f.time("division", v.division, {0, 24000, Unit::Ms});
  f.number("swing", v.swing, {0, 1.5, Unit::Share});
  f.kept(v.unknown);
}

template <Is<Backing> T, class F>
void eachOf(T& v, F& f) {
  f.object("asset", v.asset);
  f.number("level_db", v.levelDb, {kLeastLevelDb, kMostLevelDb, Unit::Db});
  f.flag("mute", v.mute);
  f.number("offset_s", v.offsetSeconds, {-600, 600, Unit::Seconds});
  f.number("low_cut_hz", v.lowCutHz, {20, 1000, Unit::Hz});
  f.number("mono_below_hz", v.monoBelowHz, {20, 20000, Unit::Hz});
  f.kept(v.unknown);
}

template <Is<TriggerHit> T, class F>
void eachOf(T& v, F& f) {
  f.number("start", v.startQuarters, {0, 1e5, Unit::Quarters});
  f.number("length", v.lengthQuarters, {0.01, 1e5, Unit::Quarters});
  f.number("velocity", v.velocity, {0, 1, Unit::Share});
  f.whole("midi", v.midi, {0, 127, Unit::Midi});
}

template <Is<HitMark> T, class F>
void eachOf(T& v, F& f) {
  f.number("at_s", v.seconds, {0, 7200, Unit::Seconds});
  f.flag("fires", v.fires);
}

template <Is<DuckSource> T, class F>
void eachOf(T& v, F& f) {
  f.choice("kind", v.kind, triggerKindName, parseTriggerKind);
  f.whole("part", v.part, {1, kHighestId});
  f.number("low_cut_hz", v.lowCutHz, {20, 10000, Unit::Hz});
  f.number("high_cut_hz", v.highCutHz, {20, 20000, Unit::Hz});
  f.number("threshold_db", v.thresholdDb, {-80, 0, Unit::Db});
  f.number("shortest_gap_ms", v.shortestGapMs, {5, 2000, Unit::Ms});
  f.object("asset", v.asset, Saved::WhenSet);
  f.number("offset_s", v.offsetSeconds, {-600, 600, Unit::Seconds});
  f.flag("repeats", v.repeats);
  f.list("marks", v.marks, kMostMarks, Saved::WhenSet);
  f.text("midi_name", v.midiName, kLongestName, Saved::WhenSet);
  f.list("notes", v.notes, kMostHits, Saved::WhenSet);
  f.number("midi_quarters", v.midiQuarters, {0, 1e5, Unit::Quarters});
  f.wholes("pitches", v.pitches, 128, {0, 127, Unit::Midi});
  f.list("hits", v.hits, kMostHits, Saved::WhenSet);
}

template <Is<DipPoint> T, class F>
void eachOf(T& v, F& f) {
  f.number("at", v.at, {0, 1, Unit::Share});
  f.number("taken", v.taken, {0, 1, Unit::Share});
  f.number("bend", v.bend, {-1, 1, Unit::Number});
}

template <Is<DuckCurve> T, class F>
void eachOf(T& v, F& f) {
  f.number("depth_db", v.depthDb, {0, kSilentDepthDb, Unit::Db});
  f.time("attack", v.attack, {0, 5000, Unit::Ms});
  f.time("hold", v.hold, {0, 5000, Unit::Ms});
  f.time("return", v.release, {0, 5000, Unit::Ms});
  f.choice("lasts", v.lasts, curveLastsName, parseCurveLasts);
  f.time("length", v.length, {1, 20000, Unit::Ms});
  f.list("points", v.points, kMostDipPoints, Saved::WhenSet);
  f.number("velocity_to_depth", v.velocityToDepth, {0, 1, Unit::Share});
}

template <Is<Follower> T, class F>
void eachOf(T& v, F& f) {
  f.number("threshold_db", v.thresholdDb, {-80, 0, Unit::Db});
  f.number("ratio", v.ratio, {1, 100, Unit::Number});
  f.number("knee_db", v.kneeDb, {0, 40, Unit::Db});
  f.number("attack_ms", v.attackMs, {0, 500, Unit::Ms});
  f.number("hold_ms", v.holdMs, {0, 2000, Unit::Ms});
  f.number("release_ms", v.releaseMs, {1, 5000, Unit::Ms});
  f.number("lookahead_ms", v.lookaheadMs, {0, 50, Unit::Ms});
  f.choice("level", v.level, levelByName, parseLevelBy);
  f.number("deepest_db", v.deepestDb, {0, kSilentDepthDb, Unit::Db});
}

template <Is<Mirror> T, class F>
void eachOf(T& v, F& f) {
  f.number("within_db", v.withinDb, {0, 6, Unit::Db});
  f.number("below_hz", v.belowHz, {40, 400, Unit::Hz});
  f.number("deepest_db", v.deepestDb, {0, kSilentDepthDb, Unit::Db});
}

template <Is<BandStep> T, class F>
void eachOf(T& v, F& f) {
  f.number("below_hz", v.belowHz, {30, 4000, Unit::Hz});
  f.number("share", v.share, {0, 1, Unit::Share});
}

template <Is<DuckBand> T, class F>
void eachOf(T& v, F& f) {
  f.choice("kind", v.kind, duckBandName, parseDuckBand);
  f.number("below_hz", v.belowHz, {30, 1000, Unit::Hz});
  f.choice("at", v.at, bellAtName, parseBellAt);
  f.number("semitones", v.semitones, {-24, 60, Unit::Semitones});
  f.number("octaves", v.octaves, {0.1, 4, Unit::Number});
  f.list("steps", v.steps, kMostBandSteps);
  f.number("above_share", v.aboveShare, {0, 1, Unit::Share});
}

template <Is<DuckTarget> T, class F>
void eachOf(T& v, F& f) {
  f.choice("kind", v.kind, duckTargetName, parseDuckTarget);
  f.whole("part", v.part, {1, kHighestId});
  f.whole("layer", v.layer, {1, kHighestId});
}

template <Is<Duck> T, class F>
void eachOf(T& v, F& f) {
  f.whole("id", v.id, {1, kHighestId});
  f.text("name", v.name, kLongestName, Saved::WhenSet);
  f.flag("on", v.on);
  f.object("source", v.source);
  f.choice("movement", v.movement, movementName, parseMovement);
  f.object("curve", v.curve);
  f.object("follower", v.follower);
  f.object("mirror", v.mirror);
  f.object("band", v.band);
  f.object("target", v.target);
  f.number("amount", v.amount, {0, 1, Unit::Share});
  f.kept(v.unknown);
}

template <Is<DuckingBus> T, class F>
void eachOf(T& v, F& f) {
  f.number("amount", v.amount, {0, 1, Unit::Share});
  f.choice("together", v.meet, gainsMeetName, parseGainsMeet);
  f.kept(v.unknown);
}

template <Is<SumBus> T, class F>
void eachOf(T& v, F& f) {
  f.object("finish", v.finish, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<ExportList> T, class F>
void eachOf(T& v, F& f) {
  f.flag("kick", v.kickOneShot);
  f.flag("bass", v.bassOneShot);
  f.flag("stems", v.stems);
  f.flag("gain_curve", v.gainCurve);
  f.flag("patterns", v.patterns);
  f.flag("parts", v.partOneShots);
  f.flag("versions", v.versions, Saved::WhenSet);
  f.flag("every_note", v.everyNote, Saved::WhenSet);
  f.flag("gain_signal", v.gainSignal, Saved::WhenSet);
  f.flag("triggers", v.triggers, Saved::WhenSet);
  f.whole("gain_controller", v.gainController, {0, 119});
  f.whole("gain_channel", v.gainChannel, {1, 16});
  f.flag("gain_14_bits", v.gainFine, Saved::WhenSet);
  f.number("one_shot_peak_db", v.oneShotPeakDb, {-24, 0, Unit::Db});
  f.choice("format", v.format, sampleFormatName, parseSampleFormat);
  f.kept(v.unknown);
}

template <Is<HandOver> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.number("ms", v.ms, {kLeastHandOverMs, kMostHandOverMs, Unit::Ms});
  f.number("alike", v.alike, {kLeastAlike, 1, Unit::Number});
}

template <Is<Session> T, class F>
void eachOf(T& v, F& f) {
  f.object("track", v.track);
  f.object("grid", v.grid);
  f.list("parts", v.parts, kMostParts);
  f.list("ducks", v.ducks, kMostDucks);
  f.object("ducking", v.ducking, Saved::WhenSet);
  f.object("hand_over", v.handOver, Saved::WhenSet);
  f.object("backing", v.backing);
  f.object("sum", v.sum);
  f.list("references", v.references, kMostReferences);
  f.object("targets", v.targets, Saved::WhenSet);
  f.object("export", v.exports);
  f.list("taught", v.taught, kMostTaught, Saved::WhenSet);
  f.texts("meant_so", v.meantSo, 1000);
  f.text("saved_on", v.savedOn, 64, Saved::WhenSet);
  f.kept(v.unknown);
}

}  // namespace heft
