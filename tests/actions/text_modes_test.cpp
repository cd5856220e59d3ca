// Text fields: which mode gets what is typed, from the very press that opens it to the one that leaves it; and areas,
// where clicks count.

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "actions/action_run.hpp"
#include "cursorum/actions/verdict.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr std::int64_t ms = 1'000'000;
Time at(std::int64_t time) { return Time{Duration{time}}; }

constexpr const char* quay = R"(
[mode.crane.action.horn]
kind = "button"
bind = ["KeyH"]
[mode.crane.action.label]
kind = "button"
bind = ["KeyT"]
opens = "naming"
[mode.crane.action.click_label]
kind = "button"
bind = ["MouseLeft"]
opens = "naming"
[mode.crane.action.drive]
kind = "axis"
bind = [{ minus = "KeyA", plus = "KeyD" }, { axis = "PadStickLeftX" }]
[mode.naming]
text = true
[mode.naming.action.erase]
kind = "button"
bind = ["Backspace"]
repeat = { cap = 0 }
[mode.naming.action.done]
kind = "button"
bind = ["Escape", "Enter"]
closes = true
[mode.naming.action.elsewhere]
kind = "button"
bind = ["MouseLeft"]
closes = true
)";

/// A keyboard and a mouse whose characters come as most systems report them, and a game with a field for a label.
struct Quay {
    explicit Quay(const char* text = quay) : profile{test::profile_of(text)} {
        reader.open(*profile.find_mode("crane"));
        timeline.desk().moved_to(WindowPoint{10, 10}, at(1));
    }
    void set_areas() {
        const WindowRect field{100, 100, 80, 20};
        EXPECT_TRUE(reader.set_area(*profile.find_button("click_label"), ClickArea{field}));
        EXPECT_TRUE(reader.set_area(*profile.find_button("elsewhere"), ClickArea{field, true}));
    }
    void key(Button key, std::int64_t time, const char* character, bool names_key = false) {
        timeline.desk().button(key, true, at(time));
        if (character) timeline.desk().typed(character, names_key ? key : Button{}, at(time + 1000));
        timeline.desk().button(key, false, at(time + 4 * ms));
    }
    void click(WindowPoint place, std::int64_t time) {
        timeline.desk().moved_to(place, at(time - 1));
        timeline.desk().button(MouseLeft, true, at(time));
        timeline.desk().button(MouseLeft, false, at(time + 4 * ms));
    }
    void frame(std::int64_t end) {
        reader.read(sampler.advance(at(end)));
        reader.text_of(naming).append_to(label);
        reader.text().append_to(others);
        horns += reader[horn].press_count();
        opened += reader[*profile.find_button("crane.label")].press_count();
    }

    Profile profile;
    Timeline timeline;
    Sampler sampler{timeline, {.start = at(0)}};
    ActionReader reader{profile};
    ModeHandle naming = *profile.find_mode("naming");
    ButtonAction horn = *profile.find_button("horn");
    std::string label, others;
    unsigned horns = 0, opened = 0;
};

// Ten frames a second, nine milliseconds a key: many keys in each frame, whichever way they are left.
TEST(TextModes, HoistIsHoistAndNoHorn) {
    for (int run = 0; run < 1000; ++run) {
        for (const int way : {0, 1}) {
            Quay game;
            game.set_areas();
            std::int64_t time = 10 * ms + run * 97'001;
            game.key(KeyT, time, "t", run % 2 != 0);
            for (const auto& [key, character] :
                 {std::pair{KeyH, "h"}, {KeyO, "o"}, {KeyI, "i"}, {KeyS, "s"}, {KeyT, "t"}})
                game.key(key, time += 9 * ms, character, run % 2 != 0);
            way == 0 ? game.key(Escape, time += 9 * ms, nullptr) : game.click({300, 300}, time += 9 * ms);
            game.key(KeyH, time += 9 * ms, "h", run % 2 != 0);
            for (std::int64_t end = 100 * ms; end < time + 200 * ms; end += 100 * ms) game.frame(end);
            ASSERT_EQ(game.label, "hoist") << run << " " << way;
            ASSERT_EQ(game.horns, 1U) << run << " " << way;
            ASSERT_EQ(game.opened, 1U) << run << " " << way;
            ASSERT_EQ(game.others, "th") << "the presses that opened it, and that came after it";
        }
    }
}

