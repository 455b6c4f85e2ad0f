#include "app/fields/sound_words.h"

namespace heft::app {
namespace {

// Words for all of an enum's values, by their names in files.
template <class Kinds, class Word, class Name>
std::vector<WordFor> wordsFor(const Kinds& kinds, Word word, Name name) {
  std::vector<WordFor> out;
  for (const auto kind : kinds) out.push_back({QString(word(kind)), std::string(name(kind))});
  return out;
}

// With a first word for off.
std::vector<WordFor> orOff(std::vector<WordFor> words) {
  words.insert(words.begin(), WordFor{"off", std::nullopt});
  return words;
}

std::vector<WordFor> onOrOff() {
  return eitherOf("off", "on");
}

std::vector<WordFor> waves() {
  return wordsFor(kAllWaves, nameOf<WaveKind>, nameOf<WaveKind>);
}

std::vector<WordFor> drives() {
  return wordsFor(kAllDrives, driveWord, nameOf<DriveKind>);
}

}  // namespace

std::vector<FieldWords> driveWords() {
  return {
      FieldWords{"on", "Drive", "Drive on/off"}.oneOf(onOrOff()),
      {"drive_db", "Amount", "Drive amount"},
      FieldWords{"kind", "Character", "Drive character; rate holds samples"}.oneOf(drives()),
      {"input_db", "Input", "Input gain before the drive, independent of Amount"},
      {"mix", "Mix", "Dry/wet mix"},
      FieldWords{"from_hz", "Drive from", "Lower edge of the driven band. Below it the sound stays clean"}
          .none("no lower edge")
          .from(150.0),
      FieldWords{"to_hz", "Drive to", "Upper edge of the driven band. Above it the sound stays clean"}
          .none("no upper edge")
          .from(2000.0),
      {"tone_db", "Tone", "High shelf at 800 Hz after the drive"},
  };
}

namespace {

std::vector<FieldWords> eqWords() {
  std::vector<FieldWords> out{FieldWords{"on", "EQ", "EQ on/off"}.oneOf(onOrOff())};
  for (const auto& [side, key] :
       {std::pair{QString("Low cut"), "low_cut."}, {QString("High cut"), "high_cut."}}) {
    out.push_back(
        below(key, FieldWords{"hz", side, "Cutoff frequency (-3 dB). Delete turns it off"}.switchedBy("on")));
    out.push_back(
        below(key, FieldWords{"slope_db", side + " slope", "Slope of the cut"}.switchedBy("on").oneOf(
                       orOff({{"12 dB/oct", 12}, {"24 dB/oct", 24}, {"36 dB/oct", 36}, {"48 dB/oct", 48}}))));
    out.push_back(below(key, {"resonance_db", side + " resonance", "Resonance: boost at the cutoff"}));
  }
  using Kind = EqBand::Kind;
  constexpr std::array kKinds = {Kind::Bell, Kind::LowShelf, Kind::HighShelf, Kind::Notch};
  for (int b = 1; b <= 4; ++b) {
    const QString n = QString::number(b);
    const std::string key = "band_" + std::to_string(b) + ".";
    for (FieldWords words :
         std::vector<FieldWords>{FieldWords{"kind", "Band " + n, "Band type"}.switchedBy("on").oneOf(
                                     orOff(wordsFor(kKinds, nameOf<EqBand::Kind>, nameOf<EqBand::Kind>))),
                                 {"hz", "freq " + n, "Centre frequency"},
                                 FieldWords{"gain_db", "gain " + n, "Gain of the band"}.switchedBy("on"),
                                 {"q", "Q " + n, "Q. Higher is narrower"}}) {
      words.group = b;
      out.push_back(below(key, std::move(words)));
    }
  }
  out.push_back(FieldWords{"linear_phase", "Phase",
                           "Linear: no phase shift, but pre-ringing before the strike. Minimum: shifts phase, "
                           "no pre-ringing"}
                    .called("EQ phase")
                    .oneOf({{"minimum", false}, {"linear", true}}));
  out.push_back({"amount", "EQ amount", "Scales the gains of all bands. Cuts and notches stay"});
  return out;
}

}  // namespace

std::vector<FieldWords> kickVoiceWords() {
  return {
      FieldWords{"wave", "Wave", "Wave mixed into the sine"}.oneOf(waves()),
      {"wave_amount", "Richness", "Amount of that wave. 0 is a pure sine"},
      {"attack_ms", "Attack", "Attack time. 0 clicks unless the phase starts at 0"},
      {"hold", "Hold", "Time at full level, as a share of the length"},
      {"decay_bend", "Decay bend",
       "Decay curve. 0 is linear in dB; negative drops early and rings on; positive drops late"},
      {"start_phase", "Start phase", "Start phase of every hit"},
  };
}

std::vector<FieldWords> strikeWords() {
  std::vector<FieldWords> out;
  for (FieldWords words : std::vector<FieldWords>{
           FieldWords{"kind", "Strike", "Built-in strike at the start of the kick"}.switchedBy("on").oneOf(
               orOff(wordsFor(kAllStrikes, nameOf<StrikeKind>, nameOf<StrikeKind>))),
           FieldWords{"pitch_midi", "Strike note", "Pitch of the strike's tone, or centre of its noise"}.undoAs(
               "tune strike"),
           {"level_db", "Strike level", "Peak level relative to the body"},
           {"length_ms", "Strike decay", "Length of the strike to -40 dB"},
           FieldWords{"through_drive", "Route",
                      "Bypass keeps the strike clean; through drives it with the body"}
               .oneOf(eitherOf("bypass drive", "through drive"))})
    out.push_back(below("strike.", std::move(words)));
  for (FieldWords words :
       std::vector<FieldWords>{FieldWords{"on", "Noise", "Noise burst with its own envelope"}.oneOf(onOrOff()),
                               {"level_db", "Noise level", "Peak level relative to the body"},
                               {"attack_ms", "Noise attack", "Attack time of the noise"},
                               {"length_ms", "Noise length", "Length of the noise to -40 dB"},
                               {"low_cut_hz", "Noise low cut", "Low cut of the noise"},
                               {"high_cut_hz", "Noise high cut", "High cut of the noise"}})
    out.push_back(below("noise.", std::move(words)));
  return out;
}

std::vector<FieldWords> bassVoiceWords() {
  return {
      FieldWords{"partial_2_db", "2nd partial", "Level of the octave above"}.none("off").from(-40.0),
      FieldWords{"partial_3_db", "3rd partial", "Level of the octave and fifth above"}.none("off").from(-40.0),
      FieldWords{"octave_below_db", "Octave below", "Level of the octave below"}.none("off").from(-40.0),
      {"attack_ms", "Bass attack", "Attack time of each note"},
      {"decay_ms", "Bass decay", "Decay time from the peak to the sustain"},
      {"sustain_db", "Sustain", "Sustain level below the peak"},
      {"release_ms", "Release", "Release time to -60 dB"},
      {"glide_ms", "Glide", "Glide time into a tied note"},
      FieldWords{"free_phase", "Start",
                 "Fixed: every note starts at the same phase. Free running: phase runs on between notes"}
          .oneOf(eitherOf("fixed", "free running")),
      {"start_phase", "Phase", "Start phase of every note"},
  };
}

std::vector<FieldWords> bassBandsWords() {
  return {
      FieldWords{"mid.level_db", "Mid level", "Level of the mid band"}.none("off").from(-40.0),
      FieldWords{"mid.wave", "Mid wave", "Wave fed to the mid drive"}.oneOf(waves()),
      FieldWords{"mid.noise_db", "Mid noise", "Noise level into the mid drive"}.none("off").from(-40.0),
      FieldWords{"mid.noise_from_hz", "Noise low cut", "Low cut of that noise"}
          .called("Mid noise low cut")
          .none("no lower edge")
          .from(200.0),
      FieldWords{"mid.noise_to_hz", "Noise high cut", "High cut of that noise"}
          .called("Mid noise high cut")
          .none("no upper edge")
          .from(2000.0),
      FieldWords{"mid.drive.kind", "Mid drive", "Drive character of the mid band"}.oneOf(drives()),
      {"mid.drive.drive_db", "Mid amount", "Drive amount of the mid band"},
      {"mid.low_cut_hz", "Mid low cut", "Low cut after the mid drive"},
      FieldWords{"high.level_db", "High level", "Level of the high band"}.none("off").from(-40.0),
      FieldWords{"high.kind", "High kind", "High band source: FM tone or noise"}.oneOf(
          wordsFor(std::array{HighBand::Kind::Fm, HighBand::Kind::Noise}, nameOf<HighBand::Kind>,
                   nameOf<HighBand::Kind>)),
      {"high.ratio", "High ratio", "FM ratio to the note"},
      {"high.index", "High index", "FM index"},
      {"high.low_cut_hz", "High low cut", "Low cut of the high band"},
      {"high.decay_ms", "High decay", "Decay of the high band to -40 dB"},
      {"width", "Bass width", "Stereo width of mid and high. The low band stays mono"},
      {"width_from_hz", "Bass mono below", "Mono below this frequency"},
  };
}

namespace {

std::vector<FieldWords> envelopeWords() {
  return {FieldWords{"on", "Envelope", "Level envelope on/off"}.oneOf(onOrOff()),
          {"attack_ms", "Attack", "Attack time"},
          {"hold_ms", "Hold", "Time at full level"},
          {"decay_ms", "Decay", "Decay time to -40 dB"}};
}

std::vector<FieldWords> strikeSustainWords() {
  return {FieldWords{"on", "Strike and sustain", "Transient shaping on/off"}.oneOf(onOrOff()),
          {"strike_db", "Strike gain", "Gain of the strike"},
          {"sustain_db", "Sustain gain", "Gain of everything after the strike"},
          {"strike_ms", "Strike length", "Length treated as the strike"}};
}

std::vector<FieldWords> compressorWords() {
  return {FieldWords{"on", "Compressor", "Compressor on/off"}.oneOf(onOrOff()),
          {"threshold_db", "Threshold", "Threshold for downward compression"},
          {"ratio", "Ratio", "Ratio of the downward compression"},
          {"knee_db", "Knee", "Knee width"},
          {"attack_ms", "Comp attack", "Attack time to 63 %"},
          {"release_ms", "Comp release", "Release time to 63 %"},
          {"makeup_db", "Make-up gain", "Gain after the compressor"},
          {"mix", "Comp mix", "Dry/wet mix (parallel compression)"},
          {"lift_below_db", "Upward threshold", "Level below which the sound is raised"},
          FieldWords{"lift_ratio", "Upward ratio", "Ratio of the upward compression. 1 is off"}.lowest("off"),
          {"most_lift_db", "Max lift", "Largest upward gain"}};
}

std::vector<FieldWords> softClipWords() {
  return {FieldWords{"on", "Soft clip", "Soft clip on/off"}.oneOf(onOrOff()),
          {"ceiling_db", "Clip ceiling", "Highest peak level"},
          {"knee_db", "Clip knee", "Knee: how far below the ceiling it starts to round peaks"},
          FieldWords{
              "true_peak", "Clip holds",
              "True peak: nothing passes the ceiling between samples. Samples: as in sessions before version 6"}
              .oneOf({{"samples", false}, {"true peak", true}})};
}

std::vector<FieldWords> limiterWords() {
  return {FieldWords{"on", "Limiter", "Limiter on/off"}.oneOf(onOrOff()),
          {"ceiling_db", "Ceiling", "Highest peak level"},
          {"release_ms", "Limiter release", "Release time to 63 %"},
          FieldWords{
              "true_peak", "Limiter holds",
              "True peak: nothing passes the ceiling between samples. Samples: as in sessions before version 6"}
              .oneOf({{"samples", false}, {"true peak", true}})};
}

std::vector<FieldWords> bodyWords() {
  return {FieldWords{"on", "Body", "Body on/off"}.called("Body in").oneOf(onOrOff()),
          {"wet", "Body wet", "Wet level of the body"},
          {"decay_ms", "Body decay", "Decay of the body response to -60 dB"},
          {"damping_hz", "Body damping", "High cut of the body response"}};
}

std::vector<FieldWords> roomWords() {
  return {FieldWords{"on", "Room", "Room on/off: a short room above 200 Hz"}.oneOf(onOrOff()),
          {"wet", "Room wet", "Wet level of the room"},
          {"size_ms", "Room size", "Decay time of the room"},
          {"damping_hz", "Room damping", "High cut of the room"}};
}

std::vector<FieldWords> widthWords() {
  return {FieldWords{"on", "Sides", "Stereo width on/off"}.oneOf(onOrOff()),
          FieldWords{"width", "Width", "Stereo width. 0 is mono"}.lowest("mono"),
          FieldWords{"mono_below_hz", "Mono below", "Mono below this frequency, 24 dB/oct"}.none("off").from(
              120.0)};
}

std::vector<FieldWords> gainWords() {
  return {FieldWords{"on", "Gain", "Gain on/off"}.oneOf(onOrOff()),
          {"db", "Gain by", "Gain between two processors"}};
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
                 "Varispeed: pitch and length change. Hold-length: length stays. Bend: glides to the new pitch "
                 "after the "
                 "strike. Split: shifts the body at once"}
          .called("Tuning method")
          .oneOf(wordsFor(kMethods, nameOf<TuneMethod>, nameOf<TuneMethod>)),
      FieldWords{"strike_ms", "Strike",
                 "Length from the onset that hold-length, bend and split leave unchanged"}
          .called("Strike length"),
      {"strike_semitones", "Strike pitch", "Pitch shift of the strike alone. Higher is brighter"},
      {"flatten", "Straighten tail", "Pull a drifting tail onto its note"},
  };
}

}  // namespace heft::app
