// Three usual input layers compared with Cursorum: what each of them loses, doubles, makes up or leaves stuck.
//
//   other_layers FILE [OUT]
//
// FILE is a recording. Its events go to the three layers, as callbacks would bring them, and into a timeline; at each
// cut of 60 frames per second a layer reports what it believes, and a BeliefCheck compares that with the frame. OUT is
// a recording of the same events, the cuts, and what the layer of levels believed: for `cursorum summary` and `draw`.

#include <array>
#include <cstdio>
#include <fstream>
#include <utility>
#include <vector>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "quay_crane.hpp"

using namespace cursorum;
using namespace cursorum::controls;

namespace {

/// What a window's callbacks report: keys, whether the system repeats them, and the focus.
struct Layer {
    virtual ~Layer() = default;
    virtual void on_key(Button key, bool is_down, bool repeats) = 0;
    virtual void on_focus(bool has) = 0;
    virtual Belief end_frame() = 0;
};

/// A flag for each key, set on press and cleared on release; the game acts while it is set.
struct Flags final : Layer {
    ButtonSet flags;
    void on_key(Button key, bool is_down, bool) override { flags.set(key, is_down); }
    void on_focus(bool) override { flags = {}; }
    Belief end_frame() override { return {.pressed = flags, .down = flags}; }
};

/// The levels of this frame and of the one before; losing the focus is ignored.
struct PreviousState final : Layer {
    ButtonSet down, previous;
    void on_key(Button key, bool is_down, bool) override { down.set(key, is_down); }
    void on_focus(bool) override {}
    Belief end_frame() override {
        const Belief belief{.pressed = down - previous, .down = down};
        previous = down;
        return belief;
    }
};

/// Each call for a key that went down is an action, and the system repeats those calls.
struct Callbacks final : Layer {
    ButtonSet fired, down;
    void on_key(Button key, bool is_down, bool) override {
        if (is_down) fired.insert(key);
        down.set(key, is_down);
    }
    void on_focus(bool) override { down = {}; }
    Belief end_frame() override { return {.pressed = std::exchange(fired, {}), .down = down}; }
};

constexpr ButtonSet looked_at{KeyW, KeyA, KeyS, KeyD, KeyQ, KeyF, KeyR, KeyH, Space, Enter, ArrowUp, ArrowDown};

void deliver(const Event& event, Layer& layer) {
    if (event.type == EventType::focus) layer.on_focus(event.focused);
    if (event.type == EventType::button && looked_at.contains(event.control))
        layer.on_key(event.control, event.down, event.system_repeat);
}

/// A layer, what it got wrong, and the first finding of each kind.
struct Row {
    const char* name;
    Layer& layer;
    BeliefCheck check{looked_at};
    Belief belief{};
    std::uint64_t seen = 0;
    std::array<BeliefFinding, 5> firsts{};

    void note(const Frame& frame) {
        belief = layer.end_frame();
        check.note(frame, belief);
        for (; seen < check.count(); ++seen) {
            const BeliefFinding it = check.finding(seen);
            if (auto& first = firsts[static_cast<unsigned>(it.kind)]; first.frame == 0) first = it;
        }
    }
    void print() const {
        std::printf("%s\n", name);
        for (const BeliefFinding& it : firsts)
            if (it.frame != 0)
                std::printf("%7llu %-8s first in frame %llu, to %.3f s, %s:\n                 %s\n",
                            static_cast<unsigned long long>(check.count(it.kind)), name_of(it.kind).data(),
                            static_cast<unsigned long long>(it.frame), seconds(it.time - Time{}),
                            name_of(it.button).data(), describe(it).data());
    }
};

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2 && argc != 3) {
        std::fprintf(stderr,
                     "usage: other_layers FILE [OUT]\nexample: other_layers demo/quay-shift.jsonl beliefs.jsonl\n");
        return 2;
    }
    std::vector<Event> events;
    if (!quay::load(argv[1], events)) return 2;

    Timeline timeline{{.devices = 8, .desk_devices = false, .start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    Flags flags;
    PreviousState previous_state;
    Callbacks callbacks;
    Row rows[] = {{"a flag for each key:", flags},
                  {"levels and previous levels:", previous_state},
                  {"a callback for each press:", callbacks}};

    std::ofstream out;
    if (argc == 3) out.open(argv[2]);
    RecordingWriter writer{out, Time{}};
    writer.header("levels and previous levels, and what they missed");
    RecordedBelief recorded{.handles = looked_at};  // which keys it handles is said once

    auto next = events.begin();
    for (std::int64_t count = 1; next != events.end(); ++count) {
        const Time end{Duration{count * 1'000'000'000 / 60}};
        for (; next != events.end() && next->time <= end; ++next) {
            timeline.desk().post(*next);
            writer.take(*next);
            for (Row& row : rows) deliver(*next, row.layer);
        }
        const Frame& frame = sampler.advance(end);
        for (Row& row : rows) row.note(frame);
        recorded.belief = rows[1].belief;
        writer.belief(end, recorded);
        writer.frame(end);
        recorded.handles = {};
    }
    if (argc == 3 && !out.flush()) {
        std::fprintf(stderr, "%s: cannot be written\n", argv[2]);
        return 2;
    }
    for (const Row& row : rows) row.print();
}
