// Chains of processors: their order, their edits, over a running lane, from older files, and as presets.

#include "core/session/chain.h"

#include <random>
#include <set>

#include "core/render/lanes/lane_chain.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/presets.h"
#include "core/session/history.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

Chain chainOfAll(std::vector<Processor::What> all) {
  Chain out;
  for (auto& what : all) out.put({0, what}, out.list.size());
  return out;
}

AudioBuffer through(AudioBuffer x, const Chain& chain) {
  applyChain(x, readyOf(chain), 0.0);
  return x;
}

Eq bell(double hz, double db) {
  Eq out;
  out.bands[0] = {true, EqBand::Kind::Bell, hz, db, 1.0};
  return out;
}

double furthest(const AudioBuffer& a, const AudioBuffer& b) {
  double out = 0.0;
  for (size_t c = 0; c < a.channelCount(); ++c)
    for (size_t i = 0; i < a.frames(); ++i)
      out = std::max<double>(out, std::abs(a.channels[c][i] - b.channels[c][i]));
  return out;
}

// Linear processors commute, a curve does not: order is audible where it must be.
TEST(Chains, OrderIsHeardWhereItMustBe) {
  const auto x = bufferOf(sine(80, 0.7, 0.5, 48000), 48000);
  const Gain louder{true, 6.0};
  const Drive drive{true, DriveKind::Hard, 0.0, 12.0, 1.0};
  const Width narrow{true, 0.5};
  EXPECT_LT(
      furthest(through(x, chainOfAll({louder, bell(80, -6)})), through(x, chainOfAll({bell(80, -6), louder}))),
      1e-6);
  EXPECT_LT(
      furthest(through(x, chainOfAll({narrow, bell(80, -6)})), through(x, chainOfAll({bell(80, -6), narrow}))),
      1e-6);
  EXPECT_GT(
      furthest(through(x, chainOfAll({drive, bell(80, -12)})), through(x, chainOfAll({bell(80, -12), drive}))),
      0.1);
  EXPECT_GT(furthest(through(x, chainOfAll({drive, louder})), through(x, chainOfAll({louder, drive}))), 0.1);
  // Ten of them at full drive are bounded by the curve itself.
  const auto bent =
      through(x, chainOfAll(std::vector<Processor::What>(10, Drive{true, DriveKind::Soft, 0, 30, 1})));
  EXPECT_LT(peakOf(bent), 1.3);
  EXPECT_TRUE(
      std::all_of(bent.channels[0].begin(), bent.channels[0].end(), [](float v) { return std::isfinite(v); }));
}

// The default order is the one from before lists; ids are never reused; ten is the limit.
TEST(Chains, NewOnesStandAtTheirUsualPlace) {
  Chain chain;
  for (const size_t kind : {9, 3, 0, 8, 1, 2, 7}) ASSERT_TRUE(chain.put(freshProcessor(kind)));
  for (size_t i = 1; i < chain.list.size(); ++i)
    EXPECT_LT(chain.list[i - 1].what.index(), chain.list[i].what.index());
  ASSERT_TRUE(chain.put(freshProcessor(3)));
  EXPECT_EQ(chain.list[4].what.index(), 3u) << "behind the one of its kind";
  EXPECT_NE(chain.list[3].id, chain.list[4].id);
  while (!chain.isFull()) chain.put(freshProcessor(10));
  EXPECT_FALSE(chain.put(freshProcessor(1)));
  EXPECT_EQ(chain.need<Limiter>(), nullptr) << "full";
  EXPECT_NE(chain.need<Eq>(), nullptr) << "there is one";
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) EXPECT_TRUE(freshProcessor(kind).isOn());
}

