// Which seat has which device, or which half of a keyboard, and what joins, leaves and comes back. A seat's readings
// merge its own devices; changes take effect at the start of the frame that is read next.
#include "cursorum/core/seats.hpp"

#include <algorithm>
#include <array>
#include <new>
#include <type_traits>

#include "core/buttons/device_tally.hpp"
#include "core/controls/postable.hpp"
#include "core/frame/direction_following.hpp"
#include "core/seat_shares.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using namespace controls;
using detail::Slot;
using detail::SlotKind;
using detail::StoredEdge;

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

namespace {

ButtonSet everything() noexcept {
    ButtonSet all = postable_buttons;
    for (std::uint16_t i = 0; i < buttons_of_axes; ++i) all.insert({static_cast<std::uint16_t>(first_of_axes + i)});
    return all;
}

}  // namespace

/// What seats do.
class SeatsCore {
public:
    explicit SeatsCore(unsigned count) noexcept : count_{std::clamp(count, 1U, seat_capacity)} {}

    bool give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept;
    void unassign(DeviceId device) noexcept;
    void read(const Frame& frame) noexcept;
    bool has_device(unsigned seat) const noexcept;
    bool is_away(unsigned seat) const noexcept;
    std::optional<unsigned> seat_of(DeviceId device, Button button) const noexcept;
    ButtonFigures figures(unsigned seat, const ButtonSet& keys, Button repeats_as) const noexcept;
    DirectionReading direction(unsigned seat, const DirectionButtons& buttons,
                               std::optional<Stick> stick) const noexcept;
    detail::DeviceBits devices_with(unsigned seat, Button button, bool at_start) const noexcept;
    void walk_edges(unsigned seat, const ButtonSet& keys, void* to, void (*visit)(void*, const SeatEdge&)) const;
    template <typename Visit>
    void for_each_held(unsigned seat, const ButtonSet& keys, Visit&& visit) const noexcept;
    template <typename Visit>
    void for_each_record(unsigned seat, const ButtonSet& keys, Visit&& visit) const noexcept;

private:
    friend class Seats;
    friend class SeatFrame;
    friend struct detail::SeatAccess;

    struct Share {
        DeviceId device{};
        ButtonSet part;
        std::uint8_t seat = 0;
        bool is_used = false, is_away = false;
        bool is_new = false;   // from this frame's start on
        bool is_gone = false;  // until this frame's start
        bool is_next = false;  // from the next frame's start on
        bool ends = false;     // until the next frame's start
        std::int64_t since = 0;
    };

    unsigned count_;
    const FrameCore* frame_ = nullptr;
    ButtonSet offers_;
    bool offers_halves_ = false, offers_to_adopted_ = false;
    std::uint8_t fills_with_ = 0;  // bit n: devices of kind n
    std::array<Share, share_capacity> shares_{};
    std::array<SeatChange, share_capacity> changes_{};
    std::size_t change_count_ = 0;
    std::array<std::optional<DeviceId>, seat_capacity> last_device_{};
    std::array<detail::DeviceBits, seat_capacity> pointing_{};  // devices whose mouse buttons are the seat's

    void report(SeatChange::Kind kind, unsigned seat, DeviceId device, Time time) noexcept;
    void settle(const Frame& frame) noexcept;
    void keep_holds_of(Share& share) noexcept;
    void take_seats(const Frame& frame) noexcept;
    void fill(const DeviceChange& change) noexcept;
    void note_use(const Frame& frame) noexcept;
    bool is_free(unsigned seat) const noexcept;
};
static_assert(std::is_trivially_copyable_v<SeatsCore>);

bool SeatsCore::give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept {
    if (seat >= count_ || part.empty()) return false;
    // Buttons that the seat has already are unchanged, so that their holds continue.
    ButtonSet lacks = part;
    unsigned needed = 1;
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.ends || share.device != device || (share.part & part).empty())
            continue;
        if (share.seat == seat)
            lacks = lacks - share.part;
        else
            needed += !(share.part - part).empty();
    }
    if (lacks.empty()) return true;
    const auto room = std::count_if(shares_.begin(), shares_.end(), [](const Share& s) { return !s.is_used; });
    if (static_cast<unsigned>(room) < needed) return false;
    const auto add = [&](std::uint8_t to, const ButtonSet& what, bool is_away) {
        Share& free = *std::find_if(shares_.begin(), shares_.end(), [](const Share& s) { return !s.is_used; });
        free = {.device = device, .part = what, .seat = to, .is_used = true, .is_away = is_away, .is_next = true};
    };
    for (Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.ends || share.device != device || share.seat == seat ||
            (share.part & part).empty())
            continue;
        const Share old = share;
        if (share.is_next)
            share = {};
        else
            share.ends = true;
        if (const ButtonSet rest = old.part - part; !rest.empty()) add(old.seat, rest, old.is_away);
    }
    add(static_cast<std::uint8_t>(seat), lacks, false);
    return true;
}

