#include "core/session/chain.h"

#include <algorithm>
#include <array>

namespace heft {
namespace {

struct KindWords {
  const char *word, *shortWord;
};
constexpr std::array<KindWords, kProcessorKinds> kWords = {{{"Envelope", "Env"},
                                                            {"EQ", "EQ"},
                                                            {"Strike and sustain", "Strike"},
                                                            {"Drive", "Drive"},
                                                            {"Compressor", "Comp"},
                                                            {"Soft clip", "Clip"},
                                                            {"Limiter", "Limit"},
                                                            {"Body", "Body"},
                                                            {"Room", "Room"},
                                                            {"Width", "Width"},
                                                            {"Gain", "Gain"}}};

bool changes(const Eq& eq) {
  return eq.works();
}
bool changes(const Width& width) {
  return width.works();
}
bool changes(const Body& body) {
  return body.on && !body.asset.empty();
}
bool changes(const auto& other) {
  return other.on;
}

template <size_t... I>
Processor::What ofKind(size_t kind, std::index_sequence<I...>) {
  Processor::What out;
  (void)((kind == I && (out.emplace<I>(), true)) || ...);
  return out;
}

}  // namespace

const char* processorWord(size_t kind) {
  return kWords[kind].word;
}

const char* processorShortWord(size_t kind) {
  return kWords[kind].shortWord;
}

bool canKeepLoudness(size_t kind) {
  Processor p{0, ofKind(kind, std::make_index_sequence<kProcessorKinds>())};
  return p.as<Eq>() || p.as<StrikeSustain>() || p.as<Drive>() || p.as<Compressor>() || p.as<Body>() ||
         p.as<Room>();
}

Processor freshProcessor(size_t kind) {
  Processor out{0, ofKind(kind, std::make_index_sequence<kProcessorKinds>())};
  out.switchOn(true);
  return out;
}

Processor addedProcessor(size_t kind) {
  constexpr double kLongestDecayMs = 10000.0;
  Processor out = freshProcessor(kind);
  out.switchOn(false);
  if (Drive* drive = out.as<Drive>()) drive->driveDb = 0.0, out.keepsLoudness = true;
  if (Compressor* compressor = out.as<Compressor>()) compressor->thresholdDb = 0.0;
  if (SoftClip* clip = out.as<SoftClip>()) clip->ceilingDb = 0.0;
  if (Limiter* limiter = out.as<Limiter>()) limiter->ceilingDb = 0.0;
  if (Room* room = out.as<Room>()) room->wet = 0.0;
  if (AmpEnvelope* envelope = out.as<AmpEnvelope>()) envelope->decayMs = kLongestDecayMs;
  return out;
}

bool isUnmoved(const Processor& processor) {
  Processor added = addedProcessor(processor.what.index());
  return added.what == processor.what;
}

bool Processor::works() const {
  return std::visit([](const auto& p) { return changes(p); }, what);
}

bool Chain::works() const {
  return on && std::any_of(list.begin(), list.end(), [](const Processor& p) { return p.works(); });
}

const Processor* Chain::find(int id) const {
  const auto at = std::find_if(list.begin(), list.end(), [id](const Processor& p) { return p.id == id; });
  return at != list.end() ? &*at : nullptr;
}

Processor* Chain::find(int id) {
  return const_cast<Processor*>(std::as_const(*this).find(id));
}

int Chain::freshId() const {
  int out = 1;
  while (find(out)) ++out;
  return out;
}

size_t Chain::usualPlace(size_t kind) const {
  size_t out = 0;
  for (size_t i = 0; i < list.size(); ++i)
    if (list[i].what.index() <= kind) out = i + 1;
  return out;
}

std::optional<int> Chain::put(Processor processor, std::optional<size_t> place) {
  if (isFull()) return std::nullopt;
  processor.id = freshId();
  const size_t at = std::min(place.value_or(usualPlace(processor.what.index())), list.size());
  const auto put = list.insert(list.begin() + static_cast<ptrdiff_t>(at), std::move(processor));
  return put->id;
}

}  // namespace heft
