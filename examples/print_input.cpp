// Prints what comes in, for ten seconds or until the source ends: from the kernel's devices, or from a recording.
//   print_input                                   every keyboard, mouse and gamepad that may be read
//   print_input /dev/input/event3                 one of them
//   print_input demo/two-operators.jsonl          a recording, at its own speed
#include <cstdio>
#include <string>
#include <thread>

#include "cursorum/cursorum.hpp"
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/views/text.hpp"

using namespace cursorum;

int main(int argc, char** argv) {
    const std::string name = argc > 1 ? argv[1] : "";
    std::string why;
    std::unique_ptr<ReplaySource> recording;
    std::unique_ptr<EvdevSource> devices;
    if (name.ends_with(".jsonl"))
        recording = ReplaySource::open({.file = name}, why);
    else if (name.empty())
        devices = EvdevSource::open({}, why);
    else
        devices = EvdevSource::open({.nodes = {name}}, why);
    if (!recording && !devices) return std::printf("print_input: %s\n", why.c_str()), 2;
    if (devices)
        for (const EvdevProblem& problem : devices->problems())
            std::printf("%s: %s. %s\n", problem.node.c_str(), problem.why.c_str(), problem.hint.c_str());
    if (devices)
        for (const EvdevIgnored& device : devices->ignored())
            std::printf("%s: %s\n", printable_text(device.name).c_str(), device.why.c_str());

    Timeline timeline{{.devices = 64, .desk_devices = false}};
    const Time begin = Clock::now();
    Sampler sampler{timeline, {.start = begin}};
    while (Clock::now() - begin < std::chrono::seconds{10} && (!recording || recording->is_open())) {
        const Frame& frame = sampler.advance(recording ? recording->deliver(timeline) : devices->deliver(timeline));
        frame.for_each_device_change([](const DeviceChange& change) {
            std::printf("%s %u %s: %s\n", name_of(change.kind).data(), change.place + 1,
                        change.connected ? "came" : "went", printable_text(change.name_bytes.data()).c_str());
        });
        frame.for_each_merged_edge([&](const Edge& edge) {
            std::printf("%8.3f s  %s %s\n", seconds(edge.time - begin), name_of(edge.button).data(),
                        name_of(edge.kind).data());
        });
        std::this_thread::sleep_for(std::chrono::milliseconds{4});
    }
}
