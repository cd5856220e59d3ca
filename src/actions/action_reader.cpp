#include "cursorum/actions/action_reader.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "actions/action_map.hpp"
#include "actions/motion_toward.hpp"
#include "core/either_side.hpp"
#include "core/figure_tally.hpp"
#include "core/merging.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::ActionState;
using detail::Effect;
using detail::Openings;
using detail::Owner;
using detail::SlotKind;

namespace {

constexpr std::size_t usual_edges = 4096;

bool is_mode(std::uint8_t owner, unsigned mode) noexcept { return owner == Owner::first_mode + mode; }

double beyond(double dead_zone, double value) noexcept {
    const double magnitude = std::abs(value);
    if (!(magnitude > dead_zone)) return 0;
    return std::copysign(std::min((magnitude - dead_zone) / (1 - dead_zone), 1.0), value);
}

// By tables: presses and releases come in no order that a processor could guess.
constexpr unsigned of(Effect effect) noexcept { return 1U << static_cast<unsigned>(effect); }
constexpr unsigned beginning = of(Effect::press) | of(Effect::adopt) | of(Effect::restart);
constexpr unsigned persons = of(Effect::press) | of(Effect::release) | of(Effect::restart);
constexpr bool begins(Effect effect) noexcept { return (beginning & of(effect)) != 0; }
constexpr bool is_persons(Effect effect) noexcept { return (persons & of(effect)) != 0; }
constexpr SlotKind kind_of(bool down, bool by_person) noexcept {
    constexpr std::array kinds{SlotKind::cancel, SlotKind::release, SlotKind::adopt, SlotKind::press};
    return kinds[down * 2U + by_person];
}

double square(Vector2 v) noexcept { return v.x * v.x + v.y * v.y; }

}  // namespace

ActionReader::ActionReader(const Profile& profile)
    : map_{std::make_unique<ActionMap>(profile.problem() ? Profile{} : profile)} {
    records_.reserve(usual_edges);
    steps_.reserve(usual_edges);
    turns_.reserve(usual_edges);
    injected_.reserve(usual_edges);
}

ActionReader::~ActionReader() = default;

// ---- buttons

[[gnu::always_inline]] inline void ActionReader::add_edge(std::uint16_t action, Effect effect, std::int64_t time) {
    flags_[action] = static_cast<std::uint8_t>((flags_[action] & ~is_down) | flags_of[static_cast<unsigned>(effect)]);
    records_.push_back({time, last_[action], action, effect});
    last_[action] = static_cast<std::uint32_t>(records_.size());
}

[[gnu::always_inline]] inline void ActionReader::set_switch(unsigned number, bool down, bool by_person,
                                                            std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    const bool was_adopted = state_.switch_adopted[number];
    state_.switch_down[number] = down;
    state_.switch_adopted[number] = down & !by_person;
    if (!it.is_button) return turn_direction(number, down, time);
    const Effect effect = merge(state_.holders[it.action], kind_of(down, by_person), !was_adopted);
    if (effect == Effect::none) return;
    if (it.is_plain) return add_edge(it.action, effect, time);
    deliver(it.action, effect, time);
}

void ActionReader::deliver(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    if (row.is_plain) return add_edge(action, effect, time);
    if (row.chatter != 0) return without_chatter(action, effect, time);
    gesture(action, effect, time);
}

// ---- what an action makes of them

// Contacts bounce. After an edge that counts, none does for a while; then the level does, if it is another one.
void ActionReader::without_chatter(std::uint16_t action, Effect effect, std::int64_t time) {
    settle(action, time - 1);
    const bool down = begins(effect);
    state_.bindings_down[action] = down;
    if (down == state_.passed_down[action] && effect != Effect::restart) return;
    const bool bounces = is_persons(effect) && state_.has_passed[action] &&
                         time - state_.passed_at[action] < map_->actions[action].chatter;
    if (!bounces || effect == Effect::restart) pass_edge(action, effect, time);
}

void ActionReader::settle(std::uint16_t action, std::int64_t until) {
    const std::int64_t due = state_.passed_at[action] + map_->actions[action].chatter;
    const bool down = state_.bindings_down[action];
    if (down == state_.passed_down[action] || due > until) return;
    pass_edge(action, down ? Effect::press : Effect::release, due);
}

void ActionReader::pass_edge(std::uint16_t action, Effect effect, std::int64_t time) {
    state_.passed_down[action] = begins(effect);
    state_.passed_at[action] = time;
    state_.has_passed[action] = is_persons(effect);  // what is adopted or cancelled is no contact that bounces
    gesture(action, effect, time);
}

// From an edge of the bindings together to edges of the action.
void ActionReader::gesture(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    std::int64_t& since = state_.since[action];
    bool &waits = state_.waits[action], &is_on = state_.is_on[action];
    const bool presses = effect == Effect::press || effect == Effect::restart;
    const auto add = [&](Effect as) {
        add_edge(action, as, time);
        if (row.keep == 0 || as != Effect::press) return;
        state_.keeps_press[action] = true;
        state_.kept_since[action] = time;
    };
    const auto turn = [&](bool on, Effect as) {
        is_on = on;
        add(as);
    };
    switch (row.gesture) {
        case Gesture::toggle:
            if (presses) turn(!is_on, is_on ? Effect::release : Effect::press);
            return;
        case Gesture::tap:
        case Gesture::release:
            if (effect == Effect::release && waits &&
                (row.gesture == Gesture::release || time - since <= row.gesture_time)) {
                add(Effect::press);
                add(Effect::release);
            }
            since = time;
            waits = presses;
            return;
        case Gesture::long_press:
            last_long_enough(action, time - 1);
            if (is_on && !begins(effect)) turn(false, effect);
            if (is_on && effect == Effect::restart) turn(false, Effect::cancel);
            since = time;
            waits = presses;
            return;
        case Gesture::double_tap:
            if (is_on && (!begins(effect) || effect == Effect::restart))
                turn(false, effect == Effect::release ? Effect::release : Effect::cancel);
            if (effect == Effect::cancel) waits = false;
            if (!presses) return;
            if (waits && time - since <= row.gesture_time) {
                waits = false;
                return turn(true, Effect::press);
            }
            since = time;
            waits = true;
            return;
        case Gesture::hold:
            if (is_on && (!begins(effect) || effect == Effect::restart))
                turn(false, effect == Effect::release ? Effect::release : Effect::cancel);
            if (effect == Effect::adopt) return turn(true, Effect::adopt);
            // `waits`: there was a press to be apart from.
            if (!presses || (waits && time - since < row.apart)) return;
            since = time;
            waits = true;
            return turn(true, Effect::press);
    }
}

