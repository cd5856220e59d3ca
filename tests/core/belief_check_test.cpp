// What other input layers believe: a right one, one that is a frame late, and six with a fault each.

#include "cursorum/core/belief_check.hpp"

#include <gtest/gtest.h>

#include <cstdlib>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;
using Kind = BeliefFinding::Kind;
using Cause = BeliefFinding::Cause;

constexpr std::int64_t frame_length = 16'000'000;
constexpr Button keys[] = {KeyW, KeyA, Space, ShiftLeft};

/// An engine's callbacks, and what it makes of them once per frame.
struct Layer {
    enum class Fault {
        none,
        is_late,
        polls,
        takes_repeats,
        saves_nothing,
        ignores_loss,
        presses_found,
        releases_lost
    } fault{};
    ButtonSet down, before, flags, let_go;
    Belief late;

    void on_key(Button key, bool is_down, bool repeats) {
        if (is_down && (!repeats || fault == Fault::takes_repeats)) flags.insert(key);
        if (!is_down) let_go.insert(key);
        down.set(key, is_down);
    }
    void on_focus(bool has, const ButtonSet& held) {
        if (!has && fault == Fault::releases_lost) let_go = let_go | down;
        if (!has && fault != Fault::ignores_loss) down = {};
        if (!has) return;
        if (fault == Fault::presses_found) flags = flags | held;
        down = held;
    }
    Belief end_frame() {
        Belief belief{flags, down, let_go};
        if (fault == Fault::polls) belief = {down - before, down, before - down};
        if (fault == Fault::saves_nothing) belief = {down, down, std::nullopt};
        before = down;
        flags = let_go = {};
        if (fault == Fault::is_late) std::swap(belief, late);
        return belief;
    }
};

/// Random taps and holds, repeats, focus; each key at most once in a frame, with four frames before it is pressed
/// again.
class LayerRun {
public:
    LayerRun(std::uint64_t seed, Layer::Fault fault, bool has_taps, bool has_focus) : random_{seed} {
        layer_.fault = fault;
        for (int frame = 0; frame < 200; ++frame) {
            const std::int64_t start = frame * frame_length;
            std::multimap<std::int64_t, std::function<void()>> events;
            const auto at = [&](std::int64_t offset, std::function<void()> what) {
                events.emplace(start + 1 + offset, std::move(what));
            };
            if (has_focus && random_.one_in(15)) {
                at(0, [this] { focus(); });
            } else if (focused_) {
                for (const Button key : keys) plan(key, frame, has_taps, at);
            }
            for (const auto& [time, what] : events) {
                now_ = time;
                what();
            }
            const Frame& f = sampler_.advance(Time{Duration{start + frame_length}});
            const Belief belief = layer_.end_frame();
            if (fault == Layer::Fault::takes_repeats)
                for (const Button key : keys) expected += belief.pressed.contains(key) && f[key].press_count() == 0;
            if (fault == Layer::Fault::saves_nothing)
                for (const Button key : keys) expected += belief.pressed.contains(key) && f[key].press_count() == 0;
            if (fault == Layer::Fault::presses_found)
                for (const Button key : keys) expected += f[key].adopt_count();
            if (fault == Layer::Fault::polls)
                for (const Button key : keys)
                    expected += f[key].press_count() - belief.pressed.contains(key) + f[key].release_count() -
                                belief.released->contains(key);
            if (fault == Layer::Fault::releases_lost)
                for (const Button key : keys) expected += f[key].cancel_count();
            check.note(f, belief);
        }
        for (int frame = 200; frame < 210; ++frame)  // so that all is settled
            check.note(sampler_.advance(Time{Duration{(frame + 1) * frame_length}}), quiet());
    }

