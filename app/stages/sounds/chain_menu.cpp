// Actions on a processor or on a whole chain: menus, the clipboard, presets.

#include <QApplication>
#include <QClipboard>
#include <QInputDialog>
#include <algorithm>

#include "app/stages/sounds/chain_strip.h"
#include "app/stages/sounds/layer_sections.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/presets.h"

namespace heft::app {
namespace {

void offer(QMenu& menu, const QString& words, bool enabled, const std::function<void()>& then) {
  QAction* action = menu.addAction(words);
  action->setEnabled(enabled);
  QObject::connect(action, &QAction::triggered, &menu, then);
}

}  // namespace

void ChainStrip::put(const Processor& processor, const ChainPlace& behind) {
  const Chain* chain = chainOf(session(), behind.of);
  if (!chain) return;
  if (chain->isFull()) return document().tell(kChainFull);
  const int id = chain->freshId();
  // Position of the plus: behind the selection, else at the end.
  const auto last = chain->list.empty() ? std::nullopt : std::optional(chain->list.back().id);
  document().edit(addProcessor(behind.of, processor, behind.id ? behind.id : last));
  lookAt({behind.of, id});
  setFocus();
}

std::vector<QChar> ChainStrip::letters() {
  std::vector<QChar> out;
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    const QString word = processorWord(kind);
    const auto letter = std::find_if(word.begin(), word.end(), [&](QChar c) {
      return c.isLetter() && std::find(out.begin(), out.end(), c.toUpper()) == out.end();
    });
    out.push_back(letter != word.end() ? letter->toUpper() : QChar());
  }
  return out;
}

void ChainStrip::addKind(size_t kind) {
  put(addedProcessor(kind), chosen());
  Q_EMIT added();
}

void ChainStrip::fillAddMenu(QMenu& menu, const ChainPlace& at) {
  const auto keys = letters();
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    QString words = processorWord(kind);
    if (const auto place = words.indexOf(keys[kind], 0, Qt::CaseInsensitive); place >= 0)
      words.insert(place, '&');
    offer(menu, words + "\tAlt+Shift+" + keys[kind], true, [this, at, kind] {
      put(addedProcessor(kind), at);
      Q_EMIT added();
    });
  }
}

void ChainStrip::fillMenu(QMenu& menu, const ChainPlace& at) {
  const Chain* chain = chainOf(session(), at.of);
  if (!chain) return;
  const Processor* now = at.id ? chain->find(*at.id) : nullptr;
  fillAddMenu(*menu.addMenu("Add"), at);
  offer(menu, "Paste", true, [this] { paste(); });
  if (now) {
    offer(menu, now->isOn() ? "Bypass" : "Enable", true,
          [this, at, on = now->isOn()] { document().edit(switchProcessor(at.of, *at.id, !on)); });
    offer(menu, "Copy", true, [this] { copy(); });
    offer(menu, "Cut", true, [this] { cut(); });
    offer(menu, "Duplicate", true, [this] { duplicate(); });
    offer(menu, "Remove", true, [this] { remove(); });
  } else {
    offer(menu, chain->on ? "Bypass all" : "Enable all", !chain->list.empty(),
          [this, at, on = chain->on] { document().edit(switchChain(at.of, !on)); });
    offer(menu, "Copy all", !chain->list.empty(), [this] { copy(); });
  }
  menu.addSeparator();
  const Preset own = presetOf(session(), at.owner());
  addPresets(
      *menu.addMenu(now ? QString("Presets of %1").arg(processorWord(now->what.index())) : QString("Lists")),
      own, at);
  offer(menu, now ? "Save it as a preset..." : "Save chain as preset...", now || !chain->list.empty(),
        [this, own] { save(own); });
  const auto whole = wholeOf(at);
  if (!whole) return;
  const auto word = QString::fromStdString(presetKindWord(*whole));
  addPresets(*menu.addMenu(QString("Presets of a whole %1").arg(word)), *whole, at);
  offer(menu, QString("Save the whole %1 as a preset...").arg(word), true, [this, whole] { save(*whole); });
}

std::optional<Preset> ChainStrip::wholeOf(const ChainPlace& at) const {
  const Part* part = at.of.part && !at.id ? session().part(*at.of.part) : nullptr;
  if (!part) return std::nullopt;
  const Layer* layer = at.of.layer ? part->layer(*at.of.layer) : nullptr;
  return layer ? Preset{layer->title(), *layer} : Preset{part->title(), *part};
}

void ChainStrip::addPresets(QMenu& menu, const Preset& like, const ChainPlace& at) {
  const auto all = shelf_.like(like);
  bool own = true;
  for (const PresetFile& file : all) {
    if (own && file.path.empty() && !menu.isEmpty()) menu.addSeparator();
    own = !file.path.empty();
    offer(menu, QString::fromStdString(file.preset.name), true, [this, file, at] { use(file, at); });
  }
  if (all.empty()) offer(menu, "none yet", false, [] {});
}

