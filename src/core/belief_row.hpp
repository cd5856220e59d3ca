// One button or action as another input layer sees it, compared with what happened: a small machine that pairs each
// believed edge with a real one, for a few frames.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <cstdlib>

#include "cursorum/core/belief_check.hpp"

namespace cursorum {

/// What is not settled yet of one button or action.
class BeliefRow {
public:
    static constexpr unsigned patience = 2;  ///< how many frames the layer may be early or late

    /// What the layer reports for one frame.
    struct Said {
        bool pressed = false, down = false, reports_releases = false, released = false;
    };
    struct Wrong {
        BeliefFinding::Kind kind{};
        BeliefFinding::Cause cause{};
        bool of_release = false;
        unsigned age = 0;  ///< how many frames ago
    };

    /// Compares one frame; calls `report(Wrong)` for what is now settled and wrong. Returns whether something is left
    /// to be settled, so that the next frame must be compared even if the button does nothing in it.
    template <typename Report>
    bool look(const ButtonFigures& f, const Said& said, Report&& report) noexcept {
        using Kind = BeliefFinding::Kind;
        using Cause = BeliefFinding::Cause;
        presses_.settle(false, report);
        if (said.reports_releases)
            releases_.settle(true, report);
        else
            releases_.settle(true, [](const Wrong&) {});
        const auto count_up = [](std::uint8_t& frames, bool now) {
            frames = now ? std::uint8_t{0} : static_cast<std::uint8_t>(std::min(frames + 1, 255));
        };
        count_up(since_repeat_, f.system_repeat_count() != 0);
        count_up(since_adopt_, f.adopt_count() != 0);
        count_up(since_cancel_, f.cancel_count() != 0);
        // Who lets go of what was only found down has released nothing: a layer may see it either way.
        count_up(since_odd_release_, f.release_count() != 0 && !f.released());
        const bool is_within = f.state() == ButtonState::blip || f.state() == ButtonState::dip || f.press_count() > 1;
        const bool is_near_adopt = since_adopt_ <= patience, was_there = f.down() || f.was_down();
        if (f.adopt_count() != 0) is_found_ = true;
        if (f.press_count() != 0) is_found_ = false;
        // A repeat that the system reports as a release and a press may lie on both sides of a cut.
        const bool is_repeat = since_repeat_ == 0 || (since_repeat_ == 1 && !said_down_before_);
        presses_.add(f.press_count(),
                     is_within                            ? Cause::within_frame
                     : said_down_before_ && !f.was_down() ? Cause::still_down
                                                          : Cause::unknown,
                     said.pressed,
                     is_near_adopt                           ? Cause::found_down
                     : is_repeat && !is_found_               ? Cause::system_repeat
                     : is_found_ && (was_there || is_repeat) ? Cause::found_down
                     : was_there                             ? Cause::held
                                                             : Cause::unknown,
                     !is_found_ && (is_repeat || (was_there && !is_near_adopt)));
        said_down_before_ = said.down;
        releases_.add(f.released() ? f.release_count() : 0, is_within ? Cause::within_frame : Cause::unknown,
                      said.released && since_odd_release_ > patience,
                      since_cancel_ <= patience ? Cause::cancelled
                      : f.down()                ? Cause::held
                                                : Cause::unknown,
                      false);
        const bool is_wrong = said.down != f.down();
        const bool is_same = is_wrong && wrong_for_ != 0 && is_wrong_down_ == said.down;  // else both have changed
        is_reported_ = is_reported_ && is_same;
        wrong_for_ = !is_wrong ? std::uint8_t{0}
                     : is_same ? static_cast<std::uint8_t>(std::min(wrong_for_ + 1, 255))
                               : std::uint8_t{1};
        is_wrong_down_ = said.down;
        if (wrong_for_ > patience && !is_reported_) {
            is_reported_ = true;
            report(Wrong{said.down ? Kind::stuck : Kind::unheld,
                         said.down && since_cancel_ <= patience   ? Cause::cancelled
                         : !said.down && since_adopt_ <= patience ? Cause::found_down
                                                                  : Cause::unknown,
                         false, patience});
        }
        return presses_.is_open() || releases_.is_open() || is_wrong || since_repeat_ <= patience ||
               since_adopt_ <= patience || since_cancel_ <= patience + 1 || since_odd_release_ <= patience;
    }

private:
    /// By age in frames: what happened that the layer has not reported, and what it reported that did not happen.
    struct Stream {
        using Counts = std::array<std::uint8_t, patience + 1>;
        Counts happened{}, said{};
        std::array<BeliefFinding::Cause, patience + 1> happened_causes{}, said_causes{};
        std::array<bool, patience + 1> doubled{};
        int usual_delay = 0;  ///< by how many frames the layer reports what happened later, as far as that is known

