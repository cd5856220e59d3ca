// One row for each rule: a script, and the verdicts that it has, in the order in which they are decided.
#include <gtest/gtest.h>

#include <fstream>
#include <iterator>
#include <string>

#include "actions/action_run.hpp"
#include "actions/reader_facts.hpp"
#include "cursorum/actions/verdict.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;

/// Verdicts as text: "A:lock fired", with the time since which its rule counts where that is another one.
class Verdicts final : public VerdictSink {
public:
    explicit Verdicts(const ActionReader& reader) : reader_{reader} {}
    void take(const Verdict& verdict) override {
        text += text.empty() ? "" : ", ";
        if (verdict.button) text += std::string{name_of(verdict.button)} + ':';
        text += verdict.action == no_action ? "-" : action(verdict.action);
        text += ' ' + std::string{name_of(verdict.rule)};
        if (verdict.since != verdict.time) text += " since " + std::to_string(nanoseconds(verdict.since));
        if (verdict.mode != ModeHandle{}) text += " by " + std::string{reader_.name_of(verdict.mode)};
        if (verdict.by != no_action) text += " by " + action(verdict.by);
    }
    std::string text;

private:
    std::string action(std::uint16_t number) const {
        const std::string name = reader_.name_of(ButtonAction{number});
        return name.substr(name.find('.') + 1);
    }
    const ActionReader& reader_;
};

constexpr const char* profile = R"(
[mode.game.action.plain]
kind = "button"
bind = ["KeyA", "KeyB"]
[mode.game.action.chord]
kind = "button"
bind = ["KeyC+KeyD", "KeyE>KeyD"]
[mode.game.action.single]
kind = "button"
bind = ["KeyD"]
[mode.game.action.clean]
kind = "button"
bind = ["KeyF"]
debounce = "10ns"
[mode.game.action.seldom]
kind = "button"
bind = ["KeyG"]
min_interval = "50ns"
[mode.game.action.tap]
kind = "button"
bind = ["KeyH"]
gesture = "tap"
time = "20ns"
[mode.game.action.long]
kind = "button"
bind = ["KeyI"]
gesture = "long_press"
time = "20ns"
[mode.game.action.twice]
kind = "button"
bind = ["KeyJ"]
gesture = "double_tap"
time = "20ns"
[mode.game.action.toggle]
kind = "button"
bind = ["KeyK"]
gesture = "toggle"
[mode.game.action.walk]
kind = "axis"
bind = [{ minus = "KeyL", plus = "KeyM" }]
[mode.game.action.wheel]
kind = "button"
bind = ["WheelUp"]
[mode.game.action.menu]
kind = "button"
bind = ["KeyN"]
opens = "menu"
[mode.menu]
covers = true
[mode.menu.action.choose]
kind = "button"
bind = ["KeyA"]
)";

struct Row {
    const char *script, *verdicts;
};

TEST(Verdicts, EachRuleHasItsRow) {
    const Row rows[] = {
        {"1+A 2-A |10", "KeyA:choose mode_closed by game, KeyA:plain fired"},
        {"1+A 2+B |10", "KeyA:choose mode_closed by game, KeyA:plain fired, KeyB:plain already_down"},
        {"1+Z |10", "KeyZ:- unbound"},
        {"open:menu |10 11+A 12+B |20",
         "KeyA:plain mode_covered by menu, KeyA:choose fired, KeyB:plain mode_covered by menu"},
        {"claim:A |10 11+A |20", "KeyA:plain taken_by_claim, KeyA:choose mode_closed"},
        {"1+N 2+A |10", "KeyN:menu fired, KeyA:plain mode_covered by menu, KeyA:choose fired"},
        {"1+A |10 open:menu |20", "KeyA:choose mode_closed by game, KeyA:plain fired, KeyA:choose adopted"},
        {"1+C 2+D |10",
         "KeyC:chord chord_incomplete, KeyD:chord chord_incomplete, KeyD:single longer_chord by chord, KeyD:chord "
         "fired"},
        {"1+D 2+E |10",
         "KeyD:chord chord_incomplete, KeyD:chord chord_incomplete, KeyD:single fired, KeyE:chord chord_out_of_order"},
        {"1+F 2-F 3+F 4-F |30", "KeyF:clean fired, KeyF:clean debounced since 1"},
        {"1+F 15-F 17+F 18-F |40", "KeyF:clean fired, KeyF:clean debounced"},
        {"1+F 15-F 17+F |40", "KeyF:clean fired, KeyF:clean fired"},
        {"1+G 2-G 30+G 31-G 60+G |70", "KeyG:seldom fired, KeyG:seldom min_interval since 1, KeyG:seldom fired"},
        {"1+H 10-H 30+H 60-H |70", "KeyH:tap fired, KeyH:tap too_long"},
        {"1+I 10-I 30+I 60-I |70", "KeyI:long too_short, KeyI:long fired"},
        {"1+J 2-J 10+J 12-J |70", "KeyJ:twice first_of_two, KeyJ:twice fired"},
        {"1+J 2-J 40+J 42-J |70", "KeyJ:twice too_late"},
        {"1+H 2+I 10-I 12-H |50", "KeyI:long too_short, KeyH:tap fired"},
        {"1+A 2+N |10", "KeyA:choose mode_closed by game, KeyA:plain fired, KeyN:menu fired, KeyA:choose adopted"},
        {"1+K 2-K 3+K |10", "KeyK:toggle fired, KeyK:toggle toggled_off"},
        {"1+L 2+M |10", "KeyL:walk fired, KeyM:walk fired"},
        {"1+H 2int |10", "KeyH:tap cancelled"},
        {"1+H |10 close:game |20", "KeyH:tap cancelled"},
        {"1+H |10 |10!20!30", "KeyH:tap paused, KeyH:tap adopted"},
        {"1+H 5ado1:A |10", "KeyH:tap cancelled, KeyA:plain adopted"},
    };
    for (const Row& row : rows) {
        test::ActionRun run{test::profile_of(profile), "plain"};
        run.reader.open({0});
        Verdicts verdicts{run.reader};
        run.reader.set_verdict_sink(&verdicts);
        run.run(row.script);
        EXPECT_EQ(verdicts.text, row.verdicts) << row.script;
    }
}

