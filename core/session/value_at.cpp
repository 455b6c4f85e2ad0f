#include "core/session/value_at.h"

#include <algorithm>
#include <charconv>
#include <functional>
#include <string_view>

namespace heft {
namespace {

// Descends a path; at its end it reads, and writes where there is something to write.
struct Walk {
  std::string_view rest;
  const Value* put = nullptr;
  double tempoBpm = 120.0;
  std::optional<ValueAt> found = {};
  bool done = false;  ///< something was put

  bool isHere(const char* name) const { return !found && rest == name; }
  // The rest of the key below that name; nothing where it does not match.
  std::optional<std::string_view> below(std::string_view name) const {
    if (found || rest.size() <= name.size() || rest[name.size()] != '.' || rest.substr(0, name.size()) != name)
      return std::nullopt;
    return rest.substr(name.size() + 1);
  }
  template <class T, class V>
  void place(T& v, V value) {
    if constexpr (!std::is_const_v<T>) v = std::move(value), done = true;
  }
  template <Is<bool> T>
  void flag(const char* name, T& v, Saved = {}) {
    if (!isHere(name)) return;
    found = {v, {}};
    if (const auto* to = put ? std::get_if<bool>(put) : nullptr) place(v, *to);
  }
  template <Is<double> T>
  void number(const char* name, T& v, const Range& r) {
    if (!isHere(name)) return;
    found = {v, {}, r};
    if (const auto* to = put ? std::get_if<double>(put) : nullptr) place(v, std::clamp(*to, r.low, r.high));
  }
  template <Is<std::optional<double>> T>
  void number(const char* name, T& v, const Range& r) {
    if (!isHere(name)) return;
    found = {v ? Value(*v) : Value(), {}, r, true};
    if (const auto* to = put ? std::get_if<double>(put) : nullptr) place(v, std::clamp(*to, r.low, r.high));
    if (put && std::holds_alternative<std::monostate>(*put)) place(v, std::nullopt);
  }
  // At its lowest it is off.
  template <class T>
  void level(const char* name, T& v, const Range& r) {
    const bool here = isHere(name);
    number(name, v, r);
    if (put && here && v && *v <= r.low) place(v, std::nullopt);
  }
  template <Is<int> T>
  void whole(const char* name, T& v, const Range& r) {
    if (!isHere(name)) return;
    found = {v, {}, r};
    if (const auto* to = put ? std::get_if<int>(put) : nullptr)
      place(v, std::clamp(*to, static_cast<int>(r.low), static_cast<int>(r.high)));
  }
  template <Is<TimeValue> T>
  void time(const char* name, T& v, const Range& r) {
    if (!isHere(name)) return;
    found = {v, {}, r};
    if (const auto* to = put ? std::get_if<TimeValue>(put) : nullptr) place(v, held(*to, r));
  }
  // Note values too are clamped to the range, by the milliseconds they last.
  TimeValue held(const TimeValue& time, const Range& r) const {
    const double ms = time.toMs(tempoBpm);
    return ms >= r.low && ms <= r.high ? time : TimeValue::milliseconds(std::clamp(ms, r.low, r.high));
  }
  template <Is<std::optional<TimeValue>> T>
  void time(const char* name, T& v, const Range& r) {
    if (!isHere(name)) return;
    found = {v ? Value(*v) : Value(), {}, r, true};
    if (const auto* to = put ? std::get_if<TimeValue>(put) : nullptr) place(v, held(*to, r));
    if (put && std::holds_alternative<std::monostate>(*put)) place(v, std::nullopt);
  }
  template <Is<std::string> T>
  void text(const char* name, T& v, size_t most, Saved = {}) {
    if (!isHere(name)) return;
    found = {v, {}};
    if (const auto* to = put ? std::get_if<std::string>(put) : nullptr; to && to->size() <= most) place(v, *to);
  }
  template <class E, class NameOf, class Parse>
  void choice(const char* name, E& v, NameOf nameOf, Parse parse) {
    parsed(name, v, nameOf, parse);
  }
  template <class T, class NameOf, class Parse>
  void parsed(const char* name, T& v, NameOf nameOf, Parse parse) {
    if (!isHere(name)) return;
    found = {std::string(nameOf(v)), {}};
    if (const auto* to = put ? std::get_if<std::string>(put) : nullptr)
      if (auto value = parse(*to)) place(v, *value);
  }
  void count(const char*, auto&, Saved) {}
  void wholes(const char*, auto&, size_t, const Range&) {}
  void texts(const char*, auto&, size_t) {}
  void kept(auto&) {}

