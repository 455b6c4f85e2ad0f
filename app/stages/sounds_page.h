#pragma once
/// Sounds: slips for kick, bass and backing, and the chosen sound's wave drawn large with its length to drag.

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"

namespace heft::app {

/// One sound of the session on a slip: thumbnail, name, landing note, level. A dashed slip waits for a file.
class Slip : public Picture {
  Q_OBJECT
 public:
  Slip(Role role, Document& document, Selection& selection);
  Role role() const { return role_; }
  void setChosen(bool chosen) { chosen_ = chosen, update(); }
  QSize sizeHint() const override { return {236, 76}; }

 Q_SIGNALS:
  void chosen(Role role);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dragLeaveEvent(QDragLeaveEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void browse();
  Role role_;
  bool chosen_ = false, over_ = false;
};

class WavePicture : public Picture {
  Q_OBJECT
 public:
  WavePicture(Document& document, Selection& selection);
  void show(Role role) { role_ = role, update(); }
  Role role() const { return role_; }
  /// The handle of the kick's length; tests drag it.
  QPointF lengthHandle() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Shown {
    const AudioBuffer* sound = nullptr;
    double onsetSeconds = 0.0;
    QColor colour;
  };
  Shown shown() const;
  Axis timeAxis() const;
  QRectF plot() const { return QRectF(QPointF(64, 24), QPointF(width() - 16.0, height() - 28.0)); }
  double lengthMs() const;
  void setLength(double ms, bool snap);
  Role role_ = Role::Kick;
  bool dragging_ = false;
};

class SoundsPage : public StagePage {
  Q_OBJECT
 public:
  SoundsPage(Document& document, Selection& selection);
  void mark(const Finding& finding) override;

 protected:
  QString subtitle() const override;

 private:
  void choose(Role role);
  Layer* layerOf(Session& s) const;
  const Layer* layer() const;
  std::vector<Slip*> slips_;
  WavePicture* wave_;
};

}  // namespace heft::app
