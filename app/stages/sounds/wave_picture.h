#pragma once
/// A recorded layer's wave, with its start, its fades and, for a kick, its length to drag. Also the backing's.

#include <optional>

#include "app/desk/layer_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class WavePicture : public Picture {
  Q_OBJECT
 public:
  enum class Grip { None, Length, Start, FadeIn, FadeOut, Cut, Bend, Point };
  WavePicture(LayerChoice& choice, Selection& selection);
  /// The handle of the kick's length; tests drag it.
  QPointF lengthHandle() const { return handle(Grip::Length); }
  QPointF handle(Grip grip) const;
  /// A point of the fade: its share of the way, its gain, and its position.
  QPointF fadePlace(double at, double gain) const;
  QPointF fadePoint(size_t index) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;

 private:
  void takeSound();
  Axis timeAxis() const;
  Axis wholeAxis() const;
  /// Zooms in by a factor under 1 around that moment.
  void zoom(double factor, double ms);
  void scrollTo(double fromMs);
  QRectF plot() const { return QRectF(QPointF(64, 24), QPointF(width() - 16.0, height() - 28.0)); }
  bool isKick() const { return choice_.playsHits(); }
  double lengthMs() const;
  double endMs() const;  ///< of the file
  Grip gripAt(const QPointF& at) const;
  void setLength(double ms, bool snap);
  void drag(const QPointF& at, bool free);
  void drawHandles(QPainter& p) const;
  /// Of a split layer: which side of the cut it is, and the other side's sound.
  const SoundSide* split() const;
  void drawCut(QPainter& p) const;
  /// The fade of a trimmed tail.
  const Recorded* trimmed() const;
  void drawFade(QPainter& p) const;
  std::optional<size_t> fadePointAt(const QPointF& at) const;
  void dragFadePoint(const QPointF& at);
  bool moveFadePointBy(QKeyEvent* event);

  LayerChoice& choice_;
  double soundsMs_ = 0.0;                             ///< until it is 60 dB down, and a little more
  std::shared_ptr<const AudioBuffer> sound_, other_;  ///< the other side of a cut
  double onsetSeconds_ = 0.0;
  double tailMs_ = 0.0;  ///< of the kick layer alone
  Grip grip_ = Grip::None;
  std::optional<size_t> point_;  ///< of the fade, by mouse or keyboard
  std::optional<Axis> heldTime_;
  std::optional<std::pair<double, double>> view_;  ///< ms; nothing: all of it
  std::pair<Place, int> viewOf_;                   ///< of that sound
  double grippedMs_ = 0.0, grippedValue_ = 0.0, grippedY_ = 0.0;
};

}  // namespace heft::app
