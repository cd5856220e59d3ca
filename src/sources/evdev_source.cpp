// The kernel keeps some sixty events of each device: at 1 kHz, not as many as come in between two pictures. So a thread
// of the source's own reads them as they come, and opens and closes nodes, which takes long. It posts nothing:
// deliver() reads what is left, and posts everything in the order of its stamps, on the thread of its caller. One mutex
// guards all that both use, and is never held while a node is opened or closed.
#include "cursorum/sources/evdev_source.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/rumble.hpp"

#include <dirent.h>
#include <fcntl.h>
#include <grp.h>
#include <libevdev/libevdev.h>
#include <poll.h>
#include <sys/epoll.h>
#include <sys/eventfd.h>
#include <sys/inotify.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>

#include "cursorum/core/device_places.hpp"
#include "cursorum/core/inlet_taker.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/sources/time_asleep.hpp"
#include "sources/evdev_decoder.hpp"

namespace cursorum {
namespace {

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

struct FreeDevice {
    void operator()(libevdev* device) const noexcept { libevdev_free(device); }
};
using Handle = std::unique_ptr<libevdev, FreeDevice>;

/// The device's kind, by the codes that it has; nothing for all others, such as a lid or a power button.
std::optional<DeviceKind> kind_of(const libevdev* device) {
    if (libevdev_has_event_code(device, EV_KEY, BTN_GAMEPAD)) return DeviceKind::gamepad;
    if (libevdev_has_event_code(device, EV_REL, REL_X) && libevdev_has_event_code(device, EV_KEY, BTN_LEFT))
        return DeviceKind::mouse;
    unsigned letters = 0;
    for (unsigned code = KEY_Q; code <= KEY_P; ++code) letters += libevdev_has_event_code(device, EV_KEY, code) != 0;
    if (letters == 10) return DeviceKind::keyboard;
    return std::nullopt;
}

std::string text_or_empty(const char* text) { return text ? text : ""; }

/// A state that was asked for when the kernel's buffer had overflowed, at its place among the events.
struct Snapshot {
    ButtonSet down;
    AxisValues axes;
};

constexpr std::uint16_t snapshot_type = 0xFFFF;  // no type of the kernel's

}  // namespace

struct EvdevSource::Parts {
    struct Device {
        std::string node;
        Descriptor descriptor;
        Handle handle;
        DeviceKind kind{};
        DeviceId id{};
        EvdevDecoder decoder;
        bool can_write = false, is_announced = false, is_gone = false;
        int rumble_effect = -1;
    };
    struct Item {
        KernelEvent event;
        std::uint32_t order = 0;
        std::size_t device = 0;
    };

    EvdevSourceOptions options;
    DevicePlaces places{DeviceId{0}};
    std::mutex mutex;            // of everything below that is not marked as the caller's or the reader's
    Descriptor poller;           // readable when the kernel has something
    Descriptor watcher, waker;   // the folder; the reader has something to do
    Descriptor arrived, either;  // the reader has read something; that, or the poller
    std::jthread reader;
    struct Closing {
        Handle handle;
        Descriptor descriptor;
    };
    std::vector<Closing> closing;  // by the reader
    std::vector<std::unique_ptr<Device>> devices;
    std::vector<EvdevProblem> problems, shown_problems;  // the caller's, as of the last deliver()
    std::vector<Item> items;                             // read and not yet posted; keeps its room
    std::vector<Snapshot> snapshots;
    std::vector<std::string> changed_nodes;
    std::uint64_t overflows = 0;
    Time last_stamp = earliest_time;
    StandstillWatch watch{Duration::max()};  // for the machine's sleep alone
    SourceDevices in_inlet;                  // see deliver_into()
    std::uint64_t halts = 0;                 // focus losses and interruptions of the inlet, when states were posted
    bool states_wanted = false;

    // ---- opening

