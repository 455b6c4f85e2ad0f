#include "core/session/edits/over_section.h"

#include <algorithm>

#include "core/session/edits/automation.h"
#include "core/session/replaced.h"

namespace heft {
namespace {

/// A value that differs between two sessions.
struct ChangedValue {
  Owner owner;
  std::string key;
  double to = 0.0;
};

std::string capital(std::string words) {
  if (!words.empty()) words[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(words[0])));
  return words;
}

// Numbers, times, switches and choices that differ below one object, by key.
void walk(const Table& table, const void* a, const void* b, const Owner& owner, const std::string& prefix,
          const Track& track, std::vector<ChangedValue>& out) {
  using Kind = Row::Kind;
  for (const Row& row : table.rows) {
    const std::string key = prefix + row.key;
    const void *x = row.of(a), *y = row.of(b);
    if (row.kind == Kind::Number) {
      if (row.in<double>(a) != row.in<double>(b)) out.push_back({owner, key, row.in<double>(b)});
    } else if (row.kind == Kind::MaybeNumber) {
      const auto &from = row.in<std::optional<double>>(a), &to = row.in<std::optional<double>>(b);
      if (from != to && to) out.push_back({owner, key, *to});
    } else if (row.kind == Kind::Time) {
      const auto& to = row.in<TimeValue>(b);
      if (!(row.in<TimeValue>(a) == to)) out.push_back({owner, key, to.toMs(track.tempoBpm)});
    } else if (row.kind == Kind::Flag) {
      if (row.in<bool>(a) != row.in<bool>(b)) out.push_back({owner, key, row.in<bool>(b) ? 1.0 : 0.0});
    } else if (row.kind == Kind::Whole || row.kind == Kind::Choice) {
      if (row.in<int>(a) != row.in<int>(b)) out.push_back({owner, key, static_cast<double>(row.in<int>(b))});
    } else if (row.kind == Kind::Object) {
      walk(row.inner(), x, y, owner, key + ".", track, out);
    } else if (row.kind == Kind::Which && row.which->index(x) == row.which->index(y)) {
      const size_t which = row.which->index(x);
      walk(row.which->inner[which](), row.which->get(const_cast<void*>(x)),
           row.which->get(const_cast<void*>(y)), owner, prefix + row.keys[which] + ".", track, out);
    } else if (row.kind == Kind::List && row.list->size(x) == row.list->size(y)) {
      for (size_t i = 0; i < row.list->size(x); ++i)
        walk(row.list->inner(), row.list->item(x, i), row.list->item(y, i), owner,
             key + "." + std::to_string(i) + ".", track, out);
    }
  }
}

void walkChain(const Chain& a, const Chain& b, Owner owner, const Track& track,
               std::vector<ChangedValue>& out) {
  for (const Processor& p : a.list)
    if (const Processor* q = b.find(p.id); q && q->what.index() == p.what.index()) {
      owner.processor = p.id;
      walk(tableOf<Processor>(), &p, q, owner, "", track, out);
    }
}

std::vector<ChangedValue> changedValues(const Session& a, const Session& b) {
  std::vector<ChangedValue> out;
  for (const Part& part : a.parts) {
    const Part* other = b.part(part.id);
    if (!other) continue;
    Owner owner;
    owner.part = part.id;
    if (part.levelDb != other->levelDb) out.push_back({owner, "level_db", other->levelDb});
    walk(tableOf<Contour>(), &part.contour, &other->contour, owner, "contour.", a.track, out);
    walkChain(part.finish, other->finish, owner, a.track, out);
    for (const Layer& layer : part.layers)
      if (const Layer* l = other->layer(layer.id)) {
        owner.layer = layer.id;
        walk(tableOf<Layer>(), &layer, l, owner, "", a.track, out);
        walkChain(layer.chain, l->chain, owner, a.track, out);
      }
  }
  for (const Duck& duck : a.ducks)
    if (const Duck* other = b.duck(duck.id)) {
      Owner owner;
      owner.duck = duck.id;
      walk(tableOf<Duck>(), &duck, other, owner, "", a.track, out);
    }
  walkChain(a.sum.finish, b.sum.finish, {}, a.track, out);
  if (a.backing.levelDb != b.backing.levelDb) out.push_back({{}, "backing.level_db", b.backing.levelDb});
  if (a.ducking.amount != b.ducking.amount) out.push_back({{}, "ducking.amount", b.ducking.amount});
  return out;
}

// Whether those values are all that the edit changes.
bool areAll(const Session& a, const Session& b, const std::vector<ChangedValue>& values) {
  Session made = a;
  for (const ChangedValue& v : values) {
    const auto now = valueAt(a, v.owner, v.key);
    if (!now || !canBeAutomated(a, v.owner, v.key)) return false;
    const auto there = valueAt(b, v.owner, v.key);
    if (!there || !putValue(made, v.owner, v.key, there->now)) return false;
  }
  // Automation that moved along with a value is not asked for here.
  made.automation = b.automation;
  return made == b;
}

}  // namespace

std::optional<Edit> overSection(const Session& s, const Edit& edit, int section) {
  const TrackSection* there = s.section(section);
  const Session after = edit.applied(s);
  if (!there || after == s) return std::nullopt;
  const auto values = changedValues(s, after);
  if (values.empty() || !areAll(s, after, values)) return std::nullopt;
  std::vector<Edit> edits;
  for (const ChangedValue& v : values)
    edits.push_back(setAutomationOver({v.owner, v.key, capital(wordOfKey(v.key.substr(v.key.rfind('.') + 1)))},
                                      there->fromQuarters, there->toQuarters, v.to));
  return allOf(edit.name + " in " + there->name, std::move(edits));
}

}  // namespace heft
