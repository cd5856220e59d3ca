// cursorum record: live input, or other recordings, into a recording.

#include <fmt/format.h>

#include <signal.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <functional>
#include <iostream>
#include <optional>
#include <string>
#include <vector>

#include "chosen_controls.hpp"
#include "command_line.hpp"
#include "cursorum/actions/span_text.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "live_source.hpp"
#include "new_file.hpp"
#include "profile_option.hpp"
#include "recording_merge.hpp"

namespace cursorum::tool {
namespace {

volatile sig_atomic_t stop_asked = 0;

constexpr const char* record_footer =
    R"(Only what you name is recorded: without --every-key, other keys are never written.
What each source provides is in the table in docs/live-sources.md: x11 has no gamepads, evdev has no positions.
Ctrl-C ends the recording; it is complete up to then. While recording, the file is called OUT.part; it replaces OUT at the
end. Recordings may take the place of live input, and several are merged onto one clock. Everything in them is kept,
unless --control, --profile or --pointer name what to keep.

Examples:
  cursorum record --source x11 -o tap.jsonl --control Space,KeyW --for 5s
  cursorum record --source x11 -o shift.jsonl --profile demo/quay.toml
  cursorum record --source evdev -o pad.jsonl --control PadSouth,PadStickLeft --for 10s
  cursorum record --source evdev:/dev/input/event3 -o all.jsonl --every-key
  cursorum record demo/quay-shift.jsonl --from 4s --to 6s -o part.jsonl
  cursorum record demo/two-operators.jsonl --control PadStickLeft,PadSouth -o pads.jsonl)";

class RecordCommand final : public Command {
public:
    explicit RecordCommand(CommandLine parent) {
        app = parent.add_subcommand("record",
                                    "Records live input, or parts of recordings, and only the controls that you name");
        const auto source = app->add_option("--source", source_, source_help)->type_name("SOURCE");
        const auto files =
            app->add_option("FILE", recordings_, "Recordings in place of live input; several are merged by time")
                ->excludes(source);
        app->add_option("--from", from_, "Begin at this time: what is down then is adopted")
            ->type_name("TIME")
            ->needs(files);
        app->add_option("--to", to_, "End at this time")->type_name("TIME")->needs(files);
        app->add_option("-o,--output", output_, "The recording to write, replaced if it exists; - for standard output")
            ->type_name("OUT")
            ->required();
        app->add_option("--control", controls_, "Record these controls: buttons, axes or sticks")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false);
        files_.add_to(*app, "Record the keys and mouse buttons that this profile (TOML) binds");
        app->add_flag("--pointer", chosen_.pointer, "Also record the motion of mice, wheels and touch surfaces");
        app->add_flag("--every-key", chosen_.everything, "Record everything: every key, including passwords");
        app->add_option("--for", for_, "Stop after this time (default: on Ctrl-C)")->type_name("TIME")->excludes(files);
        app->footer(record_footer);
    }

