// Snapshots as few bytes: as a difference from an earlier one that the receiver has, or whole. Each has a sum, so that
// a difference from another snapshot is refused.
#include "cursorum/core/snapshot_packing.hpp"

#include <algorithm>
#include <array>

namespace cursorum {
namespace {

constexpr std::uint8_t version = 1;
enum Kind : std::uint8_t { whole = 0, difference = 1 };

/// Little-endian base 128; the highest bit means that more bytes follow.
class Writer {
public:
    explicit Writer(std::span<std::byte> bytes) noexcept : bytes_{bytes} {}
    void byte(std::uint64_t value) noexcept {
        if (size_ < bytes_.size()) bytes_[size_] = static_cast<std::byte>(value);
        ++size_;
    }
    void number(std::uint64_t value) noexcept {
        for (; value >= 0x80; value >>= 7) byte((value & 0x7F) | 0x80);
        byte(value);
    }
    /// Values near zero take few bytes: 0, -1, 1, -2 …
    void signed_number(std::int64_t value) noexcept {
        number(static_cast<std::uint64_t>(value) << 1 ^ static_cast<std::uint64_t>(value >> 63));
    }
    /// The count, followed by the gaps between numbers.
    void buttons(const ButtonSet& set) noexcept {
        number(set.size());
        unsigned last = 0;
        set.for_each([&](Button button) {
            number(button.number - last);
            last = button.number;
        });
    }
    std::size_t size() const noexcept { return size_ <= bytes_.size() ? size_ : 0; }

private:
    std::span<std::byte> bytes_;
    std::size_t size_ = 0;
};

class Reader {
public:
    explicit Reader(std::span<const std::byte> bytes) noexcept : bytes_{bytes} {}
    Unpacking result() const noexcept { return result_; }
    void fail(Unpacking why) noexcept {
        if (result_ == Unpacking::done) result_ = why;
    }
    std::uint8_t byte() noexcept {
        if (at_ < bytes_.size()) return static_cast<std::uint8_t>(bytes_[at_++]);
        fail(Unpacking::truncated);
        return 0;
    }
    std::uint64_t number() noexcept {
        std::uint64_t value = 0;
        for (unsigned shift = 0; shift < 64; shift += 7) {
            const std::uint64_t next = byte();
            if (result_ != Unpacking::done) return 0;
            value |= (next & 0x7F) << shift;
            if (next >= 0x80) continue;
            if ((next == 0 && shift > 0) || (shift == 63 && next > 1)) break;
            return value;
        }
        fail(Unpacking::bad_number);
        return 0;
    }
    std::int64_t signed_number() noexcept {
        const std::uint64_t value = number();
        return static_cast<std::int64_t>(value >> 1 ^ (0 - (value & 1)));
    }
    ButtonSet buttons() noexcept {
        ButtonSet set;
        std::uint64_t left = number(), last = 0;
        if (left > button_capacity) fail(Unpacking::bad_button);
        for (; left > 0 && result_ == Unpacking::done; --left) {
            const std::uint64_t gap = number();
            last += gap < button_capacity ? gap : button_capacity;
            const Button button{static_cast<std::uint16_t>(last < button_capacity ? last : button_capacity)};
            if (gap == 0 || name_of(button).empty()) fail(Unpacking::bad_button);
            set.insert(button);
        }
        return set;
    }
    void end() noexcept {
        if (at_ != bytes_.size()) fail(Unpacking::too_long);
    }
    void head(Kind wanted) noexcept {
        if (byte() != version) fail(Unpacking::unknown_version);
        const std::uint8_t kind = byte();
        if (kind != whole && kind != difference) fail(Unpacking::unknown_kind);
        if (kind != wanted) fail(wanted == whole ? Unpacking::is_difference : Unpacking::is_whole);
    }

private:
    std::span<const std::byte> bytes_;
    std::size_t at_ = 0;
    Unpacking result_ = Unpacking::done;
};

/// What can be unpacked again: a time in range, and buttons that exist.
Snapshot packable(const Snapshot& snapshot) noexcept {
    Snapshot packed{std::clamp(snapshot.time, earliest_time, latest_time), {}};
    snapshot.down.for_each([&packed](Button button) {
        if (!name_of(button).empty()) packed.down.insert(button);
    });
    return packed;
}

void write_whole(Writer& writer, const Snapshot& snapshot) noexcept {
    writer.byte(version);
    writer.byte(whole);
    writer.signed_number(nanoseconds(snapshot.time));
    writer.buttons(snapshot.down);
}

/// FNV-1a, 32 bits (draft-eastlake-fnv-21), over the snapshot's packed bytes.
std::uint32_t sum_of(const Snapshot& snapshot) noexcept {
    std::array<std::byte, packed_snapshot_room> bytes;
    Writer writer{bytes};
    write_whole(writer, snapshot);
    std::uint32_t sum = 2166136261U;
    for (std::size_t i = 0; i < writer.size(); ++i) sum = (sum ^ static_cast<std::uint32_t>(bytes[i])) * 16777619U;
    return sum;
}

// Unsigned arithmetic: the difference of any two times fits.
std::uint64_t unsigned_time(const Snapshot& snapshot) noexcept {
    return static_cast<std::uint64_t>(nanoseconds(snapshot.time));
}

Unpacking finish(Reader& reader, std::int64_t time, const ButtonSet& down, Snapshot& snapshot) noexcept {
    reader.end();
    if (time < nanoseconds(earliest_time) || time > nanoseconds(latest_time)) reader.fail(Unpacking::bad_time);
    if (reader.result() == Unpacking::done) snapshot = {Time{Duration{time}}, down};
    return reader.result();
}

}  // namespace

std::size_t pack(const Snapshot& snapshot, std::span<std::byte> bytes) noexcept {
    Writer writer{bytes};
    write_whole(writer, packable(snapshot));
    return writer.size();
}

std::size_t pack_difference(const Snapshot& given_base, const Snapshot& given, std::span<std::byte> bytes) noexcept {
    const Snapshot base = packable(given_base), snapshot = packable(given);
    Writer writer{bytes};
    writer.byte(version);
    writer.byte(difference);
    const std::uint32_t sum = sum_of(base);
    for (unsigned shift = 0; shift < 32; shift += 8) writer.byte(sum >> shift & 0xFF);
    writer.signed_number(static_cast<std::int64_t>(unsigned_time(snapshot) - unsigned_time(base)));
    writer.buttons((base.down - snapshot.down) | (snapshot.down - base.down));
    return writer.size();
}

Unpacking try_unpack(std::span<const std::byte> bytes, Snapshot& snapshot) noexcept {
    Reader reader{bytes};
    reader.head(whole);
    const std::int64_t time = reader.signed_number();
    const ButtonSet down = reader.buttons();
    return finish(reader, time, down, snapshot);
}

Unpacking try_unpack(std::span<const std::byte> bytes, const Snapshot& base, Snapshot& snapshot) noexcept {
    Reader reader{bytes};
    reader.head(difference);
    const Snapshot known = packable(base);
    std::uint32_t sum = 0;
    for (unsigned shift = 0; shift < 32; shift += 8) sum |= std::uint32_t{reader.byte()} << shift;
    if (sum != sum_of(known)) reader.fail(Unpacking::other_base);
    const std::uint64_t time = unsigned_time(known) + static_cast<std::uint64_t>(reader.signed_number());
    const ButtonSet changed = reader.buttons();
    const ButtonSet down = (known.down - changed) | (changed - known.down);
    return finish(reader, static_cast<std::int64_t>(time), down, snapshot);
}

std::string_view describe(Unpacking result) noexcept {
    switch (result) {
        case Unpacking::done: return "a snapshot";
        case Unpacking::truncated: return "the bytes end too early";
        case Unpacking::too_long: return "there are bytes behind the snapshot's end";
        case Unpacking::unknown_version: return "another version of the format than 1";
        case Unpacking::unknown_kind: return "neither a whole snapshot nor a difference";
        case Unpacking::is_difference: return "a difference: it needs the snapshot it was made from";
        case Unpacking::is_whole: return "a whole snapshot: it needs no other";
        case Unpacking::other_base: return "a difference from another snapshot than the one given";
        case Unpacking::bad_time: return "a time beyond 2^62 ns";
        case Unpacking::bad_button: return "no such button";
        case Unpacking::bad_number: return "a number that is too large, or written in more bytes than it needs";
    }
    return {};
}

}  // namespace cursorum
