#include "app/fields/sound_words.h"

namespace heft::app {
namespace {

// Words for all of an enum's values, each by what the file calls it.
template <class Kinds, class Word, class Name>
std::vector<WordFor> wordsFor(const Kinds& kinds, Word word, Name name) {
  std::vector<WordFor> out;
  for (const auto kind : kinds) out.push_back({QString(word(kind)), std::string(name(kind))});
  return out;
}

// With a first word that takes it out.
std::vector<WordFor> orOut(std::vector<WordFor> words) {
  words.insert(words.begin(), WordFor{"out", std::nullopt});
  return words;
}

std::vector<WordFor> inOrOut() {
  return eitherOf("out", "in");
}

std::vector<WordFor> waves() {
  return wordsFor(kAllWaves, waveName, waveName);
}

std::vector<WordFor> drives() {
  return wordsFor(kAllDrives, driveWord, driveName);
}

}  // namespace

std::vector<FieldWords> driveWords() {
  return {
      FieldWords{"on", "Drive", "Takes the drive in or out"}.oneOf(inOrOut()),
      FieldWords{"kind", "Character", "How the wave is bent; rate holds samples"}.oneOf(drives()),
      {"input_db", "Input", "Gain into the drive in dB, apart from how far it bends"},
      {"drive_db", "Amount", "How far the wave is driven into the curve, in dB"},
      {"mix", "Mix", "Driven beside clean"},
      FieldWords{"from_hz", "Bites from", "Driven from there up, what is below stays as it is: a note or Hz"}
          .none("the bottom")
          .from(150.0),
      FieldWords{"to_hz", "Bites up to", "Driven up to there, what is above stays as it is: a note or Hz"}
          .none("the top")
          .from(2000.0),
      {"tone_db", "Tone", "A shelf above 800 Hz over what is driven, in dB"},
  };
}

namespace {

std::vector<FieldWords> eqWords() {
  std::vector<FieldWords> out{FieldWords{"on", "EQ", "Takes cuts and bands in or out"}.oneOf(inOrOut())};
  for (const auto& [side, key] :
       {std::pair{QString("Low cut"), "low_cut."}, {QString("High cut"), "high_cut."}}) {
    out.push_back(below(
        key, FieldWords{"hz", side, "Where the cut is 3 dB down: a note or Hz. Delete takes it out"}.switchedBy(
                 "on")));
    out.push_back(
        below(key, FieldWords{"slope_db", side + " slope", "Steepness of the cut"}.switchedBy("on").oneOf(
                       orOut({{"12 dB/oct", 12}, {"24 dB/oct", 24}, {"36 dB/oct", 36}, {"48 dB/oct", 48}}))));
    out.push_back(
        below(key, {"resonance_db", side + " resonance", "How far the cut stands up at its frequency, in dB"}));
  }
  using Kind = EqBand::Kind;
  constexpr std::array kKinds = {Kind::Bell, Kind::LowShelf, Kind::HighShelf, Kind::Notch};
  for (int b = 1; b <= 4; ++b) {
    const QString n = QString::number(b);
    const std::string key = "band_" + std::to_string(b) + ".";
    for (FieldWords words :
         std::vector<FieldWords>{FieldWords{"kind", "Band " + n, "Kind of the band"}.switchedBy("on").oneOf(
                                     orOut(wordsFor(kKinds, eqKindName, eqKindName))),
                                 {"hz", "at " + n, "Its frequency: a note or Hz"},
                                 FieldWords{"gain_db", "gain " + n, "Its gain in dB"}.switchedBy("on"),
                                 {"q", "Q " + n, "Its quality: higher is narrower"}}) {
      words.group = b;
      out.push_back(below(key, std::move(words)));
    }
  }
  out.push_back(FieldWords{"linear_phase", "Phase",
                           "Linear turns nothing and rings before a strike as after it; minimum turns what it "
                           "passes and rings after it alone"}
                    .called("EQ phase")
                    .oneOf({{"minimum", false}, {"linear", true}}));
  out.push_back({"amount", "EQ amount", "Of all bands' gains, 0 to 150 %; cuts and notches stay"});
  return out;
}

}  // namespace

std::vector<FieldWords> kickVoiceWords() {
  return {
      FieldWords{"wave", "Wave", "What is mixed into the sine"}.oneOf(waves()),
      {"wave_amount", "Richness", "How much of that wave; 0 is a sine"},
      {"attack_ms", "Attack", "In ms; 0 clicks where the phase does not start at 0"},
      {"hold", "Hold", "At full level, as a part of the length"},
      {"decay_bend", "Decay bend",
       "0 falls evenly in dB; below it falls at once and rings, above it falls late"},
      {"start_phase", "Start phase", "Where in its turn every hit starts, in degrees"},
  };
}

std::vector<FieldWords> strikeWords() {
  std::vector<FieldWords> out;
  for (FieldWords words : std::vector<FieldWords>{
           FieldWords{"kind", "Strike", "A generated strike at the head of the kick"}.switchedBy("on").oneOf(
               orOut(wordsFor(kAllStrikes, strikeName, strikeName))),
           FieldWords{"pitch_midi", "Strike note", "Its main tone, or the middle of its noise"}.undoAs(
               "tune strike"),
           {"level_db", "Strike level", "Its peak re the body's, in dB"},
           {"length_ms", "Strike lasts for", "To -40 dB, in ms"},
           FieldWords{"through_drive", "Route",
                      "Past the drive the strike stays as it is; through it it is bent with the body"}
               .oneOf(eitherOf("past the drive", "through the drive"))})
    out.push_back(below("strike.", std::move(words)));
  for (FieldWords words : std::vector<FieldWords>{
           FieldWords{"on", "Noise", "A breath of noise with its own envelope"}.oneOf(inOrOut()),
           {"level_db", "Noise level", "Its peak re the body's, in dB"},
           {"attack_ms", "Noise rise", "In ms"},
           {"length_ms", "Noise length", "To -40 dB, in ms"},
           {"low_cut_hz", "Noise from", "Low cut: a note or Hz"},
           {"high_cut_hz", "Noise to", "High cut: a note or Hz"}})
    out.push_back(below("noise.", std::move(words)));
  return out;
}

std::vector<FieldWords> bassVoiceWords() {
  return {
      FieldWords{"partial_2_db", "2nd partial", "Level of the octave above, in dB"}.none("out").from(-40.0),
      FieldWords{"partial_3_db", "3rd partial", "Level of the twelfth above, in dB"}.none("out").from(-40.0),
      FieldWords{"octave_below_db", "Octave below", "Level in dB"}.none("out").from(-40.0),
      {"attack_ms", "Bass attack", "In ms"},
      {"decay_ms", "Bass decay", "From the peak to the sustain, in ms"},
      {"sustain_db", "Sustain", "Below the peak, in dB: the ear hears the peak"},
      {"release_ms", "Release", "To -60 dB, in ms"},
      {"glide_ms", "Glide", "Into a tied note, in ms"},
      FieldWords{"free_phase", "Start",
                 "Fixed, every note starts at the same phase; free, each where the wave happens to be"}
          .oneOf(eitherOf("fixed", "free running")),
      {"start_phase", "Phase", "Where in its turn every note starts, in degrees"},
  };
}

std::vector<FieldWords> bassBandsWords() {
  return {
      FieldWords{"mid.level_db", "Mid level", "In dB; out leaves the band out"}.none("out").from(-40.0),
      FieldWords{"mid.wave", "Mid wave", "What is driven"}.oneOf(waves()),
      FieldWords{"mid.noise_db", "Mid noise", "Into the drive, in dB"}.none("out").from(-40.0),
      FieldWords{"mid.noise_from_hz", "Noise from", "Low cut of that noise: a note or Hz"}
          .called("Mid noise from")
          .none("the bottom")
          .from(200.0),
      FieldWords{"mid.noise_to_hz", "Noise to", "High cut of that noise: a note or Hz"}
          .called("Mid noise to")
          .none("the top")
          .from(2000.0),
      FieldWords{"mid.drive.kind", "Mid drive", "Its character"}.oneOf(drives()),
      {"mid.drive.drive_db", "Mid amount", "Of the drive, in dB"},
      {"mid.low_cut_hz", "Mid low cut", "After the drive: a note or Hz"},
      FieldWords{"high.level_db", "High level", "In dB; out leaves the band out"}.none("out").from(-40.0),
      FieldWords{"high.kind", "High kind", "A tone that another bends, or noise"}.oneOf(
          wordsFor(std::array{HighBand::Kind::Fm, HighBand::Kind::Noise}, highKindName, highKindName)),
      {"high.ratio", "High ratio", "Of its tone to the note"},
      {"high.index", "High index", "How far it is bent"},
      {"high.low_cut_hz", "High low cut", "A note or Hz"},
      {"high.decay_ms", "High decay", "To -40 dB, in ms"},
      {"width", "Bass width", "Of mid and high; the low band is mono"},
      {"width_from_hz", "Wide from", "Mono below it: a note or Hz"},
  };
}

namespace {

std::vector<FieldWords> envelopeWords() {
  return {FieldWords{"on", "Envelope", "A level curve over the sound"}.oneOf(inOrOut()),
          {"attack_ms", "Attack", "Of the level curve: ms or a note"},
          {"hold_ms", "Hold", "At full level, in ms"},
          {"decay_ms", "Decay", "From there to -40 dB, in ms"}};
}

std::vector<FieldWords> strikeSustainWords() {
  return {
      FieldWords{"on", "Strike and sustain", "Gains for the strike and for what follows it"}.oneOf(inOrOut()),
      {"strike_db", "Strike gain", "Of its first moments, in dB"},
      {"sustain_db", "Sustain gain", "Of what follows, in dB"},
      {"strike_ms", "Strike lasts", "How long the strike is taken to be, in ms"}};
}

std::vector<FieldWords> compressorWords() {
  return {FieldWords{"on", "Compressor", "Levels what is loud, and lifts what is quiet"}.oneOf(inOrOut()),
          {"threshold_db", "Threshold", "What is louder is lowered, in dB"},
          {"ratio", "Ratio", "To one"},
          {"knee_db", "Knee", "In dB"},
          {"attack_ms", "Comp attack", "To 1 - 1/e, in ms"},
          {"release_ms", "Comp release", "To 1 - 1/e, in ms"},
          {"makeup_db", "Make-up gain", "After the compressor, in dB"},
          {"mix", "Comp mix", "Levelled beside untouched"},
          {"lift_below_db", "Lifts below", "What is quieter than this comes up, in dB"},
          FieldWords{"lift_ratio", "Lift ratio", "To one; 1 lifts nothing"}.lowest("no lift"),
          {"most_lift_db", "Lifts at most", "In dB"}};
}

std::vector<FieldWords> softClipWords() {
  return {FieldWords{"on", "Soft clip", "Bends what nears the ceiling"}.oneOf(inOrOut()),
          {"knee_db", "Clip knee", "How far under the ceiling it begins, in dB"},
          {"ceiling_db", "Clip ceiling", "In dB"}};
}

std::vector<FieldWords> limiterWords() {
  return {FieldWords{"on", "Limiter", "No sample passes its ceiling"}.oneOf(inOrOut()),
          {"ceiling_db", "Ceiling", "In dB"},
          {"release_ms", "Limiter release", "To 1 - 1/e, in ms"}};
}

std::vector<FieldWords> bodyWords() {
  return {FieldWords{"on", "Body in", "Whether the body is heard"}.oneOf(inOrOut()),
          {"wet", "Body wet", "Beside the dry sound"},
          {"decay_ms", "Body decay", "Of the response, to -60 dB, in ms"},
          {"damping_hz", "Body damping", "The response is cut above it: a note or Hz"}};
}

std::vector<FieldWords> roomWords() {
  return {FieldWords{"on", "Room", "A short room above 200 Hz, for tops"}.oneOf(inOrOut()),
          {"wet", "Room wet", "Beside the dry sound"},
          {"size_ms", "Room size", "Until it has died away, in ms"},
          {"damping_hz", "Room damping", "The room is cut above it: a note or Hz"}};
}

std::vector<FieldWords> widthWords() {
  return {FieldWords{"on", "Sides", "Width, and mono below a frequency, in or out"}.oneOf(inOrOut()),
          FieldWords{"width", "Width", "Sides of a stereo sound; 0 is mono"}.lowest("mono"),
          FieldWords{"mono_below_hz", "Mono below", "Its sides are cut below, 24 dB an octave: a note or Hz"}
              .none("out")
              .from(120.0)};
}

std::vector<FieldWords> gainWords() {
  return {FieldWords{"on", "Gain", "A gain between two others"}.oneOf(inOrOut()), {"db", "Gain by", "In dB"}};
}

}  // namespace

std::vector<FieldWords> processorWords(size_t kind) {
  using Words = std::vector<FieldWords> (*)();
  // In the order of Processor::What.
  constexpr std::array<Words, kProcessorKinds> kWords = {
      envelopeWords, eqWords,   strikeSustainWords, driveWords, compressorWords, softClipWords,
      limiterWords,  bodyWords, roomWords,          widthWords, gainWords};
  std::vector<FieldWords> out;
  for (FieldWords& words : kWords[kind]())
    out.push_back(below(std::string(processorKey(kind)) + ".", std::move(words)));
  return out;
}

std::vector<FieldWords> tuningWords() {
  constexpr std::array kMethods = {TuneMethod::Varispeed, TuneMethod::HoldLength, TuneMethod::Bend,
                                   TuneMethod::Split};
  return {
      FieldWords{"method", "Method",
                 "Varispeed moves pitch and length; hold-length keeps the length, bend goes over without a "
                 "joint, split moves the body at once"}
          .called("Tuning method")
          .oneOf(wordsFor(kMethods, tuneMethodName, tuneMethodName)),
      FieldWords{"strike_ms", "Strike", "What hold-length, bend and split leave untouched, from the onset"}
          .called("Strike length"),
      {"strike_semitones", "Strike pitch", "The strike's own shift: higher is brighter, the body stays"},
      {"flatten", "Tail straightened", "How far a tail that drifts is drawn onto its note"},
  };
}

}  // namespace heft::app
