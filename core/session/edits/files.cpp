#include "core/session/edits/files.h"

#include <algorithm>

#include "core/session/folder.h"

namespace heft {
namespace {

void takeFirstRate(Session& s, double rate) {
  if (isWithoutSounds(s) && rate >= 44100.0 && rate <= 192000.0) s.track.sampleRate = rate;
}

}  // namespace

bool isWithoutSounds(const Session& s) {
  return s.backing.asset.empty() &&
         std::all_of(s.parts.begin(), s.parts.end(), [](const Part& p) { return p.layers.empty(); });
}

Edit addReference(const Reference& reference) {
  return {"add reference", [reference](Session& s) {
            if (s.references.size() < kMostReferences) s.references.push_back(reference);
          }};
}

Edit placeBacking(const AssetRef& sound, double rate) {
  return {"load backing", [sound, rate](Session& s) {
            takeFirstRate(s, rate);
            s.backing.asset = sound, s.backing.offsetSeconds = 0.0;
          }};
}

Edit placePartSound(const Part& part, const AssetRef& sound, const SoundPlace& where, double rate) {
  return {"load " + partWord(part), [id = part.id, sound, where, rate](Session& s) {
            takeFirstRate(s, rate);
            placeSound(s, id, sound, where);
          }};
}

Edit reloadSound(const AssetRef& sound, const std::string& fileName) {
  return {"reload " + fileName, [sound](Session& s) { reloadAsset(s, sound); }};
}

}  // namespace heft
