#pragma once
/// Makers of rows (table.h), for the files that list the document's values.

#include <concepts>
#include <set>
#include <variant>

#include "core/session/asset_ref.h"
#include "core/session/settle.h"
#include "core/session/table.h"
#include "core/theory/time_value.h"

namespace heft::rows {

template <class M>
struct MemberOf;
template <class T, class V>
struct MemberOf<V T::*> {
  using Object = T;
};

/// A value by its path: pointers to members, and indices of arrays.
template <auto First, auto... Rest>
constexpr auto& follow(auto& object) {
  auto& next = [&object]() -> auto& {
    if constexpr (std::integral<decltype(First)>)
      return object[static_cast<size_t>(First)];
    else
      return object.*First;
  }
  ();
  if constexpr (sizeof...(Rest) == 0)
    return next;
  else
    return follow<Rest...>(next);
}
template <auto First, auto... Rest>
struct PathOf {
  using Object = typename MemberOf<decltype(First)>::Object;
};
template <auto... Path>
using Owning = typename PathOf<Path...>::Object;
template <auto... Path>
using ValueOf = std::remove_reference_t<decltype(follow<Path...>(std::declval<Owning<Path...>&>()))>;
template <auto... Path>
void* addressOf(void* object) {
  return &follow<Path...>(*static_cast<Owning<Path...>*>(object));
}

template <auto... Path>
constexpr Row row(const char* key, Row::Kind kind) {
  Row out;
  out.key = key, out.kind = kind, out.at = &addressOf<Path...>;
  return out;
}

template <auto... Path>
constexpr Row flag(const char* key, Saved saved = Saved::Always) {
  static_assert(std::same_as<ValueOf<Path...>, bool>);
  Row out = row<Path...>(key, Row::Kind::Flag);
  out.saved = saved;
  return out;
}
template <auto... Path>
constexpr Row number(const char* key, Range range) {
  using V = ValueOf<Path...>;
  static_assert(std::same_as<V, double> || std::same_as<V, std::optional<double>>);
  Row out = row<Path...>(key, std::same_as<V, double> ? Row::Kind::Number : Row::Kind::MaybeNumber);
  out.range = range;
  return out;
}
template <auto... Path>
constexpr Row level(const char* key, Range range) {
  static_assert(std::same_as<ValueOf<Path...>, std::optional<double>>);
  Row out = row<Path...>(key, Row::Kind::Level);
  out.range = range;
  return out;
}
template <auto... Path>
constexpr Row whole(const char* key, Range range) {
  static_assert(std::same_as<ValueOf<Path...>, int>);
  Row out = row<Path...>(key, Row::Kind::Whole);
  out.range = range;
  return out;
}
template <class V>
inline constexpr CountOf kCountOf = {
    [](const void* v) { return static_cast<uint64_t>(*static_cast<const V*>(v)); },
    [](void* v, uint64_t to) { *static_cast<V*>(v) = static_cast<V>(to); }};
template <auto... Path>
constexpr Row count(const char* key, Saved saved) {
  Row out = row<Path...>(key, Row::Kind::Count);
  out.saved = saved, out.count = &kCountOf<ValueOf<Path...>>;
  return out;
}
template <auto... Path>
constexpr Row text(const char* key, size_t most, Saved saved = Saved::Always) {
  static_assert(std::same_as<ValueOf<Path...>, std::string>);
  Row out = row<Path...>(key, Row::Kind::Text);
  out.most = most, out.saved = saved;
  return out;
}
template <auto... Path>
constexpr Row time(const char* key, Range range) {
  using V = ValueOf<Path...>;
  static_assert(std::same_as<V, TimeValue> || std::same_as<V, std::optional<TimeValue>>);
  Row out = row<Path...>(key, std::same_as<V, TimeValue> ? Row::Kind::Time : Row::Kind::MaybeTime);
  out.range = range;
  return out;
}
template <auto... Path>
constexpr Row choice(const char* key) {
  using E = ValueOf<Path...>;
  static_assert(std::is_enum_v<E> && sizeof(E) == sizeof(int));
  Row out = row<Path...>(key, Row::Kind::Choice);
  out.words = wordsOf<E>();
  return out;
}
template <class V, auto Name, auto Parse>
inline constexpr TextOf kTextOf = {[](const void* v) -> std::string { return Name(*static_cast<const V*>(v)); },
                                   [](void* v, const std::string& text) -> std::optional<std::string> {
                                     auto value = Parse(text);
                                     if (!value) return value.error().reason;
                                     *static_cast<V*>(v) = std::move(*value);
                                     return std::nullopt;
                                   }};
template <auto Name, auto Parse, auto... Path>
constexpr Row parsed(const char* key, size_t most = kLongestText) {
  Row out = row<Path...>(key, Row::Kind::Parsed);
  out.parsed = &kTextOf<ValueOf<Path...>, Name, Parse>, out.most = most;
  return out;
}
template <auto... Path>
constexpr Row wholes(const char* key, size_t most, Range range) {
  static_assert(std::same_as<ValueOf<Path...>, std::vector<int>>);
  Row out = row<Path...>(key, Row::Kind::Wholes);
  out.most = most, out.range = range;
  return out;
}
template <auto... Path>
constexpr Row texts(const char* key, size_t most) {
  static_assert(std::same_as<ValueOf<Path...>, std::set<std::string>>);
  Row out = row<Path...>(key, Row::Kind::Texts);
  out.most = most;
  return out;
}
template <auto... Path>
constexpr Row object(const char* key, Saved saved = Saved::Always) {
  Row out = row<Path...>(key, Row::Kind::Object);
  out.saved = saved, out.inner = &tableOf<ValueOf<Path...>>;
  return out;
}
template <class List>
inline constexpr ListOf kListOf = {
    [](const void* list) { return static_cast<const List*>(list)->size(); },
    [](const void* list, size_t i) -> const void* { return &(*static_cast<const List*>(list))[i]; },
    [](void* list, size_t i) -> void* { return &(*static_cast<List*>(list))[i]; },
    [](void* list, size_t size) { static_cast<List*>(list)->resize(size); },
    &tableOf<typename List::value_type>};
template <auto... Path>
constexpr Row list(const char* key, size_t most, Saved saved = Saved::Always) {
  Row out = row<Path...>(key, Row::Kind::List);
  out.most = most, out.saved = saved, out.list = &kListOf<ValueOf<Path...>>;
  return out;
}
template <class V>
struct Alternatives;
template <class... All>
struct Alternatives<std::variant<All...>> {
  using V = std::variant<All...>;
  static constexpr std::array<TableFn, sizeof...(All)> kTables = {&tableOf<All>...};
  static void make(void* v, size_t index) {
    size_t at = 0;
    ((at++ == index ? void(static_cast<V*>(v)->template emplace<All>()) : void()), ...);
  }
  static constexpr WhichOf kWhich = {
      kTables, [](const void* v) { return static_cast<const V*>(v)->index(); },
      [](void* v) { return std::visit([](auto& one) -> void* { return &one; }, *static_cast<V*>(v)); }, &make};
};
template <auto... Path>
constexpr Row which(std::span<const char* const> keys, bool mustName = false) {
  Row out = row<Path...>("", Row::Kind::Which);
  out.keys = keys, out.mustName = mustName, out.which = &Alternatives<ValueOf<Path...>>::kWhich;
  return out;
}
template <auto... Path>
constexpr Row kept() {
  static_assert(std::same_as<ValueOf<Path...>, Unknown>);
  return row<Path...>("", Row::Kind::Kept);
}

/// The table of a type with these rows.
template <class T>
constexpr Table made(std::span<const Row> rows) {
  return {rows, [](void* v) { settle(*static_cast<T*>(v)); },
          [](const void* v) -> std::optional<FieldFault> { return faultOf(*static_cast<const T*>(v)); },
          [](const void* v) { return *static_cast<const T*>(v) == T(); },
          [](void* v) { *static_cast<T*>(v) = T(); }};
}

}  // namespace heft::rows
