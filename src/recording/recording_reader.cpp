// Recordings, line by line: a header, then events and what stands between them. Each type of line has its members here,
// and each fault names its line, what was found, what was expected, and the near name.
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <string_view>
#include <utility>

#include "cursorum/core/near_name.hpp"
#include "recording/json_depth.hpp"
#include "recording/line_reader.hpp"
#include "recording/quick_line.hpp"

namespace cursorum {
namespace {

using Json = nlohmann::json;

/// Thrown inside this file, caught in read(): what was found, what was expected, a hint.
struct BadLine {
    std::string found, expected, hint;
};

std::string shortened(std::string text) {
    constexpr std::size_t longest = 60;
    if (text.size() <= longest) return text;
    std::size_t size = longest;
    while (size > 0 && (static_cast<unsigned char>(text[size]) & 0xC0U) == 0x80U) --size;
    return text.substr(0, size) + "…";
}

std::string shown(const Json& value) {
    switch (value.type()) {
        case Json::value_t::object: return "an object";
        case Json::value_t::array: return "an array";
        default: return shortened(value.dump(-1, ' ', false, Json::error_handler_t::replace));
    }
}

/// The members of one line, asked for by name and type.
class Members {
public:
    explicit Members(const Json& object) : object_{object} {}

    const Json* find(const char* name) const {
        const auto at = object_.find(name);
        return at == object_.end() ? nullptr : &*at;
    }
    const Json& required(const char* name, const char* what) const {
        if (const Json* value = find(name)) return *value;
        throw BadLine{"no \"" + std::string{name} + "\"", "\"" + std::string{name} + "\": " + what, near_member(name)};
    }
    [[noreturn]] static void wrong(const char* name, const Json& value, const std::string& what) {
        throw BadLine{"\"" + std::string{name} + "\": " + shown(value), what, {}};
    }

    std::string_view text(const char* name, const char* what) const {
        const Json& value = required(name, what);
        if (!value.is_string()) wrong(name, value, what);
        return value.get_ref<const std::string&>();
    }
    std::string_view text_or_nothing(const char* name, const char* what) const {
        return find(name) ? text(name, what) : std::string_view{};
    }
    /// A text that is not empty.
    std::string_view name(const char* member, const char* what) const {
        const std::string_view given = text(member, what);
        if (given.empty()) wrong(member, required(member, what), what);
        return given;
    }
    /// One of several values, by its name.
    template <typename Value, std::size_t count>
    Value one_of(const char* name, const std::array<Value, count>& values, const char* what) const {
        const std::string_view given = text(name, what);
        for (const Value value : values)
            if (name_of(value) == given) return value;
        wrong(name, required(name, what), what);
    }
    bool flag(const char* name) const {
        const Json& value = required(name, "true or false");
        if (!value.is_boolean()) wrong(name, value, "true or false");
        return value.get<bool>();
    }
    bool flag_or_false(const char* name) const { return find(name) != nullptr && flag(name); }
    double number(const char* name) const {
        const Json& value = required(name, "a number");
        if (!value.is_number() || !std::isfinite(value.get<double>())) wrong(name, value, "a number");
        return value.get<double>();
    }
    std::uint64_t whole(const char* name, std::uint64_t most, const char* what) const {
        const Json& value = required(name, what);
        if (value.is_number_unsigned() && value.get<std::uint64_t>() <= most) return value.get<std::uint64_t>();
        // -0, 1.0 and 1e18 are whole too, as JSON Schema sees it.
        if (value.is_number_integer() && value.get<std::int64_t>() == 0) return 0;
        if (value.is_number_float()) {
            const double number = value.get<double>();
            if (number >= 0 && number == std::floor(number) && number <= static_cast<double>(most) &&
                number < 18446744073709551616.0 && static_cast<std::uint64_t>(number) <= most)
                return static_cast<std::uint64_t>(number);
        }
        wrong(name, value, what);
    }
    Time time(const char* name) const {
        constexpr auto most = static_cast<std::uint64_t>(latest_time.time_since_epoch().count());
        return nanoseconds_since_zero(static_cast<std::int64_t>(
            whole(name, most, "whole nanoseconds since the recording began, 0 to 4611686018427387903 (146 years)")));
    }

private:
    // A member that exists and looks like the missing one.
    std::string near_member(std::string_view missing) const {
        std::vector<std::string_view> names;
        for (const auto& [key, value] : object_.items()) names.push_back(key);
        const std::string_view near = near_name(missing, names);
        return near.empty() ? std::string{} : "there is \"" + std::string{near} + "\"";
    }

