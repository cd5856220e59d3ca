// The crane of the examples: what a simulation step asks of a frame.
#pragma once

#include <cstdio>
#include <fstream>
#include <vector>

#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace quay {

using namespace cursorum;
using namespace cursorum::controls;

/// A recording's events. False, and why on standard error, if it cannot be read.
inline bool load(const char* path, std::vector<Event>& events) {
    std::ifstream file{path, std::ios::binary};
    RecordingReader reader{file, path};
    RecordingLine line;
    while (reader.read(line)) {
        if (line.kind != RecordingLine::Kind::event) continue;
        events.push_back(line.event);
        events.back().info.name = {};  // texts last only until the next line is read
        events.back().text = {};
    }
    if (reader.error()) std::fprintf(stderr, "%s\n", reader.error()->message().c_str());
    return !reader.error();
}

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

    void print() const {
        std::printf("crane   %+.6f m along the quay, trolley %+.6f m, hoist %+.6f m\n", along_quay, trolley, hoist);
        std::printf("locks   %s, %d box(es) so far; horn %d times, %.6f s in all; job %d chosen, %d taken\n",
                    locked ? "locked" : "unlocked", boxes, horn_calls, horn_seconds, chosen_job + 1, jobs_taken);
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

}  // namespace quay
