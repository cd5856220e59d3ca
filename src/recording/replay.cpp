// A recording as frames: its events are posted to a timeline of their own, and cut at a rate or at the recording's own
// cuts. What it says of modes, claims and beliefs goes to whoever asks.
#include "cursorum/recording/replay.hpp"
#include "cursorum/core/event.hpp"

#include <deque>
#include <set>
#include <utility>

namespace cursorum {
namespace {

TimelineOptions options_for(unsigned inlets, std::uint32_t ledger) {
    return {.inlets = inlets, .devices = 64, .history = 4096, .ledger = ledger, .desk_devices = false};
}

}  // namespace

struct Replay::Parts {
    /// A line that keeps the texts of its event.
    struct KeptLine {
        RecordingLine line;
        std::string name, text;

        explicit KeptLine(const RecordingLine& from) : line{from}, name{from.event.info.name}, text{from.event.text} {}
        const RecordingLine& get() {
            line.event.info.name = name;
            line.event.text = text;
            return line;
        }
    };

    Parts(std::istream& in, std::string file, ReplayOptions given)
        : options{std::move(given)},
          name{std::move(file)},
          reader{in, name, options.reader},
          timeline{options_for(reader.inlets(), options.ledger)},
          sampler{timeline, {.start = Time{}, .repeat = options.repeat, .growing = true}} {}

    ReplayOptions options;
    std::string name;
    RecordingReader reader;
    std::optional<RecordingError> endless;
    Timeline timeline;
    Sampler sampler;

    RecordingLine line;
    bool has_line = false;  // `line` was read and not dealt with
    bool any_event = false, ended = false, warned = false;
    unsigned in_a_row = 0;  // frames that lie before the next event and were given one by one
    std::uint64_t next_number = 0, number = 0;
    std::uint64_t posted_before = 0;  // the last cut
    std::set<DeviceId> shaped;        // devices of options.shaping that connected
    unsigned slots = 0;               // the most that can have been written since the sampler looked

    // With own cuts: events above a cut but stamped later (no frame takes them yet), and cuts above the first event (a
    // recording without events has no frames).
    std::deque<KeptLine> waiting;
    struct Cut {
        Time end;
        std::optional<Tick> tick;
    };
    std::deque<Cut> early_cuts;
    RecordingLine checkpoint;  // of what ends at its time, while there is one that has not taken effect

    bool read() {
        if (!has_line) has_line = reader.read(line);
        return has_line;
    }
    void pass() {
        if (options.on_line && line.kind != RecordingLine::Kind::event) options.on_line(line, Outcome::taken);
        has_line = false;
    }

    // Into the frame that ends at `cut`. The history holds more than what is posted before the sampler looks again.
    // (Not so in front of a gap, of which only the cut itself knows; there it has to be enough.)
    void post(const RecordingLine& posted, Time cut, bool has_gap = false) {
        if (posted.event.type == EventType::shaping && options.shaping.contains(posted.event.device)) return;
        Inlet& inlet = timeline.inlet(posted.inlet);
        const Outcome outcome = inlet.post(posted.event);
        if (options.on_line) options.on_line(posted, outcome);
        if (outcome == Outcome::connected)
            if (const auto own = options.shaping.find(posted.event.device);
                own != options.shaping.end() && shaped.insert(own->first).second)
                inlet.set_shaping(own->first, own->second, posted.event.time);
        slots += posted.event.type == EventType::button ? 3 : 2 * hold_capacity + 2;
        if (slots < 2 * hold_capacity || has_gap) return;
        sampler.gather(cut);
        slots = 0;
    }

    void note_cut() {
        number = next_number++;
        slots = 0;
        posted_before = posted();
    }
    const Frame* close(Time cut) {
        note_cut();
        return &sampler.advance(cut);
    }

    const Frame* next_own_cut() {
        for (;;) {
            if (any_event && !early_cuts.empty()) {
                const Cut cut = early_cuts.front();
                early_cuts.pop_front();
                if (const Frame* frame = cut_here(cut, false)) return frame;
                continue;
            }
            if (!read()) return nullptr;
            const RecordingLine::Kind kind = line.kind;
            if (kind == RecordingLine::Kind::event) {
                waiting.emplace_back(line);
                any_event = true;
            }
            if (kind == RecordingLine::Kind::checkpoint) checkpoint = line;
            pass();
            if (kind != RecordingLine::Kind::frame) continue;
            if (!any_event)
                early_cuts.push_back({line.time, line.tick});
            else if (const Frame* frame = cut_here({line.time, line.tick}, true))
                return frame;
        }
    }

