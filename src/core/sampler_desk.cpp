// What a sampler takes beside buttons: motion and wheel, axes, clicks and contacts.
#include <algorithm>
#include <bit>
#include <utility>

#include "cursorum/core/sampler.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::AxisSlot;
using detail::DeskEntries;
using detail::DeskState;
using detail::FactKind;
using detail::FactSlot;
using detail::FixedDistance;
using detail::MotionSlot;
using detail::MotionWord;

// ---- from frame to frame

void DeskEntries::commit(DeskState& state) const noexcept {
    for (std::uint32_t i = 0; i < axis_count; ++i) {
        const AxisRecord& record = axes[i];
        state.axis_values[record.track] = record.value;
        state.axis_owners[record.track] = record.owner;
        state.tracks = std::max<std::uint32_t>(state.tracks, record.track + 1U);
    }
    for (std::uint32_t i = 0; i < fact_count; ++i) {
        const FactSlot& fact = facts[i];
        if (fact.is_press())
            state.presses[fact.place()] = fact;
        else if (fact.is_contact())
            state.contacts[fact.place()] = fact;
    }
    state.placed = placed;
    state.outside = outside;
    state.locked = locked;
    state.pointer = pointer;
}

void DeskEntries::clear(const DeskState& state, unsigned inlets) noexcept {
    for (unsigned i = 0; i < inlets; ++i) spans[i].from = spans[i].to = 0;
    has_any = false;
    kept.clear();
    motion = raw = wheel = {};
    steps = {};
    moved_by_person = moved_by_program = false;
    placed = state.placed;
    outside = state.outside;
    locked = state.locked;
    pointer = state.pointer;
    tracks = state.tracks;
    axis_base += axis_count;
    axis_count = fact_count = 0;
    if (axis_base < 0x80000000U) return;
    axis_base = 1;
    axis_last = {};
}

// What the last look left for later says nothing of another position.
void Sampler::forget_looks() noexcept {
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) desk_entries_.spans[i].known_later = UINT64_MAX;
}

void Sampler::make_desk_room() {
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

void Sampler::take_all_beside(unsigned number, std::int64_t until, std::uint64_t beside) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    DeskState::Place& place = desk_.inlets[number];
    desk_entries_.has_any = true;
    bool all = true;  // nothing is left for a later cut
    if (inlet.motions_.published() != state_.inlets[number].motions) all &= take_motions(number, until);
    if (inlet.axes_.published() != place.axes) all &= take_axes(number, until);
    if (inlet.facts_.published() != place.facts) all &= take_facts(number, until);
    if (all) place.beside = beside;
}

// ---- motion and wheel

