// Bindings as text, both ways: for a binding screen, a console, or a file of one's own.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>

#include "cursorum/actions/profile.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum {

/// The binding of an action of that kind as a profile writes it: "Space", "Control+KeyL", "ControlLeft>KeyL",
/// "WheelUp", or a table such as
/// `{ minus = "KeyF", plus = "KeyR" }` and `{ stick = "PadStickLeft" }`. Allocates.
CURSORUM_API std::string binding_text(ActionKind kind, const Binding& binding);

/// The binding of such a text, for an action of that kind; nothing, and what was found and expected in `why`, if it is
/// none. Allocates.
CURSORUM_API std::optional<Binding> parse_binding(ActionKind kind, std::string_view text, std::string* why = nullptr);

/// The first of an action's bindings that a device of this kind has: for a prompt, with the kind of the device that was
/// used last (Seats::last_device()). A keyboard and a mouse are used together: for either of them, the keyboard's
/// binding comes first. Null if there is none.
CURSORUM_API const Binding* binding_for(const Action& action, DeviceKind kind) noexcept;

/// What to show for a binding: `label` gives the text for each control's name, for instance the symbol that is printed
/// on the key or on the pad's button; if it returns nothing or only spaces, the name is shown. A chord's parts are
/// joined as in a profile, those of other bindings by commas: "Ctrl+L", "A, D, W, S". Mouse motion is "MouseMotion", a
/// wheel's turning "Wheel". Allocates.
CURSORUM_API std::string binding_label(const Binding& binding,
                                       const std::function<std::string(std::string_view name)>& label);

}  // namespace cursorum
