#pragma once
/// The six stages in working order, each with the mark that sums up its Ledger lines.

#include <QWidget>

#include "app/document/document.h"

namespace heft::app {

class StageList : public QWidget {
  Q_OBJECT
 public:
  explicit StageList(Document& document, QWidget* parent = nullptr);
  void setCurrent(Stage stage);

 Q_SIGNALS:
  void chosen(Stage stage);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF rowOf(int stage) const { return QRectF(0, 14 + 44.0 * stage, width(), 44); }
  Document& document_;
  int current_ = 0;
};

}  // namespace heft::app
