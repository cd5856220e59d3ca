// A sampler's state as bytes: the part in use, about 1 KB while a few keys are down. What the frame took is applied on
// the way, so that a restored sampler stands at the cut with an empty frame.
#include <algorithm>
#include <cassert>
#include <cstddef>
#include <cstring>
#include <type_traits>

#include "core/buttons/edge_taker.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/either_side.hpp"
#include "core/rules/merging.hpp"
#include "core/sampler/healing.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::OccasionSlot;
using detail::OtherState;
using detail::SamplerState;
using detail::Slot;

namespace {

class StateWriter {
public:
    explicit StateWriter(std::byte* to) noexcept : begin_{to}, at_{to} {}
    template <typename Value>
    void put(const Value& value) noexcept {
        static_assert(std::is_trivially_copyable_v<Value> && std::has_unique_object_representations_v<Value>);
        std::memcpy(at_, &value, sizeof value);
        at_ += sizeof value;
    }
    void put(double value) noexcept {
        std::memcpy(at_, &value, sizeof value);
        at_ += sizeof value;
    }
    std::size_t size() const noexcept { return static_cast<std::size_t>(at_ - begin_); }

private:
    std::byte* begin_;
    std::byte* at_;
};

class StateReader {
public:
    explicit StateReader(const std::byte* from) noexcept : at_{from} {}
    template <typename Value>
    void get(Value& value) noexcept {
        std::memcpy(&value, at_, sizeof value);
        at_ += sizeof value;
    }
    template <typename Value>
    Value get() noexcept {
        Value value;
        get(value);
        return value;
    }

private:
    const std::byte* at_;
};

constexpr std::uint16_t no_more = 0xFFFF;  // in place of a number, behind the last one

// Field by field, with the same code for writing and reading: these structures have padding, whose bytes are undefined.
template <typename OfInlet, typename Visit>
void for_each_number(OfInlet& inlet, Visit&& visit) {
    visit(inlet.axes), visit(inlet.occasions), visit(inlet.others), visit(inlet.axes_alone);
    visit(inlet.last_count), visit(inlet.skipped_count);
}

void put(StateWriter& writer, const OccasionSlot& slot) noexcept {
    writer.put(slot.time), writer.put(slot.what), writer.put(slot.begin), writer.put(slot.position);
    writer.put(slot.measure), writer.put(slot.begin_time), writer.put(slot.contact), writer.put(slot.late_at);
}
template <std::size_t count>
void put(StateWriter& writer, const std::array<OccasionSlot, count>& slots) noexcept {
    for (std::uint16_t i = 0; i < count; ++i) {
        if (slots[i].what == 0 || !slots[i].goes_on()) continue;
        writer.put(i);
        put(writer, slots[i]);
    }
    writer.put(no_more);
}
template <std::size_t count>
void get(StateReader& reader, std::array<OccasionSlot, count>& slots) noexcept {
    slots = {};
    for (auto i = reader.get<std::uint16_t>(); i != no_more; reader.get(i)) reader.get(slots[i]);
}

}  // namespace

// The maximum size that save_to() writes: every button down, every axis moved, every press and contact in progress.
constexpr std::size_t most_bytes =
    3 * 8 + sizeof(detail::SamplerTotals) + sizeof(ButtonSet::Words) + button_capacity * (8 + 1 + 2) +
    hold_capacity * (2 + sizeof(Slot) + 1) +
    inlet_capacity * (sizeof(detail::InletPosition) + sizeof(OtherState::OfInlet)) + sizeof(SamplerState::repeats) +
    sizeof(SamplerState::repeat_of) + axis_capacity * (2 + 8 + 8) + sizeof(detail::PointerLevels) +
    sizeof(detail::DeviceBits) + 2 * 8 + (press_capacity + contact_capacity) * (2 + sizeof(OccasionSlot)) + 64;
static_assert(most_bytes <= Sampler::State::capacity);

