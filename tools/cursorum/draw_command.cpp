// cursorum draw: a recording as a picture.

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <optional>
#include <string>
#include <vector>

#include "command_line.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/lane_picture.hpp"
#include "cursorum/views/stick_picture.hpp"
#include "cursorum/why/action_lanes.hpp"
#include "cursorum/why/replayed_beliefs.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "input_file.hpp"
#include "lane_page.hpp"
#include "new_file.hpp"
#include "picture_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* draw_footer =
    R"(Time runs from left to right. Each button has a bar from its press to its end, exact in time, with the system's repeats
as ticks. Below it are its states in the frames at --rate, which differ in colour and in shape. Boxes mark frames in which
comparing levels loses a press, or makes one up, hollow triangles presses that had no effect. Axes are curves, raw and
shaped, with the dead zone as a band. A control that several devices have gets a lane for each. With --profile, lanes of
modes, claims and actions follow, and what kept a press from its actions is said. What does not fit is named in the picture.
--sticks draws where each stick and trigger has been instead, with the zones of its shaping.
OUT is a picture (.svg, .png), or a page for a browser (.html) in which one can zoom, search and ask about each frame. An
existing file is replaced.

Examples:
  cursorum draw demo/quay-shift.jsonl -o shift.png --rate 24
  cursorum draw demo/quay-shift.jsonl -o taps.svg --from 4s --to 5.5s --control KeyW,KeyS
  cursorum draw demo/quay-shift.jsonl -o shift.html
  cursorum draw demo/two-operators.jsonl -o pads.png --profile demo/quay.toml --from 3s --to 8s --pointer
  cursorum draw demo/two-operators.jsonl -o sticks.png --sticks)";

constexpr std::size_t most_frames = 4'000'000;

class DrawCommand final : public Command {
public:
    explicit DrawCommand(CommandLine parent) {
        app = parent.add_subcommand("draw", "Draws a recording: the events, and what the frames make of them");
        app->add_option("FILE", file_, "The recording; - for standard input")->required();
        add_dump_option(*app, as_);
        app->add_option("-o,--output", output_, "The picture or page to write: OUT.svg, OUT.png or OUT.html")
            ->type_name("OUT")
            ->required();
        cuts_.add_to(*app);
        app->add_option("--from", from_, "Draw only frames that end after this time")->type_name("TIME");
        app->add_option("--to", to_, "Draw only frames that start before this time")->type_name("TIME");
        app->add_option("--control", controls_, "Draw only these controls: buttons, axes or sticks")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false);
        app->add_flag("--pointer", selection_.pointer, "Draw the pointer's path, too: x and y over time");
        const CommandOption profile = files_.add_to(*app, "Draw the actions of this profile (TOML), too");
        app->add_option("--action", actions_, "Draw only these actions, as NAME or MODE.NAME")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false)
            ->needs(profile);
        files_.add_modes_to(*app)->needs(profile);
        app->add_flag("--sticks", draws_sticks_, "Draw where sticks and triggers have been")->excludes(profile);
        app->add_option("--size", size_, "Width and height in pixels (default 1280x800)")->type_name("WxH");
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->footer(draw_footer);
    }

    int run() override {
        const Form form = form_of_output();
        read_size();
        select();
        if (!files_.profile.empty()) open_profile();
        InputFile input{file_, as_};
        ReplayOptions options{.rate = cuts_.exact_rate(), .repeat = cuts_.repeat()};
        options.reader.strict = strict_;
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        const std::string rate = !options.rate        ? std::string{"the recording's own cuts"}
                                 : cuts_.rate.empty() ? std::string{"60 per second"}
                                                      : cuts_.rate + " per second";
        StickTraces traces{selection_.from, selection_.to};
        LaneHistory* collecting = nullptr;  // it needs the replay's timeline
        ReplayedBeliefs beliefs;
        const bool has_own_cuts = !options.rate;
        std::uint64_t belief_lines = 0;
        options.on_line = [&](const RecordingLine& line, Outcome outcome) {
            if (line.kind == RecordingLine::Kind::belief) ++belief_lines;
            if (has_own_cuts) beliefs.note(line);
            if (reader_ && files_.modes.empty()) calls_.note(line);
            if (draws_sticks_) return traces.note_line(line, outcome);
            if (has_own_cuts || line.kind != RecordingLine::Kind::frame) collecting->note_line(line, outcome);
        };
        Replay replay{input.stream(), input.name(), std::move(options)};
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        LaneHistory lanes{replay.timeline(), selection_};
        collecting = &lanes;
        std::optional<ActionLanes> action_lanes;
        if (reader_) reader_->set_verdict_sink(&action_lanes.emplace(lanes, *reader_, profile_, filter_));
        while (const Frame* frame = replay.next()) {
            if (frame->start() >= selection_.to) break;
            if (!draws_sticks_) lanes.note(*frame, replay.frame_number());
            // 100 MB, and far more than any picture can show.
            if (lanes.frames().size() > most_frames)
                throw UsageError{
                    shown("{}: has more than {} frames at {}; draw a part of it with --from and --to, "
                          "or choose a lower --rate",
                          input.name(), most_frames, rate)};
            if (reader_) read_actions(*action_lanes, *frame);
            if (has_own_cuts) beliefs.take(*frame, reader_ ? &*reader_ : nullptr);
            show_progress(replay);
        }
        if (has_progress_) tool::show_progress("");
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        if (belief_lines != 0 && !has_own_cuts)
            complain(shown("{}: its beliefs of another layer are about its own cuts: without --rate they are drawn",
                           input.name()));
        for (const ReplayedBeliefs::Finding& it : beliefs.findings()) lanes.note_belief(it.name, it.what);
        const std::vector<StickTrace> moved = traces.traces();
        if (draws_sticks_ ? moved.empty() : lanes.frames().empty())
            throw UsageError{shown("{}: found nothing to draw{}", input.name(),
                                   draws_sticks_ ? "; no stick or trigger moved" : " in that time")};

        PictureOptions picture{.width = width_, .height = height_, .text_width = picture_text_width};
        picture.title = draws_sticks_ ? fmt::format("{}: sticks and triggers", input.name())
                                      : fmt::format("{}: {:.3f} s to {:.3f} s, {} at {}", input.name(),
                                                    seconds(lanes.start() - Time{}), seconds(lanes.end() - Time{}),
                                                    plural_text(lanes.frames().size(), "frame"), rate);
        if (form == Form::html) {
            write_file(output_, lane_page(lanes, picture.title), input.is_private());
            print(shown("{}: {}, {}.\n", output_, plural_text(lanes.lanes().size(), "lane"),
                        plural_text(lanes.frames().size(), "frame")));
            for (const std::string_view name : lanes.silent()) print(shown("{} has no events in this time.\n", name));
            return done;
        }
        const Picture drawn = draws_sticks_ ? stick_picture(moved, picture) : lane_picture(lanes, picture);
        write_file(output_, form == Form::png ? as_png(drawn) : as_svg(drawn), input.is_private());
        print(shown("{}: {:g} by {:g} pixels.\n", output_, drawn.width, drawn.height));
        for (const std::string& what : drawn.left_out) print(shown("{}\n", what));
        return done;
    }

