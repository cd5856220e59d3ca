// A desk with two gamepads.
#pragma once

#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace test {

inline constexpr cursorum::DeviceId pad{3}, other{4};

struct Pads {
    Pads() {
        inlet.connect(pad, {.kind = cursorum::DeviceKind::gamepad, .name = "one"}, at(0));
        inlet.connect(other, {.kind = cursorum::DeviceKind::gamepad, .name = "two"}, at(0));
    }
    cursorum::Timeline timeline;
    cursorum::Inlet& inlet = timeline.desk();
    cursorum::Sampler sampler{timeline, {.start = at(0)}};
    const cursorum::Frame& cut(std::int64_t t) { return sampler.advance(at(t)); }
};

}  // namespace test
