#pragma once
/// Align: kick and bass made to push the speaker the same way.

#include "app/stages/stage_page.h"

namespace heft::app {

class AlignPage : public StagePage {
  Q_OBJECT
 public:
  AlignPage(Document& document, Selection& selection);

 protected:
  QString subtitle() const override;

 private:
  void addMoveFields();
  void addLevelFields();
  void addBestButton();
};

}  // namespace heft::app
