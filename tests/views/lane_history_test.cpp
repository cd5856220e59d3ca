// Lanes against the frames that they come from, and their pictures as data.

#include "cursorum/views/lane_history.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/random_events.hpp"
#include "cursorum/views/lane_picture.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using test::at;

/// "press 0-0 1000 lost0": what a cell says.
std::string text(const Lane::Cell& cell) {
    std::string text = std::string{name_of(cell.state)} + " " + std::to_string(cell.first) + "-" +
                       std::to_string(cell.last) + " " + std::to_string(cell.presses) + std::to_string(cell.releases) +
                       std::to_string(cell.adopts) + std::to_string(cell.cancels);
    if (cell.repeats != 0) text += " rep" + std::to_string(cell.repeats);
    if (cell.system_repeats != 0) text += " sys" + std::to_string(cell.system_repeats);
    if (cell.lost != 0) text += " lost" + std::to_string(cell.lost);
    return text + (cell.is_made_up ? " made_up" : "");
}
std::string text(const Lane::Bar& bar) {
    const auto edge = [](const std::optional<EdgeKind>& kind) { return kind ? std::string{name_of(*kind)} : "none"; };
    return std::to_string(nanoseconds(bar.from)) + ".." + std::to_string(nanoseconds(bar.to)) + " " + edge(bar.began) +
           " " + edge(bar.ended);
}

/// A script's frames as lanes: cells of the first lane, or its bars.
std::vector<std::string> lanes_of(const std::string& script, bool wants_bars, LaneSelection selection = {}) {
    test::ScriptRun run{{.start = Time{}, .repeat = {.delay = Duration{20}, .interval = Duration{5}}}};
    LaneHistory lanes{run.timeline, selection};
    std::uint64_t number = 0;
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, number++); };
    run.run(script);
    std::vector<std::string> texts;
    if (lanes.lanes().empty()) return texts;
    if (wants_bars)
        for (const Lane::Bar& bar : lanes.lanes()[0].bars) texts.push_back(text(bar));
    else
        for (const Lane::Cell& cell : lanes.lanes()[0].cells) texts.push_back(text(cell));
    return texts;
}

TEST(LaneHistory, CellsAreTheFramesStates) {
    test::check_rows(R"(
a press and its release : 3+W |10 13-W |20 : press 0-0 1000; release 1-1 0100
holds are one cell : 3+W |10 |15 |20 |22 22-W |30 : press 0-0 1000; hold 1-3 0000; release 4-4 0100
a repeat has its own : 3+W |10 |20 |24 |26 : press 0-0 1000; hold 1-1 0000; hold 2-2 0000 rep1; hold 3-3 0000
the system's, too : 3+W |10 15~W |20 |22 : press 0-0 1000; hold 1-1 0000 sys1; hold 2-2 0000
a tap is lost to levels : 3+W 4-W |10 : blip 0-0 1100 lost1
so is a second press : 3+W |10 13-W 14+W |20 : press 0-0 1000; dip 1-1 1100 lost1
one of two presses : 3+W 4-W 5+W |10 : press 0-0 2100 lost1
found down is not a press : 3ado1:W |10 : hold 0-0 0010 made_up
focus lost : 3+W |10 13foc0 |20 : press 0-0 1000; cancel 1-1 0001
)",
                     [](const std::string& script) { return lanes_of(script, false); });
}

TEST(LaneHistory, BarsAreExact) {
    test::check_rows(R"(
press to release : 3+W |10 13-W |20 : 3..13 press release
still down : 3+W |10 |20 : 3..20 press none
cancelled : 3+W |10 13foc0 |20 : 3..13 press cancel
found down : 3ado1:W |10 12-W |20 : 3..12 adopt release
two in a frame : 3+W 4-W 6+W 9-W |10 : 3..4 press release; 6..9 press release
)",
                     [](const std::string& script) { return lanes_of(script, true); });
    test::check_rows(R"(
down before the first frame : 3+W |10 |15 16-W |20 : 10..16 none release
not even that : 3+W 4-W |10 |20 : 
)",
                     [](const std::string& script) { return lanes_of(script, true, {.from = at(10)}); });
}

