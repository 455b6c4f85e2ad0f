#pragma once
/// Duck: what ducks what, when, how deep and for how long.

#include "app/stages/stage_page.h"

class QPushButton;

namespace heft::app {

class DipPicture;
class DuckCards;
class ListenStrip;
class TriggerLane;
class WaysPicture;

class DuckPage : public StagePage {
  Q_OBJECT
 public:
  DuckPage(Document& document, Selection& selection);
  void refresh() override;
  void mark(const Finding& finding) override;
  /// The loop without the chosen ducking.
  Edit withoutChosen() const;
  /// Replaces the pictures of the selected ducking.
  void showWays(bool shown);
  /// Shows the gain reduction at the playhead during playback.
  void follow(Transport& transport);

 protected:
  QString subtitle() const override;

 private:
  void rebuildFields();
  void addButtons();
  void setThresholdForSix();
  void askForTrigger(bool midi);
  DuckCards* cards_ = nullptr;
  ListenStrip* listens_ = nullptr;
  TriggerLane* lane_ = nullptr;
  DipPicture* dip_ = nullptr;
  WaysPicture* ways_ = nullptr;
  QWidget* pictures_ = nullptr;
  QPushButton* addButton_ = nullptr;
  QPushButton* waysButton_ = nullptr;
  QString signature_;
  std::vector<QPushButton*> buttons_;
};

}  // namespace heft::app
