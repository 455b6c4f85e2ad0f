#pragma once
/// Any two sounds around an event of the first, their sum, and their correlation over frequency: in place and
/// after the proposed move.

#include "app/document/aside.h"
#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "core/solve/two_sounds.h"

namespace heft::app {

/// "+1.20 ms, inverted"; "unchanged".
QString moveWords(const AlignAnswer& move);

class TwoSoundsPicture : public Picture {
  Q_OBJECT
 public:
  TwoSoundsPicture(Document& document, Selection& selection);
  /// Which one stays and which moves; missing ones fall back to the first two.
  SoundRef first() const { return chosen(0); }
  SoundRef second() const { return chosen(1); }
  void choose(bool second, const SoundRef& sound);
  /// Nothing while it is measured, or where it cannot be.
  const TwoSounds* found() const { return found_ ? &*found_ : nullptr; }
  bool isMeasuring() const { return aside_.isRunning(); }
  QString problem() const { return problem_; }
  void useBest();
  void lineUpStrikes();
  QRectF wavesArea() const;

 Q_SIGNALS:
  void measured();

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override { measure(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  SoundRef chosen(size_t which) const;
  void measure();
  void move(double byMs, bool turnOver, const std::string& mergeKey = {});
  QRectF bandsArea() const;
  Axis time() const;
  const TwoSounds::Wave* wave() const;
  QColor inkOf(const SoundRef& sound) const;
  void drawWaves(QPainter& p) const;
  void drawBands(QPainter& p) const;
  QPolygonF bandLine(const QRectF& area, const AlignAnswer& move) const;

  SoundRef refs_[2] = {{0, {}}, {0, {}}};
  std::optional<TwoSounds> found_;
  QString problem_;
  LatestAside aside_;
  std::optional<double> dragX_;
  double movedMs_ = 0.0;  ///< since the drag began, in the picture
};

}  // namespace heft::app
