// The steps of sources in a frame, and the motion of axes and vectors that they make.
#include "actions/movement.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "actions/ramps.hpp"

namespace cursorum::detail {

namespace {

double beyond(double dead_zone, double value) noexcept {
    const double magnitude = std::abs(value);
    if (!(magnitude > dead_zone)) return 0;
    return std::copysign(std::min((magnitude - dead_zone) / (1 - dead_zone), 1.0), value);
}

double square(Vector2 v) noexcept;

Vector2 beyond(double dead_zone, Vector2 v) noexcept {
    if (dead_zone == 0) return v;
    const double length = std::sqrt(square(v));
    if (!(length > dead_zone)) return {};
    const double wanted = std::min((length - dead_zone) / (1 - dead_zone), 1.0);
    return {v.x / length * wanted, v.y / length * wanted};
}

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

void Movement::reserve(const ActionMap& map) {
    constexpr std::size_t usual_steps = 256;  // beyond it, reading allocates
    if (!map.moving.empty()) steps_.reserve(usual_steps + 2 * map.sources.size());
}

void Movement::fit(std::size_t actions) {
    words_ = static_cast<unsigned>((actions + 63) / 64);
    before_.resize(actions);
    integral_.resize(actions);
    relative_.resize(actions);
}

void Movement::clear(const ActionState& state) noexcept {
    for (unsigned word = 0; word < words_; ++word)
        for (std::uint64_t rest = lively_[word]; rest != 0; rest &= rest - 1) {
            const unsigned action = word * 64 + static_cast<unsigned>(std::countr_zero(rest));
            const ActionState::Moving& moving = state.moving[action];
            before_[action] = moving.value;
            integral_[action] = relative_[action] = {};
            if (moving.value != moving.target) continue;
            const std::uint64_t bit = rest & (0 - rest);
            lively_[word] &= ~bit;
            if (moving.value != Vector2{}) holding_[word] |= bit;
        }
}

void Movement::enliven(unsigned action) noexcept {
    const std::uint64_t bit = std::uint64_t{1} << action % 64;
    held_[action / 64] &= ~bit;
    if ((lively_[action / 64] & bit) != 0) return;
    lively_[action / 64] |= bit;
    holding_[action / 64] &= ~bit;
    integral_[action] = {};
}

void Movement::enliven_all(const ActionMap& map) noexcept {
    for (const std::uint16_t action : map.moving) enliven(action);
}

void Movement::finish(const MovementScene& scene) {
    add_steps(scene);
    add_relative(scene);
    move_all(scene);
}

namespace {

struct Distances {
    Distance motion, raw, wheel;

