#include "engine/player/player.h"

#include <cmath>
#include <numbers>
#include <utility>

namespace heft {
namespace {

constexpr double kFadeSeconds = 0.020;

// A loop's frames are rounded once, at its end: in its own quarters it keeps time for hours.
double quarterFrames(const LoopSnapshot& loop) {
  constexpr double kGrain = 16.0;
  const double frames = static_cast<double>(loop.frames);
  const double quarters = std::round(kGrain * frames / loop.framesPerQuarter) / kGrain;
  return quarters > 0.0 ? frames / quarters : loop.framesPerQuarter;
}

float raised(float x) {
  return 0.5f - 0.5f * std::cos(std::numbers::pi_v<float> * x);
}

float toward(float now, float goal, float step) {
  return std::clamp(goal, now - step, now + step);
}

}  // namespace

Player::Player(double deviceRate) : rate_(0), fadeFrames_(1) {
  for (auto& lane : silenced_) lane = kNoLane;
  setDeviceRate(deviceRate);
}

Player::~Player() {
  collect();
  delete livePending_.exchange(nullptr);
  delete live_;
  delete leaving_;
  delete pending_.exchange(nullptr);
  delete current_;
  delete next_;
  delete listen_;
  delete nextListen_;
  delete reference_;
  delete nextReference_;
}

void Player::setDeviceRate(double rate) {
  rate_ = rate, fadeFrames_ = static_cast<float>(kFadeSeconds * rate);
}

void Player::setSnapshot(std::shared_ptr<const LoopSnapshot> snapshot) {
  collect();
  delete pending_.exchange(new Held(std::move(snapshot)));
}

void Player::setSilenced(const SilencedLanes& lanes) {
  auto next = lanes.begin();
  for (auto& place : silenced_) place = next != lanes.end() ? *next++ : kNoLane;
}

void Player::collect() {
  for (auto& slot : retired_) delete slot.exchange(nullptr);
  for (auto& slot : retiredLive_) delete slot.exchange(nullptr);
  listens_.collect(), references_.collect();
}

void Player::setListen(const ListenTo& to) {
  listens_.offer(std::make_unique<ListenChain>(to, rate_));
}

void Player::setReference(std::shared_ptr<const ReferenceSound> reference) {
  references_.offer(std::make_unique<HeldReference>(std::move(reference)));
}

void Player::playLive(std::shared_ptr<const AudioBuffer> sound, float gain) {
  if (!sound || sound->channelCount() == 0) return;
  liveHeld_ = true;
  delete livePending_.exchange(new Live{std::move(sound), gain});
}

bool Player::retireLive(Live* live) {
  for (auto& slot : retiredLive_) {
    Live* empty = nullptr;
    if (slot.compare_exchange_strong(empty, live)) return true;
  }
  return false;
}

// One voice: a new note replaces the previous one, which fades.
void Player::takeLive() {
  if (leaving_) return;
  if (Live* fresh = livePending_.exchange(nullptr)) {
    leaving_ = live_;
    live_ = fresh;
  }
}

void Player::mixLive(Live*& live, bool fading, float& left, float& right) {
  if (!live) return;
  const AudioBuffer& sound = *live->sound;
  if (fading) live->level = toward(live->level, 0.0f, fadeStep());
  if (live->frame >= sound.frames() || live->level == 0.0f) {
    if (retireLive(live)) live = nullptr;
    return;
  }
  const float gain = live->gain * raised(live->level);
  left += gain * sound.channels[0][live->frame];
  right += gain * sound.channels[sound.channelCount() - 1][live->frame];
  ++live->frame;
}

// A short tone on every quarter: during the count-in, and throughout the loop if wanted.
float Player::click() const {
  const double perQuarter = (*current_)->framesPerQuarter;
  // Rounded, as the loop's own quarters are.
  const double quarter = std::floor((frame_ + 0.5) / perQuarter);
  const double into = std::max(0.0, frame_ - std::round(quarter * perQuarter)), t = into / rate_;
  return static_cast<float>(clickLevel_ * std::sin(2.0 * std::numbers::pi * 1500.0 * t) * std::exp(-t / 0.012));
}

void Player::putOut(float left, float right, float* out) {
  meter_.feed(left, right);
  outputNow_ = toward(outputNow_, outputGain_, fadeStep());
  out[0] = outputNow_ * left;
  out[1] = outputNow_ * right;
}

bool Player::retire(Held* held) {
  if (!held) return true;
  for (auto& slot : retired_) {
    Held* empty = nullptr;
    if (slot.compare_exchange_strong(empty, held)) return true;
  }
  return false;
}

// A swap under way is finished first; the newest pending one follows it. At rest, from nothing or to nothing
// there is no fade that would finish it: the new one takes its place at once.
void Player::takePending() {
  const auto sounds = [](const Held* held) { return held && *held && (*held)->frames > 0; };
  const auto takeOver = [&] {
    if (next_ && (master_ == 0.0f || onlyReference() || !sounds(current_) || !sounds(next_)) &&
        retire(current_))
      current_ = std::exchange(next_, nullptr);
  };
  takeOver();
  if (next_) return;
  next_ = pending_.exchange(nullptr);
  swap_ = 0.0f;
  takeOver();
}

Player::Gains Player::wanted(const Held* held) const {
  Gains out;
  if (!held || !*held) return out;
  const LoopSnapshot& snapshot = **held;
  const bool before = before_;
  HeardLanes heard = 0;
  for (size_t i = 0; i < snapshot.lanes; ++i) {
    bool silent = false;
    for (const auto& lane : silenced_) silent = silent || lane == snapshot.ids[i];
    if (!silent) heard |= HeardLanes{1} << i;
  }
  const LaneGains& match = snapshot.beforeGains.of(heard);
  for (size_t i = 0; i < snapshot.lanes; ++i) {
    const float on = (heard >> i) & 1 ? 1.0f : 0.0f;
    out.after[i] = before ? 0.0f : on;
    out.before[i] = before ? on * match[i] * beforeMatch_ : 0.0f;
  }
  return out;
}

// A fade that is under way starts again from where it is.
void Player::fadeGains() {
  const Gains goal = wanted(current_);
  if (goal == to_) return;
  const float x = raised(gainFade_);
  for (size_t i = 0; i < kMostLanes; ++i) {
    from_.after[i] += (to_.after[i] - from_.after[i]) * x;
    from_.before[i] += (to_.before[i] - from_.before[i]) * x;
  }
  to_ = goal;
  gainFade_ = master_ == 0.0f || frame_ == 0.0 ? 1.0f : 0.0f;
}

void Player::mix(const LoopSnapshot& s, const Gains& g, size_t frame, float& left, float& right) const {
  if (frame >= s.frames) return;
  for (size_t i = 0; i < s.lanes; ++i) {
    if (g.after[i] != 0.0f)
      left += g.after[i] * s.after[i]->at(0, frame), right += g.after[i] * s.after[i]->at(1, frame);
    if (g.before[i] != 0.0f)
      left += g.before[i] * s.before[i]->at(0, frame), right += g.before[i] * s.before[i]->at(1, frame);
  }
}

void Player::listenTo(float& left, float& right) {
  const float l = left, r = right;
  if (listen_) listen_->process(left, right);
  if (!nextListen_) return;
  float nextLeft = l, nextRight = r;
  nextListen_->process(nextLeft, nextRight);
  listenFade_ = std::min(1.0f, listenFade_ + fadeStep());
  left += (nextLeft - left) * listenFade_, right += (nextRight - right) * listenFade_;
  if (listenFade_ >= 1.0f && listens_.giveBack(listen_)) listen_ = std::exchange(nextListen_, nullptr);
}

// A change under way is finished first; at rest there is nothing that would finish it.
void Player::takeReference() {
  const auto finish = [&] {
    if (nextListen_ && master_ == 0.0f && listens_.giveBack(listen_))
      listen_ = std::exchange(nextListen_, nullptr);
    if (nextReference_ && master_ == 0.0f && references_.giveBack(reference_)) {
      reference_ = std::exchange(nextReference_, nullptr);
      referenceFrame_ = nextReferenceFrame_;
    }
  };
  finish();
  if (!nextListen_ && (nextListen_ = listens_.take())) listenFade_ = 0.0f;
  if (!nextReference_ && (nextReference_ = references_.take())) {
    referenceFade_ = 0.0f;
    const bool same =
        isSound(reference_) && isSound(nextReference_) && (*reference_)->sound == (*nextReference_)->sound;
    nextReferenceFrame_ = same                      ? referenceFrame_
                          : isSound(nextReference_) ? referenceStart(*nextReference_)
                                                    : 0.0;
    // Back in the loop at the bar that the reference has come to.
    if (isSound(reference_) && !isSound(nextReference_) && current_ && *current_ && frame_ >= 0.0) {
      const LoopSnapshot& loop = **current_;
      frame_ = std::fmod(std::round(quarters_ * quarterFrames(loop)),
                         static_cast<double>(std::max<size_t>(1, loop.frames)));
    }
  }
  finish();
}

double Player::referenceStart(const HeldReference& of) const {
  if (!of->framesPerQuarter) return 0.0;
  const double frames = static_cast<double>(std::max<size_t>(1, of->sound->frames()));
  return std::fmod(std::round(std::max(0.0, quarters_) * *of->framesPerQuarter), frames);
}

void Player::mixReference(const HeldReference* held, double& frame, float& left, float& right) const {
  left = right = 0.0f;
  if (!isSound(held) || (*held)->sound->frames() == 0) return;
  const AudioBuffer& sound = *(*held)->sound;
  if (frame >= static_cast<double>(sound.frames())) frame = 0.0;
  const auto at = static_cast<size_t>(frame);
  left = referenceNow_ * sound.channels.front()[at];
  right = referenceNow_ * sound.channels[sound.channelCount() > 1 ? 1 : 0][at];
  frame += 1.0;
}

// Between one choice of lanes and another.
Player::Gains Player::gainsNow(size_t lanes) {
  if (gainFade_ >= 1.0f) return to_;
  gainFade_ = std::min(1.0f, gainFade_ + fadeStep());
  if (gainFade_ >= 1.0f) return to_;
  const float x = raised(gainFade_);
  Gains out = to_;
  for (size_t i = 0; i < lanes; ++i) {
    out.after[i] = from_.after[i] + (to_.after[i] - from_.after[i]) * x;
    out.before[i] = from_.before[i] + (to_.before[i] - from_.before[i]) * x;
  }
  return out;
}

// One frame of the crossfade between snapshots; at its end the next one is the present one.
void Player::goOver(const LoopSnapshot& now, const Gains& later, float& left, float& right) {
  const LoopSnapshot& coming = **next_;
  // Rounded, not truncated: a product and its quotient may end slightly below the whole number.
  const double same = std::fmod(std::round(frame_ * coming.framesPerQuarter / now.framesPerQuarter),
                                static_cast<double>(coming.frames));
  float l = 0.0f, r = 0.0f;
  mix(coming, later, static_cast<size_t>(same), l, r);
  swap_ = std::min(1.0f, swap_ + fadeStep());
  const float x = raised(swap_);
  left += (l - left) * x, right += (r - right) * x;
  if (swap_ < 1.0f || !retire(current_)) return;
  current_ = next_;
  next_ = nullptr;
  from_ = to_ = later;
  gainFade_ = 1.0f;
  frame_ = same;
}

// The loop's next frame.
void Player::oneFrame(const Gains& later, float& left, float& right) {
  const LoopSnapshot& now = **current_;
  const Gains g = gainsNow(now.lanes);
  if (now.span.wraps && frame_ >= static_cast<double>(now.frames))
    frame_ = std::fmod(frame_, static_cast<double>(now.frames));
  mix(now, g, static_cast<size_t>(frame_), left, right);
  if (jumpFade_ < 1.0f) {
    float l = 0.0f, r = 0.0f;
    mix(now, g, static_cast<size_t>(std::fmod(leftFrame_, static_cast<double>(now.frames))), l, r);
    leftFrame_ += 1.0, jumpFade_ = std::min(1.0f, jumpFade_ + fadeStep());
    const float x = raised(jumpFade_);
    left = l + (left - l) * x, right = r + (right - r) * x;
  }
  if (next_ && *next_ && (*next_)->frames > 0) goOver(now, later, left, right);
}

// To the next frame: back to the region's start at its end, and no further than a song's end.
void Player::advance() {
  const LoopSnapshot& now = **current_;
  const double was = frame_;
  frame_ += 1.0;
  if (const double end = std::round(regionTo_ * now.framesPerQuarter);
      regionTo_ > 0.0 && was < end && frame_ >= end)
    return jumpTo(regionFrom_ * now.framesPerQuarter);
  if (now.span.wraps || frame_ < static_cast<double>(now.frames)) return;
  frame_ = static_cast<double>(now.frames);
  Order order = Order::Go;
  order_.compare_exchange_strong(order, Order::Stop);
}

void Player::jumpTo(double frame) {
  leftFrame_ = frame_, jumpFade_ = 0.0f;
  frame_ = std::clamp(std::round(frame), 0.0, static_cast<double>((*current_)->frames));
}

// Loop or reference, filtered as one listens, with the click.
void Player::heardFrame(const Gains& later, float& left, float& right) {
  const double loopQuarter = quarterFrames(**current_);
  double quarter = loopQuarter;
  countInEnd_ = 0.0;
  referenceNow_ = toward(referenceNow_, referenceMatch_, fadeStep());
  if (!onlyReference()) oneFrame(later, left, right);
  float l = left, r = right;
  if (isSound(reference_)) {
    mixReference(reference_, referenceFrame_, l, r);
    quarter = (*reference_)->framesPerQuarter.value_or(loopQuarter);
  }
  if (nextReference_) {
    float nextLeft = left, nextRight = right;
    if (isSound(nextReference_)) mixReference(nextReference_, nextReferenceFrame_, nextLeft, nextRight);
    referenceFade_ = std::min(1.0f, referenceFade_ + fadeStep());
    const float x = raised(referenceFade_);
    l += (nextLeft - l) * x, r += (nextRight - r) * x;
    if (referenceFade_ >= 1.0f && references_.giveBack(reference_)) {
      reference_ = std::exchange(nextReference_, nullptr);
      referenceFrame_ = nextReferenceFrame_;
    }
  }
  left = l, right = r;
  listenTo(left, right);
  if (const float tick = clickGoesOn_ ? click() : 0.0f; tick != 0.0f) left += tick, right += tick;
  quarters_ += 1.0 / quarter;
  advance();
  if (master_ < 1.0f) left *= raised(master_), right *= raised(master_);
}

void Player::process(float* out, size_t frames) {
  takePending();
  takeReference();
  Order order = Order::Start;
  takeLive();
  if (order_.compare_exchange_strong(order, Order::Go)) {
    master_ = 1.0f;
    const bool there = current_ && *current_;
    frame_ = there ? std::round((startQuarters_ - countIn_) * (*current_)->framesPerQuarter) : 0.0;
    countInEnd_ = there ? std::round(startQuarters_ * (*current_)->framesPerQuarter) : 0.0;
    if (countIn_ == 0.0) countInEnd_ = frame_;
    quarters_ = startQuarters_, referenceFrame_ = 0.0, jumpFade_ = 1.0f, locate_ = kNowhere;
  }
  if (const double to = locate_.exchange(kNowhere);
      to >= 0.0 && current_ && *current_ && frame_ >= countInEnd_) {
    jumpTo(to * (*current_)->framesPerQuarter);
    quarters_ = to, countInEnd_ = std::min(countInEnd_, frame_);
  }
  const float open = order == Order::Stop ? 0.0f : 1.0f;
  fadeGains();
  // Another snapshot may hold other lanes: it fades in with gains of its own.
  const Gains later = wanted(next_);
  for (size_t n = 0; n < frames; ++n) {
    float left = 0.0f, right = 0.0f;
    master_ = toward(master_, open, fadeStep());
    if (frame_ < countInEnd_ && master_ > 0.0f) {
      left = right = raised(master_) * click();
      frame_ += 1.0;
    } else if (current_ && *current_ && (*current_)->frames > 0 && master_ > 0.0f) {
      heardFrame(later, left, right);
    }
    mixLive(leaving_, true, left, right);
    mixLive(live_, !liveHeld_, left, right);
    putOut(left, right, out + 2 * n);
  }
  meter_.publish();
  ++turns_;
  if (!current_ || !*current_ || (*current_)->frames == 0) return;
  const LoopSnapshot& loop = **current_;
  const double quarters = static_cast<double>(loop.frames) / loop.framesPerQuarter;
  position_ = onlyReference() ? std::fmod(quarters_, quarters)
                              : std::fmod(frame_, static_cast<double>(loop.frames)) / loop.framesPerQuarter;
  if (order == Order::Start) hasStarted_ = true;
}

}  // namespace heft
