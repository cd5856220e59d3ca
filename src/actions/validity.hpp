// The rules of valid profiles, the same for profiles built in code, their files, and players' changes. A problem is a
// sentence without its place, which the caller adds.
#pragma once

#include <string>
#include <string_view>

#include "cursorum/actions/profile.hpp"

namespace cursorum::detail {

// Each returns what is wrong, as the end of "it has …", or nothing. What is valid can be written as text and read again
// as the same.

/// The problem of a binding for an action of that kind. Members that it does not use must have their defaults.
std::string problem_of(const Binding& binding, ActionKind kind);
/// The problem of an action with its bindings; `opens` may name a mode that does not exist.
std::string problem_of(const Action& action);
/// The problem of a profile's shaping. Centres and ranges belong to a device, not to a profile.
std::string problem_of(const DeviceShaping& shaping);

/// Names are written unchanged into files, tables and lists of other formats.
bool is_name(std::string_view name) noexcept;

/// Numbers beyond these are mistakes.
inline constexpr double greatest_scale = 1000, greatest_dead_zone = 0.99, least_press = 0.01;
inline constexpr std::uint32_t greatest_cap = 1'000'000;

}  // namespace cursorum::detail
