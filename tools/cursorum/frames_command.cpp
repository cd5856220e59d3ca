// cursorum frames: a recording, frame by frame, as controls or as the actions of a profile.

#include <fmt/format.h>
#include <unistd.h>

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "action_text.hpp"
#include "command_line.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/near_name.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/frame_views.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "frame_events.hpp"
#include "input_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* frames_footer =
    R"(The table shows only frames in which something changed; csv and jsonl show every frame.
Without --show, the table shows all parts except axes, samples and edges; jsonl shows controls, axes, pointer, contacts, text
and edges; csv shows controls.
With --profile, the profile's actions are shown instead (--show actions,controls shows both). The table shows what
changes: presses, releases, repeats, and where axes start to move, become steady and stop (with the distance travelled at
a speed of 1 per second). Without --mode, modes are open as the recording says, or those that cover nothing if it does
not.
--show events (not part of all) lists each event and what became of it, and with --profile what became of each press.
With --seats, pressing an offered button on a device without a seat takes the first free seat for that device. Each
seat's buttons are shown instead of the merged ones, and what happens to the seats.

Examples:
  cursorum frames demo/quay-shift.jsonl --rate 60
  cursorum frames demo/quay-shift.jsonl --control KeyW,KeyS --from 4s --to 5s
  cursorum frames demo/two-operators.jsonl --show sticks,clicks,devices
  cursorum frames demo/two-operators.jsonl --seats 3 --offer PadSouth,KeyW --show controls,seats
  cursorum frames demo/two-operators.jsonl --show pointer --format csv > pointer.csv
  cursorum frames demo/two-operators.jsonl --show sticks --shaping shaping.jsonl
  cursorum frames demo/quay-shift.jsonl --profile demo/quay.toml --overlay demo/quay-left-handed.toml
  cursorum frames demo/quay-shift.jsonl --profile demo/quay.toml --action lock,travel --from 6s --to 8s
  cursorum frames demo/two-operators.jsonl --profile demo/quay.toml --mode crane,bay_plan --rate 144
  cursorum frames demo/quay-menu.jsonl --profile demo/quay-menu.toml --show events
  cursorum frames pad.evdev --as gamepad
  cursorum frames demo/quay-shift.jsonl --rate 144 --format jsonl > frames.jsonl)";

constexpr const char* events_heading = "frame  ends at s              at  event and what became of it";

std::optional<FramePart> part_named(std::string_view name) {
    for (unsigned i = 0; i < frame_part_count; ++i)
        if (name_of(static_cast<FramePart>(i)) == name) return static_cast<FramePart>(i);
    return std::nullopt;
}

/// Shown in every frame as long as it lasts, even if nothing is posted and no button is down.
bool is_held(FramePart part) {
    return part == FramePart::axes || part == FramePart::sticks || part == FramePart::contacts ||
           part == FramePart::locks;
}

