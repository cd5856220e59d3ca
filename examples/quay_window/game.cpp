// What each action does. Everything is asked of the frame at hand: no state of keys is kept here.
#include "game.hpp"

#include <cmath>
#include <cstdio>
#include <utility>

#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "quay_window.hpp"

using namespace cursorum;
namespace crane = quay_window::crane;
namespace naming = quay_window::naming;
namespace menu = quay_window::menu;

namespace {

constexpr double speed = 3;          // columns, or boxes, per second
constexpr unsigned device_room = 8;  // of each kind

/// The actions that the menu asks other keys for.
constexpr const char* bindable[] = {"crane.lock", "crane.horn"};
/// The settings that it changes.
struct Setting {
    const char* text;
    double most, step;
};
constexpr Setting settings[] = {{"Dead zone of the stick  < %.2f >", 0.6, 0.05},
                                {"Curve of the stick  < %.2f >", 1, 0.05},
                                {"Ramp of trolley and hoist  < %.2f s >", 1, 0.05},
                                {"Lock waits for the landing  < %.2f s >", 1, 0.05}};
enum SettingLine : std::size_t { dead_zone, curve, ramp, buffer };
constexpr std::size_t first_setting = 1, first_binding = first_setting + std::size(settings),
                      quit_line = first_binding + std::size(bindable), line_count = quit_line + 1;

/// The last character of a text in UTF-8.
void erase_last_character(std::string& text) {
    while (!text.empty() && (static_cast<unsigned char>(text.back()) & 0xC0U) == 0x80U) text.pop_back();
    if (!text.empty()) text.pop_back();
}

}  // namespace

ModeHandle Game::naming_mode() { return naming::mode; }
ModeHandle Game::menu_mode() { return menu::mode; }

Game::Game(PlayerProfile of) : player{std::move(of)}, actions{player.profile()}, second{player.profile()} {
    actions.open(crane::mode);
    second.open(crane::mode);
    for (int i = 0; i < 12; ++i)
        jobs.push_back("Job " + std::to_string(i + 1) + ": " + (i % 2 == 0 ? "unload" : "load") + " bay " +
                       std::to_string(3 + 2 * i));
}

void Game::set_layout(const Layout& now) {
    layout = now;
    actions.set_area(crane::click_label, ClickArea{layout.label_field()});
    actions.set_area(naming::click_elsewhere, ClickArea{layout.label_field(), true});
}

void Game::update(const Frame& frame, double step) {
    share(frame);
    actions.read(frame, seats, 0);
    second.read(frame, seats, 1);
    for (const Edge edge : frame.edges())
        if (edge.kind == EdgeKind::press && seats.seat_of(edge.device, edge.button) == 0U)
            last_used = name_of(edge.button).starts_with("Pad") ? DeviceKind::gamepad : DeviceKind::keyboard;
    wants_why = actions[crane::why].pressed();
    wants_save = actions[crane::save].pressed();
    panel = Panel((static_cast<unsigned>(panel) + actions[crane::lanes].press_count()) % 3);
    drive(quay.cranes[0], actions, step);
    if (has_second() && !actions.pauses()) drive(quay.cranes[1], second, step);
    quay.now += step;
    use_plan(frame);
    use_list();
    type_label();
    use_menu(frame);
}

// Who has which device. A pad that went and comes back has its seat again.
void Game::share(const Frame& frame) {
    const auto give = [this](DeviceId device, DeviceKind kind) {
        const bool has_seat = seats.seat_of(device, controls::PadSouth).has_value();
        if (has_seat || kind == DeviceKind::touch) return;
        seats.give(device, kind == DeviceKind::gamepad && has_first_pad_ ? 1 : 0);
        has_first_pad_ = has_first_pad_ || kind == DeviceKind::gamepad;
    };
    if (!std::exchange(has_begun_, true))
        for (const DeviceKind kind : {DeviceKind::keyboard, DeviceKind::mouse, DeviceKind::gamepad})
            for (unsigned place = 0; place < device_room; ++place)
                if (const auto device = frame.device(kind, place)) give(*device, kind);
    frame.for_each_device_change([&](const DeviceChange& it) {
        if (it.connected) give(it.device, it.kind);
    });
    seats.read(frame);
    for (std::size_t i = 0; i < seats.change_count(); ++i) {
        const SeatChange& change = seats.change(i);
        const bool is_away = change.kind == SeatChange::Kind::away;
        if (!is_away && change.kind != SeatChange::Kind::back) continue;
        if (is_away) pause();
        if (change.seat != 1) continue;
        for (unsigned place = 0; place < device_room; ++place)
            if (const auto keyboard = frame.device(DeviceKind::keyboard, place))
                seats.give(*keyboard, is_away ? 1 : 0, right_half());
        news = is_away ? "The second pad is away: operator 2 has the right half of the keyboard."
                       : "The second pad is back.";
    }
}

