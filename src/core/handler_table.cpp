// A table of functions by button or action, which may add and remove each other while they are called: rows are linked
// per number, and freed only after the outermost run.
#include "cursorum/core/detail/handler_table.hpp"

#include <algorithm>

namespace cursorum::detail {

HandlerTable::HandlerTable(std::size_t room, std::size_t numbers)
    // Twice the capacity, for handlers that are removed and replaced during a run.
    : rows_{std::make_unique<Row[]>(2 * room)},
      first_{std::make_unique<std::uint32_t[]>(numbers)},
      room_{room},
      numbers_{numbers} {}

HandlerTable::Row* HandlerTable::add(unsigned number, HandledEdge edge, DeviceId device) noexcept {
    if (number >= numbers_ || count_ == room_) return nullptr;
    std::size_t at = 0;
    // A handler may be removed while it is being called: its slot is free after the run.
    while (at < used_ && (rows_[at].id != 0 || rows_[at].number != numbers_none)) ++at;
    if (at == 2 * room_) return nullptr;
    used_ = std::max(used_, at + 1);
    Row& row = rows_[at];
    row.flag = nullptr;
    row.device = device;
    row.id = next_id_++;
    row.number = static_cast<std::uint16_t>(number);
    row.edge = edge;
    row.is_new = running_ != 0;
    row.next = 0;
    row.is_known = false;
    has_devices_ = has_devices_ || device != DeviceId{};
    has_changes_ = has_changes_ || row.is_new;
    ++count_;
    // After the others with the same number.
    std::uint32_t* link = &first_[number];
    while (*link != 0) link = &rows_[*link - 1].next;
    *link = static_cast<std::uint32_t>(at + 1);
    return &row;
}

bool HandlerTable::remove(HandlerId id) noexcept {
    for (std::size_t i = 0; i < used_; ++i) {
        Row& row = rows_[i];
        if (row.id == 0 || row.id != static_cast<std::uint64_t>(id)) continue;
        row.id = 0;
        --count_;
        if (running_ != 0 && !row.is_new)  // a handler added during a run is not called in it
            has_changes_ = true;
        else
            unlink(row);
        return true;
    }
    return false;
}

void HandlerTable::unlink(Row& row) noexcept {
    const auto own = static_cast<std::uint32_t>(&row - rows_.get() + 1);
    std::uint32_t* link = &first_[row.number];
    while (*link != own) link = &rows_[*link - 1].next;
    *link = row.next;
    row.function.reset();
    row.number = numbers_none;
}

bool HandlerTable::is_wanted(HandledEdge wanted, EdgeKind kind, bool was_adopted) noexcept {
    switch (wanted) {
        case HandledEdge::pressed: return kind == EdgeKind::press;
        case HandledEdge::released: return is_persons_release(kind == EdgeKind::release, was_adopted);
        case HandledEdge::ended: return kind == EdgeKind::release || kind == EdgeKind::cancel;
        case HandledEdge::adopted: return kind == EdgeKind::adopt;
        case HandledEdge::repeated: break;
    }
    return false;
}

void HandlerTable::end_run() noexcept {
    if (--running_ != 0) return;
    for (std::size_t i = 0; has_devices_ && i < used_; ++i) rows_[i].is_known = false;
    if (!has_changes_) return;
    has_changes_ = false;
    for (std::size_t i = 0; i < used_; ++i) {
        Row& row = rows_[i];
        row.is_new = false;
        if (row.id == 0 && row.number != numbers_none) unlink(row);
    }
}

}  // namespace cursorum::detail
