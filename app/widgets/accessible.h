#pragma once
/// Accessibility of widgets that draw themselves: their role, their value, and their items.

#include <QAccessible>
#include <QAccessibleWidget>
#include <functional>
#include <vector>

namespace heft::app {

/// A widget's property with its QAccessible::Role. Its name and value are its accessible name and description.
inline constexpr const char* kAccessibleRole = "accessible role";
/// True on widgets that use Space themselves; else Space plays.
inline constexpr const char* kTakesSpace = "takes space";

/// A drawn item of a widget: a hit, a note.
struct AccessibleItem {
  QString name;  ///< "kick hit 3, beat 2.1"
  QRect box;     ///< in the widget
};

/// A widget that holds such things.
class AccessibleHolder {
 public:
  virtual ~AccessibleHolder() = default;
  virtual std::vector<AccessibleItem> accessibleItems() const = 0;
};

/// Once, before the first window.
void installAccessibility();

}  // namespace heft::app
