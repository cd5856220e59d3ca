// cursorum explain: why a control's state in a frame is what it is, or an action's.

#include <fmt/format.h>

#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "command_line.hpp"
#include "cursorum/views/explanation.hpp"
#include "cursorum/views/missed_presses.hpp"
#include "cursorum/views/text.hpp"
#include "cursorum/why/action_explanation.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "input_file.hpp"
#include "profile_option.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* explain_footer = R"(Examples:
  cursorum explain demo/quay-shift.jsonl --control KeyW --at 4.62s
  cursorum explain demo/quay-shift.jsonl --control KeyS --frame 918 --rate 60
  cursorum explain demo/two-operators.jsonl --control PadStickLeftX --at 1.5s
  cursorum explain demo/two-operators.jsonl --control PadSouth --device 3 --at 2s --format json
  cursorum explain demo/quay-shift.jsonl --profile demo/quay.toml --action lock --frame 402)";

class ExplainCommand final : public Command {
public:
    explicit ExplainCommand(CommandLine parent) {
        app = parent.add_subcommand("explain", "Explains why a button, an axis or an action has its state in a frame");
        app->add_option("FILE", file_, "The recording; - for standard input")->required();
        add_dump_option(*app, as_);
        const auto control = app->add_option("--control", control_, "The control")->type_name("NAME");
        const auto profile = files_.add_to(*app, "The profile of the action");
        app->add_option("--action", action_, "The action, as NAME or MODE.NAME")
            ->type_name("NAME")
            ->excludes(control)
            ->needs(profile);
        files_.add_modes_to(*app)->needs(profile);
        app->add_option("--device", device_, "The control as the device of this number has it, instead of merged")
            ->type_name("N")
            ->needs(control);
        app->add_option("--format", format_, "text, or json: one object (default text)")
            ->type_name("FORMAT")
            ->one_of({"text", "json"});
        const auto frame = app->add_option("--frame", frame_, "The frame's number, from 0")->type_name("N");
        app->add_option("--at", at_, "The frame that covers this time")->type_name("TIME")->excludes(frame);
        cuts_.add_to(*app);
        app->add_flag("--strict", strict_, "Treat lines of unknown type, and a last line that is cut off, as errors");
        app->footer(explain_footer);
    }

    int run() override {
        WhyQuestion question;
        if (control_.empty() && action_.empty())
            throw UsageError{"explain: which one? Give --control NAME, or --profile FILE and --action NAME"};
        // A trigger is a button as well, whose explanation has its travel.
        const std::optional<Axis> axis = find_button(control_) ? std::nullopt : find_axis(control_);
        if (!control_.empty() && !axis) question.control = button_named(control_);
        if (!frame_.empty()) question.frame = whole_option(frame_, "--frame");
        if (!at_.empty()) question.at = Time{span_option(at_, "--at")};
        if (!question.frame && !question.at) throw UsageError{"explain: which frame? Give --frame N or --at TIME"};
        ReplayOptions options;
        options.rate = cuts_.exact_rate();
        options.repeat = cuts_.repeat();
        options.reader.strict = strict_;
        InputFile input{file_, as_};
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        if (!action_.empty()) return explain_one_action(input, std::move(options), question);
        if (axis) return explain_axis(input, std::move(options), question, *axis);
        if (!device_.empty())
            question.device = DeviceId{static_cast<std::uint32_t>(whole_option(device_, "--device", UINT32_MAX))};
        const WhyFormat format = is_json() ? WhyFormat::json : wants_colour() ? WhyFormat::coloured : WhyFormat::text;
        const WhyAnswer answer = explain(input.stream(), input.name(), options, question, format);
        if (answer.error) throw UsageError{TerminalText::of(answer.error->message())};
        print(answer.text);
        return answer.found ? done : answer_is_no;
    }

private:
    int explain_one_action(InputFile& input, ReplayOptions options, const WhyQuestion& question) const {
        const Profile profile = files_.load();
        const ActionPlace place = action_named(profile, action_);
        ActionReader reader{profile};
        VerdictList verdicts;
        reader.set_verdict_sink(&verdicts);
        ReplayedCalls calls;
        bool has_opened = false;
        options.skip_idle = options.rate.has_value();
        options.may_skip = [&] { return reader.is_at_rest() && calls.empty(); };
        std::vector<MissedPress> missed;
        MissedPresses missing;
        const bool has_own_cuts = !options.rate;
        News before;
        options.on_line = [&](const RecordingLine& line, Outcome outcome) {
            if (files_.modes.empty()) calls.note(line);
            if (!has_own_cuts && line.kind == RecordingLine::Kind::frame) return;
            if (std::string why = missing.why(line, outcome); !why.empty())
                missed.push_back({line.time, line.event.control, std::move(why)});
        };
        if (options.rate) options.keep_frame = question.frame ? *question.frame : options.rate->frame_of(*question.at);
        const std::string rate = cuts_.rate.empty() ? "" : " --rate " + cuts_.rate;
        Replay replay{input.stream(), input.name(), std::move(options)};
        std::uint64_t frames = 0;
        while (const Frame* frame = replay.next()) {
            if (!std::exchange(has_opened, true)) files_.open_modes(reader, profile, !calls.empty());
            verdicts.all.clear();
            calls.read(reader, *frame);
            frames = replay.frame_number() + 1;
            const bool wanted =
                question.frame ? replay.frame_number() == *question.frame : *question.at <= frame->end();
            if (!wanted) {
                note_news(replay, place, *frame, missed, before);
                note_verdicts(place, verdicts.all, reader, before);
                missed.clear();
                continue;
            }
            const std::string command =
                fmt::format("cursorum explain {} --frame {}{}", file_, replay.frame_number(), rate);
            const std::uint64_t number = replay.frame_number();
            const ActionExplanation answer =
                explain_action(reader, profile, place, *frame, verdicts.all,
                               fmt::format("frame {} of {}", number, input.name()), number, missed);
            if (is_json())
                print_data(answer.json());
            else
                print(answer.text(command, wants_colour()));
            note_verdicts(place, verdicts.all, reader, before);
            if (before.clause.empty() && before.button)
                before.clause = waiting_clause(place.name(), before.button, reader);
            if (!is_json() && !before.text.empty())
                print(shown("\n{}\n  {}{}.\n", Paint{wants_colour()}(Paint::bold, "What came before"), before.text,
                            before.clause));
            if (!is_json() && !has_buttons_down(place, *frame)) print_next(replay, place);
            return done;
        }
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        print(shown("{} has no such frame: it has {}.\n", input.name(), frames));
        return answer_is_no;
    }

