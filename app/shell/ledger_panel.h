#pragma once
/// The Ledger: one line per finding with its mark, its figures, its remedy and "intended". Lines stay where
/// they are while somebody is at them: what was mended keeps its place, marked, until the pointer leaves.

#include <QWidget>

#include "app/document/document.h"
#include "app/theme/theme.h"

class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace heft::app {

/// One line. Click: its stage opens. The remedy is a button, "intended" stands beneath it.
class LedgerLine : public QWidget {
  Q_OBJECT
 public:
  LedgerLine(Finding finding, Document& document, QWidget* parent = nullptr);
  const Finding& finding() const { return finding_; }
  void setFinding(const Finding& finding);
  /// A line that is gone: it rests here, marked as mended.
  void setMended();
  bool isMended() const { return mended_; }
  /// The button of a remedy that can be pressed; nothing without one.
  QPushButton* openRemedy() const;

 Q_SIGNALS:
  void opened(const heft::Finding& finding);
  void remedyPressed();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void changeEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  void refresh();
  Finding finding_;
  Document& document_;
  bool mended_ = false;
  Light light_ = Light::Paper;  // that its inks are of
  QLabel *sentence_, *figures_, *price_;
  QPushButton *fix_, *meant_;
};

class LedgerPanel : public QWidget {
  Q_OBJECT
 public:
  explicit LedgerPanel(Document& document, QWidget* parent = nullptr);
  void rebuild();
  /// Does nothing where no line is open.
  void mendAll();

 Q_SIGNALS:
  void opened(const heft::Finding& finding);

 protected:
  void paintEvent(QPaintEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  void refreshState();
  void startAnew();
  bool isHeld() const;
  void placeLines();
  void focusNextRemedy();
  LedgerLine* lineOf(const std::string& id) const;
  LedgerLine* addLine(const Finding& finding);
  Document& document_;
  QScrollArea* scroll_;
  QVBoxLayout* column_;
  std::vector<LedgerLine*> lines_;  ///< in the order in which they stand
  QLabel *empty_, *state_;
  QPushButton* mendAll_;
  std::string pressed_;  ///< the line whose remedy was pressed last, while the next one is looked for
};

}  // namespace heft::app
