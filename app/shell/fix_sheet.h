#pragma once
/// Fix all before it acts: every fix with its figure before and after, the hand-set values it replaces and
/// its side effects. Each can be unticked, and fixes that ask can be ticked; the rest is then tried again.
/// Applied as one edit.

#include <QFrame>
#include <optional>
#include <stop_token>
#include <vector>

#include "app/document/document.h"
#include "app/theme/theme.h"

class QCheckBox;
class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace heft::app {

class FixSheet : public QFrame {
  Q_OBJECT
 public:
  /// Over `parent`, at its upper right under `below`.
  FixSheet(Document& document, QWidget* parent);
  void open(int right, int top);
  void close();

 Q_SIGNALS:
  /// The loop with all ticked fixes; empty: unchanged.
  void heard(const std::optional<heft::Edit>& edit);
  /// Closes: the focus moves on.
  void left();

 protected:
  void keyPressEvent(QKeyEvent*) override;
  void changeEvent(QEvent*) override;
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  struct Row {
    std::string id;
    QString fix, line, was, is, replaces, costs;
    bool ticked = true;
    bool asks = false;
  };
  void plan();
  void take(const MendedSession& fixes, const Session& was);
  void showRows();
  QWidget* rowOf(const Row& row);
  void tick(const std::string& id, bool on, bool asks);
  void apply();
  void hear(bool after);
  void refreshFoot();
  void place();

  Document& document_;
  QScrollArea* scroll_;
  QLabel *title_, *foot_, *hint_;
  QPushButton *before_, *after_, *apply_;
  Light light_ = light();  // whose inks the rows have
  std::vector<Row> rows_;
  FixChoice choice_;
  std::optional<MendedSession> fixes_;
  std::optional<Session> plannedFor_;
  std::stop_source stop_;
  bool hearing_ = false;
  int right_ = 0, top_ = 0;
};

}  // namespace heft::app
