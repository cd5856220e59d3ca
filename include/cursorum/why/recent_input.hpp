// What came in during the last half minute, kept while the game runs: why an action did not fire, and a recording of
// it.
#pragma once

#include <cstddef>
#include <cstdint>
#include <iosfwd>
#include <memory>
#include <optional>
#include <string>
#include <string_view>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {

struct RecentParts;

/// How a save() ended.
struct SavedInput {
    bool is_saved = false;
    std::string text{};  ///< "input.jsonl: 29.9 s of input", or the reason why it was not saved
};

struct RecentInputOptions {
    Duration length{30'000'000'000};  ///< how much is kept, at least, if there is room
    /// Room for frames, rounded up to a power of two; 80 bytes each, and 8 for each inlet. 4,096 are half a minute at
    /// 136 frames per second; with more of them, the time is shorter.
    std::size_t frames = 4096;
    /// The names of keys that no action binds are not kept, nor of those that were typed while a claim on everything
    /// was in force: what somebody types is nobody's business. Set this to keep them. Mice and pads are kept whole.
    bool every_key = false;
};

/// Keeps the last half minute: the events as they were posted, how one sampler cut them into frames, and what the game
/// called on its action reader. The events themselves are in the timeline's ledgers, so the timeline must have some:
///
///     Timeline timeline{{.ledger = half_a_minute}};
///     …
///     RecentInput recent{timeline, simulation, actions};
///     …
///     while (const auto tick = ticks.next(complete)) {
///         actions.read(simulation.advance(*tick));
///         recent.note();                                         // after each read
///     }
///     const Frame& shown = picture.advance(complete);            // a sampler that goes on while the game is paused
///     if (shown[F9].pressed()) console.print(recent.why("lock", profile));
///     if (shown[F10].pressed()) recent.save("input.jsonl");
///     if (const auto saved = recent.saved()) console.print(saved->text);
///
/// What it saves is a recording that begins with a checkpoint: what was down and since when, where axes and the pointer
/// were, and what the reader had open, toggled, waiting or in motion. After that come the events, also those that were
/// ignored or refused. It replays to the same frames and actions, by its own cuts: `cursorum frames FILE --profile P`,
/// `cursorum explain FILE --profile P --action lock --at 3s`.
///
/// It goes on when the game goes back to a saved state and plays some ticks once more. It goes on over rebind() too: it
/// keeps the frames before it, but why() answers only from the frames after it. A frame that note() was not called for
/// begins it anew, and so does a ledger that is too small (overruns()).
///
/// If the reader reads a seat, the devices of that seat are kept as well, and a press on another seat's device is
/// explained as such.
///
/// It does not contain text, or what bots injected into actions. A checkpoint contains neither clicks that were half
/// done, nor the positions of mice other than the first one, nor which claim on a single device had a button. An event
/// that another thread posts while a frame is cut may appear one frame later than in the game, if it is not stamped
/// later than the cut (see Timeline::complete_until).
///
/// Memory: allocated by the constructor: that of `frames`, 18 checkpoints of 100 KB, and as many saved states of the
/// reader. Cost of note(): 30 ns and about 12 ns for each event of the frame; about 10 us every two seconds; and 0.4 us
/// for each frame of a reader that reads a seat. Lifetime: timeline, sampler and reader must outlive it; a reader has
/// at most one, and so has a timeline, whose ledgers keep the names of the keys that this reader's actions bind.
/// Threads: the sampler's.
class CURSORUM_API RecentInput {
public:
    RecentInput(const Timeline& timeline, const Sampler& sampler, ActionReader& reader,
                const RecentInputOptions& options = {});
    ~RecentInput();
    RecentInput(const RecentInput&) = delete;
    RecentInput& operator=(const RecentInput&) = delete;

    /// Takes the sampler's last frame, which the reader has read. The same frame again is ignored.
    void note();
    /// Begins anew with the next frame.
    void forget() noexcept;

    /// How much time there is; zero before the second frame.
    Duration length() const noexcept;
    /// How often it began anew because events were overwritten in a ledger before note() had passed them. If this
    /// grows, make the ledger larger (TimelineOptions::ledger), or call note() more often.
    std::uint64_t overruns() const noexcept;

    /// Answers why an action did not fire, or did: what became of the last press or motion of one of its controls,
    /// whether a frame had it or not, and then, in the sentences of `cursorum explain`, what the action made of it and
    /// of its release. An unknown name is reported together with the most similar one. `profile`: the one
    /// that the reader was given last. Allocates, and takes as long as replaying up to two seconds does: one to
    /// two milliseconds if there is much input.
    TerminalText why(std::string_view action, const Profile& profile) const;
    /// The same for one button, whatever actions make of it: its last event. Of a key that no action binds, it says
    /// that it is not kept (RecentInputOptions::every_key).
    TerminalText why(Button button) const;

    /// Writes the recording. Returns false and writes nothing before the second frame.
    bool write(std::ostream& out, std::string_view title = {}) const;
    /// Writes it into a file, whole or not at all, on a thread of its own; here it copies all but the events, which
    /// takes 0.2 ms for half a minute. Returns false if nothing has been noted yet, or while the last one is being
    /// written. The destructor waits for the thread. Allocates.
    bool save(const std::string& path);
    /// Once after each save() that returned true, when it has ended: whether the file is there. Else nothing.
    std::optional<SavedInput> saved();

private:
    std::unique_ptr<RecentParts> parts_;
};

}  // namespace cursorum
