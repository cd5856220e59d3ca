// The ring through which an inlet hands what its events did to any number of samplers. Not for callers.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <utility>

#include "cursorum/core/control.hpp"

namespace cursorum::detail {

/// What happened to a button on a device. The first four are EdgeKind's values.
enum class SlotKind : std::uint8_t {
    press,
    release,
    adopt,
    cancel,
    system_repeat,
    plain,  ///< an event that did nothing to any button: it still moves time on
    late,   ///< stands before a late event's slots (at least one); its time is the stamp the event came with. Before it
            ///< another one may stand, with the stamp of axes posted earlier whose event has no slots here
    undo    ///< the slot behind it takes back what axes of the same device and time did to the same button
};

/// What that did to the merged button, all devices together. In the values, bit 0: its level turned; bit 2: a hold
/// ended.
enum class Effect : std::uint8_t {
    none = 0,
    press = 1,
    adopt = 3,
    release = 5,
    restart = 6,  ///< cancel, then press: pressed on one device while the others only adopted it
    cancel = 7
};

/// Kind, effect and two flags in one byte; slots and the frames' records have the same.
struct What {
    std::uint8_t bits;

    static constexpr std::uint8_t first = 0x08, down_after = 0x80;

    static constexpr What of(SlotKind kind, Effect effect, bool is_first, bool is_down) noexcept {
        return {static_cast<std::uint8_t>(static_cast<unsigned>(kind) | static_cast<unsigned>(effect) << 4 |
                                          is_first * unsigned{first} | is_down * unsigned{down_after})};
    }
    constexpr SlotKind kind() const noexcept { return static_cast<SlotKind>(bits & 0x07); }
    constexpr Effect effect() const noexcept { return static_cast<Effect>(bits >> 4 & 0x07); }
    /// The first slot of its event.
    constexpr bool is_first() const noexcept { return (bits & first) != 0; }
    /// The merged button is down after it.
    constexpr bool is_down() const noexcept { return (bits & down_after) != 0; }
    /// The device's button is down after it (edges only).
    constexpr bool device_is_down() const noexcept { return kind() == SlotKind::press || kind() == SlotKind::adopt; }
    // Of the merged button. Without branches: presses and releases come in no order that a processor could guess.
    /// It went down or came up.
    constexpr bool turns() const noexcept { return (bits & 0x10) != 0; }
    /// A hold ended: a release, a cancel or a restart.
    constexpr bool ends() const noexcept { return (bits & 0x40) != 0; }
    /// A hold began: a press, an adopt or a restart.
    constexpr bool starts() const noexcept { return turns() != ends(); }
    /// A press.
    constexpr bool presses() const noexcept { return starts() & (effect() != Effect::adopt); }
};

/// Two words: a slot of the ring, and the record of a frame that it becomes.
/// Low 32 bits: see slot_low(); then 16 bits button, 8 bits device, 8 bits What.
struct Entry {
    std::int64_t time;
    std::uint64_t packed;

