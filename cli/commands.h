#pragma once
/// heft-cli's commands: their options and results.

#include <functional>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/result.h"
#include "core/session/fields.h"
#include "core/theory/note.h"

namespace heft::cli {

/// A command's result: a document, printed as JSON or as a table.
using Json = nlohmann::ordered_json;

/// Options that every command takes.
struct Common {
  bool json = false;
  std::string middleC = "C4";
  Result<NoteStyle> notes() const;
};

// Options as typed: the commands parse them, and name invalid ones.
struct BandOptions {
  std::string low, high, landingMs, landingHz;
};
struct MeasureOptions {
  std::vector<std::string> files;
  BandOptions band;
  std::string key, tempo;
  bool path = false;
};
struct TuneOptions {
  std::vector<std::string> files;
  std::string to, toHz, with, method, strikeMs, output;
  std::string key;  ///< of a kit
  BandOptions band;
};
struct KeyOptions {
  std::vector<std::string> files;
};
struct CompareOptions {
  std::string mix;
  std::vector<std::string> references;
  std::string section, tempo;  ///< of the references
  std::string by, ceiling, codec;
  bool speakers = false;
};
struct ReferenceOptions {
  std::vector<std::string> files;
  std::string section, tempo, csv;
};
struct AlignOptions {
  std::string kick, bass;  ///< of a session: its folder, and nothing
  std::string low, high, maxDelayMs, output;
  bool rotate = false, perNote = false, apply = false;
};
struct SplitOptions {
  std::string kick, atMs, joinMs, folder;
};
struct DuckOptions {
  std::string bass, depth, attack, hold, release, method = "drawn";
  std::vector<std::string> triggers;  ///< audio, "x.mid[:NOTE,...]", or a CSV of times
  std::string points, threshold, ratio, knee, lookahead, level, within, velocity;
  std::string crossover, band, lowCut, highCut, amount;
  std::string output, curve, midi, tempo, controller, channel, bits, signal, triggersCsv, triggersMidi;
};
struct CheckOptions {
  std::string session;
  std::string section;  ///< compared with the references; empty: as the session says
  bool noFixes = false;
};
struct FixOptions {
  std::string session, output;
  std::vector<std::string> only, without;
  bool list = false;
};
struct NewOptions {
  std::string kick, bass, backing, key, tempo, bars, output;
  bool song = false;
  std::vector<std::string> sections;  ///< "NAME=A:B" in bars
  std::vector<std::string> parts;     ///< "NAME=FILE"
  std::vector<std::string> presets;   ///< "WHERE=PRESET"
};
struct RenderOptions {
  std::string session, folder, versions;
  std::string from, to;  ///< bars
  std::vector<std::string> presets;
};

Result<Json> measure(const MeasureOptions& o, const Common& common);
Result<Json> tune(const TuneOptions& o, const Common& common);
/// Many files at once, each to the note of the key with the least strain.
Result<Json> tuneKit(const TuneOptions& o, const Common& common);
/// Key and tempo, as measured and as the name says.
Result<Json> keys(const KeyOptions& o);
Result<Json> compare(const CompareOptions& o);
/// What each track's kick and bass do, measured in its mix.
Result<Json> reference(const ReferenceOptions& o, const Common& common);
Result<Json> align(const AlignOptions& o);
/// For a session: each hit, and the ways with their figures; applies the best one if asked.
Result<Json> alignSession(const AlignOptions& o);
/// Strike and body as files that add up to the sound, sample for sample; existing files are not overwritten.
Result<Json> split(const SplitOptions& o);
Result<Json> duck(const DuckOptions& o);
/// The user's own presets and those that ship.
Result<Json> presets();
/// The Ledger's findings, and how loud each bass note is heard.
Result<Json> check(const CheckOptions& o);
/// The Ledger's fixes in working order, none that makes another line worse; fixes that ask only where named.
Result<Json> fix(const FixOptions& o);
/// A session from files, with a default pattern: kick on every beat, bass off the beat, others on every second
/// one.
Result<Json> makeNew(const NewOptions& o);
Result<Json> renderTo(const RenderOptions& o);
Result<Json> writeDemo(const std::string& folder);

/// Parsed arguments: a command to run, or a text to print.
struct Asked {
  std::function<Result<Json>()> command;
  std::string help;
  Common common;
};
/// BadUsage says what cannot be understood.
Result<Asked> parseArguments(int argc, char** argv);

/// A finite number given to an option, within a range; BadUsage names the option.
Result<double> numberOption(const std::string& option, const std::string& text, double low, double high);
Result<double> numberOption(const std::string& option, const std::string& text, const Range& range);
/// The same where the option may be missing.
Result<double> numberOption(const std::string& option, const std::string& text, const Range& range,
                            double whenMissing);

/// Search band of a landing, or a hand-set one. BadUsage names the option.
Result<LandingOptions> bandOption(const BandOptions& o);

/// Null unless finite; else rounded to `decimals`.
Json number(double value, int decimals = 4);

/// A table made for reading: one row per object of an array, "name  value" lines for an object.
std::string tableOf(const Json& document);

}  // namespace heft::cli
