// A crane in a window, with all that a game asks of its input: ./run.sh play
#include <cctype>
#include <cstdio>
#include <string>
#include <string_view>
#include <thread>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/views/lane_picture.hpp"
#include "cursorum/why/action_lanes.hpp"
#include "cursorum/why/recent_input.hpp"
#include "scene.hpp"
#include "window.hpp"

using namespace cursorum;

namespace {

struct Options {
    int width = 1280, height = 800;
    std::string replay, settings = "quay_window.player.toml";
};

constexpr const char* usage = R"(Usage: quay_window [--size 1280x800] [--source live | replay:FILE] [--settings FILE]
A crane in a window: keys, mouse and gamepads, text, a menu, and an answer to "why did it not fire?".

Example: quay_window --source replay:demo/two-operators.jsonl
)";

/// 0 to go on, else the exit code plus one.
int read_options(int count, char** arguments, Options& options) {
    for (int i = 1; i < count; ++i) {
        const std::string_view option = arguments[i];
        if (option == "--help") return std::fputs(usage, stdout), 1;
        const char* const value = i + 1 < count ? arguments[++i] : nullptr;
        if (option == "--size" && value && std::sscanf(value, "%dx%d", &options.width, &options.height) == 2 &&
            options.width >= 400 && options.height >= 300)
            continue;
        if (option == "--settings" && value) {
            options.settings = value;
        } else if (option == "--source" && value && std::string_view{value}.starts_with("replay:")) {
            options.replay = value + 7;
        } else if (option != "--source" || !value || std::string_view{value} != "live") {
            std::fprintf(stderr, "quay_window: found %s %s\n%s", arguments[i - (value ? 1 : 0)], value ? value : "",
                         usage);
            return 3;
        }
    }
    return 0;
}

/// Where input comes from: the window and the pads, or a recording.
struct Sources {
    std::unique_ptr<X11Source> desk;
    std::unique_ptr<EvdevSource> pads;
    std::unique_ptr<ReplaySource> replay;

    /// Returns the time up to which all input has been posted.
    Time deliver(Timeline& timeline) {
        if (replay) return replay->deliver(timeline);
        const Time complete = desk->deliver(timeline);
        if (!pads) return complete;
        return std::min(complete, pads->deliver(timeline.inlet(1), timeline.desk()));  // with the window's focus
    }
};

}  // namespace

