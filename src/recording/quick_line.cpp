#include "recording/quick_line.hpp"

#include <simdjson.h>

#include <cmath>
#include <cstring>
#include <optional>

#include "cursorum/core/control.hpp"

namespace cursorum {

struct QuickLine::Parser {
    simdjson::dom::parser of_lines;
};

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
    std::string_view type_name, control_name;
    bool is_down = false, is_repeat = false, is_warp = false;
    double numbers[7]{};  // value, dx, dy, x, y, raw_dx, raw_dy

    bool has(unsigned bits) const { return (present & bits) == bits; }
};

using Value = simdjson::dom::element;

bool read_number(Value value, double& number) {
    // A negative zero is another one as -0 than as -0.0: the thorough reader knows.
    return value.get_double().get(number) == simdjson::SUCCESS && std::isfinite(number) &&
           !(number == 0 && std::signbit(number));
}

bool read_field(std::string_view name, Value value, Fields& fields) {
    const auto whole = [&](unsigned bit, std::uint64_t& number) {
        fields.present |= bit;
        return value.get_uint64().get(number) == simdjson::SUCCESS;
    };
    const auto text = [&](unsigned bit, std::string_view& to) {
        fields.present |= bit;
        return value.get_string().get(to) == simdjson::SUCCESS;
    };
    const auto flag = [&](unsigned bit, bool& to) {
        fields.present |= bit;
        return value.get_bool().get(to) == simdjson::SUCCESS;
    };
    const auto number = [&](unsigned bit, unsigned index) {
        fields.present |= bit;
        return read_number(value, fields.numbers[index]);
    };
    if (name == "t") return whole(Fields::t, fields.time);
    if (name == "type") return text(Fields::type, fields.type_name);
    if (name == "device") return whole(Fields::device, fields.device_number);
    if (name == "control") return text(Fields::control, fields.control_name);
    if (name == "down") return flag(Fields::down, fields.is_down);
    if (name == "system_repeat") return flag(Fields::repeat, fields.is_repeat);
    if (name == "value") return number(Fields::value, 0);
    if (name == "dx") return number(Fields::dx, 1);
    if (name == "dy") return number(Fields::dy, 2);
    if (name == "x") return number(Fields::x, 3);
    if (name == "y") return number(Fields::y, 4);
    if (name == "raw_dx") return number(Fields::raw_dx, 5);
    if (name == "raw_dy") return number(Fields::raw_dy, 6);
    if (name == "warp") return flag(Fields::warp, fields.is_warp);
    if (name == "arrived") return whole(Fields::arrived, fields.arrived_at);
    if (name == "begin") return false;  // a cut that has more to tell
    return true;                        // none of these lines', so it is ignored
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

}  // namespace

bool QuickLine::try_read(std::string_view text, RecordingLine& line) {
    padded_.resize(text.size() + simdjson::SIMDJSON_PADDING);
    std::memcpy(padded_.data(), text.data(), text.size());
    std::memset(padded_.data() + text.size(), ' ', simdjson::SIMDJSON_PADDING);
    simdjson::dom::object object;
    if (parser_->of_lines.parse(padded_.data(), text.size(), false).get(object) != simdjson::SUCCESS) return false;
    Fields fields;
    for (const auto& [name, value] : object)
        if (!read_field(name, value, fields)) return false;
    if (!fields.has(Fields::t | Fields::type)) return false;
    const auto latest = static_cast<std::uint64_t>(latest_time.time_since_epoch().count());
    if (fields.time > latest || fields.arrived_at > latest || fields.device_number > UINT32_MAX) return false;
    line.time = nanoseconds_since_zero(static_cast<std::int64_t>(fields.time));
    line.arrived.reset();
    if (fields.has(Fields::arrived))
        line.arrived = nanoseconds_since_zero(static_cast<std::int64_t>(fields.arrived_at));
    line.event = {};
    line.tick.reset();
    line.checkpoint.reset();
    if (fields.type_name == "frame") {
        line.kind = RecordingLine::Kind::frame;
        return true;
    }
    line.kind = RecordingLine::Kind::event;
    line.event.time = line.time;
    line.event.device = DeviceId{static_cast<std::uint32_t>(fields.device_number)};
    return fields.type_name == "button"   ? read_button(fields, line.event)
           : fields.type_name == "axis"   ? read_axis(fields, line.event)
           : fields.type_name == "motion" ? read_motion(fields, line.event)
           : fields.type_name == "wheel"  ? read_wheel(fields, line.event)
                                          : false;
}

}  // namespace cursorum
