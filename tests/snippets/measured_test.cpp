// What documents and examples show is run: at 10 to 1,000 frames per second, with keys held at the start, over a stop
// of three seconds, paused, and with the focus lost and back. It goes equally far, and each press fires once.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "snippets/world.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Controls;
using test::Deed;
using test::down;
using test::focus;
using test::place;
using test::Result;
using test::Script;
using test::stick;
using test::stop;
using test::up;
using test::World;

/// What the games have.
struct Quay : World {
    using World::World;
    struct {
        int toggles = 0;
        void toggle_lock() { ++toggles; }
    } spreader;
    struct {
        int opened = 0, steps = 0;
        void open() { ++opened; }
        void next() { ++steps; }
        void move(std::uint64_t count) { steps += static_cast<int>(count); }
    } menu;
    struct {
        double x = 0, y = 0;
    } trolley;
    std::string problems;
    void log(const char* problem) { problems += problem; }
};

// ---- docs/drop-in.md: callbacks

struct EventLoop : Quay {
    using Quay::Quay;
    enum MyKey : std::uint16_t {};
    static constexpr std::array<Button, button_capacity> my_table = [] {
        std::array<Button, button_capacity> table{};
        for (std::uint16_t i = 0; i < table.size(); ++i) table[i] = Button{i};
        return table;
    }();
    static constexpr WindowRect horn_button{0, 0, 100, 50};
    struct {
        int calls = 0;
        void sound() { ++calls; }
    } horn;
    void draw(const Frame&, double) {}

#include "event_callbacks.inc"

    Result play() {
        when_key = [this](Button key, bool is_down) { on_key(static_cast<MyKey>(key.number), is_down); };
        when_focus = [this](bool has) { on_focus(has); };
        when_place = [this](double x, double y) { on_move(static_cast<float>(x), static_cast<float>(y)); };
#include "event_loop.inc"
        return {trolley.x, trolley.y, spreader.toggles, menu.opened, problems};
    }
};

// ---- README.md

struct FirstLoop : Quay {
    using Quay::Quay;
    using MyKey = EventLoop::MyKey;
    static constexpr auto& my_table = EventLoop::my_table;

#include "first_callbacks.inc"

    Result play() {
        when_key = [this](Button key, bool is_down) { on_key(static_cast<MyKey>(key.number), is_down); };
        when_focus = [this](bool has) { on_focus(has); };
#include "first_loop.inc"
        return {trolley.x, 0, spreader.toggles, 0, {}};
    }
};

// ---- docs/drop-in.md: polling

struct PollingLoop : Quay {
    using Quay::Quay;
    Result play() {
#include "polling_loop.inc"
        return {trolley.x, 0, spreader.toggles, 0, {}};
    }
};

// ---- docs/threads-and-time.md and docs/profile-format.md: loops around actions, menus, pauses

struct Pumped : Quay {
    Pumped(const Script& script, int frames_per_second) : Quay{script, frames_per_second} {
        when_key = [this](Button key, bool is_down) { timeline.desk().button(key, is_down); };
        when_focus = [this](bool has) {
            has ? timeline.desk().gain_focus(my_keys_down()) : timeline.desk().lose_focus();
        };
    }
    Timeline timeline{{.down = my_keys_down()}};
    Sampler simulation{timeline}, picture{timeline};
    TickClock ticks{hertz(60), at_most(5)};
};

constexpr const char* quay = R"(format = "cursorum-profile"
version = 1
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }]
[mode.crane.action.pause]
kind = "button"
bind = ["Escape"]
opens = "menu"
[mode.menu]
pauses = true
[mode.menu.action.next]
kind = "button"
bind = ["Space"]
[mode.menu.action.back]
kind = "button"
bind = ["Escape"]
closes = true
)";

