// What a sampler takes beside buttons: motion and wheel, axes, clicks and contacts.
#include <algorithm>
#include <bit>
#include <utility>

#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::AxisSlot;
using detail::DeskEntries;
using detail::DeskState;
using detail::FactKind;
using detail::FactSlot;
using detail::FixedDistance;
using detail::MotionSlot;

// What the last look left for later says nothing of another position.
void SamplerCore::forget_looks() noexcept {
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) desk_entries_.spans[i].known_later = UINT64_MAX;
}

// Of a growing sampler; false if it may not grow.
bool SamplerCore::make_axis_room() noexcept {
    if (!growing_) return false;
    desk_entries_.axis_room *= 2;
    desk_entries_.axes.resize(std::size_t{desk_entries_.axis_room} + axis_capacity);
    entries_.make_stamp_room(entries_.stamp_room + desk_entries_.axis_room);
    return true;
}

// A value that no slot in its turn told.
void SamplerCore::add_axis(const AxisSlot& slot) noexcept {
    if (slot.track() >= axis_capacity) return;
    DeskEntries& entries = desk_entries_;
    constexpr auto same_bit = static_cast<std::uint32_t>(AxisSlot::same_bit);
    const detail::AxisRecord* const last = entries.axis_record(entries.axis_last[slot.track()]);
    const double before = last ? last->value : desk_.axis_values[slot.track()];
    const std::uint32_t ordinal = entries.axis_base + entries.axis_count;
    entries.axes[entries.axis_count++] = {std::max(slot.time, state_.t0), slot.value, slot.shaped,
                                          std::exchange(entries.axis_last[slot.track()], ordinal),
                                          (slot.who() & ~same_bit) | (slot.value == before) * same_bit};
}

void SamplerCore::make_desk_room() {
    std::size_t axes = 0, facts = 0;
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        axes += timeline_->inlet(i).axes_.capacity();
        facts += timeline_->inlet(i).facts_.capacity();
    }
    // Healing may add a record for every track.
    desk_entries_.axis_room = static_cast<std::uint32_t>(axes);
    desk_entries_.axes.resize(axes + axis_capacity);
    desk_entries_.facts.resize(facts + 2 * contact_capacity + press_capacity);
    desk_entries_.keeps = growing_;
}

// ---- motion and wheel

// What there is up to `until`, if some may have been overwritten, and for frames that keep a copy of each slot.
SamplerCore::Stretch SamplerCore::find_motions(unsigned number, std::int64_t until, std::uint64_t end) noexcept {
    const detail::MotionRing& ring = timeline_->inlet(number).motions_;
    detail::MotionSpan& span = desk_entries_.spans[number];
    std::uint64_t& place = state_.inlets[number].motions;
    Stretch found{place, place};
    detail::try_often([&] {
        const std::uint64_t from = std::max(place, std::min(ring.oldest(), end));
        const std::uint64_t to = ring.later_than(until, from, end, span.usual);
        if (from != place) {
            lose_motions(number, from, to);
            span.to = to;
        }
        place = from;
        found = {from, from};  // nothing is taken if the producer goes round the whole ring meanwhile
        if (to == from) return true;
        const std::size_t kept = growing_ ? keep_motions(number, from, to) : 0;
        if (!ring.try_read(to - 1, span.next())) {
            if (growing_) desk_entries_.kept.resize(kept);
            return false;
        }
        place = to;
        found.to = to;
        return true;
    });
    return found;
}

// Of those that were in time on their inlet, how many came after a cut with an earlier stamp, or are moved to the end
// of a gap.
void SamplerCore::count_late_motions(const detail::MotionRing& ring, std::uint64_t from, std::uint64_t to,
                                     std::uint64_t counts_before) noexcept {
    MotionSlot last;
    const auto in_time_before = [&](std::int64_t time) {
        const std::uint64_t first = ring.later_than(time - 1, from, to, 0);
        std::uint64_t count = first - from;
        if (first != from && ring.try_read(first - 1, last))  // those that are counted elsewhere
            for (const std::uint64_t one : {MotionSlot::one_late, MotionSlot::one_extra})
                count -= std::min(count, MotionSlot::counted(counts_before, last.counts, one));
        return count;
    };
    const std::uint64_t late = in_time_before(state_.late_before);
    state_.late += late;
    if (state_.t0 != state_.late_before) state_.moved += in_time_before(state_.t0) - late;
}

