// Writes demo/quay-shift.jsonl to standard output: 40 seconds of an operator at the quay, the same at every run.
//
//   KeyA KeyD    travel the crane along the quay       Space       lock or unlock the twist-locks
//   KeyW KeyS    trolley out and in                    KeyH        horn
//   KeyR KeyF    hoist and lower                       ShiftLeft   slow while held
//   ArrowDown ArrowUp, Enter   the list of jobs        MouseLeft   a box on the bay plan

#include <algorithm>
#include <cstdint>
#include <iostream>
#include <map>
#include <string_view>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_writer.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId desk_keyboard{1}, desk_mouse{2}, side_keyboard{3};
constexpr std::int64_t ms = 1'000'000;

class Script {
public:
    /// A key goes down at `at` and up after `hold` milliseconds; the system repeats it from 500 ms on, every 33 ms.
    void hold(DeviceId device, Button key, std::int64_t at, std::int64_t hold_ms) {
        const std::int64_t down = at * ms + jitter(), up = down + hold_ms * ms + jitter();
        add(Event::button(time(down), device, key, true));
        repeat(device, key, down, up);
        add(Event::button(time(up), device, key, false));
    }
    /// The same without the release: something else will end it, at `until` milliseconds.
    void hold_open(DeviceId device, Button key, std::int64_t at, std::int64_t until) {
        const std::int64_t down = at * ms + jitter();
        add(Event::button(time(down), device, key, true));
        repeat(device, key, down, until * ms);
    }
    void add(const Event& event) { events_.push_back(event); }
    static Time at(std::int64_t milliseconds) { return time(milliseconds * ms); }

    /// In order of time; events of one instant stay in the order added. Only the newest key of a keyboard repeats: a
    /// newer one takes the repeat over for good.
    std::vector<Event> sorted() {
        std::stable_sort(events_.begin(), events_.end(),
                         [](const Event& a, const Event& b) { return a.time < b.time; });
        std::map<DeviceId, Button> newest;
        std::vector<Event> kept;
        for (const Event& event : events_) {
            if (event.type == EventType::button && event.down && !event.system_repeat && event.control != ShiftLeft)
                newest[event.device] = event.control;
            if (!event.system_repeat || newest[event.device] == event.control) kept.push_back(event);
        }
        return kept;
    }

private:
    void repeat(DeviceId device, Button key, std::int64_t down, std::int64_t until) {
        if (device == desk_mouse || key == ShiftLeft) return;  // neither repeats
        for (std::int64_t t = down + 500 * ms; t < until; t += 33 * ms)
            add(Event::button(time(t), device, key, true, true));
    }
    // A hand is not a clock: up to 2 ms, from a generator that is the same everywhere.
    std::int64_t jitter() {
        state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<std::int64_t>((state_ >> 33) % static_cast<std::uint64_t>(2 * ms));
    }
    static Time time(std::int64_t ns) { return nanoseconds_since_zero(ns); }

    std::vector<Event> events_;
    std::uint64_t state_ = 20260427;
};

