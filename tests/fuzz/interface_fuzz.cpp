// Any sequence of calls: posting on one to four inlets, cutting with and without gaps, peeking, saving and going back.
// Whatever is called, frames make sense: edges and spans lie within them, a look shows what the advance then gives, and
// going back gives the same frame again.

#include <cmath>
#include <limits>
#include <string>

#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/latency.hpp"
#include "cursorum/core/sampler.hpp"
#include "cursorum/core/tick_clock.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;
using namespace cursorum::controls;

namespace {

constexpr Button buttons[] = {KeyW,       ShiftLeft, ShiftRight, Space,    MouseLeft,
                              MouseRight, PadSouth,  Shift,      Button{}, Button{999}};
const double numbers[] = {0, 1, -1, 0.5, -0.25, 2, 1e300, std::numeric_limits<double>::quiet_NaN(), 3e9, 100};

std::string text_of(const Frame& frame) {
    std::string text;
    const auto add = [&](auto... values) { ((text += std::to_string(values) + ' '), ...); };
    for (const Edge edge : frame.edges())
        add(nanoseconds(edge.time), static_cast<unsigned>(edge.device), edge.button.number,
            static_cast<int>(edge.kind));
    for (const Button button : buttons) {
        const ButtonFigures f = frame[button].figures();
        add(f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(), f.repeat_count(),
            f.held_for().count(), f.down_span().count(), f.down());
        test::require(f.down_span() >= Duration{} && f.down_span() <= frame.length(), "a span lies within its frame");
        test::require(f.held_for() >= Duration{}, "a hold has a length");
        test::require(frame[button].pressed() == f.pressed() && frame[button].released() == f.released() &&
                          frame[button].down() == f.down() && frame[button].ended() == f.ended(),
                      "short readings are the figures'");
    }
    for (const Edge edge : frame.edges())
        test::require(edge.time >= frame.start() && edge.time <= frame.end(), "an edge lies within its frame");
    const PointerReading pointer = frame.pointer();
    Distance sum;
    for (const PointerSample& sample : pointer.samples()) sum.x += sample.motion.x;
    add(pointer.motion().x, pointer.motion().y, pointer.wheel().y, pointer.position().x, pointer.wheel_steps().y,
        sum.x);
    for (const Click& click : pointer.clicks()) {
        add(nanoseconds(click.released), click.count);
        test::require(click.count >= 1 && click.count < 256 && click.released <= frame.end(), "a click makes sense");
    }
    frame.for_each_value(PadStickLeft, [&](Time time, Vector2 v) {
        add(nanoseconds(time), v.x, v.y);
        test::require(time >= frame.start() && time <= frame.end(), "a value lies within its frame");
        test::require(v.x * v.x + v.y * v.y <= 1 + 1e-9, "no stick is longer than 1");
    });
    frame.for_each_contact([&](const ContactReading& c) { add(c.contact, c.began, c.ended, c.cancelled, c.down); });
    frame.for_each_device_change(
        [&](const DeviceChange& c) { add(nanoseconds(c.time), static_cast<unsigned>(c.device), c.connected); });
    for (const TextPiece& piece : frame.text())
        add(nanoseconds(piece.time), piece.key.number, static_cast<unsigned>(piece.phase), piece.text.size(),
            piece.caret);
    add(frame.text().composition().text.size(), static_cast<unsigned>(pointer.cursor().hold), pointer.cursor().hidden);
    add(pointer.target({0, 0, 50, 50}).clicks, pointer.drag(MouseLeft).active, frame.latency().events);
    return text;
}

void post(test::FuzzInput& input, Inlet& inlet, unsigned number, Time when) {
    const DeviceId device{1 + number * 10 + input.below(3)};
    const Button button = buttons[input.below(std::size(buttons))];
    const double x = numbers[input.below(std::size(numbers))], y = numbers[input.below(std::size(numbers))];
    const bool flag = input.below(2) != 0;
    switch (input.below(22)) {
        case 0:
            inlet.connect(device,
                          {.kind = static_cast<DeviceKind>(input.below(4)),
                           .marks_repeats = flag,
                           .background = input.below(2) != 0,
                           .is_virtual = input.below(2) != 0,
                           .first_contact_points = flag},
                          when);
            break;
        case 1: inlet.disconnect(device, when); break;
        case 2:
        case 3:
        case 4: inlet.button(device, button, flag, when); break;
        case 5: inlet.system_repeat(device, button, when); break;
        case 6: inlet.state(device, flag ? ButtonSet{button, KeyW} : ButtonSet{}, when, input.below(2) != 0); break;
        case 7: inlet.motion(device, x, y, when); break;
        case 8: inlet.wheel(device, x, y, when); break;
        case 9: inlet.moved_to(device, WindowPoint{x, y}, when); break;
        case 10: inlet.warped_to(device, WindowPoint{x, y}, when); break;
        case 11: inlet.pointer_inside(device, flag, when); break;
        case 12: inlet.cursor(device, {static_cast<CursorHold>(input.below(3)), flag}, when); break;
        case 13: inlet.axis(device, Axis{static_cast<std::uint8_t>(input.below(axis_kinds + 1))}, x, when); break;
        case 14: inlet.stick(device, PadStickLeft, x, y, when); break;
        case 15: inlet.contact(device, input.below(3), static_cast<ContactPhase>(input.below(4)), x, y, 1, when); break;
        case 16: flag ? inlet.lose_focus(when) : inlet.gain_focus(ButtonSet{button}, when); break;
        case 17: flag ? inlet.post(Event::interrupt(when)) : inlet.interrupt(ButtonSet{button}, when); break;
        case 18:
            inlet.set_shaping(device, {.thresholds = {.press = (1 + input.below(8)) / 8.0, .release = flag * 0.125}},
                              when);
            break;
        case 19: {
            static const std::string texts[] = {"a", "\u00e9\u65e5", "\xC3", "\n", std::string(200, 'x'), ""};
            Event text = Event::composed(when, static_cast<TextPhase>(input.below(5)),
                                         texts[input.below(std::size(texts))], input.below(300));
            text.control = flag ? button : Button{};
            text.device = input.below(2) != 0 ? device : DeviceId{};
            inlet.post(text);
            break;
        }
        case 20: inlet.cursor(device, {static_cast<CursorHold>(input.below(3)), flag}, when); break;
        default: inlet.locks(flag ? ButtonSet{CapsLock} : ButtonSet{}, when); break;
    }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    test::FuzzInput input{data, size};
    const unsigned inlets = 1 + input.below(4);
    Timeline timeline{{.inlets = inlets,
                       .motion_history = 64,
                       .axis_history = 64,
                       .occasion_history = 64,
                       .down = {KeyW},
                       .start = Time{}}};
    Sampler sampler{timeline, {.start = Time{}}};
    Profile profile;
    profile.modes = {{.name = "m",
                      .actions = {{.name = "b",
                                   .bindings = {{.buttons = {Space}}, {.buttons = {ShiftLeft, KeyW}}},
                                   .gesture = Gesture::double_tap,
                                   .gesture_time = Duration{50}}}}};
    profile.modes[0].text = input.below(2) != 0;
    ActionReader reader{profile};
    reader.open(ModeHandle{0});
    if (input.below(2) != 0) reader.set_area(ButtonAction{0}, ClickArea{{0, 0, 50, 50}});
    Sampler::State saved = sampler.save();
    ActionReader::State saved_reader = reader.save();
    std::int64_t now = 0, cut = 0, saved_cut = 0;
    while (!input.is_empty()) {
        const unsigned number = input.below(inlets);
        switch (const unsigned what = input.below(32)) {
            case 0: {
                cut += input.below(64);
                const std::string seen = text_of(sampler.peek(Time{Duration{cut}}));
                test::require(text_of(sampler.advance(Time{Duration{cut}})) == seen,
                              "a look shows what the advance gives");
                reader.read(sampler.frame());
                for (const TypingStep& step : reader.typing(ModeHandle{0}))
                    test::require(step.text.size() <= text_capacity, "each text is one that was posted");
                break;
            }
            case 1: {
                const std::int64_t from = cut + input.below(64), begin = from + input.below(64);
                cut = begin + input.below(64);
                const Tick tick{Time{Duration{from}}, Time{Duration{begin}}, Time{Duration{cut}},
                                static_cast<Tick::Gap>(input.below(3)), 0};
                const Sampler::State before = sampler.save();
                const std::string seen = text_of(sampler.advance(tick));
                reader.read(sampler.frame());
                const Sampler::State after = sampler.save();
                sampler.restore(before);
                test::require(text_of(sampler.advance(tick)) == seen, "going back gives the same frame");
                sampler.restore(after);
                break;
            }
            case 2:
                saved = sampler.save();
                saved_reader = reader.save();
                saved_cut = cut;
                break;
            case 3:
                sampler.restore(saved);
                reader.restore(saved_reader);
                cut = saved_cut;
                break;
            case 4: sampler.cancel_presses(); break;
            case 5:
                sampler.advance(Time{Duration{input.take<std::int64_t>()}});
                cut = nanoseconds(sampler.frame().end());
                break;
            case 6:
                for (unsigned i = input.below(200); i > 0; --i)
                    timeline.inlet(number).motion(DeviceId{2}, 1, 0, Time{Duration{now}});
                break;
            default: {
                now += input.below(16);
                std::int64_t stamp = now;
                if (what == 7) stamp -= input.below(200);
                if (what == 8) stamp += input.below(200);
                post(input, timeline.inlet(number), number, Time{Duration{stamp}});
            }
        }
        if (cut > nanoseconds(latest_time) / 2 || now > nanoseconds(latest_time) / 2) break;
    }
    return 0;
}
