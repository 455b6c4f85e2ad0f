#pragma once
/// A row of names, one of them chosen: which picture is shown.

#include <QStringList>
#include <QWidget>

namespace heft::app {

class TabRow : public QWidget {
  Q_OBJECT
 public:
  TabRow(const QString& name, const QStringList& tabs, QWidget* parent = nullptr);
  int chosen() const { return chosen_; }
  void choose(int tab);
  /// Words at the right, where there is room.
  void setAside(const QString& words);
  QSize sizeHint() const override { return {400, 26}; }
  QSize minimumSizeHint() const override { return {120, 26}; }
  /// Where a tab is; tests click there.
  QRect tab(int index) const;

 Q_SIGNALS:
  void chosenChanged(int tab);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool event(QEvent*) override;

 private:
  int at(const QPointF& where) const;
  QStringList tabs_;
  QString aside_;
  int chosen_ = 0, under_ = -1;
};

}  // namespace heft::app
