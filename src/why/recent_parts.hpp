// What RecentInput keeps, for its own files: how each frame was cut and where the ledgers stood then, what the game
// called, and now and then everything that was so. The events themselves stay in the timeline's ledgers.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include "actions/reader_facts.hpp"
#include "core/frame/frame_levels.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/why/recent_input.hpp"

namespace cursorum {

inline Time time_at(std::int64_t nanoseconds) noexcept { return Time{Duration{nanoseconds}}; }

/// The state at a frame's end, where a replay can begin.
struct Checkpoint {
    bool is_set = false;
    std::uint64_t cut = 0;       // its number
    std::uint32_t bindings = 0;  // of the reader
    std::uint32_t focus = 0;     // bit n: the inlet n has it
    ButtonSet kept;              // the keys whose names were kept
    detail::FrameLevels levels;
    std::vector<std::pair<DeviceId, DeviceShaping>> shapings;
    ActionReader::State reader;
    detail::SeatShares shares;  // of the reader's seat, if it reads one
    unsigned share_count = 0;
    bool is_by_seat = false;
};

/// A file that is written on a thread of its own, one at a time.
class Saving {
public:
    ~Saving() {
        if (thread_.joinable()) thread_.join();
    }
    bool is_going_on() const noexcept { return thread_.joinable(); }
    template <typename Work>
    void start(Work work) {
        has_ended_ = false;
        thread_ = std::thread{[this, work = std::move(work)] {
            result_ = work();
            has_ended_.store(true, std::memory_order_release);
        }};
    }
    /// Once.
    std::optional<SavedInput> result() {
        if (!thread_.joinable() || !has_ended_.load(std::memory_order_acquire)) return std::nullopt;
        thread_.join();
        return std::move(result_);
    }

private:
    std::thread thread_;
    std::atomic<bool> has_ended_ = false;
    SavedInput result_;
};

/// The kept cuts have numbers, and so have the calls.
struct RecentParts {
    RecentParts(const Timeline& of, const Sampler& by, ActionReader& read_by, const RecentInputOptions& options);
    ~RecentParts();
    RecentParts(const RecentParts&) = delete;
    RecentParts& operator=(const RecentParts&) = delete;

    struct Cut {
        detail::FrameCut frame;
        std::uint64_t calls = 0;  // made before it
        bool has_new_bindings = false;
    };

    void note();
    void forget() noexcept;
    bool keeps(Button button) const noexcept { return kept.contains(button); }
    /// While somebody may be typing into a field, no key that waits for a frame is told of.
    bool hides(Button button) const noexcept;
    bool has_ledger() const noexcept { return !ledgers.empty(); }
    bool is_going() const noexcept {
        return !ledgers.empty() && checkpoints[last_checkpoint % checkpoints.size()].is_set;
    }
    const Cut& cut(std::uint64_t number) const noexcept { return cuts[number & (cuts.size() - 1)]; }
    /// Where the events after a cut begin, in each inlet's ledger.
    std::span<const std::uint64_t> ends(std::uint64_t number) const noexcept {
        return std::span{positions}.subspan((number & (cuts.size() - 1)) * ledgers.size(), ledgers.size());
    }
    std::int64_t last_end() const noexcept { return cut(next_cut - 1).frame.end; }
    /// The checkpoints from which a replay can begin, the newest first. `spare`: events for that many words of a ledger
    /// may be posted until it has begun.
    template <typename Visit>
    void for_each_checkpoint(Visit&& visit, std::uint64_t spare = 0) const;
    /// The one that gives the wanted length, or the oldest. Null if there is nothing behind it.
    const Checkpoint* beginning(std::uint64_t spare = 0) const noexcept;
    /// The last one before a cut; null if there is none.
    const Checkpoint* before(std::uint64_t number) const noexcept;

    /// Whether the game took a press from the buffer of that action since the newest cut.
    bool was_taken(std::string_view action) const;

