// cursorum devices --rest: where sticks and triggers rest, and the shaping that follows.
#include "device_rest.hpp"

#include <fmt/format.h>

#include <map>
#include <sstream>
#include <utility>

#include "command_line.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/rest_finder.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "input_file.hpp"
#include "views/csv_row.hpp"

namespace cursorum::tool {
namespace {

std::string values(std::size_t count) { return fmt::format("{} {}", count, count == 1 ? "value" : "values"); }

class RestReport {
public:
    explicit RestReport(const RestRequest& request) : request_{request} {}

    /// Empty: no stick or trigger was moved.
    TerminalText make() {
        read();
        const Paint paint{request_.format == "table" && wants_colour()};
        TerminalText text;
        if (request_.format == "csv")
            text +=
                "device,control,samples,rest_samples,rest_ns,centre_x,centre_y,farthest,dead_zone,least_x,greatest_x,"
                "least_y,greatest_y\n";
        std::ostringstream lines;
        RecordingWriter writer{lines, Time{}};
        writer.header("");
        bool any = false;
        for (auto& [id, pad] : pads_) {
            if (request_.device && id != *request_.device) continue;
            TerminalText own;
            shaping_ = {};
            for (const Stick stick : {controls::PadStickLeft, controls::PadStickRight})
                if (pad.finder.has(stick.x()) || pad.finder.has(stick.y()))
                    own += describe(id, stick, pad.finder, paint);
            for (const Axis pull : {controls::PadPullLeft, controls::PadPullRight})
                if (pad.finder.has(pull)) own += describe(id, pull, pad.finder, paint);
            if (own.empty()) continue;
            any = true;
            if (shaping_ != DeviceShaping{}) writer.take(Event::shaped(Time{}, DeviceId{id}, shaping_));
            if (request_.format == "table")
                text += paint(Paint::bold, shown("device {}{}", id, pad.name.empty() ? "" : "  " + pad.name)) + "\n";
            text += own;
            if (request_.format == "table" && !snippet_.empty())
                text += shown(
                    "  to paste, where device {0} connects:\n    DeviceShaping shaping;\n{1}"
                    "    inlet.set_shaping(DeviceId{{{0}}}, shaping);\n",
                    id, std::exchange(snippet_, {}));
        }
        if (!any) return {};
        return request_.format == "jsonl" ? TerminalText::lines_of(lines.str()) : text;
    }

private:
    struct Pad {
        std::string name;
        RestFinder finder;
    };

    // The axes of a device rest while it is disconnected and while the window has no focus: the stick itself may not.
    void read() {
        InputFile input{request_.file, request_.as};
        RecordingReader reader{input.stream(), input.name(), {.strict = request_.strict}};
        RecordingLine line;
        bool focused = true;
        while (reader.read(line)) {
            if (line.kind != RecordingLine::Kind::event) continue;
            const Event& event = line.event;
            if (event.type == EventType::focus) {
                focused = event.focused;
                for (auto& [id, pad] : pads_) pad.finder.lost(line.time);
            }
            const auto id = static_cast<std::uint32_t>(event.device);
            if (event.type == EventType::connect) pads_[id].name = event.info.name;
            if (event.type == EventType::disconnect) pads_[id].finder.lost(line.time);
            if (!focused) continue;
            if (event.type == EventType::axis) pads_[id].finder.add(line.time, event.axis, event.value);
            if (event.type == EventType::state)
                for (std::uint8_t axis = 0; axis < axis_kinds; ++axis)
                    if (event.axes.has(axis)) pads_[id].finder.add(line.time, {axis}, event.axes.values[axis]);
            last_ = line.time;
        }
        if (reader.error()) throw UsageError{TerminalText::of(reader.error()->message())};
        for (auto& [id, pad] : pads_) pad.finder.end(last_);
    }

