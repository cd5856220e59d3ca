// A value that one thread writes and any may read: an atomic without read-modify-write instructions, since its writer
// knows what it wrote last.
#pragma once

#include <atomic>

namespace cursorum::detail {

/// One thread writes, so nothing here is a locked instruction; any thread reads, and what it reads is whole. `set` and
/// `get` order nothing else; what was written before a `publish` is visible to whoever `look`s at its value.
template <typename Value, template <typename> class Atomic = std::atomic>
class SingleWriter {
public:
    SingleWriter() noexcept = default;
    explicit SingleWriter(Value value) noexcept : value_{value} {}

    Value get() const noexcept { return value_.load(std::memory_order_relaxed); }
    void set(Value value) noexcept { value_.store(value, std::memory_order_relaxed); }
    void add(Value more) noexcept { set(static_cast<Value>(get() + more)); }

    Value look() const noexcept { return value_.load(std::memory_order_acquire); }
    void publish(Value value) noexcept { value_.store(value, std::memory_order_release); }

private:
    Atomic<Value> value_{};
    static_assert(std::atomic<Value>::is_always_lock_free);
};

}  // namespace cursorum::detail
