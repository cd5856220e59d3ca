// Reads reports from a hidraw node and gives them to the boot protocol's reader. A keyboard's reports are levels, so
// the inlet finds what has changed.
#include "cursorum/sources/hid_source.hpp"
#include "cursorum/core/event.hpp"

#include <fcntl.h>
#include <linux/hidraw.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <utility>

#include "cursorum/core/inlet_sink.hpp"

namespace cursorum {

struct HidSource::Parts {
    explicit Parts(const HidSourceOptions& given)
        : options{given},
          keyboard{given.device},
          mouse{given.device},
          is_keyboard{given.kind == DeviceKind::keyboard} {}
    ~Parts() {
        if (file >= 0) close(file);
    }
    Parts(const Parts&) = delete;
    Parts& operator=(const Parts&) = delete;

    HidSourceOptions options;
    HidKeyboard keyboard;
    HidMouse mouse;
    bool is_keyboard;
    int file = -1;
    bool is_node = false;  // a hidraw node gives one report a read; a file gives bytes
    bool announced = false, ended = false;
    std::array<std::byte, 64> waiting;  // of a file: the beginning of a report
    std::size_t waiting_size = 0;

    std::size_t report_size() const { return is_keyboard ? HidKeyboard::report_size : HidMouse::report_size; }

    void take(std::span<const std::byte> report, Time when, EventSink& sink) {
        if (is_keyboard)
            keyboard.take(report, when, sink);
        else
            mouse.take(report, when, sink);
    }

    void announce(EventSink& sink) {
        announced = true;
        std::array<char, 64> name{};
        if (is_node) ioctl(file, HIDIOCGRAWNAME(63), name.data());
        const Time now = Clock::now();
        sink.take(Event::connect(now, options.device,
                                 {.kind = options.kind, .name = name.data(), .background = options.background}));
        // What is down already: asked by "report 0, as it would be sent", the number in the first byte.
        std::array<std::byte, 1 + HidKeyboard::report_size> answer{};
        if (is_node && is_keyboard && ioctl(file, HIDIOCGINPUT(answer.size()), answer.data()) == int{answer.size()})
            keyboard.take(std::span{answer}.subspan(1), now, sink);
        else
            sink.take(Event::state(now, options.device, {}));
    }

    SourceDevices in_inlet;  // see deliver_into()

    void end(EventSink& sink) {
        if (waiting_size != 0)
            take(std::span{waiting}.first(waiting_size), Clock::now(), sink);  // refused, and counted
        sink.take(Event::disconnect(Clock::now(), options.device));
        close(std::exchange(file, -1));
        ended = true;
    }

    Time deliver(EventSink& sink) {
        const Time before = Clock::now();
        if (ended) return before;
        if (!announced) announce(sink);
        for (;;) {
            const ssize_t size = read(file, waiting.data() + waiting_size, waiting.size() - waiting_size);
            if (size < 0 && errno == EINTR) continue;
            if (size < 0 && (errno == EAGAIN || errno == EWOULDBLOCK)) return before;
            if (size <= 0) {
                end(sink);
                return before;
            }
            const Time now = Clock::now();
            waiting_size += static_cast<std::size_t>(size);
            if (is_node) {
                take(std::span{waiting}.first(waiting_size), now, sink);
                waiting_size = 0;
                continue;
            }
            std::size_t used = 0;
            for (; waiting_size - used >= report_size(); used += report_size())
                take(std::span{waiting}.subspan(used, report_size()), now, sink);
            waiting_size -= used;
            std::memmove(waiting.data(), waiting.data() + used, waiting_size);
        }
    }
};

HidSource::HidSource(std::unique_ptr<Parts> parts) : parts_{std::move(parts)} {}
HidSource::~HidSource() = default;

std::unique_ptr<HidSource> HidSource::open(const HidSourceOptions& options, std::string& error) {
    error.clear();
    if (options.kind != DeviceKind::keyboard && options.kind != DeviceKind::mouse) {
        error = "found kind \"" + std::string{name_of(options.kind)} + "\"; expected keyboard or mouse";
        return nullptr;
    }
    auto parts = std::make_unique<Parts>(options);
    parts->file = ::open(options.path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    if (parts->file < 0) {
        error = options.path + ": " + std::strerror(errno);
        if (errno == EACCES) error += " (hidraw nodes are readable by root; a udev rule can give them to you)";
        return nullptr;
    }
    hidraw_devinfo info{};
    parts->is_node = ioctl(parts->file, HIDIOCGRAWINFO, &info) >= 0;
    return std::unique_ptr<HidSource>{new HidSource{std::move(parts)}};
}

Time HidSource::deliver(Inlet& inlet) {
    const Time complete = deliver_into(inlet, *this, parts_->in_inlet);
    if (!is_open()) inlet.set_complete_until(latest_time);
    return complete;
}

Time HidSource::deliver(EventSink& sink) { return parts_->deliver(sink); }

DeviceId HidSource::device() const noexcept { return parts_->in_inlet.in_inlet(parts_->options.device); }
int HidSource::file_descriptor() const noexcept { return parts_->file; }
bool HidSource::is_open() const noexcept { return !parts_->ended; }
const HidCounters& HidSource::counters() const noexcept {
    return parts_->is_keyboard ? parts_->keyboard.counters() : parts_->mouse.counters();
}

}  // namespace cursorum