void SeatsCore::unassign(DeviceId device) noexcept {
    for (Share& share : shares_) {
        if (!share.is_used || share.device != device) continue;
        if (share.is_next)
            share = {};
        else
            share.ends = true;
    }
}

void SeatsCore::report(SeatChange::Kind kind, unsigned seat, DeviceId device, Time time) noexcept {
    if (change_count_ < changes_.size()) changes_[change_count_++] = {kind, seat, device, time};
}

void SeatsCore::read(const Frame& frame) noexcept {
    frame_ = &core_of(frame);
    change_count_ = 0;
    settle(frame);
    pointing_ = {};
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_gone || share.is_next || !share.part.contains(MouseLeft)) continue;
        if (const detail::Device* const device = frame_->timeline->device_known_as(share.device))
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

// Applies what was given and taken since the last frame. A hold follows its button's owner: if a device is divided
// differently, the buttons that a seat keeps do not begin again.
void SeatsCore::settle(const Frame& frame) noexcept {
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
        if (!share.is_new) continue;
        share.since = nanoseconds(frame.start());
        share.is_away = !frame.was_connected(share.device);
    }
    for (Share& share : shares_)
        if (share.is_new) keep_holds_of(share);
    const auto still_has = [&](const Share& gone) {
        return std::any_of(shares_.begin(), shares_.end(), [&](const Share& other) {
            return other.is_used && !other.is_gone && !other.is_next && other.device == gone.device &&
                   other.seat == gone.seat;
        });
    };
    for (const Share& share : shares_) {
        if (share.is_new) report(SeatChange::Kind::given, share.seat, share.device, frame.start());
        if (share.is_gone && !still_has(share))
            report(SeatChange::Kind::freed, share.seat, share.device, frame.start());
    }
}

// The part that the seat had before becomes a share of its own, so that it continues. (Without room for one, everything
// is adopted again.)
void SeatsCore::keep_holds_of(Share& share) noexcept {
    for (const Share& old : shares_) {
        if (!old.is_gone || old.device != share.device || old.seat != share.seat) continue;
        const ButtonSet kept = share.part & old.part;
        if (kept.empty()) continue;
        Share* whose = &share;
        if (kept != share.part) {
            whose = std::find_if(shares_.begin(), shares_.end(), [](const Share& s) { return !s.is_used; });
            if (whose == shares_.end()) continue;
            *whose = share;
            whose->part = kept;
            share.part = share.part - kept;
        }
        whose->is_new = false;
        whose->since = old.since;
        if (whose == &share) return;
    }
}

bool SeatsCore::is_free(unsigned seat) const noexcept {
    return std::none_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && !share.ends && share.seat == seat;
    });
}

void SeatsCore::take_seats(const Frame& frame) noexcept {
    for (const Edge& edge : frame.edges()) {
        const bool takes = edge.kind == EdgeKind::press || (offers_to_adopted_ && edge.kind == EdgeKind::adopt);
        if (!takes || !offers_.contains(edge.button)) continue;
        const bool is_taken = std::any_of(shares_.begin(), shares_.end(), [&](const Share& share) {
            return share.is_used && !share.is_gone && !share.ends && share.device == edge.device &&
                   share.part.contains(edge.button);
        });
        if (is_taken) continue;
        const detail::Device* const device = frame_->timeline->device_known_as(edge.device);
        const bool by_half =
            offers_halves_ && device && (device->flags.look() & 0xFF) == static_cast<unsigned>(DeviceKind::keyboard);
        for (unsigned seat = 0; seat < count_; ++seat) {
            if (!is_free(seat)) continue;
            ButtonSet part = !by_half ? everything() : left_keys.contains(edge.button) ? left_half() : right_half();
            for (const Share& share : shares_)  // only what is free
                if (share.is_used && !share.is_gone && !share.ends && share.device == edge.device)
                    part = part - share.part;
            if (give(edge.device, seat, part)) report(SeatChange::Kind::taken, seat, edge.device, edge.time);
            break;
        }
    }
}

