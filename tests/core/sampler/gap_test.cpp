// Frames with a gap before them: what was paused away is skipped, what was stalled away takes effect at the frame's
// start.

#include <gtest/gtest.h>

#include <map>
#include <sstream>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }
Tick paused(std::int64_t from, std::int64_t begin, std::int64_t end) {
    return {at(from), at(begin), at(end), Tick::Gap::paused, 0};
}
Tick stalled(std::int64_t from, std::int64_t begin, std::int64_t end) {
    return {at(from), at(begin), at(end), Tick::Gap::stalled, 0};
}

const TimelineOptions keys{.devices = 4, .history = 4096, .desk_devices = false};

// Additional words: save: and back:. A view like W? shows how KeyW ended; skipped, moved, gap, locks and values are
// views, too.
void check(const char* table, const TimelineOptions& options) {
    test::check_rows(table, [&options](const std::string& script) {
        test::ScriptRun run{{.start = at(0), .repeat = {Duration{30}, Duration{10}, 0}}, options};
        Sampler::State saved = run.sampler.save();
        run.on_view = [&](const std::string& view) -> std::string {
            const Frame& frame = run.sampler.frame();
            if (view == "skipped") return "skipped " + std::to_string(run.sampler.counters().skipped);
            if (view == "moved") return "moved " + std::to_string(run.sampler.counters().moved);
            if (view == "gap") return frame.follows_pause() ? "pause" : "no pause";
            if (view == "locks") return frame.locks().empty() ? "none" : "some";
            if (view == "values") {
                std::ostringstream out;
                frame.for_each_raw_value(PadStickLeftX, [&](Time time, double value) {
                    out << (out.tellp() > 0 ? " " : "") << nanoseconds(time) << ':' << value;
                });
                return out.str().empty() ? "-" : out.str();
            }
            if (view.back() != '?') return "";
            const ButtonReading reading = frame[test::letter(view[0])];
            return reading.released() ? "released" : reading.ended() ? "ended" : "neither";
        };
        run.on_word = [&](std::string_view word) {
            if (word == "save:")
                saved = run.sampler.save();
            else
                run.sampler.restore(saved);
        };
        return run.run(script);
    });
}

// In each row: state; counts of presses, releases, adopts, cancels; held for; down within the frame.
TEST(Gaps, NothingIsPressedInAPauseAndWhatIsDownIsAdopted) {
    check(R"(
before the pause and not taken yet: counts, and may go on through it : |100 103+A 105-A 107+B 110+S 150-S |110!200!210A,B,gap,moved 215-B |220B,B?,gap : idle 0000 0 0; blip 1100 0 0 | press 1011 10 10 | pause | moved 3; release 0100 15 5 | ended | no pause
from its first moment on nothing does; what is down is adopted : |100 110+S 150-S 160+E 170-E 180+D 205-D |110!200!210S,E,D,D?,skipped,moved,late : idle 0000 0 0; idle 0000 0 0 | idle 0000 0 0 | blip 0110 5 5 | ended | skipped 5 | moved 0 | late 0
at its end the game goes on : |100 200+W |110!200!210W,moved,skipped : idle 0000 0 0; press 1000 10 10 | moved 0 | skipped 0
a late event in it is skipped, and not counted as late : |100 150+W 120+E |110!200!210W,E,late,skipped : idle 0000 0 0; hold 0010 10 10 | hold 0010 10 10 | late 0 | skipped 2
one that was said to begin before the last cut begins there : |110 60+W |50!200!210W,skipped : idle 0000 0 0; press 1011 10 10 | skipped 0
a tick that ends before it begins has no gap : |100 105+W |110!300!200W,gap : idle 0000 0 0; press 1000 95 95 rep7 | no pause
what was held is cancelled, and its repeats stop : 50+W 60+< |100 150-< 160+< |100!200!300W,Shift,W? save: 310-W 320+W 330-W |400W,W? back: |400W : press 1000 50 50 rep3; hold 0011 100 100 | hold 0011 100 100 | ended; release 1200 10 20 | released; release 1200 10 20
)",
          keys);
}

TEST(Gaps, InAStallPressesCountAndTimeDoesNot) {
    check(R"(
presses count at the frame's start : 50+W 60+S |100 1000+A 1100-A 2000+A 2100-A 2500-S 2600+D 3010+E 3020-E |100?3000?3100A,W,S,D,E,latency,moved,late : press 1000 50 50 rep3; blip 2200 0 0 | hold 0000 3050 100 rep10 | release 0100 2940 0 | press 1000 100 100 rep8 | blip 1100 10 10 | 8 80 1000 2100 | moved 6 | late 0
earlier than the last cut is late, as ever : |3100 50+A 60-A |3100?4000?4100A,late : idle 0000 0 0; blip 1100 0 0 | late 2
)",
          keys);
}

