// Points on the screen, in the window, in a viewport and in the world: separate types, and conversions between them.
#pragma once

#include <cmath>
#include <type_traits>

namespace cursorum {

struct ScreenSpace;    ///< the desktop's pixels
struct WindowSpace;    ///< the window's pixels: what sources post
struct ViewportSpace;  ///< the picture's own units, whatever size it is shown at
struct WorldSpace;     ///< the game's units, as its camera sees them

/// A place in a space. 0,0 is the top left corner of screen, window and viewport; x goes right, y down. A pixel's own
/// place is its top left corner; whole pixels are exact. Made of any two numbers: `WindowPoint{x, y}`.
template <typename Space>
struct Point {
    double x = 0, y = 0;

    constexpr Point() noexcept = default;
    template <typename X, typename Y>
        requires(std::is_arithmetic_v<X> && std::is_arithmetic_v<Y>)
    constexpr Point(X x_pixels, Y y_pixels) noexcept
        : x{static_cast<double>(x_pixels)}, y{static_cast<double>(y_pixels)} {}

    friend constexpr bool operator==(const Point&, const Point&) = default;
};

/// A distance, right and down positive (for a wheel: right and away from the person), in the units of its source.
struct Distance {
    double x = 0, y = 0;

    friend constexpr bool operator==(const Distance&, const Distance&) = default;
};

using ScreenPoint = Point<ScreenSpace>;
using WindowPoint = Point<WindowSpace>;
using ViewportPoint = Point<ViewportSpace>;
using WorldPoint = Point<WorldSpace>;

/// A rectangle. Points on its left and upper border are in it, points on its right and lower border are not, so that
/// neighbours do not overlap. Without a positive width and height it is empty.
template <typename Space>
struct Rect {
    double x = 0, y = 0, width = 0, height = 0;

    constexpr bool contains(Point<Space> p) const noexcept {
        return p.x >= x && p.x < x + width && p.y >= y && p.y < y + height;
    }
    friend constexpr bool operator==(const Rect&, const Rect&) = default;
};

using WindowRect = Rect<WindowSpace>;
using ViewportRect = Rect<ViewportSpace>;

/// Takes points of one space to another: x' = a x + b y + e, y' = c x + d y + f.
template <typename From, typename To>
struct Transform {
    double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;

    constexpr Point<To> operator()(Point<From> p) const noexcept {
        return Point<To>{a * p.x + b * p.y + e, c * p.x + d * p.y + f};
    }
    /// A distance in the one space as one in the other: without the shift. Takes what PointerReading::motion() gives.
    constexpr Distance of_motion(Distance way) const noexcept { return {a * way.x + b * way.y, c * way.x + d * way.y}; }

    constexpr double determinant() const noexcept { return a * d - b * c; }
    /// Returns whether it has an inverse.
    constexpr bool is_invertible() const noexcept { return determinant() != 0; }
    /// The inverse; the identity if there is none.
    constexpr Transform<To, From> inverse() const noexcept {
        const double det = determinant();
        if (det == 0) return {};
        return {d / det, -b / det, -c / det, a / det, (b * f - d * e) / det, (c * e - a * f) / det};
    }
    /// First this, then the other.
    template <typename Further>
    constexpr Transform<From, Further> then(const Transform<To, Further>& t) const noexcept {
        return {t.a * a + t.b * c, t.a * b + t.b * d,       t.c * a + t.d * c,
                t.c * b + t.d * d, t.a * e + t.b * f + t.e, t.c * e + t.d * f + t.f};
    }
    friend constexpr bool operator==(const Transform&, const Transform&) = default;
};

/// The window's top left corner stands at `corner` on the screen.
constexpr Transform<ScreenSpace, WindowSpace> window_at(ScreenPoint corner) noexcept {
    return {1, 0, 0, 1, -corner.x, -corner.y};
}

struct Size {
    double width = 0, height = 0;
};

/// The picture, `viewport` in size, shown as large as it fits into the window, in the middle, with bars at the sides or
/// above and below. The identity if a size is not more than zero.
constexpr Transform<WindowSpace, ViewportSpace> letterbox(Size window, Size viewport) noexcept {
    if (!(window.width > 0 && window.height > 0 && viewport.width > 0 && viewport.height > 0)) return {};
    const double across = viewport.width / window.width, along = viewport.height / window.height;
    const double scale = across > along ? across : along;  // viewport units a pixel
    return {
        scale, 0, 0, scale, (viewport.width - window.width * scale) / 2, (viewport.height - window.height * scale) / 2};
}

/// Shown over the whole window, stretched where the shapes differ. The identity if a size is not more than zero.
constexpr Transform<WindowSpace, ViewportSpace> stretched(Size window, Size viewport) noexcept {
    if (!(window.width > 0 && window.height > 0 && viewport.width > 0 && viewport.height > 0)) return {};
    return {viewport.width / window.width, 0, 0, viewport.height / window.height, 0, 0};
}

/// A camera over a flat world.
struct Camera {
    WorldPoint centre;  ///< what stands in the middle of the viewport
    double zoom = 1;    ///< viewport units a world unit, more than 0
    double turned = 0;  ///< radians, by which the camera is turned clockwise (as y goes down)
    bool y_up = false;  ///< the world's y goes up
};

/// From the viewport to what the camera sees there. For picking and drawing, not for anything a frame carries: it uses
/// the system's sine and cosine, which differ in the last bit.
inline Transform<ViewportSpace, WorldSpace> camera_transform(const Camera& camera, Size viewport) noexcept {
    const double s = std::sin(camera.turned) / camera.zoom, c = std::cos(camera.turned) / camera.zoom;
    const double up = camera.y_up ? -1 : 1;
    const double x = viewport.width / 2, y = viewport.height / 2;
    return {c, -s, up * s, up * c, camera.centre.x - (c * x - s * y), camera.centre.y - up * (s * x + c * y)};
}

}  // namespace cursorum
