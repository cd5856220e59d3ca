#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

#include <gtest/gtest.h>

#include <sstream>

#include "cursorum/core/controls.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace {

using namespace cursorum;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

TEST(RecordingWriter, WritesTheFormatToTheLetter) {
    std::ostringstream out;
    RecordingWriter writer{out, at(100)};
    writer.header("a \"title\"");
    writer.take(Event::connect(at(100), DeviceId{1}, {.name = "desk", .marks_repeats = true}));
    writer.take(Event::button(at(350), DeviceId{1}, controls::KeyW, true));
    writer.take(Event::button(at(360), DeviceId{1}, controls::KeyW, true, true));
    writer.take(Event::state(at(370), DeviceId{1}, {controls::ShiftLeft, controls::KeyA}, true));
    writer.take(Event::focus(at(380), false));
    writer.take(Event::interrupt(at(50)));
    writer.take(Event::disconnect(at(390), DeviceId{1}));
    writer.frame(at(400));
    writer.note(at(400), "é");
    Event motion = Event::of(at(410), EventType::motion, DeviceId{2});
    motion.has_motion = motion.has_position = true;
    motion.dx = 0.1, motion.x = 410.5, motion.y = 1e21;
    writer.take(motion);
    writer.take(Event::shaped(at(420), DeviceId{3}, {}));
    DeviceShaping shaping{.thresholds = {.press = 0.6, .release = 0.4}};
    shaping.sticks[1] = {.x = {0.1, -0.9, 1}, .response = {.dead_zone = 0.12}};
    shaping.pulls[0].range.centre = 0.05;
    writer.take(Event::shaped(at(430), DeviceId{3}, shaping));
    EXPECT_EQ(out.str(), R"({"type":"recording","format":"cursorum","version":1,"title":"a \"title\""}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"desk","marks_repeats":true}
{"t":250,"type":"button","device":1,"control":"KeyW","down":true}
{"t":260,"type":"button","device":1,"control":"KeyW","down":true,"system_repeat":true}
{"t":270,"type":"state","device":1,"down":["KeyA","ShiftLeft"],"adopt":true}
{"t":280,"type":"focus","focused":false}
{"t":0,"type":"interrupt"}
{"t":290,"type":"disconnect","device":1}
{"t":300,"type":"frame"}
{"t":300,"type":"note","text":"é"}
{"t":310,"type":"motion","device":2,"dx":0.1,"dy":0,"x":410.5,"y":1e+21}
{"t":320,"type":"shaping","device":3}
{"t":330,"type":"shaping","device":3,"sticks":{"PadStickRight":{"x":{"centre":0.1,"least":-0.9},"dead_zone":0.12,"outer_zone":0}},"pulls":{"PadPullLeft":{"centre":0.05}},"press":0.6}
)");
    EXPECT_EQ(writer.events(), 10U);
}

TEST(RecordingWriter, WhatItWritesIsReadBackTheSame) {
    std::ostringstream out;
    RecordingWriter writer{out};
    writer.header("");
    std::vector<Event> events{
        Event::connect(at(5), DeviceId{9},
                       {.kind = DeviceKind::gamepad, .name = "bad \xff name", .background = true, .is_virtual = true}),
        Event::button(at(6), DeviceId{9}, controls::PadSouth, false)};
    Event locks = Event::of(at(7), EventType::locks, {}), text = Event::of(at(7), EventType::text, {});
    text.text = "line\nfeed";
    Event wheel = Event::of(at(8), EventType::wheel, DeviceId{9}),
          axis = Event::of(at(9), EventType::axis, DeviceId{9});
    wheel.dy = -1.5;
    axis.text = "PadPullLeft", axis.value = 0.25;
    DeviceShaping shaping{.thresholds = {.press = 0.75, .release = 0.25}};
    shaping.sticks[0] = {.x = {0.1, -0.5, 0.9}, .y = {-0.1, -1, 0.5}, .response = {0.2, 0.1, 0.3}};
    shaping.sticks[1].zone = StickShaping::Zone::axial;
    shaping.sticks[1].directions = StickDirections::eight;
    shaping.pulls = {PullShaping{{0.1, 0, 0.9}, {0.05, 0.02, 1}}, PullShaping{}};
    events.insert(events.end(), {locks, text, wheel, axis, Event::shaped(at(10), DeviceId{9}, shaping)});
    for (const Event& event : events) writer.take(event);
    std::istringstream in{out.str()};
    RecordingReader reader{in, "written"};
    RecordingLine line;
    for (const Event& event : events) {
        ASSERT_TRUE(reader.read(line)) << reader.error()->message();
        EXPECT_EQ(line.event.type, event.type);
        EXPECT_EQ(line.time, at(nanoseconds(event.time) - 5));  // the first event begins the recording
        EXPECT_EQ(line.event.control, event.control);
        EXPECT_EQ(line.event.dy, event.dy);
        EXPECT_EQ(line.event.value, event.value);
        EXPECT_EQ(line.event.shaping, event.shaping);
        EXPECT_EQ(line.event.info.background, event.info.background);
        if (event.type == EventType::text) {
            EXPECT_EQ(line.event.text, event.text);
        }
    }
    EXPECT_FALSE(reader.read(line));
}

