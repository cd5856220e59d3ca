#include "core/sampler/sampler_core.hpp"

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <new>
#include <utility>

#include "core/buttons/edge_taker.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/either_side.hpp"
#include "core/rules/merging.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::Effect;
using detail::no_hold;
using detail::SamplerState;
using detail::Slot;
using detail::SlotKind;
using detail::What;

namespace {

// Healing may end and start every hold, each with a record for an either-side name; the end of a pause likewise.
constexpr std::size_t healing_records = 8 * hold_capacity;
// A next event this far beyond the cut is counted: no source is so much ahead of the game, but a wrong clock may be.
constexpr std::int64_t far_ahead = 1'000'000'000;

}  // namespace

[[gnu::always_inline]] inline void detail::FrameEntries::commit(SamplerState& state) const noexcept {
    // By bytes: of whole words each would wait for the one before it, since most keys are in the same two.
    auto* const levels = reinterpret_cast<unsigned char*>(state.levels.data());
    constexpr unsigned byte_order = std::endian::native == std::endian::little ? 0 : 7;
    for (const StoredEdge *at = edges, *const end = edges + count; at != end; ++at) {
        const Slot record{*at};
        const What what = record.what();
        const unsigned button = record.button();
        const bool by_adopt = what.effect() == Effect::adopt;
        unsigned char& level = levels[button / 8 ^ byte_order];
        level = static_cast<unsigned char>(level ^ unsigned{what.turns()} << button % 8);
        const unsigned merged = no_button + ((button - no_button) & (0U - what.starts()));  // as `?:` it gets a branch
        state.start[merged] = record.time;
        state.adopted[merged] = by_adopt;
        // System repeats have none; a record for an either-side name stands before its key's, which is written over it.
        state.holds[hold_of(record.low())] = record.without_extra();
    }
    state.t0 = state.t1;
    if (state.merges) state.merges = state.always_merges || state.levels != ButtonSet::Words{};
}

/// What healing works on: too much for a small stack, and nothing may be allocated then.
struct SamplerCore::Healing {
    struct Change {
        std::uint64_t order;  // ended before started, by device, then by name
        Slot slot;
    };
    SamplerState now, skipped;
    detail::InletHistory::Standing standing;
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
};

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options)
    : SamplerCore{timeline, options, WithoutPeek{}} {
    peeking_.reset(new SamplerCore{timeline, options, WithoutPeek{}});
    peeking_->entries_.is_peek = true;
    const std::int64_t start =
        std::clamp(nanoseconds(options.start), nanoseconds(earliest_time), nanoseconds(latest_time));
    state_.t0 = state_.t1 = state_.late_before = state_.effective = start;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        start_at(i, start);
        start_desk_at(i, start);
    }
    desk_entries_.start(desk_, timeline.inlet_count());
    state_.always_merges = timeline.inlet_count() > 1;
    if (state_.always_merges) start_merging();
}

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options, WithoutPeek)
    : timeline_{&timeline},
      entries_{timeline, state_, desk_, desk_entries_},
      frame_{entries_},
      healing_{std::make_unique<Healing>()},
      growing_{options.growing} {
    std::size_t edges = 0, motions = 0, axes = 0;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        edges += timeline.inlet(i).ring_.capacity();
        motions += timeline.inlet(i).motions_.capacity();
        axes += timeline.inlet(i).axes_.capacity();
    }
    entries_.make_room(edges, edges + axes, healing_records);
    entries_.ages.resize(edges + motions + axes + 1);
    make_desk_room();
    state_.repeats[0] = options.repeat.is_valid() ? options.repeat : Repeat{};
}

SamplerCore::~SamplerCore() = default;

const Frame& SamplerCore::peek(Time time) noexcept {
    const OneThread here{door_};
    assert(!open_ && "a frame is in the making: peek at a cut");
    peeking_->state_ = state_;
    entries_.commit(peeking_->state_);
    peeking_->desk_ = desk_;
    desk_entries_.bring_up(peeking_->desk_, timeline_->inlet_count());
    peeking_->entries_.clear();
    peeking_->desk_entries_.start(peeking_->desk_, timeline_->inlet_count());
    peeking_->forget_looks();
    return peeking_->advance(time);
}

void SamplerCore::save_to(detail::SavedSampler& saved) const noexcept {
    const OneThread here{door_};
    assert(!open_ && "a frame is in the making: save at a cut");
    saved.state = state_;
    entries_.commit(saved.state);
    saved.desk = desk_;
    desk_entries_.bring_up(saved.desk, timeline_->inlet_count());
}

