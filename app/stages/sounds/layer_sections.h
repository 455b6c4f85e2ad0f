#pragma once
/// The values of the chosen layer and of its processors as fields, in sections: one section is shown at a time.

#include <vector>

#include "app/desk/layer_choice.h"
#include "app/fields/value_fields.h"

namespace heft::app {

/// The section with the bass line's loudness instead of a sound.
inline constexpr const char* kLineSection = "Loudness";
/// The section with the gain over each note.
inline constexpr const char* kContourSection = "Contour";

struct FieldSection {
  QString name;  ///< on its tab
  /// Whether its section is on; nothing for sections without a switch.
  std::function<std::optional<bool>()> isIn;
  std::vector<FieldSpec> fields;

  /// The loop without anything that this section can bypass.
  std::optional<Edit> without() const;
};

/// Sections of the chosen sound, without its processors.
std::vector<FieldSection> sectionsOf(LayerChoice& choice);

/// Of a processor, or of all of a layer's, a part's or the sum's. `loadBody` asks for a body's sound.
FieldSection processorSection(LayerChoice& choice, const ChainPlace& place,
                              const std::function<void()>& loadBody);
/// The heading over them: a layer's title, a part's, "Sum".
QString chainTitle(const Session& session, const Owner& of);

}  // namespace heft::app
