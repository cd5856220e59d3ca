// A frame of actions in a few bytes, for peers that simulate the same game.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "cursorum/actions/action_reader.hpp"

namespace cursorum {

/// How exactly values are packed.
struct ActionPacking {
    /// Bits of a value from -1 to 1, 4 to 16. It is off by at most 1 / (2^bits - 2): 0.004 with 8 bits.
    unsigned value_bits = 8;
};

/// What a frame said of all actions, rounded as it is packed: a plain value, good for as long as you like. Asked as a
/// reader is; game code that simulates from one of these gets the same bits on every peer.
class ActionFrame {
public:
    struct Button {
        bool is_down = false, was_ended = false;
        std::uint8_t press_count = 0, release_count = 0;  ///< at most 3
        std::uint8_t steps = 0;                           ///< presses and repeats, at most 7

        constexpr bool down() const noexcept { return is_down; }
        constexpr bool pressed() const noexcept { return press_count != 0; }
        constexpr bool released() const noexcept { return release_count != 0; }
        constexpr bool ended() const noexcept { return was_ended; }
        friend constexpr bool operator==(const Button&, const Button&) = default;
    };
    struct Axis {
        double value = 0;     ///< at the frame's end
        double mean = 0;      ///< over the frame: times its length and a speed, it is the way gone
        double relative = 0;  ///< of mice and wheels, in 1/256, at most 32,767 either way
        friend constexpr bool operator==(const Axis&, const Axis&) = default;
    };
    struct Vector {
        Vector2 value, mean, relative;  ///< likewise; neither value nor mean is longer than 1
        friend constexpr bool operator==(const Vector&, const Vector&) = default;
    };

    Button operator[](ButtonAction action) const noexcept;
    Axis operator[](AxisAction action) const noexcept;
    Vector operator[](VectorAction action) const noexcept;

    friend bool operator==(const ActionFrame&, const ActionFrame&) = default;

private:
    friend class ActionPacker;
    /// Whole numbers, so that all is exact: of values and means in 1/`most_`, of relative ones in 1/256.
    struct Moving {
        std::array<std::int32_t, 2> value{}, mean{}, relative{};
        friend bool operator==(const Moving&, const Moving&) = default;
    };
    std::array<Button, action_capacity> buttons_{};
    std::array<Moving, action_capacity> moving_{};
    std::int32_t most_ = 127;
};

/// Packs and unpacks the frames of one profile.
///
/// One bit for each action that is idle, two for a button that is just held, ten for one with edges; for an axis that
/// moves twice `value_bits`, for a vector four times, and 24 or 48 bits more while a mouse or wheel moves it. Every
/// frame has exactly one form. Peers need the same profile, but for bindings, and the same ActionPacking: both belong
/// in their handshake.
///
/// Threads: any, it does not change. Allocates at construction only.
class ActionPacker {
public:
    /// One that has a problem() packs as one without actions; `value_bits` is brought into its range.
    explicit ActionPacker(const Profile& profile, const ActionPacking& packing = {});

    /// The most bytes that a frame takes.
    std::size_t most_bytes() const noexcept;

    /// The reader's frame, rounded: what the peers will unpack, for the local game to go by, too.
    ActionFrame round(const ActionReader& reader) const noexcept;

    /// Returns the number of bytes; 0 if `bytes` has not enough room (most_bytes() is enough).
    std::size_t pack(const ActionFrame& frame, std::span<std::byte> bytes) const noexcept;

    /// False, and `frame` is as it was, if these are not exactly the bytes of some frame: cut off, too long, or not in
    /// the one form. Bytes from a stranger do no harm.
    bool unpack(std::span<const std::byte> bytes, ActionFrame& frame) const noexcept;

private:
    std::vector<ActionKind> kinds_;
    unsigned value_bits_;
};

}  // namespace cursorum
