#include "cursorum/core/belief_check.hpp"

#include <algorithm>
#include <array>

#include "core/belief_row.hpp"

namespace cursorum {

using Kind = BeliefFinding::Kind;
using Cause = BeliefFinding::Cause;

/// What is not settled yet, and what was found.
class BeliefCheckCore {
public:
    explicit BeliefCheckCore(const ButtonSet& buttons) noexcept : buttons_{buttons} {}
    void note(const Frame& frame, const Belief& belief) noexcept;

    std::uint64_t count = 0;
    std::array<std::uint64_t, 5> counts{};  // by kind
    std::array<BeliefFinding, BeliefCheck::kept> findings{};

private:
    void report(const BeliefRow::Wrong& wrong, Button button) noexcept;

    ButtonSet buttons_, open_;  // `open_`: not settled yet
    std::array<BeliefRow, button_capacity> rows_{};
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
    ButtonSet looked_at = frame.active() | belief.pressed | belief.down | open_;
    if (belief.released) looked_at = looked_at | *belief.released;
    (looked_at & buttons_).for_each([&](Button button) {
        const BeliefRow::Said said{belief.pressed.contains(button), belief.down.contains(button),
                                   belief.released.has_value(), belief.released && belief.released->contains(button)};
        const bool is_open = rows_[button.number].look(frame[button].figures(), said,
                                                       [&](const BeliefRow::Wrong& wrong) { report(wrong, button); });
        open_.set(button, is_open);
    });
}

void BeliefCheckCore::report(const BeliefRow::Wrong& wrong, Button button) noexcept {
    const Past& then = past_[wrong.age];
    findings[count++ % findings.size()] = {wrong.kind, wrong.cause, button, then.serial, then.end, wrong.of_release};
    ++counts[static_cast<unsigned>(wrong.kind)];
}

BeliefCheck::BeliefCheck(const ButtonSet& buttons) : core_{new BeliefCheckCore{buttons}} {}
BeliefCheck::~BeliefCheck() { delete core_; }
void BeliefCheck::note(const Frame& frame, const Belief& belief) noexcept { core_->note(frame, belief); }
std::uint64_t BeliefCheck::count() const noexcept { return core_->count; }
std::uint64_t BeliefCheck::count(Kind kind) const noexcept { return core_->counts[static_cast<unsigned>(kind)]; }
BeliefFinding BeliefCheck::finding(std::uint64_t number) const noexcept { return core_->findings[number % kept]; }

}  // namespace cursorum
