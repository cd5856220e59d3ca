// cursorum summary: what whole recordings are like.

#include <fmt/format.h>

#include <unistd.h>

#include <algorithm>
#include <array>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "command_line.hpp"
#include "input_file.hpp"
#include "new_file.hpp"
#include "picture_file.hpp"
#include "recording_summary.hpp"
#include "summary_picture.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* summary_footer =
    R"(Holds are from a press to its release or cancel. The columns "<7 ms", "<17 ms" and "<33 ms" count holds that are
shorter than a frame at 144, 60 and 30 frames per second: a game that compares levels once per frame may lose them.
--lost lists what it would lose at --rate, or at the recording's own cuts (60 per second if it has none), and the presses
that it would report although nobody made them. In --format jsonl, `bins` counts the lengths below 1 ms, then from 1 ms,
1.5, 2, 3, 4, 6, 8 ms and so on: the same for all recordings, so that they can be added up.

Examples:
  cursorum summary demo/quay-shift.jsonl
  cursorum summary demo/quay-shift.jsonl --profile demo/quay.toml
  cursorum summary demo/quay-shift.jsonl --lost --rate 24
  cursorum summary demo/quay-shift.jsonl -o summary.png
  cursorum summary demo/quay-shift.jsonl demo/two-operators.jsonl --format jsonl)";

