// A sampler's state as bytes: the part in use, about 1 KB while a few keys are down. What the frame took is applied on
// the way, so that a restored sampler stands at the cut with an empty frame.
#include <algorithm>
#include <cassert>
#include <cstddef>
#include <cstring>
#include <optional>
#include <type_traits>
#include <utility>

#include "core/controls/either_side.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rules/merging.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::OccasionSlot;
using detail::OtherState;
using detail::SamplerState;
using detail::Slot;

namespace {

constexpr std::uint16_t no_more = 0xFFFF;  // in place of a number, behind the last one

/// Writes values one after the other. The reader has the same members, so that one function describes the bytes for
/// both.
class StateWriter {
public:
    explicit StateWriter(std::byte* to) noexcept : begin_{to}, at_{to} {}
    /// Without padding, whose bytes would be undefined.
    template <typename Value>
    void operator()(const Value& value) noexcept {
        static_assert(std::is_trivially_copyable_v<Value> &&
                      (std::has_unique_object_representations_v<Value> || std::is_same_v<Value, double>));
        std::memcpy(at_, &value, sizeof value);
        at_ += sizeof value;
    }
    /// Visits what `for_each_used` visits, each behind its number.
    template <typename ForEachUsed, typename Visit>
    void each(ForEachUsed&& for_each_used, Visit&& visit) noexcept {
        for_each_used([&](unsigned number) {
            (*this)(static_cast<std::uint16_t>(number));
            visit(number);
        });
        (*this)(no_more);
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
    void operator()(Value& value) noexcept {
        std::memcpy(&value, at_, sizeof value);
        at_ += sizeof value;
    }
    template <typename ForEachUsed, typename Visit>
    void each(ForEachUsed&&, Visit&& visit) noexcept {
        for (std::uint16_t number; (*this)(number), number != no_more;) visit(number);
    }

private:
    const std::byte* at_;
};

}  // namespace

/// The state at the frame's end, piece by piece: what the frame took is applied to what was at its start.
struct SamplerCore::SavedCut {
    explicit SavedCut(const SamplerCore& of) noexcept : core{of} {
        for (std::uint32_t i = 0; i < core.entries_.count; ++i) {
            Slot edge{core.entries_.edges[i]};
            edge.time = core.entries_.time_of(edge);
            const unsigned button = edge.button(), hold = detail::hold_of(edge.tag());
            if (edge.what().flips()) levels[button / 64] ^= std::uint64_t{1} << button % 64;
            if (hold >= hold_capacity) continue;
            touched[hold / 64] |= std::uint64_t{1} << hold % 64;
            core.healing_->copy.holds[hold] = edge.without_extra();
        }
        merges = core.state_.merges && (core.state_.always_merges || levels != ButtonSet::Words{});
        if (core.other_entries_.occasion_count == 0) return;
        Occasions& own = occasions.emplace(core.others_.presses, core.others_.contacts);
        for (std::uint32_t i = 0; i < core.other_entries_.occasion_count; ++i) {
            const OccasionSlot& occasion = core.other_entries_.occasions[i];
            if (occasion.is_press()) own.first[occasion.place()] = occasion;
            if (occasion.is_contact()) own.second[occasion.place()] = occasion;
        }
    }