void SeatsCore::fill(const DeviceChange& change) noexcept {
    const bool has_seat = std::any_of(shares_.begin(), shares_.end(), [&](const Share& share) {
        return share.is_used && !share.is_gone && !share.ends && share.device == change.device;
    });
    for (unsigned seat = 0; seat < count_ && !has_seat; ++seat) {
        if (!is_free(seat)) continue;
        if (give(change.device, seat, everything())) report(SeatChange::Kind::taken, seat, change.device, change.time);
        return;
    }
}

void SeatsCore::note_use(const Frame& frame) noexcept {
    for (std::uint32_t i = 0; i < frame_->count; ++i) {
        const StoredEdge& record = frame_->edges[i];
        if (record.what().kind() != SlotKind::press) continue;
        const DeviceId device = frame_->id_of(record.device());
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

bool SeatsCore::has_device(unsigned seat) const noexcept {
    return std::any_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && !share.is_away && share.seat == seat;
    });
}

bool SeatsCore::is_away(unsigned seat) const noexcept {
    return std::any_of(shares_.begin(), shares_.end(), [seat](const Share& share) {
        return share.is_used && !share.is_gone && share.is_away && share.seat == seat;
    });
}

std::optional<unsigned> SeatsCore::seat_of(DeviceId device, Button button) const noexcept {
    for (const Share& share : shares_)
        if (share.is_used && !share.is_gone && !share.is_next && share.device == device && share.part.contains(button))
            return share.seat;
    return std::nullopt;
}

// ---- readings

// The buttons held at the frame's start on devices that the seat has or receives then.
template <typename Visit>
void SeatsCore::for_each_held(unsigned seat, const ButtonSet& keys, Visit&& visit) const noexcept {
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_next || share.seat != seat || (share.part & keys).empty()) continue;
        const detail::Device* const device = frame_->timeline->device_known_as(share.device);
        if (!device) continue;
        keys.for_each([&](Button key) {
            if (!share.part.contains(key)) return;
            // If a device was divided differently, the part that continues counts.
            const bool goes_on = share.is_gone && seat_of(share.device, key) == seat;
            if (goes_on) return;
            if (const Slot* hold = frame_->find_hold(key, device->number)) visit(share, *hold);
        });
    }
}

template <typename Visit>
void SeatsCore::for_each_record(unsigned seat, const ButtonSet& keys, Visit&& visit) const noexcept {
    for (std::uint32_t i = 0; i < frame_->count; ++i) {
        const StoredEdge& record = frame_->edges[i];
        if (!keys.contains({record.button()})) continue;
        if (seat_of(frame_->id_of(record.device()), {record.button()}) == seat) visit(record);
    }
}

// For any of several keys, with the repeat setting of one button.
ButtonFigures SeatsCore::figures(unsigned seat, const ButtonSet& keys, Button repeats_as) const noexcept {
    const FrameCore& frame = *frame_;
    const std::int64_t t0 = frame.state().t0;
    DeviceTally tally;
    for_each_held(seat, keys, [&](const Share& share, const Slot& hold) {
        if (share.is_new) return;
        tally.add_hold(hold, hold.time <= share.since ? std::optional{share.since} : std::nullopt);
    });
    tally.start(t0, frame.state().t1, frame.repeat_of(repeats_as));
    for_each_held(seat, keys, [&](const Share& share, const Slot& hold) {
        if (share.is_gone) tally.apply(SlotKind::cancel, detail::hold_of(hold.tag()), t0);
        if (share.is_new) tally.apply(SlotKind::adopt, detail::hold_of(hold.tag()), t0);
    });
    for_each_record(seat, keys, [&](const StoredEdge& record) { tally.take(record, frame.time_of(record)); });
    return tally.finish();
}