    int run() override {
        if (!recordings_.empty()) return run_from_recordings();
        if (source_.empty())
            throw UsageError{
                "record: missing what to record; give --source SOURCE for live input, or recordings: FILE ..."};
        // What the source cannot give is refused before anything is opened or written.
        const auto source = open_live_source(source_);
        const auto can_give = [&](const std::string& name) { return source->can_give(name); };
        if (!files_.profile.empty()) name_bound_controls(can_give, source->kind);
        for (const std::string& name : controls_) add_control(name, can_give, source->kind);
        if (chosen_.empty())
            throw UsageError{
                "record: missing the controls to record; name them with --control, give a --profile for those it "
                "binds, "
                "--pointer for motion, or --every-key for everything"};
        if (chosen_.everything && !controls_.empty())
            throw UsageError{"record: --control or --profile cannot be used together with --every-key"};
        const Duration length = for_.empty() ? Duration::max() : span_option(for_, "--for");
        if (length.count() == 0) throw UsageError{"--for must be more than 0"};

        print_error(source->problems() + source->not_read(LiveSource::Which::of_people));
        std::optional<NewFile> file;
        if (output_ != "-") file.emplace(output_, true);
        std::ostream& out = file ? file->stream() : std::cout;
        const std::string where = file ? output_ : "standard output";
        catch_signals();

        const std::string names = fmt::format("{}{}", fmt::join(controls_, ", "),
                                              !chosen_.pointer    ? ""
                                              : controls_.empty() ? "the pointer"
                                                                  : " and the pointer");
        print_error(chosen_.everything
                        ? shown("Recording EVERY key and button of {}, passwords too, into {}.\n", source_, where)
                        : shown("Recording {} from {} into {}; no other key is written.\n", names, source_, where));
        print_error(for_.empty() ? TerminalText{"Until Ctrl-C.\n"}
                                 : shown("For {}, or until Ctrl-C.\n", span_text(length)));

        const Time begin = Clock::now();
        RecordingWriter writer{out, begin};
        writer.header(chosen_.everything ? "every key" : fmt::format("{}", fmt::join(controls_, " ")));
        ChosenSink sink{writer, chosen_};
        while (!stop_asked && source->is_open()) {
            source->deliver(sink);
            finish_writing(out, where);
            const Duration left = length - (Clock::now() - begin);
            if (left.count() <= 0) break;
            source->wait(left);
        }
        const TerminalText lost = source->error();
        try {
            if (file) file->take_place();
        } catch (const UsageError& error) {
            throw UsageError{error.text + shown("; what was recorded is in {}", file->part())};
        }
        print_error(shown("{} kept, {} left out, in {}: {}\n", plural_text(sink.kept(), "event"), sink.left_out(),
                          span_text(Duration{(Clock::now() - begin).count() / 1'000'000 * 1'000'000}), where));
        print_error(source->news());
        if (!lost.empty()) throw UsageError{lost};
        return done;
    }

private:
    int run_from_recordings() {
        const auto can_give_all = [](const std::string&) { return true; };
        if (!files_.profile.empty()) name_bound_controls(can_give_all, "a recording");
        for (const std::string& name : controls_) add_control(name, can_give_all, "");
        if (chosen_.empty()) chosen_.everything = chosen_.text = true;
        MergeOptions options{.files = recordings_, .from = {}, .to = {}, .goes_on = {}};
        if (!from_.empty()) options.from = Time{span_option(from_, "--from")};
        if (!to_.empty()) options.to = Time{span_option(to_, "--to")};
        if (options.from && options.to && *options.to < *options.from)
            throw UsageError{"--to must not be before --from"};
        std::optional<NewFile> file;
        if (output_ != "-") file.emplace(output_, true);
        catch_signals();
        const bool is_watched = ::isatty(STDERR_FILENO) != 0;
        bool has_progress = false;
        const Time started = Clock::now();
        options.goes_on = [&](std::uint64_t bytes) {
            if (is_watched && Clock::now() - started > Duration{1'000'000'000} && (has_progress = true))
                show_progress(shown("cursorum: {} MB read", bytes >> 20));
            return stop_asked == 0;
        };
        std::ostream& out = file ? file->stream() : std::cout;
        TerminalText news;
        std::optional<ChosenSink> sink;
        try {
            RecordingWriter writer{out, options.from.value_or(Time{})};
            // Without their folders, whose names are nobody else's business.
            std::string title;
            for (const std::string& path : recordings_)
                title += (title.empty() ? "" : " ") + std::filesystem::path{path}.filename().string();
            writer.header(title);
            sink.emplace(writer, chosen_);
            news = merge_recordings(options, *sink);
            if (has_progress) show_progress("");
            if (stop_asked != 0) throw UsageError{shown("record: stopped; {} was not written", output_)};
            finish_writing(out, file ? output_ : "standard output");
            if (file) file->take_place();
        } catch (const UsageError&) {
            if (file) file->give_up();
            throw;
        }
        print_error(shown("{}{} kept, {} left out: {}\n", news, plural_text(sink->kept(), "event"), sink->left_out(),
                          file ? output_ : "standard output"));
        return done;
    }

    static void catch_signals() {
        struct sigaction stop = {};
        stop.sa_handler = [](int) { stop_asked = 1; };
        sigaction(SIGINT, &stop, nullptr);
        sigaction(SIGTERM, &stop, nullptr);
    }

    using CanGive = std::function<bool(const std::string&)>;

    void name_bound_controls(const CanGive& can_give, const std::string& source) {
        const Profile profile = files_.load();
        for (const Mode& mode : profile.modes)
            for (const Action& action : mode.actions)
                for (const Binding& binding : action.bindings) {
                    for (const Button button : binding.buttons) name_bound(name_of(button), can_give);
                    if (binding.kind == Binding::Kind::axis) name_bound(name_of(binding.axis), can_give);
                    if (binding.kind == Binding::Kind::stick) name_bound(name_of(binding.stick), can_give);
                }
        if (controls_.empty()) throw UsageError{shown("{}: binds nothing that {} can give", files_.profile, source)};
    }
    void name_bound(std::string_view bound, const CanGive& can_give) {
        const std::string name{bound};
        if (!name.empty() && can_give(name) && std::find(controls_.begin(), controls_.end(), name) == controls_.end())
            controls_.push_back(name);
    }
    void add_control(const std::string& name, const CanGive& can_give, const std::string& source) {
        const auto add_axis = [&](Axis axis) { chosen_.axes.set(axis, 0); };
        bool is_axis = true;
        if (const auto axis = find_axis(name)) {
            add_axis(*axis);
        } else if (const Stick stick{name == "PadStickRight"}; name_of(stick) == name) {
            add_axis(stick.x());
            add_axis(stick.y());
        } else {
            is_axis = false;
        }
        if (!is_axis) button_named(name);  // a name that nothing has is the first thing to say
        if (!can_give(name))
            throw UsageError{
                shown("--control: found \"{}\"; the source {} has no gamepads: use --source evdev", name, source)};
        if (is_axis) return;
        const Button button = button_named(name);
        // A stick's direction, a pulled trigger: made of axes.
        if (const auto push = axis_behind(button)) {
            const bool is_of_stick = push->axis.number < 2 * stick_kinds;
            add_axis(push->axis);
            if (is_of_stick) add_axis(Axis{static_cast<std::uint8_t>(push->axis.number ^ 1U)});
        } else {
            chosen_.buttons = chosen_.buttons | physical_buttons(button);
        }
    }

    std::string source_, output_, for_, from_, to_;
    std::vector<std::string> controls_, recordings_;
    ProfileOption files_;
    Chosen chosen_;
};

}  // namespace

std::unique_ptr<Command> add_record(CommandLine app) { return std::make_unique<RecordCommand>(app); }

}  // namespace cursorum::tool