    const Json& object_;
};

enum class Wanted { button, axis };

[[noreturn]] void unknown_control(std::string_view name, Wanted wanted) {
    const std::string near{near_control_name(name)};
    throw BadLine{"control " + shown(Json(std::string{name})),
                  wanted == Wanted::button ? "the name of a button" : "the name of an axis",
                  near.empty() ? "`cursorum keys` lists all names" : "did you mean " + near + "?"};
}

const ControlInfo& control_named(std::string_view name, Wanted wanted) {
    const ControlInfo* info = find_control(name);
    if (!info) unknown_control(name, wanted);
    if (info->family == ControlFamily::direction && wanted == Wanted::button)
        throw BadLine{"control \"" + std::string{name} + "\"", "the name of a button that a device has",
                      "a stick's directions come of its axes"};
    if (info->family == ControlFamily::either_side)
        throw BadLine{"control \"" + std::string{name} + "\"", "the name of one key",
                      "a device has " + std::string{name} + "Left and " + std::string{name} + "Right"};
    if ((info->family == ControlFamily::axis) != (wanted == Wanted::axis))
        throw BadLine{"control \"" + std::string{name} + "\", " +
                          (wanted == Wanted::button ? "which is an axis" : "which is a button"),
                      wanted == Wanted::button ? "the name of a button" : "the name of an axis",
                      {}};
    return *info;
}

Button button_member(const Json& value) {
    if (!value.is_string()) throw BadLine{"control " + shown(value), "the name of a button", {}};
    return control_named(value.get_ref<const std::string&>(), Wanted::button).button;
}

Axis axis_named(std::string_view name) { return *find_axis(control_named(name, Wanted::axis).name); }

DeviceId device_member(const Members& line) {
    return DeviceId{static_cast<std::uint32_t>(line.whole("device", 0xFFFFFFFF, "a device's number, 0 to 4294967295"))};
}

void read_connect(const Members& line, Event& event) {
    constexpr std::array kinds{DeviceKind::keyboard, DeviceKind::mouse, DeviceKind::gamepad, DeviceKind::touch};
    constexpr const char* what = "\"keyboard\", \"mouse\", \"gamepad\" or \"touch\"";
    event.info.kind = line.one_of("kind", kinds, what);
    event.info.name = line.text_or_nothing("name", "the device's name");
    event.info.marks_repeats = line.flag_or_false("marks_repeats");
    event.info.background = line.flag_or_false("background");
    event.info.is_virtual = line.flag_or_false("virtual");
    event.info.first_contact_points = line.flag_or_false("first_contact_points");
    constexpr const char* usb = "a USB number, 0 to 65535";
    if (line.find("vendor")) event.info.vendor = static_cast<std::uint16_t>(line.whole("vendor", 0xFFFF, usb));
    if (line.find("product")) event.info.product = static_cast<std::uint16_t>(line.whole("product", 0xFFFF, usb));
    if (const Json* buttons = line.find("buttons")) {
        if (!buttons->is_array()) Members::wrong("buttons", *buttons, "an array of the names of buttons");
        for (const Json& button : *buttons) event.info.buttons.insert(button_member(button));
    }
    if (const Json* axes = line.find("axes")) {
        if (!axes->is_array()) Members::wrong("axes", *axes, "an array of the names of axes");
        for (const Json& axis : *axes) {
            if (!axis.is_string()) Members::wrong("axes", axis, "the name of an axis");
            event.info.axes |= 1U << axis_named(axis.get_ref<const std::string&>()).number;
        }
    }
}

void read_contact(const Members& line, Event& event) {
    constexpr std::array phases{ContactPhase::begin, ContactPhase::move, ContactPhase::end, ContactPhase::cancel};
    event.phase = line.one_of("phase", phases, "\"begin\", \"move\", \"end\" or \"cancel\"");
    event.contact =
        static_cast<std::uint32_t>(line.whole("contact", 0xFFFFFFFF, "a contact's number, 0 to 4294967295"));
    event.x = line.number("x");
    event.y = line.number("y");
    event.value = line.find("pressure") ? line.number("pressure") : 1;
}

void read_pointer(const Members& line, Event& event) {
    event.has_inside = line.find("inside") != nullptr;
    event.has_cursor = line.find("locked") || line.find("kept") || line.find("hidden");
    if (!event.has_inside && !event.has_cursor)
        throw BadLine{"a pointer line with neither \"inside\" nor \"locked\"",
                      "one of \"inside\", \"locked\", \"kept\", \"hidden\"",
                      {}};
    if (event.has_inside) event.inside = line.flag("inside");
    const bool locked = line.flag_or_false("locked"), kept = line.flag_or_false("kept");
    event.cursor_state = {locked ? CursorHold::locked
                          : kept ? CursorHold::kept
                                 : CursorHold::free,
                          line.flag_or_false("hidden")};
}

void read_state(const Members& line, Event& event) {
    event.adopt = line.flag_or_false("adopt");
    if (const Json* down = line.find("down")) {
        if (!down->is_array()) Members::wrong("down", *down, "an array of the names of buttons");
        event.has_down_set = true;
        for (const Json& name : *down) event.down_set.insert(button_member(name));
    }
    if (const Json* axes = line.find("axes")) {
        if (!axes->is_object()) Members::wrong("axes", *axes, "an object of axes and their values");
        for (const auto& [name, value] : axes->items())
            event.axes.set(axis_named(name), Members{*axes}.number(name.c_str()));
    }
}

double number_or(const Members& from, const char* name, double otherwise) {
    return from.find(name) ? from.number(name) : otherwise;
}

void read_range(const Members& from, AxisRange& range) {
    range.centre = number_or(from, "centre", range.centre);
    range.least = number_or(from, "least", range.least);
    range.greatest = number_or(from, "greatest", range.greatest);
}

void read_response(const Members& from, ResponseCurve& response) {
    response.dead_zone = number_or(from, "dead_zone", response.dead_zone);
    response.outer_zone = number_or(from, "outer_zone", response.outer_zone);
    response.curve = number_or(from, "curve", response.curve);
}

void read_stick(const Members& from, StickShaping& stick) {
    for (const auto& [name, range] : {std::pair{"x", &stick.x}, std::pair{"y", &stick.y}})
        if (const Json* given = from.find(name)) {
            if (!given->is_object()) Members::wrong(name, *given, "an object with centre, least and greatest");
            read_range(Members{*given}, *range);
        }
    read_response(from, stick.response);
    if (from.find("zone")) {
        constexpr const char* what = "\"radial\" or \"axial\"";
        const std::string_view zone = from.text("zone", what);
        if (zone != "radial" && zone != "axial") Members::wrong("zone", *from.find("zone"), what);
        stick.zone = zone == "axial" ? StickShaping::Zone::axial : StickShaping::Zone::radial;
    }
    if (const Json* directions = from.find("directions")) {
        if (*directions != 4 && *directions != 8) Members::wrong("directions", *directions, "4 or 8");
        stick.directions = *directions == 8 ? StickDirections::eight : StickDirections::four;
    }
}

// `visit` returns false for a name that it does not know.
template <typename Visit>
void for_each_object(const Members& from, const char* name, const char* what, Visit visit) {
    const Json* const given = from.find(name);
    if (!given) return;
    if (!given->is_object()) Members::wrong(name, *given, what);
    for (const auto& [key, value] : given->items()) {
        if (!value.is_object()) Members::wrong(key.c_str(), value, "an object");
        if (!visit(key, Members{value})) throw BadLine{"\"" + key + "\" in \"" + name + "\"", what, {}};
    }
}

void read_shaping(const Members& line, DeviceShaping& shaping) {
    for_each_object(line, "sticks", "an object with PadStickLeft, PadStickRight or both",
                    [&](const std::string& name, const Members& from) {
                        for (std::uint8_t i = 0; i < stick_kinds; ++i)
                            if (name_of(Stick{i}) == name) return read_stick(from, shaping.sticks[i]), true;
                        return false;
                    });
    for_each_object(line, "pulls", "an object with PadPullLeft, PadPullRight or both",
                    [&](const std::string& name, const Members& from) {
                        const auto axis = find_axis(name);
                        if (!axis || !is_pull(*axis)) return false;
                        PullShaping& pull = shaping.pulls[axis->number - 2 * stick_kinds];
                        read_range(from, pull.range);
                        read_response(from, pull.response);
                        return true;
                    });
    shaping.thresholds.press = number_or(line, "press", shaping.thresholds.press);
    shaping.thresholds.release = number_or(line, "release", shaping.thresholds.release);
}

void read_motion(const Members& line, Event& event) {
    event.has_motion = line.find("dx") || line.find("dy");
    event.has_position = line.find("x") || line.find("y");
    event.has_raw = line.find("raw_dx") || line.find("raw_dy");
    event.warp = line.flag_or_false("warp");
    if (!event.has_motion && !event.has_position && !event.has_raw)
        throw BadLine{"a motion with neither \"dx\" and \"dy\" nor \"x\" and \"y\"", "one pair or both", {}};
    if (event.has_raw) event.raw_dx = line.number("raw_dx"), event.raw_dy = line.number("raw_dy");
    if (event.has_motion) event.dx = line.number("dx"), event.dy = line.number("dy");
    if (event.has_position) event.x = line.number("x"), event.y = line.number("y");
}

void read_text(const Members& line, Event& event) {
    event.text = line.text("text", "what was typed");
    if (line.find("device")) event.device = device_member(line);
    if (line.find("control")) event.control = button_member(line.required("control", "the name of a key"));
    if (line.find("caret"))
        event.caret =
            static_cast<unsigned>(line.whole("caret", text_capacity, "a place in the text in bytes, 0 to 256"));
    static_assert(text_capacity == 256);
    if (!line.find("phase")) return;
    constexpr std::array phases{TextPhase::typed, TextPhase::begin, TextPhase::change, TextPhase::commit,
                                TextPhase::cancel};
    constexpr const char* what = "\"typed\", \"begin\", \"change\", \"commit\" or \"cancel\"";
    event.text_phase = line.one_of("phase", phases, what);
}

void read_event(const Members& line, Event& event) {
    switch (event.type) {
        case EventType::focus: event.focused = line.flag("focused"); return;
        case EventType::interrupt: event.text = line.text_or_nothing("reason", "a text"); return;
        case EventType::text: return read_text(line, event);
        case EventType::locks: {
            const Json& on = line.required("on", "an array of the locks that are on");
            if (!on.is_array()) Members::wrong("on", on, "an array of the names of lock keys");
            for (const Json& name : on) event.down_set.insert(button_member(name));
            return;
        }
        default: break;
    }
    event.device = device_member(line);
    switch (event.type) {
        case EventType::connect: return read_connect(line, event);
        case EventType::state: return read_state(line, event);
        case EventType::motion: return read_motion(line, event);
        case EventType::contact: return read_contact(line, event);
        case EventType::pointer: return read_pointer(line, event);
        case EventType::shaping: return read_shaping(line, event.shaping);
        case EventType::button:
            event.control = button_member(line.required("control", "the name of a button"));
            event.down = line.flag("down");
            event.system_repeat = line.flag_or_false("system_repeat");
            return;
        case EventType::wheel:
            event.dx = line.number("dx");
            event.dy = line.number("dy");
            return;
        case EventType::axis:
            event.axis = axis_named(line.text("control", "the name of an axis"));
            event.value = line.number("value");
            return;
        default: return;
    }
}

std::optional<EventType> event_type(std::string_view name) {
    for (int i = 0; i <= static_cast<int>(EventType::shaping); ++i)
        if (name_of(static_cast<EventType>(i)) == name) return static_cast<EventType>(i);
    return std::nullopt;
}

void check_header(const Members& header) {
    constexpr const char* what = R"({"type":"recording","format":"cursorum","version":1} in the first line)";
    for (const auto& [name, wanted] : {std::pair{"type", "recording"}, std::pair{"format", "cursorum"}}) {
        const std::string_view value = header.text(name, what);
        if (value != wanted) Members::wrong(name, header.required(name, what), what);
    }
    const Json& version = header.required("version", what);
    if (version != 1)
        throw BadLine{"\"version\": " + shown(version), "version 1",
                      "the file is from a later version of the format, or damaged"};
}

}  // namespace

std::string RecordingError::message() const {
    std::string text = file;
    if (line != 0) text += ":" + std::to_string(line);
    text += ": found " + found + "; expected " + expected;
    if (!hint.empty()) text += "; " + hint;
    return text;
}

struct RecordingReader::Parts {
    Parts(std::istream& in, std::string file, const RecordingReaderOptions& given)
        : name{std::move(file)}, options{given}, lines{in, given.longest_line} {}

