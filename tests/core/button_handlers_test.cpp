#include "cursorum/core/button_handlers.hpp"

#include <gtest/gtest.h>

#include <array>
#include <functional>
#include <memory>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/seats.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;
using test::ScriptRun;

constexpr std::array kinds{HandledEdge::pressed, HandledEdge::released, HandledEdge::ended, HandledEdge::adopted,
                           HandledEdge::repeated};

/// Letters of what is called for: p r e a R, with the time and the device.
struct Calls {
    explicit Calls(Button button, DeviceId device = {}) {
        for (const HandledEdge kind : kinds)
            EXPECT_TRUE(handlers.add(
                kind, button,
                [this](const ButtonEvent& event) {
                    text += (text.empty() ? "" : " ") + std::to_string(nanoseconds(event.time)) +
                            "preaR"[static_cast<unsigned>(event.edge)] +
                            std::to_string(static_cast<std::uint32_t>(event.device));
                },
                device));
        EXPECT_TRUE(handlers.follow(down, button, device));
        run.on_cut = [this](const Frame& frame) { handlers.run(frame); };
        run.show = [this](const Frame&) {
            const std::string calls = std::exchange(text, "");
            return (calls.empty() ? "-" : calls) + (down ? " down" : "");
        };
    }
    ButtonHandlers handlers;
    std::string text;
    bool down = false;
    ScriptRun run;
};

TEST(ButtonHandlers, AreCalledWithEachEdgeInOrder) {
    test::check_rows(R"(
a press and a release : 3+W |10 14-W |20 : 3p1 down; 14r1 14e1
a tap within a frame, twice : 3+W 4-W 5+W 6-W |10 : 3p1 4r1 4e1 5p1 6r1 6e1
focus loss ends, and the flag is not stuck : 3+W |10 14foc0 |20 : 3p1 down; 14e1
found down is adopted, its release is nobody's : 2foc0 3foc1 4sta1:W |10 15-W |20 : 4a1 down; 15e1
two devices are one button : 3+W 5+2W |10 14-W |20 25-2W |30 : 3p1 down; - down; 25r2 25e2
a press while another only adopted : 2foc0 3foc1 4sta1:W |10 15+2W |20 : 4a1 down; 15e2 15p2 down
)",
                     [](const std::string& script) { return Calls{KeyW}.run.run(script); });
}

TEST(ButtonHandlers, OfOneDeviceHaveItsOwnEdges) {
    test::check_rows(R"(
while another holds it : 3+W 5+2W |10 14-2W |20 : 5p2 down; 14r2 14e2
)",
                     [](const std::string& script) {
                         return Calls{KeyW, DeviceId{2}}.run.run(script);
                     });
    test::check_rows(R"(
either side is one key, whichever comes up first : 3+< 4+> |10 14-< |20 25-> |30 : 3p1 down; - down; 25r1 25e1
another device's does not matter : 3+2< 4+> 5-> |10 : 4p1 5r1 5e1
)",
                     [](const std::string& script) {
                         return Calls{Shift, DeviceId{1}}.run.run(script);
                     });
}

TEST(ButtonHandlers, RepeatsComeAfterTheEdges) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}, .repeat = {.delay = Duration{20}, .interval = Duration{4}, .cap = 0}}};
    ButtonHandlers handlers;
    int repeats = 0;
    ASSERT_TRUE(handlers.add(HandledEdge::repeated, KeyW, [&](const ButtonEvent&) { ++repeats; }));
    timeline.desk().button(KeyW, true, Time{Duration{5}});
    handlers.run(sampler.advance(Time{Duration{40}}));
    EXPECT_EQ(repeats, 4) << "at 25, 29, 33 and 37";
}

