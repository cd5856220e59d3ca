#include "press_counts.hpp"

#include <algorithm>

#include "cursorum/why/action_explanation.hpp"

namespace cursorum::tool {
namespace {

// A press that waits in a buffer has fired already: only a game's own recording knows whether it was taken from there.
bool has_fired(Rule rule) {
    return rule == Rule::fired || rule == Rule::taken_from_buffer || rule == Rule::buffer_expired;
}

std::string in_words(const NamedVerdict& it) {
    if (has_fired(it.verdict.rule)) return "fired " + it.action;
    switch (it.verdict.rule) {
        case Rule::toggled_off: return "switched off " + it.action;
        case Rule::mode_closed: return "in a closed mode";
        case Rule::mode_covered: return "covered by " + it.mode;
        case Rule::taken_by_mode: return "taken by " + it.mode;
        case Rule::min_interval: return "within min_interval";
        default: break;
    }
    std::string words{name_of(it.verdict.rule)};
    std::replace(words.begin(), words.end(), '_', ' ');
    return words;
}

}  // namespace

void PressCounter::take(const Verdict& verdict) {
    if (!verdict.button || verdict.rule == Rule::adopted) return;
    const int weight = weight_of(verdict.rule);
    InWords& press = recent_[{verdict.time, verdict.button.number}];
    const bool fired = has_fired(verdict.rule);
    if (fired && press.has_fired)
        press.text += " and " + named(verdict, reader_).action;
    else if (fired || weight > press.weight)
        press = {weight, fired, in_words(named(verdict, reader_))};
}

void PressCounter::note(Button button, Outcome outcome) {
    ++counts_[std::string{name_of(button)}][outcome == Outcome::ignored ? "ignored without focus"
                                            : outcome == Outcome::press ? "skipped in a pause"
                                                                        : std::string{describe(outcome)}];
}

void PressCounter::count_until(Time time) {
    while (!recent_.empty() && recent_.begin()->first.first < time) {
        const auto& [press, words] = *recent_.begin();
        ++counts_[std::string{name_of(Button{press.second})}][words.text];
        recent_.erase(recent_.begin());
    }
}

}  // namespace cursorum::tool