// All at once: what there is up to `until` is found with a few looks, and the sums are differences of totals. Word by
// word: copies of whole slots would wait for their own stores.
bool Sampler::take_motions(unsigned number, std::int64_t until) noexcept {
    using enum MotionWord;
    const detail::MotionRing& ring = timeline_->inlet(number).motions_;
    detail::InletPosition& place = state_.inlets[number];
    DeskState::Place& desk_place = desk_.inlets[number];
    DeskEntries& entries = desk_entries_;
    detail::MotionSpan& span = entries.spans[number];
    const std::uint64_t end = ring.published();
    std::uint64_t from = 0, to = 0;
    std::array<std::uint64_t, sizeof(MotionSlot) / 8> last{};
    do {
        from = std::max(place.motions, std::min(ring.oldest(), end));
        to = ring.later_than(until, from, end, span.usual);
        if (to == from) break;
        const auto* const words = ring.words_at(to - 1);
        for (std::size_t i = 0; i < last.size(); ++i) last[i] = words[i].load(std::memory_order_acquire);
    } while (!ring.still_has(to - 1));
    const auto word = [&last](MotionWord w) { return last[static_cast<unsigned>(w)]; };

    if (span.from == span.to || from != place.motions) {
        span.from = from;
        span.motion[0] = place.motion[0], span.motion[1] = place.motion[1];
        span.wheel[0] = place.wheel[0], span.wheel[1] = place.wheel[1];
        span.raw[0] = desk_place.raw[0], span.raw[1] = desk_place.raw[1];
    }
    span.to = to;
    span.usual = to - from;
    if (from != place.motions) [[unlikely]] {
        ++state_.overruns;
        state_.lost += from - place.motions;
        // Of the oldest that is left, what it added is not known: it is told in the sums only.
        MotionSlot oldest;
        if (to != from && ring.try_read(from, oldest)) {
            span.from = from + 1;
            span.motion = oldest.motion, span.raw = oldest.raw, span.wheel = oldest.wheel;
        }
    }
    place.motions = to;
    if (to == from) return to == end;

    const std::uint64_t before = desk_place.motion_counts, after = word(counts);
    const std::uint64_t count = to - from;
    state_.taken += count;
    if (after == before) {
        entries.moved_by_person = true;
    } else {
        state_.taken -= std::min(MotionSlot::counted(before, after, MotionSlot::one_extra), count);
        state_.late += MotionSlot::counted(before, after, MotionSlot::one_late);
        const std::uint64_t programs = MotionSlot::counted(before, after, MotionSlot::one_virtual);
        entries.moved_by_program |= programs != 0;
        entries.moved_by_person |= programs != count;
    }
    // Late too, though in order: what came after a cut with an earlier stamp. (What the last look left for later is
    // none of it.)
    if (from != span.known_later && ring.time_at(from) < state_.t0) [[unlikely]] {
        const std::uint64_t first = ring.later_than(state_.t0 - 1, from, to, 0);
        MotionSlot until_then;
        state_.late += first - from;
        if (ring.try_read(first - 1, until_then))
            state_.late -= MotionSlot::counted(before, until_then.counts, MotionSlot::one_late);
    }
    span.known_later = to == end ? UINT64_MAX : to;
    if (growing_) keep_motions(number, from, to);

    const auto add = [](std::uint64_t& sum, std::uint64_t& total, std::uint64_t now) {
        sum += now - total;
        total = now;
    };
    add(entries.motion[0], place.motion[0], word(motion_x));
    add(entries.motion[1], place.motion[1], word(motion_y));
    add(entries.wheel[0], place.wheel[0], word(wheel_x));
    add(entries.wheel[1], place.wheel[1], word(wheel_y));
    add(entries.raw[0], desk_place.raw[0], word(raw_x));
    add(entries.raw[1], desk_place.raw[1], word(raw_y));
    if (const std::uint64_t now = word(steps); now != desk_place.steps) {
        entries.steps[0] += static_cast<std::uint32_t>(now) - static_cast<std::uint32_t>(desk_place.steps);
        entries.steps[1] += static_cast<std::uint32_t>(now >> 32) - static_cast<std::uint32_t>(desk_place.steps >> 32);
        desk_place.steps = now;
    }
    desk_place.motion_counts = after;
    const std::uint64_t x = word(position_x), y = word(position_y);
    if ((word(what) & MotionSlot::placed_bit) != 0 &&
        (!entries.placed || x != desk_place.pointer[0] || y != desk_place.pointer[1])) {
        entries.placed = true;
        entries.pointer[0] = x, entries.pointer[1] = y;
    }
    desk_place.pointer[0] = x, desk_place.pointer[1] = y;
    return to == end;
}

// For frames that outlast the history: a copy of every slot, with what it added in place of the totals.
void Sampler::keep_motions(unsigned number, std::uint64_t from, std::uint64_t to) noexcept {
    const detail::MotionRing& ring = timeline_->inlet(number).motions_;
    FixedDistance motion = state_.inlets[number].motion, wheel = state_.inlets[number].wheel;
    FixedDistance raw = desk_.inlets[number].raw;
    for (MotionSlot slot; from != to; ++from) {
        if (!ring.try_read(from, slot)) continue;
        for (unsigned axis = 0; axis < 2; ++axis) {
            slot.motion[axis] -= std::exchange(motion[axis], slot.motion[axis]);
            slot.raw[axis] -= std::exchange(raw[axis], slot.raw[axis]);
            slot.wheel[axis] -= std::exchange(wheel[axis], slot.wheel[axis]);
        }
        desk_entries_.kept.push_back(slot);
    }
}

// ---- axes

void Sampler::add_axis(const AxisSlot& slot) noexcept {
    if (slot.track() >= axis_capacity) return;
    DeskEntries& entries = desk_entries_;
    entries.tracks = std::max<std::uint32_t>(entries.tracks, slot.track() + 1U);
    const std::uint32_t ordinal = entries.axis_base + entries.axis_count;
    entries.axes[entries.axis_count++] = {
        std::max(slot.time, state_.t0), slot.value, std::exchange(entries.axis_last[slot.track()], ordinal),
        static_cast<std::uint16_t>(slot.track()), static_cast<std::uint16_t>(slot.device() | slot.axis() << 8)};
}

