// What a frame says of one button: its edges are a chain in the frame's records, from the last to the first, and a
// tally turns them into counts, spans and repeats when it is asked.
#include <algorithm>

#include "core/buttons/device_tally.hpp"
#include "core/frame/direction_following.hpp"
#include "core/frame/frame_core.hpp"
#include "core/rules/chains.hpp"
#include "cursorum/core/latency.hpp"

namespace cursorum {

using detail::DeviceFilter;
using detail::Effect;
using detail::Slot;
using detail::SlotKind;
using detail::StoredEdge;
using detail::What;

std::string_view name_of(WhenOpposed opposed) noexcept {
    constexpr std::string_view names[] = {"neutral", "last", "first"};
    return names[static_cast<unsigned>(opposed)];
}

ButtonState ButtonFigures::state() const noexcept {
    if (was_down() && !down()) return release_count() != 0 ? ButtonState::release : ButtonState::cancel;
    if (was_down()) return pressed() ? ButtonState::dip : ButtonState::hold;
    if (down()) return pressed() ? ButtonState::press : ButtonState::hold;
    return parts_.any_edge ? ButtonState::blip : ButtonState::idle;
}

double ButtonFigures::down_share() const noexcept {
    if (parts_.frame_length.count() <= 0) return 0;
    return static_cast<double>(parts_.down_span.count()) / static_cast<double>(parts_.frame_length.count());
}

template <typename Visit>
void FrameCore::for_each_record(Button button, Visit&& visit) const noexcept {
    for_each_in_order(
        last[button.number], [this](std::uint32_t ordinal) { return links[ordinal - base]; },
        [this](std::uint32_t ordinal) { return ordinal < base; },
        [&](std::uint32_t ordinal) { visit(edges[ordinal - base]); },
        [&] {
            for (std::uint32_t i = 0; i < count; ++i)
                if (edges[i].button() == button.number) visit(edges[i]);
        });
}

namespace {

/// The contribution of one edge to the four counts.
struct EffectCounts {
    std::uint8_t press, release, adopt, cancel;
};
constexpr std::array<EffectCounts, 8> effect_counts = [] {
    std::array<EffectCounts, 8> counts{};
    counts[static_cast<unsigned>(Effect::press)].press = 1;
    counts[static_cast<unsigned>(Effect::adopt)].adopt = 1;
    counts[static_cast<unsigned>(Effect::release)].release = 1;
    counts[static_cast<unsigned>(Effect::cancel)].cancel = 1;
    counts[static_cast<unsigned>(Effect::restart)] = {.press = 1, .release = 0, .adopt = 0, .cancel = 1};
    return counts;
}();

// Placeholder for a button without a record in a frame, by its level.
constexpr std::array<StoredEdge, 2> no_record{
    Slot::of(0, 0, 0, 0, What::of(SlotKind::plain, Effect::none, false, false)),
    Slot::of(0, 0, 0, 0, What::of(SlotKind::plain, Effect::none, false, true)),
};

}  // namespace

// Most buttons that are not idle have one record in a frame, or none, and no hold as long as the repeat's delay. Those
// take a short path; all others use the tally, which gives the same result.
ButtonFigures FrameCore::merged_figures(Button button) const noexcept {
    if (button.number >= button_capacity) button = {};
    const std::uint32_t ordinal = last[button.number];
    const bool was_down = this->was_down(button);
    const bool has_one = ordinal >= base;
    const std::uint32_t place = has_one ? ordinal - base : 0;
    const StoredEdge* const record = has_one ? edges + place : &no_record[was_down];
    const What what = record->what();
    const std::int64_t t0 = state_->t0, t1 = state_->t1, time = std::max(record->time, state_->t0),
                       start = state_->start[button.number];
    const bool down = what.is_down(), ends = what.ends(), presses = what.presses();
    const bool adopts = what.effect() == Effect::adopt, starts = presses | adopts;
    const std::int64_t old_hold = was_down ? (ends ? time : t1) - start : 0;
    const std::int64_t new_hold = starts ? t1 - time : 0;
    const bool has_more = has_one & (links[place] >= base);
    const bool may_repeat = old_hold + new_hold >= repeat_of(button).delay.count();
    if (has_more | may_repeat) [[unlikely]]
        return merged_tally(button);

    const EffectCounts counts = effect_counts[static_cast<unsigned>(what.effect())];
    detail::FigureParts figures;
    figures.was_down = was_down;
    figures.down = down;
    figures.any_edge = what.effect() != Effect::none;
    figures.frame_length = Duration{t1 - t0};
    figures.press_count = counts.press;
    figures.release_count = counts.release;
    figures.adopt_count = counts.adopt;
    figures.cancel_count = counts.cancel;
    figures.system_repeat_count = what.kind() == SlotKind::system_repeat;
    figures.held_for = Duration{starts ? new_hold : old_hold};
    figures.released = detail::is_persons_release(counts.release != 0, state_->adopted[button.number]);
    figures.released_after = Duration{figures.released ? old_hold : 0};
    const std::int64_t old_span = was_down ? (ends ? time : t1) - t0 : 0;
    figures.down_span = Duration{old_span + new_hold};
    return ButtonFigures{figures};
}

ButtonFigures FrameCore::merged_tally(Button button) const noexcept {
    FigureTally tally{state_->t0,
                      state_->t1,
                      repeat_of(button),
                      was_down(button),
                      state_->adopted[button.number],
                      state_->start[button.number]};
    for_each_record(button, [&](const StoredEdge& record) {
        tally.figures.system_repeat_count += record.what().kind() == SlotKind::system_repeat;
        tally.apply(record.what().effect(), time_of(record));
    });
    return tally.finish();
}

ButtonFigures FrameCore::device_figures(Button button, DeviceFilter filter) const noexcept {
    if (button.number >= button_capacity || filter.kind == DeviceFilter::Kind::none) button = {};
    const ButtonSet keys = physical_buttons(button);
    DeviceTally tally;
    keys.for_each([&](Button key) { for_each_hold(key, filter, [&](const Slot& hold) { tally.add_hold(hold); }); });
    tally.start(state_->t0, state_->t1, repeat_of(button));
    const auto take = [&](const StoredEdge& record) {
        if (is_of(record, filter)) tally.take(record, time_of(record));
    };
    if (keys.size() == 1) {
        for_each_record(button, take);
    } else {
        for (std::uint32_t i = 0; i < count; ++i)
            if (keys.contains({edges[i].button()})) take(edges[i]);
    }
    return tally.finish();
}

bool FrameCore::is_of(const StoredEdge& record, DeviceFilter filter) const noexcept {
    switch (filter.kind) {
        case DeviceFilter::Kind::persons:
        case DeviceFilter::Kind::programs:
            return detail::is_virtual(record.tag()) == (filter.kind == DeviceFilter::Kind::programs);
        default: return includes(filter, record.device());
    }
}

template <typename Visit>
void FrameCore::for_each_hold(Button button, DeviceFilter filter, Visit&& visit) const noexcept {
    if (filter.kind == DeviceFilter::Kind::one) {
        if (const Slot* hold = find_hold(button, filter.number)) visit(*hold);
        return;
    }
    if (!was_down(button)) return;  // no device holds it
    for (unsigned inlet = 0; inlet < timeline->inlet_count(); ++inlet) {
        const detail::InletHistory& history = timeline->inlet(inlet);
        const unsigned first = history.numbers_.first_hold;
        for (unsigned i = first; i < first + history.holds_used_.look(); ++i) {
            const Slot& hold = state_->holds[i];
            if (hold.button() == button.number && hold.is_held() && is_of(hold, filter)) visit(hold);
        }
    }
}

// The button's hold on a device at the frame's start, null if it was up. The inlet knows where to look; should it have
// given the place to another button since, the sampler's own is found by searching.
const Slot* FrameCore::find_hold(Button button, unsigned device) const noexcept {
    const auto is_it = [&](const Slot& hold) {
        return hold.button() == button.number && hold.device() == device && hold.what().device_is_down();
    };
    const detail::Device* const known = timeline->device_numbered(device);
    if (!known) return nullptr;
    const unsigned place = known->cell(button).hold();
    if (place == detail::Cell::never_held) return nullptr;
    if (place < hold_capacity && is_it(state_->holds[place])) return &state_->holds[place];
    const auto found = std::find_if(state_->holds.begin(), state_->holds.end() - 1, is_it);
    return found == state_->holds.end() - 1 ? nullptr : &*found;
}

DirectionReading FrameCore::direction(const DirectionButtons& buttons, std::optional<Stick> stick,
                                      DeviceFilter filter) const noexcept {
    DirectionTally tally{buttons, state_->t0, state_->t1};
    const ButtonSet wanted = tally.wanted();
    wanted.for_each([&](Button button) {
        for_each_hold(button, filter,
                      [&](const Slot& hold) { tally.add(button, detail::hold_of(hold.tag()), hold.time); });
    });
    if (stick) tally.set_stick(stick_at_start(*stick, filter));
    tally.start();
    return follow(*this, tally, stick, filter, [&](const StoredEdge& record) {
        return wanted.contains({record.button()}) && is_of(record, filter);
    });
}

ButtonFigures FrameCore::any(std::initializer_list<Button> buttons) const noexcept {
    const ButtonSet wanted{buttons};
    const Button first = buttons.size() != 0 ? *buttons.begin() : Button{};
    std::int64_t start = 0;
    bool adopted = true;
    ButtonSet down, pressed;  // which of them are held, and held by a press
    wanted.for_each([&](Button button) {
        if (!was_down(button)) return;
        const bool by_adopt = state_->adopted[button.number];
        const std::int64_t begun = state_->start[button.number];
        if (down.empty() || (adopted && !by_adopt) || (adopted == by_adopt && begun < start)) {
            start = begun;
            adopted = by_adopt;
        }
        down.insert(button);
        pressed.set(button, !by_adopt);
    });
    FigureTally tally{state_->t0, state_->t1, repeat_of(first), !down.empty(), adopted, start};
    for (std::uint32_t i = 0; i < count; ++i) {
        const StoredEdge& record = edges[i];
        const Button button{record.button()};
        const std::int64_t time = time_of(record);
        if (!wanted.contains(button)) continue;
        tally.figures.system_repeat_count += record.what().kind() == SlotKind::system_repeat;
        const Effect effect = record.what().effect();
        if (effect == Effect::none) continue;
        if (ends(effect)) {
            down.erase(button);
            pressed.erase(button);
            if (down.empty()) tally.end(time, effect != Effect::release);
        }
        if (presses(effect)) {
            if (down.empty())
                tally.begin(time, false);
            else if (pressed.empty())
                tally.apply(Effect::restart, time);
            down.insert(button);
            pressed.insert(button);
        } else if (effect == Effect::adopt) {
            if (down.empty()) tally.begin(time, true);
            down.insert(button);
        }
    }
    return tally.finish();
}

ButtonFigures ButtonReading::figures_of_busy() const noexcept {
    const FrameCore& frame = core_of(*frame_);
    return devices_.is_every() ? frame.merged_figures(button_) : frame.device_figures(button_, devices_);
}

ButtonFigures Frame::any(std::initializer_list<Button> buttons) const noexcept { return core_of(*this).any(buttons); }

DirectionReading DeviceFrame::direction(const DirectionButtons& buttons, std::optional<Stick> stick) const noexcept {
    return core_of(*frame_).direction(buttons, stick, devices_);
}

DeviceFrame Frame::on(DeviceId device) const noexcept {
    const detail::Device* const known = core_of(*this).timeline->device_known_as(device);
    return {*window_, known ? DeviceFilter::one(known->number) : DeviceFilter{.kind = DeviceFilter::Kind::none}};
}

DeviceFrame Frame::on(Origin origin) const noexcept {
    return {*window_, {.kind = origin == Origin::person ? DeviceFilter::Kind::persons : DeviceFilter::Kind::programs}};
}

bool Frame::follows_pause() const noexcept { return core_of(*this).skip_at != detail::FrameEntries::no_skip; }

bool Frame::has_input_from(Origin origin) const noexcept {
    const FrameCore& frame = core_of(*this);
    const bool by_program = origin == Origin::program;
    if (by_program ? frame.other_entries().moved_by_program : frame.other_entries().moved_by_person) return true;
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const StoredEdge& record = frame.edges[i];
        const SlotKind kind = record.what().kind();
        const bool acts = kind == SlotKind::press || kind == SlotKind::release || kind == SlotKind::system_repeat;
        if (acts && detail::is_virtual(record.tag()) == by_program) return true;
    }
    return false;
}

