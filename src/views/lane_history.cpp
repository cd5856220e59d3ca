// What each control did over a stretch of time, cell by cell: one cell for each frame, and bars that go on over frames.
// Old cells are dropped from the front, and frames keep their numbers, so that a panel can run for hours.
#include "cursorum/views/lane_history.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <span>
#include <tuple>
#include <utility>

#include "cursorum/core/shaping.hpp"
#include "cursorum/views/missed_presses.hpp"

namespace cursorum {
namespace {

/// The presses that comparing levels misses, and whether it shows a press that nobody made.
void compare_levels(const ButtonFigures& figures, Lane::Cell& cell) {
    const bool seems_pressed = figures.down() && !figures.was_down();
    cell.lost = static_cast<std::uint16_t>(cell.presses - (seems_pressed && figures.pressed() ? 1U : 0U));
    cell.is_made_up = seems_pressed && !figures.pressed();
}

bool just_goes_on(const Lane::Cell& cell) {
    return cell.state == ButtonState::hold && cell.presses + cell.releases + cell.adopts + cell.cancels == 0 &&
           cell.repeats + cell.system_repeats == 0 && !cell.is_made_up;
}

void add_cell(Lane& lane, const ButtonFigures& figures, std::uint32_t frame) {
    if (figures.state() == ButtonState::idle) return;
    const auto count = [](std::uint64_t number) {
        return static_cast<std::uint16_t>(std::min<std::uint64_t>(number, UINT16_MAX));
    };
    Lane::Cell cell{.first = frame,
                    .last = frame,
                    .held_for = figures.held_for(),
                    .presses = count(figures.press_count()),
                    .releases = count(figures.release_count()),
                    .adopts = count(figures.adopt_count()),
                    .cancels = count(figures.cancel_count()),
                    .repeats = count(figures.repeat_count()),
                    .system_repeats = count(figures.system_repeat_count()),
                    .state = figures.state()};
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

bool is_open(const Lane& lane) { return !lane.bars.empty() && !lane.bars.back().ended; }

void add_edge(Lane& lane, EdgeKind kind, Time when) {
    if (kind == EdgeKind::press || kind == EdgeKind::adopt) {
        if (!is_open(lane)) lane.bars.push_back({when, when, kind, {}});
    } else if (is_open(lane)) {
        lane.bars.back().to = when;
        lane.bars.back().ended = kind;
    }
}

/// The buttons that were down before the first frame, and those still down at the end of this one.
void update_bars(Lane& lane, bool was_down, bool down, const LaneFrame& frame) {
    if (was_down && lane.bars.empty()) lane.bars.push_back({frame.from, frame.from, {}, {}});
    if (down && is_open(lane)) lane.bars.back().to = frame.to;
}

template <typename Items, typename IsGone>
void forget_front(Items& items, IsGone is_gone) {
    while (!items.empty() && is_gone(items.front())) items.pop_front();
}

/// What a lane is found by.
struct Key {
    Lane::Kind kind{};
    std::string name;
    DeviceId device{};
    std::string of;
};
struct KeyView {
    Lane::Kind kind{};
    std::string_view name;
    DeviceId device{};
    std::string_view of;
};
struct InOrder {
    using is_transparent = void;
    template <typename A, typename B>
    bool operator()(const A& a, const B& b) const {
        const auto parts = [](const auto& key) {
            return std::tuple{key.kind, std::string_view{key.name}, key.device, std::string_view{key.of}};
        };
        return parts(a) < parts(b);
    }
};

}  // namespace

struct LaneHistory::Parts {
    struct Device {
        DeviceId id{};
        std::string name;
        bool needs_focus = false;
    };

    const Timeline& timeline;
    LaneSelection selection;
    std::vector<Lane> lanes{};
    std::vector<LaneFrame> all_frames{};  // with some that were forgotten, which go a quarter at a time
    std::span<const LaneFrame> frames{};
    std::uint32_t forgotten = 0;  // frames
    std::uint64_t last_serial = 0;
    std::vector<LaneSpan> spans{};
    std::map<Key, std::size_t, InOrder> places{};
    std::vector<Device> devices{};
    std::optional<std::size_t> focus_span{};
    std::map<DeviceId, std::size_t> away{};  // spans of devices that are unplugged
    std::vector<std::uint8_t> has_edges{};   // of each lane, within a frame
    MissedPresses missed{};

    // ---- lanes

