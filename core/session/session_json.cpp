// The session's file: docs/format.md. Reading checks every value; what is not known is kept.

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/session/fields.h"
#include "core/session/session.h"

namespace heft {
namespace {

using Json = nlohmann::ordered_json;
constexpr size_t kMostText = 64'000'000;
constexpr int kDeepest = 64;
// Under it stand the leftovers of a list's items, by their place: no key of a file is this one.
constexpr const char* kItems = "\x01items";

// Takes known keys out of an object; what is left is the unknown rest. The first fault is kept and ends the
// reading.
class Reader {
 public:
  Reader(const Json& object, std::string where, std::string& fault)
      : rest_(object), where_(std::move(where)), fault_(fault) {
    if (!rest_.is_object()) fail("", "is not an object");
  }
  Json take(const char* key) {
    if (!rest_.is_object() || !rest_.contains(key)) return nullptr;
    Json value = std::move(rest_[key]);
    rest_.erase(key);
    return value;
  }
  void number(const char* key, double& out, double low, double high) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_number() || !(value.get<double>() >= low && value.get<double>() <= high))
      return fail(key, "is out of range");
    out = value.get<double>();
  }
  void number(const char* key, std::optional<double>& out, double low, double high) {
    double value = std::nan("");
    number(key, value, low, high);
    if (!std::isnan(value)) out = value;
  }
  void whole(const char* key, int& out, int low, int high) {
    double value = out;
    number(key, value, low, high);
    if (value != std::floor(value)) return fail(key, "is not a whole number");
    out = static_cast<int>(value);
  }
  template <class T>
  void count(const char* key, T& out) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_number_integer() || value < 0) return fail(key, "is not a whole number");
    out = value.get<T>();
  }
  void flag(const char* key, bool& out) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_boolean()) return fail(key, "is neither true nor false");
    out = value.get<bool>();
  }
  void text(const char* key, std::string& out, size_t most = 4096) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_string() || value.get_ref<const std::string&>().size() > most)
      return fail(key, "is not a text of bounded length");
    out = value.get<std::string>();
  }
  /// A text that `parse` turns into a value.
  template <class T, class Parse>
  void parsed(const char* key, T& out, Parse parse) {
    std::string words;
    text(key, words);
    if (words.empty()) return;
    const auto value = parse(words);
    if (!value) return fail(key, value.error().reason);
    out = *value;
  }
  /// `each` reads one item; what it leaves is kept under the item's place.
  template <class Each>
  void list(const char* key, size_t most, Each each) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_array() || value.size() > most) return fail(key, "is not a list of bounded length");
    Json left = Json::object();
    for (size_t i = 0; i < value.size() && fault_.empty(); ++i) {
      if (!value[i].is_object()) return fail(key, "holds something that is not an object");
      Reader item(value[i], where_ + key + ".", fault_);
      each(item);
      if (!item.rest_.empty()) left[std::to_string(i)] = std::move(item.rest_);
    }
    if (!left.empty()) rest_[key] = {{kItems, std::move(left)}};
  }
  /// A list of texts or numbers.
  template <class Each>
  void plainList(const char* key, size_t most, Each each) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_array() || value.size() > most) return fail(key, "is not a list of bounded length");
    for (const Json& item : value) each(item);
  }
  /// What `read` leaves of the object stays in this one's rest.
  void object(const char* key, auto read) {
    const Json value = take(key);
    if (value.is_null()) return;
    Reader inner(value, where_ + key + ".", fault_);
    read(inner);
    if (inner.rest_.is_object() && !inner.rest_.empty()) rest_[key] = std::move(inner.rest_);
  }
  void fail(const std::string& key, const std::string& why) {
    if (fault_.empty())
      fault_ = "\"" + where_ + key + "\" " + why + "; mend it in session.json or open a backup";
  }
  /// What is left, for the value that keeps it.
  Unknown takeUnknown() {
    Unknown out = rest_.is_object() && !rest_.empty() ? rest_.dump() : Unknown();
    rest_ = Json::object();
    return out;
  }

 private:
  Json rest_;
  std::string where_;
  std::string& fault_;
};

// Puts back what was left over: whole values where there are none, parts of objects and of lists' items into
// theirs.
void merge(Json& out, const Json& rest) {
  for (const auto& [key, value] : rest.items()) {
    const bool items = value.is_object() && value.size() == 1 && value.contains(kItems);
    if (items) {
      if (!out.contains(key) || !out[key].is_array()) continue;
      for (const auto& [index, item] : value[kItems].items())
        if (const size_t i = std::stoul(index); i < out[key].size() && out[key][i].is_object())
          merge(out[key][i], item);
    } else if (!out.contains(key)) {
      out[key] = value;
    } else if (out[key].is_object() && value.is_object()) {
      merge(out[key], value);
    }
  }
}

