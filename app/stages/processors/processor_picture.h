#pragma once
/// Shared by the pictures of processors: the sound before and after the selected one, measured aside, and
/// edits of its values.

#include "app/desk/layer_choice.h"
#include "app/document/aside.h"
#include "app/pictures/picture.h"
#include "app/pictures/spectrum_axis.h"
#include "core/looks/processor_look.h"
#include "core/session/edits/values.h"

namespace heft::app {

class ProcessorPicture : public Picture {
  Q_OBJECT
 public:
  ProcessorPicture(LayerChoice& choice, Selection& selection, const QString& name);
  /// Of the chosen processor; nothing until it is measured, or without a sound.
  const ProcessorLook* look() const { return look_ && lookedAt_ == choice_.chainPlace() ? &*look_ : nullptr; }
  bool isMeasuring() const { return aside_.isRunning(); }

 protected:
  void showEvent(QShowEvent*) override { measure(); }
  LayerChoice& choice() const { return choice_; }
  /// As it is heard.
  const Processor* processor() const { return choice_.processorIn(choice_.document().heardSession()); }
  template <class T>
  const T* as() const {
    return processor() ? processor()->as<T>() : nullptr;
  }
  /// The words of a picture, with the gain that keeps the loudness where it does.
  QString withKept(const QString& words) const;
  /// Of the part that it works on; of the sum the ink.
  QColor ink() const;
  /// "Measuring..." or where a sound would be drawn.
  void drawNothing(QPainter& p) const;
  /// Values of the chosen processor, by their keys below it; edits of one drag are one step.
  void put(const std::string& name, std::vector<ValuePut> values, bool dragged = false);
  void endDrag() { document().endDrag(); }

 private:
  void measure();
  LayerChoice& choice_;
  std::optional<ProcessorLook> look_;
  std::optional<ChainPlace> lookedAt_;
  LatestAside aside_;
};

}  // namespace heft::app