    Lane* find(const KeyView& key) {
        const auto found = places.find(key);
        return found == places.end() ? nullptr : &lanes[found->second];
    }
    Lane& lane(const KeyView& key) {
        Lane* const found = find(key);
        return found ? *found : add_lane(key);
    }
    Lane& lane_of(Button button, DeviceId device) {
        Lane& of = lane({Lane::Kind::button, name_of(button), device, {}});
        of.button = button;
        return of;
    }

    /// Behind those of its kind, or of its control.
    Lane& add_lane(const KeyView& key) {
        const auto is_before = [&](const Lane& it) { return it.kind <= key.kind; };
        auto at = std::find_if_not(lanes.begin(), lanes.end(), is_before);
        for (auto it = lanes.begin(); it != at; ++it)
            if (it->kind == key.kind && it->name == key.name) {
                at = it;
                while (at != lanes.end() && at->kind == key.kind && at->name == key.name) ++at;
                break;
            }
        const auto place = static_cast<std::size_t>(at - lanes.begin());
        lanes.insert(
            at, {.kind = key.kind, .name = std::string{key.name}, .device = key.device, .of = std::string{key.of}});
        for (auto& [_, other] : places) other += other >= place ? 1U : 0U;
        places[{key.kind, std::string{key.name}, key.device, std::string{key.of}}] = place;
        if (key.device != DeviceId{}) {
            const auto device =
                std::find_if(devices.begin(), devices.end(), [&](const Device& it) { return it.id == key.device; });
            lanes[place].needs_focus = device != devices.end() && device->needs_focus;
            name_devices(place);
        }
        return lanes[place];
    }

    /// Where several devices have the control of that lane, all of its lanes have a device's name.
    void name_devices(std::size_t place) {
        const auto is_same = [&](std::size_t i) {
            return i < lanes.size() && lanes[i].kind == lanes[place].kind && lanes[i].name == lanes[place].name;
        };
        std::size_t first = place;
        while (first != 0 && is_same(first - 1)) --first;
        if (!is_same(first + 1)) return;
        for (; is_same(first); ++first) lanes[first].of = device_name(lanes[first].device);
    }
    std::string device_name(DeviceId id) const {
        std::string name;
        for (const Device& it : devices)
            if (it.id == id) name = it.name;
        const auto same =
            std::count_if(devices.begin(), devices.end(), [&](const Device& it) { return it.name == name; });
        return name.empty() || same > 1 ? fmt::format("device {}", static_cast<std::uint32_t>(id)) : name;
    }
    void learn_devices() {
        devices.clear();
        for (std::size_t i = 0; i < timeline.device_count(); ++i) {
            const DeviceStatus it = timeline.device(i);
            devices.push_back({it.id, std::string{it.name()}, !it.background});
        }
    }

    std::uint32_t last_frame() const { return forgotten + static_cast<std::uint32_t>(frames.size() - 1); }

    bool wants(Button button) const {
        if (!selection.buttons.empty()) return selection.buttons.contains(button);
        return selection.axes.empty() && button.number < first_either_side && !is_of_axes(button);
    }
    bool wants(Axis axis) const {
        if (selection.axes.empty()) return selection.buttons.empty();
        return std::find(selection.axes.begin(), selection.axes.end(), axis) != selection.axes.end();
    }
    static bool is_either_side(Button button) { return button.number >= first_either_side; }

    // ---- buttons

    void note_buttons(const Frame& frame) {
        if (frames.size() == 1) note_down_before(frame);
        // First all lanes, then what happened: a new one moves those behind it.
        const auto each_edge = [&](auto&& visit) {
            for (const Edge& edge : frame.all_edges())
                if (wants(edge.button)) visit(lane_of(edge.button, edge.device), edge);
            if (!selection.buttons.empty())
                frame.for_each_merged_edge([&](const Edge& edge) {
                    if (is_either_side(edge.button) && wants(edge.button)) visit(lane_of(edge.button, {}), edge);
                });
        };
        each_edge([](const Lane&, const Edge&) {});
        has_edges.assign(lanes.size(), 0);
        each_edge([&](Lane& of, const Edge& edge) {
            add_edge(of, edge.kind, edge.time);
            has_edges[static_cast<std::size_t>(&of - lanes.data())] = 1;
        });
        for (std::size_t i = 0; i < lanes.size() && lanes[i].kind == Lane::Kind::button; ++i) {
            Lane& of = lanes[i];
            if (has_edges[i] == 0 && !is_open(of)) continue;
            const ButtonFigures figures =
                of.device == DeviceId{} ? frame[of.button].figures() : frame.on(of.device)[of.button].figures();
            add_cell(of, figures, last_frame());
            update_bars(of, false, figures.down(), frames.back());
        }
    }

