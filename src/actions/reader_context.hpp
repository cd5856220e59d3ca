// What all parts of an action reader share while they read a frame: the bindings, the state that lasts from frame to
// frame, and the edges that the frame has made. Every call of a part gets it as a parameter.
#pragma once

#include <memory>

#include "actions/action_edges.hpp"
#include "actions/action_state.hpp"
#include "actions/bindings.hpp"
#include "actions/verdicts.hpp"

namespace cursorum::detail {

/// A reader's bindings, state and edges, for all its parts. The reader's thread alone uses it.
struct ReaderContext {
    explicit ReaderContext(std::unique_ptr<const ActionMap> map) : map_{std::move(map)}, state_{map_->counts()} {}

    /// Adds an edge of a button action.
    void add_edge(std::uint16_t action, Effect effect, std::int64_t time) {
        edges_.add(action, effect, time, state_.t0);
    }

    std::unique_ptr<const ActionMap> map_;
    ActionState state_;
    ActionEdges edges_;
    Verdicts verdicts_;
};

}  // namespace cursorum::detail