void SamplerCore::restore(const detail::SavedSampler& saved) noexcept {
    const OneThread here{door_};
    state_ = saved.state;
    entries_.clear();
    desk_ = saved.desk;
    desk_entries_.start(desk_, timeline_->inlet_count());
    forget_looks();
    open_ = false;
}

bool SamplerCore::set_repeat(const Repeat& repeat) noexcept {
    if (!repeat.is_valid()) return false;
    state_.repeats[0] = repeat;
    return true;
}

bool SamplerCore::set_repeat(Button button, const Repeat& repeat) noexcept {
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

SamplerCounters SamplerCore::counters() const noexcept {
    return {state_.taken,     state_.late,      state_.lost,    state_.overruns,
            state_.went_back, state_.held_back, state_.skipped, state_.moved};
}

// ---- taking events

// For how many more slots of events there is room.
[[gnu::always_inline]] inline std::size_t SamplerCore::free_slots() const noexcept {
    // Healing may have used more than the room for slots.
    return entries_.count >= entries_.room
               ? 0
               : std::min(entries_.room - entries_.count, entries_.stamp_room - entries_.stamp_count);
}

// Some of them, as many as there is room for; false if it met a later one, or had to heal. Only when all are taken it
// is made sure that none was written over meanwhile; else they are given back.
template <bool merges, bool has_gap>
[[gnu::always_inline]] inline bool SamplerCore::take_some(const detail::InletHistory& inlet, unsigned number,
                                                          std::uint64_t stop, std::int64_t limit,
                                                          Before& before) noexcept {
    const detail::EdgeRing& ring = inlet.ring_;
    const auto places = ring.places();
    detail::InletPosition& place = state_.inlets[number];
    std::uint64_t position = place.edges;
    bool later = false;
    detail::Taking taking{state_, entries_, place};
    for (; position != stop; ++position) {
        const Slot slot = detail::EdgeRing::read(places, position);
        if (slot.time > limit && slot.what().is_first()) {  // an event's slots go together
            later = true;
            note_head(slot.time);
            break;
        }
        if (!detail::is_unusual(slot.low())) [[likely]] {
            taking.apply<merges, has_gap>(slot);
        } else if (slot.what().kind() == SlotKind::late) {
            const std::int64_t turn = turn_of(slot, position, number, before);
            later = turn > limit;
            if (later) {
                note_head(turn);
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
                if (detail::is_unusual(own.low()))
                    taking.apply_unusual<merges, has_gap>(own);
                else
                    taking.apply<merges, has_gap>(own);
            }
        } else {
            taking.apply_unusual<merges, has_gap>(slot);
        }
    }
    const Slot last = detail::EdgeRing::read(places, position - 1);
    if (!ring.still_has(place.edges)) {
        taking.give_back();
        heal(number, limit);
        return false;
    }
    if (position == place.edges) return false;
    taking.finish();
    taking.count_events(position - place.edges, last);
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

[[gnu::always_inline]] inline void SamplerCore::take_desk(const detail::InletHistory& inlet, unsigned number,
                                                          std::int64_t until) noexcept {
    if (const std::uint64_t beside = inlet.beside_.look(); beside != desk_.inlets[number].beside)
        take_all_beside(inlet, number, until, beside);
}

[[gnu::always_inline]] inline void SamplerCore::take(std::int64_t until) noexcept {
    head_ = nanoseconds(earliest_time);
    if (state_.always_merges) return take_of_several(until);
    const detail::InletHistory& desk = timeline_->inlet(0);
    const std::uint64_t end = desk.ring_.published();  // first: no motion that came earlier is missed then
    Before before{state_.inlets[0], desk_.inlets[0]};
    take_desk(desk, 0, until);
    if (state_.inlets[0].edges != end) take_edges(desk, 0, end, until, before);
}

[[gnu::always_inline]] inline void SamplerCore::open_frame() noexcept {
    if (entries_.count != 0 || state_.merges) entries_.commit(state_);
    state_.t0 = state_.late_before = state_.t1;
    entries_.clear();
    if (desk_entries_.has_any) {
        desk_entries_.commit(desk_);
        desk_entries_.clear(state_.always_merges ? timeline_->inlet_count() : 1);
    }
    state_.effective = std::max(state_.effective, state_.t0);
}

const Frame& SamplerCore::advance(Time cut) noexcept {
    const OneThread here{door_};
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
        const OneThread here{door_};
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
    const OneThread here{door_};
    if (!growing_) return;  // a frame of more than the history has room only if it may grow
    if (!open_) open_frame();
    open_ = true;
    if (until >= Time{Duration{state_.t1}} && until <= latest_time) take(nanoseconds(until));
}

void SamplerCore::take_of_several(std::int64_t until) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    // What was published when the taking began; the edges first, so that no motion that came earlier is missed.
    std::array<std::uint64_t, inlet_capacity> ends;
    BeforeOfAll befores;
    bool any_beside = false;
    for (unsigned i = 0; i < inlets; ++i) {
        ends[i] = timeline_->inlet(i).ring_.published();
        befores[i] = {state_.inlets[i], desk_.inlets[i]};
        any_beside |= timeline_->inlet(i).beside_.look() != desk_.inlets[i].beside;
    }
    if (any_beside) take_all_beside_of_several(until, befores);
    const auto turn = [&](unsigned i) {
        Slot slot{};
        if (state_.inlets[i].edges >= ends[i]) return nothing_more;
        // What was overwritten is healed as soon as its inlet's turn comes.
        if (!timeline_->inlet(i).ring_.try_read(state_.inlets[i].edges, slot)) return nanoseconds(earliest_time);
        return slot.what().kind() == SlotKind::late ? turn_of(slot, state_.inlets[i].edges, i, befores[i]) : slot.time;
    };
    const auto take = [&](unsigned i, std::int64_t limit) {
        const std::uint64_t before = state_.inlets[i].edges;
        take_edges(timeline_->inlet(i), i, ends[i], limit, befores[i]);
        return state_.inlets[i].edges != before;
    };
    take_in_turn(inlets, until, turn, take);
}

// When a late event has its turn: by its stamp, but not before the motion and the axes that its inlet posted earlier
// and that the sampler had not taken yet. Late events come in order, so `before` goes through that motion once.
std::int64_t SamplerCore::turn_of(Slot late, std::uint64_t position, unsigned inlet, Before& before) const noexcept {
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

bool SamplerCore::make_room() noexcept {
    if (!growing_) return false;
    entries_.make_room(entries_.room * 2, entries_.stamp_room * 2, healing_records);
    return true;
}

// ---- pauses

// [from, to), where `to` is the frame's start: what came before is taken, what falls into it is taken and given back.
void SamplerCore::skip(std::int64_t from, std::int64_t to) noexcept {
    take(from - 1);
    skip_begins_ = {.records = entries_.count,
                    .stamps = entries_.stamp_count,
                    .axes = desk_entries_.axis_count,
                    .facts = desk_entries_.fact_count,
                    .taken = state_.taken,
                    .late = state_.late,
                    .moved = state_.moved,
                    .kept = desk_entries_.kept.size(),
                    .moved_by_person = desk_entries_.moved_by_person,
                    .moved_by_program = desk_entries_.moved_by_program};
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) desk_entries_.spans[i].begin_hole();
    take(to - 1);
    state_.skipped += state_.taken - skip_begins_.taken;
    state_.late = skip_begins_.late;
    state_.moved = skip_begins_.moved;
    skip_buttons(to);
    skip_beside(to);
    entries_.skip_at = skip_begins_.records;
}

void SamplerCore::skip_buttons(std::int64_t to) noexcept {
    SamplerState &before = healing_->now, &after = healing_->skipped;
    after = before = state_;
    entries_.commit(after);
    const std::uint32_t all = std::exchange(entries_.count, skip_begins_.records);
    entries_.commit(before);
    for (std::uint32_t i = all; i > entries_.count; --i)
        entries_.last[entries_.records[i - 1].button()] = entries_.record_links[i - 1];
    entries_.stamp_count = skip_begins_.stamps;
    start_merging(before.holds);
    healing_->count = 0;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        if (before.holds[i].is_held()) add_change(SlotKind::cancel, i, before.holds[i]);
        if (after.holds[i].is_held()) add_change(SlotKind::adopt, i, after.holds[i]);
    }
    apply_changes(0, to);
}

