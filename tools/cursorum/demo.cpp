#include "demo.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <string>
#include <vector>

#include "cursorum/core/event.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/text.hpp"
#include "output.hpp"
#include "trolley.hpp"

namespace cursorum::tool {
namespace {

std::string demo_file() {
    std::error_code error;
    const std::filesystem::path self = std::filesystem::read_symlink("/proc/self/exe", error);
    const std::array<std::filesystem::path, 3> places{
        self.parent_path().parent_path() / "share" / "cursorum" / "demo" / "quay-shift.jsonl", CURSORUM_INSTALLED_DEMO,
        CURSORUM_SOURCE_DEMO};
    for (const auto& place : places)
        if (std::filesystem::exists(place, error)) return place.string();
    throw UsageError{shown("the demo recording is not installed; expected it at {}", places[0].string())};
}

/// As somebody in this folder would type it.
std::string short_path(const std::string& path) {
    std::error_code error;
    const std::string near = std::filesystem::proximate(path, error).string();
    return error || near.empty() || near.starts_with("..") ? path : near;
}

/// What one button did over the whole recording, and what others would have made of it.
struct Tally {
    std::uint64_t presses = 0, releases = 0, adopts = 0, cancels = 0, repeats = 0, system_repeats = 0;
    std::uint64_t lost_presses = 0;   // a comparison of levels sees none of them
    std::uint64_t false_presses = 0;  // it sees one that nobody made
    std::uint64_t false_releases = 0;
};

struct NameOrder {
    bool operator()(Button a, Button b) const { return name_rank(a) < name_rank(b); }
};

class Demo {
public:
    explicit Demo(std::string rate) : rate_{std::move(rate)} {}

    void show(const std::string& program) {
        const ExactRate rate = rate_option(rate_);
        const std::string file = demo_file();
        std::ifstream in{file, std::ios::binary};
        ReplayOptions options;
        options.rate = rate;
        options.on_line = [this](const RecordingLine& line, Outcome outcome) {
            if (line.kind != RecordingLine::Kind::event) return;
            events_.push_back(line.event);
            events_.back().info.name = {};  // texts last only until the next line
            events_.back().text = {};
            if (line.event.type == EventType::focus) marks_ += line.event.focused ? " [focus gained]" : " [focus lost]";
            if (line.event.type == EventType::interrupt) marks_ += " [interruption]";
            if (line.event.type == EventType::connect || line.event.type == EventType::disconnect)
                marks_ += fmt::format(" [device {} {}ed]", static_cast<std::uint32_t>(line.event.device),
                                      name_of(line.event.type));
            if (outcome == Outcome::stray_release || outcome == Outcome::stray_device)
                marks_ += fmt::format(" [stray: {} up]", name_of(line.event.control));
            if (outcome == Outcome::ignored) ++ignored_here_;
        };
        Replay replay{in, file, std::move(options)};
        tell_frames(replay);
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        tell_levels();
        tell_repeats();
        tell_trolley();
        heading("Try next");
        const std::string word = shell_word(short_path(file));
        print(shown("   {} explain {} --control KeyW --at 4.62s\n", program, word));
        print(shown("   {} draw {} -o shift.html\n", program, word));
    }

private:
    void heading(std::string_view text) const { print("\n" + paint_(Paint::bold, text) + "\n"); }

    void tell_frames(Replay& replay) {
        bool told_title = false;
        std::uint64_t frames = 0, quiet = 0;
        while (const Frame* frame = replay.next()) {
            if (!told_title) {
                print(paint_(Paint::bold, replay.reader().title()) + "\n");
                print(TerminalText::Literal(
                    "An operator travels the crane (KeyA KeyD), runs the trolley (KeyW KeyS), hoists "
                    "(KeyR KeyF),\nlocks boxes (Space), sounds the horn (KeyH), chooses jobs "
                    "(ArrowDown ArrowUp Enter).\n"));
                heading(fmt::format("1. Frame by frame, {} per second, where something happens", rate_));
                print(paint_(Paint::dim,
                             TerminalText{"   (× gives counts above one; holds that only continue are left out, and "
                                          "their repeats are counted where they end)\n"}));
                told_title = true;
            }
            ++frames;
            quiet += !tell_frame(*frame, replay.frame_number());
        }
        if (told_title) print(shown("   {} frames; in {} of them nothing new.\n", frames, quiet));
    }

    bool tell_frame(const Frame& frame, std::uint64_t number) {
        TerminalText cells;
        frame.active().for_each([&](Button button) {
            if (!can_be_posted(button)) return;
            const ButtonFigures f = frame[button].figures();
            count(button, f);
            cells += cell(button, f);
        });
        if (ignored_here_ != 0) marks_ += fmt::format(" [{} ignored without focus]", ignored_here_);
        if (cells.empty() && marks_.empty()) return false;
        print(shown("{:>7}  {:>8.3f} s {}{}\n", number, seconds(frame.end().time_since_epoch()), cells,
                    paint_(Paint::magenta, marks_)));
        marks_.clear();
        ignored_here_ = 0;
        return true;
    }

