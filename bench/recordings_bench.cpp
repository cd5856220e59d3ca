// Recordings read and cut into frames, against a reader that builds a tree for each line with a usual JSON library.

#include <benchmark/benchmark.h>

#include <cstdint>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/frame_views.hpp"
#include "groups.hpp"
#include "timing.hpp"

namespace bench {
namespace {

using namespace cursorum;

constexpr std::int64_t line_count = 20'000;
constexpr Duration step{400'000};  // 2,500 events per second

/// Keys with system repeats, a mouse and a stick, as they come in play.
const std::string& recording() {
    static const std::string text = [] {
        std::ostringstream out;
        RecordingWriter writer{out, Time{}};
        writer.header("bench");
        writer.take(
            Event::connect(Time{}, DeviceId{1}, {.kind = DeviceKind::keyboard, .name = "k", .marks_repeats = true}));
        writer.take(Event::connect(Time{}, DeviceId{2}, {.kind = DeviceKind::mouse, .name = "m"}));
        writer.take(Event::connect(Time{}, DeviceId{3}, {.kind = DeviceKind::gamepad, .name = "p"}));
        for (std::int64_t i = 0; i < line_count; ++i) {
            const Time time{step * (i + 1)};
            const auto part = static_cast<double>(i % 200) / 200;
            const Button key = i / 40 % 2 == 0 ? controls::KeyW : controls::Space;
            if (i % 4 == 0)
                writer.take(Event::button(time, DeviceId{1}, key, i % 40 < 20, i % 40 < 20 && i % 40 != 0));
            else if (i % 4 == 3)
                writer.take(Event::axis_value(time, DeviceId{3}, controls::PadStickLeftX, part - 0.25));
            else
                writer.take(Event::motion(time, DeviceId{2}, {part, 1.5}));
        }
        return out.str();
    }();
    return text;
}

/// Reads lines by a tree for each, of the types that are in it; refuses nothing.
template <typename Take>
void read_by_trees(Take&& take) {
    std::istringstream in{recording()};
    std::string line;
    std::getline(in, line);
    while (std::getline(in, line)) {
        const nlohmann::json tree = nlohmann::json::parse(line);
        const auto& type = tree.at("type").get_ref<const std::string&>();
        const Time time{Duration{tree.at("t").get<std::int64_t>()}};
        const DeviceId device{tree.at("device").get<std::uint32_t>()};
        if (type == "button") {
            take(Event::button(time, device, find_button(tree.at("control").get_ref<const std::string&>()),
                               tree.at("down").get<bool>(), tree.value("system_repeat", false)));
        } else if (type == "motion") {
            take(Event::motion(time, device, {tree.at("dx").get<double>(), tree.at("dy").get<double>()}));
        } else if (type == "axis") {
            take(Event::axis_value(time, device, find_axis(tree.at("control").get_ref<const std::string&>()).value(),
                                   tree.at("value").get<double>()));
        } else {
            DeviceInfo info;
            const auto& kind = tree.at("kind").get_ref<const std::string&>();
            info.kind = kind == "mouse"     ? DeviceKind::mouse
                        : kind == "gamepad" ? DeviceKind::gamepad
                                            : DeviceKind::keyboard;
            info.marks_repeats = tree.value("marks_repeats", false);
            take(Event::connect(time, device, info));
        }
    }
}

void read_recording(benchmark::State& state) {
    time_rounds(
        state, "line", line_count, [] {},
        [] {
            std::istringstream in{recording()};
            RecordingReader reader{in, "bench"};
            std::int64_t count = 0;
            for (RecordingLine line; reader.read(line);) {
                benchmark::DoNotOptimize(line.event.time);
                ++count;
            }
            if (count != line_count + 3 || reader.error()) differ("reader");
        });
}
void read_trees(benchmark::State& state) {
    time_rounds(
        state, "line", line_count, [] {},
        [] {
            std::int64_t count = 0;
            read_by_trees([&](const Event& event) {
                benchmark::DoNotOptimize(event.time);
                ++count;
            });
            if (count != line_count + 3) differ("trees");
        });
}

std::string first_frames;  // of the one, for the other

void replay_frames(benchmark::State& state) {
    time_rounds(
        state, "line", line_count, [] {},
        [] {
            std::istringstream in{recording()};
            Replay replay{in, "bench", {.rate = ExactRate{60}}};
            std::string frames;
            while (const Frame* frame = replay.next())
                frames += frame_as_jsonl(replay.frame_number(), *frame, replay.timeline(), {});
            if (first_frames.empty()) first_frames = frames;
            if (frames != first_frames) differ("frames");
        });
}
void tree_frames(benchmark::State& state) {
    time_rounds(
        state, "line", line_count, [] {},
        [] {
            Timeline timeline{{.devices = 64, .history = 4096, .desk_devices = false, .start = Time{}}};
            Sampler sampler{timeline, {.start = Time{}}};
            std::string frames;
            std::int64_t number = 0;
            const auto end = [&] { return Time{Duration{(number + 1) * 1'000'000'000 / 60}}; };
            const auto cut = [&] {
                const Frame& frame = sampler.advance(end());
                frames += frame_as_jsonl(static_cast<std::uint64_t>(number++), frame, timeline, {});
            };
            read_by_trees([&](const Event& event) {
                while (event.time > end()) cut();
                timeline.desk().post(event);
            });
            cut();
            if (first_frames.empty()) first_frames = frames;
            if (frames != first_frames) differ("frames by trees");
        });
}

}  // namespace

void add_recordings_benchmarks() {
    benchmark::RegisterBenchmark("recording, read", read_recording);
    benchmark::RegisterBenchmark("recording, read by trees", read_trees);
    benchmark::RegisterBenchmark("recording, to frames", replay_frames);
    benchmark::RegisterBenchmark("recording, to frames by trees", tree_frames);
}

void report_recordings(RatioReporter& report) {
    report.row("reading a recording, over a tree for each line", "recording, read", "recording, read by trees", 0.2);
    report.row("a recording to frames as lines, over the same by trees", "recording, to frames",
               "recording, to frames by trees", 0.5);
    const double bytes = static_cast<double>(recording().size()) / static_cast<double>(line_count);
    RatioReporter::figure("reading a recording", bytes / report.median("recording, read") * 1000, "MB/s");
}

}  // namespace bench
