#include "comparators.hpp"

#include <benchmark/benchmark.h>

#include <cstring>

namespace bench {

using cursorum::Button;
using cursorum::ButtonSet;

ButtonSet BoolArrays::down() const {
    ButtonSet set;
    for (std::uint16_t i = 0; i < current_.size(); ++i) set.set(Button{i}, current_[i]);
    return set;
}

void HashSets::frame(std::span<const RawEvent> events) {
    pressed_.clear();
    released_.clear();
    for (const RawEvent& event : events) {
        if (event.down) {
            if (down_.insert(event.button.number).second) pressed_.insert(event.button.number);
        } else if (down_.erase(event.button.number) != 0) {
            released_.insert(event.button.number);
        }
    }
}

ButtonSet HashSets::down() const {
    ButtonSet set;
    for (const std::uint16_t number : down_) set.insert(Button{number});
    return set;
}

void EventQueue::push(const RawEvent& event) noexcept { events_[next_++ % events_.size()] = event; }

void Copying::frame(std::span<const RawEvent> events) {
    std::memcpy(events_.data(), events.data(), events.size_bytes());
    previous_ = state_;
    benchmark::DoNotOptimize(events_.data());
    benchmark::DoNotOptimize(previous_.data());
    benchmark::ClobberMemory();
}

}  // namespace bench
