#pragma once
/// The hits of a Ledger line as numbers to step through: those that are not in range underlined, the chosen one
/// inverted.

#include <QWidget>

#include "core/judge/ledger.h"

namespace heft::app {

class HitRow : public QWidget {
  Q_OBJECT
 public:
  explicit HitRow(QWidget* parent = nullptr);
  /// The visible hits: all where there are few, else as many of those not in range as fit.
  void setHits(const std::vector<HitLine>& hits);
  bool isEmpty() const { return shown_.empty(); }
  /// The next or previous hit not in range; nothing without one.
  std::optional<int> step(int way);
  /// Position of a hit's number; tests press there.
  QRectF cell(int hit) const;
  QSize sizeHint() const override;

 Q_SIGNALS:
  void chosen(int hit);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void resizeEvent(QResizeEvent*) override { fit(); }

 private:
  void fit();
  std::vector<HitLine> hits_, shown_;
  size_t more_ = 0;  ///< bad ones that did not fit
  std::optional<int> chosen_;
};

}  // namespace heft::app
