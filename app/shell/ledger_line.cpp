#include "app/shell/ledger_line.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <map>
#include <tuple>

#include "app/shell/hit_row.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/elided_label.h"
#include "app/widgets/plain_label.h"
#include "core/session/edits/over_section.h"

namespace heft::app {
namespace {

constexpr int kFootHeight = 28, kFixWidth = 112;

bool isOpen(const Finding& f) {
  return f.verdict != Verdict::Holds && !f.meantSo;
}

// The ampersand of a part called "R&B" is no mnemonic.
QString buttonText(const std::string& words) {
  return QString::fromStdString(words).replace('&', "&&");
}

QString listOf(const std::vector<std::string>& words) {
  QStringList out;
  for (const std::string& w : words) out << QString::fromStdString(w);
  return out.join(", ");
}

}  // namespace

LedgerLine::LedgerLine(Finding finding, Document& document, QWidget* parent)
    : QWidget(parent), finding_(std::move(finding)), document_(document) {
  setProperty(kAccessibleRole, QAccessible::ListItem);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(32, 8, 12, 6);
  column->setSpacing(1);
  sentence_ = plainLabel();
  sentence_->setWordWrap(true);
  figures_ = new ElidedLabel(axisFont());
  target_ = new ElidedLabel(axisFont());
  price_ = new ElidedLabel(axisFont());
  hits_ = new HitRow;
  connect(hits_, &HitRow::chosen, this, [this](int hit) { open(hit); });
  meant_ = new QPushButton;
  meant_->setProperty("flat", true);
  connect(meant_, &QPushButton::clicked, this,
          [this] { document_.fixes().setMeantSo(finding_.id, !finding_.meantSo); });
  auto* aim = new QHBoxLayout;
  aim->setSpacing(8);
  aim->addWidget(target_, 1);
  aim->addWidget(meant_);
  fix_ = new QPushButton;
  fix_->setMinimumWidth(kFixWidth);
  fix_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  connect(fix_, &QPushButton::clicked, this, &LedgerLine::press);
  foot_ = new QWidget;
  foot_->setFixedHeight(kFootHeight);
  auto* row = new QHBoxLayout(foot_);
  row->setContentsMargins(0, 2, 0, 0);
  row->setSpacing(8);
  row->addWidget(hits_, 1);
  row->addWidget(fix_, 0, Qt::AlignRight);
  auto* sections = new QWidget;
  sections_ = new QHBoxLayout(sections);
  sections_->setContentsMargins(0, 2, 0, 0);
  column->addWidget(sentence_);
  column->addWidget(figures_);
  column->addLayout(aim);
  column->addWidget(sections);
  column->addWidget(foot_);
  column->addWidget(price_);
  refresh();
}

void LedgerLine::setFinding(const Finding& finding, LedgerGroup group) {
  auto shown = [](const Finding& f) {
    return std::tie(f.id, f.verdict, f.sentence, f.measured, f.target, f.tried, f.meantSo, f.hit, f.hits);
  };
  auto done = [](const Finding& f) {
    return f.remedy ? std::optional(std::tuple(f.remedy->name(), f.remedy->label, f.remedy->price,
                                               f.remedy->asks, f.remedy->replaces))
                    : std::nullopt;
  };
  const bool same =
      !mended_ && group == group_ && shown(finding) == shown(finding_) && done(finding) == done(finding_);
  finding_ = finding, group_ = group;
  mended_ = false;
  if (!same) refresh();
}

void LedgerLine::setMended() {
  mended_ = true;
  refresh();
}

void LedgerLine::setChosen(bool chosen) {
  if (chosen == chosen_) return;
  chosen_ = chosen;
  refreshMeant();
  update();
}

QPushButton* LedgerLine::openRemedy() const {
  return fix_->isVisibleTo(this) && fix_->isEnabled() ? fix_ : nullptr;
}

void LedgerLine::refresh() {
  light_ = light();
  setObjectName("Ledger " + QString::fromStdString(finding_.id));
  refreshWords();
  refreshFix();
  refreshMeant();
  updateGeometry();
  update();
}

void LedgerLine::refreshWords() {
  const QString sentence = QString::fromStdString(finding_.sentence);
  const QString verdict = mended_ ? "fixed" : finding_.meantSo ? "intended" : verdictWord(finding_.verdict);
  setAccessibleName(verdict + ": " + sentence);
  sentence_->setText(sentence);
  const bool rests = finding_.meantSo || mended_;
  sentence_->setStyleSheet(rests ? "color: " + theme().muted.name() : QString());
  figures_->setText(mended_ ? QString("fixed") : QString::fromStdString(finding_.measured), theme().muted);
  target_->setText(mended_ ? QString() : "target " + QString::fromStdString(finding_.target), theme().muted);
  hits_->setHits(rests ? std::vector<HitLine>() : finding_.hits);
  // Names need a row of their own, numbers fit beside the button.
  auto* foot = static_cast<QHBoxLayout*>(foot_->layout());
  if (hits_->bySection())
    sections_->addWidget(hits_);
  else
    foot->insertWidget(0, hits_, 1);
}

// The foot stays while a fix is tried, and when none was found.
void LedgerLine::refreshFix() {
  const QString id = QString::fromStdString(finding_.id);
  const bool open = isOpen(finding_) && !mended_;
  const bool helps = open && finding_.remedy.has_value(), trying = open && !finding_.tried;
  const bool inFix = group_ == LedgerGroup::Fix;
  const bool aboutHits = !hits_->isEmpty(), bySection = aboutHits && hits_->bySection();
  foot_->setVisible(inFix || (aboutHits && !bySection));
  sections_->parentWidget()->setVisible(bySection);
  hits_->setVisible(aboutHits);
  price_->setVisible(inFix);
  // A vanishing button leaves the focus on its line.
  if (!helps && fix_->hasFocus()) setFocus();
  fix_->setVisible(inFix && (helps || trying));
  fix_->setEnabled(helps);
  fix_->setObjectName(helps ? "Remedy " + id : QString());
  say(open && !trying && !helps ? QString("no fix found; judge by ear") : QString(), theme().muted);
  if (trying) {
    fix_->setText("testing...");
    fix_->setToolTip("Heft tries the fixes of this line on a copy of the session");
  }
  if (!helps) return;
  const Remedy& r = *finding_.remedy;
  fix_->setText(buttonText(r.label) + (r.asks.empty() ? "" : "..."));
  fix_->setAccessibleName(QString::fromStdString(r.name()));
  const QString replaced = listOf(r.replaces);
  QString tip = "Applies: " + QString::fromStdString(r.name());
  if (!replaced.isEmpty()) tip += "\nReplaces your " + replaced;
  if (!r.price.empty()) tip += "\nSide effect: " + QString::fromStdString(r.price);
  if (finding_.options.size() > 1) tip += "\nRight click on the line: other fixes";
  fix_->setToolTip(tipText(tip));
  if (!r.asks.empty())
    say("asks first: " + QString::fromStdString(r.asks), theme().watch);
  else if (!r.price.empty())
    say("side effect: " + QString::fromStdString(r.price), theme().watch);
  else if (!replaced.isEmpty())
    say("replaces your " + replaced, theme().muted);
}

void LedgerLine::say(const QString& words, const QColor& ink) {
  price_->setText(words, ink);
}

void LedgerLine::refreshMeant() {
  const bool can = !mended_ && (finding_.verdict != Verdict::Holds || finding_.meantSo);
  meant_->setObjectName("Intended " + QString::fromStdString(finding_.id));
  meant_->setText(finding_.meantSo ? "judge again" : "intended");
  meant_->setStyleSheet("padding: 0 2px; color: " + theme().muted.name());
  meant_->setToolTip(finding_.meantSo ? "Check this line again" : "Mark as intended and stop checking it");
  meant_->setFixedHeight(QFontMetrics(axisFont()).height());
  meant_->setFont(axisFont());
  meant_->setVisible(can && (chosen_ || finding_.meantSo));
}

void LedgerLine::press() {
  if (!finding_.remedy) return;
  applyOrAsk(*finding_.remedy);
}

void LedgerLine::applyOrAsk(const Remedy& remedy) {
  if (!remedy.asks.empty()) return ask(remedy);
  Q_EMIT remedyPressed();
  document_.edit(remedy.edit());
}

// Drastic fixes ask first.
void LedgerLine::ask(const Remedy& r) {
  auto* menu = new QMenu(this);
  menu->setObjectName("Fix question");
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addAction("This " + QString::fromStdString(r.asks))->setEnabled(false);
  if (!r.replaces.empty()) menu->addAction("and replaces your " + listOf(r.replaces))->setEnabled(false);
  menu->addSeparator();
  connect(menu->addAction(buttonText(r.label)), &QAction::triggered, this, [this, edit = r.edit()] {
    Q_EMIT remedyPressed();
    document_.edit(edit);
  });
  menu->addAction("Cancel");
  const QWidget* under = fix_->isVisible() ? static_cast<const QWidget*>(fix_) : this;
  menu->popup(under->mapToGlobal(QPoint(0, under->height())));
}

// Fixes besides the one on the button: tried once chosen, so that they say their side effect and ask.
void LedgerLine::offerOthers(QMenu& menu) {
  std::map<std::string, const Remedy*> others;  // by name: a line may list a move twice
  for (const Remedy& r : finding_.options)
    if (!finding_.remedy || r.name() != finding_.remedy->name()) others.emplace(r.name(), &r);
  if (others.empty() || mended_ || finding_.meantSo) return;
  menu.addSeparator();
  menu.addAction("Other fixes")->setEnabled(false);
  for (const auto& [name, r] : others) {
    const auto alike = [&, label = r->label](const auto& other) { return other.second->label == label; };
    const bool twice = std::count_if(others.begin(), others.end(), alike) > 1;
    QString words = QString::fromStdString(twice ? name : r->label);
    words.replace(0, 1, words.left(1).toUpper());
    connect(menu.addAction(words.replace("&", "&&")), &QAction::triggered, this, [this, other = *r] {
      document_.fixes().weigh(other, [self = QPointer(this)](const Remedy& tried) {
        if (!self) return;
        Document& document = self->document_;
        self->applyOrAsk(tried);
        if (tried.asks.empty() && !tried.price.empty())
          document.tell("Side effect: " + QString::fromStdString(tried.price) + ".");
      });
    });
  }
}

// The same fix for one section alone, where it can be automated.
void LedgerLine::offerSections(QMenu& menu) {
  const Session& s = document_.session();
  if (!openRemedy() || s.sections.empty()) return;
  QMenu* in = menu.addMenu("Only in");
  for (const TrackSection& section : s.sections) {
    const bool out = std::any_of(finding_.hits.begin(), finding_.hits.end(), [&](const HitLine& h) {
      return h.section == section.name && h.verdict != Verdict::Holds;
    });
    const auto edit = overSection(s, finding_.remedy->edit(), section.id);
    if (!edit || (!finding_.hits.empty() && !out)) continue;
    connect(in->addAction(QString::fromStdString(section.name).replace("&", "&&")), &QAction::triggered, this,
            [this, edit = *edit] {
              Q_EMIT remedyPressed();
              document_.edit(edit);
            });
  }
  in->menuAction()->setVisible(!in->isEmpty());
}

void LedgerLine::contextMenuEvent(QContextMenuEvent* event) {
  auto* menu = new QMenu(this);
  menu->setObjectName("Ledger menu");
  menu->setAttribute(Qt::WA_DeleteOnClose);
  if (openRemedy()) connect(menu->addAction(fix_->text()), &QAction::triggered, this, &LedgerLine::press);
  offerSections(*menu);
  offerOthers(*menu);
  if (!mended_ && (finding_.verdict != Verdict::Holds || finding_.meantSo)) {
    menu->addSeparator();
    connect(menu->addAction(finding_.meantSo ? "Judge again" : "Mark as intended"), &QAction::triggered, meant_,
            &QPushButton::click);
  }
  if (menu->isEmpty()) return delete menu;
  menu->popup(event->globalPos());
}

void LedgerLine::open(std::optional<int> hit) {
  Finding f = finding_;
  if (hit) f.hit = hit;
  Q_EMIT opened(f);
}

void LedgerLine::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (chosen_) p.fillRect(QRectF(rect()).adjusted(1, 0, 0, -1), withAlpha(theme().rule, 0.35));
  drawVerdict(p, QPointF(18, 17), mended_ ? Verdict::Holds : finding_.verdict, finding_.meantSo);
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
  open({});
}

void LedgerLine::focusInEvent(QFocusEvent* event) {
  QWidget::focusInEvent(event);
  Q_EMIT focused();
  update();
}

void LedgerLine::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  if (way != 0) {
    if (const auto hit = hits_->step(way)) open(hit);
  } else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    open({});
  } else {
    QWidget::keyPressEvent(event);
  }
}

}  // namespace heft::app
