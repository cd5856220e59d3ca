// Everything is drawn in the layout's space of 1280 x 800; the rectangles that can be clicked come from the layout
// itself.
#include "scene.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <sstream>

#include "cursorum/views/control_picture.hpp"

using namespace cursorum;

namespace {

class Pen {
public:
    Pen(cairo_t* to, const Layout& layout) : to_{to}, layout_{layout} {}

    void choose(unsigned rgb, double opacity = 1) const {
        cairo_set_source_rgba(to_, (rgb >> 16 & 0xFF) / 255.0, (rgb >> 8 & 0xFF) / 255.0, (rgb & 0xFF) / 255.0,
                              opacity);
    }
    void box(double x, double y, double w, double h, unsigned rgb, double opacity = 1) const {
        choose(rgb, opacity);
        cairo_rectangle(to_, x, y, w, h);
        cairo_fill(to_);
    }
    void frame(double x, double y, double w, double h, unsigned rgb, double width = 2) const {
        choose(rgb);
        cairo_set_line_width(to_, width);
        cairo_rectangle(to_, x, y, w, h);
        cairo_stroke(to_);
    }
    void line(double x, double y, double x2, double y2, unsigned rgb, double width) const {
        choose(rgb);
        cairo_set_line_width(to_, width);
        cairo_move_to(to_, x, y);
        cairo_line_to(to_, x2, y2);
        cairo_stroke(to_);
    }
    void text(double x, double y, const std::string& words, unsigned rgb, double size = 18, bool bold = false) const {
        cairo_select_font_face(to_, "sans-serif", CAIRO_FONT_SLANT_NORMAL,
                               bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
        cairo_set_font_size(to_, size);
        choose(rgb);
        cairo_move_to(to_, x, y);
        cairo_show_text(to_, words.c_str());
    }
    double width_of(const std::string& words, double size) const {
        cairo_set_font_size(to_, size);
        cairo_text_extents_t extents;
        cairo_text_extents(to_, words.c_str(), &extents);
        return extents.x_advance;
    }
    /// A rectangle of the window in the layout's space.
    WindowRect local(const WindowRect& rect) const {
        return {(rect.x - layout_.left) / layout_.scale, (rect.y - layout_.top) / layout_.scale,
                rect.width / layout_.scale, rect.height / layout_.scale};
    }

private:
    cairo_t* to_;
    const Layout& layout_;
};

constexpr unsigned night = 0x14222B, water = 0x2B4A5E, stone = 0x3A4046, steel = 0xC9B458, ink = 0xE6EDF0,
                   faint = 0x8FA3AD, marked = 0xF2D04A;
constexpr double ground = 560, column_width = 100, level_height = 58, left_edge = 60;

double x_of(double column) { return left_edge + column * column_width; }
double y_of(double level) { return ground - level * level_height; }

void draw_box(const Pen& pen, double x, double y, const Box& box) {
    pen.box(x + 4, y - level_height + 3, column_width - 8, level_height - 5, box.colour);
    for (int rib = 1; rib < 6; ++rib)
        pen.line(x + 4 + rib * 15, y - level_height + 6, x + 4 + rib * 15, y - 5, 0x000000, 0.4);
    pen.text(x + 10, y - 20, box.label, 0x101010, 15, true);
}

/// A bridge, the trolley, ropes and the spreader.
void draw_crane(const Pen& pen, const Crane& crane, double top, unsigned colour, double now) {
    const double trolley = x_of(crane.trolley) + column_width / 2, spreader = y_of(crane.height) - 6;
    pen.line(40, top, 800, top, colour, 8);
    pen.box(trolley - 26, top - 6, 52, 18, 0xE8E2C8);
    for (const double rope : {-24.0, 24.0}) pen.line(trolley + rope, top + 10, trolley + rope, spreader, 0xB0B0B0, 1.5);
    pen.box(trolley - 46, spreader - 5, 92, 10, crane.held ? 0x66C28A : colour);
    if (crane.held) draw_box(pen, trolley - column_width / 2, spreader + level_height + 4, *crane.held);
    if (crane.stands) pen.text(trolley - 40, spreader - 14, "landed", 0x66C28A, 15);
    if (now < crane.horn_until) pen.text(trolley + 34, top - 10, "HORN", marked, 22, true);
}

void draw_quay(const Pen& pen, const Game& game) {
    pen.box(0, 0, Layout::width, Layout::height, night);
    pen.box(0, ground, 4 * column_width + left_edge + 10, 60, water);
    pen.box(4 * column_width + left_edge + 10, ground, 800 - 4 * column_width - left_edge, 60, stone);
    pen.line(30, ground - 4, x_of(4) + 4, ground - 4, 0x7A3B2E, 12);  // the ship's deck
    pen.line(780, 90, 780, ground, steel, 10);                        // the crane's legs
    pen.line(500, 90, 500, ground, steel, 6);
    const Quay& quay = game.quay;
    for (std::size_t column = 0; column < Quay::column_count; ++column)
        for (std::size_t level = 0; level < quay.stacks[column].size(); ++level) {
            const double x = x_of(static_cast<double>(column)), y = y_of(static_cast<double>(level));
            draw_box(pen, x, y, quay.stacks[column][level]);
            if (game.selected == Game::Place{column, level})
                pen.frame(x + 3, y - level_height + 2, column_width - 6, level_height - 3, marked, 3);
        }
    if (game.has_second()) draw_crane(pen, quay.cranes[1], 112, 0x8FB7C9, quay.now);
    draw_crane(pen, quay.cranes[0], 90, steel, quay.now);
    pen.text(30, 40, game.has_second() ? "Quay 4, cranes 2 and 3" : "Quay 4, crane 2", ink, 24, true);
    pen.text(30, 660, game.news, ink, 20);
    const auto hint = [&](double x, double y, const char* what, const char* action) {
        pen.text(x, y, what, faint, 15);
        pen.text(x + 90, y, game.label_of(action), ink, 15, true);
    };
    hint(30, 694, "trolley", "crane.trolley"), hint(240, 694, "hoist", "crane.hoist");
    hint(450, 694, "lock", "crane.lock"), hint(640, 694, "horn", "crane.horn");
    hint(30, 718, "jobs", "crane.next_job"), hint(240, 718, "take job", "crane.take_job");
    hint(450, 718, "label", "crane.name_box"), hint(640, 718, "menu", "crane.menu");
    pen.text(30, 742, "F1 why did lock not fire?   F2 save the last half minute   F3 lanes, controls", faint, 15);
}

void draw_plan(cairo_t* to, const Pen& pen, const Game& game) {
    pen.text(Layout::plan_x, 48, "Bay plan", ink, 20, true);
    pen.text(Layout::plan_x + 110, 48, "click, drag, double click; wheel zooms", faint, 14);
    cairo_save(to);
    cairo_rectangle(to, Layout::plan_x, Layout::plan_y, Layout::plan_width, Layout::plan_height);
    cairo_clip(to);
    pen.box(Layout::plan_x, Layout::plan_y, Layout::plan_width, Layout::plan_height, 0x1D313C);
    for (std::size_t column = 0; column < Quay::column_count; ++column)
        for (std::size_t level = 0; level < Quay::highest; ++level) {
            const WindowRect cell = pen.local(game.layout.cell(column, level, game.zoom, game.zoom_x, game.zoom_y));
            const Game::Place place{column, level};
            const bool has_box = level < game.quay.stacks[column].size();
            pen.box(cell.x, cell.y, cell.width, cell.height,
                    has_box ? game.quay.stacks[column][level].colour : 0x253E4B, game.dragged == place ? 0.3 : 1);
            if (has_box)
                pen.text(cell.x + 4, cell.y + cell.height / 2 + 4, game.quay.stacks[column][level].label, 0x101010, 11);
            if (game.hovered == place) pen.frame(cell.x, cell.y, cell.width, cell.height, ink);
            if (game.selected == place) pen.frame(cell.x, cell.y, cell.width, cell.height, marked, 3);
        }
    if (game.dragged) {
        const WindowRect at = pen.local({game.drag_to.x, game.drag_to.y, 0, 0});
        pen.box(at.x - 24, at.y - 20, 48, 40, ink, 0.8);
    }
    cairo_restore(to);
    pen.frame(Layout::plan_x, Layout::plan_y, Layout::plan_width, Layout::plan_height, faint, 1);
}

void draw_label(const Pen& pen, const Game& game) {
    const WindowRect field = pen.local(game.layout.label_field());
    pen.text(field.x, field.y - 8, "Label of the chosen box", ink, 16, true);
    pen.box(field.x, field.y, field.width, field.height, game.is_naming() ? 0x2E4A58 : 0x1D313C);
    pen.frame(field.x, field.y, field.width, field.height, game.is_naming() ? marked : faint, game.is_naming() ? 2 : 1);
    std::string text;
    if (game.selected && game.selected->level < game.quay.stacks[game.selected->column].size())
        text = game.quay.stacks[game.selected->column][game.selected->level].label;
    pen.text(field.x + 8, field.y + 23, text, ink, 18);
    if (!game.is_naming()) return;
    const double end = field.x + 8 + pen.width_of(text, 18);
    const std::string preview = game.preview();
    pen.text(end, field.y + 23, preview, faint, 18);
    const double caret = end + pen.width_of(preview, 18) + 2;
    pen.line(caret, field.y + 6, caret, field.y + 28, marked, 2);
    pen.text(field.x + field.width + 12, field.y + 23, "Enter: done", faint, 14);
}

void draw_jobs(const Pen& pen, const Game& game) {
    pen.text(850, 436, "Jobs", ink, 20, true);
    const std::size_t shown = 5;
    const std::size_t first = std::min(game.job > 2 ? game.job - 2 : 0, game.jobs.size() - shown);
    for (std::size_t i = 0; i < shown; ++i) {
        const double y = 446 + 27.0 * static_cast<double>(i);
        const std::size_t job = first + i;
        if (job == game.job) pen.box(846, y, 404, 25, 0x3F6275);
        pen.text(856, y + 19, game.jobs[job], job == game.taken_job ? marked : ink, 16, job == game.taken_job);
    }
}

void draw_menu(const Pen& pen, const Game& game) {
    pen.box(0, 0, Layout::width, Layout::height, 0x000000, 0.55);
    pen.box(420, 130, 440, 440, 0x1D313C);
    pen.frame(420, 130, 440, 440, faint);
    pen.text(440, 170, "Menu: the quay stands still", ink, 22, true);
    const std::vector<std::string> lines = game.menu_lines();
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const WindowRect line = pen.local(game.layout.menu_line(i));
        if (i == game.menu_line) pen.box(line.x, line.y, line.width, line.height, 0x3F6275);
        if (i == game.menu_line) pen.frame(line.x, line.y, line.width, line.height, marked);
        pen.text(line.x + 12, line.y + 25, lines[i], ink, 17, i == game.menu_line);
    }
}

/// Roles of shapes as colours.
unsigned colour_of(PictureRole role) {
    switch (role) {
        case PictureRole::title:
        case PictureRole::label: return ink;
        case PictureRole::small_label:
        case PictureRole::grid:
        case PictureRole::cell: return 0x5F7480;
        case PictureRole::lane_band: return 0x1A2B35;
        case PictureRole::bar:
        case PictureRole::hold:
        case PictureRole::press:
        case PictureRole::press_edge:
        case PictureRole::active: return 0x66C28A;
        case PictureRole::missed:
        case PictureRole::cancel:
        case PictureRole::cancel_edge: return 0xE0685A;
        case PictureRole::adopt:
        case PictureRole::adopt_edge: return 0xB58CD9;
        case PictureRole::without_focus:
        case PictureRole::paused:
        case PictureRole::unplugged: return 0x3A4048;
        case PictureRole::raw_value: return 0x4E8FA8;
        case PictureRole::device_outline: return 0x3F5A68;
        case PictureRole::control:
        case PictureRole::control_label: return faint;
        case PictureRole::control_down: return 0x66C28A;
        case PictureRole::control_down_label: return 0x10191F;
        default: return marked;
    }
}

void draw_shapes(cairo_t* to, const Pen& pen, const Picture& picture) {
    for (const PictureShape& shape : picture.shapes) {
        pen.choose(colour_of(shape.role));
        cairo_set_line_width(to, 1.2);
        cairo_new_path(to);
        switch (shape.form) {
            case PictureShape::Form::rectangle: cairo_rectangle(to, shape.x, shape.y, shape.width, shape.height); break;
            case PictureShape::Form::circle:
                cairo_arc(to, shape.x + shape.width / 2, shape.y + shape.height / 2, shape.width / 2, 0,
                          2 * std::numbers::pi);
                break;
            case PictureShape::Form::polygon:
            case PictureShape::Form::curve:
                for (const PicturePoint& point : shape.points) cairo_line_to(to, point.x, point.y);
                if (shape.form == PictureShape::Form::polygon) cairo_close_path(to);
                break;
            case PictureShape::Form::text:
                pen.text(shape.x, shape.y + shape.height * 0.8, shape.text, colour_of(shape.role),
                         shape.height / text_line_height, shape.is_bold);
                continue;
        }
        shape.filled&& shape.form != PictureShape::Form::curve ? cairo_fill(to) : cairo_stroke(to);
    }
}

}  // namespace

