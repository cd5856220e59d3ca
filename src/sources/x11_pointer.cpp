// What an X pointer's numbers mean: wheels count in valuators that jump when the pointer comes back, and a locked
// pointer is put back to the window's middle without counting as motion.
#include "sources/x11_pointer.hpp"

#include <xcb/xfixes.h>

#include <algorithm>

namespace cursorum::x11 {

void SmoothWheel::add(const ScrollAxis& axis) noexcept {
    if (count_ < axes_.size() && axis.number < most_valuators && axis.increment != 0) axes_[count_++] = axis;
}

void SmoothWheel::add_to(Distance& sum, const ScrollAxis& axis, double turned) noexcept {
    if (axis.horizontal)
        sum.x += turned / axis.increment;
    else
        sum.y -= turned / axis.increment;
}

Distance SmoothWheel::turned_to(const Valuators& valuators) noexcept {
    Distance sum;
    for (unsigned i = 0; i < count_; ++i) {
        if (!valuators.has(axes_[i].number)) continue;
        const double value = valuators.values[axes_[i].number];
        if (last_[i]) add_to(sum, axes_[i], value - *last_[i]);
        last_[i] = value;
    }
    return sum;
}

Distance SmoothWheel::turned_by(const Valuators& valuators) const noexcept {
    Distance sum;
    for (unsigned i = 0; i < count_; ++i)
        if (valuators.has(axes_[i].number)) add_to(sum, axes_[i], valuators.values[axes_[i].number]);
    return sum;
}

void SmoothWheel::forget() noexcept { last_ = {}; }

bool PointerLock::open(xcb_connection_t* connection) {
    c_ = connection;
    const auto* found = xcb_get_extension_data(c_, &xcb_xfixes_id);
    if (!found || !found->present) return false;
    const Owned<xcb_xfixes_query_version_reply_t> version{
        xcb_xfixes_query_version_reply(c_, xcb_xfixes_query_version(c_, 5, 0), nullptr)};
    return can_lock_ = version && version->major_version >= 5;
}

void PointerLock::set(xcb_window_t root, xcb_window_t window, const CursorState& wanted) {
    if (!can_lock_ || wanted == now_) return;
    const bool holds = wanted.hold != CursorHold::free;
    if (!holds && has_barriers_)
        for (const std::uint32_t barrier : barriers_) xcb_xfixes_delete_pointer_barrier(c_, barrier);
    if (holds && !has_barriers_ && !put_barriers(root, window)) return;
    has_barriers_ = holds;
    // A locked cursor is hidden on the whole screen, since it cannot be elsewhere; another one over the window alone.
    const auto place = [&](const CursorState& of) {
        return of.hold == CursorHold::locked ? root : of.hidden ? window : 0;
    };
    if (place(now_) != place(wanted)) {
        if (place(now_) != 0) xcb_xfixes_show_cursor(c_, place(now_));
        if (place(wanted) != 0) xcb_xfixes_hide_cursor(c_, place(wanted));
    }
    xcb_flush(c_);
    now_ = wanted;
}

bool PointerLock::put_barriers(xcb_window_t root, xcb_window_t window) {
    const auto size_cookie = xcb_get_geometry(c_, window);
    const auto place_cookie = xcb_translate_coordinates(c_, window, root, 0, 0);
    const auto pointer_cookie = xcb_query_pointer(c_, window);
    const Owned<xcb_get_geometry_reply_t> size{xcb_get_geometry_reply(c_, size_cookie, nullptr)};
    const Owned<xcb_translate_coordinates_reply_t> place{xcb_translate_coordinates_reply(c_, place_cookie, nullptr)};
    const Owned<xcb_query_pointer_reply_t> pointer{xcb_query_pointer_reply(c_, pointer_cookie, nullptr)};
    if (!size || !place) return false;
    const bool is_inside = pointer && pointer->win_x >= 0 && pointer->win_y >= 0 && pointer->win_x < size->width &&
                           pointer->win_y < size->height;
    if (!is_inside)
        xcb_warp_pointer(c_, XCB_NONE, window, 0, 0, 0, 0, static_cast<std::int16_t>(size->width / 2),
                         static_cast<std::int16_t>(size->height / 2));
    const auto edge = [](int value) { return static_cast<std::uint16_t>(std::clamp(value, 0, 65535)); };
    const std::uint16_t left = edge(place->dst_x), top = edge(place->dst_y), right = edge(place->dst_x + size->width),
                        bottom = edge(place->dst_y + size->height);
    const std::uint16_t lines[4][4] = {
        {left, top, left, bottom}, {right, top, right, bottom}, {left, top, right, top}, {left, bottom, right, bottom}};
    for (unsigned i = 0; i < 4; ++i) {
        barriers_[i] = xcb_generate_id(c_);
        xcb_xfixes_create_pointer_barrier(c_, barriers_[i], root, lines[i][0], lines[i][1], lines[i][2], lines[i][3], 0,
                                          0, nullptr);
    }
    return true;
}

}  // namespace cursorum::x11
