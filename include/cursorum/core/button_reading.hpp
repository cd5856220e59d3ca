// One button's state during a frame.
#pragma once

#include <cstdint>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/detail/device_filter.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// From the level at the frame's two cuts and the edges between:
///
///   was down   down   edges between           state
///   no         no     none                    idle
///   no         no     some                    blip       down only between the cuts
///   no         yes    a press among them      press
///   no         yes    no press                hold       found down (adopted)
///   yes        yes    no press                hold
///   yes        yes    a press among them      dip        up only between the cuts
///   yes        no     a release among them    release    by the person
///   yes        no     no release              cancel     by Cursorum: focus lost, unplugged …
enum class ButtonState : std::uint8_t { idle, blip, press, hold, dip, release, cancel };

/// "idle", "blip", "press", "hold", "dip", "release", "cancel".
constexpr std::string_view name_of(ButtonState state) noexcept {
    constexpr std::string_view names[] = {"idle", "blip", "press", "hold", "dip", "release", "cancel"};
    return names[static_cast<unsigned>(state)];
}

namespace detail {

/// What figures consist of. Not for callers.
struct FigureParts {
    Duration held_for{}, released_after{}, down_span{}, frame_length{};
    std::uint64_t repeat_count = 0;
    std::uint32_t press_count = 0, release_count = 0, adopt_count = 0, cancel_count = 0;
    std::uint32_t system_repeat_count = 0;
    bool was_down = false, down = false, any_edge = false, released = false;
};

}  // namespace detail

/// All figures of one button, merged or of one device: a plain value that outlives its frame.
class CURSORUM_API ButtonFigures {
public:
    /// The figures of an idle button in a zero-length frame.
    ButtonFigures() noexcept = default;

    ButtonState state() const noexcept;

    bool pressed() const noexcept { return parts_.press_count != 0; }  ///< at least one press
    /// The person released at least one hold that began with a press. Releasing a button that was only found down
    /// (adopted) does not count: its press was meant for another program.
    bool released() const noexcept { return parts_.released; }
    bool repeated() const noexcept { return parts_.repeat_count != 0; }  ///< at least one repeat made by Cursorum
    /// Released by the person, or cancelled by Cursorum.
    bool ended() const noexcept { return parts_.release_count + parts_.cancel_count != 0; }
    bool down() const noexcept { return parts_.down; }                ///< at the frame's end
    bool was_down() const noexcept { return parts_.was_down; }        ///< at the frame's start
    bool held() const noexcept { return parts_.down && !pressed(); }  ///< down, and not newly pressed

    std::uint32_t press_count() const noexcept { return parts_.press_count; }
    std::uint32_t release_count() const noexcept { return parts_.release_count; }
    std::uint32_t adopt_count() const noexcept { return parts_.adopt_count; }
    std::uint32_t cancel_count() const noexcept { return parts_.cancel_count; }
    std::uint64_t repeat_count() const noexcept { return parts_.repeat_count; }
    std::uint32_t system_repeat_count() const noexcept { return parts_.system_repeat_count; }
    /// Presses and repeats. Use this to move the selection in a menu.
    std::uint64_t steps() const noexcept { return parts_.press_count + parts_.repeat_count; }

    /// If the button is down at the end: the time since its last press or adopt. Otherwise the length of the last hold
    /// that ended in the frame; zero if none did.
    Duration held_for() const noexcept { return parts_.held_for; }
    /// How long the most recently released hold lasted; zero unless released(). Useful for charged shots.
    Duration released_after() const noexcept { return parts_.released_after; }
    /// How long it was down within the frame.
    Duration down_span() const noexcept { return parts_.down_span; }
    /// down_span divided by the frame's length, 0 to 1; 0 for a zero-length frame.
    double down_share() const noexcept;

    /// Not for callers.
    explicit ButtonFigures(const detail::FigureParts& parts) noexcept : parts_{parts} {}

private:
    detail::FigureParts parts_;
};

