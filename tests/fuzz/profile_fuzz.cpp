// Any text as a profile and as an overlay: taken or refused, and what is taken works in a reader.

#include <string_view>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text{reinterpret_cast<const char*>(data), size};
    ProfileError error;
    const auto profile = read_profile(text, "f.toml", error);
    test::require(profile.has_value() == error.found.empty(), "what is refused says why");
    if (profile) {
        test::require(!profile->problem(), "what is taken has no problem");
        Timeline timeline;
        Sampler sampler{timeline, {.start = Time{}}};
        ActionReader reader{*profile};
        for (unsigned i = 0; i < mode_capacity; ++i) reader.open(ModeHandle{static_cast<std::uint8_t>(i)});
        for (std::int64_t t = 1; t < 6; ++t) {
            timeline.desk().button(t % 2 != 0 ? controls::KeyW : controls::Space, t < 4, Time{Duration{t * 100'000}});
            timeline.desk().wheel(0, 1, Time{Duration{t * 100'000}});
            reader.read(sampler.advance(Time{Duration{t * 1'000'000}}));
        }
        Profile laid = *profile;
        lay_over(laid, text, "f.toml", error);
    }
    Profile base;
    base.modes = {{.name = "m", .actions = {{.name = "a"}}}};
    lay_over(base, text, "o.toml", error);
    return 0;
}
