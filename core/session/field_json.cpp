#include "core/session/field_json.h"

#include <set>

#include "core/session/settle.h"
#include "core/theory/text.h"

namespace heft {
namespace {

using Kind = Row::Kind;

// A plain value; nothing where the file leaves it out.
std::optional<Json> plainJson(const Row& row, const void* object) {
  const bool always = row.saved == Saved::Always;
  auto when = [](bool there, auto value) { return there ? std::optional<Json>(value()) : std::nullopt; };
  switch (row.kind) {
    case Kind::Flag:
      return when(always || row.in<bool>(object), [&] { return row.in<bool>(object); });
    case Kind::Number:
      return Json(row.in<double>(object));
    case Kind::MaybeNumber: {
      const auto& v = row.in<std::optional<double>>(object);
      return when(v.has_value(), [&] { return *v; });
    }
    case Kind::Level: {
      const auto& v = row.in<std::optional<double>>(object);
      return v ? Json(*v) : Json(kOutWord);
    }
    case Kind::Whole:
      return Json(row.in<int>(object));
    case Kind::Count: {
      const uint64_t v = row.count->get(row.of(object));
      return when(v != 0, [&] { return v; });
    }
    case Kind::Text: {
      const auto& v = row.in<std::string>(object);
      return when(always || !v.empty(), [&] { return v; });
    }
    case Kind::Time:
      return Json(row.in<TimeValue>(object).exactText());
    case Kind::MaybeTime: {
      const auto& v = row.in<std::optional<TimeValue>>(object);
      return when(v.has_value(), [&] { return v->exactText(); });
    }
    case Kind::Choice:
      return Json(row.words.at(row.in<int>(object)));
    case Kind::Parsed:
      return Json(row.parsed->text(row.of(object)));
    case Kind::Wholes: {
      const auto& v = row.in<std::vector<int>>(object);
      return when(!v.empty(), [&] { return Json(v); });
    }
    case Kind::Texts:
      return Json(row.in<std::set<std::string>>(object));
    default:
      return std::nullopt;
  }
}

Json listJson(const Row& row, const void* object) {
  Json out = Json::array();
  const void* list = row.of(object);
  for (size_t i = 0; i < row.list->size(list); ++i)
    out.push_back(jsonOf(row.list->inner(), row.list->item(list, i)));
  return out;
}

void put(Json& out, const Row& row, const void* object) {
  const bool whenSet = row.saved == Saved::WhenSet;
  if (row.kind == Kind::Object) {
    const Table& inner = row.inner();
    if (!whenSet || !inner.isUsual(row.of(object))) out[row.key] = jsonOf(inner, row.of(object));
  } else if (row.kind == Kind::List) {
    if (!whenSet || row.list->size(row.of(object)) > 0) out[row.key] = listJson(row, object);
  } else if (row.kind == Kind::Which) {
    void* variant = row.at(const_cast<void*>(object));
    const size_t index = row.which->index(variant);
    out[row.keys[index]] = jsonOf(row.which->inner[index](), row.which->get(variant));
  } else if (row.kind == Kind::Kept) {
    mergeUnknown(out, row.in<Unknown>(object));
  } else if (auto value = plainJson(row, object)) {
    out[row.key] = std::move(*value);
  }
}

void readTime(const Row& row, JsonReader& r, void* object) {
  TimeValue time;
  if (!r.parsed(row.key, time, parseTime)) return;
  if (row.kind == Kind::Time)
    row.in<TimeValue>(object) = time;
  else
    row.in<std::optional<TimeValue>>(object) = time;
}

void readChoice(const Row& row, JsonReader& r, void* object) {
  std::string word;
  r.text(row.key, word, kLongestText);
  if (word.empty()) return;
  if (const auto value = row.words.find(word))
    row.in<int>(object) = *value;
  else
    r.fail(row.key, "is not " + row.words.choices());
}

void readParsed(const Row& row, JsonReader& r, void* object) {
  std::string text;
  r.text(row.key, text, row.most);
  if (text.empty()) return;
  if (const auto why = row.parsed->read(row.at(object), text)) r.fail(row.key, *why);
}

void readWholes(const Row& row, JsonReader& r, void* object) {
  r.plainList(row.key, row.most, [&](const Json& item) {
    if (item.is_number_integer() && item >= row.range.low && item <= row.range.high)
      row.in<std::vector<int>>(object).push_back(item.get<int>());
    else
      r.fail(row.key, "holds something that is not a whole number from " + formatNumber(row.range.low, 0) +
                          " to " + formatNumber(row.range.high, 0));
  });
}

void readTexts(const Row& row, JsonReader& r, void* object) {
  r.plainList(row.key, row.most, [&](const Json& item) {
    if (item.is_string())
      row.in<std::set<std::string>>(object).insert(item.get<std::string>().substr(0, kLongestName));
    else
      r.fail(row.key, "holds something that is not a text");
  });
}

void readList(const Row& row, JsonReader& r, void* object) {
  if (!r.has(row.key)) return;
  void* list = row.at(object);
  row.list->resize(list, 0);
  r.list(row.key, row.most, [&](JsonReader& inner) {
    const size_t at = row.list->size(list);
    row.list->resize(list, at + 1);
    readInto(row.list->inner(), row.list->own(list, at), inner);
  });
}

void readWhich(const Row& row, JsonReader& r, void* object) {
  void* variant = row.at(object);
  bool named = false;
  for (size_t i = 0; i < row.keys.size(); ++i) {
    if (!r.has(row.keys[i])) continue;
    row.which->make(variant, i);
    r.object(row.keys[i],
             [&](JsonReader& inner) { readInto(row.which->inner[i](), row.which->get(variant), inner); });
    named = true;
  }
  if (row.mustName && !named)
    r.fail(row.keys[0], "is missing, and no other kind that this Heft knows is there");
}

void readCount(const Row& row, JsonReader& r, void* object) {
  uint64_t value = row.count->get(row.of(object));
  r.count(row.key, value);
  row.count->set(row.at(object), value);
}

void read(const Row& row, JsonReader& r, void* object) {
  const Range& range = row.range;
  switch (row.kind) {
    case Kind::Flag:
      return r.flag(row.key, row.in<bool>(object));
    case Kind::Number:
      return r.number(row.key, row.in<double>(object), range.low, range.high);
    case Kind::MaybeNumber:
      return r.number(row.key, row.in<std::optional<double>>(object), range.low, range.high);
    case Kind::Level:
      return r.level(row.key, row.in<std::optional<double>>(object), range.low, range.high);
    case Kind::Whole:
      return r.whole(row.key, row.in<int>(object), static_cast<int>(range.low), static_cast<int>(range.high));
    case Kind::Count:
      return readCount(row, r, object);
    case Kind::Text:
      return r.text(row.key, row.in<std::string>(object), row.most);
    case Kind::Time:
    case Kind::MaybeTime:
      return readTime(row, r, object);
    case Kind::Choice:
      return readChoice(row, r, object);
    case Kind::Parsed:
      return readParsed(row, r, object);
    case Kind::Wholes:
      return readWholes(row, r, object);
    case Kind::Texts:
      return readTexts(row, r, object);
    case Kind::Object:
      return r.object(row.key, [&](JsonReader& inner) { readInto(row.inner(), row.at(object), inner); });
    case Kind::List:
      return readList(row, r, object);
    case Kind::Which:
      return readWhich(row, r, object);
    case Kind::Kept:
      row.in<Unknown>(object) = r.takeUnknown();
      return;
  }
}

}  // namespace

Json jsonOf(const Table& table, const void* object) {
  Json out = Json::object();
  for (const Row& row : table.rows) put(out, row, object);
  return out;
}

void readInto(const Table& table, void* object, JsonReader& from) {
  for (const Row& row : table.rows) read(row, from, object);
  table.settle(object);
  if (const auto fault = table.faultOf(object)) from.fail(fault->key, fault->why);
}

}  // namespace heft
