#include "core/session/older_json.h"

#include <array>
#include <string>

namespace heft {
namespace {

using Json = nlohmann::ordered_json;

Json taken(Json& from, const char* key) {
  if (!from.is_object() || !from.contains(key)) return nullptr;
  Json out = std::move(from[key]);
  from.erase(key);
  return out;
}

// Keys that were a layer's and belong to a recording now.
constexpr std::array kOfRecordings = {
    "asset",        "target_midi",  "method",      "strike_ms",        "strike_semitones", "flatten",
    "band_low_hz",  "band_high_hz", "landing_ms",  "landing_hz",       "root_midi",        "length",
    "follow_notes", "glide_ms",     "keep_length", "velocity_to_level"};

void upgradeLayer(Json& layer, const char* builtHere) {
  if (!layer.is_object()) return;
  Json recorded = Json::object();
  for (const char* key : kOfRecordings)
    if (Json value = taken(layer, key); !value.is_null()) recorded[key] = std::move(value);
  const bool built = layer.contains("built_kick") || layer.contains("built_bass");
  if (!built) layer["recorded"] = std::move(recorded);
  // A part reads its own kind of voice.
  if (layer.contains(builtHere))
    for (const char* voice : {"built_kick", "built_bass"})
      if (std::string(voice) != builtHere) layer.erase(voice);
}

void upgradeLayers(Json& holder, const char* builtHere) {
  if (holder.is_object() && holder.contains("layers") && holder["layers"].is_array())
    for (Json& layer : holder["layers"]) upgradeLayer(layer, builtHere);
}

void upgradePart(Json& part, int id, const char* role, const char* plays, const char* builtHere) {
  if (part.is_null()) part = Json::object();
  if (!part.is_object()) return;
  upgradeLayers(part, builtHere);
  if (part.contains("versions") && part["versions"].is_object() && part["versions"].contains("all") &&
      part["versions"]["all"].is_array())
    for (Json& version : part["versions"]["all"]) upgradeLayers(version, builtHere);
  // Every session used to store a sixteenth, wanted or not.
  const Json set = taken(part, "tail_target_set");
  if (set != true && part.contains("tail_target") && part["tail_target"] == "1/16") part.erase("tail_target");
  if (Json mono = taken(part, "mono"); mono.is_boolean()) part["finish"]["mono"] = mono;  // version 1
  part["id"] = id, part["role"] = role, part["plays"] = plays;
}

void dropZero(Json& holder, const char* key) {
  if (holder.is_object() && holder.contains(key) && holder[key].is_number() && holder[key] == 0)
    holder.erase(key);
}

Json fromVersion2(Json s) {
  Json kick = taken(s, "kick"), bass = taken(s, "bass"), align = taken(s, "align"), duck = taken(s, "duck");
  upgradePart(kick, 1, "kick", "hits", "built_kick");
  upgradePart(bass, 2, "bass", "notes", "built_bass");
  if (!align.is_null() && bass.is_object()) bass["align"] = std::move(align);
  s["parts"] = Json::array({std::move(kick), std::move(bass)});
  if (duck.is_null()) duck = Json::object();
  if (Json asKick = taken(duck, "as_kick"); !asKick.is_null()) duck["as_source"] = asKick;
  dropZero(duck, "crossover_hz");
  s["ducks"] = Json::array({std::move(duck)});
  if (s.contains("backing")) dropZero(s["backing"], "low_cut_hz");
  if (s.contains("track") && s["track"].is_object() && s["track"].contains("middle_c") &&
      s["track"]["middle_c"].is_number_integer())
    s["track"]["middle_c"] = "C" + s["track"]["middle_c"].dump();
  return s;
}

// A ducking was a curve of a part's lane by another part's hits.
void upgradeDuck(Json& duck) {
  if (!duck.is_object()) return;
  auto move = [&duck](const char* from, const char* object, const char* to) {
    if (Json value = taken(duck, from); !value.is_null()) duck[object][to] = std::move(value);
  };
  move("source_part", "source", "part");
  move("target_part", "target", "part");
  for (const char* key : {"depth_db", "attack", "hold", "return"}) move(key, "curve", key);
  if (Json asSource = taken(duck, "as_source"); asSource.is_boolean())
    duck["curve"]["lasts"] = asSource == true ? "as_source" : "as_set";
  if (duck.contains("crossover_hz")) duck["band"]["kind"] = "below";
  move("crossover_hz", "band", "below_hz");
}

bool isSet(const Json& holder, const char* key) {
  return holder.is_object() && holder.contains(key) && holder[key].is_boolean() && holder[key] == true;
}

// Whether all its values except its switch are defaults.
bool isUsual(const Json& values, const Json& usual) {
  if (!values.is_object() || !usual.is_object()) return values == usual;
  for (const auto& [key, value] : values.items())
    if (key != "on" && (!usual.contains(key) || !isUsual(value, usual[key]))) return false;
  return true;
}

bool isEqIn(const Json& eq) {
  for (const char* key : {"low_cut", "high_cut", "band_1", "band_2", "band_3", "band_4"})
    if (eq.is_object() && eq.contains(key) && isSet(eq[key], "on")) return true;
  return false;
}

// Processors used to have a fixed order, each once; untouched ones are not listed.
struct OlderChain {
  const Json& usual;
  Json list = Json::array();

