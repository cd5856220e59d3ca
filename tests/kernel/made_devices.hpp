// Devices that a test makes by uinput, and a source that reads them.
#pragma once

#include <fcntl.h>
#include <gtest/gtest.h>
#include <libevdev/libevdev-uinput.h>
#include <libevdev/libevdev.h>
#include <linux/uinput.h>
#include <poll.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/evdev_source.hpp"

namespace cursorum::kernel {

using namespace controls;

/// A timeline that a source fills, and the frames of all rounds so far.
struct Reader {
    explicit Reader(EvdevSourceOptions options = {}, unsigned devices = 16)
        : timeline{{.devices = devices, .desk_devices = false}} {
        std::string error;
        source = EvdevSource::open(options, error);
        EXPECT_TRUE(source) << error;
    }
    const Frame& next() { return sampler.advance(std::max(source->deliver(timeline), timeline.desk().latest())); }
    /// Rounds until it is so; false after 20 seconds.
    bool until(const std::function<bool(const Frame&)>& done,
               std::chrono::milliseconds limit = std::chrono::seconds{20}) {
        const auto end = std::chrono::steady_clock::now() + limit;
        while (std::chrono::steady_clock::now() < end) {
            const Frame& frame = next();
            for (const Edge edge : frame.edges()) edges.push_back(edge);
            repeats += frame[KeyA].system_repeat_count();
            if (done(frame)) return true;
            poll(nullptr, 0, 1);  // the condition is looked at again; nothing depends on this pause
        }
        return false;
    }
    bool until_edges(std::size_t count) {
        return until([&](const Frame&) { return edges.size() >= count; });
    }
    std::string text() const {
        std::string all;
        for (const Edge& edge : edges)
            all += (all.empty() ? "" : " ") + std::string{name_of(edge.button)} + ":" + std::string{name_of(edge.kind)};
        return all;
    }
    DeviceId device_named(std::string_view name) {
        for (std::size_t i = 0; i < timeline.device_count(); ++i)
            if (timeline.device(i).connected && timeline.device(i).name() == name) return timeline.device(i).id;
        return {};
    }
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    std::unique_ptr<EvdevSource> source;
    std::vector<Edge> edges;
    unsigned repeats = 0;
};

/// A device made by uinput.
class Made {
public:
    /// `place`: where it is plugged in, if that is of any importance.
    Made(const char* name, const std::vector<std::pair<unsigned, unsigned>>& codes,
         const std::vector<unsigned>& properties = {}, const char* place = nullptr) {
        libevdev* device = libevdev_new();
        libevdev_set_name(device, name);
        libevdev_set_id_vendor(device, 0xFFF1);
        for (const auto& [type, code] : codes) {
            input_absinfo range{};
            range.minimum = code == ABS_Z || code == ABS_RZ ? 0 : code >= ABS_HAT0X ? -1 : -32768;
            range.maximum = code == ABS_Z || code == ABS_RZ ? 1023 : code >= ABS_HAT0X ? 1 : 32767;
            if (code >= ABS_MT_SLOT) range.minimum = 0, range.maximum = code == ABS_MT_SLOT ? 4 : 999;
            if (code == ABS_MT_PRESSURE) range.maximum = 100;
            if (code == ABS_THROTTLE) range.minimum = 0, range.maximum = 255;
            libevdev_enable_event_code(device, type, code, type == EV_ABS ? &range : nullptr);
        }
        for (const unsigned property : properties) libevdev_enable_property(device, property);
        maker_ = open("/dev/uinput", O_RDWR | O_CLOEXEC);
        if (place) ioctl(maker_, UI_SET_PHYS, place);
        libevdev_uinput_create_from_device(device, maker_, &made_);
        libevdev_free(device);
    }
    ~Made() { unplug(); }
    void unplug() {
        if (made_) libevdev_uinput_destroy(made_);
        made_ = nullptr;
        if (maker_ >= 0) close(std::exchange(maker_, -1));
    }
    Made(const Made&) = delete;
    Made& operator=(const Made&) = delete;
    Made& send(unsigned type, unsigned code, int value) {
        libevdev_uinput_write_event(made_, type, code, value);
        return *this;
    }
    void report() { send(EV_SYN, SYN_REPORT, 0); }
    /// The same many at once, faster than anybody reads: the kernel takes them in one call.
    void burst(const std::vector<std::array<int, 3>>& codes) {
        std::vector<input_event> events;
        for (const auto& [type, code, value] : codes) {
            input_event event{};
            event.type = static_cast<std::uint16_t>(type), event.code = static_cast<std::uint16_t>(code);
            event.value = value;
            events.push_back(event);
        }
        (void)!write(libevdev_uinput_get_fd(made_), events.data(), events.size() * sizeof(input_event));
    }
    std::string node() const { return libevdev_uinput_get_devnode(made_); }

private:
    libevdev_uinput* made_ = nullptr;
    int maker_ = -1;
};

inline const std::vector<std::pair<unsigned, unsigned>> pad_codes{
    {EV_KEY, BTN_SOUTH}, {EV_KEY, BTN_EAST},  {EV_KEY, BTN_C},     {EV_ABS, ABS_X},
    {EV_ABS, ABS_Y},     {EV_ABS, ABS_RX},    {EV_ABS, ABS_RY},    {EV_ABS, ABS_Z},
    {EV_ABS, ABS_RZ},    {EV_ABS, ABS_HAT0X}, {EV_ABS, ABS_HAT0Y}, {EV_ABS, ABS_THROTTLE}};

}  // namespace cursorum::kernel
