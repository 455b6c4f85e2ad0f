#pragma once
/// The Ledger: one line per finding with its mark, its figures, its remedy and "meant so".

#include <QWidget>

#include "app/document.h"

class QLabel;
class QVBoxLayout;

namespace heft::app {

class LedgerPanel : public QWidget {
  Q_OBJECT
 public:
  explicit LedgerPanel(Document& document, QWidget* parent = nullptr);
  void rebuild();

 Q_SIGNALS:
  void opened(const heft::Finding& finding);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  Document& document_;
  QVBoxLayout* lines_;
  QLabel* empty_;
};

/// One line. Click: its stage opens. The remedy is a button, "meant so" stands beneath the figures.
class LedgerLine : public QWidget {
  Q_OBJECT
 public:
  LedgerLine(Finding finding, Document& document, QWidget* parent = nullptr);

 Q_SIGNALS:
  void opened(const heft::Finding& finding);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  Finding finding_;
};

}  // namespace heft::app
