// What a frame says of the pointer and the wheel: sums and positions from both ends of its span, and every sample in
// order by walking the rings of all inlets together.
#include <algorithm>
#include <new>
#include <optional>
#include <utility>

#include "core/frame/frame_core.hpp"
#include "core/rules/fixed_point.hpp"

namespace cursorum {

using detail::DeviceFilter;
using detail::FixedDistance;
using detail::MotionSlot;
using detail::OtherEntries;

namespace {

WheelSteps wheel_steps_of(std::uint64_t steps) noexcept {
    return {static_cast<std::int32_t>(steps), static_cast<std::int32_t>(steps >> 32)};
}

Distance distance(const FixedDistance& fixed) noexcept {
    const WindowPoint p = point_of(fixed);
    return {p.x, p.y};
}

/// Iterates over the motion and wheel events of a frame.
class MotionWalk {
public:
    MotionWalk(const detail::FrameWindow& window, const DeviceFilter& devices) noexcept
        : frame_{&core_of(window)}, devices_{devices} {
        for (unsigned i = 0; i < frame_->timeline->inlet_count(); ++i) {
            const detail::MotionSpan& span = frame_->other_entries().spans[i];
            const MotionSlot& before = span.has_gap ? span.gap : span.before();
            ways_[i] = {span.from,   span.any ? span.to : span.from, before.motion, before.raw, before.wheel,
                        before.steps};
        }
    }

    /// The next event of the devices, the earliest of all inlets', ties by the inlet's number. Returns false at the
    /// end.
    bool next() noexcept {
        do {
            if (!next_of_any()) return false;
        } while (!frame_->includes(devices_, slot_.device()));
        return true;
    }
    /// The event, with the distances that it added in place of the totals.
    const MotionSlot& slot() const noexcept { return slot_; }
    /// When it took effect.
    Time time() const noexcept { return Time{Duration{std::max(slot_.time, frame_->state().t0)}}; }
    DeviceId device() noexcept {
        if (slot_.device() != last_device_) {
            last_device_ = slot_.device();
            last_id_ = frame_->id_of(last_device_);
        }
        return last_id_;
    }

private:
    bool next_of_any() noexcept;

