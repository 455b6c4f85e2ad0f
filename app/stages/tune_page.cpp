#include "app/stages/tune_page.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include "core/measure/low_end.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft::app {
namespace {

constexpr double kLowestMidi = 22.0;
constexpr double kLowestDb = -42.0;

QString sureText(const Landing& landing) {
  return QString::fromStdString(confidenceWords(landing));
}

}  // namespace

PitchField::PitchField(Document& document, Selection& selection) : Picture(document, selection, "Pitch field") {
  explain("Drag the landing to retune the kick, over the spectrum for the search band. Shift+F1 tells all.",
          "Pitch over time and spectrum over one note axis. Drag the landing marker up or down to retune the "
          "kick; Alt drags between the notes. Drag the circle at its start to raise the strike, the dashed "
          "line for the strike's length, the grip at its end to straighten a tail that drifts; drag the flag "
          "on the path to name the moment at which it lands; drag over the spectrum for the search band.");
}

std::optional<double> PitchField::landingMidi() const {
  const Study* s = document().study();
  if (!s || !s->kick || !s->kick->landing.noteHz()) return std::nullopt;
  return midiFromHz(*s->kick->landing.noteHz(), track().notes.a4Hz);
}

// While the figures of a new target are on their way the marker stands on the target already.
std::optional<double> PitchField::shownTarget() const {
  const Layer* layer = document().session().kickLayer();
  if (layer && landingTarget(*layer) && landingMidi()) return landingTarget(*layer);
  return landingMidi();
}

PitchField::Axes PitchField::axes() const {
  Axes out;
  const double bottom = height() - 28.0, top = 24.0;
  const double split = 48.0 + (width() - 60.0) * 0.72;
  out.left = QRectF(QPointF(48, top), QPointF(split, bottom));
  out.right = QRectF(QPointF(split + 12, top), QPointF(width() - 12.0, bottom));
  double longest = 220.0;
  if (const Study* s = document().study())
    for (const auto& facts : {s->kick, s->kickSource})
      if (facts) longest = std::max(longest, std::min(700.0, facts->tailMs * 1.1));
  out.note = {kLowestMidi, highestMidi(), bottom, top};
  out.time = {0.0, longest, out.left.left(), out.left.right()};
  out.level = {kLowestDb, 0.0, out.right.left(), out.right.right()};
  return out;
}

// Claps and high snares have their note above the usual.
double PitchField::highestMidi() const {
  double highest = 72.0;
  const Layer* layer = document().session().kickLayer();
  if (layer && layer->band().highHz > LandingOptions().highHz)
    highest = std::max(highest, midiFromHz(layer->band().highHz, track().notes.a4Hz));
  if (const auto target = shownTarget()) highest = std::max(highest, *target + 5.0);
  return std::min(128.0, highest);
}

QPointF PitchField::markerAt() const {
  const Axes a = axes();
  const auto midi = shownTarget();
  return midi ? QPointF(a.left.right() - 6, a.note.pixel(*midi)) : QPointF();
}

