// Thousands of players' keyboards in one call.
#pragma once

#include <cstdint>
#include <span>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/core/snapshot.hpp"

namespace cursorum {

/// What happened to one player's keyboard.
enum class BatchEventKind : std::uint8_t {
    up,             ///< `key` came up
    down,           ///< `key` went down
    system_repeat,  ///< the system repeated `key` and reported it as a repeat
    focus_lost,
    focus_gained,
    interrupt,
    state,         ///< the keys down are states[key.number], as polled
    adopted_state  ///< likewise; the differences are adopts and cancels
};

/// 16 bytes.
struct BatchEvent {
    Time time;
    std::uint32_t player = 0;
    Button key;
    BatchEventKind kind = BatchEventKind::down;
};
static_assert(sizeof(BatchEvent) == 16);

struct BatchOptions {
    std::uint32_t players = 1;
    /// Where all players' first frames start, with all keys up.
    Time start = Clock::now();
    /// For all keys of all players.
    Repeat repeat{};
    /// The keyboards distinguish system repeats from presses.
    bool marks_repeats = false;
    /// Maximum number of keys that are down at once on each keyboard, including either-side names; 2 to 256. More are
    /// refused.
    std::uint32_t holds = 16;
    /// Maximum number of events that one call of advance() takes, including held-back ones; 0: four for each player.
    std::uint32_t events = 0;
};

struct BatchCounters {
    std::uint64_t taken = 0;    ///< events
    std::uint64_t late = 0;     ///< of those, events stamped earlier than the player's previous one or the frame
    std::uint64_t strays = 0;   ///< releases of keys that were up
    std::uint64_t ignored = 0;  ///< events while the player's window had no focus
    std::uint64_t refused = 0;  ///< unknown player, key or state; capacity of keys or events exceeded
    std::uint64_t system_repeats = 0, lost_releases = 0;
    std::uint64_t went_back = 0;  ///< calls of advance with a time before the last cut, or out of range
};

class KeyboardBatchCore;

/// One player's frame. Valid until the batch advances.
class CURSORUM_API PlayerFrame {
public:
    /// All figures of a key or an either-side name, the same as those of a sampler's frame. Cost: proportional to the
    /// player's events in this frame.
    ButtonFigures operator[](Button key) const noexcept;
    Snapshot previous() const noexcept;
    Snapshot current() const noexcept;
    /// The keys with at least one press, including either-side names.
    ButtonSet pressed() const noexcept;
    /// Calls `visit(Edge)` for each edge, in order; the device is the player's number.
    template <typename Visit>
    void for_each_edge(Visit&& visit) const {
        auto call = [&visit](const Edge& edge) { visit(edge); };
        walk_edges(&call, [](void* to, const Edge& edge) { (*static_cast<decltype(call)*>(to))(edge); });
    }

    /// Not for callers: batches make it.
    PlayerFrame(const KeyboardBatchCore& batch, std::uint32_t player) noexcept : batch_{&batch}, player_{player} {}

private:
    void walk_edges(void* to, void (*visit)(void*, const Edge&)) const;
    const KeyboardBatchCore* batch_;
    std::uint32_t player_;
};

/// Independent players (on a server, or agents in training), each with one keyboard, cut at the same times. A player's
/// figures are, to the bit, those of a Sampler on a Timeline of that player's own: the same rules run.
///
/// The state is kept in arrays over all players; a player without events costs nothing. Keys are those of a keyboard
/// (HID usages below 232); others are refused.
/// Threads: one. Memory: about 0.9 KB for each player and 200 bytes for each event of `BatchOptions::events`, allocated
/// at construction; nothing later. Errors are counted.
class CURSORUM_API KeyboardBatch {
public:
    explicit KeyboardBatch(const BatchOptions& options);
    ~KeyboardBatch();
    KeyboardBatch(const KeyboardBatch&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    KeyboardBatch& operator=(const KeyboardBatch&) = delete;

    /// Closes all players' frames at `cut`, with these events. Players may be mixed; each player's events must be in
    /// the order in which they happened. Events stamped later than `cut`, and those behind them, are kept for later
    /// frames. With an earlier cut than the last one, no frame is closed, but the events are kept. Cost: proportional
    /// to the events.
    void advance(Time cut, std::span<const BatchEvent> events, std::span<const ButtonSet> states = {}) noexcept;

    /// One player's frame. Precondition: `player` is less than players().
    PlayerFrame operator[](std::uint32_t player) const noexcept { return {*core_, player}; }
    std::uint32_t players() const noexcept;
    Time start() const noexcept;
    Time end() const noexcept;
    const BatchCounters& counters() const noexcept;

    /// All players' levels, four words each: bit n % 64 of word n / 64 is key n. (Bits 252 to 255 are Control, Shift,
    /// Alt and Meta.) Agents in training can observe these directly.
    std::span<const std::uint64_t> levels() const noexcept;

private:
    KeyboardBatchCore* core_;
};

}  // namespace cursorum
