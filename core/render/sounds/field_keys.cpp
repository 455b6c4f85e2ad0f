#include "core/render/sounds/field_keys.h"

#include <set>

namespace heft {
namespace {

using Kind = Row::Kind;

void addMaybe(KeyMaker& key, const std::optional<double>& v) {
  key.add(v.has_value());
  if (v) key.add(*v);
}

void addPlain(KeyMaker& key, const Row& row, const void* object, double tempoBpm) {
  switch (row.kind) {
    case Kind::Flag:
      key.add(row.in<bool>(object));
      break;
    case Kind::Number:
      key.add(row.in<double>(object));
      break;
    case Kind::MaybeNumber:
    case Kind::Level:
      addMaybe(key, row.in<std::optional<double>>(object));
      break;
    case Kind::Whole:
    case Kind::Choice:
      key.add(row.in<int>(object));
      break;
    case Kind::Count:
      key.add(row.count->get(row.of(object)));
      break;
    case Kind::Text:
      key.add(row.in<std::string>(object));
      break;
    case Kind::Parsed:
      key.add(row.parsed->text(row.of(object)));
      break;
    case Kind::Time:
      key.add(row.in<TimeValue>(object).toMs(tempoBpm));
      break;
    case Kind::MaybeTime: {
      const auto& v = row.in<std::optional<TimeValue>>(object);
      addMaybe(key, v ? std::optional(v->toMs(tempoBpm)) : std::nullopt);
      break;
    }
    case Kind::Wholes: {
      const auto& v = row.in<std::vector<int>>(object);
      key.add(v.size());
      for (const int one : v) key.add(one);
      break;
    }
    case Kind::Texts: {
      const auto& v = row.in<std::set<std::string>>(object);
      key.add(v.size());
      for (const std::string& one : v) key.add(one);
      break;
    }
    default:
      break;
  }
}

}  // namespace

void addFields(KeyMaker& key, const Table& table, const void* object, double tempoBpm) {
  for (const Row& row : table.rows) {
    void* const at = row.at(const_cast<void*>(object));
    if (row.kind == Kind::Object) {
      addFields(key, row.inner(), at, tempoBpm);
    } else if (row.kind == Kind::List) {
      key.add(row.list->size(at));
      for (size_t i = 0; i < row.list->size(at); ++i)
        addFields(key, row.list->inner(), row.list->item(at, i), tempoBpm);
    } else if (row.kind == Kind::Which) {
      const size_t index = row.which->index(at);
      key.add(index);
      addFields(key, row.which->inner[index](), row.which->get(at), tempoBpm);
    } else {
      addPlain(key, row, object, tempoBpm);
    }
  }
}

}  // namespace heft