    std::string try_open() {
        places = DevicePlaces{DeviceId{options.first_device}};
        poller = Descriptor{epoll_create1(EPOLL_CLOEXEC)};
        either = Descriptor{epoll_create1(EPOLL_CLOEXEC)};
        waker = Descriptor{eventfd(0, EFD_CLOEXEC | EFD_NONBLOCK)};
        arrived = Descriptor{eventfd(0, EFD_CLOEXEC | EFD_NONBLOCK)};
        watch_descriptor(waker.get());
        for (const int descriptor : {poller.get(), arrived.get()}) {
            epoll_event event{};
            event.events = EPOLLIN;
            event.data.fd = descriptor;
            epoll_ctl(either.get(), EPOLL_CTL_ADD, descriptor, &event);
        }
        items.reserve(4096);
        if (!options.nodes.empty()) {
            for (const std::string& node : options.nodes) {
                open_node(node);
                if (!problems.empty()) {
                    const EvdevProblem& problem = problems.front();
                    return node + ": " + problem.why + (problem.hint.empty() ? "" : "; " + problem.hint);
                }
            }
        }
        watcher = Descriptor{inotify_init1(IN_CLOEXEC | IN_NONBLOCK)};
        const std::string& directory = options.directory;
        const auto folder_of = [](const std::string& node) { return node.substr(0, node.rfind('/')); };
        const std::string watched = options.nodes.empty() ? directory : folder_of(options.nodes.front());
        if (inotify_add_watch(watcher.get(), watched.c_str(), IN_CREATE | IN_ATTRIB | IN_DELETE) >= 0)
            watch_descriptor(watcher.get());
        if (!options.nodes.empty()) return {};
        DIR* const folder = opendir(directory.c_str());
        if (!folder) return directory + ": " + std::strerror(errno) + "; this machine shows no event devices";
        std::vector<std::string> found;
        while (const dirent* entry = readdir(folder))
            if (std::string_view{entry->d_name}.starts_with("event"))
                found.emplace_back(directory + "/" + entry->d_name);
        closedir(folder);
        const auto number = [&](const std::string& node) { return std::atoi(node.c_str() + directory.size() + 6); };
        std::sort(found.begin(), found.end(),
                  [&](const std::string& a, const std::string& b) { return number(a) < number(b); });
        for (const std::string& node : found) open_node(node);
        return {};
    }

    void watch_descriptor(int descriptor) {
        epoll_event event{};
        event.events = EPOLLIN;
        event.data.fd = descriptor;
        epoll_ctl(poller.get(), EPOLL_CTL_ADD, descriptor, &event);
    }

    bool is_wanted(const std::string& node) const {
        if (!options.nodes.empty())
            return std::find(options.nodes.begin(), options.nodes.end(), node) != options.nodes.end();
        return node.starts_with(options.directory + "/event");
    }

    EvdevProblem problem_of(const std::string& node, int error) const {
        EvdevProblem problem{node, std::strerror(error), {}};
        if (error == EACCES || error == EPERM) {
            struct stat status {};
            const group* owner = stat(node.c_str(), &status) == 0 ? getgrgid(status.st_gid) : nullptr;
            problem.hint = owner && (status.st_mode & S_IRGRP) != 0
                               ? "members of the group " + text_or_empty(owner->gr_name) +
                                     " may read it: sudo usermod -aG " + text_or_empty(owner->gr_name) +
                                     " $USER, then log in again"
                               : std::string{"only the superuser may read it"};
        } else if (error == ENOENT) {
            problem.hint = "list what there is with: ls " + options.directory + "/event*";
        } else if (error == ENOTTY || error == EINVAL) {
            problem.why = "this is not an event device";
        }
        return problem;
    }

    void open_node(const std::string& node) {
        {
            const std::lock_guard lock{mutex};
            std::erase_if(problems, [&](const EvdevProblem& problem) { return problem.node == node; });
            if (std::any_of(devices.begin(), devices.end(),
                            [&](const auto& device) { return device->node == node && !device->is_gone; }))
                return;
        }
        // Takes milliseconds, and up to a tenth of a second: nobody waits for it.
        auto device = std::make_unique<Device>();
        const std::optional<EvdevProblem> problem = open_device(*device, node);
        const std::lock_guard lock{mutex};
        if (problem) problems.push_back(*problem);
        if (!device->handle) return;
        watch_descriptor(device->descriptor.get());
        // Devices keep their numbers in the list, because events that were read may still refer to them.
        const auto free_place = std::find_if(devices.begin(), devices.end(),
                                             [](const auto& old) { return old->is_gone && !old->is_announced; });
        if (free_place != devices.end() && items.empty())
            *free_place = std::move(device);
        else
            devices.push_back(std::move(device));
    }

