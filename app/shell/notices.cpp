#include "app/shell/notices.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QPainter>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/plain_label.h"

namespace heft::app {
namespace {

constexpr size_t kMostAnswers = 5;
constexpr int kNewsMs = 4000, kFaultMs = 8000, kMsPerLetter = 40;

}  // namespace

NoticeBar::NoticeBar(QWidget* parent) : QWidget(parent) {
  setObjectName("Notice");
  setProperty(kAccessibleRole, QAccessible::Notification);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 6, 12, 6);
  words_ = plainLabel();
  words_->setObjectName("Notice words");
  words_->setWordWrap(true);
  row->addWidget(words_, 1);
  for (size_t i = 0; i < kMostAnswers; ++i) {
    auto* button = new QPushButton;
    button->setObjectName(i == 0 ? QString("Notice yes") : QString("Notice answer %1").arg(i + 1));
    connect(button, &QPushButton::clicked, this, [this, i] { answer(i); });
    row->addWidget(button);
    answers_.push_back(button);
  }
  no_ = new QPushButton;
  no_->setObjectName("Notice no");
  row->addWidget(no_);
  connect(no_, &QPushButton::clicked, this, [this] { news_ ? showOffer() : answer(std::nullopt); });
  gone_.setSingleShot(true);
  connect(&gone_, &QTimer::timeout, this, [this] {
    if (underMouse() || isAncestorOf(QApplication::focusWidget())) return gone_.start();
    showOffer();
  });
  hide();
}

void NoticeBar::say(const QString& sentence, bool fault) {
  // A pending offer returns after it.
  news_ = true;
  fault_ = fault;
  words_->setText(sentence);
  setAccessibleName(sentence);
  for (QPushButton* button : answers_) button->hide();
  no_->setText("Close");
  show();
  update();
  gone_.start((fault ? kFaultMs : kNewsMs) + kMsPerLetter * static_cast<int>(sentence.size()));
}

void NoticeBar::passNews() {
  if (news_ && !fault_) showOffer();
}

void NoticeBar::forget() {
  offers_.clear();
  showOffer();
}

void NoticeBar::offer(const QString& about, const QString& sentence, std::vector<Answer> answers,
                      Answer decline) {
  const auto same =
      std::find_if(offers_.begin(), offers_.end(), [&](const Offer& o) { return o.about == about; });
  answers.resize(std::min(answers.size(), kMostAnswers));
  Offer fresh{about, sentence, std::move(answers), std::move(decline)};
  if (same != offers_.end())
    *same = std::move(fresh);
  else
    offers_.push_back(std::move(fresh));
  showOffer();
}

void NoticeBar::showOffer() {
  news_ = false;
  gone_.stop();
  if (offers_.empty()) return hide();
  fault_ = false;
  const Offer& first = offers_.front();
  words_->setText(first.sentence);
  for (size_t i = 0; i < answers_.size(); ++i) {
    answers_[i]->setVisible(i < first.answers.size());
    if (i < first.answers.size()) answers_[i]->setText(first.answers[i].words);
  }
  no_->setText(first.decline.words);
  show();
  update();
}

void NoticeBar::answer(std::optional<size_t> chosen) {
  if (offers_.empty()) return hide();
  const Offer answered = std::move(offers_.front());
  offers_.erase(offers_.begin());
  showOffer();
  const Answer& said =
      chosen && *chosen < answered.answers.size() ? answered.answers[*chosen] : answered.decline;
  if (said.doIt) said.doIt();
}

void NoticeBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().panel);
  p.fillRect(QRectF(0, 0, 4, height()), fault_ ? theme().off : theme().holds);
  p.setPen(theme().ink);
  p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

OverPage::OverPage(QStackedWidget* page, std::vector<QWidget*> notes) : QWidget(page->window()), page_(page) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  for (QWidget* note : notes) {
    column->addWidget(note);
    note->installEventFilter(this);
  }
  page->installEventFilter(this);
  connect(page, &QStackedWidget::currentChanged, this,
          [this] { QMetaObject::invokeMethod(this, &OverPage::place, Qt::QueuedConnection); });
  hide();
}

bool OverPage::eventFilter(QObject* object, QEvent* event) {
  const auto type = event->type();
  if (type == QEvent::Resize || type == QEvent::Move || type == QEvent::ShowToParent ||
      type == QEvent::HideToParent || type == QEvent::LayoutRequest)
    QMetaObject::invokeMethod(this, &OverPage::place, Qt::QueuedConnection);
  return QWidget::eventFilter(object, event);
}

void OverPage::place() {
  bool any = false;
  for (int i = 0; i < layout()->count(); ++i) any = any || !layout()->itemAt(i)->widget()->isHidden();
  if (any && parentWidget()) {
    const int width = page_->width();
    const int height =
        layout()->hasHeightForWidth() ? layout()->totalHeightForWidth(width) : layout()->sizeHint().height();
    const QWidget* shown = page_->currentWidget();
    const auto* fields = shown ? shown->findChild<QWidget*>("fields") : nullptr;
    const int foot = fields && fields->isVisible() ? fields->mapTo(page_, QPoint(0, 0)).y() : page_->height();
    setGeometry(
        QRect(page_->mapTo(parentWidget(), QPoint(0, std::max(0, foot - height))), QSize(width, height)));
    raise();
  }
  setVisible(any);
}

}  // namespace heft::app
