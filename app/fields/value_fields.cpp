#include "app/fields/value_fields.h"

#include <algorithm>
#include <cmath>

#include "app/widgets/unit_words.h"
#include "core/session/edits/taught.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

// Shared by a field's actions.
struct Hand {
  Document* document;
  OwnerNow owner;
  FieldWords words;
  QString name;
  std::string editName;
  PutAs putAs;

  std::optional<ValueAt> at() const {
    const auto whose = owner();
    return whose ? valueAt(document->heardSession(), *whose, words.key) : std::nullopt;
  }
  std::optional<double> number() const {
    const auto v = at();
    if (!v) return std::nullopt;
    if (const auto* number = std::get_if<double>(&v->now)) return *number;
    if (const auto* whole = std::get_if<int>(&v->now)) return *whole;
    if (const auto* time = std::get_if<TimeValue>(&v->now)) return time->toMs(document->track().tempoBpm);
    return words.startsAt;
  }
  // Steps on one sound are one edit, those on the next another.
  std::string mergeKey() const {
    // Steps on two duckings, or on two bands of one EQ, are two.
    return ownerName(owner().value_or(Owner())) + " " + words.key;
  }
  // Its switch turns on too.
  std::vector<ValuePut> puts(const Value& value, bool on) const {
    std::vector<ValuePut> out{{words.key, value}};
    if (!words.onBy.empty()) out.push_back({words.onBy, on});
    return out;
  }
  void set(std::vector<ValuePut> values, const std::string& merge = {}) const {
    const auto whose = owner();
    if (!whose) return;
    document->takeHeard();
    document->edit(putAs ? putAs(values.front().value, merge)
                         : putValues(editName, *whose, std::move(values), merge));
  }
  // How to turn it off, where possible.
  std::vector<ValuePut> out() const {
    if (!words.onBy.empty()) return {{words.onBy, false}};
    if (!words.choices.empty() && words.choices.front().word == "off" && words.choices.front().value)
      return {{words.key, *words.choices.front().value}};
    const auto v = at();
    if (!words.missing.isEmpty() && v && v->canBeMissing) return {{words.key, Value()}};
    if (!words.least.isEmpty() && v) return {{words.key, v->range.low}};
    return {};
  }
  bool canBeOut() const {
    return !words.onBy.empty() || words.least == "off" || words.missing == "off" ||
           !words.withoutName.isEmpty() || (!words.choices.empty() && words.choices.front().word == "off");
  }
};

QString numberText(const Hand& hand) {
  const auto v = hand.at();
  if (!v) return "-";
  if (std::holds_alternative<std::monostate>(v->now)) return hand.words.missing;
  if (const auto* time = std::get_if<TimeValue>(&v->now)) {
    const double ms = time->toMs(hand.document->track().tempoBpm);
    return time->isNote() ? QString("%1, %2").arg(QString::fromStdString(time->text()),
                                                  unitText(ms, Unit::Ms, hand.document->track()))
                          : unitText(ms, Unit::Ms, hand.document->track());
  }
  const auto* whole = std::get_if<int>(&v->now);
  const double value = whole ? *whole : std::get<double>(v->now);
  if (!hand.words.least.isEmpty() && value <= v->range.low) return hand.words.least;
  return unitText(value, v->range.unit, hand.document->track());
}

// Whole numbers for counts.
Value numberFor(const ValueAt& v, double value) {
  if (std::holds_alternative<int>(v.now)) return static_cast<int>(std::lround(value));
  return value;
}

// The edit for typed words; nothing where they are invalid.
std::optional<std::vector<ValuePut>> typedInto(const Hand& hand, const ValueAt& v, const QString& words) {
  const Track& track = hand.document->track();
  if (!hand.words.missing.isEmpty() && words.compare(hand.words.missing, Qt::CaseInsensitive) == 0)
    return std::vector<ValuePut>{{hand.words.key, Value()}};
  if (!hand.words.least.isEmpty() && words.compare(hand.words.least, Qt::CaseInsensitive) == 0)
    return hand.puts(v.range.low, true);
  if (std::holds_alternative<TimeValue>(v.byDefault) || std::holds_alternative<TimeValue>(v.now)) {
    const auto time = parseTime(words.section(',', 0, 0).toStdString());
    if (!time) return std::nullopt;
    const double ms = time->toMs(track.tempoBpm);
    if (ms < v.range.low || ms > v.range.high) return std::nullopt;
    return hand.puts(*time, true);
  }
  const auto value = typedNumber(words, v.range, track);
  return value ? std::optional(hand.puts(numberFor(v, *value), true)) : std::nullopt;
}

