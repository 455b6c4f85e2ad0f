#pragma once
/// The lists of fields.h as JSON, both ways. Used only by code that reads and writes files.

#include <algorithm>
#include <set>

#include "core/session/fields.h"
#include "core/session/json_reader.h"
#include "core/session/settle.h"
#include "core/theory/text.h"

namespace heft {

inline constexpr size_t kMostText = 64'000'000;

/// Writes what eachOf lists.
struct FieldWriter {
  Json json = Json::object();

  void flag(const char* key, bool v, Saved saved = Saved::Always) {
    if (v || saved == Saved::Always) json[key] = v;
  }
  void number(const char* key, double v, const Range&) { json[key] = v; }
  void number(const char* key, const std::optional<double>& v, const Range&) {
    if (v) json[key] = *v;
  }
  void level(const char* key, const std::optional<double>& v, const Range&) {
    if (v)
      json[key] = *v;
    else
      json[key] = kOutWord;
  }
  void whole(const char* key, int v, const Range&) { json[key] = v; }
  void count(const char* key, auto v, Saved) {
    if (v) json[key] = v;
  }
  void text(const char* key, const std::string& v, size_t, Saved saved = Saved::Always) {
    if (!v.empty() || saved == Saved::Always) json[key] = v;
  }
  void time(const char* key, const TimeValue& v, const Range&) { json[key] = v.exactText(); }
  void time(const char* key, const std::optional<TimeValue>& v, const Range&) {
    if (v) json[key] = v->exactText();
  }
  void choice(const char* key, auto v, auto nameOf, auto) { json[key] = nameOf(v); }
  void parsed(const char* key, const auto& v, auto nameOf, auto) { json[key] = nameOf(v); }
  void wholes(const char* key, const std::vector<int>& v, size_t, const Range&) {
    if (!v.empty()) json[key] = v;
  }
  void texts(const char* key, const std::set<std::string>& v, size_t) { json[key] = v; }
  void kept(const Unknown& v) { mergeUnknown(json, v); }
  template <class T>
  void object(const char* key, const T& v, Saved saved = Saved::Always) {
    if (saved == Saved::WhenSet && v == T()) return;
    FieldWriter inner;
    eachOf(v, inner);
    json[key] = std::move(inner.json);
  }
  template <class T>
  void list(const char* key, const std::vector<T>& v, size_t, Saved saved = Saved::Always) {
    if (saved == Saved::WhenSet && v.empty()) return;
    Json& out = json[key] = Json::array();
    for (const T& item : v) {
      FieldWriter inner;
      eachOf(item, inner);
      out.push_back(std::move(inner.json));
    }
  }
  template <class... All>
  void which(const std::array<const char*, sizeof...(All)>& keys, const std::variant<All...>& v) {
    std::visit([&](const auto& one) { object(keys[v.index()], one); }, v);
  }
};

/// Reads them, each within its range; missing ones keep their defaults.
struct FieldReader {
  JsonReader& r;

  void flag(const char* key, bool& v, Saved = {}) { r.flag(key, v); }
  void number(const char* key, auto& v, const Range& range) { r.number(key, v, range.low, range.high); }
  void level(const char* key, std::optional<double>& v, const Range& range) {
    r.level(key, v, range.low, range.high);
  }
  void whole(const char* key, int& v, const Range& range) {
    r.whole(key, v, static_cast<int>(range.low), static_cast<int>(range.high));
  }
  void count(const char* key, auto& v, Saved) { r.count(key, v); }
  void text(const char* key, std::string& v, size_t most, Saved = {}) { r.text(key, v, most); }
  void time(const char* key, TimeValue& v, const Range&) { r.parsed(key, v, parseTime); }
  void time(const char* key, std::optional<TimeValue>& v, const Range&) {
    TimeValue time;
    if (r.parsed(key, time, parseTime)) v = time;
  }
  void choice(const char* key, auto& v, auto, auto parse) { r.parsed(key, v, parse); }
  void parsed(const char* key, auto& v, auto, auto parse) { r.parsed(key, v, parse); }
  void wholes(const char* key, std::vector<int>& v, size_t most, const Range& range) {
    r.plainList(key, most, [&](const Json& item) {
      if (item.is_number_integer() && item >= range.low && item <= range.high)
        v.push_back(item.get<int>());
      else
        r.fail(key, "holds something that is not a whole number from " + formatNumber(range.low, 0) + " to " +
                        formatNumber(range.high, 0));
    });
  }
  void texts(const char* key, std::set<std::string>& v, size_t most) {
    r.plainList(key, most, [&](const Json& item) {
      if (item.is_string())
        v.insert(item.get<std::string>().substr(0, kLongestName));
      else
        r.fail(key, "holds something that is not a text");
    });
  }
  void kept(Unknown& v) { v = r.takeUnknown(); }
  template <class T>
  void object(const char* key, T& v, Saved = {}) {
    r.object(key, [&](JsonReader& inner) { readInto(v, inner); });
  }
  template <class T>
  void list(const char* key, std::vector<T>& v, size_t most, Saved = {}) {
    if (!r.has(key)) return;
    v.clear();
    r.list(key, most, [&](JsonReader& inner) { readInto(v.emplace_back(), inner); });
  }
  template <class... All>
  void which(const std::array<const char*, sizeof...(All)>& keys, std::variant<All...>& v) {
    size_t at = 0;
    bool named = false;
    auto one = [&]<class T>(T fresh) {
      if (const char* key = keys[at++]; r.has(key)) {
        object(key, fresh);
        v = std::move(fresh);
        named = true;
      }
    };
    (one(All()), ...);
    if (std::same_as<std::variant<All...>, Processor::What> && !named)
      r.fail(keys[0], "is missing, and no other kind of processor that this Heft knows is there");
  }

  template <class T>
  static void readInto(T& v, JsonReader& from) {
    FieldReader fields{from};
    eachOf(v, fields);
    settle(v);
    if (const auto fault = faultOf(v)) from.fail(fault->key, fault->why);
  }
};

}  // namespace heft