// Over a lane: the loop in its steady state equals the whole-buffer chain on its third pass, for any
// processors in any order; block ends are inaudible.
TEST(Chains, ARunningLaneIsTheChainOfTheLoopGoingOnForEver) {
  constexpr size_t kFrames = 2 * kBlockFrames + 5000;
  AudioBuffer once(16000, 2, kFrames);
  for (size_t c = 0; c < 2; ++c) {
    const auto grain = noise(0.4, kFrames, 11 + static_cast<unsigned>(c));
    for (size_t i = 0; i < kFrames; ++i)
      once.channels[c][i] = static_cast<float>(grain[i] * std::exp(-double(i % 8000) / 2500.0));
  }
  Drive band{true, DriveKind::Warm, 2, 12, 0.7};
  band.fromHz = 150, band.toHz = 2500, band.toneDb = -4;
  Compressor lift{true, -20, 3, 6, 5, 40, 0};
  lift.liftRatio = 2, lift.liftBelowDb = -35, lift.mix = 0.6;
  const Chain chain = chainOfAll({Width{true, 1.4, 180.0}, band, lift, Gain{true, -3}, bell(300, 5),
                                  Room{true, 0.3, 90, 4000}, Drive{true, DriveKind::Hard, 0, 6, 1}});
  StepCache cache;
  Signal lane({kFrames}, 2);
  for (size_t b = 0; b < lane.blockCount(); ++b) {
    Block block;
    for (const auto& channel : once.channels)
      block.channels.emplace_back(
          channel.begin() + static_cast<std::ptrdiff_t>(b * kBlockFrames),
          channel.begin() + static_cast<std::ptrdiff_t>(b * kBlockFrames + lane.blockSize(b)));
    lane.push(std::make_shared<Block>(std::move(block)), KeyMaker("chain test").add(b).key());
  }
  const AudioBuffer running = chainedLane(lane, readyOf(chain), {}, 16000, cache).toBuffer(16000);
  AudioBuffer turns = once;
  for (auto& channel : turns.channels) {
    const auto one = channel;
    for (int k = 0; k < 3; ++k) channel.insert(channel.end(), one.begin(), one.end());
  }
  applyChain(turns, readyOf(chain), 0.0);
  double worst = 0.0;
  for (size_t c = 0; c < 2; ++c)
    for (size_t i = 0; i < kFrames; ++i)
      worst = std::max<double>(worst, std::abs(running.channels[c][i] - turns.channels[c][2 * kFrames + i]));
  EXPECT_GT(peakOf(running), 0.1);
  EXPECT_LT(worst, 1e-4);
}

// Strikes and envelopes restart at each of the lane's own.
TEST(Chains, OverALaneEveryStrikeIsShaped) {
  constexpr size_t kFrames = kBlockFrames + 9000;
  Signal lane({kFrames}, 1);
  for (size_t b = 0; b < lane.blockCount(); ++b)
    lane.push(std::make_shared<Block>(Block{{std::vector<float>(lane.blockSize(b), 1.0f)}}),
              KeyMaker("ones").add(b).key());
  StepCache cache;
  const StrikeSustain shape{true, 6, -6, 20};
  const std::vector<double> strikes{3000, 17000, 22000};
  const auto out =
      chainedLane(lane, readyOf(chainOfAll({shape})), strikes, 48000, cache).toBuffer(48000).channels[0];
  for (const double strike : strikes)
    for (const double ms : {0.0, 5.0, 20.0, 29.0, 60.0}) {
      const auto at = static_cast<size_t>(strike + ms * 48.0);
      EXPECT_NEAR(out[at], amplitudeFromDb(strikeSustainDb(shape, ms)), 1e-5) << strike << " " << ms;
    }
  EXPECT_NEAR(out[0], amplitudeFromDb(-6), 1e-5) << "the last strike's sustain goes round the loop";
  for (size_t i = 1; i < out.size(); ++i) ASSERT_LT(std::abs(out[i] - out[i - 1]), 0.05) << i << ", no step";
  EXPECT_EQ(chainedLane(lane, readyOf(chainOfAll({shape})), {}, 48000, cache).toBuffer(48000).channels[0][5],
            1.0f);
}

Session withDrives() {
  Session s = theDemo().session;
  Chain& chain = s.kick().layers[0].chain;
  chain.put({0, Drive{true, DriveKind::Soft, 0, 3, 1}});
  chain.put({0, Drive{true, DriveKind::Hard, 0, 9, 1}});
  chain.put({0, Limiter{true}});
  return s;
}