namespace {

template <typename Visit>
void for_each_motion_stamp(const FrameCore& frame, Visit&& visit) noexcept {
    const detail::OtherEntries& entries = frame.other_entries();
    if (entries.keeps) {
        for (const detail::MotionSlot& slot : entries.kept) visit(slot.stamp());
        return;
    }
    detail::MotionSlot slot;
    for (unsigned i = 0; i < frame.timeline->inlet_count(); ++i) {
        const detail::MotionSpan& span = entries.spans[i];
        for (std::uint64_t at = span.from; span.any && at != span.to; ++at)
            if (frame.timeline->inlet(i).motions_.try_read(at, slot)) visit(slot.stamp());
    }
}

}  // namespace

Latency Frame::latency() const noexcept {
    const FrameCore& frame = core_of(*this);
    const auto for_each_stamp = [&](auto&& visit) {
        std::for_each_n(frame.stamps.begin(), frame.stamp_count, visit);
        std::for_each_n(frame.edges, frame.count, [&](const StoredEdge& record) {
            if (record.what().is_first()) visit(record.time);
        });
        for_each_motion_stamp(frame, visit);
    };
    std::uint32_t count = 0;
    std::int64_t oldest = INT64_MAX, newest = INT64_MIN;
    for_each_stamp([&](std::int64_t stamp) {
        ++count;
        oldest = std::min(oldest, stamp);
        newest = std::max(newest, stamp);
    });
    if (count == 0) return {};
    // The median without room to sort: the latest time that more than half of the stamps have reached, by bisection.
    std::int64_t median = oldest;
    for (std::int64_t later = newest; median < later;) {
        const std::int64_t middle = later - (later - median) / 2;
        std::uint32_t reached = 0;
        for_each_stamp([&](std::int64_t stamp) { reached += stamp >= middle; });
        if (reached > count / 2)
            median = middle;
        else
            later = middle - 1;
    }
    const auto age = [&frame](std::int64_t stamp) { return Duration{frame.state().t1 - stamp}; };
    return {count, age(newest), age(median), age(oldest)};
}

