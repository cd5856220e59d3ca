// Typing: whose each text of a frame is, and what a text field has to do, in order.
#include <algorithm>
#include <tuple>

#include "actions/edges.hpp"

namespace cursorum {

using detail::Owner;

// Where nothing takes text, its order among the edges does not matter.
void ActionReaderCore::gather_texts(const detail::FrameInput& frame) {
    text_owners_.assign(frame.texts->count, others_text);
    if (map_->has_text || state_.now.claimed != 0) return occurrences_.gather_texts(frame);
    for (std::uint32_t i = 0; i < frame.texts->count; ++i) take_text(frame, i);
}

// Text belongs to whoever got the press that made it.
void ActionReaderCore::take_text(const detail::FrameInput& frame, std::uint32_t number) {
    const detail::StoredText& it = frame.texts->pieces[number];
    const bool has_device = it.device() != detail::TextSlot::no_device;
    if (is_partial_ && has_device && !detail::has_bit(included_devices_, it.device())) {
        const unsigned claim = detail::Ownership::claim_on(*this, frame.id_of(it.device()));
        text_owners_[number] = claim != 0 ? static_cast<std::uint8_t>(Owner::first_claim + claim - 1) : others_text;
        return;
    }
    const bool composes = it.phase() == TextPhase::begin || it.phase() == TextPhase::change;
    const bool ends = it.phase() == TextPhase::commit || it.phase() == TextPhase::cancel;
    std::uint8_t owner = ends && state_.composer != Owner::nobody ? state_.composer
                                                                  : detail::Ownership::owner_of_text(*this, {it.key()});
    if (Owner::is_mode(owner) && !detail::has_mode(state_.visible, owner - Owner::first_mode)) owner = Owner::nobody;
    if (composes) state_.composer = owner;
    if (ends) state_.composer = Owner::nobody;
    text_owners_[number] = owner;
}

TextReading ActionReaderCore::text_of(std::uint8_t owner) const noexcept {
    const auto count = static_cast<std::uint32_t>(text_owners_.size());
    return {frame_of_sampler_, count, text_owners_.data(), owner,
            frame_of_sampler_ && state_.composer == owner && owner != Owner::nobody};
}

// After the frame has been read: for each mode that takes text, its texts, and the presses and repeats of its actions.
void ActionReaderCore::gather_typing() {
    const auto add = [this](std::uint8_t mode, std::int64_t time, const TypingStep& step) {
        typing_.push_back({mode, static_cast<std::uint32_t>(typing_.size()), std::max(time, state_.t0), step});
    };
    for (std::uint32_t i = 0; i < text_owners_.size(); ++i) {
        const detail::StoredText& it = frame_of_sampler_->texts->pieces[i];
        const bool enters = it.phase() == TextPhase::typed || it.phase() == TextPhase::commit;
        if (!enters || !Owner::is_mode(text_owners_[i])) continue;
        const char* const bytes = frame_of_sampler_->texts->bytes.data() + it.begin;
        add(static_cast<std::uint8_t>(text_owners_[i] - Owner::first_mode), it.time,
            {.text = {bytes, it.size}, .action = {}});
    }
    for (std::uint16_t i = 0; i < map_->actions.size(); ++i) {
        const ActionMap::Row& row = map_->actions[i];
        const State::Button& before = state_.buttons[i];
        if (row.kind != ActionKind::button || !map_->modes[row.mode].takes_text) continue;
        if (edges_.last_of(i) == 0 && !before.is_down) continue;
        const ButtonAction action{i, numbering_};
        const auto step = [&](std::int64_t time) { add(row.mode, time, {.text = {}, .action = action}); };
        std::uint32_t left = row.repeat.cap == 0 ? UINT32_MAX : row.repeat.cap;
        // The pulses of a hold that began at `start`, before its end or up to the frame's.
        const auto repeat = [&](std::int64_t start, std::int64_t until, bool is_included) {
            const std::int64_t interval = row.repeat.interval.count();
            std::int64_t pulse = start + row.repeat.delay.count();
            if (pulse <= state_.t0) pulse += ((state_.t0 - pulse) / interval + 1) * interval;
            for (; (pulse < until || (is_included && pulse == until)) && left != 0; pulse += interval, --left)
                step(pulse);
        };
        bool repeats = before.is_down && !before.adopted;
        std::int64_t start = before.start;
        ActionEdge edge;
        for (std::uint32_t at = 0; next_edge(at, edge);) {
            if (edge.action.number != i) continue;
            const std::int64_t time = nanoseconds(edge.time);
            if (edge.kind == EdgeKind::release || edge.kind == EdgeKind::cancel) {
                if (repeats) repeat(start, time, false);
                repeats = false;
                continue;
            }
            repeats = edge.kind == EdgeKind::press;
            start = time;
            if (repeats) step(time);
        }
        if (repeats) repeat(start, state_.t1, true);
    }
    // At one time, what a key does comes before what another one types.
    std::sort(typing_.begin(), typing_.end(), [](const Typing& a, const Typing& b) {
        const auto key = [](const Typing& it) {
            return std::tuple{it.mode, it.time, it.step.action == ButtonAction{}, it.order};
        };
        return key(a) < key(b);
    });
    for (Typing& it : typing_) {
        it.step.time = Time{Duration{it.time}};
        typing_steps_.push_back(it.step);
    }
}

std::span<const TypingStep> ActionReaderCore::typing(ModeHandle mode) const noexcept {
    const auto [first, end] = std::equal_range(typing_.begin(), typing_.end(), Typing{mode.number},
                                               [](const Typing& a, const Typing& b) { return a.mode < b.mode; });
    return std::span{typing_steps_}.subspan(static_cast<std::size_t>(first - typing_.begin()),
                                            static_cast<std::size_t>(end - first));
}

}  // namespace cursorum