    std::string name;
    RecordingReaderOptions options;
    LineReader lines;
    QuickLine quick;
    Json object;
    std::optional<RecordingError> error;
    std::string title;
    unsigned inlets = 1;
    std::uint64_t skipped = 0, truncated = 0;
    bool ended = false;

    bool fail(BadLine bad, std::uint64_t line) {
        error = RecordingError{name, line, std::move(bad.found), std::move(bad.expected), std::move(bad.hint)};
        ended = true;
        return false;
    }

    enum class Got { object, quick, blank, nothing };

    /// The next line as an object, in `object`; or, if it can be read quickly, in `line`.
    Got next_object(RecordingLine* line = nullptr) {
        std::string_view text;
        switch (lines.next(text)) {
            case LineReader::Result::line: break;
            case LineReader::Result::end: ended = true; return Got::nothing;
            case LineReader::Result::too_long:
                fail({"a line of over " + std::to_string(options.longest_line) + " bytes",
                      "one short JSON object a line", "is this a recording?"},
                     lines.number());
                return Got::nothing;
            case LineReader::Result::failed:
                fail({"a file that cannot be read on", "a readable file", {}}, lines.number() + 1);
                return Got::nothing;
        }
        if (!text.starts_with('{') && text.find_first_not_of(" \t\r") == text.npos) return Got::blank;
        if (line && quick.try_read(text, *line, lines.buffered())) {
            line->number = lines.number();
            return Got::quick;
        }
        if (detail::is_too_deep(text)) {
            fail({"values nested more than " + std::to_string(detail::deepest) + " deep",
                  "one JSON object per line",
                  {}},
                 lines.number());
            return Got::nothing;
        }
        object = Json::parse(text, nullptr, false);
        if (object.is_object()) return Got::object;
        if (object.is_discarded() && lines.is_unfinished() && lines.number() > 1 && !options.strict) {
            truncated = lines.number();
            ended = true;
            return Got::nothing;
        }
        fail({object.is_discarded() ? broken(text) : shown(object), "one JSON object a line",
              object.is_discarded() && lines.is_unfinished() && lines.number() > 1 ? "the last line is cut off"
              : lines.number() == 1                                                ? "is this a recording?"
                                                                                   : ""},
             lines.number());
        return Got::nothing;
    }