ButtonSet FrameCore::active() const noexcept {
    ButtonSet active{state_->levels};
    for (std::uint32_t i = 0; i < count; ++i)
        if (edges[i].what().kind() != SlotKind::plain) active.insert({edges[i].button()});
    return active;
}

ButtonSet Frame::active() const noexcept { return core_of(*this).active(); }

Snapshot Frame::current() const noexcept {
    const FrameCore& frame = core_of(*this);
    ButtonSet levels{frame.state().levels};
    for (std::uint32_t i = 0; i < frame.count; ++i)
        levels.set({frame.edges[i].button()}, frame.edges[i].what().is_down());
    return {end(), levels};
}

// ---- edges

EdgeRange::Iterator::Iterator(const detail::FrameWindow& frame, bool with_axes) noexcept
    : frame_{&frame}, count_{core_of(frame).count}, with_axes_{with_axes} {
    skip();
}

// Skips system repeats and the entries of buttons that no device has.
void EdgeRange::Iterator::skip() noexcept {
    for (; index_ < count_; ++index_) {
        const StoredEdge& record = frame_->edges[index_];
        const bool is_listed = record.button() < first_of_axes || (with_axes_ && is_of_axes(Button{record.button()}));
        if (record.what().kind() <= SlotKind::cancel && is_listed) return;
    }
}

EdgeRange::Iterator& EdgeRange::Iterator::operator++() noexcept {
    ++index_;
    skip();
    return *this;
}

Edge EdgeRange::Iterator::operator*() const noexcept {
    const StoredEdge& record = frame_->edges[index_];
    return {Time{Duration{core_of(*frame_).time_of(record)}},
            core_of(*frame_).id_of(record.device()),
            {record.button()},
            static_cast<EdgeKind>(record.what().kind())};
}

}  // namespace cursorum
