#pragma once
/// Plain text. A QLabel guesses at markup: a part named `<img src=/dev/zero>` would be opened.

#include <QLabel>

namespace heft::app {

inline QLabel* plainLabel(const QString& words = {}) {
  auto* label = new QLabel(words);
  label->setTextFormat(Qt::PlainText);
  return label;
}

}  // namespace heft::app
