#pragma once
/// Sessions by the format's own rules: every value of docs/format.md within its range, often at its ends,
/// lists of any length, names at their worst.

#include <iterator>
#include <random>

#include "core/session/fields.h"
#include "core/session/settle.h"
#include "core/theory/text.h"

namespace heft::reference {

/// Names from outside at their worst: markup, escapes, lines, turned writing, 255 bytes, cut UTF-8.
inline const std::string& hostileName(size_t i) {
  static const std::string kNames[] = {"<img src=/dev/zero>",
                                       "red\x1b[31m\x07",
                                       "two\nlines",
                                       "\u202Etxt.exe",
                                       "../../up",
                                       std::string(198, 'x'),
                                       "",
                                       "100%1 %s %n",
                                       "\u266F<b>\"&amp;"};
  return kNames[i % std::size(kNames)];
}

class RandomValues {
 public:
  RandomValues(unsigned seed, std::vector<AssetRef> assets) : random_(seed), assets_(std::move(assets)) {}

  size_t below(size_t n) { return n == 0 ? 0 : random_() % n; }
  bool oneIn(size_t n) { return below(n) == 0; }
  // Mostly the default stays: of a session in which all is odd every part is silent.
  bool touches() { return oneIn(3); }

  /// Random values into an object of that table, at any depth.
  void fill(const Table& table, void* object) {
    if (&table == &tableOf<AssetRef>()) return asset(*static_cast<AssetRef*>(object));
    for (const Row& row : table.rows) {
      void* const at = row.at(object);
      if (row.kind == Row::Kind::Object)
        fill(row.inner(), at);
      else if (row.kind == Row::Kind::List)
        list(row, at);
      else if (row.kind == Row::Kind::Which)
        which(row, at);
      else
        plain(row, object);
    }
    table.settle(object);
    if (table.faultOf(object) && !oneIn(40)) mend(table, object);
  }

