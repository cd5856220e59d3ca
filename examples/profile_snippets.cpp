// The snippets of docs/profile-format.md, compiled as they are shown there.

#include <cstdio>
#include <optional>
#include <string>

#include "cursorum/actions/action_handlers.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/binding_capture.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/player_profile.hpp"
#include "cursorum/actions/profile_watch.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/sources/x11_source.hpp"
#include "quay_actions.hpp"

using namespace cursorum;

namespace {

struct Spreader {
    void toggle_lock() {}
} spreader;
struct Siren {
    void stop() {}
} siren;
void log(const std::string& text) { std::puts(text.c_str()); }
void show(const std::string& label) { std::puts(label.c_str()); }

void follow_the_layout(X11Source* x11, ActionReader& actions, const Profile& profile,
                       std::optional<std::uint64_t>& known) {
    if (!known || x11->layout_changes() != *known) {
        const KeyLayout& layout = x11->key_layout();
        known = x11->layout_changes();
        actions.rebind(with_layout(profile, layout));
    }
}

/// The line of a binding screen whose action waits for another control.
struct BindingLine {
    std::optional<BindingCapture> capture;

    void begin(ActionReader& actions) {
        // clang-format off
        capture.emplace(actions);                              // the next control that the player moves: no action gets it
        // clang-format on
    }
    void read(const Frame& frame, PlayerProfile& player, ActionReader& actions, std::string& why) {
        // clang-format off
        if (capture && capture->read(frame) != BindingCapture::State::waiting) {
            const auto binding = capture->binding();           // none: stopped, or the time is up
            if (binding && player.bind("crane.lock", 0, *binding, Settle::swap, &why)) {
                actions.rebind(player.profile(), &why);
                write_file_whole("player.toml", player.overlay(), why);
            }
            capture.reset();
        }
        // clang-format on
    }
};

void reload(ProfileWatch& files, PlayerProfile& player, ActionReader& actions, std::string& why) {
    // clang-format off
    if (files.poll(player, why)) actions.rebind(player.profile(), &why);   // every second or so
    // clang-format on
}

void label(const KeyLayout& layout, const Profile& profile, ButtonAction lock) {
    const auto printed = [&](std::string_view name) { return std::string{layout.symbol_of(find_button(name))}; };
    if (const Action* const action = profile.action(lock))
        if (const Binding* const binding = binding_for(*action, DeviceKind::keyboard))
            show(binding_label(*binding, printed));
}

void find_actions(const Profile& profile) {
    // clang-format off
    ActionReader actions{profile};
    ActionNames names{profile};                        // collects the names that the profile does not have
    const ButtonAction lock = names.button("lock");
    const VectorAction travel = names.vector("crane.travel");
    actions.open(names.mode("crane"));
    if (names.unknown_count() != 0) log(names.problem());   // all at once, with near names; their handles read as idle
    // clang-format on
    (void)lock, (void)travel;
}

void read_by_header(ActionReader& actions) {
    actions.open(quay_actions::crane::mode);
    if (actions[quay_actions::crane::lock].pressed()) spreader.toggle_lock();
}

void call(ActionReader& actions, const Frame& frame, bool& slow, ButtonAction lower_speed, ButtonAction lock,
          ButtonAction horn) {
    // clang-format off
    ActionHandlers handlers;
    handlers.follow(slow, lower_speed);                                       // a flag that cannot stick
    handlers.add(HandledEdge::pressed, lock, [&](const ActionEvent&) { spreader.toggle_lock(); });
    handlers.add(HandledEdge::ended, horn, [&](const ActionEvent&) { siren.stop(); });   // whoever ends it

    actions.read(frame);                                                      // in each frame
    handlers.run(actions);
    // clang-format on
}

}  // namespace

int main() {
    // Shown, not run: what they call has tests of its own.
    (void)&BindingLine::begin, (void)&BindingLine::read, (void)reload, (void)follow_the_layout, (void)label,
        (void)find_actions, (void)read_by_header, (void)call;
}
