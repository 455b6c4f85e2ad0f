#pragma once
/// Offers beside a picture that number keys play in the running loop: what is heard is kept by Return, dropped
/// by Esc, and 0 plays what the number stands against.

#include "app/stages/stage_page.h"

namespace heft::app {

class NumberedOffers : public Picture {
  Q_OBJECT
 public:
  NumberedOffers(Document& document, Selection& selection, const QString& name);
  /// Numbers hear, Return takes what is heard, Esc drops it. False for other keys.
  bool takeKey(int key);
  /// The number that is heard; nothing: the loop as it is.
  std::optional<int> heardNumber() const { return heard_; }
  void drop();
  /// Where the offer of a number is, from 1; tests press there.
  virtual QRectF cell(int number) const = 0;

 Q_SIGNALS:
  /// The loop with an offer; nothing: as it is.
  void heard(const std::optional<heft::Edit>& edit);

 protected:
  virtual int count() const = 0;
  /// What that number does; nothing where it cannot be heard now. 0 too, where it is more than dropping what is
  /// heard.
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
