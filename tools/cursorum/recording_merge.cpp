#include "recording_merge.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <deque>
#include <map>
#include <memory>
#include <unordered_map>
#include <utility>
#include <vector>

#include "command_line.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "input_file.hpp"

namespace cursorum::tool {
namespace {

/// One of the files, up to its next line.
struct Part {
    explicit Part(const std::string& path)
        : input{path}, reader{std::make_unique<RecordingReader>(input.stream(), input.name())} {
        read();
    }
    void read() {
        do has_line = reader->read(line);
        while (has_line && line.kind == RecordingLine::Kind::skipped);
        if (reader->error()) throw UsageError{TerminalText::of(reader->error()->message())};
    }

    InputFile input;
    std::unique_ptr<RecordingReader> reader;
    RecordingLine line;
    bool has_line = false;
    std::map<DeviceId, DeviceId> numbers;  // of its devices, in the result
};

/// What lies before the cut, for what has to stand at its beginning.
class Before {
public:
    void take(const RecordingLine& line) {
        if (line.kind == RecordingLine::Kind::event) {
            timeline_.desk().post(line.event);
            if (line.event.type == EventType::connect)
                points_[line.event.device] = line.event.info.first_contact_points;
            // Far more often than the history needs.
            if (++posted_ % 8 == 0 || line.event.type == EventType::state) sampler_.advance(timeline_.desk().latest());
        } else if (line.is_call()) {
            keep(line.call);
        }
    }

    void write(Time cut, ChosenSink& sink) {
        const Frame& frame = sampler_.advance(cut);
        for (std::size_t i = 0; i < timeline_.device_count(); ++i) {
            const DeviceStatus device = timeline_.device(i);
            if (!device.connected) continue;
            Event event = Event::of(cut, EventType::connect, device.id);
            event.info = {.kind = device.kind,
                          .name = device.name(),
                          .marks_repeats = device.marks_repeats,
                          .background = device.background,
                          .is_virtual = device.is_virtual,
                          .first_contact_points = points_[device.id],
                          .vendor = device.vendor,
                          .product = device.product,
                          .buttons = device.buttons,
                          .axes = device.axes};
            sink.take(event);
            if (device.shaping != DeviceShaping{}) sink.take(Event::shaped(cut, device.id, device.shaping));
            Event state = Event::state(cut, device.id, own_buttons(device.down));
            frame.for_each_raw_axis([&](const DeviceAxis& axis) {
                if (axis.device == device.id) state.axes.set(axis.axis, axis.value);
            });
            state.adopt = true;
            if (!state.down_set.empty() || state.axes.present != 0) sink.take(state);
            if (device.kind == DeviceKind::mouse && std::exchange(has_no_pointer_, false) &&
                frame.pointer().has_position())
                sink.take(Event::moved_to(cut, device.id, frame.pointer().position()));
        }
        frame.for_each_contact([&](const ContactReading& contact) {
            if (!contact.down) return;
            Event event = Event::of(cut, EventType::contact, contact.device);
            event.contact = contact.contact;
            event.x = contact.position.x, event.y = contact.position.y;
            event.value = contact.pressure;
            sink.take(event);
        });
        if (!frame.locks().empty()) {
            Event event = Event::of(cut, EventType::locks, {});
            event.down_set = frame.locks();
            sink.take(event);
        }
        if (!timeline_.desk().has_focus()) sink.take(Event::focus(cut, false));
        for (const KeptCall& kept : calls_) {
            RecordingLine line;
            line.time = cut;
            line.call = kept.get();
            line.kind = RecordingLine::kind_of(line.call);
            sink.take(line);
        }
    }

private:
    struct KeptCall {
        RecordedCall call;
        std::string reader, mode, action;
        RecordedCall get() const {
            RecordedCall whole = call;
            whole.reader = reader;
            whole.mode = mode;
            whole.action = action;
            return whole;
        }
    };

    // What was opened is open until it is closed.
    void keep(const RecordedCall& call) {
        std::erase_if(calls_, [&](const KeptCall& other) {
            return other.reader == call.reader && other.mode == call.mode && other.action == call.action &&
                   other.call.claim == call.claim;
        });
        if (call.begins) calls_.push_back({call, std::string{call.reader}, std::string{call.mode}, std::string{call.action}});
    }

    /// Those made of axes come of themselves.
    static ButtonSet own_buttons(const ButtonSet& down) {
        ButtonSet own;
        down.for_each([&](Button button) {
            if (button.number < first_of_axes) own.insert(button);
        });
        return own;
    }

