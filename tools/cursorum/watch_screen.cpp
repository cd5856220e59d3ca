#include "watch_screen.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum::tool {
namespace {

using Style = ScreenStyle;

constexpr int value_width = 7;

int label_width(const WatchView& view) {
    return std::min(std::clamp(view.columns / 5, 18, 28) + value_width, view.columns / 2);
}
int strip_width(const WatchView& view) { return std::max(1, view.columns - label_width(view)); }

/// The characters of a state in a column, in UTF-8 and in ASCII.
struct Glyph {
    Style style;
    std::string_view unicode, ascii;
    int rank;
};
constexpr Glyph nothing{Style::plain, " ", " ", 0}, held{Style::hold, "━", "=", 1}, repeated{Style::hold, "•", "*", 2},
    let_go{Style::release, "▽", "v", 3}, found{Style::release, "○", "o", 4}, went_down{Style::press, "▲", "^", 5},
    cancelled{Style::cancel, "✕", "x", 6}, dipped{Style::tap, "◇", "%", 7}, tapped{Style::tap, "◆", "#", 8},
    had_no_effect{Style::warning, "△", "!", 9}, kept_away{Style::faint, "░", ":", 0};

struct HelpLine {
    std::string_view mark, text;
};
constexpr HelpLine help[] = {{"▲ ^", "press"},
                             {"━ =", "held; a mode that is open, a claim in force"},
                             {"• *", "Cursorum's own repeat"},
                             {"▽ v", "release"},
                             {"◆ #", "tapped: down and up within a frame"},
                             {"◇ %", "up and down again within a frame"},
                             {"✕ x", "cancelled: released by Cursorum, not by the person"},
                             {"○ o", "found down, without a press"},
                             {"△ !", "a press that had no effect: without focus, or by a rule of its actions"},
                             {"░ :", "no input: without focus, unplugged, or a pause"},
                             {"red", "comparing levels would lose a press there"},
                             {"", ""},
                             {"q", "quit, as Ctrl-C"},
                             {"space", "pause and go on"},
                             {"left, right", "scroll through time; Home goes back to the present"},
                             {"up, down", "scroll through lanes"},
                             {"+ -", "zoom"},
                             {"/", "show the lanes that have a text in their names"},
                             {"s", "save the time and the lanes on the screen as a recording"},
                             {"?", "close this help"}};

const Glyph& glyph_of(const Lane::Cell& cell) {
    switch (cell.state) {
        case ButtonState::press: return went_down;
        case ButtonState::release: return let_go;
        case ButtonState::blip: return tapped;
        case ButtonState::dip: return dipped;
        case ButtonState::cancel: return cancelled;
        case ButtonState::idle: return nothing;
        case ButtonState::hold: break;
    }
    return cell.cancels != 0 ? cancelled : cell.adopts != 0 ? found : cell.repeats != 0 ? repeated : held;
}

constexpr std::array<std::string_view, 8> levels{"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
constexpr std::string_view ascii_levels = "_.,~=+*#";

/// The number of characters of a text in UTF-8.
int width_of(std::string_view text) {
    return static_cast<int>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}
/// Its first characters, as many as fit.
std::string cut(std::string_view text, int width) {
    std::size_t at = 0;
    for (int count = 0; at < text.size(); ++at)
        if ((text[at] & 0xC0) != 0x80 && ++count > width) break;
    return std::string{text.substr(0, at)};
}
std::string padded(std::string_view text, int width) {
    std::string result = cut(text, width);
    return result + std::string(static_cast<std::size_t>(std::max(0, width - width_of(result))), ' ');
}

/// The two gamepads that did something last, in the order of their places.
std::vector<DeviceId> pads_of(const WatchedInput& input) {
    std::vector<std::pair<Time, DeviceId>> pads;
    const Frame& frame = input.sampler.frame();
    for (unsigned place = 0; place < input.timeline.device_count(); ++place) {
        const auto pad = frame.device(DeviceKind::gamepad, place);
        if (!pad) continue;
        Time last = earliest_time;
        for (const Lane& lane : input.lanes.lanes()) {
            if (lane.device != *pad) continue;
            if (!lane.values.empty()) last = std::max(last, lane.values.back().time);
            if (!lane.bars.empty()) last = std::max(last, lane.bars.back().to);
        }
        pads.emplace_back(last, *pad);
    }
    std::stable_sort(pads.begin(), pads.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<DeviceId> shown;
    for (const auto& [_, pad] : pads)
        if (shown.size() < 2) shown.push_back(pad);
    std::sort(shown.begin(), shown.end());
    return shown;
}

constexpr int box_width = 19, box_height = 9;  // of a stick, borders included

class Screen {
public:
    Screen(const WatchedInput& input, const WatchView& view) : input_{input}, view_{view} {
        // Columns have their times, so that a press stays in one while the lanes run.
        const Duration shown = view.end.value_or(input.now) - input.begin;
        end_ =
            input.begin + view.per_column * ((shown.count() + view.per_column.count() - 1) / view.per_column.count());
    }

    std::vector<ScreenLine> build() {
        add_head();
        if (view_.with_help) {
            add_help();
        } else {
            const int lanes = lane_rows(input_, view_),
                      events = view_.rows - 1 - lanes - static_cast<int>(lines_.size()) - 1;
            add_ruler();
            add_lanes(lanes);
            add_events(events);
        }
        while (static_cast<int>(lines_.size()) < view_.rows - 1) lines_.emplace_back();
        lines_.resize(static_cast<std::size_t>(std::max(0, view_.rows - 1)));
        add_foot();
        for (ScreenLine& line : lines_) limit(line);
        return std::move(lines_);
    }

private:
    void limit(ScreenLine& line) const {
        int left = view_.columns;
        for (ScreenPart& part : line) {
            part.text = cut(TerminalText::of(part.text).string(), left);
            left -= width_of(part.text);
        }
    }

    void add_head() {
        const Duration since = input_.now - input_.begin;
        ScreenLine title{{Style::heading, fmt::format(" watch {} ", cut(input_.source, view_.columns / 2 - 10))}};
        if (view_.end)
            title.push_back({Style::warning, fmt::format("  paused at {:.2f} s", seconds(*view_.end - input_.begin))});
        if (!input_.is_open) title.push_back({Style::warning, "  the source has ended"});
        title.push_back({Style::plain, fmt::format("  {:.1f} s  {:.0f} frames/s  {:.0f} events/s", seconds(since),
                                                   input_.frames_per_second, input_.events_per_second)});
        lines_.push_back(std::move(title));

        InletCounters all;
        for (unsigned i = 0; i < input_.timeline.inlet_count(); ++i) {
            const InletCounters its = input_.timeline.inlet(i).counters();
            all.events += its.events;
            all.strays += its.strays;
            all.ignored += its.ignored;
            all.refused += its.refused;
            all.system_repeats += its.system_repeats;
        }
        const SamplerCounters sampler = input_.sampler.counters();
        ScreenLine counters{
            {Style::faint, fmt::format("{} events, {} system repeats, ", all.events, all.system_repeats)}};
        for (const auto& [name, count] : {std::pair{"stray", all.strays},
                                          {"ignored", all.ignored},
                                          {"refused", all.refused},
                                          {"late", sampler.late},
                                          {"lost", sampler.lost}})
            counters.push_back({count != 0 ? Style::warning : Style::faint, fmt::format("{} {}  ", count, name)});
        lines_.push_back(std::move(counters));

        const Frame& frame = input_.sampler.frame();
        ScreenLine down{{Style::strong, "down    "}};
        bool is_any = false;
        frame.all_down().for_each([&](Button button) {
            is_any = true;
            down.push_back({Style::press, fmt::format("{} ", name_of(button))});
            if (input_.reader) down.push_back({Style::faint, owner_text(button)});
        });
        if (!is_any) down.push_back({Style::faint, "nothing"});
        if (const PointerReading pointer = frame.pointer(); pointer.has_position())
            down.push_back(
                {Style::plain, fmt::format("  pointer {:.0f}, {:.0f}", pointer.position().x, pointer.position().y)});
        lines_.push_back(std::move(down));
        for (const DeviceId pad : pads_of(input_))
            lines_.push_back({{Style::strong, "pad     "}, {Style::plain, pad_text(pad)}});
        if (!input_.reader) return;
        ScreenLine modes{{Style::strong, "modes   "}};
        for (const Mode& its : input_.profile->modes) {
            const auto mode = input_.reader->find_mode(its.name);
            if (!mode || !input_.reader->is_open(*mode)) continue;
            const bool is_seen = input_.reader->is_visible(*mode);
            modes.push_back({is_seen ? Style::plain : Style::faint, its.name + (is_seen ? "  " : " (covered)  ")});
        }
        lines_.push_back(std::move(modes));
    }

    std::string pad_text(DeviceId pad) const {
        const DeviceFrame its = input_.sampler.frame().on(pad);
        const Vector2 left = its.stick(controls::PadStickLeft).now, right = its.stick(controls::PadStickRight).now;
        return fmt::format("{}: left {:+.2f} {:+.2f}  right {:+.2f} {:+.2f}  triggers {:.2f} {:.2f}",
                           static_cast<std::uint32_t>(pad), left.x + 0.0, left.y + 0.0, right.x + 0.0, right.y + 0.0,
                           its.trigger(controls::PadPullLeft).now, its.trigger(controls::PadPullRight).now);
    }

    std::string owner_text(Button button) const {
        const ButtonOwner owner = input_.reader->owner_of(button);
        const auto mode = [&] { return std::string{input_.reader->name_of(owner.mode)}; };
        // A stick's directions belong to the actions of the stick.
        if (const auto push = axis_behind(button); push && owner.kind == ButtonOwner::Kind::unbound)
            return has_axis(push->axis) ? "" : is_bound(button) ? "(mode not open) " : "(no action) ";
        switch (owner.kind) {
            case ButtonOwner::Kind::mode: return "(" + mode() + ") ";
            case ButtonOwner::Kind::claim: return "(claim) ";
            case ButtonOwner::Kind::owner_ended: return "(its owner ended) ";
            case ButtonOwner::Kind::covered: return "(covered by " + mode() + ") ";
            case ButtonOwner::Kind::unbound: break;
        }
        return is_bound(button) ? "(mode not open) " : "(no action) ";
    }
    template <typename Has>
    bool any_binding(const Has& has) const {
        for (const Mode& mode : input_.profile->modes)
            for (const Action& action : mode.actions)
                if (std::any_of(action.bindings.begin(), action.bindings.end(), has)) return true;
        return false;
    }
    bool has_axis(Axis axis) const {
        return any_binding([&](const Binding& it) {
            return (it.kind == Binding::Kind::axis && it.axis == axis) ||
                   (it.kind == Binding::Kind::stick && it.stick.number == axis.number / 2);
        });
    }
    bool is_bound(Button button) const {
        return any_binding([&](const Binding& it) {
            return std::any_of(it.buttons.begin(), it.buttons.end(),
                               [&](Button its) { return physical_buttons(its).contains(button); });
        });
    }

    void add_help() {
        lines_.resize(1);
        const int column = 15;
        for (const HelpLine& line : help) {
            const std::size_t blank = line.mark.find(' ');
            // Marks have two characters, of which one is for terminals without UTF-8.
            const bool is_mark = line.mark.size() > 1 && (line.mark[0] & 0x80) != 0 && blank != line.mark.npos;
            const std::string mark{!is_mark             ? line.mark
                                   : view_.with_unicode ? line.mark.substr(0, blank)
                                                        : line.mark.substr(blank + 1)};
            lines_.push_back({{Style::strong, padded("  " + mark, column)}, {Style::plain, std::string{line.text}}});
        }
    }

    /// Times above the lanes, one about every 20 columns.
    void add_ruler() {
        const int width = strip_width(view_);
        const std::vector<std::size_t> all = filtered_lanes(input_.lanes, view_.filter);
        std::string title =
            view_.filter.empty() && !view_.is_typing
                ? plural_text(all.size(), "lane")
                : fmt::format("/{}{} {}", view_.filter, view_.is_typing ? "_" : "", plural_text(all.size(), "lane"));
        std::string ruler;
        constexpr int every = 20;
        // From the right border, so that its texts stand still while the lanes run.
        for (int column = width % every; column < width; column += every) {
            ruler.resize(std::max<std::size_t>(ruler.size(), static_cast<std::size_t>(column)), ' ');
            const Duration back = view_.per_column * (width - column);
            ruler += fmt::format("|-{} s", std::round(seconds(back) * 1000) / 1000);
        }
        lines_.push_back({{Style::strong, padded(title, label_width(view_))}, {Style::faint, cut(ruler, width)}});
    }

    void add_lanes(int rows) {
        const std::vector<std::size_t> all = filtered_lanes(input_.lanes, view_.filter);
        const int first = std::clamp(view_.first_lane, 0, std::max(0, static_cast<int>(all.size()) - rows));
        if (all.empty() && rows > 0)
            lines_.push_back({{Style::faint, view_.filter.empty() ? "Nothing yet: press a key, move a stick."
                                                                  : "No lane has that in its name."}});
        for (int i = first; i < std::min(first + rows, static_cast<int>(all.size())); ++i)
            add_lane(input_.lanes.lanes()[all[static_cast<std::size_t>(i)]]);
    }

    void add_lane(const Lane& lane) {
        const bool is_down = !view_.end && !lane.has_values() && lane.is_active();
        const int label = label_width(view_);
        ScreenLine line{{is_down ? Style::press : Style::plain, padded(lane.title(), label - value_width)}};
        lane.has_values() ? add_values(lane, line) : add_states(lane, line);
        lines_.push_back(std::move(line));
    }

    void add_states(const Lane& lane, ScreenLine& line) const {
        const int width = strip_width(view_);
        std::vector<const Glyph*> strip(static_cast<std::size_t>(width), &nothing);
        std::vector<bool> lost(static_cast<std::size_t>(width));
        const auto frame = [&](std::uint32_t number) -> const LaneFrame& { return input_.lanes.frame(number); };
        const Time from = end_ - view_.per_column * width;
        std::uint64_t presses = 0;
        for (auto cell = lane.cells.rbegin(); cell != lane.cells.rend(); ++cell) {
            presses += cell->presses;
            if (frame(cell->last).to <= from || frame(cell->first).from >= end_) continue;
            const auto column = [&](Time time) {
                return std::clamp((time - from).count() / view_.per_column.count(), std::int64_t{0},
                                  static_cast<std::int64_t>(width - 1));
            };
            const Glyph& glyph = glyph_of(*cell);
            // A frame that ends at a column's border is in the column before. What happened in it is in one column
            // only.
            const std::int64_t last = column(frame(cell->last).to - Duration{1});
            for (auto i = glyph.rank > repeated.rank ? last : column(frame(cell->first).from); i <= last; ++i) {
                const auto at = static_cast<std::size_t>(i);
                if (glyph.rank > strip[at]->rank) strip[at] = &glyph;
                lost[at] = lost[at] || cell->lost != 0;
            }
        }
        const auto column_of = [&](Time time) {
            return std::clamp((time - from).count() / view_.per_column.count(), std::int64_t{0},
                              static_cast<std::int64_t>(width - 1));
        };
        const bool is_owner = lane.kind == Lane::Kind::mode || lane.kind == Lane::Kind::claim;
        if (is_owner)
            for (const Lane::Bar& bar : lane.bars)
                for (auto i = column_of(bar.from); bar.to > from && bar.from < end_ && i <= column_of(bar.to); ++i)
                    strip[static_cast<std::size_t>(i)] = &held;
        for (const Lane::Missed& it : lane.missed)
            if (it.time > from && it.time <= end_) strip[static_cast<std::size_t>(column_of(it.time))] = &had_no_effect;
        for (std::size_t i = 0; i < strip.size(); ++i)
            if (strip[i] == &nothing && is_kept_away(lane, from + view_.per_column * static_cast<std::int64_t>(i)))
                strip[i] = &kept_away;
        line.push_back({Style::faint, padded(is_owner ? std::string{lane.kind == Lane::Kind::mode ? " mode" : "claim"}
                                                      : fmt::format("{:>4}x", presses),
                                             value_width)});
        for (std::size_t i = 0; i < strip.size(); ++i) {
            const std::string_view text = view_.with_unicode ? strip[i]->unicode : strip[i]->ascii;
            const Style style = lost[i] ? Style::warning : strip[i]->style;
            if (line.size() > 2 && line.back().style == style)
                line.back().text += text;
            else
                line.push_back({style, std::string{text}});
        }
    }

    void add_values(const Lane& lane, ScreenLine& line) const {
        const int width = strip_width(view_);
        const Time from = end_ - view_.per_column * width;
        const Lane::Range range = lane.range();
        auto value = std::upper_bound(lane.values.begin(), lane.values.end(), from,
                                      [](Time time, const Lane::Value& it) { return time < it.time; });
        double now = value == lane.values.begin() ? 0 : (value - 1)->shaped;
        std::string strip;
        for (int i = 0; i < width; ++i) {
            const Time until = from + view_.per_column * (i + 1);
            // The value farthest from rest within the column, so that a short push shows.
            double shown = now;
            for (; value != lane.values.end() && value->time <= until; ++value) {
                now = value->shaped;
                if (std::abs(now) > std::abs(shown)) shown = now;
            }
            const auto level = static_cast<std::size_t>(std::lround(range.share(shown) * 7));
            if (lane.values.empty() || until <= lane.values.front().time)
                strip += ' ';
            else if (shown == 0 && is_kept_away(lane, until - view_.per_column))
                strip += view_.with_unicode ? kept_away.unicode : kept_away.ascii;
            else if (shown == 0 && lane.kind != Lane::Kind::pointer)
                strip += view_.with_unicode ? "─" : "-";
            else if (view_.with_unicode)
                strip += levels[level];
            else
                strip += ascii_levels[level];
        }
        line.push_back({Style::strong, padded(lane.kind == Lane::Kind::pointer ? fmt::format("{:6.0f}", now)
                                                                               : fmt::format("{:+6.2f}", now),
                                              value_width)});
        line.push_back({Style::release, std::move(strip)});
    }

    void add_events(int rows) {
        if (rows < 2) return;
        const std::size_t top = lines_.size();
        lines_.push_back({{Style::strong, "last events"}});
        const auto count = std::min(static_cast<std::size_t>(rows - 1), input_.events.size());
        for (std::size_t i = input_.events.size() - count; i < input_.events.size(); ++i)
            lines_.push_back({input_.events[i]});
        int left = std::max(78, view_.columns / 2);
        if (rows < box_height + 1) return;
        for (const DeviceId pad : pads_of(input_))
            for (const Stick stick : {controls::PadStickLeft, controls::PadStickRight}) {
                if (left + box_width > view_.columns) return;
                add_stick(pad, stick, top, left);
                left += box_width + 2;
            }
    }

    /// A box with the stick's place in it, to the right of the events.
    void add_stick(DeviceId pad, Stick stick, std::size_t top, int left) {
        const Vector2 at = input_.sampler.frame().on(pad).stick(stick).now;
        const auto place = [](double value, int size) {
            return static_cast<int>(std::lround((value + 1) / 2 * (size - 3))) + 1;
        };
        const int x = place(at.x, box_width), y = place(at.y, box_height);
        lines_.resize(std::max(lines_.size(), top + static_cast<std::size_t>(box_height) + 1));
        const auto put = [&](std::size_t line, Style style, const std::string& text) {
            int width = 0;
            for (ScreenPart& part : lines_[line]) {
                part.text = cut(part.text, std::max(0, left - 2 - width));
                width += width_of(part.text);
            }
            // What stands to the left of it, another box perhaps, is as wide as it is.
            lines_[line].push_back(
                {Style::plain, std::string(static_cast<std::size_t>(std::max(0, left - width)), ' ')});
            lines_[line].push_back({style, text});
        };
        put(top, Style::strong,
            padded(fmt::format("{} {}", static_cast<std::uint32_t>(pad), name_of(stick)), box_width));
        for (int row = 0; row < box_height; ++row) {
            std::string text;
            for (int column = 0; column < box_width; ++column) {
                const bool is_edge = row == 0 || row == box_height - 1,
                           is_side = column == 0 || column == box_width - 1;
                const bool is_middle = row == box_height / 2 && column == box_width / 2;
                text += row == y && column == x ? (view_.with_unicode ? "●" : "O")
                        : is_edge && is_side    ? "+"
                        : is_edge               ? "-"
                        : is_side               ? "|"
                        : is_middle             ? "."
                                                : " ";
            }
            put(top + 1 + static_cast<std::size_t>(row), Style::release, text);
        }
    }

    void add_foot() {
        if (!view_.message.empty()) return lines_.push_back({{Style::warning, view_.message}});
        if (view_.is_typing)
            return lines_.push_back({{Style::faint, "Type a part of a lane's name; Enter keeps it, Escape clears it"}});
        ScreenLine keys;
        const auto key = [&](const char* name, const char* what) {
            keys.push_back({Style::strong, name});
            keys.push_back({Style::faint, fmt::format(" {}  ", what)});
        };
        key("q", "quit");
        key("space", view_.end ? "go on" : "pause");
        key(view_.with_unicode ? "←→" : "<>", "time");
        key(view_.with_unicode ? "↑↓" : "up/down", "lanes");
        key("+-", "zoom");
        key("/", "filter");
        key("s", "save");
        key("?", "help");
        lines_.push_back(std::move(keys));
    }

    /// Whether something kept all input of the lane away in a column that begins then.
    bool is_kept_away(const Lane& lane, Time column) const {
        return std::any_of(spans_.begin(), spans_.end(), [&](const LaneSpan& span) {
            return span.from < column + view_.per_column && span.to > column && span.concerns(lane);
        });
    }

    const WatchedInput& input_;
    const WatchView& view_;
    const std::vector<LaneSpan> spans_ = input_.lanes.spans();
    Time end_;
    std::vector<ScreenLine> lines_;
};

std::string lower(std::string_view text) {
    std::string result;
    for (const char c : text) result += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return result;
}

}  // namespace

std::vector<std::size_t> filtered_lanes(const LaneHistory& lanes, const std::string& filter) {
    std::vector<std::size_t> all;
    const std::string wanted = lower(filter);
    for (std::size_t i = 0; i < lanes.lanes().size(); ++i)
        if (lower(lanes.lanes()[i].title()).find(wanted) != std::string::npos) all.push_back(i);
    return all;
}

int lane_rows(const WatchedInput& input, const WatchView& view) {
    const int pads = static_cast<int>(pads_of(input).size());
    const int head = (input.reader ? 4 : 3) + pads, ruler = 1, foot = 1;
    const int room = view.rows - head - ruler - foot;
    // A quarter of the screen for events, if lanes do not need it.
    const int events = std::max(5, view.rows / 4);
    return std::max(1, std::min(room, std::max(room - events, 1)));
}

Duration shown_time(const WatchView& view) { return view.per_column * strip_width(view); }

std::vector<ScreenLine> watch_screen(const WatchedInput& input, const WatchView& view) {
    return Screen{input, view}.build();
}

}  // namespace cursorum::tool
