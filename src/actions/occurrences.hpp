// What is not a button and yet makes edges: steps of wheels, states of locks, axes and touch with thresholds of their
// own. They are gathered from a frame, and taken in between its edges, by time.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "actions/bindings.hpp"
#include "core/frame/frame_input.hpp"

namespace cursorum::detail {

/// A step of a wheel, a new state of the locks, a new value of what has thresholds, or a text.
struct Occurrence {
    enum class Kind : std::uint8_t { wheel, locks, value, text };
    std::int64_t time;
    Kind kind{};
    PausePart part = PausePart::after;
    bool is_forced = false;    ///< no person caused it
    std::uint16_t number = 0;  ///< of the value in ActionMap::of_values
    std::uint32_t event = 0;   ///< of the wheel, or the text: its number among those of the frame
    std::int32_t x = 0, y = 0;
    std::uint8_t locks = 0;
    double value = 0;
};

/// The occurrences of the current frame that have not been taken, in order of time.
class Occurrences {
public:
    void reserve(const ActionMap& map);
    /// Makes room for the profile's values with thresholds.
    void fit(const ActionMap& map) { values_.resize(map.of_values.size()); }
    /// Adds the frame's occurrences, and sets the levels to those of its start.
    void gather(const ActionMap& map, const FrameInput& frame, DeviceFilter filter);
    /// Adds the frame's texts.
    void gather_texts(const FrameInput& frame);
    void clear() noexcept {
        all_.clear();
        taken_ = 0;
    }

    bool has_any() const noexcept { return !all_.empty(); }
    /// Returns the next one, or null after the last.
    const Occurrence* next() const noexcept { return taken_ != all_.size() ? &all_[taken_] : nullptr; }
    /// Removes the next one and applies it to the levels.
    const Occurrence& take() noexcept;

    double value(std::size_t row) const noexcept { return values_[row]; }
    unsigned locks() const noexcept { return locks_; }

private:
    void add(const Occurrence& it);
    void gather_values(const ActionMap& map, const FrameInput& frame, DeviceFilter filter);

    std::vector<Occurrence> all_;
    std::size_t taken_ = 0;
    std::vector<double> values_;  // as in ActionMap::of_values, now
    unsigned locks_ = 0;          // that are on now
};

}  // namespace cursorum::detail
