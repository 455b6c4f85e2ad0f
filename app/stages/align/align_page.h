#pragma once
/// Align: kick and bass brought into phase.

#include <array>

#include "app/stages/stage_page.h"

class QPushButton;

namespace heft::app {

class AlignPicture;
class AlignWaysPicture;
class BestWays;
class HandOverPicture;
class PeakTurnPicture;
class TwoSoundsPicture;

class AlignPage : public StagePage {
  Q_OBJECT
 public:
  AlignPage(Document& document, Selection& selection);
  /// The view: crests and map, ways to align, Hand-over, Two sounds, or Lower peak.
  enum class View { Pair, Ways, HandOver, Two, Peak };
  void show(View view);
  View view() const { return view_; }
  void mark(const Finding& finding) override;
  void refresh() override;
  /// The loop without the view's effect: its peak all-pass, its hand-over; nothing where none is on.
  std::optional<Edit> without() const;

 protected:
  QString subtitle() const override;
  /// Number keys play the best ways from anywhere on the page.
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void buildPictures();
  FieldSpec freeTurnField();
  void addMoveFields();
  void addTurnFields();
  void addLevelFields();
  void addHandOverFields();
  QPushButton* makeViewButton(const QString& name, View view, const QString& tip);
  QPushButton* makeBestButton();
  QPushButton* makeClearButton();
  AlignPicture* crests_ = nullptr;
  AlignWaysPicture* ways_ = nullptr;
  BestWays* best_ = nullptr;
  HandOverPicture* handOver_ = nullptr;
  TwoSoundsPicture* two_ = nullptr;
  PeakTurnPicture* peak_ = nullptr;
  QPushButton *waysButton_ = nullptr, *handOverButton_ = nullptr, *twoButton_ = nullptr, *peakButton_ = nullptr;
  View view_ = View::Pair;
  std::array<bool, 2> turns_{};  ///< which of the two have a Q to show
};

}  // namespace heft::app
