// An inlet's axes: a value is shaped, compared with its thresholds and written, with the edges of the buttons that it
// changed. The axes of one device at one time apply together, so a second one may undo what the first one did.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "core/inlet/button_writer.hpp"
#include "core/inlet/inlet_posting.hpp"
#include "cursorum/core/device.hpp"

namespace cursorum::detail {

/// Shapes and writes the axes of an inlet's devices.
class AxisWriter {
public:
    AxisWriter(InletPosting& to, ButtonWriter& buttons) noexcept : to_{to}, buttons_{buttons} {}

    struct Value {
        unsigned axis;
        double value;
    };
    /// Posts a whole event. The values belong to one axis, or to the two axes of one stick.
    template <std::size_t count>
    Outcome post(Device& device, const std::array<Value, count>& values) noexcept;
    /// Applies the values of a polled state, as a part of its event.
    Outcome apply(Device& device, const AxisValues& axes, bool adopting) noexcept;
    void set_shaping(Device& device, const DeviceShaping& shaping) noexcept;
    /// Brings all axes to rest, when their buttons have been cancelled.
    void rest(Device& device) noexcept;

private:
    /// The effect of an event on a device's axes; bit n: axis n.
    struct Changes {
        std::uint32_t touched = 0;             // posted with another value than before, or for the first time
        std::uint32_t values = 0, shaped = 0;  // the value changed, the shaped value
        bool is_forced = false;                // nobody moved them
    };

    Outcome change(Device& device, Value to, Changes& changes) noexcept;
    bool try_bind_track(Device& device, unsigned axis) noexcept;
    void write(const Device& device, Changes changes, bool counts) noexcept;
    void write_undo(const Device& device) noexcept;
    void apply_changes(Device& device, Changes& changes, bool adopting) noexcept;
    template <unsigned count>
    std::uint32_t reshape(Device& device, unsigned first) noexcept;
    AxisButtons begin_buttons(Device& device) noexcept;
    template <unsigned count>
    static void update_buttons(const Device& device, unsigned first, AxisButtons& now) noexcept;
    void change_buttons(Device& device, const AxisButtons& down, const AxisButtons& now, bool adopting) noexcept;

    InletPosting& to_;
    ButtonWriter& buttons_;
};

}  // namespace cursorum::detail
