#include "app/shell/fix_sheet.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <tuple>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/plain_label.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kSheetWidth = 760, kMostHeight = 520, kFixRowHeight = 50, kFigureWidth = 76;
constexpr int kAroundRows = 134, kFewestRows = 3;

QString figure(double value, const std::string& unit) {
  const int decimals = unit == "dB" || unit == "dBTP" || unit == "semitones" ? 1 : 0;
  const std::string short_ = unit == "cents" ? "ct" : unit == "semitones" ? "st" : unit;
  const std::string number = fixedNumber(value, decimals);
  const bool sign =
      (unit == "dB" || unit == "cents" || unit == "semitones") && parseNumber(number).value_or(0) > 0;
  return QString::fromStdString((sign ? "+" : "") + number + (short_.empty() ? "" : " " + short_));
}

// "tune kick to A1" begins a row with a capital.
QString fixTitle(const std::string& words) {
  QString out = QString::fromStdString(words);
  if (!out.isEmpty()) out[0] = out[0].toUpper();
  return out;
}

QLabel* small(const QString& words) {
  auto* label = plainLabel(words);
  label->setFont(axisFont());
  label->setProperty("role", "muted");
  return label;
}

ElidedLabel* oneLine(const QString& words, const QColor& ink, const QFont& font) {
  auto* label = new ElidedLabel(font);
  label->setText(words, ink);
  return label;
}

QString yours(const std::vector<std::string>& replaced) {
  QStringList out;
  for (const std::string& r : replaced) out << QString::fromStdString(r);
  return out.isEmpty() ? QString("nothing of yours") : "your " + out.join(", ");
}

// The columns of a row, with their heads above.
QGridLayout* rowGrid(QWidget* of) {
  auto* grid = new QGridLayout(of);
  grid->setContentsMargins(0, 4, 0, 4);
  grid->setHorizontalSpacing(12);
  grid->setVerticalSpacing(1);
  grid->setColumnMinimumWidth(0, 26);
  for (const auto& [column, width] : {std::pair(2, kFigureWidth), std::pair(3, 14), std::pair(4, kFigureWidth)})
    grid->setColumnMinimumWidth(column, width);
  grid->setColumnStretch(1, 5);
  grid->setColumnStretch(5, 4);
  return grid;
}

QWidget* columnHeads() {
  auto* heads = new QWidget;
  auto* grid = rowGrid(heads);
  grid->setContentsMargins(0, 0, 8, 4);
  const std::tuple<int, const char*, Qt::AlignmentFlag> words[] = {
      {1, "Fix", Qt::AlignLeft},
      {2, "now", Qt::AlignRight},
      {4, "after", Qt::AlignLeft},
      {5, "Replaces, and side effects", Qt::AlignLeft}};
  for (const auto& [column, text, side] : words) {
    auto* label = new ElidedLabel(axisFont());
    label->setText(text, theme().muted, side);
    grid->addWidget(label, 0, column);
  }
  return heads;
}

}  // namespace

FixSheet::FixSheet(Document& document, QWidget* parent) : QFrame(parent), document_(document) {
  setObjectName("Fix list");
  setAccessibleName("Fix all: what it will do");
  setProperty(kAccessibleRole, QAccessible::Grouping);
  setFrameShape(QFrame::Box);
  setAutoFillBackground(true);
  setBackgroundRole(QPalette::Base);
  setFocusPolicy(Qt::StrongFocus);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 12);
  column->setSpacing(8);
  auto* head = new QHBoxLayout;
  title_ = plainLabel("Fix all: what it will do");
  title_->setFont(bodyFont(true));
  head->addWidget(title_, 1);
  head->addWidget(small("In working order. Each fix is tried with those above it."));
  column->addLayout(head);
  column->addWidget(columnHeads());
  scroll_ = new QScrollArea;
  scroll_->setObjectName("Fix rows");
  scroll_->setFocusPolicy(Qt::NoFocus);
  scroll_->setWidgetResizable(true);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  column->addWidget(scroll_, 1);
  auto* foot = new QHBoxLayout;
  auto* words = new QVBoxLayout;
  words->setSpacing(2);
  foot_ = plainLabel();
  foot_->setObjectName("Fix outcome");
  hint_ = small("Return applies them as one step to undo. Esc closes.");
  words->addWidget(foot_);
  words->addWidget(hint_);
  foot->addLayout(words, 1);
  before_ = new QPushButton("Hear before");
  after_ = new QPushButton("Hear after");
  apply_ = new QPushButton("Apply");
  before_->setToolTip("Plays the loop as it is");
  after_->setToolTip("Plays the loop with the ticked fixes, level matched");
  apply_->setProperty("role", "main");
  for (QPushButton* b : {before_, after_, apply_}) {
    foot->addWidget(b);
  }
  before_->setObjectName("Hear before");
  after_->setObjectName("Hear after");
  apply_->setObjectName("Apply fixes");
  apply_->setToolTip("Applies the ticked fixes as one step");
  connect(before_, &QPushButton::clicked, this, [this] { hear(false); });
  connect(after_, &QPushButton::clicked, this, [this] { hear(true); });
  connect(apply_, &QPushButton::clicked, this, &FixSheet::apply);
  column->addLayout(foot);
  connect(&document_, &Document::changed, this, [this] {
    if (isVisible() && plannedFor_ && *plannedFor_ != document_.session()) plan();
  });
  connect(&document_, &Document::replaced, this, &FixSheet::close);
  parent->installEventFilter(this);
  hide();
}

