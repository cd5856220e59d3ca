// Four buttons and a stick as one vector: rows, and a second implementation that looks at every nanosecond.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/seats.hpp"
#include "cursorum/core/shaping.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::Random;

const DirectionButtons letters{.left = {KeyA}, .right = {KeyD, ArrowRight}, .up = {KeyW}, .down = {KeyS}};

std::string text(Vector2 v) {
    const auto rounded = [](double value) {
        const double thousandth = std::round(value * 1000) / 1000 + 0.0;
        std::string all = std::to_string(thousandth);
        all.erase(all.find_last_not_of('0') + 1);
        if (all.back() == '.') all.pop_back();
        return all;
    };
    return rounded(v.x) + "," + rounded(v.y);
}

/// before now mean facing
std::string text(const DirectionReading& r) {
    return text(r.before) + " " + text(r.now) + " " + text(r.mean) + " " + text(r.facing);
}

TEST(Direction, ByRows) {
    test::check_rows(R"(
a key : 5+D |10way |20way 25-D |30way |40way : 0,0 1,0 0.5,0 1,0; 1,0 1,0 1,0 1,0; 1,0 0,0 0.5,0 1,0; 0,0 0,0 0,0 0,0
a diagonal is no longer than a straight line : 0+D 0+S |10way : 0,0 0.707,0.707 0.707,0.707 0.707,0.707
two keys for one direction do not add up : 0+D 1sta3:D |10way 12-D |20way : 0,0 1,0 1,0 1,0; 1,0 1,0 1,0 1,0
both are released, one after the other : 0+D 0+2D |10way 12-D 15-2D |20way : 0,0 1,0 1,0 1,0; 1,0 0,0 0.5,0 1,0
opposite keys are neutral : 0+D 0+A |10way 15-A |20way : 0,0 0,0 0,0 0,0; 0,0 1,0 0.5,0 1,0
the newest wins : 0+D 5+A |10last 12-A |20last : 0,0 -1,0 0,0 -1,0; -1,0 1,0 0.6,0 1,0
the oldest wins : 0+D 5+A |10first 15-D |20first : 0,0 1,0 1,0 1,0; 1,0 -1,0 0,0 -1,0
of two at one time, the right one wins, whichever is asked for : 2+A 2+D |10last,first |20last,first : 0,0 1,0 0.8,0 1,0 | 0,0 1,0 0.8,0 1,0; 1,0 1,0 1,0 1,0 | 1,0 1,0 1,0 1,0
a tap within a frame moves as long as it was down : 3+W 5-W |10way : 0,0 0,0 0,-0.2 0,-1
where it pointed for no time, it did not point : 3+W 3-W |10way : 0,0 0,0 0,0 0,0
adopted keys point as well : 0ado1:D |10way : 0,0 1,0 1,0 1,0
the focus goes : 0+D |10way 15foc0 |20way |30way : 0,0 1,0 1,0 1,0; 1,0 0,0 0.5,0 1,0; 0,0 0,0 0,0 0,0
a zero-length frame moves nothing : 5+D |10way |10way : 0,0 1,0 0.5,0 1,0; 1,0 1,0 0,0 1,0
a pause is not part of it : 0+D |10way |10!50!60way : 0,0 1,0 1,0 1,0; 1,0 1,0 1,0 1,0
)" + 1,
                     [](const std::string& script) {
                         test::ScriptRun run;
                         run.on_view = [&](const std::string& view) -> std::string {
                             DirectionButtons asked = letters;
                             if (view == "last") asked.opposed = WhenOpposed::last;
                             if (view == "first") asked.opposed = WhenOpposed::first;
                             if (view != "way" && asked.opposed == WhenOpposed::neutral) return {};
                             return text(run.sampler.frame().direction(asked, PadStickLeft));
                         };
                         return run.run(script);
                     });
}

