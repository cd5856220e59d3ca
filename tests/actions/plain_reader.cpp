#include "actions/plain_reader.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "cursorum/core/controls.hpp"

namespace test {

namespace {

constexpr std::int64_t never = std::numeric_limits<std::int64_t>::max();

bool starts(EdgeKind kind) { return kind == EdgeKind::press || kind == EdgeKind::adopt; }
bool is_persons(EdgeKind kind) { return kind == EdgeKind::press || kind == EdgeKind::release; }

/// The keys of an either-side name; else the button itself.
std::vector<Button> keys_of(Button name) {
    if (name == controls::Shift) return {controls::ShiftLeft, controls::ShiftRight};
    if (name == controls::Control) return {controls::ControlLeft, controls::ControlRight};
    if (name == controls::Alt) return {controls::AltLeft, controls::AltRight};
    if (name == controls::Meta) return {controls::MetaLeft, controls::MetaRight};
    return {name};
}

/// The merged names that a key belongs to: an either-side one, if there is one, comes first.
std::vector<Button> names_of(Button key) {
    std::vector<Button> names;
    for (const Button either : {controls::Shift, controls::Control, controls::Alt, controls::Meta})
        for (const Button side : keys_of(either))
            if (side == key) names.push_back(either);
    names.push_back(key);
    return names;
}

bool is_position(const Binding& binding) { return binding.touch == TouchPart::position; }
/// Whether it goes by a value and thresholds.
bool is_value(const Binding& binding) {
    return binding.kind == Binding::Kind::value || (binding.kind == Binding::Kind::touch && !is_position(binding));
}

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

PlainReader::PlainReader(const Profile& profile) : profile_{&profile} {
    for (unsigned m = 0; m < profile.modes.size(); ++m)
        for (const Action& action : profile.modes[m].actions) {
            actions_.emplace_back();
            actions_.back().action = &action;
            actions_.back().before = action;
            actions_.back().mode = m;
        }
}

// ---- what a game calls

bool PlainReader::open(unsigned mode) {
    if (is_open(mode)) return false;
    next_open_.push_back(mode);
    return reopens_ = true;
}
bool PlainReader::close(unsigned mode) {
    if (std::erase(next_open_, mode) == 0) return false;
    return reopens_ = true;
}
int PlainReader::claim(const Claim& claim) {
    int number = 0;  // those in force are asked in the order of their numbers
    while (next_claims_.contains(number) || claims_.contains(number)) ++number;
    next_claims_[number] = claim;
    reopens_ = true;
    return number;
}
void PlainReader::end_claim(int claim) {
    next_claims_.erase(claim);
    reopens_ = true;
}
void PlainReader::inject(const Injected& what) {
    auto at = injected_.begin();
    while (at != injected_.end() && at->time <= what.time) ++at;
    injected_.insert(at, what);
}
bool PlainReader::consume_press(std::size_t number) {
    State& state = actions_[number];
    if (!state.action || state.action->buffer == Duration{}) return figures(number).press != 0;
    const auto since = std::exchange(state.buffered, std::nullopt);
    return since && t0_ - *since <= state.action->buffer.count();
}

// ---- modes and claims

bool PlainReader::is_open(unsigned mode) const {
    return std::find(next_open_.begin(), next_open_.end(), mode) != next_open_.end();
}
bool PlainReader::pauses() const {
    return std::any_of(next_open_.begin(), next_open_.end(), [&](unsigned m) { return profile_->modes[m].pauses; });
}
bool PlainReader::is_visible(unsigned mode) const {
    for (std::size_t i = open_.size(); i-- > 0;) {
        if (open_[i] == mode) return true;
        if (profile_->modes[open_[i]].is_covering()) return false;
    }
    return false;
}
bool PlainReader::binds(unsigned mode, Button button) const {
    for (const State& state : actions_) {
        if (state.mode != mode || !state.action) continue;
        for (const Binding& binding : state.action->bindings)
            if (binding.kind != Binding::Kind::value &&
                std::find(binding.buttons.begin(), binding.buttons.end(), button) != binding.buttons.end())
                return true;
    }
    return false;
}
int PlainReader::flow_owner(Flow flow, Axis axis) const {
    for (const auto& [number, claim] : claims_) {
        if (claim.device != DeviceId{}) continue;
        const bool its = flow == Flow::motion ? claim.motion : flow == Flow::wheel ? claim.wheel : claim.axes;
        if (claim.everything || its) return -1;
    }
    for (std::size_t i = open_.size(); i-- > 0;) {
        if (!is_visible(open_[i])) break;
        for (const State& state : actions_) {
            if (state.mode != open_[i] || !state.action) continue;
            for (const Binding& binding : state.action->bindings) {
                using Kind = Binding::Kind;
                const Kind kind = binding.kind;
                bool has = false;
                if (flow == Flow::motion) has = kind == Kind::motion;
                if (flow == Flow::wheel) has = kind == Kind::wheel || kind == Kind::wheel_step;
                if (flow == Flow::touch) has = kind == Kind::touch;
                if (flow == Flow::axis)
                    has = (kind == Kind::axis && binding.axis == axis) ||
                          (kind == Kind::stick && (binding.stick.x() == axis || binding.stick.y() == axis)) ||
                          (kind == Kind::value && axis_behind(binding.buttons[0])->axis == axis);
                if (has) return static_cast<int>(open_[i]);
            }
        }
    }
    return -1;
}
PlainReader::Owner PlainReader::next_owner(Button button) const {
    for (const auto& [number, claim] : claims_)
        if (claim.device == DeviceId{} && claim.has(button)) return {Owner::Who::claim, number};
    for (std::size_t i = open_.size(); i-- > 0;) {
        if (!is_visible(open_[i])) break;
        if (binds(open_[i], button)) return {Owner::Who::mode, static_cast<int>(open_[i])};
    }
    return {};
}
const Claim* PlainReader::claim_on(unsigned device) const {
    for (const auto& [number, claim] : claims_)
        if (claim.device == DeviceId{device}) return &claim;
    return nullptr;
}
ButtonOwner PlainReader::owner_of(Button button) const {
    using Kind = ButtonOwner::Kind;
    const auto found = owners_.find(button.number);
    const bool down = found != owners_.end();
    const Owner owner = down ? found->second : next_owner(button);
    switch (owner.who) {
        case Owner::Who::ended: return {Kind::owner_ended, {}};
        case Owner::Who::claim:
        case Owner::Who::claim_press: return {Kind::claim, {}};
        case Owner::Who::mode: return {Kind::mode, {static_cast<std::uint8_t>(owner.number)}};
        case Owner::Who::nobody: break;
    }
    std::optional<unsigned> cover;
    for (std::size_t i = open_.size(); i-- > 0 && !down;) {
        if (cover && binds(open_[i], button)) return {Kind::covered, {static_cast<std::uint8_t>(*cover)}};
        if (!cover && profile_->modes[open_[i]].is_covering()) cover = open_[i];
    }
    return {};
}
bool PlainReader::has_press(int claim, Button button) const {
    for (const auto& [hold, by] : taken_)
        if (by == claim && hold.second == name_of(button)) return true;
    const auto owner = owners_.find(button.number);
    return owner != owners_.end() && owner->second == Owner{Owner::Who::claim_press, claim};
}

void PlainReader::forget(std::size_t number, std::int64_t time) {
    State& state = actions_[number];
    if (state.before.kind == ActionKind::button)
        for (const auto& [place, its] : std::map{state.is_down}) contact(number, place, EdgeKind::cancel, time);
    if (state.bot_down) {
        state.bot_down = false;
        or_edge(number, !state.is_down.empty(), false, EdgeKind::cancel, time);
    }
    state.waits = false;
    state.buffered.reset();
    state.raw = state.passed = false;
    state.is_fresh = true;
    if (state.is_on) {
        state.is_on = false;
        fire(number, EdgeKind::cancel, time);
    }
    state.bot = {};
}

// Everything is taken away first, then given.
void PlainReader::open_and_close(std::int64_t time) {
    const std::set<unsigned> before = std::exchange(visible_, {});
    const std::map<int, Claim> claims_before = claims_;
    open_ = next_open_;
    claims_ = next_claims_;
    for (const unsigned mode : open_)
        if (is_visible(mode)) visible_.insert(mode);
    reopens_ = false;
    std::vector<Button> to_give;
    for (const std::uint16_t number : std::set{down_}) {
        const Button button{number};
        Owner& owner = owners_[number];
        if (owner.who == Owner::Who::ended) continue;
        if (owner.who == Owner::Who::claim_press) {
            const auto claim = claims_.find(owner.number);
            if (claim == claims_.end() || claims_before.at(owner.number) != claim->second)
                owner = {Owner::Who::ended, 0};
            continue;
        }
        const Owner next = next_owner(button);
        if (owner.who == Owner::Who::mode) {
            if (is_visible(static_cast<unsigned>(owner.number)) && next.who != Owner::Who::claim) continue;
            take_away(button, owner, EdgeKind::cancel, time);
        }
        owner = next;
        if (next.who == Owner::Who::mode) to_give.push_back(button);
    }
    for (const Button button : to_give) give(button, owners_[button.number], EdgeKind::adopt, time);
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        if (!before.contains(actions_[i].mode) || is_visible(actions_[i].mode)) continue;
        forget(i, time);
        State& state = actions_[i];
        state.motion.value = state.motion.facing = state.target = {};
        state.rises = false;
        state.direction = 0;
    }
}

void PlainReader::turn_modes(std::int64_t time, Cause cause) {
    if (pressed_.empty()) return;
    const std::vector<std::size_t> pressed = std::exchange(pressed_, {});
    time = std::max(time, t0_);
    for (const std::size_t i : pressed)
        if (actions_[i].action->closes && close(actions_[i].mode))
            changes_.push_back({time, i, actions_[i].mode, false});
    for (const std::size_t i : pressed)
        for (unsigned m = 0; m < profile_->modes.size(); ++m)
            if (profile_->modes[m].name == actions_[i].action->opens && open(m)) changes_.push_back({time, i, m, true});
    if (!reopens_) return;
    open_and_close(time);
    set_states(time);
    pressed_.clear();  // nothing was pressed by this
    turns_.push_back({time, cause, flow_owner(Flow::motion), flow_owner(Flow::wheel)});
}

// ---- rebinding

void PlainReader::rebind_now() {
    const Profile& next = *std::exchange(next_profile_, nullptr);
    std::map<std::uint16_t, std::set<unsigned>> bound_before;
    for (const std::uint16_t number : down_)
        for (unsigned m = 0; m < next.modes.size(); ++m)
            if (binds(m, {number})) bound_before[number].insert(m);
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        State& state = actions_[i];
        const Action* is = nullptr;
        for (const Action& action : next.modes[state.mode].actions)
            if (action.name == state.before.name) is = &action;
        const bool same = is && state.action ? *is == state.before : !is && !state.action;
        if (same) {
            state.action = is;
            continue;
        }
        if (state.action) {
            forget(i, t0_);
        }
        state.is_down.clear(), state.stale.clear(), state.stale_sources.clear(), state.values.clear();
        state.direction = 0;
        state.action = is;
        state.before = is ? *is : Action{.name = state.before.name, .kind = state.before.kind};
        for (std::size_t b = 0; is && b < is->bindings.size(); ++b) {
            using Kind = Binding::Kind;
            const Binding& binding = is->bindings[b];
            const unsigned directions = binding.kind == Kind::pair ? 2 : binding.kind == Kind::cross ? 4 : 1;
            if (binding.kind == Kind::lock || is_value(binding)) state.stale[{b, 0}].insert(0);
            if (binding.kind == Kind::axis || binding.kind == Kind::stick || is_position(binding))
                state.stale_sources.insert(b);
            for (unsigned d = 0; d < directions; ++d)
                for (const Button member : members(*is, {b, d}))
                    if (down_.contains(member.number)) state.stale[{b, d}].insert(member.number);
        }
    }
    profile_ = &next;
    // A button that is down and newly bound, or no longer, belongs to no mode until it is up.
    for (const std::uint16_t number : down_)
        for (unsigned m = 0; m < next.modes.size(); ++m) {
            Owner& owner = owners_[number];
            if (bound_before[number].contains(m) == binds(m, {number})) continue;
            if (owner == Owner{} || owner == Owner{Owner::Who::mode, static_cast<int>(m)})
                owner = {Owner::Who::ended, 0};
        }
    std::erase_if(injected_, [&](const Injected& what) { return !actions_[what.action].action; });
    reopens_ = true;
}

