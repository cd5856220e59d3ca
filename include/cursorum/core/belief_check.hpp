// Compares what another input layer believed of each frame with what happened.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

/// What an engine's own input layer reports for one frame.
struct Belief {
    ButtonSet pressed;  ///< buttons that it reports as pressed in this frame
    ButtonSet down;     ///< buttons that it reports as down at the frame's end
    /// Buttons that it reports as released in this frame. Absent if it does not report releases: then none is missed.
    std::optional<ButtonSet> released{};

    friend bool operator==(const Belief&, const Belief&) = default;
};

class BeliefCheckCore;

/// Something that the layer got wrong.
struct BeliefFinding {
    enum class Kind : std::uint8_t {
        lost,     ///< it missed a press, or a release
        doubled,  ///< it reported a press again
        made_up,  ///< it reported a press, or a release, that nobody made
        stuck,    ///< it reports a button as down that is up
        unheld    ///< it reports a button as up that is down
    };
    enum class Cause : std::uint8_t {
        within_frame,   ///< pressed and released, or released and pressed, between two cuts
        system_repeat,  ///< the system's key repeat came in that frame
        held,           ///< the button was down all the time
        found_down,     ///< it was found down at the start, or when the focus came
        cancelled,      ///< the focus was lost, a device unplugged, the program interrupted
        still_down,     ///< the layer had it down all the time, though it was up before
        shared_flag,    ///< it reports the same as another button does: they share a flag
        unknown
    };
    Kind kind{};
    Cause cause{};  ///< the most likely one
    Button button;
    std::uint64_t frame = 0;  ///< Frame::serial() of the frame in which it went wrong
    Time time;                ///< the end of that frame
    bool of_release = false;  ///< of lost and made_up: it is about a release; else about a press

    friend bool operator==(const BeliefFinding&, const BeliefFinding&) = default;
};
/// "lost", "doubled", "made_up", "stuck", "unheld".
CURSORUM_API std::string_view name_of(BeliefFinding::Kind kind) noexcept;
/// What probably went wrong, in a sentence.
CURSORUM_API std::string_view describe(const BeliefFinding& finding) noexcept;

/// Shows an engine what its own input layer loses, before it changes anything: post the same events into a timeline,
/// advance a sampler once per frame, and report what the layer believed about that frame.
///
///     BeliefCheck check{{KeyW, KeyA, KeyS, KeyD, Space}};
///     …
///     check.note(sampler.advance(Clock::now()), {.pressed = my_pressed_keys(), .down = my_keys_down()});
///     for (; seen < check.count(); ++seen) {
///         const BeliefFinding it = check.finding(seen);
///         log("frame %llu, %s: %s. %s", it.frame, name_of(it.button), name_of(it.kind), describe(it));
///     }
///
/// The layer may cut its frames at other times: what it reports up to two frames earlier or later counts as the same.
/// So a finding about a press comes three frames after it went wrong, and one about a level when it has been wrong in
/// three frames in a row. A layer that can report a key as pressed only once in a frame loses the second press of two.
///
/// Each button needs a report of its own. If several set one flag, as KeyW and ArrowUp both set `forward`, the flag is
/// an action: compare it with ActionBeliefCheck (cursorum/actions/action_belief_check.hpp). Here such buttons make one
/// finding each, whose cause is `shared_flag`, and are ignored from then on.
///
/// Memory: 38 KB, allocated by the constructor. Cost of note(): one reading for each button that did something in the
/// frame or shortly before. Threads: the sampler's.
class CURSORUM_API BeliefCheck {
public:
    /// `buttons`: those that the layer handles; all others are ignored.
    explicit BeliefCheck(const ButtonSet& buttons);
    ~BeliefCheck();
    BeliefCheck(const BeliefCheck&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    BeliefCheck& operator=(const BeliefCheck&) = delete;

    /// Compares one frame. Call it for each frame of one sampler, in order.
    void note(const Frame& frame, const Belief& belief) noexcept;

    /// The number of findings so far, and of one kind.
    std::uint64_t count() const noexcept;
    std::uint64_t count(BeliefFinding::Kind kind) const noexcept;
    /// One of the last `kept` findings, by its number from 0. Precondition: `number` < count().
    BeliefFinding finding(std::uint64_t number) const noexcept;
    static constexpr unsigned kept = 128;

private:
    BeliefCheckCore* core_;
};

}  // namespace cursorum
