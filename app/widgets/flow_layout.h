#pragma once
/// Lays widgets out from left to right and wraps at the width. Neighbours whose property kGroup is the same
/// number stay in one row.

#include <QLayout>
#include <vector>

namespace heft::app {

class FlowLayout : public QLayout {
 public:
  static constexpr const char* kGroup = "flow group";
  FlowLayout(QWidget* parent, int columnGap, int rowGap);
  int columnGap() const { return columnGap_; }
  ~FlowLayout() override;

  void addItem(QLayoutItem* item) override { items_.push_back(item); }
  int count() const override { return static_cast<int>(items_.size()); }
  QLayoutItem* itemAt(int index) const override {
    return index >= 0 && index < count() ? items_[static_cast<size_t>(index)] : nullptr;
  }
  QLayoutItem* takeAt(int index) override;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override { return arranged(QRect(0, 0, width, 0), false); }
  QSize minimumSize() const override;
  QSize sizeHint() const override { return minimumSize(); }
  void setGeometry(const QRect& box) override;

 private:
  /// Height that is used; moves the widgets where `apply`.
  int arranged(const QRect& box, bool apply) const;
  int groupWidth(size_t first) const;
  std::vector<QLayoutItem*> items_;
  int columnGap_, rowGap_;
};

}  // namespace heft::app
