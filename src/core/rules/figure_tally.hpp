// From a button's edges to its figures: counts, holds, time down within the frame, repeats. Frames, batches, seats and
// actions feed it with the edges that they have.
#pragma once

#include <algorithm>
#include <cstdint>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/detail/frame_window.hpp"
#include "cursorum/core/repeat.hpp"

namespace cursorum {

/// Computes a button's figures from its edges, in order. The edges may be those of the merged button, of one device, of
/// any of several buttons, or of a player in a batch.
struct FigureTally {
    std::int64_t t0, t1;
    const Repeat* repeat;
    bool down;
    bool adopted;        // how the hold in progress began
    std::int64_t begun;  // when
    detail::FigureParts figures;

    FigureTally(std::int64_t from, std::int64_t to, const Repeat& setting, bool was_down, bool was_adopted,
                std::int64_t start) noexcept
        : t0{from}, t1{to}, repeat{&setting}, down{was_down}, adopted{was_adopted}, begun{start} {
        figures.was_down = was_down;
        figures.frame_length = Duration{t1 - t0};
    }

    void begin(std::int64_t time, bool by_adopt) noexcept {
        ++(by_adopt ? figures.adopt_count : figures.press_count);
        figures.any_edge = true;
        down = true;
        adopted = by_adopt;
        begun = time;
    }
    void end(std::int64_t time, bool by_cancel) noexcept {
        ++(by_cancel ? figures.cancel_count : figures.release_count);
        figures.any_edge = true;
        down = false;
        figures.held_for = Duration{time - begun};
        if (detail::is_persons_release(!by_cancel, adopted)) {
            figures.released = true;
            figures.released_after = figures.held_for;
        }
        add_hold(time, time - 1);  // no pulse at the very end
    }
    void system_repeat(std::uint32_t count = 1) noexcept { figures.system_repeat_count += count; }
    void apply(detail::Effect effect, std::int64_t time) noexcept {
        if (ends(effect)) end(time, effect != detail::Effect::release);
        if (starts(effect)) begin(time, effect == detail::Effect::adopt);
    }
    ButtonFigures finish() noexcept {
        if (down) {
            figures.held_for = Duration{t1 - begun};
            add_hold(t1, t1);
        }
        figures.down = down;
        if (repeat->cap != 0) figures.repeat_count = std::min<std::uint64_t>(figures.repeat_count, repeat->cap);
        return ButtonFigures{figures};
    }

private:
    void add_hold(std::int64_t until, std::int64_t last_pulse) noexcept {
        figures.down_span += Duration{until - std::max(begun, t0)};
        if (adopted || last_pulse <= t0 || last_pulse - begun < repeat->delay.count()) return;
        const Time press{Duration{begun}};
        figures.repeat_count += repeats_until(*repeat, press, Time{Duration{last_pulse}}) -
                                repeats_until(*repeat, press, Time{Duration{t0}});
    }
};

}  // namespace cursorum
