// An action reader's state as named facts and back, for recordings that begin in the middle. Each field is visited
// once, by a writer or a reader of facts, so that both sides cannot differ.
#include "actions/reader_facts.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <map>
#include <string_view>

#include "actions/action_reader_core.hpp"
#include "core/occasions/occasion_slot.hpp"
#include "cursorum/core/control.hpp"

namespace cursorum::detail {
namespace {

template <typename Number>
bool parse(std::string_view text, Number& number) {
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    return error == std::errc{} && end == text.data() + text.size();
}

/// The words of a text, and the parts of a list.
template <typename Visit>
void for_each_part(std::string_view text, char separator, Visit&& visit) {
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(separator), text.size());
        if (end != 0) visit(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
    }
}

// ---- fields, the same for reading and writing

/// Collects the differences from a new reader.
class FactWriter {
public:
    explicit FactWriter(std::vector<ReaderFact>& facts) : facts_{facts} {}

    template <typename Number>
    void number(std::string name, const Number& value) {
        if (value != Number{}) add({.name = std::move(name), .number = static_cast<std::int64_t>(value)});
    }
    void time(std::string name, const std::int64_t& value) {
        add({.name = std::move(name), .number = value, .is_time = true});
    }
    void real(std::string name, const double& value) {
        if (value != 0) add({.name = std::move(name), .number = static_cast<std::int64_t>(value), .real = value});
    }
    void text(std::string name, std::string value) { add({.name = std::move(name), .text = std::move(value)}); }

private:
    void add(ReaderFact fact) {
        if (fact.text.empty() && fact.real == 0) fact.real = static_cast<double>(fact.number);
        facts_.push_back(std::move(fact));
    }
    std::vector<ReaderFact>& facts_;
};

class FactReader {
public:
    explicit FactReader(std::span<const ReaderFact> facts) {
        for (const ReaderFact& fact : facts) facts_.emplace(fact.name, &fact);
    }
    template <typename Number>
    void number(const std::string& name, Number& value) const {
        if (const ReaderFact* fact = find(name)) value = static_cast<Number>(fact->number);
    }
    void time(const std::string& name, std::int64_t& value) const { number(name, value); }
    void real(const std::string& name, double& value) const {
        if (const ReaderFact* fact = find(name)) value = fact->real;
    }
    std::string_view text(const std::string& name) const {
        const ReaderFact* const fact = find(name);
        return fact ? std::string_view{fact->text} : std::string_view{};
    }
    const ReaderFact* find(const std::string& name) const {
        const auto at = facts_.find(name);
        return at == facts_.end() ? nullptr : at->second;
    }

private:
    std::map<std::string_view, const ReaderFact*> facts_;
};

/// Times that mean something only while a flag is set are left out without it.
template <typename Fields>
void for_each_field(Fields& fields, const ActionMap& map, std::size_t action, ActionState& state) {
    const ActionMap::Row& row = map.actions[action];
    const std::string name = "/" + map.mode_names[row.mode] + "." + map.known[action].action.name;
    const auto is_written = [](bool needed) { return std::is_same_v<Fields, FactReader> || needed; };
    const auto field = [&](const char* what) { return what + name; };
    const auto field_of = [&](const char* what, unsigned i) {
        return std::string{what} + "/" + std::to_string(i) + name;
    };
    if (row.kind == ActionKind::button) {
        ActionState::Button& button = state.buttons[action];
        fields.number(field("holders"), button.holders);
        fields.number(field("down"), button.is_down);
        fields.number(field("adopted"), button.adopted);
        if (is_written(button.is_down)) fields.time(field("start"), button.start);
        fields.number(field("waits"), state.waits[action]);
        fields.number(field("on"), state.is_on[action]);
        if (is_written(state.waits[action])) fields.time(field("since"), state.since[action]);
        fields.number(field("buffered"), state.holds_press[action]);
        if (is_written(state.holds_press[action])) fields.time(field("buffered_since"), state.buffered_since[action]);
        fields.number(field("injected"), state.injected_down[action]);
        fields.number(field("has_passed"), state.has_passed[action]);
        fields.number(field("passed"), state.passed_down[action]);
        fields.number(field("bindings_down"), state.bindings_down[action]);
        if (is_written(state.has_passed[action] || state.passed_down[action] != state.bindings_down[action]))
            fields.time(field("passed_at"), state.passed_at[action]);
    } else {
        ActionState::Moving& moving = state.moving[action];
        fields.real(field("x"), moving.value.x);
        fields.real(field("y"), moving.value.y);
        fields.real(field("target_x"), moving.target.x);
        fields.real(field("target_y"), moving.target.y);
        fields.number(field("rises"), moving.rises);
        fields.number(field("direction"), moving.direction);
        fields.number(field("facing_x"), moving.facing_x);
        fields.number(field("facing_y"), moving.facing_y);
        fields.real(field("injected_x"), state.injected[action].x);
        fields.real(field("injected_y"), state.injected[action].y);
    }
    for (unsigned i = 0; i < row.switch_count; ++i) {
        ActionState::Switch& it = state.switches[row.first_switch + i];
        fields.number(field_of("binding", i), it.is_down);
        fields.number(field_of("binding_adopted", i), it.adopted);
        fields.number(field_of("binding_waits", i), state.stale_members[row.first_switch + i]);
    }
    for (unsigned i = 0; i < row.source_count; ++i) {
        const unsigned source = row.first_source + i;
        fields.real(field_of("source_x", i), state.sources[source].x);
        fields.real(field_of("source_y", i), state.sources[source].y);
        fields.number(field_of("source_latest", i), state.latest[source]);
        fields.number(field_of("source_waits", i), state.stale_sources[source]);
    }
}

// ---- buttons, claims and owners as texts

std::string claim_text(const Claim& claim) {
    std::string text;
    const auto add = [&](bool has, std::string_view word) {
        if (has) text += (text.empty() ? "" : " ") + std::string{word};
    };
    add(claim.everything, "everything");
    add(claim.axes, "axes");
    add(claim.motion, "motion");
    add(claim.wheel, "wheel");
    add(claim.device != DeviceId{}, "device:" + std::to_string(static_cast<std::uint32_t>(claim.device)));
    claim.buttons.for_each([&](Button button) { add(true, std::string{name_of(button)}); });
    return text.empty() ? "nothing" : text;
}

Claim claim_of(std::string_view text) {
    Claim claim;
    for_each_part(text, ' ', [&](std::string_view word) {
        std::uint32_t device = 0;
        if (word == "everything")
            claim.everything = true;
        else if (word == "axes")
            claim.axes = true;
        else if (word == "motion")
            claim.motion = true;
        else if (word == "wheel")
            claim.wheel = true;
        else if (word.starts_with("device:") && parse(word.substr(7), device))
            claim.device = DeviceId{device};
        else
            claim.buttons.insert(find_button(word));
    });
    claim.buttons.erase({});
    return claim;
}

/// "100 120 80 20", or "outside 100 120 80 20".
std::string area_text(const ClickArea& area) {
    std::string text = area.outside ? "outside" : "";
    for (const double value : {area.rect.x, area.rect.y, area.rect.width, area.rect.height}) {
        std::array<char, 32> digits;
        const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), value).ptr;
        text.append(text.empty() ? "" : " ").append(digits.data(), end);
    }
    return text;
}

