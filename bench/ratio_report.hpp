// Ratios between benchmarks of one run, as a table.
#pragma once

#include <benchmark/benchmark.h>

#include <map>
#include <string>
#include <vector>

namespace bench {

/// For ratios that are only told.
constexpr double no_limit = 1e300;

/// Collects each benchmark's time per unit (a frame, an event, a player) over its repetitions.
class RatioReporter final : public benchmark::BenchmarkReporter {
public:
    bool ReportContext(const Context&) override { return true; }
    void ReportRuns(const std::vector<Run>& runs) override;

    double median(const std::string& name) const;
    /// "name over other", its median ratio, the limit, and whether it is kept.
    void row(const std::string& what, const std::string& name, const std::string& other, double limit);
    /// Less what both contain.
    void row(const std::string& what, const std::string& name, const std::string& other, const std::string& both,
             double limit);
    void row(const std::string& what, double ratio, double limit);
    void times() const;
    /// "what", a plain figure.
    static void figure(const std::string& what, double value, const char* unit);
    bool all_kept() const { return kept_; }
    void miss() { kept_ = false; }

private:
    struct Times {
        std::string unit;
        std::vector<double> each;  // nanoseconds
    };
    std::map<std::string, Times> times_;
    bool kept_ = true;
};

}  // namespace bench
