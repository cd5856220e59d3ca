// Lanes of actions, modes and claims, and marks for presses that had no effect.
#include "cursorum/why/action_lanes.hpp"

#include <gtest/gtest.h>

#include <string>

#include "actions/action_run.hpp"

namespace {

using namespace cursorum;
using test::at;

constexpr const char* profile = R"(
[mode.crane.action.lock]
kind = "button"
bind = ["KeyA"]
[mode.crane.action.menu]
kind = "button"
bind = ["KeyN"]
opens = "list"
[mode.crane.action.tap]
kind = "button"
bind = ["KeyH"]
gesture = "tap"
time = "20ns"
[mode.crane.action.long]
kind = "button"
bind = ["KeyH"]
gesture = "long_press"
time = "40ns"
[mode.crane.action.walk]
kind = "axis"
bind = [{ minus = "KeyL", plus = "KeyM" }]
[mode.list]
covers = true
[mode.list.action.back]
kind = "button"
bind = ["KeyX"]
closes = true
[mode.list.action.next]
kind = "button"
bind = ["KeyY"]
)";

/// "crane: 0..12; KeyA: 5..7 !but …": bars of modes, claims and actions, and presses without effect.
std::string lanes_of(const std::string& script, const ActionFilter& filter = {}, const std::string& seat = {}) {
    test::ActionRun run{test::profile_of(profile), "lock"};
    run.reader.open({0});
    LaneHistory lanes{run.timeline()};
    ActionLanes action_lanes{lanes, run.reader, run.profile, filter, seat};
    run.reader.set_verdict_sink(&action_lanes);
    std::uint64_t number = 0;
    run.on_read = [&] {
        lanes.note(run.sampler().frame(), number++);
        action_lanes.note();
    };
    run.run(script);
    run.reader.set_verdict_sink(nullptr);
    std::string text;
    for (const Lane& lane : lanes.lanes()) {
        const bool is_control = lane.kind == Lane::Kind::button;
        if (is_control && lane.missed.empty()) continue;
        text += (text.empty() ? "" : "; ") + lane.title() + ":";
        if (!is_control)
            for (const Lane::Bar& bar : lane.bars)
                text += " " + std::to_string(nanoseconds(bar.from)) + ".." + std::to_string(nanoseconds(bar.to));
        for (const Lane::Missed& it : lane.missed) text += " " + std::to_string(nanoseconds(it.time)) + it.why;
        if (lane.has_values()) text += " " + std::to_string(lane.values.back().shaped).substr(0, 4);
    }
    return text;
}

TEST(ActionLanes, ShowModesClaimsAndPressesWithoutEffect) {
    struct Row {
        const char *script, *lanes;
    };
    for (const Row& row : {
             Row{"5+A 7-A |10 |20", "crane: 0..20; crane.lock: 5..7"},
             // A mode that an action opens begins at the press, and covers the other one from then on.
             {"5+N 6-N 12+Y |10 |20", "crane: 0..5; list: 5..20; crane.menu: 5..5; list.next: 12..20"},
             {"5+N 7-N 8+X |10 |20", "crane: 0..5 8..20; list: 5..8; crane.menu: 5..5; list.back: 8..8"},
             // What the game opens begins with the next frame.
             {"|10 open:list |20", "crane: 0..10; list: 10..20"},
             {"|10 claim:* 12+A |20 end:* |30",
              "KeyA: 12, but it went to a claim, as of a dialogue or a text field; crane: 0..30; claim 1 (everything): "
              "10..20"},
             {"|10 open:list 12+A |20", "KeyA: 12, but the mode list covered crane; crane: 0..10; list: 10..20"},
             {"5+Y |10", "KeyY: 5, but the mode list was not open; crane: 0..10"},
             {"5+Z |10", "KeyZ: 5, but no action is bound to it; crane: 0..10"},
             // A press that one binding missed, and another one had.
             {"5+H 10-H |20", "crane: 0..20; crane.tap: 10..10"},
             {"5+H |30 |60", "crane: 0..60; crane.long: 45..60"},
             {"5+H 30-H |40", "KeyH: 5, but it lasted longer than 20 ns: no tap; crane: 0..40"},
             {"5+M |10", "crane: 0..10; crane.walk: 1.00"},
         })
        EXPECT_EQ(lanes_of(row.script), row.lanes) << row.script;
    EXPECT_EQ(lanes_of("5+A 6+Z |10", {{"list.next"}}), "crane: 0..10");
    EXPECT_EQ(lanes_of("5+A |10", {}, "west"), "crane (west): 0..10; crane.lock (west): 5..10");
}

TEST(ActionLanes, BeginAnewWithTheirHistory) {
    test::ActionRun run{test::profile_of(profile), "lock"};
    run.reader.open({0});
    LaneHistory lanes{run.timeline()};
    ActionLanes action_lanes{lanes, run.reader, run.profile};
    run.reader.set_verdict_sink(&action_lanes);
    bool is_shown = true;
    run.on_read = [&] {
        if (!is_shown) return;
        lanes.note(run.sampler().frame(), 0);
        action_lanes.note();
    };
    run.run("|10 claim:* |20");
    is_shown = false;
    run.run("22+Z |30 |40");
    for (int i = 0; i < 10'000; ++i) action_lanes.take({});  // as many as a panel may miss while it is hidden
    is_shown = true;
    run.run("|50 |60");
    run.reader.set_verdict_sink(nullptr);
    std::string text;
    for (const Lane& lane : lanes.lanes())
        for (const Lane::Bar& bar : lane.bars)
            text += lane.title() + " " + std::to_string(nanoseconds(bar.from)) + ".." +
                    std::to_string(nanoseconds(bar.to)) + "; ";
    EXPECT_EQ(text, "KeyZ 40..60; crane 40..60; claim 1 (everything) 40..60; ");
    for (const Lane& lane : lanes.lanes()) EXPECT_TRUE(lane.missed.empty()) << lane.title();
}

}  // namespace
