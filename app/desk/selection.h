#pragma once
/// What is chosen in all stages alike.

#include <QObject>

namespace heft::app {

/// State shared by the stages besides the document: the selected hit and ducking.
class Selection : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  int hit() const { return hit_; }
  void setHit(int hit) {
    if (hit == hit_) return;
    hit_ = hit;
    Q_EMIT changed();
  }
  int duck() const { return duck_; }
  void setDuck(int id) {
    if (id == duck_) return;
    duck_ = id;
    Q_EMIT changed();
  }

 Q_SIGNALS:
  void changed();

 private:
  int hit_ = 0;
  int duck_ = 1;
};

}  // namespace heft::app
