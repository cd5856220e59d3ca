// The snippets of docs/threads-and-time.md, as they are shown there, in a program that compiles.

#include <array>
#include <atomic>
#include <span>
#include <thread>
#include <vector>

#include "cursorum/batch/keyboard_batch.hpp"
#include "cursorum/core/snapshot_packing.hpp"
#include "cursorum/core/standstill_watch.hpp"
#include "cursorum/cursorum.hpp"
#include "cursorum/sources/time_asleep.hpp"

using namespace cursorum;
using namespace cursorum::controls;
using namespace std::chrono_literals;

namespace {

std::atomic<bool> running{false};

struct Cursor {
    void draw_at(const Distance&, bool) {}
};
struct Crane {
    void toggle_lock() { locked = !locked; }
    bool locked = false;
};

Time read_pads(Inlet&) { return Clock::now(); }
void simulate(const Frame&) {}
void draw(const Frame&, double) {}
ButtonSet my_keys_down() { return {}; }
void ask_again() {}
void end_attract_mode() {}
void caption(const char*) {}

void guide(Sampler& simulation, Sampler& picture, TickClock& ticks, Cursor& cursor, const Snapshot& acknowledged,
           Snapshot& theirs, std::span<const std::byte> received, std::span<const BatchEvent> received_events,
           std::vector<Crane>& cranes, StandstillWatch& watch, Inlet& desk) {
    // clang-format off
    Timeline timeline{{.inlets = 2}};                 // number 0 is the desk
    Inlet& pads = timeline.inlet(1);
    std::thread pad_thread{[&] {
        pads.connect(DeviceId{30}, {.kind = DeviceKind::gamepad, .name = "left pad"});
        while (running) {
            const Time until = read_pads(pads);       // posts what happened, with the times at which it happened
            pads.set_complete_until(until);           // and says that this was all
        }
        pads.set_complete_until(latest_time);         // it ends: nobody waits for it any more
    }};

    const Time complete = timeline.complete_until(Clock::now());  // the least of all inlets'
    while (const auto tick = ticks.next(complete)) simulate(simulation.advance(*tick));
    draw(picture.advance(complete), ticks.blend(complete));

    if (watch.look(Clock::now(), time_asleep())) desk.interrupt(my_keys_down());   // StandstillWatch watch{1s};

    const Frame& glimpse = simulation.peek(complete); // what advance(complete) would say; nothing is taken
    cursor.draw_at(glimpse.pointer().motion(), glimpse[MouseLeft].down());

    const Frame& frame = simulation.frame();
    std::array<std::byte, packed_snapshot_room> bytes;
    const std::size_t size = pack_difference(acknowledged, frame.current(), bytes);
    if (try_unpack(received, acknowledged, theirs) != Unpacking::done) ask_again();

    timeline.desk().connect(DeviceId{40}, {.name = "attract mode", .is_virtual = true});
    timeline.desk().button(DeviceId{40}, Space, true);
    const Frame& shown = simulation.advance(complete);
    if (shown.has_input_from(Origin::person)) end_attract_mode();
    if (shown.on(Origin::program)[Space].pressed()) caption("SPACE");

    KeyboardBatch keyboards{{.players = 10'000}};
    keyboards.advance(complete, received_events);                     // 16 bytes an event, players mixed
    for (std::uint32_t player = 0; player < keyboards.players(); ++player)
        if (keyboards[player][Space].pressed()) cranes[player].toggle_lock();
    // clang-format on
    static_cast<void>(size);
    pad_thread.join();
}

}  // namespace

int main() {
    Timeline timeline;
    Sampler simulation{timeline}, picture{timeline};
    TickClock ticks{hertz(60), at_most(5)};
    Cursor cursor;
    std::vector<Crane> cranes(10'000);
    Snapshot theirs;
    Timeline own;
    Inlet& desk = own.desk();
    StandstillWatch watch{1s};
    guide(simulation, picture, ticks, cursor, {}, theirs, {}, {}, cranes, watch, desk);
    return cranes.front().locked ? 1 : 0;
}
