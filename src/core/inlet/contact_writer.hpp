// An inlet's contacts on touch surfaces. The first contact of a surface may act as pointer: then its motion and its
// press of the left button are made here, too.
#pragma once

#include <array>
#include <cstdint>

#include "core/inlet/button_writer.hpp"
#include "core/inlet/motion_writer.hpp"
#include "core/occasions/occasion_writer.hpp"
#include "cursorum/core/event.hpp"

namespace cursorum::detail {

/// Keeps and writes an inlet's contacts.
class ContactWriter {
public:
    ContactWriter(InletPosting& to, const OccasionWriter& occasions, MotionWriter& motion, ButtonWriter& buttons,
                  ClickTracker& clicks) noexcept
        : to_{to}, occasions_{occasions}, motion_{motion}, buttons_{buttons}, clicks_{clicks} {}

    Outcome apply(Device& device, const Event& event) noexcept;
    /// Cancels all contacts on the device.
    void rest(Device& device) noexcept;

private:
    struct Contact {
        Device* device = nullptr;  // none: the place is free
        std::uint32_t id = 0;
        std::int64_t time = 0;
        FixedDistance begin{}, position{};
        double pressure = 0;
        bool points = false;
    };

    void follow_with_pointer(Device& device, const Event& event) noexcept;
    void write(unsigned place, OccasionKind kind) const noexcept;
    void end(unsigned place, OccasionKind kind) noexcept;

    InletPosting& to_;
    const OccasionWriter& occasions_;
    MotionWriter& motion_;
    ButtonWriter& buttons_;
    ClickTracker& clicks_;
    std::array<Contact, contact_capacity> contacts_{};
};

}  // namespace cursorum::detail
