#include "app/theme/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <QPolygonF>
#include <cmath>
#include <numbers>

void initFontResources() {
  Q_INIT_RESOURCE(heft_fonts);
}

namespace heft::app {
namespace {

constexpr const char* kFamily = "Heft Sans";

QFont sized(int pixels, bool strong) {
  QFont font(kFamily);
  font.setPixelSize(pixels);
  font.setWeight(strong ? QFont::DemiBold : QFont::Normal);
  return font;
}

QString styleSheet(const Theme& t) {
  return QStringLiteral(R"(
    QWidget { color: %1; }
    QToolTip { color: %1; background: %2; border: 1px solid %3; padding: 4px; }
    QPushButton { background: %2; border: 1px solid %1; padding: 4px 12px; }
    QPushButton:hover { background: %4; }
    QPushButton:pressed, QPushButton:checked { background: %1; color: %2; }
    QPushButton:disabled { color: %5; border-color: %3; }
    QPushButton:focus { border: 2px solid %6; padding: 3px 11px; }
    QPushButton[flat="true"] { border: 1px solid transparent; background: transparent; padding: 4px 9px; }
    QPushButton[flat="true"]:hover { border-color: %3; }
    QPushButton[flat="true"]:focus { border: 1px solid %6; }
    QLineEdit { background: %2; border: 1px solid %6; padding: 1px 4px; selection-background-color: %6; selection-color: %2; }
    QMenu { background: %2; border: 1px solid %1; padding: 4px 0; }
    QMenu::item { padding: 4px 24px 4px 16px; }
    QMenu::item:selected { background: %1; color: %2; }
    QMenu::item:disabled { color: %5; }
    QMenu::separator { height: 1px; background: %3; margin: 4px 0; }
    QMenuBar { background: %4; border-bottom: 1px solid %3; }
    QMenuBar::item { padding: 4px 12px; background: transparent; }
    QMenuBar::item:selected { background: %1; color: %2; }
    QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
    QScrollArea[role="stage"] > QWidget > QWidget { background: %2; }
    QScrollBar:vertical { background: transparent; width: 8px; }
    QScrollBar::handle:vertical { background: %3; min-height: 24px; }
    QScrollBar:horizontal { background: transparent; height: 8px; }
    QScrollBar::handle:horizontal { background: %3; min-width: 24px; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QCheckBox { spacing: 8px; }
    QCheckBox::indicator { width: 13px; height: 13px; border: 1px solid %1; background: %2; }
    QCheckBox::indicator:checked { image: url(%7); }
    *[role="muted"] { color: %5; }
    #fields { border-top: 1px solid %3; }
    QCheckBox:focus { outline: 1px solid %6; }
    QHeaderView::section { background: %4; color: %5; border: none; border-bottom: 1px solid %3; padding: 4px 9px; }
    QTableWidget { background: %2; border: 1px solid %3; outline: 0; }
    QTableWidget::item { padding: 0 5px; border: 1px solid transparent; }
    QTableWidget::item:selected { background: %4; color: %1; }
    QTableWidget::item:focus { background: %4; color: %1; border: 1px solid %6; padding: 0 5px; }
    QLineEdit[inField="true"] { padding: 0; }
    QTableWidget QLineEdit { padding: 0; border: 1px solid %6; }
    QComboBox { background: transparent; border: none; padding: 2px 6px; }
    QComboBox:focus { border-bottom: 2px solid %6; }
    QPlainTextEdit, QListWidget { background: %2; border: 1px solid %3; }
  )")
      .arg(t.ink.name(), t.panel.name(), t.rule.name(), t.page.name(), t.muted.name(), t.bass.name(),
           t.panel.lightness() < 128 ? ":/fonts/tick-dark.svg" : ":/fonts/tick.svg");
}

}  // namespace

const Theme& themeOf(Light light) {
  static const Theme paper{"#F4F1EA", "#FBF9F4", "#22252B", "#6E6A62", "#D8D2C4", "#B4472C",
                           "#1F6E78", "#B98A1E", "#7C5A10", "#38734A", "#855B00", "#8E2F63"};
  static const Theme dark{"#1E2124", "#26292D", "#E8E4DA", "#9B968B", "#3A3D41", "#E07A55",
                          "#58B3BE", "#D9B04A", "#D9B04A", "#7FBF8E", "#D9A94A", "#D583AE"};
  return light == Light::Dark ? dark : paper;
}

namespace {
Light& inUse() {
  static Light light = Light::Paper;
  return light;
}
}  // namespace

Light light() {
  return inUse();
}

const Theme& theme() {
  return themeOf(inUse());
}

void applyTheme(Light light) {
  initFontResources();
  static const bool loaded = [] {
    for (const char* file : {":/fonts/HeftSans-Regular.otf", ":/fonts/HeftSans-SemiBold.otf"})
      QFontDatabase::addApplicationFont(file);
    return true;
  }();
  static_cast<void>(loaded);
  inUse() = light;
  QApplication::setFont(bodyFont());
  QApplication::setStyle("Fusion");
  const Theme& t = theme();
  QPalette palette;
  palette.setColor(QPalette::Window, t.page);
  palette.setColor(QPalette::Base, t.panel);
  palette.setColor(QPalette::Text, t.ink);
  palette.setColor(QPalette::WindowText, t.ink);
  palette.setColor(QPalette::ButtonText, t.ink);
  palette.setColor(QPalette::Button, t.panel);
  palette.setColor(QPalette::Highlight, t.bass);
  palette.setColor(QPalette::HighlightedText, t.panel);
  palette.setColor(QPalette::PlaceholderText, t.muted);
  QApplication::setPalette(palette);
  qApp->setStyleSheet(styleSheet(t));
}

QFont bodyFont(bool strong) {
  return sized(13, strong);
}
QFont axisFont(bool strong) {
  return sized(11, strong);
}
QFont titleFont() {
  return sized(17, true);
}

QColor verdictColour(Verdict verdict) {
  const Theme& t = theme();
  return verdict == Verdict::Holds ? t.holds : verdict == Verdict::Watch ? t.watch : t.off;
}

QColor withAlpha(QColor colour, double alpha) {
  colour.setAlphaF(static_cast<float>(alpha));
  return colour;
}

QPen rulePen(const QColor& colour) {
  return QPen(colour, 1.0);
}

QPen dataPen(const QColor& colour, Qt::PenStyle style) {
  QPen pen(colour, 1.5, style);
  pen.setJoinStyle(Qt::RoundJoin);
  return pen;
}

void drawVerdict(QPainter& painter, const QPointF& centre, Verdict verdict, bool resting) {
  const QColor colour = resting ? theme().muted : verdictColour(verdict);
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing, verdict == Verdict::Off);
  const QRectF box(std::round(centre.x()) - 5, std::round(centre.y()) - 5, 10, 10);
  if (verdict == Verdict::Holds) {
    painter.fillRect(box, colour);
  } else if (verdict == Verdict::Watch) {
    painter.setPen(QPen(colour, 1.0));
    painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
    painter.fillRect(QRectF(box.left(), box.center().y(), 10, 5), colour);
  } else {
    painter.setPen(QPen(colour, 1.6));
    painter.drawPolygon(QPolygonF({{box.center().x(), box.top() - 0.5},
                                   {box.right() + 0.5, box.center().y()},
                                   {box.center().x(), box.bottom() + 0.5},
                                   {box.left() - 0.5, box.center().y()}}));
  }
  painter.restore();
}

void drawGrip(QPainter& painter, const QPointF& centre, bool chosen, double radius) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme().ink, chosen ? 2.0 : 1.0));
  painter.setBrush(chosen ? theme().ink : theme().panel);
  painter.drawEllipse(centre, radius, radius);
  painter.restore();
}

