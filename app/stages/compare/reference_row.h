#pragma once
/// One row of the table of references; the first is the session itself.

#include <QWidget>
#include <vector>

#include "app/play/reference_ear.h"
#include "app/stages/compare/figures.h"
#include "app/widgets/value_field.h"

namespace heft::app {

/// Columns of the table: left edges in px from its left, for a width.
struct TableColumns {
  explicit TableColumns(int width);
  int name, section, key, tempo, lufs, match, peak, median;
  bool isWide() const { return key - section > 200; }
  int strip() const { return isWide() ? 76 : 34; }
};

class ReferenceRow : public QWidget {
  Q_OBJECT
 public:
  static constexpr int kHeight = 23;
  /// `index`: -1 is the session.
  ReferenceRow(Document& document, ReferenceEar& ear, CompareFigures& figures, int index, QWidget* parent);
  int index() const { return index_; }
  void setChosen(bool chosen) { chosen_ = chosen, update(); }
  void refresh();
  /// Where its tick is; tests click there.
  QRect tick() const;

 Q_SIGNALS:
  void pressed(int index);
  void removeAsked(int index);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  void addFields();
  const Reference* reference() const;
  const ComparedSection* section() const;
  QString sectionText() const;
  void drawFigures(QPainter& p, const TableColumns& at, const QColor& ink) const;
  void drawStrip(QPainter& p, const TableColumns& at, const QColor& ink) const;
  Document& document_;
  ReferenceEar& ear_;
  CompareFigures& figures_;
  int index_;
  bool chosen_ = false;
  ValueField *section_ = nullptr, *key_ = nullptr, *tempo_ = nullptr;
};

}  // namespace heft::app
