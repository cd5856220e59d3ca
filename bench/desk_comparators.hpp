// What people write by hand for a whole desk, to compare with.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <unordered_set>
#include <vector>

#include "cursorum/core/button_set.hpp"
#include "streams.hpp"

namespace bench {

/// What an engine's callbacks get, in 32 bytes.
struct DeskEvent {
    enum class Kind : std::uint8_t { motion, key, axis };
    std::int64_t time;
    double dx, dy;  // an axis: its value in dx
    cursorum::Button button;
    Kind kind;
    bool down;
};
static_assert(sizeof(DeskEvent) == 32);

/// `frames` frames of `per_frame` events: of each 20, 17 are motion, 1 an axis and 2 keys; or all are motion.
/// Everything is up and at rest at the end.
std::vector<DeskEvent> desk_stream(unsigned frames, unsigned per_frame, bool with_all);

/// Two arrays of bool, the older a copy of the newer at each frame's start, and sums.
class DeskBoolArrays {
public:
    void frame(std::span<const DeskEvent> events);
    bool pressed(cursorum::Button button) const { return current_[button.number] && !previous_[button.number]; }
    cursorum::ButtonSet down() const;
    double dx() const { return dx_; }
    double dy() const { return dy_; }
    double axis() const { return axes_[0]; }

private:
    std::array<bool, cursorum::button_capacity> current_{}, previous_{};
    std::array<double, 6> axes_{}, previous_axes_{};
    double dx_ = 0, dy_ = 0;
};

/// Sets of what is down, was pressed and was released, and sums.
class DeskHashSets {
public:
    void frame(std::span<const DeskEvent> events);
    bool pressed(cursorum::Button button) const { return pressed_.contains(button.number); }
    cursorum::ButtonSet down() const;
    double dx() const { return dx_; }
    double dy() const { return dy_; }
    double axis() const { return axis_; }

private:
    std::unordered_set<std::uint16_t> down_, pressed_, released_;
    double dx_ = 0, dy_ = 0, axis_ = 0;
};

/// The floor: the frame's events and 48 bytes of state are copied, and nothing is understood.
class DeskCopying {
public:
    void frame(std::span<const DeskEvent> events);

private:
    std::array<DeskEvent, 160> events_{};
    std::array<std::uint64_t, 6> state_{}, previous_{};
};

using KeyBytes = std::array<std::uint8_t, 256>;

/// A loop over the bytes: adds up the keys that came up, and a thousand times those that went down.
void key_changes(const KeyBytes& last, const KeyBytes& now, std::uint64_t& sum);

}  // namespace bench
