#include "cursorum/core/snapshot_packing.hpp"

#include <gtest/gtest.h>

#include <array>
#include <optional>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using Bytes = std::vector<unsigned>;

std::span<const std::byte> span_of(const std::vector<std::byte>& bytes) { return bytes; }
std::vector<std::byte> bytes_of(const Bytes& numbers) {
    std::vector<std::byte> bytes;
    for (const unsigned number : numbers) bytes.push_back(static_cast<std::byte>(number));
    return bytes;
}
std::vector<std::byte> packed(const Snapshot& snapshot, const Snapshot* base = nullptr) {
    std::vector<std::byte> bytes(packed_snapshot_room);
    bytes.resize(base ? pack_difference(*base, snapshot, bytes) : pack(snapshot, bytes));
    return bytes;
}
Snapshot random_snapshot(test::Random& random) {
    Snapshot snapshot;
    snapshot.time =
        nanoseconds_since_zero(static_cast<std::int64_t>(random.below(std::uint64_t{1} << random.below(61))));
    if (random.one_in(2)) snapshot.time = nanoseconds_since_zero(-nanoseconds(snapshot.time));
    const std::uint64_t density = 1 + random.below(60);
    for (std::uint16_t i = 0; i < button_capacity; ++i)
        if (!name_of(Button{i}).empty() && random.one_in(density)) snapshot.down.insert({i});
    return snapshot;
}

const Snapshot example{nanoseconds_since_zero(16'666'666), {KeyW, Space}};

TEST(SnapshotPacking, ItsBytesAreAsTheFormatSays) {
    EXPECT_EQ(packed(example), bytes_of({0x01, 0x00, 0xd4, 0xc0, 0xf2, 0x0f, 0x02, 0x1a, 0x12}));
    const Snapshot next{nanoseconds_since_zero(33'333'333), {KeyW}};
    const std::vector<std::byte> difference = packed(next, &example);
    ASSERT_EQ(difference.size(), 12U);
    EXPECT_EQ(std::vector<std::byte>(difference.begin() + 6, difference.end()),
              bytes_of({0xd6, 0xc0, 0xf2, 0x0f, 0x01, 0x2c}));
}

TEST(SnapshotPacking, WhatIsUnpackedIsWhatWasPacked) {
    for (std::uint64_t seed = 1; seed <= 3000; ++seed) {
        test::Random random{seed};
        const Snapshot base = random_snapshot(random), next = random_snapshot(random);
        Snapshot whole, difference;
        ASSERT_EQ(try_unpack(packed(next), whole), Unpacking::done) << seed;
        ASSERT_EQ(whole, next) << seed;
        ASSERT_EQ(try_unpack(packed(next, &base), base, difference), Unpacking::done) << seed;
        ASSERT_EQ(difference, next) << seed;
    }
}

TEST(SnapshotPacking, AllButtonsAtTheEndOfTimeStillFit) {
    Snapshot all{latest_time, {}};
    for (std::uint16_t i = 0; i < button_capacity; ++i)
        if (!name_of(Button{i}).empty()) all.down.insert({i});
    const Snapshot none{earliest_time, {}};
    EXPECT_FALSE(packed(all).empty());
    Snapshot unpacked;
    EXPECT_EQ(try_unpack(packed(all, &none), none, unpacked), Unpacking::done);
    EXPECT_EQ(unpacked, all);
}

// What could not be unpacked is not packed: times out of range, buttons without a name.
TEST(SnapshotPacking, WritesOnlyWhatCanBeRead) {
    Snapshot odd{Time{Duration::max()}, {KeyW}};
    const Button nameless{first_either_side - 1};
    ASSERT_EQ(name_of(nameless), "");
    odd.down.insert(nameless);
    for (const Snapshot& base : {odd, Snapshot{Time{Duration::min()}, odd.down}, Snapshot{}}) {
        Snapshot whole, difference;
        ASSERT_EQ(try_unpack(packed(odd), whole), Unpacking::done);
        EXPECT_EQ(whole, (Snapshot{latest_time, {KeyW}}));
        ASSERT_EQ(try_unpack(packed(odd, &base), base, difference), Unpacking::done);
        EXPECT_EQ(difference, whole);
    }
}