/// One button's state during a frame, merged over all devices (`frame[KeyW]`) or of one (`frame.on(device)[KeyW]`).
/// Members have the same meaning as in ButtonFigures.
///
/// Lifetime: a view of the frame; valid until its sampler advances. Copy `figures()` to keep the values.
/// Cost: proportional to this button's events in the frame (usually none). Call `figures()` once if you need several
/// values.
class CURSORUM_API ButtonReading {
public:
    ButtonFigures figures() const noexcept;

    ButtonState state() const noexcept { return figures().state(); }
    bool pressed() const noexcept;
    bool released() const noexcept;
    bool repeated() const noexcept { return figures().repeated(); }
    bool ended() const noexcept;
    bool down() const noexcept;
    bool was_down() const noexcept;
    bool held() const noexcept { return down() && !pressed(); }

    std::uint32_t press_count() const noexcept { return figures().press_count(); }
    std::uint32_t release_count() const noexcept { return figures().release_count(); }
    std::uint32_t adopt_count() const noexcept { return figures().adopt_count(); }
    std::uint32_t cancel_count() const noexcept { return figures().cancel_count(); }
    std::uint64_t repeat_count() const noexcept { return figures().repeat_count(); }
    std::uint32_t system_repeat_count() const noexcept { return figures().system_repeat_count(); }
    std::uint64_t steps() const noexcept { return figures().steps(); }

    Duration held_for() const noexcept { return figures().held_for(); }
    Duration released_after() const noexcept { return figures().released_after(); }
    Duration down_span() const noexcept { return figures().down_span(); }
    double down_share() const noexcept { return figures().down_share(); }

    /// Not for callers: frames make readings.
    ButtonReading(const detail::FrameWindow& frame, Button button, const detail::DeviceFilter& devices) noexcept
        : frame_{&frame}, devices_{devices}, button_{button} {}

private:
    ButtonFigures figures_of_busy() const noexcept;

    const detail::FrameWindow* frame_;
    detail::DeviceFilter devices_;
    Button button_;
};

inline ButtonFigures ButtonReading::figures() const noexcept {
    if (!frame_->is_idle(button_)) return figures_of_busy();
    return ButtonFigures{detail::FigureParts{.frame_length = Duration{frame_->initial->t1 - frame_->initial->t0}}};
}

inline bool ButtonReading::was_down() const noexcept {
    return devices_.is_every() ? frame_->was_down(button_) : figures().was_down();
}
inline bool ButtonReading::down() const noexcept {
    if (!devices_.is_every()) return figures().down();
    const detail::StoredEdge* const last = frame_->last_of(button_);
    return last ? last->what().is_down() : frame_->was_down(button_);
}
inline bool ButtonReading::pressed() const noexcept {
    if (!devices_.is_every()) return figures().pressed();
    for (const detail::StoredEdge* edge = frame_->last_of(button_); edge; edge = frame_->before(*edge))
        if (edge->what().presses()) return true;
    return false;
}
inline bool ButtonReading::released() const noexcept {
    if (!devices_.is_every()) return figures().released();
    // From the last edge to the first: a release counts if the hold before it began with a press.
    bool is_release = false;
    for (const detail::StoredEdge* edge = frame_->last_of(button_); edge; edge = frame_->before(*edge)) {
        const detail::What what = edge->what();
        if (is_release && what.presses()) return true;
        if (what.ends() || what.starts()) is_release = what.effect() == detail::Effect::release;
    }
    // Without a release no start is looked up: a number that names no button has none.
    return is_release && detail::is_persons_release(true, frame_->initial->adopted[button_.number]);
}
inline bool ButtonReading::ended() const noexcept {
    if (!devices_.is_every()) return figures().ended();
    for (const detail::StoredEdge* edge = frame_->last_of(button_); edge; edge = frame_->before(*edge))
        if (edge->what().ends()) return true;
    return false;
}

}  // namespace cursorum
