// cursorum explain: why a control's state in a frame is what it is.

#include <fmt/format.h>

#include <string>

#include "command_line.hpp"
#include "cursorum/views/explanation.hpp"
#include "input_file.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* footer = R"(Examples:
  cursorum explain demo/quay-shift.jsonl --control KeyW --at 4.62s
  cursorum explain demo/quay-shift.jsonl --control KeyS --frame 918 --rate 60)";

class ExplainCommand final : public Command {
public:
    explicit ExplainCommand(CLI::App& parent) {
        app =
            parent.add_subcommand("explain", "Why a control's state in a frame is what it is: events, rules, figures");
        app->add_option("FILE", file_, "The recording; - for standard input")->required();
        app->add_option("--control", control_, "The control")->type_name("NAME")->required();
        auto* frame = app->add_option("--frame", frame_, "The frame's number, from 0")->type_name("N");
        app->add_option("--at", at_, "The frame that covers this time")->type_name("TIME")->excludes(frame);
        cuts_.add_to(*app);
        app->add_flag("--strict", strict_, "Lines of unknown type and a cut-off last line are errors");
        app->footer(footer);
    }

    int run() override {
        WhyQuestion question;
        question.control = button_named(control_);
        if (!frame_.empty()) question.frame = whole_option(frame_, "--frame");
        if (!at_.empty()) question.at = Time{span_option(at_, "--at")};
        if (!question.frame && !question.at) throw UsageError{"explain: which frame? Give --frame N or --at TIME"};
        ReplayOptions options;
        options.rate = cuts_.exact_rate();
        options.repeat = cuts_.repeat();
        options.reader.strict = strict_;
        InputFile input{file_};
        if (!options.rate && !input.has_own_cuts()) options.rate = ExactRate{};
        const WhyAnswer answer = explain(input.stream(), input.name(), options, question, wants_colour());
        if (answer.error) throw UsageError{answer.error->message()};
        print(answer.text);
        return answer.found ? done : answer_is_no;
    }

private:
    std::string file_, control_, frame_, at_;
    CutOptions cuts_;
    bool strict_ = false;
};

}  // namespace

std::unique_ptr<Command> add_explain(CLI::App& app) { return std::make_unique<ExplainCommand>(app); }

}  // namespace cursorum::tool
