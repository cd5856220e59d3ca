// Raw dumps of event devices: the kernel's own structures one after the other, as reading a node gives them. Without
// the device, ranges of axes are guessed by the values that occur.
#include "cursorum/sources/evdev_dump.hpp"
#include "cursorum/core/event.hpp"

#include <linux/input-event-codes.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <optional>
#include <utility>

#include "sources/evdev_decoder.hpp"

namespace cursorum {
namespace {

constexpr std::size_t record_size = 24;

/// Little-endian, as the machines are that write them.
template <typename Number>
Number number_at(const char* bytes) noexcept {
    std::uint64_t value = 0;
    for (std::size_t i = sizeof(Number); i-- > 0;) value = value << 8 | static_cast<unsigned char>(bytes[i]);
    return static_cast<Number>(value);
}

/// Nothing for what no kernel writes.
std::optional<KernelEvent> decode(const char* bytes) noexcept {
    const auto seconds = number_at<std::int64_t>(bytes), microseconds = number_at<std::int64_t>(bytes + 8);
    if (seconds < 0 || seconds > 9'000'000'000 || microseconds < 0 || microseconds >= 1'000'000) return std::nullopt;
    KernelEvent event;
    event.time = seconds * 1'000'000'000 + microseconds * 1'000;
    event.type = number_at<std::uint16_t>(bytes + 16);
    event.code = number_at<std::uint16_t>(bytes + 18);
    event.value = number_at<std::int32_t>(bytes + 20);
    if (event.type > EV_MAX || event.code > KEY_MAX) return std::nullopt;
    return event;
}

/// The least and greatest value of each axis, to guess its range by.
struct Seen {
    std::array<KernelRange, ABS_CNT> values;
    std::array<bool, ABS_CNT> has{};

    Seen() noexcept { values.fill({0, 0}); }
    void add(const KernelEvent& event) noexcept {
        if (event.type != EV_ABS || event.code >= values.size()) return;
        KernelRange& range = values[event.code];
        if (!std::exchange(has[event.code], true)) range = {event.value, event.value};
        range.least = std::min(range.least, event.value);
        range.greatest = std::max(range.greatest, event.value);
    }
    KernelRange range_of(unsigned code) const noexcept {
        const KernelRange seen = values[code];
        if (code == ABS_Z || code == ABS_RZ)
            return {0, seen.greatest <= 255 ? 255 : seen.greatest <= 1023 ? 1023 : 32767};
        const bool is_small = seen.least >= 0 && seen.greatest <= 255 && seen.greatest >= 100;
        return is_small ? KernelRange{0, 255} : KernelRange{};
    }
};

}  // namespace

bool looks_like_evdev_dump(const char* bytes, std::size_t size) noexcept {
    if (size < record_size) return false;
    for (std::size_t at = 0; at + record_size <= size; at += record_size)
        if (!decode(bytes + at)) return false;
    return true;
}

bool read_evdev_dump(std::istream& in, const EvdevDumpOptions& options, EventSink& sink, EvdevDumpCounts& counts,
                     std::string& error) {
    counts = {};
    std::array<char, record_size> bytes{};
    const auto read = [&] { return static_cast<bool>(in.read(bytes.data(), record_size)); };
    const std::streampos begin = in.tellg();
    Seen seen;
    while (read()) {
        const auto event = decode(bytes.data());
        if (!event) {
            error = "found something else than the kernel's events at byte " +
                    std::to_string(counts.records * record_size) + "; expected records of 24 bytes";
            return false;
        }
        if (counts.records++ == 0) counts.first = event->time;
        counts.last = event->time;
        counts.overflows += event->type == EV_SYN && event->code == SYN_DROPPED;
        seen.add(*event);
    }
    counts.unfinished = static_cast<std::uint64_t>(in.gcount());
    if (counts.records == 0) {
        error = counts.unfinished == 0 ? "the file is empty" : "the file is shorter than one event of 24 bytes";
        return false;
    }
    in.clear();
    in.seekg(begin);
    if (!in) {
        error = "it cannot be read twice";
        return false;
    }
    EvdevDecoder decoder{options.device, options.kind};
    AxisValues axes;
    ButtonSet none;
    for (std::uint16_t code = ABS_X; code <= ABS_MAX; ++code) {
        decoder.set_range(code, seen.range_of(code));
        if (seen.has[code]) decoder.add_to_state(EV_ABS, code, 0, none, axes);
    }
    sink.take(Event::connect(Time{}, options.device,
                             {.kind = options.kind,
                              .name = options.name,
                              .marks_repeats = options.kind == DeviceKind::keyboard,
                              .axes = options.kind == DeviceKind::gamepad ? axes.present : 0}));
    std::int64_t last = 0;
    while (read()) {
        KernelEvent event = *decode(bytes.data());
        // A repeat's report may be stamped a little earlier than its key.
        last = event.time = std::max(last, event.time - counts.first);
        decoder.take(event, sink);
    }
    counts.unnamed = decoder.unnamed();
    sink.take(Event::disconnect(nanoseconds_since_zero(last), options.device));
    in.clear();
    return true;
}

}  // namespace cursorum
