// Edges: changes of a button's level.
#pragma once

#include <cstdint>
#include <string_view>

#include "cursorum/core/device.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

/// Press and release are the person's; adopt (found down, without a press) and cancel (released by Cursorum) repair the
/// state.
enum class EdgeKind : std::uint8_t { press, release, adopt, cancel };

/// "press", "release", "adopt", "cancel".
constexpr std::string_view name_of(EdgeKind kind) noexcept {
    constexpr std::string_view names[] = {"press", "release", "adopt", "cancel"};
    return names[static_cast<unsigned>(kind)];
}

/// One device's edge in a frame: unmerged, in the order in which it was taken.
struct Edge {
    Time time;  ///< effective time
    DeviceId device{};
    Button button;
    EdgeKind kind{};

    friend constexpr bool operator==(const Edge&, const Edge&) = default;
};

}  // namespace cursorum
