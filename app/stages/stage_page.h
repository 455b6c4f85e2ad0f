#pragma once
/// Shared by all stages: a title with a sentence, one large picture, and the few fields that belong to it.

#include <QWidget>
#include <vector>

#include "app/document/document.h"
#include "app/play/transport.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace heft::app {

class ElidedLabel;
class FlowLayout;

/// State shared by the stages besides the document: the selected hit and ducking.
class Selection : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  int hit() const { return hit_; }
  void setHit(int hit) {
    if (hit == hit_) return;
    hit_ = hit;
    Q_EMIT changed();
  }
  int duck() const { return duck_; }
  void setDuck(int id) {
    if (id == duck_) return;
    duck_ = id;
    Q_EMIT changed();
  }

 Q_SIGNALS:
  void changed();

 private:
  int hit_ = 0;
  int duck_ = 1;
};

class StagePage : public QWidget {
  Q_OBJECT
 public:
  StagePage(Stage stage, Document& document, Selection& selection, QWidget* parent = nullptr);

  Stage stage() const { return stage_; }
  /// Shows the place of a finding.
  virtual void mark(const Finding& finding);
  /// Reads everything again.
  virtual void refresh();

 protected:
  Document& document() const { return document_; }
  Selection& selection() const { return selection_; }
  const Track& track() const { return document_.track(); }
  /// A sentence beside the title.
  virtual QString subtitle() const = 0;
  void setPicture(QWidget* picture);
  ValueField* addField(FieldSpec spec);
  /// Hides it at once and deletes it later.
  static void dismiss(QWidget* field);
  /// Removes all fields.
  void clearFields();
  /// Anything else in the row of fields.
  void addToFields(QWidget* widget);
  /// The first numeric field, after switches and choices.
  void focusFirstValue();
  /// At the right of the title.
  void addToHead(QWidget* widget);
  /// One row of fields: More unfolds the rest.
  bool eventFilter(QObject* object, QEvent* event) override;
  QVBoxLayout* column() { return column_; }

 private:
  Stage stage_;
  Document& document_;
  Selection& selection_;
  ElidedLabel* subtitle_;
  QVBoxLayout* column_;
  void arrangeFields();
  QHBoxLayout* head_;
  QWidget* fieldArea_;
  FlowLayout* fieldRow_;
  QPushButton* more_;
  bool arranging_ = false;
  std::vector<ValueField*> fields_;
  QString held_;  ///< the field that had the focus while fields were rebuilt
};

/// A picture: repaints when the document or the selection changes, and shows a sentence where there is
/// nothing to draw.
class Picture : public QWidget {
  Q_OBJECT
 public:
  Picture(Document& document, Selection& selection, const QString& name, QWidget* parent = nullptr);

 protected:
  Document& document() const { return document_; }
  const Track& track() const { return document_.track(); }
  Selection& selection() const { return selection_; }
  /// `tip` appears under the pointer and is short, because it covers the picture; `whole` lists everything
  /// that can be done here (Shift+F1, and screen readers).
  void explain(const QString& tip, const QString& whole);
  /// The sentence in the middle of an empty picture.
  void drawEmpty(QPainter& painter, const QString& sentence) const;
  /// The chosen hit's figures, or nothing.
  const HitFacts* hit() const;
  QString noteText(double midi) const { return QString::fromStdString(pitchText(midi, track().notes)); }

 private:
  Document& document_;
  Selection& selection_;
};

/// Words of a time value that follows the tempo, with its milliseconds.
QString timeText(const TimeValue& value, double tempoBpm);
QString dbText(double db, int decimals = 1, bool sign = true);

}  // namespace heft::app
