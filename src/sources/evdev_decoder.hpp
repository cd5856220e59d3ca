// One event device's stream of kernel events, as events of ours. It knows no file: live nodes, dumps and fuzzers give
// it what the kernel wrote.
#pragma once

#include <array>
#include <cstdint>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/sources/evdev_dump.hpp"
#include "sources/evdev_touch.hpp"
#include "sources/kernel_range.hpp"

namespace cursorum {

/// An event as the kernel gives it: see <linux/input.h>.
struct KernelEvent {
    std::int64_t time = 0;  // nanoseconds
    std::uint16_t type = 0, code = 0;
    std::int32_t value = 0;
};

/// The range of an absolute axis.
/// Everything between two reports has one time and is posted together: motion as one event, buttons in the order they
/// came.
class CURSORUM_API EvdevDecoder {
public:
    EvdevDecoder() noexcept = default;
    EvdevDecoder(DeviceId device, DeviceKind kind) noexcept;

    /// `code`: an ABS_ code. Ranges that are never set are a common pad's.
    void set_range(unsigned code, KernelRange range) noexcept;
    /// The wheel's fractions come as well, so that whole detents are ignored.
    void set_fine_wheel(bool vertical, bool horizontal) noexcept { fine_[0] = vertical, fine_[1] = horizontal; }

    /// The device is a mouse that reports positions, over a screen of that size.
    void set_positions(Distance screen) noexcept { is_placed_ = true, screen_ = screen; }

    void take(const KernelEvent& event, EventSink& sink);
    /// Presses that no control stands for, up to now.
    const UnnamedPresses& unnamed() const noexcept { return unnamed_; }
    /// Events were lost: what is pending is given up, and contacts are cancelled.
    void lose(Time time, EventSink& sink);
    EvdevTouch& fingers() noexcept { return touch_; }

    /// Of a state that was asked for: what a code means, for a set of buttons and axis values.
    void add_to_state(std::uint16_t type, std::uint16_t code, std::int32_t value, ButtonSet& down,
                      AxisValues& axes) noexcept;

private:
    void report(Time time, EventSink& sink);
    void hat(Time time, std::uint16_t code, std::int32_t value, EventSink& sink);
    void place(std::uint16_t code, std::int32_t value) noexcept;
    double value_of(Axis axis, std::int32_t value) const noexcept;
    std::int32_t hat_side(std::uint16_t code, std::int32_t value) const noexcept;

    DeviceId device_{};
    DeviceKind kind_{};
    std::array<KernelRange, axis_kinds> ranges_{};  // by our numbers
    std::array<KernelRange, 2> hat_ranges_{{{-1, 1}, {-1, 1}}};
    std::array<std::int32_t, 2> hats_{};  // the side to which each is pushed
    std::array<bool, 2> fine_{};
    EvdevTouch touch_;  // of a touch screen
    double dx_ = 0, dy_ = 0, wheel_x_ = 0, wheel_y_ = 0;
    Distance screen_{};
    WindowPoint place_{};
    bool is_placed_ = false, placed_ = false;
    bool moved_ = false, turned_ = false, dropping_ = false;
    UnnamedPresses unnamed_{};
    ButtonSet lamps_{};
    bool lamps_changed_ = false;
};

}  // namespace cursorum
