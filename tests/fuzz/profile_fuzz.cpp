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
        timeline.desk().connect(DeviceId{7}, {.kind = DeviceKind::gamepad}, Time{Duration{6'000'000}});
        timeline.desk().contact(DeviceId{7}, 1, ContactPhase::begin, 0.5, 0.5, 1, Time{Duration{6'100'000}});
        for (std::uint8_t axis = 0; axis < 2 * stick_kinds + 2; ++axis)
            timeline.desk().axis(DeviceId{7}, {axis}, 0.9, Time{Duration{6'200'000}});
        test::require(reader.rebind(with_layout(*profile, KeyLayout::empty())), "what is taken can be bound again");
        for (const std::int64_t t : {7, 8}) reader.read(sampler.advance(Time{Duration{t * 1'000'000}}));
        Profile none = *profile, again = *profile;
        for (Mode& mode : none.modes)
            for (Action& action : mode.actions) action.bindings.clear();
        // All bindings, as an overlay over a profile that has none.
        const bool is_read = apply_overlay(none, overlay_text(none, *profile), "f.toml", error);
        test::require(is_read, "an overlay that was written can be read");
        for (std::size_t m = 0; m < none.modes.size(); ++m)
            for (std::size_t a = 0; a < none.modes[m].actions.size(); ++a)
                test::require(none.modes[m].actions[a].bindings == profile->modes[m].actions[a].bindings,
                              "bindings that were written read as the same");
        apply_overlay(again, text, "f.toml", error);
    }
    Profile base;
    base.modes = {{.name = "m", .actions = {{.name = "a"}}}};
    apply_overlay(base, text, "o.toml", error);
    return 0;
}
