// Boot-protocol reports by rows, and a source that reads them from a file and a pipe.

#include <fcntl.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/hid_source.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using Bytes = std::vector<unsigned>;

std::vector<std::byte> bytes_of(const Bytes& numbers) {
    std::vector<std::byte> bytes;
    for (const unsigned number : numbers) bytes.push_back(static_cast<std::byte>(number));
    return bytes;
}

struct Desk {
    Desk(DeviceKind kind) : sampler{timeline, {.start = Time{}}} {
        timeline.desk().connect(DeviceId{7}, {.kind = kind, .name = "usb"}, Time{});
        timeline.desk().state(DeviceId{7}, {}, Time{});
        sampler.advance(Time{});
    }
    std::string edges() {
        now += Duration{10};
        return test::edges_text(sampler.advance(now));
    }
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler;
    InletSink sink{timeline.desk()};
    Time now{};
};

TEST(HidKeyboard, ReportsAreStates) {
    struct Row {
        Bytes report;
        HidResult result;
        const char* edges;
    };
    const Row rows[] = {
        {{0, 0, 0x1A, 0, 0, 0, 0, 0}, HidResult::taken, "1 7 KeyW press"},
        {{0, 0, 0x1A, 0x16, 0, 0, 0, 0}, HidResult::taken, "11 7 KeyS press"},
        {{0, 0, 0x16, 0x1A, 0, 0, 0, 0}, HidResult::taken, ""},  // the order says nothing
        {{0x22, 0, 0x16, 0, 0, 0, 0, 0},
         HidResult::taken,
         "31 7 KeyW release; 31 7 ShiftLeft press; 31 7 ShiftRight press"},
        {{0x02, 0, 1, 1, 1, 1, 1, 1}, HidResult::rollover, ""},
        {{0, 0, 0x16, 1, 0, 0, 0, 0}, HidResult::rollover, ""},
        {{0, 0, 3, 0, 0, 0, 0, 0}, HidResult::rollover, ""},
        {{0, 0, 0x16, 0, 0, 0, 0}, HidResult::truncated, ""},
        {{}, HidResult::truncated, ""},
        {{0, 0, 0xFF, 0, 0, 0, 0, 0, 9, 9},
         HidResult::taken,
         "91 7 KeyS release; 91 7 ShiftLeft release; 91 7 ShiftRight release"},
    };
    Desk desk{DeviceKind::keyboard};
    HidKeyboard keyboard{DeviceId{7}};
    for (const Row& row : rows) {
        EXPECT_EQ(keyboard.take(bytes_of(row.report), desk.now + Duration{1}, desk.sink), row.result);
        EXPECT_EQ(desk.edges(), row.edges) << testing::PrintToString(row.report);
    }
    EXPECT_EQ(keyboard.counters().reports, 5U);
    EXPECT_EQ(keyboard.counters().rollovers, 3U);
    EXPECT_EQ(keyboard.counters().truncated, 2U);
    EXPECT_EQ(keyboard.counters().unknown, 1U);
}

TEST(HidMouse, ReportsAreButtonsAndMotion) {
    struct Row {
        Bytes report;
        HidResult result;
        const char* edges;
        Distance motion;
    };
    const Row rows[] = {{{1, 0, 0}, HidResult::taken, "1 7 MouseLeft press", {}},
                        {{1, 5, 0xFE}, HidResult::taken, "", {5, -2}},
                        {{6, 0x80, 0x7F, 1},
                         HidResult::taken,
                         "21 7 MouseLeft release; 21 7 MouseMiddle press; 21 7 MouseRight press",
                         {-128, 127}},
                        {{6, 9}, HidResult::truncated, "", {}},
                        {{0xF8, 0, 0}, HidResult::taken, "41 7 MouseMiddle release; 41 7 MouseRight release", {}}};
    Desk desk{DeviceKind::mouse};
    HidMouse mouse{DeviceId{7}};
    for (const Row& row : rows) {
        EXPECT_EQ(mouse.take(bytes_of(row.report), desk.now + Duration{1}, desk.sink), row.result);
        EXPECT_EQ(desk.edges(), row.edges) << testing::PrintToString(row.report);
        EXPECT_EQ(desk.sampler.frame().pointer().motion(), row.motion) << testing::PrintToString(row.report);
    }
}

TEST(HidSource, ReadsAFileToItsEndAndDisconnects) {
    const auto path = std::filesystem::temp_directory_path() / ("hid_test_" + std::to_string(getpid()));
    const auto bytes =
        bytes_of({0, 0, 0x1A, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0x16, 0, 0, 0, 0, 0, 1, 2, 3});
    std::ofstream{path, std::ios::binary}.write(reinterpret_cast<const char*>(bytes.data()),
                                                static_cast<std::streamsize>(bytes.size()));
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::string error;
    const auto source = HidSource::open({.path = path, .device = DeviceId{7}}, error);
    ASSERT_TRUE(source) << error;
    source->deliver(timeline.desk());
    EXPECT_FALSE(source->is_open());
    EXPECT_EQ(timeline.complete_until(earliest_time), latest_time);
    const Frame& frame = sampler.advance(latest_time);
    EXPECT_EQ(frame[KeyW].press_count(), 1U);
    EXPECT_EQ(frame[KeyW].release_count(), 1U);
    EXPECT_EQ(frame[KeyS].press_count(), 1U);
    EXPECT_EQ(frame[KeyS].cancel_count(), 1U);
    EXPECT_EQ(source->counters().reports, 3U);
    EXPECT_EQ(source->counters().truncated, 1U);
    source->deliver(timeline.desk());  // nothing more, and no harm
    std::filesystem::remove(path);
}

TEST(HidSource, APipeGivesWhatHasCome) {
    int ends[2];
    ASSERT_EQ(pipe(ends), 0);
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    std::string error;
    const auto source = HidSource::open(
        {.path = "/dev/fd/" + std::to_string(ends[0]), .kind = DeviceKind::mouse, .device = DeviceId{7}}, error);
    ASSERT_TRUE(source) << error;
    const auto send = [&](const Bytes& numbers) {
        const auto bytes = bytes_of(numbers);
        ASSERT_EQ(write(ends[1], bytes.data(), bytes.size()), static_cast<ssize_t>(bytes.size()));
    };
    send({1, 3, 4, 1, 5});  // the second report is not whole yet
    const Frame& frame = sampler.advance(source->deliver(timeline.desk()));
    source->deliver(timeline.desk());
    sampler.advance(timeline.desk().latest());
    EXPECT_TRUE(frame[MouseLeft].down());
    send({6});
    source->deliver(timeline.desk());
    sampler.advance(timeline.desk().latest());
    EXPECT_EQ(frame.pointer().motion(), (Distance{5, 6}));
    EXPECT_TRUE(source->is_open());
    close(ends[1]);
    source->deliver(timeline.desk());
    EXPECT_FALSE(source->is_open());
    close(ends[0]);
}

TEST(HidSource, SaysWhyNot) {
    std::string error;
    EXPECT_FALSE(HidSource::open({.path = "/nowhere/hidraw9"}, error));
    EXPECT_EQ(error, "/nowhere/hidraw9: No such file or directory");
    EXPECT_FALSE(HidSource::open({.path = "/dev/null", .kind = DeviceKind::gamepad}, error));
    EXPECT_EQ(error, "found kind \"gamepad\"; expected keyboard or mouse");
}

}  // namespace
