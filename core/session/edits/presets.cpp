#include "core/session/edits/presets.h"

#include "core/session/edits/chain.h"

namespace heft {
namespace {

Owner withoutProcessor(Owner at) {
  at.processor.reset();
  return at;
}

Result<Edit> useProcessor(const Session& s, const Owner& at, const Processor& preset, const std::string& name,
                          const std::string& mergeKey) {
  const Owner of = withoutProcessor(at);
  const Chain* chain = chainOf(s, of);
  if (!chain) return badUsage(name + " is a processor: choose a layer, a part or the sum for it");
  if (!at.processor) {
    if (chain->isFull()) return badUsage("a chain holds ten processors: remove one before adding " + name);
    return addProcessor(of, preset);
  }
  const Processor* now = chain->find(*at.processor);
  if (!now || now->what.index() != preset.what.index())
    return badUsage(name + " is a preset of " + processorWord(preset.what.index()) +
                    ": choose one of that kind");
  return putProcessor(of, *at.processor, preset, "use " + name, mergeKey);
}

}  // namespace

Result<Edit> usePreset(const Session& s, const Owner& at, const Preset& preset, const std::string& mergeKey) {
  const std::string name = "\"" + preset.name + "\"";
  if (const auto* processor = std::get_if<Processor>(&preset.what))
    return useProcessor(s, at, *processor, name, mergeKey);
  if (const auto* chain = std::get_if<Chain>(&preset.what)) {
    if (!chainOf(s, withoutProcessor(at)))
      return badUsage(name + " is a list of processors: choose a layer, a part or the sum for it");
    return putChain(withoutProcessor(at), *chain, "use " + name, mergeKey);
  }
  const Part* part = at.part ? s.part(*at.part) : nullptr;
  if (!part) return badUsage(name + " is a " + presetKindWord(preset) + ": choose a part for it");
  if (const auto* layer = std::get_if<Layer>(&preset.what)) {
    const std::optional<int> id = at.layer             ? at.layer
                                  : part->firstLayer() ? std::optional(part->firstLayer()->id)
                                                       : std::nullopt;
    if (layer->kickVoice() && part->playsNotes())
      return badUsage(name + " is a built kick: choose a part that plays hits for it");
    if (layer->bassVoice() && !part->playsNotes())
      return badUsage(name + " is a built bass: choose a part that plays notes for it");
    return onPart(
        "use " + name, part->id,
        [id, put = *layer](Part& p) {
          Layer* now = id ? p.layer(*id) : nullptr;
          Layer fresh = put;
          fresh.id = now ? now->id : freshLayerId(p);
          if (now)
            fresh.levelDb = now->levelDb, *now = fresh;
          else
            p.layers.push_back(fresh);
        },
        mergeKey);
  }
  const Part& whole = std::get<Part>(preset.what);
  if (whole.plays != part->plays)
    return badUsage(name + " plays " + (whole.playsNotes() ? "notes" : "hits") +
                    ": choose a part that does so too");
  return onPart(
      "use " + name, part->id,
      [whole](Part& p) {
        p.layers = whole.layers, p.finish = whole.finish, p.finishOver = whole.finishOver,
        p.contour = whole.contour;
      },
      mergeKey);
}

Preset presetOf(const Session& s, const Owner& at) {
  const Chain* chain = chainOf(s, withoutProcessor(at));
  if (const Processor* processor = chain && at.processor ? chain->find(*at.processor) : nullptr)
    return {processorWord(processor->what.index()), *processor};
  return {"", chain ? *chain : Chain()};
}

}  // namespace heft
