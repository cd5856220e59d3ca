// cursorum watch: live input in a terminal.

#include <fmt/format.h>

#include <fcntl.h>
#include <langinfo.h>
#include <signal.h>
#include <stdlib.h>
#include <unistd.h>

#include <clocale>
#include <cstring>
#include <deque>
#include <ext/stdio_filebuf.h>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "chosen_controls.hpp"
#include "command_line.hpp"
#include "cursorum/recording/recording_writer.hpp"
#include "cursorum/views/missed_presses.hpp"
#include "cursorum/why/action_lanes.hpp"
#include "live_source.hpp"
#include "new_file.hpp"
#include "profile_option.hpp"
#include "recording_merge.hpp"
#include "watch_screen.hpp"

// Last: its macros have common names.
#define NCURSES_NOMACROS
#include <curses.h>

namespace cursorum::tool {
namespace {

volatile sig_atomic_t stop_asked = 0;

/// The terminal, from its first use until it is as it was found.
class Terminal {
public:
    Terminal() {
        std::setlocale(LC_CTYPE, "");
        with_unicode_ = std::string_view{nl_langinfo(CODESET)} == "UTF-8";
        const char* const name = std::getenv("TERM");
        screen_ = newterm(nullptr, stdout, stdin);
        if (!screen_)
            throw UsageError{
                shown("watch: the terminal's type is unknown (TERM is \"{}\"); try TERM=xterm", name ? name : "")};
        set_term(screen_);
        cbreak();
        noecho();
        nonl();
        keypad(stdscr, true);
        nodelay(stdscr, true);
        set_escdelay(50);
        curs_set(0);
        if (has_colors() && std::getenv("NO_COLOR") == nullptr) {
            start_color();
            use_default_colors();
            for (const auto& [pair, colour] : {std::pair<short, short>{1, COLOR_GREEN},
                                               {2, COLOR_CYAN},
                                               {3, COLOR_MAGENTA},
                                               {4, COLOR_YELLOW},
                                               {5, COLOR_RED},
                                               {6, COLOR_BLUE}})
                init_pair(pair, colour, -1);
            has_colour_ = true;
        }
    }
    ~Terminal() {
        endwin();
        delscreen(screen_);
    }
    Terminal(const Terminal&) = delete;
    Terminal& operator=(const Terminal&) = delete;

    bool with_unicode() const { return with_unicode_; }
    void fit(WatchView& view) const { getmaxyx(stdscr, view.rows, view.columns); }

    void draw(const std::vector<ScreenLine>& lines) const {
        erase();
        for (std::size_t y = 0; y < lines.size(); ++y) {
            move(static_cast<int>(y), 0);
            for (const ScreenPart& part : lines[y]) {
                attrset(attributes_of(part.style));
                addnstr(part.text.data(), static_cast<int>(part.text.size()));
            }
        }
        refresh();
    }

private:
    int attributes_of(ScreenStyle style) const {
        const auto colour = [&](short pair, int otherwise) {
            return has_colour_ ? static_cast<int>(COLOR_PAIR(pair)) : otherwise;
        };
        switch (style) {
            case ScreenStyle::plain: return A_NORMAL;
            case ScreenStyle::strong: return A_BOLD;
            case ScreenStyle::faint: return A_DIM;
            case ScreenStyle::heading: return A_BOLD | A_REVERSE;
            case ScreenStyle::hold: return colour(1, A_NORMAL);
            case ScreenStyle::press: return colour(1, A_NORMAL) | A_BOLD;
            case ScreenStyle::release: return colour(2, A_NORMAL);
            case ScreenStyle::tap: return colour(3, A_BOLD) | A_BOLD;
            case ScreenStyle::cancel: return colour(4, A_BOLD) | A_BOLD;
            case ScreenStyle::warning: return colour(5, A_REVERSE) | A_BOLD;
        }
        return A_NORMAL;
    }

