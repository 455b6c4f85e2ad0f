#pragma once
/// Align: kick and bass made to push the speaker the same way.

#include "app/stages/stage_page.h"

class QPushButton;

namespace heft::app {

class AlignPicture;
class AlignWaysPicture;
class HandOverPicture;

class AlignPage : public StagePage {
  Q_OBJECT
 public:
  AlignPage(Document& document, Selection& selection);
  /// What is looked at: crests and map, the ways to line up, or how the kick hands over.
  enum class View { Pair, Ways, HandOver };
  void show(View view);
  View view() const { return view_; }
  void mark(const Finding& finding) override;

 protected:
  QString subtitle() const override;

 private:
  void buildPictures();
  void addMoveFields();
  void addTurnFields();
  void addLevelFields();
  void addHandOverFields();
  QPushButton* makeViewButton(const QString& name, View view, const QString& tip);
  QPushButton* makeBestButton();
  QPushButton* makeClearButton();
  AlignPicture* crests_ = nullptr;
  AlignWaysPicture* ways_ = nullptr;
  HandOverPicture* handOver_ = nullptr;
  QPushButton *waysButton_ = nullptr, *handOverButton_ = nullptr;
  View view_ = View::Pair;
};

}  // namespace heft::app
