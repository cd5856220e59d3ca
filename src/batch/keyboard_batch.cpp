// Many players' keyboards, all cut at the same times. Players lie in arrays by number, and what a later event needs is
// fetched into the cache some events ahead, since the players come in any order. The rules are the core's.
#include "cursorum/batch/keyboard_batch.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <utility>
#include <vector>

#include "core/controls/either_side.hpp"
#include "core/controls/postable.hpp"
#include "core/rules/button_rules.hpp"
#include "core/rules/chains.hpp"
#include "core/rules/figure_tally.hpp"
#include "core/rules/merging.hpp"

namespace cursorum {

using detail::Effect;
using detail::SlotKind;
using detail::What;

namespace {

constexpr unsigned keyboard_keys = 232;

// The effect of an edge if there is only one device.
constexpr std::array<Effect, 4> alone{Effect::press, Effect::release, Effect::adopt, Effect::cancel};
static_assert(static_cast<unsigned>(SlotKind::press) == 0 && static_cast<unsigned>(SlotKind::release) == 1 &&
              static_cast<unsigned>(SlotKind::adopt) == 2 && static_cast<unsigned>(SlotKind::cancel) == 3);

std::int64_t within_time(Time time) noexcept { return nanoseconds(std::clamp(time, earliest_time, latest_time)); }

// Prefetching: other players' data is not in the cache, but their events are known some steps ahead.
#if defined(__GNUC__)
inline void fetch(const void* address) noexcept { __builtin_prefetch(address); }
#else
inline void fetch(const void*) noexcept {}
#endif

bool is_state(BatchEventKind kind) noexcept { return kind >= BatchEventKind::state; }

}  // namespace

/// What a batch does.
class KeyboardBatchCore {
public:
    explicit KeyboardBatchCore(const BatchOptions& options);

    void advance(Time cut, std::span<const BatchEvent> events, std::span<const ButtonSet> states) noexcept;

private:
    friend class KeyboardBatch;
    friend class PlayerFrame;
    friend struct BatchKeys;

