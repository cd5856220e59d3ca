// Finding actions and modes by name, and saying why one is not found: what was looked for, what there is, and the near
// name. Profiles and readers share it, so that both explain alike.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/actions/profile.hpp"

namespace cursorum::detail {

/// An action as handles refer to it.
struct NamedAction {
    std::string_view mode;
    const Action* action;
    std::uint16_t number;
};

/// By "mode.action", or by the action's name alone if only one mode has it. Of that kind, or of any.
std::optional<std::uint16_t> find_action(const std::vector<NamedAction>& actions, std::string_view name,
                                         std::optional<ActionKind> kind, std::string* why);
/// The index of a mode's name among `names`.
std::optional<std::uint8_t> find_mode(const std::vector<std::string_view>& names, std::string_view name,
                                      std::string* why);

/// A text between quotes.
inline std::string quoted(std::string_view text) { return '"' + std::string{text} + '"'; }

}  // namespace cursorum::detail
