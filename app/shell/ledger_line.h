#pragma once
/// One line of the Ledger. Its height depends on its words alone: room for its fix and side effect is
/// reserved while fixes are tried, so that nothing moves.

#include <QWidget>

#include "app/document/document.h"
#include "app/theme/theme.h"

class QHBoxLayout;
class QLabel;
class QMenu;
class QPushButton;

namespace heft::app {

class ElidedLabel;
class HitRow;

/// Group of a line.
enum class LedgerGroup { Fix, Call, InRange };

class LedgerLine : public QWidget {
  Q_OBJECT
 public:
  LedgerLine(Finding finding, Document& document, QWidget* parent = nullptr);
  const Finding& finding() const { return finding_; }
  LedgerGroup group() const { return group_; }
  void setFinding(const Finding& finding, LedgerGroup group);
  /// A finished line: it stays here, marked as fixed.
  void setMended();
  bool isMended() const { return mended_; }
  /// The line opened last: it can be marked as intended.
  void setChosen(bool chosen);
  /// The fix button if it is enabled, or nothing.
  QPushButton* openRemedy() const;
  HitRow* hits() const { return hits_; }

 Q_SIGNALS:
  void opened(const heft::Finding& finding);
  void remedyPressed();
  void focused();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  /// Its fix, its other fixes, and whether it is intended: by right click or the menu key.
  void contextMenuEvent(QContextMenuEvent*) override;
  void changeEvent(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override;
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  void refresh();
  void refreshWords();
  void refreshFix();
  void refreshMeant();
  void say(const QString& words, const QColor& ink);
  void press();
  void applyOrAsk(const Remedy& remedy);
  void ask(const Remedy& remedy);
  void offerOthers(QMenu& menu);
  void offerSections(QMenu& menu);
  void open(std::optional<int> hit);
  Finding finding_;
  Document& document_;
  LedgerGroup group_ = LedgerGroup::Fix;
  bool mended_ = false, chosen_ = false;
  Light light_ = Light::Paper;  // whose inks it has
  QLabel* sentence_;
  ElidedLabel *figures_, *target_, *price_;
  HitRow* hits_;
  QHBoxLayout* sections_;  ///< holds the hits where they are told by section
  QWidget* foot_;
  QPushButton *fix_, *meant_;
};

}  // namespace heft::app