/// A press that goes on has become a long one, if it has by `until`.
void ActionReader::last_long_enough(std::uint16_t action, std::int64_t until) {
    const std::int64_t due = state_.since[action] + map_->actions[action].gesture_time;
    if (!state_.waits[action] || due > until) return;
    state_.waits[action] = false;
    state_.is_on[action] = true;
    add_edge(action, Effect::press, due);
    state_.keeps_press[action] = map_->actions[action].keep != 0;
    state_.kept_since[action] = due;
}

bool ActionReader::take_press(ButtonAction action) noexcept {
    if (action.number >= map_->actions.size()) return false;
    const std::int64_t keep = map_->actions[action.number].keep;
    if (keep == 0) return has(action, had_press);
    const bool waits = std::exchange(state_.keeps_press[action.number], false);
    return waits && state_.t0 - state_.kept_since[action.number] <= keep;
}

// Of an action by each of its bindings that is down; chords repeat with their members.
void ActionReader::count_system_repeat(Button button) {
    for (unsigned i = map_->first_of[button.number]; i != map_->first_of[button.number + 1U]; ++i) {
        const unsigned number = map_->of_buttons[i];
        if (!map_->switches[number].is_button || !state_.switch_down[number]) continue;
        ++system_repeats_[map_->switches[number].action];
        has_system_repeats_ = true;
    }
}

// ---- from buttons to bindings

[[gnu::always_inline]] inline void ActionReader::turn_switches(Button button, std::uint8_t owner, bool down,
                                                               bool by_person, std::int64_t time) {
    const unsigned first = map_->first_of[button.number], end = map_->first_of[button.number + 1U];
    if (!map_->in_chords.contains(button)) {
        for (unsigned i = first; i != end; ++i)
            if (is_mode(owner, map_->switches[map_->of_buttons[i]].mode))
                set_switch(map_->of_buttons[i], down, by_person, time);
    } else if (down) {
        complete_chords(button, owner, by_person, time);
    } else {
        for (unsigned i = first; i != end; ++i)
            if (state_.switch_down[map_->of_buttons[i]]) set_switch(map_->of_buttons[i], false, by_person, time);
    }
}

void ActionReader::take_edge(Button button, bool down, bool by_person, std::int64_t time) {
    std::uint64_t& word = state_.down[button.number / 64U];
    word = (word & ~(std::uint64_t{1} << button.number % 64U)) | std::uint64_t{down} << button.number % 64U;
    std::uint8_t& place = state_.owners[button.number];
    std::uint8_t owner = down ? state_.takers[button.number] : place;
    if (map_->has_order && down && map_->in_order.contains(button)) [[unlikely]]
        state_.turn_of[button.number] = by_person ? ++state_.turns : 0;
    // What is found down is no press of the claim's.
    if (owner >= Owner::first_late_claim && owner != Owner::nobody_more && down && by_person) [[unlikely]]
        owner = static_cast<std::uint8_t>(owner - Owner::first_late_claim + Owner::first_claim);
    place = down ? owner : Owner::nobody;
    if (Owner::is_mode(owner)) turn_switches(button, owner, down, by_person, time);
}

/// Its members are, all of them its owner's, and in its order if it has one.
bool ActionReader::are_down(const ActionSwitch& it, std::uint8_t owner, const ButtonSet& down) const noexcept {
    for (unsigned i = 0; i < it.member_count; ++i)
        if (!down.contains({it.members[i]}) || state_.owners[it.members[i]] != owner) return false;
    for (unsigned i = 1; it.in_order && i < it.member_count; ++i)
        if (state_.turn_of[it.members[i]] < state_.turn_of[it.members[i - 1U]]) return false;
    return true;
}

// The longest of those that the button completes; equally long ones together.
void ActionReader::complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time) {
    const unsigned first = map_->first_of[button.number], end = map_->first_of[button.number + 1U];
    const ButtonSet down{state_.down};
    const auto completes = [&](const ActionSwitch& it, unsigned number) {
        if (!is_mode(owner, it.mode) || state_.switch_down[number]) return false;
        return are_down(it, owner, down);
    };
    unsigned longest = 0;
    for (unsigned i = first; i != end; ++i) {
        const ActionSwitch& it = map_->switches[map_->of_buttons[i]];
        if (it.member_count > longest && completes(it, map_->of_buttons[i])) longest = it.member_count;
    }
    for (unsigned i = first; i != end && longest != 0; ++i) {
        const unsigned number = map_->of_buttons[i];
        const ActionSwitch& it = map_->switches[number];
        if (it.member_count == longest && completes(it, number)) set_switch(number, true, by_person, time);
    }
}

