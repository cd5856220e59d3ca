// docs/guide/from-hand-written-code.md: both sides of each difference. The old code goes wrong as the page says, the
// new one goes equally far at 10 to 1,000 pictures per second, and each press fires once.

#include <gtest/gtest.h>

#include <array>
#include <map>
#include <string>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "snippets/world.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::down;
using test::focus;
using test::Script;
using test::up;
using test::World;

struct Game : World {
    using World::World;
    using MyKey = std::uint16_t;
    static constexpr MyKey my_space = Space.number, my_d = KeyD.number, my_right = ArrowRight.number;
    static constexpr std::array<Button, button_capacity> my_table = [] {
        std::array<Button, button_capacity> table{};
        for (std::uint16_t i = 0; i < table.size(); ++i) table[i] = Button{i};
        return table;
    }();
    struct {
        int toggles = 0;
        void toggle_lock() { ++toggles; }
    } spreader;
    struct {
        double x = 0;
    } trolley;
    bool menu_is_open = false;
    using Keys = std::array<bool, button_capacity>;
    Keys current{}, previous{};
};

struct FlagsBefore : Game {
    using Game::Game;
    bool lock_wanted = false, moves_right = false;
    void on_focus(bool) {}
#include "from_flags_before.inc"
};

struct After : Game {
    using Game::Game;
    Timeline timeline{{.down = my_keys_down()}};
    Sampler sampler{timeline};
};

struct FlagsAfter : After {
    using After::After;
#include "from_flags_after.inc"
};

struct ArraysBefore : Game {
    using Game::Game;
    void on_focus(bool) {}
#include "from_arrays_before.inc"
};

struct ArraysAfter : After {
    using After::After;
#include "from_arrays_after.inc"
};

struct StringsBefore : Game {
    using Game::Game;
    std::map<std::string, std::vector<MyKey>> keys_of{{"lock", {my_space}}, {"right", {my_d, my_right}}};
    void on_focus(bool) {}
#include "from_strings_before.inc"
};

struct StringsAfter : After {
    StringsAfter(const Script& script, int frames_per_second) : After{script, frames_per_second} {
        actions.open(*actions.find_mode("crane"));
    }
    static Profile profile() {
        ProfileError error;
        return read_profile(R"(format = "cursorum-profile"
version = 1
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" },
        { left = "ArrowLeft", right = "ArrowRight", up = "ArrowUp", down = "ArrowDown" }]
)",
                            "quay.toml", error)
            .value();
    }
    ActionReader actions{profile()};
    const ButtonAction lock = *actions.find_button("lock");
    const VectorAction travel = *actions.find_vector("travel");
#include "from_strings_after.inc"
};

struct Result {
    double x = 0;
    int toggles = 0;
};

template <typename Code>
Result play(const Script& script, int rate, bool menu_is_open = false) {
    Code code{script, rate};
    code.menu_is_open = menu_is_open;
    code.when_key = [&](Button key, bool is_down) { code.on_key(key.number, is_down); };
    code.when_focus = [&](bool has) { code.on_focus(has); };
    PictureClock pictures;
    while (code.running) {
        code.pump(code.my_window);
        if (const auto tick = pictures.next(Clock::now())) code.update(*tick);
    }
    return {code.trolley.x, code.spreader.toggles};
}

// At 100 per second: half a second, and the quarter until the focus goes, over which the keys are not let go in time;
// two presses, one of them between two pictures.
const Script evening{down(303, KeyD),   up(803, KeyD),       down(1004, Space), up(1007, Space),
                     down(1200, Space), up(1500, Space),     down(2003, KeyD),  focus(2253, false),
                     up(2400, KeyD),    focus(3000, true),   down(3503, KeyD),  down(3503, ArrowRight),
                     up(4003, KeyD),    up(4003, ArrowRight)};

TEST(FromHandWrittenCode, TheNewCodeIsRightAtEachRate) {
    for (const int rate : {10, 30, 60, 144, 1000})
        for (const bool menu_is_open : {false, true})
            for (const Result result :
                 {play<FlagsAfter>(evening, rate, menu_is_open), play<ArraysAfter>(evening, rate, menu_is_open),
                  play<StringsAfter>(evening, rate, menu_is_open)}) {
                EXPECT_NEAR(result.x, 125, 1e-6) << rate;
                EXPECT_EQ(result.toggles, 2) << rate;
            }
}

TEST(FromHandWrittenCode, TheOldCodeFailsAsThePageSays) {
    const Result flags = play<FlagsBefore>(evening, 60);
    EXPECT_GT(flags.toggles, 10) << "in every picture while it is held";
    EXPECT_EQ(play<FlagsBefore>({down(1004, Space), up(1007, Space)}, 60).toggles, 0) << "the tap is missed";
    EXPECT_GT(flags.x, 200) << "the key stays down";

    const Result arrays = play<ArraysBefore>(evening, 60);
    EXPECT_EQ(arrays.toggles, 1) << "the tap is missed";
    EXPECT_GT(arrays.x, 200) << "the key stays down";
    EXPECT_GT(play<ArraysBefore>(evening, 60, true).toggles, 10) << "previous is not saved while the menu is open";
    const Script held{down(303, KeyD), up(853, KeyD)};
    EXPECT_GT(std::abs(play<ArraysBefore>(held, 10).x - play<ArraysBefore>(held, 144).x), 0.1) << "whole pictures";

    EXPECT_EQ(play<StringsBefore>(evening, 60).toggles, 0) << "a mistyped name";
    const Script both{down(303, KeyD), down(303, ArrowRight), up(803, KeyD), up(803, ArrowRight)};
    EXPECT_NEAR(play<StringsBefore>(both, 60).x, 100, 4) << "twice as fast";
}

}  // namespace
