// The rings beside that of edges: motion and wheel, axes, and what happens seldom. Not for callers.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cstdint>
#include <cstring>
#include <memory>
#include <utility>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/detail/slot_ring.hpp"

namespace cursorum::detail {

/// Distances or positions in two directions, in 1/65536, modulo 2^64.
using FixedDistance = std::array<std::uint64_t, 2>;

/// Motion and wheel: one slot an event. The totals run on from slot to slot, so that a frame's motion is one
/// subtraction, and a consumer which missed some has lost no distance.
struct MotionSlot {
    std::int64_t time = 0;   ///< the latest stamp the inlet had seen: never goes down from slot to slot
    std::uint64_t what = 0;  ///< device in the low 8 bits, the flags below, and from bit 16 how late it was
    FixedDistance motion{}, raw{}, wheel{}, position{};
    std::uint64_t steps = 0;  ///< whole steps of the wheel, x in the low half, y in the high one, modulo 2^32
    /// Slots up to this one, in 21 bits each, modulo 2^21: late; of virtual devices; of events that are counted
    /// elsewhere.
    std::uint64_t counts = 0;

    static constexpr std::uint64_t one_late = 1, one_virtual = std::uint64_t{1} << 21,
                                   one_extra = std::uint64_t{1} << 42, count_mask = (std::uint64_t{1} << 21) - 1;
    /// How many there were from `before` to `after`, less than 2^21.
    static constexpr std::uint64_t counted(std::uint64_t before, std::uint64_t after, std::uint64_t one) noexcept {
        return (after / one - before / one) & count_mask;
    }

    /// From `before` to `after`, each half by itself.
    static constexpr std::uint64_t steps_between(std::uint64_t before, std::uint64_t after) noexcept {
        const auto half = [](std::uint64_t a, std::uint64_t b) {
            return std::uint64_t{static_cast<std::uint32_t>(b) - static_cast<std::uint32_t>(a)};
        };
        return half(before, after) | half(before >> 32, after >> 32) << 32;
    }

    static constexpr std::uint64_t wheel_bit = 0x100, virtual_bit = 0x200, places_bit = 0x400, placed_bit = 0x800;
    static constexpr std::uint64_t most_late = 0xFFFF'FFFF'FFFF;
    static constexpr unsigned late_shift = 16;
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    bool is_wheel() const noexcept { return (what & wheel_bit) != 0; }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    /// It told a position itself.
    bool places() const noexcept { return (what & places_bit) != 0; }
    /// The pointer's position is known after it.
    bool is_placed() const noexcept { return (what & placed_bit) != 0; }
    /// By how many nanoseconds its stamp was earlier than `time`, at most 2^48 - 1.
    std::int64_t late_by() const noexcept { return static_cast<std::int64_t>(what >> late_shift); }
    std::int64_t stamp() const noexcept { return time - late_by(); }
};
static_assert(sizeof(MotionSlot) == 12 * 8);

/// In place of a position in the ring of edges: the event was not stamped earlier than one posted before on its inlet.
inline constexpr std::uint64_t in_time = UINT64_MAX;

/// A value that a device's axis took, and what shaping makes of it; either may be as it was before. An event that moved
/// axes and did nothing else, in time, has slots in this ring only: its first slot counts it. Any other event also has
/// slots in the ring of edges, which count it and know whether it was late.
struct AxisSlot {
    std::int64_t time = 0;
    /// Device in the low 8 bits, then 8 bits axis, 15 bits track, the flags, and in the upper 30 bits how many events
    /// were counted here up to this slot.
    std::uint64_t what = 0;
    double value = 0, shaped = 0;
    std::uint64_t late_at = in_time;  ///< where its event's slot `late` stands in the ring of edges, if it has one

    static constexpr std::uint64_t same_bit = std::uint64_t{1} << 31, virtual_bit = std::uint64_t{1} << 32,
                                   counts_bit = std::uint64_t{1} << 33;
    static constexpr unsigned counted_shift = 34;
    static constexpr std::uint32_t counted_mask = (std::uint32_t{1} << 30) - 1;
    bool counts() const noexcept { return (what & counts_bit) != 0; }
    std::uint32_t counted() const noexcept { return static_cast<std::uint32_t>(what >> counted_shift); }
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    unsigned axis() const noexcept { return static_cast<unsigned>(what >> 8 & 0xFF); }
    unsigned track() const noexcept { return static_cast<unsigned>(what >> 16 & 0x7FFF); }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    /// Device, axis, track, and whether only the shaped value changed, as above.
    std::uint32_t who() const noexcept { return static_cast<std::uint32_t>(what); }
    /// How many events were counted from one slot's counted() to another's.
    static std::uint32_t counted_from(std::uint64_t before, std::uint32_t after) noexcept {
        return (after - static_cast<std::uint32_t>(before)) & counted_mask;
    }
};

/// What happens seldom and has more to say. Its event is counted elsewhere, as an axis's.
enum class FactKind : std::uint8_t {
    press,          ///< of a mouse button: a click may become of it
    drag,           ///< the pointer went far enough from it
    release,        ///< a click, and the end of a drag
    cancel,         ///< no click, and a drag called off
    contact_begin,  ///< of a touch surface
    contact_move,
    contact_end,
    contact_cancel,
    pointer_flags,  ///< outside or inside, locked or free
    connect,
    disconnect,
    locks,  ///< which lock keys' states are on
};

/// The lock keys, as bits of FactSlot::begin[0] of a `locks`; the bit behind them says that the inlet was told at all.
inline constexpr std::array<Button, 3> lock_keys{controls::CapsLock, controls::NumLock, controls::ScrollLock};
inline constexpr std::uint64_t locks_told = std::uint64_t{1} << lock_keys.size();

struct FactSlot {
    std::int64_t time = 0;
    /// Device in the low 8 bits, then 8 bits kind, 16 bits place (in the table of presses or contacts), 16 bits button,
    /// 8 bits count of clicks, then the flags.
    std::uint64_t what = 0;
    FixedDistance begin{};     ///< where the press was, or where the contact began; flags: bit 0 outside, bit 1 locked
    FixedDistance position{};  ///< now
    double measure = 0;        ///< of a press: the farthest from it, in square pixels; of a contact: its pressure
    std::int64_t begin_time = 0;
    std::uint64_t contact = 0;        ///< its id
    std::uint64_t late_at = in_time;  ///< as in AxisSlot

