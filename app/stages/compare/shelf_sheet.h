#pragma once
/// The shelf of references across sessions: tags, and a way into the session.

#include <QDialog>

#include "app/document/document.h"
#include "core/library/shelf.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace heft::app {

class ShelfSheet : public QDialog {
  Q_OBJECT
 public:
  ShelfSheet(Document& document, QWidget* parent);

 private:
  void read();
  void fill();
  void filter(const QString& words);
  void addChosen();
  void removeChosen();
  void tagEdited(QTreeWidgetItem* item, int column);
  /// Runs work on the shelf aside; a fault is told.
  void onShelf(std::function<Result<void>(Shelf&)> work);
  const ShelfRow* chosen() const;
  Document& document_;
  std::vector<ShelfRow> rows_;
  QLineEdit* search_;
  QTreeWidget* table_;
  QLabel* words_;
  QPushButton *add_, *remove_;
  bool filling_ = false;
};

}  // namespace heft::app
