#include "press_fates.hpp"

#include "cursorum/core/controls.hpp"

namespace cursorum::tool {

std::string PressFates::text_of(const Verdict& verdict) const {
    const std::string action = reader_.name_of(ButtonAction{verdict.action, reader_.numbering()});
    const std::string mode{reader_.name_of(verdict.mode)};
    switch (verdict.rule) {
        case Rule::fired: return "fired " + action;
        case Rule::toggled_off: return "switched off " + action;
        case Rule::already_down: return "while " + action + " was down";
        case Rule::adopted: return "adopted";
        case Rule::unbound: return "bound to nothing";
        case Rule::mode_closed: return "in a mode that was not open";
        case Rule::mode_covered: return "covered by " + mode;
        case Rule::taken_by_mode: return "taken by " + mode;
        case Rule::taken_by_claim: return "taken by a claim";
        case Rule::owner_ended: return "ended with its mode or claim";
        case Rule::longer_chord: return "part of a longer chord";
        case Rule::chord_incomplete: return "part of a chord that was not complete";
        case Rule::chord_out_of_order: return "out of a chord's order";
        case Rule::not_up_since_bound: return "not up since it was bound";
        case Rule::debounced: return "debounced";
        case Rule::min_interval: return "within min_interval";
        case Rule::too_long: return "too long for a tap";
        case Rule::too_short: return "too short for a long press";
        case Rule::too_late: return "too late for a double tap";
        case Rule::first_of_two: return "first of a double tap";
        case Rule::cancelled: return "cancelled";
        case Rule::paused: return "ended by a pause";
    }
    return {};
}

void PressFates::take(const Verdict& verdict) {
    if (!verdict.button || verdict.rule == Rule::adopted) return;
    const bool counts =
        verdict.rule == Rule::fired || verdict.rule == Rule::toggled_off || verdict.rule == Rule::first_of_two;
    const bool is_elsewhere = verdict.rule == Rule::mode_closed || verdict.rule == Rule::chord_incomplete;
    const int rank = counts ? 3 : is_elsewhere ? 1 : 2;
    Fate& fate = recent_[{verdict.time, verdict.button.number}];
    if (rank == 3 && fate.rank == 3 && verdict.rule == Rule::fired)
        fate.text += ", " + reader_.name_of(ButtonAction{verdict.action, reader_.numbering()});
    else if (rank > fate.rank)
        fate = {rank, text_of(verdict)};
}

void PressFates::note(Button button, Outcome outcome) {
    const char* const text = outcome == Outcome::ignored        ? "ignored without focus"
                             : outcome == Outcome::stray_device ? "of a device that was not connected"
                             : outcome >= Outcome::refused_devices && outcome <= Outcome::refused_contacts ? "refused"
                                                                                                           : nullptr;
    if (text) ++counts_[std::string{name_of(button)}][text];
}

void PressFates::count_until(Time time) {
    while (!recent_.empty() && recent_.begin()->first.first < time) {
        const auto& [press, fate] = *recent_.begin();
        ++counts_[std::string{name_of(Button{press.second})}][fate.text];
        recent_.erase(recent_.begin());
    }
}

}  // namespace cursorum::tool
