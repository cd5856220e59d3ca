// cursorum record: live input into a recording.

#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "command_line.hpp"
#include "profile_option.hpp"

#ifdef CURSORUM_HAS_X11
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <ext/stdio_filebuf.h>
#include <filesystem>
#include <iostream>
#include <optional>

#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/sources/x11_source.hpp"
#endif

namespace cursorum::tool {
namespace {

#ifdef CURSORUM_HAS_X11

volatile sig_atomic_t stop_asked = 0;

/// A new file next to the one that was asked for. It takes that one's place when it is complete; until then, and if
/// something fails, the old one stands. It may hold what was typed, so nobody else may read it.
class NewFile {
public:
    NewFile(const std::string& path, bool may_replace) : path_{path}, part_{path + ".part"} {
        // What is there is looked at itself, not what a link leads to. Only a regular file is ever replaced.
        std::error_code error;
        const auto there = std::filesystem::symlink_status(path, error).type();
        using enum std::filesystem::file_type;
        if (there == directory) throw UsageError{fmt::format("{}: found a directory; expected a file to write", path)};
        if (there != not_found && there != regular)
            throw UsageError{fmt::format("{}: found {}; expected a regular file, or none{}", path,
                                         there == symlink ? "a symbolic link" : "a device, pipe or socket",
                                         there == symlink ? "" : "; use -o - to write to standard output")};
        if (there == regular && !may_replace)
            throw UsageError{fmt::format("{}: the file already exists; use --overwrite to replace it", path)};
        const int descriptor = ::open(part_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0600);
        if (descriptor < 0 && errno == EEXIST)
            throw UsageError{
                fmt::format("{}: already exists: another recording is running, or one was interrupted; "
                            "remove the file if it is not needed",
                            part_)};
        if (descriptor < 0) throw UsageError{fmt::format("{}: cannot be written: {}", path, std::strerror(errno))};
        buffer_.emplace(descriptor, std::ios::out | std::ios::binary);
        stream_.rdbuf(&*buffer_);
    }
    std::ostream& stream() { return stream_; }
    void take_place() {
        stream_.flush();
        if (!stream_ || std::rename(part_.c_str(), path_.c_str()) != 0)
            throw UsageError{fmt::format("{}: cannot be written: {}; what was recorded is in {}", path_,
                                         std::strerror(errno), part_)};
    }

private:
    std::string path_, part_;
    std::optional<__gnu_cxx::stdio_filebuf<char>> buffer_;
    std::ostream stream_{nullptr};
};

/// Keeps the buttons it was told to, and what is no button but tells where one comes from.
class ChosenTaker final : public EventTaker {
public:
    ChosenTaker(RecordingWriter& writer, const ButtonSet& chosen, bool every)
        : writer_{writer}, chosen_{chosen}, every_{every} {}

    void take(const Event& event) override {
        switch (event.type) {
            case EventType::connect:
            case EventType::disconnect:
            case EventType::focus:
            case EventType::interrupt: return writer_.take(event);
            case EventType::button:
                if (!is_chosen(event.control)) break;
                ++kept_;
                return writer_.take(event);
            case EventType::state: {
                Event kept = event;
                kept.down_set = {};
                event.down_set.for_each([&](Button button) {
                    if (is_chosen(button)) kept.down_set.insert(button);
                });
                return writer_.take(kept);
            }
            default: return;  // no keys: not asked for
        }
        ++left_out_;
    }

    std::uint64_t kept() const { return kept_; }
    std::uint64_t left_out() const { return left_out_; }

private:
    bool is_chosen(Button button) const { return every_ || chosen_.contains(button); }

