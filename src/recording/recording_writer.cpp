// Events and calls as lines of a recording. Times are relative to the first, numbers are the shortest that read back
// the same, and what is as by default is left out.
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/shaping.hpp"

#include <algorithm>
#include <charconv>
#include <nlohmann/json.hpp>
#include <utility>

namespace cursorum {
namespace {

/// A recording may be viewed on a terminal: a text with characters that could control one (including C1 controls and
/// bidirectional marks) is written entirely in ASCII.
std::string quoted(std::string_view text) {
    // Most texts are names, which need nothing.
    const auto is_plain = [](char c) { return c >= ' ' && c < '\x7f' && c != '"' && c != '\\'; };
    if (std::all_of(text.begin(), text.end(), is_plain)) return '"' + std::string{text} + '"';
    const bool in_ascii = text.find_first_of("\x7f\xc2\xd8\xe2\xef\xf3") != std::string_view::npos;
    return nlohmann::json(text).dump(-1, ' ', in_ascii, nlohmann::json::error_handler_t::replace);
}

std::string shortest(double value) {
    std::array<char, 40> text;
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value).ptr;
    return {text.data(), end};
}

}  // namespace

void RecordingWriter::header(std::string_view title, unsigned inlets) {
    line_ = R"({"type":"recording","format":"cursorum","version":1)";
    if (inlets > 1) line_ += ",\"inlets\":" + std::to_string(inlets);
    if (!title.empty()) member("title", title);
    close();
}

void RecordingWriter::open(Time time, std::string_view type) {
    if (!has_begun_) begin_ = time;
    has_begun_ = true;
    const std::int64_t t = std::max<std::int64_t>(0, (time - begin_).count());
    line_.assign("{\"t\":").append(std::to_string(t)).append(",\"type\":\"").append(type).append("\"");
}

void RecordingWriter::close() {
    line_ += "}\n";
    out_.write(line_.data(), static_cast<std::streamsize>(line_.size()));
}

void RecordingWriter::member(std::string_view name, std::string_view text) {
    line_.append(",\"").append(name).append("\":").append(quoted(text));
}
void RecordingWriter::member(std::string_view name, double value) {
    line_.append(",\"").append(name).append("\":").append(shortest(value));
}
void RecordingWriter::member(std::string_view name, bool value) {
    line_.append(",\"").append(name).append(value ? "\":true" : "\":false");
}
void RecordingWriter::flag(std::string_view name, bool value) {
    if (value) member(name, true);
}

void RecordingWriter::names(std::string_view name, const ButtonSet& buttons) {
    line_ += ",\"" + std::string{name} + "\":[";
    const char* comma = "";
    buttons.for_each([&](Button button) {
        line_ += comma + quoted(name_of(button));
        comma = ",";
    });
    line_ += ']';
}

// Defaults are left out.
void RecordingWriter::shaping(const DeviceShaping& shaping) {
    const char* comma = "";
    const auto add = [&](const char* name, double value, double otherwise) {
        if (value == otherwise) return;
        line_ += comma + quoted(name) + ":" + shortest(value);
        comma = ",";
    };
    const auto open_object = [&](std::string_view name) {
        line_ += comma + quoted(name) + ":{";
        comma = "";
    };
    const auto close_object = [&] {
        line_ += '}';
        comma = ",";
    };
    const auto add_range = [&](const char* name, const AxisRange& range, const AxisRange& otherwise) {
        if (range == otherwise) return;
        if (name) open_object(name);
        add("centre", range.centre, otherwise.centre);
        add("least", range.least, otherwise.least);
        add("greatest", range.greatest, otherwise.greatest);
        if (name) close_object();
    };
    const auto add_response = [&](const ResponseCurve& response, const ResponseCurve& otherwise) {
        add("dead_zone", response.dead_zone, otherwise.dead_zone);
        add("outer_zone", response.outer_zone, otherwise.outer_zone);
        add("curve", response.curve, otherwise.curve);
    };
    const DeviceShaping plain;
    comma = ",";
    if (shaping.sticks != plain.sticks) {
        open_object("sticks");
        for (std::uint8_t i = 0; i < stick_kinds; ++i) {
            const StickShaping &stick = shaping.sticks[i], &otherwise = plain.sticks[i];
            if (stick == otherwise) continue;
            open_object(name_of(Stick{i}));
            add_range("x", stick.x, otherwise.x);
            add_range("y", stick.y, otherwise.y);
            add_response(stick.response, otherwise.response);
            if (stick.zone == StickShaping::Zone::axial)
                line_ += std::exchange(comma, ",") + std::string{R"("zone":"axial")"};
            add("directions", stick.directions == StickDirections::eight ? 8 : 4, 4);
            close_object();
        }
        close_object();
    }
    if (shaping.pulls != plain.pulls) {
        open_object("pulls");
        for (std::uint8_t i = 0; i < shaping.pulls.size(); ++i) {
            if (shaping.pulls[i] == plain.pulls[i]) continue;
            open_object(name_of(Axis{static_cast<std::uint8_t>(2 * stick_kinds + i)}));
            add_range(nullptr, shaping.pulls[i].range, plain.pulls[i].range);
            add_response(shaping.pulls[i].response, plain.pulls[i].response);
            close_object();
        }
        close_object();
    }
    add("press", shaping.thresholds.press, plain.thresholds.press);
    add("release", shaping.thresholds.release, plain.thresholds.release);
}

