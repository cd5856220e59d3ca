// What an inlet knows of a device, and which inlet a device belongs to. Not for callers.
#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/detail/motion_ring.hpp"
#include "cursorum/core/detail/shared_value.hpp"
#include "cursorum/core/detail/single_writer.hpp"
#include "cursorum/core/detail/slot_ring.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum::detail {

/// One button on one device, in 32 bits: 16 bits the number of its hold, then its level, then what its control is.
struct Cell {
    std::uint32_t bits;

    /// In place of a hold's number: it was never down; its hold has gone to another button since.
    static constexpr std::uint32_t never_held = 0xFFFF, hold_lost = 0xFFFE;
    static constexpr std::uint32_t down_bit = 0x1'0000, pressed_bit = 0x2'0000;
    /// What a control is: 0 if no device can have it, 1 a plain button, 2 to 5 one with an either-side name, then a
    /// mouse button, then one that is made of axes.
    static constexpr unsigned trait_shift = 24, plain_button = 1, either_side = 2, mouse_button = 6, of_axes = 7;

    constexpr unsigned hold() const noexcept { return bits & 0xFFFFU; }
    constexpr bool is_down() const noexcept { return (bits & down_bit) != 0; }
    constexpr bool is_pressed() const noexcept { return (bits & pressed_bit) != 0; }
    constexpr unsigned trait() const noexcept { return bits >> trait_shift; }
    /// A plain button that has a hold and whose level is about to turn to `down`. (A hold's number is below 512.)
    constexpr bool is_usual(bool down) const noexcept {
        return (bits & 0xFF01'FE00U) == (plain_button << trait_shift | !down * down_bit);
    }
    constexpr Cell with_level(std::uint32_t level) const noexcept {
        return {(bits & ~(down_bit | pressed_bit)) | level};
    }
    constexpr Cell turned(bool down) const noexcept { return with_level(down * (down_bit | pressed_bit)); }
    constexpr Cell with_hold(std::uint32_t hold) const noexcept { return {(bits & ~0xFFFFU) | hold}; }
};

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

/// What a device tells of itself beyond its name and flags, as it is shared with other threads.
struct DeviceSelf {
    std::uint32_t vendor = 0, product = 0;
    std::uint64_t axes = 0;  // bit n: axis n
    ButtonSet::Words buttons{};
};

/// Some of the buttons that are made of a device's axes.
struct AxisButtons {
    std::uint64_t sides = 0;       // bit 2 * axis + side
    std::uint64_t directions = 0;  // bit 4 * stick + direction
    static constexpr unsigned side_count = 2 * axis_kinds;
    static_assert(side_count == 64);

    void turn(Button button) noexcept {
        const unsigned bit = button.number - first_of_axes;
        (bit < side_count ? sides : directions) ^= std::uint64_t{1} << bit % side_count;
    }
    /// In the order of numbers.
    template <typename Visit>
    void for_each(Visit visit) const {
        for (const unsigned first : {0U, side_count})
            for (std::uint64_t rest = first == 0 ? sides : directions; rest != 0; rest &= rest - 1)
                visit(Button{static_cast<std::uint16_t>(first_of_axes + first + unsigned(std::countr_zero(rest)))});
    }
    bool has(Button button) const noexcept {
        const unsigned bit = button.number - first_of_axes;
        return ((bit < side_count ? sides : directions) >> bit % side_count & 1) != 0;
    }
    friend AxisButtons operator&(AxisButtons a, AxisButtons b) noexcept {
        return {a.sides & b.sides, a.directions & b.directions};
    }
    friend AxisButtons operator^(AxisButtons a, AxisButtons b) noexcept {
        return {a.sides ^ b.sides, a.directions ^ b.directions};
    }
    friend bool operator==(const AxisButtons&, const AxisButtons&) = default;
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

    // The pointer, as this device moves it. Fixed point; `drift` is motion that came without a position.
    bool has_position = false, is_locked = false, is_outside = false;
    std::uint8_t presses = 0;  // of mouse buttons in progress
    FixedDistance position{}, drift{};

