// ./run.sh bench [--soak [EVENTS]] [Google Benchmark's own options]. All limits are ratios within one run.

#include <benchmark/benchmark.h>

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>
#include <vector>

#include "groups.hpp"

int main(int argc, char** argv) {
    if (argc > 1 && std::strcmp(argv[1], "--soak") == 0) {
        const std::uint64_t events = argc > 2 ? std::strtoull(argv[2], nullptr, 10) : 100'000'000;
        return bench::run_soak(events) ? 0 : 1;
    }
    // In turn, many times over: what disturbs the machine disturbs all of them.
    std::vector<std::string> arguments(argv, argv + argc);
    arguments.emplace_back("--benchmark_repetitions=41");
    arguments.emplace_back("--benchmark_enable_random_interleaving=true");
    arguments.emplace_back("--benchmark_min_time=0.02");
    std::vector<char*> pointers;
    for (std::string& argument : arguments) pointers.push_back(argument.data());
    int count = static_cast<int>(pointers.size());
    benchmark::Initialize(&count, pointers.data());
    if (benchmark::ReportUnrecognizedArguments(count, pointers.data())) return 2;
    bench::add_frames_benchmarks();
    bench::add_desk_benchmarks();
    bench::add_posting_benchmarks();
    bench::add_batch_benchmarks();
    bench::add_pads_benchmarks();
    bench::add_actions_benchmarks();
    bench::add_recordings_benchmarks();
    bench::RatioReporter report;
    benchmark::RunSpecifiedBenchmarks(&report);

    std::printf("Medians, and the least and greatest\n\n");
    report.times();
    bench::report_frames(report);
    bench::report_desk(report);
    bench::report_posting(report);
    bench::report_batch(report);
    bench::report_pads(report);
    bench::report_actions(report);
    bench::report_recordings(report);
    bench::report_late_shares();
    return report.all_kept() ? 0 : 1;
}
