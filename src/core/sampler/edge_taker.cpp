// How a sampler finds its buttons without their history: when it starts, when it heals after an overrun, and when a
// pause ends. It copies the inlet's current holds, and undoes the slots that came after the time that it needs.
#include "core/sampler/edge_taker.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include "core/controls/either_side.hpp"
#include "core/rules/merging.hpp"

namespace cursorum::detail {

bool EdgeTaker::take_some_merging(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t stop,
                                  std::int64_t limit, BeforeLate& before) noexcept {
    return take_some<true, false>(of, inlet, number, stop, limit, before);
}

bool EdgeTaker::take_some_after_gap(FrameContext& of, const InletHistory& inlet, unsigned number, std::uint64_t stop,
                                    std::int64_t limit, BeforeLate& before) noexcept {
    return of.state_.merges ? take_some<true, true>(of, inlet, number, stop, limit, before)
                            : take_some<false, true>(of, inlet, number, stop, limit, before);
}

bool EdgeTaker::make_room(FrameContext& of) noexcept {
    if (!of.growing_) return false;
    of.entries_.make_room(of.entries_.room * 2, of.entries_.stamp_room * 2, of.healing_room());
    return true;
}

// The levels after the inlet's last event, or at an earlier position by undoing later slots.
void EdgeTaker::start_at(FrameContext& of, unsigned number, std::int64_t start) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    InletHistory::HoldsCopy& copy = of.healing_->copy;
    if (!inlet.try_copy_holds(copy)) return;  // the first frame heals
    std::uint64_t position = copy.position, undone_events = 0;
    bool guessed = false;
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        // Times increase from slot to slot, except for `late` slots, which belong to the slot after them.
        const SlotKind kind = slot.what().kind();
        if (kind != SlotKind::late && slot.time <= start) break;
        undone_events += slot.what().is_first();
        position = at - 1;
        if (kind > SlotKind::cancel || slot.button() >= first_either_side) continue;
        Slot& hold = copy.holds[hold_of(slot.tag()) - inlet.numbers_.first_hold];
        if (slot.what().device_is_down()) {
            hold = slot.with_what(What::of(SlotKind::release, Effect::none, false, false));
            continue;
        }
        hold = slot.with_what(What::of(SlotKind::adopt, Effect::none, false, true));
        hold.time = start;
        guessed |= !find_beginning(inlet, position, hold);
    }
    of.state_.inlets[number].edges = position;
    of.state_.inlets[number].events = copy.events - undone_events;
    for (unsigned i = 0; i < inlet.numbers_.hold_room; ++i) settle(of, copy.holds[i]);
    if (guessed && !of.state_.merges) start_merging(of);
}

// When and how the hold that ends after `position` began, if the history still has it.
bool EdgeTaker::find_beginning(const InletHistory& inlet, std::uint64_t position, Slot& hold) noexcept {
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        if (hold_of(slot.tag()) != hold_of(hold.tag()) || slot.button() != hold.button() ||
            !slot.what().device_is_down())
            continue;
        hold.time = slot.time;
        hold = hold.with_what(What::of(slot.what().kind(), Effect::none, false, true));
        return true;
    }
    return false;
}

void EdgeTaker::settle(FrameContext& of, const Slot& hold) noexcept {
    if (!hold.is_held()) return;
    const bool pressed = hold.what().kind() == SlotKind::press;
    of.state_.holds[hold_of(hold.tag())] = hold.without_extra();
    for_each_name(hold.button(), [&](std::uint16_t button) {
        std::uint64_t& levels = of.state_.levels[button / 64];
        const std::uint64_t mask = std::uint64_t{1} << (button % 64);
        HoldStart start{of.state_.start[button], of.state_.adopted[button]};
        start.add({hold.time, !pressed}, (levels & mask) == 0);
        of.state_.start[button] = start.time;
        of.state_.adopted[button] = start.adopted;
        levels |= mask;
    });
}

// Converts the known holds to the state, which must be committed.
void EdgeTaker::start_merging(FrameContext& of) noexcept { start_merging(of, of.state_.holds); }

