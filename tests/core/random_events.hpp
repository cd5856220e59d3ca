// Random streams of every kind of event, from a seed.
#pragma once

#include <cstdint>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "support/sanitizers.hpp"
#include "support/script.hpp"

namespace test {

using namespace cursorum;

/// How many random programs a test plays: sanitizers take their time, and get the first tenth.
constexpr std::uint64_t usual_count(std::uint64_t count) { return under_any_sanitizer ? count / 10 : count; }

/// A small generator that is the same on every machine.
class Random {
public:
    explicit Random(std::uint64_t seed) : state_{seed * 2862933555777941757ULL + 3037000493ULL} {}
    std::uint64_t below(std::uint64_t bound) {
        state_ = state_ * 6364136223846793005ULL + 1442695040888963407ULL;
        return (state_ >> 33) % bound;
    }
    bool one_in(std::uint64_t n) { return below(n) == 0; }

private:
    std::uint64_t state_;
};

inline constexpr Button random_buttons[] = {controls::KeyW,      controls::KeyS,       controls::Space,
                                            controls::ShiftLeft, controls::ShiftRight, controls::AltLeft,
                                            controls::F1,        controls::MouseLeft};
/// All that a frame shows of the buttons of random streams.
inline std::string all_of(const Frame& frame) {
    std::string all = edges_text(frame) + '\n';
    for (const Button button : random_buttons) all += text(frame[button].figures()) + '\n';
    return all + text(frame[controls::Shift].figures());
}

inline constexpr unsigned most_devices = 5;  // ids 1 to 5; a timeline may have room for fewer

/// Events at times that mostly go up, in small steps, now and then backwards.
class RandomEvents {
public:
    explicit RandomEvents(std::uint64_t seed, std::uint32_t first_device = 1)
        : random_{seed}, first_device_{first_device} {}

    Event next() {
        now_ += static_cast<std::int64_t>(random_.below(6));
        std::int64_t stamp = now_;
        if (random_.one_in(8)) stamp -= static_cast<std::int64_t>(random_.below(30));
        if (random_.one_in(20)) stamp += static_cast<std::int64_t>(random_.below(30));
        if (stamp < 0) stamp = 0;
        const Time time = nanoseconds_since_zero(stamp);
        const DeviceId device{first_device_ + static_cast<std::uint32_t>(random_.below(most_devices))};
        const std::uint64_t kind = random_.below(100);
        if (kind < 12) {
            return Event::connect(time, device,
                                  {.kind = random_.one_in(4) ? DeviceKind::mouse : DeviceKind::keyboard,
                                   .name = "random",
                                   .marks_repeats = random_.one_in(2),
                                   .background = random_.one_in(3)});
        }
        if (kind < 15) return Event::disconnect(time, device);
        if (kind < 20) return Event::focus(time, !random_.one_in(3));
        if (kind < 22) return Event::interrupt(time);
        if (kind < 30) {
            ButtonSet down;
            for (const Button button : random_buttons)
                if (random_.one_in(3)) down.insert(button);
            return Event::state(time, device, down, random_.one_in(4));
        }
        if (kind < 31) {  // axes alone
            Event event = Event::of(time, EventType::state, device);
            event.adopt = random_.one_in(2);
            return event;
        }
        if (kind < 34) return Event::of(time, EventType::motion, device);
        if (kind < 35)  // too little for a button
            return Event::axis_value(time, device, Axis{}, static_cast<double>(random_.below(3)) / 10);
        if (kind < 36) return Event::of(time, EventType::wheel, device);
        if (kind < 37) return Event::of(time, EventType::locks, {});
        if (kind < 38) return Event::of(time, EventType::text, {});
        const Button button = random_buttons[random_.below(std::size(random_buttons))];
        return Event::button(time, device, button, !random_.one_in(2), random_.one_in(5));
    }

    std::int64_t now() const { return now_; }

private:
    Random random_;
    std::uint32_t first_device_;
    std::int64_t now_ = 0;
};

}  // namespace test
