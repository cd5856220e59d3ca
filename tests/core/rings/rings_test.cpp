// Rings, tables and shared values, in all that a reader can see while one writes: small cases, exhaustively.

#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>
#include <vector>

#include "core/axes/axis_slot.hpp"
#include "core/buttons/edge_ring.hpp"
#include "core/motion/motion_slot.hpp"
#include "core/random_events.hpp"
#include "core/rings/shared_value.hpp"
#include "support/model_atomic.hpp"
#include "support/scheduled_atomic.hpp"

namespace {

using namespace cursorum::detail;
using test::MemoryModel;
using test::ModelAtomic;

template <typename Value>
using Model = ModelAtomic<Value>;

using ModelRing = SlotRing<2, Model>;
constexpr std::uint64_t every = UINT64_MAX;

std::array<std::uint64_t, 2> words_at(std::uint64_t position) { return {100 + position, 200 + position}; }

/// Claims a slot only once it is written: what a reader must not be able to tell from a good one.
struct ClaimsTooLate : ModelRing {
    using ModelRing::ModelRing;
    struct Words {
        ModelAtomic<std::uint64_t> word[4];
        ModelAtomic<std::uint64_t> claimed{0}, published{0};
    } w;
    std::uint64_t next = 0;
    void write(const std::array<std::uint64_t, 2>& slot) {
        for (unsigned i = 0; i < 2; ++i) w.word[next % 2 * 2 + i].store(slot[i], std::memory_order_release);
        w.claimed.store(++next, std::memory_order_relaxed);
    }
    void publish() { w.published.store(next, std::memory_order_release); }
    std::uint64_t published() const { return w.published.load(std::memory_order_acquire); }
    std::uint64_t oldest() const { return 0; }
    bool try_read(std::uint64_t position, std::array<std::uint64_t, 2>& slot) const {
        for (unsigned i = 0; i < 2; ++i) slot[i] = w.word[position % 2 * 2 + i].load(std::memory_order_acquire);
        return w.claimed.load(std::memory_order_relaxed) - position <= 2;
    }
};

/// Writes so many events of so many slots, and counts the ways in which a reader who takes what is published meets a
/// slot that is not whole.
struct RingCheck {
    std::uint64_t runs = 0, torn = 0, read = 0, overrun = 0;
};
template <typename Ring>
RingCheck check_ring(unsigned events, unsigned slots_each, std::uint64_t from) {
    MemoryModel model;
    MemoryModel::current() = &model;
    Ring ring{2};
    std::uint64_t position = 0;
    for (unsigned e = 0; e < events; ++e) {
        for (unsigned s = 0; s < slots_each; ++s) ring.write(words_at(position++));
        ring.publish();
    }
    RingCheck check;
    check.runs = model.explore(
        [&] {
            const std::uint64_t end = ring.published();
            for (std::uint64_t at = from; at < end; ++at) {
                std::array<std::uint64_t, 2> slot;
                if (!ring.try_read(at, slot)) {
                    ++check.overrun;
                    continue;
                }
                ++check.read;
                check.torn += slot != words_at(at);
            }
        },
        every);
    return check;
}

TEST(SlotRing, AReaderNeverTakesATornSlot) {
    struct Row {
        unsigned events, slots_each;
        std::uint64_t from;
    };
    for (const Row& row : {Row{3, 1, 0}, Row{4, 1, 1}, Row{2, 2, 0}, Row{5, 1, 2}, Row{3, 2, 1}}) {
        const RingCheck check = check_ring<ModelRing>(row.events, row.slots_each, row.from);
        EXPECT_EQ(check.torn, 0U) << row.events << " events";
        EXPECT_GT(check.read, 0U) << row.events << " events";
        EXPECT_GT(check.overrun, 0U) << row.events << " events";
        EXPECT_GT(check.runs, 5U) << row.events << " events";
    }
}

TEST(SlotRing, ThisCheckFindsARingThatClaimsTooLate) { EXPECT_GT(check_ring<ClaimsTooLate>(3, 1, 0).torn, 0U); }

TEST(SlotRing, SeveralSlotsAreCheckedAtOnce) {
    MemoryModel model;
    MemoryModel::current() = &model;
    ModelRing ring{2};
    for (std::uint64_t i = 0; i < 4; ++i) ring.write_and_publish(words_at(i));
    std::uint64_t good = 0, torn = 0;
    model.explore(
        [&] {
            const std::uint64_t end = ring.published();
            if (end < 2) return;
            const auto a = ring.read(end - 2), b = ring.read(end - 1);
            if (!ring.still_has(end - 2)) return;
            ++good;
            torn += a != words_at(end - 2) || b != words_at(end - 1);
        },
        every);
    EXPECT_GT(good, 0U);
    EXPECT_EQ(torn, 0U);
}

// ---- the table of holds

Slot edge_slot(std::int64_t time, unsigned hold, bool down, bool first = true) {
    return Slot::of(time, make_tag(hold, false, 0), 4 + hold, 1,
                    What::of(down ? SlotKind::press : SlotKind::release, Effect::none, first, down));
}

/// Two holds go down and up, the last two edges in one event. Counts what a reader can take for the truth.
struct TableCheck {
    std::uint64_t runs = 0, wrong = 0, retries = 0;
    std::set<std::uint64_t> positions;
};
TableCheck check_table(bool show_before_publish) {
    MemoryModel model;
    MemoryModel::current() = &model;
    BasicEdgeRing<Model> ring{8};
    BasicHoldTable<Model> table{2};
    const std::vector<std::vector<Slot>> events{
        {edge_slot(1, 0, true)}, {edge_slot(2, 1, true)}, {edge_slot(3, 0, false), edge_slot(3, 1, false, false)}};
    // The truth behind each event: times and levels of both holds.
    std::map<std::uint64_t, std::array<Slot, 2>> truth;
    std::array<Slot, 2> now{};
    std::uint64_t position = 0;
    truth[0] = now;
    for (const auto& event : events) {
        for (const Slot& slot : event) {
            ring.write(slot);
            if (show_before_publish) table.show(hold_of(slot.tag()), slot);
            now[hold_of(slot.tag())] = slot;
            ++position;
        }
        ring.publish();
        if (!show_before_publish)
            for (const Slot& slot : event) table.show(hold_of(slot.tag()), slot);
        truth[position] = now;
    }
    TableCheck check;
    check.runs = model.explore(
        [&] {
            std::array<Slot, 2> holds{};
            Slot last{};
            if (!table.try_read(ring, 0, 2, holds.data(), position, last)) {
                ++check.retries;
                return;
            }
            check.positions.insert(position);
            for (unsigned i = 0; i < 2; ++i) {
                const Slot& expected = truth.at(position)[i];
                check.wrong += holds[i].time != expected.time || holds[i].packed != expected.packed;
            }
        },
        3'000'000);
    return check;
}

TEST(HoldTable, WhatAReaderTakesIsTheTruthAsOfOneEvent) {
    const TableCheck check = check_table(false);
    EXPECT_EQ(check.wrong, 0U);
    EXPECT_EQ(check.positions, (std::set<std::uint64_t>{0, 1, 2, 4}));
    EXPECT_LT(check.runs, 3'000'000U) << "not all of it was tried";
}

TEST(HoldTable, ThisCheckFindsATableShownTooEarly) { EXPECT_GT(check_table(true).wrong, 0U); }

// ---- rings of longer slots, whose first words stand twice, and tables beside them

struct LongSlot {
    std::uint64_t time = 0, place = 0, more[3]{};
    friend bool operator==(const LongSlot&, const LongSlot&) = default;
};
LongSlot long_slot(std::uint64_t time, std::uint64_t place) { return {time, place, {time + 10, time + 20, time + 30}}; }

TEST(WordRing, WhatIsReadAndThenStillThereIsWhole) {
    MemoryModel model;
    MemoryModel::current() = &model;
    WordRing<LongSlot, Model> ring{2};
    for (std::uint64_t i = 1; i <= 3; ++i) ring.write_and_publish(long_slot(i, 0));
    std::uint64_t whole = 0, torn = 0, gone = 0;
    model.explore(
        [&] {
            const std::uint64_t end = ring.published();
            if (end == 0) return;
            const std::uint64_t first = ring.first_word(end - 1);
            LongSlot slot;
            ring.read(end - 1, slot);
            if (!ring.still_has(end - 1)) {
                ++gone;
                return;
            }
            const bool good = slot == long_slot(end, 0) && first == slot.time;
            ++(good ? whole : torn);
        },
        every);
    EXPECT_GT(whole, 0U);
    EXPECT_GT(gone, 0U);
    EXPECT_EQ(torn, 0U);
}

struct ShortSlot {
    std::uint64_t time = 0, place = 0;
    friend bool operator==(const ShortSlot&, const ShortSlot&) = default;
};

/// Two places change in turn; how often a reader takes something for the truth that never was.
std::uint64_t wrong_tables(bool show_before_publish) {
    MemoryModel model;
    MemoryModel::current() = &model;
    WordRing<ShortSlot, Model> ring{8};
    SlotTable<ShortSlot, Model> table{2};
    std::map<std::uint64_t, std::array<ShortSlot, 2>> truth{{0, {}}};
    std::array<ShortSlot, 2> now{};
    for (std::uint64_t i = 1; i <= 4; ++i) {
        const ShortSlot slot{i, i % 2};
        if (show_before_publish) table.show(static_cast<unsigned>(slot.place), slot);
        ring.write_and_publish(slot);
        if (!show_before_publish) table.show(static_cast<unsigned>(slot.place), slot);
        now[slot.place] = slot;
        truth[i] = now;
    }
    std::uint64_t wrong = 0;
    model.explore(
        [&] {
            std::array<ShortSlot, 2> slots{};
            std::uint64_t position = 0;
            const auto place_of = [](const ShortSlot& slot) { return static_cast<unsigned>(slot.place); };
            if (table.try_read(ring, 0, 2, slots.data(), position, place_of)) wrong += slots != truth.at(position);
        },
        3'000'000);
    return wrong;
}

TEST(SlotTable, WhatAReaderTakesIsTheTruthAsOfOneSlot) { EXPECT_EQ(wrong_tables(false), 0U); }

TEST(SlotTable, ThisCheckFindsATableShownTooEarly) { EXPECT_GT(wrong_tables(true), 0U); }

// ---- values that one thread sets and any may read

struct Pair {
    std::uint64_t a = 0, b = 0;
};

/// Shows its words before they are whole: what a reader must not be able to tell from a good one.
struct ShownTooEarly {
    std::array<std::array<SingleWriter<std::uint64_t, Model>, 2>, 2> values;
    SingleWriter<std::uint32_t, Model> version;
    void set(const Pair& pair) {
        const std::uint32_t next = version.get() + 1;
        version.publish(next);
        values[next & 1][0].publish(pair.a);
        values[next & 1][1].publish(pair.b);
    }
    Pair read() const {
        for (;;) {
            const std::uint32_t before = version.look();
            const Pair pair{values[before & 1][0].look(), values[before & 1][1].look()};
            if (version.get() == before) return pair;
        }
    }
};

template <typename Shared>
std::uint64_t torn_values() {
    MemoryModel model;
    MemoryModel::current() = &model;
    Shared shared;
    for (std::uint64_t i = 1; i <= 4; ++i) shared.set({i, i});
    std::uint64_t torn = 0;
    std::set<std::uint64_t> seen;
    model.explore(
        [&] {
            const Pair pair = shared.read();
            torn += pair.a != pair.b;
            seen.insert(pair.a);
        },
        every);
    EXPECT_EQ(seen.size(), 5U) << "from none to the last, any may be read";
    return torn;
}

TEST(SharedValue, IsReadWhole) { EXPECT_EQ((torn_values<SharedValue<Pair, Model>>()), 0U); }

TEST(SharedValue, ThisCheckFindsOneShownTooEarly) { EXPECT_GT(torn_values<ShownTooEarly>(), 0U); }

// ---- however fast the producer is, a consumer comes to an end

template <typename Value>
using Scheduled = test::ScheduledAtomic<Value>;

/// Before each of the consumer's loads, a producer writes nothing, a slot, or up to several whole rings.
struct BusyProducer {
    explicit BusyProducer(std::uint64_t seed) : random{seed} { test::Schedule::current() = &schedule; }
    ~BusyProducer() { test::Schedule::current() = nullptr; }
    BusyProducer(const BusyProducer&) = delete;
    BusyProducer& operator=(const BusyProducer&) = delete;

