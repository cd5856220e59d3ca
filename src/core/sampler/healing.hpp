// Working memory of healing, which is too large for the stack and needed seldom. For the sampler's own files. It
// belongs to the sampler, since nothing may allocate while frames are cut.
#pragma once

#include <array>
#include <cstdint>

#include "core/sampler/sampler_core.hpp"

namespace cursorum {

/// Working memory of healing: too large for a small stack, and nothing may be allocated at that time.
struct SamplerCore::Healing {
    struct Change {
        std::uint64_t order;  // ended before started, by device, then by name
        detail::Slot slot;
    };
    detail::SamplerState now;
    detail::InletHistory::HoldsCopy copy;
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
};

}  // namespace cursorum
