// Turns a mouse button's press into a click or a drag, by how far the pointer went since.
#pragma once

#include <array>
#include <cstdint>

#include "core/motion/pointer_state.hpp"
#include "core/occasions/occasion_writer.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum::detail {

/// The presses of mouse buttons on an inlet's devices that may become clicks. The inlet reports edges and motion to it.
class ClickTracker {
public:
    /// `first` and `room`: the places of this inlet's presses in the timeline's table.
    ClickTracker(const PointerSettings& settings, unsigned first, unsigned room, const OccasionWriter& occasions,
                 const PointerState& pointer) noexcept
        : settings_{settings}, first_{first}, room_{room}, occasions_{occasions}, pointer_{pointer} {}

    /// Whether there are any; without them, motion need not be followed.
    bool has_any() const noexcept { return count_ != 0; }
    /// After an edge of a mouse button.
    void follow_edge(SlotKind kind, Device& device, Button button) noexcept;
    /// After motion: a press that went far enough becomes a drag.
    void follow_motion() noexcept;
    /// After the device's pointer left the window.
    void follow_leaving(Device& device) noexcept;

private:
    /// A mouse button that is down and may become a click.
    struct Press {
        Device* device = nullptr;  // none: the place is free
        Button button;
        std::int64_t time = 0;
        FixedDistance begin{};
        double farthest_square = 0;
        bool has_position = false;  // begin is the pointer's; else the device's drift
        bool is_dragging = false;
        std::uint8_t count = 1;
    };
    struct LastClick {
        const Device* device = nullptr;
        Button button;
        std::int64_t time = 0;
        FixedDistance position{};
        std::uint8_t count = 0;
    };

    FixedDistance point_of(const Press& press) const noexcept;
    void write(OccasionKind kind, unsigned place) const noexcept;

    const PointerSettings settings_;
    const unsigned first_, room_;
    const OccasionWriter& occasions_;
    const PointerState& pointer_;
    unsigned count_ = 0;  // of presses
    std::array<Press, press_capacity> presses_{};
    LastClick last_click_;
};

}  // namespace cursorum::detail
