#include "cursorum/recording/recording_writer.hpp"

#include <algorithm>
#include <charconv>
#include <nlohmann/json.hpp>

namespace cursorum {
namespace {

std::string quoted(std::string_view text) {
    return nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

std::string shortest(double value) {
    std::array<char, 40> text;
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value).ptr;
    return {text.data(), end};
}

}  // namespace

void RecordingWriter::header(std::string_view title) {
    line_ = R"({"type":"recording","format":"cursorum","version":1)";
    if (!title.empty()) member("title", title);
    close();
}

void RecordingWriter::open(Time time, std::string_view type) {
    if (!has_begun_) begin_ = time;
    has_begun_ = true;
    const std::int64_t t = std::max<std::int64_t>(0, (time - begin_).count());
    line_ = "{\"t\":" + std::to_string(t) + ",\"type\":\"" + std::string{type} + "\"";
}

void RecordingWriter::close() {
    line_ += "}\n";
    out_.write(line_.data(), static_cast<std::streamsize>(line_.size()));
}

void RecordingWriter::member(std::string_view name, std::string_view text) {
    line_ += ",\"" + std::string{name} + "\":" + quoted(text);
}
void RecordingWriter::member(std::string_view name, double value) {
    line_ += ",\"" + std::string{name} + "\":" + shortest(value);
}
void RecordingWriter::member(std::string_view name, bool value) {
    line_ += ",\"" + std::string{name} + (value ? "\":true" : "\":false");
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

void RecordingWriter::take(const Event& event) {
    ++events_;
    open(event.time, name_of(event.type));
    switch (event.type) {
        case EventType::focus: member("focused", event.focused); return close();
        case EventType::interrupt:
            if (!event.text.empty()) member("reason", event.text);
            return close();
        case EventType::text: member("text", event.text); return close();
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
            if (event.has_locked) member("locked", event.locked);
            break;
        case EventType::contact:
            line_ += ",\"contact\":" + std::to_string(event.contact);
            member("phase", name_of(event.phase));
            member("x", event.x), member("y", event.y);
            if (event.value != 1) member("pressure", event.value);
            break;
        case EventType::wheel: member("dx", event.dx), member("dy", event.dy); break;
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

void RecordingWriter::note(Time time, std::string_view text) {
    open(time, "note");
    member("text", text);
    close();
}

}  // namespace cursorum
