// cursorum demo: the whole job on the shipped recording.

#include <errno.h>

#include <string>

#include "command_line.hpp"
#include "demo.hpp"

namespace cursorum::tool {
namespace {

class DemoCommand final : public Command {
public:
    explicit DemoCommand(CommandLine parent) {
        app = parent.add_subcommand(
            "demo", "Plays the shipped recording, forty seconds at a quay, and shows what Cursorum makes of it");
        app->add_option("--rate", rate_, "Frames per second of the first three parts (default 60)")->type_name("N");
        app->footer("Examples:\n  cursorum demo\n  cursorum demo --rate 24");
    }
    int run() override {
        show_demo(rate_, shell_word(program_invocation_name));
        return done;
    }

private:
    std::string rate_ = "60";
};

}  // namespace

std::unique_ptr<Command> add_demo(CommandLine app) { return std::make_unique<DemoCommand>(app); }

}  // namespace cursorum::tool
