#include "app/stages/sounds_page.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

const char* roleName(Role role) {
  switch (role) {
    case Role::Kick:
      return "Kick";
    case Role::Bass:
      return "Bass";
    case Role::Backing:
      return "Backing";
    case Role::Reference:
      return "Reference";
  }
  return "";
}

QColor roleColour(Role role) {
  return role == Role::Kick ? theme().kick : role == Role::Bass ? theme().bass : theme().ink;
}

const AssetRef* assetOf(const Session& s, Role role) {
  if (role == Role::Kick) return s.kickLayer() ? &s.kickLayer()->asset : nullptr;
  if (role == Role::Bass) return s.bassLayer() ? &s.bassLayer()->asset : nullptr;
  return s.backing.asset.empty() ? nullptr : &s.backing.asset;
}

double levelOf(const Session& s, Role role) {
  if (role == Role::Kick) return s.kickLayer() ? s.kickLayer()->levelDb : 0.0;
  if (role == Role::Bass) return s.bassLayer() ? s.bassLayer()->levelDb : 0.0;
  return s.backing.levelDb;
}

bool mutedIn(const Session& s, Role role) {
  if (role == Role::Kick) return s.kickLayer() && s.kickLayer()->mute;
  if (role == Role::Bass) return s.bassLayer() && s.bassLayer()->mute;
  return s.backing.mute;
}

}  // namespace

Slip::Slip(Role role, Document& document, Selection& selection)
    : Picture(document, selection, QString(roleName(role)) + " slip"), role_(role) {
  setAcceptDrops(true);
  setMinimumSize(200, 76);
  setMaximumHeight(76);
  setCursor(Qt::PointingHandCursor);
  setToolTip(QString("Drop a sound here, or press Enter to choose a file. Click to see it large."));
}

void Slip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const Session& s = document().session();
  const AssetRef* ref = assetOf(s, role_);
  const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
  if (!ref) {
    p.setPen(QPen(over_ || hasFocus() ? roleColour(role_) : t.muted, 1.0, Qt::DashLine));
    p.drawRect(box);
    p.setFont(bodyFont());
    p.setPen(t.muted);
    p.drawText(box, Qt::AlignCenter,
               QString("drop a %1 here,\nor click to choose one").arg(QString(roleName(role_)).toLower()));
    return;
  }
  p.fillRect(box, chosen_ ? t.page : t.panel);
  p.setPen(QPen(chosen_ || hasFocus() ? t.ink : t.rule, 1.0));
  p.drawRect(box);
  p.fillRect(QRectF(0, 0, 4, height()), roleColour(role_));
  p.setFont(bodyFont(chosen_));
  p.setPen(t.ink);
  const QString name = QString::fromStdString(ref->name);
  p.drawText(QRectF(14, 6, width() - 24, 18), Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(name, Qt::ElideMiddle, width() - 24));
  const Sound sound = document().assets().sound(*ref);
  p.setFont(axisFont());
  if (!sound) {
    drawLabel(p, QPointF(14, 40), Qt::AlignLeft | Qt::AlignVCenter, "missing: drop the sound again", t.off,
              QColor(0, 0, 0, 0));
    return;
  }
  const double waveWidth = std::max(40.0, width() - 120.0);
  const auto& samples = sound->channels[0];
  const double peak = std::max(1e-6, peakOf(*sound));
  drawWave(
      p, 14, 14 + waveWidth, 49, 38, 0, static_cast<double>(samples.size()) / waveWidth,
      [&](int64_t i) {
        return i >= 0 && i < static_cast<int64_t>(samples.size())
                   ? static_cast<float>(samples[static_cast<size_t>(i)] / peak)
                   : 0.0f;
      },
      mutedIn(s, role_) ? t.rule : roleColour(role_));
  QStringList words;
  if (const Study* study = document().study()) {
    const auto& facts = role_ == Role::Kick ? study->kick : role_ == Role::Bass ? study->bass : nullptr;
    if (facts)
      words << (facts->landing.hz ? noteText(midiFromHz(*facts->landing.hz, track().notes.a4Hz))
                                  : QString("no note"));
  }
  words << dbText(levelOf(s, role_)) + (mutedIn(s, role_) ? ", muted" : "");
  p.setFont(axisFont());
  for (int i = 0; i < words.size(); ++i)
    drawLabel(p, QPointF(waveWidth + 24, 34 + 16 * i), Qt::AlignLeft | Qt::AlignTop, words[i], t.muted,
              QColor(0, 0, 0, 0));
}

