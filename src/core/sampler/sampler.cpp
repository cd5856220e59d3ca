// How a sampler cuts frames: it takes what each inlet has up to the cut, in the order of stamps if there are several,
// and the rest waits. Also gaps: pauses are taken and then discarded, stalls take effect at the frame's start.
#include "core/sampler/sampler_core.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <new>
#include <utility>

#include "core/controls/either_side.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/merging.hpp"
#include "core/sampler/edge_taker.hpp"
#include "core/sampler/healing.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::Effect;
using detail::no_hold;
using detail::SamplerState;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// A next event this far beyond the cut is counted: no source is that far ahead of the game, but a wrong clock may be.
constexpr std::int64_t far_ahead = 1'000'000'000;

// Healing may end and start every hold, each with a record for an either-side name, of which a device has eight keys;
// the end of a pause likewise.
std::size_t healing_room(const TimelineCore& timeline) noexcept {
    const std::size_t either_side = std::min(8 * timeline.device_room(), hold_capacity);
    return 2 * 2 * (hold_capacity + either_side);
}

}  // namespace

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options)
    : SamplerCore{timeline, options, WithoutPeek{}} {
    if (options.peeking) {
        peeking_.reset(new SamplerCore{timeline, options, WithoutPeek{}});
        peeking_->entries_.is_peek = true;
    }
    const std::int64_t start =
        std::clamp(nanoseconds(options.start), nanoseconds(earliest_time), nanoseconds(latest_time));
    state_.t0 = state_.t1 = state_.late_before = state_.effective = start;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        start_at(i, start);
        start_motion_at(i, start);
        start_axes_at(i, start);
        start_occasions_at(i, start);
    }
    other_entries_.start(others_, timeline.inlet_count());
    state_.always_merges = timeline.inlet_count() > 1;
    if (state_.always_merges) start_merging();
}

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options, WithoutPeek)
    : timeline_{&timeline},
      entries_{timeline, state_, others_, other_entries_},
      frame_{entries_},
      healing_{std::make_unique<Healing>()},
      growing_{options.growing} {
    std::size_t edges = 0, axes = 0;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        edges += timeline.inlet(i).ring_.capacity();
        axes += timeline.inlet(i).axes_.capacity();
    }
    entries_.make_room(edges, edges + axes, healing_room(timeline));
    make_room_for_others();
    state_.repeats[0] = options.repeat.is_valid() ? options.repeat : Repeat{};
}

SamplerCore::~SamplerCore() = default;

const Frame& SamplerCore::peek(Time time) noexcept {
    const OneThread here{guard_};
    assert(peeking_ && "made with SamplerOptions::peeking = false");
    assert(!open_ && "a frame is in the making: peek at a cut");
    if (!peeking_) return frame_;
    peeking_->state_ = state_;
    entries_.commit(peeking_->state_);
    peeking_->others_ = others_;
    other_entries_.commit_to(peeking_->others_, timeline_->inlet_count());
    peeking_->entries_.clear();
    peeking_->other_entries_.start(peeking_->others_, timeline_->inlet_count());
    return peeking_->advance(time);
}

bool SamplerCore::set_repeat(const Repeat& repeat) noexcept {
    if (!repeat.is_valid()) return false;
    state_.repeats[0] = repeat;
    return true;
}

bool SamplerCore::set_repeat(Button button, const Repeat& repeat) noexcept {
    if (!repeat.is_valid() || name_of(button).empty()) return false;
    // A setting in use, the button's own if no other button shares it, or a free one.
    std::array<bool, detail::repeat_settings> used{};
    used[0] = true;
    for (unsigned i = 0; i < button_capacity; ++i)
        if (i != button.number) used[state_.repeat_of[i]] = true;
    unsigned index = 0;
    for (unsigned i = 1; i < detail::repeat_settings; ++i) {
        if (used[i] && state_.repeats[i] == repeat) {
            index = i;
            break;
        }
        if (!used[i] && index == 0) index = i;
    }
    if (index == 0) return false;
    state_.repeats[index] = repeat;
    state_.repeat_of[button.number] = static_cast<std::uint8_t>(index);
    return true;
}

SamplerCounters SamplerCore::counters() const noexcept {
    return {.taken = state_.taken,
            .late = state_.late,
            .lost = state_.lost,
            .overruns = state_.overruns,
            .went_back = state_.went_back,
            .held_back = state_.held_back,
            .skipped = state_.skipped,
            .unplaced = entries_.unplaced.load(std::memory_order_relaxed),
            .moved = state_.moved};
}

// ---- taking events

// The number of event slots that still fit.
[[gnu::always_inline]] inline std::size_t SamplerCore::free_slots() const noexcept {
    // Healing may have used more than the room for slots.
    return entries_.count >= entries_.room
               ? 0
               : std::min(entries_.room - entries_.count, entries_.stamp_room - entries_.stamp_count);
}

