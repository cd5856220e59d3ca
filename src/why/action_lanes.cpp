#include "cursorum/why/action_lanes.hpp"

#include <string>

namespace cursorum {

void note_actions(LaneHistory& lanes, const ActionReader& reader, const Profile& profile, const ActionFilter& filter) {
    std::uint16_t number = 0;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) {
            const std::uint16_t its = number++;
            if (!filter.has(its)) continue;
            const std::string name = mode.name + "." + action.name;
            const ActionRow row = action_row(reader, mode, action, its);
            if (action.kind == ActionKind::button) {
                lanes.note_action(name, row.figures);
            } else if (action.kind == ActionKind::axis) {
                lanes.note_action_value(name, row.value.x, reader.end());
            } else {
                lanes.note_action_value(name + " x", row.value.x, reader.end());
                lanes.note_action_value(name + " y", row.value.y, reader.end());
            }
        }
    reader.for_each_edge([&](const ActionEdge& edge) {
        if (!filter.has(edge.action.number)) return;
        std::uint16_t of = edge.action.number;
        for (const Mode& mode : profile.modes) {
            if (of < mode.actions.size())
                return lanes.note_action_edge(mode.name + "." + mode.actions[of].name, edge.kind, edge.time);
            of = static_cast<std::uint16_t>(of - mode.actions.size());
        }
    });
}

}  // namespace cursorum