    const Timeline& timeline;
    const Sampler& sampler;
    ActionReader& reader;
    std::int64_t length;
    bool every_key;
    std::vector<detail::Ledger*> ledgers;  // none if the timeline was made without
    std::vector<Cut> cuts;                 // a ring
    std::vector<std::uint64_t> positions;  // for each cut, of each ledger
    std::uint64_t next_cut = 1;
    std::vector<Checkpoint> checkpoints;  // a ring
    std::uint64_t last_checkpoint = 0;
    std::uint64_t overruns = 0;
    detail::CallLog log;
    Saving saving;

private:
    bool take_frame(const detail::FrameCut& frame);
    bool go_back(std::uint64_t serial);
    bool pass_events(std::uint64_t& position, std::uint64_t end, std::int64_t until, unsigned inlet);
    bool may_be_typing() const noexcept;
    bool is_typed(Button button) const noexcept;
    void take_typed_names(unsigned inlet, std::uint64_t from, std::uint64_t to);
    DeviceShaping* know(DeviceId device);
    void set_shaping(DeviceId device, const DeviceShaping& shaping);
    void begin_at_present();
    void choose_kept();
    void add_checkpoint();

    std::uint64_t calls_taken = 0;
    std::uint64_t last_serial = 0, last_restored = 0;
    std::uint32_t last_bindings = 0;
    ButtonSet kept;   // the buttons whose names the ledgers keep
    ButtonSet typed;  // of these, those that are down since a claim on everything had them
    // As of the last cut.
    std::vector<std::uint64_t> now;  // where the events begin that no frame has taken
    std::uint32_t focus = 0;
    std::vector<std::pair<DeviceId, DeviceShaping>> shapings;  // of all devices that were ever connected
};

template <typename Visit>
void RecentParts::for_each_checkpoint(Visit&& visit, std::uint64_t spare) const {
    for (std::uint64_t i = 0; i < checkpoints.size(); ++i) {
        const Checkpoint& it = checkpoints[(last_checkpoint - i) % checkpoints.size()];
        if (!it.is_set || next_cut - it.cut > cuts.size() ||
            detail::ReaderAccess::call_count(reader) > cut(it.cut).calls + detail::CallLog::room)
            return;
        for (std::size_t inlet = 0; inlet < ledgers.size(); ++inlet)
            if (const std::uint64_t begin = ends(it.cut)[inlet];
                !ledgers[inlet]->still_has(begin - std::min({begin, spare, ledgers[inlet]->capacity() / 8})))
                return;
        if (!visit(it)) return;
    }
}

/// What was kept from a checkpoint on, but for the events themselves: these stay in the ledgers, which any thread may
/// read. It refers to nothing else, so that it can be played on a thread of its own.
struct Stretch {
    /// An event that makes what was so at the beginning.
    struct First {
        unsigned inlet = 0;
        Event event;  // without its name
        std::string name;
    };
    struct Call {
        std::size_t cut = 0;  // before this one
        Time time;
        RecordedCall call;   // without the names that are here
        std::string action;  // of an area
    };
    struct State {
        std::size_t cut = 0;  // after this one
        RecordedCheckpoint checkpoint;
    };
    std::vector<const detail::Ledger*> ledgers;
    std::vector<First> first;
    std::vector<Call> calls;
    std::vector<State> states;
    std::uint64_t number = 0;              // of the first cut
    std::vector<Tick> cuts;                // the first one is the checkpoint's
    std::vector<std::uint64_t> positions;  // for each cut, where the events after it begin in each ledger
};

/// When a stretch's recording begins: before every hold.
Time beginning_of(const Checkpoint& begin) noexcept;
/// From a checkpoint up to the cut `last`. Times in facts are from `zero` on.
Stretch stretch_of(const RecentParts& parts, const Checkpoint& begin, std::uint64_t last, Time zero);

/// What a stretch consists of, in order.
class StretchSink {
public:
    /// Returns whether an event need not be read.
    virtual bool ignores(const detail::Ledger::Glance&) const { return false; }
    virtual void event(unsigned inlet, const detail::LedgerEvent& event) = 0;
    virtual void call(Time time, const RecordedCall& call) = 0;
    /// What is so after the cut that follows.
    virtual void checkpoint(const RecordedCheckpoint& checkpoint, Time cut) = 0;
    /// Returns false to end the stretch.
    virtual bool cut(std::uint64_t number, const Tick& tick) = 0;

protected:
    ~StretchSink() = default;
};

/// Returns false if events were overwritten in a ledger before they were read.
bool play(const Stretch& stretch, StretchSink& sink);

}  // namespace cursorum
