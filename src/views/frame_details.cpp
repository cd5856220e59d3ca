// The parts of a frame other than buttons, as rows of a name and a value: axes, sticks, pointer, samples, clicks,
// contacts, devices. Tables, CSV and JSON Lines are made of the same rows.
#include "views/frame_details.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "cursorum/core/controls.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {
namespace {

std::string number(double value) { return fmt::format("{}", value + 0.0); }
std::string number(std::int64_t value) { return fmt::format("{}", value); }
std::string number(DeviceId device) { return fmt::format("{}", static_cast<std::uint32_t>(device)); }
std::string number(Time time) { return number(nanoseconds(time)); }
std::string quoted(std::string_view plain) { return fmt::format("\"{}\"", plain); }

/// A device's name is foreign text.
std::string escaped(std::string_view text) {
    std::string result = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\')
            result += {'\\', c};
        else if (static_cast<unsigned char>(c) < 0x20)
            fmt::format_to(std::back_inserter(result), "\\u{:04x}", static_cast<unsigned>(c));
        else
            result += c;
    }
    return result + '"';
}

bool wants(const FrameSelection& selection, Button button) {
    return selection.controls.empty() || selection.controls.contains(button);
}

/// For people: at most three decimals.
std::string about(double value) { return fmt::format("{:g}", std::round(value * 1000) / 1000 + 0.0); }

std::vector<DetailRow> axis_rows(const Frame& frame) {
    std::vector<DetailRow> rows;
    frame.for_each_raw_axis([&](const DeviceAxis& axis) {
        const AxisReading reading = frame.on(axis.device).raw_axis(axis.axis);
        rows.push_back(
            {.fields = {{"device", number(axis.device)},
                        {"control", quoted(name_of(axis.axis))},
                        {"value", number(axis.value)}},
             .is_news = reading.least != reading.greatest,
             .name = std::string{name_of(axis.axis)},
             .state = "value",
             .text = fmt::format("{} (from {}; {} to {} between), device {}", about(axis.value), about(reading.before),
                                 about(reading.least), about(reading.greatest), number(axis.device))});
    });
    return rows;
}

std::vector<DetailRow> stick_rows(const Frame& frame, const Timeline& timeline) {
    std::vector<DetailRow> rows;
    for (std::size_t i = 0; i < timeline.device_count(); ++i) {
        const DeviceStatus device = timeline.device(i);
        if (device.kind != DeviceKind::gamepad) continue;
        for (const Stick stick : {controls::PadStickLeft, controls::PadStickRight}) {
            const StickReading reading = frame.on(device.id).stick(stick);
            if (reading.now == Vector2{} && reading.before == Vector2{}) continue;
            rows.push_back({.fields = {{"device", number(device.id)},
                                       {"control", quoted(name_of(stick))},
                                       {"x", number(reading.now.x)},
                                       {"y", number(reading.now.y)}},
                            .is_news = !(reading.now == reading.before),
                            .name = std::string{name_of(stick)},
                            .state = "shaped",
                            .text = fmt::format("{}, {}, device {}", about(reading.now.x), about(reading.now.y),
                                                number(device.id))});
        }
    }
    return rows;
}

