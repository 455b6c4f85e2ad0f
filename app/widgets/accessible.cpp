#include "app/widgets/accessible.h"

#include <map>

namespace heft::app {
namespace {

// One drawn item, read from its widget each time.
class ItemInterface : public QAccessibleInterface {
 public:
  ItemInterface(QWidget* widget, int index) : widget_(widget), index_(index) {}
  bool isValid() const override { return widget_ != nullptr && item().has_value(); }
  QObject* object() const override { return nullptr; }
  QAccessibleInterface* childAt(int, int) const override { return nullptr; }
  QAccessibleInterface* parent() const override { return QAccessible::queryAccessibleInterface(widget_); }
  QAccessibleInterface* child(int) const override { return nullptr; }
  int childCount() const override { return 0; }
  int indexOfChild(const QAccessibleInterface*) const override { return -1; }
  QString text(QAccessible::Text t) const override {
    return t == QAccessible::Name && item() ? item()->name : QString();
  }
  void setText(QAccessible::Text, const QString&) override {}
  QRect rect() const override {
    return item() ? QRect(widget_->mapToGlobal(item()->box.topLeft()), item()->box.size()) : QRect();
  }
  QAccessible::Role role() const override { return QAccessible::ListItem; }
  QAccessible::State state() const override { return {}; }

 private:
  std::optional<AccessibleItem> item() const {
    const auto* holder = dynamic_cast<const AccessibleHolder*>(widget_);
    const auto items = holder ? holder->accessibleItems() : std::vector<AccessibleItem>();
    return index_ < static_cast<int>(items.size()) ? std::optional(items[static_cast<size_t>(index_)])
                                                   : std::nullopt;
  }
  QWidget* widget_;
  int index_;
};

class ByProperty : public QAccessibleWidget {
 public:
  explicit ByProperty(QWidget* widget) : QAccessibleWidget(widget) {}
  ~ByProperty() override {
    for (const auto& [index, id] : items_) QAccessible::deleteAccessibleInterface(id);
  }
  QString text(QAccessible::Text t) const override {
    if (t == QAccessible::Value) return widget()->accessibleDescription();
    return QAccessibleWidget::text(t);
  }
  // Looked up each time: readers may meet a widget while it is being built.
  QAccessible::Role role() const override {
    return static_cast<QAccessible::Role>(widget()->property(kAccessibleRole).toInt());
  }
  int childCount() const override {
    const auto* holder = dynamic_cast<const AccessibleHolder*>(widget());
    return QAccessibleWidget::childCount() + (holder ? static_cast<int>(holder->accessibleItems().size()) : 0);
  }
  QAccessibleInterface* child(int index) const override {
    const int own = QAccessibleWidget::childCount();
    if (index < own) return QAccessibleWidget::child(index);
    const int item = index - own;
    const auto known = items_.find(item);
    if (known != items_.end()) return QAccessible::accessibleInterface(known->second);
    auto* made = new ItemInterface(widget(), item);
    items_[item] = QAccessible::registerAccessibleInterface(made);
    return made;
  }

 private:
  mutable std::map<int, QAccessible::Id> items_;
};

QAccessibleInterface* made(const QString&, QObject* object) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (!widget || !widget->property(kAccessibleRole).isValid()) return nullptr;
  return new ByProperty(widget);
}

}  // namespace

void installAccessibility() {
  static const bool once = [] {
    QAccessible::installFactory(made);
    return true;
  }();
  static_cast<void>(once);
}

}  // namespace heft::app