void ActionReader::turn_direction(unsigned number, bool down, std::int64_t time) {
    const ActionSwitch& it = map_->switches[number];
    if (down) {
        const unsigned bit = it.direction / 2;
        std::uint8_t& latest = state_.latest[it.source];
        latest = static_cast<std::uint8_t>((latest & ~(1U << bit)) | (it.direction % 2U) << bit);
    }
    steps_.push_back(
        {time, value_of_directions(it.source), static_cast<std::uint32_t>(steps_.size()), it.action, it.source});
}

Vector2 ActionReader::value_of_directions(unsigned number) const noexcept {
    const ActionSource& source = map_->sources[number];
    const auto one = [&](unsigned axis) -> double {
        const bool minus = state_.switch_down[source.first_switch + 2 * axis];
        const bool plus = state_.switch_down[source.first_switch + 2 * axis + 1];
        if (minus != plus || !minus || source.opposed == WhenOpposed::cancel) return int{plus} - int{minus};
        const bool plus_was_last = (state_.latest[number] >> axis & 1) != 0;
        return plus_was_last == (source.opposed == WhenOpposed::last) ? 1 : -1;
    };
    Vector2 value{one(0) * source.scale, source.kind == Binding::Kind::cross ? one(1) * source.scale : 0};
    return value;
}

// ---- frames

void ActionReader::read(const Frame& frame) {
    open_frame(nanoseconds(frame.start()), nanoseconds(frame.end()));
    if (next_map_) apply_bindings();
    if (claims_devices() || state_.part.is_part) [[unlikely]] {
        if (!state_.part.is_part) {
            heal(frame.previous().down);
            seed_part(frame);
        }
        read_part(frame, [](unsigned, Button) { return true; });
        // What was pressed under a claim stays unheard until it is up.
        state_.part.is_part = claims_devices() || state_.part.claimed_holds != 0;
        return;
    }
    heal(frame.previous().down);
    if (state_.reopens) apply_openings();
    take_merged(frame);
    finish_frame(frame);
}

void ActionReader::read(const Frame& frame, const Seats& seats, unsigned seat) {
    open_frame(nanoseconds(frame.start()), nanoseconds(frame.end()));
    if (next_map_) apply_bindings();
    if (!std::exchange(state_.part.is_part, true)) heal({});
    read_part(frame,
              [&](unsigned device, Button button) { return seats.seat_of(frame.id_of(device), button) == seat; });
}

void ActionReader::take_merged(const Frame& frame) {
    heard_ = Frame::every_device;
    gather_turns(frame);
    const bool has_between = !turns_.empty() || !injected_.empty();
    for (std::uint32_t i = 0; i < frame.entries_->count; ++i) {
        const detail::Record& record = frame.entries_->records[i];
        const Effect effect = record.what().effect();
        if (record.what().kind() == SlotKind::system_repeat) [[unlikely]]
            count_system_repeat({record.button()});
        if (effect == Effect::none) continue;
        if (has_between) catch_up(record.time - 1);
        if (effect == Effect::restart) take_edge({record.button()}, false, false, record.time);
        take_edge({record.button()}, begins(effect), is_persons(effect), record.time);
    }
    if (has_between) catch_up(state_.t1);
}

void ActionReader::finish_frame(const Frame& frame) {
    for (const std::uint16_t action : map_->lasting) {
        if (map_->actions[action].chatter != 0) settle(action, state_.t1);
        if (map_->actions[action].gesture == Gesture::long_press) last_long_enough(action, state_.t1);
    }
    if (map_->moving.empty()) return;
    add_steps(frame);
    add_relative(frame);
    move_all();
}

// ---- a part of the devices

namespace {

/// Calls `visit` for the either-side name that a key belongs to, and for the key.
template <typename Visit>
void for_each_name(Button button, Visit&& visit) {
    if (const unsigned either = either_side_of(button.number); either != 0)
        visit(Button{static_cast<std::uint16_t>(either)});
    visit(button);
}

}  // namespace

/// From 1; 0 if there is none.
unsigned ActionReader::claim_on(DeviceId device) const noexcept {
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((state_.now.claimed >> i & 1) != 0 && state_.now.claims[i].device == device && device != DeviceId{})
            return i + 1;
    return 0;
}

// So far all devices were heard: what is down at the frame's start is known already.
void ActionReader::seed_part(const Frame& frame) noexcept {
    detail::PartHeard& part = state_.part;
    part = {};
    part.is_part = true;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::DeviceHold& hold = frame.state_->holds[i];
        if (!hold.is_held()) continue;
        for_each_name({hold.button()},
                      [&](Button name) { merge(part.holders[name.number], hold.what().kind(), false); });
        part.buttons[i] = hold.button();
        part.pressed[i] = hold.what().kind() == SlotKind::press;
    }
}

// What a device's edge does to the buttons as this reader hears them. An either-side name's comes before its key's.
void ActionReader::hear(SlotKind kind, unsigned hold, Button button, std::int64_t time) {
    detail::PartHeard& part = state_.part;
    const Effect effect = merge(part.holders[button.number], kind, part.pressed[hold]);
    if (button.number < first_either_side) {
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        part.pressed[hold] = kind == SlotKind::press;
        part.buttons[hold] = down ? button.number : std::uint16_t{0};
    }
    if (effect == Effect::none) return;
    if (effect == Effect::restart) take_edge(button, false, false, time);
    take_edge(button, begins(effect), is_persons(effect), time);
}

