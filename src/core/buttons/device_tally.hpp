// A button's figures on some of the devices: their holds are merged once more, as the frame merges all of them, and
// their edges are counted by the same tally.
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "core/buttons/edge_ring.hpp"
#include "core/rules/figure_tally.hpp"
#include "core/rules/merging.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// The holders of a merged button: add the holds at the frame's start first, then the frame's edges.
class HolderTally {
public:
    /// `adopted_at`: the consumer found the button down then, regardless of when and how it was pressed.
    void add_hold(const detail::Slot& hold, std::optional<std::int64_t> adopted_at = std::nullopt) noexcept {
        const bool by_press = hold.what().kind() == detail::SlotKind::press && !adopted_at;
        const std::int64_t since = adopted_at.value_or(hold.time);
        start_.add({since, !by_press}, holders_ == 0);
        holders_ = static_cast<Holders>(holders_ + (by_press ? pressed_holder : adopted_holder));
        set_pressed(detail::hold_of(hold.tag()), by_press);
    }
    /// The effect of a hold's edge on the merged button.
    detail::Effect apply(detail::SlotKind kind, unsigned hold) noexcept {
        const detail::Effect effect = merge(holders_, kind, is_pressed(hold));
        set_pressed(hold, kind == detail::SlotKind::press);
        return effect;
    }
    bool is_held() const noexcept { return holders_ != 0; }
    /// At the frame's start, if it is held then.
    const HoldStart& start() const noexcept { return start_; }

private:
    bool is_pressed(unsigned hold) const noexcept { return (pressed_[hold / 64] >> hold % 64 & 1) != 0; }
    void set_pressed(unsigned hold, bool pressed) noexcept {
        const std::uint64_t mask = std::uint64_t{1} << hold % 64;
        pressed_[hold / 64] = pressed ? pressed_[hold / 64] | mask : pressed_[hold / 64] & ~mask;
    }

    Holders holders_ = 0;
    std::array<std::uint64_t, hold_capacity / 64> pressed_{};  // the holds that began with a press
    HoldStart start_;
};

/// Add the holds at the frame's start first, then call start(), then add the frame's records in order.
class DeviceTally {
public:
    void add_hold(const detail::Slot& hold, std::optional<std::int64_t> adopted_at = std::nullopt) noexcept {
        holders_.add_hold(hold, adopted_at);
    }
    void start(std::int64_t t0, std::int64_t t1, const Repeat& repeat) noexcept {
        tally_.emplace(t0, t1, repeat, holders_.is_held(), holders_.start().adopted, holders_.start().time);
    }
    /// `time`: the effective time.
    void take(const detail::StoredEdge& record, std::int64_t time) noexcept {
        const detail::SlotKind kind = record.what().kind();
        if (kind == detail::SlotKind::system_repeat) {
            tally_->system_repeat();
            return;
        }
        if (kind <= detail::SlotKind::cancel) apply(kind, detail::hold_of(record.tag()), time);
    }
    void apply(detail::SlotKind kind, unsigned hold, std::int64_t time) noexcept {
        tally_->apply(holders_.apply(kind, hold), time);
    }
    ButtonFigures finish() noexcept { return tally_->finish(); }

private:
    HolderTally holders_;
    std::optional<FigureTally> tally_;
};

}  // namespace cursorum
