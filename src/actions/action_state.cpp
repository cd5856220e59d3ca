// The state of an action reader as plain bytes: a head that every profile needs, and one block with a column for each
// property of actions, switches and sources, as large as the profile needs.
#include "actions/action_state.hpp"

#include <cstring>

namespace cursorum::detail {

ActionState::ActionState(StateCounts counts)
    : block_size_{lay_out(nullptr, counts)}, block_{std::make_unique<std::byte[]>(block_size_)} {
    lay_out(block_.get(), counts);
}

// From the largest alignment to the smallest.
template <typename Visitor, typename... States>
void ActionState::for_each_of_actions(Visitor&& visit, States&... of) {
    visit(of.moving...), visit(of.injected...), visit(of.buttons...);
    visit(of.since...), visit(of.buffered_since...), visit(of.passed_at...);
    visit(of.waits...), visit(of.is_on...), visit(of.holds_press...), visit(of.injected_down...);
    visit(of.has_passed...), visit(of.passed_down...), visit(of.bindings_down...);
}

// From the largest alignment to the smallest, so that nothing is lost between them.
std::size_t ActionState::lay_out(std::byte* block, StateCounts counts) noexcept {
    std::size_t end = 0;
    const auto add = [&](auto& column, std::size_t count) { end = column.lay_out(block, end, count); };
    add(sources, counts.sources);
    // At least one row, for the readings of unknown actions.
    for_each_of_actions([&](auto& column) { add(column, std::max<std::size_t>(counts.actions, 1)); }, *this);
    add(switches, counts.switches);
    add(stale_members, counts.switches);
    add(latest, counts.sources);
    add(stale_sources, counts.sources);
    add(pressers, counts.keys);
    return end;
}

void ActionState::take_actions_of(const ActionState& other) noexcept {
    static_cast<ActionStateHead&>(*this) = other;
    std::copy(other.pressers.begin(), other.pressers.begin() + std::min(other.pressers.size(), pressers.size()),
              pressers.begin());
    for_each_of_actions([](auto& to, const auto& from) { std::copy(from.begin(), from.end(), to.begin()); }, *this,
                        other);
}

void ActionState::write(std::byte* bytes) const noexcept {
    std::memcpy(bytes, static_cast<const ActionStateHead*>(this), sizeof(ActionStateHead));
    std::memcpy(bytes + sizeof(ActionStateHead), block_.get(), block_size_);
}

void ActionState::read(const std::byte* bytes) noexcept {
    std::memcpy(static_cast<void*>(static_cast<ActionStateHead*>(this)), bytes, sizeof(ActionStateHead));
    std::memcpy(block_.get(), bytes + sizeof(ActionStateHead), block_size_);
}

}  // namespace cursorum::detail
