// The snippets of docs/why.md, as they are shown there, in a program that compiles and runs.

#include <cstdio>
#include <sstream>
#include <string>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/action_explanation.hpp"
#include "cursorum/why/frame_lines.hpp"
#include "cursorum/why/recent_input.hpp"
#include "cursorum/why/replayed_calls.hpp"

using namespace cursorum;
using namespace cursorum::controls;

namespace {

std::string printed;
void print(std::string_view text) { printed += text; }

constexpr const char* game = R"(format = "cursorum-profile"
version = 1
[mode.crane.action.lock]
kind = "button"
bind = ["Space"]
[mode.menu]
covers = true
)";

/// A menu is open while the space bar is pressed; the question is asked while the game is paused.
bool play(const Profile& profile, std::ostream& file) {
    Timeline timeline{{.ledger = half_a_minute}};
    Sampler simulation{timeline}, picture{timeline};
    TickClock ticks{hertz(60), at_most(5)};
    ActionReader actions{profile};
    RecentInput recent{timeline, simulation, actions};

    actions.open({0});
    actions.open({1});
    const Time begin = Clock::now();
    for (int i = 0; i < 60; ++i) {
        const Time complete = begin + i * Duration{16'700'000};
        if (i == 30) timeline.desk().button(Space, true, complete);
        if (i == 35) timeline.desk().button(Space, false, complete);
        if (i == 48) ticks.pause();
        if (i == 50) timeline.desk().button(F9, true, complete);
        while (const auto tick = ticks.next(complete)) {
            actions.read(simulation.advance(*tick));
            recent.note();
        }
        const Frame& shown = picture.advance(complete);
        if (shown[F9].pressed()) print(recent.why("lock", profile));
        if (shown[F10].pressed()) recent.save("input.jsonl");                   // written on a thread of its own
        if (const auto saved = recent.saved()) print(saved->text);
    }
    return recent.write(file);
}

// Shown, not run: it needs files.
// clang-format off
[[maybe_unused]]
std::string difference_of_the_shift(const Profile& profile) {  // EXPECT_EQ(difference_of_the_shift(profile), "");
    return difference_from_kept("shift.frames", "shift.jsonl", {.profile = &profile});
}
// clang-format on

unsigned replay_of(std::istream& file, const Profile& profile) {
    ActionReader actions{profile};
    const ButtonAction lock = ActionNames{profile}.button("lock");
    unsigned presses = 0;
    VerdictList verdicts;
    actions.set_verdict_sink(&verdicts);
    ReplayedCalls calls;
    Replay replay{file, "input.jsonl", {.on_line = [&](const RecordingLine& line, Outcome) { calls.note(line); }}};
    while (const Frame* frame = replay.next()) {
        verdicts.all.clear();
        calls.read(actions, *frame);
        presses += actions[lock].pressed();
    }
    const Frame* const frame = &replay.sampler().frame();
    if (const auto place = find_action(profile, "lock"))
        print(explain_action(actions, profile, *place, *frame, verdicts.all, "the frame of the test").text());
    return presses;
}

}  // namespace

int main() {
    ProfileError error;
    const auto profile = read_profile(game, "game.toml", error);
    std::stringstream recording;
    if (!profile || !play(*profile, recording)) return 1;
    const unsigned presses = replay_of(recording, *profile);
    std::fputs(printed.c_str(), stdout);
    const bool is_explained = printed.find("crane is covered by menu") != std::string::npos;
    return presses == 0 && is_explained ? 0 : 1;
}
