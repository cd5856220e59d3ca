// The game of docs/going-back.md, which hears of its second player's keys up to twelve ticks too late and goes back
// each time, comes to the same as one that hears of everything at once.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>
#include <random>
#include <utility>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/cursorum.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

const Profile& quay() {
    static const Profile profile = [] {
        ProfileError error;
        return read_profile(R"(format = "cursorum-profile"
version = 1
[mode.crane.action.lock]
kind = "button"
bind = ["Space", "KeyL"]
min_interval = "120ms"
[mode.crane.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }]
rise = "250ms"
fall = "120ms"
[mode.crane.action.pause]
kind = "button"
bind = ["Escape"]
opens = "menu"
[mode.menu]
pauses = true
[mode.menu.action.back]
kind = "button"
bind = ["Escape"]
closes = true
)",
                            "quay.toml", error)
            .value();
    }();
    return profile;
}

struct Crane {
    std::array<double, 2> trolley{};
    std::array<int, 2> locks{};
    void toggle_lock(unsigned operator_number) { ++locks[operator_number]; }
    friend bool operator==(const Crane&, const Crane&) = default;
};

struct Game {
    Timeline timeline{{.inlets = 2, .desk_devices = false}};
    Sampler simulation{timeline, {.start = Time{}}};
    std::array<ActionReader, 2> actions{ActionReader{quay()}, ActionReader{quay()}};
    Seats seats{2};
    Crane crane;
    const ButtonAction lock = *quay().find_button("lock");
    const VectorAction travel = *quay().find_vector("travel");

#include "going_back.inc"

    Game() {
        for (unsigned i = 0; i < 2; ++i) {
            timeline.inlet(i).connect(DeviceId{1 + i}, {.background = true}, Time{});
            actions[i].open(*quay().find_mode("crane"));
        }
        seats.give(DeviceId{1}, 0);
    }
};

struct KeyEvent {
    Time time;
    Button key;
    bool down;
    std::size_t heard_in;  // the tick before which the other one hears of it
};

TEST(GoingBack, ComesToTheSame) {
    constexpr Button keys[] = {KeyA, KeyD, KeyW, Space, KeyL, KeyL, Escape};
    int moved = 0, locked = 0;
    for (std::uint32_t seed = 1; seed <= 60; ++seed) {
        SCOPED_TRACE(seed);
        std::mt19937 random{seed};
        const auto below = [&random](unsigned bound) { return static_cast<unsigned>(random() % bound); };
        // Six seconds, with two stops.
        std::vector<Tick> ticks;
        TickClock clock{hertz(60), at_most(5), Time{}};
        for (std::int64_t now = 0; now < 6'000'000'000; now += 16'000'000 + below(2'000'000)) {
            if (below(150) == 0) now += 900'000'000;
            while (const auto tick = clock.next(Time{Duration{now}})) ticks.push_back(*tick);
        }
        std::vector<Game::Calls> calls(ticks.size());
        calls[20 + below(100)].joins = DeviceId{2};
        for (int i = 0; i < 6; ++i) {
            const std::size_t at = below(static_cast<unsigned>(calls.size()));
            calls[at].bot_locks = ticks[at].end + std::chrono::milliseconds(below(100));
        }
        calls[below(static_cast<unsigned>(calls.size()))].opens = *quay().find_mode("menu");

        std::array<std::vector<KeyEvent>, 2> events;
        for (auto& of_player : events) {
            std::array<bool, std::size(keys)> is_down{};
            std::size_t tick = 0, heard_in = 0;
            for (std::int64_t now = 0; (now += below(90'000'000)) < ticks.back().begin.time_since_epoch().count();) {
                while (ticks[tick].end < Time{Duration{now}}) ++tick;
                heard_in = std::max(heard_in, tick + below(13));
                const unsigned key = below(std::size(keys));
                of_player.push_back({Time{Duration{now}}, keys[key], is_down[key] = !is_down[key], heard_in});
            }
        }

        Game late, prompt;
        std::array<std::array<std::size_t, 2>, 2> posted{};  // of each game and player
        const auto post = [&](Game& game, unsigned number, unsigned player, const auto& is_heard) {
            std::optional<Time> earliest;
            std::size_t& next = posted[number][player];
            for (; next < events[player].size() && is_heard(events[player][next]); ++next) {
                const KeyEvent& event = events[player][next];
                game.timeline.inlet(player).button(DeviceId{1 + player}, event.key, event.down, event.time);
                if (!earliest) earliest = event.time;
            }
            return earliest;
        };
        for (std::size_t i = 0; i < ticks.size(); ++i) {
            const auto has_happened = [&](const KeyEvent& event) { return event.time <= ticks[i].end; };
            for (unsigned player = 0; player < 2; ++player) post(prompt, 0, player, has_happened);
            prompt.play(ticks[i], calls[i]);

            post(late, 1, 0, has_happened);
            const auto heard =
                post(late, 1, 1, [&](const KeyEvent& event) { return event.heard_in <= i || i + 1 == ticks.size(); });
            if (heard) late.go_back_to(*heard);
            late.play(ticks[i], calls[i]);
        }
        EXPECT_EQ(late.crane, prompt.crane);
        EXPECT_EQ(late.simulation.frame().current(), prompt.simulation.frame().current());
        EXPECT_EQ(late.actions[0].pauses(), prompt.actions[0].pauses());
        EXPECT_EQ(late.played, ticks.size());
        EXPECT_EQ(late.simulation.counters().late, 0U);
        moved += prompt.crane.trolley[1] != 0, locked += prompt.crane.locks[0] + prompt.crane.locks[1];
    }
    EXPECT_GT(moved, 30);  // they did something
    EXPECT_GT(locked, 300);
}

}  // namespace
