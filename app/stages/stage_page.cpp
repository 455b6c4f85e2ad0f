#include "app/stages/stage_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/plain_label.h"
#include "core/theory/text.h"

namespace heft::app {

QString dbText(double db, int decimals, bool sign) {
  const QString text = QString::fromStdString(fixedNumber(db, decimals));
  return (sign && text.toDouble() > 0.0 ? "+" : "") + text + " dB";
}

QString timeText(const TimeValue& value, double tempoBpm) {
  const QString text = QString::fromStdString(value.text());
  return value.isNote() ? text + ", " + QString::fromStdString(formatNumber(value.toMs(tempoBpm), 0)) + " ms"
                        : text;
}

StagePage::StagePage(Stage stage, Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), stage_(stage), document_(document), selection_(selection) {
  setObjectName(QString(stageName(stage)) + " stage");
  setAttribute(Qt::WA_StyledBackground);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  column_->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->setSpacing(12);
  auto* title = plainLabel(stageName(stage));
  title->setFont(titleFont());
  subtitle_ = plainLabel();
  subtitle_->setObjectName(objectName() + " subtitle");
  subtitle_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  subtitle_->setProperty("role", "muted");
  head->addWidget(title);
  head->addWidget(subtitle_, 1, Qt::AlignBottom);
  column_->addLayout(head);
  auto* fieldArea = new QWidget;
  fieldArea->setObjectName("fields");
  fieldArea->setAttribute(Qt::WA_StyledBackground);
  fieldRow_ = new FlowLayout(fieldArea, 16, 6);
  fieldRow_->setContentsMargins(0, 8, 0, 0);
  column_->addWidget(fieldArea);
  connect(&document_, &Document::changed, this, &StagePage::refresh);
  connect(&document_, &Document::studied, this, &StagePage::refresh);
  connect(&document_, &Document::rendered, this, &StagePage::refresh);
  connect(&document_, &Document::heardChanged, this, &StagePage::refresh);
  connect(&selection_, &Selection::changed, this, &StagePage::refresh);
}

void StagePage::mark(const Finding& finding) {
  if (finding.hit) selection_.setHit(*finding.hit);
}

void StagePage::refresh() {
  subtitle_->setText(subtitle());
  for (ValueField* field : fields_) field->refresh();
  update();
}

void StagePage::setPicture(QWidget* picture) {
  column_->insertWidget(1, picture, 1);
}

ValueField* StagePage::addField(FieldSpec spec) {
  auto* field = new ValueField(std::move(spec));
  fields_.push_back(field);
  addToFields(field);
  if (!held_.isEmpty() && field->objectName() == held_) field->setFocus(), held_.clear();
  return field;
}

// It may be in the middle of its own edit.
void StagePage::dismiss(QWidget* field) {
  field->hide();
  field->setObjectName({});
  field->deleteLater();
}

void StagePage::clearFields() {
  const QWidget* hand = window()->focusWidget();
  held_.clear();
  for (ValueField* field : fields_) {
    if (hand && (field == hand || field->isAncestorOf(hand))) held_ = field->objectName();
    fieldRow_->removeWidget(field);
    dismiss(field);
  }
  fields_.clear();
}

void StagePage::addToFields(QWidget* widget) {
  fieldRow_->addWidget(widget);
}

Picture::Picture(Document& document, Selection& selection, const QString& name, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
  setObjectName(name);
  setProperty(kAccessibleRole, QAccessible::Graphic);
  setAccessibleName(name);
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(420, 200);
  for (auto signal : {&Document::changed, &Document::rendered, &Document::studied})
    connect(&document_, signal, this, qOverload<>(&QWidget::update));
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
}

void Picture::explain(const QString& tip, const QString& whole) {
  setToolTip(tip);
  setWhatsThis(whole);
  setAccessibleDescription(whole);
}

void Picture::drawEmpty(QPainter& p, const QString& sentence) const {
  p.setFont(bodyFont());
  p.setPen(theme().muted);
  p.drawText(rect().adjusted(80, 0, -80, 0), Qt::AlignCenter | Qt::TextWordWrap, sentence);
}

const HitFacts* Picture::hit() const {
  const Study* study = document_.study();
  if (!study || study->hits.empty()) return nullptr;
  const auto index = static_cast<size_t>(std::max(0, selection_.hit()));
  return index < study->hits.size()                       ? &study->hits[index]
         : index < document_.session().kick().hits.size() ? nullptr
                                                          : &study->hits.back();
}

}  // namespace heft::app