// For an action, the same button of two pads is one button; the verdict names the pad that was pressed. A button that a
// mode hands over comes from no pad.
TEST(Verdicts, NameTheDevice) {
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    const DeviceId one{11}, other{12};
    inlet.connect(one, {.kind = DeviceKind::gamepad}, Time{Duration{1}});
    inlet.connect(other, {.kind = DeviceKind::gamepad}, Time{Duration{1}});
    Sampler sampler{timeline, {.start = Time{Duration{2}}}};
    const Profile shared = test::profile_of(R"(
[mode.game.action.lock]
kind = "button"
bind = ["PadSouth"]
[mode.menu.action.choose]
kind = "button"
bind = ["PadSouth"]
[mode.menu]
covers = true
)");
    ActionReader reader{shared};
    reader.open(*shared.find_mode("game"));
    VerdictList verdicts;
    reader.set_verdict_sink(&verdicts);
    inlet.button(other, controls::PadSouth, true, Time{Duration{3}});
    inlet.button(one, controls::PadSouth, true, Time{Duration{4}});
    reader.read(sampler.advance(Time{Duration{5}}));
    ASSERT_EQ(verdicts.all.size(), 2U);  // one for each of the two bindings, of the merged button
    for (const Verdict& it : verdicts.all) EXPECT_EQ(it.device, other) << name_of(it.rule);
    reader.open(*shared.find_mode("menu"));
    verdicts.all.clear();
    reader.read(sampler.advance(Time{Duration{6}}));
    ASSERT_EQ(verdicts.all.size(), 1U);
    EXPECT_EQ(verdicts.all[0].rule, Rule::adopted);
    EXPECT_EQ(verdicts.all[0].device, DeviceId{});
}

// Two pads of two seats, and a claim on one of them; and a reader that goes on from another one's facts.
TEST(Verdicts, OfASeat) {
    const auto at = [](std::int64_t time) { return Time{Duration{time}}; };
    const Profile shared =
        test::profile_of("[mode.game.action.lock]\nkind = \"button\"\nbind = [\"PadSouth\", \"PadEast\"]\n");
    const DeviceId own{11}, other{12}, spare{13};
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    for (const DeviceId pad : {own, other, spare}) inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(1));
    Sampler sampler{timeline, {.start = at(2)}};
    Seats seats{2};
    seats.give(own, 0), seats.give(other, 1), seats.give(spare, 0);
    ActionReader reader{shared}, resumed{shared};
    reader.open(*shared.find_mode("game"));
    VerdictList verdicts;
    reader.set_verdict_sink(&verdicts);
    const auto read = [&](std::int64_t until) {
        seats.read(sampler.advance(at(until)));
        reader.read(sampler.frame(), seats, 0);
        if (until > 10) resumed.read(sampler.frame(), seats, 0);
    };
    inlet.button(other, controls::PadSouth, true, at(3));
    inlet.button(own, controls::PadEast, true, at(4));
    read(5);
    ASSERT_EQ(verdicts.all.size(), 2U);
    EXPECT_EQ(verdicts.all[0].rule, Rule::other_seat);
    EXPECT_EQ(verdicts.all[0].device, other);
    EXPECT_EQ(verdicts.all[1].rule, Rule::fired);
    EXPECT_EQ(verdicts.all[1].device, own);
    const auto claim = reader.claim({.device = own});
    inlet.button(own, controls::PadSouth, true, at(7));
    verdicts.all.clear();
    read(8);
    ASSERT_EQ(verdicts.all.size(), 1U);
    EXPECT_EQ(verdicts.all[0].rule, Rule::taken_by_claim);
    reader.end_claim(*claim);
    inlet.button(own, controls::PadSouth, false, at(9));
    inlet.button(own, controls::PadEast, false, at(9));
    inlet.button(own, controls::PadEast, true, at(10));
    read(10);
    resumed.read(sampler.frame());
    detail::ReaderAccess::set_facts(resumed, detail::ReaderAccess::facts_of(reader, reader.save()), at(10));
    inlet.button(spare, controls::PadEast, true, at(11));
    inlet.button(spare, controls::PadEast, false, at(12));
    inlet.button(own, controls::PadEast, false, at(13));
    read(14);
    const ButtonAction lock = *shared.find_button("lock");
    for (const ActionReader* it : {&reader, &resumed}) {
        EXPECT_EQ((*it)[lock].figures().release_count(), 1U);
        EXPECT_EQ((*it)[lock].figures().press_count(), 0U) << "it was pressed, not found down, and is down already";
    }
}