/// Lanes of random events, and what the frames said themselves.
struct RandomLanes {
    explicit RandomLanes(std::uint64_t seed) : lanes{timeline, {}}, random{seed} {
        test::RandomEvents events{seed};
        std::int64_t now = 0;
        for (std::uint64_t number = 0; number < 60 + random.below(200); ++number) {
            for (auto count = random.below(6); count > 0; --count) {
                const Event event = events.next();
                now = std::max(now, nanoseconds(event.time));
                RecordingLine line;
                line.kind = RecordingLine::Kind::event;
                line.time = event.time;
                line.event = event;
                lanes.note_line(line, timeline.desk().post(event));
            }
            now += 1 + static_cast<std::int64_t>(random.below(12));
            const Frame& frame = sampler.advance(at(now));
            lanes.note(frame, number);
            for (std::size_t i = 0; i < timeline.device_count(); ++i)
                frame.active().for_each([&](Button button) {
                    if (button.number >= first_of_axes) return;
                    const DeviceId device = timeline.device(i).id;
                    const ButtonFigures figures = frame.on(device)[button].figures();
                    const std::string name = key(name_of(button), device);
                    down_span[name] += figures.down_span();
                    presses[name] += figures.press_count();
                });
        }
    }
    static std::string key(std::string_view name, DeviceId device) {
        return std::string{name} + " on " + std::to_string(static_cast<unsigned>(device));
    }
    Timeline timeline{{.devices = 8, .history = 4096, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}, .repeat = {.delay = Duration{20}, .interval = Duration{5}}}};
    LaneHistory lanes;
    test::Random random;
    std::map<std::string, Duration> down_span;
    std::map<std::string, std::uint64_t> presses;
};

TEST(LaneHistory, AddsUpToTheFrames) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        const RandomLanes run{seed};
        std::map<std::string, Duration> bars;
        std::map<std::string, std::uint64_t> presses;
        for (const Lane& lane : run.lanes.lanes()) {
            // A late event takes effect at its frame's start, so bars follow each other without overlapping.
            for (std::size_t i = 0; i < lane.bars.size(); ++i) {
                bars[RandomLanes::key(lane.name, lane.device)] += lane.bars[i].to - lane.bars[i].from;
                EXPECT_LE(lane.bars[i].from, lane.bars[i].to);
                EXPECT_LE(i == 0 ? Time{} : lane.bars[i - 1].to, lane.bars[i].from);
            }
            for (std::size_t i = 0; i < lane.cells.size(); ++i) {
                presses[RandomLanes::key(lane.name, lane.device)] += lane.cells[i].presses;
                EXPECT_LT(lane.cells[i].last, run.lanes.frames().size());
                EXPECT_LE(i == 0 ? 0 : lane.cells[i - 1].last + 1, lane.cells[i].first);
            }
        }
        std::erase_if(bars, [](const auto& entry) { return entry.second == Duration{}; });
        std::erase_if(presses, [](const auto& entry) { return entry.second == 0; });
        std::map<std::string, Duration> spans = run.down_span;
        std::map<std::string, std::uint64_t> pressed = run.presses;
        std::erase_if(pressed, [](const auto& entry) { return entry.second == 0; });
        std::erase_if(spans, [](const auto& entry) { return entry.second == Duration{}; });
        EXPECT_EQ(bars, spans);
        EXPECT_EQ(presses, pressed);
        if (testing::Test::HasFailure()) return;
    }
}

TEST(LaneHistory, ForgettingLeavesWhatCameLater) {
    for (std::uint64_t seed = 1; seed <= 50; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        RandomLanes run{seed};
        const std::vector<LaneFrame> frames{run.lanes.frames().begin(), run.lanes.frames().end()};
        const std::size_t gone = frames.size() / 2;
        std::map<std::string, std::vector<std::string>> later;
        for (const Lane& lane : run.lanes.lanes())
            for (Lane::Cell cell : lane.cells) {
                if (cell.last < gone) continue;
                cell.first = std::max(cell.first, static_cast<std::uint32_t>(gone));
                later[lane.title()].push_back(text(cell));
            }
        const std::vector<LaneSpan> spans = run.lanes.spans();
        run.lanes.forget_before(frames[gone - 1].to);
        ASSERT_EQ(run.lanes.frames().size(), frames.size() - gone);
        EXPECT_EQ(run.lanes.frames().front().number, frames[gone].number);
        EXPECT_EQ(run.lanes.first_frame(), gone);
        EXPECT_EQ(run.lanes.frame(run.lanes.first_frame()).number, frames[gone].number);
        std::map<std::string, std::vector<std::string>> kept;
        for (const Lane& lane : run.lanes.lanes()) {
            for (const Lane::Cell& cell : lane.cells) kept[lane.title()].push_back(text(cell));
            for (const Lane::Bar& bar : lane.bars) EXPECT_GT(bar.to, frames[gone - 1].to);
        }
        EXPECT_EQ(kept, later);
        const auto still = [&](const LaneSpan& span) { return span.to > frames[gone - 1].to; };
        EXPECT_EQ(run.lanes.spans().size(), std::count_if(spans.begin(), spans.end(), still));
        // It goes on after that.
        run.lanes.note_focus(true, run.lanes.end());
        EXPECT_EQ(run.lanes.spans().size(), std::count_if(spans.begin(), spans.end(), still));
        // In the end, only what is down, or not at rest, still has a lane.
        run.lanes.forget_before(run.lanes.end());
        for (const Lane& lane : run.lanes.lanes())
            EXPECT_TRUE(!lane.values.empty() || (!lane.bars.empty() && !lane.bars.back().ended)) << lane.name;
        if (testing::Test::HasFailure()) return;
    }
}