bool Sampler::take_axes(unsigned number, std::int64_t until) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    const detail::AxisRing& ring = inlet.axes_;
    std::uint64_t place = desk_.inlets[number].axes;
    const std::uint64_t end = ring.published();
    for (AxisSlot slot; place != end; ++place) {
        const auto* const words = ring.words_at(place);
        slot.time = static_cast<std::int64_t>(words[0].load(std::memory_order_acquire));
        if (slot.time > until && ring.still_has(place)) break;
        slot.what = words[1].load(std::memory_order_acquire);
        slot.value = std::bit_cast<double>(words[2].load(std::memory_order_acquire));
        const bool has_room = desk_entries_.axis_count < desk_entries_.axis_room;
        if (!ring.still_has(place) || (!has_room && !growing_)) [[unlikely]] {
            heal_axes(number, until);
            return false;
        }
        if (!has_room) [[unlikely]] {
            desk_entries_.axis_room *= 2;
            desk_entries_.axes.resize(std::size_t{desk_entries_.axis_room} + axis_capacity);
        }
        add_axis(slot);
    }
    desk_.inlets[number].axes = place;
    return place == end;
}

// The present values, as changes at `until`.
void Sampler::heal_axes(unsigned number, std::int64_t until) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    std::array<AxisSlot, axis_capacity> values;
    const unsigned first = inlet.place_.first_track, room = inlet.place_.track_room;
    const auto place_of = [&](const AxisSlot& slot) { return slot.track() - first; };
    std::uint64_t position = 0;
    while (!inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), position, place_of)) {
    }
    ++state_.overruns;
    desk_.inlets[number].axes = position;
    if (growing_)
        desk_entries_.axes.resize(
            std::max<std::size_t>(desk_entries_.axes.size(), desk_entries_.axis_count + 2 * axis_capacity));
    for (unsigned i = 0; i < room && desk_entries_.axis_count < desk_entries_.axes.size(); ++i) {
        AxisSlot slot = values[i];
        if (slot.time == 0 && slot.what == 0 && slot.value == 0) continue;  // not in use
        slot.time = std::max(state_.effective, std::min(until, nanoseconds(inlet.latest())));
        add_axis(slot);
    }
}

// ---- clicks, drags, contacts, devices

bool Sampler::take_facts(unsigned number, std::int64_t until) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    std::uint64_t& place = desk_.inlets[number].facts;
    FactSlot fact;
    for (const std::uint64_t end = inlet.facts_.published(); place != end; ++place) {
        const bool is_whole = inlet.facts_.try_read(place, fact);
        if (is_whole && fact.time > until) return false;
        const bool has_room = desk_entries_.fact_count < desk_entries_.facts.size();
        if (!is_whole || (!has_room && !growing_)) [[unlikely]] {
            heal_facts(number);
            return false;
        }
        if (!has_room) [[unlikely]]
            desk_entries_.facts.resize(desk_entries_.facts.size() * 2);
        add_fact(fact);
    }
    return true;
}

void Sampler::add_fact(FactSlot fact) noexcept {
    fact.time = std::max(fact.time, state_.t0);
    desk_entries_.facts[desk_entries_.fact_count++] = fact;
    if (fact.kind() == FactKind::pointer_flags) {
        desk_entries_.outside = (fact.begin[0] & 1) != 0;
        desk_entries_.locked = (fact.begin[0] & 2) != 0;
    }
}

// What was overwritten is gone; what is left is taken in the next frames. Contacts that are no longer there are called
// off: their ends may be among what is gone.
void Sampler::heal_facts(unsigned number) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    const unsigned first = inlet.place_.first_contact, room = inlet.place_.contact_room;
    std::array<FactSlot, contact_capacity> theirs;
    const auto place_of = [&](const FactSlot& fact) { return fact.is_contact() ? fact.place() - first : room; };
    std::uint64_t position = 0;
    while (!inlet.contact_table_.try_read(inlet.facts_, 0, room, theirs.data(), position, place_of)) {
    }
    ++state_.overruns;
    desk_.inlets[number].facts = position;
    desk_entries_.fact_count = 0;  // of this frame only the present is told
    const auto set = [](FactSlot fact, FactKind kind) {
        fact.what = (fact.what & ~std::uint64_t{0xFF00}) | std::uint64_t{static_cast<unsigned>(kind)} << 8;
        return fact;
    };
    for (unsigned i = 0; i < room; ++i) {
        const FactSlot& mine = desk_.contacts[first + i];
        const bool same = mine.contact == theirs[i].contact && mine.begin_time == theirs[i].begin_time;
        if (mine.goes_on() && !(theirs[i].goes_on() && same)) add_fact(set(mine, FactKind::contact_cancel));
        if (theirs[i].goes_on() && theirs[i].what != 0)
            add_fact(set(theirs[i], same ? FactKind::contact_move : FactKind::contact_begin));
    }
    // Presses in progress: no click is made up of what was not seen.
    for (unsigned i = 0; i < inlet.place_.press_room; ++i) {
        const FactSlot& mine = desk_.presses[inlet.place_.first_press + i];
        if (mine.goes_on() && mine.what != 0) add_fact(set(mine, FactKind::cancel));
    }
}