    std::pair<std::int64_t, bool> beginning(Button button) const noexcept {
        for (const detail::StoredEdge* edge = core.entries_.last_of(button); edge; edge = core.entries_.before(*edge))
            if (edge->what().starts())
                return {core.entries_.time_of(*edge), edge->what().effect() == detail::Effect::adopt};
        return {core.state_.start[button.number], core.state_.adopted[button.number]};
    }
    const Slot& hold(unsigned i) const noexcept {
        return (touched[i / 64] >> i % 64 & 1) != 0 ? core.healing_->copy.holds[i] : core.state_.holds[i];
    }
    bool is_pressed(unsigned i) const noexcept { return merges && core.state_.hold_pressed[i]; }
    template <typename Visit>
    void for_each_hold(Visit&& visit) const {
        for (unsigned inlet = 0; inlet < core.timeline_->inlet_count(); ++inlet) {
            const detail::InletHistory& its = core.timeline_->inlet(inlet);
            const unsigned first = its.numbers_.first_hold, end = first + its.holds_used_.look();
            for (unsigned i = first; i < end; ++i)
                if (hold(i).is_held()) visit(i);
        }
    }
    bool has_own_repeats() const noexcept {
        return std::any_of(core.state_.repeat_of.begin(), core.state_.repeat_of.end(),
                           [](std::uint8_t setting) { return setting != 0; });
    }
    const detail::MotionSlot& moved(unsigned inlet) const noexcept { return core.other_entries_.spans[inlet].after(); }
    std::pair<double, double> axis(unsigned track) const noexcept {
        const auto* const last = core.other_entries_.axis_record(core.other_entries_.axis_last[track]);
        if (last) return {last->value, last->shaped};
        return {core.others_.axis_values[track], core.others_.axis_shaped[track]};
    }
    template <typename Visit>
    void for_each_axis(Visit&& visit) const {
        for (unsigned i = 0; i < core.timeline_->inlet_count(); ++i) {
            const detail::TrackTable& tracks = core.timeline_->inlet(i).tracks_;
            for (unsigned track = tracks.first(); track < tracks.first() + tracks.used(); ++track)
                if (axis(track) != std::pair{0.0, 0.0}) visit(track);
        }
    }
    const detail::PointerLevels& pointer() const noexcept {
        if (core.other_entries_.has_any) return core.other_entries_;
        return core.others_;
    }
    const detail::DeviceBits& connected() const noexcept {
        return occasions ? core.other_entries_.connected : core.others_.connected;
    }
    const detail::ComposedText& composed() const noexcept {
        return core.other_entries_.has_any ? core.other_entries_.texts.composed : core.others_.composed;
    }
    const auto& presses() const noexcept { return occasions ? occasions->first : core.others_.presses; }
    const auto& contacts() const noexcept { return occasions ? occasions->second : core.others_.contacts; }

    const SamplerCore& core;
    std::int64_t time = core.state_.t1;  // where the next frame starts
    ButtonSet::Words levels = core.state_.levels;
    bool merges = false;
    std::array<std::uint64_t, hold_capacity / 64> touched{};
    using Occasions = std::pair<decltype(OtherState::presses), decltype(OtherState::contacts)>;
    std::optional<Occasions> occasions{};  // if the frame took some
};

/// The same pieces of a sampler that stands at a cut, to be written to.
struct SamplerCore::RestoredCut {
    std::pair<std::int64_t&, bool&> beginning(Button button) noexcept {
        return {core.state_.start[button.number], core.state_.adopted[button.number]};
    }
    Slot& hold(unsigned i) noexcept { return core.state_.holds[i]; }
    bool& is_pressed(unsigned i) noexcept { return core.state_.hold_pressed[i]; }
    static void for_each_hold(auto&&) noexcept {}
    static bool has_own_repeats() noexcept { return false; }
    detail::MotionSlot& moved(unsigned inlet) noexcept { return core.others_.inlets[inlet].moved; }
    std::pair<double&, double&> axis(unsigned track) noexcept {
        return {core.others_.axis_values[track], core.others_.axis_shaped[track]};
    }
    static void for_each_axis(auto&&) noexcept {}
    detail::PointerLevels& pointer() noexcept { return core.others_; }
    detail::DeviceBits& connected() noexcept { return core.others_.connected; }
    detail::ComposedText& composed() noexcept { return core.others_.composed; }
    auto& presses() noexcept { return core.others_.presses; }
    auto& contacts() noexcept { return core.others_.contacts; }

