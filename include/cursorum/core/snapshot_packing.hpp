// Snapshots as bytes, for a network or a file.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string_view>

#include "cursorum/core/snapshot.hpp"

namespace cursorum {

/// So many bytes are enough for any snapshot or difference. Most take 10 to 20.
inline constexpr std::size_t packed_snapshot_room = 416;

/// Writes a snapshot to `bytes`; returns how many it took, 0 if there was not enough room. The bytes are the same on
/// every machine; docs/snapshot-format.md is their specification. Costs by the buttons that are down.
std::size_t pack(const Snapshot& snapshot, std::span<std::byte> bytes) noexcept;

/// What changed from `base` to `snapshot`: a few bytes in most cases. Whoever unpacks it must have the same `base`.
std::size_t pack_difference(const Snapshot& base, const Snapshot& snapshot, std::span<std::byte> bytes) noexcept;

/// Why bytes are no snapshot.
enum class Unpacking : std::uint8_t {
    done,
    truncated,        ///< they end too early
    too_long,         ///< there are bytes behind the end
    unknown_version,  ///< another version of the format
    unknown_kind,     ///< neither whole nor difference
    is_difference,    ///< of another snapshot, which must be given
    is_whole,         ///< a base was given, which it does not need
    other_base,       ///< a difference from another snapshot than the one given
    bad_time,         ///< beyond earliest_time and latest_time
    bad_button,       ///< no such button
    bad_number        ///< written in more bytes than it needs, or too large
};

/// In a short English sentence, for messages.
std::string_view describe(Unpacking result) noexcept;

/// Reads a whole snapshot. Whatever the bytes are, nothing else happens than that it says so; `snapshot` is written
/// only when done. A snapshot has exactly one form, so bytes that are accepted are those that pack() gives.
Unpacking try_unpack(std::span<const std::byte> bytes, Snapshot& snapshot) noexcept;

/// Reads a difference from `base`. A base that is not the packer's is noticed (by 32 bits of a sum over it).
Unpacking try_unpack(std::span<const std::byte> bytes, const Snapshot& base, Snapshot& snapshot) noexcept;

}  // namespace cursorum
