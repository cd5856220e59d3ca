// A gamepad, a mouse or a keyboard as geometry. Each control has a place on a board of its device's proportions; the
// board is scaled into the room, and each control is drawn in its state.
#include "cursorum/views/control_picture.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>
#include <utility>

#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

using namespace controls;
using Form = PictureShape::Form;
using Role = PictureRole;

/// A control's rectangle on its board.
struct Place {
    Button button;
    double x, y, width, height;
    bool is_round = false;
};

constexpr double pad_width = 300, pad_height = 190, mouse_width = 110, mouse_height = 160;

constexpr Place pad_places[] = {
    {PadShoulderLeft, 42, 30, 62, 13}, {PadShoulderRight, 196, 30, 62, 13}, {PadHatUp, 57, 56, 15, 15},
    {PadHatDown, 57, 86, 15, 15},      {PadHatLeft, 42, 71, 15, 15},        {PadHatRight, 72, 71, 15, 15},
    {PadNorth, 227, 51, 17, 17, true}, {PadSouth, 227, 87, 17, 17, true},   {PadWest, 209, 69, 17, 17, true},
    {PadEast, 245, 69, 17, 17, true},  {PadSelect, 121, 70, 13, 13, true},  {PadStart, 166, 70, 13, 13, true},
    {PadMode, 143, 52, 14, 14, true},
};
constexpr Place pad_triggers[] = {{PadTriggerLeft, 48, 4, 50, 22}, {PadTriggerRight, 202, 4, 50, 22}};
constexpr Place pad_sticks[] = {{PadThumbLeft, 85, 98, 46, 46, true}, {PadThumbRight, 169, 98, 46, 46, true}};
constexpr PicturePoint pad_outline[] = {{60, 46},   {110, 42},  {190, 42},  {240, 46},  {272, 62}, {290, 120},
                                        {294, 168}, {276, 186}, {250, 172}, {222, 150}, {78, 150}, {50, 172},
                                        {24, 186},  {6, 168},   {10, 120},  {28, 62}};

constexpr Place mouse_places[] = {{MouseLeft, 14, 12, 36, 52},
                                  {MouseRight, 60, 12, 36, 52},
                                  {MouseMiddle, 51, 22, 8, 26},
                                  {MouseForward, 3, 70, 10, 22},
                                  {MouseBack, 3, 96, 10, 22}};
constexpr PicturePoint mouse_outline[] = {{28, 4},   {82, 4},   {102, 24}, {106, 80}, {98, 136},
                                          {76, 156}, {34, 156}, {12, 136}, {4, 80},   {8, 24}};

/// A row of keys; the width of those that are not 1 wide is behind them.
struct Key {
    Button button;
    double width = 1;
};
struct KeyRow {
    double x, y;
    std::span<const Key> keys;
};
constexpr Key escape_row[] = {{Escape}};
constexpr Key function_rows[] = {{F1}, {F2}, {F3}, {F4}, {F5}, {F6}, {F7}, {F8}, {F9}, {F10}, {F11}, {F12}};
constexpr Key digits[] = {{Backquote}, {Digit1}, {Digit2}, {Digit3}, {Digit4}, {Digit5}, {Digit6},
                          {Digit7},    {Digit8}, {Digit9}, {Digit0}, {Minus},  {Equal},  {Backspace, 2}};
constexpr Key upper[] = {{Tab, 1.5}, {KeyQ}, {KeyW}, {KeyE}, {KeyR},        {KeyT},         {KeyY},
                         {KeyU},     {KeyI}, {KeyO}, {KeyP}, {BracketLeft}, {BracketRight}, {Backslash, 1.5}};
constexpr Key middle[] = {{CapsLock, 1.75}, {KeyA}, {KeyS}, {KeyD},      {KeyF},  {KeyG},       {KeyH},
                          {KeyJ},           {KeyK}, {KeyL}, {Semicolon}, {Quote}, {Enter, 2.25}};
constexpr Key lower[] = {
    {ShiftLeft, 2.25}, {KeyZ}, {KeyX}, {KeyC}, {KeyV}, {KeyB}, {KeyN}, {KeyM}, {Comma}, {Period}, {Slash},
    {ShiftRight, 2.75}};
