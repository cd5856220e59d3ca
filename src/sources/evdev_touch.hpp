// Fingers on a touch screen, from what the kernel reports of its slots: a slot is a place for one finger, and a finger
// has a number of its own while it is there. Screens that report one place only have one slot.
#pragma once

#include <array>
#include <cstdint>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "sources/kernel_range.hpp"

namespace cursorum {

class CURSORUM_API EvdevTouch {
public:
    /// `screen`: what the whole surface corresponds to, in pixels.
    void set_up(Distance screen) noexcept { screen_ = screen; }
    void set_range(unsigned code, KernelRange range) noexcept;
    /// The slot that the kernel's next events are about.
    void choose_slot(std::int32_t slot) noexcept { slot_ = slot; }

    /// An event of EV_ABS.
    void take(std::uint16_t code, std::int32_t value) noexcept;
    /// BTN_TOUCH, by which screens without slots report a finger.
    void touch(bool down) noexcept;
    /// The end of a report: posts what has changed.
    void report(Time time, DeviceId device, EventSink& sink);
    /// Cancels all contacts.
    void cancel(Time time, DeviceId device, EventSink& sink);
    /// The fingers that are there count for nothing until they lift.
    void forget() noexcept;

private:
    static constexpr std::int32_t none = -1;
    struct Finger {
        std::int32_t number = none;   // the kernel's, now
        std::int32_t contact = none;  // as it was posted
        std::int32_t ignored = none;  // the number of one that counts for nothing
        double x = 0, y = 0, pressure = 1;
        bool is_palm = false, has_moved = false;
    };
    static double share(std::int32_t value, KernelRange range, bool last_is_inside) noexcept;
    static Event contact(const Finger& finger, ContactPhase phase, Time time, DeviceId device) noexcept;
    Finger* now() noexcept;

    std::array<Finger, 16> fingers_{};
    KernelRange x_{}, y_{}, pressure_{0, 0};
    Distance screen_{};
    std::int32_t slot_ = 0;
    bool has_slots_ = false;
};

}  // namespace cursorum
