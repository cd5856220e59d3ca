// cursorum actions: a recording in the game's own words.

#include <fmt/format.h>

#include "action_text.hpp"
#include "command_line.hpp"
#include "cursorum/recording/replay.hpp"
#include "input_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* actions_footer =
    R"(The table shows what changes: presses, releases, repeats, and where axes start to move, become steady and stop (with the
distance in milliseconds at full speed). csv and jsonl show everything that is not at rest. Without --mode, the modes
that cover nothing are open.

Examples:
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml --overlay demo/quay-left-handed.toml
  cursorum actions demo/two-operators.jsonl --profile demo/quay.toml --mode crane,bay_plan --rate 144
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml --format jsonl > actions.jsonl)";

class ActionsCommand final : public Command {
public:
    explicit ActionsCommand(CLI::App& parent) {
        app = parent.add_subcommand("actions", "Shows a profile's actions in each frame of a recording");
        app->add_option("FILE", file_, "The recording; - for standard input");
        add_dump_option(*app, as_);
        files_.add_to(*app, "The profile (TOML)")->required();
        files_.add_modes_to(*app);
        cuts_.add_rate_to(*app);
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->add_option("--format", format_, "The output format (default table)")
            ->type_name("FORMAT")
            ->check(CLI::IsMember({"table", "csv", "jsonl"}));
        app->footer(actions_footer);
    }

    int run() override {
        if (file_.empty()) throw UsageError{"actions: which recording? Give FILE, or - for standard input"};
        profile_ = files_.load();
        ActionReader reader{profile_};
        open_ = files_.open_modes(reader, profile_);

        ReplayOptions options;
        options.rate = cuts_.exact_rate();
        options.reader.strict = strict_;
        options.skip_idle = format_ == "table";
        options.may_skip = [&reader] { return reader.is_at_rest(); };
        options.on_many_frames = [this](std::uint64_t count) { warn_of_many_frames(file_, count); };
        InputFile input{file_, as_};
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        Replay replay{input.stream(), input.name(), std::move(options)};
        if (replay.error()) throw UsageError{replay.error()->message()};

        const bool colour = format_ == "table" && wants_colour();
        if (format_ == "csv") print(actions_csv_heading());
        if (format_ == "table") print(actions_table_heading(profile_, colour));
        std::vector<ToldMotion> told;
        std::uint64_t frames = 0;
        while (const Frame* frame = replay.next()) {
            reader.read(*frame);
            const std::uint64_t number = replay.frame_number();
            frames = number + 1;
            const std::string text = format_ == "jsonl" ? actions_as_jsonl(number, reader, profile_)
                                     : format_ == "csv" ? actions_as_csv(number, reader, profile_)
                                                        : actions_as_table(number, reader, profile_, told, colour);
            if (!text.empty()) print(text);
        }
        finish_output();
        if (replay.error()) throw UsageError{replay.error()->message()};
        if (format_ == "table")
            print(fmt::format("{} frames, {}; open: {}.\n", frames, title(), fmt::join(open_, ", ")));
        return done;
    }

private:
    std::string title() const { return profile_.title.empty() ? files_.profile : profile_.title; }

    std::string file_, as_, format_ = "table";
    ProfileOption files_;
    std::vector<std::string> open_;
    CutOptions cuts_;
    bool strict_ = false;
    Profile profile_;
};

}  // namespace

std::unique_ptr<Command> add_actions(CLI::App& app) { return std::make_unique<ActionsCommand>(app); }

}  // namespace cursorum::tool
