// docs/guide/recipes.md, at 10 to 1,000 pictures per second.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <optional>
#include <sstream>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/key_layout.hpp"
#include "snippets/world.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::down;
using test::focus;
using test::place;
using test::Script;
using test::stick;
using test::stop;
using test::up;
using test::World;

constexpr int rates[] = {10, 30, 60, 144, 1000};

const Profile& quay() {
    static const Profile profile = [] {
        ProfileError error;
        return read_profile(R"(format = "cursorum-profile"
version = 1
[mode.crane.action.lock]
kind = "button"
bind = ["Space", "PadSouth"]
buffer = "150ms"
[mode.crane.action.next]
kind = "button"
bind = ["ArrowDown"]
repeat = { delay = "400ms", interval = "100ms" }
[mode.crane.action.save]
kind = "button"
bind = ["Control+KeyL"]
[mode.crane.action.lamp]
kind = "button"
bind = ["KeyL"]
)",
                            "quay.toml", error)
            .value();
    }();
    return profile;
}

/// The loop of the guide.
struct Game : World {
    Game(const Script& script, int frames_per_second) : World{script, frames_per_second} {
        when_key = [this](Button key, bool is_down) { timeline.desk().button(key, is_down); };
        when_focus = [this](bool has) {
            has ? timeline.desk().gain_focus(my_keys_down()) : timeline.desk().lose_focus();
        };
        when_place = [this](double x, double y) { timeline.desk().moved_to(WindowPoint{x, y}); };
    }
    virtual void update(const Frame& frame) = 0;
    void play() {
        while (running) {
            pump(my_window);
            if (const auto tick = pictures.next(Clock::now())) update(sampler.advance(*tick));
        }
    }
    Timeline timeline{{.down = my_keys_down()}};
    Sampler sampler{timeline};
    PictureClock pictures;
};

struct Charge : Game {
    using Game::Game;
    double bar = 0, fullest = 0;
    std::vector<double> lines;
    void update(const Frame& frame) override {
#include "recipe_charge.inc"
        fullest = std::max(fullest, bar);
    }
};

TEST(Recipes, Charge) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Charge game{{down(-5, Space), up(100, Space), down(500, Space), up(750, Space), down(1000, Space),
                     up(1003, Space), down(1500, Space), up(4000, Space), down(5000, Space), focus(5200, false),
                     up(5300, Space), focus(5500, true)},
                    rate};
        game.play();
        ASSERT_EQ(game.lines.size(), 3U) << "not what was held at the start, nor what the focus loss ended";
        EXPECT_NEAR(game.lines[0], 0.25, 1e-9);
        EXPECT_NEAR(game.lines[1], 0.003, 1e-9);
        EXPECT_EQ(game.lines[2], 1);
        EXPECT_EQ(game.fullest, 1);
        EXPECT_EQ(game.bar, 0);
    }
}

struct WithActions : Game {
    WithActions(const Script& script, int frames_per_second) : Game{script, frames_per_second} {
        actions.open(*quay().find_mode("crane"));
    }
    ActionReader actions{quay()};
    const ButtonAction lock = *quay().find_button("lock"), next = *quay().find_button("next"),
                       save = *quay().find_button("save"), lamp = *quay().find_button("lamp");
};

struct Landing : WithActions {
    using WithActions::WithActions;
    struct Spreader {
        double at = 0;  // seconds
        int toggles = 0;
        bool has_landed() const { return at >= 1; }
        void toggle_lock() { ++toggles; }
    } spreader;
    void update(const Frame& frame) override {
        actions.read(frame);
        spreader.at += seconds(frame.end() - frame.start());
#include "recipe_landing.inc"
    }
};

TEST(Recipes, APressJustBeforeLanding) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Landing early{{down(880, Space), up(890, Space)}, rate};
        early.play();
        EXPECT_EQ(early.spreader.toggles, 1);
        Landing too_early{{down(500, Space), up(510, Space)}, rate};
        too_early.play();
        EXPECT_EQ(too_early.spreader.toggles, 0);
        Landing held{{down(-1, Space), up(1500, Space), down(2000, Space), up(2001, Space)}, rate};
        held.play();
        EXPECT_EQ(held.spreader.toggles, 1);
    }
}

struct Repeat : WithActions {
    using WithActions::WithActions;
    struct {
        std::uint64_t line = 0;
        void move(std::uint64_t steps) { line += steps; }
    } list;
    void update(const Frame& frame) override {
        actions.read(frame);
#include "recipe_repeat.inc"
    }
};

