#include "cursorum/core/sampler.hpp"

#include <algorithm>
#include <cassert>

#include "core/either_side.hpp"

namespace cursorum {

using detail::Effect;
using detail::Record;
using detail::SamplerState;
using detail::Slot;
using detail::SlotKind;

namespace {

// One event adds at most two records (its own and its either-side name's); healing may end and start every hold.
constexpr std::size_t healing_records = 4 * hold_capacity;

/// How a device's edge changes the pair of counters in SamplerState::holders.
constexpr std::uint16_t holder = 0x0001, pressed_holder = 0x0101;

/// Merging, as one look-up without a branch: which edge the merged button has. Indexed by what happened on the device,
/// by whether nobody held the button before, nobody held it by a press before, nobody holds it after.
constexpr unsigned merge_index(SlotKind kind, bool none_before, bool none_pressed_before, bool none_after) {
    return static_cast<unsigned>(kind) * 8 + none_before * 4U + none_pressed_before * 2U + none_after * 1U;
}

constexpr std::array<Effect, 64> make_merge_table() {
    std::array<Effect, 64> table{};
    for (unsigned bits = 0; bits < 8; ++bits) {
        const bool none_before = (bits & 4) != 0, none_pressed = (bits & 2) != 0, none_after = (bits & 1) != 0;
        const auto at = [&](SlotKind kind) -> Effect& {
            return table[merge_index(kind, none_before, none_pressed, none_after)];
        };
        at(SlotKind::press) = none_before ? Effect::press : none_pressed ? Effect::restart : Effect::none;
        at(SlotKind::adopt) = none_before ? Effect::adopt : Effect::none;
        at(SlotKind::release) = none_after ? Effect::release : Effect::none;
        at(SlotKind::cancel) = none_after ? Effect::cancel : Effect::none;
    }
    return table;
}
constexpr auto merge_table = make_merge_table();

// Indexed by SlotKind * 2 + (the hold had begun with a press).
constexpr std::array<std::uint16_t, 16> holder_change = [] {
    std::array<std::uint16_t, 16> change{};
    for (unsigned pressed = 0; pressed < 2; ++pressed) {
        change[static_cast<unsigned>(SlotKind::press) * 2 + pressed] = pressed_holder;
        change[static_cast<unsigned>(SlotKind::adopt) * 2 + pressed] = holder;
        const auto minus = static_cast<std::uint16_t>(-(pressed ? pressed_holder : holder));
        change[static_cast<unsigned>(SlotKind::release) * 2 + pressed] = minus;
        change[static_cast<unsigned>(SlotKind::cancel) * 2 + pressed] = minus;
    }
    return change;
}();

constexpr bool starts_press(Effect effect) noexcept { return effect == Effect::press || effect == Effect::restart; }
constexpr bool ends(Effect effect) noexcept { return effect >= Effect::release; }

}  // namespace

Sampler::Sampler(const Timeline& timeline, const SamplerOptions& options)
    : timeline_{&timeline}, frame_{timeline, state_, entries_}, growing_{options.growing} {
    const std::size_t room = 2 * timeline.desk().ring_.capacity() + healing_records;
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
    if (!open_) open_frame();
    open_ = true;
    if (until >= Time{Duration{state_.t1}} && until <= latest_time) take(nanoseconds(until));
}

void Sampler::open_frame() noexcept {
    entries_.commit(state_);
    entries_.count = 0;
    state_.erase_frame();
    state_.effective = std::max(state_.effective, state_.t0);
}

Sampler::State Sampler::save() const noexcept {
    assert(!open_ && "a frame is in the making: save at a cut");
    State saved;
    saved.state = state_;
    entries_.commit(saved.state);
    saved.state.erase_frame();
    return saved;
}

void Sampler::restore(const State& saved) noexcept {
    state_ = saved.state;
    entries_.count = 0;
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

void Sampler::take(std::int64_t until) noexcept {
    const detail::SlotRing& ring = timeline_->desk().ring_;
    const std::uint64_t end = ring.published();
    while (state_.position != end) {
        Slot slot;
        if (!ring.try_read(state_.position, slot)) return heal(until);
        if (slot.time > until) return;
        if (entries_.count + healing_records > entries_.records.size() && !make_room()) return heal(until);
        ++state_.position;
        apply(state_.effective, slot);
    }
}

inline void Sampler::apply(std::int64_t before, const Slot& slot) noexcept {
    const bool first = (slot.what & Slot::first_of_event) != 0;
    state_.events += first;
    state_.taken += first;
    state_.late += first & (slot.time < before);
    const std::int64_t time = std::max(slot.time, before);
    state_.effective = time;
    const SlotKind kind = slot.kind();
    if (kind >= SlotKind::plain) return;
    // The sampler's own knowledge of how the hold began: after healing it may differ from the inlet's.
    const bool was_pressed = state_.hold_pressed[slot.hold];
    state_.hold_pressed[slot.hold] = kind == SlotKind::press;
    apply_to(time, slot, slot.button, was_pressed);
    if (const unsigned either = either_side_of(slot.button); either != 0) [[unlikely]]
        apply_to(time, slot, either, was_pressed);
}

inline void Sampler::apply_to(std::int64_t time, const Slot& slot, unsigned button, bool was_pressed) noexcept {
    const SlotKind kind = slot.kind();
    const std::uint16_t before = state_.holders[button];
    const auto after =
        static_cast<std::uint16_t>(before + holder_change[static_cast<unsigned>(kind) * 2 + was_pressed]);
    state_.holders[button] = after;
    const Effect effect =
        merge_table[merge_index(kind, (before & 0xFF) == 0, (before >> 8) == 0, (after & 0xFF) == 0)];

    const unsigned word = button / 64, shift = button % 64;
    const std::uint64_t mask = std::uint64_t{1} << shift;
    state_.current[word] = (state_.current[word] & ~mask) | std::uint64_t{(after & 0xFF) != 0} << shift;
    state_.pressed[word] |= std::uint64_t{starts_press(effect)} << shift;
    state_.ended[word] |= std::uint64_t{ends(effect)} << shift;
    const std::uint32_t link = (state_.touched[word] & mask) != 0 ? entries_.last[button] : detail::no_link;
    state_.touched[word] |= mask;

    const std::uint32_t index = entries_.count++;
    entries_.last[button] = index;
    entries_.holds[index] = slot.hold;
    entries_.records[index] = {time, link, static_cast<std::uint16_t>(button), slot.device,
                               static_cast<std::uint8_t>(static_cast<unsigned>(kind) |
                                                         static_cast<unsigned>(effect) << 4)};
}

bool Sampler::make_room() noexcept {
    if (!growing_) return false;
    entries_.records.resize(entries_.records.size() * 2);
    entries_.holds.resize(entries_.records.size());
    return true;
}

void detail::FrameEntries::commit(SamplerState& state) const noexcept {
    for (std::uint32_t i = 0; i < count; ++i) {
        const Record& record = records[i];
        const Effect effect = record.effect();
        const unsigned word = record.button / 64;
        const std::uint64_t mask = std::uint64_t{1} << (record.button % 64);
        const bool starts = starts_press(effect) || effect == Effect::adopt;
        state.start[starts ? record.button : button_capacity] = record.time;
        const std::uint64_t adopted = effect == Effect::adopt ? mask : 0;
        state.adopted[word] = (state.adopted[word] & ~(starts ? mask : 0)) | adopted;

        const std::uint16_t hold = holds[i];
        if (hold == hold_capacity) continue;  // a system repeat
        const bool down = record.kind() == SlotKind::press || record.kind() == SlotKind::adopt;
        if (record.button < first_either_side) {
            const std::uint64_t hold_mask = std::uint64_t{1} << (hold % 64);
            std::uint64_t& held = state.held[hold / 64];
            held = (held & ~hold_mask) | std::uint64_t{down} << (hold % 64);
            if (down)
                state.holds[hold] = {record.time, record.button, record.device, record.kind() == SlotKind::press};
        }
    }
}

// ---- starting and healing

// The levels of the inlet's last event, or of an earlier position by undoing the slots behind it.
void Sampler::start_at(std::int64_t start) noexcept {
    const Inlet& inlet = timeline_->desk();
    std::array<Inlet::Hold, hold_capacity> holds = inlet.holds_;
    std::uint64_t position = inlet.ring_.published();
    std::uint64_t seen_events = 0;
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        // Times go up from slot to slot but for `late` ones, which go with the slot behind them.
        if (slot.kind() != SlotKind::late && slot.time <= start) break;
        seen_events += (slot.what & Slot::first_of_event) != 0;
        if (slot.kind() == SlotKind::late) continue;
        position = at - 1;
        Inlet::Hold& hold = holds[slot.hold % hold_capacity];
        if (slot.kind() == SlotKind::press || slot.kind() == SlotKind::adopt) {
            hold.down = false;
        } else if (slot.kind() == SlotKind::release || slot.kind() == SlotKind::cancel) {
            hold = {start, slot.button, slot.device, false, true};
            for (std::uint64_t back = position; back > inlet.ring_.oldest();) {  // its beginning, if still known
                Slot begin;
                if (!inlet.ring_.try_read(--back, begin)) break;
                if (begin.hold != slot.hold) continue;
                hold.start = begin.time;
                hold.pressed = begin.kind() == SlotKind::press;
                break;
            }
        }
    }
    state_.position = position;
    state_.events = inlet.counters_.events - seen_events;
    state_.t0 = state_.t1 = state_.effective = start;
    settle(holds);
}

void Sampler::settle(const std::array<Inlet::Hold, hold_capacity>& holds) noexcept {
    const auto merge = [this](const Inlet::Hold& hold, unsigned button) {
        const std::uint64_t mask = std::uint64_t{1} << (button % 64);
        const std::uint16_t before = state_.holders[button];
        std::uint64_t& adopted = state_.adopted[button / 64];
        // The merged hold is the earliest press's, or the earliest adopt's if nobody pressed.
        const bool was_adopted = (adopted & mask) != 0;
        if ((before & 0xFF) == 0 || (hold.pressed && was_adopted) ||
            (hold.pressed != was_adopted && hold.start < state_.start[button])) {
            state_.start[button] = hold.start;
            adopted = hold.pressed ? adopted & ~mask : adopted | mask;
        }
        state_.holders[button] = static_cast<std::uint16_t>(before + (hold.pressed ? pressed_holder : holder));
        state_.current[button / 64] |= mask;
    };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const Inlet::Hold& hold = holds[i];
        if (!hold.down) continue;
        state_.holds[i] = {hold.start, hold.button, hold.device, hold.pressed};
        state_.held[i / 64] |= std::uint64_t{1} << (i % 64);
        state_.hold_pressed[i] = hold.pressed;
        merge(hold, hold.button);
        if (const unsigned either = either_side_of(hold.button); either != 0) merge(hold, either);
    }
    state_.previous = state_.current;
}