  template <class T>
  void object(const char* name, T& v, Saved = {}) {
    if (const auto down = below(name)) go(*down, v);
  }
  template <class T>
  void list(const char* name, T& v, size_t, Saved = {}) {
    const auto down = below(name);
    if (!down) return;
    size_t index = 0;
    const auto [end, error] = std::from_chars(down->data(), down->data() + down->size(), index);
    const auto digits = static_cast<size_t>(end - down->data());
    if (error == std::errc() && index < v.size() && digits < down->size() && (*down)[digits] == '.')
      go(down->substr(digits + 1), v[index]);
  }
  template <class... All, class V>
  void which(const std::array<const char*, sizeof...(All)>& names, V& v) {
    std::visit([&](auto& one) { object(names[v.index()], one); }, v);
  }
  template <class T>
  void go(std::string_view down, T& v) {
    const std::string_view was = std::exchange(rest, down);
    eachOf(v, *this);
    rest = was;
  }
};

template <class S>
auto chainIn(S& s, const Owner& owner) -> decltype(&s.sum.finish) {
  if (!owner.part) return &s.sum.finish;
  auto* part = s.part(*owner.part);
  if (!part || !owner.layer) return part ? &part->finish : nullptr;
  auto* layer = part->layer(*owner.layer);
  return layer ? &layer->chain : nullptr;
}

// Calls `look` with that object; does nothing if it is missing.
template <class S, class Look>
void withOwner(S& s, const Owner& owner, Look look) {
  if (owner.duck) {
    const auto at = std::find_if(s.ducks.begin(), s.ducks.end(), [&](auto& d) { return d.id == *owner.duck; });
    if (at != s.ducks.end()) look(*at);
    return;
  }
  if (owner.processor) {
    auto* chain = chainIn(s, owner);
    if (auto* processor = chain ? chain->find(*owner.processor) : nullptr) look(*processor);
    return;
  }
  if (!owner.part) return look(s);
  auto* part = s.part(*owner.part);
  if (!part) return;
  if (!owner.layer) return look(*part);
  if (auto* layer = part->layer(*owner.layer)) look(*layer);
}

template <class T>
T usual(const T&) {
  return {};
}
// Of the same kind.
Layer usual(const Layer& layer) {
  Layer out;
  std::visit([&](const auto& one) { out.what.emplace<std::decay_t<decltype(one)>>(); }, layer.what);
  return out;
}

Processor usual(const Processor& processor) {
  Processor out;
  std::visit([&](const auto& one) { out.what.emplace<std::decay_t<decltype(one)>>(); }, processor.what);
  return out;
}

}  // namespace

const Chain* chainOf(const Session& s, const Owner& owner) {
  return chainIn(s, owner);
}

Chain* chainOf(Session& s, const Owner& owner) {
  return chainIn(s, owner);
}

std::optional<ValueAt> valueAt(const Session& s, const Owner& owner, const std::string& key) {
  std::optional<ValueAt> out;
  withOwner(s, owner, [&](const auto& object) {
    Walk walk{key};
    eachOf(object, walk);
    if (!walk.found) return;
    const auto plain = usual(object);
    Walk same{key};
    eachOf(plain, same);
    out = walk.found;
    if (same.found) out->byDefault = same.found->now;
  });
  return out;
}

bool putValue(Session& s, const Owner& owner, const std::string& key, const Value& value) {
  Walk walk{key, &value, s.track.tempoBpm};
  withOwner(s, owner, [&](auto& object) { eachOf(object, walk); });
  return walk.done;
}

}  // namespace heft
