// What a frame says of the pointer.
#include <algorithm>
#include <cmath>
#include <utility>

#include "core/fixed_point.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

using detail::DeskEntries;
using detail::FactKind;
using detail::FactSlot;
using detail::FixedDistance;
using detail::MotionSlot;

namespace {

WheelSteps wheel_steps_of(std::uint64_t steps) noexcept {
    return {static_cast<std::int32_t>(steps), static_cast<std::int32_t>(steps >> 32)};
}

Distance distance(const FixedDistance& fixed) noexcept {
    const WindowPoint p = point_of(fixed);
    return {p.x, p.y};
}

}  // namespace

// ---- samples

SampleRange::Iterator::Iterator(const Frame& frame, detail::DeviceFilter device) noexcept : Iterator{frame} {
    device_ = device;
    ++*this;
}

SampleRange::Iterator::Iterator(const Frame& frame) noexcept : frame_{&frame}, device_{Frame::every_device} {
    const DeskEntries& entries = *frame.desk_entries_;
    for (unsigned i = 0; i < frame.timeline_->inlet_count(); ++i) {
        const detail::MotionSpan& span = entries.spans[i];
        const MotionSlot& before = span.has_gap ? span.gap : span.before();
        ways_[i] = {span.from, span.any ? span.to : span.from, before.motion, before.raw, before.wheel, before.steps};
    }
}

/// The next event of motion or wheel, in `slot_`; the earliest of the inlets', ties by number.
bool SampleRange::Iterator::next_slot() noexcept {
    const DeskEntries& entries = *frame_->desk_entries_;
    const Timeline& timeline = *frame_->timeline_;
    if (entries.keeps) {
        if (kept_ == entries.kept.size()) return false;
        slot_ = entries.kept[kept_++];
        return true;
    }
    Way* first = nullptr;
    MotionSlot other;
    const unsigned inlets = timeline.inlet_count();
    for (unsigned i = 0; i < inlets; ++i) {
        Way& way = ways_[i];
        const detail::MotionRing& ring = timeline.inlet(i).motions_;
        MotionSlot& slot = first ? other : slot_;
        const detail::MotionSpan& span = entries.spans[i];
        if (span.has_hole && way.at >= span.hole_from && way.at < span.hole_to) {
            const MotionSlot& base = span.end_of_hole;
            way = {span.hole_to, way.end, base.motion, base.raw, base.wheel, base.steps};
        }
        // What was overwritten since is passed over.
        while (way.at != way.end && !ring.try_read(way.at, slot)) ++way.at;
        if (way.at == way.end || (first && slot.time >= slot_.time)) continue;
        if (first) slot_ = other;
        first = &way;
    }
    if (!first) return false;
    ++first->at;
    for (unsigned axis = 0; axis < 2; ++axis) {
        slot_.motion[axis] -= std::exchange(first->motion[axis], slot_.motion[axis]);
        slot_.raw[axis] -= std::exchange(first->raw[axis], slot_.raw[axis]);
        slot_.wheel[axis] -= std::exchange(first->wheel[axis], slot_.wheel[axis]);
    }
    const std::uint64_t steps = std::exchange(first->steps, slot_.steps);
    slot_.steps = MotionSlot::steps_between(steps, slot_.steps);
    return true;
}

bool SampleRange::Iterator::next_wheel_step(Time& time, WheelSteps& steps) noexcept {
    do {
        if (!next_slot()) return false;
    } while (slot_.steps == 0 || !frame_->stands_for(device_, slot_.device()));
    time = Time{Duration{std::max(slot_.time, frame_->state_->t0)}};
    steps = wheel_steps_of(slot_.steps);
    return true;
}

SampleRange::Iterator& SampleRange::Iterator::operator++() noexcept {
    do {
        if (!next_slot()) {
            ended_ = true;
            return *this;
        }
    } while (slot_.is_wheel() || !frame_->stands_for(device_, slot_.device()));
    if (slot_.device() != last_device_) {
        last_device_ = slot_.device();
        last_id_ = frame_->id_of(last_device_);
    }
    sample_ = {.time = Time{Duration{std::max(slot_.time, frame_->state_->t0)}},
               .device = last_id_,
               .motion = distance(slot_.motion),
               .raw = distance(slot_.raw),
               .position = point_of(slot_.position),
               .has_position = slot_.is_placed()};
    return *this;
}

// ---- sums and positions

