// In place of watch_command.cpp where ncurses is not there.

#include "command_line.hpp"

namespace cursorum::tool {
namespace {

class NoWatch final : public Command {
public:
    explicit NoWatch(CommandLine parent) {
        app = parent.add_subcommand("watch", "Shows live input in the terminal: lanes, actions, events, counters");
        app->allow_extras();  // --source and the like: run() says why it cannot
    }
    int run() override {
        throw UsageError{
            "watch: this build has no screen; install libncurses-dev and build with -DCURSORUM_WATCH=ON, as "
            "`./run.sh setup` does"};
    }
};

}  // namespace

std::unique_ptr<Command> add_watch(CommandLine app) { return std::make_unique<NoWatch>(app); }

}  // namespace cursorum::tool