TEST(ButtonHandlers, MayBeAddedAndRemovedWhileTheyRun) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ButtonHandlers handlers{3};
    std::string text;
    const auto own = std::make_shared<int>(0);
    std::optional<HandlerId> second;
    ASSERT_TRUE(handlers.add(HandledEdge::pressed, KeyW, [&](const ButtonEvent&) {
        text += 'a';
        if (second) {
            EXPECT_TRUE(handlers.remove(*std::exchange(second, std::nullopt)));
        }
        handlers.add(HandledEdge::pressed, KeyW, [&](const ButtonEvent&) { text += 'c'; });
    }));
    second = handlers.add(HandledEdge::pressed, KeyW, [&text, own](const ButtonEvent&) { text += 'b'; });
    EXPECT_EQ(own.use_count(), 2);
    const auto press = [&](std::int64_t time) {
        timeline.desk().button(KeyW, true, Time{Duration{time}});
        timeline.desk().button(KeyW, false, Time{Duration{time + 1}});
        handlers.run(sampler.advance(Time{Duration{time + 5}}));
    };
    press(1);
    EXPECT_EQ(text, "a") << "the second was removed, the new one comes with the next frame";
    EXPECT_EQ(own.use_count(), 1) << "what it captured is destroyed";
    press(11);
    EXPECT_EQ(text, "aac") << "and there is room for three at a time";
    EXPECT_EQ(handlers.count(), 3U);
    EXPECT_FALSE(handlers.add(HandledEdge::pressed, KeyW, [](const ButtonEvent&) {})) << "no room";
    EXPECT_FALSE(handlers.add(HandledEdge::pressed, Button{}, [](const ButtonEvent&) {})) << "no button";
    EXPECT_FALSE(handlers.remove(HandlerId{99}));
}

// A full table: each handler that is called makes room for its successor.
TEST(ButtonHandlers, MayBeReplacedWhileTheyRun) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ButtonHandlers handlers{2};
    std::optional<HandlerId> own;
    int calls = 0;
    const std::function<void(const ButtonEvent&)> once = [&](const ButtonEvent&) {
        ++calls;
        EXPECT_TRUE(handlers.remove(own.value()));
        own = handlers.add(HandledEdge::pressed, KeyW, [&](const ButtonEvent& event) { once(event); });
        EXPECT_TRUE(own) << "after " << calls;
    };
    own = handlers.add(HandledEdge::pressed, KeyW, [&](const ButtonEvent& event) { once(event); });
    ASSERT_TRUE(handlers.add(HandledEdge::pressed, KeyW, [](const ButtonEvent&) {}));
    for (int i = 1; i <= 9; ++i) {
        timeline.desk().button(KeyW, true, Time{Duration{10 * i}});
        timeline.desk().button(KeyW, false, Time{Duration{10 * i + 1}});
        handlers.run(sampler.advance(Time{Duration{10 * i + 5}}));
        EXPECT_EQ(calls, i);
        EXPECT_EQ(handlers.count(), 2U);
    }
}

// For every button, any device and each one: as many calls as the reading counts.
TEST(ButtonHandlers, AgreeWithReadings) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        constexpr std::array buttons{KeyW, KeyA, ShiftLeft, ShiftRight, Shift, Space};
        constexpr std::array devices{DeviceId{}, DeviceId{1}, DeviceId{2}};
        Timeline timeline{{.devices = 4, .desk_devices = false}};
        for (const DeviceId id : {devices[1], devices[2]})
            timeline.desk().connect(id, {.kind = DeviceKind::keyboard}, Time{});
        Sampler sampler{timeline, {.start = Time{}}};
        ButtonHandlers handlers{buttons.size() * devices.size() * 4};
        std::map<std::tuple<unsigned, unsigned, unsigned>, unsigned> calls;
        for (unsigned b = 0; b < buttons.size(); ++b)
            for (unsigned d = 0; d < devices.size(); ++d)
                for (unsigned k = 0; k < 4; ++k)
                    ASSERT_TRUE(handlers.add(
                        kinds[k], buttons[b],
                        [&calls, b, d, k](const ButtonEvent&) {
                            ++calls[{b, d, k}];
                        },
                        devices[d]));
        std::int64_t now = 0;
        for (int frame = 0; frame < 30; ++frame) {
            for (std::uint64_t n = random.below(8); n > 0; --n) {
                const DeviceId device = devices[1 + random.below(2)];
                now += static_cast<std::int64_t>(random.below(5));
                const Time time{Duration{now}};
                if (random.one_in(8))
                    random.one_in(2) ? timeline.desk().lose_focus(time)
                                     : timeline.desk().gain_focus(unknown_state, time);
                else if (random.one_in(6))
                    timeline.desk().state(device, {KeyW, ShiftLeft}, time, random.one_in(2));
                else
                    timeline.desk().button(device, buttons[random.below(4)], random.one_in(2), time);
            }
            const Frame& f = sampler.advance(Time{Duration{++now}});
            calls.clear();
            handlers.run(f);
            for (unsigned b = 0; b < buttons.size(); ++b)
                for (unsigned d = 0; d < devices.size(); ++d) {
                    SCOPED_TRACE("frame " + std::to_string(frame) + ", " + std::string{name_of(buttons[b])} +
                                 ", device " + std::to_string(static_cast<std::uint32_t>(devices[d])));
                    const ButtonFigures figures =
                        d == 0 ? f[buttons[b]].figures() : f.on(devices[d])[buttons[b]].figures();
                    ASSERT_EQ((calls[{b, d, 0}]), figures.press_count());
                    ASSERT_EQ((calls[{b, d, 1}] != 0), figures.released());
                    ASSERT_EQ((calls[{b, d, 2}]), figures.release_count() + figures.cancel_count());
                    ASSERT_EQ((calls[{b, d, 3}]), figures.adopt_count());
                }
        }
    }
}

