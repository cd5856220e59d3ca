// One node of the kernel's event devices: opening it, reading what it is and its true state, rumble. All system calls
// of the source are here and in evdev_source.cpp.
#include "sources/evdev_node.hpp"

#include <fcntl.h>
#include <grp.h>
#include <linux/input.h>
#include <sys/ioctl.h>
#include <sys/stat.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>

namespace cursorum {
namespace {

std::string text_or_empty(const char* text) { return text ? text : ""; }

EvdevProblem problem_of(const std::string& path, int error, const EvdevSourceOptions& options) {
    EvdevProblem problem{path, std::strerror(error), {}};
    if (error == EACCES || error == EPERM) {
        struct stat status {};
        const group* owner = stat(path.c_str(), &status) == 0 ? getgrgid(status.st_gid) : nullptr;
        problem.hint = owner && (status.st_mode & S_IRGRP) != 0
                           ? "members of the group " + text_or_empty(owner->gr_name) + " may read it"
                           : std::string{"only the superuser may read it"};
        problem.hint += "; docs/live-sources.md has a rule that opens gamepads to whoever sits at the machine";
    } else if (error == ENOENT) {
        problem.hint = "list what there is with: ls " + options.directory + "/event*";
    } else if (error == ENOTTY || error == EINVAL) {
        problem.why = "this is not an event device";
    }
    return problem;
}

bool is_asked_for(DeviceKind kind, const EvdevSourceOptions& options) {
    return !options.nodes.empty() || (kind == DeviceKind::keyboard ? options.keyboards
                                      : kind == DeviceKind::mouse  ? options.mice
                                      : kind == DeviceKind::touch  ? options.touch_screens
                                                                   : options.gamepads);
}

}  // namespace

EvdevNode::Report EvdevNode::open(const std::string& its_path, const EvdevSourceOptions& options) {
    path = its_path;
    const bool is_named = !options.nodes.empty();
    descriptor = Descriptor{::open(path.c_str(), O_RDWR | O_NONBLOCK | O_CLOEXEC)};
    can_write = descriptor.is_open();
    if (!can_write) descriptor = Descriptor{::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC)};
    // A device that was unplugged again before it could be opened is not reported as a problem.
    if (!descriptor.is_open() && !is_named && (errno == ENOENT || errno == ENODEV)) return {};
    if (!descriptor.is_open()) return {.problem = problem_of(path, errno, options)};
    libevdev* made = nullptr;
    if (const int error = libevdev_new_from_fd(descriptor.get(), &made); error < 0)
        return {.problem = problem_of(path, -error, options)};
    Handle own{made};
    // At once: later it would drop what is pending.
    libevdev_set_clock_id(made, CLOCK_MONOTONIC);
    name = text_or_empty(libevdev_get_name(made));
    what = kind_of(made, is_named);
    if (what.kinds.empty()) {
        const bool is_missed = what.could_be_missed && (is_named || options.mice);
        Report report{.ignored = EvdevIgnored{path, name, std::string{what.ignored}, is_missed}};
        if (is_named) report.problem = EvdevProblem{path, std::string{what.ignored} + ", which is not read", {}};
        return report;
    }
    for (const DeviceKind kind : what.kinds)
        if (is_asked_for(kind, options)) roles.push_back({kind, no_device, {}});
    if (roles.empty()) return {};
    // "usb-0000:00:14.0-2/input1" and "…/input0" are two nodes of one thing.
    const std::string plug = text_or_empty(libevdev_get_phys(made));
    if (const std::size_t end = plug.find("/input"); end != plug.npos)
        place = plug.substr(0, end) + ' ' + text_or_empty(libevdev_get_uniq(made));
    handle = std::move(own);
    if (options.grab && !grab()) return {.problem = EvdevProblem{path, "another program has grabbed it", {}}};
    return {};
}

bool EvdevNode::grab() {
    is_grabbed = libevdev_grab(handle.get(), LIBEVDEV_GRAB) == 0;
    return is_grabbed;
}

bool EvdevNode::belongs(const Role& role, unsigned type, unsigned code) const {
    if (what.kinds.size() == 1 || type == EV_SYN) return true;
    const auto has = [&](DeviceKind kind) {
        return std::find(what.kinds.begin(), what.kinds.end(), kind) != what.kinds.end();
    };
    if (type == EV_REL) return role.kind == (has(DeviceKind::mouse) ? DeviceKind::mouse : what.kinds.front());
    if (type == EV_ABS) return role.kind == what.kinds.front();
    if (type != EV_KEY) return role.kind == DeviceKind::keyboard;
    const Button button = button_of_linux_code(code);
    const ControlFamily family = button ? find_control(name_of(button))->family : ControlFamily::key;
    const DeviceKind kind = family == ControlFamily::mouse_button ? DeviceKind::mouse
                            : family == ControlFamily::pad_button ? DeviceKind::gamepad
                                                                  : DeviceKind::keyboard;
    return role.kind == (has(kind) ? kind : what.kinds.front());
}

