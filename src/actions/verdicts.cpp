// Why a press did not reach a binding: which mode or claim has it instead, or what its chord lacks.
#include "actions/verdicts.hpp"

#include <algorithm>
#include <array>

#include "actions/edges.hpp"
#include "core/controls/either_side.hpp"

namespace cursorum {

using detail::Owner;

std::string_view name_of(Rule rule) noexcept {
    static constexpr std::array<std::string_view, rule_count> names{"fired",
                                                                    "toggled_off",
                                                                    "already_down",
                                                                    "adopted",
                                                                    "unbound",
                                                                    "mode_closed",
                                                                    "mode_covered",
                                                                    "taken_by_mode",
                                                                    "taken_by_claim",
                                                                    "owner_ended",
                                                                    "longer_chord",
                                                                    "chord_incomplete",
                                                                    "chord_out_of_order",
                                                                    "not_up_since_bound",
                                                                    "debounced",
                                                                    "min_interval",
                                                                    "too_long",
                                                                    "too_short",
                                                                    "too_late",
                                                                    "first_of_two",
                                                                    "cancelled",
                                                                    "paused"};
    return static_cast<unsigned>(rule) < rule_count ? names[static_cast<unsigned>(rule)] : std::string_view{};
}

namespace detail {

void Verdicts::begin_now(std::int64_t time, Button button, bool by_person) {
    present_ = Verdict{};
    present_->time = present_->since = Time{Duration{time}};
    present_->button = button;
    if (!by_person) present_->rule = Rule::adopted;
}

void Verdicts::decide_now(Rule rule, ModeHandle mode, std::uint16_t by) {
    if (!present_ || (present_->rule == Rule::adopted && rule != Rule::adopted)) return;
    Verdict verdict = *present_;
    verdict.rule = rule;
    verdict.mode = mode;
    verdict.by = by;
    sink_->take(verdict);
}

void Verdicts::decide_since(Rule rule, std::int64_t since) {
    if (!present_) return;
    present_->since = Time{Duration{since}};
    decide_now(rule, {}, no_action);
    present_->since = present_->time;
}

void Verdicts::wait_now(Wait wait) {
    if (present_ && present_->rule != Rule::adopted) waiting_.push_back({*present_, wait});
}

void Verdicts::decide_what_waits(std::uint16_t action, Wait wait, Rule rule) {
    while (auto verdict = take_waiting(action, wait)) {
        verdict->rule = rule;
        sink_->take(*verdict);
    }
}

std::optional<Verdict> Verdicts::take_waiting(std::uint16_t action, Wait wait) {
    for (auto it = waiting_.begin(); it != waiting_.end(); ++it)
        if (it->verdict.action == action && it->wait == wait) {
            const Verdict verdict = it->verdict;
            waiting_.erase(it);
            return verdict;
        }
    return std::nullopt;
}

}  // namespace detail

// Before the press changes anything: the bindings that do not get it. Those of its owner's mode decide by themselves.
void ActionReaderCore::judge_others(Button button, std::uint8_t owner) {
    const auto mode_above = [&](std::uint8_t its_mode) -> ModeHandle {
        // The lowest of the visible modes covers those below it.
        for (unsigned i = 0; i < state_.now.count; ++i)
            if (detail::has_mode(state_.visible, state_.now.modes[i])) return {state_.now.modes[i], numbering_};
        return {its_mode, numbering_};
    };
    const bool is_claims = owner >= Owner::first_claim && owner != Owner::owner_ended;
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        if (it.owner == owner) continue;
        const auto mode = static_cast<std::uint8_t>(it.owner - Owner::first_mode);
        const auto end = state_.now.modes.begin() + state_.now.count;
        verdicts_.at(it.action, it.number);
        const ModeHandle owning = Owner::is_mode(owner)
                                      ? ModeHandle{static_cast<std::uint8_t>(owner - Owner::first_mode), numbering_}
                                      : ModeHandle{};
        if (std::find(state_.now.modes.begin(), end, mode) == end)
            verdicts_.decide(Rule::mode_closed, owning);
        else if (is_claims)
            verdicts_.decide(Rule::taken_by_claim);
        else if (!detail::has_mode(state_.visible, mode))
            verdicts_.decide(Rule::mode_covered, mode_above(mode));
        else if (Owner::is_mode(owner))
            verdicts_.decide(Rule::taken_by_mode, owning);
        else
            verdicts_.decide(Rule::owner_ended);
    }
    if (map_->switches_of(button).empty() && is_unbound(button)) {
        verdicts_.at(no_action, 0);
        verdicts_.decide(Rule::unbound);
    }
}

// An either-side name and its key are one press, and what is made of an axis is bound as an axis, too.
bool ActionReaderCore::is_unbound(Button button) const noexcept {
    if (button.number >= first_either_side) return false;
    const unsigned name = either_side_of(button.number);
    return name == 0 || map_->switches_of({static_cast<std::uint16_t>(name)}).empty();
}

// The bindings of the owner's mode that the press does not complete.
void ActionReaderCore::judge_chords(Button button, std::uint8_t owner) {
    const ButtonSet down{state_.down};
    std::uint16_t longest = 0, by = no_action;
    detail::Chords::for_each_completed(*this, button, owner, [&](unsigned number) {
        longest = map_->switches[number].member_count;
        by = map_->switches[number].action;
    });
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        if (it.owner != owner) continue;
        const ActionSwitch& its = map_->switches[it.number];
        verdicts_.at(it.action, it.number);
        ActionSwitch in_any_order = its;
        in_any_order.in_order = false;
        if (state_.switches[it.number].is_down)
            verdicts_.decide(Rule::already_down);
        else if (state_.has_stale_members(it.number))
            verdicts_.decide(Rule::not_up_since_bound);
        else if (!detail::Chords::are_down(*this, in_any_order, owner, down))
            verdicts_.decide(Rule::chord_incomplete);
        else if (!detail::Chords::are_down(*this, its, owner, down))
            verdicts_.decide(Rule::chord_out_of_order);
        else if (its.member_count < longest)
            verdicts_.decide(Rule::longer_chord, {}, by);
    }
}

}  // namespace cursorum