    static std::string broken(std::string_view text) {
        std::string where;
        try {
            const Json unused = Json::parse(text);
        } catch (const Json::parse_error& error) {
            where = " (broken at byte " + std::to_string(error.byte) + ")";
        } catch (const Json::out_of_range&) {
            where = " (a number out of range)";
        }
        std::string clean;
        for (const char c : text.substr(0, 40)) clean += c >= ' ' && c < 127 ? c : '?';
        return "no JSON: " + clean + (text.size() > 40 ? "…" : "") + where;
    }

    void read_line(RecordingLine& line) {
        const Members members{object};
        line.number = lines.number();
        line.event = {};
        line.inlet = 0;
        line.arrived.reset();
        line.tick.reset();
        line.checkpoint.reset();
        line.belief.reset();
        const std::string_view type = members.text("type", "the kind of line, such as \"button\"");
        const std::optional<EventType> event = event_type(type);
        const bool is_call = type == "mode" || type == "claim" || type == "area" || type == "taken" || type == "seat";
        if (!event && !is_call && type != "frame" && type != "note" && type != "rumble" && type != "checkpoint" &&
            type != "belief") {
            if (type == "recording") throw BadLine{"a second header", "events, frames and notes", {}};
            skip(line, "a line of type " + shown(Json(std::string{type})));
            return;
        }
        line.time = members.time("t");
        if (members.find("arrived")) line.arrived = members.time("arrived");
        if (event) {
            line.kind = RecordingLine::Kind::event;
            line.event.time = line.time;
            line.event.type = *event;
            if (members.find("inlet"))
                line.inlet = static_cast<unsigned>(
                    members.whole("inlet", inlets - 1, "an inlet's number, below the header's \"inlets\""));
            read_event(members, line.event);
        } else if (type == "rumble") {
            line.kind = RecordingLine::Kind::rumble;
            constexpr std::uint64_t most = 65'000'000'000;
            line.rumble = {
                device_member(members), members.number("strong"), members.number("weak"),
                Duration{static_cast<std::int64_t>(members.whole("for", most, "whole nanoseconds, 0 to 65000000000"))}};
        } else if (is_call) {
            line.call = call_of(members, type);
            line.kind = RecordingLine::kind_of(line.call);
        } else if (type == "frame") {
            line.kind = RecordingLine::Kind::frame;
            line.tick = tick_of(members, line.time);
        } else if (type == "checkpoint") {
            line.kind = RecordingLine::Kind::checkpoint;
            line.checkpoint = checkpoint_of(members);
        } else if (type == "belief") {
            line.kind = RecordingLine::Kind::belief;
            line.belief = belief_of(members);
        } else {
            line.kind = RecordingLine::Kind::note;
            (void)members.text("text", "the note's text");
        }
    }

