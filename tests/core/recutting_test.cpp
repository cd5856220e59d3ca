// However time is cut, the sums are the same: time down, presses, releases, uncapped repeats.

#include <gtest/gtest.h>

#include <array>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;

struct Sums {
    std::int64_t down_span = 0;
    std::uint64_t presses = 0, releases = 0, adopts = 0, cancels = 0, repeats = 0, system_repeats = 0;
    friend bool operator==(const Sums&, const Sums&) = default;
};

using AllSums = std::array<Sums, std::size(test::random_buttons)>;

AllSums add_up(const std::vector<Event>& events, std::int64_t end, std::uint64_t seed, std::uint64_t longest) {
    Timeline timeline{{.devices = 5, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}, .repeat = {Duration{11}, Duration{3}, 0}}};
    for (const Event& event : events) timeline.desk().post(event);
    test::Random random{seed};
    AllSums sums{};
    for (std::int64_t cut = 0; cut < end;) {
        cut = std::min<std::int64_t>(end, cut + 1 + static_cast<std::int64_t>(random.below(longest)));
        const Frame& frame = sampler.advance(nanoseconds_since_zero(cut));
        for (std::size_t i = 0; i < sums.size(); ++i) {
            const ButtonFigures f = frame[test::random_buttons[i]].figures();
            sums[i].down_span += f.down_span().count();
            sums[i].presses += f.press_count();
            sums[i].releases += f.release_count();
            sums[i].adopts += f.adopt_count();
            sums[i].cancels += f.cancel_count();
            sums[i].repeats += f.repeat_count();
            sums[i].system_repeats += f.system_repeat_count();
        }
    }
    return sums;
}

TEST(Recutting, ChangesNoSum) {
    for (std::uint64_t seed = 1; seed <= 500; ++seed) {
        test::RandomEvents source{seed};
        std::vector<Event> events;
        for (int i = 0; i < 120; ++i) events.push_back(source.next());
        const std::int64_t end = source.now() + 100;
        const AllSums whole = add_up(events, end, 1, static_cast<std::uint64_t>(end) * 1000);
        for (const std::uint64_t longest : {1U, 3U, 10U, 50U})
            ASSERT_EQ(add_up(events, end, seed, longest), whole) << "seed " << seed << ", frames up to " << longest;
    }
}

}  // namespace