// Takes as many of them as fit; returns false at a later one, or after healing. Whether any was overwritten meanwhile
// is checked once, after all have been taken; if so, they are discarded.
template <bool merges, bool has_gap>
[[gnu::always_inline]] inline bool SamplerCore::take_some(const detail::InletHistory& inlet, unsigned number,
                                                          std::uint64_t stop, std::int64_t limit,
                                                          Before& before) noexcept {
    const detail::EdgeRing& ring = inlet.ring_;
    const auto places = ring.places();
    detail::InletPosition& taken = state_.inlets[number];
    std::uint64_t position = taken.edges;
    bool later = false;
    detail::Taking taking{state_, entries_, taken};
    for (; position != stop; ++position) {
        const Slot slot = detail::EdgeRing::read(places, position);
        if (slot.time > limit && slot.what().is_first()) {  // an event's slots go together
            later = true;
            note_head(slot.time);
            break;
        }
        if (!detail::is_unusual(slot.tag())) [[likely]] {
            taking.apply<merges, has_gap>(slot);
        } else if (slot.what().kind() == SlotKind::late) {
            const std::int64_t due = queue_time_of(slot, position, number, before);
            later = due > limit;
            if (later) {
                note_head(due);
                break;
            }
            taking.apply_late(slot);
            // The late event's own slots. Their time is the latest that the inlet had seen. If this sampler has not
            // reached that, it has healed it away: then the stamp counts, and what was taken before.
            while (position + 1 != stop) {
                Slot own = detail::EdgeRing::read(places, position + 1);
                if (own.what().is_first() || own.what().kind() == SlotKind::late) break;
                ++position;
                if (own.time > limit) own.time = taking.effective;
                if (detail::is_unusual(own.tag()))
                    taking.apply_unusual<merges, has_gap>(own);
                else
                    taking.apply<merges, has_gap>(own);
            }
        } else {
            taking.apply_unusual<merges, has_gap>(slot);
        }
    }
    const Slot last = detail::EdgeRing::read(places, position - 1);
    if (!ring.still_has(taken.edges)) {
        taking.give_back();
        heal(number, limit);
        return false;
    }
    if (position == taken.edges) return false;
    taking.finish();
    taking.count_events(position - taken.edges, last);
    return !later;
}

bool SamplerCore::take_some_merging(const detail::InletHistory& inlet, unsigned number, std::uint64_t stop,
                                    std::int64_t limit, Before& before) noexcept {
    return take_some<true, false>(inlet, number, stop, limit, before);
}

bool SamplerCore::take_some_after_gap(const detail::InletHistory& inlet, unsigned number, std::uint64_t stop,
                                      std::int64_t limit, Before& before) noexcept {
    return state_.merges ? take_some<true, true>(inlet, number, stop, limit, before)
                         : take_some<false, true>(inlet, number, stop, limit, before);
}

/// `limit`: the latest stamp that comes before the cut, and before any other inlet's.
[[gnu::always_inline]] inline void SamplerCore::take_edges(const detail::InletHistory& inlet, unsigned number,
                                                           std::uint64_t end, std::int64_t limit,
                                                           Before& before) noexcept {
    bool on = true;
    while (on && state_.inlets[number].edges != end) {
        std::size_t free = free_slots();
        if (free == 0) [[unlikely]] {
            if (!make_room()) return heal(number, limit);
            free = free_slots();
        }
        const std::uint64_t stop = std::min(end, state_.inlets[number].edges + free);
        on = entries_.has_gap ? take_some_after_gap(inlet, number, stop, limit, before)
             : state_.merges  ? take_some_merging(inlet, number, stop, limit, before)
                              : take_some<false, false>(inlet, number, stop, limit, before);
    }
}

[[gnu::always_inline]] inline void SamplerCore::take_others_if_changed(const detail::InletHistory& inlet,
                                                                       unsigned number, std::int64_t until) noexcept {
    if (const std::uint64_t others = inlet.changes_of_others_.look(); others != others_.inlets[number].others)
        take_others(inlet, number, until, others);
}

[[gnu::always_inline]] inline void SamplerCore::take(std::int64_t until) noexcept {
    head_ = nanoseconds(earliest_time);
    if (state_.always_merges) return take_of_several(until);
    const detail::InletHistory& desk = timeline_->inlet(0);
    const std::uint64_t end = desk.ring_.published();  // first: no motion that came earlier is missed then
    Before before{state_.inlets[0], others_.inlets[0]};
    take_others_if_changed(desk, 0, until);
    if (state_.inlets[0].edges != end) take_edges(desk, 0, end, until, before);
}

