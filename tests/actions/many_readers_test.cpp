// Four threads read the same frame, its seats and its actions at the same time, while a fifth goes on posting. All find
// the same; ThreadSanitizer finds that nothing was written.

#include <gtest/gtest.h>

#include <array>
#include <atomic>
#include <barrier>
#include <thread>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/cursorum.hpp"
#include "support/sanitizers.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId pad{21};
constexpr Button keys[] = {KeyA, KeyD, KeyW, KeyS, Space, Shift, MouseLeft, PadSouth};

Profile quay() {
    Profile profile;
    Mode& crane = profile.modes.emplace_back();
    crane.name = "crane";
    for (const Button key : keys) {
        Action& action = crane.actions.emplace_back();
        action.name = std::string{name_of(key)};
        action.bindings.push_back({.buttons = {key}});
    }
    Action& travel = crane.actions.emplace_back();
    travel.name = "travel";
    travel.kind = ActionKind::vector;
    travel.bindings.push_back({.kind = Binding::Kind::cross, .buttons = {KeyA, KeyD, KeyW, KeyS}});
    travel.bindings.push_back({.kind = Binding::Kind::stick, .stick = PadStickLeft});
    return profile;
}

/// Something of everything that can be read.
std::vector<double> everything(const Frame& frame, const Seats& seats, const ActionReader& actions) {
    std::vector<double> found;
    const auto add = [&found](auto... values) { (found.push_back(static_cast<double>(values)), ...); };
    for (const Button key : keys) {
        add(frame[key].press_count(), frame[key].down_span().count(), frame.on(pad)[key].down(), seats[0][key].down());
    }
    for (const Edge& edge : frame.all_edges()) add(edge.button.number, edge.time.time_since_epoch().count());
    for (const PointerSample& sample : frame.pointer().samples()) add(sample.motion.x, sample.motion.y);
    add(frame.pointer().motion().x, frame.pointer().wheel_steps().y, frame.stick(PadStickLeft).mean.x);
    add(frame.direction({.left = {KeyA}, .right = {KeyD}}, PadStickLeft).mean.x, frame.latency().events);
    add(frame.newest({KeyA, KeyD}).number, frame.all_pressed().size(), frame.current().down.size());
    add(seats[1].motion().x, seats[1].stick(PadStickLeft).now.x);
    actions.for_each_edge(
        [&](const ActionEdge& edge) { add(edge.action.number, edge.time.time_since_epoch().count()); });
    add(actions[*actions.find_vector("travel")].mean.x, actions[*actions.find_button("Space")].pressed());
    add(actions.owner_of(Space).mode.number, actions.pauses());
    return found;
}

TEST(ManyReaders, FindTheSameInOneFrame) {
    constexpr unsigned readers = 4, frames = test::under_thread_sanitizer ? 60 : 300;
    Timeline timeline;
    Inlet& desk = timeline.desk();
    desk.connect(pad, {.kind = DeviceKind::gamepad});
    Sampler sampler{timeline};
    Seats seats{2};
    seats.give(pad, 1);
    ActionReader actions{quay()};
    actions.open(*actions.find_mode("crane"));

    std::atomic<bool> goes_on{true};
    std::atomic<std::uint64_t> posted{0}, seen{0};
    std::thread producer{[&] {
        for (std::uint64_t i = 0; goes_on; ++i) {
            const auto key = keys[i % std::size(keys)];
            const bool is_down = i / std::size(keys) % 2 == 0;
            key == PadSouth ? desk.button(pad, key, is_down) : desk.button(key == Shift ? ShiftLeft : key, is_down);
            desk.motion(0.5, -0.25);
            desk.stick(pad, PadStickLeft, static_cast<double>(i % 7) / 7, 0);
            posted = i + 1;
            // Not so far ahead that it overwrites the history from which a frame's samples are read.
            while (posted > seen + 200 && goes_on) std::this_thread::yield();
        }
    }};

    std::array<std::vector<double>, readers> found;
    unsigned different = 0, empty = 0;
    const auto next_frame = [&]() noexcept {
        for (const auto& of_one : found) different += of_one != found[0];
        while (posted < seen + 10) std::this_thread::yield();
        seen = posted.load();
        const Frame& frame = sampler.advance(Clock::now());
        seats.read(frame);
        actions.read(frame);
        empty += frame.all_edges().begin() == frame.all_edges().end();
    };
    std::barrier barrier{readers, next_frame};
    std::vector<std::thread> threads;
    for (unsigned i = 0; i < readers; ++i)
        threads.emplace_back([&, i] {
            for (unsigned frame = 0; frame < frames; ++frame) {
                barrier.arrive_and_wait();
                found[i] = everything(sampler.frame(), seats, actions);
            }
            barrier.arrive_and_wait();
        });
    for (std::thread& thread : threads) thread.join();
    goes_on = false;
    producer.join();
    EXPECT_EQ(different, 0U);
    EXPECT_LT(empty, frames / 2);
}

}  // namespace
