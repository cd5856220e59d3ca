// An inlet as a taker of events.
#pragma once

#include <chrono>

#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// Passes a source's events to an inlet. Made for one call. Threads: the inlet's producer.
class InletTaker final : public EventTaker {
public:
    explicit InletTaker(Inlet& inlet) noexcept : inlet_{inlet} {}
    void take(const Event& event) override { inlet_.post(event); }

private:
    Inlet& inlet_;
};

/// What a source does when it delivers into an inlet: for the first time, it limits how far ahead stamps may lie to 10
/// ms; each time, it sets the inlet's complete_until(). `source.deliver(taker)` posts and returns the time up to which
/// that is complete; `limited` is the source's own memory, null at first.
template <typename Source>
Time deliver_into(Inlet& inlet, Source& source, const Inlet*& limited) {
    if (limited != &inlet) inlet.set_ahead_limit(std::chrono::milliseconds{10});
    limited = &inlet;
    InletTaker taker{inlet};
    const Time complete = source.deliver(taker);
    inlet.set_complete_until(complete);
    return complete;
}

}  // namespace cursorum
