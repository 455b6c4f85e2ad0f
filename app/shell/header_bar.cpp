#include "app/shell/header_bar.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QRegularExpression>
#include <algorithm>
#include <cmath>

#include "app/fields/value_fields.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"
#include "core/session/edits/track.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kHeardWidth = 132, kHeardPadding = 28;
constexpr int kRoomForAll = 1360;    // with a song's length and what is heard instead
constexpr int kRoomForHeard = 1260;  // narrower, the Before button shows what is heard

std::vector<ListenTo> listenings(const ListenTo& now) {
  std::vector<ListenTo> out;
  for (int i = 0; i < kListenKinds; ++i) {
    ListenTo to = now;
    to.kind = static_cast<ListenKind>(i);
    if (canListen(to)) out.push_back(to);
  }
  return out;
}

QString loopText(const Track& t) {
  if (t.loopBeats % t.beatsPerBar == 0) {
    const int bars = t.loopBeats / t.beatsPerBar;
    const QString text = QString("%1 bar%2").arg(bars).arg(bars == 1 ? "" : "s");
    const auto seconds = static_cast<int>(std::lround(t.seconds()));
    return t.song ? text + QString(", %1:%2").arg(seconds / 60).arg(seconds % 60, 2, 10, QChar('0')) : text;
  }
  return QString("%1 beat%2").arg(t.loopBeats).arg(t.loopBeats == 1 ? "" : "s");
}

std::optional<int> parseLoop(const QString& text, const Track& t) {
  const auto match =
      QRegularExpression(R"(^\s*(\d+)\s*(bars?|beats?)?\s*$)", QRegularExpression::CaseInsensitiveOption)
          .match(text);
  if (!match.hasMatch() || match.captured(1).size() > 4) return std::nullopt;
  const int count = match.captured(1).toInt() *
                    (match.captured(2).startsWith("beat", Qt::CaseInsensitive) ? 1 : t.beatsPerBar);
  if (count < 1 || count > t.mostBeats()) return std::nullopt;
  return count;
}

}  // namespace

HeaderBar::HeaderBar(Document& document, Transport& transport, ReferenceEar& ear, QWidget* parent)
    : QWidget(parent), document_(document), transport_(transport), ear_(ear) {
  setFixedHeight(52);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 0, 16, 0);
  row->setSpacing(12);
  buildFacts(row);
  buildMeasures(row);
  row->addStretch(1);
  buildTransport(row);
  buildListening(row);
  row->addStretch(1);
  meter_ = plainLabel();
  meter_->setObjectName("Meter");
  meter_->setAccessibleName("Loudness and true peak of the sum");
  meter_->setToolTip("Integrated loudness and true peak of the loop's sum");
  meter_->setFont(axisFont());
  meter_->setFixedWidth(QFontMetrics(axisFont()).horizontalAdvance("-188.8 LUFS") + 4);
  meter_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  row->addWidget(meter_);
  connect(&document_, &Document::changed, this, &HeaderBar::refresh);
  connect(&document_, &Document::studied, this, &HeaderBar::refresh);
  connect(&transport_, &Transport::stateChanged, this, &HeaderBar::refresh);
  connect(&transport_, &Transport::moved, this, &HeaderBar::refreshPosition);
  connect(&ear_, &ReferenceEar::changed, this, &HeaderBar::refreshHeard);
  refresh();
}

void HeaderBar::add(QHBoxLayout* row, FieldSpec spec) {
  fields_.push_back(new ValueField(std::move(spec)));
  row->addWidget(fields_.back());
}

