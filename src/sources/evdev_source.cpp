// The kernel keeps some sixty events of each device: at 1 kHz, not as many as come in between two pictures. So a thread
// of the source's own reads them as they come, and opens and closes nodes, which takes long. It posts nothing:
// deliver() reads what is left, and posts everything in the order of its stamps, on the thread of its caller. One mutex
// guards all that both use, and is never held while a node is opened or closed.
//
// What a node of the kernel is and what a person calls a device differ: a keyboard has a node for its media keys, and a
// node may be a keyboard and a mouse. So nodes have roles, each in one device, and devices have nodes.
#include "cursorum/sources/evdev_source.hpp"

#include <dirent.h>
#include <fcntl.h>
#include <libevdev/libevdev.h>
#include <linux/input.h>
#include <poll.h>
#include <sys/epoll.h>
#include <sys/eventfd.h>
#include <sys/inotify.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <cstring>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>

#include "cursorum/core/device_ids.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/inlet_sink.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/sources/time_asleep.hpp"
#include "sources/evdev_decoder.hpp"
#include "sources/evdev_node.hpp"

namespace cursorum {
namespace {

constexpr std::uint16_t state_type = 0xFFFF;  // not a type of the kernel: the item is one of `states`
constexpr std::chrono::seconds check_interval{1};

std::string text_or_empty(const char* text) { return text ? text : ""; }

}  // namespace

struct EvdevSource::Parts {
    /// As it is announced: with an id.
    struct Device {
        DeviceKind kind{};
        DeviceId id{};
        std::string name, place;
        std::vector<std::size_t> nodes;  // none: the place in the list is free
        bool is_announced = false, is_refused = false, is_small = false;
    };
    struct Item {
        KernelEvent event;
        std::uint32_t order = 0;
        std::size_t node = 0;
    };

    EvdevSourceOptions options;
    DeviceIds places{DeviceId{0}};
    std::mutex mutex;            // guards everything below that is not marked as the caller's or the reader's
    Descriptor poller;           // readable when the kernel has something
    Descriptor watcher, waker;   // the folder; the reader has something to do
    Descriptor arrived, either;  // the reader has read something; that, or the poller
    std::jthread reader;
    std::vector<std::unique_ptr<EvdevNode>> closing;  // by the reader
    std::vector<std::unique_ptr<EvdevNode>> nodes;    // null: the place is free
    std::vector<Device> devices;
    std::vector<EvdevProblem> problems, shown_problems;  // the caller's, as of the last deliver()
    std::vector<EvdevIgnored> ignored, shown_ignored;    // likewise
    bool news_of_nodes = true;                           // the two lists changed
    std::vector<Item> items;                             // read and not yet posted; keeps its capacity
    std::vector<EvdevState> states;
    std::vector<std::string> changed_paths;
    std::uint64_t overflows = 0, unread_devices = 0;
    UnnamedPresses unnamed;  // of nodes that are gone
    Time last_stamp = earliest_time;
    StandstillWatch watch{Duration::max()};  // only for the machine's sleep
    SourceDevices in_inlet;                  // see deliver_into()
    std::uint64_t halts = 0;                 // focus losses and interruptions of the inlet, when states were posted
    bool states_wanted = false;

    // ---- opening

    std::string try_open() {
        places = DeviceIds{DeviceId{options.first_device}};
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
        for (const std::string& path : options.nodes) {
            open_node(path);
            const bool is_open =
                std::any_of(nodes.begin(), nodes.end(), [&](const auto& node) { return node && node->path == path; });
            if (is_open || problems.empty()) continue;  // a grab is tried again
            const EvdevProblem& problem = problems.back();
            return path + ": " + problem.why + (problem.hint.empty() ? "" : "; " + problem.hint);
        }
        watcher = Descriptor{inotify_init1(IN_CLOEXEC | IN_NONBLOCK)};
        if (inotify_add_watch(watcher.get(), folder().c_str(), IN_CREATE | IN_ATTRIB | IN_DELETE) >= 0)
            watch_descriptor(watcher.get());
        if (!options.nodes.empty()) return {};
        const auto found = all_paths();
        if (!found) return options.directory + ": " + std::strerror(errno) + "; this machine shows no event devices";
        for (const std::string& path : *found) open_node(path);
        return {};
    }

