// Frames as a value change dump (IEEE 1364, VCD), for waveform viewers.
#pragma once

#include <cstdint>
#include <cstdio>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "action_text.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum::tool {

/// Levels of buttons and of button actions are wires that change at the times of their edges; axes, and the values of
/// axis and vector actions at each cut, are reals; the wire `cut` changes at the end of each frame. Only what changes
/// at all becomes a signal. The time unit is 1 ns; if the recording begins before 0, times count from its beginning.
///
/// Changes go to a temporary file until the end, since the signals have to be declared before them.
class WaveFile {
public:
    WaveFile();

    /// Buttons and axes, merged; empty: all of them except either-side names and buttons that are made of axes.
    void add(const Frame& frame, const ButtonSet& controls);
    void add(const ActionReader& reader, const Profile& profile, const ActionFilter& filter);
    /// After both.
    void end_frame(const Frame& frame);
    /// Prints all of it.
    void finish();

private:
    struct Signal {
        std::string scope, name;
        bool is_real = false, level = false;
        double value = 0;
    };
    struct Change {
        std::int64_t time;
        std::size_t signal;
        double value;
    };
    std::size_t signal(const std::string& scope, const std::string& name, bool is_real);
    void change(std::int64_t time, std::size_t signal, double value);
    void begin(const Frame& frame);
    void write(const std::string& text);
    static std::string id_of(std::size_t signal);

    struct Close {
        void operator()(std::FILE* file) const { std::fclose(file); }
    };
    std::unique_ptr<std::FILE, Close> changes_;
    std::map<std::pair<std::string, std::string>, std::size_t> numbers_;
    std::vector<Signal> signals_;
    std::vector<Change> of_frame_;
    bool has_begun_ = false, cut_ = false;
    std::int64_t origin_ = 0, first_ = 0, latest_ = 0;
};

}  // namespace cursorum::tool