// ---- from buttons to bindings

std::vector<Button> PlainReader::members(const Action& action, Place place) const {
    const Binding& binding = action.bindings[place.first];
    switch (binding.kind) {
        case Binding::Kind::buttons:
        case Binding::Kind::wheel_step: return binding.buttons;
        case Binding::Kind::pair:
        case Binding::Kind::cross: return {binding.buttons[place.second]};
        default: return {};
    }
}

bool PlainReader::is_complete(const State& state, Place place, Owner owner) const {
    const auto stale = state.stale.find(place);
    if (stale != state.stale.end() && !stale->second.empty()) return false;
    const std::vector<Button> all = members(*state.action, place);
    std::uint64_t before = 0;
    for (const Button member : all) {
        const auto its = owners_.find(member.number);
        if (its == owners_.end() || its->second != owner) return false;
        if (state.action->bindings[place.first].in_order && went_.at(member.number) < before) return false;
        before = went_.at(member.number);
    }
    return true;
}

// The longest of what the button completes; several if equally long.
void PlainReader::give(Button button, Owner owner, EdgeKind kind, std::int64_t time) {
    std::vector<std::tuple<std::size_t, std::size_t, Place>> complete;  // length, action, place
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        const State& state = actions_[i];
        if (static_cast<int>(state.mode) != owner.number || !state.action) continue;
        for (std::size_t b = 0; b < state.action->bindings.size(); ++b) {
            const Binding::Kind of = state.action->bindings[b].kind;
            if (of == Binding::Kind::wheel_step) continue;
            const unsigned directions = of == Binding::Kind::pair ? 2 : of == Binding::Kind::cross ? 4 : 1;
            for (unsigned d = 0; d < directions; ++d) {
                const std::vector<Button> all = members(*state.action, {b, d});
                if (std::find(all.begin(), all.end(), button) == all.end()) continue;
                if (state.is_down.contains({b, d}) || !is_complete(state, {b, d}, owner)) continue;
                complete.emplace_back(all.size(), i, Place{b, d});
            }
        }
    }
    std::size_t longest = 0;
    for (const auto& [size, action, place] : complete) longest = std::max(longest, size);
    for (const auto& [size, action, place] : complete)
        if (size == longest) contact(action, place, kind, time);
}