TEST(LaneHistory, SticksHaveRawAndShapedValues) {
    test::ScriptRun run{{.start = Time{}}, {}};
    LaneHistory lanes{run.timeline, {}};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1axs3:LX,0.1 |10 12axs3:LX,1 14axs3:LX,0 |20 25foc0 |30");
    ASSERT_EQ(lanes.lanes().size(), 1U);
    const Lane& lane = lanes.lanes()[0];
    EXPECT_EQ(lane.name, "PadStickLeftX");
    EXPECT_EQ(lane.dead_zone, 0.15);
    std::string values;
    for (const Lane::Value& value : lane.values)
        values += std::to_string(nanoseconds(value.time)) + ":" + std::to_string(value.raw).substr(0, 3) + "," +
                  std::to_string(value.shaped).substr(0, 3) + " ";
    EXPECT_EQ(values, "0:0.0,0.0 1:0.1,0.0 12:1.0,1.0 14:0.0,0.0 ");
}

TEST(LaneHistory, SpansAreWhatKeptInputAway) {
    test::ScriptRun run{{.start = Time{}}, {}};
    LaneHistory lanes{run.timeline, {}};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1+W |10 |20 |20!50!60 62dis4 |70 75con4 |80 |90 92dis3 |100 |110 |110?150?160 |170");
    lanes.note_focus(false, at(85));
    lanes.note_focus(false, at(86));  // is known
    lanes.note_focus(true, at(95));
    RecordingLine line;
    line.kind = RecordingLine::Kind::event;
    line.time = at(97);
    line.event = Event::interrupt(at(97));
    line.event.text = "sleep";
    lanes.note_line(line, Outcome::interrupted);
    std::string spans;
    for (const LaneSpan& span : lanes.spans())
        spans += span.title() + " " + std::to_string(nanoseconds(span.from)) + ".." +
                 std::to_string(nanoseconds(span.to)) + "; ";
    EXPECT_EQ(spans,
              "paused 20..50; a device unplugged 62..75; without focus 85..95; a device unplugged 92..170; "
              "interrupted: sleep 97..97; "
              "paused 110..150; ");
    // What they cancelled is found by its time.
    std::string findings;
    for (const LaneFinding& finding : lane_findings(lanes)) findings += finding.text + "; ";
    EXPECT_NE(findings.find("focus lost: cancelled nothing"), std::string::npos) << findings;
}

/// The lanes of a history: title, bars, presses without effect, last value.
std::vector<std::string> lane_texts(const LaneHistory& lanes) {
    std::vector<std::string> all;
    for (const Lane& lane : lanes.lanes()) {
        std::string& it = all.emplace_back(lane.title() + ":");
        for (const Lane::Bar& bar : lane.bars) it += " " + text(bar);
        for (const Lane::Missed& press : lane.missed)
            it += " missed at " + std::to_string(nanoseconds(press.time)) + press.why;
        if (lane.has_values())
            it += " " + std::to_string(lane.values.back().raw).substr(0, 4) + " from " +
                  std::to_string(nanoseconds(lane.values.back().time));
    }
    return all;
}
using Texts = std::vector<std::string>;

