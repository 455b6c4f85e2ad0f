#pragma once
/// Sheets of text: all keys, and About.

class QWidget;

namespace heft::app {

void showShortcuts(QWidget* parent);
/// Version, licence, no warranty.
void showAbout(QWidget* parent);

}  // namespace heft::app
