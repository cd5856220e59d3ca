// What each control did over a stretch of time, cell by cell: one cell for each frame, and bars that go on over frames.
// Old cells are dropped from the front, so that a panel can run for hours.
#include "cursorum/views/lane_history.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include "cursorum/core/shaping.hpp"

namespace cursorum {
namespace {


/// The presses that comparing levels misses, and whether it shows a press that nobody made.
void compare_levels(const ButtonFigures& figures, Lane::Cell& cell) {
    const bool seems_pressed = figures.down() && !figures.was_down();
    cell.lost = figures.press_count() - (seems_pressed && figures.pressed() ? 1U : 0U);
    cell.is_made_up = seems_pressed && !figures.pressed();
}

bool just_goes_on(const Lane::Cell& cell) {
    return cell.state == ButtonState::hold && cell.presses + cell.releases + cell.adopts + cell.cancels == 0 &&
           cell.repeats + cell.system_repeats == 0 && !cell.is_made_up;
}

void add_cell(Lane& lane, const ButtonFigures& figures, std::uint32_t frame) {
    Lane::Cell cell{.first = frame, .last = frame, .state = figures.state()};
    if (cell.state == ButtonState::idle) return;
    cell.presses = figures.press_count();
    cell.releases = figures.release_count();
    cell.adopts = figures.adopt_count();
    cell.cancels = figures.cancel_count();
    cell.repeats = static_cast<std::uint32_t>(std::min<std::uint64_t>(figures.repeat_count(), UINT32_MAX));
    cell.system_repeats = figures.system_repeat_count();
    cell.held_for = figures.held_for();
    compare_levels(figures, cell);
    if (!lane.cells.empty() && just_goes_on(cell)) {
        Lane::Cell& before = lane.cells.back();
        if (just_goes_on(before) && before.last + 1 == frame) {
            before.last = frame;
            before.held_for = cell.held_for;
            return;
        }
    }
    lane.cells.push_back(cell);
}

void add_edge(Lane& lane, EdgeKind kind, Time when) {
    const bool is_open = !lane.bars.empty() && !lane.bars.back().ended;
    if (kind == EdgeKind::press || kind == EdgeKind::adopt) {
        if (!is_open) lane.bars.push_back({when, when, kind, {}});
    } else if (is_open) {
        lane.bars.back().to = when;
        lane.bars.back().ended = kind;
    }
}

/// The buttons that were down before the first frame, and those still down at the end of this one.
void update_bars(Lane& lane, bool was_down, bool down, const LaneFrame& frame) {
    if (was_down && lane.bars.empty()) lane.bars.push_back({frame.from, frame.from, {}, {}});
    if (down && !lane.bars.empty() && !lane.bars.back().ended) lane.bars.back().to = frame.to;
}

template <typename Items, typename IsGone>
void erase_front(Items& items, IsGone is_gone) {
    items.erase(items.begin(), std::find_if_not(items.begin(), items.end(), is_gone));
}

}  // namespace

std::uint64_t Lane::event_count() const noexcept {
    std::uint64_t count = values.size() + system_repeats.size() + beliefs.size();
    for (const Cell& cell : cells) count += cell.presses + cell.releases + cell.adopts + cell.cancels + cell.repeats;
    return count;
}

Lane::Range Lane::range() const noexcept {
    if (kind == Kind::axis)
        if (const std::optional<Axis> axis = find_axis(name); axis && is_pull(*axis)) return {0, 1};
    if (kind != Kind::pointer || values.empty()) return {};
    const auto [low, high] =
        std::minmax_element(values.begin(), values.end(), [](const Value& a, const Value& b) { return a.raw < b.raw; });
    return {low->raw, std::max(high->raw, low->raw + 1)};
}

std::string_view name_of(LaneSpan::Kind kind) noexcept {
    constexpr std::string_view names[] = {"without focus", "paused", "unplugged", "interrupted"};
    return names[static_cast<unsigned>(kind)];
}

struct LaneHistory::Parts {
    const Timeline& timeline;
    LaneSelection selection;
    std::vector<Lane> lanes{};
    std::vector<LaneFrame> frames{};
    std::vector<LaneSpan> spans{};
    std::map<std::string, std::size_t, std::less<>> places{};  // of lanes, by kind and name
    std::optional<std::size_t> focus_span{};
    std::map<DeviceId, std::size_t> away{};  // spans of devices that are unplugged
    DeviceId pad{};                          // whose axis moved last