TEST(LaneHistory, EachDeviceHasALaneOfItsOwnWhereSeveralHaveTheControl) {
    test::check_rows(R"(
one device : 1+W 5-W |10 : KeyW: 1..5 press release
two devices : 1+W 4+2W 5-W |10 12-2W |20 : KeyW (one): 1..5 press release; KeyW (two): 4..12 press release
one after the other : 1+W 5-W |10 12+2E |20 22+2W |30 : KeyW (one): 1..5 press release; KeyW (two): 22..30 press none; KeyE: 12..30 press none
axes, too : 1axs3:LX,1 |10 12axs2:LX,-1 14axs3:LX,0 |20 : PadStickLeftX (three): 0.00 from 14; PadStickLeftX (two): -1.0 from 12
)",
                     [](const std::string& script) -> Texts {
                         test::ScriptRun run{{.start = Time{}}};
                         LaneHistory lanes{run.timeline};
                         run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
                         run.run(script);
                         return lane_texts(lanes);
                     });
}

TEST(LaneHistory, PressesThatHadNoEffectAreOnTheLaneOfTheirDevice) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1+W 5-W 6+2W |10 |20");
    lanes.note_missed(controls::KeyW, at(6), ", but a");
    lanes.note_missed(controls::KeyW, at(6), ", but b");
    lanes.note_missed(controls::KeyW, at(1), ", but c");
    lanes.note_missed(controls::KeyW, at(1), "");
    RecordingLine line;
    line.kind = RecordingLine::Kind::event;
    line.time = at(12);
    line.event = Event::button(at(12), DeviceId{1}, controls::KeyE, true);
    lanes.note_line(line, Outcome::ignored);
    EXPECT_EQ(lane_texts(lanes),
              (Texts{"KeyW (one): 1..5 press release", "KeyW (two): 6..20 press none missed at 6, but b",
                     "KeyE: missed at 12 without focus, so it was ignored"}));
    lanes.forget_before(at(10));
    EXPECT_EQ(lanes.lanes().size(), 2U);
    lanes.forget_before(at(20));
    EXPECT_EQ(lane_texts(lanes), Texts{"KeyW (two): 6..20 press none"});
}

TEST(LaneHistory, APressOfAnEitherSideNameIsOnTheLaneOfItsKey) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1+W 3+> |10");
    lanes.note_missed(controls::Shift, at(3), ", but a");
    lanes.note_missed(controls::Shift, at(4), ", but b");
    lanes.note_missed(controls::KeyQ, at(3), ", but c");
    EXPECT_EQ(lane_texts(lanes),
              (Texts{"KeyW: 1..10 press none", "ShiftRight: 3..10 press none missed at 3, but a"}));
}

TEST(LaneHistory, AsksFramesOnlyForAxesThatAreActive) {
    for (std::uint64_t seed = 1; seed <= 30; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::RandomEvents events{seed};
        Timeline timeline{{.devices = 8, .history = 4096, .desk_devices = false}};
        Sampler sampler{timeline, {.start = Time{}}};
        for (std::int64_t now = 0, i = 0; i < 200; ++i) {
            for (int count = 0; count < 5; ++count) {
                const Event event = events.next();
                now = std::max(now, nanoseconds(event.time));
                timeline.desk().post(event);
            }
            const Frame& frame = sampler.advance(at(++now));
            for (std::uint8_t axis = 0; axis < axis_kinds; ++axis) {
                const AxisReading reading = frame.raw_axis(Axis{axis});
                if ((frame.active_axes() >> axis & 1) == 0) {
                    EXPECT_EQ(reading.least, 0);
                    EXPECT_EQ(reading.greatest, 0);
                } else if (reading.least == 0 && reading.greatest == 0) {
                    // An event that left it at 0.
                    bool has_event = false;
                    frame.for_each_raw_value(Axis{axis}, [&](Time, double) { has_event = true; });
                    EXPECT_TRUE(has_event) << int{axis};
                }
            }
        }
    }
}

TEST(LaneHistory, ModesAndClaimsHaveLanesBehindTheControls) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline, {.buttons = {controls::KeyW, controls::KeyQ}, .axes = {controls::PadStickLeftX}}};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("|10");
    lanes.note_action_edge("crane.lock", EdgeKind::press, at(8));
    lanes.note_in_force(Lane::Kind::mode, "crane", true, at(3));
    lanes.note_in_force(Lane::Kind::claim, "claim 1", true, at(5), "everything");
    run.run("12+W 13+E |20");
    lanes.note_action_edge("crane.lock", EdgeKind::cancel, at(15));
    lanes.note_in_force(Lane::Kind::mode, "crane", false, at(15));
    run.run("|30");
    EXPECT_EQ(lane_texts(lanes), (Texts{"KeyW: 12..30 press none", "crane: 3..15 press release",
                                        "claim 1 (everything): 5..30 press none", "crane.lock: 8..15 press cancel"}));
    ASSERT_EQ(lanes.silent().size(), 2U);
    EXPECT_EQ(lanes.silent()[0], "KeyQ");
    EXPECT_EQ(lanes.silent()[1], "PadStickLeftX");
    std::string findings;
    for (const LaneFinding& finding : lane_findings(lanes)) findings += finding.text + "; ";
    EXPECT_EQ(findings, "crane ends: cancelled crane.lock; ");
    const Picture picture = lane_picture(lanes);
    ASSERT_FALSE(picture.left_out.empty());
    EXPECT_EQ(picture.left_out[0], "KeyQ has no events in this time.");
}

