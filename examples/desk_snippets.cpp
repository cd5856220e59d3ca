// The snippets of docs/pointer-pads-and-seats.md, as they are shown there, in a program that compiles.

#include <array>
#include <cstdint>

#include "cursorum/core/polled_state.hpp"
#include "cursorum/core/rest_finder.hpp"
#include "cursorum/core/rumble.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/cursorum.hpp"

using namespace cursorum;
using namespace cursorum::controls;
using namespace std::chrono_literals;

namespace {

constexpr DeviceId keyboard{1}, pad{3}, left_hand{4}, surface{5};

struct Drawn {
    void draw_at(WindowPoint) {}
    void turn(Distance, int) {}
    void add(Time, WindowPoint) {}
    void open(WindowPoint) {}
    void draw(bool, bool) {}
    void draw(std::uint32_t, WindowPoint) {}
    void follow(WindowPoint) {}
    void put_down(WindowPoint) {}
    void put_back(WindowPoint) {}
    void toggle_lock() {}
};
struct Motors final : RumbleSink {
    bool try_rumble(const RumbleRequest&, Time) override { return true; }
};
constexpr std::array<int, 4> my_pads{};
PadSlot slot_of(int) { return {}; }
void sound_horn() {}
void pause() {}

void guide(Inlet& inlet, const Frame& frame, Time now, Time sample_time, double value, const Camera& view,
           RestFinder& finder, DeviceShaping& shaping, Rumble& rumble, Motors& motors, Motors& recording,
           const std::array<std::uint8_t, 256>& key_bytes) {
    Drawn cursor, camera, stroke, plan, button, box, crane, fingers;
    // clang-format off
    const PointerReading pointer = frame.pointer();
    if (pointer.has_position()) cursor.draw_at(pointer.position());
    camera.turn(pointer.motion(), pointer.wheel_steps().y);
    for (const PointerSample& sample : pointer.samples()) stroke.add(sample.time, sample.position);

    for (const Click& click : pointer.clicks())
        if (click.count == 2) plan.open(click.to);
    const TargetReading horn = pointer.target({20, 560, 80, 24});
    button.draw(horn.hovered, horn.armed);
    if (horn.clicked()) sound_horn();
    const DragReading drag = pointer.drag(MouseLeft);
    if (drag.active) box.follow(drag.to);
    if (drag.dropped) box.put_down(drag.to);
    if (drag.cancelled) box.put_back(drag.from);

    const auto seen = letterbox({800, 600}, {320, 180}).then(camera_transform(view, {320, 180}));
    const WorldPoint at = seen(pointer.position());

    const DeviceSnapshot before = frame.on(pad).previous(), now_is = frame.on(pad).current();
    const DeviceSnapshotFrame change = compare(before, now_is);       // what lies between two cuts is not in it: taps are lost
    if (change[PadSouth].pressed() && before.pulls[1] < now_is.pulls[1]) crane.toggle_lock();

    finder.add(sample_time, PadStickLeftX, value);                   // while nobody touches it, and then all the way round
    const StickRest rest = finder.stick(PadStickLeft);
    if (rest.found) shaping.sticks[PadStickLeft.number] = rest.shaping;
    inlet.set_shaping(pad, shaping);

    rumble.ask({.device = left_hand, .strong = 0.6, .length = 80ms}); // the other hand feels nothing

    rumble.ask({.device = pad, .strong = 0.8, .weak = 0.2, .length = 150ms});
    RumbleCarrier carrier{rumble, inlet, motors, &recording};         // on the source's thread; the recording keeps it
    carrier.carry_out(now);                                          // once a round

    inlet.contact(surface, 7, ContactPhase::begin, 120, 80);
    frame.for_each_contact([&](const ContactReading& contact) { fingers.draw(contact.contact, contact.position); });

    inlet.state(keyboard, keys_from_bytes(key_bytes, 0x80), now);    // 256 bytes, the high bit says down
    post(inlet, pad, PolledPad{.down = {PadSouth}, .left = {0.5, 0}}, now);
    for (std::uint32_t n = 0; n < 4; ++n)                            // an engine's places for pads, with or without one
        post(inlet, DeviceId{20 + n}, slot_of(my_pads[n]), standard_pad_numbering(), now);

    Seats seats{2};
    seats.offer({.buttons = {PadStart, Enter, Space}, .halves = true});  // press to take a seat; keyboards by halves
    seats.read(frame);                                               // each frame once, after advance
    for (std::size_t i = 0; i < seats.change_count(); ++i)
        if (seats.change(i).kind == SeatChange::Kind::away) pause();
    if (seats[0][PadSouth].pressed()) crane.toggle_lock();
    // clang-format on
    (void)at;
}

}  // namespace

int main() {
    Timeline timeline{{.devices = 8}};
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = Time{}}};
    inlet.connect(pad, {.kind = DeviceKind::gamepad}, Time{});
    inlet.connect(surface, {.kind = DeviceKind::touch}, Time{});
    inlet.moved_to(WindowPoint{30, 570}, Time{});
    inlet.stick(pad, PadStickLeft, 0, 1, Time{});
    RestFinder finder;
    DeviceShaping shaping;
    Rumble rumble;
    Motors motors, recording;
    const Time now{Duration{1}};
    const Frame& frame = sampler.advance(now);
    guide(inlet, frame, now, now, 0, {}, finder, shaping, rumble, motors, recording, {});
    return frame[PadStickLeftDown].pressed() && rumble.counters().carried_out == 4 ? 0 : 1;
}