void mergeUnknown(Json& out, const Unknown& unknown) {
  if (unknown.empty()) return;
  const Json rest = Json::parse(unknown, nullptr, false);
  if (rest.is_object()) merge(out, rest);
}

bool isHash(const std::string& text) {
  return text.size() == 32 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

Json toJson(const AssetRef& a) {
  Json j = {{"hash", a.hash}, {"name", a.name}};
  if (!a.from.empty()) j["from"] = a.from;
  if (a.stamp.bytes) j["from_bytes"] = a.stamp.bytes;
  if (a.stamp.changedNs) j["from_changed_ns"] = a.stamp.changedNs;
  mergeUnknown(j, a.unknown);
  return j;
}
void read(Reader& r, AssetRef& a) {
  r.text("hash", a.hash);
  r.text("name", a.name);
  r.text("from", a.from);
  r.count("from_bytes", a.stamp.bytes);
  r.count("from_changed_ns", a.stamp.changedNs);
  a.unknown = r.takeUnknown();
  if (!a.hash.empty() && !isHash(a.hash)) r.fail("hash", "is not 32 hex digits");
}

// Writes what eachOf lists.
struct FieldWriter {
  Json json = Json::object();
  void flag(const char* key, bool v) { json[key] = v; }
  void number(const char* key, double v, double, double) { json[key] = v; }
  void whole(const char* key, int v, int, int) { json[key] = v; }
  void time(const char* key, const TimeValue& v) { json[key] = v.text(); }
  void choice(const char* key, auto v, auto nameOf, auto) { json[key] = nameOf(v); }
  template <class T>
  void object(const char* key, const T& v) {
    FieldWriter inner;
    eachOf(v, inner);
    json[key] = std::move(inner.json);
  }
  template <class T>
  void list(const char* key, const std::vector<T>& v, size_t) {
    Json& out = json[key] = Json::array();
    for (const T& item : v) {
      FieldWriter inner;
      eachOf(item, inner);
      out.push_back(std::move(inner.json));
    }
  }
};

// Reads them, each within its range; what is missing stays as it is by default.
struct FieldReader {
  Reader& r;
  void flag(const char* key, bool& v) { r.flag(key, v); }
  void number(const char* key, double& v, double low, double high) { r.number(key, v, low, high); }
  void whole(const char* key, int& v, int low, int high) { r.whole(key, v, low, high); }
  void time(const char* key, TimeValue& v) { r.parsed(key, v, parseTime); }
  void choice(const char* key, auto& v, auto, auto parse) { r.parsed(key, v, parse); }
  template <class T>
  void object(const char* key, T& v) {
    r.object(key, [&](Reader& inner) {
      FieldReader fields{inner};
      eachOf(v, fields);
    });
  }
  template <class T>
  void list(const char* key, std::vector<T>& v, size_t most) {
    std::vector<T> items;
    r.list(key, most, [&](Reader& inner) {
      FieldReader fields{inner};
      eachOf(items.emplace_back(), fields);
    });
    if (!items.empty()) v = std::move(items);
  }
};

template <class T>
Json fieldsOf(const T& v) {
  FieldWriter out;
  eachOf(v, out);
  return std::move(out.json);
}
template <class T>
void readFields(Reader& r, const char* key, T& v) {
  FieldReader{r}.object(key, v);
}

Json toJson(const Layer& l) {
  Json j = {{"asset", toJson(l.asset)},
            {"level_db", l.levelDb},
            {"invert", l.invert},
            {"mute", l.mute},
            {"method", tuneMethodName(l.method)},
            {"strike_ms", l.strikeMs},
            {"band_low_hz", l.band.lowHz},
            {"band_high_hz", l.band.highHz}};
  if (l.strikeSemitones != 0.0) j["strike_semitones"] = l.strikeSemitones;
  if (l.flatten != 0.0) j["flatten"] = l.flatten;
  if (l.targetMidi) j["target_midi"] = *l.targetMidi;
  if (l.rootMidi) j["root_midi"] = *l.rootMidi;
  if (l.band.atMs) j["landing_ms"] = *l.band.atMs;
  if (l.band.atHz) j["landing_hz"] = *l.band.atHz;
  if (l.length) j["length"] = l.length->text();
  if (l.kickVoice) j["built_kick"] = fieldsOf(*l.kickVoice);
  if (l.bassVoice) j["built_bass"] = fieldsOf(*l.bassVoice);
  j["name"] = l.name;
  j["id"] = l.id;
  j["solo"] = l.solo;
  j["offset_ms"] = l.offsetMs;
  j["semitones"] = l.semitones;
  j["follow_notes"] = l.followNotes;
  j["glide_ms"] = l.glideMs;
  j["keep_length"] = l.keepLength;
  j["velocity_to_level"] = l.velocityToLevel;
  if (l.shape != LayerShape()) j["shape"] = fieldsOf(l.shape);
  if (!l.bodyAsset.empty()) j["body_asset"] = toJson(l.bodyAsset);
  mergeUnknown(j, l.unknown);
  return j;
}
void read(Reader& r, Layer& l) {
  r.object("asset", [&](Reader& a) { read(a, l.asset); });
  r.number("level_db", l.levelDb, kLeastLevelDb, kMostLevelDb);
  r.flag("invert", l.invert);
  r.flag("mute", l.mute);
  r.parsed("method", l.method, parseTuneMethod);
  r.number("strike_ms", l.strikeMs, 1, 200);
  r.number("strike_semitones", l.strikeSemitones, -24, 24);
  r.number("flatten", l.flatten, 0, 1);
  r.number("band_low_hz", l.band.lowHz, 10, 0.9 * kHighestBandHz);
  r.number("band_high_hz", l.band.highHz, 11, kHighestBandHz);
  r.number("landing_ms", l.band.atMs, 0, 60000);
  r.number("landing_hz", l.band.atHz, 8, kHighestBandHz);
  if (l.band.highHz <= l.band.lowHz) r.fail("band_high_hz", "is not above band_low_hz");
  r.number("target_midi", l.targetMidi, 0, 127);
  r.number("root_midi", l.rootMidi, 0, 127);
  TimeValue length;
  r.parsed("length", length, parseTime);
  if (length != TimeValue()) l.length = length;
  r.object("built_kick", [&](Reader& v) {
    FieldReader fields{v};
    eachOf(l.kickVoice.emplace(), fields);
    auto& fall = l.kickVoice->fall;
    for (size_t i = 0; i < fall.size(); ++i)
      if (i == 0 ? fall[i].at != 0.0 : fall[i].at < fall[i - 1].at) v.fail("fall", "does not ascend from 0");
  });
  r.object("built_bass", [&](Reader& v) {
    FieldReader fields{v};
    eachOf(l.bassVoice.emplace(), fields);
  });
  r.text("name", l.name, 200);
  r.whole("id", l.id, 1, 1'000'000);
  r.flag("solo", l.solo);
  r.number("offset_ms", l.offsetMs, -200, 200);
  r.number("semitones", l.semitones, -48, 48);
  r.flag("follow_notes", l.followNotes);
  r.number("glide_ms", l.glideMs, 0, 2000);
  r.flag("keep_length", l.keepLength);
  r.number("velocity_to_level", l.velocityToLevel, 0, 1);
  readFields(r, "shape", l.shape);
  for (Cut* cut : {&l.shape.eq.lowCut, &l.shape.eq.highCut})
    cut->slopeDbPerOctave -= cut->slopeDbPerOctave % 12;
  r.object("body_asset", [&](Reader& a) { read(a, l.bodyAsset); });
  l.unknown = r.takeUnknown();
}

Json toJson(const std::vector<Layer>& layers) {
  Json out = Json::array();
  for (const Layer& l : layers) out.push_back(toJson(l));
  return out;
}
void readLayers(Reader& r, std::vector<Layer>& layers) {
  layers.clear();
  r.list("layers", 64, [&](Reader& item) { read(item, layers.emplace_back()); });
}

Json toJson(const Versions& v) {
  Json out = Json::array();
  for (const PartVersion& one : v.all) {
    Json& version =
        out.emplace_back(Json{{"name", one.name}, {"layers", toJson(one.layers)}, {"finish", fieldsOf(one.finish)}});
    mergeUnknown(version, one.unknown);
  }
  return {{"now", v.now}, {"all", out}};
}
void read(Reader& r, Versions& v) {
  r.list("all", kMostVersions, [&](Reader& one) {
    PartVersion& version = v.all.emplace_back();
    one.text("name", version.name, 200);
    readLayers(one, version.layers);
    readFields(one, "finish", version.finish);
    version.unknown = one.takeUnknown();
  });
  r.whole("now", v.now, 0, static_cast<int>(kMostVersions));
  if (v.now != 0 && v.now >= static_cast<int>(v.all.size())) r.fail("now", "names no version");
}

Json toJson(const std::vector<int>& ids) {
  return Json(ids);
}
void readIds(Reader& r, const char* key, std::vector<int>& ids) {
  r.plainList(key, 64, [&](const Json& item) {
    if (item.is_number_integer() && item >= 1 && item <= 1'000'000)
      ids.push_back(item.get<int>());
    else
      r.fail(key, "holds something that is not a layer's id");
  });
}

Json toJson(const Track& t) {
  Json j = {{"name", t.name},
            {"key", t.key.name()},
            {"tempo_bpm", t.tempoBpm},
            {"beats_per_bar", t.beatsPerBar},
            {"beat_unit", t.beatUnit},
            {"loop_beats", t.loopBeats},
            {"middle_c", static_cast<int>(t.notes.octaves)},
            {"a4_hz", t.notes.a4Hz},
            {"sample_rate", t.sampleRate}};
  mergeUnknown(j, t.unknown);
  return j;
}
void read(Reader& r, Track& t) {
  r.text("name", t.name, 200);
  r.parsed("key", t.key, parseKey);
  r.number("tempo_bpm", t.tempoBpm, 40, 240);
  r.whole("beats_per_bar", t.beatsPerBar, 1, 12);
  r.whole("beat_unit", t.beatUnit, 2, 16);
  if (t.beatUnit & (t.beatUnit - 1)) r.fail("beat_unit", "is not 2, 4, 8 or 16");
  r.whole("loop_beats", t.loopBeats, 1, 8 * t.beatsPerBar);
  int octave = static_cast<int>(t.notes.octaves);
  r.whole("middle_c", octave, 3, 5);
  t.notes.octaves = static_cast<OctaveNaming>(octave);
  t.notes.flats = t.key.prefersFlats();
  r.number("a4_hz", t.notes.a4Hz, 380, 480);
  r.number("sample_rate", t.sampleRate, 8000, 384000);
  t.unknown = r.takeUnknown();
}

Json toJson(const KickPart& k) {
  Json hits = Json::array();
  for (const Hit& h : k.hits) {
    Json& hit = hits.emplace_back(Json{{"start", h.startQuarters}, {"velocity", h.velocity}});
    if (!h.without.empty()) hit["without"] = toJson(h.without);
    mergeUnknown(hit, h.unknown);
  }
  Json j = {{"layers", toJson(k.layers)}, {"hits", hits}};
  if (k.tailTarget) j["tail_target"] = k.tailTarget->text(), j["tail_target_set"] = true;
  j["finish"] = fieldsOf(k.finish);
  if (!k.versions.all.empty()) j["versions"] = toJson(k.versions);
  mergeUnknown(j, k.unknown);
  return j;
}
void read(Reader& r, KickPart& k) {
  readLayers(r, k.layers);
  k.hits.clear();
  r.list("hits", kMostHits, [&](Reader& h) {
    Hit& hit = k.hits.emplace_back();
    h.number("start", hit.startQuarters, 0, 1e5);
    h.number("velocity", hit.velocity, 0, 1);
    readIds(h, "without", hit.without);
    hit.unknown = h.takeUnknown();
  });
  std::sort(k.hits.begin(), k.hits.end(),
            [](const Hit& a, const Hit& b) { return a.startQuarters < b.startQuarters; });
  TimeValue tail;
  bool set = false;
  r.parsed("tail_target", tail, parseTime);
  r.flag("tail_target_set", set);
  // Every session used to say a sixteenth, whether somebody wanted it or not.
  if (tail.toMs(120.0) > 0.0 && (set || tail != TimeValue::note(1, 16))) k.tailTarget = tail;
  readFields(r, "finish", k.finish);
  r.object("versions", [&](Reader& v) { read(v, k.versions); });
  k.unknown = r.takeUnknown();
}

Json toJson(const BassPart& b) {
  Json notes = Json::array();
  for (const Note& n : b.notes) {
    Json& note = notes.emplace_back(Json{
        {"start", n.startQuarters}, {"length", n.lengthQuarters}, {"midi", n.midi}, {"velocity", n.velocity}});
    if (!n.without.empty()) note["without"] = toJson(n.without);
    if (n.tie) note["tie"] = true;
    if (n.dive.semitones > 0.0) note["dive"] = fieldsOf(n.dive);
    mergeUnknown(note, n.unknown);
  }
  Json j = {{"layers", toJson(b.layers)}, {"notes", notes}};
  Json& wheel = j["wheel"] = Json::array();
  for (const WheelPoint& p : b.wheel)
    mergeUnknown(wheel.emplace_back(Json{{"at", p.quarters}, {"value", p.value}}), p.unknown);
  j["wheel_range"] = b.wheelRange;
  j["finish"] = fieldsOf(b.finish);
  if (!b.versions.all.empty()) j["versions"] = toJson(b.versions);
  mergeUnknown(j, b.unknown);
  return j;
}
void read(Reader& r, BassPart& b) {
  readLayers(r, b.layers);
  b.notes.clear();
  r.list("notes", kMostHits, [&](Reader& n) {
    Note& note = b.notes.emplace_back();
    n.number("start", note.startQuarters, 0, 1e5);
    n.number("length", note.lengthQuarters, 0.01, 1e5);
    n.whole("midi", note.midi, 0, 127);
    n.number("velocity", note.velocity, 0, 1);
    readIds(n, "without", note.without);
    n.flag("tie", note.tie);
    readFields(n, "dive", note.dive);
    note.unknown = n.takeUnknown();
  });
  std::sort(b.notes.begin(), b.notes.end(),
            [](const Note& x, const Note& y) { return x.startQuarters < y.startQuarters; });
  r.list("wheel", 20000, [&](Reader& p) {
    WheelPoint& point = b.wheel.emplace_back();
    p.number("at", point.quarters, 0, 1e5);
    p.number("value", point.value, -1, 1);
    point.unknown = p.takeUnknown();
  });
  std::stable_sort(b.wheel.begin(), b.wheel.end(),
                   [](const WheelPoint& x, const WheelPoint& y) { return x.quarters < y.quarters; });
  r.number("wheel_range", b.wheelRange, 1, 48);
  r.flag("mono", b.finish.mono);  // version 1
  readFields(r, "finish", b.finish);
  r.object("versions", [&](Reader& v) { read(v, b.versions); });
  b.unknown = r.takeUnknown();
}

Json toJson(const DuckMove& d) {
  Json j = {{"on", d.on},
            {"depth_db", d.depthDb},
            {"attack", d.attack.text()},
            {"hold", d.hold.text()},
            {"return", d.release.text()},
            {"as_kick", d.asKick},
            {"crossover_hz", d.crossoverHz}};
  mergeUnknown(j, d.unknown);
  return j;
}
void read(Reader& r, DuckMove& d) {
  r.flag("on", d.on);
  r.number("depth_db", d.depthDb, 0, 120);
  r.parsed("attack", d.attack, parseTime);
  r.parsed("hold", d.hold, parseTime);
  r.parsed("return", d.release, parseTime);
  r.flag("as_kick", d.asKick);
  r.number("crossover_hz", d.crossoverHz, 0, 1000);
  if (d.crossoverHz > 0 && d.crossoverHz < 30) r.fail("crossover_hz", "is neither 0 nor 30 to 1000");
  d.unknown = r.takeUnknown();
}

constexpr const char* kFormats[] = {"wav16", "wav24", "wav-float", "flac24"};

Json toJson(const ExportList& e) {
  return {{"kick", e.kickOneShot},  {"bass", e.bassOneShot},
          {"stems", e.stems},       {"gain_curve", e.gainCurve},
          {"patterns", e.patterns}, {"format", kFormats[static_cast<int>(e.format)]}};
}
void read(Reader& r, ExportList& e) {
  r.flag("kick", e.kickOneShot);
  r.flag("bass", e.bassOneShot);
  r.flag("stems", e.stems);
  r.flag("gain_curve", e.gainCurve);
  r.flag("patterns", e.patterns);
  std::string format = kFormats[static_cast<int>(e.format)];
  r.text("format", format);
  const auto at = std::find(std::begin(kFormats), std::end(kFormats), format);
  if (at == std::end(kFormats)) return r.fail("format", "is not wav16, wav24, wav-float or flac24");
  e.format = static_cast<SampleFormat>(at - std::begin(kFormats));
}

bool tooDeep(const std::string& text) {
  int depth = 0;
  bool quoted = false;
  for (size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quoted && c == '\\')
      ++i;
    else if (c == '"')
      quoted = !quoted;
    else if (!quoted && (c == '{' || c == '[') && ++depth > kDeepest)
      return true;
    else if (!quoted && (c == '}' || c == ']'))
      --depth;
  }
  return false;
}

}  // namespace

