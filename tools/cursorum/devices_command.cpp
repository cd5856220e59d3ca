// cursorum devices: what took part in a recording, when, and what each could do.

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "command_line.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "device_rest.hpp"
#include "input_file.hpp"
#include "live_source.hpp"
#include "views/csv_row.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* devices_footer =
    R"(--rest proposes centre, dead zone and range for each stick and trigger: let go of the sticks for a few seconds, then push
each once all the way round. A stick that stays within 0.35 of zero for at least 100 ms is at rest, less 30 ms at both
ends. Values are raw: -1 to 1, a trigger's 0 to 1. With --format jsonl the proposal is a file for `frames --shaping`.
--source also lists the devices that cannot be read or are not, and why.

Examples:
  cursorum devices demo/two-operators.jsonl
  cursorum devices demo/two-operators.jsonl --rest --device 4
  cursorum devices demo/two-operators.jsonl --rest --format jsonl > shaping.jsonl
  cursorum devices demo/two-operators.jsonl --format csv
  cursorum devices --source evdev)";

struct Span {
    Time from;
    std::optional<Time> to;  // none: until the end
};

struct AxisUse {
    std::uint64_t events = 0;
    double least = 0, greatest = 0;
};

struct DeviceUse {
    std::optional<DeviceInfo> info;  // of the last connect; none: it never connected
    std::string name;
    std::vector<Span> spans;
    std::uint64_t events = 0, buttons = 0, states = 0, motions = 0, wheels = 0, contacts = 0, axis_events = 0,
                  connects = 0, disconnects = 0, pointer_states = 0, shapings = 0, system_repeats = 0;
    ButtonSet pressed;
    std::array<AxisUse, axis_kinds> axes;
    std::optional<Time> last_motion;
    std::optional<Duration> shortest_gap;  // between motions

    bool is_connected() const { return !spans.empty() && !spans.back().to; }
};

/// Names one after the other, in lines of up to 100 characters behind the heading.
TerminalText names(const ButtonSet& buttons) {
    std::vector<std::string_view> all;
    buttons.for_each([&](Button button) { all.push_back(name_of(button)); });
    std::sort(all.begin(), all.end());
    TerminalText text;
    std::size_t line = 0;
    for (const std::string_view name : all) {
        const bool wraps = line + name.size() > 87;
        if (!text.empty()) text += wraps ? TerminalText{"\n             "} : TerminalText{" "};
        line = wraps ? name.size() : line + name.size() + 1;
        text += TerminalText::of(name);
    }
    return text;
}

class DevicesCommand final : public Command {
public:
    explicit DevicesCommand(CommandLine parent) {
        app = parent.add_subcommand(
            "devices",
            "Lists the devices of a recording, when they were connected and what they have; or those connected now");
        app->add_option("FILE", file_, "The recording; - for standard input");
        app->add_option("--source", source_,
                        "List the devices connected now, instead of those in FILE: x11, evdev or evdev:NODE…")
            ->type_name("SOURCE");
        app->add_flag("--rest", rest_, "Measure where sticks and triggers rest, and propose their shaping");
        app->add_option("--device", device_, "With --rest: measure only the device of this number")->type_name("N");
        app->add_option("--format", format_, "The output format; jsonl only with --rest (default table)")
            ->type_name("FORMAT")
            ->one_of({"table", "csv", "jsonl"});
        add_dump_option(*app, as_);
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->footer(devices_footer);
    }