std::vector<DetailRow> pointer_rows(const Frame& frame) {
    const PointerReading pointer = frame.pointer();
    const bool inside = pointer.inside(), locked = pointer.locked();
    const bool crossed = inside != pointer.was_inside(), locks = locked != pointer.was_locked();
    const CursorState cursor = pointer.cursor();
    const bool changes = cursor != pointer.previous_cursor() && !locks;
    if (!pointer.moved() && !crossed && !locks && !changes) return {};
    const Distance motion = pointer.motion(), wheel = pointer.wheel(), raw = pointer.raw_motion();
    DetailRow row{.name = "pointer",
                  .state = locks     ? (locked ? "locked" : "freed")
                           : crossed ? (inside ? "entered" : "left")
                           : changes ? "cursor"
                                     : "moved"};
    if (pointer.has_position()) {
        const WindowPoint at = pointer.position();
        row.fields = {{"x", number(at.x)}, {"y", number(at.y)}};
        row.text = fmt::format("{} {}, {}", pointer.moved() ? "to" : "at", about(at.x), about(at.y));
    }
    row.fields.insert(row.fields.end(), {{"dx", number(motion.x)},
                                         {"dy", number(motion.y)},
                                         {"wheel_x", number(wheel.x)},
                                         {"wheel_y", number(wheel.y)}});
    if (pointer.moved())
        row.text += fmt::format("{}by {}, {}", row.text.empty() ? "" : "  ", about(motion.x), about(motion.y));
    if (raw != Distance{}) {
        row.fields.insert(row.fields.end(), {{"raw_dx", number(raw.x)}, {"raw_dy", number(raw.y)}});
        row.text += fmt::format("  (raw {}, {})", about(raw.x), about(raw.y));
    }
    if (wheel != Distance{}) row.text += fmt::format("  wheel {}, {}", about(wheel.x), about(wheel.y));
    if (const WheelSteps steps = pointer.wheel_steps(); steps != WheelSteps{}) {
        row.fields.insert(row.fields.end(),
                          {{"steps_x", number(std::int64_t{steps.x})}, {"steps_y", number(std::int64_t{steps.y})}});
        row.text += fmt::format("  steps {}, {}", steps.x, steps.y);
    }
    if (!inside) row.fields.emplace_back("inside", "false");
    if (locked) row.fields.emplace_back("locked", "true");
    if (cursor.hold == CursorHold::kept) row.fields.emplace_back("kept", "true");
    if (cursor.hidden) row.fields.emplace_back("hidden", "true");
    if (changes)
        row.text += fmt::format("  {}{}", cursor.hold == CursorHold::kept ? "kept in the window" : "free",
                                cursor.hidden ? ", hidden" : "");
    if (locks && crossed) row.text += inside ? "  entered" : "  left";
    std::size_t samples = 0;
    for (const PointerSample& sample : pointer.samples()) samples += sample.time <= frame.end();
    if (samples > 1) row.text += fmt::format("  in {} samples", samples);
    return {row};
}

std::vector<DetailRow> sample_rows(const Frame& frame) {
    std::vector<DetailRow> rows;
    for (const PointerSample& sample : frame.pointer().samples()) {
        DetailRow row{.fields = {{"t", number(sample.time)},
                                 {"device", number(sample.device)},
                                 {"dx", number(sample.motion.x)},
                                 {"dy", number(sample.motion.y)}},
                      .name = "sample",
                      .state = "moved",
                      .text = fmt::format("by {}, {} at {}", about(sample.motion.x), about(sample.motion.y),
                                          time_text(sample.time))};
        if (sample.has_position)
            row.fields.insert(row.fields.end(), {{"x", number(sample.position.x)}, {"y", number(sample.position.y)}});
        rows.push_back(std::move(row));
    }
    return rows;
}

std::vector<DetailRow> click_rows(const Frame& frame, const FrameSelection& selection) {
    std::vector<DetailRow> rows;
    for (const Click& click : frame.pointer().clicks()) {
        if (!wants(selection, click.button)) continue;
        DetailRow row{.fields = {{"t", number(click.released)},
                                 {"device", number(click.device)},
                                 {"control", quoted(name_of(click.button))},
                                 {"pressed", number(click.pressed)},
                                 {"count", number(std::int64_t{click.count})},
                                 {"farthest", number(click.farthest)}},
                      .name = std::string{name_of(click.button)},
                      .state = click.count > 1 ? fmt::format("click {}", click.count) : "click"};
        if (click.has_position) {
            row.fields.insert(row.fields.end(), {{"from_x", number(click.from.x)},
                                                 {"from_y", number(click.from.y)},
                                                 {"to_x", number(click.to.x)},
                                                 {"to_y", number(click.to.y)}});
            row.text = fmt::format("at {}, {}  ", about(click.to.x), about(click.to.y));
            if (click.from != click.to)
                row.text = fmt::format("{}, {} to {}, {}  ", about(click.from.x), about(click.from.y),
                                       about(click.to.x), about(click.to.y));
        }
        row.text +=
            fmt::format("held {}, up to {} px away", span_text(click.released - click.pressed), about(click.farthest));
        rows.push_back(std::move(row));
    }
    return rows;
}

std::vector<DetailRow> drag_rows(const Frame& frame, const FrameSelection& selection) {
    std::vector<DetailRow> rows;
    // A click already shows this.
    const bool is_told = selection.parts.contains(FramePart::clicks);
    for (std::size_t i = 0; i < control_count(); ++i) {
        const ControlInfo& control = cursorum::control(i);
        if (control.family != ControlFamily::mouse_button || !wants(selection, control.button)) continue;
        const DragReading drag = frame.pointer().drag(control.button);
        const char* state = drag.cancelled ? "cancelled"
                            : drag.dropped ? "dropped"
                            : drag.began   ? "began"
                            : drag.active  ? "active"
                                           : nullptr;
        if (!state) continue;
        rows.push_back({.fields = {{"control", quoted(control.name)},
                                   {"state", quoted(state)},
                                   {"pressed", number(drag.pressed)},
                                   {"from_x", number(drag.from.x)},
                                   {"from_y", number(drag.from.y)},
                                   {"to_x", number(drag.to.x)},
                                   {"to_y", number(drag.to.y)}},
                        .is_news = drag.began || drag.cancelled || (drag.dropped && !is_told),
                        .name = std::string{control.name},
                        .state = drag.cancelled ? "cancel" : state,
                        .text = fmt::format("a drag from {}, {} to {}, {}", about(drag.from.x), about(drag.from.y),
                                            about(drag.to.x), about(drag.to.y))});
    }
    return rows;
}

