// What a frame says of the pointer and the wheel.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <iterator>
#include <optional>

#include "cursorum/core/control.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/detail/motion_ring.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

class Frame;

/// Whole steps of a wheel.
struct WheelSteps {
    std::int32_t x = 0, y = 0;

    friend constexpr bool operator==(const WheelSteps&, const WheelSteps&) = default;
};

/// One event of motion.
struct PointerSample {
    Time time;  ///< when it took effect
    DeviceId device{};
    Distance motion;
    Distance raw;          ///< before the system's acceleration, if the source tells
    WindowPoint position;  ///< after it, if has_position
    bool has_position = false;
};

/// Press and release of one button of one device, with no cancel and no drag between. It belongs to the frame of the
/// release, wherever the press was. `count` goes up with each further click; a drag between two clicks starts it anew.
struct Click {
    DeviceId device{};
    Button button;
    Time pressed, released;
    WindowPoint from, to;       ///< where the press and the release were; see has_position
    double farthest = 0;        ///< pixels between the press and the farthest the pointer went from there
    unsigned count = 1;         ///< 2 for a double click; see PointerSettings
    bool has_position = false;  ///< false: the device only tells motion, and `to` - `from` is how far it went
};

/// What one button drags. `from` is where it was pressed.
struct DragReading {
    bool began = false;      ///< within the frame the pointer got far enough from the press
    bool active = false;     ///< at the frame's end
    bool dropped = false;    ///< the button was released within the frame
    bool cancelled = false;  ///< called off within the frame: focus loss, unplugged, leaving, cancel_presses()
    WindowPoint from, to;    ///< `to`: where the pointer is now, or was dropped
    Time pressed;
};

/// A rectangle to click at.
struct TargetReading {
    bool hovered = false;  ///< the pointer is over it, and inside the window
    bool armed = false;  ///< pressed on it and over it now: releasing here clicks. Sliding off disarms, back arms again
    bool pressed = false;  ///< a press on it in this frame
    /// In this frame: pressed on it and released on it, even if the pointer went so far in between that it was a drag.
    unsigned clicks = 0;
    unsigned count = 0;  ///< of the last of them: 2 for a double click

    bool clicked() const noexcept { return clicks != 0; }
};

/// The motion samples of a frame in order, for a range-for. A sampler that looks at a frame very late may find that the
/// history has gone on: what is no longer there is left out (the sums are not).
class SampleRange {
public:
    class Iterator {
    public:
        using value_type = PointerSample;
        using difference_type = std::ptrdiff_t;
        const PointerSample& operator*() const noexcept { return sample_; }
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.ended_; }

    private:
        friend class SampleRange;
        friend class PointerReading;
        Iterator(const Frame& frame, detail::DeviceFilter device) noexcept;
        explicit Iterator(const Frame& frame) noexcept;  // before the first
        bool next_slot() noexcept;
        bool next_wheel_step(Time& time, WheelSteps& steps) noexcept;
        const Frame* frame_;
        detail::DeviceFilter device_;
        bool ended_ = false;
        std::size_t kept_ = 0;
        struct Way {
            std::uint64_t at, end;
            detail::FixedDistance motion, raw, wheel;
            std::uint64_t steps;
        };
        std::array<Way, 32> ways_;  // one for each inlet (inlet_capacity)
        unsigned last_device_ = 256;
        DeviceId last_id_{};
        detail::MotionSlot slot_;  // with what it added in place of the totals
        PointerSample sample_;
    };

    Iterator begin() const noexcept { return {*frame_, device_}; }
    static std::default_sentinel_t end() noexcept { return {}; }

private:
    friend class PointerReading;
    SampleRange(const Frame& frame, detail::DeviceFilter device) noexcept : frame_{&frame}, device_{device} {}
    const Frame* frame_;
    detail::DeviceFilter device_;
};

/// Clicks of a frame, in the order of their releases.
class ClickRange {
public:
    class Iterator {
    public:
        using value_type = Click;
        using difference_type = std::ptrdiff_t;
        Click operator*() const noexcept;
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.is_at_end(); }

