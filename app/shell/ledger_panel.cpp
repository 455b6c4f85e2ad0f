#include "app/shell/ledger_panel.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QVBoxLayout>
#include <algorithm>
#include <tuple>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/plain_label.h"

namespace heft::app {
namespace {

QLabel* wrappedLabel() {
  auto* label = plainLabel();
  label->setWordWrap(true);
  return label;
}

// Whether their lines look and do the same.
bool isAlike(const Finding& a, const Finding& b) {
  auto shown = [](const Finding& f) {
    return std::tie(f.id, f.verdict, f.sentence, f.measured, f.target, f.tried, f.meantSo, f.hit);
  };
  auto done = [](const Finding& f) {
    return f.remedy ? std::optional(std::tuple(f.remedy->name(), f.remedy->label, f.remedy->price))
                    : std::nullopt;
  };
  return shown(a) == shown(b) && done(a) == done(b);
}

bool isOpen(const Finding& f) {
  return f.verdict != Verdict::Holds && !f.meantSo;
}

}  // namespace

LedgerLine::LedgerLine(Finding finding, Document& document, QWidget* parent)
    : QWidget(parent), finding_(std::move(finding)), document_(document) {
  setProperty(kAccessibleRole, QAccessible::ListItem);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(32, 10, 12, 10);
  row->setSpacing(8);
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  sentence_ = wrappedLabel();
  figures_ = wrappedLabel();
  price_ = wrappedLabel();
  for (QLabel* small : {figures_, price_}) small->setFont(axisFont());
  figures_->setProperty("role", "muted");
  for (QLabel* label : {sentence_, figures_, price_}) words->addWidget(label);
  row->addLayout(words, 1);
  auto* buttons = new QVBoxLayout;
  buttons->setSpacing(2);
  fix_ = new QPushButton;
  connect(fix_, &QPushButton::clicked, this, [this] {
    Q_EMIT remedyPressed();
    document_.apply(Finding(finding_));
  });
  buttons->addWidget(fix_, 0, Qt::AlignRight);
  meant_ = new QPushButton;
  meant_->setProperty("flat", true);
  connect(meant_, &QPushButton::clicked, this,
          [this] { document_.setMeantSo(finding_.id, !finding_.meantSo); });
  buttons->addWidget(meant_, 0, Qt::AlignRight);
  buttons->addStretch(1);
  row->addLayout(buttons);
  refresh();
}

void LedgerLine::setFinding(const Finding& finding) {
  const bool same = !mended_ && isAlike(finding, finding_);
  finding_ = finding;
  mended_ = false;
  if (!same) refresh();
}

void LedgerLine::setMended() {
  mended_ = true;
  refresh();
}

QPushButton* LedgerLine::openRemedy() const {
  return fix_->isVisibleTo(this) ? fix_ : nullptr;
}

void LedgerLine::refresh() {
  light_ = light();
  const QString id = QString::fromStdString(finding_.id);
  setObjectName("Ledger " + id);
  const QString sentence = QString::fromStdString(finding_.sentence);
  const QString verdict = mended_ ? "fixed" : finding_.meantSo ? "intended" : verdictWord(finding_.verdict);
  setAccessibleName(verdict + ": " + sentence);
  sentence_->setText(sentence);
  sentence_->setStyleSheet(finding_.meantSo || mended_ ? "color: " + theme().muted.name() : QString());
  figures_->setText(mended_ ? QString("fixed")
                            : QString::fromStdString(finding_.measured) + "\ntarget " +
                                  QString::fromStdString(finding_.target));
  const bool open = isOpen(finding_) && !mended_;
  const bool helps = open && finding_.remedy.has_value();
  const QString price = helps ? QString::fromStdString(finding_.remedy->price) : QString();
  price_->setText(!price.isEmpty()                             ? "side effect: " + price
                  : open && finding_.tried && !finding_.remedy ? QString("no fix found; judge by ear")
                                                               : QString());
  price_->setVisible(!price_->text().isEmpty());
  price_->setStyleSheet("color: " + (price.isEmpty() ? theme().muted : theme().watch).name());
  // A button that goes takes the focus nowhere: it stays on the line.
  if (!helps && fix_->hasFocus()) setFocus();
  fix_->setVisible(helps);
  if (helps) {
    fix_->setObjectName("Remedy " + id);
    fix_->setText(QString::fromStdString(finding_.remedy->label));
    fix_->setAccessibleName(QString::fromStdString(finding_.remedy->name()));
    fix_->setToolTip(tipText(QString::fromStdString("Does it: " + finding_.remedy->name())));
  }
  meant_->setObjectName("Intended " + id);
  meant_->setText(finding_.meantSo ? "judge again" : "intended");
  meant_->setStyleSheet("color: " + theme().muted.name());
  meant_->setToolTip(finding_.meantSo ? "Check this line again" : "Mark as intended and stop checking it");
  meant_->setVisible(!mended_ && (finding_.verdict != Verdict::Holds || finding_.meantSo));
  updateGeometry();
  update();
}

void LedgerLine::paintEvent(QPaintEvent*) {
  QPainter p(this);
  drawVerdict(p, QPointF(18, 20), mended_ ? Verdict::Holds : finding_.verdict, finding_.meantSo);
  p.setPen(theme().rule);
  p.drawLine(QPointF(12, height() - 0.5), QPointF(width() - 12, height() - 0.5));
  if (!hasFocus()) return;
  p.setPen(theme().bass);
  p.drawRect(QRectF(rect()).adjusted(4.5, 2.5, -4.5, -3.5));
}

// Inks are part of the labels' styles.
void LedgerLine::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  if (event->type() == QEvent::PaletteChange && light_ != light()) refresh();
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
  setMinimumWidth(272);
  setMaximumWidth(560);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 0, 0, 0);
  column->setSpacing(0);
  auto* head = new QHBoxLayout;
  head->setContentsMargins(12, 8, 12, 6);
  auto* title = plainLabel("Ledger");
  title->setFont(bodyFont(true));
  state_ = plainLabel();
  state_->setObjectName("Ledger state");
  state_->setFont(axisFont());
  state_->setProperty("role", "muted");
  mendAll_ = new QPushButton("Fix all");
  mendAll_->setObjectName("Fix all");
  mendAll_->setToolTip(
      "Apply all fixes in working order as one step, if no line gets worse. Intended lines stay (Ctrl+M)");
  connect(mendAll_, &QPushButton::clicked, this, &LedgerPanel::mendAll);
  head->addWidget(title);
  head->addWidget(state_, 1);
  head->addWidget(mendAll_);
  column->addLayout(head);
  empty_ = plainLabel("Measurements and fixes appear here once there is a sound.");
  empty_->setWordWrap(true);
  empty_->setContentsMargins(12, 4, 12, 0);
  empty_->setProperty("role", "muted");
  column->addWidget(empty_);
  scroll_ = new QScrollArea;
  scroll_->setObjectName("Ledger lines");
  scroll_->setFocusPolicy(Qt::NoFocus);
  scroll_->setWidgetResizable(true);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  column_ = new QVBoxLayout(inside);
  column_->setContentsMargins(0, 0, 0, 0);
  column_->setSpacing(0);
  column_->addStretch(1);
  scroll_->setWidget(inside);
  column->addWidget(scroll_, 1);
  connect(&document_, &Document::studied, this, &LedgerPanel::rebuild);
  connect(&document_, &Document::changed, this, &LedgerPanel::refreshState);
  connect(&document_, &Document::replaced, this, &LedgerPanel::startAnew);
  refreshState();
}

