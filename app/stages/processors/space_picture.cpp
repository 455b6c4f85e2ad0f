#include "app/stages/processors/space_picture.h"

#include <QDir>
#include <QFileInfo>
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/files/file_choice.h"
#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/measure/levels/spectrum.h"
#include "core/theory/text.h"

namespace heft::app {

SpacePicture::SpacePicture(LayerChoice& choice, Selection& selection)
    : ProcessorPicture(choice, selection, "Body and room") {
  explain("Drag the end of the line for the decay. Shift+F1: more",
          "Left: what is added over time, and its decay. Right: spectrum, thin before, thick after. Drag the "
          "end of the line or Left, Right: decay. Body: Up, Down load the next sound of its folder.");
}

std::optional<SpacePicture::Decay> SpacePicture::decay() const {
  if (const auto* body = as<Body>()) return Decay{"body.decay_ms", body->response.decayMs, 2000.0};
  if (const auto* room = as<Room>()) return Decay{"room.size_ms", room->sizeMs, 400.0};
  return std::nullopt;
}

Axis SpacePicture::time() const {
  const double ms = decay() ? decay()->ms : 100.0;
  return {0.0, std::clamp(300.0 + ms, 300.0, 1400.0), added().left(), added().right()};
}

QPointF SpacePicture::endAt() const {
  return {time().pixel(decay() ? decay()->ms : 0.0), added().top() + 14};
}

void SpacePicture::drawAdded(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = added();
  const ProcessorLook& l = *look();
  const Axis x = time();
  float most = 0.001f;
  float more = 0.0f;
  for (size_t i = 0; i < l.before.size(); ++i)
    most = std::max(most, std::abs(l.before[i])), more = std::max(more, std::abs(l.after[i] - l.before[i]));
  // Quiet additions are magnified, by a factor that is shown.
  int times = 1;
  while (more > 0.0f && times < 32 && 2.0f * static_cast<float>(times) * more < 0.8f * most) times *= 2;
  const double perPixel = (x.to - x.from) / 1000.0 * l.rate / area.width();
  const auto lead = static_cast<int64_t>(ProcessorLook::kLeadSeconds * l.rate);
  auto read = [&](auto of) {
    return [&l, of, most, lead](int64_t i) {
      const auto at = static_cast<size_t>(i + lead);
      return at < l.before.size() ? of(at) / most : 0.0f;
    };
  };
  const double mid = area.center().y() + 10;
  drawWave(p, area.left(), area.right(), mid, area.height() - 40, 0.0, perPixel,
           read([&l](size_t at) { return l.before[at]; }), withAlpha(ink(), 0.25));
  drawWave(p, area.left(), area.right(), mid, area.height() - 40, 0.0, perPixel,
           read([&l, times](size_t at) { return static_cast<float>(times) * (l.after[at] - l.before[at]); }),
           withAlpha(t.ink, 0.85));
  const auto end = decay();
  if (end)
    drawDimension(p, QPointF(x.pixel(0), endAt().y()), endAt(),
                  QString("%1 ms").arg(QString::fromStdString(formatNumber(end->ms, 0))), t.ink, t.panel);
  p.setRenderHint(QPainter::Antialiasing);
  drawGrip(p, endAt(), hasFocus());
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setFont(axisFont());
  const auto* body = as<Body>();
  drawLabel(
      p, QPointF(area.left(), 2), Qt::AlignLeft | Qt::AlignTop,
      withKept(body && body->asset.empty() ? QString("a body needs a sound: choose one below")
               : !processor()->isOn()      ? QString("this is off")
               : times > 1 ? QString("what is added, drawn %1 times as high, over the sound pale").arg(times)
                           : QString("what is added, over the sound pale")),
      t.ink, t.panel);
  drawTicksBelow(p, x, area.bottom(), roundTicks(0, x.to, 6),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

void SpacePicture::drawSpectra(QPainter& p) const {
  const QRectF area = spectrum();
  const Axis x{kSpectrumLowHz, kSpectrumHighHz, area.left(), area.right(), true};
  const auto& before = look()->beforeDb;
  const double most = *std::max_element(before.begin(), before.end());
  const Axis y{most - 60.0, most + 12.0, area.bottom(), area.top()};
  drawKeyNotes(p, track(), x, area);
  drawLevelRules(p, y, most, {0.0, -20.0, -40.0, -60.0}, area);
  p.save();
  p.setClipRect(area.adjusted(0, 0, 0, -1));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(withAlpha(ink(), 0.6), 1.0));
  drawLineThrough(p, spectrumLine(before, x, y));
  p.setPen(QPen(ink(), 2.0));
  drawLineThrough(p, spectrumLine(look()->afterDb, x, y));
  p.restore();
  drawTicksBelow(p, x, area.bottom(), {20, 100, 500, 2000, 10000}, hzTick);
}

void SpacePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!look() || look()->before.empty() || !decay()) return drawNothing(p);
  drawAdded(p);
  drawSpectra(p);
}

void SpacePicture::setDecay(double ms, bool dragged) {
  if (decay()) put("set the decay", {{decay()->key, std::round(std::clamp(ms, 5.0, decay()->most))}}, dragged);
}

// The folder is listed aside.
void SpacePicture::flipSound(int way) {
  const auto* body = as<Body>();
  const auto at = choice().chainPlace();
  if (!body || !at || !at->id) return;
  const QString path = QString::fromStdString(body->asset.from);
  if (path.isEmpty() || !QFileInfo(path).isAbsolute())
    return document().tell(
        "Choose the body's sound from a file first: Up and Down then step through its folder.");
  folderAside_.ask(
      this,
      [path, way] {
        return [path, way]() -> QString {
          const QFileInfo file(path);
          const QStringList all = file.dir().entryList(soundNames(), QDir::Files, QDir::Name);
          const auto now = all.indexOf(file.fileName());
          const auto next = now + way;
          return now < 0 || next < 0 || next >= all.size() ? QString() : file.dir().filePath(all[next]);
        };
      },
      [this, at, way](const QString& next) {
        if (next.isEmpty())
          return document().tell(way > 0 ? "That is the last sound of its folder."
                                         : "That is the first sound of its folder.");
        document().sounds().loadBody(at->of, *at->id, next);
      },
      document().failing());
}

void SpacePicture::mousePressEvent(QMouseEvent* event) {
  held_ = event->button() == Qt::LeftButton &&
          std::hypot(endAt().x() - event->position().x(), endAt().y() - event->position().y()) < 10.0;
}

void SpacePicture::mouseMoveEvent(QMouseEvent* event) {
  if (held_) return setDecay(time().value(event->position().x()), true);
  const QPointF off = endAt() - event->position();
  setCursor(std::hypot(off.x(), off.y()) < 10.0 ? Qt::SizeHorCursor : Qt::ArrowCursor);
}

void SpacePicture::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(held_, false)) endDrag();
}

void SpacePicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const double step = event->modifiers() & Qt::ShiftModifier ? 1.0 : 10.0;
  if (decay() && (key == Qt::Key_Left || key == Qt::Key_Right))
    return setDecay(decay()->ms + (key == Qt::Key_Right ? step : -step), false);
  if (as<Body>() && (key == Qt::Key_Up || key == Qt::Key_Down)) return flipSound(key == Qt::Key_Down ? 1 : -1);
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
