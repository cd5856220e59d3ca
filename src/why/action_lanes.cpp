// Lanes of actions, modes and claims beside those of controls, so that a picture shows what a press became, and marks
// where it became nothing. Names and numbers are looked up once, and again when the reader was bound anew.
#include "cursorum/why/action_lanes.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "actions/reader_facts.hpp"
#include "cursorum/actions/claim.hpp"
#include "cursorum/why/action_explanation.hpp"

namespace cursorum {

using detail::ReaderAccess;

struct ActionLanes::Parts {
    struct KnownAction {
        ActionKind kind{};
        std::uint16_t number = 0;
        std::string name, x, y;
    };
    struct KnownMode {
        ModeHandle handle;
        std::string name;
        bool covers = false, in_force = false;
    };

    LaneHistory& lanes;
    const ActionReader& reader;
    const Profile& profile;
    ActionFilter filter;
    std::string seat;
    std::vector<KnownAction> actions{};
    std::map<std::uint16_t, const KnownAction*> buttons{};  // by number
    std::vector<KnownMode> modes{};
    std::vector<std::size_t> stack{};                        // of those that are open, the uppermost at the end
    std::optional<std::uint32_t> bindings{};                 // of the reader, when its names were looked up
    std::array<std::string, claim_capacity> claims{};        // what each one is on; empty if it is not in force
    std::vector<Verdict> verdicts{};                         // since the last note()
    std::map<std::pair<Time, std::uint16_t>, int> recent{};  // presses, and the greatest weight of their verdicts

    void look_up() {
        bindings = ReaderAccess::bindings(reader);
        const std::vector<std::uint16_t> numbers = ReaderAccess::numbers_of(reader, profile);
        actions.clear();
        buttons.clear();
        std::vector<KnownMode> known;
        auto number = numbers.begin();
        for (const Mode& mode : profile.modes) {
            if (const auto handle = reader.find_mode(mode.name)) {
                const auto before =
                    std::find_if(modes.begin(), modes.end(), [&](const KnownMode& it) { return it.name == mode.name; });
                known.push_back({*handle, mode.name, mode.is_covering(), before != modes.end() && before->in_force});
            }
            for (const Action& action : mode.actions) {
                const std::string name = mode.name + "." + action.name;
                if (*number != no_action && filter.has(name))
                    actions.push_back({action.kind, *number, name, name + " x", name + " y"});
                ++number;
            }
        }
        modes = std::move(known);
        stack.clear();
        for (const KnownAction& it : actions)
            if (it.kind == ActionKind::button) buttons[it.number] = &it;
    }

    /// The history begins, perhaps anew: what is in force now has no lane in it yet.
    void begin() {
        for (KnownMode& it : modes) it.in_force = false;
        claims.fill({});
    }

    void note_actions() {
        for (const KnownAction& it : actions) switch (it.kind) {
                case ActionKind::button: {
                    const ActionReading reading = reader[ButtonAction{it.number}];
                    if (reading.state() != ButtonState::idle) lanes.note_action(it.name, reading.figures(), seat);
                    break;
                }
                case ActionKind::axis:
                    lanes.note_action_value(it.name, reader[AxisAction{it.number}].value, reader.end(), seat);
                    break;
                case ActionKind::vector: {
                    const Vector2 value = reader[VectorAction{it.number}].value;
                    lanes.note_action_value(it.x, value.x, reader.end(), seat);
                    lanes.note_action_value(it.y, value.y, reader.end(), seat);
                }
            }
        reader.for_each_edge([&](const ActionEdge& edge) {
            if (const auto found = buttons.find(edge.action.number); found != buttons.end())
                lanes.note_action_edge(found->second->name, edge.kind, edge.time, seat);
        });
    }

