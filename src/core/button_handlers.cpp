// Calls a game's functions with the merged edges of buttons, in order, also those of either-side names. Flags that
// follow a level are set from the level itself, so that they cannot stick.
#include "cursorum/core/button_handlers.hpp"

#include <algorithm>

#include "core/controls/either_side.hpp"
#include "core/frame/frame_core.hpp"
#include "core/rules/merging.hpp"

namespace cursorum {

using detail::Effect;
using detail::HandlerTable;
using detail::Slot;
using detail::SlotKind;
using detail::StoredEdge;

namespace {

// Whether the merged hold that a record ends was adopted.
bool ends_adopted(const FrameCore& frame, std::uint32_t place) noexcept {
    const std::uint16_t button = frame.edges[place].button();
    for (std::uint32_t before = frame.links[place]; before >= frame.base; before = frame.links[before - frame.base])
        if (const Effect effect = frame.edges[before - frame.base].what().effect(); effect != Effect::none)
            return effect == Effect::adopt;
    return frame.state().adopted[button];
}

// The buttons of a handler that a device has down at the frame's start.
void look_up(HandlerTable::Row& row, const FrameCore& frame, unsigned device) noexcept {
    row.is_known = true;
    row.holders = 0;
    row.pressed_keys = 0;
    physical_buttons({row.number}).for_each([&](Button key) {
        const Slot* const hold = frame.find_hold(key, device);
        if (!hold) return;
        const bool pressed = hold->what().kind() == SlotKind::press;
        merge(row.holders, hold->what().kind(), pressed);
        if (pressed) row.pressed_keys = static_cast<std::uint8_t>(row.pressed_keys | HandlerTable::bit_of(key.number));
    });
    row.adopted = row.pressed_keys == 0;
}

// One of its keys on that device, merged with the other one. All rows of one name and device agree.
Effect apply(HandlerTable::Row& row, SlotKind kind, std::uint8_t key) noexcept {
    const Effect effect = merge(row.holders, kind, (row.pressed_keys & key) != 0);
    const unsigned others = row.pressed_keys & ~unsigned{key};
    row.pressed_keys = static_cast<std::uint8_t>(others | (kind == SlotKind::press ? key : 0U));
    if (starts(effect)) row.adopted = effect == Effect::adopt;
    return effect;
}

}  // namespace

ButtonHandlers::ButtonHandlers(std::size_t room) : table_{new HandlerTable{room, button_capacity}} {
    seat_calls_.reserve(256);
}
ButtonHandlers::~ButtonHandlers() { delete table_; }

HandlerTable::Row* ButtonHandlers::add_row(HandledEdge edge, Button button, DeviceId device) noexcept {
    return name_of(button).empty() ? nullptr : table_->add(button.number, edge, device);
}

std::optional<HandlerId> ButtonHandlers::follow(bool& flag, Button button, DeviceId device) {
    HandlerTable::Row* const row = add_row(HandledEdge::repeated, button, device);
    if (!row) return std::nullopt;
    row->flag = &flag;
    return HandlerId{row->id};
}

bool ButtonHandlers::remove(HandlerId handler) noexcept { return table_->remove(handler); }
std::size_t ButtonHandlers::count() const noexcept { return table_->count(); }

void ButtonHandlers::run(const Frame& frame) {
    const FrameCore& core = core_of(frame);
    table_->begin_run();
    const auto reading = [&](const HandlerTable::Row& row) {
        return row.device == DeviceId{} ? frame[{row.number}].figures() : frame.on(row.device)[{row.number}].figures();
    };
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag) *row.flag = reading(row).down();
    });
    const auto call = [&](HandlerTable::Row& row, EdgeKind kind, const StoredEdge& record, bool was_adopted) {
        if (row.flag || !HandlerTable::is_wanted(row.edge, kind, was_adopted)) return;
        const ButtonEvent event{
            Time{Duration{core.time_of(record)}}, {row.number}, core.id_of(record.device()), row.edge};
        row.function(&event);
    };
    for (std::uint32_t i = 0; i < core.count; ++i) {
        const StoredEdge& record = core.edges[i];
        const std::uint16_t number = record.button();
        // For any device: the times at which the merged level changes. An either-side name has records of its own.
        if (const Effect effect = record.what().effect(); effect != Effect::none && table_->has(number)) {
            const bool was_adopted = effect == Effect::release && ends_adopted(core, i);
            for_each_edge_kind(effect, [&](EdgeKind kind) {
                table_->for_each(number, [&](HandlerTable::Row& row) {
                    if (row.device == DeviceId{}) call(row, kind, record, was_adopted);
                });
            });
        }
        const SlotKind kind = record.what().kind();
        if (kind > SlotKind::cancel || number >= first_either_side) continue;
        for_each_name(number, [&](std::uint16_t name) {
            if (!table_->has(name)) return;
            const DeviceId device = core.id_of(record.device());
            const auto for_each_of_device = [&](auto&& visit) {
                table_->for_each(name, [&](HandlerTable::Row& row) {
                    if (row.device == device && device != DeviceId{}) visit(row);
                });
            };
            Effect effect = Effect::none;
            bool was_adopted = false;
            for_each_of_device([&](HandlerTable::Row& row) {
                if (!row.is_known) look_up(row, core, record.device());
                was_adopted = row.adopted;
                effect = apply(row, kind, HandlerTable::bit_of(number));
            });
            for_each_edge_kind(effect, [&](EdgeKind its) {
                for_each_of_device([&](HandlerTable::Row& row) { call(row, its, record, was_adopted); });
            });
        });
    }
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag) return;
        const ButtonEvent event{frame.end(), {row.number}, {}, row.edge};
        for (std::uint64_t left = reading(row).repeat_count(); left > 0 && row.id != 0; --left) row.function(&event);
    });
    table_->end_run();
}

void ButtonHandlers::run(const Frame& frame, const Seats& seats, unsigned seat) {
    const SeatFrame part = seats[seat];
    const auto is_of_all = [](const HandlerTable::Row& row) { return row.device == DeviceId{}; };
    table_->begin_run();
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag && is_of_all(row)) *row.flag = part[{row.number}].down();
    });
    seat_calls_.clear();
    for (std::uint16_t number = 0; number < button_capacity; ++number) {
        if (!table_->has(number)) continue;
        part.for_each_edge({number}, [&](const SeatEdge& edge) {
            const auto later = [](Time time, const SeatCall& other) { return time < other.edge.edge.time; };
            seat_calls_.insert(std::upper_bound(seat_calls_.begin(), seat_calls_.end(), edge.edge.time, later),
                               {edge, number});
        });
    }
    for (const SeatCall& call : seat_calls_)
        table_->for_each(call.number, [&](HandlerTable::Row& row) {
            const auto& [edge, of_adopted] = call.edge;
            if (row.flag || !is_of_all(row) || !HandlerTable::is_wanted(row.edge, edge.kind, of_adopted)) return;
            const ButtonEvent event{edge.time, {call.number}, edge.device, row.edge};
            row.function(&event);
        });
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag || !is_of_all(row)) return;
        const ButtonEvent event{frame.end(), {row.number}, {}, row.edge};
        for (std::uint64_t left = part[{row.number}].repeat_count(); left > 0 && row.id != 0; --left)
            row.function(&event);
    });
    table_->end_run();
}

}  // namespace cursorum
