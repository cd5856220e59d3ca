// Draws the game: the quay, the bay plan, the jobs, the label, the menu, and the lanes of what was pressed.
#pragma once

#include <cairo/cairo.h>

#include <string>

#include "cursorum/views/picture.hpp"
#include "game.hpp"

/// What is drawn over the game.
struct Overlay {
    cursorum::Picture lanes;  // empty: none
    std::string answer;       // to "why?"
};

void draw(cairo_t* to, const Game& game, const Overlay& overlay);
