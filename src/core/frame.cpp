#include "cursorum/core/frame.hpp"

#include <algorithm>

namespace cursorum {

using detail::Effect;
using detail::Record;
using detail::SlotKind;

/// Adds up a button's edges, in order, into its figures. Three lists of edges go through it: the merged button's, one
/// device's, and those of any of several.
struct FigureTally {
    std::int64_t t0, t1;
    const Repeat* repeat;
    bool down;
    bool adopted;        // how the hold in progress began
    std::int64_t begun;  // when
    ButtonFigures figures;

    FigureTally(std::int64_t from, std::int64_t to, const Repeat& setting, bool was_down, bool was_adopted,
                std::int64_t start) noexcept
        : t0{from}, t1{to}, repeat{&setting}, down{was_down}, adopted{was_adopted}, begun{start} {
        figures.was_down_ = was_down;
        figures.frame_length_ = Duration{t1 - t0};
    }

    void begin(std::int64_t time, bool by_adopt) noexcept {
        ++(by_adopt ? figures.adopt_count_ : figures.press_count_);
        figures.any_edge_ = true;
        down = true;
        adopted = by_adopt;
        begun = time;
    }
    void end(std::int64_t time, bool by_cancel) noexcept {
        ++(by_cancel ? figures.cancel_count_ : figures.release_count_);
        figures.any_edge_ = true;
        down = false;
        figures.held_for_ = Duration{time - begun};
        if (!by_cancel) figures.released_after_ = figures.held_for_;
        add_hold(time, time - 1);  // a pulse at the very end is not given
    }
    void apply(Effect effect, std::int64_t time) noexcept {
        if (effect == Effect::restart) end(time, true);
        if (effect == Effect::none) return;
        if (effect == Effect::release || effect == Effect::cancel)
            end(time, effect == Effect::cancel);
        else
            begin(time, effect == Effect::adopt);
    }
    ButtonFigures finish() noexcept {
        if (down) {
            figures.held_for_ = Duration{t1 - begun};
            add_hold(t1, t1);
        }
        figures.down_ = down;
        if (repeat->cap != 0) figures.repeat_count_ = std::min<std::uint64_t>(figures.repeat_count_, repeat->cap);
        return figures;
    }

private:
    void add_hold(std::int64_t until, std::int64_t last_pulse) noexcept {
        figures.down_span_ += Duration{until - std::max(begun, t0)};
        if (adopted || last_pulse <= t0) return;
        const Time press{Duration{begun}};
        figures.repeat_count_ += repeats_until(*repeat, press, Time{Duration{last_pulse}}) -
                                 repeats_until(*repeat, press, Time{Duration{t0}});
    }
};

ButtonState ButtonFigures::state() const noexcept {
    if (was_down_) return !down_ ? ButtonState::release : pressed() ? ButtonState::dip : ButtonState::hold;
    if (down_) return pressed() ? ButtonState::press : ButtonState::hold;
    return any_edge_ ? ButtonState::blip : ButtonState::idle;
}

double ButtonFigures::down_share() const noexcept {
    if (frame_length_.count() <= 0) return 0;
    return static_cast<double>(down_span_.count()) / static_cast<double>(frame_length_.count());
}

ButtonFigures ButtonReading::figures() const noexcept {
    return device_ == Frame::every_device ? frame_->merged_figures(button_) : frame_->device_figures(button_, device_);
}

// A button's entries are linked from the last to the first; the few that a frame has are turned round on the stack.
template <typename Visit>
void Frame::for_each_record(Button button, Visit&& visit) const noexcept {
    if (!bit(state_->touched, button)) return;
    std::array<std::uint32_t, 32> indices;
    unsigned count = 0;
    std::uint32_t index = entries_->last[button.number];
    for (; index != detail::no_link && count < indices.size(); index = entries_->records[index].link)
        indices[count++] = index;
    if (index == detail::no_link) {
        while (count > 0) visit(entries_->records[indices[--count]]);
        return;
    }
    for (std::uint32_t i = 0; i < entries_->count; ++i)
        if (entries_->records[i].button == button.number) visit(entries_->records[i]);
}

ButtonFigures Frame::merged_figures(Button button) const noexcept {
    if (button.number >= button_capacity) button = {};
    FigureTally tally{state_->t0, state_->t1, repeat_of(button), bit(state_->previous, button),
                      bit(state_->adopted, button), state_->start[button.number]};
    for_each_record(button, [&](const Record& record) {
        tally.figures.system_repeat_count_ += record.kind() == SlotKind::system_repeat;
        tally.apply(record.effect(), record.time);
    });
    return tally.finish();
}

ButtonFigures Frame::device_figures(Button button, unsigned device) const noexcept {
    if (button.number >= button_capacity) button = {};
    // An either-side name has no hold of its own on a device: its two keys' holds are merged here.
    unsigned holders = 0, pressed_holders = 0;
    std::int64_t start = 0;
    bool adopted = true;
    const auto is_meant = [&](std::uint16_t number) {
        return number == button.number ||
               (button.number >= first_either_side && (number & ~7U) == 0xE0U &&
                first_either_side + (number & 3U) == button.number);
    };
    ButtonSet pressed_keys;
    for (unsigned word = 0; word < state_->held.size(); ++word) {
        for (std::uint64_t rest = state_->held[word]; rest != 0; rest &= rest - 1) {
            const detail::DeviceHold& hold = state_->holds[word * 64 + static_cast<unsigned>(std::countr_zero(rest))];
            if (hold.device != device || !is_meant(hold.button)) continue;
            if (holders == 0 || (hold.pressed && adopted) || (hold.pressed != adopted && hold.start < start)) {
                start = hold.start;
                adopted = !hold.pressed;
            }
            ++holders;
            if (hold.pressed) pressed_keys.insert({hold.button});
        }
    }
    pressed_holders = pressed_keys.size();
    FigureTally tally{state_->t0, state_->t1, repeat_of(button), holders != 0, adopted, start};
    for_each_record(button, [&](const Record& record) {
        if (record.device != device) return;
        switch (record.kind()) {
            case SlotKind::press:
                if (holders == 0) tally.begin(record.time, false);
                else if (pressed_holders == 0) tally.apply(Effect::restart, record.time);
                ++holders, ++pressed_holders;
                break;
            case SlotKind::adopt:
                if (holders++ == 0) tally.begin(record.time, true);
                break;
            case SlotKind::release:
            case SlotKind::cancel:
                pressed_holders -= pressed_holders == holders;
                if (--holders == 0) tally.end(record.time, record.kind() == SlotKind::cancel);
                break;
            default: ++tally.figures.system_repeat_count_;
        }
    });
    return tally.finish();
}

ButtonFigures Frame::any(std::initializer_list<Button> buttons) const noexcept {
    const ButtonSet wanted{buttons};
    const Button first = buttons.size() != 0 ? *buttons.begin() : Button{};
    std::int64_t start = 0;
    bool adopted = true;
    ButtonSet down, pressed;  // which of them are held, and held by a press
    wanted.for_each([&](Button button) {
        if (!bit(state_->previous, button)) return;
        const bool by_adopt = bit(state_->adopted, button);
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
        const Button button{record.button};
        if (!wanted.contains(button)) continue;
        tally.figures.system_repeat_count_ += record.kind() == SlotKind::system_repeat;
        const Effect effect = record.effect();
        if (effect == Effect::none) continue;
        if (effect == Effect::release || effect == Effect::cancel || effect == Effect::restart) {
            down.erase(button);
            pressed.erase(button);
            if (down.empty()) tally.end(record.time, effect != Effect::release);
        }
        if (effect == Effect::press || effect == Effect::restart) {
            if (down.empty()) tally.begin(record.time, false);
            else if (pressed.empty()) tally.apply(Effect::restart, record.time);
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
    for (std::size_t i = 0; i < timeline_->device_count(); ++i)
        if (timeline_->device(i).id == device) return {*this, static_cast<unsigned>(i)};
    return {*this, unknown_device};
}

ButtonSet Frame::active() const noexcept {
    return ButtonSet{state_->previous} | ButtonSet{state_->current} | ButtonSet{state_->touched};
}

// ---- edges

EdgeRange::Iterator EdgeRange::begin() const noexcept { return {*frame_, frame_->entries_->count}; }

EdgeRange::Iterator::Iterator(const Frame& frame, std::uint32_t count) noexcept : frame_{&frame}, count_{count} {
    skip();
}

// Past system repeats, and past the entries that stand for either-side names.
void EdgeRange::Iterator::skip() noexcept {
    for (; index_ < count_; ++index_) {
        const Record& record = frame_->entries_->records[index_];
        if (record.kind() <= SlotKind::cancel && record.button < first_either_side) return;
    }
}

EdgeRange::Iterator& EdgeRange::Iterator::operator++() noexcept {
    ++index_;
    skip();
    return *this;
}

Edge EdgeRange::Iterator::operator*() const noexcept {
    const Record& record = frame_->entries_->records[index_];
    return {Time{Duration{record.time}}, frame_->timeline_->device(record.device).id, {record.button},
            static_cast<EdgeKind>(record.kind())};
}

}  // namespace cursorum
