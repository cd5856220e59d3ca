// The server's 32-bit milliseconds on our clock: the server usually uses the same one, else the difference at the
// beginning is kept. A stamp is the one nearest to the present, since it wraps around.
#include "sources/x11_clock.hpp"

#include <cstdlib>

namespace cursorum {
namespace {

constexpr std::int64_t millisecond = 1'000'000;
constexpr std::int64_t same_clock = 1000;  // milliseconds

std::int64_t whole_milliseconds(Time time) noexcept {
    const std::int64_t ns = nanoseconds(time);
    return ns / millisecond - (ns % millisecond < 0);
}

// The shortest way from one stamp to another, wrap-around included.
std::int64_t difference(std::uint32_t left, std::uint32_t right) noexcept {
    return static_cast<std::int32_t>(left - right);
}

}  // namespace

X11Clock::X11Clock(std::uint32_t server, Time now) noexcept {
    const std::int64_t ours = whole_milliseconds(now);
    const std::int64_t ahead = difference(static_cast<std::uint32_t>(ours), server);
    if (std::abs(ahead) > same_clock) offset_ = ahead;
}

Time X11Clock::convert(std::uint32_t server, Time now) const noexcept {
    const std::int64_t theirs_now = whole_milliseconds(now) - offset_;
    const std::int64_t theirs = theirs_now + difference(server, static_cast<std::uint32_t>(theirs_now));
    return nanoseconds_since_zero((theirs + offset_) * millisecond);
}

Time X11Clock::complete(Time now) const noexcept {
    return nanoseconds_since_zero(whole_milliseconds(now) * millisecond - 1);
}

}  // namespace cursorum
