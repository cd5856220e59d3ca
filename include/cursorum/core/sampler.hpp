// Samplers: each cuts a timeline into frames for one consumer.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/core/tick.hpp"
#include "cursorum/core/timeline.hpp"

namespace cursorum {

class SamplerCore;

/// When a button that is down went down, for Sampler::set_hold_beginnings().
struct HoldBeginning {
    DeviceId device{};  ///< 0: of the merged button, if it began before those that hold it now
    Button button;
    Time since;
    bool adopted = false;  ///< it was found down; else it was pressed

    friend constexpr bool operator==(const HoldBeginning&, const HoldBeginning&) = default;
};

struct SamplerOptions {
    /// Where its first frame starts. Buttons that are down then are down from the start, without an edge.
    Time start = Clock::now();
    /// The repeat setting of every button that has none of its own.
    Repeat repeat{};
    /// Allows gather() to allocate when one frame takes more than the timeline's whole history. For tools that make
    /// long frames from files; leave it off in a game.
    bool growing = false;
    /// The sampler has room for peek(). If false, it needs half of the memory, and peek() returns
    /// the last frame; builds with assertions stop there.
    bool peeking = true;
};

/// The counters of a sampler, from its construction on.
struct SamplerCounters {
    std::uint64_t taken = 0;      ///< events taken
    std::uint64_t late = 0;       ///< of those, events stamped earlier than one already taken, or than the last cut
    std::uint64_t lost = 0;       ///< events that were overwritten before it took them: it was overrun
    std::uint64_t overruns = 0;   ///< how often it was overrun
    std::uint64_t went_back = 0;  ///< calls of advance with a time before the last cut or out of range
    /// Frames whose next event, already posted, was stamped more than a second later than the cut. It holds back the
    /// events behind it on its inlet. Usually the stamp, or the cut, came from another clock (see
    /// Inlet::set_ahead_limit).
    std::uint64_t held_back = 0;
    std::uint64_t skipped = 0;  ///< events that fell into a pause, see advance(const Tick&)
    /// Questions for the pointer's position, or for targets, when motion had been posted but never a position.
    std::uint64_t unplaced = 0;
    std::uint64_t moved = 0;  ///< events from before a frame with a gap, which took effect at its start
};

/// Cuts a timeline into frames, at times that its consumer chooses. A timeline may have any number of samplers, at any
/// rates: each of them gets every press exactly once, and none affects another.
///
/// Rules: a frame (t0, t1] takes the events that have been posted with stamps up to t1. Each inlet's events are taken
/// in the order in which they were posted, and an event stamped later than t1 holds back those behind it. Of several
/// inlets, the event with the earliest stamp is taken first; ties go to the lower inlet number. An event stamped
/// earlier than its predecessor on the inlet, or than t0, is late: it takes effect at the predecessor's time, or at t0,
/// and is counted. Late events are never lost.
/// Overrun: a sampler that has fallen behind farther than an inlet's history takes the present levels as adopts and
/// cancels, takes the distances moved, counts the events that it missed, and goes on. Producers are not affected.
/// Threads: one at a time, for the sampler and its frames. Which thread that is may change from call to call, provided
/// that the calls are ordered; builds with assertions detect two threads at once. A sampler reads what other threads
/// post meanwhile and never waits for them.
/// Cost: advance() is proportional to the events taken and to those of the previous frame. It neither allocates nor
/// throws.
class CURSORUM_API Sampler {
public:
    /// A sampler's whole state: trivially copyable and without pointers, so that it can be kept, copied by memcpy, and
    /// restored later. It has room for the most that can be in use, 36 KB; bytes() is what is in use, about 1 KB while
    /// a few keys and a pad are down. Two samplers of the same events and cuts have the same bytes.
    class State {
    public:
        static constexpr std::size_t capacity = std::size_t{36} * 1024;
        /// What is in use: enough to compare states, or to keep them with as little memory as possible.
        std::span<const std::byte> bytes() const noexcept { return {bytes_, size_}; }

