#pragma once
/// The library's rows: one is chosen, auditioned and placed.

#include <QAbstractScrollArea>

#include "app/library/library.h"

namespace heft::app {

/// Rows of the library, drawn one by one: ten thousand cost only the visible ones.
class LibraryList : public QAbstractScrollArea {
  Q_OBJECT
 public:
  LibraryList(Document& document, Library& library, QWidget* parent = nullptr);
  /// Indices into the library's rows.
  void show(std::vector<size_t> order);
  const std::vector<size_t>& order() const { return order_; }
  int chosen() const { return chosen_; }
  void choose(int row);
  const LibraryRow* chosenRow() const;
  /// The last column: the pair's loss, or the landing's distance from the key.
  void setShowsLoss(bool shows) { showsLoss_ = shows, viewport()->update(); }
  /// Position of a row; tests click it.
  QPointF rowAt(int row) const;

 Q_SIGNALS:
  void heard(const std::string& path);   ///< selected, to audition
  void placed(const std::string& path);  ///< Enter or a double click
  void chosenChanged();
  void headPressed(int column);  ///< 0 name, 1 landing, 2 tail, 3 fit

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { layScrollBar(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void layScrollBar();
  void drawRow(QPainter& p, const QRectF& box, const LibraryRow& row, bool chosen) const;
  void drawHeads(QPainter& p) const;
  Document& document_;
  Library& library_;
  std::vector<size_t> order_;
  std::string chosenPath_;
  int chosen_ = -1;
  bool showsLoss_ = false;
  QPoint pressed_;
};

}  // namespace heft::app
