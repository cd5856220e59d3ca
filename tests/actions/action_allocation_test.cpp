// Reading frames as actions allocates nothing: operator new is counted.

#include <gtest/gtest.h>

#include "core/random_events.hpp"
#include "cursorum/actions/action_packing.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;
using test::allocations;

/// Buttons and vectors in turn.
Profile profile_of(std::uint16_t count) {
    Profile profile;
    profile.modes = {{.name = "m"}};
    for (std::uint16_t i = 0; i < count; ++i) {
        const bool is_vector = i % 2 != 0;
        Action action{.name = "a" + std::to_string(i), .kind = is_vector ? ActionKind::vector : ActionKind::button};
        action.bindings.push_back(is_vector ? Binding{.kind = Binding::Kind::stick, .stick = controls::PadStickLeft}
                                            : Binding{.buttons = {Button{static_cast<std::uint16_t>(4 + i / 2 % 32)}}});
        profile.modes[0].actions.push_back(action);
    }
    EXPECT_EQ(profile.problem(), std::nullopt);
    return profile;
}

TEST(Allocation, AReaderIsAsLargeAsItsProfileNeeds) {
    struct Row {
        std::uint16_t actions;
        std::size_t state, reader;
    };
    for (const Row& row : {Row{0, 11'000, 80'000}, Row{64, 20'000, 100'000}, Row{512, 80'000, 450'000}}) {
        const Profile profile = profile_of(row.actions);
        const unsigned long before = test::allocated_bytes;
        const ActionReader reader{profile};
        EXPECT_LE(test::allocated_bytes - before, row.reader) << row.actions;
        EXPECT_LE(reader.state_size(), row.state) << row.actions;
        const unsigned long reader_only = test::allocated_bytes;
        ActionReader::State saved = reader.save();
        EXPECT_EQ(test::allocated_bytes - reader_only, reader.state_size());
    }
}

TEST(Allocation, NoneWhileReadingActions) {
    Profile profile{.title = "", .modes = {{.name = "m"}, {.name = "cover", .covers = true, .text = true}}};
    Action both{.name = "both"}, lift{.name = "lift", .kind = ActionKind::axis},
        way{.name = "way", .kind = ActionKind::vector};
    both.bindings = {{.buttons = {controls::Shift, controls::KeyW}}, {.buttons = {controls::Space}}};
    lift.bindings = {{.kind = Binding::Kind::pair, .buttons = {controls::KeyW, controls::KeyS}},
                     {.kind = Binding::Kind::axis, .axis = controls::PadPullLeft}};
    lift.rise = Duration{50};
    way.bindings = {{.kind = Binding::Kind::stick, .stick = controls::PadStickLeft}, {.kind = Binding::Kind::motion}};
    Action held{.name = "held"}, zoom{.name = "zoom"};
    held.bindings = {{.in_order = true, .buttons = {controls::KeyW, controls::KeyS}},
                     {.kind = Binding::Kind::lock, .lock = controls::CapsLock}};
    held.gesture = Gesture::long_press;
    held.gesture_time = held.debounce = held.buffer = Duration{10};
    zoom.bindings = {{.kind = Binding::Kind::wheel_step, .buttons = {controls::ShiftLeft}, .wheel_way = WheelWay::up},
                     {.kind = Binding::Kind::wheel_step, .wheel_way = WheelWay::down}};
    profile.modes[0].actions = {both, lift, way, held, zoom};
    ASSERT_FALSE(profile.problem());
    ActionReader reader{profile};
    const ActionPacker packer{profile};
    std::array<std::byte, 64> bytes{};
    ASSERT_LE(packer.most_bytes(), bytes.size());
    Timeline timeline{{.devices = 6, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    const DeviceId pad{9};
    timeline.desk().connect(pad, {.kind = DeviceKind::gamepad, .background = true}, Time{});
    test::RandomEvents events{11};
    double sum = 0;
    std::optional<ClaimId> claim;
    ActionReader::State saved = reader.save();
    const unsigned long before = allocations;
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().post(events.next());
        if (i % 5 == 0)
            timeline.desk().axis(pad, controls::PadStickLeftX, (i % 64) / 64.0, nanoseconds_since_zero(events.now()));
        if (i % 7 == 0) timeline.desk().wheel(pad, 0, i % 3 - 1, nanoseconds_since_zero(events.now()));
        if (i % 50 == 0)
            timeline.desk().locks({i % 100 == 0 ? controls::CapsLock : controls::NumLock},
                                  nanoseconds_since_zero(events.now()));
        if (i % 11 == 0) timeline.desk().typed("box", controls::KeyW, nanoseconds_since_zero(events.now()));
        if (i % 4 != 0) continue;
        if (i % 200 == 0) reader.inject(ButtonAction{0}, i % 400 == 0, sampler.frame().end());
        Claim device;
        device.device = DeviceId{1};
        device.everything = i % 2000 == 0;
        if (i % 1000 == 0) claim = reader.claim(device);
        if (i % 1000 == 500) reader.end_claim(*claim);
        if (i % 96 == 0) reader.is_open(ModeHandle{0}) ? reader.close(ModeHandle{0}) : reader.open(ModeHandle{0});
        if (i % 480 == 0) reader.is_open(ModeHandle{1}) ? reader.close(ModeHandle{1}) : reader.open(ModeHandle{1});
        reader.read(sampler.advance(nanoseconds_since_zero(events.now())));
        sum += reader[ButtonAction{0}].figures().press_count() + reader[AxisAction{1}].integral +
               reader[VectorAction{2}].value.x + reader.consume_press(ButtonAction{3}) +
               reader[VectorAction{2}].relative.x;
        sum += static_cast<double>(reader.typing(ModeHandle{1}).size());
        for (const TextPiece& piece : reader.text_of(ModeHandle{1})) sum += static_cast<double>(piece.text.size());
        sum += static_cast<double>(packer.pack(packer.round(reader), bytes));
        reader.save_to(saved);
        EXPECT_TRUE(reader.restore(saved));
        EXPECT_FALSE(reader.restore({})) << "never saved";
    }
    EXPECT_EQ(allocations, before);
    EXPECT_NE(sum, 0);
}

}  // namespace