TEST(Gaps, PointerAxesLocksAndDevicesAreAsOfTheirEnd) {
    check(R"(
what moved in a pause is skipped, levels are those after it : 1pos2:10,10 2axs3:LX,0.25 |100at 105mov2:1,0 106whl2:0,1 107axs3:LX,0.5 120mov2:100,0 121whl2:0,7 122pos2:300,20 123axs3:LX,1 124axs3:LX,-1 125axs3:LX,0.75 126cap1 127dis6 205mov2:2,0 206whl2:0,2 |110!200!210motion,wheel,steps,at,LX,values,locks,changes,skipped : 10,10; 3,0 | 0,3 | 0,3 | 300,20 | 0.25 0.75 0.25 0.75 | 200:0.5 200:0.75 | some | 6- | skipped 8
motion in front of a stall is moved, too : |100at 1000mov2:5,0 1100whl2:0,1 |100?3000?3100moved,late : nowhere; moved 2 | late 0
a stall loses no motion : |210at 300mov2:50,0 |210?400?410motion : nowhere; 50,0
clicks, drags and contacts end with a pause and count anew : 1pos2:10,10 5+l 6pos2:30,10 7+r 8beg5:1,0,0 |10drag 20+6r 21-6r 22beg5:2,0,0 51-r 52mve5:1,1,0 |15!50!60drag,clicks,contacts 61-l |62clicks,drag,contacts : began 10,10>30,10; cancelled | - | 1 0,0 cancelled; - | - | 1 1,0 down & 2 0,0 down
what the menu's click would have made the second one is the game's first; much later it is anew everywhere : 1pos2:30,10 |15at 20+6r 21-6r |15!50!60clicks 70+6r 71-6r 72pos2:30,10 |73clicks 74+6r 75-6r 80+6r 81-6r 1000000000+6r 1000000001-6r 1000000002+6r 1000000003-6r |2000000000clicks : 30,10; -; Right 30,10>30,10 far 0; Right 30,10>30,10 far 0 x2 & Right 30,10>30,10 far 0 x3 & Right 30,10>30,10 far 0 & Right 30,10>30,10 far 0 x2
)",
          {});
}

// With 1 to 3 inlets, whatever comes in: presses, motion and levels are those of the frames before and behind the pause
// that another sampler cuts.
// Each late event before a pause goes by its own stamp, of whatever kind it is: also if the last event that its inlet
// had seen was stamped with the very cut at which the pause begins.
TEST(Gaps, WhatComesLateBeforeAPauseIsNotOfThePause) {
    constexpr DeviceId pad{3}, surface{5};
    const auto count_of = [](const Frame& frame, int kind) -> double {
        double count = 0;
        switch (kind) {
            case 0: return frame[controls::Space].press_count();
            case 1: return frame.pointer().motion().x;
            case 2: return frame.pointer().wheel().y;
            case 3: return frame.raw_axis(controls::PadStickLeftX).greatest;
            case 4: frame.for_each_contact([&](const ContactReading&) { ++count; }); return count;
            default:
                for (const Click& click : frame.pointer().clicks()) count += click.count;
                return count;
        }
    };
    for (int kind = 0; kind < 6; ++kind)
        for (const unsigned inlets : {1U, 2U})
            for (const std::int64_t latest : {9, 10, 11})
                for (const std::int64_t stamp : {8, 10}) {
                    SCOPED_TRACE(testing::Message()
                                 << kind << ", " << inlets << " inlets, " << latest << ", " << stamp);
                    Timeline timeline{{.inlets = inlets, .start = Time{}}};
                    Sampler sampler{timeline, {.start = Time{}}};
                    Inlet& inlet = timeline.inlet(inlets - 1);
                    const DeviceId mouse = inlets == 1 ? DeviceId{2} : DeviceId{9};
                    const DeviceId keyboard = inlets == 1 ? DeviceId{1} : DeviceId{8};
                    if (inlets == 2) {
                        inlet.connect(keyboard, {.kind = DeviceKind::keyboard}, at(1));
                        inlet.connect(mouse, {.kind = DeviceKind::mouse}, at(1));
                    }
                    inlet.connect(pad, {.kind = DeviceKind::gamepad}, at(1));
                    inlet.connect(surface, {.kind = DeviceKind::touch}, at(1));
                    inlet.moved_to(mouse, WindowPoint{1, 1}, at(1));
                    inlet.button(keyboard, controls::KeyA, true, at(latest));
                    sampler.advance(at(10));
                    switch (const Time when = at(stamp); kind) {
                        case 0: inlet.button(keyboard, controls::Space, true, when); break;
                        case 1: inlet.motion(mouse, 1, 0, when); break;
                        case 2: inlet.wheel(mouse, 0, 1, when); break;
                        case 3:
                            inlet.axis(pad, controls::PadStickLeftX, 1, when);
                            inlet.axis(pad, controls::PadStickLeftX, 0, when);
                            break;
                        case 4:
                            inlet.contact(surface, 1, ContactPhase::begin, 3, 3, 1, when);
                            inlet.contact(surface, 1, ContactPhase::end, 3, 3, 1, when);
                            break;
                        default:
                            inlet.button(mouse, controls::MouseLeft, true, when);
                            inlet.button(mouse, controls::MouseLeft, false, when);
                    }
                    const Frame& frame = sampler.advance(Tick{at(10), at(50), at(60), Tick::Gap::paused, 0.01});
                    // Behind an event of the pause, its turn is in the pause.
                    EXPECT_EQ(count_of(frame, kind), stamp == 8 && latest <= 10);
                }
}

