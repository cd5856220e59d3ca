// Calls a game's functions with the edges of its actions. The table of handlers is the core's; here, edges of actions
// are looked up in it, in the order in which they happened.
#include "cursorum/actions/action_handlers.hpp"

namespace cursorum {

using detail::HandlerTable;

ActionHandlers::ActionHandlers(std::size_t room) : table_{new HandlerTable{room, action_capacity}} {}
ActionHandlers::~ActionHandlers() { delete table_; }

HandlerTable::Row* ActionHandlers::add_row(HandledEdge edge, ButtonAction action) noexcept {
    if (action.numbering != 0 && table_->count() != 0 && numbering_ != 0 && action.numbering != numbering_)
        return nullptr;
    HandlerTable::Row* const row = table_->add(action.number, edge, {});
    if (row && action.numbering != 0) numbering_ = action.numbering;
    return row;
}

std::optional<HandlerId> ActionHandlers::follow(bool& flag, ButtonAction action) {
    HandlerTable::Row* const row = add_row(HandledEdge::repeated, action);
    if (!row) return std::nullopt;
    row->flag = &flag;
    return HandlerId{row->id};
}

bool ActionHandlers::remove(HandlerId handler) noexcept { return table_->remove(handler); }
std::size_t ActionHandlers::count() const noexcept { return table_->count(); }

void ActionHandlers::run(const ActionReader& reader) {
    table_->begin_run();
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag) *row.flag = reader[ButtonAction{row.number, numbering_}].down();
    });
    const bool fits = numbering_ == 0 || numbering_ == reader.numbering();
    reader.for_each_edge([&](const ActionEdge& edge) {
        if (!fits || !table_->has(edge.action.number)) return;
        table_->for_each(edge.action.number, [&](HandlerTable::Row& row) {
            const ActionEvent event{edge.time, edge.action, row.edge};
            if (!row.flag && HandlerTable::is_wanted(row.edge, edge.kind, edge.of_adopted)) row.function(&event);
        });
    });
    table_->for_each_of_levels([&](HandlerTable::Row& row) {
        if (row.flag) return;
        const ButtonAction action{row.number, numbering_};
        const ActionEvent event{reader.end(), action, row.edge};
        for (std::uint64_t left = reader[action].repeat_count(); left > 0 && row.id != 0; --left) row.function(&event);
    });
    table_->end_run();
}

}  // namespace cursorum