TEST(Direction, OfSticksByRows) {
    test::check_rows(
        R"(
analogue, and shaped : 0stk3:0.55,0 |10way : 0,0 0.5,0 0.5,0 1,0
within its dead zone it is at rest : 0stk3:0.1,0.1 |10way : 0,0 0,0 0,0 0,0
a flick within a frame goes as far as it was pushed : 2stk3:0,1 4stk3:0,0 |10way : 0,0 0,0 0,0.2 0,1
the longer of the two counts, not the sum : 0+D 0stk3:0.55,0 |10way 15-D |20way : 0,0 1,0 1,0 1,0; 1,0 0.5,0 0.75,0 1,0
of two pads, the one that is pushed farther : 0stk3:0.55,0 5stk4:0,1 |10way,way@3,way@4 : 0,0 0,1 0.25,0.5 0,1 | 0,0 0.5,0 0.5,0 1,0 | 0,0 0,1 0,0.5 0,1
unplugged while pushed : 0stk3:1,0 |10 15dis3 |20way : 1,0 0,0 0.5,0 1,0
means of sticks and triggers : 0axs3:PR,0.5 0stk3:1,0 5stk3:0,0 |10mean : 0.5,0 0.5 0.5
of the trigger pulled farthest at each moment : 0axs3:PR,0.5 5axs4:PR,1 |10mean |20mean : 0,0 0.75 0.75; 0,0 1 1
)" + 1,
        [](const std::string& script) {
            test::ScriptRun run{{.start = Time{}}, {}};
            run.on_view = [&](const std::string& view) -> std::string {
                const Frame& frame = run.sampler.frame();
                if (view == "way") return text(frame.direction(letters, PadStickLeft));
                if (view.starts_with("way@"))
                    return text(
                        frame.on(DeviceId{static_cast<unsigned>(view.back() - '0')}).direction(letters, PadStickLeft));
                if (view != "mean") return {};
                const auto number = [](double value) {
                    const std::string both = text(Vector2{value, 0});
                    return both.substr(0, both.find(','));
                };
                return text(frame.stick(PadStickLeft).mean) + " " + number(frame.trigger(PadPullRight).mean) + " " +
                       number(frame.raw_axis(PadPullRight).mean);
            };
            return run.run(script);
        });
    const DirectionReading none = test::ScriptRun{}.sampler.frame().direction({}, Stick{9});
    EXPECT_EQ(none, DirectionReading{}) << "no buttons, and a stick that does not exist";
}

// ---- the second implementation

constexpr unsigned device_count = 4;  // two keyboards, of which the second is a program's, and two pads
constexpr DeviceId first_device{11};

DeviceId device(unsigned number) { return DeviceId{static_cast<std::uint32_t>(first_device) + number}; }
bool is_keyboard(unsigned number) { return number < 2; }
constexpr Button keys[] = {KeyA, KeyD, KeyW, KeyS, ArrowRight};

/// Everything that counts at one instant: what is down and since when, and where the sticks are.
struct Instant {
    std::map<std::pair<unsigned, std::uint16_t>, std::int64_t> down;  // by device and button
    std::map<unsigned, Vector2> sticks;
};

/// What a reading includes: for each device, from when on; none: not at all.
using Included = std::map<unsigned, std::int64_t>;

double square(Vector2 v) { return v.x * v.x + v.y * v.y; }

