// The door's calls, which the frame's core answers.
#include "core/frame/frame_input.hpp"

#include <algorithm>

#include "core/frame/frame_core.hpp"

namespace cursorum::detail {

std::int64_t FrameInput::time_in(PausePart part, std::int64_t time) const noexcept {
    return part == PausePart::before ? std::max(skip_from - 1, last_cut()) : time;
}
std::int64_t FrameInput::last_cut() const noexcept { return core_of(*this).state().late_before; }
DeviceId FrameInput::id_of(unsigned device) const noexcept { return core_of(*this).id_of(device); }
const Slot& FrameInput::hold(unsigned number) const noexcept { return core_of(*this).state().holds[number]; }
void FrameInput::walk_motion(DeviceFilter filter, void* to, void (*visit)(void*, const Moved&)) const {
    core_of(*this).walk_motion(filter, to, visit);
}
bool FrameInput::is_after(const Moved& motion, const StoredEdge& edge) const noexcept {
    return core_of(*this).is_after(*motion.slot, edge);
}
double FrameInput::walk_axis(Axis axis, DeviceFilter filter, void* to, void (*visit)(void*, Time, double)) const {
    return core_of(*this).walk(axis, filter, to, visit);
}
void FrameInput::walk_stick(Stick stick, DeviceFilter filter, void* to, void (*visit)(void*, Time, Vector2)) const {
    core_of(*this).walk(stick, filter, to, visit);
}
double FrameInput::walk_side(Axis axis, AxisSide side, DeviceFilter filter, void* to,
                             void (*visit)(void*, const Cause&, double)) const {
    return core_of(*this).walk_side(axis, side, filter, to, visit);
}
double FrameInput::axis_at_start(Axis axis, DeviceFilter filter) const noexcept {
    return core_of(*this).raw_axis(axis, filter).before;
}
Vector2 FrameInput::stick_at_start(Stick stick, DeviceFilter filter) const noexcept {
    return core_of(*this).stick_at_start(stick, filter);
}
FrameInput::Touch FrameInput::walk_touch(DeviceFilter filter, void* to,
                                         void (*visit)(void*, const Cause&, const Touch&)) const {
    return core_of(*this).walk_touch(filter, to, visit);
}

std::optional<WindowPoint> FrameInput::place_of_press(Button button, std::int64_t time) const noexcept {
    const OtherEntries& others = core_of(*this).other_entries();
    const OccasionSlot* found = nullptr;
    for (std::uint32_t i = 0; i < others.occasion_count; ++i) {
        const OccasionSlot& it = others.occasions[i];
        if (it.kind() != OccasionKind::press || it.button() != button.number) continue;
        if (!found || it.begin_time <= time) found = &it;
    }
    if (!found || !found->is_placed()) return std::nullopt;
    return point_of(found->begin);
}

unsigned FrameInput::walk_locks(void* to, void (*visit)(void*, const Cause&, unsigned)) const {
    const FrameCore& core = core_of(*this);
    for (std::uint32_t i = 0; i < core.other_entries().occasion_count; ++i) {
        const OccasionSlot& occasion = core.other_entries().occasions[i];
        if (occasion.kind() != OccasionKind::locks) continue;
        const PausePart part = core.part_of_occasion(i);
        visit(to, {time_in(part, occasion.time), false, part}, static_cast<std::uint8_t>(occasion.begin[0]));
    }
    return core.others().locks;
}

}  // namespace cursorum::detail
