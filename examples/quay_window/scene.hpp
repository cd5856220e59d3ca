// Draws the game: the quay, the bay plan, the jobs, the label, the menu, and the lanes of what was pressed.
#pragma once

#include <cairo/cairo.h>

#include <string>
#include <vector>

#include "cursorum/core/frame.hpp"
#include "cursorum/views/picture.hpp"
#include "game.hpp"

/// A picture in the panel, which has a size of 420 x 200.
struct PanelPart {
    double x = 0, y = 0;
    cursorum::Picture picture;
};

/// What is drawn over the game.
struct Overlay {
    std::vector<PanelPart> panel;
    std::string answer;  // to "why?"
};

/// The keyboard and the pads with what is down now; what locks the boxes has a ring while the spreader stands.
std::vector<PanelPart> controls_of(const Game& game, const cursorum::Frame& frame);

void draw(cairo_t* to, const Game& game, const Overlay& overlay);