    static std::optional<Tick> tick_of(const Members& members, Time end) {
        if (!members.find("begin")) return std::nullopt;
        Tick tick;
        tick.begin = tick.gap_from = members.time("begin");
        tick.end = end;
        if (tick.begin > end) Members::wrong("begin", members.required("begin", ""), "a time that is not after t");
        if (members.find("step")) tick.step = members.number("step");
        const std::string_view gap = members.text_or_nothing("gap", "\"paused\" or \"stalled\"");
        if (gap.empty()) return tick;
        if (gap != "paused" && gap != "stalled")
            Members::wrong("gap", members.required("gap", ""), "\"paused\" or \"stalled\"");
        tick.gap = gap == "paused" ? Tick::Gap::paused : Tick::Gap::stalled;
        tick.gap_from = members.time("from");
        if (tick.gap_from > tick.begin)
            Members::wrong("from", members.required("from", ""), "a time that is not after begin");
        return tick;
    }

    static std::shared_ptr<const RecordedCheckpoint> checkpoint_of(const Members& members) {
        auto checkpoint = std::make_shared<RecordedCheckpoint>();
        checkpoint->reader = members.text_or_nothing("reader", "the name of an action reader");
        const Json& holds = members.required("holds", "an array of what is down");
        if (!holds.is_array()) Members::wrong("holds", holds, "an array of what is down");
        for (const Json& it : holds) {
            if (!it.is_object())
                Members::wrong("holds", it, R"({"device":1,"control":"KeyW","since":0}, one for each hold)");
            const Members hold{it};
            const Button button = find_button(hold.text("control", "a button's name"));
            if (!button) Members::wrong("control", hold.required("control", ""), "the name of a button");
            const Json& since = hold.required("since", "whole nanoseconds since the recording began");
            if (!since.is_number_integer())
                Members::wrong("since", since, "whole nanoseconds since the recording began");
            checkpoint->holds.push_back({device_member(hold), button, Time{Duration{since.get<std::int64_t>()}},
                                         hold.flag_or_false("adopted")});
        }
        const Json* const facts = members.find("facts");
        if (facts && !facts->is_object()) Members::wrong("facts", *facts, "an object of numbers and texts");
        if (facts)
            for (const auto& [name, value] : facts->items()) {
                RecordedCheckpoint::Fact fact{.name = name};
                if (value.is_string()) {
                    fact.text = value.get<std::string>();
                } else if (value.is_number()) {
                    fact.real = value.get<double>();
                    constexpr double most = 9e18;
                    fact.number = value.is_number_float()
                                      ? static_cast<std::int64_t>(std::clamp(fact.real, -most, most))
                                      : value.get<std::int64_t>();
                } else {
                    Members::wrong(name.c_str(), value, "a number or a text");
                }
                checkpoint->facts.push_back(std::move(fact));
            }
        return checkpoint;
    }