struct ActionsLoop : Pumped {
    ActionsLoop(const Script& script, int frames_per_second) : Pumped{script, frames_per_second} {
        actions.open(*actions.find_mode("crane"));
    }
    static Profile profile() {
        ProfileError error;
        return read_profile(quay, "quay.toml", error).value();
    }
    ActionReader actions{profile()};
    const ButtonAction lock = *actions.find_button("lock"), next = *actions.find_button("next");
    const VectorAction travel = *actions.find_vector("travel");
    struct {
        double x = 0;
    } crane;

    virtual void round(Time complete){
#include "actions_loop.inc"
    } Result play() {
        while (running) {
            pump(my_window);
            round(Clock::now());
        }
        return {crane.x, 0, spreader.toggles, menu.steps, {}};
    }
};

struct MenuLoop : ActionsLoop {
    using ActionsLoop::ActionsLoop;
    struct {
        double time = 0;
        void roll(double step) { time += step; }
    } waves;
    void round(Time complete) override {
#include "menu_loop.inc"
    }
};

struct PauseLoop : Pumped {
    using Pumped::Pumped;
    Result play() {
        while (running) {
            pump(my_window);
            const Time complete = Clock::now();
#include "pause_loop.inc"
        }
        return {trolley.x, 0, spreader.toggles, menu.steps, {}};
    }
};

// ---- docs/live-sources.md and docs/pointer-pads-and-seats.md: gamepads

constexpr DeviceId pad{21};

/// A window and a pad, as their sources deliver them.
struct PadsBesideAWindow : World {
    double way = 0;
    PadsBesideAWindow(const Script& script, int frames_per_second) : World{script, frames_per_second} {
        when_focus = [this](bool has) { window_source.turned = has; };
        when_stick = [](double x, double y) { EvdevSource::pushed.push_back({Clock::now(), {x, y}}); };
        EvdevSource::pushed.clear();
        EvdevSource::connected = false;
    }
    struct WindowSource {
        PadsBesideAWindow& world;
        std::optional<bool> turned{};
        bool is_open() const { return world.running; }
        void deliver(Inlet& inlet) {
            world.pump(world.my_window);
            if (turned) *turned ? inlet.gain_focus(ButtonSet{}) : inlet.lose_focus();
            turned.reset();
            inlet.set_complete_until(Clock::now());
        }
    } window_source{*this};
    struct EvdevSource {
        struct Options {
            bool keyboards, mice;
        };
        struct Pushed {
            Time time;
            Vector2 to;
        };
        static inline std::vector<Pushed> pushed;
        static inline bool connected = false;
        static std::unique_ptr<EvdevSource> open(const Options&, std::string&) {
            return std::make_unique<EvdevSource>();
        }
        void deliver(Inlet& inlet, const Inlet& window) {
            DeviceShaping plain;
            plain.sticks[0].response = {};
            if (!std::exchange(connected, true))
                inlet.connect(pad, {.kind = DeviceKind::gamepad}), inlet.set_shaping(pad, plain);
            if (window.has_focus() != inlet.has_focus())
                window.has_focus() ? inlet.gain_focus(unknown_state) : inlet.lose_focus();
            for (const auto& [time, to] : std::exchange(pushed, {})) inlet.stick(pad, PadStickLeft, to.x, to.y, time);
            inlet.set_complete_until(Clock::now());
        }
    };
    Result play() {
        double& trolley = way;
#include "pads_beside_a_window.inc"
        return {way, 0, 0, 0, {}};
    }
};

struct PadReadings : Pumped {
    PadReadings(const Script& script, int frames_per_second) : Pumped{script, frames_per_second} {
        DeviceShaping plain;
        plain.sticks[0].response = {};
        timeline.desk().connect(pad, {.kind = DeviceKind::gamepad});
        timeline.desk().set_shaping(pad, plain);
        when_stick = [this](double x, double y) { timeline.desk().stick(pad, PadStickLeft, x, y); };
    }
    struct {
        double x = 0, y = 0, winch = 0;
        int brakes = 0;
        void brake() { ++brakes; }
    } crane;
    struct {
        void turn_to(Vector2) {}
    } light;
    Result play() {
        while (running) {
            pump(my_window);
            while (const auto tick = ticks.next(Clock::now())) {
                const Frame& frame = simulation.advance(*tick);
#include "pad_readings.inc"
                (void)raw;
            }
        }
        return {crane.x, crane.y, crane.brakes, 0, {}};
    }
};

