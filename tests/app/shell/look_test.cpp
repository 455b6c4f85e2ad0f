// Readability and reach: contrast, the shipped typeface, keys, fields.

#include <gtest/gtest.h>

#include <QFontDatabase>
#include <QFontInfo>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QPainter>
#include <QTest>
#include <QWheelEvent>
#include <cmath>

#include "app/pictures/axis.h"
#include "app/pictures/wave.h"
#include "app/shell/window.h"
#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/value_field.h"

namespace heft::app {
namespace {

// WCAG 2.1, success criterion 1.4.3: relative luminance and contrast ratio; text wants at least 4.5 to 1.
double luminance(const QColor& c) {
  auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
  return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
}

double contrast(const QColor& a, const QColor& b) {
  const double x = luminance(a), y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

TEST(Look, EveryInkForWordsIsReadableOnItsGrounds) {
  for (Light light : {Light::Paper, Light::Dark}) {
    const Theme& t = themeOf(light);
    for (const QColor& ground : {t.page, t.panel})
      for (const QColor& ink : {t.ink, t.muted, t.kick, t.bass, t.referenceWords, t.holds, t.watch, t.off})
        EXPECT_GE(contrast(ink, ground), 4.5)
            << ink.name().toStdString() << " on " << ground.name().toStdString();
    EXPECT_GE(contrast(t.panel, t.ink), 4.5);
  }
}

TEST(Look, TheShippedTypefaceIsUsedAndItsDigitsAreEquallyWide) {
  EXPECT_TRUE(QFontDatabase::families().contains("Heft Sans"));
  EXPECT_EQ(QFontInfo(bodyFont()).family(), "Heft Sans");
  for (const QFont& font : {bodyFont(), bodyFont(true), axisFont()}) {
    const QFontMetricsF metrics(font);
    for (QChar digit : QString("0123456789"))
      EXPECT_NEAR(metrics.horizontalAdvance(digit), metrics.horizontalAdvance('0'), 0.05) << digit.toLatin1();
  }
}

TEST(Look, VerdictsDifferInShapeNotOnlyInColour) {
  auto shape = [](Verdict v) {
    QImage image(20, 20, QImage::Format_ARGB32);
    image.fill(Qt::transparent);
    QPainter p(&image);
    drawVerdict(p, QPointF(10, 10), v, true);  // resting: all in one ink
    p.end();
    int covered = 0;
    for (int y = 0; y < 20; ++y)
      for (int x = 0; x < 20; ++x) covered += qAlpha(image.pixel(x, y)) > 128 ? 1 : 0;
    return covered;
  };
  const int holds = shape(Verdict::Holds), watch = shape(Verdict::Watch), off = shape(Verdict::Off);
  EXPECT_EQ(holds, 100);
  EXPECT_GT(holds, watch + 15);
  EXPECT_GT(watch, off + 5);
  EXPECT_GT(off, 15);
}

TEST(Look, AxesMapThereAndBack) {
  for (const Axis& axis : {Axis{0, 10, 100, 500}, Axis{-3, 7, 400, 20}, Axis{20, 500, 64, 900, true}})
    for (double x : {0.0, 0.3, 0.77, 1.0}) {
      const double pixel = axis.pixelFrom + x * (axis.pixelTo - axis.pixelFrom);
      EXPECT_NEAR(axis.pixel(axis.value(pixel)), pixel, 1e-9);
    }
  EXPECT_EQ(roundTicks(0, 300, 7), (std::vector<double>{0, 50, 100, 150, 200, 250, 300}));
  EXPECT_EQ(roundTicks(-20, 20, 8), (std::vector<double>{-20, -15, -10, -5, 0, 5, 10, 15, 20}));
  for (double to : {0.3, 7.0, 123.0, 5000.0}) {
    const auto ticks = roundTicks(0, to, 6);
    EXPECT_GE(ticks.size(), 2u);
    EXPECT_LE(ticks.size(), 8u);
  }
}

struct FieldFixture {
  double value = 5.0;
  int ended = 0;
  ValueField field{
      {.caption = "Depth",
       .name = "Test field",
       .tip = "A value",
       .text = [this] { return QString::number(value) + " dB"; },
       .commit = [this](const QString& text) -> std::optional<QString> {
         bool fine = false;
         const double typed = QString(text).remove("dB").trimmed().toDouble(&fine);
         if (!fine) return "Write a number";
         value = typed;
         return std::nullopt;
       },
       .step = [this](int steps, bool fineStep) { value += steps * (fineStep ? 0.1 : 1.0), field.refresh(); },
       .endDrag = [this] { ++ended; },
       .reset = [this] { value = 5.0, field.refresh(); }}};
  FieldFixture() {
    field.show();
    (void)QTest::qWaitForWindowExposed(&field);
  }
  void wheel(int delta) {
    QWheelEvent event(QPointF(5, 25), field.mapToGlobal(QPointF(5, 25)), {}, QPoint(0, delta), Qt::NoButton,
                      Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&field, &event);
  }
};

TEST(Field, IsTypedIntoSteppedDraggedAndReset) {
  FieldFixture f;
  QTest::mouseClick(&f.field, Qt::LeftButton);
  auto* editor = f.field.findChild<QLineEdit*>();
  ASSERT_TRUE(editor);
  EXPECT_EQ(editor->selectedText(), "5 dB") << "typing replaces what was there";
  QTest::keyClicks(editor, "7.5");
  QTest::keyClick(editor, Qt::Key_Return);
  EXPECT_EQ(f.value, 7.5);
  EXPECT_EQ(f.field.shownText(), "7.5 dB");
  QTest::keyClick(&f.field, Qt::Key_Up);
  QTest::keyClick(&f.field, Qt::Key_Down, Qt::ShiftModifier);
  EXPECT_NEAR(f.value, 8.4, 1e-9);
  QTest::keyClick(&f.field, Qt::Key_Delete);
  EXPECT_EQ(f.value, 5.0);
  QTest::mousePress(&f.field, Qt::LeftButton, {}, QPoint(5, 30));
  for (int y = 28; y >= 10; y -= 2) {
    QMouseEvent move(QEvent::MouseMove, QPointF(5, y), f.field.mapToGlobal(QPointF(5, y)), Qt::NoButton,
                     Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&f.field, &move);
  }
  QTest::mouseRelease(&f.field, Qt::LeftButton, {}, QPoint(5, 10));
  EXPECT_EQ(f.value, 10.0) << "twenty pixels up are five steps";
  EXPECT_EQ(f.ended, 1);
  const auto* left = f.field.findChild<QLineEdit*>();
  EXPECT_TRUE(!left || !left->isVisible()) << "a drag does not open the field";
}

TEST(Field, KeepsItsValueWhereWhatIsTypedMakesNoSense) {
  FieldFixture f;
  QTest::mouseClick(&f.field, Qt::LeftButton);
  auto* editor = f.field.findChild<QLineEdit*>();
  ASSERT_TRUE(editor);
  QTest::keyClicks(editor, "loud");
  QTest::keyClick(editor, Qt::Key_Return);
  EXPECT_EQ(f.value, 5.0);
  QTest::keyClick(&f.field, Qt::Key_Return);
  auto* again = f.field.findChildren<QLineEdit*>().last();
  QTest::keyClicks(again, "9");
  QTest::keyClick(again, Qt::Key_Escape);
  EXPECT_EQ(f.value, 5.0) << "Escape takes back what was typed";
}

TEST(Field, TheWheelActsOnlyInFocus) {
  FieldFixture f;
  f.field.clearFocus();
  f.wheel(120);
  EXPECT_EQ(f.value, 5.0);
  f.field.setFocus();
  f.field.activateWindow();
  ASSERT_TRUE(QTest::qWaitFor([&] { return f.field.hasFocus(); }, 2000));
  f.wheel(120);
  EXPECT_EQ(f.value, 6.0);
}

TEST(Field, FlowGoesOnInAnotherRow) {
  QWidget box;
  auto* flow = new FlowLayout(&box, 10, 5);
  flow->setContentsMargins(0, 0, 0, 0);
  for (int i = 0; i < 6; ++i) {
    auto* label = new QLabel("x");
    label->setFixedSize(100, 38);
    flow->addWidget(label);
  }
  EXPECT_EQ(flow->heightForWidth(700), 38);
  EXPECT_EQ(flow->heightForWidth(330), 38 * 2 + 5);
  EXPECT_EQ(flow->heightForWidth(50), 38 * 6 + 25) << "never less than one a row";
}

TEST(Menus, NameEveryShortcutOnThePage) {
  Window window;
  QStringList keys;
  for (QAction* menu : window.menuBar()->actions())
    for (QAction* action : menu->menu()->actions()) keys << action->shortcut().toString();
  for (const char* key :
       {"Ctrl+1", "Ctrl+6", "Ctrl+L", "Ctrl+Z", "Ctrl+Shift+Z", "Ctrl+S", "Ctrl+O", "Ctrl+E", "F1"})
    EXPECT_TRUE(keys.contains(key)) << key;
}

// However long a wave is, a click of one sample is a stroke where it is, in a sound and in a lane.
TEST(Waves, AClickOfOneSampleIsDrawn) {
  constexpr size_t kFrames = 1200000;
  for (const size_t click : {size_t{3}, size_t{16383}, size_t{16384}, size_t{700001}, kFrames - 1}) {
    std::vector<float> sound(kFrames, 0.0f);
    sound[click] = -1.0f;
    Signal lane({kFrames}, 1);
    for (size_t b = 0; b < lane.blockCount(); ++b) {
      const auto from = sound.begin() + static_cast<ptrdiff_t>(b * kBlockFrames);
      lane.push(
          std::make_shared<const Block>(Block{{{from, from + static_cast<ptrdiff_t>(lane.blockSize(b))}}}), {});
    }
    for (const WaveReader& wave : {WaveReader(sound, 1.0f), WaveReader(lane, 0, 1.0f)}) {
      QImage image(400, 101, QImage::Format_RGB32);
      image.fill(Qt::white);
      QPainter p(&image);
      drawWave(p, 0, 400, 50, 90, 0, kFrames / 400.0, wave, Qt::black);
      p.end();
      for (int x = 0; x < 400; ++x) {
        const bool isThere = image.pixelColor(x, 85) == Qt::black;
        EXPECT_EQ(isThere, x == static_cast<int>(click * 400 / kFrames)) << click << " at " << x;
      }
    }
    EXPECT_EQ(WaveReader(sound, 2.0f).range(static_cast<int64_t>(click), kFrames + 10).first, -2.0f);
    EXPECT_EQ(WaveReader(sound, 2.0f).range(-20, -3).first, 0.0f) << "silence outside";
  }
}

}  // namespace
}  // namespace heft::app
