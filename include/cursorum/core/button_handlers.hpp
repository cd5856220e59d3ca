// Handlers of buttons: functions that are called once per frame, with each edge in order.
#pragma once

#include <cstddef>
#include <optional>
#include <utility>
#include <vector>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/detail/handler_table.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/handled_edge.hpp"
#include "cursorum/core/seats.hpp"

namespace cursorum {

/// What a handler of a button is called with.
struct ButtonEvent {
    Time time;          ///< of the edge; of repeats: the frame's end
    Button button;      ///< as it was asked for: an either-side name stays one
    DeviceId device{};  ///< whose event made the edge; none for repeats
    HandledEdge edge{};
};

/// A table of handlers. Asking a frame (`frame[Space].pressed()`) is the simpler way; handlers are for code that is
/// built of callbacks.
///
///     ButtonHandlers handlers;
///     handlers.follow(walking, KeyW);  // a flag that is a level: never stuck, also when the focus is lost
///     handlers.add(HandledEdge::pressed, Space, [&](const ButtonEvent&) { crane.toggle_lock(); });
///     handlers.add(HandledEdge::ended, KeyH, [&](const ButtonEvent&) { horn.stop(); });
///     …
///     handlers.run(simulation.advance(*tick));
///
/// **Flags.** Do not set a flag on press and clear it on release: nobody releases a key in a window that has lost its
/// focus, and the flag stays set. `follow()` binds a flag to the level; `HandledEdge::ended` is called whoever ends the
/// hold.
///
/// Order: each run calls handlers in the order of the frame's edges, and of one edge in the order in which they were
/// added; handlers of any device get the merged button's edges, those of one device its own. Flags are set before,
/// repeats come after. A restart (see Frame::for_each_merged_edge) is an end and then a press.
/// Handlers may add and remove handlers: what is added is called from the next run on, what is removed is not called
/// any more. They must not throw, and not call run().
/// Errors: add() returns nothing if the table is full or the button does not exist.
/// Cost: a run looks at each of the frame's edges; flags and repeats cost as many readings. It allocates at
/// construction only. Threads: the same as its sampler's.
class CURSORUM_API ButtonHandlers {
public:
    /// `room`: how many handlers it can have at a time.
    explicit ButtonHandlers(std::size_t room = 64);
    ~ButtonHandlers();
    ButtonHandlers(const ButtonHandlers&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    ButtonHandlers& operator=(const ButtonHandlers&) = delete;

    /// Adds a handler of a key, mouse or pad button, direction or either-side name: any callable of up to 48 bytes that
    /// takes a `const ButtonEvent&`. `device`: of this device alone.
    template <typename Callable>
    std::optional<HandlerId> add(HandledEdge edge, Button button, Callable&& callable, DeviceId device = {}) {
        detail::HandlerTable::Row* const row = add_row(edge, button, device);
        if (!row) return std::nullopt;
        row->function.set<ButtonEvent>(std::forward<Callable>(callable));
        return HandlerId{row->id};
    }
    /// The same with a function and a context that it is called with.
    std::optional<HandlerId> add(HandledEdge edge, Button button, void (*function)(void*, const ButtonEvent&),
                                 void* context, DeviceId device = {}) {
        return add(
            edge, button, [function, context](const ButtonEvent& event) { function(context, event); }, device);
    }
    /// From the next run on, each run sets the flag to the button's level at the frame's end. The flag must live as
    /// long as the handler.
    std::optional<HandlerId> follow(bool& flag, Button button, DeviceId device = {});
    /// Returns false if the handler has already been removed.
    bool remove(HandlerId handler) noexcept;
    std::size_t count() const noexcept;

    /// Calls the handlers. Pass each frame of one sampler once.
    void run(const Frame& frame);
    /// Calls those of any device as if the frame had only the seat's devices, merged: a table for each seat, and each
    /// frame once, after Seats::read(). Those of one device are not called. Edges at the same time come in the order of
    /// the buttons' numbers. Cost: for each button with a handler, that of one reading of the seat; it allocates when a
    /// frame has more than 256 edges of such buttons.
    void run(const Frame& frame, const Seats& seats, unsigned seat);

private:
    detail::HandlerTable::Row* add_row(HandledEdge edge, Button button, DeviceId device) noexcept;

    detail::HandlerTable* table_;
    struct SeatCall {
        SeatEdge edge;
        std::uint16_t number;  // of the button, as it was asked for
    };
    std::vector<SeatCall> seat_calls_;  // of a run for a seat, by time
};

}  // namespace cursorum
