#pragma once
/// The keys beside each other: which notes are heavy, and how loud the bass is there.

#include <QDialog>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/solve/key_advice.h"

class QTreeWidget;

namespace heft::app {

/// Measured aside; Return or a double click uses the chosen key.
class KeySheet : public QDialog {
  Q_OBJECT
 public:
  KeySheet(Document& document, QWidget* parent);

 private:
  void fill(const std::vector<KeyAdvice>& keys);
  void useChosen();
  Document& document_;
  QTreeWidget* table_;
  std::vector<KeyAdvice> keys_;
  LatestAside measuring_;
};

}  // namespace heft::app
