// Presses that no reader receives. The inlet keeps no level of a key whose events it ignores, so a key
// that goes down again without having come up is recognised here.
#include "cursorum/views/missed_presses.hpp"

namespace cursorum {

std::string missed_text(Outcome outcome, bool in_pause) {
    if (outcome == Outcome::ignored) return " without focus, so it was ignored";
    if (outcome == Outcome::stray_device) return " on a device that is not connected, so it was ignored";
    if (outcome >= Outcome::refused_devices && outcome <= Outcome::refused_contacts)
        return " and was refused: " + std::string{describe(outcome)};
    return in_pause && outcome == Outcome::press ? " while the game was paused, so it was skipped" : "";
}

bool MissedPresses::is_repeat(const Event& event, Outcome outcome) {
    if (event.type != EventType::button) return false;
    const std::pair key{event.device, event.control.number};
    if (!event.down || missed_text(outcome).empty()) {
        down_.erase(key);
        return false;
    }
    return !down_.insert(key).second || event.system_repeat;
}

std::string MissedPresses::why(const RecordingLine& line, Outcome outcome) {
    // A cut comes before the events that it takes are posted.
    if (line.kind == RecordingLine::Kind::frame) tick_ = line.tick;
    if (line.kind != RecordingLine::Kind::event || is_repeat(line.event, outcome)) return {};
    if (line.event.type != EventType::button || !line.event.down) return {};
    const bool is_in_pause =
        tick_ && tick_->gap == Tick::Gap::paused && line.time >= tick_->gap_from && line.time < tick_->begin;
    return missed_text(outcome, is_in_pause);
}

}  // namespace cursorum
