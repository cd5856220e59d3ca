// The least and the greatest value of an axis, as the kernel reports them.
#pragma once

#include <cstdint>

namespace cursorum {

struct KernelRange {
    std::int32_t least = -32768, greatest = 32767;
};

}  // namespace cursorum
