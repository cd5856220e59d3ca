// Verdicts: names of rules, what waits for the rest of a gesture, and the bindings that a press does not reach.
#include "actions/verdicts.hpp"

#include <array>

#include "actions/edges.hpp"
#include "actions/ownership.hpp"
#include "core/controls/either_side.hpp"

namespace cursorum {

std::string_view name_of(Rule rule) noexcept {
    static constexpr std::array<std::string_view, rule_count> names{"fired",
                                                                    "taken_from_buffer",
                                                                    "buffer_expired",
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
                                                                    "elsewhere",
                                                                    "not_up_since_bound",
                                                                    "debounced",
                                                                    "min_interval",
                                                                    "too_long",
                                                                    "too_short",
                                                                    "too_late",
                                                                    "first_of_two",
                                                                    "cancelled",
                                                                    "paused",
                                                                    "other_seat"};
    return static_cast<unsigned>(rule) < rule_count ? names[static_cast<unsigned>(rule)] : std::string_view{};
}

namespace detail {

void Verdicts::begin_now(std::int64_t time, Button button, bool by_person) {
    present_ = Verdict{};
    present_->time = present_->since = Time{Duration{time}};
    present_->button = button;
    if (button) present_->device = device_;
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

// As before, but for what it waits for: a press that begins a gesture waits in the buffer afterwards.
void Verdicts::wait_on(std::uint16_t action, Wait from, Wait to) {
    for (Waiting& it : waiting_)
        if (it.verdict.action == action && it.wait == from) it.wait = to;
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

// A press that the reader does not receive at all.
void ActionReaderCore::decide_for_all(Rule rule, DeviceId device, Button button, std::int64_t time) {
    verdicts_.from(device);
    verdicts_.begin(time, button, true);
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        verdicts_.at(it.action, it.number);
        verdicts_.decide(rule);
    }
    verdicts_.end();
    verdicts_.from({});
}

// Before the press changes anything: the bindings that do not get it. Those of its owner's mode decide by themselves.
void ActionReaderCore::decide_for_others(Button button, std::uint8_t owner) {
    std::optional<std::uint8_t> by;
    for (const ButtonSwitch& it : map_->switches_of(button)) {
        if (it.owner == owner) continue;
        verdicts_.at(it.action, it.number);
        const Rule rule = detail::Ownership::rule_against(
            *this, static_cast<std::uint8_t>(it.owner - detail::Owner::first_mode), owner, by);
        verdicts_.decide(rule, by ? ModeHandle{*by, numbering_} : ModeHandle{});
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

}  // namespace cursorum
