#pragma once
/// Presets: a processor, a list of them, a layer or a part in a file of its own (docs/format.md), with the
/// sounds that it holds beside it. A few ship with Heft.

#include <variant>

#include "core/session/folder.h"

namespace heft {

struct Preset {
  std::string name;
  std::variant<Processor, Chain, Layer, Part> what;
  Unknown unknown = {};
  bool operator==(const Preset&) const = default;
};
inline constexpr int kPresetVersion = 2;
inline constexpr const char* kPresetExtension = ".heft-preset";

/// "drive", "list of processors", "layer", "part": what people call it.
std::string presetKindWord(const Preset& preset);
/// The sounds that it uses, once each.
std::vector<AssetRef> assetsOf(const Preset& preset);

/// The preset as saved or copied to the clipboard.
std::string presetToJson(const Preset& preset);
/// Every number is checked against its range; keys that are not known are kept. Errors: Unreadable, naming the
/// file and the key.
Result<Preset> presetFromJson(const std::string& text, const std::string& fileName);

struct OpenedPreset {
  Preset preset;
  Assets assets;  ///< the sounds that it holds
};
/// Opens a preset with its sounds, from audio/ beside it. Errors: Unreadable, naming the file or the missing
/// sound.
Result<OpenedPreset> openPreset(const std::string& path);
/// Saves it as NAME.heft-preset in that folder, with its sounds in audio/ there; returns the path. Replaces a
/// preset of that name. Errors: Unwritable.
Result<std::string> savePreset(const std::string& folder, const Preset& preset, const Assets& assets);

/// The user's preset folder; empty where the system names none.
std::string presetFolder();
struct PresetFile {
  Preset preset;
  std::string path;  ///< empty: one that ships
};
/// The user's own by name, then those that ship. `faults`: a sentence for each file that cannot be read.
std::vector<PresetFile> allPresets(const std::string& folder, std::vector<std::string>* faults = nullptr);
/// Presets of the same kind: for a drive drives, for a list lists.
std::vector<PresetFile> presetsLike(const std::vector<PresetFile>& all, const Preset& preset);

/// Those that ship, named by their effect.
std::vector<Preset> shippedPresets();

}  // namespace heft
