#pragma once
/// Rows for all parts beside kick and bass; many scroll. Hidden without any.

#include <QScrollArea>

#include "app/stages/sounds/slip_row.h"

class QVBoxLayout;

namespace heft::app {

class OtherParts : public QScrollArea {
  Q_OBJECT
 public:
  OtherParts(LayerChoice& choice, Selection& selection);
  /// Shows no more rows than these at once.
  void setMostRows(int rows);

 private:
  void refresh();
  void fit();
  LayerChoice& choice_;
  Selection& selection_;
  QVBoxLayout* layout_;
  std::vector<SlipRow*> rows_;
  QString shown_;  ///< ids and names that the rows were made for
  int mostRows_ = 2;
};

}  // namespace heft::app
