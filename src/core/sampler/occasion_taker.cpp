// How occasions are taken, healed after an overrun, and skipped by a pause.
#include "core/sampler/occasion_taker.hpp"

#include <algorithm>
#include <array>
#include <utility>

namespace cursorum::detail {
namespace {

void set_flags(PointerLevels& to, const OccasionSlot& occasion) noexcept {
    to.outside = occasion.outside();
    to.cursor = occasion.cursor();
}

}  // namespace

bool OccasionTaker::take(FrameContext& of, const InletHistory& inlet, unsigned number, std::int64_t until,
                         std::uint64_t end) noexcept {
    std::uint64_t& taken = of.others_.inlets[number].occasions;
    OccasionSlot occasion;
    for (; taken != end; ++taken) {
        const bool is_whole = inlet.occasions_.try_read(taken, occasion);
        if (is_whole && occasion.time > until) {
            of.note_head(occasion.time);
            return false;
        }
        const bool has_room = of.other_entries_.occasion_count < of.other_entries_.occasions.size();
        if (!is_whole || (!has_room && !of.growing_)) [[unlikely]] {
            heal(of, number, until);
            return false;
        }
        if (!has_room) [[unlikely]]
            of.other_entries_.occasions.resize(of.other_entries_.occasions.size() * 2);
        if (occasion.is_press() && !takes_press(of, number, occasion)) continue;
        add(of, occasion);
    }
    return true;
}

// Returns whether a press belongs to this sampler or fell into a pause. The inlet counts clicks through pauses; here
// they count anew.
bool OccasionTaker::takes_press(FrameContext& of, unsigned number, OccasionSlot& occasion) noexcept {
    OtherState::OfInlet& taken = of.others_.inlets[number];
    const unsigned count = occasion.count();
    if (occasion.kind() == OccasionKind::release) taken.last_count = static_cast<std::uint8_t>(count);
    if (occasion.begin_time < of.others_.skipped_before) {
        taken.skipped_count = taken.last_count;
        return false;
    }
    if (count <= taken.skipped_count) taken.skipped_count = 0;
    occasion.what -= std::uint64_t{taken.skipped_count} << OccasionSlot::count_shift;
    return true;
}

void OccasionTaker::add(FrameContext& of, OccasionSlot occasion) noexcept {
    if (of.other_entries_.occasion_count == of.other_entries_.occasions.size()) return;
    occasion.time = std::max(occasion.time, of.state_.t0);
    of.other_entries_.occasions[of.other_entries_.occasion_count++] = occasion;
    if (occasion.kind() == OccasionKind::pointer_flags) set_flags(of.other_entries_, occasion);
    if (occasion.kind() == OccasionKind::locks) of.other_entries_.locks = static_cast<std::uint8_t>(occasion.begin[0]);
    if (occasion.is_change())
        set_bit(of.other_entries_.connected, occasion.device(), occasion.kind() == OccasionKind::connect);
}

// The devices that an inlet has connected now.
void OccasionTaker::show_connected(const InletHistory& inlet, DeviceBits& connected) noexcept {
    for (unsigned i = 0; i < inlet.numbers_.device_room; ++i) {
        const unsigned number = inlet.numbers_.first_device + i;
        const Device* const device = inlet.device_numbered(number);
        set_bit(connected, number, device && (device->flags.look() & Device::connected_flag) != 0);
    }
}

// Overwritten occasions are lost; the remaining ones are taken in the next frames. Contacts that no longer exist are
// cancelled, since their ends may be among the lost ones.
void OccasionTaker::heal(FrameContext& of, unsigned number, std::int64_t until) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    const unsigned first = inlet.numbers_.first_contact, room = inlet.numbers_.contact_room;
    std::array<OccasionSlot, contact_capacity> theirs;
    const auto place_of = [&](const OccasionSlot& occasion) {
        return occasion.is_contact() ? occasion.place() - first : room;
    };
    std::uint64_t position = 0;
    if (!try_often([&] {
            return inlet.contact_table_.try_read(inlet.occasions_, 0, room, theirs.data(), position, place_of);
        }))
        return;  // the next frame detects the overrun again
    ++of.state_.overruns;
    of.others_.inlets[number].occasions = position;
    // Only the present state of this inlet's devices is shown in this frame.
    const auto occasions = of.other_entries_.occasions.begin();
    const auto is_theirs = [&](const OccasionSlot& occasion) {
        return occasion.kind() != OccasionKind::locks &&
               occasion.device() - inlet.numbers_.first_device < unsigned{inlet.numbers_.device_room};
    };
    of.other_entries_.occasion_count = static_cast<std::uint32_t>(
        std::remove_if(occasions, occasions + of.other_entries_.occasion_count, is_theirs) - occasions);
    const std::int64_t now = of.healing_time(number, until);
    const auto set = [now](OccasionSlot occasion, OccasionKind kind) {
        occasion.what = (occasion.what & ~std::uint64_t{0xFF00}) | std::uint64_t{static_cast<unsigned>(kind)} << 8;
        occasion.time = now;
        occasion.begin_time = std::min(occasion.begin_time, now);
        return occasion;
    };
    for (unsigned i = 0; i < room; ++i) {
        const OccasionSlot& mine = of.others_.contacts[first + i];
        const bool same = mine.contact == theirs[i].contact && mine.begin_time == std::min(theirs[i].begin_time, now);
        if (mine.goes_on() && !(theirs[i].goes_on() && same)) add(of, set(mine, OccasionKind::contact_cancel));
        if (theirs[i].goes_on() && theirs[i].what != 0)
            add(of, set(theirs[i], same ? OccasionKind::contact_move : OccasionKind::contact_begin));
    }
    if (const std::uint64_t locks = inlet.locks_.look();
        (locks & locks_reported) != 0 && locks != of.other_entries_.locks) {
        OccasionSlot occasion;
        occasion.time = now;
        occasion.what = OccasionSlot::what_of(OccasionKind::locks, 0, 0, 0);
        occasion.begin[0] = locks;
        add(of, occasion);
    }
    show_connected(inlet, of.other_entries_.connected);
    // Presses in progress: a click needs a press and a release that were seen.
    for (unsigned i = 0; i < inlet.numbers_.press_room; ++i) {
        const OccasionSlot& mine = of.others_.presses[inlet.numbers_.first_press + i];
        if (mine.goes_on() && mine.what != 0) add(of, set(mine, OccasionKind::cancel));
    }
}

