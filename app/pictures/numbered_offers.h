#pragma once
/// Choices beside a picture that number keys audition in the running loop: Return keeps, Esc drops, and 0
/// plays the reference.

#include "app/pictures/picture.h"

namespace heft::app {

class NumberedOffers : public Picture {
  Q_OBJECT
 public:
  NumberedOffers(Document& document, Selection& selection, const QString& name);
  /// Numbers audition, Return keeps, Esc drops. False for other keys.
  bool takeKey(int key);
  /// The auditioned number; empty: the loop unchanged.
  std::optional<int> heardNumber() const { return heard_; }
  void drop();
  /// Where the offer of a number is, from 1; tests press there.
  virtual QRectF cell(int number) const = 0;

 Q_SIGNALS:
  /// The loop with an offer; empty: unchanged.
  void heard(const std::optional<heft::Edit>& edit);

 protected:
  virtual int count() const = 0;
  /// The edit of that number; nothing where it cannot be auditioned now. For 0 too, where that does more than
  /// drop the audition.
  virtual std::optional<Edit> editOf(int number) const = 0;
  void hear(int number);
  /// To the next one, or the one before, 0 among them.
  void step(int way);
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;

 private:
  void take();
  std::optional<int> heard_;
  Session heardFor_;
};

}  // namespace heft::app
