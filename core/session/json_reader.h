#pragma once
/// Takes the known keys out of a JSON object, each checked; the rest is unknown and kept. Used by the reader
/// of sessions alone.

#include <cmath>
#include <nlohmann/json.hpp>
#include <string>

#include "core/session/layer.h"

namespace heft {

using Json = nlohmann::ordered_json;
inline constexpr const char* kOutWord = "out";  ///< level of silence

/// The first fault is kept in `fault` and ends the reading.
class JsonReader {
 public:
  JsonReader(const Json& object, std::string where, std::string& fault);

  void number(const char* key, double& out, double low, double high);
  void number(const char* key, std::optional<double>& out, double low, double high);
  /// A number above the low end, or kOutWord. The low end is out too: files said so before.
  void level(const char* key, std::optional<double>& out, double low, double high);
  void whole(const char* key, int& out, int low, int high);
  void flag(const char* key, bool& out);
  void text(const char* key, std::string& out, size_t most);
  template <class T>
  void count(const char* key, T& out) {
    const Json value = take(key);
    if (value.is_null()) return;
    if (!value.is_number_integer() || value < 0) return fail(key, "is not a whole number");
    out = value.get<T>();
  }
  /// A text that `parse` converts. False without one.
  template <class T, class Parse>
  bool parsed(const char* key, T& out, Parse parse) {
    std::string words;
    text(key, words, 4096);
    if (words.empty()) return false;
    const auto value = parse(words);
    if (value)
      out = *value;
    else
      fail(key, value.error().reason);
    return value.has_value();
  }
  bool has(const char* key) const { return rest_.is_object() && rest_.contains(key); }
  /// `each` reads one item; its leftovers are kept under the item's index.
  void list(const char* key, size_t most, const std::function<void(JsonReader&)>& each);
  /// A list of texts or numbers.
  void plainList(const char* key, size_t most, const std::function<void(const Json&)>& each);
  /// What `read` leaves of the object stays in this one's rest.
  void object(const char* key, const std::function<void(JsonReader&)>& read);
  void fail(const std::string& key, const std::string& why);
  /// The leftovers, for the value that keeps them.
  Unknown takeUnknown();

 private:
  Json take(const char* key);

  Json rest_;
  std::string where_;
  std::string& fault_;
};

/// Where a text is no JSON, in words with its line; empty where it is.
std::string brokenJson(const std::string& text);

/// Whether braces and brackets are nested more than 64 deep.
bool isTooDeep(const std::string& text);

/// Restores the leftovers: whole values where they are missing, parts of objects and of lists' items into
/// theirs.
void mergeUnknown(Json& out, const Unknown& unknown);

}  // namespace heft