// ---- examples/first_box.cpp

struct FirstBox : Pumped {
    using Pumped::Pumped;
    PictureClock pictures;
    Result play() {
        constexpr DirectionButtons arrows{.left = {KeyA}, .right = {KeyD}, .up = {KeyW}, .down = {KeyS}};
        double left = 60, top = 140, before = 0;
        int steps = 0;
        while (running) {
            pump(my_window);
            if (const auto tick = pictures.next(Clock::now())) {
                const Frame& f = simulation.advance(*tick);
                before = left;
#include "box_moves.inc"
                // How often it stepped, and how far it walked besides, half as fast.
                const double walked = 200 * tick->step * way.x;
                const auto stepped = static_cast<int>(std::lround((left - before - walked) / 40));
                steps += stepped, left -= 40 * stepped;
            }
        }
        return {(left - 60) / 2, (top - 140) / 2, steps, 0, {}};
    }
};

// ---- scripts

struct Scene {
    const char* name;
    Script script;
    double tolerance = 1e-6;  // of the way; a tick is 1.7
};

const Script walks{down(300, KeyD),  down(400, Space), up(403, Space),     down(600, Space),
                   up(603, Space),   down(604, Space), up(690, Space),     down(1000, KeyS),
                   up(1300, KeyD),   up(1700, KeyS),   down(1800, Escape), up(1850, Escape),
                   down(2000, KeyA), down(2100, KeyD), up(2200, KeyA),     up(2500, KeyD)};
const Script held{down(-1, KeyD), down(-1, Space), down(-1, Escape), up(700, KeyD),
                  up(710, Space), up(720, Escape), down(900, Space), up(980, Space)};
const Script stopped{down(100, KeyD),   down(1003, Space), up(1006, Space), stop(1300, 3000),
                     down(2000, Space), up(2004, Space),   up(6000, KeyD)};
const Script let_go_in_a_stop{down(100, KeyD), stop(1300, 3000), up(2000, KeyD), down(5000, KeyD), up(5500, KeyD)};
const Script without_focus{down(200, KeyD),    down(250, Space),   focus(1000, false), up(1200, Space),
                           down(1300, Space),  up(1400, Space),    down(1500, Space),  focus(2000, true),
                           up(2300, Space),    down(2400, Space),  up(2500, Space),    up(2600, KeyD),
                           down(2700, Escape), focus(2800, false), focus(3100, true),  up(3200, Escape)};
const Script paused{down(300, KeyD),    down(1000, Escape), up(1080, Escape),  down(1500, Space), up(1600, Space),
                    down(2000, Escape), up(2080, Escape),   down(2500, Space), up(2600, Space),   up(3000, KeyD)};

constexpr int rates[] = {10, 30, 60, 144, 1000};

template <typename Game>
void measure(const std::vector<Scene>& scenes, const Controls& controls, bool compares_menu = true) {
    for (const Scene& scene : scenes)
        for (const int rate : rates) {
            SCOPED_TRACE(std::string{scene.name} + " at " + std::to_string(rate) + " frames per second");
            Game game{scene.script, rate};
            const Result result = game.play(), wanted = expected(scene.script, controls, game.gaps());
            EXPECT_NEAR(result.x, wanted.x, scene.tolerance);
            EXPECT_NEAR(result.y, wanted.y, scene.tolerance);
            EXPECT_EQ(result.fired, wanted.fired);
            if (compares_menu) {
                EXPECT_EQ(result.opened, wanted.opened);
            }
            EXPECT_EQ(result.problems, "");
        }
}

// A stop ends at most a tick away from where the game's clock has cut.
constexpr double tick = 100.0 / 60 + 0.01;

