// A USB keyboard or mouse by its boot-protocol reports.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/sources/hid_reports.hpp"

namespace cursorum {

struct HidSourceOptions {
    /// A hidraw node (/dev/hidraw0), or a file or pipe of reports one behind the other, 8 bytes each from a keyboard
    /// and 3 from a mouse.
    std::string path;
    DeviceKind kind = DeviceKind::keyboard;  ///< keyboard or mouse
    DeviceId device{};
    bool background = false;  ///< exempt from focus
};

/// Reads reports as they come. Reports have no time of their own: they are stamped when they are read, so read them on
/// a thread of their own, as soon as file_descriptor() is readable.
///
/// At first it connects the device, adopts what is down (a hidraw node can be asked), and then takes each report as a
/// polled state. At the end of a file, and when the device is unplugged, it disconnects the device.
/// Threads: one, the one that posts into the inlet. Errors: open() says why not.
class HidSource {
public:
    /// Null, and why in `error`, if the path cannot be read.
    static std::unique_ptr<HidSource> open(const HidSourceOptions& options, std::string& error);
    ~HidSource();
    HidSource(const HidSource&) = delete;
    HidSource& operator=(const HidSource&) = delete;

    /// Posts what has come, and returns the time up to which that is all there is. Never waits.
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other taker.
    Time deliver(EventTaker& taker);

    /// Becomes readable when something has come: for poll() or select().
    int file_descriptor() const noexcept;
    /// False once it has ended, or was unplugged.
    bool is_open() const noexcept;
    const HidCounters& counters() const noexcept;

private:
    struct Parts;
    explicit HidSource(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