    // Axes: what was posted last, what shaping makes of it, and which tracks the inlet keeps both in. At rest (without
    // focus, unplugged, before the first value) both are 0, whatever the shaping.
    static constexpr std::uint16_t no_track = 0xFFFF;
    std::array<double, axis_kinds> axes{}, shaped{};
    std::uint32_t heard_axes = 0;  // bit n: axis n was posted since the device was at rest
    std::array<std::uint16_t, axis_kinds> tracks = [] {
        std::array<std::uint16_t, axis_kinds> none;
        none.fill(no_track);
        return none;
    }();
    DeviceShaping shaping;
    AxisButtons axis_buttons;      // those that are down
    // Axes of one time apply together: what was down of the buttons made of them before the first of them. The time is
    // their stamp, and the inlet's latest one then.
    static constexpr std::int64_t no_time = INT64_MIN;
    std::int64_t axes_stamp = no_time, axes_latest = no_time;
    AxisButtons axis_buttons_before;

    Cell cell(Button button) const noexcept { return {cells[button.number].get()}; }
    void set(Button button, Cell cell) noexcept { cells[button.number].set(cell.bits); }

    /// Beside the kind, in the low 8 bits of `flags`.
    static constexpr std::uint32_t connected_flag = 0x100, marks_repeats_flag = 0x200, background_flag = 0x400,
                                   virtual_flag = 0x800;

    /// Shows the others what the plain members say.
    void show() noexcept {
        flags.set(static_cast<std::uint32_t>(kind) | connected * connected_flag | marks_repeats * marks_repeats_flag |
                  background * background_flag | is_virtual * virtual_flag);
        slot_bits = std::uint64_t{number} << 48 | slot_low(0, is_virtual, 0);
        motion_bits = number | is_virtual * MotionSlot::virtual_bit;
        known_as.publish(std::uint64_t{static_cast<std::uint32_t>(id)} + 1);
    }
    bool is_known_as(DeviceId asked) const noexcept {
        return known_as.look() == std::uint64_t{static_cast<std::uint32_t>(asked)} + 1;
    }
};

/// The number of each device, by id: the first inlet that connects an id takes it, for good. A table of open addressing,
/// at most half full. Any thread; no waiting.
class DeviceDirectory {
public:
    /// In place of a number.
    static constexpr unsigned none = 0xFFFF;

    explicit DeviceDirectory(std::size_t most_devices)
        : mask_{std::bit_ceil(2 * most_devices + 1) - 1},
          entries_{std::make_unique<std::atomic<std::uint64_t>[]>(mask_ + 1)} {}

    /// The number of the id: `number`, unless it has another one already.
    unsigned take(DeviceId id, unsigned number) noexcept {
        const std::uint64_t wanted = entry_of(id, number);
        for (std::size_t i = 0, at = first_of(id); i <= mask_; ++i, ++at) {
            std::uint64_t found = 0;
            if (entries_[at & mask_].compare_exchange_strong(found, wanted, std::memory_order_relaxed)) return number;
            if (found >> 32 == wanted >> 32) return number_of(found);
        }
        return none;
    }
    unsigned find(DeviceId id) const noexcept {
        for (std::size_t i = 0, at = first_of(id); i <= mask_; ++i, ++at) {
            const std::uint64_t found = entries_[at & mask_].load(std::memory_order_relaxed);
            if (found == 0) break;
            if (found >> 32 == static_cast<std::uint32_t>(id)) return number_of(found);
        }
        return none;
    }

private:
    static std::uint64_t entry_of(DeviceId id, unsigned number) noexcept {
        return std::uint64_t{static_cast<std::uint32_t>(id)} << 32 | (number + 1);
    }
    static unsigned number_of(std::uint64_t entry) noexcept { return static_cast<std::uint32_t>(entry) - 1; }
    // Fibonacci hashing (Knuth, The Art of Computer Programming 3, 6.4).
    static std::size_t first_of(DeviceId id) noexcept { return static_cast<std::uint32_t>(id) * 0x9E3779B9U >> 16; }

    std::size_t mask_;
    std::unique_ptr<std::atomic<std::uint64_t>[]> entries_;
};

}  // namespace cursorum::detail
