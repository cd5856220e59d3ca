// A real X server: keys injected by XTEST, held so that the server itself repeats them, with focus coming and going.

#include "cursorum/sources/x11_source.hpp"

#include <gtest/gtest.h>
#include <xcb/xcb.h>

#include <cstdlib>
#include <map>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"
#include "support/x_server.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::eventually;
using test::XHand;
using test::XServer;

/// An engine's own connection: two windows, its own selections of core events, and what it got of them.
class EngineLoop {
public:
    explicit EngineLoop(const std::string& display) : connection_{xcb_connect(display.c_str(), nullptr)} {}
    ~EngineLoop() { xcb_disconnect(connection_); }
    xcb_connection_t* connection() const { return connection_; }
    xcb_window_t make_window() {
        const xcb_window_t window = xcb_generate_id(connection_);
        const xcb_window_t root = xcb_setup_roots_iterator(xcb_get_setup(connection_)).data->root;
        const std::uint32_t mask = XCB_EVENT_MASK_KEY_PRESS | XCB_EVENT_MASK_KEY_RELEASE | XCB_EVENT_MASK_BUTTON_PRESS |
                                   XCB_EVENT_MASK_BUTTON_RELEASE | XCB_EVENT_MASK_POINTER_MOTION |
                                   XCB_EVENT_MASK_ENTER_WINDOW | XCB_EVENT_MASK_FOCUS_CHANGE | XCB_EVENT_MASK_EXPOSURE |
                                   XCB_EVENT_MASK_STRUCTURE_NOTIFY;
        xcb_create_window(connection_, XCB_COPY_FROM_PARENT, window, root, 100, 50, 300, 200, 0,
                          XCB_WINDOW_CLASS_INPUT_OUTPUT, XCB_COPY_FROM_PARENT, XCB_CW_EVENT_MASK, &mask);
        xcb_map_window(connection_, window);
        std::free(xcb_get_input_focus_reply(connection_, xcb_get_input_focus(connection_), nullptr));
        return window;
    }
    /// Reads all there is; hands it to the source, if there is one on this connection.
    void read(X11Source* source) {
        while (xcb_generic_event_t* event = xcb_poll_for_event(connection_)) {
            if (!source || !source->take(event)) ++got[event->response_type & 0x7F];
            std::free(event);
        }
    }
    std::map<int, unsigned> got;  // by core event number

private:
    xcb_connection_t* connection_;
};

constexpr unsigned code_w = 17, code_a = 30, code_shift = 42, code_right_alt = 100;

/// A server, a hand on it, an engine's connection with two windows, and a source on one of the two: on a connection of
/// its own, or on the engine's.
class LiveX11 : public testing::Test {
protected:
    explicit LiveX11(bool attached = false) : attaches{attached} {}
    void SetUp() override {
        ASSERT_TRUE(server.is_up()) << "Xvfb does not start";
        hand = std::make_unique<XHand>(server.display());
        engine = std::make_unique<EngineLoop>(server.display());
        window = engine->make_window();
        other = engine->make_window();
    }

    bool wants_text = false;
    void open(xcb_window_t on, Duration standstill = {}) {
        std::string error;
        const X11SourceOptions options{.display = server.display(),
                                       .window = on,
                                       .first_device = 11,
                                       .text = wants_text,
                                       .standstill = standstill};
        source = attaches && on != 0 ? X11Source::attach(engine->connection(), options, error)
                                     : X11Source::open(options, error);
        ASSERT_TRUE(source) << error;
        complete = deliver();
        sampler = std::make_unique<Sampler>(timeline, SamplerOptions{.start = complete});
    }