    std::string folder() const {
        if (options.nodes.empty()) return options.directory;
        const std::string& first = options.nodes.front();
        return first.substr(0, first.rfind('/'));
    }

    /// The nodes of the folder, sorted by number; nothing if the folder does not exist.
    std::optional<std::vector<std::string>> all_paths() const {
        DIR* const folder = opendir(options.directory.c_str());
        if (!folder) return std::nullopt;
        std::vector<std::string> found;
        while (const dirent* entry = readdir(folder))
            if (std::string_view{entry->d_name}.starts_with("event"))
                found.emplace_back(options.directory + "/" + entry->d_name);
        closedir(folder);
        const auto number = [&](const std::string& path) {
            return std::atoi(path.c_str() + options.directory.size() + 6);
        };
        std::sort(found.begin(), found.end(),
                  [&](const std::string& a, const std::string& b) { return number(a) < number(b); });
        return found;
    }

    void watch_descriptor(int descriptor) {
        epoll_event event{};
        event.events = EPOLLIN;
        event.data.fd = descriptor;
        epoll_ctl(poller.get(), EPOLL_CTL_ADD, descriptor, &event);
    }

    bool is_wanted(const std::string& path) const {
        if (!options.nodes.empty())
            return std::find(options.nodes.begin(), options.nodes.end(), path) != options.nodes.end();
        return path.starts_with(options.directory + "/event");
    }

    /// Removes the node from both lists.
    void forget_reports(const std::string& path) {
        std::erase_if(problems, [&](const EvdevProblem& problem) { return problem.node == path; });
        std::erase_if(ignored, [&](const EvdevIgnored& one) { return one.node == path; });
        news_of_nodes = true;
    }

    void open_node(const std::string& path) {
        {
            const std::lock_guard lock{mutex};
            if (std::any_of(nodes.begin(), nodes.end(),
                            [&](const auto& node) { return node && node->path == path && !node->is_gone; }))
                return;
        }
        // Takes up to a tenth of a second, but no thread waits for it.
        auto node = std::make_unique<EvdevNode>();
        const EvdevNode::Report report = node->open(path, options);
        const std::lock_guard lock{mutex};
        forget_reports(path);
        if (report.problem) problems.push_back(*report.problem);
        if (report.ignored) ignored.push_back(*report.ignored);
        if (!node->handle) return;
        watch_descriptor(node->descriptor.get());
        // Nodes keep their numbers, because events that were read refer to them.
        auto at = items.empty() ? std::find(nodes.begin(), nodes.end(), nullptr) : nodes.end();
        if (at == nodes.end()) at = nodes.insert(at, nullptr);
        *at = std::move(node);
        for (EvdevNode::Role& role : (*at)->roles) join(role, **at, static_cast<std::size_t>(at - nodes.begin()));
    }

    /// Gives the role a device: that of the other nodes of the same keyboard, or one of its own.
    void join(EvdevNode::Role& role, EvdevNode& node, std::size_t number) {
        const bool may_share = role.kind == DeviceKind::keyboard && !node.place.empty();
        const auto same = std::find_if(devices.begin(), devices.end(), [&](const Device& device) {
            return may_share && !device.nodes.empty() && device.kind == role.kind && device.place == node.place;
        });
        auto at = same;
        if (same == devices.end()) {
            at =
                std::find_if(devices.begin(), devices.end(), [](const Device& device) { return device.nodes.empty(); });
            if (at == devices.end()) at = devices.insert(at, Device{});
            *at = Device{.kind = role.kind, .name = node.name, .place = node.place, .nodes = {}};
            at->is_small = node.what.is_small_keyboard;
        } else if (!node.what.is_small_keyboard && !at->is_announced) {
            at->is_small = false;
            at->name = node.name;
        }
        role.device = static_cast<std::size_t>(at - devices.begin());
        at->nodes.push_back(number);
        if (at->is_announced) {
            node.set_up(role, at->id, options);
            states_wanted = true;  // to learn what is down on the new node
        }
    }