void ChainStrip::use(const PresetFile& file, const ChainPlace& at) {
  shelf_.open(file, [this, at](const Preset& preset) {
    const auto edit = usePreset(session(), at.owner(), preset);
    if (!edit) return document().tell(QString::fromStdString(edit.error().sentence()));
    document().edit(*edit);
  });
}

void ChainStrip::save(Preset preset) {
  bool ok = false;
  const QString name = QInputDialog::getText(this, "Save a preset", "Name", QLineEdit::Normal,
                                             QString::fromStdString(preset.name), &ok);
  if (!ok || name.trimmed().isEmpty()) return;
  preset.name = name.trimmed().toStdString().substr(0, 200);
  shelf_.save(preset);
}

void ChainStrip::copy() {
  const Preset own = presetOf(session(), chosen().owner());
  QApplication::clipboard()->setText(QString::fromStdString(presetToJson(own)));
}

void ChainStrip::cut() {
  if (!choice_.processor()) return;
  copy();
  remove();
}

void ChainStrip::paste() {
  const std::string text = QApplication::clipboard()->text().toStdString();
  const auto preset = presetFromJson(text, "the clipboard");
  if (!preset) return document().tell("The clipboard holds no processor: copy one with Ctrl+C first.");
  for (const AssetRef& ref : assetsOf(*preset))
    if (!document().assets().find(ref))
      return document().tell("The copied processor uses " + QString::fromStdString(ref.name) +
                             ", which is not in this session: save it as a preset there and load that here.");
  const ChainPlace at = chosen();
  if (const auto* processor = std::get_if<Processor>(&preset->what)) return put(*processor, at);
  const auto edit = usePreset(session(), {at.of.part, at.of.layer}, *preset);
  if (!edit) return document().tell(QString::fromStdString(edit.error().sentence()));
  document().edit(*edit);
}

void ChainStrip::duplicate() {
  const Processor* now = choice_.processor();
  const ChainPlace at = chosen();
  const Chain* chain = now ? chainOf(session(), at.of) : nullptr;
  if (!chain) return;
  if (chain->isFull()) return document().tell(kChainFull);
  const int id = chain->freshId();
  document().edit(duplicateProcessor(at.of, now->id));
  lookAt({at.of, id});
}

void ChainStrip::remove() {
  const Processor* now = choice_.processor();
  if (!now) return;
  const ChainPlace at = chosen();
  const Chain* chain = chainOf(session(), at.of);
  size_t place = 0;
  while (place < chain->list.size() && chain->list[place].id != now->id) ++place;
  document().edit(removeProcessor(at.of, now->id));
  // The next one, the one before, or the holder.
  chain = chainOf(session(), at.of);
  if (!chain || chain->list.empty()) return lookAt({at.of});
  lookAt({at.of, chain->list[std::min(place, chain->list.size() - 1)].id});
}

void ChainStrip::flip(int way) {
  const ChainPlace at = chosen();
  auto all = shelf_.like(presetOf(session(), at.owner()));
  // For a chain its lists first, then whole layers or parts.
  if (const auto whole = wholeOf(at))
    for (const PresetFile& file : shelf_.like(*whole))
      if (usePreset(session(), at.owner(), file.preset)) all.push_back(file);
  if (all.empty()) return document().tell("There is no preset of this kind yet. Right-click to save one.");
  const int count = static_cast<int>(all.size());
  if (!(flippedAt_ == at)) flippedNumber_ = way > 0 ? -1 : count;
  flippedAt_ = at;
  flippedNumber_ = std::clamp(flippedNumber_ + way, 0, count - 1);
  shelf_.open(all[static_cast<size_t>(flippedNumber_)], [this, at](const Preset& preset) {
    auto edit = usePreset(session(), at.owner(), preset);
    if (!edit) return document().tell(QString::fromStdString(edit.error().sentence()));
    flipped_ = preset;
    edit->name = preset.name;
    document().setHeard(*edit);
    Q_EMIT heard(*edit);
    update();
  });
}

void ChainStrip::takeFlipped() {
  if (!flipped_) return;
  const Preset preset = *std::exchange(flipped_, std::nullopt);
  const auto edit = usePreset(session(), flippedAt_.owner(), preset);
  document().setHeard(std::nullopt);
  Q_EMIT heard(std::nullopt);
  if (edit) document().edit(*edit);
  update();
}

void ChainStrip::leaveFlipped() {
  if (!flipped_) return;
  flipped_.reset();
  flippedNumber_ = -1;
  document().setHeard(std::nullopt);
  Q_EMIT heard(std::nullopt);
  update();
}

}  // namespace heft::app
