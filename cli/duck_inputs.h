#pragma once
/// Parsed options of `heft-cli duck`, and its triggers.

#include <optional>

#include "cli/commands.h"
#include "core/duck/apply.h"
#include "core/duck/detector.h"
#include "core/duck/follower.h"
#include "core/duck/gain_files.h"
#include "core/duck/mirror.h"
#include "core/sound/audio_file.h"

namespace heft::cli {

struct DuckNumbers {
  std::string method;  ///< "drawn", "follow", "mirror"
  DrawnDip dip;
  Follower follower;
  bool thresholdGiven = false;  ///< else it ducks by `deepestDb` at the loudest moment
  Mirror mirror;
  ActingBand band;
  bool bellAtLanding = false;  ///< the bell is at the landing of the first trigger's sound
  DetectorOptions detector;
  bool cutGiven = false;  ///< the follower's sidechain is that band too
  double amount = 1.0;
  double tempoBpm = 120.0;
  bool tempoGiven = false;  ///< else a MIDI file's own
  GainMidiOptions midi;
};

/// BadUsage names the option.
Result<DuckNumbers> understood(const DuckOptions& options);

/// Rows of numbers of a table with commas; a first row of words is a header. Unreadable names the line.
Result<std::vector<std::vector<double>>> rowsOf(const std::string& text, const std::string& path);

/// All triggers together.
struct HeardTriggers {
  std::vector<Trigger> triggers;  ///< ascending, within the bass
  std::vector<float> sound;       ///< a follower's sidechain, as long as the bass, at its rate
  bool isEnvelope = false;        ///< it is a level: no trigger was audio
  int doubtful = 0;
  std::optional<double> landingHz;  ///< of the first that is audio
  std::vector<std::string> warnings;
};
Result<HeardTriggers> hearTriggers(const DuckOptions& options, const DuckNumbers& numbers,
                                   const AudioBuffer& bass);

/// Sets the frequency of a bell at the trigger's landing; BadUsage without a landing.
Result<void> placeBell(DuckNumbers& numbers, const HeardTriggers& heard);

}  // namespace heft::cli
