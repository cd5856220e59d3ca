// The class of docs/x-core-events.md against a real X server, with the server's own key repeat, in a program that
// reads the window's events as an engine does, with an event mask and a loop of its own.

// Xlib first, as in an engine: its macros and its `Time` must not break the library's headers.
#include <X11/XKBlib.h>

#include "../../examples/x_core_keys.hpp"
constexpr long pointer_root = PointerRoot;
// Its macros break GoogleTest's.
#undef None
#undef Bool
#undef Status
#undef True
#undef False

#include <gtest/gtest.h>

#include <chrono>
#include <vector>

#include "support/x_server.hpp"

namespace {

using namespace cursorum::controls;

constexpr unsigned code_w = 17, code_a = 30;
constexpr long engines_mask = ExposureMask | StructureNotifyMask | ButtonPressMask | KeyPressMask | KeyReleaseMask;

/// An engine's loop on a window. The parameter: whether the engine asked for detectable repeat, or gets release and
/// press pairs.
class XCoreLoop : public testing::TestWithParam<bool> {
protected:
    void SetUp() override {
        ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
        hand = std::make_unique<test::XHand>(server.display());
        window = hand->make_window();
        other = hand->make_window();
        display = XOpenDisplay(server.display().c_str());
        ASSERT_NE(display, nullptr);
        XSelectInput(display, window, engines_mask);
        int granted = 0;
        if (GetParam()) XkbSetDetectableAutoRepeat(display, 1, &granted);
        ASSERT_EQ(granted != 0, GetParam());
        keys = std::make_unique<XCoreKeys>(display, window, timeline.desk());
        XSync(display, 0);
    }
    void TearDown() override {
        if (display != nullptr) XCloseDisplay(display);
    }

    /// One round of the loop; adds what KeyW and KeyA did in it.
    void turn() {
        while (XPending(display) > 0) {
            XEvent event;
            XNextEvent(display, &event);
            keys->handle(event);
            engines_presses += event.type == KeyPress;
            engines_releases += event.type == KeyRelease;
            if (const char* problem = keys->problem()) problems.emplace_back(problem);
        }
        const cur::Frame& frame = sampler.advance(keys->complete());
        for (const cur::Button button : {KeyW, KeyA}) {
            presses += frame[button].press_count();
            releases += frame[button].release_count();
            repeats += frame[button].figures().system_repeat_count();
        }
        down = frame[KeyW].down();
        w_released |= frame[KeyW].released();
        while (const char* problem = check.next_problem(timeline, sampler)) problems.emplace_back(problem);
    }
    bool until(const std::function<bool()>& done) {
        return test::eventually([&] { return turn(), done(); });
    }
    long mask() const {
        XWindowAttributes its{};
        XGetWindowAttributes(display, window, &its);
        return its.your_event_mask;
    }

