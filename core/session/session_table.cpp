// Values of the track, its references and targets, and of the session itself (table.h), each with its key, its
// range and its unit.

#include "core/session/fields.h"
#include "core/session/rows.h"

namespace heft {

using namespace rows;

namespace {

constexpr const char* kNoKeyWord = "none";

std::string keyText(const Key& key) {
  return key.name();
}
std::string keyOrNone(const std::optional<Key>& key) {
  return key ? key->name() : kNoKeyWord;
}
Result<std::optional<Key>> parseKeyOrNone(const std::string& text) {
  if (text == kNoKeyWord) return std::optional<Key>();
  const auto key = parseKey(text);
  if (!key) return Fail(key.error());
  return std::optional(*key);
}

}  // namespace

template <>
const Table& tableOf<Section>() {
  static constexpr Row kRows[] = {
      text<&Section::name>("name", kLongestName, Saved::WhenSet),
      number<&Section::fromSeconds>("from_s", {0, kLongestReferenceSeconds, Unit::Seconds}),
      number<&Section::toSeconds>("to_s", {0, kLongestReferenceSeconds, Unit::Seconds}),
      kept<&Section::unknown>()};
  static constexpr Table kTable = made<Section>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Reference>() {
  static constexpr Row kRows[] = {
      text<&Reference::asset, &AssetRef::hash>("hash", 32),
      text<&Reference::asset, &AssetRef::name>("name", kLongestText),
      text<&Reference::asset, &AssetRef::from>("from", kLongestText, Saved::WhenSet),
      count<&Reference::asset, &AssetRef::stamp, &SourceStamp::bytes>("from_bytes", Saved::WhenSet),
      count<&Reference::asset, &AssetRef::stamp, &SourceStamp::changedNs>("from_changed_ns", Saved::WhenSet),
      flag<&Reference::leftOut>("not_in_median", Saved::WhenSet),
      list<&Reference::sections>("sections", kMostSections, Saved::WhenSet),
      whole<&Reference::chosen>("section", {0, kMostSections - 1}),
      number<&Reference::tempoBpm>("tempo_bpm", {40, 240, Unit::Bpm}),
      number<&Reference::firstBeatSeconds>("first_beat_s", {0, kLongestReferenceSeconds, Unit::Seconds}),
      parsed<keyOrNone, parseKeyOrNone, &Reference::key>("key"),
      kept<&Reference::asset, &AssetRef::unknown>()};
  static constexpr Table kTable = made<Reference>(kRows);
  return kTable;
}

template <>
const Table& tableOf<BandAim>() {
  static constexpr Row kRows[] = {number<&BandAim::lowHz>("low_hz", {20, 500, Unit::Hz}),
                                  number<&BandAim::highHz>("high_hz", {20, 500, Unit::Hz}),
                                  number<&BandAim::toleranceDb>("tolerance_db", {0.1, 12, Unit::Db}),
                                  number<&BandAim::targetDb>("target_db", {-120, 40, Unit::Db}),
                                  kept<&BandAim::unknown>()};
  static constexpr Table kTable = made<BandAim>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Targets>() {
  static constexpr Row kRows[] = {number<&Targets::kickMs>("kick_length_ms", {10, 2000, Unit::Ms}),
                                  number<&Targets::dipDb>("dip_db", {0, 60, Unit::Db}),
                                  number<&Targets::backMs>("dip_back_ms", {5, 2000, Unit::Ms}),
                                  number<&Targets::kickToBassDb>("kick_to_bass_db", {-40, 40, Unit::Db}),
                                  number<&Targets::monoBelowHz>("mono_below_hz", {20, 500, Unit::Hz}),
                                  list<&Targets::bands>("bands", kMostBandAims, Saved::WhenSet),
                                  kept<&Targets::unknown>()};
  static constexpr Table kTable = made<Targets>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Taught>() {
  static constexpr Row kRows[] = {parsed<controlName, parseControl, &Taught::by>("by"),
                                  parsed<ownerName, parseOwner, &Taught::owner>("of"),
                                  text<&Taught::key>("key", kLongestName),
                                  text<&Taught::switchKey>("switch", kLongestName, Saved::WhenSet),
                                  text<&Taught::name>("name", kLongestName),
                                  kept<&Taught::unknown>()};
  static constexpr Table kTable = made<Taught>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Listening>() {
  static constexpr Row kRows[] = {
      number<&Listening::fullScaleDb>("full_scale_db", {kLeastListeningDb, kMostListeningDb, Unit::Db})};
  static constexpr Table kTable = made<Listening>(kRows);
  return kTable;
}

template <>
const Table& tableOf<AutomationPoint>() {
  static constexpr Row kRows[] = {number<&AutomationPoint::quarters>("at", {0, 1e5, Unit::Quarters}),
                                  number<&AutomationPoint::value>("value", {-1e6, 1e6, Unit::Number}),
                                  number<&AutomationPoint::bend>("bend", {-1, 1, Unit::Share}),
                                  kept<&AutomationPoint::unknown>()};
  static constexpr Table kTable = made<AutomationPoint>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Automation>() {
  static constexpr Row kRows[] = {parsed<ownerName, parseOwner, &Automation::owner>("of"),
                                  text<&Automation::key>("key", kLongestName),
                                  text<&Automation::name>("name", kLongestName),
                                  flag<&Automation::on>("on"),
                                  flag<&Automation::holds>("holds", Saved::WhenSet),
                                  list<&Automation::points>("points", kMostAutomationPoints),
                                  kept<&Automation::unknown>()};
  static constexpr Table kTable = made<Automation>(kRows);
  return kTable;
}

template <>
const Table& tableOf<KeptState>() {
  static constexpr Row kRows[] = {text<&KeptState::name>("name", kLongestName),
                                  parsed<textOf, parseShared, &KeptState::session>("session", kMostStateBytes),
                                  list<&KeptState::sounds>("sounds", kMostStateSounds, Saved::WhenSet),
                                  kept<&KeptState::unknown>()};
  static constexpr Table kTable = made<KeptState>(kRows);
  return kTable;
}

template <>
const Table& tableOf<SectionPart>() {
  static constexpr Row kRows[] = {
      whole<&SectionPart::part>("part", {1, kHighestId}), flag<&SectionPart::mute>("mute"),
      text<&SectionPart::version>("version", kLongestName, Saved::WhenSet), kept<&SectionPart::unknown>()};
  static constexpr Table kTable = made<SectionPart>(kRows);
  return kTable;
}

template <>
const Table& tableOf<SectionDuck>() {
  static constexpr Row kRows[] = {whole<&SectionDuck::duck>("duck", {1, kHighestId}),
                                  number<&SectionDuck::amount>("amount", {0, 1, Unit::Share}),
                                  kept<&SectionDuck::unknown>()};
  static constexpr Table kTable = made<SectionDuck>(kRows);
  return kTable;
}

template <>
const Table& tableOf<TrackSection>() {
  static constexpr Row kRows[] = {whole<&TrackSection::id>("id", {1, kHighestId}),
                                  text<&TrackSection::name>("name", kLongestName),
                                  number<&TrackSection::fromQuarters>("from", {0, 1e5, Unit::Quarters}),
                                  number<&TrackSection::toQuarters>("to", {0, 1e5, Unit::Quarters}),
                                  list<&TrackSection::parts>("parts", kMostParts, Saved::WhenSet),
                                  list<&TrackSection::ducks>("ducks", kMostDucks, Saved::WhenSet),
                                  flag<&TrackSection::compared>("compared", Saved::WhenSet),
                                  kept<&TrackSection::unknown>()};
  static constexpr Table kTable = made<TrackSection>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Track>() {
  static constexpr Row kRows[] = {text<&Track::name>("name", kLongestName),
                                  parsed<keyText, parseKey, &Track::key>("key"),
                                  number<&Track::tempoBpm>("tempo_bpm", {kLeastTempo, kMostTempo, Unit::Bpm}),
                                  whole<&Track::beatsPerBar>("beats_per_bar", {1, 12}),
                                  whole<&Track::beatUnit>("beat_unit", {2, 16}),
                                  whole<&Track::loopBeats>("loop_beats", {1, 9600}),
                                  choice<&Track::notes, &NoteStyle::octaves>("middle_c"),
                                  number<&Track::notes, &NoteStyle::a4Hz>("a4_hz", {380, 480, Unit::Hz}),
                                  number<&Track::sampleRate>("sample_rate", {8000, 384000, Unit::Hz}),
                                  object<&Track::listening>("listening", Saved::WhenSet),
                                  flag<&Track::song>("song", Saved::WhenSet),
                                  kept<&Track::unknown>()};
  static constexpr Table kTable = made<Track>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Grid>() {
  static constexpr Row kRows[] = {time<&Grid::division>("division", {0, 24000, Unit::Ms}),
                                  number<&Grid::swing>("swing", {0, 1.5, Unit::Share}), kept<&Grid::unknown>()};
  static constexpr Table kTable = made<Grid>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Backing>() {
  static constexpr Row kRows[] = {
      object<&Backing::asset>("asset"),
      number<&Backing::levelDb>("level_db", {kLeastLevelDb, kMostLevelDb, Unit::Db}),
      flag<&Backing::mute>("mute"),
      number<&Backing::offsetSeconds>("offset_s", {-600, 600, Unit::Seconds}),
      number<&Backing::lowCutHz>("low_cut_hz", {20, 1000, Unit::Hz}),
      number<&Backing::monoBelowHz>("mono_below_hz", {20, 20000, Unit::Hz}),
      kept<&Backing::unknown>()};
  static constexpr Table kTable = made<Backing>(kRows);
  return kTable;
}

template <>
const Table& tableOf<SumBus>() {
  static constexpr Row kRows[] = {object<&SumBus::finish>("finish", Saved::WhenSet), kept<&SumBus::unknown>()};
  static constexpr Table kTable = made<SumBus>(kRows);
  return kTable;
}

template <>
const Table& tableOf<ExportList>() {
  static constexpr Row kRows[] = {flag<&ExportList::kickOneShot>("kick"),
                                  flag<&ExportList::bassOneShot>("bass"),
                                  flag<&ExportList::stems>("stems"),
                                  flag<&ExportList::gainCurve>("gain_curve"),
                                  flag<&ExportList::patterns>("patterns"),
                                  flag<&ExportList::partOneShots>("parts"),
                                  flag<&ExportList::versions>("versions", Saved::WhenSet),
                                  flag<&ExportList::everyNote>("every_note", Saved::WhenSet),
                                  flag<&ExportList::gainSignal>("gain_signal", Saved::WhenSet),
                                  flag<&ExportList::triggers>("triggers", Saved::WhenSet),
                                  flag<&ExportList::automation>("automation"),
                                  whole<&ExportList::gainController>("gain_controller", {0, 119}),
                                  whole<&ExportList::gainChannel>("gain_channel", {1, 16}),
                                  flag<&ExportList::gainFine>("gain_14_bits", Saved::WhenSet),
                                  number<&ExportList::oneShotPeakDb>("one_shot_peak_db", {-24, 0, Unit::Db}),
                                  choice<&ExportList::format>("format"),
                                  kept<&ExportList::unknown>()};
  static constexpr Table kTable = made<ExportList>(kRows);
  return kTable;
}

template <>
const Table& tableOf<Session>() {
  static constexpr Row kRows[] = {object<&Session::track>("track"),
                                  object<&Session::grid>("grid"),
                                  list<&Session::sections>("sections", kMostTrackSections, Saved::WhenSet),
                                  list<&Session::parts>("parts", kMostParts),
                                  list<&Session::ducks>("ducks", kMostDucks),
                                  object<&Session::ducking>("ducking", Saved::WhenSet),
                                  object<&Session::handOver>("hand_over", Saved::WhenSet),
                                  object<&Session::backing>("backing"),
                                  object<&Session::sum>("sum"),
                                  list<&Session::references>("references", kMostReferences),
                                  object<&Session::targets>("targets", Saved::WhenSet),
                                  object<&Session::exports>("export"),
                                  list<&Session::taught>("taught", kMostTaught, Saved::WhenSet),
                                  list<&Session::automation>("automation", kMostAutomations, Saved::WhenSet),
                                  list<&Session::states>("states", kMostStates, Saved::WhenSet),
                                  texts<&Session::meantSo>("meant_so", 1000),
                                  text<&Session::savedOn>("saved_on", 64, Saved::WhenSet),
                                  kept<&Session::unknown>()};
  static constexpr Table kTable = made<Session>(kRows);
  return kTable;
}

}  // namespace heft