 private:
  double within(const Range& r) {
    if (oneIn(4)) return oneIn(2) ? r.low : r.high;
    const double u = std::uniform_real_distribution<double>(0.0, 1.0)(random_);
    if (r.unit == Unit::Quarters) return oneIn(12) ? r.low + u * (r.high - r.low) : r.low + u * 4.0;
    return r.low > 0.0 && r.high > 20.0 * r.low ? r.low * std::pow(r.high / r.low, u)
                                                : r.low + u * (r.high - r.low);
  }
  void maybe(const Row& row, std::optional<double>& v) {
    if (touches()) v = oneIn(3) ? std::nullopt : std::optional(within(row.range));
    if (row.kind == Row::Kind::Level && v && *v <= row.range.low) v.reset();
  }
  // Ids and places are small, so that they meet.
  int whole(const Range& r) {
    const double high = oneIn(8) ? r.high : std::min(r.high, r.low + 12.0);
    return static_cast<int>(r.low) + static_cast<int>(below(static_cast<size_t>(high - r.low) + 1));
  }
  TimeValue time(const Range& r) {
    if (oneIn(2)) return TimeValue::note(1 + static_cast<int>(below(3)), 1 << below(7));
    return parseTime(fixedNumber(within(r), 2) + " ms").value_or(TimeValue::note(1, 16));
  }
  void plain(const Row& row, void* o) {
    using Kind = Row::Kind;
    switch (row.kind) {
      case Kind::Flag:
        if (touches()) row.in<bool>(o) = oneIn(2);
        break;
      case Kind::Number:
        if (touches()) row.in<double>(o) = within(row.range);
        break;
      case Kind::MaybeNumber:
      case Kind::Level:
        maybe(row, row.in<std::optional<double>>(o));
        break;
      case Kind::Whole:
        if (touches()) row.in<int>(o) = whole(row.range);
        break;
      case Kind::Count:
        row.count->set(row.at(o), below(1000));
        break;
      case Kind::Text:
        if (std::string(row.key) != "role" && touches())
          row.in<std::string>(o) = cutUtf8(hostileName(random_()), row.most);
        break;
      case Kind::Time:
        if (touches()) row.in<TimeValue>(o) = time(row.range);
        break;
      case Kind::MaybeTime:
        if (touches())
          row.in<std::optional<TimeValue>>(o) = oneIn(3) ? std::nullopt : std::optional(time(row.range));
        break;
      case Kind::Choice:
        if (touches()) row.in<int>(o) = row.words.first + static_cast<int>(below(row.words.words.size()));
        break;
      case Kind::Parsed:
        parsed(row, o);
        break;
      case Kind::Wholes:
        if (oneIn(6)) row.in<std::vector<int>>(o).push_back(whole(row.range));
        break;
      case Kind::Texts:
        if (oneIn(3)) row.in<std::set<std::string>>(o).insert(hostileName(random_()));
        break;
      default:
        break;
    }
  }
  void parsed(const Row& row, void* o) {
    static const char* const kTexts[] = {"F# minor", "Eb major",    "controller 21 channel 1",
                                         "part 1",   "mouse wheel", "duck 1"};
    (void)row.parsed->read(row.at(o), kTexts[below(std::size(kTexts))]);
  }
  void list(const Row& row, void* v) {
    ++depth_;
    const std::string name = row.key;
    const size_t had = row.list->size(v);
    const size_t count = name == "hits" || name == "notes" ? below(7)
                         : name == "parts"                 ? 2 + below(3)
                                                           : below(depth_ > 2 ? 3 : 4);
    if (name != "fall" || had > 0)
      row.list->resize(v, std::min(row.most, std::max(count, name == "fall" ? had : 0)));
    for (size_t i = 0; i < row.list->size(v); ++i) fill(row.list->inner(), row.list->own(v, i));
    --depth_;
  }
  void which(const Row& row, void* v) {
    if (touches()) row.which->make(v, below(row.keys.size()));
    fill(row.which->inner[row.which->index(v)](), row.which->get(v));
  }
  // Rules across values hold, mostly: refused files are session_fuzz's matter.
  static void mend(const Table& table, void* o) {
    if (&table == &tableOf<Recorded>()) {
      static_cast<Recorded*>(o)->band = {};
    } else if (&table == &tableOf<AlignMove>()) {
      static_cast<AlignMove*>(o)->question = {};
    } else if (&table == &tableOf<Versions>()) {
      static_cast<Versions*>(o)->now = 0;
    } else if (&table == &tableOf<KickVoice>()) {
      auto& fall = static_cast<KickVoice*>(o)->fall;
      for (size_t i = 0; i < fall.size(); ++i) fall[i].at = i ? std::max(fall[i - 1].at, fall[i].at) : 0.0;
    } else if (&table != &tableOf<Part>() && &table != &tableOf<Session>() && &table != &tableOf<Track>()) {
      table.clear(o);
    }
  }
  // An existing one, a missing one, or none.
  void asset(AssetRef& ref) {
    if (oneIn(5)) return void(ref = {});
    if (oneIn(5) || assets_.empty()) return void(ref = {std::string(32, 'e'), hostileName(random_())});
    ref = assets_[below(assets_.size())];
  }

  std::mt19937 random_;
  std::vector<AssetRef> assets_;
  int depth_ = 0;
};

/// Short and at a low rate, so that a test can have many: cost does not depend on that.
inline Session randomSession(unsigned seed, const std::vector<AssetRef>& assets) {
  RandomValues values(seed, assets);
  Session s;
  values.fill(tableOf<Session>(), &s);
  const char* const kRoles[] = {"clap", "lead", "snare"};
  for (size_t i = 0; i < s.parts.size(); ++i) {
    Part& part = s.parts[i];
    if (i < 2) part.role = pairOfParts()[i].role;
    if (i >= 2) part.role = kRoles[values.below(3)];
    if (i < 2) part.plays = pairOfParts()[i].plays;
    part.id = static_cast<int>(i) + 1;
    if (part.layers.empty() && !values.oneIn(4)) part.layers.resize(1);
    if (part.playsNotes() && part.notes.empty()) part.notes = {{0.0, 0.5, 33, 0.8}};
    if (!part.playsNotes() && part.hits.empty()) part.hits = {{0.0, 1.0}};
  }
  s.track.sampleRate = 8000.0 * static_cast<double>(1 + values.below(3));
  s.track.beatUnit = 4, s.track.beatsPerBar = 4, s.track.loopBeats = 1 + static_cast<int>(values.below(4));
  settle(s);
  return s;
}

}  // namespace heft::reference
