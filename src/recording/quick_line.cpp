// The lines that long recordings consist of, read in one pass: any member or form that is not usual leaves the line to
// the thorough reader, which knows all of them and words the errors.
#include "recording/quick_line.hpp"

#include <simdjson.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <optional>

#include "cursorum/core/control.hpp"

namespace cursorum {

struct QuickLine::Parser {
    simdjson::ondemand::parser of_lines, of_buffers;
    // The lines of a buffer, and the one that is next in them.
    simdjson::ondemand::document_stream stream;
    simdjson::ondemand::document_stream::iterator next, end;
    const char* base = nullptr;
    std::uint64_t fills = 0;
    bool is_usable = false;
};

/// The maximum length of a control's name. This many bytes may be read after any text.
constexpr std::size_t longest_name = 48;
static_assert(LineReader::padding >= longest_name + 1 && simdjson::SIMDJSON_PADDING <= LineReader::padding);

QuickLine::QuickLine() : parser_{std::make_unique<Parser>()} {}
QuickLine::~QuickLine() = default;

namespace {

/// The members of a line, and which of them are present.
struct Fields {
    enum Bit : unsigned {
        t = 1,
        type = 2,
        device = 4,
        control = 8,
        down = 16,
        repeat = 32,
        value = 64,
        dx = 128,
        dy = 256,
        x = 512,
        y = 1024,
        raw_dx = 2048,
        raw_dy = 4096,
        warp = 8192,
        arrived = 16384
    };
    unsigned present = 0;
    std::uint64_t time = 0, arrived_at = 0, device_number = 0;
    const char* type_name = nullptr;  // as written in the text, including the closing quote
    std::string_view control_name;
    bool is_down = false, is_repeat = false, is_warp = false;
    double numbers[7]{};  // value, dx, dy, x, y, raw_dx, raw_dy

