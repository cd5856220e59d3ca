// The groups of benchmarks: what each adds to the run, and what it tells afterwards.
#pragma once

#include <cstdint>

#include "ratio_report.hpp"

namespace bench {

void add_frames_benchmarks();
void report_frames(RatioReporter& report);

void add_desk_benchmarks();
void report_desk(RatioReporter& report);

void add_posting_benchmarks();
void report_posting(RatioReporter& report);

void add_batch_benchmarks();
void report_batch(RatioReporter& report);

void add_pads_benchmarks();
void report_pads(RatioReporter& report);

void add_actions_benchmarks();
void report_actions(RatioReporter& report);

/// Runs two loops for half a second each and tells how many events were late for them.
void report_late_shares();

/// Sends so many events through inlets and samplers on threads of their own and compares every count; false if one is
/// wrong.
bool run_soak(std::uint64_t events);

}  // namespace bench