    BeliefCheck check{{KeyW, KeyA, Space, ShiftLeft}};
    std::uint64_t expected = 0;

private:
    struct Key {
        bool is_down = false;
        int changed = -9;  // in which frame
    };
    Belief quiet() {
        Belief belief = layer_.end_frame();
        if (layer_.fault == Layer::Fault::is_late) return belief;
        belief.pressed = {};
        if (belief.released) belief.released = ButtonSet{};
        return belief;
    }
    template <typename At>
    void plan(Button key, int frame, bool has_taps, At&& at) {
        Key& its = held_[key.number];
        const auto turn = [this, key](bool down, bool repeats) {
            return [this, key, down, repeats] {
                timeline_.desk().post(Event::button(Time{Duration{now_}}, DeviceId{1}, key, down, repeats));
                layer_.on_key(key, down, repeats);
            };
        };
        if (!its.is_down && frame - its.changed >= 4 && random_.one_in(5)) {
            at(static_cast<std::int64_t>(random_.below(5'000'000)), turn(true, false));
            its = {true, frame};
            if (has_taps && random_.one_in(3)) {
                at(6'000'000, turn(false, false));
                its.is_down = false;
            }
        } else if (its.is_down && frame - its.changed >= 1 && random_.one_in(12)) {
            at(1'000'000, turn(false, false));
            its = {false, frame};
        } else if (its.is_down && frame - its.changed >= 5 && frame % 2 == 0) {
            at(2'000'000, turn(true, true));
        }
    }
    void focus() {
        focused_ = !focused_;
        ButtonSet held;
        for (const Button key : keys) {
            Key& its = held_[key.number];
            // Whoever comes back may hold something.
            its = {focused_ && random_.one_in(4), static_cast<int>(now_ / frame_length)};
            if (its.is_down) held.insert(key);
        }
        if (focused_)
            timeline_.desk().gain_focus(held, Time{Duration{now_}});
        else
            timeline_.desk().lose_focus(Time{Duration{now_}});
        layer_.on_focus(focused_, held);
    }

    Random random_;
    Layer layer_;
    std::int64_t now_ = 0;
    bool focused_ = true;
    std::map<std::uint16_t, Key> held_;
    Timeline timeline_{{.start = Time{}}};
    Sampler sampler_{timeline_, {.start = Time{}}};
};

TEST(BeliefCheck, FindsEachFaultAndNoOther) {
    using enum Layer::Fault;
    struct Row {
        Layer::Fault fault;
        bool has_taps, has_focus;
        std::optional<Kind> kind;
        std::optional<Cause> cause;
        bool of_releases = false;  // of them alone
    };
    const Row rows[] = {{none, true, true, {}, {}},
                        {is_late, true, true, {}, {}},
                        {polls, true, false, Kind::lost, Cause::within_frame},
                        {takes_repeats, true, false, Kind::doubled, Cause::system_repeat},
                        {saves_nothing, false, false, Kind::doubled, {}},
                        {ignores_loss, true, true, Kind::stuck, Cause::cancelled},
                        {presses_found, true, true, Kind::made_up, Cause::found_down},
                        {releases_lost, true, true, Kind::made_up, Cause::cancelled, true}};
    const char* const given = std::getenv("CURSORUM_TEST_SEED");
    const std::uint64_t first = given ? std::strtoull(given, nullptr, 10) : 1,
                        last = given ? first : test::usual_count(1000);
    for (const Row& row : rows) {
        std::uint64_t found = 0;
        for (std::uint64_t seed = first; seed <= last; ++seed) {
            SCOPED_TRACE("fault " + std::to_string(static_cast<int>(row.fault)) + ", seed " + std::to_string(seed));
            const LayerRun run{seed, row.fault, row.has_taps, row.has_focus};
            found += run.check.count();
            const std::uint64_t of_kind = row.kind ? run.check.count(*row.kind) : 0;
            ASSERT_EQ(run.check.count(), of_kind)
                << name_of(run.check.finding(0).kind) << " in frame " << run.check.finding(0).frame;
            if (row.kind && row.kind != Kind::stuck) {
                ASSERT_EQ(of_kind, run.expected);
            }
            for (std::uint64_t i = run.check.count() - std::min<std::uint64_t>(run.check.count(), BeliefCheck::kept);
                 row.cause && i < run.check.count(); ++i)
                ASSERT_TRUE(run.check.finding(i).cause == *row.cause &&
                            (!row.of_releases || run.check.finding(i).of_release))
                    << describe(run.check.finding(i));
        }
        EXPECT_EQ(found != 0, row.kind.has_value()) << "fault " << static_cast<int>(row.fault);
    }
}

