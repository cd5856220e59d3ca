#include "picture_file.hpp"

#include <cairo.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <initializer_list>
#include <memory>
#include <optional>

#include "command_line.hpp"

namespace cursorum::tool {
namespace {

using Form = PictureShape::Form;
using Role = PictureRole;

/// Red, green, blue and opacity.
struct Colour {
    double red = 0, green = 0, blue = 0, opacity = 1;
};
constexpr Colour colour(unsigned rgb, double opacity = 1) {
    return {(rgb >> 16 & 255) / 255.0, (rgb >> 8 & 255) / 255.0, (rgb & 255) / 255.0, opacity};
}

/// Hues that stay apart for colour-blind eyes, and differ in lightness: Okabe and Ito, Color Universal Design (2008).
constexpr Colour colour_of(Role role) {
    switch (role) {
        case Role::title: return colour(0x111111);
        case Role::label: return colour(0x222222);
        case Role::small_label: return colour(0x555555);
        case Role::lane_band: return colour(0xF4F5F7);
        case Role::grid: return colour(0x000000, 0.10);
        case Role::active: return colour(0x006B4A);
        case Role::without_focus: return colour(0x8A8A8A, 0.32);
        case Role::paused: return colour(0x0072B2, 0.16);
        case Role::unplugged: return colour(0xE69F00, 0.22);
        case Role::interrupted: return colour(0x882255);
        case Role::bar: return colour(0xA9C9E4);
        case Role::press_edge:
        case Role::release_edge: return colour(0x1B4F7A);
        case Role::adopt_edge: return colour(0x555555);
        case Role::cancel_edge: return colour(0xB03A00);
        case Role::system_repeat: return colour(0x1B4F7A, 0.75);
        case Role::cell: return colour(0x9AA8A8);
        case Role::hold: return colour(0x7FBFA5);
        case Role::press: return colour(0x006B4A);
        case Role::release: return colour(0x0072B2);
        case Role::blip: return colour(0xA0307A);
        case Role::dip: return colour(0xB87800);
        case Role::cancel: return colour(0xD55E00);
        case Role::adopt: return colour(0x444444);
        case Role::repeat: return colour(0x006B4A);
        case Role::missed: return colour(0xC00000);
        case Role::lost:
        case Role::made_up: return colour(0xC00000);
        case Role::belief: return colour(0x6A1B9A);
        case Role::dead_zone: return colour(0xE69F00, 0.20);
        case Role::zero: return colour(0x000000, 0.25);
        case Role::raw_value: return colour(0x909090);
        case Role::shaped_value: return colour(0x0072B2);
        case Role::outer_zone: return colour(0x009E73);
        case Role::rest: return colour(0xC00000);
        case Role::device_outline: return colour(0x777777);
        case Role::control: return colour(0x444444);
        case Role::control_down: return colour(0x006B4A);
        case Role::control_marked: return colour(0xE69F00);
        case Role::control_label: return colour(0x222222);
        case Role::control_down_label: return colour(0xFFFFFF);
    }
    return {};
}

double line_width_of(Role role) {
    switch (role) {
        case Role::grid:
        case Role::cell:
        case Role::zero:
        case Role::raw_value:
        case Role::system_repeat: return 1;
        case Role::shaped_value: return 1.8;
        default: return 1.6;
    }
}

void choose_font(cairo_t* to, double size, bool bold) {
    cairo_select_font_face(to, "sans-serif", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(to, size);
}

void trace(cairo_t* to, const PictureShape& shape) {
    if (shape.form == Form::rectangle) {
        const double inset = shape.filled ? 0 : line_width_of(shape.role) / 2;
        cairo_rectangle(to, shape.x + inset, shape.y + inset, shape.width - 2 * inset, shape.height - 2 * inset);
    } else if (shape.form == Form::circle) {
        const double inset = shape.filled ? 0 : line_width_of(shape.role) / 2;
        cairo_arc(to, shape.x + shape.width / 2, shape.y + shape.height / 2, shape.width / 2 - inset, 0, 2 * M_PI);
    } else {
        for (const PicturePoint& point : shape.points) cairo_line_to(to, point.x, point.y);
        if (shape.form == Form::polygon) cairo_close_path(to);
    }
}

void draw(cairo_t* to, const Picture& picture) {
    cairo_set_source_rgb(to, 1, 1, 1);
    cairo_paint(to);
    for (const PictureShape& shape : picture.shapes) {
        const Colour its = colour_of(shape.role);
        cairo_set_source_rgba(to, its.red, its.green, its.blue, its.opacity);
        if (shape.form == Form::text) {
            const double size = shape.height / 1.25;
            choose_font(to, size, shape.is_bold);
            cairo_move_to(to, shape.x, shape.y + size * 0.95);
            cairo_show_text(to, TerminalText::of(shape.text).string().c_str());
            continue;
        }
        cairo_new_path(to);
        trace(to, shape);
        if (shape.filled && shape.form != Form::curve) {
            cairo_fill(to);
            continue;
        }
        cairo_set_line_width(to, line_width_of(shape.role));
        cairo_set_line_join(to, CAIRO_LINE_JOIN_ROUND);
        cairo_stroke(to);
    }
}

cairo_status_t append(void* to, const unsigned char* bytes, unsigned length) {
    static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), length);
    return CAIRO_STATUS_SUCCESS;
}

struct Destroy {
    void operator()(cairo_t* context) const { cairo_destroy(context); }
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
};
using Context = std::unique_ptr<cairo_t, Destroy>;
using Surface = std::unique_ptr<cairo_surface_t, Destroy>;

void check(cairo_status_t status) {
    if (status != CAIRO_STATUS_SUCCESS)
        throw UsageError{shown("cannot draw the picture: {}", cairo_status_to_string(status))};
}

}  // namespace

