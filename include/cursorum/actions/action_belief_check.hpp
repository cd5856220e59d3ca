// Compares what another layer believed of each frame's actions with what an action reader made of it.
#pragma once

#include <cstdint>
#include <initializer_list>
#include <optional>
#include <span>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

class ActionBeliefCheckCore;

/// What an engine's own layer reports of one action for one frame.
struct ActionBelief {
    ButtonAction action;
    bool pressed = false;
    bool down = false;  ///< at the frame's end
    /// Absent if the layer does not report releases: then none is missed.
    std::optional<bool> released{};
};

/// Something that the layer got wrong, as BeliefFinding.
struct ActionBeliefFinding {
    ButtonAction action;
    BeliefFinding what;  ///< its `button` is not used

    friend bool operator==(const ActionBeliefFinding&, const ActionBeliefFinding&) = default;
};

/// BeliefCheck for the actions of a profile that binds the same controls as the engine's own layer does:
///
///     ActionBeliefCheck check{{lock, horn}};
///     …
///     actions.read(sampler.advance(Clock::now()));
///     const ActionBelief beliefs[] = {{lock, my_lock_pressed(), my_lock_down()}, {horn, my_horn_pressed(),
///     my_horn_down()}}; check.note(actions, sampler.frame(), beliefs); for (; seen < check.count(); ++seen)
///     log(describe(check.finding(seen).what));
///
/// What counts as the same is as for BeliefCheck. Memory: 5 KB and 40 bytes for each action, allocated by the
/// constructor. Threads: the reader's.
class CURSORUM_API ActionBeliefCheck {
public:
    /// `actions`: button actions that the layer handles.
    explicit ActionBeliefCheck(std::span<const ButtonAction> actions);
    ActionBeliefCheck(std::initializer_list<ButtonAction> actions)
        : ActionBeliefCheck{std::span{actions.begin(), actions.size()}} {}
    ~ActionBeliefCheck();
    ActionBeliefCheck(const ActionBeliefCheck&) = delete;
    ActionBeliefCheck& operator=(const ActionBeliefCheck&) = delete;

    /// Compares one frame, which the reader has read. Call it for each frame, in order. An action that `beliefs` does
    /// not have is taken for idle; one that the layer does not handle is ignored.
    void note(const ActionReader& reader, const Frame& frame, std::span<const ActionBelief> beliefs) noexcept;

    /// As of BeliefCheck.
    std::uint64_t count() const noexcept;
    std::uint64_t count(BeliefFinding::Kind kind) const noexcept;
    /// Precondition: `number` < count().
    ActionBeliefFinding finding(std::uint64_t number) const noexcept;
    static constexpr unsigned kept = BeliefCheck::kept;

private:
    ActionBeliefCheckCore* core_;
};

}  // namespace cursorum
