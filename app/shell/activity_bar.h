#pragma once
/// Background jobs, with Cancel. Shown only once a job takes a while.

#include <QTimer>
#include <QWidget>

class QLabel;
class QPushButton;

namespace heft::app {

class Jobs;

class ActivityBar : public QWidget {
  Q_OBJECT
 public:
  explicit ActivityBar(Jobs& jobs, QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void refresh();
  Jobs& jobs_;
  QLabel* words_;
  QPushButton* cancel_;
  QTimer patience_;
};

}  // namespace heft::app
