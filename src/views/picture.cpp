// Pictures as shapes with roles, and text sizes that all pictures share. Nothing here draws: that is the renderer's
// task.
#include "cursorum/views/picture.hpp"

#include <algorithm>
#include <utility>

namespace cursorum {

std::string_view name_of(PictureRole role) noexcept {
    constexpr std::string_view names[] = {"title",
                                          "label",
                                          "small_label",
                                          "lane_band",
                                          "grid",
                                          "active",
                                          "without_focus",
                                          "paused",
                                          "unplugged",
                                          "interrupted",
                                          "bar",
                                          "press_edge",
                                          "adopt_edge",
                                          "release_edge",
                                          "cancel_edge",
                                          "system_repeat",
                                          "cell",
                                          "hold",
                                          "press",
                                          "release",
                                          "blip",
                                          "dip",
                                          "cancel",
                                          "adopt",
                                          "repeat",
                                          "missed",
                                          "lost",
                                          "made_up",
                                          "belief",
                                          "dead_zone",
                                          "zero",
                                          "raw_value",
                                          "shaped_value",
                                          "outer_zone",
                                          "rest",
                                          "device_outline",
                                          "control",
                                          "control_down",
                                          "control_marked",
                                          "control_label",
                                          "control_down_label"};
    static_assert(std::size(names) == picture_role_count);
    return names[static_cast<unsigned>(role)];
}

double text_width(const PictureOptions& options, PictureRole role, std::string_view text, bool is_bold) {
    const double size = text_size_of(role);
    if (options.text_width) return options.text_width(text, size, is_bold || role == PictureRole::title);
    const auto count = std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; });
    return static_cast<double>(count) * size * 0.62;
}

PictureShape text_shape(const PictureOptions& options, PictureRole role, std::string text, PicturePoint at,
                        bool is_bold) {
    const bool bold = is_bold || role == PictureRole::title;
    const double width = text_width(options, role, text, bold);
    return {.form = PictureShape::Form::text,
            .role = role,
            .x = at.x,
            .y = at.y,
            .width = width,
            .height = text_size_of(role) * text_line_height,
            .text = std::move(text),
            .is_bold = bold};
}

PictureShape line_shape(PictureRole role, PicturePoint from, PicturePoint to) {
    return {.form = PictureShape::Form::curve, .role = role, .points = {from, to}};
}

}  // namespace cursorum