// Typed, erased and typed again within one frame; held Backspace erases by our own repeats.
TEST(TextModes, ErasingIsInOrder) {
    for (const std::int64_t length : {1, 16, 100, 2000}) {
        Quay game;
        game.key(KeyT, 10 * ms, "t");
        for (int i = 0; i < 3; ++i) game.key(KeyH, (20 + 9 * i) * ms, "h");
        game.key(Backspace, 60 * ms, nullptr);
        game.key(KeyO, 70 * ms, "o", true);
        for (int i = 0; i < 9; ++i) game.key(KeyS, (80 + 9 * i) * ms, "s");
        game.timeline.desk().button(Backspace, true, at(500 * ms));  // at 500, 900, 950, 1000, 1050
        game.timeline.desk().button(Backspace, false, at(1099 * ms));
        game.key(KeyT, 1200 * ms, "t");
        game.key(Enter, 1300 * ms, nullptr);
        std::string label;
        for (std::int64_t end = length; end <= 2000; end += length) {
            game.frame(end * ms);
            for (const TypingStep& step : game.reader.typing(game.naming)) {
                if (step.action == *game.profile.find_button("erase"))
                    label.pop_back();
                else
                    label += step.text;
            }
        }
        EXPECT_EQ(label, "hhosssst") << length;
    }
}

TEST(TextModes, AClickOpensAndStaysWithinTheField) {
    Quay game;
    game.set_areas();
    game.click({99, 110}, 10 * ms);
    game.key(KeyH, 20 * ms, "h");
    game.click({100, 119}, 30 * ms);
    game.key(KeyH, 40 * ms, "h");
    game.click({179, 100}, 50 * ms);
    game.key(KeyO, 60 * ms, "o");
    game.click({180, 110}, 70 * ms);
    game.key(KeyH, 80 * ms, "h");
    game.frame(100 * ms);
    EXPECT_EQ(game.label, "ho");
    EXPECT_EQ(game.horns, 2U);
    // Everywhere again.
    EXPECT_TRUE(game.reader.set_area(*game.profile.find_button("click_label"), std::nullopt));
    game.click({5, 5}, 110 * ms);
    game.key(KeyS, 120 * ms, "s");
    game.frame(200 * ms);
    EXPECT_EQ(game.label, "hos");
}

TEST(TextModes, TheOpeningKeysRepeatsAreNotTheFields) {
    Quay game;
    Inlet& desk = game.timeline.desk();
    desk.button(KeyT, true, at(10 * ms));
    desk.typed("t", {}, at(10 * ms));
    game.frame(20 * ms);
    for (std::int64_t time = 30 * ms; time < 60 * ms; time += 10 * ms) {
        desk.button(KeyT, true, at(time));
        desk.typed("t", {}, at(time));
    }
    desk.button(KeyO, true, at(70 * ms));
    desk.typed("o", {}, at(70 * ms));
    desk.button(KeyO, true, at(75 * ms));
    desk.typed("o", {}, at(75 * ms));
    game.frame(100 * ms);
    EXPECT_EQ(game.label, "oo") << "a key that was pressed in the field repeats in it";
    EXPECT_EQ(game.others, "tttt");
}

TEST(TextModes, KeysAreTheFieldsAndAllElseIsNot) {
    Quay game;
    game.timeline.desk().connect(DeviceId{9}, {.kind = DeviceKind::gamepad}, at(1));
    game.key(KeyT, 10 * ms, "t");
    game.timeline.desk().button(KeyA, true, at(20 * ms));
    game.timeline.desk().axis(DeviceId{9}, PadStickLeftX, 1, at(20 * ms));
    game.frame(30 * ms);
    EXPECT_EQ(game.reader[*game.profile.find_axis("drive")].value, 1) << "the stick's, and not the key's";
    EXPECT_EQ(game.reader.owner_of(KeyQ).mode, game.naming);
    EXPECT_EQ(game.reader.owner_of(PadSouth).kind, ButtonOwner::Kind::unbound);
}

TEST(TextModes, CompositionsGoToTheField) {
    Quay game;
    Inlet& desk = game.timeline.desk();
    game.key(KeyT, 10 * ms, "t");
    desk.compose(TextPhase::begin, "n", 1, at(80 * ms));
    desk.compose(TextPhase::change, "ni", 2, at(90 * ms));
    game.frame(100 * ms);
    EXPECT_EQ(game.reader.text_of(game.naming).composition().text, "ni");
    EXPECT_FALSE(game.reader.text().composition().is_open);
    desk.compose(TextPhase::commit, "日", 0, at(110 * ms));
    game.frame(120 * ms);
    EXPECT_EQ(game.label, "日");
    EXPECT_FALSE(game.reader.text_of(game.naming).composition().is_open);
}