    template <typename Write>
    std::uint64_t loads_of(const Write& write, const std::function<void()>& consume) {
        return schedule.run(
            [&] {
                if (random.one_in(3)) return;
                for (std::uint64_t n = random.one_in(4) ? random.below(200) : random.below(2); n > 0; --n) write();
            },
            consume);
    }
    test::Random random;
    test::Schedule schedule;
};

TEST(WordRing, ASearchEndsAfterAFewLooksAtAPlaceThatIsThere) {
    for (std::uint64_t seed = 1; seed <= 20'000; ++seed) {
        BusyProducer producer{seed};
        test::Random& random = producer.random;
        WordRing<LongSlot, Scheduled> ring{64};
        std::uint64_t time = 0;
        const auto write = [&] { ring.write_and_publish(long_slot(time += random.below(3), 0)); };
        for (std::uint64_t n = 1 + random.below(150); n > 0; --n) write();
        const std::uint64_t end = ring.published(), from = end - 1 - random.below(std::min<std::uint64_t>(end, 70));
        const auto wanted = static_cast<std::int64_t>(random.below(time + 3));
        const std::uint64_t guess = random.below(80);
        std::uint64_t found = 0;
        const std::uint64_t loads = producer.loads_of(write, [&] {
            found = random.one_in(2) ? ring.later_than(wanted, from, end, guess)
                                     : ring.quick_later_than(wanted, from, end, guess);
        });
        ASSERT_LE(loads, 50U) << "seed " << seed;
        ASSERT_TRUE(from <= found && found <= end) << "seed " << seed;
    }
}

TEST(SlotTable, CopyingEndsHoweverBusyTheProducerIs) {
    for (std::uint64_t seed = 1; seed <= 2'000; ++seed) {
        BusyProducer producer{seed};
        WordRing<ShortSlot, Scheduled> ring{8};
        SlotTable<ShortSlot, Scheduled> table{4};
        BasicEdgeRing<Scheduled> edges{8};
        BasicHoldTable<Scheduled> holds{4};
        std::uint64_t time = 0;
        const auto write = [&] {
            const ShortSlot slot{++time, time % 4};
            ring.write_and_publish(slot);
            table.show(static_cast<unsigned>(slot.place), slot);
            const Slot edge = edge_slot(static_cast<std::int64_t>(time), time % 4, true, time % 3 == 0);
            edges.write_and_publish(edge);
            holds.show(time % 4, edge);
        };
        write();
        std::array<ShortSlot, 4> slots{};
        std::array<Slot, 4> copied{};
        std::uint64_t position = 0;
        Slot last{};
        const auto place_of = [](const ShortSlot& slot) { return static_cast<unsigned>(slot.place); };
        bool is_whole = true;
        const std::uint64_t loads = producer.loads_of(write, [&] {
            is_whole &= try_often([&] { return table.try_read(ring, 0, 4, slots.data(), position, place_of); });
            is_whole &= try_often([&] { return holds.try_read(edges, 0, 4, copied.data(), position, last); });
        });
        ASSERT_LE(loads, 2U * 16 * (2 + 8 + 2 * 3 * 9)) << "seed " << seed;
        ASSERT_TRUE(!is_whole || last.time == static_cast<std::int64_t>(position)) << "seed " << seed;
    }
}

TEST(SharedValue, ReadingEndsHoweverBusyTheWriterIs) {
    for (std::uint64_t seed = 1; seed <= 200; ++seed) {
        BusyProducer producer{seed};
        SharedValue<Pair, Scheduled> shared;
        std::uint64_t value = 0;
        const auto write = [&] { shared.set({++value, value}); };
        const std::uint64_t loads = producer.loads_of(write, [&] { shared.read(); });
        ASSERT_LE(loads, 64U * 4) << "seed " << seed;
    }
}

}  // namespace
