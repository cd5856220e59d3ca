// The assertion that one thread at a time is inside.
#pragma once

#include <cassert>

#include "core/rings/one_at_a_time.hpp"

namespace cursorum {

/// Stands at the head of what only one thread at a time may call. It may be entered again by the same call.
class OneThread {
public:
#ifdef NDEBUG
    explicit OneThread(detail::OneAtATime&) noexcept {}
#else
    explicit OneThread(detail::OneAtATime& door) noexcept : door_{door} {
        const bool alone = door_.try_enter();
        assert(alone && "two threads at once in an inlet or a sampler: each belongs to one at a time");
        (void)alone;
    }
    ~OneThread() { door_.leave(); }
    OneThread(const OneThread&) = delete;
    OneThread& operator=(const OneThread&) = delete;

private:
    detail::OneAtATime& door_;
#endif
};

}  // namespace cursorum
