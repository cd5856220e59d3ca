// A USB keyboard or mouse by its boot-protocol reports.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/sources/hid_reports.hpp"

namespace cursorum {

struct HidSourceOptions {
    /// A hidraw node (/dev/hidraw0), or a file or pipe of consecutive reports: 8 bytes each for a keyboard, 3 for a
    /// mouse.
    std::string path;
    DeviceKind kind = DeviceKind::keyboard;  ///< keyboard or mouse
    /// Its number; if another device of the timeline has it, it gets a free one: see HidSource::device().
    DeviceId device{31};
    bool background = false;  ///< exempt from focus
};

/// Reads reports as they arrive. Reports have no times, so they are stamped when they are read: read them on a thread
/// of their own, as soon as file_descriptor() becomes readable.
///
/// It connects the device, adopts the keys that are down (if the node can be asked), and then takes each report as a
/// polled state. At the end of a file, and when the device is unplugged, it disconnects the device.
/// Threads: one, the one that posts into the inlet. Errors: open() sets its `error`.
class CURSORUM_API HidSource {
public:
    /// Returns null and sets `error` if the path cannot be read.
    static std::unique_ptr<HidSource> open(const HidSourceOptions& options, std::string& error);
    ~HidSource();
    HidSource(const HidSource&) = delete;
    HidSource& operator=(const HidSource&) = delete;

    /// Posts all reports that have arrived, and returns the time up to which that is complete. Never waits.
    Time deliver(Inlet& inlet);
    /// The same, to a recorder or any other sink.
    Time deliver(EventSink& sink);

    /// The number that it has in the inlet, once it has connected.
    DeviceId device() const noexcept;
    /// Becomes readable when reports have arrived: for poll() or select().
    int file_descriptor() const noexcept;
    /// Returns false once the file has ended or the device was unplugged.
    bool is_open() const noexcept;
    const HidCounters& counters() const noexcept;

private:
    struct Parts;
    explicit HidSource(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
