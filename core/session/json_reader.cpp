#include "core/session/json_reader.h"

#include <algorithm>

#include "core/theory/text.h"

namespace heft {
namespace {

// Key of the leftovers of a list's items, by index: no key of a file equals it.
constexpr const char* kItems = "\x01items";

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

}  // namespace

JsonReader::JsonReader(const Json& object, std::string where, std::string& fault)
    : rest_(object), where_(std::move(where)), fault_(fault) {
  if (!rest_.is_object()) fail("", "is not an object");
}

Json JsonReader::take(const char* key) {
  if (!has(key)) return nullptr;
  Json value = std::move(rest_[key]);
  rest_.erase(key);
  return value;
}

void JsonReader::number(const char* key, double& out, double low, double high) {
  const Json value = take(key);
  if (value.is_null()) return;
  if (!value.is_number()) return fail(key, "is not a number");
  if (!(value.get<double>() >= low && value.get<double>() <= high))
    return fail(key, "is " + formatNumber(value.get<double>(), 3) + ", out of " + formatNumber(low, 3) +
                         " to " + formatNumber(high, 3));
  out = value.get<double>();
}

void JsonReader::number(const char* key, std::optional<double>& out, double low, double high) {
  double value = std::nan("");
  number(key, value, low, high);
  if (!std::isnan(value)) out = value;
}

void JsonReader::level(const char* key, std::optional<double>& out, double low, double high) {
  if (!has(key)) return;
  if (const Json& value = rest_[key]; value.is_string() && value == kOutWord) {
    out.reset();
    take(key);
    return;
  }
  number(key, out, low, high);
  if (out && *out <= low) out.reset();
}

void JsonReader::whole(const char* key, int& out, int low, int high) {
  double value = out;
  number(key, value, low, high);
  if (value != std::floor(value)) return fail(key, "is not a whole number");
  out = static_cast<int>(value);
}

void JsonReader::flag(const char* key, bool& out) {
  const Json value = take(key);
  if (value.is_null()) return;
  if (!value.is_boolean()) return fail(key, "is neither true nor false");
  out = value.get<bool>();
}

void JsonReader::text(const char* key, std::string& out, size_t most) {
  const Json value = take(key);
  if (value.is_null()) return;
  if (!value.is_string() || value.get_ref<const std::string&>().size() > most)
    return fail(key, "is not a text of bounded length");
  out = value.get<std::string>();
}

void JsonReader::list(const char* key, size_t most, const std::function<void(JsonReader&)>& each) {
  const Json value = take(key);
  if (value.is_null()) return;
  if (!value.is_array() || value.size() > most)
    return fail(key, "is not a list of " + std::to_string(most) + " at the most");
  Json left = Json::object();
  for (size_t i = 0; i < value.size() && fault_.empty(); ++i) {
    if (!value[i].is_object()) return fail(key + (" " + std::to_string(i + 1)), "is not an object");
    JsonReader item(value[i], where_ + key + " " + std::to_string(i + 1) + ".", fault_);
    each(item);
    if (!item.rest_.empty()) left[std::to_string(i)] = std::move(item.rest_);
  }
  if (!left.empty()) rest_[key] = {{kItems, std::move(left)}};
}

void JsonReader::plainList(const char* key, size_t most, const std::function<void(const Json&)>& each) {
  const Json value = take(key);
  if (value.is_null()) return;
  if (!value.is_array() || value.size() > most)
    return fail(key, "is not a list of " + std::to_string(most) + " at the most");
  for (const Json& item : value) each(item);
}

void JsonReader::object(const char* key, const std::function<void(JsonReader&)>& read) {
  const Json value = take(key);
  if (value.is_null()) return;
  JsonReader inner(value, where_ + key + ".", fault_);
  read(inner);
  if (inner.rest_.is_object() && !inner.rest_.empty()) rest_[key] = std::move(inner.rest_);
}

void JsonReader::fail(const std::string& key, const std::string& why) {
  if (fault_.empty()) fault_ = "\"" + where_ + key + "\" " + why + "; fix it in session.json or open a backup";
}

std::string brokenJson(const std::string& text) {
  try {
    if (!Json::parse(text).is_discarded()) return {};
  } catch (const Json::parse_error& error) {
    const size_t at = std::min(error.byte, text.size());
    const auto line = 1 + std::count(text.begin(), text.begin() + static_cast<ptrdiff_t>(at), '\n');
    return "is broken at line " + std::to_string(line) + ": no valid JSON; fix it there or open a backup";
  } catch (const Json::exception&) {
    return "holds a number that is too large; fix it or open a backup";
  }
  return {};
}

Unknown JsonReader::takeUnknown() {
  Unknown out = rest_.is_object() && !rest_.empty() ? rest_.dump() : Unknown();
  rest_ = Json::object();
  return out;
}

void mergeUnknown(Json& out, const Unknown& unknown) {
  if (unknown.empty()) return;
  const Json rest = Json::parse(unknown, nullptr, false);
  if (rest.is_object()) merge(out, rest);
}

bool isTooDeep(const std::string& text) {
  constexpr int kDeepest = 64;
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

}  // namespace heft
