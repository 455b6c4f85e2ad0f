#include "core/theory/text.h"

#include <charconv>
#include <cmath>
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

std::string cutUtf8(std::string text, size_t bytes) {
  if (text.size() <= bytes) return text;
  // Bytes that go on with a character begin with the bits 10.
  while (bytes > 0 && (static_cast<unsigned char>(text[bytes]) & 0xC0) == 0x80) --bytes;
  text.resize(bytes);
  return text;
}

}  // namespace heft