// What is being made anew is said, and so is that remedies are still being tried.
void LedgerPanel::refreshState() {
  const auto& findings = document_.findings();
  const bool any = std::any_of(findings.begin(), findings.end(), isOpen);
  state_->setText(!document_.isStudied()              ? "measuring..."
                  : any && !document_.remediesTried() ? "testing fixes..."
                                                      : QString());
  mendAll_->setEnabled(any && document_.isStudied());
  empty_->setVisible(lines_.empty());
}

void LedgerPanel::mendAll() {
  if (mendAll_->isEnabled()) document_.mendAll();
}

void LedgerPanel::startAnew() {
  for (LedgerLine* line : lines_) {
    line->hide();
    line->deleteLater();
  }
  lines_.clear();
  pressed_.clear();
  scroll_->verticalScrollBar()->setValue(0);
  refreshState();
}

// While somebody points at the lines, or has the focus among them, they keep their places.
bool LedgerPanel::isHeld() const {
  return underMouse() || isAncestorOf(QApplication::focusWidget());
}

LedgerLine* LedgerPanel::lineOf(const std::string& id) const {
  const auto at =
      std::find_if(lines_.begin(), lines_.end(), [&](LedgerLine* l) { return l->finding().id == id; });
  return at == lines_.end() ? nullptr : *at;
}