void EdgeTaker::start_merging(FrameContext& of, const std::array<Slot, no_hold + 1>& holds) noexcept {
    of.state_.merges = true;
    of.state_.holders = {};
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const bool pressed = holds[i].what().kind() == SlotKind::press;
        of.state_.hold_pressed[i] = pressed;
        if (!holds[i].is_held()) continue;
        for_each_name(holds[i].button(), [&](std::uint16_t button) {
            of.state_.holders[button] =
                static_cast<std::uint16_t>(of.state_.holders[button] + (pressed ? pressed_holder : adopted_holder));
        });
    }
}

void EdgeTaker::heal(FrameContext& of, unsigned number, std::int64_t until) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    SamplerState& now = of.healing_->now;
    InletHistory::HoldsCopy& copy = of.healing_->copy;
    if (!inlet.try_copy_holds(copy)) return;  // the next frame detects the overrun again
    InletPosition& taken = of.state_.inlets[number];
    ++of.state_.overruns;
    of.state_.lost += copy.events - taken.events;
    taken.events = copy.events;
    taken.edges = copy.position;
    of.state_.effective = of.healing_time(number, until);

    now = of.state_;
    of.entries_.commit(now);
    start_merging(of, now.holds);
    of.healing_->count = 0;
    for (unsigned i = 0; i < inlet.numbers_.hold_room; ++i) {
        const unsigned hold = inlet.numbers_.first_hold + i;
        const Slot& mine = now.holds[hold];
        const Slot& theirs = copy.holds[i];
        const bool same = mine.button() == theirs.button() && mine.device() == theirs.device();
        if (mine.is_held() && !(theirs.is_held() && same)) add_change(of, SlotKind::cancel, hold, mine);
        if (theirs.is_held() && !(mine.is_held() && same)) add_change(of, SlotKind::adopt, hold, theirs);
    }
    apply_changes(of, number, of.state_.effective);
}

void EdgeTaker::add_change(const FrameContext& of, SlotKind kind, unsigned hold, const Slot& slot) noexcept {
    const Device* const device = of.timeline_->device_numbered(slot.device());
    const auto id = device ? static_cast<std::uint32_t>(device->id) : 0;
    of.healing_->changes[of.healing_->count++] = {
        std::uint64_t{kind == SlotKind::adopt} << 63 | std::uint64_t{id} << 16 | name_rank(Button{slot.button()}),
        Slot::of(0, make_tag(hold, is_virtual(slot.tag()), 0), slot.button(), slot.device(),
                 What::of(kind, Effect::none, false, false))};
}

// The cancels and adopts that a sampler makes while healing, all at one time.
void EdgeTaker::apply_changes(FrameContext& of, unsigned number, std::int64_t time) noexcept {
    const auto begin = of.healing_->changes.begin(), end = begin + of.healing_->count;
    std::sort(begin, end, [](const auto& a, const auto& b) { return a.order < b.order; });
    of.state_.effective = std::max(of.state_.effective, time);
    Taking taking{of.state_, of.entries_, of.state_.inlets[number]};
    for (auto at = begin; at != end && taking.count + 2 <= of.entries_.records.size(); ++at) {
        for_each_name(at->slot.button(), [&](std::uint16_t button) {
            Slot slot = Slot::of(time, at->slot.tag(), button, at->slot.device(), at->slot.what());
            taking.apply<true, true>(slot);
        });
    }
    taking.finish();
}

void EdgeTaker::end_skip(FrameContext& of, std::int64_t to) noexcept {
    SamplerState& before = of.healing_->now;
    auto& after = of.healing_->copy.holds;
    before = of.state_;
    of.entries_.commit(before);
    std::copy_n(before.holds.begin(), after.size(), after.begin());
    const std::uint32_t all = std::exchange(of.entries_.count, skipped_from_);
    before = of.state_;
    of.entries_.commit(before);
    for (std::uint32_t i = all; i > of.entries_.count; --i)
        of.entries_.last[of.entries_.records[i - 1].button()] = of.entries_.record_links[i - 1];
    of.entries_.stamp_count = skipped_stamps_from_;
    start_merging(of, before.holds);
    of.entries_.skip_at = skipped_from_;
    of.healing_->count = 0;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        if (before.holds[i].is_held()) add_change(of, SlotKind::cancel, i, before.holds[i]);
        if (after[i].is_held()) add_change(of, SlotKind::adopt, i, after[i]);
    }
    apply_changes(of, 0, to);
}

}  // namespace cursorum::detail