void FixSheet::open(int right, int top) {
  right_ = right, top_ = top;
  choice_ = {};
  rows_.clear();
  place();
  show();
  raise();
  setFocus(Qt::OtherFocusReason);
  plan();
}

void FixSheet::close() {
  stop_.request_stop();
  if (hearing_) hear(false);
  if (isVisible()) Q_EMIT left();
  hide();
}

void FixSheet::place() {
  const int width = std::min(kSheetWidth, right_ - 12);
  // As high as its rows, and no lower while they are tried again.
  const int wanted =
      kAroundRows + std::max<int>(kFewestRows, static_cast<int>(rows_.size())) * (kFixRowHeight + 1);
  const int height = std::min({kMostHeight, wanted, parentWidget()->height() - top_ - 12});
  setGeometry(right_ - width, top_, width, height);
}

bool FixSheet::eventFilter(QObject* object, QEvent* event) {
  if (event->type() == QEvent::Resize && isVisible()) right_ = parentWidget()->width() - 12, place();
  return QFrame::eventFilter(object, event);
}

void FixSheet::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) return close();
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return apply();
  QFrame::keyPressEvent(event);
}

void FixSheet::plan() {
  stop_.request_stop();
  stop_ = {};
  fixes_.reset();
  plannedFor_ = document_.session();
  showRows();
  document_.fixes().list(choice_, stop_.get_token(), [this](const MendedSession& fixes, const Session& was) {
    if (isVisible()) take(fixes, was);
  });
}

// Unticked fixes keep their row.
void FixSheet::take(const MendedSession& fixes, const Session& was) {
  std::vector<Row> rows;
  for (const Mended& m : fixes.mended) {
    Row row{m.id,
            fixTitle(m.name),
            QString::fromStdString(m.sentence),
            figure(m.was, m.unit),
            m.is ? figure(*m.is, m.unit) : QString("fixed"),
            yours(m.replaces),
            QString::fromStdString(m.price)};
    row.asks = choice_.agreed.contains(m.id);
    rows.push_back(row);
  }
  for (size_t i = 0; i < rows_.size(); ++i) {
    const bool left =
        std::find(choice_.without.begin(), choice_.without.end(), rows_[i].id) != choice_.without.end();
    if (!left) continue;
    rows_[i].ticked = false;
    rows.insert(rows.begin() + static_cast<ptrdiff_t>(std::min(i, rows.size())), rows_[i]);
  }
  for (const Finding& f : fixes.left) {
    if (!f.remedy || f.remedy->asks.empty()) continue;
    Row row{f.id,
            fixTitle(f.remedy->name()),
            QString::fromStdString(f.sentence),
            figure(f.value, f.unit),
            "",
            yours(f.remedy->replaces),
            "asks first: " + QString::fromStdString(f.remedy->asks)};
    row.ticked = false, row.asks = true;
    rows.push_back(row);
  }
  rows_ = std::move(rows);
  place();
  fixes_ = fixes, plannedFor_ = was;
  showRows();
  if (hearing_) hear(true);
}

