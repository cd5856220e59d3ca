// The recipe of docs/x-core-events.md against a real X server, with the server's own key repeat.

// Xlib first, as in an engine: its macros and its `Time` must not break the library's headers.
#include "../../examples/x_core_keys.hpp"
// Its macros break GoogleTest's.
#undef None
#undef Bool
#undef Status
#undef True
#undef False

#include <gtest/gtest.h>

#include <chrono>

#include "support/x_server.hpp"

namespace {

using namespace cursorum::controls;

constexpr unsigned code_w = 17, code_a = 30;

/// A loop on a window; the parameter: with detectable repeat, or with release and press pairs that are marked.
class XCoreLoop : public testing::TestWithParam<bool> {
protected:
    void SetUp() override {
        ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
        hand = std::make_unique<test::XHand>(server.display());
        window = hand->make_window();
        other = hand->make_window();
        display = XOpenDisplay(server.display().c_str());
        ASSERT_NE(display, nullptr);
        keys = std::make_unique<XCoreKeys>(display, window, timeline.desk(), GetParam());
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
        }
        const cur::Frame& frame = sampler.advance(keys->complete());
        for (const cur::Button button : {KeyW, KeyA}) {
            presses += frame[button].press_count();
            releases += frame[button].release_count();
            repeats += frame[button].figures().system_repeat_count();
        }
        down = frame[KeyW].down();
        w_released |= frame[KeyW].released();
    }
    bool until(const std::function<bool()>& done) {
        return test::eventually([&] { return turn(), done(); });
    }

    test::XServer server;
    std::unique_ptr<test::XHand> hand;
    xcb_window_t window = 0, other = 0;
    Display* display = nullptr;
    cur::Timeline timeline;
    cur::Sampler sampler{timeline};
    std::unique_ptr<XCoreKeys> keys;
    std::uint64_t presses = 0, releases = 0, repeats = 0;
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
}

INSTANTIATE_TEST_SUITE_P(Repeat, XCoreLoop, testing::Bool(),
                         [](const auto& mode) { return mode.param ? "Detectable" : "Marked"; });

}  // namespace
