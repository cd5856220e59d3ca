// What has a value: wheels, locks, thresholds, axes and vectors, motion.
#include <algorithm>
#include <cmath>

#include "actions/plain_reader.hpp"
#include "cursorum/core/controls.hpp"

namespace test {

namespace {

double length(Vector2 v) { return std::sqrt(v.x * v.x + v.y * v.y); }

double beyond(double zone, double value) {
    if (std::abs(value) <= zone) return 0;
    const double part = std::min((std::abs(value) - zone) / (1 - zone), 1.0);
    return value < 0 ? -part : part;
}
Vector2 beyond(double zone, Vector2 v) {
    if (zone == 0 || length(v) == 0) return v;
    const double part = std::abs(beyond(zone, length(v)));
    return {v.x / length(v) * part, v.y / length(v) * part};
}
Vector2 scaled(const Binding& binding, Vector2 v) {
    return {v.x * binding.scale * (binding.invert_x ? -1 : 1), v.y * binding.scale * (binding.invert_y ? -1 : 1)};
}

}  // namespace

// ---- wheels, locks, values with thresholds

void PlainReader::step_wheel(double x, double y, std::int64_t time) {
    for (double i = y; i > 0; --i) step_wheel_once(WheelWay::up, time);
    for (double i = y; i < 0; ++i) step_wheel_once(WheelWay::down, time);
    for (double i = x; i < 0; ++i) step_wheel_once(WheelWay::left, time);
    for (double i = x; i > 0; --i) step_wheel_once(WheelWay::right, time);
}

void PlainReader::step_wheel_once(WheelWay way, std::int64_t time) {
    const int mode = flow_owner(Flow::wheel);
    if (mode < 0) return;
    std::vector<std::tuple<std::size_t, std::size_t, Place>> complete;
    std::size_t longest = 0;
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        if (static_cast<int>(actions_[i].mode) != mode || !actions_[i].action) continue;
        for (std::size_t b = 0; b < actions_[i].action->bindings.size(); ++b) {
            const Binding& binding = actions_[i].action->bindings[b];
            if (binding.kind != Binding::Kind::wheel_step || binding.wheel_way != way) continue;
            if (!is_complete(actions_[i], {b, 0}, {Owner::Who::mode, mode})) continue;
            complete.emplace_back(binding.buttons.size(), i, Place{b, 0});
            longest = std::max(longest, binding.buttons.size());
        }
    }
    for (const auto& [size, action, place] : complete) {
        if (size != longest) continue;
        contact(action, place, EdgeKind::press, time);
        contact(action, place, EdgeKind::release, time);
    }
}

// What has a state instead of edges: after modes changed, and at a frame's start.
void PlainReader::set_states(std::int64_t time) {
    for (std::size_t i = 0; i < actions_.size(); ++i)
        for (const auto& [binding, value] : std::map{actions_[i].values}) set_value(i, binding, false, time);
    set_locks(locks_, EdgeKind::adopt, EdgeKind::cancel, time);
}

void PlainReader::set_locks(const ButtonSet& on, EdgeKind down, EdgeKind up, std::int64_t time) {
    locks_ = on;
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        State& state = actions_[i];
        for (std::size_t b = 0; state.action && b < state.action->bindings.size(); ++b) {
            const Binding& binding = state.action->bindings[b];
            if (binding.kind != Binding::Kind::lock) continue;
            const Place place{b, 0};
            if (!on.contains(binding.lock)) state.stale[place].clear();
            const bool is = on.contains(binding.lock) && is_visible(state.mode) && state.stale[place].empty();
            if (is != state.is_down.contains(place)) contact(i, place, is ? down : up, time);
        }
    }
}

void PlainReader::set_value(std::size_t number, std::size_t b, bool by_person, std::int64_t time) {
    State& state = actions_[number];
    const Binding& binding = state.action->bindings[b];
    const Place place{b, 0};
    const double value = state.values[b];
    const ButtonThresholds limits = binding.touch == TouchPart::contact ? ButtonThresholds{} : binding.thresholds;
    if (value <= limits.release) state.stale[place].clear();
    const bool was = state.is_down.contains(place);
    const bool beyond = was ? value > limits.release : value >= limits.press;
    const int owner = binding.kind == Binding::Kind::touch
                          ? flow_owner(Flow::touch)
                          : flow_owner(Flow::axis, axis_behind(binding.buttons[0])->axis);
    const bool is = beyond && owner == static_cast<int>(state.mode) && state.stale[place].empty();
    if (is == was) return;
    const EdgeKind kinds[] = {EdgeKind::cancel, EdgeKind::release, EdgeKind::adopt, EdgeKind::press};
    contact(number, place, kinds[2 * is + by_person], time);
}

