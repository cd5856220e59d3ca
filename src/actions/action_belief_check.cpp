// Compares what an engine's own layer believes of actions with what the reader found, action by action. Each has a row
// (core/belief_row.hpp) that waits a few frames before it calls a difference one, since other layers may be a frame
// late.
#include "cursorum/actions/action_belief_check.hpp"

#include <algorithm>
#include <array>
#include <vector>

#include "core/belief_row.hpp"

namespace cursorum {

class ActionBeliefCheckCore {
public:
    struct Handled {
        ButtonAction action;
        BeliefRow row{};
    };
    struct Past {
        std::uint64_t serial = 0;
        Time end;
    };
    std::vector<Handled> handled;
    std::uint64_t count = 0;
    std::array<std::uint64_t, 5> counts{};  // by kind
    std::array<ActionBeliefFinding, ActionBeliefCheck::kept> findings{};
    std::array<Past, BeliefRow::patience + 2> past{};  // the last frames, the latest first
};

ActionBeliefCheck::ActionBeliefCheck(std::span<const ButtonAction> actions) : core_{new ActionBeliefCheckCore} {
    for (const ButtonAction action : actions) core_->handled.push_back({action});
}
ActionBeliefCheck::~ActionBeliefCheck() { delete core_; }

void ActionBeliefCheck::note(const ActionReader& reader, const Frame& frame,
                             std::span<const ActionBelief> beliefs) noexcept {
    ActionBeliefCheckCore& core = *core_;
    std::move_backward(core.past.begin(), core.past.end() - 1, core.past.end());
    core.past[0] = {frame.serial(), frame.end()};
    // A layer that reports releases of one action does so of all.
    const bool has_releases = std::any_of(beliefs.begin(), beliefs.end(),
                                          [](const ActionBelief& belief) { return belief.released.has_value(); });
    for (ActionBeliefCheckCore::Handled& it : core.handled) {
        BeliefRow::Said said{.reports_releases = has_releases};
        for (const ActionBelief& belief : beliefs)
            if (belief.action == it.action)
                said = {belief.pressed, belief.down, has_releases, belief.released.value_or(false)};
        it.row.look(reader[it.action].figures(), said, [&](const BeliefRow::Wrong& wrong) {
            const ActionBeliefCheckCore::Past& then = core.past[wrong.age];
            core.findings[core.count++ % kept] = {
                it.action, {wrong.kind, wrong.cause, Button{}, then.serial, then.end, wrong.of_release}};
            ++core.counts[static_cast<unsigned>(wrong.kind)];
        });
    }
}

std::uint64_t ActionBeliefCheck::count() const noexcept { return core_->count; }
std::uint64_t ActionBeliefCheck::count(BeliefFinding::Kind kind) const noexcept {
    return core_->counts[static_cast<unsigned>(kind)];
}
ActionBeliefFinding ActionBeliefCheck::finding(std::uint64_t number) const noexcept {
    return core_->findings[number % kept];
}

}  // namespace cursorum
