#include "app/shell/ledger_panel.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/plain_label.h"
#include "core/session/edits/files.h"

namespace heft::app {
namespace {

bool isOpenLine(const Finding& f) {
  return f.verdict != Verdict::Holds && !f.meantSo;
}

}  // namespace

LedgerPanel::LedgerPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName("Ledger");
  setAccessibleName("Ledger");
  setMinimumWidth(272);
  setMaximumWidth(560);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(1, 0, 0, 0);
  column->setSpacing(0);
  buildHead(column);
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
  const char* names[] = {"Fix group", "Your call group", "In range group"};
  for (size_t i = 0; i < heads_.size(); ++i) {
    auto* head = heads_[i] = new QPushButton;
    head->setObjectName(names[i]);
    head->setProperty("flat", true);
    head->setProperty("role", "group");
    head->setStyleSheet("text-align: left; padding: 8px 12px 5px 12px;");
    head->setFocusPolicy(i == 2 ? Qt::StrongFocus : Qt::NoFocus);
    head->setAttribute(Qt::WA_TransparentForMouseEvents, i != 2);
    column_->addWidget(head);
  }
  heads_[0]->setToolTip("Lines with a fix that was tried and helps, worst first");
  heads_[1]->setToolTip("Lines without a fix: judge by ear");
  heads_[2]->setToolTip("Unfolds what is in range and what is marked as intended");
  connect(heads_[2], &QPushButton::clicked, this, [this] {
    unfolded_ = !unfolded_;
    placeLines();
    refreshHeads();
  });
  column_->addStretch(1);
  scroll_->setWidget(inside);
  column->addWidget(scroll_, 1);
  connect(&document_, &Document::studied, this, &LedgerPanel::rebuild);
  connect(&document_, &Document::changed, this, &LedgerPanel::refreshState);
  connect(&document_, &Document::replaced, this, &LedgerPanel::startAnew);
  refreshState();
  refreshHeads();
}

void LedgerPanel::buildHead(QVBoxLayout* column) {
  auto* head = new QHBoxLayout;
  head->setContentsMargins(12, 8, 12, 6);
  auto* title = plainLabel("Ledger");
  title->setFont(bodyFont(true));
  state_ = plainLabel();
  state_->setObjectName("Ledger state");
  state_->setFont(axisFont());
  state_->setProperty("role", "muted");
  mendAll_ = new QPushButton("Fix all...");
  mendAll_->setObjectName("Fix all");
  mendAll_->setToolTip(
      "Lists every fix with its figures before and after; nothing changes until you apply (Ctrl+M)");
  connect(mendAll_, &QPushButton::clicked, this, &LedgerPanel::fixAllAsked);
  head->addWidget(title);
  head->addSpacing(8);
  head->addWidget(state_, 1);
  head->addWidget(mendAll_);
  column->addLayout(head);
  empty_ = plainLabel();
  empty_->setObjectName("Ledger without lines");
  empty_->setWordWrap(true);
  empty_->setContentsMargins(12, 4, 12, 0);
  empty_->setProperty("role", "muted");
  column->addWidget(empty_);
}

// Shows that figures are being updated, and that fixes are still being tried.
void LedgerPanel::refreshState() {
  const auto& findings = document_.findings();
  const bool any = std::any_of(findings.begin(), findings.end(), isOpenLine);
  state_->setText(!document_.isStudied()              ? "measuring..."
                  : any && !document_.remediesTried() ? "testing fixes..."
                                                      : QString());
  mendAll_->setEnabled(any && document_.isStudied());
  empty_->setText(
      QString("Measurements and fixes appear here once %1.")
          .arg(isWithoutSounds(document_.session()) ? "there is a sound" : "the track is measured"));
  empty_->setVisible(lines_.empty());
}

void LedgerPanel::refreshHeads() {
  std::array<int, 3> count{};
  int intended = 0;
  for (const LedgerLine* line : lines_) {
    ++count[static_cast<size_t>(line->group())];
    intended += line->finding().meantSo ? 1 : 0;
  }
  const QString beside = intended > 0 ? QString(", intended: %1").arg(intended) : QString();
  const QString words[] = {
      QString("Fix  %1").arg(count[0]), QString("Your call  %1").arg(count[1]),
      QString("In range: %1%2  %3").arg(count[2] - intended).arg(beside, unfolded_ ? "-" : "+")};
  for (size_t i = 0; i < heads_.size(); ++i) {
    if (heads_[i]->text() != words[i]) heads_[i]->setText(words[i]);
    heads_[i]->setVisible(count[i] > 0);
  }
}