LedgerLine* LedgerPanel::addLine(const Finding& finding) {
  auto* line = new LedgerLine(finding, document_);
  connect(line, &LedgerLine::opened, this, &LedgerPanel::opened);
  connect(line, &LedgerLine::remedyPressed, this, [this, line] { pressed_ = line->finding().id; });
  lines_.push_back(line);
  return line;
}

void LedgerPanel::rebuild() {
  const auto& findings = document_.findings();
  const bool held = isHeld();
  for (LedgerLine* line : std::vector<LedgerLine*>(lines_)) {
    const auto known = std::find_if(findings.begin(), findings.end(),
                                    [&](const Finding& f) { return f.id == line->finding().id; });
    if (known != findings.end()) {
      line->setFinding(*known);
    } else if (held && isOpen(line->finding())) {
      line->setMended();
    } else if (!(held && line->isMended())) {
      std::erase(lines_, line);
      line->hide();
      line->deleteLater();
    }
  }
  for (const Finding& f : findings)
    if (!lineOf(f.id)) addLine(f);
  if (!held) {
    std::stable_sort(lines_.begin(), lines_.end(), [&](LedgerLine* a, LedgerLine* b) {
      auto place = [&](LedgerLine* l) {
        return std::find_if(findings.begin(), findings.end(),
                            [&](const Finding& f) { return f.id == l->finding().id; }) -
               findings.begin();
      };
      return place(a) < place(b);
    });
  }
  placeLines();
  refreshState();
  focusNextRemedy();
}

void LedgerPanel::placeLines() {
  for (size_t i = 0; i < lines_.size(); ++i)
    if (column_->indexOf(lines_[i]) != static_cast<int>(i)) {
      column_->removeWidget(lines_[i]);
      column_->insertWidget(static_cast<int>(i), lines_[i]);
      lines_[i]->show();
    }
  // At once, line by line and then the column, so that no line is seen in the height that it had.
  for (LedgerLine* line : lines_) QCoreApplication::sendPostedEvents(line, QEvent::LayoutRequest);
  QCoreApplication::sendPostedEvents(scroll_->widget(), QEvent::LayoutRequest);
}

// After a remedy the focus goes to the next one that can be pressed, as soon as it is known.
void LedgerPanel::focusNextRemedy() {
  if (pressed_.empty() || !document_.isStudied()) return;
  const auto from =
      std::find_if(lines_.begin(), lines_.end(), [&](LedgerLine* l) { return l->finding().id == pressed_; });
  const size_t start = from == lines_.end() ? 0 : static_cast<size_t>(from - lines_.begin());
  for (size_t i = 0; i < lines_.size(); ++i) {
    LedgerLine* line = lines_[(start + i) % lines_.size()];
    if (QPushButton* next = line->openRemedy(); next && isAncestorOf(QApplication::focusWidget())) {
      next->setFocus();
      pressed_.clear();
      return;
    }
  }
  if (document_.remediesTried()) pressed_.clear();
}

void LedgerPanel::leaveEvent(QEvent* event) {
  QWidget::leaveEvent(event);
  if (!isHeld()) rebuild();
}

void LedgerPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().page);
  p.setPen(theme().rule);
  p.drawLine(QPointF(0.5, 0), QPointF(0.5, height()));
}

}  // namespace heft::app