TEST(ChainEdits, MoveCopyAndTakeAwayById) {
  const Session s = withDrives();
  const Owner layer{.part = s.kick().id, .layer = s.kick().layers[0].id}, part{.part = s.kick().id}, sum;
  const auto ids = [&](const Session& of, const Owner& whose) {
    std::vector<int> out;
    for (const Processor& p : chainOf(of, whose)->list) out.push_back(p.id);
    return out;
  };
  using Ids = std::vector<int>;
  ASSERT_EQ(ids(s, layer), (Ids{1, 2, 3}));
  EXPECT_EQ(ids(moveProcessor(layer, 1, 1).applied(s), layer), (Ids{2, 1, 3}));
  EXPECT_EQ(ids(moveProcessor(layer, 3, -9).applied(s), layer), (Ids{3, 1, 2}));
  EXPECT_EQ(moveProcessor(layer, 1, 0).applied(s), s);
  EXPECT_EQ(moveProcessor(layer, 44, 1).applied(s), s) << "none of that id";
  const Session moved = moveProcessorTo(layer, 2, part, 0).applied(s);
  EXPECT_EQ(ids(moved, layer), (Ids{1, 3}));
  ASSERT_EQ(chainOf(moved, part)->list.size(), 1u);
  EXPECT_EQ(chainOf(moved, part)->list[0].as<Drive>()->driveDb, 9.0);
  EXPECT_EQ(ids(moveProcessorTo(layer, 1, layer, 2).applied(s), layer), (Ids{2, 3, 1})) << "it keeps its id";
  // There and back is the same except for the id.
  const int there = chainOf(moved, part)->list[0].id;
  Session back = moveProcessorTo(part, there, layer, 1).applied(moved);
  EXPECT_EQ(chainOf(back, layer)->list[1].what, chainOf(s, layer)->list[1].what);
  EXPECT_EQ(chainOf(duplicateProcessor(layer, 1).applied(s), layer)->list[1].what,
            chainOf(s, layer)->list[0].what);
  EXPECT_EQ(ids(removeProcessor(layer, 2).applied(s), layer), (Ids{1, 3}));
  Session full = s;
  while (!full.sum.finish.isFull()) full.sum.finish.put(freshProcessor(10));
  EXPECT_EQ(moveProcessorTo(layer, 1, sum, 0).applied(full), full) << "no room: it stays where it is";
  EXPECT_EQ(addProcessor(sum, freshProcessor(1)).applied(full), full);
  EXPECT_EQ(addProcessor({.part = 99}, freshProcessor(1)).applied(s), s);
}

// As version 4 wrote it: what was on or set is in the list, in signal order; untouched processors are not.
TEST(Chains, OlderFilesHaveTheirProcessorsInTheirOrder) {
  const auto s =
      sessionFromJson(R"({"heft_session": 4, "parts": [{"id": 1, "role": "kick", "plays": "hits", "layers": [
    {"id": 1, "recorded": {}, "body_asset": {"hash": "0123456789abcdef0123456789abcdef", "name": "b.wav"},
     "shape": {"start_ms": 2.5, "width": 0.5, "body_on": true, "body": {"wet": 0.4, "decay_ms": 120, "damping_hz": 2000},
       "envelope": {"on": false, "attack_ms": 0, "hold_ms": 20, "decay_ms": 150},
       "eq": {"on": true, "low_cut": {"on": true, "hz": 33, "slope_db": 24}},
       "drive": {"on": false, "kind": "fold", "drive_db": 17},
       "room": {"on": true, "wet": 0.2}}}],
    "finish": {"on": false, "limiter": {"on": true, "ceiling_db": -2}, "compressor": {"on": false, "ratio": 3}, "mono": true}}],
    "sum": {"finish": {"on": true, "eq": {"on": true}, "soft_clip": {"on": true, "knee_db": 2}}}})",
                      "v4.json");
  ASSERT_TRUE(s) << s.error().sentence();
  const Layer& layer = s->kick().layers[0];
  EXPECT_EQ(layer.shape.startMs, 2.5);
  std::vector<std::string> kinds;
  for (const Processor& p : layer.chain.list) kinds.push_back(processorKey(p.what.index()));
  EXPECT_EQ(kinds, (std::vector<std::string>{"eq", "drive", "body", "room", "width"}));
  EXPECT_EQ(layer.chain.first<Drive>()->driveDb, 17.0) << "out, and what was set is kept";
  EXPECT_FALSE(layer.chain.first<Drive>()->on);
  EXPECT_EQ(layer.chain.first<Body>()->asset.name, "b.wav");
  EXPECT_EQ(layer.chain.first<Width>()->width, 0.5);
  const Chain& finish = s->kick().finish;
  EXPECT_FALSE(finish.on);
  ASSERT_EQ(finish.list.size(), 2u);
  EXPECT_EQ(finish.list[0].as<Limiter>()->ceilingDb, -2.0);
  EXPECT_EQ(finish.list[1].as<Width>()->width, 0.0);
  ASSERT_EQ(s->sum.finish.list.size(), 1u) << "an EQ that was never touched is none";
  EXPECT_EQ(*sessionFromJson(sessionToJson(*s), "back"), *s);
}