private:
    enum class Form { svg, png, html };
    Form form_of_output() const {
        const Form form = output_.ends_with(".svg")   ? Form::svg
                          : output_.ends_with(".png") ? Form::png
                          : output_.ends_with(".html")
                              ? Form::html
                              : throw UsageError{shown("-o: found \"{}\"; expected a name that ends in .svg, "
                                                       ".png or .html",
                                                       output_)};
        if (form == Form::html && draws_sticks_)
            throw UsageError{"--sticks: draws a picture; expected -o OUT.svg or OUT.png"};
        return form;
    }

    void read_size() {
        if (size_.empty()) return;
        const std::size_t x = size_.find('x');
        const auto number = [&](const std::string& text) { return text.empty() ? 0 : std::atoi(text.c_str()); };
        const int width = x == size_.npos ? 0 : number(size_.substr(0, x));
        const int height = x == size_.npos ? 0 : number(size_.substr(x + 1));
        if (width < 400 || height < 200 || width > 16'000 || height > 16'000)
            throw UsageError{
                shown("--size: found \"{}\"; expected width x height in pixels, from 400x200 to 16000x16000", size_)};
        width_ = width;
        height_ = height;
    }

    void select() {
        if (!from_.empty()) selection_.from = Time{span_option(from_, "--from")};
        if (!to_.empty()) selection_.to = Time{span_option(to_, "--to")};
        if (selection_.to <= selection_.from) throw UsageError{"--to must be later than --from"};
        for (const std::string& name : controls_) {
            const auto axis = find_axis(name);
            if (axis) selection_.axes.push_back(*axis);
            bool is_stick = false;
            for (std::uint8_t i = 0; i < stick_kinds; ++i)
                if (const Stick stick{i}; name_of(stick) == name) {
                    selection_.axes.insert(selection_.axes.end(), {stick.x(), stick.y()});
                    is_stick = true;
                }
            if (!axis && !is_stick) selection_.buttons.insert(button_named(name));
        }
    }

    void open_profile() {
        profile_ = files_.load();
        reader_.emplace(profile_);
        filter_ = action_option(profile_, actions_);
    }

    void read_actions(ActionLanes& lanes, const Frame& frame) {
        if (!has_opened_) files_.open_modes(*reader_, profile_, !calls_.empty());
        has_opened_ = true;
        calls_.read(*reader_, frame);
        if (frame.end() > selection_.from) lanes.note();
    }

    void show_progress(const Replay& replay) {
        const std::uint64_t megabytes = replay.reader().bytes_read() >> 20;
        if (!is_watched_ || megabytes < shown_megabytes_ + 8) return;
        shown_megabytes_ = megabytes;
        has_progress_ = true;
        tool::show_progress(shown("cursorum: {} MB read", megabytes));
    }

    std::string file_, as_, output_, from_, to_, size_;
    std::vector<std::string> controls_, actions_;
    CutOptions cuts_;
    LaneSelection selection_;
    ProfileOption files_;
    Profile profile_;
    std::optional<ActionReader> reader_;
    ActionFilter filter_;
    ReplayedCalls calls_;
    double width_ = 1280, height_ = 800;
    bool draws_sticks_ = false, strict_ = false, has_opened_ = false, has_progress_ = false;
    const bool is_watched_ = isatty(STDERR_FILENO) != 0;
    std::uint64_t shown_megabytes_ = 0;
};

}  // namespace

std::unique_ptr<Command> add_draw(CommandLine app) { return std::make_unique<DrawCommand>(app); }

}  // namespace cursorum::tool