    /// What each device reported of an axis, what shaping made of it, and when it moved before and after the frame.
    int explain_axis(InputFile& input, ReplayOptions options, const WhyQuestion& question, Axis axis) const {
        if (is_json()) throw UsageError{"--format json: is for buttons and actions; expected text for an axis"};
        if (!device_.empty()) throw UsageError{"--device: is for buttons; of an axis, all devices are listed"};
        Replay replay{input.stream(), input.name(), std::move(options)};
        const Timeline& timeline = replay.timeline();
        const auto moves_of = [&](const Frame& frame) {
            TerminalText text;
            for (std::size_t i = 0; i < timeline.device_count(); ++i) {
                const DeviceStatus device = timeline.device(i);
                frame.on(device.id).for_each_raw_value(axis, [&](Time time, double raw) {
                    text = shown("  {}, frame {}: {:.4g} on device {} \"{}\"\n", time_text(time), replay.frame_number(),
                                 raw, static_cast<std::uint32_t>(device.id), device.name());
                });
            }
            return text;
        };
        TerminalText before;
        while (const Frame* frame = replay.next()) {
            const bool wanted =
                question.frame ? replay.frame_number() == *question.frame : *question.at <= frame->end();
            if (!wanted) {
                if (TerminalText moves = moves_of(*frame); !moves.empty()) before = std::move(moves);
                continue;
            }
            const AxisReading merged = frame->raw_axis(axis);
            TerminalText text = shown("{} in frame {} of {}, after {} up to {}: ", name_of(axis), replay.frame_number(),
                                      input.name(), time_text(frame->start()), time_text(frame->end()));
            text += Paint{wants_colour()}(Paint::bold,
                                          shown("{:.4g}, {:.4g} before, as reported", merged.now, merged.before));
            text += "\n";
            for (std::size_t i = 0; i < timeline.device_count(); ++i)
                text += device_text(*frame, timeline.device(i), axis);
            const auto section = [&](std::string_view title, const TerminalText& what) {
                text += shown("\n{}\n", Paint{wants_colour()}(Paint::bold, title));
                text += what;
            };
            const TerminalText moves = moves_of(*frame);
            section("Its last value in this frame",
                    moves.empty() ? TerminalText{"  None: it stayed where it was.\n"} : moves);
            if (!before.empty()) section("The last one before that", before);
            TerminalText after = shown("  Nothing more of it in this recording.\n");
            while (const Frame* later = replay.next())
                if (TerminalText next = moves_of(*later); !next.empty()) {
                    after = std::move(next);
                    break;
                }
            section("What comes next", after);
            print(text);
            return done;
        }
        if (replay.error()) throw UsageError{TerminalText::of(replay.error()->message())};
        print(shown("{} has no such frame.\n", input.name()));
        return answer_is_no;
    }

