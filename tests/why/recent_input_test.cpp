#include "cursorum/why/recent_input.hpp"

#include <gtest/gtest.h>

#include <fstream>
#include <sstream>
#include <string>
#include <thread>
#include <vector>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "support/count_allocations.hpp"
#include "why/recent_run.hpp"

namespace {

using namespace cursorum;
using test::everything;
using test::ms;
using test::pad;
using test::Random;
using test::replayed;
using test::shown;

// ---- answers

/// A desk with a keyboard, a game's loop of 10 ms, and its console.
struct Console {
    explicit Console(const char* modes, std::uint32_t ledger = half_a_minute)
        : profile{test::profile_of(modes)}, timeline{{.ledger = ledger}}, reader{profile} {
        reader.open({0});
    }

    void frame() {
        reader.read(sampler.advance(Time{Duration{now += 10 * ms}}));
        recent.note();
    }
    void tap(Button key, int frames) {
        timeline.desk().button(key, true, Time{Duration{now + 2 * ms}});
        for (int i = 0; i < frames; ++i) frame();
        timeline.desk().button(key, false, Time{Duration{now + 5 * ms}});
        frame();
    }

    std::int64_t now = 1000 * ms;
    Profile profile;
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{Duration{now}}}};
    ActionReader reader;
    RecentInput recent{timeline, sampler, reader};
};

constexpr const char* lock_and_menu = R"(
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.crane.action.quick]
kind = "button"
bind = ["KeyT"]
gesture = "tap"
time = "20ms"
[mode.menu]
covers = true
[mode.menu.action.choose]
kind = "button"
bind = ["Space"]
)";

TEST(RecentInput, SaysWhyAnActionDidNotFire) {
    const auto has = [](const std::string& text, const char* part) {
        EXPECT_NE(text.find(part), std::string::npos) << text << "lacks " << part;
    };
    Console console{lock_and_menu};
    const auto why = [&](const char* action) { return console.recent.why(action, console.profile); };
    EXPECT_EQ(why("lock"), "Nothing has been noted yet.\n");
    for (int i = 0; i < 3; ++i) console.frame();
    has(why("lock"), "None of the controls of lock was pressed or moved in the last 20 ms.");
    has(why("lokc"), "did you mean \"lock\"?");
    console.reader.open({1});
    console.frame();
    console.tap(controls::Space, 2);
    for (int i = 0; i < 3; ++i) console.frame();
    std::string answer = why("lock");
    has(answer, "crane.lock in the frame 0.050 s ago");
    has(answer, "crane is covered by menu, so its actions see nothing.");
    has(answer, "Space: press, 1 press, held for 8 ms.");
    has(answer, "but the mode menu covered crane.");
    EXPECT_EQ(answer.find("cursorum explain"), std::string::npos) << "there is no file yet";
    console.reader.close({1});
    const auto claim = console.reader.claim({.buttons = {controls::Space}});
    console.frame();
    console.tap(controls::Space, 1);
    has(why("crane.lock"), "but it went to a claim");
    console.reader.end_claim(*claim);
    console.tap(controls::KeyT, 3);
    answer = why("quick");
    has(answer, "crane.quick in the frame 0.030 s ago");
    has(answer, "crane.quick in the frame 0.000 s ago");
    has(answer, "A tap: fires when a press ends within 20 ms.");
    has(console.recent.why(controls::KeyT), "KeyT");
    has(console.recent.why(controls::KeyT), "release");
    console.tap(controls::KeyQ, 1);
    EXPECT_EQ(console.recent.why(controls::KeyQ), "KeyQ is not kept, since no action binds it.\n");
    console.timeline.desk().button(controls::KeyQ, true, Time{Duration{console.now + ms}});
    for (int i = 0; i < 4000; ++i) console.frame();
    console.tap(controls::Space, 1);
    std::ostringstream saved;
    console.recent.write(saved);
    EXPECT_EQ(saved.str().find("KeyQ"), std::string::npos) << "what is typed is nobody's business";
}