class FramesCommand final : public Command {
public:
    explicit FramesCommand(CommandLine parent) {
        app = parent.add_subcommand("frames",
                                    "Cuts a recording into frames and shows the state of every button in each of them");
        app->add_option("FILE", file_, "The recording; - for standard input");
        add_dump_option(*app, as_);
        cuts_.add_to(*app);
        app->add_option("--control", controls_,
                        "Show only these controls (Shift, Control, Alt and Meta stand for the key on either side)")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false);
        const auto per_device = app->add_flag("--per-device", selection_.per_device,
                                              "Show each device's buttons instead of the merged ones");
        const auto seats =
            app->add_option("--seats", seat_count_, "The number of seats; pressing an offered button takes one")
                ->type_name("COUNT")
                ->excludes(per_device);
        app->add_option("--offer", offers_,
                        "The buttons that take a seat when pressed (default PadStart,PadSouth,Enter)")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false)
            ->needs(seats);
        app->add_flag("--halves", halves_, "Let each half of a keyboard take a seat of its own")->needs(seats);
        const CommandOption profile = files_.add_to(*app, "Show the actions of this profile (TOML)")->excludes(seats);
        app->add_option("--action", actions_, "Show only these actions, as NAME or MODE.NAME")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false)
            ->needs(profile);
        files_.add_modes_to(*app)->needs(profile);
        app->add_option("--from", from_, "Show only frames that end after this time")->type_name("TIME");
        app->add_option("--to", to_, "Show only frames that start before this time")->type_name("TIME");
        app->add_option("--show", show_,
                        "What to show: controls, axes, sticks, pointer, samples, clicks, drags, contacts, text, locks, "
                        "devices, seats, edges, actions, events, or all (csv: one of them)")
            ->type_name("PART")
            ->delimiter(',')
            ->allow_extra_args(false);
        app->add_flag(
            "--every-repeat", every_repeat_,
            "Table: add a line for each frame with a repeat, instead of counting them in the line that ends the hold");
        app->add_option("--shaping", shaping_,
                        "Shape sticks and triggers by the shaping lines of this file instead of the recording's own")
            ->type_name("FILE");
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->add_option("--format", format_, "The output format (default table)")
            ->type_name("FORMAT")
            ->one_of({"table", "csv", "jsonl"});
        app->footer(frames_footer);
    }

    int run() override {
        for (const std::string& name : controls_) selection_.controls.insert(button_named(name));
        if (file_.empty()) throw UsageError{"frames: which recording? Give FILE, or - for standard input"};
        if (!files_.profile.empty()) open_profile();
        choose_parts();
        open_seats();
        const Time from = from_.empty() ? earliest_time : Time{span_option(from_, "--from")};
        const Time to = to_.empty() ? latest_time : Time{span_option(to_, "--to")};
        if (!from_.empty() && !to_.empty() && to <= from) throw UsageError{"--to must be later than --from"};
        ReplayOptions options;
        options.rate = cuts_.exact_rate();
        options.repeat = cuts_.repeat();
        options.reader.strict = strict_;
        if (!shaping_.empty()) {
            options.shaping = shaping_of(shaping_);
            for (const auto& [device, shaping] : options.shaping) unshaped_.insert(device);
        }
        options.on_line = [this](const RecordingLine& line, Outcome outcome) {
            if (outcome == Outcome::connected) unshaped_.erase(line.event.device);
            if (reader_ && files_.modes.empty()) calls_.note(line);
            if (events_) events_->note(line, outcome);
        };
        options.skip_idle = format_ == "table" || (format_ == "csv" && (shows_actions_ || !is_held(csv_part_)));
        if (reader_) options.may_skip = [this] { return reader_->is_at_rest() && calls_.empty(); };
        options.on_many_frames = [this](std::uint64_t count) { warn_of_many_frames(file_, count); };
        InputFile input{file_, as_};
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        std::string rate_text = !options.rate        ? "the recording's own cuts"
                                : cuts_.rate.empty() ? "60 per second"
                                                     : cuts_.rate + " per second";
        Replay replay{input.stream(), input.name(), std::move(options)};
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};

        RepeatsSoFar repeats;
        if (!every_repeat_) selection_.repeats = &repeats;
        const bool colour = format_ == "table" && wants_colour();
        if (format_ == "csv")
            print_data(shows_actions_ ? actions_csv_heading() : frame_csv_heading(csv_part_, selection_));
        if (shows_actions_) {
            table_ = {.colour = colour, .every_repeat = every_repeat_, .name_width = name_width_of(profile_)};
            selection_.in_words = true;
            selection_.name_width = table_.name_width;
        }
        if (format_ == "table")
            print(shows_frame_     ? frame_table_heading(selection_, colour)
                  : shows_actions_ ? actions_table_heading(table_)
                                   : shown("{}\n", Paint{colour}(Paint::bold, events_heading)));
        ButtonSet seen;
        bool stopped = false;
        while (const Frame* frame = replay.next()) {
            if (frame->start() >= to) {
                stopped = true;
                break;
            }
            frames_ = replay.frame_number() + 1;
            seen = seen | frame->active();
            if (seats_) seats_->read(*frame);
            if (reader_) read_actions(*frame);
            if (events_) events_->take(frame->end(), selection_.controls);
            if (frame->end() > from) show(*frame, replay);
            show_progress(replay);
        }
        clear_progress();
        finish_output();
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        if (format_ == "table") print(summary(replay, rate_text, stopped));
        warn(replay, seen, stopped);
        return done;
    }