std::vector<DetailRow> lock_rows(const Frame& frame) {
    std::vector<DetailRow> rows;
    const ButtonSet now = frame.locks(), before = frame.previous_locks();
    (now | before).for_each([&](Button lock) {
        const bool on = now.contains(lock);
        rows.push_back({.fields = {{"control", quoted(name_of(lock))}, {"on", on ? "true" : "false"}},
                        .is_news = on != before.contains(lock),
                        .name = std::string{name_of(lock)},
                        .state = on ? "on" : "off",
                        .text = "a lock's state, however it was turned"});
    });
    return rows;
}

std::string_view name_of(SeatChange::Kind kind) {
    switch (kind) {
        case SeatChange::Kind::taken: return "taken";
        case SeatChange::Kind::given: return "given";
        case SeatChange::Kind::freed: return "freed";
        case SeatChange::Kind::away: return "away";
        case SeatChange::Kind::back: return "back";
    }
    return {};
}

std::string device_text(const Timeline& timeline, DeviceId id) {
    const auto device = timeline.find_device(id);
    if (!device) return {};
    const std::string name = device->name().empty() ? std::string{} : " " + escaped(device->name());
    return fmt::format("{}{}", name_of(device->kind), name);
}

std::vector<DetailRow> seat_rows(const Timeline& timeline, const FrameSelection& selection) {
    std::vector<DetailRow> rows;
    for (std::size_t i = 0; selection.seats && i < selection.seats->change_count(); ++i) {
        const SeatChange& change = selection.seats->change(i);
        rows.push_back({.fields = {{"t", number(change.time)},
                                   {"seat", number(std::int64_t{change.seat})},
                                   {"change", quoted(name_of(change.kind))},
                                   {"device", number(change.device)}},
                        .name = fmt::format("seat {}", change.seat),
                        .state = std::string{name_of(change.kind)},
                        .text = fmt::format("at {}, device {}, {}", time_text(change.time), number(change.device),
                                            device_text(timeline, change.device))});
    }
    return rows;
}

std::vector<DetailRow> contact_rows(const Frame& frame) {
    std::vector<DetailRow> rows;
    frame.for_each_contact([&](const ContactReading& c) {
        const char* state = c.cancelled ? "cancelled" : c.ended ? "ended" : c.began ? "began" : "down";
        rows.push_back({.fields = {{"device", number(c.device)},
                                   {"contact", number(std::int64_t{c.contact})},
                                   {"state", quoted(state)},
                                   {"x", number(c.position.x)},
                                   {"y", number(c.position.y)},
                                   {"pressure", number(c.pressure)}},
                        .is_news = !c.down || c.began || !(c.before == c.position),
                        .name = fmt::format("contact {}", c.contact),
                        .state = c.cancelled ? "cancel" : state,
                        .text = fmt::format("{}, {}  pressure {}, device {}", about(c.position.x), about(c.position.y),
                                            about(c.pressure), number(c.device))});
    });
    return rows;
}

std::vector<DetailRow> text_rows(const Frame& frame) {
    std::vector<DetailRow> rows;
    for (const TextPiece& piece : frame.text()) {
        DetailRow row{.fields = {{"t", number(piece.time)}}};
        if (piece.device != DeviceId{}) row.fields.emplace_back("device", number(piece.device));
        if (piece.key) row.fields.emplace_back("control", quoted(name_of(piece.key)));
        if (piece.phase != TextPhase::typed) row.fields.emplace_back("phase", quoted(name_of(piece.phase)));
        row.fields.emplace_back("text", escaped(std::string{piece.text}));
        if (piece.caret != 0) row.fields.emplace_back("caret", number(std::int64_t{piece.caret}));
        row.name = piece.key ? std::string{name_of(piece.key)} : "text";
        row.state = std::string{name_of(piece.phase)};
        row.text = fmt::format("at {}, {}", time_text(piece.time), escaped(std::string{piece.text}));
        rows.push_back(std::move(row));
    }
    return rows;
}

