#include "core/session/within.h"

#include <algorithm>
#include <cmath>

#include "core/session/fields.h"
#include "core/session/settle.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kLongestTimeMs = 600'000.0;  // what parseTime reads

struct Within {
  bool holds = true;

  void flag(const char*, bool&, Saved = {}) {}
  void number(const char*, double& v, const Range& r) {
    if (!(v >= r.low && v <= r.high)) v = std::isnan(v) ? r.low : std::clamp(v, r.low, r.high);
  }
  void number(const char* name, std::optional<double>& v, const Range& r) {
    if (v) number(name, *v, r);
  }
  // At its lowest it is off, as when read.
  void level(const char* name, std::optional<double>& v, const Range& r) {
    number(name, v, r);
    if (v && *v <= r.low) v.reset();
  }
  void whole(const char*, int& v, const Range& r) {
    v = std::clamp(v, static_cast<int>(r.low), static_cast<int>(r.high));
  }
  void count(const char*, auto&, Saved) {}
  void text(const char*, std::string& v, size_t most, Saved = {}) {
    if (v.size() > most) v = cutUtf8(std::move(v), most);
  }
  void time(const char*, TimeValue& v, const Range&) {
    if (!v.isNote() && !(v.fixedMs >= 0.0 && v.fixedMs <= kLongestTimeMs))
      v.fixedMs = v.fixedMs > kLongestTimeMs ? kLongestTimeMs : 0.0;
  }
  void time(const char* name, std::optional<TimeValue>& v, const Range& r) {
    if (v) time(name, *v, r);
  }
  void choice(const char*, auto&, auto, auto) {}
  void parsed(const char*, auto&, auto, auto) {}
  void wholes(const char* name, std::vector<int>& v, size_t most, const Range& r) {
    if (v.size() > most) v.resize(most);
    for (int& one : v) whole(name, one, r);
  }
  void texts(const char*, std::set<std::string>& v, size_t most) {
    while (v.size() > most) v.erase(std::prev(v.end()));
  }
  void kept(Unknown&) {}
  template <class T>
  void object(const char*, T& v, Saved = {}) {
    eachOf(v, *this);
    settle(v);
    holds = holds && !faultOf(v);
  }
  template <class T>
  void list(const char* name, std::vector<T>& v, size_t most, Saved = {}) {
    if (v.size() > most) v.resize(most);
    for (T& one : v) object(name, one);
  }
  template <class... All, class V>
  void which(const std::array<const char*, sizeof...(All)>&, V& v) {
    std::visit([this](auto& one) { object("", one); }, v);
  }
};

}  // namespace

bool keepWithin(Session& session) {
  Within all;
  all.object("", session);
  return all.holds;
}

}  // namespace heft
