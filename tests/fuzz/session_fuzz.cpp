// Fuzz target: bytes as a session's file; or, where they are no text, as the dice by which a good session's
// values are changed. What is read holds together, can be written and read again as it was, and renders. Linked
// with libFuzzer under Clang (preset fuzz), else with mutate.cpp.

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <set>

#include "core/render/lanes/render.h"
#include "core/session/edits/parts.h"

namespace {

using Json = nlohmann::ordered_json;

void demand(bool holds, const char* what) {
  if (holds) return;
  std::fprintf(stderr, "session_fuzz: %s\n", what);
  std::abort();
}

// Kick, bass and sixteen others of eight layers each.
const Json& fullSession() {
  static const Json json = [] {
    heft::Session s;
    s.track.sampleRate = 8000, s.track.tempoBpm = 240, s.track.loopBeats = 1;
    for (int id = 3; id <= 18; ++id)
      heft::addPart(id, "Part " + std::to_string(id), id % 3 ? heft::Plays::Hits : heft::Plays::Notes)
          .change(s);
    for (heft::Part& part : s.parts) {
      for (int i = 0; i < 8; ++i) heft::addBuiltLayer(part).change(s);
      if (part.playsNotes())
        part.notes = {{0.0, 0.2, 33, 0.8}, {0.3, 0.4, 36, 0.5}};
      else
        part.hits = {{0.0, 1.0}, {0.5, 0.6}};
    }
    s.duck().on = true;
    return Json::parse(heft::sessionToJson(s));
  }();
  return json;
}

class Dice {
 public:
  Dice(const unsigned char* data, size_t size) : data_(data), size_(size) {}
  size_t below(size_t n) { return n == 0 ? 0 : next() % n; }
  uint32_t next() {
    // What is left of the bytes, then a generator that they start.
    if (at_ < size_) state_ = state_ * 31u + data_[at_++];
    state_ = state_ * 1664525u + 1013904223u;
    return state_ >> 8;
  }

 private:
  const unsigned char* data_;
  size_t size_, at_ = 0;
  uint32_t state_ = 2166136261u;
};

void changeValue(Json& value, Dice& dice) {
  static const Json kOdd[] = {-1,
                              0,
                              1e308,
                              -1e-308,
                              4096,
                              "",
                              "NaN",
                              "1/16",
                              nullptr,
                              true,
                              Json::array(),
                              Json::object(),
                              0.5,
                              77,
                              "kick",
                              "lane",
                              std::string(300, 'x'),
                              1'000'001,
                              3};
  value = kOdd[dice.below(std::size(kOdd))];
}

// One value somewhere in the tree changed, taken out, or put in twice.
void changeSomewhere(Json& at, Dice& dice) {
  if (!at.is_structured() || at.empty() || dice.below(12) == 0) return changeValue(at, dice);
  const size_t i = dice.below(at.size());
  auto item = at.begin();
  std::advance(item, static_cast<ptrdiff_t>(i));
  const size_t what = dice.below(24);
  if (what == 0 && at.is_array() && at.size() < 100) return at.push_back(Json(*item));
  if (what == 1) {
    at.erase(item);
    return;
  }
  changeSomewhere(*item, dice);
}

std::string textOf(const unsigned char* data, size_t size) {
  if (size > 0 && data[0] == '{') return {reinterpret_cast<const char*>(data), size};
  Dice dice(data, size);
  Json json = fullSession();
  for (size_t n = 1 + dice.below(4); n > 0; --n) changeSomewhere(json, dice);
  return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

void checkSession(const heft::Session& s) {
  demand(s.kick().is() == heft::PartRole::Kick && s.bass().is() == heft::PartRole::Bass,
         "there are a kick and a bass");
  demand(!s.ducks.empty() && s.parts.size() <= heft::kMostParts + 1, "lists are within their bounds");
  std::set<int> ids;
  for (const heft::Part& part : s.parts) {
    demand(ids.insert(part.id).second, "a part's id stands once");
    std::set<int> layers;
    for (const heft::Layer& l : part.layers) demand(layers.insert(l.id).second, "a layer's id stands once");
    for (size_t i = 1; i < part.hits.size(); ++i)
      demand(part.hits[i].startQuarters >= part.hits[i - 1].startQuarters, "hits ascend");
    for (size_t i = 1; i < part.notes.size(); ++i)
      demand(part.notes[i].startQuarters >= part.notes[i - 1].startQuarters, "notes ascend");
  }
}

// A sixteenth of them, as long and as dear as a moment allows.
void renderShort(heft::Session s) {
  s.track.sampleRate = 8000, s.track.loopBeats = 1, s.track.tempoBpm = 240, s.track.beatUnit = 16;
  for (heft::Part& part : s.parts) {
    if (part.layers.size() > 2) part.layers.resize(2);
    if (part.hits.size() > 3) part.hits.resize(3);
    if (part.notes.size() > 3) part.notes.resize(3);
  }
  heft::StepCache cache(1 << 24);
  const auto stems = heft::render(s, heft::Assets(), cache);
  if (!stems) return;
  for (size_t i = 0; i < stems->frames; ++i)
    demand(std::isfinite(stems->sum.at(0, i)), "the sum is made of numbers");
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, size_t size) {
  const auto s = heft::sessionFromJson(textOf(data, size), "fuzz.json");
  if (!s) {
    demand(s.error().sentence().find("fuzz.json") != std::string::npos, "a refusal names the file");
    return 0;
  }
  checkSession(*s);
  const auto again = heft::sessionFromJson(heft::sessionToJson(*s), "again.json");
  demand(again.has_value(), again ? "" : ("what is written can be read: " + again.error().sentence()).c_str());
  demand(*again == *s, "and comes back as it was");
  static int turn = 0;
  if (++turn % 16 == 0) renderShort(*s);
  return 0;
}
