// A game loop at the quay: a simulation in fixed steps and a picture loop at any rate, each with its own sampler, fed
// from a recording as a live source would feed them.
//
//   quay_loop FILE [PICTURES-A-SECOND]
//
// The crane ends in the same state whatever the picture rate: both samplers see every press once, and motion comes from
// how long a key was down within a step, not from how many pictures saw it down.

#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <string>
#include <vector>

#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr int jobs = 7;

struct Crane {
    double along_quay = 0, trolley = 0, hoist = 0;  // metres
    bool locked = false;
    int boxes = 0;  // locked onto, so far
    int horn_calls = 0;
    double horn_seconds = 0;
    int chosen_job = 0, jobs_taken = 0;

    /// One step. Each line asks the frame one thing.
    void step(const Frame& frame, double time) {
        const double slow = frame[Shift].down() ? 0.3 : 1.0;
        along_quay += slow * 0.8 * (held(frame, KeyD) - held(frame, KeyA));  // both at once cancel out
        trolley += slow * 1.2 * (held(frame, KeyW) - held(frame, KeyS));
        hoist += slow * 0.5 * (held(frame, KeyR) - held(frame, KeyF));
        horn_seconds += held(frame, KeyH);
        for (unsigned i = 0; i < frame[Space].press_count(); ++i) toggle_lock(time);
        horn_calls += static_cast<int>(frame[KeyH].press_count());
        const auto down = static_cast<int>(frame[ArrowDown].steps()), up = static_cast<int>(frame[ArrowUp].steps());
        chosen_job = ((chosen_job + down - up) % jobs + jobs) % jobs;
        if (frame[Enter].pressed()) take_job(time);
        if (frame[KeyR].ended() && !frame[KeyR].released()) std::printf("%8.3f s  hoist stopped by a cancel\n", time);
        if (frame[KeyF].ended() && !frame[KeyF].released())
            std::printf("%8.3f s  lowering stopped by a cancel\n", time);
        if (frame.any({KeyW, KeyS}).ended() && !frame.any({KeyW, KeyS}).released())
            std::printf("%8.3f s  trolley stopped by a cancel\n", time);
    }

private:
    static double held(const Frame& frame, Button button) { return seconds(frame[button].down_span()); }

    void toggle_lock(double time) {
        locked = !locked;
        boxes += locked;
        std::printf("%8.3f s  twist-locks %s\n", time, locked ? "locked" : "unlocked");
    }
    void take_job(double time) {
        ++jobs_taken;
        std::printf("%8.3f s  job %d taken\n", time, chosen_job + 1);
    }
};

/// The recording's events, handed over as time passes: what a live source's deliver() does.
class RecordedSource {
public:
    bool load(const char* path) {
        std::ifstream file{path, std::ios::binary};
        RecordingReader reader{file, path};
        RecordingLine line;
        while (reader.read(line)) {
            if (line.kind != RecordingLine::Kind::event) continue;
            events_.push_back(line.event);
            events_.back().info.name = {};  // texts last only until the next line is read
            events_.back().text = {};
        }
        if (!reader.error()) return true;
        std::fprintf(stderr, "quay_loop: %s\n", reader.error()->message().c_str());
        return false;
    }
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
    if (argc < 2 || argc > 3) {
        std::fprintf(stderr,
                     "usage: quay_loop FILE [PICTURES-A-SECOND]\nexample: quay_loop demo/quay-shift.jsonl 144\n");
        return 2;
    }
    const long pictures_a_second = argc == 3 ? std::strtol(argv[2], nullptr, 10) : 60;
    if (pictures_a_second < 1 || pictures_a_second > 1000) {
        std::fprintf(stderr, "quay_loop: found \"%s\"; expected pictures a second, 1 to 1000\n", argv[2]);
        return 2;
    }
    RecordedSource source;
    if (!source.load(argv[1])) return 2;

    Timeline timeline{{.devices = 8, .desk_devices = false}};
    Sampler simulation{timeline, {.start = Time{}}}, picture{timeline, {.start = Time{}}};
    TickClock ticks{hertz(60), at_most(5), Time{}};
    Crane crane;
    unsigned long steps = 0, pictures = 0, presses_seen_by_pictures = 0;

    // Whole seconds, so that all picture rates end at the same instant.
    for (long second = 0; source.has_more(); ++second) {
        for (long i = 1; i <= pictures_a_second; ++i) {
            const Time now{Duration{second * 1'000'000'000 + i * 1'000'000'000 / pictures_a_second}};
            const Time complete = source.deliver(timeline, now);
            while (const auto cut = ticks.next(complete)) {
                crane.step(simulation.advance(*cut), seconds(cut->time_since_epoch()));
                ++steps;
            }
            const Frame& seen = picture.advance(complete);  // a picture would be drawn here, at ticks.blend(complete)
            for (const Edge edge : seen.edges()) presses_seen_by_pictures += edge.kind == EdgeKind::press;
            ++pictures;
        }
    }
    std::printf("crane   %+.6f m along the quay, trolley %+.6f m, hoist %+.6f m\n", crane.along_quay, crane.trolley,
                crane.hoist);
    std::printf("locks   %s, %d box(es) so far; horn %d times, %.6f s in all; job %d chosen, %d taken\n",
                crane.locked ? "locked" : "unlocked", crane.boxes, crane.horn_calls, crane.horn_seconds,
                crane.chosen_job + 1, crane.jobs_taken);
    std::fprintf(stderr, "%lu steps, %lu pictures at %ld a second; the pictures saw %lu presses\n", steps, pictures,
                 pictures_a_second, presses_seen_by_pictures);
    return 0;
}
