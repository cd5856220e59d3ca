// The demo alone, as `./run.sh demo` builds it first: without the tool's other commands it compiles in a quarter of the
// time.

#include <cstdio>
#include <cstring>
#include <string>

#include "demo.hpp"
#include "output.hpp"

int main(int argc, char** argv) {
    using namespace cursorum::tool;
    const bool has_rate = argc == 3 && std::strcmp(argv[1], "--rate") == 0;
    try {
        if (argc != 1 && !has_rate) {
            const bool asks = argc == 2 && std::strcmp(argv[1], "--help") == 0;
            const char* usage =
                "./run.sh demo [--rate N]: N frames per second (default 60), such as ./run.sh demo --rate 24";
            if (!asks) throw UsageError{cursorum::shown("demo: found \"{}\"; expected {}", argv[1], usage)};
            print(cursorum::shown("{}\n", usage));
            return done;
        }
        show_demo(has_rate ? argv[2] : "60", "./run.sh tool");
        finish_output();
        return done;
    } catch (const UsageError& error) {
        std::fflush(stdout);
        complain(error.text);
        return bad_use;
    }
}
