// Looks at a loop's counters for the mistakes that are made most often, such as cutting before pumping, and words each
// as advice. It keeps what it saw last, so that only what is new is reported.
#include "cursorum/core/input_check.hpp"

#include <algorithm>
#include <chrono>
#include <iterator>
#include <utility>

namespace cursorum {

// A cut that is taken before the pump leaves what the pump posts to the next frame. Of ticks of one length, what comes
// after the last one is left as a matter of course. Producers that report what is complete may be ahead.
bool InputCheck::is_cut_too_early(const Timeline& timeline, const Frame& frame) noexcept {
    constexpr unsigned in_a_row = 8;
    if (frame.serial() == serial_) return early_cuts_ >= in_a_row;
    serial_ = frame.serial();
    const Duration length = frame.end() - frame.start(), change = length - std::exchange(length_, length);
    const bool is_tick = change <= Duration{1} && change >= Duration{-1};
    Time newest = earliest_time;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i)
        if (timeline.inlet(i).complete_until() == earliest_time) newest = std::max(newest, timeline.inlet(i).latest());
    if (newest == std::exchange(newest_, newest)) return early_cuts_ >= in_a_row;  // nothing was posted
    const bool is_left = newest - frame.end() > (is_tick ? length : Duration{});
    early_cuts_ = is_left ? early_cuts_ + 1 : 0;
    return early_cuts_ >= in_a_row;
}

const char* InputCheck::next_problem(const Timeline& timeline, const Sampler& sampler) noexcept {
    InletCounters all;
    std::uint64_t of_others = 0;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        const InletCounters counters = timeline.inlet(i).counters();
        all.ahead += counters.ahead;
        all.clamped += counters.clamped;
        all.unknown += counters.unknown;
        // Keys without a name here are not a mistake: an engine passes on whatever it receives.
        all.refused += counters.refused - timeline.inlet(i).count(Outcome::refused_control);
        all.source_overflows += counters.source_overflows;
        all.unread_devices += counters.unread_devices;
        of_others += timeline.inlet(i).count(Outcome::stray_inlet);
    }
    const SamplerCounters counters = sampler.counters();
    const Frame& frame = sampler.frame();
    const bool is_unbounded = frame.end() - frame.start() > std::chrono::seconds{1};
    struct Problem {
        bool is_there;
        const char* text;
    };
    const Problem problems[] = {
        {all.ahead != 0,
         "Events are stamped ahead of the present (InletCounters::ahead). A source uses another clock than "
         "cursorum::Clock; the stamps were replaced."},
        {counters.held_back != 0,
         "An event is stamped more than a second after the cut and holds back all events behind it "
         "(SamplerCounters::held_back). Stamp events and cut frames by the same clock, or set "
         "Inlet::set_ahead_limit()."},
        {timeline.silent_count() != 0,
         "A producer has not called Inlet::set_complete_until() for longer than TimelineOptions::silent_limit "
         "(Timeline::silent_count()). Its events will be late. Report latest_time for an inlet that is not used."},
        {counters.late * 10 > counters.taken + 100,
         "More than one event in ten is late (SamplerCounters::late). Take the time for the cut after pumping events, "
         "not before, or from Timeline::complete_until()."},
        {counters.overruns != 0,
         "The sampler fell behind farther than the timeline's history (SamplerCounters::overruns). Advance it more "
         "often, or make TimelineOptions::history larger."},
        {counters.went_back != 0,
         "Sampler::advance() was called with a time before the last cut, or out of range "
         "(SamplerCounters::went_back). Such a frame is empty."},
        {all.unknown != 0,
         "Events of a device that never connected have no effect (InletCounters::unknown). Post Inlet::connect() "
         "before "
         "its first event; the desk's own devices are there from the beginning."},
        {of_others != 0,
         "Two inlets claim the same device number (Outcome::stray_inlet): the second one's events have no effect. "
         "Inlet::free_device() gives a free one."},
        {all.source_overflows != 0,
         "The operating system's buffer of a device overflowed before the source read it "
         "(InletCounters::source_overflows): presses in between are lost, and what is still down was adopted. Is the "
         "machine too busy, or was deliver() not called for many seconds?"},
        {all.unread_devices != 0,
         "A device is connected that the source does not read, such as a touchpad or a pen "
         "(InletCounters::unread_devices). EvdevSource::ignored() says which and why."},
        {is_cut_too_early(timeline, frame),
         "Frame after frame, events are posted that only the next frame takes: each press is seen a frame late. Take "
         "the time for the cut after pumping events, not before."},
        {counters.unplaced != 0,
         "The pointer's position or a target was asked for, but only motion was ever posted "
         "(SamplerCounters::unplaced): "
         "no position, no hover, no click. Post Inlet::moved_to()."},
        {is_unbounded,
         "A frame covers more than a second: after a stop or a load, everything that is held moves as far as in all of "
         "that time. Take the ticks of a TickClock or PictureClock, which bound it."},
        {all.clamped != 0,
         "Events are stamped out of range (InletCounters::clamped): farther than 146 years from the clock's zero."},
        {all.refused != 0,
         "Events were refused (InletCounters::refused): NaN or infinity, or more devices or buttons than there is room "
         "for. Inlet's functions return which."},
    };
    for (std::uint32_t i = 0; i < std::size(problems); ++i) {
        if (!problems[i].is_there || (shown_ >> i & 1) != 0) continue;
        shown_ |= 1U << i;
        return problems[i].text;
    }
    return nullptr;
}

}  // namespace cursorum
