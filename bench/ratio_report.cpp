#include "ratio_report.hpp"

#include <algorithm>
#include <cstdio>

namespace bench {

void RatioReporter::ReportRuns(const std::vector<Run>& runs) {
    for (const Run& run : runs) {
        if (run.run_type != Run::RT_Iteration || run.error_occurred) continue;
        const std::string name = run.run_name.function_name;
        const auto& [unit, rate] = *run.counters.begin();
        times_[name].unit = unit;
        times_[name].each.push_back(1e9 / rate);
    }
}

double RatioReporter::median(const std::string& name) const {
    const auto found = times_.find(name);
    if (found == times_.end()) return 0;
    std::vector<double> times = found->second.each;
    std::sort(times.begin(), times.end());
    return times[times.size() / 2];
}

void RatioReporter::row(const std::string& what, const std::string& name, const std::string& other, double limit) {
    // Left out by a --benchmark_filter.
    if (times_.contains(name) && times_.contains(other)) row(what, median(name) / median(other), limit);
}

void RatioReporter::row(const std::string& what, const std::string& name, const std::string& other,
                        const std::string& both, double limit) {
    if (times_.contains(name) && times_.contains(other) && times_.contains(both))
        row(what, (median(name) - median(both)) / (median(other) - median(both)), limit);
}

void RatioReporter::row(const std::string& what, double ratio, double limit) {
    const bool kept = ratio <= limit;
    kept_ = kept_ && kept;
    if (limit < no_limit)
        std::printf("  %-64s %8.3f   at most %6.2f   %s\n", what.c_str(), ratio, limit, kept ? "kept" : "MISSED");
    else
        std::printf("  %-64s %8.3f\n", what.c_str(), ratio);
}

void RatioReporter::figure(const std::string& what, double value, const char* unit) {
    std::printf("  %-64s %8.3f %s\n", what.c_str(), value, unit);
}

void RatioReporter::times() const {
    for (const auto& [name, times] : times_) {
        const auto [least, most] = std::minmax_element(times.each.begin(), times.each.end());
        std::printf("  %-32s %9.2f ns a %-7s (%.2f to %.2f, %zu repetitions)\n", name.c_str(), median(name),
                    times.unit.c_str(), *least, *most, times.each.size());
    }
}

}  // namespace bench
