// Thousands of players' keyboards in one call.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "cursorum/core/button_reading.hpp"
#include "cursorum/core/detail/slot_ring.hpp"
#include "cursorum/core/edge.hpp"
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

class KeyboardBatch;

/// One player's frame. Valid until the batch advances.
class PlayerFrame {
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
    void for_each_edge(Visit&& visit) const;

private:
    friend class KeyboardBatch;
    PlayerFrame(const KeyboardBatch& batch, std::uint32_t player) noexcept : batch_{&batch}, player_{player} {}
    const KeyboardBatch* batch_;
    std::uint32_t player_;
};

/// Independent players (on a server, or agents in training), each with one keyboard, cut at the same times. A player's
/// figures are, to the bit, those of a Sampler on a Timeline of that player's own: the same rules run.
///
/// The state is kept in arrays over all players; a player without events costs nothing. Keys are those of a keyboard
/// (HID usages below 232); others are refused.
/// Threads: one. Memory: about 0.9 KB for each player and 200 bytes for each event of `BatchOptions::events`, allocated
/// at construction; nothing later. Errors are counted.
class KeyboardBatch {
public:
    explicit KeyboardBatch(const BatchOptions& options);
    KeyboardBatch(const KeyboardBatch&) = delete;
    KeyboardBatch& operator=(const KeyboardBatch&) = delete;

    /// Closes all players' frames at `cut`, with these events. Players may be mixed; each player's events must be in
    /// the order in which they happened. Events stamped later than `cut`, and those behind them, are kept for later
    /// frames. With an earlier cut than the last one, no frame is closed, but the events are kept. Cost: proportional
    /// to the events.
    void advance(Time cut, std::span<const BatchEvent> events, std::span<const ButtonSet> states = {}) noexcept;

    /// One player's frame. Precondition: `player` is less than players().
    PlayerFrame operator[](std::uint32_t player) const noexcept { return {*this, player}; }
    std::uint32_t players() const noexcept { return static_cast<std::uint32_t>(players_.size()); }
    Time start() const noexcept { return Time{Duration{t0_}}; }
    Time end() const noexcept { return Time{Duration{t1_}}; }
    const BatchCounters& counters() const noexcept { return counters_; }

    /// All players' levels, four words each: bit n % 64 of word n / 64 is key n. (Bits 252 to 255 are Control, Shift,
    /// Alt and Meta.) Agents in training can observe these directly.
    std::span<const std::uint64_t> levels() const noexcept { return levels_; }

private:
    friend class PlayerFrame;
    friend struct BatchKeys;

    static constexpr unsigned rows = 256, words = rows / 64;
    static constexpr unsigned first_either_row = rows - 4;  // from there on, either-side names
    struct Player {
        std::int64_t latest;            // effective time of the last event
        std::uint32_t frame = 0;        // the last one in which it had an event; of that frame:
        std::uint32_t last_record = 0;  // plus 1
        std::uint32_t before = 0;       // where its levels before stand
        std::uint32_t held_back = 0;    // the last frame in which an event had to wait
        bool focused = true;
        bool adopt_next = true;
        std::uint16_t holds = 0;
    };
    struct Hold {
        std::int64_t start;
        std::uint8_t row;
        bool adopted;
    };
    using Row = std::array<std::uint64_t, words>;
    /// An edge or a system repeat. `begun` and `adopted` are those of the hold that it ends.
    struct Record {
        std::int64_t time, begun;
        std::uint32_t before;  // the same player's record before it, plus 1
        std::uint32_t player;
        std::uint8_t row, what;
        bool adopted;
    };

    static unsigned row_of(Button key) noexcept;
    static Button key_of(unsigned row) noexcept;
    void next_frame() noexcept;
    bool take(const BatchEvent& event, const ButtonSet* state) noexcept;
    void apply(Player& player, const BatchEvent& event, const ButtonSet* state) noexcept;
    void keep(const BatchEvent& event, const ButtonSet* state) noexcept;
    void cancel_all(std::uint32_t player) noexcept;
    bool edge(std::uint32_t player, unsigned kind, Button key) noexcept;
    void write(std::uint32_t player, unsigned row, std::uint8_t what) noexcept;
    const Hold* find_hold(std::uint32_t player, unsigned row) const noexcept;
    void count(Outcome outcome) noexcept;
    static ButtonSet keys_in(const Row& row) noexcept;
    bool has_news(std::uint32_t player) const noexcept { return players_[player].frame == frame_; }
    Row previous(std::uint32_t player) const noexcept;
    Row current(std::uint32_t player) const noexcept;
    /// The player's records of this frame, in order.
    template <typename Visit>
    void for_each_record(std::uint32_t player, Visit&& visit) const;

    std::vector<Player> players_;
    std::vector<std::uint64_t> levels_;  // rows of bits
    std::vector<Hold> holds_;            // of each player as many as there is room for; what is down, in no order
    std::vector<Row> before_;            // the levels before, of those who have news in this frame
    std::vector<Record> records_;
    std::vector<BatchEvent> kept_;
    std::vector<ButtonSet> kept_states_;  // of those kept that are states, in order
    std::size_t room_, hold_room_;
    std::uint32_t frame_ = 1;
    std::int64_t t0_, t1_;
    Repeat repeat_;
    bool marks_repeats_;
    BatchCounters counters_;
};

template <typename Visit>
void KeyboardBatch::for_each_record(std::uint32_t player, Visit&& visit) const {
    if (!has_news(player)) return;
    // They are linked from the last to the first; the few that a player has are turned round on the stack.
    std::array<std::uint32_t, 64> some;
    unsigned count = 0;
    std::uint32_t at = players_[player].last_record;
    for (; at != 0 && count < some.size(); at = records_[at - 1].before) some[count++] = at - 1;
    if (at == 0) {
        while (count > 0) visit(records_[some[--count]]);
        return;
    }
    for (const Record& record : records_)
        if (record.player == player) visit(record);
}

template <typename Visit>
void PlayerFrame::for_each_edge(Visit&& visit) const {
    batch_->for_each_record(player_, [&](const KeyboardBatch::Record& record) {
        const auto kind = static_cast<detail::SlotKind>(record.what & 0x07);
        if (kind > detail::SlotKind::cancel || record.row >= KeyboardBatch::first_either_row) return;
        visit(Edge{Time{Duration{record.time}}, DeviceId{player_}, Button{record.row}, static_cast<EdgeKind>(kind)});
    });
}

}  // namespace cursorum