std::size_t SamplerCore::save_to(std::byte* bytes) const noexcept {
    const OneThread here{guard_};
    assert(!open_ && "a frame is in the making: save at a cut");
    StateWriter writer{bytes};
    const auto put_number = [&](const auto& value) { writer.put(value); };

    // Buttons at the frame's end: those that its edges changed, and all others from its start.
    ButtonSet::Words levels = state_.levels;
    std::array<std::uint64_t, hold_capacity / 64> touched{};
    auto& changed = healing_->copy.holds;
    for (std::uint32_t i = 0; i < entries_.count; ++i) {
        Slot edge{entries_.edges[i]};
        edge.time = entries_.time_of(edge);
        const unsigned button = edge.button(), hold = detail::hold_of(edge.tag());
        if (edge.what().flips()) levels[button / 64] ^= std::uint64_t{1} << button % 64;
        if (hold >= hold_capacity) continue;
        touched[hold / 64] |= std::uint64_t{1} << hold % 64;
        changed[hold] = edge.without_extra();
    }
    const bool merges = state_.merges && (state_.always_merges || levels != ButtonSet::Words{});
    writer.put(state_.t1);  // where the next frame starts
    writer.put(state_.serial);
    writer.put(static_cast<const detail::SamplerTotals&>(state_));
    writer.put(levels);
    writer.put(merges);
    const ButtonSet down{levels};
    down.for_each([&](Button button) {
        std::int64_t start = state_.start[button.number];
        bool adopted = state_.adopted[button.number];
        for (const detail::StoredEdge* edge = entries_.last_of(button); edge; edge = entries_.before(*edge)) {
            if (!edge->what().starts()) continue;
            start = entries_.time_of(*edge);
            adopted = edge->what().effect() == detail::Effect::adopt;
            break;
        }
        writer.put(start);
        writer.put(adopted);
    });
    // After healing and with several inlets the sampler merges by itself.
    for (unsigned inlet = 0; inlet < timeline_->inlet_count(); ++inlet) {
        const unsigned first = timeline_->inlet(inlet).numbers_.first_hold;
        for (unsigned i = first; i < first + timeline_->inlet(inlet).holds_used_.look(); ++i) {
            const Slot& hold = (touched[i / 64] >> i % 64 & 1) != 0 ? changed[i] : state_.holds[i];
            if (!hold.is_held()) continue;
            writer.put(static_cast<std::uint16_t>(i));
            writer.put(hold.time);
            writer.put(hold.packed);
            writer.put(merges && state_.hold_pressed[i]);
        }
    }
    writer.put(no_more);
    if (merges) down.for_each([&](Button button) { writer.put(state_.holders[button.number]); });
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        writer.put(state_.inlets[i].edges);
        writer.put(state_.inlets[i].events);
        writer.put(state_.inlets[i].motions);
    }
    bool has_own_repeats = false;
    for (const std::uint8_t setting : state_.repeat_of) has_own_repeats |= setting != 0;
    writer.put(has_own_repeats);
    for (unsigned i = 0; i < (has_own_repeats ? detail::repeat_settings : 1); ++i) {
        writer.put(state_.repeats[i].delay.count());
        writer.put(state_.repeats[i].interval.count());
        writer.put(state_.repeats[i].cap);
    }
    if (has_own_repeats) writer.put(state_.repeat_of);

    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        for_each_number(others_.inlets[i], put_number);
        const detail::MotionSlot& moved = other_entries_.spans[i].after();
        writer.put(moved.time), writer.put(moved.what), writer.put(moved.motion), writer.put(moved.raw);
        writer.put(moved.wheel), writer.put(moved.position), writer.put(moved.steps), writer.put(moved.counts);
    }
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        const detail::TrackTable& tracks = timeline_->inlet(i).tracks_;
        for (unsigned k = 0; k < tracks.used(); ++k) {
            const unsigned track = tracks.first() + k;
            const detail::AxisRecord* const last = other_entries_.axis_record(other_entries_.axis_last[track]);
            const double value = last ? last->value : others_.axis_values[track];
            const double shaped = last ? last->shaped : others_.axis_shaped[track];
            if (value == 0 && shaped == 0) continue;
            writer.put(static_cast<std::uint16_t>(track));
            writer.put(value);
            writer.put(shaped);
        }
    }
    writer.put(no_more);
    // The state at the frame's end, which equals its start if nothing was taken.
    const bool any = other_entries_.has_any;
    writer.put(any ? static_cast<const detail::PointerLevels&>(other_entries_) : others_);
    writer.put(any && other_entries_.occasion_count != 0 ? other_entries_.connected : others_.connected);
    writer.put(others_.no_clicks_before);
    writer.put(others_.skipped_before);
    if (other_entries_.occasion_count == 0) {
        put(writer, others_.presses);
        put(writer, others_.contacts);
        return writer.size();
    }
    auto presses = others_.presses;
    auto contacts = others_.contacts;
    for (std::uint32_t i = 0; i < other_entries_.occasion_count; ++i) {
        const OccasionSlot& occasion = other_entries_.occasions[i];
        if (occasion.is_press()) presses[occasion.place()] = occasion;
        if (occasion.is_contact()) contacts[occasion.place()] = occasion;
    }
    put(writer, presses);
    put(writer, contacts);
    return writer.size();
}

