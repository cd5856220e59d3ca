// A reader's frame as few bits: one for each idle action, and rounded numbers for the rest. Packing and unpacking go
// through the same list of fields, so that every frame has one form and all else is refused.
#include "cursorum/actions/action_packing.hpp"

#include <algorithm>
#include <cmath>

namespace cursorum {

namespace {

constexpr unsigned relative_bits = 24;
constexpr double relative_unit = 256;
constexpr std::int32_t most_relative = 32'767 * 256;

/// Bits from the lowest up.
class BitWriter {
public:
    explicit BitWriter(std::span<std::byte> bytes) : bytes_{bytes} {}
    void put(std::uint32_t value, unsigned bits) noexcept {
        for (unsigned i = 0; i < bits; ++i, ++at_) {
            if (at_ / 8 >= bytes_.size()) {
                is_full_ = true;
                return;
            }
            std::byte& byte = bytes_[at_ / 8];
            if (at_ % 8 == 0) byte = {};
            byte |= static_cast<std::byte>((value >> i & 1) << at_ % 8);
        }
    }
    /// Returns 0 if the room is not sufficient.
    std::size_t bytes() const noexcept { return is_full_ ? 0 : (at_ + 7) / 8; }

private:
    std::span<std::byte> bytes_;
    std::size_t at_ = 0;
    bool is_full_ = false;
};

class BitReader {
public:
    explicit BitReader(std::span<const std::byte> bytes) : bytes_{bytes} {}
    std::uint32_t get(unsigned bits) noexcept {
        std::uint32_t value = 0;
        for (unsigned i = 0; i < bits; ++i, ++at_) {
            if (at_ / 8 >= bytes_.size()) {
                is_short_ = true;
                return 0;
            }
            value |= static_cast<std::uint32_t>(std::to_integer<unsigned>(bytes_[at_ / 8]) >> at_ % 8 & 1) << i;
        }
        return value;
    }
    std::int32_t get_signed(unsigned bits) noexcept {
        const std::uint32_t value = get(bits), sign = std::uint32_t{1} << (bits - 1);
        return static_cast<std::int32_t>((value ^ sign) - sign);
    }
    /// Requires exactly the right number of bytes, and that unused bits are 0.
    bool ends_here() noexcept {
        if (is_short_ || (at_ + 7) / 8 != bytes_.size()) return false;
        return at_ % 8 == 0 || get(static_cast<unsigned>(8 - at_ % 8)) == 0;
    }

private:
    std::span<const std::byte> bytes_;
    std::size_t at_ = 0;
    bool is_short_ = false;
};

using Pair = std::array<std::int32_t, 2>;

std::int64_t square(const Pair& v) noexcept { return std::int64_t{v[0]} * v[0] + std::int64_t{v[1]} * v[1]; }

std::int32_t rounded(double value, double unit, std::int32_t most) noexcept {
    const double limit = most;
    return static_cast<std::int32_t>(std::clamp(std::nearbyint(value * unit), -limit, limit));
}

/// Rounds to the nearest vector that is not longer than 1.
Pair rounded(Vector2 v, std::int32_t most) noexcept {
    Pair pair{rounded(v.x, most, most), rounded(v.y, most, most)};
    while (square(pair) > std::int64_t{most} * most) {
        std::int32_t& longer = std::abs(pair[0]) >= std::abs(pair[1]) ? pair[0] : pair[1];
        longer -= longer > 0 ? 1 : -1;
    }
    return pair;
}

Pair rounded_relative(Vector2 v) noexcept {
    return {rounded(v.x, relative_unit, most_relative), rounded(v.y, relative_unit, most_relative)};
}

bool has_edges(const ActionFrame::Button& b) noexcept {
    return b.was_ended || b.press_count != 0 || b.release_count != 0 || b.steps != 0;
}

}  // namespace

// ---- frames

ActionFrame::Button ActionFrame::operator[](ButtonAction action) const noexcept {
    return takes(action.number, action.numbering) ? buttons_[action.number] : Button{};
}

ActionFrame::Axis ActionFrame::operator[](AxisAction action) const noexcept {
    if (!takes(action.number, action.numbering)) return {};
    const Moving& m = moving_[action.number];
    return {m.value[0] / static_cast<double>(most_), m.mean[0] / static_cast<double>(most_),
            m.relative[0] / relative_unit};
}

ActionFrame::Vector ActionFrame::operator[](VectorAction action) const noexcept {
    if (!takes(action.number, action.numbering)) return {};
    const Moving& m = moving_[action.number];
    const auto vector = [](const Pair& pair, double unit) { return Vector2{pair[0] / unit, pair[1] / unit}; };
    return {vector(m.value, most_), vector(m.mean, most_), vector(m.relative, relative_unit)};
}

// ---- packing

ActionPacker::ActionPacker(const Profile& profile, const ActionPacking& packing)
    : value_bits_{std::clamp(packing.value_bits, 4U, 16U)}, numbering_{profile.numbering()} {
    if (profile.problem()) return;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) kinds_.push_back(action.kind);
}

std::size_t ActionPacker::most_bytes() const noexcept {
    std::size_t bits = 0;
    for (const ActionKind kind : kinds_) {
        const unsigned numbers = kind == ActionKind::axis ? 1 : 2;
        bits += kind == ActionKind::button ? 11 : 2 + numbers * (2 * value_bits_ + relative_bits);
    }
    return bits / 8 + 1;
}