// As many calls for each seat as its own reading counts, while keyboards change hands.
TEST(ButtonHandlers, OfASeatAgreeWithItsReadings) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        constexpr std::array buttons{KeyW, KeyJ, ShiftLeft, ShiftRight, Shift};
        Timeline timeline{{.devices = 4, .desk_devices = false}};
        for (const DeviceId id : {DeviceId{1}, DeviceId{2}})
            timeline.desk().connect(id, {.kind = DeviceKind::keyboard}, Time{});
        Sampler sampler{timeline, {.start = Time{}}};
        Seats seats{2};
        std::array<ButtonHandlers, 2> handlers;
        std::map<std::tuple<unsigned, unsigned, unsigned>, unsigned> calls;
        std::array<bool, 2> flags{};
        std::int64_t now = 0, last_call = 0;
        for (unsigned seat = 0; seat < 2; ++seat) {
            for (unsigned b = 0; b < buttons.size(); ++b)
                for (unsigned k = 0; k < 4; ++k)
                    ASSERT_TRUE(handlers[seat].add(kinds[k], buttons[b],
                                                   [&calls, &last_call, seat, b, k](const ButtonEvent& event) {
                                                       ++calls[{seat, b, k}];
                                                       EXPECT_GE(nanoseconds(event.time), last_call) << "in order";
                                                       last_call = nanoseconds(event.time);
                                                   }));
            ASSERT_TRUE(handlers[seat].follow(flags[seat], KeyW));
        }
        for (int frame = 0; frame < 30; ++frame) {
            for (std::uint64_t n = random.below(8); n > 0; --n) {
                now += static_cast<std::int64_t>(random.below(5));
                const DeviceId device{1 + static_cast<std::uint32_t>(random.below(2))};
                timeline.desk().button(device, buttons[random.below(4)], random.one_in(2), Time{Duration{now}});
            }
            if (random.one_in(4)) {
                const DeviceId device{1 + static_cast<std::uint32_t>(random.below(2))};
                const auto seat = static_cast<unsigned>(random.below(2));
                random.one_in(2) ? seats.give(device, seat) : seats.give(device, seat, left_half());
            }
            const Frame& f = sampler.advance(Time{Duration{++now}});
            seats.read(f);
            calls.clear();
            for (unsigned seat = 0; seat < 2; ++seat) {
                last_call = 0;
                handlers[seat].run(f, seats, seat);
                EXPECT_EQ(flags[seat], seats[seat][KeyW].down());
                for (unsigned b = 0; b < buttons.size(); ++b) {
                    SCOPED_TRACE("frame " + std::to_string(frame) + ", " + std::string{name_of(buttons[b])} +
                                 ", seat " + std::to_string(seat));
                    const ButtonFigures figures = seats[seat][buttons[b]];
                    ASSERT_EQ((calls[{seat, b, 0}]), figures.press_count());
                    ASSERT_EQ((calls[{seat, b, 1}] != 0), figures.released());
                    ASSERT_EQ((calls[{seat, b, 2}]), figures.release_count() + figures.cancel_count());
                    ASSERT_EQ((calls[{seat, b, 3}]), figures.adopt_count());
                }
            }
        }
    }
}

}  // namespace