void HeaderBar::buildFacts(QHBoxLayout* row) {
  Document& doc = document_;
  add(row, {.name = "Track name",
            .tip = "The track's name, up to 60 characters",
            .text = [&doc] { return QString::fromStdString(doc.track().name); },
            .commit = [&doc](const QString& text) -> std::optional<QString> {
              if (text.trimmed().isEmpty() || text.size() > 60) return "Write a name of up to 60 characters";
              doc.edit(nameTrack(text.trimmed().toStdString()));
              return std::nullopt;
            },
            .width = 104});
  add(row, {.name = "Key",
            .tip = "Tonic and mode, such as A minor or Eb dorian",
            .text = [&doc] { return QString::fromStdString(doc.track().key.name()); },
            .commit = typedAs([](const QString& words) { return parseKey(words.toStdString()); },
                              [&doc](const Key& key) { doc.edit(setKey(key)); }),
            .width = 112});
  const Range range = rangeOf(doc, {}, "track.tempo_bpm");
  add(row, {.name = "Tempo",
            .tip = QString("Quarter notes a minute, %1 to %2").arg(range.low).arg(range.high),
            .text = [&doc] { return QString::number(doc.track().tempoBpm, 'f', 1) + " BPM"; },
            .commit = typedAs([](const QString& words) { return parseTempo(words.toStdString()); },
                              [&doc](double tempo) { doc.edit(setTempo(tempo)); }),
            .step =
                [&doc](int steps, bool fine) {
                  doc.edit(setTempo(doc.track().tempoBpm + steps * (fine ? 0.1 : 1.0), "tempo"));
                },
            .endDrag = [&doc] { doc.endDrag(); },
            .width = 76});
}

// Metre, loop and tuning.
void HeaderBar::buildMeasures(QHBoxLayout* row) {
  Document& doc = document_;
  add(row, {.name = "Time signature",
            .tip = "4/4, 3/4 or 6/8: 1 to 12 over 2, 4, 8 or 16",
            .text = [&doc] { return QString("%1/%2").arg(doc.track().beatsPerBar).arg(doc.track().beatUnit); },
            .commit = [&doc](const QString& text) -> std::optional<QString> {
              const auto match = QRegularExpression(R"(^\s*(\d{1,2})\s*/\s*(2|4|8|16)\s*$)").match(text);
              const int beats = match.captured(1).toInt(), unit = match.captured(2).toInt();
              if (!match.hasMatch() || beats < 1 || beats > 12)
                return QString("Write a metre such as 4/4, 3/4 or 6/8");
              doc.edit(setMetre(beats, unit));
              return std::nullopt;
            },
            .width = 34});
  add(row,
      {.name = "Loop length",
       .tip = "Length in bars or beats: a loop up to 64 bars, a song up to ten minutes. Type song or loop to "
              "switch (Ctrl+J)",
       .text = [&doc] { return loopText(doc.track()); },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const QString word = text.trimmed().toLower();
         if (word == "song" || word == "loop") return doc.edit(setSong(word == "song")), std::nullopt;
         const auto beats = parseLoop(QString(text).section(',', 0, 0), doc.track());
         if (!beats)
           return QString("Write one beat to %1 bars, such as 2 bars or 3 beats; or song, or loop")
               .arg(doc.track().mostBeats() / doc.track().beatsPerBar);
         doc.edit(setLoopBeats(*beats));
         return std::nullopt;
       },
       .step =
           [&doc](int steps, bool fine) {
             const Track& t = doc.track();
             doc.edit(setLoopBeats(t.loopBeats + steps * (fine ? 1 : t.beatsPerBar), "loop"));
           },
       .endDrag = [&doc] { doc.endDrag(); },
       .width = 104});
  const Range a4 = rangeOf(doc, {}, "track.a4_hz");
  add(row, {.name = "A4",
            .tip = QString("Tuning of the track: A4 in Hz, %1 to %2, usually 440").arg(a4.low).arg(a4.high),
            .text = [&doc] { return "A4 " + QString::fromStdString(formatNumber(doc.track().notes.a4Hz, 1)); },
            .commit = [&doc, a4](const QString& text) -> std::optional<QString> {
              const auto hz = parseNumber(
                  QString(text).remove("A4").remove("Hz", Qt::CaseInsensitive).trimmed().toStdString());
              if (!hz || *hz < a4.low || *hz > a4.high)
                return QString("Write a frequency from %1 to %2 Hz").arg(a4.low).arg(a4.high);
              doc.edit(setTuning(*hz));
              return std::nullopt;
            },
            .step =
                [&doc](int steps, bool fine) {
                  doc.edit(setTuning(doc.track().notes.a4Hz + steps * (fine ? 0.1 : 1.0), "a4"));
                },
            .endDrag = [&doc] { doc.endDrag(); },
            .reset = [&doc] { doc.edit(setTuning(NoteStyle().a4Hz)); },
            .width = 56});
}