TEST(TextModes, AClaimOfEverythingGetsText) {
    Quay game{
        "[mode.crane.action.horn]\nkind = \"button\"\nbind = [\"KeyH\"]\n[mode.naming]\n[mode.naming.action.x]\n"
        "kind = \"button\"\nbind = []\n[mode.crane.action.label]\nkind = \"button\"\nbind = []\n"};
    game.key(KeyH, 10 * ms, "h");
    const ClaimId claim = game.reader.claim({.everything = true}).value();
    game.frame(30 * ms);
    EXPECT_EQ(game.others, "") << "the claim holds from this frame's start";
    std::string claimed;
    game.reader.text_of(claim).append_to(claimed);
    game.key(KeyO, 40 * ms, "o", true);
    game.frame(60 * ms);
    game.reader.text_of(claim).append_to(claimed);
    EXPECT_EQ(claimed, "ho");
    EXPECT_EQ(game.horns, 0U);
    EXPECT_TRUE(game.reader.text_of(ClaimId{7}).empty());
    EXPECT_TRUE(game.reader.text_of(ModeHandle{99}).empty());
}

TEST(TextModes, AVerdictSaysThatAClickWasElsewhere) {
    Quay game;
    game.set_areas();
    VerdictList verdicts;
    game.reader.set_verdict_sink(&verdicts);
    game.click({10, 10}, 10 * ms);
    game.frame(20 * ms);
    ASSERT_EQ(verdicts.all.size(), 2U);
    EXPECT_EQ(verdicts.all[0].rule, Rule::mode_closed);
    EXPECT_EQ(verdicts.all[1].rule, Rule::elsewhere);
}

// What is found down is not asked where it was pressed.
TEST(TextModes, AnAdoptHasNoPlace) {
    Quay game;
    EXPECT_TRUE(game.reader.set_area(*game.profile.find_button("elsewhere"), ClickArea{{100, 100, 80, 20}}));
    game.timeline.desk().button(MouseLeft, true, at(10 * ms));
    game.frame(20 * ms);
    EXPECT_TRUE(game.reader.is_open(game.naming)) << "a click anywhere opens it";
    game.reader.close(*game.profile.find_mode("crane"));
    game.frame(30 * ms);
    EXPECT_TRUE(game.reader[*game.profile.find_button("elsewhere")].down()) << "it is naming's now, as it is down";
    EXPECT_EQ(game.reader[*game.profile.find_button("elsewhere")].press_count(), 0U);
}

// The press that completes a chord has a place; the one that was there before it does not matter.
TEST(TextModes, InAChordThePressThatCompletesItHasThePlace) {
    Quay game{
        "[mode.crane.action.horn]\nkind = \"button\"\nbind = [\"MouseLeft+KeyH\"]\n[mode.naming]\n"
        "[mode.crane.action.label]\nkind = \"button\"\nbind = []\n"};
    EXPECT_TRUE(game.reader.set_area(game.horn, ClickArea{{100, 100, 80, 20}}));
    Inlet& desk = game.timeline.desk();
    desk.button(MouseLeft, true, at(10 * ms));  // at 10, 10
    desk.button(KeyH, true, at(20 * ms));
    game.frame(30 * ms);
    EXPECT_EQ(game.horns, 1U) << "a key completed it";
    desk.button(MouseLeft, false, at(40 * ms));
    desk.button(MouseLeft, true, at(50 * ms));
    game.frame(60 * ms);
    EXPECT_EQ(game.horns, 1U) << "pressed elsewhere";
    desk.button(MouseLeft, false, at(70 * ms));
    desk.moved_to(WindowPoint{110, 110}, at(80 * ms));
    desk.button(MouseLeft, true, at(90 * ms));
    game.frame(100 * ms);
    EXPECT_EQ(game.horns, 2U);
}

