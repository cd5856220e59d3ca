// Any text as a recording: read, replayed, explained. It is taken or refused with a line, and frames make sense.

#include <sstream>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/explanation.hpp"
#include "cursorum/views/frame_views.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text{reinterpret_cast<const char*>(data), size};
    std::istringstream first{text};
    has_own_cuts(first);
    for (const bool own_cuts : {false, true}) {
        std::istringstream in{text};
        ReplayOptions options{.skip_idle = true};
        if (!own_cuts) options.rate = ExactRate{60};
        Replay replay{in, "f", options};
        for (unsigned frames = 0; frames < 200; ++frames) {
            const Frame* const frame = replay.next();
            if (!frame) break;
            for (const Edge edge : frame->edges())
                test::require(edge.time >= frame->start() && edge.time <= frame->end(), "edges lie within the frame");
            FrameSelection all;
            for (unsigned i = 0; i < frame_part_count; ++i) all.parts.insert(static_cast<FramePart>(i));
            all.parts = usual_parts;
            frame_as_jsonl(frames, *frame, replay.timeline(), all);
            frame_as_table(frames, *frame, replay.timeline(), all, false);
        }
        if (replay.error()) test::require(!replay.error()->message().empty(), "an error has a message");
    }
    std::istringstream in{text};
    explain(in, "f", {.rate = ExactRate{60}}, {.control = controls::KeyW, .frame = 3, .at = {}});
    return 0;
}
