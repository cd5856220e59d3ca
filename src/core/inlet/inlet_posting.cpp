// Stamps that are out of order: late, ahead of the clock, or out of range.
#include "core/inlet/inlet_posting.hpp"

#include <algorithm>

namespace cursorum::detail {

void InletPosting::limit_ahead(std::optional<Duration> limit) noexcept {
    ahead_limit_ = limit ? std::max<std::int64_t>(limit->count(), 0) : -1;
    accepted_until_ = limit ? nanoseconds(earliest_time) : nanoseconds(latest_time);
}

std::int64_t InletPosting::accepted(std::int64_t stamp) noexcept {
    std::int64_t time = std::clamp(stamp, nanoseconds(earliest_time), nanoseconds(latest_time));
    if (time != stamp) clamped_.add(1);
    if (time <= accepted_until_) return time;
    // The clock is read only here: an event within the limit computed last does not need it.
    const std::int64_t now = nanoseconds(Clock::now());
    accepted_until_ = now + std::min(ahead_limit_, nanoseconds(latest_time) - now);
    if (time > accepted_until_) {
        ahead_.add(1);
        time = accepted_until_;
    }
    return time;
}

// Stamps that are out of range, ahead, or earlier than their predecessor.
void InletPosting::begin_out_of_order(std::int64_t stamp) noexcept {
    const std::int64_t time = accepted(stamp);
    stamp_ = time;
    if (time >= latest_.get()) return latest_.set(time);
    backdated_.add(1);
    const auto write_late = [this](std::int64_t stamp_before, std::uint64_t behind, bool is_first) {
        const std::uint32_t tag = make_tag(hold_capacity, false, event_count_.add_slot(has_no_slots())) | unusual_bit;
        ring_.write(Slot::late(stamp_before, tag, behind, is_first));
        ++late_slots_;
    };
    // A sampler must not meet it before those axes, and they have no slot here that would stop it.
    if (axes_alone_time_ > time) write_late(axes_alone_time_, axes_alone_end_, false);
    late_at_ = ring_.next();
    write_late(time, motions_.next(), true);
}

}  // namespace cursorum::detail
