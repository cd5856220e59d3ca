// Where sticks and triggers have been, and what shaping makes of it: the geometry of a picture.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/export.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/recording/recording_reader.hpp"
#include "cursorum/views/picture.hpp"

namespace cursorum {

/// Where one stick or trigger of one device has been.
struct StickTrace {
    DeviceId device{};
    std::string device_name{};
    bool is_trigger = false;
    Stick stick{};                 ///< of a stick
    Axis pull{};                   ///< of a trigger
    std::vector<Vector2> raw{};    ///< every reported position in order; a trigger's travel in x
    StickShaping stick_shaping{};  ///< as it was set last
    PullShaping pull_shaping{};    ///< likewise
    bool has_rest = false;         ///< it was at rest for long enough to say where
    Vector2 rest{};                ///< where; a trigger's in x
    double rest_reach = 0;         ///< the greatest distance from there while at rest

    /// "PadStickLeft".
    std::string_view name() const noexcept { return is_trigger ? name_of(pull) : name_of(stick); }
};

/// Collects traces from the lines of a recording (ReplayOptions::on_line). Memory: 40 bytes for each axis event.
/// Threads: one.
class CURSORUM_API StickTraces {
public:
    /// Only events with a time in [from, to).
    explicit StickTraces(Time from = earliest_time, Time to = latest_time);
    ~StickTraces();
    StickTraces(const StickTraces&) = delete;
    StickTraces& operator=(const StickTraces&) = delete;

    void note_line(const RecordingLine& line, Outcome outcome);
    /// Those that moved, by device, then name. Allocates, and looks for the rest of each.
    std::vector<StickTrace> traces() const;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

/// Draws each trace: the positions reported, with the rest, the dead zone and the outer zone; the shaped positions; and
/// the response from reported to shaped deflection. What has no room is named in `left_out`.
CURSORUM_API Picture stick_picture(const std::vector<StickTrace>& traces, const PictureOptions& options = {});

}  // namespace cursorum
