// Axes and vectors in one frame: their values are followed from event to event, so that integrals are exact; while
// modes change hands within the frame, each value belongs to the mode that had it then.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "actions/action_state.hpp"
#include "actions/bindings.hpp"
#include "actions/mode_segments.hpp"
#include "core/frame/frame_input.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace cursorum::detail {

/// The inputs from which axes and vectors are computed in one frame.
struct MovementScene {
    const ActionMap& map;
    ActionState& state;
    const ModeSegments& segments;
    const FrameInput& frame;
    DeviceFilter filter;
};

/// The motion of a reader's axes and vectors in the current frame.
class Movement {
public:
    void reserve(const ActionMap& map);
    /// Makes room for that many actions.
    void fit(std::size_t actions);
    void clear_steps() noexcept { steps_.clear(); }
    /// Begins the next frame.
    void clear(const ActionState& state) noexcept;

    /// Adds a new value of a source. Two values of `source` name none: `by_bot` for injected input, and `stops` for an
    /// action whose mode was closed or covered.
    void add_step(std::int64_t time, Vector2 value, std::uint16_t action, std::uint16_t source) {
        steps_.push_back({time, value, static_cast<std::uint32_t>(steps_.size()), action, source});
    }
    static constexpr std::uint16_t by_bot = source_capacity, stops = source_capacity + 1;

    /// From now on the action's values are computed from event to event again.
    void enliven(unsigned action) noexcept;
    void enliven_all(const ActionMap& map) noexcept;
    /// Ends the frame: adds the steps of axes, sticks and touch, and moves everything along all steps.
    void finish(const MovementScene& scene);

    Vector2 before(unsigned action) const noexcept { return before_[action]; }
    Vector2 integral(unsigned action) const noexcept { return integral_[action]; }
    Vector2 relative(unsigned action) const noexcept { return relative_[action]; }

private:
    struct Step {
        std::int64_t time;
        Vector2 value;
        std::uint32_t order;
        std::uint16_t action, source;
    };
    using ActionBits = std::array<std::uint64_t, action_capacity / 64>;

    void add_steps(const MovementScene& scene);
    void add_relative(const MovementScene& scene) noexcept;
    void move_all(const MovementScene& scene);
    void move(const MovementScene& scene, std::uint16_t action, std::span<const Step> steps);

    std::vector<Step> steps_;
    std::vector<Vector2> before_, integral_, relative_;
    // Those that are gone through in a frame: the lively ones move, or did in the frame before; the holding ones stay
    // where they are, away from rest. The others are at rest: all their values are 0.
    ActionBits lively_{}, holding_{};
    unsigned words_ = 0;  // of these, as many as there are actions
    // Of the holding ones, those whose integral is that of a frame of this length.
    ActionBits held_{};
    double held_length_ = 0;
};

}  // namespace cursorum::detail
