#pragma once
/// The pitch field: one note axis shared by pitch over time and the spectrum stood upright.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"
#include "core/session/value_at.h"
#include "core/tune/path_edit.h"

namespace heft::app {

class PitchField : public Picture {
  Q_OBJECT
 public:
  PitchField(Document& document, Selection& selection);
  /// Position of the landing marker, in the widget; tests drag it.
  QPointF markerAt() const;
  /// Further grips: the strike's length and pitch, the tail's drift. Nothing where one is not available.
  enum class Grip { None, Marker, Length, Raise, Flatten, Landing, Band };
  std::optional<QPointF> handle(Grip grip) const;
  /// A place in the upright spectrum, where a drag sets the band.
  QPointF spectrumAt(double hz) const;
  double yOfMidi(double midi) const { return axes().note.pixel(midi); }
  /// The playhead, in quarters; nothing while nothing plays.
  void setPlayhead(std::optional<double> quarters);
  /// The hit whose kick and bass are drawn: of a song that plays, the one that sounds; the chosen one
  /// otherwise, and under a hand.
  int shownHit() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Axes {
    Axis note, time, level;
    QRectF left, right;
  };
  Axes axes() const;
  void drawNotes(QPainter& p, const Axes& a) const;
  void drawPaths(QPainter& p, const Axes& a) const;
  void drawLegend(QPainter& p, const Axes& a) const;
  const HitFacts* shown() const;
  void drawSpectra(QPainter& p, const Axes& a) const;
  void drawMarker(QPainter& p, const Axes& a) const;
  std::optional<double> landingMidi() const;
  double highestMidi() const;
  /// The recording's landing on its path, ms from its first sample: hand-set, or where the path first reaches
  /// its note.
  std::optional<double> landingMoment() const;
  void nameLanding(double ms);
  std::optional<double> shownTarget() const;
  void drawHandles(QPainter& p, const Axes& a) const;
  void drawBand(QPainter& p, const Axes& a) const;
  Grip gripAt(const QPointF& at) const;
  void dragTo(const QPointF& at, bool free);
  const Layer* recorded() const;
  std::optional<Owner> kickOwner() const;
  /// A value of the kick's first layer.
  void put(const std::string& name, const std::string& key, const Value& value, const std::string& merge = {});
  std::optional<DriftPoint> tailDrift() const;
  void setTarget(double midi, bool exact, const QString& mergeKey);
  Grip grip_ = Grip::None;
  QPointF pressed_;
  double gripValue_ = 0.0;
  std::optional<double> playhead_;
};

}  // namespace heft::app
