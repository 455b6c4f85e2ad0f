#include "core/theory/text.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstdio>

namespace heft {
namespace {

bool isSpace(char c) {
  return c == ' ' || c == '\t' || c == '\n' || c == '\r';
}

void replaceAll(std::string& text, std::string_view from, std::string_view to) {
  for (size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size()))
    text.replace(at, from.size(), to);
}

}  // namespace

bool isDigit(char c) {
  return c >= '0' && c <= '9';
}

std::string_view trimmed(std::string_view text) {
  while (!text.empty() && isSpace(text.front())) text.remove_prefix(1);
  while (!text.empty() && isSpace(text.back())) text.remove_suffix(1);
  return text;
}

std::string lowered(std::string_view text) {
  std::string out(text);
  for (char& c : out)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return out;
}

std::string plainSigns(std::string_view text) {
  std::string out(text);
  replaceAll(out, "\u266F", "#");
  replaceAll(out, "\u266D", "b");
  replaceAll(out, "\u2212", "-");
  replaceAll(out, "\u00A0", " ");
  return out;
}

std::optional<double> takeNumber(std::string_view& text) {
  std::string_view rest = text;
  const bool plus = !rest.empty() && rest.front() == '+';
  if (plus) rest.remove_prefix(1);
  const std::string_view digits = !plus && !rest.empty() && rest.front() == '-' ? rest.substr(1) : rest;
  if (digits.empty() || !(isDigit(digits.front()) || digits.front() == '.')) return std::nullopt;
  double value = 0.0;
  const auto [end, error] = std::from_chars(rest.data(), rest.data() + rest.size(), value);
  if (error != std::errc() || !std::isfinite(value)) return std::nullopt;
  rest.remove_prefix(static_cast<size_t>(end - rest.data()));
  text = rest;
  return value;
}

std::optional<double> parseNumber(std::string_view text) {
  text = trimmed(text);
  const auto value = takeNumber(text);
  return value && text.empty() ? value : std::nullopt;
}

std::string fixedNumber(double value, int decimals) {
  char buffer[64];
  std::snprintf(buffer, sizeof buffer, "%.*f", decimals, value);
  std::string out = buffer;
  if (out.front() == '-' && out.find_first_not_of("-0.") == std::string::npos) out.erase(0, 1);
  return out;
}

std::string formatNumber(double value, int decimals) {
  std::string out = fixedNumber(value, decimals);
  if (out.find('.') != std::string::npos) {
    while (out.back() == '0') out.pop_back();
    if (out.back() == '.') out.pop_back();
  }
  return out;
}

std::string listed(const std::vector<std::string>& words) {
  std::string out;
  for (size_t i = 0; i < words.size(); ++i)
    out += (i == 0 ? "" : i + 1 == words.size() ? " and " : ", ") + words[i];
  return out;
}

namespace {

// Length of the UTF-8 character at `at` and its code point; 0 where it is invalid (overlong forms, surrogates
// and truncated ones too).
size_t characterAt(const std::string& text, size_t at, uint32_t& number) {
  const auto byte = [&](size_t i) { return static_cast<unsigned char>(text[i]); };
  const unsigned char first = byte(at);
  const size_t length = first < 0x80 ? 1 : first >= 0xF0 ? 4 : first >= 0xE0 ? 3 : 2;
  if (first >= 0x80 && (first < 0xC2 || first > 0xF4)) return 0;
  if (at + length > text.size()) return 0;
  number = length == 1 ? first : first & (0xFFu >> (length + 1));
  for (size_t i = 1; i < length; ++i) {
    if ((byte(at + i) & 0xC0) != 0x80) return 0;
    number = number << 6 | (byte(at + i) & 0x3Fu);
  }
  constexpr uint32_t kLeast[] = {0, 0, 0x80, 0x800, 0x10000};
  return number < kLeast[length] || number > 0x10FFFF || (number >= 0xD800 && number < 0xE000) ? 0 : length;
}

bool isControl(uint32_t c) {
  return c < 0x20 || (c >= 0x7F && c < 0xA0) || c == 0x200E || c == 0x200F || c == 0x2028 || c == 0x2029 ||
         (c >= 0x202A && c <= 0x202E) || (c >= 0x2066 && c <= 0x2069) || c == 0xFEFF;
}

std::string characterwise(const std::string& text, bool (*isBad)(uint32_t)) {
  std::string out;
  for (size_t at = 0; at < text.size();) {
    uint32_t number = 0;
    const size_t length = characterAt(text, at, number);
    if (length == 0 || isBad(number))
      out += '?';
    else
      out.append(text, at, length);
    at += std::max<size_t>(1, length);
  }
  return out;
}

}  // namespace

std::string validUtf8(std::string text) {
  return characterwise(text, [](uint32_t) { return false; });
}

std::string printable(std::string text) {
  return characterwise(text, isControl);
}

std::string fileNameOf(const std::string& text, size_t bytes) {
  std::string name = printable(text);
  for (char& c : name)
    if (c == '/' || c == '\\' || c == '?') c = '_';
  name = cutUtf8(std::move(name), bytes);
  while (!name.empty() && (name.back() == ' ' || name.back() == '.')) name.pop_back();
  if (name.empty()) return "Untitled";
  if (name.front() == '.') name.front() = '_';
  return name;
}

std::string cutUtf8(std::string text, size_t bytes) {
  if (text.size() <= bytes) return text;
  // Continuation bytes begin with the bits 10.
  while (bytes > 0 && (static_cast<unsigned char>(text[bytes]) & 0xC0) == 0x80) --bytes;
  text.resize(bytes);
  return text;
}

}  // namespace heft