        // What found no counterpart in time.
        template <typename Report>
        void settle(bool of_release, Report&& report) noexcept {
            using Kind = BeliefFinding::Kind;
            while (happened.back() != 0 && pair_oldest(happened, said, 1)) {
            }
            while (said.back() != 0 && pair_oldest(said, happened, -1)) {
            }
            for (; happened.back() != 0; --happened.back())
                report(Wrong{Kind::lost, happened_causes.back(), of_release, patience + 1});
            for (; said.back() != 0; --said.back())
                report(Wrong{doubled.back() ? Kind::doubled : Kind::made_up, said_causes.back(), of_release,
                             patience + 1});
        }
        void add(std::uint32_t count, BeliefFinding::Cause cause, bool is_said, BeliefFinding::Cause said_cause,
                 bool is_doubled) noexcept {
            const auto age_by_one = [](auto& ages, auto first) {
                std::move_backward(ages.begin(), ages.end() - 1, ages.end());
                ages[0] = first;
            };
            age_by_one(happened, static_cast<std::uint8_t>(std::min(count, 255U)));
            age_by_one(happened_causes, cause);
            age_by_one(said, static_cast<std::uint8_t>(is_said));
            age_by_one(said_causes, said_cause);
            age_by_one(doubled, is_doubled);
            // What is as late as usual belongs together at once; the rest when it is known what else there is.
            for (int p = 0; p <= int{patience}; ++p) {
                const int b = p - usual_delay;
                if (b < 0 || b > int{patience}) continue;
                auto &one = happened[static_cast<unsigned>(p)], &other = said[static_cast<unsigned>(b)];
                for (; one != 0 && other != 0; --one) --other;
            }
        }
        /// One of the oldest with that among the others whose time is nearest to the usual one; false if there is none.
        bool pair_oldest(Counts& oldest, Counts& others, int sign) noexcept {
            int best = -1, best_off = 0;
            for (int age = 0; age <= int{patience}; ++age) {
                if (others[static_cast<unsigned>(age)] == 0) continue;
                const int off = std::abs(sign * (int{patience} - age) - usual_delay);
                if (best < 0 || off < best_off) best = age, best_off = off;
            }
            if (best < 0) return false;
            --oldest.back(), --others[static_cast<unsigned>(best)];
            // Nothing else could have been meant: the layer is as late as that.
            if (!is_open()) usual_delay = sign * (int{patience} - best);
            return true;
        }
        bool is_open() const noexcept {
            const auto any = [](const auto& ages) {
                return std::any_of(ages.begin(), ages.end(), [](unsigned n) { return n != 0; });
            };
            return any(happened) || any(said);
        }
    };

    Stream presses_, releases_;
    std::uint8_t wrong_for_ = 0;  // for how many frames its level has been wrong
    bool is_wrong_down_ = false, is_reported_ = false;
    bool said_down_before_ = false, is_found_ = false;  // the hold was adopted
    // In frames.
    std::uint8_t since_repeat_ = 255, since_adopt_ = 255, since_cancel_ = 255, since_odd_release_ = 255;
};

}  // namespace cursorum
