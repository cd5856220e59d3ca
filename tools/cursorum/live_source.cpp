#include "live_source.hpp"

#include <fmt/format.h>
#include <poll.h>

#include <algorithm>
#include <vector>

#include "command_line.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/near_name.hpp"
#include "cursorum/recording/replay_source.hpp"

#ifdef CURSORUM_HAS_X11
#include "cursorum/sources/x11_source.hpp"
#endif
#ifdef CURSORUM_HAS_EVDEV
#include "cursorum/sources/evdev_source.hpp"
#endif

namespace cursorum::tool {
namespace {

[[maybe_unused]] void wait_for(int descriptor, Duration longest) {
    pollfd waiting{descriptor, POLLIN, 0};
    poll(&waiting, 1, static_cast<int>(std::clamp<std::int64_t>(longest.count() / 1'000'000 + 1, 0, 1000)));
}

[[maybe_unused]] bool is_key_or_mouse(const std::string& control) {
    const ControlInfo* info = find_control(control);
    if (!info) return false;  // a stick
    const ControlFamily family = info->family;
    return family == ControlFamily::key || family == ControlFamily::mouse_button ||
           family == ControlFamily::either_side;
}

#ifdef CURSORUM_HAS_X11
class LiveX11 final : public LiveSource {
public:
    LiveX11() {
        std::string why;
        source_ = X11Source::open({.display = {}, .window = 0, .first_device = 1}, why);
        if (!source_) throw UsageError{shown("x11: {}", why)};
    }
    Time deliver(EventSink& sink) override { return source_->deliver(sink); }
    bool is_open() const override { return source_->is_open(); }
    void wait(Duration longest) const override { wait_for(source_->file_descriptor(), longest); }
    bool can_give(const std::string& control) const override { return is_key_or_mouse(control); }
    TerminalText error() const override {
        return is_open()
                   ? TerminalText{}
                   : TerminalText{"x11: the connection to the X server broke; everything before that is recorded"};
    }

private:
    std::unique_ptr<X11Source> source_;
};
#endif

#ifdef CURSORUM_HAS_EVDEV
class LiveEvdev final : public LiveSource {
public:
    explicit LiveEvdev(const std::string& nodes) {
        EvdevSourceOptions options;
        options.first_device = 1;
        for (std::size_t at = 0; at < nodes.size();) {
            const std::size_t end = std::min(nodes.find(',', at), nodes.size());
            options.nodes.push_back(nodes.substr(at, end - at));
            at = end + 1;
        }
        std::string why;
        source_ = EvdevSource::open(options, why);
        if (!source_) throw UsageError{shown("evdev: {}", why)};
        if (source_->device_count() == 0)
            throw UsageError{"evdev: no keyboard, mouse or gamepad can be read\n" + problems() + not_read(Which::all)};
    }
    Time deliver(EventSink& sink) override { return source_->deliver(sink); }
    bool is_open() const override { return true; }
    void wait(Duration longest) const override { wait_for(source_->file_descriptor(), longest); }
    bool can_give(const std::string&) const override { return true; }
    TerminalText problems() const override {
        // Where the same is wrong with many nodes, it is said once.
        TerminalText lines;
        std::string last;
        for (const EvdevProblem& problem : source_->problems()) {
            const std::string why = problem.why + (problem.hint.empty() ? "" : "; " + problem.hint);
            if (why == last) continue;
            last = why;
            const auto same = std::count_if(source_->problems().begin(), source_->problems().end(),
                                            [&](const EvdevProblem& other) { return other.why == problem.why; });
            lines += shown("{}{}: {}\n", problem.node, same > 1 ? fmt::format(" and {} more", same - 1) : "", why);
        }
        return lines;
    }
    TerminalText not_read(Which which) const override {
        TerminalText lines;
        for (const EvdevIgnored& device : source_->ignored())
            if (device.could_be_missed || which == Which::all)
                lines += shown("{} \"{}\" is not read: {}\n", device.node, device.name, device.why);
        return lines;
    }
    TerminalText news() const override {
        const UnnamedPresses unnamed = source_->unnamed();
        if (unnamed.presses == 0) return {};
        return shown("{} left out, of keys that no control stands for (the first has the Linux code {}).\n",
                     plural_text(unnamed.presses, "press"), unnamed.first_code);
    }

private:
    std::unique_ptr<EvdevSource> source_;
};
#endif

class LiveReplay final : public LiveSource {
public:
    explicit LiveReplay(const std::string& file) {
        std::string why;
        source_ = ReplaySource::open({.file = file}, why);
        if (!source_) throw UsageError{TerminalText::of(why)};
    }
    Time deliver(EventSink& sink) override { return source_->deliver(sink); }
    bool is_open() const override { return source_->is_open(); }
    void wait(Duration longest) const override { wait_for(-1, std::min(longest, source_->until_next())); }
    bool can_give(const std::string&) const override { return true; }
    TerminalText error() const override { return TerminalText::of(source_->error()); }

private:
    std::unique_ptr<ReplaySource> source_;
};

std::unique_ptr<LiveSource> open_by_kind(const std::string& kind, const std::string& rest) {
    if (kind == "replay") {
        if (rest.empty()) throw UsageError{"--source replay: which recording? Give replay:FILE"};
        return std::make_unique<LiveReplay>(rest);
    }
    if (kind == "x11" && rest.empty()) {
#ifdef CURSORUM_HAS_X11
        return std::make_unique<LiveX11>();
#else
        throw UsageError{"--source x11: this build has no X11 source (CURSORUM_X11 was off)"};
#endif
    }
    if (kind == "evdev") {
#ifdef CURSORUM_HAS_EVDEV
        return std::make_unique<LiveEvdev>(rest);
#else
        throw UsageError{"--source evdev: this build has no evdev source (CURSORUM_EVDEV was off)"};
#endif
    }
    const std::vector<std::string_view> known{"x11", "evdev", "replay"};
    const std::string_view near = near_name(kind, known);
    throw UsageError{shown("--source: found \"{}{}{}\"; expected x11, evdev, evdev:NODE or replay:FILE{}", kind,
                           rest.empty() ? "" : ":", rest,
                           near.empty() || near == kind ? "" : fmt::format("; did you mean {}?", near))};
}

}  // namespace

std::unique_ptr<LiveSource> open_live_source(const std::string& name) {
    const std::size_t colon = name.find(':');
    const std::string kind = name.substr(0, colon);
    auto source = open_by_kind(kind, colon == std::string::npos ? "" : name.substr(colon + 1));
    source->kind = kind;
    return source;
}

}  // namespace cursorum::tool
