// Posting, advancing and reading allocate nothing: operator new is counted.

#include <gtest/gtest.h>

#include <array>
#include <new>

#include "core/random_events.hpp"
#include "cursorum/core/device_ids.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/snapshot_packing.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/cursorum.hpp"
#include "support/count_allocations.hpp"

namespace {

using namespace cursorum;
using test::allocations;

TEST(Allocation, TheCounterCounts) {
    const unsigned long before = allocations;
    ::operator delete(::operator new(1));
    EXPECT_EQ(allocations - before, 1U);
}

TEST(Allocation, ASamplerTakesWhatItsHistoryCanFill) {
    for (const unsigned inlets : {1U, 4U, 32U}) {
        const Timeline timeline{{.inlets = inlets}};
        const TimelineOptions usual;
        const unsigned long slots =
            inlets * (usual.history + usual.motion_history + usual.axis_history + usual.occasion_history);
        const unsigned long before = test::allocated_bytes;
        const Sampler alone{timeline, {.start = Time{}, .peeking = false}};
        const unsigned long own = test::allocated_bytes - before;
        EXPECT_LE(own, 28 * slots + 64UL * inlets * usual.text_history + 150 * 1024) << inlets << " inlets";
        const Sampler peeking{timeline, {.start = Time{}}};
        EXPECT_LE(test::allocated_bytes - before - own, 2 * own) << "peeking doubles it";
    }
}

TEST(Allocation, ASavedStateHoldsWhatIsInUse) {
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}, .peeking = false}};
    const std::size_t idle = sampler.save().bytes().size();
    const auto at = [](std::int64_t time) { return Time{Duration{time}}; };
    const DeviceId pad{9};
    timeline.desk().connect(pad, {.kind = DeviceKind::gamepad}, at(1));
    for (const Button key : {controls::KeyW, controls::KeyA, controls::Space, controls::ShiftLeft})
        timeline.desk().button(key, true, at(2));
    timeline.desk().button(pad, controls::PadSouth, true, at(2));
    timeline.desk().stick(pad, controls::PadStickLeft, 0.6, 0.3, at(3));
    sampler.advance(at(4));
    EXPECT_LE(sampler.save().bytes().size(), 1024U);
    timeline.desk().lose_focus(at(5));
    sampler.advance(at(6));
    EXPECT_EQ(sampler.save().bytes().size(), idle) << "all is up and at rest again";
}

TEST(Allocation, NoneWhilePostingAdvancingAndReading) {
    Timeline timeline{{.devices = 5, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}}, seldom{timeline, {.start = Time{}}};
    TickClock ticks{hertz(60), at_most(5), Time{}};
    test::RandomEvents events{7};
    std::uint64_t sum = 0;
    const unsigned long before = allocations;
    for (int i = 0; i < 20'000; ++i) {
        timeline.desk().post(events.next());
        if (i % 4 != 0) continue;
        const Frame& frame = sampler.advance(nanoseconds_since_zero(events.now()));
        for (const Button button : test::random_buttons) {
            sum += frame[button].pressed() + frame[button].steps() + frame[button].figures().adopt_count();
            sum += frame.on(DeviceId{2})[button].down();
        }
        for (const Edge edge : frame.edges()) sum += static_cast<std::uint64_t>(edge.kind);
        sum += frame.any({controls::KeyW, controls::KeyS}).down() + frame.active().size();
        sum += frame.all_pressed().size() + frame.newest({controls::KeyW, controls::KeyS}).number;
        frame.for_each_merged_edge([&](const Edge& edge) { sum += edge.button.number; });
        sum += frame.count_of(DeviceKind::keyboard) + frame.device(DeviceKind::keyboard, 0).has_value();
        sum += compare(frame.previous(), frame.current())[controls::KeyW].pressed();
        const Sampler::State saved = sampler.save();
        sampler.restore(saved);
        sampler.set_repeat(controls::KeyW, {Duration{5}, Duration{3}, 1});
        while (ticks.next(frame.end())) ++sum;
        sum += timeline.device(0).down.size() + find_button("KeyW").number + near_control_name("Keyw").size();
    }
    seldom.advance(nanoseconds_since_zero(events.now()));  // overrun, and healed
    EXPECT_EQ(allocations, before);
    EXPECT_GT(seldom.counters().overruns, 0U);
    EXPECT_GT(sum, 0U);
}

