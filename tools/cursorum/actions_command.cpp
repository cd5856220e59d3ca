// cursorum actions: a recording in the game's own words.

#include <fmt/format.h>

#include <fstream>
#include <sstream>

#include "action_text.hpp"
#include "command_line.hpp"
#include "cursorum/actions/profile_file.hpp"
#include "cursorum/recording/replay.hpp"
#include "input_file.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* footer = R"(The table tells what is news: presses, releases, repeats, and where axes set out, get
steady and stop (how far: in milliseconds at full speed); csv and jsonl tell all that is not at rest. Without --mode, the modes that cover nothing are open.

Examples:
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml --overlay demo/quay-left-handed.toml
  cursorum actions demo/two-operators.jsonl --profile demo/quay.toml --mode crane,bay_plan --rate 144
  cursorum actions demo/quay-shift.jsonl --profile demo/quay.toml --format jsonl > actions.jsonl)";

std::string text_of(const std::string& path) {
    std::ifstream file{path, std::ios::binary};
    std::ostringstream text;
    if (!file || !(text << file.rdbuf())) throw UsageError{fmt::format("{}: cannot be read; is the name right?", path)};
    return text.str();
}

class ActionsCommand final : public Command {
public:
    explicit ActionsCommand(CLI::App& parent) {
        app = parent.add_subcommand("actions", "A recording as a profile's actions: what was meant, frame by frame");
        app->add_option("FILE", file_, "The recording; - for standard input");
        app->add_option("--profile", profile_file_, "The profile (TOML)")->type_name("FILE")->required();
        app->add_option("--overlay", overlay_file_, "The player's changes, laid over it")->type_name("FILE");
        app->add_option("--mode", modes_, "The modes that are open, the lowest first")
            ->type_name("NAME")
            ->delimiter(',');
        cuts_.add_rate_to(*app);
        app->add_flag("--strict", strict_, "Lines of unknown type and a cut-off last line are errors");
        app->add_option("--format", format_, "table, csv or jsonl (default table)")
            ->type_name("FORMAT")
            ->check(CLI::IsMember({"table", "csv", "jsonl"}));
        app->footer(footer);
    }

    int run() override {
        if (file_.empty()) throw UsageError{"actions: which recording? Give FILE, or - for standard input"};
        load_profile();
        ActionReader reader{profile_};
        open_modes(reader);

        ReplayOptions options;
        options.rate = cuts_.exact_rate();
        options.reader.strict = strict_;
        InputFile input{file_};
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        Replay replay{input.stream(), input.name(), std::move(options)};
        if (replay.error()) throw UsageError{replay.error()->message()};

        const bool colour = format_ == "table" && wants_colour();
        if (format_ == "csv") print(actions_csv_heading());
        if (format_ == "table") print(actions_table_heading(colour));
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
    void load_profile() {
        ProfileError error;
        const auto read = read_profile(text_of(profile_file_), profile_file_, error);
        if (!read) throw UsageError{error.message()};
        profile_ = *read;
        if (!overlay_file_.empty() && !lay_over(profile_, text_of(overlay_file_), overlay_file_, error))
            throw UsageError{error.message()};
    }

    void open_modes(ActionReader& reader) {
        open_ = modes_;
        if (modes_.empty())
            for (const Mode& mode : profile_.modes)
                if (!mode.covers) open_.push_back(mode.name);
        for (const std::string& name : open_) {
            std::string why;
            const auto mode = profile_.find_mode(name, &why);
            if (!mode) throw UsageError{fmt::format("--mode: {}", why)};
            if (!reader.open(*mode)) throw UsageError{fmt::format("--mode: found \"{}\" twice", name)};
        }
    }

    std::string title() const { return profile_.title.empty() ? profile_file_ : profile_.title; }

    std::string file_, profile_file_, overlay_file_, format_ = "table";
    std::vector<std::string> modes_, open_;
    CutOptions cuts_;
    bool strict_ = false;
    Profile profile_;
};

}  // namespace

std::unique_ptr<Command> add_actions(CLI::App& app) { return std::make_unique<ActionsCommand>(app); }

}  // namespace cursorum::tool
