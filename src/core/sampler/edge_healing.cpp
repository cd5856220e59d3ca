// How a sampler gets its buttons without their history: the start of a new one, and healing after an overrun. What is
// down is taken from the inlet's present holds, going back through what came later.
#include <algorithm>
#include <array>

#include "core/controls/either_side.hpp"
#include "core/rules/merging.hpp"
#include "core/sampler/edge_taker.hpp"
#include "core/sampler/healing.hpp"

namespace cursorum {

using detail::Effect;
using detail::no_hold;
using detail::SamplerState;
using detail::Slot;
using detail::SlotKind;
using detail::What;

// The levels after the inlet's last event, or at an earlier position by undoing later slots.
void SamplerCore::start_at(unsigned number, std::int64_t start) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    detail::InletHistory::HoldsCopy& copy = healing_->copy;
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
        Slot& hold = copy.holds[detail::hold_of(slot.tag()) - inlet.numbers_.first_hold];
        if (slot.what().device_is_down()) {
            hold = slot.with_what(What::of(SlotKind::release, Effect::none, false, false));
            continue;
        }
        hold = slot.with_what(What::of(SlotKind::adopt, Effect::none, false, true));
        hold.time = start;
        guessed |= !find_beginning(inlet, position, hold);
    }
    state_.inlets[number].edges = position;
    state_.inlets[number].events = copy.events - undone_events;
    for (unsigned i = 0; i < inlet.numbers_.hold_room; ++i) settle(copy.holds[i]);
    if (guessed && !state_.merges) start_merging();
}

// When and how the hold that ends after `position` began, if the history still has it.
bool SamplerCore::find_beginning(const detail::InletHistory& inlet, std::uint64_t position, Slot& hold) const noexcept {
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        if (detail::hold_of(slot.tag()) != detail::hold_of(hold.tag()) || slot.button() != hold.button() ||
            !slot.what().device_is_down())
            continue;
        hold.time = slot.time;
        hold = hold.with_what(What::of(slot.what().kind(), Effect::none, false, true));
        return true;
    }
    return false;
}

void SamplerCore::settle(const Slot& hold) noexcept {
    if (!hold.is_held()) return;
    const bool pressed = hold.what().kind() == SlotKind::press;
    state_.holds[detail::hold_of(hold.tag())] = hold.without_extra();
    for_each_name(hold.button(), [&](std::uint16_t button) {
        std::uint64_t& levels = state_.levels[button / 64];
        const std::uint64_t mask = std::uint64_t{1} << (button % 64);
        HoldStart start{state_.start[button], state_.adopted[button]};
        start.add({hold.time, !pressed}, (levels & mask) == 0);
        state_.start[button] = start.time;
        state_.adopted[button] = start.adopted;
        levels |= mask;
    });
}

// Converts the known holds to the state, which must be committed.
void SamplerCore::start_merging() noexcept { start_merging(state_.holds); }

void SamplerCore::start_merging(const std::array<detail::Slot, no_hold + 1>& holds) noexcept {
    state_.merges = true;
    state_.holders = {};
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const bool pressed = holds[i].what().kind() == SlotKind::press;
        state_.hold_pressed[i] = pressed;
        if (!holds[i].is_held()) continue;
        for_each_name(holds[i].button(), [&](std::uint16_t button) {
            state_.holders[button] =
                static_cast<std::uint16_t>(state_.holders[button] + (pressed ? pressed_holder : adopted_holder));
        });
    }
}

void SamplerCore::heal(unsigned number, std::int64_t until) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    SamplerState& now = healing_->now;
    detail::InletHistory::HoldsCopy& copy = healing_->copy;
    if (!inlet.try_copy_holds(copy)) return;  // the next frame detects the overrun again
    detail::InletPosition& taken = state_.inlets[number];
    ++state_.overruns;
    state_.lost += copy.events - taken.events;
    taken.events = copy.events;
    taken.edges = copy.position;
    state_.effective = healing_time(number, until);

    now = state_;
    entries_.commit(now);
    start_merging(now.holds);
    healing_->count = 0;
    for (unsigned i = 0; i < inlet.numbers_.hold_room; ++i) {
        const unsigned hold = inlet.numbers_.first_hold + i;
        const detail::Slot& mine = now.holds[hold];
        const Slot& theirs = copy.holds[i];
        const bool same = mine.button() == theirs.button() && mine.device() == theirs.device();
        if (mine.is_held() && !(theirs.is_held() && same)) add_change(SlotKind::cancel, hold, mine);
        if (theirs.is_held() && !(mine.is_held() && same)) add_change(SlotKind::adopt, hold, theirs);
    }
    apply_changes(number, state_.effective);
}

void SamplerCore::add_change(SlotKind kind, unsigned hold, const Slot& of) noexcept {
    const detail::Device* const device = timeline_->device_numbered(of.device());
    const auto id = device ? static_cast<std::uint32_t>(device->id) : 0;
    healing_->changes[healing_->count++] = {
        std::uint64_t{kind == SlotKind::adopt} << 63 | std::uint64_t{id} << 16 | name_rank(Button{of.button()}),
        Slot::of(0, detail::make_tag(hold, detail::is_virtual(of.tag()), 0), of.button(), of.device(),
                 What::of(kind, Effect::none, false, false))};
}

// The cancels and adopts that a sampler makes while healing, all at one time.
void SamplerCore::apply_changes(unsigned number, std::int64_t time) noexcept {
    const auto begin = healing_->changes.begin(), end = begin + healing_->count;
    std::sort(begin, end, [](const auto& a, const auto& b) { return a.order < b.order; });
    state_.effective = std::max(state_.effective, time);
    detail::Taking taking{state_, entries_, state_.inlets[number]};
    for (auto at = begin; at != end && taking.count + 2 <= entries_.records.size(); ++at) {
        for_each_name(at->slot.button(), [&](std::uint16_t button) {
            Slot slot = Slot::of(time, at->slot.tag(), button, at->slot.device(), at->slot.what());
            taking.apply<true, true>(slot);
        });
    }
    taking.finish();
}

// When the present of an inlet that was overrun is taken: at the cut (or when another inlet's event is next),
// or at its last event, if that is earlier. Never before what was taken already, so never outside the frame.
std::int64_t SamplerCore::healing_time(unsigned number, std::int64_t until) const noexcept {
    const std::int64_t latest = std::min(until, nanoseconds(timeline_->inlet(number).latest()));
    return std::max({state_.effective, state_.t0, latest});
}

}  // namespace cursorum