// The frame's device edges, of the devices that `hears(number, button)` and no claim has, merged anew. What is heard
// may change at the frame's start, and frames may have been left out: what is down then is compared with what is known.
template <typename Hears>
void ActionReader::read_part(const Frame& frame, Hears&& hears) {
    detail::PartHeard& part = state_.part;
    if (state_.reopens) apply_openings();
    const auto claim_of = [&](unsigned device) { return claim_on(frame.id_of(device)); };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::DeviceHold& hold = frame.state_->holds[i];
        const bool held = hold.is_held();
        if (part.claim_of[i] != 0 && !held) {
            part.claim_of[i] = 0;
            --part.claimed_holds;
        }
        const bool down =
            held && part.claim_of[i] == 0 && hears(hold.device(), {hold.button()}) && claim_of(hold.device()) == 0;
        const auto turn = [&](SlotKind kind, std::uint16_t button) {
            for_each_name({button}, [&](Button name) { hear(kind, i, name, state_.t0); });
        };
        if (part.buttons[i] != 0 && !(down && part.buttons[i] == hold.button()))
            turn(SlotKind::cancel, part.buttons[i]);
        if (down && part.buttons[i] == 0) turn(SlotKind::adopt, hold.button());
    }
    heard_devices_ = {};
    for (unsigned i = 0; i < 253; ++i) {
        if (frame.id_of(i) == DeviceId{} || claim_of(i) != 0) continue;
        const bool is_heard = hears(i, axis_button(Axis{0})) || hears(i, controls::MouseLeft);
        heard_devices_[i / 64] |= std::uint64_t{is_heard} << i % 64;
    }
    heard_ = Frame::chosen;
    frame.chosen_ = &heard_devices_;
    gather_turns(frame);
    for (std::uint32_t i = 0; i < frame.entries_->count; ++i) {
        const detail::Record& record = frame.entries_->records[i];
        const SlotKind kind = record.what().kind();
        const Button button{record.button()};
        const unsigned hold = detail::hold_of(frame.entries_->holds[i]);
        // An either-side name's record stands before its key's, and whose it is, the key says.
        const bool is_key = button.number < first_either_side;
        const Button key{is_key || i + 1 == frame.entries_->count ? button.number
                                                                  : frame.entries_->records[i + 1].button()};
        if (kind == SlotKind::system_repeat && hears(record.device(), key)) count_system_repeat(button);
        if (kind > SlotKind::cancel || hold >= hold_capacity) continue;
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        if (!down && part.buttons[hold] == 0) {
            if (part.claim_of[hold] != 0 && is_key) part.claim_of[hold] = 0, --part.claimed_holds;
            continue;
        }
        if (down && part.buttons[hold] == 0) {
            if (const unsigned claim = claim_of(record.device()); claim != 0) {
                if (kind != SlotKind::press || !is_key || part.claim_of[hold] != 0) continue;
                part.claim_of[hold] = static_cast<std::uint8_t>(claim);
                part.claimed[hold] = button.number;
                ++part.claimed_holds;
                continue;
            }
            if (!hears(record.device(), key)) continue;
        }
        catch_up(record.time - 1);
        hear(kind, hold, button, record.time);
    }
    catch_up(state_.t1);
    finish_frame(frame);
    frame.chosen_ = nullptr;
}

PointerReading ActionReader::pointer_of(const Frame& frame) const noexcept {
    return heard_ == Frame::chosen ? frame.chosen_pointer() : frame.pointer();
}

// ---- mice and wheels

void ActionReader::gather_turns(const Frame& frame) {
    if (!map_->of_wheel.empty())
        pointer_of(frame).for_each_wheel_step([this](Time time, WheelSteps steps) {
            turns_.push_back({nanoseconds(time), steps.x, steps.y});
        });
    if (map_->of_locks.empty()) return;
    // So that modes that opened, and frames that were left out, have their say, too.
    set_locks(frame.desk_->locks, false, state_.t0);
    for (std::uint32_t i = 0; i < frame.desk_entries_->fact_count; ++i) {
        const detail::FactSlot& fact = frame.desk_entries_->facts[i];
        if (fact.kind() != detail::FactKind::locks) continue;
        // To its place in time: there are few. (The library's merging would allocate.)
        const auto later = [](std::int64_t time, const Turn& turn) { return time < turn.time; };
        turns_.insert(std::upper_bound(turns_.begin(), turns_.end(), fact.time, later),
                      {fact.time, 0, 0, true, static_cast<std::uint8_t>(fact.begin[0])});
    }
}

void ActionReader::set_locks(unsigned on, bool by_person, std::int64_t time) {
    for (const std::uint16_t number : map_->of_locks) {
        const ActionSwitch& it = map_->switches[number];
        const bool down = (on >> (it.lock - 1U) & 1) != 0 && (state_.visible >> it.mode & 1) != 0;
        if (down != state_.switch_down[number]) set_switch(number, down, by_person, time);
    }
}

// What comes between edges, in the order of time. At one time edges come first: a key that is held while a wheel turns
// was pressed before.
void ActionReader::catch_up(std::int64_t until) {
    std::size_t done = 0;
    for (;;) {
        const bool has_turn = turned_ != turns_.size(), has_injected = done != injected_.size();
        const std::int64_t turn_time = has_turn ? turns_[turned_].time : INT64_MAX;
        const std::int64_t injected_time = has_injected ? std::max(injected_[done].time, state_.t0) : INT64_MAX;
        if (std::min(turn_time, injected_time) > until || !(has_turn || has_injected)) break;
        if (injected_time <= turn_time) {
            apply_injected(injected_[done++]);
        } else {
            const Turn& turn = turns_[turned_++];
            if (turn.is_lock)
                set_locks(turn.locks, true, turn.time);
            else
                step_wheel(turn.x, turn.y, turn.time);
        }
    }
    injected_.erase(injected_.begin(), injected_.begin() + static_cast<std::ptrdiff_t>(done));
}