    int run() override {
        if (file_.empty() == source_.empty())
            throw UsageError{"devices: of what? Give either FILE (- for standard input) or --source SOURCE"};
        if (rest_) return show_rest();
        if (!device_.empty()) throw UsageError{"--device: goes with --rest"};
        if (format_ == "jsonl") throw UsageError{"--format jsonl: goes with --rest; expected table or csv"};
        source_.empty() ? read() : look();
        if (devices_.empty()) {
            complain(shown("{}: no device {}", source_.empty() ? file_ : source_, source_.empty() ? "in it" : "there"));
            return answer_is_no;
        }
        const Paint paint{format_ == "table" && wants_colour()};
        if (format_ == "csv") print("device,kind,name,vendor,product,connected_ns,disconnected_ns,events\n");
        for (const auto& [id, use] : devices_)
            format_ == "csv" ? print_data(rows(id, use)) : print(paragraph(id, use, paint));
        return done;
    }

private:
    int show_rest() const {
        if (file_.empty()) throw UsageError{"--rest: needs a recording; expected FILE, or - for standard input"};
        RestRequest request{file_, as_, std::nullopt, format_, strict_};
        if (!device_.empty())
            request.device = static_cast<std::uint32_t>(whole_option(device_, "--device", 0xFFFFFFFF));
        const TerminalText report = rest_report(request);
        if (report.empty())
            complain(shown("{}: no stick or trigger of {} moved", file_,
                           device_.empty() ? std::string{"any device"} : "device " + device_));
        print(report);
        return report.empty() ? answer_is_no : done;
    }

    void read() {
        InputFile input{file_, as_};
        RecordingReader reader{input.stream(), input.name(), {.strict = strict_}};
        RecordingLine line;
        while (reader.read(line)) {
            if (line.kind != RecordingLine::Kind::event) continue;
            end_ = std::max(end_, line.time);
            const EventType type = line.event.type;
            if (type == EventType::focus || type == EventType::interrupt || type == EventType::locks ||
                type == EventType::text)
                continue;
            note(devices_[static_cast<std::uint32_t>(line.event.device)], line.event);
        }
        if (reader.error()) throw UsageError{TerminalText::of(reader.error()->message())};
    }

    /// What a live source connects at once.
    void look() {
        const auto source = open_live_source(source_);
        struct Sink final : EventSink {
            explicit Sink(DevicesCommand& command) : command_{command} {}
            void take(const Event& event) override {
                if (event.type == EventType::connect)
                    note(command_.devices_[static_cast<std::uint32_t>(event.device)], event);
            }
            DevicesCommand& command_;
        } sink{*this};
        source->deliver(sink);
        print_error(source->problems());
        print_error(source->not_read(LiveSource::Which::all));
    }

    static void note(DeviceUse& use, const Event& event) {
        ++use.events;
        switch (event.type) {
            case EventType::connect:
                ++use.connects;
                if (use.is_connected()) break;
                use.name = event.info.name;
                use.info = event.info;
                use.spans.push_back({event.time, std::nullopt});
                break;
            case EventType::disconnect:
                ++use.disconnects;
                if (use.is_connected()) use.spans.back().to = event.time;
                break;
            case EventType::button:
                ++use.buttons;
                use.system_repeats += event.system_repeat;
                if (event.down) use.pressed.insert(event.control);
                break;
            case EventType::state:
                ++use.states;
                use.pressed = use.pressed | event.down_set;
                for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
                    if (event.axes.has(axis)) note(use.axes[axis], event.axes.values[axis]);
                break;
            case EventType::axis:
                ++use.axis_events;
                note(use.axes[event.axis.number], event.value);
                break;
            case EventType::motion:
                ++use.motions;
                if (use.last_motion && event.time > *use.last_motion) {
                    const Duration gap = event.time - *use.last_motion;
                    use.shortest_gap = use.shortest_gap ? std::min(*use.shortest_gap, gap) : gap;
                }
                use.last_motion = event.time;
                break;
            case EventType::wheel: ++use.wheels; break;
            case EventType::contact: ++use.contacts; break;
            case EventType::pointer: ++use.pointer_states; break;
            case EventType::shaping: ++use.shapings; break;
            default: break;
        }
    }
    static void note(AxisUse& axis, double value) {
        axis.least = axis.events == 0 ? value : std::min(axis.least, value);
        axis.greatest = axis.events == 0 ? value : std::max(axis.greatest, value);
        ++axis.events;
    }

