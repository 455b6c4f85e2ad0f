#pragma once
/// Tune: the notes of kick and bass, and the kick moved onto one of them.

#include "app/desk/layer_choice.h"
#include "app/stages/stage_page.h"

class QPushButton;
class QScrollArea;

namespace heft::app {

class FlowLayout;

class PitchField;
class TargetMarks;
class Transport;
class SpectrumPane;

class TunePage : public StagePage {
  Q_OBJECT
 public:
  TunePage(Document& document, Selection& selection);
  void refresh() override;
  /// Shows the hit under the playhead while a song plays.
  void follow(Transport& transport);

 protected:
  QString subtitle() const override;
  /// Number keys play targets from anywhere on the page.
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void rebuildParts();
  void arrange();
  PitchField* field_;
  TargetMarks* targets_;
  // The kick's first layer, which Tune shifts.
  LayerChoice choice_;
  SpectrumPane* spectrum_;
  QPushButton* spectrumButton_;
  // Parts beside the pair that play hits, where there are any.
  QScrollArea* partArea_;
  QWidget* partRow_;
  FlowLayout* parts_;
  QPushButton* tuneParts_;
  std::vector<ValueField*> partFields_;
  QString shownParts_;
};

}  // namespace heft::app