std::vector<DetailRow> device_rows(const Frame& frame, const Timeline& timeline) {
    std::vector<DetailRow> rows;
    frame.for_each_device_change([&](const DeviceChange& change) {
        const auto device = timeline.find_device(change.device);
        const char* state = change.connected ? "connect" : "disconnect";
        const std::string name{device ? device->name() : std::string_view{}};
        const std::string_view kind = device ? name_of(device->kind) : std::string_view{};
        rows.push_back({.fields = {{"t", number(change.time)},
                                   {"device", number(change.device)},
                                   {"change", quoted(state)},
                                   {"kind", quoted(kind)},
                                   {"name", escaped(name)}},
                        .name = fmt::format("device {}", number(change.device)),
                        .state = state,
                        .text = device_text(timeline, change.device)});
    });
    return rows;
}

std::vector<DetailRow> edge_rows(const Frame& frame, const FrameSelection& selection) {
    std::vector<DetailRow> rows;
    for (const Edge& edge : frame.edges()) {
        if (!wants(selection, edge.button)) continue;
        rows.push_back({.fields = {{"t", number(edge.time)},
                                   {"device", number(edge.device)},
                                   {"control", quoted(name_of(edge.button))},
                                   {"edge", quoted(name_of(edge.kind))}},
                        .name = std::string{name_of(edge.button)},
                        .state = std::string{name_of(edge.kind)},
                        .text = fmt::format("at {}, device {}", time_text(edge.time), number(edge.device))});
    }
    return rows;
}

}  // namespace

std::string_view name_of(FramePart part) noexcept {
    switch (part) {
        case FramePart::controls: return "controls";
        case FramePart::axes: return "axes";
        case FramePart::sticks: return "sticks";
        case FramePart::pointer: return "pointer";
        case FramePart::samples: return "samples";
        case FramePart::clicks: return "clicks";
        case FramePart::drags: return "drags";
        case FramePart::contacts: return "contacts";
        case FramePart::text: return "text";
        case FramePart::locks: return "locks";
        case FramePart::devices: return "devices";
        case FramePart::seats: return "seats";
        case FramePart::edges: return "edges";
    }
    return {};
}

std::vector<const char*> detail_columns(FramePart part) {
    switch (part) {
        case FramePart::axes: return {"device", "control", "value"};
        case FramePart::sticks: return {"device", "control", "x", "y"};
        case FramePart::pointer:
            return {"x",      "y",       "dx",      "dy",     "wheel_x", "wheel_y", "raw_dx",
                    "raw_dy", "steps_x", "steps_y", "inside", "locked",  "kept",    "hidden"};
        case FramePart::samples: return {"t", "device", "dx", "dy", "x", "y"};
        case FramePart::clicks:
            return {"t", "device", "control", "pressed", "count", "farthest", "from_x", "from_y", "to_x", "to_y"};
        case FramePart::drags: return {"control", "state", "pressed", "from_x", "from_y", "to_x", "to_y"};
        case FramePart::locks: return {"control", "on"};
        case FramePart::seats: return {"t", "seat", "change", "device"};
        case FramePart::text: return {"t", "device", "control", "phase", "text", "caret"};
        case FramePart::contacts: return {"device", "contact", "state", "x", "y", "pressure"};
        case FramePart::devices: return {"t", "device", "change", "kind", "name"};
        case FramePart::edges: return {"t", "device", "control", "edge"};
        case FramePart::controls: break;
    }
    return {};
}

std::vector<DetailRow> detail_rows(FramePart part, const Frame& frame, const Timeline& timeline,
                                   const FrameSelection& selection) {
    switch (part) {
        case FramePart::axes: return axis_rows(frame);
        case FramePart::sticks: return stick_rows(frame, timeline);
        case FramePart::pointer: return pointer_rows(frame);
        case FramePart::samples: return sample_rows(frame);
        case FramePart::clicks: return click_rows(frame, selection);
        case FramePart::drags: return drag_rows(frame, selection);
        case FramePart::contacts: return contact_rows(frame);
        case FramePart::text: return text_rows(frame);
        case FramePart::locks: return lock_rows(frame);
        case FramePart::devices: return device_rows(frame, timeline);
        case FramePart::seats: return seat_rows(timeline, selection);
        case FramePart::edges: return edge_rows(frame, selection);
        case FramePart::controls: break;
    }
    return {};
}

}  // namespace cursorum