    test::XServer server;
    std::unique_ptr<test::XHand> hand;
    xcb_window_t window = 0, other = 0;
    Display* display = nullptr;
    cur::Timeline timeline;
    cur::Sampler sampler{timeline};
    cur::InputCheck check;
    std::unique_ptr<XCoreKeys> keys;
    std::uint64_t presses = 0, releases = 0, repeats = 0, engines_presses = 0, engines_releases = 0;
    std::vector<std::string> problems;
    bool down = false, w_released = false;
};

TEST_P(XCoreLoop, AHeldKeyIsOnePressAndEachTapIsOne) {
    hand->give_focus(window);
    ASSERT_TRUE(until([&] { return timeline.desk().has_focus(); }));
    hand->key(code_w, true);
    ASSERT_TRUE(until([&] { return repeats >= 3; }));
    EXPECT_EQ(presses, 1U);
    EXPECT_EQ(releases, 0U);
    // Faster than any finger: many a release shares the server's millisecond with the next press.
    for (unsigned tap = 0; tap < 360; ++tap) {
        const cur::Time began = cur::Clock::now();
        hand->key(code_a, true);
        hand->key(code_a, false);
        const cur::Time ended = cur::Clock::now();
        // A tap that a busy machine stretched until the key might have repeated: without marks, only a release with a
        // millisecond of its own can be distinguished from a repeat.
        if (ended - began > std::chrono::milliseconds{50}) {
            ASSERT_TRUE(until([&] { return cur::Clock::now() - ended > std::chrono::milliseconds{2}; }));
        }
        if (tap % 7 == 0) turn();
    }
    hand->key(code_w, false);
    EXPECT_TRUE(until([&] { return releases >= 361; }));
    EXPECT_EQ(presses, 361U);
    EXPECT_EQ(releases, 361U);
    EXPECT_EQ(sampler.counters().late + timeline.desk().counters().backdated, 0U);
    // The engine, too, got every event: what it makes of repeats is as it was.
    EXPECT_EQ(engines_presses, 361 + repeats);
    EXPECT_EQ(engines_releases, GetParam() ? 361 : engines_presses);
    EXPECT_EQ(problems, std::vector<std::string>{});
}

TEST_P(XCoreLoop, FocusTakesAndGivesBackWhatIsHeld) {
    hand->give_focus(window);
    // Pressed before the loop looks at the focus: a press nevertheless.
    hand->key(code_w, true);
    ASSERT_TRUE(until([&] { return presses == 1; }));
    hand->give_focus(other);
    ASSERT_TRUE(until([&] { return !down; }));
    hand->give_focus(window);
    ASSERT_TRUE(until([&] { return down; }));
    ASSERT_TRUE(until([&] { return repeats >= 2; }));
    EXPECT_EQ(presses, 1U);
    hand->key(code_w, false);
    ASSERT_TRUE(until([&] { return !down; }));
    EXPECT_FALSE(w_released) << "it was let go by the focus, and adopted";
    hand->key(code_w, true);
    EXPECT_TRUE(until([&] { return presses == 2; }));
    EXPECT_EQ(problems, std::vector<std::string>{});
}

TEST_P(XCoreLoop, LeavesTheEnginesMaskAndRepeatAlone) {
    EXPECT_EQ(mask() & engines_mask, engines_mask);
    // It asks for it again later, without what came to it: no KeymapNotify tells what is held.
    XSelectInput(display, window, engines_mask | FocusChangeMask);
    XSync(display, 0);
    hand->key(code_a, true);
    hand->give_focus(window);
    hand->key(code_w, true);
    ASSERT_TRUE(until([&] { return presses == 1; })) << "of KeyW; KeyA was held before";
    EXPECT_TRUE(sampler.frame()[KeyA].down());
    hand->give_focus(other);
    EXPECT_TRUE(until([&] { return !down; }));
    EXPECT_EQ(problems, std::vector<std::string>{});
}

TEST_P(XCoreLoop, SaysWhenKeysComeWithoutAFocus) {
    XSelectInput(display, window, engines_mask);  // not even FocusChangeMask
    XSync(display, 0);
    hand->give_focus(window);
    for (int tap = 0; tap < 5; ++tap) hand->key(code_w, true), hand->key(code_w, false);
    ASSERT_TRUE(until([&] { return presses == 5; }));
    ASSERT_EQ(problems.size(), 1U);
    EXPECT_NE(problems[0].find("FocusChangeMask"), std::string::npos);
}

// Without a window manager, the keys go to the window below the pointer.
TEST_P(XCoreLoop, FollowsThePointerWhereTheFocusDoes) {
    hand->move_to(500, 400);
    hand->finish();
    XRaiseWindow(display, window);
    XMoveResizeWindow(display, window, 0, 0, 100, 100);
    XUnmapWindow(display, other);
    XSetInputFocus(display, pointer_root, RevertToPointerRoot, CurrentTime);
    XSync(display, 0);
    turn();
    EXPECT_FALSE(timeline.desk().has_focus());
    hand->move_to(50, 50);
    ASSERT_TRUE(until([&] { return timeline.desk().has_focus(); }));
    hand->key(code_w, true);
    ASSERT_TRUE(until([&] { return presses == 1; }));
    hand->move_to(500, 400);
    ASSERT_TRUE(until([&] { return !down; }));
    EXPECT_FALSE(w_released);
    EXPECT_EQ(problems, std::vector<std::string>{});
    // One that is made while the pointer is already there.
    hand->key(code_w, false);
    hand->move_to(50, 50);
    hand->finish();
    cur::Timeline again;
    const XCoreKeys late{display, window, again.desk()};
    EXPECT_TRUE(again.desk().has_focus());
}

// What happened while the program was stopped keeps its time, however long ago that was: it is moved up to the last cut
// at most, and never to the present.
TEST_P(XCoreLoop, OldEventsKeepTheirTimes) {
    const auto server_time = [](cur::Time time) {
        return static_cast<::Time>(static_cast<std::uint32_t>(cur::nanoseconds(time) / 1'000'000));
    };
    const cur::Time cut = keys->complete();
    ASSERT_TRUE(until([&] { return cur::Clock::now() - cut > std::chrono::milliseconds{3}; }));
    const cur::Time last = std::max(keys->complete(), timeline.desk().latest());
    for (const auto age : {std::chrono::seconds{0}, std::chrono::seconds{2}, std::chrono::seconds{3600}})
        EXPECT_EQ(keys->time_of(server_time(cut - age)), last) << age.count();
}

INSTANTIATE_TEST_SUITE_P(Repeat, XCoreLoop, testing::Bool(),
                         [](const auto& mode) { return mode.param ? "Detectable" : "Marked"; });

}  // namespace
