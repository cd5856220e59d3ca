// A sampler stays where it is; the compiler shows what to hold several in.
#include <cursorum/cursorum.hpp>
#include <deque>
#include <vector>

void seats(cursorum::Timeline& timeline) {
    std::deque<cursorum::Sampler> samplers;
#ifdef MISTAKE
    std::vector<cursorum::Sampler> moved;
    moved.emplace_back(timeline);
#endif
    samplers.emplace_back(timeline);
}