    /// One round of the engine's loop.
    Time deliver() {
        source->fetch();
        engine->read(attaches ? source.get() : nullptr);
        return source->deliver(timeline);
    }
    const Frame& next_frame() {
        complete = deliver();
        return sampler->advance(std::max(complete, timeline.desk().latest()));
    }
    bool eventually_shows(const char* views, const std::string& expected) {
        std::string shown;
        const bool is_so =
            eventually([&] { return next_frame(), (shown = test::views_text(*sampler, views)) == expected; });
        EXPECT_TRUE(is_so) << views << ": " << shown << ", expected " << expected;
        return is_so;
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

    // "é" is a dead key and another one, "Z" stands where KeyY is, and Control, Alt, Escape and Enter type nothing.
    void type_by_the_layout() {
        ASSERT_EQ(setenv("LC_ALL", "en_US.UTF-8", 1), 0);
        ASSERT_EQ(std::system(("setxkbmap -display " + server.display() + " de").c_str()), 0);
        constexpr unsigned escape = 1, equal = 13, code_e = 18, code_y = 21, enter = 28, control = 29, alt = 56;
        hand->key(code_shift, true);  // held when the focus comes, and let go
        hand->give_focus(window);
        wants_text = true;
        open(window);
        const auto tap = [this](unsigned code) { hand->key(code, true), hand->key(code, false); };
        tap(code_y);
        hand->key(code_shift, false);
        hand->finish();
        std::string all;
        const auto typed = [&](const std::string& expected) {
            all.clear();
            const bool is_so =
                eventually([&] { return next_frame().text().append_to(all), all.size() >= expected.size(); });
            EXPECT_EQ(all, expected);
            return is_so;
        };
        ASSERT_TRUE(typed("Z"));
        tap(code_y), tap(equal), tap(code_e), tap(escape), tap(enter);
        for (const unsigned modifier : {control, alt})
            hand->key(modifier, true), tap(code_a), hand->key(modifier, false);
        tap(code_a);
        ASSERT_TRUE(typed("z\u00e9a"));
        const TextPiece piece = *sampler->frame().text().begin();
        EXPECT_EQ(piece.device, DeviceId{11});
        EXPECT_EQ(piece.key, KeyY);
        ASSERT_EQ(std::system(("setxkbmap -display " + server.display() + " us").c_str()), 0);
        ASSERT_TRUE(eventually(
            [&] { return next_frame(), tap(code_y), next_frame().text().append_to(all), all.back() == 'y'; }));
        EXPECT_EQ(timeline.desk().counters().refused, 0U);
    }

    const bool attaches;
    XServer server;
    std::unique_ptr<XHand> hand;
    std::unique_ptr<EngineLoop> engine;
    xcb_window_t window = 0, other = 0;
    Timeline timeline;
    std::unique_ptr<X11Source> source;
    std::unique_ptr<Sampler> sampler;
    Time complete;
};

class AttachedX11 : public LiveX11 {
protected:
    AttachedX11() : LiveX11{true} {}
};

TEST_F(LiveX11, TypesByTheLayoutWithDeadKeys) { type_by_the_layout(); }
TEST_F(AttachedX11, TypesByTheLayoutWithDeadKeys) { type_by_the_layout(); }

TEST_F(AttachedX11, AHeldKeyIsOnePressWhateverTheServerRepeats) {
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

TEST_F(AttachedX11, FocusBackWhileHeldAdoptsAndIsNoPress) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    hand->give_focus(other);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    hand->give_focus(window);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.adopts == 1; }));
    // The repeats move with the focus; they are not presses either.
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.system_repeats >= 1; }));
    hand->key(code_w, false);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
    EXPECT_EQ(sum.presses, 1U);
    EXPECT_GE(sum.cancels, 1U);
    EXPECT_EQ(sum.adopts, 1U);
}

TEST_F(AttachedX11, APressRightAfterFocusIsAPressAndNoAdopt) {
    // Focus and press stand in the queue together when the source looks; the state it asks for is already a later one.
    hand->give_focus(other);
    open(window);
    hand->give_focus(window);
    hand->key(code_w, true);
    hand->key(code_a, true);
    hand->key(code_a, false);
    Sum w;
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
}

/// Both ways: the source's devices, positions in the window, wheel, crossings, lamps and the lock.
class PointerX11 : public LiveX11, public testing::WithParamInterface<bool> {
protected:
    PointerX11() : LiveX11{GetParam()} {}
    void SetUp() override {
        LiveX11::SetUp();
        hand->move_to(120, 60);  // 20, 10 in the window
        hand->give_focus(other);
        open(other);
    }
};

TEST_P(PointerX11, HasPositionsMotionAndButtonsOnOnePointer) {
    ASSERT_TRUE(eventually_shows("at,inside", "20,10 | in>in"));
    hand->move_to(220, 155);
    ASSERT_TRUE(eventually_shows("at", "120,105"));
    EXPECT_EQ(sampler->frame().pointer().motion(), (Distance{100, 95}));
    hand->mouse(1, true);
    ASSERT_TRUE(eventually_shows("target", "hap"));
    hand->move_by(3, 4);
    ASSERT_TRUE(eventually_shows("at", "123,109"));
    hand->mouse(1, false);
    ASSERT_TRUE(eventually_shows("target,clicks", "h--c | Left 120,105>123,109 far 5"));
    hand->mouse(4, true), hand->mouse(4, false);
    ASSERT_TRUE(eventually_shows("wheel", "0,1"));
    hand->mouse(7, true), hand->mouse(7, false);
    ASSERT_TRUE(eventually_shows("wheel", "1,0"));
    // A press, a motion and a release that arrive in one round keep their places.
    hand->mouse(1, true), hand->move_to(250, 160), hand->mouse(1, false), hand->move_to(260, 170);
    ASSERT_TRUE(eventually([&] { return next_frame()[MouseLeft].released(); }));
    ASSERT_TRUE(eventually_shows("at", "160,120"));
    hand->move_to(10, 10);
    ASSERT_TRUE(eventually_shows("inside", "in>out"));
    hand->mouse(1, true), hand->mouse(1, false);  // elsewhere
    hand->move_to(120, 60);
    ASSERT_TRUE(eventually_shows("inside", "out>in"));
    EXPECT_EQ(sampler->frame()[MouseLeft].press_count(), 0U);
    EXPECT_EQ(sampler->counters().late, 0U);
    EXPECT_EQ(timeline.desk().counters().strays, 0U);
}