std::vector<PanelPart> controls_of(const Game& game, const Frame& frame) {
    std::vector<PanelPart> parts;
    ControlPictureOptions pads{.width = 124, .height = 100};
    for (const char* const name : {"trolley", "hoist", "slow", "lock", "horn"})
        for (const Binding& binding : game.player.profile().action(name)->bindings)
            for (const Button button : binding.buttons) {
                pads.keys = pads.keys | physical_buttons(button);
                if (game.quay.cranes[0].stands && std::string_view{name} == "lock") pads.marked.insert(button);
            }
    for (unsigned place = 0; place < 2; ++place)
        if (const auto pad = frame.device(DeviceKind::gamepad, place))
            parts.push_back({296, 100.0 * place, control_picture(frame.on(*pad).current(), pads)});
    ControlPictureOptions keys = pads;
    keys.kind = DeviceKind::keyboard, keys.width = parts.empty() ? 412 : 288, keys.height = 196,
    keys.label = game.symbol;
    parts.push_back({4, 2, control_picture(all_devices(frame), keys)});
    return parts;
}

void draw(cairo_t* to, const Game& game, const Overlay& overlay) {
    cairo_set_source_rgb(to, 0, 0, 0);
    cairo_paint(to);
    cairo_translate(to, game.layout.left, game.layout.top);
    cairo_scale(to, game.layout.scale, game.layout.scale);
    const Pen pen{to, game.layout};
    draw_quay(pen, game);
    draw_plan(to, pen, game);
    draw_label(pen, game);
    draw_jobs(pen, game);
    if (!overlay.panel.empty()) pen.box(840, 590, 420, 200, 0x10191F);
    for (const PanelPart& part : overlay.panel) {
        cairo_save(to);
        cairo_translate(to, 840 + part.x, 590 + part.y);
        draw_shapes(to, pen, part.picture);
        cairo_restore(to);
    }
    if (game.actions.pauses()) draw_menu(pen, game);
    if (overlay.answer.empty()) return;
    pen.box(30, 104, 770, 230, 0x10191F, 0.92);
    std::istringstream words{overlay.answer};
    double y = 130;
    for (std::string line; std::getline(words, line) && y < 320;)
        do {  // at most 110 characters in a line, broken at a space
            std::size_t end = line.size() <= 110 ? line.size() : line.rfind(' ', 110);
            if (end == std::string::npos || end == 0) end = std::min<std::size_t>(110, line.size());
            pen.text(44, y, line.substr(0, end), ink, 14, y == 130);
            line.erase(0, std::min(end + 1, line.size()));
            y += 20;
        } while (!line.empty() && y < 320);
}