    static constexpr std::uint64_t virtual_bit = std::uint64_t{1} << 56, placed_bit = std::uint64_t{1} << 57,
                                   dragging_bit = std::uint64_t{1} << 58;
    static constexpr unsigned count_shift = 48;
    static constexpr std::uint64_t what_of(FactKind kind, unsigned place, unsigned button, unsigned count) noexcept {
        return std::uint64_t{static_cast<unsigned>(kind)} << 8 | std::uint64_t{place} << 16 |
               std::uint64_t{button} << 32 | std::uint64_t{count} << count_shift;
    }
    unsigned device() const noexcept { return static_cast<unsigned>(what & 0xFF); }
    FactKind kind() const noexcept { return static_cast<FactKind>(what >> 8 & 0xFF); }
    unsigned place() const noexcept { return static_cast<unsigned>(what >> 16 & 0xFFFF); }
    std::uint16_t button() const noexcept { return static_cast<std::uint16_t>(what >> 32); }
    unsigned count() const noexcept { return static_cast<unsigned>(what >> count_shift & 0xFF); }
    bool is_virtual() const noexcept { return (what & virtual_bit) != 0; }
    bool is_placed() const noexcept { return (what & placed_bit) != 0; }
    bool is_dragging() const noexcept { return (what & dragging_bit) != 0; }
    bool is_press() const noexcept { return kind() <= FactKind::cancel; }
    /// A device came or went.
    bool is_change() const noexcept { return kind() == FactKind::connect || kind() == FactKind::disconnect; }
    bool is_contact() const noexcept { return kind() >= FactKind::contact_begin && kind() <= FactKind::contact_cancel; }
    /// After it the press or contact goes on.
    bool goes_on() const noexcept {
        const FactKind k = kind();
        return k == FactKind::press || k == FactKind::drag || k == FactKind::contact_begin ||
               k == FactKind::contact_move;
    }
};
static_assert(sizeof(FactSlot) == 10 * 8);

/// A ring of slots that are so many words.
template <typename SlotType, template <typename> class Atomic = std::atomic>
class WordRing : public SlotRing<sizeof(SlotType) / 8, Atomic> {
    using Base = SlotRing<sizeof(SlotType) / 8, Atomic>;

