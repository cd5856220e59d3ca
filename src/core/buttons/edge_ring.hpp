// How edges of buttons are stored in an inlet's history: 16 bytes with the time, the button, the device, its hold, and
// what the rules made of the event. Also the table of each hold's last edge.
#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>

#include "core/rings/slot_ring.hpp"
#include "cursorum/core/detail/frame_window.hpp"

namespace cursorum::detail {

/// A slot in the ring of edges. `time` is the latest stamp that the inlet had seen when the event was posted, so it
/// never decreases from slot to slot (except in `late` slots). An edge of a key with an either-side name has a slot for
/// that name before its own. The low half: see make_tag().
struct Slot : StoredEdge {
    static constexpr Slot of(std::int64_t time, std::uint32_t low, unsigned button, unsigned device,
                             What what) noexcept {
        return {
            {time, low | std::uint64_t{button} << 32 | std::uint64_t{device} << 48 | std::uint64_t{what.bits} << 56}};
    }
    /// A slot of the kind `late`: in place of button and device, the last bits of a position in another ring. The
    /// event's own (`is_first`) has how many events of motion and wheel the inlet had posted before; the one for axes
    /// posted earlier has the position behind them in the ring of axes.
    static constexpr Slot late(std::int64_t stamp, std::uint32_t low, std::uint64_t behind, bool is_first) noexcept {
        return of(stamp, low, static_cast<std::uint16_t>(behind), static_cast<std::uint8_t>(behind >> 16),
                  What::of(SlotKind::late, Effect::none, is_first, false));
    }
    static constexpr unsigned behind_bits = 24;
    /// The number of slots of the other ring from `position` up to it; negative if `position` is after it.
    constexpr std::int32_t ahead_of(std::uint64_t position) const noexcept {
        constexpr unsigned unused = 32 - behind_bits;
        const auto gap = static_cast<std::uint32_t>(packed >> 32) - static_cast<std::uint32_t>(position);
        return static_cast<std::int32_t>(gap << unused) >> unused;
    }
    /// An edge of a device's own button (a slot for an either-side name repeats its key's).
    constexpr bool ends_or_begins_hold() const noexcept {
        return what().kind() <= SlotKind::cancel && button() < first_either_side;
    }
    /// For the last edge of a hold: the button is down. (A hold without an edge has no button and looks like a press.)
    constexpr bool is_held() const noexcept { return button() != 0 && what().device_is_down(); }
    constexpr Slot with_tag(std::uint32_t low) const noexcept { return {{time, (packed >> 32 << 32) | low}}; }
    /// The part of a slot's low half with the hold and whether the device is virtual.
    constexpr Slot without_extra() const noexcept { return {{time, packed & ~(std::uint64_t{0xFFFF'F800})}}; }
    constexpr Slot with_what(What what) const noexcept {
        return {{time, (packed << 8 >> 8) | std::uint64_t{what.bits} << 56}};
    }
};
static_assert(sizeof(Slot) == 16);

/// In a slot's low half: which hold begins or ends (`no_hold` where none does), whether the device is virtual, whether
/// the slot is anything but an edge or system repeat of a button that is made of no axes, and the last bits of how many
/// slots up to this one, itself included, were not their event's first: so every slot determines how many events there
/// were (its position + 1 - that).
constexpr unsigned extra_bits = 20, extra_shift = 12;
constexpr std::uint32_t virtual_bit = 0x400, unusual_bit = 0x800;
constexpr std::uint32_t make_tag(unsigned hold, bool is_virtual, std::uint32_t extra_slots) noexcept {
    return hold | is_virtual * virtual_bit | extra_slots << extra_shift;
}
constexpr unsigned hold_of(std::uint32_t low) noexcept { return low & 0x3FFU; }
constexpr bool is_virtual(std::uint32_t low) noexcept { return (low & virtual_bit) != 0; }
constexpr bool is_unusual(std::uint32_t low) noexcept { return (low & unusual_bit) != 0; }
constexpr std::uint32_t extra_of(std::uint32_t low) noexcept { return low >> extra_shift; }

/// Instead of a position in the ring of edges: the event was not late on its inlet.
inline constexpr std::uint64_t in_time = UINT64_MAX;

/// Slots of two words: the effects of events on buttons.
template <template <typename> class Atomic = std::atomic>
class BasicEdgeRing : public SlotRing<2, Atomic> {
    using Base = SlotRing<2, Atomic>;
    static typename Base::Words words_of(const Slot& slot) noexcept {
        return {static_cast<std::uint64_t>(slot.time), slot.packed};
    }
    static Slot slot_of(const typename Base::Words& words) noexcept {
        return {{static_cast<std::int64_t>(words[0]), words[1]}};
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

/// The last edge of each hold, in addition to the ring, for a consumer that has not seen the whole ring.
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
            if (last.ends_or_begins_hold()) holds[hold_of(last.tag()) - first] = last;
        }
        return true;
    }

private:
    std::unique_ptr<Atomic<std::uint64_t>[]> words_;
};
using HoldTable = BasicHoldTable<>;

}  // namespace cursorum::detail