// The mean over the frame times its length is the way, exact at every frame rate; while the menu pauses, `step` is 0.
void Game::drive(Crane& crane, ActionReader& by, double step) {
    const double way = speed * step * (by[crane::slow].down() ? 0.25 : 1);
    quay.move(crane, way * by[crane::trolley].mean, way * by[crane::hoist].mean);
    if (crane.stands && by.consume_press(crane::lock) && quay.turn_locks(crane)) {
        news = crane.held ? "Locked onto " + crane.held->label + "."
                          : "Put down; " + std::to_string(quay.moved) + " moved.";
        selected.reset();
    }
    if (by[crane::horn].down()) crane.horn_until = quay.now + 0.1;
}

void Game::use_plan(const Frame& frame) {
    const PointerReading pointer = frame.pointer();
    const WindowPoint at = pointer.position();
    hovered.reset();
    if (actions.pauses()) return dragged.reset();  // what was dragged stays where it was
    if (const double turned = actions[crane::zoom].relative; turned != 0 && layout.plan().contains(at)) {
        zoom = std::clamp(zoom * std::pow(1.1, turned), 1.0, 3.0);
        zoom_x = (at.x - layout.left) / layout.scale - Layout::plan_x;
        zoom_y = (at.y - layout.top) / layout.scale - Layout::plan_y;
    }
    const DragReading drag = pointer.drag(controls::MouseLeft);
    for (std::size_t column = 0; column < Quay::column_count; ++column)
        for (std::size_t level = 0; level < Quay::highest; ++level) {
            const WindowRect cell = layout.cell(column, level, zoom, zoom_x, zoom_y);
            const bool has_box = level < quay.stacks[column].size();
            const TargetReading target = pointer.target(cell);
            if (target.hovered && layout.plan().contains(at)) hovered = Place{column, level};
            if (!has_box) continue;
            const Place place{column, level};
            if (target.clicked() && layout.plan().contains(at)) {
                selected = place;
                if (target.count == 2) actions.open(naming_mode());
            }
            if (drag.began && cell.contains(drag.from) && level + 1 == quay.stacks[column].size()) dragged = place;
        }
    if (!dragged) return;
    drag_to = drag.to;
    if (drag.active) return;
    // Dropped onto another stack, or cancelled: then it stays where it was.
    if (drag.dropped && hovered && hovered->column != dragged->column &&
        quay.stacks[hovered->column].size() < Quay::highest) {
        quay.stacks[hovered->column].push_back(quay.stacks[dragged->column].back());
        quay.stacks[dragged->column].pop_back();
        selected = Place{hovered->column, quay.stacks[hovered->column].size() - 1};
    }
    dragged.reset();
}

void Game::use_list() {
    const auto down = static_cast<std::int64_t>(actions[crane::next_job].steps()),
               up = static_cast<std::int64_t>(actions[crane::previous_job].steps());
    const auto last = static_cast<std::int64_t>(jobs.size()) - 1;
    job = static_cast<std::size_t>(std::clamp(static_cast<std::int64_t>(job) + down - up, std::int64_t{0}, last));
    if (!actions[crane::take_job].pressed()) return;
    taken_job = job;
    news = jobs[job] + " begins.";
}

Box* Game::selected_box() {
    if (!selected || selected->level >= quay.stacks[selected->column].size()) return nullptr;
    return &quay.stacks[selected->column][selected->level];
}

void Game::type_label() {
    const bool has_typed = !actions.typing(naming::mode).empty();
    const std::size_t below = quay.stacks[Quay::column(quay.cranes[0])].size();
    if (!selected && below != 0 && (has_typed || is_naming()))
        selected = Place{Quay::column(quay.cranes[0]), below - 1};
    Box* const box = selected_box();
    if (!box && is_naming()) {
        actions.close(naming_mode());
        news = "Choose a box first: there is none below the spreader.";
    }
    if (!box) return;
    for (const TypingStep& step : actions.typing(naming::mode)) {
        if (step.action == naming::erase)
            erase_last_character(box->label);
        else if (box->label.size() < 16)
            box->label.append(step.text);
    }
}

