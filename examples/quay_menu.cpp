// A menu and a binding screen at the quay, in a terminal: modes that actions open and close, a list with repeat,
// capture of the next control, conflicts, and the player's file. F2 asks why the spreader did not lock; F3 saves the
// last half minute as a recording.
//
//   quay_menu demo/quay-menu.toml demo/quay-menu.jsonl     plays a recording, at once
//   quay_menu demo/quay-menu.toml x11 [PLAYER.toml]        live, from the X server at DISPLAY; writes the changes
//   quay_menu demo/quay-menu.toml evdev [PLAYER.toml]      live, from the kernel's keyboards, mice and gamepads

#include <array>
#include <cstdio>
#include <fstream>
#include <optional>
#include <sstream>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/actions/binding_capture.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/player_profile.hpp"
#include "cursorum/actions/profile_watch.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/tick_clock.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/recent_input.hpp"
#ifdef CURSORUM_HAS_EVDEV
#include "cursorum/sources/evdev_source.hpp"
#endif
#ifdef CURSORUM_HAS_X11
#include "cursorum/sources/x11_source.hpp"
#endif

namespace {

using namespace cursorum;

/// The lines of the menu: two of them change a control.
enum Line : int { where_line, lock_line, horn_line, reset_line, resume_line, line_count };

class Game {
public:
    /// `files`: watched while the game runs; `own`: where the player's changes go; empty: nowhere.
    Game(PlayerProfile player, ProfileWatch files, std::string own)
        : player_{std::move(player)}, files_{std::move(files)}, actions_{player_.profile()}, own_{std::move(own)} {
        ActionNames names{player_.profile()};
        crane_ = names.mode("crane");
        menu_ = names.mode("menu");
        travel_ = names.vector("crane.travel");
        lock_ = names.button("crane.lock");
        horn_ = names.button("crane.horn");
        step_ = names.button("crane.step");
        mark_ = names.button("crane.mark");
        unmark_ = names.button("crane.unmark");
        boost_ = names.button("crane.boost");
        lamp_ = names.button("crane.lamp");
        next_ = names.button("menu.next");
        previous_ = names.button("menu.previous");
        choose_ = names.button("menu.choose");
        if (names.unknown_count() != 0) std::fprintf(stderr, "%s\n", names.problem().c_str());
        is_ready = names.unknown_count() == 0;
        actions_.open(crane_);
    }

    bool is_ready = false;

    /// Keeps what comes in from now on.
    void keep(const Timeline& timeline, const Sampler& sampler) { recent_.emplace(timeline, sampler, actions_); }

    /// `length`: of the step, in seconds of the game.
    void step(const Frame& frame, double length) {
        actions_.read(frame);
        if (recent_) recent_->note();
        if (!begin_) begin_ = frame.start();
        now_ = seconds(frame.end() - *begin_);
        along_quay_ += speed * length * actions_[travel_].mean.x;
        // The press waits up to 150 ms for the spreader to be down; here it always is.
        if (actions_.consume_press(lock_)) say("the spreader locks");
        if (actions_[lamp_].pressed()) say("the lamp is on");
        if (actions_[lamp_].released()) say("the lamp is off");
        if (actions_[horn_].pressed()) say("the horn sounds");
        if (actions_[step_].pressed()) say("one step");
        if (actions_[mark_].pressed()) say("a box is marked");
        if (actions_[unmark_].pressed()) say("all marks are gone");
        if (actions_[boost_].pressed()) say("full power");
        if (frame[controls::F2].pressed()) explain_lock();
        if (frame[controls::F3].pressed()) save_input();
        if (recent_)
            if (const auto saved = recent_->saved()) say("   " + saved->text);
        if (capture_) return capture(frame);
        const bool is_open = actions_.is_open(menu_);
        if (is_open != was_open_) say(is_open ? "-- menu: the crane stands still" : "-- back at the crane");
        was_open_ = is_open;
        if (!is_open) return;
        const auto steps = static_cast<int>(actions_[next_].steps()) - static_cast<int>(actions_[previous_].steps());
        line_ = ((line_ + steps) % line_count + line_count) % line_count;
        if (steps != 0) say("   > " + text_of(line_));
        if (actions_[choose_].pressed()) choose();
    }

    bool pauses() const { return actions_.pauses(); }
    const PlayerProfile& player() const { return player_; }

    /// The game's profile or the player's file was edited: every second or so. No handle changes.
    void reload() {
        std::string why;
        if (files_.poll(player_, why)) actions_.rebind(player_.profile(), &why);
        if (!why.empty()) say(why);
    }

private:
    void explain_lock() const {
        if (!recent_) return;
        std::istringstream lines{recent_->why("crane.lock", player_.profile()).string()};
        for (std::string line; std::getline(lines, line);) say("   | " + line);
    }

    void save_input() {
        if (recent_ && !recent_->save("quay-input.jsonl")) say("   nothing to save yet, or still saving");
    }

    void choose() {
        switch (line_) {
            case where_line:
                say("   " + std::to_string(static_cast<int>(along_quay_ * 100)) + " cm along the quay");
                break;
            case reset_line:
                if (player_.reset_all()) rebind();
                say("   all controls as shipped");
                break;
            case resume_line: actions_.close(menu_); break;
            default:
                // Nothing else receives what is pressed from now on.
                capture_.emplace(actions_, CaptureOptions{.limit = std::chrono::seconds{5}, .chords = true});
                say("   press a control for " + text_of(line_) + " (Escape: none)");
        }
    }