void PlainReader::take_away(Button button, Owner owner, EdgeKind kind, std::int64_t time) {
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        if (static_cast<int>(actions_[i].mode) != owner.number || !actions_[i].action) continue;
        for (const auto& [place, its] : std::map{actions_[i].is_down}) {
            const std::vector<Button> all = members(*actions_[i].action, place);
            if (std::find(all.begin(), all.end(), button) != all.end()) contact(i, place, kind, time);
        }
    }
}

void PlainReader::button_edge(Button button, EdgeKind kind, std::int64_t time) {
    if (starts(kind)) {
        down_.insert(button.number);
        Owner owner = next_owner(button);
        if (owner.who == Owner::Who::claim && kind == EdgeKind::press) owner.who = Owner::Who::claim_press;
        owners_[button.number] = owner;
        went_[button.number] = kind == EdgeKind::press ? ++presses_ : 0;
        if (owner.who == Owner::Who::mode) give(button, owner, kind, time);
    } else {
        down_.erase(button.number);
        const Owner owner = owners_[button.number];
        owners_.erase(button.number);
        if (owner.who == Owner::Who::mode) take_away(button, owner, kind, time);
        for (State& state : actions_)
            for (auto& [place, members] : state.stale) members.erase(button.number);
    }
}

void PlainReader::hold_edge(unsigned device, Button key, EdgeKind kind, std::int64_t time) {
    const std::pair hold{device, std::string{name_of(key)}};
    for (const Button name : names_of(key)) {
        bool others = false, others_pressed = false;
        for (const auto& [other, pressed] : holds_)
            for (const Button of : keys_of(name))
                if (other.second == name_of(of) && other != hold) others = true, others_pressed |= pressed;
        if (others && kind == EdgeKind::press && !others_pressed) button_edge(name, EdgeKind::cancel, time);
        if (!others || (kind == EdgeKind::press && !others_pressed)) button_edge(name, kind, time);
    }
    if (starts(kind))
        holds_[hold] = kind == EdgeKind::press;
    else
        holds_.erase(hold);
}

