// The assertion that one thread at a time is inside, as an object that lives as long as the call. Builds without
// assertions pay nothing.
#pragma once

#include <cassert>

#include "core/rings/thread_guard.hpp"

namespace cursorum {

/// Placed at the beginning of functions that only one thread at a time may call. The same call may enter it again.
class OneThread {
public:
#ifdef NDEBUG
    explicit OneThread(detail::ThreadGuard&) noexcept {}
#else
    explicit OneThread(detail::ThreadGuard& guard) noexcept : guard_{guard} {
        const bool alone = guard_.try_enter();
        assert(alone && "two threads at once in an inlet or a sampler: each belongs to one at a time");
        (void)alone;
    }
    ~OneThread() { guard_.leave(); }
    OneThread(const OneThread&) = delete;
    OneThread& operator=(const OneThread&) = delete;

private:
    detail::ThreadGuard& guard_;
#endif
};

}  // namespace cursorum