// What became of a press in a buffer is known from the game's call, in the game and in what it saved.
TEST(RecentInput, KnowsWhetherAPressWasTakenFromItsBuffer) {
    constexpr const char* buffered = R"(
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
buffer = "50ms"
)";
    Console game{buffered};
    for (int i = 0; i < 3; ++i) game.frame();
    const auto why = [&] {
        const std::string answer{game.recent.why("lock", game.profile)};
        return answer.substr(0, answer.find('\n'));
    };
    game.tap(controls::Space, 2);
    EXPECT_EQ(why(), "Space went down 0.028 s ago, and crane.lock fired, and waits in its buffer.");
    EXPECT_TRUE(game.reader.consume_press({0}));
    EXPECT_EQ(why(), "Space went down 0.028 s ago, and crane.lock fired, and consume_press() took it from its buffer.");
    game.frame();
    EXPECT_EQ(why(), "Space went down 0.038 s ago, and crane.lock fired, and consume_press() took it from its buffer.");
    game.tap(controls::Space, 9);
    EXPECT_EQ(why(),
              "Space went down 0.098 s ago, and crane.lock fired, and no consume_press() took it from its buffer "
              "within 50 ms.");
    std::ostringstream out;
    ASSERT_TRUE(game.recent.write(out));
    EXPECT_NE(out.str().find(R"("type":"taken","action":"crane.lock"})"), std::string::npos) << out.str();
}

TEST(RecentInput, WhatTheSystemRepeatsWithoutFocusIsOnePress) {
    Console console{lock_and_menu};
    console.frame();
    Inlet& desk = console.timeline.desk();
    const auto next = [&] { return Time{Duration{console.now + ms}}; };
    desk.lose_focus(next());
    desk.button(controls::Space, true, next());
    console.frame();
    for (int i = 0; i < 5; ++i) {
        console.frame();
        desk.system_repeat(DeviceId{1}, controls::Space, next());
    }
    console.frame();
    const TerminalText answer = console.recent.why("lock", console.profile);
    EXPECT_TRUE(answer.string().starts_with("Space went down 0.069 s ago without focus, so it was ignored."))
        << answer.string();
}

/// Saves while frames go on.
SavedInput saved_by(Console& console, const std::string& path) {
    EXPECT_TRUE(console.recent.save(path));
    while (true) {
        if (const auto saved = console.recent.saved()) return *saved;
        console.frame();
        std::this_thread::yield();
    }
}