QWidget* FixSheet::rowOf(const Row& row) {
  auto* line = new QWidget;
  line->setFixedHeight(kFixRowHeight);
  auto* grid = rowGrid(line);
  auto* box = new QCheckBox;
  box->setObjectName("Take " + QString::fromStdString(row.id));
  box->setAccessibleName(row.fix);
  box->setChecked(row.ticked);
  box->setEnabled(fixes_.has_value());
  connect(box, &QCheckBox::clicked, this,
          [this, id = row.id, asks = row.asks](bool on) { tick(id, on, asks); });
  const QColor ink = row.ticked && fixes_ ? theme().ink : theme().muted;
  grid->addWidget(box, 0, 0, 2, 1);
  grid->addWidget(oneLine(row.fix, ink, bodyFont()), 0, 1);
  grid->addWidget(oneLine(row.line, theme().muted, axisFont()), 1, 1);
  auto figureAt = [&](int column, const QString& text, bool strong, Qt::AlignmentFlag side) {
    auto* label = new ElidedLabel(bodyFont(strong));
    label->setText(text, ink, side);
    grid->addWidget(label, 0, column);
  };
  figureAt(2, row.was, false, Qt::AlignRight);
  figureAt(3, row.is.isEmpty() ? QString() : QString(QChar(0x2192)), false, Qt::AlignLeft);
  figureAt(4, row.is, true, Qt::AlignLeft);
  const bool nothing = row.replaces == "nothing of yours";
  grid->addWidget(oneLine(row.replaces, nothing ? theme().muted : ink, axisFont(!nothing)), 0, 5);
  grid->addWidget(oneLine(row.costs, theme().watch, axisFont()), 1, 5);
  return line;
}

// Inks are part of the rows' styles. From the event loop: the toolkit is going through all widgets here, and
// rows are made anew.
void FixSheet::changeEvent(QEvent* event) {
  QFrame::changeEvent(event);
  if (event->type() != QEvent::PaletteChange || light_ == light()) return;
  light_ = light();
  QTimer::singleShot(0, this, &FixSheet::showRows);
}

void FixSheet::showRows() {
  light_ = light();
  const QString focused =
      isAncestorOf(focusWidget()) && focusWidget() ? focusWidget()->objectName() : QString();
  auto* inside = new QWidget;
  auto* column = new QVBoxLayout(inside);
  column->setContentsMargins(0, 0, 8, 0);
  column->setSpacing(0);
  for (const Row& row : rows_) {
    column->addWidget(rowOf(row));
    auto* rule = new QFrame;
    rule->setFixedHeight(1);
    rule->setStyleSheet("background: " + theme().rule.name());
    column->addWidget(rule);
  }
  if (rows_.empty())
    column->addWidget(
        plainLabel(fixes_ ? "No fix helps without making something else worse." : "Testing fixes..."));
  column->addStretch(1);
  scroll_->setWidget(inside);
  if (!focused.isEmpty())
    if (auto* again = inside->findChild<QWidget*>(focused)) again->setFocus();
  refreshFoot();
}

void FixSheet::refreshFoot() {
  const size_t count = fixes_ ? fixes_->mended.size() : 0;
  apply_->setEnabled(count > 0);
  after_->setEnabled(count > 0);
  apply_->setText(count == 0 ? QString("Apply")
                             : QString("Apply %1 %2").arg(count).arg(count == 1 ? "fix" : "fixes"));
  if (!fixes_) return foot_->setText("Testing fixes...");
  const auto mendable = std::count_if(fixes_->left.begin(), fixes_->left.end(),
                                      [](const Finding& f) { return f.remedy.has_value(); });
  foot_->setText(QString("Afterwards: %1 to fix, %2 your call, %3 in range.")
                     .arg(mendable)
                     .arg(static_cast<int>(fixes_->left.size()) - mendable)
                     .arg(fixes_->inRange));
}

void FixSheet::tick(const std::string& id, bool on, bool asks) {
  std::erase(choice_.without, id);
  choice_.agreed.erase(id);
  if (!on && !asks) choice_.without.push_back(id);
  if (on && asks) choice_.agreed.insert(id);
  for (Row& row : rows_)
    if (row.id == id) row.ticked = on;
  plan();
}

void FixSheet::apply() {
  if (!fixes_ || !plannedFor_) return;
  const MendedSession fixes = *fixes_;
  const Session was = *plannedFor_;
  close();
  document_.fixes().applyList("fix all", fixes, was);
}

void FixSheet::hear(bool after) {
  hearing_ = after && fixes_;
  Q_EMIT heard(hearing_ ? std::optional(become("with fixes", fixes_->session)) : std::nullopt);
}

}  // namespace heft::app
