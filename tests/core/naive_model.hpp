// A second implementation of the rules, as plainly as possible and in another shape: it keeps everything that ever
// happened, and works every frame out from that.
#pragma once

#include <cstdint>
#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/repeat.hpp"

namespace test {

using namespace cursorum;

/// One button's reading, figure by figure.
struct NaiveFigures {
    std::string state = "idle";
    std::uint64_t press = 0, release = 0, adopt = 0, cancel = 0, repeat = 0, system_repeat = 0;
    std::int64_t held_for = 0, down_span = 0, released_after = 0;
    bool was_down = false, down = false, released = false;

    friend bool operator==(const NaiveFigures&, const NaiveFigures&) = default;
};
NaiveFigures as_naive(const ButtonFigures& figures);
std::string text(const NaiveFigures& figures);

/// What happened to one button: merged, or on a device.
struct NaiveEdge {
    std::int64_t time;
    unsigned device;
    Button button;
    EdgeKind kind;
};
struct NaiveSystemRepeat {
    unsigned device;
    Button button;
};

/// One sampler with its own copy of everything posted.
class NaiveSampler {
public:
    NaiveSampler(std::size_t device_room, Repeat repeat, unsigned inlets = 1)
        : room_{device_room}, repeat_{repeat}, inlets_(inlets) {}

    void post(const Event& event, unsigned inlet = 0) { inlets_[inlet].queue.push_back(event); }
    /// A cut; false if it goes back.
    bool advance(std::int64_t t1);

    NaiveFigures merged(Button button) const;
    NaiveFigures on_device(Button button, unsigned device) const;
    const std::vector<NaiveEdge>& edges() const { return device_edges_; }
    std::uint64_t late() const { return late_; }
    std::uint64_t taken() const { return taken_; }
    std::uint64_t strays() const { return strays_; }
    std::uint64_t ignored() const { return ignored_; }

private:
    struct Held {
        std::int64_t since;
        bool pressed;
    };
    struct Queue {
        std::vector<Event> queue;
        std::size_t next = 0;
        bool focused = true;
        std::size_t devices = 0;
    };
    struct Device {
        unsigned inlet = 0;
        DeviceKind kind{};
        bool connected = false, marks = false, background = false, adopt_next = false;
        std::map<std::string, Held> down;  // by name: the order in which edges of one instant are listed
    };
    struct Before {
        bool down = false;
        std::int64_t since = 0;
        bool pressed = false;
    };

    Queue* earliest_head(std::int64_t t1);
    void take(const Event& event, unsigned inlet);
    void edge(unsigned device, const std::string& name, EdgeKind kind);
    void merged_edge(Button name, unsigned device, EdgeKind kind, bool other_down, bool other_pressed);
    void cancel(unsigned device);
    NaiveFigures figures(const Before& before, const std::vector<NaiveEdge>& edges, std::uint64_t system) const;

    std::size_t room_;
    Repeat repeat_;
    std::vector<Queue> inlets_;
    std::int64_t t0_ = 0, t1_ = 0, effective_ = 0;
    std::map<unsigned, Device> devices_;
    std::map<std::uint16_t, Before> merged_now_, merged_before_;
    std::map<std::pair<unsigned, std::uint16_t>, Before> device_now_, device_before_;
    std::vector<NaiveEdge> device_edges_, merged_edges_;
    std::vector<NaiveSystemRepeat> system_repeats_;
    std::uint64_t late_ = 0, taken_ = 0, strays_ = 0, ignored_ = 0;
};

/// The keys an either-side name stands for; the button itself otherwise.
std::vector<Button> keys_of(Button button);

}  // namespace test
