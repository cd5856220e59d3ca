#include "cursorum/core/sampler.hpp"

#include <algorithm>
#include <cassert>
#include <utility>

#include "core/either_side.hpp"
#include "core/merging.hpp"

namespace cursorum {

using detail::Effect;
using detail::no_hold;
using detail::Record;
using detail::SamplerState;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// Healing may end and start every hold, each with a record for an either-side name.
constexpr std::size_t healing_records = 4 * hold_capacity;

}  // namespace

Sampler::Sampler(const Timeline& timeline, const SamplerOptions& options)
    : timeline_{&timeline}, frame_{timeline, state_, entries_}, growing_{options.growing} {
    const std::size_t room = timeline.desk().ring_.capacity() + healing_records;
    entries_.records.resize(room);
    entries_.holds.resize(room);
    state_.repeats[0] = options.repeat.is_valid() ? options.repeat : Repeat{};
    start_at(std::clamp(nanoseconds(options.start), nanoseconds(earliest_time), nanoseconds(latest_time)));
}

const Frame& Sampler::advance(Time cut) noexcept {
    if (!open_) open_frame();
    open_ = false;
    const std::int64_t t1 = nanoseconds(cut);
    if (t1 < state_.t1 || cut > latest_time) {
        ++state_.went_back;
        return frame_;
    }
    take(t1);
    state_.t1 = t1;
    return frame_;
}

void Sampler::gather(Time until) noexcept {
    if (!growing_) return;  // a frame of more than the history has room only if it may grow
    if (!open_) open_frame();
    open_ = true;
    if (until >= Time{Duration{state_.t1}} && until <= latest_time) take(nanoseconds(until));
}

void Sampler::open_frame() noexcept {
    entries_.commit(state_);
    entries_.clear();
    state_.effective = std::max(state_.effective, state_.t0);
}

Sampler::State Sampler::save() const noexcept {
    assert(!open_ && "a frame is in the making: save at a cut");
    State saved;
    saved.state = state_;
    entries_.commit(saved.state);
    return saved;
}

void Sampler::restore(const State& saved) noexcept {
    state_ = saved.state;
    entries_.clear();
    open_ = false;
}

bool Sampler::set_repeat(const Repeat& repeat) noexcept {
    if (!repeat.is_valid()) return false;
    state_.repeats[0] = repeat;
    return true;
}

bool Sampler::set_repeat(Button button, const Repeat& repeat) noexcept {
    if (!repeat.is_valid() || name_of(button).empty()) return false;
    // A setting in use, the button's own if it is alone with it, or a free one.
    std::array<bool, detail::repeat_settings> used{};
    used[0] = true;
    for (unsigned i = 0; i < button_capacity; ++i)
        if (i != button.number) used[state_.repeat_of[i]] = true;
    unsigned place = 0;
    for (unsigned i = 1; i < detail::repeat_settings; ++i) {
        if (used[i] && state_.repeats[i] == repeat) {
            place = i;
            break;
        }
        if (!used[i] && place == 0) place = i;
    }
    if (place == 0) return false;
    state_.repeats[place] = repeat;
    state_.repeat_of[button.number] = static_cast<std::uint8_t>(place);
    return true;
}

SamplerCounters Sampler::counters() const noexcept {
    return {state_.taken, state_.late, state_.lost, state_.overruns, state_.went_back};
}

// ---- taking events

namespace {

/// The part of a sampler that changes with every event, in registers while events are taken.
struct Taking {
    SamplerState& state;
    detail::FrameEntries& entries;
    Record* const records = entries.records.data();
    std::uint16_t* const holds = entries.holds.data();
    std::uint32_t* const last = entries.last.data();
    const std::uint32_t base = entries.base;
    std::uint32_t count = entries.count;
    std::int64_t effective = state.effective;
    std::uint64_t events = 0, late = 0;

    void finish() const noexcept {
        entries.count = count;
        state.effective = effective;
        state.events += events;
        state.taken += events;
        state.late += late;
    }

