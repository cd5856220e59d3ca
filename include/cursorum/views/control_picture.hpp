// What is down now, on a drawing of a gamepad, a mouse or a keyboard: the geometry of a picture, for "press this" and
// for "what does the game see?".
#pragma once

#include <functional>
#include <string>
#include <string_view>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/frame.hpp"
#include "cursorum/core/snapshot.hpp"
#include "cursorum/views/picture.hpp"

namespace cursorum {

struct ControlPictureOptions {
    DeviceKind kind = DeviceKind::gamepad;  ///< a gamepad, a mouse or a keyboard
    double width = 320, height = 220;       ///< the room, in pixels; the drawing keeps its proportions
    /// Of a keyboard: the keys that are drawn, in their places; none: all but those of the number pad.
    ButtonSet keys{};
    ButtonSet marked{};  ///< a ring around these: "press this"
    /// The text on each control, as for binding_label(), such as the symbol that is printed on the key. If it is not
    /// set or returns nothing, a short form of the name is shown: "W" for KeyW. Text that does not fit is omitted.
    std::function<std::string(std::string_view name)> label{};
    /// As in PictureOptions.
    std::function<double(std::string_view text, double size, bool bold)> text_width{};
};

/// All devices at the frame's end merged into one, for control_picture(): what is down on any of them, sticks and
/// triggers; raw axes are not set. For a single device, use frame.on(device).current().
CURSORUM_API DeviceSnapshot all_devices(const Frame& frame);

/// Draws the device with the state of its controls. What is down is filled, and so is the pulled part of a trigger; a
/// stick's knob stands where the stick is. Each shape names its control (PictureShape::control), so that a renderer can
/// use pictures of its own. Controls that are down and not in the drawing, such as PadExtra1, are listed below it.
/// There is no drawing of a touch surface: its picture is empty. Cost: 3 microseconds for a gamepad, 14 for a keyboard.
/// Allocates.
CURSORUM_API Picture control_picture(const DeviceSnapshot& now, const ControlPictureOptions& options = {});

}  // namespace cursorum