void PitchField::drawNotes(QPainter& p, const Axes& a) const {
  const Theme& t = theme();
  const Key& key = track().key;
  NoteStyle style = track().notes;
  style.flats = key.prefersFlats();
  p.setFont(axisFont());
  const double spacing = std::abs(a.note.pixel(41) - a.note.pixel(40));
  for (int midi = static_cast<int>(a.note.from); midi <= static_cast<int>(a.note.to); ++midi) {
    if (!key.contains(midi)) continue;
    const bool tonic = ((midi - key.tonic) % 12 + 12) % 12 == 0,
               fifth = ((midi - key.fifth()) % 12 + 12) % 12 == 0;
    const double y = std::round(a.note.pixel(midi)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.75) : t.rule, 1.0));
    p.drawLine(QPointF(a.left.left(), y), QPointF(a.right.right(), y));
    if (!tonic && !fifth && spacing * 1.5 < 13.0) continue;
    p.setFont(axisFont(tonic));
    drawLabel(p, QPointF(a.left.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::fromStdString(noteName(midi, style)), tonic ? t.ink : t.muted, QColor(0, 0, 0, 0));
  }
  p.setFont(axisFont());
  drawLabel(p, QPointF(a.left.left(), 2), Qt::AlignLeft | Qt::AlignTop, "pitch over time", t.muted,
            QColor(0, 0, 0, 0));
  drawLabel(p, QPointF(a.right.right(), 2), Qt::AlignRight | Qt::AlignTop, "spectrum, below its peak", t.muted,
            QColor(0, 0, 0, 0));
  const double sixteenth = 15000.0 / track().tempoBpm;
  if (a.time.holds(sixteenth)) {
    const double x = std::round(a.time.pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, a.left.top()), QPointF(x, a.left.bottom()));
    drawLabel(p, QPointF(x + 5, a.left.top() + 2), Qt::AlignLeft | Qt::AlignTop, "1/16", t.muted, t.panel);
  }
  drawTicksBelow(p, a.time, a.left.bottom(), roundTicks(0, a.time.to, 7),
                 [&](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  drawTicksBelow(p, a.level, a.right.bottom(), {-36, -24, -12, 0}, [](double v) { return QString::number(v); });
}

void PitchField::drawPaths(QPainter& p, const Axes& a) const {
  const Study& s = *document().study();
  const double a4 = track().notes.a4Hz;
  auto line = [&](const SoundFacts& facts) {
    QPolygonF out;
    for (const PitchPoint& point : facts.landing.path) {
      const QPointF at(a.time.pixel((point.seconds - facts.onsetSeconds.value_or(0.0)) * 1000.0),
                       a.note.pixel(midiFromHz(point.hz, a4)));
      if (a.left.contains(at)) out << at;
    }
    return out;
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.left.adjusted(0, 0, 1, 1));
  if (s.bass) {
    p.setPen(QPen(withAlpha(theme().bass, 0.8), 4.0, Qt::SolidLine, Qt::FlatCap));
    drawLineThrough(p, line(*s.bass));
  }
  const bool moved = s.readyKick && std::abs(s.readyKick->semitones) > 0.005;
  // The grips belong to the layer that lands: among several its own path is there for them to stand on.
  const bool several = s.kickLayers.size() > 1;
  if ((moved || several) && s.kickSource) {
    p.setPen(QPen(theme().kick, 1.0, Qt::DashLine));
    drawLineThrough(p, line(*s.kickSource));
  }
  if (s.kick) {
    p.setPen(QPen(theme().kick, 2.5));
    drawLineThrough(p, line(*s.kick));
  }
  p.restore();
  p.setFont(axisFont());
  double y = a.left.top() + 18;
  auto legend = [&](const QString& text, const QColor& colour) {
    const QRectF box = drawLabel(p, QPointF(a.left.right() - 12, y), Qt::AlignRight | Qt::AlignTop, text,
                                 colour, theme().panel);
    y += box.height() + 3;
  };
  if (s.kick)
    legend(several ? "kick, all layers (thick) and its first as recorded (dashed)"
           : moved ? "kick, now (thick) and as recorded (dashed)"
                   : "kick",
           theme().kick);
  if (s.bass && !s.bass->landing.path.empty()) legend("bass, at the note it plays under most hits", theme().bass);
}

void PitchField::drawSpectra(QPainter& p, const Axes& a) const {
  const Study& s = *document().study();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(a.right.adjusted(0, 0, 1, 1));
  auto draw = [&](const LowEnd& low, const QColor& colour) {
    if (!(low.totalPower > 0.0)) return;
    const double most = *std::max_element(low.curveDb.begin(), low.curveDb.end());
    QPolygonF line;
    for (size_t i = 0; i < low.curveDb.size(); ++i)
      line << QPointF(a.level.pixel(std::max(kLowestDb, low.curveDb[i] - most)),
                      a.note.pixel(midiFromHz(profileHz()[i], track().notes.a4Hz)));
    QPolygonF area = line;
    area.prepend(QPointF(a.right.left(), line.first().y()));
    area << QPointF(a.right.left(), line.last().y());
    p.setPen(Qt::NoPen);
    p.setBrush(withAlpha(colour, 0.13));
    p.drawPolygon(area);
    p.setPen(dataPen(colour));
    drawLineThrough(p, line);
  };
  draw(s.kickSpectrum, theme().kick);
  draw(s.bassSpectrum, theme().bass);
  p.restore();
  p.setPen(rulePen(theme().muted));
  p.drawLine(a.right.topLeft(), a.right.bottomLeft());
}

void PitchField::drawMarker(QPainter& p, const Axes& a) const {
  const auto midi = shownTarget();
  if (!midi) return;
  const QPointF at = markerAt();
  const Study& s = *document().study();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().kick, grip_ == Grip::Marker || hasFocus() ? 1.5 : 1.0));
  p.drawLine(QPointF(a.left.left(), at.y()), QPointF(a.right.right(), at.y()));
  p.setBrush(theme().kick);
  p.setPen(Qt::NoPen);
  p.drawPolygon(QPolygonF({at + QPointF(-8, -7), at + QPointF(6, 0), at + QPointF(-8, 7)}));
  p.restore();
  p.setFont(axisFont());
  QString words = (s.kick && s.kick->landing.slides() ? "heard on " : "lands on ") + noteText(*midi);
  if (s.kickSource && s.kickSource->landing.noteHz()) {
    const double shift = *midi - midiFromHz(*s.kickSource->landing.noteHz(), track().notes.a4Hz);
    if (std::abs(shift) > 0.02)
      words +=
          QString(", %1%2 st").arg(shift > 0 ? "+" : "").arg(QString::fromStdString(formatNumber(shift, 2)));
  }
  // A slide sinks under its mark.
  const bool over = s.kick && s.kick->landing.slides();
  drawLabel(p, QPointF(at.x() - 14, at.y() + (over ? -8 : 8)),
            Qt::AlignRight | (over ? Qt::AlignBottom : Qt::AlignTop), words, theme().kick, theme().panel);
}

