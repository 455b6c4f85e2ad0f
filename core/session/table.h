#pragma once
/// One row a value of the document: its key in files, its kind, range and unit, and where it is in its object.
/// Files, comparison, keys of render steps, fields, edits, arguments and tests walk these rows with ordinary
/// code, by address: tables are made once, in fields.cpp, sound_fields.cpp and track_fields.cpp.

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/theory/names.h"

namespace heft {

/// A number's unit: how it is written, read and stepped.
enum class Unit { Number, Share, Db, Ms, Hz, Semitones, Midi, Degrees, Quarters, Seconds, Bpm };

struct Range {
  double low = 0.0, high = 0.0;
  Unit unit = Unit::Number;

  bool holds(double value) const { return value >= low && value <= high; }
  /// The value in the range; its low end for NaN.
  double held(double value) const { return !(value >= low) ? low : value > high ? high : value; }
};

/// Whether the file holds it always, or only where it differs from the type's default.
enum class Saved { Always, WhenSet };

inline constexpr int kHighestId = 1'000'000;
inline constexpr size_t kLongestText = 4096, kLongestName = 200;

struct FieldFault {
  std::string key, why;
};

struct Table;
/// A table by name, so that tables may refer to each other before they are made.
using TableFn = const Table& (*)();

/// What a row's kind needs besides an address; each for one type of value.
struct ListOf {
  size_t (*size)(const void* list);
  const void* (*item)(const void* list, size_t index);
  void* (*own)(void* list, size_t index);  ///< to be changed
  void (*resize)(void* list, size_t size);
  TableFn inner;
};
struct WhichOf {
  std::span<const TableFn> inner;  ///< of each alternative
  size_t (*index)(const void* variant);
  void* (*get)(void* variant);
  void (*make)(void* variant, size_t index);  ///< at its defaults
};
struct TextOf {
  std::string (*text)(const void* value);
  std::optional<std::string> (*read)(void* value, const std::string& text);  ///< why it cannot, or nothing
};
struct CountOf {
  uint64_t (*get)(const void* value);
  void (*set)(void* value, uint64_t count);
};

struct Row {
  enum class Kind : uint8_t {
    Flag,         ///< bool
    Number,       ///< double
    MaybeNumber,  ///< optional<double>
    Level,        ///< optional<double>: nothing is silence, and so is the low end of the range
    Whole,        ///< int
    Count,        ///< a whole number of any type, at least 0
    Text,         ///< std::string of at most `most` bytes
    Time,         ///< TimeValue; the range, in ms, holds for hands, a file may have any
    MaybeTime,    ///< optional<TimeValue>
    Choice,       ///< an enum, by its words
    Parsed,       ///< anything that a text stands for
    Wholes,       ///< vector<int>, at most `most`
    Texts,        ///< set<string>, at most `most`
    Object,       ///< by its own table
    List,         ///< vector of objects, at most `most`
    Which,        ///< variant of objects, each under its own key of `keys`
    Kept          ///< Unknown: what a newer Heft wrote
  };
  const char* key = "";
  Kind kind = Kind::Flag;
  void* (*at)(void* object) = nullptr;
  Range range = {};
  Saved saved = Saved::Always;
  size_t most = 0;
  EnumWords words = {};
  std::span<const char* const> keys = {};
  bool mustName = false;  ///< Which: a file without any of the keys is refused
  TableFn inner = nullptr;
  const ListOf* list = nullptr;
  const WhichOf* which = nullptr;
  const TextOf* parsed = nullptr;
  const CountOf* count = nullptr;

  template <class V>
  V& in(void* object) const {
    return *static_cast<V*>(at(object));
  }
  template <class V>
  const V& in(const void* object) const {
    return *static_cast<const V*>(at(const_cast<void*>(object)));
  }
  const void* of(const void* object) const { return at(const_cast<void*>(object)); }
};

/// All rows of a type, in the order of its file, and its rules across values (settle.h).
struct Table {
  std::span<const Row> rows;
  void (*settle)(void* object);
  std::optional<FieldFault> (*faultOf)(const void* object);
  bool (*isUsual)(const void* object);  ///< at the defaults of its type
  void (*clear)(void* object);          ///< to those
};

/// The table of a type of the document; specialised for each in fields.h.
template <class T>
const Table& tableOf();

/// The row of a key below a table: "band_1.gain_db"; nothing where there is none. Items of lists are left out:
/// "fall.semitones".
const Row* rowAt(const Table& table, const std::string& key);

/// The range of a value: the one place that edits, fields, hands and arguments ask. `key` must exist
/// (tests/session/fields_test.cpp looks at every use).
Range rangeOf(const Table& table, const std::string& key);
template <class T>
Range rangeOf(const std::string& key) {
  return rangeOf(tableOf<T>(), key);
}

}  // namespace heft