    Distance of(const ActionSource& source) const noexcept {
        return source.kind != Binding::Kind::motion ? wheel : source.raw ? raw : motion;
    }
};

void add(Distance& sum, Distance way, double sign) noexcept { sum = {sum.x + sign * way.x, sum.y + sign * way.y}; }

}  // namespace

// Each distance goes to the mode that had it at that time; distance whose samples were overwritten goes to the earlier
// mode.
void Movement::add_relative(const MovementScene& scene) noexcept {
    if (scene.map.relative.empty()) return;
    const PointerReading pointer{scene.frame, scene.filter};
    const Distances all{pointer.motion(), pointer.raw_motion(), pointer.wheel()};
    const auto give = [this, &scene](const Distances& ways, const auto& flow_owners) {
        for (const std::uint16_t i : scene.map.relative) {
            const ActionSource& source = scene.map.sources[i];
            const bool is_motion = source.kind == Binding::Kind::motion;
            const std::uint8_t owner = flow_owners[is_motion ? motion_flow : wheel_flow];
            if (!is_mode(owner, scene.map.actions[source.action].mode)) continue;
            const Distance way = ways.of(source);
            if (way == Distance{}) continue;
            enliven(source.action);
            Vector2& sum = relative_[source.action];
            if (scene.map.actions[source.action].kind == ActionKind::axis)
                sum.x += (source.vertical ? way.y : way.x) * source.scale;
            else
                sum = {sum.x + source.scaled({way.x, way.y}).x, sum.y + source.scaled({way.x, way.y}).y};
        }
    };
    if (scene.segments.empty()) return give(all, scene.state.flow_owners);
    Distances first = all;
    for (auto it = scene.segments.begin() + 1; it != scene.segments.end(); ++it) {
        Distances its{};
        auto take = [&](const FrameInput::Moved& moved) {
            const auto is_its = [&](const ModeSegment& segment) {
                return ModeSegments::has_begun(segment, scene.frame, moved);
            };
            if (!is_its(*it) || std::any_of(it + 1, scene.segments.end(), is_its)) return;
            add(its.motion, moved.motion, 1), add(its.raw, moved.raw, 1), add(its.wheel, moved.wheel, 1);
        };
        scene.frame.walk_motion(scene.filter, &take, [](void* to, const FrameInput::Moved& moved) {
            (*static_cast<decltype(take)*>(to))(moved);
        });
        give(its, it->flow_owners);
        add(first.motion, its.motion, -1), add(first.raw, its.raw, -1), add(first.wheel, its.wheel, -1);
    }
    give(first, scene.segments.front().flow_owners);
}

// ---- axes and vectors

// Values of axes and sticks while they belong to their mode.
void Movement::add_steps(const MovementScene& scene) {
    for (const std::uint16_t i : scene.map.analogue) {
        const ActionSource& source = scene.map.sources[i];
        const unsigned mode = scene.map.actions[source.action].mode;
        const bool is_stick = source.kind == Binding::Kind::stick, is_touch = source.kind == Binding::Kind::touch;
        const auto is_seen_by = [&](const auto& owners) {
            if (is_touch) return is_mode(owners[touch_flow], mode);
            const unsigned axis = is_stick ? source.number * 2U : source.number;
            return is_mode(owners[axis], mode) && (!is_stick || is_mode(owners[axis + 1], mode));
        };
        bool& stale = scene.state.stale_sources[i];
        bool has_step = false;
        const auto add = [&](std::int64_t time, Vector2 value) {
            if (stale) value = {};
            value = source.scaled(value);
            // Its first value in the frame is usually the last one of the previous frame.
            if (time == scene.state.t0 && value == scene.state.sources[i] && !has_step) return;
            has_step = true;
            add_step(time, value, source.action, i);
        };
        // What is newly bound has to come to rest first, whoever it belongs to.
        if (scene.segments.empty() && !stale && !is_seen_by(scene.state.flow_owners)) {
            if (scene.state.sources[i] != Vector2{}) add(scene.state.t0, {});
            continue;
        }
        // While it belongs to others, it is at rest; when its mode gets it, it has its value at that moment.
        auto segment = scene.segments.begin();
        bool is_seen = is_seen_by(scene.segments.empty() ? scene.state.flow_owners : segment->flow_owners);
        Vector2 latest;
        const auto go_on = [&](std::int64_t until) {
            while (segment != scene.segments.end() && segment + 1 != scene.segments.end() &&
                   (segment + 1)->from <= until) {
                ++segment;
                const bool was_seen = std::exchange(is_seen, is_seen_by(segment->flow_owners));
                if (is_seen != was_seen) add(segment->from, is_seen ? latest : Vector2{});
            }
        };
        std::int64_t at = scene.state.t0;
        const auto follow = [&](std::int64_t time, Vector2 value) {
            if (time > std::exchange(at, time)) stale = stale && latest != Vector2{};  // all of one time together
            go_on(time - 1);
            latest = value;
            go_on(time);
            if (is_seen) add(time, value);
        };
        auto touched = [&](std::int64_t time, const FrameInput::Touch& touch) {
            follow(time, beyond(source.dead_zone, touch.position));
        };
        if (is_touch) {
            latest = beyond(
                source.dead_zone,
                scene.frame
                    .walk_touch(scene.filter, nullptr, [](void*, const FrameInput::Cause&, const FrameInput::Touch&) {})
                    .position);
        } else if (is_stick) {
            latest = beyond(source.dead_zone, scene.frame.stick_at_start(Stick{source.number}, scene.filter));
        } else {
            latest = {beyond(source.dead_zone, scene.frame.axis_at_start(Axis{source.number}, scene.filter)), 0};
        }
        stale = stale && latest != Vector2{};
        add(scene.state.t0, is_seen ? latest : Vector2{});
        if (is_touch) {
            scene.frame.walk_touch(scene.filter, &touched,
                                   [](void* to, const FrameInput::Cause& cause, const FrameInput::Touch& touch) {
                                       (*static_cast<decltype(touched)*>(to))(cause.time, touch);
                                   });
        } else if (is_stick) {
            auto take = [&](Time time, Vector2 value) { follow(nanoseconds(time), beyond(source.dead_zone, value)); };
            scene.frame.walk_stick(Stick{source.number}, scene.filter, &take, [](void* to, Time time, Vector2 value) {
                (*static_cast<decltype(take)*>(to))(time, value);
            });
        } else {
            auto take = [&](Time time, double value) {
                follow(nanoseconds(time), {beyond(source.dead_zone, value), 0});
            };
            scene.frame.walk_axis(Axis{source.number}, scene.filter, &take, [](void* to, Time time, double value) {
                (*static_cast<decltype(take)*>(to))(time, value);
            });
        }
        go_on(scene.state.t1);
        stale = stale && latest != Vector2{};
    }
}

namespace {

// The value with the largest magnitude, ties to the first binding; never more than 1.
Vector2 target_of(const MovementScene& scene, unsigned action) noexcept {
    const ActionMap::Row& row = scene.map.actions[action];
    Vector2 best = scene.state.injected[action];
    for (unsigned i = row.first_source; i < unsigned{row.first_source} + row.source_count; ++i)
        if (square(scene.state.sources[i]) > square(best)) best = scene.state.sources[i];
    const double length = square(best);
    if (length <= 1) return best;
    if (row.kind == ActionKind::axis) return {best.x > 0 ? 1.0 : -1.0, 0};
    const double root = std::sqrt(length);
    return {best.x / root, best.y / root};
}

/// Rounds to one of 4 or 8 directions with the same length, and keeps the present one until it is clearly pushed in
/// another.
Vector2 in_direction(Vector2 v, std::uint8_t count, std::uint8_t& direction) noexcept {
    constexpr ButtonThresholds any{.press = 0x1p-40, .release = 0};
    direction = directions_of(v, direction, count == 4 ? StickDirections::four : StickDirections::eight, any);
    const auto has = [&](Direction d) -> double { return direction >> static_cast<unsigned>(d) & 1; };
    const Vector2 way{has(Direction::right) - has(Direction::left), has(Direction::down) - has(Direction::up)};
    constexpr double half_root = 0.70710678118654752440;
    const double length = std::sqrt(square(v)) * (way.x != 0 && way.y != 0 ? half_root : 1);
    return {way.x * length, way.y * length};
}

/// Sets a vector's target, rounded to its directions, and its facing.
Vector2 aimed(Vector2 target, const ActionMap::Row& row, ActionState::Moving& moving) noexcept {
    if (row.kind != ActionKind::vector) return target;
    if (row.directions != 0) target = in_direction(target, row.directions, moving.direction);
    if (const double length = std::sqrt(square(target)); length > 0) {
        const auto rounded = [&](double v) {
            return static_cast<std::int16_t>(std::lround(v / length * ActionState::Moving::facing_unit));
        };
        moving.facing_x = rounded(target.x);
        moving.facing_y = rounded(target.y);
    }
    return target;
}

}  // namespace

void Movement::move_all(const MovementScene& scene) {
    std::sort(steps_.begin(), steps_.end(), [](const Step& a, const Step& b) {
        if (a.action != b.action) return a.action < b.action;
        return a.time != b.time ? a.time < b.time : a.order < b.order;
    });
    for (const Step& step : steps_) enliven(step.action);
    // Without changes, the integral is the value times the duration.
    const auto length = static_cast<double>(scene.state.t1 - scene.state.t0);
    constexpr double nanosecond = 1e-9;
    // And it is the same again for a frame of the same length.
    if (std::exchange(held_length_, length) != length) held_ = {};
    for (unsigned word = 0; word < words_; ++word) {
        const std::uint64_t held = std::exchange(held_[word], holding_[word]);
        for (std::uint64_t rest = holding_[word] & ~held; rest != 0; rest &= rest - 1) {
            const unsigned action = word * 64 + static_cast<unsigned>(std::countr_zero(rest));
            const Vector2 value = scene.state.moving[action].value;
            integral_[action] = {(0.0 + value.x * length) * nanosecond, (0.0 + value.y * length) * nanosecond};
        }
    }
    std::span<const Step> steps{steps_};
    for (unsigned word = 0; word < words_; ++word)
        for (std::uint64_t rest = lively_[word]; rest != 0; rest &= rest - 1) {
            const auto action = static_cast<std::uint16_t>(word * 64 + static_cast<unsigned>(std::countr_zero(rest)));
            const auto end =
                std::find_if(steps.begin(), steps.end(), [&](const Step& s) { return s.action != action; });
            const auto count = static_cast<std::size_t>(end - steps.begin());
            move(scene, action, steps.first(count));
            steps = steps.subspan(count);
        }
}

// Follows one action through the frame, step by step.
void Movement::move(const MovementScene& scene, std::uint16_t action, std::span<const Step> steps) {
    const ActionMap::Row& row = scene.map.actions[action];
    ActionState::Moving& moving = scene.state.moving[action];
    const Ramps ramps{row.rise, row.fall};
    std::int64_t at = scene.state.t0;
    const auto go_on = [&](std::int64_t until) {
        Vector2& sum = integral_[action];
        if (row.kind == ActionKind::axis) {
            sum.x += move_toward(moving.value.x, moving.target.x, ramps, until - at);
        } else {
            VectorMotion motion{moving.value, moving.target, moving.rises};
            const Vector2 part = move_on(motion, ramps, until - at);
            moving.value = motion.value;
            sum = {sum.x + part.x, sum.y + part.y};
        }
        at = until;
    };
    for (auto step = steps.begin(); step != steps.end();) {
        const std::int64_t time = step->time;
        if (time > at) go_on(time);  // all steps of one time set the target together
        for (; step != steps.end() && step->time == time; ++step) {
            if (step->source == stops) {
                moving = {};
                scene.state.injected[action] = {};
                std::fill_n(&scene.state.sources[row.first_source], row.source_count, Vector2{});
            } else {
                (step->source == by_bot ? scene.state.injected[action] : scene.state.sources[step->source]) =
                    step->value;
            }
        }
        VectorMotion motion{moving.value, moving.target, moving.rises};
        const ModeBits visible = scene.segments.empty() ? scene.state.visible : scene.segments.at(time).visible;
        set_target(motion, has_mode(visible, row.mode) ? aimed(target_of(scene, action), row, moving) : Vector2{});
        moving.target = motion.target;
        moving.rises = motion.rises;
    }
    go_on(scene.state.t1);  // also in no time, for what has no ramp
}

}  // namespace cursorum::detail
