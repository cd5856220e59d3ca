#include "streams.hpp"

#include <array>
#include <deque>

namespace bench {

std::vector<RawEvent> button_stream(unsigned frames, unsigned per_frame) {
    std::uint64_t state = 99;
    const auto below = [&state](unsigned bound) {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<unsigned>((state >> 33) % bound);
    };
    std::array<bool, last_key + 1> down{};
    std::deque<unsigned> held;
    std::vector<RawEvent> events;
    const auto add = [&](unsigned key, bool is_down) {
        const auto in_frame = static_cast<std::int64_t>(events.size() % per_frame);
        const auto frame = static_cast<std::int64_t>(events.size() / per_frame);
        events.push_back({frame * frame_length + 1 + in_frame * (frame_length - 2) / per_frame,
                          {static_cast<std::uint16_t>(key)},
                          is_down});
        down[key] = is_down;
    };
    const auto press_another = [&] {
        unsigned key = first_key;
        do key = first_key + below(last_key - first_key + 1);
        while (down[key]);
        add(key, true);
        return key;
    };
    for (unsigned i = 0; i < per_frame; ++i) held.push_back(press_another());
    while (events.size() < std::size_t{frames - 1} * per_frame) {
        if (below(4) == 0) {
            add(press_another(), false);
            continue;
        }
        held.push_back(press_another());
        add(held.front(), false);
        held.pop_front();
    }
    for (const unsigned key : held) add(key, false);
    return events;
}

}  // namespace bench
