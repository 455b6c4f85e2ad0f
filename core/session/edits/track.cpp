#include "core/session/edits/track.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/values.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft {

Edit nameTrack(const std::string& name) {
  return putValue("name the track", {}, "track.name", cutUtf8(name, kLongestName));
}

Edit setKey(const Key& key) {
  Edit out = setKeyAndTempo(key, {});
  out.name = "set key to " + key.name();
  return out;
}

Edit setKeyAndTempo(const std::optional<Key>& key, std::optional<double> tempoBpm) {
  return {"set key and tempo", [key, tempoBpm](Session& s) {
            if (key) s.track.key = *key, s.track.notes.flats = key->prefersFlats();
            if (tempoBpm) setTempo(*tempoBpm).change(s);
          }};
}

Edit setTempo(double bpm, const std::string& mergeKey) {
  return {"set tempo",
          [bpm](Session& s) {
            putValue(s, {}, "track.tempo_bpm", bpm);
            // A slower song of as many bars may be longer than it can be.
            s.track.loopBeats = std::min(s.track.loopBeats, s.track.mostBeats());
          },
          mergeKey};
}

Edit setTuning(double a4Hz, const std::string& mergeKey) {
  return putValue("set tuning", {}, "track.a4_hz", a4Hz, mergeKey);
}

Edit nameOctaves(OctaveNaming naming) {
  return putValue("name octaves", {}, "track.middle_c", std::string(nameOf(naming)));
}

Edit setMetre(int beatsPerBar, int beatUnit) {
  return {"set metre", [=](Session& s) { s.track = withMetre(s.track, beatsPerBar, beatUnit); }};
}

Edit setLoopBeats(int beats, const std::string& mergeKey) {
  return {"set loop length",
          [beats](Session& s) { s.track.loopBeats = std::clamp(beats, 1, s.track.mostBeats()); }, mergeKey};
}

Edit setSong(bool song) {
  return {song ? "make it a song" : "make it a loop", [song](Session& s) {
            s.track.song = song;
            s.track.loopBeats = std::clamp(s.track.loopBeats, 1, s.track.mostBeats());
          }};
}

Edit setSwing(double swing, const std::string& mergeKey) {
  return {"set swing",
          [swing](Session& s) {
            Grid grid = s.grid;
            Session within;  // a document of its own: hits move with the grid as a whole
            within.grid = grid;
            putValue(within, {}, "grid.swing", std::round(swing * 100.0) / 100.0);
            grid.swing = within.grid.swing;
            s = withGrid(std::move(s), grid);
          },
          mergeKey};
}

Edit setGridDivision(const TimeValue& division) {
  return putValue("set grid", {}, "grid.division", division);
}

Edit removeReference(size_t index) {
  return {"remove reference", [index](Session& s) {
            if (index < s.references.size())
              s.references.erase(s.references.begin() + static_cast<ptrdiff_t>(index));
          }};
}

Edit setMeantSo(const std::string& id, bool meant) {
  return {meant ? "mark as intended" : "judge again", [id, meant](Session& s) {
            if (meant)
              s.meantSo.insert(id);
            else
              s.meantSo.erase(id);
          }};
}

}  // namespace heft
