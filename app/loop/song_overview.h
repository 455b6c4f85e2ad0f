#pragma once
/// A long loop or a song as a whole: its sections as dimensions, what sounds, the region that repeats, and
/// which part of it the strip beneath shows.

#include <QWidget>

#include "app/loop/loop_strip.h"

class QMenu;

namespace heft::app {

class SongOverview : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  SongOverview(Document& document, Transport& transport, LoopStrip& strip, QWidget* parent = nullptr);

  /// Whether the track is long enough for it: a song, or more than kShortBars.
  bool isWanted() const;
  static constexpr int kShortBars = 8;
  /// The sections, for screen readers.
  std::vector<AccessibleItem> accessibleItems() const override;
  /// Positions for tests.
  QPointF at(double quarters) const { return {timeAxis().pixel(quarters), 0.5 * (kWaveTop + kWaveBottom)}; }
  QPointF nameAt(double quarters) const { return {timeAxis().pixel(quarters), 0.5 * kSections}; }
  QPointF gripAt(double quarters) const { return {timeAxis().pixel(quarters), kGripY}; }

  /// A section of the region, or of eight bars from the playhead.
  void addSectionHere();
  /// The section under the playhead becomes the region, or is none any longer.
  void repeatSection();
  /// To the next border of a section, or the one before.
  void goToSection(int way);
  void goToBar(int way);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  static constexpr double kHead = LaneRows::kHead, kRight = LaneRows::kRight;
  static constexpr double kSections = 20.0, kWaveTop = 24.0, kWaveBottom = 62.0, kTicks = 67.0, kGripY = 73.0,
                          kHeight = 84.0;
  enum class Grip { None, Region, RegionFrom, RegionTo, SectionFrom, SectionTo };

  const Session& session() const { return document_.session(); }
  const Track& track() const { return document_.track(); }
  Axis timeAxis() const;
  double toBar(double quarters) const;
  const TrackSection* sectionAt(const QPointF& at) const;
  Grip gripOn(const QPointF& at) const;
  void setRegion(double a, double b);
  void rename(const TrackSection& section);
  void fillMenu(QMenu& menu, const TrackSection* section);
  void fillChoices(QMenu& menu, const TrackSection& section);
  void refresh();

  void drawHead(QPainter& p) const;
  void drawSections(QPainter& p) const;
  void drawWaves(QPainter& p) const;
  void drawHits(QPainter& p) const;
  void drawRegion(QPainter& p) const;
  void drawView(QPainter& p) const;
  void followPlayhead();

  Document& document_;
  Transport& transport_;
  LoopStrip& strip_;
  ValueField* region_;
  Grip grip_ = Grip::None;
  int section_ = 0;  ///< whose border is dragged
  double pressX_ = 0.0;
  bool dragged_ = false;
  std::optional<double> playheadX_;
};

}  // namespace heft::app
