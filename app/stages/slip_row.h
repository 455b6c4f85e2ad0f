#pragma once
/// A part's row in Sounds: its name, its versions, its slips.

#include "app/stages/layer_choice.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;

namespace heft::app {

class Selection;

/// A part's row: its name, its versions, its slips.
class SlipRow : public QWidget {
  Q_OBJECT
 public:
  SlipRow(Place place, LayerChoice& choice, Selection& selection);
  /// Makes slips for the layers that there are now.
  void rebuild();

 private:
  void versionsMenu();
  void chooseVersion(int entry);
  Place place_;
  LayerChoice& choice_;
  Selection& selection_;
  QHBoxLayout* slips_;
  std::vector<int> shown_;
  ValueField* version_ = nullptr;
};

}  // namespace heft::app