// ---- from bindings to actions

void PlainReader::contact(std::size_t number, Place place, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.is_down.erase(place);
    const bool pressed =
        std::any_of(state.is_down.begin(), state.is_down.end(), [](const auto& its) { return its.second.pressed; });
    const bool others = !state.is_down.empty();
    if (starts(kind)) state.is_down[place] = {kind == EdgeKind::press, ++order_};
    if (state.action->kind == ActionKind::button)
        or_edge(number, others || state.bot_down, pressed || state.bot_down, kind, time);
}

void PlainReader::bot(std::size_t number, bool down, std::int64_t time) {
    State& state = actions_[number];
    if (state.bot_down == down) return;
    state.bot_down = down;
    const bool pressed =
        std::any_of(state.is_down.begin(), state.is_down.end(), [](const auto& its) { return its.second.pressed; });
    or_edge(number, !state.is_down.empty(), pressed, down ? EdgeKind::press : EdgeKind::release, time);
}

void PlainReader::or_edge(std::size_t number, bool others_down, bool others_pressed, EdgeKind kind, std::int64_t time) {
    if (!others_down) return deliver(number, kind, time);
    if (kind != EdgeKind::press || others_pressed) return;
    deliver(number, EdgeKind::cancel, time);
    deliver(number, EdgeKind::press, time);
}

