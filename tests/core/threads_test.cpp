// Four threads post, four threads sample, each at its own pace; at the end every count is compared.

#include <gtest/gtest.h>

#include <atomic>
#include <deque>
#include <thread>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/sanitizers.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr unsigned producers = 4;
constexpr unsigned events_each = test::under_any_sanitizer ? 20'000 : 100'000;
constexpr Button keys[] = {KeyW, KeyS, Space, ShiftLeft, ShiftRight, F1};

/// What one producer posts: its keys go down and up, and every third event is motion.
struct Posting {
    struct Item {
        std::int64_t time;
        Button button;  // none: motion
        bool down;
    };
    explicit Posting(unsigned number) : device{11 + number} {
        test::Random random{number + 1};
        bool down[std::size(keys)] = {};
        std::int64_t now = 0;
        for (unsigned i = 0; i < events_each; ++i) {
            now += 1 + static_cast<std::int64_t>(random.below(50));
            if (i % 3 == 2) {
                items.push_back({now, {}, false});
                continue;
            }
            const auto key = static_cast<unsigned>(random.below(std::size(keys)));
            items.push_back({now, keys[key], down[key] = !down[key]});
        }
    }
    std::vector<Item> items;
    DeviceId device;
};

class Threads : public testing::Test {
protected:
    Threads() {
        for (unsigned i = 0; i < producers; ++i) {
            postings.emplace_back(i);
            timeline.inlet(i).connect(postings[i].device, {.name = "one of four", .is_virtual = i % 2 != 0}, Time{});
            timeline.inlet(i).state(postings[i].device, {}, Time{});
        }
    }

