// How a sampler cuts frames: it takes what each inlet has up to the cut, in the order of stamps if there are several,
// and the rest waits. Also gaps: pauses are taken and then discarded, stalls take effect at the frame's start.
#include "core/sampler/sampler_core.hpp"

#include <algorithm>
#include <cassert>
#include <memory>
#include <type_traits>

#include "core/rings/one_thread.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::Slot;
using detail::SlotKind;

namespace {

// A next event this far beyond the cut is counted: no source is that far ahead of the game, but a wrong clock may be.
constexpr std::int64_t far_ahead = 1'000'000'000;

}  // namespace

detail::FrameContext::FrameContext(const TimelineCore& timeline, bool growing)
    : timeline_{&timeline},
      entries_{timeline, state_, others_, other_entries_},
      growing_{growing},
      has_ledgers_{timeline.inlet(0).ledger_ != nullptr} {
    std::size_t edges = 0, axes = 0, occasions = 0, texts = 0;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        edges += timeline.inlet(i).ring_.capacity();
        axes += timeline.inlet(i).axes_.capacity();
        occasions += timeline.inlet(i).occasions_.capacity();
        texts += timeline.inlet(i).texts_.capacity();
    }
    entries_.make_room(edges, edges + axes, healing_room());
    // Healing may add a record for every track.
    other_entries_.axis_room = static_cast<std::uint32_t>(axes);
    other_entries_.axes.resize(axes + axis_capacity);
    other_entries_.occasions.resize(occasions + 2 * contact_capacity + press_capacity);
    other_entries_.texts.make_room(texts);
    other_entries_.keeps = growing;
    other_entries_.spans = std::make_unique<MotionSpan[]>(timeline.inlet_count());
}

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options)
    : SamplerCore{timeline, options, WithoutPeek{}} {
    if (options.peeking) {
        peeking_.reset(new SamplerCore{timeline, options, WithoutPeek{}});
        peeking_->entries_.is_peek = true;
    }
    const std::int64_t start =
        std::clamp(nanoseconds(options.start), nanoseconds(earliest_time), nanoseconds(latest_time));
    state_.t0 = state_.t1 = state_.late_before = state_.effective = start;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i)
        for_each_stream([&](auto& stream) { stream.start_at(*this, i, start); });
    other_entries_.start(others_, timeline.inlet_count());
    state_.always_merges = timeline.inlet_count() > 1;
    if (state_.always_merges) edges_.start_merging(*this);
}

SamplerCore::SamplerCore(const TimelineCore& timeline, const SamplerOptions& options, WithoutPeek)
    : FrameContext{timeline, options.growing}, frame_{entries_} {
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

[[gnu::always_inline]] inline void SamplerCore::take_others_if_changed(const detail::InletHistory& inlet,
                                                                       unsigned number, std::int64_t until) noexcept {
    if (const std::uint64_t others = inlet.changes_of_others_.look(); others != others_.inlets[number].others)
        take_others(inlet, number, until, others);
}

[[gnu::always_inline]] inline void SamplerCore::take(std::int64_t until) noexcept {
    head_ = nanoseconds(earliest_time);
    if (has_ledgers_) [[unlikely]]
        for (unsigned i = 0; i < timeline_->inlet_count(); ++i)
            entries_.ledger_ends[i] = timeline_->inlet(i).ledger_->end();
    if (state_.always_merges) return take_of_several(until);
    const detail::InletHistory& desk = timeline_->inlet(0);
    const std::uint64_t end = desk.ring_.published();  // first: no motion that came earlier is missed then
    detail::BeforeLate before{state_.inlets[0], others_.inlets[0]};
    take_others_if_changed(desk, 0, until);
    if (state_.inlets[0].edges != end) edges_.take(*this, desk, 0, end, until, before);
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

void SamplerCore::take_of_several(std::int64_t until) noexcept {
    const unsigned inlets = timeline_->inlet_count();
    // What was published when the taking began; the edges first, so that no motion that came earlier is missed.
    std::array<std::uint64_t, inlet_capacity> ends;
    detail::BeforeLateOfAll before_each;
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
        return slot.what().kind() == SlotKind::late
                   ? time_of_late(*timeline_, slot, state_.inlets[i].edges, i, before_each[i])
                   : slot.time;
    };
    const auto take = [&](unsigned i, std::int64_t limit) {
        const std::uint64_t before = state_.inlets[i].edges;
        edges_.take(*this, timeline_->inlet(i), i, ends[i], limit, before_each[i]);
        return state_.inlets[i].edges != before;
    };
    take_in_order(inlets, until, next_time, take);
}

// ---- pauses

// A late event's motion, axes and occasions have the latest stamp that its inlet had seen, which may be that of the
// last cut, where the pause begins. They come before the pause by its own stamp, as its edges do.
void SamplerCore::take_late_others(std::int64_t before) noexcept {
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        const detail::InletHistory& inlet = timeline_->inlet(i);
        other_entries_.has_any = true;
        for_each_other([&](auto& stream) {
            const auto& ring = stream.ring(inlet);
            typename std::remove_reference_t<decltype(stream)>::Slot slot;
            // The position of the first one that does not come before.
            std::uint64_t at = stream.taken(*this, i);
            for (const std::uint64_t end = ring.published(); at != end && ring.try_read(at, slot); ++at)
                if (slot.time > state_.late_before || stream.stamp_of(inlet, slot) >= before) break;
            if (at != stream.taken(*this, i)) stream.take(*this, inlet, i, state_.late_before, at);
        });
    }
}

// [from, to), where `to` is the frame's start: earlier events are taken; events within it are taken and discarded. What
// was down before it is cancelled, what is down after it is adopted; levels, positions and devices are those of its
// end.
void SamplerCore::skip(std::int64_t from, std::int64_t to) noexcept {
    take(from - 1);
    take_late_others(from);
    const std::uint64_t taken = state_.taken, late = state_.late, moved = state_.moved;
    for_each_stream([&](auto& stream) { stream.begin_skip(*this); });
    take(to - 1);
    state_.skipped += state_.taken - taken;
    state_.late = late;
    state_.moved = moved;
    for_each_stream([&](auto& stream) { stream.end_skip(*this, to); });
    other_entries_.has_any = true;
    entries_.skip_from = from;
}

void SamplerCore::cancel_presses() noexcept { others_.no_clicks_before = state_.t1; }

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