TEST(Presets, GoToAFileAndBackWithTheirSounds) {
  TemporaryFolder folder;
  const auto file = writeSound(folder, "lid.wav", bufferOf(sine(200, 0.5, 0.2, 48000), 48000));
  Assets assets;
  const AssetRef sound = assets.add(*loadSound(file), file);
  Chain chain;
  chain.put({0, Body{true, sound, {0.4, 90, 1200}}});
  chain.put({0, Drive{true, DriveKind::Fold, 1, 12, 0.5}});
  Layer layer = recordedLayer(sound);
  layer.chain = chain, layer.levelDb = -7;
  Part part = theDemo().session.bass();
  part.layers = {layer}, part.finish = chain;
  for (const Preset& preset : {Preset{"one", chain.list[1]}, Preset{"all / of it", chain},
                               Preset{"layer", layer}, Preset{"part", part}}) {
    const auto path = savePreset(folder / "own", preset, assets);
    ASSERT_TRUE(path) << path.error().sentence();
    const auto back = openPreset(*path);
    ASSERT_TRUE(back) << back.error().sentence();
    EXPECT_EQ(back->preset, preset);
    EXPECT_TRUE(back->assets.find(sound)) << preset.name;
  }
  EXPECT_EQ(allPresets(folder / "own").size(), 4 + shippedPresets().size());
  // Without its sound it names the missing file and its folder.
  std::filesystem::remove_all(folder / "own/audio");
  const auto missing = openPreset(folder / "own/one.heft-preset");
  ASSERT_FALSE(missing);
  EXPECT_NE(missing.error().sentence().find("lid.wav"), std::string::npos) << missing.error().sentence();
}

// Those that ship: each of its own name, within every range, and heard.
TEST(Presets, ThatShipAreSoundAndDoSomething) {
  std::set<std::string> names;
  const auto all = shippedPresets();
  EXPECT_GE(all.size(), 12u);
  AudioBuffer x = bufferOf(sine(90, 0.5, 0.4, 48000), 48000, 2);
  const auto grain = noise(0.2, x.frames(), 4);
  for (size_t i = 0; i < x.frames(); ++i) {
    x.channels[1][i] += static_cast<float>(grain[i]);
    for (auto& channel : x.channels) channel[i] *= static_cast<float>(std::exp(-double(i) / 4000.0));
  }
  for (const Preset& preset : all) {
    EXPECT_TRUE(names.insert(preset.name).second) << preset.name;
    const auto back = presetFromJson(presetToJson(preset), preset.name);
    ASSERT_TRUE(back) << back.error().sentence();
    EXPECT_EQ(*back, preset) << "a value out of its range would be refused";
    Chain chain;
    if (const auto* one = std::get_if<Processor>(&preset.what)) chain.list = {*one};
    if (const auto* list = std::get_if<Chain>(&preset.what)) chain = *list;
    const AudioBuffer y = through(x, chain);
    EXPECT_GT(furthest(x, stereoOf(y)), 0.001) << preset.name;
    EXPECT_LT(peakOf(y), 4.0) << preset.name;
  }
}

TEST(Presets, ThatAreNoneAreRefusedInASentence) {
  struct Row {
    const char *json, *named;
  };
  for (const Row& row :
       {Row{"not json", "not a Heft preset"},
        {R"({"name": "x"})", "not a Heft preset"},
        {R"({"heft_preset": 3, "processor": {"drive": {}}})", "newer Heft"},
        {R"({"heft_preset": 1, "name": "x"})", "holds no processor"},
        {R"({"heft_preset": 1, "processor": {"id": 1, "flanger": {"on": true}}})", "is missing"},
        {R"({"heft_preset": 1, "processor": {"drive": {"drive_db": 400}}})", "drive.drive_db"},
        {R"({"heft_preset": 1, "processor": {"eq": {"low_cut": {"resonance_db": "NaN"}}}})", "resonance_db"},
        {R"({"heft_preset": 1, "processor": {"compressor": {"mix": 1e400}}})", ""},
        {R"({"heft_preset": 1, "chain": {"list": 7}})", "list"}}) {
    const auto preset = presetFromJson(row.json, "mine.heft-preset");
    ASSERT_FALSE(preset) << row.json;
    EXPECT_NE(preset.error().sentence().find("mine.heft-preset"), std::string::npos)
        << preset.error().sentence();
    EXPECT_NE(preset.error().sentence().find(row.named), std::string::npos) << preset.error().sentence();
  }
  // What a later Heft wrote beside is kept.
  const auto kept = presetFromJson(
      R"({"heft_preset": 1, "name": "x", "mood": "dark", "processor": {"id": 1, "colour": 3, "gain": {"on": true, "db": -2}}})",
      "x");
  ASSERT_TRUE(kept) << kept.error().sentence();
  EXPECT_NE(presetToJson(*kept).find("\"mood\": \"dark\""), std::string::npos);
  EXPECT_NE(presetToJson(*kept).find("\"colour\": 3"), std::string::npos);
}