    /// What the game opened and closed holds from the frame's start; what actions did, from their presses on. Only the
    /// result at the frame's end can be asked for, so the stack of open modes is followed from change to change.
    void note_modes() {
        const std::size_t count = reader.mode_change_count();
        Time when = reader.start();
        for (std::size_t i = 0; i < modes.size(); ++i) {
            bool was_open = reader.is_open(modes[i].handle);
            for (std::size_t j = count; j-- > 0;)
                if (reader.mode_change(j).mode.number == modes[i].handle.number)
                    was_open = !reader.mode_change(j).opened;
            set_open(i, was_open);
        }
        update_modes(when);
        for (std::size_t i = 0; i < count; ++i) {
            const ModeChange change = reader.mode_change(i);
            when = change.time;
            for (std::size_t j = 0; j < modes.size(); ++j)
                if (modes[j].handle.number == change.mode.number) set_open(j, change.opened);
            if (i + 1 == count || reader.mode_change(i + 1).time != when) update_modes(when);
        }
        for (KnownMode& it : modes) set_in_force(it, reader.is_visible(it.handle), when);
    }
    void set_open(std::size_t mode, bool is_open) {
        const auto at = std::find(stack.begin(), stack.end(), mode);
        if (is_open && at == stack.end()) stack.push_back(mode);
        if (!is_open && at != stack.end()) stack.erase(at);
    }
    void update_modes(Time when) {
        for (std::size_t i = 0; i < modes.size(); ++i) {
            const auto at = std::find(stack.begin(), stack.end(), i);
            set_in_force(modes[i],
                         at != stack.end() &&
                             std::none_of(at + 1, stack.end(), [&](std::size_t above) { return modes[above].covers; }),
                         when);
        }
    }
    void set_in_force(KnownMode& mode, bool in_force, Time when) {
        if (in_force != mode.in_force) lanes.note_in_force(Lane::Kind::mode, mode.name, in_force, when, seat);
        mode.in_force = in_force;
    }

    void note_claims() {
        for (unsigned i = 0; i < claim_capacity; ++i) {
            std::string now = ReaderAccess::claim_in_force(reader, i);
            if (now == claims[i]) continue;
            const std::string name = "claim " + std::to_string(i + 1);
            const auto note = [&](const std::string& on, bool in_force) {
                if (on.empty()) return;
                lanes.note_in_force(Lane::Kind::claim, name, in_force, reader.start(),
                                    seat.empty() ? on : on + ", " + seat);
            };
            note(claims[i], false);
            note(now, true);
            claims[i] = std::move(now);
        }
    }

    /// Of several bindings, the verdict that says most counts; a press that did something for one is not marked.
    void note_verdicts() {
        for (const Verdict& it : verdicts) {
            if (!it.button || it.rule == Rule::adopted) continue;
            const int weight = weight_of(it.rule);
            const bool counts = weight == 3;
            if (!counts && !filter.shown.empty() && !filter.has(named(it, reader).action)) continue;
            int& greatest = recent[{it.time, it.button.number}];
            if (weight <= greatest) continue;
            greatest = weight;
            lanes.note_missed(it.button, it.time, counts ? std::string{} : verdict_clause(it, reader));
        }
        verdicts.clear();
        // Gestures are decided within seconds.
        constexpr std::chrono::seconds longest_gesture{60};
        while (!recent.empty() && recent.begin()->first.first < reader.end() - longest_gesture)
            recent.erase(recent.begin());
    }
};

ActionLanes::ActionLanes(LaneHistory& lanes, const ActionReader& reader, const Profile& profile, ActionFilter filter,
                         std::string seat)
    : parts_{std::make_unique<Parts>(Parts{lanes, reader, profile, std::move(filter), std::move(seat)})} {}
ActionLanes::~ActionLanes() = default;

void ActionLanes::take(const Verdict& verdict) {
    // While a panel is hidden, nobody calls note().
    constexpr std::size_t room = 4096;
    if (parts_->verdicts.size() == room) parts_->verdicts.clear();
    parts_->verdicts.push_back(verdict);
}

void ActionLanes::note() {
    Parts& parts = *parts_;
    if (parts.bindings != ReaderAccess::bindings(parts.reader)) parts.look_up();
    if (parts.lanes.frames().size() == 1) parts.begin();
    parts.note_modes();
    parts.note_claims();
    parts.note_actions();
    parts.note_verdicts();
}

}  // namespace cursorum
