// What a frame says of all buttons together: sets such as all that were pressed, the newest of several, snapshots of a
// device. They go through the frame's edges, never through all buttons.
#include "core/frame/frame_core.hpp"
#include "core/rules/merging.hpp"

namespace cursorum {

using detail::Effect;
using detail::StoredEdge;

namespace {

template <typename Wanted>
ButtonSet all_that(const Frame& frame, Wanted&& wanted) noexcept {
    ButtonSet all;
    frame.active().for_each([&](Button button) {
        if (button.number >= first_either_side) return;
        if (wanted(frame[button])) all.insert(button);
    });
    return all;
}

}  // namespace

ButtonSet Frame::all_pressed() const noexcept {
    return all_that(*this, [](const ButtonReading& button) { return button.pressed(); });
}
ButtonSet Frame::all_released() const noexcept {
    return all_that(*this, [](const ButtonReading& button) { return button.released(); });
}
ButtonSet Frame::all_ended() const noexcept {
    return all_that(*this, [](const ButtonReading& button) { return button.ended(); });
}
ButtonSet Frame::all_repeated() const noexcept {
    return all_that(*this, [](const ButtonReading& button) { return button.repeated(); });
}
ButtonSet Frame::all_down() const noexcept {
    return all_that(*this, [](const ButtonReading& button) { return button.down(); });
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
    const FrameCore& frame = core_of(*this);
    for (; index / 2 < frame.count; ++index) {
        const StoredEdge& record = frame.edges[index / 2];
        const Effect effect = record.what().effect();
        const bool is_second = index % 2 != 0;
        if (effect == Effect::none || (is_second && effect != Effect::restart)) continue;
        edge = {Time{Duration{frame.time_of(record)}},
                frame.id_of(record.device()),
                {record.button()},
                edge_kind_of(effect, is_second)};
        ++index;
        return true;
    }
    return false;
}

}  // namespace cursorum