FixedDistance PointerReading::added(FixedDistance MotionSlot::*total) const noexcept {
    FixedDistance sum{};
    for (unsigned i = 0; i < frame_->timeline_->inlet_count(); ++i) {
        const detail::MotionSpan& span = frame_->desk_entries_->spans[i];
        if (!span.any) continue;
        const FixedDistance &before = span.before().*total, &now = span.after().*total;
        sum = {sum[0] + now[0] - before[0], sum[1] + now[1] - before[1]};
        if (!span.has_hole) continue;
        const FixedDistance &hole_begin = span.before_hole.*total, &hole_end = span.end_of_hole.*total;
        sum = {sum[0] + hole_begin[0] - hole_end[0], sum[1] + hole_begin[1] - hole_end[1]};
    }
    return sum;
}

Distance PointerReading::motion() const noexcept {
    if (device_ == Frame::every_device) return distance(added(&MotionSlot::motion));
    Distance sum;  // of multiples of 1/65536: exact
    for (const PointerSample& sample : samples()) sum.x += sample.motion.x, sum.y += sample.motion.y;
    return sum;
}

Distance PointerReading::raw_motion() const noexcept {
    if (device_ == Frame::every_device) return distance(added(&MotionSlot::raw));
    Distance sum;
    for (const PointerSample& sample : samples()) sum.x += sample.raw.x, sum.y += sample.raw.y;
    return sum;
}

Distance PointerReading::wheel() const noexcept {
    if (device_ == Frame::every_device) return distance(added(&MotionSlot::wheel));
    FixedDistance sum{};
    SampleRange::Iterator walk{*frame_};
    while (walk.next_slot())
        if (frame_->stands_for(device_, walk.slot_.device()))
            sum = {sum[0] + walk.slot_.wheel[0], sum[1] + walk.slot_.wheel[1]};
    return distance(sum);
}

WheelSteps PointerReading::wheel_steps() const noexcept {
    std::array<std::uint32_t, 2> sum{};
    for (unsigned i = 0; i < frame_->timeline_->inlet_count(); ++i) {
        const detail::MotionSpan& span = frame_->desk_entries_->spans[i];
        if (!span.any) continue;
        const auto add = [&](std::uint64_t steps) {
            sum[0] += static_cast<std::uint32_t>(steps);
            sum[1] += static_cast<std::uint32_t>(steps >> 32);
        };
        add(MotionSlot::steps_between(span.before().steps, span.after().steps));
        if (span.has_hole) add(MotionSlot::steps_between(span.end_of_hole.steps, span.before_hole.steps));
    }
    return wheel_steps_of(sum[0] | std::uint64_t{sum[1]} << 32);
}

bool PointerReading::moved() const noexcept {
    if (motion() != Distance{} || raw_motion() != Distance{} || wheel() != Distance{}) return true;
    if (device_ == Frame::every_device && has_position() &&
        (!frame_->desk_->placed || position() != previous_position()))
        return true;
    SampleRange::Iterator walk{*frame_};
    while (walk.next_slot())
        if (frame_->stands_for(device_, walk.slot_.device()) &&
            (walk.slot_.motion != FixedDistance{} || walk.slot_.wheel != FixedDistance{}))
            return true;
    return false;
}

// Of one device, what it told itself: a slot knows where the pointer is, whoever put it there.
std::optional<WindowPoint> PointerReading::own_position() const noexcept {
    std::optional<WindowPoint> last;
    SampleRange::Iterator walk{*frame_};
    while (walk.next_slot())
        if (walk.slot_.places() && frame_->stands_for(device_, walk.slot_.device()))
            last = point_of(walk.slot_.position);
    return last;
}

bool PointerReading::has_position() const noexcept {
    return device_ == Frame::every_device ? frame_->desk_entries_->placed : own_position().has_value();
}

WindowPoint PointerReading::position() const noexcept {
    if (device_ == Frame::every_device) return point_of(frame_->desk_entries_->pointer);
    return own_position().value_or(WindowPoint{});
}

WindowPoint PointerReading::previous_position() const noexcept { return point_of(frame_->desk_->pointer); }
bool PointerReading::inside() const noexcept { return !frame_->desk_entries_->outside; }
bool PointerReading::was_inside() const noexcept { return !frame_->desk_->outside; }
bool PointerReading::locked() const noexcept { return frame_->desk_entries_->locked; }
bool PointerReading::was_locked() const noexcept { return frame_->desk_->locked; }

// ---- clicks