    /// `merges`: by the sampler's own knowledge of the holds, instead of the inlet's.
    template <bool merges>
    void apply(Slot slot) noexcept {
        const What what = slot.what();
        events += what.is_first();
        late += slot.time < effective ? what.is_first() : 0;
        effective = std::max(slot.time, effective);
        if (what.kind() >= SlotKind::plain) return;
        if constexpr (merges) slot = merged_again(slot);
        slot.time = effective;
        holds[count] = static_cast<std::uint16_t>(slot.low());
        records[count] = slot.with_low(std::exchange(last[slot.button()], base + count));
        ++count;
    }

private:
    Slot merged_again(const Slot& slot) noexcept {
        const What what = slot.what();
        std::uint16_t& holders = state.holders[slot.button()];
        bool& hold_pressed = state.hold_pressed[slot.low()];
        const Effect effect = merge(holders, what.kind(), hold_pressed);
        // An either-side name's slot comes first and leaves the hold as it was.
        if (slot.button() < first_either_side) hold_pressed = what.kind() == SlotKind::press;
        return slot.with_what(What::of(what.kind(), effect, what.is_first(), is_held(holders)));
    }
};

}  // namespace

void Sampler::take(std::int64_t until) noexcept {
    const std::uint64_t end = timeline_->desk().ring_.published();
    bool on = true;
    while (on && state_.position != end) {
        if (entries_.count + healing_records >= entries_.records.size() && !make_room()) return heal(until);
        on = state_.merges ? take_some<true>(until, end) : take_some<false>(until, end);
    }
}

// As many as there is room for; false if it met a later one, or had to heal.
template <bool merges>
bool Sampler::take_some(std::int64_t until, std::uint64_t end) noexcept {
    const detail::SlotRing& ring = timeline_->desk().ring_;
    std::uint64_t position = state_.position;
    const std::uint64_t stop = std::min(end, position + entries_.records.size() - healing_records - entries_.count);
    bool overrun = false, later = false;
    Taking taking{state_, entries_};
    for (; position != stop; ++position) {
        Slot slot;
        overrun = !ring.try_read(position, slot);
        later = slot.time > until;
        if (overrun | later) break;
        taking.apply<merges>(slot);
    }
    taking.finish();
    state_.position = position;
    if (overrun) heal(until);
    return !(overrun | later);
}

bool Sampler::make_room() noexcept {
    if (!growing_) return false;
    entries_.records.resize(entries_.records.size() * 2);
    entries_.holds.resize(entries_.records.size());
    return true;
}

void detail::FrameEntries::commit(SamplerState& state) const noexcept {
    const Record* const entries = records.data();
    const std::uint16_t* const their_holds = holds.data();
    for (std::uint32_t i = 0; i < count; ++i) {
        const Record record = entries[i];
        const What what = record.what();
        const unsigned button = record.button(), shift = button % 64;
        const bool by_adopt = what.effect() == Effect::adopt, by_press = what.presses(), starts = by_adopt | by_press;
        std::uint64_t& levels = state.levels[button / 64];
        levels = (levels & ~(std::uint64_t{1} << shift)) | std::uint64_t{what.is_down()} << shift;
        const unsigned merged = starts ? button : no_button;
        state.start[merged] = record.time;
        state.adopted[merged] = by_adopt;
        // System repeats have no hold; a record for an either-side name repeats its key's.
        const unsigned hold = button < first_either_side ? their_holds[i] : no_hold;
        state.holds[hold] = record;
    }
    state.t0 = state.t1;
    if (state.merges) state.merges = state.levels != ButtonSet::Words{};
}

// ---- starting and healing

namespace {

// An entry that was never written (button 0) looks like a press.
bool is_down(const detail::DeviceHold& hold) noexcept { return hold.button() != 0 && hold.what().device_is_down(); }

/// Calls `visit` for the button and for the either-side name it belongs to.
template <typename Visit>
void for_each_name(std::uint16_t button, Visit&& visit) {
    if (const unsigned either = either_side_of(button); either != 0) visit(static_cast<std::uint16_t>(either));
    visit(button);
}

}  // namespace

// The levels of the inlet's last event, or of an earlier position by undoing the slots behind it.
void Sampler::start_at(std::int64_t start) noexcept {
    const Inlet& inlet = timeline_->desk();
    std::array<Inlet::Hold, hold_capacity> holds = inlet.holds_;
    std::uint64_t position = inlet.ring_.published();
    std::uint64_t undone_events = 0;
    bool guessed = false;
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        // Times go up from slot to slot but for `late` ones, which go with the slot behind them.
        const SlotKind kind = slot.what().kind();
        if (kind != SlotKind::late && slot.time <= start) break;
        undone_events += slot.what().is_first();
        if (kind == SlotKind::late) continue;
        position = at - 1;
        if (kind > SlotKind::cancel || slot.button() >= first_either_side) continue;
        Inlet::Hold& hold = holds[slot.low()];
        if (slot.what().device_is_down()) {
            hold.down = false;
            continue;
        }
        hold = {start, slot.button(), slot.device(), false, true};
        guessed |= !find_beginning(slot, position, hold);
    }
    state_.position = position;
    state_.events = inlet.events() - undone_events;
    state_.t0 = state_.t1 = state_.effective = start;
    settle(holds);
    if (guessed) start_merging();
}