    static ButtonSet buttons_member(const Members& members, const char* member) {
        ButtonSet buttons;
        const Json* const names = members.find(member);
        if (names && !names->is_array()) Members::wrong(member, *names, "an array of the names of buttons");
        if (names)
            for (const Json& name : *names) buttons.insert(button_member(name));
        return buttons;
    }
    static std::vector<std::string> actions_member(const Json& of, const char* member) {
        std::vector<std::string> actions;
        const auto names = of.find(member);
        if (names == of.end()) return actions;
        if (!names->is_array()) Members::wrong(member, *names, "an array of the names of actions");
        for (const Json& name : *names) {
            if (!name.is_string()) Members::wrong(member, name, "the name of an action");
            actions.push_back(name.get<std::string>());
        }
        return actions;
    }
    static std::shared_ptr<const RecordedBelief> belief_of(const Members& members) {
        auto recorded = std::make_shared<RecordedBelief>();
        recorded->handles = buttons_member(members, "handles");
        recorded->belief.pressed = buttons_member(members, "pressed");
        recorded->belief.down = buttons_member(members, "down");
        if (members.find("released")) recorded->belief.released = buttons_member(members, "released");
        const Json* const actions = members.find("actions");
        if (!actions) return recorded;
        if (!actions->is_object()) Members::wrong("actions", *actions, "an object with arrays of actions");
        recorded->actions = {actions_member(*actions, "handles"),
                             actions_member(*actions, "pressed"),
                             actions_member(*actions, "down"),
                             {}};
        if (actions->contains("released")) recorded->actions.released = actions_member(*actions, "released");
        return recorded;
    }

