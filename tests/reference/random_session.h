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

  void flag(const char*, bool& v, Saved = {}) {
    if (touches()) v = oneIn(2);
  }
  double within(const Range& r) {
    if (oneIn(4)) return oneIn(2) ? r.low : r.high;
    const double u = std::uniform_real_distribution<double>(0.0, 1.0)(random_);
    if (r.unit == Unit::Quarters) return oneIn(12) ? r.low + u * (r.high - r.low) : r.low + u * 4.0;
    return r.low > 0.0 && r.high > 20.0 * r.low ? r.low * std::pow(r.high / r.low, u)
                                                : r.low + u * (r.high - r.low);
  }
  void number(const char*, double& v, const Range& r) {
    if (touches()) v = within(r);
  }
  void number(const char*, std::optional<double>& v, const Range& r) {
    if (touches()) v = oneIn(3) ? std::nullopt : std::optional(within(r));
  }
  void level(const char* name, std::optional<double>& v, const Range& r) {
    number(name, v, r);
    if (v && *v <= r.low) v.reset();
  }
  void whole(const char*, int& v, const Range& r) {
    if (!touches()) return;
    // Ids and places are small, so that they meet.
    const double high = oneIn(8) ? r.high : std::min(r.high, r.low + 12.0);
    v = static_cast<int>(r.low) + static_cast<int>(below(static_cast<size_t>(high - r.low) + 1));
  }
  void count(const char*, auto& v, Saved) { v = static_cast<std::decay_t<decltype(v)>>(below(1000)); }
  void text(const char* name, std::string& v, size_t most, Saved = {}) {
    if (std::string(name) == "role") return;
    if (touches()) v = cutUtf8(hostileName(random_()), most);
  }
  void time(const char*, TimeValue& v, const Range& r) {
    if (!touches()) return;
    if (oneIn(2))
      v = TimeValue::note(1 + static_cast<int>(below(3)), 1 << below(7));
    else if (auto ms = parseTime(fixedNumber(within(r), 2) + " ms"))
      v = *ms;
  }
  void time(const char* name, std::optional<TimeValue>& v, const Range& r) {
    if (!touches()) return;
    TimeValue to = TimeValue::note(1, 16);
    time(name, to, r);
    v = oneIn(3) ? std::nullopt : std::optional(to);
  }
  // Of all words that docs/format.md gives choices those that this one knows.
  template <class E, class NameOf, class Parse>
  void choice(const char*, E& v, NameOf, Parse parse) {
    static const char* const kWords[] = {
        "hits",        "notes",   "lane",   "C3",        "C4",          "C5",          "part",
        "audio",       "midi",    "drawn",  "as_set",    "as_source",   "to_next",     "curve",
        "follower",    "mirror",  "static", "peak",      "rms",         "all",         "below",
        "bell",        "several", "source", "kick",      "key",         "layer",       "backing",
        "multiply",    "deepest", "soft",   "firm",      "hard",        "warm",        "fold",
        "hollow",      "rise",    "rate",   "low shelf", "high shelf",  "notch",       "varispeed",
        "hold-length", "bend",    "split",  "triangle",  "square",      "saw",         "whole",
        "strike",      "body",    "smooth", "linear",    "equal_power", "exponential", "wav16",
        "flac24"};
    if (!touches()) return;
    std::vector<E> known;
    for (const char* word : kWords)
      if (const auto read = parse(word)) known.push_back(*read);
    if (!known.empty()) v = known[below(known.size())];
  }
  template <class T, class NameOf, class Parse>
  void parsed(const char*, T& v, NameOf, Parse parse) {
    static const char* const kTexts[] = {"F# minor", "Eb major",    "controller 21 channel 1",
                                         "part 1",   "mouse wheel", "duck 1"};
    if (auto value = parse(kTexts[below(std::size(kTexts))])) v = *value;
  }
  void wholes(const char* name, std::vector<int>& v, size_t, const Range& r) {
    if (!oneIn(6)) return;
    v.push_back(static_cast<int>(r.low));
    whole(name, v.back(), r);
  }
  void texts(const char*, std::set<std::string>& v, size_t) {
    if (oneIn(3)) v.insert(hostileName(random_()));
  }
  void kept(Unknown&) {}
  template <class T>
  void object(const char*, T& v, Saved = {}) {
    if constexpr (std::is_same_v<T, AssetRef>) {
      asset(v);
    } else {
      eachOf(v, *this);
      settle(v);
      if (faultOf(v) && !oneIn(40)) mend(v);
    }
  }
  template <class T>
  void list(const char* name, std::vector<T>& v, size_t most, Saved = {}) {
    ++depth_;
    const bool events = std::string(name) == "hits" || std::string(name) == "notes";
    const size_t count = events                         ? below(7)
                         : std::string(name) == "parts" ? 2 + below(3)
                                                        : below(depth_ > 2 ? 3 : 4);
    if (std::string(name) != "fall" || !v.empty())
      v.resize(std::min(most, std::max(count, std::string(name) == "fall" ? v.size() : 0)));
    for (T& one : v) object("", one);
    --depth_;
  }
  template <class... All, class V>
  void which(const std::array<const char*, sizeof...(All)>&, V& v) {
    if (touches()) pick<0, All...>(v, below(sizeof...(All)));
    std::visit([this](auto& one) { object("", one); }, v);
  }

 private:
  template <size_t I, class First, class... Rest, class V>
  void pick(V& v, size_t at) {
    if (at == 0) return void(v.template emplace<First>());
    if constexpr (sizeof...(Rest) > 0) pick<I + 1, Rest...>(v, at - 1);
  }
  // Rules across values hold, mostly: refused files are session_fuzz's matter.
  template <class T>
  void mend(T& v) {
    if constexpr (std::is_same_v<T, Recorded>)
      v.band = {};
    else if constexpr (std::is_same_v<T, AlignMove>)
      v.question = {};
    else if constexpr (std::is_same_v<T, Versions>)
      v.now = 0;
    else if constexpr (std::is_same_v<T, KickVoice>)
      for (size_t i = 0; i < v.fall.size(); ++i)
        v.fall[i].at = i ? std::max(v.fall[i - 1].at, v.fall[i].at) : 0.0;
    else if constexpr (!std::is_same_v<T, Part> && !std::is_same_v<T, Session> && !std::is_same_v<T, Track>)
      v = {};
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
  values.object("", s);
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
