#pragma once
/// One sound within a part: a recorded one, or a built voice.

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "core/measure/pitch/landing.h"
#include "core/session/chain.h"
#include "core/shape/layer_shape.h"
#include "core/shape/sides.h"
#include "core/shape/trim.h"
#include "core/theory/time_value.h"
#include "core/tune/retune.h"
#include "core/voices/bass_voice.h"
#include "core/voices/kick_voice.h"

namespace heft {

/// Level range of a layer, a part and the backing, dB.
inline constexpr double kLeastLevelDb = -60.0, kMostLevelDb = 24.0;

/// A recorded sound and how it is played.
struct Recorded {
  AssetRef asset = {};
  std::optional<double> targetMidi = {};  ///< for hits: its target note; empty keeps its pitch
  TuneMethod method = TuneMethod::Varispeed;
  double strikeMs = 10.0;
  double strikeSemitones = 0.0;          ///< the strike's own shift, -24 to 24
  double flatten = 0.0;                  ///< how far a drifting tail is straightened onto its landing, 0 to 1
  LandingOptions band = {};              ///< search band of its landing
  std::optional<double> onsetMs = {};    ///< hand-set time of its strike, 0 to 60000; empty: measured
  std::optional<double> rootMidi = {};   ///< for notes: its hand-set root; empty: measured
  std::optional<TimeValue> length = {};  ///< its length to silence; empty keeps it
  TailFade fade = {};                    ///< how it is shifted
  bool followNotes = true;               ///< for notes: transposed to them; false: always at its own pitch
  double glideMs = 60.0;                 ///< into a tied note; 0 to 2000
  bool keepLength = false;               ///< pitched with its length kept rather than by speed
  double velocityToLevel = 1.0;          ///< 0 to 1
  SoundSide split = {};                  ///< of hits: which side of a cut it plays
  Unknown unknown = {};
  bool operator==(const Recorded&) const = default;
};

inline constexpr double kMostOffsetMs = 200.0;  ///< of a layer, to either side

struct Layer {
  int id = 1;            ///< its own within the part and all its versions; hits name it by this
  std::string name;      ///< instead of the file's name; a built one's only one
  double levelDb = 0.0;  ///< kLeastLevelDb to kMostLevelDb
  bool invert = false;
  bool mute = false;
  bool solo = false;
  double offsetMs = 0.0;        ///< -200 to 200, delay against the part's other layers
  bool betweenSamples = false;  ///< the offset is exact to a fraction of a sample, not rounded
  double semitones = 0.0;       ///< -48 to 48, a shift by speed on top of any target
  std::variant<Recorded, KickVoice, BassVoice> what;
  LayerShape shape;
  Chain chain;
  Unknown unknown;
  bool operator==(const Layer&) const = default;

  /// Its kind's data, or nothing.
  const Recorded* recorded() const { return std::get_if<Recorded>(&what); }
  Recorded* recorded() { return std::get_if<Recorded>(&what); }
  const KickVoice* kickVoice() const { return std::get_if<KickVoice>(&what); }
  KickVoice* kickVoice() { return std::get_if<KickVoice>(&what); }
  const BassVoice* bassVoice() const { return std::get_if<BassVoice>(&what); }
  BassVoice* bassVoice() { return std::get_if<BassVoice>(&what); }

  bool isBuilt() const { return !recorded(); }
  bool isEmpty() const { return recorded() && recorded()->asset.empty(); }
  /// The recording's file; nothing for a built one.
  AssetRef asset() const { return recorded() ? recorded()->asset : AssetRef(); }
  /// Search band of its landing; the default for a built one.
  LandingOptions band() const { return recorded() ? recorded()->band : LandingOptions(); }
  /// Its set length: a built kick's own, a recording's trim; empty where untrimmed.
  std::optional<TimeValue> ownLength() const {
    return kickVoice() ? kickVoice()->length : recorded() ? recorded()->length : std::nullopt;
  }
  /// What people call it.
  std::string title() const { return !name.empty() ? name : asset().name; }
};
/// Names of its kinds in files, in the order of Layer::what.
inline constexpr std::array kLayerKeys = {"recorded", "built_kick", "built_bass"};
/// A layer that plays a sound unchanged.
inline Layer recordedLayer(AssetRef asset) {
  Layer out;
  out.what = Recorded{std::move(asset)};
  return out;
}
inline constexpr size_t kMostLayers = 8;
/// Whether it plays one side of a cut.
inline bool isSide(const Layer& layer) {
  return layer.recorded() && layer.recorded()->split.side != Side::Whole;
}

}  // namespace heft
