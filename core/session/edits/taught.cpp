#include "core/session/edits/taught.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/values.h"

namespace heft {
namespace {

constexpr double kWideHz = 4.0;         ///< a wider range of frequencies is mapped by octaves
constexpr double kMeets = 1.5 / 127.0;  ///< two steps of a controller plus rounding

bool goesByOctaves(const Range& r) {
  return r.unit == Unit::Hz && r.low > 0.0 && r.high / r.low > kWideHz;
}
bool goesByCube(const Range& r) {
  return r.unit == Unit::Ms && r.low >= 0.0;
}

template <class V>
auto findBy(V& list, const Control& control) {
  return std::find_if(list.begin(), list.end(), [&](const Taught& t) { return t.by == control; });
}

}  // namespace

Edit teach(const Taught& taught) {
  return {"assign " + controlName(taught.by), [taught](Session& s) {
            if (!valueAt(s, taught.owner, taught.key)) return;
            std::erase_if(s.taught, [&](const Taught& t) {
              return t.by == taught.by || (t.owner == taught.owner && t.key == taught.key);
            });
            if (s.taught.size() < kMostTaught) s.taught.push_back(taught);
          }};
}

Edit forget(const Control& control) {
  return {"forget " + controlName(control),
          [control](Session& s) { std::erase_if(s.taught, [&](const Taught& t) { return t.by == control; }); }};
}

Edit forgetAllTaught() {
  return {"remove all controller assignments", [](Session& s) { s.taught.clear(); }};
}

const Taught* taughtBy(const Session& s, const Control& control) {
  const auto at = findBy(s.taught, control);
  return at == s.taught.end() ? nullptr : &*at;
}

const Taught* teacherOf(const Session& s, const Owner& owner, const std::string& key) {
  const auto at = std::find_if(s.taught.begin(), s.taught.end(),
                               [&](const Taught& t) { return t.owner == owner && t.key == key; });
  return at == s.taught.end() ? nullptr : &*at;
}

bool canBeTurned(const ValueAt& v) {
  return asNumber(v, 120.0) || (std::holds_alternative<std::monostate>(v.now) && v.range.high > v.range.low);
}

double placeOf(const ValueAt& v, double tempoBpm) {
  const auto now = asNumber(v, tempoBpm);
  const Range& r = v.range;
  if (!now || r.high <= r.low) return 0.0;
  const double share = std::clamp((*now - r.low) / (r.high - r.low), 0.0, 1.0);
  if (goesByOctaves(r)) return std::clamp(std::log(*now / r.low) / std::log(r.high / r.low), 0.0, 1.0);
  return goesByCube(r) ? std::cbrt(share) : share;
}

Value valueAtPlace(const ValueAt& like, double place) {
  const double at = std::clamp(place, 0.0, 1.0);
  const Range& r = like.range;
  const double share = goesByCube(r) ? at * at * at : at;
  const double number =
      goesByOctaves(r) ? r.low * std::pow(r.high / r.low, at) : r.low + share * (r.high - r.low);
  return fromNumber(like, number);
}

bool Pickup::takes(double control, double value) {
  const bool mine = held_ && std::abs(*held_ - value) < 1e-6;
  const bool passes = last_ && (*last_ - value) * (control - value) <= 0.0;
  last_ = control;
  if (!mine && !passes && std::abs(control - value) > kMeets)
    held_.reset();
  else
    held_ = value;
  return held_.has_value();
}

std::optional<Edit> turnTo(const Session& s, const Taught& taught, double place) {
  const auto v = valueAt(s, taught.owner, taught.key);
  if (!v || !canBeTurned(*v)) return std::nullopt;
  std::vector<ValuePut> puts{{taught.key, valueAtPlace(*v, place)}};
  if (!taught.switchKey.empty()) puts.push_back({taught.switchKey, true});
  return putValues("turn " + (taught.name.empty() ? taught.key : taught.name), taught.owner, std::move(puts),
                   "turned by " + controlName(taught.by));
}

}  // namespace heft