int main(int count, char** arguments) {
    Options options;
    if (const int code = read_options(count, arguments, options)) return code - 1;
    ProfileError error;
    const auto shipped = load_profile(QUAY_WINDOW_PROFILE, error);
    if (!shipped) return std::fprintf(stderr, "%s\n", error.message().c_str()), 2;
    PlayerProfile player{*shipped};
    std::string why;
    if (const auto changes = read_file_whole(options.settings, why))  // none yet: as shipped
        if (!player.set_overlay(*changes, options.settings, error))
            std::fprintf(stderr, "%s; the settings are as shipped\n", error.message().c_str());

    Sources sources;
    if (!options.replay.empty()) {
        sources.replay = ReplaySource::open({.file = options.replay, .repeats = true}, why);
        if (!sources.replay) return std::fprintf(stderr, "%s\n", why.c_str()), 2;
    }
    const auto window = Window::open(options.width, options.height, why);
    if (!window) return std::fprintf(stderr, "quay_window: %s\n", why.c_str()), 2;
    if (!sources.replay) {
        sources.desk = X11Source::attach(window->connection(), {.window = window->id(), .text = true}, why);
        if (!sources.desk) return std::fprintf(stderr, "quay_window: %s\n", why.c_str()), 2;
        sources.pads = EvdevSource::open({.keyboards = false, .mice = false}, why);  // null if there are none to read
    }

    Timeline timeline{{.inlets = 2, .devices = 16, .ledger = half_a_minute, .desk_devices = false}};
    Sampler simulation{timeline};
    TickClock ticks{hertz(60), at_most(5)};
    Game game{player};
    RecentInput recent{timeline, simulation, game.actions};
    LaneHistory lanes{timeline};
    ActionLanes action_lanes{lanes, game.actions, game.player.profile(), {}, "operator 1"};
    ActionLanes second_lanes{lanes, game.second, game.player.profile(), {}, "operator 2"};
    game.actions.set_verdict_sink(&action_lanes);
    game.second.set_verdict_sink(&second_lanes);
    Rumble rumble;
    std::optional<RumbleCarrier> carrier;
    if (sources.pads) carrier.emplace(rumble, timeline.inlet(1), *sources.pads);
    Overlay overlay;
    std::uint64_t frames = 0;
    bool had_focus = false;
    if (sources.desk)  // what is printed on the keys, in the layout in force
        game.symbol = [&](std::string_view control) {
            std::string sign{sources.desk->key_layout().symbol_of(find_button(control))};
            if (sign.size() == 1) sign[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(sign[0])));
            return sign;
        };
    game.has_new_settings = true;  // pads are shaped as the player wants

    while (!game.wants_to_quit) {
        if (sources.desk) sources.desk->fetch();
        if (!window->pump(sources.desk.get())) break;
        if (game.layout.scale != Layout(window->width(), window->height()).scale || frames == 0)
            game.set_layout(Layout(window->width(), window->height()));
        const Time complete = sources.deliver(timeline);
        const bool has_focus = timeline.desk().has_focus();
        if (has_focus != had_focus) lanes.note_focus(has_focus, complete);
        if (!has_focus && had_focus && sources.desk) game.pause();
        had_focus = has_focus;
        while (const auto tick = ticks.next(complete)) {
            const Frame& frame = simulation.advance(*tick);
            game.update(frame, tick->step);
            recent.note();
            lanes.note(frame, frames++);
            action_lanes.note();
            if (game.has_second()) second_lanes.note();
            ticks.stand_still(game.actions.pauses());
            frame.for_each_device_change([&](const DeviceChange& it) { game.has_new_settings |= it.connected; });
            if (game.wants_why)
                overlay.answer = overlay.answer.empty() ? recent.why("lock", game.player.profile()).string() : "";
            if (game.wants_save) recent.save("quay_window.jsonl");
            for (unsigned seat = 0; seat < 2; ++seat)
                if (const auto device = game.seats.last_device(seat); device && game.quay.cranes[seat].has_landed)
                    if (timeline.find_device(*device)->kind == DeviceKind::gamepad)
                        rumble.ask({*device, 0.6, 0.3, std::chrono::milliseconds{120}});
        }
        if (carrier) carrier->carry_out(complete);
        if (const auto saved = recent.saved()) game.news = saved->text;
        if (game.has_new_settings) {
            game.has_new_settings = false;
            for (std::size_t i = 0; i < timeline.device_count(); ++i)
                if (const DeviceStatus device = timeline.device(i);
                    device.kind == DeviceKind::gamepad && game.player.profile().shaping)
                    timeline.inlet(device.inlet).set_shaping(device.id, *game.player.profile().shaping, complete);
            const std::string overlay_of_player = game.player.overlay();
            if (frames > 1) write_file_whole(options.settings, overlay_of_player, why);
        }
        lanes.forget_before(complete - std::chrono::seconds{6});
        overlay.panel.clear();
        if (game.panel == Game::Panel::lanes)
            overlay.panel.push_back(
                {0, 0,
                 lane_picture(lanes, {.width = 420, .height = 200, .with_legend = false, .with_findings = false})});
        if (game.panel == Game::Panel::controls) overlay.panel = controls_of(game, simulation.frame());
        window->draw([&](cairo_t* to) { draw(to, game, overlay); });
        std::this_thread::sleep_for(std::chrono::milliseconds{8});
    }
    return 0;
}
