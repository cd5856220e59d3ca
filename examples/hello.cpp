// The same keys twice: posted as events, and found by polling. Prints each frame.
#include <cstdio>
#include "cursorum/cursorum.hpp"
using namespace cursorum;
using namespace cursorum::controls;

Time at(double ms) { return nanoseconds_since_zero(static_cast<std::int64_t>(ms * 1e6)); }
double ms(Time time) { return seconds(time - Time{}) * 1e3; }

void print(const char* source, const Frame& frame) {
    std::printf("%s frame to %2.0f ms: W %s", source, ms(frame.end()), name_of(frame[KeyW].state()).data());
    for (const Edge edge : frame.edges())
        std::printf("; %s %s at %.1f ms", name_of(edge.button).data(), name_of(edge.kind).data(), ms(edge.time));
    std::printf("\n");
}

int main() {
    Timeline posted{{.start = at(0)}}, polled{{.start = at(0)}};
    Sampler by_events{posted, {.start = at(0)}}, by_polling{polled, {.start = at(0)}};
    posted.desk().button(Space, true, at(5));    // events have their own times,
    posted.desk().button(Space, false, at(12));  // and a tap within a frame is not lost
    posted.desk().button(KeyW, true, at(14.5));
    posted.desk().button(KeyW, false, at(40));
    for (const int end : {16, 32, 48}) {
        polled.desk().set_level(KeyW, end == 32, at(end));  // polling: what is down right now
        print("events: ", by_events.advance(at(end)));
        print("polling:", by_polling.advance(at(end)));
    }
}
