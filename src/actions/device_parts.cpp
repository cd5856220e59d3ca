// Readers of some of the devices: those of a seat, or those without a claim. Their merged edges are not the frame's, so
// the devices' own edges are merged here once more, with the devices that count.
#include <algorithm>
#include <array>
#include <span>

#include "actions/edges.hpp"
#include "actions/reader_facts.hpp"
#include "core/controls/either_side.hpp"
#include "core/seat_shares.hpp"
#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::Effect;
using detail::SlotKind;

// The buttons down at the frame's start are known: all of those for which `kind_of(hold)` is a press or an adopt.
template <typename KindOf>
void ActionReaderCore::seed_part(const detail::FrameInput& frame, const KindOf& kind_of) noexcept {
    detail::DevicePart& part = state_.part;
    part = {};
    part.is_part = true;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        const detail::Slot& hold = frame.hold(i);
        const SlotKind kind = hold.is_held() ? kind_of(hold) : SlotKind::release;
        if (kind != SlotKind::press && kind != SlotKind::adopt) continue;
        for_each_name(hold.button(), [&](std::uint16_t name) { merge(part.holders[name], kind, false); });
        part.buttons[i] = hold.button();
        part.pressed[i] = kind == SlotKind::press;
    }
}

// The effect of a device's edge on the included buttons. The edge of an either-side name comes before its key's.
void ActionReaderCore::apply_device_edge(SlotKind kind, unsigned hold, Button button, std::int64_t time) {
    detail::DevicePart& part = state_.part;
    const Effect effect = merge(part.holders[button.number], kind, part.pressed[hold]);
    if (button.number < first_either_side) {
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        part.pressed[hold] = kind == SlotKind::press;
        part.buttons[hold] = down ? button.number : std::uint16_t{0};
    }
    if (effect == Effect::none) return;
    if (effect == Effect::restart) cancel_before_press(button, time);
    take_rare_edge(button, starts(effect), is_persons(effect), time);
}

// Whether the key that the system repeats belongs to the part. A repeat does not name its hold.
bool ActionReaderCore::is_part_of(const detail::FrameInput& frame, std::uint32_t repeat, Button key) const noexcept {
    const unsigned device = frame.edges[repeat].device();
    for (std::uint32_t i = repeat; i > 0; --i)
        if (const detail::StoredEdge& it = frame.edges[i - 1];
            it.device() == device && it.button() == key.number && detail::hold_of(it.tag()) < hold_capacity)
            return state_.part.buttons[detail::hold_of(it.tag())] != 0;
    for (unsigned i = 0; i < hold_capacity; ++i)
        if (const detail::Slot& hold = frame.hold(i);
            hold.is_held() && hold.device() == device && hold.button() == key.number)
            return state_.part.buttons[i] != 0;
    return false;
}

// The edges of the devices that `includes(number, button)` and that no claim has, merged separately. The set of devices
// may change at the frame's start, and the caller may have skipped frames, so the buttons down then are compared with
// the known ones.
template <typename Includes>
void ActionReaderCore::read_part(const detail::FrameInput& frame, Includes&& includes) {
    detail::DevicePart& part = state_.part;
    if (state_.reopens) start_with_openings();
    const auto claim_of = [&](unsigned device) { return detail::Ownership::claim_on(*this, frame.id_of(device)); };
    // First all that ended, then all that began; each by device, then by name.
    struct Change {
        std::uint64_t order;
        std::uint16_t hold, button;
        bool begins;
    };
    std::array<Change, 2 * hold_capacity> changes;
    unsigned count = 0;
    for (std::uint16_t i = 0; i < hold_capacity; ++i) {
        const detail::Slot& hold = frame.hold(i);
        const bool held = hold.is_held();
        if (part.claim_of[i] != 0 && !held) {
            part.claim_of[i] = 0;
            --part.claimed_holds;
        }
        const bool down =
            held && part.claim_of[i] == 0 && includes(hold.device(), {hold.button()}) && claim_of(hold.device()) == 0;
        const auto add = [&](bool begins, std::uint16_t button) {
            const std::uint64_t device = static_cast<std::uint32_t>(frame.id_of(hold.device()));
            changes[count++] = {std::uint64_t{begins} << 63 | device << 16 | name_rank(Button{button}), i, button,
                                begins};
        };
        const bool stays = down && part.buttons[i] == hold.button();
        if (part.buttons[i] != 0 && !stays) add(false, part.buttons[i]);
        if (down && !stays) add(true, hold.button());
    }
    std::sort(changes.begin(), changes.begin() + count,
              [](const Change& a, const Change& b) { return a.order < b.order; });
    for (unsigned i = 0; i < count; ++i)
        for_each_name(changes[i].button, [&](std::uint16_t name) {
            apply_device_edge(changes[i].begins ? SlotKind::adopt : SlotKind::cancel, changes[i].hold, {name},
                              state_.t0);
        });
    included_devices_ = {};
    for (unsigned i = 0; i < device_capacity; ++i) {
        if (frame.id_of(i) == DeviceId{} || claim_of(i) != 0) continue;
        const bool is_included = includes(i, axis_button(Axis{0})) || includes(i, controls::MouseLeft);
        included_devices_[i / 64] |= std::uint64_t{is_included} << i % 64;
    }
    is_partial_ = true;
    gather_occurrences(frame);
    if (frame.texts->count != 0) gather_texts(frame);
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const detail::StoredEdge& record = frame.edges[i];
        const std::int64_t time = record.time;
        if (i == frame.skip_at) skip_pause(frame.skip_from);
        const SlotKind kind = record.what().kind();
        const Button button{record.button()};
        const unsigned hold = detail::hold_of(record.tag());
        // The record of an either-side name comes before its key's, and the key determines its owner.
        const bool is_key = button.number < first_either_side;
        const Button key{is_key || i + 1 == frame.count ? button.number : frame.edges[i + 1].button()};
        if (kind == SlotKind::system_repeat && is_part_of(frame, i, key)) {
            catch_up(time - 1);
            run_timers(time);
            count_system_repeat(button);
        }
        if (kind > SlotKind::cancel || hold >= hold_capacity) continue;
        const bool down = kind == SlotKind::press || kind == SlotKind::adopt;
        if (!down && part.buttons[hold] == 0) {
            if (part.claim_of[hold] != 0 && is_key) part.claim_of[hold] = 0, --part.claimed_holds;
            continue;
        }
        const DeviceId device = frame.id_of(record.device());
        if (down && part.buttons[hold] == 0) {
            if (const unsigned claim = claim_of(record.device()); claim != 0) {
                if (kind == SlotKind::press && verdicts_.has_sink())
                    decide_for_all(Rule::taken_by_claim, device, button, time);
                if (kind != SlotKind::press || !is_key || part.claim_of[hold] != 0) continue;
                part.claim_of[hold] = static_cast<std::uint8_t>(claim);
                part.claimed[hold] = button.number;
                ++part.claimed_holds;
                continue;
            }
            if (!includes(record.device(), key)) {
                if (kind == SlotKind::press && verdicts_.has_sink())
                    decide_for_all(Rule::other_seat, device, button, time);
                continue;
            }
        }
        catch_up(time - 1);
        run_timers(time);
        mode_cause_ = {.kind = detail::ModeCause::Kind::edge, .edge = &record};
        verdicts_.from(device);
        apply_device_edge(kind, hold, button, time);
        verdicts_.from({});
    }
    if (frame.skip_at == frame.count) skip_pause(frame.skip_from);
    catch_up(state_.t1);
    finish_frame(frame);
}