// After an edge that counts, nothing counts for a while; then the level does.
void PlainReader::deliver(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.raw = starts(kind);
    if (state.action->debounce == Duration{}) return gesture(number, kind, time);
    if (state.raw == state.passed) return;
    if (is_persons(kind) && !state.is_fresh && time - state.passed_at < state.action->debounce.count()) return;
    pass(number, kind, time);
}
void PlainReader::pass(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    state.passed = starts(kind);
    state.passed_at = time;
    state.is_fresh = !is_persons(kind);
    gesture(number, kind, time);
}

void PlainReader::gesture(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    const std::int64_t limit = state.action->gesture_time.count();
    const bool in_time = state.waits && time - state.since <= limit;
    const auto turn_off = [&] {
        if (state.is_on && !starts(kind)) {
            state.is_on = false;
            fire(number, kind, time);
        }
    };
    const auto turn_on = [&] {
        state.is_on = true;
        fire(number, kind, time);
    };
    const auto wait = [&](bool waits) {
        state.waits = waits;
        state.since = time;
    };
    switch (state.action->gesture) {
        case Gesture::hold:
            turn_off();
            if (kind == EdgeKind::adopt) turn_on();
            if (kind != EdgeKind::press) return;
            if (state.waits && time - state.since < state.action->min_interval.count()) return;
            wait(true);
            return turn_on();
        case Gesture::tap:
        case Gesture::release:
            if (kind == EdgeKind::release && (state.action->gesture == Gesture::tap ? in_time : state.waits)) {
                fire(number, EdgeKind::press, time);
                fire(number, EdgeKind::release, time);
            }
            return wait(kind == EdgeKind::press);
        case Gesture::long_press: turn_off(); return wait(kind == EdgeKind::press);
        case Gesture::double_tap:
            turn_off();
            if (kind == EdgeKind::cancel) state.waits = false;
            if (kind != EdgeKind::press) return;
            if (in_time) {
                state.waits = false;
                return turn_on();
            }
            return wait(true);
        case Gesture::toggle:
            if (kind != EdgeKind::press) return;
            state.is_on = !state.is_on;
            return fire(number, state.is_on ? EdgeKind::press : EdgeKind::release, time);
    }
}

void PlainReader::fire(std::size_t number, EdgeKind kind, std::int64_t time) {
    State& state = actions_[number];
    const std::int64_t at = std::max(time, t0_);
    edges_.push_back({at, number, kind, !starts(kind) && state.hold && state.hold->adopted});
    of_action_[number].emplace_back(at, kind);
    state.hold.reset();
    if (starts(kind)) state.hold = Hold{kind == EdgeKind::adopt, at};
    if (kind != EdgeKind::press) return;
    if (state.action->buffer != Duration{}) state.buffered = at;
    if (state.action->closes || !state.action->opens.empty()) pressed_.push_back(number);
}

// What is due by then, in the order of time; at one time in the profile's order.
void PlainReader::run_timers(std::int64_t until) {
    for (;;) {
        std::int64_t due = never;
        std::size_t next = 0;
        for (std::size_t i = 0; i < actions_.size(); ++i) {
            const State& state = actions_[i];
            if (!state.action || state.action->kind != ActionKind::button) continue;
            std::int64_t its = never;
            if (state.action->debounce != Duration{} && state.raw != state.passed)
                its = state.passed_at + state.action->debounce.count();
            if (state.action->gesture == Gesture::long_press && state.waits)
                its = std::min(its, state.since + state.action->gesture_time.count());
            if (its < due) due = its, next = i;
        }
        if (due > until || due == never) return;
        move_to(std::max(due, t0_));
        State& state = actions_[next];
        if (state.raw != state.passed && state.action->debounce != Duration{} &&
            due == state.passed_at + state.action->debounce.count()) {
            pass(next, state.raw ? EdgeKind::press : EdgeKind::release, due);
        } else {
            state.waits = false;
            state.is_on = true;
            fire(next, EdgeKind::press, due);
        }
        turn_modes(due, {Cause::Kind::timer});
    }
}

