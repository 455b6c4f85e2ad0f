#include "app/stages/sounds/layer_sections.h"

#include <algorithm>

#include "app/fields/contour_fields.h"
#include "app/fields/lane_level.h"
#include "app/fields/layer_specials.h"
#include "app/fields/sound_words.h"

namespace heft::app {
namespace {

// Of one object: fields for a list of words.
struct Of {
  Document& document;
  OwnerNow owner;

  FieldSpec field(const FieldWords& words) const { return fieldOf(document, owner, words); }
  std::vector<FieldSpec> fields(const std::string& prefix, const std::vector<FieldWords>& all) const {
    std::vector<FieldSpec> out;
    for (const FieldWords& words : all) out.push_back(field(below(prefix, words)));
    return out;
  }
  // Whether any of these flags is set.
  std::function<std::optional<bool>()> anyOn(std::vector<std::string> keys) const {
    return [document = &document, owner = owner, keys = std::move(keys)]() -> std::optional<bool> {
      return std::any_of(keys.begin(), keys.end(), [&](const std::string& key) {
        return isOn(document->session(), owner(), key).value_or(false);
      });
    };
  }
};

void append(std::vector<FieldSpec>& out, std::vector<FieldSpec> more) {
  for (FieldSpec& f : more) out.push_back(std::move(f));
}

std::function<std::optional<bool>()> whether(LayerChoice& c, bool (*is)(const Layer&)) {
  return [&c, is]() -> std::optional<bool> { return c.layer() && is(*c.layer()); };
}

FieldSection soundSection(LayerChoice& c, const Of& of) {
  FieldSection s{"Sound", {}, {}};
  auto& f = s.fields;
  const bool built = c.layer()->isBuilt();
  f.push_back(of.field({"level_db", "Level", "Level of the chosen sound in dB"}));
  f.push_back(of.field(FieldWords{"invert", "Sound polarity", "Invert the layer's polarity"}.oneOf(
      eitherOf("normal", "inverted"))));
  f.push_back(of.field({"offset_ms", "Offset", "Delay against the part's other layers"}));
  if (!built || c.playsNotes())
    f.push_back(of.field({"semitones", "Varispeed", "Pitch shift by speed, added to any target"}));
  if (!built && c.playsNotes())
    f.push_back(of.field(FieldWords{"recorded.keep_length", "Pitched",
                                    "By speed its length changes with the note; kept it does not"}
                             .oneOf(eitherOf("by speed", "length kept"))));
  if (!built) {
    f.push_back(of.field({"shape.start_ms", "Start", "Trim from the start of the file"}));
    f.push_back(of.field({"shape.fade_in_ms", "Fade in", "Fade-in time at the start of the sound"}));
    f.push_back(of.field({"shape.fade_out_ms", "Fade out", "Fade-out time at the end of the sound"}));
  }
  // The bass's root is in Tune.
  if (!built && c.playsNotes() && c.part().is() != PartRole::Bass)
    f.push_back(of.field(FieldWords{"recorded.root_midi", "Root",
                                    "Root note of the sample. Delete resets it to the measured note"}
                             .none("measured")
                             .from(33.0)));
  if (!built && c.playsNotes()) {
    f.push_back(of.field(FieldWords{"recorded.follow_notes", "Pitch",
                                    "Follow the notes, or play every note at the sample's own pitch"}
                             .oneOf(eitherOf("fixed", "follows notes"))));
    f.push_back(of.field({"recorded.glide_ms", "Glides", "Into a tied note, in ms"}));
  }
  return s;
}

// For layers that play hits.
FieldSection lengthSection(LayerChoice& c, const Of& of) {
  FieldSection s{"Length", {}, {}};
  auto& f = s.fields;
  const Recorded* recorded = c.layer()->recorded();
  if (recorded) {
    f.push_back(lengthField(c));
    // The kick's section by its name, any other part's by its kind.
    if (c.part().is() != PartRole::Kick) f.back().caption = f.back().name = "Length";
    f.push_back(setLengthField(c));
  }
  if (recorded && recorded->length) {
    f.push_back(of.field(FieldWords{"recorded.fade.shape", "Fade", "How the tail dies away by its length"}
                             .called("Tail fade")
                             .oneOf({{"smooth", std::string("smooth")},
                                     {"a line", std::string("linear")},
                                     {"equal power", std::string("equal_power")},
                                     {"exponential", std::string("exponential")},
                                     {"drawn", std::string("drawn")}})));
    f.push_back(
        of.field(FieldWords{"recorded.fade.from", "Fade from", "Where it begins, as a part of the length"}));
    if (recorded->fade.shape == FadeShape::Drawn)
      f.push_back(of.field(FieldWords{
          "recorded.fade.bend", "Fade bend",
          "Fade curve. Negative holds longer, positive drops early. Or drag the middle of the fade"}));
  }
  f.push_back(tailField(c));
  if (c.part().is() != PartRole::Kick) return s;
  f.push_back(tailTargetField(c.document()));
  f.push_back(audibleField(c));
  return s;
}

FieldSection hitsSection(LayerChoice& c, const Of& of, const std::string& kind) {
  FieldSection s{"Hits", {}, {playsOnField(c)}};
  s.fields.push_back(of.field(
      {kind + "velocity_to_level", "Velocity to level", "How much of a hit's velocity its level takes"}));
  if (c.layer()->kickVoice())
    s.fields.push_back(
        of.field({kind + "velocity_to_length", "Velocity to length", "How much shorter soft hits are"}));
  return s;
}

FieldSection splitSection(LayerChoice& c, const Of& of) {
  FieldSection s{"Split",
                 whether(c, [](const Layer& l) { return l.recorded()->split.side != Side::Whole; }),
                 {splitField(c)}};
  if (c.layer()->recorded()->split.side == Side::Whole) return s;
  append(s.fields, {cutField(c, of.owner), joinField(c, of.owner), jointField(c)});
  return s;
}

// For the bass: its line's loudness.
FieldSection lineSection(LayerChoice& c) {
  const auto isTrimmed = [&c]() -> std::optional<bool> {
    const auto& notes = c.part().notes;
    return std::any_of(notes.begin(), notes.end(), [](const Note& n) { return n.trim != NoteTrim(); });
  };
  return {kLineSection, isTrimmed, {listeningField(c.document()), evenLineField(c.document())}};
}

FieldSection kickVoiceSection(LayerChoice& c, const Of& of) {
  FieldSection s{"Voice", {}, {}};
  auto& f = s.fields;
  f.push_back(
      of.field(FieldWords{"built_kick.landing_midi", "Landing", "Landing note of the built kick"}.undoAs(
          "move landing")));
  f.back().reset = {};
  f.push_back(lengthField(c));
  f.push_back(wholeLengthField(c));
  f.push_back(of.field({"built_kick.fall.0.semitones", "Pitch start",
                        "Start of the pitch fall above the landing. 12 or 24 st is typical"}));
  f.push_back(startOnField(c));
  append(f, of.fields("built_kick.", kickVoiceWords()));
  return s;
}

std::vector<FieldSection> backingSections(LayerChoice& c) {
  Document& doc = c.document();
  const Of of{doc, [] { return Owner(); }};
  FieldSection s{"Sound", {}, {}};
  // The same as at the lane's head.
  FieldSpec level = laneLevelField(doc, kBackingLane);
  level.caption = level.name = "Level";
  s.fields.push_back(std::move(level));
  s.fields.push_back(of.field(
      FieldWords{"backing.mute", "Mute", "Takes the backing out of the sum, in this session and its export"}
          .called("Backing mute")
          .oneOf(eitherOf("heard", "muted"))));
  s.fields.push_back(
      of.field(FieldWords{"backing.offset_s", "Offset",
                          "File position at the loop start. Negative starts it later; Delete resets it"}
                   .called("Backing offset")));
  s.fields.push_back(
      of.field(FieldWords{"backing.low_cut_hz", "Low cut", "High-pass, 24 dB/oct. Delete turns it off"}
                   .called("Backing low cut")
                   .none("off")
                   .from(80.0)));
  s.fields.push_back(of.field(FieldWords{"backing.mono_below_hz", "Mono below",
                                         "Mono below this frequency, 24 dB/oct. Delete turns it off"}
                                  .called("Backing mono below")
                                  .none("off")
                                  .from(120.0)));
  return {s};
}

// All processors of one chain, on or off, and for a part how they work.
FieldSection chainSection(LayerChoice& c, const Owner& holder) {
  const Of of{c.document(), [holder] { return holder; }};
  const bool part = holder.part && !holder.layer;
  const std::string key = holder.layer ? "chain.on" : part ? "finish.on" : "sum.finish.on";
  FieldSection out{holder.layer ? "Layer's processors"
                   : part       ? "Part's processors"
                                : "Sum's processors",
                   of.anyOn({key}),
                   {}};
  out.fields.push_back(of.field(
      FieldWords{key, "All", "Bypass all of these processors"}.called(out.name).oneOf(eitherOf("off", "on"))));
  if (part)
    out.fields.push_back(
        of.field(FieldWords{"finish_over", "Process",
                            "Each hit on its own, as its one-shot exports; or the whole lane, so that "
                            "overlapping notes are processed together"}
                     .called("Finish works on")
                     .oneOf({{"each hit", std::string("hits")}, {"the lane", std::string("lane")}})));
  return out;
}

}  // namespace

std::optional<Edit> FieldSection::without() const {
  if (!isIn) return std::nullopt;
  std::vector<Edit> all;
  for (const FieldSpec& f : fields)
    if (f.without) all.push_back(f.without());
  return allOf(nameWithout(name), std::move(all));
}

QString chainTitle(const Session& session, const Owner& of) {
  const Part* part = of.part ? session.part(*of.part) : nullptr;
  const Layer* layer = part && of.layer ? part->layer(*of.layer) : nullptr;
  return layer  ? QString::fromStdString(layer->title())
         : part ? QString::fromStdString(part->title())
                : QString("Sum");
}

FieldSection processorSection(LayerChoice& c, const ChainPlace& place, const std::function<void()>& loadBody) {
  Document& doc = c.document();
  if (!place.id) return chainSection(c, place.of);
  const Of of{doc, [owner = place.owner()] { return owner; }};
  const Processor* processor = c.processor();
  if (!processor) return {};
  const size_t kind = processor->what.index();
  const std::string key = processorKey(kind);
  FieldSection out{processorWord(kind), of.anyOn({key + ".on"}), {}};
  if (processor->as<Body>()) out.fields.push_back(bodyField(c, loadBody));
  append(out.fields, of.fields("", processorWords(kind)));
  if (!canKeepLoudness(kind)) return out;
  const FieldSpec kept = of.field(FieldWords{
      "keep_loudness", "Loudness", "Keep the sound as loud as it was before, or let the processor change it"}
                                      .called("Keep loudness")
                                      .oneOf(eitherOf("as processed", "kept")));
  // Fields of one group stay together.
  const size_t kInSight = processor->as<Eq>() ? 1 : 4;
  out.fields.insert(out.fields.begin() + static_cast<std::ptrdiff_t>(std::min(kInSight, out.fields.size())),
                    kept);
  return out;
}

std::vector<FieldSection> sectionsOf(LayerChoice& c) {
  if (c.isBacking()) return backingSections(c);
  const Layer* layer = c.layer();
  if (!layer) return {};
  const Of of{c.document(), [&c] { return c.layerOwner(); }};
  std::vector<FieldSection> out;
  const std::string kind = layer->kickVoice()   ? "built_kick."
                           : layer->bassVoice() ? "built_bass."
                                                : "recorded.";
  if (layer->kickVoice()) {
    out.push_back(kickVoiceSection(c, of));
    out.push_back({"Strike", of.anyOn({kind + "strike.on"}), of.fields(kind, strikeWords())});
    out.push_back({"Drive", of.anyOn({kind + "drive.on"}), of.fields(kind + "drive.", driveWords())});
  }
  if (layer->bassVoice()) {
    out.push_back({"Voice", {}, of.fields(kind, bassVoiceWords())});
    out.push_back({"Mid and high",
                   whether(c,
                           [](const Layer& l) {
                             return l.bassVoice() &&
                                    (l.bassVoice()->mid.levelDb || l.bassVoice()->high.levelDb);
                           }),
                   of.fields(kind, bassBandsWords())});
  }
  out.push_back(soundSection(c, of));
  if (c.playsHits()) out.push_back(lengthSection(c, of));
  out.push_back(hitsSection(c, of, kind));
  if (layer->recorded() && !c.playsNotes()) out.push_back(splitSection(c, of));
  if (c.playsNotes())
    out.push_back(
        {kContourSection, [&c]() -> std::optional<bool> { return c.part().contour.on; }, contourFields(c)});
  if (c.part().is() == PartRole::Bass) out.push_back(lineSection(c));
  return out;
}

}  // namespace heft::app