void script(Script& shift) {
    // The desk. Slow gear is already held when the recording begins.
    shift.add(Event::connect(shift.at(0), desk_keyboard,
                             {.kind = DeviceKind::keyboard, .name = "desk keyboard", .marks_repeats = true}));
    shift.add(Event::connect(shift.at(0), desk_mouse, {.kind = DeviceKind::mouse, .name = "desk mouse"}));
    shift.add(Event::state(shift.at(0), desk_keyboard, {ShiftLeft}));
    shift.add(Event::state(shift.at(0), desk_mouse, {}));
    shift.add(Event::button(shift.at(1800), desk_keyboard, ShiftLeft, false));

    // To the ship: travel right, trolley out, a long hold under the system's repeat, corrections by tapping.
    shift.hold(desk_keyboard, KeyD, 600, 1900);
    shift.hold(desk_keyboard, KeyW, 2700, 1450);
    shift.hold(desk_keyboard, KeyW, 4400, 6);
    shift.hold(desk_keyboard, KeyW, 4620, 9);
    shift.hold(desk_keyboard, KeyW, 4800, 5);

    // Lower, lock, sound the horn, hoist. The finger slips off the hoist for 4 ms.
    shift.hold(desk_keyboard, KeyF, 5200, 1300);
    shift.hold(desk_keyboard, Space, 6700, 90);
    shift.hold(desk_keyboard, KeyH, 6900, 700);
    shift.hold(desk_keyboard, KeyR, 7800, 420);
    shift.hold(desk_keyboard, KeyR, 8226, 950);

    // Both directions at once: opposite keys, one let go before the other.
    shift.hold(desk_keyboard, KeyA, 9400, 900);
    shift.hold(desk_keyboard, KeyD, 9900, 600);

    // Next job from the list, with our own repeat; a box on the bay plan.
    shift.hold(desk_keyboard, ArrowDown, 11000, 1250);
    shift.hold(desk_keyboard, ArrowUp, 12500, 60);
    shift.hold(desk_keyboard, Enter, 12800, 80);
    shift.hold(desk_mouse, MouseLeft, 13200, 110);
    shift.hold(desk_mouse, MouseLeft, 13450, 7);

    // A message takes the focus while the trolley runs in. What is typed into it is not ours. Back with KeyD held.
    shift.hold_open(desk_keyboard, KeyS, 14200, 15300);
    shift.add(Event::focus(shift.at(15300), false));
    shift.add(Event::button(shift.at(15800), desk_keyboard, KeyS, false));
    shift.hold(desk_keyboard, KeyH, 16000, 70);
    shift.add(Event::button(shift.at(16700), desk_keyboard, KeyD, true));
    shift.add(Event::focus(shift.at(17000), true));
    shift.add(Event::state(shift.at(17000), desk_keyboard, {KeyD}));
    shift.add(Event::state(shift.at(17000), desk_mouse, {}));
    // The system's repeat moved to us with the focus.
    shift.add(Event::button(shift.at(17033), desk_keyboard, KeyD, true, true));
    shift.add(Event::button(shift.at(17066), desk_keyboard, KeyD, true, true));
    shift.add(Event::button(shift.at(17400), desk_keyboard, KeyD, false));

    // A second operator hoists on another keyboard, on top of the first; then it is unplugged with a key held.
    shift.add(Event::connect(shift.at(18500), side_keyboard,
                             {.kind = DeviceKind::keyboard, .name = "side keyboard", .marks_repeats = true}));
    shift.add(Event::state(shift.at(18500), side_keyboard, {}));
    shift.hold(desk_keyboard, KeyR, 19000, 800);
    shift.hold(side_keyboard, KeyR, 19300, 1100);
    shift.hold_open(side_keyboard, KeyF, 21500, 22700);
    shift.add(Event::disconnect(shift.at(22700), side_keyboard));
    shift.add(Event::button(shift.at(22810), side_keyboard, KeyF, false));

    // The machine sleeps for a moment with the trolley running; the key is still down afterwards.
    shift.hold_open(desk_keyboard, KeyW, 24000, 24600);
    Event sleep = Event::interrupt(shift.at(24600));
    sleep.text = "sleep";
    shift.add(sleep);
    shift.add(Event::state(shift.at(25400), desk_keyboard, {KeyW}));
    shift.add(Event::button(shift.at(25900), desk_keyboard, KeyW, false));

    // The horn's release is lost on the way; the next press proves it.
    shift.hold_open(desk_keyboard, KeyH, 27000, 27400);
    shift.hold(desk_keyboard, KeyH, 28200, 350);

    // Unlock, slow gear, fine work: trolley in by taps, two of them within one picture.
    shift.hold(desk_keyboard, Space, 29200, 100);
    shift.hold(desk_keyboard, ShiftLeft, 29600, 3600);
    shift.hold(desk_keyboard, KeyS, 30000, 5);
    shift.hold(desk_keyboard, KeyS, 30010, 4);
    shift.hold(desk_keyboard, KeyS, 30600, 8);
    shift.hold(desk_keyboard, KeyS, 31000, 1700);

    // A stray: a key that came down before anybody listened.
    shift.add(Event::button(shift.at(33500), desk_keyboard, KeyQ, false));

    // Home: travel left, a last look at the list, the horn.
    shift.hold(desk_keyboard, KeyA, 34000, 2600);
    shift.hold(desk_keyboard, ArrowDown, 37000, 640);
    shift.hold(desk_keyboard, Enter, 37900, 70);
    shift.hold(desk_keyboard, KeyH, 38600, 900);
}

}  // namespace

int main() {
    Script shift;
    script(shift);
    cursorum::RecordingWriter writer{std::cout, cursorum::Time{}};
    writer.header("Forty seconds at the quay");
    writer.note(cursorum::Time{}, "Made up: an operator unloads two boxes. Written by make_quay_shift.");
    for (const cursorum::Event& event : shift.sorted()) writer.take(event);
    return std::cout.flush() ? 0 : 1;
}
