#include "app/shell/kept_states.h"

#include <QApplication>
#include <QInputDialog>
#include <algorithm>

#include "core/session/edits/states.h"

namespace heft::app {

void KeptStates::addTo(QMenu& edit) {
  const auto add = [&](const char* words, const char* keys, auto then) {
    QAction* action = edit.addAction(words);
    action->setShortcut(QKeySequence(keys));
    connect(action, &QAction::triggered, this, then);
  };
  add("Keep state", "Ctrl+B", [this] { keep(); });
  add("Compare with state", "Ctrl+Shift+B", [this] { hear(latest_); });
  QMenu* states = edit.addMenu("States");
  states->setObjectName("States menu");
  connect(states, &QMenu::aboutToShow, this, [this, states] {
    states->clear();
    const auto& all = document_.session().states;
    for (size_t i = 0; i < all.size(); ++i) {
      QMenu* one = states->addMenu(QString::fromStdString(all[i].name).replace("&", "&&"));
      auto entry = [&](const char* words, auto then) {
        connect(one->addAction(words), &QAction::triggered, this, then);
      };
      entry("Go back to this", [this, i] { goBackTo(i); });
      entry("Compare with now", [this, i] { hear(i); });
      entry("Replace with now", [this, name = all[i].name] { document_.edit(keepState(name)); });
      entry("Rename...", [this, i] { rename(i, QApplication::activeWindow()); });
      entry("Remove", [this, i] { document_.edit(removeState(i)); });
    }
    if (all.empty()) states->addAction("none kept yet: Ctrl+B keeps one")->setEnabled(false);
  });
}

void KeptStates::keep() {
  const size_t before = document_.session().states.size();
  if (before >= kMostStates)
    return document_.fail(QString("%1 states are kept: remove one under Edit, States.").arg(kMostStates));
  const std::string name = freshStateName(document_.session());
  document_.edit(keepState(name));
  latest_ = before;
  document_.tell(QString("Kept as %1. Ctrl+Shift+B plays it against now; Edit, States goes back to it.")
                     .arg(QString::fromStdString(name)));
}

void KeptStates::goBackTo(size_t index) {
  const auto edit = goToState(document_.session(), index);
  if (!edit) return document_.fail(QString::fromStdString(edit.error().sentence()));
  latest_ = index;
  document_.edit(*edit);
}

void KeptStates::hear(size_t index) {
  const auto& all = document_.session().states;
  if (all.empty()) return document_.tell("No state is kept yet: Ctrl+B keeps one.");
  latest_ = std::min(index, all.size() - 1);
  auto edit = goToState(document_.session(), latest_);
  if (!edit) return document_.fail(QString::fromStdString(edit.error().sentence()));
  edit->name = all[latest_].name;
  before_.toggle(*edit);
}

void KeptStates::rename(size_t index, QWidget* over) {
  const auto& all = document_.session().states;
  if (index >= all.size()) return;
  bool taken = false;
  const QString name = QInputDialog::getText(over, "Rename state", "Name", QLineEdit::Normal,
                                             QString::fromStdString(all[index].name), &taken);
  if (taken && !name.trimmed().isEmpty()) document_.edit(renameState(index, name.trimmed().toStdString()));
}

}  // namespace heft::app
