// Parts as a list: lanes, levels, finishes that run, bounces; edits by name; random edits against a warm cache;
// and sessions at the bounds.

#include "core/session/edits/parts.h"

#include <algorithm>
#include <random>

#include "core/export/export_files.h"
#include "core/judge/ledger.h"
#include "core/remedies/remedies.h"
#include "core/session/edits/events.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/values.h"
#include "core/session/history.h"
#include "core/session/pattern.h"
#include "core/session/versions.h"
#include "core/shape/dynamics.h"
#include "tests/reference/four_parts.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Stems renderedCold(const Session& s) {
  StepCache cache;
  auto stems = render(s, Assets(), cache);
  EXPECT_TRUE(stems);
  return std::move(*stems);
}

TEST(Parts, LanesAddUpToTheSumWithoutItsFinish) {
  Session s = fourParts();
  const Stems plain = renderedCold(s);
  ASSERT_EQ(plain.lanes.size(), 4u);
  for (size_t i = 0; i < plain.frames; ++i) {
    float sum = 0.0f;
    for (const Lane& lane : plain.lanes) sum += lane.heard.at(0, i);
    ASSERT_EQ(plain.sum.at(0, i), sum + plain.backing.at(0, i)) << i;
  }
  // With a finish the sum is another, the lanes are the same.
  s.sum.finish.put({0, Drive{true, DriveKind::Soft, 0, 9, 1}});
  const Stems finished = renderedCold(s);
  for (size_t k = 0; k < 4; ++k) EXPECT_EQ(samplesOf(finished.lanes[k].heard), samplesOf(plain.lanes[k].heard));
  EXPECT_NE(samplesOf(finished.sum), samplesOf(plain.sum));
}

// Level comes after the processors: a driven part gets quieter and keeps its tone.
TEST(Parts, ALevelKeepsTheToneOfWhatIsDriven) {
  Session s = fourParts();
  s.kick().finish.put({0, Drive{true, DriveKind::Hard, 0, 15, 1}});
  const auto before = samplesOf(renderedCold(s).kick());
  setPartLevel(s.kick(), -9).change(s);
  const auto after = samplesOf(renderedCold(s).kick());
  const double gain = amplitudeFromDb(-9);
  for (size_t i = 0; i < before.size(); ++i) ASSERT_NEAR(after[i], gain * before[i], 1e-6) << i;
}

// Against the whole-buffer finish of the same processors, run over three turns of the loop: the third is
// steady.
TEST(Parts, ARunningFinishIsTheFinishOfTheLoopGoingOnForEver) {
  Session s = fourParts();
  s.track.loopBeats = 8;
  const AudioBuffer plain = renderedCold(s).sum.toBuffer(16000);
  Chain f;
  f.need<Eq>()->lowCut = {true, 40, 24};
  f.need<Eq>()->bands[0] = {true, EqBand::Kind::Bell, 90, 4, 1.2};
  for (const Processor::What& what : std::vector<Processor::What>{Drive{true, DriveKind::Warm, 3, 9, 0.8},
                                                                  Compressor{true, -24, 4, 6, 5, 80, 3},
                                                                  SoftClip{true, 3, -6}, Limiter{true, -8, 60}})
    f.put({0, what});
  AudioBuffer turns = plain;
  for (auto& channel : turns.channels) {
    const std::vector<float> once = channel;
    for (int k = 0; k < 3; ++k) channel.insert(channel.end(), once.begin(), once.end());
  }
  applyChain(turns, readyOf(f), 0.0);
  s.sum.finish = f;
  const AudioBuffer running = renderedCold(s).sum.toBuffer(16000);
  const size_t n = plain.frames();
  double worst = 0.0, loudest = 0.0;
  for (size_t i = 0; i < n; ++i) {
    worst = std::max(worst, std::abs(double(running.channels[0][i]) - turns.channels[0][2 * n + i]));
    loudest = std::max(loudest, std::abs(double(running.channels[0][i])));
  }
  EXPECT_GT(loudest, 0.1);
  EXPECT_LE(loudest, amplitudeFromDb(-8) + 1e-6) << "no sample passes the ceiling";
  // Over a lane, only what the clip removes goes through its filters (-80 dB).
  EXPECT_LT(worst, 3e-4);
}

