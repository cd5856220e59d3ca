// Dumps of event devices, record by record; and wheels that count in fractions.

#include "cursorum/sources/evdev_dump.hpp"

#include <gtest/gtest.h>
#include <linux/input-event-codes.h>

#include <cstring>
#include <map>
#include <sstream>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "sources/evdev_decoder.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;

/// "5k30=1 6a0=-300 7s": at 5 ms key 30 is 1, at 6 ms axis 0 is -300, at 7 ms the report ends; r: relative, d: dropped.
std::string dump(const std::string& records) {
    std::string bytes;
    std::istringstream words{records};
    for (std::string word; words >> word;) {
        std::size_t used = 0;
        const long ms = std::stol(word, &used);
        const std::map<char, std::uint16_t> types{
            {'k', EV_KEY}, {'a', EV_ABS}, {'r', EV_REL}, {'s', EV_SYN}, {'d', EV_SYN}};
        const char kind = word[used];
        const std::size_t equals = word.find('=');
        const std::uint16_t type = types.at(kind);
        const auto code = static_cast<std::uint16_t>(kind == 'd'   ? SYN_DROPPED
                                                     : kind == 's' ? 0
                                                                   : std::stoi(word.substr(used + 1)));
        const auto value =
            static_cast<std::int32_t>(equals == std::string::npos ? 0 : std::stoi(word.substr(equals + 1)));
        const std::int64_t seconds = 100 + ms / 1000, microseconds = ms % 1000 * 1000;
        char record[24];
        std::memcpy(record, &seconds, 8), std::memcpy(record + 8, &microseconds, 8);
        std::memcpy(record + 16, &type, 2), std::memcpy(record + 18, &code, 2), std::memcpy(record + 20, &value, 4);
        bytes.append(record, sizeof record);
    }
    return bytes;
}

/// A kind, records, and the views of one frame over all of them: see test::views_text().
std::string shown(const std::string& script) {
    std::istringstream words{script};
    std::string kind, views, records;
    words >> kind >> views;
    std::getline(words, records);
    std::istringstream in{dump(records)};
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    InletSink sink{timeline.desk()};
    EvdevDumpCounts counts;
    std::string error;
    const DeviceKind as = kind == "mouse" ? DeviceKind::mouse
                          : kind == "pad" ? DeviceKind::gamepad
                                          : DeviceKind::keyboard;
    if (!read_evdev_dump(in, {.kind = as, .device = DeviceId{1}, .name = kind}, sink, counts, error)) return error;
    // Before the disconnect that ends it.
    sampler.advance(nanoseconds_since_zero(counts.last - counts.first - 1));
    return test::views_text(sampler, views);
}

TEST(EvdevDump, ByRows) {
    test::check_rows(R"(
times begin with the first record : keys edges 1000k17=1 1000s 1250k17=0 1250s 1300s : 0 1 KeyW press; 250000000 1 KeyW release
repeats are the kernel's : keys W 5k17=1 5s 255k17=2 255s 288k17=2 288s 300s : press 1000 294999999 294999999 sys2
keys without a name : keys edges 5k84=1 5s 9s : 0 1 KeyExtra84 press
motion of one report is one event : mouse motion 5r0=3 5r1=-4 5s 6r0=1 6s 9s : 4,-4
wheels in detents, in fractions where there are any : mouse wheel,steps 5r8=1 5s 6r11=60 6r8=1 6s 9s : 0,1.5 | 0,1
a stick of 16 bits : pad LX,LY 5a0=32767 5s 6a1=-32768 6s 9s : 0 1 0 1 | 0 -1 -1 0
a stick of 8 bits : pad LX,LY 4a0=128 4s 5a0=255 5a1=128 5s 6a0=0 6s 9s : 0 -1 -1 1 | 0 0 0 0
triggers of 8 and 10 bits : pad PL,PR 5a2=255 5a5=1023 5s 9s : 0 1 0 1 | 0 1 0 1
the hat is four buttons : pad edges 5a16=-1 5s 6a16=1 6a17=1 6s 9s : 0 1 PadHatLeft press; 1000000 1 PadHatLeft release; 1000000 1 PadHatRight press; 1000000 1 PadHatDown press
buttons beyond the specification : pad edges 5k306=1 5k704=1 5s 9s : 0 1 PadExtra1 press; 0 1 PadExtra7 press
so are axes : pad E1,EZ,LX 5a6=-32768 5a11=32767 5a47=5 5s 9s : 0 -1 -1 0 | 0 1 0 1 | 0 0 0 0
what the kernel lost is let go : pad edges 5k304=1 5s 6d0 6k305=1 6s 7k305=0 7s 9s : 0 1 PadSouth press; 1000000 1 PadSouth cancel
times that go back : keys edges 9k17=1 9s 8k17=0 8s 20s : 0 1 KeyW press; 0 1 KeyW release
)",
                     [](const std::string& script) { return std::vector{shown(script)}; });
}

