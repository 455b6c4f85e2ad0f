#pragma once
/// Sheets of words: every key there is, and what Heft is.

class QWidget;

namespace heft::app {

void showShortcuts(QWidget* parent);
/// Version, licence, no warranty.
void showAbout(QWidget* parent);

}  // namespace heft::app
