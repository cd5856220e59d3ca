// Describes to a programmer what is wrong with how events are posted or frames are cut.
#pragma once

#include <cstdint>

#include "cursorum/core/export.hpp"
#include "cursorum/core/sampler.hpp"

namespace cursorum {

/// Looks at the counters that a program set up correctly leaves at zero, and describes each problem once, when it shows
/// for the first time. For debug builds, once per iteration of the game loop:
///
///     #ifndef NDEBUG
///         while (const char* problem = check.next_problem(timeline, simulation)) log(problem);
///     #endif
///
/// Threads: the sampler's. Cost: some loads for each inlet; nothing allocates.
class CURSORUM_API InputCheck {
public:
    /// The next problem that was not described yet, in one or two sentences (a string literal); null if there are none.
    const char* next_problem(const Timeline& timeline, const Sampler& sampler) noexcept;

private:
    std::uint32_t shown_ = 0;  // bit by problem
};

}  // namespace cursorum
