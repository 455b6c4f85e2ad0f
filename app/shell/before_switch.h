#pragma once
/// What is heard instead of now: Before, of a stage or of all, a state, a version, a way, or now without a
/// value.

#include <optional>

#include "app/document/document.h"
#include "app/play/reference_ear.h"
#include "app/play/transport.h"

namespace heft::app {

class BeforeSwitch {
 public:
  enum class Heard { Stage, All, Other };

  BeforeSwitch(Document& document, Transport& transport, ReferenceEar& ear)
      : document_(document), transport_(transport), ear_(ear) {}

  /// On, or off where the same is heard already; another kind takes over. Nothing without an edit.
  void toggle(Heard kind, const std::optional<Edit>& before);
  void toggle(const std::optional<Edit>& other) { toggle(Heard::Other, other); }
  /// A way is heard, or no longer.
  void hear(const std::optional<Edit>& way);
  /// Before of a stage, by the header's buttons.
  void hearStage(bool before, const Edit& stage);
  /// Another stage is shown: Before follows it.
  void follow(const Edit& stage);

 private:
  Document& document_;
  Transport& transport_;
  ReferenceEar& ear_;
  Heard heard_ = Heard::Stage;
};

}  // namespace heft::app
