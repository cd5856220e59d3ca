// Any bytes as reports of a keyboard and a mouse: refused, or states that a timeline takes.

#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/sources/hid_reports.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    test::FuzzInput input{data, size};
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    InletSink sink{timeline.desk()};
    HidKeyboard keyboard{DeviceId{1}};
    HidMouse mouse{DeviceId{2}};
    for (std::int64_t t = 1; !input.is_empty(); ++t) {
        std::array<std::byte, 12> report;
        const std::size_t length = input.below(13);
        for (std::byte& byte : report) byte = std::byte{input.take<std::uint8_t>()};
        const auto given = std::span{report}.first(length);
        const Time now{Duration{t}};
        const HidResult result = t % 2 != 0 ? keyboard.take(given, now, sink) : mouse.take(given, now, sink);
        test::require((result == HidResult::truncated) == (length < (t % 2 != 0 ? 8U : 3U)),
                      "short reports are refused");
        if (t % 8 == 0) sampler.advance(now);
    }
    test::require(timeline.desk().counters().refused == 0, "only controls that exist are posted");
    return 0;
}