    SamplerCore& core;
    std::int64_t& time = core.state_.t1;
    ButtonSet::Words& levels = core.state_.levels;
    bool& merges = core.state_.merges;
};

/// The bytes of a saved state: the one place that knows their order.
template <typename Archive, typename Cut>
void SamplerCore::visit_state(Archive& of, Cut& cut) noexcept {
    auto& state = cut.core.state_;
    auto& others = cut.core.others_;
    const unsigned inlets = cut.core.timeline_->inlet_count();
    using Totals = std::conditional_t<std::is_const_v<std::remove_reference_t<decltype(state)>>,
                                      const detail::SamplerTotals, detail::SamplerTotals>;
    of(cut.time), of(state.serial), of(static_cast<Totals&>(state)), of(cut.levels), of(cut.merges);
    const ButtonSet down{cut.levels};
    down.for_each([&](Button button) {
        auto&& [start, adopted] = cut.beginning(button);
        of(start), of(adopted);
    });
    // After healing and with several inlets the sampler merges by itself.
    of.each([&](auto&& visit) { cut.for_each_hold(visit); },
            [&](unsigned i) {
                auto& hold = cut.hold(i);
                auto&& pressed = cut.is_pressed(i);
                of(hold.time), of(hold.packed), of(pressed);
            });
    if (cut.merges) down.for_each([&](Button button) { of(state.holders[button.number]); });
    for (unsigned i = 0; i < inlets; ++i)
        of(state.inlets[i].edges), of(state.inlets[i].events), of(state.inlets[i].motions);
    bool has_own_repeats = cut.has_own_repeats();
    of(has_own_repeats);
    for (unsigned i = 0; i < (has_own_repeats ? detail::repeat_settings : 1); ++i)
        of(state.repeats[i].delay), of(state.repeats[i].interval), of(state.repeats[i].cap);
    if (has_own_repeats) of(state.repeat_of);
    for (unsigned i = 0; i < inlets; ++i) {
        auto& inlet = others.inlets[i];
        of(inlet.axes), of(inlet.occasions), of(inlet.texts), of(inlet.others), of(inlet.axes_alone);
        of(inlet.last_count), of(inlet.skipped_count), of(cut.moved(i));
    }
    of.each([&](auto&& visit) { cut.for_each_axis(visit); },
            [&](unsigned track) {
                auto&& [value, shaped] = cut.axis(track);
                of(value), of(shaped);
            });
    of(cut.pointer()), of(cut.connected()), of(others.no_clicks_before), of(others.skipped_before);
    const auto occasions = [&](auto& all) {
        of.each(
            [&](auto&& visit) {
                for (unsigned i = 0; i < all.size(); ++i)
                    if (all[i].what != 0 && all[i].goes_on()) visit(i);
            },
            [&](unsigned i) {
                auto& it = all[i];
                of(it.time), of(it.what), of(it.begin), of(it.position);
                of(it.measure), of(it.begin_time), of(it.contact), of(it.late_at);
            });
    };
    occasions(cut.presses());
    occasions(cut.contacts());
    of(cut.composed().head);
    if (cut.composed().head.is_open != 0) of(cut.composed().text);
}

// The maximum size that save_to() writes: every button down, every axis moved, every press and contact in progress.
constexpr std::size_t most_bytes =
    3 * 8 + sizeof(detail::SamplerTotals) + sizeof(ButtonSet::Words) + button_capacity * (8 + 1 + 2) +
    hold_capacity * (2 + sizeof(Slot) + 1) +
    inlet_capacity * (sizeof(detail::InletPosition) + sizeof(OtherState::OfInlet)) + sizeof(SamplerState::repeats) +
    sizeof(SamplerState::repeat_of) + axis_capacity * (2 + 8 + 8) + sizeof(detail::PointerLevels) +
    sizeof(detail::DeviceBits) + 2 * 8 + (press_capacity + contact_capacity) * (2 + sizeof(OccasionSlot)) +
    sizeof(detail::ComposedText) + 64;
static_assert(most_bytes <= Sampler::State::capacity);

std::size_t SamplerCore::save_to(std::byte* bytes) const noexcept {
    const OneThread here{guard_};
    assert(!open_ && "a frame is in the making: save at a cut");
    StateWriter writer{bytes};
    const SavedCut cut{*this};
    visit_state(writer, cut);
    return writer.size();
}

void SamplerCore::restore(const std::byte* bytes) noexcept {
    const OneThread here{guard_};
    ++entries_.restored;
    state_.holds = {};
    state_.hold_pressed = {};
    state_.holders = {};
    state_.repeat_of = {};
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        const detail::TrackTable& tracks = timeline_->inlet(i).tracks_;
        std::fill_n(others_.axis_values.begin() + tracks.first(), tracks.used(), 0.0);
        std::fill_n(others_.axis_shaped.begin() + tracks.first(), tracks.used(), 0.0);
    }
    others_.presses = {};
    others_.contacts = {};
    StateReader reader{bytes};
    RestoredCut cut{*this};
    visit_state(reader, cut);
    state_.t0 = state_.t1;
    entries_.clear();
    other_entries_.start(others_, timeline_->inlet_count());
    detail::MotionTaker::forget_searches(*this);
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
    edges_.start_merging(*this);
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