// When and how the hold began that the slot ended, if the history still tells.
bool Sampler::find_beginning(const Slot& end, std::uint64_t position, Inlet::Hold& hold) const noexcept {
    const detail::SlotRing& ring = timeline_->desk().ring_;
    Slot slot;
    for (std::uint64_t at = position; at > ring.oldest() && ring.try_read(at - 1, slot); --at) {
        if (slot.low() != end.low() || slot.button() != end.button() || !slot.what().device_is_down()) continue;
        hold.start = slot.time;
        hold.pressed = slot.what().kind() == SlotKind::press;
        return true;
    }
    return false;
}

void Sampler::settle(const std::array<Inlet::Hold, hold_capacity>& holds) noexcept {
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const Inlet::Hold& hold = holds[i];
        if (!hold.down) continue;
        const SlotKind kind = hold.pressed ? SlotKind::press : SlotKind::adopt;
        state_.holds[i] =
            Record::of(hold.start, 0, hold.button, hold.device, What::of(kind, Effect::none, false, true));
        for_each_name(hold.button, [&](std::uint16_t button) {
            // The merged hold is the earliest press's, or the earliest adopt's if nobody pressed.
            std::uint64_t& levels = state_.levels[button / 64];
            const std::uint64_t mask = std::uint64_t{1} << (button % 64);
            bool& adopted = state_.adopted[button];
            const bool first = (levels & mask) == 0, same_kind = adopted != hold.pressed;
            if (first || (hold.pressed && adopted) || (same_kind && hold.start < state_.start[button])) {
                state_.start[button] = hold.start;
                adopted = !hold.pressed;
            }
            levels |= mask;
        });
    }
}

// From the holds as they are known to the state, which must be committed.
void Sampler::start_merging() noexcept { start_merging(state_.holds); }

void Sampler::start_merging(const std::array<detail::DeviceHold, no_hold + 1>& holds) noexcept {
    state_.merges = true;
    state_.holders = {};
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const bool pressed = holds[i].what().kind() == SlotKind::press;
        state_.hold_pressed[i] = pressed;
        if (!is_down(holds[i])) continue;
        for_each_name(holds[i].button(), [&](std::uint16_t button) {
            state_.holders[button] =
                static_cast<std::uint16_t>(state_.holders[button] + (pressed ? pressed_holder : adopted_holder));
        });
    }
}

void Sampler::heal(std::int64_t until) noexcept {
    const Inlet& inlet = timeline_->desk();
    ++state_.overruns;
    state_.lost += inlet.events() - state_.events;
    state_.events = inlet.events();
    state_.position = inlet.ring_.published();
    state_.effective = std::max(state_.effective, std::min(until, inlet.latest_));

    SamplerState now = state_;
    entries_.commit(now);
    if (!state_.merges) start_merging(now.holds);
    struct Change {
        std::uint64_t order;  // ended before started, by device, then by name
        Slot slot;
    };
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
    const auto add = [&](SlotKind kind, unsigned hold, std::uint16_t button, std::uint8_t device) {
        const auto id = static_cast<std::uint32_t>(inlet.devices_[device].id);
        changes[count++] = {
            std::uint64_t{kind == SlotKind::adopt} << 63 | std::uint64_t{id} << 16 | name_rank({button}),
            Slot::of(state_.effective, hold, button, device, What::of(kind, Effect::none, false, false))};
    };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::DeviceHold& mine = now.holds[i];
        const Inlet::Hold& theirs = inlet.holds_[i];
        const bool same = mine.button() == theirs.button && mine.device() == theirs.device, down = is_down(mine);
        if (down && !(theirs.down && same)) add(SlotKind::cancel, i, mine.button(), mine.device());
        if (theirs.down && !(down && same)) add(SlotKind::adopt, i, theirs.button, theirs.device);
    }
    std::sort(changes.begin(), changes.begin() + count,
              [](const Change& a, const Change& b) { return a.order < b.order; });
    Taking taking{state_, entries_};
    for (unsigned i = 0; i < count; ++i) {
        const Slot& slot = changes[i].slot;
        for_each_name(slot.button(), [&](std::uint16_t button) {
            taking.apply<true>(Slot::of(slot.time, slot.low(), button, slot.device(), slot.what()));
        });
    }
    taking.finish();
}

}  // namespace cursorum