TEST(Gaps, TakeTheSameAsFramesCutByHand) {
    for (std::uint64_t seed = 1; seed <= test::usual_count(400); ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        const unsigned inlets = 1 + static_cast<unsigned>(seed % 3);
        Timeline timeline{{.inlets = inlets, .desk_devices = false}};
        Sampler gapped{timeline, {.start = at(0)}}, by_hand{timeline, {.start = at(0)}};
        std::vector<test::RandomEvents> events;
        for (unsigned i = 0; i < inlets; ++i) events.emplace_back(seed + 10'000 * i, 1 + 10 * i);
        std::int64_t cut = 0;
        for (int round = 0; round < 12; ++round) {
            for (int i = 0; i < 30; ++i) {
                const auto inlet = static_cast<unsigned>(random.below(inlets));
                timeline.inlet(inlet).post(events[inlet].next());
            }
            const std::int64_t from = cut + 1 + std::int64_t(random.below(30)),
                               begin = from + std::int64_t(random.below(60)),
                               end = begin + 1 + std::int64_t(random.below(40));
            const bool is_pause = random.one_in(2);
            const Frame& frame = gapped.advance(is_pause ? paused(from, begin, end) : stalled(from, begin, end));
            // By device: merged, a press counts once more where another device's hold was only adopted.
            const auto presses_in = [&](const Frame& part, Button button) {
                std::vector<unsigned> presses;
                for (unsigned i = 0; i < inlets; ++i)
                    for (unsigned d = 0; d < test::most_devices; ++d)
                        presses.push_back(part.on(DeviceId{1 + 10 * i + d})[button].press_count());
                return presses;
            };
            std::map<std::uint16_t, std::vector<unsigned>> presses;
            Distance motion;
            const auto add = [&](const Frame& part) {
                for (const Button button : test::random_buttons) {
                    std::vector<unsigned>& sum = presses[button.number];
                    const std::vector<unsigned> more = presses_in(part, button);
                    sum.resize(more.size());
                    for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += more[i];
                }
                motion.x += part.pointer().motion().x;
            };
            if (is_pause && begin > from) {
                add(by_hand.advance(at(from - 1)));
                by_hand.advance(at(begin - 1));
            }
            add(by_hand.advance(at(end)));
            cut = end;
            ASSERT_EQ(frame.pointer().motion().x, motion.x);
            for (const Button button : test::random_buttons) {
                const ButtonFigures f = frame[button].figures();
                ASSERT_EQ(presses_in(frame, button), presses[button.number]) << name_of(button) << " round " << round;
                ASSERT_EQ(f.down(), by_hand.frame()[button].down()) << name_of(button) << " round " << round;
                ASSERT_TRUE(f.down_span() >= Duration{} && f.down_span() <= frame.length()) << name_of(button);
            }
            for (const Edge edge : frame.edges()) ASSERT_TRUE(edge.time >= frame.start() && edge.time <= frame.end());
        }
        EXPECT_EQ(gapped.counters().taken, by_hand.counters().taken);
    }
}

}  // namespace
