#include "recording_summary.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <deque>
#include <numeric>
#include <utility>

#include "command_line.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/missed_presses.hpp"
#include "cursorum/why/replayed_beliefs.hpp"
#include "cursorum/why/replayed_calls.hpp"

namespace cursorum::tool {

namespace {

constexpr std::size_t kept_lengths = 65'536;
/// Up to there each nanosecond has a bin of its own; then each power of two is divided into that many.
constexpr unsigned part_bits = 7;
constexpr std::uint64_t parts = std::uint64_t{1} << part_bits;

}  // namespace

std::size_t Lengths::bin_of(std::int64_t length) {
    const auto value = static_cast<std::uint64_t>(std::max<std::int64_t>(length, 0));
    if (value < parts) return static_cast<std::size_t>(value);
    const auto shift = static_cast<unsigned>(std::bit_width(value)) - part_bits - 1;
    return static_cast<std::size_t>(parts * (shift + 1) + ((value >> shift) - parts));
}

void Lengths::add_to_bin(std::int64_t length) {
    Bin& bin = bins_[bin_of(length)];
    ++bin.count;
    bin.sum += static_cast<double>(length);
}

void Lengths::add(Duration length) {
    const std::int64_t value = length.count();
    least_ = count_ == 0 ? value : std::min(least_, value);
    greatest_ = count_ == 0 ? value : std::max(greatest_, value);
    ++count_;
    if (bins_.empty() && count_ <= kept_lengths) return all_.push_back(value);
    if (bins_.empty()) {
        bins_.resize(bin_of(INT64_MAX) + 1);
        for (const std::int64_t kept : all_) add_to_bin(kept);
        all_ = {};
    }
    add_to_bin(value);
}

Duration Lengths::at(double share) const {
    if (count_ == 0 || share <= 0) return Duration{least_};
    if (share >= 1) return Duration{greatest_};
    if (!bins_.empty()) {
        auto before = static_cast<std::uint64_t>(share * static_cast<double>(count_ - 1));
        auto bin = bins_.begin();
        for (; before >= bin->count; ++bin) before -= bin->count;
        return Duration{std::llround(bin->sum / static_cast<double>(bin->count))};
    }
    if (std::exchange(sorted_, all_.size()) != all_.size()) std::sort(all_.begin(), all_.end());
    // Between two of them, in proportion: so the median of an even number is the middle of the middle two.
    const double place = share * static_cast<double>(all_.size() - 1);
    const auto below = static_cast<std::size_t>(place), above = std::min(below + 1, all_.size() - 1);
    const double part = place - static_cast<double>(below);
    return Duration{all_[below] + std::llround(part * static_cast<double>(all_[above] - all_[below]))};
}

std::uint64_t Lengths::count_below(Duration limit) const {
    if (!bins_.empty())
        return std::accumulate(bins_.begin(), bins_.begin() + static_cast<std::ptrdiff_t>(bin_of(limit.count())),
                               std::uint64_t{0}, [](std::uint64_t sum, const Bin& bin) { return sum + bin.count; });
    return static_cast<std::uint64_t>(
        std::count_if(all_.begin(), all_.end(), [&](std::int64_t length) { return length < limit.count(); }));
}

std::vector<std::uint64_t> Lengths::in_common_bins() const {
    constexpr std::size_t edge_count = 34;
    std::vector<std::uint64_t> bins;
    std::uint64_t below = 0;
    for (std::size_t i = 0; i < edge_count && below < count_; ++i) {
        const std::int64_t edge = (std::int64_t{1'000'000} << i / 2) / 2 * (i % 2 == 0 ? 2 : 3);
        const std::uint64_t before = std::exchange(below, count_below(Duration{edge}));
        bins.push_back(below - before);
    }
    if (below < count_) bins.push_back(count_ - below);
    return bins;
}

namespace {

/// Follows a replay and adds up.
class Summing {
public:
    explicit Summing(const SummaryOptions& options) : options_{options} {}

    void look(const RecordingLine& line, Outcome outcome) {
        if (line.kind != RecordingLine::Kind::event) return;
        const Event& event = line.event;
        ++summary_.events;
        waiting_.push_back(line.time);
        if (line.arrived && *line.arrived >= line.time) summary_.to_program.add(*line.arrived - line.time);
        if (outcome == Outcome::connected) summary_.devices[event.device] = event.info.name;
        if (event.type == EventType::button) look_at_button(event, outcome);
        if (event.type != EventType::motion || outcome != Outcome::taken) return;
        RecordingSummary::Mouse& mouse = summary_.mice[event.device];
        ++mouse.events;
        constexpr Duration rest{100'000'000};
        const auto last = last_motion_.find(event.device);
        if (last != last_motion_.end() && line.time > last->second && line.time - last->second < rest)
            mouse.intervals.add(line.time - last->second);
        last_motion_[event.device] = line.time;
    }

