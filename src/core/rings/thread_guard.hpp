// Detects two threads in code that only one may use, in builds with assertions. It orders nothing: that is the caller's
// task.
#pragma once

#include <atomic>

namespace cursorum::detail {

/// Whether a thread is inside. It exists in all builds, so that layouts agree; only builds with assertions check it.
class ThreadGuard {
public:
    ThreadGuard() noexcept = default;

    /// Returns true if no other thread was inside.
    bool try_enter() noexcept { return !inside_.exchange(true, std::memory_order_acquire); }
    void leave() noexcept { inside_.store(false, std::memory_order_release); }

private:
    std::atomic<bool> inside_{false};
};

}  // namespace cursorum::detail