TEST(Shown, TheLoopWithCallbacks) {
    measure<EventLoop>({{"walks", walks},
                        {"held at the start", held},
                        {"stopped", stopped, tick},
                        {"let go in a stop", let_go_in_a_stop, tick},
                        {"without focus", without_focus}},
                       {.left = KeyA, .right = KeyD, .up = KeyW, .down = KeyS, .fire = Space, .open = Escape});
}

TEST(Shown, TheFirstLoop) {
    measure<FirstLoop>({{"held at the start", held},
                        {"stopped", stopped, tick},
                        {"let go in a stop", let_go_in_a_stop, tick},
                        {"without focus", without_focus}},
                       {.left = KeyA, .right = KeyD, .fire = Space}, false);
}

TEST(Shown, TheFirstBox) {
    measure<FirstBox>({{"walks", walks},
                       {"held at the start", held},
                       {"stopped", {down(100, KeyD), stop(700, 3000), up(3900, KeyD)}},
                       {"without focus",
                        {down(200, KeyD), down(250, Space), focus(700, false), up(900, Space), down(950, Space),
                         focus(1100, true), up(1500, KeyD)}}},
                      {.left = KeyA, .right = KeyD, .up = KeyW, .down = KeyS, .fire = Space}, false);
    FirstBox game{{down(100, KeyD), down(100, KeyW), up(9000, KeyD), up(9000, KeyW)}, 60};
    const Result result = game.play();
    EXPECT_EQ(result.x, (580 - 60) / 2.0) << "it stays in the window";
    EXPECT_EQ(result.y, -140 / 2.0);
}

TEST(Shown, ATargetIsClicked) {
    for (const int rate : rates) {
        EventLoop game{{place(10, 300, 10), place(100, 50, 20), down(200, MouseLeft), up(260, MouseLeft),
                        place(300, 150, 20), down(400, MouseLeft), up(460, MouseLeft)},
                       rate};
        EXPECT_EQ(game.play().problems, "");
        EXPECT_EQ(game.horn.calls, 1) << rate;
    }
}

/// What an engine that polls gets to see: all at the end of the picture in which it happened, and no tap within one.
Script as_polled(const Script& script, int rate) {
    Script polled;
    std::int64_t since = 0, until = 0;
    for (Deed deed : script) {
        const bool is_in_stop = deed.at <= until && deed.kind != Deed::Kind::stop;
        if (deed.kind == Deed::Kind::stop) {
            since = until = deed.at + deed.length;
        } else if (is_in_stop && until != 0) {
            deed.at = until;
        } else if (deed.at >= 0) {
            for (std::int64_t frame = (deed.at - since) * rate / 1'000'000'000;; ++frame) {
                const std::int64_t end = since + frame * 1'000'000'000 / rate;
                if (end < deed.at || frame == 0) continue;
                deed.at = end;
                break;
            }
        }
        const auto same = std::find_if(polled.begin(), polled.end(), [&](const Deed& other) {
            return other.at == deed.at && other.kind == deed.kind && other.key == deed.key && deed.at >= 0;
        });
        if (same != polled.end())
            polled.erase(same);
        else
            polled.push_back(deed);
    }
    return polled;
}

TEST(Shown, TheLoopThatPolls) {
    const Controls controls{.left = KeyA, .right = KeyD, .fire = Space};
    for (const Scene& scene : std::vector<Scene>{{"held at the start", held},
                                                 {"stopped", stopped},
                                                 {"let go in a stop", let_go_in_a_stop},
                                                 {"without focus", without_focus},
                                                 {"walks", walks}})
        for (const int rate : rates) {
            SCOPED_TRACE(std::string{scene.name} + " at " + std::to_string(rate) + " frames per second");
            PollingLoop game{scene.script, rate};
            const Result result = game.play();
            Script seen = as_polled(scene.script, rate);
            // Of opposite keys, the newest one counts: the other one is as if it were up.
            if (scene.name == std::string_view{"walks"})
                seen = as_polled({down(300, KeyD), down(400, Space), up(403, Space), down(600, Space), up(603, Space),
                                  down(604, Space), up(690, Space), up(1300, KeyD), down(2000, KeyA), up(2100, KeyA),
                                  down(2100, KeyD), up(2500, KeyD)},
                                 rate);
            const Result wanted = expected(seen, controls, game.gaps());
            EXPECT_NEAR(result.x, wanted.x, 1e-6);
            EXPECT_EQ(result.fired, wanted.fired);
        }
}

