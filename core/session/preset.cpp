#include "core/session/preset.h"

#include <algorithm>
#include <filesystem>

#include "core/session/field_json.h"
#include "core/session/older_json.h"
#include "core/session/rows.h"
#include "core/theory/text.h"

namespace heft {
namespace {

namespace fs = std::filesystem;

constexpr size_t kMostPresetText = 4'000'000;
constexpr size_t kMostPresetFiles = 2000;
constexpr std::array<const char*, 4> kKeys = {"processor", "chain", "layer", "part"};

}  // namespace

template <>
const Table& tableOf<Preset>() {
  static constexpr Row kRows[] = {rows::text<&Preset::name>("name", kLongestName),
                                  rows::which<&Preset::what>(kKeys), rows::kept<&Preset::unknown>()};
  static constexpr Table kTable = rows::made<Preset>(kRows);
  return kTable;
}

std::string presetKindWord(const Preset& preset) {
  if (const auto* processor = std::get_if<Processor>(&preset.what))
    return processorWord(processor->what.index());
  constexpr std::array kWords = {"", "list of processors", "layer", "part"};
  return kWords[preset.what.index()];
}

std::vector<AssetRef> assetsOf(const Preset& preset) {
  Session all;
  Part& part = all.kick();
  if (const auto* processor = std::get_if<Processor>(&preset.what)) part.finish.list = {*processor};
  if (const auto* chain = std::get_if<Chain>(&preset.what)) part.finish = *chain;
  if (const auto* layer = std::get_if<Layer>(&preset.what)) part.layers = {*layer};
  if (const auto* whole = std::get_if<Part>(&preset.what))
    part.layers = whole->layers, part.finish = whole->finish;
  return assetsOf(all);
}

std::string presetToJson(const Preset& preset) {
  Json out = Json::object();
  out["heft_preset"] = kPresetVersion;
  out.update(jsonOf(preset));
  return out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Preset> presetFromJson(const std::string& text, const std::string& fileName) {
  if (text.size() > kMostPresetText) return unreadable(fileName, "is larger than a preset can be");
  if (isTooDeep(text)) return unreadable(fileName, "is nested deeper than a preset can be");
  Json json = Json::parse(text, nullptr, false);
  if (json.is_discarded() || !json.is_object() || !json.contains("heft_preset"))
    return unreadable(fileName, "is not a Heft preset; choose a file that Heft saved as one");
  std::string fault;
  int version = 0;
  JsonReader(json, "", fault).whole("heft_preset", version, 1, 1'000'000);
  if (!fault.empty()) return unreadable(fileName, fault);
  if (version > kPresetVersion) return unreadable(fileName, "was saved by a newer Heft; use it there");
  if (version < 2) holdSamplesOnly(json);
  json.erase("heft_preset");
  const bool some =
      std::any_of(kKeys.begin(), kKeys.end(), [&](const char* key) { return json.contains(key); });
  if (!some) return unreadable(fileName, "holds no processor, chain, layer or part");
  Preset out;
  JsonReader whole(json, "", fault);
  readInto(out, whole);
  if (!fault.empty()) return unreadable(fileName, fault);
  return out;
}

Result<OpenedPreset> openPreset(const std::string& path) {
  auto text = readBytes(path, kMostPresetText);
  if (!text) return Fail(text.error());
  auto preset = presetFromJson(*text, path);
  if (!preset) return Fail(preset.error());
  OpenedPreset out{std::move(*preset), {}};
  for (const AssetRef& ref : assetsOf(out.preset)) {
    auto sound = storedSound(fs::path(path).parent_path().string(), ref);
    if (!sound)
      return unreadable(path,
                        "needs " + ref.name + " as it was saved in audio/ beside it: " + sound.error().reason);
    out.assets.add(std::move(*sound), ref.name);
  }
  return out;
}

Result<std::string> savePreset(const std::string& folder, const Preset& preset, const Assets& assets) {
  if (folder.empty()) return unwritable({}, "no user data folder; set HOME");
  if (auto wrote = saveSounds(folder, assetsOf(preset), assets); !wrote) return Fail(wrote.error());
  const std::string name = fileNameOf(preset.name, 100);
  const std::string path = (fs::path(folder) / (name + kPresetExtension)).string();
  if (auto wrote = writeWhole(path, presetToJson(preset)); !wrote) return Fail(wrote.error());
  return path;
}

std::string presetFolder() {
  const std::string own = userFolder();
  return own.empty() ? own : (fs::path(own) / "presets").string();
}

std::vector<PresetFile> allPresets(const std::string& folder, std::vector<std::string>* faults) {
  std::vector<PresetFile> out;
  std::vector<std::string> paths;
  std::error_code code;
  for (fs::directory_iterator at(folder, code), end; !code && at != end && paths.size() < kMostPresetFiles;
       at.increment(code))
    if (at->path().extension() == kPresetExtension) paths.push_back(at->path().string());
  std::sort(paths.begin(), paths.end());
  for (const std::string& path : paths) {
    const auto text = readBytes(path, kMostPresetText);
    const auto preset = text ? presetFromJson(*text, path) : Result<Preset>(Fail(text.error()));
    if (preset)
      out.push_back({*preset, path});
    else if (faults)
      faults->push_back(preset.error().sentence());
  }
  for (Preset& preset : shippedPresets()) out.push_back({std::move(preset), {}});
  return out;
}

std::vector<PresetFile> presetsLike(const std::vector<PresetFile>& all, const Preset& preset) {
  std::vector<PresetFile> out;
  const auto* processor = std::get_if<Processor>(&preset.what);
  for (const PresetFile& one : all) {
    if (one.preset.what.index() != preset.what.index()) continue;
    const auto* other = std::get_if<Processor>(&one.preset.what);
    if (!processor || processor->what.index() == other->what.index()) out.push_back(one);
  }
  return out;
}

}  // namespace heft
