// Gathers a frame's occurrences in order of time. Those from before a pause come first, then those that its end made.
#include "actions/occurrences.hpp"

#include <algorithm>

namespace cursorum::detail {

void Occurrences::reserve(const ActionMap& map) {
    constexpr std::size_t usual_count = 256, usual_texts = 32;  // beyond it, reading allocates
    all_.reserve(map.has_occurrences || map.has_text ? usual_count : usual_texts);
}

const Occurrence& Occurrences::take() noexcept {
    const Occurrence& it = all_[taken_++];
    if (it.kind == Occurrence::Kind::value) values_[it.number] = it.value;
    if (it.kind == Occurrence::Kind::locks) locks_ = it.locks;
    return it;
}

void Occurrences::gather(const ActionMap& map, const FrameInput& frame, DeviceFilter filter) {
    auto add_wheel = [&](const FrameInput::Moved& moved) {
        if (moved.steps == WheelSteps{}) return;
        const bool is_earlier = frame.has_gap && moved.time < frame.t0();  // else it is late
        all_.push_back(
            {.time = std::max(moved.time, is_earlier ? frame.last_cut() : frame.t0()),
             .part = is_earlier && frame.skip_at != FrameInput::no_skip ? PausePart::before : PausePart::after,
             .event = moved.number,
             .x = moved.steps.x,
             .y = moved.steps.y});
    };
    if (!map.of_wheel.empty())
        frame.walk_motion(filter, &add_wheel, [](void* to, const FrameInput::Moved& moved) {
            (*static_cast<decltype(add_wheel)*>(to))(moved);
        });
    if (!map.of_values.empty()) gather_values(map, frame, filter);
    if (map.of_locks.empty()) return;
    auto take = [&](const FrameInput::Cause& cause, unsigned on) {
        add({.time = cause.time,
             .kind = Occurrence::Kind::locks,
             .part = cause.part,
             .locks = static_cast<std::uint8_t>(on)});
    };
    locks_ = frame.walk_locks(&take, [](void* to, const FrameInput::Cause& cause, unsigned on) {
        (*static_cast<decltype(take)*>(to))(cause, on);
    });
}

void Occurrences::gather_texts(const FrameInput& frame) {
    for (std::uint32_t i = 0; i < frame.texts->count; ++i) {
        const bool is_before = frame.skip_at != FrameInput::no_skip && i < frame.skip_texts_at;
        const std::int64_t time = frame.texts->pieces[i].time;
        add({.time = std::max(time, frame.has_gap && time < frame.t0() ? frame.last_cut() : frame.t0()),
             .kind = Occurrence::Kind::text,
             .part = is_before ? PausePart::before : PausePart::after,
             .event = i});
    }
}

// Inserts by time, since there are few. (The library's merge would allocate.)
void Occurrences::add(const Occurrence& it) {
    const auto later = [](const Occurrence& one, const Occurrence& other) {
        return one.part != other.part ? one.part < other.part : one.time < other.time;
    };
    all_.insert(std::upper_bound(all_.begin(), all_.end(), it, later), it);
}

// Axes and touch surfaces with thresholds of their own.
void Occurrences::gather_values(const ActionMap& map, const FrameInput& frame, DeviceFilter filter) {
    for (std::uint16_t row = 0; row < map.of_values.size(); ++row) {
        const ValueSwitch& it = map.of_values[row];
        auto note = [&](const FrameInput::Cause& cause, double value) {
            add({.time = frame.time_in(cause.part, cause.time),
                 .kind = Occurrence::Kind::value,
                 .part = cause.part,
                 .is_forced = cause.is_forced,
                 .number = row,
                 .value = value});
        };
        if (it.touch == TouchPart::none) {
            values_[row] = frame.walk_side(it.axis, it.side, filter, &note,
                                           [](void* to, const FrameInput::Cause& cause, double value) {
                                               (*static_cast<decltype(note)*>(to))(cause, value);
                                           });
        } else {
            const auto value_of = [&](const FrameInput::Touch& touch) {
                return it.touch == TouchPart::pressure ? touch.pressure : touch.is_there;
            };
            auto take = [&](const FrameInput::Cause& cause, const FrameInput::Touch& touch) {
                note(cause, value_of(touch));
            };
            values_[row] = value_of(frame.walk_touch(
                filter, &take, [](void* to, const FrameInput::Cause& cause, const FrameInput::Touch& touch) {
                    (*static_cast<decltype(take)*>(to))(cause, touch);
                }));
        }
    }
}

}  // namespace cursorum::detail