void HeaderBar::buildTransport(QHBoxLayout* row) {
  play_ = new QPushButton("Play");
  play_->setObjectName("Play");
  play_->setToolTip("Plays the loop, or stops it (Space)");
  play_->setFixedWidth(58);
  connect(play_, &QPushButton::clicked, this, [this] { transport_.toggle(); });
  row->addWidget(play_);
  position_ = new ValueField(
      {.name = "Position",
       .tip = "Bar, beat and sixteenth: type where to go, such as 57 or 57.3",
       .text = [this] { return positionText(); },
       .commit = typedAs(
           [this](const QString& words) { return parsePosition(words.toStdString(), document_.track()); },
           [this](double quarters) { transport_.locate(quarters), Q_EMIT located(quarters); }),
       .width = 50});
  fields_.push_back(position_);
  row->addWidget(position_);
  auto* pair = new QHBoxLayout;
  pair->setSpacing(0);
  before_ = new QPushButton("Before");
  after_ = new QPushButton("Now");
  for (QPushButton* b : {before_, after_}) {
    b->setCheckable(true);
    b->setObjectName(b->text());
    b->setToolTip(b == before_ ? "Bypass this stage (B), all stages (Shift+B) or the focused value (I), or "
                                 "play the other version (X); level matched"
                               : "The loop as it is now");
    pair->addWidget(b);
  }
  before_->setFixedWidth(96);
  after_->setFixedWidth(56);
  // Its space is reserved: its neighbours stay in place.
  heard_ = new QPushButton;
  heard_->setObjectName("Heard instead");
  heard_->setCheckable(true);
  heard_->setFixedWidth(kHeardWidth);
  QSizePolicy kept = heard_->sizePolicy();
  kept.setRetainSizeWhenHidden(true);
  heard_->setSizePolicy(kept);
  heard_->hide();
  pair->addWidget(heard_);
  connect(heard_, &QPushButton::clicked, this, [this] { Q_EMIT beforeAsked(false), refresh(); });
  connect(before_, &QPushButton::clicked, this, [this] { Q_EMIT beforeAsked(true), refresh(); });
  connect(after_, &QPushButton::clicked, this, [this] { Q_EMIT beforeAsked(false), refresh(); });
  row->addLayout(pair);
}

// Monitoring and output.
void HeaderBar::buildListening(QHBoxLayout* row) {
  auto* listen = new ValueField(
      {.name = "Listen",
       .tip = "What you hear it through; the session stays the same. Type 90 Hz, 60 dB, -8 LUFS or mp3 128",
       .text = [this] { return "Listen: " + QString::fromStdString(listenText(transport_.listen())); },
       .commit = typedAs(
           [this](const QString& words) {
             return parseListen(QString(words).remove("Listen:").trimmed().toStdString(), transport_.listen());
           },
           [this](const ListenTo& to) { transport_.setListen(to); }),
       .choices =
           [this] {
             QStringList out;
             for (const ListenTo& to : listenings(transport_.listen()))
               out << QString::fromStdString(listenText(to));
             return out;
           },
       .choose =
           [this](int i) { transport_.setListen(listenings(transport_.listen())[static_cast<size_t>(i)]); },
       .width = 98});
  auto* device = new ValueField(
      {.name = "Output device",
       .tip = "Audio output",
       .text =
           [this] {
             const QString name = transport_.deviceName();
             return name.size() > 22 ? name.left(21) + QChar(0x2026) : name;
           },
       .choices =
           [this] {
             QStringList out{"Default output"};
             for (const DeviceChoice& d : transport_.devices()) out << QString::fromStdString(d.name);
             return out;
           },
       .choose =
           [this](int i) {
             const auto devices = transport_.devices();
             transport_.chooseDevice(i <= 0 || i > static_cast<int>(devices.size())
                                         ? QString()
                                         : QString::fromStdString(devices[static_cast<size_t>(i - 1)].id));
           },
       .width = 112});
  for (ValueField* field : {listen, device}) {
    fields_.push_back(field);
    row->addWidget(field);
  }
}