/// Whether the line is refused, behind a header.
bool is_refused(const std::string& line) {
    std::istringstream file{"{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n" + line + "\n"};
    RecordingReader reader{file, "r"};
    RecordingLine read;
    return !reader.read(read) && reader.error();
}

TEST(RecordingWriter, WritesTicksAndCheckpoints) {
    std::ostringstream out;
    RecordingWriter writer{out, at(100)};
    writer.header("");
    const RecordedCheckpoint checkpoint{
        .holds = {{DeviceId{1}, controls::KeyW, at(40), true}, {{}, axis_button(controls::PadStickLeftX), at(120)}},
        .reader = "west",
        .facts = {{.name = "modes", .text = "crane"},
                  {.name = "since/crane.lock", .number = -60, .real = -60},
                  {.name = "x/crane.lift", .number = 0, .real = 0.25}}};
    writer.checkpoint(at(110), checkpoint);
    writer.frame(Tick{at(110), at(110), at(120)});
    writer.frame(Tick{at(120), at(150), at(160), Tick::Gap::paused, 0.5});
    writer.frame(Tick{at(160), at(170), at(180), Tick::Gap::stalled});
    EXPECT_EQ(out.str().substr(out.str().find('\n') + 1),
              R"({"t":10,"type":"checkpoint","holds":[{"device":1,"control":"KeyW","since":-60,"adopted":true},)"
              R"({"device":0,"control":"PadStickLeftRight","since":20}],"reader":"west",)"
              R"("facts":{"modes":"crane","since/crane.lock":-60,"x/crane.lift":0.25}}
{"t":20,"type":"frame","begin":10}
{"t":60,"type":"frame","from":20,"gap":"paused","begin":50,"step":0.5}
{"t":80,"type":"frame","from":60,"gap":"stalled","begin":70}
)");
    std::istringstream in{out.str()};
    RecordingReader reader{in, "r"};
    RecordingLine line;
    ASSERT_TRUE(reader.read(line));
    ASSERT_TRUE(line.checkpoint);
    EXPECT_EQ(line.checkpoint->holds, (std::vector<HoldBeginning>{{DeviceId{1}, controls::KeyW, at(-60), true},
                                                                  {{}, axis_button(controls::PadStickLeftX), at(20)}}));
    EXPECT_EQ(line.checkpoint->facts, checkpoint.facts);
    for (const Tick& tick : {Tick{at(10), at(10), at(20)}, Tick{at(20), at(50), at(60), Tick::Gap::paused, 0.5},
                             Tick{at(60), at(70), at(80), Tick::Gap::stalled}}) {
        ASSERT_TRUE(reader.read(line)) << reader.error()->message();
        EXPECT_EQ(line.tick, tick);
    }
    for (const char* bad :
         {R"({"t":5,"type":"frame","begin":6})", R"({"t":5,"type":"frame","begin":4,"gap":"long"})",
          R"({"t":5,"type":"frame","begin":4,"gap":"paused"})",
          R"({"t":5,"type":"frame","begin":4,"gap":"paused","from":5})", R"({"t":5,"type":"checkpoint"})",
          R"({"t":5,"type":"checkpoint","holds":[3]})",
          R"({"t":5,"type":"checkpoint","holds":[{"device":1,"control":"Keyw","since":1}]})",
          R"({"t":5,"type":"checkpoint","holds":[{"device":1,"control":"KeyW","since":1.5}]})",
          R"({"t":5,"type":"checkpoint","holds":[{"device":1,"control":"PadStickLeftX","since":1}]})",
          R"({"t":5,"type":"checkpoint","holds":[],"facts":[]})",
          R"({"t":5,"type":"checkpoint","holds":[],"facts":{"x":null}})"})
        EXPECT_TRUE(is_refused(bad)) << bad;
}

