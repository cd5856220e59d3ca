// Streams of button events for the benchmarks, the same at every run.
#pragma once

#include <cstdint>
#include <vector>

#include "cursorum/core/control.hpp"

namespace bench {

/// What an engine's callback gets, in 16 bytes.
struct RawEvent {
    std::int64_t time;
    cursorum::Button button;
    bool down;
};
static_assert(sizeof(RawEvent) == 16);

constexpr std::int64_t frame_length = 16'666'667;

constexpr unsigned first_key = 4, last_key = 107;
/// One of these numbers is no key that a device can have.
inline bool is_key(unsigned number) { return cursorum::can_be_posted({static_cast<std::uint16_t>(number)}); }

/// `frames` frames with `per_frame` (an even number) presses and releases each, over the 103 keys of a keyboard, in
/// order of time: as many keys are down at once, most for two frames, and a quarter of the presses are taps. Everything
/// is up at the end, so that the stream can be played again and again.
std::vector<RawEvent> button_stream(unsigned frames, unsigned per_frame);

}  // namespace bench
