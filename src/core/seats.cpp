#include "cursorum/core/seats.hpp"

#include <algorithm>

#include "core/device_tally.hpp"
#include "core/postable.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using namespace controls;
using detail::Record;
using detail::SlotKind;

namespace {

constexpr ButtonSet left_keys{
    KeyQ,        KeyW,     KeyE,   KeyR,   KeyT,   KeyA,   KeyS,   KeyD,   KeyF, KeyG,     KeyZ,      KeyX,
    KeyC,        KeyV,     KeyB,   Digit1, Digit2, Digit3, Digit4, Digit5, Tab,  CapsLock, ShiftLeft, AltLeft,
    ControlLeft, MetaLeft, Escape, F1,     F2,     F3,     F4,     F5,     F6,   Space,    Backquote, IntlBackslash};
constexpr double moving_mouse = 4;  // pixels a frame

}  // namespace

ButtonSet left_half() noexcept { return left_keys; }
ButtonSet right_half() noexcept {
    ButtonSet keys;
    postable_buttons.for_each([&keys](Button button) {
        if (button.number < first_mouse_button && !left_keys.contains(button)) keys.insert(button);
    });
    return keys;
}

ButtonSet Seats::everything() noexcept {
    ButtonSet all = postable_buttons;
    for (std::uint16_t i = 0; i < buttons_of_axes; ++i) all.insert({static_cast<std::uint16_t>(first_of_axes + i)});
    return all;
}

Seats::Seats(unsigned count) noexcept : count_{std::clamp(count, 1U, seat_capacity)} {}

bool Seats::give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept {
    if (seat >= count_ || part.empty()) return false;
    unsigned needed = 1;
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.ends || share.device != device || (share.part & part).empty())
            continue;
        if (share.seat == seat && (part - share.part).empty()) return true;  // it is there already
        needed += !(share.part - part).empty();
    }
    const auto room = std::count_if(shares_.begin(), shares_.end(), [](const Share& s) { return !s.is_used; });
    if (static_cast<unsigned>(room) < needed) return false;
    const auto add = [&](std::uint8_t to, const ButtonSet& what, bool is_away) {
        Share& free = *std::find_if(shares_.begin(), shares_.end(), [](const Share& s) { return !s.is_used; });
        free = {.device = device, .part = what, .seat = to, .is_used = true, .is_away = is_away, .is_next = true};
    };
    for (Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.ends || share.device != device || (share.part & part).empty())
            continue;
        const Share old = share;
        if (share.is_next)
            share = {};
        else
            share.ends = true;
        if (const ButtonSet rest = old.part - part; !rest.empty()) add(old.seat, rest, old.is_away);
    }
    add(static_cast<std::uint8_t>(seat), part, false);
    return true;
}

void Seats::take_back(DeviceId device) noexcept {
    for (Share& share : shares_) {
        if (!share.is_used || share.device != device) continue;
        if (share.is_next)
            share = {};
        else
            share.ends = true;
    }
}

void Seats::offer(const ButtonSet& buttons, bool halves, bool adopted) noexcept {
    offers_ = buttons;
    offers_halves_ = halves;
    offers_to_adopted_ = adopted;
}

void Seats::fill_with(DeviceKind kind, bool fill) noexcept {
    const auto bit = static_cast<std::uint8_t>(1U << static_cast<unsigned>(kind));
    fills_with_ = static_cast<std::uint8_t>(fill ? fills_with_ | bit : fills_with_ & ~bit);
}

void Seats::report(SeatChange::Kind kind, unsigned seat, DeviceId device, Time time) noexcept {
    if (change_count_ < changes_.size()) changes_[change_count_++] = {kind, seat, device, time};
}

void Seats::read(const Frame& frame) noexcept {
    frame_ = &frame;
    change_count_ = 0;
    settle(frame);
    pointing_ = {};
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.is_next || !share.part.contains(MouseLeft)) continue;
        if (const detail::Device* const device = frame.timeline_->device_known_as(share.device))
            detail::set_bit(pointing_[share.seat], device->number, true);
    }
    frame.for_each_device_change([&](const DeviceChange& change) {
        for (Share& share : shares_) {
            if (!share.is_used || share.is_gone || share.device != change.device || share.is_away != change.connected)
                continue;
            share.is_away = !change.connected;
            // What was given while it was away, and comes at once, is just given.
            if (share.is_new && change.connected) continue;
            report(change.connected ? SeatChange::Kind::back : SeatChange::Kind::away, share.seat, share.device,
                   change.time);
        }
        if (change.connected && (fills_with_ >> static_cast<unsigned>(change.kind) & 1) != 0) fill(change);
    });
    note_use(frame);
    if (!offers_.empty()) take_seats(frame);
}

