#include "cli/presets.h"

#include <algorithm>
#include <charconv>
#include <filesystem>

#include "cli/commands.h"
#include "core/session/edits/presets.h"

namespace heft::cli {
namespace {

std::string lowered(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::tolower(c); });
  return text;
}

Result<Owner> placeOf(const Session& s, const std::string& words) {
  const size_t slash = words.find('/');
  const std::string name = lowered(words.substr(0, slash));
  if (name == "sum" && slash == std::string::npos) return Owner{};
  const Part* part = nullptr;
  for (const Part& p : s.parts)
    if (!part && lowered(p.title()) == name) part = &p;
  if (!part) part = name == "kick" ? &s.kick() : name == "bass" ? &s.bass() : nullptr;
  if (!part) {
    std::string all;
    for (const Part& p : s.parts) all += p.title() + ", ";
    return badUsage("--preset: \"" + words.substr(0, 64) + "\" is not a part; write one of " + all + "sum");
  }
  if (slash == std::string::npos) return Owner{.part = part->id};
  size_t number = 0;
  const auto [end, error] = std::from_chars(words.data() + slash + 1, words.data() + words.size(), number);
  if (error != std::errc() || end != words.data() + words.size() || number < 1 || number > part->layers.size())
    return badUsage("--preset: \"" + words.substr(0, 64) + "\" names no layer; " + part->title() + " has " +
                    std::to_string(part->layers.size()));
  return Owner{.part = part->id, .layer = part->layers[number - 1].id};
}

Result<OpenedPreset> presetOf(const std::string& words) {
  std::error_code code;
  if (std::filesystem::exists(words, code)) return openPreset(words);
  for (const PresetFile& file : allPresets(presetFolder()))
    if (lowered(file.preset.name) == lowered(words))
      return file.path.empty() ? Result<OpenedPreset>(OpenedPreset{file.preset, {}}) : openPreset(file.path);
  return badUsage("--preset: there is no file and no preset \"" + words.substr(0, 64) +
                  "\"; heft-cli presets lists those that there are");
}

}  // namespace

Result<void> usePresets(Session& session, Assets& assets, const std::vector<std::string>& all) {
  for (const std::string& words : all) {
    const size_t equals = words.find('=');
    if (equals == std::string::npos || equals == 0 || equals + 1 == words.size())
      return badUsage("--preset: \"" + words.substr(0, 64) + "\" is not WHERE=PRESET");
    const auto at = placeOf(session, words.substr(0, equals));
    if (!at) return Fail(at.error());
    const auto opened = presetOf(words.substr(equals + 1));
    if (!opened) return Fail(opened.error());
    const auto edit = usePreset(session, *at, opened->preset);
    if (!edit) return badUsage("--preset: " + edit.error().reason);
    for (const AssetRef& ref : assetsOf(opened->preset))
      if (const LoadedSound* sound = opened->assets.find(ref); sound && !assets.find(ref))
        assets.add(*sound, ref.name);
    edit->change(session);
  }
  return {};
}

Result<Json> presets() {
  Json list = Json::array(), warnings = Json::array();
  std::vector<std::string> faults;
  for (const PresetFile& file : allPresets(presetFolder(), &faults))
    list.push_back({{"name", file.preset.name},
                    {"kind", presetKindWord(file.preset)},
                    {"file", file.path.empty() ? Json(nullptr) : Json(file.path)}});
  for (const std::string& fault : faults) warnings.push_back(fault);
  return Json{{"folder", presetFolder()}, {"presets", list}, {"warnings", warnings}};
}

}  // namespace heft::cli
