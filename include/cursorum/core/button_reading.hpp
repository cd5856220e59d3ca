// One button's state during a frame.
#pragma once

#include <cstdint>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

class Frame;

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

/// All figures of one button, merged or of one device: a plain value that outlives its frame.
class ButtonFigures {
public:
    /// The figures of an idle button in a zero-length frame.
    ButtonFigures() noexcept = default;

    ButtonState state() const noexcept;

    bool pressed() const noexcept { return press_count_ != 0; }  ///< at least one press
    /// The person released at least one hold that began with a press. Releasing a button that was only found down
    /// (adopted) does not count: its press was meant for another program.
    bool released() const noexcept { return released_; }
    bool repeated() const noexcept { return repeat_count_ != 0; }  ///< at least one repeat made by Cursorum
    /// Released by the person, or cancelled by Cursorum.
    bool ended() const noexcept { return release_count_ + cancel_count_ != 0; }
    bool down() const noexcept { return down_; }                ///< at the frame's end
    bool was_down() const noexcept { return was_down_; }        ///< at the frame's start
    bool held() const noexcept { return down_ && !pressed(); }  ///< down, and not newly pressed

    std::uint32_t press_count() const noexcept { return press_count_; }
    std::uint32_t release_count() const noexcept { return release_count_; }
    std::uint32_t adopt_count() const noexcept { return adopt_count_; }
    std::uint32_t cancel_count() const noexcept { return cancel_count_; }
    std::uint64_t repeat_count() const noexcept { return repeat_count_; }
    std::uint32_t system_repeat_count() const noexcept { return system_repeat_count_; }
    /// Presses and repeats. Use this to move the selection in a menu.
    std::uint64_t steps() const noexcept { return press_count_ + repeat_count_; }

    /// If the button is down at the end: the time since its last press or adopt. Otherwise the length of the last hold
    /// that ended in the frame; zero if none did.
    Duration held_for() const noexcept { return held_for_; }
    /// How long the most recently released hold lasted; zero unless released(). Useful for charged shots.
    Duration released_after() const noexcept { return released_after_; }
    /// How long it was down within the frame.
    Duration down_span() const noexcept { return down_span_; }
    /// down_span divided by the frame's length, 0 to 1; 0 for a zero-length frame.
    double down_share() const noexcept;

private:
    friend class Frame;
    friend class SnapshotFrame;
    friend class PlayerFrame;
    friend class ButtonReading;
    friend struct FigureTally;
    explicit ButtonFigures(Duration frame_length) noexcept : frame_length_{frame_length} {}

    Duration held_for_{}, released_after_{}, down_span_{}, frame_length_{};
    std::uint64_t repeat_count_ = 0;
    std::uint32_t press_count_ = 0, release_count_ = 0, adopt_count_ = 0, cancel_count_ = 0;
    std::uint32_t system_repeat_count_ = 0;
    bool was_down_ = false, down_ = false, any_edge_ = false, released_ = false;
};

/// One button's state during a frame, merged over all devices (`frame[KeyW]`) or of one (`frame.on(device)[KeyW]`).
/// Members have the same meaning as in ButtonFigures.
///
/// Lifetime: a view of the frame; valid until its sampler advances. Copy `figures()` to keep the values.
/// Cost: proportional to this button's events in the frame (usually none). Call `figures()` once if you need several
/// values.
class ButtonReading {
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

private:
    friend class Frame;
    friend class DeviceFrame;
    ButtonReading(const Frame& frame, Button button, unsigned device) noexcept
        : frame_{&frame}, button_{button}, device_{device} {}

    const Frame* frame_;
    Button button_;
    unsigned device_;  // its number in the timeline, or Frame::every_device
};

}  // namespace cursorum
