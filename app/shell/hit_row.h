#pragma once
/// The hits of a Ledger line as numbers to step through: those that are not in range underlined, the chosen one
/// inverted. In a song with sections, the sections instead, each with the count of its hits out of range.

#include <QWidget>
#include <algorithm>

#include "core/judge/ledger.h"

namespace heft::app {

class HitRow : public QWidget {
  Q_OBJECT
 public:
  explicit HitRow(QWidget* parent = nullptr);
  /// The visible hits: all where there are few, else as many of those not in range as fit, and of sections
  /// those with any.
  void setHits(const std::vector<HitLine>& hits);
  bool isEmpty() const { return shown_.empty(); }
  bool bySection() const;
  /// The next or previous hit not in range; nothing without one.
  std::optional<int> step(int way);
  /// Position of a hit's number, or of its section; tests press there.
  QRectF cell(int hit) const;
  QSize sizeHint() const override;

 Q_SIGNALS:
  void chosen(int hit);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void resizeEvent(QResizeEvent*) override { fit(); }

 private:
  struct Cell {
    QString text;
    std::vector<int> hits;  ///< the first is the one that a click shows
    Verdict verdict = Verdict::Holds;
    QRectF box = {};
    bool has(int hit) const { return std::find(hits.begin(), hits.end(), hit) != hits.end(); }
  };
  std::vector<Cell> cellsOfHits() const;
  std::vector<Cell> cellsOfSections() const;
  QStringList badOnes() const;
  void fit();
  void lay();
  void paint(QPainter& p, const Cell& cell) const;

  std::vector<HitLine> hits_;
  std::vector<Cell> shown_;
  size_t more_ = 0;  ///< bad ones that did not fit
  std::optional<int> chosen_;
};

}  // namespace heft::app
