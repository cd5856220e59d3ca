// What a recording says that the game called on its action reader (modes, claims), called again before the frames in
// which it took effect.
#include "cursorum/why/replayed_calls.hpp"

#include <algorithm>
#include <charconv>

#include "actions/reader_facts.hpp"

namespace cursorum {

void ReplayedCalls::note(const RecordingLine& line) {
    if (line.kind == RecordingLine::Kind::checkpoint) {
        checkpoint_ = line.checkpoint;
        checkpoint_time_ = line.time;
        reader_ = checkpoint_->reader;
        has_reader_ = true;
        return;
    }
    if (!line.is_call()) return;
    if (!has_reader_) reader_ = line.call.reader;
    has_reader_ = true;
    if (line.call.reader != reader_) return;
    calls_.push_back({line.time, std::string{line.call.mode}, std::string{line.call.action}, line.call});
}

void ReplayedCalls::make(ActionReader& reader, Time start) {
    if (checkpoint_ && checkpoint_time_ <= start) begin_at_checkpoint(reader);
    for (; !calls_.empty() && calls_.front().time <= start; calls_.pop_front()) {
        const auto& [time, name, action, call] = calls_.front();
        if (call.is_seat) {
            set_seat(call);
        } else if (!name.empty()) {
            const auto mode = reader.find_mode(name);
            if (!mode && std::find(unknown_.begin(), unknown_.end(), name) == unknown_.end()) unknown_.push_back(name);
            if (mode && call.begins) reader.open(*mode);
            if (mode && !call.begins) reader.close(*mode);
        } else if (call.takes_press) {
            if (const auto found = reader.find_button(action)) reader.consume_press(*found);
        } else if (!action.empty()) {
            if (const auto found = reader.find_button(action))
                reader.set_area(*found, call.begins ? std::optional{ClickArea{call.area, call.outside}} : std::nullopt);
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

void ReplayedCalls::set_seat(const RecordedCall& call) {
    if (call.device == DeviceId{}) {
        seats_.reset();
        if (!call.begins) seats_.emplace(1);
        return;
    }
    if (!seats_) seats_.emplace(1);
    seats_->unassign(call.device);
    if (!call.begins) return;
    call.buttons.empty() ? seats_->give(call.device, 0) : seats_->give(call.device, 0, call.buttons);
}

void ReplayedCalls::read(ActionReader& reader, const Frame& frame) {
    make(reader, frame.start());
    if (!seats_) return reader.read(frame);
    seats_->read(frame);
    reader.read(frame, *seats_, 0);
}

// Claims have the numbers of their slots, in the game and here.
void ReplayedCalls::begin_at_checkpoint(ActionReader& reader) {
    std::vector<detail::ReaderFact> facts;
    for (const RecordedCheckpoint::Fact& fact : checkpoint_->facts) {
        facts.push_back({fact.name, fact.text, fact.number, fact.real});
        unsigned claim = 0;
        const std::string_view name = fact.name;
        if (name.starts_with("claim/") &&
            std::from_chars(name.data() + 6, name.data() + name.size(), claim).ec == std::errc{} &&
            claim < claim_capacity)
            claims_.insert_or_assign(claim, ClaimId{static_cast<std::uint8_t>(claim)});
    }
    detail::ReaderAccess::set_facts(reader, facts, checkpoint_time_);
    checkpoint_ = nullptr;
}

}  // namespace cursorum