TEST(Allocation, NoneWithInletsPeekingAndPacking) {
    Timeline timeline{{.inlets = 3, .devices = 5, .motion_history = 64}};
    Sampler sampler{timeline, {.start = Time{}}};
    StandstillWatch watch{Duration{1'000'000'000}, Time{}};
    test::RandomEvents events{7, 11}, others{8, 21};
    std::uint64_t sum = 0;
    Snapshot before;
    std::array<std::byte, packed_snapshot_room> bytes;
    const unsigned long allocated = allocations;
    for (int i = 0; i < 20'000; ++i) {
        timeline.inlet(1).post(events.next());
        timeline.inlet(2).post(others.next());
        timeline.desk().motion(1, 2, nanoseconds_since_zero(events.now()));
        timeline.inlet(1).set_complete_until(nanoseconds_since_zero(events.now()));
        if (i % 4 != 0 && i % 5000 < 2000) continue;
        if (i % 5000 >= 2000 && i % 5000 != 4999) continue;  // long enough for an overrun
        const Frame& frame = sampler.advance(nanoseconds_since_zero(events.now()));
        sum += sampler.peek(frame.end() + Duration{100})[controls::KeyW].down();
        sum += frame.latency().events + frame.has_input_from(Origin::program) + timeline.device_count();
        sum += frame.on(Origin::person)[controls::KeyW].steps();
        sum += static_cast<std::uint64_t>(frame.pointer().motion().x) +
               (timeline.complete_until(earliest_time) < frame.end());
        const Snapshot now = frame.current();
        Snapshot unpacked;
        sum += pack(now, bytes);
        const std::size_t size = pack_difference(before, now, bytes);
        sum += try_unpack(std::span{bytes}.first(size), before, unpacked) == Unpacking::done;
        before = now;
        sum += watch.look(frame.end()).has_value();
    }
    EXPECT_EQ(allocations, allocated);
    EXPECT_GT(sampler.counters().overruns, 0U);
    EXPECT_GT(sum, 0U);
}

TEST(Allocation, NoneWithAWholeDesk) {
    constexpr DeviceId pad{3}, panel{5};
    Timeline timeline{{.axis_history = 64, .occasion_history = 256}};
    Inlet& desk = timeline.desk();
    desk.connect(pad, {.kind = DeviceKind::gamepad}, Time{});
    desk.connect(panel, {.kind = DeviceKind::touch, .first_contact_points = true}, Time{});
    Sampler sampler{timeline, {.start = Time{}}}, seldom{timeline, {.start = Time{}}};
    Seats seats{2};
    seats.give(pad, 0);
    Rumble rumble;
    DeviceIds places{DeviceId{10}};
    struct Motors final : RumbleSink {
        bool try_rumble(const RumbleRequest&, Time) override { return true; }
    } motors;
    RumbleCarrier carrier{rumble, desk, motors};
    std::uint64_t sum = 0;
    const unsigned long allocated = allocations;
    for (int i = 1; i < 20'000; ++i) {
        const Time now = nanoseconds_since_zero(i * 1000);
        desk.moved_to(WindowPoint{double(i % 300), double(i % 200)}, now);
        desk.wheel(0, 0.3, now);
        desk.stick(pad, controls::PadStickLeft, i % 5 / 4.0, i % 3 / 2.0, now);
        desk.button(controls::MouseLeft, i % 4 < 2, now);
        desk.contact(panel, 1, i % 2 != 0 ? ContactPhase::begin : ContactPhase::end, 1, 2, 1, now);
        desk.set_shaping(pad, {}, now);
        rumble.ask({pad, 0.5, 0.5, Duration{1000}});
        sum += carrier.carry_out(now);
        if (i % 4000 == 0) seldom.advance(now);
        if (i % 7 != 0) continue;
        const Frame& frame = sampler.advance(now);
        seats.read(frame);
        const PointerReading pointer = frame.pointer();
        for (const PointerSample& sample : pointer.samples()) sum += sample.position.x > 1;
        for (const Click& click : pointer.clicks()) sum += click.count;
        sum += pointer.target({0, 0, 50, 50}).clicks + pointer.drag(controls::MouseLeft).active;
        sum += frame.stick(controls::PadStickLeft).now.x > 0.5 && frame.raw_axis(controls::PadStickLeftX).greatest > 0;
        frame.for_each_raw_axis([&](const DeviceAxis& axis) { sum += axis.value > 0; });
        frame.for_each_contact([&](const ContactReading& contact) { sum += contact.ended; });
        frame.for_each_device_change([&](const DeviceChange& change) { sum += change.connected; });
        sum += seats[0][controls::PadStickLeftRight].steps() + seats.change_count();
        sum += places.connect({.kind = DeviceKind::gamepad}, "x", now).has_value();
        sum += frame.latency().events;
    }
    EXPECT_EQ(allocations, allocated);
    EXPECT_GT(seldom.counters().overruns, 0U);
    EXPECT_GT(sum, 10'000U);
}

}  // namespace