// A press that waits in a buffer is decided once: when it is taken, or when it no longer can be.
TEST(Verdicts, OfABuffer) {
    constexpr const char* buffered = R"(
[mode.game.action.plain]
kind = "button"
bind = ["KeyA"]
buffer = "30ns"
[mode.game.action.tap]
kind = "button"
bind = ["KeyH"]
gesture = "tap"
time = "20ns"
buffer = "30ns"
)";
    const Row rows[] = {
        {"1+A |10", ""},
        {"1+A |10 take |20", "KeyA:plain taken_from_buffer"},
        {"1+A |10 |20 |32 take |40", "KeyA:plain taken_from_buffer"},  // from the frame that begins at 20 on
        {"1+A |10 |20 |40 |50", "KeyA:plain buffer_expired"},
        {"1+A 2-A 3+A |10", "KeyA:plain buffer_expired"},
        {"1+A 2-A 3+A |10 take", "KeyA:plain buffer_expired, KeyA:plain taken_from_buffer"},
        {"1+A |10 |10!20!30", "KeyA:plain buffer_expired, KeyA:plain adopted"},
        {"1+A |10 close:game |20", "KeyA:plain buffer_expired"},
        {"1+H 10-H |20", ""},
        {"1+H 10-H |20 30+H 35-H |40", "KeyH:tap buffer_expired"},
        {"1+H 60-H |70", "KeyH:tap too_long"},
    };
    for (const Row& row : rows) {
        test::ActionRun run{test::profile_of(buffered), "plain"};
        run.reader.open({0});
        Verdicts verdicts{run.reader};
        run.reader.set_verdict_sink(&verdicts);
        std::string script{row.script};
        for (std::size_t take; (take = script.find("take")) != std::string::npos; script.erase(0, take + 4)) {
            run.run(script.substr(0, take));
            const std::uint64_t calls = detail::ReaderAccess::call_count(run.reader);
            EXPECT_TRUE(run.reader.consume_press({0})) << row.script;
            EXPECT_FALSE(run.reader.consume_press({0})) << row.script;
            EXPECT_EQ(detail::ReaderAccess::call_count(run.reader), calls + 1) << "only what was taken is a call";
        }
        run.run(script);
        EXPECT_EQ(verdicts.text, row.verdicts) << row.script;
    }
}

TEST(Verdicts, TheManualListsEachRuleInOrder) {
    std::ifstream file{CURSORUM_SOURCE_DIR "/docs/rules.md"};
    std::string line;
    while (std::getline(file, line) && line != "### Rules of verdicts") {
    }
    for (unsigned i = 0; i < rule_count; ++i) {
        std::string row{"| `"};
        row.append(name_of(static_cast<Rule>(i))).append("` |");
        while (std::getline(file, line) && !line.starts_with(row)) {
        }
        EXPECT_TRUE(file) << row;
    }
}

TEST(Verdicts, WhatWasDownWhenItWasBoundHasToComeUp) {
    test::ActionRun run{test::profile_of("[mode.game.action.it]\nkind = \"button\"\nbind = [\"KeyX\"]\n"), "it"};
    run.reader.open({0});
    run.run("1+Z |10");
    ASSERT_TRUE(
        run.reader.rebind(test::profile_of("[mode.game.action.it]\nkind = \"button\"\nbind = [\"KeyZ+KeyY\"]\n")));
    run.run("|20");
    Verdicts verdicts{run.reader};
    run.reader.set_verdict_sink(&verdicts);
    run.run("21+Y |30");
    EXPECT_EQ(verdicts.text, "KeyY:it not_up_since_bound");
}

}  // namespace
