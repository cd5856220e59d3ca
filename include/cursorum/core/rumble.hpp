// Rumble: a game requests it, a source carries it out.
#pragma once

#include <cstdint>

#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

class RumbleCore;

/// A request for one gamepad.
struct RumbleRequest {
    DeviceId device{};
    double strong = 0;  ///< the slow, heavy motor, 0 to 1
    double weak = 0;    ///< the fast, light one, 0 to 1
    Duration length{};  ///< how long; then it stops by itself

    bool stops() const noexcept { return strong == 0 && weak == 0; }
    friend constexpr bool operator==(const RumbleRequest&, const RumbleRequest&) = default;
};

/// A source that can make gamepads rumble, or a recorder of requests.
class CURSORUM_API RumbleSink {
public:
    /// Returns false if it cannot: the device has no motors, or belongs to another source.
    virtual bool try_rumble(const RumbleRequest& request, Time when) = 0;

protected:
    RumbleSink() = default;
    RumbleSink(const RumbleSink&) = default;
    RumbleSink& operator=(const RumbleSink&) = default;
    ~RumbleSink() = default;
};

/// The outcomes of requests.
struct RumbleCounters {
    std::uint64_t asked = 0;     ///< requests made by the game
    std::uint64_t refused = 0;   ///< invalid numbers, or more gamepads than the capacity
    std::uint64_t replaced = 0;  ///< replaced by a newer request before they were carried out
    std::uint64_t carried_out = 0;
    std::uint64_t unable = 0;  ///< requests that the source could not carry out
};

/// Passes requests from the game to a source. The last request for each gamepad counts.
///
/// Threads: any thread may request; one thread at a time carries out, by a RumbleCarrier. No thread waits. Only
/// the constructor allocates.
class CURSORUM_API Rumble {
public:
    static constexpr unsigned capacity = 32;  ///< maximum number of gamepads

    Rumble();
    ~Rumble();
    Rumble(const Rumble&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    Rumble& operator=(const Rumble&) = delete;

    /// Requests rumble. Strong and weak are clamped to 0 to 1, and the length to 65 seconds, rounded up to
    /// milliseconds. Returns false and counts the request as refused for NaN or infinity, a negative length, or too
    /// many gamepads.
    bool ask(const RumbleRequest& request) noexcept;
    bool stop(DeviceId device) noexcept;
    /// Stops every gamepad for which there was ever a request.
    void stop_all() noexcept;

    RumbleCounters counters() const noexcept;

private:
    friend class RumbleCarrier;
    RumbleCore* core_;
};

/// Carries requests out, on the source's thread.
///
/// All gamepads stop when the inlet loses the focus, at an interruption, and when the carrier is destroyed. Requests
/// made until then are over, and without focus no new ones are carried out.
class CURSORUM_API RumbleCarrier {
public:
    /// All arguments must outlive the carrier. `also`: a recorder of the requests, or nullptr.
    RumbleCarrier(Rumble& rumble, const Inlet& inlet, RumbleSink& source, RumbleSink* also = nullptr) noexcept;
    RumbleCarrier(const RumbleCarrier&) = delete;
    RumbleCarrier& operator=(const RumbleCarrier&) = delete;
    ~RumbleCarrier();

    /// Passes new requests to the source. Call it once in each iteration of the source's loop. Returns their number.
    unsigned carry_out(Time when);

private:
    std::uint64_t halts() const noexcept;

    RumbleCore* rumble_;
    const Inlet* inlet_;
    RumbleSink* source_;
    RumbleSink* also_;
    std::uint64_t halts_;
    Time last_;
};

}  // namespace cursorum