    static RecordedCall call_of(const Members& members, std::string_view type) {
        RecordedCall call;
        call.reader = members.text_or_nothing("reader", "the name of an action reader");
        if (type == "area") {
            call.action = members.name("action", "\"mode.action\"");
            call.begins = !members.flag_or_false("end");
            call.outside = members.flag_or_false("outside");
            for (const auto& [name, value] :
                 {std::pair{"x", &call.area.x}, std::pair{"y", &call.area.y}, std::pair{"width", &call.area.width},
                  std::pair{"height", &call.area.height}})
                *value = number_or(members, name, 0);
            return call;
        }
        if (type == "taken") {
            call.takes_press = true;
            call.action = members.name("action", "\"mode.action\"");
            return call;
        }
        if (type == "seat") {
            call.is_seat = true;
            call.begins = !members.flag_or_false("end");
            if (members.find("device")) call.device = device_member(members);
            call.buttons = buttons_member(members, "buttons");
            return call;
        }
        if (type == "mode") {
            call.mode = members.name("mode", "the name of a mode");
            call.begins = members.flag("open");
            return call;
        }
        call.claim = static_cast<std::uint32_t>(members.whole("claim", UINT32_MAX, "a whole number, 0 to 4294967295"));
        call.begins = !members.flag_or_false("end");
        call.everything = members.flag_or_false("everything");
        call.axes = members.flag_or_false("axes");
        call.motion = members.flag_or_false("motion");
        call.wheel = members.flag_or_false("wheel");
        call.buttons = buttons_member(members, "buttons");
        if (members.find("device")) call.device = device_member(members);
        return call;
    }

