#pragma once
/// Tune: the notes of kick and bass, and the kick moved onto one of them.

#include "app/stages/stage_page.h"

namespace heft::app {

class FlowLayout;

class TunePage : public StagePage {
  Q_OBJECT
 public:
  TunePage(Document& document, Selection& selection);
  void refresh() override;

 protected:
  QString subtitle() const override;

 private:
  void rebuildTargets();
  FlowLayout* targets_;
  QString shownTargets_;
};

}  // namespace heft::app
