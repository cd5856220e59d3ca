// Snapshots as bytes, for a network or a file.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string_view>

#include "cursorum/core/export.hpp"
#include "cursorum/core/snapshot.hpp"

namespace cursorum {

/// Maximum size of a packed snapshot or difference, in bytes. Most take 10 to 20.
inline constexpr std::size_t packed_snapshot_room = 480;

/// Writes a snapshot to `bytes` and returns its size; 0 if there is not enough room. The bytes are the same on every
/// machine; docs/frame-format.md has their specification. Cost: proportional to the buttons that are down.
CURSORUM_API std::size_t pack(const Snapshot& snapshot, std::span<std::byte> bytes) noexcept;

/// Writes the changes from `base` to `snapshot`, usually a few bytes. The same `base` is needed to unpack it.
CURSORUM_API std::size_t pack_difference(const Snapshot& base, const Snapshot& snapshot,
                                         std::span<std::byte> bytes) noexcept;

/// The outcome of unpacking.
enum class Unpacking : std::uint8_t {
    done,
    truncated,        ///< they end too early
    too_long,         ///< there are bytes behind the end
    unknown_version,  ///< another version of the format
    unknown_kind,     ///< neither whole nor difference
    is_difference,    ///< a difference, which needs its base
    is_whole,         ///< a whole snapshot, although a base was given
    other_base,       ///< a difference from another base
    bad_time,         ///< beyond earliest_time and latest_time
    bad_button,       ///< an unknown button
    bad_number        ///< written in more bytes than it needs, or too large
};

/// In a short English sentence, for messages.
CURSORUM_API std::string_view describe(Unpacking result) noexcept;

/// Reads a whole snapshot. Any bytes are safe to pass; `snapshot` is written only if the result is `done`. A snapshot
/// has exactly one form, so only the bytes that pack() writes are accepted.
CURSORUM_API Unpacking try_unpack(std::span<const std::byte> bytes, Snapshot& snapshot) noexcept;

/// Reads a difference from `base`. A base that differs from the packer's is detected by a 32-bit checksum.
CURSORUM_API Unpacking try_unpack(std::span<const std::byte> bytes, const Snapshot& base, Snapshot& snapshot) noexcept;

}  // namespace cursorum