    void skip(RecordingLine& line, std::string found) {
        if (options.strict)
            throw BadLine{std::move(found), "a type this version knows", "without --strict it is skipped"};
        ++skipped;
        line = {.kind = RecordingLine::Kind::skipped,
                .number = lines.number(),
                .time = {},
                .arrived = {},
                .inlet = 0,
                .event = {},
                .rumble = {},
                .call = {},
                .tick = {},
                .checkpoint = {},
                .belief = {}};
    }
};

RecordingReader::RecordingReader(std::istream& in, std::string name, const RecordingReaderOptions& options)
    : parts_{std::make_unique<Parts>(in, std::move(name), options)} {
    const BadLine no_header{"nothing", R"({"type":"recording","format":"cursorum","version":1} in the first line)",
                            "the file is empty"};
    switch (parts_->next_object()) {
        case Parts::Got::blank: parts_->fail({"a blank line", no_header.expected, {}}, parts_->lines.number()); return;
        case Parts::Got::nothing:
            if (!parts_->error) parts_->fail(no_header, 0);
            return;
        case Parts::Got::object:
        case Parts::Got::quick: break;
    }
    try {
        const Members header{parts_->object};
        check_header(header);
        parts_->title = header.text_or_nothing("title", "a text");
        if (header.find("inlets")) {
            constexpr const char* what = "how many inlets there were, 1 to 32";
            static_assert(inlet_capacity == 32);
            parts_->inlets = static_cast<unsigned>(header.whole("inlets", inlet_capacity, what));
            if (parts_->inlets == 0) Members::wrong("inlets", header.required("inlets", what), what);
        }
    } catch (BadLine& bad) {
        parts_->fail(std::move(bad), parts_->lines.number());
    }
}

RecordingReader::~RecordingReader() = default;

bool RecordingReader::read(RecordingLine& line) {
    if (parts_->ended) return false;
    try {
        switch (parts_->next_object(&line)) {
            case Parts::Got::nothing: return false;
            case Parts::Got::quick: return true;
            case Parts::Got::blank: parts_->skip(line, "a blank line"); return true;
            case Parts::Got::object: parts_->read_line(line); return true;
        }
    } catch (BadLine& bad) {
        return parts_->fail(std::move(bad), parts_->lines.number());
    }
    return false;
}

const std::optional<RecordingError>& RecordingReader::error() const noexcept { return parts_->error; }
const std::string& RecordingReader::title() const noexcept { return parts_->title; }
unsigned RecordingReader::inlets() const noexcept { return parts_->inlets; }
std::uint64_t RecordingReader::skipped_lines() const noexcept { return parts_->skipped; }
std::uint64_t RecordingReader::truncated_line() const noexcept { return parts_->truncated; }
std::uint64_t RecordingReader::bytes_read() const noexcept { return parts_->lines.bytes(); }

bool has_own_cuts(std::istream& in) {
    LineReader lines{in, RecordingReaderOptions{}.longest_line};
    std::string_view text;
    while (lines.next(text) == LineReader::Result::line) {
        if (text.find("\"frame\"") == text.npos || detail::is_too_deep(text)) continue;
        const auto object = nlohmann::json::parse(text, nullptr, false);
        const auto type = object.is_object() ? object.find("type") : object.end();
        if (type != object.end() && *type == "frame") return true;
    }
    return false;
}

}  // namespace cursorum
