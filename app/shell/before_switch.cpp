#include "app/shell/before_switch.h"

namespace heft::app {

void BeforeSwitch::toggle(Heard kind, const std::optional<Edit>& before) {
  if (!before) return;
  const bool same = heard_ == kind && (kind != Heard::Other || document_.before().name == before->name);
  const bool on = !transport_.isBefore() || !same || ear_.heard();
  heard_ = kind;
  ear_.hear(std::nullopt);
  if (on) document_.setBefore(*before);
  transport_.setBefore(on);
}

void BeforeSwitch::hear(const std::optional<Edit>& way) {
  heard_ = Heard::Other;
  if (way) document_.setBefore(*way);
  transport_.setBefore(way.has_value());
}

void BeforeSwitch::hearStage(bool before, const Edit& stage) {
  heard_ = Heard::Stage;
  if (before) document_.setBefore(stage);
  ear_.setHidden(false), ear_.hear(std::nullopt);
  transport_.setBefore(before);
}

void BeforeSwitch::follow(const Edit& stage) {
  if (transport_.isBefore() && heard_ == Heard::Stage) document_.setBefore(stage);
}

}  // namespace heft::app
