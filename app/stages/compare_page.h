#pragma once
/// Compare: the floor. The references' median is straightened and the mix stands above or sinks below it.

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"

class QHBoxLayout;

namespace heft::app {

class FloorPicture : public Picture {
  Q_OBJECT
 public:
  FloorPicture(Document& document, Selection& selection);
  bool isPlain() const { return plain_; }
  void setPlain(bool plain) { plain_ = plain, update(); }
  void markBand(int band) { marked_ = band, update(); }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Areas {
    QRectF plot;
    Axis hz, level;
    double bandY = 0;
  };
  Areas areas(const Study& s) const;
  void drawGrid(QPainter& p, const Areas& a) const;
  void drawCurves(QPainter& p, const Areas& a, const Study& s) const;
  void drawBands(QPainter& p, const Areas& a, const Study& s) const;
  void drawLegend(QPainter& p, const Areas& a, const Study& s) const;
  bool floorShown(const Study& s) const { return !plain_ && s.anyReference(); }
  bool plain_ = false;
  int marked_ = -1;
};

class ComparePage : public StagePage {
  Q_OBJECT
 public:
  ComparePage(Document& document, Selection& selection);
  void mark(const Finding& finding) override;

 protected:
  QString subtitle() const override;

 private:
  void addReferences();
  void removeReference();
  FloorPicture* picture_;
};

}  // namespace heft::app