    TerminalText cell(Button button, const ButtonFigures& f) {
        std::uint64_t& repeats = repeats_of_hold_[button];
        repeats += f.repeat_count();
        if (f.press_count() + f.release_count() + f.adopt_count() + f.cancel_count() == 0) return {};
        const std::string_view style = f.state() == ButtonState::blip || f.state() == ButtonState::dip ? Paint::yellow
                                       : f.cancel_count() + f.adopt_count() != 0                       ? Paint::red
                                       : f.down()                                                      ? Paint::green
                                                                                                       : Paint::cyan;
        std::string what{name_of(f.state())};
        if (f.press_count() > 1) what += fmt::format("×{}", f.press_count());
        if (f.state() == ButtonState::release && f.cancel_count() != 0) what += " (also cancelled)";
        if (f.state() == ButtonState::hold && f.adopt_count() != 0) what += " (adopt)";
        if (f.cancel_count() != 0 && f.press_count() != 0) what += " (cancel, press)";
        TerminalText text = shown(" {} {}", name_of(button), paint_(style, what));
        if (f.released()) text += shown(" after {:.0f} ms", seconds(f.released_after()) * 1e3);
        if (f.ended() && repeats != 0) text += shown(", {} repeat{}", repeats, repeats == 1 ? "" : "s");
        if (f.ended()) repeats = 0;
        return text + " ";
    }

    void count(Button button, const ButtonFigures& f) {
        Tally& tally = tallies_[button];
        tally.presses += f.press_count();
        tally.releases += f.release_count();
        tally.adopts += f.adopt_count();
        tally.cancels += f.cancel_count();
        tally.repeats += f.repeat_count();
        tally.system_repeats += f.system_repeat_count();
        const bool level_press = !f.was_down() && f.down(), level_release = f.was_down() && !f.down();
        tally.lost_presses += f.press_count() - (level_press && f.pressed());
        tally.false_presses += level_press && !f.pressed();
        tally.false_releases += level_release && !f.released();
    }

    void tell_levels() {
        heading(fmt::format("2. What comparing levels {} times per second would have missed, or made up", rate_));
        print(paint_(Paint::dim, shown("   {:<12} {:>8} {:>8} {:>16} {:>18}\n", "control", "presses", "missed",
                                       "made-up presses", "made-up releases")));
        Tally sum, others;
        const auto line = [](std::string_view name, const Tally& t) {
            print(shown("   {:<12} {:>8} {:>8} {:>16} {:>18}\n", name, t.presses, t.lost_presses, t.false_presses,
                        t.false_releases));
        };
        for (const auto& [button, t] : tallies_) {
            sum.presses += t.presses, sum.lost_presses += t.lost_presses;
            sum.false_presses += t.false_presses, sum.false_releases += t.false_releases;
            if (t.lost_presses + t.false_presses + t.false_releases != 0)
                line(name_of(button), t);
            else
                others.presses += t.presses;
        }
        if (others.presses != 0) line("the others", others);
        line("all", sum);
        print(shown("   So {} of {} presses would be lost, and {} would be made up.\n", sum.lost_presses, sum.presses,
                    plural_text(sum.false_presses, "press")));
    }

    void tell_repeats() {
        heading("3. What the system's repeat would have fired, were each key-down taken for a press");
        print(paint_(Paint::dim, shown("   {:<12} {:>8} {:>16} {:>14} {:>20}\n", "control", "presses", "system repeats",
                                       "would fire", "our own repeats")));
        Tally sum;
        for (const auto& [button, t] : tallies_) {
            if (t.system_repeats == 0) continue;
            sum.presses += t.presses;
            sum.system_repeats += t.system_repeats;
            print(shown("   {:<12} {:>8} {:>16} {:>14} {:>20}\n", name_of(button), t.presses, t.system_repeats,
                        t.presses + t.system_repeats, t.repeats));
        }
        print(shown("   So {} would have fired {} times.\n", plural_text(sum.presses, "press"),
                    sum.presses + sum.system_repeats));
    }

    void tell_trolley() {
        heading("4. How far the trolley got (KeyW out, KeyS in, 1.2 m/s)");
        print(paint_(Paint::dim, shown("   {:<22} {:>7} {:>22} {:>25} {:>10}\n", "frames", "number",
                                       "time down in frame", "level × frame's length", "off by")));
        const Time end = events_.empty() ? Time{} : events_.back().time;
        for (const std::uint64_t rate : {24U, 60U, 144U})
            tell_way(fmt::format("{} per second", rate), run_trolley(events_, even_cuts(rate, end)));
        tell_way("uneven, 3 to 70 ms", run_trolley(events_, uneven_cuts(end)));
    }

    void tell_way(const std::string& frames, const TrolleyWay& way) {
        print(shown("   {:<22} {:>7} {:>20.6f} m {:>23.6f} m {:>+7.1f} cm\n", frames, way.frames, way.exact, way.level,
                    (way.level - way.exact) * 100));
    }

    std::string rate_;
    const Paint paint_{wants_colour()};
    std::vector<Event> events_;
    std::string marks_;  // what else happened since the last frame told
    std::uint64_t ignored_here_ = 0;
    std::map<Button, Tally, NameOrder> tallies_;
    std::map<Button, std::uint64_t, NameOrder> repeats_of_hold_;
};

}  // namespace

void show_demo(const std::string& rate, const std::string& program) { Demo{rate}.show(program); }

}  // namespace cursorum::tool
