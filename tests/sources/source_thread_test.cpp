// A source that delivers on a thread of its own, while another thread cuts frames: for ThreadSanitizer.

#include <fcntl.h>
#include <gtest/gtest.h>
#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <string>
#include <thread>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/hid_source.hpp"

namespace {

using namespace cursorum;

TEST(SourceOnItsOwnThread, LosesNoPress) {
    const std::string pipe = testing::TempDir() + "cursorum-reports-" + std::to_string(getpid());
    ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
    const int writer = open(pipe.c_str(), O_RDWR);  // until this one closes, the pipe does not end
    constexpr unsigned taps = 500;
    std::string error;
    const auto source = HidSource::open({.path = pipe, .device = DeviceId{7}}, error);
    ASSERT_TRUE(source) << error;
    std::jthread hand{[&] {
        FILE* const reports = std::fopen(pipe.c_str(), "wb");
        for (unsigned i = 0; i < 2 * taps; ++i) {
            std::array<unsigned char, 8> report{};
            report[2] = i % 2 == 0 ? 0x1A : 0;  // W, by its usage
            std::fwrite(report.data(), 1, report.size(), reports);
            std::fflush(reports);
        }
        std::fclose(reports);
        close(writer);
    }};
    Timeline timeline{{.inlets = 2}};
    Sampler sampler{timeline, {.start = Clock::now()}};
    std::jthread reader{[&] {
        while (source->is_open()) {
            source->deliver(timeline.inlet(1));
            pollfd waiting{source->file_descriptor(), POLLIN, 0};
            if (source->is_open()) poll(&waiting, 1, 100);
        }
        timeline.inlet(1).set_complete_until(latest_time);
    }};
    unsigned presses = 0;
    while (timeline.inlet(1).complete_until() != latest_time)
        presses += sampler.advance(timeline.inlet(1).latest())[controls::KeyW].press_count();
    presses += sampler.advance(Clock::now())[controls::KeyW].press_count();
    EXPECT_EQ(presses, taps);
    unlink(pipe.c_str());
}

}  // namespace
