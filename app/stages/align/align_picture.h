#pragma once
/// Crests and troughs over one zero line around a hit, and the phase map: delay across, a row per hit, both
/// polarities beside each other under the level of all hits.

#include <array>

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "core/looks/map_rows.h"

namespace heft::app {

class AlignPicture : public Picture {
  Q_OBJECT
 public:
  AlignPicture(Document& document, Selection& selection);
  /// Positions for tests.
  QRectF hillsArea() const { return areas().hills; }
  /// The map of a polarity with a row per hit, and the curve of all hits above it.
  QRectF mapArea(bool inverted) const { return areas().halves[inverted].map; }
  QRectF curveArea(bool inverted) const { return areas().halves[inverted].all; }
  double shownMs() const { return shownMs_; }
  bool isStacked() const { return stacked_; }
  /// The maps with a row per hit; closed, one strip a polarity over all hits.
  bool mapsOpen() const { return mapsOpen_; }
  void openMaps(bool open);
  /// "+3.40 ms is 67 degrees of A1: -2.1 dB": for a point over the map or its curves; empty elsewhere.
  QString wordsAt(const QPointF& at) const;
  double xOfDelay(double ms, bool inverted) const { return areas().halves[inverted].delay.pixel(ms); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  /// One polarity's share of the map.
  struct Half {
    QRectF all, map;
    Axis delay;
  };
  struct Areas {
    QRectF hills;
    Axis time;
    std::array<Half, 2> halves;  ///< normal, turned over
    double rowHeight = 20;
  };
  enum class Drag { None, Bass, Delay, Phase };
  Areas areas() const;
  /// Of the present study; made once for it.
  const std::vector<MapRow>& rows() const;
  size_t rowAt(const Areas& a, double y) const;
  void drawHills(QPainter& p, const Areas& a, const HitFacts& h) const;
  /// One hit's kick and bass in place, and their sum, at that scale.
  struct Hills {
    QPolygonF kick, bass, sum, above, below;
    double most = 1e-6;
  };
  Hills hillsOf(const Areas& a, const HitFacts& h) const;
  void drawStack(QPainter& p, const Areas& a, double scale) const;
  void drawPointed(QPainter& p) const;
  void zoom(double factor);
  void drawHillWords(QPainter& p, const Areas& a, const HitFacts& h) const;
  void drawPeriods(QPainter& p, const Areas& a, const HitFacts& h) const;
  void drawAll(QPainter& p, const Half& half, const Study& s, bool inverted) const;
  void drawMap(QPainter& p, const Areas& a, bool inverted) const;
  void drawStrip(QPainter& p, const Half& half, const Study& s, bool inverted) const;
  void drawLegend(QPainter& p, const Areas& a) const;
  /// Where a press opens or closes the maps.
  QRectF foldArea(const Areas& a) const;
  void drawRowNames(QPainter& p, const Areas& a, const Study& s) const;
  QString rowName(const MapRow& row, const Study& s) const;
  void drawBest(QPainter& p, const Areas& a, const Study& s) const;
  void drawNow(QPainter& p, const Areas& a, const Study& s) const;
  /// The half that contains a point; nothing between them and outside.
  std::optional<bool> polarityAt(const Areas& a, const QPointF& at) const;
  void setDelay(double ms);
  /// Moves to a point on the map, in one step.
  void goTo(double ms, bool inverted);
  double shownMs_ = 240.0;
  bool stacked_ = false;  ///< all hits over each other
  bool mapsOpen_ = false;
  mutable std::vector<MapRow> rows_;
  mutable bool rowsAreOld_ = true;
  std::optional<QPointF> pointer_;
  Drag drag_ = Drag::None;
  bool dragInverted_ = false;
  /// Degrees since the bass drag began; built basses only.
  void turnStart(double degrees);
  QPointF dragFrom_;
  double dragDelay_ = 0.0;
  std::vector<std::pair<int, double>> dragPhases_;  ///< by layer; none where no start phase can be set
};

/// "+1.25 ms".
QString signedMs(double ms);

}  // namespace heft::app