  void add(const char* kind, Json values) {
    if (!values.is_object()) return;
    const bool in = std::string(kind) == "eq" ? isEqIn(values) : isSet(values, "on");
    if (!in && isUsual(values, usual[kind])) return;
    list.push_back({{"id", list.size() + 1}, {kind, std::move(values)}});
  }
  void addTo(Json& holder, const char* key, const Json& on = true) const {
    if (!list.empty() || on == false) holder[key] = {{"on", on}, {"list", list}};
  }
};

void upgradeShape(Json& layer, const Json& usual) {
  if (!layer.is_object()) return;
  Json asset = taken(layer, "body_asset");
  if (!layer.contains("shape") || !layer["shape"].is_object()) return;
  Json& shape = layer["shape"];
  OlderChain chain{usual};
  for (const char* kind : {"envelope", "eq", "strike_sustain", "drive"}) chain.add(kind, taken(shape, kind));
  Json body = taken(shape, "body"), on = taken(shape, "body_on");
  if (!body.is_object()) body = Json::object();
  body["on"] = on == true;
  if (asset.is_object()) body["asset"] = std::move(asset);
  chain.add("body", std::move(body));
  chain.add("room", taken(shape, "room"));
  if (const Json width = taken(shape, "width"); width.is_number() && width != 1)
    chain.add("width", {{"on", true}, {"width", width}});
  chain.addTo(layer, "chain");
}

void upgradeFinish(Json& holder, const Json& usual) {
  if (!holder.is_object() || !holder.contains("finish") || !holder["finish"].is_object()) return;
  Json finish = taken(holder, "finish"), on = taken(finish, "on");
  OlderChain chain{usual};
  for (const char* kind : {"eq", "drive", "compressor", "soft_clip", "limiter"})
    chain.add(kind, taken(finish, kind));
  if (taken(finish, "mono") == true) chain.add("width", {{"on", true}, {"width", 0.0}});
  chain.addTo(holder, "finish", on.is_boolean() ? on : Json(true));
}

template <class Do>
void eachOfList(Json& holder, const char* key, Do each) {
  if (holder.is_object() && holder.contains(key) && holder[key].is_array())
    for (Json& one : holder[key]) each(one);
}

void upgradeChains(Json& s, const Json& usual) {
  auto sound = [&](Json& holder) {
    eachOfList(holder, "layers", [&](Json& layer) { upgradeShape(layer, usual); });
    upgradeFinish(holder, usual);
  };
  eachOfList(s, "parts", [&](Json& part) {
    sound(part);
    if (part.is_object() && part.contains("versions")) eachOfList(part["versions"], "all", sound);
  });
  if (s.contains("sum")) upgradeFinish(s["sum"], usual);
}

}  // namespace

void holdSamplesOnly(Json& tree) {
  if (!tree.is_structured()) return;
  if (tree.is_object())
    for (const char* kind : {"limiter", "soft_clip"})
      if (tree.contains(kind) && tree[kind].is_object()) tree[kind]["true_peak"] = false;
  for (Json& one : tree) holdSamplesOnly(one);
}

Json fromOlderVersion(Json s, int version, const Json& usualProcessors) {
  if (version < 3) s = fromVersion2(std::move(s));
  if (version < 5) {
    upgradeChains(s, usualProcessors);
    if (s.contains("ducks") && s["ducks"].is_array())
      for (Json& duck : s["ducks"]) upgradeDuck(duck);
  }
  if (version < 6) holdSamplesOnly(s);
  return s;
}

}  // namespace heft
