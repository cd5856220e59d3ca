#include "cursorum/core/frame.hpp"

#include <algorithm>
#include <functional>

#include "core/device_tally.hpp"

namespace cursorum {

using detail::Effect;
using detail::Record;
using detail::SlotKind;
using detail::What;

ButtonState ButtonFigures::state() const noexcept {
    if (was_down_ && !down_) return release_count_ != 0 ? ButtonState::release : ButtonState::cancel;
    if (was_down_) return pressed() ? ButtonState::dip : ButtonState::hold;
    if (down_) return pressed() ? ButtonState::press : ButtonState::hold;
    return any_edge_ ? ButtonState::blip : ButtonState::idle;
}

double ButtonFigures::down_share() const noexcept {
    if (frame_length_.count() <= 0) return 0;
    return static_cast<double>(down_span_.count()) / static_cast<double>(frame_length_.count());
}

// A button's entries are linked from the last to the first; the few that a frame has are turned round on the stack.
template <typename Visit>
void Frame::for_each_record(Button button, Visit&& visit) const noexcept {
    std::array<std::uint32_t, 32> ordinals;
    unsigned count = 0;
    const Record* const records = entries_->records.data();
    const std::uint32_t base = entries_->base;
    std::uint32_t ordinal = entries_->last[button.number];
    for (; ordinal >= base && count < ordinals.size(); ordinal = entries_->links[ordinal - base])
        ordinals[count++] = ordinal;
    if (ordinal < base) {
        while (count > 0) visit(records[ordinals[--count] - base]);
        return;
    }
    for (std::uint32_t i = 0; i < entries_->count; ++i)
        if (entries_->records[i].button() == button.number) visit(entries_->records[i]);
}

namespace {

/// What a single edge adds to the four counts.
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

// Stands for the record of a button that has none in a frame, by its level.
constexpr std::array<Record, 2> no_record{
    Record::of(0, 0, 0, 0, What::of(SlotKind::plain, Effect::none, false, false)),
    Record::of(0, 0, 0, 0, What::of(SlotKind::plain, Effect::none, false, true)),
};

}  // namespace

// Most buttons that are not idle have one record in a frame, or none, and no hold as long as the repeat's delay. Those
// go through in a straight line; the rest goes through the tally, which says the same.
ButtonFigures Frame::merged_figures(Button button) const noexcept {
    if (button.number >= button_capacity) button = {};
    const std::uint32_t ordinal = entries_->last[button.number], base = entries_->base;
    const bool was_down = this->was_down(button);
    const bool has_one = ordinal >= base;
    const std::uint32_t place = has_one ? ordinal - base : 0;
    const Record* const record = has_one ? entries_->records.data() + place : &no_record[was_down];
    const What what = record->what();
    const std::int64_t t0 = state_->t0, t1 = state_->t1, time = record->time, start = state_->start[button.number];
    const bool down = what.is_down(), ends = what.ends(), presses = what.presses();
    const bool adopts = what.effect() == Effect::adopt, starts = presses | adopts;
    const std::int64_t old_hold = was_down ? (ends ? time : t1) - start : 0;
    const std::int64_t new_hold = starts ? t1 - time : 0;
    const bool has_more = has_one & (entries_->links[place] >= base);
    const bool may_repeat = old_hold + new_hold >= repeat_of(button).delay.count();
    if (has_more | may_repeat) [[unlikely]]
        return merged_tally(button);

    const EffectCounts counts = effect_counts[static_cast<unsigned>(what.effect())];
    ButtonFigures figures;
    figures.was_down_ = was_down;
    figures.down_ = down;
    figures.any_edge_ = what.effect() != Effect::none;
    figures.frame_length_ = Duration{t1 - t0};
    figures.press_count_ = counts.press;
    figures.release_count_ = counts.release;
    figures.adopt_count_ = counts.adopt;
    figures.cancel_count_ = counts.cancel;
    figures.system_repeat_count_ = what.kind() == SlotKind::system_repeat;
    figures.held_for_ = Duration{starts ? new_hold : old_hold};
    figures.released_ = (counts.release != 0) & !state_->adopted[button.number];
    figures.released_after_ = Duration{figures.released_ ? old_hold : 0};
    const std::int64_t old_span = was_down ? (ends ? time : t1) - t0 : 0;
    figures.down_span_ = Duration{old_span + new_hold};
    return figures;
}

ButtonFigures Frame::merged_tally(Button button) const noexcept {
    FigureTally tally{state_->t0,
                      state_->t1,
                      repeat_of(button),
                      was_down(button),
                      state_->adopted[button.number],
                      state_->start[button.number]};
    for_each_record(button, [&](const Record& record) {
        tally.figures.system_repeat_count_ += record.what().kind() == SlotKind::system_repeat;
        tally.apply(record.what().effect(), record.time);
    });
    return tally.finish();
}

ButtonFigures Frame::device_figures(Button button, unsigned device) const noexcept {
    if (button.number >= button_capacity || device == unknown_device) button = {};
    const ButtonSet keys = keys_behind(button);
    DeviceTally tally;
    keys.for_each(
        [&](Button key) { for_each_hold(key, device, [&](const detail::DeviceHold& hold) { tally.add_hold(hold); }); });
    tally.start(state_->t0, state_->t1, repeat_of(button));
    const auto take = [&](const Record& record) {
        if (is_of(record, device)) tally.take(record);
    };
    if (keys.size() == 1) {
        for_each_record(button, take);
    } else {
        for (std::uint32_t i = 0; i < entries_->count; ++i)
            if (keys.contains({entries_->records[i].button()})) take(entries_->records[i]);
    }
    return tally.finish();
}

bool Frame::is_of(const Record& record, unsigned device) const noexcept {
    if (device < unknown_device) return record.device() == device;
    return detail::is_virtual(record.low()) == (device == programs);
}

template <typename Visit>
void Frame::for_each_hold(Button button, unsigned device, Visit&& visit) const noexcept {
    if (device < unknown_device) {
        if (const detail::DeviceHold* hold = find_hold(button, device)) visit(*hold);
        return;
    }
    if (!was_down(button)) return;  // nobody holds it
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::DeviceHold& hold = state_->holds[i];
        if (hold.button() == button.number && hold.is_held() && detail::is_virtual(hold.low()) == (device == programs))
            visit(hold);
    }
}

