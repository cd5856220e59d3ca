#include "desk_comparators.hpp"

#include <benchmark/benchmark.h>

#include <algorithm>
#include <cstring>

namespace bench {

using cursorum::Button;
using cursorum::ButtonSet;

std::vector<DeskEvent> desk_stream(unsigned frames, unsigned per_frame, Mix mix) {
    std::uint64_t state = 5;
    const auto below = [&state](unsigned bound) {
        state = state * 6364136223846793005ULL + 1442695040888963407ULL;
        return static_cast<unsigned>((state >> 33) % bound);
    };
    using Kind = DeskEvent::Kind;
    const auto kind_of = [](unsigned place) {
        return place >= 18 ? Kind::key : place == 17 ? Kind::axis : Kind::motion;
    };
    std::vector<Kind> kinds(per_frame, Kind::motion);
    std::vector<std::uint16_t> held;
    double travel = 0.25;
    const auto key_event = [&](bool lasts, DeskEvent& e) {
        // From none to four keys are down at a time.
        e.down = held.empty() || (lasts && below(4) >= held.size());
        if (e.down) {
            do e.button = {static_cast<std::uint16_t>(first_key + below(last_key - first_key + 1))};
            while (std::find(held.begin(), held.end(), e.button.number) != held.end());
            held.push_back(e.button.number);
        } else {
            e.button = {held.front()};
            held.erase(held.begin());
        }
    };
    std::vector<DeskEvent> events;
    for (unsigned frame = 0; frame < frames; ++frame) {
        const bool lasts = frame + 4 < frames;  // then all is let go
        for (unsigned i = 0; i < per_frame && mix != Mix::motion; ++i)
            kinds[i] = kind_of(mix == Mix::any ? below(20) : i % 20);
        for (unsigned i = per_frame; i > 1; --i) std::swap(kinds[i - 1], kinds[below(i)]);
        for (unsigned i = 0; i < per_frame; ++i) {
            DeskEvent e{.time = frame * frame_length + 1 + std::int64_t{i} * (frame_length - 2) / per_frame};
            e.kind = kinds[i];
            if (e.kind == Kind::key && (lasts || !held.empty())) {
                key_event(lasts, e);
            } else if (e.kind == Kind::axis) {
                // A finger on a trigger: near where it was.
                travel = std::clamp(travel + below(17) / 128.0 - 8 / 128.0, 0.0, 1.0);
                e.dx = lasts ? travel : 0;
            } else {
                e.kind = Kind::motion;
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