    void take(const Frame& frame, std::uint64_t number) {
        ++summary_.frames;
        summary_.end = frame.end();
        for (; !waiting_.empty() && waiting_.front() <= frame.end(); waiting_.pop_front())
            summary_.to_cut.add(frame.end() - waiting_.front());
        ButtonSet seen;
        for (const Edge& edge : frame.edges()) seen.insert(edge.button);
        seen.for_each([&](Button button) { take(frame, number, button); });
        // By the merged button, in the order of the edges.
        frame.for_each_merged_edge([&](const Edge& edge) {
            if (!seen.contains(edge.button)) return;
            RecordingSummary::Control& control = summary_.controls[std::string{name_of(edge.button)}];
            auto& since = pressed_at_[edge.button.number];
            if (edge.kind == EdgeKind::press) {
                ++control.presses;
                since = edge.time;
            } else if (edge.kind != EdgeKind::adopt) {
                if (since) control.holds.add(edge.time - *since);
                if (since && edge.kind == EdgeKind::cancel) ++control.cancelled;
                since.reset();
            }
        });
    }

    RecordingSummary finish() { return std::move(summary_); }

private:
    // What comparing the level at both cuts makes of it.
    void take(const Frame& frame, std::uint64_t number, Button button) {
        const ButtonFigures f = frame[button].figures();
        const bool seems_pressed = f.down() && !f.was_down();
        const std::uint64_t lost = f.press_count() - (seems_pressed && f.press_count() != 0 ? 1 : 0);
        const bool is_made_up = seems_pressed && f.press_count() == 0;
        if (lost == 0 && !is_made_up) return;
        summary_.lost += lost;
        summary_.made_up += is_made_up;
        if (options_.lists_missed)
            summary_.missed.push_back({number, frame.end(), std::string{name_of(button)}, lost, is_made_up});
    }

    void look_at_button(const Event& event, Outcome outcome) {
        auto& last = last_down_[{event.device, event.control.number}];
        if (outcome == Outcome::press || outcome == Outcome::lost_release) {
            last = {event.time, false};
        } else if (outcome == Outcome::system_repeat) {
            RecordingSummary::Repeats& repeats = summary_.repeats[event.device];
            if (last.time != Time{}) (last.repeats ? repeats.intervals : repeats.delays).add(event.time - last.time);
            last = {event.time, last.time != Time{}};
        } else {
            last = {};
        }
    }

    struct LastDown {
        Time time;
        bool repeats = false;
    };
    const SummaryOptions& options_;
    RecordingSummary summary_;
    std::deque<Time> waiting_;  // events that no frame has taken yet
    std::map<DeviceId, Time> last_motion_;
    std::map<std::pair<DeviceId, std::uint16_t>, LastDown> last_down_;
    std::map<std::uint16_t, std::optional<Time>> pressed_at_;
};

}  // namespace

RecordingSummary summarise(std::istream& in, const std::string& name, const SummaryOptions& options) {
    Summing summing{options};
    ReplayedBeliefs beliefs;
    ReplayedCalls calls;
    std::optional<Profile> profile;
    std::optional<ActionReader> reader;
    if (options.profile && !options.profile->profile.empty()) reader.emplace(profile.emplace(options.profile->load()));
    std::optional<PressCounter> presses;
    if (reader) reader->set_verdict_sink(&presses.emplace(*reader));
    ReplayOptions replaying{.rate = options.rate, .skip_idle = options.rate.has_value() && !reader};
    replaying.reader.strict = options.strict;
    MissedPresses missing;
    replaying.on_line = [&](const RecordingLine& line, Outcome outcome) {
        summing.look(line, outcome);
        if (!options.rate || line.kind == RecordingLine::Kind::belief) beliefs.note(line);
        if (reader && options.profile->modes.empty()) calls.note(line);
        if (!presses || (options.rate && line.kind == RecordingLine::Kind::frame)) return;
        if (!missing.why(line, outcome).empty()) presses->note(line.event.control, outcome);
    };
    Replay replay{in, name, std::move(replaying)};
    std::uint64_t shown = 0;
    bool has_opened = false;
    while (const Frame* frame = replay.next()) {
        summing.take(*frame, replay.frame_number());
        if (reader) {
            if (!std::exchange(has_opened, true)) options.profile->open_modes(*reader, *profile, !calls.empty());
            calls.read(*reader, *frame);
            // A gesture takes a while.
            presses->count_until(frame->start() - Duration{10'000'000'000});
        }
        if (!options.rate) beliefs.take(*frame, reader ? &*reader : nullptr);
        if (const std::uint64_t bytes = replay.reader().bytes_read(); options.on_progress && bytes > shown + (8U << 20))
            options.on_progress(shown = bytes);
    }
    if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
    RecordingSummary summary = summing.finish();
    if (summary.frames != 0) summary.frames = replay.frame_number() + 1;  // those that were idle, too
    summary.beliefs = beliefs.count();
    for (const ReplayedBeliefs::Finding& it : beliefs.findings())
        summary.wrong_beliefs.push_back({it.what.frame, it.what.time, it.name, it.what});
    summary.unknown_actions = beliefs.unknown();
    if (presses) presses->count_until(latest_time), summary.presses = presses->counts();
    return summary;
}

}  // namespace cursorum::tool