    void note_down_before(const Frame& frame) {
        const auto add = [&](Button button, DeviceId device) {
            Lane& of = lane_of(button, device);
            if (of.bars.empty()) of.bars.push_back({frame.start(), frame.start(), {}, {}});
        };
        frame.active().for_each([&](Button button) {
            if (!wants(button) || !frame[button].was_down()) return;
            if (is_either_side(button)) return add(button, {});
            for (const Device& device : devices)
                if (frame.on(device.id)[button].was_down()) add(button, device.id);
        });
    }

    // ---- axes

    void note_axes(const Frame& frame) {
        const std::uint32_t active = frame.active_axes();
        for (std::size_t i = 0; i < lanes.size() && lanes[i].kind <= Lane::Kind::axis; ++i) {
            const bool is_axis = lanes[i].kind == Lane::Kind::axis;
            if (!is_axis || ((active >> lanes[i].axis.number & 1) == 0 && lanes[i].values.back().raw == 0)) continue;
            const AxisReading reading = frame.on(lanes[i].device).raw_axis(lanes[i].axis);
            if (reading.least != reading.greatest || lanes[i].values.back().raw != reading.now)
                note_axis(frame, lanes[i], reading);
        }
        for (unsigned i = 0; i < axis_kinds; ++i) {
            const Axis axis{static_cast<std::uint8_t>(i)};
            if ((active >> i & 1) == 0 || !wants(axis)) continue;
            for (const Device& device : devices) {
                const KeyView key{Lane::Kind::axis, name_of(axis), device.id, {}};
                if (find(key)) continue;
                const AxisReading reading = frame.on(device.id).raw_axis(axis);
                if (reading.least == 0 && reading.greatest == 0) continue;
                Lane& of = add_lane(key);
                of.axis = axis;
                note_axis(frame, of, reading);
            }
        }
    }

    void note_axis(const Frame& whole, Lane& of, const AxisReading& reading) {
        const Axis axis = of.axis;
        const DeviceFrame frame = whole.on(of.device);
        const std::optional<DeviceStatus> device = timeline.find_device(of.device);
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
            of.values.push_back({whole.end(), reading.now, is_stick ? now : pull_shaped(reading.now)});
    }

    // ---- all else that a frame has

    void note_pointer(const Frame& frame) {
        const PointerReading pointer = frame.pointer();
        if (!pointer.moved()) return;
        const auto add = [&](std::string_view name, double position, double motion) {
            Lane& of = lane({Lane::Kind::pointer, name, {}, {}});
            const double before = of.values.empty() ? 0 : of.values.back().raw;
            const double value = pointer.has_position() ? position : before + motion;
            of.values.push_back({frame.end(), value, value});
        };
        add("pointer x", pointer.position().x, pointer.motion().x);
        add("pointer y", pointer.position().y, pointer.motion().y);
    }

    void note_devices(const Frame& frame) {
        bool has_changed = timeline.device_count() != devices.size();
        frame.for_each_device_change([&](const DeviceChange& change) {
            has_changed = true;
            const auto known = away.find(change.device);
            if (change.connected) {
                if (known != away.end()) spans[known->second].to = change.time;
                away.erase(change.device);
                return;
            }
            const std::optional<DeviceStatus> device = timeline.find_device(change.device);
            away[change.device] = spans.size();
            spans.push_back({LaneSpan::Kind::unplugged, change.time, latest_time,
                             device ? std::string{device->name()} : std::string{}, change.device});
        });
        if (has_changed) learn_devices();
    }