// Some were overwritten. Of the oldest that is left, what it added is not known: it is told in the sums only.
void SamplerCore::lose_motions(unsigned number, std::uint64_t from, std::uint64_t to) noexcept {
    const std::uint64_t lost = from - state_.inlets[number].motions;
    ++state_.overruns;
    state_.lost += lost;
    detail::MotionSpan& span = desk_entries_.spans[number];
    span.any = true;
    span.from = from;
    span.has_gap = to != from && timeline_->inlet(number).motions_.try_read(from, span.gap);
    if (span.has_gap) ++span.from;
}

// For frames that outlast the history: a copy of every slot, with what it added in place of the totals.
std::size_t SamplerCore::keep_motions(unsigned number, std::uint64_t from, std::uint64_t to) noexcept {
    const std::size_t kept = desk_entries_.kept.size();
    const detail::MotionRing& ring = timeline_->inlet(number).motions_;
    const MotionSlot& moved = desk_entries_.spans[number].after();
    FixedDistance motion = moved.motion, wheel = moved.wheel, raw = moved.raw;
    std::uint64_t steps = moved.steps;
    for (MotionSlot slot; from != to; ++from) {
        if (!ring.try_read(from, slot)) continue;
        for (unsigned axis = 0; axis < 2; ++axis) {
            slot.motion[axis] -= std::exchange(motion[axis], slot.motion[axis]);
            slot.raw[axis] -= std::exchange(raw[axis], slot.raw[axis]);
            slot.wheel[axis] -= std::exchange(wheel[axis], slot.wheel[axis]);
        }
        const std::uint64_t before = std::exchange(steps, slot.steps);
        slot.steps = MotionSlot::steps_between(before, slot.steps);
        desk_entries_.kept.push_back(slot);
    }
    return kept;
}

// ---- axes

// The present values, as changes at `until`.
void SamplerCore::heal_axes(unsigned number, std::int64_t until) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    std::array<AxisSlot, axis_capacity> values;
    const unsigned first = inlet.place_.first_track, room = inlet.place_.track_room;
    const auto place_of = [&](const AxisSlot& slot) { return slot.track() - first; };
    std::uint64_t position = 0;
    if (!detail::try_often(
            [&] { return inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), position, place_of); }))
        return;  // the next frame finds it overrun again
    ++state_.overruns;
    DeskState::Place& place = desk_.inlets[number];
    place.axes = position;
    std::uint32_t missed = 0;  // the newest slot is the last of some track
    for (unsigned i = 0; i < room; ++i)
        if (const std::uint32_t ahead = AxisSlot::counted_from(place.lone_axes, values[i].counted());
            values[i].what != 0 && ahead <= AxisSlot::counted_mask / 2)
            missed = std::max(missed, ahead);
    place.lone_axes += missed;
    place.lone_axes &= AxisSlot::counted_mask;
    state_.lost += missed;
    if (growing_)
        desk_entries_.axes.resize(
            std::max<std::size_t>(desk_entries_.axes.size(), desk_entries_.axis_count + 2 * axis_capacity));
    for (unsigned i = 0; i < room && desk_entries_.axis_count < desk_entries_.axes.size(); ++i) {
        AxisSlot slot = values[i];
        if (slot.time == 0 && slot.what == 0 && slot.value == 0) continue;  // not in use
        slot.time = healing_time(number, until);
        add_axis(slot);
    }
}

// ---- clicks, drags, contacts, devices

bool SamplerCore::take_facts(unsigned number, std::int64_t until, std::uint64_t end) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    std::uint64_t& place = desk_.inlets[number].facts;
    FactSlot fact;
    for (; place != end; ++place) {
        const bool is_whole = inlet.facts_.try_read(place, fact);
        if (is_whole && fact.time > until) {
            note_head(fact.time);
            return false;
        }
        const bool has_room = desk_entries_.fact_count < desk_entries_.facts.size();
        if (!is_whole || (!has_room && !growing_)) [[unlikely]] {
            heal_facts(number, until);
            return false;
        }
        if (!has_room) [[unlikely]]
            desk_entries_.facts.resize(desk_entries_.facts.size() * 2);
        if (fact.is_press() && !hears_press(number, fact)) continue;
        add_fact(fact);
    }
    return true;
}

// Whether a press is this sampler's, or fell into a pause. The inlet counts clicks through pauses; here they count
// anew.
bool SamplerCore::hears_press(unsigned number, FactSlot& fact) noexcept {
    DeskState::Place& place = desk_.inlets[number];
    const unsigned count = fact.count();
    if (fact.kind() == FactKind::release) place.last_count = static_cast<std::uint8_t>(count);
    if (fact.begin_time < desk_.skipped_before) {
        place.skipped_count = place.last_count;
        return false;
    }
    if (count <= place.skipped_count) place.skipped_count = 0;
    fact.what -= std::uint64_t{place.skipped_count} << FactSlot::count_shift;
    return true;
}

