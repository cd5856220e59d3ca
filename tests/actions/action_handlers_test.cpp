#include "cursorum/actions/action_handlers.hpp"

#include <gtest/gtest.h>

#include "actions/action_run.hpp"

namespace {

using namespace cursorum;
using test::ActionRun;

// Timers end in the middle of a frame, when its events are already taken: their edges stand at their times.
TEST(ActionHandlers, AreCalledWithEachEdgeInOrder) {
    const Profile profile = test::profile_of(R"(
[mode.m.action.horn]
kind = "button"
bind = ["KeyH"]
gesture = "long_press"
time = "5ns"
[mode.m.action.walk]
kind = "button"
bind = ["KeyW", "KeyU"]
[mode.m.action.list]
kind = "button"
bind = ["KeyL"]
repeat = { delay = "10ns", interval = "5ns", cap = 0 }
)");
    test::check_rows(
        R"(
a long press lies between the walk's edges : open:m 1+H 2+W 8-W |20 24-H |30 : 2p1 6p0 8r1 8e1 horn; 24r0 24e0
two bindings are one : open:m 2+W 3+U 4-W |10 15-U |20 : 2p1 walk; 15r1 15e1
closing the mode ends : open:m 2+W |10 close:m |20 : 2p1 walk; 10e1
opening it adopts, and the release is nobody's : 2+W |10 open:m |20 25-W |30 : -; 10a1 walk; 25e1
repeats come last, at the frame's end : open:m 2+L |20 : 2p2 20R2 20R2
)",
        [&](const std::string& script) {
            ActionRun run{profile, "walk"};
            ActionHandlers handlers{32};
            std::string text;
            bool walks = false, horn = false;
            for (std::uint16_t action = 0; action < 3; ++action)
                for (const HandledEdge edge : {HandledEdge::pressed, HandledEdge::released, HandledEdge::ended,
                                               HandledEdge::adopted, HandledEdge::repeated})
                    EXPECT_TRUE(handlers.add(edge, ButtonAction{action}, [&](const ActionEvent& event) {
                        text += (text.empty() ? "" : " ") + std::to_string(nanoseconds(event.time)) +
                                "preaR"[static_cast<unsigned>(event.edge)] + std::to_string(event.action.number);
                    }));
            EXPECT_TRUE(handlers.follow(walks, ButtonAction{1}) && handlers.follow(horn, ButtonAction{0}));
            EXPECT_FALSE(handlers.add(HandledEdge::pressed, ButtonAction{}, [](const ActionEvent&) {}));
            run.on_read = [&] { handlers.run(run.reader); };
            run.view = [&] {
                const std::string calls = std::exchange(text, "");
                return (calls.empty() ? "-" : calls) + (walks ? " walk" : "") + (horn ? " horn" : "");
            };
            return run.run(script);
        });
}

}  // namespace