    const FrameCore* frame_;
    DeviceFilter devices_;
    std::size_t kept_ = 0;
    unsigned last_device_ = 256;  // none
    DeviceId last_id_{};
    MotionSlot slot_;
    /// The position in each inlet, and the totals there.
    struct Way {
        std::uint64_t at, end;
        FixedDistance motion, raw, wheel;
        std::uint64_t steps;
    };
    std::array<Way, inlet_capacity> ways_;
};
static_assert(std::is_trivially_copyable_v<MotionWalk>);

bool MotionWalk::next_of_any() noexcept {
    const OtherEntries& entries = frame_->other_entries();
    const TimelineCore& timeline = *frame_->timeline;
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
        // Slots that have been overwritten since are skipped.
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

}  // namespace

void FrameCore::walk_motion(DeviceFilter filter, void* to, void (*visit)(void*, const Moved&)) const {
    std::uint32_t number = 0;
    for (MotionWalk walk{*this, filter}; walk.next(); ++number) {
        const MotionSlot& slot = walk.slot();
        visit(to, {slot.time, distance(slot.motion), distance(slot.raw), distance(slot.wheel),
                   wheel_steps_of(slot.steps), number, &slot});
    }
}

std::optional<std::uint64_t> FrameCore::position_of(const detail::StoredEdge& edge) const noexcept {
    const auto is_same = [&](const detail::StoredEdge& other) {
        return other.button() == edge.button() && other.device() == edge.device() &&
               other.what().kind() == edge.what().kind();
    };
    // Of several that look the same, this one is as far from the last of them as in the frame. (Late ones have another
    // time there.)
    std::ptrdiff_t later = std::count_if(&edge + 1, edges + count, is_same);
    const unsigned inlet = timeline->inlet_of(edge.device());
    const detail::EdgeRing& ring = timeline->inlet(inlet).ring_;
    detail::Slot slot;
    for (std::uint64_t at = state_->inlets[inlet].edges; at > ring.oldest() && ring.try_read(at - 1, slot); --at)
        if (is_same(slot) && later-- == 0) return at - 1;
    return std::nullopt;
}

bool FrameCore::is_after(const MotionSlot& motion, const detail::StoredEdge& edge) const noexcept {
    const unsigned of_motion = timeline->inlet_of(motion.device()), of_edge = timeline->inlet_of(edge.device());
    if (of_motion != of_edge) return of_motion > of_edge;
    const auto position = position_of(edge);
    return position && motion.is_after_edge(*position);
}

// ---- samples

SampleRange::Iterator::Iterator(const detail::FrameWindow& frame, const DeviceFilter& devices) noexcept {
    new (walk_.bytes) MotionWalk{frame, devices};
    ++*this;
}

SampleRange::Iterator& SampleRange::Iterator::operator++() noexcept {
    MotionWalk& walk = walk_.as<MotionWalk>();
    do {
        if (!walk.next()) {
            ended_ = true;
            return *this;
        }
    } while (walk.slot().is_wheel());
    const MotionSlot& slot = walk.slot();
    sample_ = {.time = walk.time(),
               .device = walk.device(),
               .motion = distance(slot.motion),
               .raw = distance(slot.raw),
               .position = point_of(slot.position),
               .has_position = slot.is_placed()};
    return *this;
}

void PointerReading::walk_wheel_steps(void* to, void (*visit)(void*, Time, WheelSteps)) const {
    for (MotionWalk walk{*frame_, devices_}; walk.next();)
        if (walk.slot().steps != 0) visit(to, walk.time(), wheel_steps_of(walk.slot().steps));
}

// ---- sums and positions

namespace {

FixedDistance added(const FrameCore& frame, FixedDistance MotionSlot::*total) noexcept {
    FixedDistance sum{};
    for (unsigned i = 0; i < frame.timeline->inlet_count(); ++i) {
        const detail::MotionSpan& span = frame.other_entries().spans[i];
        if (!span.any) continue;
        const FixedDistance &before = span.before().*total, &now = span.after().*total;
        sum = {sum[0] + now[0] - before[0], sum[1] + now[1] - before[1]};
        if (!span.has_hole) continue;
        const FixedDistance &hole_begin = span.before_hole.*total, &hole_end = span.end_of_hole.*total;
        sum = {sum[0] + hole_begin[0] - hole_end[0], sum[1] + hole_begin[1] - hole_end[1]};
    }
    return sum;
}

/// The position that some devices reported last; nothing if they reported none.
std::optional<WindowPoint> own_position(const detail::FrameWindow& frame, const DeviceFilter& devices) noexcept {
    std::optional<WindowPoint> last;
    for (MotionWalk walk{frame, devices}; walk.next();)
        if (walk.slot().places()) last = point_of(walk.slot().position);
    return last;
}

}  // namespace

Distance PointerReading::motion() const noexcept {
    if (devices_.is_every()) return distance(added(core_of(*frame_), &MotionSlot::motion));
    Distance sum;  // of multiples of 1/65536: exact
    for (const PointerSample& sample : samples()) sum.x += sample.motion.x, sum.y += sample.motion.y;
    return sum;
}

Distance PointerReading::raw_motion() const noexcept {
    if (devices_.is_every()) return distance(added(core_of(*frame_), &MotionSlot::raw));
    Distance sum;
    for (const PointerSample& sample : samples()) sum.x += sample.raw.x, sum.y += sample.raw.y;
    return sum;
}

Distance PointerReading::wheel() const noexcept {
    if (devices_.is_every()) return distance(added(core_of(*frame_), &MotionSlot::wheel));
    FixedDistance sum{};
    for (MotionWalk walk{*frame_, devices_}; walk.next();)
        sum = {sum[0] + walk.slot().wheel[0], sum[1] + walk.slot().wheel[1]};
    return distance(sum);
}

WheelSteps PointerReading::wheel_steps() const noexcept {
    const FrameCore& frame = core_of(*frame_);
    std::array<std::uint32_t, 2> sum{};
    for (unsigned i = 0; i < frame.timeline->inlet_count(); ++i) {
        const detail::MotionSpan& span = frame.other_entries().spans[i];
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
    if (devices_.is_every() && has_position() &&
        (!core_of(*frame_).others().placed || position() != previous_position()))
        return true;
    for (MotionWalk walk{*frame_, devices_}; walk.next();)
        if (walk.slot().motion != FixedDistance{} || walk.slot().wheel != FixedDistance{}) return true;
    return false;
}

bool PointerReading::has_position() const noexcept {
    return devices_.is_every() ? core_of(*frame_).other_entries().placed : own_position(*frame_, devices_).has_value();
}

void FrameCore::note_unplaced() const noexcept {
    for (unsigned i = 0; i < timeline->inlet_count(); ++i)
        if (other_entries().spans[i].after().motion != FixedDistance{}) {
            unplaced.fetch_add(1, std::memory_order_relaxed);
            return;
        }
}

WindowPoint PointerReading::position() const noexcept {
    if (!core_of(*frame_).other_entries().placed) [[unlikely]]
        core_of(*frame_).note_unplaced();
    if (devices_.is_every()) return point_of(core_of(*frame_).other_entries().pointer);
    return own_position(*frame_, devices_).value_or(WindowPoint{});
}

WindowPoint PointerReading::previous_position() const noexcept { return point_of(core_of(*frame_).others().pointer); }
bool PointerReading::inside() const noexcept { return !core_of(*frame_).other_entries().outside; }
bool PointerReading::was_inside() const noexcept { return !core_of(*frame_).others().outside; }
bool PointerReading::locked() const noexcept { return cursor().hold == CursorHold::locked; }
bool PointerReading::was_locked() const noexcept { return previous_cursor().hold == CursorHold::locked; }
CursorState PointerReading::cursor() const noexcept { return core_of(*frame_).other_entries().cursor; }
CursorState PointerReading::previous_cursor() const noexcept { return core_of(*frame_).others().cursor; }

}  // namespace cursorum