    /// Lines about times that no frame covers are not shown.
    bool covers(Time time) const { return time >= selection.from && time < selection.to; }
};

LaneHistory::LaneHistory(const Timeline& timeline, const LaneSelection& selection)
    : parts_{std::make_unique<Parts>(Parts{timeline, selection})} {}
LaneHistory::~LaneHistory() = default;

void LaneHistory::note(const Frame& frame, std::uint64_t number) {
    Parts& parts = *parts_;
    parts.note_devices(frame);
    if (frame.end() <= parts.selection.from || frame.start() >= parts.selection.to) return;
    // What happened in frames that were not noted is not known.
    if (!parts.frames.empty() && frame.serial() != parts.last_serial + 1) {
        forget_before(end());
        parts.lanes.clear();
        parts.places.clear();
    }
    parts.last_serial = frame.serial();
    if (!parts.frames.empty() && parts.frames.back().to < frame.start())
        parts.spans.push_back({LaneSpan::Kind::paused, parts.frames.back().to, frame.start()});
    const std::size_t gone = parts.all_frames.size() - parts.frames.size();
    parts.all_frames.push_back({number, frame.start(), frame.end()});
    parts.frames = std::span{parts.all_frames}.subspan(gone);
    parts.note_buttons(frame);
    parts.note_axes(frame);
    if (parts.selection.pointer) parts.note_pointer(frame);
    for (Lane& lane : parts.lanes)
        if (lane.kind == Lane::Kind::mode || lane.kind == Lane::Kind::claim)
            update_bars(lane, false, true, parts.frames.back());
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
    Parts& parts = *parts_;
    const std::string why = parts.missed.why(line, outcome);
    if (line.kind != RecordingLine::Kind::event) return;
    const Event& event = line.event;
    if (outcome == Outcome::focus_lost || outcome == Outcome::focus_gained)
        note_focus(outcome == Outcome::focus_gained, line.time);
    if (outcome == Outcome::interrupted)
        parts.spans.push_back({LaneSpan::Kind::interrupted, line.time, line.time, std::string{event.text}});
    if (event.type == EventType::connect && outcome == Outcome::connected) parts.learn_devices();
    if (event.type != EventType::button || !parts.covers(line.time) || !parts.wants(event.control)) return;
    if (outcome == Outcome::system_repeat || outcome == Outcome::adopted_repeat)
        parts.lane_of(event.control, event.device).system_repeats.push_back(line.time);
    else if (!why.empty())
        note_missed(event.control, line.time, why, event.device);
}

void LaneHistory::note_missed(Button button, Time when, std::string_view why, DeviceId device) {
    Parts& parts = *parts_;
    if (!parts.covers(when)) return;
    if (device == DeviceId{}) {
        // An either-side name stands for the key that went down then.
        const auto began = [&](const Lane& lane) {
            if (lane.kind != Lane::Kind::button || !physical_buttons(button).contains(lane.button)) return false;
            const auto bar = std::lower_bound(lane.bars.begin(), lane.bars.end(), when,
                                              [](const Lane::Bar& it, Time time) { return it.from < time; });
            return bar != lane.bars.end() && bar->from == when;
        };
        const auto lane = std::find_if(parts.lanes.begin(), parts.lanes.end(), began);
        if (lane == parts.lanes.end()) return;
        device = lane->device;
        button = lane->button;
    }
    if (!parts.wants(button)) return;
    std::deque<Lane::Missed>& missed = parts.lane_of(button, device).missed;
    const auto at = std::lower_bound(missed.begin(), missed.end(), when,
                                     [](const Lane::Missed& it, Time time) { return it.time < time; });
    const bool is_known = at != missed.end() && at->time == when;
    if (why.empty()) {
        if (is_known) missed.erase(at);
    } else if (is_known) {
        at->why = why;
    } else {
        missed.insert(at, {when, std::string{why}});
    }
}

void LaneHistory::note_action(std::string_view name, const ButtonFigures& figures, std::string_view of) {
    Parts& parts = *parts_;
    if (parts.frames.empty() || figures.state() == ButtonState::idle) return;
    Lane& lane = parts.lane({Lane::Kind::button_action, name, {}, of});
    // Its edges come after it, so earlier holds are drawn first.
    update_bars(lane, figures.was_down(), figures.down(), parts.frames.back());
    add_cell(lane, figures, parts.last_frame());
}

void LaneHistory::note_action_edge(std::string_view name, EdgeKind kind, Time when, std::string_view of) {
    Parts& parts = *parts_;
    if (parts.frames.empty()) return;
    Lane& lane = parts.lane({Lane::Kind::button_action, name, {}, of});
    add_edge(lane, kind, when);
    update_bars(lane, false, true, parts.frames.back());
}

void LaneHistory::note_action_value(std::string_view name, double value, Time when, std::string_view of) {
    Parts& parts = *parts_;
    if (parts.frames.empty()) return;
    const KeyView key{Lane::Kind::axis_action, name, {}, of};
    if (value == 0 && !parts.find(key)) return;
    Lane& lane = parts.lane(key);
    if (lane.values.empty()) lane.values.push_back({parts.frames.front().from, 0, 0});
    if (lane.values.back().shaped != value) {
        // A ramp: the value before it held until the frame began.
        if (lane.values.back().time < parts.frames.back().from)
            lane.values.push_back({parts.frames.back().from, lane.values.back().raw, lane.values.back().shaped});
        lane.values.push_back({when, value, value});
    }
}

void LaneHistory::note_in_force(Lane::Kind kind, std::string_view name, bool is_in_force, Time when,
                                std::string_view of) {
    Parts& parts = *parts_;
    if (parts.frames.empty()) return;
    Lane& lane = parts.lane({kind, name, {}, of});
    add_edge(lane, is_in_force ? EdgeKind::press : EdgeKind::release, when);
    update_bars(lane, false, true, parts.frames.back());
}

void LaneHistory::note_belief(std::string_view name, const BeliefFinding& what) {
    Parts& parts = *parts_;
    const auto frame = std::lower_bound(parts.frames.begin(), parts.frames.end(), what.time,
                                        [](const LaneFrame& it, Time time) { return it.to < time; });
    if (frame == parts.frames.end() || frame->to != what.time) return;
    const bool is_action = name.find('.') != name.npos;
    if (!is_action && !parts.wants(what.button)) return;
    const Lane::Kind kind = is_action ? Lane::Kind::button_action : Lane::Kind::button;
    // The other layer knows no devices.
    const auto lane = std::find_if(parts.lanes.begin(), parts.lanes.end(),
                                   [&](const Lane& it) { return it.kind == kind && it.name == name; });
    (lane != parts.lanes.end() ? *lane : parts.add_lane({kind, name, {}, {}}))
        .beliefs.push_back({parts.forgotten + static_cast<std::uint32_t>(frame - parts.frames.begin()), what});
}

void LaneHistory::forget_before(Time time) {
    Parts& parts = *parts_;
    const std::uint32_t before = parts.forgotten;
    while (!parts.frames.empty() && parts.frames.front().to <= time) {
        parts.frames = parts.frames.subspan(1);
        ++parts.forgotten;
    }
    if (const std::size_t gone = parts.all_frames.size() - parts.frames.size(); gone > parts.frames.size() / 4 + 64) {
        parts.all_frames.erase(parts.all_frames.begin(), parts.all_frames.begin() + static_cast<std::ptrdiff_t>(gone));
        parts.frames = parts.all_frames;
    }
    const std::uint32_t first = parts.forgotten;
    if (first == before) return;
    for (Lane& lane : parts.lanes) {
        forget_front(lane.cells, [&](const Lane::Cell& cell) { return cell.last < first; });
        if (!lane.cells.empty()) lane.cells.front().first = std::max(lane.cells.front().first, first);
        forget_front(lane.beliefs, [&](const Lane::Belief& belief) { return belief.frame < first; });
        forget_front(lane.bars, [&](const Lane::Bar& bar) { return bar.ended && bar.to <= time; });
        forget_front(lane.system_repeats, [&](Time at) { return at <= time; });
        forget_front(lane.missed, [&](const Lane::Missed& it) { return it.time <= time; });
        while (lane.values.size() > 1 && lane.values[1].time <= time) lane.values.pop_front();
    }
    // A control that is at rest or up and has nothing left loses its lane.
    const auto has_nothing = [](const Lane& lane) {
        return lane.cells.empty() && lane.bars.empty() && lane.beliefs.empty() && lane.missed.empty() &&
               lane.system_repeats.empty() &&
               (lane.values.empty() ||
                (lane.values.size() == 1 && lane.values[0].raw == 0 && lane.values[0].shaped == 0));
    };
    if (std::erase_if(parts.lanes, has_nothing) != 0) {
        parts.places.clear();
        for (std::size_t i = 0; i < parts.lanes.size(); ++i) {
            const Lane& lane = parts.lanes[i];
            parts.places[{lane.kind, lane.name, lane.device, lane.device == DeviceId{} ? lane.of : std::string{}}] = i;
        }
    }
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
std::span<const LaneFrame> LaneHistory::frames() const noexcept { return parts_->frames; }
const LaneFrame& LaneHistory::frame(std::uint32_t number) const noexcept {
    return parts_->frames[number - parts_->forgotten];
}
std::uint32_t LaneHistory::first_frame() const noexcept { return parts_->forgotten; }
Time LaneHistory::start() const noexcept { return parts_->frames.empty() ? Time{} : parts_->frames.front().from; }
Time LaneHistory::end() const noexcept { return parts_->frames.empty() ? Time{} : parts_->frames.back().to; }

std::vector<std::string_view> LaneHistory::silent() const {
    std::vector<std::string_view> names;
    const auto add = [&](Lane::Kind kind, std::string_view name) {
        if (std::none_of(parts_->lanes.begin(), parts_->lanes.end(),
                         [&](const Lane& it) { return it.kind == kind && it.name == name; }))
            names.push_back(name);
    };
    parts_->selection.buttons.for_each([&](Button button) { add(Lane::Kind::button, name_of(button)); });
    for (const Axis axis : parts_->selection.axes) add(Lane::Kind::axis, name_of(axis));
    return names;
}

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
