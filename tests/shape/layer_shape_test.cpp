// What is done to one layer, alone and in the render: start, fades, envelope, body, width, and the order; a
// lane as it runs.

#include "core/shape/layer_shape.h"

#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/render.h"
#include "core/shape/trim.h"
#include "scenario/make_demo.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

AudioBuffer steady(double seconds = 0.5, size_t channels = 1) {
  AudioBuffer out(48000, channels, static_cast<size_t>(seconds * 48000));
  for (auto& c : out.channels) std::fill(c.begin(), c.end(), 0.5f);
  return out;
}

TEST(LayerShapes, StartAndFadesCutWhereTheySay) {
  AudioBuffer x = steady();
  for (size_t i = 0; i < x.frames(); ++i) x.channels[0][i] = static_cast<float>(i) * 1e-5f;
  LayerShape s;
  s.startMs = 100;
  double onset = 0.12;
  applyShape(x, s, onset);
  EXPECT_EQ(x.frames(), 24000u - 4800u);
  EXPECT_EQ(x.channels[0][0], 4800 * 1e-5f);
  EXPECT_NEAR(onset, 0.02, 1e-9) << "the onset moves with the front";
  AudioBuffer y = steady();
  s = {};
  s.fadeInMs = 50, s.fadeOutMs = 100;
  applyShape(y, s, onset);
  EXPECT_EQ(y.channels[0][0], 0.0f);
  EXPECT_NEAR(y.channels[0][1200], 0.25, 1e-3) << "half of a raised cosine";
  EXPECT_EQ(y.channels[0][2400], 0.5f);
  EXPECT_NEAR(y.channels[0][24000 - 2400], 0.25, 1e-3);
  EXPECT_NEAR(y.channels[0].back(), 0.0, 1e-4);
}

// Each shape by what its name says, on a sound that does not decay by itself; all are gone at the length.
TEST(LayerShapes, TrimmedTailsFadeAsTheirNamesSay) {
  AudioBuffer ones(48000, 1, 48000);
  std::fill(ones.channels[0].begin(), ones.channels[0].end(), 1.0f);
  auto at = [&](FadeShape shape, double share, double bend = 0.0) {
    const auto out = trimmedTail(ones, 0.1, 0.5, {shape, 0.5, bend});
    const auto i = static_cast<size_t>((0.1 + 0.5 * share) * 48000);
    return i < out.frames() ? static_cast<double>(out.channels[0][i]) : 0.0;
  };
  for (const FadeShape shape :
       {FadeShape::Linear, FadeShape::EqualPower, FadeShape::Exponential, FadeShape::Drawn}) {
    EXPECT_EQ(at(shape, 0.49), 1.0) << nameOf(shape);
    EXPECT_NEAR(at(shape, 1.0), 0.0, 0.01 * at(shape, 0.5)) << nameOf(shape);
    EXPECT_EQ(*parseNamed<FadeShape>(nameOf(shape)), shape);
  }
  EXPECT_NEAR(at(FadeShape::Linear, 0.75), 0.5, 1e-3);
  EXPECT_NEAR(20 * std::log10(at(FadeShape::EqualPower, 0.75)), -3.01, 0.01);
  EXPECT_NEAR(20 * std::log10(at(FadeShape::Exponential, 0.6) / at(FadeShape::Exponential, 0.55)), -6.0, 0.1);
  EXPECT_NEAR(at(FadeShape::Drawn, 0.75), 0.5, 1e-3) << "a line until it is bent";
  EXPECT_GT(at(FadeShape::Drawn, 0.75, -1), 0.8);
  EXPECT_LT(at(FadeShape::Drawn, 0.75, 1), 0.1);
  // Straight through points, two at one place a step.
  TailFade points{FadeShape::Drawn, 0.5, 0.7, {{0.2, 0.9}, {0.6, 0.9}, {0.6, 0.3}}};
  EXPECT_NEAR(points.gainAt(0.5 + 0.5 * 0.1), 0.95, 1e-12);
  EXPECT_NEAR(points.gainAt(0.5 + 0.5 * 0.4), 0.9, 1e-12) << "held; the bend means nothing";
  EXPECT_NEAR(points.gainAt(0.5 + 0.5 * 0.8), 0.15, 1e-12);
  EXPECT_NEAR(points.gainAt(1.0), 0.0, 1e-12);
  EXPECT_EQ(points.gainAt(0.3), 1.0);
}

TEST(LayerShapes, TheEnvelopeFallsByFortyDecibelsOverItsDecay) {
  AudioBuffer x = steady(1.0);
  applyEnvelope(x, {true, 20, 100, 200}, 0.1);
  auto at = [&](double seconds) {
    return 20 * std::log10(std::max(
                    1e-9, static_cast<double>(x.channels[0][static_cast<size_t>(seconds * 48000)]) / 0.5));
  };
  EXPECT_LT(at(0.09), -100) << "silent before its onset";
  EXPECT_NEAR(at(0.11), 20 * std::log10(0.5), 0.05) << "half way up the rise";
  EXPECT_NEAR(at(0.2), 0.0, 0.01);
  EXPECT_NEAR(at(0.22 + 0.1), -20.0, 0.05);
  EXPECT_NEAR(at(0.22 + 0.2), -40.0, 0.05);
}

TEST(LayerShapes, WidthScalesTheSidesAndKeepsTheMiddle) {
  AudioBuffer x(48000, 2, 100);
  std::fill(x.channels[0].begin(), x.channels[0].end(), 0.6f);
  std::fill(x.channels[1].begin(), x.channels[1].end(), 0.2f);
  AudioBuffer wide = x, mono = x;
  applyWidth(wide, Width{true, 2.0});
  EXPECT_NEAR(wide.channels[0][5], 0.8, 1e-6);
  EXPECT_NEAR(wide.channels[1][5], 0.0, 1e-6);
  applyWidth(mono, Width{true, 0.0});
  ASSERT_EQ(mono.channelCount(), 1u);
  EXPECT_NEAR(mono.channels[0][5], 0.4, 1e-6);
}