// The button's hold on a device at the frame's start, null if it was up. The inlet tells where to look; should it have
// given the place to another button since, the sampler's own is found by searching.
const detail::DeviceHold* Frame::find_hold(Button button, unsigned device) const noexcept {
    const auto is_it = [&](const detail::DeviceHold& hold) {
        return hold.button() == button.number && hold.device() == device && hold.what().device_is_down();
    };
    const detail::Device* const known = timeline_->device_numbered(device);
    if (!known) return nullptr;
    const unsigned place = known->cell(button).hold();
    if (place == detail::Cell::never_held) return nullptr;
    if (place < hold_capacity && is_it(state_->holds[place])) return &state_->holds[place];
    const auto found = std::find_if(state_->holds.begin(), state_->holds.end() - 1, is_it);
    return found == state_->holds.end() - 1 ? nullptr : &*found;
}

ButtonFigures Frame::any(std::initializer_list<Button> buttons) const noexcept {
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
    for (std::uint32_t i = 0; i < entries_->count; ++i) {
        const Record& record = entries_->records[i];
        const Button button{record.button()};
        if (!wanted.contains(button)) continue;
        tally.figures.system_repeat_count_ += record.what().kind() == SlotKind::system_repeat;
        const Effect effect = record.what().effect();
        if (effect == Effect::none) continue;
        if (effect == Effect::release || effect == Effect::cancel || effect == Effect::restart) {
            down.erase(button);
            pressed.erase(button);
            if (down.empty()) tally.end(record.time, effect != Effect::release);
        }
        if (effect == Effect::press || effect == Effect::restart) {
            if (down.empty())
                tally.begin(record.time, false);
            else if (pressed.empty())
                tally.apply(Effect::restart, record.time);
            down.insert(button);
            pressed.insert(button);
        } else if (effect == Effect::adopt) {
            if (down.empty()) tally.begin(record.time, true);
            down.insert(button);
        }
    }
    return tally.finish();
}

