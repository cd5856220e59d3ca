// What came in during the last half minute, kept while the game runs: why an action did not fire, and a recording of
// it.
#pragma once

#include <cstddef>
#include <iosfwd>
#include <memory>
#include <string>
#include <string_view>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum {

struct RecentParts;

struct RecentInputOptions {
    Duration length{30'000'000'000};  ///< how much is kept, at least, if there is room
    /// Entries of 32 bytes, rounded up to a power of two: one for each edge, axis value, wheel turn and frame, up to
    /// three for the motion of a frame. 16,384 (512 KB) are enough for half a minute of a keyboard, a mouse and a pad
    /// at 60 frames per second; with less room than input, the time is shorter.
    std::size_t room = 16'384;
    /// Keys that no action binds are not kept, since what somebody types is nobody's business: set this to keep them,
    /// too. Mice and pads are kept whole.
    bool every_key = false;
};

/// Keeps the last half minute of what one sampler's frames had, and of what the game called on its action reader.
///
///     RecentInput recent{timeline, simulation, actions};
///     …
///     while (const auto tick = ticks.next(complete)) {
///         actions.read(simulation.advance(*tick));
///         recent.note();                                         // after each read
///     }
///     const Frame& shown = picture.advance(complete);            // a sampler that goes on while the game is paused
///     if (shown[F9].pressed()) console.print(recent.why("lock", profile));
///     if (shown[F10].pressed()) recent.save("input.jsonl", error);
///
/// What it saves is a recording that begins with a checkpoint: what was down and since when, where axes and the pointer
/// were, and what the reader had open, toggled, waiting or in motion. It replays to the same frames and actions, by its
/// own cuts: `cursorum frames FILE --profile P`, `cursorum explain FILE --profile P --action lock --at 3s`.
///
/// Not in it: text; what bots injected into actions; clicks that were half done at its beginning. The motion of all
/// mice counts as the first one's, as one distance for each frame (or for each part of a frame in which a mode had it);
/// each sampled position is lost. Of a stick that was moved several times within a pause, only the last place is known,
/// so between its thresholds it may be down as a button where it was not. Presses that seats or claims on single
/// devices took are not told apart at the checkpoint. A frame that note() was not called for, and rebind(), begin it
/// anew.
///
/// Memory: allocated by the constructor: `room` and about 250 KB, and the saved states of 8 readers. Cost of note(): 20
/// ns and at most 5 ns for each event of the frame; about 10 us each time that an eighth of the time or room has
/// passed. Lifetime: timeline, sampler and reader must outlive it, and a reader has at most one. Threads: the
/// sampler's.
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

    /// Answers the question why an action did not fire, or did: explains the last frame in which one of its controls
    /// was pressed or moved, in the sentences of `cursorum explain`, and what it made of the release, if it goes by
    /// that. For an unknown name, says so with the near one. `profile`: the one that the reader was given last.
    /// Allocates, and takes as long as replaying the time does: a few milliseconds.
    TerminalText why(std::string_view action, const Profile& profile) const;
    /// The same for one button, whatever actions make of it: the last frame with an edge of it. Of a key that no action
    /// binds, it says that it is not kept (RecentInputOptions::every_key).
    TerminalText why(Button button) const;

    /// Writes the recording. Returns false and writes nothing before the second frame.
    bool write(std::ostream& out, std::string_view title = {}) const;
    /// The same into a file, whole or not at all. If it fails, `why` has the reason.
    bool save(const std::string& path, std::string& why) const;

private:
    std::unique_ptr<RecentParts> parts_;
};

}  // namespace cursorum
