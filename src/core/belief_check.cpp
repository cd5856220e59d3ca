#include "cursorum/core/belief_check.hpp"

#include <algorithm>
#include <array>

namespace cursorum {

/// What is not settled yet, and what was found.
class BeliefCheckCore {
public:
    explicit BeliefCheckCore(const ButtonSet& buttons) noexcept : buttons_{buttons} {}
    void note(const Frame& frame, const Belief& belief) noexcept;

    std::uint64_t count = 0;
    std::array<std::uint64_t, 5> counts{};  // by kind
    std::array<BeliefFinding, BeliefCheck::kept> findings{};

private:
    static constexpr unsigned patience = 2;  // how many frames the layer may be early or late
    struct Row {
        // By age in frames: presses that the layer has not reported, and what it reported that nobody pressed.
        std::array<std::uint8_t, patience + 1> presses{}, beliefs{};
        std::array<BeliefFinding::Cause, patience + 1> press_causes{}, belief_causes{};
        std::array<bool, patience + 1> doubled{};
        std::uint8_t wrong_for = 0;  // for how many frames its level has been wrong
        bool is_wrong_down = false, is_reported = false;
        std::uint8_t since_repeat = 255, since_adopt = 255, since_cancel = 255;  // in frames
    };
    struct Past {
        std::uint64_t serial = 0;
        Time end;
    };
    void look(Row& row, Button button, const Frame& frame, const Belief& belief) noexcept;
    void report(BeliefFinding::Kind kind, BeliefFinding::Cause cause, Button button, unsigned age) noexcept;

