// Timelines: what happened, in order.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>

#include "cursorum/core/export.hpp"
#include "cursorum/core/inlet.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

class TimelineCore;

/// A copy of what the timeline knows about one device.
struct DeviceStatus {
    DeviceId id{};
    DeviceKind kind{};
    bool marks_repeats = false;
    bool background = false;
    bool is_virtual = false;
    bool connected = false;
    unsigned inlet = 0;
    std::uint16_t vendor = 0, product = 0;  ///< USB numbers; 0 if unknown
    ButtonSet buttons;                      ///< the buttons that it has; empty if unknown
    std::uint32_t axes = 0;                 ///< bit n: it has axis n; 0 if it has none, or if unknown
    ButtonSet down;                         ///< as of the last event posted
    DeviceShaping shaping{};                ///< as it was set last
    std::uint32_t shaping_count = 0;        ///< how often it was set
    std::array<char, 64> name_bytes{};      ///< zero-terminated

    std::string_view name() const noexcept { return name_bytes.data(); }
};

/// All inlets together, with a bounded history of what their events did. A timeline has no frames: samplers make them.
///
/// Lifetime: it must outlive its samplers, and is neither copied nor moved.
/// Threads: each inlet has one producer, and each sampler one consumer. The timeline's own members may be called on any
/// thread at any time. No thread ever waits for another.
///
///     producer thread      its inlet: post, set_complete_until
///     consumer thread      its sampler: advance, peek, save …, and the frames it gave
///     any thread           Inlet's const members, all members of Timeline, making and destroying samplers
///
/// Order: of the inlets' next events, the one with the earliest stamp is taken first; ties go to the lower inlet
/// number.
/// Memory: allocated once, by the constructor, as TimelineOptions says (about 480 KB for each inlet by default).
class CURSORUM_API Timeline {
public:
    explicit Timeline(const TimelineOptions& options = {});
    ~Timeline();
    Timeline(const Timeline&) = delete;  // hold several in a std::deque, or by std::unique_ptr
    Timeline& operator=(const Timeline&) = delete;

    /// The inlet that every timeline has, number 0.
    Inlet& desk() noexcept { return *desk_; }
    const Inlet& desk() const noexcept { return *desk_; }

    /// The number of inlets, as given by the options.
    unsigned inlet_count() const noexcept;
    /// The inlet of that number. Precondition: `number` is less than inlet_count().
    Inlet& inlet(unsigned number) noexcept;
    const Inlet& inlet(unsigned number) const noexcept;

    /// The time up to which all inlets have posted all there is: the least of what their producers reported last
    /// (Inlet::set_complete_until). A producer that has not reported, or stopped reporting, delays all consumers, but
    /// no longer than TimelineOptions::silent_limit: the result is never earlier than `now` minus that limit, and each
    /// call in which the limit applied is counted as silent. For an inlet that is not used, or no longer, report
    /// latest_time. Cutting later is allowed: what then arrives with an earlier stamp is late, takes effect in the next
    /// frame, and is counted. Any thread.
    Time complete_until(Time now) const noexcept;
    /// How often complete_until() reached the limit because a producer did not report.
    std::uint64_t silent_count() const noexcept;

    /// The number of devices that have ever connected.
    std::size_t device_count() const noexcept;
    /// The device in that place: by inlet, and on each inlet in the order of the first connects. Precondition: `number`
    /// is less than device_count(). Cost: a few microseconds, since it searches all holds.
    DeviceStatus device(std::size_t number) const noexcept;
    /// The device with that id; nothing if it never connected. Cost: as device().
    std::optional<DeviceStatus> find_device(DeviceId id) const noexcept;

private:
    friend const TimelineCore& core_of(const Timeline& timeline) noexcept;
    TimelineCore* core_;
    Inlet* desk_;
};

}  // namespace cursorum