// ---- wheels, locks, values with thresholds

void PlainReader::step_wheel(double x, double y, std::int64_t time) {
    for (double i = y; i > 0; --i) turn_wheel(WheelWay::up, time);
    for (double i = y; i < 0; ++i) turn_wheel(WheelWay::down, time);
    for (double i = x; i < 0; ++i) turn_wheel(WheelWay::left, time);
    for (double i = x; i > 0; --i) turn_wheel(WheelWay::right, time);
}

void PlainReader::turn_wheel(WheelWay way, std::int64_t time) {
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

// ---- frames

void PlainReader::heal(const PlainFrame& frame, const Filter& is_mine) {
    if (!is_partial_) {
        std::set<std::uint16_t> now;
        for (const auto& [hold, pressed] : frame.holds)
            for (const Button name : names_of(find_button(hold.second))) now.insert(name.number);
        for (const std::uint16_t number : std::set{down_})
            if (!now.contains(number)) button_edge({number}, EdgeKind::cancel, t0_);
        if (reopens_) open_and_close(t0_);
        for (const std::uint16_t number : now)
            if (!down_.contains(number)) button_edge({number}, EdgeKind::adopt, t0_);
        holds_ = frame.holds;
        pressed_.clear();
        return;
    }
    std::erase_if(taken_, [&](const auto& taken) { return !frame.holds.contains(taken.first); });
    const auto counts = [&](const std::pair<unsigned, std::string>& hold) {
        if (!frame.holds.contains(hold) || taken_.contains(hold) || claim_on(hold.first)) return false;
        return !is_mine || is_mine(hold.first, find_button(hold.second));
    };
    for (const auto& [hold, pressed] : PlainHolds{holds_})
        if (!counts(hold)) hold_edge(hold.first, find_button(hold.second), EdgeKind::cancel, t0_);
    for (const auto& [hold, pressed] : frame.holds)
        if (counts(hold) && !holds_.contains(hold))
            hold_edge(hold.first, find_button(hold.second), EdgeKind::adopt, t0_);
    pressed_.clear();
}

void PlainReader::skip(const PlainFrame& frame) {
    run_timers(frame.gap_from - 1);
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        State& state = actions_[i];
        if (!state.action) continue;
        state.buffered.reset();
        if (state.action->gesture != Gesture::hold) state.waits = false;
        if (state.action->debounce != Duration{} && state.passed && !state.raw) pass(i, EdgeKind::cancel, t0_);
        state.raw = state.passed || (state.action->debounce == Duration{} && state.raw);
    }
    pads_ = frame.pads_after;
    contacts_ = frame.contacts_after;
    rest_sources();
    for (std::size_t i = 0; i < actions_.size(); ++i)
        for (auto& [b, value] : actions_[i].values) {
            if (actions_[i].is_down.contains({b, 0})) contact(i, {b, 0}, EdgeKind::cancel, t0_);
            see(actions_[i], b);
        }
    locks_ = frame.locks_after;
    set_states(t0_);
    pressed_.clear();
}

void PlainReader::happen(const Happening& what, const Filter& is_mine) {
    const std::pair hold{what.device, std::string{name_of(what.button)}};
    if (what.what == Happening::What::system_repeat) {
        if (is_partial_ && ((is_mine && !is_mine(what.device, what.button)) || !holds_.contains(hold))) return;
        for (const Button name : names_of(what.button))
            for (State& state : actions_)
                for (const auto& [place, its] : state.is_down) {
                    if (!state.action || state.action->kind != ActionKind::button) continue;
                    const std::vector<Button> all = members(*state.action, place);
                    state.system_repeats += std::find(all.begin(), all.end(), name) != all.end();
                }
        return;
    }
    if (is_partial_ && starts(what.kind) && !holds_.contains(hold)) {
        if (const Claim* claim = claim_on(what.device)) {
            for (const auto& [number, its] : claims_)
                if (&its == claim && what.kind == EdgeKind::press) taken_.emplace(hold, number);
            return;
        }
        if (is_mine && !is_mine(what.device, what.button)) return;
    }
    if (is_partial_ && !starts(what.kind) && !holds_.contains(hold)) {
        taken_.erase(hold);
        return;
    }
    hold_edge(what.device, what.button, what.kind, what.time);
}