// What was given and taken since the last frame comes into force.
void Seats::settle(const Frame& frame) noexcept {
    for (Share& share : shares_) {
        if (!share.is_used) continue;
        if (share.is_gone) {
            share = {};
            continue;
        }
        share.is_new = share.is_next;
        share.is_next = false;
        share.is_gone = share.ends;
        share.ends = false;
        if (share.is_new) {
            share.since = frame.state_->t0;
            share.is_away = !frame.was_connected(share.device);
            report(SeatChange::Kind::given, share.seat, share.device, frame.start());
        }
        if (share.is_gone) report(SeatChange::Kind::freed, share.seat, share.device, frame.start());
    }
    // What a seat keeps of a device that was divided anew was its own all the time.
    for (Share& share : shares_) {
        if (!share.is_new) continue;
        for (const Share& old : shares_)
            if (old.is_gone && old.device == share.device && old.seat == share.seat &&
                (share.part - old.part).empty()) {
                share.is_new = false;
                share.since = old.since;
            }
    }
}

bool Seats::is_free(unsigned seat) const noexcept {
    return std::none_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && !share.ends && share.seat == seat;
    });
}

void Seats::take_seats(const Frame& frame) noexcept {
    for (const Edge& edge : frame.edges()) {
        const bool takes = edge.kind == EdgeKind::press || (offers_to_adopted_ && edge.kind == EdgeKind::adopt);
        if (!takes || !offers_.contains(edge.button)) continue;
        const bool is_taken = std::any_of(shares_.begin(), shares_.end(), [&](const Share& share) {
            return share.is_used && !share.is_gone && !share.ends && share.device == edge.device &&
                   share.part.contains(edge.button);
        });
        if (is_taken) continue;
        const auto device = frame.timeline_->find_device(edge.device);
        const bool by_half = offers_halves_ && device && device->kind == DeviceKind::keyboard;
        for (unsigned seat = 0; seat < count_; ++seat) {
            if (!is_free(seat)) continue;
            const ButtonSet part = !by_half                          ? everything()
                                   : left_keys.contains(edge.button) ? left_half()
                                                                     : right_half();
            if (give(edge.device, seat, part)) report(SeatChange::Kind::taken, seat, edge.device, edge.time);
            break;
        }
    }
}

void Seats::fill(const DeviceChange& change) noexcept {
    const bool has_seat = std::any_of(shares_.begin(), shares_.end(), [&](const Share& share) {
        return share.is_used && !share.is_gone && !share.ends && share.device == change.device;
    });
    for (unsigned seat = 0; seat < count_ && !has_seat; ++seat) {
        if (!is_free(seat)) continue;
        if (give(change.device, seat)) report(SeatChange::Kind::taken, seat, change.device, change.time);
        return;
    }
}

void Seats::note_use(const Frame& frame) noexcept {
    for (std::uint32_t i = 0; i < frame.entries_->count; ++i) {
        const Record& record = frame.entries_->records[i];
        if (record.what().kind() != SlotKind::press) continue;
        const DeviceId device = frame.id_of(record.device());
        if (const auto seat = seat_of(device, {record.button()})) last_device_[*seat] = device;
    }
    if (!frame.pointer().moved()) return;
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.is_next || !share.part.contains(MouseLeft)) continue;
        const PointerReading pointer = frame.on(share.device).pointer();
        const Distance d = pointer.motion();
        if (d.x * d.x + d.y * d.y >= moving_mouse * moving_mouse || pointer.wheel() != Distance{})
            last_device_[share.seat] = share.device;
    }
}

bool Seats::has_device(unsigned seat) const noexcept {
    return std::any_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && !share.is_away && share.seat == seat;
    });
}

bool Seats::is_away(unsigned seat) const noexcept {
    return std::any_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && share.is_away && share.seat == seat;
    });
}

std::optional<unsigned> Seats::seat_of(DeviceId device, Button button) const noexcept {
    for (const Share& share : shares_)
        if (share.is_used && !share.is_gone && !share.is_next && share.device == device && share.part.contains(button))
            return share.seat;
    return std::nullopt;
}