ClickArea area_of(std::string_view text) {
    ClickArea area;
    std::array<double, 4> values{};
    std::size_t count = 0;
    for_each_part(text, ' ', [&](std::string_view word) {
        area.outside |= word == "outside";
        if (double value = 0; count < values.size() && parse(word, value)) values[count++] = value;
    });
    area.rect = {values[0], values[1], values[2], values[3]};
    return area;
}

std::string owner_text(std::uint8_t owner, const ActionMap& map) {
    if (Owner::is_mode(owner)) return "mode " + map.mode_names[owner - Owner::first_mode];
    if (owner == Owner::owner_ended) return "ended";
    if (owner >= Owner::first_late_claim) return "late " + std::to_string(owner - Owner::first_late_claim);
    if (owner >= Owner::first_claim) return "claim " + std::to_string(owner - Owner::first_claim);
    return "nobody";
}

std::uint8_t owner_of(std::string_view text, const ActionMap& map) {
    unsigned claim = 0;
    if (text.starts_with("mode ")) {
        const std::uint8_t mode = map.mode_named(text.substr(5));
        return mode < map.modes.size() ? static_cast<std::uint8_t>(Owner::first_mode + mode) : Owner::owner_ended;
    }
    if (text == "ended") return Owner::owner_ended;
    const bool is_late = text.starts_with("late ");
    if ((is_late || text.starts_with("claim ")) && parse(text.substr(is_late ? 5 : 6), claim) && claim < claim_capacity)
        return static_cast<std::uint8_t>((is_late ? Owner::first_late_claim : Owner::first_claim) + claim);
    return Owner::nobody;
}

}  // namespace

