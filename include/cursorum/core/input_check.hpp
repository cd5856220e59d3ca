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
    bool is_cut_too_early(const Timeline& timeline, const Frame& frame) noexcept;

    std::uint32_t shown_ = 0;  // bit by problem
    // Of the last frame that was looked at, and how many in a row had events posted that it left to the next one.
    std::uint64_t serial_ = UINT64_MAX;
    Duration length_{};
    Time newest_{};
    unsigned early_cuts_ = 0;
};

}  // namespace cursorum