// ---- readings

// Of any of the keys; its repeats are set as those of one button.
ButtonFigures Seats::figures(unsigned seat, const ButtonSet& keys, Button repeats_as) const noexcept {
    const Frame& frame = *frame_;
    const std::int64_t t0 = frame.state_->t0;
    DeviceTally tally;
    const auto for_each_held = [&](auto&& visit) {
        for (const Share& share : shares_) {
            if (!share.is_used || share.is_next || share.seat != seat || (share.part & keys).empty()) continue;
            const detail::Device* const device = frame.timeline_->device_known_as(share.device);
            if (!device) continue;
            keys.for_each([&](Button key) {
                if (!share.part.contains(key)) return;
                // Of a device that was divided anew, the part that goes on counts.
                const bool goes_on = share.is_gone && seat_of(share.device, key) == seat;
                if (goes_on) return;
                if (const detail::DeviceHold* hold = frame.find_hold(key, device->number)) visit(share, *hold);
            });
        }
    };
    for_each_held([&](const Share& share, const detail::DeviceHold& hold) {
        if (share.is_new) return;
        tally.add_hold(hold, hold.time <= share.since ? std::optional{share.since} : std::nullopt);
    });
    tally.start(t0, frame.state_->t1, frame.repeat_of(repeats_as));
    for_each_held([&](const Share& share, const detail::DeviceHold& hold) {
        if (share.is_gone) tally.apply(SlotKind::cancel, detail::hold_of(hold.low()), t0);
        if (share.is_new) tally.apply(SlotKind::adopt, detail::hold_of(hold.low()), t0);
    });
    for (std::uint32_t i = 0; i < frame.entries_->count; ++i) {
        const Record& record = frame.entries_->records[i];
        if (!keys.contains({record.button()})) continue;
        if (seat_of(frame.id_of(record.device()), {record.button()}) == seat) tally.take(record);
    }
    return tally.finish();
}

ButtonFigures SeatFrame::operator[](Button button) const noexcept { return any({button}); }

ButtonFigures SeatFrame::any(std::initializer_list<Button> buttons) const noexcept {
    ButtonSet keys;
    Button first{};
    for (const Button button : buttons) {
        if (button.number >= button_capacity) continue;
        if (first == Button{}) first = button;
        keys = keys | keys_behind(button);
    }
    return seats_->figures(seat_, keys, first);
}

PointerReading SeatFrame::pointer() const noexcept {
    return {*seats_->frame_, {Frame::chosen, seats_->pointing_[seat_]}};
}

StickReading SeatFrame::stick(Stick stick) const noexcept {
    StickReading longest;
    const auto square = [](Vector2 v) { return v.x * v.x + v.y * v.y; };
    for (const Seats::Share& share : seats_->shares_) {
        if (!share.is_used || share.is_next || share.seat != seat_) continue;
        if (!share.part.contains(axis_button(stick.x()))) continue;
        const StickReading own = seats_->frame_->on(share.device).stick(stick);
        if (!share.is_new && square(own.before) > square(longest.before)) longest.before = own.before;
        if (!share.is_gone && square(own.now) > square(longest.now)) longest.now = own.now;
    }
    return longest;
}

AxisReading SeatFrame::pull(Axis pull) const noexcept {
    AxisReading greatest;
    for (const Seats::Share& share : seats_->shares_) {
        if (!share.is_used || share.is_next || share.is_gone || share.seat != seat_) continue;
        if (!share.part.contains(axis_button(pull))) continue;
        const AxisReading own = seats_->frame_->on(share.device).pull(pull);
        greatest.before = std::max(greatest.before, share.is_new ? 0 : own.before);
        greatest.now = std::max(greatest.now, own.now);
        greatest.least = std::max(greatest.least, own.least);
        greatest.greatest = std::max(greatest.greatest, own.greatest);
    }
    return greatest;
}

Distance SeatFrame::motion() const noexcept {
    Distance sum;
    for (const Seats::Share& share : seats_->shares_) {
        if (!share.is_used || share.is_next || share.is_gone || share.seat != seat_ || !share.part.contains(MouseLeft))
            continue;
        const Distance own = seats_->frame_->on(share.device).pointer().motion();
        sum.x += own.x, sum.y += own.y;
    }
    return sum;
}

}  // namespace cursorum