void EvdevNode::add_state(Role& role, EvdevState& state) {
    state.slot = std::max(libevdev_get_current_slot(handle.get()), 0);
    for (const auto& [type, last] : {std::pair{EV_KEY, KEY_MAX}, std::pair{EV_ABS, ABS_MAX}})
        for (int code = 0; code <= last; ++code)
            if (libevdev_has_event_code(handle.get(), static_cast<unsigned>(type), static_cast<unsigned>(code)) &&
                belongs(role, static_cast<unsigned>(type), static_cast<unsigned>(code)))
                role.decoder.add_to_state(
                    static_cast<std::uint16_t>(type), static_cast<std::uint16_t>(code),
                    libevdev_get_event_value(handle.get(), static_cast<unsigned>(type), static_cast<unsigned>(code)),
                    state.down, state.axes);
}

void EvdevNode::add_info(const Role& role, DeviceInfo& info) const {
    libevdev* const device = handle.get();
    for (unsigned code = 0; code <= KEY_MAX; ++code)
        if (libevdev_has_event_code(device, EV_KEY, code) && belongs(role, EV_KEY, code))
            info.buttons.insert(button_of_linux_code(code));
    info.buttons.erase({});
    if (role.kind != DeviceKind::gamepad) return;
    using namespace controls;
    if (libevdev_has_event_code(device, EV_ABS, ABS_HAT0X))
        for (const Button button : {PadHatUp, PadHatDown, PadHatLeft, PadHatRight}) info.buttons.insert(button);
    for (unsigned code = ABS_X; code <= ABS_MAX; ++code)
        if (const auto axis = axis_of_linux_code(code); axis && libevdev_has_event_code(device, EV_ABS, code))
            info.axes |= 1U << axis->number;
}

void EvdevNode::set_up(Role& role, DeviceId id, const EvdevSourceOptions& options) {
    role.decoder = EvdevDecoder{id, role.kind};
    for (unsigned code = ABS_X; code <= ABS_MAX; ++code)
        if (const input_absinfo* range = libevdev_get_abs_info(handle.get(), code))
            role.decoder.set_range(code, {range->minimum, range->maximum});
    role.decoder.set_fine_wheel(libevdev_has_event_code(handle.get(), EV_REL, REL_WHEEL_HI_RES) != 0,
                                libevdev_has_event_code(handle.get(), EV_REL, REL_HWHEEL_HI_RES) != 0);
    if (what.is_absolute_mouse) role.decoder.set_positions(options.screen);
    role.decoder.fingers().set_up(options.screen);
    role.decoder.fingers().choose_slot(std::max(libevdev_get_current_slot(handle.get()), 0));
}

bool EvdevNode::may_hold_anything() const {
    if (what.kinds.front() == DeviceKind::gamepad) return true;
    for (unsigned code = 0; code <= KEY_MAX; ++code)
        if (libevdev_get_event_value(handle.get(), EV_KEY, code) != 0) return true;
    return false;
}

void EvdevNode::prepare_truth() {
    if (asking_.is_open()) return;
    asking_ = Descriptor{::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC)};
    // Nobody reads events from it.
    for (std::uint32_t type = EV_KEY; asking_.is_open() && type <= EV_MAX; ++type) {
        input_mask none{};
        none.type = type;
        ioctl(asking_.get(), EVIOCSMASK, &none);
    }
}

/// Calls visit(type, code, value) for everything whose true value is another one than the last event's, until it
/// returns true.
template <typename Visit>
bool EvdevNode::compare_with_truth(const Visit& visit) const {
    std::array<unsigned char, KEY_MAX / 8 + 1> keys{};
    if (!asking_.is_open() || ioctl(asking_.get(), EVIOCGKEY(keys.size()), keys.data()) < 0) return false;
    for (unsigned code = 0; code <= KEY_MAX; ++code) {
        if (!libevdev_has_event_code(handle.get(), EV_KEY, code)) continue;
        const int value = keys[code / 8] >> (code % 8) & 1;
        if (value != (libevdev_get_event_value(handle.get(), EV_KEY, code) != 0) && visit(EV_KEY, code, value))
            return true;
    }
    for (unsigned code = 0; code < ABS_MT_SLOT; ++code) {
        if (!libevdev_has_event_code(handle.get(), EV_ABS, code)) continue;
        input_absinfo info{};
        if (ioctl(asking_.get(), EVIOCGABS(code), &info) < 0) return false;
        if (info.value != libevdev_get_event_value(handle.get(), EV_ABS, code) && visit(EV_ABS, code, info.value))
            return true;
    }
    return false;
}

bool EvdevNode::differs_from_truth() const {
    return compare_with_truth([](unsigned, unsigned, int) { return true; });
}

void EvdevNode::take_truth() {
    compare_with_truth([this](unsigned type, unsigned code, int value) {
        libevdev_set_event_value(handle.get(), type, code, value);
        return false;
    });
}

}  // namespace cursorum