bool PlainReader::has_device(unsigned device) const {
    if (is_partial_ && claim_on(device)) return false;
    return !*is_mine_ || (*is_mine_)(device, controls::PadSouth) || (*is_mine_)(device, controls::MouseLeft);
}

/// The finger that has been there for the longest time.
const PlainContact* PlainReader::oldest(const PlainContacts& contacts) const {
    for (const PlainContact& contact : contacts)
        if (has_device(contact.device)) return &contact;
    return nullptr;
}

// From now on it sees everything as it is.
void PlainReader::see(State& state, std::size_t b) {
    state.pads[b] = pads_;
    state.contacts[b] = contacts_;
    state.values[b] = value_of(state, b);
}

double PlainReader::value_of(State& state, std::size_t b) const {
    const Binding& binding = state.action->bindings[b];
    if (binding.kind == Binding::Kind::touch) {
        const PlainContact* const contact = oldest(state.contacts[b]);
        if (binding.touch == TouchPart::contact) return contact ? 1 : 0;
        return contact ? contact->pressure : 0;
    }
    const auto push = axis_behind(binding.buttons[0]);
    double most = 0;
    for (const auto& [id, pad] : state.pads[b])
        if (has_device(id))
            most = std::max(most, (push->side == AxisSide::negative ? -1 : 1) * pad.shaped[push->axis.number]);
    return most;
}

// ---- axes and vectors

Vector2 PlainReader::source_of(const State& state, std::size_t b) const {
    using Kind = Binding::Kind;
    const Binding& binding = state.action->bindings[b];
    const auto order_of = [&](unsigned direction) -> std::uint64_t {
        const auto found = state.is_down.find({b, direction});
        return found == state.is_down.end() ? 0 : found->second.order;
    };
    const auto one = [&](unsigned minus) -> double {
        const std::uint64_t less = order_of(minus), more = order_of(minus + 1);
        if (less == 0 || more == 0) return int{more != 0} - int{less != 0};
        if (state.action->opposed == WhenOpposed::neutral) return 0;
        return (more > less) == (state.action->opposed == WhenOpposed::last) ? 1 : -1;
    };
    const auto on_each_pad = [&](auto&& visit) {
        for (const auto& [id, pad] : pads_)
            if (has_device(id)) visit(pad);
    };
    switch (binding.kind) {
        case Kind::pair: return scaled(binding, {one(0), 0});
        case Kind::cross: {
            Vector2 v{one(0), one(2)};
            if (state.action->directions == 4 && v.x != 0 && v.y != 0) {
                const bool x_is_newer = std::max(order_of(0), order_of(1)) > std::max(order_of(2), order_of(3));
                (x_is_newer ? v.y : v.x) = 0;
            }
            return scaled(binding, v);
        }
        case Kind::axis: {
            double most = 0;
            on_each_pad([&](const PlainPad& pad) {
                const double v = pad.raw[binding.axis.number];
                if (std::abs(v) > std::abs(most)) most = v;
            });
            return scaled(binding, {beyond(binding.dead_zone, most), 0});
        }
        case Kind::stick: {
            Vector2 most;
            on_each_pad([&](const PlainPad& pad) {
                const Vector2 v{pad.shaped[binding.stick.x().number], pad.shaped[binding.stick.y().number]};
                if (v.x * v.x + v.y * v.y > most.x * most.x + most.y * most.y) most = v;
            });
            return scaled(binding, beyond(binding.dead_zone, most));
        }
        case Kind::touch: {
            const PlainContact* const contact = oldest(contacts_);
            return contact ? scaled(binding, beyond(binding.dead_zone, contact->position)) : Vector2{};
        }
        default: return {};
    }
}

// What is newly bound counts once it has come to rest.
void PlainReader::rest_sources() {
    for (State& state : actions_)
        std::erase_if(state.stale_sources, [&](std::size_t b) { return source_of(state, b) == Vector2{}; });
}

