// A game loop at the quay: a simulation in fixed steps and a picture loop at any rate, each with its own sampler, fed
// from a recording as a live source would feed them.
//
//   quay_loop FILE PROFILE [PICTURES-A-SECOND]
//
// The crane ends in the same state whatever the picture rate: both samplers see every press once, and motion comes from
// the means of its actions over a step, ramps and all, not from how many pictures saw a key down.

#include <cstdio>
#include <cstdlib>
#include <utility>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/cursorum.hpp"
#include "quay_crane.hpp"

namespace {

using namespace cursorum;

/// The recording's events, handed over as time passes: what a live source's deliver() does.
class RecordedSource {
public:
    explicit RecordedSource(std::vector<Event> events) : events_{std::move(events)} {}
    /// Posts what happened up to `now`, and says that this is all.
    Time deliver(Timeline& timeline, Time now) {
        while (next_ < events_.size() && events_[next_].time <= now) timeline.desk().post(events_[next_++]);
        return now;
    }
    bool has_more() const { return next_ < events_.size(); }

private:
    std::vector<Event> events_;
    std::size_t next_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
    if (argc < 3 || argc > 4) {
        std::fprintf(stderr,
                     "usage: quay_loop FILE PROFILE [PICTURES-A-SECOND]\n"
                     "example: quay_loop demo/quay-shift.jsonl demo/quay.toml 144\n");
        return 2;
    }
    const long pictures_a_second = argc == 4 ? std::strtol(argv[3], nullptr, 10) : 60;
    if (pictures_a_second < 1 || pictures_a_second > 1000) {
        std::fprintf(stderr, "quay_loop: found \"%s\"; expected pictures per second, 1 to 1000\n", argv[3]);
        return 2;
    }
    std::vector<Event> events;
    Profile profile;
    quay::CraneActions actions;
    if (!quay::load(argv[1], events) || !quay::load(argv[2], profile) || !actions.find_in(profile)) return 2;
    RecordedSource source{std::move(events)};

    Timeline timeline{{.devices = 8, .desk_devices = false}};
    Sampler simulation{timeline, {.start = Time{}}}, picture{timeline, {.start = Time{}}};
    TickClock ticks{hertz(60), at_most(5), Time{}};
    quay::Crane crane{profile, actions};
    unsigned long steps = 0, pictures = 0, presses_seen_by_pictures = 0;

    // Whole seconds, so that all picture rates end at the same instant.
    for (long second = 0; source.has_more(); ++second) {
        for (long i = 1; i <= pictures_a_second; ++i) {
            const Time now{Duration{second * 1'000'000'000 + i * 1'000'000'000 / pictures_a_second}};
            const Time complete = source.deliver(timeline, now);
            while (const auto tick = ticks.next(complete)) {
                crane.step(simulation.advance(*tick), *tick);
                ++steps;
            }
            const Frame& seen = picture.advance(complete);  // a picture would be drawn here, at ticks.blend(complete)
            for (const Edge edge : seen.edges()) presses_seen_by_pictures += edge.kind == EdgeKind::press;
            ++pictures;
        }
    }
    crane.print();
    std::fprintf(stderr, "%lu steps, %lu pictures at %ld per second; the pictures saw %lu presses\n", steps, pictures,
                 pictures_a_second, presses_seen_by_pictures);
    return 0;
}
