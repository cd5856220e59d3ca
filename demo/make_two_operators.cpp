// Writes demo/two-operators.jsonl to standard output: two operators with a gamepad each, a keyboard and a fast mouse,
// the same at every run.
//
//   left stick    crane along the quay, trolley        PadSouth             lock or unlock the twist-locks
//   right stick   hoist and lower                      PadPullRight         speed
//   mouse         boxes on the bay plan                the keyboard, halved, when a pad is gone

#include <algorithm>
#include <cstdint>
#include <iostream>
#include <vector>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_writer.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId keyboard{1}, mouse{2}, west_pad{3}, east_pad{4};
constexpr std::int64_t us = 1'000, ms = 1'000'000;
constexpr std::uint8_t all_axes = 0x3F;
constexpr ButtonSet pad_buttons{PadSouth,         PadEast,   PadNorth,   PadWest,    PadShoulderLeft,
                                PadShoulderRight, PadSelect, PadStart,   PadMode,    PadThumbLeft,
                                PadThumbRight,    PadHatUp,  PadHatDown, PadHatLeft, PadHatRight};

class Script {
public:
    void add(const Event& event) { events_.push_back(event); }
    static Time at(std::int64_t ns) { return nanoseconds_since_zero(ns); }

    void hold(DeviceId device, Button button, std::int64_t from, std::int64_t to) {
        add(Event::button(at(from), device, button, true));
        add(Event::button(at(to), device, button, false));
    }
    /// Sticks report in steps of 1/128.
    void stick(DeviceId device, Stick which, std::int64_t t, double x, double y) {
        add(Event::axis_value(at(t), device, which.x(), step(x)));
        add(Event::axis_value(at(t), device, which.y(), step(y)));
    }
    /// From rest to x, y, held, and back, as a hand does it: 40 ms each way, a report every 4 ms.
    void push(DeviceId device, Stick which, std::int64_t from, std::int64_t to, double x, double y, double rest_x = 0,
              double rest_y = 0) {
        for (int i = 1; i <= 10; ++i) {
            const double share = i / 10.0;
            stick(device, which, from + i * 4 * ms, rest_x + (x - rest_x) * share, rest_y + (y - rest_y) * share);
            stick(device, which, to + i * 4 * ms, x + (rest_x - x) * share, y + (rest_y - y) * share);
        }
    }
    void pull(DeviceId device, Axis axis, std::int64_t t, double value) {
        add(Event::axis_value(at(t), device, axis, step(value)));
    }
    void moved(std::int64_t t, double dx, double dy, double x, double y) {
        Event event = Event::of(at(t), EventType::motion, mouse);
        event.has_motion = event.has_position = true;
        event.dx = dx, event.dy = dy, event.x = x, event.y = y;
        add(event);
    }
    /// In a straight line, with a report every `period`.
    void glide(std::int64_t from, std::int64_t to, std::int64_t period, double to_x, double to_y) {
        const auto steps = (to - from) / period;
        const double dx = step((to_x - x_) / static_cast<double>(steps)),
                     dy = step((to_y - y_) / static_cast<double>(steps));
        for (std::int64_t i = 1; i <= steps; ++i) {
            x_ += dx, y_ += dy;
            moved(from + i * period, dx, dy, x_, y_);
        }
    }
    /// -1 to 1, in steps of 1/128, from a generator that is the same everywhere.
    double noise() {
        state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<double>(static_cast<std::int64_t>(state_ >> 33 & 0xFF) - 128) / 128;
    }

    std::vector<Event> sorted() {
        std::stable_sort(events_.begin(), events_.end(),
                         [](const Event& a, const Event& b) { return a.time < b.time; });
        return events_;
    }

private:
    static double step(double value) {
        const double scaled = value * 128;
        return static_cast<double>(static_cast<std::int64_t>(scaled < 0 ? scaled - 0.5 : scaled + 0.5)) / 128;
    }
    std::vector<Event> events_;
    double x_ = 320, y_ = 200;
    std::uint64_t state_ = 20261123;
};

DeviceInfo pad(const char* name, std::uint16_t product) {
    return {.kind = DeviceKind::gamepad,
            .name = name,
            .vendor = 0xFFF1,  // made up: no maker has it
            .product = product,
            .buttons = pad_buttons,
            .axes = all_axes};
}