void OccasionTaker::end_skip(FrameContext& of, std::int64_t to) const noexcept {
    OtherEntries& entries = of.other_entries_;
    std::array<OccasionSlot, press_capacity> presses = of.others_.presses;
    std::array<OccasionSlot, contact_capacity> contacts = of.others_.contacts;
    const auto follow = [&](const OccasionSlot& occasion) {
        if (occasion.is_press()) presses[occasion.place()] = occasion;
        if (occasion.is_contact()) contacts[occasion.place()] = occasion;
    };
    for (std::uint32_t i = 0; i < skipped_from_; ++i) follow(entries.occasions[i]);
    const std::array<OccasionSlot, press_capacity> presses_before = presses;
    const std::array<OccasionSlot, contact_capacity> contacts_before = contacts;
    std::uint32_t left = std::min(skipped_from_, entries.occasion_count);
    for (std::uint32_t i = left; i < entries.occasion_count; ++i) {
        const OccasionSlot occasion = entries.occasions[i];
        follow(occasion);
        if (!occasion.is_press() && !occasion.is_contact()) entries.occasions[left++] = occasion;
    }
    entries.occasion_count = left;
    const auto add = [&](OccasionSlot occasion, OccasionKind kind) {
        if (!occasion.goes_on() || occasion.what == 0 || entries.occasion_count == entries.occasions.size()) return;
        occasion.what = (occasion.what & ~std::uint64_t{0xFF00}) | std::uint64_t{static_cast<unsigned>(kind)} << 8;
        occasion.time = to;
        entries.occasions[entries.occasion_count++] = occasion;
    };
    for (const OccasionSlot& press : presses_before) add(press, OccasionKind::cancel);
    for (const OccasionSlot& contact : contacts_before)
        if (contact.is_contact()) add(contact, OccasionKind::contact_cancel);
    // A contact that continues through the pause is down without having begun.
    for (const OccasionSlot& contact : contacts)
        if (contact.is_contact()) add(contact, OccasionKind::contact_move);
    of.others_.skipped_before = to;
    for (auto& inlet : of.others_.inlets) inlet.skipped_count = inlet.last_count;
    of.entries_.skip_occasions_at = skipped_from_;
    of.entries_.skip_occasions_to = entries.occasion_count;
}

void OccasionTaker::start_at(FrameContext& of, unsigned number, std::int64_t start) noexcept {
    const InletHistory& inlet = of.timeline_->inlet(number);
    OtherState::OfInlet& of_inlet = of.others_.inlets[number];
    std::uint64_t occasion_at = inlet.occasions_.published();
    show_connected(inlet, of.others_.connected);
    OccasionSlot occasion;
    bool locks_changed = false;
    for (; occasion_at > inlet.occasions_.oldest() && inlet.occasions_.try_read(occasion_at - 1, occasion) &&
           occasion.time > start;
         --occasion_at) {
        locks_changed |= occasion.kind() == OccasionKind::locks;
        if (occasion.is_change())
            set_bit(of.others_.connected, occasion.device(), occasion.kind() == OccasionKind::disconnect);
    }
    of_inlet.occasions = occasion_at;
    // What is in progress then: the latest earlier occasion of each index.
    std::array<bool, press_capacity + contact_capacity> known{};
    bool flags_known = false, locks_known = !locks_changed;
    if (locks_known) of.others_.locks |= static_cast<std::uint8_t>(inlet.locks_.look());
    for (; occasion_at > inlet.occasions_.oldest() && inlet.occasions_.try_read(occasion_at - 1, occasion);
         --occasion_at) {
        if (occasion.kind() == OccasionKind::pointer_flags && !std::exchange(flags_known, true))
            set_flags(of.others_, occasion);
        if (occasion.kind() == OccasionKind::locks && !std::exchange(locks_known, true))
            of.others_.locks |= static_cast<std::uint8_t>(occasion.begin[0]);
        if (occasion.kind() > OccasionKind::contact_cancel) continue;
        const bool is_press = occasion.is_press();
        if (std::exchange(known[(is_press ? 0 : press_capacity) + occasion.place()], true)) continue;
        (is_press ? of.others_.presses[occasion.place()] : of.others_.contacts[occasion.place()]) = occasion;
    }
}

}  // namespace cursorum::detail
