// Fingers on a touch screen, report by report; and random reports against a plain account of them.
#include "sources/evdev_touch.hpp"

#include <gtest/gtest.h>
#include <linux/input-event-codes.h>

#include <map>
#include <random>
#include <sstream>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "sources/evdev_decoder.hpp"

namespace {

using namespace cursorum;

/// What was posted: "begin 7 (10, 20) 0.5" and so on.
class Posted final : public EventSink {
public:
    void take(const Event& event) override {
        std::ostringstream line;
        const char* const phase = event.phase == ContactPhase::begin  ? "begin "
                                  : event.phase == ContactPhase::move ? "move "
                                  : event.phase == ContactPhase::end  ? "end "
                                                                      : "cancel ";
        if (event.type != EventType::contact) return;
        line << (text.empty() ? "" : ", ") << phase << event.contact << " (" << event.x << ", " << event.y << ")";
        if (event.value != 1) line << " " << event.value;
        text += line.str();
    }
    std::string text;
};

/// A surface of 100 x 100 places, on a screen of 1000 x 500 pixels, with pressures up to 10.
EvdevDecoder screen(bool has_slots = true) {
    EvdevDecoder decoder{DeviceId{1}, DeviceKind::touch};
    decoder.fingers().set_up({1000, 500});
    for (const unsigned code : {ABS_X, ABS_Y}) decoder.set_range(code, {0, 99});
    if (!has_slots) return decoder;
    for (const unsigned code : {ABS_MT_POSITION_X, ABS_MT_POSITION_Y}) decoder.set_range(code, {0, 99});
    decoder.set_range(ABS_MT_PRESSURE, {0, 10});
    return decoder;
}

/// "s1 i7 x10 y20 p5 ." : slot 1, finger 7, a place, a pressure, the end of a report; i-1: it lifts; h: a palm; t1: the
/// touch of a screen without slots; X, Y: its place; d: events were lost.
std::string posted(EvdevDecoder decoder, const std::string& script) {
    const std::map<char, std::uint16_t> codes{{'s', ABS_MT_SLOT},
                                              {'i', ABS_MT_TRACKING_ID},
                                              {'x', ABS_MT_POSITION_X},
                                              {'y', ABS_MT_POSITION_Y},
                                              {'p', ABS_MT_PRESSURE},
                                              {'h', ABS_MT_TOOL_TYPE},
                                              {'X', ABS_X},
                                              {'Y', ABS_Y}};
    Posted sink;
    std::istringstream words{script};
    for (std::string word; words >> word;) {
        KernelEvent event{.time = 5, .type = EV_ABS};
        if (word.size() > 1) event.value = std::stoi(word.substr(1));
        if (word == ".")
            event.type = EV_SYN, event.code = SYN_REPORT;
        else if (word == "d")
            event.type = EV_SYN, event.code = SYN_DROPPED;
        else if (word[0] == 't')
            event.type = EV_KEY, event.code = BTN_TOUCH;
        else
            event.code = codes.at(word[0]);
        decoder.take(event, sink);
    }
    return sink.text;
}

TEST(EvdevTouch, ByRows) {
    struct Row {
        const char *what, *script, *expected;
    };
    const Row rows[] = {
        {"a finger", "i7 x10 y20 . x11 . i-1 .", "begin 7 (100, 100), move 7 (110, 100), end 7 (110, 100)"},
        {"pressure", "i7 x0 y0 p5 . p10 .", "begin 7 (0, 0) 0.5, move 7 (0, 0)"},
        {"the last place is inside", "i7 x99 y99 .", "begin 7 (990, 495)"},
        {"a report without news", "i7 x0 y0 . . .", "begin 7 (0, 0)"},
        {"two fingers", "i7 x0 y0 s1 i8 x10 y10 . s0 i-1 . s1 x11 .",
         "begin 7 (0, 0), begin 8 (100, 50), end 7 (0, 0), move 8 (110, 50)"},
        {"another finger in the same slot", "i7 x0 y0 . i8 x10 .", "begin 7 (0, 0), end 7 (100, 0), begin 8 (100, 0)"},
        {"down and up within one report", "i7 x0 y0 i-1 .", ""},
        {"a palm", "i7 x0 y0 . h2 . h0 x5 . i-1 . i8 .", "begin 7 (0, 0), cancel 7 (0, 0), begin 8 (50, 0)"},
        {"a palm from the start, then none", "i7 h2 x0 y0 . h0 .", "begin 7 (0, 0)"},
        {"lost: the finger counts once it has been up", "i7 x0 y0 . d . x5 . i-1 . i8 .",
         "begin 7 (0, 0), cancel 7 (0, 0), begin 8 (50, 0)"},
        {"a slot beyond all", "s40 i7 x0 y0 . s0 i8 .", "begin 8 (0, 0)"},
        {"the single place of a screen with slots", "i7 x0 y0 t1 X50 Y50 .", "begin 7 (0, 0)"},
    };
    for (const Row& row : rows) EXPECT_EQ(posted(screen(), row.script), row.expected) << row.what;
    EXPECT_EQ(posted(screen(false), "t1 X10 Y20 . X11 . t0 . t1 . d . X5 . t0 . t1 ."),
              "begin 0 (100, 100), move 0 (110, 100), end 0 (110, 100), begin 1 (110, 100), cancel 1 (110, 100), "
              "begin 2 (50, 100)")
        << "without slots";
}

// An account by fingers instead of slots: who is down, and where, after each report.
TEST(EvdevTouch, RandomReportsAgreeWithAPlainAccount) {
    for (unsigned seed = 1; seed <= 2000; ++seed) {
        std::mt19937 random{seed};
        const auto pick = [&](unsigned count) { return static_cast<int>(random() % count); };
        EvdevDecoder decoder = screen();
        Timeline timeline{{.desk_devices = false}};
        Inlet& inlet = timeline.desk();
        inlet.connect(DeviceId{1}, {.kind = DeviceKind::touch}, Time{Duration{1}});
        Sampler sampler{timeline, {.start = Time{Duration{2}}}};
        struct Into final : EventSink {
            explicit Into(Inlet& to) : inlet{to} {}
            void take(const Event& event) override { inlet.post(event); }
            Inlet& inlet;
        } sink{inlet};
        std::map<int, std::pair<int, int>> down;  // by number: where
        std::map<int, int> in_slot;
        int number = 0;
        for (int report = 1; report <= 40; ++report) {
            const std::int64_t time = 10 * report;
            const auto send = [&](unsigned type, unsigned code, int value) {
                decoder.take({time, static_cast<std::uint16_t>(type), static_cast<std::uint16_t>(code), value}, sink);
            };
            for (int slot = 0; slot < 4; ++slot) {
                if (pick(2) == 0) continue;
                send(EV_ABS, ABS_MT_SLOT, slot);
                const bool is_down = in_slot.contains(slot);
                const bool lifts = is_down && pick(4) == 0;
                if (lifts) {
                    send(EV_ABS, ABS_MT_TRACKING_ID, -1);
                    down.erase(in_slot[slot]);
                    in_slot.erase(slot);
                    continue;
                }
                if (!is_down) send(EV_ABS, ABS_MT_TRACKING_ID, in_slot[slot] = ++number);
                const int x = pick(100), y = pick(100);
                send(EV_ABS, ABS_MT_POSITION_X, x);
                send(EV_ABS, ABS_MT_POSITION_Y, y);
                down[in_slot[slot]] = {x, y};
            }
            send(EV_SYN, SYN_REPORT, 0);
            const Frame& frame = sampler.advance(Time{Duration{time + 1}});
            std::size_t count = 0;
            frame.for_each_contact([&](const ContactReading& it) {
                if (!it.down) return;
                ++count;
                const auto found = down.find(static_cast<int>(it.contact));
                ASSERT_NE(found, down.end()) << "seed " << seed << ", report " << report;
                EXPECT_EQ(it.position, (WindowPoint{found->second.first * 10.0, found->second.second * 5.0}));
            });
            ASSERT_EQ(count, down.size()) << "seed " << seed << ", report " << report;
        }
        EXPECT_EQ(inlet.counters().strays, 0U) << "seed " << seed;
    }
}

}  // namespace