void RecordingWriter::take(const Event& event) {
    ++events_;
    open(event.time, name_of(event.type));
    if (inlet_ != 0) line_ += ",\"inlet\":" + std::to_string(inlet_);
    switch (event.type) {
        case EventType::focus: member("focused", event.focused); return close();
        case EventType::interrupt:
            if (!event.text.empty()) member("reason", event.text);
            return close();
        case EventType::text:
            if (event.device != DeviceId{})
                line_ += ",\"device\":" + std::to_string(static_cast<std::uint32_t>(event.device));
            if (event.control) member("control", name_of(event.control));
            if (event.text_phase != TextPhase::typed) member("phase", name_of(event.text_phase));
            member("text", event.text);
            if (event.caret != 0) line_ += ",\"caret\":" + std::to_string(event.caret);
            return close();
        case EventType::locks: names("on", event.down_set); return close();
        default: break;
    }
    line_ += ",\"device\":" + std::to_string(static_cast<std::uint32_t>(event.device));
    switch (event.type) {
        case EventType::connect:
            member("kind", name_of(event.info.kind));
            member("name", event.info.name);
            flag("marks_repeats", event.info.marks_repeats);
            flag("background", event.info.background);
            flag("virtual", event.info.is_virtual);
            flag("first_contact_points", event.info.first_contact_points);
            if (event.info.vendor != 0) member("vendor", double{} + event.info.vendor);
            if (event.info.product != 0) member("product", double{} + event.info.product);
            if (!event.info.buttons.empty()) names("buttons", event.info.buttons);
            if (event.info.axes != 0) {
                line_ += ",\"axes\":[";
                const char* comma = "";
                for (std::uint8_t i = 0; i < axis_kinds; ++i) {
                    if ((event.info.axes >> i & 1) == 0) continue;
                    line_ += comma + quoted(name_of(Axis{i}));
                    comma = ",";
                }
                line_ += ']';
            }
            break;
        case EventType::button:
            member("control", name_of(event.control));
            member("down", event.down);
            flag("system_repeat", event.system_repeat);
            break;
        case EventType::state: {
            if (event.has_down_set) names("down", event.down_set);
            if (event.axes.present != 0) {
                line_ += ",\"axes\":{";
                const char* comma = "";
                for (std::uint8_t i = 0; i < axis_kinds; ++i) {
                    if (!event.axes.has(i)) continue;
                    line_ += comma + quoted(name_of(Axis{i})) + ":" + shortest(event.axes.values[i]);
                    comma = ",";
                }
                line_ += '}';
            }
            flag("adopt", event.adopt);
            break;
        }
        case EventType::motion:
            if (event.has_motion) member("dx", event.dx), member("dy", event.dy);
            if (event.has_position) member("x", event.x), member("y", event.y);
            if (event.has_raw) member("raw_dx", event.raw_dx), member("raw_dy", event.raw_dy);
            flag("warp", event.warp);
            break;
        case EventType::pointer:
            if (event.has_inside) member("inside", event.inside);
            if (event.has_cursor) {
                member("locked", event.cursor_state.hold == CursorHold::locked);
                flag("kept", event.cursor_state.hold == CursorHold::kept);
                flag("hidden", event.cursor_state.hidden);
            }
            break;
        case EventType::contact:
            line_ += ",\"contact\":" + std::to_string(event.contact);
            member("phase", name_of(event.phase));
            member("x", event.x), member("y", event.y);
            if (event.value != 1) member("pressure", event.value);
            break;
        case EventType::wheel: member("dx", event.dx), member("dy", event.dy); break;
        case EventType::shaping: shaping(event.shaping); break;
        case EventType::axis:
            member("control", name_of(event.axis));
            member("value", event.value);
            break;
        default: break;
    }
    close();
}

bool RecordingWriter::try_rumble(const RumbleRequest& request, Time when) {
    open(when, "rumble");
    line_ += ",\"device\":" + std::to_string(static_cast<std::uint32_t>(request.device));
    member("strong", request.strong);
    member("weak", request.weak);
    line_ += ",\"for\":" + std::to_string(request.length.count());
    close();
    return true;
}

