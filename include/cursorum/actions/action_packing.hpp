// A frame of actions in a few bytes, for peers that simulate the same game.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The precision of packed values.
struct ActionPacking {
    /// Bits of a value from -1 to 1, 4 to 16. It is off by at most 1 / (2^bits - 2): 0.004 with 8 bits.
    unsigned value_bits = 8;
};

/// All actions of one frame, rounded as they are packed: a plain value that outlives the frame. It has the same members
/// as a reader; game code that simulates from it gets the same bits on every peer.
class CURSORUM_API ActionFrame {
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
        double mean = 0;      ///< over the frame: multiplied by its length and a speed, it is the distance
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
    bool takes(std::uint16_t number, std::uint32_t numbering) const noexcept {
        return number < action_capacity && (numbering == numbering_ || numbering == 0 || numbering_ == 0);
    }
    /// Whole numbers, so that all is exact: of values and means in 1/`most_`, of relative ones in 1/256.
    struct Moving {
        std::array<std::int32_t, 2> value{}, mean{}, relative{};
        friend bool operator==(const Moving&, const Moving&) = default;
    };
    std::array<Button, action_capacity> buttons_{};
    std::array<Moving, action_capacity> moving_{};
    std::int32_t most_ = 127;
    std::uint32_t numbering_ = 0;  // of the handles that it takes; 0: any
};

/// Packs and unpacks the frames of one profile.
///
/// An idle action takes one bit, a button that is held two, and a button with edges ten. A moving axis takes twice
/// `value_bits` and a vector four times, and 24 or 48 bits more while a mouse or wheel moves it. Every frame has
/// exactly one form. Peers need the same profile (except for bindings) and the same ActionPacking: check both in their
/// handshake.
///
/// Threads: any, since it does not change. It allocates at construction only.
class CURSORUM_API ActionPacker {
public:
    /// A profile with a problem() is treated as one without actions; `value_bits` is clamped to its range.
    explicit ActionPacker(const Profile& profile, const ActionPacking& packing = {});

    /// Maximum size of a packed frame, in bytes.
    std::size_t most_bytes() const noexcept;

    /// The reader's frame, rounded as the peers will unpack it, so that the local game can use the same values.
    ActionFrame round(const ActionReader& reader) const noexcept;

    /// Packs the frame and returns its size; 0 if `bytes` is too small (most_bytes() is enough).
    std::size_t pack(const ActionFrame& frame, std::span<std::byte> bytes) const noexcept;

    /// Unpacks a frame. Returns false and leaves `frame` unchanged if these are not exactly the bytes of a frame: cut
    /// off, too long, or in another form. Any bytes are safe to pass.
    bool unpack(std::span<const std::byte> bytes, ActionFrame& frame) const noexcept;

private:
    std::vector<ActionKind> kinds_;
    unsigned value_bits_;
    std::uint32_t numbering_;
};

}  // namespace cursorum