    void produce(unsigned number) {
        Inlet& inlet = timeline.inlet(number);
        const Posting& posting = postings[number];
        for (unsigned i = 0; i < events_each; ++i) {
            // Nobody who posts ever waits for a sampler, but one of these shall see everything.
            const Posting::Item& item = posting.items[i];
            while (item.time > careful_cut.load() + 20'000) std::this_thread::yield();
            const Time time = nanoseconds_since_zero(item.time);
            if (item.button == Button{})
                inlet.motion(posting.device, 0.5, -0.25, time);
            else
                inlet.button(posting.device, item.button, item.down, time);
            inlet.set_complete_until(time);
            posted_by_all.fetch_add(1);
        }
        inlet.set_complete_until(latest_time);
    }

    bool all_posted() const { return posted_by_all.load() == std::uint64_t{producers} * events_each; }

    Timeline timeline{{.inlets = producers, .devices = 2, .desk_devices = false}};
    std::deque<Posting> postings;
    std::atomic<std::uint64_t> posted_by_all{0};
    std::atomic<std::int64_t> careful_cut{0};
};

struct Totals {
    std::uint64_t presses = 0, edges = 0;
    double x = 0, y = 0;
    void add(const Frame& frame) {
        for (const Button key : keys) presses += frame[key].press_count();
        for ([[maybe_unused]] const Edge edge : frame.edges()) ++edges;
        x += frame.pointer().motion().x;
        y += frame.pointer().motion().y;
    }
};

TEST_F(Threads, EverySamplerComesToTheSameWhateverTheOthersDo) {
    const Time end = nanoseconds_since_zero(100'000'000);
    std::vector<Edge> seen;
    Totals careful_totals, greedy_totals, slow_totals;
    Sampler careful{timeline, {.start = Time{}}}, greedy{timeline, {.start = Time{}}},
        slow{timeline, {.start = Time{}}};
    std::uint64_t fresh_ones = 0;

    std::vector<std::thread> threads;
    for (unsigned i = 0; i < producers; ++i) threads.emplace_back([this, i] { produce(i); });
    // Cuts where everything is posted: nothing is late, and it is the one that is waited for.
    threads.emplace_back([&] {
        for (bool last = false; !last;) {
            last = all_posted();
            const Time complete = std::min(timeline.complete_until(earliest_time), end);
            if (complete < careful.frame().end()) continue;
            const Frame& frame = careful.advance(complete);
            for (const Edge edge : frame.edges()) seen.push_back(edge);
            careful_totals.add(frame);
            careful_cut.store(nanoseconds(complete));
        }
    });
    // Cuts somewhere ahead, so that much is late.
    threads.emplace_back([&] {
        for (bool last = false; !last;) {
            last = all_posted();
            const Time latest = timeline.inlet(0).latest() + Duration{2000};
            greedy_totals.add(greedy.advance(last ? end : std::clamp(latest, greedy.frame().end(), end)));
            greedy.peek(end);
            std::this_thread::yield();
        }
    });
    // Looks so seldom that it is overrun each time.
    threads.emplace_back([&] {
        for (unsigned part = 1; part <= 3; ++part) {
            while (posted_by_all.load() < std::uint64_t{producers} * events_each * part / 3) std::this_thread::yield();
            slow_totals.add(slow.advance(part == 3 ? end : slow.frame().end()));
        }
    });
    // New ones come and go, and someone looks at the devices.
    threads.emplace_back([&] {
        while (!all_posted()) {
            Sampler fresh{timeline,
                          {.start = nanoseconds_since_zero(timeline.inlet(1).latest().time_since_epoch().count() / 2)}};
            fresh.advance(end);
            ASSERT_EQ(timeline.find_device(DeviceId{12})->name(), "one of four");
            ++fresh_ones;
        }
    });
    for (std::thread& thread : threads) thread.join();

    // What was posted, in order: by time, then by inlet.
    std::vector<Edge> expected;
    std::uint64_t motions = 0;
    for (const Posting& posting : postings) {
        for (const Posting::Item& item : posting.items) {
            motions += item.button == Button{};
            if (item.button == Button{}) continue;
            expected.push_back({nanoseconds_since_zero(item.time), posting.device, item.button,
                                item.down ? EdgeKind::press : EdgeKind::release});
        }
    }
    std::stable_sort(expected.begin(), expected.end(), [](const Edge& a, const Edge& b) { return a.time < b.time; });
    ASSERT_EQ(seen.size(), expected.size());
    for (std::size_t i = 0; i < seen.size(); ++i) ASSERT_TRUE(seen[i] == expected[i]) << i;

    const std::uint64_t after_start = std::uint64_t{producers} * events_each, posted = after_start + 2 * producers;
    EXPECT_EQ(careful.counters().taken, after_start);
    EXPECT_EQ(careful.counters().late, 0U);
    EXPECT_EQ(careful.counters().lost, 0U);
    EXPECT_EQ(greedy.counters().taken + greedy.counters().lost, after_start);
    EXPECT_GT(greedy.counters().late, 0U);
    EXPECT_EQ(slow.counters().taken + slow.counters().lost, after_start);
    EXPECT_GT(slow.counters().overruns, 0U);
    std::uint64_t counted = 0;
    for (unsigned i = 0; i < producers; ++i) counted += timeline.inlet(i).counters().events;
    EXPECT_EQ(counted, posted);
    for (const Totals& totals : {careful_totals, greedy_totals, slow_totals}) {
        EXPECT_EQ(totals.x, static_cast<double>(motions) * 0.5);
        EXPECT_EQ(totals.y, static_cast<double>(motions) * -0.25);
    }
    if (greedy.counters().overruns == 0) {
        EXPECT_EQ(greedy_totals.edges, careful_totals.edges);
    }
    ButtonSet down;
    for (const Posting& posting : postings)
        for (const Button key : keys)
            if (timeline.find_device(posting.device)->down.contains(key)) down.insert(key);
    for (const Sampler* sampler : {&careful, &greedy, &slow}) {
        const ButtonSet known = sampler->frame().current().down - ButtonSet{Shift};
        EXPECT_EQ(known, down);
    }
    EXPECT_GT(fresh_ones, 0U);
}

TEST(WholeDesk, ArrivesWholeFromAnotherThread) {
    constexpr DeviceId mouse{2}, pad{3}, panel{5};
    constexpr int rounds = 20'000;
    Timeline timeline;
    Inlet& desk = timeline.desk();
    desk.connect(pad, {.kind = DeviceKind::gamepad}, nanoseconds_since_zero(0));
    desk.connect(panel, {.kind = DeviceKind::touch}, nanoseconds_since_zero(0));
    Sampler sampler{timeline, {.start = nanoseconds_since_zero(0)}};
    Rumble rumble;
    struct Motors final : RumbleSink {
        bool try_rumble(const RumbleRequest& request, Time) override {
            last = request;
            return true;
        }
        RumbleRequest last;
    } motors;
    std::thread producer{[&] {
        RumbleCarrier carrier{rumble, desk, motors};
        for (int i = 1; i <= rounds; ++i) {
            const Time now = nanoseconds_since_zero(i * 10);
            desk.motion(mouse, 1, 2, now);
            desk.moved_to(mouse, WindowPoint{double(i), double(i)}, now);
            desk.stick(pad, controls::PadStickLeft, i % 9 / 8.0, i % 5 / 4.0, now);
            desk.button(mouse, controls::MouseLeft, i % 2 != 0, now);
            desk.contact(panel, 1, i % 2 != 0 ? ContactPhase::begin : ContactPhase::end, i, i, 1, now);
            if (i % 100 == 0)
                desk.set_shaping(pad, {.thresholds = {.press = 0.6, .release = i % 200 == 0 ? 0.3 : 0.4}}, now);
            carrier.carry_out(now);
            desk.set_complete_until(now);
        }
        desk.set_complete_until(latest_time);
    }};
    double x = 0;
    std::uint64_t clicks = 0, contacts = 0, samples = 0;
    const Frame* frame = nullptr;
    for (bool ends = false; !ends;) {
        const Time complete = timeline.complete_until(earliest_time);
        ends = complete == latest_time;
        frame = &sampler.advance(ends ? nanoseconds_since_zero(rounds * 10 + 1)
                                      : std::max(complete, sampler.frame().end()));
        const PointerReading pointer = frame->pointer();
        x += pointer.motion().x;
        for (const Click& click : pointer.clicks()) clicks += click.to.x - click.from.x == 1;
        for (const PointerSample& sample : pointer.samples()) samples += sample.has_position;
        frame->for_each_contact([&](const ContactReading& contact) { contacts += contact.ended; });
        const Vector2 stick = frame->stick(controls::PadStickLeft).now;
        ASSERT_LE(stick.x * stick.x + stick.y * stick.y, 1);
        rumble.ask({pad, 0.25, 0.5, Duration{1000}});
    }
    producer.join();
    const bool missed = sampler.counters().lost != 0 || sampler.counters().overruns != 0;
    // Positions add one a round, motion another; the first position does not count as motion. No distance is ever lost.
    EXPECT_EQ(x, 2 * rounds - 1);
    EXPECT_EQ(frame->pointer().position(), (WindowPoint{rounds, rounds}));
    EXPECT_EQ(frame->raw_axis(controls::PadStickLeftX).now, rounds % 9 / 8.0);
    EXPECT_TRUE(missed || clicks == rounds / 2) << clicks;
    EXPECT_TRUE(missed || contacts == rounds / 2) << contacts;
    EXPECT_TRUE(missed || samples >= 2 * rounds - 1) << samples;
    EXPECT_EQ(motors.last.device, pad);
}

#ifndef NDEBUG
TEST(ThreadsDeathTest, TwoThreadsInOneInletAreNoticed) {
    testing::FLAGS_gtest_death_test_style = "threadsafe";
    EXPECT_DEATH(
        {
            Timeline timeline;
            std::atomic<bool> on{true};
            std::thread other{[&] {
                while (on) timeline.desk().button(KeyW, true, Time{});
            }};
            for (int i = 0; i < 100'000'000; ++i) timeline.desk().button(KeyS, true, Time{});
            on = false;
            other.join();
        },
        "two threads at once");
}
#endif

}  // namespace
