// Pauses: events within a pause are taken and then discarded. What was down before it is cancelled, and what is down
// after it is adopted; levels, positions and devices are those of its end.
#include <algorithm>
#include <utility>

#include "core/sampler/edge_taker.hpp"
#include "core/sampler/healing.hpp"
#include "core/sampler/sampler_taking.hpp"

namespace cursorum {

using detail::SamplerState;
using detail::SlotKind;

void SamplerCore::skip_buttons(std::int64_t to) noexcept {
    SamplerState& before = healing_->now;
    auto& after = healing_->copy.holds;
    before = state_;
    entries_.commit(before);
    std::copy_n(before.holds.begin(), after.size(), after.begin());
    const std::uint32_t all = std::exchange(entries_.count, skip_begins_.records);
    before = state_;
    entries_.commit(before);
    for (std::uint32_t i = all; i > entries_.count; --i)
        entries_.last[entries_.records[i - 1].button()] = entries_.record_links[i - 1];
    entries_.stamp_count = skip_begins_.stamps;
    start_merging(before.holds);
    healing_->count = 0;
    for (unsigned i = 0; i < hold_capacity; ++i) {
        if (before.holds[i].is_held()) add_change(SlotKind::cancel, i, before.holds[i]);
        if (after[i].is_held()) add_change(SlotKind::adopt, i, after[i]);
    }
    apply_changes(0, to);
}

void SamplerCore::skip_others(std::int64_t to) noexcept {
    other_entries_.moved_by_person = skip_begins_.moved_by_person;
    other_entries_.moved_by_program = skip_begins_.moved_by_program;
    if (growing_) other_entries_.kept.resize(skip_begins_.kept);
    for (unsigned i = 0; i < timeline_->inlet_count(); ++i) other_entries_.spans[i].end_hole();
    skip_axes();
    skip_occasions(to);
    other_entries_.has_any = true;
}

}  // namespace cursorum