void RecordingWriter::frame(Time time) {
    open(time, "frame");
    close();
}

void RecordingWriter::frame(const Tick& tick) {
    open(tick.end, "frame");
    const auto time = [&](const char* name, Time of) {
        line_ += std::string{",\""} + name + "\":" + std::to_string(std::max<std::int64_t>(0, (of - begin_).count()));
    };
    if (tick.gap != Tick::Gap::none) {
        time("from", tick.gap_from);
        member("gap", std::string_view{tick.gap == Tick::Gap::paused ? "paused" : "stalled"});
    }
    time("begin", tick.begin);
    if (tick.step != 0) member("step", tick.step);
    close();
}

void RecordingWriter::checkpoint(Time time, const RecordedCheckpoint& checkpoint) {
    open(time, "checkpoint");
    line_ += ",\"holds\":[";
    const char* comma = "";
    for (const HoldBeginning& hold : checkpoint.holds) {
        line_ += std::exchange(comma, ",") +
                 ("{\"device\":" + std::to_string(static_cast<std::uint32_t>(hold.device)) + ",\"control\":") +
                 quoted(name_of(hold.button)) + ",\"since\":" + std::to_string((hold.since - begin_).count());
        flag("adopted", hold.adopted);
        line_ += '}';
    }
    line_ += ']';
    if (!checkpoint.reader.empty()) member("reader", checkpoint.reader);
    line_ += ",\"facts\":{";
    comma = "";
    for (const RecordedCheckpoint::Fact& fact : checkpoint.facts)
        line_ += std::exchange(comma, ",") + cursorum::quoted(fact.name) + ":" +
                 (!fact.text.empty()                              ? cursorum::quoted(fact.text)
                  : fact.real != static_cast<double>(fact.number) ? shortest(fact.real)
                                                                  : std::to_string(fact.number));
    line_ += '}';
    close();
}

void RecordingWriter::note(Time time, std::string_view text) {
    open(time, "note");
    member("text", text);
    close();
}

void RecordingWriter::belief(Time time, const RecordedBelief& belief) {
    open(time, "belief");
    if (!belief.handles.empty()) names("handles", belief.handles);
    names("pressed", belief.belief.pressed);
    names("down", belief.belief.down);
    if (belief.belief.released) names("released", *belief.belief.released);
    const auto actions = [&](const char* member, const std::vector<std::string>& all) {
        line_ += line_.back() == '{' ? "\"" : ",\"";
        line_ += std::string{member} + "\":[";
        const char* comma = "";
        for (const std::string& name : all) line_ += std::exchange(comma, ",") + cursorum::quoted(name);
        line_ += ']';
    };
    if (!(belief.actions == RecordedBelief::Names{})) {
        line_ += ",\"actions\":{";
        if (!belief.actions.handles.empty()) actions("handles", belief.actions.handles);
        actions("pressed", belief.actions.pressed);
        actions("down", belief.actions.down);
        if (belief.actions.released) actions("released", *belief.actions.released);
        line_ += '}';
    }
    close();
}

void RecordingWriter::call(Time time, const RecordedCall& call) {
    using Kind = RecordingLine::Kind;
    const Kind kind = RecordingLine::kind_of(call);
    open(time, kind == Kind::mode    ? "mode"
               : kind == Kind::area  ? "area"
               : kind == Kind::taken ? "taken"
               : kind == Kind::seat  ? "seat"
                                     : "claim");
    if (!call.reader.empty()) member("reader", call.reader);
    const auto buttons_and_device = [&] {
        if (!call.buttons.empty()) names("buttons", call.buttons);
        if (call.device != DeviceId{})
            line_ += ",\"device\":" + std::to_string(static_cast<std::uint32_t>(call.device));
    };
    switch (kind) {
        case Kind::mode:
            member("mode", call.mode);
            member("open", call.begins);
            break;
        case Kind::area:
            member("action", call.action);
            flag("end", !call.begins);
            flag("outside", call.outside);
            if (call.begins || call.area != WindowRect{})
                member("x", call.area.x), member("y", call.area.y), member("width", call.area.width),
                    member("height", call.area.height);
            break;
        case Kind::taken: member("action", call.action); break;
        case Kind::seat:
            flag("end", !call.begins);
            buttons_and_device();
            break;
        default:
            line_ += ",\"claim\":" + std::to_string(call.claim);
            flag("end", !call.begins);
            flag("everything", call.everything);
            flag("axes", call.axes);
            flag("motion", call.motion);
            flag("wheel", call.wheel);
            buttons_and_device();
    }
    close();
}

}  // namespace cursorum
