#include <algorithm>

#include "cli/commands.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

std::string cell(const Json& value) {
  if (value.is_null()) return "-";
  if (value.is_string()) return printable(value.get<std::string>());
  if (value.is_number_float()) return formatNumber(value.get<double>(), 3);
  if (value.is_boolean()) return value.get<bool>() ? "yes" : "no";
  if (value.is_array() &&
      std::none_of(value.begin(), value.end(), [](const Json& j) { return j.is_structured(); })) {
    std::string out;
    for (const Json& item : value) out += (out.empty() ? "" : ", ") + cell(item);
    return out.empty() ? "-" : out;
  }
  return printable(value.dump(-1, ' ', false, Json::error_handler_t::replace));
}

// Characters, not bytes: names may be in any language.
size_t width(const std::string& text) {
  return static_cast<size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

std::string padded(const std::string& text, size_t to) {
  return text + std::string(to > width(text) ? to - width(text) : 0, ' ');
}

void lines(const Json& object, const std::string& indent, std::string& out) {
  size_t widest = 0;
  for (const auto& [key, value] : object.items())
    if (!value.is_object()) widest = std::max(widest, width(key));
  for (const auto& [key, value] : object.items()) {
    const bool rows = value.is_array() && !value.empty() && value.front().is_object();
    if (value.is_object() || rows) {
      out += indent + printable(key) + "\n";
      if (value.is_object())
        lines(value, indent + "  ", out);
      else
        for (const Json& item : value) lines(item, indent + "  ", out), out += "\n";
    } else {
      out += indent + padded(printable(key), widest) + "  " + cell(value) + "\n";
    }
  }
}

}  // namespace

std::string tableOf(const Json& document) {
  std::string out;
  if (document.is_array())
    for (const Json& item : document) lines(item, "", out), out += "\n";
  else
    lines(document, "", out);
  return out;
}

}  // namespace heft::cli