constexpr Key bottom[] = {{ControlLeft, 1.25}, {MetaLeft, 1.25},  {AltLeft, 1.25},     {Space, 6.25},
                          {AltRight, 1.25},    {MetaRight, 1.25}, {ContextMenu, 1.25}, {ControlRight, 1.25}};
constexpr Key editing[] = {{Insert}, {Home}, {PageUp}}, editing_below[] = {{Delete}, {End}, {PageDown}};
constexpr Key arrow_up[] = {{ArrowUp}}, arrows[] = {{ArrowLeft}, {ArrowDown}, {ArrowRight}};
constexpr KeyRow key_rows[] = {{0, 0, escape_row},
                               {2, 0, std::span{function_rows}.first(4)},
                               {6.5, 0, std::span{function_rows}.subspan(4, 4)},
                               {11, 0, std::span{function_rows}.last(4)},
                               {0, 1.25, digits},
                               {0, 2.25, upper},
                               {0, 3.25, middle},
                               {0, 4.25, lower},
                               {0, 5.25, bottom},
                               {15.5, 1.25, editing},
                               {15.5, 2.25, editing_below},
                               {16.5, 4.25, arrow_up},
                               {15.5, 5.25, arrows}};

/// "W" for KeyW, "Left" for ArrowLeft, "Shift" for ShiftLeft, "South" for PadSouth.
std::string_view short_name(std::string_view name) {
    for (const std::string_view front : {"Key", "Digit", "Arrow", "PadHat", "PadThumb", "Pad", "Mouse"})
        if (name.starts_with(front) && name.size() > front.size()) return name.substr(front.size());
    for (const std::string_view end : {"Left", "Right"})
        if (name.ends_with(end) && name.size() > end.size()) return name.substr(0, name.size() - end.size());
    return name;
}

class Drawing {
public:
    Drawing(const DeviceSnapshot& now, const ControlPictureOptions& options) : now_{now}, options_{options} {
        text_.text_width = options.text_width;
    }

    Picture finish() {
        switch (options_.kind) {
            case DeviceKind::gamepad: draw_pad(); break;
            case DeviceKind::mouse: draw_mouse(); break;
            case DeviceKind::keyboard: draw_keys(); break;
            default: return {};
        }
        list_others();
        picture_.width = options_.width, picture_.height = options_.height;
        return std::move(picture_);
    }

private:
    static constexpr double list_height = 16;  // below the drawing

    void fit(double width, double height) {
        scale_ = std::min(options_.width / width, (options_.height - list_height) / height);
        left_ = (options_.width - width * scale_) / 2;
        top_ = (options_.height - list_height - height * scale_) / 2;
    }
    PicturePoint at(double x, double y) const { return {left_ + x * scale_, top_ + y * scale_}; }

    void outline(std::span<const PicturePoint> points) {
        PictureShape shape{.form = Form::polygon, .role = Role::device_outline, .filled = false};
        for (const PicturePoint& point : points) shape.points.push_back(at(point.x, point.y));
        picture_.shapes.push_back(std::move(shape));
    }
    PictureShape shape_of(const Place& place, Role role, bool filled) const {
        const PicturePoint corner = at(place.x, place.y);
        return {.form = place.is_round ? Form::circle : Form::rectangle,
                .role = role,
                .filled = filled,
                .x = corner.x,
                .y = corner.y,
                .width = place.width * scale_,
                .height = place.height * scale_,
                .control = place.button};
    }
    void mark(const Place& place) {
        if (!options_.marked.contains(place.button)) return;
        const double more = 3 / scale_;
        picture_.shapes.push_back(shape_of({place.button, place.x - more, place.y - more, place.width + 2 * more,
                                            place.height + 2 * more, place.is_round},
                                           Role::control_marked, false));
    }
    void draw(const Place& place) {
        drawn_.insert(place.button);
        const bool is_down = now_.down.contains(place.button);
        picture_.shapes.push_back(shape_of(place, is_down ? Role::control_down : Role::control, is_down));
        mark(place);
        write(place, is_down);
    }
    void write(const Place& place, bool is_down) {
        const std::string_view name = name_of(place.button);
        std::string text = options_.label ? options_.label(name) : std::string{};
        if (text.find_first_not_of(' ') == text.npos) text = short_name(name);
        const Role role = is_down ? Role::control_down_label : Role::control_label;
        const double width = text_width(text_, role, text), height = text_size_of(role) * text_line_height;
        if (width > place.width * scale_ || height > place.height * scale_ + 1) return;
        const PicturePoint centre = at(place.x + place.width / 2, place.y + place.height / 2);
        picture_.shapes.push_back(
            text_shape(text_, role, std::move(text), {centre.x - width / 2, centre.y - height / 2}));
        picture_.shapes.back().control = place.button;
    }

