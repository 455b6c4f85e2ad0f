#pragma once
/// Tune: the notes of kick and bass, and the kick moved onto one of them.

#include "app/stages/stage_page.h"

class QPushButton;
class QScrollArea;

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
  void rebuildParts();
  FlowLayout* targets_;
  QString shownTargets_;
  // Parts beside the pair that play hits, where there are any.
  QScrollArea* partArea_;
  QWidget* partRow_;
  FlowLayout* parts_;
  QPushButton* tuneParts_;
  std::vector<ValueField*> partFields_;
  QString shownParts_;
};

}  // namespace heft::app
