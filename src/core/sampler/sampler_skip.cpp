// What remains of a pause apart from buttons: axes and the pointer as of its end, devices that came and went, locks.
#include <algorithm>

#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::AxisRecord;
using detail::AxisSlot;
using detail::FactKind;
using detail::FactSlot;

void SamplerCore::skip_beside(std::int64_t to) noexcept {
    desk_entries_.moved_by_person = skip_begins_.moved_by_person;
    desk_entries_.moved_by_program = skip_begins_.moved_by_program;
    if (growing_) desk_entries_.kept.resize(skip_begins_.kept);
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) desk_entries_.spans[i].end_hole();
    skip_axes();
    skip_facts(to);
    desk_entries_.has_any = true;
}

// Of each axis that moved, the last value, at the frame's start.
void SamplerCore::skip_axes() noexcept {
    detail::DeskEntries& entries = desk_entries_;
    std::array<AxisRecord, axis_capacity> last;
    unsigned count = 0;
    for (std::uint32_t i = entries.axis_count; i > skip_begins_.axes; --i) {
        const AxisRecord& record = entries.axes[i - 1];
        const bool is_known = std::any_of(last.begin(), last.begin() + count,
                                          [&](const AxisRecord& other) { return other.track() == record.track(); });
        if (!is_known && count < last.size()) last[count++] = record;
        entries.axis_last[record.track()] = record.link;
    }
    entries.axis_count = skip_begins_.axes;
    for (unsigned i = count; i > 0; --i) add_axis({state_.t0, last[i - 1].who, last[i - 1].value, last[i - 1].shaped});
}

void SamplerCore::skip_facts(std::int64_t to) noexcept {
    detail::DeskEntries& entries = desk_entries_;
    std::array<FactSlot, press_capacity> presses = desk_.presses;
    std::array<FactSlot, contact_capacity> contacts = desk_.contacts;
    const auto follow = [&](const FactSlot& fact) {
        if (fact.is_press()) presses[fact.place()] = fact;
        if (fact.is_contact()) contacts[fact.place()] = fact;
    };
    for (std::uint32_t i = 0; i < skip_begins_.facts; ++i) follow(entries.facts[i]);
    const std::array<FactSlot, press_capacity> presses_before = presses;
    const std::array<FactSlot, contact_capacity> contacts_before = contacts;
    std::uint32_t left = std::min(skip_begins_.facts, entries.fact_count);
    for (std::uint32_t i = left; i < entries.fact_count; ++i) {
        const FactSlot fact = entries.facts[i];
        follow(fact);
        if (!fact.is_press() && !fact.is_contact()) entries.facts[left++] = fact;
    }
    entries.fact_count = left;
    const auto add = [&](FactSlot fact, FactKind kind) {
        if (!fact.goes_on() || fact.what == 0 || entries.fact_count == entries.facts.size()) return;
        fact.what = (fact.what & ~std::uint64_t{0xFF00}) | std::uint64_t{static_cast<unsigned>(kind)} << 8;
        fact.time = to;
        entries.facts[entries.fact_count++] = fact;
    };
    for (const FactSlot& press : presses_before) add(press, FactKind::cancel);
    for (const FactSlot& contact : contacts_before)
        if (contact.is_contact()) add(contact, FactKind::contact_cancel);
    // A contact that is there still is there without having begun.
    for (const FactSlot& contact : contacts)
        if (contact.is_contact()) add(contact, FactKind::contact_move);
    desk_.skipped_before = to;
    for (auto& inlet : desk_.inlets) inlet.skipped_count = inlet.last_count;
}

}  // namespace cursorum