    static std::string key(Lane::Kind kind, std::string_view name) {
        return static_cast<char>('0' + static_cast<int>(kind)) + std::string{name};
    }
    Lane* find(Lane::Kind kind, std::string_view name) {
        const auto found = places.find(key(kind, name));
        return found == places.end() ? nullptr : &lanes[found->second];
    }
    Lane& lane(Lane::Kind kind, std::string_view name) {
        const auto [found, is_new] = places.try_emplace(key(kind, name), lanes.size());
        if (is_new) lanes.push_back({.kind = kind, .name = std::string{name}});
        return lanes[found->second];
    }
    std::uint32_t last_frame() const { return static_cast<std::uint32_t>(frames.size() - 1); }

    bool wants(Button button) const {
        if (!selection.buttons.empty()) return selection.buttons.contains(button);
        return selection.axes.empty() && button.number < first_either_side && !is_of_axes(button);
    }
    bool wants(Axis axis) const {
        if (selection.axes.empty()) return selection.buttons.empty();
        return std::find(selection.axes.begin(), selection.axes.end(), axis) != selection.axes.end();
    }

    void note_buttons(const Frame& frame) {
        const ButtonSet active = frame.active();
        if (active.empty()) return;
        const auto begin = [&](Button button) {
            if (!wants(button)) return;
            Lane& of = lane(Lane::Kind::button, name_of(button));
            update_bars(of, frame[button].was_down(), false, frames.back());
        };
        active.for_each(begin);
        frame.for_each_merged_edge([&](const Edge& edge) {
            if (wants(edge.button)) add_edge(lane(Lane::Kind::button, name_of(edge.button)), edge.kind, edge.time);
        });
        active.for_each([&](Button button) {
            if (!wants(button)) return;
            Lane& of = lane(Lane::Kind::button, name_of(button));
            const ButtonFigures figures = frame[button].figures();
            add_cell(of, figures, last_frame());
            update_bars(of, false, figures.down(), frames.back());
        });
    }

    void note_axes(const Frame& frame) {
        for (unsigned i = 0; i < axis_kinds; ++i) {
            const Axis axis{static_cast<std::uint8_t>(i)};
            if (!wants(axis)) continue;
            const AxisReading reading = frame.raw_axis(axis);
            const bool rests = reading.least == 0 && reading.greatest == 0;
            Lane* const known = find(Lane::Kind::axis, name_of(axis));
            if (!known && rests) continue;
            if (known && reading.least == reading.greatest && known->values.back().raw == reading.now) continue;
            note_axis(frame, axis, reading);
        }
    }

    void note_axis(const Frame& frame, Axis axis, const AxisReading& reading) {
        Lane& of = lane(Lane::Kind::axis, name_of(axis));
        frame.for_each_raw_axis([&](const DeviceAxis& it) {
            if (it.axis == axis) pad = it.device;
        });
        const std::optional<DeviceStatus> device = timeline.find_device(pad);
        const DeviceShaping shaping = device ? device->shaping : DeviceShaping{};
        const bool is_stick = axis.number < 2 * stick_kinds;
        const Stick stick{static_cast<std::uint8_t>(axis.number / 2)};
        const auto part = [&](Vector2 value) { return axis.number % 2 == 0 ? value.x : value.y; };
        const auto pull_shaped = [&](double raw) {
            return is_pull(axis) ? shape(shaping.pulls[axis.number - 2 * stick_kinds], raw) : raw;
        };
        if (is_stick) of.dead_zone = shaping.sticks[stick.number].response.dead_zone;
        if (is_pull(axis)) of.dead_zone = shaping.pulls[axis.number - 2 * stick_kinds].response.dead_zone;

        std::vector<std::pair<Time, double>> shaped;
        if (is_stick)
            frame.for_each_value(stick, [&](Time time, Vector2 value) { shaped.emplace_back(time, part(value)); });
        if (of.values.empty())
            of.values.push_back({frames.front().from, reading.before,
                                 is_stick ? part(frame.stick(stick).before) : pull_shaped(reading.before)});
        std::size_t next = 0;
        double now = of.values.back().shaped;
        const auto take_shaped = [&](Time until) {
            for (; next < shaped.size() && shaped[next].first <= until; ++next) {
                now = shaped[next].second;
                if (shaped[next].first < until) of.values.push_back({shaped[next].first, of.values.back().raw, now});
            }
        };
        frame.for_each_raw_value(axis, [&](Time time, double raw) {
            take_shaped(time);
            of.values.push_back({time, raw, is_stick ? now : pull_shaped(raw)});
        });
        take_shaped(latest_time);
        if (of.values.back().raw != reading.now)  // it came to rest without an event of its own
            of.values.push_back({frame.end(), reading.now, is_stick ? now : pull_shaped(reading.now)});
    }