    /// Leaves the device without a handle if it is not wanted.
    std::optional<EvdevProblem> open_device(Device& device, const std::string& node) const {
        device.node = node;
        device.descriptor = Descriptor{::open(node.c_str(), O_RDWR | O_NONBLOCK | O_CLOEXEC)};
        device.can_write = device.descriptor.is_open();
        if (!device.can_write) device.descriptor = Descriptor{::open(node.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC)};
        // A device that was unplugged again before it could be opened is not reported as a problem.
        if (!device.descriptor.is_open() && options.nodes.empty() && (errno == ENOENT || errno == ENODEV))
            return std::nullopt;
        if (!device.descriptor.is_open()) return problem_of(node, errno);
        libevdev* made = nullptr;
        if (const int error = libevdev_new_from_fd(device.descriptor.get(), &made); error < 0)
            return problem_of(node, -error);
        Handle handle{made};
        // At once: later it would drop what is pending.
        libevdev_set_clock_id(made, CLOCK_MONOTONIC);
        const auto kind = kind_of(made);
        if (!kind && options.nodes.empty()) return std::nullopt;
        device.kind = kind.value_or(DeviceKind::keyboard);
        const bool is_asked_for = !options.nodes.empty() || (device.kind == DeviceKind::keyboard ? options.keyboards
                                                             : device.kind == DeviceKind::mouse  ? options.mice
                                                                                                 : options.gamepads);
        if (!is_asked_for) return std::nullopt;
        device.handle = std::move(handle);
        if (options.grab && libevdev_grab(made, LIBEVDEV_GRAB) < 0)
            return EvdevProblem{node, "another program has grabbed it", "close that program"};
        return std::nullopt;
    }

    // ---- devices

    DeviceInfo info_of(const Device& device, const std::string& name) const {
        DeviceInfo info{.kind = device.kind, .name = name, .background = options.background};
        libevdev* const handle = device.handle.get();
        info.vendor = static_cast<std::uint16_t>(libevdev_get_id_vendor(handle));
        info.product = static_cast<std::uint16_t>(libevdev_get_id_product(handle));
        info.marks_repeats = device.kind == DeviceKind::keyboard;
        for (unsigned code = 0; code <= KEY_MAX; ++code)
            if (libevdev_has_event_code(handle, EV_KEY, code)) info.buttons.insert(button_of_linux_code(code));
        info.buttons.erase({});
        if (device.kind != DeviceKind::gamepad) return info;
        using namespace controls;
        if (libevdev_has_event_code(handle, EV_ABS, ABS_HAT0X))
            for (const Button button : {PadHatUp, PadHatDown, PadHatLeft, PadHatRight}) info.buttons.insert(button);
        AxisValues axes;
        ButtonSet none;
        EvdevDecoder decoder{device.id, device.kind};
        for (std::uint16_t code = ABS_X; code <= ABS_MAX; ++code)
            if (libevdev_has_event_code(handle, EV_ABS, code)) decoder.add_to_state(EV_ABS, code, 0, none, axes);
        info.axes = axes.present;
        return info;
    }

    Snapshot state_of(Device& device) {
        Snapshot snapshot;
        libevdev* const handle = device.handle.get();
        for (std::uint16_t code = 0; code <= KEY_MAX; ++code)
            if (libevdev_has_event_code(handle, EV_KEY, code))
                device.decoder.add_to_state(EV_KEY, code, libevdev_get_event_value(handle, EV_KEY, code), snapshot.down,
                                            snapshot.axes);
        for (std::uint16_t code = 0; code <= ABS_MAX; ++code)
            if (libevdev_has_event_code(handle, EV_ABS, code))
                device.decoder.add_to_state(EV_ABS, code, libevdev_get_event_value(handle, EV_ABS, code), snapshot.down,
                                            snapshot.axes);
        return snapshot;
    }

    static void post_state(const Device& device, const Snapshot& snapshot, Time stamp, bool adopt, EventTaker& taker) {
        Event state = Event::state(stamp, device.id, snapshot.down, adopt);
        state.axes = snapshot.axes;
        taker.take(state);
    }