    SCREEN* screen_ = nullptr;
    bool with_unicode_ = false, has_colour_ = false;
};

/// Everything that came in, in an unnamed temporary file, to save a part of it. It may have what was typed in it, so
/// nobody else can read it, and it is gone with the program.
class EventLog {
public:
    EventLog(Time begin, Duration kept) : begin_{begin}, kept_{kept} { open(); }
    void take(const Event& event) {
        if (event.type == EventType::text) return;
        writer_->take(event);
        // A fast mouse fills a disk in a day.
        if (++events_ % 65'536 == 0 && stream_.tellp() > limit_) shorten(event.time - kept_);
    }
    /// Writes what lies between, of the chosen controls, and returns the number of events.
    std::uint64_t save(const std::string& path, Time from, Time to, const Chosen& chosen) {
        NewFile file{path, true};
        try {
            RecordingWriter writer{file.stream(), since_begin(from)};
            writer.header("watched");
            ChosenSink sink{writer, chosen};
            read(from, to, sink);
            file.take_place();
            return sink.kept();
        } catch (...) {
            file.give_up();
            throw;
        }
    }

private:
    void open() {
        std::string path = (std::filesystem::temp_directory_path() / "cursorum-XXXXXX").string();
        const int descriptor = mkstemp(path.data());
        if (descriptor < 0) throw UsageError{shown("cannot make a temporary file: {}", std::strerror(errno))};
        path_ = fmt::format("/proc/self/fd/{}", descriptor);
        std::filesystem::remove(path);
        buffer_.emplace(descriptor, std::ios::out | std::ios::binary);
        stream_.rdbuf(&*buffer_);
        writer_.emplace(stream_, begin_);
        writer_->header("watched");
    }
    /// A time before the beginning is the beginning.
    Time since_begin(Time time) const { return std::max(Time{}, Time{} + (time - begin_)); }
    void read(Time from, std::optional<Time> to, ChosenSink& sink) {
        stream_.flush();
        MergeOptions options{.files = {path_}, .from = since_begin(from), .to = {}, .goes_on = {}};
        if (to) options.to = since_begin(*to);
        merge_recordings(options, sink);
    }
    /// Begins anew with what lies after that time, and with what was down then.
    void shorten(Time from) {
        EventLog later{begin_ + (since_begin(from) - Time{}), kept_};
        RecordingWriter writer{later.stream_, since_begin(from)};
        ChosenSink sink{writer, {.buttons = {}, .axes = {}, .everything = true, .text = true}};
        read(from, {}, sink);
        later.stream_.flush();
        limit_ = std::max<std::streamoff>(limit_, 2 * later.stream_.tellp());
        begin_ = later.begin_;
        path_ = later.path_;
        buffer_ = std::move(later.buffer_);
        stream_.rdbuf(&*buffer_);
        writer_.emplace(stream_, begin_);
    }

    Time begin_;
    Duration kept_;
    std::string path_;
    std::optional<__gnu_cxx::stdio_filebuf<char>> buffer_;
    std::ostream stream_{nullptr};
    std::optional<RecordingWriter> writer_;
    std::uint64_t events_ = 0;
    std::streamoff limit_ = std::streamoff{1} << 28;
};

constexpr const char* watch_footer =
    R"(Lanes run from right to left, a column for each tenth of a second:
  ▲ press  ━ held  • own repeat  ▽ release  ◆ tapped within a frame  ◇ up within a frame  ✕ cancelled  ○ found down
  △ a press that had no effect  ░ no input: without focus, unplugged, or a pause
Red marks a press that comparing levels would lose. The number behind a name is how often it was pressed; axes and
actions that are axes show their value. With --profile, modes and claims have lanes, and what is down names the mode that
took it. Of several gamepads, the two that moved last are shown.

Keys: ? shows help; q or Ctrl-C quits; space pauses and goes on; left and right scroll through time, up and down through lanes, Home to
the present; + and - zoom; / filters lanes by name; s saves what the screen shows as a recording: the time and the lanes
that are on it, which may include what somebody typed. With evdev, keys that you press elsewhere are shown as well.

Examples:
  cursorum watch --source x11
  cursorum watch --source evdev --profile demo/quay.toml
  cursorum watch --source replay:demo/two-operators.jsonl --profile demo/quay.toml --rate 144)";

class WatchCommand final : public Command, private EventSink {
public:
    explicit WatchCommand(CommandLine parent) {
        app = parent.add_subcommand("watch", "Shows live input in the terminal: lanes, actions, events, counters");
        app->add_option("--source", source_name_, source_help)->type_name("SOURCE")->required();
        const CommandOption profile = files_.add_to(*app, "Show the actions of this profile (TOML), too");
        files_.add_modes_to(*app)->needs(profile);
        app->add_option("--rate", rate_, "Frames per second, 1 to 1000 (default 60)")
            ->type_name("N")
            ->within(1.0, 1000.0);
        app->add_option("--keep", keep_, "How much time can be scrolled back to (default 10min)")->type_name("TIME");
        app->add_option("--for", for_, "Stop after this time (default: on q or Ctrl-C)")->type_name("TIME");
        app->add_option("-o,--output", output_, "Where `s` saves to (default watch-1.jsonl, watch-2.jsonl …)")
            ->type_name("FILE");
        app->footer(watch_footer);
    }

