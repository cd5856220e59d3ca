#include "cursorum/batch/keyboard_batch.hpp"

#include <gtest/gtest.h>

#include <deque>
#include <memory>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }
constexpr Button keys[] = {KeyW, KeyS, Space, ShiftLeft, ShiftRight, AltLeft, ArrowDown};

/// A player's own timeline and sampler, fed with the same events.
struct Alone {
    Alone(const Repeat& repeat, bool marks) : sampler{timeline, {.start = Time{}, .repeat = repeat}} {
        timeline.desk().disconnect(DeviceId{1}, Time{});
        timeline.desk().connect(DeviceId{1}, {.name = "player", .marks_repeats = marks}, Time{});
        sampler.advance(Time{});
    }
    void post(const BatchEvent& event, const std::vector<ButtonSet>& states) {
        Inlet& desk = timeline.desk();
        switch (event.kind) {
            case BatchEventKind::up: desk.button(event.key, false, event.time); break;
            case BatchEventKind::down: desk.button(event.key, true, event.time); break;
            case BatchEventKind::system_repeat: desk.system_repeat(event.key, event.time); break;
            case BatchEventKind::focus_lost: desk.lose_focus(event.time); break;
            case BatchEventKind::focus_gained: desk.gain_focus(unknown_state, event.time); break;
            case BatchEventKind::interrupt: desk.post(Event::interrupt(event.time)); break;
            case BatchEventKind::state: desk.state(DeviceId{1}, states[event.key.number], event.time); break;
            case BatchEventKind::adopted_state: desk.state(DeviceId{1}, states[event.key.number], event.time, true);
        }
    }
    Timeline timeline;
    Sampler sampler;
};

BatchEvent random_event(test::Random& random, std::int64_t now, std::uint32_t player, std::vector<ButtonSet>& states) {
    BatchEvent event{at(now), player, keys[random.below(std::size(keys))], BatchEventKind::down};
    if (random.one_in(8)) event.time = at(now - static_cast<std::int64_t>(random.below(30)));
    if (random.one_in(12)) event.time = at(now + static_cast<std::int64_t>(random.below(30)));
    if (event.time < Time{}) event.time = Time{};
    const std::uint64_t kind = random.below(40);
    if (kind < 17) event.kind = BatchEventKind::up;
    if (kind > 34) event.kind = BatchEventKind::system_repeat;
    if (kind == 17) event.kind = BatchEventKind::focus_lost;
    if (kind >= 18 && kind < 20) event.kind = BatchEventKind::focus_gained;
    if (kind == 20) event.kind = BatchEventKind::interrupt;
    if (kind >= 21 && kind < 23) {
        event.kind = kind == 21 ? BatchEventKind::state : BatchEventKind::adopted_state;
        event.key = {static_cast<std::uint16_t>(states.size())};
        ButtonSet& down = states.emplace_back();
        for (const Button key : keys)
            if (random.one_in(3)) down.insert(key);
    }
    return event;
}

TEST(KeyboardBatch, EachPlayerIsToTheBitWhatASamplerOfItsOwnIs) {
    constexpr std::uint32_t players = 40;
    for (std::uint64_t seed = 1; seed <= 12; ++seed) {
        test::Random random{seed};
        const Repeat repeat{Duration{7}, Duration{3}, static_cast<std::uint32_t>(random.below(3))};
        const bool marks = random.one_in(2);
        KeyboardBatch batch{
            {.players = players, .start = Time{}, .repeat = repeat, .marks_repeats = marks, .events = 4000}};
        std::deque<Alone> alone;
        for (std::uint32_t i = 0; i < players; ++i) alone.emplace_back(repeat, marks);
        std::int64_t now = 0, cut = 0;
        for (int frame = 0; frame < 60; ++frame) {
            std::vector<BatchEvent> events;
            std::vector<ButtonSet> states;
            for (std::uint64_t i = random.below(300); i > 0; --i) {
                now += static_cast<std::int64_t>(random.one_in(8));
                events.push_back(random_event(random, now, static_cast<std::uint32_t>(random.below(players)), states));
                alone[events.back().player].post(events.back(), states);
            }
            if (random.one_in(10)) now += 30;
            cut = std::max(cut, now - static_cast<std::int64_t>(random.below(5)));
            batch.advance(at(cut), events, states);
            for (std::uint32_t i = 0; i < players; ++i) {
                const Frame& expected = alone[i].sampler.advance(at(cut));
                std::string edges, expected_edges;
                batch[i].for_each_edge([&](const Edge& edge) {
                    edges += std::to_string(nanoseconds(edge.time)) + " 1 " + std::string{name_of(edge.button)} + ' ' +
                             std::string{name_of(edge.kind)} + "; ";
                });
                expected_edges = test::edges_text(expected);
                if (!edges.empty()) edges.resize(edges.size() - 2);
                ASSERT_EQ(edges, expected_edges) << "seed " << seed << ", frame " << frame << ", player " << i;
                for (const Button key : {KeyW, KeyS, Space, ShiftLeft, ShiftRight, AltLeft, ArrowDown, Shift, Alt}) {
                    const ButtonFigures a = batch[i][key], b = expected[key].figures();
                    ASSERT_EQ(test::text(a), test::text(b))
                        << "seed " << seed << ", frame " << frame << ", player " << i << ", " << name_of(key);
                    ASSERT_EQ(a.released_after(), b.released_after());
                    ASSERT_EQ(a.down_share(), b.down_share());
                    ASSERT_EQ(batch[i].pressed().contains(key), b.pressed());
                }
                ASSERT_EQ(batch[i].current(), expected.current());
                ASSERT_EQ(batch[i].previous(), expected.previous());
            }
        }
        std::uint64_t late = 0, strays = 0, ignored = 0;
        batch.advance(at(now + 100), {});  // what was held back
        for (Alone& one : alone) {
            one.sampler.advance(at(now + 100));
            late += one.sampler.counters().late;
            strays += one.timeline.desk().counters().strays;
            ignored += one.timeline.desk().counters().ignored;
        }
        EXPECT_EQ(batch.counters().late, late);
        EXPECT_EQ(batch.counters().ignored + batch.counters().strays, ignored + strays);
        EXPECT_EQ(batch.counters().refused, 0U);
    }
}

