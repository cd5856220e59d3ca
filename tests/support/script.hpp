// Short scripts of events and cuts, so that a rule's test is a row.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/sampler.hpp"

namespace test {

using namespace cursorum;

/// What a script may speak of; times are whole nanoseconds.
///
///   10+W 10-W 10~W      KeyW goes down, comes up, is repeated by the system, on device 1 at time 10
///   10+2W               on device 2
///   10con2 10dis2       device 2 connects again, disconnects
///   10foc1 10foc0       focus gained, lost
///   10int               interruption
///   10sta1:WS 10sta1:   polled state of device 1: KeyW and KeyS are down; nothing is
///   10ado1:W            the same, marked adopt
///   |20                 a cut
///
/// Letters are letter keys; < and > are ShiftLeft and ShiftRight, ^ is ControlLeft. Device 1 is a keyboard that marks
/// system repeats, 2 one that does not, 3 one in the background that marks; 4 is not known.
class ScriptRun {
public:
    explicit ScriptRun(const SamplerOptions& options = {.start = Time{}});

    /// Runs the script; returns a line for each cut: the reading of KeyW, see text(), unless `tell` says otherwise.
    std::vector<std::string> run(std::string_view script);
    std::function<std::string(const Frame&)> tell{};
    /// Words that begin with a letter.
    std::function<void(std::string_view)> on_word{};

    Timeline timeline{{.devices = 4, .history = 4096, .desk_devices = false}};
    Sampler sampler;
    Outcome last_outcome{};
};

/// "press 1000 20 20": state; counts of presses, releases, adopts, cancels; held_for; down_span. With repeats or system
/// repeats: "hold 0000 20 20 rep2 sys3".
std::string text(const ButtonFigures& figures);

/// "5 1 KeyW press; 7 1 KeyW release": the frame's edges.
std::string edges_text(const Frame& frame);

Button letter(char c);

/// Checks a table, one row a line: what it shows : the script : what is expected. `run` gets the script; what it returns
/// is joined by "; ".
void check_rows(const char* table, const std::function<std::vector<std::string>(const std::string&)>& run);

}  // namespace test
