// What an inlet knows about a device: what it is, its buttons' cells, its axes and shaping, its pointer. The inlet's
// thread writes all of it; what other threads may read are single-writer values.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

#include "core/axes/axis_buttons.hpp"
#include "core/buttons/cell.hpp"
#include "core/buttons/edge_ring.hpp"
#include "core/motion/motion_slot.hpp"
#include "core/rings/shared_value.hpp"
#include "core/rings/single_writer.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum::detail {

/// A text of up to 63 bytes that one thread writes and any may read, without either waiting for the other.
class SharedName {
public:
    static constexpr std::size_t capacity = 63;
    using Bytes = std::array<char, capacity + 1>;
    void set(std::string_view name) noexcept;
    /// Copies it, ended by a zero.
    Bytes read() const noexcept { return bytes_.read(); }

private:
    SharedValue<Bytes> bytes_;
};

/// What a device reports about itself in addition to its name and flags, shared with other threads.
struct DeviceSelf {
    std::uint32_t vendor = 0, product = 0;
    std::uint64_t axes = 0;  // bit n: axis n
    ButtonSet::Words buttons{};
};

/// A device belongs to one inlet, whose thread writes all this. What other threads may read are single-writer values.
struct Device {
    DeviceKind kind{};
    std::uint8_t number = 0;  // in the timeline
    bool connected = false;
    bool listens = false;  // connected, and in focus or in the background
    bool marks_repeats = false;
    bool background = false;
    bool is_virtual = false;
    bool adopt_next = false;       // the next polled buttons
    bool adopt_axes_next = false;  // the next polled axes
    bool points = false;           // its first contact acts as pointer
    DeviceId id{};
    std::uint64_t slot_bits = 0, motion_bits = 0;  // what all its slots have in common
    std::array<SingleWriter<std::uint32_t>, button_capacity> cells;

    SingleWriter<std::uint64_t> known_as;  // id + 1; 0 while this place has no device
    SingleWriter<std::uint32_t> flags;     // see show()
    SharedName name;
    SharedValue<DeviceSelf> self;
    SharedValue<DeviceShaping> shared_shaping;  // and how often it was set
    SingleWriter<std::uint32_t> shaping_count;
    /// The kind, for any thread.
    DeviceKind shared_kind() const noexcept { return static_cast<DeviceKind>(flags.look() & 0xFF); }

    // The pointer, as this device moves it. Fixed point; `drift` is motion that came without a position.
    bool has_position = false, is_outside = false;
    CursorState cursor;
    bool is_locked() const noexcept { return cursor.hold == CursorHold::locked; }
    std::uint8_t presses = 0;  // of mouse buttons in progress
    FixedDistance position{}, drift{};

    // Axes: the last posted values, the shaped values, and the tracks that hold both. At rest (without focus,
    // unplugged, before the first value) both are 0, whatever the shaping.
    static constexpr std::uint16_t no_track = 0xFFFF;
    std::array<double, axis_kinds> axes{}, shaped{};
    std::uint32_t posted_axes = 0;  // bit n: axis n was posted since the device was at rest
    std::array<std::uint16_t, axis_kinds> tracks = [] {
        std::array<std::uint16_t, axis_kinds> none;
        none.fill(no_track);
        return none;
    }();
    DeviceShaping shaping;
    AxisButtons axis_buttons;  // those that are down
    // Axes of one time apply together: the buttons made of them that were down before the first of them. The time is
    // their stamp, and the inlet's latest one then.
    static constexpr std::int64_t no_time = INT64_MIN;
    std::int64_t axes_stamp = no_time, axes_latest = no_time;
    AxisButtons axis_buttons_before;

    Cell cell(Button button) const noexcept { return {cells[button.number].get()}; }
    void set(Button button, Cell cell) noexcept { cells[button.number].set(cell.bits); }

    /// In addition to the kind, which is in the low 8 bits of `flags`.
    static constexpr std::uint32_t connected_flag = 0x100, marks_repeats_flag = 0x200, background_flag = 0x400,
                                   virtual_flag = 0x800;

    /// Publishes the plain members to other threads.
    void show() noexcept {
        flags.set(static_cast<std::uint32_t>(kind) | connected * connected_flag | marks_repeats * marks_repeats_flag |
                  background * background_flag | is_virtual * virtual_flag);
        slot_bits = std::uint64_t{number} << 48 | make_tag(0, is_virtual, 0);
        motion_bits = number | is_virtual * MotionSlot::virtual_bit;
        known_as.publish(std::uint64_t{static_cast<std::uint32_t>(id)} + 1);
    }
    bool is_known_as(DeviceId asked) const noexcept {
        return known_as.look() == std::uint64_t{static_cast<std::uint32_t>(asked)} + 1;
    }
};

}  // namespace cursorum::detail
