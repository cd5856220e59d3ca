// What an X pointer's numbers mean: wheels that count in valuators, and the pointer locked into a window. The first
// value after the pointer came back is a new zero.
#pragma once

#include <map>
#include <optional>
#include <string>

#include "cursorum/core/cursor_state.hpp"
#include "cursorum/core/space.hpp"
#include "sources/x11_events.hpp"

namespace cursorum::x11 {

/// One wheel that counts smoothly: `increment` of valuator `number` is a detent; down and right are positive.
struct ScrollAxis {
    unsigned number = most_valuators;
    bool horizontal = false;
    double increment = 1;
};

/// The smooth wheels of one pointing device, and where they stood.
class SmoothWheel {
public:
    void add(const ScrollAxis& axis) noexcept;
    bool empty() const noexcept { return count_ == 0; }
    /// Detents, right and away from the person positive, since the last values. Values of windows' events are absolute;
    /// the first since forget() turn nothing.
    Distance turned_to(const Valuators& valuators) noexcept;
    /// Values of raw events are differences.
    Distance turned_by(const Valuators& valuators) const noexcept;
    /// The wheel may have turned elsewhere.
    void forget() noexcept;

private:
    static void add_to(Distance& sum, const ScrollAxis& axis, double turned) noexcept;

    std::array<ScrollAxis, 2> axes_{};
    std::array<std::optional<double>, 2> last_{};
    unsigned count_ = 0;
};

/// Keeps the pointer inside a window, by the server's pointer barriers: unlike a grab, they take no event away from
/// other clients. A locked one is hidden, too.
class PointerLock {
public:
    /// False if the server cannot do it (no XFixes 5).
    bool open(xcb_connection_t* connection);
    bool can_lock() const noexcept { return can_lock_; }
    bool is_on() const noexcept { return now_.hold == CursorHold::locked; }
    const CursorState& now() const noexcept { return now_; }
    void set(xcb_window_t root, xcb_window_t window, const CursorState& wanted);

private:
    bool put_barriers(xcb_window_t root, xcb_window_t window);

    xcb_connection_t* c_ = nullptr;
    bool can_lock_ = false, has_barriers_ = false;
    CursorState now_;
    std::array<std::uint32_t, 4> barriers_{};
};

}  // namespace cursorum::x11