// One compressor over the lane holds together what plays at once; hit by hit it cannot know of the hit before.
TEST(Parts, AFinishOverTheLaneHearsTheHitBefore) {
  Session s = fourParts();
  s.kick().hits = {{0.0, 1.0}, {0.5, 1.0}};
  s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(190);
  s.kick().finish.put({0, Compressor{true, -30, 8, 0, 1, 600, 0}});
  const auto byHits = samplesOf(renderedCold(s).kick());
  setFinishOver(s.kick(), FinishOver::Lane).change(s);
  const auto overLane = samplesOf(renderedCold(s).kick());
  const auto second = static_cast<size_t>(0.5 * s.track.framesPerQuarter());
  auto peak = [](const std::vector<float>& x, size_t from, size_t count) {
    float most = 0;
    for (size_t i = from; i < from + count; ++i) most = std::max(most, std::abs(x[i]));
    return most;
  };
  // Its strike is too fast for the compressor; it is lower where the gain was already down.
  EXPECT_NEAR(peak(byHits, second, 40), peak(byHits, 0, 40), 1e-6);
  EXPECT_LT(peak(overLane, second, 40), 0.8f * peak(byHits, second, 40));
}

// One random edit of many kinds.
Edit randomEdit(const Session& s, std::mt19937& random) {
  auto below = [&](size_t n) { return static_cast<size_t>(random() % n); };
  const Part& part = s.parts[below(s.parts.size())];
  const double at = 0.25 * static_cast<double>(below(16));
  const double some = part.playsNotes()
                          ? (part.notes.empty() ? at : part.notes[below(part.notes.size())].startQuarters)
                          : (part.hits.empty() ? at : part.hits[below(part.hits.size())].startQuarters);
  const int layer = part.layers.empty() ? 1 : part.layers[below(part.layers.size())].id;
  switch (below(16)) {
    case 0:
      return part.playsNotes() ? placeNote(part, Note{at, 0.3, 30 + static_cast<int>(below(20)), 0.7})
                               : placeHit(part, {at, 0.8});
    case 1:
      return part.playsNotes() ? moveNote(part, some, at, 40) : moveHit(part, some, at);
    case 2:
      return part.playsNotes() ? removeNote(part, some) : removeHit(part, some);
    case 3:
      return setVelocity(part, some, 0.05 * static_cast<double>(below(20)));
    case 4:
      return setPartLevel(part, -static_cast<double>(below(12)));
    case 5:
      return duplicateLayer(part, layer, freshLayerId(part));
    case 6:
      return removeLayer(part, layer);
    case 7:
      return addBuiltLayer(part);
    case 8:
      return movePart(part, below(2) ? 1 : -1);
    case 9:
      return duplicatePart(part, freshPartId(s));
    case 10:
      return removePart(s, part.id);
    case 11:
      return setFinishOver(part, below(2) ? FinishOver::Lane : FinishOver::Hits);
    case 12:
      return onPart("finish", part.id, [on = below(2) == 0](Part& p) {
        p.finish.need<Compressor>()->on = p.finish.need<Limiter>()->on = on;
      });
    case 13:
      return nudgePatterns(0.25);
    case 14:
      return {"duck", [depth = below(20)](Session& x) { x.duck().curve.depthDb = static_cast<double>(depth); }};
    default:
      return toggleLayerAt(part, some, layer);
  }
}

TEST(Parts, RandomEditsAreHeardAsFromAColdStartAndAllUndone) {
  std::mt19937 random(20261127);
  const Session first = fourParts();
  History history(first);
  StepCache warm;
  for (int i = 0; i < 60; ++i) {
    const Edit edit = randomEdit(history.now(), random);
    history.apply(edit.name, edit.applied(history.now()));
    const auto again = render(history.now(), Assets(), warm);
    ASSERT_TRUE(again);
    const Stems cold = renderedCold(history.now());
    ASSERT_EQ(again->lanes.size(), cold.lanes.size());
    for (size_t k = 0; k < cold.lanes.size(); ++k)
      ASSERT_EQ(samplesOf(again->lanes[k].heard), samplesOf(cold.lanes[k].heard)) << i << " " << edit.name;
    ASSERT_EQ(samplesOf(again->sum), samplesOf(cold.sum)) << i << " " << edit.name;
  }
  while (history.canUndo()) history.undo();
  EXPECT_EQ(history.now(), first);
  while (history.canRedo()) history.redo();
  EXPECT_EQ(*sessionFromJson(sessionToJson(history.now()), "x"), history.now());
}