void SamplerCore::add_fact(FactSlot fact) noexcept {
    if (desk_entries_.fact_count == desk_entries_.facts.size()) return;
    fact.time = std::max(fact.time, state_.t0);
    desk_entries_.facts[desk_entries_.fact_count++] = fact;
    if (fact.kind() == FactKind::pointer_flags) {
        desk_entries_.outside = (fact.begin[0] & 1) != 0;
        desk_entries_.locked = (fact.begin[0] & 2) != 0;
    }
    if (fact.kind() == FactKind::locks) desk_entries_.locks = static_cast<std::uint8_t>(fact.begin[0]);
    if (fact.is_change()) detail::set_bit(desk_entries_.connected, fact.device(), fact.kind() == FactKind::connect);
}

// When the present of an inlet that was overrun is taken: at the cut (or when another inlet's next event has its turn),
// or at its last event, if that is earlier. Never before what was taken already, so never outside the frame.
std::int64_t SamplerCore::healing_time(unsigned number, std::int64_t until) const noexcept {
    const std::int64_t latest = std::min(until, nanoseconds(timeline_->inlet(number).latest()));
    return std::max({state_.effective, state_.t0, latest});
}

// The devices that an inlet has connected now.
void SamplerCore::show_connected(const detail::InletHistory& inlet, detail::DeviceBits& connected) noexcept {
    for (unsigned i = 0; i < inlet.place_.device_room; ++i) {
        const unsigned number = inlet.place_.first_device + i;
        const detail::Device* const device = inlet.device_numbered(number);
        detail::set_bit(connected, number, device && (device->flags.look() & detail::Device::connected_flag) != 0);
    }
}

// What was overwritten is gone; what is left is taken in the next frames. Contacts that are no longer there are called
// off: their ends may be among what is gone.
void SamplerCore::heal_facts(unsigned number, std::int64_t until) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    const unsigned first = inlet.place_.first_contact, room = inlet.place_.contact_room;
    std::array<FactSlot, contact_capacity> theirs;
    const auto place_of = [&](const FactSlot& fact) { return fact.is_contact() ? fact.place() - first : room; };
    std::uint64_t position = 0;
    if (!detail::try_often(
            [&] { return inlet.contact_table_.try_read(inlet.facts_, 0, room, theirs.data(), position, place_of); }))
        return;  // the next frame finds it overrun again
    ++state_.overruns;
    desk_.inlets[number].facts = position;
    // Of what this inlet's devices did in this frame only the present is shown.
    const auto facts = desk_entries_.facts.begin();
    const auto is_theirs = [&](const FactSlot& fact) {
        return fact.kind() != FactKind::locks &&
               fact.device() - inlet.place_.first_device < unsigned{inlet.place_.device_room};
    };
    desk_entries_.fact_count =
        static_cast<std::uint32_t>(std::remove_if(facts, facts + desk_entries_.fact_count, is_theirs) - facts);
    const std::int64_t now = healing_time(number, until);
    const auto set = [now](FactSlot fact, FactKind kind) {
        fact.what = (fact.what & ~std::uint64_t{0xFF00}) | std::uint64_t{static_cast<unsigned>(kind)} << 8;
        fact.time = now;
        fact.begin_time = std::min(fact.begin_time, now);
        return fact;
    };
    for (unsigned i = 0; i < room; ++i) {
        const FactSlot& mine = desk_.contacts[first + i];
        const bool same = mine.contact == theirs[i].contact && mine.begin_time == std::min(theirs[i].begin_time, now);
        if (mine.goes_on() && !(theirs[i].goes_on() && same)) add_fact(set(mine, FactKind::contact_cancel));
        if (theirs[i].goes_on() && theirs[i].what != 0)
            add_fact(set(theirs[i], same ? FactKind::contact_move : FactKind::contact_begin));
    }
    if (const std::uint64_t locks = inlet.locks_.look();
        (locks & detail::locks_told) != 0 && locks != desk_entries_.locks) {
        FactSlot fact;
        fact.time = now;
        fact.what = FactSlot::what_of(FactKind::locks, 0, 0, 0);
        fact.begin[0] = locks;
        add_fact(fact);
    }
    show_connected(inlet, desk_entries_.connected);
    // Presses in progress: no click is made up of what was not seen.
    for (unsigned i = 0; i < inlet.place_.press_room; ++i) {
        const FactSlot& mine = desk_.presses[inlet.place_.first_press + i];
        if (mine.goes_on() && mine.what != 0) add_fact(set(mine, FactKind::cancel));
    }
}

