// Ratios between benchmarks of one run, as a table.
#pragma once

#include <benchmark/benchmark.h>

#include <map>
#include <string>
#include <vector>

namespace bench {

/// For ratios that are only told.
constexpr double no_limit = 1e300;

/// Collects each benchmark's time per frame over its repetitions.
class RatioReporter final : public benchmark::BenchmarkReporter {
public:
    bool ReportContext(const Context&) override { return true; }
    void ReportRuns(const std::vector<Run>& runs) override;

    double median(const std::string& name) const;
    /// "name over other", its median ratio, the limit, and whether it is kept.
    void row(const std::string& what, const std::string& name, const std::string& other, double limit);
    void row(const std::string& what, double ratio, double limit);
    void times() const;
    bool all_kept() const { return kept_; }

private:
    std::map<std::string, std::vector<double>> times_;
    bool kept_ = true;
};

}  // namespace bench