void LedgerPanel::startAnew() {
  for (LedgerLine* line : lines_) {
    line->hide();
    line->deleteLater();
  }
  lines_.clear();
  groups_.clear();
  pressed_.clear();
  scroll_->verticalScrollBar()->setValue(0);
  refreshState();
  refreshHeads();
}

// While the pointer or the focus is among the lines, they keep their places.
bool LedgerPanel::isHeld() const {
  return underMouse() || isAncestorOf(QApplication::focusWidget());
}

// While its fixes are tried, a line stays in its group.
LedgerGroup LedgerPanel::groupOf(const Finding& f) const {
  if (!isOpenLine(f)) return LedgerGroup::InRange;
  if (f.remedy) return LedgerGroup::Fix;
  if (const auto was = groups_.find(f.id);
      !f.tried && was != groups_.end() && was->second != LedgerGroup::InRange)
    return was->second;
  const bool mayHelp = !f.options.empty() || f.byWaysToMakeRoom;
  return !f.tried && mayHelp ? LedgerGroup::Fix : LedgerGroup::Call;
}

LedgerLine* LedgerPanel::lineOf(const std::string& id) const {
  const auto at =
      std::find_if(lines_.begin(), lines_.end(), [&](LedgerLine* l) { return l->finding().id == id; });
  return at == lines_.end() ? nullptr : *at;
}

LedgerLine* LedgerPanel::addLine(const Finding& finding) {
  auto* line = new LedgerLine(finding, document_);
  connect(line, &LedgerLine::opened, this, &LedgerPanel::choose);
  connect(line, &LedgerLine::focused, this, [this, line] {
    for (LedgerLine* l : lines_) l->setChosen(l == line);
  });
  connect(line, &LedgerLine::remedyPressed, this, [this, line] { pressed_ = line->finding().id; });
  line->setFinding(finding, groupOf(finding));
  lines_.push_back(line);
  return line;
}

void LedgerPanel::choose(const Finding& finding) {
  for (LedgerLine* line : lines_) line->setChosen(line->finding().id == finding.id);
  Q_EMIT opened(finding);
}

void LedgerPanel::rebuild() {
  const auto& findings = document_.findings();
  const bool held = isHeld();
  for (LedgerLine* line : std::vector<LedgerLine*>(lines_)) {
    const auto known = std::find_if(findings.begin(), findings.end(),
                                    [&](const Finding& f) { return f.id == line->finding().id; });
    if (known != findings.end()) {
      // Under the pointer a line keeps its place, even once its fix is applied or none was found.
      const bool stays = held && line->group() != LedgerGroup::InRange;
      line->setFinding(*known, stays ? line->group() : groupOf(*known));
    } else if (held && isOpenLine(line->finding())) {
      line->setMended();
    } else if (!(held && line->isMended())) {
      std::erase(lines_, line);
      line->hide();
      line->deleteLater();
    }
  }
  for (const Finding& f : findings)
    if (!lineOf(f.id)) addLine(f);
  if (document_.remediesTried())
    for (const Finding& f : findings) groups_[f.id] = groupOf(f);
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
  refreshHeads();
  focusNextRemedy();
}

void LedgerPanel::placeLines() {
  int at = 0;
  for (size_t group = 0; group < heads_.size(); ++group) {
    auto put = [&](QWidget* w) {
      if (column_->indexOf(w) != at) {
        column_->removeWidget(w);
        column_->insertWidget(at, w);
      }
      ++at;
    };
    put(heads_[group]);
    for (LedgerLine* line : lines_) {
      if (static_cast<size_t>(line->group()) != group) continue;
      put(line);
      line->setVisible(line->group() != LedgerGroup::InRange || unfolded_);
    }
  }
  // At once, line by line and then the column, so that no line appears in its former height.
  // Twice, because a new scroll bar leaves the words less room.
  for (int pass = 0; pass < 2; ++pass) {
    for (LedgerLine* line : lines_) QCoreApplication::sendPostedEvents(line, QEvent::LayoutRequest);
    QCoreApplication::sendPostedEvents(scroll_->widget(), QEvent::LayoutRequest);
  }
}

// After a fix the focus moves to the next enabled one as soon as it is known.
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
