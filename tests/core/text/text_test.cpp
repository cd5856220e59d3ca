// Text as a fifth stream: rows for its rules, and random typing against a plain list.

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <memory>
#include <random>
#include <string>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;

/// "10 a, 12 KeyB change b@1": time, key, phase if it is not typed, text, caret. Then, in brackets, what is composed.
std::string shown(const TextReading& reading) {
    std::string text;
    for (const TextPiece& piece : reading) {
        text += (text.empty() ? "" : ", ") + std::to_string(nanoseconds(piece.time));
        if (piece.key) text += ' ' + std::string{name_of(piece.key)};
        if (piece.phase != TextPhase::typed) text += ' ' + std::string{name_of(piece.phase)};
        text += ' ' + std::string{piece.text};
        if (piece.caret != 0) text += '@' + std::to_string(piece.caret);
    }
    if (const Composition it = reading.composition(); it.is_open)
        text += " [" + std::string{it.text} + '@' + std::to_string(it.caret) + ']';
    return text;
}

struct Desk {
    explicit Desk(const TimelineOptions& options = {}) : timeline{options} {}
    std::string cut(std::int64_t time) { return shown(sampler.advance(at(time)).text()); }
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};
};

TEST(Text, StandsInTheFrameInWhichItWasTyped) {
    Desk desk;
    EXPECT_EQ(desk.inlet.typed("a", KeyA, at(10)), Outcome::taken);
    desk.inlet.typed("é", KeyE, at(20));
    desk.inlet.typed("l\nong", {}, at(21));
    EXPECT_EQ(desk.cut(9), "");
    EXPECT_EQ(desk.cut(10), "10 KeyA a");
    EXPECT_EQ(desk.cut(15), "");
    EXPECT_EQ(desk.cut(30), "20 KeyE é, 21 l\nong");
    EXPECT_EQ(desk.sampler.counters().taken, 3U);
    std::string field = "<";
    desk.sampler.frame().text().append_to(field);
    EXPECT_EQ(field, "<él\nong");
    EXPECT_EQ(shown(Sampler{desk.timeline, {.start = at(15)}}.advance(at(20)).text()), "20 KeyE é");
}

TEST(Text, IsRefusedIfItIsMalformedOrTooLong) {
    Desk desk;
    const std::string longest(text_capacity, 'x'), too_long(text_capacity + 1, 'x');
    for (const std::string& good : {std::string{"\t\n ~"}, std::string{"\xC2\xA0"}, std::string{"\xED\x9F\xBF"},
                                    std::string{"\xF4\x8F\xBF\xBF"}, longest})
        EXPECT_EQ(desk.inlet.typed(good, {}, at(1)), Outcome::taken) << good;
    for (const std::string& bad :
         {std::string{"\r"}, std::string{"\x7F"}, std::string{"\x1B"}, std::string{"\xC2\x85"}, std::string{"\xC0\x80"},
          std::string{"\xE0\x80\x80"}, std::string{"\xED\xA0\x80"}, std::string{"\xF4\x90\x80\x80"},
          std::string{"\xF0\x80\x80\x80"}, std::string{"\xE2\x82"}, std::string{"\x80"}, std::string{"\xFF"},
          std::string{"a\0b", 3}, too_long})
        EXPECT_EQ(desk.inlet.typed(bad, {}, at(2)), Outcome::refused_value) << bad;
    EXPECT_EQ(desk.inlet.counters().refused, 14U);
    const Frame& frame = desk.sampler.advance(at(3));
    std::string all;
    frame.text().append_to(all);
    EXPECT_EQ(all, "\t\n ~\xC2\xA0\xED\x9F\xBF\xF4\x8F\xBF\xBF" + longest);
    EXPECT_EQ(desk.inlet.typed("", {}, at(4)), Outcome::taken);
    EXPECT_EQ(desk.cut(5), "") << "nothing was entered";
}

TEST(Text, NeedsTheFocus) {
    Desk desk;
    desk.inlet.compose(TextPhase::change, "ha", 1, at(1));
    desk.inlet.lose_focus(at(2));
    EXPECT_EQ(desk.inlet.typed("a", {}, at(3)), Outcome::ignored);
    EXPECT_EQ(desk.cut(5), "1 begin ha@1, 2 cancel ") << "what was being composed is cancelled";
    desk.inlet.gain_focus({}, at(6));
    desk.inlet.typed("b", {}, at(7));
    EXPECT_EQ(desk.cut(10), "7 b");
}