    private:
        friend class ClickRange;
        Iterator(const Frame& frame, detail::DeviceFilter device) noexcept;
        bool is_at_end() const noexcept;
        void skip() noexcept;
        const Frame* frame_;
        detail::DeviceFilter device_;
        std::uint32_t index_ = 0;
    };

    Iterator begin() const noexcept { return {*frame_, device_}; }
    static std::default_sentinel_t end() noexcept { return {}; }
    bool empty() const noexcept { return begin() == end(); }

private:
    friend class PointerReading;
    ClickRange(const Frame& frame, detail::DeviceFilter device) noexcept : frame_{&frame}, device_{device} {}
    const Frame* frame_;
    detail::DeviceFilter device_;
};

/// The pointer, as all devices move it (Frame::pointer()), or one of them (`frame.on(device).pointer()`).
///
/// Sums are over every event of the frame. They are kept in 1/65536 (each event's distance rounded to the nearest, ties
/// to even), so that however time is cut they add up to the same; nothing is lost when a sampler is overrun. Of all
/// devices together they cost nothing; of one device, they cost by the frame's events.
/// Lifetime, threads: its frame's.
class PointerReading {
public:
    /// In the source's pixels or counts.
    Distance motion() const noexcept;
    /// Before the system's acceleration, from sources that tell.
    Distance raw_motion() const noexcept;
    /// In detents.
    Distance wheel() const noexcept;
    /// Whole detents, the rest carried on to the next: a smooth wheel's small turns add up. Always of all devices.
    WheelSteps wheel_steps() const noexcept;
    /// Calls `visit(Time, WheelSteps)` with the steps that each event completed, in order; of one device: those its own
    /// events completed. As samples(): what the history no longer has is left out.
    template <typename Visit>
    void for_each_wheel_step(Visit&& visit) const {
        Time time;
        WheelSteps steps;
        SampleRange::Iterator walk{*frame_};
        walk.device_ = device_;
        while (walk.next_wheel_step(time, steps)) visit(time, steps);
    }
    /// Something moved, or a wheel turned, or the position is another one; to and fro within the frame, too.
    bool moved() const noexcept;

    /// Whether a position was ever told. Of one device: within this frame.
    bool has_position() const noexcept;
    /// At the frame's end, in the window's pixels, 0,0 its top left corner (from a source without a window: the
    /// screen's). Of all devices: the one that told last.
    WindowPoint position() const noexcept;
    /// At its start. This and those below speak of the pointer, whichever device is asked.
    WindowPoint previous_position() const noexcept;
    /// At the frame's end, over the window. Leaving is told by the source; without that it is always inside.
    bool inside() const noexcept;
    /// At its start.
    bool was_inside() const noexcept;
    /// At the frame's end, locked to the window: no position, only motion.
    bool locked() const noexcept;
    /// At its start.
    bool was_locked() const noexcept;

    /// Every event of motion in order, with its time.
    SampleRange samples() const noexcept { return {*frame_, device_}; }
    /// Clicks that ended in this frame, of all buttons. What became a drag is not among them.
    ClickRange clicks() const noexcept { return {*frame_, device_}; }
    /// What one button drags; of several devices, the one that spoke last.
    DragReading drag(Button button) const noexcept;
    /// A rectangle to click at with that button.
    TargetReading target(const WindowRect& rect, Button button) const noexcept;
    /// With the left one.
    TargetReading target(const WindowRect& rect) const noexcept;

private:
    friend class Frame;
    friend class DeviceFrame;
    friend class SeatFrame;
    PointerReading(const Frame& frame, detail::DeviceFilter device) noexcept : frame_{&frame}, device_{device} {}
    /// What the frame added to one of a slot's totals, of all devices.
    detail::FixedDistance added(detail::FixedDistance detail::MotionSlot::*total) const noexcept;
    std::optional<WindowPoint> own_position() const noexcept;
    const Frame* frame_;
    detail::DeviceFilter device_;
};

}  // namespace cursorum
