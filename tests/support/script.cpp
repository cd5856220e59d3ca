#include "support/script.hpp"

#include <gtest/gtest.h>

#include <iomanip>
#include <map>
#include <sstream>
#include <stdexcept>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/shaping.hpp"

namespace test {

Button letter(char c) {
    switch (c) {
        case '<': return controls::ShiftLeft;
        case '>': return controls::ShiftRight;
        case '^': return controls::ControlLeft;
        case 'l': return controls::MouseLeft;
        case 'r': return controls::MouseRight;
        case 's': return controls::PadSouth;
        case 'e': return controls::PadEast;
        case 'm': return controls::PadStart;
        default: break;
    }
    const Button button = find_button(std::string{"Key"} + c);
    if (!button) throw std::invalid_argument{std::string{"a script's letter that stands for no button: "} + c};
    return button;
}

namespace {

/// The device kinds of whole desks, by number.
DeviceInfo info_of(unsigned device) {
    constexpr DeviceKind kinds[] = {DeviceKind::keyboard, DeviceKind::keyboard, DeviceKind::mouse, DeviceKind::gamepad,
                                    DeviceKind::gamepad,  DeviceKind::touch,    DeviceKind::mouse};
    if (device >= std::size(kinds)) throw std::invalid_argument{"a script's device that whole desks do not have"};
    return {.kind = kinds[device]};
}

const std::map<std::string_view, Axis> axis_names{{"LX", controls::PadStickLeftX},  {"LY", controls::PadStickLeftY},
                                                  {"RX", controls::PadStickRightX}, {"RY", controls::PadStickRightY},
                                                  {"PL", controls::PadPullLeft},    {"E1", controls::PadAxisExtra1},
                                                  {"EZ", controls::PadAxisExtra26}, {"PR", controls::PadPullRight}};

/// "3,4" and the like; an axis by its short name.
std::vector<double> numbers(std::string_view text) {
    std::vector<double> all;
    std::istringstream in{std::string{text}};
    for (std::string one; std::getline(in, one, ',');)
        if (std::size_t used = 0; axis_names.contains(one))
            all.push_back(axis_names.at(one).number);
        else if (all.push_back(std::stod(one, &used)); used != one.size())
            throw std::invalid_argument{"a script's number: " + one};
    return all;
}

Outcome post(Inlet& desk, std::string_view kind, DeviceId device, std::vector<double> n, Time time) {
    const std::size_t wanted = kind == "raw"                                                      ? 6
                               : kind == "mvp"                                                    ? 4
                               : kind == "beg" || kind == "mve" || kind == "end" || kind == "shp" ? 3
                               : kind == "ins" || kind == "out" || kind == "lck" || kind == "fre" ? 0
                                                                                                  : 2;
    if (n.size() != wanted)
        throw std::invalid_argument{"a script's word with too few or too many numbers: " + std::string{kind}};
    Event e = Event::of(time, EventType::motion, device);
    if (kind == "mov" || kind == "mvp" || kind == "raw") e.has_motion = true, e.dx = n[0], e.dy = n[1];
    if (kind == "pos" || kind == "wrp") e.has_position = true, e.x = n[0], e.y = n[1];
    if (kind == "mvp" || kind == "raw") e.has_position = true, e.x = n[2], e.y = n[3];
    if (kind == "raw") e.has_raw = true, e.raw_dx = n[4], e.raw_dy = n[5];
    e.warp = kind == "wrp";
    if (e.has_motion || e.has_position) return desk.post(e);
    if (kind == "whl") return desk.wheel(device, n[0], n[1], time);
    if (kind == "ins" || kind == "out") return desk.pointer_inside(device, kind == "ins", time);
    if (kind == "lck" || kind == "fre")
        return desk.cursor(device, {kind == "lck" ? CursorHold::locked : CursorHold::free}, time);
    if (kind == "axs") return desk.axis(device, Axis{static_cast<std::uint8_t>(n[0])}, n[1], time);
    if (kind == "shp") {
        DeviceShaping shaping{.thresholds = {.press = n[2], .release = 0.4}};
        shaping.sticks[0].response.dead_zone = n[0];
        shaping.sticks[0].x.centre = n[1];
        return desk.set_shaping(device, shaping, time);
    }
    if (kind == "stk") return desk.stick(device, controls::PadStickLeft, n[0], n[1], time);
    const ContactPhase phase = kind == "beg"   ? ContactPhase::begin
                               : kind == "mve" ? ContactPhase::move
                               : kind == "end" ? ContactPhase::end
                                               : throw std::invalid_argument{std::string{kind}};
    return desk.contact(device, static_cast<std::uint32_t>(n[0]), phase, n[1], n[2], 1, time);
}

}  // namespace

ScriptRun::ScriptRun(const SamplerOptions& options, const TimelineOptions& of_timeline)
    : timeline{of_timeline}, sampler{timeline, options}, whole_desk{of_timeline.desk_devices} {
    Inlet& desk = timeline.desk();
    if (whole_desk) {
        for (const unsigned id : {3U, 4U, 5U, 6U}) desk.connect(DeviceId{id}, info_of(id), Time{});
        return;
    }
    desk.connect(DeviceId{1}, {.name = "one", .marks_repeats = true}, Time{});
    desk.connect(DeviceId{2}, {.name = "two"}, Time{});
    desk.connect(DeviceId{3}, {.name = "three", .marks_repeats = true, .background = true}, Time{});
    for (const unsigned id : {1U, 2U, 3U}) desk.state(DeviceId{id}, {}, Time{});
}

std::vector<std::string> ScriptRun::run(std::string_view script) {
    std::vector<std::string> frames;
    std::istringstream words{std::string{script}};
    for (std::string word; words >> word;) {
        if (on_word && word[0] >= 'a' && word[0] <= 'z') {
            on_word(word);
            continue;
        }
        const bool cut = word[0] == '|';
        if (cut) word.erase(0, 1);
        std::size_t used = 0;
        const Time time = nanoseconds_since_zero(std::stoll(word, &used) * unit);
        std::string_view rest = std::string_view{word}.substr(used);
        if (cut) {
            Tick tick{.end = time};
            if (!rest.empty() && (rest[0] == '!' || rest[0] == '?')) {
                tick = {time, {}, {}, rest[0] == '!' ? Tick::Gap::paused : Tick::Gap::stalled, 0};
                for (Time* part : {&tick.begin, &tick.end}) {
                    *part = nanoseconds_since_zero(std::stoll(std::string{rest.substr(1)}, &used) * unit);
                    rest.remove_prefix(1 + used);
                }
            }
            const Frame& frame = tick.gap == Tick::Gap::none ? sampler.advance(time) : sampler.advance(tick);
            if (on_cut) on_cut(frame);
            if (!rest.empty())
                frames.push_back(views_text(sampler, rest, on_view));
            else if (!whole_desk)
                frames.push_back(show ? show(frame) : text(frame[controls::KeyW].figures()));
            continue;
        }
        const auto number = [&rest](unsigned otherwise) {
            if (rest.empty() || rest[0] < '0' || rest[0] > '9') return otherwise;
            const auto value = static_cast<unsigned>(rest[0] - '0');
            rest.remove_prefix(1);
            return value;
        };
        Inlet& desk = timeline.desk();
        const std::string_view kind = rest.substr(0, 3);
        if (rest[0] == '+' || rest[0] == '-' || rest[0] == '~') {
            const char action = rest[0];
            rest.remove_prefix(1);
            const DeviceId device{number(rest[0] == 'l' || rest[0] == 'r' ? 2 : 1)};
            last_outcome = action == '~' ? desk.system_repeat(device, letter(rest[0]), time)
                                         : desk.button(device, letter(rest[0]), action == '+', time);
            continue;
        }
        rest.remove_prefix(3);
        const unsigned value = number(1);
        if (kind == "con") {
            last_outcome = desk.connect(
                DeviceId{value}, whole_desk ? info_of(value) : DeviceInfo{.name = "again", .marks_repeats = value != 2},
                time);
        } else if (kind == "dis") {
            last_outcome = desk.disconnect(DeviceId{value}, time);
        } else if (kind == "foc") {
            last_outcome = value != 0 ? desk.gain_focus(unknown_state, time) : desk.lose_focus(time);
        } else if (kind == "cap") {
            last_outcome = desk.locks(value != 0 ? ButtonSet{controls::CapsLock} : ButtonSet{}, time);
        } else if (kind == "int") {
            last_outcome = desk.post(Event::interrupt(time));
        } else if (kind == "sta" || kind == "ado") {
            ButtonSet down;
            for (const char c : rest.substr(1)) down.insert(letter(c));
            last_outcome = desk.state(DeviceId{value}, down, time, kind == "ado");
        } else {
            last_outcome = post(desk, kind, DeviceId{value}, numbers(rest.empty() ? rest : rest.substr(1)), time);
        }
    }
    return frames;
}

// ---- views

namespace {

std::string pair(double x, double y) {
    std::ostringstream out;
    out << std::setprecision(12) << x << ',' << y;
    return out.str();
}
std::string pair(Distance d) { return pair(d.x, d.y); }
std::string pair(WindowPoint p) { return pair(p.x, p.y); }
std::string or_nothing(const std::string& text) { return text.empty() ? "-" : text; }

/// "Left 1,2>3,4 far 5 x2": button, from, to, farthest, count.
std::string clicks_text(const PointerReading& pointer) {
    std::ostringstream out;
    for (const Click& c : pointer.clicks()) {
        if (out.tellp() > 0) out << " & ";
        out << name_of(c.button).substr(5) << ' ';
        if (c.has_position) out << pair(c.from) << '>' << pair(c.to) << ' ';
        out << "far " << c.farthest;
        if (c.count > 1) out << " x" << c.count;
    }
    return or_nothing(out.str());
}

std::string contacts_text(const Frame& frame) {
    std::string all;
    frame.for_each_contact([&](const ContactReading& c) {
        all += (all.empty() ? "" : " & ") + std::to_string(c.contact) + (c.began ? " began " : " ") + pair(c.position) +
               (c.down ? " down" : "") + (c.ended ? " ended" : "") + (c.cancelled ? " cancelled" : "");
    });
    return or_nothing(all);
}

std::string pointer_text(const PointerReading& pointer, std::string_view name) {
    if (name == "motion") return pair(pointer.motion());
    if (name == "raw") return pair(pointer.raw_motion());
    if (name == "wheel") return pair(pointer.wheel());
    if (name == "steps") return pair(pointer.wheel_steps().x, pointer.wheel_steps().y);
    if (name == "at") return pointer.has_position() ? pair(pointer.position()) : "nowhere";
    if (name == "was") return pair(pointer.previous_position());
    if (name == "moved") return pointer.moved() ? "moved" : "still";
    if (name == "inside") return std::string{pointer.was_inside() ? "in" : "out"} + (pointer.inside() ? ">in" : ">out");
    if (name == "locked") return std::string{pointer.was_locked() ? "on" : "off"} + (pointer.locked() ? ">on" : ">off");
    if (name == "clicks") return clicks_text(pointer);
    if (name == "drag") {
        const DragReading d = pointer.drag(controls::MouseLeft);
        return or_nothing(std::string{d.began ? "began " : ""} + (d.active ? pair(d.from) + ">" + pair(d.to) : "") +
                          (d.dropped ? "dropped" : "") + (d.cancelled ? "cancelled" : ""));
    }
    if (name == "target") {
        const TargetReading r = pointer.target({100, 100, 50, 20});
        return std::string{r.hovered ? "h" : "-"} + (r.armed ? 'a' : '-') + (r.pressed ? 'p' : '-') +
               std::string(r.clicks, 'c') + (r.count > 1 ? "x" + std::to_string(r.count) : "");
    }
    return {};
}

std::string view_text(const Sampler& sampler, const std::string& view) {
    const Frame& frame = sampler.frame();
    const std::size_t of = view.find('@');
    const std::string name = view.substr(0, of);
    const DeviceId device{of == view.npos ? 0U : static_cast<unsigned>(view[of + 1] - '0')};
    const std::string of_pointer = pointer_text(of == view.npos ? frame.pointer() : frame.on(device).pointer(), name);
    std::ostringstream out;
    if (!of_pointer.empty()) return of_pointer;
    if (name == "edges") return or_nothing(edges_text(frame));
    if (name == "contacts") return contacts_text(frame);
    if (name == "late") return "late " + std::to_string(sampler.counters().late);
    if (name == "stick") {
        const Vector2 v =
            (of == view.npos ? frame.stick(controls::PadStickLeft) : frame.on(device).stick(controls::PadStickLeft))
                .now;
        return pair(v.x, v.y);
    }
    if (name == "latency") {
        const Latency l = frame.latency();
        out << l.events << ' ' << l.least.count() << ' ' << l.median.count() << ' ' << l.greatest.count();
    } else if (name == "changes") {
        frame.for_each_device_change([&](const DeviceChange& c) {
            out << (out.tellp() > 0 ? " " : "") << static_cast<unsigned>(c.device) << (c.connected ? '+' : '-');
        });
        return or_nothing(out.str());
    } else if (axis_names.contains(name)) {
        const Axis axis = axis_names.at(name);
        const AxisReading r = of == view.npos ? frame.raw_axis(axis) : frame.on(device).raw_axis(axis);
        out << r.before << ' ' << r.now << ' ' << r.least << ' ' << r.greatest;
    } else {
        const Button button = name.size() == 1     ? letter(name[0])
                              : name.back() == '+' ? axis_button(axis_names.at(name.substr(0, 2)))
                                                   : find_button(name);
        if (!button) throw std::invalid_argument{name};
        return text(of == view.npos ? frame[button].figures() : frame.on(device)[button].figures());
    }
    return out.str();
}

}  // namespace

std::string views_text(const Sampler& sampler, std::string_view views, const OwnView& own) {
    std::string all;
    std::istringstream in{std::string{views}};
    for (std::string view; std::getline(in, view, ',');) {
        std::string shown = own ? own(view) : "";
        if (shown.empty()) shown = view_text(sampler, view);
        all += (all.empty() ? "" : " | ") + shown;
    }
    return all;
}

std::string text(const ButtonFigures& f) {
    std::ostringstream out;
    out << name_of(f.state()) << ' ' << f.press_count() << f.release_count() << f.adopt_count() << f.cancel_count()
        << ' ' << f.held_for().count() << ' ' << f.down_span().count();
    if (f.repeat_count() != 0) out << " rep" << f.repeat_count();
    if (f.system_repeat_count() != 0) out << " sys" << f.system_repeat_count();
    return out.str();
}

std::string edges_text(const Frame& frame) {
    std::ostringstream out;
    const char* separator = "";
    for (const Edge edge : frame.edges()) {
        out << separator << nanoseconds(edge.time) << ' ' << static_cast<unsigned>(edge.device) << ' '
            << name_of(edge.button) << ' ' << name_of(edge.kind);
        separator = "; ";
    }
    return out.str();
}

void check_rows(const char* table, const std::function<std::vector<std::string>(const std::string&)>& run) {
    std::istringstream lines{table};
    for (std::string line; std::getline(lines, line);) {
        if (line.empty()) continue;
        const std::size_t script = line.find(" : ") + 3, expected = line.find(" : ", script) + 3;
        std::string all;
        for (const std::string& at_cut : run(line.substr(script, expected - 3 - script)))
            all += (all.empty() ? "" : "; ") + at_cut;
        EXPECT_EQ(all, line.substr(expected)) << line;
    }
}

}  // namespace test