void PlainReader::read(const PlainFrame& frame, const Filter& is_mine) {
    const bool is_again = has_read_ && frame.serial + 1 == next_serial_;
    t0_ = at_ = is_again ? t1_ : frame.t0;
    t1_ = is_again ? t1_ : frame.t1;
    edges_.clear(), changes_.clear(), of_action_.clear(), moved_.clear(), turns_.clear(), pressed_.clear();
    for (State& state : actions_) {
        state.hold_at_start = state.hold;
        state.motion.before = state.motion.value;
        state.motion.integral = state.motion.relative = {};
        state.system_repeats = 0;
    }
    if (is_again) return;
    has_read_ = true;
    next_serial_ = frame.serial + 1;
    is_mine_ = &is_mine;
    if (next_profile_) rebind_now();
    const auto claims_devices = [](const std::map<int, Claim>& claims) {
        return std::any_of(claims.begin(), claims.end(), [](const auto& c) { return c.second.device != DeviceId{}; });
    };
    // Before and after a claim on a device, all of them are merged.
    const bool parts = is_mine || claims_devices(next_claims_) || is_partial_;
    if (!parts || (!is_mine && !is_partial_)) {
        is_partial_ = false;
        heal(frame, is_mine);
    }
    is_partial_ = parts;
    pads_ = frame.pads;
    contacts_ = frame.contacts;
    locks_ = frame.locks;
    for (State& state : actions_) {
        if (!state.action) continue;
        for (std::size_t b = 0; b < state.action->bindings.size(); ++b)
            if (is_value(state.action->bindings[b])) see(state, b);
    }
    if (reopens_) open_and_close(t0_);
    rest_sources();
    if (is_partial_) heal(frame, is_mine);
    for (State& state : actions_)
        for (auto& [b, value] : state.values) see(state, b);
    set_states(t0_);
    pressed_.clear();
    turns_.push_back({t0_, {}, flow_owner(Flow::motion), flow_owner(Flow::wheel)});

    // At one instant: edges as they were posted, injected input, steps of wheels, values, locks.
    struct Item {
        std::int64_t time;
        int phase;
        std::size_t row;
        std::function<void()> run;
    };
    using What = Happening::What;
    const auto play = [&](std::size_t from, std::size_t to, bool is_before, std::int64_t until) {
        std::vector<Item> items;
        for (std::size_t h = from; h < to; ++h) {
            const Happening& what = frame.happened[h];
            // Axes and locks have no earlier time than that at which they take effect.
            const bool is_level = what.what == What::axes || what.what == What::locks || what.what == What::touch;
            const std::int64_t time =
                is_level ? std::max(what.time, is_before ? std::max(frame.gap_from - 1, frame.last_cut) : t0_)
                         : what.time;
            if (what.what == What::edge || what.what == What::system_repeat)
                items.push_back({time, 0, 0, [&what, time, &is_mine, this] {
                                     happen(what, is_mine);
                                     turn_modes(time, {Cause::Kind::event, what.order});
                                 }});
            if ((what.what == What::motion || what.what == What::wheel) && has_device(what.device))
                moved_.push_back(what);
            if (what.what == What::wheel && has_device(what.device))
                items.push_back({time, 2, 0, [&what, time, this] {
                                     const auto turn = [&](double x, double y) {
                                         step_wheel(x, y, time);
                                         turn_modes(time, {Cause::Kind::wheel, what.order});
                                     };
                                     for (double i = what.y; i > 0; --i) turn(0, 1);
                                     for (double i = what.y; i < 0; ++i) turn(0, -1);
                                     for (double i = what.x; i < 0; ++i) turn(-1, 0);
                                     for (double i = what.x; i > 0; --i) turn(1, 0);
                                 }});
            if (what.what == What::locks)
                items.push_back({time, 4, 0, [&what, time, this] {
                                     set_locks(what.locks, EdgeKind::press, EdgeKind::release, time);
                                     turn_modes(time, {});
                                 }});
            if (what.what != What::axes && what.what != What::touch) continue;
            const bool is_touch = what.what == What::touch;
            items.push_back({time, 0, 0, [&what, is_touch, this] {
                                 if (is_touch)
                                     contacts_ = what.contacts;
                                 else
                                     pads_[what.device] = {what.raw, what.shaped};
                             }});
            std::size_t row = 0;
            for (std::size_t i = 0; i < actions_.size(); ++i)
                for (const auto& [b, value] : actions_[i].values) {
                    ++row;
                    const Binding& binding = actions_[i].action->bindings[b];
                    bool is_its = is_touch == (binding.kind == Binding::Kind::touch);
                    if (is_its && !is_touch) {
                        const unsigned axis = axis_behind(binding.buttons[0])->axis.number;
                        is_its = axis >= what.first.number && axis < what.first.number + what.count;
                    }
                    if (!is_its || !has_device(what.device)) continue;
                    items.push_back({time, 3, row, [&what, time, i, b = b, is_touch, this] {
                                         State& state = actions_[i];
                                         if (is_touch)
                                             state.contacts[b] = what.contacts;
                                         else
                                             state.pads[b][what.device] = {what.raw, what.shaped};
                                         state.values[b] = value_of(state, b);
                                         set_value(i, b, !what.is_forced, time);
                                         turn_modes(time, {});
                                     }});
                }
        }
        while (!is_before && !injected_.empty() && injected_.front().time <= t1_) {
            const Injected what = injected_.front();
            injected_.erase(injected_.begin());
            const std::int64_t time = std::max(what.time, t0_);
            items.push_back({time, 1, 0, [what, time, this] {
                                 State& state = actions_[what.action];
                                 if (!state.action || !is_visible(state.mode)) return;
                                 if (state.action->kind == ActionKind::button)
                                     bot(what.action, what.down, time);
                                 else
                                     state.bot = what.value;
                                 turn_modes(time, {});
                             }});
        }
        std::stable_sort(items.begin(), items.end(), [](const Item& a, const Item& b) {
            return std::tie(a.time, a.phase, a.row) < std::tie(b.time, b.phase, b.row);
        });
        for (const Item& item : items) {
            run_timers(item.time);
            if (item.time > at_) move_to(item.time);
            item.run();
        }
        run_timers(until);
    };
    std::size_t begin = 0;
    if (frame.is_paused) {
        begin = frame.skip_at;
        play(0, begin, true, frame.gap_from - 1);
        skip(frame);
    }
    play(begin, frame.happened.size(), false, t1_);
    move_to(t1_);
    settle_and_move(t1_);  // what takes no time has happened at the end
    add_relative();
    is_partial_ = is_mine || claims_devices(next_claims_) || !taken_.empty();
}