constexpr std::array rates{144, 60, 30};
Duration frame_at(int rate) { return Duration{1'000'000'000 / rate}; }

std::string spread_text(const Lengths& lengths) {
    return fmt::format("{} ({} to {})", short_span(lengths.at(0.5)), short_span(lengths.at(0)),
                       short_span(lengths.at(1)));
}

class SummaryCommand final : public Command {
public:
    explicit SummaryCommand(CommandLine parent) {
        app = parent.add_subcommand("summary", "Holds, system repeats, motion and lateness of whole recordings");
        app->add_option("FILE", files_, "Recordings; - for standard input")->required();
        add_dump_option(*app, as_);
        cuts_.add_rate_to(*app);
        const CommandOption profile =
            files_of_profile_.add_to(*app, "The profile (TOML) of the actions: says what became of each press");
        files_of_profile_.add_modes_to(*app)->needs(profile);
        app->add_option("-o,--output", output_,
                        "Draw it instead: OUT.svg or OUT.png, of one recording; replaced if it exists")
            ->type_name("OUT");
        app->add_flag("--lost", lists_lost_, "List each press that comparing levels would lose, or make up");
        app->add_option("--format", format_, "table, or jsonl: one object for each file (default table)")
            ->type_name("FORMAT")
            ->one_of({"table", "jsonl"});
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->footer(summary_footer);
    }

    int run() override {
        const bool is_png = output_.ends_with(".png");
        if (!output_.empty() && !is_png && !output_.ends_with(".svg"))
            throw UsageError{shown("-o: found \"{}\"; expected a name that ends in .svg or .png", output_)};
        if (!output_.empty() && files_.size() > 1) throw UsageError{"-o: draws one recording; found several"};
        bool is_first = true;
        for (const std::string& file : files_) {
            InputFile input{file, as_};
            SummaryOptions options{.rate = cuts_.exact_rate(),
                                   .lists_missed = lists_lost_,
                                   .strict = strict_,
                                   .profile = &files_of_profile_,
                                   .on_progress = {}};
            const std::string rate = !cuts_.rate.empty()    ? cuts_.rate + " frames per second"
                                     : input.has_own_cuts() ? "the recording's own cuts"
                                                            : "60 frames per second";
            if (!options.rate && rate.starts_with("60")) options.rate = ExactRate{};
            if (::isatty(STDERR_FILENO) != 0 && ::isatty(STDOUT_FILENO) == 0)
                options.on_progress = [](std::uint64_t bytes) {
                    show_progress(shown("cursorum: {} MB read", bytes >> 20));
                };
            const RecordingSummary summary = summarise(input.stream(), input.name(), options);
            if (options.on_progress) show_progress("");
            if (!output_.empty()) {
                const Picture picture = summary_picture(
                    summary,
                    fmt::format("{}: {:.3f} s, {}, {}", input.name(), seconds(summary.end - Time{}),
                                plural_text(summary.devices.size(), "device"), plural_text(summary.events, "event")),
                    rate);
                write_file(output_, is_png ? as_png(picture) : as_svg(picture), input.is_private());
                print(shown("{}: {:g} by {:g} pixels.\n", output_, picture.width, picture.height));
            } else if (format_ == "jsonl")
                print_data(as_json(input.name(), summary));
            else
                print((std::exchange(is_first, false) ? TerminalText{} : TerminalText{"\n"}) +
                      as_table(input.name(), summary, rate));
        }
        return done;
    }

private:
    TerminalText as_table(const std::string& name, const RecordingSummary& s, const std::string& rate) const {
        const Paint paint{wants_colour()};
        TerminalText text =
            paint(Paint::bold, name) + shown(": {:.3f} s, {}, {}, {} at {}\n", seconds(s.end - Time{}),
                                             plural_text(s.devices.size(), "device"), plural_text(s.events, "event"),
                                             plural_text(s.frames, "frame"), rate);
        if (!s.controls.empty()) {
            text += "\n" +
                    paint(Paint::bold,
                          shown("{:<18} {:>7} {:>10} {:>10} {:>10} {:>6} {:>6} {:>6} {:>9}", "control", "presses",
                                "shortest", "median", "longest", "<7 ms", "<17 ms", "<33 ms", "cancelled")) +
                    "\n";
            for (const auto& [control, its] : s.controls) {
                const auto held = [&holds = its.holds](double share) {
                    return holds.count() == 0 ? std::string{"-"} : short_span(holds.at(share));
                };
                text += shown("{:<18} {:>7} {:>10} {:>10} {:>10} {:>6} {:>6} {:>6} {:>9}\n", control, its.presses,
                              held(0), held(0.5), held(1), its.holds.count_below(frame_at(144)),
                              its.holds.count_below(frame_at(60)), its.holds.count_below(frame_at(30)), its.cancelled);
            }
        }
        const auto device = [&](DeviceId id) {
            const auto known = s.devices.find(id);
            return fmt::format("device {}{}", static_cast<std::uint32_t>(id),
                               known == s.devices.end() || known->second.empty() ? "" : " \"" + known->second + "\"");
        };
        const auto title = [&](const char* what) { text += "\n" + paint(Paint::bold, what) + "\n"; };
        if (!s.presses.empty()) title("Where each press went");
        for (const auto& [control, counts] : s.presses) {
            std::vector<std::pair<std::string, std::uint64_t>> by_count{counts.begin(), counts.end()};
            std::stable_sort(by_count.begin(), by_count.end(), [](auto& a, auto& b) { return a.second > b.second; });
            std::uint64_t presses = 0;
            std::string parts;
            for (const auto& [words, count] : by_count) {
                presses += count;
                parts += fmt::format("{} {} {}", parts.empty() ? ";" : ",", count, words);
            }
            text += shown("  {}: {}{}\n", control, plural_text(presses, "press"), parts);
        }
        if (!s.repeats.empty()) title("System repeats, median and spread");
        for (const auto& [id, its] : s.repeats)
            text += shown("  {}: first after {}, then every {}; {} in all\n", device(id), spread_text(its.delays),
                          spread_text(its.intervals), its.delays.count() + its.intervals.count());
        if (!s.mice.empty()) title("Motion");
        for (const auto& [id, its] : s.mice) {
            const double every = seconds(its.intervals.at(0.5));
            text +=
                shown("  {}: {}, every {}, {:.4g} per second; 90 % of the intervals within {} to {}\n", device(id),
                      plural_text(its.events, "event"), short_span(its.intervals.at(0.5)), every > 0 ? 1 / every : 0.0,
                      short_span(its.intervals.at(0.05)), short_span(its.intervals.at(0.95)));
        }
        if (s.to_program.count() != 0) {
            title("From an event to the program that recorded it");
            text += lateness(s.to_program);
        }
        if (s.to_cut.count() != 0) {
            title("From an event to the cut that takes it");
            text += lateness(s.to_cut) + bars(s.to_cut);
        }
        title("Comparing levels at the cuts instead");
        text += shown("  It would lose {} and make up {}.{}\n", s.lost == 0 ? "no press" : plural_text(s.lost, "press"),
                      s.made_up == 0 ? "none" : std::to_string(s.made_up),
                      lists_lost_ || s.lost + s.made_up == 0 ? "" : " --lost lists them.");
        text += missed_text(s);
        if (s.beliefs != 0) {
            title("What another input layer believed");
            text += beliefs_text(s);
        }
        return text;
    }

    static TerminalText missed_text(const RecordingSummary& s) {
        TerminalText text;
        for (const RecordingSummary::Missed& it : s.missed)
            text += shown("  frame {:>7}, up to {:>12} s  {:<18} {}\n", it.frame, cut_text(it.end), it.control,
                          it.is_made_up  ? "made up: found down, not pressed"
                          : it.lost == 1 ? "1 press lost"
                                         : fmt::format("{} presses lost", it.lost));
        return text;
    }

    /// How often it was wrong, and the first time of each kind; with --lost, each time.
    TerminalText beliefs_text(const RecordingSummary& s) const {
        if (!cuts_.rate.empty())
            return shown("  {}, about the recording's own cuts: without --rate they are compared.\n",
                         plural_text(s.beliefs, "belief"));
        TerminalText text =
            shown("  {}: wrong {}.{}\n", plural_text(s.beliefs, "frame"), plural_text(s.wrong_beliefs.size(), "time"),
                  lists_lost_ || s.wrong_beliefs.empty() ? "" : " --lost lists all of them.");
        std::map<std::pair<BeliefFinding::Kind, bool>, std::uint64_t> counts;
        for (const RecordingSummary::WrongBelief& it : s.wrong_beliefs) ++counts[{it.what.kind, it.what.of_release}];
        std::set<std::pair<BeliefFinding::Kind, bool>> seen;
        for (const RecordingSummary::WrongBelief& it : s.wrong_beliefs) {
            const std::pair kind{it.what.kind, it.what.of_release};
            const bool is_first = seen.insert(kind).second;
            if (!is_first && !lists_lost_) continue;
            text += shown("  {:<20} frame {:>7}, up to {:>12} s  {}\n    {}\n",
                          is_first ? fmt::format("{} {}", counts[kind], kind_text(it.what)) : "", it.frame,
                          cut_text(it.end), it.name, describe(it.what));
        }
        for (const std::string& name : s.unknown_actions)
            text += shown("  The profile has no button action \"{}\".\n", name);
        return text;
    }
    static std::string kind_text(const BeliefFinding& it) {
        return fmt::format("{}{}", it.kind == BeliefFinding::Kind::made_up ? "made up" : name_of(it.kind),
                           it.of_release ? " (release)" : "");
    }

    static TerminalText lateness(const Lengths& lengths) {
        return shown("  least {}, median {}, 99 % within {}, most {}\n", short_span(lengths.at(0)),
                     short_span(lengths.at(0.5)), short_span(lengths.at(0.99)), short_span(lengths.at(1)));
    }
    static TerminalText bars(const Lengths& lengths) {
        TerminalText text;
        const std::vector<LatenessBin> bins = lateness_bins(lengths);
        std::uint64_t most = 1;
        for (const LatenessBin& bin : bins) most = std::max(most, bin.count);
        for (const LatenessBin& bin : bins)
            if (bin.count != 0)
                text += shown("  {:>15} {:>8}  {}\n", bin.range, bin.count,
                              std::string(static_cast<std::size_t>((bin.count * 50 + most - 1) / most), '#'));
        return text;
    }

    static std::string as_json(const std::string& name, const RecordingSummary& s) {
        using nlohmann::ordered_json;
        const auto lengths = [](const Lengths& of) {
            return ordered_json{
                {"count", of.count()},           {"least_ns", of.at(0).count()},    {"median_ns", of.at(0.5).count()},
                {"p99_ns", of.at(0.99).count()}, {"greatest_ns", of.at(1).count()}, {"bins", of.in_common_bins()}};
        };
        ordered_json all{{"file", name}, {"length_ns", nanoseconds(s.end)}, {"events", s.events}, {"frames", s.frames}};
        ordered_json controls = ordered_json::array(), repeats = ordered_json::array(), mice = ordered_json::array(),
                     missed = ordered_json::array();
        for (const auto& [control, its] : s.controls) {
            ordered_json entry{{"control", control},
                               {"presses", its.presses},
                               {"cancelled", its.cancelled},
                               {"holds", lengths(its.holds)}};
            for (const int rate : rates)
                entry[fmt::format("shorter_than_a_frame_at_{}", rate)] = its.holds.count_below(frame_at(rate));
            controls.push_back(std::move(entry));
        }
        for (const auto& [id, its] : s.repeats)
            repeats.push_back({{"device", static_cast<std::uint32_t>(id)},
                               {"delays", lengths(its.delays)},
                               {"intervals", lengths(its.intervals)}});
        for (const auto& [id, its] : s.mice)
            mice.push_back({{"device", static_cast<std::uint32_t>(id)},
                            {"events", its.events},
                            {"intervals", lengths(its.intervals)}});
        for (const RecordingSummary::Missed& it : s.missed)
            missed.push_back({{"frame", it.frame},
                              {"t1", nanoseconds(it.end)},
                              {"control", it.control},
                              {"lost", it.lost},
                              {"made_up", it.is_made_up}});
        all["controls"] = std::move(controls);
        all["system_repeats"] = std::move(repeats);
        all["motion"] = std::move(mice);
        for (const auto& [control, counts] : s.presses) all["presses"][control] = counts;
        if (s.to_program.count() != 0) all["to_program"] = lengths(s.to_program);
        all["to_cut"] = lengths(s.to_cut);
        all["lost"] = s.lost;
        all["made_up"] = s.made_up;
        if (!s.missed.empty()) all["missed"] = std::move(missed);
        if (s.beliefs != 0) {
            ordered_json wrong = ordered_json::array();
            for (const RecordingSummary::WrongBelief& it : s.wrong_beliefs)
                wrong.push_back({{"frame", it.frame},
                                 {"t1", nanoseconds(it.end)},
                                 {"of", it.name},
                                 {"wrong", name_of(it.what.kind)},
                                 {"release", it.what.of_release},
                                 {"why", describe(it.what)}});
            all["beliefs"] = s.beliefs;
            all["wrong_beliefs"] = std::move(wrong);
        }
        return all.dump(-1, ' ', false, ordered_json::error_handler_t::replace) + "\n";
    }

    std::vector<std::string> files_;
    std::string as_, output_, format_ = "table";
    CutOptions cuts_;
    ProfileOption files_of_profile_;
    bool lists_lost_ = false, strict_ = false;
};

}  // namespace

std::unique_ptr<Command> add_summary(CommandLine app) { return std::make_unique<SummaryCommand>(app); }

}  // namespace cursorum::tool