// A hit that moves renews what it touches, with ducking on too.
TEST(Parts, AMovedHitRenewsItsNeighbourhoodOnly) {
  Session s = fourParts();
  s.track.loopBeats = 32, s.track.sampleRate = 48000;
  s.kick().hits = hitsOnBeats(s.track);
  StepCache cache;
  const Stems before = *render(s, Assets(), cache);
  const Session moved = moveHit(s.kick(), 16.0, 16.25).applied(s);
  const Stems after = *render(moved, Assets(), cache);
  size_t renewed = 0;
  for (size_t b = 0; b < after.sum.blockCount(); ++b) renewed += after.sum.sharesBlock(before.sum, b) ? 0 : 1;
  EXPECT_GT(after.sum.blockCount(), 35u);
  // The hit's quarter and the one that it moves into: 0.86 s are three blocks and their edges.
  EXPECT_LE(renewed, 5u);
}

TEST(Parts, OneShotsOfVersionsAndNotesStemsOfAll) {
  Session s = fourParts();
  addVersion(s.kick(), "Short");
  s.exports = {};
  s.exports.versions = s.exports.everyNote = true;
  StepCache cache;
  const Stems stems = *render(s, Assets(), cache);
  const auto files = exportFiles(s, Assets(), stems, cache);
  ASSERT_TRUE(files);
  std::vector<std::string> names;
  for (const ExportFile& f : *files) names.push_back(f.name);
  auto has = [&](const std::string& part) {
    return std::count_if(names.begin(), names.end(),
                         [&](const std::string& n) { return n.find(part) != std::string::npos; });
  };
  EXPECT_EQ(has("First.wav"), 1);
  EXPECT_EQ(has("Short.wav"), 1);
  EXPECT_EQ(has("bass A1.wav") + has("bass C2.wav"), 2);
  EXPECT_EQ(has("Line A2.wav") + has("Line C3.wav"), 2);
  EXPECT_EQ(has("Clap stem.wav") + has("Line stem.wav") + has("kick stem.wav") + has("sum.wav"), 4);
  EXPECT_EQ(std::set<std::string>(names.begin(), names.end()).size(), names.size());
}

// A drum beside the pair is told whether its note is the key's, is never out for it, and is tuned by the line's
// remedy.
TEST(Parts, ADrumOffTheKeyIsToldAndTuned) {
  Session s = fourParts();
  s.track.key = *parseKey("A minor"), s.track.sampleRate = 48000;
  s.part(3)->layers[0].kickVoice()->landingMidi = 61;
  s.part(3)->layers[0].kickVoice()->length = TimeValue::milliseconds(400);
  s.part(3)->layers[0].kickVoice()->fall = {{0, 5, 0.5}};
  s.part(3)->layers[0].kickVoice()->landingAt = 0.1;
  StepCache cache;
  const auto keyLine = [](const std::vector<Finding>& of) {
    for (const Finding& f : of)
      if (f.id == "part-3-key") return f;
    return Finding{};
  };
  const auto line = [&](const Session& of) { return keyLine(*judgedSession(of, Assets(), cache)); };
  const Finding off = line(s);
  EXPECT_EQ(off.verdict, Verdict::Watch);
  EXPECT_NEAR(std::abs(off.value), 100, 3) << "C#4 lies a semitone off C4 and D4";
  ASSERT_FALSE(off.options.empty());
  EXPECT_EQ(line(off.options.front().applied(s)).verdict, Verdict::Holds);
  // A move that loses the note has one fault less, and fixes nothing.
  auto lines = *judgedSession(s, Assets(), cache);
  const Edit silence = putValue("mute", {3, s.part(3)->layers[0].id}, "mute", true);
  for (Finding& f : lines)
    if (f.id == off.id) f.options = {Remedy{"Tune", {silence}}};
  EXPECT_FALSE(keyLine(*withTriedRemedies(s, Assets(), lines, cache)).remedy);
}

// Of a drum and what lies over it the drum's own layer can be tuned, and the other stays.
TEST(Parts, OfSeveralLayersTheOneWhoseNoteIsHeardIsKnown) {
  Session s = fourParts();
  s.track.key = *parseKey("A minor"), s.track.sampleRate = 48000;
  addBuiltLayer(*s.part(3)).change(s);
  for (Layer& layer : s.part(3)->layers)
    layer.kickVoice()->fall = {{0, 5, 0.5}}, layer.kickVoice()->landingAt = 0.1;
  Layer &over = s.part(3)->layers[0], &drum = s.part(3)->layers[1];
  over.levelDb = -24, over.kickVoice()->landingMidi = 78,
  over.kickVoice()->length = TimeValue::milliseconds(40);
  drum.kickVoice()->landingMidi = 61, drum.kickVoice()->length = TimeValue::milliseconds(400);
  StepCache cache;
  const auto facts = study(s, Assets(), *render(s, Assets(), cache), cache);
  ASSERT_TRUE(facts);
  EXPECT_EQ(facts->others.front().noteLayer, drum.id);
  const Session tuned = tuneLayer(*s.part(3), drum.id, 60, s.track.notes).applied(s);
  EXPECT_EQ(tuned.part(3)->layers[0], over);
  EXPECT_EQ(tuned.part(3)->layers[1].kickVoice()->landingMidi, 60);
}