    void announce(Device& device, Time stamp, EventTaker& taker) {
        device.is_announced = true;
        libevdev* const handle = device.handle.get();
        const std::string name = text_or_empty(libevdev_get_name(handle));
        const std::string unique = text_or_empty(libevdev_get_uniq(handle));
        DeviceInfo info = info_of(device, name);
        const auto id = places.came(info, unique.empty() ? text_or_empty(libevdev_get_phys(handle)) : unique, stamp);
        if (!id) {
            device.is_gone = true;
            device.is_announced = false;
            problems.push_back({device.node, "no room for another device", {}});
            return;
        }
        device.id = *id;
        device.decoder = EvdevDecoder{device.id, device.kind};
        for (std::uint16_t code = ABS_X; code <= ABS_MAX; ++code)
            if (const input_absinfo* range = libevdev_get_abs_info(handle, code))
                device.decoder.set_range(code, {range->minimum, range->maximum});
        device.decoder.set_fine_wheel(libevdev_has_event_code(handle, EV_REL, REL_WHEEL_HI_RES) != 0,
                                      libevdev_has_event_code(handle, EV_REL, REL_HWHEEL_HI_RES) != 0);
        taker.take(Event::connect(stamp, device.id, info));
        post_state(device, state_of(device), stamp, false, taker);
        if (device.kind != DeviceKind::keyboard) return;
        for (const std::uint16_t lamp : {std::uint16_t{LED_NUML}, std::uint16_t{LED_CAPSL}, std::uint16_t{LED_SCROLLL}})
            if (libevdev_has_event_code(handle, EV_LED, lamp))
                device.decoder.take({nanoseconds(stamp), EV_LED, lamp, libevdev_get_event_value(handle, EV_LED, lamp)},
                                    taker);
        device.decoder.take({nanoseconds(stamp), EV_SYN, SYN_REPORT, 0}, taker);
    }

    void lose(Device& device, Time stamp, EventTaker& taker) {
        device.is_gone = true;
        if (std::exchange(device.is_announced, false)) {
            places.went(device.id, stamp);
            taker.take(Event::disconnect(stamp, device.id));
        }
        closing.push_back({std::move(device.handle), std::exchange(device.descriptor, Descriptor{})});
        signal(waker);
    }

    static void signal(const Descriptor& event) {
        const std::uint64_t one = 1;
        (void)!write(event.get(), &one, sizeof one);
    }
    static void clear(const Descriptor& event) {
        std::uint64_t count = 0;
        (void)!::read(event.get(), &count, sizeof count);
    }

    // ---- reading

    void read(std::size_t index) {
        Device& device = *devices[index];
        unsigned flag = LIBEVDEV_READ_FLAG_NORMAL;
        for (;;) {
            input_event read{};
            const int status = libevdev_next_event(device.handle.get(), flag, &read);
            if (status == -EAGAIN && flag == LIBEVDEV_READ_FLAG_SYNC) {
                // libevdev has asked for the true state; what was read before it comes first.
                flag = LIBEVDEV_READ_FLAG_NORMAL;
                add({nanoseconds(Clock::now()), snapshot_type, 0, static_cast<std::int32_t>(snapshots.size())}, index);
                snapshots.push_back(state_of(device));
                continue;
            }
            if (status == LIBEVDEV_READ_STATUS_SYNC) {
                if (flag == LIBEVDEV_READ_FLAG_NORMAL) ++overflows;
                flag = LIBEVDEV_READ_FLAG_SYNC;
                continue;
            }
            if (status != LIBEVDEV_READ_STATUS_SUCCESS) {
                if (status == -EAGAIN) return;
                // It would stay readable until it is closed.
                epoll_ctl(poller.get(), EPOLL_CTL_DEL, device.descriptor.get(), nullptr);
                device.is_gone = true;
                return;
            }
            add({read.input_event_sec * 1'000'000'000LL + read.input_event_usec * 1'000LL, read.type, read.code,
                 read.value},
                index);
        }
    }

    void read_all() {
        for (std::size_t i = 0; i < devices.size(); ++i)
            if (!devices[i]->is_gone && devices[i]->handle) read(i);
    }

