// Compares what another input layer says of each frame with what was posted. A difference counts only after a few
// frames, when no later frame explains it; the last findings are kept, and all of them are counted by kind.
#include "cursorum/core/belief_check.hpp"

#include <algorithm>
#include <array>

#include "core/belief_row.hpp"

namespace cursorum {

using Kind = BeliefFinding::Kind;
using Cause = BeliefFinding::Cause;

/// Comparisons that are still open, and the findings.
class BeliefCheckCore {
public:
    explicit BeliefCheckCore(const ButtonSet& buttons) noexcept : buttons_{buttons} {}
    void note(const Frame& frame, const Belief& belief) noexcept;

    std::uint64_t count = 0;
    std::array<std::uint64_t, 5> counts{};  // by kind
    std::array<BeliefFinding, BeliefCheck::kept> findings{};

private:
    static BeliefRow::Said said_of(const Belief& belief, Button button) noexcept;
    void report(BeliefRow::Wrong wrong, Button button, const Frame& frame) noexcept;
    bool shares_flag(Button button, std::uint64_t serial, const Frame& frame) noexcept;

    ButtonSet buttons_, open_;  // `open_`: not settled yet
    std::array<BeliefRow, button_capacity> rows_{};
    std::array<std::uint64_t, button_capacity> all_said_{};  // a hash of all reports about each button
    std::array<std::array<std::uint64_t, 2>, button_capacity> last_presses_{};  // in which frames
    struct Past {
        std::uint64_t serial = 0;
        Time end;
    };
    std::array<Past, BeliefRow::patience + 2> past_{};  // the last frames, the latest first
};

std::string_view name_of(Kind kind) noexcept {
    constexpr std::string_view names[] = {"lost", "doubled", "made_up", "stuck", "unheld"};
    return names[static_cast<unsigned>(kind)];
}

std::string_view describe(const BeliefFinding& finding) noexcept {
    if (finding.cause == Cause::shared_flag)
        return "Another button is always reported in the same way: they share one flag. Such a flag is an action: "
               "compare it with ActionBeliefCheck.";
    if (finding.of_release)
        return finding.kind == Kind::lost
                   ? (finding.cause == Cause::within_frame ? "It was released within a frame in which it was also "
                                                             "pressed: comparing levels does not see it."
                                                           : "The release was gone before the frame looked.")
                   : (finding.cause == Cause::cancelled
                          ? "The focus was lost, a device unplugged or the program interrupted: nobody let go of it."
                      : finding.cause == Cause::held ? "It was down all the time."
                                                     : "Nobody released it.");
    switch (finding.kind) {
        case Kind::lost:
            return finding.cause == Cause::within_frame
                       ? "It was pressed and released between two frames: comparing levels does not see it."
                   : finding.cause == Cause::still_down
                       ? "It was pressed while the layer still had it down: comparing levels does not see it."
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
    const std::uint64_t serial = frame.serial() + 1;  // 0 is never
    past_[0] = {serial, frame.end()};
    ButtonSet looked_at = frame.active() | belief.pressed | belief.down | open_;
    if (belief.released) looked_at = looked_at | *belief.released;
    (belief.pressed | belief.down).for_each([&](Button button) {
        std::uint64_t& said = all_said_[button.number];
        const std::uint64_t now = serial * 4 + 2 * belief.pressed.contains(button) + belief.down.contains(button);
        said = (said ^ now) * 0x9E37'79B9'7F4A'7C15 + 1;
    });
    frame.all_pressed().for_each([&](Button button) {
        auto& last = last_presses_[button.number];
        last = {serial, last[0]};
    });
    (looked_at & buttons_).for_each([&](Button button) {
        const bool is_open =
            rows_[button.number].look(frame[button].figures(), said_of(belief, button),
                                      [&](const BeliefRow::Wrong& wrong) { report(wrong, button, frame); });
        open_.set(button, is_open);
    });
}

BeliefRow::Said BeliefCheckCore::said_of(const Belief& belief, Button button) noexcept {
    return {belief.pressed.contains(button), belief.down.contains(button), belief.released.has_value(),
            belief.released && belief.released->contains(button)};
}

// Whether another button was always said to be the same, and was pressed at that time, or is down, while this one was
// not. Both are ignored from now on.
bool BeliefCheckCore::shares_flag(Button button, std::uint64_t serial, const Frame& frame) noexcept {
    const auto& own = last_presses_[button.number];
    const auto is_pressed_alone = [&](Button one) {
        const auto& last = last_presses_[one.number];
        return std::any_of(last.begin(), last.end(), [&](std::uint64_t at) {
            return at != 0 && at + BeliefRow::patience >= serial && at <= serial + BeliefRow::patience &&
                   std::find(own.begin(), own.end(), at) == own.end();
        });
    };
    Button other{};
    buttons_.for_each([&](Button one) {
        if (one != button && all_said_[one.number] == all_said_[button.number] &&
            (is_pressed_alone(one) || (frame[one].down() && !frame[button].down())))
            other = one;
    });
    if (!other || all_said_[button.number] == 0) return false;
    buttons_.erase(other);
    return true;
}

void BeliefCheckCore::report(BeliefRow::Wrong wrong, Button button, const Frame& frame) noexcept {
    if (!buttons_.contains(button)) return;
    const Past& then = past_[wrong.age];
    const bool may_share = !wrong.of_release && (wrong.kind == Kind::made_up || wrong.kind == Kind::stuck ||
                                                 wrong.cause == Cause::still_down);
    if (may_share && shares_flag(button, then.serial, frame)) {
        wrong.cause = Cause::shared_flag;
        buttons_.erase(button);
    }
    findings[count++ % findings.size()] = {wrong.kind,      wrong.cause, button,
                                           then.serial - 1, then.end,    wrong.of_release};
    ++counts[static_cast<unsigned>(wrong.kind)];
}

BeliefCheck::BeliefCheck(const ButtonSet& buttons) : core_{new BeliefCheckCore{buttons}} {}
BeliefCheck::~BeliefCheck() { delete core_; }
void BeliefCheck::note(const Frame& frame, const Belief& belief) noexcept { core_->note(frame, belief); }
std::uint64_t BeliefCheck::count() const noexcept { return core_->count; }
std::uint64_t BeliefCheck::count(Kind kind) const noexcept { return core_->counts[static_cast<unsigned>(kind)]; }
BeliefFinding BeliefCheck::finding(std::uint64_t number) const noexcept { return core_->findings[number % kept]; }

}  // namespace cursorum
