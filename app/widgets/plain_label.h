#pragma once
/// Words that are shown as they are. A QLabel by itself takes what looks like markup for markup: a part named
/// `<img src=/dev/zero>` would be opened.

#include <QLabel>

namespace heft::app {

inline QLabel* plainLabel(const QString& words = {}) {
  auto* label = new QLabel(words);
  label->setTextFormat(Qt::PlainText);
  return label;
}

}  // namespace heft::app