    bool has(unsigned bits) const { return (present & bits) == bits; }
};

using Value = simdjson::ondemand::value;

/// For a name as written in the text, including the closing quote. The text is followed by padding.
template <std::size_t size>
bool is(const char* raw, const char (&name)[size]) {
    return std::memcmp(raw, name, size - 1) == 0;
}

/// Numbers with more digits than 64 bits hold are read wrongly by the version of the library that Debian has.
bool has_few_digits(std::string_view number) {
    constexpr std::ptrdiff_t most = 19;
    return number.size() <= most ||
           std::count_if(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; }) <= most;
}

/// Reads one member. Returns false if it is none of those that ordinary lines have, or not as usual: then the thorough
/// reader looks at the line. (A negative zero is another one as -0 than as -0.0, which it knows.)
bool read_field(const char* name, Value value, Fields& fields) {
    const auto whole = [&](unsigned bit, std::uint64_t& number) {
        fields.present |= bit;
        return value.get_uint64().get(number) == simdjson::SUCCESS;
    };
    const auto text = [&](unsigned bit, const char*& to) {
        fields.present |= bit;
        simdjson::ondemand::raw_json_string raw;
        if (value.get_raw_json_string().get(raw) != simdjson::SUCCESS) return false;
        to = raw.raw();
        return true;
    };
    // Up to its end; names of controls contain nothing that needs escaping.
    const auto control = [&] {
        const char* begin = nullptr;
        if (!text(Fields::control, begin)) return false;
        const char *end = begin, *const limit = begin + longest_name;
        while (end != limit && *end != '"' && *end != '\\') ++end;
        fields.control_name = {begin, static_cast<std::size_t>(end - begin)};
        return *end == '"';
    };
    const auto flag = [&](unsigned bit, bool& to) {
        fields.present |= bit;
        return value.get_bool().get(to) == simdjson::SUCCESS;
    };
    const auto number = [&](unsigned bit, unsigned index) {
        fields.present |= bit;
        double& to = fields.numbers[index];
        return has_few_digits(value.raw_json_token()) && value.get_double().get(to) == simdjson::SUCCESS &&
               std::isfinite(to) && !(to == 0 && std::signbit(to));
    };
    switch (name[0]) {
        case 't':
            if (is(name, "t\"")) return whole(Fields::t, fields.time);
            return is(name, "type\"") && text(Fields::type, fields.type_name);
        case 'd':
            if (is(name, "dx\"")) return number(Fields::dx, 1);
            if (is(name, "dy\"")) return number(Fields::dy, 2);
            if (is(name, "down\"")) return flag(Fields::down, fields.is_down);
            return is(name, "device\"") && whole(Fields::device, fields.device_number);
        case 'c': return is(name, "control\"") && control();
        case 's': return is(name, "system_repeat\"") && flag(Fields::repeat, fields.is_repeat);
        case 'v': return is(name, "value\"") && number(Fields::value, 0);
        case 'x': return is(name, "x\"") && number(Fields::x, 3);
        case 'y': return is(name, "y\"") && number(Fields::y, 4);
        case 'r':
            if (is(name, "raw_dx\"")) return number(Fields::raw_dx, 5);
            return is(name, "raw_dy\"") && number(Fields::raw_dy, 6);
        case 'w': return is(name, "warp\"") && flag(Fields::warp, fields.is_warp);
        case 'a': return is(name, "arrived\"") && whole(Fields::arrived, fields.arrived_at);
        default: return false;
    }
}

bool read_button(const Fields& fields, Event& event) {
    if (!fields.has(Fields::device | Fields::control | Fields::down)) return false;
    const ControlInfo* const info = find_control(fields.control_name);
    if (!info || info->family == ControlFamily::direction || info->family == ControlFamily::either_side ||
        info->family == ControlFamily::axis)
        return false;
    event.type = EventType::button;
    event.control = info->button;
    event.down = fields.is_down;
    event.system_repeat = fields.is_repeat;
    return true;
}

bool read_axis(const Fields& fields, Event& event) {
    if (!fields.has(Fields::device | Fields::control | Fields::value)) return false;
    const std::optional<Axis> axis = find_axis(fields.control_name);
    if (!axis) return false;
    event.type = EventType::axis;
    event.axis = *axis;
    event.value = fields.numbers[0];
    return true;
}

bool read_motion(const Fields& fields, Event& event) {
    const auto pair = [&](unsigned one, unsigned other, bool& has) {
        has = fields.has(one | other);
        return has || (fields.present & (one | other)) == 0;
    };
    if (!fields.has(Fields::device) || !pair(Fields::dx, Fields::dy, event.has_motion) ||
        !pair(Fields::x, Fields::y, event.has_position) || !pair(Fields::raw_dx, Fields::raw_dy, event.has_raw) ||
        !(event.has_motion || event.has_position || event.has_raw))
        return false;
    event.type = EventType::motion;
    event.dx = fields.numbers[1], event.dy = fields.numbers[2];
    event.x = fields.numbers[3], event.y = fields.numbers[4];
    event.raw_dx = fields.numbers[5], event.raw_dy = fields.numbers[6];
    event.warp = fields.is_warp;
    return true;
}

bool read_wheel(const Fields& fields, Event& event) {
    if (!fields.has(Fields::device | Fields::dx | Fields::dy)) return false;
    event.type = EventType::wheel;
    event.dx = fields.numbers[1], event.dy = fields.numbers[2];
    return true;
}

/// Stores an object's fields in a line.
bool make_line(const Fields& fields, RecordingLine& line) {
    if (!fields.has(Fields::t | Fields::type)) return false;
    const auto latest = static_cast<std::uint64_t>(latest_time.time_since_epoch().count());
    if (fields.time > latest || fields.arrived_at > latest || fields.device_number > UINT32_MAX) return false;
    line.time = nanoseconds_since_zero(static_cast<std::int64_t>(fields.time));
    line.arrived.reset();
    if (fields.has(Fields::arrived))
        line.arrived = nanoseconds_since_zero(static_cast<std::int64_t>(fields.arrived_at));
    line.event = {};
    line.inlet = 0;
    line.tick.reset();
    line.checkpoint.reset();
    line.belief.reset();
    const char* const type = fields.type_name;
    line.kind = RecordingLine::Kind::event;
    line.event.time = line.time;
    line.event.device = DeviceId{static_cast<std::uint32_t>(fields.device_number)};
    switch (type[0]) {
        case 'b': return is(type, "button\"") && read_button(fields, line.event);
        case 'a': return is(type, "axis\"") && read_axis(fields, line.event);
        case 'm': return is(type, "motion\"") && read_motion(fields, line.event);
        case 'w': return is(type, "wheel\"") && read_wheel(fields, line.event);
        case 'f': line.kind = RecordingLine::Kind::frame; return is(type, "frame\"");
        default: return false;
    }
}

/// Reads all members. Returns false if one of them is left to the thorough reader.
bool read_fields(simdjson::ondemand::object& object, Fields& fields) {
    for (auto field : object) {
        simdjson::ondemand::raw_json_string name;
        Value value;
        if (field.key().get(name) != simdjson::SUCCESS || field.value().get(value) != simdjson::SUCCESS ||
            !read_field(name.raw(), value, fields))
            return false;
    }
    return true;
}

}  // namespace

