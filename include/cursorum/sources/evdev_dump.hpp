// Raw dumps of the Linux kernel's event devices, as `cat /dev/input/event3 > pad.evdev` writes them.
#pragma once

#include <cstdint>
#include <istream>
#include <string>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

struct EvdevDumpOptions {
    /// The kind of the device, which a dump does not contain.
    DeviceKind kind = DeviceKind::keyboard;
    DeviceId device{1};
    /// The device's name.
    std::string name;
};

/// The contents of a dump.
/// Presses of keys and buttons of which the kernel has a code, and Cursorum no control: codes above 247 that are no
/// buttons, such as those of macro keys. They are not posted.
struct UnnamedPresses {
    std::uint64_t presses = 0;
    std::uint16_t first_code = 0;  ///< the Linux code of the first of them
};

struct EvdevDumpCounts {
    std::uint64_t records = 0;
    std::uint64_t overflows = 0;   ///< the kernel's buffer overflowed while it was read
    std::uint64_t unfinished = 0;  ///< bytes after the last complete record
    UnnamedPresses unnamed{};
    std::int64_t first = 0, last = 0;  ///< the kernel's times, in nanoseconds
};

/// Posts a dump's events as EvdevSource posts those of a live device: a connect, the events in their order, and a
/// disconnect at the end. Times are the kernel's own minus the first one. The format is `struct input_event` of a
/// 64-bit Linux machine: 24 bytes each.
///
/// The ranges of a gamepad's axes are not in a dump. They are taken from the values: sticks from -32768 to 32767, or
/// from 0 to 255 if no value lies outside that and some lie around 128; triggers from 0 to 255, 1023 or 32767.
///
/// Returns false and sets `error` if it is not a dump. The stream is read twice, so it must be seekable. Threads: one.
CURSORUM_API bool read_evdev_dump(std::istream& in, const EvdevDumpOptions& options, EventSink& sink,
                                  EvdevDumpCounts& counts, std::string& error);

/// Returns whether the first `size` bytes of a file look like a dump. For messages.
CURSORUM_API bool looks_like_evdev_dump(const char* bytes, std::size_t size) noexcept;

}  // namespace cursorum