    static constexpr Entry of(std::int64_t time, std::uint32_t low, unsigned button, unsigned device,
                              What what) noexcept {
        return {time, low | std::uint64_t{button} << 32 | std::uint64_t{device} << 48 | std::uint64_t{what.bits} << 56};
    }
    /// A slot of the kind `late`: in place of button and device, the last bits of a position in another ring. The
    /// event's own (`is_first`) has how many events of motion and wheel the inlet had posted before; the one for axes
    /// posted earlier has the position behind them in the ring of axes.
    static constexpr Entry late(std::int64_t stamp, std::uint32_t low, std::uint64_t behind, bool is_first) noexcept {
        return of(stamp, low, static_cast<std::uint16_t>(behind), static_cast<std::uint8_t>(behind >> 16),
                  What::of(SlotKind::late, Effect::none, is_first, false));
    }
    static constexpr unsigned behind_bits = 24;
    /// How many slots of the other ring from `position` on are before it; negative if that lies behind it.
    constexpr std::int32_t ahead_of(std::uint64_t position) const noexcept {
        constexpr unsigned unused = 32 - behind_bits;
        const auto gap = static_cast<std::uint32_t>(packed >> 32) - static_cast<std::uint32_t>(position);
        return static_cast<std::int32_t>(gap << unused) >> unused;
    }
    constexpr std::uint32_t low() const noexcept { return static_cast<std::uint32_t>(packed); }
    constexpr std::uint16_t button() const noexcept { return static_cast<std::uint16_t>(packed >> 32); }
    constexpr std::uint8_t device() const noexcept { return static_cast<std::uint8_t>(packed >> 48); }
    constexpr What what() const noexcept { return {static_cast<std::uint8_t>(packed >> 56)}; }
    /// An edge of a device's own button (a slot for an either-side name repeats its key's).
    constexpr bool ends_or_begins_hold() const noexcept {
        return what().kind() <= SlotKind::cancel && button() < first_either_side;
    }
    /// Of the last edge of a hold: it is down. (One that never had an edge has no button and looks like a press.)
    constexpr bool is_held() const noexcept { return button() != 0 && what().device_is_down(); }
    constexpr Entry with_low(std::uint32_t low) const noexcept { return {time, (packed >> 32 << 32) | low}; }
    /// Of a slot's low half only the hold, and whether the device is virtual.
    constexpr Entry without_extra() const noexcept { return {time, packed & ~(std::uint64_t{0xFFFF'F800})}; }
    constexpr Entry with_what(What what) const noexcept {
        return {time, (packed << 8 >> 8) | std::uint64_t{what.bits} << 56};
    }
};
static_assert(sizeof(Entry) == 16);

/// What the ring of edges holds. `time` is the latest stamp the inlet had seen when the event was posted, so it never
/// goes down from slot to slot (but in `late` slots). An edge of a key with an either-side name has a slot for that
/// name before its own. `low` tells three things, see below.
using Slot = Entry;

/// In a slot's low half: which hold begins or ends (`no_hold` where none does), whether the device is virtual, whether
/// the slot is anything but an edge or system repeat of a button that is made of no axes, and the last bits of how many
/// slots up to this one, itself included, were not their event's first: so every slot tells how many events there were
/// (its position + 1 - that).
constexpr unsigned extra_bits = 20, extra_shift = 12;
constexpr std::uint32_t virtual_bit = 0x400, unusual_bit = 0x800;
constexpr std::uint32_t slot_low(unsigned hold, bool is_virtual, std::uint32_t extra_slots) noexcept {
    return hold | is_virtual * virtual_bit | extra_slots << extra_shift;
}
constexpr unsigned hold_of(std::uint32_t low) noexcept { return low & 0x3FFU; }
constexpr bool is_virtual(std::uint32_t low) noexcept { return (low & virtual_bit) != 0; }
constexpr bool is_unusual(std::uint32_t low) noexcept { return (low & unusual_bit) != 0; }
constexpr std::uint32_t extra_of(std::uint32_t low) noexcept { return low >> extra_shift; }

/// A consumer that copies a table fails if the producer goes round the whole ring meanwhile, which takes the producer
/// far longer than the copy. After this many failures in a row the consumer gives up, and heals at its next cut: no
/// loop over what another thread writes goes on for as long as that thread likes.
template <typename Try>
bool try_often(Try&& try_once) noexcept {
    constexpr unsigned most_tries = 16;
    for (unsigned tries = 0; tries < most_tries; ++tries)
        if (try_once()) return true;
    return false;
}

/// One producer writes, any number of consumers read, nobody waits.
///
/// Who owns what: the producer alone stores, to slots and to both counters. `claimed_` runs ahead of the slots being
/// written, `published_` follows when they are whole. A consumer reads slots below `published_` and then looks at
/// `claimed_`: if the producer has not claimed the slot again meanwhile, what was read is whole. (The slots' words are
/// atomics with release and acquire, so a consumer that read a word of a newer lap also sees that lap's claim.)
/// Positions count slots since the beginning and never wrap (2^64).
///
/// `Atomic` is std::atomic; the tests put in its place one that lets readers see all that the memory model
/// allows.
template <unsigned slot_words, template <typename> class Atomic = std::atomic>
class SlotRing {
public:
    using Words = std::array<std::uint64_t, slot_words>;

    /// `capacity` is a power of two. Allocates.
    explicit SlotRing(std::uint32_t capacity)
        : words_{std::make_unique<Atomic<std::uint64_t>[]>(std::size_t{capacity} * slot_words)},
          first_words_{has_first_words ? std::make_unique<Atomic<std::uint64_t>[]>(capacity) : nullptr},
          mask_{capacity - 1},
          capacity_{capacity} {}

    std::uint64_t capacity() const noexcept { return capacity_; }

    /// Producer: writes a slot that nobody sees yet; returns the position behind it.
    std::uint64_t write(const Words& slot) noexcept {
        const std::uint64_t position = next();
        Atomic<std::uint64_t>* const words = words_.get() + (position & mask_) * slot_words;
        claimed_.store(position + 1, std::memory_order_relaxed);
        if constexpr (has_first_words) first_words_[position & mask_].store(slot[0], std::memory_order_release);
        store(words, slot, std::make_integer_sequence<unsigned, slot_words>{});
        return position + 1;
    }
    /// Producer: both at once.
    void write_and_publish(const Words& slot) noexcept { published_.store(write(slot), std::memory_order_release); }
    /// Producer: shows all slots written so far, an event's slots together.
    void publish() noexcept { published_.store(next(), std::memory_order_release); }
    /// Producer: the position that the next slot will have.
    std::uint64_t next() const noexcept { return claimed_.load(std::memory_order_relaxed); }
    /// Producer: a slot that it wrote, less than the capacity ago.
    Words own(std::uint64_t position) const noexcept {
        const Atomic<std::uint64_t>* const words = words_.get() + (position & mask_) * slot_words;
        Words slot;
        for (unsigned i = 0; i < slot_words; ++i) slot[i] = words[i].load(std::memory_order_relaxed);
        return slot;
    }

    /// Consumer: the position behind the last whole slot.
    std::uint64_t published() const noexcept { return published_.load(std::memory_order_acquire); }

    /// Consumer: the oldest position that can still be read.
    std::uint64_t oldest() const noexcept {
        const std::uint64_t claimed = claimed_.load(std::memory_order_acquire);
        return claimed > capacity() ? claimed - capacity() : 0;
    }

    /// Consumer: the slot at a position below published(), of which nothing is sure until still_has() says so. Each
    /// word is one that some slot had.
    Words read(std::uint64_t position) const noexcept { return places().read(position); }
    /// Consumer: of `window` slots from a position on, whose first words, as signed numbers, never go down, how many
    /// have one of at most `bound`; likewise. `window` too if the ring's end is among them: ask one by one.
    static constexpr unsigned window = 7;
    unsigned at_most(std::uint64_t position, std::int64_t bound) const noexcept {
        const std::uint64_t place = position & mask_;
        if (!has_first_words || place + window > capacity()) return window;
        const Atomic<std::uint64_t>* const words = &first_words_[place];
        const auto is_at_most = [&](unsigned i) -> unsigned {
            return static_cast<std::int64_t>(words[i].load(std::memory_order_acquire)) <= bound;
        };
        // By halves, without a branch.
        unsigned count = is_at_most(3) * 4;
        count += is_at_most(count + 1) * 2;
        return count + is_at_most(count);
    }
    /// Consumer: the first word of it, likewise.
    std::uint64_t first_word(std::uint64_t position) const noexcept {
        const std::uint64_t place = position & mask_;
        return (has_first_words ? first_words_[place] : words_[place * slot_words]).load(std::memory_order_acquire);
    }
    /// Consumer: where slots are, to be read word by word; likewise. By value, for loops: what they write in between
    /// could change the ring's members, for all that the compiler knows.
    struct Places {
        const Atomic<std::uint64_t>* words;
        std::uint64_t mask;
        const Atomic<std::uint64_t>* of(std::uint64_t position) const noexcept {
            return words + (position & mask) * slot_words;
        }
        Words read(std::uint64_t position) const noexcept {
            return load(of(position), std::make_integer_sequence<unsigned, slot_words>{});
        }
    };
    Places places() const noexcept { return {words_.get(), mask_}; }
    /// Consumer: neither that slot nor a newer one was overwritten when they were read.
    bool still_has(std::uint64_t position) const noexcept {
        return claimed_.load(std::memory_order_relaxed) - position <= capacity();
    }
    /// Consumer: both at once; false if it was overwritten.
    bool try_read(std::uint64_t position, Words& slot) const noexcept {
        slot = read(position);
        return still_has(position);
    }

private:
    // Without loops: the words come from registers, and go there.
    template <unsigned... words_of_slot>
    static Words load(const Atomic<std::uint64_t>* words, std::integer_sequence<unsigned, words_of_slot...>) noexcept {
        return {words[words_of_slot].load(std::memory_order_acquire)...};
    }
    template <unsigned... words_of_slot>
    static void store(Atomic<std::uint64_t>* words, const Words& slot,
                      std::integer_sequence<unsigned, words_of_slot...>) noexcept {
        (words[words_of_slot].store(slot[words_of_slot], std::memory_order_release), ...);
    }

    // Of large slots the first words stand here too, side by side: who looks for a time goes through a few lines of the
    // cache instead of one for every slot.
    static constexpr bool has_first_words = slot_words > 5;

    std::unique_ptr<Atomic<std::uint64_t>[]> words_, first_words_;
    std::uint64_t mask_, capacity_;
    // A line of their own: consumers come to look while the producer works on what it shares with nobody.
    alignas(64) Atomic<std::uint64_t> claimed_{0};
    Atomic<std::uint64_t> published_{0};
};

/// Slots of two words: what events did to buttons.
template <template <typename> class Atomic = std::atomic>
class BasicEdgeRing : public SlotRing<2, Atomic> {
    using Base = SlotRing<2, Atomic>;
    static typename Base::Words words_of(const Slot& slot) noexcept {
        return {static_cast<std::uint64_t>(slot.time), slot.packed};
    }
    static Slot slot_of(const typename Base::Words& words) noexcept {
        return {static_cast<std::int64_t>(words[0]), words[1]};
    }

public:
    using Base::Base;
    void write(const Slot& slot) noexcept { Base::write(words_of(slot)); }
    void write_and_publish(const Slot& slot) noexcept { Base::write_and_publish(words_of(slot)); }
    Slot own(std::uint64_t position) const noexcept { return slot_of(Base::own(position)); }
    Slot read(std::uint64_t position) const noexcept { return slot_of(Base::read(position)); }
    static Slot read(const typename Base::Places& places, std::uint64_t position) noexcept {
        return slot_of(places.read(position));
    }
    bool try_read(std::uint64_t position, Slot& slot) const noexcept {
        slot = read(position);
        return Base::still_has(position);
    }
};
using EdgeRing = BasicEdgeRing<>;

/// The last edge of every hold, beside the ring: what a consumer needs that has not seen all of the ring.
///
/// The producer shows an edge here after the ring has published it. So whoever copies the table, and then reads in the
/// ring what was published meanwhile, has the truth as of one position, however the copy was torn: what changed while
/// it was copied is said again by those slots; and of what was published before, only the last event may be missing,
/// whose slots are read again too. Nobody waits; a consumer tries again if the producer went round the whole ring
/// meanwhile.
template <template <typename> class Atomic = std::atomic>
class BasicHoldTable {
public:
    explicit BasicHoldTable(unsigned holds)
        : words_{std::make_unique<Atomic<std::uint64_t>[]>(std::size_t{holds} * 2)} {}

    /// Producer.
    void show(unsigned hold, const Slot& edge) noexcept {
        Atomic<std::uint64_t>* const words = &words_[std::size_t{hold} * 2];
        words[0].store(static_cast<std::uint64_t>(edge.time), std::memory_order_release);
        words[1].store(edge.packed, std::memory_order_release);
    }

    /// Consumer: the table as of `position`, behind the slot `last`, of the holds from `first` on. False: try again.
    template <typename Ring>
    bool try_read(const Ring& ring, unsigned first, unsigned count, Slot* holds, std::uint64_t& position,
                  Slot& last) const noexcept {
        std::uint64_t from = ring.published();
        while (from > 0) {
            if (!ring.try_read(--from, last)) return false;
            if (last.what().is_first()) break;
        }
        for (unsigned i = 0; i < count; ++i) {
            const Atomic<std::uint64_t>* const words = &words_[std::size_t{first + i} * 2];
            holds[i].time = static_cast<std::int64_t>(words[0].load(std::memory_order_acquire));
            holds[i].packed = words[1].load(std::memory_order_acquire);
        }
        position = ring.published();
        for (; from != position; ++from) {
            if (!ring.try_read(from, last)) return false;
            if (last.ends_or_begins_hold()) holds[hold_of(last.low()) - first] = last;
        }
        return true;
    }

private:
    std::unique_ptr<Atomic<std::uint64_t>[]> words_;
};
using HoldTable = BasicHoldTable<>;

}  // namespace cursorum::detail
