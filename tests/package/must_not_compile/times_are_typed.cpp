// Times and spans do not mix, nor do bare numbers with either.
#include <cursorum/cursorum.hpp>

void advance(cursorum::Sampler& sampler, cursorum::Time time, cursorum::Duration span) {
    sampler.advance(time + span);
#ifdef MISTAKE
    sampler.advance(16);
#endif
}
