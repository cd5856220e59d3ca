// Rumble: what a game asks of a gamepad, and a source carries out.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>

#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// What a pad is asked for.
struct RumbleRequest {
    DeviceId device{};
    double strong = 0;  ///< the slow, heavy motor, 0 to 1
    double weak = 0;    ///< the fast, light one, 0 to 1
    Duration length{};  ///< for how long; it then stops by itself

    bool stops() const noexcept { return strong == 0 && weak == 0; }
    friend constexpr bool operator==(const RumbleRequest&, const RumbleRequest&) = default;
};

/// A source that can make pads rumble, or something that writes down what was asked for.
class RumbleTaker {
public:
    /// False: it cannot; this device has no motors, or is not its own.
    virtual bool try_rumble(const RumbleRequest& request, Time when) = 0;

protected:
    RumbleTaker() = default;
    RumbleTaker(const RumbleTaker&) = default;
    RumbleTaker& operator=(const RumbleTaker&) = default;
    ~RumbleTaker() = default;
};

/// What became of the requests.
struct RumbleCounters {
    std::uint64_t asked = 0;     ///< by the game
    std::uint64_t refused = 0;   ///< no numbers, or more pads than there is room for
    std::uint64_t replaced = 0;  ///< by a newer one, before anybody carried them out
    std::uint64_t carried_out = 0;
    std::uint64_t unable = 0;  ///< the source could not
};

/// Between the game, which asks, and a source, which carries out. The last request for a pad counts.
///
/// Threads: any thread asks; one at a time carries out, by a RumbleCarrier. Nobody waits; nothing allocates.
class Rumble {
public:
    static constexpr unsigned capacity = 32;  ///< pads

    /// Strong and weak beyond 0 to 1 are taken as the end; a length beyond 65 seconds as 65 seconds, in milliseconds
    /// rounded up. False, and counted as refused: what is no number, a negative length, or the 33rd pad.
    bool ask(const RumbleRequest& request) noexcept;
    bool stop(DeviceId device) noexcept { return ask({.device = device}); }
    /// Every pad that was ever asked.
    void stop_all() noexcept;

    RumbleCounters counters() const noexcept;

private:
    friend class RumbleCarrier;
    unsigned carry_out(RumbleTaker& source, Time when, RumbleTaker* also);

    struct Cell {
        std::atomic<std::uint64_t> known_as{0};  // device + 1
        // 16 bits strong, 16 bits weak, 16 bits milliseconds, then a number that goes up with each request
        std::atomic<std::uint64_t> wanted{0};
        std::uint64_t done = 0;
    };
    Cell* cell_of(DeviceId device) noexcept;
    void put(Cell& cell, std::uint64_t what) noexcept;

    std::array<Cell, capacity> cells_;
    std::atomic<std::uint64_t> asked_{0}, refused_{0}, taken_{0};
    std::atomic<std::uint64_t> carried_out_{0}, unable_{0};
};

/// Carries requests out, on the thread of the source that can.
///
/// All pads stop when the inlet loses the focus, at an interruption, and when the carrier goes (at the program's end):
/// what was asked for until then is over, and without focus nothing new is carried out.
class RumbleCarrier {
public:
    /// All outlive it. `also`: a recording that keeps what was asked for, or nullptr.
    RumbleCarrier(Rumble& rumble, const Inlet& inlet, RumbleTaker& source, RumbleTaker* also = nullptr) noexcept
        : rumble_{&rumble}, inlet_{&inlet}, source_{&source}, also_{also}, halts_{halts()} {}
    RumbleCarrier(const RumbleCarrier&) = delete;
    RumbleCarrier& operator=(const RumbleCarrier&) = delete;
    ~RumbleCarrier();

    /// Hands what is new to the source. Once a round. Returns how many requests that were.
    unsigned carry_out(Time when);

private:
    /// What stops all pads: how often it happened, also between two rounds.
    std::uint64_t halts() const noexcept {
        const InletCounters counters = inlet_->counters();
        return counters.interruptions + counters.focus_losses;
    }

    Rumble* rumble_;
    const Inlet* inlet_;
    RumbleTaker* source_;
    RumbleTaker* also_;
    std::uint64_t halts_;
    Time last_;
};

}  // namespace cursorum