bool QuickLine::try_read(std::string_view text, RecordingLine& line, const LineReader::Buffered& buffered) {
    // Nothing stands in front of the object or behind it: no value that is read here is an object itself, and no text
    // has a brace in it, so that the first brace that closes ends the object.
    const std::size_t first = text.find_first_not_of(" \t\r"), end = text.find('}');
    if (first == text.npos || text[first] != '{' || end == text.npos ||
        (end + 1 != text.size() && text.find_first_not_of(" \t\r", end + 1) != text.npos))
        return false;
    return find(text, buffered) ? read_among(line) : read_alone(text, line);
}

/// Returns whether the text is one of the buffer's documents; then it is the next one.
bool QuickLine::find(std::string_view text, const LineReader::Buffered& buffered) {
    Parser& parser = *parser_;
    if (buffered.lines.empty()) return false;
    if (buffered.fills != parser.fills) {
        parser.fills = buffered.fills;
        parser.base = buffered.lines.data();
        // Never in parts, so that nothing waits for a thread of the library.
        const std::size_t batch = std::max<std::size_t>(buffered.lines.size() + 1, 1U << 17);
        parser.is_usable =
            parser.of_buffers.iterate_many(parser.base, buffered.lines.size(), batch).get(parser.stream) ==
            simdjson::SUCCESS;
        if (!parser.is_usable) return false;
        parser.next = parser.stream.begin();
        parser.end = parser.stream.end();
    }
    // Blank lines, and lines that the thorough reader has read.
    while (parser.is_usable) {
        parser.is_usable = parser.next != parser.end && parser.next.error() == simdjson::SUCCESS;
        if (!parser.is_usable) break;
        const char* const begins = parser.base + parser.next.current_index();
        if (begins >= text.data()) return begins == text.data() + text.find('{');
        ++parser.next;
    }
    return false;
}

bool QuickLine::read_among(RecordingLine& line) {
    Parser& parser = *parser_;
    Fields fields;
    simdjson::ondemand::document_reference document;
    simdjson::ondemand::object object;
    return (*parser.next).get(document) == simdjson::SUCCESS &&
           document.get_object().get(object) == simdjson::SUCCESS && read_fields(object, fields) &&
           make_line(fields, line);
}

bool QuickLine::read_alone(std::string_view text, RecordingLine& line) {
    // Any bytes after the text serve as padding.
    if (padded_.size() < text.size() + LineReader::padding) padded_.resize(text.size() + LineReader::padding, ' ');
    std::memcpy(padded_.data(), text.data(), text.size());
    Fields fields;
    simdjson::ondemand::document document;
    simdjson::ondemand::object object;
    return parser_->of_lines.iterate(padded_.data(), text.size(), padded_.size()).get(document) == simdjson::SUCCESS &&
           document.get_object().get(object) == simdjson::SUCCESS && read_fields(object, fields) &&
           make_line(fields, line);
}

}  // namespace cursorum
