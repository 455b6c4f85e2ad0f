#pragma once
/// The Ledger: fixes, worst first; your call; in range, folded. Lines stay in place while the pointer is over
/// them: fixed ones keep their row, marked, until it leaves.

#include <QWidget>
#include <array>
#include <map>

#include "app/shell/ledger_line.h"

class QScrollArea;
class QVBoxLayout;

namespace heft::app {

class LedgerPanel : public QWidget {
  Q_OBJECT
 public:
  explicit LedgerPanel(Document& document, QWidget* parent = nullptr);
  void rebuild();

 Q_SIGNALS:
  void opened(const heft::Finding& finding);
  /// Opens the list of fixes.
  void fixAllAsked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  void buildHead(QVBoxLayout* column);
  void refreshState();
  void refreshHeads();
  void startAnew();
  bool isHeld() const;
  LedgerGroup groupOf(const Finding& finding) const;
  void placeLines();
  void focusNextRemedy();
  void choose(const Finding& finding);
  LedgerLine* lineOf(const std::string& id) const;
  LedgerLine* addLine(const Finding& finding);
  Document& document_;
  QScrollArea* scroll_;
  QVBoxLayout* column_;
  std::array<QPushButton*, 3> heads_{};        ///< of the groups
  std::vector<LedgerLine*> lines_;             ///< in display order
  std::map<std::string, LedgerGroup> groups_;  ///< as they were when all fixes had been tried
  bool unfolded_ = false;                      ///< lines in range
  QLabel *empty_, *state_;
  QPushButton* mendAll_;
  std::string pressed_;  ///< the line whose fix was pressed last, until the next one is found
};

}  // namespace heft::app