    private:
        friend class Sampler;
        std::size_t size_ = 0;
        std::byte bytes_[capacity];
    };

    /// Allocates about 28 bytes for each slot of the inlets' histories and 150 KB, and as much again for peeking
    /// (SamplerOptions::peeking); nothing later.
    /// The timeline must outlive the sampler. May be called on any thread, while others post.
    explicit Sampler(const Timeline& timeline, const SamplerOptions& options = {});
    ~Sampler();
    Sampler(const Sampler&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    Sampler& operator=(const Sampler&) = delete;

    /// Closes the frame that began at the last cut, and returns it. With the same time again, the frame has zero length
    /// and takes late events. With an earlier time, or one out of range, it takes nothing, keeps the last cut and
    /// returns an empty frame, so that nothing fires twice; this is counted as went_back.
    const Frame& advance(Time cut) noexcept;

    /// Closes the frame that a TickClock's tick covers: it ends at tick.end, and starts at the last cut or at
    /// tick.begin, whichever is later. What was not taken before tick.begin takes effect there: presses and motion
    /// count, the time that a button was down earlier does not. After a pause, [gap_from, begin) is skipped. At its
    /// beginning all holds, clicks, drags and contacts are cancelled; what is pressed, released or moved in it is
    /// ignored; at its end, what is down is adopted. Connects, focus, locks, axis values and the pointer's
    /// position are as of its end. Nothing that was skipped or moved to `begin` is late; both are counted. Costs more
    /// than advance(Time) only if there is a gap.
    const Frame& advance(const Tick& tick) noexcept;

    /// Takes the events posted up to `until` into the next frame without closing it; advance() closes it. For frames
    /// that last longer than the timeline's history. Does nothing without SamplerOptions::growing. Until the next
    /// advance, frame() contains what has been taken so far.
    void gather(Time until) noexcept;

    /// Returns the frame that advance(time) would return, without taking anything: the sampler, its own frame and its
    /// counters do not change. The frame is empty if `time` is before the last cut or out of range. It is valid until
    /// the next peek. Cost: a copy of the state (about 1 us) plus the cost of advance().
    const Frame& peek(Time time) noexcept;

    /// The last frame. It is empty before the first advance and after restore.
    const Frame& frame() const noexcept;

    /// Returns the state as of the last cut. Precondition: not between gather() and advance().
    State save() const noexcept;
    /// The same into a state that exists already. Cost: proportional to what is in use, well below 1 us.
    void save_to(State& state) const noexcept;
    /// Goes back to the cut at which `state` was saved, with an empty frame. From there the history is taken again: the
    /// same events and the same cuts give the same frames, as long as the history reaches back that far (otherwise the
    /// sampler is overrun and heals). Events that were late the first time are now taken at their own times, so that a
    /// simulation can include what it received too late. Returns false and changes nothing if `state` was
    /// never saved. Precondition: else it is from a sampler of the same timeline.
    bool restore(const State& state) noexcept;

    /// For replays that begin in the middle: the holds that the last cut has, which this sampler has only found down or
    /// seen pressed later, began at these times. The frame is then empty, as after restore(). What is not down at the
    /// cut is ignored.
    void set_hold_beginnings(std::span<const HoldBeginning> beginnings) noexcept;

    /// Sets the repeat of all buttons that have no setting of their own. It takes effect at once, also for readings of
    /// the last frame. Returns false and changes nothing if delay or interval is not greater than zero.
    bool set_repeat(const Repeat& repeat) noexcept;
    /// Sets the repeat of one button; either-side names have settings of their own. Returns false and changes nothing
    /// as above, for an unknown button, and if 15 different settings are already in use.
    bool set_repeat(Button button, const Repeat& repeat) noexcept;

    /// Cancels the mouse presses that are in progress at the last cut: they do not become clicks, and their drags are
    /// cancelled. Use this when a dialogue opens in the middle of a drag. The buttons stay down. It affects this
    /// sampler only, at once.
    void cancel_presses() noexcept;

    SamplerCounters counters() const noexcept;

private:
    SamplerCore* core_;
};

}  // namespace cursorum