void ActionReader::step_wheel(std::int32_t x, std::int32_t y, std::int64_t time) {
    constexpr std::int32_t most = 1024;  // no hand turns a wheel that far within one event
    for (std::int32_t i = std::min(y, most); i > 0; --i) turn_wheel(WheelWay::up, time);
    for (std::int32_t i = std::max(y, -most); i < 0; ++i) turn_wheel(WheelWay::down, time);
    for (std::int32_t i = std::max(x, -most); i < 0; ++i) turn_wheel(WheelWay::left, time);
    for (std::int32_t i = std::min(x, most); i > 0; --i) turn_wheel(WheelWay::right, time);
}

// Of the wheel's bindings the longest chord alone, as of a button's.
void ActionReader::turn_wheel(WheelWay way, std::int64_t time) {
    const std::uint8_t owner = state_.flow_owners[detail::wheel_flow];
    const ButtonSet down{state_.down};
    const auto completes = [&](const ActionSwitch& it) {
        return it.wheel_way == way && is_mode(owner, it.mode) && are_down(it, owner, down);
    };
    int longest = -1;
    for (const std::uint16_t number : map_->of_wheel)
        if (completes(map_->switches[number])) longest = std::max<int>(longest, map_->switches[number].member_count);
    for (const std::uint16_t number : map_->of_wheel) {
        const ActionSwitch& it = map_->switches[number];
        if (int{it.member_count} != longest || !completes(it)) continue;
        set_switch(number, true, true, time);
        set_switch(number, false, true, time);
    }
}

void ActionReader::add_relative(const Frame& frame) noexcept {
    for (const std::uint16_t i : map_->relative) {
        const ActionSource& source = map_->sources[i];
        const bool is_motion = source.kind == Binding::Kind::motion;
        const unsigned flow = is_motion ? detail::motion_flow : detail::wheel_flow;
        if (!is_mode(state_.flow_owners[flow], map_->actions[source.action].mode)) continue;
        const PointerReading pointer = pointer_of(frame);
        const Distance way = !is_motion ? pointer.wheel() : source.raw ? pointer.raw_motion() : pointer.motion();
        Vector2& sum = relative_[source.action];
        if (map_->actions[source.action].kind == ActionKind::axis)
            sum.x += (source.vertical ? way.y : way.x) * source.scale;
        else
            sum = {sum.x + way.x * source.scale, sum.y + way.y * source.scale};
    }
}

void ActionReader::commit(const std::vector<Record>& records, State& state) noexcept {
    for (const Record& record : records) {
        const bool down = begins(record.effect);
        state.levels[record.action] = down;
        const unsigned place = down ? record.action : action_capacity;
        state.start[place] = record.time;
        state.adopted[place] = record.effect == Effect::adopt;
    }
    state.t0 = state.t1;
}

void ActionReader::open_frame(std::int64_t t0, std::int64_t t1) noexcept {
    commit(records_, state_);
    clear();
    state_.t0 = t0;
    state_.t1 = t1;
}

void ActionReader::clear() noexcept {
    for (const Record& record : records_) {
        last_[record.action] = 0;
        flags_[record.action] &= is_down;
    }
    records_.clear();
    steps_.clear();
    turns_.clear();
    turned_ = 0;
    if (std::exchange(has_system_repeats_, false)) system_repeats_ = {};
    for (const std::uint16_t action : map_->moving) {
        before_[action] = state_.moving[action].value;
        integral_[action] = relative_[action] = {};
    }
}

// What changed in frames that were not read. Nobody saw the edges, so they are nobody's.
void ActionReader::heal(const ButtonSet& down) {
    const ButtonSet known{state_.down};
    if (known == down) return;
    (known - down).for_each([this](Button button) { take_edge(button, false, false, state_.t0); });
    (down - known).for_each([this](Button button) { take_edge(button, true, false, state_.t0); });
}

// ---- other bindings

bool ActionReader::rebind(const Profile& profile) {
    const auto same = [](const Action& a, const Action& b) { return a.name == b.name && a.kind == b.kind; };
    const auto same_actions = [&](const Mode& a, const Mode& b) {
        return a.name == b.name &&
               std::equal(a.actions.begin(), a.actions.end(), b.actions.begin(), b.actions.end(), same);
    };
    const std::vector<Mode>& modes = map_->profile.modes;
    if (profile.problem() ||
        !std::equal(modes.begin(), modes.end(), profile.modes.begin(), profile.modes.end(), same_actions))
        return false;
    next_map_ = std::make_unique<const ActionMap>(profile);
    return true;
}