[[gnu::always_inline]] inline void SamplerCore::open_frame() noexcept {
    if (entries_.count != 0 || state_.merges) entries_.commit(state_);
    state_.t0 = state_.late_before = state_.t1;
    entries_.clear();
    if (other_entries_.has_any) {
        other_entries_.commit(others_);
        other_entries_.clear(state_.always_merges ? timeline_->inlet_count() : 1);
    }
    state_.effective = std::max(state_.effective, state_.t0);
}

const Frame& SamplerCore::advance(Time cut) noexcept {
    const OneThread here{guard_};
    if (!open_) open_frame();
    open_ = false;
    ++state_.serial;
    const std::int64_t t1 = nanoseconds(cut);
    if (t1 < state_.t1 || cut > latest_time) {
        ++state_.went_back;
        return frame_;
    }
    take(t1);
    state_.t1 = t1;
    state_.held_back += head_ - t1 > far_ahead;
    return frame_;
}

const Frame& SamplerCore::advance(const Tick& tick) noexcept {
    if (tick.begin <= Time{Duration{state_.t1}} || tick.begin > tick.end || tick.end > latest_time) [[likely]]
        return advance(tick.end);
    {
        const OneThread here{guard_};
        if (!open_) open_frame();
        open_ = true;
        entries_.has_gap = true;
        state_.t0 = nanoseconds(tick.begin);
        if (tick.gap == Tick::Gap::paused && tick.gap_from < tick.begin)
            skip(std::max(nanoseconds(tick.gap_from), state_.late_before), state_.t0);
    }
    return advance(tick.end);
}

void SamplerCore::gather(Time until) noexcept {
    const OneThread here{guard_};
    if (!growing_) return;  // a frame of more than the history has room only if it may grow
    if (!open_) open_frame();
    open_ = true;
    if (until >= Time{Duration{state_.t1}} && until <= latest_time) take(nanoseconds(until));
}

bool SamplerCore::make_room() noexcept {
    if (!growing_) return false;
    entries_.make_room(entries_.room * 2, entries_.stamp_room * 2, healing_room(*timeline_));
    return true;
}

void SamplerCore::take_of_several(std::int64_t until) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    // What was published when the taking began; the edges first, so that no motion that came earlier is missed.
    std::array<std::uint64_t, inlet_capacity> ends;
    BeforeOfAll before_each;
    bool any_others = false;
    for (unsigned i = 0; i < inlets; ++i) {
        ends[i] = timeline_->inlet(i).ring_.published();
        before_each[i] = {state_.inlets[i], others_.inlets[i]};
        any_others |= timeline_->inlet(i).changes_of_others_.look() != others_.inlets[i].others;
    }
    if (any_others) take_others_of_several(until, before_each);
    const auto next_time = [&](unsigned i) {
        Slot slot{};
        if (state_.inlets[i].edges >= ends[i]) return nothing_more;
        // Overwritten slots are healed when their inlet is next.
        if (!timeline_->inlet(i).ring_.try_read(state_.inlets[i].edges, slot)) return nanoseconds(earliest_time);
        return slot.what().kind() == SlotKind::late ? queue_time_of(slot, state_.inlets[i].edges, i, before_each[i])
                                                    : slot.time;
    };
    const auto take = [&](unsigned i, std::int64_t limit) {
        const std::uint64_t before = state_.inlets[i].edges;
        take_edges(timeline_->inlet(i), i, ends[i], limit, before_each[i]);
        return state_.inlets[i].edges != before;
    };
    take_in_order(inlets, until, next_time, take);
}

// When a late event is taken: by its stamp, but not before the motion and the axes that its inlet posted earlier
// and that the sampler had not taken yet. Late events come in order, so `before` goes through that motion once.
std::int64_t SamplerCore::queue_time_of(Slot late, std::uint64_t position, unsigned inlet,
                                        Before& before) const noexcept {
    if (!late.what().is_first()) {  // axes posted earlier; the event's own slot stands behind it, and they go together
        if (late.ahead_of(before.axes) > 0) before.greatest = std::max(before.greatest, late.time);
        late = timeline_->inlet(inlet).ring_.read(position + 1);
        if (!late.what().is_first()) return before.greatest;  // torn
    }
    const detail::MotionRing& ring = timeline_->inlet(inlet).motions_;
    const auto ahead = static_cast<std::uint64_t>(std::max(late.ahead_of(before.motions), 0));
    const std::uint64_t end = before.motions + ahead;
    before.motions = end - std::min(ahead, ring.capacity());  // what is older is gone
    detail::MotionSlot slot;
    for (; before.motions != end; ++before.motions)
        if (ring.try_read(before.motions, slot)) before.greatest = std::max(before.greatest, slot.stamp());
    return std::max(late.time, before.greatest);
}