// Most systems report a character without its key, directly after the key.
TEST(Text, BelongsToTheKeyBeforeIt) {
    struct Row {
        const char* what;
        void (*post)(Inlet&);
        const char* shown;
    };
    const Row rows[] = {
        {"a press", [](Inlet& it) { it.button(KeyT, true, at(1)), it.typed("t", {}, at(2)); }, "2 KeyT t"},
        {"two characters",
         [](Inlet& it) { it.button(KeyT, true, at(1)), it.typed("t", {}, at(2)), it.typed("u", {}, at(2)); },
         "2 KeyT t, 2 KeyT u"},
        {"a repeat",
         [](Inlet& it) { it.button(KeyT, true, at(1)), it.button(KeyT, true, at(9)), it.typed("t", {}, at(9)); },
         "9 KeyT t"},
        {"motion in between",
         [](Inlet& it) { it.button(KeyT, true, at(1)), it.motion(1, 1, at(2)), it.typed("t", {}, at(2)); }, "2 KeyT t"},
        {"a release in between",
         [](Inlet& it) { it.button(KeyT, true, at(1)), it.button(KeyT, false, at(2)), it.typed("t", {}, at(2)); },
         "2 t"},
        {"a Shift key", [](Inlet& it) { it.button(ShiftLeft, true, at(1)), it.typed("t", {}, at(2)); },
         "2 ShiftLeft t"},
        {"a mouse button", [](Inlet& it) { it.button(MouseLeft, true, at(1)), it.typed("t", {}, at(2)); }, "2 t"},
        {"long before", [](Inlet& it) { it.button(KeyT, true, at(1)), it.typed("t", {}, at(50'000'002)); },
         "50000002 t"},
        {"another key was named", [](Inlet& it) { it.button(KeyT, true, at(1)), it.typed("t", KeyU, at(2)); },
         "2 KeyU t"},
        {"nothing before", [](Inlet& it) { it.typed("t", {}, at(2)); }, "2 t"},
    };
    for (const Row& row : rows) {
        Desk desk;
        row.post(desk.inlet);
        EXPECT_EQ(desk.cut(60'000'000), row.shown) << row.what;
    }
}

TEST(Text, IsComposedInSteps) {
    Desk desk;
    desk.inlet.compose(TextPhase::begin, "", 0, at(1));
    EXPECT_EQ(desk.cut(2), "1 begin  [@0]");
    desk.inlet.compose(TextPhase::change, "ni", 2, at(3));
    desk.inlet.typed("!", {}, at(3));
    desk.inlet.compose(TextPhase::change, "nih", 9, at(4));
    EXPECT_EQ(desk.cut(5), "3 change ni@2, 3 !, 4 change nih@3 [nih@3]") << "the caret stays within the text";
    EXPECT_EQ(desk.cut(6), " [nih@3]") << "in a frame without text, too";
    desk.inlet.compose(TextPhase::commit, "日本", 0, at(7));
    EXPECT_EQ(desk.cut(8), "7 commit 日本");
    desk.inlet.compose(TextPhase::commit, "x", 0, at(9));
    EXPECT_EQ(desk.inlet.compose(TextPhase::cancel, "", 0, at(9)), Outcome::taken);
    EXPECT_EQ(desk.cut(10), "9 x") << "what never began was typed, and what did not begin cannot be cancelled";
    const std::string longest(text_capacity, 'y');
    desk.inlet.compose(TextPhase::change, longest, 250, at(11));
    EXPECT_EQ(desk.cut(12), "11 begin " + longest + "@250 [" + longest + "@250]");
    desk.inlet.compose(TextPhase::cancel, "left over", 0, at(13));
    EXPECT_EQ(desk.cut(14), "13 cancel ");
}

TEST(Text, OfADeviceGoesWithIt) {
    Desk desk;
    const DeviceId far{9};
    Event event = Event::composed(at(2), TextPhase::change, "x");
    event.device = far;
    EXPECT_EQ(desk.inlet.post(event), Outcome::stray_device);
    desk.inlet.connect(far, {.kind = DeviceKind::keyboard}, at(3));
    event.time = at(4);
    EXPECT_EQ(desk.inlet.post(event), Outcome::taken);
    desk.inlet.disconnect(desk_keyboard, at(5));
    const Frame& frame = desk.sampler.advance(at(6));
    EXPECT_EQ(shown(frame.text()), "4 begin x [x@0]") << "the other keyboard composes nothing";
    EXPECT_EQ((*frame.text().begin()).device, far);
    desk.inlet.disconnect(far, at(7));
    EXPECT_EQ(desk.cut(8), "7 cancel ");
}

TEST(Text, OfAPauseIsNotInAnyFrame) {
    Desk desk;
    desk.inlet.typed("a", {}, at(10));
    desk.inlet.typed("b", {}, at(25));
    desk.inlet.compose(TextPhase::change, "c", 1, at(30));
    desk.inlet.typed("d", {}, at(55));
    Tick tick;
    tick.gap_from = at(20), tick.begin = at(50), tick.end = at(60), tick.gap = Tick::Gap::paused;
    const Frame& frame = desk.sampler.advance(tick);
    EXPECT_EQ(shown(frame.text()), "50 a, 55 d [c@1]");
    EXPECT_EQ(desk.cut(70), " [c@1]");
}

