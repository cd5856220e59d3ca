// What was so at a frame's end, read without committing the frame.
#include "core/frame/frame_levels.hpp"

#include <algorithm>

#include "core/frame/frame_core.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum::detail {
namespace {

// The wheel's rotation without its whole steps.
double carried(const MotionSlot& moved, unsigned axis) noexcept {
    const std::uint64_t whole = moved.steps >> 32 * axis << 16, rest = moved.wheel[axis] - whole;
    return static_cast<double>(static_cast<std::int64_t>(rest << 16) >> 16) / 65536;
}

}  // namespace

void FrameLevels::read(const Frame& of, const ButtonSet& kept) noexcept {
    const FrameCore& frame = core_of(of);
    const SamplerState& state = frame.state();
    const OtherEntries& others = frame.other_entries();
    time = state.t1;
    std::array<Slot, no_hold + 1> slots = state.holds;
    since = {};
    std::copy_n(state.start.begin(), std::min(since.size(), state.start.size()), since.begin());
    adopted = {};
    for (std::uint16_t i = 0; i < button_capacity; ++i) adopted.set({i}, state.adopted[i]);
    down = ButtonSet{state.levels};
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const Slot edge{frame.edges[i]};
        const Button button{static_cast<std::uint16_t>(edge.button())};
        slots[hold_of(edge.tag())] = edge;
        slots[hold_of(edge.tag())].time = frame.time_of(edge);
        if (edge.what().flips()) down.toggle(button);
        if (!edge.what().starts()) continue;
        since[button.number] = frame.time_of(edge);
        adopted.set(button, edge.what().effect() == Effect::adopt);
    }
    hold_count = 0;
    const auto is_kept = [&](Button button) {
        bool any = button.number >= first_of_axes;
        physical_buttons(button).for_each([&](Button key) { any |= kept.contains(key); });
        return any;
    };
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const Button button{static_cast<std::uint16_t>(slots[i].button())};
        if (slots[i].is_held() && is_kept(button))
            holds[hold_count++] = {frame.id_of(slots[i].device()), button, Time{Duration{slots[i].time}},
                                   slots[i].what().kind() == SlotKind::adopt};
    }
    down.for_each([&](Button button) {
        if (!is_kept(button)) down.erase(button);
    });
    axis_count = 0;
    for (unsigned i = 0; i < frame.timeline->inlet_count(); ++i)
        frame.timeline->inlet(i).tracks_.for_each([&](unsigned track, DeviceId id, Axis axis) {
            const AxisRecord* const last = others.axis_record(others.axis_last[track]);
            axes[axis_count++] = {id, axis, last ? last->value : frame.others().axis_values[track],
                                  last ? last->shaped : frame.others().axis_shaped[track]};
        });
    std::array<OccasionSlot, contact_capacity> places = frame.others().contacts;
    for (std::uint32_t i = 0; i < others.occasion_count; ++i)
        if (const OccasionSlot& occasion = others.occasions[i]; occasion.is_contact())
            places[occasion.place()] = occasion;
    contact_count = 0;
    for (const OccasionSlot& contact : places)
        if (contact.is_contact() && contact.goes_on())
            contacts[contact_count++] = {frame.id_of(contact.device()), static_cast<std::uint32_t>(contact.contact),
                                         point_of(contact.position), contact.measure, contact.begin_time};
    std::sort(contacts.begin(), contacts.begin() + contact_count,
              [](const ContactLevel& a, const ContactLevel& b) { return a.begin < b.begin; });
    const DeviceBits& bits = others.has_any && others.occasion_count != 0 ? others.connected : frame.others().connected;
    connected_count = 0;
    for (unsigned number = 0; number < frame.timeline->device_room(); ++number)
        if (has_bit(bits, number)) connected[connected_count++] = frame.id_of(number);
    const PointerLevels& levels = others.has_any ? static_cast<const PointerLevels&>(others) : frame.others();
    has_pointer = levels.placed;
    pointer = point_of(levels.pointer);
    locks = {};
    for (std::size_t i = 0; i < lock_keys.size(); ++i) locks.set(lock_keys[i], (levels.locks >> i & 1) != 0);
    const MotionSlot& moved = others.spans[0].after();
    wheel_carried = {carried(moved, 0), carried(moved, 1)};
}

FrameCut cut_of(const Frame& of) noexcept {
    const FrameCore& frame = core_of(of);
    return {frame.state().serial, frame.restored, frame.state().t0,
            frame.state().t1,     frame.has_gap,  frame.skip_at != FrameInput::no_skip,
            frame.skip_from};
}

Ledger* ledger_of(const Timeline& timeline, unsigned inlet) noexcept {
    return core_of(timeline).inlet(inlet).ledger_.get();
}

std::uint64_t ledger_end_of(const Frame& frame, unsigned inlet) noexcept { return core_of(frame).ledger_ends[inlet]; }

}  // namespace cursorum::detail