TEST(Shown, TheLoopWithActions) {
    const Controls controls{.left = KeyA, .right = KeyD, .up = KeyW, .down = KeyS, .fire = Space};
    Controls along = controls;
    measure<ActionsLoop>({{"held at the start", held},
                          {"stopped", stopped, tick},
                          {"let go in a stop", let_go_in_a_stop, tick},
                          {"without focus", without_focus}},
                         along, false);
    // The menu opens and closes; the ticks that see it do are the longest that can be off.
    along.pause = Escape;
    measure<MenuLoop>({{"paused", paused, 2 * tick}}, along, false);
    for (const int rate : rates) {
        MenuLoop game{paused, rate};
        EXPECT_EQ(game.play().opened, 1) << "the menu hears the press that is its own, at " << rate;
        EXPECT_FALSE(game.actions.pauses());
        EXPECT_NEAR(game.waves.time, 4 - 1, 2.0 / 60 + 1.0 / rate) << "4 s less one in the menu";
    }
}

TEST(Shown, TheLoopThatPauses) {
    const Controls controls{.left = KeyA, .right = KeyD, .fire = Space, .pause = Escape};
    // It sees Escape at the picture's end, and goes on with the next picture.
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        PauseLoop game{paused, rate};
        const Result result = game.play();
        const Result wanted = expected(as_polled(paused, rate), controls, game.gaps());
        EXPECT_NEAR(result.x, wanted.x, tick + World::speed / rate + 1e-6);
        EXPECT_EQ(result.fired, wanted.fired);
        EXPECT_EQ(result.opened, 1);
        EXPECT_FALSE(game.ticks.is_paused());
    }
    measure<PauseLoop>({{"stopped", stopped, tick}, {"let go in a stop", let_go_in_a_stop, tick}},
                       {.left = KeyA, .right = KeyD, .fire = Space}, false);
}

const Script flicks{stick(200, 1, 0),   stick(203, 0, 0),  stick(500, 0.5, 0), stick(900, -0.25, 0.25),
                    stick(1400, 0, 0),  stick(1500, 1, 1), stick(1700, 0, 0),  down(1800, KeyD),
                    stick(1850, -1, 0), up(1900, KeyD),    stick(2000, 0, 0),  stick(2100, 0.75, 0),
                    focus(2300, false), stick(2400, 0, 0), focus(2500, true),  stick(2600, 0.5, 0),
                    stop(3000, 3000),   stick(6500, 0, 0)};

TEST(Shown, Gamepads) {
    measure<PadReadings>({{"a stick and keys", {flicks.begin(), flicks.begin() + 12}},
                          {"stopped", {stick(100, 0.5, -0.5), stop(1000, 3000), stick(5000, 0, 0)}, tick}},
                         {.left = KeyA, .right = KeyD, .up = KeyW, .down = KeyS, .has_stick = true}, false);
    // This one has no keys.
    Script alone;
    for (const Deed& deed : flicks)
        if (deed.kind != Deed::Kind::key) alone.push_back(deed);
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        PadsBesideAWindow game{alone, rate};
        const Result result = game.play();
        // The window's source says when the focus went as a picture ends.
        Script seen = alone;
        for (Deed& deed : seen)
            if (deed.kind == Deed::Kind::focus) deed = as_polled({deed}, rate)[0];
        EXPECT_NEAR(result.x, expected(seen, {.has_stick = true}, game.gaps()).x, 1e-6);
    }
}

}  // namespace