double picture_text_width(std::string_view text, double size, bool bold) {
    static const Surface surface{cairo_image_surface_create(CAIRO_FORMAT_A8, 1, 1)};
    static const Context context{cairo_create(surface.get())};
    choose_font(context.get(), size, bold);
    cairo_text_extents_t extents;
    cairo_text_extents(context.get(), TerminalText::of(text).string().c_str(), &extents);
    return extents.x_advance;
}

std::string as_png(const Picture& picture) {
    const Surface surface{cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(std::ceil(picture.width)),
                                                     static_cast<int>(std::ceil(picture.height)))};
    const Context context{cairo_create(surface.get())};
    draw(context.get(), picture);
    check(cairo_status(context.get()));
    std::string bytes;
    check(cairo_surface_write_to_png_stream(surface.get(), append, &bytes));
    return bytes;
}

namespace {

/// Numbers to a tenth of a pixel, without what they do not need.
void add_number(std::string& to, double value) {
    std::string text = fmt::format("{:.1f}", value);
    if (text.ends_with(".0")) text.resize(text.size() - 2);
    to += text == "-0" ? "0" : text;
}
void add_path(std::string& to, char command, std::initializer_list<double> numbers) {
    to += command;
    for (const double& number : numbers) {
        if (&number != numbers.begin()) to += ' ';
        add_number(to, number);
    }
}

/// The shape as part of a path (SVG 2, chapter 9).
void add_shape(std::string& path, const PictureShape& shape) {
    const double inset = shape.filled ? 0 : line_width_of(shape.role) / 2, x = shape.x + inset, y = shape.y + inset,
                 width = shape.width - 2 * inset, height = shape.height - 2 * inset;
    if (shape.form == Form::rectangle) {
        add_path(path, 'M', {x, y});
        add_path(path, 'h', {width});
        add_path(path, 'v', {height});
        add_path(path, 'h', {-width});
        path += 'z';
    } else if (shape.form == Form::circle) {
        const double radius = width / 2;
        add_path(path, 'M', {x, y + radius});
        for (const double way : {width, -width}) add_path(path, 'a', {radius, radius, 0, 1, 0, way, 0});
        path += 'z';
    } else {
        PicturePoint before{-1, -1};
        for (const PicturePoint& point : shape.points) {
            const bool is_first = &point == shape.points.data();
            if (!is_first && point.y == before.y)
                add_path(path, 'H', {point.x});
            else if (!is_first && point.x == before.x)
                add_path(path, 'V', {point.y});
            else
                add_path(path, is_first ? 'M' : 'L', {point.x, point.y});
            before = point;
        }
        if (shape.form == Form::polygon) path += 'z';
    }
}

std::string escaped(std::string_view text) {
    const TerminalText harmless = TerminalText::of(text);
    std::string result;
    for (const char c : harmless.string()) result += c == '<' ? "&lt;" : c == '&' ? "&amp;" : std::string(1, c);
    return result;
}

}  // namespace

