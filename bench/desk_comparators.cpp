#include "desk_comparators.hpp"

#include <benchmark/benchmark.h>

#include <cstring>

namespace bench {

using cursorum::Button;
using cursorum::ButtonSet;

std::vector<DeskEvent> desk_stream(unsigned frames, unsigned per_frame, bool with_all) {
    std::uint64_t state = 5;
    const auto below = [&state](unsigned bound) {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<unsigned>((state >> 33) % bound);
    };
    std::vector<DeskEvent> events;
    std::array<std::uint16_t, 2> held{};
    for (unsigned frame = 0; frame < frames; ++frame) {
        for (unsigned i = 0; i < per_frame; ++i) {
            DeskEvent e{};
            e.time = frame * frame_length + 1 + std::int64_t{i} * (frame_length - 2) / per_frame;
            const unsigned place = i % 20;
            const bool last = frame + 1 == frames;
            if (with_all && place % 7 == 3 && place < 17) {  // 3, 10: in this frame down, in the next up
                std::uint16_t& key = held[place / 7];
                e.kind = DeskEvent::Kind::key;
                e.down = key == 0 && !last;
                if (key == 0) key = static_cast<std::uint16_t>(first_key + place / 7 * 34 + below(34));
                e.button = {key};
                if (!e.down) key = 0;
            } else if (with_all && place == 15) {
                e.kind = DeskEvent::Kind::axis;
                e.dx = last ? 0 : (frame % 60 < 30 ? frame % 30 : 30 - frame % 30) / 32.0;
            } else {
                e.dx = below(65) / 8.0 - 4;
                e.dy = below(65) / 8.0 - 4;
            }
            events.push_back(e);
        }
    }
    return events;
}

void DeskBoolArrays::frame(std::span<const DeskEvent> events) {
    previous_ = current_;
    previous_axes_ = axes_;
    dx_ = dy_ = 0;
    for (const DeskEvent& e : events) {
        switch (e.kind) {
            case DeskEvent::Kind::motion: dx_ += e.dx, dy_ += e.dy; break;
            case DeskEvent::Kind::key: current_[e.button.number] = e.down; break;
            case DeskEvent::Kind::axis: axes_[0] = e.dx; break;
        }
    }
}

ButtonSet DeskBoolArrays::down() const {
    ButtonSet set;
    for (std::uint16_t i = 0; i < current_.size(); ++i) set.set(Button{i}, current_[i]);
    return set;
}

void DeskHashSets::frame(std::span<const DeskEvent> events) {
    pressed_.clear();
    released_.clear();
    dx_ = dy_ = 0;
    for (const DeskEvent& e : events) {
        switch (e.kind) {
            case DeskEvent::Kind::motion: dx_ += e.dx, dy_ += e.dy; break;
            case DeskEvent::Kind::axis: axis_ = e.dx; break;
            case DeskEvent::Kind::key:
                if (e.down) {
                    if (down_.insert(e.button.number).second) pressed_.insert(e.button.number);
                } else if (down_.erase(e.button.number) != 0) {
                    released_.insert(e.button.number);
                }
                break;
        }
    }
}

ButtonSet DeskHashSets::down() const {
    ButtonSet set;
    for (const std::uint16_t number : down_) set.insert(Button{number});
    return set;
}

void DeskCopying::frame(std::span<const DeskEvent> events) {
    std::memcpy(events_.data(), events.data(), events.size_bytes());
    previous_ = state_;
    benchmark::DoNotOptimize(events_.data());
    benchmark::DoNotOptimize(previous_.data());
    benchmark::ClobberMemory();
}

void key_changes(const KeyBytes& last, const KeyBytes& now, std::uint64_t& sum) {
    for (unsigned key = 0; key < now.size(); ++key) {
        const bool was = (last[key] & 0x80) != 0, is = (now[key] & 0x80) != 0;
        if (was && !is) sum += key;
        if (is && !was) sum += key * 1000U;
    }
}

}  // namespace bench