    /// The reader's thread, which has nothing to do as long as nothing comes.
    void read_until(const std::stop_token& stop) {
        // Some twenty reports at 1 kHz, of which the kernel keeps more.
        constexpr int pause = 4;  // milliseconds
        constexpr std::size_t most =
            1 << 16;  // what a program that stands still finds afterwards; then the kernel drops
        std::vector<Closing> closed;
        std::vector<std::string> nodes;
        while (!stop.stop_requested()) {
            pollfd waiting{poller.get(), POLLIN, 0};
            poll(&waiting, 1, -1);
            clear(waker);
            {
                const std::lock_guard lock{mutex};
                closed.swap(closing);
                const std::size_t before = items.size();
                if (before < most) read_all();
                look_for_changes();
                nodes.swap(changed_nodes);
                const bool is_lost = std::any_of(devices.begin(), devices.end(),
                                                 [](const auto& device) { return device->is_gone && device->handle; });
                if (items.size() != before || is_lost) signal(arrived);
            }
            closed.clear();
            for (const std::string& node : nodes) open_node(node);
            if (!nodes.empty()) signal(arrived);
            nodes.clear();
            pollfd stopping{waker.get(), POLLIN, 0};
            poll(&stopping, 1, pause);
        }
    }

    void add(const KernelEvent& event, std::size_t device) {
        items.push_back({event, static_cast<std::uint32_t>(items.size()), device});
    }

    void look_for_changes() {
        alignas(inotify_event) char buffer[4096];
        for (;;) {
            const ssize_t size = ::read(watcher.get(), buffer, sizeof buffer);
            if (size <= 0) return;
            for (ssize_t at = 0; at < size;) {
                const auto& event = reinterpret_cast<const inotify_event&>(buffer[at]);
                at += static_cast<ssize_t>(sizeof event + event.len);
                if (event.len == 0) continue;
                const std::string folder = options.nodes.empty()
                                               ? options.directory
                                               : options.nodes.front().substr(0, options.nodes.front().rfind('/'));
                const std::string node = folder + "/" + event.name;
                if (!is_wanted(node)) continue;
                if ((event.mask & IN_DELETE) != 0)
                    std::erase_if(problems, [&](const EvdevProblem& problem) { return problem.node == node; });
                else
                    changed_nodes.push_back(node);  // after what is left of a device that had its name
            }
        }
    }

    Time stamp_of(std::int64_t kernel_time) {
        last_stamp = std::max(last_stamp, nanoseconds_since_zero(kernel_time));
        return last_stamp;
    }

    Time deliver(EventTaker& taker) {
        const std::lock_guard lock{mutex};
        clear(arrived);
        const Time now = Clock::now();
        if (const auto slept_since = watch.look(now, time_asleep())) {
            Event interruption = Event::interrupt(stamp_of(nanoseconds(*slept_since)));
            interruption.text = "sleep";
            taker.take(interruption);
            states_wanted = true;
        }
        for (auto& device : devices)
            if (!device->is_gone && device->handle && !device->is_announced)
                announce(*device, stamp_of(nanoseconds(now)), taker);
        read_all();
        // Of several devices, in the order of their stamps: all that was stamped until now has been read.
        std::sort(items.begin(), items.end(), [](const Item& a, const Item& b) {
            return a.event.time != b.event.time ? a.event.time < b.event.time : a.order < b.order;
        });
        for (const Item& item : items) {
            Device& device = *devices[item.device];
            if (!device.is_announced) continue;
            KernelEvent event = item.event;
            event.time = nanoseconds(stamp_of(event.time));
            if (event.type == snapshot_type) {
                device.decoder.overflow();
                post_state(device, snapshots[static_cast<std::size_t>(event.value)], nanoseconds_since_zero(event.time),
                           true, taker);
            } else {
                device.decoder.take(event, taker);
            }
        }
        items.clear();
        snapshots.clear();
        if (std::exchange(states_wanted, false))
            for (auto& device : devices)
                if (device->is_announced && !device->is_gone)
                    post_state(*device, state_of(*device), stamp_of(nanoseconds(now)), true, taker);
        for (auto& device : devices)
            if (device->is_gone && device->handle)
                lose(*device, stamp_of(nanoseconds(std::max(now, last_stamp))), taker);
        shown_problems = problems;
        return std::max(now, last_stamp);
    }

