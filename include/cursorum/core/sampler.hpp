// One consumer's way through a timeline.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <memory>

#include "cursorum/core/detail/one_at_a_time.hpp"
#include "cursorum/core/detail/sampler_state.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/core/tick.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

struct SamplerOptions {
    /// Where its first frame starts. What is down then is down already, and no edge.
    Time start = Clock::now();
    /// For every button without a setting of its own.
    Repeat repeat{};
    /// Allowed to allocate when one frame takes more than the timeline's whole history, by way of gather(). For tools
    /// that make long frames of files; a game leaves it off.
    bool growing = false;
};

/// What a sampler has counted since it was made.
struct SamplerCounters {
    std::uint64_t taken = 0;      ///< events
    std::uint64_t late = 0;       ///< of those, stamped earlier than what it had already taken, or than its last cut
    std::uint64_t lost = 0;       ///< events it never saw: it was overrun
    std::uint64_t overruns = 0;   ///< how often
    std::uint64_t went_back = 0;  ///< calls of advance with a time before the last cut, or out of range
    /// Frames whose next event, posted already, lay more than a second beyond the cut. It holds back the events behind
    /// it on its inlet: some stamp came from another clock (see Inlet::set_ahead_limit), or the cuts do.
    std::uint64_t held_back = 0;
    std::uint64_t skipped = 0;  ///< events that fell into a pause (see advance(const Tick&))
    std::uint64_t moved = 0;    ///< events that came before the beginning of a frame with a gap and took effect there
};

/// A sampler cuts a timeline into frames at times its consumer says. Any number may stand on one timeline, at any
/// rates; each sees every press once, and none disturbs another.
///
/// Rules: a frame (t0, t1] takes what was posted with a stamp of at most t1. Each inlet gives its events in the order
/// posted, one stamped later than t1 holds back those behind it; of several inlets the earliest stamp goes first, ties
/// by number. An event stamped earlier than its predecessor on the inlet, or than t0, is late: it takes effect then, or
/// at t0, and is counted. Nothing is lost for being late.
/// Overrun: a sampler that fell behind farther than an inlet's history takes the present levels as adopts and cancels,
/// and the distances moved, counts the events it did not see, and goes on. No producer ever notices.
/// Threads: one at a time, its frames included; which one may change from call to call, if the calls are ordered.
/// Builds with assertions notice two at once. It reads what other threads post meanwhile and waits for none of them.
/// Cost: advance costs by the events taken and by those of the frame before; it allocates nothing and throws nothing.
class Sampler {
public:
    /// Its whole state in 28 KB (16 of them buttons), trivially copyable, no pointers: keep it, copy it by memcpy,
    /// restore it later.
    class State {
        friend class Sampler;
        detail::SamplerState state;
        detail::DeskState desk;
    };

    /// Allocates about 50 bytes for each slot of the inlets' histories, and as much again for peeking; nothing after.
    /// The timeline outlives it. Any thread, whatever is being posted.
    explicit Sampler(const Timeline& timeline, const SamplerOptions& options = {});
    ~Sampler();
    Sampler(const Sampler&) = delete;
    Sampler& operator=(const Sampler&) = delete;

    /// Closes the frame that began at the last cut and returns it. With the same time again, the frame has no length
    /// and takes what came late. With an earlier time (or one out of range) nothing is taken, the cut stays, and the
    /// frame returned is empty, so that nothing fires twice; counted as went_back.
    const Frame& advance(Time cut) noexcept;

    /// Closes the frame that a TickClock's tick covers: it ends at tick.end, and starts at the last cut or at
    /// tick.begin, whichever is later. What was not taken before tick.begin takes effect there: presses and motion
    /// count, the time that a button was down earlier does not. After a pause, [gap_from, begin) is skipped. At its
    /// beginning all holds, clicks, drags and contacts are cancelled; what is pressed, released or moved in it is
    /// ignored; at its end, what is down is adopted. Connects, focus, locks, axis values and the pointer's
    /// position are as of its end. Nothing that was skipped or moved to `begin` is late; both are counted. Costs more
    /// than advance(Time) only if there is a gap.
    const Frame& advance(const Tick& tick) noexcept;

    /// Takes what is posted up to `until` into the frame in the making, without closing it; advance() then closes it.
    /// For frames that last longer than the timeline's history: only with SamplerOptions::growing, else it does
    /// nothing. Until the next advance the frame tells what came so far.
    void gather(Time until) noexcept;

    /// A look between cuts: the frame that advance(time) would give, without taking anything. The sampler, its own
    /// frame and its counters stay as they are. Empty if `time` is before the last cut, or out of range. The frame is
    /// good until the next peek. Costs a copy of the state (about 1 us) and what advance costs.
    const Frame& peek(Time time) noexcept;

    /// The last frame; empty before the first advance and after restore.
    const Frame& frame() const noexcept { return frame_; }

    /// As of the last cut. Not between gather and advance.
    State save() const noexcept;
    /// Goes back to where `state` was saved, with an empty frame, and walks the history from there again: same events,
    /// same cuts, same frames, as long as the history reaches back that far (else it is overrun and heals). What came
    /// late the first time is in its place now: so a simulation takes in what it has heard of too late.
    /// `state` must come from a sampler of the same timeline.
    void restore(const State& state) noexcept;

    /// For all buttons without a setting of their own. In force at once, for the last frame's readings too. False, and
    /// nothing changes, if delay or interval is not more than zero.
    bool set_repeat(const Repeat& repeat) noexcept;
    /// For one button; either-side names have their own. False as above, for no button, and when 15 different
    /// settings are in use already.
    bool set_repeat(Button button, const Repeat& repeat) noexcept;