    // `takes`: what waits stands above the cut.
    const Frame* cut_here(const Cut& at, bool takes) {
        const Time cut = at.end;
        if (checkpoint.checkpoint && sampler.frame().end() == checkpoint.time) {
            sampler.set_hold_beginnings(checkpoint.checkpoint->holds);
            checkpoint.checkpoint = nullptr;
        }
        if (cut < sampler.frame().end()) {
            sampler.advance(cut);  // counted as going back; no frame
            return nullptr;
        }
        if (takes) post_waiting(cut, at.tick && at.tick->gap != Tick::Gap::none);
        note_cut();
        return at.tick ? &sampler.advance(*at.tick) : &sampler.advance(cut);
    }

    /// In the order of the file. An event after the cut holds back those behind it on its inlet.
    void post_waiting(Time cut, bool has_gap) {
        const std::uint32_t all = UINT32_MAX >> (32 - timeline.inlet_count());
        std::uint32_t holding = 0;  // bit n: the inlet n
        std::size_t looked = 0, kept = 0;
        for (; looked < waiting.size() && holding != all; ++looked) {
            const RecordingLine& its = waiting[looked].get();
            const std::uint32_t bit = 1U << its.inlet;
            if (its.time > cut) holding |= bit;
            if ((holding & bit) == 0)
                post(its, cut, has_gap);
            else if (kept++ != looked)
                waiting[kept - 1] = std::move(waiting[looked]);
        }
        waiting.erase(waiting.begin() + static_cast<std::ptrdiff_t>(kept),
                      waiting.begin() + static_cast<std::ptrdiff_t>(looked));
    }

    const Frame* next_by_rate(const ExactRate& rate) {
        for (; !ended; pass()) {
            Time cut = rate.cut(next_number);
            if (!read()) {
                ended = true;
                // The last event is in this frame: frames were closed only to reach it.
                return reader.error() || !any_event ? nullptr : close(cut);
            }
            if (line.kind != RecordingLine::Kind::event) continue;
            if (line.time > cut) {
                std::uint64_t target = rate.frame_of(line.time);
                if (!options.skip_idle || !is_idle() || (options.may_skip && !options.may_skip())) {
                    return may_go_on_to(target) ? close(cut) : nullptr;
                }
                in_a_row = 0;
                const bool keeps =
                    options.keep_frame && *options.keep_frame >= next_number && *options.keep_frame < target;
                if (keeps) target = *options.keep_frame;
                if (target > next_number) sampler.advance(rate.cut(target - 1));
                next_number = target;
                cut = rate.cut(target);
                if (keeps) return close(cut);
            }
            any_event = true;
            post(line, cut);
        }
        return nullptr;
    }

    /// Returns false, and ends with an error, if that would take for ever.
    bool may_go_on_to(std::uint64_t target) {
        constexpr std::uint64_t many = 10'000'000, few = 1000;
        const std::uint64_t count = target - next_number;
        if (count < many) return true;
        // What was posted shows at the next cut. Without a button down, what the last event began comes to rest; then
        // the other frames are passed over.
        if (options.skip_idle && (has_posted() || (!is_any_down() && ++in_a_row < few))) return true;
        if (count > options.most_frames_in_a_row) {
            endless = RecordingError{
                name, line.number, std::to_string(count) + " frames between this event and the one before",
                "at most " + std::to_string(options.most_frames_in_a_row), "a lower rate makes fewer"};
            ended = true;
            return false;
        }
        if (!std::exchange(warned, true) && options.on_many_frames) options.on_many_frames(count);
        return true;
    }

    // At the last cut; since the last cut.
    bool is_any_down() const { return !sampler.frame().current().down.empty(); }
    bool has_posted() const { return posted() != posted_before; }
    std::uint64_t posted() const {
        std::uint64_t events = 0;
        for (unsigned i = 0; i < timeline.inlet_count(); ++i) events += timeline.inlet(i).counters().events;
        return events;
    }
    bool is_idle() const { return !is_any_down() && !has_posted(); }
};

Replay::Replay(std::istream& in, std::string name, ReplayOptions options)
    : parts_{std::make_unique<Parts>(in, std::move(name), std::move(options))} {}
Replay::~Replay() = default;

const Frame* Replay::next() {
    return parts_->options.rate ? parts_->next_by_rate(*parts_->options.rate) : parts_->next_own_cut();
}

std::uint64_t Replay::frame_number() const noexcept { return parts_->number; }
const Timeline& Replay::timeline() const noexcept { return parts_->timeline; }
const Sampler& Replay::sampler() const noexcept { return parts_->sampler; }
const RecordingReader& Replay::reader() const noexcept { return parts_->reader; }
const std::optional<RecordingError>& Replay::error() const noexcept {
    return parts_->endless ? parts_->endless : parts_->reader.error();
}

}  // namespace cursorum
