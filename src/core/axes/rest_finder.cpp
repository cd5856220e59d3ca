// Finds where a stick rests: of the stretches in which it hardly moved, the median by time. How far that strays is the
// dead zone that it needs.
#include "cursorum/core/rest_finder.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace cursorum {
namespace {

double length(Vector2 v) { return std::sqrt(v.x * v.x + v.y * v.y); }
double distance(Vector2 a, Vector2 b) { return length({a.x - b.x, a.y - b.y}); }

/// The median by time: half of the time lies on either side of it.
template <typename Held>
double middle(const std::vector<Held>& states, double Vector2::*axis) {
    std::vector<std::pair<double, Duration>> values;
    Duration total{};
    for (const Held& held : states) {
        values.emplace_back(held.at.*axis, held.to - held.from);
        total += held.to - held.from;
    }
    std::sort(values.begin(), values.end());
    Duration passed{};
    for (const auto& [value, time] : values) {
        passed += time;
        if (passed * 2 >= total) return value;
    }
    return 0;
}

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

// How far an axis must have moved for its end to count as measured.
constexpr double believed_end = 0.8;

template <typename Held>
std::size_t known(const std::vector<Held>& states) {
    return static_cast<std::size_t>(std::count_if(states.begin(), states.end(), [](const Held& held) {
        return held.at.x == held.at.x && held.at.y == held.at.y;
    }));
}

double dead_zone_for(double farthest) {
    const double wide = farthest * 1.25 + 0.02;
    return std::min(std::ceil(wide * 200 - 1e-9) / 200, 0.9);
}

}  // namespace

void RestFinder::add(Time time, Axis axis, double value) {
    if (axis.number >= axis_kinds || !std::isfinite(value)) return;
    values_[axis.number].push_back({time, value});
    end(time);
}

void RestFinder::lost(Time time) {
    end(time);
    for (auto& values : values_)
        if (!values.empty()) values.push_back({time, unknown});
}

// The values of both axes together, each from one change to the next. While only one axis has reported, the other one
// was 0 then.
std::vector<RestFinder::Held> RestFinder::states(Axis x, Axis y) const {
    const auto& xs = values_[x.number];
    const auto& ys = values_[y.number];
    std::vector<Held> states;
    Vector2 at;
    for (std::size_t i = 0, j = 0; i < xs.size() || j < ys.size();) {
        const bool from_x = j == ys.size() || (i < xs.size() && xs[i].time <= ys[j].time);
        const Sample& sample = from_x ? xs[i++] : ys[j++];
        (from_x ? at.x : at.y) = sample.value;
        if (!states.empty() && states.back().from == sample.time) {
            states.back().at = at;
            continue;
        }
        if (!states.empty()) states.back().to = sample.time;
        states.push_back({at, sample.time, std::max(end_, sample.time)});
    }
    return states;
}

std::vector<RestFinder::Held> RestFinder::resting(const std::vector<Held>& states) const {
    std::vector<Held> rest;
    for (std::size_t i = 0; i < states.size();) {
        if (!(length(states[i].at) < settings_.near)) {
            ++i;
            continue;
        }
        std::size_t last = i;
        while (last + 1 < states.size() && length(states[last + 1].at) < settings_.near) ++last;
        const Time from = states[i].from, to = states[last].to;
        if (to - from >= settings_.least_time) {
            for (std::size_t k = i; k <= last; ++k) {
                const Held held{states[k].at, std::max(states[k].from, from + settings_.edge),
                                std::min(states[k].to, to - settings_.edge)};
                if (held.to > held.from) rest.push_back(held);
            }
        }
        i = last + 1;
    }
    const Vector2 about{middle(rest, &Vector2::x), middle(rest, &Vector2::y)};
    std::erase_if(rest, [&](const Held& held) { return distance(held.at, about) > settings_.reach; });
    return rest;
}

StickRest RestFinder::stick(Stick stick) const {
    StickRest result;
    if (stick.number >= stick_kinds) return result;
    const std::vector<Held> all = states(stick.x(), stick.y()), rest = resting(all);
    result.samples = known(all);
    result.rest_samples = rest.size();
    result.found = !rest.empty();
    for (const Held& held : all) {  // unknown values are not compared
        result.least = {std::min(result.least.x, held.at.x), std::min(result.least.y, held.at.y)};
        result.greatest = {std::max(result.greatest.x, held.at.x), std::max(result.greatest.y, held.at.y)};
    }
    result.centre = {middle(rest, &Vector2::x), middle(rest, &Vector2::y)};
    for (const Held& held : rest) {
        result.rest_time += held.to - held.from;
        result.farthest = std::max(result.farthest, distance(held.at, result.centre));
    }
    if (!result.found) return result;
    const auto range = [](double centre, double least, double greatest) {
        return AxisRange{centre, least <= -believed_end ? least : -1, greatest >= believed_end ? greatest : 1};
    };
    result.shaping.x = range(result.centre.x, result.least.x, result.greatest.x);
    result.shaping.y = range(result.centre.y, result.least.y, result.greatest.y);
    result.shaping.response.dead_zone = dead_zone_for(result.farthest);
    return result;
}

TriggerRest RestFinder::trigger(Axis trigger) const {
    TriggerRest result;
    if (!is_pull(trigger)) return result;
    std::vector<Held> all;
    for (const Sample& sample : values_[trigger.number]) {
        if (!all.empty()) all.back().to = sample.time;
        all.push_back({{sample.value, 0}, sample.time, std::max(end_, sample.time)});
        result.greatest = std::max(result.greatest, sample.value);
    }
    const std::vector<Held> rest = resting(all);
    result.samples = known(all);
    result.rest_samples = rest.size();
    result.found = !rest.empty();
    result.rest = middle(rest, &Vector2::x);
    for (const Held& held : rest) {
        result.rest_time += held.to - held.from;
        result.farthest = std::max(result.farthest, std::abs(held.at.x - result.rest));
    }
    if (!result.found) return result;
    result.shaping.range = {result.rest, 0, result.greatest >= believed_end ? result.greatest : 1};
    result.shaping.response.dead_zone = result.farthest == 0 && result.rest == 0 ? 0 : dead_zone_for(result.farthest);
    return result;
}

}  // namespace cursorum
