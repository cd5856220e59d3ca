#include "cursorum/why/replayed_beliefs.hpp"

#include <algorithm>

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

void ReplayedBeliefs::note(const RecordingLine& line) {
    if (line.kind == RecordingLine::Kind::belief) {
        next_ = line.belief;
        ++count_;
    } else if (line.kind == RecordingLine::Kind::frame) {
        cuts_.push_back({line.time, std::move(next_)});
        next_ = nullptr;
    }
}

void ReplayedBeliefs::take(const Frame& frame, const ActionReader* reader, const Profile* profile) {
    // A cut that went back has no frame.
    while (!cuts_.empty() && cuts_.front().time != frame.end()) cuts_.pop_front();
    if (cuts_.empty()) return;
    const Recorded belief = std::move(cuts_.front().belief);
    cuts_.pop_front();
    if (!belief) {
        buttons_.reset();
        actions_.reset();
        return;
    }
    take_buttons(frame, *belief);
    if (reader && profile) take_actions(frame, *belief, *reader, *profile);
}

void ReplayedBeliefs::take_buttons(const Frame& frame, const RecordedBelief& recorded) {
    if (!buttons_) {
        // A layer of actions alone says nothing about buttons.
        if (recorded.handles.empty() && !recorded.actions.handles.empty()) return;
        buttons_ = std::make_unique<BeliefCheck>(recorded.handles.empty() ? every_button() : recorded.handles);
        buttons_seen_ = 0;
    }
    buttons_->note(frame, recorded.belief);
    for (; buttons_seen_ < buttons_->count(); ++buttons_seen_) {
        const BeliefFinding it = buttons_->finding(buttons_seen_);
        findings_.push_back({std::string{name_of(it.button)}, it});
    }
}

std::optional<ButtonAction> ReplayedBeliefs::action_named(const Profile& profile, const std::string& name) {
    const std::optional<ButtonAction> action = profile.find_button(name);
    if (!action && !has(unknown_, name)) unknown_.push_back(name);
    return action;
}

void ReplayedBeliefs::take_actions(const Frame& frame, const RecordedBelief& recorded, const ActionReader& reader,
                                   const Profile& profile) {
    const RecordedBelief::Names& names = recorded.actions;
    if (!actions_) {
        if (names.handles.empty()) return;
        std::vector<ButtonAction> handled;
        for (const std::string& name : names.handles)
            if (const auto action = action_named(profile, name)) handled.push_back(*action);
        actions_ = std::make_unique<ActionBeliefCheck>(handled);
        actions_seen_ = 0;
    }
    std::vector<ActionBelief> beliefs;
    const auto belief_of = [&](const std::string& name) -> ActionBelief* {
        const auto action = action_named(profile, name);
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
    actions_->note(reader, frame, beliefs);
    for (; actions_seen_ < actions_->count(); ++actions_seen_) {
        const ActionBeliefFinding it = actions_->finding(actions_seen_);
        std::uint16_t of = it.action.number;
        for (const Mode& mode : profile.modes) {
            if (of < mode.actions.size()) {
                findings_.push_back({mode.name + "." + mode.actions[of].name, it.what});
                break;
            }
            of = static_cast<std::uint16_t>(of - mode.actions.size());
        }
    }
}

}  // namespace cursorum
