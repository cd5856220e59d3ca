// Frames of actions as bytes.

#include "cursorum/actions/action_packing.hpp"

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <cstring>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"

namespace {

using namespace cursorum;
using test::ActionRun;
using test::profile_of;

constexpr const char* quay = R"(
[mode.m.action.go]
kind = "button"
bind = ["KeyW"]
[mode.m.action.stop]
kind = "button"
bind = ["KeyS"]
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyA", plus = "KeyD" }, { wheel = "y" }]
rise = "40ns"
fall = "13ns"
[mode.m.action.travel]
kind = "vector"
bind = [{ left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }, { motion = "both" }]
rise = "30ns"
)";

using Bytes = std::array<std::byte, 64>;

std::span<const std::byte> first(const Bytes& bytes, std::size_t count) { return std::span{bytes}.first(count); }

TEST(ActionPacking, TakesAFewBytesAndComesBackAsItWas) {
    ActionRun run{profile_of(quay), "go"};
    const ActionPacker packer{run.profile};
    const ButtonAction go = *run.profile.find_button("go"), stop = *run.profile.find_button("stop");
    const VectorAction travel = *run.profile.find_vector("travel");
    const AxisAction lift = *run.profile.find_axis("lift");
    Bytes bytes;
    run.run("open:m |10");
    EXPECT_EQ(packer.pack(packer.round(run.reader), bytes), 1U) << "four idle actions";
    EXPECT_EQ(bytes[0], std::byte{0});
    run.run("12+W 14-W 15+W 16+S |20");
    ActionFrame there;
    const ActionFrame here = packer.round(run.reader);
    const std::size_t count = packer.pack(here, bytes);
    EXPECT_EQ(count, 8U) << "11 + 11 bits of buttons, 1 of an axis at rest, 34 of a vector";
    ASSERT_TRUE(packer.unpack(first(bytes, count), there));
    EXPECT_EQ(there, here);
    EXPECT_EQ(there[go], (ActionFrame::Button{true, true, 2, 1, 2}));
    EXPECT_TRUE(there[go].pressed() && there[go].released() && there[go].down() && there[go].ended());
    EXPECT_EQ(there[stop], (ActionFrame::Button{true, false, 1, 0, 1}));
    EXPECT_NEAR(there[travel].value.y, run.reader[travel].value.y, 1.0 / 254);
    EXPECT_NEAR(there[travel].mean.y * 10e-9, run.reader[travel].integral.y, 10e-9 / 254);
    run.desk().wheel(DeviceId{2}, 0, -2.5, nanoseconds_since_zero(25));
    run.run("|30");
    const std::size_t more = packer.pack(packer.round(run.reader), bytes);
    ASSERT_TRUE(packer.unpack(first(bytes, more), there));
    EXPECT_EQ(there[go], (ActionFrame::Button{true})) << "just held: two bits";
    EXPECT_EQ(there[lift].relative, -2.5);
    EXPECT_EQ(there[AxisAction{99}], ActionFrame::Axis{});
}

TEST(ActionPacking, RoundsAsItDeclares) {
    for (const unsigned bits : {4U, 8U, 12U, 16U}) {
        test::Random random{bits};
        ActionRun run{profile_of("[mode.m.action.lift]\nkind = \"axis\"\nbind = []\n"
                                 "[mode.m.action.travel]\nkind = \"vector\"\nbind = []\n"),
                      "lift"};
        const ActionPacker packer{run.profile, {.value_bits = bits}};
        const double most_off = 1 / (std::exp2(bits) - 2);
        run.run("open:m |1");
        for (int i = 2; i < 2000; ++i) {
            const auto number = [&] { return (static_cast<double>(random.below(20001)) - 10000) / 10000; };
            const double lift = number();
            const Vector2 v{number(), number()};
            const double length = std::hypot(v.x, v.y);
            const Vector2 unit = length > 1 ? Vector2{v.x / length, v.y / length} : v;
            run.reader.inject(AxisAction{0}, lift, nanoseconds_since_zero(i - 1));
            run.reader.inject(VectorAction{1}, v, nanoseconds_since_zero(i - 1));
            run.run("|" + std::to_string(i));
            const ActionFrame frame = packer.round(run.reader);
            ASSERT_NEAR(frame[AxisAction{0}].value, lift, most_off * 1.0001);
            const Vector2 unpacked = frame[VectorAction{1}].value;
            ASSERT_LE(unpacked.x * unpacked.x + unpacked.y * unpacked.y, 1) << "never longer than 1";
            // What would be longer than 1 is one step shorter.
            ASSERT_NEAR(unpacked.x, unit.x, 3.01 * most_off);
            ASSERT_NEAR(unpacked.y, unit.y, 3.01 * most_off);
        }
    }
}

TEST(ActionPacking, EveryFrameHasOneFormAndNoBytesDoHarm) {
    ActionRun run{profile_of(quay), "go"};
    const ActionPacker packer{run.profile};
    ASSERT_LE(packer.most_bytes(), sizeof(Bytes));
    run.run("open:m |0");
    int accepted = 0;
    for (std::uint64_t seed = 1; seed <= 4000; ++seed) {
        test::Random random{seed};
        const std::string now = std::to_string(seed * 10);
        run.desk().motion(DeviceId{2}, static_cast<double>(random.below(90000)) - 45000, 1.25,
                          nanoseconds_since_zero(static_cast<std::int64_t>(seed * 10 - 9)));
        run.run(std::to_string(seed * 10 - 5) + (random.one_in(2) ? '+' : '-') + "WASD"[random.below(4)] + " |" + now);
        const ActionFrame frame = packer.round(run.reader);
        Bytes bytes{}, again{};
        const std::size_t count = packer.pack(frame, bytes);
        ActionFrame back;
        ASSERT_TRUE(packer.unpack(first(bytes, count), back)) << "seed " << seed;
        ASSERT_EQ(back, frame) << "seed " << seed;
        EXPECT_FALSE(packer.unpack(first(bytes, count - 1), back)) << "cut off, seed " << seed;
        EXPECT_FALSE(packer.unpack(first(bytes, count + 1), back)) << "too long, seed " << seed;
        EXPECT_EQ(packer.pack(frame, std::span{again}.first(count - 1)), 0U) << "no room";
        ASSERT_EQ(back, frame) << "what is refused writes nothing";
        for (unsigned i = 0; i < 3; ++i) bytes[random.below(count)] ^= static_cast<std::byte>(1U << random.below(8));
        if (!packer.unpack(first(bytes, count), back)) continue;
        ++accepted;
        ASSERT_EQ(packer.pack(back, again), count) << "seed " << seed;
        ASSERT_EQ(std::memcmp(bytes.data(), again.data(), count), 0) << "seed " << seed;
    }
    EXPECT_GT(accepted, 100);
    EXPECT_LT(accepted, 3900) << "some mistakes are seen";
}

}  // namespace