    void capture(const Frame& frame) {
        if (capture_->read(frame) == BindingCapture::State::waiting) return;
        const char* const action = name_of_line(line_);
        std::string why = "nothing changes";
        if (const auto binding = capture_->binding()) {
            for (const BindingConflict& other : player_.conflicts_of(action, *binding))
                say("   " + other.with + " was for " + other.action);
            if (player_.bind(action, 0, *binding, Settle::swap, &why)) rebind(), why = text_of(line_);
        }
        say("   " + why);
        capture_.reset();
    }

    void rebind() {
        std::string why;
        if (!actions_.rebind(player_.profile(), &why)) say(why);
        if (!own_.empty() && !write_file_whole(own_, player_.overlay(), why)) say(why);
    }

    /// The action that a line changes.
    static const char* name_of_line(int line) { return line == lock_line ? "crane.lock" : "crane.horn"; }

    std::string text_of(int line) const {
        constexpr std::array texts{"where are we?", "lock", "horn", "all as shipped", "resume"};
        std::string text = texts.at(static_cast<std::size_t>(line));
        if (line != lock_line && line != horn_line) return text;
        const Action* const action = player_.profile().action(name_of_line(line));
        if (!action) return text + ": gone";
        const char* before = ": ";
        for (const Binding& binding : action->bindings) {
            text += before + binding_text(action->kind, binding);
            before = ", ";
        }
        return text;
    }

    void say(const std::string& text) const { std::printf("%8.3f s  %s\n", now_, text.c_str()); }

    static constexpr double speed = 0.8;  // metres per second

    PlayerProfile player_;
    ProfileWatch files_;
    ActionReader actions_;
    std::string own_;
    std::optional<RecentInput> recent_;
    std::optional<BindingCapture> capture_;
    ModeHandle crane_, menu_;
    VectorAction travel_;
    ButtonAction lock_, horn_, step_, mark_, unmark_, boost_, lamp_, next_, previous_, choose_;
    std::optional<Time> begin_;
    double now_ = 0, along_quay_ = 0;
    int line_ = 0;
    bool was_open_ = false;
};

int play(Game& game, const std::string& path) {
    std::ifstream file{path};
    Replay replay{file, path, {.rate = ExactRate{60}, .ledger = half_a_minute}};
    game.keep(replay.timeline(), replay.sampler());
    while (const Frame* frame = replay.next()) game.step(*frame, seconds(frame->length()));
    if (!replay.error()) return 0;
    std::fprintf(stderr, "%s\n", replay.error()->message().c_str());
    return 2;
}

/// `deliver` posts what has come and returns the time up to which that is complete; nothing when the source has gone.
template <typename Deliver>
int play_live(Game& game, Deliver&& deliver) {
    Timeline timeline{{.devices = 64, .ledger = half_a_minute, .desk_devices = false}};
    Sampler sampler{timeline};
    TickClock ticks{hertz(60), at_most(5)};
    game.keep(timeline, sampler);
    std::fprintf(stderr, "quay_menu: Escape opens the menu, F2 asks why the spreader did not lock; Ctrl-C ends it\n");
    for (Time looked{}; const std::optional<Time> complete = deliver(timeline);) {
        if (*complete - looked > std::chrono::seconds{1}) game.reload(), looked = *complete;
        while (const auto tick = ticks.next(*complete)) {
            game.step(sampler.advance(*tick), tick->step);
            ticks.stand_still(game.pauses());
        }
        std::fflush(stdout);
        std::this_thread::sleep_for(std::chrono::milliseconds{5});
    }
    std::fprintf(stderr, "quay_menu: the source of input is gone\n");
    return 2;
}

/// Returns nothing if the source is unknown.
std::optional<int> play_live(Game& game, const std::string& name) {
    std::string error = "built without it";
#ifdef CURSORUM_HAS_X11
    if (name == "x11") {
        const auto source = X11Source::open({}, error);
        const auto deliver = [&](Timeline& timeline) {
            return source->is_open() ? std::optional{source->deliver(timeline)} : std::nullopt;
        };
        if (source) return play_live(game, deliver);
    }
#endif
#ifdef CURSORUM_HAS_EVDEV
    if (name == "evdev") {
        const auto source = EvdevSource::open({}, error);
        if (source)
            return play_live(game, [&](Timeline& timeline) { return std::optional{source->deliver(timeline)}; });
    }
#endif
    if (name != "x11" && name != "evdev") return std::nullopt;
    std::fprintf(stderr, "quay_menu: %s: %s\n", name.c_str(), error.c_str());
    return 2;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 3 || argc > 4) {
        std::fprintf(stderr,
                     "usage: quay_menu PROFILE RECORDING [PLAYER.toml]\n"
                     "       quay_menu PROFILE x11|evdev [PLAYER.toml]\n"
                     "example: quay_menu demo/quay-menu.toml demo/quay-menu.jsonl\n");
        return 2;
    }
    const std::string own = argc == 4 ? argv[3] : "";
    PlayerProfile player;
    ProfileWatch files{argv[1], own};
    std::string why;
    if (!files.poll(player, why)) {
        std::fprintf(stderr, "%s\n", why.c_str());
        return 2;
    }
    if (!why.empty()) std::fprintf(stderr, "%s\n", why.c_str());
    for (const ProfileError& it : player.dropped()) std::fprintf(stderr, "left out: %s\n", it.message().c_str());
    Game game{std::move(player), std::move(files), own};
    if (!game.is_ready) return 2;
    const std::string source = argv[2];
    const std::optional<int> live = play_live(game, source);
    const int result = live ? *live : play(game, source);
    std::printf("\n%s", game.player().overlay().c_str());
    return result;
}
