#pragma once
/// The Ledger: what can be fixed, worst first; what is left to the ear; what is in range, folded. Lines stay
/// where they are while somebody is at them: what was fixed keeps its place, marked, until the pointer leaves.

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
  /// The list of fixes is wanted.
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
  std::vector<LedgerLine*> lines_;             ///< in the order in which they stand
  std::map<std::string, LedgerGroup> groups_;  ///< as they were when all fixes had been tried
  bool unfolded_ = false;                      ///< what is in range
  QLabel *empty_, *state_;
  QPushButton* mendAll_;
  std::string pressed_;  ///< the line whose fix was pressed last, while the next one is looked for
};

}  // namespace heft::app
