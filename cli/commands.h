#pragma once
/// heft-cli's commands: each adds itself to the parser and gives what to run.

#include <CLI/CLI.hpp>
#include <functional>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/session/assets.h"
#include "core/theory/key.h"
#include "core/theory/note.h"

namespace heft::cli {

using Json = nlohmann::ordered_json;

/// Options that every command takes.
struct Common {
  bool json = false;
  std::string middleC = "C4";
  Result<NoteStyle> notes() const;
};

/// What a command gives: a document, printed as JSON or as a table.
using Run = std::function<Result<Json>()>;
using Runs = std::vector<std::pair<CLI::App*, Run>>;

void addSoundCommands(CLI::App& app, const Common& common, Runs& runs);    ///< measure, tune, compare
void addPairCommands(CLI::App& app, const Common& common, Runs& runs);     ///< align, duck
void addSessionCommands(CLI::App& app, const Common& common, Runs& runs);  ///< check, render, demo

/// A finite number given to an option, within a range; BadUsage names the option.
Result<double> numberOption(const std::string& option, const std::string& text, double low, double high);
/// The same where the option may be missing.
Result<double> numberOption(const std::string& option, const std::string& text, double low, double high,
                            double whenMissing);

/// Null for what is not finite; else rounded to `decimals`.
Json number(double value, int decimals = 4);

/// A table made for reading: one row per object of an array, "name  value" lines for an object.
std::string tableOf(const Json& document);

}  // namespace heft::cli
