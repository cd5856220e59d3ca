#include "trolley.hpp"

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/recording/exact_rate.hpp"

namespace cursorum::tool {

TrolleyWay run_trolley(const std::vector<Event>& events, const std::vector<Time>& cuts) {
    using namespace controls;
    constexpr double speed = 1.2;
    Timeline timeline{{.devices = 64, .history = 4096, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    TrolleyWay way;
    std::size_t next = 0;
    for (const Time cut : cuts) {
        while (next < events.size() && events[next].time <= cut) timeline.desk().post(events[next++]);
        const Frame& frame = sampler.advance(cut);
        way.exact += speed * (seconds(frame[KeyW].down_span()) - seconds(frame[KeyS].down_span()));
        way.level += speed * seconds(frame.length()) * (int{frame[KeyW].down()} - int{frame[KeyS].down()});
        ++way.frames;
    }
    return way;
}

std::vector<Time> even_cuts(std::uint64_t rate, Time end) {
    std::vector<Time> cuts;
    const ExactRate exact{rate};
    for (std::uint64_t i = 0; cuts.empty() || cuts.back() < end; ++i) cuts.push_back(exact.cut(i));
    return cuts;
}

std::vector<Time> uneven_cuts(Time end) {
    std::vector<Time> cuts;
    std::uint64_t state = 7;
    Time cut{};
    while (cuts.empty() || cut < end) {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        cut += Duration{3'000'000 + static_cast<std::int64_t>((state >> 33) % 67'000'000)};
        cuts.push_back(cut);
    }
    return cuts;
}

}  // namespace cursorum::tool
