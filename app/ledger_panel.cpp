#include "app/ledger_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace heft::app {

LedgerLine::LedgerLine(Finding finding, Document& document, QWidget* parent)
    : QWidget(parent), finding_(std::move(finding)) {
  setObjectName("Ledger " + QString::fromStdString(finding_.id));
  setAccessibleName(
      QString::fromStdString(std::string(verdictName(finding_.verdict)) + ": " + finding_.sentence));
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(32, 10, 12, 10);
  row->setSpacing(8);
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  auto* sentence = new QLabel(QString::fromStdString(finding_.sentence));
  sentence->setWordWrap(true);
  if (finding_.meantSo) sentence->setProperty("role", "muted");
  auto* figures = new QLabel(QString::fromStdString(finding_.measured) + "\n" + "target " +
                             QString::fromStdString(finding_.target));
  figures->setFont(axisFont());
  figures->setWordWrap(true);
  figures->setProperty("role", "muted");
  words->addWidget(sentence);
  words->addWidget(figures);
  row->addLayout(words, 1);
  auto* buttons = new QVBoxLayout;
  buttons->setSpacing(2);
  Document* doc = &document;
  if (finding_.remedy && !finding_.meantSo) {
    auto* fix = new QPushButton(QString::fromStdString(finding_.remedy->label));
    fix->setObjectName("Remedy " + QString::fromStdString(finding_.id));
    fix->setAccessibleName(QString::fromStdString(finding_.remedy->name));
    fix->setToolTip(QString::fromStdString("Does it: " + finding_.remedy->name));
    connect(fix, &QPushButton::clicked, this, [this, doc] { doc->apply(Finding(finding_)); });
    buttons->addWidget(fix, 0, Qt::AlignRight);
  }
  if (finding_.verdict != Verdict::Holds || finding_.meantSo) {
    auto* meant = new QPushButton(finding_.meantSo ? "judge again" : "meant so");
    meant->setObjectName("Meant so " + QString::fromStdString(finding_.id));
    meant->setProperty("flat", true);
    meant->setFont(axisFont());
    meant->setProperty("role", "muted");
    meant->setStyleSheet("font-size: 11px;");
    meant->setToolTip(finding_.meantSo ? "Lets the Ledger judge this line again"
                                       : "Wanted as it is: the line rests");
    connect(meant, &QPushButton::clicked, this,
            [this, doc] { doc->setMeantSo(finding_.id, !finding_.meantSo); });
    buttons->addWidget(meant, 0, Qt::AlignRight);
  }
  buttons->addStretch(1);
  row->addLayout(buttons);
}

void LedgerLine::paintEvent(QPaintEvent*) {
  QPainter p(this);
  drawVerdict(p, QPointF(18, 20), finding_.verdict, finding_.meantSo);
  p.setPen(theme().rule);
  p.drawLine(QPointF(12, height() - 0.5), QPointF(width() - 12, height() - 0.5));
  if (!hasFocus()) return;
  p.setPen(theme().bass);
  p.drawRect(QRectF(rect()).adjusted(4.5, 2.5, -4.5, -3.5));
}

void LedgerLine::mousePressEvent(QMouseEvent*) {
  Q_EMIT opened(finding_);
}

void LedgerLine::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
    Q_EMIT opened(finding_);
  else
    QWidget::keyPressEvent(event);
}

LedgerPanel::LedgerPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName("Ledger");
  setAccessibleName("Ledger");
  setFixedWidth(272);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 0, 0, 0);
  column->setSpacing(0);
  auto* title = new QLabel("Ledger");
  title->setFont(bodyFont(true));
  title->setContentsMargins(12, 14, 12, 8);
  column->addWidget(title);
  empty_ = new QLabel(
      "What is measured and what could be better will stand here, each line with the move that mends it.");
  empty_->setWordWrap(true);
  empty_->setContentsMargins(12, 4, 12, 0);
  empty_->setProperty("role", "muted");
  column->addWidget(empty_);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  lines_ = new QVBoxLayout(inside);
  lines_->setContentsMargins(0, 0, 0, 0);
  lines_->setSpacing(0);
  lines_->addStretch(1);
  scroll->setWidget(inside);
  column->addWidget(scroll, 1);
  connect(&document_, &Document::studied, this, &LedgerPanel::rebuild);
}

void LedgerPanel::rebuild() {
  while (lines_->count() > 1) {
    QLayoutItem* item = lines_->takeAt(0);
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  const auto& findings = document_.findings();
  empty_->setVisible(findings.empty());
  for (const Finding& f : findings) {
    auto* line = new LedgerLine(f, document_);
    connect(line, &LedgerLine::opened, this, &LedgerPanel::opened);
    lines_->insertWidget(lines_->count() - 1, line);
  }
}

void LedgerPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().page);
  p.setPen(theme().rule);
  p.drawLine(QPointF(0.5, 0), QPointF(0.5, height()));
}

}  // namespace heft::app
