#include "chosen_controls.hpp"

namespace cursorum::tool {

void ChosenTaker::take(const Event& event) {
    switch (event.type) {
        case EventType::connect:
        case EventType::disconnect:
        case EventType::focus:
        case EventType::interrupt: return writer_.take(event);
        case EventType::button:
            if (!is_chosen(event.control)) break;
            ++kept_;
            return writer_.take(event);
        case EventType::axis:
            if (!chosen_.everything && !chosen_.axes.has(event.axis.number)) break;
            ++kept_;
            return writer_.take(event);
        case EventType::motion:
        case EventType::wheel:
        case EventType::pointer:
        case EventType::contact:
            if (!chosen_.everything && !chosen_.pointer) break;
            ++kept_;
            return writer_.take(event);
        case EventType::locks:
        case EventType::shaping:
            if (!chosen_.everything && (event.type == EventType::locks || chosen_.axes.present == 0)) break;
            return writer_.take(event);
        case EventType::state: {
            Event kept = event;
            kept.down_set = {};
            event.down_set.for_each([&](Button button) {
                if (is_chosen(button)) kept.down_set.insert(button);
            });
            if (!chosen_.everything) {
                kept.axes = {};
                for (std::uint8_t i = 0; i < axis_kinds; ++i)
                    if (event.axes.has(i) && chosen_.axes.has(i)) kept.axes.set(Axis{i}, event.axes.values[i]);
            }
            return writer_.take(kept);
        }
        case EventType::text:  // what is typed is never recorded, but stays where it is
            if (!chosen_.text) break;
            return writer_.take(event);
    }
    ++left_out_;
}

}  // namespace cursorum::tool
