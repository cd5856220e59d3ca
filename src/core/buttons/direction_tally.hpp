// Combines the edges of four buttons and the deflections of a stick into one direction, from moment to moment, and sums
// it for the exact mean over a frame.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>

#include "core/buttons/edge_ring.hpp"
#include "core/rules/shaping_formulas.hpp"
#include "cursorum/core/direction_reading.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// The holds of each direction, on any device, and the stick. Add the state at the frame's start first, then call
/// start(), then add changes in order of time. Changes at one time count together.
class DirectionTally {
public:
    DirectionTally(const DirectionButtons& buttons, std::int64_t t0, std::int64_t t1) noexcept
        : sides_{keys_of(buttons.left), keys_of(buttons.right), keys_of(buttons.up), keys_of(buttons.down)},
          opposed_{buttons.opposed},
          t0_{t0},
          t1_{t1},
          at_{t0} {}

    /// All buttons of the four directions, as physical keys.
    ButtonSet wanted() const noexcept { return sides_[left] | sides_[right] | sides_[up] | sides_[down]; }

    /// A hold began (by a press or an adopt) or ended.
    void add(Button button, unsigned hold, std::int64_t time) noexcept {
        is_known_ = false;
        for (std::uint8_t side = 0; side < 4; ++side)
            if (sides_[side].contains(button) && count_ < holds_.size()) {
                holds_[count_++] = {time, static_cast<std::uint16_t>(hold), side};
                ++counts_[side];
            }
    }
    void remove(unsigned hold) noexcept {
        is_known_ = false;
        for (unsigned i = count_; i-- > 0;)
            if (holds_[i].hold == hold) {
                --counts_[holds_[i].side];
                holds_[i] = holds_[--count_];
            }
    }
    void set_stick(Vector2 value) noexcept {
        is_known_ = false;
        stick_ = value;
    }

    void start() noexcept { reading_.before = value(); }
    /// A device's edge, with its effective time.
    void take(const detail::StoredEdge& record, std::int64_t time) noexcept {
        if (record.what().kind() > detail::SlotKind::cancel) return;
        go_on(time);
        if (record.what().device_is_down())
            add({record.button()}, detail::hold_of(record.tag()), time);
        else
            remove(detail::hold_of(record.tag()));
    }
    void take(Vector2 stick, std::int64_t time) noexcept {
        go_on(time);
        set_stick(stick);
    }
    DirectionReading finish() noexcept {
        go_on(t1_);
        reading_.now = value();
        if (const auto length = static_cast<double>(t1_ - t0_); length > 0)
            reading_.mean = {sum_.x / length, sum_.y / length};
        note_facing();
        if (reading_.facing != Vector2{}) reading_.facing = unit_of(reading_.facing);
        return reading_;
    }

private:
    enum Side : std::uint8_t { left, right, up, down };
    struct Hold {
        std::int64_t time;
        std::uint16_t hold;
        std::uint8_t side;
    };

    static ButtonSet keys_of(const ButtonSet& buttons) noexcept {
        ButtonSet keys;
        buttons.for_each([&keys](Button button) { keys = keys | physical_buttons(button); });
        return keys;
    }
    static double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }
    static Vector2 unit_of(Vector2 v) noexcept {
        const double length = std::sqrt(square(v));
        return {v.x / length, v.y / length};
    }

    // The value lasts until then. A direction of zero duration does not count.
    void go_on(std::int64_t time) noexcept {
        if (time <= at_) return;
        const Vector2 v = value();
        const auto span = static_cast<double>(time - at_);
        sum_ = {sum_.x + v.x * span, sum_.y + v.y * span};
        note_facing();
        at_ = time;
    }
    void note_facing() noexcept {
        if (const Vector2 v = value(); v != Vector2{}) reading_.facing = v;
    }

    // The beginning of a side's newest or oldest hold.
    std::int64_t deciding_time(Side side) const noexcept {
        const bool wants_last = opposed_ == WhenOpposed::last;
        std::int64_t deciding = wants_last ? INT64_MIN : INT64_MAX;
        for (unsigned i = 0; i < count_; ++i)
            if (holds_[i].side == side)
                deciding = wants_last ? std::max(deciding, holds_[i].time) : std::min(deciding, holds_[i].time);
        return deciding;
    }
    double along(Side minus, Side plus) const noexcept {
        if (counts_[minus] == 0 || counts_[plus] == 0 || opposed_ == WhenOpposed::neutral)
            return (counts_[plus] != 0) - (counts_[minus] != 0);
        const std::int64_t of_minus = deciding_time(minus), of_plus = deciding_time(plus);
        return (opposed_ == WhenOpposed::last ? of_plus >= of_minus : of_plus <= of_minus) ? 1 : -1;
    }
    Vector2 value() noexcept {
        if (is_known_) return value_;
        const Vector2 buttons = detail::at_most_one({along(left, right), along(up, down)});
        // Buttons that point somewhere have length 1, and no stick is longer.
        value_ = buttons != Vector2{} ? buttons : stick_;
        is_known_ = true;
        return value_;
    }

    std::array<ButtonSet, 4> sides_;
    WhenOpposed opposed_;
    std::int64_t t0_, t1_, at_;
    std::array<unsigned, 4> counts_{};
    unsigned count_ = 0;
    Vector2 stick_, value_, sum_;
    bool is_known_ = false;
    DirectionReading reading_;
    std::array<Hold, hold_capacity> holds_;  // `count_` are in use
};

}  // namespace cursorum