void Slip::browse() {
  const QString path =
      QFileDialog::getOpenFileName(this, QString("Choose a %1").arg(QString(roleName(role_)).toLower()), {},
                                   "Sounds (*.wav *.aif *.aiff *.flac *.ogg *.opus *.mp3);;All files (*)");
  if (!path.isEmpty()) document().loadSoundFile(role_, path);
}

void Slip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  Q_EMIT chosen(role_);
  if (!assetOf(document().session(), role_)) browse();
}

void Slip::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Return && event->key() != Qt::Key_Enter) return QWidget::keyPressEvent(event);
  Q_EMIT chosen(role_);
  browse();
}

void Slip::dragEnterEvent(QDragEnterEvent* event) {
  if (!event->mimeData()->hasUrls()) return;
  event->acceptProposedAction();
  over_ = true;
  update();
}

void Slip::dragLeaveEvent(QDragLeaveEvent*) {
  over_ = false, update();
}

void Slip::dropEvent(QDropEvent* event) {
  over_ = false;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) {
      document().loadSoundFile(role_, url.toLocalFile());
      event->acceptProposedAction();
      break;
    }
  Q_EMIT chosen(role_);
}

WavePicture::WavePicture(Document& document, Selection& selection) : Picture(document, selection, "Wave") {
  setToolTip(
      "The chosen sound. Drag the length handle of the kick to where its tail should have died away; it "
      "catches note lengths unless Alt is held.");
}

WavePicture::Shown WavePicture::shown() const {
  Shown out{nullptr, 0.0, roleColour(role_)};
  const Study* s = document().study();
  if (role_ == Role::Kick && s && s->readyKick) {
    out.sound = &s->readyKick->sound;
    out.onsetSeconds = s->readyKick->onsetSeconds;
    return out;
  }
  const AssetRef* ref = assetOf(document().session(), role_);
  const Sound sound = ref ? document().assets().sound(*ref) : nullptr;
  out.sound = sound.get();
  if (role_ == Role::Bass && s && s->bass) out.onsetSeconds = s->bass->onsetSeconds.value_or(0.0);
  return out;
}

Axis WavePicture::timeAxis() const {
  const Shown w = shown();
  const double longest = w.sound ? std::max(60.0, (w.sound->seconds() - w.onsetSeconds) * 1000.0) : 100.0;
  const double most = role_ == Role::Kick ? std::max(longest, 1.3 * lengthMs()) : longest;
  return {-0.02 * most, most, plot().left(), plot().right()};
}

double WavePicture::lengthMs() const {
  const Layer* layer = document().session().kickLayer();
  if (layer && layer->length) return layer->length->toMs(track().tempoBpm);
  const Study* s = document().study();
  return s && s->kick ? s->kick->tailMs : 0.0;
}

QPointF WavePicture::lengthHandle() const {
  return {timeAxis().pixel(lengthMs()), plot().top() + 6};
}

void WavePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Shown w = shown();
  const Theme& t = theme();
  if (!w.sound)
    return drawEmpty(p, role_ == Role::Backing
                            ? "The rest of the track, one audio file at the session's tempo, plays under kick "
                              "and bass. Drop it on the Backing slip."
                            : "Drop a kick on the Kick slip and a bass on the Bass slip. Then place hits and "
                              "notes in the loop below.");
  const QRectF area = plot();
  const Axis time = timeAxis();
  const double sixteenth = 15000.0 / track().tempoBpm;
  p.setFont(axisFont());
  const bool fine = sixteenth / (time.to - time.from) * area.width() > 26.0;
  for (double at = fine ? sixteenth : 4 * sixteenth; at < time.to; at += fine ? sixteenth : 4 * sixteenth) {
    const double x = std::round(time.pixel(at)) + 0.5;
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
  }
  if (time.holds(sixteenth) && fine) {
    const double x = std::round(time.pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    drawLabel(p, QPointF(x + 5, area.bottom() - 2), Qt::AlignLeft | Qt::AlignBottom, "1/16", t.muted, t.panel);
  }
  const auto& samples = w.sound->channels[0];
  const double peak = std::max(1e-6, peakOf(*w.sound)), rate = w.sound->sampleRate;
  const double perPixel = (time.to - time.from) / 1000.0 * rate / area.width();
  drawWave(
      p, area.left(), area.right(), area.center().y(), area.height() - 24,
      (w.onsetSeconds + time.from / 1000.0) * rate, perPixel,
      [&](int64_t i) {
        return i >= 0 && i < static_cast<int64_t>(samples.size())
                   ? static_cast<float>(samples[static_cast<size_t>(i)] / peak)
                   : 0.0f;
      },
      w.colour);
  p.setPen(rulePen(t.muted));
  p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()));
  drawTicksBelow(p, time, area.bottom(), roundTicks(0, time.to, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  if (role_ != Role::Kick) return;
  const QPointF handle = lengthHandle();
  p.setPen(QPen(t.ink, dragging_ || hasFocus() ? 2.0 : 1.0));
  p.drawLine(QPointF(handle.x(), area.top()), QPointF(handle.x(), area.bottom()));
  drawDimension(p, QPointF(time.pixel(0), handle.y()), handle,
                QString::fromStdString(formatNumber(lengthMs(), 0)) + " ms to -40 dB", t.ink, t.panel);
  p.fillRect(QRectF(handle - QPointF(3, 3), QSizeF(7, 7)), t.ink);
}

void WavePicture::setLength(double ms, bool snap) {
  const double sixteenth = 15000.0 / track().tempoBpm;
  TimeValue length = TimeValue::milliseconds(std::clamp(std::round(ms), 20.0, 10000.0));
  const double nearest = std::max(1.0, std::round(ms / (0.5 * sixteenth)));
  const double pixels = std::abs(timeAxis().pixel(0.5 * nearest * sixteenth) - timeAxis().pixel(ms));
  if (snap && pixels < 8.0) {
    int count = static_cast<int>(nearest), under = 32;
    while (count % 2 == 0 && under > 1) count /= 2, under /= 2;
    if (count <= 64) length = TimeValue::note(count, under);
  }
  document().edit(
      "trim kick to " + QString::fromStdString(length.text()),
      [length](Session& s) {
        if (!s.kick.layers.empty()) s.kick.layers.front().length = length;
      },
      "length");
}

void WavePicture::mousePressEvent(QMouseEvent* event) {
  dragging_ = role_ == Role::Kick && shown().sound && event->button() == Qt::LeftButton &&
              std::abs(event->position().x() - lengthHandle().x()) < 9.0;
}

void WavePicture::mouseMoveEvent(QMouseEvent* event) {
  const bool near = role_ == Role::Kick && std::abs(event->position().x() - lengthHandle().x()) < 9.0;
  setCursor(dragging_ || near ? Qt::SizeHorCursor : Qt::ArrowCursor);
  if (dragging_) setLength(timeAxis().value(event->position().x()), !(event->modifiers() & Qt::AltModifier));
}

void WavePicture::mouseReleaseEvent(QMouseEvent*) {
  dragging_ = false;
  document().endDrag();
  update();
}

void WavePicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (role_ == Role::Kick && (key == Qt::Key_Left || key == Qt::Key_Right))
    setLength(
        lengthMs() + (key == Qt::Key_Right ? 1 : -1) * (event->modifiers() & Qt::ShiftModifier ? 1.0 : 5.0),
        false);
  else if (role_ == Role::Kick && key == Qt::Key_Delete)
    document().edit("take back the trim", [](Session& s) {
      if (!s.kick.layers.empty()) s.kick.layers.front().length.reset();
    });
  else
    QWidget::keyPressEvent(event);
}

