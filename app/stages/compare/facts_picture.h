#pragma once
/// Facts: what each track's kick and bass do, yours beside the references'; a figure that is pressed becomes
/// the target.

#include "app/stages/compare/compare_picture.h"
#include "app/stages/compare/fact_rows.h"
#include "app/widgets/accessible.h"

namespace heft::app {

class FactsPicture : public ComparePicture, public AccessibleHolder {
  Q_OBJECT
 public:
  FactsPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  std::vector<AccessibleItem> accessibleItems() const override;
  /// The row that the keys and the field speak of.
  const FactRow& row() const { return rows_[chosen_]; }
  std::optional<double> targetNow() const;
  void setTarget(std::optional<double> value, const std::string& mergeKey = {});
  /// The references' median of the chosen row; nothing where none has it.
  std::optional<double> median() const;

 Q_SIGNALS:
  void chosenChanged();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  enum class Column { Name, Mine, Target, Reference, Median };
  struct Cell {
    Column column = Column::Name;
    size_t row = 0, section = 0;
  };
  size_t shownSections() const;
  QRectF box(Column column, size_t row, size_t section = 0) const;
  QRectF headBox(Column column, size_t section = 0) const;
  std::optional<Cell> at(const QPointF& where) const;
  /// What a press there takes.
  std::optional<double> figureAt(const Cell& cell) const;
  std::optional<CompareDetail::Span> spanOf(const FactRow& row) const;
  /// Nothing where nothing sounds.
  std::optional<TrackFacts> mine() const;
  QString mineText(const FactRow& row) const;
  QString textOf(const FactRow& row, const TrackFacts& of) const;
  TrackFacts section(size_t index) const;
  void refreshRows();
  void drawHead(QPainter& p) const;
  void drawRow(QPainter& p, size_t row) const;
  QString spanText(const FactRow& row) const;
  void choose(size_t row);
  std::vector<FactRow> rows_;
  size_t chosen_ = 4;  // the first that can be a target
  std::optional<Cell> under_;
};

}  // namespace heft::app