    static constexpr unsigned rows = 256, words = rows / 64;
    static constexpr unsigned first_either_row = rows - 4;  // from there on, either-side names
    struct Player {
        std::int64_t latest;            // effective time of the last event
        std::uint32_t frame = 0;        // the last one in which it had an event; of that frame:
        std::uint32_t last_record = 0;  // plus 1
        std::uint32_t before = 0;       // index of its previous levels
        std::uint32_t held_back = 0;    // the last frame in which an event was deferred
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
    std::vector<Hold> holds_;            // a fixed number for each player; the buttons that are down, unordered
    std::vector<Row> before_;            // the previous levels of players with events in this frame
    std::vector<Record> records_;
    std::vector<BatchEvent> kept_;
    std::vector<ButtonSet> kept_states_;  // of the deferred states, in order
    std::size_t room_, hold_room_;
    std::uint32_t frame_ = 1;
    std::int64_t t0_, t1_;
    Repeat repeat_;
    bool marks_repeats_;
    BatchCounters counters_;
};

template <typename Visit>
void KeyboardBatchCore::for_each_record(std::uint32_t player, Visit&& visit) const {
    if (!has_news(player)) return;
    for_each_in_order(
        players_[player].last_record, [this](std::uint32_t place) { return records_[place - 1].before; },
        [](std::uint32_t place) { return place == 0; }, [&](std::uint32_t place) { visit(records_[place - 1]); },
        [&] {
            for (const Record& record : records_)
                if (record.player == player) visit(record);
        });
}

KeyboardBatchCore::KeyboardBatchCore(const BatchOptions& options)
    : players_(options.players, Player{.latest = nanoseconds(earliest_time)}),
      levels_(std::size_t{options.players} * words),
      room_{options.events != 0 ? options.events : std::max<std::size_t>(64, std::size_t{options.players} * 4)},
      hold_room_{std::clamp(options.holds, 2U, rows)},
      t0_{within_time(options.start)},
      t1_{t0_},
      repeat_{options.repeat.is_valid() ? options.repeat : Repeat{}},
      marks_repeats_{options.marks_repeats} {
    holds_.resize(hold_room_ * options.players + 1);
    // A lost release of a Shift key makes four records; all players may lose the focus at once.
    records_.reserve(room_ * 4 + hold_room_ * options.players + 4 * rows);
    before_.reserve(std::min<std::size_t>(options.players, room_ * 2));
    kept_.reserve(room_);
    kept_states_.reserve(room_);
}

unsigned KeyboardBatchCore::row_of(Button key) noexcept {
    if (key.number < keyboard_keys) return key.number;
    const unsigned row = first_either_row + key.number - first_either_side;
    return row >= first_either_row && row < rows ? row : 0;
}

Button KeyboardBatchCore::key_of(unsigned row) noexcept {
    return {static_cast<std::uint16_t>(row < first_either_row ? row : first_either_side + row - first_either_row)};
}

void KeyboardBatchCore::advance(Time cut, std::span<const BatchEvent> events,
                                std::span<const ButtonSet> states) noexcept {
    const bool back = nanoseconds(cut) < t1_ || cut > latest_time;
    counters_.went_back += back;
    next_frame();
    records_.clear();
    before_.clear();
    t0_ = t1_;
    const auto state_of = [&](const BatchEvent& event) {
        return is_state(event.kind) && event.key.number < states.size() ? &states[event.key.number] : nullptr;
    };
    if (back) {
        for (const BatchEvent& event : events) keep(event, state_of(event));
        return;
    }
    t1_ = nanoseconds(cut);

    // Deferred events come first; those that must wait longer move to the front.
    std::size_t kept = 0, kept_states = 0, next_state = 0;
    for (const BatchEvent& event : kept_) {
        const ButtonSet* const state = is_state(event.kind) ? &kept_states_[next_state++] : nullptr;
        if (take(event, state)) continue;
        kept_[kept++] = event;
        if (state) kept_states_[kept_states++] = *state;
    }
    kept_.resize(kept);
    kept_states_.resize(kept_states);

    constexpr std::size_t ahead = 12;
    for (std::size_t i = 0; i < events.size(); ++i) {
        if (i + ahead < events.size()) {
            const BatchEvent& later = events[i + ahead];
            if (later.player < players_.size()) {
                fetch(&players_[later.player]);
                fetch(&levels_[std::size_t{later.player} * words]);
                fetch(&holds_[later.player * hold_room_]);
            }
        }
        if (!take(events[i], state_of(events[i]))) keep(events[i], state_of(events[i]));
    }
}

void KeyboardBatchCore::next_frame() noexcept {
    if (++frame_ != 0) return;
    // Once in 2^32 frames, so that no player seems to have had an event in this one.
    for (Player& player : players_) player.frame = player.held_back = 0;
    frame_ = 1;
}

void KeyboardBatchCore::keep(const BatchEvent& event, const ButtonSet* state) noexcept {
    if (event.player >= players_.size() || is_state(event.kind) != (state != nullptr) || kept_.size() == room_) {
        ++counters_.refused;
        return;
    }
    kept_.push_back(event);
    if (state) kept_states_.push_back(*state);
}

/// Returns false if the event has to wait for a later frame.
inline bool KeyboardBatchCore::take(const BatchEvent& event, const ButtonSet* state) noexcept {
    if (event.player >= players_.size() || is_state(event.kind) != (state != nullptr)) [[unlikely]] {
        ++counters_.refused;
        return true;
    }
    Player& player = players_[event.player];
    const std::int64_t stamp = within_time(event.time);
    if (stamp > t1_ || player.held_back == frame_) [[unlikely]] {
        player.held_back = frame_;
        return false;
    }
    // Each event may write a cancel, a press and both once more for an either-side name; states and focus, more.
    if (records_.size() + 2 * rows > records_.capacity() ||
        (player.frame != frame_ && before_.size() == before_.capacity())) [[unlikely]] {
        ++counters_.refused;
        return true;
    }
    const std::int64_t before = std::max(player.latest, t0_);
    counters_.late += stamp < before;
    ++counters_.taken;
    player.latest = std::max(stamp, before);
    if (player.frame != frame_) {
        player.frame = frame_;
        player.last_record = 0;
        player.before = static_cast<std::uint32_t>(before_.size());
        before_.push_back(current(event.player));
    }
    apply(player, event, state);
    return true;
}

/// A player's keys, as the rules see them.
struct BatchKeys {
    KeyboardBatchCore& batch;
    std::uint32_t player;

