// Readings of all buttons and devices of a frame together.

#include "core/taking.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/frame.hpp"

namespace cursorum {

using detail::Effect;
using detail::Record;

template <typename Wanted>
ButtonSet Frame::all_that(Wanted&& wanted) const noexcept {
    ButtonSet all;
    active().for_each([&](Button button) {
        if (button.number >= first_either_side || name_of(button).empty()) return;
        if (wanted((*this)[button])) all.insert(button);
    });
    return all;
}

ButtonSet Frame::all_pressed() const noexcept {
    return all_that([](const ButtonReading& button) { return button.pressed(); });
}
ButtonSet Frame::all_released() const noexcept {
    return all_that([](const ButtonReading& button) { return button.released(); });
}
ButtonSet Frame::all_ended() const noexcept {
    return all_that([](const ButtonReading& button) { return button.ended(); });
}
ButtonSet Frame::all_repeated() const noexcept {
    return all_that([](const ButtonReading& button) { return button.repeated(); });
}
ButtonSet Frame::all_down() const noexcept {
    return all_that([](const ButtonReading& button) { return button.down(); });
}

Button Frame::newest(std::initializer_list<Button> buttons) const noexcept {
    Button newest;
    Duration shortest = Duration::max();
    for (const Button button : buttons) {
        const ButtonFigures figures = (*this)[button].figures();
        if (!figures.down() || figures.held_for() > shortest) continue;
        newest = button;
        shortest = figures.held_for();
    }
    return newest;
}

// `index`: twice the record's, and one more for the second edge of a restart.
bool Frame::next_merged_edge(std::uint32_t& index, Edge& edge) const noexcept {
    for (; index / 2 < entries_->count; ++index) {
        const Record& record = entries_->records[index / 2];
        const Effect effect = record.what().effect();
        const bool is_second = index % 2 != 0;
        if (effect == Effect::none || (is_second && effect != Effect::restart) ||
            name_of(Button{record.button()}).empty())
            continue;
        edge = {Time{Duration{record.time}},
                id_of(record.device()),
                {record.button()},
                effect == Effect::release                 ? EdgeKind::release
                : effect == Effect::adopt                 ? EdgeKind::adopt
                : effect == Effect::cancel                ? EdgeKind::cancel
                : effect == Effect::restart && !is_second ? EdgeKind::cancel
                                                          : EdgeKind::press};
        ++index;
        return true;
    }
    return false;
}

// ---- devices

namespace {

DeviceKind kind_of(const detail::Device& device) noexcept {
    return static_cast<DeviceKind>(device.flags.look() & 0xFF);
}

}  // namespace

unsigned Frame::count_of(DeviceKind kind) const noexcept {
    unsigned count = 0;
    for (unsigned number = 0; number < unknown_device; ++number)
        if (detail::has_bit(desk_entries_->connected, number))
            if (const detail::Device* device = timeline_->device_numbered(number)) count += kind_of(*device) == kind;
    return count;
}

std::optional<DeviceId> Frame::device(DeviceKind kind, unsigned place) const noexcept {
    for (unsigned number = 0; number < unknown_device; ++number) {
        const detail::Device* const device = timeline_->device_numbered(number);
        if (!device || kind_of(*device) != kind || place-- != 0) continue;
        if (!detail::has_bit(desk_entries_->connected, number)) return std::nullopt;
        return id_of(number);
    }
    return std::nullopt;
}

void Frame::describe(DeviceChange& change) const noexcept {
    unsigned place = 0;
    const auto status = timeline_->find_device(change.device);
    if (!status) return;
    change.kind = status->kind;
    change.name_bytes = status->name_bytes;
    for (unsigned number = 0; number < unknown_device; ++number) {
        const detail::Device* const device = timeline_->device_numbered(number);
        if (!device || kind_of(*device) != status->kind) continue;
        if (device->is_known_as(change.device)) break;
        ++place;
    }
    change.place = place;
}

DeviceSnapshot DeviceFrame::current() const noexcept {
    DeviceSnapshot snapshot;
    snapshot.time = frame_->end();
    frame_->active().for_each([&](Button button) {
        if (can_be_posted(button) && (*this)[button].down()) snapshot.down.insert(button);
    });
    frame_->for_each_axis([&](const DeviceAxis& axis) {
        if (frame_->on(axis.device).device_ == device_) snapshot.axes.set(axis.axis, axis.value);
    });
    return snapshot;
}

}  // namespace cursorum
