// Requests for rumble from a game to the sources, without locks: each pad has a cell with the latest request, and
// sources compare its number with what they carried out. Focus loss and pauses stop all of them.
#include "cursorum/core/rumble.hpp"

#include <algorithm>
#include <array>
#include <atomic>
#include <utility>

namespace cursorum {
namespace {

constexpr double full = 65535;
constexpr std::int64_t longest_ms = 65'000;
constexpr unsigned number_shift = 48;

std::uint64_t in_16_bits(double share) noexcept {
    return static_cast<std::uint64_t>(std::clamp(share, 0.0, 1.0) * full + 0.5);
}

}  // namespace

/// The game's requests, which any source may carry out.
class RumbleCore {
public:
    bool ask(const RumbleRequest& request) noexcept;
    void stop_all() noexcept;
    RumbleCounters counters() const noexcept;
    unsigned carry_out(RumbleSink& source, Time when, RumbleSink* also);

private:
    struct Cell {
        std::atomic<std::uint64_t> known_as{0};  // device + 1
        // 16 bits strong, 16 bits weak, 16 bits milliseconds, then a number that goes up with each request
        std::atomic<std::uint64_t> wanted{0};
        std::uint64_t done = 0;
    };
    Cell* cell_of(DeviceId device) noexcept;
    void put(Cell& cell, std::uint64_t what) noexcept;

    std::array<Cell, Rumble::capacity> cells_;
    std::atomic<std::uint64_t> asked_{0}, refused_{0}, taken_{0};
    std::atomic<std::uint64_t> carried_out_{0}, unable_{0};
};

RumbleCore::Cell* RumbleCore::cell_of(DeviceId device) noexcept {
    const std::uint64_t wanted = std::uint64_t{static_cast<std::uint32_t>(device)} + 1;
    for (Cell& cell : cells_) {
        std::uint64_t found = 0;
        if (cell.known_as.compare_exchange_strong(found, wanted, std::memory_order_acq_rel)) return &cell;
        if (found == wanted) return &cell;
    }
    return nullptr;
}

void RumbleCore::put(Cell& cell, std::uint64_t what) noexcept {
    std::uint64_t before = cell.wanted.load(std::memory_order_relaxed), after = 0;
    do after = what | ((before >> number_shift) + 1) << number_shift;
    while (!cell.wanted.compare_exchange_weak(before, after, std::memory_order_release, std::memory_order_relaxed));
}

bool RumbleCore::ask(const RumbleRequest& request) noexcept {
    asked_.fetch_add(1, std::memory_order_relaxed);
    const bool is_number = request.strong == request.strong && request.weak == request.weak;
    Cell* const cell = is_number && request.length.count() >= 0 ? cell_of(request.device) : nullptr;
    if (!cell) {
        refused_.fetch_add(1, std::memory_order_relaxed);
        return false;
    }
    const std::int64_t ms = std::min(
        (request.length.count() - (request.length.count() > 0)) / 1'000'000 + (request.length.count() > 0), longest_ms);
    put(*cell, in_16_bits(request.strong) | in_16_bits(request.weak) << 16 | static_cast<std::uint64_t>(ms) << 32);
    return true;
}

void RumbleCore::stop_all() noexcept {
    for (Cell& cell : cells_) {
        if (cell.known_as.load(std::memory_order_acquire) == 0) return;
        constexpr std::uint64_t motors = 0xFFFF'FFFF;
        if ((cell.wanted.load(std::memory_order_relaxed) & motors) == 0) continue;  // it stands still
        asked_.fetch_add(1, std::memory_order_relaxed);
        put(cell, 0);
    }
}

unsigned RumbleCore::carry_out(RumbleSink& source, Time when, RumbleSink* also) {
    unsigned count = 0;
    for (Cell& cell : cells_) {
        const std::uint64_t known_as = cell.known_as.load(std::memory_order_acquire);
        if (known_as == 0) break;
        const std::uint64_t wanted = cell.wanted.load(std::memory_order_acquire);
        if (wanted == cell.done) continue;
        taken_.fetch_add(((wanted >> number_shift) - (cell.done >> number_shift)) & 0xFFFF, std::memory_order_relaxed);
        cell.done = wanted;
        const RumbleRequest request{
            DeviceId{static_cast<std::uint32_t>(known_as - 1)}, static_cast<double>(wanted & 0xFFFF) / full,
            static_cast<double>(wanted >> 16 & 0xFFFF) / full, std::chrono::milliseconds{wanted >> 32 & 0xFFFF}};
        const bool able = source.try_rumble(request, when);
        (able ? carried_out_ : unable_).fetch_add(1, std::memory_order_relaxed);
        if (also) also->try_rumble(request, when);
        ++count;
    }
    return count;
}

RumbleCarrier::RumbleCarrier(Rumble& rumble, const Inlet& inlet, RumbleSink& source, RumbleSink* also) noexcept
    : rumble_{rumble.core_}, inlet_{&inlet}, source_{&source}, also_{also}, halts_{halts()} {}

// Counts the events that stop all pads, including those between two rounds.
std::uint64_t RumbleCarrier::halts() const noexcept {
    const InletCounters counters = inlet_->counters();
    return counters.interruptions + counters.focus_losses;
}

unsigned RumbleCarrier::carry_out(Time when) {
    last_ = when;
    const std::uint64_t halts_before = std::exchange(halts_, halts());
    if (halts_ != halts_before || !inlet_->has_focus()) rumble_->stop_all();
    return rumble_->carry_out(*source_, when, also_);
}

RumbleCarrier::~RumbleCarrier() {
    rumble_->stop_all();
    rumble_->carry_out(*source_, last_, also_);
}

RumbleCounters RumbleCore::counters() const noexcept {
    const std::uint64_t carried_out = carried_out_.load(std::memory_order_relaxed);
    const std::uint64_t unable = unable_.load(std::memory_order_relaxed);
    return {.asked = asked_.load(std::memory_order_relaxed),
            .refused = refused_.load(std::memory_order_relaxed),
            .replaced = taken_.load(std::memory_order_relaxed) - carried_out - unable,
            .carried_out = carried_out,
            .unable = unable};
}

// ---- the public class

Rumble::Rumble() : core_{new RumbleCore} {}
Rumble::~Rumble() { delete core_; }
bool Rumble::ask(const RumbleRequest& request) noexcept { return core_->ask(request); }
bool Rumble::stop(DeviceId device) noexcept { return core_->ask({.device = device}); }
void Rumble::stop_all() noexcept { core_->stop_all(); }
RumbleCounters Rumble::counters() const noexcept { return core_->counters(); }

}  // namespace cursorum