// Kept in the window and hidden: it has positions, and is free while the focus is elsewhere. A game puts it somewhere.
TEST_P(PointerX11, KeptItStaysInTheWindowUntilFocusGoes) {
    ASSERT_TRUE(eventually_shows("at", "20,10"));
    constexpr CursorState kept{CursorHold::kept, true}, free{};
    const auto becomes = [&](const CursorState& state) {
        return eventually([&] { return next_frame().pointer().cursor() == state; });
    };
    ASSERT_TRUE(source->ask_for_cursor(kept));
    ASSERT_TRUE(becomes(kept));
    hand->move_by(-400, 0);
    ASSERT_TRUE(eventually_shows("at", "0,10"));
    hand->give_focus(window);
    ASSERT_TRUE(becomes(free));
    hand->move_by(-60, 0);
    EXPECT_EQ(hand->pointer_x(), 40) << "it may leave";
    hand->move_to(120, 60);
    hand->give_focus(other);
    ASSERT_TRUE(becomes(kept)) << "and is as wanted again";
    ASSERT_TRUE(source->put_pointer_at({50, 40}));
    Distance motion;
    ASSERT_TRUE(eventually([&] {
        const PointerReading pointer = next_frame().pointer();
        motion.x += pointer.motion().x;
        return pointer.position() == WindowPoint{50, 40};
    }));
    EXPECT_EQ(hand->pointer_x(), 150);
    EXPECT_EQ(motion.x, 0);
    ASSERT_TRUE(source->ask_for_cursor({}));
    ASSERT_TRUE(becomes(free));
}

TEST_P(PointerX11, LockedItMovesWithoutAPlaceUntilFocusGoes) {
    ASSERT_TRUE(eventually_shows("at", "20,10"));
    ASSERT_TRUE(source->ask_for_cursor({CursorHold::locked}));
    ASSERT_TRUE(eventually_shows("locked", "off>on"));
    Distance sum;
    for (int i = 0; i < 3; ++i) hand->move_by(-40, 0);  // far beyond the window's edge
    ASSERT_TRUE(eventually([&] { return sum.x += next_frame().pointer().motion().x, sum.x == -120; })) << sum.x;
    EXPECT_EQ(hand->pointer_x(), 100) << "kept in the window";
    hand->give_focus(window);
    ASSERT_TRUE(eventually_shows("locked", "on>off"));
    // The server may take the hand's motion before the source's request to free the pointer.
    ASSERT_TRUE(eventually([&] { return hand->move_by(-40, 0), hand->pointer_x() == 60; })) << "free";
    hand->move_by(60, 0);
    hand->give_focus(other);
    ASSERT_TRUE(eventually_shows("locked", "off>on"));
    source->ask_for_cursor({});
    ASSERT_TRUE(eventually_shows("locked", "on>off"));
}

TEST_P(PointerX11, ShowsTheLampsAndTakesTheClickThatBringsFocusForNoPress) {
    constexpr unsigned code_caps = 58;
    hand->key(code_caps, true), hand->key(code_caps, false);
    ASSERT_TRUE(eventually([&] { return next_frame().locks().contains(CapsLock); }));
    hand->key(code_caps, true), hand->key(code_caps, false);
    ASSERT_TRUE(eventually([&] { return !next_frame().locks().contains(CapsLock); }));
    hand->give_focus(window);
    ASSERT_TRUE(eventually([&] { return next_frame(), !timeline.desk().has_focus(); }));
    Sum sum;
    hand->mouse(1, true);
    hand->give_focus(other);
    ASSERT_TRUE(until(MouseLeft, sum, [](const Sum& s) { return s.adopts == 1; }));
    hand->mouse(1, false);
    ASSERT_TRUE(until(MouseLeft, sum, [](const Sum& s) { return s.releases == 1; }));
    EXPECT_EQ(sum.presses, 0U);
}

