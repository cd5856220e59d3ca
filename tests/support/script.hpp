// Short scripts of events and cuts, so that a rule's test is a row.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "cursorum/core/sampler.hpp"

namespace test {

inline cursorum::Time at(std::int64_t ns) { return cursorum::nanoseconds_since_zero(ns); }

using namespace cursorum;

/// What a test shows by itself; empty for a view that is not its own.
using OwnView = std::function<std::string(const std::string&)>;

/// What a script may contain; times are whole numbers of `unit`, nanoseconds at first.
///
///   10+W 10-W 10~W      KeyW goes down, comes up, is repeated by the system, on device 1 at time 10
///   10+2W               on device 2
///   10con2 10dis2       device 2 connects again, disconnects
///   10foc1 10foc0       focus gained, lost
///   10int               interruption
///   10cap1 10cap0       CapsLock is on, off
///   10sta1:WS 10sta1:   polled state of device 1: KeyW and KeyS are down; nothing is
///   10ado1:W            the same, marked adopt
///   10pos2:3,4          the pointer of device 2 is at 3, 4; wrp: it was put there
///   10mov2:3,4          it moved by that; mvp: and is at 5, 6; raw: with raw counts of 7, 8
///   10whl2:0,1          the wheel turned; 10ins2 10out2: inside, outside; 10lck2 10fre2: locked, free
///   10axs3:LX,0.5       an axis of device 3 by its short name; 10stk3:1,0 both of its left stick
///   10shp3:0.5,0.1,0.6  its left stick is shaped with this dead zone and x centre, buttons with this threshold
///   10beg5:7,1,2        contact 7 begins on device 5 at 1, 2; mve: moves; end: ends
///   |20                 a cut
///   |20motion,W         a cut, and what is shown of the frame, see views_text()
///   |20!50!60           a frame from 50 to 60 after a pause from 20 on; ? after a stall
///
/// Letters are letter keys; < and > are ShiftLeft and ShiftRight, ^ is ControlLeft, l and r mouse buttons, s e m the
/// south and east buttons and Start of a pad.
/// Device 1 is a keyboard that marks system repeats, 2 one that does not, 3 one in the background that marks; 4 is not
/// known. A whole desk has the desk's keyboard and mouse, 3 and 4 are pads, 5 a touch surface, 6 another mouse.
class ScriptRun {
public:
    explicit ScriptRun(const SamplerOptions& options = {.start = Time{}},
                       const TimelineOptions& of_timeline = {.devices = 4, .history = 4096, .desk_devices = false});

    /// Runs the script; returns a line for each cut: what the cut asks for, or else the reading of KeyW, see text(),
    /// unless `show` says otherwise. Of a whole desk, cuts that ask for nothing give none.
    std::vector<std::string> run(std::string_view script);
    std::function<std::string(const Frame&)> show{};
    /// Words that begin with a letter.
    std::function<void(std::string_view)> on_word{};
    /// At each cut, before it is shown; and views that a test adds.
    std::function<void(const Frame&)> on_cut{};
    OwnView on_view{};

    Timeline timeline;
    Sampler sampler;
    std::int64_t unit = 1;
    Outcome last_outcome{};
    bool whole_desk;
};

/// The frame by names with commas between them: motion, raw, wheel, steps, at, was, moved, inside, locked, clicks,
/// drag, target (of the box from 100, 100 to 150, 120), stick, LX and the other axes (before, now, least, greatest),
/// edges, contacts, changes, latency, late; else a button by name or letter, LX+ for an axis as one. With @3: of device
/// 3.
std::string views_text(const Sampler& sampler, std::string_view views, const OwnView& own = {});

/// "press 1000 20 20": state; counts of presses, releases, adopts, cancels; held_for; down_span. With repeats or system
/// repeats: "hold 0000 20 20 rep2 sys3".
std::string text(const ButtonFigures& figures);

/// "5 1 KeyW press; 7 1 KeyW release": the frame's edges.
std::string edges_text(const Frame& frame);

Button letter(char c);

/// Checks a table, one row a line: what it shows : the script : what is expected. `run` gets the script; what it
/// returns is joined by "; ".
void check_rows(const char* table, const std::function<std::vector<std::string>(const std::string&)>& run);

}  // namespace test
