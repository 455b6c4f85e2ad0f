#pragma once
/// The track's facts, the transport, monitoring, and the sum's loudness and peak.

#include <QWidget>

#include "app/play/reference_ear.h"
#include "app/play/transport.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;
class QLabel;
class QPushButton;

namespace heft::app {

class HeaderBar : public QWidget {
  Q_OBJECT
 public:
  HeaderBar(Document& document, Transport& transport, ReferenceEar& ear, QWidget* parent = nullptr);
  void refresh();

  /// Puts the focus into the position, to type where to go.
  void typePosition();

 Q_SIGNALS:
  void beforeAsked(bool before);
  void located(double quarters);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { fit(), refresh(); }

 private:
  void add(QHBoxLayout* row, FieldSpec spec);
  void buildFacts(QHBoxLayout* row);
  void buildMeasures(QHBoxLayout* row);
  void buildTransport(QHBoxLayout* row);
  void buildListening(QHBoxLayout* row);
  void refreshPosition();
  void refreshHeard();
  void fit();
  Document& document_;
  Transport& transport_;
  ReferenceEar& ear_;
  std::vector<ValueField*> fields_;
  QPushButton *play_, *before_, *after_;
  QPushButton* heard_;  ///< a target, a way, a version: auditioned instead of both
  QLabel* meter_;
  ValueField* position_;
  QString positionText() const;
};

}  // namespace heft::app