    TerminalText describe(std::uint32_t id, Stick stick, const RestFinder& finder, const Paint& paint) {
        const StickRest rest = finder.stick(stick);
        const StickShaping& s = rest.shaping;
        if (rest.found) shaping_.sticks[stick.number] = s;
        if (request_.format == "csv")
            return TerminalText::lines_of(CsvRow{}
                                              .add(id, name_of(stick), rest.samples, rest.rest_samples,
                                                   rest.rest_time.count(), rest.centre.x, rest.centre.y, rest.farthest,
                                                   s.response.dead_zone, s.x.least, s.x.greatest, s.y.least,
                                                   s.y.greatest)
                                              .end());
        TerminalText text = shown("  {}\n", name_of(stick));
        text += shown("    seen       {}, x {:.4f} to {:.4f}, y {:.4f} to {:.4f}\n", values(rest.samples), rest.least.x,
                      rest.greatest.x, rest.least.y, rest.greatest.y);
        if (!rest.found) return text + "    at rest    never long enough to tell: let go of it for a second\n";
        text += shown("    at rest    {} in {}, up to {:.4f} from {:.4f}, {:.4f}\n", span_text(rest.rest_time),
                      values(rest.rest_samples), rest.farthest, rest.centre.x, rest.centre.y);
        text += "    proposed   " +
                paint(Paint::green, shown("centre {:.4f}, {:.4f}  dead zone {:.3f}  x {:.4f} to {:.4f}  y {:.4f} "
                                          "to {:.4f}",
                                          s.x.centre, s.y.centre, s.response.dead_zone, s.x.least, s.x.greatest,
                                          s.y.least, s.y.greatest)) +
                "\n";
        snippet_ += shown(
            "    shaping.sticks[{0}.number] = {{.x = {{{1:.4f}, {2:.4f}, {3:.4f}}}, .y = {{{4:.4f}, {5:.4f}, "
            "{6:.4f}}},\n"
            "        .response = {{.dead_zone = {7:.3f}, .outer_zone = {8}}}}};\n",
            name_of(stick), s.x.centre, s.x.least, s.x.greatest, s.y.centre, s.y.least, s.y.greatest,
            s.response.dead_zone, s.response.outer_zone);
        std::string unseen;
        for (const auto& [seen, where] : {std::pair{rest.least.x <= -0.8, "left"},
                                          {rest.greatest.x >= 0.8, "right"},
                                          {rest.least.y <= -0.8, "up"},
                                          {rest.greatest.y >= 0.8, "down"}})
            if (!seen) unseen += (unseen.empty() ? "" : ", ") + std::string{where};
        if (!unseen.empty()) text += shown("    unknown    never pushed to the end {}: taken to be 1\n", unseen);
        return text;
    }

    TerminalText describe(std::uint32_t id, Axis pull, const RestFinder& finder, const Paint& paint) {
        const TriggerRest rest = finder.trigger(pull);
        const PullShaping& s = rest.shaping;
        if (rest.found && rest.greatest != 0) shaping_.pulls[pull.number - controls::PadPullLeft.number] = s;
        if (request_.format == "csv")
            return TerminalText::lines_of(
                CsvRow{}
                    .add(id, name_of(pull), rest.samples, rest.rest_samples, rest.rest_time.count(), rest.rest)
                    .skip(1)
                    .add(rest.farthest, s.response.dead_zone, s.range.centre, s.range.greatest)
                    .skip(2)
                    .end());
        TerminalText text =
            shown("  {}\n    seen       {}, up to {:.4f}\n", name_of(pull), values(rest.samples), rest.greatest);
        if (rest.greatest == 0) return text + "    proposed   nothing: it was never pulled, and rests at zero\n";
        if (!rest.found) return text + "    at rest    never long enough to tell: let go of it for a second\n";
        snippet_ += shown(
            "    shaping.pulls[{}] = {{.range = {{{:.4f}, {:.4f}, {:.4f}}}, .response = {{.dead_zone = {:.3f}}}}};"
            "  // {}\n",
            pull.number - controls::PadPullLeft.number, s.range.centre, s.range.least, s.range.greatest,
            s.response.dead_zone, name_of(pull));
        text += shown("    at rest    {} in {}, up to {:.4f} from {:.4f}\n", span_text(rest.rest_time),
                      values(rest.rest_samples), rest.farthest, rest.rest);
        return text + "    proposed   " +
               paint(Paint::green, shown("rest {:.4f}  dead zone {:.3f}  to {:.4f}", s.range.centre,
                                         s.response.dead_zone, s.range.greatest)) +
               "\n";
    }

    const RestRequest& request_;
    TerminalText snippet_;   // of the device that is shown
    DeviceShaping shaping_;  // likewise
    std::map<std::uint32_t, Pad> pads_;
    Time last_;
};

}  // namespace

TerminalText rest_report(const RestRequest& request) { return RestReport{request}.make(); }

}  // namespace cursorum::tool
