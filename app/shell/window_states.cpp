// Kept states of the session: kept by a key, heard against now, gone back to.

#include <QInputDialog>

#include "app/shell/window.h"
#include "core/session/edits/states.h"

namespace heft::app {

void Window::addStatesMenu(QMenu* edit) {
  add(edit, "Keep state", QKeySequence("Ctrl+B"), [this] { keepStateNow(); });
  add(edit, "Compare with state", QKeySequence("Ctrl+Shift+B"), [this] { hearState(latestState_); });
  QMenu* states = edit->addMenu("States");
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
      entry("Compare with now", [this, i] { hearState(i); });
      entry("Replace with now", [this, name = all[i].name] { document_.edit(keepState(name)); });
      entry("Rename...", [this, i] { nameState(i); });
      entry("Remove", [this, i] { document_.edit(removeState(i)); });
    }
    if (all.empty()) states->addAction("none kept yet: Ctrl+B keeps one")->setEnabled(false);
  });
}

void Window::keepStateNow() {
  const size_t before = document_.session().states.size();
  if (before >= kMostStates)
    return document_.fail(QString("%1 states are kept: remove one under Edit, States.").arg(kMostStates));
  const std::string name = freshStateName(document_.session());
  document_.edit(keepState(name));
  latestState_ = before;
  document_.tell(QString("Kept as %1. Ctrl+Shift+B plays it against now; Edit, States goes back to it.")
                     .arg(QString::fromStdString(name)));
}

void Window::goBackTo(size_t index) {
  const auto edit = goToState(document_.session(), index);
  if (!edit) return document_.fail(QString::fromStdString(edit.error().sentence()));
  latestState_ = index;
  document_.edit(*edit);
}

void Window::hearState(size_t index) {
  const auto& all = document_.session().states;
  if (all.empty()) return document_.tell("No state is kept yet: Ctrl+B keeps one.");
  latestState_ = std::min(index, all.size() - 1);
  auto edit = goToState(document_.session(), latestState_);
  if (!edit) return document_.fail(QString::fromStdString(edit.error().sentence()));
  edit->name = all[latestState_].name;
  toggleBefore(Heard::Other, *edit);
}

void Window::nameState(size_t index) {
  const auto& all = document_.session().states;
  if (index >= all.size()) return;
  bool taken = false;
  const QString name = QInputDialog::getText(this, "Rename state", "Name", QLineEdit::Normal,
                                             QString::fromStdString(all[index].name), &taken);
  if (taken && !name.trimmed().isEmpty()) document_.edit(renameState(index, name.trimmed().toStdString()));
}

}  // namespace heft::app