    TerminalText paragraph(std::uint32_t id, const DeviceUse& use, const Paint& paint) const {
        TerminalText text = paint(Paint::bold, shown("device {}", id));
        if (!use.info) {
            text += shown("  {}\n  events     {}, all stray\n", paint(Paint::yellow, "never connected"), use.events);
            return text;
        }
        const DeviceInfo& info = *use.info;
        text += shown("  {}{}\n", name_of(info.kind), use.name.empty() ? "" : ", " + use.name);
        if (info.vendor != 0 || info.product != 0)
            text += shown("  usb        {:04x}:{:04x}\n", info.vendor, info.product);
        std::string flags;
        if (info.marks_repeats) flags += "  marks system repeats";
        if (info.background) flags += "  heard without focus";
        if (info.is_virtual) flags += "  virtual: no person's hand";
        if (info.first_contact_points) flags += "  first contact acts as pointer";
        if (!flags.empty()) text += shown("  flags    {}\n", flags);
        if (!source_.empty()) return text + abilities(info);
        for (const Span& span : use.spans)
            text += shown("  connected  {} to {}\n", time_text(span.from),
                          span.to ? shown("{}{}", time_text(*span.to), paint(Paint::yellow, ", then it disconnected"))
                                  : shown("the end, {}", time_text(end_)));
        text += shown("  events     {}:", use.events);
        struct Part {
            std::uint64_t count;
            const char* one;
        };
        const char* comma = "";
        for (const Part& part : {Part{use.connects, "connect"},
                                 {use.buttons, "button event"},
                                 {use.states, "polled state"},
                                 {use.axis_events, "axis event"},
                                 {use.motions, "motion"},
                                 {use.wheels, "wheel turn"},
                                 {use.contacts, "contact event"},
                                 {use.pointer_states, "pointer event"},
                                 {use.shapings, "shaping event"},
                                 {use.disconnects, "disconnect"}}) {
            if (part.count == 0) continue;
            text += shown("{} {}", comma, plural_text(part.count, part.one));
            comma = ",";
        }
        text += "\n";
        if (use.system_repeats != 0)
            text +=
                shown("  repeats    {} among the button events\n", plural_text(use.system_repeats, "system repeat"));
        if (use.shortest_gap && use.shortest_gap->count() > 0)
            text +=
                shown("  motion     up to {:.0f} per second\n", 1e9 / static_cast<double>(use.shortest_gap->count()));
        return text + abilities(info) + used(use);
    }

    static TerminalText abilities(const DeviceInfo& info) {
        TerminalText text;
        if (!info.buttons.empty()) text += shown("  has        {}\n", names(info.buttons));
        if (info.axes != 0) {
            text += "  axes      ";
            for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
                if ((info.axes >> axis & 1) != 0) text += shown(" {}", name_of(Axis{axis}));
            text += "\n";
        }
        return text;
    }

    static TerminalText used(const DeviceUse& use) {
        TerminalText text;
        if (!use.pressed.empty()) text += shown("  used       {}\n", names(use.pressed));
        for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
            if (const AxisUse& a = use.axes[axis]; a.events > 1)
                text += shown("  used       {} from {:g} to {:g}, {} values\n", name_of(Axis{axis}), a.least,
                              a.greatest, a.events);
        return text;
    }

    /// One for each time that it was connected.
    static std::string rows(std::uint32_t id, const DeviceUse& use) {
        if (!use.info) return CsvRow{}.add(id).skip(6).add(use.events).end();
        std::string text;
        for (const Span& span : use.spans) {
            CsvRow line;
            line.add(id, name_of(use.info->kind), use.name, use.info->vendor, use.info->product,
                     nanoseconds(span.from));
            span.to ? line.add(nanoseconds(*span.to)) : line.skip(1);
            text += line.add(use.events).end();
        }
        return text;
    }

    bool rest_ = false;
    std::string device_;
    std::string file_, as_, source_, format_ = "table";
    bool strict_ = false;
    std::map<std::uint32_t, DeviceUse> devices_;
    Time end_;
};

}  // namespace

std::unique_ptr<Command> add_devices(CommandLine app) { return std::make_unique<DevicesCommand>(app); }

}  // namespace cursorum::tool
