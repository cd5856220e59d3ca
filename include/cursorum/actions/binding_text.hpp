// Bindings as text, both ways: for a binding screen, a console, or a file of one's own.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "cursorum/actions/profile.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The binding of an action of that kind as a profile writes it: "Space", "Control+KeyL", "ControlLeft>KeyL",
/// "WheelUp", or a table such as
/// `{ minus = "KeyF", plus = "KeyR" }` and `{ stick = "PadStickLeft" }`. Allocates.
CURSORUM_API std::string binding_text(ActionKind kind, const Binding& binding);

/// The binding of such a text, for an action of that kind; nothing, and what was found and expected in `why`, if it is
/// none. Allocates.
CURSORUM_API std::optional<Binding> parse_binding(ActionKind kind, std::string_view text, std::string* why = nullptr);

}  // namespace cursorum
