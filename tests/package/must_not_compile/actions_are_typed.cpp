// A stick is not asked whether it was pressed.
#include "cursorum/actions/action_reader.hpp"

bool ask(const cursorum::ActionReader& actions, cursorum::ButtonAction lock, cursorum::VectorAction travel) {
    const bool moves = actions[travel].value.x != 0;
#ifdef MISTAKE
    return moves && actions[travel].pressed();
#else
    return moves && actions[lock].pressed();
#endif
}
