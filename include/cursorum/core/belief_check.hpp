// Compares what another input layer believed of each frame with what happened.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

/// What an engine's own input layer says of one frame.
struct Belief {
    ButtonSet pressed;  ///< that it takes for pressed in this frame
    ButtonSet down;     ///< that it takes for down at the frame's end
};

/// Something that the layer got wrong.
struct BeliefFinding {
    enum class Kind : std::uint8_t {
        lost,     ///< a press that it did not see
        doubled,  ///< a press that it saw once more
        made_up,  ///< a press that nobody made
        stuck,    ///< it believes that a button is down which is up
        unheld    ///< it believes that a button is up which is down
    };
    enum class Cause : std::uint8_t {
        within_frame,   ///< pressed and released, or released and pressed, between two cuts
        system_repeat,  ///< the system's key repeat came in that frame
        held,           ///< the button was down all the time
        found_down,     ///< it was found down at the start, or when the focus came
        cancelled,      ///< the focus was lost, a device unplugged, the program interrupted
        unknown
    };
    Kind kind{};
    Cause cause{};  ///< the most likely one
    Button button;
    std::uint64_t frame = 0;  ///< the number of the frame in which it went wrong, counted by note(), from 1
    Time time;                ///< that frame's end

    friend bool operator==(const BeliefFinding&, const BeliefFinding&) = default;
};
/// "lost", "doubled", "made_up", "stuck", "unheld".
CURSORUM_API std::string_view name_of(BeliefFinding::Kind kind) noexcept;
/// What probably went wrong, in a sentence.
CURSORUM_API std::string_view describe(const BeliefFinding& finding) noexcept;

/// Shows an engine what its own input layer loses, before it changes anything: post the same events into a timeline,
/// advance a sampler once per frame, and say what the layer believed of that frame.
///
///     BeliefCheck check{{KeyW, KeyA, KeyS, KeyD, Space}};
///     …
///     check.note(sampler.advance(Clock::now()), {.pressed = my_pressed_keys(), .down = my_keys_down()});
///     for (; seen < check.count(); ++seen) {
///         const BeliefFinding it = check.finding(seen);
///         log("frame %llu, %s: %s. %s", it.frame, name_of(it.button), name_of(it.kind), describe(it));
///     }
///
/// The layer need not cut its frames at the same times: what it says up to two frames earlier or later is taken for the
/// same. So a press is reported three frames after it went wrong, and a level when it has been wrong in three frames.
/// A layer that can say only once in a frame that a key was pressed loses the second press of two.
///
/// Memory: 13 KB; nothing allocates. Cost: one reading for each of the buttons that did something. Threads: the
/// sampler's.
class CURSORUM_API BeliefCheck {
public:
    /// `buttons`: those that the layer deals with; others are not looked at.
    explicit BeliefCheck(const ButtonSet& buttons) noexcept : buttons_{buttons} {}

    /// Compares one frame. Call it for each frame of one sampler, in order.
    void note(const Frame& frame, const Belief& belief) noexcept;

    /// The number of findings so far, and of one kind.
    std::uint64_t count() const noexcept { return count_; }
    std::uint64_t count(BeliefFinding::Kind kind) const noexcept { return counts_[static_cast<unsigned>(kind)]; }
    /// One of the last `kept` findings, by its number from 0. Precondition: `number` < count().
    BeliefFinding finding(std::uint64_t number) const noexcept { return findings_[number % kept]; }
    static constexpr unsigned kept = 128;

private:
    static constexpr unsigned patience = 2;
    struct Row {
        // By age in frames: presses that the layer has not said, and what it said that nobody pressed.
        std::array<std::uint8_t, patience + 1> presses{}, beliefs{};
        std::array<BeliefFinding::Cause, patience + 1> press_causes{}, belief_causes{};
        std::array<bool, patience + 1> doubled{};
        std::uint8_t wrong_for = 0;  // how long the level is believed to be another one
        bool is_wrong_down = false, is_reported = false;
        std::uint8_t since_repeat = 255, since_adopt = 255, since_cancel = 255;  // in frames
    };
    void look(Row& row, Button button, const Frame& frame, const Belief& belief) noexcept;
    void report(BeliefFinding::Kind kind, BeliefFinding::Cause cause, Button button, unsigned age) noexcept;

    ButtonSet buttons_, open_;  // what is not settled yet
    std::array<Row, button_capacity> rows_{};
    std::array<Time, patience + 2> ends_{};  // of the last frames
    std::uint64_t frame_ = 0, count_ = 0;
    std::array<std::uint64_t, 5> counts_{};
    std::array<BeliefFinding, kept> findings_{};
};

}  // namespace cursorum