// ---- starting

// As of `start`, as far as the history tells.
void SamplerCore::start_desk_at(unsigned number, std::int64_t start) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    detail::InletPosition& place = state_.inlets[number];
    DeskState::Place& desk_place = desk_.inlets[number];

    const detail::MotionRing& ring = inlet.motions_;
    MotionSlot slot;
    detail::try_often([&] {
        const std::uint64_t end = ring.published(), oldest = std::min(ring.oldest(), end);
        place.motions = ring.later_than(start, oldest, end, end - oldest);
        if (place.motions == 0) return true;
        // The totals before what is yet to come; of the oldest slot that still stands, its own.
        if (place.motions == oldest && place.motions != end) ++place.motions;
        if (!ring.try_read(place.motions - 1, slot)) return false;
        desk_place.moved = slot;
        if (slot.is_placed()) desk_.placed = true, desk_.pointer = slot.position;
        return true;
    });

    const unsigned first = inlet.place_.first_track, room = inlet.place_.track_room;
    std::array<AxisSlot, axis_capacity> values;
    const auto track_of = [&](const AxisSlot& s) { return s.track() - first; };
    if (!detail::try_often([&] {
            return inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), desk_place.axes, track_of);
        })) {
        desk_place.axes = 0;  // the first frame heals
        values = {};
    }
    // Back to `start`: what changed since then had the value of its last change before.
    std::array<bool, axis_capacity> undone{};
    AxisSlot back;
    std::uint64_t at = desk_place.axes;
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back) && back.time > start; --at)
        if (back.track() - first < room) undone[back.track() - first] = true;
    desk_place.axes = at;
    if (at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back))
        desk_place.lone_axes = back.counted();
    else if (at != inlet.axes_.published() && inlet.axes_.try_read(at, back))
        desk_place.lone_axes = (back.counted() - back.counts()) & AxisSlot::counted_mask;
    for (unsigned i = 0; i < room; ++i) {
        if (undone[i]) values[i].value = values[i].shaped = 0;
        if (values[i].what == 0 && values[i].value == 0 && values[i].time == 0) continue;
        desk_.axis_values[first + i] = values[i].value;
        desk_.axis_shaped[first + i] = values[i].shaped;
    }
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back); --at) {
        const unsigned i = back.track() - first;
        if (i >= room || !undone[i]) continue;
        desk_.axis_values[first + i] = back.value;
        desk_.axis_shaped[first + i] = back.shaped;
        undone[i] = false;
    }

    std::uint64_t fact_at = inlet.facts_.published();
    show_connected(inlet, desk_.connected);
    FactSlot fact;
    bool locks_changed = false;
    for (; fact_at > inlet.facts_.oldest() && inlet.facts_.try_read(fact_at - 1, fact) && fact.time > start;
         --fact_at) {
        locks_changed |= fact.kind() == FactKind::locks;
        if (fact.is_change()) detail::set_bit(desk_.connected, fact.device(), fact.kind() == FactKind::disconnect);
    }
    desk_place.facts = fact_at;
    // What is in progress then: the latest fact of each place before.
    std::array<bool, press_capacity + contact_capacity> known{};
    bool flags_known = false, locks_known = !locks_changed;
    if (locks_known) desk_.locks |= static_cast<std::uint8_t>(inlet.locks_.look());
    for (; fact_at > inlet.facts_.oldest() && inlet.facts_.try_read(fact_at - 1, fact); --fact_at) {
        if (fact.kind() == FactKind::pointer_flags && !std::exchange(flags_known, true)) {
            desk_.outside = (fact.begin[0] & 1) != 0;
            desk_.locked = (fact.begin[0] & 2) != 0;
        }
        if (fact.kind() == FactKind::locks && !std::exchange(locks_known, true))
            desk_.locks |= static_cast<std::uint8_t>(fact.begin[0]);
        if (fact.kind() > FactKind::contact_cancel) continue;
        const bool is_press = fact.is_press();
        if (std::exchange(known[(is_press ? 0 : press_capacity) + fact.place()], true)) continue;
        (is_press ? desk_.presses[fact.place()] : desk_.contacts[fact.place()]) = fact;
    }
}

void SamplerCore::cancel_presses() noexcept { desk_.no_clicks_before = state_.t1; }

}  // namespace cursorum
