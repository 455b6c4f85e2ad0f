#include "app/stages/sounds/first_steps.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"

namespace heft::app {

FirstSteps::FirstSteps() {
  setObjectName("First steps");
  auto* column = new QVBoxLayout(this);
  column->setSpacing(16);
  column->addStretch(1);
  auto* words = plainLabel("Start with a kick, a bass and the rest of the track. Drop them here, or:");
  words->setAlignment(Qt::AlignCenter);
  column->addWidget(words);
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  row->addStretch(1);
  const auto add = [&](const QString& word, const QString& tip, void (FirstSteps::*asked)()) {
    auto* button = new QPushButton(word);
    button->setObjectName(word), button->setAccessibleName(word);
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, asked);
    row->addWidget(button);
  };
  add("Choose files", "Choose a kick, a bass and the rest of the track, all at once", &FirstSteps::filesAsked);
  add("Browse a folder", "Add a folder to the library, with the note and length of every sound in it",
      &FirstSteps::folderAsked);
  add("Open the demo", "Saltworks, a two-bar session with faults to fix", &FirstSteps::demoAsked);
  row->addStretch(1);
  column->addLayout(row);
  auto* after =
      plainLabel("Hits and notes are placed in the loop below: click in the kick's lane, drag in the bass's.");
  after->setAlignment(Qt::AlignCenter);
  after->setProperty("role", "muted");
  column->addWidget(after);
  column->addStretch(2);
}

}  // namespace heft::app