namespace {

Click click_of(const FactSlot& fact, DeviceId device) noexcept {
    return {.device = device,
            .button = {fact.button()},
            .pressed = Time{Duration{fact.begin_time}},
            .released = Time{Duration{fact.time}},
            .from = point_of(fact.begin),
            .to = point_of(fact.position),
            .farthest = std::sqrt(fact.measure),
            .count = fact.count(),
            .has_position = fact.is_placed()};
}

}  // namespace

ClickRange::Iterator::Iterator(const Frame& frame, detail::DeviceFilter device) noexcept
    : frame_{&frame}, device_{device} {
    skip();
}

bool ClickRange::Iterator::is_at_end() const noexcept { return index_ >= frame_->desk_entries_->fact_count; }

void ClickRange::Iterator::skip() noexcept {
    for (; !is_at_end(); ++index_) {
        const FactSlot& fact = frame_->desk_entries_->facts[index_];
        if (fact.kind() == FactKind::release && !fact.is_dragging() &&
            fact.begin_time > frame_->desk_->no_clicks_before && frame_->stands_for(device_, fact.device()))
            return;
    }
}

ClickRange::Iterator& ClickRange::Iterator::operator++() noexcept {
    ++index_;
    skip();
    return *this;
}

Click ClickRange::Iterator::operator*() const noexcept {
    const FactSlot& fact = frame_->desk_entries_->facts[index_];
    return click_of(fact, frame_->id_of(fact.device()));
}

DragReading PointerReading::drag(Button button) const noexcept {
    DragReading reading;
    const detail::DeskState& desk = *frame_->desk_;
    const DeskEntries& entries = *frame_->desk_entries_;
    const auto concerns = [&](const FactSlot& fact) {
        return fact.is_press() && fact.button() == button.number && fact.is_dragging() &&
               frame_->stands_for(device_, fact.device());
    };
    const auto take = [&](const FactSlot& fact) {
        const bool called_off = fact.begin_time <= desk.no_clicks_before;
        reading.active = fact.kind() == FactKind::drag && !called_off;
        reading.from = point_of(fact.begin);
        reading.to = point_of(fact.position);
        reading.pressed = Time{Duration{fact.begin_time}};
        return called_off;
    };
    for (const FactSlot& fact : desk.presses)
        if (concerns(fact) && fact.goes_on())
            reading.cancelled |= take(fact) && desk.no_clicks_before == frame_->state_->t0;
    for (std::uint32_t i = 0; i < entries.fact_count; ++i) {
        const FactSlot& fact = entries.facts[i];
        if (!concerns(fact) || take(fact)) continue;
        reading.began |= fact.kind() == FactKind::drag;
        reading.dropped |= fact.kind() == FactKind::release;
        reading.cancelled |= fact.kind() == FactKind::cancel;
    }
    if (reading.active && has_position() && !locked()) reading.to = position();
    return reading;
}

TargetReading PointerReading::target(const WindowRect& rect) const noexcept {
    return target(rect, controls::MouseLeft);
}

TargetReading PointerReading::target(const WindowRect& rect, Button button) const noexcept {
    TargetReading reading;
    const detail::DeskState& desk = *frame_->desk_;
    const DeskEntries& entries = *frame_->desk_entries_;
    // The pointer is where any device put it, whichever device's clicks are asked for.
    const bool over = entries.placed && inside() && !locked() && rect.contains(point_of(entries.pointer));
    reading.hovered = over;
    // The last fact of each press in progress tells whether it goes on.
    std::array<bool, press_capacity> held{};
    const auto take = [&](const FactSlot& fact, bool is_new) {
        if (!fact.is_press() || fact.button() != button.number || fact.begin_time <= desk.no_clicks_before ||
            !fact.is_placed() || !frame_->stands_for(device_, fact.device()))
            return;
        const bool on_it = rect.contains(point_of(fact.begin));
        held[fact.place()] = on_it && fact.goes_on();
        if (!is_new || !on_it) return;
        reading.pressed |= fact.kind() == FactKind::press;
        if (fact.kind() != FactKind::release || !rect.contains(point_of(fact.position))) return;
        ++reading.clicks;
        reading.count = fact.is_dragging() ? 1 : fact.count();
    };
    for (const FactSlot& fact : desk.presses)
        if (fact.goes_on() && fact.what != 0) take(fact, false);
    for (std::uint32_t i = 0; i < entries.fact_count; ++i) take(entries.facts[i], true);
    for (const bool is_held : held) reading.armed |= is_held && over;
    return reading;
}

}  // namespace cursorum
