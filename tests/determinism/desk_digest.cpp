// Prints a line for each of many random frames: what it says of sticks, triggers, directions, pointer, clicks and
// buttons, down to the last bit. The same program must print the same, whatever compiled it, for whatever processor.

#include <bit>
#include <cinttypes>
#include <cstdio>

#include "core/random_events.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/shaping.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::Random;

constexpr DeviceId pads[] = {DeviceId{3}, DeviceId{4}};

/// 64-bit FNV-1a over values, not over bytes: these stand otherwise on another processor.
class Digest {
public:
    void add(std::uint64_t value) {
        for (unsigned shift = 0; shift < 64; shift += 8) hash_ = (hash_ ^ (value >> shift & 0xFF)) * 0x100000001B3U;
    }
    void add(double value) { add(std::bit_cast<std::uint64_t>(value)); }
    void add(Distance d) { add(d.x), add(d.y); }
    void add(WindowPoint p) { add(p.x), add(p.y); }
    void add(Vector2 v) { add(v.x), add(v.y); }
    void add(const AxisReading& a) { add(a.before), add(a.now), add(a.least), add(a.greatest); }
    void add(const ButtonFigures& f) {
        add(std::uint64_t{f.press_count()} << 32 | f.release_count());
        add(std::uint64_t{f.repeat_count()} << 2 | std::uint64_t{f.was_down()} << 1 | std::uint64_t{f.down()});
        add(static_cast<std::uint64_t>(f.down_span().count()));
        add(f.down_share());
    }
    std::uint64_t value() const { return hash_; }

private:
    std::uint64_t hash_ = 0xCBF29CE484222325U;
};

// In steps that no binary fraction is.
double share(Random& random) { return static_cast<double>(random.below(1001)) / 1000; }

ResponseCurve random_curve(Random& random) {
    // Braces: from left to right.
    return {.dead_zone = share(random) * 0.3, .outer_zone = share(random) * 0.3, .curve = share(random)};
}

DeviceShaping random_shaping(Random& random) {
    DeviceShaping shaping;
    for (StickShaping& stick : shaping.sticks) {
        stick.x.centre = share(random) * 0.2 - 0.1;
        stick.y.greatest = 0.8 + share(random) * 0.2;
        stick.response = random_curve(random);
        stick.zone = random.one_in(3) ? StickShaping::Zone::axial : StickShaping::Zone::radial;
        stick.directions = random.one_in(2) ? StickDirections::eight : StickDirections::four;
    }
    for (PullShaping& pull : shaping.pulls) pull.response = random_curve(random);
    return shaping;
}

void post_random(Inlet& inlet, Random& random, Time time) {
    // One after the other: arguments are evaluated in any order.
    const DeviceId pad = pads[random.below(2)];
    const std::uint64_t kind = random.below(8);
    const bool either = random.one_in(2), down = random.one_in(2);
    const double x = share(random), y = share(random);
    switch (kind) {
        case 0:
        case 1: inlet.motion((x - 0.5) * 977, (y - 0.5) * 977, time); break;
        case 2: inlet.moved_to(WindowPoint{(x - 0.5) * 977, (y - 0.5) * 977}, time); break;
        case 3: inlet.wheel(x - 0.5, y * 3 - 1.5, time); break;
        case 4: inlet.stick(pad, either ? PadStickLeft : PadStickRight, x * 2 - 1, y * 2 - 1, time); break;
        case 5: inlet.axis(pad, either ? PadPullLeft : PadPullRight, x, time); break;
        case 6: inlet.button(MouseLeft, down, time); break;
        default: inlet.button(pad, either ? PadSouth : PadEast, down, time); break;
    }
}

std::uint64_t digest_of(const Frame& frame) {
    Digest d;
    const PointerReading pointer = frame.pointer();
    d.add(pointer.motion()), d.add(pointer.wheel()), d.add(pointer.position());
    d.add(static_cast<std::uint64_t>(pointer.wheel_steps().x) << 32 ^
          static_cast<std::uint32_t>(pointer.wheel_steps().y));
    for (const PointerSample& sample : pointer.samples()) d.add(sample.motion);
    for (const Click& click : pointer.clicks()) d.add(click.from), d.add(click.to), d.add(click.farthest);
    for (const DeviceId pad : pads) {
        for (const Stick stick : {PadStickLeft, PadStickRight}) d.add(frame.on(pad).stick(stick).now);
        for (const Axis pull : {PadPullLeft, PadPullRight}) d.add(frame.on(pad).trigger(pull));
    }
    d.add(frame.stick(PadStickLeft).mean), d.add(frame.trigger(PadPullRight).mean);
    d.add(frame.direction({.left = {MouseLeft}, .right = {PadSouth}, .up = {PadEast}}, PadStickRight).mean);
    d.add(frame.stick(PadStickLeft).now), d.add(frame.raw_axis(PadStickRightX));
    for (const Button button : {PadStickLeftUp, PadStickLeftRight, PadStickRightDown, axis_button(PadPullLeft),
                                axis_button(PadStickLeftY, AxisSide::negative), MouseLeft, PadSouth})
        d.add(frame[button].figures());
    return d.value();
}

}  // namespace

int main() {
    Random random{20261123};
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    for (const DeviceId pad : pads) inlet.connect(pad, {.kind = DeviceKind::gamepad}, Time{});
    Sampler sampler{timeline, {.start = Time{}}};
    std::int64_t now = 0;
    for (int frame = 0; frame < 4000; ++frame) {
        if (frame % 50 == 0)
            for (const DeviceId pad : pads) inlet.set_shaping(pad, random_shaping(random), nanoseconds_since_zero(now));
        for (std::uint64_t events = random.below(12); events > 0; --events) {
            now += static_cast<std::int64_t>(random.below(3'000'000));
            post_random(inlet, random, nanoseconds_since_zero(now));
        }
        now += 1;
        std::printf("%d %016" PRIx64 "\n", frame, digest_of(sampler.advance(nanoseconds_since_zero(now))));
    }
    return 0;
}
