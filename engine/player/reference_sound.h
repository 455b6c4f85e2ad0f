#pragma once
/// A reference's section, ready to be heard instead of the loop.

#include <memory>
#include <optional>

#include "core/sound/buffer.h"

namespace heft {

struct ReferenceSound {
  std::shared_ptr<const AudioBuffer> sound;  ///< at the device's rate; repeats at its end
  std::optional<double> framesPerQuarter;  ///< where its tempo is known: then bars stay in step with the loop's
};

}  // namespace heft