void drawBendGrip(QPainter& painter, const QPointF& centre, bool chosen) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme().ink, chosen ? 2.0 : 1.0));
  painter.setBrush(chosen ? theme().ink : theme().panel);
  painter.drawRoundedRect(QRectF(centre - QPointF(2.5, 5), QSizeF(5, 10)), 2.5, 2.5);
  painter.restore();
}

void drawPointMark(QPainter& painter, const QPointF& centre, bool chosen) {
  const double half = chosen ? 4.0 : 3.0;
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(QPen(theme().ink, chosen ? 2.0 : 1.0));
  painter.setBrush(theme().panel);
  painter.drawRect(QRectF(centre.x() - half, centre.y() - half, 2 * half, 2 * half));
  painter.restore();
}

void drawIn(QPainter& painter, const QPointF& left) {
  painter.fillRect(QRectF(left.x() + 1.0, left.y() - 5.0, 3, 10), theme().ink);
}

void drawTick(QPainter& painter, const QPointF& centre, const QColor& ink) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(ink, 1.8, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.drawPolyline(
      QPolygonF({centre + QPointF(-3.5, 0.0), centre + QPointF(-1.0, 2.8), centre + QPointF(3.5, -3.0)}));
  painter.restore();
}

void drawFavourite(QPainter& painter, const QPointF& centre, bool favourite) {
  constexpr int kPoints = 5;
  constexpr double kOuter = 5.5, kInner = 2.3;
  QPolygonF star;
  for (int i = 0; i < 2 * kPoints; ++i) {
    const double angle = i * std::numbers::pi / kPoints, radius = i % 2 ? kInner : kOuter;
    star << centre + QPointF(radius * std::sin(angle), -radius * std::cos(angle));
  }
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(favourite ? theme().reference : theme().rule, 1.0));
  painter.setBrush(favourite ? QBrush(theme().reference) : QBrush(Qt::NoBrush));
  painter.drawPolygon(star);
  painter.restore();
}