// ---- starting

// As of `start`, as far as the history tells.
void Sampler::start_desk_at(unsigned number, std::int64_t start) noexcept {
    const Inlet& inlet = timeline_->inlet(number);
    detail::InletPosition& place = state_.inlets[number];
    DeskState::Place& desk_place = desk_.inlets[number];

    const detail::MotionRing& ring = inlet.motions_;
    MotionSlot slot;
    for (;;) {
        const std::uint64_t end = ring.published(), oldest = std::min(ring.oldest(), end);
        place.motions = ring.later_than(start, oldest, end, end - oldest);
        if (place.motions == 0) break;
        // The totals before what is yet to come; of the oldest slot that still stands, its own.
        if (place.motions == oldest && place.motions != end) ++place.motions;
        if (!ring.try_read(place.motions - 1, slot)) continue;
        place.motion = slot.motion;
        place.wheel = slot.wheel;
        desk_place.raw = slot.raw;
        desk_place.steps = slot.steps;
        desk_place.motion_counts = slot.counts;
        desk_place.pointer = slot.position;
        if (slot.is_placed()) desk_.placed = true, desk_.pointer = slot.position;
        break;
    }

    const unsigned first = inlet.place_.first_track, room = inlet.place_.track_room;
    std::array<AxisSlot, axis_capacity> values;
    while (!inlet.axis_table_.try_read(inlet.axes_, 0, room, values.data(), desk_place.axes,
                                       [&](const AxisSlot& s) { return s.track() - first; })) {
    }
    // Back to `start`: what changed since then had the value of its last change before.
    std::array<bool, axis_capacity> undone{};
    AxisSlot back;
    std::uint64_t at = desk_place.axes;
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back) && back.time > start; --at)
        if (back.track() - first < room) undone[back.track() - first] = true;
    desk_place.axes = at;
    for (unsigned i = 0; i < room; ++i) {
        if (undone[i]) values[i].value = 0;
        if (values[i].what == 0 && values[i].value == 0 && values[i].time == 0) continue;
        desk_.axis_values[first + i] = values[i].value;
        desk_.axis_owners[first + i] = static_cast<std::uint16_t>(values[i].device() | values[i].axis() << 8);
        desk_.tracks = std::max<std::uint32_t>(desk_.tracks, first + i + 1);
    }
    for (; at > inlet.axes_.oldest() && inlet.axes_.try_read(at - 1, back); --at) {
        const unsigned i = back.track() - first;
        if (i >= room || !undone[i]) continue;
        desk_.axis_values[first + i] = back.value;
        undone[i] = false;
    }

    std::uint64_t fact_at = inlet.facts_.published();
    FactSlot fact;
    while (fact_at > inlet.facts_.oldest() && inlet.facts_.try_read(fact_at - 1, fact) && fact.time > start) --fact_at;
    desk_place.facts = fact_at;
    // What is in progress then: the latest fact of each place before.
    std::array<bool, press_capacity + contact_capacity> known{};
    bool flags_known = false;
    for (; fact_at > inlet.facts_.oldest() && inlet.facts_.try_read(fact_at - 1, fact); --fact_at) {
        if (fact.kind() == FactKind::pointer_flags && !std::exchange(flags_known, true)) {
            desk_.outside = (fact.begin[0] & 1) != 0;
            desk_.locked = (fact.begin[0] & 2) != 0;
        }
        if (fact.kind() > FactKind::contact_cancel) continue;
        const bool is_press = fact.is_press();
        if (std::exchange(known[(is_press ? 0 : press_capacity) + fact.place()], true)) continue;
        (is_press ? desk_.presses[fact.place()] : desk_.contacts[fact.place()]) = fact;
    }
}

void Sampler::cancel_presses() noexcept { desk_.no_clicks_before = state_.t1; }

}  // namespace cursorum
