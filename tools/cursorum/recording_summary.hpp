// What a whole recording is like: holds, system repeats, motion, lateness, and what comparing levels would lose.
#pragma once

#include <cstdint>
#include <functional>
#include <istream>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "cursorum/core/belief_check.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/repeat.hpp"
#include "cursorum/core/time.hpp"
#include "cursorum/recording/exact_rate.hpp"
#include "press_counts.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {

/// Lengths of time, for their least, median and so on. Up to 65,536 of them are kept; beyond that they are counted in
/// bins, each less than 1 % wide, so that memory does not grow: the least and the greatest stay exact, what lies
/// between is that near.
class Lengths {
public:
    void add(Duration length);
    std::uint64_t count() const { return count_; }
    /// 0: the least, 0.5: the median, 1: the greatest. Zero if there is none.
    Duration at(double share) const;
    std::uint64_t count_below(Duration limit) const;
    /// How many are shorter than 1 ms, from there shorter than 1.5, 2, 3, 4, 6, 8 … ms, up to the greatest; the last of
    /// up to 35 has all that are longer than 98 s. The same bins for all recordings, so that they add up. At most 1 %
    /// of a bin's width off, if there are many.
    std::vector<std::uint64_t> in_common_bins() const;

private:
    static std::size_t bin_of(std::int64_t length);
    void add_to_bin(std::int64_t length);

    std::uint64_t count_ = 0;
    std::int64_t least_ = 0, greatest_ = 0;
    mutable std::vector<std::int64_t> all_;
    mutable std::size_t sorted_ = 0;
    struct Bin {
        std::uint64_t count = 0;
        double sum = 0;  // so that equal lengths keep their value
    };
    std::vector<Bin> bins_;  // in use once there are too many
};

struct RecordingSummary {
    struct Control {
        std::uint64_t presses = 0, cancelled = 0;
        Lengths holds;  ///< of presses that ended, by whatever
    };
    struct Repeats {
        Lengths delays;     ///< from a press to the first system repeat
        Lengths intervals;  ///< from one to the next
    };
    struct Mouse {
        std::uint64_t events = 0;
        Lengths intervals;  ///< between motions that are less than 100 ms apart
    };
    /// A press that comparing levels at the cuts does not see, or a level that it takes for one.
    struct Missed {
        std::uint64_t frame = 0;
        Time end;  ///< of that frame
        std::string control;
        std::uint64_t lost = 0;
        bool is_made_up = false;  ///< it went down without a press
    };

    Time end;  ///< of the last frame
    std::uint64_t frames = 0, events = 0;
    std::map<std::string, Control> controls;
    std::map<DeviceId, std::string> devices;  ///< their names
    std::map<DeviceId, Repeats> repeats;
    std::map<DeviceId, Mouse> mice;
    Lengths to_cut;      ///< from an event to the cut that takes it
    Lengths to_program;  ///< from an event to the program that recorded it, where the recording says
    std::vector<Missed> missed;
    std::uint64_t lost = 0, made_up = 0;
    /// What another input layer believed, where the recording says so and is cut as it was.
    struct WrongBelief {
        std::uint64_t frame = 0;
        Time end;  ///< of that frame
        std::string name;
        BeliefFinding what;
    };
    std::uint64_t beliefs = 0;
    std::vector<WrongBelief> wrong_beliefs;
    std::vector<std::string> unknown_actions;  ///< that beliefs name and the profile does not have
    PressCounts presses;                       ///< with a profile
};

struct SummaryOptions {
    std::optional<ExactRate> rate;  ///< none: the recording's own cuts
    bool lists_missed = false;
    bool strict = false;
    const ProfileOption* profile = nullptr;  ///< for beliefs about actions, and for what became of presses
    std::function<void(std::uint64_t bytes)> on_progress;
};

/// A UsageError says what is wrong with the recording.
RecordingSummary summarise(std::istream& in, const std::string& name, const SummaryOptions& options);

}  // namespace cursorum::tool
