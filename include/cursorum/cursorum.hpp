// Cursorum: raw input in, exact frames out. The table of contents; include this or only what you need.
#pragma once

// Words of the trade.
#include "cursorum/core/axis.hpp"        // Axis, Stick; axis_button(): an axis as a button
#include "cursorum/core/button_set.hpp"  // a set of buttons
#include "cursorum/core/control.hpp"     // Button, names and numbers of controls
#include "cursorum/core/controls.hpp"    // controls::KeyW, controls::MouseLeft, controls::Shift …
#include "cursorum/core/device.hpp"      // DeviceId, DeviceInfo, DeviceKind
#include "cursorum/core/edge.hpp"        // Edge: press, release, adopt, cancel
#include "cursorum/core/outcome.hpp"     // Outcome: what became of an event
#include "cursorum/core/repeat.hpp"      // Repeat: delay, interval, cap
#include "cursorum/core/shaping.hpp"     // DeviceShaping: dead zones, curves, thresholds
#include "cursorum/core/space.hpp"       // WindowPoint, WorldPoint … and conversions between them
#include "cursorum/core/time.hpp"        // Time, Duration, Clock

// Events in.
#include "cursorum/core/inlet.hpp"     // Inlet: where events are posted, and InletCounters
#include "cursorum/core/timeline.hpp"  // Timeline: what happened, in order

// Frames out.
#include "cursorum/core/axis_reading.hpp"     // AxisReading, StickReading: axes during a frame
#include "cursorum/core/button_reading.hpp"   // ButtonReading: one button during a frame
#include "cursorum/core/contact.hpp"          // ContactReading: of touch surfaces; DeviceChange
#include "cursorum/core/frame.hpp"            // Frame: what happened between two cuts
#include "cursorum/core/input_check.hpp"      // InputCheck: describes mistakes in how a program posts and cuts
#include "cursorum/core/origin.hpp"           // Origin: a person's or a program's input
#include "cursorum/core/pointer_reading.hpp"  // PointerReading: position, motion, wheel, clicks, drags, targets
#include "cursorum/core/sampler.hpp"          // Sampler: one consumer's cuts
#include "cursorum/core/seats.hpp"            // Seats: which devices belong to which player
#include "cursorum/core/snapshot.hpp"         // Snapshot: levels at one cut; compare() for polling only
#include "cursorum/core/tick.hpp"             // Tick: one step, and the gap before it
#include "cursorum/core/tick_clock.hpp"  // TickClock: a simulation's fixed steps; PictureClock: one for each picture

// Not included here, for those who need them:
//   cursorum/core/belief_check.hpp      BeliefCheck: what an engine's own input layer loses, doubles or makes up
//   cursorum/core/button_handlers.hpp   ButtonHandlers: functions that are called with each edge
//   cursorum/core/device_ids.hpp     DeviceIds: a pad that comes back gets its id back
//   cursorum/core/event.hpp             Event, EventSink: events as values, as sources and recordings have them
//   cursorum/core/key_layout.hpp        KeyLayout: what is printed on the keys, to show it or to bind it
//   cursorum/core/keyboard_batch.hpp    KeyboardBatch: thousands of players' keyboards in one call
//   cursorum/core/latency.hpp           Latency: how old a frame's events were
//   cursorum/core/polled_state.hpp      keys_from_bytes(), PolledPad, PolledMouse: states instead of events
//   cursorum/core/rest_finder.hpp       RestFinder: finds where a stick rests
//   cursorum/core/rumble.hpp            Rumble: requests to gamepads
//   cursorum/core/snapshot_packing.hpp  pack(), try_unpack(): snapshots as bytes
//   cursorum/core/standstill_watch.hpp  StandstillWatch: detects a debugger's stop, the machine's sleep

// Floors above, each a target and an option of its own:
//   cursorum/actions/profile.hpp        Profile, ButtonAction, AxisAction, VectorAction: what a person can do
//   cursorum/actions/profile_file.hpp   read_profile(), apply_overlay(): as files
//   cursorum/actions/claim.hpp          Claim: what a dialogue keeps from the modes
//   cursorum/actions/action_reader.hpp  ActionReader: frames in the game's own words
//   cursorum/actions/action_handlers.hpp  ActionHandlers: functions that are called with each edge of an action
//   cursorum/actions/binding_capture.hpp  BindingCapture: the next control that a player moves
//   cursorum/actions/player_profile.hpp   PlayerProfile: what a player changed, conflicts, undo
//   cursorum/actions/profile_watch.hpp    ProfileWatch: files that change while the game runs
//   cursorum/recording/replay.hpp       Replay: recordings, cut into frames
//   cursorum/recording/recording_writer.hpp  RecordingWriter: events, cuts, calls, beliefs into a file
//   cursorum/recording/replay_source.hpp     ReplaySource: a recording played as if it happened now
//   cursorum/sources/x11_source.hpp, evdev_source.hpp, hid_source.hpp  live input
//   cursorum/views/explanation.hpp      explain(): why a button's state in a frame is what it is
//   cursorum/views/frame_views.hpp      frames as tables, CSV, JSON Lines
//   cursorum/views/lane_history.hpp     LaneHistory: what each control did over a stretch of time
//   cursorum/views/lane_picture.hpp     lane_picture(): the geometry of its picture, for an overlay
//   cursorum/views/stick_picture.hpp    stick_picture(): where sticks have been, and what shaping makes of it
//   cursorum/actions/action_belief_check.hpp  ActionBeliefCheck: what an engine's own layer gets wrong, by actions
//   cursorum/why/action_lanes.hpp       note_actions(): lanes of actions
//   cursorum/why/frame_lines.hpp        difference_from_kept(): for a test of a game's own
//   cursorum/why/recent_input.hpp       RecentInput: why an action did not fire, in the running game
//   cursorum/why/replayed_beliefs.hpp   ReplayedBeliefs: what a recording says that another layer believed