// What an axis of each range says at each value.
TEST(EvdevDecoder, RangesOfFewValues) {
    struct Row {
        std::int32_t least, greatest, value;
        double expected;
    };
    for (const Row& row : {Row{-32768, 32767, 0, 0},
                           {-32768, 32767, -32768, -1},
                           {-32768, 32767, 32767, 1},
                           {-32767, 32767, 0, 0},
                           {0, 255, 128, 0},
                           {0, 255, 0, -1},
                           {0, 255, 255, 1},
                           {-1, 1, 0, 0},
                           {-1, 1, -1, -1},
                           {-1, 1, 1, 1},
                           {0, 1, 0, 0},
                           {0, 1, 1, 1},
                           {0, 3, 0, 0},
                           {0, 3, 3, 1},
                           {1, 4, 1, 0},
                           {-4, -1, -1, 0},
                           {-4, -1, -4, -1},
                           {1, 3, 2, 0},
                           {0, 14, 7, 0},
                           {INT32_MIN, INT32_MAX, 0, 0},
                           {INT32_MIN, INT32_MAX, INT32_MAX, 1}}) {
        EvdevDecoder decoder{DeviceId{1}, DeviceKind::gamepad};
        decoder.set_range(ABS_X, {row.least, row.greatest});
        ButtonSet down;
        AxisValues axes;
        decoder.add_to_state(EV_ABS, ABS_X, row.value, down, axes);
        EXPECT_DOUBLE_EQ(axes.values[controls::PadStickLeftX.number], row.expected)
            << row.least << " to " << row.greatest << ": " << row.value;
    }
    for (const auto& [value, button] :
         {std::pair{1, controls::PadHatLeft}, {2, Button{}}, {3, controls::PadHatRight}}) {
        EvdevDecoder decoder{DeviceId{1}, DeviceKind::gamepad};
        decoder.set_range(ABS_HAT0X, {1, 3});
        ButtonSet down, expected;
        AxisValues axes;
        decoder.add_to_state(EV_ABS, ABS_HAT0X, value, down, axes);
        if (button) expected.insert(button);
        EXPECT_EQ(down, expected) << value;
    }
}

TEST(EvdevDump, KeysWithoutAControlAreCounted) {
    std::istringstream in{dump("1k17=1 1s 2k17=0 2s 3k248=1 3s 4k248=2 4s 5k248=0 5s 6k656=1 6s 7k656=0 7s")};
    Timeline timeline{{.desk_devices = false}};
    InletSink sink{timeline.desk()};
    EvdevDumpCounts counts;
    std::string error;
    ASSERT_TRUE(
        read_evdev_dump(in, {.kind = DeviceKind::keyboard, .device = DeviceId{1}, .name = "k"}, sink, counts, error));
    EXPECT_EQ(counts.unnamed.presses, 2U);
    EXPECT_EQ(counts.unnamed.first_code, 248);
}

TEST(EvdevDump, WhatIsNoneIsRefused) {
    const std::string good = dump("1k17=1 1s");
    EXPECT_TRUE(looks_like_evdev_dump(good.data(), good.size()));
    EXPECT_FALSE(looks_like_evdev_dump(good.data(), 23));
    for (const auto& [text, message] :
         {std::pair{std::string{}, "the file is empty"},
          {std::string(7, 'x'), "shorter than one event"},
          {good + std::string(24, 'x'), "something else than the kernel's events at byte 48"}}) {
        std::istringstream in{text};
        Timeline timeline;
        InletSink sink{timeline.desk()};
        EvdevDumpCounts counts;
        std::string error;
        EXPECT_FALSE(read_evdev_dump(in, {}, sink, counts, error));
        EXPECT_NE(error.find(message), std::string::npos) << error;
        EXPECT_FALSE(looks_like_evdev_dump(text.data(), text.size()));
    }
}

}  // namespace
