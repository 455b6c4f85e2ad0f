#include "core/session/taught.h"

#include <array>
#include <sstream>
#include <utility>
#include <vector>

#include "core/session/table.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr const char* kMouseWheel = "mouse wheel";
constexpr int kHighestController = 119;

// Words and whole numbers in turn: "part 1 layer 2".
using Pairs = std::vector<std::pair<std::string, int>>;

std::optional<Pairs> pairsOf(const std::string& text, int highest) {
  Pairs out;
  std::istringstream in(text);
  for (std::string word, number; in >> word;) {
    if (!(in >> number)) return std::nullopt;
    const auto value = parseNumber(number);
    // Range first: a double outside an int's range cannot be converted.
    if (!value || !(*value >= 0 && *value <= highest) || *value != static_cast<int>(*value))
      return std::nullopt;
    out.emplace_back(word, static_cast<int>(*value));
  }
  return out;
}

bool areNamed(const Pairs& pairs, std::initializer_list<const char*> names) {
  if (pairs.size() != names.size()) return false;
  auto name = names.begin();
  for (const auto& [word, number] : pairs)
    if (word != *name++) return false;
  return true;
}

}  // namespace

std::string controlName(const Control& c) {
  if (c.kind == Control::Kind::MouseWheel) return kMouseWheel;
  const std::string channel = " channel " + std::to_string(c.channel);
  return c.kind == Control::Kind::PitchWheel ? "pitch wheel" + channel
                                             : "controller " + std::to_string(c.number) + channel;
}

Result<Control> parseControl(const std::string& text) {
  if (text == kMouseWheel) return Control();
  Control out;
  std::string rest = text;
  if (rest.starts_with("pitch wheel"))
    rest.replace(0, 11, "controller 0"), out.kind = Control::Kind::PitchWheel;
  const auto pairs = pairsOf(rest, kHighestController);
  if (!pairs || !areNamed(*pairs, {"controller", "channel"}) || (*pairs)[1].second < 1 ||
      (*pairs)[1].second > 16)
    return badUsage(
        "\"" + text +
        "\" is no control; write \"controller 21 channel 1\", \"pitch wheel channel 1\" or \"mouse wheel\"");
  if (out.kind != Control::Kind::PitchWheel) out.kind = Control::Kind::Controller;
  out.number = (*pairs)[0].second, out.channel = (*pairs)[1].second;
  return out;
}

std::string ownerName(const Owner& owner) {
  std::string out;
  const std::pair<const char*, const std::optional<int>*> ids[] = {
      {"duck", &owner.duck}, {"part", &owner.part}, {"layer", &owner.layer}, {"processor", &owner.processor}};
  for (const auto& [word, id] : ids)
    if (*id) out += (out.empty() ? "" : " ") + std::string(word) + " " + std::to_string(**id);
  return out.empty() ? "session" : out;
}

Result<Owner> parseOwner(const std::string& text) {
  if (text == "session") return Owner();
  const auto pairs = pairsOf(text, kHighestId);
  Owner out;
  std::optional<int>* const places[] = {&out.duck, &out.part, &out.layer, &out.processor};
  if (pairs && !pairs->empty())
    for (const auto& [word, id] : *pairs) {
      constexpr std::array kWords{"duck", "part", "layer", "processor"};
      for (size_t i = 0; i < kWords.size(); ++i)
        if (word == kWords[i] && id >= 1) *places[i] = id;
    }
  // As it would be written, or it is something else.
  if (out == Owner() || ownerName(out) != text || (out.layer && !out.part) ||
      (out.duck && (out.part || out.processor)))
    return badUsage(
        "\"" + text +
        "\" names nothing that values are of; write \"part 1 layer 2\", \"duck 1\" or \"processor 3\"");
  return out;
}

}  // namespace heft