TEST(LaneHistory, ShadesAreOnTheLanesThatTheyConcern) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1+W 2+2E 3+3Q |10 12dis2 |20 |20!30!40");
    lanes.note_action_edge("crane.lock", EdgeKind::press, at(38));
    lanes.note_focus(false, at(35));
    std::string text;
    for (const LaneSpan& span : lanes.spans()) {
        text += span.title() + ":";
        for (const Lane& lane : lanes.lanes())
            if (span.concerns(lane)) text += " " + lane.title();
        text += "; ";
    }
    EXPECT_EQ(text, "two unplugged: KeyE; paused: KeyW KeyE KeyQ crane.lock; without focus: KeyW KeyE; ");
}

TEST(LaneHistory, BeginsAnewAfterFramesThatItWasNotGiven) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline};
    bool is_shown = true;
    std::uint64_t number = 0;
    run.on_cut = [&](const Frame& frame) {
        if (is_shown) lanes.note(frame, number);
        ++number;
    };
    run.run("1+W 2+E |10");
    is_shown = false;
    run.run("12-W 13+D |20");
    is_shown = true;
    run.run("22-E |30 |30!40!50");
    EXPECT_EQ(lane_texts(lanes), (Texts{"KeyD: 20..40 none cancel 40..50 adopt none", "KeyE: 20..22 none release"}));
    EXPECT_EQ(lanes.start(), at(20));
    EXPECT_EQ(lanes.frames().front().number, 2U);
}

TEST(LanePicture, UpIsAtTheTop) {
    test::ScriptRun run{{.start = Time{}}};
    LaneHistory lanes{run.timeline};
    run.on_cut = [&](const Frame& frame) { lanes.note(frame, 0); };
    run.run("1axs3:LY,-1 1axs3:RX,1 |10 |20");
    lanes.note_action_value("crane.travel y", -1, at(20));
    lanes.note_action_value("crane.lift", 1, at(20));
    // Each of them is pushed up or to the right, and ends near the top of its lane.
    const Picture picture = lane_picture(lanes);
    std::map<int, double> zero;
    for (const PictureShape& shape : picture.shapes)
        if (shape.role == PictureRole::zero) zero[shape.lane] = shape.points[0].y;
    ASSERT_EQ(zero.size(), 4U);
    for (const PictureShape& shape : picture.shapes)
        if (shape.role == PictureRole::shaped_value && shape.lane >= 0) {
            EXPECT_LT(shape.points.back().y, zero[shape.lane] - 5)
                << lanes.lanes()[static_cast<std::size_t>(shape.lane)].name;
        }
}

