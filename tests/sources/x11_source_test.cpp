// A real X server: keys injected by XTEST, held so that the server itself repeats them, with focus coming and going.

#include "cursorum/sources/x11_source.hpp"

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/x_server.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::eventually;
using test::XHand;
using test::XServer;

constexpr unsigned code_w = 17, code_a = 30, code_shift = 42;

/// A server, a hand on it, a window, and a source on one of the two.
class LiveX11 : public testing::Test {
protected:
    void SetUp() override {
        ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
        hand = std::make_unique<XHand>(server.display());
        window = hand->make_window();
        other = hand->make_window();
    }

    void open(xcb_window_t on, Duration standstill = {}) {
        std::string error;
        source = X11Source::open(
            {.display = server.display(), .window = on, .first_device = 11, .standstill = standstill}, error);
        ASSERT_TRUE(source) << error;
        complete = source->deliver(timeline);
        sampler = std::make_unique<Sampler>(timeline, SamplerOptions{.start = complete});
    }

    const Frame& next_frame() {
        complete = source->deliver(timeline);
        return sampler->advance(std::max(complete, timeline.desk().latest()));
    }

    /// What a button did from now until `done`, frame after frame.
    struct Sum {
        unsigned presses = 0, releases = 0, adopts = 0, cancels = 0, system_repeats = 0;
    };
    bool until(Button button, Sum& sum, const std::function<bool(const Sum&)>& done) {
        return eventually([&] {
            const ButtonFigures f = next_frame()[button].figures();
            sum.presses += f.press_count();
            sum.releases += f.release_count();
            sum.adopts += f.adopt_count();
            sum.cancels += f.cancel_count();
            sum.system_repeats += f.system_repeat_count();
            return done(sum);
        });
    }

    /// The source watches the window, which has the focus; KeyW goes down and stays down.
    bool press_in_window(Sum& sum) {
        hand->give_focus(window);
        open(window);
        hand->key(code_w, true);
        return until(KeyW, sum, [](const Sum& s) { return s.presses == 1; });
    }

    XServer server;
    std::unique_ptr<XHand> hand;
    xcb_window_t window = 0, other = 0;
    Timeline timeline;
    std::unique_ptr<X11Source> source;
    std::unique_ptr<Sampler> sampler;
    Time complete;
};

TEST_F(LiveX11, AHeldKeyIsOnePressWhateverTheServerRepeats) {
    hand->give_focus(window);
    open(window);
    const Time before = Clock::now();
    hand->key(code_w, true);
    const Time after = Clock::now();
    Sum sum;
    // The server repeats it by itself, after 660 ms and then every 40.
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.system_repeats >= 3; }));
    const Time releasing = Clock::now();
    hand->key(code_w, false);
    const Time released = Clock::now();
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases >= 1; }));
    EXPECT_EQ(sum.presses, 1U);
    EXPECT_EQ(sum.releases, 1U);
    EXPECT_EQ(sum.adopts + sum.cancels, 0U);
    // Times are the server's milliseconds, rounded down, on our clock.
    const Duration held = sampler->frame()[KeyW].released_after();
    EXPECT_GE(held, releasing - after - source->precision());
    EXPECT_LE(held, released - before + source->precision());
    EXPECT_EQ(sampler->counters().late, 0U);
    EXPECT_EQ(timeline.find_device(DeviceId{11})->kind, DeviceKind::keyboard);
}

TEST_F(LiveX11, TimesAreWithinTheServersMillisecond) {
    hand->give_focus(window);
    open(window);
    for (int i = 0; i < 20; ++i) {
        const Time before = Clock::now();
        hand->key(code_a, i % 2 == 0);
        const Time after = Clock::now();
        std::vector<Edge> edges;
        ASSERT_TRUE(eventually([&] {
            for (const Edge edge : next_frame().edges()) edges.push_back(edge);
            return !edges.empty();
        }));
        EXPECT_GT(edges[0].time, before - source->precision());
        EXPECT_LE(edges[0].time, after);
    }
}

TEST_F(LiveX11, FocusMovedAwayWhileHeldCancels) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    hand->give_focus(other);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    hand->key(code_w, false);  // this never reaches our window
    hand->key(code_a, true);
    hand->key(code_a, false);
    next_frame();
    EXPECT_EQ(sum.releases, 0U);
    EXPECT_TRUE(sampler->frame().current().down.empty());
    EXPECT_FALSE(timeline.desk().has_focus());
}

TEST_F(LiveX11, FocusBackWhileHeldAdoptsAndIsNoPress) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    hand->give_focus(other);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    hand->give_focus(window);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.adopts == 1; }));
    // The repeats move with the focus; they are no presses either.
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.system_repeats >= 1; }));
    hand->key(code_w, false);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
    EXPECT_EQ(sum.presses, 1U);
    EXPECT_GE(sum.cancels, 1U);
    EXPECT_EQ(sum.adopts, 1U);
}

TEST_F(LiveX11, APressRightAfterFocusIsAPressAndNoAdopt) {
    // Focus and press stand in the queue together when the source looks; the state it asks for is already a later one.
    hand->give_focus(other);
    open(window);
    hand->give_focus(window);
    hand->key(code_w, true);
    hand->key(code_a, true);
    hand->key(code_a, false);
    Sum w, a;
    ASSERT_TRUE(until(KeyW, w, [](const Sum& s) { return s.presses + s.adopts >= 1; }));
    EXPECT_EQ(w.presses, 1U);
    EXPECT_EQ(w.adopts + w.cancels, 0U);
    EXPECT_EQ(sampler->frame()[KeyA].state(), ButtonState::blip);
    EXPECT_EQ(sampler->frame()[KeyA].press_count(), 1U);
}

