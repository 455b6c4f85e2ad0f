#include "app/widgets/flow_layout.h"

#include <QWidget>
#include <algorithm>

namespace heft::app {
namespace {

constexpr int kFlowRowHeight = 38;

}  // namespace

FlowLayout::FlowLayout(QWidget* parent, int columnGap, int rowGap)
    : QLayout(parent), columnGap_(columnGap), rowGap_(rowGap) {}

FlowLayout::~FlowLayout() {
  for (QLayoutItem* item : items_) delete item;
}

QLayoutItem* FlowLayout::takeAt(int index) {
  if (index < 0 || index >= count()) return nullptr;
  QLayoutItem* item = items_[static_cast<size_t>(index)];
  items_.erase(items_.begin() + index);
  return item;
}

QSize FlowLayout::minimumSize() const {
  QSize out;
  for (const QLayoutItem* item : items_) out = out.expandedTo(item->minimumSize());
  const QMargins m = contentsMargins();
  return out + QSize(m.left() + m.right(), m.top() + m.bottom());
}

void FlowLayout::setGeometry(const QRect& box) {
  QLayout::setGeometry(box);
  arranged(box, true);
}

// Width of a group that starts here; within one, or outside any, of the widget alone.
int FlowLayout::groupWidth(size_t first) const {
  auto groupOf = [&](size_t i) {
    return items_[i]->widget() ? items_[i]->widget()->property(kGroup).toInt() : 0;
  };
  const int group = groupOf(first);
  int width = items_[first]->sizeHint().width();
  if (group == 0 || (first > 0 && groupOf(first - 1) == group)) return width;
  for (size_t i = first + 1; i < items_.size() && groupOf(i) == group; ++i)
    width += columnGap_ + items_[i]->sizeHint().width();
  return width;
}

int FlowLayout::arranged(const QRect& box, bool apply) const {
  const QMargins m = contentsMargins();
  const QRect area = box.marginsRemoved(m);
  int x = area.left(), y = area.top(), rowHeight = 0;
  for (size_t i = 0; i < items_.size(); ++i) {
    QLayoutItem* item = items_[i];
    if (item->isEmpty()) continue;  // hidden
    const QSize size = item->sizeHint();
    // A group wider than the row breaks where it must.
    const int group = groupWidth(i), wanted = group <= area.width() ? group : size.width();
    if (x > area.left() && x + wanted > area.right() + 1) {
      x = area.left();
      y += rowHeight + rowGap_;
      rowHeight = 0;
    }
    // Low widgets are centred in a row: buttons on the line of the values, beneath the captions.
    const int down = size.height() >= 36 ? 0 : (kFlowRowHeight - size.height()) / 2;
    if (apply) item->setGeometry(QRect(QPoint(x, y + down), size));
    x += size.width() + columnGap_;
    rowHeight = std::max(rowHeight, std::max(kFlowRowHeight, size.height()));
  }
  return y + rowHeight - box.top() + m.bottom();
}

}  // namespace heft::app