    int run() override {
        const Duration keep = keep_.empty() ? Duration{600'000'000'000} : span_option(keep_, "--keep");
        const Duration length = for_.empty() ? Duration::max() : span_option(for_, "--for");
        if (keep.count() <= 0 || length.count() <= 0) throw UsageError{"--keep and --for must be more than 0"};
        if (isatty(STDIN_FILENO) == 0 || isatty(STDOUT_FILENO) == 0)
            throw UsageError{
                "watch: shows live input on a terminal; for a pipe or a file, use `cursorum record` and `cursorum "
                "frames`"};
        if (!files_.profile.empty()) {
            profile_ = files_.load();
            reader_.emplace(profile_);
            files_.open_modes(*reader_, profile_, false);
            reader_->set_verdict_sink(&action_lanes_.emplace(lanes_, *reader_, profile_));
        }
        const auto source = open_live_source(source_name_);
        const std::string warnings = (source->problems() + source->not_read(LiveSource::Which::of_people)).string();
        begin_ = Clock::now();
        log_.emplace(begin_, keep);
        // It lives longer than the terminal, whose end must not be hidden by a message.
        TerminalText problem;
        {
            Terminal terminal;
            catch_signals();
            view_.with_unicode = terminal.with_unicode();
            if (!warnings.empty()) {
                const auto more = std::count(warnings.begin(), warnings.end(), '\n') - 1;
                say(warnings.substr(0, warnings.find('\n')) +
                    (more > 0 ? fmt::format(" (and {} more: cursorum devices --source {})", more, source_name_) : ""));
            }
            watch(*source, terminal, keep, length);
            problem = source->error();
        }
        if (!problem.empty()) throw UsageError{problem};
        return done;
    }

private:
    static void catch_signals() {
        struct sigaction stop = {};
        stop.sa_handler = [](int) { stop_asked = 1; };
        for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGPIPE, SIGQUIT}) sigaction(signal, &stop, nullptr);
    }