TEST_F(LiveX11, AKeyHeldAtTheStartIsAdopted) {
    hand->give_focus(window);
    hand->key(code_shift, true);
    hand->finish();
    std::string error;
    source = X11Source::open({.display = server.display(), .window = window}, error);
    Sampler from_before{timeline, {.start = earliest_time}};
    source->deliver(timeline);
    const Frame& frame = from_before.advance(timeline.desk().latest());
    EXPECT_EQ(frame[ShiftLeft].adopt_count(), 1U);
    EXPECT_FALSE(frame[Shift].pressed());
    EXPECT_TRUE(frame[Shift].down());
}

TEST_F(LiveX11, AGrabByAnotherClientIsFocusLost) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    hand->grab(true);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    hand->key(code_w, false);  // lost to us
    hand->grab(false);
    ASSERT_TRUE(eventually([&] { return next_frame(), timeline.desk().has_focus(); }));
    EXPECT_TRUE(sampler->frame().current().down.empty());
    EXPECT_EQ(sum.releases, 0U);
}

TEST_F(LiveX11, MouseButtonsOfTheWindow) {
    hand->give_focus(window);
    open(other);  // the upper one, under the pointer
    hand->give_focus(other);
    ASSERT_TRUE(eventually([&] { return next_frame(), timeline.desk().has_focus(); }));
    for (const auto& [number, button] :
         {std::pair{1U, MouseLeft}, std::pair{2U, MouseMiddle}, std::pair{3U, MouseRight}, std::pair{8U, MouseBack},
          std::pair{9U, MouseForward}}) {
        hand->mouse(number, true);
        hand->mouse(number, false);
        Sum sum;
        ASSERT_TRUE(until(button, sum, [](const Sum& s) { return s.releases == 1; })) << name_of(button);
        EXPECT_EQ(sum.presses, 1U);
    }
    const std::uint64_t refused = timeline.desk().counters().refused;
    hand->mouse(4, true);  // the wheel is no button
    hand->mouse(4, false);
    const std::uint64_t events = timeline.desk().counters().events;
    ASSERT_TRUE(eventually([&] { return next_frame(), timeline.desk().counters().events == events + 1; }));
    EXPECT_EQ(timeline.desk().counters().refused, refused);
}

TEST_F(LiveX11, RawItHearsEverythingWhoeverHasTheFocus) {
    hand->give_focus(other);
    open(0);
    hand->grab(true);
    hand->key(code_w, true);
    Sum sum;
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.presses == 1; }));
    hand->key(code_w, false);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
    hand->mouse(1, true);
    hand->mouse(1, false);
    Sum mouse;
    ASSERT_TRUE(until(MouseLeft, mouse, [](const Sum& s) { return s.releases == 1; }));
    EXPECT_EQ(mouse.presses, 1U);
    EXPECT_TRUE(timeline.desk().has_focus());
}

TEST_F(LiveX11, WhatWasDeliveredIsCompleteAndNothingComesLate) {
    hand->give_focus(window);
    open(window);
    unsigned presses = 0;
    for (int i = 0; i < 200; ++i) {
        hand->key(code_w, i % 2 == 0);
        presses += sampler->advance(source->deliver(timeline))[KeyW].press_count();
    }
    ASSERT_TRUE(eventually([&] {
        presses += sampler->advance(source->deliver(timeline))[KeyW].press_count();
        return presses == 100;
    }));
    EXPECT_EQ(sampler->counters().late, 0U);
}

TEST_F(LiveX11, WhenTheServerGoesEverythingIsReleased) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    server.stop();
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    EXPECT_FALSE(source->is_open());
    const Time earlier = complete;
    EXPECT_GE(source->deliver(timeline), earlier);
}

TEST(X11SourceOpen, SaysWhyItCannot) {
    std::string error;
    EXPECT_EQ(X11Source::open({.display = ":98765", .window = 0}, error), nullptr);
    EXPECT_EQ(error, "no X server answers at display \":98765\"");
    XServer server;
    ASSERT_TRUE(server.is_up());
    EXPECT_EQ(X11Source::open({.display = server.display(), .window = 12345}, error), nullptr);
    EXPECT_EQ(error, "the X server has no window 12345");
}

TEST_F(LiveX11, AfterAStandstillWhatIsHeldStillIsAdopted) {
    hand->give_focus(window);
    open(window, Duration{2'000'000'000});
    hand->key(code_w, true);
    Sum sum;
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.presses == 1; }));
    const Time stopped = Clock::now();
    ASSERT_TRUE(eventually([&] { return Clock::now() - stopped > Duration{2'100'000'000}; }));
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.adopts == 1; }));
    EXPECT_GE(sum.cancels, 1U);
    EXPECT_EQ(sum.presses, 1U);
    EXPECT_EQ(sum.releases, 0U);
    EXPECT_TRUE(sampler->frame()[KeyW].down());
    EXPECT_EQ(timeline.complete_until(earliest_time), complete);
    hand->key(code_w, false);
    EXPECT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
}

}  // namespace