private:
    void choose_parts() {
        if (show_.empty()) {
            if (format_ == "table")
                selection_.parts = {FramePart::controls, FramePart::sticks,  FramePart::pointer,
                                    FramePart::clicks,   FramePart::drags,   FramePart::contacts,
                                    FramePart::text,     FramePart::locks,   FramePart::devices,
                                    FramePart::seats};
            if (format_ == "table" && !controls_.empty()) selection_.parts = {FramePart::controls, FramePart::clicks};
            if (seat_count_) selection_.parts.insert(FramePart::seats);
            shows_actions_ = reader_.has_value();
            shows_frame_ = !reader_;
            return;
        }
        selection_.parts = {};
        shows_frame_ = false;
        for (const std::string& name : show_) {
            const std::optional<FramePart> part = part_named(name);
            if (name == "actions" && !reader_)
                throw UsageError{"--show actions: of which profile? Give --profile FILE"};
            shows_actions_ = shows_actions_ || (reader_ && (name == "actions" || name == "all"));
            if (name == "events" && !events_) events_.emplace();
            if (name == "actions" || name == "events") continue;
            if (!part && name != "all") {
                std::vector<std::string_view> names{"all", "actions", "events"};
                for (unsigned i = 0; i < frame_part_count; ++i) names.push_back(name_of(static_cast<FramePart>(i)));
                const std::string_view near = near_name(name, names);
                throw UsageError{shown("--show: found \"{}\"; expected {}{}", name,
                                       fmt::format("{}", fmt::join(names, ", ")),
                                       near.empty() ? "" : fmt::format("; did you mean {}?", near))};
            }
            for (unsigned i = 0; i < frame_part_count; ++i)
                if (!part || *part == static_cast<FramePart>(i)) selection_.parts.insert(static_cast<FramePart>(i));
            if (part) csv_part_ = *part;
            shows_frame_ = true;
        }
        if (events_ && reader_) events_->watch(*reader_);
        if (events_ && format_ != "table" && format_ != "jsonl")
            throw UsageError{shown("--show events: found --format {}; expected table or jsonl", format_)};
        if (format_ == "csv" && (show_.size() > 1 || show_.front() == "all"))
            throw UsageError{"--show: found several parts; csv has the columns of one"};
    }

    static std::map<DeviceId, DeviceShaping> shaping_of(const std::string& file) {
        std::map<DeviceId, DeviceShaping> all;
        InputFile input{file, ""};
        RecordingReader reader{input.stream(), input.name()};
        for (RecordingLine line; reader.read(line);)
            if (line.kind == RecordingLine::Kind::event && line.event.type == EventType::shaping) {
                if (!line.event.shaping.is_valid())
                    throw UsageError{
                        shown("{}:{}: found a shaping that no device can have; expected least < "
                              "centre < greatest, dead_zone + outer_zone < 1, curve 0 to 1, and "
                              "0 <= release < press <= 1",
                              file, line.number)};
                all[line.event.device] = line.event.shaping;
            }
        if (reader.error()) throw UsageError{TerminalText::of(reader.error()->message())};
        if (all.empty())
            throw UsageError{
                shown("{}: found no shaping line; expected some, as `cursorum devices FILE --rest "
                      "--format jsonl` writes them",
                      file)};
        return all;
    }

    void read_actions(const Frame& frame) {
        if (!has_opened_) {
            recording_says_ = !calls_.empty();
            open_modes_ = files_.open_modes(*reader_, profile_, recording_says_);
            has_opened_ = true;
        }
        calls_.read(*reader_, frame);
    }

    void open_profile() {
        profile_ = files_.load();
        reader_.emplace(profile_);
        filter_ = action_option(profile_, actions_);
    }

    void open_seats() {
        if (seat_count_) {
            if (*seat_count_ < 1 || *seat_count_ > static_cast<int>(seat_capacity))
                throw UsageError{shown("--seats: found {}; expected 1 to {}", *seat_count_, seat_capacity)};
            if (offers_.empty()) offers_ = {"PadStart", "PadSouth", "Enter"};
            ButtonSet offered;
            for (const std::string& name : offers_) offered.insert(button_named(name));
            seats_.emplace(static_cast<unsigned>(*seat_count_)).offer({.buttons = offered, .halves = halves_});
            selection_.seats = &*seats_;
        } else if (!show_.empty() && show_.front() != "all" && selection_.parts.contains(FramePart::seats)) {
            throw UsageError{"--show seats: of how many? Give --seats COUNT"};
        }
    }

    void show(const Frame& frame, const Replay& replay) {
        const std::uint64_t number = replay.frame_number();
        TerminalText text;
        std::string data;
        if (format_ == "jsonl")
            data = as_jsonl(number, frame, replay);
        else if (format_ == "csv")
            data = shows_actions_ ? actions_as_csv(number, *reader_, profile_, filter_)
                                  : frame_as_csv(csv_part_, number, frame, replay.timeline(), selection_);
        else {
            if (shows_actions_) text = actions_as_table(number, *reader_, profile_, filter_, table_);
            if (shows_frame_) text += frame_as_table(number, frame, replay.timeline(), selection_, wants_colour_);
            if (events_) text += events_->table(number, wants_colour_);
        }
        if (text.empty() && data.empty()) return;
        ++shown_count_;
        print(text);
        print_data(data);
    }

    // With actions in place of controls, or in addition to them.
    std::string as_jsonl(std::uint64_t number, const Frame& frame, const Replay& replay) const {
        std::string line = parts_as_jsonl(number, frame, replay);
        return events_ ? line.replace(line.size() - 2, 2, "," + events_->json() + "}\n") : line;
    }
    std::string parts_as_jsonl(std::uint64_t number, const Frame& frame, const Replay& replay) const {
        if (!shows_actions_) return frame_as_jsonl(number, frame, replay.timeline(), selection_);
        std::string line = actions_as_jsonl(number, *reader_, profile_, filter_);
        if (!shows_frame_) return line;
        const std::string other = frame_as_jsonl(number, frame, replay.timeline(), selection_);
        const std::size_t controls = other.find(",\"controls\":["), after = other.find(']', controls) + 1;
        const bool has_controls = selection_.parts.contains(FramePart::controls);
        return line.replace(line.size() - 2, 2, other.substr(has_controls ? controls : after));
    }

    // On a terminal that does not get the frames themselves.
    void show_progress(const Replay& replay) {
        const std::uint64_t megabytes = replay.reader().bytes_read() >> 20;
        if (!is_watched_ || megabytes < shown_megabytes_ + 8) return;
        shown_megabytes_ = megabytes;
        tool::show_progress(shown("cursorum: {} MB read, {} frames", megabytes, frames_));
    }
    void clear_progress() const {
        if (shown_megabytes_ != 0) tool::show_progress("");
    }

    TerminalText summary(const Replay& replay, const std::string& rate, bool stopped) const {
        const SamplerCounters sampler = replay.sampler().counters();
        InletCounters inlet;
        for (unsigned i = 0; i < replay.timeline().inlet_count(); ++i) {
            const InletCounters its = replay.timeline().inlet(i).counters();
            inlet.events += its.events, inlet.system_repeats += its.system_repeats;
            inlet.lost_releases += its.lost_releases, inlet.strays += its.strays;
            inlet.ignored += its.ignored, inlet.refused += its.refused;
        }
        TerminalText text = shown("{} at {}{}; {} shown.", plural_text(frames_, "frame"), rate,
                                  stopped ? " until then" : "", shown_count_);
        if (reader_)
            text += shown(" {}; open: {}.", profile_.title.empty() ? files_.profile : profile_.title,
                          recording_says_ ? "as recorded" : fmt::format("{}", fmt::join(open_modes_, ", ")));
        // What the events were is known of all controls together.
        if (controls_.empty() && actions_.empty())
            text += shown("\n{}: {}, {}, {} stray, {} ignored, {} refused, {} late.",
                          plural_text(inlet.events, "event"), plural_text(inlet.system_repeats, "system repeat"),
                          plural_text(inlet.lost_releases, "lost release"), inlet.strays, inlet.ignored, inlet.refused,
                          sampler.late);
        return text + "\n";
    }

    void warn(const Replay& replay, const ButtonSet& seen, bool stopped) const {
        const RecordingReader& reader = replay.reader();
        if (reader.truncated_line() != 0)
            complain(shown("{}:{}: the last line is cut off; the rest was used", file_, reader.truncated_line()));
        if (reader.skipped_lines() != 0)
            complain(shown("{}: skipped {} of unknown type or blank (--strict makes them errors)", file_,
                           plural_text(reader.skipped_lines(), "line")));
        if (const auto back = replay.sampler().counters().went_back; back != 0)
            complain(shown("{}: {} back in time, passed over", file_, plural_text(back, "cut")));
        for (const std::string& mode : calls_.unknown())
            complain(shown("{}: opens the mode \"{}\", which {} does not have", file_, mode, files_.profile));
        if (stopped) return;
        for (const DeviceId device : unshaped_)
            complain(shown("{}: has a shaping for device {}, which never connects in {}", shaping_,
                           static_cast<std::uint32_t>(device), file_));
        if (!from_.empty() && Time{span_option(from_, "--from")} >= replay.sampler().frame().end())
            complain(shown("{}: --from {} lies beyond the recording, which ends at {}", file_, from_,
                           time_text(replay.sampler().frame().end())));
        for (const std::string& name : controls_) {
            if (seen.contains(find_button(name))) continue;
            // A pad's trigger may be an axis, a button, or both.
            const std::string other = name == "PadTriggerLeft"    ? "PadPullLeft"
                                      : name == "PadTriggerRight" ? "PadPullRight"
                                                                  : "";
            const bool has_other = !other.empty() && seen.contains(find_button(other));
            complain(shown("{}: {} was never down{}", file_, name,
                           has_other ? fmt::format("; {}, the trigger's travel, was", other) : ""));
        }
    }

    std::string file_, as_, from_, to_, shaping_, format_ = "table";
    std::set<DeviceId> unshaped_;  // devices of --shaping that did not connect yet
    std::vector<std::string> controls_, show_;
    FramePart csv_part_ = FramePart::controls;
    ProfileOption files_;
    Profile profile_;
    std::optional<ActionReader> reader_;
    std::vector<std::string> actions_, open_modes_;
    ReplayedCalls calls_;
    bool has_opened_ = false, recording_says_ = false;
    ActionFilter filter_;
    ActionTable table_;
    std::optional<FrameEvents> events_;
    bool shows_actions_ = false, shows_frame_ = true;
    CutOptions cuts_;
    FrameSelection selection_;
    std::optional<int> seat_count_;
    std::vector<std::string> offers_;
    bool halves_ = false;
    std::optional<Seats> seats_;
    bool strict_ = false, every_repeat_ = false;
    const bool wants_colour_ = wants_colour();
    const bool is_watched_ = isatty(STDERR_FILENO) != 0 && isatty(STDOUT_FILENO) == 0;
    std::uint64_t frames_ = 0, shown_count_ = 0, shown_megabytes_ = 0;
};

}  // namespace

std::unique_ptr<Command> add_frames(CommandLine app) { return std::make_unique<FramesCommand>(app); }

}  // namespace cursorum::tool
