#include "replayed_calls.hpp"

#include <algorithm>

namespace cursorum::tool {

void ReplayedCalls::note(const RecordingLine& line) {
    if (line.kind != RecordingLine::Kind::mode && line.kind != RecordingLine::Kind::claim) return;
    if (!has_reader_) reader_ = line.call.reader;
    has_reader_ = true;
    if (line.call.reader != reader_) return;
    calls_.push_back({line.time, std::string{line.call.mode}, line.call});
}

void ReplayedCalls::make(ActionReader& reader, const Profile& profile, Time start) {
    for (; !calls_.empty() && calls_.front().time <= start; calls_.pop_front()) {
        const auto& [time, name, call] = calls_.front();
        if (!name.empty()) {
            const auto mode = profile.find_mode(name);
            if (!mode && std::find(unknown_.begin(), unknown_.end(), name) == unknown_.end()) unknown_.push_back(name);
            if (mode && call.begins) reader.open(*mode);
            if (mode && !call.begins) reader.close(*mode);
        } else if (call.begins) {
            const auto claim = reader.claim({.everything = call.everything,
                                             .buttons = call.buttons,
                                             .axes = call.axes,
                                             .motion = call.motion,
                                             .wheel = call.wheel,
                                             .device = call.device});
            if (claim) claims_.insert_or_assign(call.claim, *claim);
        } else if (const auto it = claims_.find(call.claim); it != claims_.end()) {
            reader.end_claim(it->second);
            claims_.erase(it);
        }
    }
}

}  // namespace cursorum::tool
