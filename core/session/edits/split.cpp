#include "core/session/edits/split.h"

#include <algorithm>
#include <filesystem>

#include "core/session/fields.h"

namespace heft {
namespace {

template <class Event>
void restWith(std::vector<Event>& events, int layer, int other) {
  for (Event& e : events)
    if (std::find(e.without.begin(), e.without.end(), layer) != e.without.end()) e.without.push_back(other);
}

template <class Event>
void forgetLayer(std::vector<Event>& events, int layer) {
  for (Event& e : events) std::erase(e.without, layer);
}

// A body tuned about its cut stays tuned that way.
void cutAt(Recorded& r, double atMs, double joinMs) {
  r.split.atMs = rangeOf<SoundSide>("at_ms").held(atMs);
  r.split.joinMs = rangeOf<SoundSide>("join_ms").held(joinMs);
  if (r.split.side == Side::Body && r.targetMidi && r.method == TuneMethod::Split)
    r.strikeMs = std::min(200.0, r.split.atMs);
}

}  // namespace

const Layer* otherSideOf(const Part& part, const Layer& layer) {
  const Recorded* r = layer.recorded();
  if (!r || r->split.side == Side::Whole) return nullptr;
  const Layer* other = part.layer(r->split.otherLayer);
  const Recorded* its = other ? other->recorded() : nullptr;
  const bool meet = its && its->split.otherLayer == layer.id && its->split.side != r->split.side &&
                    its->split.side != Side::Whole;
  return meet ? other : nullptr;
}

bool canSplit(const Part& part, int layer) {
  const Layer* l = part.layer(layer);
  const Recorded* r = l ? l->recorded() : nullptr;
  return !part.playsNotes() && r && !r->asset.empty() && r->split.side == Side::Whole &&
         part.layers.size() < kMostLayers;
}

Edit splitLayer(const Part& part, int layer, double atMs) {
  return onPart("split " + partWord(part), part.id, [layer, atMs, strikeId = freshLayerId(part)](Part& p) {
    if (!canSplit(p, layer)) return;
    Layer& body = *p.layer(layer);
    Layer strike = body;
    strike.id = strikeId;
    strike.name = std::filesystem::path(body.title()).stem().string() + " strike";
    strike.shape = {.startMs = body.shape.startMs};
    std::erase_if(strike.chain.list, [](const Processor& of) { return !of.as<Width>(); });
    strike.recorded()->split = {.side = Side::Strike, .otherLayer = layer};
    Recorded& r = *body.recorded();
    r.split = {.side = Side::Body, .otherLayer = strikeId};
    for (Recorded* side : {&r, strike.recorded()}) cutAt(*side, atMs, side->split.joinMs);
    restWith(p.hits.own(), layer, strikeId), restWith(p.notes.own(), layer, strikeId);
    const auto place =
        std::find_if(p.layers.begin(), p.layers.end(), [&](const Layer& l) { return l.id == layer; });
    p.layers.insert(place + 1, strike);
  });
}

Edit joinSides(const Part& part, int layer) {
  return onPart("join " + partWord(part), part.id, [layer](Part& p) {
    Layer* chosen = p.layer(layer);
    if (!chosen || !chosen->recorded() || chosen->recorded()->split.side == Side::Whole) return;
    const Layer* other = otherSideOf(p, *chosen);
    const bool isBody = chosen->recorded()->split.side == Side::Body;
    const int body = isBody || !other ? chosen->id : other->id;
    const int strike = isBody ? (other ? other->id : 0) : (other ? chosen->id : 0);
    p.layer(body)->recorded()->split = {};
    std::erase_if(p.layers, [&](const Layer& l) { return l.id == strike; });
    forgetLayer(p.hits.own(), strike), forgetLayer(p.notes.own(), strike);
  });
}

Edit setCut(const Part& part, int layer, double atMs, double joinMs, const std::string& mergeKey) {
  return onPart(
      "cut " + partWord(part) + " elsewhere", part.id,
      [layer, atMs, joinMs](Part& p) {
        Layer* chosen = p.layer(layer);
        if (!chosen || !chosen->recorded() || chosen->recorded()->split.side == Side::Whole) return;
        const Layer* other = otherSideOf(p, *chosen);
        cutAt(*chosen->recorded(), atMs, joinMs);
        if (other) cutAt(*p.layer(other->id)->recorded(), atMs, joinMs);
      },
      mergeKey);
}

}  // namespace heft
