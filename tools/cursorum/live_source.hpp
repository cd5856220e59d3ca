// A live source named on the command line: x11, evdev, evdev:NODE…, replay:FILE.
#pragma once

#include <memory>
#include <string>

#include "cursorum/core/button_set.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/views/text.hpp"

namespace cursorum::tool {

class LiveSource {
public:
    virtual ~LiveSource() = default;
    virtual Time deliver(EventSink& sink) = 0;
    virtual bool is_open() const = 0;
    /// Waits until something may have come, at most for `longest`.
    virtual void wait(Duration longest) const = 0;
    /// Whether the source can give events of the control.
    virtual bool can_give(const std::string& control) const = 0;
    /// The nodes that cannot be read, and why, as lines.
    virtual TerminalText problems() const { return {}; }
    /// The devices that are not read, and why, as lines: all, or only those that people play with.
    enum class Which { all, of_people };
    virtual TerminalText not_read(Which) const { return {}; }
    /// What is worth knowing at the end, as lines; empty: nothing.
    virtual TerminalText news() const { return {}; }
    /// Why it ended, when it ended with an error.
    virtual TerminalText error() const { return {}; }

    /// "x11", "evdev" or "replay".
    std::string kind;
};

/// A UsageError says what is wrong with the name, or why the source cannot be opened.
std::unique_ptr<LiveSource> open_live_source(const std::string& name);

/// For --help.
inline constexpr const char* source_help =
    "The source of input: x11, the X server at DISPLAY; evdev, all of the kernel's keyboards, mice and gamepads, or "
    "evdev:NODE,NODE…; replay:FILE, a recording played at its own speed";

}  // namespace cursorum::tool
