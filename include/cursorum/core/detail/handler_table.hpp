// What tables of handlers share: of buttons (button_handlers.hpp) and of actions (action_handlers.hpp). Not for
// callers.
#pragma once

#include <cstddef>
#include <cstdint>
#include <memory>
#include <new>
#include <optional>
#include <type_traits>
#include <utility>

#include "cursorum/core/device.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/handled_edge.hpp"

namespace cursorum::detail {

/// A callable, kept in place: no allocation. It is destroyed with the handler.
class HandlerFunction {
public:
    static constexpr std::size_t room = 48;

    HandlerFunction() noexcept = default;
    HandlerFunction(const HandlerFunction&) = delete;
    HandlerFunction& operator=(const HandlerFunction&) = delete;
    ~HandlerFunction() { reset(); }

    template <typename Event, typename Callable>
    void set(Callable&& callable) {
        using Own = std::decay_t<Callable>;
        static_assert(sizeof(Own) <= room && alignof(Own) <= alignof(std::max_align_t),
                      "a handler has room for 48 bytes: capture a pointer to what is larger");
        reset();
        new (bytes_) Own(std::forward<Callable>(callable));
        call_ = [](void* self, const void* event) {
            (*std::launder(static_cast<Own*>(self)))(*static_cast<const Event*>(event));
        };
        destroy_ = [](void* self) { std::launder(static_cast<Own*>(self))->~Own(); };
    }
    void operator()(const void* event) { call_(bytes_, event); }
    void reset() noexcept {
        if (destroy_) std::exchange(destroy_, nullptr)(bytes_);
        call_ = nullptr;
    }

private:
    alignas(std::max_align_t) std::byte bytes_[room];
    void (*call_)(void*, const void*) = nullptr;
    void (*destroy_)(void*) = nullptr;
};

/// Handlers in the order in which they were added, by a number (of a button or an action). Everything has its room from
/// the beginning. Handlers may add and remove handlers while they are called: what is added is called from the next run
/// on, what is removed is not called any more.
class CURSORUM_API HandlerTable {
public:
    static constexpr std::uint16_t numbers_none = 0xFFFF;
    struct Row {
        HandlerFunction function;
        bool* flag = nullptr;  // to be set to a level, in place of a function
        DeviceId device{};     // none: of any device
        std::uint64_t id = 0;  // 0: free
        std::uint32_t next = 0;
        std::uint16_t number = numbers_none;  // of a free row
        HandledEdge edge{};
        bool is_new = false;
        // Of one device's button during a run: its holders as in merging.hpp, which of its keys are held by a press,
        // whether its hold was adopted, and whether all that is known.
        std::uint16_t holders = 0;
        std::uint8_t pressed_keys = 0;
        bool adopted = false, is_known = false;
    };

    HandlerTable(std::size_t room, std::size_t numbers);
    HandlerTable(const HandlerTable&) = delete;
    HandlerTable& operator=(const HandlerTable&) = delete;

    /// Null if the table is full or the number is out of range.
    Row* add(unsigned number, HandledEdge edge, DeviceId device) noexcept;
    bool remove(HandlerId id) noexcept;

    void begin_run() noexcept { ++running_; }
    void end_run() noexcept;
    /// Whether a number has any handler. Cheap: most edges have none.
    bool has(unsigned number) const noexcept { return number < numbers_ && first_[number] != 0; }
    /// Calls `visit(Row&)` for those of a number.
    template <typename Visit>
    void for_each(unsigned number, Visit&& visit) {
        for (std::uint32_t at = number < numbers_ ? first_[number] : 0; at != 0; at = rows_[at - 1].next)
            if (Row& row = rows_[at - 1]; row.id != 0 && !row.is_new) visit(row);
    }
    /// Of all: those that follow no edge, but a level or repeats.
    template <typename Visit>
    void for_each_of_levels(Visit&& visit) {
        for (std::size_t i = 0; i < used_; ++i)
            if (Row& row = rows_[i]; row.id != 0 && !row.is_new && is_of_level(row)) visit(row);
    }
    std::size_t count() const noexcept { return count_; }

    static bool is_wanted(HandledEdge wanted, EdgeKind kind, bool was_adopted) noexcept;
    /// Of an either-side name's two keys, one bit each; the right one's number has the bit 4 set.
    static std::uint8_t bit_of(std::uint16_t key) noexcept { return (key & 4) != 0 ? 2 : 1; }

private:
    static bool is_of_level(const Row& row) noexcept { return row.flag || row.edge == HandledEdge::repeated; }
    void unlink(Row& row) noexcept;

    std::unique_ptr<Row[]> rows_;
    std::unique_ptr<std::uint32_t[]> first_;  // of each number, from 1; 0: none
    std::size_t room_, numbers_, used_ = 0, count_ = 0;
    std::uint64_t next_id_ = 1;
    unsigned running_ = 0;
    bool has_changes_ = false, has_devices_ = false;
};

}  // namespace cursorum::detail
