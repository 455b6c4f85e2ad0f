// The list of controller assignments.

#include <QDialog>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/play/teacher.h"
#include "app/widgets/plain_label.h"
#include "app/widgets/unit_words.h"

namespace heft::app {
namespace {

QString nowText(const Session& s, const Taught& t) {
  const auto v = valueAt(s, t.owner, t.key);
  if (!v) return "not present";
  if (const bool* on = std::get_if<bool>(&v->now)) return *on ? "on" : "off";
  if (const auto* number = std::get_if<double>(&v->now)) return unitText(*number, v->range.unit, s.track);
  if (const auto* whole = std::get_if<int>(&v->now)) return QString::number(*whole);
  if (const auto* time = std::get_if<TimeValue>(&v->now)) return QString::fromStdString(time->text());
  return "off";
}

class TaughtSheet : public QDialog {
 public:
  TaughtSheet(Document& document, QWidget* window) : QDialog(window), document_(document) {
    setObjectName("Controller assignments");
    setWindowTitle("Controller assignments");
    setAttribute(Qt::WA_DeleteOnClose);
    resize(640, 360);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(24, 16, 24, 16);
    column->addWidget(none_ =
                          plainLabel("No controllers assigned. Select a value, press F6 and move a controller, "
                                     "the pitch wheel or the mouse wheel."));
    none_->setWordWrap(true);
    column->addWidget(list_ = new QTreeWidget, 1);
    list_->setObjectName("Taught list");
    list_->setAccessibleName("Controller assignments");
    list_->setHeaderLabels({"Controller", "Value", "Now"});
    list_->setRootIsDecorated(false);
    list_->setStyleSheet("QTreeWidget::item { padding: 5px 14px 5px 4px; }");
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    auto* row = new QHBoxLayout;
    row->addWidget(forget_ = new QPushButton("Remove"));
    row->addWidget(all_ = new QPushButton("Remove all"));
    row->addStretch();
    auto* closing = new QPushButton("Close");
    row->addWidget(closing);
    column->addLayout(row);
    connect(closing, &QPushButton::clicked, this, &QDialog::accept);
    connect(forget_, &QPushButton::clicked, this, &TaughtSheet::forgetChosen);
    connect(all_, &QPushButton::clicked, this, [this] { document_.edit(forgetAllTaught()); });
    connect(&document_, &Document::changed, this, &TaughtSheet::fill);
    connect(&document_, &Document::replaced, this, &TaughtSheet::fill);
    fill();
  }

 protected:
  void keyPressEvent(QKeyEvent* event) override {
    event->key() == Qt::Key_Delete ? forgetChosen() : QDialog::keyPressEvent(event);
  }

 private:
  // Rows keep their place while values move.
  void fill() {
    const Session& s = document_.session();
    while (list_->topLevelItemCount() > std::ssize(s.taught)) delete list_->takeTopLevelItem(0);
    while (list_->topLevelItemCount() < std::ssize(s.taught)) new QTreeWidgetItem(list_);
    for (int i = 0; i < std::ssize(s.taught); ++i) {
      const Taught& t = s.taught[static_cast<size_t>(i)];
      QTreeWidgetItem* item = list_->topLevelItem(i);
      item->setText(0, QString::fromStdString(controlName(t.by)));
      item->setText(1, taughtWords(s, t));
      item->setText(2, nowText(s, t));
    }
    if (!list_->currentItem() && list_->topLevelItemCount()) list_->setCurrentItem(list_->topLevelItem(0));
    none_->setVisible(s.taught.empty());
    list_->setVisible(!s.taught.empty());
    for (QPushButton* b : {forget_, all_}) b->setEnabled(!s.taught.empty());
  }
  void forgetChosen() {
    const int at = list_->indexOfTopLevelItem(list_->currentItem());
    const auto& taught = document_.session().taught;
    if (at >= 0 && at < std::ssize(taught)) document_.edit(forget(Control(taught[static_cast<size_t>(at)].by)));
  }
  Document& document_;
  QLabel* none_;
  QTreeWidget* list_;
  QPushButton *forget_, *all_;
};

}  // namespace

void showTaught(Document& document, QWidget* window) {
  (new TaughtSheet(document, window))->show();
}

}  // namespace heft::app
