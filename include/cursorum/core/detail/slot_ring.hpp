// The ring through which an inlet hands what its events did to any number of samplers. Not for callers.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>

namespace cursorum::detail {

/// What happened to a button on a device. The first four are EdgeKind's values.
enum class SlotKind : std::uint8_t {
    press,
    release,
    adopt,
    cancel,
    system_repeat,
    plain,  ///< an event that did nothing to any button: it still moves time on
    late    ///< stands before a late event's slots; its time is the stamp the event came with
};

/// What that did to the merged button, all devices together.
enum class Effect : std::uint8_t {
    none,
    press,
    adopt,
    release,
    cancel,
    restart  ///< cancel, then press: pressed on one device while the others only adopted it
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
    /// A press of the merged button.
    constexpr bool presses() const noexcept { return effect() == Effect::press || effect() == Effect::restart; }
    /// A release or cancel of the merged button.
    constexpr bool ends() const noexcept { return effect() >= Effect::release; }
};

/// Two words, packed so that a slot of the ring becomes a record of a frame by changing its low half:
/// low 32 bits: the slot's hold or the record's link; then 16 bits button, 8 bits device, 8 bits What.
struct Entry {
    std::int64_t time;
    std::uint64_t packed;

    static constexpr Entry of(std::int64_t time, std::uint32_t low, unsigned button, unsigned device,
                              What what) noexcept {
        return {time, low | std::uint64_t{button} << 32 | std::uint64_t{device} << 48 | std::uint64_t{what.bits} << 56};
    }
    constexpr std::uint32_t low() const noexcept { return static_cast<std::uint32_t>(packed); }
    constexpr std::uint16_t button() const noexcept { return static_cast<std::uint16_t>(packed >> 32); }
    constexpr std::uint8_t device() const noexcept { return static_cast<std::uint8_t>(packed >> 48); }
    constexpr What what() const noexcept { return {static_cast<std::uint8_t>(packed >> 56)}; }
    constexpr Entry with_low(std::uint32_t low) const noexcept { return {time, (packed >> 32 << 32) | low}; }
    constexpr Entry with_what(What what) const noexcept {
        return {time, (packed << 8 >> 8) | std::uint64_t{what.bits} << 56};
    }
};
static_assert(sizeof(Entry) == 16);

/// What the ring holds. `time` is the latest stamp the inlet had seen when the event was posted, so it never goes down
/// from slot to slot (but in `late` slots). `low` tells which of the inlet's holds begins or ends, hold_capacity where
/// none does. An edge of a key with an either-side name has a slot for that name before its own.
using Slot = Entry;

/// One producer writes, any number of consumers read, nobody waits.
///
/// Who owns what: the producer alone stores, to slots and to both counters. `claimed_` runs ahead of the slots being
/// written, `published_` follows when they are whole. A consumer reads slots below `published_` and then looks at
/// `claimed_`: if the producer has not claimed the slot again meanwhile, what was read is whole. (The slots' words are
/// atomics with release and acquire, so a consumer that read a word of a newer lap also sees that lap's claim.)
/// Positions count slots since the beginning and never wrap (2^64).
class SlotRing {
public:
    /// `capacity` is a power of two. Allocates.
    explicit SlotRing(std::uint32_t capacity)
        : words_{std::make_unique<std::atomic<std::uint64_t>[]>(std::size_t{capacity} * 2)}, mask_{capacity - 1} {}

    std::uint64_t capacity() const noexcept { return std::uint64_t{mask_} + 1; }

    /// Producer: writes a slot that nobody sees yet.
    void write(const Slot& slot) noexcept {
        const std::uint64_t position = claimed_.load(std::memory_order_relaxed);
        claimed_.store(position + 1, std::memory_order_relaxed);
        std::atomic<std::uint64_t>* word = &words_[(position & mask_) * 2];
        word[0].store(static_cast<std::uint64_t>(slot.time), std::memory_order_release);
        word[1].store(slot.packed, std::memory_order_release);
    }
    /// Producer: shows all slots written so far, an event's slots together.
    void publish() noexcept { published_.store(claimed_.load(std::memory_order_relaxed), std::memory_order_release); }
    /// Producer: nothing was written since the last publish().
    bool is_published() const noexcept {
        return claimed_.load(std::memory_order_relaxed) == published_.load(std::memory_order_relaxed);
    }

    /// Consumer: the position behind the last whole slot.
    std::uint64_t published() const noexcept { return published_.load(std::memory_order_acquire); }

    /// Consumer: the oldest position that can still be read.
    std::uint64_t oldest() const noexcept {
        const std::uint64_t claimed = claimed_.load(std::memory_order_acquire);
        return claimed > capacity() ? claimed - capacity() : 0;
    }

    /// Consumer: reads the slot at a position below published(); false if it was overwritten.
    bool try_read(std::uint64_t position, Slot& slot) const noexcept {
        const std::atomic<std::uint64_t>* word = &words_[(position & mask_) * 2];
        slot.time = static_cast<std::int64_t>(word[0].load(std::memory_order_acquire));
        slot.packed = word[1].load(std::memory_order_acquire);
        return claimed_.load(std::memory_order_relaxed) - position <= capacity();
    }

private:
    std::unique_ptr<std::atomic<std::uint64_t>[]> words_;
    std::uint64_t mask_;
    std::atomic<std::uint64_t> claimed_{0};
    std::atomic<std::uint64_t> published_{0};
};

}  // namespace cursorum::detail