TEST(LanePicture, NinetyLanesFitIntoASmallPanelAndWhatIsDownHasItsName) {
    Timeline timeline{{.start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    LaneHistory lanes{timeline};
    Button key{3};
    for (unsigned i = 0; i < 90; ++i) {
        do ++key.number;
        while (name_of(key).empty());
        timeline.desk().button(key, true, at(i + 1));
        if (i % 30 != 7) timeline.desk().button(key, false, at(i + 3));
    }
    lanes.note(sampler.advance(at(100)), 0);
    lanes.note(sampler.advance(at(200)), 1);
    ASSERT_EQ(lanes.lanes().size(), 90U);
    const Picture picture = lane_picture(lanes, {.width = 640, .height = 360});
    std::set<int> drawn, active, named;
    for (const PictureShape& shape : picture.shapes) {
        if (shape.role == PictureRole::bar) drawn.insert(shape.lane);
        if (shape.role == PictureRole::label && shape.lane >= 0) named.insert(shape.lane);
    }
    EXPECT_EQ(drawn.size(), 90U);
    EXPECT_EQ(std::count_if(picture.shapes.begin(), picture.shapes.end(),
                            [](const PictureShape& it) { return it.role == PictureRole::active; }),
              3);
    for (const int lane : {7, 37, 67}) EXPECT_TRUE(named.contains(lane)) << lane;
}

bool overlap(const PictureShape& a, const PictureShape& b) {
    return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
}

TEST(LanePicture, LabelsNeverOverlapAndNothingLeavesThePicture) {
    for (std::uint64_t seed = 1; seed <= 100; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        RandomLanes run{seed};
        const double width = 400 + static_cast<double>(run.random.below(1500));
        const double height = 200 + static_cast<double>(run.random.below(900));
        const Picture picture = lane_picture(run.lanes, {.width = width, .height = height, .title = "a title"});
        EXPECT_LE(picture.height, height);
        std::vector<PictureShape> texts;
        std::set<int> lanes, drawn;
        for (const PictureShape& shape : picture.shapes) {
            if (shape.form == PictureShape::Form::text) texts.push_back(shape);
            for (const PicturePoint& point : shape.points) {
                EXPECT_TRUE(point.x >= -1 && point.x <= width + 1 && point.y >= 0 && point.y <= height)
                    << name_of(shape.role);
            }
            if (shape.points.empty()) {
                EXPECT_GE(shape.x, 0);
                EXPECT_LE(shape.x + shape.width, width + 0.01) << shape.text;
                EXPECT_LE(shape.y + shape.height, height + 0.01) << shape.text;
            }
            if (shape.role == PictureRole::label && shape.lane >= 0 && shape.frame < 0) lanes.insert(shape.lane);
            if (shape.lane >= 0 && shape.role != PictureRole::label) drawn.insert(shape.lane);
        }
        // Each lane has its name, or the picture says that some have none, or no room at all.
        const auto said = [&](std::string_view what) {
            for (const std::string& line : picture.left_out)
                if (line.find(what) != line.npos) return std::stoul(line.substr(line.find_first_of("0123456789")));
            return 0UL;
        };
        EXPECT_EQ(lanes.size() + said("more lane") + said("name did") + said("names did"), run.lanes.lanes().size());
        EXPECT_LE(drawn.size(), run.lanes.lanes().size() - said("more lane"));
        for (std::size_t i = 0; i < texts.size(); ++i)
            for (std::size_t j = i + 1; j < texts.size(); ++j)
                EXPECT_FALSE(overlap(texts[i], texts[j])) << texts[i].text << " / " << texts[j].text;
        if (testing::Test::HasFailure()) return;
    }
}

TEST(LanePicture, WhereFramesAreWideEveryStateHasItsMark) {
    for (std::uint64_t seed = 1; seed <= 30; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        RandomLanes run{seed};
        // Frames that end alike differ in length, so the picture is as wide as the shortest one needs.
        const Picture picture = lane_picture(run.lanes, {.width = 40'000, .height = 2'000});
        std::map<std::pair<int, int>, std::string> drawn, wanted;
        std::map<std::pair<int, int>, bool> lost;
        constexpr PictureRole marks[] = {PictureRole::press, PictureRole::release, PictureRole::blip,
                                         PictureRole::dip,   PictureRole::cancel,  PictureRole::adopt};
        for (const PictureShape& shape : picture.shapes) {
            if (shape.lane < 0 || shape.frame < 0) continue;
            if (std::find(std::begin(marks), std::end(marks), shape.role) != std::end(marks))
                drawn[{shape.lane, shape.frame}] = name_of(shape.role);
            if (shape.role == PictureRole::lost) lost[{shape.lane, shape.frame}] = true;
        }
        for (std::size_t i = 0; i < run.lanes.lanes().size(); ++i)
            for (const Lane::Cell& cell : run.lanes.lanes()[i].cells) {
                const std::pair place{static_cast<int>(i), static_cast<int>(cell.last)};
                const std::string state = cell.state != ButtonState::hold ? std::string{name_of(cell.state)}
                                          : cell.cancels != 0             ? "cancel"
                                          : cell.adopts != 0              ? "adopt"
                                                                          : "";
                if (!state.empty()) wanted[place] = state;
                EXPECT_EQ(lost[place], cell.lost != 0);
            }
        EXPECT_EQ(drawn, wanted);
        if (testing::Test::HasFailure()) return;
    }
}

TEST(LanePicture, AnEmptyHistorySaysSo) {
    const Timeline timeline;
    const LaneHistory lanes{timeline};
    const Picture picture = lane_picture(lanes);
    ASSERT_EQ(picture.shapes.size(), 1U);
    EXPECT_EQ(picture.shapes[0].text, "No frames to draw.");
    EXPECT_TRUE(lane_findings(lanes).empty());
}

}  // namespace
