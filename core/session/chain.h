#pragma once
/// Processors of a layer, a part or the sum, in any order, several of a kind if wanted.

#include <array>
#include <string>
#include <variant>
#include <vector>

#include "core/session/asset_ref.h"
#include "core/shape/body.h"
#include "core/shape/drive.h"
#include "core/shape/dynamics.h"
#include "core/shape/envelope.h"
#include "core/shape/eq.h"
#include "core/shape/strike_sustain.h"
#include "core/shape/width.h"

namespace heft {

/// A body with the sound that its response is made from.
struct Body {
  bool on = false;
  AssetRef asset;
  BodySettings response;
  bool operator==(const Body&) const = default;
};

struct Gain {
  bool on = false;
  double db = 0.0;  ///< -60 to 24
  bool operator==(const Gain&) const = default;
};

struct Processor {
  /// In their usual order.
  using What = std::variant<AmpEnvelope, Eq, StrikeSustain, Drive, Compressor, SoftClip, Limiter, Body, Room,
                            Width, Gain>;
  int id = 1;  ///< its own within the chain
  What what;
  /// Whether a gain behind it keeps the sound as loud as it was (measure/kept_loudness.h); canKeepLoudness()
  /// kinds.
  bool keepsLoudness = false;
  Unknown unknown = {};
  bool operator==(const Processor&) const = default;

  template <class T>
  const T* as() const {
    return std::get_if<T>(&what);
  }
  template <class T>
  T* as() {
    return std::get_if<T>(&what);
  }
  bool isOn() const {
    return std::visit([](const auto& p) { return p.on; }, what);
  }
  void switchOn(bool on) {
    std::visit([on](auto& p) { p.on = on; }, what);
  }
  /// Whether it is on and changes anything.
  bool works() const;
};
inline constexpr size_t kProcessorKinds = std::variant_size_v<Processor::What>;
/// A kind's name in files, by its index in Processor::What: "drive".
inline constexpr std::array<const char*, kProcessorKinds> kProcessorKeys = {
    "envelope", "eq",   "strike_sustain", "drive", "compressor", "soft_clip",
    "limiter",  "body", "room",           "width", "gain"};
constexpr const char* processorKey(size_t kind) {
  return kProcessorKeys[kind];
}
/// What people call it: "Drive".
const char* processorWord(size_t kind);
const char* processorShortWord(size_t kind);  ///< where there is little room: "Comp"
/// Whether a kind changes tone or dynamics, so that its loudness can be kept: not gains and ceilings.
bool canKeepLoudness(size_t kind);
/// One of that kind, on, at its defaults.
Processor freshProcessor(size_t kind);
/// A processor of that kind as Add inserts it: off, and set so that it starts gently. It changes nothing
/// until a value is moved, which switches it on (isUnmoved). A drive keeps the loudness.
Processor addedProcessor(size_t kind);
/// Whether it is as addedProcessor() made it.
bool isUnmoved(const Processor& processor);

inline constexpr size_t kMostProcessors = 10;

struct Chain {
  bool on = true;  ///< bypasses all of it when off
  std::vector<Processor> list;
  bool operator==(const Chain&) const = default;

  bool works() const;
  bool isFull() const { return list.size() >= kMostProcessors; }
  const Processor* find(int id) const;
  Processor* find(int id);
  int freshId() const;
  /// The default position of a kind: after the last processor that usually comes before it, or is of its
  /// kind.
  size_t usualPlace(size_t kind) const;
  /// Inserts it there, or at its default position, under a new id, which it returns; nothing where the chain
  /// is full.
  std::optional<int> put(Processor processor, std::optional<size_t> place = {});

  /// The first of its kind, or nothing.
  template <class T>
  const T* first() const {
    for (const Processor& p : list)
      if (const T* found = p.as<T>()) return found;
    return nullptr;
  }
  template <class T>
  T* first() {
    return const_cast<T*>(std::as_const(*this).first<T>());
  }
  /// Likewise, added at its default position if there is none; nothing where the chain is full.
  template <class T>
  T* need() {
    if (!first<T>() && !put({0, T()})) return nullptr;
    return first<T>();
  }
};

}  // namespace heft