// An action that a rebind() adds may have an area at once.
TEST(TextModes, ANewActionMayHaveAnArea) {
    Quay game;
    Profile changed = game.profile;
    changed.modes[0].actions.push_back({.name = "pick", .bindings = {{.buttons = {MouseRight}}}});
    ASSERT_TRUE(game.reader.rebind(changed));
    const ButtonAction pick = game.reader.find_button("pick").value();
    EXPECT_TRUE(game.reader.set_area(pick, ClickArea{{0, 0, 5, 5}}));
    game.frame(10 * ms);
    game.timeline.desk().button(MouseRight, true, at(20 * ms));
    game.frame(30 * ms);
    EXPECT_FALSE(game.reader[pick].pressed()) << "it is at 10, 10";
}

// The release of a press that did not count, after the area is gone, with and without a sink for verdicts.
TEST(TextModes, TheAreaMayGoWhileTheButtonIsDown) {
    for (const bool has_sink : {false, true}) {
        Quay game;
        VerdictList verdicts;
        if (has_sink) game.reader.set_verdict_sink(&verdicts);
        const ButtonAction pick = game.profile.find_button("click_label").value();
        EXPECT_TRUE(game.reader.set_area(pick, ClickArea{{100, 100, 80, 20}}));
        game.frame(10 * ms);
        game.timeline.desk().button(MouseLeft, true, at(20 * ms));  // it is at 10, 10
        game.frame(30 * ms);
        EXPECT_FALSE(game.reader[pick].pressed());
        EXPECT_TRUE(game.reader.set_area(pick, std::nullopt));
        game.frame(35 * ms);
        game.timeline.desk().button(KeyH, true, at(36 * ms));
        game.timeline.desk().button(KeyH, false, at(37 * ms));
        game.timeline.desk().button(MouseLeft, false, at(40 * ms));
        game.frame(50 * ms);
        EXPECT_FALSE(game.reader[pick].released() || game.reader[pick].down());
        game.timeline.desk().button(MouseLeft, true, at(60 * ms));
        game.frame(70 * ms);
        EXPECT_TRUE(game.reader[pick].pressed()) << has_sink;
        game.timeline.desk().button(MouseLeft, false, at(80 * ms));
        game.frame(90 * ms);
        EXPECT_TRUE(game.reader[pick].released()) << has_sink;
    }
}

// Areas and compositions are part of a saved state.
TEST(TextModes, AreSavedAndRestored) {
    Quay game;
    game.set_areas();
    game.click({110, 110}, 10 * ms);
    game.timeline.desk().compose(TextPhase::change, "n", 1, at(20 * ms));
    game.frame(30 * ms);
    const Sampler::State sampler = game.sampler.save();
    const ActionReader::State reader = game.reader.save();
    game.click({10, 10}, 40 * ms);
    game.timeline.desk().compose(TextPhase::commit, "N", 0, at(50 * ms));
    for (int i = 0; i < 2; ++i) {
        game.label.clear(), game.others.clear();
        game.frame(60 * ms);
        EXPECT_EQ(game.label, "") << "it was left before the text was committed";
        EXPECT_EQ(game.others, "N");
        EXPECT_FALSE(game.reader.is_open(game.naming));
        ASSERT_TRUE(game.sampler.restore(sampler) && game.reader.restore(reader));
        EXPECT_EQ(game.reader.text_of(game.naming).composition().text, "n");
    }
}

TEST(TextModes, AreasHaveLimits) {
    std::string many;
    for (unsigned i = 0; i <= area_capacity; ++i)
        many += "[mode.m.action.a" + std::to_string(i) + "]\nkind = \"button\"\nbind = []\n";
    many += "[mode.m.action.axis]\nkind = \"axis\"\nbind = []\n";
    const Profile profile = test::profile_of(many);
    ActionReader reader{profile};
    const auto set = [&](unsigned i) {
        return reader.set_area(*profile.find_button("a" + std::to_string(i)), ClickArea{});
    };
    for (unsigned i = 0; i < area_capacity; ++i) EXPECT_TRUE(set(i));
    EXPECT_FALSE(set(area_capacity));
    EXPECT_TRUE(set(3)) << "it has one";
    EXPECT_TRUE(reader.set_area(*profile.find_button("a0"), std::nullopt));
    EXPECT_TRUE(set(area_capacity));
    EXPECT_FALSE(reader.set_area(ButtonAction{area_capacity + 1, profile.numbering()}, ClickArea{})) << "an axis";
    EXPECT_FALSE(reader.set_area(ButtonAction{}, ClickArea{}));
}

}  // namespace
