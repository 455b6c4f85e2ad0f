#pragma once
/// Data behind the pictures of sounds, made with the figures and never in a widget.

#include <string>
#include <vector>

#include "core/render/sounds/sounds.h"
#include "core/shape/sides.h"

namespace heft {

/// One layer on its own.
struct LayerSound {
  int part = 1, layer = 1;
  /// As heard for layers that play hits and for a built bass; for a recorded bass the recording. Empty
  /// without a sound, or where a built bass has no note.
  std::shared_ptr<const AudioBuffer> sound;
  double onsetSeconds = 0.0;
  std::string asset = {};  ///< hash of its recording's file; empty for a built one
  /// Own tail of a layer that plays hits, at the recording's landing before any shift; empty until measured.
  struct Figures {
    double tailMs = 0.0;
    std::optional<double> recordedHz = {};
    std::optional<double> strikeEndMs = {};  ///< of a recording that plays hits: where its strike is over
    std::optional<JointFacts> joint = {};    ///< of a split layer: how its two sides meet
  };
  std::optional<Figures> figures = {};
};
/// For all layers. `withFigures` also measures each recording not measured before.
std::vector<LayerSound> layerSounds(const Session& session, const Assets& assets, StepCache& cache,
                                    bool withFigures);
/// Layers not measured yet take the figures that the same sound had in the same place.
void keepFigures(std::vector<LayerSound>& layers, const std::vector<LayerSound>& before);

/// A sound drawn over others.
struct SoundLook {
  int id = 0;  ///< of the layer, or the place of the version
  std::string name;
  double sampleRate = 48000.0;
  std::vector<float> strike;  ///< from kLookLeadMs before its onset (the part's, of a layer) to kLookMs after
  std::vector<double> spectrum;  ///< spectrumOf()
  std::vector<std::string> figures;
};
inline constexpr double kLookMs = 30.0, kLookLeadMs = 2.0;
/// The part's audible layers at their levels, at a full hit or the first phrase.
std::vector<SoundLook> layerLooks(const Session& session, int part, const Assets& assets, StepCache& cache);
/// The part and another of its versions, with their difference below 120 Hz; fewer where one has no sound.
std::vector<SoundLook> versionLooks(const Session& session, int part, size_t version, const Assets& assets,
                                    StepCache& cache);

}  // namespace heft