    using Base::window;

public:
    using Base::Base;
    void write_words(const typename Base::Words& words) noexcept { Base::write(words); }
    void write(const SlotType& slot) noexcept { Base::write(std::bit_cast<typename Base::Words>(slot)); }
    void write_and_publish(const SlotType& slot) noexcept {
        Base::write_and_publish(std::bit_cast<typename Base::Words>(slot));
    }
    /// Consumer: word by word, since a wide load of what was just stored narrowly would wait. Likewise nothing is sure
    /// yet.
    void read(std::uint64_t position, SlotType& slot) const noexcept {
        read_words(position, slot, std::make_integer_sequence<unsigned, sizeof(SlotType) / 8>{});
    }
    bool try_read(std::uint64_t position, SlotType& slot) const noexcept {
        read(position, slot);
        return Base::still_has(position);
    }
    /// Consumer: the first position from `from` up to `end` whose slot is later than `time`; `end` if there is none.
    /// What was overwritten counts as not later. `guess`: about how far it is.
    std::uint64_t later_than(std::int64_t time, std::uint64_t from, std::uint64_t end,
                             std::uint64_t guess) const noexcept {
        if (from == end || time_at(end - 1) <= time) return end;
        return searched(time, from, end, guess);
    }
    /// The same of a `from` before `end`, but of which nothing is sure until still_has(from) says so; with a good guess
    /// it costs two looks.
    [[gnu::always_inline]] std::uint64_t quick_later_than(std::int64_t time, std::uint64_t from, std::uint64_t end,
                                                          std::uint64_t guess) const noexcept {
        const std::uint64_t high = end - 1;
        // Most consumers come after everything that was posted.
        if (static_cast<std::int64_t>(Base::first_word(high)) <= time) return end;
        if (high - from >= window) [[likely]] {
            // Slots around the guess, all at once: a search step by step takes a wrong turn at every other frame.
            const std::uint64_t low =
                from + std::min(std::max<std::uint64_t>(guess, window / 2) - window / 2, high - from - window);
            const unsigned earlier = Base::at_most(low, time);
            if (((earlier != 0) | (low == from)) & (earlier != window)) [[likely]]
                return low + earlier;
        }
        return searched(time, from, end, guess);
    }
    /// Consumer: the time of a slot, or INT64_MIN if it was overwritten.
    std::int64_t time_at(std::uint64_t position) const noexcept {
        const auto time = static_cast<std::int64_t>(Base::first_word(position));
        return Base::still_has(position) ? time : INT64_MIN;
    }

private:
    /// Step by step, further each time. The answer lies in [from, end - 1]: the slot before `end` was later when the
    /// caller looked. The producer may write over any slot meanwhile, so no two looks need agree; each step makes the
    /// interval smaller whatever it sees, and after about 2 log2(end - from) of them nothing is left of it.
    std::uint64_t searched(std::int64_t time, std::uint64_t from, std::uint64_t end,
                           std::uint64_t guess) const noexcept {
        std::uint64_t low = from, high = end - 1;  // all below low are not later; high is
        if (low == high) return high;
        const std::uint64_t about = low + std::min(guess, high - low - 1);
        const bool is_before = time_at(about) > time;
        (is_before ? high : low) = is_before ? about : about + 1;
        for (std::uint64_t step = 1; low != high; step *= 2) {
            const std::uint64_t look =
                is_before ? high - std::min(step, high - low) : low + std::min(step, high - low) - 1;
            const bool is_later = time_at(look) > time;
            (is_later ? high : low) = is_later ? look : look + 1;
            if (is_later != is_before) break;
        }
        while (low < high) {
            const std::uint64_t middle = low + (high - low) / 2;
            if (time_at(middle) <= time)
                low = middle + 1;
            else
                high = middle;
        }
        return high;
    }

    // Each word straight to its place: a copy of the whole would wait for them.
    template <unsigned... words_of_slot>
    void read_words(std::uint64_t position, SlotType& slot,
                    std::integer_sequence<unsigned, words_of_slot...>) const noexcept {
        auto* const bytes = reinterpret_cast<unsigned char*>(&slot);
        const auto* const words = Base::places().of(position);
        const auto read = [&](unsigned word) {
            const std::uint64_t value = words[word].load(std::memory_order_acquire);
            std::memcpy(bytes + std::size_t{8} * word, &value, 8);
        };
        (read(words_of_slot), ...);
    }
};
/// The last slot of every place, beside the ring: what a consumer needs that has not seen all of the ring. As the table
/// of holds: the producer shows a slot here after the ring has published it, and publishes them one by one.
template <typename SlotType, template <typename> class Atomic = std::atomic>
class SlotTable {
public:
    static constexpr unsigned slot_words = sizeof(SlotType) / 8;
    explicit SlotTable(unsigned places)
        : words_{std::make_unique<Atomic<std::uint64_t>[]>(std::size_t{places} * slot_words)} {}

    /// Producer.
    using Words = std::array<std::uint64_t, slot_words>;
    void show(unsigned place, const SlotType& slot) noexcept { show_words(place, std::bit_cast<Words>(slot)); }
    [[gnu::always_inline]] void show_words(unsigned place, const Words& words) noexcept {
        for (unsigned i = 0; i < slot_words; ++i)
            words_[std::size_t{place} * slot_words + i].store(words[i], std::memory_order_release);
    }

    /// Consumer: the table as of `position`. `place_of(slot)`: where a slot belongs, `count` if not here. False: try
    /// again.
    template <typename PlaceOf>
    bool try_read(const WordRing<SlotType, Atomic>& ring, unsigned first, unsigned count, SlotType* slots,
                  std::uint64_t& position, PlaceOf&& place_of) const noexcept {
        std::uint64_t from = ring.published();
        from -= from > 0;
        for (unsigned i = 0; i < count; ++i) {
            std::array<std::uint64_t, slot_words> plain;
            for (unsigned word = 0; word < slot_words; ++word)
                plain[word] = words_[std::size_t{first + i} * slot_words + word].load(std::memory_order_acquire);
            slots[i] = std::bit_cast<SlotType>(plain);
        }
        position = ring.published();
        for (SlotType slot; from != position; ++from) {
            if (!ring.try_read(from, slot)) return false;
            if (const unsigned place = place_of(slot); place < count) slots[place] = slot;
        }
        return true;
    }

private:
    std::unique_ptr<Atomic<std::uint64_t>[]> words_;
};

using MotionRing = WordRing<MotionSlot>;
using AxisRing = WordRing<AxisSlot>;
using FactRing = WordRing<FactSlot>;

}  // namespace cursorum::detail
