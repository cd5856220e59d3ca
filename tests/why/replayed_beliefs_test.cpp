// Beliefs in a recording: the same findings as live, of buttons and of actions.

#include "cursorum/why/replayed_beliefs.hpp"

#include <gtest/gtest.h>

#include <sstream>

#include "core/random_events.hpp"
#include "cursorum/actions/action_belief_check.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/recording/replay.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr ButtonSet handled{KeyW, KeyS, Space};
constexpr std::int64_t frame_length = 16'000'000;

Profile two_actions() {
    Profile profile;
    profile.modes = {{.name = "crane",
                      .actions = {{.name = "lock", .bindings = {{.buttons = {Space}}}},
                                  {.name = "go", .bindings = {{.buttons = {KeyW}}, {.buttons = {KeyS}}}}}}};
    return profile;
}

std::string text(const std::string& name, const BeliefFinding& it) {
    return name + " " + std::string{name_of(it.kind)} + (it.of_release ? " release " : " ") + std::to_string(it.frame) +
           " " + std::to_string(nanoseconds(it.time)) + ": " + std::string{describe(it)};
}

/// Random input seen by a layer that compares levels, live and recorded: its beliefs about buttons, and about actions
/// by the same rule.
struct Played {
    explicit Played(std::uint64_t seed) : random{seed} {
        std::ostringstream out;
        RecordingWriter writer{out, Time{}};
        writer.header("");
        const auto take = [&](const Event& event) {
            timeline.desk().post(event);
            writer.take(event);
        };
        take(Event::connect(Time{}, DeviceId{1}, {.kind = DeviceKind::keyboard, .name = "keys"}));
        actions.open(ModeHandle{0});
        RecordedBelief belief{.handles = handled, .actions = {{"crane.lock", "go"}, {}, {}, {}}};
        ButtonSet down, before;
        bool lock_before = false, go_before = false;
        for (int frame = 0; frame < 120; ++frame) {
            const Time start{Duration{frame * frame_length}}, end = start + Duration{frame_length};
            for (const Button key : {KeyW, KeyS, Space, KeyQ}) {
                if (!random.one_in(4)) continue;
                down.toggle(key);
                take(Event::button(start + Duration{1'000'000}, DeviceId{1}, key, down.contains(key)));
                if (!random.one_in(3)) continue;
                down.toggle(key);
                take(Event::button(start + Duration{5'000'000}, DeviceId{1}, key, down.contains(key)));
            }
            if (random.one_in(30)) take(Event::interrupt(start + Duration{9'000'000}));  // it does not know that
            actions.read(sampler.advance(end));
            belief.belief = {.pressed = (down - before) & handled, .down = down & handled, .released = before - down};
            const bool lock = down.contains(Space), go = down.contains(KeyW) || down.contains(KeyS);
            const auto named = [](bool has_lock, bool has_go) {
                std::vector<std::string> names;
                if (has_lock) names.push_back("crane.lock");
                if (has_go) names.push_back("go");
                return names;
            };
            belief.actions.pressed = named(lock && !lock_before, go && !go_before);
            belief.actions.down = named(lock, go);
            const ActionBelief of_actions[] = {{ButtonAction{0}, lock && !lock_before, lock, {}},
                                               {ButtonAction{1}, go && !go_before, go, {}}};
            buttons.note(sampler.frame(), belief.belief);
            of_actions_check.note(actions, sampler.frame(), of_actions);
            writer.belief(end, belief);
            writer.frame(end);
            belief.handles = {};
            belief.actions.handles.clear();
            before = down;
            lock_before = lock;
            go_before = go;
        }
        recording = out.str();
    }
    test::Random random;
    Profile profile = two_actions();
    Timeline timeline{{.devices = 8, .desk_devices = false, .start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader actions{profile};
    BeliefCheck buttons{handled};
    ActionBeliefCheck of_actions_check{{ButtonAction{0}, ButtonAction{1}}};
    std::string recording;
};

TEST(ReplayedBeliefs, FindsWhatTheLiveChecksFound) {
    std::uint64_t found = 0;
    for (std::uint64_t seed = 1; seed <= 100; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        const Played live{seed};
        std::istringstream in{live.recording};
        ReplayedBeliefs beliefs;
        Replay replay{in, "r", {.on_line = [&](const RecordingLine& line, Outcome) { beliefs.note(line); }}};
        ActionReader reader{live.profile};
        reader.open(ModeHandle{0});
        while (const Frame* frame = replay.next()) {
            reader.read(*frame);
            beliefs.take(*frame, &reader);
        }
        ASSERT_FALSE(replay.error());
        EXPECT_EQ(beliefs.count(), 120U);
        EXPECT_TRUE(beliefs.unknown().empty());
        std::vector<std::string> of_buttons, of_actions, expected_buttons, expected_actions;
        for (const ReplayedBeliefs::Finding& it : beliefs.findings())
            (it.name.find('.') == it.name.npos ? of_buttons : of_actions).push_back(text(it.name, it.what));
        ASSERT_LE(live.buttons.count(), BeliefCheck::kept);
        for (std::uint64_t i = 0; i < live.buttons.count(); ++i)
            expected_buttons.push_back(
                text(std::string{name_of(live.buttons.finding(i).button)}, live.buttons.finding(i)));
        for (std::uint64_t i = 0; i < live.of_actions_check.count(); ++i) {
            const ActionBeliefFinding it = live.of_actions_check.finding(i);
            expected_actions.push_back(text(it.action.number == 0 ? "crane.lock" : "crane.go", it.what));
        }
        EXPECT_EQ(of_buttons, expected_buttons);
        EXPECT_EQ(of_actions, expected_actions);
        found += of_buttons.size() + of_actions.size();
        if (testing::Test::HasFailure()) return;
    }
    EXPECT_GT(found, 1000U);
}

TEST(ReplayedBeliefs, NamesActionsThatTheProfileDoesNotHave) {
    std::istringstream in{R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"keys"}
{"t":10,"type":"belief","actions":{"handles":["lock","lokc"],"pressed":["lokc"]}}
{"t":10,"type":"frame"}
{"t":20,"type":"frame"}
)"};
    ReplayedBeliefs beliefs;
    const Profile profile = two_actions();
    ActionReader reader{profile};
    Replay replay{in, "r", {.on_line = [&](const RecordingLine& line, Outcome) { beliefs.note(line); }}};
    while (const Frame* frame = replay.next()) {
        reader.read(*frame);
        beliefs.take(*frame, &reader);
    }
    EXPECT_EQ(beliefs.unknown(), std::vector<std::string>{"lokc"});
    EXPECT_TRUE(beliefs.findings().empty());
}

}  // namespace