void ActionReader::apply_bindings() {
    const std::int64_t t0 = state_.t0;
    std::vector<const Action*> before, after;
    for (const Mode& mode : map_->profile.modes)
        for (const Action& action : mode.actions) before.push_back(&action);
    for (const Mode& mode : next_map_->profile.modes)
        for (const Action& action : mode.actions) after.push_back(&action);
    // What has changed lets go, by its old bindings. The others' switches and sources get their new numbers.
    std::array<bool, switch_capacity> switch_down{}, switch_adopted{};
    std::array<Vector2, source_capacity> sources{};
    std::array<std::uint8_t, source_capacity> latest{};
    for (std::uint16_t i = 0; i < before.size(); ++i) {
        const ActionMap::Row &was = map_->actions[i], &is = next_map_->actions[i];
        if (*before[i] == *after[i]) {
            std::copy_n(&state_.switch_down[was.first_switch], was.switch_count, &switch_down[is.first_switch]);
            std::copy_n(&state_.switch_adopted[was.first_switch], was.switch_count, &switch_adopted[is.first_switch]);
            std::copy_n(&state_.sources[was.first_source], was.source_count, &sources[is.first_source]);
            std::copy_n(&state_.latest[was.first_source], was.source_count, &latest[is.first_source]);
            continue;
        }
        for (unsigned number = was.first_switch; number < unsigned{was.first_switch} + was.switch_count; ++number)
            if (state_.switch_down[number] && map_->switches[number].is_button) set_switch(number, false, false, t0);
        forget(i);
        ActionState::Moving& moving = state_.moving[i];
        VectorMotion motion{moving.value, moving.target, moving.rises};
        set_target(motion, {});
        moving.target = motion.target;
        moving.rises = motion.rises;
    }
    // What is down and newly bound in a mode, or no longer, is nobody's until it is up.
    ButtonSet{state_.down}.for_each([&](Button button) {
        std::uint8_t& owner = state_.owners[button.number];
        for (unsigned mode = 0; mode < map_->modes.size(); ++mode) {
            const bool was = map_->modes[mode].buttons.contains(button);
            const bool is = next_map_->modes[mode].buttons.contains(button);
            if (was != is && (owner == Owner::nobody || is_mode(owner, mode))) owner = Owner::nobody_more;
        }
    });
    state_.switch_down = switch_down;
    state_.switch_adopted = switch_adopted;
    state_.sources = sources;
    state_.latest = latest;
    ++state_.bindings;
    state_.reopens = true;
    map_ = std::move(next_map_);
}

// What a bot does to an action, and what the action made of its presses; if it is down after that, it is cancelled.
void ActionReader::forget(std::uint16_t action) {
    state_.injected[action] = {};
    if (std::exchange(state_.injected_down[action], false)) {
        const Effect effect = merge(state_.holders[action], SlotKind::cancel, true);
        if (effect != Effect::none) deliver(action, effect, state_.t0);
    }
    state_.waits[action] = state_.keeps_press[action] = false;
    state_.has_passed[action] = state_.passed_down[action] = state_.bindings_down[action] = false;
    if (std::exchange(state_.is_on[action], false)) add_edge(action, Effect::cancel, state_.t0);
}

// ---- what a bot does

bool ActionReader::inject(std::uint16_t action, ActionKind kind, const Injected& what) {
    if (action >= map_->actions.size() || map_->actions[action].kind != kind) return false;
    if (!std::isfinite(what.value.x) || !std::isfinite(what.value.y)) return false;
    const auto later = [](std::int64_t time, const Injected& other) { return time < other.time; };
    injected_.insert(std::upper_bound(injected_.begin(), injected_.end(), what.time, later), what);
    return true;
}
bool ActionReader::inject(ButtonAction action, bool down, Time when) {
    return inject(action.number, ActionKind::button, {nanoseconds(when), {}, action.number, true, down});
}
bool ActionReader::inject(AxisAction action, double value, Time when) {
    return inject(action.number, ActionKind::axis, {nanoseconds(when), {value, 0}, action.number, false, false});
}
bool ActionReader::inject(VectorAction action, Vector2 value, Time when) {
    return inject(action.number, ActionKind::vector, {nanoseconds(when), value, action.number, false, false});
}

bool ActionReader::is_shown(unsigned action) const noexcept {
    return (state_.visible >> map_->actions[action].mode & 1) != 0;
}

void ActionReader::apply_injected(const Injected& what) {
    const std::int64_t time = std::max(what.time, state_.t0);
    if (!is_shown(what.action)) return;
    if (!what.is_button) {
        steps_.push_back({time, what.value, static_cast<std::uint32_t>(steps_.size()), what.action, source_capacity});
        return;
    }
    if (std::exchange(state_.injected_down[what.action], what.down) == what.down) return;
    const Effect effect = merge(state_.holders[what.action], kind_of(what.down, true), true);
    if (effect != Effect::none) deliver(what.action, effect, time);
}

// ---- who gets what

bool ActionReader::open(ModeHandle mode) noexcept {
    if (mode.number >= map_->modes.size() || is_open(mode)) return false;
    state_.next.modes[state_.next.count++] = mode.number;
    state_.reopens = true;
    return true;
}

bool ActionReader::close(ModeHandle mode) noexcept {
    Openings& next = state_.next;
    const auto end = next.modes.begin() + next.count, found = std::find(next.modes.begin(), end, mode.number);
    if (found == end) return false;
    std::copy(found + 1, end, found);
    next.modes[--next.count] = 0;
    state_.reopens = true;
    return true;
}

bool ActionReader::is_open(ModeHandle mode) const noexcept {
    const auto end = state_.next.modes.begin() + state_.next.count;
    return std::find(state_.next.modes.begin(), end, mode.number) != end;
}

std::optional<ClaimId> ActionReader::claim(const Claim& claim) noexcept {
    // A place whose claim ends at the next frame's start is not free before.
    const unsigned used = unsigned{state_.next.claimed} | state_.now.claimed;
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((used >> i & 1) != 0) continue;
        state_.next.claims[i] = claim;
        state_.next.claimed = static_cast<std::uint16_t>(state_.next.claimed | 1U << i);
        const unsigned of_device = claim.device != DeviceId{} ? 1U << i : 0U;
        state_.next.of_devices = static_cast<std::uint16_t>(state_.next.of_devices | of_device);
        state_.reopens = true;
        return ClaimId{static_cast<std::uint8_t>(i)};
    }
    return std::nullopt;
}

