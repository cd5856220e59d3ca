// One node of the kernel's event devices: opening it, what it is, its true state. Two nodes of one gamepad (its
// buttons, its touch surface) become one device in evdev_source.cpp.
#pragma once

#include <libevdev/libevdev.h>
#include <unistd.h>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/sources/evdev_source.hpp"
#include "sources/evdev_decoder.hpp"
#include "sources/evdev_kind.hpp"

namespace cursorum {

/// A file descriptor that closes itself.
class Descriptor {
public:
    explicit Descriptor(int number = -1) noexcept : number_{number} {}
    Descriptor(Descriptor&& other) noexcept : number_{std::exchange(other.number_, -1)} {}
    Descriptor& operator=(Descriptor&& other) noexcept {
        std::swap(number_, other.number_);
        return *this;
    }
    ~Descriptor() {
        if (number_ >= 0) close(number_);
    }
    int get() const noexcept { return number_; }
    bool is_open() const noexcept { return number_ >= 0; }

private:
    int number_;
};

/// A state that was asked for, at its place among the events.
struct EvdevState {
    ButtonSet down;
    AxisValues axes;
    int slot = 0;  // of a touch screen: which one the next events are about
};

class EvdevNode {
public:
    struct FreeDevice {
        void operator()(libevdev* device) const noexcept { libevdev_free(device); }
    };
    using Handle = std::unique_ptr<libevdev, FreeDevice>;
    /// A device that this node is, or is a part of.
    struct Role {
        DeviceKind kind{};
        std::size_t device = no_device;  // in the source's list
        EvdevDecoder decoder;
    };
    static constexpr std::size_t no_device = SIZE_MAX;

    /// What became of opening it. A node that is neither a problem nor ignored, and has no handle, was not asked for.
    struct Report {
        std::optional<EvdevProblem> problem{};
        std::optional<EvdevIgnored> ignored{};
    };
    /// Takes milliseconds, and up to a tenth of a second.
    Report open(const std::string& path, const EvdevSourceOptions& options);

    /// Which of the roles the code belongs to.
    bool belongs(const Role& role, unsigned type, unsigned code) const;
    /// What the role adds to its device's state, as of the last event that was read.
    void add_state(Role& role, EvdevState& state);
    void add_info(const Role& role, DeviceInfo& info) const;
    /// Gives the role's decoder its ranges, once the device has an id.
    void set_up(Role& role, DeviceId id, const EvdevSourceOptions& options);

    /// Something is down, or may be pushed, so that its release could be missed.
    bool may_hold_anything() const;
    /// Before the next two can be asked: it opens the node a second time, because the kernel drops what the descriptor
    /// that asks for a state has not read yet. That one stays open: closing takes long.
    void prepare_truth();
    bool is_ready_for_truth() const noexcept { return asking_.is_open(); }
    /// Whether the device's true state is another one than that of the last event.
    bool differs_from_truth() const;
    /// Takes the true state over.
    void take_truth();
    /// Other programs do not get its events from now on. Returns false if another program has done the same.
    bool grab();

    std::string path, name, place;  // where it is plugged in: equal for all nodes of one thing
    Descriptor descriptor;
    Handle handle;
    EvdevKind what;
    std::vector<Role> roles;
    bool can_write = false, is_gone = false, is_grabbed = false;
    int rumble_effect = -1;
    std::uint64_t reads = 0;  // how many events were read
    Time heard;               // when, for the last time
    // See Parts::check_states().
    bool wants_check = false;
    std::optional<Time> suspected_since;
    std::uint64_t suspected_reads = 0;

private:
    template <typename Visit>
    bool compare_with_truth(const Visit& visit) const;

    Descriptor asking_;
};

}  // namespace cursorum