ActionFrame ActionPacker::round(const ActionReader& reader) const noexcept {
    ActionFrame frame;
    frame.most_ = (std::int32_t{1} << (value_bits_ - 1)) - 1;
    frame.numbering_ = numbering_;
    const auto at_most = [](std::uint64_t count, unsigned most) {
        return static_cast<std::uint8_t>(std::min<std::uint64_t>(count, most));
    };
    for (std::uint16_t i = 0; i < kinds_.size(); ++i) {
        ActionFrame::Moving& moving = frame.moving_[i];
        if (kinds_[i] == ActionKind::button) {
            const ActionReading reading = reader[ButtonAction{i, numbering_}];
            if (!reading.down() && !reading.was_down() && !reading.pressed()) continue;
            const ButtonFigures f = reading.figures();
            frame.buttons_[i] = {f.down(), f.release_count() + f.cancel_count() != 0, at_most(f.press_count(), 3),
                                 at_most(f.released() ? f.release_count() : 0, 3), at_most(f.steps(), 7)};
        } else if (kinds_[i] == ActionKind::axis) {
            const AxisActionReading r = reader[AxisAction{i, numbering_}];
            moving.value[0] = rounded(r.value, frame.most_, frame.most_);
            moving.mean[0] = rounded(r.mean, frame.most_, frame.most_);
            moving.relative[0] = rounded(r.relative, relative_unit, most_relative);
        } else {
            const VectorActionReading r = reader[VectorAction{i, numbering_}];
            moving.value = rounded(r.value, frame.most_);
            moving.mean = rounded(r.mean, frame.most_);
            moving.relative = rounded_relative(r.relative);
        }
    }
    return frame;
}

std::size_t ActionPacker::pack(const ActionFrame& frame, std::span<std::byte> bytes) const noexcept {
    BitWriter out{bytes};
    for (std::size_t i = 0; i < kinds_.size(); ++i) {
        if (kinds_[i] == ActionKind::button) {
            const ActionFrame::Button& b = frame.buttons_[i];
            out.put(b != ActionFrame::Button{}, 1);
            if (b == ActionFrame::Button{}) continue;
            out.put(has_edges(b), 1);
            if (!has_edges(b)) continue;  // just held
            out.put(b.is_down, 1);
            out.put(b.was_ended, 1);
            out.put(b.press_count, 2);
            out.put(b.release_count, 2);
            out.put(b.steps, 3);
            continue;
        }
        const ActionFrame::Moving& m = frame.moving_[i];
        const bool moves = m.value != Pair{} || m.mean != Pair{}, shifts = m.relative != Pair{};
        const unsigned numbers = kinds_[i] == ActionKind::axis ? 1 : 2;
        const auto put = [&](const Pair& pair, unsigned bits) {
            for (unsigned k = 0; k < numbers; ++k)
                out.put(static_cast<std::uint32_t>(pair[k]) & ((std::uint32_t{1} << bits) - 1), bits);
        };
        out.put(moves || shifts, 1);
        if (!moves && !shifts) continue;
        out.put(shifts, 1);
        put(m.value, value_bits_);
        put(m.mean, value_bits_);
        if (shifts) put(m.relative, relative_bits);
    }
    return out.bytes();
}

bool ActionPacker::unpack(std::span<const std::byte> bytes, ActionFrame& frame) const noexcept {
    ActionFrame read;
    read.most_ = (std::int32_t{1} << (value_bits_ - 1)) - 1;
    read.numbering_ = numbering_;
    BitReader in{bytes};
    for (std::size_t i = 0; i < kinds_.size(); ++i) {
        if (in.get(1) == 0) continue;
        if (kinds_[i] == ActionKind::button) {
            ActionFrame::Button& b = read.buttons_[i];
            if (in.get(1) == 0) {
                b.is_down = true;
                continue;
            }
            b.is_down = in.get(1) != 0;
            b.was_ended = in.get(1) != 0;
            b.press_count = static_cast<std::uint8_t>(in.get(2));
            b.release_count = static_cast<std::uint8_t>(in.get(2));
            b.steps = static_cast<std::uint8_t>(in.get(3));
            if (!has_edges(b) || (b.release_count != 0 && !b.was_ended)) return false;
            continue;
        }
        ActionFrame::Moving& m = read.moving_[i];
        const unsigned numbers = kinds_[i] == ActionKind::axis ? 1 : 2;
        const bool shifts = in.get(1) != 0;
        bool fits = true;
        const auto get = [&](Pair& pair, unsigned bits, std::int32_t most) {
            for (unsigned k = 0; k < numbers; ++k) {
                pair[k] = in.get_signed(bits);
                fits &= std::abs(pair[k]) <= most;
            }
        };
        get(m.value, value_bits_, read.most_);
        get(m.mean, value_bits_, read.most_);
        if (shifts) get(m.relative, relative_bits, most_relative);
        const std::int64_t longest = std::int64_t{read.most_} * read.most_;
        fits &= square(m.value) <= longest && square(m.mean) <= longest;
        const bool has_any = m.value != Pair{} || m.mean != Pair{} || shifts;
        if (!fits || !has_any || (shifts && m.relative == Pair{})) return false;
    }
    if (!in.ends_here()) return false;
    frame = read;
    return true;
}

}  // namespace cursorum