DeviceFrame Frame::on(DeviceId device) const noexcept {
    const detail::Device* const known = timeline_->device_known_as(device);
    return {*this, known ? known->number : unknown_device};
}

bool Frame::has_input_from(Origin origin) const noexcept {
    const bool by_program = origin == Origin::program;
    if (by_program ? desk_entries_->moved_by_program : desk_entries_->moved_by_person) return true;
    for (std::uint32_t i = 0; i < entries_->count; ++i) {
        const Record& record = entries_->records[i];
        const SlotKind kind = record.what().kind();
        const bool acts = kind == SlotKind::press || kind == SlotKind::release || kind == SlotKind::system_repeat;
        if (acts && detail::is_virtual(record.low()) == by_program) return true;
    }
    return false;
}

template <typename Visit>
void Frame::for_each_motion_stamp(Visit&& visit) const noexcept {
    if (desk_entries_->keeps) {
        for (const detail::MotionSlot& slot : desk_entries_->kept) visit(slot.stamp());
        return;
    }
    detail::MotionSlot slot;
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) {
        const detail::MotionSpan& span = desk_entries_->spans[i];
        for (std::uint64_t at = span.from; span.any && at != span.to; ++at)
            if (timeline_->inlet(i).motions_.try_read(at, slot)) visit(slot.stamp());
    }
}

Latency Frame::latency() const noexcept {
    std::vector<std::int64_t>& stamps = entries_->ages;
    std::uint32_t count = 0;
    const auto add = [&](std::int64_t stamp) {
        if (count < stamps.size()) stamps[count++] = stamp;
    };
    if (desk_entries_->keeps) stamps.resize(entries_->stamp_count + entries_->count + desk_entries_->kept.size());
    std::for_each_n(entries_->stamps.begin(), entries_->stamp_count, add);
    std::for_each_n(entries_->records.begin(), entries_->count, [&](const Record& record) {
        if (record.what().is_first()) add(record.time);
    });
    for_each_motion_stamp(add);
    if (count == 0) return {};
    const auto begin = stamps.begin(), end = begin + count;
    // Latest stamps first, so that what is in the middle is of the middle age.
    const auto middle = begin + count / 2;
    std::nth_element(begin, middle, end, std::greater<>{});
    const auto [oldest, newest] = std::minmax_element(begin, end);
    const auto age = [this](std::int64_t stamp) { return Duration{state_->t1 - stamp}; };
    return {count, age(*newest), age(*middle), age(*oldest)};
}

ButtonSet Frame::active() const noexcept {
    ButtonSet active{state_->levels};
    for (std::uint32_t i = 0; i < entries_->count; ++i)
        if (const Record& record = entries_->records[i]; record.what().kind() != SlotKind::plain)
            active.insert({record.button()});
    return active;
}

Snapshot Frame::current() const noexcept {
    ButtonSet levels{state_->levels};
    for (std::uint32_t i = 0; i < entries_->count; ++i)
        levels.set({entries_->records[i].button()}, entries_->records[i].what().is_down());
    return {end(), levels};
}

// ---- edges

EdgeRange::Iterator EdgeRange::begin() const noexcept { return {*frame_, frame_->entries_->count}; }

EdgeRange::Iterator::Iterator(const Frame& frame, std::uint32_t count) noexcept : frame_{&frame}, count_{count} {
    skip();
}

// Past system repeats, and past the entries of buttons that no device has.
void EdgeRange::Iterator::skip() noexcept {
    for (; index_ < count_; ++index_) {
        const Record& record = frame_->entries_->records[index_];
        if (record.what().kind() <= SlotKind::cancel && record.button() < first_of_axes) return;
    }
}

EdgeRange::Iterator& EdgeRange::Iterator::operator++() noexcept {
    ++index_;
    skip();
    return *this;
}

Edge EdgeRange::Iterator::operator*() const noexcept {
    const Record& record = frame_->entries_->records[index_];
    return {Time{Duration{record.time}},
            frame_->id_of(record.device()),
            {record.button()},
            static_cast<EdgeKind>(record.what().kind())};
}

}  // namespace cursorum