    static TerminalText device_text(const Frame& frame, const DeviceStatus& device, Axis axis) {
        const AxisReading its = frame.on(device.id).raw_axis(axis);
        if (its.least == 0 && its.greatest == 0) return {};
        TerminalText text = shown("  device {} \"{}\": reported {:.4g}, {:.4g} before",
                                  static_cast<std::uint32_t>(device.id), device.name(), its.now, its.before);
        if (axis.number < 2 * stick_kinds) {
            const Stick stick{static_cast<std::uint8_t>(axis.number / 2)};
            const Vector2 now = frame.on(device.id).stick(stick).now;
            text += shown("; shaped {:.4g}, with a dead zone of {:.4g} for {}", axis.number % 2 == 0 ? now.x : now.y,
                          device.shaping.sticks[stick.number].response.dead_zone, name_of(stick));
        } else if (is_pull(axis)) {
            text += shown("; shaped {:.4g}, with a dead zone of {:.4g}", frame.on(device.id).trigger(axis).now,
                          device.shaping.pulls[axis.number - 2 * stick_kinds].response.dead_zone);
        }
        return text += ".\n";
    }

    bool is_json() const { return format_ == "json"; }

    /// The last time that one of its controls did something: "Space went down in frame 41, at 0.700 s".
    struct News {
        std::string text;
        std::string clause;  // ", and crane.lock fired"
        Button button{};     // if it was a press whose verdict may follow
        Time time{};
        int weight = 0;  // of the verdict
    };
    static void note_news(const Replay& replay, const ActionPlace& place, const Frame& frame,
                          std::span<const MissedPress> missed, News& news) {
        ButtonSet buttons;
        for (const Binding& binding : place.action->bindings)
            for (const Button button : binding.buttons) buttons = buttons | physical_buttons(button);
        const auto went_down = [&](Button button, Time time) {
            return fmt::format("{} went down in frame {}, at {}", name_of(button), replay.frame_number(),
                               time_text(time));
        };
        for (const Edge& edge : frame.all_edges())
            if (buttons.contains(edge.button) && edge.kind == EdgeKind::press)
                news = {went_down(edge.button, edge.time), "", edge.button, edge.time};
        for (const MissedPress& it : missed)
            if (buttons.contains(it.button)) news = {went_down(it.button, it.time), it.why};
        for_each_axis(place, [&](Axis axis) {
            const AxisReading its = frame.raw_axis(axis);
            if (its.now != its.before)
                news = {fmt::format("{} moved in frame {}, up to {}, from {:.4g} to {:.4g}", name_of(axis),
                                    replay.frame_number(), time_text(frame.end()), its.before, its.now),
                        ""};
        });
    }

    /// What became of the press. A gesture or a buffer is decided in a later frame than that of the press.
    static void note_verdicts(const ActionPlace& place, std::span<const Verdict> verdicts, const ActionReader& reader,
                              News& news) {
        for (const Verdict& verdict : verdicts)
            if (news.button && verdict.time == news.time && physical_buttons(verdict.button).contains(news.button) &&
                weight_of(verdict.rule) > news.weight && named(verdict, reader).action == place.name()) {
                news.weight = weight_of(verdict.rule);
                news.clause = verdict_clause(verdict, reader);
            }
    }

    /// The axes that the action is bound to.
    template <typename Visit>
    static void for_each_axis(const ActionPlace& place, const Visit& visit) {
        for (const Binding& binding : place.action->bindings) {
            if (binding.kind == Binding::Kind::axis) visit(binding.axis);
            if (binding.kind != Binding::Kind::stick) continue;
            visit(binding.stick.x());
            visit(binding.stick.y());
        }
    }

    static void print_next(Replay& replay, const ActionPlace& place) {
        bool has_controls = false;
        for (const Binding& binding : place.action->bindings) has_controls |= !binding.buttons.empty();
        for_each_axis(place, [&](Axis) { has_controls = true; });
        if (!has_controls) return;
        print(shown("\n{}\n", Paint{wants_colour()}(Paint::bold, "What comes next")));
        while (const Frame* frame = replay.next()) {
            bool has_moved = false;
            for_each_axis(place,
                          [&](Axis axis) { has_moved |= frame->raw_axis(axis).now != frame->raw_axis(axis).before; });
            if (has_moved || has_buttons_down(place, *frame))
                return print(shown("  {}, in frame {}, at {}.\n", has_moved ? "One of its axes" : "One of its buttons",
                                   replay.frame_number(), time_text(frame->end())));
        }
        print("  Nothing more of its controls in this recording.\n");
    }

    std::string file_, as_, control_, action_, frame_, at_, device_, format_ = "text";
    ProfileOption files_;
    CutOptions cuts_;
    bool strict_ = false;
};

}  // namespace

std::unique_ptr<Command> add_explain(CommandLine app) { return std::make_unique<ExplainCommand>(app); }

}  // namespace cursorum::tool
