#include "core/session/fields.h"

#include <cassert>

namespace heft {
namespace {

// The table below a row where the key goes on; nothing for plain values.
const Table* below(const Row& row) {
  return row.inner ? &row.inner() : row.list ? &row.list->inner() : nullptr;
}

const Row* find(const Table& table, std::string_view key) {
  const size_t dot = key.find('.');
  const std::string_view first = key.substr(0, dot);
  for (const Row& row : table.rows) {
    for (size_t i = 0; i < row.keys.size(); ++i)
      if (first == row.keys[i] && dot != std::string_view::npos)
        return find(row.which->inner[i](), key.substr(dot + 1));
    if (first != row.key || *row.key == '\0') continue;
    if (dot == std::string_view::npos) return &row;
    const Table* inner = below(row);
    return inner ? find(*inner, key.substr(dot + 1)) : nullptr;
  }
  return nullptr;
}

}  // namespace

const Row* rowAt(const Table& table, const std::string& key) {
  return find(table, key);
}

Range rangeOf(const Table& table, const std::string& key) {
  const Row* row = rowAt(table, key);
  assert(row);
  return row ? row->range : Range();
}

}  // namespace heft
