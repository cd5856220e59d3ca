/// @file
/// @mainpage Cursorum: raw input in, exact frames out
///
/// This header includes the core; include it, or only what you need. A tour, by use:
///
///     using namespace cursorum;
///     using namespace cursorum::controls;
///
///     Timeline timeline{{.down = my_keys_down()}};           // what happened, in order; held keys do not fire
///     Sampler picture{timeline};                             // a consumer: from now on it sees every press once
///     PictureClock pictures;                                 // bounds what a stop makes of a frame
///
///     Inlet& desk = timeline.desk();                         // a keyboard and a mouse, for an engine's callbacks
///     desk.button(button_of(KeyTable::scan_code, 0x39), true);   // Space went down, now
///     desk.moved_to(WindowPoint{120, 40});                   // the pointer is there
///     desk.lose_focus();                                     // everything is released: nothing sticks
///
///     if (const auto tick = pictures.next(Clock::now())) {
///         const Frame& frame = picture.advance(*tick);       // what happened since the last one
///         if (frame[Space].pressed()) jump();                // once for each press
///         x += speed * tick->step * frame[KeyD].down_share();   // for exactly as long as it was down
///         const Vector2 way = frame.direction(keys, PadStickLeft).mean;   // keys or a stick, never longer than 1
///         if (frame.pointer().target(button).clicked()) open();
///     }
///
/// With actions (cursorum/actions), a profile says which controls do what:
///
///     ActionReader actions{*load_profile("quay.toml", error)};
///     actions.read(frame);
///     if (actions[lock].pressed()) spreader.toggle_lock();
///
/// What the core includes below is listed by what it is for; what only some programs need is at the end. Each header is
/// the manual of what it declares: units, ranges, lifetime, threads, cost.
#pragma once

// Words of the trade.
#include "cursorum/core/axis.hpp"          // Axis, Stick; axis_button(): an axis as a button
#include "cursorum/core/button_set.hpp"    // a set of buttons
#include "cursorum/core/control.hpp"       // Button, names and numbers of controls
#include "cursorum/core/controls.hpp"      // controls::KeyW, controls::MouseLeft, controls::Shift …
#include "cursorum/core/cursor_state.hpp"  // CursorState: free, kept in the window, locked; hidden
#include "cursorum/core/device.hpp"        // DeviceId, DeviceInfo, DeviceKind
#include "cursorum/core/edge.hpp"          // Edge: press, release, adopt, cancel
#include "cursorum/core/key_tables.hpp"    // button_of(KeyTable, number): the key numbers of event sources
#include "cursorum/core/outcome.hpp"       // Outcome: what became of an event
#include "cursorum/core/repeat.hpp"        // Repeat: delay, interval, cap
#include "cursorum/core/shaping.hpp"       // DeviceShaping: dead zones, curves, thresholds
#include "cursorum/core/space.hpp"         // WindowPoint, WorldPoint … and conversions between them
#include "cursorum/core/time.hpp"          // Time, Duration, Clock

// Events in.
#include "cursorum/core/inlet.hpp"           // Inlet: where events are posted
#include "cursorum/core/inlet_counters.hpp"  // InletCounters: what became of them
#include "cursorum/core/timeline.hpp"        // Timeline: what happened, in order

// Frames out.
#include "cursorum/core/axis_reading.hpp"       // AxisReading, StickReading: axes during a frame
#include "cursorum/core/button_reading.hpp"     // ButtonReading: one button during a frame
#include "cursorum/core/contact.hpp"            // ContactReading: of touch surfaces; DeviceChange
#include "cursorum/core/direction_reading.hpp"  // DirectionReading: four buttons and a stick as one vector
#include "cursorum/core/frame.hpp"              // Frame: what happened between two cuts
#include "cursorum/core/input_check.hpp"        // InputCheck: describes mistakes in how a program posts and cuts
#include "cursorum/core/origin.hpp"             // Origin: a person's or a program's input
#include "cursorum/core/pointer_reading.hpp"    // PointerReading: position, motion, wheel, clicks, drags, targets
#include "cursorum/core/sampler.hpp"            // Sampler: one consumer's cuts
#include "cursorum/core/seats.hpp"              // Seats: which devices belong to which player
#include "cursorum/core/snapshot.hpp"           // Snapshot: levels at one cut; compare() for polling only
#include "cursorum/core/text_reading.hpp"       // TextReading: what was typed in a frame
#include "cursorum/core/tick.hpp"               // Tick: one step, and the gap before it
#include "cursorum/core/tick_clock.hpp"  // TickClock: a simulation's fixed steps; PictureClock: one for each picture