    void draw_pad() {
        fit(pad_width, pad_height);
        outline(pad_outline);
        for (const Place& place : pad_places) draw(place);
        for (std::size_t i = 0; i < 2; ++i) {
            const Place& trigger = pad_triggers[i];
            draw(trigger);
            const double pulled = trigger.height * now_.pulls[i];
            if (pulled > 0 && !now_.down.contains(trigger.button))
                picture_.shapes.push_back(
                    shape_of({trigger.button, trigger.x, trigger.y + trigger.height - pulled, trigger.width, pulled},
                             Role::control_down, true));
            // The knob moves within the ring by half its radius.
            const Place& stick = pad_sticks[i];
            constexpr double reach = 12, knob = 22;
            Place ring = stick;
            picture_.shapes.push_back(shape_of(ring, Role::control, false));
            const double x = stick.x + stick.width / 2 + reach * now_.sticks[i].x;
            const double y = stick.y + stick.height / 2 + reach * now_.sticks[i].y;
            draw({stick.button, x - knob / 2, y - knob / 2, knob, knob, true});
        }
    }
    void draw_mouse() {
        fit(mouse_width, mouse_height);
        outline(mouse_outline);
        for (const Place& place : mouse_places) draw(place);
    }
    void draw_keys() {
        double left = 1e9, top = 1e9, right = 0, bottom_edge = 0;
        const auto for_each_key = [&](const auto& visit) {
            for (const KeyRow& row : key_rows) {
                double x = row.x;
                for (const Key& key : row.keys) {
                    if (options_.keys.empty() || options_.keys.contains(key.button)) visit(key, x, row.y);
                    x += key.width;
                }
            }
        };
        for_each_key([&](const Key& key, double x, double y) {
            left = std::min(left, x), top = std::min(top, y);
            right = std::max(right, x + key.width), bottom_edge = std::max(bottom_edge, y + 1);
        });
        if (right == 0) return;  // keys that have no place
        fit(right - left, bottom_edge - top);
        constexpr double gap = 0.06;
        for_each_key([&](const Key& key, double x, double y) {
            draw({key.button, x - left + gap, y - top + gap, key.width - 2 * gap, 1 - 2 * gap});
        });
    }

    bool is_of_kind(Button button) const {
        const ControlInfo* const its = find_control(name_of(button));
        if (!its || axis_behind(button)) return false;
        return (its->family == ControlFamily::key && options_.kind == DeviceKind::keyboard) ||
               (its->family == ControlFamily::mouse_button && options_.kind == DeviceKind::mouse) ||
               (its->family == ControlFamily::pad_button && options_.kind == DeviceKind::gamepad);
    }
    void list_others() {
        std::string text;
        (now_.down - drawn_).for_each([&](Button button) {
            if (is_of_kind(button)) text += (text.empty() ? "" : ", ") + std::string{name_of(button)};
        });
        if (text.empty()) return;
        picture_.shapes.push_back(
            text_shape(text_, Role::control_label, std::move(text), {4, options_.height - list_height + 2}));
    }

    const DeviceSnapshot& now_;
    const ControlPictureOptions& options_;
    PictureOptions text_;
    Picture picture_;
    ButtonSet drawn_;
    double scale_ = 1, left_ = 0, top_ = 0;
};

}  // namespace

DeviceSnapshot all_devices(const Frame& frame) {
    DeviceSnapshot all{.time = frame.end(), .down = frame.all_down()};
    for (std::uint8_t i = 0; i < stick_kinds; ++i) all.sticks[i] = frame.stick(Stick{i}).now;
    all.pulls = {frame.trigger(PadPullLeft).now, frame.trigger(PadPullRight).now};
    return all;
}

Picture control_picture(const DeviceSnapshot& now, const ControlPictureOptions& options) {
    return Drawing{now, options}.finish();
}

}  // namespace cursorum
