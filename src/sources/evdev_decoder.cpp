#include "sources/evdev_decoder.hpp"
#include "cursorum/core/event.hpp"

#include <linux/input-event-codes.h>

#include <algorithm>
#include <utility>

namespace cursorum {

using namespace controls;

EvdevDecoder::EvdevDecoder(DeviceId device, DeviceKind kind) noexcept : device_{device}, kind_{kind} {
    ranges_[PadPullLeft.number] = ranges_[PadPullRight.number] = {0, 255};
}

void EvdevDecoder::set_range(unsigned code, KernelRange range) noexcept {
    if (const auto axis = axis_of_linux_code(code); axis && range.least < range.greatest) ranges_[axis->number] = range;
}

/// A trigger from 0 to 1; anything else from -1 to 1, with the value that a resting stick has at 0.
double EvdevDecoder::value_of(Axis axis, std::int32_t value) const noexcept {
    const KernelRange range = ranges_[axis.number];
    const double least = range.least, greatest = range.greatest, v = std::clamp(value, range.least, range.greatest);
    if (is_pull(axis)) return (v - least) / (greatest - least);
    const double centre = least + (greatest - least + 1) / 2;
    return v < centre ? (v - centre) / (centre - least) : (v - centre) / (greatest - centre);
}

void EvdevDecoder::hat(Time time, std::uint16_t code, std::int32_t value, EventTaker& taker) {
    const bool is_y = code == ABS_HAT0Y;
    std::int32_t& last = hats_[is_y];
    value = (value > 0) - (value < 0);
    if (value == last) return;
    const auto button = [&](std::int32_t side) {
        return is_y ? (side < 0 ? PadHatUp : PadHatDown) : (side < 0 ? PadHatLeft : PadHatRight);
    };
    if (last != 0) taker.take(Event::button(time, device_, button(last), false));
    if (value != 0) taker.take(Event::button(time, device_, button(value), true));
    last = value;
}

void EvdevDecoder::take(const KernelEvent& event, EventTaker& taker) {
    const Time time = nanoseconds_since_zero(event.time);
    if (event.type == EV_SYN) {
        if (event.code == SYN_DROPPED) {
            overflow();
            dropping_ = true;
        } else if (event.code == SYN_REPORT && !dropping_) {
            report(time, taker);
        } else if (event.code == SYN_REPORT) {
            // Nothing is known of what was lost. All is let go; what is still down shows itself by its next event.
            dropping_ = false;
            taker.take(Event::state(time, device_, {}, true));
        }
        return;
    }
    if (dropping_) return;
    switch (event.type) {
        case EV_KEY: {
            const Button button = button_of_linux_code(event.code);
            if (button) taker.take(Event::button(time, device_, button, event.value != 0, event.value == 2));
            break;
        }
        case EV_REL:
            switch (event.code) {
                case REL_X: dx_ += event.value, moved_ = true; break;
                case REL_Y: dy_ += event.value, moved_ = true; break;
                case REL_WHEEL:
                    if (!fine_[0]) wheel_y_ += event.value, turned_ = true;
                    break;
                case REL_HWHEEL:
                    if (!fine_[1]) wheel_x_ += event.value, turned_ = true;
                    break;
                case REL_WHEEL_HI_RES: wheel_y_ += event.value / 120.0, turned_ = fine_[0] = true; break;
                case REL_HWHEEL_HI_RES: wheel_x_ += event.value / 120.0, turned_ = fine_[1] = true; break;
                default: break;
            }
            break;
        case EV_ABS:
            if (kind_ != DeviceKind::gamepad) break;
            if (event.code == ABS_HAT0X || event.code == ABS_HAT0Y)
                hat(time, event.code, event.value, taker);
            else if (const auto axis = axis_of_linux_code(event.code))
                taker.take(Event::axis_value(time, device_, *axis, value_of(*axis, event.value)));
            break;
        case EV_LED: {
            const Button lock = event.code == LED_CAPSL     ? CapsLock
                                : event.code == LED_NUML    ? NumLock
                                : event.code == LED_SCROLLL ? ScrollLock
                                                            : Button{};
            if (!lock) break;
            lamps_.set(lock, event.value != 0);
            lamps_changed_ = true;
            break;
        }
        default: break;
    }
}

void EvdevDecoder::report(Time time, EventTaker& taker) {
    if (std::exchange(moved_, false)) {
        // No hand moves that far between two reports; a timeline would refuse it.
        constexpr double farthest = 1'000'000'000;
        dx_ = std::clamp(dx_, -farthest, farthest);
        dy_ = std::clamp(dy_, -farthest, farthest);
        Event motion = Event::motion(time, device_, {dx_, dy_});
        motion.has_raw = true;
        motion.raw_dx = dx_, motion.raw_dy = dy_;
        taker.take(motion);
        dx_ = dy_ = 0;
    }
    if (std::exchange(turned_, false)) {
        constexpr double most = 1'000'000'000;
        taker.take(Event::wheel(time, device_, {std::clamp(wheel_x_, -most, most), std::clamp(wheel_y_, -most, most)}));
        wheel_x_ = wheel_y_ = 0;
    }
    if (std::exchange(lamps_changed_, false)) {
        Event locks = Event::of(time, EventType::locks, {});
        locks.down_set = lamps_;
        taker.take(locks);
    }
}

void EvdevDecoder::overflow() noexcept {
    dx_ = dy_ = wheel_x_ = wheel_y_ = 0;
    moved_ = turned_ = false;
}

void EvdevDecoder::add_to_state(std::uint16_t type, std::uint16_t code, std::int32_t value, ButtonSet& down,
                                AxisValues& axes) noexcept {
    if (type == EV_KEY) {
        if (value != 0) down.insert(button_of_linux_code(code));
        down.erase({});
        return;
    }
    if (type != EV_ABS || kind_ != DeviceKind::gamepad) return;
    if (const auto axis = axis_of_linux_code(code)) axes.set(*axis, value_of(*axis, value));
    if (code != ABS_HAT0X && code != ABS_HAT0Y) return;
    const bool is_y = code == ABS_HAT0Y;
    hats_[is_y] = (value > 0) - (value < 0);
    if (value < 0) down.insert(is_y ? PadHatUp : PadHatLeft);
    if (value > 0) down.insert(is_y ? PadHatDown : PadHatRight);
}

}  // namespace cursorum