    // ---- devices

    template <typename Visit>
    void for_each_role(Device& device, const Visit& visit) {
        for (const std::size_t number : device.nodes)
            for (EvdevNode::Role& role : nodes[number]->roles)
                if (&devices[role.device] == &device) visit(*nodes[number], role);
    }

    EvdevState state_of(Device& device) {
        EvdevState state;
        for_each_role(device, [&](EvdevNode& node, EvdevNode::Role& role) {
            if (!node.is_gone) node.add_state(role, state);
        });
        return state;
    }

    static void post_state(const Device& device, const EvdevState& its, Time stamp, bool adopt, EventSink& sink) {
        Event state = Event::state(stamp, device.id, its.down, adopt);
        state.axes = its.axes;
        sink.take(state);
    }

    void announce(Device& device, Time stamp, EventSink& sink) {
        DeviceInfo info{.kind = device.kind, .name = device.name, .background = options.background};
        info.marks_repeats = device.kind == DeviceKind::keyboard;
        info.first_contact_points = device.kind == DeviceKind::touch && options.first_contact_points;
        libevdev* const first = nodes[device.nodes.front()]->handle.get();
        info.vendor = static_cast<std::uint16_t>(libevdev_get_id_vendor(first));
        info.product = static_cast<std::uint16_t>(libevdev_get_id_product(first));
        for_each_role(device, [&](EvdevNode& node, EvdevNode::Role& role) { node.add_info(role, info); });
        const std::string unique = text_or_empty(libevdev_get_uniq(first));
        const auto id = places.connect(info, unique.empty() ? text_or_empty(libevdev_get_phys(first)) : unique, stamp);
        if (!id) return refuse(device);
        device.id = *id;
        device.is_announced = true;
        forget_refusal(device);
        for_each_role(device, [&](EvdevNode& node, EvdevNode::Role& role) { node.set_up(role, *id, options); });
        sink.take(Event::connect(stamp, device.id, info));
        post_state(device, state_of(device), stamp, false, sink);
        for_each_role(device, [&](EvdevNode& node, EvdevNode::Role& role) {
            if (role.kind == DeviceKind::keyboard) post_lamps(node, role, stamp, sink);
        });
    }

    static void post_lamps(EvdevNode& node, EvdevNode::Role& role, Time stamp, EventSink& sink) {
        libevdev* const handle = node.handle.get();
        for (const std::uint16_t lamp : {std::uint16_t{LED_NUML}, std::uint16_t{LED_CAPSL}, std::uint16_t{LED_SCROLLL}})
            if (libevdev_has_event_code(handle, EV_LED, lamp))
                role.decoder.take({nanoseconds(stamp), EV_LED, lamp, libevdev_get_event_value(handle, EV_LED, lamp)},
                                  sink);
        role.decoder.take({nanoseconds(stamp), EV_SYN, SYN_REPORT, 0}, sink);
    }

    static constexpr const char* no_room = "the timeline has room for no more devices";

    /// The device waits until another one is unplugged.
    void refuse(Device& device) {
        forget_refusal(device);
        device.is_announced = false;
        device.is_refused = true;
        const std::string& path = nodes[device.nodes.front()]->path;
        problems.push_back({path, no_room, "make TimelineOptions::devices larger"});
    }

    void forget_refusal(const Device& device) {
        const std::string& path = nodes[device.nodes.front()]->path;
        news_of_nodes = true;
        std::erase_if(problems, [&](const EvdevProblem& one) { return one.node == path && one.why == no_room; });
    }