/// A layer of 20 ns frames about KeyA, which compares levels: what happens, what it has at each cut, and what is found.
struct Compared {
    Timeline timeline{{.start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    BeliefCheck check{{KeyA}};
    bool before = false;
    std::int64_t now = 0;

    void frames(int count, bool down) {
        for (; count > 0; --count, before = down)
            check.note(sampler.advance(Time{Duration{now += 20}}),
                       {.pressed = down && !before ? ButtonSet{KeyA} : ButtonSet{},
                        .down = down ? ButtonSet{KeyA} : ButtonSet{}});
    }
    void turn(bool down, std::int64_t after) { timeline.desk().button(KeyA, down, Time{Duration{now + after}}); }
    std::string found() {
        frames(5, before);
        std::string all;
        for (std::uint64_t i = 0; i < check.count(); ++i) {
            const BeliefFinding it = check.finding(i);
            all += (all.empty() ? "" : "; ") + std::string{name_of(it.kind)} + " " + std::to_string(it.frame) + " " +
                   std::to_string(static_cast<int>(it.cause));
        }
        return all;
    }
};
std::string finding(Kind kind, int frame, Cause cause) {
    return std::string{name_of(kind)} + " " + std::to_string(frame) + " " + std::to_string(static_cast<int>(cause));
}

TEST(BeliefCheck, BlamesTheRightFrameAndCause) {
    {
        Compared layer;  // a tap that it misses, and in the next frame a press that it sees
        layer.frames(1, false);
        layer.turn(true, 5), layer.turn(false, 8);
        layer.frames(1, false);
        layer.turn(true, 5);
        layer.frames(3, true);
        EXPECT_EQ(layer.found(), finding(Kind::lost, 1, Cause::within_frame));
    }
    {
        Compared layer;  // stuck since the focus was lost, and pressed again meanwhile
        layer.turn(true, 5);
        layer.frames(2, true);
        layer.timeline.desk().lose_focus(Time{Duration{layer.now + 5}});
        layer.frames(5, true);
        layer.timeline.desk().gain_focus(ButtonSet{}, Time{Duration{layer.now + 5}});
        layer.frames(1, true);
        layer.turn(true, 5);
        layer.frames(2, true);
        EXPECT_EQ(layer.found(),
                  finding(Kind::stuck, 2, Cause::cancelled) + "; " + finding(Kind::lost, 8, Cause::still_down));
    }
    {
        Compared layer;  // held when the focus came; it takes the first repeat for a press
        layer.timeline.desk().lose_focus(Time{Duration{5}});
        layer.frames(1, false);
        layer.timeline.desk().gain_focus({KeyA}, Time{Duration{25}});
        layer.frames(5, false);
        layer.timeline.desk().system_repeat(KeyA, Time{Duration{layer.now + 5}});
        layer.frames(4, true);
        EXPECT_EQ(layer.found(),
                  finding(Kind::unheld, 1, Cause::found_down) + "; " + finding(Kind::made_up, 6, Cause::found_down));
    }
    {
        Compared layer;  // the cut falls between the release and the press of a system repeat
        layer.turn(true, 5);
        layer.frames(30, true);
        layer.timeline.desk().system_repeat(KeyA, Time{Duration{layer.now + 19}});
        layer.frames(1, false), layer.frames(5, true);
        EXPECT_EQ(layer.found(), finding(Kind::doubled, 31, Cause::system_repeat));
    }
    {
        Compared layer;  // always a frame late, with a press in each frame: nothing is wrong
        layer.turn(true, 5), layer.turn(false, 8);
        layer.frames(1, false);
        const auto late = [&](bool pressed) {
            layer.check.note(layer.sampler.advance(Time{Duration{layer.now += 20}}),
                             {.pressed = pressed ? ButtonSet{KeyA} : ButtonSet{}, .down = {}});
        };
        late(true);
        for (int i = 0; i < 4; ++i) late(false);
        for (int i = 0; i < 9; ++i) layer.turn(true, 5), layer.turn(false, 8), late(i != 0);
        late(true);
        EXPECT_EQ(layer.found(), "");
    }
}

// One flag that two keys set, as a game's own code has it.
TEST(BeliefCheck, SaysWhenButtonsShareAFlag) {
    for (std::uint64_t seed = 1; seed <= 50; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        Timeline timeline{{.start = Time{}}};
        Sampler sampler{timeline, {.start = Time{}}};
        BeliefCheck check{{KeyW, ArrowUp, KeyA}};
        Random random{seed};
        std::int64_t now = 0;
        bool w = false, up = false, a = false, was_forward = false, was_a = false;
        for (int i = 0; i < 400; ++i) {
            const auto maybe = [&](bool& down, Button key) {
                if (random.one_in(7)) timeline.desk().button(key, down = !down, Time{Duration{now + 5}});
            };
            maybe(w, KeyW), maybe(up, ArrowUp), maybe(a, KeyA);
            Belief belief;
            const auto say = [&belief](bool down, bool before, Button key) {
                belief.down.set(key, down), belief.pressed.set(key, down && !before);
            };
            for (const Button key : {KeyW, ArrowUp}) say(w || up, was_forward, key);
            say(a, was_a, KeyA);
            was_forward = w || up, was_a = a;
            check.note(sampler.advance(Time{Duration{now += 20}}), belief);
        }
        ASSERT_GE(check.count(), 1U);
        ASSERT_LE(check.count(), 2U) << "both are ignored as soon as that is clear";
        const BeliefFinding last = check.finding(check.count() - 1);
        EXPECT_EQ(last.cause, Cause::shared_flag);
        EXPECT_NE(describe(last).find("ActionBeliefCheck"), std::string_view::npos);
        EXPECT_NE(last.button, KeyA);
    }
}

TEST(BeliefCheck, NamesTheFrameAndExplains) {
    Timeline timeline{{.start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    BeliefCheck check{{KeyW}};
    const auto frame = [&](std::int64_t end, const Belief& belief) {
        check.note(sampler.advance(Time{Duration{end}}), belief);
    };
    timeline.desk().button(KeyW, true, Time{Duration{12}});
    timeline.desk().button(KeyW, false, Time{Duration{15}});
    timeline.desk().button(KeyA, true, Time{Duration{15}});  // is not looked at
    for (const std::int64_t end : {10, 20, 30, 40, 50}) frame(end, {});
    ASSERT_EQ(check.count(), 1U);
    EXPECT_EQ(check.finding(0), (BeliefFinding{Kind::lost, Cause::within_frame, KeyW, 1, Time{Duration{20}}}));
    EXPECT_EQ(describe(check.finding(0)),
              "It was pressed and released between two frames: comparing levels does not see it.");
    for (const std::int64_t end : {60, 70, 80, 90}) frame(end, {.pressed = {}, .down = {KeyW}});
    ASSERT_EQ(check.count(Kind::stuck), 1U) << "once, not in every frame";
    EXPECT_EQ(check.finding(1).frame, 5U);
    timeline.desk().button(KeyW, true, Time{Duration{95}});
    for (const std::int64_t end : {100, 110, 120, 130})
        frame(end, {.pressed = end == 110 ? ButtonSet{KeyW} : ButtonSet{}, .down = {}});
    ASSERT_EQ(check.count(Kind::unheld), 1U);
    EXPECT_EQ(check.count(), 3U) << "the press was only said late";
    for (const Kind kind : {Kind::lost, Kind::doubled, Kind::made_up, Kind::stuck, Kind::unheld})
        for (const Cause cause : {Cause::within_frame, Cause::system_repeat, Cause::held, Cause::found_down,
                                  Cause::cancelled, Cause::still_down, Cause::shared_flag, Cause::unknown})
            for (const bool of_release : {false, true})
                EXPECT_TRUE(describe(BeliefFinding{kind, cause, KeyW, 1, Time{}, of_release}).ends_with('.'))
                    << name_of(kind);
}

}  // namespace
