#include "core/session/value_at.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <string_view>

namespace heft {
namespace {

using Kind = Row::Kind;

enum class For { Reading, Change };

/// A value where it stands.
struct Spot {
  const Row* row = nullptr;
  void* object = nullptr;
};

// Descends a path from an object; nothing where it ends elsewhere than at a plain value.
// Only where it is to be changed a list's items become its own.
std::optional<Spot> spotAt(const Table& table, void* object, std::string_view key, For use);

// Into an item of a list: "0.semitones".
std::optional<Spot> spotInList(const Row& row, void* list, std::string_view key, For use) {
  size_t index = 0;
  const auto [end, error] = std::from_chars(key.data(), key.data() + key.size(), index);
  const auto digits = static_cast<size_t>(end - key.data());
  if (error != std::errc() || index >= row.list->size(list) || digits >= key.size() || key[digits] != '.')
    return std::nullopt;
  void* const item =
      use == For::Change ? row.list->own(list, index) : const_cast<void*>(row.list->item(list, index));
  return spotAt(row.list->inner(), item, key.substr(digits + 1), use);
}

std::optional<Spot> spotAt(const Table& table, void* object, std::string_view key, For use) {
  const size_t dot = key.find('.');
  const std::string_view first = key.substr(0, dot);
  for (const Row& row : table.rows) {
    void* const at = row.at(object);
    if (row.kind == Kind::Which) {
      const size_t now = row.which->index(at);
      if (first == row.keys[now] && dot != std::string_view::npos)
        return spotAt(row.which->inner[now](), row.which->get(at), key.substr(dot + 1), use);
    } else if (row.kind != Kind::Kept && first == row.key) {
      if (dot == std::string_view::npos) return Spot{&row, object};
      const std::string_view rest = key.substr(dot + 1);
      if (row.kind == Kind::Object) return spotAt(row.inner(), at, rest, use);
      return row.kind == Kind::List ? spotInList(row, at, rest, use) : std::nullopt;
    }
  }
  return std::nullopt;
}

template <class T>
Value orNothing(const std::optional<T>& v) {
  return v ? Value(*v) : Value();
}

// The value of a plain row; nothing for rows that a key does not reach.
std::optional<ValueAt> valueOf(const Spot& spot) {
  const Row& row = *spot.row;
  const void* const o = spot.object;
  switch (row.kind) {
    case Kind::Flag:
      return ValueAt{row.in<bool>(o), {}, {0, 1, Unit::Number}};
    case Kind::Number:
      return ValueAt{row.in<double>(o), {}, row.range};
    case Kind::MaybeNumber:
    case Kind::Level:
      return ValueAt{orNothing(row.in<std::optional<double>>(o)), {}, row.range, true};
    case Kind::Whole:
      return ValueAt{row.in<int>(o), {}, row.range};
    case Kind::Time:
      return ValueAt{row.in<TimeValue>(o), {}, row.range};
    case Kind::MaybeTime:
      return ValueAt{orNothing(row.in<std::optional<TimeValue>>(o)), {}, row.range, true};
    case Kind::Text:
      return ValueAt{row.in<std::string>(o), {}};
    case Kind::Choice:
      return ValueAt{std::string(row.words.at(row.in<int>(o))),
                     {},
                     {static_cast<double>(row.words.first),
                      static_cast<double>(row.words.first) + static_cast<double>(row.words.words.size()) - 1.0},
                     false,
                     row.words};
    case Kind::Parsed:
      return ValueAt{row.parsed->text(row.of(o)), {}};
    default:
      return std::nullopt;
  }
}

// Note values too are clamped to the range, by the milliseconds they last.
TimeValue heldTime(const TimeValue& time, const Range& range, double tempoBpm) {
  const double ms = time.toMs(tempoBpm);
  return range.holds(ms) ? time : TimeValue::milliseconds(range.held(ms));
}

bool putMaybe(const Spot& spot, const Value& value, double tempoBpm) {
  const Row& row = *spot.row;
  const bool nothing = std::holds_alternative<std::monostate>(value);
  if (row.kind == Kind::MaybeTime) {
    auto& v = row.in<std::optional<TimeValue>>(spot.object);
    const auto* time = std::get_if<TimeValue>(&value);
    if (time)
      v = heldTime(*time, row.range, tempoBpm);
    else if (nothing)
      v.reset();
    return time || nothing;
  }
  auto& v = row.in<std::optional<double>>(spot.object);
  const auto* number = std::get_if<double>(&value);
  if (!number && !nothing) return false;
  v = number ? std::optional(row.range.held(*number)) : std::nullopt;
  // At its lowest it is off.
  if (row.kind == Kind::Level && v && *v <= row.range.low) v.reset();
  return true;
}

bool putText(const Spot& spot, const std::string& text) {
  const Row& row = *spot.row;
  if (row.kind == Kind::Parsed) return !row.parsed->read(row.at(spot.object), text);
  if (row.kind == Kind::Choice) {
    const auto to = row.words.find(text);
    if (to) row.in<int>(spot.object) = *to;
    return to.has_value();
  }
  if (row.kind != Kind::Text || text.size() > row.most) return false;
  row.in<std::string>(spot.object) = text;
  return true;
}

bool put(const Spot& spot, const Value& value, double tempoBpm) {
  const Row& row = *spot.row;
  if (row.kind == Kind::MaybeNumber || row.kind == Kind::Level || row.kind == Kind::MaybeTime)
    return putMaybe(spot, value, tempoBpm);
  if (const auto* text = std::get_if<std::string>(&value)) return putText(spot, *text);
  if (const auto* flag = std::get_if<bool>(&value); flag && row.kind == Kind::Flag)
    return row.in<bool>(spot.object) = *flag, true;
  if (const auto* number = std::get_if<double>(&value); number && row.kind == Kind::Number)
    return row.in<double>(spot.object) = row.range.held(*number), true;
  if (const auto* whole = std::get_if<int>(&value); whole && row.kind == Kind::Whole)
    return row.in<int>(spot.object) = static_cast<int>(row.range.held(*whole)), true;
  if (const auto* time = std::get_if<TimeValue>(&value); time && row.kind == Kind::Time)
    return row.in<TimeValue>(spot.object) = heldTime(*time, row.range, tempoBpm), true;
  return false;
}

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

std::optional<double> numberOf(const Value& value, double tempoBpm) {
  if (const auto* number = std::get_if<double>(&value)) return *number;
  if (const auto* time = std::get_if<TimeValue>(&value)) return time->toMs(tempoBpm);
  return std::nullopt;
}

std::optional<double> asNumber(const ValueAt& value, double tempoBpm) {
  if (const auto* flag = std::get_if<bool>(&value.now)) return *flag ? 1.0 : 0.0;
  if (const auto* whole = std::get_if<int>(&value.now)) return *whole;
  if (const auto* word = std::get_if<std::string>(&value.now)) {
    const auto place = value.words.find(*word);
    return place ? std::optional<double>(*place) : std::nullopt;
  }
  return numberOf(value.now, tempoBpm);
}

Value fromNumber(const ValueAt& value, double number) {
  const double held = value.range.held(number);
  if (std::holds_alternative<bool>(value.now)) return held >= 0.5;
  if (std::holds_alternative<int>(value.now)) return static_cast<int>(std::lround(held));
  if (!value.words.words.empty()) return std::string(value.words.at(static_cast<int>(std::lround(held))));
  const bool isTime =
      std::holds_alternative<TimeValue>(value.now) || std::holds_alternative<TimeValue>(value.byDefault);
  return isTime ? Value(TimeValue::milliseconds(held)) : Value(held);
}

const Chain* chainOf(const Session& s, const Owner& owner) {
  return chainIn(s, owner);
}

Chain* chainOf(Session& s, const Owner& owner) {
  return chainIn(s, owner);
}

std::optional<ValueAt> valueAt(const Session& s, const Owner& owner, const std::string& key) {
  std::optional<ValueAt> out;
  withOwner(s, owner, [&]<class T>(const T& object) {
    const auto spot = spotAt(tableOf<T>(), const_cast<T*>(&object), key, For::Reading);
    out = spot ? valueOf(*spot) : std::nullopt;
    if (!out) return;
    T plain = usual(object);
    if (const auto same = spotAt(tableOf<T>(), &plain, key, For::Reading)) out->byDefault = valueOf(*same)->now;
  });
  return out;
}

bool putValue(Session& s, const Owner& owner, const std::string& key, const Value& value) {
  bool done = false;
  withOwner(s, owner, [&]<class T>(T& object) {
    const auto spot = spotAt(tableOf<T>(), &object, key, For::Change);
    done = spot && put(*spot, value, s.track.tempoBpm);
  });
  return done;
}

}  // namespace heft
