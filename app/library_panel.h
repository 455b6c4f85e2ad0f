#pragma once
/// The library drawer: folders, search by name and by fit, and a list whose chosen file is heard in the loop.

#include <QAbstractScrollArea>
#include <QWidget>

#include "app/library.h"
#include "app/widgets/value_field.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace heft::app {

class LibraryList;

class LibraryPanel : public QWidget {
  Q_OBJECT
 public:
  LibraryPanel(Document& document, Library& library, QWidget* parent = nullptr);
  Place place() const { return place_; }
  LibraryList* list() { return list_; }
  /// To the search words; from there Down goes to the list, Escape takes the words away,
  /// and closes the drawer where there are none.
  void focusSearch();

 Q_SIGNALS:
  void leaving();  ///< Escape

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;
  bool event(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  enum class Rank { Fit, Loss, Name, Landing, Tail, Weight, Brightness };
  void buildFields();
  void refresh();
  void search();
  void foldersMenu();
  void setOrder(Rank rank);
  void describeChosen();
  Document& document_;
  Library& library_;
  LibraryQuery query_{.kind = SoundKind::Kick};
  Rank rank_ = Rank::Fit;
  Place place_;
  int tail_ = 0;
  QLineEdit* words_;
  LibraryList* list_;
  QLabel *state_, *details_;
  QPushButton *scan_, *folders_;
  std::vector<ValueField*> fields_;
  bool asked_ = false;
  // What was searched by last.
  Key key_;
  double tempoBpm_ = 0.0, a4Hz_ = 0.0;
};

/// Rows of the library, drawn one by one: ten thousand cost what is seen of them.
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
  /// The last column: what the pair loses, or how far the landing is from the key.
  void setShowsLoss(bool shows) { showsLoss_ = shows, viewport()->update(); }
  /// Where a row is; tests click it.
  QPointF rowAt(int row) const;

 Q_SIGNALS:
  void heard(const std::string& path);   ///< chosen: to be heard
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
