// Rings of slots of any size, written word by word, and a table of the last slot of each number. Both are lock-free,
// for one producer and any number of consumers.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cstdint>
#include <cstring>
#include <memory>
#include <utility>

#include "core/rings/slot_ring.hpp"

namespace cursorum::detail {

/// A ring of slots that consist of whole words.
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
    /// Overwritten slots count as not later. `guess`: the expected distance.
    std::uint64_t later_than(std::int64_t time, std::uint64_t from, std::uint64_t end,
                             std::uint64_t guess) const noexcept {
        if (from == end || time_at(end - 1) <= time) return end;
        return searched(time, from, end, guess);
    }
    /// The same for `from` < `end`; the result may be torn until still_has(from) confirms it; with a good guess
    /// it costs two looks.
    [[gnu::always_inline]] std::uint64_t quick_later_than(std::int64_t time, std::uint64_t from, std::uint64_t end,
                                                          std::uint64_t guess) const noexcept {
        const std::uint64_t high = end - 1;
        // Most consumers cut after everything that was posted.
        if (static_cast<std::int64_t>(Base::first_word(high)) <= time) return end;
        if (high - from >= window) [[likely]] {
            // Slots around the guess, all at once: a stepwise search mispredicts in every other frame.
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
    /// A stepwise search with growing steps. The answer lies in [from, end - 1]: the slot before `end` was later when
    /// the caller looked. The producer may write over any slot meanwhile, so no two looks need agree; each step makes
    /// the interval smaller whatever it sees, and after about 2 log2(end - from) of them nothing is left of it.
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

    // Each word directly to its destination: a copy of the whole slot would wait for them.
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
/// The last slot of each index, in addition to the ring, for a consumer that has not seen the whole ring. As
/// the table of holds: the producer shows a slot here after the ring has published it, and publishes them one by one.
template <typename SlotType, template <typename> class Atomic = std::atomic>
class SlotTable {
public:
    static constexpr unsigned slot_words = sizeof(SlotType) / 8;
    explicit SlotTable(unsigned places)
        : words_{std::make_unique<Atomic<std::uint64_t>[]>(std::size_t{places} * slot_words)} {}

    /// Producer.
    using Words = std::array<std::uint64_t, slot_words>;
    void show(unsigned place, const SlotType& slot) noexcept { show_words(place, std::bit_cast<Words>(slot)); }
    void show_words(unsigned place, const Words& words) noexcept {
        show_each(place, words, std::make_integer_sequence<unsigned, slot_words>{});
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
    // Without a loop: the words come from registers.
    template <unsigned... words_of_slot>
    void show_each(unsigned place, const Words& words, std::integer_sequence<unsigned, words_of_slot...>) noexcept {
        Atomic<std::uint64_t>* const shown = &words_[std::size_t{place} * slot_words];
        (shown[words_of_slot].store(words[words_of_slot], std::memory_order_release), ...);
    }

    std::unique_ptr<Atomic<std::uint64_t>[]> words_;
};

}  // namespace cursorum::detail
