#pragma once
/// Messages over the page: news, faults, and questions with answers.

#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

class QStackedWidget;

namespace heft::app {

/// One sentence at a time over the page, with its actions.
class NoticeBar : public QWidget {
  Q_OBJECT
 public:
  explicit NoticeBar(QWidget* parent = nullptr);
  /// Disappears after some seconds.
  void say(const QString& sentence, bool fault);
  /// Clears messages about the former session; faults and questions stay.
  void passNews();
  /// Clears all messages and questions.
  void forget();
  struct Answer {
    QString words;
    std::function<void()> doIt;
  };
  /// A question with up to five answers, the first the likeliest, and one to decline; another question waits
  /// for the answer, unless it is about the same and replaces it.
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
  bool news_ = false;  // the present message needs no answer
};

/// Messages over the page that move nothing: notices and background jobs. At the foot of the picture, over
/// the fields: headings, cards and buttons stay visible.
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
