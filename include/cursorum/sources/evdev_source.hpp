// Live keyboards, mice and gamepads from the Linux kernel's event devices (/dev/input/event*), by libevdev.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/space.hpp"
#include "cursorum/core/timeline.hpp"
#include "cursorum/sources/evdev_dump.hpp"

namespace cursorum {

struct EvdevSourceOptions {
    /// The nodes to read, such as "/dev/input/event3". Empty: every keyboard, mouse and gamepad in `directory`, those
    /// included that are plugged in later.
    std::vector<std::string> nodes{};
    std::string directory = "/dev/input";
    /// Only devices of these kinds, where `nodes` is empty. A program with a window usually takes gamepads alone: its
    /// keyboard and mouse come from the window system, with focus and positions.
    bool keyboards = true, mice = true, gamepads = true, touch_screens = true;
    /// The first finger on a touch screen acts as a mouse, too: see DeviceInfo::first_contact_points.
    bool first_contact_points = false;
    /// Devices are numbered from here; one that comes back gets its old number, see DeviceIds. One that another
    /// device of the timeline has is passed over.
    std::uint32_t first_device = 21;
    /// Exempt from focus. The kernel knows no windows: without this, the inlet's focus decides.
    bool background = false;
    /// No other program gets the devices' events while they are open. Where another program has asked for the same, it
    /// is tried again each second, and problems() has it until it works.
    bool grab = false;
    /// Touch screens, and mice that report positions instead of distances (virtual machines have them), report a share
    /// of the screen's width and height. It is multiplied by this size, in pixels.
    Distance screen{1920, 1080};
};

/// A node that could not be read, or a device that has no room.
struct EvdevProblem {
    std::string node;
    std::string why;   ///< "permission denied"
    std::string hint;  ///< what to do about it; may be empty
};

/// A device that was opened, looked at, and is not read.
struct EvdevIgnored {
    std::string node;
    std::string name;  ///< as the device reports it: foreign text, see printable_text()
    std::string why;   ///< "it is a touchpad"
    /// InputCheck mentions it. True for a touchpad if mice are asked for; false for a lid, a
    /// power button or a motion sensor.
    bool could_be_missed = true;
};

/// Devices: gamepads include flight sticks, wheels and pedals. A mouse has a left button, and reports distances or
/// positions (EvdevSourceOptions::screen). A keyboard is any device with keys that have names, such as a number pad or
/// a few media keys; several nodes of one keyboard are one device. A node that is both a keyboard and a mouse is two
/// devices. A touch screen is a device with contacts: up to 16 fingers, their positions on EvdevSourceOptions::screen, and
/// their pressure; a finger that the kernel takes for a palm is cancelled. All other devices, such as touchpads, pens
/// and motion sensors, are listed in ignored().
///
/// Buttons and axes of gamepads follow the kernel's gamepad specification; axis ranges are those that the device
/// reports. Buttons and axes beyond it are PadExtra1, PadAxisExtra1 and so on; keys without a name are KeyExtra and
/// their Linux code, up to code 247. Presses of others are counted by unnamed(). The kernel's key repeat is marked as
/// system repeat. The motion of one report is one event; a wheel counts in fractions of a detent where the device
/// does.
///
/// Time: the kernel's own stamps, on CLOCK_MONOTONIC, which is Clock. Events of several devices are posted in the
/// order of their stamps. Precision: 1 microsecond. Events are read as they come, however seldom deliver() is called,
/// so that the kernel's small buffers do not overflow. Where one does all the same (the machine was too busy, or
/// nobody called deliver() for many seconds), the device's true state is adopted: nothing sticks, what was pressed and
/// released in between is lost, and overflows() counts it. The same happens if another program grabs the device for a
/// while and gets a release: the true state is adopted within two seconds.
///
/// Unplugging posts a disconnect, which cancels what is down and centres what is pushed, whether or not the kernel's
/// own releases were read. A device that comes back, or whose permissions come late, is opened again by itself. The
/// machine's sleep cancels everything, and what is still held after it is adopted.
///
/// Threads: yours is the one that posts into the inlet. The source has one of its own, which reads the kernel's
/// buffers and opens and closes nodes, so that none of that delays a frame; it posts nothing, and sleeps while nothing
/// comes.
///
/// Cost: about 2 microseconds for each event; nothing is allocated for it.
class CURSORUM_API EvdevSource final : public RumbleSink {
public:
    /// Returns null and sets `error` if the directory does not exist, or a node of `nodes` cannot be opened.
    static std::unique_ptr<EvdevSource> open(const EvdevSourceOptions& options, std::string& error);
    ~EvdevSource();
    EvdevSource(const EvdevSource&) = delete;
    EvdevSource& operator=(const EvdevSource&) = delete;

    /// Posts everything that has arrived, and returns the time up to which that is complete. Never waits.
    Time deliver(Timeline& timeline);
    /// The same, to any inlet. It sets the inlet's complete_until(). After a focus gain or an interruption of the
    /// inlet, it posts each device's true state, which is adopted, because the kernel does not repeat what has not
    /// changed.
    Time deliver(Inlet& inlet);
    /// The same, and the inlet's focus follows that of another inlet, into which a window system's source posts.
    Time deliver(Inlet& inlet, const Inlet& window);
    /// The same, to a recorder or any other sink.
    Time deliver(EventSink& sink);

    /// Carries out a request, for RumbleCarrier. Returns false if the device is not connected, cannot rumble, or must
    /// not be written to.
    bool try_rumble(const RumbleRequest& request, Time when) override;

    /// Becomes readable when events have arrived: for poll() or select().
    int file_descriptor() const noexcept;
    /// The number of devices that are read.
    std::size_t device_count() const noexcept;
    /// The nodes that cannot be read at present, as of the last deliver().
    const std::vector<EvdevProblem>& problems() const noexcept;
    /// The devices that are there and not read, likewise. Kinds that the options leave out are not among them.
    const std::vector<EvdevIgnored>& ignored() const noexcept;
    /// Presses that no control stands for, of all devices since it was opened.
    UnnamedPresses unnamed() const noexcept;
    /// The number of overflows of the kernel's buffer.
    std::uint64_t overflows() const noexcept;

private:
    struct Parts;
    explicit EvdevSource(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> parts_;
};

}  // namespace cursorum