    bool is_down(Button key) const noexcept {
        return (batch.levels_[std::size_t{player} * KeyboardBatchCore::words + key.number / 64] >> (key.number % 64) &
                1) != 0;
    }
    bool marks_repeats() const noexcept { return batch.marks_repeats_; }
    bool edge(SlotKind kind, Button key) const noexcept { return batch.edge(player, static_cast<unsigned>(kind), key); }
    void system_repeat(Button key) const noexcept {
        const std::uint8_t what = What::of(SlotKind::system_repeat, Effect::none, false, true).bits;
        if (const unsigned either = either_side_of(key.number); either != 0)
            batch.write(player, KeyboardBatchCore::row_of({static_cast<std::uint16_t>(either)}), what);
        batch.write(player, key.number, what);
    }
};

inline void KeyboardBatchCore::apply(Player& player, const BatchEvent& event, const ButtonSet* state) noexcept {
    const BatchKeys keys{*this, event.player};
    switch (event.kind) {
        case BatchEventKind::focus_lost:
            if (std::exchange(player.focused, false)) cancel_all(event.player);
            return;
        case BatchEventKind::focus_gained:
            if (!std::exchange(player.focused, true)) player.adopt_next = true;
            return;
        case BatchEventKind::interrupt:
            cancel_all(event.player);
            player.adopt_next = true;
            return;
        default: break;
    }
    if (!player.focused) return count(Outcome::ignored);
    if (state) {
        const bool adopting = std::exchange(player.adopt_next, false) || event.kind == BatchEventKind::adopted_state;
        ButtonSet wanted;
        state->for_each([&](Button key) {
            if (key.number < keyboard_keys && postable_buttons.contains(key)) wanted.insert(key);
        });
        counters_.refused += wanted != *state;
        const ButtonSet known = keys_in(current(event.player)) - either_side_names;
        return count(apply_polled_state(keys, known, wanted, adopting));
    }
    if (event.key.number >= keyboard_keys || !postable_buttons.contains(event.key))
        return count(Outcome::refused_control);
    count(apply_button(keys, event.key, event.kind != BatchEventKind::up, event.kind == BatchEventKind::system_repeat));
}

inline void KeyboardBatchCore::count(Outcome outcome) noexcept {
    switch (outcome) {
        case Outcome::stray_release: ++counters_.strays; return;
        case Outcome::ignored: ++counters_.ignored; return;
        case Outcome::refused_holds:
        case Outcome::refused_control: ++counters_.refused; return;
        case Outcome::lost_release: ++counters_.lost_releases; return;
        case Outcome::system_repeat:
        case Outcome::adopted_repeat: ++counters_.system_repeats; return;
        default: return;
    }
}

void KeyboardBatchCore::cancel_all(std::uint32_t player) noexcept {
    const SortedButtons held{keys_in(current(player)) - either_side_names};
    for (unsigned i = 0; i < held.count; ++i) edge(player, static_cast<unsigned>(SlotKind::cancel), held[i]);
}

inline const KeyboardBatchCore::Hold* KeyboardBatchCore::find_hold(std::uint32_t player, unsigned row) const noexcept {
    const Hold* const first = &holds_[player * hold_room_];
    for (const Hold* hold = first; hold != first + players_[player].holds; ++hold)
        if (hold->row == row) return hold;
    return nullptr;
}

/// Returns false if there is no room for a new hold.
inline bool KeyboardBatchCore::edge(std::uint32_t player, unsigned kind, Button key) noexcept {
    const auto slot_kind = static_cast<SlotKind>(kind);
    const bool starts = slot_kind == SlotKind::press || slot_kind == SlotKind::adopt;
    const unsigned either = either_side_of(key.number);
    if (starts && players_[player].holds + (either != 0 ? 2U : 1U) > hold_room_) [[unlikely]]
        return false;
    if (either != 0) [[unlikely]] {
        // The two keys are merged as the buttons of two devices are.
        Holders holders = 0;
        for (const unsigned row : {0xE0U + (key.number & 3U), 0xE4U + (key.number & 3U)})
            if (const Hold* hold = find_hold(player, row))
                holders = static_cast<Holders>(holders + (hold->adopted ? adopted_holder : pressed_holder));
        const Hold* const own = find_hold(player, key.number);
        const Effect effect = merge(holders, slot_kind, own && !own->adopted);
        write(player, row_of({static_cast<std::uint16_t>(either)}),
              What::of(slot_kind, effect, false, is_held(holders)).bits);
    }
    write(player, key.number, What::of(slot_kind, alone[kind], false, starts).bits);
    return true;
}

// Writes the record and updates the level and the hold of its row.
inline void KeyboardBatchCore::write(std::uint32_t player, unsigned row, std::uint8_t bits) noexcept {
    const What what{bits};
    Player& of = players_[player];
    const std::int64_t time = of.latest;
    Hold* const first = &holds_[player * hold_room_];
    Hold* hold = first;
    while (hold != first + of.holds && hold->row != row) ++hold;
    records_.push_back({.time = time,
                        .begun = hold->start,
                        .before = of.last_record,
                        .player = player,
                        .row = static_cast<std::uint8_t>(row),
                        .what = bits,
                        .adopted = hold->adopted});
    of.last_record = static_cast<std::uint32_t>(records_.size());
    if (what.effect() == Effect::none) return;
    std::uint64_t& level = levels_[std::size_t{player} * words + row / 64];
    const std::uint64_t mask = std::uint64_t{1} << (row % 64);
    if (what.is_down()) {
        of.holds = static_cast<std::uint16_t>(of.holds + (hold == first + of.holds));  // else it began anew
        *hold = {time, static_cast<std::uint8_t>(row), what.effect() == Effect::adopt};
        level |= mask;
    } else {
        *hold = first[--of.holds];
        level &= ~mask;
    }
}

// ---- readings

inline KeyboardBatchCore::Row KeyboardBatchCore::current(std::uint32_t player) const noexcept {
    Row row;
    for (unsigned w = 0; w < words; ++w) row[w] = levels_[std::size_t{player} * words + w];
    return row;
}

KeyboardBatchCore::Row KeyboardBatchCore::previous(std::uint32_t player) const noexcept {
    return has_news(player) ? before_[players_[player].before] : current(player);
}

ButtonSet KeyboardBatchCore::keys_in(const Row& row) noexcept {
    ButtonSet::Words found{};
    std::copy(row.begin(), row.end(), found.begin());
    constexpr unsigned last = words - 1, shift = first_either_row % 64, in_last = first_either_side % 64;
    static_assert(first_either_side / 64 == button_words - 1 && in_last + 4 <= 64);
    found[button_words - 1] |= found[last] >> shift << in_last;
    found[last] &= (std::uint64_t{1} << shift) - 1;
    return ButtonSet{found};
}

Snapshot PlayerFrame::previous() const noexcept {
    return {Time{Duration{batch_->t0_}}, KeyboardBatchCore::keys_in(batch_->previous(player_))};
}

Snapshot PlayerFrame::current() const noexcept {
    return {Time{Duration{batch_->t1_}}, KeyboardBatchCore::keys_in(batch_->current(player_))};
}

ButtonSet PlayerFrame::pressed() const noexcept {
    ButtonSet pressed;
    batch_->for_each_record(player_, [&](const KeyboardBatchCore::Record& record) {
        if (What{record.what}.presses()) pressed.insert(KeyboardBatchCore::key_of(record.row));
    });
    return pressed;
}

ButtonFigures PlayerFrame::operator[](Button key) const noexcept {
    const unsigned row = KeyboardBatchCore::row_of(key);
    const bool was_down = (batch_->previous(player_)[row / 64] >> (row % 64) & 1) != 0;
    // The hold at the frame's start: the first one that ends or begins in the frame knows what was before it.
    const KeyboardBatchCore::Hold* const hold = batch_->find_hold(player_, row);
    std::int64_t begun = hold ? hold->start : 0;
    bool adopted = hold && hold->adopted, found = false;
    batch_->for_each_record(player_, [&](const KeyboardBatchCore::Record& record) {
        if (record.row != row || found || What{record.what}.effect() == Effect::none) return;
        found = true;
        begun = record.begun;
        adopted = record.adopted;
    });
    FigureTally tally{batch_->t0_, batch_->t1_, batch_->repeat_, was_down, adopted, begun};
    batch_->for_each_record(player_, [&](const KeyboardBatchCore::Record& record) {
        if (record.row != row) return;
        tally.figures.system_repeat_count += What{record.what}.kind() == SlotKind::system_repeat;
        tally.apply(What{record.what}.effect(), record.time);
    });
    return tally.finish();
}

void PlayerFrame::walk_edges(void* to, void (*visit)(void*, const Edge&)) const {
    batch_->for_each_record(player_, [&](const KeyboardBatchCore::Record& record) {
        const SlotKind kind = What{record.what}.kind();
        if (kind > SlotKind::cancel || record.row >= KeyboardBatchCore::first_either_row) return;
        visit(to,
              Edge{Time{Duration{record.time}}, DeviceId{player_}, Button{record.row}, static_cast<EdgeKind>(kind)});
    });
}

// ---- the public class

KeyboardBatch::KeyboardBatch(const BatchOptions& options) : core_{new KeyboardBatchCore{options}} {}
KeyboardBatch::~KeyboardBatch() { delete core_; }

void KeyboardBatch::advance(Time cut, std::span<const BatchEvent> events, std::span<const ButtonSet> states) noexcept {
    core_->advance(cut, events, states);
}
std::uint32_t KeyboardBatch::players() const noexcept { return static_cast<std::uint32_t>(core_->players_.size()); }
Time KeyboardBatch::start() const noexcept { return Time{Duration{core_->t0_}}; }
Time KeyboardBatch::end() const noexcept { return Time{Duration{core_->t1_}}; }
const BatchCounters& KeyboardBatch::counters() const noexcept { return core_->counters_; }
std::span<const std::uint64_t> KeyboardBatch::levels() const noexcept { return core_->levels_; }

}  // namespace cursorum
