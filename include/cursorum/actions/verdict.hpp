// Verdicts: what an action reader made of each press, by which rule.
#pragma once

#include <cstdint>
#include <string_view>
#include <vector>

#include "cursorum/actions/profile.hpp"
#include "cursorum/core/control.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Why a press had the effect that it had, or none. docs/rules.md has the rules themselves.
enum class Rule : std::uint8_t {
    fired,               ///< the action was pressed by it; an axis or vector takes it into account
    taken_from_buffer,   ///< the action was pressed by it, and consume_press() took that press in time
    buffer_expired,      ///< the action was pressed by it, and its buffer ended before consume_press() took it
    toggled_off,         ///< a toggle was released by it
    already_down,        ///< another binding of the action was down: a second one adds no press
    adopted,             ///< it was found down instead of pressed: nothing fires
    unbound,             ///< no action has a binding with this button
    mode_closed,         ///< the binding's mode was not open; `mode`, if any, got it
    mode_covered,        ///< the binding's mode was covered by `mode`
    taken_by_mode,       ///< `mode`, which lies above, binds it too
    taken_by_claim,      ///< a claim keeps it
    owner_ended,         ///< the mode or claim that had its press has ended, or was covered, before it could count
    longer_chord,        ///< it completed a longer chord, of the action `by`
    chord_incomplete,    ///< the other members of its chord were not down
    chord_out_of_order,  ///< they went down in another order
    elsewhere,           ///< the pointer was outside the action's area, or inside the one that it must be outside of
    not_up_since_bound,  ///< it was down when it was bound, and has not been up since
    debounced,           ///< too soon after the edge at `since`, and up again before that was over
    min_interval,        ///< too soon after the press at `since`
    too_long,            ///< it began a tap at `since`, and lasted too long
    too_short,           ///< it began a long press at `since`, and ended too early
    too_late,            ///< it began a double tap at `since`, and the second press came too late
    first_of_two,        ///< it began a double tap at `since`, which the next press completed
    cancelled,           ///< it began a gesture at `since`, and was cancelled: by focus, a mode, a claim
    paused,              ///< it began a gesture at `since`, and a pause ended that
    other_seat,          ///< its device, or its half of a keyboard, does not belong to the seat that the reader reads
};
inline constexpr unsigned rule_count = static_cast<unsigned>(Rule::other_seat) + 1;

/// "already_down" and so on.
CURSORUM_API std::string_view name_of(Rule rule) noexcept;

/// What a rule decided about one press for one binding. A press gets exactly one verdict for each binding that names
/// its button, or a single one with the rule `unbound`. The verdict on a press that begins a gesture is written when
/// the gesture is decided, and that on a press that waits in a buffer when it is taken, or at the first read() after it
/// can no longer be; a press that is still waiting has none yet. A button that was found down gets verdicts only
/// from the bindings that adopt it.
struct Verdict {
    Time time;                 ///< of the press
    Time since;                ///< when the time that the rule measures began; equal to `time` if it measures none
    Button button;             ///< 0 if a wheel, a lock, a value beyond a threshold, or a bot pressed the action
    DeviceId device{};         ///< the device whose button it is; 0 if a mode or a claim handed it over, or no button
    std::uint16_t action = 0;  ///< the action's number, as in its handles; no_action if the rule is `unbound`
    /// The reader's number of the binding; distinguishes the bindings of one action.
    std::uint16_t binding = 0;
    Rule rule{};
    ModeHandle mode{};             ///< with mode_closed, mode_covered and taken_by_mode
    std::uint16_t by = no_action;  ///< with longer_chord: the number of that chord's action

    static constexpr std::uint16_t by_bot = 0xFFFF;  ///< the binding of injected input
    friend constexpr bool operator==(const Verdict&, const Verdict&) = default;
};

/// Takes verdicts while frames are read: see ActionReader::set_verdict_sink().
class CURSORUM_API VerdictSink {
public:
    virtual void take(const Verdict& verdict) = 0;

protected:
    VerdictSink() = default;
    VerdictSink(const VerdictSink&) = default;
    VerdictSink& operator=(const VerdictSink&) = default;
    ~VerdictSink() = default;
};

/// A sink that keeps all verdicts. Clear it before each read() to have those of one frame.
class CURSORUM_API VerdictList final : public VerdictSink {
public:
    void take(const Verdict& verdict) override { all.push_back(verdict); }
    std::vector<Verdict> all;
};

}  // namespace cursorum
