// Perceived loudness of the bass line.

#include <algorithm>
#include <cmath>

#include "app/fields/layer_specials.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/pair.h"

namespace heft::app {

FieldSpec listeningField(Document& doc) {
  FieldSpec f = fieldOf(doc, [] { return Owner(); },
                        {"track.listening.full_scale_db", "Listening level",
                         "Playback level of a full-scale sine. Low notes lose loudness at low levels"});
  f.text = [&doc] { return dbText(doc.track().listening.fullScaleDb, 0, false) + " SPL"; };
  return f;
}

FieldSpec evenLineField(Document& doc) {
  FieldSpec f;
  f.caption = f.name = "Evenness";
  f.tip = "Spread of the bass notes in perceived loudness. \"Even\" trims each note and leaves velocity alone";
  f.text = [&doc] {
    const Study* s = doc.study();
    if (!s || s->line.notes.empty()) return QString("-");
    double most = 0.0;
    for (const NoteHeard& n : s->line.notes) most = std::max(most, std::abs(n.toLineDb));
    return "even within " + dbText(most, 1, false);
  };
  f.choices = [] { return QStringList{"even all notes", "clear trims"}; };
  f.choose = [&doc](int i) {
    const Study* s = doc.study();
    if (i == 1) return doc.edit(clearTrims(doc.session().bass()));
    if (!s) return;
    std::vector<std::pair<size_t, double>> more;
    for (const NoteHeard& n : s->line.notes) more.emplace_back(n.note, n.toLineDb);
    doc.edit(evenLine(doc.session().bass(), more));
  };
  f.without = [&doc] {
    Edit plain = clearTrims(doc.session().bass());
    plain.name = "No trims";
    return plain;
  };
  return f;
}

}  // namespace heft::app
