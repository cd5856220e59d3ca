// An action's figures in a frame as one row, the same for tables, CSV and JSON Lines: a button's counts and times, or
// an axis' or vector's numbers.
#include "cursorum/why/action_rows.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "actions/reader_facts.hpp"
#include "views/figures_json.hpp"

namespace cursorum {

namespace {

ActionRow action_row(const ActionReader& reader, const Mode& mode, const Action& action, std::uint16_t number) {
    ActionRow row{&mode, &action, {}, {}, {}, {}, {}};
    switch (action.kind) {
        case ActionKind::button: row.figures = reader[ButtonAction{number}].figures(); break;
        case ActionKind::axis: {
            const AxisActionReading reading = reader[AxisAction{number}];
            row.value.x = reading.value, row.before.x = reading.before, row.integral.x = reading.integral;
            row.relative.x = reading.relative;
            break;
        }
        case ActionKind::vector: {
            const VectorActionReading reading = reader[VectorAction{number}];
            row.value = reading.value, row.before = reading.before, row.integral = reading.integral;
            row.relative = reading.relative;
            break;
        }
    }
    return row;
}

}  // namespace

std::vector<ActionRow> every_action_row(const ActionReader& reader, const Profile& profile,
                                        const ActionFilter& filter) {
    std::vector<ActionRow> rows;
    const std::vector<std::uint16_t> numbers = detail::ReaderAccess::numbers_of(reader, profile);
    auto number = numbers.begin();
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) {
            rows.push_back(action_row(reader, mode, action, *number++));
            if (!filter.shown.empty() && !filter.has(rows.back().name())) rows.pop_back();
        }
    return rows;
}

namespace {

std::string number_text(const ActionRow& row, Vector2 v) {
    return row.action->kind == ActionKind::axis ? fmt::format("{}", v.x) : fmt::format("[{},{}]", v.x, v.y);
}

}  // namespace

std::vector<ActionRow> action_rows(const ActionReader& reader, const Profile& profile, const ActionFilter& filter) {
    std::vector<ActionRow> rows = every_action_row(reader, profile, filter);
    std::erase_if(rows, [](const ActionRow& row) {
        return row.action->kind == ActionKind::button ? row.figures.state() == ButtonState::idle
                                                      : row.value == Vector2{} && row.before == Vector2{} &&
                                                            row.integral == Vector2{} && row.relative == Vector2{};
    });
    std::sort(rows.begin(), rows.end(), [](const ActionRow& a, const ActionRow& b) {
        return a.action->name != b.action->name ? a.action->name < b.action->name : a.mode->name < b.mode->name;
    });
    return rows;
}

// A profile has no names that need escaping.
std::string actions_as_jsonl(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                             const ActionFilter& filter) {
    std::string line;
    const auto out = std::back_inserter(line);
    fmt::format_to(out, R"({{"frame":{},"t0":{},"t1":{},"actions":[)", number, nanoseconds(reader.start()),
                   nanoseconds(reader.end()));
    const char* comma = "";
    for (const ActionRow& row : action_rows(reader, profile, filter)) {
        fmt::format_to(out, R"({}{{"action":"{}","mode":"{}",)", comma, row.action->name, row.mode->name);
        comma = ",";
        if (row.action->kind == ActionKind::button) {
            add_figures(line, row.figures);
        } else {
            fmt::format_to(out, R"("value":{},"before":{},"integral":{})", number_text(row, row.value),
                           number_text(row, row.before), number_text(row, row.integral));
            if (row.relative != Vector2{}) fmt::format_to(out, R"(,"relative":{})", number_text(row, row.relative));
        }
        line += '}';
    }
    line += "]}\n";
    return line;
}

}  // namespace cursorum