// ---- starting and healing

// The levels of the inlet's last event, or of an earlier position by undoing the slots behind it.
void SamplerCore::start_at(unsigned number, std::int64_t start) noexcept {
    const detail::InletHistory& inlet = timeline_->inlet(number);
    detail::InletHistory::Standing& standing = healing_->standing;
    if (!inlet.try_read_standing(standing)) return;  // the first frame heals
    std::uint64_t position = standing.position, undone_events = 0;
    bool guessed = false;
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        // Times go up from slot to slot but for `late` ones, which go with the slot behind them.
        const SlotKind kind = slot.what().kind();
        if (kind != SlotKind::late && slot.time <= start) break;
        undone_events += slot.what().is_first();
        position = at - 1;
        if (kind > SlotKind::cancel || slot.button() >= first_either_side) continue;
        Slot& hold = standing.holds[detail::hold_of(slot.low()) - inlet.place_.first_hold];
        if (slot.what().device_is_down()) {
            hold = slot.with_what(What::of(SlotKind::release, Effect::none, false, false));
            continue;
        }
        hold = slot.with_what(What::of(SlotKind::adopt, Effect::none, false, true));
        hold.time = start;
        guessed |= !find_beginning(inlet, position, hold);
    }
    state_.inlets[number].edges = position;
    state_.inlets[number].events = standing.events - undone_events;
    for (unsigned i = 0; i < inlet.place_.hold_room; ++i) settle(standing.holds[i]);
    if (guessed && !state_.merges) start_merging();
}

