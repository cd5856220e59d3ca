// The controls that a binding uses, for finding conflicts: a chord of others, a wheel's direction, an axis' side are
// different uses of one control.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "cursorum/actions/profile.hpp"

namespace cursorum::detail {

/// A part of a binding, and the names of the controls that it must not share: single buttons (either-side names by
/// their keys), axes (a stick by its two), "motion", "wheel", "CapsLock on", whole chords.
struct BindingUse {
    std::string name;  // as written
    std::set<std::string> keys;
};
std::vector<BindingUse> uses_of(const Binding& binding);

/// "Control+KeyL", "Control>KeyL", "Control+WheelUp".
std::string chord_text(const Binding& binding);

}  // namespace cursorum::detail
