// What each action does. Everything is asked of the frame at hand: no state of keys is kept here.
#include "game.hpp"

#include <cmath>
#include <cstdio>

#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "quay_window.hpp"

using namespace cursorum;
namespace crane = quay_window::crane;
namespace naming = quay_window::naming;
namespace menu = quay_window::menu;

namespace {

constexpr double speed = 3;  // columns, or boxes, per second

/// The actions that the menu asks other keys for.
constexpr const char* bindable[] = {"crane.lock", "crane.horn"};
constexpr std::size_t dead_zone_line = 1, curve_line = 2, first_binding = 3, quit_line = 5, line_count = 6;

/// The last character of a text in UTF-8.
void erase_last_character(std::string& text) {
    while (!text.empty() && (static_cast<unsigned char>(text.back()) & 0xC0U) == 0x80U) text.pop_back();
    if (!text.empty()) text.pop_back();
}

}  // namespace

ModeHandle Game::naming_mode() { return naming::mode; }
ModeHandle Game::menu_mode() { return menu::mode; }

Game::Game(PlayerProfile of) : player{std::move(of)}, actions{player.profile()} {
    actions.open(crane::mode);
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
    actions.read(frame);
    for (const Edge edge : frame.edges())
        if (edge.kind == EdgeKind::press)
            last_used = name_of(edge.button).starts_with("Pad") ? DeviceKind::gamepad : DeviceKind::keyboard;
    frame.for_each_device_change([this](const DeviceChange& it) {
        if (it.kind == DeviceKind::gamepad && !it.connected && last_used == DeviceKind::gamepad) pause();
    });
    wants_why = actions[crane::why].pressed();
    wants_save = actions[crane::save].pressed();
    if (actions[crane::lanes].press_count() % 2 != 0) shows_lanes = !shows_lanes;
    drive(step);
    use_plan(frame);
    use_list();
    type_label();
    use_menu(frame);
}

// The mean over the frame times its length is the way, exact at every frame rate; while the menu pauses, `step` is 0.
void Game::drive(double step) {
    const double way = speed * step * (actions[crane::slow].down() ? 0.25 : 1);
    quay.now += step;
    quay.move(way * actions[crane::trolley].mean, way * actions[crane::hoist].mean);
    has_landed = quay.has_landed;
    if (quay.stands() && actions.consume_press(crane::lock)) {
        if (quay.turn_locks())
            news = quay.held ? "Locked onto " + quay.held->label + "."
                             : "Put down; " + std::to_string(quay.moved) + " moved.";
        selected.reset();
    }
    if (actions[crane::horn].down()) quay.horn_until = quay.now + 0.1;
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
    const std::size_t below = quay.stacks[quay.column()].size();
    if (!selected && below != 0 && (has_typed || is_naming())) selected = Place{quay.column(), below - 1};
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
    const StickShaping stick = player.profile().shaping.value_or(DeviceShaping{}).sticks[0];
    char dead_zone[64], curve[64];
    std::snprintf(dead_zone, sizeof dead_zone, "Dead zone of the stick  < %.2f >", stick.response.dead_zone);
    std::snprintf(curve, sizeof curve, "Curve of the stick  < %.2f >", stick.response.curve);
    std::vector<std::string> lines{"Resume", dead_zone, curve};
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
            actions.rebind(player.profile());
            has_new_settings = true;
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

// The settings of the stick act at once, and are part of the player's file.
void Game::change(std::size_t line, int by) {
    if (by == 0 || (line != dead_zone_line && line != curve_line)) return;
    Profile changed = player.profile();
    DeviceShaping shaping = changed.shaping.value_or(DeviceShaping{});
    ResponseCurve& response = shaping.sticks[0].response;
    double& value = line == dead_zone_line ? response.dead_zone : response.curve;
    value = std::clamp(value + 0.05 * by, 0.0, line == dead_zone_line ? 0.6 : 1.0);
    changed.shaping = shaping;
    ProfileError error;
    if (player.set_overlay(overlay_text(player.shipped(), changed), "the player's settings", error))
        has_new_settings = true;
}
