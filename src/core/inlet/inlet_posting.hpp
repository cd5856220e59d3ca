// The steps that every event of an inlet goes through: begin, one rule, finish. The writers of the streams write its
// slots in between. Inline, since posting costs only a few nanoseconds.
#pragma once

#include <cstdint>
#include <optional>

#include "core/inlet/inlet_history.hpp"

namespace cursorum::detail {

/// An inlet's history, and the event that its thread is writing to it.
class InletPosting : public InletHistory {
public:
    using InletHistory::InletHistory;

    void begin(Time stamp) noexcept;
    /// Ends the event. If it has no slots of its own in the ring of edges, writes one that counts it.
    Outcome finish(Outcome outcome) noexcept;
    /// Ends an event that is counted by its slots in another ring.
    Outcome counted(Outcome outcome) noexcept {
        outcomes_[static_cast<unsigned>(outcome)].add(1);
        return outcome;
    }

    bool is_usual(std::int64_t stamp) const noexcept { return stamp >= latest_.get() && stamp <= accepted_until_; }
    std::int64_t accepted_until() const noexcept { return accepted_until_; }
    /// Returns the stamp to use for one that may be out of range or too far ahead.
    std::int64_t accepted(std::int64_t stamp) noexcept;
    void limit_ahead(std::optional<Duration> limit) noexcept;

    std::int64_t stamp() const noexcept { return stamp_; }  ///< of the present event, as accepted
    /// The position of its slot `late` in the ring of edges, or `in_time`.
    const std::uint64_t& late_at() const noexcept { return late_at_; }
    /// Begins an event that is only motion, which has no slots in the ring of edges.
    void begin_motion_alone() noexcept { late_at_ = in_time; }
    bool has_no_slots() const noexcept { return ring_.next() == event_begin_; }
    /// Ends an event that has changed axes and nothing else.
    void end_axes_alone() noexcept {
        axes_alone_end_ = axes_.next();
        axes_alone_time_ = latest_.get();
    }
    /// `tag_bits`: added to the slot's tag.
    void write_slot(SlotKind kind, Effect effect, unsigned device, bool is_virtual, unsigned button, unsigned hold,
                    std::uint32_t tag_bits, bool is_down) noexcept {
        const bool first = has_no_slots();
        const std::uint32_t tag = make_tag(hold, is_virtual, event_count_.add_slot(first)) | tag_bits;
        ring_.write(Slot::of(latest_.get(), tag, button, device, What::of(kind, effect, first, is_down)));
    }

private:
    void begin_out_of_order(std::int64_t stamp) noexcept;
    void show_holds() noexcept;

    std::int64_t accepted_until_ = nanoseconds(latest_time);  // later stamps are checked
    std::int64_t ahead_limit_ = -1;                           // none
    std::int64_t stamp_ = 0;
    std::uint64_t event_begin_ = 0;  // where its slots begin
    std::uint64_t late_at_ = in_time;
    unsigned late_slots_ = 0;  // how many of them say that it is late
    // The last event that is only in the ring of axes: the position after it, and its time.
    std::uint64_t axes_alone_end_ = 0;
    std::int64_t axes_alone_time_ = INT64_MIN;
};

inline void InletPosting::begin(Time stamp) noexcept {
    event_begin_ = ring_.next();
    late_slots_ = 0;
    late_at_ = in_time;
    const std::int64_t time = nanoseconds(stamp);
    stamp_ = time;
    if (is_usual(time)) [[likely]]
        latest_.set(time);
    else
        begin_out_of_order(time);
}

inline Outcome InletPosting::finish(Outcome outcome) noexcept {
    if (ring_.next() - event_begin_ == late_slots_) {
        write_slot(SlotKind::plain, Effect::none, 0, false, button_capacity, hold_capacity, unusual_bit, false);
        ring_.publish();
    } else {
        ring_.publish();
        show_holds();
    }
    return counted(outcome);
}

// After the ring has published them: see HoldTable.
inline void InletPosting::show_holds() noexcept {
    for (std::uint64_t at = event_begin_; at != ring_.next(); ++at)
        if (const Slot slot = ring_.own(at); slot.ends_or_begins_hold()) holds_.show(hold_of(slot.tag()), slot);
}

}  // namespace cursorum::detail