Vector2 value_of(const Instant& now, const Included& included, WhenOpposed opposed) {
    struct Side {
        bool is_down = false;
        std::int64_t newest = INT64_MIN, oldest = INT64_MAX;
    } left, right, up, down;
    for (const auto& [whose, time] : now.down) {
        const auto from = included.find(whose.first);
        if (from == included.end()) continue;
        const Button button{whose.second};
        Side& side = button == KeyA ? left : button == KeyW ? up : button == KeyS ? down : right;
        const std::int64_t since = std::max(time, from->second);
        side = {true, std::max(side.newest, since), std::min(side.oldest, since)};
    }
    const auto along = [&](const Side& minus, const Side& plus) -> double {
        if (!minus.is_down || !plus.is_down) return plus.is_down - minus.is_down;
        if (opposed == WhenOpposed::neutral) return 0;
        return (opposed == WhenOpposed::last ? plus.newest >= minus.newest : plus.oldest <= minus.oldest) ? 1 : -1;
    };
    Vector2 buttons{along(left, right), along(up, down)};
    if (const double length = std::hypot(buttons.x, buttons.y); length > 1)
        buttons = {buttons.x / length, buttons.y / length};
    Vector2 longest;
    for (const auto& [number, stick] : now.sticks)
        if (included.contains(number) && square(stick) > square(longest)) longest = stick;
    return buttons != Vector2{} ? buttons : longest;
}

class PlainDesk {
public:
    struct Happening {
        std::int64_t time = 0;
        unsigned device = 0;
        std::optional<Button> button{};
        bool down = false, all_up = false;
        Vector2 stick{};
    };
    std::vector<Happening> past;

    Instant at_time(std::int64_t time) const {
        Instant now;
        for (const Happening& it : past) {
            if (it.time > time) break;
            if (it.all_up) {
                now = {};
            } else if (!it.button) {
                now.sticks[it.device] = shape(StickShaping{}, it.stick);
            } else if (const auto whose = std::pair{it.device, it.button->number}; it.down) {
                now.down.emplace(whose, it.time);
            } else {
                now.down.erase(whose);
            }
        }
        return now;
    }
    DirectionReading reading(std::int64_t t0, std::int64_t t1, const Included& before, const Included& since,
                             WhenOpposed opposed) const {
        DirectionReading r;
        r.before = value_of(at_time(t0), before, opposed);
        for (std::int64_t t = t0; t < t1; ++t) {
            const Vector2 v = value_of(at_time(t), since, opposed);
            r.mean = {r.mean.x + v.x / static_cast<double>(t1 - t0), r.mean.y + v.y / static_cast<double>(t1 - t0)};
            if (std::hypot(v.x, v.y) > 0) r.facing = v;
        }
        r.now = value_of(at_time(t1), since, opposed);
        if (std::hypot(r.now.x, r.now.y) > 0) r.facing = r.now;
        if (const double length = std::hypot(r.facing.x, r.facing.y); length > 0)
            r.facing = {r.facing.x / length, r.facing.y / length};
        return r;
    }
};

void expect_same(const DirectionReading& found, const DirectionReading& plain, const std::string& where) {
    const auto check = [&](const char* what, Vector2 a, Vector2 b) {
        EXPECT_NEAR(a.x, b.x, 1e-9) << what << " of " << where;
        EXPECT_NEAR(a.y, b.y, 1e-9) << what << " of " << where;
        EXPECT_LE(a.x * a.x + a.y * a.y, 1 + 1e-15) << what << " of " << where;
    };
    check("before", found.before, plain.before), check("now", found.now, plain.now);
    check("mean", found.mean, plain.mean), check("facing", found.facing, plain.facing);
}

