// Runs a producer in the middle of what a consumer does: before any of its loads, as often as a schedule says.
#pragma once

#include <atomic>
#include <cstdint>
#include <functional>

namespace test {

/// Every load counts, and may first let the producer do something.
class Schedule {
public:
    static Schedule*& current() {
        thread_local Schedule* schedule = nullptr;
        return schedule;
    }
    /// `produce` is called before each load of `consume`; returns how many loads there were.
    std::uint64_t run(std::function<void()> produce, const std::function<void()>& consume) {
        produce_ = std::move(produce);
        loads_ = 0;
        on_ = true;
        consume();
        on_ = false;
        return loads_;
    }
    void load() {
        if (!on_) return;
        ++loads_;
        on_ = false;  // the producer's own loads
        produce_();
        on_ = true;
    }

private:
    std::function<void()> produce_;
    std::uint64_t loads_ = 0;
    bool on_ = false;
};

/// In std::atomic's place, within the current Schedule.
template <typename Value>
class ScheduledAtomic {
public:
    ScheduledAtomic() = default;
    explicit ScheduledAtomic(Value value) : value_{value} {}
    void store(Value value, std::memory_order) { value_ = value; }
    Value load(std::memory_order) const {
        if (Schedule::current()) Schedule::current()->load();
        return value_;
    }

private:
    Value value_{};
};

}  // namespace test