TEST(Recipes, HoldToRepeat) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        // One at once, and at 400, 500 … 900 ms.
        Repeat game{{down(-1, ArrowDown), up(600, ArrowDown), down(1000, ArrowDown), up(1950, ArrowDown),
                     down(2200, ArrowDown), focus(2300, false), focus(3500, true), up(4500, ArrowDown)},
                    rate};
        game.play();
        EXPECT_EQ(game.list.line, 7U + 1U);
    }
}

struct Chord : WithActions {
    using WithActions::WithActions;
    int saves = 0, switched = 0;
    bool lamp_is_on = false;
    void update(const Frame& frame) override {
        actions.read(frame);
        const bool was_on = lamp_is_on;
#include "recipe_chord.inc"
        switched += lamp_is_on != was_on;
    }
};

TEST(Recipes, AChordWithoutItsParts) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Chord game{{down(500, ControlLeft), down(504, KeyL), up(520, KeyL), up(530, ControlLeft), down(1000, KeyL),
                    up(1004, KeyL), down(2000, ControlLeft), focus(2100, false), up(2200, ControlLeft),
                    focus(2500, true), down(3000, KeyL), up(3100, KeyL)},
                   rate};
        game.play();
        EXPECT_EQ(game.saves, 1);
        EXPECT_EQ(game.switched, 2);
    }
}

/// The recipe's own profile, with a horn.
const Profile& field_profile() {
    static const Profile profile = [] {
        std::ifstream file{CURSORUM_SOURCE_DIR "/docs/guide/recipes.md"};
        std::ostringstream text;
        text << file.rdbuf();
        const std::string document = text.str();
        const std::size_t begin = document.find("[mode.crane.action.name_box]");
        const std::string modes = document.substr(begin, document.find("```", begin) - begin);
        ProfileError error;
        const auto read = read_profile(
            "format = \"cursorum-profile\"\nversion = 1\n[mode.crane.action.horn]\n"
            "kind = \"button\"\nbind = [\"KeyH\"]\n" +
                modes,
            "field.toml", error);
        EXPECT_TRUE(read) << error.message();
        return read.value_or(Profile{});
    }();
    return profile;
}

struct Field : Game {
    Field(const Script& script, int frames_per_second) : Game{script, frames_per_second} {
        actions.open(*field_profile().find_mode("crane"));
#include "recipe_field_areas.inc"
        when_key = [this](Button key, bool is_down) {
            timeline.desk().button(key, is_down);
            const std::string_view name = name_of(key);
            if (is_down && name.starts_with("Key"))
                timeline.desk().typed(std::string(1, static_cast<char>(name.back() - 'A' + 'a')));
        };
    }
    static void erase_last_character(std::string& text) { text.pop_back(); }
    void update(const Frame& frame) override {
        actions.read(frame);
#include "recipe_field.inc"
        horns += actions[horn].press_count();
        has_preview |= preview.is_open;
    }
    const WindowRect field{100, 100, 80, 20};
    ActionReader actions{field_profile()};
    const ButtonAction click_label = *field_profile().find_button("click_label"),
                       click_elsewhere = *field_profile().find_button("click_elsewhere"),
                       erase = *field_profile().find_button("erase"), horn = *field_profile().find_button("horn");
    const ModeHandle naming = *field_profile().find_mode("naming");
    std::string label;
    unsigned horns = 0;
    bool has_preview = false;
};

TEST(Recipes, TypeIntoAField) {
    const auto keys = [](Script& script, double& at, std::initializer_list<Button> typed) {
        for (const Button key : typed) script.push_back(down(at, key)), script.push_back(up(at + 5, key)), at += 9;
    };
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Script by_key{down(-5, KeyH), up(100, KeyH)};
        double at = 500;
        keys(by_key, at, {KeyT, KeyH, KeyO, KeyX, Backspace, KeyI, KeyS, KeyT});
        by_key.push_back(focus(at, false));
        keys(by_key, at, {KeyH});
        by_key.push_back(focus(at, true));
        at += 500;
        keys(by_key, at, {KeyS, Backspace, Enter, KeyH});
        Field game{by_key, rate};
        game.play();
        EXPECT_EQ(game.label, "hoist");
        EXPECT_EQ(game.horns, 1U) << "only after the field";
        EXPECT_FALSE(game.has_preview);

        Script by_click{place(300, 110, 110), down(500, MouseLeft), up(505, MouseLeft)};
        at = 510;
        keys(by_click, at, {KeyH, KeyO});
        by_click.push_back(place(at += 1, 20, 20));
        by_click.push_back(down(at += 1, MouseLeft));
        by_click.push_back(up(at += 5, MouseLeft));
        keys(by_click, at, {KeyH, KeyH});
        Field other{by_click, rate};
        other.play();
        EXPECT_EQ(other.label, "ho");
        EXPECT_EQ(other.horns, 2U);
    }
}

