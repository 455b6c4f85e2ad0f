#pragma once
/// The session's references: a row each, with a number key that plays it.

#include <QScrollArea>
#include <vector>

#include "app/play/reference_ear.h"
#include "app/stages/compare/figures.h"
#include "app/widgets/value_field.h"

class QVBoxLayout;

namespace heft::app {

class ReferenceRow;

class ReferenceTable : public QWidget {
  Q_OBJECT
 public:
  ReferenceTable(Document& document, ReferenceEar& ear, CompareFigures& figures, QWidget* parent = nullptr);
  /// Index of the chosen reference: whose sections are shown. 0 without any.
  size_t chosen() const { return chosen_; }
  void choose(size_t reference);
  /// Rows shown at once; the rest scrolls.
  void setMostShown(int rows);

 Q_SIGNALS:
  void chosenChanged();
  void removeAsked(size_t reference);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void rebuild();
  void fitHeight();
  void refresh();
  Document& document_;
  ReferenceEar& ear_;
  CompareFigures& figures_;
  QScrollArea* area_;
  QVBoxLayout* rows_;
  std::vector<ReferenceRow*> all_;
  size_t chosen_ = 0;
  int mostShown_ = 4;
};

}  // namespace heft::app
