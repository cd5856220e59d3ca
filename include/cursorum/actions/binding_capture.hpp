// Capture: the next control that a player moves, for a binding screen.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/claim.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

/// What a capture waits for, and what it passes over.
struct CaptureOptions {
    ActionKind kind = ActionKind::button;  ///< of an axis: an axis; of a vector: a stick; of a button: anything pressed
    ButtonSet ignored{};                   ///< buttons that are never captured, such as those of the menu
    Button stop = controls::Escape;        ///< its press ends the capture without a result; no button: nothing does
    Duration limit{};                      ///< ends it without a result after this time; 0: none
    bool chords = false;                   ///< several buttons held together are a chord, known when one is released
    bool wheel = true;                     ///< a whole step of a wheel counts as a button
    /// How far an axis, or a stick from its centre, has to move from where it was at the start: a drifting or resting
    /// one never does. Raw for axes, shaped for sticks.
    double travel = 0.5;
    DeviceId device{};  ///< if not 0, only this device counts; else all devices of persons (Origin::person)
};

/// Captures the next control that a person moves, while the game runs. Make it when the player chooses an action, read
/// each frame with it until it is over, and bind the result:
///
///     std::optional<BindingCapture> capture;
///     …
///     if (actions[choose].pressed()) capture.emplace(actions, CaptureOptions{.limit = std::chrono::seconds{5}});
///     if (capture && capture->read(frame) != BindingCapture::State::waiting) {
///         if (const auto binding = capture->binding())
///             if (player.bind("crane.lock", 0, *binding, Settle::replace)) actions.rebind(player.profile());
///         capture.reset();
///     }
///
/// The control that started it does not count, since only presses do that come after its first frame, nor does whatever
/// is down, pushed or drifting then. Of an axis, the direction in which it is pushed becomes the positive one.
/// Threads: the same as its sampler's. Cost of a frame: proportional to its edges and axis events.
class CURSORUM_API BindingCapture {
public:
    enum class State : std::uint8_t { waiting, captured, stopped, timed_out };

    explicit BindingCapture(const CaptureOptions& options = {}) : options_{options} {}
    /// The same, and claims everything on that reader until it is over or destroyed, so that no action receives what
    /// the player presses for it. If all of the reader's claims are in use, it waits without one, and what the player
    /// presses reaches the actions, too. The reader must outlive it.
    explicit BindingCapture(ActionReader& reader, const CaptureOptions& options = {});
    ~BindingCapture() { end_claim(); }
    BindingCapture(const BindingCapture&) = delete;
    BindingCapture& operator=(const BindingCapture&) = delete;

    /// Reads a frame; the first one shows where everything is. Once it is over, nothing changes any more.
    State read(const Frame& frame);
    State state() const noexcept { return state_; }
    /// The result; nothing unless it is captured.
    std::optional<Binding> binding() const;
    /// The time that is left of the limit at the last frame's end; 0 without a limit.
    Duration time_left() const noexcept;

private:
    void read_buttons(const Frame& frame);
    void read_axes(const Frame& frame);
    void read_sticks(const Frame& frame);
    void end(State state) noexcept {
        state_ = state;
        end_claim();
    }
    void end_claim() noexcept;

    CaptureOptions options_;
    ActionReader* reader_ = nullptr;
    std::optional<ClaimId> claim_{};
    State state_ = State::waiting;
    bool has_begun_ = false;
    Time begin_{}, now_{};
    Binding binding_{};
    ButtonSet held_{};  // of a chord
    std::array<double, axis_kinds> axes_{};
    std::array<Vector2, stick_kinds> sticks_{};
};

}  // namespace cursorum
