// The state that an action reader keeps from frame to frame. It holds no pointers into itself when it is saved: a head
// and a block of columns are copied as bytes, so that rollback costs two copies.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <type_traits>

#include "cursorum/actions/claim.hpp"
#include "cursorum/actions/profile.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

namespace detail {

/// Who has a button that is down: nobody, a mode (its number from `first_mode` on), a claim that was there when it was
/// pressed, a claim that came while it was down, or nobody until it is up, since the claim that had its press ended.
struct Owner {
    static constexpr std::uint8_t nobody = 0, first_mode = 1, first_claim = 96, first_late_claim = 128,
                                  owner_ended = 255;

    static constexpr bool is_mode(std::uint8_t owner) noexcept {
        return owner >= first_mode && owner < first_mode + mode_capacity;
    }
};
static_assert(Owner::first_mode + mode_capacity <= Owner::first_claim &&
              Owner::first_claim + claim_capacity <= Owner::first_late_claim &&
              Owner::first_late_claim + claim_capacity <= Owner::owner_ended);

constexpr bool is_mode(std::uint8_t owner, unsigned mode) noexcept { return owner == Owner::first_mode + mode; }

/// A set of modes, by their numbers.
using ModeBits = std::uint64_t;
static_assert(mode_capacity <= 64);
constexpr bool has_mode(ModeBits modes, unsigned mode) noexcept { return (modes >> mode & 1) != 0; }

/// The moving inputs other than buttons: each axis, motion, the wheel, touch. A set of them is 64 bits.
inline constexpr unsigned motion_flow = axis_kinds, wheel_flow = axis_kinds + 1, touch_flow = axis_kinds + 2,
                          flow_kinds = axis_kinds + 3;

/// Which modes are open, from the lowest up, and what is claimed.
struct Openings {
    std::array<std::uint8_t, mode_capacity> modes{};
    std::uint8_t count = 0;
    std::uint16_t claimed = 0;     // bit n: the claim n is in force
    std::uint16_t of_devices = 0;  // bit n: that claim keeps a device
    std::array<Claim, claim_capacity> claims{};
};

/// A reader's knowledge about its devices while it reads only some: those of a seat, or those without a claim.
struct DevicePart {
    bool is_part = false;
    std::uint16_t claimed_holds = 0;                       // not 0 in `claim_of`
    std::array<std::uint16_t, hold_capacity> buttons{};    // that each hold has down, as read; 0: none
    std::array<bool, hold_capacity> pressed{};             // not adopted
    std::array<std::uint8_t, hold_capacity> claim_of{};    // whose claim on its device had its press, from 1
    std::array<std::uint16_t, hold_capacity> claimed{};    // and of which button
    std::array<std::uint16_t, button_capacity> holders{};  // merged: as in merging.hpp
};

/// The part that every profile needs. Levels, beginnings and kinds of holds are those of the frame's start; all else is
/// as of its end.
struct ActionStateHead {
    std::int64_t t0 = 0, t1 = 0;
    std::uint64_t next_serial = 0;                       // that the next frame should have; 0 before the first
    std::uint64_t calls = 0;                             // of open(), close(), claim() and end_claim()
    Openings now, next;                                  // `next` from the next frame's start on
    bool reopens = false;                                // they differ
    std::uint32_t bindings = 0;                          // how many times they were changed
    bool rebinds = false;                                // for a saved state: the next frame changes them
    ModeBits visible = 0;                                // modes
    std::array<std::uint8_t, flow_kinds> flow_owners{};  // as `owner`: nobody, or a mode
    DevicePart part;
    ButtonSet::Words down{};
    struct Whose {
        std::uint8_t owner = 0;       // of those that are down
        std::uint8_t next_owner = 0;  // who gets the next press: nobody, a mode, a (late) claim
    };
    std::array<Whose, button_capacity> whose{};
    std::uint8_t composer = 0;  // who gets what an input method is composing
    struct Area {
        std::uint16_t action = 0;
        ClickArea area{};
    };
    std::uint16_t area_count = 0;
    // There are areas, or there were some when a button went down that may still be down: its press may not have counted.
    std::uint16_t with_areas = 0;
    std::array<Area, area_capacity> areas{};
    // The order in which they went down, for members of ordered chords; 0 if adopted.
    std::array<std::uint32_t, button_capacity> press_order{};
    std::uint32_t press_count = 0;
    std::uint16_t stale_switches = 0;  // how many have members that must come up first
};
static_assert(std::is_trivially_copyable_v<ActionStateHead>);

/// A profile's numbers of actions, switches and sources.
struct StateCounts {
    std::size_t actions = 0, switches = 0, sources = 0;
    std::size_t keys = 0;  // all of them if a mode takes text
};

/// One value for each action, switch or source, in the state's block.
template <typename Value>
class Column {
public:
    static_assert(std::is_trivially_copyable_v<Value>);
    Value& operator[](std::size_t number) const noexcept { return values_[number]; }
    Value* begin() const noexcept { return values_; }
    Value* end() const noexcept { return values_ + count_; }
    std::size_t size() const noexcept { return count_; }
    void fill(const Value& value) const noexcept { std::fill_n(values_, count_, value); }