TEST(SnapshotPacking, TooLittleRoomWritesNothingBeyond) {
    for (std::size_t room = 0; room < 9; ++room) {
        std::array<std::byte, 16> bytes;
        bytes.fill(std::byte{0xEE});
        EXPECT_EQ(pack(example, std::span{bytes}.first(room)), 0U);
        EXPECT_EQ(bytes[room], std::byte{0xEE});
    }
}

TEST(SnapshotPacking, BadBytesAreRefusedWithTheReason) {
    struct Row {
        Bytes bytes;
        Unpacking expected;
    };
    const Row rows[] = {
        {{}, Unpacking::truncated},
        {{1}, Unpacking::truncated},
        {{1, 0, 0, 1}, Unpacking::truncated},
        {{1, 0, 0, 0, 0}, Unpacking::too_long},
        {{2, 0, 0, 0}, Unpacking::unknown_version},
        {{1, 7, 0, 0}, Unpacking::unknown_kind},
        {{1, 1, 0, 0}, Unpacking::is_difference},
        {{1, 0, 0x80, 0, 0}, Unpacking::bad_number},
        {{1, 0, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x02, 0}, Unpacking::bad_number},
        {{1, 0, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x01, 0}, Unpacking::bad_time},
        {{1, 0, 0, 1, 0}, Unpacking::bad_button},
        {{1, 0, 0, 2, 26, 0}, Unpacking::bad_button},
        {{1, 0, 0, 1, 0xff, 0x7f}, Unpacking::bad_button},
        {{1, 0, 0, 0xff, 0x7f}, Unpacking::bad_button},
        {{1, 0, 0, 0}, Unpacking::done},
    };
    for (const Row& row : rows) {
        Snapshot snapshot = example;
        EXPECT_EQ(try_unpack(bytes_of(row.bytes), snapshot), row.expected) << testing::PrintToString(row.bytes);
        EXPECT_EQ(snapshot == example, row.expected != Unpacking::done) << testing::PrintToString(row.bytes);
        EXPECT_FALSE(describe(row.expected).empty());
    }
    Snapshot snapshot;
    EXPECT_EQ(try_unpack(packed(example), Snapshot{}, snapshot), Unpacking::is_whole);
    const Snapshot base{nanoseconds_since_zero(5), {KeyW}}, other{nanoseconds_since_zero(5), {KeyS}};
    EXPECT_EQ(try_unpack(packed(example, &base), other, snapshot), Unpacking::other_base);
}

TEST(SnapshotPacking, NoBytesDoHarmAndEverySnapshotHasOneForm) {
    unsigned accepted = 0;
    for (std::uint64_t seed = 1; seed <= test::usual_count(60'000); ++seed) {
        test::Random random{seed};
        const Snapshot base = random_snapshot(random);
        std::vector<std::byte> bytes = packed(random_snapshot(random), random.one_in(2) ? &base : nullptr);
        // Cut, lengthened, or with a few bits turned.
        if (random.one_in(3)) bytes.resize(random.below(bytes.size() + 3));
        for (std::uint64_t i = random.below(3); i > 0 && !bytes.empty(); --i)
            bytes[random.below(bytes.size())] ^= static_cast<std::byte>(1U << random.below(8));
        Snapshot snapshot;
        if (try_unpack(span_of(bytes), snapshot) == Unpacking::done) {
            ASSERT_EQ(packed(snapshot), bytes) << seed;
            ++accepted;
        }
        if (try_unpack(span_of(bytes), base, snapshot) == Unpacking::done) {
            ASSERT_EQ(packed(snapshot, &base), bytes) << seed;
            ++accepted;
        }
    }
    EXPECT_GT(accepted, 1000U);
}

}  // namespace