    ButtonSet buttons_, open_;  // `open_`: not settled yet
    std::array<Row, button_capacity> rows_{};
    std::array<Past, patience + 2> past_{};  // the last frames, the latest first
};

using Kind = BeliefFinding::Kind;
using Cause = BeliefFinding::Cause;

std::string_view name_of(Kind kind) noexcept {
    constexpr std::string_view names[] = {"lost", "doubled", "made_up", "stuck", "unheld"};
    return names[static_cast<unsigned>(kind)];
}

std::string_view describe(const BeliefFinding& finding) noexcept {
    switch (finding.kind) {
        case Kind::lost:
            return finding.cause == Cause::within_frame
                       ? "It was pressed and released between two frames: comparing levels does not see it."
                       : "The press was gone before the frame looked: a flag was cleared, or another consumer "
                         "read it.";
        case Kind::doubled:
            return finding.cause == Cause::system_repeat
                       ? "The system's key repeat was taken for a press."
                       : "The same press was seen again: a flag was not cleared, or the previous state not saved.";
        case Kind::made_up:
            return finding.cause == Cause::found_down
                       ? "The key was found down, at the start or when the focus came: nobody pressed it."
                       : "Nobody pressed it while the window had the focus.";
        case Kind::stuck:
            return finding.cause == Cause::cancelled
                       ? "The focus was lost, a device unplugged or the program "
                         "interrupted: no release comes after that."
                       : "It is up: its release was not seen, or it went down without the focus.";
        case Kind::unheld:
            return finding.cause == Cause::found_down
                       ? "It is down: it was found so, at the start or when the focus came."
                       : "It is down, and nothing has released it.";
    }
    return {};
}

void BeliefCheckCore::note(const Frame& frame, const Belief& belief) noexcept {
    std::move_backward(past_.begin(), past_.end() - 1, past_.end());
    past_[0] = {frame.serial(), frame.end()};
    const ButtonSet looked_at = (frame.active() | belief.pressed | belief.down | open_) & buttons_;
    looked_at.for_each([&](Button button) { look(rows_[button.number], button, frame, belief); });
}

void BeliefCheckCore::look(Row& row, Button button, const Frame& frame, const Belief& belief) noexcept {
    const ButtonFigures f = frame[button].figures();
    const auto age_by_one = [](auto& ages, auto first) {
        std::move_backward(ages.begin(), ages.end() - 1, ages.end());
        ages[0] = first;
    };
    // What found no counterpart in time is settled.
    for (; row.presses.back() != 0; --row.presses.back())
        report(Kind::lost, row.press_causes.back(), button, patience + 1);
    for (; row.beliefs.back() != 0; --row.beliefs.back())
        report(row.doubled.back() ? Kind::doubled : Kind::made_up, row.belief_causes.back(), button, patience + 1);
    const auto count_up = [](std::uint8_t& frames, bool now) {
        frames = now ? std::uint8_t{0} : static_cast<std::uint8_t>(std::min(frames + 1, 255));
    };
    count_up(row.since_repeat, f.system_repeat_count() != 0);
    count_up(row.since_adopt, f.adopt_count() != 0);
    count_up(row.since_cancel, f.cancel_count() != 0);
    const bool is_within = f.state() == ButtonState::blip || f.state() == ButtonState::dip || f.press_count() > 1;
    age_by_one(row.presses, static_cast<std::uint8_t>(std::min(f.press_count(), 255U)));
    age_by_one(row.press_causes, is_within ? Cause::within_frame : Cause::unknown);
    const bool is_believed = belief.pressed.contains(button);
    age_by_one(row.beliefs, static_cast<std::uint8_t>(is_believed));
    const bool is_near_adopt = row.since_adopt <= patience;
    const bool was_there = f.down() || f.was_down();
    age_by_one(row.belief_causes, row.since_repeat == 0 ? Cause::system_repeat
                                  : is_near_adopt       ? Cause::found_down
                                  : was_there           ? Cause::held
                                                        : Cause::unknown);
    age_by_one(row.doubled, row.since_repeat == 0 || (was_there && !is_near_adopt));
    // The oldest first: the layer may report a press late or early.
    for (unsigned p = patience + 1; p-- > 0;)
        for (unsigned b = patience + 1; b-- > 0;)
            while (row.presses[p] != 0 && row.beliefs[b] != 0) --row.presses[p], --row.beliefs[b];
    const bool is_down = belief.down.contains(button);
    const bool is_wrong = is_down != f.down();
    const bool is_same = is_wrong && row.wrong_for != 0 && row.is_wrong_down == is_down;  // else both have changed
    row.is_reported = row.is_reported && is_same;
    row.wrong_for = !is_wrong ? std::uint8_t{0}
                    : is_same ? static_cast<std::uint8_t>(std::min(row.wrong_for + 1, 255))
                              : std::uint8_t{1};
    row.is_wrong_down = is_down;
    if (row.wrong_for > patience && !row.is_reported) {
        row.is_reported = true;
        report(is_down ? Kind::stuck : Kind::unheld,
               is_down && row.since_cancel <= patience   ? Cause::cancelled
               : !is_down && row.since_adopt <= patience ? Cause::found_down
                                                         : Cause::unknown,
               button, patience);
    }
    const auto any = [](const auto& ages) {
        return std::any_of(ages.begin(), ages.end(), [](unsigned n) { return n != 0; });
    };
    const bool is_recent =
        row.since_repeat <= patience || row.since_adopt <= patience || row.since_cancel <= patience + 1;
    open_.set(button, any(row.presses) || any(row.beliefs) || is_wrong || is_recent);
}

void BeliefCheckCore::report(Kind kind, Cause cause, Button button, unsigned age) noexcept {
    // `age`: how many frames ago.
    findings[count++ % findings.size()] = {kind, cause, button, past_[age].serial, past_[age].end};
    ++counts[static_cast<unsigned>(kind)];
}

BeliefCheck::BeliefCheck(const ButtonSet& buttons) : core_{new BeliefCheckCore{buttons}} {}
BeliefCheck::~BeliefCheck() { delete core_; }
void BeliefCheck::note(const Frame& frame, const Belief& belief) noexcept { core_->note(frame, belief); }
std::uint64_t BeliefCheck::count() const noexcept { return core_->count; }
std::uint64_t BeliefCheck::count(Kind kind) const noexcept { return core_->counts[static_cast<unsigned>(kind)]; }
BeliefFinding BeliefCheck::finding(std::uint64_t number) const noexcept { return core_->findings[number % kept]; }

}  // namespace cursorum
