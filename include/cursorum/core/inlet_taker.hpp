// An inlet as a taker of events.
#pragma once

#include "cursorum/core/inlet.hpp"

namespace cursorum {

/// Hands a source's events to an inlet. As long-lived as the call it is made for; threads: the inlet's producer.
class InletTaker final : public EventTaker {
public:
    explicit InletTaker(Inlet& inlet) noexcept : inlet_{inlet} {}
    void take(const Event& event) override { inlet_.post(event); }

private:
    Inlet& inlet_;
};

}  // namespace cursorum
