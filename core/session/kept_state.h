#pragma once
/// Named states of the whole session, kept beside undo and saved with it.

#include <memory>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/session/asset_ref.h"

namespace heft {

/// A long text that copies share.
class SharedText {
 public:
  SharedText() = default;
  explicit SharedText(std::string text) : text_(std::make_shared<const std::string>(std::move(text))) {}
  const std::string& text() const {
    static const std::string none;
    return text_ ? *text_ : none;
  }
  bool operator==(const SharedText& other) const { return text_ == other.text_ || text() == other.text(); }

 private:
  std::shared_ptr<const std::string> text_;
};
inline std::string textOf(const SharedText& text) {
  return text.text();
}
inline Result<SharedText> parseShared(const std::string& text) {
  return SharedText(text);
}

struct KeptState {
  std::string name;
  SharedText session;                 ///< its file's text, without states of its own
  std::vector<AssetRef> sounds = {};  ///< those that it needs
  Unknown unknown = {};
  bool operator==(const KeptState&) const = default;
};
inline constexpr size_t kMostStates = 32, kMostStateSounds = 4096, kMostStateBytes = 32'000'000;

}  // namespace heft