PlainReader::Figures PlainReader::figures(std::size_t number) const {
    const State& state = actions_[number];
    Figures f;
    f.system_repeat = state.system_repeats;
    f.was_down = state.hold_at_start.has_value();
    std::optional<Hold> hold = state.hold_at_start;
    const Repeat& repeat = state.before.repeat;
    unsigned repeats = 0;
    const auto count_repeats = [&](std::int64_t until, bool included) {
        if (hold->adopted) return;
        for (std::int64_t t = hold->since + repeat.delay.count(); t < until || (included && t == until);
             t += repeat.interval.count())
            repeats += t > t0_;
    };
    const auto found = of_action_.find(number);
    if (found != of_action_.end())
        for (const auto& [time, kind] : found->second) {
            ++(kind == EdgeKind::press    ? f.press
               : kind == EdgeKind::adopt  ? f.adopt
               : kind == EdgeKind::cancel ? f.cancel
                                          : f.release);
            if (starts(kind)) {
                hold = Hold{kind == EdgeKind::adopt, time};
                continue;
            }
            f.down_span += time - std::max(hold->since, t0_);
            f.held_for = time - hold->since;
            f.released |= kind == EdgeKind::release && !hold->adopted;
            count_repeats(time, false);
            hold.reset();
        }
    f.down = hold.has_value();
    if (hold) {
        f.down_span += t1_ - std::max(hold->since, t0_);
        f.held_for = t1_ - hold->since;
        count_repeats(t1_, true);
    }
    f.repeat = repeat.cap == 0 ? repeats : std::min(repeats, repeat.cap);
    return f;
}

}  // namespace test
