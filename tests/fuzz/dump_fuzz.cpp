// Any bytes as a dump of an event device: refused with a reason, or events that a timeline takes, nothing down at the
// end.

#include <cstring>
#include <sstream>
#include <string>

#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/evdev_dump.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;

namespace {

/// Records that a kernel might have written, for bytes seldom are.
std::string records(test::FuzzInput& input) {
    std::string bytes;
    std::int64_t microseconds = 0;
    while (!input.is_empty()) {
        microseconds += static_cast<std::int64_t>(input.take<std::uint16_t>());
        const std::int64_t seconds = microseconds / 1'000'000, rest = microseconds % 1'000'000;
        const auto type = static_cast<std::uint16_t>(input.below(0x20));
        const auto code = static_cast<std::uint16_t>(input.take<std::uint16_t>() % 0x300);
        const auto value = static_cast<std::int32_t>(input.take<std::uint32_t>());
        char record[24];
        std::memcpy(record, &seconds, 8), std::memcpy(record + 8, &rest, 8);
        std::memcpy(record + 16, &type, 2), std::memcpy(record + 18, &code, 2), std::memcpy(record + 20, &value, 4);
        bytes.append(record, sizeof record);
    }
    return bytes;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    test::FuzzInput input{data, size};
    const auto choice = input.take<std::uint8_t>();
    constexpr DeviceKind kinds[] = {DeviceKind::keyboard, DeviceKind::mouse, DeviceKind::gamepad, DeviceKind::touch};
    std::istringstream in{choice >= 128 && size > 1 ? std::string{reinterpret_cast<const char*>(data) + 1, size - 1}
                                                    : records(input)};
    Timeline timeline{{.desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{}}};
    InletSink sink{timeline.desk()};
    EvdevDumpCounts counts;
    std::string error;
    const bool read =
        read_evdev_dump(in, {.kind = kinds[choice % 4], .device = DeviceId{1}, .name = "fuzzed"}, sink, counts, error);
    test::require(read == error.empty(), "what is refused has a reason");
    test::require(timeline.desk().counters().refused == 0, "only controls and values that exist are posted");
    test::require(timeline.desk().counters().backdated == 0, "times never go back");
    const Frame& frame = sampler.advance(latest_time);
    test::require(!read || frame.current().down.empty(), "nothing is down at the end");
    return 0;
}
