#pragma once
/// Kept states of the session: kept by a key, heard against now, gone back to.

#include <QMenu>
#include <QObject>

#include "app/document/document.h"
#include "app/shell/before_switch.h"

namespace heft::app {

class KeptStates : public QObject {
  Q_OBJECT
 public:
  KeptStates(Document& document, BeforeSwitch& before) : document_(document), before_(before) {}
  void addTo(QMenu& edit);

 private:
  void keep();
  void goBackTo(size_t index);
  void hear(size_t index);
  void rename(size_t index, QWidget* over);

  Document& document_;
  BeforeSwitch& before_;
  size_t latest_ = 0;  ///< kept or visited last
};

}  // namespace heft::app
