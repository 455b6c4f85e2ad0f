#pragma once
/// Words of an enum, as files and arguments write them: one list each, in the order of its values.

#include <array>
#include <optional>
#include <span>
#include <string>

#include "core/result.h"

namespace heft {

/// The list of an enum: a std::array of its words. Specialised beside the enum.
template <class E>
inline constexpr std::array<const char*, 0> kWordsOf = {};
/// The number of the enum's first value.
template <class E>
inline constexpr int kFirstOf = 0;

/// A list without its type.
struct EnumWords {
  std::span<const char* const> words;
  int first = 0;

  const char* at(int value) const { return words[static_cast<size_t>(value - first)]; }
  /// The value of a word, in capitals or not; nothing where the list does not hold it.
  std::optional<int> find(const std::string& text) const;
  /// "soft, firm or hard".
  std::string choices() const;
};

template <class E>
constexpr EnumWords wordsOf() {
  static_assert(!kWordsOf<E>.empty(), "the enum has no list of words");
  return {kWordsOf<E>, kFirstOf<E>};
}

/// A value's word.
template <class E>
const char* nameOf(E value) {
  return wordsOf<E>().at(static_cast<int>(value));
}

/// The value of a word. Errors: BadUsage, naming the choices.
template <class E>
Result<E> parseNamed(const std::string& text) {
  if (const auto value = wordsOf<E>().find(text)) return static_cast<E>(*value);
  return badUsage("\"" + text.substr(0, 64) + "\" is not " + wordsOf<E>().choices());
}

}  // namespace heft