/// Written by hand: Cairo's own has letters as outlines and lengths in points, and is twenty times as long.
std::string as_svg(const Picture& picture) {
    const auto title = std::find_if(picture.shapes.begin(), picture.shapes.end(),
                                    [](const PictureShape& it) { return it.form == Form::text; });
    std::string out = fmt::format(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:g}\" height=\"{1:g}\" viewBox=\"0 0 {0:g} {1:g}\" "
        "role=\"img\">\n<title>{2}</title>\n<style>\ntext{{font-family:\"DejaVu "
        "Sans\",Verdana,sans-serif;stroke:none;white-space:pre}}\n"
        ".line{{fill:none;stroke-linejoin:round}}\n.bold{{font-weight:bold}}\n",
        picture.width, picture.height, escaped(title != picture.shapes.end() ? title->text : ""));
    for (unsigned i = 0; i < picture_role_count; ++i) {
        const Role role{static_cast<std::uint8_t>(i)};
        const Colour its = colour_of(role);
        const auto part = [](double share) { return static_cast<int>(std::lround(share * 255)); };
        const std::string rgb = fmt::format("#{:02x}{:02x}{:02x}", part(its.red), part(its.green), part(its.blue));
        out += fmt::format(
            ".{0}{{fill:{1};fill-opacity:{2:g}}}.{0}.line{{fill:none;stroke:{1};stroke-opacity:{2:g};"
            "stroke-width:{3:g}}}\n",
            name_of(role), rgb, its.opacity, line_width_of(role));
    }
    out += "</style>\n<path fill=\"#fff\" d=\"M0 0h99999v99999h-99999z\"/>\n";
    std::string path;
    for (std::size_t i = 0; i < picture.shapes.size(); ++i) {
        const PictureShape& shape = picture.shapes[i];
        if (shape.form == Form::text) {
            const double size = shape.height / text_line_height;
            out += fmt::format(
                "<text class=\"{}{}\" x=\"{:.1f}\" y=\"{:.1f}\" font-size=\"{:.3g}\" textLength=\"{:.1f}\">"
                "{}</text>\n",
                name_of(shape.role), shape.is_bold ? " bold" : "", shape.x, shape.y + size * 0.95, size, shape.width,
                escaped(shape.text));
            continue;
        }
        // Shapes of one look that follow each other are one path.
        const auto is_line = [](const PictureShape& it) { return !it.filled || it.form == Form::curve; };
        add_shape(path, shape);
        const PictureShape* const next = i + 1 < picture.shapes.size() ? &picture.shapes[i + 1] : nullptr;
        if (next && next->form != Form::text && next->role == shape.role && is_line(*next) == is_line(shape)) continue;
        out +=
            fmt::format("<path class=\"{}{}\" d=\"{}\"/>\n", name_of(shape.role), is_line(shape) ? " line" : "", path);
        path.clear();
    }
    return out + "</svg>\n";
}

}  // namespace cursorum::tool