void ActionReader::end_claim(ClaimId claim) noexcept {
    const auto place = static_cast<unsigned>(claim);
    if (place >= claim_capacity) return;
    state_.next.claimed = static_cast<std::uint16_t>(state_.next.claimed & ~(1U << place));
    state_.next.of_devices = static_cast<std::uint16_t>(state_.next.of_devices & ~(1U << place));
    state_.next.claims[place] = {};
    state_.reopens = true;
}

bool ActionReader::has_press(ClaimId claim, Button button) const noexcept {
    if (state_.part.claimed_holds != 0)
        for (unsigned i = 0; i < hold_capacity; ++i)
            if (state_.part.claim_of[i] == static_cast<unsigned>(claim) + 1 && state_.part.claimed[i] == button.number)
                return true;
    return button.number < button_capacity &&
           state_.owners[button.number] == Owner::first_claim + static_cast<unsigned>(claim);
}

ButtonTaker ActionReader::taker_of(Button button) const noexcept {
    if (button.number >= button_capacity) return {};
    const bool down = ButtonSet{state_.down}.contains(button);
    const std::uint8_t owner = (down ? state_.owners : state_.takers)[button.number];
    if (owner == Owner::nobody_more) return {ButtonTaker::Kind::none_more, {}};
    if (owner >= Owner::first_claim) return {ButtonTaker::Kind::claim, {}};
    if (!Owner::is_mode(owner)) return {};
    return {ButtonTaker::Kind::mode, {static_cast<std::uint8_t>(owner - Owner::first_mode)}};
}

void ActionReader::find_visible() noexcept {
    const Openings& now = state_.now;
    state_.visible = 0;
    state_.flow_owners = {};
    unsigned claimed = 0;  // flows
    for (unsigned i = 0; i < claim_capacity; ++i) {
        if ((now.claimed >> i & 1) == 0) continue;
        const Claim& claim = now.claims[i];
        if (claim.everything || claim.axes) claimed |= (1U << axis_kinds) - 1;
        claimed |= unsigned{claim.everything || claim.motion} << detail::motion_flow;
        claimed |= unsigned{claim.everything || claim.wheel} << detail::wheel_flow;
    }
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        state_.visible = static_cast<std::uint16_t>(state_.visible | 1U << mode);
        for (unsigned flow = 0; flow < detail::flow_kinds; ++flow)
            if (state_.flow_owners[flow] == Owner::nobody && (map_->modes[mode].flows & ~claimed) >> flow & 1)
                state_.flow_owners[flow] = static_cast<std::uint8_t>(Owner::first_mode + mode);
        if (map_->modes[mode].covers) break;
    }
}

// The lowest claim first; else the uppermost mode that sees it.
std::uint8_t ActionReader::find_taker(Button button) const noexcept {
    const Openings& now = state_.now;
    for (unsigned i = 0; i < claim_capacity && now.claimed != 0; ++i)
        if ((now.claimed >> i & 1) != 0 && now.claims[i].has(button))
            return static_cast<std::uint8_t>(Owner::first_late_claim + i);
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        if ((state_.visible >> mode & 1) == 0) break;
        if (map_->modes[mode].buttons.contains(button)) return static_cast<std::uint8_t>(Owner::first_mode + mode);
    }
    return Owner::nobody;
}

// At the frame's start: first all is taken away, then given.
void ActionReader::apply_openings() {
    const std::uint16_t was_visible = state_.visible;
    const Openings before = state_.now;
    state_.now = state_.next;
    state_.reopens = false;
    find_visible();
    for (std::uint16_t i = 0; i < button_capacity; ++i) state_.takers[i] = find_taker({i});
    const std::int64_t t0 = state_.t0;
    ButtonSet to_give;
    ButtonSet{state_.down}.for_each([&](Button button) {
        std::uint8_t& owner = state_.owners[button.number];
        if (owner == Owner::nobody_more) return;
        if (owner >= Owner::first_claim && owner < Owner::first_late_claim) {
            const unsigned claim = owner - Owner::first_claim;
            const bool same =
                (state_.now.claimed >> claim & 1) != 0 && before.claims[claim] == state_.now.claims[claim];
            if (!same) owner = Owner::nobody_more;
            return;
        }
        const std::uint8_t next = state_.takers[button.number];
        if (Owner::is_mode(owner)) {
            const unsigned mode = owner - Owner::first_mode;
            const bool stays = (state_.visible >> mode & 1) != 0 && (next == Owner::nobody || Owner::is_mode(next));
            if (stays) return;
            turn_switches(button, owner, false, false, t0);
        }
        owner = next;
        if (Owner::is_mode(next)) to_give.insert(button);
    });
    to_give.for_each([&](Button button) { turn_switches(button, state_.owners[button.number], true, false, t0); });
    // What nobody sees stands still at once.
    for (std::uint16_t i = 0; i < map_->actions.size(); ++i) {
        if ((was_visible >> map_->actions[i].mode & 1) == 0 || is_shown(i)) continue;
        forget(i);
        state_.moving[i] = {};
    }
    for (std::size_t i = 0; i < map_->sources.size(); ++i) {
        const unsigned mode = map_->actions[map_->sources[i].action].mode;
        if ((state_.visible >> mode & 1) == 0) state_.sources[i] = {};
    }
}

// ---- axes and vectors