    Timeline timeline_{{.devices = 64, .history = 8192, .desk_devices = false}};
    Sampler sampler_{timeline_, {.start = Time{}, .growing = true, .peeking = false}};
    std::map<DeviceId, bool> points_;
    std::vector<KeptCall> calls_;
    std::uint64_t posted_ = 0;
    bool has_no_pointer_ = true;
};

/// The numbers of devices in the result: a file keeps its own unless another one has it.
class Numbers {
public:
    DeviceId number_of(Part& part, DeviceId device) {
        const auto known = part.numbers.find(device);
        if (known != part.numbers.end()) return known->second;
        const std::uint32_t own = static_cast<std::uint32_t>(device), number = take_from(own);
        part.numbers.emplace(device, DeviceId{number});
        constexpr unsigned most_lines = 20;
        if (number != own && ++changed_ <= most_lines)
            news_ += shown("Device {} of {} is device {} in the result.\n", own, part.input.name(), number);
        if (number != own && changed_ == most_lines + 1) news_ += "More devices have other numbers in the result.\n";
        return DeviceId{number};
    }
    const TerminalText& news() const { return news_; }

private:
    /// The first free number from there on. What is passed over is passed over in one step the next time.
    std::uint32_t take_from(std::uint32_t number) {
        std::vector<std::uint32_t> passed;
        for (auto next = next_.find(number); next != next_.end(); next = next_.find(number)) {
            passed.push_back(number);
            number = next->second;
        }
        passed.push_back(number);
        for (const std::uint32_t one : passed) next_[one] = number + 1 == 0 ? 1 : number + 1;
        return number;
    }

    std::unordered_map<std::uint32_t, std::uint32_t> next_;  // of a number that is taken: where to look on
    unsigned changed_ = 0;
    TerminalText news_;
};

bool has_device(EventType type) {
    return type != EventType::focus && type != EventType::interrupt && type != EventType::locks &&
           type != EventType::text;
}

}  // namespace

TerminalText merge_recordings(const MergeOptions& options, ChosenSink& sink) {
    std::deque<Part> parts;
    for (const std::string& file : options.files) parts.emplace_back(file);
    Numbers numbers;
    std::optional<Before> before;
    if (options.from) before.emplace();
    const auto begin = [&] {
        if (before) before->write(*options.from, sink);
        before.reset();
    };
    std::uint64_t lines = 0, cuts_left_out = 0, checkpoints = 0, notes = 0, beliefs = 0;
    ButtonSet handled;  // by the layer that beliefs are of, as their first line said
    for (;;) {
        Part* next = nullptr;
        for (Part& part : parts)
            if (part.has_line && (!next || part.line.time < next->line.time)) next = &part;
        if (!next) break;
        RecordingLine& line = next->line;
        if (++lines % 4096 == 0 && options.goes_on) {
            std::uint64_t bytes = 0;
            for (const Part& part : parts) bytes += part.reader->bytes_read();
            if (!options.goes_on(bytes)) break;
        }
        if (line.kind == RecordingLine::Kind::event && has_device(line.event.type))
            line.event.device = numbers.number_of(*next, line.event.device);
        if (line.kind == RecordingLine::Kind::rumble) line.rumble.device = numbers.number_of(*next, line.rumble.device);
        if (line.kind == RecordingLine::Kind::claim && line.call.device != DeviceId{})
            line.call.device = numbers.number_of(*next, line.call.device);
        if (line.kind == RecordingLine::Kind::belief && !line.belief->handles.empty()) handled = line.belief->handles;
        const bool is_after = options.to && line.time > *options.to;
        if (before && line.time < *options.from) {
            before->take(line);
            checkpoints += line.kind == RecordingLine::Kind::checkpoint;
        } else if (!is_after) {
            begin();
            const bool is_alone = parts.size() == 1;
            if (line.kind == RecordingLine::Kind::frame && !is_alone) {
                ++cuts_left_out;
            } else if (line.kind == RecordingLine::Kind::checkpoint && (!is_alone || options.from)) {
                ++checkpoints;
            } else if (line.kind == RecordingLine::Kind::belief && !is_alone) {
                ++beliefs;
            } else if (line.kind == RecordingLine::Kind::belief) {
                RecordedBelief belief = *line.belief;
                belief.handles = std::exchange(handled, {});
                line.belief = std::make_shared<RecordedBelief>(std::move(belief));
                sink.take(line);
            } else {
                notes += line.kind == RecordingLine::Kind::note;
                sink.take(line);
            }
        }
        next->read();
    }
    begin();
    TerminalText news = numbers.news();
    if (cuts_left_out != 0)
        news +=
            shown("{} left out: those of several recordings cannot be merged.\n", plural_text(cuts_left_out, "cut"));
    if (beliefs != 0) news += shown("{} left out, as the cuts were.\n", plural_text(beliefs, "belief"));
    if (checkpoints != 0)
        news += shown("{} left out: what was down there is adopted, and modes that were open there are not opened.\n",
                      plural_text(checkpoints, "checkpoint"));
    if (notes != 0) news += shown("{} left out.\n", plural_text(notes, "note"));
    return news;
}

}  // namespace cursorum::tool