void drawHeard(QPainter& painter, const QPointF& centre, bool heard) {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(heard ? theme().ink : theme().muted, 1.0));
  painter.setBrush(heard ? QBrush(theme().ink) : QBrush(Qt::NoBrush));
  painter.drawEllipse(centre - QPointF(heard ? 3 : 0, 0), 2, 2);
  painter.setBrush(Qt::NoBrush);
  for (const double radius : {3.5, 6.5})
    if (heard)
      painter.drawArc(QRectF(centre - QPointF(3 + radius, radius), QSizeF(2 * radius, 2 * radius)), -45 * 16,
                      90 * 16);
  painter.restore();
}

void drawWrapped(QPainter& painter, const QRectF& box, const QString& text) {
  constexpr int kFlags = Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap;
  const QFontMetricsF metrics(painter.font());
  QString shown = text, kept = text;
  while (metrics.boundingRect(QRectF(0, 0, box.width(), 1e6), kFlags, shown).height() > box.height() + 1.0) {
    const auto space = kept.lastIndexOf(' ');
    if (space <= 0) break;
    kept = kept.left(space);
    shown = kept + "...";
  }
  painter.drawText(box, kFlags, shown);
}

QRectF drawLabel(QPainter& painter, const QPointF& at, Qt::Alignment align, const QString& text,
                 const QColor& colour, const QColor& ground) {
  const QFontMetricsF metrics(painter.font());
  const double width = metrics.horizontalAdvance(text), height = metrics.height();
  double x = at.x(), y = at.y();
  if (align & Qt::AlignHCenter) x -= width / 2;
  if (align & Qt::AlignRight) x -= width;
  if (align & Qt::AlignVCenter) y -= height / 2;
  if (align & Qt::AlignBottom) y -= height;
  const QRectF box(std::round(x), std::round(y), width, height);
  if (ground.alpha() > 0) painter.fillRect(box.adjusted(-3, 0, 3, 0), ground);
  painter.setPen(colour);
  painter.drawText(box.adjusted(0, 0, 2, 0), Qt::AlignLeft | Qt::AlignVCenter, text);
  return box;
}

QString tipText(const QString& words) {
  return "<qt>" + words.toHtmlEscaped().replace('\n', "<br>") + "</qt>";
}

}  // namespace heft::app