void PlainReader::retarget() {
    rest_sources();
    for (State& state : actions_) {
        if (!state.action || state.action->kind == ActionKind::button) {
            if (!state.action) state.target = {};
            continue;
        }
        Vector2 best = state.bot;
        for (std::size_t b = 0; b < state.action->bindings.size(); ++b) {
            const Binding& binding = state.action->bindings[b];
            Vector2 v = source_of(state, b);
            const int mode = static_cast<int>(state.mode);
            if (binding.kind == Binding::Kind::axis && flow_owner(Flow::axis, binding.axis) != mode) v = {};
            if (binding.kind == Binding::Kind::stick && (flow_owner(Flow::axis, binding.stick.x()) != mode ||
                                                         flow_owner(Flow::axis, binding.stick.y()) != mode))
                v = {};
            if (is_position(binding) && flow_owner(Flow::touch) != mode) v = {};
            if (state.stale_sources.contains(b)) v = {};
            if (v.x * v.x + v.y * v.y > best.x * best.x + best.y * best.y) best = v;
        }
        const double size = length(best);
        if (size > 1) best = {best.x / size, best.y / size};
        if (!is_visible(state.mode)) best = {};
        if (state.action->kind == ActionKind::vector && is_visible(state.mode)) {
            if (const unsigned count = state.action->directions; count != 0) {
                constexpr ButtonThresholds any{.press = 0x1p-40, .release = 0};
                state.direction = directions_of(best, state.direction,
                                                count == 4 ? StickDirections::four : StickDirections::eight, any);
                const auto has = [&](Direction d) -> double { return state.direction >> static_cast<unsigned>(d) & 1; };
                const double x = has(Direction::right) - has(Direction::left);
                const double y = has(Direction::down) - has(Direction::up);
                const double part = length(best) / std::max(1.0, length({x, y}));
                best = {x * part, y * part};
            }
            if (const double pointed = length(best); pointed > 0) {
                const auto rounded = [&](double v) { return std::round(v / pointed * 32767) / 32767; };
                state.motion.facing = {rounded(best.x), rounded(best.y)};
            }
        }
        if (best == state.target) continue;
        state.target = best;
        state.rises = length(best) >= length(state.motion.value) - 1e-12;
    }
}

void PlainReader::move_to(std::int64_t time) {
    if (time > at_) settle_and_move(time);
}

// All of one instant together sets the targets.
void PlainReader::settle_and_move(std::int64_t time) {
    retarget();
    const double span = static_cast<double>(time - at_);
    at_ = time;
    for (State& state : actions_) {
        if (state.before.kind == ActionKind::button) continue;
        const double rise = static_cast<double>(state.before.rise.count());
        const double fall = static_cast<double>(state.before.fall.count());
        Motion& motion = state.motion;
        // One straight piece after the other, each with its end and how long it takes.
        double left = span;
        const auto go = [&](Vector2 to, double takes) {
            const double part = takes <= left ? 1 : left / takes;
            const Vector2 next = part == 1 ? to
                                           : Vector2{motion.value.x + (to.x - motion.value.x) * part,
                                                     motion.value.y + (to.y - motion.value.y) * part};
            const double lasts = std::min(takes, left);
            motion.integral.x += (motion.value.x + next.x) / 2 * lasts * 1e-9;
            motion.integral.y += (motion.value.y + next.y) / 2 * lasts * 1e-9;
            motion.value = next;
            left -= lasts;
        };
        const Vector2 from = motion.value, to = state.target;
        if (state.before.kind == ActionKind::axis) {
            if (from.x * to.x < 0 || (to.x == 0 && from.x != 0)) go({0, 0}, std::abs(from.x) * fall);
            if (motion.value.x * to.x >= 0 && motion.value != to && (left > 0 || motion.value.x != 0 || rise == 0)) {
                const double way = std::abs(to.x) - std::abs(motion.value.x);
                go(to, std::abs(way) * (way > 0 ? rise : fall));
            }
        } else if (from != to) {
            go(to, length({to.x - from.x, to.y - from.y}) * (state.rises ? rise : fall));
        }
        go(motion.value, left);
    }
}

// Motion and wheels go to the mode that had them at that moment.
void PlainReader::add_relative() {
    for (const Happening& moved : moved_) {
        const std::int64_t time = std::max(moved.time, t0_);
        const auto is_in = [&](const Turn& turn) {
            if (time != turn.time) return time > turn.time;
            switch (turn.cause.kind) {
                case Cause::Kind::timer: return true;
                case Cause::Kind::event:
                case Cause::Kind::wheel: return moved.order > turn.cause.order;
                case Cause::Kind::last: break;
            }
            return false;
        };
        const Turn* last = &turns_.front();
        for (std::size_t i = 1; i < turns_.size(); ++i)
            if (is_in(turns_[i])) last = &turns_[i];
        const bool is_wheel = moved.what == Happening::What::wheel;
        for (State& state : actions_) {
            if ((is_wheel ? last->wheel_owner : last->motion_owner) != static_cast<int>(state.mode) || !state.action)
                continue;
            for (const Binding& binding : state.action->bindings) {
                if (binding.kind != (is_wheel ? Binding::Kind::wheel : Binding::Kind::motion) || binding.raw) continue;
                const Vector2 way = scaled(binding, {moved.x, moved.y});
                if (state.action->kind == ActionKind::axis)
                    state.motion.relative.x += (binding.vertical ? moved.y : moved.x) * binding.scale;
                else
                    state.motion.relative = {state.motion.relative.x + way.x, state.motion.relative.y + way.y};
            }
        }
    }
}

}  // namespace test