SoundsPage::SoundsPage(Document& document, Selection& selection)
    : StagePage(Stage::Sounds, document, selection) {
  auto* both = new QWidget;
  auto* layout = new QVBoxLayout(both);
  layout->setContentsMargins(0, 8, 0, 0);
  layout->setSpacing(8);
  auto* row = new QHBoxLayout;
  row->setSpacing(12);
  for (Role role : {Role::Kick, Role::Bass, Role::Backing}) {
    auto* slip = new Slip(role, document, selection);
    connect(slip, &Slip::chosen, this, &SoundsPage::choose);
    slips_.push_back(slip);
    row->addWidget(slip, 1);
  }
  layout->addLayout(row);
  wave_ = new WavePicture(document, selection);
  layout->addWidget(wave_, 1);
  setPicture(both);
  Document& doc = document;
  auto role = [this] { return wave_->role(); };
  addField({.caption = "Sound",
            .name = "Chosen sound",
            .tip = "The sound whose wave is shown",
            .text = [=] { return QString(roleName(role())); },
            .choices =
                [] {
                  return QStringList{"Kick", "Bass", "Backing"};
                },
            .choose = [this](int i) { choose(static_cast<Role>(i)); }});
  auto setLevel = [=, this, &doc](double db, const QString& merge) {
    doc.edit(
        QString("set %1 level").arg(QString(roleName(role())).toLower()),
        [&](Session& s) {
          const double level = std::clamp(std::round(db * 10.0) / 10.0, -60.0, 24.0);
          if (role() == Role::Backing)
            s.backing.levelDb = level;
          else if (Layer* l = layerOf(s))
            l->levelDb = level;
        },
        merge);
  };
  addField({.caption = "Level",
            .name = "Level",
            .tip = "Level of the chosen sound in dB",
            .text = [=, &doc] { return dbText(levelOf(doc.session(), role())); },
            .commit = [=](const QString& text) -> std::optional<QString> {
              const auto value =
                  parseNumber(QString(text).remove("dB", Qt::CaseInsensitive).trimmed().toStdString());
              if (!value || *value < -60 || *value > 24) return "Write a level from -60 to +24 dB";
              setLevel(*value, {});
              return std::nullopt;
            },
            .step =
                [=, &doc](int steps, bool fine) {
                  setLevel(levelOf(doc.session(), role()) + steps * (fine ? 0.1 : 0.5), "level");
                },
            .endDrag = [&doc] { doc.endDrag(); },
            .reset = [=] { setLevel(0.0, {}); }});
  addField({.caption = "In the sum",
            .name = "In the sum",
            .tip = "Whether the sound is part of the sum, in this session and its export",
            .text = [=, &doc] { return QString(mutedIn(doc.session(), role()) ? "out" : "in"); },
            .choices =
                [] {
                  return QStringList{"in", "out"};
                },
            .choose =
                [=, this, &doc](int i) {
                  doc.edit(QString(i ? "take %1 out" : "put %1 in").arg(QString(roleName(role())).toLower()),
                           [&](Session& s) {
                             if (role() == Role::Backing)
                               s.backing.mute = i == 1;
                             else if (Layer* l = layerOf(s))
                               l->mute = i == 1;
                           });
                }});
  addField({.caption = "Polarity",
            .name = "Sound polarity",
            .tip = "Turns the sound over",
            .text = [this] { return QString(layer() && layer()->invert ? "turned over" : "as it is"); },
            .choices =
                [] {
                  return QStringList{"as it is", "turned over"};
                },
            .choose =
                [this, &doc](int i) {
                  doc.edit("turn sound over", [&](Session& s) {
                    if (Layer* l = layerOf(s)) l->invert = i == 1;
                  });
                }});
  addField({.caption = "Kick length",
            .name = "Kick length",
            .tip = "Where the kick's tail has died away: a note length or ms. Delete leaves it as recorded.",
            .text =
                [this] {
                  const Layer* l = this->document().session().kickLayer();
                  return l && l->length ? timeText(*l->length, track().tempoBpm) : QString("as recorded");
                },
            .commit = [&doc](const QString& text) -> std::optional<QString> {
              const auto time = parseTime(text.section(',', 0, 0).toStdString());
              if (!time) return QString::fromStdString(time.error().reason);
              if (time->toMs(doc.track().tempoBpm) < 20) return "A kick lasts at least 20 ms";
              doc.edit("trim kick to " + QString::fromStdString(time->text()), [&](Session& s) {
                if (!s.kick.layers.empty()) s.kick.layers.front().length = *time;
              });
              return std::nullopt;
            },
            .reset =
                [&doc] {
                  doc.edit("take back the trim", [](Session& s) {
                    if (!s.kick.layers.empty()) s.kick.layers.front().length.reset();
                  });
                }});
  addField({.caption = "Tail",
            .name = "Tail",
            .tip = "Measured time from the onset until the sound is last above -40 dB re its peak",
            .text = [this] {
              const Study* s = this->document().study();
              const auto& facts = !s                            ? nullptr
                                  : wave_->role() == Role::Kick ? s->kick
                                  : wave_->role() == Role::Bass ? s->bass
                                                                : nullptr;
              return facts && facts->onsetSeconds
                         ? QString::fromStdString(formatNumber(facts->tailMs, 0)) + " ms"
                         : QString("none");
            }});
  addField({.caption = "Bass width",
            .name = "Bass width",
            .tip = "Folds the bass one-shot to mono",
            .text = [&doc] { return QString(doc.session().bass.finish.mono ? "mono" : "as recorded"); },
            .choices =
                [] {
                  return QStringList{"as recorded", "mono"};
                },
            .choose =
                [&doc](int i) {
                  doc.edit(i ? "fold bass to mono" : "unfold bass",
                           [i](Session& s) { s.bass.finish.mono = i == 1; });
                }});
  choose(Role::Kick);
}