// Where the lows of a part beside the pair stand on one side it is folded if its own note lies there: a cut
// would take that with it.
TEST(Parts, ASidedDrumIsWhatTheLowsAreMonoWithout) {
  Session s = fourParts();
  s.track.sampleRate = 48000;
  AudioBuffer sided(48000, 2, 24000);
  for (size_t i = 0; i < 24000; ++i)
    sided.channels[1][i] = static_cast<float>(std::sin(0.0079 * static_cast<double>(i)));
  Assets assets;
  const AssetRef ref =
      assets.add(*decodeSound(*encodeSound(sided, SampleFormat::WavFloat), "tom.wav"), "tom.wav");
  s.part(3)->layers = {recordedLayer(ref)};
  StepCache cache;
  const auto lines = ledger(s, *study(s, assets, *render(s, assets, cache), cache));
  const auto line =
      std::find_if(lines.begin(), lines.end(), [](const Finding& f) { return f.id == "low-mono"; });
  ASSERT_TRUE(line != lines.end());
  ASSERT_NE(line->verdict, Verdict::Holds);
  EXPECT_EQ(line->options.front().name(), "make Clap mono");
  const Session mended = line->options.front().applied(s);
  const auto after = study(mended, assets, *render(mended, assets, cache), cache);
  ASSERT_TRUE(after);
  EXPECT_LT(after->sum.low.sideDbBelow120.value_or(-120.0), line->value - 6.0);
}

TEST(Parts, SessionsAtTheirBoundsWorkAndBeyondAreRefusedByName) {
  Session s = fourParts();
  while (s.parts.size() < kMostParts) addPart(freshPartId(s), freshPartName(s), Plays::Hits).change(s);
  for (const Part& part : std::vector<Part>(s.parts))
    for (int i = 0; i < 9; ++i) addBuiltLayer(*s.part(part.id)).change(s);
  for (const Part& part : s.parts) EXPECT_EQ(part.layers.size(), kMostLayers);
  addPart(99, "One more", Plays::Hits).change(s);
  EXPECT_EQ(s.parts.size(), kMostParts);
  const std::string text = sessionToJson(s);
  ASSERT_TRUE(sessionFromJson(text, "x"));
  // Roles of a later version are kept, and play as other parts.
  std::string later = text;
  later.replace(later.find("\"role\": \"other\""), 15, "\"role\": \"choir\"");
  const auto choir = sessionFromJson(later, "x");
  ASSERT_TRUE(choir);
  EXPECT_EQ(choir->parts[2].is(), PartRole::Other);
  EXPECT_NE(sessionToJson(*choir).find("\"choir\""), std::string::npos);
  // Duplicate ids get new ones; parts without events are silent; a list that is too long is named.
  const auto twice =
      sessionFromJson(R"({"heft_session": 3, "parts": [{"id": 1, "role": "kick"}, {"id": 1, "role": "bass",
    "plays": "notes"}, {"id": 1, "role": "other"}], "ducks": [{"id": 4}, {"id": 4}]})",
                      "x");
  ASSERT_TRUE(twice) << twice.error().sentence();
  std::set<int> ids;
  for (const Part& p : twice->parts) ids.insert(p.id);
  EXPECT_EQ(ids.size(), 3u);
  EXPECT_NE(twice->ducks[0].id, twice->ducks[1].id);
  EXPECT_EQ(peakOf(renderedCold(*twice).sum.toBuffer(48000)), 0.0f);
  std::string many = R"({"heft_session": 3, "parts": [{"id": 1, "role": "kick"})";
  for (int i = 0; i < 18; ++i) many += R"(, {"role": "other"})";
  const auto refused = sessionFromJson(many + "]}", "my.json");
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().sentence().find("parts"), std::string::npos) << refused.error().sentence();
  EXPECT_NE(refused.error().sentence().find("18"), std::string::npos);
  // No kick in the file: there is one all the same.
  EXPECT_TRUE(
      sessionFromJson(R"({"heft_session": 3, "parts": [{"role": "other"}]})", "x")->kick().layers.empty());
}

}  // namespace
}  // namespace heft
