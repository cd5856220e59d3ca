// The lock-free ring through which one thread hands slots to any number of others. The producer overwrites the oldest
// and never waits; a consumer finds out whether what it read was overwritten meanwhile.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <utility>

namespace cursorum::detail {

/// A consumer that copies a table fails if the producer wraps around the whole ring meanwhile, which takes far longer
/// than the copy. After this many failures in a row, the consumer gives up and heals at its next cut: no loop over
/// another thread's data may run for an unbounded time.
template <typename Try>
bool try_often(Try&& try_once) noexcept {
    constexpr unsigned most_tries = 16;
    for (unsigned tries = 0; tries < most_tries; ++tries)
        if (try_once()) return true;
    return false;
}

/// One producer writes, any number of consumers read, and no thread waits.
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

    /// Producer: writes a slot without publishing it; returns the position after it.
    std::uint64_t write(const Words& slot) noexcept {
        const std::uint64_t position = next();
        Atomic<std::uint64_t>* const words = words_.get() + (position & mask_) * slot_words;
        claimed_.store(position + 1, std::memory_order_relaxed);
        if constexpr (has_first_words) first_words_[position & mask_].store(slot[0], std::memory_order_release);
        store(words, slot, std::make_integer_sequence<unsigned, slot_words>{});
        return position + 1;
    }
    /// Producer: several slots of one word at once, published together.
    template <typename... Slots>
    void write_together(Slots... slots) noexcept {
        static_assert(slot_words == 1);
        std::uint64_t position = next();
        claimed_.store(position + sizeof...(slots), std::memory_order_relaxed);
        (words_[position++ & mask_].store(slots, std::memory_order_release), ...);
        published_.store(position, std::memory_order_release);
    }
    /// Producer: both at once.
    void write_and_publish(const Words& slot) noexcept { published_.store(write(slot), std::memory_order_release); }
    /// Producer: publishes all slots written so far, so that an event's slots appear together.
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

    /// Consumer: the position after the last complete slot.
    std::uint64_t published() const noexcept { return published_.load(std::memory_order_acquire); }

    /// Consumer: the oldest position that can still be read.
    std::uint64_t oldest() const noexcept {
        const std::uint64_t claimed = claimed_.load(std::memory_order_acquire);
        return claimed > capacity() ? claimed - capacity() : 0;
    }

    /// Consumer: the slot at a position below published(); it may be torn until still_has() confirms it. Each word is
    /// one that some slot had.
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
        // Binary search without branches.
        unsigned count = is_at_most(3) * 4;
        count += is_at_most(count + 1) * 2;
        return count + is_at_most(count);
    }
    /// Consumer: the first word of it, likewise.
    std::uint64_t first_word(std::uint64_t position) const noexcept {
        const std::uint64_t place = position & mask_;
        return (has_first_words ? first_words_[place] : words_[place * slot_words]).load(std::memory_order_acquire);
    }
    /// Any thread: replaces the first word of a slot, unless it is no longer `was`, since the producer has written
    /// there.
    void replace(std::uint64_t position, std::uint64_t was, std::uint64_t by) noexcept {
        words_[(position & mask_) * slot_words].compare_exchange_strong(was, by, std::memory_order_acq_rel);
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

    // The first words of large slots are also stored here, contiguously: a search by time touches a few cache lines
    // instead of one for each slot.
    static constexpr bool has_first_words = slot_words > 5;

    std::unique_ptr<Atomic<std::uint64_t>[]> words_, first_words_;
    std::uint64_t mask_, capacity_;
    // A cache line of their own: consumers read them while the producer works on its private members.
    alignas(64) Atomic<std::uint64_t> claimed_{0};
    Atomic<std::uint64_t> published_{0};
};

}  // namespace cursorum::detail