void HeaderBar::refresh() {
  for (ValueField* field : fields_) field->refresh();
  play_->setText(transport_.isPlaying() ? "Stop" : "Play");
  refreshHeard();
  const Study* s = document_.study();
  if (s && !s->empty)
    meter_->setText((s->wholeLufs ? QString::fromStdString(fixedNumber(*s->wholeLufs, 1)) + " LUFS"
                                  : QString("too quiet")) +
                    "\n" + QString::fromStdString(fixedNumber(s->sum.truePeakDbtp, 1)) + " dBTP");
  else
    meter_->setText("");
  refreshPosition();
}

// Before, Now, or what is heard instead of both: a reference, or another edit.
void HeaderBar::refreshHeard() {
  const bool reference = ear_.heard() || ear_.isHidden();
  const QString name = reference ? ear_.heardName() : QString::fromStdString(document_.before().name);
  const bool before = transport_.isBefore() && !reference;
  const bool other = reference || (before && !name.isEmpty() && !name.startsWith("Before"));
  const bool roomy = width() >= kRoomForHeard;
  const auto elided = [&name](int room) {
    return QFontMetrics(bodyFont(true))
        .elidedText(name, Qt::ElideRight, room - kHeardPadding)
        .replace("&", "&&");
  };
  before_->setChecked((before || other) && (!other || !roomy));
  before_->setText((before || other) && !name.isEmpty() && (!other || !roomy) ? elided(before_->width())
                                                                              : QString("Before"));
  heard_->setFixedWidth(roomy ? kHeardWidth : 0);
  heard_->setText(elided(kHeardWidth));
  heard_->setAccessibleName("Heard: " + name);
  heard_->setToolTip("Playing " + name + ", level matched. Click to hear the loop as it is now");
  heard_->setChecked(other), heard_->setVisible(other && roomy);
  after_->setChecked(!before && !other);
}

// In a narrow window what has room to spare gives it up.
void HeaderBar::fit() {
  struct Widths {
    int gap, name, key, before;
  };
  const Widths w = width() >= kRoomForAll     ? Widths{12, 104, 112, 96}
                   : width() >= kRoomForHeard ? Widths{9, 92, 98, 96}
                                              : Widths{8, 84, 88, 76};
  layout()->setSpacing(w.gap);
  fields_[0]->setFixedWidth(w.name), fields_[1]->setFixedWidth(w.key);
  before_->setFixedWidth(w.before);
}

// Shows the start during the count-in.
QString HeaderBar::positionText() const {
  return QString::fromStdString(positionName(document_.track(), transport_.positionQuarters()));
}

void HeaderBar::refreshPosition() {
  if (positionText() != position_->shownText()) position_->refresh();
}

void HeaderBar::typePosition() {
  position_->setFocus(Qt::ShortcutFocusReason);
  QKeyEvent type(QEvent::KeyPress, Qt::Key_F2, Qt::NoModifier);
  QApplication::sendEvent(position_, &type);
}

void HeaderBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().page);
  p.setPen(theme().ink);
  p.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
}

}  // namespace heft::app
