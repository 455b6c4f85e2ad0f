#include "core/session/edits/chain.h"

#include <algorithm>

namespace heft {
namespace {

Edit onChain(const std::string& name, const Owner& of, std::function<void(Chain&)> change,
             const std::string& mergeKey = {}) {
  return {name,
          [of, change = std::move(change)](Session& s) {
            if (Chain* chain = chainOf(s, of)) change(*chain);
          },
          mergeKey};
}

std::string lowered(std::string word) {
  // Linear-phase EQ unchanged.
  if (word.size() > 1 && std::islower(static_cast<unsigned char>(word[1])))
    word[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(word[0])));
  return word;
}

std::string wordOf(const Processor& processor) {
  return lowered(processorWord(processor.what.index()));
}

std::optional<size_t> placeOf(const Chain& chain, int id) {
  for (size_t i = 0; i < chain.list.size(); ++i)
    if (chain.list[i].id == id) return i;
  return std::nullopt;
}

}  // namespace

Edit addProcessor(const Owner& of, const Processor& processor, std::optional<int> behind) {
  return onChain("add " + wordOf(processor), of, [processor, behind](Chain& chain) {
    const auto place = behind ? placeOf(chain, *behind) : std::nullopt;
    chain.put(processor, place ? std::optional(*place + 1) : std::nullopt);
  });
}

Edit removeProcessor(const Owner& of, int id) {
  return onChain("remove a processor", of, [id](Chain& chain) {
    std::erase_if(chain.list, [id](const Processor& p) { return p.id == id; });
  });
}

Edit duplicateProcessor(const Owner& of, int id) {
  return onChain("duplicate processor", of, [id](Chain& chain) {
    if (const auto place = placeOf(chain, id)) chain.put(Processor(chain.list[*place]), *place + 1);
  });
}

Edit moveProcessor(const Owner& of, int id, int places) {
  return onChain("move a processor", of, [id, places](Chain& chain) {
    const auto place = placeOf(chain, id);
    if (!place) return;
    const auto from = static_cast<ptrdiff_t>(*place);
    const auto to = std::clamp<ptrdiff_t>(from + places, 0, std::ssize(chain.list) - 1);
    const auto at = chain.list.begin();
    if (to > from) std::rotate(at + from, at + from + 1, at + to + 1);
    if (to < from) std::rotate(at + to, at + from, at + from + 1);
  });
}

Edit moveProcessorTo(const Owner& from, int id, const Owner& to, size_t place) {
  return {"move a processor", [=](Session& s) {
            Chain *source = chainOf(s, from), *target = chainOf(s, to);
            const auto was = source ? placeOf(*source, id) : std::nullopt;
            if (!was || !target || (target != source && target->isFull())) return;
            const Processor moved = source->list[*was];
            source->list.erase(source->list.begin() + static_cast<ptrdiff_t>(*was));
            const auto put = target->put(moved, place);
            if (target == source && put) target->find(*put)->id = id;
          }};
}

Edit switchProcessor(const Owner& of, int id, bool on) {
  return onChain(on ? "put a processor in" : "take a processor out", of, [id, on](Chain& chain) {
    if (Processor* processor = chain.find(id)) processor->switchOn(on);
  });
}

Edit withoutKind(size_t kind) {
  return {std::string("No ") + processorWord(kind), [kind](Session& s) {
            auto off = [kind](Chain& chain) {
              for (Processor& p : chain.list)
                if (p.what.index() == kind) p.switchOn(false);
            };
            for (Part& part : s.parts) {
              for (Layer& l : part.layers) off(l.chain);
              off(part.finish);
            }
            off(s.sum.finish);
          }};
}

Edit putProcessor(const Owner& of, int id, const Processor& instead, const std::string& name,
                  const std::string& mergeKey) {
  return onChain(
      name, of,
      [id, instead](Chain& chain) {
        Processor* processor = chain.find(id);
        if (!processor) return;
        // Loudness kept here by hand stays kept, whichever processor replaces this one.
        const bool kept = processor->keepsLoudness;
        *processor = instead, processor->id = id;
        processor->keepsLoudness = kept || instead.keepsLoudness;
      },
      mergeKey);
}

Edit switchChain(const Owner& of, bool on) {
  return onChain(on ? "enable all processors" : "bypass all processors", of,
                 [on](Chain& chain) { chain.on = on; });
}

Edit putChain(const Owner& of, const Chain& chain, const std::string& name, const std::string& mergeKey) {
  return onChain(
      name, of, [chain](Chain& now) { now = chain; }, mergeKey);
}

Edit placeBody(const Owner& of, int id, const AssetRef& sound) {
  return onChain("place body", of, [id, sound](Chain& chain) {
    Processor* processor = chain.find(id);
    if (Body* body = processor ? processor->as<Body>() : nullptr) body->asset = sound, body->on = true;
  });
}

}  // namespace heft