void PitchField::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Study* s = document().study();
  if (!s || (!s->kick && !s->bass))
    return drawEmpty(p, document().isBusy() ? "Measuring..."
                                            : "Drop a kick and a bass in Sounds. Their pitch over time and "
                                              "their spectra stand here over one note axis.");
  const Axes a = axes();
  drawNotes(p, a);
  drawSpectra(p, a);
  drawPaths(p, a);
  drawBand(p, a);
  drawMarker(p, a);
  drawHandles(p, a);
  if (s->kick && !s->kick->landing.noteHz()) {
    p.setFont(bodyFont());
    drawLabel(p, a.left.center(), Qt::AlignCenter,
              "No note can be followed: " + QString::fromStdString(s->kick->landing.reason) +
                  ". Set the search band, or type the landing beneath.",
              theme().off, theme().panel);
  }
}

void PitchField::setTarget(double midi, bool exact, const QString& mergeKey) {
  const double target = std::clamp(exact ? std::round(midi * 100.0) / 100.0 : std::round(midi), 0.0, 127.0);
  document().edit(
      "move landing to " + noteText(target),
      [target](Session& s) {
        if (!s.kick().layers.empty()) setLanding(s.kick().layers.front(), target);
      },
      mergeKey);
}

void PitchField::keyPressEvent(QKeyEvent* event) {
  const auto midi = shownTarget();
  const int key = event->key();
  if (midi && (key == Qt::Key_Up || key == Qt::Key_Down)) {
    const bool fine = event->modifiers() & Qt::ShiftModifier;
    const double way = key == Qt::Key_Up ? 1.0 : -1.0;
    setTarget(fine ? *midi + 0.01 * way : std::round(*midi) + way, fine, "landing");
  } else if (midi && key == Qt::Key_Delete) {
    document().edit("take back the kick's shift", [](Session& s) {
      if (!s.kick().layers.empty() && s.kick().layers.front().recorded())
        s.kick().layers.front().recorded()->targetMidi.reset();
    });
  } else if (recorded() && landingMoment() && (key == Qt::Key_Left || key == Qt::Key_Right)) {
    const double by = (key == Qt::Key_Right ? 1.0 : -1.0) * (event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0);
    nameLanding(*landingMoment() + by);
  } else {
    QWidget::keyPressEvent(event);
  }
}

