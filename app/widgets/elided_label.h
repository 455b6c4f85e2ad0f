#pragma once
/// One line of plain text, elided where there is no room; its tip then has all of it.

#include <QPainter>
#include <QWidget>

#include "app/widgets/accessible.h"

namespace heft::app {

class ElidedLabel : public QWidget {
 public:
  explicit ElidedLabel(const QFont& font, QWidget* parent = nullptr) : QWidget(parent) {
    setFont(font);
    setFixedHeight(QFontMetrics(font).height());
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  }
  void setText(const QString& words, const QColor& ink, Qt::AlignmentFlag side = Qt::AlignLeft) {
    words_ = words, ink_ = ink, side_ = side;
    setAccessibleName(words);
    showTip();
    update();
  }
  QString text() const { return words_; }

 protected:
  void resizeEvent(QResizeEvent*) override { showTip(); }
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setPen(ink_);
    p.drawText(rect(), side_ | Qt::AlignVCenter, fontMetrics().elidedText(words_, Qt::ElideRight, width()));
  }

 private:
  void showTip() { setToolTip(fontMetrics().horizontalAdvance(words_) > width() ? words_ : QString()); }
  QString words_;
  QColor ink_;
  Qt::AlignmentFlag side_ = Qt::AlignLeft;
};

}  // namespace heft::app