    // ---- rumble

    bool rumble(const RumbleRequest& request) {
        const std::lock_guard lock{mutex};
        for (auto& owned : devices) {
            Device& device = *owned;
            if (device.id != request.device || device.is_gone || !device.can_write) continue;
            if (!libevdev_has_event_code(device.handle.get(), EV_FF, FF_RUMBLE)) return false;
            ff_effect effect{};
            effect.type = FF_RUMBLE;
            effect.id = static_cast<std::int16_t>(device.rumble_effect);
            effect.u.rumble.strong_magnitude = static_cast<std::uint16_t>(std::lround(request.strong * 65535));
            effect.u.rumble.weak_magnitude = static_cast<std::uint16_t>(std::lround(request.weak * 65535));
            effect.replay.length =
                static_cast<std::uint16_t>(std::clamp<std::int64_t>(request.length.count() / 1'000'000, 0, 65535));
            if (!request.stops() && ioctl(device.descriptor.get(), EVIOCSFF, &effect) < 0) return false;
            if (!request.stops()) device.rumble_effect = effect.id;
            if (device.rumble_effect < 0) return true;  // nothing to stop
            input_event play{};
            play.type = EV_FF;
            play.code = static_cast<std::uint16_t>(device.rumble_effect);
            play.value = request.stops() ? 0 : 1;
            return write(device.descriptor.get(), &play, sizeof play) == sizeof play;
        }
        return false;
    }
};

EvdevSource::EvdevSource(std::unique_ptr<Parts> parts) : parts_{std::move(parts)} {}
EvdevSource::~EvdevSource() {
    parts_->reader.request_stop();
    Parts::signal(parts_->waker);
    if (parts_->reader.joinable()) parts_->reader.join();
}

std::unique_ptr<EvdevSource> EvdevSource::open(const EvdevSourceOptions& options, std::string& error) {
    auto parts = std::make_unique<Parts>();
    parts->options = options;
    error = parts->try_open();
    if (!error.empty()) return nullptr;
    parts->shown_problems = parts->problems;
    parts->reader = std::jthread{[own = parts.get()](const std::stop_token& stop) { own->read_until(stop); }};
    return std::unique_ptr<EvdevSource>{new EvdevSource{std::move(parts)}};
}

Time EvdevSource::deliver(Timeline& timeline) { return deliver(timeline.desk()); }

Time EvdevSource::deliver(Inlet& inlet) {
    // What is down while focus is lost, or after an interruption, is not what the inlet knows.
    const InletCounters counters = inlet.counters();
    const std::uint64_t halts = counters.focus_losses + counters.interruptions;
    if (inlet.has_focus() && halts != parts_->halts) {
        parts_->halts = halts;
        parts_->states_wanted = true;
    }
    return deliver_into(inlet, *this, parts_->in_inlet);
}

Time EvdevSource::deliver(Inlet& inlet, const Inlet& window) {
    if (window.has_focus() && !inlet.has_focus()) inlet.gain_focus(unknown_state);
    if (!window.has_focus() && inlet.has_focus()) inlet.lose_focus();
    return deliver(inlet);
}

Time EvdevSource::deliver(EventTaker& taker) { return parts_->deliver(taker); }

bool EvdevSource::try_rumble(const RumbleRequest& request, Time) {
    RumbleRequest own = request;
    own.device = parts_->in_inlet.of_source(request.device);
    return parts_->rumble(own);
}

int EvdevSource::file_descriptor() const noexcept { return parts_->either.get(); }

std::size_t EvdevSource::device_count() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    return static_cast<std::size_t>(std::count_if(parts_->devices.begin(), parts_->devices.end(),
                                                  [](const auto& device) { return !device->is_gone; }));
}

const std::vector<EvdevProblem>& EvdevSource::problems() const noexcept { return parts_->shown_problems; }
UnnamedPresses EvdevSource::unnamed() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    UnnamedPresses all;
    for (const auto& device : parts_->devices) {
        const UnnamedPresses& its = device->decoder.unnamed();
        if (all.presses == 0) all.first_code = its.first_code;
        all.presses += its.presses;
    }
    return all;
}
std::uint64_t EvdevSource::overflows() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    return parts_->overflows;
}

}  // namespace cursorum
