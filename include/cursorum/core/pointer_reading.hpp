// The pointer and the wheel during a frame.
#pragma once

#include <cstddef>
#include <cstdint>
#include <iterator>

#include "cursorum/core/cursor_state.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/detail/opaque.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

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
    Distance raw;          ///< before the system's acceleration, if the source reports it
    WindowPoint position;  ///< after it, if has_position
    bool has_position = false;
};

/// A press and release of one mouse button of one device, without a cancel or a drag in between. It belongs to the
/// frame of the release, in whichever frame the press was. `count` increases with each further click; a drag between
/// two clicks resets it.
struct Click {
    DeviceId device{};
    Button button;
    Time pressed, released;
    WindowPoint from, to;       ///< where the press and the release were; see has_position
    double farthest = 0;        ///< the greatest distance from the press, in pixels
    unsigned count = 1;         ///< 2 for a double click; see PointerSettings
    bool has_position = false;  ///< false: the device reports motion only, and `to` - `from` is its distance
};

/// A drag with one button. `from` is where the button was pressed.
struct DragReading {
    bool began = false;      ///< it became a drag within the frame
    bool active = false;     ///< at the frame's end
    bool dropped = false;    ///< the button was released within the frame
    bool cancelled = false;  ///< cancelled within the frame: focus loss, unplugged, leaving, cancel_presses()
    WindowPoint from, to;    ///< `to`: where the pointer is now, or was dropped
    Time pressed;
};

/// A rectangle that can be clicked, such as a button on the screen.
struct TargetReading {
    bool hovered = false;  ///< the pointer is over it, and inside the window
    bool armed = false;    ///< pressed on it and over it now, so that a release clicks; sliding off disarms it
    bool pressed = false;  ///< a press on it in this frame
    /// Clicks in this frame: pressed on it and released on it, even if that was a drag in between.
    unsigned clicks = 0;
    unsigned count = 0;  ///< of the last of them: 2 for a double click

    bool clicked() const noexcept { return clicks != 0; }
};

/// The motion samples of a frame in order, for a range-for. If the frame is read so late that the history has been
/// overwritten, the samples that are gone are left out (the sums stay complete).
class CURSORUM_API SampleRange {
public:
    class Iterator {
    public:
        using value_type = PointerSample;
        using difference_type = std::ptrdiff_t;
        const PointerSample& operator*() const noexcept { return sample_; }
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.ended_; }

        /// Not for callers.
        Iterator(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept;

    private:
        PointerSample sample_;
        bool ended_ = false;
        detail::Opaque<2500> walk_;
    };

    Iterator begin() const noexcept { return {*frame_, devices_}; }
    static std::default_sentinel_t end() noexcept { return {}; }

    /// Not for callers.
    SampleRange(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept
        : frame_{&frame}, devices_{devices} {}

private:
    const detail::FrameWindow* frame_;
    detail::DeviceFilter devices_;
};

/// Clicks of a frame, in the order of their releases.
class CURSORUM_API ClickRange {
public:
    class Iterator {
    public:
        using value_type = Click;
        using difference_type = std::ptrdiff_t;
        Click operator*() const noexcept;
        Iterator& operator++() noexcept;
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.is_at_end(); }

        /// Not for callers.
        Iterator(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept;

    private:
        bool is_at_end() const noexcept;
        void skip() noexcept;
        const detail::FrameWindow* frame_;
        detail::DeviceFilter devices_;
        std::uint32_t index_ = 0;
    };

    Iterator begin() const noexcept { return {*frame_, devices_}; }
    static std::default_sentinel_t end() noexcept { return {}; }
    bool empty() const noexcept { return begin() == end(); }

    /// Not for callers.
    ClickRange(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept
        : frame_{&frame}, devices_{devices} {}

private:
    const detail::FrameWindow* frame_;
    detail::DeviceFilter devices_;
};

/// The pointer as moved by all devices (Frame::pointer()) or by one of them (`frame.on(device).pointer()`).
///
/// Sums include every event of the frame. They are kept in 1/65536 (each event's distance is rounded to the nearest,
/// ties to even), so that they add up to the same however time is cut; nothing is lost when a sampler is overrun. Cost:
/// none for all devices together; proportional to the frame's events for one device. Lifetime, threads: the same as the
/// frame's.
class CURSORUM_API PointerReading {
public:
    /// In the source's pixels or counts.
    Distance motion() const noexcept;
    /// Before the system's acceleration, if the source reports it; otherwise zero.
    Distance raw_motion() const noexcept;
    /// In detents.
    Distance wheel() const noexcept;
    /// Whole detents. Fractions are carried over to the next step, so that the small turns of a smooth wheel add up.
    /// Always of all devices together.
    WheelSteps wheel_steps() const noexcept;
    /// Calls `visit(Time, WheelSteps)` with the steps that each event completed, in order; for one device, those that
    /// its own events completed. As in samples(), events that have been overwritten are left out.
    template <typename Visit>
    void for_each_wheel_step(Visit&& visit) const {
        auto call = [&visit](Time time, WheelSteps steps) { visit(time, steps); };
        walk_wheel_steps(
            &call, [](void* to, Time time, WheelSteps steps) { (*static_cast<decltype(call)*>(to))(time, steps); });
    }
    /// Returns whether anything moved, a wheel turned, or the position changed, even if it came back within the frame.
    bool moved() const noexcept;

    /// Returns whether a position has ever been reported; for one device, within this frame.
    bool has_position() const noexcept;
    /// The position at the frame's end, in pixels from the window's top left corner (the screen's, from a source
    /// without a window). For all devices together, the one reported last.
    WindowPoint position() const noexcept;
    /// The position at its start. This and the members below are of the pointer itself, whichever device is asked.
    WindowPoint previous_position() const noexcept;
    /// Returns whether the pointer is over the window at the frame's end. A source that does not report leaving is
    /// always inside.
    bool inside() const noexcept;
    /// At its start.
    bool was_inside() const noexcept;
    /// Returns whether the pointer is locked to the window at the frame's end: it has motion, but no position.
    bool locked() const noexcept;
    /// At its start.
    bool was_locked() const noexcept;

    /// The cursor at the frame's end, as the source reported it: free or kept in the window, locked, hidden; and at its
    /// start.
    CursorState cursor() const noexcept;
    CursorState previous_cursor() const noexcept;

    /// Every motion event in order, with its time.
    SampleRange samples() const noexcept { return {*frame_, devices_}; }
    /// The clicks that ended in this frame, of all buttons. Drags are not clicks.
    ClickRange clicks() const noexcept { return {*frame_, devices_}; }
    /// The drag of one button; of several devices, the one with the latest event.
    DragReading drag(Button button) const noexcept;
    /// A rectangle that can be clicked with that button.
    TargetReading target(const WindowRect& rect, Button button) const noexcept;
    /// The same, with the left button.
    TargetReading target(const WindowRect& rect) const noexcept;

    /// Not for callers: frames make readings.
    PointerReading(const detail::FrameWindow& frame, const detail::DeviceFilter& devices) noexcept
        : frame_{&frame}, devices_{devices} {}

private:
    void walk_wheel_steps(void* to, void (*visit)(void*, Time, WheelSteps)) const;
    const detail::FrameWindow* frame_;
    detail::DeviceFilter devices_;
};

}  // namespace cursorum