void ReaderAccess::log_calls(ActionReader& reader, CallLog* log) noexcept { reader.core_->log_calls(log); }
std::uint64_t ReaderAccess::call_count(const ActionReader& reader) noexcept { return reader.core_->state().calls; }
bool ReaderAccess::may_be_typing(const ActionReader& reader) noexcept {
    const Openings& now = reader.core_->state().now;
    const ActionMap& map = reader.core_->map();
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((now.claimed >> i & 1) != 0 && now.claims[i].everything) return true;
    if (!map.has_text) return false;
    for (std::size_t i = 0; i < reader.mode_change_count(); ++i)
        if (map.modes[reader.mode_change(i).mode.number].takes_text) return true;
    for (unsigned mode = 0; mode < map.modes.size(); ++mode)
        if (map.modes[mode].takes_text && has_mode(reader.core_->state().visible, mode)) return true;
    return false;
}
bool ReaderAccess::makes_text(const ActionReader& reader, Button key) noexcept {
    const ActionMap& map = reader.core_->map();
    if (!map.has_text || key.number >= button_capacity) return false;
    const auto bound = map.switches_of(key);
    const auto is_text = [&](std::uint8_t owner) {
        return Owner::is_mode(owner) && map.modes[owner - Owner::first_mode].takes_text &&
               std::none_of(bound.begin(), bound.end(), [owner](const ButtonSwitch& it) { return it.owner == owner; });
    };
    const ActionState& state = reader.core_->state();
    return is_text(state.pressers[key.number]) || is_text(state.whose[key.number].owner);
}
std::string ReaderAccess::claim_in_force(const ActionReader& reader, unsigned claim) {
    const Openings& now = reader.core_->state().now;
    return (now.claimed >> claim & 1) != 0 ? claim_text(now.claims[claim]) : std::string{};
}
std::string_view ReaderAccess::what_waits(const ActionReader& reader, std::uint16_t action, Button button) noexcept {
    const auto wait = reader.core_->verdicts().wait_of(action, button);
    if (!wait) return {};
    switch (*wait) {
        case Verdicts::Wait::gesture: return "waits for the rest of its gesture";
        case Verdicts::Wait::debounce: return "waits for the end of debouncing";
        case Verdicts::Wait::buffer: break;
    }
    return "fired, and waits in its buffer";
}
std::uint32_t ReaderAccess::bindings(const ActionReader& reader) noexcept { return reader.core_->bindings(); }

std::vector<std::uint16_t> ReaderAccess::numbers_of(const ActionReader& reader, const Profile& profile) {
    std::vector<std::uint16_t> numbers;
    const bool same = profile.numbering() == reader.numbering();
    const ActionMap& map = reader.core_->latest_map();
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions) {
            const auto is_it = [&](const ActionMap::Known& it) {
                return it.action.name == action.name && it.action.kind == action.kind &&
                       map.mode_names[it.mode] == mode.name;
            };
            const auto found = same ? map.known.end() : std::find_if(map.known.begin(), map.known.end(), is_it);
            numbers.push_back(same                       ? static_cast<std::uint16_t>(numbers.size())
                              : found == map.known.end() ? no_action
                                                         : static_cast<std::uint16_t>(found - map.known.begin()));
        }
    return numbers;
}

const Action* ReaderAccess::action_of(const ActionReader& reader, std::uint16_t number,
                                      std::string_view* mode) noexcept {
    const ActionMap& map = reader.core_->latest_map();
    if (number >= map.known.size()) return nullptr;
    if (mode) *mode = map.mode_names[map.known[number].mode];
    return &map.known[number].action;
}

std::string ReaderAccess::chord_text(const ActionReader& reader, std::uint16_t binding) {
    const ActionMap& map = reader.core_->map();
    std::string text;
    if (binding >= map.switches.size()) return text;
    const ActionSwitch& it = map.switches[binding];
    for (unsigned i = 0; i < it.member_count; ++i)
        text += (i == 0 ? "" : it.in_order ? ">" : "+") + std::string{cursorum::name_of(Button{it.members[i]})};
    return text;
}

ButtonSet ReaderAccess::bound_buttons(const ActionReader& reader) noexcept {
    ButtonSet bound;
    const ActionMap& map = reader.core_->map();
    for (std::uint16_t i = 1; i < button_capacity; ++i)
        if (!map.switches_of({i}).empty()) bound = bound | physical_buttons({i});
    return bound;
}