TEST(KeyboardBatch, WhatCannotBeIsRefusedAndCounted) {
    KeyboardBatch batch{{.players = 2, .start = Time{}, .events = 600}};
    const BatchEvent bad[] = {{at(1), 2, KeyW, BatchEventKind::down},       {at(1), 0, MouseLeft, BatchEventKind::down},
                              {at(1), 0, Shift, BatchEventKind::down},      {at(1), 0, Button{}, BatchEventKind::down},
                              {at(1), 0, Button{3}, BatchEventKind::state}, {at(1), 1, KeyW, BatchEventKind::down}};
    batch.advance(at(5), bad);
    EXPECT_EQ(batch.counters().refused, 5U);
    EXPECT_TRUE(batch[1][KeyW].pressed());
    EXPECT_EQ(batch[0].current().down, ButtonSet{});
    batch.advance(at(3), {});
    EXPECT_EQ(batch.counters().went_back, 1U);
    EXPECT_FALSE(batch[1][KeyW].pressed()) << "nothing fires twice";
    EXPECT_TRUE(batch[1][KeyW].down());
    // More than there is room for is refused, not written.
    std::vector<BatchEvent> flood;
    for (int i = 0; i < 5000; ++i) flood.push_back({at(1000), 0, KeyS, BatchEventKind::down});
    batch.advance(at(10), flood);
    EXPECT_EQ(batch.counters().refused, 5U + 4400U);
    for (BatchEvent& event : flood) event.time = at(15);
    batch.advance(at(20), flood);
    EXPECT_GT(batch.counters().refused, 5U + 4400U);
}

TEST(KeyboardBatch, MoreKeysThanThereIsRoomForAreRefused) {
    KeyboardBatch batch{{.players = 1, .start = Time{}, .holds = 3}};
    const BatchEvent events[] = {
        {at(1), 0, KeyW, BatchEventKind::down},      {at(2), 0, ShiftLeft, BatchEventKind::down},
        {at(3), 0, KeyS, BatchEventKind::down},      {at(4), 0, KeyW, BatchEventKind::system_repeat},
        {at(5), 0, ShiftLeft, BatchEventKind::up},   {at(6), 0, KeyS, BatchEventKind::down},
        {at(7), 0, ShiftRight, BatchEventKind::down}};
    batch.advance(at(10), events);
    EXPECT_EQ(batch.counters().refused, 2U);
    EXPECT_EQ(batch[0].current().down, (ButtonSet{KeyW, KeyS}));
    EXPECT_EQ(batch[0][Shift].down_span(), Duration{3});
}

TEST(KeyboardBatch, LevelsOfAllPlayersLieInARow) {
    KeyboardBatch batch{{.players = 3, .start = Time{}}};
    const BatchEvent events[] = {{at(1), 0, KeyA, BatchEventKind::down}, {at(2), 2, ShiftRight, BatchEventKind::down}};
    batch.advance(at(5), events);
    ASSERT_EQ(batch.levels().size(), 12U);
    EXPECT_EQ(batch.levels()[0], std::uint64_t{1} << KeyA.number);
    EXPECT_EQ(batch.levels()[11], std::uint64_t{1} << (ShiftRight.number - 192) | std::uint64_t{1} << (253 - 192));
    EXPECT_TRUE(batch[2][Shift].pressed());
}

}  // namespace