void Sampler::heal(std::int64_t until) noexcept {
    const Inlet& inlet = timeline_->desk();
    ++state_.overruns;
    state_.lost += inlet.counters_.events - state_.events;
    state_.events = inlet.counters_.events;
    state_.position = inlet.ring_.published();
    state_.effective = std::max(state_.effective, std::min(until, inlet.latest_));

    SamplerState now = state_;
    entries_.commit(now);
    struct Change {
        std::uint64_t order;  // ended before started, by device, then by name
        Slot slot;
    };
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
    const auto add = [&](SlotKind kind, unsigned hold, std::uint16_t button, std::uint8_t device) {
        const auto id = static_cast<std::uint32_t>(inlet.devices_[device].id);
        changes[count++] = {std::uint64_t{kind == SlotKind::adopt} << 63 | std::uint64_t{id} << 16 |
                                name_rank({button}),
                            {state_.effective, button, static_cast<std::uint16_t>(hold), device,
                             static_cast<std::uint8_t>(kind)}};
    };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const bool mine = (now.held[i / 64] >> (i % 64) & 1) != 0;
        const Inlet::Hold& theirs = inlet.holds_[i];
        const bool same = now.holds[i].button == theirs.button && now.holds[i].device == theirs.device;
        if (mine && !(theirs.down && same)) add(SlotKind::cancel, i, now.holds[i].button, now.holds[i].device);
        if (theirs.down && !(mine && same)) add(SlotKind::adopt, i, theirs.button, theirs.device);
    }
    std::sort(changes.begin(), changes.begin() + count,
              [](const Change& a, const Change& b) { return a.order < b.order; });
    for (unsigned i = 0; i < count; ++i) apply(state_.effective, changes[i].slot);
}

}  // namespace cursorum