    void watch(LiveSource& source, Terminal& terminal, Duration keep, Duration length) {
        Sampler sampler{timeline_, {.start = begin_}};
        const Duration frame{static_cast<std::int64_t>(1e9 / rate_)};
        constexpr Duration between_draws{33'000'000};
        Time next = begin_ + frame, drawn{}, counted = begin_;
        std::uint64_t number = 0, frames_before = 0, events_before = 0;
        WatchedInput input{timeline_, sampler,      lanes_, reader_ ? &*reader_ : nullptr,
                           &profile_, source_name_, begin_, begin_};
        while (stop_asked == 0 && !wants_to_quit_) {
            const Time complete = source.deliver(*this);
            // A terminal that stood still for a while is not worth thousands of frames.
            if (complete - next > Duration{250'000'000}) next = complete;
            for (; next <= complete; next += frame) {
                const Frame& it = sampler.advance(next);
                lanes_.note(it, number++);
                if (!reader_) continue;
                reader_->read(it);
                action_lanes_->note();
            }
            const Time now = Clock::now();
            if (now - counted >= Duration{1'000'000'000}) {
                input.frames_per_second = static_cast<double>(number - frames_before) / seconds(now - counted);
                input.events_per_second = static_cast<double>(events_ - events_before) / seconds(now - counted);
                frames_before = number;
                events_before = events_;
                counted = now;
                lanes_.forget_before(complete - keep);
            }
            if (now - begin_ >= length) break;
            handle_keys(input);
            if (now - drawn >= between_draws) {
                drawn = now;
                input.now = lanes_.frames().empty() ? complete : lanes_.end();
                input.events = last_events_;
                input.is_open = source.is_open();
                if (!view_.message.empty() && now >= message_until_) view_.message.clear();
                terminal.fit(view_);
                terminal.draw(watch_screen(input, view_));
            }
            const Duration rest = std::min(next - Clock::now(), Duration{15'000'000});
            if (rest.count() <= 0) continue;
            if (source.is_open())
                source.wait(rest);
            else
                usleep(static_cast<useconds_t>(rest.count() / 1000));
        }
    }

    void take(const Event& event) override {
        Event ours = event;
        const Outcome outcome = timeline_.desk().post(ours);
        RecordingLine line;
        line.kind = RecordingLine::Kind::event;
        line.time = event.time;
        line.event = event;
        lanes_.note_line(line, outcome);
        log_->take(event);
        ++events_;
        if (event.type == EventType::motion || event.type == EventType::axis) return;  // they would push out all others
        // A held key would push out all others as well: its repeats are one line.
        const bool repeats = outcome == Outcome::system_repeat && event.control == repeated_;
        repeat_count_ = repeats ? repeat_count_ + 1 : 1;
        repeated_ = outcome == Outcome::system_repeat ? event.control : Button{};
        if (repeats) last_events_.pop_back();
        const bool had_no_effect = !missed_text(outcome).empty() || outcome == Outcome::stray_release;
        const bool is_of_source = event.type == EventType::focus || event.type == EventType::connect ||
                                  event.type == EventType::disconnect || event.type == EventType::interrupt;
        last_events_.push_back({had_no_effect  ? ScreenStyle::warning
                                : is_of_source ? ScreenStyle::strong
                                               : ScreenStyle::plain,
                                text_of(event, outcome)});
        if (last_events_.size() > 200) last_events_.pop_front();
    }

    std::string text_of(const Event& event, Outcome outcome) const {
        std::string text = fmt::format("{:10.4f} s  ", seconds(event.time - begin_));
        if (event.device != DeviceId{}) text += shown("device {} ", static_cast<std::uint32_t>(event.device));
        switch (event.type) {
            case EventType::button:
                if (outcome == Outcome::system_repeat)
                    return text + fmt::format("{}: {} by the system, which {}", name_of(event.control),
                                              plural_text(repeat_count_, "repeat"),
                                              repeat_count_ == 1 ? "is not a press" : "are not presses");
                text += shown("{} {}", name_of(event.control), event.down ? "down" : "up");
                break;
            case EventType::connect:
                text += shown("\"{}\" connects", event.info.name);
                if (outcome == Outcome::connected) return text;
                break;
            case EventType::focus: return text + std::string{describe(outcome)};
            case EventType::wheel: text += shown("wheel {:+g}, {:+g}", event.dx, event.dy); break;
            case EventType::text: text += "text"; break;  // what was typed is nobody's business
            default: text += name_of(event.type); break;
        }
        if (outcome == Outcome::taken) return text;  // nothing more is known about it
        return text + fmt::format(": {}", describe(outcome));
    }

    void say(std::string text) {
        view_.message = std::move(text);
        message_until_ = Clock::now() + Duration{4'000'000'000};
    }

    void handle_keys(const WatchedInput& input) {
        for (int key = getch(); key != ERR; key = getch()) view_.is_typing ? type(key) : command(key, input);
    }

    void type(int key) {
        if (key == '\r' || key == '\n' || key == KEY_ENTER) {
            view_.is_typing = false;
        } else if (key == 27) {
            view_.is_typing = false;
            view_.filter.clear();
        } else if (key == KEY_BACKSPACE || key == 127 || key == 8) {
            if (!view_.filter.empty()) view_.filter.pop_back();
        } else if (key >= 32 && key < 127) {
            view_.filter += static_cast<char>(key);
        }
        view_.first_lane = 0;
    }

    void command(int key, const WatchedInput& input) {
        const Time now = lanes_.end();
        const auto scroll = [&](double share) {
            const Duration by{static_cast<std::int64_t>(static_cast<double>(shown_time(view_).count()) * share)};
            view_.end =
                std::clamp(view_.end.value_or(now) + by, std::min(lanes_.start() + shown_time(view_), now), now);
        };
        const int lanes = static_cast<int>(filtered_lanes(lanes_, view_.filter).size());
        const int last = std::max(0, lanes - lane_rows(input, view_));
        switch (key) {
            case 'q': wants_to_quit_ = true; break;
            case ' ': view_.end = view_.end ? std::nullopt : std::optional{now}; break;
            case KEY_LEFT: scroll(-0.25); break;
            case KEY_RIGHT: scroll(0.25); break;
            case KEY_HOME: view_.end.reset(); break;
            case KEY_UP: view_.first_lane = std::max(0, std::min(view_.first_lane, last) - 1); break;
            case KEY_DOWN: view_.first_lane = std::min(last, view_.first_lane + 1); break;
            case '+':
            case '=': view_.per_column = std::max(view_.per_column / 2, Duration{1'000'000}); break;
            case '-': view_.per_column = std::min(view_.per_column * 2, Duration{10'000'000'000}); break;
            case '/': view_.is_typing = true; break;
            case '?':
            case 'h': view_.with_help = !view_.with_help; break;
            case 's': save(); break;
            default: break;  // KEY_RESIZE, too: the next drawing fits
        }
    }

    void save() {
        std::string path = output_;
        for (int i = 1; output_.empty() && (path.empty() || std::filesystem::exists(path)); ++i)
            path = fmt::format("watch-{}.jsonl", i);
        Chosen chosen;
        chosen.everything = view_.filter.empty();
        for (const std::size_t lane : filtered_lanes(lanes_, view_.filter)) {
            const Lane& it = lanes_.lanes()[lane];
            if (it.kind == Lane::Kind::pointer) chosen.pointer = true;
            if (it.kind == Lane::Kind::button) chosen.buttons.insert(it.button);
            if (it.kind == Lane::Kind::axis) chosen.axes.set(it.axis, 0);
        }
        if (chosen.empty()) return say("The lanes on the screen are of no control: nothing was saved");
        const Time to = view_.end.value_or(lanes_.end());
        try {
            const std::uint64_t kept = log_->save(path, to - shown_time(view_), to, chosen);
            say(fmt::format("Saved {} in {}{}", plural_text(kept, "event"), path,
                            chosen.everything ? ", every key included" : ""));
        } catch (const UsageError& error) {
            say(error.what());
        }
    }

    std::string source_name_, keep_, for_, output_;
    double rate_ = 60;
    ProfileOption files_;
    Profile profile_;
    std::optional<ActionReader> reader_;
    Timeline timeline_{{.devices = 64, .history = 65536, .desk_devices = false}};
    LaneHistory lanes_{timeline_};
    std::optional<ActionLanes> action_lanes_;
    std::optional<EventLog> log_;
    std::deque<ScreenPart> last_events_;
    std::uint64_t events_ = 0, repeat_count_ = 0;
    Button repeated_{};
    Time begin_, message_until_;
    WatchView view_;
    bool wants_to_quit_ = false;
};

}  // namespace

std::unique_ptr<Command> add_watch(CommandLine app) { return std::make_unique<WatchCommand>(app); }

}  // namespace cursorum::tool