TunePage::TunePage(Document& document, Selection& selection) : StagePage(Stage::Tune, document, selection) {
  setPicture(new PitchField(document, selection));
  auto* row = new QWidget;
  targets_ = new FlowLayout(row, 8, 6);
  targets_->setContentsMargins(0, 4, 0, 8);
  column()->insertWidget(2, row);
  buildFields();
  refresh();
}

void TunePage::buildFields() {
  Document& doc = document();
  auto layer = [&doc]() -> const Layer* { return doc.session().kickLayer(); };
  auto change = [&doc](const QString& name, auto set, const QString& merge = {}) {
    doc.edit(
        name,
        [&](Session& s) {
          if (!s.kick().layers.empty()) set(s.kick().layers.front());
        },
        merge);
  };
  auto recorded = [layer]() -> Recorded {
    return layer() && layer()->recorded() ? *layer()->recorded() : Recorded();
  };
  auto changeRecorded = [change](const QString& name, auto set, const QString& merge = {}) {
    change(
        name,
        [&](Layer& l) {
          if (Recorded* r = l.recorded()) set(*r);
        },
        merge);
  };
  addField(
      {.caption = "Target",
       .name = "Landing target",
       .tip = "The note on which the kick is to land: a note, Hz, or a note with cents. Delete takes the "
              "shift back.",
       .text =
           [=, this] {
             return layer() && landingTarget(*layer())
                        ? QString::fromStdString(pitchText(*landingTarget(*layer()), track().notes))
                        : QString("as recorded");
           },
       .commit = [=, this](const QString& text) -> std::optional<QString> {
         const auto midi = parsePitch(text.toStdString(), track().notes);
         if (!midi) return QString::fromStdString(midi.error().reason);
         if (*midi < 0 || *midi > 127) return "The landing lies between 8 Hz and 12 kHz";
         change("move landing to " + QString::fromStdString(pitchText(*midi, track().notes)),
                [&](Layer& l) { setLanding(l, *midi); });
         return std::nullopt;
       },
       .step =
           [=, this](int steps, bool fine) {
             const Study* s = document().study();
             if (!layer() || !s || !s->kickSource || !s->kickSource->landing.noteHz()) return;
             const double now = landingTarget(*layer()).value_or(
                 midiFromHz(*s->kickSource->landing.noteHz(), track().notes.a4Hz) + layer()->semitones);
             const double next = fine ? now + 0.01 * steps : std::round(now) + steps;
             change(
                 "move landing", [&](Layer& l) { setLanding(l, next); }, "landing");
           },
       .endDrag = [&doc] { doc.endDrag(); },
       .reset =
           [=] { changeRecorded("take back the kick's shift", [](Recorded& l) { l.targetMidi.reset(); }); }});
  addField(
      {.caption = "Shift", .name = "Shift", .tip = "How far the kick is moved, in semitones", .text = [this] {
         const Study* s = document().study();
         if (!s || !s->readyKick) return QString("none");
         const double shift = s->readyKick->semitones;
         return std::abs(shift) < 0.005 ? QString("none")
                                        : QString("%1%2 st")
                                              .arg(shift > 0 ? "+" : "")
                                              .arg(QString::fromStdString(formatNumber(shift, 2)));
       }});
  addField({.caption = "Method",
            .name = "Tuning method",
            .tip = "Varispeed moves pitch and length; hold-length keeps the length, bend goes over without a "
                   "joint, split moves the body at once.",
            .text = [=] { return QString(tuneMethodName(recorded().method)); },
            .choices =
                [] {
                  return QStringList{"varispeed", "hold-length", "bend", "split"};
                },
            .choose =
                [=](int i) {
                  const auto method = static_cast<TuneMethod>(i);
                  changeRecorded("choose " + QString(tuneMethodName(method)),
                                 [method](Recorded& l) { l.method = method; });
                }});
  addField({.caption = "Strike",
            .name = "Strike length",
            .tip = "What hold-length, bend and split leave untouched, from the onset, in ms",
            .text = [=] { return QString::fromStdString(formatNumber(recorded().strikeMs, 1)) + " ms"; },
            .commit = [=, &doc](const QString& text) -> std::optional<QString> {
              const auto time = parseTime(text.toStdString());
              if (!time) return QString::fromStdString(time.error().reason);
              const double ms = time->toMs(doc.track().tempoBpm);
              if (ms < 1 || ms > 200) return "A strike lasts 1 to 200 ms";
              changeRecorded("set strike length", [ms](Recorded& l) { l.strikeMs = ms; });
              return std::nullopt;
            },
            .step =
                [=](int steps, bool fine) {
                  changeRecorded(
                      "set strike length",
                      [&](Recorded& l) {
                        l.strikeMs = std::clamp(l.strikeMs + steps * (fine ? 0.1 : 1.0), 1.0, 200.0);
                      },
                      "strike");
                },
            .endDrag = [&doc] { doc.endDrag(); },
            .reset = [=] { changeRecorded("reset strike length", [](Recorded& l) { l.strikeMs = 10.0; }); }});
  auto number = [&](const QString& caption, const QString& name, const QString& tip, double Recorded::*at,
                    double low, double high, double scale, const QString& unit, double step) {
    addField({.caption = caption,
              .name = name,
              .tip = tip,
              .text =
                  [=] {
                    const double v = scale * recorded().*at;
                    return QString(v > 0 && low < 0 ? "+" : "") + QString::fromStdString(formatNumber(v, 1)) +
                           unit;
                  },
              .commit = [=](const QString& text) -> std::optional<QString> {
                const auto v = parseNumber(QString(text).remove(unit.trimmed()).trimmed().toStdString());
                if (!v || *v / scale < low || *v / scale > high)
                  return QString("Write a number from %1 to %2%3").arg(low * scale).arg(high * scale).arg(unit);
                changeRecorded("set " + name.toLower(), [&](Recorded& l) { l.*at = *v / scale; });
                return std::nullopt;
              },
              .step =
                  [=](int steps, bool fine) {
                    changeRecorded(
                        "set " + name.toLower(),
                        [&](Recorded& l) {
                          l.*at = std::clamp(l.*at + steps * step * (fine ? 0.1 : 1.0), low, high);
                        },
                        name);
                  },
              .endDrag = [&doc] { doc.endDrag(); },
              .reset = [=] { changeRecorded("reset " + name.toLower(), [&](Recorded& l) { l.*at = 0.0; }); }});
  };
  number("Strike pitch", "Strike pitch",
         "The strike's own shift in semitones: higher is brighter, the body stays", &Recorded::strikeSemitones,
         -24, 24, 1.0, " st", 1.0);
  number("Tail straightened", "Tail straightened", "How far a tail that drifts is drawn onto its note",
         &Recorded::flatten, 0, 1, 100.0, " %", 0.1);
  addField({.caption = "Landing",
            .name = "Landing by hand",
            .tip = "Where the kick lands: a moment of its path (85 ms, 1/16) or a pitch (A1, 52 Hz). Delete: "
                   "as measured.",
            .text =
                [=, this] {
                  const LandingOptions band = recorded().band;
                  if (band.atHz)
                    return QString::fromStdString(
                        pitchText(midiFromHz(*band.atHz, track().notes.a4Hz), track().notes));
                  return band.atMs ? QString("at %1 ms").arg(QString::fromStdString(formatNumber(*band.atMs, 1)))
                                   : QString("measured");
                },
            .commit = [=, this](const QString& text) -> std::optional<QString> {
              const std::string words = text.trimmed().toStdString();
              const auto hz = parsePitch(words, track().notes);
              const auto time = parseTime(text.startsWith("at ") ? words.substr(3) : words);
              if (hz && !text.contains('/') && !text.contains("ms")) {
                changeRecorded("name the landing", [&](Recorded& l) {
                  l.band.atHz = std::clamp(hzFromMidi(*hz, track().notes.a4Hz), 8.0, kHighestBandHz);
                  l.band.atMs.reset();
                });
              } else if (time) {
                changeRecorded("name the landing", [&](Recorded& l) {
                  l.band.atMs = std::min(60000.0, time->toMs(track().tempoBpm));
                  l.band.atHz.reset();
                });
              } else {
                return QString("Write a moment such as 85 ms or 1/16, or a pitch such as A1 or 52 Hz");
              }
              return std::nullopt;
            },
            .reset =
                [=] {
                  changeRecorded("measure the landing",
                                 [](Recorded& l) { l.band.atMs.reset(), l.band.atHz.reset(); });
                }});
  addField(
      {.caption = "Search band",
       .name = "Landing band",
       .tip = "Where the landing is looked for: 30 to 200 Hz, or notes such as A0 to G3; claps need up to 5000 "
              "Hz. Drag over the spectrum. Delete: 20 to 400 Hz",
       .text =
           [=] {
             const LandingOptions band = recorded().band;
             return QString("%1 to %2 Hz")
                 .arg(QString::fromStdString(formatNumber(band.lowHz, 0)),
                      QString::fromStdString(formatNumber(band.highHz, 0)));
           },
       .commit = [=, &doc](const QString& text) -> std::optional<QString> {
         const auto band = parseHzRange(text.toStdString(), doc.track().notes);
         if (!band) return QString::fromStdString(band.error().reason);
         if (band->lowHz < 10 || band->highHz > kHighestBandHz || band->highHz < 1.2 * band->lowHz)
           return QString("The search band lies between 10 and 5000 Hz and is a fifth wide at least");
         changeRecorded("set search band",
                        [&](Recorded& l) { l.band.lowHz = band->lowHz, l.band.highHz = band->highHz; });
         return std::nullopt;
       },
       .reset =
           [=] {
             changeRecorded("reset search band", [](Recorded& l) {
               const LandingOptions usual;
               l.band.lowHz = usual.lowHz, l.band.highHz = usual.highHz;
             });
           }});
  addField({.caption = "Bass root",
            .name = "Bass root",
            .tip = "The note from which the bass one-shot is played: measured, unless a note is typed. Delete "
                   "goes back to the measured one.",
            .text =
                [this] {
                  const Study* s = document().study();
                  const Layer* bass = document().session().bassLayer();
                  if (!bass) return QString("no bass");
                  if (bass->recorded() && bass->recorded()->rootMidi)
                    return QString::fromStdString(pitchText(*bass->recorded()->rootMidi, track().notes)) +
                           ", typed";
                  return s && s->bassRootMidi
                             ? QString::fromStdString(pitchText(*s->bassRootMidi, track().notes)) + ", measured"
                             : QString("unknown");
                },
            .commit = [this](const QString& text) -> std::optional<QString> {
              const auto midi = parsePitch(text.section(',', 0, 0).toStdString(), track().notes);
              if (!midi) return QString::fromStdString(midi.error().reason);
              document().edit("set bass root", [&](Session& s) {
                if (Recorded* r = s.bass().layers.empty() ? nullptr : s.bass().layers.front().recorded())
                  r->rootMidi = std::clamp(*midi, 0.0, 127.0);
              });
              return std::nullopt;
            },
            .reset =
                [this] {
                  document().edit("use measured bass root", [](Session& s) {
                    if (Recorded* r = s.bass().layers.empty() ? nullptr : s.bass().layers.front().recorded())
                      r->rootMidi.reset();
                  });
                }});
  ValueField* strain = addField(
      {.caption = "Strain",
       .name = "Strain",
       .tip = "What the shift does to a recorded drum: one semitone is light, two show",
       .text = [=, this] {
         const Study* s = document().study();
         if (!s || !s->readyKick || !s->kickSource || !layer()) return QString("none");
         return QString::fromStdString(
             strainInWords({recorded().method, s->readyKick->semitones, recorded().strikeMs},
                           s->kickSource->tailMs / 1000.0));
       }});
  // As wide as its longest words: a line that broke while the landing is dragged would move the picture under
  // the pointer.
  strain->setMinimumWidth(
      QFontMetrics(bodyFont(true))
          .horizontalAdvance("noticeable, 100 ms of strike untouched, 1000 to about 1000 ms long"));
}