void script(Script& shift) {
    const auto at = Script::at;
    shift.add(Event::connect(at(0), keyboard, {.name = "desk keyboard", .marks_repeats = true}));
    shift.add(Event::connect(at(0), mouse, {.kind = DeviceKind::mouse, .name = "fast mouse"}));
    shift.add(Event::connect(at(0), west_pad, pad("west pad", 1)));
    shift.add(Event::connect(at(0), east_pad, pad("east pad", 2)));
    for (const DeviceId device : {keyboard, mouse}) shift.add(Event::state(at(0), device, {}));
    // The east pad's left stick rests off its centre, and never quite still.
    constexpr double rest_x = 0.0625, rest_y = -0.046875;
    for (const DeviceId device : {west_pad, east_pad}) {
        Event rest = Event::state(at(0), device, {});
        for (std::uint8_t axis = 0; axis < first_extra_axis; ++axis) rest.axes.set({axis}, 0);
        if (device == east_pad) rest.axes.set(PadStickLeftX, rest_x), rest.axes.set(PadStickLeftY, rest_y);
        shift.add(rest);
    }
    const auto rest_of_east = [&](std::int64_t from, std::int64_t to) {
        for (std::int64_t t = from; t < to; t += 16 * ms)
            shift.stick(east_pad, PadStickLeft, t, rest_x + shift.noise() / 64, rest_y + shift.noise() / 64);
    };
    rest_of_east(100 * ms, 1500 * ms);

    // Each to his box: along the quay, trolley out on a diagonal, a quick flick that ends between two pictures.
    shift.push(west_pad, PadStickLeft, 400 * ms, 1700 * ms, 1, 0);
    shift.push(west_pad, PadStickLeft, 1900 * ms, 2500 * ms, 0.75, -0.75);
    shift.push(east_pad, PadStickLeft, 1500 * ms, 2600 * ms, -0.9, 0.3, rest_x, rest_y);
    rest_of_east(2700 * ms, 3600 * ms);
    shift.hold(west_pad, PadSouth, 2800 * ms, 2895 * ms);
    shift.hold(east_pad, PadSouth, 2850 * ms, 2856 * ms);

    // The job list by stick: held down, it repeats as a key does.
    shift.push(west_pad, PadStickRight, 3000 * ms, 3900 * ms, 0.1, 1);

    // A finger resting on the trigger, about the middle of its travel.
    shift.pull(west_pad, PadPullRight, 4100 * ms, 0.25);
    shift.pull(west_pad, PadPullRight, 4130 * ms, 0.5);
    for (int i = 0; i < 24; ++i) shift.pull(west_pad, PadPullRight, 4150 * ms + i * 12 * ms, 0.5 + shift.noise() / 16);
    shift.pull(west_pad, PadPullRight, 4460 * ms, 0.875);
    shift.pull(west_pad, PadPullRight, 4800 * ms, 0.3125);
    shift.pull(west_pad, PadPullRight, 4830 * ms, 0);

    // The east pad is unplugged while its operator hoists with the lock held.
    for (int i = 1; i <= 10; ++i) shift.stick(east_pad, PadStickRight, 5000 * ms + i * 4 * ms, 0, -i / 10.0);
    shift.add(Event::button(at(5100 * ms), east_pad, PadShoulderRight, true));
    shift.add(Event::disconnect(at(5600 * ms), east_pad));
    shift.add(Event::button(at(5650 * ms), east_pad, PadShoulderRight, false));
    // They share the keyboard until it is back: the left half for one, the right half for the other.
    shift.hold(keyboard, KeyW, 5900 * ms, 6700 * ms);
    shift.hold(keyboard, ArrowUp, 6100 * ms, 6900 * ms);
    shift.hold(keyboard, Enter, 7000 * ms, 7080 * ms);
    shift.add(Event::connect(at(7300 * ms), east_pad, pad("east pad", 2)));
    Event back = Event::state(at(7301 * ms), east_pad, {PadShoulderRight});
    back.axes.set(PadStickLeftX, rest_x);
    back.axes.set(PadStickLeftY, rest_y);
    back.axes.set(PadStickRightY, -1);
    shift.add(back);
    shift.add(Event::button(at(7600 * ms), east_pad, PadShoulderRight, false));
    shift.stick(east_pad, PadStickRight, 7620 * ms, 0, 0);
    rest_of_east(7700 * ms, 9000 * ms);

    // The bay plan: 8,000 reports a second to a box, a click; then a double click.
    shift.glide(8000 * ms, 8200 * ms, 125 * us, 412, 226);
    shift.hold(mouse, MouseLeft, 8400 * ms, 8480 * ms);
    shift.hold(mouse, MouseLeft, 9000 * ms, 9060 * ms);
    shift.hold(mouse, MouseLeft, 9180 * ms, 9250 * ms);
    // A box dragged to another place, and one of which somebody thinks better: pressed, slid off, let go.
    shift.add(Event::button(at(9800 * ms), mouse, MouseLeft, true));
    shift.glide(9850 * ms, 10250 * ms, 8 * ms, 540, 300);
    shift.add(Event::button(at(10300 * ms), mouse, MouseLeft, false));
    shift.add(Event::button(at(10700 * ms), mouse, MouseLeft, true));
    shift.glide(10720 * ms, 10900 * ms, 8 * ms, 560, 340);
    shift.add(Event::button(at(10950 * ms), mouse, MouseLeft, false));
    // A smooth wheel: five small turns make a step and a quarter.
    for (int i = 0; i < 5; ++i) {
        Event turn = Event::of(at(11200 * ms + i * 20 * ms), EventType::wheel, mouse);
        turn.dy = -0.25;
        shift.add(turn);
    }
    // The focus goes in the middle of a drag.
    shift.add(Event::button(at(11500 * ms), mouse, MouseLeft, true));
    shift.glide(11520 * ms, 11700 * ms, 8 * ms, 600, 360);
    shift.add(Event::focus(at(11750 * ms), false));
    shift.add(Event::button(at(11800 * ms), mouse, MouseLeft, false));
    shift.add(Event::focus(at(12000 * ms), true));
    for (const DeviceId device : {keyboard, mouse}) shift.add(Event::state(at(12000 * ms), device, {}));
    shift.push(west_pad, PadStickLeft, 12100 * ms, 12400 * ms, -1, 0);
}

}  // namespace

int main() {
    Script shift;
    script(shift);
    RecordingWriter writer{std::cout, Time{}};
    writer.header("Two operators at the quay, made up");
    for (const Event& event : shift.sorted()) writer.take(event);
    return std::cout.flush() ? 0 : 1;
}
