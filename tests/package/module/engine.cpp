// An engine that loads a game module: engine MODULE. Exits with 0 if the module saw the three presses.
#include <dlfcn.h>

#include <cstdio>

int main(int argc, char** argv) {
    void* const module = argc > 1 ? dlopen(argv[1], RTLD_NOW | RTLD_LOCAL) : nullptr;
    if (!module) {
        std::printf("%s\n", argc > 1 ? dlerror() : "engine: which module?");
        return 2;
    }
    const auto count_presses = reinterpret_cast<int (*)()>(dlsym(module, "count_presses"));
    const int presses = count_presses ? count_presses() : -1;
    if (presses != 3) std::printf("the module saw %d presses of three\n", presses);
    return presses == 3 ? 0 : 1;
}
