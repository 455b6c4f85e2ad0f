#pragma once
/// What is said over the page: news and faults, questions with answers.

#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

class QStackedWidget;

namespace heft::app {

/// One sentence at a time over the page, with what can be done about it.
class NoticeBar : public QWidget {
  Q_OBJECT
 public:
  explicit NoticeBar(QWidget* parent = nullptr);
  /// Goes again by itself after some seconds.
  void say(const QString& sentence, bool fault);
  /// What was said of a session as it was goes; faults and questions stay.
  void passNews();
  /// Nothing of what was said or asked holds any more.
  void forget();
  struct Answer {
    QString words;
    std::function<void()> doIt;
  };
  /// A question with up to five answers, the first the likeliest, and one that declines; another question
  /// waits until this is answered, unless it is about the same: then it takes its place.
  void offer(const QString& about, const QString& sentence, std::vector<Answer> answers, Answer decline);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Offer {
    QString about, sentence;
    std::vector<Answer> answers;
    Answer decline;
  };
  void showOffer();
  void answer(std::optional<size_t> chosen);
  QLabel* words_;
  std::vector<QPushButton*> answers_;
  QPushButton* no_;
  std::vector<Offer> offers_;  ///< the first is shown
  bool fault_ = false;
  QTimer gone_;
  bool news_ = false;  // what is shown waits for no answer
};

/// What is said over the page instead of moving it: notices, and what runs aside. At the foot of the picture,
/// over the fields: headings, cards and buttons stay free.
class OverPage : public QWidget {
  Q_OBJECT
 public:
  OverPage(QStackedWidget* page, std::vector<QWidget*> notes);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  void place();
  QStackedWidget* page_;
};

}  // namespace heft::app