TEST(Direction, AgreesWithAPlainImplementation) {
    const char* const given = std::getenv("CURSORUM_TEST_SEED");
    const std::uint64_t first = given ? std::strtoull(given, nullptr, 10) : 1,
                        last = given ? first : test::usual_count(100);
    for (std::uint64_t seed = first; seed <= last && !testing::Test::HasFailure(); ++seed) {
        Random random{seed};
        Timeline timeline{{.desk_devices = false}};
        Inlet& inlet = timeline.desk();
        for (unsigned i = 0; i < device_count; ++i)
            inlet.connect(device(i),
                          {.kind = is_keyboard(i) ? DeviceKind::keyboard : DeviceKind::gamepad, .is_virtual = i == 1},
                          at(0));
        Sampler sampler{timeline, {.start = at(0)}};
        Seats seats{2};
        std::array<Included, 2> had, has;
        std::array<std::optional<unsigned>, device_count> owner;
        PlainDesk plain;
        std::int64_t now = 0, t0 = 0;
        double moved = 0, whole = 0;
        for (int step = 0; step < 40; ++step) {
            ++now;  // what is stamped at a cut, and posted afterwards, is as of the next frame
            for (auto events = random.below(5); events > 0; --events) {
                now += static_cast<std::int64_t>(random.below(9));
                const auto number = static_cast<unsigned>(random.below(device_count));
                if (random.one_in(30)) {
                    inlet.lose_focus(at(now));
                    inlet.gain_focus(unknown_state, at(now));
                    plain.past.push_back({.time = now, .all_up = true});
                } else if (is_keyboard(number)) {
                    const Button key = keys[random.below(std::size(keys))];
                    const bool down = random.one_in(2),
                               was_down = plain.at_time(now).down.contains({number, key.number});
                    if (down == was_down) continue;
                    inlet.button(device(number), key, down, at(now));
                    plain.past.push_back({.time = now, .device = number, .button = key, .down = down});
                } else {
                    const auto part = [&] { return static_cast<double>(random.below(9)) / 4 - 1; };
                    const Vector2 to{part(), part()};
                    inlet.stick(device(number), PadStickLeft, to.x, to.y, at(now));
                    plain.past.push_back({.time = now, .device = number, .stick = to});
                }
            }
            now += static_cast<std::int64_t>(random.below(12));
            const Frame& frame = sampler.advance(at(now));
            seats.read(frame);
            const std::string where =
                "frame to " + std::to_string(now) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed);
            const auto opposed = static_cast<WhenOpposed>(random.below(3));
            DirectionButtons asked = letters;
            asked.opposed = opposed;
            const Included all{{0, 0}, {1, 0}, {2, 0}, {3, 0}};
            const auto plainly = [&](const Included& included) {
                return plain.reading(t0, now, included, included, opposed);
            };
            const DirectionReading merged = frame.direction(asked, PadStickLeft);
            expect_same(merged, plainly(all), where);
            expect_same(frame.on(Origin::person).direction(asked, PadStickLeft), plainly({{0, 0}, {2, 0}, {3, 0}}),
                        "persons, " + where);
            expect_same(frame.on(Origin::program).direction(asked, PadStickLeft), plainly({{1, 0}}),
                        "programs, " + where);
            for (unsigned i = 0; i < device_count; ++i)
                expect_same(frame.on(device(i)).direction(asked, PadStickLeft), plainly({{i, 0}}),
                            "device " + std::to_string(i) + ", " + where);
            // Seats: what was given since the last frame is theirs from this one's start on.
            had = has;
            for (unsigned i = 0; i < device_count; ++i)
                for (unsigned seat = 0; seat < 2; ++seat)
                    if (owner[i] != seat)
                        has[seat].erase(i);
                    else
                        has[seat].try_emplace(i, t0);
            for (unsigned seat = 0; seat < 2; ++seat)
                expect_same(seats[seat].direction(asked, PadStickLeft),
                            plain.reading(t0, now, had[seat], has[seat], opposed),
                            "seat " + std::to_string(seat) + ", " + where);
            if (random.one_in(4)) {
                const auto number = static_cast<unsigned>(random.below(device_count)),
                           to = static_cast<unsigned>(random.below(2));
                owner[number] = to;
                seats.give(device(number), to);
            }
            // However it is cut, it goes equally far.
            moved += frame.direction(letters, PadStickLeft).mean.x * static_cast<double>(now - t0);
            t0 = now;
        }
        Sampler all_at_once{timeline, {.start = at(0)}};
        whole = all_at_once.advance(at(now)).direction(letters, PadStickLeft).mean.x * static_cast<double>(now);
        EXPECT_NEAR(moved, whole, 1e-6) << "replay: CURSORUM_TEST_SEED=" << seed;
    }
}

}  // namespace
