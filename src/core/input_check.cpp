#include "cursorum/core/input_check.hpp"

#include <iterator>

namespace cursorum {

const char* InputCheck::next_problem(const Timeline& timeline, const Sampler& sampler) noexcept {
    InletCounters all;
    for (unsigned i = 0; i < timeline.inlet_count(); ++i) {
        const InletCounters counters = timeline.inlet(i).counters();
        all.ahead += counters.ahead;
        all.clamped += counters.clamped;
        all.refused += counters.refused;
        all.events += counters.events;
    }
    const SamplerCounters counters = sampler.counters();
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
        {all.clamped != 0,
         "Events are stamped out of range (InletCounters::clamped): farther than 146 years from the clock's zero."},
        {all.refused != 0,
         "Events were refused (InletCounters::refused): a number without a control, NaN or infinity, or more devices "
         "or buttons than there is room for. Inlet's functions return which."},
    };
    for (std::uint32_t i = 0; i < std::size(problems); ++i) {
        if (!problems[i].is_there || (shown_ >> i & 1) != 0) continue;
        shown_ |= 1U << i;
        return problems[i].text;
    }
    return nullptr;
}

}  // namespace cursorum