    /// Calls off the presses of mouse buttons that are in progress at the last cut: none of them becomes a click, and
    /// what they drag is cancelled. For a dialogue that opens in the middle of a drag. The buttons stay down. In force
    /// for this sampler, at once.
    void cancel_presses() noexcept;

    SamplerCounters counters() const noexcept;

private:
    struct WithoutPeek {};
    Sampler(const Timeline& timeline, const SamplerOptions& options, WithoutPeek);

    struct Healing;
    void open_frame() noexcept;
    void take(std::int64_t until) noexcept;
    void make_desk_room();
    void forget_looks() noexcept;
    void take_of_several(std::int64_t until) noexcept;
    template <typename Turn, typename Take>
    void take_in_turn(unsigned inlets, std::int64_t until, Turn&& turn, Take&& take) noexcept;
    void take_desk(const Inlet& inlet, unsigned number, std::int64_t until) noexcept;
    void take_all_beside(const Inlet& inlet, unsigned number, std::int64_t until, std::uint64_t beside) noexcept;
    bool take_motions(const Inlet& inlet, unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    struct Stretch {
        std::uint64_t from, to;  // positions in a ring
    };
    Stretch find_motions(unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    void count_late_motions(const detail::MotionRing& ring, std::uint64_t from, std::uint64_t to,
                            std::uint64_t counts_before) noexcept;
    void lose_motions(unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;
    std::size_t keep_motions(unsigned inlet, std::uint64_t from, std::uint64_t to) noexcept;
    bool take_axes(const Inlet& inlet, unsigned number, std::int64_t until, std::uint64_t end) noexcept;
    bool make_axis_room() noexcept;
    void add_axis(const detail::AxisSlot& slot) noexcept;
    void heal_axes(unsigned inlet, std::int64_t until) noexcept;
    bool take_facts(unsigned inlet, std::int64_t until, std::uint64_t end) noexcept;
    bool hears_press(unsigned inlet, detail::FactSlot& fact) noexcept;
    void add_fact(detail::FactSlot fact) noexcept;
    void heal_facts(unsigned inlet, std::int64_t until) noexcept;
    std::int64_t healing_time(unsigned inlet, std::int64_t until) const noexcept;
    static void show_connected(const Inlet& inlet, detail::DeviceBits& connected) noexcept;
    /// Of one inlet, what comes before one of its late events: how far it was looked through.
    struct Before {
        Before() = default;
        Before(const detail::InletPosition& place, const detail::DeskState::Place& desk) noexcept
            : edges{place.edges}, motions{place.motions}, axes{desk.axes} {}
        std::uint64_t edges = 0, motions = 0, axes = 0;
        std::int64_t greatest = INT64_MIN;  // stamp
    };
    using BeforeOfAll = std::array<Before, inlet_capacity>;
    std::int64_t turn_of(detail::Slot late, std::uint64_t position, unsigned inlet, Before& before) const noexcept;
    /// When the next slot of a ring other than that of edges has its turn among all inlets'.
    std::int64_t turn_of(std::int64_t time, std::uint64_t late_at, unsigned inlet, Before& before) const noexcept;
    void take_all_beside_of_several(std::int64_t until, const BeforeOfAll& start) noexcept;
    void place_pointer_of_several() noexcept;
    void note_head(std::int64_t time) noexcept { head_ = std::max(head_, time); }
    bool take_some_merging(const Inlet& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                           Before& before) noexcept;
    void take_edges(const Inlet& inlet, unsigned number, std::uint64_t end, std::int64_t limit,
                    Before& before) noexcept;
    bool take_some_after_gap(const Inlet& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                             Before& before) noexcept;
    template <bool merges, bool has_gap>
    bool take_some(const Inlet& inlet, unsigned number, std::uint64_t stop, std::int64_t limit,
                   Before& before) noexcept;
    std::size_t free_slots() const noexcept;
    bool make_room() noexcept;
    void heal(unsigned inlet, std::int64_t until) noexcept;
    void skip(std::int64_t from, std::int64_t to) noexcept;
    void skip_buttons(std::int64_t to) noexcept;
    void skip_beside(std::int64_t to) noexcept;
    void skip_axes() noexcept;
    void skip_facts(std::int64_t to) noexcept;
    void add_change(detail::SlotKind kind, unsigned hold, const detail::Slot& of) noexcept;
    void apply_changes(unsigned number, std::int64_t time) noexcept;
    void start_at(unsigned inlet, std::int64_t start) noexcept;
    void start_desk_at(unsigned inlet, std::int64_t start) noexcept;
    bool find_beginning(const Inlet& inlet, std::uint64_t position, detail::Slot& hold) const noexcept;
    void settle(const detail::Slot& hold) noexcept;
    void start_merging() noexcept;
    void start_merging(const std::array<detail::DeviceHold, detail::no_hold + 1>& holds) noexcept;

    const Timeline* timeline_;
    detail::SamplerState state_;
    detail::DeskState desk_;
    detail::FrameEntries entries_;
    detail::DeskEntries desk_entries_;
    Frame frame_;
    std::unique_ptr<Healing> healing_;
    std::unique_ptr<Sampler> look_;  // for peeking
    mutable detail::OneAtATime door_;
    bool growing_;
    bool open_ = false;
    /// Of the frame in the making: how far it was when a pause before it began.
    struct SkipBegins {
        std::uint32_t records, stamps, axes, facts;
        std::uint64_t taken, late, moved;
        std::size_t kept;
        bool moved_by_person, moved_by_program;
    };
    SkipBegins skip_begins_{};
    std::int64_t head_ = 0;  // of what the last cut left for later: the latest of the next events' times
};

}  // namespace cursorum