struct Drag : Game {
    using Game::Game;
    struct {
        int shown = 0, put_down = 0, put_back = 0;
        double x = 0;
        void show_at(WindowPoint) { ++shown; }
        void put_down_at(WindowPoint to) { ++put_down, x = to.x; }
    } counts;
    struct Box {
        decltype(counts)& of;
        void show_at(WindowPoint to) { of.show_at(to); }
        void put_down(WindowPoint to) { of.put_down_at(to); }
        void put_back() { ++of.put_back; }
    } box{counts};
    void update(const Frame& frame) override {
#include "recipe_drag.inc"
    }
};

TEST(Recipes, Drag) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Drag game{
            {place(100, 10, 10), down(500, MouseLeft), place(600, 13, 12), up(700, MouseLeft),  // a click
             down(1000, MouseLeft), place(1200, 60, 10), place(1500, 90, 10), up(1700, MouseLeft),
             down(2000, MouseLeft), place(2200, 200, 10), focus(2400, false), up(2500, MouseLeft), focus(3000, true)},
            rate};
        game.play();
        EXPECT_EQ(game.counts.put_down, 1);
        EXPECT_EQ(game.counts.x, 90);
        EXPECT_EQ(game.counts.put_back, 1);
        EXPECT_GE(game.counts.shown, 2);
    }
}

struct PadDies : Game {
    PadDies(const Script& script, int frames_per_second) : Game{script, frames_per_second} {
        seats.fill_with(DeviceKind::gamepad);
        // The stick's x stands for the plug.
        when_stick = [this](double x, double) {
            x > 0 ? timeline.desk().connect(DeviceId{30}, {.kind = DeviceKind::gamepad})
                  : timeline.desk().disconnect(DeviceId{30});
        };
    }
    Seats seats{1};
    TickClock ticks{hertz(60), at_most(5)};
    double running_time = 0;
    void update(const Frame& frame) override {
#include "recipe_pause.inc"
        while (const auto tick = ticks.next(frame.end())) running_time += tick->step;
    }
};

TEST(Recipes, PauseWhenAPadDies) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        PadDies game{{stick(100, 1, 0), stick(1000, 0, 0), stick(3000, 1, 0), down(4000, Space), up(4001, Space)},
                     rate};
        game.play();
        EXPECT_NEAR(game.running_time, 3, 2.0 / rate + 2.0 / 60) << "5 s less the 2 without the pad";
    }
}

struct Label : Game {
    Label(const Script& script, int frames_per_second) : Game{script, frames_per_second} {
        seats.fill_with(DeviceKind::gamepad);
        seats.give(desk_keyboard, 0);
        timeline.desk().connect(DeviceId{30}, {.kind = DeviceKind::gamepad});
        seats.give(DeviceId{30}, 0);
        when_stick = [this](double x, double) { timeline.desk().button(DeviceId{30}, PadSouth, x > 0); };
    }
    Seats seats{1};
    const Profile& profile = quay();
    KeyLayout layout;
    std::string prompt;
    std::vector<std::string> prompts;
    void update(const Frame& frame) override {
        seats.read(frame);
        if (!seats.last_device(0)) return;
#include "recipe_label.inc"
        if (prompts.empty() || prompts.back() != prompt) prompts.push_back(prompt);
    }
};

TEST(Recipes, ShowWhichKeyToPress) {
    for (const int rate : rates) {
        SCOPED_TRACE(rate);
        Label game{
            {down(500, KeyA), up(600, KeyA), stick(1000, 1, 0), stick(1100, 0, 0), down(2000, KeyD), up(2001, KeyD)},
            rate};
        game.play();
        EXPECT_EQ(game.prompts, (std::vector<std::string>{"Press Space", "Press PadSouth", "Press Space"}));
    }
}

}  // namespace