TEST_P(PointerX11, HasTheSymbolsOfThePresentLayout) {
    const auto set_layout = [&](const char* layouts) {
        const std::string command = "setxkbmap -display " + server.display() + " -option grp:switch " + layouts;
        ASSERT_EQ(std::system(command.c_str()), 0);
    };
    EXPECT_EQ(source->layout_changes(), 0U);
    EXPECT_EQ(source->key_layout(), source->key_layout());
    EXPECT_EQ(source->key_layout().symbol_of(KeyZ), "z");
    EXPECT_EQ(source->key_layout().symbol_of(Minus), "-");
    set_layout("de");
    std::uint64_t changes = 0;
    const auto changes_again = [&] { return next_frame(), source->layout_changes() > changes; };
    ASSERT_TRUE(eventually(changes_again));
    ASSERT_TRUE(eventually([&] { return next_frame(), source->key_layout().symbol_of(KeyZ) == "y"; }));
    EXPECT_EQ(source->key_layout().key_of("z"), KeyY);
    EXPECT_EQ(source->key_layout().symbol_of(Semicolon), "\u00f6");
    EXPECT_EQ(source->key_layout().symbol_of(Enter), "");
    set_layout("us,ru");
    ASSERT_TRUE(eventually([&] { return next_frame(), source->key_layout().symbol_of(KeyZ) == "z"; }));
    changes = source->layout_changes();
    hand->key(code_right_alt, true);  // the other one, while it is held
    ASSERT_TRUE(eventually(changes_again));
    EXPECT_EQ(source->key_layout().symbol_of(KeyZ), "\u044f");
    hand->key(code_right_alt, false);
    ASSERT_TRUE(eventually([&] { return next_frame(), source->key_layout().symbol_of(KeyZ) == "z"; }));
}

TEST_P(PointerX11, TheEngineKeepsItsOwnEvents) {
    hand->key(code_w, true), hand->key(code_w, false);
    hand->mouse(1, true), hand->mouse(1, false);
    hand->move_to(150, 90);
    Sum sum;
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
    hand->give_focus(window);
    ASSERT_TRUE(eventually([&] {
        next_frame();
        if (engine->got[XCB_EXPOSE] == 0 || engine->got[XCB_MAP_NOTIFY] < 2) return false;
        if (GetParam()) return true;  // on its own connection the window's input comes through the source
        return engine->got[XCB_KEY_PRESS] == 1 && engine->got[XCB_KEY_RELEASE] == 1 &&
               engine->got[XCB_BUTTON_PRESS] == 1 && engine->got[XCB_BUTTON_RELEASE] == 1 &&
               engine->got[XCB_MOTION_NOTIFY] >= 1 && engine->got[XCB_FOCUS_IN] >= 1 && engine->got[XCB_FOCUS_OUT] >= 1;
    }));
}

TEST_F(AttachedX11, OnceItHasGoneTheEngineHasItsCoreEventsAgain) {
    hand->give_focus(window);
    open(window);
    source.reset();
    hand->key(code_w, true), hand->key(code_w, false);
    EXPECT_TRUE(eventually([&] { return engine->read(nullptr), engine->got[XCB_KEY_RELEASE] == 1; }));
}

INSTANTIATE_TEST_SUITE_P(Ways, PointerX11, testing::Bool(),
                         [](const auto& row) { return row.param ? "Attached" : "OwnConnection"; });

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
        presses += sampler->advance(deliver())[KeyW].press_count();
    }
    ASSERT_TRUE(eventually([&] {
        presses += sampler->advance(deliver())[KeyW].press_count();
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

TEST_P(PointerX11, WhenItsWindowGoesEverythingIsReleased) {
    Sum sum;
    hand->key(code_w, true);
    ASSERT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.presses == 1; }));
    xcb_destroy_window(engine->connection(), other);
    xcb_flush(engine->connection());
    EXPECT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.cancels == 1; }));
    EXPECT_TRUE(eventually([&] { return next_frame(), !source->is_open(); }));
    EXPECT_EQ(next_frame().count_of(DeviceKind::keyboard), 1U);  // the desk's own
}

/// This thread holds the grab: if anything waited for the server's answer, nothing would ever end it.
TEST_F(AttachedX11, AGrabbedServerStopsNobody) {
    Sum sum;
    ASSERT_TRUE(press_in_window(sum));
    hand->grab_server(true);
    for (int round = 0; round < 5; ++round) EXPECT_TRUE(next_frame()[KeyW].down());
    const Time before = complete;
    hand->grab_server(false);
    hand->key(code_w, false);
    EXPECT_TRUE(until(KeyW, sum, [](const Sum& s) { return s.releases == 1; }));
    EXPECT_TRUE(eventually([&] { return next_frame(), complete > before; }));
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
