// Where an inlet's pointer is: motion writes it, and clicks are measured by it.
#pragma once

#include "core/rules/fixed_point.hpp"

namespace cursorum::detail {

/// The pointer of an inlet, whichever device moved it.
struct PointerState {
    FixedDistance position{};
    bool is_known = false;
    bool is_fresh = false;  ///< known since focus came, and since the pointer was locked or freed
};

}  // namespace cursorum::detail
