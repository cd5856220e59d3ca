// What can be said of one lane: whether it is active now, which values it has, how much there is to see in it.
#include "cursorum/views/lane.hpp"

#include <algorithm>

namespace cursorum {

bool Lane::is_active() const noexcept {
    if (has_values()) return kind != Kind::pointer && !values.empty() && values.back().shaped != 0;
    return !bars.empty() && !bars.back().ended;
}

double Lane::Range::share(double value) const noexcept {
    return std::clamp((value - bottom) / (top - bottom), 0.0, 1.0);
}

Lane::Range Lane::range() const noexcept {
    if (kind == Kind::axis) {
        if (is_pull(axis)) return {0, 1};
        return axis.number < 2 * stick_kinds && axis.number % 2 == 1 ? Range{1, -1} : Range{};
    }
    const bool is_y = name.ends_with(" y");
    if (kind != Kind::pointer || values.empty()) return is_y ? Range{1, -1} : Range{};
    const auto [low, high] =
        std::minmax_element(values.begin(), values.end(), [](const Value& a, const Value& b) { return a.raw < b.raw; });
    const double greatest = std::max(high->raw, low->raw + 1);
    return is_y ? Range{greatest, low->raw} : Range{low->raw, greatest};
}

std::uint64_t Lane::event_count() const noexcept {
    std::uint64_t count = values.size() + system_repeats.size() + missed.size() + beliefs.size();
    for (const Cell& cell : cells)
        count += std::uint64_t{cell.presses} + cell.releases + cell.adopts + cell.cancels + cell.repeats;
    return kind == Kind::mode || kind == Kind::claim ? bars.size() : count;
}

bool LaneSpan::concerns(const Lane& lane) const noexcept {
    const bool is_control = lane.kind == Lane::Kind::button || lane.kind == Lane::Kind::axis;
    switch (kind) {
        case Kind::without_focus: return lane.kind == Lane::Kind::pointer || (is_control && lane.needs_focus);
        case Kind::unplugged: return is_control && lane.device == device;
        default: return true;
    }
}

std::string LaneSpan::title() const {
    switch (kind) {
        case Kind::without_focus: return "without focus";
        case Kind::paused: return "paused";
        case Kind::unplugged: return (text.empty() ? "a device" : text) + " unplugged";
        case Kind::interrupted: break;
    }
    return text.empty() ? "interrupted" : "interrupted: " + text;
}

}  // namespace cursorum
