// Where things are in the window: one layout for drawing and for clicks, so that they cannot differ.
#pragma once

#include <algorithm>
#include <cstddef>

#include "cursorum/core/space.hpp"
#include "quay.hpp"

/// Drawn in a space of 1280 x 800, which is scaled into the window.
struct Layout {
    static constexpr double width = 1280, height = 800;
    double scale = 1, left = 0, top = 0;

    Layout() = default;
    Layout(double window_width, double window_height)
        : scale{std::min(window_width / width, window_height / height)},
          left{(window_width - width * scale) / 2},
          top{(window_height - height * scale) / 2} {}

    cursorum::WindowRect in_window(double x, double y, double w, double h) const {
        return {left + x * scale, top + y * scale, w * scale, h * scale};
    }
    // The bay plan: a cell for each place in the stacks, magnified about a point.
    static constexpr double plan_x = 850, plan_y = 70, plan_width = 400, plan_height = 250;
    cursorum::WindowRect plan() const { return in_window(plan_x, plan_y, plan_width, plan_height); }
    cursorum::WindowRect cell(std::size_t column, std::size_t level, double zoom, double zoom_x, double zoom_y) const {
        const double w = plan_width / Quay::column_count, h = plan_height / Quay::highest;
        const double x = static_cast<double>(column) * w, y = plan_height - static_cast<double>(level + 1) * h;
        return in_window(plan_x + zoom_x + (x - zoom_x) * zoom + 2, plan_y + zoom_y + (y - zoom_y) * zoom + 2,
                         w * zoom - 4, h * zoom - 4);
    }
    cursorum::WindowRect label_field() const { return in_window(850, 360, 250, 34); }
    cursorum::WindowRect menu_line(std::size_t line) const {
        return in_window(440, 200 + 44.0 * static_cast<double>(line), 400, 38);
    }
};
