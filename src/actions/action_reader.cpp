#include "cursorum/actions/action_reader.hpp"

#include <algorithm>
#include <utility>

#include "actions/action_edges.hpp"
#include "core/figure_tally.hpp"

namespace cursorum {

using detail::ActionState;
using detail::Effect;
using detail::Owner;
using detail::SlotKind;

namespace {

constexpr std::size_t usual_edges = 4096;

}  // namespace

ActionReader::ActionReader(const Profile& profile)
    : map_{std::make_unique<ActionMap>(profile.problem() ? Profile{} : profile)} {
    records_.reserve(usual_edges);
    steps_.reserve(usual_edges);
    turns_.reserve(usual_edges);
    injected_.reserve(usual_edges);
}

ActionReader::~ActionReader() = default;

// ---- from buttons to bindings

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
    if (claims_devices() || state_.part.is_part) [[unlikely]]
        return read_unclaimed(frame);
    heal(frame.previous().down);
    if (state_.reopens) apply_openings();
    take_merged(frame);
    finish_frame(frame);
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