TEST(RecordingWriter, WritesWhatTheGameCalled) {
    std::ostringstream out;
    RecordingWriter writer{out, at(0)};
    writer.header("");
    const RecordedCall calls[] = {
        {.mode = "list"},
        {.reader = "west", .mode = "list", .begins = false},
        {.claim = 3, .everything = true},
        {.claim = 4, .axes = true, .motion = true, .wheel = true, .buttons = {controls::KeyQ}, .device = DeviceId{7}},
        {.begins = false, .claim = 3},
        {.action = "form.edit", .area = {1, 2, 3, 4.5}, .outside = true},
        {.begins = false, .action = "form.edit"},
        {.action = "crane.lock", .takes_press = true},
    };
    for (const RecordedCall& call : calls) writer.call(at(5), call);
    EXPECT_EQ(out.str().substr(out.str().find('\n') + 1),
              R"({"t":5,"type":"mode","mode":"list","open":true}
{"t":5,"type":"mode","reader":"west","mode":"list","open":false}
{"t":5,"type":"claim","claim":3,"everything":true}
{"t":5,"type":"claim","claim":4,"axes":true,"motion":true,"wheel":true,"buttons":["KeyQ"],"device":7}
{"t":5,"type":"claim","claim":3,"end":true}
{"t":5,"type":"area","action":"form.edit","outside":true,"x":1,"y":2,"width":3,"height":4.5}
{"t":5,"type":"area","action":"form.edit","end":true}
{"t":5,"type":"taken","action":"crane.lock"}
)");
    std::istringstream in{out.str()};
    RecordingReader reader{in, "r"};
    for (const RecordedCall& call : calls) {
        RecordingLine line;
        ASSERT_TRUE(reader.read(line));
        EXPECT_EQ(line.kind, RecordingLine::kind_of(call));
        EXPECT_EQ(line.call, call);
    }
    for (const char* bad :
         {R"({"t":5,"type":"mode","mode":"list"})", R"({"t":5,"type":"claim","claim":-1})",
          R"({"t":5,"type":"claim","claim":1,"buttons":["Keyq"]})", R"({"t":5,"type":"mode","mode":3,"open":true})"})
        EXPECT_TRUE(is_refused(bad)) << bad;
}

TEST(RecordingWriter, WritesWhatAnotherLayerBelieved) {
    std::ostringstream out;
    RecordingWriter writer{out, at(0)};
    writer.header("");
    const RecordedBelief beliefs[] = {
        {.handles = {controls::KeyQ, controls::KeyW},
         .belief = {.pressed = {controls::KeyQ}, .down = {controls::KeyQ}}},
        {.belief = {.pressed = {}, .down = {}, .released = ButtonSet{controls::KeyQ}}},
        {.actions = {{"crane.lock"}, {"crane.lock"}, {}, {}}},
        {.actions = {{}, {}, {}, std::vector<std::string>{"crane.lock", "a \"b\""}}},
    };
    for (const RecordedBelief& belief : beliefs) writer.belief(at(5), belief);
    EXPECT_EQ(out.str().substr(out.str().find('\n') + 1),
              R"({"t":5,"type":"belief","handles":["KeyQ","KeyW"],"pressed":["KeyQ"],"down":["KeyQ"]}
{"t":5,"type":"belief","pressed":[],"down":[],"released":["KeyQ"]}
{"t":5,"type":"belief","pressed":[],"down":[],"actions":{"handles":["crane.lock"],"pressed":["crane.lock"],"down":[]}}
{"t":5,"type":"belief","pressed":[],"down":[],"actions":{"pressed":[],"down":[],"released":["crane.lock","a \"b\""]}}
)");
    std::istringstream in{out.str()};
    RecordingReader reader{in, "r"};
    for (const RecordedBelief& belief : beliefs) {
        RecordingLine line;
        ASSERT_TRUE(reader.read(line));
        ASSERT_EQ(line.kind, RecordingLine::Kind::belief);
        EXPECT_EQ(*line.belief, belief);
    }
    for (const char* bad :
         {R"({"t":5,"type":"belief","pressed":"KeyW"})", R"({"t":5,"type":"belief","down":["Keyw"]})",
          R"({"t":5,"type":"belief","actions":[]})", R"({"t":5,"type":"belief","actions":{"down":[3]}})"})
        EXPECT_TRUE(is_refused(bad)) << bad;
}

}  // namespace
