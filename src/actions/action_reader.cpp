#include "cursorum/actions/action_reader.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "actions/action_map.hpp"
#include "actions/motion_toward.hpp"
#include "core/figure_tally.hpp"
#include "core/merging.hpp"

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
    if (!it.is_plain) return gesture(it.action, effect, time);
    add_edge(it.action, effect, time);
}

// From an edge of the bindings together to edges of the action.
void ActionReader::gesture(std::uint16_t action, Effect effect, std::int64_t time) {
    const ActionMap::Row& row = map_->actions[action];
    std::int64_t& since = state_.since[action];
    bool &waits = state_.waits[action], &is_on = state_.is_on[action];
    const bool presses = effect == Effect::press || effect == Effect::restart;
    const auto turn = [&](bool on, Effect as) {
        is_on = on;
        add_edge(action, as, time);
    };
    switch (row.gesture) {
        case Gesture::toggle:
            if (presses) turn(!is_on, is_on ? Effect::release : Effect::press);
            return;
        case Gesture::tap:
            if (effect == Effect::release && waits && time - since <= row.gesture_time) {
                add_edge(action, Effect::press, time);
                add_edge(action, Effect::release, time);
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
}

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
    // What is found down is no press of the claim's.
    if (owner >= Owner::first_late_claim && owner != Owner::nobody_more && down && by_person) [[unlikely]]
        owner = static_cast<std::uint8_t>(owner - Owner::first_late_claim + Owner::first_claim);
    place = down ? owner : Owner::nobody;
    if (Owner::is_mode(owner)) turn_switches(button, owner, down, by_person, time);
}

// The longest of those that the button completes; equally long ones together.
void ActionReader::complete_chords(Button button, std::uint8_t owner, bool by_person, std::int64_t time) {
    const unsigned first = map_->first_of[button.number], end = map_->first_of[button.number + 1U];
    const ButtonSet down{state_.down};
    const auto completes = [&](const ActionSwitch& it, unsigned number) {
        if (!is_mode(owner, it.mode) || state_.switch_down[number]) return false;
        for (unsigned i = 0; i < it.member_count; ++i)
            if (!down.contains({it.members[i]}) || state_.owners[it.members[i]] != owner) return false;
        return true;
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
    heal(frame.previous().down);
    if (state_.reopens) apply_openings();
    for (std::uint32_t i = 0; i < frame.entries_->count; ++i) {
        const detail::Record& record = frame.entries_->records[i];
        const Effect effect = record.what().effect();
        if (effect == Effect::none) continue;
        if (effect == Effect::restart) take_edge({record.button()}, false, false, record.time);
        take_edge({record.button()}, begins(effect), is_persons(effect), record.time);
    }
    for (const std::uint16_t action : map_->lasting) last_long_enough(action, state_.t1);
    if (map_->moving.empty()) return;
    add_steps(frame);
    move_all();
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
    for (const std::uint16_t action : map_->moving) {
        before_[action] = state_.moving[action].value;
        integral_[action] = {};
    }
}

// What changed in frames that were not read. Nobody saw the edges, so they are nobody's.
void ActionReader::heal(const ButtonSet& down) {
    const ButtonSet known{state_.down};
    if (known == down) return;
    (known - down).for_each([this](Button button) { take_edge(button, false, false, state_.t0); });
    (down - known).for_each([this](Button button) { take_edge(button, true, false, state_.t0); });
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
        state_.reopens = true;
        return ClaimId{static_cast<std::uint8_t>(i)};
    }
    return std::nullopt;
}

void ActionReader::end_claim(ClaimId claim) noexcept {
    const auto place = static_cast<unsigned>(claim);
    if (place >= claim_capacity) return;
    state_.next.claimed = static_cast<std::uint16_t>(state_.next.claimed & ~(1U << place));
    state_.next.claims[place] = {};
    state_.reopens = true;
}

bool ActionReader::has_press(ClaimId claim, Button button) const noexcept {
    return button.number < button_capacity &&
           state_.owners[button.number] == Owner::first_claim + static_cast<unsigned>(claim);
}

void ActionReader::find_visible() noexcept {
    const Openings& now = state_.now;
    state_.visible = 0;
    state_.axis_owners = {};
    bool axes_claimed = false;
    for (unsigned i = 0; i < claim_capacity; ++i)
        axes_claimed |= (now.claimed >> i & 1) != 0 && (now.claims[i].everything || now.claims[i].axes);
    for (unsigned i = now.count; i-- > 0;) {
        const unsigned mode = now.modes[i];
        state_.visible = static_cast<std::uint16_t>(state_.visible | 1U << mode);
        for (unsigned axis = 0; axis < axis_kinds && !axes_claimed; ++axis)
            if (state_.axis_owners[axis] == Owner::nobody && (map_->modes[mode].axes >> axis & 1) != 0)
                state_.axis_owners[axis] = static_cast<std::uint8_t>(Owner::first_mode + mode);
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
    for (std::size_t i = 0; i < map_->actions.size(); ++i) {
        const unsigned mode = map_->actions[i].mode;
        if ((was_visible >> mode & 1) == 0 || (state_.visible >> mode & 1) != 0) continue;
        state_.moving[i] = {};
        state_.waits[i] = false;
        if (std::exchange(state_.is_on[i], false)) add_edge(static_cast<std::uint16_t>(i), Effect::cancel, t0);
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
        const auto seen = [&](unsigned axis) { return is_mode(state_.axis_owners[axis], mode); };
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
            add(state_.t0, frame.stick(stick).before);
            frame.for_each_value(stick, [&](Time time, Vector2 value) { add(nanoseconds(time), value); });
        } else {
            const Axis axis{source.number};
            add(state_.t0, {beyond(source.dead_zone, frame.axis(axis).before), 0});
            frame.for_each_value(axis, [&](Time time, double value) {
                add(nanoseconds(time), {beyond(source.dead_zone, value), 0});
            });
        }
    }
}

// The largest of the bindings', ties to the first; never more than 1.
Vector2 ActionReader::target_of(unsigned action) const noexcept {
    const ActionMap::Row& row = map_->actions[action];
    Vector2 best;
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
                state_.sources[step->source] = step->value;
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
    return {state_.moving[action.number].value.x, before_[action.number].x, integral_[action.number].x};
}

VectorActionReading ActionReader::operator[](VectorAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    return {state_.moving[action.number].value, before_[action.number], integral_[action.number]};
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

// ---- rollback

ActionReader::State ActionReader::save() const noexcept {
    State saved = state_;
    commit(records_, saved);
    return saved;
}

void ActionReader::restore(const State& saved) noexcept {
    state_ = saved;
    clear();
    for (unsigned i = 0; i < action_capacity; ++i) flags_[i] = state_.levels[i] ? is_down : 0;
}

}  // namespace cursorum
