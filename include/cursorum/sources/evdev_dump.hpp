// Raw dumps of the Linux kernel's event devices: what `cat /dev/input/event3 > pad.evdev` leaves.
#pragma once

#include <cstdint>
#include <istream>
#include <string>

#include "cursorum/core/event.hpp"

namespace cursorum {

struct EvdevDumpOptions {
    /// What the device was: a dump does not say.
    DeviceKind kind = DeviceKind::keyboard;
    DeviceId device{1};
    /// The device's name.
    std::string name;
};

/// What a dump was made of.
struct EvdevDumpCounts {
    std::uint64_t records = 0;
    std::uint64_t overflows = 0;      ///< the kernel's buffer overflowed while it was read
    std::uint64_t unfinished = 0;     ///< bytes behind the last whole record
    std::int64_t first = 0, last = 0;  ///< the kernel's times, in nanoseconds
};

/// Posts a dump's events, as EvdevSource posts a live device's: a connect, everything in its order, and a disconnect
/// where the dump ends. Times are the kernel's own, less the first one's. The format is `struct input_event` of a
/// 64-bit Linux machine: 24 bytes each.
///
/// The ranges of a gamepad's axes are not in a dump. They are taken from the values: sticks from -32768 to 32767, or
/// from 0 to 255 if no value lies outside that and some lie around 128; triggers from 0 to 255, 1023 or 32767.
///
/// False, and why in `error`, if it is not a dump. Reads the stream twice, so it must be seekable. Threads: one.
bool read_evdev_dump(std::istream& in, const EvdevDumpOptions& options, EventTaker& taker, EvdevDumpCounts& counts,
                     std::string& error);

/// True if the bytes look like a dump: for a message. `size` of them stand at `bytes`, from the file's beginning.
bool looks_like_evdev_dump(const char* bytes, std::size_t size) noexcept;

}  // namespace cursorum