// Not included here, for those who need them:
//   cursorum/core/belief_check.hpp      BeliefCheck: what an engine's own input layer loses, doubles or makes up
//   cursorum/core/button_handlers.hpp   ButtonHandlers: functions that are called with each edge
//   cursorum/core/handled_edge.hpp      HandledEdge: which edges they are called with
//   cursorum/core/device_ids.hpp        DeviceIds: a pad that comes back gets its id back
//   cursorum/core/event.hpp             Event, EventSink: events as values, as sources and recordings have them
//   cursorum/core/inlet_sink.hpp        InletSink: an inlet as a sink of events
//   cursorum/core/key_layout.hpp        KeyLayout: what is printed on the keys, to show it or to bind it
//   cursorum/core/latency.hpp           Latency: how old a frame's events were
//   cursorum/core/near_name.hpp         near_name(): the known name nearest to a mistyped one
//   cursorum/core/polled_state.hpp      keys_from_bytes(), PolledPad, PolledMouse: states instead of events
//   cursorum/core/rest_finder.hpp       RestFinder: finds where a stick rests
//   cursorum/core/rumble.hpp            Rumble: requests to gamepads
//   cursorum/core/snapshot_packing.hpp  pack(), try_unpack(): snapshots as bytes
//   cursorum/core/standstill_watch.hpp  StandstillWatch: detects a debugger's stop, the machine's sleep
//   cursorum/core/version.hpp, export.hpp  the version; what a shared library exports

// Floors above, each a target and an option of its own:
//   cursorum/batch/keyboard_batch.hpp     KeyboardBatch: thousands of players' keyboards in one call
//   cursorum/actions/profile.hpp          Profile, ButtonAction, AxisAction, VectorAction: what a person can do
//   cursorum/actions/profile_file.hpp     load_profile(), read_profile(), apply_overlay(): as files
//   cursorum/actions/action_reader.hpp    ActionReader: frames in the game's own words
//   cursorum/actions/claim.hpp            Claim: what a dialogue keeps from the modes
//   cursorum/actions/seat_actions.hpp     SeatActions: a reader for each seat
//   cursorum/actions/action_handlers.hpp  ActionHandlers: functions that are called with each edge of an action
//   cursorum/actions/binding_capture.hpp  BindingCapture: the next control that a player moves
//   cursorum/actions/binding_text.hpp     binding_text(), binding_label(): bindings as text, and as labels
//   cursorum/actions/player_profile.hpp   PlayerProfile: what a player changed, conflicts, undo
//   cursorum/actions/profile_watch.hpp    ProfileWatch: files that change while the game runs
//   cursorum/actions/action_packing.hpp   ActionPacker: frames of actions as bytes
//   cursorum/actions/action_belief_check.hpp  ActionBeliefCheck: what an engine's own layer gets wrong, by actions
//   cursorum/actions/span_text.hpp        "250ms" and the like
//   cursorum/actions/verdict.hpp          Verdict: what became of each press, by which rule
//   cursorum/recording/recording_reader.hpp, recording_writer.hpp  recordings, line by line
//   cursorum/recording/replay.hpp         Replay: recordings, cut into frames
//   cursorum/recording/replay_source.hpp  ReplaySource: a recording played as if it happened now
//   cursorum/recording/exact_rate.hpp     ExactRate: frames per second, as a fraction
//   cursorum/sources/x11_source.hpp, evdev_source.hpp, hid_source.hpp  live input
//   cursorum/sources/evdev_dump.hpp, hid_reports.hpp  raw dumps of event devices; USB reports
//   cursorum/sources/time_asleep.hpp      how long the machine has slept
//   cursorum/views/control_picture.hpp    control_picture(): what is down now, on a drawing of the device
//   cursorum/views/explanation.hpp        explain(): why a button's state in a frame is what it is
//   cursorum/views/frame_views.hpp        frames as tables, CSV, JSON Lines
//   cursorum/views/lane.hpp               Lane: one control's bars, states and values over time
//   cursorum/views/lane_history.hpp       LaneHistory: what each control did over a stretch of time
//   cursorum/views/lane_picture.hpp, picture.hpp  lane_picture(): the geometry of its picture, for a panel in a game
//   cursorum/views/missed_presses.hpp     MissedPresses: those that no reader receives, and why
//   cursorum/views/stick_picture.hpp      stick_picture(): where sticks have been, and what shaping makes of it
//   cursorum/views/text.hpp               times and foreign texts as they are printed
//   cursorum/why/recent_input.hpp         RecentInput: why an action did not fire, in the running game
//   cursorum/why/action_explanation.hpp   explain_action(): the same of a recording's frame
//   cursorum/why/action_lanes.hpp, action_rows.hpp  lanes of actions; an action's figures as rows
//   cursorum/why/frame_lines.hpp          difference_from_kept(): for a test of a game's own
//   cursorum/why/replayed_beliefs.hpp, replayed_calls.hpp  what a recording says that was believed, and called