// When and how the hold began that ends behind `position`, if the history still tells.
bool SamplerCore::find_beginning(const detail::InletHistory& inlet, std::uint64_t position, Slot& hold) const noexcept {
    Slot slot;
    for (std::uint64_t at = position; at > inlet.ring_.oldest() && inlet.ring_.try_read(at - 1, slot); --at) {
        if (detail::hold_of(slot.low()) != detail::hold_of(hold.low()) || slot.button() != hold.button() ||
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
    state_.holds[detail::hold_of(hold.low())] = hold.without_extra();
    for_each_name(hold.button(), [&](std::uint16_t button) {
        // The merged hold is the earliest press's, or the earliest adopt's if nobody pressed.
        std::uint64_t& levels = state_.levels[button / 64];
        const std::uint64_t mask = std::uint64_t{1} << (button % 64);
        bool& adopted = state_.adopted[button];
        const bool first = (levels & mask) == 0, same_kind = adopted != pressed;
        if (first || (pressed && adopted) || (same_kind && hold.time < state_.start[button])) {
            state_.start[button] = hold.time;
            adopted = !pressed;
        }
        levels |= mask;
    });
}

// From the holds as they are known to the state, which must be committed.
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
    detail::InletHistory::Standing& standing = healing_->standing;
    if (!inlet.try_read_standing(standing)) return;  // the next frame finds it overrun again
    detail::InletPosition& place = state_.inlets[number];
    ++state_.overruns;
    state_.lost += standing.events - place.events;
    place.events = standing.events;
    place.edges = standing.position;
    state_.effective = healing_time(number, until);

    now = state_;
    entries_.commit(now);
    start_merging(now.holds);
    healing_->count = 0;
    for (unsigned i = 0; i < inlet.place_.hold_room; ++i) {
        const unsigned hold = inlet.place_.first_hold + i;
        const detail::Slot& mine = now.holds[hold];
        const Slot& theirs = standing.holds[i];
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
        Slot::of(0, detail::slot_low(hold, detail::is_virtual(of.low()), 0), of.button(), of.device(),
                 What::of(kind, Effect::none, false, false))};
}

// What a sampler cancels and adopts by itself, all at once.
void SamplerCore::apply_changes(unsigned number, std::int64_t time) noexcept {
    const auto begin = healing_->changes.begin(), end = begin + healing_->count;
    std::sort(begin, end, [](const auto& a, const auto& b) { return a.order < b.order; });
    state_.effective = std::max(state_.effective, time);
    detail::Taking taking{state_, entries_, state_.inlets[number]};
    for (auto at = begin; at != end; ++at) {
        for_each_name(at->slot.button(), [&](std::uint16_t button) {
            Slot slot = Slot::of(time, at->slot.low(), button, at->slot.device(), at->slot.what());
            taking.apply<true, true>(slot);
        });
    }
    taking.finish();
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

Sampler::State Sampler::save() const noexcept {
    State state;
    save_to(state);
    return state;
}
void Sampler::save_to(State& state) const noexcept { core_->save_to(*new (state.bytes_.bytes) detail::SavedSampler); }
void Sampler::restore(const State& state) noexcept { core_->restore(state.bytes_.as<detail::SavedSampler>()); }

bool Sampler::set_repeat(const Repeat& repeat) noexcept { return core_->set_repeat(repeat); }
bool Sampler::set_repeat(Button button, const Repeat& repeat) noexcept { return core_->set_repeat(button, repeat); }
void Sampler::cancel_presses() noexcept { core_->cancel_presses(); }
SamplerCounters Sampler::counters() const noexcept { return core_->counters(); }

}  // namespace cursorum