void SamplerCore::restore(const std::byte* bytes) noexcept {
    const OneThread here{guard_};
    StateReader reader{bytes};
    const auto get_number = [&](auto& value) { reader.get(value); };

    reader.get(state_.t1);
    state_.t0 = state_.t1;
    reader.get(state_.serial);
    reader.get(static_cast<detail::SamplerTotals&>(state_));
    reader.get(state_.levels);
    reader.get(state_.merges);
    const ButtonSet down{state_.levels};
    down.for_each([&](Button button) {
        reader.get(state_.start[button.number]);
        reader.get(state_.adopted[button.number]);
    });
    state_.holds = {};
    state_.hold_pressed = {};
    for (auto i = reader.get<std::uint16_t>(); i != no_more; reader.get(i)) {
        reader.get(state_.holds[i].time);
        reader.get(state_.holds[i].packed);
        reader.get(state_.hold_pressed[i]);
    }
    state_.holders = {};
    if (state_.merges) down.for_each([&](Button button) { reader.get(state_.holders[button.number]); });
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        reader.get(state_.inlets[i].edges);
        reader.get(state_.inlets[i].events);
        reader.get(state_.inlets[i].motions);
    }
    const bool has_own_repeats = reader.get<bool>();
    for (unsigned i = 0; i < (has_own_repeats ? detail::repeat_settings : 1); ++i) {
        state_.repeats[i].delay = Duration{reader.get<std::int64_t>()};
        state_.repeats[i].interval = Duration{reader.get<std::int64_t>()};
        reader.get(state_.repeats[i].cap);
    }
    if (has_own_repeats)
        reader.get(state_.repeat_of);
    else
        state_.repeat_of = {};

    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        for_each_number(others_.inlets[i], get_number);
        reader.get(others_.inlets[i].moved);
        const detail::TrackTable& tracks = timeline_->inlet(i).tracks_;
        std::fill_n(others_.axis_values.begin() + tracks.first(), tracks.used(), 0.0);
        std::fill_n(others_.axis_shaped.begin() + tracks.first(), tracks.used(), 0.0);
    }
    for (auto track = reader.get<std::uint16_t>(); track != no_more; reader.get(track)) {
        reader.get(others_.axis_values[track]);
        reader.get(others_.axis_shaped[track]);
    }
    reader.get(static_cast<detail::PointerLevels&>(others_));
    reader.get(others_.connected);
    reader.get(others_.no_clicks_before);
    reader.get(others_.skipped_before);
    get(reader, others_.presses);
    get(reader, others_.contacts);

    entries_.clear();
    other_entries_.start(others_, timeline_->inlet_count());
    forget_searches();
    open_ = false;
}

void SamplerCore::set_hold_beginnings(std::span<const HoldBeginning> beginnings) noexcept {
    std::byte bytes[Sampler::State::capacity];
    save_to(bytes);
    restore(bytes);  // what the frame did is now its start
    for (Slot& hold : state_.holds) {
        if (!hold.is_held()) continue;
        for (const HoldBeginning& it : beginnings) {
            if (it.button.number != hold.button() || it.device != entries_.id_of(hold.device())) continue;
            hold.time = nanoseconds(it.since);
            const auto kind = it.adopted ? detail::SlotKind::adopt : detail::SlotKind::press;
            hold = hold.with_what(detail::What::of(kind, hold.what().effect(), false, true));
        }
    }
    // From here on, this sampler's holds differ from the inlet's.
    start_merging();
    state_.start = {};
    ButtonSet found;
    for (const Slot& hold : state_.holds) {
        if (!hold.is_held()) continue;
        for_each_name(hold.button(), [&](std::uint16_t button) {
            HoldStart start{state_.start[button], state_.adopted[button]};
            start.add({hold.time, hold.what().kind() == detail::SlotKind::adopt}, !found.contains({button}));
            state_.start[button] = start.time;
            state_.adopted[button] = start.adopted;
            found.insert({button});
        });
    }
    for (const HoldBeginning& it : beginnings) {
        if (it.device != DeviceId{} || !found.contains(it.button)) continue;
        state_.start[it.button.number] = nanoseconds(it.since);
        state_.adopted[it.button.number] = it.adopted;
    }
}

// ---- the public class

Sampler::State Sampler::save() const noexcept {
    State state;
    save_to(state);
    return state;
}
void Sampler::set_hold_beginnings(std::span<const HoldBeginning> beginnings) noexcept {
    core_->set_hold_beginnings(beginnings);
}
void Sampler::save_to(State& state) const noexcept { state.size_ = core_->save_to(state.bytes_); }
bool Sampler::restore(const State& state) noexcept {
    if (state.size_ == 0) return false;
    core_->restore(state.bytes_);
    return true;
}

}  // namespace cursorum