    void note_pointer(const Frame& frame) {
        const PointerReading pointer = frame.pointer();
        if (!pointer.moved()) return;
        const auto add = [&](std::string_view name, double position, double motion) {
            Lane& of = lane(Lane::Kind::pointer, name);
            const double before = of.values.empty() ? 0 : of.values.back().raw;
            const double value = pointer.has_position() ? position : before + motion;
            of.values.push_back({frame.end(), value, value});
        };
        add("pointer x", pointer.position().x, pointer.motion().x);
        add("pointer y", pointer.position().y, pointer.motion().y);
    }

    void note_devices(const Frame& frame) {
        frame.for_each_device_change([&](const DeviceChange& change) {
            const auto known = away.find(change.device);
            if (change.connected) {
                if (known != away.end()) spans[known->second].to = change.time;
                away.erase(change.device);
                return;
            }
            const std::optional<DeviceStatus> device = timeline.find_device(change.device);
            away[change.device] = spans.size();
            spans.push_back({LaneSpan::Kind::unplugged, change.time, latest_time,
                             device ? std::string{device->name()} : std::string{}});
        });
    }

    /// Lines about times that no frame covers are not shown.
    bool covers(Time time) const { return time >= selection.from && time < selection.to; }
};

LaneHistory::LaneHistory(const Timeline& timeline, const LaneSelection& selection)
    : parts_{std::make_unique<Parts>(Parts{timeline, selection})} {}
LaneHistory::~LaneHistory() = default;

void LaneHistory::note(const Frame& frame, std::uint64_t number) {
    Parts& parts = *parts_;
    if (frame.end() <= parts.selection.from || frame.start() >= parts.selection.to) {
        parts.note_devices(frame);
        return;
    }
    if (!parts.frames.empty() && parts.frames.back().to < frame.start())
        parts.spans.push_back({LaneSpan::Kind::paused, parts.frames.back().to, frame.start()});
    parts.frames.push_back({number, frame.start(), frame.end()});
    parts.note_buttons(frame);
    parts.note_axes(frame);
    if (parts.selection.pointer) parts.note_pointer(frame);
    parts.note_devices(frame);
}

void LaneHistory::note_focus(bool has_focus, Time when) {
    Parts& parts = *parts_;
    if (has_focus && parts.focus_span) {
        parts.spans[*parts.focus_span].to = when;
        parts.focus_span.reset();
    } else if (!has_focus && !parts.focus_span) {
        parts.focus_span = parts.spans.size();
        parts.spans.push_back({LaneSpan::Kind::without_focus, when, latest_time});
    }
}

void LaneHistory::note_line(const RecordingLine& line, Outcome outcome) {
    if (line.kind != RecordingLine::Kind::event) return;
    Parts& parts = *parts_;
    if (outcome == Outcome::focus_lost || outcome == Outcome::focus_gained)
        note_focus(outcome == Outcome::focus_gained, line.time);
    if (outcome == Outcome::interrupted)
        parts.spans.push_back({LaneSpan::Kind::interrupted, line.time, line.time, std::string{line.event.text}});
    const bool repeats = outcome == Outcome::system_repeat || outcome == Outcome::adopted_repeat;
    if (repeats && parts.covers(line.time) && parts.wants(line.event.control))
        parts.lane(Lane::Kind::button, name_of(line.event.control)).system_repeats.push_back(line.time);
}

void LaneHistory::note_action(std::string_view name, const ButtonFigures& figures) {
    Parts& parts = *parts_;
    if (parts.frames.empty() || figures.state() == ButtonState::idle) return;
    Lane& lane = parts.lane(Lane::Kind::button_action, name);
    // Its edges come after it, so earlier holds are drawn first.
    update_bars(lane, figures.was_down(), figures.down(), parts.frames.back());
    add_cell(lane, figures, parts.last_frame());
}

void LaneHistory::note_action_edge(std::string_view name, EdgeKind kind, Time when) {
    Parts& parts = *parts_;
    if (parts.frames.empty()) return;
    Lane& lane = parts.lane(Lane::Kind::button_action, name);
    add_edge(lane, kind, when);
    update_bars(lane, false, true, parts.frames.back());
}

void LaneHistory::note_action_value(std::string_view name, double value, Time when) {
    Parts& parts = *parts_;
    if (parts.frames.empty()) return;
    Lane* const known = parts.find(Lane::Kind::axis_action, name);
    if (!known && value == 0) return;
    Lane& lane = known ? *known : parts.lane(Lane::Kind::axis_action, name);
    if (lane.values.empty()) lane.values.push_back({parts.frames.front().from, 0, 0});
    if (lane.values.back().shaped != value) {
        // A ramp: the value before it held until the frame began.
        if (lane.values.back().time < parts.frames.back().from)
            lane.values.push_back({parts.frames.back().from, lane.values.back().raw, lane.values.back().shaped});
        lane.values.push_back({when, value, value});
    }
}

void LaneHistory::note_belief(std::string_view name, const BeliefFinding& what) {
    Parts& parts = *parts_;
    const auto frame = std::lower_bound(parts.frames.begin(), parts.frames.end(), what.time,
                                        [](const LaneFrame& it, Time time) { return it.to < time; });
    if (frame == parts.frames.end() || frame->to != what.time) return;
    const bool is_action = name.find('.') != name.npos;
    if (!is_action && !parts.wants(what.button)) return;
    parts.lane(is_action ? Lane::Kind::button_action : Lane::Kind::button, name)
        .beliefs.push_back({static_cast<std::uint32_t>(frame - parts.frames.begin()), what});
}

void LaneHistory::forget_before(Time time) {
    Parts& parts = *parts_;
    const auto kept =
        std::find_if(parts.frames.begin(), parts.frames.end(), [&](const LaneFrame& frame) { return frame.to > time; });
    const auto gone = static_cast<std::uint32_t>(kept - parts.frames.begin());
    if (gone == 0) return;
    parts.frames.erase(parts.frames.begin(), kept);
    for (Lane& lane : parts.lanes) {
        erase_front(lane.cells, [&](const Lane::Cell& cell) { return cell.last < gone; });
        for (Lane::Cell& cell : lane.cells) {
            cell.first = std::max(cell.first, gone) - gone;
            cell.last -= gone;
        }
        erase_front(lane.beliefs, [&](const Lane::Belief& belief) { return belief.frame < gone; });
        for (Lane::Belief& belief : lane.beliefs) belief.frame -= gone;
        erase_front(lane.bars, [&](const Lane::Bar& bar) { return bar.ended && bar.to <= time; });
        erase_front(lane.system_repeats, [&](Time at) { return at <= time; });
        const auto later = std::find_if(lane.values.begin(), lane.values.end(),
                                        [&](const Lane::Value& value) { return value.time > time; });
        if (later != lane.values.begin()) lane.values.erase(lane.values.begin(), later - 1);
    }
    // A control that is at rest or up and has nothing left loses its lane.
    std::erase_if(parts.lanes, [](const Lane& lane) {
        return lane.cells.empty() && lane.bars.empty() && lane.beliefs.empty() &&
               (lane.values.empty() ||
                (lane.values.size() == 1 && lane.values[0].raw == 0 && lane.values[0].shaped == 0));
    });
    parts.places.clear();
    for (std::size_t i = 0; i < parts.lanes.size(); ++i)
        parts.places[Parts::key(parts.lanes[i].kind, parts.lanes[i].name)] = i;
    const auto is_over = [&](const LaneSpan& span) { return span.to <= time; };
    if (std::none_of(parts.spans.begin(), parts.spans.end(), is_over)) return;
    // Spans that continue are referred to by their index.
    std::vector<std::size_t> places;
    std::vector<LaneSpan> spans;
    for (const LaneSpan& span : parts.spans) {
        places.push_back(spans.size());
        if (!is_over(span)) spans.push_back(span);
    }
    if (parts.focus_span) parts.focus_span = places[*parts.focus_span];
    for (auto& [device, place] : parts.away) place = places[place];
    parts.spans = std::move(spans);
}

const std::vector<Lane>& LaneHistory::lanes() const noexcept { return parts_->lanes; }
const std::vector<LaneFrame>& LaneHistory::frames() const noexcept { return parts_->frames; }
Time LaneHistory::start() const noexcept { return parts_->frames.empty() ? Time{} : parts_->frames.front().from; }
Time LaneHistory::end() const noexcept { return parts_->frames.empty() ? Time{} : parts_->frames.back().to; }

std::vector<LaneSpan> LaneHistory::spans() const {
    std::vector<LaneSpan> result;
    for (LaneSpan span : parts_->spans) {
        span.from = std::max(span.from, start());
        span.to = std::min(span.to, end());
        const bool is_instant = span.kind == LaneSpan::Kind::interrupted;
        if (is_instant ? span.from == span.to : span.from < span.to) result.push_back(std::move(span));
    }
    std::stable_sort(result.begin(), result.end(),
                     [](const LaneSpan& a, const LaneSpan& b) { return a.from < b.from; });
    return result;
}

}  // namespace cursorum
