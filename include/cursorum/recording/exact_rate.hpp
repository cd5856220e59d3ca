// Exact rates, as people write them.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Frames per second as a fraction, so that 59.94 and 30000/1001 are exact.
class CURSORUM_API ExactRate {
public:
    /// 60 per second.
    constexpr ExactRate() noexcept = default;
    constexpr explicit ExactRate(std::uint64_t count, std::uint64_t per = 1) noexcept : count_{count}, per_{per} {}

    /// "60", "59.94", "1e3", "30000/1001": more than 0, at most 1e9, not under 1e-9 and with at most nine decimals;
    /// nothing for any other text.
    static std::optional<ExactRate> parse(std::string_view text) noexcept;

    /// The end of frame `number` (from 0) when the first starts at 0: floor((number + 1) * 1e9 / rate) nanoseconds,
    /// at most latest_time.
    Time cut(std::uint64_t number) const noexcept;
    /// The first frame whose end is not before `time`, for times from 0 on.
    std::uint64_t frame_of(Time time) const noexcept;

private:
    std::uint64_t count_ = 60, per_ = 1;
};

}  // namespace cursorum