std::string Game::preview() const { return std::string{actions.text_of(naming::mode).composition().text}; }

// ---- the menu

std::vector<std::string> Game::menu_lines() const {
    std::vector<std::string> lines{"Resume"};
    for (std::size_t i = 0; i < std::size(settings); ++i) {
        char text[64];
        std::snprintf(text, sizeof text, settings[i].text, setting(i));
        lines.emplace_back(text);
    }
    for (const char* const action : bindable) {
        const bool waits = capture_ && std::string_view{capturing_} == action;
        lines.push_back(std::string{std::string_view{action}.substr(6)} + ":  " +
                        (waits ? "press a control, or Escape" : label_of(action)));
    }
    lines.push_back("Quit");
    return lines;
}

std::string Game::label_of(const char* name) const {
    const Action* const action = player.profile().action(name);
    const Binding* const binding = action ? binding_for(*action, last_used) : nullptr;
    return binding ? binding_label(
                         *binding, symbol ? symbol : [](std::string_view) { return std::string{}; })
                   : "not bound";
}

// While a capture waits, it claims everything: what is pressed for it reaches no action, not even the menu's.
void Game::use_menu(const Frame& frame) {
    if (capture_ && capture_->read(frame) != BindingCapture::State::waiting) {
        const auto binding = capture_->binding();
        if (binding && player.bind(capturing_, 0, *binding, Settle::replace)) {
            use_settings();
        }
        capture_.reset();
    }
    if (!actions.is_open(menu_mode())) {
        menu_line = 0;
        return;
    }
    const std::uint64_t steps = actions[menu::down].steps() + (line_count - 1) * actions[menu::up].steps();
    menu_line = (menu_line + steps) % line_count;
    const bool has_pointer = frame.pointer().moved();
    bool is_clicked = false;
    for (std::size_t line = 0; line < line_count; ++line) {
        const TargetReading target = frame.pointer().target(layout.menu_line(line));
        if (target.hovered && has_pointer) menu_line = line;
        if (target.clicked()) menu_line = line, is_clicked = true;
    }
    change(menu_line, static_cast<int>(actions[menu::more].steps()) - static_cast<int>(actions[menu::less].steps()));
    if (!is_clicked && !actions[menu::choose].pressed()) return;
    if (menu_line == 0) actions.close(menu_mode());
    if (menu_line == quit_line) wants_to_quit = true;
    if (menu_line >= first_binding && menu_line < quit_line) {
        capturing_ = bindable[menu_line - first_binding];
        capture_.emplace(actions, CaptureOptions{.limit = std::chrono::seconds{10}});
    }
}

double Game::setting(std::size_t line) const {
    const ResponseCurve stick = player.profile().shaping.value_or(DeviceShaping{}).sticks[0].response;
    const auto seconds = [](Duration time) { return std::chrono::duration<double>{time}.count(); };
    switch (line) {
        case dead_zone: return stick.dead_zone;
        case curve: return stick.curve;
        case ramp: return seconds(player.profile().action("crane.trolley")->rise);
        default: return seconds(player.profile().action("crane.lock")->buffer);
    }
}

// They act at once, and are part of the player's file.
void Game::change(std::size_t line, int by) {
    if (by == 0 || line < first_setting || line >= first_binding) return;
    line -= first_setting;
    const double value = std::clamp(setting(line) + settings[line].step * by, 0.0, settings[line].most);
    const std::chrono::milliseconds time{std::lround(1000 * value)};
    Profile changed = player.profile();
    DeviceShaping shaping = changed.shaping.value_or(DeviceShaping{});
    if (line == dead_zone) shaping.sticks[0].response.dead_zone = value;
    if (line == curve) shaping.sticks[0].response.curve = value;
    changed.shaping = shaping;
    for (Mode& mode : changed.modes)
        for (Action& action : mode.actions) {
            if (line == ramp && (action.name == "trolley" || action.name == "hoist")) action.rise = time;
            if (line == buffer && action.name == "lock") action.buffer = time;
        }
    ProfileError error;
    if (player.set_overlay(overlay_text(player.shipped(), changed), "the player's settings", error)) use_settings();
}

void Game::use_settings() {
    actions.rebind(player.profile());
    second.rebind(player.profile());
    has_new_settings = true;
}
