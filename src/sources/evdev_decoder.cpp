// One event device's stream of kernel events, as events of ours: complete at each report, with hats, triggers and touch
// surfaces as their controls. What the kernel dropped is healed from the device's true state.
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

namespace {

/// The value that an axis has when nobody touches it: the middle, or, of an even number of values, the upper one of the
/// two in the middle (128 of 0 to 255). An even number of only a few values has none: a lever or a switch, which rests
/// at 0, or at its least value.
double rest_of(KernelRange range) noexcept {
    constexpr std::int64_t few = 16;
    const std::int64_t least = range.least, greatest = range.greatest, values = greatest - least + 1;
    if (values % 2 == 0 && values < few) return static_cast<double>(std::clamp<std::int64_t>(0, least, greatest));
    return static_cast<double>(least + values / 2);
}

}  // namespace

void EvdevDecoder::set_range(unsigned code, KernelRange range) noexcept {
    if (range.least >= range.greatest) return;
    if (kind_ == DeviceKind::touch) return touch_.set_range(code, range);
    if (code == ABS_HAT0X || code == ABS_HAT0Y) hat_ranges_[code == ABS_HAT0Y] = range;
    if (const auto axis = axis_of_linux_code(code)) ranges_[axis->number] = range;
}

/// A trigger from 0 to 1; anything else from -1 to 1, with the value that a resting stick has at 0.
double EvdevDecoder::value_of(Axis axis, std::int32_t value) const noexcept {
    const KernelRange range = ranges_[axis.number];
    const double least = range.least, greatest = range.greatest, v = std::clamp(value, range.least, range.greatest);
    if (is_pull(axis)) return (v - least) / (greatest - least);
    const double rest = rest_of(range), side = v < rest ? rest - least : greatest - rest;
    return v == rest ? 0 : (v - rest) / side;
}

/// Left or up is -1, right or down is 1.
std::int32_t EvdevDecoder::hat_side(std::uint16_t code, std::int32_t value) const noexcept {
    const double rest = rest_of(hat_ranges_[code == ABS_HAT0Y]);
    return (value > rest) - (value < rest);
}

void EvdevDecoder::hat(Time time, std::uint16_t code, std::int32_t value, EventSink& sink) {
    const bool is_y = code == ABS_HAT0Y;
    std::int32_t& last = hats_[is_y];
    value = hat_side(code, value);
    if (value == last) return;
    const auto button = [&](std::int32_t side) {
        return is_y ? (side < 0 ? PadHatUp : PadHatDown) : (side < 0 ? PadHatLeft : PadHatRight);
    };
    if (last != 0) sink.take(Event::button(time, device_, button(last), false));
    if (value != 0) sink.take(Event::button(time, device_, button(value), true));
    last = value;
}

void EvdevDecoder::take(const KernelEvent& event, EventSink& sink) {
    const Time time = nanoseconds_since_zero(event.time);
    if (event.type == EV_SYN) {
        if (event.code == SYN_DROPPED) {
            lose(time, sink);
            dropping_ = true;
        } else if (event.code == SYN_REPORT && !dropping_) {
            report(time, sink);
        } else if (event.code == SYN_REPORT) {
            // Nothing is known of what was lost. All is let go; what is still down shows itself by its next event.
            dropping_ = false;
            sink.take(Event::state(time, device_, {}, true));
        }
        return;
    }
    if (dropping_) return;
    switch (event.type) {
        case EV_KEY: {
            if (kind_ == DeviceKind::touch && event.code >= BTN_DIGI && event.code < BTN_WHEEL) {
                if (event.code == BTN_TOUCH) touch_.touch(event.value != 0);
                break;
            }
            const Button button = button_of_linux_code(event.code);
            if (button)
                sink.take(Event::button(time, device_, button, event.value != 0, event.value == 2));
            else if (event.value == 1 && unnamed_.presses++ == 0)
                unnamed_.first_code = event.code;
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
            if (kind_ == DeviceKind::touch) {
                touch_.take(event.code, event.value);
                break;
            }
            place(event.code, event.value);
            if (kind_ != DeviceKind::gamepad) break;
            if (event.code == ABS_HAT0X || event.code == ABS_HAT0Y)
                hat(time, event.code, event.value, sink);
            else if (const auto axis = axis_of_linux_code(event.code))
                sink.take(Event::axis_value(time, device_, *axis, value_of(*axis, event.value)));
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

void EvdevDecoder::place(std::uint16_t code, std::int32_t value) noexcept {
    if (!is_placed_ || code > ABS_Y) return;
    const KernelRange range = ranges_[axis_of_linux_code(code)->number];
    const double least = range.least, greatest = range.greatest;
    const double values = greatest - least + 1;  // the last one is still inside
    const double share = (std::clamp(value, range.least, range.greatest) - least) / values;
    (code == ABS_X ? place_.x : place_.y) = share * (code == ABS_X ? screen_.x : screen_.y);
    placed_ = true;
}

void EvdevDecoder::report(Time time, EventSink& sink) {
    if (kind_ == DeviceKind::touch) touch_.report(time, device_, sink);
    if (std::exchange(placed_, false)) sink.take(Event::moved_to(time, device_, place_));
    if (std::exchange(moved_, false)) {
        // No hand moves that far between two reports; a timeline would refuse it.
        constexpr double farthest = 1'000'000'000;
        dx_ = std::clamp(dx_, -farthest, farthest);
        dy_ = std::clamp(dy_, -farthest, farthest);
        Event motion = Event::motion(time, device_, {dx_, dy_});
        motion.has_raw = true;
        motion.raw_dx = dx_, motion.raw_dy = dy_;
        sink.take(motion);
        dx_ = dy_ = 0;
    }
    if (std::exchange(turned_, false)) {
        constexpr double most = 1'000'000'000;
        sink.take(Event::wheel(time, device_, {std::clamp(wheel_x_, -most, most), std::clamp(wheel_y_, -most, most)}));
        wheel_x_ = wheel_y_ = 0;
    }
    if (std::exchange(lamps_changed_, false)) {
        Event locks = Event::of(time, EventType::locks, {});
        locks.down_set = lamps_;
        sink.take(locks);
    }
}

void EvdevDecoder::lose(Time time, EventSink& sink) {
    touch_.cancel(time, device_, sink);
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
    if (type != EV_ABS) return;
    place(code, value);
    if (kind_ != DeviceKind::gamepad) return;
    if (const auto axis = axis_of_linux_code(code)) axes.set(*axis, value_of(*axis, value));
    if (code != ABS_HAT0X && code != ABS_HAT0Y) return;
    const bool is_y = code == ABS_HAT0Y;
    const std::int32_t side = hats_[is_y] = hat_side(code, value);
    if (side < 0) down.insert(is_y ? PadHatUp : PadHatLeft);
    if (side > 0) down.insert(is_y ? PadHatDown : PadHatRight);
}

}  // namespace cursorum