    void lose(std::size_t number, Time stamp, EventSink& sink) {
        EvdevNode& node = *nodes[number];
        for (EvdevNode::Role& role : node.roles) {
            Device& device = devices[role.device];
            std::erase(device.nodes, number);
            const UnnamedPresses& its = role.decoder.unnamed();
            if (unnamed.presses == 0) unnamed.first_code = its.first_code;
            unnamed.presses += its.presses;
            if (!device.is_announced) continue;
            if (!device.nodes.empty()) {
                post_state(device, state_of(device), stamp, true, sink);
                continue;
            }
            device.is_announced = false;
            places.disconnect(device.id, stamp);
            sink.take(Event::disconnect(stamp, device.id));
            for (Device& other : devices) other.is_refused = false;
        }
        forget_reports(node.path);
        closing.push_back(std::move(nodes[number]));
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

    void read(std::size_t number, Time now) {
        EvdevNode& node = *nodes[number];
        unsigned flag = LIBEVDEV_READ_FLAG_NORMAL;
        bool is_first = true;
        for (;;) {
            input_event read{};
            const int status = libevdev_next_event(node.handle.get(), flag, &read);
            if (status == -EAGAIN && flag == LIBEVDEV_READ_FLAG_SYNC) {
                // libevdev has asked for the true state; events read before it come first.
                flag = LIBEVDEV_READ_FLAG_NORMAL;
                add_states(number);
                continue;
            }
            if (status == LIBEVDEV_READ_STATUS_SYNC) {
                if (flag == LIBEVDEV_READ_FLAG_NORMAL) ++overflows;
                flag = LIBEVDEV_READ_FLAG_SYNC;
                continue;
            }
            if (status != LIBEVDEV_READ_STATUS_SUCCESS) {
                if (status == -EAGAIN) return;
                // The descriptor would stay readable until it is closed.
                epoll_ctl(poller.get(), EPOLL_CTL_DEL, node.descriptor.get(), nullptr);
                node.is_gone = true;
                return;
            }
            if (is_first) node.wants_check = node.wants_check || now - node.heard > check_interval;
            if (std::exchange(is_first, false)) node.heard = now;
            ++node.reads;
            add({read.input_event_sec * 1'000'000'000LL + read.input_event_usec * 1'000LL, read.type, read.code,
                 read.value},
                number);
        }
    }

    void add(const KernelEvent& event, std::size_t node) {
        items.push_back({event, static_cast<std::uint32_t>(items.size()), node});
    }

    /// The true states of the node's devices, at their place among the events.
    void add_states(std::size_t number) {
        for (std::size_t i = 0; i < nodes[number]->roles.size(); ++i) {
            add({nanoseconds(Clock::now()), state_type, static_cast<std::uint16_t>(i),
                 static_cast<std::int32_t>(states.size())},
                number);
            states.push_back(state_of(devices[nodes[number]->roles[i].device]));
        }
    }

    void read_all() {
        const Time now = Clock::now();
        for (std::size_t i = 0; i < nodes.size(); ++i)
            if (nodes[i] && !nodes[i]->is_gone) read(i, now);
    }

    // ---- the reader's thread, which is idle while no events come and nothing is held

    /// Another program may grab a device for a while, and get the releases of what is held. The kernel does not tell.
    /// So each second, and when something comes after a silence, the true states are compared with what was read. A
    /// difference counts if it is still there a moment later and nothing was read in between: the kernel shows a state
    /// a little before it delivers it. Returns the nodes that must be made ready for it, which takes no lock.
    std::vector<EvdevNode*> check_states(bool is_due, Time now) {
        constexpr std::chrono::milliseconds moment{20};
        std::vector<EvdevNode*> unready;
        for (std::size_t i = 0; i < nodes.size(); ++i) {
            EvdevNode* const node = nodes[i].get();
            if (!node || node->is_gone) continue;
            if (is_due && options.grab && !node->is_grabbed && node->grab()) forget_reports(node->path);
            if (node->suspected_since && now - *node->suspected_since < moment) continue;
            const bool is_suspected = std::exchange(node->suspected_since, std::nullopt).has_value();
            if (!is_suspected && !std::exchange(node->wants_check, false) && !(is_due && node->may_hold_anything()))
                continue;
            if (!node->is_ready_for_truth()) {
                unready.push_back(node);
            } else if (node->differs_from_truth()) {
                if (is_suspected && node->reads == node->suspected_reads) {
                    node->take_truth();
                    add_states(i);
                } else {
                    node->suspected_since = now;
                    node->suspected_reads = node->reads;
                }
            }
        }
        return unready;
    }

    /// How long the reader may sleep, in milliseconds; -1 for as long as nothing comes.
    int longest_sleep(Time now, Time next_check, bool has_read) const {
        bool holds = has_read;
        for (const auto& node : nodes) {
            if (!node || node->is_gone) continue;
            if (node->suspected_since) return 20;
            holds = holds || (options.grab && !node->is_grabbed) || node->may_hold_anything();
        }
        if (!holds) return -1;
        return static_cast<int>(std::max<std::int64_t>((next_check - now).count() / 1'000'000, 0)) + 1;
    }

    void read_until(const std::stop_token& stop) {
        // Some twenty reports at 1 kHz, of which the kernel keeps more.
        constexpr int pause = 4;  // milliseconds
        // The amount kept for a program that stands still; beyond it, the kernel drops events.
        constexpr std::size_t most = 1 << 16;
        std::vector<std::unique_ptr<EvdevNode>> closed;
        std::vector<std::string> paths;
        Time next_check{};
        int sleep = 0;
        while (!stop.stop_requested()) {
            pollfd waiting{poller.get(), POLLIN, 0};
            poll(&waiting, 1, sleep);
            clear(waker);
            std::vector<EvdevNode*> unready;
            {
                const std::lock_guard lock{mutex};
                closed.swap(closing);
                const std::size_t before = items.size();
                if (before < most) read_all();
                look_for_changes();
                paths.swap(changed_paths);
                const Time now = Clock::now();
                const bool is_due = now >= next_check;
                if (is_due) next_check = now + check_interval;
                // Unread events would look like a difference.
                if (before < most) unready = check_states(is_due, now);
                const bool is_lost =
                    std::any_of(nodes.begin(), nodes.end(), [](const auto& node) { return node && node->is_gone; });
                if (items.size() != before || is_lost) signal(arrived);
                sleep = longest_sleep(now, next_check, items.size() != before);
            }
            // A node that has disappeared stays until it is closed here.
            for (EvdevNode* const node : unready) node->prepare_truth();
            closed.clear();
            for (const std::string& path : paths) open_node(path);
            if (!paths.empty()) signal(arrived);
            paths.clear();
            pollfd stopping{waker.get(), POLLIN, 0};
            poll(&stopping, 1, pause);
        }
    }

    void look_for_changes() {
        alignas(inotify_event) char buffer[4096];
        for (;;) {
            const ssize_t size = ::read(watcher.get(), buffer, sizeof buffer);
            if (size <= 0) return;
            for (ssize_t at = 0; at < size;) {
                const auto& event = reinterpret_cast<const inotify_event&>(buffer[at]);
                at += static_cast<ssize_t>(sizeof event + event.len);
                if ((event.mask & IN_Q_OVERFLOW) != 0) look_at_all();
                if (event.len == 0) continue;
                const std::string path = folder() + "/" + event.name;
                if (!is_wanted(path)) continue;
                if ((event.mask & IN_DELETE) != 0)
                    forget_reports(path);
                else
                    changed_paths.push_back(path);  // after what is left of a device that had its name
            }
        }
    }

    /// So much has changed in the folder that the kernel stopped reporting details.
    void look_at_all() {
        const std::vector<std::string> all =
            options.nodes.empty() ? all_paths().value_or(std::vector<std::string>{}) : options.nodes;
        changed_paths.insert(changed_paths.end(), all.begin(), all.end());
        const auto is_missing = [&](const std::string& path) {
            return std::find(all.begin(), all.end(), path) == all.end();
        };
        std::vector<std::string> missing;
        for (const EvdevProblem& problem : problems)
            if (is_missing(problem.node)) missing.push_back(problem.node);
        for (const EvdevIgnored& one : ignored)
            if (is_missing(one.node)) missing.push_back(one.node);
        for (const std::string& path : missing) forget_reports(path);
    }

    // ---- delivering

    Time stamp_of(std::int64_t kernel_time) {
        last_stamp = std::max(last_stamp, nanoseconds_since_zero(kernel_time));
        return last_stamp;
    }

    Time deliver(EventSink& sink) {
        const std::lock_guard lock{mutex};
        clear(arrived);
        const Time now = Clock::now();
        if (const auto slept_since = watch.look(now, time_asleep())) {
            Event interruption = Event::interrupt(stamp_of(nanoseconds(*slept_since)));
            interruption.text = "sleep";
            sink.take(interruption);
            states_wanted = true;
        }
        // If there is not room for all, keyboards with few keys come last.
        for (const bool small : {false, true})
            for (Device& device : devices)
                if (!device.nodes.empty() && !device.is_announced && !device.is_refused && device.is_small == small)
                    announce(device, stamp_of(nanoseconds(now)), sink);
        read_all();
        const auto post_states = [&](bool of_touch, Time stamp) {
            for (Device& device : devices) {
                if (!device.is_announced || (device.kind == DeviceKind::touch) != of_touch) continue;
                for_each_role(device, [](EvdevNode&, EvdevNode::Role& role) { role.decoder.fingers().forget(); });
                post_state(device, state_of(device), stamp, true, sink);
            }
        };
        // Whoever takes the events has cancelled all contacts. Fingers that are new count, so the state comes first.
        std::int64_t first = nanoseconds(now);
        for (const Item& item : items) first = std::min(first, item.event.time);
        if (states_wanted) post_states(true, stamp_of(first));
        post_items(sink);
        if (std::exchange(states_wanted, false)) post_states(false, stamp_of(nanoseconds(now)));
        for (std::size_t i = 0; i < nodes.size(); ++i)
            if (nodes[i] && nodes[i]->is_gone) lose(i, stamp_of(nanoseconds(std::max(now, last_stamp))), sink);
        if (std::exchange(news_of_nodes, false)) show_reports();
        return std::max(now, last_stamp);
    }

    /// Posts the events of all devices in order of their stamps; everything stamped until now has been read.
    void post_items(EventSink& sink) {
        std::sort(items.begin(), items.end(), [](const Item& a, const Item& b) {
            return a.event.time != b.event.time ? a.event.time < b.event.time : a.order < b.order;
        });
        for (const Item& item : items) {
            EvdevNode& node = *nodes[item.node];
            KernelEvent event = item.event;
            event.time = nanoseconds(stamp_of(event.time));
            if (event.type == state_type) {
                EvdevNode::Role& role = node.roles[event.code];
                const Device& device = devices[role.device];
                const EvdevState& state = states[static_cast<std::size_t>(event.value)];
                const Time stamp = nanoseconds_since_zero(event.time);
                if (!device.is_announced) continue;
                role.decoder.lose(stamp, sink);
                role.decoder.fingers().choose_slot(state.slot);
                post_state(device, state, stamp, true, sink);
                continue;
            }
            for (EvdevNode::Role& role : node.roles)
                if (devices[role.device].is_announced && node.belongs(role, event.type, event.code))
                    role.decoder.take(event, sink);
        }
        items.clear();
        states.clear();
    }

    void show_reports() {
        shown_problems = problems;
        shown_ignored = ignored;
        unread_devices = 0;
        for (const EvdevIgnored& one : ignored) unread_devices += one.could_be_missed;
    }

    /// The inlet that was delivered into has no room for them.
    void refuse(const std::vector<DeviceId>& ids) {
        const std::lock_guard lock{mutex};
        for (const DeviceId id : ids) {
            places.forget(id);
            for (Device& device : devices)
                if (device.is_announced && device.id == id) refuse(device);
        }
        if (!ids.empty()) show_reports();
    }

    // ---- rumble

    bool rumble(const RumbleRequest& request) {
        const std::lock_guard lock{mutex};
        const auto device = std::find_if(devices.begin(), devices.end(), [&](const Device& one) {
            return one.is_announced && one.id == request.device;
        });
        if (device == devices.end()) return false;
        EvdevNode& node = *nodes[device->nodes.front()];
        if (node.is_gone || !node.can_write || !libevdev_has_event_code(node.handle.get(), EV_FF, FF_RUMBLE))
            return false;
        ff_effect effect{};
        effect.type = FF_RUMBLE;
        effect.id = static_cast<std::int16_t>(node.rumble_effect);
        effect.u.rumble.strong_magnitude = static_cast<std::uint16_t>(std::lround(request.strong * 65535));
        effect.u.rumble.weak_magnitude = static_cast<std::uint16_t>(std::lround(request.weak * 65535));
        effect.replay.length =
            static_cast<std::uint16_t>(std::clamp<std::int64_t>(request.length.count() / 1'000'000, 0, 65535));
        if (!request.stops() && ioctl(node.descriptor.get(), EVIOCSFF, &effect) < 0) return false;
        if (!request.stops()) node.rumble_effect = effect.id;
        if (node.rumble_effect < 0) return true;  // nothing to stop
        input_event play{};
        play.type = EV_FF;
        play.code = static_cast<std::uint16_t>(node.rumble_effect);
        play.value = request.stops() ? 0 : 1;
        return write(node.descriptor.get(), &play, sizeof play) == sizeof play;
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
    parts->show_reports();
    parts->reader = std::jthread{[own = parts.get()](const std::stop_token& stop) { own->read_until(stop); }};
    return std::unique_ptr<EvdevSource>{new EvdevSource{std::move(parts)}};
}

Time EvdevSource::deliver(Timeline& timeline) { return deliver(timeline.desk()); }

Time EvdevSource::deliver(Inlet& inlet) {
    // Without focus, and after an interruption, the inlet does not know what is down.
    const InletCounters counters = inlet.counters();
    const std::uint64_t halts = counters.focus_losses + counters.interruptions;
    if (inlet.has_focus() && halts != parts_->halts) {
        const std::lock_guard lock{parts_->mutex};
        parts_->halts = halts;
        parts_->states_wanted = true;
    }
    const Time complete = deliver_into(inlet, *this, parts_->in_inlet);
    parts_->refuse(parts_->in_inlet.take_refused());
    inlet.set_source_losses(overflows(), parts_->unread_devices);
    return complete;
}

Time EvdevSource::deliver(Inlet& inlet, const Inlet& window) {
    if (window.has_focus() && !inlet.has_focus()) inlet.gain_focus(unknown_state);
    if (!window.has_focus() && inlet.has_focus()) inlet.lose_focus();
    return deliver(inlet);
}

Time EvdevSource::deliver(EventSink& sink) { return parts_->deliver(sink); }

bool EvdevSource::try_rumble(const RumbleRequest& request, Time) {
    RumbleRequest own = request;
    own.device = parts_->in_inlet.of_source(request.device);
    return parts_->rumble(own);
}

int EvdevSource::file_descriptor() const noexcept { return parts_->either.get(); }

std::size_t EvdevSource::device_count() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    return static_cast<std::size_t>(std::count_if(parts_->devices.begin(), parts_->devices.end(),
                                                  [](const auto& device) { return !device.nodes.empty(); }));
}

const std::vector<EvdevProblem>& EvdevSource::problems() const noexcept { return parts_->shown_problems; }
const std::vector<EvdevIgnored>& EvdevSource::ignored() const noexcept { return parts_->shown_ignored; }
UnnamedPresses EvdevSource::unnamed() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    UnnamedPresses all = parts_->unnamed;
    for (const auto& node : parts_->nodes) {
        if (!node) continue;
        for (const EvdevNode::Role& role : node->roles) {
            const UnnamedPresses& its = role.decoder.unnamed();
            if (all.presses == 0) all.first_code = its.first_code;
            all.presses += its.presses;
        }
    }
    return all;
}
std::uint64_t EvdevSource::overflows() const noexcept {
    const std::lock_guard lock{parts_->mutex};
    return parts_->overflows;
}

}  // namespace cursorum
