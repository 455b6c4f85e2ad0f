#pragma once
/// Align: kick and bass made to push the speaker the same way.

#include "app/stages/stage_page.h"

class QPushButton;

namespace heft::app {

class AlignPicture;
class AlignWaysPicture;

class AlignPage : public StagePage {
  Q_OBJECT
 public:
  AlignPage(Document& document, Selection& selection);
  /// Instead of the crests and the map.
  void showWays(bool shown);

 protected:
  QString subtitle() const override;

 private:
  void buildPictures();
  void addMoveFields();
  void addTurnFields();
  void addLevelFields();
  QPushButton* makeBestButton();
  QPushButton* makeClearButton();
  AlignPicture* crests_ = nullptr;
  AlignWaysPicture* ways_ = nullptr;
  QPushButton* waysButton_ = nullptr;
};

}  // namespace heft::app
