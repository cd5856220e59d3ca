// Two operators at one desk: a gamepad each, a keyboard that they share when one of the pads is unplugged, and a mouse
// on the bay plan. Played from a recording in fixed steps of 1/60 s; prints what each of them did.
//
//   quay_desk FILE

#include <array>
#include <cstdio>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/cursorum.hpp"
#include "quay_crane.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

constexpr DeviceId keyboard{1}, west_pad{3}, east_pad{4};
constexpr double crane_speed = 2.5, trolley_speed = 3;  // metres per second

struct Operator {
    const char* name;
    double crane = 0, trolley = 0;  // metres
    unsigned locks = 0, jobs = 0;
};

class Desk {
public:
    void step(const Frame& frame, double length) {
        seats_.read(frame);
        tell_changes();
        for (unsigned i = 0; i < operators_.size(); ++i) {
            Operator& op = operators_[i];
            const SeatFrame own = seats_[i];
            // With the pad gone, keys drive the trolley: whichever of the halves is this operator's. One reading for
            // all, so that both keys, or a key and the stick, are not faster than one of them.
            const Vector2 way = own.direction({.up = {KeyW, ArrowUp}}, PadStickLeft).mean;
            op.crane += crane_speed * length * way.x;
            op.trolley -= trolley_speed * length * way.y;
            op.locks += own[PadSouth].press_count();
            op.jobs +=
                static_cast<unsigned>(own[PadStickRightDown].steps());  // presses, and repeats while it is held down
        }
        bay_plan(frame);
    }
    void print() const {
        for (const Operator& op : operators_)
            std::printf(
                "%-5s crane %+.3f m, trolley %+.3f m, uses of the spreader's lock: %u, steps down the job list: %u\n",
                op.name, op.crane, op.trolley, op.locks, op.jobs);
    }

private:
    void tell_changes() {
        for (std::size_t i = 0; i < seats_.change_count(); ++i) {
            const SeatChange& change = seats_.change(i);
            const char* const name = operators_[change.seat].name;
            if (change.kind == SeatChange::Kind::away && change.device != keyboard) {
                std::printf("%8.3f s  %s's pad is gone: paused, and the keyboard is shared\n", at(change.time), name);
                seats_.give(keyboard, 0, left_half());
                seats_.give(keyboard, 1, right_half());
            }
            if (change.kind == SeatChange::Kind::back && change.device != keyboard) {
                std::printf("%8.3f s  %s's pad is back\n", at(change.time), name);
                seats_.unassign(keyboard);
            }
        }
    }
    /// Two boxes on the plan, as rectangles of the window.
    void bay_plan(const Frame& frame) {
        struct Box {
            const char* name;
            WindowRect place;
        };
        constexpr std::array boxes{Box{"BX 101", {390, 210, 40, 30}}, Box{"BX 207", {520, 290, 40, 30}}};
        const PointerReading pointer = frame.pointer();
        for (const Box& box : boxes) {
            const TargetReading target = pointer.target(box.place);
            if (target.clicked())
                std::printf("%8.3f s  %s picked%s\n", at(frame.end()), box.name, target.count > 1 ? ", twice" : "");
        }
        const DragReading drag = pointer.drag(MouseLeft);
        for (const Box& box : boxes)
            if (drag.dropped && box.place.contains(drag.from) && !box.place.contains(drag.to))
                std::printf("%8.3f s  %s slid off: not picked\n", at(frame.end()), box.name);
        if (drag.dropped)
            std::printf("%8.3f s  dragged from %.0f, %.0f to %.0f, %.0f\n", at(frame.end()), drag.from.x, drag.from.y,
                        drag.to.x, drag.to.y);
        if (drag.cancelled) std::printf("%8.3f s  drag called off\n", at(frame.end()));
    }
    static double at(Time time) { return seconds(time.time_since_epoch()); }

    Seats seats_ = [] {
        Seats seats{2};
        seats.give(west_pad, 0);
        seats.give(east_pad, 1);
        return seats;
    }();
    std::array<Operator, 2> operators_{Operator{"west"}, Operator{"east"}};
};

/// The east pad's stick rests off its centre: what `cursorum devices --rest` proposes for it.
void shape(Inlet& inlet, Time when) {
    DeviceShaping shaping;
    StickShaping& left = shaping.sticks[PadStickLeft.number];
    left.x.centre = 0.0547;
    left.y.centre = -0.0469;
    left.response.dead_zone = 0.06;
    inlet.set_shaping(east_pad, shaping, when);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::fprintf(stderr, "usage: quay_desk FILE\nexample: quay_desk demo/two-operators.jsonl\n");
        return 2;
    }
    std::vector<Event> events;
    if (!quay::load(argv[1], events)) return 2;

    Timeline timeline{{.devices = 8, .desk_devices = false}};
    Sampler simulation{timeline, {.start = Time{}}};
    Desk desk;
    std::size_t next = 0;
    for (std::int64_t step = 1; next < events.size(); ++step) {
        const Time cut{Duration{step * 1'000'000'000 / 60}};
        for (; next < events.size() && events[next].time <= cut; ++next) {
            timeline.desk().post(events[next]);
            if (events[next].type == EventType::connect && events[next].device == east_pad)
                shape(timeline.desk(), events[next].time);
        }
        const Frame& frame = simulation.advance(cut);
        desk.step(frame, seconds(frame.length()));
    }
    desk.print();
    return 0;
}