QString TunePage::subtitle() const {
  const Study* s = document().study();
  if (!s || (!s->kick && !s->bass)) return "find the notes and move the kick onto one of them";
  QStringList out;
  NoteStyle style = track().notes;
  if (s->kick && s->kick->landing.noteHz()) {
    const Landing& landing = s->kick->landing;
    const double midi = midiFromHz(*landing.noteHz(), style.a4Hz);
    const int target = nearestOfClass(midi, track().key.tonic);
    const QString where = QString::fromStdString(
        std::abs(midi - target) < 3 ? distanceText(midi, target, style) : "on " + pitchText(midi, style));
    out << (landing.slides() ? QString("kick slides %1 cents, heard ").arg(std::lround(landing.slideCents)) + where
                             : "kick lands " + where) +
               ", " + sureText(s->kick->landing);
  }
  if (s->bass && s->bass->landing.noteHz())
    out << "bass on " +
               QString::fromStdString(pitchText(midiFromHz(*s->bass->landing.noteHz(), style.a4Hz), style)) + ", " +
               sureText(s->bass->landing);
  return out.join("; ");
}

void TunePage::refresh() {
  StagePage::refresh();
  rebuildTargets();
}

void TunePage::rebuildTargets() {
  const Study* s = document().study();
  std::vector<TuneTarget> list;
  double landing = 0.0;
  const Layer* first = document().session().kickLayer();
  // Where it would sound without a target: its own shift counts.
  const double own = first ? first->semitones : 0.0;
  if (s && s->kickSource && s->kickSource->landing.noteHz()) {
    landing = midiFromHz(*s->kickSource->landing.noteHz(), track().notes.a4Hz) + own;
    list = tuneTargets(landing, noteUnderMostHits(document().session()), track().key);
  }
  QString signature = QString::number(landing, 'f', 3) + QString::fromStdString(track().key.name()) +
                      QString::number(static_cast<int>(track().notes.octaves));
  for (const TuneTarget& t : list) signature += QString::number(t.midi) + ",";
  if (signature == shownTargets_) return;
  shownTargets_ = signature;
  while (QLayoutItem* item = targets_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  for (const TuneTarget& t : list) {
    const QString note = QString::fromStdString(noteName(t.midi, track().notes));
    auto* button = new QPushButton(
        QString("%1  %2%3 st")
            .arg(note, t.semitones > 0 ? "+" : "", QString::fromStdString(formatNumber(t.semitones, 2))));
    button->setObjectName("Target " + note);
    button->setAccessibleName("Target " + note + ", " + QString::fromStdString(t.why));
    button->setToolTip(QString::fromStdString(t.why + "; the kick lies " +
                                              distanceText(landing, t.midi, track().notes) + "; strain " +
                                              strainText(strainOf(t.semitones + own))));
    const int midi = t.midi;
    connect(button, &QPushButton::clicked, this, [this, midi, note] {
      document().edit("tune kick to " + note, [midi](Session& x) {
        if (!x.kick().layers.empty()) setLanding(x.kick().layers.front(), midi);
      });
    });
    targets_->addWidget(button);
    auto* why =
        new QLabel(QString::fromStdString(t.why) + (strainOf(t.semitones + own) == Strain::Heavy ? ", strains" : ""));
    why->setFont(axisFont());
    why->setStyleSheet("color: " + theme().muted.name());
    targets_->addWidget(why);
    const int group = static_cast<int>(&t - list.data()) + 1;
    for (QWidget* w : {static_cast<QWidget*>(button), static_cast<QWidget*>(why)})
      w->setProperty(FlowLayout::kGroup, group);
  }
}

}  // namespace heft::app