// The part of all device input that belongs to a seat or to no claim.
void ActionReaderCore::read_unclaimed(const detail::FrameInput& frame) {
    if (log_ && log_->is_by_seat) {
        log_->set(state_.calls++, {.time = state_.t0, .kind = detail::LoggedCall::Kind::share});
        log_->is_by_seat = false;
    }
    if (!state_.part.is_part) {
        heal(ButtonSet{frame.initial->levels});
        // All devices were read until now.
        seed_part(frame, [](const detail::Slot& hold) { return hold.what().kind(); });
    }
    read_part(frame, [](unsigned, Button) { return true; });
    // A button pressed under a claim is ignored until it is up.
    state_.part.is_part = claims_devices() || state_.part.claimed_holds != 0;
}

// For replays: a seat's devices are like calls that take effect with this frame.
void ActionReaderCore::log_shares(const Seats& seats, unsigned seat) noexcept {
    using Kind = detail::LoggedCall::Kind;
    detail::SeatShares now;
    const unsigned count = detail::SeatAccess::shares_of(seats, seat, now);
    const auto log = [&](Kind kind, const detail::SeatShare& share) {
        log_->set(state_.calls++, {.time = state_.t0, .kind = kind, .share = share});
    };
    if (!log_->knows_shares || !log_->is_by_seat) log_->share_count = 0, log(Kind::end_share, {});
    const auto before = std::span{log_->shares}.first(log_->share_count), after = std::span{now}.first(count);
    const auto has = [](std::span<const detail::SeatShare> all, DeviceId device) {
        return std::any_of(all.begin(), all.end(), [&](const auto& it) { return it.device == device; });
    };
    for (const detail::SeatShare& it : before)
        if (!has(after, it.device)) log(Kind::end_share, it);
    for (const detail::SeatShare& it : after)
        if (std::find(before.begin(), before.end(), it) == before.end()) log(Kind::share, it);
    log_->shares = now;
    log_->share_count = count;
    log_->knows_shares = log_->is_by_seat = true;
}

void ActionReaderCore::read(const Frame& of, const Seats& seats, unsigned seat) {
    const detail::FrameInput& frame = detail::input_of(of);
    if (!try_open_frame(frame)) return;
    if (verdicts_.has_sink()) [[unlikely]]
        detail::Gestures::decide_expired(*this);
    if (log_) log_shares(seats, seat);
    if (next_map_) apply_bindings();
    const auto its = [&](unsigned device, Button button) { return seats.seat_of(frame.id_of(device), button) == seat; };
    // After resume(), the facts say what a seat had down; there are none if the reader read all devices until then.
    const bool goes_on =
        state_.next_serial == resumed_before_ + 1 && state_.part.holders != decltype(state_.part.holders){};
    if (!state_.part.is_part && goes_on) {
        // What the seat had before; what it lost with this frame is cancelled by reading it.
        seed_part(frame, [known = state_.part.holders](const detail::Slot& hold) {
            const std::uint16_t holders = known[hold.button()];
            return holders == 0 ? SlotKind::release : holders > 0xFF ? SlotKind::press : SlotKind::adopt;
        });
    } else if (!state_.part.is_part) {
        heal({});
        state_.part = {};  // what an earlier part knew is not so any more
        state_.part.is_part = true;
    }
    read_part(frame, its);
}

}  // namespace cursorum