void addNumber(FieldSpec& f, const Hand& hand, const QString& takes) {
  f.text = [hand] { return numberText(hand); };
  f.commit = [hand, takes](const QString& text) -> std::optional<QString> {
    const auto v = hand.at();
    if (!v) return std::nullopt;
    const auto puts = typedInto(hand, *v, text.trimmed());
    if (!puts) return "Type " + takes;
    hand.set(*puts);
    return std::nullopt;
  };
  f.step = [hand](int steps, bool fine) {
    const auto v = hand.at();
    const auto now = hand.number();
    if (!v || !now) return;
    const double to = stepped(*now, v->range.unit, steps, fine);
    const bool time = std::holds_alternative<TimeValue>(v->now);
    hand.set(hand.puts(time ? Value(TimeValue::milliseconds(std::clamp(to, v->range.low, v->range.high)))
                            : numberFor(*v, to),
                       true),
             hand.mergeKey());
  };
  f.endDrag = [document = hand.document] { document->endDrag(); };
  f.reset = [hand] {
    if (const auto v = hand.at()) hand.set(hand.puts(v->byDefault, false));
  };
}

void addChoices(FieldSpec& f, const Hand& hand) {
  f.text = [hand] {
    const auto v = hand.at();
    if (!v) return QString("-");
    const bool out = !hand.words.onBy.empty() &&
                     !isOn(hand.document->heardSession(), hand.owner(), hand.words.onBy).value_or(false);
    for (const WordFor& w : hand.words.choices)
      if (w.value ? !out && *w.value == v->now : out) return w.word;
    return QString("-");
  };
  f.choices = [hand] {
    QStringList out;
    for (const WordFor& w : hand.words.choices) out << w.word;
    return out;
  };
  f.choose = [hand](int i) {
    if (i < 0 || static_cast<size_t>(i) >= hand.words.choices.size()) return;
    const auto& value = hand.words.choices[static_cast<size_t>(i)].value;
    hand.set(value ? hand.puts(*value, true) : hand.out());
  };
}

// A field without a sound still shows its range.
std::optional<ValueAt> ofARecording(const std::string& key) {
  Session session;
  session.kick().layers = {recordedLayer({})};
  return valueAt(session, {.part = session.kick().id, .layer = session.kick().layers.front().id}, key);
}

}  // namespace

Range rangeOf(const Document& document, const Owner& owner, const std::string& key) {
  const auto v = valueAt(document.session(), owner, key);
  return v ? v->range : Range{};
}

FieldSpec fieldOf(Document& document, const OwnerNow& owner, const FieldWords& words, const PutAs& putAs) {
  const QString name = words.name.isEmpty() ? words.caption : words.name;
  const Hand hand{&document,
                  owner,
                  words,
                  name,
                  words.editName.empty() ? "set " + name.toLower().toStdString() : words.editName,
                  putAs};
  FieldSpec f;
  f.caption = words.caption;
  f.name = name;
  f.tip = words.tip;
  f.group = words.group;
  if (words.choices.empty()) {
    const auto now = hand.at(), v = now ? now : ofARecording(words.key);
    const QString takes = v ? takesText(v->range, document.track()) : QString();
    const QString range = takes + (words.least.isEmpty() ? QString() : " or " + words.least);
    // What it is, its range, then further remarks.
    const auto end = words.tip.indexOf(". ");
    if (!takes.isEmpty())
      f.tip = words.tip.left(end) + ", " + range + (end < 0 ? QString() : words.tip.mid(end));
    addNumber(f, hand, takes);
  } else {
    addChoices(f, hand);
  }
  f.turned = [hand]() -> std::optional<Taught> {
    const auto v = hand.at();
    if (!v || !canBeTurned(*v)) return std::nullopt;
    return Taught{{}, *hand.owner(), hand.words.key, hand.words.onBy, hand.name.toStdString()};
  };
  f.turnedBy = [hand] {
    const auto whose = hand.owner();
    const Taught* by = whose ? teacherOf(hand.document->session(), *whose, hand.words.key) : nullptr;
    QStringList out;
    if (by) out << QString::fromStdString(controlName(by->by));
    if (whose && heardAutomation(hand.document->session(), *whose, hand.words.key)) out << "automation";
    return out.join(" and ");
  };
  if (hand.canBeOut())
    f.without = [hand, called = nameWithout(words.withoutName.isEmpty() ? words.caption : words.withoutName)] {
      const auto whose = hand.owner();
      return whose ? putValues(called, *whose, hand.out()) : Edit{called, [](Session&) {}};
    };
  return f;
}

FieldWords below(const std::string& prefix, FieldWords words) {
  words.key = prefix + words.key;
  if (!words.onBy.empty()) words.onBy = prefix + words.onBy;
  return words;
}

std::string nameWithout(QString name) {
  name.remove(" slope");
  if (name.size() > 1 && name[1].isLower()) name[0] = name[0].toLower();
  return ("No " + name).toStdString();
}

std::vector<WordFor> eitherOf(const QString& off, const QString& on) {
  return {{off, false}, {on, true}};
}

std::optional<bool> isOn(const Session& session, const std::optional<Owner>& owner, const std::string& key) {
  const auto v = owner ? valueAt(session, *owner, key) : std::nullopt;
  const bool* on = v ? std::get_if<bool>(&v->now) : nullptr;
  return on ? std::optional(*on) : std::nullopt;
}

}  // namespace heft::app
