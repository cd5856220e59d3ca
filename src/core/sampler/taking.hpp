// The inner loop of a sampler: each slot becomes a record of the frame, linked to the button's record before it. Kept
// free of branches that a processor cannot predict.
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>
#include <utility>

#include "core/frame/frame_core.hpp"
#include "core/inlet/event_count.hpp"
#include "core/rules/merging.hpp"

namespace cursorum::detail {

/// Brings the state from the frame's start to its end, where an empty frame begins.
template <bool has_gap>
[[gnu::always_inline]] inline void commit_edges(const FrameEntries& entries, SamplerState& state) noexcept {
    // By bytes: of whole words each would wait for the one before it, since most keys are in the same two.
    auto* const levels = reinterpret_cast<unsigned char*>(state.levels.data());
    constexpr unsigned byte_order = std::endian::native == std::endian::little ? 0 : 7;
    for (const StoredEdge *at = entries.edges, *const end = at + entries.count; at != end; ++at) {
        Slot record{*at};
        if constexpr (has_gap) record.time = std::max(record.time, state.t0);
        const What what = record.what();
        const unsigned button = record.button();
        const bool by_adopt = what.effect() == Effect::adopt;
        unsigned char& level = levels[button / 8 ^ byte_order];
        level = static_cast<unsigned char>(level ^ unsigned{what.flips()} << button % 8);
        const unsigned merged = no_button + ((button - no_button) & (0U - what.starts()));  // as `?:` it gets a branch
        state.start[merged] = record.time;
        state.adopted[merged] = by_adopt;
        // System repeats have none; a record for an either-side name stands before its key's, which is written over it.
        state.holds[hold_of(record.tag())] = record.without_extra();
    }
}

[[gnu::always_inline]] inline void FrameEntries::commit(SamplerState& state) const noexcept {
    if (has_gap) [[unlikely]]
        commit_edges<true>(*this, state);
    else
        commit_edges<false>(*this, state);
    state.t0 = state.t1;
    if (state.merges) state.merges = state.always_merges || state.levels != ButtonSet::Words{};
}

/// The part of a sampler that changes with every event, in registers while events are taken.
struct Taking {
    SamplerState& state;
    FrameEntries& entries;
    InletPosition& inlet_position;
    StoredEdge* const records = entries.records.data();
    std::uint32_t* const links = entries.record_links.data();
    std::uint32_t* const last = entries.last.data();
    const std::uint32_t base = entries.base;
    std::uint32_t count = entries.count;
    std::int64_t effective = state.effective;
    std::uint32_t stamp_count = 0, late = 0, moved = 0;
    bool undo = false;  // the next slot's effect is undone

    void finish() const noexcept {
        entries.count = count;
        entries.stamp_count += stamp_count;
        state.effective = effective;
        if ((late | moved) != 0) [[unlikely]] {
            state.late += late;
            state.moved += moved;
        }
    }
    /// Of the slots that were taken, whose last one this is.
    void count_events(std::uint64_t slots, const Slot& last_slot) const noexcept {
        const std::uint64_t events =
            EventCount::of_slots(slots, inlet_position.edges, inlet_position.events, last_slot.tag());
        inlet_position.events += events;
        inlet_position.edges += slots;
        state.taken += events;
    }

    /// Resets everything that was taken, except for the state of merging.
    void give_back() noexcept {
        while (count > entries.count) {
            --count;
            last[records[count].button()] = links[count];
        }
    }

    /// The head of a late event.
    void apply_late(const Slot& slot) noexcept {
        const bool first = slot.what().is_first();
        add_stamp(slot.time, first);
        late += first;
        effective = std::max(slot.time, effective);
    }
    /// A slot without an effect on a button.
    void apply_plain(const Slot& slot) noexcept {
        const bool first = slot.what().is_first();
        add_stamp(slot.time, first);
        late += first & (slot.time < state.late_before);
        moved += first & (slot.time >= state.late_before) & (slot.time < state.t0);
        effective = std::max(slot.time, effective);
    }
    /// An edge or system repeat. `merges`: uses the sampler's own holds instead of the inlet's.
    template <bool merges, bool has_gap>
    void apply(Slot slot) noexcept {
        if (slot.time < effective) [[unlikely]]
            slot = taken_later(slot);
        effective = slot.time;
        if constexpr (merges) slot = merged_again(slot);
        if constexpr (has_gap) moved += slot.what().is_first() & (slot.time < state.t0);
        records[count] = slot;
        links[count] = std::exchange(last[slot.button()], base + count);
        ++count;
    }

    /// A button made of axes. Axes of one device at one time apply together: what one axis did and the next one at the
    /// same time undid (the inlet marks it by a slot before it) has not happened, if both are in this frame.
    template <bool merges, bool has_gap>
    void apply_of_axes(const Slot& slot) noexcept {
        const std::uint32_t before = last[slot.button()];
        const bool undoes = std::exchange(undo, false) && before >= base;
        apply<merges, has_gap>(slot);
        if (!undoes) return;
        const SlotKind was = records[before - base].what().kind(), is = slot.what().kind();
        const bool is_pair =
            (was == SlotKind::press && is == SlotKind::release) || (was == SlotKind::release && is == SlotKind::press);
        if (!is_pair || hold_of(records[before - base].tag()) != hold_of(slot.tag())) return;
        const bool was_down = records[count - 1].what().is_down();
        for (const std::uint32_t ordinal : {before, base + count - 1}) {
            StoredEdge& record = records[ordinal - base];
            const bool first = record.what().is_first();
            record = Slot{record}.with_what(What::of(SlotKind::plain, Effect::none, first, was_down)).with_tag(no_hold);
        }
    }
    template <bool merges, bool has_gap>
    void apply_unusual(const Slot& slot) noexcept {
        const SlotKind kind = slot.what().kind();
        undo |= kind == SlotKind::undo;
        if (kind == SlotKind::plain || kind == SlotKind::undo)
            apply_plain(slot);
        else
            apply_of_axes<merges, has_gap>(slot);
    }

private:
    void add_stamp(std::int64_t stamp, bool is_first) noexcept {
        entries.stamps[entries.stamp_count + stamp_count] = stamp;
        stamp_count += is_first;
    }

    /// At the effective time, which is no longer its stamp.
    Slot taken_later(const Slot& slot) noexcept {
        const What what = slot.what();
        add_stamp(slot.time, what.is_first());
        late += what.is_first() & (slot.time < state.late_before);
        Slot taken = slot.with_what(What::of(what.kind(), what.effect(), false, what.is_down()));
        taken.time = effective;
        return taken;
    }

    Slot merged_again(const Slot& slot) noexcept {
        const What what = slot.what();
        std::uint16_t& holders = state.holders[slot.button()];
        bool& hold_pressed = state.hold_pressed[hold_of(slot.tag())];
        const Effect effect = merge(holders, what.kind(), hold_pressed);
        // The slot of an either-side name comes first and does not change the hold.
        if (slot.button() < first_either_side) hold_pressed = what.kind() == SlotKind::press;
        return slot.with_what(What::of(what.kind(), effect, what.is_first(), is_held(holders)));
    }
};

}  // namespace cursorum::detail