void SeatsCore::walk_edges(unsigned seat, const ButtonSet& keys, void* to,
                           void (*visit)(void*, const SeatEdge&)) const {
    const std::int64_t t0 = frame_->state().t0;
    HolderTally holders;
    for_each_held(seat, keys, [&](const Share& share, const Slot& hold) {
        if (share.is_new) return;
        holders.add_hold(hold, hold.time <= share.since ? std::optional{share.since} : std::nullopt);
    });
    bool was_adopted = holders.start().adopted;
    const auto apply = [&](SlotKind kind, const StoredEdge& of, std::int64_t time) {
        const detail::Effect effect = holders.apply(kind, detail::hold_of(of.tag()));
        for_each_edge_kind(effect, [&](EdgeKind its) {
            visit(to, {{Time{Duration{time}}, frame_->id_of(of.device()), {of.button()}, its}, was_adopted});
        });
        if (detail::starts(effect)) was_adopted = effect == detail::Effect::adopt;
    };
    for_each_held(seat, keys, [&](const Share& share, const Slot& hold) {
        if (share.is_gone) apply(SlotKind::cancel, hold, t0);
        if (share.is_new) apply(SlotKind::adopt, hold, t0);
    });
    for_each_record(seat, keys, [&](const StoredEdge& record) {
        if (record.what().kind() <= SlotKind::cancel) apply(record.what().kind(), record, frame_->time_of(record));
    });
}

ButtonFigures SeatFrame::operator[](Button button) const noexcept { return any({button}); }

ButtonFigures SeatFrame::any(std::initializer_list<Button> buttons) const noexcept {
    ButtonSet keys;
    Button first{};
    for (const Button button : buttons) {
        if (button.number >= button_capacity) continue;
        if (first == Button{}) first = button;
        keys = keys | physical_buttons(button);
    }
    return seats_->figures(seat_, keys, first);
}

void SeatFrame::walk_edges(Button button, void* to, void (*visit)(void*, const SeatEdge&)) const {
    if (button.number < button_capacity) seats_->walk_edges(seat_, physical_buttons(button), to, visit);
}

PointerReading SeatFrame::pointer() const noexcept {
    return {*seats_->frame_, detail::DeviceFilter::set(seats_->pointing_[seat_])};
}

// The devices of which the seat has the button, at the frame's start or from then on.
detail::DeviceBits SeatsCore::devices_with(unsigned seat, Button button, bool at_start) const noexcept {
    detail::DeviceBits devices{};
    for (const Share& share : shares_) {
        if (!share.is_used || share.is_next || share.seat != seat || !share.part.contains(button)) continue;
        if (at_start ? share.is_new : share.is_gone) continue;
        if (const detail::Device* const device = frame_->timeline->device_known_as(share.device))
            detail::set_bit(devices, device->number, true);
    }
    return devices;
}

DirectionReading SeatFrame::direction(const DirectionButtons& buttons, std::optional<Stick> stick) const noexcept {
    return seats_->direction(seat_, buttons, stick);
}

DirectionReading SeatsCore::direction(unsigned seat, const DirectionButtons& buttons,
                                      std::optional<Stick> stick) const noexcept {
    const FrameCore& frame = *frame_;
    const std::int64_t t0 = frame.state().t0;
    DirectionTally tally{buttons, t0, frame.state().t1};
    const ButtonSet wanted = tally.wanted();
    const Button axis = stick ? axis_button(stick->x()) : Button{};
    const detail::DeviceBits before = devices_with(seat, axis, true), now = devices_with(seat, axis, false);
    for_each_held(seat, wanted, [&](const Share& share, const Slot& hold) {
        if (!share.is_new) tally.add({hold.button()}, detail::hold_of(hold.tag()), std::max(hold.time, share.since));
    });
    if (stick) tally.set_stick(frame.stick_at_start(*stick, detail::DeviceFilter::set(before)));
    tally.start();
    for_each_held(seat, wanted, [&](const Share& share, const Slot& hold) {
        if (share.is_gone) tally.remove(detail::hold_of(hold.tag()));
        if (share.is_new) tally.add({hold.button()}, detail::hold_of(hold.tag()), t0);
    });
    if (stick) tally.set_stick(frame.stick_at_start(*stick, detail::DeviceFilter::set(now)));
    return follow(frame, tally, stick, detail::DeviceFilter::set(now), [&](const StoredEdge& record) {
        return wanted.contains({record.button()}) && seat_of(frame.id_of(record.device()), {record.button()}) == seat;
    });
}

StickReading SeatFrame::stick(Stick stick) const noexcept {
    const detail::DeviceBits before = seats_->devices_with(seat_, axis_button(stick.x()), true),
                             now = seats_->devices_with(seat_, axis_button(stick.x()), false);
    StickReading reading = seats_->frame_->stick(stick, detail::DeviceFilter::set(now));
    if (before != now) reading.before = seats_->frame_->stick_at_start(stick, detail::DeviceFilter::set(before));
    return reading;
}

