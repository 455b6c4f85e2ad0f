#include "core/theory/file_name.h"

#include <algorithm>
#include <cctype>
#include <string>
#include <vector>

#include "core/theory/text.h"
#include "core/theory/time_value.h"

namespace heft {
namespace {

// Words between anything that is not a letter, digit, sharp or point within a number.
std::vector<std::string> wordsOf(std::string_view name) {
  std::vector<std::string> out(1);
  for (size_t i = 0; i < name.size(); ++i) {
    const char c = name[i];
    const bool point = c == '.' && i > 0 && i + 1 < name.size() && isDigit(name[i - 1]) && isDigit(name[i + 1]);
    if (std::isalnum(static_cast<unsigned char>(c)) || c == '#' || point)
      out.back() += c;
    else if (!out.back().empty())
      out.emplace_back();
  }
  if (out.back().empty()) out.pop_back();
  return out;
}

std::string_view stemOf(std::string_view path) {
  if (const auto slash = path.find_last_of("/\\"); slash != std::string_view::npos)
    path.remove_prefix(slash + 1);
  // An extension does not follow a digit: "128.5" has none.
  if (const auto point = path.find_last_of('.');
      point != std::string_view::npos && point > 0 && path.size() - point <= 5 && !isDigit(path.back()))
    path.remove_suffix(path.size() - point);
  else if (const auto mp3 = path.rfind(".mp3"); mp3 != std::string_view::npos && mp3 + 4 == path.size())
    path.remove_suffix(4);
  return path;
}

bool isModeWord(const std::string& word) {
  const std::string low = lowered(word);
  return low == "min" || low == "minor" || low == "maj" || low == "major" || low == "m" || low == "dorian" ||
         low == "phrygian" || low == "lydian" || low == "mixolydian" || low == "locrian";
}

bool isLetter(char c) {
  return (c >= 'A' && c <= 'G') || (c >= 'a' && c <= 'g');
}

// A note letter with its sharp or flat and a mode joined to it: "Gmin", "F#m", "Ebmajor", "fmin". A small
// letter wants more than an m: "am" and "em" are words.
std::optional<Key> keyWord(const std::string& word) {
  if (word.empty() || !isLetter(word[0])) return std::nullopt;
  size_t end = 1;
  if (end < word.size() && (word[end] == '#' || word[end] == 'b')) ++end;
  const std::string mode = word.substr(end);
  if (!isModeWord(mode) || (word[0] >= 'a' && mode.size() < 3)) return std::nullopt;
  const auto key = parseKey(word.substr(0, end) + (mode == "m" ? "m" : " " + mode));
  return key ? std::optional<Key>(*key) : std::nullopt;
}

// In either case; alone only a capital is one.
bool isNoteOfAnyCase(const std::string& word) {
  return !word.empty() && isLetter(word[0]) &&
         (word.size() == 1 || (word.size() == 2 && (word[1] == '#' || word[1] == 'b')));
}
bool isNote(const std::string& word) {
  return isNoteOfAnyCase(word) && word[0] <= 'G';
}

// The digits that a piece of a word ends or starts with.
std::string digitsAtEnd(const std::string& text) {
  const auto last = text.find_last_not_of("0123456789.");
  return last == std::string::npos ? text : text.substr(last + 1);
}
std::string digitsAtStart(const std::string& text) {
  return text.substr(0, text.find_first_not_of("0123456789."));
}

std::optional<double> within(const std::string& digits, double low, double high) {
  const auto value = parseNumber(digits);
  return value && *value >= low && *value <= high ? std::optional<double>(*value) : std::nullopt;
}

// "128bpm", "Loop90bpm", "bpm128", or a number beside the word.
std::optional<double> markedTempo(const std::vector<std::string>& words) {
  for (size_t i = 0; i < words.size(); ++i) {
    const std::string low = lowered(words[i]);
    const auto at = low.find("bpm");
    if (at == std::string::npos) continue;
    for (const std::string& digits :
         {digitsAtEnd(low.substr(0, at)), digitsAtStart(low.substr(at + 3)),
          i > 0 ? words[i - 1] : std::string(), i + 1 < words.size() ? words[i + 1] : std::string()})
      if (const auto tempo = within(digits, kLeastTempo, kMostTempo)) return tempo;
  }
  return std::nullopt;
}

std::optional<double> bareTempo(const std::vector<std::string>& words) {
  for (auto word = words.rbegin(); word != words.rend(); ++word)
    if (std::all_of(word->begin(), word->end(), [](char c) { return isDigit(c) || c == '.'; }))
      if (const auto tempo = within(*word, 60.0, 200.0)) return tempo;
  return std::nullopt;
}

}  // namespace

NameFacts factsOfName(std::string_view path) {
  NameFacts out;
  const auto words = wordsOf(stemOf(path));
  out.tempoBpm = markedTempo(words);
  if (!out.tempoBpm) out.tempoBpm = bareTempo(words);
  for (size_t i = 0; i < words.size() && !out.key; ++i) {
    out.key = keyWord(words[i]);
    if (!out.key && isNoteOfAnyCase(words[i]) && i + 1 < words.size() && isModeWord(words[i + 1]) &&
        words[i + 1] != "m")
      if (const auto key = parseKey(words[i] + " " + words[i + 1])) out.key = *key;
  }
  // A note alone does not tell the mode; minor is more common in this trade.
  for (size_t i = 0; i < words.size() && !out.key && out.tempoBpm; ++i) {
    const bool beside = (i > 0 && within(words[i - 1], *out.tempoBpm, *out.tempoBpm)) ||
                        (i + 1 < words.size() && within(words[i + 1], *out.tempoBpm, *out.tempoBpm));
    if (isNote(words[i]) && beside)
      if (const auto key = parseKey(words[i] + " minor")) out.key = *key;
  }
  return out;
}

}  // namespace heft