TEST(Text, IsLostToASamplerThatFallsBehind) {
    Desk desk{{.text_history = 64}};
    desk.inlet.compose(TextPhase::change, "c", 1, at(1));
    desk.cut(2);
    for (int i = 0; i < 100; ++i) desk.inlet.typed("x", {}, at(3 + i));
    EXPECT_EQ(desk.cut(200), "") << "and nothing is known of the composition";
    EXPECT_EQ(desk.sampler.counters().overruns, 1U);
    desk.inlet.typed("y", {}, at(201));
    EXPECT_EQ(desk.cut(210), "201 y");
}

TEST(Text, IsSavedAndPeekedAt) {
    Desk desk;
    desk.inlet.compose(TextPhase::change, "ni", 1, at(1));
    desk.cut(2);
    const Sampler::State saved = desk.sampler.save();
    desk.inlet.compose(TextPhase::commit, "N", 0, at(3));
    desk.inlet.typed("x", {}, at(4));
    EXPECT_EQ(shown(desk.sampler.peek(at(3)).text()), "3 commit N");
    EXPECT_EQ(desk.cut(5), "3 commit N, 4 x");
    ASSERT_TRUE(desk.sampler.restore(saved));
    EXPECT_EQ(shown(desk.sampler.frame().text()), " [ni@1]");
    EXPECT_EQ(desk.cut(5), "3 commit N, 4 x");
}

// The plain implementation: a list for each inlet, and what each says of a frame.
TEST(Text, RandomTypingAgreesWithAPlainList) {
    const char* const given = std::getenv("CURSORUM_TEST_SEED");
    const unsigned first = given ? static_cast<unsigned>(std::atoi(given)) : 1, seeds = given ? 1 : 400;
    for (unsigned seed = first; seed < first + seeds; ++seed) {
        std::mt19937 random{seed};
        const auto below = [&](unsigned n) { return static_cast<unsigned>(random() % n); };
        const unsigned inlets = 1 + below(3);
        Timeline timeline{{.inlets = inlets}};
        Sampler sampler{timeline, {.start = at(0)}};
        struct Typed {
            std::int64_t time;
            unsigned inlet;
            std::string text;
        };
        std::vector<Typed> all;
        std::int64_t now = 1, cut = 0;
        std::unique_ptr<Sampler::State> saved;
        std::int64_t saved_cut = 0;
        for (int step = 0; step < 120; ++step) {
            const unsigned inlet = below(inlets);
            now += below(3);
            switch (below(6)) {
                case 0:
                case 1:
                case 2: {
                    std::string text;
                    for (unsigned i = 0, size = below(8) == 0 ? below(text_capacity) : 1 + below(3); i < size; ++i)
                        text += static_cast<char>('a' + below(26));
                    if (text.empty()) break;
                    timeline.inlet(inlet).typed(text, KeyA, at(now));
                    all.push_back({now, inlet, text});
                    break;
                }
                case 3: timeline.inlet(inlet).motion(1, 0, at(now)); break;
                case 4:
                    if (below(4) == 0) saved = std::make_unique<Sampler::State>(sampler.save()), saved_cut = cut;
                    if (saved && below(4) == 0) sampler.restore(*saved), cut = saved_cut;
                    break;
                default: {
                    std::int64_t begin = cut, end = now - 1;
                    if (end < cut) break;
                    const bool pauses = below(5) == 0 && end > cut + 2;
                    const std::int64_t from = pauses ? cut + 1 : cut;
                    if (pauses) begin = from + 1 + below(static_cast<unsigned>(end - from));
                    Tick tick;
                    tick.gap_from = at(from), tick.begin = at(begin), tick.end = at(end);
                    if (pauses) tick.gap = Tick::Gap::paused;
                    const Frame& frame = pauses ? sampler.advance(tick) : sampler.advance(at(end));
                    std::vector<Typed> expected;
                    for (const Typed& it : all)
                        if (it.time > cut && it.time <= end && !(pauses && it.time >= from && it.time < begin))
                            expected.push_back({std::max(it.time, begin), it.inlet, it.text});
                    std::stable_sort(expected.begin(), expected.end(), [](const Typed& a, const Typed& b) {
                        return std::pair{a.time, a.inlet} < std::pair{b.time, b.inlet};
                    });
                    std::string wanted;
                    for (const Typed& it : expected)
                        wanted += (wanted.empty() ? "" : ", ") + std::to_string(it.time) + " KeyA " + it.text;
                    ASSERT_EQ(shown(frame.text()), wanted) << "CURSORUM_TEST_SEED=" << seed << " step " << step;
                    cut = end;
                }
            }
        }
    }
}

}  // namespace
