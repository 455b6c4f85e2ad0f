#pragma once
/// The one factory of fields: a value of the document by its key, with the words for it. Range, unit and
/// default come from the document's list (core/session/value_at.h), so a value costs one line there and its
/// words here.

#include <vector>

#include "app/document/document.h"
#include "app/widgets/value_field.h"
#include "core/session/value_at.h"

namespace heft::app {

/// A word for a value; without a value it turns its owner off.
struct WordFor {
  QString word;
  std::optional<Value> value;
};

/// A field's texts. Beside these three: one of the words below each.
struct FieldWords {
  std::string key;  ///< below the owner, as value_at.h has it
  QString caption;
  QString tip;  ///< what it does; its range is appended

  QString name = {};                    ///< unique in the window; empty: the caption
  std::string onBy = {};                ///< key of the switch that turns on with it, and off with Delete
  QString least = {}, missing = {};     ///< words for the lowest value, and for none: "off", "as recorded"
  std::vector<WordFor> choices = {};    ///< of a flag, a choice, or a few numbers
  QString withoutName = {};             ///< what the loop is heard without: "mono fold"; empty: its name
  std::string editName = {};            ///< as Undo shows it; empty: "set" and its name
  std::optional<double> startsAt = {};  ///< where stepping begins while there is no value
  int group = 0;                        ///< as FieldSpec's

  FieldWords called(QString words) const { return with(&FieldWords::name, std::move(words)); }
  FieldWords switchedBy(std::string other) const { return with(&FieldWords::onBy, std::move(other)); }
  FieldWords lowest(QString word) const { return with(&FieldWords::least, std::move(word)); }
  FieldWords none(QString word) const { return with(&FieldWords::missing, std::move(word)); }
  FieldWords oneOf(std::vector<WordFor> words) const { return with(&FieldWords::choices, std::move(words)); }
  FieldWords outAs(QString words) const { return with(&FieldWords::withoutName, std::move(words)); }
  FieldWords undoAs(std::string words) const { return with(&FieldWords::editName, std::move(words)); }
  FieldWords from(double value) const { return with(&FieldWords::startsAt, std::optional(value)); }

  template <class T>
  FieldWords with(T FieldWords::*member, T value) const {
    FieldWords out = *this;
    out.*member = std::move(value);
    return out;
  }
};

/// The value's owner, looked up on each use; nothing without one.
using OwnerNow = std::function<std::optional<Owner>()>;

/// An edit instead of the plain one, for a value with side effects.
using PutAs = std::function<Edit(const Value& value, const std::string& mergeKey)>;

/// `words.key` names a value of the owner as the session is now, or the field shows a dash until it does.
FieldSpec fieldOf(Document& document, const OwnerNow& owner, const FieldWords& words, const PutAs& putAs = {});
/// The range of an existing value.
Range rangeOf(const Document& document, const Owner& owner, const std::string& key);
/// The same words below another object: its drive's, its EQ's.
FieldWords below(const std::string& prefix, FieldWords words);
/// "off" and "on" for a flag.
std::vector<WordFor> eitherOf(const QString& off, const QString& on);

/// "No EQ", "No soft clip": the loop without it, as the button of Before says it.
std::string nameWithout(QString name);

/// Whether a flag is set; nothing where it is not there.
std::optional<bool> isOn(const Session& session, const std::optional<Owner>& owner, const std::string& key);

}  // namespace heft::app
