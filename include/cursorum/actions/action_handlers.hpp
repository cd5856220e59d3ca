// Handlers of button actions: functions that are called once per frame, with each edge in order.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <utility>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/detail/handler_table.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/handled_edge.hpp"

namespace cursorum {

/// What a handler of an action is called with.
struct ActionEvent {
    Time time;  ///< of the edge; of repeats: the frame's end
    ButtonAction action;
    HandledEdge edge{};
};

/// A table of handlers for the button actions of one reader, with the rules of ButtonHandlers: order, adding and
/// removing while it runs, flags that follow a level, cost. For each seat, run one table with the seat's reader.
///
///     ActionHandlers handlers;
///     handlers.follow(slow, actions_of.slow);
///     handlers.add(HandledEdge::pressed, actions_of.lock, [&](const ActionEvent&) { crane.toggle_lock(); });
///     …
///     actions.read(simulation.advance(*tick));
///     handlers.run(actions);
class CURSORUM_API ActionHandlers {
public:
    /// `room`: how many handlers it can have at a time.
    explicit ActionHandlers(std::size_t room = 64);
    ~ActionHandlers();
    ActionHandlers(const ActionHandlers&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    ActionHandlers& operator=(const ActionHandlers&) = delete;

    /// Adds a handler: any callable of up to 48 bytes that takes a `const ActionEvent&`. Returns nothing if the table
    /// is full, or if the handle refers to no action or is of another numbering than those that are there already.
    template <typename Callable>
    std::optional<HandlerId> add(HandledEdge edge, ButtonAction action, Callable&& callable) {
        detail::HandlerTable::Row* const row = add_row(edge, action);
        if (!row) return std::nullopt;
        row->function.set<ActionEvent>(std::forward<Callable>(callable));
        return HandlerId{row->id};
    }
    /// The same with a function and a context that it is called with.
    std::optional<HandlerId> add(HandledEdge edge, ButtonAction action, void (*function)(void*, const ActionEvent&),
                                 void* context) {
        return add(edge, action, [function, context](const ActionEvent& event) { function(context, event); });
    }
    /// From the next run on, each run sets the flag to the action's level at the frame's end. The flag must live as
    /// long as the handler.
    std::optional<HandlerId> follow(bool& flag, ButtonAction action);
    /// Returns false if the handler has already been removed.
    bool remove(HandlerId handler) noexcept;
    std::size_t count() const noexcept;

    /// Calls the handlers, after the reader has read a frame. Once for each frame. If the reader has another numbering
    /// than the handlers' handles, their actions are idle.
    void run(const ActionReader& reader);

private:
    detail::HandlerTable::Row* add_row(HandledEdge edge, ButtonAction action) noexcept;

    detail::HandlerTable* table_;
    std::uint32_t numbering_ = 0;  // of the handles
};

}  // namespace cursorum