    /// Places its values at `offset` of the block, if there is a block; returns their end.
    std::size_t lay_out(std::byte* block, std::size_t offset, std::size_t count) noexcept {
        values_ = block ? reinterpret_cast<Value*>(block + offset) : nullptr;
        count_ = count;
        return offset + count * sizeof(Value);
    }
    std::size_t offset_in(const std::byte* block) const noexcept {
        return static_cast<std::size_t>(reinterpret_cast<const std::byte*>(values_) - block);
    }

private:
    Value* values_ = nullptr;
    std::size_t count_ = 0;
};

/// The head, and a block of plain bytes that is as large as the profile needs. A block of zeros is a state in which
/// nothing happened.
class ActionState : public ActionStateHead {
public:
    // Bytes instead of bits: consecutive writes of bits would wait for each other.
    struct Switch {
        bool is_down = false, adopted = false;
    };
    // button actions
    struct Button {
        std::int64_t start = 0;     // of the hold
        std::uint16_t holders = 0;  // of its bindings: as in merging.hpp
        bool is_down = false;
        bool adopted = false;  // the hold
    };
    // axes and vectors
    struct Moving {
        Vector2 value, target;
        bool rises = false;
        std::uint8_t direction = 0;               // with `directions`: the bits of its direction
        std::int16_t facing_x = 0, facing_y = 0;  // where it points, times facing_unit
        static constexpr double facing_unit = 32767;
    };

    explicit ActionState(StateCounts counts);

    // Of each action.
    Column<Button> buttons;
    // gestures: the time of the present or last press; whether it may still become the gesture; whether the action is
    // down
    Column<std::int64_t> since;
    Column<bool> waits, is_on;
    // a buffered press, and since when
    Column<std::int64_t> buffered_since;
    Column<bool> holds_press;
    Column<bool> injected_down;
    // Debouncing: the time of the last accepted edge, whether there was one, the level since then, and that of the
    // bindings
    Column<std::int64_t> passed_at;
    Column<bool> has_passed, passed_down, bindings_down;
    Column<Moving> moving;
    Column<Vector2> injected;

    // For each switch, after a rebinding: the members that have to come up before it counts (bit 0 of a lock's). Bit 7:
    // its single member is down, and a chord that is gone took its press.
    static constexpr std::uint8_t passed_over = 0x80;
    Column<Switch> switches;
    Column<std::uint8_t> stale_members;
    bool has_stale_members(unsigned number) const noexcept { return (stale_members[number] & ~passed_over) != 0; }

    // For each source: the direction that went down last (bit 0 of x, bit 1 of y; bit 2: of which), and whether it was
    // newly bound and has to come to rest first.
    Column<Vector2> sources;
    Column<std::uint8_t> latest;
    Column<bool> stale_sources;

    // Who got the last press of each key, if a mode takes text: nobody if it was found down.
    Column<std::uint8_t> pressers;

    /// Copies the head and the data of actions from another state that has no more actions, but no switches or sources.
    void take_actions_of(const ActionState& other) noexcept;

    std::size_t byte_count() const noexcept { return sizeof(ActionStateHead) + block_size_; }
    /// `bytes` has byte_count(). For a state with the same counts.
    void write(std::byte* bytes) const noexcept;
    void read(const std::byte* bytes) noexcept;
    /// The offset of the action's Button in the output of write(). It may be unaligned.
    std::size_t offset_of_button(std::size_t action) const noexcept {
        return sizeof(ActionStateHead) + buttons.offset_in(block_.get()) + action * sizeof(Button);
    }

private:
    template <typename Visitor, typename... States>
    static void for_each_of_actions(Visitor&& visit, States&... of);
    std::size_t lay_out(std::byte* block, StateCounts counts) noexcept;

    std::size_t block_size_ = 0;
    std::unique_ptr<std::byte[]> block_;
};

}  // namespace detail
}  // namespace cursorum
