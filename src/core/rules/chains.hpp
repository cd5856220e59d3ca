// A button's edges in order, from a chain that is linked from the last to the first: short chains are turned around on
// the stack, and long ones are looked for from the front.
#pragma once

#include <array>
#include <cstdint>

namespace cursorum {

/// Calls `visit(place)` for each place of the chain, from the first to the last. `last` is the last one;
/// `before(place)` is the one before, and `is_end(place)` is true behind the first. The few that a chain usually has
/// are reversed on the stack; of a longer one, `visit_all()` must visit all places, in order.
template <typename Place, typename Before, typename IsEnd, typename Visit, typename VisitAll>
void for_each_in_order(Place last, Before&& before, IsEnd&& is_end, Visit&& visit, VisitAll&& visit_all) {
    std::array<Place, 32> places;
    unsigned count = 0;
    for (; !is_end(last) && count < places.size(); last = before(last)) places[count++] = last;
    if (!is_end(last)) return visit_all();
    while (count > 0) visit(places[--count]);
}

}  // namespace cursorum
