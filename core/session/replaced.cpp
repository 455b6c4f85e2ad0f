#include "core/session/replaced.h"

#include <algorithm>
#include <map>

#include "core/session/edits/edit.h"
#include "core/session/field_json.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::string valueWord(const std::string& key, const Json& v, const NoteStyle& notes) {
  if (v.is_string()) return v.get<std::string>();
  if (v.is_boolean()) return v.get<bool>() ? "on" : "off";
  if (!v.is_number()) return "";
  const double x = v.get<double>();
  if (key == "midi" || key.ends_with("_midi")) return pitchText(x, notes);
  const char* unit = key.ends_with("_ms")          ? " ms"
                     : key.ends_with("_db")        ? " dB"
                     : key == "db"                 ? " dB"
                     : key.ends_with("hz")         ? " Hz"
                     : key.ends_with("_semitones") ? " st"
                                                   : "";
  return formatNumber(x, 1) + unit;
}

bool isLeftOut(const std::string& key) {
  static const std::set<std::string> kLeftOut = {"id",   "level_db", "asset", "name", "mute",  "solo",
                                                 "role", "on",       "plays", "text", "start", "versions"};
  return kLeftOut.contains(key);
}

// What differs below one object, with how often each value does.
class Replaced {
 public:
  explicit Replaced(const NoteStyle& notes) : notes_(notes) {}
  std::vector<std::string> words;

  void compare(const std::string& owner, const Json& before, const Json& after, const Json& usual) {
    found_.clear();
    walk(before, after, usual);
    for (const auto& [key, values] : found_) {
      const std::string word = owner + " " + wordOfKey(key);
      const std::string value = values.size() == 1 ? valueWord(key, values.front(), notes_) : std::string();
      const std::string text = values.size() > 1 ? std::to_string(values.size()) + " values of " + word
                               : value.empty()   ? word
                                                 : word + " " + value;
      if (std::find(words.begin(), words.end(), text) == words.end()) words.push_back(text);
    }
  }

 private:
  void walk(const Json& before, const Json& after, const Json& usual) {
    for (const auto& [key, was] : before.items()) {
      if (isLeftOut(key)) continue;
      const Json is = after.contains(key) ? after[key] : Json();
      const Json plain = usual.contains(key) ? usual[key] : Json();
      if (was == is || was == plain) continue;
      if (was.is_object())
        walk(was, is.is_object() ? is : Json::object(), plain.is_object() ? plain : Json::object());
      else if (was.is_array())
        lists(key, was, is, plain);
      else
        found_[key].push_back(was);
    }
  }
  void lists(const std::string& key, const Json& before, const Json& after, const Json& usual) {
    if (!after.is_array() || after.size() != before.size()) return found_[key].push_back(Json());
    for (size_t i = 0; i < before.size(); ++i) {
      const Json plain = usual.is_array() && i < usual.size() ? usual[i] : Json::object();
      if (before[i].is_object() && after[i].is_object())
        walk(before[i], after[i], plain);
      else if (before[i] != after[i])
        found_[key].push_back(before[i]);
    }
  }

  const NoteStyle& notes_;
  std::map<std::string, std::vector<Json>> found_;
};

// A list of a part's own is compared without its layers, which are compared by id.
Json partJson(const Part& part) {
  Json out = jsonOf(part);
  out.erase("layers"), out.erase("hits");
  for (Json& note : out.contains("notes") ? out["notes"] : Json::array())
    note.erase("length"), note.erase("velocity");
  return out;
}

// Notes have no usual value of their own pitch.
Json usualPart(const Part& like) {
  Part usual;
  usual.role = like.role, usual.plays = like.plays;
  Json out = partJson(usual);
  Json notes = Json::array();
  for (const Note& n : like.notes) {
    Note plain;
    plain.midi = n.midi;
    notes.push_back(jsonOf(plain));
  }
  if (!like.notes.empty()) out["notes"] = notes;
  return out;
}

Json usualLayer(const Layer& like) {
  Layer usual;
  std::visit([&]<class T>(const T&) { usual.what = T(); }, like.what);
  return jsonOf(usual);
}

}  // namespace

std::string wordOfKey(const std::string& key) {
  // Keys whose own words are not what people call the value.
  static const std::map<std::string, std::string> kPeoplesWords = {
      {"target_midi", "landing"}, {"root_midi", "root"},
      {"return", "release"},      {"tail_target", "kick length target"},
      {"offset_ms", "delay"},     {"invert", "polarity"},
      {"kind", "band"},           {"below_hz", "crossover"},
      {"movement", "movement"},   {"lasts", "length mode"},
      {"midi", "note"},           {"db", "level trim"},
      {"phase", "start phase"},   {"q", "Q"},
      {"hz", "frequency"}};
  if (const auto at = kPeoplesWords.find(key); at != kPeoplesWords.end()) return at->second;
  std::string out = key;
  for (const char* unit : {"_ms", "_db", "_hz", "_s", "_semitones"})
    if (out.size() > std::string(unit).size() && out.ends_with(unit))
      out.resize(out.size() - std::string(unit).size());
  std::replace(out.begin(), out.end(), '_', ' ');
  return out;
}

std::vector<std::string> replacedBy(const Session& before, const Session& after) {
  Replaced out(before.track.notes);
  for (const Part& part : before.parts) {
    const Part* now = after.part(part.id);
    if (!now || *now == part) continue;
    out.compare(partWord(part), partJson(part), partJson(*now), usualPart(part));
    for (const Layer& layer : part.layers)
      if (const Layer* is = now->layer(layer.id);
          is && !(*is == layer) && is->what.index() == layer.what.index())
        out.compare(partWord(part), jsonOf(layer), jsonOf(*is), usualLayer(layer));
  }
  for (const Duck& duck : before.ducks) {
    const Duck* now = after.duck(duck.id);
    if (!before.acts(duck) || (now && *now == duck)) continue;
    if (!now || !now->on)
      out.words.push_back("the ducking itself");
    else
      out.compare("ducking", jsonOf(duck), jsonOf(*now), jsonOf(Duck()));
  }
  if (before.handOver.on && !(before.handOver == after.handOver))
    out.compare("hand-over", jsonOf(before.handOver), jsonOf(after.handOver), jsonOf(HandOver()));
  return out.words;
}

bool keepsWhatWasSet(const Session& before, const Session& after) {
  Session asDeep = after;
  for (Duck& d : asDeep.ducks)
    if (const Duck* was = before.duck(d.id)) d.curve.depthDb = was->curve.depthDb;
  return replacedBy(before, asDeep).empty();
}

}  // namespace heft
