// Cursorum: raw input in, exact frames out. The table of contents; include this or only what you need.
#pragma once

// Words of the trade.
#include "cursorum/core/button_set.hpp"  // a set of buttons
#include "cursorum/core/control.hpp"     // Button, names and numbers of controls
#include "cursorum/core/controls.hpp"    // controls::KeyW, controls::MouseLeft, controls::Shift …
#include "cursorum/core/edge.hpp"        // Edge: press, release, adopt, cancel
#include "cursorum/core/event.hpp"       // Event, DeviceId, DeviceInfo, Outcome
#include "cursorum/core/repeat.hpp"      // Repeat: delay, interval, cap
#include "cursorum/core/time.hpp"        // Time, Duration, Clock

// Events in.
#include "cursorum/core/inlet.hpp"             // Inlet: where events are posted
#include "cursorum/core/standstill_watch.hpp"  // StandstillWatch: a debugger's stop, the machine's sleep
#include "cursorum/core/timeline.hpp"          // Timeline: what happened, in order

// Frames out.
#include "cursorum/core/button_reading.hpp"    // ButtonReading: what a frame says of one button
#include "cursorum/core/frame.hpp"             // Frame: what happened between two cuts
#include "cursorum/core/latency.hpp"           // Latency: how old a frame's events were
#include "cursorum/core/origin.hpp"            // Origin: a person's input, or a program's
#include "cursorum/core/pointer_reading.hpp"   // PointerReading: motion and wheel
#include "cursorum/core/sampler.hpp"           // Sampler: one consumer's cuts
#include "cursorum/core/snapshot.hpp"          // Snapshot: levels at one cut; compare() for polling only
#include "cursorum/core/snapshot_packing.hpp"  // pack(), try_unpack(): snapshots as bytes
#include "cursorum/core/tick_clock.hpp"        // TickClock: a simulation's fixed steps

// Many at once.
#include "cursorum/core/keyboard_batch.hpp"  // KeyboardBatch: thousands of players' keyboards in one call
