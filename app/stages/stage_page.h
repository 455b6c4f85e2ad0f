#pragma once
/// Shared by all stages: a title with a sentence, one large picture, and the few fields that belong to it.

#include <QWidget>
#include <vector>

#include "app/pictures/picture.h"
#include "app/play/transport.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace heft::app {

class ElidedLabel;
class FlowLayout;
class Transport;

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
  /// Calls `show` with the playhead, quarters, while the page is in sight, and with nothing when it stops,
  /// wherever.
  void followPlayhead(Transport& transport, std::function<void(std::optional<double>)> show);
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

}  // namespace heft::app