Layer* SoundsPage::layerOf(Session& s) const {
  auto& layers = wave_->role() == Role::Kick ? s.kick.layers : s.bass.layers;
  return wave_->role() == Role::Backing || layers.empty() ? nullptr : &layers.front();
}

const Layer* SoundsPage::layer() const {
  const Session& s = document().session();
  return wave_->role() == Role::Kick ? s.kickLayer() : wave_->role() == Role::Bass ? s.bassLayer() : nullptr;
}

void SoundsPage::choose(Role role) {
  wave_->show(role);
  for (Slip* slip : slips_) slip->setChosen(slip->role() == role);
  refresh();
}

void SoundsPage::mark(const Finding& finding) {
  StagePage::mark(finding);
  choose(Role::Kick);
}

QString SoundsPage::subtitle() const {
  const Session& s = document().session();
  if (!s.kickLayer() && !s.bassLayer()) return "drop a kick, a bass and the rest of the track";
  QStringList parts;
  if (s.kickLayer()) parts << QString("%1 kick hits").arg(s.kick.hits.size());
  if (s.bassLayer()) parts << QString("%1 bass notes").arg(s.bass.notes.size());
  if (!s.backing.asset.empty()) parts << "with backing";
  return parts.join(", ");
}

}  // namespace heft::app
