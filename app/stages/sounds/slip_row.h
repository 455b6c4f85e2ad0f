#pragma once
/// A part's row in Sounds: its name, its versions, its slips.

#include "app/desk/layer_choice.h"
#include "app/theme/theme.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;
class QLabel;

namespace heft::app {

class Selection;

/// A part's row: its name, its versions, its slips.
class SlipRow : public QWidget {
  Q_OBJECT
 public:
  SlipRow(Place place, LayerChoice& choice, Selection& selection);
  /// Makes slips for the present layers.
  void rebuild();
  Place place() const { return place_; }

 protected:
  void contextMenuEvent(QContextMenuEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void changeEvent(QEvent*) override;

 private:
  void showName();
  Light light_ = light();  // whose ink the name has
  void versionsMenu();
  void chooseVersion(int entry);
  Place place_;
  LayerChoice& choice_;
  Selection& selection_;
  QHBoxLayout* slips_;
  std::vector<int> shown_;
  ValueField* version_ = nullptr;
  QLabel* name_ = nullptr;
};

}  // namespace heft::app