    RecordingWriter& writer_;
    ButtonSet chosen_;
    bool every_;
    std::uint64_t kept_ = 0, left_out_ = 0;
};

#endif

constexpr const char* record_footer = R"(It keeps only what you name: without --every-key, other keys are never written.
Ctrl-C ends it; what was recorded until then is complete. While it records, the file is called FILE.part.

Examples:
  cursorum record --source x11 -o tap.jsonl --control Space,KeyW --for 5s
  cursorum record --source x11 -o shift.jsonl --profile demo/quay.toml
  cursorum record --source x11 -o all.jsonl --every-key)";

class RecordCommand final : public Command {
public:
    explicit RecordCommand(CLI::App& parent) {
        app = parent.add_subcommand("record", "Live keys and mouse buttons into a recording; only those you name");
        app->add_option("--source", source_, "Where from: x11, the X server at DISPLAY")
            ->type_name("SOURCE")
            ->required()
            ->check(CLI::IsMember({"x11"}));
        app->add_option("-o,--output", output_, "The recording to write; - for standard output")
            ->type_name("FILE")
            ->required();
        app->add_option("--control", controls_, "Keep these controls")
            ->type_name("NAME")
            ->delimiter(',')
            ->allow_extra_args(false);
        files_.add_to(*app, "Keep the keys and mouse buttons that this profile (TOML) binds");
        app->add_flag("--every-key", every_key_, "Keep every key and button: passwords too");
        app->add_option("--for", for_, "Stop after this time (default: at Ctrl-C)")->type_name("TIME");
        app->add_flag("--overwrite", overwrite_, "Replace FILE if it is there");
        app->footer(record_footer);
    }

#ifdef CURSORUM_HAS_X11
    int run() override {
        ButtonSet chosen;
        if (!files_.profile.empty()) name_bound_controls();
        for (const std::string& name : controls_) add_control(chosen, name);
        if (chosen.empty() && !every_key_)
            throw UsageError{
                "record: missing the keys to record; name them with --control, give a --profile for those it binds, or "
                "--every-key for all of them"};
        if (!chosen.empty() && every_key_)
            throw UsageError{"record: --control or --profile cannot be used together with --every-key"};
        const Duration length = for_.empty() ? Duration::max() : span_option(for_, "--for");
        if (length.count() == 0) throw UsageError{"--for must be more than 0"};

        std::string error;
        const auto source = X11Source::open({.display = {}, .window = 0, .first_device = 1}, error);
        if (!source) throw UsageError{"x11: " + error};
        std::optional<NewFile> file;
        if (output_ != "-") file.emplace(output_, overwrite_);
        std::ostream& out = file ? file->stream() : std::cout;
        const std::string where = file ? output_ : "standard output";
        struct sigaction stop = {};
        stop.sa_handler = [](int) { stop_asked = 1; };
        sigaction(SIGINT, &stop, nullptr);
        sigaction(SIGTERM, &stop, nullptr);

        if (every_key_)
            print_error(
                fmt::format("Recording EVERY key and mouse button of this display, passwords too, into {}.\n", where));
        else
            print_error(
                fmt::format("Recording {} into {}; no other key is written.\n", fmt::join(controls_, ", "), where));
        print_error(for_.empty() ? "Until Ctrl-C.\n" : fmt::format("For {}, or until Ctrl-C.\n", span_text(length)));

        const Time begin = Clock::now();
        RecordingWriter writer{out, begin};
        writer.header(every_key_ ? "every key" : fmt::format("{}", fmt::join(controls_, " ")));
        ChosenTaker taker{writer, chosen, every_key_};
        while (!stop_asked && source->is_open()) {
            source->deliver(taker);
            out.flush();
            if (!out) throw UsageError{fmt::format("{}: cannot be written: {}", where, std::strerror(errno))};
            const Duration left = length - (Clock::now() - begin);
            if (left.count() <= 0) break;
            pollfd waiting{source->file_descriptor(), POLLIN, 0};
            poll(&waiting, 1, static_cast<int>(std::min<std::int64_t>(left.count() / 1'000'000 + 1, 1000)));
        }
        const bool lost_server = !source->is_open();
        if (file) file->take_place();
        print_error(fmt::format("{} kept, {} left out, in {}: {}\n", plural_text(taker.kept(), "button event"),
                                taker.left_out(),
                                span_text(Duration{(Clock::now() - begin).count() / 1'000'000 * 1'000'000}), where));
        if (lost_server) throw UsageError{"x11: the connection to the X server broke; what came before is recorded"};
        return done;
    }

private:
    void name_bound_controls() {
        const Profile profile = files_.load();
        for (const Mode& mode : profile.modes)
            for (const Action& action : mode.actions)
                for (const Binding& binding : action.bindings)
                    for (const Button button : binding.buttons) {
                        const std::string name{name_of(button)};
                        if (is_heard(name) && std::find(controls_.begin(), controls_.end(), name) == controls_.end())
                            controls_.push_back(name);
                    }
        if (controls_.empty()) throw UsageError{fmt::format("{}: binds no key and no mouse button", files_.profile)};
    }
    /// What the source can give.
    static bool is_heard(const std::string& name) {
        const ControlFamily family = find_control(name)->family;
        return family == ControlFamily::key || family == ControlFamily::mouse_button ||
               family == ControlFamily::either_side;
    }
    static void add_control(ButtonSet& chosen, const std::string& name) {
        const Button button = button_named(name);
        if (!is_heard(name))
            throw UsageError{
                fmt::format("--control: found \"{}\"; the source x11 has only keys and mouse buttons", name)};
        if (button.number < first_either_side) return chosen.insert(button);
        chosen.insert(find_button(name + "Left"));
        chosen.insert(find_button(name + "Right"));
    }
#else
    int run() override { throw UsageError{"record: this build has no live source (CURSORUM_X11 was off)"}; }

private:
#endif
    std::string source_, output_, for_;
    std::vector<std::string> controls_;
    ProfileOption files_;
    bool every_key_ = false, overwrite_ = false;
};

}  // namespace

std::unique_ptr<Command> add_record(CLI::App& app) { return std::make_unique<RecordCommand>(app); }

}  // namespace cursorum::tool