TEST(RecentInput, BeginsAnewWhereItCannotGoOn) {
    Console console{lock_and_menu};
    EXPECT_EQ(console.recent.length(), Duration{});
    for (int i = 0; i < 4; ++i) console.frame();
    EXPECT_EQ(console.recent.length(), Duration{30 * ms});
    console.recent.note();  // the same frame again
    EXPECT_EQ(console.recent.length(), Duration{30 * ms});
    console.sampler.advance(Time{Duration{console.now += 10 * ms}});
    console.recent.note();  // the reader did not read it
    EXPECT_EQ(console.recent.length(), Duration{});
    for (int i = 0; i < 3; ++i) console.frame();
    EXPECT_EQ(console.recent.length(), Duration{20 * ms});
    ASSERT_TRUE(console.reader.rebind(console.profile));
    for (int i = 0; i < 2; ++i) console.frame();
    EXPECT_EQ(console.recent.length(), Duration{40 * ms});
    console.recent.forget();
    std::ostringstream nothing;
    EXPECT_FALSE(console.recent.write(nothing));
    EXPECT_EQ(nothing.str(), "");
    EXPECT_FALSE(console.recent.save("x.jsonl"));
    EXPECT_FALSE(console.recent.saved());
    for (int i = 0; i < 5000; ++i) console.tap(controls::Space, 1);
    EXPECT_GE(console.recent.length(), Duration{30'000 * ms});
    EXPECT_LE(console.recent.length(), Duration{36'000 * ms});
    const SavedInput failed = saved_by(console, "/nowhere/x.jsonl");
    EXPECT_FALSE(failed.is_saved);
    EXPECT_NE(failed.text.find("/nowhere/x.jsonl"), std::string::npos) << failed.text;
}

TEST(RecentInput, SavesOnAThreadOfItsOwnWhileTheGameGoesOn) {
    Console console{lock_and_menu, 1 << 18};
    for (int i = 0; i < 200; ++i) console.tap(controls::Space, 1);
    std::ostringstream now;
    ASSERT_TRUE(console.recent.write(now));
    const std::string path = testing::TempDir() + "saved.jsonl";
    const SavedInput saved = saved_by(console, path);
    EXPECT_TRUE(saved.is_saved) << saved.text;
    EXPECT_NE(saved.text.find(path + ": "), std::string::npos) << saved.text;
    std::ifstream file{path};
    std::ostringstream text;
    text << file.rdbuf();
    EXPECT_EQ(text.str(), now.str()) << "what came later is not in it";
    EXPECT_FALSE(console.recent.saved()) << "once";
    EXPECT_TRUE(console.recent.save(path)) << "and again; the destructor waits for it";
    EXPECT_FALSE(console.recent.save(path)) << "one at a time";
}

TEST(RecentInput, BeginsAnewAndCountsWhenALedgerIsTooSmall) {
    Console console{lock_and_menu, 1 << 16};
    for (int i = 0; i < 4; ++i) console.frame();
    EXPECT_EQ(console.recent.length(), Duration{30 * ms});
    for (int i = 0; i < 4000; ++i) console.timeline.desk().motion(1, 0, Time{Duration{console.now + ms}});
    console.frame();
    EXPECT_EQ(console.recent.overruns(), 1U);
    EXPECT_EQ(console.recent.length(), Duration{});
    console.tap(controls::Space, 1);
    EXPECT_EQ(console.recent.overruns(), 1U);
    EXPECT_EQ(console.recent.length(), Duration{20 * ms});
    EXPECT_TRUE(console.recent.why("lock", console.profile).string().starts_with("Space went down 0.018 s ago, and"));
}

TEST(RecentInput, HasLessTimeWhenTheGameCallsOften) {
    Console console{lock_and_menu};
    std::vector<std::string> expected;
    for (int i = 0; i < 1000; ++i) {
        i % 2 == 0 ? console.reader.open({1}) : console.reader.close({1});  // in each frame
        if (i % 3 == 0) console.timeline.desk().button(controls::Space, i % 6 == 0, Time{Duration{console.now + ms}});
        console.frame();
        expected.push_back(shown(console.sampler.frame(), console.reader, console.profile));
    }
    EXPECT_GE(console.recent.length(), Duration{200 * 10 * ms});
    std::ostringstream saved;
    ASSERT_TRUE(console.recent.write(saved));
    const std::vector<std::string> frames = replayed(saved.str(), console.profile);
    expected.erase(expected.begin(), expected.end() - static_cast<std::ptrdiff_t>(frames.size()));
    EXPECT_EQ(frames, expected);
}

bool contains(std::string_view text, std::string_view part) { return text.find(part) != text.npos; }

// A press that no frame has is the newest one all the same.
TEST(RecentInput, SaysWhatBecameOfAPressThatNoFrameHas) {
    Console console{lock_and_menu};
    Inlet& desk = console.timeline.desk();
    const auto at = [&](std::int64_t after) { return Time{Duration{console.now + after}}; };
    const auto why = [&] { return console.recent.why("lock", console.profile).string(); };
    for (int i = 0; i < 3; ++i) console.frame();
    console.tap(controls::Space, 1);
    desk.lose_focus(at(ms));
    console.frame();
    desk.button(controls::Space, true, at(5 * ms));
    desk.button(controls::Space, false, at(7 * ms));
    for (int i = 0; i < 85; ++i) console.frame();
    EXPECT_EQ(why(), "Space went down 0.845 s ago without focus, so it was ignored.\n");
    EXPECT_TRUE(contains(console.recent.why(controls::Space).string(), "without focus: ignored"));
    std::ostringstream saved;
    ASSERT_TRUE(console.recent.write(saved));
    EXPECT_TRUE(contains(saved.str(), R"("type":"focus","focused":false)"));
    EXPECT_TRUE(contains(saved.str(), R"("control":"Space","down":true)"));

    desk.gain_focus(ButtonSet{}, at(ms));
    console.frame();
    desk.button(controls::Space, true, at(2 * ms));
    desk.button(controls::Space, false, at(4 * ms));
    EXPECT_EQ(why(), "Space went down 0.002 s after the last frame: none has taken it yet.\n");
    const std::int64_t before = console.now;
    console.now += 500 * ms;  // paused from 1 ms on
    console.reader.read(console.sampler.advance(Tick{Time{Duration{before + ms}}, Time{Duration{console.now - ms}},
                                                     Time{Duration{console.now}}, Tick::Gap::paused}));
    console.recent.note();
    EXPECT_EQ(why(), "Space went down 0.498 s ago while the game was paused, so it was skipped.\n");

    desk.disconnect(desk_keyboard, at(ms));
    console.frame();
    desk.button(controls::Space, true, at(2 * ms));
    console.frame();
    EXPECT_EQ(why(), "Space went down 0.008 s ago on a device that is not connected, so it was ignored.\n");
}

// Two events at one instant, or both late, in either order: what fires in the game fires in the recording.
TEST(RecentInput, KeepsTheOrderOfOneInstant) {
    const Profile profile = test::profile_of(R"(
[mode.crane.action.special]
kind = "button"
bind = ["KeyA+PadStickLeftUp", "KeyA+PadSouth", "KeyA+PadPullLeft"]
[mode.crane.action.wheel]
kind = "button"
bind = ["WheelUp"]
)");
    const auto at = [](std::int64_t time) { return Time{Duration{time * ms}}; };
    unsigned fired = 0, games = 0;
    for (int other = 0; other < 5; ++other)
        for (int order = 0; order < 16; ++order)
            for (const std::int64_t time : {900, 1000, 1001, 1016}) {
                const bool key_first = (order & 1) != 0, key_down = (order & 2) != 0, interrupts = (order & 4) != 0,
                           is_apart = (order & 8) != 0;
                Timeline timeline{{.ledger = 1U << 16}};
                Sampler sampler{timeline, {.start = at(0)}};
                ActionReader reader{profile};
                RecentInput recent{timeline, sampler, reader};
                reader.open({0});
                Inlet& desk = timeline.desk();
                desk.connect(pad, {.kind = DeviceKind::gamepad, .name = "pad"}, at(1));
                std::vector<std::string> frames;
                const auto cut = [&](std::int64_t end) {
                    reader.read(sampler.advance(at(end)));
                    recent.note();
                    frames.push_back(shown(sampler.frame(), reader, profile));
                    fired += reader[ButtonAction{0}].press_count();
                };
                cut(5);
                if (!key_down) desk.button(controls::KeyA, true, at(7));
                cut(1000);
                const auto key = [&](std::int64_t when) {
                    interrupts ? desk.interrupt(ButtonSet{}, at(when))
                               : desk.button(controls::KeyA, key_down, at(when));
                };
                const auto next = [&](std::int64_t when) {
                    switch (other) {
                        case 0: return desk.axis(pad, controls::PadStickLeftY, -1, at(when));
                        case 1: return desk.wheel(0, 1, at(when));
                        case 2: return desk.button(pad, controls::PadSouth, true, at(when));
                        case 3: return desk.axis(pad, controls::PadPullLeft, 1, at(when));
                        default: return desk.button(controls::KeyA, true, at(when));
                    }
                };
                key_first ? key(time) : void(next(time));
                key_first ? void(next(time + is_apart)) : key(time + is_apart);
                cut(1020);
                cut(1030);
                std::ostringstream saved;
                ASSERT_TRUE(recent.write(saved));
                frames.erase(frames.begin());
                EXPECT_EQ(replayed(saved.str(), profile), frames)
                    << other << ' ' << order << ' ' << time << saved.str();
                ++games;
            }
    EXPECT_GT(fired, 20U);
    EXPECT_LT(fired, games);
}

// A simulation that goes back some ticks, again and again, notes all of them: what counts is how it was played last.
TEST(RecentInput, GoesOnWhenTicksArePlayedAgain) {
    for (std::uint64_t seed = 1; seed <= test::usual_count(50) && !::testing::Test::HasFailure(); ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Random random{seed};
        Console console{lock_and_menu};
        struct Saved {
            Sampler::State sampler;
            ActionReader::State reader;
            std::int64_t now;
            std::size_t frames;
        };
        std::vector<Saved> past;
        std::vector<std::string> expected;
        const auto step = [&] {
            console.frame();
            expected.push_back(shown(console.sampler.frame(), console.reader, console.profile));
        };
        std::int64_t stamp = console.now;
        for (int i = 0; i < 200; ++i) {
            stamp = std::max(stamp, console.now) + 1 + static_cast<std::int64_t>(random.below(9 * ms));
            const Button key = random.one_in(2) ? controls::Space : controls::KeyT;
            // Sometimes late, so that only the second try has it in its tick.
            console.timeline.desk().button(key, random.one_in(2), Time{Duration{stamp - 30 * ms * random.one_in(3)}});
            if (random.one_in(6)) console.reader.is_open({1}) ? console.reader.close({1}) : console.reader.open({1});
            step();
            past.push_back({console.sampler.save(), console.reader.save(), console.now, expected.size()});
            if (!random.one_in(5) || past.size() < 8) continue;
            const Saved& to = past[past.size() - 1 - random.below(8)];
            const auto again = static_cast<int>((console.now - to.now) / (10 * ms));
            ASSERT_TRUE(console.sampler.restore(to.sampler));
            ASSERT_TRUE(console.reader.restore(to.reader));
            console.now = to.now;
            expected.resize(to.frames);
            past.resize(static_cast<std::size_t>(&to - past.data()) + 1);
            for (int k = 0; k < again; ++k) {
                if (random.one_in(6))
                    console.reader.is_open({1}) ? console.reader.close({1}) : console.reader.open({1});
                step();
                past.push_back({console.sampler.save(), console.reader.save(), console.now, expected.size()});
            }
        }
        EXPECT_EQ(console.recent.length(), Duration{(static_cast<std::int64_t>(expected.size()) - 1) * 10 * ms});
        std::ostringstream saved;
        ASSERT_TRUE(console.recent.write(saved));
        const std::vector<std::string> frames = replayed(saved.str(), console.profile);
        ASSERT_EQ(frames.size() + 1, expected.size());
        for (std::size_t i = 0; i < frames.size(); ++i) ASSERT_EQ(frames[i], expected[i + 1]) << i << saved.str();
    }
}

// Other bindings begin nothing anew; from their frame on, a replay with the new profile is exact.
TEST(RecentInput, GoesOnOverOtherBindings) {
    Console console{lock_and_menu};
    console.tap(controls::Space, 3);
    console.profile.modes[0].actions[0].bindings[0].buttons = {controls::KeyL};
    console.profile.modes.emplace_back().name = "intro";  // first, so that new handles have other numbers
    std::rotate(console.profile.modes.begin(), console.profile.modes.end() - 1, console.profile.modes.end());
    ASSERT_TRUE(console.reader.rebind(console.profile));
    console.frame();
    std::vector<std::string> expected;
    for (const Button key : {controls::Space, controls::KeyL, controls::KeyT}) {
        console.tap(key, 1);
        expected.push_back(shown(console.sampler.frame(), console.reader, console.profile));
    }
    std::ostringstream saved;
    ASSERT_TRUE(console.recent.write(saved));
    std::vector<std::string> frames = replayed(saved.str(), console.profile);
    ASSERT_EQ(frames.size(), 10U);
    EXPECT_EQ(frames[5], expected[0]);
    EXPECT_EQ(frames[7], expected[1]);
    EXPECT_EQ(frames[9], expected[2]);
    std::string answer = console.recent.why("lock", console.profile).string();
    EXPECT_TRUE(contains(answer, "KeyL went down") && contains(answer, "KeyL: press")) << answer;
    console.reader.open(console.reader.find_mode("menu").value());
    console.frame();
    console.tap(controls::KeyL, 1);
    answer = console.recent.why("lock", console.profile).string();
    EXPECT_TRUE(contains(answer, "s ago, but the mode menu covered crane.")) << answer;
}

// A password that is typed into a field, where a claim on everything or a mode with text keeps what actions bind, and
// at a game that binds nothing: no letter of it is in an answer or a file.
TEST(RecentInput, KeepsNothingOfWhatIsTyped) {
    const std::vector<Button> password{controls::KeyH, controls::KeyO, controls::KeyT, controls::KeyB, controls::KeyA};
    for (const auto& [polled, is_mode] : {std::pair{false, false}, {true, false}, {false, true}, {true, true}}) {
        Console console{(everything + "[mode.field]\ntext = true\n").c_str()};
        const ModeHandle field = console.reader.find_mode("field").value();
        Inlet& desk = console.timeline.desk();
        console.tap(controls::Space, 1);
        console.timeline.desk().button(controls::KeyT, true, Time{Duration{console.now + ms}});  // the game's
        console.frame();
        const auto claim = is_mode ? std::nullopt : console.reader.claim({.everything = true});
        if (is_mode) console.reader.open(field);
        console.frame();
        ButtonSet down{controls::KeyT};
        for (const Button key : password) {
            for (const bool goes_down : {true, false}) {
                down.set(key, goes_down);
                const Time when{Duration{console.now + 3 * ms}};
                polled ? desk.state(down, when) : desk.button(key, goes_down, when);
                EXPECT_FALSE(contains(console.recent.why("horn", console.profile).string(), "went down"));
                if (!goes_down && key == controls::KeyA)
                    is_mode ? void(console.reader.close(field)) : console.reader.end_claim(*claim);
                console.frame();
            }
        }
        for (int i = 0; i < 400; ++i) console.frame();
        std::ostringstream saved;
        ASSERT_TRUE(console.recent.write(saved));
        for (const Button key : {controls::KeyH, controls::KeyO, controls::KeyB, controls::KeyA}) {
            EXPECT_FALSE(contains(saved.str(), '"' + std::string{name_of(key)} + '"')) << saved.str();
            const std::string answer = console.recent.why(key).string();
            EXPECT_TRUE(contains(answer, "did not go down") || contains(answer, "is not kept")) << answer;
        }
        for (const char* action : {"horn", "worn", "seldom", "travel"})
            EXPECT_TRUE(contains(console.recent.why(action, console.profile).string(), "None of the controls"))
                << action << ": " << console.recent.why(action, console.profile).string();
        EXPECT_TRUE(polled ||
                    contains(saved.str(), "events of keys that no action binds, or that were typed, left out"));
        EXPECT_FALSE(replayed(saved.str(), console.profile).empty());
    }
}

TEST(RecentInput, SaysThatATimelineKeepsNothing) {
    Timeline timeline;
    Sampler sampler{timeline};
    const Profile profile = test::profile_of(lock_and_menu);
    ActionReader reader{profile};
    RecentInput recent{timeline, sampler, reader};
    recent.note();
    EXPECT_EQ(recent.why("lock", profile),
              "The timeline keeps no events: make it with TimelineOptions::ledger, such as half_a_minute.\n");
    std::ostringstream nothing;
    EXPECT_FALSE(recent.write(nothing));
}

TEST(RecentInput, AllocatesNothingWhileItNotes) {
    Console console{lock_and_menu};
    for (int i = 0; i < 20; ++i) console.tap(controls::Space, 2);
    const unsigned long before = test::allocations;
    for (int i = 0; i < 20'000; ++i) {
        console.timeline.desk().motion(1, 2, Time{Duration{console.now + ms}});
        console.timeline.desk().wheel(0, 1, Time{Duration{console.now + ms}});
        console.tap(i % 2 != 0 ? controls::Space : controls::KeyT, 1 + i % 3);
        if (i % 100 == 0) console.reader.open({1});
        if (i % 100 == 50) console.reader.close({1});
    }
    EXPECT_EQ(test::allocations, before);
}

}  // namespace
