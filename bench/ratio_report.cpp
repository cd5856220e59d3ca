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

double RatioReporter::least(const std::string& name) const {
    const auto found = times_.find(name);
    return found == times_.end() ? 0 : *std::min_element(found->second.each.begin(), found->second.each.end());
}

void RatioReporter::row(const std::string& what, const std::string& name, const std::string& other, double limit) {
    // Left out by a --benchmark_filter.
    if (times_.contains(name) && times_.contains(other)) row(what, median(name) / median(other), least(name) / least(other), limit);
}

void RatioReporter::row(const std::string& what, const std::string& name, const std::string& other,
                        const std::string& both, double limit) {
    if (times_.contains(name) && times_.contains(other) && times_.contains(both))
        row(what, (median(name) - median(both)) / (median(other) - median(both)),
            (least(name) - least(both)) / (least(other) - least(both)), limit);
}

void RatioReporter::row(const std::string& what, double ratio, double ratio_of_least, double limit) {
    const bool kept = ratio <= limit;
    kept_ = kept_ && kept;
    std::printf("  %-64s %8.3f", what.c_str(), ratio);
    if (limit < no_limit) std::printf("   at most %6.3f   %-6s", limit, kept ? "kept" : "MISSED");
    if (ratio_of_least > 0) std::printf("   (of the least times %.3f)", ratio_of_least);
    std::printf("\n");
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
