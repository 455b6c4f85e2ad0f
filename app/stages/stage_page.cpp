#include "app/stages/stage_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/play/transport.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/plain_label.h"
#include "core/theory/text.h"

namespace heft::app {

StagePage::StagePage(Stage stage, Document& document, Selection& selection, QWidget* parent)
    : QWidget(parent), stage_(stage), document_(document), selection_(selection) {
  setObjectName(QString(stageName(stage)) + " stage");
  setAttribute(Qt::WA_StyledBackground);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 8, 16, 4);
  column_->setSpacing(4);
  auto* head = head_ = new QHBoxLayout;
  head->setSpacing(8);
  auto* title = plainLabel(stageName(stage));
  title->setFont(titleFont());
  subtitle_ = new ElidedLabel(bodyFont());
  subtitle_->setObjectName(objectName() + " subtitle");
  head->addWidget(title);
  head->addWidget(subtitle_, 1, Qt::AlignVCenter);
  column_->addLayout(head);
  auto* fields = new QWidget;
  fields->setObjectName("fields");
  fields->setAttribute(Qt::WA_StyledBackground);
  auto* row = new QHBoxLayout(fields);
  row->setContentsMargins(0, 8, 0, 0);
  row->setSpacing(8);
  fieldArea_ = new QWidget;
  fieldArea_->installEventFilter(this);
  fieldRow_ = new FlowLayout(fieldArea_, 16, 6);
  fieldRow_->setContentsMargins(0, 0, 0, 0);
  more_ = new QPushButton("More");
  more_->setObjectName(QString(stageName(stage)) + " more");
  more_->setAccessibleName("More fields");
  more_->setToolTip("Shows the fields that do not fit in one row");
  more_->setCheckable(true);
  more_->hide();
  connect(more_, &QPushButton::toggled, this, [this] { arrangeFields(); });
  row->addWidget(fieldArea_, 1);
  row->addWidget(more_, 0, Qt::AlignBottom);
  column_->addWidget(fields);
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
  subtitle_->setText(subtitle(), theme().muted);
  for (ValueField* field : fields_) field->refresh();
  arrangeFields();
  update();
}

void StagePage::focusFirstValue() {
  const auto value = std::find_if(fields_.begin(), fields_.end(), [](const ValueField* field) {
    return field->spec().step && !field->spec().choices;
  });
  if (value != fields_.end()) (*value)->setFocus(Qt::OtherFocusReason);
}

void StagePage::addToHead(QWidget* widget) {
  head_->addWidget(widget);
}

bool StagePage::eventFilter(QObject* object, QEvent* event) {
  // From the event loop: a widget hidden while its parent is being shown counts as both in Qt.
  if (object == fieldArea_ && (event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest))
    QMetaObject::invokeMethod(this, &StagePage::arrangeFields, Qt::QueuedConnection);
  return QWidget::eventFilter(object, event);
}

// The picture is the page: fields are one row beneath it. Those that do not fit are hidden, so that no key
// leads to what cannot be seen.
void StagePage::arrangeFields() {
  constexpr const char* kFolded = "folded";
  if (arranging_ || fieldArea_->width() < 100) return;
  arranging_ = true;
  const int room = fieldArea_->parentWidget()->width();
  int whole = 0;
  std::vector<QWidget*> shown;
  for (int i = 0; i < fieldRow_->count(); ++i) {
    QWidget* w = fieldRow_->itemAt(i)->widget();
    if (!w || (w->isHidden() && !w->property(kFolded).toBool())) continue;
    shown.push_back(w);
    whole += w->sizeHint().width() + (shown.size() > 1 ? fieldRow_->columnGap() : 0);
  }
  const bool fits = whole <= room;
  more_->setVisible(!fits);
  int left = room - (fits ? 0 : more_->sizeHint().width() + 8);
  bool over = false;
  // A group is in the row as a whole or behind More as a whole.
  const auto groupOf = [](const QWidget* w) { return w->property(FlowLayout::kGroup).toInt(); };
  for (size_t i = 0; i < shown.size(); ++i) {
    QWidget* w = shown[i];
    const int group = groupOf(w);
    int wide = w->sizeHint().width();
    if (group != 0 && (i == 0 || groupOf(shown[i - 1]) != group))
      for (size_t k = i + 1; k < shown.size() && groupOf(shown[k]) == group; ++k)
        wide += fieldRow_->columnGap() + shown[k]->sizeHint().width();
    over = over || (!fits && left < wide);
    left -= w->sizeHint().width() + fieldRow_->columnGap();
    const bool folded = over && !more_->isChecked();
    w->setProperty(kFolded, folded);
    if (folded != w->isHidden()) w->setVisible(!folded);
  }
  arranging_ = false;
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

void StagePage::followPlayhead(Transport& transport, std::function<void(std::optional<double>)> show) {
  auto moved = [this, &transport, show = std::move(show)] {
    const auto at = transport.isPlaying() ? std::optional(transport.positionQuarters()) : std::nullopt;
    if (isVisible() || !at) show(at);  // out of sight it must not keep an old one
  };
  for (auto signal : {&Transport::moved, &Transport::stateChanged}) connect(&transport, signal, this, moved);
}

}  // namespace heft::app
