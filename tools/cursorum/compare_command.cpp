// cursorum compare: where two recordings, or a recording and kept frames, differ.

#include <fmt/format.h>

#include <array>
#include <istream>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "command_line.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/why/action_rows.hpp"
#include "cursorum/why/frame_lines.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "input_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* compare_footer =
    R"(Each of the two is a recording, or frames as `cursorum frames FILE --format jsonl` printed them.
Of one recording at two rates, what must not depend on the rate is compared: each control's presses, releases, adopts,
cancels and how long it was down in all.
Exit codes: 0 they are the same, 1 they differ, 2 wrong usage or bad input.

Examples:
  cursorum compare before.jsonl after.jsonl
  cursorum compare demo/quay-shift.jsonl demo/two-operators.jsonl --rate 60
  cursorum compare kept.frames demo/quay-menu.jsonl --profile demo/quay-menu.toml
  cursorum compare demo/quay-shift.jsonl --rate 24 --other-rate 1000)";

/// The lines of one of the two.
class Side {
public:
    Side(const std::string& path, FrameLineOptions options) : input_{path} {
        std::istream& in = input_.stream();
        // Frames begin with their number, recordings with their header.
        if (in.peek() != std::char_traits<char>::eof()) {
            constexpr std::string_view begin = R"({"frame":)";
            std::array<char, begin.size()> first{};
            in.read(first.data(), first.size());
            const bool is_frames = std::string_view{first.data(), first.size()} == begin;
            in.clear();
            in.seekg(0);
            if (!in) throw UsageError{shown("{}: cannot be read twice; give a file", input_.name())};
            if (is_frames) kept_ = std::make_unique<KeptFrames>(in, input_.name());
        }
        if (kept_) return;
        options.uses_own_cuts = input_.has_own_cuts();
        lines_ = std::make_unique<FrameLines>(input_.stream(), input_.name(), options);
    }
    bool next(std::string& line) {
        const bool has_line = kept_ ? kept_->next(line) : lines_->next(line);
        const std::string& error = kept_ ? kept_->error() : lines_->error();
        if (!has_line && !error.empty()) throw UsageError{TerminalText::of(error)};
        return has_line;
    }
    bool is_kept() const { return kept_ != nullptr; }
    const std::string& name() const { return input_.name(); }

private:
    InputFile input_;
    std::unique_ptr<FrameLines> lines_;  // of a recording; or
    std::unique_ptr<KeptFrames> kept_;
};

class CompareCommand final : public Command {
public:
    explicit CompareCommand(CommandLine parent) {
        app = parent.add_subcommand("compare",
                                    "Compares two recordings frame by frame, or one with frames that were kept");
        app->add_option("FIRST", first_, "A recording, or frames")->required();
        const auto second = app->add_option("SECOND", second_, "Another recording, or frames");
        cuts_.add_to(*app);
        app->add_option("--other-rate", other_rate_, "Compares FIRST with itself at this many frames per second")
            ->type_name("N")
            ->excludes(second);
        const auto profile = files_.add_to(*app, "Compares the actions of this profile (TOML) instead of controls");
        files_.add_modes_to(*app)->needs(profile);
        app->footer(compare_footer);
    }

    int run() override {
        FrameLineOptions options;
        options.rate = cuts_.exact_rate();
        options.repeat = cuts_.repeat();
        options.modes = files_.modes;
        Profile profile;
        if (!files_.profile.empty()) {
            profile = files_.load();
            options.profile = &profile;
        }
        if (!other_rate_.empty()) return compare_rates(options);
        if (second_.empty()) throw UsageError{"compare: with what? Give SECOND, or --other-rate N"};
        Side first{first_, options}, second{second_, options};
        const FrameComparison comparison = compare_frame_lines([&](std::string& line) { return first.next(line); },
                                                               [&](std::string& line) { return second.next(line); });
        print(comparison_text(comparison, first.name(), second.name()));
        return comparison.is_same() ? done : answer_is_no;
    }

private:
    /// Of each control or action, what adds up to the same at every rate.
    using Totals = std::map<std::string, std::map<std::string, std::int64_t>>;

    static void add(std::map<std::string, std::int64_t>& totals, const ButtonFigures& f) {
        totals["press_count"] += f.press_count();
        totals["release_count"] += f.release_count();
        totals["adopt_count"] += f.adopt_count();
        totals["cancel_count"] += f.cancel_count();
        totals["down_span_ns"] += f.down_span().count();
    }

    Totals totals_at(const FrameLineOptions& options, const ExactRate& rate) const {
        if (Side{first_, options}.is_kept())
            throw UsageError{
                shown("{}: found kept frames, whose rate is what it is; expected a recording to be cut at "
                      "two rates",
                      first_)};
        InputFile input{first_};
        std::optional<ActionReader> reader;
        if (options.profile) reader.emplace(*options.profile);
        ReplayedCalls calls;
        ReplayOptions replaying{.rate = rate, .repeat = options.repeat};
        replaying.skip_idle = true;
        replaying.may_skip = [&] { return !reader || (reader->is_at_rest() && calls.empty()); };
        replaying.on_line = [&](const RecordingLine& line, Outcome) {
            if (reader && options.modes.empty()) calls.note(line);
        };
        Replay replay{input.stream(), input.name(), std::move(replaying)};
        Totals totals;
        bool has_opened = false;
        while (const Frame* frame = replay.next()) {
            if (!reader) {
                frame->active().for_each([&](Button button) {
                    if (can_be_posted(button)) add(totals[std::string{name_of(button)}], (*frame)[button].figures());
                });
                continue;
            }
            if (!std::exchange(has_opened, true)) files_.open_modes(*reader, *options.profile, !calls.empty());
            calls.read(*reader, *frame);
            for (const ActionRow& row : action_rows(*reader, *options.profile)) add(totals[row.name()], row.figures);
        }
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        return totals;
    }

    int compare_rates(const FrameLineOptions& options) const {
        const ExactRate rate = options.rate.value_or(ExactRate{}), other = rate_option(other_rate_);
        const Totals first = totals_at(options, rate), second = totals_at(options, other);
        TerminalText text;
        unsigned differing = 0;
        for (const auto& [name, totals] : first)
            for (const auto& [member, total] : totals) {
                const auto known = second.find(name);
                const std::int64_t there = known == second.end() ? 0 : known->second.at(member);
                if (there == total) continue;
                ++differing;
                text += shown("{}: {} {} at {}, {} at {} frames per second\n", name, member, total,
                              cuts_.rate.empty() ? "60" : cuts_.rate, there, other_rate_);
            }
        for (const auto& [name, totals] : second)
            if (!first.contains(name)) {
                ++differing;
                text += shown("{}: only at {} frames per second\n", name, other_rate_);
            }
        if (differing == 0)
            text = shown("{} has the same presses, releases, adopts, cancels and times down of {} at both rates.\n",
                         first_, plural_text(first.size(), options.profile ? "action" : "control"));
        print(text);
        return differing == 0 ? done : answer_is_no;
    }

    std::string first_, second_, other_rate_;
    CutOptions cuts_;
    ProfileOption files_;
};

}  // namespace

std::unique_ptr<Command> add_compare(CommandLine app) { return std::make_unique<CompareCommand>(app); }

}  // namespace cursorum::tool
