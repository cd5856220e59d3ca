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
    /// The text on each control, as for binding_label(), such as what is printed on the key in the layout in force. If
    /// it returns nothing, or is not set, that is a short form of the name: "W" for KeyW. What is too wide is left out.
    std::function<std::string(std::string_view name)> label{};
    /// As in PictureOptions.
    std::function<double(std::string_view text, double size, bool bold)> text_width{};
};

/// All devices at the frame's end as one, with what is down on any of them, for control_picture(). Either-side names
/// are not included. For a single device, use frame.on(device).current().
CURSORUM_API DeviceSnapshot all_devices(const Frame& frame);

/// Draws the device with the state of its controls. What is down is filled, and so is a trigger as far as it is pulled;
/// a stick's knob stands where the stick is. Shapes of controls say which one they are (PictureShape::control), for a
/// renderer with pictures of its own. What is down and is not on the drawing, such as PadExtra1, is listed below it.
/// A touch surface has no drawing: the picture is empty. Cost: some 10 microseconds for a gamepad, 30 for a keyboard.
/// Allocates.
CURSORUM_API Picture control_picture(const DeviceSnapshot& now, const ControlPictureOptions& options = {});

}  // namespace cursorum
