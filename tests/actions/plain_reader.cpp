// Ownership, bindings, rebinding and frames. Gestures are in plain_gestures.cpp, values in plain_values.cpp.
#include "actions/plain_reader.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "cursorum/core/controls.hpp"

namespace test {

namespace {

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

/// Whether it goes by a value and thresholds.
bool is_value(const Binding& binding) {
    return binding.kind == Binding::Kind::value || (binding.kind == Binding::Kind::touch && !is_position(binding));
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
bool PlainReader::has_text() const {
    return std::any_of(profile_->modes.begin(), profile_->modes.end(), [](const Mode& mode) { return mode.text; });
}
bool PlainReader::binds(unsigned mode, Button button) const {
    if (profile_->modes[mode].text && is_key(button)) return true;
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

void PlainReader::change_modes(std::int64_t time, Cause cause) {
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
    if (!has_text()) pressers_.clear();
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
        if (has_text()) pressers_[button.number] = kind == EdgeKind::press ? owner : Owner{};
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
    texts_.clear(), edges_.clear(), changes_.clear(), of_action_.clear(), moved_.clear(), turns_.clear(),
        pressed_.clear();
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
                                     change_modes(time, {Cause::Kind::event, what.order});
                                 }});
            if ((what.what == What::motion || what.what == What::wheel) && has_device(what.device))
                moved_.push_back(what);
            if (what.what == What::wheel && has_device(what.device))
                items.push_back({time, 2, 0, [&what, time, this] {
                                     const auto turn = [&](double x, double y) {
                                         step_wheel(x, y, time);
                                         change_modes(time, {Cause::Kind::wheel, what.order});
                                     };
                                     for (double i = what.y; i > 0; --i) turn(0, 1);
                                     for (double i = what.y; i < 0; ++i) turn(0, -1);
                                     for (double i = what.x; i < 0; ++i) turn(-1, 0);
                                     for (double i = what.x; i > 0; --i) turn(1, 0);
                                 }});
            if (what.what == What::text) items.push_back({time, 5, 0, [&what, this] { take_text(what); }});
            if (what.what == What::locks)
                items.push_back({time, 4, 0, [&what, time, this] {
                                     set_locks(what.locks, EdgeKind::press, EdgeKind::release, time);
                                     change_modes(time, {});
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
                                         change_modes(time, {});
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
                                 change_modes(time, {});
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

PlainReader::Owner PlainReader::text_owner(Button key) const {
    if (key && (has_text() || owners_.contains(key.number))) {
        const auto& of = has_text() ? pressers_ : owners_;
        const auto found = of.find(key.number);
        if (found == of.end()) return {};
        const Owner owner = found->second;
        if (owner.who == Owner::Who::claim_press && claims_.contains(owner.number)) return owner;
        return owner.who == Owner::Who::mode && profile_->modes[static_cast<unsigned>(owner.number)].text ? owner
                                                                                                          : Owner{};
    }
    for (const auto& [number, claim] : claims_)
        if (claim.everything) return {Owner::Who::claim_press, number};
    for (std::size_t i = open_.size(); i-- > 0;) {
        if (!is_visible(open_[i])) break;
        if (profile_->modes[open_[i]].text) return {Owner::Who::mode, static_cast<int>(open_[i])};
    }
    return {};
}

void PlainReader::take_text(const Happening& what) {
    Owner owner = text_owner(what.button);
    if (is_partial_ && what.device != 0 && claim_on(what.device)) {
        for (const auto& [number, claim] : claims_)
            if (&claim == claim_on(what.device)) owner = {Owner::Who::claim_press, number};
    } else if (what.device != 0 && !has_device(what.device)) {
        return;
    } else {
        const bool composes = what.text_phase == TextPhase::begin || what.text_phase == TextPhase::change;
        const bool ends = what.text_phase == TextPhase::commit || what.text_phase == TextPhase::cancel;
        if (ends && composer_ != Owner{}) owner = composer_;
        if (owner.who == Owner::Who::mode && !is_visible(static_cast<unsigned>(owner.number))) owner = {};
        if (composes) composer_ = owner;
        if (ends) composer_ = {};
    }
    const std::string whose = owner.who == Owner::Who::mode     ? "mode " + std::to_string(owner.number)
                              : owner.who == Owner::Who::nobody ? "nobody"
                                                                : "claim " + std::to_string(owner.number);
    texts_.push_back(whose + " " + std::to_string(std::max(what.time, t0_)) + " " +
                     std::string{name_of(what.text_phase)} + " " + what.text);
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