AxisReading SeatFrame::trigger(Axis pull) const noexcept {
    const detail::DeviceBits before = seats_->devices_with(seat_, axis_button(pull), true),
                             now = seats_->devices_with(seat_, axis_button(pull), false);
    AxisReading reading = seats_->frame_->trigger(pull, detail::DeviceFilter::set(now));
    if (before != now) reading.before = seats_->frame_->trigger(pull, detail::DeviceFilter::set(before)).before;
    return reading;
}

static DeviceFrame on(const FrameCore& frame, DeviceId device) noexcept { return Frame{frame}.on(device); }

Distance SeatFrame::motion() const noexcept {
    Distance sum;
    for (const SeatsCore::Share& share : seats_->shares_) {
        if (!share.is_used || share.is_next || share.is_gone || share.seat != seat_ || !share.part.contains(MouseLeft))
            continue;
        const Distance own = on(*seats_->frame_, share.device).pointer().motion();
        sum.x += own.x, sum.y += own.y;
    }
    return sum;
}

// ---- the public class

static SeatsCore& core_of(detail::Opaque<3900>& bytes) noexcept { return bytes.as<SeatsCore>(); }
static const SeatsCore& core_of(const detail::Opaque<3900>& bytes) noexcept { return bytes.as<SeatsCore>(); }

Seats::Seats(unsigned count) noexcept { new (core_.bytes) SeatsCore{count}; }

unsigned Seats::count() const noexcept { return core_of(core_).count_; }
bool Seats::give(DeviceId device, unsigned seat) noexcept { return give(device, seat, everything()); }
bool Seats::give(DeviceId device, unsigned seat, const ButtonSet& part) noexcept {
    return core_of(core_).give(device, seat, part);
}
void Seats::unassign(DeviceId device) noexcept { core_of(core_).unassign(device); }

void Seats::offer(const SeatOffer& offer) noexcept {
    SeatsCore& core = core_of(core_);
    core.offers_ = offer.buttons;
    core.offers_halves_ = offer.halves;
    core.offers_to_adopted_ = offer.adopted;
}
void Seats::end_offer() noexcept { core_of(core_).offers_ = {}; }

void Seats::fill_with(DeviceKind kind, bool fill) noexcept {
    std::uint8_t& kinds = core_of(core_).fills_with_;
    const auto bit = static_cast<std::uint8_t>(1U << static_cast<unsigned>(kind));
    kinds = static_cast<std::uint8_t>(fill ? kinds | bit : kinds & ~bit);
}

void Seats::read(const Frame& frame) noexcept { core_of(core_).read(frame); }
std::size_t Seats::change_count() const noexcept { return core_of(core_).change_count_; }
const SeatChange& Seats::change(std::size_t index) const noexcept { return core_of(core_).changes_[index]; }
SeatFrame Seats::operator[](unsigned seat) const noexcept { return {core_of(core_), seat}; }
bool Seats::has_device(unsigned seat) const noexcept { return core_of(core_).has_device(seat); }
bool Seats::is_away(unsigned seat) const noexcept { return core_of(core_).is_away(seat); }
std::optional<unsigned> Seats::seat_of(DeviceId device, Button button) const noexcept {
    return core_of(core_).seat_of(device, button);
}
std::optional<DeviceId> Seats::last_device(unsigned seat) const noexcept { return core_of(core_).last_device_[seat]; }

unsigned detail::SeatAccess::shares_of(const Seats& seats, unsigned seat, SeatShares& shares) noexcept {
    unsigned count = 0;
    const auto end = [&] { return shares.begin() + count; };
    for (const SeatsCore::Share& it : core_of(seats.core_).shares_) {
        if (!it.is_used || it.is_gone || it.is_next || it.seat != seat) continue;
        const auto at = std::find_if(shares.begin(), end(), [&](const SeatShare& s) { return s.device >= it.device; });
        if (at == end() || at->device != it.device) {
            std::move_backward(at, end(), end() + 1);
            *at = {it.device, {}, false};
            ++count;
        }
        at->part = at->part | it.part;
    }
    for (unsigned i = 0; i < count; ++i) shares[i].is_all = shares[i].part == everything();
    return count;
}

}  // namespace cursorum