std::string sessionToJson(const Session& s) {
  Json j = {{"heft_session", kSessionVersion},
            {"track", toJson(s.track)},
            {"grid", {{"division", s.grid.division.text()}, {"swing", s.grid.swing}}},
            {"kick", toJson(s.kick)},
            {"bass", toJson(s.bass)}};
  j["backing"] = {{"asset", toJson(s.backing.asset)}, {"level_db", s.backing.levelDb}, {"mute", s.backing.mute}};
  if (s.backing.offsetSeconds != 0.0) j["backing"]["offset_s"] = s.backing.offsetSeconds;
  if (s.backing.lowCutHz != 0.0) j["backing"]["low_cut_hz"] = s.backing.lowCutHz;
  mergeUnknown(j["backing"], s.backing.unknown);
  j["align"] = {{"delay_ms", s.align.delayMs},
                {"invert", s.align.invert},
                {"low_hz", s.align.question.lowHz},
                {"high_hz", s.align.question.highHz},
                {"max_delay_ms", s.align.question.maxDelayMs}};
  j["duck"] = toJson(s.duck);
  j["references"] = Json::array();
  for (const AssetRef& a : s.references) j["references"].push_back(toJson(a));
  j["export"] = toJson(s.exports);
  j["meant_so"] = s.meantSo;
  if (!s.savedOn.empty()) j["saved_on"] = s.savedOn;
  mergeUnknown(j, s.unknown);
  return j.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Session> sessionFromJson(const std::string& text, const std::string& fileName) {
  if (text.size() > kMostText) return unreadable(fileName, "is larger than a session can be");
  if (tooDeep(text)) return unreadable(fileName, "is nested deeper than a session can be");
  const Json json = Json::parse(text, nullptr, false);
  if (json.is_discarded() || !json.is_object() || !json.contains("heft_session"))
    return unreadable(fileName, "is not a Heft session; choose a folder that Heft saved");
  Session s;
  std::string fault;
  Reader r(json, "", fault);
  int version = 0;
  r.whole("heft_session", version, 1, 1'000'000);
  if (version > kSessionVersion) return unreadable(fileName, "was saved by a newer Heft; open it there");
  r.object("track", [&](Reader& x) { read(x, s.track); });
  r.object("grid", [&](Reader& x) {
    x.parsed("division", s.grid.division, parseTime);
    if (!s.grid.division.isNote()) x.fail("division", "is no note length");
    x.number("swing", s.grid.swing, 0, 1.5);
  });
  r.object("kick", [&](Reader& x) { read(x, s.kick); });
  r.object("bass", [&](Reader& x) { read(x, s.bass); });
  r.object("backing", [&](Reader& x) {
    x.object("asset", [&](Reader& a) { read(a, s.backing.asset); });
    x.number("level_db", s.backing.levelDb, kLeastLevelDb, kMostLevelDb);
    x.flag("mute", s.backing.mute);
    x.number("offset_s", s.backing.offsetSeconds, -600, 600);
    x.number("low_cut_hz", s.backing.lowCutHz, 0, 1000);
    if (s.backing.lowCutHz > 0 && s.backing.lowCutHz < 20) x.fail("low_cut_hz", "is neither 0 nor 20 to 1000");
    s.backing.unknown = x.takeUnknown();
  });
  r.object("align", [&](Reader& x) {
    x.number("delay_ms", s.align.delayMs, -200, 200);
    x.flag("invert", s.align.invert);
    x.number("low_hz", s.align.question.lowHz, 10, 999);
    x.number("high_hz", s.align.question.highHz, 11, 1000);
    x.number("max_delay_ms", s.align.question.maxDelayMs, 0, 200);
    if (s.align.question.highHz <= s.align.question.lowHz) x.fail("high_hz", "is not above low_hz");
  });
  r.object("duck", [&](Reader& x) { read(x, s.duck); });
  r.list("references", 64, [&](Reader& item) { read(item, s.references.emplace_back()); });
  r.object("export", [&](Reader& x) { read(x, s.exports); });
  r.plainList("meant_so", 1000, [&](const Json& item) {
    if (item.is_string())
      s.meantSo.insert(item.get<std::string>().substr(0, 200));
    else
      r.fail("meant_so", "holds something that is not a text");
  });
  r.text("saved_on", s.savedOn, 64);
  s.unknown = r.takeUnknown();
  if (!fault.empty()) return unreadable(fileName, fault);
  return s;
}

}  // namespace heft
