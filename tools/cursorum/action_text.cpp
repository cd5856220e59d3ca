#include "action_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "cursorum/views/text.hpp"
#include "cursorum/why/action_rows.hpp"
#include "views/csv_row.hpp"
#include "views/shown.hpp"

namespace cursorum::tool {

std::string actions_csv_heading() {
    return "frame,t0,t1,action,mode,kind,state,press_count,release_count,adopt_count,cancel_count,repeat_count,"
           "system_repeat_count,held_for_ns,down_span_ns,value_x,value_y,before_x,before_y,integral_x,integral_y,"
           "relative_x,relative_y\n";
}

std::string actions_as_csv(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                           const ActionFilter& filter) {
    std::string text;
    for (const ActionRow& row : action_rows(reader, profile, filter)) {
        CsvRow line;
        line.add(number, nanoseconds(reader.start()), nanoseconds(reader.end()), row.action->name, row.mode->name,
                 name_of(row.action->kind));
        const ButtonFigures& f = row.figures;
        if (row.action->kind == ActionKind::button)
            line.add(name_of(f.state()), f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(),
                     f.repeat_count(), f.system_repeat_count(), f.held_for().count(), f.down_span().count())
                .skip(8);
        else
            line.skip(9).add(row.value.x, row.value.y, row.before.x, row.before.y, row.integral.x, row.integral.y,
                             row.relative.x, row.relative.y);
        text += line.end();
    }
    return text;
}

// ---- for people

std::size_t name_width_of(const Profile& profile) {
    std::size_t width = 17;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) width = std::max(width, mode.name.size() + 1 + action.name.size());
    return width;
}

TerminalText actions_table_heading(const ActionTable& table) {
    return Paint{table.colour}(Paint::bold, shown("{:>5} {:>10}  {:<{}} {:<7} {}", "frame", "ends at s", "action",
                                                  table.name_width, "state", "details")) +
           "\n";
}

namespace {

std::string vector_text(ActionKind kind, Vector2 v) {
    const auto rounded = [](double x) { return std::round(x * 1e3) / 1e3 + 0.0; };  // no minus before a zero
    v = {rounded(v.x), rounded(v.y)};
    return kind == ActionKind::axis ? fmt::format("{:.3f}", v.x) : fmt::format("({:.3f}, {:.3f})", v.x, v.y);
}

}  // namespace

TerminalText actions_as_table(std::uint64_t number, const ActionReader& reader, const Profile& profile,
                              const ActionFilter& filter, ActionTable& table) {
    const Paint paint{table.colour};
    TerminalText text;
    const auto add = [&](const Mode& mode, const Action& action, std::string_view style, std::string_view state,
                         const std::string& what) {
        text += shown("{:>5} {:>10}  {:<{}} {} {}\n", number, cut_text(reader.end()), mode.name + "." + action.name,
                      table.name_width, paint(style, shown("{:<7}", state)), what);
    };
    std::size_t place = 0;
    for (const ActionRow& row : every_action_row(reader, profile, filter)) {
        const Mode& mode = *row.mode;
        const Action& action = *row.action;
        if (table.shown.size() <= place) table.shown.resize(place + 1U);
        ShownAction& last = table.shown[place++];
        if (action.kind == ActionKind::button) {
            const ButtonFigures& f = row.figures;
            const std::uint64_t repeats = std::exchange(last.repeats, 0) + f.repeat_count();
            const bool has_edges = f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count() != 0;
            if (!has_edges && !table.every_repeat)
                last.repeats = repeats;
            else if (const std::string news = news_text(f, repeats); !news.empty())
                add(mode, action, style_of(row.figures.state()), name_of(row.figures.state()), news);
            continue;
        }
        const bool shifts = row.relative != Vector2{};
        if (shifts && !last.shifting) {
            add(mode, action, Paint::green, "shifts",
                "by " + vector_text(action.kind, row.relative) + " in this frame");
            last.shifted = {};
            last.shifting_since = reader.start();
        } else if (!shifts && last.shifting) {
            add(mode, action, Paint::cyan, "rests",
                fmt::format("after {}; shifted {}", span_text(reader.start() - last.shifting_since),
                            vector_text(action.kind, last.shifted)));
        }
        last.shifted = {last.shifted.x + row.relative.x, last.shifted.y + row.relative.y};
        last.shifting = shifts;
        const bool moved = row.value != Vector2{} || row.integral != Vector2{};
        if (!moved && !last.moving) continue;
        if (!last.moving) last = {.since = reader.start()};
        last.way = {last.way.x + row.integral.x, last.way.y + row.integral.y};
        const bool stops = row.value == Vector2{}, steady = !stops && row.value == row.before;
        if (stops)
            add(mode, action, Paint::cyan, last.moving ? "stops" : "nudge",
                fmt::format("after {}; travelled {} at a speed of 1/s", span_text(reader.end() - last.since),
                            vector_text(action.kind, last.way)));
        else if (!last.moving)
            add(mode, action, Paint::green, "moves", "to " + vector_text(action.kind, row.value));
        else if (steady && !last.steady)
            add(mode, action, Paint::dim, "steady", "at " + vector_text(action.kind, row.value));
        last.moving = !stops;
        last.steady = steady;
    }
    return text;
}

}  // namespace cursorum::tool
