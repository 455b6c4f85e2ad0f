#include "app/desk/part_menu.h"

#include <QInputDialog>

#include "core/render/lanes/bounce.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

void rename(LayerChoice& choice, QWidget* over) {
  bool ok = false;
  const int id = choice.part().id;
  const QString name = QInputDialog::getText(over, "Name this part", "Name", QLineEdit::Normal,
                                             QString::fromStdString(choice.part().title()), &ok);
  const Part* part = choice.document().session().part(id);
  if (ok && part) choice.document().edit(renamePart(*part, name.toStdString()));
}

void duplicate(LayerChoice& choice) {
  Document& doc = choice.document();
  const int id = freshPartId(doc.session());
  doc.edit(duplicatePart(choice.part(), id));
  const Part* copy = doc.session().part(id);
  if (copy) choice.choose(Place{id}, copy->layers.empty() ? 0 : copy->layers.front().id);
}

// Replaces the part, or the chosen layer, by a recording of how it sounds.
void bounceInto(LayerChoice& choice, std::optional<int> layer) {
  Document& doc = choice.document();
  auto work = [s = doc.session(), a = doc.assets(), cache = doc.cache(), part = choice.part().id,
               layer](const std::stop_token&) { return bounced(s, a, part, layer, *cache); };
  doc.jobs().start("Bouncing", Jobs::Kind::CanBeCancelled, work, [&doc](Result<Bounce> made) {
    if (!made) return doc.fail(QString::fromStdString(made.error().sentence()));
    doc.sounds().takeBounce(std::move(*made));
  });
}

}  // namespace

void addPartTo(LayerChoice& choice) {
  Document& doc = choice.document();
  if (doc.session().parts.size() >= kMostParts)
    return doc.tell(QString("A session holds kick, bass and up to %1 more parts.").arg(kMostParts - 2));
  const int id = freshPartId(doc.session());
  doc.edit(addPart(id, freshPartName(doc.session()), Plays::Hits));
  choice.choose(Place{id}, 0);
}

void fillPartMenu(QMenu& menu, LayerChoice& choice, QWidget* over) {
  Document& doc = choice.document();
  auto add = [&](const QString& words, bool enabled, auto then) {
    QAction* action = menu.addAction(words);
    action->setEnabled(enabled);
    QObject::connect(action, &QAction::triggered, over, then);
  };
  const Part& part = choice.part();
  const QString title = QString::fromStdString(part.title());
  const bool other = part.is() == PartRole::Other, some = !part.layers.empty();
  add("Add a part", true, [&choice] { addPartTo(choice); });
  menu.addSeparator();
  add("Rename " + title + "...", true, [&choice, over] { rename(choice, over); });
  add("Duplicate " + title, some, [&choice] { duplicate(choice); });
  for (const int way : {-1, 1})
    add(way < 0 ? "Move its lane up" : "Move its lane down", true,
        [&choice, way] { choice.document().edit(movePart(choice.part(), way)); });
  if (other)
    add(part.playsNotes() ? "Play hits" : "Play notes", true, [&choice] {
      choice.document().edit(setPlays(choice.part(), choice.part().playsNotes() ? Plays::Hits : Plays::Notes));
    });
  menu.addSeparator();
  const auto& peak = doc.session().exports.oneShotPeakDb;
  const QString at = peak ? " at " + QString::fromStdString(formatNumber(*peak, 1)) + " dBTP" : QString();
  add("Bounce " + title + " to a recording" + at, some, [&choice] { bounceInto(choice, std::nullopt); });
  add("Bounce the chosen layer to a recording" + at, !choice.isBacking() && choice.layer(),
      [&choice] { bounceInto(choice, choice.layer() ? std::optional(choice.layer()->id) : std::nullopt); });
  menu.addSeparator();
  add("Remove " + title, canRemove(doc.session(), part.id), [&choice] {
    const Edit edit = removePart(choice.document().session(), choice.part().id);
    choice.document().edit(edit);
    choice.choose(kickOf(choice.document().session()), 1);
  });
}

}  // namespace heft::app
