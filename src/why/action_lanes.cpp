// Lanes of actions and of modes beside those of controls, so that a picture shows what a press became. Which rows a
// lane has is decided by the action's kind.
#include "cursorum/why/action_lanes.hpp"

#include <string>

namespace cursorum {

void note_actions(LaneHistory& lanes, const ActionReader& reader, const Profile& profile, const ActionFilter& filter) {
    for (const ActionRow& row : every_action_row(reader, profile, filter)) {
        const std::string name = row.name();
        if (row.action->kind == ActionKind::button) {
            lanes.note_action(name, row.figures);
        } else if (row.action->kind == ActionKind::axis) {
            lanes.note_action_value(name, row.value.x, reader.end());
        } else {
            lanes.note_action_value(name + " x", row.value.x, reader.end());
            lanes.note_action_value(name + " y", row.value.y, reader.end());
        }
    }
    reader.for_each_edge([&](const ActionEdge& edge) {
        if (const std::string name = reader.name_of(edge.action); filter.has(name))
            lanes.note_action_edge(name, edge.kind, edge.time);
    });
}

}  // namespace cursorum
