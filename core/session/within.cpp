#include "core/session/within.h"

#include <set>

#include "core/session/fields.h"
#include "core/session/settle.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kLongestTimeMs = 600'000.0;  // what parseTime reads

using Kind = Row::Kind;

bool keep(const Table& table, void* object);

void keepNumber(const Row& row, std::optional<double>& v) {
  if (v) v = row.range.held(*v);
  // At its lowest it is off, as when read.
  if (row.kind == Kind::Level && v && *v <= row.range.low) v.reset();
}

void keepTime(TimeValue& v) {
  if (!v.isNote() && !(v.fixedMs >= 0.0 && v.fixedMs <= kLongestTimeMs))
    v.fixedMs = v.fixedMs > kLongestTimeMs ? kLongestTimeMs : 0.0;
}

int heldWhole(const Range& range, int v) {
  return static_cast<int>(range.held(v));
}

void keepPlain(const Row& row, void* object) {
  switch (row.kind) {
    case Kind::Number:
      row.in<double>(object) = row.range.held(row.in<double>(object));
      break;
    case Kind::MaybeNumber:
    case Kind::Level:
      keepNumber(row, row.in<std::optional<double>>(object));
      break;
    case Kind::Whole:
      row.in<int>(object) = heldWhole(row.range, row.in<int>(object));
      break;
    case Kind::Text:
      if (auto& v = row.in<std::string>(object); v.size() > row.most) v = cutUtf8(std::move(v), row.most);
      break;
    case Kind::Time:
      keepTime(row.in<TimeValue>(object));
      break;
    case Kind::MaybeTime:
      if (auto& v = row.in<std::optional<TimeValue>>(object)) keepTime(*v);
      break;
    case Kind::Wholes: {
      auto& v = row.in<std::vector<int>>(object);
      if (v.size() > row.most) v.resize(row.most);
      for (int& one : v) one = heldWhole(row.range, one);
      break;
    }
    case Kind::Texts: {
      auto& v = row.in<std::set<std::string>>(object);
      while (v.size() > row.most) v.erase(std::prev(v.end()));
      break;
    }
    default:
      break;
  }
}

// Every item of its own: an edit takes lists that it left alone out before.
bool keepList(const Row& row, void* list) {
  if (row.list->size(list) > row.most) row.list->resize(list, row.most);
  bool holds = true;
  for (size_t i = 0; i < row.list->size(list); ++i)
    if (!keep(row.list->inner(), row.list->own(list, i))) holds = false;
  return holds;
}

// False where a rule across values does not hold.
bool keep(const Table& table, void* object) {
  bool holds = true;
  for (const Row& row : table.rows) {
    void* const at = row.at(object);
    if (row.kind == Kind::Object)
      holds = keep(row.inner(), at) && holds;
    else if (row.kind == Kind::List)
      holds = keepList(row, at) && holds;
    else if (row.kind == Kind::Which)
      holds = keep(row.which->inner[row.which->index(at)](), row.which->get(at)) && holds;
    else
      keepPlain(row, object);
  }
  table.settle(object);
  return holds && !table.faultOf(object);
}

}  // namespace

bool keepWithin(Session& session) {
  return keep(tableOf<Session>(), &session);
}

}  // namespace heft
