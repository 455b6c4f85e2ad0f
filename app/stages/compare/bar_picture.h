#pragma once
/// Over the bar: the low band of each track folded over one beat or bar.

#include "app/stages/compare/compare_picture.h"

namespace heft::app {

class BarPicture : public ComparePicture {
  Q_OBJECT
 public:
  BarPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  double belowHz() const { return ask_.belowHz; }
  void setBelowHz(double hz);
  double smoothMs() const { return ask_.smoothMs; }
  void setSmoothMs(double ms);
  bool isOneBeat() const { return oneBeat_; }
  void setOneBeat(bool beat);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void fold();
  Line lineOf(const BarFold& fold) const;
  void drawBeats(QPainter& p, const Axis& x, const QRectF& plot) const;
  struct Dimension {
    QString mine, theirs;
    std::optional<double> ms;  ///< after the hit; nothing: no length
  };
  std::vector<Dimension> dimensions() const;
  std::optional<double> roomiestHit() const;
  void drawDimensions(QPainter& p, const Axis& x, const QRectF& plot) const;
  double quarters() const;
  FoldAsk ask_;
  bool oneBeat_ = false;
  Lines lines_;
  QStringList without_;  ///< references without a tempo
};

}  // namespace heft::app