std::vector<ReaderFact> ReaderAccess::facts_of(const ActionReader& reader, const ActionReader::State& saved) {
    std::vector<ReaderFact> facts;
    const ActionMap& map = reader.core_->map();
    ActionState state{map.counts()};
    if (saved.bytes_.size() < state.byte_count()) return facts;
    state.read(saved.bytes_.data());
    FactWriter fields{facts};
    std::string modes;
    for (unsigned i = 0; i < state.now.count; ++i) modes += (i == 0 ? "" : ",") + map.mode_names[state.now.modes[i]];
    if (!modes.empty()) fields.text("modes", modes);
    for (unsigned i = 0; i < claim_capacity; ++i)
        if ((state.now.claimed >> i & 1) != 0)
            fields.text("claim/" + std::to_string(i), claim_text(state.now.claims[i]));
    for (unsigned i = 0; i < state.area_count; ++i) {
        if (state.areas[i].action >= map.known.size()) continue;  // of a rebind() that has not taken effect
        const ActionMap::Known& its = map.known[state.areas[i].action];
        fields.text("area/" + map.mode_names[its.mode] + "." + its.action.name, area_text(state.areas[i].area));
    }
    ButtonSet{state.down}.for_each([&](Button button) {
        const std::string name = std::string{name_of(button)};
        fields.text("owner/" + name, owner_text(state.whose[button.number].owner, map));
        fields.number("turn/" + name, state.press_order[button.number]);
    });
    fields.number("turns", state.press_count);
    for (std::uint16_t i = 1; i < first_either_side; ++i)
        if (state.part.is_part && state.part.holders[i] != 0)
            fields.number("seat/" + std::string{name_of(Button{i})}, state.part.holders[i] > 0xFF ? 2 : 1);
    for (std::size_t i = 0; i < map.actions.size(); ++i)
        if (!map.known[i].is_gone) for_each_field(fields, map, i, state);
    return facts;
}

void ReaderAccess::set_facts(ActionReader& reader, std::span<const ReaderFact> facts, Time at) {
    const ActionMap& map = reader.core_->map();
    ActionState state{map.counts()};
    state.t0 = state.t1 = nanoseconds(at);
    const FactReader fields{facts};
    for_each_part(fields.text("modes"), ',', [&](std::string_view name) {
        const std::uint8_t mode = map.mode_named(name);
        if (mode < map.modes.size() && state.now.count < mode_capacity) state.now.modes[state.now.count++] = mode;
    });
    for (const ReaderFact& fact : facts) {
        const std::string_view name = fact.name;
        unsigned claim = 0;
        if (name.starts_with("claim/") && parse(name.substr(6), claim) && claim < claim_capacity) {
            state.now.claims[claim] = claim_of(fact.text);
            state.now.claimed = static_cast<std::uint16_t>(state.now.claimed | 1U << claim);
            if (state.now.claims[claim].device != DeviceId{})
                state.now.of_devices = static_cast<std::uint16_t>(state.now.of_devices | 1U << claim);
        }
        if (name.starts_with("area/") && state.area_count < area_capacity)
            if (const auto action = map.find(name.substr(5), ActionKind::button, nullptr))
                state.areas[state.area_count++] = {*action, area_of(fact.text)};
        if (name.starts_with("seat/"))  // for the frame that is read next
            if (const Button button = find_button(name.substr(5)); button.number < first_either_side)
                state.part.holders[button.number] = fact.number == 2 ? 0x101 : 1;
        if (!name.starts_with("owner/")) continue;
        const Button button = find_button(name.substr(6));
        if (!button) continue;
        state.down[button.number / 64U] |= std::uint64_t{1} << button.number % 64U;
        state.whose[button.number].owner = owner_of(fact.text, map);
        fields.number("turn/" + std::string{name.substr(6)}, state.press_order[button.number]);
    }
    fields.number("turns", state.press_count);
    for (std::size_t i = 0; i < map.actions.size(); ++i)
        if (!map.known[i].is_gone) for_each_field(fields, map, i, state);
    state.stale_switches = static_cast<std::uint16_t>(
        std::count_if(state.stale_members.begin(), state.stale_members.end(), [](unsigned m) { return m != 0; }));
    state.with_areas = 1;  // until all buttons of mice are up
    state.next = state.now;
    reader.core_->resume(std::move(state));
}

}  // namespace cursorum::detail
