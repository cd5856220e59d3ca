// What people write by hand, to compare with.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <unordered_set>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "streams.hpp"

namespace bench {

/// Two arrays of bool, the older a copy of the newer at each frame's start.
class BoolArrays {
public:
    void frame(std::span<const RawEvent> events) {
        previous_ = current_;
        for (const RawEvent& event : events) current_[event.button.number] = event.down;
    }
    bool pressed(cursorum::Button button) const { return current_[button.number] && !previous_[button.number]; }
    cursorum::ButtonSet down() const;

private:
    std::array<bool, cursorum::button_capacity> current_{}, previous_{};
};

/// Sets of what is down, was pressed and was released, the last two cleared at each frame's start.
class HashSets {
public:
    void frame(std::span<const RawEvent> events);
    bool pressed(cursorum::Button button) const { return pressed_.contains(button.number); }
    cursorum::ButtonSet down() const;

private:
    std::unordered_set<std::uint16_t> down_, pressed_, released_;
};

/// The floor: the frame's events and 48 bytes of state are copied, and nothing is understood.
class Copying {
public:
    void frame(std::span<const RawEvent> events);

private:
    std::array<RawEvent, 64> events_{};
    std::array<std::uint64_t, 6> state_{}, previous_{};
};

}  // namespace bench
