#pragma once
/// A row for the part beside kick and bass that is in hand: its layers' slips, and which of those parts it is.
/// Not there while there are none.

#include "app/stages/slip_row.h"

class QHBoxLayout;

namespace heft::app {

class OtherParts : public QWidget {
  Q_OBJECT
 public:
  OtherParts(LayerChoice& choice, Selection& selection);

 protected:
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  void refresh();
  std::vector<int> others() const;
  LayerChoice& choice_;
  Selection& selection_;
  QHBoxLayout* layout_;
  SlipRow* row_ = nullptr;
  ValueField* which_;
  std::optional<int> shown_;  ///< id of the part in the row
  QString shownName_;  ///< as it was called when the row was made
};

}  // namespace heft::app
