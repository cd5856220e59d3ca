// The ring through which an inlet hands what its events did to any number of samplers. Not for callers.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>

namespace cursorum::detail {

/// What a slot says happened. The first four are EdgeKind's values.
enum class SlotKind : std::uint8_t {
    press,
    release,
    adopt,
    cancel,
    system_repeat,
    plain,  ///< an event that did nothing to any button: it still moves time on
    late    ///< stands before a late event's slots; its time is the stamp the event came with
};

/// 16 bytes. `time` is the latest stamp the inlet had seen when the event was posted, so it never goes down from slot
/// to slot (but in `late` slots).
struct Slot {
    std::int64_t time;
    std::uint16_t button;
    std::uint16_t hold;  ///< which of the inlet's holds begins or ends; hold_capacity where none does
    std::uint8_t device;
    std::uint8_t what;  ///< SlotKind | first_of_event
    std::uint16_t unused = 0;

    static constexpr std::uint8_t kind_mask = 0x07;
    static constexpr std::uint8_t first_of_event = 0x08;  ///< counts events

    SlotKind kind() const noexcept { return static_cast<SlotKind>(what & kind_mask); }
};
static_assert(sizeof(Slot) == 16);

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
        const std::uint64_t position = writing_++;
        claimed_.store(writing_, std::memory_order_relaxed);
        std::atomic<std::uint64_t>* word = &words_[(position & mask_) * 2];
        word[0].store(static_cast<std::uint64_t>(slot.time), std::memory_order_release);
        word[1].store(std::uint64_t{slot.button} | std::uint64_t{slot.hold} << 16 | std::uint64_t{slot.device} << 32 |
                          std::uint64_t{slot.what} << 40,
                      std::memory_order_release);
    }
    /// Producer: shows all slots written so far, an event's slots together.
    void publish() noexcept { published_.store(writing_, std::memory_order_release); }

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
        const std::uint64_t packed = word[1].load(std::memory_order_acquire);
        slot.button = static_cast<std::uint16_t>(packed);
        slot.hold = static_cast<std::uint16_t>(packed >> 16);
        slot.device = static_cast<std::uint8_t>(packed >> 32);
        slot.what = static_cast<std::uint8_t>(packed >> 40);
        return claimed_.load(std::memory_order_relaxed) - position <= capacity();
    }

private:
    std::unique_ptr<std::atomic<std::uint64_t>[]> words_;
    std::uint64_t mask_;
    std::uint64_t writing_ = 0;  // the producer's own
    std::atomic<std::uint64_t> claimed_{0};
    std::atomic<std::uint64_t> published_{0};
};

}  // namespace cursorum::detail