void SamplerCore::make_room_for_others() {
    std::size_t axes = 0, occasions = 0;
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        axes += timeline_->inlet(i).axes_.capacity();
        occasions += timeline_->inlet(i).occasions_.capacity();
    }
    // Healing may add a record for every track.
    other_entries_.axis_room = static_cast<std::uint32_t>(axes);
    other_entries_.axes.resize(axes + axis_capacity);
    other_entries_.occasions.resize(occasions + 2 * contact_capacity + press_capacity);
    other_entries_.keeps = growing_;
    other_entries_.spans = std::make_unique<detail::MotionSpan[]>(timeline_->inlet_count());
}

// ---- pauses

// A late event's motion, axes and occasions have the latest stamp that its inlet had seen, which may be that of the
// last cut, where the pause begins. They come before the pause by its own stamp, as its edges do.
void SamplerCore::take_late_others(std::int64_t before) noexcept {
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        const detail::InletHistory& inlet = timeline_->inlet(i);
        const auto stamp_of = [&](const auto& slot) {
            Slot late;
            return slot.late_at != detail::in_time && inlet.ring_.try_read(slot.late_at, late) ? late.time : slot.time;
        };
        /// The position of the first one that does not come before.
        const auto first_in_pause = [&](const auto& ring, std::uint64_t at, auto slot, auto&& stamp) {
            for (const std::uint64_t end = ring.published(); at != end && ring.try_read(at, slot); ++at)
                if (slot.time > state_.late_before || stamp(slot) >= before) break;
            return at;
        };
        const std::uint64_t motions = first_in_pause(inlet.motions_, state_.inlets[i].motions, detail::MotionSlot{},
                                                     [](const detail::MotionSlot& slot) { return slot.stamp(); });
        const std::uint64_t axes = first_in_pause(inlet.axes_, others_.inlets[i].axes, detail::AxisSlot{}, stamp_of);
        const std::uint64_t occasions =
            first_in_pause(inlet.occasions_, others_.inlets[i].occasions, detail::OccasionSlot{}, stamp_of);
        other_entries_.has_any = true;
        if (motions != state_.inlets[i].motions) take_motions(inlet, i, state_.late_before, motions);
        if (axes != others_.inlets[i].axes) take_axes(inlet, i, state_.late_before, axes);
        if (occasions != others_.inlets[i].occasions) take_occasions(i, state_.late_before, occasions);
    }
}

// [from, to), where `to` is the frame's start: earlier events are taken; events within it are taken and discarded.
void SamplerCore::skip(std::int64_t from, std::int64_t to) noexcept {
    take(from - 1);
    take_late_others(from);
    skip_begins_ = {.records = entries_.count,
                    .stamps = entries_.stamp_count,
                    .axes = other_entries_.axis_count,
                    .occasions = other_entries_.occasion_count,
                    .taken = state_.taken,
                    .late = state_.late,
                    .moved = state_.moved,
                    .kept = other_entries_.kept.size(),
                    .moved_by_person = other_entries_.moved_by_person,
                    .moved_by_program = other_entries_.moved_by_program};
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) other_entries_.spans[i].begin_hole();
    take(to - 1);
    state_.skipped += state_.taken - skip_begins_.taken;
    state_.late = skip_begins_.late;
    state_.moved = skip_begins_.moved;
    skip_buttons(to);
    skip_others(to);
    entries_.skip_at = skip_begins_.records;
    entries_.skip_axes_at = skip_begins_.axes;
    entries_.skip_axes_to = other_entries_.axis_count;
    entries_.skip_occasions_at = skip_begins_.occasions;
    entries_.skip_occasions_to = other_entries_.occasion_count;
    entries_.skip_from = from;
}

// ---- the public class

Sampler::Sampler(const Timeline& timeline, const SamplerOptions& options)
    : core_{new SamplerCore{core_of(timeline), options}} {}
Sampler::~Sampler() { delete core_; }

const Frame& Sampler::advance(Time cut) noexcept { return core_->advance(cut); }
const Frame& Sampler::advance(const Tick& tick) noexcept { return core_->advance(tick); }
void Sampler::gather(Time until) noexcept { core_->gather(until); }
const Frame& Sampler::peek(Time time) noexcept { return core_->peek(time); }
const Frame& Sampler::frame() const noexcept { return core_->frame(); }

bool Sampler::set_repeat(const Repeat& repeat) noexcept { return core_->set_repeat(repeat); }
bool Sampler::set_repeat(Button button, const Repeat& repeat) noexcept { return core_->set_repeat(button, repeat); }
void Sampler::cancel_presses() noexcept { core_->cancel_presses(); }
SamplerCounters Sampler::counters() const noexcept { return core_->counters(); }

}  // namespace cursorum
