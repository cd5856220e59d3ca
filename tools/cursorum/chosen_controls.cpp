#include "chosen_controls.hpp"

#include <utility>

namespace cursorum::tool {

void ChosenSink::take(const Event& event) {
    switch (event.type) {
        case EventType::connect:
        case EventType::disconnect:
        case EventType::focus: return writer_.take(event);
        case EventType::interrupt: {
            Event kept = event;
            if (!chosen_.everything) kept.text = {};  // the reason is any text
            return writer_.take(kept);
        }
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
            kept.down_set = chosen_of(event.down_set);
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

void ChosenSink::take(const RecordingLine& line) {
    switch (line.kind) {
        case RecordingLine::Kind::event: return take(line.event);
        case RecordingLine::Kind::frame: return line.tick ? writer_.frame(*line.tick) : writer_.frame(line.time);
        case RecordingLine::Kind::rumble:
            if (!chosen_.everything) break;
            writer_.try_rumble(line.rumble, line.time);
            return;
        // That a mode opened says that its key was pressed; facts name whatever is down.
        case RecordingLine::Kind::mode:
        case RecordingLine::Kind::claim:
        case RecordingLine::Kind::area:
        case RecordingLine::Kind::taken:
        case RecordingLine::Kind::seat:
            if (!chosen_.everything) break;
            return writer_.call(line.time, line.call);
        case RecordingLine::Kind::checkpoint:
            if (!chosen_.everything) break;
            return writer_.checkpoint(line.time, *line.checkpoint);
        case RecordingLine::Kind::belief: {
            RecordedBelief belief = *line.belief;
            if (!chosen_.everything) {
                const bool is_first = !std::exchange(has_beliefs_, true);
                // Without them, the first line speaks of all buttons.
                if (is_first || !belief.handles.empty()) {
                    belief.handles = belief.handles.empty() ? chosen_.buttons : chosen_of(belief.handles);
                    handles_chosen_ = !belief.handles.empty();
                }
                if (!handles_chosen_) break;
                belief.belief.pressed = chosen_of(belief.belief.pressed);
                belief.belief.down = chosen_of(belief.belief.down);
                if (belief.belief.released) belief.belief.released = chosen_of(*belief.belief.released);
                belief.actions = {};
            }
            return writer_.belief(line.time, belief);
        }
        case RecordingLine::Kind::note:
        case RecordingLine::Kind::skipped: break;
    }
    ++left_out_;
}

}  // namespace cursorum::tool