void ActionReader::add_steps(const Frame& frame) {
    for (const std::uint16_t i : map_->analogue) {
        const ActionSource& source = map_->sources[i];
        const unsigned mode = map_->actions[source.action].mode;
        const bool is_stick = source.kind == Binding::Kind::stick;
        const auto seen = [&](unsigned axis) { return is_mode(state_.flow_owners[axis], mode); };
        const bool is_seen = is_stick ? seen(source.number * 2U) && seen(source.number * 2U + 1) : seen(source.number);
        const auto add = [&](std::int64_t time, Vector2 value) {
            steps_.push_back({time,
                              {value.x * source.scale, value.y * source.scale},
                              static_cast<std::uint32_t>(steps_.size()),
                              source.action,
                              i});
        };
        if (!is_seen) {
            if (state_.sources[i] != Vector2{}) add(state_.t0, {});
            continue;
        }
        if (is_stick) {
            const Stick stick{source.number};
            add(state_.t0, frame.stick_figures(stick, heard_).before);
            auto take = [&](Time time, Vector2 value) { add(nanoseconds(time), value); };
            frame.visit_values(stick, heard_, take);
        } else {
            const Axis axis{source.number};
            add(state_.t0, {beyond(source.dead_zone, frame.axis_figures(axis, heard_).before), 0});
            auto take = [&](Time time, double value) { add(nanoseconds(time), {beyond(source.dead_zone, value), 0}); };
            frame.visit_values(axis, heard_, take);
        }
    }
}

// The largest of the bindings', ties to the first; never more than 1.
Vector2 ActionReader::target_of(unsigned action) const noexcept {
    const ActionMap::Row& row = map_->actions[action];
    Vector2 best = state_.injected[action];
    for (unsigned i = row.first_source; i < unsigned{row.first_source} + row.source_count; ++i)
        if (square(state_.sources[i]) > square(best)) best = state_.sources[i];
    const double length = square(best);
    if (length <= 1) return best;
    if (row.kind == ActionKind::axis) return {best.x > 0 ? 1.0 : -1.0, 0};
    const double root = std::sqrt(length);
    return {best.x / root, best.y / root};
}

void ActionReader::move_all() {
    std::sort(steps_.begin(), steps_.end(), [](const Step& a, const Step& b) {
        if (a.action != b.action) return a.action < b.action;
        return a.time != b.time ? a.time < b.time : a.order < b.order;
    });
    auto step = steps_.cbegin();
    for (const std::uint16_t action : map_->moving) {
        const ActionMap::Row& row = map_->actions[action];
        ActionState::Moving& moving = state_.moving[action];
        const Ramps ramps{row.rise, row.fall};
        std::int64_t at = state_.t0;
        const auto go_on = [&](std::int64_t until) {
            if (until <= at) return;
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
        while (step != steps_.cend() && step->action == action) {
            const std::int64_t time = step->time;
            go_on(time);
            for (; step != steps_.cend() && step->action == action && step->time == time; ++step)
                (step->source == source_capacity ? state_.injected[action] : state_.sources[step->source]) =
                    step->value;
            VectorMotion motion{moving.value, moving.target, moving.rises};
            set_target(motion, (state_.visible >> row.mode & 1) != 0 ? target_of(action) : Vector2{});
            moving.target = motion.target;
            moving.rises = motion.rises;
        }
        go_on(state_.t1);
        // What has no ramp is where it should be, also in a frame of no length.
        if (row.rise == Duration{} && row.fall == Duration{}) moving.value = moving.target;
    }
}

AxisActionReading ActionReader::operator[](AxisAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    return {state_.moving[action.number].value.x, before_[action.number].x, integral_[action.number].x,
            relative_[action.number].x};
}

VectorActionReading ActionReader::operator[](VectorAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    return {state_.moving[action.number].value, before_[action.number], integral_[action.number],
            relative_[action.number]};
}

// ---- readings of button actions

ButtonFigures ActionReading::figures() const noexcept {
    const ActionState& state = reader_->state_;
    const unsigned number = action_.number < reader_->map_->actions.size() ? action_.number : 0;
    static constexpr Repeat usual{};
    const bool exists = number == action_.number;
    FigureTally tally{state.t0,
                      state.t1,
                      exists ? reader_->map_->actions[number].repeat : usual,
                      was_down(),
                      state.adopted[number],
                      state.start[number]};
    if (exists) tally.system_repeat(reader_->system_repeats_[number]);
    // Linked from the last to the first; turned round on the stack, or found one by one if they are many.
    std::array<std::uint32_t, 32> places;
    unsigned count = 0;
    std::uint32_t place = exists ? reader_->last_[number] : 0;
    for (; place != 0 && count < places.size(); place = reader_->records_[place - 1].link) places[count++] = place;
    if (place == 0) {
        while (count > 0) {
            const ActionReader::Record& record = reader_->records_[places[--count] - 1];
            tally.apply(record.effect, record.time);
        }
    } else {
        for (const ActionReader::Record& record : reader_->records_)
            if (record.action == number) tally.apply(record.effect, record.time);
    }
    return tally.finish();
}

std::optional<Time> ActionReading::first_press() const noexcept {
    if (!pressed()) return std::nullopt;
    std::int64_t first = 0;
    for (std::uint32_t place = reader_->last_[action_.number]; place != 0; place = reader_->records_[place - 1].link) {
        const ActionReader::Record& record = reader_->records_[place - 1];
        if (record.effect == Effect::press || record.effect == Effect::restart) first = record.time;
    }
    return Time{Duration{first}};
}

// ---- rollback

ActionReader::State ActionReader::save() const noexcept {
    State saved = state_;
    commit(records_, saved);
    return saved;
}

bool ActionReader::restore(const State& saved) noexcept {
    if (saved.bindings != state_.bindings) return false;
    state_ = saved;
    clear();
    for (unsigned i = 0; i < action_capacity; ++i) flags_[i] = state_.levels[i] ? is_down : 0;
    return true;
}

}  // namespace cursorum
