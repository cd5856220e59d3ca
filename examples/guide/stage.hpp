// A stand-in for an engine's window, so that the programs of the guide run anywhere: a person who follows a script, and
// a terminal as the screen. In your program, your engine's window takes its place.
#pragma once

#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <functional>
#include <sstream>
#include <string>
#include <string_view>
#include <thread>
#include <utility>
#include <vector>

#include "cursorum/cursorum.hpp"

/// Options of every program: `--rate N` pictures per second (60), and `--script "0.5 KeyD down, 1.5 KeyD up"` for
/// another person. A script's parts, each behind its time in seconds (less than 0: that is so at the start):
///   KeyD down | KeyD up | PadSouth down …   a key, a mouse button, or a button of the pad
///   at 120 40 | wheel -1                    the pointer's position, the wheel
///   stick 0.5 0 | pad on | pad off          the pad: its left stick, and whether it is plugged in
///   focus away | focus back                 another window has the focus
///   stop 3                                  the program stands still that long, as at a breakpoint
class Stage {
public:
    // What an engine's window calls back.
    std::function<void(cursorum::Button, bool down)> on_key, on_pad_button;
    std::function<void(bool has)> on_focus, on_pad;
    std::function<void(double, double)> on_place, on_stick;
    std::function<void(double)> on_wheel;

    Stage(int count, char** arguments, std::string_view script) {
        for (int i = 1; i + 1 < count; i += 2) {
            if (std::strcmp(arguments[i], "--rate") == 0) rate_ = std::max(std::atoi(arguments[i + 1]), 1);
            if (std::strcmp(arguments[i], "--script") == 0) script = arguments[i + 1];
        }
        std::istringstream parts{std::string{script}};
        for (std::string part; std::getline(parts, part, ',');) {
            Deed deed;
            std::istringstream words{part};
            double seconds = 0;
            words >> seconds >> deed.what >> deed.how >> deed.more;
            deed.at = nanoseconds(seconds);
            if (deed.what == "stop") length_ += nanoseconds(number(deed.how));
            length_ = std::max(length_, deed.at);
            script_.push_back(deed);
        }
        std::stable_sort(script_.begin(), script_.end(), [](const Deed& a, const Deed& b) { return a.at < b.at; });
        for (; next_ < script_.size() && script_[next_].at.count() < 0; ++next_)
            keys_.set(cursorum::find_button(script_[next_].what), script_[next_].how == "down");
    }
    Stage(const Stage&) = delete;
    Stage& operator=(const Stage&) = delete;

    /// False one second after the script has ended.
    bool is_open() {
        if (picture_ < length_ + nanoseconds(1)) return true;
        draw(true);
        return false;
    }
    /// What is down now, as every window system can be asked for it.
    cursorum::ButtonSet keys_down() const { return keys_; }
    /// Waits for the next picture, and calls back what happens meanwhile, when it does.
    void pump() {
        picture_ += nanoseconds(1.0 / rate_);
        for (; next_ < script_.size() && script_[next_].at <= picture_; ++next_) {
            const Deed& deed = script_[next_];
            std::this_thread::sleep_until(begin_ + deed.at);
            if (deed.what == "stop") {
                std::this_thread::sleep_for(nanoseconds(number(deed.how)));
                picture_ = std::max(picture_, cursorum::Clock::now() - begin_);
            } else {
                happen(deed);
            }
        }
        std::this_thread::sleep_until(begin_ + picture_);
    }
    /// Draws the picture: one line with a box in it, from 0 to 400, and words as of std::printf().
    template <typename... Values>
    void show(double box, const char* format, const Values&... values) {
        constexpr std::size_t width = 41;
        const auto column = static_cast<std::size_t>(std::clamp(box / 10, 0.0, width - 1.0));
        char words[160];
        std::snprintf(words, sizeof words, format, values...);
        line_ = std::string(column, '.') + "#" + std::string(width - 1 - column, '.') + "  " + words;
        draw(false);
    }

private:
    struct Deed {
        cursorum::Duration at{};
        std::string what, how, more;
    };
    static cursorum::Duration nanoseconds(double seconds) {
        return cursorum::Duration{static_cast<std::int64_t>(seconds * 1e9)};
    }
    static double number(const std::string& text) { return std::strtod(text.c_str(), nullptr); }

    void happen(const Deed& deed) {
        if (deed.what == "at" && on_place) return on_place(number(deed.how), number(deed.more));
        if (deed.what == "wheel" && on_wheel) return on_wheel(number(deed.how));
        if (deed.what == "stick" && on_stick) return on_stick(number(deed.how), number(deed.more));
        if (deed.what == "pad" && on_pad) return on_pad(deed.how == "on");
        if (deed.what == "focus") {
            has_focus_ = deed.how == "back";
            if (on_focus) on_focus(has_focus_);
            return;
        }
        const cursorum::Button button = cursorum::find_button(deed.what);
        const bool is_down = deed.how == "down";
        if (deed.what.starts_with("Pad")) {
            if (on_pad_button) on_pad_button(button, is_down);
            return;
        }
        keys_.set(button, is_down);
        if (has_focus_ && on_key) on_key(button, is_down);
    }

    // In place on a terminal, else twice per second.
    void draw(bool is_last) {
        const bool is_terminal = ::isatty(STDOUT_FILENO) != 0;
        if (line_.empty() || (!is_last && !is_terminal && picture_ < drawn_)) return;
        std::printf(is_terminal ? "\r%5.2f s  %s\033[K" : "%5.2f s  %s\n", cursorum::seconds(picture_), line_.c_str());
        if (is_terminal && is_last) std::puts("");
        std::fflush(stdout);
        drawn_ = picture_ + nanoseconds(0.5);
    }

    int rate_ = 60;
    std::vector<Deed> script_;
    std::size_t next_ = 0;
    cursorum::ButtonSet keys_;
    bool has_focus_ = true;
    cursorum::Time begin_ = cursorum::Clock::now();
    cursorum::Duration picture_{}, length_{}, drawn_{};
    std::string line_;
};
