// A recording played as if it happened now: its times are moved to the present, and a program's inlet gets each event
// when its time has come.
#include "cursorum/recording/replay_source.hpp"
#include "cursorum/core/event.hpp"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fstream>
#include <optional>
#include <utility>
#include <vector>

#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/recording/recording_reader.hpp"

namespace cursorum {

struct ReplaySource::Parts {
    ReplaySourceOptions options;
    std::ifstream file;
    std::optional<RecordingReader> reader;
    RecordingLine next;
    bool has_next = false;
    std::optional<Time> begin;  // the time that corresponds to the recording's time 0
    Time now = earliest_time;
    std::vector<DeviceId> connected;
    std::string error;
    SourceDevices in_inlet;  // see deliver_into()

    std::string try_open() {
        file.clear();
        if (!file.is_open()) file.open(options.file, std::ios::binary);
        if (!file) return options.file + ": cannot be opened: " + std::strerror(errno);
        file.seekg(0);
        reader.emplace(file, options.file);
        if (reader->error()) return reader->error()->message();
        read();
        return error;
    }

    /// To the next event.
    void read() {
        while ((has_next = reader->read(next)) && next.kind != RecordingLine::Kind::event) {
        }
        if (reader->error()) error = reader->error()->message();
    }

    Time due() const {
        const double span = static_cast<double>(next.time.time_since_epoch().count()) / options.speed;
        return *begin + Duration{options.speed == 1 ? next.time.time_since_epoch().count() : std::llround(span)};
    }

    void deliver(EventSink& sink, Time present) {
        now = std::max(now, present);
        if (!begin) begin = now;
        while (has_next && due() <= now) {
            Event event = next.event;
            event.time = due();
            if (event.type == EventType::connect) connected.push_back(event.device);
            if (event.type == EventType::disconnect) std::erase(connected, event.device);
            sink.take(event);
            read();
            if (!has_next && error.empty() && options.repeats) begin_anew(event.time, sink);
        }
    }

    void begin_anew(Time end, EventSink& sink) {
        for (const DeviceId device : std::exchange(connected, {})) sink.take(Event::disconnect(end, device));
        sink.take(Event::focus(end, true));
        // A recording whose events all have one time would never end.
        begin = end == *begin ? end + std::chrono::milliseconds{1} : end;
        error = try_open();
    }
};

ReplaySource::ReplaySource(std::unique_ptr<Parts> parts) : parts_{std::move(parts)} {}
ReplaySource::~ReplaySource() = default;

std::unique_ptr<ReplaySource> ReplaySource::open(const ReplaySourceOptions& options, std::string& error) {
    auto parts = std::make_unique<Parts>();
    parts->options = options;
    error = options.speed >= 0.01 && options.speed <= 1000 ? parts->try_open() : "the speed must be from 0.01 to 1000";
    if (!error.empty()) return nullptr;
    return std::unique_ptr<ReplaySource>{new ReplaySource{std::move(parts)}};
}

Time ReplaySource::deliver(Timeline& timeline) { return deliver(timeline.desk()); }

Time ReplaySource::deliver(Inlet& inlet) {
    const Time complete = deliver_into(inlet, *this, parts_->in_inlet);
    if (!is_open()) inlet.set_complete_until(latest_time);
    return complete;
}

Time ReplaySource::deliver(EventSink& sink) { return deliver(sink, Clock::now()); }

Time ReplaySource::deliver(EventSink& sink, Time now) {
    parts_->deliver(sink, now);
    return parts_->now;
}

DeviceId ReplaySource::device(DeviceId recorded) const noexcept { return parts_->in_inlet.in_inlet(recorded); }

Duration ReplaySource::until_next() const noexcept {
    if (!parts_->has_next || !parts_->begin) return {};
    return std::max(Duration{}, parts_->due() - Clock::now());
}

bool ReplaySource::is_open() const noexcept { return parts_->has_next && parts_->error.empty(); }
const std::string& ReplaySource::error() const noexcept { return parts_->error; }

}  // namespace cursorum
