// What a recording says that another input layer believed, compared with the replayed frames: by buttons, and by
// actions if there is a reader.
#include "cursorum/why/replayed_beliefs.hpp"

#include <algorithm>
#include <deque>
#include <memory>
#include <optional>

#include "cursorum/actions/action_belief_check.hpp"

namespace cursorum {
namespace {

ButtonSet every_button() {
    ButtonSet all;
    for (std::uint16_t number = 1; number < button_capacity; ++number)
        if (can_be_posted(Button{number})) all.insert(Button{number});
    return all;
}

bool has(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

}  // namespace

struct ReplayedBeliefs::Parts {
    using Recorded = std::shared_ptr<const RecordedBelief>;
    struct Cut {
        Time time;
        Recorded belief;
    };
    std::uint64_t count = 0, buttons_seen = 0, actions_seen = 0;
    Recorded next{};
    std::deque<Cut> cuts{};  // those whose frames were not taken yet
    std::unique_ptr<BeliefCheck> buttons{};
    std::unique_ptr<ActionBeliefCheck> actions{};
    std::vector<Finding> findings{};
    std::vector<std::string> unknown{};

    void take_buttons(const Frame& frame, const RecordedBelief& recorded);
    void take_actions(const Frame& frame, const RecordedBelief& recorded, const ActionReader& reader);
    std::optional<ButtonAction> action_named(const ActionReader& reader, const std::string& name);
};

ReplayedBeliefs::ReplayedBeliefs() : parts_{std::make_unique<Parts>()} {}
ReplayedBeliefs::~ReplayedBeliefs() = default;
std::uint64_t ReplayedBeliefs::count() const noexcept { return parts_->count; }
const std::vector<ReplayedBeliefs::Finding>& ReplayedBeliefs::findings() const noexcept { return parts_->findings; }
const std::vector<std::string>& ReplayedBeliefs::unknown() const noexcept { return parts_->unknown; }

void ReplayedBeliefs::note(const RecordingLine& line) {
    if (line.kind == RecordingLine::Kind::belief) {
        parts_->next = line.belief;
        ++parts_->count;
    } else if (line.kind == RecordingLine::Kind::frame) {
        parts_->cuts.push_back({line.time, std::move(parts_->next)});
        parts_->next = nullptr;
    }
}

void ReplayedBeliefs::take(const Frame& frame, const ActionReader* reader) {
    // A cut that goes back has no frame.
    while (!parts_->cuts.empty() && parts_->cuts.front().time != frame.end()) parts_->cuts.pop_front();
    if (parts_->cuts.empty()) return;
    const Parts::Recorded belief = std::move(parts_->cuts.front().belief);
    parts_->cuts.pop_front();
    if (!belief) {
        parts_->buttons.reset();
        parts_->actions.reset();
        return;
    }
    parts_->take_buttons(frame, *belief);
    if (reader) parts_->take_actions(frame, *belief, *reader);
}

void ReplayedBeliefs::Parts::take_buttons(const Frame& frame, const RecordedBelief& recorded) {
    if (!buttons) {
        // A layer of actions alone says nothing about buttons.
        if (recorded.handles.empty() && !recorded.actions.handles.empty()) return;
        buttons = std::make_unique<BeliefCheck>(recorded.handles.empty() ? every_button() : recorded.handles);
        buttons_seen = 0;
    }
    buttons->note(frame, recorded.belief);
    for (; buttons_seen < buttons->count(); ++buttons_seen) {
        const BeliefFinding it = buttons->finding(buttons_seen);
        findings.push_back({std::string{name_of(it.button)}, it});
    }
}

std::optional<ButtonAction> ReplayedBeliefs::Parts::action_named(const ActionReader& reader, const std::string& name) {
    const std::optional<ButtonAction> action = reader.find_button(name);
    if (!action && !has(unknown, name)) unknown.push_back(name);
    return action;
}

void ReplayedBeliefs::Parts::take_actions(const Frame& frame, const RecordedBelief& recorded,
                                          const ActionReader& reader) {
    const RecordedBelief::Names& names = recorded.actions;
    if (!actions) {
        if (names.handles.empty()) return;
        std::vector<ButtonAction> handled;
        for (const std::string& name : names.handles)
            if (const auto action = action_named(reader, name)) handled.push_back(*action);
        actions = std::make_unique<ActionBeliefCheck>(handled);
        actions_seen = 0;
    }
    std::vector<ActionBelief> beliefs;
    const auto belief_of = [&](const std::string& name) -> ActionBelief* {
        const auto action = action_named(reader, name);
        if (!action) return nullptr;
        for (ActionBelief& belief : beliefs)
            if (belief.action == *action) return &belief;
        beliefs.push_back({.action = *action});
        return &beliefs.back();
    };
    for (const std::string& name : names.pressed)
        if (ActionBelief* const belief = belief_of(name)) belief->pressed = true;
    for (const std::string& name : names.down)
        if (ActionBelief* const belief = belief_of(name)) belief->down = true;
    if (names.released) {
        for (const std::string& name : *names.released)
            if (ActionBelief* const belief = belief_of(name)) belief->released = true;
        // Reported, though empty.
        if (beliefs.empty()) beliefs.push_back({});
        if (!beliefs.front().released) beliefs.front().released = false;
    }
    actions->note(reader, frame, beliefs);
    for (; actions_seen < actions->count(); ++actions_seen) {
        const ActionBeliefFinding it = actions->finding(actions_seen);
        findings.push_back({reader.name_of(it.action), it.what});
    }
}

}  // namespace cursorum