TEST(Presets, GoWhereTheyBelongAndSayWhereElse) {
  const Session s = withDrives();
  const Owner layer{.part = s.kick().id, .layer = s.kick().layers[0].id};
  const Preset drive{"D", Processor{1, Drive{true, DriveKind::Rise, 0, 20, 1}}},
      eq{"E", Processor{1, bell(60, 3)}};
  const Owner second{layer.part, layer.layer, {}, 2};
  const auto put = usePreset(s, second, drive);
  ASSERT_TRUE(put);
  const Session with = put->applied(s);
  EXPECT_EQ(chainOf(with, layer)->list[1].as<Drive>()->kind, DriveKind::Rise);
  EXPECT_EQ(chainOf(with, layer)->list[1].id, 2);
  EXPECT_EQ(chainOf(with, layer)->list[0], chainOf(s, layer)->list[0]);
  EXPECT_EQ(usePreset(s, second, presetOf(s, second))->applied(s), s) << "its own changes nothing";
  const auto wrong = usePreset(s, second, eq);
  ASSERT_FALSE(wrong);
  EXPECT_NE(wrong.error().sentence().find("preset of EQ"), std::string::npos) << wrong.error().sentence();
  EXPECT_EQ(chainOf(usePreset(s, layer, eq)->applied(s), layer)->list.size(), 4u) << "added at its usual place";
  // A part that plays notes does not replace one that plays hits.
  const Preset bass{"B", s.bass()};
  EXPECT_FALSE(usePreset(s, layer, bass));
  const Session other = usePreset(s, {.part = s.bass().id}, bass)->applied(s);
  EXPECT_EQ(other, s);
  EXPECT_FALSE(usePreset(s, {}, bass)) << "the sum is no part";
}

// A preset cut off or altered anywhere is used or refused in a sentence, never misread, never out of range.
TEST(Presets, DamagedAnywhereAreRefusedOrUsable) {
  Chain chain =
      chainOfAll({bell(90, 4), Drive{true, DriveKind::Fold, 2, 9, 0.5}, Compressor{true}, Room{true}});
  const std::string good = presetToJson({"all", chain});
  std::mt19937 random(11);
  int refused = 0;
  for (int turn = 0; turn < 400; ++turn) {
    std::string bad = good;
    const size_t at = random() % bad.size();
    if (turn % 2)
      bad.resize(at);
    else
      bad[at] = static_cast<char>(" 019-.e\"{}[]x"[random() % 14]);
    const auto preset = presetFromJson(bad, "bad.heft-preset");
    if (!preset) {
      ++refused;
      ASSERT_NE(preset.error().sentence().find("bad.heft-preset"), std::string::npos);
      continue;
    }
    // What was taken is within its ranges: it goes through the reader again as it is.
    const auto again = presetFromJson(presetToJson(*preset), "again");
    ASSERT_TRUE(again) << bad;
    ASSERT_EQ(*again, *preset);
  }
  EXPECT_GT(refused, 200);
}

// Any run of edits keeps the rules: unique ids, at most ten; and undoing each restores the state before.
TEST(ChainEdits, RunsOfThemKeepIdsApartAndUndoExactly) {
  std::mt19937 random(5);
  const Session s = theDemo().session;
  const std::vector<Owner> holders = {Owner{.part = s.kick().id, .layer = s.kick().layers[0].id},
                                      Owner{.part = s.bass().id}, Owner()};
  History history(s);
  for (int turn = 0; turn < 500; ++turn) {
    const Owner of = holders[random() % 3], to = holders[random() % 3];
    const int id = 1 + static_cast<int>(random() % 12);
    const auto kind = random() % 7;
    const Session before = history.now();
    const Edit edit = kind < 2    ? addProcessor(of, freshProcessor(random() % kProcessorKinds), id)
                      : kind == 2 ? removeProcessor(of, id)
                      : kind == 3 ? duplicateProcessor(of, id)
                      : kind == 4 ? moveProcessor(of, id, static_cast<int>(random() % 9) - 4)
                      : kind == 5 ? moveProcessorTo(of, id, to, random() % 11)
                                  : switchProcessor(of, id, random() % 2);
    history.apply(edit.name, edit.applied(before));
    for (const Owner& holder : holders) {
      const auto& list = chainOf(history.now(), holder)->list;
      ASSERT_LE(list.size(), kMostProcessors);
      std::set<int> ids;
      for (const Processor& p : list) ASSERT_TRUE(ids.insert(p.id).second);
    }
    const Session after = history.now();
    if (after == before) continue;
    history.undo();
    ASSERT_EQ(history.now(), before);
    history.redo();
    ASSERT_EQ(history.now(), after);
  }
}

}  // namespace
}  // namespace heft
