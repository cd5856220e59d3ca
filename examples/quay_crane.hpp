// The crane of the examples: what a simulation step asks of its actions.
#pragma once

#include <cstdio>
#include <fstream>
#include <sstream>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace quay {

using namespace cursorum;

/// A recording's events. False, and why on standard error, if it cannot be read.
inline bool load(const char* path, std::vector<Event>& events) {
    std::ifstream file{path, std::ios::binary};
    if (!file) {
        std::fprintf(stderr, "%s: cannot be opened; is the name right?\n", path);
        return false;
    }
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

/// A profile. False, and why on standard error, if it cannot be read or lacks an action that the crane needs.
inline bool load(const char* path, Profile& profile) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream text;
    ProfileError error;
    if (!file || !(text << file.rdbuf())) {
        std::fprintf(stderr, "%s: cannot be read; is the name right?\n", path);
        return false;
    }
    if (const auto read = read_profile(text.str(), path, error)) {
        profile = *read;
        return true;
    }
    std::fprintf(stderr, "%s\n", error.message().c_str());
    return false;
}

constexpr int jobs = 7;

/// The actions of demo/quay.toml by name: looked up once, and a wrong name says so.
struct CraneActions {
    ModeHandle crane;
    VectorAction travel;
    AxisAction lift;
    ButtonAction slow, lock, horn, next_job, previous_job, take_job;

    bool find_in(const Profile& profile) {
        ActionNames names{profile};
        crane = names.mode("crane");
        travel = names.vector("crane.travel");
        lift = names.axis("crane.lift");
        slow = names.button("crane.slow");
        lock = names.button("crane.lock");
        horn = names.button("crane.horn");
        next_job = names.button("crane.next_job");
        previous_job = names.button("crane.previous_job");
        take_job = names.button("crane.take_job");
        if (names.unknown_count() != 0) std::fprintf(stderr, "%s\n", names.problem().c_str());
        return names.unknown_count() == 0;
    }
};

struct Crane {
    Crane(const Profile& profile, const CraneActions& of) : actions{profile}, do_{of} { actions.open(do_.crane); }

    ActionReader actions;
    double along_quay = 0, trolley = 0, hoist = 0;  // metres
    bool locked = false;
    int boxes = 0;  // locked onto, so far
    int horn_calls = 0;
    double horn_seconds = 0;
    int chosen_job = 0, jobs_taken = 0;

    /// One step: each line asks for one action, and none for a key.
    void step(const Frame& frame, const Tick& tick) {
        actions.read(frame);
        const double time = seconds(tick.end.time_since_epoch());
        const double slow = actions[do_.slow].down() ? 0.3 : 1.0;
        const Vector2 way = actions[do_.travel].mean;  // exact over the step, ramps and all
        along_quay += slow * 0.8 * tick.step * way.x;
        trolley -= slow * 1.2 * tick.step * way.y;
        hoist += slow * 0.5 * tick.step * actions[do_.lift].mean;
        horn_seconds += seconds(actions[do_.horn].down_span());
        for (unsigned i = 0; i < actions[do_.lock].press_count(); ++i) toggle_lock(time);
        horn_calls += static_cast<int>(actions[do_.horn].press_count());
        const auto next = static_cast<int>(actions[do_.next_job].steps()),
                   previous = static_cast<int>(actions[do_.previous_job].steps());
        chosen_job = ((chosen_job + next - previous) % jobs + jobs) % jobs;
        if (actions[do_.take_job].pressed()) take_job(time);
        if (actions[do_.travel].before == Vector2{} && actions[do_.travel].value != Vector2{})
            std::printf("%8.3f s  sets out\n", time);
    }

    void print() const {
        std::printf("crane   %+.6f m along the quay, trolley %+.6f m, hoist %+.6f m\n", along_quay, trolley, hoist);
        std::printf("locks   %s, %d box(es) so far; horn %d times, %.6f s in all; job %d chosen, %d taken\n",
                    locked ? "locked" : "unlocked", boxes, horn_calls, horn_seconds, chosen_job + 1, jobs_taken);
    }

private:
    CraneActions do_;

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