TEST(LayerShapes, NothingThatIsOutChangesAnything) {
  AudioBuffer x = bufferOf(noise(0.3, 4800, 5), 48000, 2);
  const AudioBuffer before = x;
  Chain c;
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    Processor p = freshProcessor(kind);
    p.switchOn(false);
    ASSERT_TRUE(kind == kMostProcessors || c.put(p));
  }
  c.first<Drive>()->kind = DriveKind::Hard, c.first<Room>()->wet = 1.0, c.first<Limiter>()->ceilingDb = -20;
  EXPECT_FALSE(c.works());
  applyChain(x, readyOf(c), 0.01);
  EXPECT_EQ(x, before);
  c.first<Limiter>()->on = true;
  c.on = false;
  applyChain(x, readyOf(c), 0.01);
  EXPECT_EQ(x, before) << "all of it is out";
  c.on = c.first<Width>()->on = true, c.first<Width>()->width = 0.0;
  applyChain(x, readyOf(c), 0.01);
  EXPECT_EQ(x.channelCount(), 1u);
  EXPECT_LE(peakOf(x), 0.1001);
}

TEST(LayerShapes, ABodyFromAnotherSoundIsHeardInTheRender) {
  const demo::Demo demo = *demo::make();
  Session s = demo.session;
  StepCache cache;
  const auto before = render(s, demo.assets, cache);
  Chain& chain = s.kick().layers[0].chain;
  chain.put({0, Body{true, s.bass().layers[0].recorded()->asset, {0.5, 60, 800}}});
  const auto with = render(s, demo.assets, cache);
  chain.first<Body>()->on = false;
  const auto out = render(s, demo.assets, cache);
  ASSERT_TRUE(before && with && out);
  double changed = 0, same = 0;
  for (size_t i = 0; i < before->frames; ++i) {
    changed = std::max<double>(changed, std::abs(with->kick().at(0, i) - before->kick().at(0, i)));
    same = std::max<double>(same, std::abs(out->kick().at(0, i) - before->kick().at(0, i)));
  }
  EXPECT_GT(changed, 0.01);
  EXPECT_EQ(same, 0.0) << "in and out again is as it was, to the bit";
  EXPECT_EQ(withoutMoves(s).kick().layers[0].chain, Chain()) << "Before has no processors";
  s.kick().layers[0].recorded()->targetMidi = 33;
  s.duck().on = true;
  s.bass().align.delayMs = 3;
  s.bass().finish.put({0, Width{true, 0.0}});
  // A stage's own moves and no other's.
  const Session tune = withoutMoves(s, MovesOf::Tune), sounds = withoutMoves(s, MovesOf::Sounds),
                align = withoutMoves(s, MovesOf::Align), duck = withoutMoves(s, MovesOf::Duck);
  EXPECT_FALSE(tune.kick().layers[0].recorded()->targetMidi);
  EXPECT_TRUE(tune.duck().on && tune.bass().finish.works() && tune.bass().align.delayMs == 3);
  EXPECT_TRUE(sounds.kick().layers[0].recorded()->targetMidi && !sounds.bass().finish.works() &&
              sounds.duck().on);
  EXPECT_TRUE(align.bass().align.delayMs == 0 && align.duck().on);
  EXPECT_TRUE(!duck.duck().on && duck.bass().align.delayMs == 3);
}

// Where blocks end is not heard: a loop that begins elsewhere is clipped alike.
TEST(LaneFinish, ARunningClipKnowsNothingOfBlocks) {
  StepCache cache;
  AudioBuffer sound = bufferOf(sine(60.0, 0.05, 1.0, 48000), 48000);
  for (size_t i = 16100; i < 16600; ++i) sound.channels[0][i] *= 16.0f;
  Chain f;
  f.put({0, SoftClip{true, 3, -6}});
  auto finished = [&](const AudioBuffer& x) {
    Signal lane({x.frames()}, 1);
    for (size_t b = 0; b < lane.blockCount(); ++b) {
      const auto from = x.channels[0].begin() + static_cast<std::ptrdiff_t>(b * kBlockFrames);
      const std::vector<float> block(from, from + static_cast<std::ptrdiff_t>(lane.blockSize(b)));
      KeyMaker key("clip test");
      for (const float v : block) key.add(static_cast<double>(v));
      lane.push(std::make_shared<Block>(Block{{block}}), key.key());
    }
    return chainedLane(lane, readyOf(f), {}, 48000, cache).toBuffer(48000).channels[0];
  };
  const auto here = finished(sound);
  constexpr size_t kBy = 400;  // the loud ones lie over the end of a block, then before it
  std::rotate(sound.channels[0].begin(), sound.channels[0].begin() + kBy, sound.channels[0].end());
  auto moved = finished(sound);
  std::rotate(moved.begin(), moved.end() - kBy, moved.end());
  for (size_t i = 0; i < here.size(); ++i) ASSERT_NEAR(here[i], moved[i], 1e-7) << i;
  std::rotate(sound.channels[0].begin(), sound.channels[0].end() - kBy, sound.channels[0].end());
  EXPECT_LT(*std::max_element(here.begin(), here.end()), 0.55f) << "about the ceiling";
  EXPECT_GT(peakOf(sound), 0.75f);
  for (size_t i = 0; i < 15000; ++i)
    ASSERT_EQ(here[i], sound.channels[0][i]) << i << ", far from anything loud";
}

}  // namespace
}  // namespace heft
